// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <vector>

#include "core/analysis/results.h"

/// What a computation through time leaves for the next one, so that an edit computes what it touched, and downstream of
/// there.
///
/// A node is touched where it brings something else (catchments, known flow, inlet), where a pipe that leads to it is
/// another one, or where a node above it is touched. Nodes that hang on levels below ponds, each on all others, are
/// touched together, and by levels too. The rest keeps its summaries; what it gives to a touched node is a series, kept
/// here for some of the nodes: the network is cut into parts of about `nodes_of_part`, and what leaves each part is
/// kept; so is what flowed into the nodes that the last edit touched, and the next one there computes only those. A
/// series that is not kept is computed again from the next ones above it.
///
/// Everything is computed again where the shape of the network, the storm, the step or the number of steps changed. The
/// answer is always that of a computation from nothing, bit for bit.
namespace culvert {

/// What leaves a node.
struct KeptFlow {
    int node = -1;
    double before = 0;  ///< runs before the storm, m3/s
    std::shared_ptr<const std::vector<double>> values;
};

struct FlowMemory {
    std::vector<double> depths;  ///< of the storm in steps, m
    double frequency_factor = 1;
    std::size_t steps = 0;
    std::vector<WaterBalance> water;   ///< by node: its part of the balance
    std::vector<KeptFlow> flows;       ///< by node
    std::vector<NodeFlow> node_flows;  ///< as they run through time; empty where no rings divide them afterwards
    std::vector<LinkFlow> link_flows;  ///< as above
    std::size_t computed = 0;          ///< nodes computed in the run that left this
    [[nodiscard]] const KeptFlow* of(int node) const;
};

/// What a run computes of each node.
struct FlowPlan {
    enum class Part : char {
        Known,    ///< nothing: it is as it was, and nobody needs its series
        Given,    ///< nothing: its series is kept
        Computed  ///< all of it
    };
    std::vector<Part> nodes;
    std::vector<char> streets;            ///< per inlet: what it takes and lets pass is computed
    std::vector<char> kept;               ///< per node: what leaves it is kept for the next run
    const EventResult* before = nullptr;  ///< none: everything is computed
};

/// Nodes whose flows hang on levels below ponds: those ponds that lead to another node, and all their water runs to, by
/// pipes and over streets.
std::vector<char> hang_on_levels(const Network& network);

/// @param now     the storm and the steps of this run
/// @param hang    of hang_on_levels
/// @param before  the same event over an earlier state; null: none
FlowPlan plan_flows(const Network& network, const FlowMemory& now, const std::vector<char>& hang,
                    const EventResult* before);

/// What must be computed for the series of some nodes, of a network that was solved as it stands.
/// @return  `before` null where it must be computed from nothing
FlowPlan plan_series(const Network& network, const FlowMemory& now, const std::vector<char>& hang,
                     const EventResult& known, const std::vector<int>& nodes);

}  // namespace culvert
