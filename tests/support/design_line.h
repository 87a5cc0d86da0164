// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"
#include "core/model/lay.h"

/// Pipes down a hill of one slope, to be designed.
namespace culvert::testing {

constexpr std::uint64_t event_id = 5;

inline Project with_rain() {
    Project p = new_project(UnitSystem::Si);
    RainEvent e;
    e.id = event_id;
    e.name = "10 years";
    e.return_period = 10;
    e.role = EventRole::Minor;
    e.durations = {300, 3600};
    e.intensities = {3e-5, 1e-5};
    p.events.insert(e);
    return p;
}
inline void add_structure(Project& p, std::uint64_t id, StructureKind kind, double x, double y, double rim) {
    Structure s;
    s.id = id;
    s.name = "S" + std::to_string(id);
    s.kind = kind;
    s.x = x;
    s.y = y;
    s.rim = rim;
    p.structures.insert(s);
}
/// Laid as drawing lays it: its ends follow.
inline void add_pipe(Project& p, std::uint64_t id, std::uint64_t from, std::uint64_t to) {
    Pipe q = laid_pipe(p, {from}, {to});
    q.id = id;
    p.pipes.insert(q);
}
inline void add_area(Project& p, std::uint64_t id, std::uint64_t to, double area) {
    Catchment c;
    c.id = id;
    c.name = "C" + std::to_string(id);
    c.structure = {to};
    c.area = area;
    c.coefficient = 0.7;
    c.time = 600;
    p.catchments.insert(c);
}
/// Three pipes down a hill of a slope, 60 m each.
inline Project line(double slope, double area = 4000) {
    Project p = with_rain();
    for (int i = 0; i <= 3; ++i)
        add_structure(p, 1 + static_cast<std::uint64_t>(i), i < 3 ? StructureKind::Inlet : StructureKind::Outfall,
                      60 * i, 0, 50 - slope * 60 * i);
    for (std::uint64_t i = 1; i <= 3; ++i) {
        add_pipe(p, 10 + i, i, i + 1);
        add_area(p, 20 + i, i, area);
    }
    return p;
}
template <class V>
inline Project with(Project p, Kind kind, std::uint64_t id, const char* key, V value, Origin origin = Origin::Typed) {
    Editing e(p, "set");
    if (!e.set(kind, id, key, value, origin)) qFatal("no field %s", key);
    apply(p, e.take());
    return p;
}

}  // namespace culvert::testing
