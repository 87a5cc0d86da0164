// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>
#include <set>

#include "core/streets/street.h"

using namespace culvert;

/// Street sections and profiles against closed forms.
class TestStreets : public QObject {
    Q_OBJECT
  private slots:
    void the_section_falls_to_the_gutter_and_rises_at_the_curb() {
        const StreetShape s{3.5, 0.02, 0.5, 0.05, 0.15, 2, 0.03};
        QCOMPARE(height_at(s, 0), 0.0);
        QVERIFY(std::abs(height_at(s, 1) + 0.02) < 1e-12);
        QVERIFY(std::abs(height_at(s, -3.5) + 0.07) < 1e-12);
        QVERIFY(std::abs(height_at(s, 4) + 0.095) < 1e-12);        // in the gutter at the curb's face
        QVERIFY(std::abs(height_at(s, 4 + 1e-9) - 0.055) < 1e-8);  // on the curb
        QVERIFY(std::abs(height_at(s, 6) - (0.055 + 0.06)) < 1e-12);
        QCOMPARE(height_at(s, 50), height_at(s, 6));  // beyond the verge: its edge
        QCOMPARE(s.to_curb(), 4.0);
    }
    void a_parallel_keeps_its_distance() {
        const std::vector<Point> line{{0, 0}, {10, 0}, {10, 0}, {10, 10}, {25, 18}};
        for (const double d : {-2.0, 0.5, 3.0}) {
            const auto beside = parallel(line, d);
            QCOMPARE(beside.size(), std::size_t{4});  // the doubled point counts once
            // Its ends stand square to the line's.
            QVERIFY(distance(beside.front(), {0, -d}) < 1e-9);
            QVERIFY(distance(beside.back(), {25 + d * 8 / 17, 18 - d * 15 / 17}) < 1e-9);
            for (std::size_t i = 0; i + 1 < beside.size(); ++i)
                for (const double t : {0.3, 0.5, 0.7}) {
                    const Point p{beside[i].x + t * (beside[i + 1].x - beside[i].x),
                                  beside[i].y + t * (beside[i + 1].y - beside[i].y)};
                    const Station s = station_of(line, p);
                    QVERIFY2(std::abs(s.offset - d) < 1e-9, qPrintable(QString("%1").arg(s.offset)));
                }
        }
        // A corner stands at most three times as far off as the line: at half a right angle the mitre would be longer.
        const double turn = 170 * M_PI / 180;
        const auto sharp =
            parallel(std::vector<Point>{{0, 0}, {100, 0}, {100 + 100 * std::cos(turn), 100 * std::sin(turn)}}, 1);
        QVERIFY(std::abs(distance(sharp[1], {100, 0}) - 3) < 1e-9);
        QVERIFY(parallel(std::vector<Point>{{1, 1}}, 2).empty());
    }
    void levels_and_grades_are_linear_between_points() {
        const StreetProfile p{{0, 10}, {20, 12}, {50, 9}};
        QCOMPARE(level_at(p, 10), 11.0);
        QCOMPARE(level_at(p, 35), 10.5);
        QCOMPARE(level_at(p, -5), 10.0);
        QCOMPARE(level_at(p, 500), 9.0);
        QCOMPARE(grade_at(p, 5), 0.1);
        QCOMPARE(grade_at(p, 20), -0.1);
        QCOMPARE(grade_at(p, 80), -0.1);
        QVERIFY(std::isnan(level_at({}, 3)));
        // The grade that water comes along: at a break that above it, drawn either way.
        const StreetProfile breaks{{0, 10}, {20, 9}, {50, 8.4}, {80, 8.4}, {90, 9.4}, {100, 8.9}},
            turned{{0, 8.9}, {10, 9.4}, {20, 8.4}, {50, 8.4}, {80, 9}, {100, 10}};
        for (const auto& [station, grade] : {std::pair{10.0, 0.05},
                                             {20.0, 0.05},
                                             {30.0, 0.02},
                                             {50.0, 0.02},
                                             {65.0, 0.0},
                                             {80.0, 0.1},
                                             {90.0, 0.05}}) {
            QVERIFY2(std::abs(grade_to(breaks, station) - grade) < 1e-9, qPrintable(QString::number(station)));
            QVERIFY2(std::abs(grade_to(turned, 100 - station) - grade) < 1e-9, qPrintable(QString::number(station)));
        }
        // Where it comes from both sides, and from neither: the flatter, on which it stands wider.
        for (const double up : {1.0, -1.0})
            for (const bool other : {false, true}) {
                const double one = up * (other ? 0.02 : 0.05), two = up * (other ? 0.05 : 0.02);
                const StreetProfile bent{{0, 50 + 20 * one}, {20, 50}, {40, 50 + 20 * two}};
                QVERIFY(std::abs(grade_to(bent, 20) - 0.02) < 1e-9);
            }
        QCOMPARE(grade_at({{0, 5}}, 0), 0.0);
    }
    void a_wave_has_its_lows_and_highs_where_the_sine_has_them() {
        // z = 10 - s/200 + sin(2 pi s / 80): the derivative vanishes where cos(2 pi s/80) = 80 / (200 · 2 pi).
        StreetProfile p;
        for (double s = 0; s <= 240.0001; s += 0.5) p.push_back({s, 10 - s / 200 + std::sin(2 * M_PI * s / 80)});
        const auto marks = marked_places(p, 0.1, 1e9);
        const double first = 80 / (2 * M_PI) * std::acos(80 / (200 * 2 * M_PI));
        QCOMPARE(marks.size(), std::size_t{6});
        for (std::size_t i = 0; i < marks.size(); ++i) {
            const double turn =
                i % 2 == 0 ? first + 80 * static_cast<double>(i / 2) : 80 - first + 80 * static_cast<double>(i / 2);
            QVERIFY(std::abs(marks[i].station - turn) <= 0.5);
            QCOMPARE(marks[i].mark, i % 2 == 0 ? ProfileMark::High : ProfileMark::Low);
            QVERIFY(marks[i].mark == ProfileMark::High ? marks[i].grade_before > 0 && marks[i].grade_after < 0
                                                       : marks[i].grade_before < 0 && marks[i].grade_after > 0);
        }
    }
    /// Straight between what is marked, a profile is nowhere farther off than half the least depth, wherever its
    /// stations begin; and what lies on a straight is not marked.
    void marks_tell_the_profile_to_the_least_depth() {
        std::mt19937 random(3);
        int marks = 0;
        for (int round = 0; round < 200; ++round) {
            StreetProfile p{{400, 100}};
            double grade = -0.02;
            for (int i = 0; i < 40; ++i) {
                if (i % 8 == 0) grade = -0.001 * static_cast<double>(1 + random() % 60);
                p.push_back({p.back().station + 10, p.back().level + 10 * grade});
            }
            StreetProfile straight{p.front()};
            for (const MarkedPlace& m : marked_places(p, 0.2, 0)) straight.push_back({m.station, m.level});
            straight.push_back(p.back());
            QVERIFY(straight.size() <= 7);  // five grades
            marks += static_cast<int>(straight.size()) - 2;
            for (const StreetPoint& q : p)
                QVERIFY2(std::abs(level_at(straight, q.station) - q.level) <= 0.1 + 1e-9,
                         qPrintable(QString("%1: %2 at %3")
                                        .arg(round)
                                        .arg(level_at(straight, q.station) - q.level)
                                        .arg(q.station)));
        }
        QVERIFY2(marks > 300, qPrintable(QString::number(marks)));
    }
    void places_without_a_level_are_passed_over() {
        QVERIFY(marked_places({{0, 1}, {1, 2}}, 0, 0).empty());
        StreetProfile gaps{{0, 5}, {10, std::nan("")}, {20, 4}, {30, 5}};
        QCOMPARE(marked_places(gaps, 0.1, 1e9).size(), std::size_t{1});
    }
    void breaks_of_grade_are_found_where_the_grade_changes() {
        const StreetProfile p{{0, 10}, {40, 9.6}, {90, 7.1}, {150, 6.5}};  // -1 %, -5 %, -1 %
        const auto marks = marked_places(p, 0.05, 0.02);
        QCOMPARE(marks.size(), std::size_t{2});
        QCOMPARE(marks[0].mark, ProfileMark::GradeBreak);
        QCOMPARE(marks[0].station, 40.0);
        QVERIFY(std::abs(marks[0].grade_after + 0.05) < 1e-12);
        QCOMPARE(marks[1].station, 90.0);
        QVERIFY(marked_places(p, 0.05, 0.05).empty());
    }
};

QTEST_APPLESS_MAIN(TestStreets)
#include "test_streets.moc"
