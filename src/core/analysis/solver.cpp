// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/solver.h"

#include <tbb/parallel_for.h>

namespace culvert {
namespace {

/// The same structures and pipes in the same order.
bool same_topology(const Network& a, const Network& b) {
    return a.nodes.size() == b.nodes.size() &&
           std::equal(a.nodes.begin(), a.nodes.end(), b.nodes.begin(), [](const Node& x, const Node& y) {
               return x.structure == y.structure && x.pipe == y.pipe && x.down == y.down;
           });
}
/// Everything that flows depend on is the same.
bool same_hydrology(const Network& a, const Network& b) {
    return a.covers == b.covers && a.hold_flow == b.hold_flow && a.full_travel_velocity == b.full_travel_velocity &&
           a.least_time == b.least_time && a.uplift == b.uplift &&
           std::equal(a.nodes.begin(), a.nodes.end(), b.nodes.begin(), [](const Node& x, const Node& y) {
               return x.known_flow == y.known_flow && x.local_time == y.local_time && x.cover_begin == y.cover_begin &&
                      x.cover_end == y.cover_end && x.solvable == y.solvable && x.section == y.section &&
                      x.roughness == y.roughness && x.length == y.length &&
                      (x.slope == y.slope || (x.slope != x.slope && y.slope != y.slope)) &&
                      (x.capacity > 0) == (y.capacity > 0);
           });
}

}  // namespace

std::shared_ptr<const EventResult> Solver::solve_event(const std::shared_ptr<const Network>& network,
                                                       const EventRain& rain, std::uint64_t revision, bool same_shape,
                                                       bool same_flows) const {
    auto result = std::make_shared<EventResult>();
    result->event = rain.id;
    result->network = network;
    result->revision = revision;
    const auto kept = kept_.find(rain.id);
    const EventResult* before = same_shape && kept != kept_.end() ? kept->second.result.get() : nullptr;
    if (before && same_flows && kept->second.rain == rain) {
        result->nodes = before->nodes;
    } else {
        result->nodes.resize(network->nodes.size());
        solve_flows(*network, rain, result->nodes);
    }
    result->recomputed = solve_levels(*network, result->nodes, before);
    return result;
}

Results Solver::solve(const Project& project, std::uint64_t revision, EventId first, const std::stop_token& stop,
                      const Publish& publish) {
    auto network = std::make_shared<const Network>(compile(project));
    const bool same_shape = network_ && same_topology(*network_, *network);
    const bool same_flows = same_shape && same_hydrology(*network_, *network);
    std::vector<EventRain> rains;
    for (const RainEvent* e : events_in_order(project)) rains.push_back(rain_of(*e));
    Results results(rains.size());
    std::size_t lead = rains.size();
    for (std::size_t i = 0; i < rains.size(); ++i)
        if (rains[i].id == first && first) lead = i;
    if (stop.stop_requested()) return {};
    if (lead < rains.size()) {
        results[lead] = solve_event(network, rains[lead], revision, same_shape, same_flows);
        if (publish && !stop.stop_requested()) publish(results[lead]);
    }
    tbb::parallel_for(std::size_t{0}, rains.size(), [&](std::size_t i) {
        if (i != lead && !stop.stop_requested())
            results[i] = solve_event(network, rains[i], revision, same_shape, same_flows);
    });
    if (stop.stop_requested()) return {};
    if (publish)
        for (std::size_t i = 0; i < rains.size(); ++i)
            if (i != lead) publish(results[i]);
    network_ = network;
    kept_.clear();
    for (std::size_t i = 0; i < rains.size(); ++i) kept_[rains[i].id] = {std::move(rains[i]), results[i]};
    return results;
}

EventResult solve_one(const std::shared_ptr<const Network>& network, const EventRain& rain) {
    EventResult result;
    result.event = rain.id;
    result.network = network;
    result.nodes.resize(network->nodes.size());
    solve_flows(*network, rain, result.nodes);
    result.recomputed = solve_levels(*network, result.nodes);
    return result;
}

Results solve(const Project& project) { return Solver().solve(project, 0); }

}  // namespace culvert
