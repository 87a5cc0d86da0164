// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/lay.h"

#include <cmath>
#include <set>
#include <unordered_map>
#include <unordered_set>

namespace culvert {
namespace {

/// The pattern taken apart: text, branch, text, number with its digits, text.
struct Pattern {
    std::string before, between, after;
    std::size_t digits = 1;
    bool branch_first = true;
};
Pattern pattern_of(const Project& project) {
    const std::string& p = project.settings().name_pattern;
    const auto branch = p.find("{branch}"), number = p.find("{number");
    const auto close = number == std::string::npos ? number : p.find('}', number);
    if (branch == std::string::npos || close == std::string::npos || branch > number) return {};
    Pattern out;
    out.before = p.substr(0, branch);
    out.between = p.substr(branch + 8, number - branch - 8);
    out.after = p.substr(close + 1);
    if (p[number + 7] == ':')
        out.digits = static_cast<std::size_t>(std::clamp(std::atoi(p.c_str() + number + 8), 1, 9));
    return out;
}

}  // namespace

double to_mm(double metres) { return std::round(metres * 1000) / 1000; }

double drop_across(const Project& project, StructureId id) {
    const Structure* s = project.structures.find(id.value);
    if (!s || s->kind == StructureKind::Joint) return 0;  // no drop at an inline joint
    const StructureType* t = type_of(project, *s);
    return t && !std::isnan(t->drop) ? t->drop : project.settings().default_drop;
}

std::vector<Point> pipe_line(const Project& project, const Pipe& pipe) {
    const Structure *a = project.structures.find(pipe.from.value), *b = project.structures.find(pipe.to.value);
    if (!a || !b) return {};
    std::vector<Point> line{{a->x, a->y}};
    line.insert(line.end(), pipe.bends.begin(), pipe.bends.end());
    line.push_back({b->x, b->y});
    return line;
}

std::string branch_letter(int i) {
    std::string letter(1, static_cast<char>('A' + i % 26));
    for (i = i / 26 - 1; i >= 0; i = i / 26 - 1) letter.insert(letter.begin(), static_cast<char>('A' + i % 26));
    return letter;
}

std::string structure_name(const Project& project, const std::string& branch, int number) {
    const Pattern p = pattern_of(project);
    std::string digits = std::to_string(number);
    if (digits.size() < p.digits) digits.insert(0, p.digits - digits.size(), '0');
    return p.before + branch + p.between + digits + p.after;
}

NameParts parts_of_name(const Project& project, const std::string& name) {
    const Pattern p = pattern_of(project);
    if (name.size() < p.before.size() + p.between.size() + p.after.size() + 2 || !name.starts_with(p.before) ||
        !name.ends_with(p.after))
        return {};
    const std::string core = name.substr(p.before.size(), name.size() - p.before.size() - p.after.size());
    const auto digit = core.find_last_not_of("0123456789") + 1;
    if (digit >= core.size() || core.size() - digit > 9) return {};
    const std::string head = core.substr(0, digit);
    if (!head.ends_with(p.between)) return {};
    const std::string branch = head.substr(0, head.size() - p.between.size());
    if (branch.empty()) return {};
    return {branch, std::atoi(core.c_str() + digit)};
}

std::string next_branch(const Project& project) {
    std::set<std::string> used;
    for (const Structure& s : project.structures) {
        used.insert(parts_of_name(project, s.name).branch);
        used.insert(s.name.substr(0, s.name.find_first_of("0123456789")));
    }
    for (int i = 0;; ++i)
        if (std::string letter = branch_letter(i); !used.contains(letter)) return letter;
}

std::string next_structure_name(const Project& project, const std::string& near) {
    std::unordered_set<std::string> used;
    for (const Structure& s : project.structures) used.insert(s.name);
    NameParts at = parts_of_name(project, near);
    if (at.branch.empty()) at = {next_branch(project), static_cast<int>(project.settings().first_number)};
    std::string name = structure_name(project, at.branch, at.number);
    while (used.contains(name)) name = structure_name(project, at.branch, ++at.number);
    return name;
}

Edit renumber(const Project& project, const std::vector<StructureId>& chosen) {
    const std::unordered_set<std::uint64_t> taken = [&] {
        std::unordered_set<std::uint64_t> set;
        for (const StructureId s : chosen) set.insert(s.value);
        if (chosen.empty())
            for (const Structure& s : project.structures) set.insert(s.id);
        return set;
    }();
    // The way down from each structure: of its pipes as drawn, the one with the lowest invert at this end that does not
    // rise; good enough to name by, and independent of any solve.
    std::unordered_map<std::uint64_t, std::vector<std::uint64_t>> neighbours;
    for (const Pipe& p : project.pipes) {
        neighbours[p.from.value].push_back(p.to.value);
        neighbours[p.to.value].push_back(p.from.value);
    }
    for (auto& [id, list] : neighbours) std::sort(list.begin(), list.end());
    struct Place {
        std::uint64_t id, parent;
        double away;
    };
    std::vector<Place> order;  // breadth first from the outfalls
    std::unordered_map<std::uint64_t, std::uint64_t> parent;
    for (const Structure& s : project.structures)
        if (s.kind == StructureKind::Outfall) {
            order.push_back({s.id, 0, 0});
            parent[s.id] = 0;
        }
    const auto grow = [&](std::size_t from) {
        for (std::size_t i = from; i < order.size(); ++i)
            for (const std::uint64_t n : neighbours[order[i].id])
                if (parent.emplace(n, order[i].id).second) order.push_back({n, order[i].id, 0});
    };
    grow(0);
    for (const Structure& s : project.structures)  // what no outfall reaches
        if (parent.emplace(s.id, 0).second) {
            order.push_back({s.id, 0, 0});
            grow(order.size() - 1);
        }
    std::unordered_map<std::uint64_t, double> reach;  // longest way up from a structure
    std::unordered_map<std::uint64_t, std::vector<std::uint64_t>> children;
    for (auto o = order.rbegin(); o != order.rend(); ++o) {
        if (!o->parent) continue;
        const Structure *a = project.structures.find(o->id), *b = project.structures.find(o->parent);
        const double way =
            reach[o->id] + (a && b && placed(*a) && placed(*b) ? distance({a->x, a->y}, {b->x, b->y}) : 0);
        reach[o->parent] = std::max(reach[o->parent], way);
        children[o->parent].push_back(o->id);
    }
    std::unordered_set<std::string> used;
    for (const Structure& s : project.structures)
        if (!taken.contains(s.id)) used.insert(s.name);
    std::unordered_set<std::string> branches;
    for (const std::string& name : used) branches.insert(parts_of_name(project, name).branch);
    int letter = 0;
    const auto new_branch = [&] {
        std::string b = branch_letter(letter++);
        while (branches.contains(b)) b = branch_letter(letter++);
        return b;
    };
    std::vector<std::pair<std::uint64_t, std::string>> names;
    std::vector<std::uint64_t> starts;  // first structure of each branch, in order
    for (const Place& o : order)
        if (!o.parent) starts.push_back(o.id);
    for (std::size_t i = 0; i < starts.size(); ++i) {
        std::string branch;
        int number = static_cast<int>(project.settings().first_number);
        for (std::uint64_t at = starts[i]; at;) {
            if (taken.contains(at)) {
                if (branch.empty()) branch = new_branch();
                std::string name = structure_name(project, branch, number++);
                while (used.contains(name)) name = structure_name(project, branch, number++);
                names.emplace_back(at, name);
            }
            auto& up = children[at];
            if (up.empty()) break;
            const auto main = std::max_element(up.begin(), up.end(), [&](std::uint64_t a, std::uint64_t b) {
                const auto way = [&](std::uint64_t s) {
                    const Structure *x = project.structures.find(s), *y = project.structures.find(at);
                    return reach[s] + (x && y ? distance({x->x, x->y}, {y->x, y->y}) : 0);
                };
                return way(a) < way(b);
            });
            for (const std::uint64_t s : up)
                if (s != *main) starts.push_back(s);
            at = *main;
        }
    }
    Editing e(project, chosen.empty() ? "Renumber all" : "Renumber " + std::to_string(names.size()) + " structures");
    for (const auto& [id, name] : names) e.set(Kind::Structure, id, "name", name);
    return e.take();
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
        if (size.shape == pipe.shape && std::abs(size.size - s.default_size) < 1e-9 &&
            (s.default_material.empty() || size.material == s.default_material)) {
            pipe.material = size.material;
            pipe.roughness = size.roughness;
            pipe.wall = size.wall;
            for (const char* key : {"material", "roughness", "wall"}) note_origin(key, Origin::Catalogue);
            break;
        }
    const Structure *a = project.structures.find(from.value), *b = project.structures.find(to.value);
    if (!a || !b) return pipe;
    const double below = s.default_cover + pipe.wall + pipe.size, drop = drop_across(project, from);
    double start = a->rim - below;
    for (const Pipe& other : project.pipes) {
        if (other.to == from && other.invert_to - drop < start) start = other.invert_to - drop;
        if (other.from == from && other.invert_from < start) start = other.invert_from;
    }
    const double length = drawn_length(project, pipe);
    double end = start - s.default_slope * length;
    if (b->rim - below < end) end = b->rim - below;  // the ground falls faster than the default slope
    pipe.invert_from = to_mm(start);
    pipe.invert_to = to_mm(end);
    return pipe;
}

void follow(Editing& e, const std::vector<StructureId>& moved) {
    const std::size_t from_field = *field_index(Kind::Pipe, "invert_from"),
                      to_field = *field_index(Kind::Pipe, "invert_to");
    std::set<std::uint64_t> touched;
    for (const Pipe& p : e.now().pipes)
        if (std::find(moved.begin(), moved.end(), p.from) != moved.end() ||
            std::find(moved.begin(), moved.end(), p.to) != moved.end())
            touched.insert(p.id);
    // A pipe below another takes its level from it: go on downstream while ends that follow change.
    std::vector<std::uint64_t> work(touched.begin(), touched.end());
    for (std::size_t i = 0; i < work.size() && i < 100000; ++i) {
        const Pipe p = *e.now().pipes.find(work[i]);
        const bool start_free = p.origin[from_field] == Origin::Default,
                   end_free = p.origin[to_field] == Origin::Default;
        if (!start_free && !end_free) continue;
        Project without = e.now();
        without.pipes.erase(p.id);
        Pipe laid = p;
        {
            const Settings& s = without.settings();
            const Structure *a = without.structures.find(p.from.value), *b = without.structures.find(p.to.value);
            if (!a || !b) continue;
            const double below = s.default_cover + p.wall + p.size, drop = drop_across(without, p.from);
            double start = p.invert_from;
            if (start_free) {
                start = a->rim - below;
                for (const Pipe& other : without.pipes) {
                    if (other.to == p.from) start = std::min(start, other.invert_to - drop);
                }
            }
            const double end = std::min(start - s.default_slope * drawn_length(without, p), b->rim - below);
            laid.invert_from = start_free ? to_mm(start) : p.invert_from;
            laid.invert_to = end_free ? to_mm(end) : p.invert_to;
        }
        const auto same = [](double x, double y) { return x == y || (std::isnan(x) && std::isnan(y)); };
        if (start_free && !same(laid.invert_from, p.invert_from))
            e.set(Kind::Pipe, p.id, "invert_from", laid.invert_from, Origin::Default);
        if (end_free && !same(laid.invert_to, p.invert_to)) {
            e.set(Kind::Pipe, p.id, "invert_to", laid.invert_to, Origin::Default);
            for (const Pipe& next : e.now().pipes)
                if (next.from == p.to && touched.insert(next.id).second) work.push_back(next.id);
        }
    }
}

double lowest_invert(const Project& project, StructureId structure) {
    double low = not_given;
    for (const Pipe& p : project.pipes) {
        if (p.from == structure) low = std::fmin(low, p.invert_from);
        if (p.to == structure) low = std::fmin(low, p.invert_to);
    }
    return low;
}

std::string_view structure_word(StructureKind kind) {
    switch (kind) {
        case StructureKind::Inlet: return "inlet";
        case StructureKind::Manhole: return "manhole";
        case StructureKind::Outfall: return "outfall";
        case StructureKind::Joint: return "inline joint";
        case StructureKind::Pond: return "pond";
    }
    return "structure";
}
double structure_depth(const Project& project, const Structure& s) {
    const StructureType* t = type_of(project, s);
    const double sump = !std::isnan(s.sump) ? s.sump : t ? t->sump : 0;
    return s.rim - lowest_invert(project, {s.id}) + sump;
}

Structure new_structure(const Project& project, StructureKind kind, Point at, GroundLevel ground,
                        const std::string& near) {
    Structure s;
    s.id = random_id();
    s.kind = kind;
    s.x = at.x;
    s.y = at.y;
    s.name = next_structure_name(project, near);
    const auto origin = [&s](std::string_view key, Origin o) { s.origin[*field_index(Kind::Structure, key)] = o; };
    for (const StructureType& t : project.structure_types)
        if (t.name == project.settings().default_type && t.kind == s.kind) {
            s.type = t.name;
            origin("type", Origin::Catalogue);
        }
    if (!std::isnan(ground.level)) {
        s.rim = to_mm(ground.level);
        origin("rim", Origin::Ground);
    } else if (const Structure* other = [&]() -> const Structure* {
                   for (const Structure& o : project.structures)
                       if (o.name == near && !near.empty()) return &o;
                   return nullptr;
               }())
        s.rim = other->rim;
    else s.rim = project.settings().default_rim;
    // The nearest street within its section's width.
    double nearest = 1e300;
    for (const Street& street : project.streets) {
        const Station on = station_of(street.line, at);
        const double width = street.lane_width + street.gutter_width + street.verge_width;
        if (std::abs(on.offset) > width || std::abs(on.offset) >= nearest) continue;
        nearest = std::abs(on.offset);
        s.street = {street.id};
        s.station = to_mm(on.station);
        s.offset = to_mm(on.offset);
    }
    return s;
}

}  // namespace culvert
