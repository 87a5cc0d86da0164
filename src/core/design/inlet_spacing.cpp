// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/inlet_spacing.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/hydrology/idf.h"
#include "core/model/lay.h"
#include "core/network/street_inlet.h"
#include "core/review/review.h"

namespace culvert {
namespace {

/// Place at a station of a line, with the direction there.
struct OnStreet {
    Point at, along;
};
OnStreet place_at(const std::vector<Point>& line, double station) {
    for (std::size_t i = 1; i < line.size(); ++i) {
        const double dx = line[i].x - line[i - 1].x, dy = line[i].y - line[i - 1].y, l = std::hypot(dx, dy);
        if (l <= 0) continue;
        if (station <= l || i + 1 == line.size())
            return {{line[i - 1].x + dx / l * station, line[i - 1].y + dy / l * station}, {dx / l, dy / l}};
        station -= l;
    }
    return {line.empty() ? Point{} : line.front(), {1, 0}};
}
Point beside(const std::vector<Point>& line, double station, double offset) {
    const OnStreet s = place_at(line, station);
    return {s.at.x + s.along.y * offset, s.at.y - s.along.x * offset};
}

const StructureType* inlet_type(const Project& project) {
    const StructureType* first = nullptr;
    for (const StructureType& t : project.structure_types) {
        if (t.kind != StructureKind::Inlet || !inlet_form(t) || t.inlet == InletKind::Area) continue;
        if (t.name == project.settings().default_type) return &t;
        if (!first) first = &t;
    }
    return first;
}

}  // namespace

SpacingTask spacing_task(const Project& project, const SiteGround& site, const Street& street, EventId event,
                         std::string* type, std::string* fault) {
    SpacingTask t;
    const auto say = [&](const char* why) {
        *fault = why;
        return t;
    };
    const RainEvent* e = project.events.find(event.value);
    if (!e) e = design_event(project);
    if (!e || !idf_fault(e->durations, e->intensities).empty())
        return say("there is no rain: paste a rain table under Rain");
    const StructureType* kind = inlet_type(project);
    if (!kind) return say("no type of the catalogue is an inlet with its kind given");
    *type = kind->name;
    t.profile = profile_of(street, site.ground);
    if (t.profile.size() < 2) return say("the street has no profile: paste its levels, or import a surface");
    t.section = section_of(static_cast<const StreetShape&>(street));
    t.n = street.roughness;
    t.inlet = *inlet_form(*kind);
    t.drained_width = street.strip_width;
    const Settings& s = project.settings();
    const double intensity = IdfCurve(e->durations, e->intensities).intensity(s.least_time) * s.uplift;
    t.load = std::min(1.0, street.strip_coefficient * e->frequency_factor) * street.strip_width * intensity;
    t.allowed_spread = LimitTable(project, {e->id}).limit(LimitKind::MostSpread, 0).value;
    if (std::isnan(t.allowed_spread)) t.allowed_spread = 0;
    t.begin = t.profile.front().station;
    t.end = t.profile.back().station;
    t.crest = street.curb_height;
    for (std::size_t i = 0; i + 1 < street.avoid.size(); i += 2)
        t.avoid.emplace_back(street.avoid[i], street.avoid[i + 1]);
    t.constants = street_constants(s.edition);
    return t;
}

InletProposal propose_inlets(const Project& project, const SiteGround& site, StreetId id, EventId event) {
    InletProposal out;
    const Street* street = project.streets.find(id.value);
    if (!street) {
        out.fault = "no street is chosen";
        return out;
    }
    const SpacingTask task = spacing_task(project, site, *street, event, &out.type, &out.fault);
    if (!out.fault.empty()) return out;
    Editing e(project, "Space inlets along " + street->name);
    const std::size_t station_field = *field_index(Kind::Structure, "station");
    for (const std::size_t side : {std::size_t{0}, std::size_t{1}}) {
        const double sign = side ? 1 : -1;
        for (const Structure& s : project.structures)
            if (s.street == id && s.kind == StructureKind::Inlet && (s.offset < 0) == (side == 0))
                out.stood[side] = true;
        if (out.stood[side]) continue;
        Spacing& spacing = out.sides[side];
        spacing = space_inlets(task);
        if (!spacing.fault.empty()) {
            out.fault = spacing.fault;
            return out;
        }
        std::vector<std::uint64_t> ids;
        std::string near;
        for (const SpacedInlet& in : spacing.inlets) {
            const StreetShape shape = shape_at(project, *street, in.station);
            const double offset = shape.to_curb() - std::min(0.25, shape.gutter_width / 2);
            const Point at = beside(street->line, in.station, sign * offset);
            Structure s;
            s.id = random_id();
            s.name = next_structure_name(e.now(), near);
            near = s.name;
            s.kind = StructureKind::Inlet;
            s.type = out.type;
            s.x = at.x;
            s.y = at.y;
            s.rim = std::round((level_at(task.profile, in.station) + height_at(shape, offset)) * 1000) / 1000;
            s.street = id;
            s.station = in.station;
            s.offset = sign * offset;
            s.street_grade = std::abs(grade_at(task.profile, in.station));
            if (in.as == SpacedAs::Sag) {
                s.inlet_place = InletPlace::Sag;
                s.street_grade = not_given;
            }
            if (!street->levels.empty()) s.street_grade = not_given;  // the street's own profile tells
            s.origin[station_field] = Origin::Proposed;
            ids.push_back(s.id);
            e.insert(s);
            Catchment c;
            c.name = s.name + " strip";
            c.structure = {s.id};
            c.area = in.length * task.drained_width;
            c.coefficient = street->strip_coefficient;
            c.time = project.settings().least_time;
            const double from = in.drains_from, to = in.drains_to;
            const int steps = std::max(1, static_cast<int>((to - from) / 20));
            for (int k = 0; k <= steps; ++k)
                c.outline.push_back(beside(street->line, from + (to - from) * k / steps, 0));
            for (int k = steps; k >= 0; --k)
                c.outline.push_back(beside(street->line, from + (to - from) * k / steps, sign * task.drained_width));
            if (c.area > 0) e.insert(c);
            ++out.placed;
        }
        for (std::size_t i = 0; i < ids.size(); ++i) {
            const int to = spacing.inlets[i].to;
            if (to < 0) continue;
            StreetPath path;
            path.name = "gutter";
            path.from = {ids[i]};
            path.to = {ids[static_cast<std::size_t>(to)]};
            e.insert(path);
        }
        out.remarks.insert(out.remarks.end(), spacing.notes.begin(), spacing.notes.end());
    }
    if (out.stood[0] && out.stood[1])
        out.fault = "both sides have inlets: judge them, or delete those to be placed anew";
    out.edit = e.take();
    return out;
}

InletJudgement judge_street(const Project& project, const SiteGround& site, StreetId id, EventId event) {
    InletJudgement out;
    const Street* street = project.streets.find(id.value);
    if (!street) {
        out.fault = "no street is chosen";
        return out;
    }
    std::string type;
    SpacingTask task = spacing_task(project, site, *street, event, &type, &out.fault);
    if (!out.fault.empty()) return out;
    const UnitSet u = units_of(project);
    const Structure* spare = nullptr;
    double least = 1e300;
    for (const double sign : {-1.0, 1.0}) {
        std::vector<const Structure*> row;
        for (const Structure& s : project.structures)
            if (s.street == id && s.kind == StructureKind::Inlet && (s.offset < 0) == (sign < 0) &&
                !std::isnan(s.station))
                row.push_back(&s);
        if (row.empty()) continue;
        std::sort(row.begin(), row.end(), [](auto* a, auto* b) { return a->station < b->station; });
        std::vector<double> stations;
        for (const Structure* s : row) stations.push_back(s->station);
        if (const StructureType* own = type_of(project, *row.front()))
            if (const auto form = inlet_form(*own)) task.inlet = *form;
        for (const JudgedInlet& j : judge_inlets(task, stations)) {
            const Structure* s = *std::min_element(row.begin(), row.end(), [&](auto* a, auto* b) {
                return std::abs(a->station - j.inlet.station) < std::abs(b->station - j.inlet.station);
            });
            out.words.push_back(s->name + ": spread " + u.text(j.inlet.spread, Quantity::Length) +
                                (j.holds ? ", within" : ", beyond what is allowed") + (j.needed ? "" : "; not needed"));
            if (!j.needed && j.inlet.own < least) {
                least = j.inlet.own;
                spare = s;
            }
        }
    }
    if (out.words.empty()) out.fault = "the street has no inlets";
    if (!spare) return out;
    Editing e(project, "Drop inlet " + spare->name);
    e.remove(Kind::Structure, spare->id);
    out.edit = e.take();
    return out;
}

}  // namespace culvert
