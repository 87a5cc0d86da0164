// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/hydraulics/access_hole.h"
#include "core/hydraulics/open_channel.h"

using namespace culvert;

/// Access holes by the energy method, and channels below outfalls.
class TestOutlets : public QObject {
    Q_OBJECT
    static bool close(double a, double b, double within) { return std::abs(a - b) <= within; }

  private slots:
    /// D 0.6 m, Q 0.5 m3/s full: A 0.28274, V 1.7684, V2/2g 0.15939; Ei = 0.8 + 0.15939.
    void a_case_worked_by_hand() {
        const HoleInflow enters{0.4, 90, 0.2};
        const AccessHoleEnergy e =
            access_hole_energy(Circular{0.6}, 0.95939, 1.76839, 0.5, Benching::Half, {&enters, 1}, 2.0);
        QVERIFY(close(e.outlet, 0.99127, 2e-5));
        QVERIFY(close(e.submerged, 0.31879, 2e-5));    // 0.6 x 0.72891^2
        QVERIFY(close(e.unsubmerged, 0.77671, 2e-5));  // 1.6 x 0.6 x 0.72891^0.67
        QVERIFY(close(e.first, 0.99127, 2e-5));
        QVERIFY(close(e.benching, -0.50221, 5e-5));  // E1/D = 1.652, between -0.85 and -0.05
        QVERIFY(close(e.angle, 2.54558, 2e-5));      // 4.5 x 0.8 x cos 45
        QVERIFY(close(e.plunging, 0.33624, 5e-5));   // a fifth falls from the rim: (2 - 0.99127)/0.6
        QVERIFY(close(e.energy, 1.06713, 5e-5));
    }
    void straight_through_costs_the_entrance_only() {
        const HoleInflow enters{0.5, 180, 0.0};
        const AccessHoleEnergy e =
            access_hole_energy(Circular{0.6}, 1.5, 1.76839, 0.5, Benching::Depressed, {&enters, 1}, 3);
        QCOMPARE(e.angle, 0.0);
        QCOMPARE(e.plunging, 0.0);
        QVERIFY(close(e.energy, 1.5 + 0.2 * 0.15939, 1e-5));
    }
    /// Every floor, and every share of what turns and plunges: never below what the outflow pipe asks for, more for a
    /// sharper turn, less for a better bench.
    void energy_is_bounded_and_ordered() {
        for (const double e0 : {0.3, 0.7, 1.2, 2.5})
            for (const double q : {0.05, 0.2, 0.5, 0.9}) {
                double last = 1e9;
                for (int floor = 0; floor < 5; ++floor) {
                    if (floor == 1) last = 1e9;  // depressed stands by itself
                    const HoleInflow enters{q, 120, 0};
                    const auto e = access_hole_energy(Circular{0.6}, e0, q / 0.2827, q, static_cast<Benching>(floor),
                                                      {&enters, 1}, 3);
                    QVERIFY(e.energy >= e0);
                    QVERIFY(e.energy <= last + 1e-12);
                    last = e.energy;
                }
                last = 0;
                for (const double turn : {180.0, 150.0, 120.0, 90.0, 45.0, 0.0}) {
                    const HoleInflow enters{q, turn, 0};
                    const auto e =
                        access_hole_energy(Circular{0.6}, e0, q / 0.2827, q, Benching::Flat, {&enters, 1}, 3);
                    QVERIFY(e.energy >= last - 1e-12);
                    last = e.energy;
                }
            }
    }
    /// Rational flows that enter may be more than what leaves: they count in proportion.
    void inflows_beyond_the_outflow_count_in_proportion() {
        const HoleInflow two[] = {{0.7, 90, 0}, {0.7, 180, 0}}, half[] = {{0.25, 90, 0}, {0.25, 180, 0}};
        const auto a = access_hole_energy(Circular{0.6}, 0.9, 1.7, 0.5, Benching::Flat, two, 0.5),
                   b = access_hole_energy(Circular{0.6}, 0.9, 1.7, 0.5, Benching::Flat, half, 0.5);
        QCOMPARE(a.energy, b.energy);
    }

    /// Triangular: A = z y2, P = 2 y (1 + z2)^0.5, so y = (Q n / (S^0.5 z (z / (2 (1 + z2)^0.5))^(2/3)))^(3/8).
    void a_triangle_has_a_closed_form() {
        const double z = 3, s = 0.01, n = 0.035, q = 1.7;
        const double y =
            std::pow(q * n / (std::sqrt(s) * z * std::pow(z / (2 * std::sqrt(1 + z * z)), 2.0 / 3)), 3.0 / 8);
        const ChannelState f = channel_flow({0, z}, s, n, q);
        QVERIFY(close(f.depth, y, 1e-10));
        QVERIFY(close(f.velocity, q / (z * y * y), 1e-9));
        QVERIFY(close(f.shear, 9810 * y * s, 1e-6));
        QVERIFY(close(f.froude, f.velocity / std::sqrt(9.81 * y / 2), 1e-9));
    }
    void capacity_at_the_depth_found_is_the_flow() {
        for (const double b : {0.0, 0.3, 2.0, 20.0})
            for (const double z : {0.0, 1.0, 4.0})
                for (const double q : {1e-5, 0.01, 1.0, 300.0}) {
                    if (b + z == 0) continue;
                    const ChannelState f = channel_flow({b, z}, 0.004, 0.03, q);
                    QVERIFY(close(channel_capacity({b, z}, 0.004, 0.03, f.depth) / q, 1, 1e-9));
                    QVERIFY(close(f.area * f.velocity, q, 1e-12 * q + 1e-15));
                }
        QCOMPARE(channel_flow({1, 1}, 0.01, 0.03, 0).depth, 0.0);
    }
};
QTEST_GUILESS_MAIN(TestOutlets)
#include "test_outlets.moc"
