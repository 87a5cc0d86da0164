// SPDX-License-Identifier: GPL-3.0-or-later
#include <QElapsedTimer>
#include <QtTest>
#include <cmath>
#include <map>
#include <numbers>
#include <random>
#include <set>

#include "core/terrain/contours.h"
#include "core/terrain/drainage.h"

using namespace culvert;

/// Surfaces against closed forms (plane, paraboloid, ridge), brute force, and independent relaxation.
class TestTerrain : public QObject {
    Q_OBJECT
    std::mt19937 random_{7};
    double uniform(double a, double b) { return std::uniform_real_distribution<double>(a, b)(random_); }

    /// Points on z = f(x, y): a grid of n x n over a square, its inner points moved at random by `shake` of a cell.
    template <class F>
    SurfaceData grid(int n, double left, double right, F f, double shake = 0) {
        SurfaceData d;
        const double cell = (right - left) / (n - 1);
        for (int r = 0; r < n; ++r)
            for (int c = 0; c < n; ++c) {
                const bool rim = r == 0 || c == 0 || r == n - 1 || c == n - 1;
                const double x = left + c * cell + (rim ? 0 : uniform(-shake, shake) * cell),
                             y = left + r * cell + (rim ? 0 : uniform(-shake, shake) * cell);
                d.points.push_back({x, y, f(x, y)});
            }
        return d;
    }
    SurfaceData rough(int n, unsigned seed) {
        random_.seed(seed);
        return grid(
            n, 0, 100, [this](double, double) { return uniform(0, 10); }, 0.4);
    }

  private slots:
    void a_plane_is_met_exactly() {
        const auto plane = [](double x, double y) { return 80 + 0.03 * x - 0.017 * y; };
        // Coordinates as large as a national grid's.
        SurfaceData d = grid(20, 0, 200, plane, 0.4);
        for (GroundPoint& p : d.points) {
            p.x += 500000;
            p.y += 4100000;
        }
        const auto t = Terrain::build(d);
        QVERIFY(t);
        Terrain::Cursor cursor;
        for (int i = 0; i < 2000; ++i) {
            const double x = uniform(0, 200), y = uniform(0, 200);
            QVERIFY(std::abs(t->elevation({500000 + x, 4100000 + y}, cursor) - plane(x, y)) < 1e-8);
        }
        QVERIFY(std::isnan(t->elevation({499990, 4100100})));
        QVERIFY(std::abs(t->area() - 40000) < 1e-4);
        for (const auto& s : t->section({500010, 4100010}, {500190, 4100150})) {
            const double f = s.distance / std::hypot(180, 140);
            QVERIFY(std::abs(s.level - plane(10 + 180 * f, 10 + 140 * f)) < 1e-8);
        }
        // Volume below a level above it all: the prism.
        const double mean = plane(100, 100);
        QVERIFY(std::abs(t->volume_below(100) - 40000 * (100 - mean)) < 1e-2);
        const Point g = t->gradient(5);
        QVERIFY(std::abs(g.x - 0.03) < 1e-7 && std::abs(g.y + 0.017) < 1e-7);
    }
    void a_section_leaves_and_enters_the_surface() {
        SurfaceData d = grid(11, 0, 100, [](double x, double) { return x; });
        d.holes.push_back({{40, 30}, {60, 30}, {60, 70}, {40, 70}});
        SurfaceNotes notes;
        const auto t = Terrain::build(d, &notes);
        QVERIFY(std::abs(t->area() - (10000 - 800)) < 1e-6);
        QVERIFY(std::isnan(t->elevation({50, 50})));
        QCOMPARE(t->elevation({35, 50}), 35.0);
        const auto s = t->section({-20, 50}, {120, 50});
        double known = 0;
        for (std::size_t i = 1; i < s.size(); ++i)
            if (!std::isnan(s[i].level) && !std::isnan(s[i - 1].level)) {
                known += s[i].distance - s[i - 1].distance;
                QVERIFY(std::abs(s[i].level - (s[i].distance - 20)) < 1e-9);
            }
        QVERIFY2(std::abs(known - 80) < 1e-6, qPrintable(QString::number(known)));
    }
    void a_boundary_cuts_the_surface_and_changes_no_level() {
        SurfaceData d = grid(
            25, -10, 110, [](double x, double y) { return std::sin(x / 9) + std::cos(y / 7); }, 0.3);
        const auto whole = Terrain::build(d);
        d.boundaries.push_back({{3, 5}, {95, 12}, {88, 91}, {50, 60}, {8, 97}});
        const auto cut = Terrain::build(d);
        QVERIFY(std::abs(cut->area() - area(d.boundaries[0])) < 1e-6 * area(d.boundaries[0]));
        int in = 0;
        for (int i = 0; i < 3000; ++i) {
            const Point p{uniform(-10, 110), uniform(-10, 110)};
            double edge = 1e300;
            for (std::size_t k = 0; k < 5; ++k)
                edge = std::min(edge, distance_to_segment(p, d.boundaries[0][k], d.boundaries[0][(k + 1) % 5]));
            if (edge < 1e-6) continue;
            const double z = cut->elevation(p);
            QCOMPARE(!std::isnan(z), inside(p, d.boundaries[0]));
            if (!std::isnan(z)) {
                ++in;
                QVERIFY(std::abs(z - whole->elevation(p)) < 1e-9);
            }
        }
        QVERIFY(in > 500);
    }
    void queries_agree_with_a_search_of_all_triangles() {
        const auto t = Terrain::build(rough(30, 3));
        Terrain::Cursor cursor;
        for (int i = 0; i < 500; ++i) {
            const Point p{uniform(0, 100), uniform(0, 100)};
            double brute = std::numeric_limits<double>::quiet_NaN();
            for (std::size_t k = 0; k < t->triangles().size(); ++k) {
                std::vector<Point> corners;
                for (const std::uint32_t c : t->triangles()[k].corner)
                    corners.push_back({t->points()[c].x, t->points()[c].y});
                if (inside(p, corners)) {
                    const auto& c = t->triangles()[k].corner;
                    const GroundPoint &a = t->points()[c[0]], &b = t->points()[c[1]], &e = t->points()[c[2]];
                    // Cramer's rule for the plane through three points: another formula than the code's.
                    const double det = (b.y - e.y) * (a.x - e.x) + (e.x - b.x) * (a.y - e.y);
                    const double u = ((b.y - e.y) * (p.x - e.x) + (e.x - b.x) * (p.y - e.y)) / det,
                                 v = ((e.y - a.y) * (p.x - e.x) + (a.x - e.x) * (p.y - e.y)) / det;
                    brute = u * a.z + v * b.z + (1 - u - v) * e.z;
                }
            }
            QVERIFY(std::abs(t->elevation(p, cursor) - brute) < 1e-9);
        }
    }
    void the_order_of_points_does_not_matter() {
        SurfaceData d = rough(20, 5);
        const auto a = Terrain::build(d);
        std::shuffle(d.points.begin(), d.points.end(), random_);
        const auto b = Terrain::build(d);
        for (int i = 0; i < 500; ++i) {
            const Point p{uniform(0, 100), uniform(0, 100)};
            QVERIFY(std::abs(a->elevation(p) - b->elevation(p)) < 1e-9);
        }
    }
    void breaklines_are_edges_and_their_crossings_have_the_mean_level() {
        SurfaceData d;
        for (const double x : {0.0, 100.0})
            for (const double y : {0.0, 100.0}) d.points.push_back({x, y, 10});
        d.breaklines.push_back({{0, 50, 10}, {100, 50, 20}});  // at 50: 15
        d.breaklines.push_back({{50, 0, 10}, {50, 100, 12}});  // at 50: 11
        SurfaceNotes notes;
        const auto t = Terrain::build(d, &notes);
        QCOMPARE(notes.crossings, std::size_t{1});
        QVERIFY(std::abs(notes.worst_crossing - 4) < 1e-9);
        QVERIFY(std::abs(t->elevation({50, 50}) - 13) < 1e-9);
        QVERIFY(std::abs(t->elevation({0, 50}) - 10) < 1e-9);
        QVERIFY(std::abs(t->elevation({25, 50}) - (10 + 13) / 2.0) < 1e-9);  // straight from its end to the crossing
        for (const GroundPoint& p : t->points()) QVERIFY(std::isfinite(p.z));
        QCOMPARE(notes.in_words().size(), std::size_t{1});
        // A line without levels lies on the ground and changes nothing.
        SurfaceData flat = rough(12, 9);
        const auto before = Terrain::build(flat);
        flat.breaklines.push_back({{3, 7}, {81, 66}, {90, 20}});
        const auto after = Terrain::build(flat);
        QVERIFY(after->points().size() > before->points().size());
        for (int i = 0; i < 500; ++i) {
            const Point p{uniform(0, 100), uniform(0, 100)};
            QVERIFY(std::abs(before->elevation(p) - after->elevation(p)) < 1e-9);
        }
    }
    void lines_that_cross_everywhere_are_refused_before_the_first_is_inserted() {
        const auto lattice = [](int lines) {  // a net of lines/2 by lines/2, a little turned, each crossing once
            SurfaceData d;
            for (int i = 0; i < lines / 2; ++i) {
                const double at = 10.0 * i;
                d.breaklines.push_back({{-50, at + 0.3, 1}, {10.0 * lines, at + 3.1, 1}});
                d.breaklines.push_back({{at + 0.7, -50, 1}, {at - 2.9, 10.0 * lines, 1}});
            }
            return d;
        };
        SurfaceNotes notes;
        QVERIFY(Terrain::build(lattice(160), &notes));  // 80 x 80
        QVERIFY(!notes.too_many);
        QCOMPARE(notes.crossings, std::size_t{6400});
        QElapsedTimer since;
        since.start();
        notes = {};
        QVERIFY(!Terrain::build(lattice(2000), &notes));  // a million
        QVERIFY(notes.too_many);
        QVERIFY(notes.in_words().back().find("20000 times") != std::string::npos);
        QVERIFY2(since.elapsed() < 2000, qPrintable(QString::number(since.elapsed())));
    }
    /// Copies of a line lie within each other's boxes without a crossing: a hundred thousand are refused at once.
    void lines_in_a_heap_are_refused() {
        const auto heap = [this](int lines) {
            SurfaceData d = grid(5, 0, 40, [](double, double) { return 3.0; });
            for (int i = 0; i < lines; ++i) d.breaklines.push_back({{3, 4, 2}, {30, 17, 2}});
            return d;
        };
        SurfaceNotes notes;
        QVERIFY(Terrain::build(heap(1000), &notes));
        QVERIFY(!notes.too_many);
        QElapsedTimer since;
        since.start();
        notes = {};
        QVERIFY(!Terrain::build(heap(100000), &notes));
        QVERIFY(notes.too_many && notes.in_words().back().find("heaps") != std::string::npos);
        QVERIFY2(since.elapsed() < 3000, qPrintable(QString::number(since.elapsed())));
    }
    void awkward_points_are_counted_and_survived() {
        SurfaceData d = grid(5, 0, 40, [](double, double) { return 3.0; });
        d.points.push_back({10, 10, 3.5});
        d.points.push_back({20, 20, 3.0});
        d.points.push_back({5, 5});
        SurfaceNotes notes;
        const auto t = Terrain::build(d, &notes);
        QCOMPARE(notes.duplicates, std::size_t{2});
        QCOMPARE(notes.worst_duplicate, 0.5);
        QCOMPARE(notes.without_level, std::size_t{1});
        QCOMPARE(t->elevation({10, 10}), 3.0);  // the first holds
        // Of many points at one place the first in the list holds, whichever the triangulation meets first.
        std::mt19937 dice(3);
        SurfaceData heap;
        std::map<std::pair<double, double>, double> first;
        for (int i = 0; i < 600; ++i) {
            const GroundPoint p{double(dice() % 9) * 7, double(dice() % 9) * 7, double(dice() % 1000) / 100};
            heap.points.push_back(p);
            first.try_emplace({p.x, p.y}, p.z);
        }
        const auto heaped = Terrain::build(heap);
        for (const auto& [at, z] : first) QCOMPARE(heaped->elevation({at.first, at.second}), z);
        QVERIFY(!Terrain::build({}));
        SurfaceData line;
        for (int i = 0; i < 10; ++i) line.points.push_back({i * 1.0, i * 2.0, 1});
        QVERIFY(!Terrain::build(line));
        SurfaceData one;
        one.points.assign(50, {1, 1, 1});
        QVERIFY(!Terrain::build(one));
        std::stop_source stop;
        stop.request_stop();
        QVERIFY(!Terrain::build(rough(200, 1), nullptr, stop.get_token()));
    }
    void surveyed_triangles_and_long_edges_make_the_surface() {
        SurfaceData d;
        d.points = {{0, 0, 1}, {10, 0, 1}, {10, 10, 2}, {0, 10, 1}, {5, 2, 7}};
        d.faces = {{0, 1, 4}, {1, 2, 4}, {0, 4, 3}};  // the triangle 2-3-4 is missing
        const auto t = Terrain::build(d);
        QVERIFY(std::isnan(t->elevation({5, 9})));
        QVERIFY(std::abs(t->area() - (10 + 25 + 25)) < 1e-9);
        SurfaceData holed;
        for (int r = 0; r < 20; ++r)
            for (int c = 0; c < 20; ++c)
                if (r < 8 || r > 11 || c < 8 || c > 11) holed.points.push_back({c * 1.0, r * 1.0, 5});
        holed.longest_edge = 1.5;
        QVERIFY(std::isnan(Terrain::build(holed)->elevation({9.5, 9.5})));
        QVERIFY(std::abs(Terrain::build(holed)->area() - (361 - 25 + 4 * 0.5)) < 1e-9);
    }
    void a_bowl_has_the_depth_area_and_volume_of_its_paraboloid() {
        // z = r^2 / 50 inside a rim at r = 20 that falls away outside: water stands to level 8.
        const auto bowl = [](double x, double y) {
            const double r = std::hypot(x, y);
            return r <= 20 ? r * r / 50 : 8 - (r - 20) * 0.1;
        };
        SurfaceData d = grid(161, -40, 40, bowl, 0.2);
        for (int i = 0; i < 720; ++i) {
            const double a = i * std::numbers::pi / 360;
            d.points.push_back({20 * std::cos(a), 20 * std::sin(a), 8});
        }
        d.points.push_back({0, 0, 0});
        const auto t = Terrain::build(d);
        const auto found = Drainage(t).depressions(0.2);
        QCOMPARE(found.size(), std::size_t{1});
        QVERIFY2(std::abs(found[0].depth() - 8) < 0.02, qPrintable(QString::number(found[0].depth(), 'g', 12)));
        const double full = std::numbers::pi * 400;
        QVERIFY2(std::abs(found[0].area / full - 1) < 0.01, qPrintable(QString::number(found[0].area / full)));
        QVERIFY2(std::abs(found[0].volume / (full * 8 / 2) - 1) < 0.01,
                 qPrintable(QString::number(found[0].volume / (full * 4))));
        QVERIFY(std::hypot(found[0].bottom.x, found[0].bottom.y) < 0.5);
        // Contour lengths: circles of radius sqrt(50 z).
        for (const Contour& c : contours(*t, 2)) {
            if (!c.closed || c.level > 7 || std::hypot(c.line[0].x, c.line[0].y) > 20) continue;
            const double circle = 2 * std::numbers::pi * std::sqrt(50 * c.level);
            QVERIFY2(std::abs(length(c.line) / circle - 1) < 0.01,
                     qPrintable(QString("%1: %2 of %3").arg(c.level).arg(length(c.line)).arg(circle)));
        }
    }
    void a_ridge_parts_the_water() {
        SurfaceData d = grid(21, 0, 100, [](double x, double) { return 50 - std::abs(x - 50) * 0.02; });
        const auto t = Terrain::build(d);
        const Drainage drainage(t);
        QVERIFY(drainage.depressions(1e-6).empty());
        const Trace left = drainage.trace({31, 43}, 0.05), right = drainage.trace({73, 61}, 0.05);
        QCOMPARE(left.end, TraceEnd::LeftSurface);
        QVERIFY(std::abs(left.line.back().x) < 1e-6 && std::abs(left.line.back().y - 43) < 1e-6);
        QVERIFY(std::abs(right.line.back().x - 100) < 1e-6 && std::abs(right.line.back().y - 61) < 1e-6);
        QVERIFY(std::abs(left.length() - 31) < 1e-6);
        int lines = 0;
        for (const Contour& c : contours(*t, 0.25)) {
            ++lines;
            QVERIFY(!c.closed);
            QVERIFY2(std::abs(length(c.line) - 100) < 1e-9, qPrintable(QString::number(length(c.line))));
        }
        QCOMPARE(lines, 2 * 4);  // 49.25 to 50 on both sides; 49 is the border, whose corners count as above it
        const auto areas = propose_areas({t, nullptr}, t->bounds(), {{10, 50}, {90, 50}}, 2.5);
        QCOMPARE(areas.size(), std::size_t{2});
    }
    void contours_have_the_length_that_the_triangles_give_them() {
        const auto t = Terrain::build(rough(25, 11));
        double brute = 0, chained = 0;
        for (std::size_t i = 0; i < t->triangles().size(); ++i)
            for (int k = 1; k < 5; ++k) {
                const double level = 2.0 * k;
                std::vector<Point> ends;
                for (std::size_t s = 0; s < 3; ++s) {
                    const GroundPoint &a = t->points()[t->triangles()[i].corner[s]],
                                      &b = t->points()[t->triangles()[i].corner[(s + 1) % 3]];
                    if ((a.z - level) * (b.z - level) < 0) {
                        const double f = (level - a.z) / (b.z - a.z);
                        ends.push_back({a.x + f * (b.x - a.x), a.y + f * (b.y - a.y)});
                    }
                }
                if (ends.size() == 2) brute += distance(ends[0], ends[1]);
            }
        for (const Contour& c : contours(*t, 2)) {
            chained += length(c.line);
            if (c.closed) QVERIFY(c.line.front() == c.line.back());
            else
                for (const Point& end : {c.line.front(), c.line.back()})
                    QVERIFY(std::min({end.x, end.y, 100 - end.x, 100 - end.y}) < 1e-9);  // it ends at the border
        }
        QVERIFY(brute > 1000);
        QVERIFY2(std::abs(chained / brute - 1) < 1e-9, qPrintable(QString::number(chained / brute, 'g', 15)));
        QCOMPARE(contour_interval(0, 10, 12), 1.0);
        QCOMPARE(contour_interval(80, 80.9, 10), 0.1);
    }
    void water_stands_where_relaxation_says() {
        for (unsigned seed = 1; seed < 6; ++seed) {
            const auto t = Terrain::build(rough(14, seed));
            const Drainage drainage(t);
            // Independent: lower every corner's water from infinity until no neighbour lets more out.
            const std::size_t n = t->points().size();
            std::vector<std::set<std::uint32_t>> beside(n);
            std::vector<double> w(n, 1e300);
            for (std::size_t i = 0; i < t->triangles().size(); ++i)
                for (std::size_t k = 0; k < 3; ++k) {
                    const auto& c = t->triangles()[i].corner;
                    beside[c[k]].insert(c[(k + 1) % 3]);
                    beside[c[(k + 1) % 3]].insert(c[k]);
                    if (t->triangles()[i].beside[k] < 0)
                        for (const std::uint32_t v : {c[(k + 1) % 3], c[(k + 2) % 3]}) w[v] = t->points()[v].z;
                }
            for (bool changed = true; changed;) {
                changed = false;
                for (std::size_t v = 0; v < n; ++v)
                    for (const std::uint32_t u : beside[v])
                        if (const double z = std::max(t->points()[v].z, w[u]); z < w[v]) {
                            w[v] = z;
                            changed = true;
                        }
            }
            for (std::uint32_t v = 0; v < n; ++v) QCOMPARE(drainage.filled_level(v), w[v]);
            // A basin's volume is that under its water in all triangles it touches; together they hold no more than
            // all.
            for (const Depression& d : drainage.depressions(0)) {
                QVERIFY(d.depth() > 0 && d.area > 0 && d.volume > 0);
                QVERIFY(d.volume <= d.area * d.depth() / 1 + 1e-9);
            }
        }
    }
    void a_drop_never_runs_uphill_but_over_shallow_lips() {
        int ends[4] = {0, 0, 0, 0};
        for (unsigned seed = 1; seed < 8; ++seed) {
            const auto t = Terrain::build(rough(16, seed));
            const Drainage drainage(t);
            for (int i = 0; i < 100; ++i) {
                const Point p{uniform(1, 99), uniform(1, 99)};
                const Trace deep = drainage.trace(p, 1e-12);
                QVERIFY(deep.line.size() > 1);
                for (std::size_t k = 1; k < deep.line.size(); ++k) QVERIFY(deep.line[k].z <= deep.line[k - 1].z + 1e-9);
                ++ends[static_cast<int>(deep.end)];
                if (deep.end == TraceEnd::Depression) {
                    bool at_bottom = false;
                    for (const Depression& d : drainage.depressions(0))
                        at_bottom |=
                            std::hypot(d.bottom.x - deep.line.back().x, d.bottom.y - deep.line.back().y) < 1e-9 ||
                            deep.line.back().z < d.spill_level;
                    QVERIFY(at_bottom);
                }
                const Trace through = drainage.trace(p, 100);  // every depression is too shallow: it must get out
                QCOMPARE(through.end, TraceEnd::LeftSurface);
            }
        }
        QVERIFY(ends[static_cast<int>(TraceEnd::LeftSurface)] > 50);
        QVERIFY(ends[static_cast<int>(TraceEnd::Depression)] > 50);
        QCOMPARE(Drainage(Terrain::build(rough(8, 1))).trace({-5, 5}, 0.1).end, TraceEnd::OffSurface);
    }
    void proposed_areas_part_a_valley_between_its_inlets() {
        // A street in a valley along y = 50 that falls to the right; inlets at x = 40 and x = 80.
        const auto valley = [](double x, double y) { return 20 - 0.01 * x + 0.05 * std::abs(y - 50); };
        const auto t = Terrain::build(grid(41, 0, 100, valley));
        const auto areas = propose_areas({nullptr, t}, t->bounds(), {{40, 50}, {80, 50}}, 1);
        QCOMPARE(areas.size(), std::size_t{2});
        // What falls left of the first inlet's fall line drains to it: water runs down a plane in the direction (1, 5):
        // from (x, y) it meets the valley at x + |y - 50| / 5. The areas are strips between such lines.
        const auto closed_form = [](double x0, double x1) { return 2 * 50 * (x1 - x0); };
        QVERIFY2(std::abs(areas[1].area / closed_form(40, 80) - 1) < 0.08, qPrintable(QString::number(areas[1].area)));
        for (const auto& a : areas) QVERIFY(!crosses_itself(a.outline));
        QVERIFY(propose_areas({}, t->bounds(), {{1, 1}}, 1).empty());
        // Elsewhere on the plane, within any part of the surface, with whatever cell: the same areas, moved.
        SurfaceData elsewhere = grid(41, 0, 100, valley);
        for (GroundPoint& p : elsewhere.points) p.x += 5000, p.y -= 3000;
        const auto far = Terrain::build(elsewhere);
        for (const double cell : {0.5, 1.0, 2.5}) {
            Terrain::Box part = t->bounds(), away = far->bounds();
            part.top -= 40, away.top -= 40;
            const auto here = propose_areas({nullptr, t}, part, {{40, 50}, {80, 50}}, cell),
                       there = propose_areas({nullptr, far}, away, {{5040, -2950}, {5080, -2950}}, cell);
            QCOMPARE(here.size(), std::size_t{2});
            QCOMPARE(there.size(), std::size_t{2});
            for (std::size_t i = 0; i < 2; ++i) {
                QVERIFY(std::abs(here[i].area - there[i].area) < 2 * cell * cell);
                double top = 0, bottom = 100, left = 100;
                for (const Point& q : here[i].outline) left = std::min(left, q.x);
                QVERIFY(i > 0 || left < 1.5 * cell);
                for (const Point& q : here[i].outline) top = std::max(top, q.y), bottom = std::min(bottom, q.y);
                QVERIFY(bottom < 1.5 * cell && top > 60 - 1.5 * cell && top <= 60 + cell + 1e-9);
            }
        }
    }
    void ground_takes_the_finished_surface_where_it_exists() {
        Ground g;
        QVERIFY(g.empty());
        g.existing = Terrain::build(grid(5, 0, 100, [](double, double) { return 10.0; }));
        g.finished = Terrain::build(grid(5, 20, 60, [](double, double) { return 12.0; }));
        QCOMPARE(g.elevation({40, 40}), 12.0);
        QCOMPARE(g.elevation({80, 80}), 10.0);
        QVERIFY(std::isnan(g.elevation({200, 0})));
        // Along a line: existing, a step up where the finished begins, down where it ends, nothing outside.
        const std::vector<Point> line{{0, 40}, {100, 40}, {100, 140}};
        for (const auto& p : g.section(line)) {
            if (p.distance < 20 - 1e-9 || (p.distance > 60 + 1e-9 && p.distance < 160 - 1e-9)) QVERIFY(p.level == 10);
            if (p.distance > 20 + 1e-9 && p.distance < 60 - 1e-9) QVERIFY(p.level == 12);
            if (p.distance > 160 + 1e-9) QVERIFY(std::isnan(p.level));
        }
        int steps = 0;
        const auto section = g.section(line);
        for (std::size_t i = 1; i < section.size(); ++i) {
            QVERIFY(section[i].distance >= section[i - 1].distance);
            steps += std::abs(section[i].level - section[i - 1].level) == 2 &&
                     section[i].distance - section[i - 1].distance < 1e-9;
        }
        QCOMPARE(steps, 2);
    }
    void simplified_lines_stay_within_the_tolerance() {
        using Line = std::vector<Point>;
        QCOMPARE(simplified(Line{{0, 0}, {5, 0.05}, {10, 0}}, 0.1).size(), std::size_t{2});
        QCOMPARE(simplified(Line{{0, 0}, {5, 0.15}, {10, 0}}, 0.1).size(), std::size_t{3});
        QCOMPARE(simplified(Line{{0, 0}, {5, 0}}, 0.1).size(), std::size_t{2});
        std::vector<Point> wave;
        for (int i = 0; i <= 400; ++i) wave.push_back({i * 0.25, std::sin(i * 0.05) * 5});
        const auto few = simplified(wave, 0.1);
        QVERIFY(few.size() < 60 && few.size() > 10);
        for (const Point& p : wave) {
            double away = 1e300;
            for (std::size_t i = 1; i < few.size(); ++i)
                away = std::min(away, distance_to_segment(p, few[i - 1], few[i]));
            QVERIFY(away <= 0.1 + 1e-9);
        }
    }
};
QTEST_APPLESS_MAIN(TestTerrain)
#include "test_terrain.moc"
