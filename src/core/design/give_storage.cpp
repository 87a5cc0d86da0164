// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <cmath>

#include "core/design/storage_study.h"
#include "core/network/network.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

double to_cm(double level) { return std::round(level * 100) / 100; }

/// Of a pond or an outlet: one that neither has.
std::string name_at_pond(const Project& project, const std::string& wanted) {
    const auto taken = [&](const std::string& name) {
        return std::any_of(project.outlets.begin(), project.outlets.end(),
                           [&](const PondOutlet& o) { return o.name == name; }) ||
               std::any_of(project.ponds.begin(), project.ponds.end(), [&](const Pond& p) { return p.name == name; });
    };
    if (!taken(wanted)) return wanted;
    for (int i = 2;; ++i)
        if (const std::string name = wanted + " " + std::to_string(i); !taken(name)) return name;
}

/// Structure that lies lower than this one and nearest to it, with a pipe that leads on: where an outlet may lead.
StructureId next_below(const Project& project, const Structure& s, double bottom) {
    StructureId found;
    double near = 1e300;
    for (const Pipe& p : project.pipes) {
        const bool along = !(p.invert_from < p.invert_to);
        const Structure* head = project.structures.find((along ? p.from : p.to).value);
        const double invert = along ? p.invert_from : p.invert_to;
        if (!head || head->id == s.id || !(invert <= bottom + 0.01) || !placed(*head) || !placed(s)) continue;
        if (const double d = std::hypot(head->x - s.x, head->y - s.y); d < near && d < 300) {
            near = d;
            found = {head->id};
        }
    }
    return found;
}

}  // namespace

PondOutlet new_outlet(const Project& project, StructureId structure, OutletKind kind) {
    PondOutlet o;
    o.id = random_id();
    o.structure = structure;
    o.kind = kind;
    const FieldInfo& info = *infos_of(Kind::PondOutlet)[*field_index(Kind::PondOutlet, "kind")];
    o.name = name_at_pond(project, std::string(info.choices[static_cast<std::size_t>(kind)]));
    double bottom = not_given, top = not_given, highest = not_given;
    for (const Pond& p : project.ponds)
        if (p.structure == structure)
            if (const StageStorage s = storage_of(p); !s.empty())
                bottom = s.bottom(), top = std::isnan(p.crest) ? s.top() : p.crest;
    const Structure* s = project.structures.find(structure.value);
    if (std::isnan(bottom) && s) bottom = (std::isnan(s->rim) ? 0 : s->rim) - 2;
    if (std::isnan(top)) top = bottom + 2;
    bool led = false;
    for (const PondOutlet& other : project.outlets) {
        if (other.structure != structure) continue;
        highest = std::fmax(highest, other.level);
        if (other.to) o.to = other.to, led = true;
    }
    if (!led && s) o.to = next_below(project, *s, bottom);
    const bool first = std::isnan(highest);
    const double middle = to_cm(first ? bottom : std::min((highest + top) / 2, top - 0.2));
    o.level = middle;
    switch (kind) {
        case OutletKind::CircularOrifice: o.size = 0.15; break;
        case OutletKind::BoxOrifice: o.size = 0.2, o.width = 0.3; break;
        case OutletKind::SharpWeir:
        case OutletKind::BroadWeir:
        case OutletKind::Cipolletti: o.width = 2; break;
        case OutletKind::Notch: break;
        case OutletKind::Riser:
        case OutletKind::Grate: o.size = 0.9; break;
        case OutletKind::Culvert:
            o.level = to_cm(bottom);
            o.size = 0.45;
            o.length = 30;
            o.slope = 0.005;
            break;
        case OutletKind::Pump:
            o.level = to_cm(bottom + 0.5 * (top - bottom));
            o.stop_level = to_cm(bottom + 0.1 * (top - bottom));
            o.pump_flow = 0.02;
            break;
        case OutletKind::Rating:
            o.rating_levels = {to_cm(bottom), to_cm(top)};
            o.rating_flows = {0, 0.1};
            break;
    }
    return o;
}

Edit give_storage(const Project& project, StructureId structure, const std::vector<Point>& outline) {
    const Structure* s = project.structures.find(structure.value);
    const std::string name = element_name(project, Kind::Structure, structure.value);
    Editing e(project, "Storage at " + name);
    if (!s || std::any_of(project.ponds.begin(), project.ponds.end(),
                          [&](const Pond& p) { return p.structure == structure; }))
        return e.take();
    double low = not_given;
    bool leads_on = false;
    for (const Pipe& p : project.pipes) {
        if (p.from == structure) low = std::fmin(low, p.invert_from), leads_on |= p.invert_from >= p.invert_to;
        if (p.to == structure) low = std::fmin(low, p.invert_to), leads_on |= p.invert_to > p.invert_from;
    }
    const double rim = std::isnan(s->rim) ? (std::isnan(low) ? 2 : low + 2) : s->rim;
    const bool basin = s->kind == StructureKind::Pond || s->kind == StructureKind::Outfall;
    Pond p;
    p.id = random_id();
    p.structure = structure;
    p.name = name_at_pond(project, name + (basin ? " pond" : " storage"));
    p.storage_by = basin ? StorageBy::Basin : StorageBy::Tank;
    p.bottom = to_cm(std::isnan(low) ? rim - 2 : basin && !leads_on ? low - 0.6 : low);
    p.length = basin ? 30 : 4;
    p.width = basin ? 20 : 2;
    p.depth = std::max(0.5, to_cm(rim - p.bottom));
    p.crest = rim;
    if (!outline.empty()) {
        p.outline = outline;
        p.storage_by = StorageBy::Outline;
    }
    e.insert(p);
    if (s->kind == StructureKind::Outfall) e.set(Kind::Structure, structure.value, "kind", StructureKind::Pond);
    if (!leads_on) {
        PondOutlet low_one = new_outlet(e.now(), structure, OutletKind::CircularOrifice);
        e.insert(low_one);
        PondOutlet over = new_outlet(e.now(), structure, OutletKind::BroadWeir);
        over.level = to_cm(rim - 0.4);
        over.width = 4;
        over.to = {};
        over.overflow = true;
        over.name = name_at_pond(e.now(), "overflow");
        e.insert(over);
    } else {
        // It spills on along its street path where the water reaches the rim.
        for (const StreetPath& path : project.street_paths)
            if (path.from == structure) {
                PondOutlet over = new_outlet(e.now(), structure, OutletKind::BroadWeir);
                over.level = rim;
                over.to = path.to;
                over.overflow = true;
                over.name = name_at_pond(e.now(), "spill along " + path.name);
                e.insert(over);
                break;
            }
    }
    if (project.settings().runoff_by == RunoffBy::Rational)
        e.set(Kind::Settings, settings_id, "runoff_by", RunoffBy::UnitHydrograph);
    return e.take();
}

}  // namespace culvert
