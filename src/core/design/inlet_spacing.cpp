// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/inlet_spacing.h"

#include <algorithm>
#include <cmath>
#include <tuple>
#include <utility>

#include "core/analysis/street_flow.h"
#include "core/model/event_rain.h"
#include "core/model/lay.h"
#include "core/network/street_inlet.h"
#include "core/review/review.h"

namespace culvert {
namespace {

const StructureType* inlet_type(const Project& project) {
    const StructureType* first = nullptr;
    for (const StructureType& t : project.structure_types) {
        if (t.kind != StructureKind::Inlet || !inlet_form(t) || t.inlet == InletKind::Area) continue;
        if (t.name == project.settings().default_type) return &t;
        if (!first) first = &t;
    }
    return first;
}

/// Ground along one curb between two stations, as wide as it drains; right of the street's line where positive.
std::vector<Point> strip_outline(const Street& street, double from, double to, double width) {
    std::vector<Point> outline;
    const int steps = std::max(1, static_cast<int>((to - from) / 20));
    for (int k = 0; k <= steps; ++k) outline.push_back(point_at(street.line, from + (to - from) * k / steps, 0));
    for (int k = steps; k >= 0; --k) outline.push_back(point_at(street.line, from + (to - from) * k / steps, width));
    return outline;
}

}  // namespace

void follow_strips(Editing& e, const Project& project, const Structure& was, double station) {
    const Street* street = project.streets.find(was.street.value);
    if (!street || std::isnan(was.station) || std::isnan(was.offset) || std::isnan(station)) return;
    static const std::size_t outline_field = *field_index(Kind::Catchment, "outline");
    constexpr double same = 0.5, shortest = 1;  // m
    struct Strip {
        const Catchment* row;
        double from, to, width;
    };
    std::vector<Strip> ends, starts;  // at the inlet's old station
    for (const Catchment& c : project.catchments) {
        if (c.origin[outline_field] != Origin::Proposed || c.outline.size() < 4) continue;
        const Structure* target = project.structures.find(c.structure.value);
        if (!target || target->street != was.street || (target->offset < 0) != (was.offset < 0)) continue;
        Strip s{&c, 1e300, -1e300, 0};
        for (const Point& p : c.outline) {
            const Station on = station_of(street->line, p);
            s.from = std::min(s.from, on.station);
            s.to = std::max(s.to, on.station);
            if (std::abs(on.offset) > std::abs(s.width)) s.width = on.offset;
        }
        if (std::abs(s.to - was.station) < same && station > s.from + shortest) ends.push_back(s);
        else if (std::abs(s.from - was.station) < same && station < s.to - shortest) starts.push_back(s);
    }
    const auto reshape = [&](const Strip& s, double from, double to) {
        e.set(Kind::Catchment, s.row->id, "outline", strip_outline(*street, from, to, s.width), Origin::Proposed);
        e.set(Kind::Catchment, s.row->id, "area", std::round((to - from) * std::abs(s.width) * 10) / 10,
              Origin::Proposed);
    };
    for (const Strip& s : ends) reshape(s, s.from, station);
    for (const Strip& s : starts) reshape(s, station, s.to);
}

SpacingTask spacing_task(const Project& project, const SiteGround& site, const Street& street, EventId event,
                         std::string* type, std::string* fault) {
    SpacingTask t;
    const auto say = [&](const char* why) {
        *fault = why;
        return t;
    };
    const RainEvent* e = project.events.find(event.value);
    if (!e) e = design_event(project);
    if (!e || !event_rain_fault(*e).empty()) return say("there is no rain: paste a rain table under Rain");
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
    const double intensity = rain_of(*e).curve.intensity(s.least_time) * s.uplift;
    t.flankers = street.flankers;
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
    const std::size_t outline_field = *field_index(Kind::Catchment, "outline"),
                      area_field = *field_index(Kind::Catchment, "area");
    for (const std::size_t side : {std::size_t{0}, std::size_t{1}}) {
        const double sign = side ? 1 : -1;
        for (const Structure& s : project.structures)
            if (s.street == id && takes_water(s) && (s.offset < 0) == (side == 0)) out.stood[side] = true;
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
            const Point at = point_at(street->line, in.station, sign * offset);
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
            s.street_grade = grade_to(task.profile, in.station);
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
            c.outline = strip_outline(*street, in.drains_from, in.drains_to, sign * task.drained_width);
            for (const std::size_t field : {outline_field, area_field}) c.origin[field] = Origin::Proposed;
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

InletJudgement judge_street(const Project& project, const SiteGround&, StreetId id, EventId event) {
    InletJudgement out;
    const Street* street = project.streets.find(id.value);
    const RainEvent* e = project.events.find(event.value);
    if (!e) e = design_event(project);
    if (!street || !e) {
        out.fault = street ? "there is no rain: paste a rain table under Rain" : "no street is chosen";
        return out;
    }
    Network net = compile(project);
    const EventRain rain = rain_of(*e);
    const LimitTable limits(project, {e->id});
    const UnitSet u = units_of(project);
    Summaries found(net);
    solve_streets(net, rain, found);
    const auto within = [&](std::size_t i, const StreetFlow& f) {
        const double limit =
            limits.limit(LimitKind::MostSpread, net.nodes[static_cast<std::size_t>(net.inlets[i].node)].structure.value)
                .value;
        constexpr double drop = 5e-5;  // m3/s
        return f.over_crown <= drop && (std::isnan(limit) || !beyond_limit(f.spread, limit, true));
    };
    struct Standing {
        std::size_t inlet;
        const Structure* structure;
    };
    std::vector<Standing> row;
    for (std::size_t i = 0; i < net.inlets.size(); ++i) {
        const Structure* s =
            project.structures.find(net.nodes[static_cast<std::size_t>(net.inlets[i].node)].structure.value);
        if (s && s->street == id) row.push_back({i, s});
    }
    if (row.empty()) {
        out.fault = "the street has no inlets that are computed: see their findings";
        return out;
    }
    std::sort(row.begin(), row.end(), [](const Standing& a, const Standing& b) {
        return std::tie(a.structure->offset, a.structure->station) <
               std::tie(b.structure->offset, b.structure->station);
    });
    const Structure* spare = nullptr;
    double least = 1e300;
    for (const Standing& at : row) {
        // Without it: it takes nothing, and all that comes runs on. One whose water has no way on is needed.
        StreetInlet& in = net.inlets[at.inlet];
        bool needed = true;
        if (in.end == PathEnd::Structure && !in.sag) {
            Grate closed;
            closed.clogging = 1;
            const InletForm form = std::exchange(in.form, closed);
            Summaries without(net);
            solve_streets(net, rain, without);
            in.form = form;
            needed = !within(at.inlet, without.streets[at.inlet]);
            for (std::size_t i = 0; i < net.inlets.size(); ++i)
                if (within(i, found.streets[i]) && !within(i, without.streets[i])) needed = true;
            // One that stands too wide already must not get worse.
            for (std::size_t i = 0; i < net.inlets.size(); ++i)
                if (!within(i, found.streets[i]) && without.streets[i].flow > found.streets[i].flow * (1 + 1e-9))
                    needed = true;
        }
        const StreetFlow& f = found.streets[at.inlet];
        out.words.push_back(at.structure->name + ": spread " + u.text(f.spread, Quantity::Length) +
                            (within(at.inlet, f) ? ", within" : ", beyond what is allowed") +
                            (needed ? "" : "; not needed"));
        if (!needed && f.captured < least) {
            least = f.captured;
            spare = at.structure;
        }
    }
    if (!spare) return out;
    // Its catchments and what comes to it go to where its street path leads.
    Editing edit(project, "Drop inlet " + spare->name);
    StructureId to;
    for (const StreetPath& path : project.street_paths)
        if (path.from.value == spare->id) to = path.to;
    for (const Catchment& c : project.catchments)
        if (c.structure.value == spare->id) edit.set(Kind::Catchment, c.id, "structure", to.value);
    for (const StreetPath& path : project.street_paths)
        if (path.to.value == spare->id) edit.set(Kind::StreetPath, path.id, "to", to.value);
    edit.set(Kind::Structure, spare->id, "kind", StructureKind::Manhole);
    edit.set(Kind::Structure, spare->id, "type", std::string());
    out.edit = edit.take();
    return out;
}

}  // namespace culvert
