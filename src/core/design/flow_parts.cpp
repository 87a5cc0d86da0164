// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/flow_parts.h"

#include <algorithm>
#include <cmath>

#include "core/geometry/line.h"

namespace culvert {
namespace {

/// Where every part keeps at least so much of the line, a drag cannot make one vanish.
constexpr double shortest_part = 0.1;
constexpr double short_grass = 0.15;  ///< n of sheet flow, TR-55 table 3-1

template <class Use>
void with_slope(FlowPart& part, Use&& use) {
    std::visit(
        [&]<class P>(P& p) {
            if constexpr (!std::is_same_v<P, EnteredTime>) use(p.length, p.slope);
        },
        part);
}
bool has_length(const FlowPart& part) { return !std::holds_alternative<EnteredTime>(part); }

}  // namespace

std::vector<double> part_ends(const std::vector<FlowPart>& parts, double line_length) {
    std::vector<double> ends;
    double at = 0;
    std::size_t last = parts.size();
    for (std::size_t i = 0; i < parts.size(); ++i) {
        if (has_length(parts[i])) {
            at += length_of(parts[i]);
            last = i;
        }
        ends.push_back(std::min(at, line_length));
    }
    for (std::size_t i = last; i < ends.size(); ++i) ends[i] = line_length;
    return ends;
}

MeasuredParts measured_parts(std::vector<FlowPart> parts, const std::vector<double>& ends,
                             const std::vector<Point>& line, const std::function<double(Point)>& level) {
    MeasuredParts out;
    const double whole = length(line);
    const double mean = line.size() > 1 ? (level(line.front()) - level(line.back())) / whole : not_given;
    double from = 0;
    int number = 0;
    std::size_t left = 0;  // parts with a length that are still to come
    for (const FlowPart& p : parts) left += has_length(p);
    for (std::size_t i = 0; i < parts.size() && i < ends.size(); ++i) {
        ++number;
        if (!has_length(parts[i])) continue;
        --left;
        const double most = std::max(whole - shortest_part * static_cast<double>(left), from + shortest_part);
        const double to =
            left == 0 ? std::max(whole, from + shortest_part) : std::clamp(ends[i], from + shortest_part, most);
        const double l = std::round((to - from) * 100) / 100;
        const double fall = level(point_at(line, from, 0)) - level(point_at(line, to, 0));
        double slope = fall / l;
        const auto say = [&](const char* what) {
            out.remarks.push_back("part " + std::to_string(number) + ": " + what);
        };
        with_slope(parts[i], [&](double& own_length, double& own_slope) {
            own_length = l;
            if (!(slope > 0)) {
                const bool known = mean > 0;
                say(std::isnan(slope)
                        ? (known ? "the ground is not known at its ends; the mean fall of the path is taken"
                                 : "the ground is not known at its ends; it keeps its slope")
                        : (known ? "the ground does not fall along it; the mean fall of the path is taken"
                                 : "the ground does not fall along it; it keeps its slope"));
                slope = known ? mean : own_slope;
            }
            own_slope = std::max(std::round(slope * 1e5) / 1e5, 1e-5);
        });
        from = to;
    }
    out.parts = std::move(parts);
    return out;
}

std::vector<FlowPart> usual_parts(const Project& project, const Catchment& c, double line_length) {
    double paved = 0, whole = 0, largest = 0, n = short_grass;
    for (const LandCover& l : project.land_covers) {
        if (l.catchment.value != c.id || !(l.area > 0)) continue;
        whole += l.area;
        if (l.impervious > 0) paved += l.area * std::min(l.impervious, 1.0);
        if (l.area > largest) {
            largest = l.area;
            n = l.roughness > 0 ? l.roughness : short_grass;
        }
    }
    const double sheet = units_of(project).system() == UnitSystem::Us ? longest_sheet_flow : 30;
    std::vector<FlowPart> parts{SheetFlow{std::min(sheet, line_length), 0.01, n,
                                          usable(project.settings(), &Settings::two_year_rain, not_given)}};
    if (line_length > sheet + 1)
        parts.push_back(ShallowFlow{line_length - sheet, 0.01, whole > 0 && paved > whole / 2});
    return parts;
}

Edit measure_flow_path(const Project& project, CatchmentId id, std::vector<Point> line,
                       const std::function<double(Point)>& level, std::vector<double> ends,
                       std::vector<std::string>* remarks) {
    const Catchment* c = project.catchments.find(id.value);
    if (!c) return {};
    Editing e(project, "Measure the flow path of " + c->name);
    if (line.size() > 1) e.set(Kind::Catchment, c->id, "flow_path", line);
    else line = c->flow_path;
    if (line.size() < 2 || !in_reach(line) || !(length(line) > shortest_part)) return {};
    PartsRead own = read_parts(c->path_parts, usable(project.settings(), &Settings::two_year_rain, not_given));
    if (!own.fault.empty() || std::none_of(own.parts.begin(), own.parts.end(), has_length)) {
        own.parts = usual_parts(project, *c, length(line));
        ends.clear();
    }
    if (ends.size() != own.parts.size()) ends = part_ends(own.parts, length(line));
    MeasuredParts measured = measured_parts(std::move(own.parts), ends, line, level);
    e.set(Kind::Catchment, c->id, "path_parts", parts_text(measured.parts, units_of(project)), Origin::Ground);
    e.set(Kind::Catchment, c->id, "time_by", TimeBy::Parts);
    if (remarks) *remarks = std::move(measured.remarks);
    return e.take();
}

}  // namespace culvert
