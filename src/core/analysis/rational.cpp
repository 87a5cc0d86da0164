// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/contract.h"
#include "core/analysis/rational.h"

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

void solve_flows(const Network& network, const EventRain& rain, std::vector<NodeResult>& nodes) {
    for (NodeResult& r : nodes) r.flow = {};
    // `flow` and `plain_flow` gather what arrives until a node is reached: nodes upstream have lower numbers.
    for (std::size_t i = 0; i < nodes.size(); ++i) {
        const Node& n = network.nodes[i];
        FlowResult& f = nodes[i].flow;
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
        if (n.down == no_node) continue;
        FlowResult& d = nth(nodes, n.down).flow;
        if (n.solvable) {
            f.normal = normal_depth(n.section, n.roughness, n.slope, f.flow);
            f.velocity = design_velocity(n.section, f.flow, f.normal);
            double travel_velocity = f.velocity;
            if (network.full_travel_velocity && n.capacity > 0)
                travel_velocity = full_capacity(n.section, n.roughness, n.slope) / full_area(n.section);
            f.travel = travel_velocity > 0 ? n.length / travel_velocity : 0;
        } else {
            f.normal = not_given;
        }
        d.effective_area += f.effective_area;
        d.known_flow += f.known_flow;
        // A branch that brings no rain sets no time.
        if (f.effective_area > 0) d.time = std::max(d.time, f.time + f.travel);
        d.flow = std::max(d.flow, f.flow);
    }
}

}  // namespace culvert
