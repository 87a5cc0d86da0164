// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/least_cost.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"

namespace culvert {
namespace {

constexpr double slack = 1e-7;

/// A way to lay all up to the end of a pipe.
struct Arrival {
    double level, cost, start;
    int size;
};
/// Falling level, falling cost: whatever arrives lower is cheaper.
using List = std::vector<Arrival>;

/// Keeps what no other beats in level, cost and size, and of each size not more than so many.
/// @param mixed  a smaller size that arrives as high and costs no more is as good as a larger one (so it is unless the
///               pipe below is laid by more than inverts)
void prune(List& list, std::size_t sizes, bool mixed) {
    std::sort(list.begin(), list.end(), [](const Arrival& a, const Arrival& b) {
        return a.level != b.level ? a.level > b.level : (a.cost != b.cost ? a.cost < b.cost : a.size < b.size);
    });
    std::vector<double> cheapest(sizes, 1e300);
    std::size_t kept = 0;
    for (const Arrival& a : list) {
        bool beaten = cheapest[static_cast<std::size_t>(a.size)] <= a.cost + 1e-9;
        for (int d = 0; mixed && d < a.size; ++d) beaten |= nth(cheapest, d) <= a.cost + 1e-9;
        if (beaten) continue;
        nth(cheapest, a.size) = a.cost;
        list[kept++] = a;
    }
    list.resize(kept);
    if (kept <= longest_list) return;
    List fewer;  // of each size evenly by level; its cheapest is always among them
    const double step =
        (list.front().level - list.back().level) * static_cast<double>(sizes) / static_cast<double>(longest_list);
    std::vector<double> last(sizes, 1e300);
    for (const Arrival& a : list)
        if (nth(last, a.size) - a.level >= step || a.cost <= nth(cheapest, a.size) + 1e-9) {
            nth(last, a.size) = a.level;
            fewer.push_back(a);
        }
    list = std::move(fewer);
}

/// What enters by one pipe, by the highest start that it allows, falling; with the cheapest of all that allow as much.
struct Entering {
    std::vector<std::pair<double, double>> start_cost;
    /// Cost of the cheapest that allows a start; infinite where nothing does.
    [[nodiscard]] double cost(double start) const {
        const auto at = std::partition_point(start_cost.begin(), start_cost.end(),
                                             [&](const auto& e) { return e.first >= start - slack; });
        return at == start_cost.begin() ? 1e300 : std::prev(at)->second;
    }
};

class Search {
  public:
    explicit Search(std::span<const CostPipe> pipes) : pipes_(pipes), lists_(pipes.size()), above_(pipes.size()) {
        for (std::size_t i = 0; i < pipes.size(); ++i)
            if (pipes[i].below >= 0) nth(above_, pipes[i].below).push_back(static_cast<int>(i));
    }
    LeastCost run() {
        LeastCost out{std::vector<int>(pipes_.size(), -1), 0};
        for (std::size_t i = 0; i < pipes_.size(); ++i) arrive(static_cast<int>(i));
        for (std::size_t i = 0; i < pipes_.size(); ++i) {
            if (pipes_[i].below >= 0) continue;
            const Arrival* best = nullptr;
            for (const Arrival& a : lists_[i])
                if (!best || a.cost < best->cost) best = &a;
            if (!best) continue;
            out.cost += best->cost;
            read_back(static_cast<int>(i), *best, out);
        }
        return out;
    }

  private:
    /// The highest start that an arrival allows below it.
    [[nodiscard]] double start_below(int above, const Arrival& a, const CostPipe& pipe, double size) const {
        const double height = nth(nth(pipes_, above).sizes, a.size).size;
        return std::min(a.level - pipe.drop, a.level + pipe.share * (height - size));
    }
    /// The cheapest of what enters by one pipe and allows a start with a size; null where nothing does.
    [[nodiscard]] const Arrival* cheapest(int above, const CostPipe& pipe, double start, double size) const {
        const Arrival* best = nullptr;
        for (const Arrival& a : nth(lists_, above)) {
            if (nth(nth(pipes_, above).sizes, a.size).size > size + 1e-9) continue;  // never smaller downstream
            if (start_below(above, a, pipe, size) < start - slack) continue;
            if (!best || a.cost < best->cost) best = &a;
        }
        return best;
    }

    void arrive(int i) {
        const CostPipe& pipe = nth(pipes_, i);
        List& list = nth(lists_, i);
        std::vector<double> starts;
        for (int s = 0; s < static_cast<int>(pipe.sizes.size()); ++s) {
            const CostSize& size = nth(pipe.sizes, s);
            if (!(size.least_slope <= size.most_slope)) continue;
            const double cap = pipe.fixed_up ? pipe.up : pipe.rim_up - size.above;
            const double end_cap = pipe.covered_below ? pipe.rim_down - size.above : 1e300;
            starts.assign(1, cap);
            entering_.clear();
            for (const int above : nth(above_, i)) entering_.push_back(entering(above, pipe, size.size));
            if (!pipe.fixed_up) {
                for (const Entering& in : entering_)
                    for (const auto& [u, cost] : in.start_cost)
                        if (u < cap) starts.push_back(u);
                // Lowered so that it is not too steep to its end.
                const double end = pipe.fixed_down ? pipe.down : end_cap;
                if (end < 1e299 && end + size.most_slope * pipe.length < cap)
                    starts.push_back(end + size.most_slope * pipe.length);
                std::sort(starts.begin(), starts.end());
                starts.erase(std::unique(starts.begin(), starts.end()), starts.end());
            }
            for (const double start : starts) lay(i, s, start, end_cap, list);
        }
        prune(list, pipe.sizes.size(), pipe.below < 0 || nth(pipes_, pipe.below).share == 0);
    }
    [[nodiscard]] Entering entering(int above, const CostPipe& pipe, double size) const {
        Entering in;
        for (const Arrival& a : nth(lists_, above))
            if (nth(nth(pipes_, above).sizes, a.size).size <= size + 1e-9)  // never smaller downstream
                in.start_cost.emplace_back(start_below(above, a, pipe, size), a.cost);
        std::sort(in.start_cost.begin(), in.start_cost.end(),
                  [](auto& a, auto& b) { return a.first != b.first ? a.first > b.first : a.second < b.second; });
        double least = 1e300;
        for (auto& [start, cost] : in.start_cost) cost = least = std::min(least, cost);
        return in;
    }
    void lay(int i, int s, double start, double end_cap, List& list) {
        const CostPipe& pipe = nth(pipes_, i);
        const CostSize& size = nth(pipe.sizes, s);
        const double end = pipe.fixed_down ? pipe.down : std::min(end_cap, start - size.least_slope * pipe.length);
        const double slope = (start - end) / pipe.length;
        if (slope < size.least_slope - slack || slope > size.most_slope + slack) return;
        const double deep_up = pipe.rim_up - start,
                     deep_down = std::isnan(pipe.rim_down) ? deep_up : pipe.rim_down - end;
        if (deep_up > pipe.most_depth + slack) return;
        double cost = size.price * pipe.length + pipe.dig_price * size.width * pipe.length *
                                                     std::max(0.0, (deep_up + deep_down) / 2 + size.bottom);
        for (const Entering& in : entering_) {
            cost += in.cost(start);
            if (!(cost < 1e299)) return;
        }
        list.push_back({end, cost, start, s});
    }
    void read_back(int root, Arrival chosen, LeastCost& out) {
        std::vector<std::pair<int, Arrival>> todo{{root, chosen}};
        while (!todo.empty()) {
            const auto [i, a] = todo.back();
            todo.pop_back();
            nth(out.size, i) = a.size;
            const CostPipe& pipe = nth(pipes_, i);
            for (const int above : nth(above_, i))
                if (const Arrival* in = cheapest(above, pipe, a.start, nth(pipe.sizes, a.size).size))
                    todo.emplace_back(above, *in);
        }
    }

    std::span<const CostPipe> pipes_;
    std::vector<List> lists_;
    std::vector<std::vector<int>> above_;
    std::vector<Entering> entering_;  ///< of the pipe and size that is looked at
};

}  // namespace

LeastCost least_cost(std::span<const CostPipe> pipes) { return Search(pipes).run(); }

}  // namespace culvert
