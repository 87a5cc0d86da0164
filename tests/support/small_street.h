// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>

#include "core/analysis/solver.h"
#include "core/model/edit.h"
#include "core/review/rules.h"

/// A short street with two inlets, for tests of one setting, choice, limit or finding at a time.
namespace {

using namespace culvert;

[[maybe_unused]] bool close(double a, double b, double within = 1e-9) {
    return std::abs(a - b) <= within * std::max({std::abs(a), std::abs(b), 1e-9});
}

/// Two grate inlets 80 m apart on a street of 1 %, a catchment at the first, a street path between them, an outfall
/// below.
Project street() {
    Project p = new_project(UnitSystem::Si);
    Street s;
    s.id = 70;
    s.name = "Long Street";
    s.line = {{0, 0}, {200, 0}};
    s.stations = {0, 200};
    s.levels = {102, 100};
    p.streets.insert(s);
    StructureType t;
    t.id = 71;
    t.name = "grate";
    t.kind = StructureKind::Inlet;
    t.inlet = InletKind::Grate;
    t.length = 0.6;
    t.width = 0.45;
    p.structure_types.insert(t);
    const auto add = [&](std::uint64_t id, StructureKind kind, double x, const char* name) {
        Structure row;
        row.id = id;
        row.name = name;
        row.kind = kind;
        row.x = x;
        row.y = 4;
        row.rim = 102 - x / 100;
        if (kind == StructureKind::Inlet) {
            row.type = "grate";
            row.street = {70};
            row.station = x;
        }
        p.structures.insert(row);
    };
    add(1, StructureKind::Inlet, 100, "A1");
    add(2, StructureKind::Inlet, 180, "A2");
    add(3, StructureKind::Outfall, 220, "A3");
    for (const auto& [id, from, to, up] : {std::tuple{11, 1, 2, 99.0}, {12, 2, 3, 98.0}}) {
        Pipe q;
        q.id = static_cast<std::uint64_t>(id);
        q.from = {static_cast<std::uint64_t>(from)};
        q.to = {static_cast<std::uint64_t>(to)};
        q.size = 0.6;
        q.invert_from = up;
        q.invert_to = up - 0.8;
        p.pipes.insert(q);
    }
    StreetPath path;
    path.id = 31;
    path.name = "on";
    path.from = {1};
    path.to = {2};
    p.street_paths.insert(path);
    Catchment c;
    c.id = 21;
    c.name = "C1";
    c.structure = {1};
    c.area = 4000;
    c.coefficient = 0.8;
    c.time = 600;
    p.catchments.insert(c);
    RainEvent e;
    e.id = 5;
    e.name = "10 years";
    e.return_period = 10;
    e.role = EventRole::Minor;
    e.durations = {300, 3600};
    e.intensities = {4e-5, 1e-5};
    p.events.insert(e);
    return p;
}
template <class V>
Project with(Project p, Kind kind, std::uint64_t id, const char* key, V value) {
    Editing e(p, "set");
    if (!e.set(kind, id, key, value)) qFatal("no field %s", key);
    apply(p, e.take());
    return p;
}
template <class V>
Project with_setting(Project p, const char* key, V value) {
    return with(std::move(p), Kind::Settings, settings_id, key, value);
}
[[maybe_unused]] StreetFlow at(const Project& p, std::uint64_t structure = 1) {
    const auto r = solve(p)[0];
    const int inlet = r->network->nodes[static_cast<std::size_t>(r->network->node_of(StructureId{structure}))].inlet;
    return inlet < 0 ? StreetFlow{} : r->streets[static_cast<std::size_t>(inlet)];
}
[[maybe_unused]] NodeFlow pipe_flow(const Project& p, std::uint64_t structure) {
    const auto r = solve(p)[0];
    return r->nodes[static_cast<std::size_t>(r->network->node_of(StructureId{structure}))].flow;
}
[[maybe_unused]] std::optional<Check> check(const Project& p, Rule rule, std::uint64_t structure = 1,
                                            std::size_t event = 0) {
    const auto r = solve(p)[event];
    for (const Check& c : checks_of(LimitTable(p, r->event), *r, {Kind::Structure, structure}))
        if (c.rule == rule) return c;
    return {};
}
[[maybe_unused]] std::uint64_t limit_id(const Project& p, LimitKind kind) {
    for (const Limit& l : p.limits)
        if (l.kind == kind) return l.id;
    return 0;
}

}  // namespace
