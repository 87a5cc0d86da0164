// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/layout.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "core/design/inlet_spacing.h"
#include "core/model/lay.h"

namespace culvert {
namespace {

void typed(Row& row, Kind kind, std::initializer_list<const char*> keys, Origin origin = Origin::Typed) {
    for (const char* key : keys) row.origin[*field_index(kind, key)] = origin;
}

}  // namespace

Edit split_pipe(const Project& project, PipeId id, double station, StructureKind kind, const GroundAt& ground,
                StructureId* made) {
    const Pipe* pipe = project.pipes.find(id.value);
    if (!pipe) return {};
    const std::vector<Point> line = pipe_line(project, *pipe);
    const double drawn = length(line);
    if (line.size() < 2 || !(station > 0) || !(station < drawn)) return {};
    Point at = point_at(line, station, 0);
    at = {to_mm(at.x), to_mm(at.y)};
    const Structure* from = project.structures.find(pipe->from.value);
    Editing e(project, "Split " + pipe_name(project, *pipe));
    Structure s = new_structure(project, kind, at, {ground ? ground(at) : not_given}, from->name);
    typed(s, Kind::Structure, {"name", "kind", "x", "y"});
    const double share = station / drawn;
    if (s.origin[*field_index(Kind::Structure, "rim")] != Origin::Ground) {
        const Structure* to = project.structures.find(pipe->to.value);
        s.rim = to_mm(from->rim + share * (to->rim - from->rim));
    }
    e.insert(s);
    const double between = std::isnan(pipe->invert_from) || std::isnan(pipe->invert_to)
                               ? not_given
                               : to_mm(pipe->invert_from + share * (pipe->invert_to - pipe->invert_from));
    Pipe lower = *pipe;
    lower.id = random_id();
    lower.name.clear();
    lower.foreign.clear();
    lower.from = {s.id};
    lower.invert_from = between;
    lower.tie_from.clear();  // a tie belongs to its end
    const std::size_t segment = station_of(line, at).segment;
    lower.bends.assign(pipe->bends.begin() + static_cast<std::ptrdiff_t>(std::min(segment, pipe->bends.size())),
                       pipe->bends.end());
    if (!std::isnan(pipe->length)) lower.length = to_mm(pipe->length * (1 - share));
    e.insert(lower);
    e.set(Kind::Pipe, pipe->id, "to", s.id);
    e.set(Kind::Pipe, pipe->id, "invert_to", between, pipe->origin[*field_index(Kind::Pipe, "invert_to")]);
    e.set(Kind::Pipe, pipe->id, "tie_to", std::string());
    e.set(Kind::Pipe, pipe->id, "bends",
          std::vector<Point>(pipe->bends.begin(),
                             pipe->bends.begin() + static_cast<std::ptrdiff_t>(std::min(segment, pipe->bends.size()))));
    if (!std::isnan(pipe->length)) e.set(Kind::Pipe, pipe->id, "length", to_mm(pipe->length * share));
    if (made) *made = {s.id};
    return e.take();
}

Edit merge_at(const Project& project, StructureId id, std::string* why_not) {
    const auto no = [why_not](const std::string& why) {
        if (why_not) *why_not = why;
        return Edit{};
    };
    const Structure* s = project.structures.find(id.value);
    if (!s) return no("there is no such structure");
    std::vector<Pipe> pipes;
    for (const Pipe& p : project.pipes)
        if (p.from == id || p.to == id) pipes.push_back(p);
    if (pipes.size() != 2)
        return no(s->name + " has " + std::to_string(pipes.size()) + (pipes.size() == 1 ? " pipe" : " pipes") +
                  ": only where two meet can they become one");
    if (s->kind == StructureKind::Outfall) return no(s->name + " is an outfall");
    for (const Pond& p : project.ponds)
        if (p.structure == id) return no(s->name + " has storage: delete that first");
    for (const PondOutlet& o : project.outlets)
        if (o.to == id) return no("an outlet leads to " + s->name + ": lead it elsewhere first");
    for (const Catchment& c : project.catchments)
        if (c.structure == id) return no(s->name + " takes the water of " + c.name + ": let it drain elsewhere first");
    if (s->known_flow != 0) return no(s->name + " has a known flow of its own");
    Pipe &a = pipes[0], &b = pipes[1];
    if (a.from == id && b.to == id) std::swap(a, b);
    // Both toward the structure, or both away: the second is turned round.
    const bool turn_a = a.from == id, turn_b = b.to == id;
    if (a.shape != b.shape || std::abs(a.size - b.size) > 1e-9 || a.material != b.material ||
        (has_width(a.shape) && std::abs(a.width - b.width) > 1e-9) || a.sides != b.sides ||
        a.section_across != b.section_across || a.section_up != b.section_up || a.barrels != b.barrels ||
        a.roughness != b.roughness)
        return no("its pipes are of different sections or materials");
    const auto turned = [](Pipe p) {
        std::swap(p.from, p.to);
        std::swap(p.invert_from, p.invert_to);
        std::swap(p.tie_from, p.tie_to);
        std::reverse(p.bends.begin(), p.bends.end());
        return p;
    };
    const Pipe up = turn_a ? turned(a) : a, down = turn_b ? turned(b) : b;
    if (up.from == down.to) return no("its pipes lead to the same structure");
    Editing e(project, "Merge over " + s->name);
    std::vector<Point> bends = up.bends;
    bends.push_back({s->x, s->y});
    bends.insert(bends.end(), down.bends.begin(), down.bends.end());
    e.set(Kind::Pipe, a.id, "from", up.from.value);
    e.set(Kind::Pipe, a.id, "to", down.to.value);
    e.set(Kind::Pipe, a.id, "bends", bends);
    e.set(Kind::Pipe, a.id, "invert_from", up.invert_from);
    e.set(Kind::Pipe, a.id, "invert_to", down.invert_to);
    e.set(Kind::Pipe, a.id, "tie_from", up.tie_from);
    e.set(Kind::Pipe, a.id, "tie_to", down.tie_to);
    if (!std::isnan(up.length) || !std::isnan(down.length))
        e.set(Kind::Pipe, a.id, "length", to_mm(length_of(project, up) + length_of(project, down)));
    e.remove(Kind::Pipe, b.id);
    e.remove(Kind::Structure, id.value);
    return e.take();
}

Edit reverse_pipe(const Project& project, PipeId id) {
    const Pipe* p = project.pipes.find(id.value);
    if (!p) return {};
    Editing e(project, "Reverse " + pipe_name(project, *p));
    const Pipe row = *p;
    const auto origin = [&row](const char* key) { return row.origin[*field_index(Kind::Pipe, key)]; };
    e.set(Kind::Pipe, row.id, "from", row.to.value);
    e.set(Kind::Pipe, row.id, "to", row.from.value);
    e.set(Kind::Pipe, row.id, "invert_from", row.invert_to, origin("invert_to"));
    e.set(Kind::Pipe, row.id, "invert_to", row.invert_from, origin("invert_from"));
    e.set(Kind::Pipe, row.id, "tie_from", row.tie_to, origin("tie_to"));
    e.set(Kind::Pipe, row.id, "tie_to", row.tie_from, origin("tie_from"));
    e.set(Kind::Pipe, row.id, "bends", std::vector<Point>(row.bends.rbegin(), row.bends.rend()));
    return e.take();
}

FromLines pipes_from_lines(const Project& project, const std::vector<std::vector<Point>>& lines, double tolerance,
                           const GroundAt& ground) {
    FromLines out;
    Editing e(project, "Pipes from lines");
    const double near = std::max(tolerance, 1e-3);
    // Places by cells of the tolerance, so that many lines cost no more than each of them.
    std::map<std::pair<long, long>, std::vector<std::pair<Point, std::uint64_t>>> places;
    const auto cell = [near](Point p) {
        return std::pair{static_cast<long>(std::floor(p.x / near)), static_cast<long>(std::floor(p.y / near))};
    };
    const auto find = [&](Point p) -> std::uint64_t {
        const auto [cx, cy] = cell(p);
        std::uint64_t best = 0;
        double away = near;
        for (long x = cx - 1; x <= cx + 1; ++x)
            for (long y = cy - 1; y <= cy + 1; ++y)
                if (const auto at = places.find({x, y}); at != places.end())
                    for (const auto& [q, id] : at->second)
                        if (const double d = distance(p, q); d <= away) {
                            away = d;
                            best = id;
                        }
        return best;
    };
    for (const Structure& s : project.structures)
        if (placed(s)) places[cell({s.x, s.y})].push_back({{s.x, s.y}, s.id});
    // Ends of lines cut the lines that they stand on.
    std::vector<std::vector<Point>> parts;
    for (const auto& line : lines) {
        if (line.size() < 2 || length(line) < near) {
            ++out.skipped;
            continue;
        }
        std::set<double> cuts;
        const double all = length(line);
        const auto cut = [&](Point p) {
            const Station s = station_of(line, p);
            if (std::abs(s.offset) <= near && s.station > near && s.station < all - near &&
                distance(point_at(line, s.station, 0), p) <= near)
                cuts.insert(s.station);
        };
        for (const auto& other : lines)
            if (&other != &line && other.size() >= 2) {
                cut(other.front());
                cut(other.back());
            }
        for (const Structure& s : project.structures)
            if (placed(s)) cut({s.x, s.y});
        std::vector<Point> part{line.front()};
        double station = 0;
        auto next = cuts.begin();
        for (std::size_t i = 1; i < line.size(); ++i) {
            const double end = station + distance(line[i - 1], line[i]);
            for (; next != cuts.end() && *next <= end; ++next) {
                part.push_back(point_at(line, *next, 0));
                parts.push_back(part);
                part = {part.back()};
            }
            if (distance(part.back(), line[i]) > 1e-9) part.push_back(line[i]);
            station = end;
        }
        if (part.size() >= 2) parts.push_back(part);
    }
    const auto level = [&](Point p) { return ground ? ground(p) : not_given; };
    for (auto& part : parts)
        if (level(part.front()) < level(part.back())) std::reverse(part.begin(), part.end());
    std::stable_sort(parts.begin(), parts.end(), [&](const auto& a, const auto& b) {
        const double x = level(a.front()), y = level(b.front());
        return !std::isnan(x) && !std::isnan(y) && x > y;
    });
    std::set<std::pair<std::uint64_t, std::uint64_t>> joined;
    for (const Pipe& p : project.pipes) joined.insert(std::minmax(p.from.value, p.to.value));
    std::string near_name;
    std::map<std::uint64_t, std::string> names;
    for (const auto& part : parts) {
        std::uint64_t ends[2];
        for (int k = 0; k < 2; ++k) {
            const Point p{to_mm(k ? part.back().x : part.front().x), to_mm(k ? part.back().y : part.front().y)};
            ends[k] = find(p);
            if (ends[k]) continue;
            const std::string like = k && names.contains(ends[0]) ? names[ends[0]] : std::string();
            Structure s = new_structure(e.now(), StructureKind::Manhole, p, {level(p)}, like);
            typed(s, Kind::Structure, {"name", "kind", "x", "y"}, Origin::Imported);
            e.insert(s);
            places[cell(p)].push_back({p, s.id});
            names[s.id] = s.name;
            ends[k] = s.id;
            ++out.structures;
        }
        if (ends[0] == ends[1] || !joined.insert(std::minmax(ends[0], ends[1])).second) {
            ++out.skipped;
            continue;
        }
        std::vector<Point> bends;
        for (std::size_t i = 1; i + 1 < part.size(); ++i) bends.push_back({to_mm(part[i].x), to_mm(part[i].y)});
        Pipe pipe = laid_pipe(e.now(), {ends[0]}, {ends[1]}, std::move(bends));
        e.insert(std::move(pipe));
        ++out.pipes;
    }
    out.edit = e.take();
    out.edit.name = std::to_string(out.pipes) + " pipes from lines";
    return out;
}

Edit inlets_at(const Project& project, const std::vector<Point>& points, double tolerance, const GroundAt& ground) {
    Editing e(project, "Inlets at low points");
    for (const Point& given : points) {
        const Point p{to_mm(given.x), to_mm(given.y)};
        bool there = false;
        for (const Structure& s : e.now().structures) there |= distance({s.x, s.y}, p) <= tolerance;
        if (there) continue;
        Structure s = new_structure(e.now(), StructureKind::Inlet, p, {ground ? ground(p) : not_given}, "");
        typed(s, Kind::Structure, {"name", "kind", "x", "y"}, Origin::Proposed);
        e.insert(std::move(s));
    }
    return e.take();
}

Edit move_structures(const Project& project, const std::vector<StructureId>& which, Point by, const GroundAt& ground) {
    Editing e(project, "Move");
    for (const StructureId id : which) {
        const Structure* row = project.structures.find(id.value);
        if (!row) continue;
        const Point to{to_mm(row->x + by.x), to_mm(row->y + by.y)};
        e.set(Kind::Structure, id.value, "x", to.x);
        e.set(Kind::Structure, id.value, "y", to.y);
        if (row->origin[*field_index(Kind::Structure, "rim")] == Origin::Ground && ground)
            if (const double z = ground(to); !std::isnan(z))
                e.set(Kind::Structure, id.value, "rim", to_mm(z), Origin::Ground);
        if (const Street* street = project.streets.find(row->street.value)) {
            const Station on = station_of(street->line, to);
            const Origin was = row->origin[*field_index(Kind::Structure, "station")];
            e.set(Kind::Structure, id.value, "station", to_mm(on.station), was);
            e.set(Kind::Structure, id.value, "offset", to_mm(on.offset), was);
            if (row->kind == StructureKind::Inlet) follow_strips(e, project, *row, to_mm(on.station));
        }
    }
    follow(e, which);
    Edit edit = e.take();
    if (which.size() == 1) edit.name = "Move " + element_name(project, Kind::Structure, which[0].value);
    return edit;
}

SwapOutcome swap_kinds(const Project& project, const std::vector<Swap>& types, const std::vector<Swap>& materials,
                       const std::vector<ElementRef>& only) {
    SwapOutcome out;
    Editing e(project, "Exchange kinds");
    const auto chosen = [&](Kind kind, std::uint64_t id) {
        return only.empty() || std::find(only.begin(), only.end(), ElementRef{kind, id}) != only.end();
    };
    const auto target = [](const std::vector<Swap>& table, const std::string& from) -> const Swap* {
        for (const Swap& s : table)
            if (s.from == from && s.to != from) return &s;
        return nullptr;
    };
    for (const Structure& s : project.structures) {
        const Swap* swap = target(types, s.type);
        if (!swap || !chosen(Kind::Structure, s.id)) continue;
        const StructureType* type = nullptr;
        for (const StructureType& t : project.structure_types)
            if (t.name == swap->to) type = &t;
        if (!type) {
            out.remarks.push_back("the catalogue has no type \"" + swap->to + "\"");
            continue;
        }
        e.set(Kind::Structure, s.id, "type", type->name, Origin::Catalogue);
        // What ends a network stays what it is.
        if (s.kind != StructureKind::Outfall && s.kind != StructureKind::Pond)
            e.set(Kind::Structure, s.id, "kind", type->kind);
        ++out.structures;
    }
    for (const Pipe& p : project.pipes) {
        const Swap* swap = target(materials, p.material);
        if (!swap || !chosen(Kind::Pipe, p.id)) continue;
        auto sizes = sizes_of(project, swap->to, p.shape);
        std::erase_if(sizes, [&](const PipeSize* z) { return z->material != swap->to; });
        if (sizes.empty()) {
            out.remarks.push_back("\"" + swap->to + "\" has no size of the shape of " + pipe_name(project, p));
            continue;
        }
        const auto at =
            std::find_if(sizes.begin(), sizes.end(), [&](const PipeSize* s) { return s->size >= p.size - 1e-9; });
        const PipeSize& size = at == sizes.end() ? *sizes.back() : **at;
        if (at == sizes.end())
            out.remarks.push_back(pipe_name(project, p) + ": the largest \"" + swap->to + "\" is smaller than it was");
        e.set(Kind::Pipe, p.id, "material", size.material, Origin::Catalogue);
        e.set(Kind::Pipe, p.id, "size", size.size, Origin::Catalogue);
        if (!std::isnan(size.width)) e.set(Kind::Pipe, p.id, "width", size.width, Origin::Catalogue);
        e.set(Kind::Pipe, p.id, "roughness", size.roughness, Origin::Catalogue);
        e.set(Kind::Pipe, p.id, "wall", size.wall, Origin::Catalogue);
        ++out.pipes;
    }
    std::sort(out.remarks.begin(), out.remarks.end());
    out.remarks.erase(std::unique(out.remarks.begin(), out.remarks.end()), out.remarks.end());
    out.edit = e.take();
    return out;
}

}  // namespace culvert
