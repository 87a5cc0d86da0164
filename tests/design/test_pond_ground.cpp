// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/design/pond_ground.h"
#include "core/design/storage_study.h"
#include "core/geometry/grown_outline.h"
#include "core/network/network.h"
#include "support/ponds.h"

using namespace culvert;
using testing::PondSite;

namespace {

/// Ground as a cone of slope 1 in 4 up from (50, 50) at 10 m, as a survey of points.
Ground cone() {
    SurfaceData in;
    for (int i = 0; i <= 50; ++i)
        for (int k = 0; k <= 50; ++k) {
            const double x = 2.0 * i, y = 2.0 * k;
            in.points.push_back({x, y, 10 + std::hypot(x - 50, y - 50) / 4});
        }
    Ground g;
    g.existing = Terrain::build(in);
    return g;
}

}  // namespace

class TestPondGround : public QObject {
    Q_OBJECT
  private slots:
    void grown_outline_has_its_area() {
        const std::vector<Point> square{{0, 0}, {10, 0}, {10, 10}, {0, 10}};
        for (const double d : {0.5, 2.0, 7.0}) {
            QVERIFY(std::abs(area(grown_outline(square, d)) - (10 + 2 * d) * (10 + 2 * d)) < 1e-9);
            std::vector<Point> other(square.rbegin(), square.rend());
            QVERIFY(std::abs(area(grown_outline(other, d)) - (10 + 2 * d) * (10 + 2 * d)) < 1e-9);
        }
        // Closed, and with a corner given twice: the same shape.
        const std::vector<Point> closed{{0, 0}, {10, 0}, {10, 0}, {10, 10}, {0, 10}, {0, 0}};
        QVERIFY(std::abs(area(grown_outline(closed, 2)) - 196) < 1e-9);
        const std::vector<Point> five{{0, 0}, {20, -3}, {28, 9}, {14, 22}, {-2, 12}};
        Pond p;
        p.storage_by = StorageBy::Outline;
        p.outline = five;
        p.bottom = 0;
        p.sides = 3;
        p.depth = 2;
        QVERIFY(std::abs(storage_of(p).area(1.5) - area(grown_outline(five, 4.5))) < 1e-6 * area(five));
    }
    void space_of_a_cone() {
        // At h above its tip the surface of a cone is a circle of 4 h: pi 16 h^2, its volume pi 16 h^3 / 3.
        const GroundSpace s = space_of_ground(cone(), {}, {50, 50}, 10, 14, 16, 45);
        QVERIFY2(s.why.empty(), s.why.c_str());
        QCOMPARE(s.levels.size(), std::size_t{17});
        for (std::size_t i = 4; i < s.levels.size(); ++i) {
            const double h = s.levels[i] - 10, exact = 3.14159265 * 16 * h * h;
            QVERIFY2(std::abs(s.areas[i] - exact) < 0.05 * exact + 3,
                     qPrintable(QString("%1 %2").arg(s.areas[i]).arg(exact)));
        }
        QVERIFY(s.spills > 20);
        // Within an outline that cuts it off, no more than the outline.
        const GroundSpace part =
            space_of_ground(cone(), {{40, 40}, {60, 40}, {60, 60}, {40, 60}}, {50, 50}, not_given, not_given);
        QVERIFY(part.areas.back() <= 401 && part.areas.back() > 380);
        QVERIFY(!space_of_ground({}, {}, {50, 50}, 10, 12).why.empty());
        QVERIFY(!space_of_ground(cone(), {}, {500, 500}, 10, 12).why.empty());
    }
    /// A valley that falls to the east, closed by a wall, away from the middle of the survey and with a hole in it:
    /// what the water covers at each level is counted on the same cells.
    void space_of_a_dammed_valley_with_a_hole_in_the_survey() {
        SurfaceData in;
        const auto level = [](double x, double y) {
            return 20 + std::abs(y - 30) * 0.1 - 0.02 * x + (x > 80 ? (x - 80) * 0.5 : 0);
        };
        for (int i = 0; i <= 60; ++i)
            for (int k = 0; k <= 30; ++k) in.points.push_back({2.0 * i, 2.0 * k, level(2.0 * i, 2.0 * k)});
        Ground g;
        g.existing = Terrain::build(in);
        const std::vector<Point> outline{{40, 5}, {110, 12}, {110, 55}, {40, 50}};
        const GroundSpace s = space_of_ground(g, outline, {75, 30}, not_given, not_given, 8);
        QVERIFY2(s.why.empty(), s.why.c_str());
        QCOMPARE(s.levels.size(), std::size_t{9});
        QVERIFY(std::abs(s.levels.front() - level(80, 30)) < 0.06);  // the lowest of the outline, before the wall
        for (std::size_t i = 0; i < s.levels.size(); ++i) {
            double covered = 0;  // all of the valley hangs together: what lies below the level is covered
            for (double x = 40.25; x < 110; x += 0.5)
                for (double y = 5.25; y < 55; y += 0.5)
                    if (inside({x, y}, outline) && level(x, y) <= s.levels[i]) covered += 0.25;
            QVERIFY2(std::abs(s.areas[i] - covered) < 0.03 * covered + 8,
                     qPrintable(QString("%1: %2 for %3").arg(s.levels[i]).arg(s.areas[i]).arg(covered)));
        }
        // An outline that reaches beyond the survey holds no water there; below its lip it is the same.
        const std::vector<Point> over{{40, -40}, {110, -40}, {110, 55}, {40, 50}};
        const GroundSpace part = space_of_ground(g, over, {75, 30}, s.levels[0], s.levels[2], 2);
        QVERIFY2(part.why.empty(), part.why.c_str());
        QVERIFY2(std::abs(part.areas[1] - s.areas[1]) < 0.05 * s.areas[1] + 8,
                 qPrintable(QString("%1 for %2").arg(part.areas[1]).arg(s.areas[1])));
        // Round a place, without an outline: a square of the reach on all sides, not shifted.
        const GroundSpace square = space_of_ground(cone(), {}, {40, 55}, 10, 11, 4, 30);
        QVERIFY2(square.why.empty(), square.why.c_str());
        const double exact = M_PI * 16;  // at 11 m the cone's circle has a radius of 4 m
        QVERIFY2(std::abs(square.areas.back() - exact) < 0.1 * exact + 2,
                 qPrintable(QString::number(square.areas.back())));
        // It spills where the square's nearest side lies, 10 + 20 / 4 from the tip: left, at 40 - 30 = 10 m, 40 m away.
        QVERIFY2(std::abs(square.spills - (10 + 20.0 / 4)) < 0.5, qPrintable(QString::number(square.spills)));
    }
    void earth_of_a_pit_in_level_ground() {
        SurfaceData in;
        for (const double x : {-100.0, 0.0, 100.0})
            for (const double y : {-100.0, 0.0, 100.0}) in.points.push_back({x, y, 20});
        Ground g;
        g.existing = Terrain::build(in);
        Pond p;
        p.outline = {{-10, -5}, {10, -5}, {10, 5}, {-10, 5}};
        p.bottom = 18;
        p.crest = 20;
        p.sides = 2;
        // Frustum with rounded corners (slopes keep their distance): between (20 x 10) and its outward circle corners.
        const double d = 4, mitred = 2.0 / 6 * (200 + 4 * 24 * 14 + 28 * 18), corners = (4 - 3.14159265) * d * d;
        const CutFill c = cut_and_fill(g, p);
        QVERIFY2(c.why.empty(), c.why.c_str());
        QVERIFY2(std::abs(c.cut - mitred) < 0.02 * mitred + corners,
                 qPrintable(QString("%1 %2").arg(c.cut).arg(mitred)));
        QVERIFY(c.fill < 0.01 * c.cut);
        p.bottom = 20;
        p.crest = 22;  // a bank on level ground: all is filled
        const CutFill f = cut_and_fill(g, p);
        QVERIFY(f.cut < 1e-6 && f.fill > 100);
        // Walls where no side slope is given: the outline straight up.
        p.bottom = 18;
        p.crest = 20;
        p.sides = not_given;
        QVERIFY(std::abs(cut_and_fill(g, p).cut - 400) < 6 && std::abs(cut_and_fill(g, p).area - 200) < 3);
        p.outline.clear();
        QVERIFY(!cut_and_fill(g, p).why.empty());
    }
    void gaps_are_filled_as_rows() {
        PondSite s;
        s.set(Kind::Pond, s.pond_row, "storage_by", static_cast<int>(StorageBy::Areas));
        s.set(Kind::Pond, s.pond_row, "levels", std::vector<double>{40.5, 41.5});
        s.set(Kind::Pond, s.pond_row, "areas", std::vector<double>{400, 700});
        Project p = s.project;
        apply(p, fill_gaps(p, s.pond_row, 42.6));
        QCOMPARE(p.ponds.find(s.pond_row)->levels, (std::vector<double>{40, 40.5, 41.5, 42.6}));
        QCOMPARE(p.ponds.find(s.pond_row)->areas, (std::vector<double>{400, 400, 700, 700}));
        QVERIFY(fill_gaps(p, s.pond_row, 42.6).changes.empty());
        // Up to the highest level there is nothing to fill; a hair above it there is.
        Project q = s.project;
        q.ponds.change(s.pond_row)->levels = {40, 41.5};
        QVERIFY(fill_gaps(q, s.pond_row, 41.5).changes.empty() && !fill_gaps(q, s.pond_row, 41.51).changes.empty());
    }
    void gaps_of_volumes_are_as_wide_as_their_neighbours() {
        PondSite s;
        s.set(Kind::Pond, s.pond_row, "storage_by", static_cast<int>(StorageBy::Volumes));
        s.set(Kind::Pond, s.pond_row, "levels", std::vector<double>{40.5, 41.0, 41.5});
        s.set(Kind::Pond, s.pond_row, "volumes", std::vector<double>{0, 200, 500});
        Project p = s.project;
        apply(p, fill_gaps(p, s.pond_row, 42.0));
        // 400 m2 below, 600 m2 above: 200 m3 more below all, 300 m3 on top.
        QCOMPARE(p.ponds.find(s.pond_row)->levels, (std::vector<double>{40, 40.5, 41.0, 41.5, 42.0}));
        QCOMPARE(p.ponds.find(s.pond_row)->volumes, (std::vector<double>{0, 200, 400, 700, 1000}));
        QCOMPARE(p.ponds.find(s.pond_row)->origin[*field_index(Kind::Pond, "volumes")], Origin::Proposed);
        QVERIFY(fill_gaps(p, s.pond_row, 42.0).changes.empty());
        QVERIFY(fill_gaps(p, 31337, 42.0).changes.empty());
        // Lists that do not belong together are left to the person who typed them.
        for (const StorageBy by : {StorageBy::Areas, StorageBy::Volumes}) {
            s.set(Kind::Pond, s.pond_row, "storage_by", static_cast<int>(by));
            s.set(Kind::Pond, s.pond_row, by == StorageBy::Areas ? "areas" : "volumes", std::vector<double>{});
            QVERIFY(fill_gaps(s.project, s.pond_row, 42.0).changes.empty());
        }
        s.set(Kind::Pond, s.pond_row, "storage_by", static_cast<int>(StorageBy::Basin));
        QVERIFY(fill_gaps(s.project, s.pond_row, 42.0).changes.empty());
    }
    void space_of_the_ground_is_taken_as_levels_and_areas() {
        PondSite s;
        GroundSpace space;
        space.levels = {40, 41};
        QVERIFY(take_space(s.project, s.pond_row, {}).changes.empty());
        space.areas = {10, 90};
        apply(s.project, take_space(s.project, s.pond_row, space));
        const Pond& p = *s.project.ponds.find(s.pond_row);
        QCOMPARE(p.storage_by, StorageBy::Areas);
        QCOMPARE(p.levels, space.levels);
        QCOMPARE(p.areas, space.areas);
        QCOMPARE(p.origin[*field_index(Kind::Pond, "areas")], Origin::Ground);
    }
    void what_is_not_known_of_the_ground_is_said() {
        SurfaceData in;  // a plane that falls to the east: nothing stands on it
        for (const double x : {-100.0, 0.0, 100.0})
            for (const double y : {-100.0, 0.0, 100.0}) in.points.push_back({x, y, 20 - x / 10});
        Ground g;
        g.existing = Terrain::build(in);
        QVERIFY(!space_of_ground(g, {}, {0, 0}, not_given, not_given, 12, 50).why.empty());
        Pond p;
        p.outline = {{60, -40}, {140, -40}, {140, 40}, {60, 40}};  // half of it beyond the surface
        p.bottom = 8;
        p.crest = 9;
        p.sides = 1;
        QVERIFY(cut_and_fill(g, p).why.find("not known under all") != std::string::npos);
        p.crest = not_given;
        QVERIFY(cut_and_fill(g, p).why.find("crest") != std::string::npos);
        p.crest = 9;
        QVERIFY(cut_and_fill({}, p).why.find("surface") != std::string::npos);
    }
    void storage_is_given_with_ways_out() {
        PondSite s(false);
        const Edit e = give_storage(s.project, s.end);
        apply(s.project, e);
        QCOMPARE(s.project.ponds.size(), std::size_t{1});
        QCOMPARE(s.project.outlets.size(), std::size_t{2});
        QCOMPARE(s.project.structures.find(s.end.value)->kind, StructureKind::Pond);
        for (const Fault& f : compile(s.project).faults) QVERIFY2(f.severity != Severity::Error, f.detail.c_str());
        QVERIFY(give_storage(s.project, s.end).changes.empty());
        for (int k = 0; k <= static_cast<int>(OutletKind::Rating); ++k) {
            std::string why;
            QVERIFY2(way_of(new_outlet(s.project, s.end, static_cast<OutletKind>(k)), 60, &why), why.c_str());
        }
    }
    void blocked_outlets_leave_the_overflow() {
        PondSite s;
        const auto rows = with_outlets_blocked(s.project, s.pond);
        QCOMPARE(rows.size(), std::size_t{2});
        const auto open = hydrographs_at(s.project, s.pond);
        for (std::size_t i = 0; i < 2; ++i) QVERIFY(rows[i].level > open[i].pond.level + 0.05);
        s.set(Kind::PondOutlet, s.spill, "level", 41.0);
        QVERIFY(with_outlets_blocked(s.project, s.pond)[1].outflow > 0.05);
    }
};

QTEST_APPLESS_MAIN(TestPondGround)
#include "test_pond_ground.moc"
