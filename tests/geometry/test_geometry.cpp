// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/geometry/line.h"

using namespace culvert;

class TestGeometry : public QObject {
    Q_OBJECT
  private slots:
    void lengths_and_areas() {
        const std::vector<Point> line{{0, 0}, {3, 4}, {3, 10}};
        QCOMPARE(length(line), 11.0);
        QCOMPARE(length(std::vector<Point>{}), 0.0);
        QCOMPARE(length(std::vector<Point>{{1, 1}}), 0.0);
        const std::vector<Point> square{{0, 0}, {10, 0}, {10, 10}, {0, 10}};
        QCOMPARE(area(square), 100.0);
        QCOMPARE(area(std::vector<Point>{{0, 0}, {0, 10}, {10, 10}, {10, 0}}), 100.0);  // either way round
        QCOMPARE(area(std::vector<Point>{{0, 0}, {1, 1}}), 0.0);
        QCOMPARE(area(std::vector<Point>{{0, 0}, {1, 1}, {2, 2}}), 0.0);
    }
    void large_coordinates_lose_no_digits() {
        std::vector<Point> polygon{{0, 0}, {12.5, 1}, {9, 8}, {2, 7}};
        const double here = area(polygon);
        for (Point& p : polygon) {
            p.x += 5.0e6;
            p.y += 4.0e6;
        }
        QVERIFY(std::abs(area(polygon) - here) < 1e-6);
    }
    void a_circle_of_many_corners() {
        std::vector<Point> circle;
        for (int i = 0; i < 20000; ++i)
            circle.push_back({3 * std::cos(i * 2 * M_PI / 20000), 3 * std::sin(i * 2 * M_PI / 20000)});
        QVERIFY(std::abs(area(circle) - 9 * M_PI) < 1e-5);
        QVERIFY(inside({0, 0}, circle) && !inside({3.1, 0}, circle));
        QVERIFY(distance(centre(circle), {0, 0}) < 1e-9);
    }
    void distance_to_a_segment_by_search() {
        std::mt19937 random(1);
        const auto uniform = [&] { return std::uniform_real_distribution<double>(-10, 10)(random); };
        for (int i = 0; i < 200; ++i) {
            const Point a{uniform(), uniform()}, b{uniform(), uniform()}, p{uniform(), uniform()};
            double least = 1e9;
            for (int k = 0; k <= 20000; ++k) {
                const double t = k / 20000.0;
                least = std::min(least, distance(p, {a.x + t * (b.x - a.x), a.y + t * (b.y - a.y)}));
            }
            QVERIFY(std::abs(distance_to_segment(p, a, b) - least) < 1e-3);
        }
        QCOMPARE(distance_to_segment({3, 4}, {0, 0}, {0, 0}), 5.0);
    }
    void inside_against_a_convex_test() {
        const std::vector<Point> triangle{{0, 0}, {10, 1}, {4, 9}};
        std::mt19937 random(2);
        const auto uniform = [&] { return std::uniform_real_distribution<double>(-2, 12)(random); };
        const auto side = [](Point a, Point b, Point p) {
            return (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x) > 0;
        };
        for (int i = 0; i < 2000; ++i) {
            const Point p{uniform(), uniform()};
            const bool in = side(triangle[0], triangle[1], p) && side(triangle[1], triangle[2], p) &&
                            side(triangle[2], triangle[0], p);
            QCOMPARE(inside(p, triangle), in);
        }
        QVERIFY(!inside({0, 0}, std::vector<Point>{}));
    }
};
QTEST_APPLESS_MAIN(TestGeometry)
#include "test_geometry.moc"
