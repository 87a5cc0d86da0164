// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <set>

#include "core/design/inlet_spacing.h"
#include "core/design/street_remedies.h"
#include "support/small_street.h"

using namespace culvert;

namespace {

/// The street bare, bent and with levels of its own; an allowed spread of 1.5 m.
Project bare(bool own_levels = true) {
    Project p = street();
    for (const std::uint64_t id : {1, 2}) p.structures.erase(id);
    for (const std::uint64_t id : {11, 12}) p.pipes.erase(id);
    p.street_paths.erase(31);
    p.catchments.erase(21);
    Street* s = p.streets.change(70);
    s->line = {{0, 0}, {120, 0}, {120, 180}};
    s->stations = {0, 160, 300};
    s->levels = {106, 102, 104};  // a low point at 160 m
    s->strip_width = 30;
    if (!own_levels) s->stations.clear(), s->levels.clear();
    p.limits.change(limit_id(p, LimitKind::MostSpread))->active = true;
    p.limits.change(limit_id(p, LimitKind::MostSpread))->value = 1.5;
    p.settings_rows.change(settings_id)->least_time = 300;
    return p;
}
std::vector<Structure> inlets_of(const Project& p, bool right) {
    std::vector<Structure> list;
    for (const Structure& s : p.structures)
        if (s.kind == StructureKind::Inlet && (s.offset > 0) == right) list.push_back(s);
    std::sort(list.begin(), list.end(), [](auto& a, auto& b) { return a.station < b.station; });
    return list;
}

}  // namespace

/// Inlets put on a street: their rows, strips and gutters against the spacing itself, and what follows when they move.
class TestStreetInlets : public QObject {
    Q_OBJECT
  private slots:
    void rows_are_what_the_spacing_found() {
        const Project p = bare();
        std::string type, fault;
        const SpacingTask task = spacing_task(p, {}, *p.streets.find(70), {5}, &type, &fault);
        QVERIFY2(fault.empty(), fault.c_str());
        QVERIFY(close(task.load, 0.7 * 30 * 4e-5) && close(task.allowed_spread, 1.5) && task.begin == 0);
        QVERIFY(task.end == 300 && close(task.crest, p.streets.find(70)->curb_height) && task.drained_width == 30);
        Project wide = p;
        wide.streets.change(70)->cross_slope = 0.035;
        wide.streets.change(70)->gutter_width = 0.8;
        const SpacingTask other = spacing_task(wide, {}, *wide.streets.find(70), {5}, &type, &fault);
        // 1.5 m of water: over the gutter by its own fall, on the lanes by theirs.
        const double deep = 0.8 * p.streets.find(70)->gutter_slope + 0.7 * 0.035;
        QVERIFY(close(depth_of_spread(other.section, 1.5), deep, 1e-9));
        const Spacing one = space_inlets(task);
        const InletProposal found = propose_inlets(p, {}, {70}, {5});
        QVERIFY(found.fault.empty() && found.type == type && found.placed == 2 * static_cast<int>(one.inlets.size()));
        QVERIFY(one.inlets.size() >= 4);
        Project q = p;
        apply(q, found.edit);
        const Street& s = *p.streets.find(70);
        const double curb = s.gutter_width + s.lane_width;
        std::set<std::string> names;
        for (const bool right : {false, true}) {
            const auto list = inlets_of(q, right);
            QCOMPARE(list.size(), one.inlets.size());
            for (std::size_t i = 0; i < list.size(); ++i) {
                const Structure& in = list[i];
                const SpacedInlet& as = one.inlets[i];
                QVERIFY(names.insert(in.name).second && in.type == type && in.street.value == 70);
                QVERIFY(close(in.station, as.station));
                QVERIFY2(std::abs(in.offset) < curb && std::abs(in.offset) > curb - 0.5,
                         qPrintable(QString("%1 of %2").arg(in.offset).arg(curb)));
                const Point at = point_at(s.line, in.station, in.offset);
                QVERIFY(close(in.x, at.x) && close(in.y, at.y));
                // The profile's own level, lower by what the gutter lies below it, within a hand's breadth.
                const double profile = as.station < 160 ? 106 - as.station / 40 : 102 + (as.station - 160) / 70;
                QVERIFY(std::abs(in.rim - profile) < 0.35);
                QVERIFY(std::isnan(in.street_grade));  // the street's own profile tells
                QCOMPARE(in.inlet_place == InletPlace::Sag, as.as == SpacedAs::Sag);
                QCOMPARE(in.origin[*field_index(Kind::Structure, "station")], Origin::Proposed);
                const Catchment* strip = nullptr;
                for (const Catchment& c : q.catchments)
                    if (c.structure.value == in.id) strip = &c;
                QVERIFY(strip && strip->name == in.name + " strip");
                QVERIFY(close(strip->area, as.length * 30) && strip->coefficient == 0.7 && strip->time == 300);
                QVERIFY(strip->outline.size() >= 4);
                for (const char* key : {"outline", "area"})
                    QCOMPARE(strip->origin[*field_index(Kind::Catchment, key)], Origin::Proposed);
                double low = 1e300, high = -1e300;
                for (const Point& corner : strip->outline) {
                    const Station on = station_of(s.line, corner);
                    low = std::min(low, on.station);
                    high = std::max(high, on.station);
                    QVERIFY(right ? on.offset > -0.01 : on.offset < 0.01);
                }
                if (high < 119 || low > 121)  // beside the corner of the street stations fold
                    QVERIFY(std::abs(low - as.drains_from) < 0.01 && std::abs(high - as.drains_to) < 0.01);
                std::vector<const StreetPath*> on;
                for (const StreetPath& path : q.street_paths)
                    if (path.from.value == in.id) on.push_back(&path);
                QCOMPARE(on.size(), std::size_t{as.to >= 0});
                if (as.to >= 0) QCOMPARE(on[0]->to.value, list[static_cast<std::size_t>(as.to)].id);
            }
        }
        // The network as it is then drawn has the spreads that the spacing told.
        std::uint64_t id = 5000;
        for (const bool right : {true, false})
            for (const Structure& in : inlets_of(q, right)) {  // each with an outfall of its own
                Structure end;
                end.id = ++id;
                end.name = "E" + std::to_string(id);
                end.kind = StructureKind::Outfall;
                end.x = in.x + 20;
                end.y = in.y + 7;
                Pipe pipe;
                pipe.id = ++id;
                pipe.from = {in.id};
                pipe.to = {end.id};
                pipe.size = 0.6;
                pipe.invert_from = in.rim - 2;
                pipe.invert_to = in.rim - 3;
                q.structures.insert(end);
                q.pipes.insert(pipe);
            }
        const auto r = solve(q)[0];
        for (std::size_t i = 0; i < one.inlets.size(); ++i) {
            const Structure in = inlets_of(q, true)[i];
            const int inlet =
                r->network->nodes[static_cast<std::size_t>(r->network->node_of(StructureId{in.id}))].inlet;
            QVERIFY(inlet >= 0);
            const StreetFlow& f = r->streets[static_cast<std::size_t>(inlet)];
            if (one.inlets[i].as != SpacedAs::OnGrade) continue;
            // Bypass takes its time along the street, so that the rain of those below is a little less heavy.
            QVERIFY2(f.spread < one.inlets[i].spread + 1e-3 && f.spread > 0.6 * one.inlets[i].spread,
                     qPrintable(QString("%1 %2").arg(f.spread).arg(one.inlets[i].spread)));
            if (i == 0) QVERIFY(close(f.spread, one.inlets[i].spread, 1e-6));
        }
    }
    /// Without levels of its own the ground under its line is its profile, and each inlet is given its grade.
    void the_ground_gives_the_grade() {
        const Project p = bare(false);
        QVERIFY(!propose_inlets(p, {}, {70}, {5}).fault.empty());
        SurfaceData d;
        for (double x = -50; x <= 200; x += 25)
            for (double y = -50; y <= 250; y += 25) d.points.push_back({x, y, 120 - 0.02 * x - 0.03 * y});
        SiteGround g;
        g.ground.finished = Terrain::build(std::move(d));
        const InletProposal found = propose_inlets(p, g, {70}, {5});
        QVERIFY2(found.fault.empty(), found.fault.c_str());
        Project q = p;
        apply(q, found.edit);
        for (const bool right : {true, false})
            for (const Structure& s : inlets_of(q, right))
                QVERIFY(close(s.street_grade, s.station < 120 ? 0.02 : 0.03, 1e-6));
    }
    /// A side that has inlets is left as it is; one whose inlets are all abandoned counts as bare.
    void a_side_that_has_inlets_is_left() {
        Project p = bare();
        Structure s;
        s.id = 900;
        s.name = "here";
        s.kind = StructureKind::Inlet;
        s.street = {70};
        s.station = 40;
        s.offset = -3;
        s.x = 40, s.y = 3;
        s.rim = 105;
        p.structures.insert(s);
        InletProposal found = propose_inlets(p, {}, {70}, {5});
        QVERIFY(found.stood[0] && !found.stood[1] && found.fault.empty() && found.placed > 0);
        Project q = p;
        apply(q, found.edit);
        QCOMPARE(inlets_of(q, false).size(), std::size_t{1});
        q = p;
        q.structures.change(900)->offset = 3;  // on the other side alone
        q.structures.change(900)->y = -3;
        const InletProposal left = propose_inlets(q, {}, {70}, {5});
        QVERIFY(left.stood[1] && !left.stood[0] && left.fault.empty() && left.placed == found.placed);
        s.id = 901;
        s.name = "there";
        s.offset = 3;
        s.y = -3;
        p.structures.insert(s);
        found = propose_inlets(p, {}, {70}, {5});
        QVERIFY(found.stood[0] && found.stood[1] && found.edit.empty());
        QVERIFY(found.fault.find("both sides have inlets") != std::string::npos);
        for (const std::uint64_t id : {900, 901}) p.structures.change(id)->status = Status::Abandoned;
        found = propose_inlets(p, {}, {70}, {5});
        QVERIFY(!found.stood[0] && !found.stood[1] && found.placed > 0);
        QVERIFY(propose_inlets(p, {}, {71}, {5}).fault == "no street is chosen");
    }
    void what_a_spacing_needs_is_said() {
        std::string type, fault;
        const auto why = [&](const Project& p) {
            fault.clear();
            spacing_task(p, {}, *p.streets.find(70), {5}, &type, &fault);
            return fault;
        };
        Project p = bare();
        QVERIFY(why(p).empty());
        // In the event that is named, and where none of that name is left in the minor system's.
        RainEvent heavy = *p.events.find(5);
        heavy.id = 6;
        heavy.role = EventRole::Other;
        for (double& i : heavy.intensities) i *= 2;
        p.events.insert(heavy);
        const auto load = [&](std::uint64_t event) {
            return spacing_task(p, {}, *p.streets.find(70), {event}, &type, &fault).load;
        };
        QVERIFY(close(load(6), 0.7 * 30 * 8e-5) && close(load(5), 0.7 * 30 * 4e-5) && close(load(99), load(5)));
        p.events.erase(6);
        p.events.erase(5);
        QVERIFY(why(p).find("no rain") != std::string::npos);
        p = bare();
        p.streets.change(70)->levels.clear();
        p.streets.change(70)->stations.clear();
        QVERIFY(why(p).find("no profile") != std::string::npos);
        p = bare();
        for (const StructureType& t : bare().structure_types)
            if (t.kind == StructureKind::Inlet) p.structure_types.change(t.id)->inlet = InletKind::None;
        QVERIFY(why(p).find("no type of the catalogue") != std::string::npos);
        // The default type, where it is an inlet; else the first of the catalogue that is one on a curb.
        p = bare();
        p.settings_rows.change(settings_id)->default_type = "curb inlet";
        QVERIFY(why(p).empty() && type == "curb inlet");
        p.settings_rows.change(settings_id)->default_type = "area inlet";
        QVERIFY(why(p).empty() && type != "area inlet" && !type.empty());
        // No spread is allowed anywhere: said, not spaced.
        p = bare();
        p.limits.change(limit_id(p, LimitKind::MostSpread))->active = false;
        QVERIFY(!propose_inlets(p, {}, {70}, {5}).fault.empty());
    }
    /// The inlet itself and the two that let most pass to it.
    void of_the_inlets_above_the_three_that_matter_are_changed() {
        Project p = street();
        p.street_paths.erase(31);
        for (int i = 0; i < 5; ++i) {
            Structure s = *p.structures.find(1);
            s.id = static_cast<std::uint64_t>(100 + i);
            s.name = "B" + std::to_string(i);
            s.x = s.station = 20 + 12 * i;
            p.structures.insert(s);
            Pipe q = *p.pipes.find(11);
            q.id = s.id + 100;
            q.from = {s.id};
            p.pipes.insert(q);
            StreetPath path;
            path.id = s.id + 200;
            path.from = {s.id};
            path.to = {2};
            p.street_paths.insert(path);
            Catchment c = *p.catchments.find(21);
            c.id = s.id + 300;
            c.structure = {s.id};
            c.area = 2000 + 1000 * ((i + 2) % 5);  // most at B2, then B1
            p.catchments.insert(c);
        }
        const auto results = solve(p);
        std::set<std::uint64_t> changed;
        for (const InletChange& c : inlet_changes(p, *results[0], {2})) {
            Project q = p;
            apply(q, c.edit);
            for (const Structure& s : p.structures)
                if (!(*q.structures.find(s.id) == s)) changed.insert(s.id);
        }
        QString list;
        for (const std::uint64_t id : changed) list += QString(" %1").arg(id);
        QCOMPARE(list, QString(" 2 101 102"));
    }
    /// Longer openings by half, to the double and threefold, whole steps; every other type of inlet by its name.
    void changes_of_an_inlet_are_whole_steps_and_types() {
        for (const bool us : {false, true}) {
            Project p = street();
            p.settings_rows.change(settings_id)->system = us ? UnitSystem::Us : UnitSystem::Si;
            StructureType t = *p.structure_types.find(71);
            t.id = 72;
            t.name = "slit";
            t.inlet = InletKind::CurbOpening;
            t.length = 1.3;
            t.opening_height = 0.12;
            p.structure_types.insert(t);
            t.id = 73;
            t.name = "formless";
            t.inlet = InletKind::None;
            p.structure_types.insert(t);
            p.structures.change(1)->type = "slit";
            const auto results = solve(p);
            const auto list = inlet_changes(p, *results[0], {1});
            const double step = us ? 0.3048 : 0.5;
            std::vector<double> lengths;
            std::set<std::string> types;
            const double now = at(p).spread > 0 ? 1.3 : 0;
            for (const InletChange& c : list) {
                Project q = p;
                apply(q, c.edit);
                const Structure& s = *q.structures.find(1);
                if (s.type != "slit") {
                    types.insert(s.type);
                    QCOMPARE(c.text, s.type + " at A1");
                    for (const StructureType& k : p.structure_types)
                        if (k.name == s.type) QVERIFY(close(c.growth, 10 + std::max(0.0, k.length)));
                } else {
                    lengths.push_back(s.opening_length);
                    QVERIFY(close(c.growth, s.opening_length - now));
                    QVERIFY(c.text.find(units_of(p).text(s.opening_length, Quantity::Length) + " opening at A1") == 0);
                }
            }
            QCOMPARE(lengths.size(), std::size_t{3});
            for (std::size_t i = 0; i < 3; ++i) {
                const double wanted = 1.3 * (i == 0 ? 1.5 : i == 1 ? 2 : 3);
                QVERIFY(lengths[i] >= wanted - 1e-9 && lengths[i] < wanted + step);
                QVERIFY(close(lengths[i] / step, std::round(lengths[i] / step), 1e-9));
            }
            QVERIFY(types.contains("grate") && types.contains("area inlet") && !types.contains("formless"));
            QVERIFY(!types.contains("slit"));
        }
    }
    /// An inlet without which all spreads stay within is named; the least needed of several is the one to drop.
    /// An event that was chosen is judged, whichever sizes the pipes; one that is gone leaves that one.
    void a_street_is_judged_by_the_event_that_was_chosen() {
        Project p = street();
        const auto only = judge_street(p, {}, {70}, {5});
        RainEvent rare = *p.events.find(5);
        rare.id = 6;
        rare.name = "rare";
        rare.return_period *= 10;
        for (double& i : rare.intensities) i *= 2;
        p.events.insert(rare);
        Project rare_only = p;
        rare_only.events.erase(5);
        const auto rarer = judge_street(rare_only, {}, {70}, {6});
        QVERIFY2(!only.words.empty(), only.fault.c_str());
        QVERIFY2(only.words != rarer.words, only.words[0].c_str());
        QVERIFY(judge_street(p, {}, {70}, {5}).words == only.words);
        QVERIFY(judge_street(p, {}, {70}, {6}).words == rarer.words);
        QVERIFY(judge_street(p, {}, {70}, {99}).words == judge_street(p, {}, {70}, {design_event(p)->id}).words);
    }
    void the_one_that_takes_least_is_dropped() {
        Project p = street();
        // Four in a row, all of them with little water; the last has no way on.
        for (std::uint64_t i = 0; i < 2; ++i) {
            Structure s = *p.structures.find(1);
            s.id = 50 + i;
            s.name = "B" + std::to_string(i + 1);
            s.x = s.station = 20 + 40 * static_cast<double>(i);
            p.structures.insert(s);
            Pipe q = *p.pipes.find(11);
            q.id = 60 + i;
            q.from = {s.id};
            q.to = {i == 0 ? std::uint64_t{51} : 1};
            q.invert_from = 100.9 - 0.8 * static_cast<double>(i);
            q.invert_to = q.invert_from - 0.7;
            p.pipes.insert(q);
            StreetPath path = *p.street_paths.find(31);
            path.id = 80 + i;
            path.from = {s.id};
            path.to = q.to;
            p.street_paths.insert(path);
            Catchment c = *p.catchments.find(21);
            c.id = 90 + i;
            c.structure = {s.id};
            c.area = i == 0 ? 150 : 60;
            p.catchments.insert(c);
        }
        p.catchments.change(21)->area = 200;
        p = with(p, Kind::Limit, limit_id(p, LimitKind::MostSpread), "active", true);
        const InletJudgement j = judge_street(p, {}, {70}, {5});
        QCOMPARE(j.words.size(), std::size_t{4});
        double least = 1e300;
        std::uint64_t expected = 0;
        for (const std::uint64_t id : {50, 51, 1})
            if (const double taken = at(p, id).captured; taken < least) least = taken, expected = id;
        Project q = p;
        apply(q, j.edit);
        QCOMPARE(q.structures.find(expected)->kind, StructureKind::Manhole);
        QVERIFY(q.structures.find(expected)->type.empty());
        QCOMPARE(j.edit.name, "Drop inlet " + p.structures.find(expected)->name);
        // Its catchment and what came to it go on to where its path led.
        StructureId on;
        for (const StreetPath& path : p.street_paths)
            if (path.from.value == expected) on = path.to;
        for (const Catchment& c : q.catchments)
            QCOMPARE(c.structure.value, p.catchments.find(c.id)->structure.value == expected
                                            ? on.value
                                            : p.catchments.find(c.id)->structure.value);
        for (const StreetPath& path : q.street_paths) QVERIFY(path.to.value != expected);
        p.events.erase(5);
        QVERIFY(judge_street(p, {}, {70}, {5}).fault.find("no rain") != std::string::npos);
    }
};
QTEST_GUILESS_MAIN(TestStreetInlets)
#include "test_street_inlets.moc"
