// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/results.h"
#include "core/network/ways.h"

/// What runs by each way of a network in an event: one summary for pipes, street paths and ways out of storage.
namespace culvert {

struct WayFlow {
    double flow = 0;            ///< largest, m3/s; below 0 where the water of a ring runs against the way
    double volume = not_given;  ///< m3 in the whole event, where it is known
};
WayFlow flow_of(const EventResult& result, const Way& way);
/// What comes over the street to the inlet of a node from one place, at its largest.
struct FromAbove {
    int from = no_node;
    double flow = 0;     ///< m3/s
    bool spill = false;  ///< out of a pond; else what an inlet let pass
};
std::vector<FromAbove> over_street_to(const EventResult& result, int node);
/// What the pond at a node spills along its street path to the inlet of another one, at its largest, m3/s.
double spilled(const EventResult& result, int from, int to);

}  // namespace culvert
