// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/design/design.h"

/// Remedies of faults of the data, where one Edit mends them.
///
/// A pond in a project of the rational method is not routed: that method knows a largest flow, no hydrograph. The
/// modified rational method computes with the same C, Tc and rain table, and gives each catchment its rational peak,
/// C i(Tc) A; flows are summed through time then, and what lies below a pond gets what the pond lets go.
///
/// @source  the methods' own definitions; docs/methods/storage.md
namespace culvert {

/// Whether one is known for such a fault.
bool has_remedy(const Fault& fault);
/// Tried: after each the fault is gone. Empty where none is known.
std::vector<Remedy> fault_remedies(const Project& project, const Fault& fault);

}  // namespace culvert
