// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/roadside_ditch.h"

#include <algorithm>
#include <cmath>

#include "core/geometry/line.h"

namespace culvert {
namespace {

constexpr double widest_offset = 40;  ///< m from the street's line at which a structure still stands beside it

/// A structure beside the street.
struct Beside {
    const Structure* structure;
    double station, offset;
};
std::vector<Beside> on_side(const Project& project, const Street& street, bool right) {
    std::vector<Beside> list;
    for (const Structure& s : project.structures) {
        if (s.status == Status::Abandoned || !placed(s) || (s.street && s.street.value != street.id)) continue;
        const Station at = station_of(street.line, {s.x, s.y});
        // One that names the street stands at it however far; another one must stand beside its line.
        const Point foot = point_at(street.line, at.station, at.offset);
        const bool beside = std::hypot(foot.x - s.x, foot.y - s.y) < 0.5;
        if (!s.street && (!beside || std::abs(at.offset) > widest_offset)) continue;
        if ((at.offset > 0) == right) list.push_back({&s, at.station, at.offset});
    }
    std::sort(list.begin(), list.end(), [](const Beside& a, const Beside& b) {
        return std::tie(a.station, a.structure->id) < std::tie(b.station, b.structure->id);
    });
    return list;
}
/// Where the lines meet that run beside both sides of a corner; at a hairpin no further off than twice the offset.
Point beside_corner(std::span<const Point> line, std::size_t i, double offset) {
    const auto right = [](Point a, Point b) {
        const double l = std::max(distance(a, b), 1e-9);
        return Point{(b.y - a.y) / l, -(b.x - a.x) / l};
    };
    const Point before = right(line[i - 1], line[i]), after = right(line[i], line[i + 1]);
    const double reach = offset / std::max(1 + before.x * after.x + before.y * after.y, 0.5);
    return {line[i].x + reach * (before.x + after.x), line[i].y + reach * (before.y + after.y)};
}
/// Corners of the street between two stations, pushed to the side by what the ditch stands off there.
std::vector<Point> along(const Street& street, const Beside& a, const Beside& b) {
    std::vector<Point> bends;
    double station = 0;
    for (std::size_t i = 1; i + 1 < street.line.size(); ++i) {
        station += distance(street.line[i - 1], street.line[i]);
        if (station <= a.station + 0.5 || station >= b.station - 0.5) continue;
        const double share = (station - a.station) / (b.station - a.station);
        const Point p = beside_corner(street.line, i, a.offset + share * (b.offset - a.offset));
        bends.push_back({std::round(p.x * 1000) / 1000, std::round(p.y * 1000) / 1000});
    }
    return bends;
}
double lowest_invert(const Project& project, const Structure& s) {
    double low = not_given;
    for (const Pipe& p : project.pipes)
        for (const auto& [end, level] : {std::pair{p.from, p.invert_from}, {p.to, p.invert_to}})
            if (end.value == s.id && !std::isnan(level) && !(level >= low)) low = level;
    return low;
}

}  // namespace

DitchProposal propose_ditch(const Project& project, const DitchAsk& ask) {
    DitchProposal out;
    const Street* street = project.streets.find(ask.street.value);
    if (!street || street->line.size() < 2) {
        out.fault = "the street has no line";
        return out;
    }
    if (!(ask.depth > 0.05 && ask.depth <= 5) || !(ask.width >= 0.1 && ask.width <= 20) ||
        !(ask.sides >= 0 && ask.sides <= 10) || !(ask.roughness >= 0.01 && ask.roughness <= 0.2)) {
        out.fault = "depth is 0.05 to 5 m, width 0.1 to 20 m, side slope 0 to 10, Manning n 0.01 to 0.2";
        return out;
    }
    const std::vector<Beside> side = on_side(project, *street, ask.right);
    const std::string where = std::string(ask.right ? "right" : "left") + " side of " + street->name;
    if (side.size() < 2) {
        out.fault = "the " + where + " has " + (side.empty() ? "no structure" : "one structure") +
                    ": a ditch joins two at least. Place inlets or joints along it first";
        return out;
    }
    Editing e(project, "Ditch on the " + where);
    for (std::size_t i = 0; i + 1 < side.size(); ++i) {
        const Beside *a = &side[i], *b = &side[i + 1];
        const std::string names = a->structure->name + " and " + b->structure->name;
        if (std::any_of(project.pipes.begin(), project.pipes.end(), [&](const Pipe& p) {
                return (p.from.value == a->structure->id && p.to.value == b->structure->id) ||
                       (p.to.value == a->structure->id && p.from.value == b->structure->id);
            })) {
            out.remarks.push_back(names + " are joined already");
            continue;
        }
        if (b->station - a->station < 0.5) {
            out.remarks.push_back(names + " stand side by side");
            continue;
        }
        if (std::isnan(a->structure->rim) || std::isnan(b->structure->rim)) {
            out.remarks.push_back(names + ": a rim is not given, so the ditch has no level");
            continue;
        }
        std::vector<Point> bends = along(*street, *a, *b);
        double up = a->structure->rim - ask.depth, down = b->structure->rim - ask.depth;
        if (down > up) {
            std::swap(a, b);
            std::swap(up, down);
            std::reverse(bends.begin(), bends.end());
        }
        if (a->structure->kind == StructureKind::Outfall) {
            out.remarks.push_back(names + ": no ditch leaves an outfall");
            continue;
        }
        // What comes by a pipe to its head must be able to run on in it.
        if (const double low = lowest_invert(project, *a->structure); low < up) up = low;
        Pipe p;
        p.id = random_id();
        p.from = {a->structure->id};
        p.to = {b->structure->id};
        p.shape = Shape::Trapezoid;
        p.size = ask.depth;
        p.width = ask.width;
        p.sides = ask.sides;
        p.roughness = ask.roughness;
        p.wall = 0;
        p.material = "ditch";
        p.bends = std::move(bends);
        p.invert_from = std::round(up * 1000) / 1000;
        p.invert_to = std::round(std::min(up, down) * 1000) / 1000;
        const double length = drawn_length(project, p);
        if (const double slope = (p.invert_from - p.invert_to) / length; !(slope >= out.least_slope))
            out.least_slope = slope;
        if (down > up) out.remarks.push_back(names + ": the pipe that comes to its head lies below the ditch's foot");
        ++out.channels;
        out.length += length;
        e.insert(std::move(p));
    }
    out.edit = e.take();
    if (out.channels == 0 && out.fault.empty())
        out.fault = "no two neighbours on the " + where + " can be joined" +
                    (out.remarks.empty() ? "" : ": " + out.remarks.front());
    return out;
}

}  // namespace culvert
