// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/results.h"
#include "core/base/working.h"

namespace culvert {

/// The working behind the loss at a structure and the level it leads to: by K, or by the energy method for access
/// holes.
/// @param link  the way on; no_link: the structure takes the level of the tailwater
Working explain_loss(const Project& project, const EventResult& result, int node, int link);

}  // namespace culvert
