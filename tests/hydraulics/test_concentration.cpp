// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <numeric>
#include <random>

#include "core/hydrology/concentration.h"
#include "core/hydrology/design_storm.h"
#include "core/hydrology/idf_fit.h"
#include "core/hydrology/land_covers.h"

using namespace culvert;

namespace {
constexpr double ft = 0.3048, inch = 0.0254;
bool close(double a, double b, double relative) {
    return std::abs(a - b) <= relative * std::max(std::abs(a), std::abs(b));
}
}  // namespace

/// Times of concentration by their printed forms, in the units they are printed in; equations through rain tables.
class TestConcentration : public QObject {
    Q_OBJECT
  private slots:
    void parts_are_the_printed_equations() {
        const IdfCurve none;
        // Sheet: 0.007 (nL)^0.8 / (P2^0.5 s^0.4) hours, 100 ft of dense grass at 1 %, P2 = 3.6 in.
        QVERIFY(close(travel_time(SheetFlow{100 * ft, 0.01, 0.24, 3.6 * inch}, none),
                      3600 * 0.007 * std::pow(24, 0.8) / (std::sqrt(3.6) * std::pow(0.01, 0.4)), 1e-12));
        QVERIFY(close(velocity(ShallowFlow{200, 0.02, false}, none), 16.13 * std::sqrt(0.02) * ft, 1e-12));
        QVERIFY(close(velocity(ShallowFlow{200, 0.02, true}, none), 20.33 * std::sqrt(0.02) * ft, 1e-12));
        QVERIFY(close(velocity(ChannelFlow{100, 0.005, 0.03, 0.4}, none),
                      std::pow(0.4, 2.0 / 3) * std::sqrt(0.005) / 0.03, 1e-12));
        QCOMPARE(travel_time(EnteredTime{420}, none), 420.0);
        QVERIFY(
            close(kirpich_time(1000 * ft, 0.01), 60 * 0.0078 * std::pow(1000, 0.77) * std::pow(0.01, -0.385), 1e-12));
        QVERIFY(close(faa_time(0.6, 400 * ft, 0.02), 60 * 1.8 * 0.5 * 20 / std::cbrt(2.0), 1e-12));
        // Without fall there is no time.
        for (const FlowPart& p : {FlowPart{SheetFlow{30, 0, 0.1, 0.08}}, FlowPart{ShallowFlow{30, 0, true}},
                                  FlowPart{ChannelFlow{30, -0.01, 0.03, 0.3}}})
            QVERIFY(std::isnan(travel_time(p, none)));
        QVERIFY(std::isnan(kirpich_time(100, 0)) && std::isnan(faa_time(0.5, 100, 0)));
    }
    void a_kinematic_wave_agrees_with_its_own_rain() {
        const std::vector<double> d{300, 600, 1800, 3600}, i{4e-5, 3e-5, 1.5e-5, 9e-6};
        const IdfCurve rain(d, i);
        for (const double length : {5.0, 20.0, 60.0})
            for (const double uplift : {1.0, 1.3}) {
                const double t = travel_time(WaveFlow{length, 0.01, 0.1}, rain, uplift);
                const double mm_h = rain.intensity(t) * uplift * 3.6e6;
                QVERIFY(
                    close(t / 60, 6.92 / std::pow(mm_h, 0.4) * std::pow(0.1 * length / std::sqrt(0.01), 0.6), 1e-9));
            }
        QVERIFY(travel_time(WaveFlow{20, 0.01, 0.1}, rain, 1.3) < travel_time(WaveFlow{20, 0.01, 0.1}, rain));
    }
    void an_equation_is_found_again() {
        std::mt19937_64 random(3);
        std::uniform_real_distribution<double> unit(0, 1);
        const std::vector<double> t{5, 10, 15, 30, 60, 120, 360, 1440};
        for (int k = 0; k < 60; ++k) {
            const double a = 300 + 2000 * unit(random), b = k % 5 == 0 ? 0 : 25 * unit(random),
                         c = 0.6 + 0.35 * unit(random);
            std::vector<double> i;
            for (const double d : t) i.push_back(a / std::pow(d + b, c));
            const IdfFit fit = fit_idf(t, i);
            QVERIFY(fit.ok && close(fit.c, c, 1e-5) && std::abs(fit.b - b) < 1e-4 && close(fit.a, a, 1e-4));
            QVERIFY(std::abs(fit.worst) < 1e-6);
        }
    }
    /// No other b, looked for in small steps, has smaller squares; each residual is equation over table less 1.
    void the_fit_is_the_best_of_all_b() {
        const std::vector<double> t{5, 10, 15, 30, 60, 120}, i{142, 106, 86, 55, 33, 19.5};
        const IdfFit fit = fit_idf(t, i);
        const auto squares = [&](double a, double b, double c) {
            double s = 0;
            for (std::size_t k = 0; k < t.size(); ++k)
                s += std::pow(std::log(i[k]) - std::log(a / std::pow(t[k] + b, c)), 2);
            return s;
        };
        const double best = squares(fit.a, fit.b, fit.c);
        for (double b = 0; b < 60; b += 0.05)
            for (const double c : {fit.c * 0.98, fit.c, fit.c * 1.02}) {
                double mean = 0;
                for (std::size_t k = 0; k < t.size(); ++k)
                    mean += (std::log(i[k]) + c * std::log(t[k] + b)) / static_cast<double>(t.size());
                QVERIFY(squares(std::exp(mean), b, c) >= best - 1e-12);
            }
        for (std::size_t k = 0; k < t.size(); ++k)
            QVERIFY(close(1 + fit.residuals[k], fit.intensity(t[k]) / i[k], 1e-12));
        double worst = 0, squared = 0;
        for (const double r : fit.residuals) {
            if (std::abs(r) > std::abs(worst)) worst = r;
            squared += r * r;
        }
        QVERIFY(worst != 0 && fit.worst == worst);
        QVERIFY(close(fit.root_mean_square, std::sqrt(squared / 6), 1e-12));
        // One value off the line: it is the worst, whichever it is.
        for (const std::size_t off : {0, 3, 5}) {
            std::vector<double> bad;
            for (const double d : t) bad.push_back(1000 / std::pow(d + 8, 0.8));
            bad[off] *= 1.15;
            const IdfFit f = fit_idf(t, bad);
            for (const double r : f.residuals) QVERIFY(std::abs(r) <= std::abs(f.worst));
        }
        QVERIFY(!fit_idf(std::vector<double>{5, 10}, std::vector<double>{90, 60}).ok);
        QVERIFY(!fit_idf(std::vector<double>{5, 5, 10}, std::vector<double>{90, 80, 60}).ok);
    }
    void the_library_of_land_covers_is_in_order() {
        for (const LandCoverKind& k : land_cover_kinds()) {
            QVERIFY(k.c_low >= 0 && k.c_low < k.c_high && k.c_high <= 1 && k.impervious >= 0 && k.impervious <= 1 &&
                    k.sheet_n > 0);
            for (std::size_t i = 1; i < 4; ++i)
                QVERIFY(k.curve_number[i] >= k.curve_number[i - 1] && k.curve_number[i] <= 98);
            QCOMPARE(land_cover_kind(k.name), &k);
        }
        QCOMPARE(land_cover_kind("moon dust"), nullptr);
    }
    void storms_hold_their_depth() {
        const double a = 1e-3, b = 600, c = 0.8;
        for (const double step : {60.0, 300.0, 700.0})
            for (const double peak : {0.0, 0.375, 0.5, 1.0}) {
                const auto storm = keifer_chu(a, b, c, peak, step, 24);
                const double whole = 24 * step, depth = a * whole / std::pow(whole + b, c);
                QVERIFY(close(std::accumulate(storm.begin(), storm.end(), 0.0), depth, 1e-12));
                for (const double block : storm) QVERIFY(block > 0);
                // The heaviest window of any length holds no more than the equation gives for it.
                for (std::size_t k = 1; k <= storm.size(); ++k)
                    for (std::size_t at = 0; at + k <= storm.size(); ++at) {
                        const double t = static_cast<double>(k) * step;
                        QVERIFY(std::accumulate(storm.begin() + static_cast<std::ptrdiff_t>(at),
                                                storm.begin() + static_cast<std::ptrdiff_t>(at + k),
                                                0.0) <= a * t / std::pow(t + b, c) * (1 + 1e-12));
                    }
            }
        for (const Nrcs24 type : {Nrcs24::TypeI, Nrcs24::TypeIA, Nrcs24::TypeII, Nrcs24::TypeIII})
            for (const double step : {300.0, 360.0, 1000.0, 86400.0}) {
                const auto storm = nrcs_storm(type, 0.12, step);
                QVERIFY(close(std::accumulate(storm.begin(), storm.end(), 0.0), 0.12, 1e-12));
                for (const double block : storm) QVERIFY(block >= 0);
            }
        QCOMPARE(nrcs_share(Nrcs24::TypeII, 43200), 0.663);
        const auto even = uniform_storm(0.05, 10);
        QCOMPARE(even.size(), std::size_t{10});
        QVERIFY(close(even[3], 0.005, 1e-12));
    }
};

QTEST_GUILESS_MAIN(TestConcentration)
#include "test_concentration.moc"
