// SPDX-License-Identifier: GPL-3.0-or-later
// Where water comes to the streets, and in which order it runs over them.
#include <algorithm>
#include <cmath>

#include "core/base/contract.h"
#include "core/network/network.h"

namespace culvert {

/// The structure a catchment drains to: its own, or the next inlet down its street.
StructureId target_of(const Project& project, const Catchment& c) {
    if (c.structure || !c.street || std::isnan(usable(c, &Catchment::station, not_given))) return c.structure;
    const Street* street = project.streets.find(c.street.value);
    const StreetProfile profile = street ? entered_profile(*street) : StreetProfile{};
    if (profile.size() < 2) return {};
    // Along the stations, against them, or, at a low or a high place and on a level street, the nearest either way.
    constexpr double near = 1e-6;
    const double before = grade_at(profile, c.station - near), after = grade_at(profile, c.station + near);
    const bool on = before < 0 || after < 0, back = before > 0 || after > 0;
    const Structure* next = nullptr;
    double away = 0;
    for (const Structure& s : project.structures) {
        if (s.street != c.street || !takes_water(s) || std::isnan(s.station)) continue;
        const double ahead = s.station - c.station;
        if (on != back && (on ? ahead < 0 : ahead > 0)) continue;
        if (!next || std::abs(ahead) < away) next = &s, away = std::abs(ahead);
    }
    return next ? StructureId{next->id} : StructureId{};
}

/// Inlets with the ways of what they do not take, each after all whose bypass reaches it.
void place_inlets(const Project& project, Network& net) {
    const auto fault = [&](std::uint64_t id, std::string detail) {
        net.faults.push_back({Severity::Warning,
                              {Kind::Structure, id},
                              "street_grade",
                              "inlet not computed",
                              std::move(detail),
                              "Give its street, its station and the street's profile, or its street grade."});
    };
    std::vector<std::pair<std::uint64_t, const StreetPath*>> paths;
    for (const StreetPath& p : project.street_paths) paths.emplace_back(p.from.value, &p);
    std::stable_sort(paths.begin(), paths.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<StreetInlet> found;
    std::vector<std::uint64_t> ids;
    std::vector<int> inlet_of(net.nodes.size(), no_inlet);
    for (std::size_t i = 0; i < net.nodes.size(); ++i) {
        if (net.nodes[i].kind != StructureKind::Inlet) continue;
        const Structure* s = project.structures.find(net.nodes[i].structure.value);
        if (!s || s->type.empty()) continue;
        const auto at = std::lower_bound(paths.begin(), paths.end(), s->id,
                                         [](const auto& p, std::uint64_t id) { return p.first < id; });
        const StreetPath* path = at != paths.end() && at->first == s->id ? at->second : nullptr;
        std::string why;
        auto in = street_inlet(project, *s, path, &why);
        if (!in) {
            if (!why.empty())
                fault(s->id,
                      "Inlet " + s->name + ": " + why + ". All that comes to it enters, and its spread is not known.");
            continue;
        }
        in->node = static_cast<int>(i);
        if (path) {
            in->path_length = path_length(project, *path);
            in->to = path->to ? net.node_of(path->to) : no_node;
            if (!path->to) in->end = PathEnd::OffSite;
            else if (in->to != no_node && in->to != in->node && nth(net.nodes, in->to).kind != StructureKind::Outfall)
                in->end = PathEnd::Structure;
            if (in->end != PathEnd::Structure) in->to = no_node;
        }
        nth(inlet_of, in->node) = static_cast<int>(found.size());
        found.push_back(*std::move(in));
        ids.push_back(s->id);
    }
    // From the heads down the streets. What is left runs in rings: each is cut behind its member with the lowest
    // id.
    const auto next = [&](std::size_t i) {
        return found[i].end == PathEnd::Structure ? nth(inlet_of, found[i].to) : no_inlet;
    };
    std::vector<int> waits(found.size(), 0);
    for (std::size_t i = 0; i < found.size(); ++i)
        if (next(i) != no_inlet) ++nth(waits, next(i));
    std::vector<std::size_t> order, heads;
    for (std::size_t i = found.size(); i-- > 0;)
        if (!waits[i]) heads.push_back(i);
    const auto follow = [&] {
        while (!heads.empty()) {
            const std::size_t i = heads.back();
            heads.pop_back();
            order.push_back(i);
            waits[i] = -1;
            if (const int on = next(i); on != no_inlet && --nth(waits, on) == 0)
                heads.push_back(static_cast<std::size_t>(on));
        }
    };
    follow();
    for (std::size_t i = 0; i < found.size() && order.size() < found.size(); ++i) {
        if (waits[i] <= 0) continue;
        std::vector<char> seen(found.size(), 0);
        std::size_t at = i;
        while (!seen[at]) {
            seen[at] = 1;
            at = static_cast<std::size_t>(next(at));
        }
        std::size_t lowest = at;
        for (auto k = static_cast<std::size_t>(next(at)); k != at; k = static_cast<std::size_t>(next(k)))
            if (ids[k] < ids[lowest]) lowest = k;
        const auto on = static_cast<std::size_t>(next(lowest));
        found[lowest].end = PathEnd::Nowhere;
        found[lowest].to = no_node;
        if (--waits[on] == 0) heads.push_back(on);
        follow();
        if (waits[i] > 0) --i;  // another ring above it
    }
    for (const std::size_t i : order) {
        nth(net.nodes, found[i].node).inlet = static_cast<int>(net.inlets.size());
        net.inlets.push_back(std::move(found[i]));
    }
}

}  // namespace culvert
