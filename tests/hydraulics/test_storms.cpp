// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <numeric>

#include "core/hydrology/design_storm.h"

using namespace culvert;

/// Storms made of intensity curves: depths are conserved, and every duration is nested about the peak.
class TestStorms : public QObject {
    Q_OBJECT
    static IdfCurve curve() {  // as tables are: corners at its durations
        const std::vector<double> d{300, 600, 1800, 3600, 7200}, i{4e-5, 3e-5, 1.5e-5, 9e-6, 5.5e-6};
        return {d, i};
    }
    static IdfCurve power() {  // i = a d^-0.7: each step adds less than the one before
        const std::vector<double> d{60, 7200}, i{1e-4, 1e-4 * std::pow(120, -0.7)};
        return {d, i};
    }

  private slots:
    void the_heaviest_steps_hold_the_depth_of_their_duration() {
        for (const bool cornered : {false, true})
            for (const auto& [step, n] :
                 {std::pair{60.0, 1}, {60.0, 2}, {60.0, 3}, {60.0, 24}, {300.0, 8}, {300.0, 24}, {450.0, 16}}) {
                const IdfCurve c = cornered ? curve() : power();
                const auto storm = alternating_blocks(c, step, n);
                QCOMPARE(storm.size(), static_cast<std::size_t>(n));
                const double whole = std::accumulate(storm.begin(), storm.end(), 0.0);
                QVERIFY(std::abs(whole - c.intensity(n * step) * n * step) < 1e-15);
                // Some k neighbours hold P(k), and none hold more: searched among all windows, not where they were put.
                for (int k = 1; k <= n; ++k) {
                    double most = 0;
                    for (int at = 0; at + k <= n; ++at)
                        most = std::max(most, std::accumulate(storm.begin() + at, storm.begin() + at + k, 0.0));
                    const double wanted = c.intensity(k * step) * k * step;
                    QVERIFY2(cornered ? most > wanted - 1e-15 && most < wanted * 1.05 : std::abs(most - wanted) < 1e-15,
                             qPrintable(QString("%1 of %2: %3 for %4").arg(k).arg(n).arg(most).arg(wanted)));
                }
            }
    }
    void the_peak_stands_in_the_middle_and_both_sides_fall() {
        const auto storm = alternating_blocks(curve(), 300, 9);
        const auto peak = std::max_element(storm.begin(), storm.end());
        QCOMPARE(peak - storm.begin(), std::ptrdiff_t{4});
        QVERIFY(std::is_sorted(storm.begin(), peak + 1));
        QVERIFY(std::is_sorted(peak, storm.end(), [](double a, double b) { return a > b; }));
    }
};

QTEST_GUILESS_MAIN(TestStorms)
#include "test_storms.moc"
