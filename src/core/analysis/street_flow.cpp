// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/street_flow.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"

namespace culvert {
namespace {

double intensity_at(const Network& network, const EventRain& rain, double time) {
    return rain.curve.empty() ? 0 : rain.curve.intensity(time) * network.uplift;
}

/// What an inlet in a sag lets pass over its crest: it takes what enters with the water at the crest.
double taken_in_sag(const StreetInlet& in, double flow, const StreetConstants& k, StreetFlow& f) {
    f.depth = sag_depth(in.form, in.gutter.section, flow, k);
    double taken = flow;
    if (in.end != PathEnd::Nowhere && f.depth > in.crest) {
        taken = std::min(flow, sag_capacity(in.form, in.gutter.section, in.crest, k));
        f.depth = in.crest;
    }
    f.spread = spread_of_depth(in.gutter.section, f.depth);
    f.velocity = 0;
    return taken;
}

}  // namespace

double taken_by(const StreetInlet& in, double flow, const StreetConstants& k, StreetFlow& f) {
    if (in.sag) return taken_in_sag(in, flow, k, f);
    const Capture c = on_grade(in.form, in.gutter, flow, k);
    f.depth = c.approach.depth;
    f.spread = c.approach.spread;
    f.velocity = c.approach.velocity;
    f.over_crown = c.approach.over_crown;
    return c.captured;
}

void solve_streets(const Network& network, const EventRain& rain, Summaries& out) {
    if (network.inlets.empty()) return;
    const StreetConstants k = street_constants(network.edition);
    for (StreetEntry& e : out.entries) e = {};
    for (std::size_t i = 0; i < network.inlets.size(); ++i) {
        const StreetInlet& in = network.inlets[i];
        const Node& n = nth(network.nodes, in.node);
        StreetFlow& f = nth(out.streets, i);
        StreetEntry& e = nth(out.entries, in.node);
        f = {};
        double own = 0;
        for (int c = n.cover_begin; c < n.cover_end; ++c) own += effective(nth(network.covers, c), rain);
        const double arrived_area = e.area, arrived_known = e.known_flow, arrived_time = e.time;
        f.own_area = own;
        f.own_known = n.known_flow;
        f.effective_area = own + arrived_area;
        f.known_flow = n.known_flow + arrived_known;
        f.time = std::max(n.local_time, arrived_area > 0 ? arrived_time : 0);
        if (f.time <= 0) f.time = network.least_time;
        f.intensity = intensity_at(network, rain, f.time);
        f.flow = f.effective_area * f.intensity + f.known_flow;
        if (network.partial_area && !rain.curve.empty()) {
            const auto for_parts = [&](auto&& use) {
                for (int c = n.cover_begin; c < n.cover_end; ++c)
                    if (const NetworkCover& cover = nth(network.covers, c); cover.coefficient > 0)
                        use(cover.time, effective(cover, rain));
                if (arrived_area > 0) use(arrived_time, arrived_area);
            };
            for_parts([&](double t, double) {
                double area = 0;
                for_parts([&](double other, double a) {
                    if (other <= t) area += a;
                });
                const double q = area * intensity_at(network, rain, t) + f.known_flow;
                if (q > f.flow * (1 + 1e-12)) {
                    f.flow = q;
                    f.partial_time = t;
                }
            });
        }
        const double taken = f.flow > 0 ? taken_by(in, f.flow, k, f) : f.flow;
        f.efficiency = f.flow > 0 ? taken / f.flow : 1;
        f.captured = taken;
        f.bypass = f.flow - taken;
        const double passed_area = f.effective_area * (1 - f.efficiency),
                     passed_known = f.known_flow * (1 - f.efficiency);
        e = {};
        e.inlet = true;
        e.time = f.time;
        const bool stays = in.end == PathEnd::Nowhere;
        e.area = stays ? f.effective_area : f.effective_area - passed_area;
        e.known_flow = stays ? f.known_flow : f.known_flow - passed_known;
        if (!network.limited) {  // all that falls here enters here; the street is watched all the same
            e.area = own;
            e.known_flow = n.known_flow;
            e.time = std::max(n.local_time, network.least_time);
        }
        if (in.end == PathEnd::Structure && f.bypass > 0) {
            double travel = 0;
            if (network.gutter_time && in.gutter.grade > 0) {
                const GutterFlow past = gutter_flow(in.gutter, f.bypass, k);
                if (past.velocity > 0) travel = in.path_length / past.velocity;
            }
            StreetEntry& next = nth(out.entries, in.to);
            f.travel = travel;
            next.area += passed_area;
            next.known_flow += passed_known;
            if (passed_area > 0) next.time = std::max(next.time, f.time + travel);
        }
    }
    if (!network.limited)  // what passed is counted at its own inlet already
        for (StreetEntry& e : out.entries)
            if (!e.inlet) e = {};
}

StreetBalance street_balance(const Network& network, const Summaries& result) {
    StreetBalance b;
    for (std::size_t i = 0; i < network.inlets.size(); ++i) {
        const StreetInlet& in = network.inlets[i];
        const StreetFlow& f = nth(result.streets, i);
        b.area_in += f.own_area;
        b.known_in += f.own_known;
        const double area = f.effective_area * (1 - f.efficiency), known = f.known_flow * (1 - f.efficiency);
        if (in.end == PathEnd::Nowhere) {
            b.area_taken += f.effective_area;
            b.known_taken += f.known_flow;
            continue;
        }
        b.area_taken += f.effective_area - area;
        b.known_taken += f.known_flow - known;
        if (in.end == PathEnd::OffSite) {
            b.area_left += area;
            b.known_left += known;
        } else if (nth(network.nodes, in.to).inlet == no_inlet) {
            b.area_passed += area;
            b.known_passed += known;
        }
    }
    return b;
}

}  // namespace culvert
