// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/rational.h"
#include "core/base/contract.h"

#include <cmath>

#include "core/hydraulics/uniform_flow.h"
#include "core/model/event_rain.h"

namespace culvert {

EventRain rain_of(const RainEvent& event) {
    EventRain rain;
    rain.id = {event.id};
    rain.frequency_factor = usable(event, &RainEvent::frequency_factor, not_given);
    if (!std::isnan(rain.frequency_factor)) {
        const EventRainTable table = rain_table_of(event);
        if (!table.durations.empty()) rain.curve = IdfCurve(table.durations, table.intensities);
        if (event.given == RainGiven::Intensities) {
            rain.durations = table.durations;
            rain.intensities = table.intensities;
        } else {
            EventStorm storm = storm_of(event);
            rain.depths = std::move(storm.depths);
            rain.depth_step = storm.step;
        }
    }
    if (std::isnan(rain.frequency_factor)) rain.frequency_factor = 1;
    return rain;
}

double effective(const NetworkCover& cover, const EventRain& rain) {
    return std::min(1.0, cover.coefficient * rain.frequency_factor) * cover.area;
}

namespace {

/// Adds what a node brings itself to what arrived: its catchments and known flow, or what its inlet took; and what came
/// over the street. Cover by cover, in the order that keeps the sums the same bits with and without streets.
/// @return  the longest time of it
double add_own(const Network& network, int i, const EventRain& rain, const Summaries& out, NodeFlow& f) {
    const Node& n = nth(network.nodes, i);
    const StreetEntry* e = out.entries.empty() ? nullptr : &nth(out.entries, i);
    double time = 0;
    if (!e || !e->inlet) {
        for (int c = n.cover_begin; c < n.cover_end; ++c) {
            const NetworkCover& cover = nth(network.covers, c);
            f.effective_area += effective(cover, rain);
        }
        f.known_flow += n.known_flow;
        time = n.local_time;
    }
    if (e) {
        f.effective_area += e->area;
        f.known_flow += e->known_flow;
        if (e->area > 0) time = std::max(time, e->time);
    }
    return time;
}

/// The largest flow of a part that answers sooner than all.
void seek_partial(const Network& network, int i, const EventRain& rain, const Summaries& out, NodeFlow& f) {
    if (rain.curve.empty()) return;
    const Node& n = nth(network.nodes, i);
    const auto for_parts = [&](auto&& use) {
        if (const StreetEntry* e = out.entries.empty() ? nullptr : &nth(out.entries, i); e && e->area > 0)
            use(e->time, e->area);
        if (out.entries.empty() || !nth(out.entries, i).inlet)
            for (int c = n.cover_begin; c < n.cover_end; ++c) {
                const NetworkCover& cover = nth(network.covers, c);
                if (cover.coefficient > 0) use(cover.time, effective(cover, rain));
            }
        for (int l = n.first_in; l != no_link; l = nth(network.links, l).next_in) {
            const LinkFlow& in = nth(out.links, l).flow;
            if (in.effective_area > 0)
                use(nth(out.nodes, nth(network.links, l).from).flow.time + in.travel, in.effective_area);
        }
    };
    for_parts([&](double t, double) {
        double area = 0;
        for_parts([&](double other, double a) {
            if (other <= t) area += a;
        });
        const double time = std::max(t, 1e-9), q = area * rain.curve.intensity(time) * network.uplift + f.known_flow;
        if (q > std::max(f.partial_flow, f.plain_flow * (1 + 1e-12))) {
            f.partial_flow = q;
            f.partial_time = time;
        }
    });
}

}  // namespace

void gather(const Network& network, int i, const EventRain& rain, Summaries& out) {
    NodeFlow& f = nth(out.nodes, i).flow;
    const double largest_inflow = f.flow;
    f.time = std::max(f.time, add_own(network, i, rain, out, f));
    if (f.time <= 0) f.time = network.least_time;
    f.intensity = rain.curve.empty() ? 0 : rain.curve.intensity(f.time) * network.uplift;
    f.plain_flow = f.effective_area * f.intensity + f.known_flow;
    if (network.partial_area) seek_partial(network, i, rain, out, f);
    const double flow = std::max(f.plain_flow, f.partial_flow);
    f.flow = network.hold_flow ? std::max(flow, largest_inflow) : flow;
}

void run_through(const Network& network, const Link& l, LinkFlow& f) {
    if (!l.solvable) {
        f.normal = not_given;
        return;
    }
    const double one = f.flow / l.barrels;
    f.normal = normal_depth(l.section, l.roughness, f.against ? -l.slope : l.slope, one);
    f.velocity = design_velocity(l.section, one, f.normal);
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
        gather(network, i, rain, out);
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
