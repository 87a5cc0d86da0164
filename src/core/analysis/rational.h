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
    std::vector<double> depths;  ///< of a storm given by its depth, in equal steps, m; empty: intensities
    double depth_step = 0;       ///< s
    std::vector<double> durations, intensities;  ///< of the table, for storms made of it
    friend bool operator==(const EventRain&, const EventRain&) = default;
};
/// An event whose table or frequency factor is at fault has an empty curve: only known flows run.
EventRain rain_of(const RainEvent& event);
/// min(1, C Cf) A of one land cover, m2.
double effective(const NetworkCover& cover, const EventRain& rain);

/// With `partial_area`, the flow is the largest over the times of what arrives, each with the areas that answer by
/// then:
///
///     Q = max over t_j of  i(t_j) sum(C Cf A of those with t <= t_j) + sum(known flows)
///
/// Fills the flow part of a tree's nodes and links. Allocates nothing.
void solve_flows(const Network& network, const Component& component, const EventRain& rain, Summaries& out);
/// The same for all components that are trees.
void solve_flows(const Network& network, const EventRain& rain, Summaries& out);

/// What leaves a node, once all that arrives stands in its flow: effective area, known flow, the longest time, and in
/// `flow` the largest flow of a single pipe. Adds the node's own covers, known flow and local time.
/// Where water comes from the street, that stands in their place or beside them.
void gather(const Network& network, int node, const EventRain& rain, Summaries& out);
/// Normal depth, velocity and travel time of a link with its flow.
void run_through(const Network& network, const Link& link, LinkFlow& flow);

}  // namespace culvert
