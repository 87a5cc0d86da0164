// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/hydrology/design_storm.h"
#include "core/model/event_rain.h"

using namespace culvert;

namespace {
bool close(double a, double b, double within = 1e-12) {
    return std::abs(a - b) <= within * std::max(std::abs(a), std::abs(b));
}
RainEvent storm(RainGiven given, double depth, double length, std::vector<double> shares = {}) {
    RainEvent e;
    e.given = given;
    e.depth = depth;
    e.storm_length = length;
    e.pattern_shares = std::move(shares);
    return e;
}
}  // namespace

/// Events given as a depth with a pattern: what falls in the heaviest window of each length.
class TestEventRain : public QObject {
    Q_OBJECT
    std::string said;
  private slots:
    void uniform_rain_has_one_intensity() {
        const RainEvent e = storm(RainGiven::Uniform, 0.036, 3600);
        const EventRainTable t = rain_table_of(e);
        QVERIFY(t.durations.size() > 5 && close(t.durations.back(), 3600) && close(t.durations.front(), 300));
        for (const double i : t.intensities) QVERIFY(close(i, 1e-5));
    }
    void windows_are_those_of_every_start_tried() {
        std::mt19937 dice(5);
        std::uniform_real_distribution<double> share(0, 1);
        for (int round = 0; round < 60; ++round) {
            std::vector<double> shares(1 + dice() % 90);
            for (double& s : shares) s = dice() % 4 ? std::pow(share(dice), 3) : 0;
            shares[dice() % shares.size()] += 0.2;
            const RainEvent e = storm(RainGiven::OwnPattern, 0.05, 600 * double(shares.size()), shares);
            const EventStorm s = storm_of(e);
            QVERIFY(close(s.step, 600));
            double sum = 0;
            for (const double d : s.depths) sum += d;
            QVERIFY(close(sum, 0.05));  // depth is kept
            const EventRainTable t = rain_table_of(e);
            QVERIFY(idf_fault(t.durations, t.intensities).empty());  // a table like any other
            for (std::size_t k = 0; k < t.durations.size(); ++k) {
                const auto n = static_cast<std::size_t>(std::lround(t.durations[k] / s.step));
                double most = 0;
                for (std::size_t i = 0; i + n <= s.depths.size(); ++i) {
                    double fell = 0;
                    for (std::size_t j = i; j < i + n; ++j) fell += s.depths[j];
                    most = std::max(most, fell);
                }
                // Never less than the heaviest window; more only where a longer one is denser.
                QVERIFY(t.intensities[k] >= most / t.durations[k] * (1 - 1e-12));
                if (k + 1 == t.durations.size() || t.intensities[k] > t.intensities[k + 1] * (1 + 1e-12))
                    QVERIFY(close(t.intensities[k], most / t.durations[k], 1e-9));
            }
            QVERIFY(close(t.intensities.back() * t.durations.back(), 0.05, 1e-9));
        }
    }
    /// Parts up to times of their own: each falls evenly between its ends, whatever the steps, and all of it.
    void a_pattern_with_its_own_times() {
        RainEvent e = storm(RainGiven::OwnPattern, 0.03, not_given, {2, 6, 1, 0, 1});
        e.pattern_times = {600, 900, 1500, 3000, 3300};
        QVERIFY2(event_rain_fault(e).empty(), event_rain_fault(e).c_str());
        const EventStorm s = storm_of(e);
        QVERIFY(close(s.step * static_cast<double>(s.depths.size()), 3300) && s.step <= 300);
        // By hand: what has fallen by a time, straight between the times.
        const auto fallen = [](double t) {
            const double times[] = {0, 600, 900, 1500, 3000, 3300}, by[] = {0, 2, 8, 9, 9, 10};
            int i = 0;
            while (i < 4 && t > times[i + 1]) ++i;
            return 0.03 / 10 * (by[i] + (by[i + 1] - by[i]) * (t - times[i]) / (times[i + 1] - times[i]));
        };
        double sum = 0;
        for (std::size_t k = 0; k < s.depths.size(); ++k) {
            sum += s.depths[k];
            QVERIFY(std::abs(sum - fallen(static_cast<double>(k + 1) * s.step)) < 1e-12);
        }
        // The heaviest five minutes are those of the second part.
        const EventRainTable t = rain_table_of(e);
        QVERIFY(close(t.durations.front(), 300, 1e-9) && close(t.intensities.front(), 0.03 * 0.6 / 300, 1e-9));
        // Equal steps given as times are the equal steps.
        RainEvent even = storm(RainGiven::OwnPattern, 0.03, 1200, {1, 3, 2, 1}), timed = even;
        timed.pattern_times = {300, 600, 900, 1200};
        const EventStorm a = storm_of(even), b = storm_of(timed);
        QVERIFY(close(a.step, b.step) && a.depths.size() == b.depths.size());
        for (std::size_t i = 0; i < a.depths.size(); ++i) QVERIFY(close(a.depths[i], b.depths[i], 1e-12));
        // Thousands of uneven parts keep their depth.
        std::mt19937 dice(8);
        RainEvent many = storm(RainGiven::OwnPattern, 0.08, not_given);
        double at = 0;
        for (int i = 0; i < 9000; ++i) {
            many.pattern_shares.push_back(static_cast<double>(dice() % 5));
            many.pattern_times.push_back(at += 1 + static_cast<double>(dice() % 40));
        }
        double whole = 0;
        for (const double d : storm_of(many).depths) {
            QVERIFY(d >= -1e-15);
            whole += d;
        }
        QVERIFY(close(whole, 0.08, 1e-9));
    }
    void times_at_fault_are_named() {
        const auto fault = [this](std::vector<double> times) {
            RainEvent e = storm(RainGiven::OwnPattern, 0.03, not_given, {1, 2, 1});
            e.pattern_times = std::move(times);
            QVERIFY(storm_of(e).depths.empty() || event_rain_fault(e).empty());
            said = event_rain_fault(e);
        };
        fault({300, 600});
        QVERIFY(said.find("3 parts and 2 times") != std::string::npos);
        fault({300, 300, 600});
        QVERIFY(said.find("time 2") != std::string::npos && said.find("again") != std::string::npos);
        fault({300, 200, 600});
        QVERIFY(said.find("time 2") != std::string::npos);
        fault({0, 200, 600});
        QVERIFY(said.find("time 1") != std::string::npos);
        fault({300, not_given, 600});
        QVERIFY(said.find("time 2") != std::string::npos);
        fault({300, 600, 1e12});
        QVERIFY(!said.empty());
        fault({300, 600, 900});
        QVERIFY(said.empty());
    }
    void the_curves_of_a_day_hold_their_depth_and_peak() {
        for (const RainGiven g : {RainGiven::NrcsI, RainGiven::NrcsIA, RainGiven::NrcsII, RainGiven::NrcsIII}) {
            const auto type = static_cast<Nrcs24>(static_cast<int>(g) - static_cast<int>(RainGiven::NrcsI));
            const EventRainTable t = rain_table_of(storm(g, 0.1, not_given));
            QVERIFY(close(t.durations.back(), 86400) && close(t.intensities.back() * 86400, 0.1, 1e-9));
            // The steepest rise of the curve over five minutes.
            double most = 0;
            for (double at = 0; at < 86400; at += 300)
                most = std::max(most, nrcs_share(type, at + 300) - nrcs_share(type, at));
            QVERIFY(close(t.intensities.front(), 0.1 * most / 300, 1e-9));
        }
    }
    void what_is_missing_is_said() {
        QVERIFY(event_rain_fault(storm(RainGiven::Uniform, 0.05, 3600)).empty());
        QVERIFY(event_rain_fault(storm(RainGiven::NrcsII, 0.05, not_given)).empty());  // they last a day
        for (const RainEvent& e :
             {storm(RainGiven::Uniform, not_given, 3600), storm(RainGiven::Uniform, 0, 3600),
              storm(RainGiven::Uniform, 0.05, not_given), storm(RainGiven::Uniform, 0.05, 0),
              storm(RainGiven::OwnPattern, 0.05, 3600), storm(RainGiven::OwnPattern, 0.05, 3600, {0, 0}),
              storm(RainGiven::OwnPattern, 0.05, 3600, {1, -1}),
              storm(RainGiven::OwnPattern, 0.05, 3600, {1, std::nan("")}), storm(RainGiven::Uniform, 1, 60),
              storm(RainGiven::Uniform, 1e300, 1e7)}) {
            QVERIFY(!event_rain_fault(e).empty());
            QVERIFY(rain_table_of(e).durations.empty() && storm_of(e).depths.empty());
        }
    }
};

QTEST_GUILESS_MAIN(TestEventRain)
#include "test_event_rain.moc"
