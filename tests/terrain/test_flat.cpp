// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <functional>
#include <random>

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
