// SPDX-License-Identifier: GPL-3.0-or-later
// The order in which water runs through time: streets, pipes and ponds, each after all that brings it water.
#include <algorithm>

#include "core/base/contract.h"
#include "core/network/network.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

/// Places are nodes, for the water in pipes and ponds, and behind them the inlets that a spill can reach, for that on
/// the street: 0 .. n - 1, and n + inlet. All other inlets come first, in their order: nothing but streets leads to
/// them.
class WaterOrder {
  public:
    WaterOrder(const Project& project, Network& network, ThroughTime& time)
        : project_(project), net_(network), time_(time), n_(network.nodes.size()) {}

    void run() {
        find_spills();
        lead();
        walk();
    }

  private:
    [[nodiscard]] int street_at(int node) const { return static_cast<int>(n_) + nth(net_.nodes, node).inlet; }
    [[nodiscard]] static bool leads(const PondNode& p, const WayOut& w) {
        return w.target >= 0 && w.behind < 0 && w.target != p.node;
    }
    [[nodiscard]] int first_place(const WayOut& w) const { return w.over_street ? street_at(w.target) : w.target; }

    /// An overflow runs along the street path of its structure where both lead to the same inlet.
    void find_spills() {
        time_.after_spill.assign(net_.inlets.size(), 0);
        for (PondNode& p : time_.ponds)
            for (WayOut& w : p.ways) {
                if (!w.overflow || !leads(p, w) || nth(net_.nodes, w.target).inlet == no_inlet) continue;
                const StructureId from = nth(net_.nodes, p.node).structure, to = nth(net_.nodes, w.target).structure;
                w.over_street = std::any_of(project_.street_paths.begin(), project_.street_paths.end(),
                                            [&](const StreetPath& s) { return s.from == from && s.to == to; });
                if (w.over_street) nth(time_.after_spill, nth(net_.nodes, w.target).inlet) = 1;
            }
        for (std::size_t s = 0; s < net_.inlets.size(); ++s) {
            const StreetInlet& in = net_.inlets[s];
            if (!time_.after_spill[s] || !runs_on(in)) continue;
            if (const int next = nth(net_.nodes, in.to).inlet; next != no_inlet) nth(time_.after_spill, next) = 1;
        }
    }
    void lead() {
        to_.assign(n_ + net_.inlets.size(), {});
        for (std::size_t i = 0; i < n_; ++i)
            if (net_.nodes[i].down != no_node) to_[i].push_back(net_.nodes[i].down);
        for (const PondNode& p : time_.ponds)
            for (const WayOut& w : p.ways)
                if (leads(p, w)) nth(to_, p.node).push_back(first_place(w));
        for (std::size_t s = 0; s < net_.inlets.size(); ++s) {
            const StreetInlet& in = net_.inlets[s];
            if (!time_.after_spill[s]) continue;
            std::vector<int>& list = to_[n_ + s];
            list.push_back(in.node);
            if (runs_on(in)) list.push_back(nth(net_.nodes, in.to).inlet == no_inlet ? in.to : street_at(in.to));
        }
    }
    void walk() {
        waits_.assign(to_.size(), 0);
        for (const auto& list : to_)
            for (const int t : list) ++nth(waits_, t);
        done_.assign(to_.size(), 0);
        time_.order.reserve(n_);
        time_.turns.reserve(to_.size());
        for (std::size_t s = 0; s < net_.inlets.size(); ++s)
            if (!time_.after_spill[s]) {
                done_[n_ + s] = 1;
                time_.turns.push_back(static_cast<int>(s));
            }
        for (std::size_t i = to_.size(); i-- > 0;)
            if (!done_[i] && waits_[i] == 0) ready_.push_back(static_cast<int>(i));
        while (time_.turns.size() < to_.size()) {
            while (!ready_.empty()) {
                const int i = ready_.back();
                ready_.pop_back();
                if (!nth(done_, i)) finish(i);
            }
            if (time_.turns.size() < to_.size()) cut_ring();
        }
    }
    void finish(int place) {
        nth(done_, place) = 1;
        const int nodes = static_cast<int>(n_);
        if (place < nodes) time_.order.push_back(place);
        time_.turns.push_back(place < nodes ? -1 - place : place - nodes);
        const auto& list = nth(to_, place);
        for (std::size_t k = list.size(); k-- > 0;)
            if (--nth(waits_, list[k]) == 0 && !nth(done_, list[k])) ready_.push_back(list[k]);
    }
    /// A ring through ponds. A spill in it meets no inlet; where it runs back all the same, and for every other outlet
    /// of the first pond that is part of the ring, what runs by it leaves.
    void cut_ring() {
        for (const bool streets : {true, false})
            for (PondNode& p : time_.ponds) {
                if (nth(done_, p.node)) continue;
                for (std::size_t at = 0; at < p.ways.size(); ++at) {
                    WayOut& w = p.ways[at];
                    if (!leads(p, w) || p.pipes[at] >= 0 || w.over_street != streets) continue;
                    if (!reaches(first_place(w), p.node)) continue;
                    unlead(p.node, first_place(w));
                    w.over_street = false;
                    if (streets) {
                        nth(to_, p.node).push_back(w.target);
                        ++nth(waits_, w.target);
                    } else {
                        say_cut(w);
                        w.target = -1;
                    }
                    return;
                }
            }
        // No pond: cannot be, main pipes are a forest and so are streets. Take what is left in its order.
        for (std::size_t i = 0; i < done_.size(); ++i)
            if (!done_[i]) {
                ready_.push_back(static_cast<int>(i));
                return;
            }
    }
    void unlead(int from, int to) {
        auto& list = nth(to_, from);
        list.erase(std::find(list.begin(), list.end(), to));
        if (--nth(waits_, to) == 0) ready_.push_back(to);
    }
    void say_cut(const WayOut& w) {
        const std::string name = element_name(project_, Kind::PondOutlet, w.row);
        net_.faults.push_back({Severity::Error,
                               {Kind::PondOutlet, w.row},
                               "to",
                               "leads back",
                               "Outlet " + name +
                                   " leads to where its own water comes from: what runs by it is counted as leaving "
                                   "the site.",
                               "Lead it to a structure below."});
    }
    [[nodiscard]] bool reaches(int from, int goal) const {
        std::vector<char> seen(to_.size(), 0);
        std::vector<int> stack{from};
        while (!stack.empty()) {
            const int i = stack.back();
            stack.pop_back();
            if (i == goal) return true;
            if (nth(seen, i)) continue;
            nth(seen, i) = 1;
            for (const int t : nth(to_, i)) stack.push_back(t);
        }
        return false;
    }

    const Project& project_;
    Network& net_;
    ThroughTime& time_;
    std::size_t n_;
    std::vector<std::vector<int>> to_;
    std::vector<int> waits_, ready_;
    std::vector<char> done_;
};

}  // namespace

void order_water(const Project& project, Network& network, ThroughTime& time) {
    WaterOrder(project, network, time).run();
}

}  // namespace culvert
