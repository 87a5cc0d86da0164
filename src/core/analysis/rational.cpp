// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/rational.h"
#include "core/base/contract.h"

#include <cmath>

#include "core/hydraulics/uniform_flow.h"

namespace culvert {

EventRain rain_of(const RainEvent& event) {
    EventRain rain{{event.id}, {}, usable(event, &RainEvent::frequency_factor, not_given)};
    if (!std::isnan(rain.frequency_factor) && idf_fault(event.durations, event.intensities).empty())
        rain.curve = IdfCurve(event.durations, event.intensities);
    if (std::isnan(rain.frequency_factor)) rain.frequency_factor = 1;
    return rain;
}

void gather(const Network& network, const Node& n, const EventRain& rain, NodeFlow& f) {
    const double largest_inflow = f.flow;
    for (int c = n.cover_begin; c < n.cover_end; ++c) {
        const NetworkCover& cover = nth(network.covers, c);
        f.effective_area += std::min(1.0, cover.coefficient * rain.frequency_factor) * cover.area;
    }
    f.known_flow += n.known_flow;
    f.time = std::max(f.time, n.local_time);
    if (f.time <= 0) f.time = network.least_time;
    f.intensity = rain.curve.empty() ? 0 : rain.curve.intensity(f.time) * network.uplift;
    f.plain_flow = f.effective_area * f.intensity + f.known_flow;
    f.flow = network.hold_flow ? std::max(f.plain_flow, largest_inflow) : f.plain_flow;
}

void run_through(const Network& network, const Link& l, LinkFlow& f) {
    if (!l.solvable) {
        f.normal = not_given;
        return;
    }
    f.normal = normal_depth(l.section, l.roughness, f.against ? -l.slope : l.slope, f.flow);
    f.velocity = design_velocity(l.section, f.flow, f.normal);
    double travel_velocity = f.velocity;
    if (network.full_travel_velocity && l.capacity > 0)
        travel_velocity = full_capacity(l.section, l.roughness, l.slope) / full_area(l.section);
    f.travel = travel_velocity > 0 ? l.length / travel_velocity : 0;
}

void solve_flows(const Network& network, const Component& part, const EventRain& rain, Summaries& out) {
    for (int i = part.node_begin; i < part.node_end; ++i) nth(out.nodes, i).flow = {};
    // `flow` gathers the largest that arrives until a node is reached: nodes upstream have lower numbers.
    for (int i = part.node_begin; i < part.node_end; ++i) {
        const Node& n = nth(network.nodes, i);
        NodeFlow& f = nth(out.nodes, i).flow;
        gather(network, n, rain, f);
        if (n.out == no_link) continue;
        LinkFlow& l = nth(out.links, n.out).flow;
        l = {f.effective_area, f.known_flow, f.flow, 0, 0, 0, false};
        run_through(network, nth(network.links, n.out), l);
        NodeFlow& d = nth(out.nodes, n.down).flow;
        d.effective_area += l.effective_area;
        d.known_flow += l.known_flow;
        // A branch that brings no rain sets no time.
        if (l.effective_area > 0) d.time = std::max(d.time, f.time + l.travel);
        d.flow = std::max(d.flow, l.flow);
    }
}

void solve_flows(const Network& network, const EventRain& rain, Summaries& out) {
    for (const Component& part : network.components)
        if (part.further == 0) solve_flows(network, part, rain, out);
}

}  // namespace culvert
