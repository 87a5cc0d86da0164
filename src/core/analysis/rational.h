// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/results.h"
#include "core/hydrology/idf.h"

/// System rational method over the network, from the heads down.
///
///     Q = i(Tc) sum(C Cf A) + sum(known flows)
///
/// Tc at a structure is the longest of the local times of its catchments (each at least the project's least time) and,
/// for each pipe that enters, its Tc plus its travel time. Where only known flows come, Tc is the least time. With
/// `hold_flow`, a pipe carries at least the largest flow of a single pipe that enters.
///
/// @source  FHWA HEC-22, 3rd ed. (2009), sec. 3.2.2 and 7.2
namespace culvert {

/// What an event brings: prepared once, used for every node.
struct EventRain {
    EventId id;
    IdfCurve curve;
    double frequency_factor = 1;
    friend bool operator==(const EventRain&, const EventRain&) = default;
};
/// An event whose table or frequency factor is at fault has an empty curve: only known flows run.
EventRain rain_of(const RainEvent& event);

/// Fills the flow part of `nodes`, which has as many entries as the network. Allocates nothing per node.
void solve_flows(const Network& network, const EventRain& rain, std::vector<NodeResult>& nodes);

}  // namespace culvert
