// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/solver.h"

#include <ctime>
#include <span>

#include "core/analysis/block.h"
#include "core/analysis/flow_update.h"
#include "core/analysis/hydrograph.h"
#include "core/analysis/parallel.h"
#include "core/analysis/street_flow.h"
#include "core/base/contract.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

bool same_settings(const Network& a, const Network& b) {
    return a.hold_flow == b.hold_flow && a.full_travel_velocity == b.full_travel_velocity &&
           a.least_time == b.least_time && a.uplift == b.uplift && a.partial_area == b.partial_area;
}
/// Everything that the water on the streets depends on is the same, in one event.
bool same_streets(const Network& a, const Network& b) {
    if (a.inlets != b.inlets || a.edition != b.edition || a.limited != b.limited || a.gutter_time != b.gutter_time)
        return false;
    for (const StreetInlet& in : a.inlets)
        if (!same_source(a, b, in.node)) return false;
    return true;
}
/// Everything that a component's flows depend on beside the streets is the same.
bool same_hydrology(const Network& a, const Network& b, const Component& part) {
    for (int i = part.node_begin; i < part.node_end; ++i)
        if (!same_source(a, b, i)) return false;
    for (int l = part.link_begin; l < part.link_end; ++l)
        if (!same_way(a, b, l)) return false;
    return true;
}
void copy_part(const EventResult& from, EventResult& to, const Component& part) {
    std::copy(from.nodes.begin() + part.node_begin, from.nodes.begin() + part.node_end,
              to.nodes.begin() + part.node_begin);
    std::copy(from.links.begin() + part.link_begin, from.links.begin() + part.link_end,
              to.links.begin() + part.link_begin);
}

/// A component with rings, through time: the largest flows of its tree are given to the balance as flows that enter,
/// each structure's share what it has more than comes by its main ways.
/// @param still_one  a network of such flows; made at first use
std::size_t divide_largest(const Network& network, std::optional<Network>& still_one, const Component& part,
                           Summaries& out, const std::stop_token& stop) {
    if (!still_one) {
        still_one = network;
        still_one->through_time = nullptr;
        still_one->inlets.clear();
        still_one->covers.clear();
        for (Node& n : still_one->nodes) n.cover_begin = n.cover_end = 0, n.local_time = 0, n.inlet = no_inlet;
    }
    Network& still = *still_one;
    for (int i = part.node_begin; i < part.node_end; ++i) {
        double arrives = 0;
        for (int l = nth(network.nodes, i).first_in; l != no_link; l = nth(network.links, l).next_in)
            arrives += nth(out.links, l).flow.flow;
        nth(still.nodes, i).known_flow = std::max(0.0, nth(out.nodes, i).flow.flow - arrives);
    }
    std::vector<NodeFlow> through;
    for (int i = part.node_begin; i < part.node_end; ++i) through.push_back(nth(out.nodes, i).flow);
    std::vector<StreetEntry> entries;
    entries.swap(out.entries);
    const std::size_t computed = solve_block(still, part, {}, out, stop);
    entries.swap(out.entries);
    for (int i = part.node_begin; i < part.node_end; ++i) {
        NodeFlow& f = nth(out.nodes, i).flow;
        const NodeFlow& t = through[static_cast<std::size_t>(i - part.node_begin)];
        f.volume = t.volume;
        f.peak_time = t.peak_time;
        f.time = f.intensity = not_given;
    }
    return computed;
}

}  // namespace

std::shared_ptr<const EventResult> Solver::solve_event(const std::shared_ptr<const Network>& network,
                                                       const EventRain& rain, std::uint64_t revision,
                                                       const std::vector<Same>& same, bool streets,
                                                       const std::stop_token& stop) const {
    auto result = std::make_shared<EventResult>();
    static_cast<Summaries&>(*result) = Summaries(*network);
    set_tails(*network, rain.id, *result);
    result->event = rain.id;
    result->date = std::time(nullptr);
    result->network = network;
    result->revision = revision;
    const auto kept = kept_.find(rain.id);
    const EventResult* before = !same.empty() && kept != kept_.end() ? kept->second.result.get() : nullptr;
    const bool same_rain = before && kept->second.rain == rain;
    const bool like = same_rain && same_settings(*before->network, *network);
    const bool through_time = network->through_time != nullptr;
    if (through_time) {
        result->source = ResultSource::ThroughTime;
        FlowUpdate update{before, {}};
        result->series = solve_through_time(*network, rain, *result, {{}, true, false}, stop, &update);
        result->flows = std::move(update.left);
        stand_in_ponds(*network, *result);
    } else if (same_rain && streets) {
        result->streets = before->streets;
        result->entries = before->entries;
    } else solve_streets(*network, rain, *result);
    const auto same_entries = [&](const Component& part) {
        return before->entries.size() == result->entries.size() &&
               (result->entries.empty() ||
                std::equal(result->entries.begin() + part.node_begin, result->entries.begin() + part.node_end,
                           before->entries.begin() + part.node_begin));
    };
    std::optional<Network> still;
    for (std::size_t c = 0; c < network->components.size(); ++c) {
        const Component& part = network->components[c];
        if (through_time) {
            if (part.further) result->recomputed += divide_largest(*network, still, part, *result, stop);
            else result->recomputed += solve_levels(*network, part, *result, before);
            continue;
        }
        const bool flows = same_rain && same[c].flows && same_entries(part);
        if (flows) {
            copy_part(*before, *result, part);
            rate_tails(*network, part, *result);
        }
        if (flows && same[c].levels)
            for (const Unbalanced& u : before->unbalanced)
                if (u.link >= part.link_begin && u.link < part.link_end) result->unbalanced.push_back(u);
        if (flows && same[c].levels) continue;  // nothing of it was touched
        if (part.further) {
            result->recomputed += solve_block(*network, part, rain, *result, stop);
            continue;
        }
        // Of one shape and with the same rain and settings: only what was touched, and downstream of it.
        if (!flows && like) update_flows(*network, part, rain, *before->network, *before, *result);
        else if (!flows) solve_flows(*network, part, rain, *result);
        result->recomputed += solve_levels(*network, part, *result, before);
    }
    return result;
}

Results Solver::solve(const Project& project, std::uint64_t revision, EventId first, const std::stop_token& stop,
                      const Publish& publish) {
    std::optional<Network> patched = network_ ? recompile(project_, *network_, project) : std::nullopt;
    auto network = std::make_shared<const Network>(patched ? *std::move(patched) : compile(project));
    std::vector<Same> same;  // per component; empty where the network has another shape
    bool streets = false;
    if (network_ && same_topology(*network_, *network)) {
        const bool settings = same_settings(*network_, *network);
        streets = settings && same_streets(*network_, *network);
        for (const Component& part : network->components) {
            Same s;
            s.flows = settings && same_hydrology(*network_, *network, part);
            s.levels = s.flows && same_levels(*network_, *network, part);
            same.push_back(s);
        }
    }
    std::vector<EventRain> rains;
    for (const RainEvent* e : events_in_order(project)) rains.push_back(rain_of(*e));
    Results results(rains.size());
    std::size_t lead = rains.size();
    for (std::size_t i = 0; i < rains.size(); ++i)
        if (rains[i].id == first && first) lead = i;
    if (stop.stop_requested()) return {};
    if (lead < rains.size()) {
        results[lead] = solve_event(network, rains[lead], revision, same, streets, stop);
        if (publish && !stop.stop_requested()) publish(results[lead]);
    }
    in_parallel(rains.size(), [&](std::size_t i) {
        if (i != lead && !stop.stop_requested())
            results[i] = solve_event(network, rains[i], revision, same, streets, stop);
    });
    if (stop.stop_requested()) return {};
    if (publish)
        for (std::size_t i = 0; i < rains.size(); ++i)
            if (i != lead) publish(results[i]);
    project_ = project;
    network_ = network;
    kept_.clear();
    for (std::size_t i = 0; i < rains.size(); ++i) kept_[rains[i].id] = {std::move(rains[i]), results[i]};
    return results;
}

Solver Solver::warm(const Project& project, const Results& results) {
    Solver s;
    s.project_ = project;
    for (const auto& r : results) {
        const RainEvent* e = r ? project.events.find(r->event.value) : nullptr;
        if (!e || (s.network_ && s.network_ != r->network)) continue;
        s.network_ = r->network;
        s.kept_[r->event] = {rain_of(*e), r};
    }
    return s;
}

std::size_t solve_all(const Network& network, const EventRain& rain, Summaries& out, const std::stop_token& stop) {
    std::size_t computed = 0;
    set_tails(network, rain.id, out);
    if (network.through_time) {
        solve_through_time(network, rain, out, {}, stop);
        stand_in_ponds(network, out);
    } else solve_streets(network, rain, out);
    std::optional<Network> still;
    for (const Component& part : network.components) {
        if (part.further) {
            computed += network.through_time ? divide_largest(network, still, part, out, stop)
                                             : solve_block(network, part, rain, out, stop);
            continue;
        }
        if (!network.through_time) solve_flows(network, part, rain, out);
        computed += solve_levels(network, part, out);
    }
    return computed;
}

EventResult solve_one(const std::shared_ptr<const Network>& network, const EventRain& rain) {
    EventResult result;
    static_cast<Summaries&>(result) = Summaries(*network);
    result.event = rain.id;
    result.network = network;
    if (network->through_time) result.source = ResultSource::ThroughTime;
    result.recomputed = solve_all(*network, rain, result);
    return result;
}

Results solve(const Project& project) { return Solver().solve(project, 0); }

}  // namespace culvert
