// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>
#include <thread>

#include "core/terrain/terrain.h"

using namespace culvert;

/// Surveys as they come: breaklines along one straight, on top of each other, crossing and touching, through points and
/// along boundaries, turned and shifted. Run under the address sanitizer by ./dev sanitize.
class TestSurveys : public QObject {
    Q_OBJECT
    std::mt19937 random_{17};
    double u(double a, double b) { return std::uniform_real_distribution<double>(a, b)(random_); }

    SurfaceData survey() {
        SurfaceData d;
        const int points = 4 + static_cast<int>(random_() % 60);
        const bool round = random_() % 2;  // whole coordinates make exact overlaps, others nearly so
        const auto place = [&] {
            GroundPoint p{u(0, 100), u(0, 100), u(10, 20)};
            if (round) p = {std::round(p.x / 10) * 10, std::round(p.y / 10) * 10, p.z};
            return p;
        };
        for (int i = 0; i < points; ++i) d.points.push_back(place());
        const auto on = [](const GroundPoint& a, const GroundPoint& b, double t, double z) {
            return GroundPoint{a.x + t * (b.x - a.x), a.y + t * (b.y - a.y), z};
        };
        const int lines = static_cast<int>(random_() % 12);
        for (int i = 0; i < lines; ++i) {
            std::vector<GroundPoint> line{place(), place()};
            const GroundPoint a = line[0], b = line[1];
            switch (random_() % 6) {
                case 0:  // parts of one straight, overlapping
                    d.breaklines.push_back({on(a, b, 0, 12), on(a, b, 0.6, 13)});
                    d.breaklines.push_back({on(a, b, 0.4, 12.5), on(a, b, 1, 14)});
                    break;
                case 1:  // the same line again, the other way round
                    d.breaklines.push_back({b, a});
                    break;
                case 2:  // a line that ends on another, and one that begins where it ends
                    d.breaklines.push_back({on(a, b, 0.5, 12), place()});
                    d.breaklines.push_back({d.breaklines.back().back(), place()});
                    break;
                case 3:  // through a surveyed point
                    line[1] = d.points[random_() % d.points.size()];
                    break;
                case 4:  // without levels
                    for (GroundPoint& p : line) p.z = std::nan("");
                    break;
                default:
                    for (int k = 0; k < 5; ++k) line.push_back(place());
            }
            d.breaklines.push_back(std::move(line));
        }
        if (random_() % 3 == 0) d.boundaries.push_back({{5, 5}, {95, u(5, 20)}, {95, 95}, {u(5, 20), 95}});
        if (random_() % 3 == 0) d.holes.push_back({{40, 40}, {60, 40}, {60, 60}, {40, 60}});
        if (random_() % 5 == 0)
            for (int k = 0; k < 6; ++k)
                d.faces.push_back({static_cast<std::uint32_t>(random_() % d.points.size()),
                                   static_cast<std::uint32_t>(random_() % d.points.size()),
                                   static_cast<std::uint32_t>(random_() % d.points.size())});
        // Turned and shifted: what was exact is so no more.
        if (random_() % 2) {
            const double c = std::cos(u(0, 6.3)), s = std::sqrt(1 - c * c), dx = u(-1e6, 1e6), dy = u(-1e6, 1e6);
            const auto turn = [&](auto& p) {
                const double x = p.x, y = p.y;
                p.x = dx + c * x - s * y;
                p.y = dy + s * x + c * y;
            };
            for (auto& p : d.points) turn(p);
            for (auto& l : d.breaklines)
                for (auto& p : l) turn(p);
            for (auto* rings : {&d.boundaries, &d.holes})
                for (auto& l : *rings)
                    for (auto& p : l) turn(p);
        }
        return d;
    }

  private slots:
    void a_thousand_random_surveys() {
        int surfaces = 0, crossings = 0, off = 0;
        for (int k = 0; k < 1000; ++k) {
            const SurfaceData d = survey();
            SurfaceNotes notes;
            const auto t = Terrain::build(d, &notes);
            crossings += notes.crossings > 0;
            if (!t) continue;
            ++surfaces;
            double area = 0;
            for (std::size_t i = 0; i < t->triangles().size(); ++i) {
                const auto& tri = t->triangles()[i];
                for (std::size_t c = 0; c < 3; ++c) {
                    QVERIFY(tri.corner[c] < t->points().size());
                    const std::int32_t n = tri.beside[c];
                    QVERIFY(n >= -1 && n < static_cast<std::int32_t>(t->triangles().size()));
                    if (n >= 0) {  // neighbours know each other
                        const auto& other = t->triangles()[static_cast<std::size_t>(n)].beside;
                        QVERIFY(std::find(other.begin(), other.end(), static_cast<std::int32_t>(i)) != other.end());
                    }
                }
                if (t->is_surface(static_cast<std::int32_t>(i))) {
                    const auto &a = t->points()[tri.corner[0]], &b = t->points()[tri.corner[1]],
                               &c = t->points()[tri.corner[2]];
                    QVERIFY(std::isfinite(a.z) && std::isfinite(b.z) && std::isfinite(c.z));
                    QVERIFY2(std::min({a.z, b.z, c.z}) >= 10 - 1e-6 && std::max({a.z, b.z, c.z}) <= 20 + 1e-6,
                             qPrintable(QString("survey %1: %2 %3 %4").arg(k).arg(a.z).arg(b.z).arg(c.z)));
                    area += ((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x)) / 2;
                }
            }
            QVERIFY(std::abs(area - t->area()) <= 1e-6 * (1 + area));
            // A level and a section anywhere, also off the surface.
            const auto& box = t->bounds();
            Terrain::Cursor cursor;
            for (int q = 0; q < 20; ++q) {
                const Point p{u(box.left - 10, box.right + 10), u(box.bottom - 10, box.top + 10)};
                const double z = t->elevation(p, cursor);
                off += std::isnan(z);
                QVERIFY(std::isnan(z) || (z > 9.9 && z < 20.1));
                (void)t->section(p, {u(box.left - 10, box.right + 10), u(box.bottom - 10, box.top + 10)});
            }
        }
        QVERIFY2(surfaces > 800 && crossings > 300 && off > 500,
                 qPrintable(QString("%1 %2 %3").arg(surfaces).arg(crossings).arg(off)));
    }
    void wild_numbers_are_left_out_and_counted() {
        SurfaceData d;
        d.points = {{0, 0, 1},      {10, 0, 2},           {0, 10, 3},   {1e308, 0, 1},
                    {5, 5, -1e300}, {std::nan(""), 1, 1}, {3, 3, 30000}};
        d.breaklines = {{{1, 1, 1}, {1e19, 1, 1}, {2, 2, 2}}};
        SurfaceNotes notes;
        const auto t = Terrain::build(d, &notes);
        QVERIFY(t);
        QCOMPARE(notes.out_of_reach, std::size_t{5});
        QVERIFY(std::abs(t->area() - 50) < 1e-9);
        bool said = false;
        for (const std::string& w : notes.in_words())
            said |= w == "5 points lie farther than 100000 km away or 20 km high and were left out";
        QVERIFY(said);
        QVERIFY(!Terrain::build({{{1e308, 0, 1}, {0, 1e308, 1}, {0, 0, 1}}, {}, {}, {}, {}, 0, {}}));
    }
    void it_stops_when_it_is_asked_to() {
        SurfaceData d;
        for (int i = 0; i < 3000; ++i) d.breaklines.push_back({{u(0, 100), u(0, 100), 1}, {u(0, 100), u(0, 100), 2}});
        d.points = {{0, 0, 1}, {100, 0, 1}, {0, 100, 1}, {100, 100, 1}};
        std::stop_source stop;
        std::jthread later([&] {
            std::this_thread::sleep_for(std::chrono::milliseconds(100));
            stop.request_stop();
        });
        QElapsedTimer t;
        t.start();
        QVERIFY(!Terrain::build(d, nullptr, stop.get_token()));
        QVERIFY2(t.elapsed() < 5000, qPrintable(QString("%1 ms").arg(t.elapsed())));
    }
};

QTEST_APPLESS_MAIN(TestSurveys)
#include "test_surveys.moc"
