// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "report/calc.h"

namespace culvert {

/// Questions of storage without an element: orifice, weir, runoff of a storm, peak of a unit hydrograph, volume needed.
std::vector<Calc> storage_calcs();

}  // namespace culvert
