// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <numbers>
#include <random>

#include "core/hydraulics/barrel.h"
#include "core/hydraulics/open_channel.h"
#include "core/hydraulics/uniform_flow.h"

using namespace culvert;
using std::numbers::pi;

namespace {

bool close(double a, double b, double within) { return std::abs(a - b) <= within * std::max(1e-12, std::abs(b)); }

std::vector<std::pair<const char*, Section>> sections() {
    return {
        {"ellipse lying", shaped(Ellipse{1.2, 0.75})},
        {"ellipse standing", shaped(Ellipse{0.8, 1.2})},
        {"arch", shaped(Arch{1.5, 1.0})},
        {"egg", shaped(Egg{1.2})},
        {"rectangular", shaped(OpenTrapezoid{1.0, 0, 0.8})},
        {"trapezoid", shaped(OpenTrapezoid{0.6, 1.5, 0.9})},
        {"triangle", shaped(OpenTrapezoid{0, 2, 0.7})},
        {"half-round", shaped(HalfRound{0.8, 0.7})},
        {"compound",
         shaped(CustomOutline{{{0, 1.2}, {1, 0.6}, {2, 0.5}, {2.3, 0}, {2.8, 0}, {3.1, 0.5}, {4, 0.6}, {5, 1.3}}})}};
}

/// dy/dx at a depth, by the equation itself.
double bend(const Barrel& b, double y) {
    const Wetted w = wetted(b.section, y);
    const double r = w.area / w.perimeter, sf = std::pow(b.flow * b.n / (w.area * std::pow(r, 2.0 / 3)), 2);
    return (b.slope - sf) / (1 - b.flow * b.flow * w.top / (gravity * w.area * w.area * w.area));
}
/// The curve upstream from a depth at the lower end, in steps of depth of the whole over many: dx = dy / (dy/dx).
double march_back(const Barrel& b, double y, int steps = 40000) {
    const double dx = b.length / steps;
    for (int i = 0; i < steps; ++i) {  // fourth order
        const double k1 = bend(b, y), k2 = bend(b, y - dx / 2 * k1), k3 = bend(b, y - dx / 2 * k2),
                     k4 = bend(b, y - dx * k3);
        y -= dx / 6 * (k1 + 2 * k2 + 2 * k3 + k4);
    }
    return y;
}

}  // namespace

/// Ellipses, arches, eggs, open channels and custom sections: geometry, uniform, critical and varied flow.
class TestSections : public QObject {
    Q_OBJECT
  private slots:
    void full_areas_are_those_of_the_curves() {
        const auto area = [](const SectionForm& f) { return full_area(shaped(f)); };
        QVERIFY(close(area(Ellipse{1.2, 0.75}), pi * 1.2 * 0.75 / 4, 1e-12));
        QVERIFY(close(area(Arch{1.5, 1}), pi * 1.5 / 4, 1e-12));
        // r2 (pi/2 + 9 t - 3 + (pi/2 - t)/4), t = atan(3/4), r = a third of the height
        const double t = std::atan(0.75), r = 0.4;
        QVERIFY(close(area(Egg{1.2}), r * r * (pi / 2 + 9 * t - 3 + (pi / 2 - t) / 4), 1e-12));
        QVERIFY(close(area(Egg{1.2}) / (r * r), 4.594, 1e-3));  // as tables have it
        QVERIFY(close(area(OpenTrapezoid{0.6, 1.5, 0.9}), 0.6 * 0.9 + 1.5 * 0.81, 1e-12));
        QVERIFY(close(area(HalfRound{0.8, 0.7}), pi * 0.16 / 2 + 0.8 * 0.3, 1e-12));
        QVERIFY(close(area(HalfRound{0.8, 0.4}), pi * 0.16 / 2, 1e-12));
        // Perimeters: Ramanujan's of an ellipse; an egg's arcs.
        const double a = 0.6, b = 0.375, h = std::pow((a - b) / (a + b), 2);
        QVERIFY(close(full_perimeter(shaped(Ellipse{1.2, 0.75})),
                      pi * (a + b) * (1 + 3 * h / (10 + std::sqrt(4 - 3 * h))), 2e-5));
        QVERIFY(close(full_perimeter(shaped(Egg{1.2})), r * pi + 2 * 3 * r * t + r / 2 * (pi - 2 * t), 2e-5));
        QVERIFY(close(full_perimeter(shaped(OpenTrapezoid{0.6, 1.5, 0.9})), 0.6 + 2 * 0.9 * std::sqrt(3.25), 1e-12));
    }
    /// An ellipse as wide as it is high is a circle; a rectangular channel is a box below its lid.
    void limits_are_the_shapes_that_stand() {
        const Section e = shaped(Ellipse{0.6, 0.6}), c = Circular{0.6}, r = shaped(OpenTrapezoid{1, 0, 0.8}),
                      box = Box{1, 0.8};
        for (double y = 0.01; y < 0.6; y += 0.013) {
            QVERIFY(close(wetted(e, y).area, wetted(c, y).area, 2e-3 * std::max(1.0, 0.02 / y)));
            QVERIFY(close(wetted(e, y).perimeter, wetted(c, y).perimeter, 3e-4));
            QVERIFY(std::abs(centroid_depth(e, y) - centroid_depth(c, y)) < 1e-4);
        }
        QVERIFY(close(full_conveyance(e, 0.013), full_conveyance(c, 0.013), 5e-5));
        QVERIFY(close(peak_ratio(e), peak_ratio(c), 1e-4));
        for (const double q : {0.02, 0.1, 0.25}) {
            QVERIFY(std::abs(normal_depth(e, 0.013, 0.004, q) - normal_depth(c, 0.013, 0.004, q)) < 1e-4 ||
                    std::isnan(normal_depth(c, 0.013, 0.004, q)));
            QVERIFY(std::abs(critical_depth(e, q) - critical_depth(c, q)) < 2e-4);
        }
        for (double y = 0.01; y < 0.8; y += 0.02) {
            QVERIFY(close(wetted(r, y).area, wetted(box, y).area, 1e-12));
            QVERIFY(close(wetted(r, y).perimeter, wetted(box, y).perimeter, 1e-12));
            QVERIFY(close(centroid_depth(r, y), y / 2, 1e-12));
        }
        QVERIFY(close(critical_depth(r, 0.7), std::cbrt(0.49 / gravity), 1e-9));
    }
    void area_and_moment_are_integrals_of_the_width() {
        for (const auto& [name, s] : sections()) {
            const double h = height(s);
            double a = 0, m = 0;
            const int n = 200000;
            int next = 1;
            for (int i = 0; i < n; ++i) {
                const double y = (i + 0.5) * h / n, t = wetted(s, y).top;
                a += t * h / n;
                m += t * y * h / n;
                if (i + 1 == next * n / 10 && next < 10) {
                    const double at = h * next / 10;
                    QVERIFY2(close(wetted(s, at).area, a, 1e-6), name);
                    QVERIFY2(std::abs(centroid_depth(s, at) - (at - m / a)) < 1e-6, name);
                    ++next;
                }
            }
            QVERIFY2(close(full_area(s), a, 1e-6), name);
        }
    }
    void normal_depth_carries_the_flow() {
        for (const auto& [name, s] : sections())
            for (const double share : {1e-4, 0.01, 0.2, 0.6, 0.95, 0.999}) {
                const double slope = 0.003, n = 0.014, q = share * full_capacity(s, n, slope);
                const double y = normal_depth(s, n, slope, q);
                const Wetted w = wetted(s, y);
                const double carried = w.area * std::pow(w.area / w.perimeter, 2.0 / 3) * std::sqrt(slope) / n;
                QVERIFY2(close(carried, q, 1e-9), name);
                for (double lower = 0.02; lower < 1; lower += 0.02)  // the lower branch
                    QVERIFY2(conveyance(s, n, lower * y) * std::sqrt(slope) < q, name);
            }
        for (const auto& [name, s] : sections()) {
            const double full = full_capacity(s, 0.013, 0.01);
            QVERIFY(std::isnan(normal_depth(s, 0.013, 0.01, full * peak_ratio(s) * 1.001)));
            if (is_open(s)) QCOMPARE(peak_ratio(s), 1.0);
            else {
                QVERIFY2(peak_ratio(s) > 1.01 && peak_ratio(s) < 1.2, name);
                const double q = full * (1 + 0.5 * (peak_ratio(s) - 1)), up = upper_normal_depth(s, 0.013, 0.01, q);
                QVERIFY2(up > normal_depth(s, 0.013, 0.01, q) && close(conveyance(s, 0.013, up) * 0.1, q, 1e-6), name);
            }
            QVERIFY(std::isnan(normal_depth(s, 0.013, 0, full)) && normal_depth(s, 0.013, 0.01, 0) == 0);
        }
        // A trapezoid against the channel's own solution.
        const ChannelState f = channel_flow({0.6, 1.5}, 0.003, 0.03, 0.5);
        QVERIFY(close(normal_depth(shaped(OpenTrapezoid{0.6, 1.5, 0.9}), 0.03, 0.003, 0.5), f.depth, 1e-9));
    }
    /// Q2 T = g A3, and no depth has less energy.
    void critical_depth_is_of_least_energy() {
        for (const auto& [name, s] : sections())
            for (const double share : {0.003, 0.05, 0.3, 0.7}) {
                const double q = share * full_area(s) * std::sqrt(gravity * height(s)), y = critical_depth(s, q);
                if (y >= height(s)) continue;
                double least = 1e9;
                for (double d = 0.002; d < 1; d += 0.0005)
                    least = std::min(least, specific_energy(s, d * height(s), q));
                QVERIFY2(specific_energy(s, y, q) <= least * (1 + 1e-6), name);
                const double e = specific_energy(s, y, q) * 1.2;
                QVERIFY2(close(specific_energy(s, depth_of_energy(s, e, q, true), q), e, 1e-6) ||
                             depth_of_energy(s, e, q, true) >= height(s),
                         name);
            }
    }
    /// A slot below a wide shelf is critical twice over a range of flows; the depth of least energy is the one that
    /// governs, in the slot or over the shelf.
    void of_two_critical_depths_the_one_of_less_energy_governs() {
        const Section s =
            shaped(CustomOutline{{{0, 2}, {2, 0.82}, {4, 0.8}, {4, 0}, {4.5, 0}, {4.5, 0.8}, {6.5, 0.82}, {8.5, 2}}});
        int in_slot = 0, over_shelf = 0, twice = 0;
        for (double q = 0.1; q < 6; q += 0.05) {
            double least = 1e9, at = 0;
            int minima = 0;
            double before = 1e9, last = 1e9;
            for (double d = 0.02; d < 1.9; d += 0.0005) {
                const double e = specific_energy(s, d, q);
                if (e < least) {
                    least = e;
                    at = d;
                }
                minima += last < before && last < e;
                before = last;
                last = e;
            }
            twice += minima > 1;
            const double y = critical_depth(s, q);
            QVERIFY2(specific_energy(s, y, q) <= least + 1e-6, qPrintable(QString::number(q)));
            QVERIFY2(std::abs(y - at) < 0.002, qPrintable(QString::number(q)));
            (y < 0.8 ? in_slot : over_shelf)++;
        }
        QVERIFY(in_slot > 10 && over_shelf > 10 && twice > 3);
    }
    /// M1, M2, adverse, level, S1: against a Runge–Kutta of the equation, to a millimetre.
    void varied_flow_is_that_of_direct_integration() {
        int curves = 0;
        for (const auto& [name, s] : sections())
            for (const double slope : {0.0008, 0.004, 0.0, -0.001, 0.03})
                for (const double share : {0.15, 0.5, 0.8}) {
                    const double q = share * full_capacity(s, 0.015, 0.004);
                    const Barrel b{s, 0.015, 40, slope, q};
                    const BarrelState st = state_of(b);
                    for (const double start : {1.02, 1.3, 2.0}) {
                        const double y0 = st.critical * start;
                        if (y0 >= 0.97 * height(s) || (st.steep && start < 1.2)) continue;
                        const SubcriticalCurve c = subcritical_curve(b, st, y0);
                        if (c.full_length > 0 || c.reach < b.length) continue;
                        const double direct = march_back(b, y0);
                        if (!std::isfinite(direct) || direct > 0.99 * height(s)) continue;
                        QVERIFY2(std::abs(c.depth_up - direct) < 1e-3,
                                 qPrintable(QString("%1 S %2 Q %3 from %4: %5 by steps %6")
                                                .arg(name)
                                                .arg(slope)
                                                .arg(q)
                                                .arg(y0)
                                                .arg(c.depth_up)
                                                .arg(direct)));
                        ++curves;
                    }
                }
        QVERIFY2(curves > 100, qPrintable(QString::number(curves)));
    }
    void jumps_have_equal_momentum() {
        int jumps = 0;
        for (const auto& [name, s] : sections())
            for (const double share : {0.1, 0.3, 0.5}) {
                const double q = share * full_capacity(s, 0.013, 0.02);
                const Barrel b{s, 0.013, 60, 0.02, q};
                const BarrelState st = state_of(b);
                if (!st.steep) continue;
                for (double down = 0.4; down < 1.6; down += 0.1) {
                    const SubcriticalCurve c = subcritical_curve(b, st, down * height(s));
                    const Jump j = find_jump(b, st, st.critical, c);
                    if (j.place <= 0.5 || j.place >= 59.5) continue;
                    const double fast = supercritical_depth(b, st, st.critical, j.place),
                                 slow = subcritical_depth(b, st, down * height(s), 60 - j.place);
                    if (!std::isfinite(fast) || !std::isfinite(slow)) continue;
                    const double m1 = momentum(s, fast, q), m2 = momentum(s, slow, q);
                    // What a centimetre along the barrel changes.
                    const double near =
                        std::abs(momentum(s, subcritical_depth(b, st, down * height(s), 60.01 - j.place), q) - m2);
                    QVERIFY2(std::abs(m1 - m2) <= 2 * near + 1e-6, name);
                    ++jumps;
                }
            }
        QVERIFY2(jumps > 20, qPrintable(QString::number(jumps)));
    }
    void custom_sections_are_what_they_draw() {
        const Section t = shaped(OpenTrapezoid{0.6, 1.5, 0.9}),
                      c = shaped(CustomOutline{{{10, 5.9}, {11.35, 5}, {11.95, 5}, {13.3, 5.9}}}),
                      closed = shaped(CustomOutline{{{0, 0}, {1, 0}, {1, 0.8}, {0, 0.8}, {0, 0}}});
        for (double y = 0.05; y < 0.9; y += 0.05) {
            QVERIFY(close(wetted(c, y).area, wetted(t, y).area, 1e-9));
            QVERIFY(close(wetted(c, y).perimeter, wetted(t, y).perimeter, 1e-9));
        }
        QVERIFY(close(full_perimeter(closed), 3.6, 1e-12) && close(full_area(closed), 0.8, 1e-12));
        QVERIFY(close(wetted(closed, 0.4).perimeter, 1.8, 1e-12));
        QVERIFY(wetted(closed, 0.8).top == 0 && close(wetted(closed, 0.79).top, 1, 1e-9));
        // Of two banks the lower one ends it: half a square, the bed, half a square, up to half a metre.
        for (const bool turned : {false, true}) {
            CustomOutline banks{{{0, 0.5}, {0.5, 0}, {1.5, 0}, {2.5, 1}}};
            if (turned) {
                std::reverse(banks.points.begin(), banks.points.end());
                for (OutlinePoint& p : banks.points) p.x = -p.x;
            }
            const Section s = shaped(banks);
            QVERIFY(close(height(s), 0.5, 1e-12) && close(full_area(s), 0.75, 1e-12));
            QVERIFY(close(full_perimeter(s), 1 + std::sqrt(2.0), 1e-12));
        }
        QVERIFY(shaped(Egg{1.2}) == shaped(Egg{1.2}) && !(shaped(Egg{1.2}) == shaped(Egg{1.3})));
        QVERIFY(shaped(Egg{1.2}).table == shaped(Egg{1.2}).table);  // pipes alike share one
    }
    void what_is_no_section_is_said() {
        using P = std::vector<OutlinePoint>;
        QVERIFY(outline_fault(P{{0, 1}, {1, 0}, {2, 1}}).empty());
        QVERIFY(outline_fault(P{{0, 0}, {1, 0}, {1, 1}, {0, 1}, {0, 0}}).empty());
        for (const auto& [points, words] : {std::pair{P{{0, 1}, {1, 0}}, "three"},
                                            {P{{0, 1}, {1, 0}, {0.5, 0.5}, {2, 1}}, "folds over"},
                                            {P{{0, 0}, {1, 1}, {1, 0}, {0, 1}, {0, 0}}, "folds over"},
                                            {P{{0, 0}, {1, 0}, {2, 0}}, "flat"},
                                            {P{{0, 0}, {1, 1}, {2, 2}}, "lowest"},
                                            {P{{0, 1}, {1e9, 0}, {2e9, 1}}, "out of reach"},
                                            {P{{0, 1}, {NAN, 0}, {2, 1}}, "out of reach"}})
            QVERIFY2(outline_fault(points).find(words) != std::string::npos, words);
    }
};
QTEST_APPLESS_MAIN(TestSections)
#include "test_sections.moc"
