// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/streets/inlet.h"

using namespace culvert;

namespace {

const StreetConstants si = street_constants(Edition::Si), us = street_constants(Edition::Us);
constexpr double ft = 0.3048, cfs = ft * ft * ft;

bool close(double a, double b, double relative) {
    return std::abs(a - b) <= relative * std::max(std::abs(a), std::abs(b));
}

/// The gutter equation strip by strip: the width is cut into many, each carries (8/3) Ku/n d^(5/3) SL^(1/2) per width.
template <class Height>
double by_strips(double n, double grade, double depth, double to_crown, Height height, double width = 1e9) {
    constexpr int strips = 200000;
    const double end = std::min(to_crown, width), dx = end / strips;
    double sum = 0;
    for (int i = 0; i < strips; ++i) {
        const double d = depth - height((i + 0.5) * dx);
        if (d > 0) sum += std::pow(d, 5.0 / 3) * dx;
    }
    return 8.0 / 3 * 0.376 / n * std::sqrt(grade) * sum;
}
double composite_height(const CompositeSection& s, double x) {
    return x < s.gutter_width ? x * s.gutter_slope
                              : s.gutter_width * s.gutter_slope + (x - s.gutter_width) * s.cross_slope;
}

}  // namespace

/// Gutters and inlets against the printed forms, against integration across the section, and against each other.
class TestInlets : public QObject {
    Q_OBJECT
  private slots:
    void a_uniform_gutter_is_the_printed_equation() {
        const Gutter g{CompositeSection{0, 0.02, 0.02, 6}, 0.01, 0.016};
        for (const double t : {0.3, 1.0, 2.5, 5.9}) {
            const double printed = 0.376 / 0.016 * std::pow(0.02, 5.0 / 3) * std::sqrt(0.01) * std::pow(t, 8.0 / 3);
            QVERIFY(close(flow_of_depth(g, depth_of_spread(g.section, t), si), printed, 1e-12));
            const GutterFlow f = gutter_flow(g, printed, si);
            QVERIFY(close(f.spread, t, 1e-12) && close(f.depth, t * 0.02, 1e-12));
            QVERIFY(close(f.velocity, printed / (0.5 * t * t * 0.02), 1e-12));
            QCOMPARE(f.over_crown, 0.0);
        }
    }
    /// The other edition, worked in feet.
    void the_us_edition_is_the_printed_equation_in_feet() {
        const double t = 8, sx = 0.02, sl = 0.015, n = 0.016;
        const double q = 0.56 / n * std::pow(sx, 5.0 / 3) * std::sqrt(sl) * std::pow(t, 8.0 / 3);  // ft3/s
        const Gutter g{CompositeSection{0, sx, sx, 20 * ft}, sl, n};
        QVERIFY(close(gutter_flow(g, q * cfs, us).spread, t * ft, 1e-12));
        const double lt = 0.6 * std::pow(q, 0.42) * std::pow(sl, 0.3) * std::pow(1 / (n * sx), 0.6);
        QVERIFY(close(length_for_all(q * cfs, sl, n, sx, us), lt * ft, 1e-12));
        // A grate in a sag: weir 3.0 P d^1.5 in ft over the mean depth.
        const Grate grate{4 * ft, 2 * ft};
        const double d = 0.2, curb = d + sx * 1;  // mean depth under the middle of 2 ft
        QVERIFY(
            close(sag_capacity(grate, g.section, curb * ft, us), 3.0 * (4 + 2 * 2) * std::pow(d, 1.5) * cfs, 1e-12));
        // Curb opening without depression: 3.0 L d^1.5.
        QVERIFY(close(sag_capacity(CurbOpening{10 * ft, 0.5 * ft}, g.section, 0.4 * ft, us),
                      3.0 * 10 * std::pow(0.4, 1.5) * cfs, 1e-12));
        // Depressed: 2.3 (L + 1.8 W) d^1.5.
        QVERIFY(close(
            sag_capacity(CurbOpening{5 * ft, 0.5 * ft, Throat::Horizontal, 0.2 * ft, 2 * ft}, g.section, 0.4 * ft, us),
            2.3 * (5 + 1.8 * 2) * std::pow(0.4, 1.5) * cfs, 1e-12));
        // Both editions lie within two per cent of each other.
        QVERIFY(close(us.gutter, si.gutter, 0.02) && close(us.curb_length, si.curb_length, 0.02) &&
                close(us.splash, si.splash, 0.02) && close(us.side, si.side, 0.02) &&
                close(us.grate_weir, si.grate_weir, 0.02) && close(us.curb_weir, 1.656, 1e-3) &&
                close(us.depressed_weir, si.depressed_weir, 0.02) && close(us.slot_weir, si.slot_weir, 0.025));
    }
    /// Composite: the manual's own Eo.
    void a_composite_gutter_is_its_frontal_share() {
        std::mt19937_64 random(7);
        std::uniform_real_distribution<double> unit(0, 1);
        for (int i = 0; i < 40; ++i) {
            const CompositeSection s{0.3 + unit(random) * 0.7, 0.03 + unit(random) * 0.1, 0.01 + unit(random) * 0.03,
                                     5};
            const Gutter g{s, 0.002 + unit(random) * 0.06, 0.012 + unit(random) * 0.01};
            const double t = s.gutter_width * (1.05 + 3 * unit(random));
            if (t > s.to_crown) continue;
            const double ratio = s.gutter_slope / s.cross_slope;
            const double eo = 1 / (1 + ratio / (std::pow(1 + ratio / (t / s.gutter_width - 1), 8.0 / 3) - 1));
            const double side = 0.376 / g.n * std::pow(s.cross_slope, 5.0 / 3) * std::sqrt(g.grade) *
                                std::pow(t - s.gutter_width, 8.0 / 3);
            const double d = depth_of_spread(s, t), q = flow_of_depth(g, d, si);
            QVERIFY(close(q, side / (1 - eo), 1e-9));
            QVERIFY(close(frontal_share(s, d, s.gutter_width), eo, 1e-9));
            QVERIFY(close(depth_of_flow(g, q, si), d, 1e-9));
            QVERIFY(close(spread_of_depth(s, d), t, 1e-9));
        }
    }
    void a_parabolic_crown_is_its_strips() {
        for (const double depth : {0.02, 0.06, 0.0999, 0.15}) {
            const ParabolicSection s{0.1, 4.5};
            const Gutter g{s, 0.01, 0.016};
            const auto height = [&](double x) {
                return s.rise * (2 * x / s.to_crown - x * x / s.to_crown / s.to_crown);
            };
            const double q = flow_of_depth(g, depth, si);
            QVERIFY2(close(q, by_strips(g.n, g.grade, depth, s.to_crown, height), 2e-5),
                     qPrintable(QString::number(depth)));
            QVERIFY(close(depth_of_flow(g, q, si), depth, 1e-9));
            double area = 0;
            for (int i = 0; i < 100000; ++i)
                area += std::max(depth - height((i + 0.5) * s.to_crown / 100000), 0.0) * s.to_crown / 100000;
            QVERIFY(close(flow_area(s, depth), area, 1e-4));
            // What runs over a grate's width beside the curb, narrower and wider than the water.
            for (const double width : {0.3, 0.6, 1.5, 6.0})
                QVERIFY(close(frontal_share(s, depth, width),
                              by_strips(g.n, g.grade, depth, s.to_crown, height, width) / q, 1e-4));
        }
    }
    void a_swale_is_two_gutters_and_a_ditch_is_manning() {
        const SwaleSection s{0.12, 0.03};
        const Gutter g{s, 0.02, 0.02};
        const double d = 0.2;
        const double both = 0.376 / 0.02 * std::sqrt(0.02) * std::pow(d, 8.0 / 3) * (1 / 0.12 + 1 / 0.03);
        QVERIFY(close(flow_of_depth(g, d, si), both, 1e-12) && close(depth_of_flow(g, both, si), d, 1e-12));
        QVERIFY(std::isinf(depth_at_crown(s)) && gutter_flow(g, 0.4, si).over_crown == 0);
        const Ditch ditch{0.6, 3, 2, 0.008, 0.03};
        const double a = 0.6 * 0.4 + 2.5 * 0.16, p = 0.6 + 0.4 * (std::sqrt(10.0) + std::sqrt(5.0));
        QVERIFY(close(ditch_flow(ditch, 0.4), a * std::pow(a / p, 2.0 / 3) * std::sqrt(0.008) / 0.03, 1e-12));
        QVERIFY(close(ditch_depth(ditch, ditch_flow(ditch, 0.4)), 0.4, 1e-9));
        QVERIFY(close(bed_shear(0.4, ditch.grade), 9810 * 0.4 * 0.008, 1e-12));
    }
    /// A gutter without a fall of its own, lanes without one: water as deep as at the curb.
    void level_parts_carry_at_one_depth() {
        for (const CompositeSection& s : {CompositeSection{0.6, 0, 0.02, 4}, CompositeSection{0.6, 0.05, 0, 4}}) {
            const Gutter g{s, 0.01, 0.016};
            for (const double d : {0.04, 0.08}) {
                const double q = flow_of_depth(g, d, si);
                QVERIFY(close(
                    q, by_strips(g.n, g.grade, d, s.to_crown, [&](double x) { return composite_height(s, x); }), 2e-5));
                QVERIFY(close(depth_of_flow(g, q, si), d, 1e-9));
            }
        }
        QCOMPARE(spread_of_depth(CompositeSection{0.6, 0.05, 0, 4}, 0.04), 4.0);
        QVERIFY(std::isnan(depth_of_flow(Gutter{CompositeSection{}, 0, 0.016}, 0.1, si)));
        QVERIFY(std::isnan(depth_of_flow(Gutter{CompositeSection{}, 0.01, 0}, 0.1, si)));
        QCOMPARE(depth_of_flow(Gutter{CompositeSection{}, 0, 0.016}, 0, si), 0.0);
        QCOMPARE(flow_of_depth(Gutter{CompositeSection{}, 0, 0.016}, 0.1, si), 0.0);
    }
    /// A grate and an opening in a street whose crown is a parabola, and in a swale: by the cross slope at the curb.
    void other_sections_take_by_their_slope_at_the_curb() {
        for (const auto& [section, slope] : {std::pair{GutterSection(ParabolicSection{0.1, 4}), 2 * 0.1 / 4},
                                             {GutterSection(SwaleSection{0.1, 0.03}), 0.03}}) {
            const Gutter g{section, 0.02, 0.016};
            const double q = 0.05;
            const Capture c = on_grade(CurbOpening{1.5, 0.13}, g, q, si);
            const double all = 0.817 * std::pow(q, 0.42) * std::pow(0.02, 0.3) * std::pow(1 / (0.016 * slope), 0.6);
            QVERIFY(close(c.effective_slope, slope, 1e-12) && close(c.total_length, all, 1e-9));
            QVERIFY(close(c.captured, q * (1 - std::pow(1 - 1.5 / all, 1.8)), 1e-9));
            const Capture grate = on_grade(Grate{0.6, 0.45}, g, q, si);
            const double v = grate.approach.velocity;
            QVERIFY(close(grate.side, 1 / (1 + 0.0828 * std::pow(v, 1.8) / (slope * std::pow(0.6, 2.3))), 1e-9));
        }
    }
    void what_the_side_cannot_carry_runs_over_the_crown() {
        const Gutter g{CompositeSection{0.5, 0.05, 0.02, 4}, 0.005, 0.016};
        const double crown = depth_at_crown(g.section), most = flow_of_depth(g, crown, si);
        QVERIFY(close(crown, 0.5 * 0.05 + 3.5 * 0.02, 1e-12));
        QCOMPARE(gutter_flow(g, most * 0.999, si).over_crown, 0.0);
        const GutterFlow f = gutter_flow(g, most * 1.5, si);
        QCOMPARE(f.spread, 4.0);
        QVERIFY(f.depth > crown && close(f.over_crown, most * 0.5, 1e-9));
    }
    void sags_take_more_the_deeper_they_are() {
        const GutterSection s = CompositeSection{0.6, 0.05, 0.02, 6};
        const std::vector<InletForm> forms{Grate{0.9, 0.6},
                                           CurbOpening{2.4, 0.13},
                                           CurbOpening{2.4, 0.13, Throat::Vertical, 0.05, 0.6},
                                           CurbOpening{5, 0.13, Throat::Inclined, 0.05, 0.6},
                                           CombinationInlet{Grate{0.9, 0.6}, CurbOpening{0.9, 0.13}},
                                           CombinationInlet{Grate{0.9, 0.6}, CurbOpening{2.7, 0.13}},
                                           SlottedDrain{6, 0.045},
                                           AreaInlet{Grate{0.6, 0.6}}};
        for (const InletForm& f : forms) {
            double before = 0;
            for (double d = 0.002; d < 1.2; d += 0.002) {
                const double q = sag_capacity(f, s, d, si);
                QVERIFY(q >= before - 1e-15);  // never falls: not where a weir becomes an orifice either
                before = q;
                // A weir's flow grows faster than its depth, an orifice's slower. Both at once: a combination.
                const double more = sag_capacity(f, s, d * 1.001, si);
                const bool one = !std::holds_alternative<CombinationInlet>(f) &&
                                 sag_control(f, s, d, si) == sag_control(f, s, d * 1.001, si);
                if (one && q > 1e-6 && more > q * (1 + 1e-9)) {
                    const double power = std::log(more / q) / std::log(1.001);
                    if (power > 1.2) QCOMPARE(sag_control(f, s, d, si), SagControl::Weir);
                    if (power < 0.8 && d > 0.3) QCOMPARE(sag_control(f, s, d, si), SagControl::Orifice);
                }
            }
        }
        const Grate clogged{0.9, 0.6, 9, 0.5, 1.0};
        QVERIFY(std::isinf(sag_depth(clogged, s, 0.01, si)));
        QCOMPARE(on_grade(clogged, {s, 0.01, 0.016}, 0.01, si).captured, 0.0);
    }
    void rated_inlets_follow_their_curve() {
        const Gutter g{CompositeSection{}, 0.01, 0.016};
        const RatedInlet r{{0, 0.02, 0.06}, {0, 0.02, 0.04}};
        QVERIFY(close(on_grade(r, g, 0.01, si).captured, 0.01, 1e-12) &&
                close(on_grade(r, g, 0.04, si).captured, 0.03, 1e-12) &&
                close(on_grade(r, g, 0.5, si).captured, 0.04, 1e-12));
    }
    void no_inlet_takes_more_than_comes() {
        std::mt19937_64 random(11);
        std::uniform_real_distribution<double> unit(0, 1);
        int all = 0, part = 0;
        for (int i = 0; i < 4000; ++i) {
            const Gutter g{CompositeSection{unit(random) < 0.3 ? 0 : unit(random), 0.01 + 0.1 * unit(random),
                                            0.005 + 0.05 * unit(random), 2 + 8 * unit(random)},
                           1e-4 + 0.1 * unit(random), 0.01 + 0.02 * unit(random)};
            const Grate grate{0.2 + unit(random), 0.2 + unit(random), 0.3 + 3 * unit(random), 0.5, unit(random)};
            const CurbOpening o{0.2 + 6 * unit(random),
                                0.1,
                                Throat::Inclined,
                                unit(random) < 0.5 ? 0 : 0.1 * unit(random),
                                0.6,
                                unit(random)};
            const InletForm forms[] = {grate, o, CombinationInlet{grate, o}, SlottedDrain{o.length}, AreaInlet{grate}};
            const double q = std::pow(10, -4 + 4 * unit(random));
            for (const InletForm& f : forms) {
                const Capture c = on_grade(f, g, q, si);
                QVERIFY(c.captured >= 0 && c.captured <= q && std::isfinite(c.captured));
                QVERIFY(c.efficiency >= 0 && c.efficiency <= 1);
                ++(c.efficiency == 1 ? all : part);
            }
        }
        QVERIFY(all > 500 && part > 5000);
    }
    void splash_velocities_rise_with_length() {
        for (const GrateKind& k : grate_kinds()) {
            double before = 0;
            for (double l = 0.3; l <= 1.2; l += 0.05) {
                const double v = splash_velocity(k, l);
                QVERIFY(v > 0.5 && v < 5 && v >= before - 1e-9);
                before = v;
            }
            QCOMPARE(splash_velocity(k, 0.05), splash_velocity(k, 0.3048));
        }
    }
};

QTEST_GUILESS_MAIN(TestInlets)
#include "test_inlets.moc"
