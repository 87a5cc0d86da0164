// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <numeric>
#include <random>

#include "core/hydrology/losses.h"
#include "core/hydrology/unit_hydrograph.h"

using namespace culvert;

namespace {

constexpr double mm = 1e-3, hour = 3600, inch = 0.0254;
bool close(double a, double b, double within) {
    return std::abs(a - b) <= within * std::max({1.0, std::abs(a), std::abs(b)});
}
bool near(double a, double b, double share) { return std::abs(a - b) <= share * std::max(std::abs(a), std::abs(b)); }
LossTotals lose(const LossModel& l, const std::vector<double>& rain, double step, std::vector<double>& runoff) {
    runoff.assign(rain.size(), 0);
    return take_losses(l, rain, step, runoff);
}
double sum(const std::vector<double>& v) { return std::accumulate(v.begin(), v.end(), 0.0); }

}  // namespace

/// Losses and unit hydrographs against closed forms, hand calculations and an independent integration.
class TestLosses : public QObject {
    Q_OBJECT
  private slots:
    void every_loss_keeps_the_rain() {
        std::mt19937 random(3);
        const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        const LossModel models[] = {CurveNumberLoss{75, 0.2},
                                    CurveNumberLoss{92, 0.05},
                                    ConstantLoss{8 * mm, 3 * mm / hour},
                                    ProportionalLoss{5 * mm, 0.4},
                                    HortonLoss{60 * mm / hour, 5 * mm / hour, 3 / hour},
                                    GreenAmptLoss{4 * mm / hour, 50 * mm},
                                    HeldLoss{2 * mm}};
        for (int storm = 0; storm < 60; ++storm) {
            std::vector<double> rain(80), runoff;
            for (double& r : rain) r = uniform(0, 1) < 0.3 ? 0 : uniform(0, 6) * mm * uniform(0, 1);
            for (const LossModel& m : models) {
                const LossTotals t = lose(m, rain, 300, runoff);
                QVERIFY(close(t.rain, sum(rain), 1e-15) && close(t.runoff, sum(runoff), 1e-15));
                QVERIFY(std::abs(t.rain - t.runoff - t.infiltrated - t.held) < 1e-12);
                QVERIFY(t.infiltrated >= -1e-15 && t.held >= 0);
                for (std::size_t i = 0; i < rain.size(); ++i) QVERIFY(runoff[i] >= 0 && runoff[i] <= rain[i] + 1e-15);
            }
        }
    }
    /// CN 80: S = 2.5 in, 6 in of rain: (6 - 0.5)^2 / (6 + 2) = 3.78125 in, however the storm is cut into steps.
    void the_curve_number_is_that_by_hand() {
        const CurveNumberLoss l{80, 0.2};
        QVERIFY(close(retention(l), 2.5 * inch, 1e-14));
        QVERIFY(close(runoff_depth(l, 6 * inch), 3.78125 * inch, 1e-14));
        QCOMPARE(runoff_depth(l, 0.5 * inch), 0.0);
        std::vector<double> runoff;
        for (const int steps : {1, 7, 200}) {
            const LossTotals t =
                lose(l, std::vector<double>(static_cast<std::size_t>(steps), 6 * inch / steps), 60, runoff);
            QVERIFY(close(t.runoff, 3.78125 * inch, 1e-12) && close(t.held, 0.5 * inch, 1e-12));
        }
        // 1.33 x 2.5^1.15 = 3.8149 in; Ia = 0.1907 in
        const double s = 1.33 * std::pow(2.5, 1.15);
        QVERIFY(close(runoff_depth({80, 0.05}, 6 * inch), std::pow(6 - 0.05 * s, 2) / (6 + 0.95 * s) * inch, 1e-12));
        QCOMPARE(runoff_depth({100, 0.2}, 3 * mm), 3 * mm);
    }
    /// 10 mm in each of three steps of 10 min, 15 mm held first: the second step holds 5, and for the half of it that
    /// is left loses 12 mm/h x 5 min = 1 mm; the third loses 2 mm.
    void the_constant_loss_takes_the_rest_of_its_step() {
        std::vector<double> runoff;
        const LossTotals t = lose(ConstantLoss{15 * mm, 12 * mm / hour}, {10 * mm, 10 * mm, 10 * mm}, 600, runoff);
        QVERIFY(close(runoff[0], 0, 1e-15) && close(runoff[1], 4 * mm, 1e-12) && close(runoff[2], 8 * mm, 1e-12));
        QVERIFY(close(t.held, 15 * mm, 1e-12) && close(t.infiltrated, 3 * mm, 1e-12));
        lose(ProportionalLoss{15 * mm, 0.25}, {10 * mm, 10 * mm, 10 * mm}, 600, runoff);
        QVERIFY(close(runoff[1], 3.75 * mm, 1e-12) && close(runoff[2], 7.5 * mm, 1e-12));
        lose(HeldLoss{12 * mm}, {10 * mm, 10 * mm}, 600, runoff);
        QVERIFY(close(runoff[0], 0, 1e-15) && close(runoff[1], 8 * mm, 1e-12));
    }
    /// Heavy rain: what infiltrates is fc T + (f0 - fc)/k (1 - e^-kT). After a light rain the capacity is that of what
    /// was taken, not of the time that went by.
    void horton_goes_by_what_has_infiltrated() {
        const HortonLoss l{50 * mm / hour, 8 * mm / hour, 2 / hour};
        std::vector<double> runoff;
        const LossTotals t = lose(l, std::vector<double>(24, 20 * mm), 300, runoff);
        const auto all = [&](double h) { return 8 * mm * h + 42 * mm / 2 * (1 - std::exp(-2 * h)); };
        QVERIFY(close(t.infiltrated, all(2), 1e-12));
        // 5 mm fall in an hour, all taken: then as after the time that takes 5 mm at capacity.
        std::vector<double> rain(12, 5 * mm / 12);
        rain.push_back(40 * mm);
        lose(l, rain, 300, runoff);
        double low = 0, high = 1;
        for (int i = 0; i < 100; ++i) {
            const double m = (low + high) / 2;
            (all(m) < 5 * mm ? low : high) = m;
        }
        QVERIFY(close(sum(runoff), 40 * mm - (all(low + 1.0 / 12) - 5 * mm), 1e-9));
    }
    /// Steady rain ponds at t = K N / (i (i - K)); any storm, against steps of a hundredth of a second.
    void green_and_ampt_ponds_when_it_must() {
        const GreenAmptLoss l{6 * mm / hour, 80 * mm};
        const double i = 30 * mm / hour, ponding = l.conductivity * l.head / (i * (i - l.conductivity));
        std::vector<double> runoff;
        for (const double step : {60.0, 420.0}) {
            const auto n = static_cast<std::size_t>(3 * hour / step);
            lose(l, std::vector<double>(n, i * step), step, runoff);
            for (std::size_t k = 0; k < n; ++k)
                QVERIFY((runoff[k] > 1e-12) == (static_cast<double>(k + 1) * step > ponding + 1e-6));
        }
        std::mt19937 random(8);
        for (int storm = 0; storm < 6; ++storm) {
            std::vector<double> rain(24);
            for (double& r : rain) r = static_cast<double>(random() % 5) * 1.5 * mm;
            const LossTotals t = lose(l, rain, 300, runoff);
            double f = 1e-9;
            for (const double r : rain)
                for (int k = 0; k < 30000; ++k) {  // the middle of a small step, twice
                    const double rate = r / 300, dt = 0.01, f1 = std::min(rate, l.conductivity * (1 + l.head / f)),
                                 f2 = std::min(rate, l.conductivity * (1 + l.head / (f + f1 * dt)));
                    f += (f1 + f2) / 2 * dt;
                }
            QVERIFY2(std::abs(t.infiltrated - f) < 2e-7, qPrintable(QString::number(t.infiltrated - f)));
        }
    }

    /// Volume 1 exactly; with 484 the peak is 0.75 / tp (484 of 645.33) on fine steps; the gamma shape has the factor
    /// it is made for, by integration.
    void unit_hydrographs_have_unit_volume() {
        for (const double lag : {120.0, 700.0, 5000.0})
            for (const double step : {10.0, 60.0, 300.0})
                for (const double factor : {484.0, 100.0, 284.0, 550.0}) {
                    const auto u = unit_hydrograph(lag, step, factor);
                    QVERIFY(std::abs(sum(u) * step - 1) < 1e-12);
                    for (const double v : u) QVERIFY(v >= 0);
                }
        const auto u = unit_hydrograph(3600, 20);
        const double tp = 10 + 3600, peak = *std::max_element(u.begin(), u.end());
        QVERIFY2(near(peak * tp, 484 / 645.33, 0.003), qPrintable(QString::number(peak * tp)));
        const auto at = std::max_element(u.begin(), u.end()) - u.begin();
        QVERIFY(near(static_cast<double>(at + 1) * 20, tp, 0.01));
        for (const double factor : {150.0, 300.0, 484.0, 600.0}) {
            const double m = gamma_exponent(factor);
            double integral = 0;
            for (int i = 0; i < 400000; ++i) {
                const double x = (i + 0.5) * 1e-4;
                integral += std::pow(x * std::exp(1 - x), m) * 1e-4;
            }
            QVERIFY2(near(645.33 / integral, factor, 1e-4), qPrintable(QString::number(645.33 / integral)));
        }
        QVERIFY(unit_hydrograph(1, 3600).size() <= 8);  // a step far too long: all within a few
    }
    /// A triangle of base tb: flat (Qp - Qa)^2 tb / (2 Qp), rising Qp - Qa over half the base, wherever its peak
    /// stands.
    void required_volume_of_a_triangle() {
        for (const int peak_at : {20, 50, 80}) {
            const double qp = 2, step = 30;
            std::vector<double> flow;
            for (int i = 1; i <= 100; ++i)
                flow.push_back(i <= peak_at ? qp * i / peak_at : qp * (100 - i) / (100 - peak_at));
            for (int i = 0; i < 20; ++i) flow.push_back(0);
            const double base = 100 * step;
            for (const double qa : {0.1, 0.5, 1.7}) {
                QVERIFY(near(required_volume(flow, step, qa, ReleaseCut::Flat), (qp - qa) * (qp - qa) * base / (2 * qp),
                             1e-9));
                QVERIFY(near(required_volume(flow, step, qa, ReleaseCut::Rising), (qp - qa) * base / 2, 1e-9));
            }
            QCOMPARE(required_volume(flow, step, 2.5, ReleaseCut::Flat), 0.0);
            QVERIFY(near(required_volume(flow, step, 0, ReleaseCut::Flat), qp * base / 2, 1e-9));
        }
        QCOMPARE(required_volume({}, 60, 1, ReleaseCut::Flat), 0.0);
    }
};
QTEST_APPLESS_MAIN(TestLosses)
#include "test_losses.moc"
