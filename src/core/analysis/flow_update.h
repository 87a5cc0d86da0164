// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/rational.h"

/// Flows of a tree after an edit: only where it changed something, and downstream of there as far as that is felt.
namespace culvert {

/// Equal, with two numbers that are not given equal.
inline bool same_number(double p, double q) { return p == q || (p != p && q != q); }
/// The same structures and pipes in the same order.
bool same_topology(const Network& a, const Network& b);
/// Everything that a component's levels depend on beside its flows is the same.
bool same_levels(const Network& a, const Network& b, const Component& part);
/// What a node brings itself is the same in two networks of one shape: known flow, catchments and their times.
bool same_source(const Network& a, const Network& b, int node);
/// What a link's flow depends on beside what enters it is the same.
bool same_way(const Network& a, const Network& b, int link);

/// Fills the flow part of a tree, bit for bit as solve_flows does: a node keeps its flow from `before` where it brings
/// the same, its way is the same, and nothing that arrives differs.
///
/// @param old     the network that `before` is of, of the same shape and settings
/// @param before  results of the same rain
/// @return        nodes that were computed
std::size_t update_flows(const Network& network, const Component& component, const EventRain& rain, const Network& old,
                         const Summaries& before, Summaries& out);

}  // namespace culvert
