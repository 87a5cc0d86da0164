// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/base/working.h"
#include "core/base/working_units.h"
#include "core/hydraulics/section.h"

namespace culvert {

/// Adds the full area and hydraulic radius of a section: by the formulas of a circle or a box, else as measured along
/// its outline (hydraulics/section_table.h).
void add_full_section(Working& steps, const WorkingUnits& units, const Section& section);
/// Adds the wetted area and perimeter at a depth.
void add_wetted_section(Working& steps, const WorkingUnits& units, const Section& section, const Term& depth, double y);

}  // namespace culvert
