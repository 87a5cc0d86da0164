// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <numbers>
#include <random>

#include "core/detention/pond_routing.h"
#include "core/hydraulics/barrel.h"
#include "core/hydraulics/uniform_flow.h"

using namespace culvert;

namespace {

WayOut as_way(Outlet o) {
    WayOut w;
    w.how = std::move(o);
    return w;
}
PondRoute routed(const StageStorage& s, const std::vector<WayOut>& ways, const std::vector<double>& inflow, double step,
                 double level) {
    PondInput in;
    in.storage = &s;
    in.ways = ways;
    in.start_level = level;
    in.inflow = inflow;
    in.step = step;
    return route_pond(in);
}
double all_out(const std::vector<WayOut>& ways, double level, double below = std::nan("")) {
    std::vector<OutletFlow> each(ways.size());
    std::vector<double> outside(ways.size(), below);
    return pond_outflow(ways, level, outside, {}, each);
}

/// dV/dt = I - O by the classical Runge-Kutta method, in steps far finer than the routing's; inflow even in each step.
double peak_by_integration(const StageStorage& s, const std::vector<WayOut>& ways, const std::vector<double>& inflow,
                           double step, double level, int parts, double* highest = nullptr) {
    double v = s.volume(level), peak = 0, top = level;
    const double dt = step / parts;
    for (const double i : inflow)
        for (int k = 0; k < parts; ++k) {
            const auto rate = [&](double volume) { return i - all_out(ways, s.level(std::max(volume, 0.0))); };
            const double k1 = rate(v), k2 = rate(v + dt / 2 * k1), k3 = rate(v + dt / 2 * k2), k4 = rate(v + dt * k3);
            v = std::max(0.0, v + dt / 6 * (k1 + 2 * k2 + 2 * k3 + k4));
            const double h = s.level(v);
            peak = std::max(peak, all_out(ways, h));
            top = std::max(top, h);
        }
    if (highest) *highest = top;
    return peak;
}

}  // namespace

/// Culverts, ways out together, routing through ponds: against closed forms, integration of finer steps, and
/// properties.
class TestDetention : public QObject {
    Q_OBJECT

  private slots:
    void inlet_control_is_its_equation() {
        // By hand, US form turned to SI: D = 1.2 m, Q = 2.5 m3/s: q = 1.811 Q / (A D^0.5) = 3.653, between the forms.
        CulvertBarrel c;
        c.section = Circular{1.2};
        c.slope = 0.01;
        const double area = std::numbers::pi * 0.36, unit = area * std::sqrt(1.2) / 1.811;
        const EntranceNumbers e = culvert_entrances()[0];
        const auto hand_open = [&](double q) {
            const double flow = q * unit, y = critical_depth(c.section, flow), v = flow / wetted(c.section, y).area;
            return (y + v * v / (2 * gravity)) / 1.2 + e.k * q * q - 0.5 * 0.01;
        };
        const auto hand_full = [&](double q) { return e.c * q * q + e.y - 0.5 * 0.01; };
        for (const double q : {0.5, 1.5, 2.5, 3.5})
            QVERIFY(std::abs(inlet_control_depth(c, q * unit) - 1.2 * hand_open(q)) < 1e-9);
        for (const double q : {4.0, 5.0, 7.0})
            QVERIFY(std::abs(inlet_control_depth(c, q * unit) - 1.2 * hand_full(q)) < 1e-9);
        const double middle = (hand_open(3.5) + hand_full(4.0)) / 2;
        QVERIFY(std::abs(inlet_control_depth(c, 3.75 * unit) - 1.2 * middle) < 1e-9);
    }
    void full_culvert_is_bernoulli() {
        CulvertBarrel c;
        c.section = Circular{0.6};
        c.invert = 10;
        c.length = 30;
        c.slope = 0.005;
        const double flow = 0.7, below = 11.2;  // end invert 9.85: drowned
        const double area = std::numbers::pi * 0.09, v = flow / area, r = 0.15,
                     friction = 2 * gravity * 0.013 * 0.013 * 30 / std::pow(r, 4.0 / 3);
        const double level = below + (1 + c.entrance.loss + friction) * v * v / (2 * gravity);
        QVERIFY(std::abs(10 + outlet_control_depth(c, flow, below) - level) < 2e-3);
        const CulvertRating rating(c, 14);
        const OutletFlow back = rating.flow(level, below);
        QVERIFY2(std::abs(back.flow - flow) < 2e-3, qPrintable(QString::number(back.flow)));
        QCOMPARE(back.control, OutletControl::Barrel);
    }
    void rating_reads_back_both_controls() {
        std::mt19937 gen(4);
        std::uniform_real_distribution<double> u(0, 1);
        int inlet = 0, outlet = 0;
        for (int n = 0; n < 60; ++n) {
            CulvertBarrel c;
            const bool box = u(gen) < 0.4;
            c.section = box ? Section{Box{0.6 + u(gen), 0.5 + u(gen)}} : Section{Circular{0.4 + u(gen)}};
            c.entrance = culvert_entrances()[static_cast<std::size_t>(box ? 6 + static_cast<int>(u(gen) * 3)
                                                                          : static_cast<int>(u(gen) * 6))];
            c.length = 10 + 60 * u(gen);
            c.slope = -0.002 + 0.03 * u(gen);
            c.invert = 20;
            const double d = height(c.section);
            const CulvertRating rating(c, 20 + 4 * d);
            double last = 0;
            for (double h = 0.05 * d; h < 3.5 * d; h += 0.1 * d) {
                const OutletFlow f = rating.flow(20 + h, std::nan(""));
                QVERIFY2(f.flow >= last - 1e-9, "more with a higher level");
                last = f.flow;
                if (h < 0.4 * d || f.flow <= 0) continue;
                // A barrel that is about to fill leaps: a per cent of the flow on either side encloses the level.
                const auto needs = [&](double q) {
                    return std::max(inlet_control_depth(c, q), outlet_control_depth(c, q, std::nan("")));
                };
                QVERIFY2(needs(0.99 * f.flow) < h + 0.005 * d && needs(1.01 * f.flow) > h - 0.005 * d,
                         qPrintable(QString("%1: %2 to %3 at %4")
                                        .arg(n)
                                        .arg(needs(0.99 * f.flow))
                                        .arg(needs(1.01 * f.flow))
                                        .arg(h)));
                (f.control == OutletControl::Entrance ? inlet : outlet)++;
            }
            QVERIFY(rating.flow(20 + d, 20 + d + 0.01).flow == 0);
            QVERIFY(rating.flow(20 + 2 * d, 20 + 1.5 * d).flow <= rating.flow(20 + 2 * d, std::nan("")).flow + 1e-9);
        }
        QVERIFY2(inlet > 100 && outlet > 100, qPrintable(QString("%1 %2").arg(inlet).arg(outlet)));
    }
    void ways_beside_each_other_add_up() {
        const std::vector<WayOut> ways{as_way(CircularOrifice{0, 0.2}), as_way(SharpWeir{1, 2})};
        const double h = 1.4;
        const double hand =
            0.6 * std::numbers::pi * 0.01 * std::sqrt(2 * gravity * (h - 0.1)) + 1.84 * 2 * std::pow(0.4, 1.5);
        QVERIFY(std::abs(all_out(ways, h) - hand) < 1e-9);
    }
    void in_series_one_level_stands_between() {
        // A riser with an opening, and a culvert behind it that lets less through: the level between balances both.
        std::mt19937 gen(9);
        std::uniform_real_distribution<double> u(0, 1);
        int held = 0, free = 0;
        for (int n = 0; n < 200; ++n) {
            CulvertBarrel barrel;
            barrel.section = Circular{0.2 + 0.4 * u(gen)};
            barrel.length = 20;
            barrel.slope = 0.01;
            const auto behind = std::make_shared<const CulvertRating>(barrel, 6.0);
            std::vector<WayOut> ways(3);
            ways[0].how = Outlet{CircularOrifice{0.1, 0.1 + 0.5 * u(gen)}};
            ways[0].behind = 2;
            ways[1].how = Outlet{Riser{1.0, 3.0, 0.7}};
            ways[1].behind = 2;
            ways[2].how = behind;
            const double h = 0.3 + 2.5 * u(gen);
            std::vector<OutletFlow> each(3);
            const double q = pond_outflow(ways, h, {}, {}, each);
            QVERIFY(std::abs(each[0].flow + each[1].flow - q) < 1e-6);
            QVERIFY(std::abs(each[2].flow - q) < 1e-6);
            const double open = outlet_flow(std::get<Outlet>(ways[0].how), h, std::nan("")).flow +
                                outlet_flow(std::get<Outlet>(ways[1].how), h, std::nan("")).flow;
            QVERIFY(q <= open + 1e-9);
            QVERIFY2(q <= behind->flow(h, std::nan("")).flow + 1e-6, "never more than the way behind takes");
            // The smaller of the two, or less, since the water between drowns the openings.
            QVERIFY(q >= 0.6 * std::min(open, behind->flow(h, std::nan("")).flow) - 1e-9);
            (q < 0.85 * open ? held : free)++;
        }
        QVERIFY2(held > 20 && free > 20, qPrintable(QString("%1 %2").arg(held).arg(free)));
    }
    void emptying_of_a_prism() {
        // t = 2 A / (C a (2g)^1/2) (H1^1/2 - H2^1/2), heads over the middle of the opening.
        const StageStorage s = tank(0, 400, 4);
        const std::vector<WayOut> ways{as_way(CircularOrifice{0, 0.2})};
        const double a = std::numbers::pi * 0.01, h1 = 3 - 0.1, time = 2 * 3600.0;
        const double root = std::sqrt(h1) - time * 0.6 * a * std::sqrt(2 * gravity) / (2 * 400);
        const PondRoute r = routed(s, ways, std::vector<double>(120, 0.0), 60, 3);
        QVERIFY2(std::abs(r.level.back() - (root * root + 0.1)) < 1e-4,
                 qPrintable(QString::number(r.level.back(), 'f', 6)));
        QVERIFY(std::abs(r.outflow_volume - 400 * (3 - r.level.back())) < 1e-6);
    }
    /// A way that begins below the bottom: an empty pond lets through what comes, not what the way could take.
    void an_empty_pond_gives_no_more_than_comes() {
        const StageStorage s = tank(100, 32, 1.2);
        const std::vector<WayOut> ways{as_way(CircularOrifice{99, 0.5})};
        std::vector<double> inflow(60, 0.0);
        for (std::size_t i = 5; i < 25; ++i) inflow[i] = 0.004 * static_cast<double>(std::min(i - 4, 25 - i));
        const PondRoute r = routed(s, ways, inflow, 60, 100);
        QCOMPARE(r.peak_level, 100.0);
        QVERIFY2(std::abs(r.peak_outflow - 0.04) < 1e-9, qPrintable(QString::number(r.peak_outflow)));
        QVERIFY(std::abs(r.way_peaks[0] - 0.04) < 1e-9);
        QVERIFY(std::abs(r.outflow_volume - r.inflow_volume) < 1e-9);
        for (std::size_t i = 0; i < inflow.size(); ++i) QVERIFY(std::abs(r.outflow[i] - inflow[i]) < 1e-12);
    }
    /// O = k V: V = I/k (1 - e^-kt) under steady inflow; at last what comes in goes out.
    void a_linear_pond_fills_as_it_must() {
        const StageStorage s = tank(0, 100, 10);
        const double k = 1.0 / 1800;
        const std::vector<WayOut> ways{as_way(RatedOutlet{{0, 10}, {0, k * 100 * 10}})};
        const PondRoute r = routed(s, ways, std::vector<double>(200, 0.05), 120, 0);
        for (const std::size_t i : {4u, 19u, 60u}) {
            const double volume = 0.05 / k * (1 - std::exp(-k * static_cast<double>(i + 1) * 120));
            QVERIFY2(std::abs(r.level[i] * 100 - volume) < 1e-3 * volume, qPrintable(QString::number(r.level[i])));
        }
        QVERIFY(std::abs(r.outflow.back() - 0.05) < 1e-6);
    }
    /// Two ponds in a row: what leaves the first reaches the second, whose peak comes later and is lower.
    void ponds_in_a_row_keep_the_water() {
        const StageStorage s = tank(0, 300, 3);
        const std::vector<WayOut> ways{as_way(SharpWeir{0, 0.22})};
        std::vector<double> inflow(150, 0.0);
        for (std::size_t i = 0; i < 20; ++i) inflow[i] = 0.02 * static_cast<double>(std::min(i, 20 - i));
        const PondRoute first = routed(s, ways, inflow, 120, 0), second = routed(s, ways, first.outflow, 120, 0);
        QVERIFY(second.peak_outflow < first.peak_outflow && second.peak_outflow_time > first.peak_outflow_time);
        QVERIFY(std::abs(second.inflow_volume - first.outflow_volume) < 1e-9);
        QVERIFY(std::abs(first.inflow_volume - first.outflow_volume - first.stored) < 1e-9);
        QVERIFY(first.drawdown > 0 && second.drawdown > first.drawdown);
    }
    void routing_agrees_with_a_finer_method() {
        std::mt19937 gen(21);
        std::uniform_real_distribution<double> u(0, 1);
        for (int n = 0; n < 40; ++n) {
            const StageStorage s = basin(0, 20 + 60 * u(gen), 15 + 30 * u(gen), 3 * u(gen), 3);
            const std::vector<WayOut> ways{as_way(CircularOrifice{0.0, 0.1 + 0.4 * u(gen)}),
                                           as_way(BoxOrifice{0.6 + 0.4 * u(gen), 0.2 + u(gen), 0.2}),
                                           as_way(BroadWeir{1.6, 1 + 5 * u(gen)})};
            std::vector<double> inflow;
            const double peak = 0.2 + 2 * u(gen), rise = 20 + 60 * u(gen);
            for (int i = 0; i < 400; ++i) {
                const double x = (i + 0.5) / rise;
                inflow.push_back(peak * std::pow(x * std::exp(1 - x), 4));
            }
            const PondRoute r = routed(s, ways, inflow, 60, 0);
            double top = 0;
            const double fine = peak_by_integration(s, ways, inflow, 60, 0, 40, &top);
            QVERIFY2(std::abs(r.peak_outflow - fine) < 1e-3 * fine,
                     qPrintable(QString("%1: %2 against %3").arg(n).arg(r.peak_outflow).arg(fine)));
            QVERIFY(std::abs(r.peak_level - top) < 2e-3);
            QVERIFY(std::abs(r.inflow_volume - r.outflow_volume - r.stored) < 1e-6 * r.inflow_volume);
            double by_ways = 0;
            for (const double q : r.ways) by_ways += q * 60;
            QVERIFY(std::abs(by_ways - r.outflow_volume) < 1e-6 * r.inflow_volume);
        }
    }
    void little_storage_does_not_swing() {
        // A chamber of 2 m2 with a large opening under a step of a minute: it gives on what comes.
        const StageStorage s = tank(0, 2, 3);
        const std::vector<WayOut> ways{as_way(BoxOrifice{0, 1, 0.5})};
        std::vector<double> inflow(30, 0.2);
        inflow.resize(60, 0.0);
        const PondRoute r = routed(s, ways, inflow, 60, 0);
        for (std::size_t i = 3; i < 29; ++i)
            QVERIFY2(std::abs(r.outflow[i] - 0.2) < 2e-3, qPrintable(QString::number(r.outflow[i])));
        for (std::size_t i = 33; i < 60; ++i) QVERIFY(r.outflow[i] < 2e-3);
        QVERIFY(std::abs(r.inflow_volume - r.outflow_volume - r.stored) < 1e-9);
    }
    void soakage_and_balance() {
        const StageStorage s = tank(0, 100, 2);
        PondInput in;
        in.storage = &s;
        in.start_level = 1;
        in.soakage = 1e-5;
        const std::vector<double> none(600, 0.0);
        in.inflow = none;
        const PondRoute r = route_pond(in);
        QVERIFY(std::abs(r.level.back() - (1 - 1e-5 * 36000)) < 1e-6);  // an even fall over an even area
        QVERIFY(std::abs(r.soaked - 100 * 1e-5 * 36000) < 1e-4);
        QCOMPARE(r.outflow_volume, 0.0);
    }
    void pumps_run_between_their_levels() {
        const StageStorage s = tank(0, 50, 3);
        WayOut pump;
        pump.pump = true;
        pump.start = 1.0;
        pump.stop = 0.4;
        pump.pump_flow = 0.05;
        const std::vector<double> inflow(600, 0.02);
        const PondRoute r = routed(s, {pump}, inflow, 60, 0);
        int switches = 0;
        bool ran = false;
        for (std::size_t i = 1; i < r.outflow.size(); ++i) {
            const bool runs = r.outflow[i] > 0.025;
            switches += runs != ran;
            ran = runs;
            QVERIFY2(r.level[i] < 1.0 + 60 * 0.02 / 50 + 1e-6, "it starts at its level");
            if (i > 100) QVERIFY2(r.level[i] > 0.4 - 60 * 0.05 / 50 - 1e-6, "it stops at its level");
        }
        // 30 m3 between the levels: filled in 1500 s, emptied in 1000 s: 36000 s hold about 13 turns, no chatter.
        QVERIFY2(switches >= 20 && switches <= 32, qPrintable(QString::number(switches)));
        QVERIFY(std::abs(r.inflow_volume - r.outflow_volume - r.stored) < 1e-6);
    }
    void an_outlet_that_is_blocked_lets_nothing_out() {
        const StageStorage s = tank(0, 300, 3);
        const std::vector<WayOut> ways{as_way(CircularOrifice{0, 0.3}), as_way(BroadWeir{2, 4})};
        const std::vector<double> inflow(120, 0.3);
        PondInput in;
        in.storage = &s;
        in.ways = ways;
        in.inflow = inflow;
        const char blocked[] = {1, 0};
        in.blocked = blocked;
        const PondRoute r = route_pond(in);
        QCOMPARE(r.way_peaks[0], 0.0);
        QVERIFY(r.way_peaks[1] > 0.1);
        QVERIFY(std::abs(r.inflow_volume - r.outflow_volume - r.stored) < 1e-6 * r.inflow_volume);
    }
    void water_below_holds_back() {
        const StageStorage s = tank(0, 500, 4);
        const std::vector<WayOut> ways{as_way(CircularOrifice{0, 0.4})};
        std::vector<double> inflow(60, 0.4);
        inflow.resize(240, 0.0);
        const PondRoute free = routed(s, ways, inflow, 60, 0);
        PondInput in;
        in.storage = &s;
        in.ways = ways;
        in.inflow = inflow;
        const std::vector<std::vector<double>> below{std::vector<double>(240, 1.0)};
        in.below = below;
        const PondRoute held = route_pond(in);
        QVERIFY(held.peak_level > free.peak_level + 0.3);
        QVERIFY(held.peak_outflow < free.peak_outflow);
        QVERIFY2(held.level.back() > 1.0 - 1e-3, "it does not fall below the water outside");
        // Water that comes to stand outside from one step to the next holds back in that step already.
        std::vector<std::vector<double>> rises{std::vector<double>(240, std::nan(""))};
        std::fill(rises[0].begin() + 100, rises[0].end(), free.level[99] + 0.5);
        in.below = rises;
        const PondRoute stopped = route_pond(in);
        QCOMPARE(stopped.outflow[99], free.outflow[99]);
        QVERIFY(free.outflow[99] > 0.01 && stopped.outflow[100] < 1e-9);
    }
    void a_drowned_culvert_begins_to_run_without_a_leap() {
        std::mt19937 gen(12);
        std::uniform_real_distribution<double> u(0, 1);
        int ran = 0;
        for (int n = 0; n < 40; ++n) {
            CulvertBarrel c;
            c.section = u(gen) < 0.5 ? Section{Box{0.6 + u(gen), 0.5 + u(gen)}} : Section{Circular{0.4 + u(gen)}};
            c.entrance = culvert_entrances()[n % 2 ? 1 : 7];
            c.length = 8 + 50 * u(gen);
            c.slope = -0.001 + 0.02 * u(gen);
            c.invert = 20;
            const double d = height(c.section), area = full_area(c.section), end = c.invert - c.slope * c.length;
            const CulvertRating rating(c, 20 + 4 * d);
            for (double tail = 0.1 * d; tail < 2 * d; tail += 0.13 * d) {
                const double below = end + tail, from = std::max(below, c.invert);
                QCOMPARE(rating.flow(from, below).flow, 0.0);
                double last = 0;
                for (double over = 1e-7; over < d; over *= 1.5) {
                    const double q = rating.flow(from + over, below).flow;
                    // No more than without any loss; and more with a higher level.
                    QVERIFY2(q <= area * std::sqrt(2 * gravity * (from + over - below)) * 1.02 + 1e-9,
                             qPrintable(QString("%1: %2 at %3 above").arg(n).arg(q).arg(over)));
                    QVERIFY(q >= last - 1e-12);
                    last = q;
                }
                ran += last > 0;
            }
        }
        QVERIFY(ran > 400);
    }
    /// What the ways carry is what leaves, part by part of a storm, whatever stands below.
    void ways_carry_all_that_leaves() {
        std::mt19937 gen(21);
        std::uniform_real_distribution<double> u(0, 1);
        for (int n = 0; n < 40; ++n) {
            const StageStorage s = tank(0, 20 + 600 * u(gen), 3);
            CulvertBarrel c;
            c.section = Circular{0.2 + 0.4 * u(gen)};
            c.entrance = culvert_entrances()[0];
            c.length = 20;
            c.slope = 0.01 * u(gen);
            c.invert = 0.3 * u(gen);
            WayOut pipe;
            pipe.how = std::make_shared<const CulvertRating>(c, 5.0);
            std::vector<WayOut> ways{pipe, as_way(CircularOrifice{0.8, 0.3})};
            if (n % 3 == 0) ways.erase(ways.begin());
            std::vector<double> inflow(80);
            for (double& q : inflow) q = u(gen) < 0.4 ? 0 : 0.08 * u(gen);
            inflow.resize(160, 0.0);
            std::vector<std::vector<double>> below(ways.size());
            if (n % 2)
                for (std::size_t k = 0; k < 160; ++k) below[0].push_back(0.9 * u(gen));
            PondInput in;
            in.storage = &s;
            in.ways = ways;
            in.inflow = inflow;
            in.step = n % 4 ? 300 : 60;
            in.below = below;
            const PondRoute r = route_pond(in);
            double came = 0, left = 0;
            for (std::size_t i = 0; i < inflow.size(); ++i) {
                double by_ways = 0;
                for (std::size_t w = 0; w < ways.size(); ++w) by_ways += r.ways[w * inflow.size() + i];
                QVERIFY2(std::abs(by_ways - r.outflow[i]) < 1e-9,
                         qPrintable(QString("%1 step %2: %3 of %4").arg(n).arg(i).arg(by_ways).arg(r.outflow[i])));
                came += inflow[i] * in.step;
                left += r.outflow[i] * in.step;
            }
            QVERIFY(std::abs(came - left - r.stored) < 1e-6 * came);
        }
    }
    /// Steps of many minutes, as a coarse storm has them: what the routing parts them into gives the peak of steps that
    /// are forty times finer, to a thousandth.
    void long_steps_are_parted_until_the_peak_stands() {
        std::mt19937 gen(5);
        const auto u = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(gen); };
        for (int n = 0; n < 400; ++n) {
            const StageStorage s = basin(100, u(3, 60), u(3, 40), u(0, 4), 3);
            const std::vector<WayOut> ways{as_way(CircularOrifice{100, u(0.1, 0.6)}),
                                           as_way(SharpWeir{100 + u(0.3, 1.5), u(0.5, 8)})};
            const double peak = u(0.2, 4), rise = u(600, 3600), step = u(60, 900);
            std::vector<double> inflow, fine;
            for (double t = step / 2; t < 6 * rise; t += step)
                inflow.push_back(peak * std::max(0.0, t < rise ? t / rise : 1 - (t - rise) / (1.67 * rise)));
            for (const double q : inflow) fine.insert(fine.end(), 40, q);
            const double parted = routed(s, ways, inflow, step, 100).peak_outflow,
                         finer = routed(s, ways, fine, step / 40, 100).peak_outflow;
            QVERIFY2(std::abs(parted - finer) < 1e-3 * finer,
                     qPrintable(QString("%1: steps of %2 s: %3 against %4").arg(n).arg(step).arg(parted).arg(finer)));
        }
    }
    void finer_steps_give_the_same_peak() {
        const StageStorage s = basin(0, 40, 20, 3, 3);
        const std::vector<WayOut> ways{as_way(CircularOrifice{0, 0.3}), as_way(SharpWeir{1.2, 3})};
        const auto with = [&](int parts) {
            std::vector<double> inflow;
            for (int i = 0; i < 240 * parts; ++i) {
                const double x = (i + 0.5) / parts / 60;
                inflow.push_back(1.2 * std::pow(x * std::exp(1 - x), 3));
            }
            return routed(s, ways, inflow, 60.0 / parts, 0).peak_outflow;
        };
        QVERIFY(std::abs(with(1) - with(8)) < 2e-3 * with(8));
    }
};

QTEST_APPLESS_MAIN(TestDetention)
#include "test_detention.moc"
