// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <map>
#include <random>

#include "core/analysis/solver.h"
#include "core/design/site.h"
#include "support/made_ground.h"

using namespace culvert;
using testing::inlet;
using testing::made;

namespace {

void put_on(Project& p, std::uint64_t id, std::uint64_t street) {
    Structure* s = p.structures.change(id);
    const Station on = station_of(p.streets.find(street)->line, {s->x, s->y});
    s->street = {street};
    s->station = on.station;
    s->offset = on.offset;
}
const ProposedPath& path_of(const StreetPathProposal& p, std::uint64_t from) {
    for (const ProposedPath& path : p.paths)
        if (path.from.value == from) return path;
    static const ProposedPath none;
    return none;
}
double outline_area(const Project& p) {
    double sum = 0;
    for (const Catchment& c : p.catchments) sum += area(c.outline);
    return sum;
}
Catchment square(std::uint64_t id, const char* name, double x, double y, double w, double h) {
    Catchment c;
    c.id = id;
    c.name = name;
    c.outline = {{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}};
    c.area = w * h;
    c.coefficient = 0.6;
    return c;
}

/// What stands in the Edit is what was found, way by way.
void rows_are_what_was_found(const Project& p, const StreetPathProposal& found) {
    Project q = p;
    apply(q, found.edit);
    for (const ProposedPath& path : found.paths) {
        std::vector<const StreetPath*> rows;
        for (const StreetPath& row : q.street_paths)
            if (row.from == path.from) rows.push_back(&row);
        QCOMPARE(rows.size(), std::size_t{path.way != ProposedPath::Way::None});
        if (rows.empty()) continue;
        const StreetPath& row = *rows[0];
        QVERIFY(row.to == path.to && row.note == path.reason);
        QCOMPARE(row.bends.size(), path.bends.size());
        for (std::size_t i = 0; i < row.bends.size(); ++i) QVERIFY(row.bends[i] == path.bends[i]);
        QCOMPARE(row.name,
                 q.structures.find(path.from.value)->name +
                     (path.to ? " to " + q.structures.find(path.to.value)->name : std::string(" off the site")));
        for (const char* key : {"name", "from", "to", "bends", "note"})
            QCOMPARE(row.origin[*field_index(Kind::StreetPath, key)], Origin::Proposed);
    }
    QCOMPARE(found.found + found.leaving + found.none, found.paths.size());
}

}  // namespace

/// What the ground proposes: the way of water over the surface, catchments; and the faults of outlines.
class TestSite : public QObject {
    Q_OBJECT
  private slots:
    void down_a_plane_each_inlet_leads_to_the_next_below_it() {
        // Falls to the east: inlets in a row lead one to the next, the last off the site.
        const SiteGround g = made([](double x, double) { return 20 - 0.03 * x; });
        Project p = new_project(UnitSystem::Si);
        for (int i = 0; i < 4; ++i)
            p.structures.insert(
                inlet(static_cast<std::uint64_t>(10 + i), ("I" + std::to_string(i)).c_str(), 12 + 24.0 * i, 51));
        p.structures.insert(inlet(20, "aside", 60, 20));
        const StreetPathProposal found = propose_street_paths(p, g);
        for (std::uint64_t i = 10; i < 13; ++i) QCOMPARE(path_of(found, i).to.value, i + 1);
        QVERIFY(!path_of(found, 13).to && path_of(found, 13).way == ProposedPath::Way::Ground);
        QVERIFY(!path_of(found, 20).to);
        QCOMPARE(found.found, std::size_t{3});
        QCOMPARE(found.leaving, std::size_t{2});
        rows_are_what_was_found(p, found);
        Project q = p;
        apply(q, found.edit);
        QCOMPARE(q.street_paths.size(), std::size_t{5});
        // Proposed again, it is the same; drawn by hand, it stays.
        Project again = q;
        apply(again, propose_street_paths(q, g).edit);
        QCOMPARE(again.street_paths.size(), std::size_t{5});
        std::uint64_t mine = 0;
        for (const StreetPath& row : q.street_paths)
            if (row.from.value == 10) mine = row.id;
        Editing e(q, "by hand");
        e.set(Kind::StreetPath, mine, "to", std::uint64_t{12});
        Project corrected = q;
        apply(corrected, e.take());
        const StreetPathProposal after = propose_street_paths(corrected, g);
        QCOMPARE(after.kept, std::size_t{1});
        apply(corrected, after.edit);
        QCOMPARE(corrected.street_paths.find(mine)->to.value, std::uint64_t{12});
    }
    void an_inlet_in_a_hollow_spills_over_its_lip() {
        // A bowl around (30, 50) on a plane that falls to the east.
        const SiteGround g = made([](double x, double y) {
            return 20 - 0.02 * x - 1.2 * std::exp(-((x - 30) * (x - 30) + (y - 50) * (y - 50)) / 200);
        });
        Project p = new_project(UnitSystem::Si);
        const auto hollows = g.drainage->depressions(0.1);
        QCOMPARE(hollows.size(), std::size_t{1});
        p.structures.insert(inlet(1, "sag", hollows[0].bottom.x, hollows[0].bottom.y));
        p.structures.insert(inlet(2, "below", 80, 50));
        const StreetPathProposal found = propose_street_paths(p, g, 8);
        QCOMPARE(path_of(found, 1).to.value, std::uint64_t{2});
        rows_are_what_was_found(p, found);
    }
    void along_a_street_it_keeps_to_its_side_and_ends_in_the_low_point() {
        // A street with a sag in its middle: z falls from both ends to station 50.
        const SiteGround g = made([](double x, double y) { return 20 + 0.04 * std::abs(x - 50) - 0.001 * y; });
        Project p = new_project(UnitSystem::Si);
        Street s;
        s.id = 5;
        s.name = "Dip Street";
        s.line = {{0, 50}, {100, 50}};
        p.streets.insert(s);
        const std::pair<const char*, Point> places[] = {{"l1", {10, 54}}, {"l2", {30, 54}}, {"low", {50, 54}},
                                                        {"r1", {12, 46}}, {"r2", {88, 46}}, {"rlow", {50, 46}}};
        std::uint64_t id = 10;
        std::map<std::string, std::uint64_t> of;
        for (const auto& [name, at] : places) {
            p.structures.insert(inlet(id, name, at.x, at.y, 20 + 0.04 * std::abs(at.x - 50)));
            put_on(p, id, 5);
            of[name] = id++;
        }
        const StreetPathProposal found = propose_street_paths(p, g);
        rows_are_what_was_found(p, found);
        QCOMPARE(path_of(found, of["l1"]).to.value, of["l2"]);
        QCOMPARE(path_of(found, of["l2"]).to.value, of["low"]);
        QCOMPARE(path_of(found, of["r1"]).to.value, of["rlow"]);  // not across to the left side
        QCOMPARE(path_of(found, of["r2"]).to.value, of["rlow"]);  // against the stations
        QVERIFY(path_of(found, of["l1"]).reason.find("Dip Street") != std::string::npos);
        // The street's own levels hold before the ground's: turned over, the water runs outward.
        Project q = p;
        q.streets.change(5)->stations = {0, 50, 100};
        q.streets.change(5)->levels = {18, 20, 18};
        QCOMPARE(path_of(propose_street_paths(q, {}), of["l2"]).to.value, of["l1"]);
    }
    void a_path_never_runs_round_nor_into_an_outfall() {
        std::mt19937 random(4);
        for (int round = 0; round < 12; ++round) {
            const double a = 0.3 + 0.2 * (round % 3), w = 10 + round;
            const SiteGround g =
                made([&](double x, double y) { return 20 - 0.01 * x + a * std::sin(x / w) * std::cos(y / w); });
            Project p = new_project(UnitSystem::Si);
            for (std::uint64_t i = 1; i <= 25; ++i) {
                Structure s = inlet(i, ("I" + std::to_string(i)).c_str(), 2 + static_cast<double>(random() % 96),
                                    2 + static_cast<double>(random() % 96));
                if (i % 6 == 0) s.kind = StructureKind::Outfall;
                s.rim = g.ground.elevation({s.x, s.y});
                p.structures.insert(s);
            }
            const StreetPathProposal found = propose_street_paths(p, g);
            std::map<std::uint64_t, std::uint64_t> next;
            for (const ProposedPath& path : found.paths) {
                if (path.to) QCOMPARE(p.structures.find(path.to.value)->kind, StructureKind::Inlet);
                next[path.from.value] = path.to.value;
            }
            for (const auto& [from, to] : next) {
                std::uint64_t at = from;
                std::size_t steps = 0;
                while (at && steps <= next.size()) {
                    at = next[at];
                    ++steps;
                }
                QVERIFY(steps <= next.size());
            }
            QCOMPARE(found.found + found.leaving + found.none, found.paths.size());
        }
    }
    void without_ground_and_streets_it_says_so() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(inlet(1, "A1", 0, 0));
        const StreetPathProposal found = propose_street_paths(p, {});
        QCOMPARE(found.none, std::size_t{1});
        QVERIFY(found.edit.empty());
        QVERIFY(found.paths[0].reason.find("no surface") != std::string::npos);
    }
    void proposed_catchments_share_the_ground_at_the_ridge() {
        // A roof along y = 50: each half drains to the gutter on its side, which falls to the inlet.
        const SiteGround g = made([](double x, double y) { return 30 - 0.1 * std::abs(y - 50) - 0.01 * x; });
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(inlet(1, "north", 97, 97));
        p.structures.insert(inlet(2, "south", 97, 3));
        const CatchmentProposal found = propose_catchments(p, g, {}, 2);
        QCOMPARE(found.made, std::size_t{2});
        Project q = p;
        apply(q, found.edit);
        for (const Catchment& c : q.catchments) {
            const bool north = c.structure.value == 1;
            for (const Point& corner : c.outline) QVERIFY(north ? corner.y > 46 : corner.y < 54);
            QVERIFY(c.flow_path.empty() || distance(c.flow_path.back(), north ? Point{97, 97} : Point{97, 3}) < 1e-6);
        }
        for (const OutlineFault& f : outline_faults(q, 8)) QVERIFY(f.form != OutlineFault::Form::Overlap);
        // One that has a catchment keeps its water, and gets no second.
        const CatchmentProposal more = propose_catchments(q, g, {}, 2);
        QCOMPARE(more.made, std::size_t{0});
        QVERIFY(propose_catchments(new_project(UnitSystem::Si), g, {}, 2).edit.empty());
    }
    void the_target_is_where_the_water_runs_else_the_nearest() {
        const SiteGround g = made([](double x, double) { return 20 - 0.03 * x; });
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(inlet(1, "near, uphill", 38, 50));
        p.structures.insert(inlet(2, "far, downhill", 80, 50));
        const std::vector<Point> outline{{45, 45}, {55, 45}, {55, 55}, {45, 55}};
        QCOMPARE(downhill_target(p, g, outline).value, std::uint64_t{2});
        QCOMPARE(nearest_inlet(p, {50, 50}).value, std::uint64_t{1});
        QCOMPARE(downhill_target(p, {}, outline).value, std::uint64_t{1});
        const auto way = longest_flow_path(g, outline, {80, 50});
        QVERIFY(!way.empty() && std::abs(length(way) - 35) < 2.5);
    }
    void overlaps_and_gaps_have_the_areas_of_their_squares() {
        Project p = new_project(UnitSystem::Si);
        p.catchments.insert(square(1, "a", 0, 0, 10, 10));
        p.catchments.insert(square(2, "b", 8, 0, 10, 10));
        auto faults = outline_faults(p);
        QCOMPARE(faults.size(), std::size_t{1});
        QCOMPARE(faults[0].form, OutlineFault::Form::Overlap);
        QVERIFY(std::abs(faults[0].area - 20) < 1e-9);
        QCOMPARE(faults[0].first, std::uint64_t{1});
        // Four around a hole of 4 x 4; edges that only touch are no overlap.
        Project ring = new_project(UnitSystem::Si);
        ring.catchments.insert(square(1, "south", 0, 0, 12, 4));
        ring.catchments.insert(square(2, "north", 0, 8, 12, 4));
        ring.catchments.insert(square(3, "west", 0, 4, 4, 4));
        ring.catchments.insert(square(4, "east", 8, 4, 4, 4));
        faults = outline_faults(ring);
        QCOMPARE(faults.size(), std::size_t{1});
        QCOMPARE(faults[0].form, OutlineFault::Form::Gap);
        QVERIFY(std::abs(faults[0].area - 16) < 1e-9);
        ring.catchments.change(1)->outline = {{0, 0}, {12, 4}, {12, 0}, {0, 4}};
        faults = outline_faults(ring);
        QCOMPARE(faults[0].form, OutlineFault::Form::CrossesItself);
        QCOMPARE(faults[0].first, std::uint64_t{1});
    }
    void cut_in_two_and_merged_again_nothing_is_lost() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(inlet(9, "A1", 0, 0));
        Catchment c = square(1, "Yard", 0, 0, 20, 10);
        c.structure = {9};
        c.area = 220;  // entered: 10 % more than drawn
        c.flow_path = {{1, 1}, {9, 9}};
        p.catchments.insert(c);
        LandCover l;
        l.id = 2;
        l.catchment = {1};
        l.area = 100;
        l.coefficient = 0.9;
        p.land_covers.insert(l);
        Project q = p;
        apply(q, split_catchment(p, {1}, {{5, -1}, {5, 4}, {9, 11}}));
        QCOMPARE(q.catchments.size(), std::size_t{2});
        for (const Catchment& part : q.catchments) QVERIFY2(part.flow_path.empty(), "the old way is of neither part");
        QVERIFY(std::abs(outline_area(q) - 200) < 0.01);
        double entered = 0, covers = 0;
        std::vector<CatchmentId> ids;
        for (const Catchment& part : q.catchments) {
            entered += part.area;
            ids.push_back({part.id});
            QVERIFY(std::abs(part.area / area(part.outline) - 1.1) < 1e-3);  // shared by measured area
            QCOMPARE(part.structure.value, std::uint64_t{9});
        }
        for (const LandCover& part : q.land_covers) covers += part.area;
        QVERIFY(std::abs(entered - 220) < 1e-9 && std::abs(covers - 100) < 1e-9);
        for (const OutlineFault& f : outline_faults(q, 0.01))
            QVERIFY2(false, qPrintable(QString::number(static_cast<int>(f.form))));
        Project r = q;
        apply(r, merge_catchments(q, ids));
        QCOMPARE(r.catchments.size(), std::size_t{1});
        QVERIFY(std::abs(outline_area(r) - 200) < 0.01);
        QVERIFY(std::abs(r.catchments.begin()->area - 220) < 1e-9);
        // Covers that were drawn go where they lie; the rest shares the ground that is left: C A of each part by hand.
        struct Drawn {
            double x, y, w, h, left;  // of its area, on the left of x = 5
        };
        for (const Drawn& roof : {Drawn{1, 1, 3, 4, 12}, {6, 2, 3, 5, 0}, {3, 12, 4, 5, 10}}) {
            Project covered = p;
            covered.catchments.change(1)->area = 200;
            covered.catchments.change(1)->outline = {{0, 0}, {10, 0}, {10, 20}, {0, 20}};
            LandCover drawn = l;
            drawn.id = 3;
            drawn.coefficient = 0.9;
            drawn.area = roof.w * roof.h;
            drawn.outline = square(0, "", roof.x, roof.y, roof.w, roof.h).outline;
            covered.land_covers.insert(drawn);
            covered.land_covers.change(2)->area = 200 - drawn.area;
            covered.land_covers.change(2)->coefficient = 0.2;
            Project cut = covered;
            apply(cut, split_catchment(covered, {1}, {{5, -1}, {5, 21}}));
            QCOMPARE(cut.catchments.size(), std::size_t{2});
            for (const Catchment& part : cut.catchments) {
                const double roofed = centre(part.outline).x < 5 ? roof.left : drawn.area - roof.left;
                double ca = 0, whole = 0;
                for (const LandCover& k : cut.land_covers) {
                    if (k.catchment.value != part.id) continue;
                    ca += k.area * k.coefficient;
                    whole += k.area;
                    if (k.outline.empty()) continue;
                    QVERIFY(std::abs(area(k.outline) - roofed) < 1e-6 && std::abs(k.area - roofed) < 1e-9);
                    for (const Point& at : k.outline)
                        QVERIFY((at.x < 5 + 1e-9) == (centre(part.outline).x < 5) || at.x == 5);
                }
                QVERIFY(std::abs(whole - 100) < 1e-9 && std::abs(ca - 0.9 * roofed - 0.2 * (100 - roofed)) < 1e-9);
            }
        }
        std::string why;
        QVERIFY(split_catchment(p, {1}, {{50, 50}, {60, 50}}, &why).empty() && !why.empty());
        QVERIFY(merge_catchments(p, {{1}}, &why).empty());
        QVERIFY(split_catchment(p, {1}, {{5, 5}}, &why).empty() && why == "the line is too short");
        QVERIFY(split_catchment(p, {1}, {{5, 5}, {5, 5}}, &why).empty() && why == "the line is too short");
        QVERIFY(split_catchment(p, {8}, {{5, -1}, {5, 11}}, &why).empty() && why == "there is no outline to cut");
        Project crossed = p;
        crossed.catchments.change(1)->outline = {{0, 0}, {10, 10}, {10, 0}, {0, 10}};
        QVERIFY(split_catchment(crossed, {1}, {{5, -1}, {5, 11}}, &why).empty() &&
                why.find("crosses itself") != std::string::npos);
        crossed.catchments.insert(square(4, "Beside", 10, 0, 5, 5));
        QVERIFY(merge_catchments(crossed, {{4}, {1}}, &why).empty() &&
                why.find("Yard crosses itself") != std::string::npos);
        crossed.catchments.change(1)->outline.clear();
        QVERIFY(merge_catchments(crossed, {{4}, {1}}, &why).empty() && why == "Yard has no outline");
        Project wide = p;  // a U that a straight line cuts into three
        wide.catchments.change(1)->outline = {{0, 0}, {30, 0}, {30, 20}, {20, 20}, {20, 5}, {10, 5}, {10, 20}, {0, 20}};
        QVERIFY(split_catchment(wide, {1}, {{-1, 10}, {31, 10}}, &why).empty() &&
                why.find("more than two") != std::string::npos);
        p.catchments.insert(square(3, "Far", 100, 100, 5, 5));
        QVERIFY(merge_catchments(p, {{1}, {3}}, &why).empty() && why.find("touch") != std::string::npos);
    }
    /// What runs off is the same after merging: by C, by curve number and paved share, with and without covers.
    void merged_catchments_shed_what_they_shed_before() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(inlet(9, "A1", 0, 0));
        const auto add = [&](std::uint64_t id, double x, double wide, double c, double cn, double paved, double time) {
            Catchment row = square(id, ("C" + std::to_string(id)).c_str(), x, 0, wide, 10);
            row.structure = {9};
            row.area = wide * 10;
            row.coefficient = c;
            row.curve_number = cn;
            row.impervious = paved;
            row.time = time;
            p.catchments.insert(row);
        };
        add(1, 0, 20, 0.9, 90, 0.5, 300);
        add(2, 20, 60, 0.3, not_given, not_given, 900);
        add(3, 80, 20, 0.5, 60, 0, not_given);
        Project q = p;
        apply(q, merge_catchments(p, {{1}, {2}, {3}}));
        QCOMPARE(q.catchments.size(), std::size_t{1});
        const Catchment& one = *q.catchments.find(1);
        QVERIFY(std::abs(one.area - 1000) < 1e-9 && one.time == 900);
        QVERIFY(std::abs(one.coefficient - (200 * 0.9 + 600 * 0.3 + 200 * 0.5) / 1000) < 1e-12);
        QVERIFY(std::abs(one.curve_number - (200 * 90 + 600 * p.settings().curve_number + 200 * 60) / 1000) < 1e-9);
        QVERIFY(std::abs(one.impervious - 0.1) < 1e-12);
        q = p;
        for (const std::uint64_t id : {1, 2, 3}) q.catchments.change(id)->curve_number = not_given;
        q.catchments.change(2)->coefficient = not_given;
        apply(q, merge_catchments(q, {{2}, {1}}));
        QVERIFY(!q.catchments.find(1) && std::isnan(q.catchments.find(2)->curve_number));
        QVERIFY(std::isnan(q.catchments.find(2)->coefficient));  // one of them is not known
        // One has covers: the others come in as covers, and nothing of their water is lost.
        LandCover l;
        l.id = 21;
        l.name = "roof";
        l.catchment = {2};
        l.area = 600;
        l.coefficient = 0.8;
        p.land_covers.insert(l);
        q = p;
        apply(q, merge_catchments(p, {{1}, {2}, {3}}));
        double area = 0, runoff = 0;
        for (const LandCover& cover : q.land_covers) {
            QCOMPARE(cover.catchment.value, std::uint64_t{1});
            area += cover.area;
            runoff += cover.area * cover.coefficient;
            if (cover.name == "C1") QVERIFY(cover.curve_number == 90 && cover.impervious == 0.5);
        }
        QCOMPARE(q.land_covers.size(), std::size_t{3});
        QVERIFY(std::abs(area - 1000) < 1e-9 && std::abs(runoff - (600 * 0.8 + 200 * 0.9 + 200 * 0.5)) < 1e-9);
        QCOMPARE(q.catchments.find(1)->coefficient, 0.9);
        // A cover that took its curve number from its catchment takes it along; ground that loses otherwise is a cover.
        Project r = p;
        r.catchments.change(2)->curve_number = 71;
        apply(r, merge_catchments(r, {{1}, {2}}));
        QCOMPARE(r.land_covers.find(21)->curve_number, 71.0);
        r = p;
        r.land_covers.erase(21);
        r.catchments.change(3)->losses = LossesBy::Horton;
        apply(r, merge_catchments(r, {{1}, {2}, {3}}));
        QCOMPARE(r.land_covers.size(), std::size_t{3});
        for (const LandCover& cover : r.land_covers)
            QCOMPARE(cover.losses, cover.name == "C3" ? LossesBy::Horton : LossesBy::Project);
    }
};

QTEST_APPLESS_MAIN(TestSite)
#include "test_site.moc"
