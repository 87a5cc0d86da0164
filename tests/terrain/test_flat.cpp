// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <functional>
#include <map>
#include <random>
#include <set>

#include "core/terrain/drainage.h"
#include "core/terrain/terrain.h"

using namespace culvert;

namespace {

std::shared_ptr<const Terrain> made(const std::function<double(double, double)>& z, double step = 5) {
    SurfaceData d;
    for (double x = 0; x <= 100; x += step)
        for (double y = 0; y <= 100; y += step) d.points.push_back({x, y, z(x, y)});
    return Terrain::build(d);
}

}  // namespace

/// Water on level ground: it leaves where the ground lets it, never rises, and every way ends.
class TestFlat : public QObject {
    Q_OBJECT
  private slots:
    /// From a corner of the triangles it takes the steepest of all ways there are: along every edge that falls, down
    /// every triangle that falls from it inward.
    void from_a_corner_it_takes_the_steepest_way() {
        int edges = 0, faces = 0, border = 0;
        for (unsigned seed = 1; seed <= 8; ++seed) {
            std::mt19937 random(seed);
            const auto u = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
            SurfaceData d;
            for (int i = 0; i < 60; ++i) d.points.push_back({u(0, 100), u(0, 100), u(0, 12)});
            const auto t = Terrain::build(d);
            const Drainage drainage(t);
            std::map<std::pair<double, double>, std::size_t> corners;
            for (std::size_t v = 0; v < t->points().size(); ++v) corners[{t->points()[v].x, t->points()[v].y}] = v;
            std::vector<std::pair<std::size_t, Point>> steps;  // from corners, of ways from anywhere
            std::set<std::size_t> pits;
            for (std::size_t k = 0; k < 400 + t->points().size(); ++k) {  // the tops too, where no other way comes
                const GroundPoint top = t->points()[k % t->points().size()];
                if (k >= 400) pits.insert(k % t->points().size());
                const Trace trace = drainage.trace(k < 400 ? Point{u(0, 100), u(0, 100)} : Point{top.x, top.y}, 0);
                for (std::size_t i = k < 400 ? 1 : 0;
                     i + 1 < (k < 400 ? trace.line.size() : std::min<std::size_t>(2, trace.line.size())); ++i) {
                    const GroundPoint &p = trace.line[i], &q = trace.line[i + 1];
                    const double l = std::hypot(q.x - p.x, q.y - p.y);
                    if (const auto at = corners.find({p.x, p.y}); at != corners.end() && l > 1e-6)
                        steps.emplace_back(at->second, Point{(q.x - p.x) / l, (q.y - p.y) / l});
                }
            }
            for (const auto& [v, taken] : steps) {
                const GroundPoint here = t->points()[v];
                double steepest = 0;
                Point way{};
                bool face = false, on_border = false;
                const auto offer = [&](double slope, double x, double y, bool f) {
                    if (slope > steepest * (1 + 1e-12)) steepest = slope, way = {x, y}, face = f;
                };
                for (std::size_t i = 0; i < t->triangles().size(); ++i) {
                    const auto& c = t->triangles()[i].corner;
                    for (std::size_t k = 0; k < 3; ++k) {
                        if (c[k] != v) continue;
                        const GroundPoint &a = t->points()[c[(k + 1) % 3]], &b = t->points()[c[(k + 2) % 3]];
                        for (const GroundPoint* p : {&a, &b}) {
                            const double l = std::hypot(p->x - here.x, p->y - here.y);
                            offer((here.z - p->z) / l, (p->x - here.x) / l, (p->y - here.y) / l, false);
                        }
                        on_border |= t->beside(static_cast<std::int32_t>(i), static_cast<int>(k + 1) % 3) < 0 ||
                                     t->beside(static_cast<std::int32_t>(i), static_cast<int>(k + 2) % 3) < 0;
                        // The plane through the three by Cramer's rule; downhill it runs between the two edges.
                        const double ax = a.x - here.x, ay = a.y - here.y, az = a.z - here.z, bx = b.x - here.x,
                                     by = b.y - here.y, bz = b.z - here.z, det = ax * by - bx * ay;
                        const double gx = (az * by - bz * ay) / det, gy = (ax * bz - bx * az) / det,
                                     s = std::hypot(gx, gy);
                        const double along_a = (-gx * by + gy * bx) / det, along_b = (-gy * ax + gx * ay) / det;
                        if (along_a > 0 && along_b > 0) offer(s, -gx / s, -gy / s, true);
                    }
                }
                if (steepest == 0 && pits.contains(v)) continue;  // it begins there, and goes over a lip
                QVERIFY2(steepest > 0 && std::hypot(taken.x - way.x, taken.y - way.y) < 1e-6,
                         qPrintable(QString("seed %1, corner %2").arg(seed).arg(v)));
                ++(face ? faces : edges);
                border += on_border;
            }
        }
        qInfo("%d along edges, %d down triangles, %d at the border", edges, faces, border);
        QVERIFY(edges > 40 && faces > 40 && border > 40);
    }
    /// A terrace between two slopes to the east: from anywhere on it the water goes on down.
    void over_a_terrace_it_goes_on_down() {
        const auto terrace = [](double x, double) { return x < 30 ? 40 - x : (x < 70 ? 10 : 10 - (x - 70) * 0.5); };
        const Drainage drainage(made(terrace));
        std::mt19937 dice(1);
        for (int i = 0; i < 200; ++i) {
            const Point from{1 + 98.0 * double(dice()) / 4294967296.0, 1 + 98.0 * double(dice()) / 4294967296.0};
            const Trace t = drainage.trace(from, 0.05);
            QVERIFY(std::abs(t.line.front().x - from.x) < 1e-9 && std::abs(t.line.front().y - from.y) < 1e-9);
            for (std::size_t k = 1; k < t.line.size(); ++k) QVERIFY(t.line[k].z <= t.line[k - 1].z + 1e-9);
            for (const GroundPoint& p : t.line)
                QVERIFY(p.x > -1e-9 && p.x < 100 + 1e-9 && p.y > -1e-9 && p.y < 100 + 1e-9);
            QCOMPARE(t.end, TraceEnd::LeftSurface);
            // Off the low edge, or off a side of the terrace, which is as level as the rest of it.
            const GroundPoint end = t.line.back();
            QVERIFY2(std::abs(end.x - 100) < 1e-6 ||
                         ((std::abs(end.y) < 1e-6 || std::abs(end.y - 100) < 1e-6) && end.z < 10 + 1e-9),
                     qPrintable(QString("%1 %2 %3").arg(end.x).arg(end.y).arg(end.z)));
        }
    }
    /// A terrace that its slopes hold in on three sides: all of its water leaves by the fourth.
    void a_terrace_between_banks_has_one_way_out() {
        const auto bay = [](double x, double y) {
            if (x <= 70 && x >= 30 && std::abs(y - 50) <= 20) return 10.0;
            if (x > 70 && std::abs(y - 50) <= 20) return 10 - (x - 70) * 0.2;
            return 14 + std::max(std::abs(y - 50) - 20, 30 - x) * 0.1;
        };
        const Drainage drainage(made(bay));
        std::mt19937 dice(2);
        for (int i = 0; i < 100; ++i) {
            const Point from{36 + 30.0 * double(dice()) / 4294967296.0, 36 + 28.0 * double(dice()) / 4294967296.0};
            const Trace t = drainage.trace(from, 0.05);
            QCOMPARE(t.end, TraceEnd::LeftSurface);
            QVERIFY2(std::abs(t.line.back().x - 100) < 1e-6,
                     qPrintable(QString("%1 %2").arg(t.line.back().x).arg(t.line.back().y)));
        }
    }
    void level_ground_alone_ends_every_way() {
        const Drainage drainage(made([](double, double) { return 7.0; }));
        QVERIFY(drainage.depressions(1e-6).empty());
        std::mt19937 dice(3);
        for (int i = 0; i < 100; ++i) {
            const Trace t =
                drainage.trace({100.0 * double(dice()) / 4294967296.0, 100.0 * double(dice()) / 4294967296.0}, 0.05);
            QVERIFY(t.end == TraceEnd::LeftSurface || t.end == TraceEnd::Flat);
            QVERIFY(!t.line.empty() && t.line.size() < 2000);
            for (const GroundPoint& p : t.line) QCOMPARE(p.z, 7.0);
        }
    }
    /// The bottom of a pan holds what runs into it, from wherever on its bottom.
    void a_pan_holds_its_water() {
        const auto pan = [](double x, double y) { return std::max(0.0, std::hypot(x - 50, y - 50) - 20) * 0.1; };
        const Drainage drainage(made(pan));
        QCOMPARE(drainage.depressions(0.5).size(), std::size_t{1});
        for (const Point from : {Point{52, 47}, {50.5, 50.5}, {90, 50}, {20, 30}}) {
            const Trace t = drainage.trace(from, 0.5);
            QVERIFY(t.end == TraceEnd::Depression || t.end == TraceEnd::Flat);
            QVERIFY(std::hypot(t.line.back().x - 50, t.line.back().y - 50) < 26);
        }
    }
};
QTEST_APPLESS_MAIN(TestFlat)
#include "test_flat.moc"
