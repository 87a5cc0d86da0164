// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/results.h"

/// A structure with the pipe that leads on from it, as tests of trees look at them.
namespace culvert::testing {

struct SeenFlow : NodeFlow {
    double normal = 0, velocity = 0, travel = 0;
};
struct SeenLevel : NodeLevel, LinkLevel {};
struct Seen {
    SeenFlow flow;
    SeenLevel level;
};
inline Seen seen(const EventResult& r, int node) {
    Seen s;
    const auto at = static_cast<std::size_t>(node);
    static_cast<NodeFlow&>(s.flow) = r.nodes[at].flow;
    static_cast<NodeLevel&>(s.level) = r.nodes[at].level;
    const int out = r.network->nodes[at].out;
    if (out == no_link) return s;
    const LinkResult& l = r.links[static_cast<std::size_t>(out)];
    s.flow.normal = l.flow.normal;
    s.flow.velocity = l.flow.velocity;
    s.flow.travel = l.flow.travel;
    static_cast<LinkLevel&>(s.level) = l.level;
    return s;
}
inline Seen seen(const EventResult& r, StructureId id) { return seen(r, r.network->node_of(id)); }
/// The pipe that leads on from a node; a blank one at an outfall.
inline Link pipe_of(const Network& net, int node) {
    const int out = net.nodes[static_cast<std::size_t>(node)].out;
    return out == no_link ? Link{} : net.links[static_cast<std::size_t>(out)];
}

}  // namespace culvert::testing
