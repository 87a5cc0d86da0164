// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/hydrology/idf.h"

/// Rain through time, made from intensities by duration.
namespace culvert {

/// Nested alternating blocks: a storm of n equal steps whose heaviest k steps, for every k, hold together the depth
/// that the curve gives for a duration of k steps. Exactly so where each further step adds no more depth than the one
/// before; where a table bends the other way (a corner between two of its durations) they hold a little more, never
/// less.
///
///     P(k) = i(k dt) k dt,   blocks P(k) - P(k-1) by size, the largest in the middle, the next ones after and before
///     it
///
/// @param step    dt, s, > 0
/// @param blocks  n, >= 1
/// @return        depth of each block, m; their sum is i(n dt) n dt. Where the curve's depth would fall with duration
///                (a fault of the table) a block is 0 rather than negative, and the sum is larger than that.
/// @source        Chow, Maidment, Mays: Applied Hydrology (1988), sec. 14.4
std::vector<double> alternating_blocks(const IdfCurve& curve, double step, int blocks);

}  // namespace culvert
