// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/results.h"
#include "core/base/working.h"
#include "core/base/working_units.h"

namespace culvert {

/// Adds the intensity that a rain table gives for a time, with the two durations it lies between.
void add_intensity(Working& steps, const WorkingUnits& units, const Project& project, const EventResult& result,
                   double time, double intensity);

}  // namespace culvert
