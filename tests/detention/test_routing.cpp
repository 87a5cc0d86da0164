// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/detention/pond_routing.h"

using namespace culvert;

namespace {

WayOut as_way(Outlet o) {
    WayOut w;
    w.how = std::move(o);
    return w;
}

/// What a pond does, by the classical Runge-Kutta method over its volume, in parts of a step far finer than those of
/// the routing; water outside as it stands in each step.
struct Integrated {
    double peak_outflow = 0, peak_time = 0, level = 0, level_time = 0, most = 0, soaked = 0, left = 0, stored = 0,
           drawdown = -1;
    std::vector<double> way_volumes, way_peaks, outflow;
};
Integrated integrate(const PondInput& in, int parts) {
    const StageStorage& s = *in.storage;
    Integrated r;
    r.way_volumes.assign(in.ways.size(), 0);
    r.way_peaks.assign(in.ways.size(), 0);
    const double first = s.volume(in.start_level), dt = in.step / parts;
    double v = first, most = v;
    r.level = in.start_level;
    std::vector<OutletFlow> each(in.ways.size());
    std::vector<double> outside(in.ways.size(), std::nan(""));
    for (std::size_t i = 0; i < in.inflow.size(); ++i) {
        for (std::size_t w = 0; w < in.below.size() && w < outside.size(); ++w)
            outside[w] = i < in.below[w].size() ? in.below[w][i] : std::nan("");
        double gone = 0;
        for (int k = 0; k < parts; ++k) {
            const auto ways = [&](double level) {
                return std::max(0.0, pond_outflow(in.ways, level, outside, {}, each));
            };
            const auto soaks = [&](double level) { return in.soakage * s.area(level); };
            const auto rate = [&](double volume) {
                const double level = s.level(std::max(volume, 0.0));
                return in.inflow[i] - ways(level) - soaks(level);
            };
            const double k1 = rate(v), k2 = rate(v + dt / 2 * k1), k3 = rate(v + dt / 2 * k2), k4 = rate(v + dt * k3);
            const double middle = s.level(std::max(v + dt / 2 * k1, 0.0)), q = ways(middle), soak = soaks(middle);
            const double next = std::max(0.0, v + dt / 6 * (k1 + 2 * k2 + 2 * k3 + k4));
            // A pond that runs dry gives no more than it has.
            const double ran = std::max(0.0, v + dt * in.inflow[i] - next), share = q + soak > 0 ? ran / (q + soak) : 0;
            for (std::size_t w = 0; w < in.ways.size(); ++w) r.way_volumes[w] += each[w].flow * share;
            gone += q * share;
            r.left += q * share;
            r.soaked += soak * share;
            v = next;
            const double level = s.level(v), out = ways(level), time = (static_cast<double>(i) * parts + k + 1) * dt;
            for (std::size_t w = 0; w < in.ways.size(); ++w) r.way_peaks[w] = std::max(r.way_peaks[w], each[w].flow);
            if (out > r.peak_outflow) r.peak_outflow = out, r.peak_time = time;
            if (level > r.level) r.level = level, r.level_time = time;
            if (v > most) most = v, r.drawdown = -1;
            else if (r.drawdown < 0 && v <= first + 0.1 * (most - first) && most > first)
                r.drawdown = time - r.level_time;
        }
        r.outflow.push_back(gone / in.step);
    }
    r.most = most - first;
    r.stored = v - first;
    return r;
}

}  // namespace

/// Everything that routing tells of a pond, against integration in far finer steps.
class TestRouting : public QObject {
    Q_OBJECT
  private slots:
    void all_that_is_told_agrees_with_integration() {
        std::mt19937 gen(33);
        const auto u = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(gen); };
        int drained = 0, soaking = 0, held = 0, over = 0;
        for (int n = 0; n < 60; ++n) {
            const StageStorage s = basin(50, u(20, 60), u(15, 40), u(0, 3), n % 5 == 0 ? 1.0 : 3.0);
            const std::vector<WayOut> ways{as_way(CircularOrifice{50, u(0.15, 0.4)}),
                                           as_way(BoxOrifice{50.6, u(0.3, 0.8), 0.25}),
                                           as_way(BroadWeir{51.4, u(1, 5)})};
            const double peak = u(0.2, 1.5), rise = u(15, 50);
            std::vector<double> inflow;
            for (int i = 0; i < 500; ++i) {
                const double x = (i + 0.5) / rise;
                inflow.push_back(peak * std::pow(x * std::exp(1 - x), 4));
            }
            std::vector<std::vector<double>> below;
            if (n % 3 == 1) {  // water outside the lowest one, that rises and falls once
                below.resize(1);
                for (int i = 0; i < 300; ++i) below[0].push_back(50 + 0.8 * std::sin(M_PI * i / 300.0));
                ++held;
            }
            PondInput in;
            in.storage = &s;
            in.ways = ways;
            in.start_level = n % 4 == 0 ? 50.2 : 50;
            in.inflow = inflow;
            in.step = 60;
            in.below = below;
            if (n % 2) in.soakage = u(1e-6, 4e-5), ++soaking;
            const PondRoute r = route_pond(in);
            const Integrated e = integrate(in, 30);
            const auto near = [&](const char* what, double told, double exact, double within) {
                const bool same = std::abs(told - exact) <= within;
                if (!same) qInfo("%d %s: %.6g for %.6g", n, what, told, exact);
                return same;
            };
            const double came = r.inflow_volume;
            QVERIFY(near("peak", r.peak_outflow, e.peak_outflow, 1e-3 * e.peak_outflow));
            QVERIFY(near("time of the peak", r.peak_outflow_time, e.peak_time, 90));
            QVERIFY(near("level", r.peak_level, e.level, 2e-3));
            QVERIFY(near("time of the level", r.peak_level_time, e.level_time, 90));
            QVERIFY(near("most stored", r.most_stored, e.most, 2e-3 * e.most));
            QVERIFY(near("soaked", r.soaked, e.soaked, 2e-3 * came));
            QVERIFY(near("left", r.outflow_volume, e.left, 2e-3 * came));
            QVERIFY(near("stored", r.stored, e.stored, 2e-3 * came));
            QVERIFY(near("above its curve", r.above_curve, std::max(0.0, e.level - s.top()), 2e-3));
            over += r.above_curve > 0.01;
            QCOMPARE(r.drawdown > 0, e.drawdown > 0);
            if (e.drawdown > 0) {
                ++drained;
                QVERIFY(near("drawdown", r.drawdown, e.drawdown, 150 + 0.01 * e.drawdown));
            }
            double sum = 0;
            for (const double q : inflow) sum += q * 60;
            QVERIFY(near("came", came, sum, 1e-9 * sum));
            QVERIFY(near("balance", came - r.outflow_volume - r.soaked - r.stored, 0, 1e-6 * came));
            for (std::size_t w = 0; w < ways.size(); ++w) {
                double volume = 0;
                for (std::size_t i = 0; i < inflow.size(); ++i) volume += r.ways[w * inflow.size() + i] * 60;
                QVERIFY(near("volume of a way", volume, e.way_volumes[w], 3e-3 * came));
                QVERIFY(near("peak of a way", r.way_peaks[w], e.way_peaks[w], 2e-3 * e.peak_outflow));
            }
            for (std::size_t i = 0; i < inflow.size(); ++i)
                QVERIFY(near("outflow of a step", r.outflow[i], e.outflow[i], 0.02 * e.peak_outflow));
            QVERIFY(r.evaluations > 0);
        }
        QVERIFY2(drained >= 15 && soaking >= 20 && held >= 15 && over >= 2,
                 qPrintable(QString("%1 %2 %3 %4").arg(drained).arg(soaking).arg(held).arg(over)));
    }
    /// A rating's rows are the storage's own numbers and those of the ways, evenly from end to end.
    void a_rating_is_that_of_storage_and_ways() {
        const StageStorage s = basin(50, 30, 20, 2, 3);
        std::vector<WayOut> ways{as_way(CircularOrifice{50, 0.3}), as_way(BroadWeir{52, 3})};
        WayOut pump;
        pump.pump = true;
        pump.start = 51;
        pump.stop = 50.5;
        pump.pump_flow = 0.05;
        ways.push_back(pump);
        const auto rows = rating_of(s, ways, 50, 53, 13);
        QCOMPARE(rows.size(), std::size_t{13});
        for (std::size_t i = 0; i < rows.size(); ++i) {
            const double h = 50 + 0.25 * static_cast<double>(i);
            QVERIFY(std::abs(rows[i].level - h) < 1e-12);
            QVERIFY(std::abs(rows[i].area - s.area(h)) < 1e-9 && std::abs(rows[i].volume - s.volume(h)) < 1e-9);
            double sum = 0;
            for (const OutletFlow& f : rows[i].ways) sum += f.flow;
            QVERIFY(std::abs(sum - rows[i].outflow) < 1e-12);
            const double orifice = outlet_flow(std::get<Outlet>(ways[0].how), h, std::nan("")).flow,
                         weir = outlet_flow(std::get<Outlet>(ways[1].how), h, std::nan("")).flow;
            QVERIFY(std::abs(rows[i].outflow - orifice - weir - (h >= 51 ? 0.05 : 0)) < 1e-12);
        }
        const auto one = rating_of({}, ways, 51.5, 60, 1);
        QVERIFY(one.size() == 1 && one[0].level == 51.5 && one[0].area == 0 && one[0].volume == 0);
        QVERIFY(one[0].outflow > 0.05);
    }
};
QTEST_APPLESS_MAIN(TestRouting)
#include "test_routing.moc"
