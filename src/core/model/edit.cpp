// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/edit.h"

#include <cmath>
#include <set>

namespace culvert {
namespace {

void write(Project& project, const Patch& p, bool forward) {
    with_row_type(p.kind, [&]<class R>(std::type_identity<R>) {
        R* row = project.table<R>().change(p.id);
        if (!row) return;
        set(*row, fields_of<R>()[p.field], forward ? p.after : p.before);
        row->origin[p.field] = forward ? p.origin_after : p.origin_before;
    });
}
void put(Project& project, const AnyRow& any) {
    std::visit([&]<class R>(const R& row) { project.table<R>().insert(row); }, any);
}
void take_out(Project& project, const AnyRow& any) {
    std::visit([&]<class R>(const R& row) { project.table<R>().erase(row.id); }, any);
}

}  // namespace

void apply(Project& project, const Edit& edit) {
    for (const Change& c : edit.changes) {
        if (const auto* p = std::get_if<Patch>(&c)) write(project, *p, true);
        else if (const auto* i = std::get_if<Insert>(&c)) put(project, i->row);
        else take_out(project, std::get<Delete>(c).row);
    }
}

void revert(Project& project, const Edit& edit) {
    for (auto c = edit.changes.rbegin(); c != edit.changes.rend(); ++c) {
        if (const auto* p = std::get_if<Patch>(&*c)) write(project, *p, false);
        else if (const auto* i = std::get_if<Insert>(&*c)) take_out(project, i->row);
        else put(project, std::get<Delete>(*c).row);
    }
}

bool Editing::set(Kind kind, std::uint64_t id, std::string_view key, Value value, Origin origin) {
    const auto index = field_index(kind, key);
    if (!index) return false;
    return with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        const R* row = project_.table<R>().find(id);
        if (!row) return false;
        const Field<R>& field = fields_of<R>()[*index];
        Patch patch{kind, id, *index, get(*row, field), std::move(value), row->origin[*index], origin};
        if (patch.before.index() != patch.after.index()) return false;
        if (same_value(patch.before, patch.after) && patch.origin_before == origin) return true;
        write(project_, patch, true);
        edit_.changes.push_back(std::move(patch));
        return true;
    });
}

void Editing::remove(Kind kind, std::uint64_t id) {
    const auto drop_where = [&]<class R>(std::type_identity<R>, auto hangs) {
        std::vector<std::uint64_t> ids;
        for (const R& row : project_.table<R>())
            if (hangs(row)) ids.push_back(row.id);
        for (const std::uint64_t i : ids) remove(kind_of<R>(), i);
    };
    if (kind == Kind::Settings) return;
    if (kind == Kind::Structure) {
        const auto ends_here = [id](const auto& row) { return row.from.value == id || row.to.value == id; };
        drop_where(std::type_identity<Pipe>{}, ends_here);
        drop_where(std::type_identity<StreetPath>{}, ends_here);
        std::vector<std::uint64_t> freed;
        for (const Catchment& c : project_.catchments)
            if (c.structure.value == id) freed.push_back(c.id);
        for (const std::uint64_t c : freed) set(Kind::Catchment, c, "structure", std::uint64_t{0});
    }
    if (kind == Kind::Catchment)
        drop_where(std::type_identity<LandCover>{}, [id](const LandCover& l) { return l.catchment.value == id; });
    if (kind == Kind::Structure || kind == Kind::Pipe)
        drop_where(std::type_identity<Limit>{}, [id](const Limit& l) { return l.element == id; });
    with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        if (const R* row = project_.table<R>().find(id)) {
            edit_.changes.push_back(Delete{*row});
            project_.table<R>().erase(id);
        }
    });
}

std::string next_branch(const Project& project) {
    std::set<std::string> used;
    for (const Structure& s : project.structures) used.insert(s.name.substr(0, s.name.find_first_of("0123456789")));
    for (int i = 0;; ++i) {
        std::string letter(1, static_cast<char>('A' + i % 26));
        if (i >= 26) letter = static_cast<char>('A' + i / 26 - 1) + letter;
        if (!used.contains(letter)) return letter;
    }
}

std::string next_structure_name(const Project& project, const std::string& near) {
    std::set<std::string> used;
    for (const Structure& s : project.structures) used.insert(s.name);
    const auto digit = near.find_last_not_of("0123456789") + 1;
    if (near.empty() || digit == near.size()) return next_branch(project) + "1";
    const std::string stem = near.substr(0, digit);
    long number = near.size() - digit > 9 ? 1 : std::stol(near.substr(digit));
    while (used.contains(stem + std::to_string(number))) ++number;
    return stem + std::to_string(number);
}

Pipe laid_pipe(const Project& project, StructureId from, StructureId to, std::vector<Point> bends) {
    const Settings& s = project.settings();
    Pipe pipe;
    pipe.id = random_id();
    pipe.from = from;
    pipe.to = to;
    pipe.bends = std::move(bends);
    pipe.size = s.default_size;
    const auto note_origin = [&pipe](std::string_view key, Origin origin) {
        pipe.origin[*field_index(Kind::Pipe, key)] = origin;
    };
    for (const PipeSize& size : project.sizes)
        if (size.shape == pipe.shape && std::abs(size.size - s.default_size) < 1e-9) {
            pipe.material = size.material;
            pipe.roughness = size.roughness;
            pipe.wall = size.wall;
            for (const char* key : {"material", "roughness", "wall"}) note_origin(key, Origin::Catalogue);
            break;
        }
    const Structure *a = project.structures.find(from.value), *b = project.structures.find(to.value);
    if (!a || !b) return pipe;
    const double below = s.default_cover + pipe.wall + pipe.size;
    double start = a->rim - below;
    for (const Pipe& other : project.pipes) {
        if (other.to == from && other.invert_to - s.default_drop < start) start = other.invert_to - s.default_drop;
        if (other.from == from && other.invert_from < start) start = other.invert_from;
    }
    const double length = drawn_length(project, pipe);
    double end = start - s.default_slope * length;
    if (b->rim - below < end) end = b->rim - below;  // the ground falls faster than the default slope
    const auto to_mm = [](double level) { return std::round(level * 1000) / 1000; };
    pipe.invert_from = to_mm(start);
    pipe.invert_to = to_mm(end);
    return pipe;
}

}  // namespace culvert
