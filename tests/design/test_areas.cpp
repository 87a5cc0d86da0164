// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <set>

#include "core/design/site.h"
#include "core/network/network.h"
#include "support/made_ground.h"

using namespace culvert;
using testing::inlet;
using testing::made;

namespace {

/// A street with its own levels, inlets on it at stations and offsets.
struct OnStreet {
    Project p = new_project(UnitSystem::Si);
    OnStreet(std::vector<Point> line, std::vector<double> stations, std::vector<double> levels) {
        Street s;
        s.id = 5;
        s.name = "High Road";
        s.line = std::move(line);
        s.stations = std::move(stations);
        s.levels = std::move(levels);
        p.streets.insert(s);
    }
    void add(std::uint64_t id, double station, double offset) {
        const Point at = point_at(p.streets.find(5)->line, station, offset);
        Structure s = inlet(id, "I" + std::to_string(id), at.x, at.y);
        s.street = {5};
        s.station = station;
        s.offset = offset;
        p.structures.insert(s);
    }
    [[nodiscard]] ProposedPath of(std::uint64_t id, const SiteGround& g = {}) const {
        for (const ProposedPath& path : propose_street_paths(p, g).paths)
            if (path.from.value == id) return path;
        return {};
    }
};
bool close(Point a, Point b, double within = 2e-3) { return distance(a, b) <= within; }
Catchment square(std::uint64_t id, const std::string& name, double x, double y, double w, double h) {
    Catchment c;
    c.id = id;
    c.name = name;
    c.outline = {{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}};
    c.area = w * h;
    return c;
}

}  // namespace

/// Ways along the curb told by hand, areas of ground of known shape, and outlines with known faults.
class TestAreas : public QObject {
    Q_OBJECT
  private slots:
    /// Round the corners of a street the way keeps to its curb, in the order in which the water runs.
    void the_way_keeps_to_the_curb_round_a_bend() {
        for (const bool down : {true, false}) {
            OnStreet s({{0, 0}, {40, 0}, {40, 40}, {80, 40}}, {0, 120}, {down ? 20.0 : 18.0, down ? 18.0 : 20.0});
            s.add(10, 20, 3);
            s.add(11, 100, 3);
            s.add(12, 60, -3);  // on the other side
            const ProposedPath way = s.of(down ? 10 : 11);
            QCOMPARE(way.to.value, std::uint64_t{down ? 11u : 10u});
            QCOMPARE(way.way, ProposedPath::Way::Street);
            QCOMPARE(way.reason, std::string("along High Road to ") + (down ? "I11" : "I10"));
            QCOMPARE(way.bends.size(), std::size_t{2});
            std::vector<Point> expected;
            for (const double at : {40.0, 80.0}) expected.push_back(point_at(s.p.streets.find(5)->line, at, 3));
            if (!down) std::reverse(expected.begin(), expected.end());
            for (std::size_t i = 0; i < 2; ++i) QVERIFY(close(way.bends[i], expected[i]));
        }
    }
    /// An inlet a little beyond the low point takes the water too, one farther beyond does not; one in it spills.
    void the_low_point_ends_the_way() {
        const auto site = [](double beyond) {
            OnStreet s({{0, 40}, {100, 40}}, {0, 50, 100}, {20, 18, 20});
            s.add(10, 20, 3);
            s.add(11, 50 + beyond, 3);
            return s;
        };
        QCOMPARE(site(0).of(10).to.value, std::uint64_t{11});
        QCOMPARE(site(3.9).of(10).to.value, std::uint64_t{11});
        QVERIFY(!site(4.2).of(10).to);
        const ProposedPath stays = site(4.2).of(10);
        QCOMPARE(stays.way, ProposedPath::Way::None);
        QVERIFY(stays.bends.empty() && stays.reason.find("no surface") != std::string::npos);
        QVERIFY(!site(0).of(11).to);
        // With ground under it the way goes on from the low point, down the ground.
        const SiteGround g = made([](double, double y) { return 20 - 0.02 * y; });
        const ProposedPath on = site(30).of(10, g);
        QVERIFY(on.way == ProposedPath::Way::Ground && on.reason == "down the ground and off the site");
        QVERIFY(std::abs(on.bends.front().x - 50) < 0.01 && std::abs(std::abs(on.bends.front().y - 40) - 3) < 0.01 &&
                on.bends.back().y > 95);
    }
    /// A crest parts the water; a grade break does not. Where no mark stands the ends of the street tell.
    void which_way_the_water_turns() {
        OnStreet crest({{0, 0}, {100, 0}}, {0, 50, 100}, {18, 20, 18});
        for (const std::uint64_t i : {1, 2, 3, 4}) crest.add(i, 20.0 * static_cast<double>(i), 3);
        QCOMPARE(crest.of(2).to.value, std::uint64_t{1});
        QCOMPARE(crest.of(3).to.value, std::uint64_t{4});
        QVERIFY(!crest.of(1).to && !crest.of(4).to);
        for (const bool down : {true, false}) {
            OnStreet even({{0, 0}, {100, 0}}, {0, 30, 100}, {down ? 20.0 : 16.0, 19.0, down ? 16.0 : 20.0});
            for (const std::uint64_t i : {1, 2, 3}) even.add(i, 20.0 * static_cast<double>(i), -3);
            QCOMPARE(even.of(2).to.value, std::uint64_t{down ? 3u : 1u});
        }
    }
    /// What a person drew stays; a proposal that would close a ring with it is left out and says so.
    void a_ring_with_a_drawn_path_is_not_closed() {
        OnStreet s({{0, 0}, {100, 0}}, {0, 100}, {20, 18});
        s.add(1, 20, 3);
        s.add(2, 60, 3);
        StreetPath drawn;
        drawn.id = 77;
        drawn.name = "back";
        drawn.from = {2};
        drawn.to = {1};
        s.p.street_paths.insert(drawn);
        const StreetPathProposal found = propose_street_paths(s.p, {});
        QVERIFY(found.kept == 1 && found.paths.size() == 1 && found.none == 1 && found.found == 0);
        QVERIFY(!found.paths[0].to && found.paths[0].bends.empty());
        QCOMPARE(found.paths[0].reason, std::string("its way (along High Road to I2) would run round in a ring"));
    }
    /// Of a ring of several ways the one leaves that rises most, once, wherever one comes into the ring.
    void of_a_ring_that_leaves_which_rises_most() {
        for (const std::uint64_t worst : {1, 2}) {
            OnStreet s({{0, 0}, {100, 0}}, {0, 100}, {20, 18});
            for (const std::uint64_t i : {1, 2, 3}) s.add(i, 20.0 * static_cast<double>(i), 3);
            s.p.structures.change(1)->rim = 20;
            s.p.structures.change(2)->rim = worst == 1 ? 21 : 19;
            s.p.structures.change(3)->rim = 20.5;
            StreetPath drawn;
            drawn.id = 77;
            drawn.name = "back";
            drawn.from = {3};
            drawn.to = {1};
            s.p.street_paths.insert(drawn);
            const StreetPathProposal found = propose_street_paths(s.p, {});
            QVERIFY(found.kept == 1 && found.none == 1 && found.found == 1);
            for (const ProposedPath& path : found.paths) {
                const bool left = path.from.value == worst;
                const std::string way = "along High Road to I" + std::to_string(path.from.value + 1);
                QCOMPARE(path.reason, left ? "its way (" + way + ") would run round in a ring" : way);
                QCOMPARE(path.to.value, left ? 0 : path.from.value + 1);
            }
        }
    }
    /// A catchment's water goes down its street to the next inlet; from a low place, a high one and a level street to
    /// the nearest, whichever way the street was drawn.
    void a_catchment_on_a_street_finds_its_inlet() {
        for (const bool turned : {false, true}) {
            const auto target = [&](std::vector<double> levels, double station) {
                if (turned) std::reverse(levels.begin(), levels.end());
                OnStreet s({{0, 0}, {100, 0}}, {0, 50, 100}, levels);
                for (const auto& [id, at] : {std::pair<std::uint64_t, double>{1, 20}, {2, 60}})
                    s.add(id, turned ? 100 - at : at, 3);
                Catchment c;
                c.id = 50;
                c.street = {5};
                c.station = turned ? 100 - station : station;
                s.p.catchments.insert(c);
                return target_of(s.p, c).value;
            };
            QCOMPARE(target({20, 18, 20}, 50), std::uint64_t{2});
            QCOMPARE(target({20, 18, 20}, 30), std::uint64_t{2});
            QCOMPARE(target({20, 18, 20}, 15), std::uint64_t{1});
            QCOMPARE(target({18, 20, 18}, 50), std::uint64_t{2});
            QCOMPARE(target({18, 20, 18}, 45), std::uint64_t{1});
            QCOMPARE(target({20, 18, 16}, 50), std::uint64_t{2});
            QCOMPARE(target({20, 18, 16}, 70), std::uint64_t{0});
            QCOMPARE(target({20, 20, 20}, 30), std::uint64_t{1});
            QCOMPARE(target({20, 20, 20}, 45), std::uint64_t{2});
        }
    }
    /// Abandoned inlets take no water: not along a street, not over the ground, not for a catchment.
    void abandoned_inlets_take_nothing() {
        OnStreet s({{0, 0}, {100, 0}}, {0, 100}, {20, 18});
        for (const std::uint64_t i : {1, 2, 3}) s.add(i, 20.0 * static_cast<double>(i), 3);
        s.p.structures.change(2)->status = Status::Abandoned;
        QCOMPARE(s.of(1).to.value, std::uint64_t{3});
        QCOMPARE(propose_street_paths(s.p, {}).paths.size(), std::size_t{2});
        Catchment c;
        c.id = 50;
        c.street = {5};
        c.station = 30;
        s.p.catchments.insert(c);
        QCOMPARE(target_of(s.p, c).value, std::uint64_t{3});
        QCOMPARE(nearest_inlet(s.p, {41, 3}).value, std::uint64_t{3});
        const SiteGround g = made([](double x, double) { return 20 - 0.03 * x; });
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(inlet(1, "old", 70, 50));
        p.structures.change(1)->status = Status::Abandoned;
        p.structures.insert(inlet(2, "new", 85, 50));
        const std::vector<Point> outline{{45, 45}, {55, 45}, {55, 55}, {45, 55}};
        QCOMPARE(downhill_target(p, g, outline).value, std::uint64_t{2});
        const CatchmentProposal found = propose_catchments(p, g, {}, 2);
        QCOMPARE(found.made, std::size_t{1});
        apply(p, found.edit);
        QCOMPARE(p.catchments.begin()->structure.value, std::uint64_t{2});
    }
    /// A tilted valley: each of two inlets in its bed takes the land above it, and not what the other takes.
    void catchments_take_the_land_above_their_inlet() {
        const auto level = [](double x, double y) { return 30 + 0.05 * std::abs(y - 50) - 0.02 * x; };
        const SiteGround g = made(level);
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(inlet(1, "upper", 40, 50));
        p.structures.insert(inlet(2, "lower", 90, 50));
        p.structures.insert(inlet(3, "beyond", 300, 300));
        const CatchmentProposal found = propose_catchments(p, g, {}, 1);
        QCOMPARE(found.made, std::size_t{2});
        QCOMPARE(found.remarks, (std::vector<std::string>{"beyond: no ground drains to it"}));
        Project q = p;
        apply(q, found.edit);
        for (const Catchment& c : q.catchments) {
            const bool upper = c.structure.value == 1;
            QCOMPARE(c.name, std::string(upper ? "upper area" : "lower area"));
            QVERIFY(std::abs(c.area - area(c.outline)) <= 0.051);
            for (const char* key : {"name", "structure", "outline", "area", "flow_path"})
                QCOMPARE(c.origin[*field_index(Kind::Catchment, key)], Origin::Proposed);
            // Its land falls 0.05 across and 0.02 along: what runs to the bed at x = b starts on y = 50 +- 2.5 (b - x).
            for (const Point& corner : c.outline) QVERIFY(corner.x < (upper ? 43 : 93));
            const Point middle = centre(c.outline);
            QVERIFY(upper ? middle.x < 40 : middle.x > 40 && middle.x < 90);
            QVERIFY(c.flow_path.size() > 1 && close(c.flow_path.back(), {upper ? 40.0 : 90.0, 50.0}));
            // Down all the way, and no way of one that starts at the outline is much longer.
            for (std::size_t i = 1; i < c.flow_path.size(); ++i)
                QVERIFY(level(c.flow_path[i].x, c.flow_path[i].y) <
                        level(c.flow_path[i - 1].x, c.flow_path[i - 1].y) + 0.05);
        }
        // A hollow in the bed that no inlet drains fills and runs over: the land above it is still the upper one's.
        const SiteGround hollow = made(
            [&](double x, double y) { return level(x, y) - std::max(0.0, 0.8 - 0.1 * std::hypot(x - 20, y - 50)); });
        const auto land = [&](const SiteGround& ground) {
            Project with = p;
            apply(with, propose_catchments(p, ground, {{1}}, 1).edit);
            return with.catchments.empty() ? 0 : with.catchments.begin()->area;
        };
        QVERIFY2(std::abs(land(hollow) - land(g)) < 0.05 * land(g),
                 qPrintable(QString("%1 %2").arg(land(hollow)).arg(land(g))));
        // Only those asked for, and none twice.
        QCOMPARE(propose_catchments(p, g, {{2}}, 1).made, std::size_t{1});
        const CatchmentProposal rest = propose_catchments(q, g, {{3}}, 1);
        QVERIFY(rest.made == 0 && rest.remarks.size() == 1 && rest.edit.empty());
        QCOMPARE(propose_catchments(p, {}, {}, 1).remarks, (std::vector<std::string>{"there is no surface"}));
        QCOMPARE(propose_catchments(new_project(UnitSystem::Si), g, {}, 1).remarks,
                 (std::vector<std::string>{"there is no inlet"}));
        // The surface is that of both grounds together.
        SiteGround both = g;
        SurfaceData d;
        for (double x = 100; x <= 160; x += 5)
            for (double y = 0; y <= 100; y += 5) d.points.push_back({x, y, level(x, y)});
        both.ground.existing = Terrain::build(std::move(d));
        Project far = new_project(UnitSystem::Si);
        far.structures.insert(inlet(1, "far", 150, 50));
        QCOMPARE(propose_catchments(far, both, {}, 2).made, std::size_t{1});
    }
    /// On a plane the longest way to the structure is the straight one from the farthest edge.
    void the_longest_way_on_a_plane_is_straight() {
        const SiteGround g = made([](double x, double) { return 20 - 0.03 * x; });
        const std::vector<Point> outline{{15, 46}, {75, 46}, {75, 54}, {15, 54}};
        const std::vector<Point> way = longest_flow_path(g, outline, {80, 50});
        QVERIFY(way.size() > 1 && close(way.back(), {80, 50}));
        // Heads lie 3 % of the way to the middle inside the outline: from x = 15.9, at most 4 m beside the inlet.
        QVERIFY2(length(way) > 64 && length(way) < 68.2, qPrintable(QString::number(length(way))));
        QVERIFY(std::abs(way[0].x - 15.9) < 0.01 && std::abs(std::abs(way[0].y - 50) - 3.88) < 0.01);
        QVERIFY(way.size() == 3 && std::abs(way[1].y - way[0].y) < 0.01);
        QVERIFY(longest_flow_path(g, outline, {10, 50}).empty());  // uphill
        QVERIFY(longest_flow_path({}, outline, {80, 50}).empty());
        QVERIFY(longest_flow_path(g, {{0, 0}, {1, 1}}, {80, 50}).empty());
    }
    void the_place_of_a_fault_is_its_outline() {
        Project p = new_project(UnitSystem::Si);
        p.catchments.insert(square(1, "b", 0, 0, 10, 10));
        p.catchments.insert(square(2, "a", 8, 0, 10, 10));
        auto faults = outline_faults(p);
        QCOMPARE(faults.size(), std::size_t{1});
        QVERIFY(faults[0].first == 2 && faults[0].second == 1);  // by name
        QVERIFY(std::abs(area(faults[0].place) - 20) < 1e-9 && close(centre(faults[0].place), {9, 5}));
        QVERIFY(outline_faults(p, 20.1).empty() && outline_faults(p, 19.9).size() == 1);
        // Two pieces in common: the larger one is the place, the area is that of both.
        p.catchments.change(1)->outline = {{0, 0}, {10, 0}, {10, 2}, {2, 2}, {2, 6}, {12, 6}, {12, 10}, {0, 10}};
        faults = outline_faults(p);
        QCOMPARE(faults.size(), std::size_t{2});
        QVERIFY(faults[0].form == OutlineFault::Form::Overlap);
        QVERIFY(faults[1].form == OutlineFault::Form::Gap && std::abs(faults[1].area - 6 * 4) < 1e-9);
        QVERIFY(std::abs(faults[0].area - (2 * 2 + 4 * 4)) < 1e-9 && close(centre(faults[0].place), {10, 8}));
        // A triangle is an outline too.
        p.catchments.change(1)->outline = {{0, 0}, {12, 0}, {0, 12}};
        faults = outline_faults(p);
        QVERIFY(faults.size() == 1 && std::abs(faults[0].area - 4.0 * 4.0 / 2) < 1e-9);  // beyond x = 8: 4 by 4, halved
        // A gap is named with a catchment beside it, and a small one is none.
        Project ring = new_project(UnitSystem::Si);
        ring.catchments.insert(square(1, "south", 0, 0, 12, 4));
        ring.catchments.insert(square(2, "north", 0, 8, 12, 4));
        ring.catchments.insert(square(3, "west", 0, 4, 4, 4));
        ring.catchments.insert(square(4, "east", 5, 4, 7, 4));
        faults = outline_faults(ring, 0.5);
        QCOMPARE(faults.size(), std::size_t{1});
        QVERIFY(faults[0].form == OutlineFault::Form::Gap && std::abs(faults[0].area - 4) < 1e-9);
        QVERIFY((faults[0].first == 3 || faults[0].first == 4) && close(centre(faults[0].place), {4.5, 6}));
        QVERIFY(outline_faults(ring, 4.1).empty());
    }
    /// The part on the left of the line keeps the row; names are not taken twice.
    void a_cut_keeps_the_left_part() {
        Project p = new_project(UnitSystem::Si);
        Catchment c = square(1, "Yard", 0, 0, 20, 10);
        c.foreign.emplace_back("x", "1");
        p.catchments.insert(c);
        p.catchments.insert(square(2, "Yard b", 100, 0, 5, 5));
        for (const bool up : {true, false}) {
            Project q = p;
            apply(q, split_catchment(p, {1}, {{5, up ? -1.0 : 11.0}, {5, up ? 11.0 : -1.0}}));
            QCOMPARE(q.catchments.size(), std::size_t{3});
            QVERIFY(std::abs(area(q.catchments.find(1)->outline) - (up ? 50 : 150)) < 1e-9);
            QVERIFY(std::abs(q.catchments.find(1)->area - (up ? 50 : 150)) < 1e-9);
            for (const Catchment& part : q.catchments)
                if (part.id > 2) QVERIFY(part.name == "Yard b2" && part.foreign.empty());
        }
        std::string why;
        QVERIFY(!split_catchment(p, {1}, {{9, 4}, {9, 6}}).empty());  // drawn short: it is drawn out
        QVERIFY(split_catchment(p, {1}, {{-1, 12}, {30, 12}}, &why).empty() &&
                why == "the line does not cut through it");
    }
};
QTEST_APPLESS_MAIN(TestAreas)
#include "test_areas.moc"
