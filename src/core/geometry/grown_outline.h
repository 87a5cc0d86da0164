// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/geometry/line.h"

namespace culvert {

/// An outline pushed outwards by a distance, its corners kept: as the water of a basin with even side slopes rises. As
/// long as none of its edges vanishes its area is A + P d + d^2 sum tan(turn / 2). Turned either way round; an outline
/// of fewer than three points, or a distance of 0 or less, gives it back as it is.
std::vector<Point> grown_outline(const std::vector<Point>& outline, double distance);

}  // namespace culvert
