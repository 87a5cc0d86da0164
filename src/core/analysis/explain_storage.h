// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/results.h"
#include "core/base/working.h"

namespace culvert {

/// The working behind a largest flow through time: rain, losses and hydrograph of what drains to the structure, what
/// arrives, and of a pond what its ways let out at its highest level.
Working explain_through_time(const Project& project, const EventResult& result, int node, int link);
/// Of its catchments alone: rain, losses and hydrograph.
Working explain_runoff(const Project& project, const EventResult& result, int node);
/// A pond's largest outflow way by way: its rating at its highest level, and the volumes of the event. Empty where
/// there is no pond.
Working explain_pond(const Project& project, const EventResult& result, int node);

}  // namespace culvert
