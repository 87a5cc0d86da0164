// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <numbers>
#include <random>

#include "core/hydraulics/barrel.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/hydrology/idf.h"

using namespace culvert;
using std::numbers::pi;

namespace {

/// Geometry by integrating the width over the depth, independent of the closed forms.
Wetted integrated(const Section& s, double y, double* first_moment = nullptr) {
    Wetted w{y, 0, 0, 0};
    const int strips = 200000;
    double moment = 0;
    for (int i = 0; i < strips; ++i) {
        const double z = y * (i + 0.5) / strips;
        double width = 0;
        if (const auto* box = std::get_if<Box>(&s)) width = box->width;
        else {
            const double d = std::get<Circular>(s).diameter;
            width = 2 * std::sqrt(std::max(0.0, z * (d - z)));
        }
        w.area += width * y / strips;
        moment += width * y / strips * (y - z);
    }
    if (first_moment) *first_moment = moment;
    return w;
}

/// Depth after `length` upstream (sign -1) or downstream (+1) by Runge-Kutta in x with small steps.
double runge_kutta(const Barrel& b, double y, double length, double sign, int steps = 20000) {
    const auto slope = [&](double depth) {
        const Wetted w = wetted(b.section, depth);
        const double r = w.area / w.perimeter, sf = std::pow(b.flow * b.n / (w.area * std::pow(r, 2.0 / 3)), 2);
        return (b.slope - sf) / (1 - b.flow * b.flow * w.top / (gravity * std::pow(w.area, 3)));
    };
    const double h = sign * length / steps;
    for (int i = 0; i < steps; ++i) {
        const double k1 = slope(y), k2 = slope(y + h / 2 * k1), k3 = slope(y + h / 2 * k2), k4 = slope(y + h * k3);
        y += h / 6 * (k1 + 2 * k2 + 2 * k3 + k4);
    }
    return y;
}

double total_energy(const Barrel& b, double depth, double invert) {
    return invert + specific_energy(b.section, depth, b.flow);
}

}  // namespace

class TestHydraulics : public QObject {
    Q_OBJECT
  private slots:
    void geometry_against_integration() {
        for (const Section& s : {Section(Circular{0.9}), Section(Box{1.4, 0.8})})
            for (const double share : {0.03, 0.2, 0.5, 0.77, 0.95}) {
                const double y = share * height(s);
                double moment = 0;
                const Wetted a = integrated(s, y, &moment), b = wetted(s, y);
                QVERIFY(std::abs(a.area - b.area) < 1e-6 * a.area);
                QVERIFY(std::abs(moment / a.area - centroid_depth(s, y)) < 1e-5 * y);
                // dA/dy is the width, dP/dy the slope length of both walls.
                const double h = 1e-6;
                QVERIFY(std::abs((wetted(s, y + h).area - wetted(s, y - h).area) / (2 * h) - b.top) < 1e-5);
            }
        QCOMPARE(wetted(Circular{1}, 0.5).perimeter, pi / 2);
        QCOMPARE(wetted(Circular{1}, 1).area, pi / 4);
        QCOMPARE(wetted(Box{2, 1}, 1).perimeter, 6.0);
        QVERIFY(std::abs(wetted(Box{2, 1}, 0.999999).perimeter - 4) <
                1e-4);  // the lid is wetted at the height, not before
        QCOMPARE(centroid_depth(Circular{1}, 1), 0.5);
    }
    void segment_keeps_its_digits() {
        // The series and the plain form agree where they meet, and tiny angles follow 2/3 phi^3.
        QVERIFY(std::abs(segment(0.3) - (0.3 - std::sin(0.3) * std::cos(0.3))) < 1e-15);
        QVERIFY(std::abs(segment(1e-4) / (2.0 / 3 * 1e-12) - 1) < 1e-8);
    }
    void capacity_and_normal_depth() {
        const Section c = Circular{0.45};
        const double k = pi * 0.2025 / 4 * std::pow(0.1125, 2.0 / 3) / 0.013;
        QVERIFY(std::abs(full_capacity(c, 0.013, 0.006) - k * std::sqrt(0.006)) < 1e-15);
        QVERIFY(std::abs(normal_depth(c, 0.013, 0.006, full_capacity(c, 0.013, 0.006) / 2) - 0.225) < 1e-13);
        QVERIFY(std::abs(peak_ratio(c) - 1.07571) < 1e-5);
        QCOMPARE(full_capacity(c, 0.013, 0), 0.0);
        QCOMPARE(full_capacity(c, 0.013, -0.01), 0.0);
        QVERIFY(std::isnan(normal_depth(c, 0.013, 0, 0.1)));
        QVERIFY(std::isnan(normal_depth(c, 0.013, 0.006, full_capacity(c, 0.013, 0.006) * 1.08)));
        QCOMPARE(normal_depth(c, 0.013, 0.006, 0), 0.0);
    }
    void normal_depth_inverts_manning_over_all_scales() {
        for (const Section& s :
             {Section(Circular{0.3}), Section(Circular{3}), Section(Box{0.6, 1.2}), Section(Box{4, 1})})
            for (const double slope : {1e-4, 0.004, 0.2})
                for (double q = 1e-9; q < 50; q *= 1.37) {
                    const double y = normal_depth(s, 0.013, slope, q),
                                 peak = full_capacity(s, 0.013, slope) * peak_ratio(s);
                    QCOMPARE(std::isnan(y), q > peak);
                    if (std::isnan(y)) continue;
                    const Wetted w = wetted(s, y);
                    const double back = w.area * std::pow(w.area / w.perimeter, 2.0 / 3) * std::sqrt(slope) / 0.013;
                    QVERIFY2(std::abs(back / q - 1) < 1e-8, qPrintable(QString("q %1 back %2").arg(q).arg(back)));
                    QVERIFY(y <= 0.9382 * height(s) || std::holds_alternative<Box>(s));
                }
    }
    void upper_branch_carries_the_same_flow() {
        const Section c = Circular{0.6};
        const double q = full_capacity(c, 0.013, 0.01) * 1.04, y = upper_normal_depth(c, 0.013, 0.01, q);
        QVERIFY(y > 0.938 * 0.6 && y < 0.6);
        QVERIFY(std::abs(conveyance(c, 0.013, y) * 0.1 / q - 1) < 1e-9);
    }
    void critical_depth_over_all_scales() {
        for (const Section& s : {Section(Circular{0.3}), Section(Circular{3}), Section(Box{1, 2})})
            for (double q = 1e-9; q < 100; q *= 1.7) {
                const double y = critical_depth(s, q);
                QVERIFY(y > 0 && y <= height(s));
                if (y < 0.995 * height(s))
                    QVERIFY2(std::abs(froude(s, y, q) - 1) < 1e-6,
                             qPrintable(QString("q %1 Fr %2").arg(q).arg(froude(s, y, q))));
            }
        QVERIFY(std::abs(critical_depth(Box{2, 3}, 6) - std::cbrt(9 / gravity)) < 1e-14);
        QCOMPARE(critical_depth(Box{1, 0.5}, 10), 0.5);  // at its lid
        // Least specific energy: neighbours have more.
        const Section c = Circular{0.6};
        const double yc = critical_depth(c, 0.25), e = specific_energy(c, yc, 0.25);
        QVERIFY(specific_energy(c, yc + 0.01, 0.25) > e && specific_energy(c, yc - 0.01, 0.25) > e);
        // and least momentum.
        QVERIFY(momentum(c, yc + 0.01, 0.25) > momentum(c, yc, 0.25) &&
                momentum(c, yc - 0.01, 0.25) > momentum(c, yc, 0.25));
    }
    void depth_of_energy_inverts() {
        const Section c = Circular{0.6};
        for (const double y : {0.05, 0.12, 0.5, 0.58, 0.9, 2.0}) {
            const double q = 0.2, yc = critical_depth(c, q);
            QVERIFY(std::abs(depth_of_energy(c, specific_energy(c, y, q), q, y > yc) - y) < 1e-9);
        }
        QCOMPARE(depth_of_energy(c, 0.01, 0.2, true), critical_depth(c, 0.2));
    }
    void conjugate_depths_of_a_box() {
        for (const double y1 : {0.1, 0.2, 0.35}) {
            const double q = 1.8, fr = q / y1 / std::sqrt(gravity * y1), y2 = y1 / 2 * (std::sqrt(1 + 8 * fr * fr) - 1);
            QVERIFY(std::abs(momentum(Box{1, 5}, y1, q) - momentum(Box{1, 5}, y2, q)) < 1e-12);
        }
    }
    void curves_against_runge_kutta_data() {
        QTest::addColumn<double>("diameter");
        QTest::addColumn<double>("length");
        QTest::addColumn<double>("slope");
        QTest::addColumn<double>("flow");
        QTest::addColumn<double>("start");  // over the critical depth, or, for fast curves, share of it
        QTest::newRow("M1") << 0.6 << 80.0 << 0.003 << 0.18 << 1.9;
        QTest::newRow("M1 long") << 0.9 << 400.0 << 0.002 << 0.4 << 1.8;
        QTest::newRow("M2") << 0.6 << 80.0 << 0.003 << 0.18 << 1.02;
        QTest::newRow("M2 near its capacity") << 0.6 << 120.0 << 0.003 << 0.335 << 1.05;
        QTest::newRow("H2") << 0.6 << 60.0 << 0.0 << 0.12 << 1.1;
        QTest::newRow("A2") << 0.75 << 50.0 << -0.002 << 0.15 << 1.1;
        QTest::newRow("S1") << 0.6 << 3.0 << 0.03 << 0.25 << 1.6;
    }
    void curves_against_runge_kutta() {
        QFETCH(double, diameter);
        QFETCH(double, length);
        QFETCH(double, slope);
        QFETCH(double, flow);
        QFETCH(double, start);
        const Barrel b{Circular{diameter}, 0.013, length, slope, flow};
        const BarrelState st = state_of(b);
        const double y0 = std::min(st.critical * start, 0.97 * diameter);
        const SubcriticalCurve c = subcritical_curve(b, st, y0);
        QCOMPARE(c.reach, length);
        const double expected = runge_kutta(b, y0, length, -1);
        QVERIFY2(std::abs(c.depth_up - expected) < 2e-5,
                 qPrintable(QString("%1, expected %2").arg(c.depth_up).arg(expected)));
    }
    void fast_curves_against_runge_kutta() {
        const Barrel s2{Circular{0.6}, 0.013, 40, 0.04, 0.25};
        const BarrelState st = state_of(s2);
        QVERIFY(st.steep);
        const double from = st.critical * 0.97;
        QVERIFY(std::abs(supercritical_depth(s2, st, from, 25) - runge_kutta(s2, from, 25, +1)) < 2e-5);
        const double thin = st.normal * 0.7;
        QVERIFY(std::abs(supercritical_depth(s2, st, thin, 15) - runge_kutta(s2, thin, 15, +1)) < 2e-5);
        const Barrel m3{Circular{0.6}, 0.013, 40, 0.002, 0.2};
        const BarrelState ms = state_of(m3);
        const double fast = ms.critical * 0.6;
        QVERIFY(std::abs(supercritical_depth(m3, ms, fast, 5) - runge_kutta(m3, fast, 5, +1)) < 2e-5);
        const SupercriticalCurve end = supercritical_curve(m3, ms, fast);
        QVERIFY(end.reach < 40);
        QCOMPARE(end.depth_down, ms.critical);
    }
    void pressure_and_free_surface_in_one_barrel() {
        // Submerged end, steeper than its friction: full up to where the grade line meets the crown, free above.
        const Barrel b{Circular{0.6}, 0.013, 100, 0.01, 0.3};
        const BarrelState st = state_of(b);
        const SubcriticalCurve c = subcritical_curve(b, st, 1.0);
        const double meets = 0.4 / (0.01 - st.friction_full);
        QVERIFY(std::abs(c.full_length - meets) < 1e-9);
        // Flow above the peak: free at a free end, full where the depth has risen to the crown, pressure growing from
        // there.
        const Barrel over{Circular{0.6}, 0.013, 100, 0.004, 0.5};
        const BarrelState so = state_of(over);
        QVERIFY(std::isnan(so.normal));
        const SubcriticalCurve f = subcritical_curve(over, so, 0);
        QVERIFY(f.full_length > 50 && f.full_length < 100);
        QVERIFY(std::abs(f.depth_up - (0.6 + (so.friction_full - 0.004) * f.full_length)) < 1e-9);
        // A box touches its lid at once.
        const Barrel lid{Box{0.8, 0.5}, 0.013, 60, 0.002, 0.9};
        const SubcriticalCurve l = subcritical_curve(lid, state_of(lid), 0.49);
        QVERIFY(l.full_length > 0 && l.depth_up > 0.5);
    }
    void energy_falls_downstream_along_every_curve() {
        std::mt19937 random(5);
        const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        int full = 0, free = 0, steep = 0, adverse = 0;
        for (int i = 0; i < 4000; ++i) {
            const double size = uniform(0.25, 1.5);
            const Section s = i % 4 ? Section(Circular{size}) : Section(Box{size * uniform(0.5, 2), size});
            const Barrel b{s, 0.013, uniform(5, 200), uniform(-0.004, i % 3 ? 0.02 : 0.1), std::exp(uniform(-9, 1))};
            const BarrelState st = state_of(b);
            const double down = uniform(0, 2.5) * size;
            const SubcriticalCurve c = subcritical_curve(b, st, down);
            QVERIFY2(std::isfinite(c.depth_up) && c.depth_up > 0,
                     qPrintable(QString("%1: box %8 size %2 L %3 S %4 Q %5 y %6 -> %7")
                                    .arg(i)
                                    .arg(size)
                                    .arg(b.length)
                                    .arg(b.slope)
                                    .arg(b.flow)
                                    .arg(c.depth_down)
                                    .arg(c.depth_up)
                                    .arg(s.index())));
            const double rise = b.slope * c.reach;
            QVERIFY2(total_energy(b, c.depth_up, rise) - total_energy(b, c.depth_down, 0) > -1e-7,
                     qPrintable(QString("%1: size %2 L %3 S %4 Q %5 y %6 -> %7")
                                    .arg(i)
                                    .arg(size)
                                    .arg(b.length)
                                    .arg(b.slope)
                                    .arg(b.flow)
                                    .arg(c.depth_down)
                                    .arg(c.depth_up)));
            full += c.full_length > 0;
            free += c.full_length < b.length;
            steep += st.steep;
            adverse += b.slope < 0;
        }
        QVERIFY(full > 400 && free > 400 && steep > 300 && adverse > 300);
    }
    void finer_halving_changes_nothing() {
        // The curve over the whole barrel equals the curve over its two halves, one after the other.
        std::mt19937 random(9);
        const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        for (int i = 0; i < 1500; ++i) {
            const Barrel b{Circular{uniform(0.3, 1.2)}, 0.013, uniform(20, 150), uniform(-0.003, 0.03),
                           std::exp(uniform(-6, 0))};
            const BarrelState st = state_of(b);
            const double down = st.critical * uniform(1, 2.2);
            Barrel half = b;
            half.length /= 2;
            const SubcriticalCurve whole = subcritical_curve(b, st, down), first = subcritical_curve(half, st, down);
            if (first.reach < half.length) continue;
            const SubcriticalCurve second = subcritical_curve(half, st, first.depth_up);
            if (second.reach < half.length || whole.reach < b.length) continue;
            QVERIFY2(std::abs(second.depth_up - whole.depth_up) < 3e-4,
                     qPrintable(QString("%1: %2 %3").arg(i).arg(second.depth_up).arg(whole.depth_up)));
        }
    }
    void jump_stands_where_momentum_balances() {
        const Barrel b{Box{1, 3}, 0.013, 100, 0.03, 2};
        const BarrelState st = state_of(b);
        QVERIFY(st.steep);
        const double down = 2.6, x = find_jump(b, st, st.critical, subcritical_curve(b, st, down)).place;
        QVERIFY(x > 0 && x < 100);
        const double fast = supercritical_depth(b, st, st.critical, x), slow = subcritical_depth(b, st, down, 100 - x);
        QVERIFY(std::abs(momentum(b.section, fast, 2) - momentum(b.section, slow, 2)) < 1e-3);
        const double fr = 2 / fast / std::sqrt(gravity * fast);
        QVERIFY(std::abs(slow - fast / 2 * (std::sqrt(1 + 8 * fr * fr) - 1)) < 2e-3);
        QCOMPARE(find_jump(b, st, st.critical, subcritical_curve(b, st, 0.3)).place, 100.0);  // swept out
        QCOMPARE(find_jump(b, st, st.critical, subcritical_curve(b, st, 9.0)).place, 0.0);    // drowned
    }
    void jumps_of_random_barrels_balance() {
        std::mt19937 random(31);
        const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        int jumps = 0;
        for (int i = 0; i < 3000; ++i) {
            const double size = uniform(0.3, 1.5);
            const Barrel b{i % 3 ? Section(Circular{size}) : Section(Box{size, size}), 0.013, uniform(10, 120),
                           i % 2 ? uniform(0.01, 0.1) : uniform(-0.002, 0.004), std::exp(uniform(-5, 1))};
            const BarrelState st = state_of(b);
            const double up = st.steep ? st.critical : st.critical * uniform(0.3, 0.9), down = size * uniform(0.3, 4);
            const SubcriticalCurve slow = subcritical_curve(b, st, down);
            const Jump jump = find_jump(b, st, up, slow);
            if (jump.place <= b.length - slow.reach + 1e-3 || jump.place >= b.length || jump.place <= 0) continue;
            const double fast = supercritical_depth(b, st, up, jump.place),
                         calm = subcritical_depth(b, st, down, b.length - jump.place);
            if (std::isnan(fast) || std::isnan(calm)) continue;
            ++jumps;
            // Momentum changes sides within a quarter of a metre of the place.
            const auto excess = [&](double x) {
                return momentum(b.section, supercritical_depth(b, st, up, x), b.flow) -
                       momentum(b.section, subcritical_depth(b, st, down, b.length - x), b.flow);
            };
            const double before = excess(std::max(jump.place - 0.25, b.length - slow.reach)),
                         after = excess(std::min(jump.place + 0.25, b.length));
            QVERIFY2(!(before < -1e-4) && !(after > 1e-4), qPrintable(QString("%1: S %2 Q %3 D %4 x %5 of %6: %7 %8")
                                                                          .arg(i)
                                                                          .arg(b.slope)
                                                                          .arg(b.flow)
                                                                          .arg(size)
                                                                          .arg(jump.place)
                                                                          .arg(b.length)
                                                                          .arg(fast)
                                                                          .arg(calm)));
            QVERIFY(total_energy(b, fast, 0) >= total_energy(b, calm, 0) - 1e-4);  // a jump loses energy
        }
        qInfo("%d jumps", jumps);
        QVERIFY(jumps > 200);
    }
    void idf_interpolates_in_log_log() {
        std::vector<double> d, i;
        for (const double t : {5.0, 10.0, 30.0, 60.0}) {
            d.push_back(t * 60);
            i.push_back(2e-4 * std::pow(t, -0.6));
        }
        const IdfCurve c(d, i);
        for (const double t : {5.0, 7.3, 18.0, 59.0, 200.0})
            QVERIFY(std::abs(c.intensity(t * 60) / (2e-4 * std::pow(t, -0.6)) - 1) < 1e-12);  // above: extended
        QVERIFY(std::abs(c.intensity(60) / i[0] - 1) < 1e-12);                                // below: held
        QCOMPARE(c.range(60), IdfRange::BelowShortest);
        QCOMPARE(c.range(300), IdfRange::Inside);
        QCOMPARE(c.range(3601), IdfRange::AboveLongest);
        QVERIFY(std::abs(IdfCurve(std::vector<double>{600}, std::vector<double>{1e-5}).intensity(5000) / 1e-5 - 1) <
                1e-12);
    }
    void idf_faults_are_named() {
        using V = std::vector<double>;
        QVERIFY(idf_fault(V{300, 600}, V{3e-5, 2e-5}).empty());
        QVERIFY(idf_fault(V{}, V{}).find("no duration") != std::string::npos);
        QVERIFY(idf_fault(V{300}, V{1e-5, 2e-5}).find("1 durations but 2") != std::string::npos);
        QVERIFY(idf_fault(V{600, 300}, V{3e-5, 2e-5}).find("must rise") != std::string::npos);
        QVERIFY(idf_fault(V{300, 600}, V{3e-5, 1e-5}).find("depth falls") != std::string::npos);
        QVERIFY(idf_fault(V{300, 600}, V{3e-5, 4e-5}).find("intensity rises") != std::string::npos);
        QVERIFY(idf_fault(V{0}, V{3e-5}).find("above 0") != std::string::npos);
        QCOMPARE(idf_fault(V{300, 1.2e7}, V{3e-5, 2e-6}),
                 std::string("duration 2 is 200000 min: it must be at most 166667 min"));
        QCOMPARE(idf_fault(V{300, 600}, V{2e-3, 2e-3}),
                 std::string("intensity at 5 min is 7200 mm/h: it must be at most 3600 mm/h"));
        QCOMPARE(idf_fault(V{0, 600}, V{3e-5, 2e-5}), std::string("duration 1 is 0 min: it must be above 0"));
        QCOMPARE(idf_fault(V{300, -60}, V{3e-5, 2e-5}), std::string("duration 2 is -1 min: it must be above 0"));
        QCOMPARE(idf_fault(V{300, 600}, V{0, 2e-3}), std::string("intensity at 5 min is 0 mm/h: it must be above 0"));
        QCOMPARE(idf_fault(V{600, 600}, V{3e-5, 3e-5}),
                 std::string("duration 10 min does not follow 10 min: durations must rise"));
        // Which two rows, in words.
        const std::string rises = idf_fault(V{300, 600, 900}, V{3e-5, 4e-5, 2e-5});
        QVERIFY2(rises.find("108") < rises.find(" at 5") && rises.find(" at 5") < rises.find("144") &&
                     rises.find("144") < rises.find(" at 10"),
                 rises.c_str());
    }
    void coefficients_are_capped_before_weighting() {
        const std::vector<Cover> covers{{1000, 0.9}, {2000, 0.4}};
        QCOMPARE(effective_area(covers, 1), 1700.0);
        QCOMPARE(effective_area(covers, 1.25), 1000.0 + 1000.0);
    }
};
QTEST_APPLESS_MAIN(TestHydraulics)
#include "test_hydraulics.moc"
