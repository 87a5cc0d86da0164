// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <numbers>
#include <random>

#include "core/hydraulics/outlet.h"

using namespace culvert;

namespace {

constexpr double g2 = 2 * 9.81, open_air = std::numeric_limits<double>::quiet_NaN();
bool near(double a, double b, double share) {
    return std::abs(a - b) <= share * std::max({std::abs(a), std::abs(b), 1e-12});
}
double flow(const Outlet& o, double level, double outside = open_air) { return outlet_flow(o, level, outside).flow; }

}  // namespace

/// Storage curves, ways out, and routing against closed forms and independent integrations.
class TestStorage : public QObject {
    Q_OBJECT
  private slots:
    void curves_hold_what_their_shapes_do() {
        // A cone's frustum, and a wedge.
        const StageStorage cone({10, 13}, {50, 200}, BetweenLevels::Conic), wedge({10, 13}, {50, 200});
        QVERIFY(near(cone.volume(13), 3.0 / 3 * (50 + 100 + 200), 1e-12));
        QVERIFY(near(wedge.volume(13), 375, 1e-12));
        QVERIFY(near(wedge.area(11), 100, 1e-12) &&
                near(cone.area(11.5), std::pow((std::sqrt(50) + std::sqrt(200)) / 2, 2), 1e-12));
        // L W h + (L + W) z h^2 + 4/3 z^2 h^3
        const StageStorage b = basin(5, 40, 20, 3, 2);
        for (const double h : {0.3, 1.0, 2.0}) {
            const double exact = 800 * h + 60 * 3 * h * h + 4.0 / 3 * 9 * h * h * h;
            QVERIFY2(near(b.volume(5 + h), exact, 3e-4), qPrintable(QString::number(b.volume(5 + h) / exact - 1)));
        }
        const StageStorage p = pipe_array(2, 1.5, 30, 2);
        QVERIFY(near(p.volume(2.75), std::numbers::pi * 1.5 * 1.5 / 4 * 30, 1e-6));
        QVERIFY(near(p.volume(3.5), 2 * std::numbers::pi * 1.5 * 1.5 / 4 * 30, 1e-12));
        const StageStorage stone = b.with_voids(0.4);
        QVERIFY(near(stone.volume(6), 0.4 * b.volume(6), 1e-12) && near(stone.area(6), 0.4 * b.area(6), 1e-12));
        const StageStorage rows = StageStorage::of_volumes({1, 2, 4}, {0, 10, 50});
        QVERIFY(near(rows.volume(2), 10, 1e-12) && near(rows.volume(3), 30, 1e-12) && near(rows.area(3), 20, 1e-12));
        // Above the top straight up, below the bottom nothing; a level is the inverse of its volume everywhere.
        QVERIFY(near(wedge.volume(14), 575, 1e-12) && wedge.volume(9) == 0 && wedge.area(9) == 0);
        for (const StageStorage* s : {&cone, &wedge, &b, &p, &rows})
            for (double z = s->bottom() + 0.01; z < s->top() + 1; z += 0.037) {
                if (s == &p && z > s->top()) break;  // a full pipe holds no more
                QVERIFY2(std::abs(s->level(s->volume(z)) - z) < 1e-9, qPrintable(QString::number(z)));
            }
        for (const auto& [levels, areas] : {std::pair<std::vector<double>, std::vector<double>>{{1, 1}, {5, 6}},
                                            {{1}, {5}},
                                            {{1, 2}, {5}},
                                            {{1, 2}, {-5, 6}},
                                            {{1, 2}, {0, 0}}})
            QVERIFY(!stage_storage_fault(levels, areas).empty());
        QVERIFY(stage_storage_fault(std::vector<double>{1, 2}, std::vector<double>{0, 6}).empty());
    }

    /// Under deep water C A (2 g H)^1/2; a box in part is 2/3 C b (2 g)^1/2 h^3/2; a circle in part by counting.
    void openings_are_those_of_the_formulas() {
        const CircularOrifice c{10, 0.3, 0.6};
        const double area = std::numbers::pi * 0.09 / 4;
        QVERIFY(near(flow(c, 12), 0.6 * area * std::sqrt(g2 * 1.85), 1e-12));
        const BoxOrifice b{10, 0.8, 0.4, 0.6};
        for (const double h : {0.05, 0.2, 0.39})
            QVERIFY(near(flow(b, 10 + h), 2.0 / 3 * 0.6 * 0.8 * std::sqrt(g2) * std::pow(h, 1.5), 1e-6));
        // just over the top: the difference of two such
        QVERIFY(near(flow(b, 10.4 + 1e-9), 2.0 / 3 * 0.6 * 0.8 * std::sqrt(g2) * std::pow(0.4, 1.5), 1e-5));
        for (const double h : {0.06, 0.15, 0.28}) {
            double sum = 0;
            constexpr int n = 200000;
            for (int i = 0; i < n; ++i) {
                const double y = h * (i + 0.5) / n;
                sum += 2 * std::sqrt(y * (0.3 - y)) * std::sqrt(g2 * (h - y)) * h / n;
            }
            QVERIFY2(near(flow(c, 10 + h), 0.6 * sum, 1e-4),
                     qPrintable(QString::number(flow(c, 10 + h) / (0.6 * sum))));
        }
        QVERIFY(near(flow(c, 12, 11.2), 0.6 * area * std::sqrt(g2 * 0.8), 1e-12));
        QCOMPARE(outlet_flow(c, 12, 11.2).control, OutletControl::Drowned);
    }
    /// Drowned in part: strip by strip, below the level outside by the difference of levels, above it by its own head.
    void openings_drowned_in_part_are_those_of_their_strips() {
        const CircularOrifice c{10, 0.4, 0.6};
        const BoxOrifice b{10, 0.7, 0.4, 0.6};
        for (const double h : {0.1, 0.25, 0.39, 1.3, 2.5})
            for (const double share : {0.05, 0.3, 0.6, 0.9}) {
                const double t = share * std::min(h, 0.4), top = std::min(h, 0.4);
                double circle = 0, box = 0;
                constexpr int n = 200000;
                for (int i = 0; i < n; ++i) {
                    const double y = top * (i + 0.5) / n, v = std::sqrt(g2 * (h - std::max(y, t))) * top / n;
                    circle += 2 * std::sqrt(y * (0.4 - y)) * v;
                    box += 0.7 * v;
                }
                // Deep over it the head on the middle stands for the strips, less and less as it drowns.
                const double deep = h > 1.2 ? 4e-3 * (1 - t / 0.4) : 0;
                QVERIFY2(near(flow(c, 10 + h, 10 + t), 0.6 * circle, 1e-4 + deep),
                         qPrintable(QString("%1 %2: %3").arg(h).arg(t).arg(flow(c, 10 + h, 10 + t) / (0.6 * circle))));
                QVERIFY2(near(flow(b, 10 + h, 10 + t), 0.6 * box, 1e-4 + deep),
                         qPrintable(QString("%1 %2: %3").arg(h).arg(t).arg(flow(b, 10 + h, 10 + t) / (0.6 * box))));
            }
    }
    /// It is said to be drowned from its middle up, and to run in part or full below that.
    void an_opening_is_called_drowned_from_its_middle_up() {
        for (const Outlet& o : {Outlet{CircularOrifice{10, 0.4, 0.6}}, Outlet{BoxOrifice{10, 0.7, 0.4, 0.6}}})
            for (const double h : {0.35, 1.0, 2.0}) {
                const OutletControl free = h < 0.4 ? OutletControl::PartOrifice : OutletControl::Orifice;
                QCOMPARE(outlet_flow(o, 10 + h, 10.19).control, free);
                QCOMPARE(outlet_flow(o, 10 + h, 10.21).control, OutletControl::Drowned);
            }
    }
    /// Neither level makes the flow leap: a tenth of a millimetre more of either changes it by no more than that much
    /// of head could.
    void openings_never_leap() {
        const double area = std::numbers::pi * 0.04, step = 1e-4;
        for (const bool box : {false, true}) {
            const Outlet o = box ? Outlet{BoxOrifice{10, area / 0.4, 0.4, 0.6}} : Outlet{CircularOrifice{10, 0.4, 0.6}};
            const double most = 0.6 * area * std::sqrt(g2 * step) * 1.001;
            for (double h = 0.02; h < 1.4; h += 0.0137)
                for (double t = -0.05; t < h; t += 0.0091) {
                    const double q = flow(o, 10 + h, 10 + t), higher = flow(o, 10 + h + step, 10 + t),
                                 held = flow(o, 10 + h, 10 + t + step);
                    QVERIFY2(higher >= q - 1e-9 && higher - q <= most,
                             qPrintable(QString("%1 at %2 against %3: %4").arg(box).arg(h).arg(t).arg(higher - q)));
                    QVERIFY2(held <= q + 1e-9 && q - held <= most,
                             qPrintable(QString("%1 at %2 against %3: %4").arg(box).arg(h).arg(t).arg(q - held)));
                }
            for (const double edge :
                 {0.2, 0.4, 0.8, 1.2})  // the middle, the top, and where the head on the middle begins
                for (const double t : {0.1, 0.1999999, 0.2, 0.3, 0.3999999, 0.4, 0.6})
                    QVERIFY(std::abs(flow(o, 10 + edge + 1e-9, 10 + t) - flow(o, 10 + edge - 1e-9, 10 + t)) <
                            1e-4 * area);
        }
    }
    void crests_are_those_of_the_formulas() {
        QVERIFY(near(flow(SharpWeir{5, 2, 1.84, 0}, 5.4), 1.84 * 2 * std::pow(0.4, 1.5), 1e-12));
        QVERIFY(near(flow(SharpWeir{5, 2, 1.84, 2}, 5.4), 1.84 * (2 - 0.08) * std::pow(0.4, 1.5), 1e-12));
        QVERIFY(near(flow(SharpWeir{5, 2, 1.84, 0}, 5.4, 5.2),
                     1.84 * 2 * std::pow(0.4, 1.5) * std::pow(1 - std::pow(0.5, 1.5), 0.385), 1e-12));
        QVERIFY(near(flow(BroadWeir{5, 3, 1.7}, 5.5, 5.4), 1.7 * 3 * std::pow(0.5, 1.5), 1e-12));  // 0.8 H: still free
        QVERIFY(near(flow(NotchWeir{5, 90, 0.58}, 5.3), 8.0 / 15 * 0.58 * std::sqrt(g2) * std::pow(0.3, 2.5), 1e-12));
        QVERIFY(near(flow(CipollettiWeir{5, 1, 1.86}, 5.3), 1.86 * std::pow(0.3, 1.5), 1e-12));
        // A riser of 1.2 m: its rim while low, its mouth when deep.
        const Riser r{5, 4.8, 1.44, 1.84, 0.6};
        QCOMPARE(outlet_flow(r, 5.1, open_air).control, OutletControl::Weir);
        QVERIFY(near(flow(r, 5.1), 1.84 * 4.8 * std::pow(0.1, 1.5), 1e-12));
        QCOMPARE(outlet_flow(r, 7, open_air).control, OutletControl::Orifice);
        QVERIFY(near(flow(r, 7), 0.6 * 1.44 * std::sqrt(g2 * 2), 1e-12));
        const RatedOutlet t{{5, 6, 8}, {0, 1, 2}};
        QVERIFY(flow(t, 4) == 0 && near(flow(t, 5.5), 0.5, 1e-12) && near(flow(t, 7), 1.5, 1e-12) && flow(t, 9) == 2);
    }
    /// As the level rises the flow never falls and never leaps; a level outside never adds to it, and stops it.
    void every_way_out_grows_with_its_level() {
        const Outlet all[] = {CircularOrifice{10, 0.4, 0.6}, BoxOrifice{10, 1, 0.5, 0.6},
                              SharpWeir{10, 3, 1.84, 0},     BroadWeir{10, 3, 1.7},
                              NotchWeir{10, 60, 0.58},       CipollettiWeir{10, 1, 1.86},
                              Riser{10, 4, 1, 1.84, 0.6},    RatedOutlet{{10, 11, 13}, {0, 0.4, 2}}};
        for (const Outlet& o : all) {
            QCOMPARE(outlet_crest(o), 10.0);
            QCOMPARE(flow(o, 10), 0.0);
            QCOMPARE(flow(o, 9), 0.0);
            double last = 0;
            for (double z = 10; z < 13; z += 0.001) {
                const double q = flow(o, z);
                QVERIFY2(q >= last - 1e-9, qPrintable(QString("%1 at %2").arg(o.index()).arg(z)));
                QVERIFY2(q - last < 0.03 * 3, qPrintable(QString("%1 at %2").arg(o.index()).arg(z)));
                last = q;
            }
            if (std::holds_alternative<RatedOutlet>(o)) continue;
            for (const double z : {10.2, 10.8, 12.0}) {
                double before = flow(o, z);
                for (double outside = 9.5; outside <= z; outside += 0.01) {
                    const double q = flow(o, z, outside);
                    QVERIFY2(q <= before + 1e-9,
                             qPrintable(QString("%1 at %2 against %3").arg(o.index()).arg(z).arg(outside)));
                    before = q;
                }
                QCOMPARE(flow(o, z, z), 0.0);
                QCOMPARE(flow(o, z, z + 1), 0.0);
            }
        }
    }
};
QTEST_APPLESS_MAIN(TestStorage)
#include "test_storage.moc"
