// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <chrono>
#include <cmath>
#include <random>

#include "core/design/least_cost.h"

using namespace culvert;

namespace {

std::vector<CostPipe> random_tree(std::mt19937& dice, int count, int sizes) {
    std::uniform_real_distribution<double> share(0, 1);
    std::vector<CostPipe> pipes(static_cast<std::size_t>(count));
    const double matching = dice() % 3 ? 0 : std::array{0.5, 0.8, 1.0}[dice() % 3];
    for (int i = 0; i < count; ++i) {
        CostPipe& p = pipes[static_cast<std::size_t>(i)];
        p.below =
            i + 1 < count ? i + 1 + static_cast<int>(dice() % std::min(2u, static_cast<unsigned>(count - 1 - i))) : -1;
        p.length = 30 + 60 * share(dice);
        p.rim_up = 20 + 3 * share(dice) - 0.3 * i;
        p.drop = dice() % 2 ? 0.03 : 0;
        p.share = matching;
        p.dig_price = 40;
        if (dice() % 3 == 0) p.most_depth = 3.5;
        for (int s = 0; s < sizes; ++s) {
            CostSize c;
            c.size = 0.3 + 0.15 * s + (s > 3 ? 0.15 * (s - 3) : 0);
            c.above = 0.9 + 0.06 + c.size;
            c.least_slope = 0.012 * share(dice) / (1 + s) / (1 + s) + (dice() % 9 == 0 ? 0.2 : 0.001);
            c.most_slope = dice() % 4 ? 0.1 : 0.008;
            c.price = 250 * c.size + 20 * share(dice);
            c.width = c.size + 0.72;
            c.bottom = 0.16;
            p.sizes.push_back(c);
        }
    }
    for (int i = 0; i < count; ++i) {
        CostPipe& p = pipes[static_cast<std::size_t>(i)];
        p.covered_below = p.below >= 0;
        p.rim_down = p.below >= 0 ? pipes[static_cast<std::size_t>(p.below)].rim_up : p.rim_up - 1;
    }
    return pipes;
}

/// The cost of given sizes, each pipe as high as it may lie; infinite where they break a limit.
double cost_of(const std::vector<CostPipe>& pipes, const std::vector<int>& chosen) {
    std::vector<double> ends(pipes.size(), 0);
    double cost = 0;
    for (std::size_t i = 0; i < pipes.size(); ++i) {
        const CostPipe& p = pipes[i];
        const CostSize& s = p.sizes[static_cast<std::size_t>(chosen[i])];
        double up = p.rim_up - s.above;
        for (std::size_t j = 0; j < i; ++j)
            if (pipes[j].below == static_cast<int>(i)) {
                const double above = pipes[j].sizes[static_cast<std::size_t>(chosen[j])].size;
                if (above > s.size + 1e-9) return 1e300;
                up = std::min({up, ends[j] - p.drop, ends[j] + p.share * (above - s.size)});
            }
        const double cap = p.covered_below ? p.rim_down - s.above : 1e300;
        ends[i] = std::min(cap, up - s.least_slope * p.length);
        if (up - ends[i] > s.most_slope * p.length) up = ends[i] + s.most_slope * p.length;
        if (s.least_slope > s.most_slope || p.rim_up - up > p.most_depth + 1e-7) return 1e300;
        cost += s.price * p.length +
                p.dig_price * s.width * p.length * ((p.rim_up - up + p.rim_down - ends[i]) / 2 + s.bottom);
    }
    return cost;
}

}  // namespace

/// Least cost over sizes and levels: against trying every combination of sizes.
class TestLeastCost : public QObject {
    Q_OBJECT
  private slots:
    void it_is_that_of_every_combination_tried() {
        std::mt19937 dice(7);
        int found = 0, none = 0, dearer_greedy = 0;
        for (int round = 0; round < 400; ++round) {
            const int count = 1 + static_cast<int>(dice() % 6), sizes = 2 + static_cast<int>(dice() % 3);
            const auto pipes = random_tree(dice, count, sizes);
            double best = 1e300;
            std::vector<int> chosen(pipes.size(), 0);
            for (;;) {
                best = std::min(best, cost_of(pipes, chosen));
                std::size_t k = 0;
                while (k < chosen.size() && ++chosen[k] == sizes) chosen[k++] = 0;
                if (k == chosen.size()) break;
            }
            const LeastCost least = least_cost(pipes);
            if (best > 1e299) {
                QVERIFY(std::find(least.size.begin(), least.size.end(), -1) != least.size.end());
                ++none;
                continue;
            }
            ++found;
            QVERIFY2(std::abs(least.cost - best) <= 1e-6 * best,
                     qPrintable(QString("round %1: %2, tried %3").arg(round).arg(least.cost).arg(best)));
            QVERIFY(std::abs(cost_of(pipes, least.size) - best) <= 1e-6 * best);  // and its sizes give it
            // The smallest sizes that will do are not always the cheapest together.
            std::vector<int> small(pipes.size(), 0);
            for (std::size_t i = 0; i < pipes.size(); ++i)
                for (std::size_t j = 0; j < i; ++j)
                    if (pipes[j].below == static_cast<int>(i)) small[i] = std::max(small[i], small[j]);
            dearer_greedy += cost_of(pipes, small) > best * 1.001;
        }
        QVERIFY(found > 200 && none > 5 && dearer_greedy > 50);
    }
    /// A larger pipe above arrives higher and cheaper, but nothing smaller may follow it: the smaller one must not be
    /// lost.
    void a_smaller_dearer_arrival_is_kept_for_what_may_follow_it() {
        const auto size = [](double d, double slope, double price) {
            return CostSize{d, 1 + d, slope, 0.1, price, d + 0.7, 0.15};
        };
        CostPipe above, below;
        above.below = 1;
        above.length = below.length = 50;
        above.rim_up = above.rim_down = below.rim_up = below.rim_down = 20;
        above.dig_price = below.dig_price = 1;
        below.covered_below = false;
        above.sizes = {size(0.3, 0.02, 100), size(0.6, 0.001, 50)};
        below.sizes = {size(0.3, 0.002, 10), size(0.6, 0.002, 1000)};
        const CostPipe pipes[] = {above, below};
        QCOMPARE(least_cost(pipes).size, (std::vector<int>{0, 0}));
    }
    void a_fixed_end_is_met() {
        std::mt19937 dice(9);
        auto pipes = random_tree(dice, 3, 4);
        for (CostPipe& p : pipes) p.most_depth = 1e300;
        pipes[2].fixed_down = true;
        pipes[2].down = pipes[2].rim_up - 4;
        const LeastCost deep = least_cost(pipes);
        QVERIFY(deep.size[2] >= 0);
        pipes[2].down = pipes[2].rim_up + 1;  // above where it starts
        QCOMPARE(least_cost(pipes).size[2], -1);
    }
    /// Long trees stay quick, and near the cost of lists that are not thinned is not asked: only that it is a design.
    void ten_thousand_pipes_take_seconds_at_most() {
        std::mt19937 dice(11);
        auto pipes = random_tree(dice, 10000, 10);
        for (std::size_t i = 0; i < pipes.size(); ++i) {
            CostPipe& p = pipes[i];
            p.most_depth = 1e300;
            p.rim_up = 1000 - 0.05 * static_cast<double>(i);
            for (CostSize& s : p.sizes) s.most_slope = 0.3, s.least_slope = std::min(s.least_slope, 0.004);
        }
        for (CostPipe& p : pipes)
            p.rim_down = p.below >= 0 ? pipes[static_cast<std::size_t>(p.below)].rim_up : p.rim_up - 1;
        const auto start = std::chrono::steady_clock::now();
        const LeastCost least = least_cost(pipes);
        const double took = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        QVERIFY(std::find(least.size.begin(), least.size.end(), -1) == least.size.end());
        QVERIFY(cost_of(pipes, least.size) < 1e299);
        QVERIFY2(took < 20, qPrintable(QString("%1 s").arg(took)));
    }
};

QTEST_GUILESS_MAIN(TestLeastCost)
#include "test_least_cost.moc"
