// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/outer_levels.h"

#include <cmath>

#include "core/analysis/solver.h"
#include "core/base/contract.h"

namespace culvert {
namespace {

const RainEvent* counterpart(const Project& other, const RainEvent& event) {
    const RainEvent* alike = nullptr;
    for (const RainEvent& e : other.events) {
        if (e.name == event.name) return &e;
        if (!alike && e.return_period == event.return_period) alike = &e;
    }
    return alike;
}

}  // namespace

StructureId place_in(const Project& other, const Structure& outfall) {
    constexpr double reach = 30;  // m
    StructureId nearest;
    double away = reach;
    for (const Structure& s : other.structures) {
        if (!s.name.empty() && s.name == outfall.name) return {s.id};
        if (!placed(s) || !placed(outfall)) continue;
        if (const double d = std::hypot(s.x - outfall.x, s.y - outfall.y); d <= away) {
            away = d;
            nearest = {s.id};
        }
    }
    return nearest;
}

OuterLevels outer_levels(const Project& project, StructureId outfall, const Project& other, StructureId there,
                         const std::string& file, const std::stop_token& stop) {
    OuterLevels out;
    const Structure *mine = project.structures.find(outfall.value), *place = other.structures.find(there.value);
    if (!mine || mine->kind != StructureKind::Outfall) {
        out.why = "choose an outfall: only where water leaves does it meet a level from outside";
        return out;
    }
    if (!place) {
        out.why =
            "no structure there has the name " + mine->name + " or stands within 30 m of it: name the one it meets";
        return out;
    }
    Solver solver;
    const Results results = solver.solve(other, 0, {}, stop);
    Editing e(project, "Tailwater of " + mine->name + " from " + file);
    const auto leave = [&](const RainEvent& event, const char* reason) {
        out.why += (out.why.empty() ? "" : "; ") + event.name + ": " + reason;
    };
    for (const RainEvent& event : project.events) {
        const RainEvent* match = counterpart(other, event);
        if (!match) {
            leave(event, "no such event there");
            continue;
        }
        double level = not_given;
        for (const auto& r : results)
            if (r && r->event.value == match->id)
                if (const int node = r->network->node_of(there); node != no_node)
                    level = nth(r->nodes, node).level.level;
        if (std::isnan(level)) {
            leave(event, "no level is known there");
            continue;
        }
        level = std::round(level * 1000) / 1000;
        OutfallLevel row;
        for (const OutfallLevel& l : project.outfall_levels)
            if (l.structure == outfall && l.event.value == event.id) row = l;
        const std::string source = file + ", " + place->name + ", " + match->name;
        if (row.id == 0) {
            row.id = random_id();
            row.structure = outfall;
            row.event = {event.id};
            row.level = level;
            row.source = source;
            for (const char* key : {"structure", "event", "level", "source"})
                row.origin[*field_index(Kind::OutfallLevel, key)] = Origin::Imported;
            e.insert(std::move(row));
        } else {
            e.set(Kind::OutfallLevel, row.id, "level", level, Origin::Imported);
            e.set(Kind::OutfallLevel, row.id, "source", source, Origin::Imported);
        }
        ++out.taken;
    }
    if (out.taken > 0) out.edit = e.take();
    else if (out.why.empty()) out.why = "the project has no rain events: add one first";
    return out;
}

}  // namespace culvert
