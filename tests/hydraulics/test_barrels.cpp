// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/hydraulics/barrel.h"
#include "core/hydraulics/panel.h"
#include "core/hydraulics/uniform_flow.h"

using namespace culvert;

namespace {

bool close(double a, double b, double within) { return std::abs(a - b) <= within * std::max(1e-12, std::abs(b)); }

/// Sf of slow flow, written here from its definition: Manning's friction; in a box above Qfull, whose lid is wetted,
/// never less than min(Sf full, r S0).
double friction(const Barrel& b, double y) {
    const Wetted w = wetted(b.section, std::min(y, height(b.section) * (1 - 1e-12)));
    const double r = w.area / w.perimeter;
    double sf = std::pow(b.flow * b.n / (w.area * std::pow(r, 2.0 / 3)), 2);
    const double a = full_area(b.section), rf = a / full_perimeter(b.section);
    const double full = std::pow(b.flow * b.n / (a * std::pow(rf, 2.0 / 3)), 2);
    if (const Box* box = std::get_if<Box>(&b.section); box && b.slope > 0 && full > b.slope) {
        const double dry = full * std::pow((box->width + 2 * box->height) / (2 * (box->width + box->height)), 4.0 / 3);
        sf = std::max(sf, std::min(full, full / dry * b.slope));
    }
    return y >= height(b.section) ? full : sf;
}
double slope_of_surface(const Barrel& b, double y) {
    const Wetted w = wetted(b.section, std::min(y, height(b.section)));
    const double fr2 = y >= height(b.section) ? 0 : b.flow * b.flow * w.top / (gravity * std::pow(w.area, 3));
    return (b.slope - friction(b, y)) / (1 - fr2);
}
/// The water surface by Heun's steps in distance, upstream (-1) or downstream (+1) from a depth: another method than
/// the quadrature in depth, with steps that shrink near critical depth.
double march(const Barrel& b, double y, double length, double direction) {
    const double yc = critical_depth(b.section, b.flow);
    double x = 0;
    if (std::abs(y - yc) < 1e-6) y = yc + (direction < 0 ? 1e-6 : -1e-6);
    while (x < length) {
        const double away = std::abs(y - yc);
        double h =
            std::min({length - x, 0.02, std::max(1e-9, 0.05 * away / (std::abs(slope_of_surface(b, y)) + 1e-12))});
        const double k1 = slope_of_surface(b, y) * direction, k2 = slope_of_surface(b, y + h * k1) * direction;
        y += h * (k1 + k2) / 2;
        x += h;
    }
    return y;
}
double momentum_by_parts(const Barrel& b, double y) {  // the pressure part summed in thin layers
    const double top = height(b.section), a = wetted(b.section, std::min(y, top)).area;
    double moment = 0;
    constexpr int layers = 4000;
    const double wet = std::min(y, top);
    for (int i = 0; i < layers; ++i) {
        const double z = wet * (i + 0.5) / layers;
        double width = wetted(b.section, z).top;
        moment += width * (y - z) * wet / layers;
    }
    return b.flow * b.flow / (gravity * a) + moment;
}

}  // namespace

/// Barrels where slow, fast, full and free water meet: against independent integration, and swept in small steps so
/// that no level leaps.
class TestBarrels : public QObject {
    Q_OBJECT
  private slots:
    /// A panel holds polynomials of degree 6 exactly, whole and in part, whichever way it runs; of other functions it
    /// says how far it may be off.
    void a_panel_is_the_integral_of_its_function_everywhere() {
        std::mt19937 random(3);
        std::uniform_real_distribution<double> any(-1, 1), share(0.01, 0.99);
        for (int t = 0; t < 2000; ++t) {
            std::array<double, 7> c;
            for (double& v : c) v = any(random);
            c[0] = 8;  // positive over the panel, as a march forward is
            const double from = any(random), to = from + (t % 2 ? 1 : -1) * share(random), sign = to > from ? 1 : -1;
            const auto f = [&](double x) {
                double sum = 0;
                for (std::size_t i = 7; i-- > 0;) sum = sum * (x / 2) + c[i];
                return sum * sign;
            };
            const auto integral = [&](double x) {
                double sum = 0;
                for (std::size_t i = 7; i-- > 0;) sum = sum * (x / 2) + c[i] / static_cast<double>(i + 1);
                return sum * x * sign;
            };
            const Panel panel(f, from, to);
            const double whole = integral(to) - integral(from), part = whole * share(random);
            QVERIFY2(close(panel.total(), whole, 1e-12), qPrintable(QString::number(panel.total() - whole)));
            const double off = integral(panel.where(part)) - integral(from) - part;
            QVERIFY2(std::abs(off) < 1e-9 * whole,
                     qPrintable(QString("%1 of %2, of %3, %4 %5").arg(off).arg(part).arg(whole).arg(from).arg(to)));
            QCOMPARE(panel.where(0), panel.from());
            QCOMPARE(panel.where(panel.total()), panel.to());
            QVERIFY(std::abs(panel.from() - from) < 1e-15 && std::abs(panel.to() - to) < 1e-15);
        }
        int followed = 0;
        for (int t = 0; t < 2000; ++t) {  // e^(k x): not a polynomial
            const double k = 8 * any(random), from = any(random), to = from + share(random);
            if (std::abs(k) < 0.1) continue;
            const Panel panel([&](double x) { return std::exp(k * x); }, from, to);
            const auto integral = [&](double x) { return (std::exp(k * x) - std::exp(k * from)) / k; };
            const double part = integral(to) * share(random), off = std::abs(integral(panel.where(part)) - part);
            QVERIFY2(off <= panel.inside() + 1e-13 * integral(to),
                     qPrintable(QString("k %1: off %2, said %3").arg(k).arg(off).arg(panel.inside())));
            QVERIFY(std::abs(panel.total() - integral(to)) <= panel.error() + 1e-13 * integral(to));
            followed += panel.inside() < 1e-6 * panel.total();
        }
        QVERIFY(followed > 500);
    }
    void steep_is_told_at_critical_depth() {
        // 1.07 Qfull on 3 %: both normal depths lie below critical depth, and the friction at critical depth is above
        // the slope: the pipe is controlled from its outlet.
        const Circular c{0.6};
        const double slope = 0.03, n = 0.013;
        Barrel b{c, n, 40, slope, 1.070 * full_capacity(c, n, slope)};
        const BarrelState st = state_of(b);
        QVERIFY(st.normal < st.critical && st.upper_normal < st.critical);
        QVERIFY(friction(b, st.critical) > slope);
        QVERIFY(!st.steep);
        const SubcriticalCurve curve = subcritical_curve(b, st, 0);
        QCOMPARE(curve.reach, b.length);
        QVERIFY(std::abs(curve.depth_up - march(b, st.critical, b.length, -1)) < 2e-4);
        // Fast water that is led in settles at its normal depth all the same.
        const SupercriticalCurve fast = supercritical_curve(b, st, 0.5 * st.normal);
        QVERIFY(std::abs(fast.depth_down - march(b, 0.5 * st.normal, b.length, +1)) < 2e-4);
        b.flow = 0.9 * full_capacity(c, n, slope);
        QVERIFY(state_of(b).steep == (friction(b, critical_depth(c, b.flow)) < slope));
    }
    void a_trickle_in_a_large_adverse_box() {
        // 2 x 2 m, 13 l/s, rising 2.8 %: the curve leaves critical depth within centimetres of the outlet.
        for (const double rise : {0.028, 0.001, 1e-5}) {
            const Barrel b{Box{2, 2}, 0.013, 0.2, -rise, 0.013};
            const BarrelState st = state_of(b);
            const SubcriticalCurve curve = subcritical_curve(b, st, 0);
            QVERIFY2(std::abs(curve.depth_up - march(b, st.critical, b.length, -1)) < 5e-5,
                     qPrintable(QString("%1").arg(rise)));
        }
    }
    void slow_curves_agree_with_another_integration() {
        std::mt19937 random(71);
        const auto u = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        int free = 0, full = 0, both = 0, adverse = 0, boxes = 0;
        for (int i = 0; i < 300; ++i) {
            Section section = Circular{u(0.2, 2.5)};
            if (i % 3 == 0) section = Box{u(0.3, 3), u(0.3, 2.5)};
            const double top = height(section), slope = i % 4 == 0 ? -u(0, 0.02) : u(1e-4, 0.03), n = u(0.009, 0.03);
            const double capacity = full_conveyance(section, n) * std::sqrt(std::abs(slope) + 1e-5);
            const Barrel b{section, n, u(2, 120), slope, capacity * std::exp(u(-5, 0.7))};
            const BarrelState st = state_of(b);
            if (st.critical >= top * 0.999) continue;
            const double from = std::max(st.critical, u(0, 1.6) * top);
            const SubcriticalCurve curve = subcritical_curve(b, st, from);
            if (curve.reach < b.length) continue;  // it ends at critical depth inside: the next test
            const double other = march(b, curve.depth_down, b.length, -1);
            // Beside a normal depth that a curve leaves, the last digits of where it starts decide how far it comes.
            const bool beside = std::isfinite(st.normal) && std::abs(curve.depth_down - st.upper_normal) < 0.01 * top;
            if (beside) continue;
            QVERIFY2(
                std::abs(curve.depth_up - other) < 1e-3 * (1 + other),
                qPrintable(QString("%1: %2, by steps %3").arg(i).arg(curve.depth_up, 0, 'g', 9).arg(other, 0, 'g', 9)));
            free += curve.full_length == 0;
            full += curve.full_length >= b.length;
            both += curve.full_length > 0 && curve.full_length < b.length;
            adverse += slope < 0;
            boxes += i % 3 == 0;
        }
        QVERIFY2(free > 60 && full > 20 && both > 8 && adverse > 30 && boxes > 40,
                 qPrintable(QString("%1 %2 %3 %4 %5").arg(free).arg(full).arg(both).arg(adverse).arg(boxes)));
    }
    void jumps_stand_where_the_momenta_are_equal() {
        std::mt19937 random(72);
        const auto u = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        int inside = 0, pressed = 0, level = 0, drowned = 0, swept = 0;
        for (int i = 0; i < 1200; ++i) {
            Section section = Circular{u(0.2, 1.5)};
            if (i % 3 == 0) section = Box{u(0.3, 2), u(0.3, 1.5)};
            const double top = height(section), n = u(0.009, 0.02);
            double slope = u(-0.005, 0.06);
            if (i % 5 == 0) slope = 0;
            const double capacity = full_conveyance(section, n) * std::sqrt(std::abs(slope) + 5e-4);
            const Barrel b{section, n, u(3, 80), slope, capacity * std::exp(u(-3, 0.1))};
            const BarrelState st = state_of(b);
            if (st.critical >= top * 0.98) continue;
            const double from = i % 2 ? std::max(st.critical, u(0.3, 2.5) * top) : st.critical;
            const double fast = st.steep && i % 4 < 2 ? st.critical : st.critical * u(0.15, 0.95);
            const SubcriticalCurve curve = subcritical_curve(b, st, from);
            SubcriticalCurve slow = curve;
            if (curve.reach < b.length) slow.depth_up = st.critical;
            const Jump jump = find_jump(b, st, fast, slow);
            QVERIFY(jump.place >= 0 && jump.place <= b.length);
            if (jump.place <= 1e-9 || jump.place >= b.length - 1e-9) {
                (jump.place <= 1e-9 ? drowned : swept) += 1;
                continue;
            }
            const double reach = supercritical_curve(b, st, fast).reach;
            // At the end of either curve there is a jump without a root: the flow goes through critical depth there.
            if (jump.place >= reach - 2e-3 || jump.place <= b.length - curve.reach + 2e-3) continue;
            const auto difference = [&](double x) {
                return momentum_by_parts(b, supercritical_depth(b, st, fast, x)) -
                       momentum_by_parts(b, subcritical_depth(b, st, from, b.length - x));
            };
            // Of different sign a few millimetres to either side; equal there but for what millimetres make.
            const double before = difference(std::max(0.0, jump.place - 4e-3)),
                         after = difference(std::min(b.length, jump.place + 4e-3));
            QVERIFY2(
                before > -1e-7 && after < 1e-7,
                qPrintable(
                    QString("%1: at %2 of %3: %4 and %5").arg(i).arg(jump.place).arg(b.length).arg(before).arg(after)));
            ++inside;
            pressed += from > top;
            level += slope == 0;
        }
        QVERIFY2(inside > 150 && pressed > 25 && level > 20 && drowned > 50 && swept > 50,
                 qPrintable(QString("%1 %2 %3 %4 %5").arg(inside).arg(pressed).arg(level).arg(drowned).arg(swept)));
    }
    /// What is drawn: points that rise along the barrel, each with the velocity of its depth, on the slope that the
    /// water has there.
    void a_drawn_profile_is_the_water_surface() {
        std::mt19937 random(73);
        const auto u = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        int fast_part = 0, slow_part = 0, jumps = 0, full = 0;
        for (int i = 0; i < 300; ++i) {
            Section section = Circular{u(0.3, 1.2)};
            if (i % 3 == 0) section = Box{u(0.4, 1.5), u(0.4, 1.2)};
            const double top = height(section), n = u(0.009, 0.02), slope = i % 5 == 0 ? -u(0, 0.004) : u(1e-4, 0.05);
            const double flow = full_conveyance(section, n) * std::sqrt(std::abs(slope) + 5e-4) * std::exp(u(-3, 0.1));
            const Barrel b{section, n, u(5, 80), slope, flow};
            const BarrelState st = state_of(b);
            if (st.critical >= top * 0.98) continue;
            const double down = std::max(st.critical, u(0.3, 1.8) * top);
            const double up = st.steep ? st.critical * u(0.3, 1) : std::nan("");
            SubcriticalCurve slow = subcritical_curve(b, st, down);
            if (slow.reach < b.length) slow.depth_up = st.critical;
            const double jump = std::isnan(up) ? 0 : find_jump(b, st, up, slow).place;
            const std::vector<ProfilePoint> drawn = barrel_profile(b, st, up, down, jump);
            QVERIFY(drawn.size() >= 20 && drawn.front().x == 0 && drawn.back().x == b.length);
            jumps += jump > 0 && jump < b.length;
            for (std::size_t k = 0; k < drawn.size(); ++k) {
                const ProfilePoint& p = drawn[k];
                QVERIFY(std::abs(p.velocity * wetted(section, p.depth).area - flow) < 1e-9 * flow);
                if (k && p.x > drawn[k - 1].x) {
                    const ProfilePoint& q = drawn[k - 1];
                    const bool fast = p.x <= jump;
                    // Between two points on one side of the jump: the slope of the surface at their middle.
                    const double mid = (p.depth + q.depth) / 2, rise = (p.depth - q.depth) / (p.x - q.x),
                                 at_p = slope_of_surface(b, p.depth), at_q = slope_of_surface(b, q.depth);
                    const double least = std::min({at_p, at_q, slope_of_surface(b, mid)}),
                                 most = std::max({at_p, at_q, slope_of_surface(b, mid)});
                    const bool near_critical =
                        std::min(std::abs(p.depth - st.critical), std::abs(q.depth - st.critical)) < 0.02 * top;
                    const bool at_crown =
                        std::max(p.depth, q.depth) > 0.98 * top && std::min(p.depth, q.depth) < 1.02 * top;
                    if (near_critical || at_crown || std::abs(rise) < 1e-7) continue;
                    QVERIFY2(
                        rise > least - 0.05 * std::abs(least) - 1e-6 && rise < most + 0.05 * std::abs(most) + 1e-6,
                        qPrintable(QString("%1, %2: %3 not in %4..%5").arg(i).arg(k).arg(rise).arg(least).arg(most)));
                    (fast ? fast_part : slow_part) += 1;
                    full += p.depth > top;
                } else if (k) QVERIFY(p.x == drawn[k - 1].x && p.x == jump);
                if (p.x < jump) QVERIFY(p.depth <= st.critical + 1e-9);
                if (p.x > jump) QVERIFY(p.depth >= st.critical - 1e-9);
            }
            if (jump < b.length) QVERIFY(std::abs(drawn.back().depth - std::max(down, st.critical)) < 1e-9);
            if (jump > 0) QVERIFY(std::abs(drawn.front().depth - up) < 1e-9);
        }
        QVERIFY2(fast_part > 500 && slow_part > 500 && jumps > 20 && full > 100,
                 qPrintable(QString("%1 %2 %3 %4").arg(fast_part).arg(slow_part).arg(jumps).arg(full)));
        // Without flow: level water, as far as it reaches.
        const Barrel dry{Circular{0.6}, 0.013, 50, 0.01, 0};
        for (const double down : {0.0, 0.2, 0.8}) {
            const std::vector<ProfilePoint> drawn = barrel_profile(dry, state_of(dry), std::nan(""), down, 0);
            QCOMPARE(drawn.size(), std::size_t{2});
            QVERIFY(drawn[0].x == 0 && std::abs(drawn[0].depth - std::max(0.0, down - 0.5)) < 1e-12 &&
                    drawn[1].x == 50 && drawn[1].depth == down && drawn[0].velocity == 0 && drawn[1].velocity == 0);
        }
    }
    void fast_water_behind_a_loss_keeps_its_energy() {
        for (const Section& section : {Section(Circular{0.6}), Section(Box{0.8, 0.5})})
            for (const double loss : {0.0, 0.2, 0.5, 1.5})
                for (const double flow : {0.05, 0.2, 0.3}) {
                    const double yc = critical_depth(section, flow), vc = flow / wetted(section, yc).area;
                    const double least = yc + (1 + loss) * vc * vc / (2 * gravity);
                    for (const double more : {1e-6, 0.05, 0.4, 3.0}) {
                        const double y = fast_depth_behind_loss(section, least + more, flow, loss);
                        QVERIFY(y > 0 && y <= yc);
                        const double v = flow / wetted(section, y).area;
                        QVERIFY(std::abs(y + (1 + loss) * v * v / (2 * gravity) - least - more) < 1e-9);
                    }
                    QVERIFY(std::isnan(fast_depth_behind_loss(section, least - 1e-6, flow, loss)));
                }
    }
    void no_level_leaps_but_at_the_named_places() {
        // Flow through Qfull and its peak, tailwater through critical depth and the crown, slope through 0 and
        // critical: in steps so small that the level at the upper end may move by a fixed multiple of the step, unless
        // two answers exist side by side. Those places are: where a pipe turns steep (its level leaves the outlet for
        // the entrance, both at critical depth: no leap), where a tailwater lifts a jump to the entrance, where a
        // closed circle between Qfull and its peak is touched at its crown, and where a box that ran fast is filled.
        const Section sections[] = {Circular{0.3}, Circular{0.6}, Circular{1.8}, Box{1, 0.6}, Box{0.6, 1}, Box{3, 1.5}};
        const auto upper = [](const Barrel& b, double tail) {
            const BarrelState st = state_of(b);
            const bool free = !(tail > st.critical);
            if (st.steep && free) return st.critical;
            const SubcriticalCurve c = subcritical_curve(b, st, free ? st.critical : tail);
            return st.steep && c.reach < b.length ? st.critical : c.depth_up;
        };
        // A leap is one that no finer step makes smaller: the step is halved towards it thirty times.
        const auto sweep = [&](auto&& level, int steps, double most) {
            int leaps = 0;
            double before = level(0.0);
            for (int i = 1; i <= steps; ++i) {
                double a = static_cast<double>(i - 1) / steps, b = static_cast<double>(i) / steps;
                double at_a = before, at_b = before = level(b);
                for (int k = 0; k < 30 && std::abs(at_b - at_a) > most; ++k) {
                    const double c = (a + b) / 2, at_c = level(c);
                    if (std::abs(at_c - at_a) > std::abs(at_b - at_c)) b = c, at_b = at_c;
                    else a = c, at_a = at_c;
                }
                leaps += !(std::abs(at_b - at_a) <= most);
            }
            return leaps;
        };
        for (const Section& s : sections) {
            const double h = height(s), n = 0.013, length = 50;
            for (const double slope : {0.001, 0.005, 0.02}) {
                const double q = full_capacity(s, n, slope);
                const bool box = std::holds_alternative<Box>(s);
                // Flow, free outfall: on a mild slope without any leap; where it is steep at Qfull, one where it fills.
                const auto by_flow = [&](double t) { return upper({s, n, length, slope, q * (0.8 + 0.4 * t)}, 0); };
                const int leaps = sweep(by_flow, 4000, 0.02 * h);
                QVERIFY2(
                    leaps <= (state_of({s, n, length, slope, q * 0.999}).steep ? 1 : 0),
                    qPrintable(QString("flow, height %1, slope %2, box %3: %4").arg(h).arg(slope).arg(box).arg(leaps)));
                // Tailwater through critical depth and crown, below capacity: the level rises, at most one leap, where
                // a jump reaches the entrance of a steep barrel.
                const Barrel b{s, n, length, slope, 0.7 * q};
                const auto by_tail = [&](double t) { return upper(b, h * (0.2 + 1.6 * t)); };
                const int by_tail_leaps = sweep(by_tail, 4000, 0.02 * h);
                QVERIFY2(by_tail_leaps <= (state_of(b).steep ? 1 : 0),
                         qPrintable(QString("tail, height %1, slope %2, box %3: %4")
                                        .arg(h)
                                        .arg(slope)
                                        .arg(box)
                                        .arg(by_tail_leaps)));
                double last = 0;
                for (int i = 0; i <= 400; ++i) {
                    const double now = upper(b, h * (0.2 + 1.6 * i / 400));
                    QVERIFY(now >= last - 1e-6);
                    last = now;
                }
            }
            // Slope through 0 and through critical, with a flow that has both.
            const double q = 0.6 * full_capacity(s, n, 0.01);
            const auto by_slope = [&](double t) { return upper({s, n, 20, -0.005 + 0.03 * t, q}, 0); };
            const int slope_leaps = sweep(by_slope, 6000, 0.02 * h);
            // A box that would run fast at the slope at which it is just full leaps when it fills.
            const double k = full_conveyance(s, n), fills = q * q / (k * k) * 1.001;
            const int allowed = std::holds_alternative<Box>(s) && state_of({s, n, 20, fills, q}).steep;
            QVERIFY2(slope_leaps <= allowed, qPrintable(QString("slope, height %1: %2").arg(h).arg(slope_leaps)));
        }
    }
};

QTEST_APPLESS_MAIN(TestBarrels)
#include "test_barrels.moc"
