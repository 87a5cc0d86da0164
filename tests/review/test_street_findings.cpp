// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>

#include "core/design/design.h"
#include "core/design/inlet_spacing.h"
#include "core/design/layout.h"
#include "core/design/street_remedies.h"
#include "support/small_street.h"

using namespace culvert;

namespace {

int count(const Project& p, const std::string& title, std::uint64_t element = 0) {
    int n = 0;
    for (const Finding& f : data_findings(p, compile(p)))
        n += f.title == title && (!element || f.element.id == element);
    return n;
}
/// A street that falls from both ends to 100 m, with an inlet in its low point and one 10 m before it, 5 cm above.
Project low_point(bool asks) {
    Project p = street();
    Street* s = p.streets.change(70);
    s->stations = {0, 100, 200};
    s->levels = {101, 100, 101};
    s->flankers = asks;
    for (const auto& [id, station, rim] : {std::tuple{1, 100.0, 100.0}, {2, 95.0, 100.05}}) {
        Structure* row = p.structures.change(static_cast<std::uint64_t>(id));
        row->x = row->station = station;
        row->offset = 4;
        row->rim = rim;
    }
    return p;
}

}  // namespace

/// Findings of rain, areas and streets, and what may mend them.
class TestStreetFindings : public QObject {
    Q_OBJECT
  private slots:
    void a_low_point_that_asks_for_flankers_names_the_side_without_one() {
        const std::string title = "low point without flankers";
        QCOMPARE(count(low_point(false), title), 0);
        QCOMPARE(count(low_point(true), title, 1), 1);  // none after it
        Project p = low_point(true);
        const auto side = [&](const Project& of) {
            for (const Finding& f : data_findings(of, compile(of)))
                if (f.title == title)
                    for (const char* words : {"none after it", "none before it", "none on either side"})
                        if (f.detail.find(words) != std::string::npos) return words;
            return "";
        };
        QCOMPARE(side(p), "none after it");
        Project turned = p;  // drawn the other way
        Street* back = turned.streets.change(70);
        std::reverse(back->line.begin(), back->line.end());
        std::reverse(back->levels.begin(), back->levels.end());
        for (const Structure& s : p.structures)
            if (s.street)
                turned.structures.change(s.id)->station = 200 - s.station,
                turned.structures.change(s.id)->offset = -s.offset;
        QCOMPARE(side(turned), "none before it");
        QCOMPARE(side(with(p, Kind::Structure, 2, "offset", -4.0)), "none on either side");
        Structure other = *p.structures.find(2);
        other.id = 4;
        other.name = "A4";
        other.x = other.station = 105;
        p.structures.insert(other);
        QCOMPARE(count(p, title), 1);  // it leads to no pipe yet: it takes nothing
        Pipe q = *p.pipes.find(12);
        q.id = 13;
        q.from = {4};
        p.pipes.insert(q);
        QCOMPARE(count(p, title), 0);
        QCOMPARE(count(with(p, Kind::Structure, 4, "rim", 100.3), title), 1);    // above the curb: never reached
        QCOMPARE(count(with(p, Kind::Structure, 4, "offset", -4.0), title), 1);  // at the other curb
    }
    void spacing_asks_for_flankers_where_the_street_does() {
        const auto around = [](bool asks) {
            Project p = street();
            for (const std::uint64_t id : {1, 2}) p.structures.erase(id);
            Street* s = p.streets.change(70);
            s->stations = {0, 100, 200};
            s->levels = {101, 100, 101};
            s->flankers = asks;
            p.limits.change(limit_id(p, LimitKind::MostSpread))->active = true;
            const InletProposal placed = propose_inlets(p, {}, {70}, {5});
            apply(p, placed.edit);
            int near = 0;
            for (const Structure& row : p.structures)
                near += row.street.value == 70 && std::abs(row.station - 100) < 15;
            return std::pair(near, count(p, "low point without flankers"));
        };
        QCOMPARE(around(true), (std::pair{6, 0}));  // at both curbs: the low point and one on either side
        QVERIFY(around(false).first < 6);
    }
    /// Strips that were laid out with the inlets end where these stand: dragged along the street, one takes them along.
    void strips_follow_an_inlet_along_its_street() {
        Project p = street();
        for (const std::uint64_t id : {1, 2}) p.structures.erase(id);
        p.catchments.erase(21);
        Street* s = p.streets.change(70);
        s->stations = {0, 200};
        s->levels = {104, 100};
        s->strip_width = 30;
        p.limits.change(limit_id(p, LimitKind::MostSpread))->active = true;
        p.limits.change(limit_id(p, LimitKind::MostSpread))->value = 1.5;
        apply(p, propose_inlets(p, {}, {70}, {5}).edit);
        const auto total = [](const Project& q) {
            double sum = 0;
            for (const Catchment& c : q.catchments) sum += c.area;
            return sum;
        };
        const auto strip = [](const Project& q, std::uint64_t inlet) {
            for (const Catchment& c : q.catchments)
                if (c.structure.value == inlet) return c;
            return Catchment{};
        };
        std::vector<const Structure*> side;  // in the order of their stations
        for (const Structure& row : p.structures)
            if (row.street.value == 70 && row.offset > 0) side.push_back(&row);
        std::sort(side.begin(), side.end(), [](auto* a, auto* b) { return a->station < b->station; });
        QVERIFY(side.size() >= 3);
        const std::uint64_t moved = side[1]->id, next = side[2]->id, first = side[0]->id;
        Project q = p;
        apply(q, move_structures(p, {{moved}}, {4, 0}, {}));
        QVERIFY(close(strip(q, moved).area - strip(p, moved).area, 4 * 30, 0.01));
        QVERIFY(close(strip(q, next).area - strip(p, next).area, -4 * 30, 0.01));
        QCOMPARE(strip(q, first).area, strip(p, first).area);
        QVERIFY(std::abs(total(q) - total(p)) < 0.5);
        QVERIFY(std::abs(area(strip(q, moved).outline) - strip(q, moved).area) < 0.2);
        Project back = q;
        apply(back, move_structures(q, {{moved}}, {-4, 0}, {}));
        QVERIFY(std::abs(strip(back, moved).area - strip(p, moved).area) < 0.2);
        // Dragged past where its own strip begins there is no strip to make: it stays as it is.
        Project past = p;
        apply(past, move_structures(p, {{moved}}, {-150, 0}, {}));
        for (const Catchment& c : past.catchments) QVERIFY(c.area > 0 && area(c.outline) > 1);
        QCOMPARE(strip(past, moved).area, strip(p, moved).area);
        // One whose outline a person has set stays.
        Project own = with(p, Kind::Catchment, strip(p, next).id, "outline", strip(p, next).outline);
        apply(own, move_structures(own, {{moved}}, {4, 0}, {}));
        QCOMPARE(strip(own, next).area, strip(p, next).area);
    }
    void a_time_below_the_least_is_said_and_many_are_said_once() {
        Project p = street();
        QCOMPARE(count(p, "time below the least"), 0);
        p.catchments.change(21)->time = 100;
        QCOMPARE(count(p, "time below the least", 21), 1);
        QCOMPARE(count(with_setting(p, "least_time", 90.0), "time below the least"), 0);
        for (std::uint64_t id = 300; id < 330; ++id) {
            Catchment c = *p.catchments.find(21);
            c.id = id;
            p.catchments.insert(c);
        }
        QCOMPARE(count(p, "time below the least"), 0);
        QCOMPARE(count(p, "times below the least"), 1);
    }
    void events_in_the_wrong_order_are_found() {
        Project p = street();
        RainEvent rare = *p.events.find(5);
        rare.id = 6;
        rare.name = "100 years";
        rare.return_period = 100;
        rare.role = EventRole::Major;
        for (double& i : rare.intensities) i *= 1.5;
        p.events.insert(rare);
        QCOMPARE(count(p, "rarer event with less rain"), 0);
        QCOMPARE(count(p, "two events with one return period"), 0);
        p.events.change(6)->intensities[1] = 0.9e-5;  // at an hour only
        QCOMPARE(count(p, "rarer event with less rain", 6), 1);
        // Tables of other durations are compared where they have the same one.
        p.events.change(6)->durations.erase(p.events.change(6)->durations.begin());
        p.events.change(6)->intensities.erase(p.events.change(6)->intensities.begin());
        QCOMPARE(count(p, "rarer event with less rain", 6), 1);
        p.events.change(6)->return_period = 10;
        QCOMPARE(count(p, "two events with one return period"), 1);
        p.events.change(6)->given = RainGiven::Uniform;
        QCOMPARE(count(p, "storm at fault", 6), 1);
        p.events.change(6)->depth = 0.05;
        p.events.change(6)->storm_length = 7200;
        QCOMPARE(count(p, "storm at fault"), 0);
    }
    /// A short opening above sends its bypass into a sag: lengthening it is found, and does what it says.
    void a_longer_opening_upstream_is_offered_for_the_sag_below() {
        Project p = street();
        StructureType* t = p.structure_types.change(71);
        t->inlet = InletKind::CurbOpening;
        t->opening_length = 1;
        p.structures.change(2)->inlet_place = InletPlace::Sag;
        Limit* limit = p.limits.change(limit_id(p, LimitKind::MostSpread));
        limit->active = true;
        // Between what the sag's spread is now, and what it is with all taken above.
        const double now = at(p, 2).spread, best = at(with(p, Kind::Structure, 1, "opening_length", 3.0), 2).spread;
        QVERIFY(now > best + 0.2);
        limit->value = (now + best) / 2;
        const Results results = solve(p);
        bool upstream = false;
        for (Finding f : review(p, *results[0]).findings) {
            if (f.element.id != 2 || f.check.rule != Rule::MostSpread) continue;
            for (const Remedy& remedy : remedies(p, results, f)) {
                if (!QString::fromStdString(remedy.text).endsWith("opening at A1")) continue;
                Project after = p;
                apply(after, remedy.edit);
                const bool gone = at(after, 2).spread <= limit->value;
                QCOMPARE(remedy.mends, gone);
                upstream |= gone;
            }
        }
        QVERIFY(upstream);
        // Where all is taken above there is nothing to lengthen there.
        const Project wide = with(p, Kind::Structure, 1, "opening_length", 60.0);
        const auto r = solve(wide)[0];
        for (const InletChange& c : inlet_changes(wide, *r, {2}))
            QVERIFY(!QString::fromStdString(c.text).endsWith("A1"));
    }
};

QTEST_GUILESS_MAIN(TestStreetFindings)
#include "test_street_findings.moc"
