// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/way_back.h"
#include "core/model/cells.h"

#include <cmath>

#include "core/model/lay.h"

namespace culvert {

std::optional<WayBack> way_back(const Project& project, Kind kind, std::uint64_t id, std::string_view key,
                                double ground, bool whole) {
    const auto index = field_index(kind, key);
    if (!index) return {};
    const FieldInfo& info = *infos_of(kind)[*index];
    const UnitSet units = units_of(project);
    const std::string name = element_name(project, kind, id);
    Editing e(project, std::string(info.label) + " of " + name + ": back");
    std::string words;
    if (!has_row(project, kind, id)) return {};
    const Origin origin = origin_of(project, kind, id, *index);
    if (kind == Kind::Structure && key == "rim" && !std::isnan(ground)) {
        e.set(kind, id, key, std::round(ground * 1000) / 1000, Origin::Ground);
        if (whole) follow(e, {{id}});
        words = "the ground: " + units.text(ground, Quantity::Level);
    } else if (kind == Kind::Pipe && (key == "invert_from" || key == "invert_to")) {
        if (origin == Origin::Default) return {};
        const Pipe* p = project.pipes.find(id);
        e.set(kind, id, key, key == "invert_from" ? p->invert_from : p->invert_to, Origin::Default);
        if (whole) follow(e, {p->from, p->to});
        words = "where it follows the structure";
    } else if (kind == Kind::Pipe && (key == "roughness" || key == "wall")) {
        const Pipe* p = project.pipes.find(id);
        const PipeSize* size = nullptr;
        for (const PipeSize& s : project.sizes)
            if (s.material == p->material && s.shape == p->shape && std::abs(s.size - p->size) < 1e-9) size = &s;
        if (!size) return {};
        e.set(kind, id, key, key == "wall" ? size->wall : size->roughness, Origin::Catalogue);
        words = "the catalogue";
    } else if (kind == Kind::Catchment && key == "area") {
        const Catchment* c = project.catchments.find(id);
        if (c->outline.size() < 3) return {};
        const double a = std::round(area(c->outline) * 10) / 10;
        e.set(kind, id, key, a, Origin::Default);
        words = "measured: " + units.text(a, Quantity::Area);
    } else {
        if (origin == Origin::Default || key == "name" || info.needed) return {};
        const Value v = blank_value(kind, *index);
        const double* d = std::get_if<double>(&v);
        if (!d || (!std::isnan(*d) && kind != Kind::Settings)) return {};
        e.set(kind, id, key, v, Origin::Default);
        words = std::isnan(*d) ? std::string("the default") : "the default: " + units.text(*d, info.quantity);
    }
    WayBack out{e.take(), std::move(words)};
    if (out.edit.empty()) return {};
    return out;
}

}  // namespace culvert
