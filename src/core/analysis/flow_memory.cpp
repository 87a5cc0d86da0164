// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/flow_memory.h"

#include <algorithm>

#include "core/analysis/flow_update.h"
#include "core/base/contract.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

constexpr std::size_t nodes_of_part = 32;
/// Values that are kept of an event at most, about: sixteen megabytes, and as many for what the last edit read.
constexpr std::size_t most_values = 2'000'000;

bool same_way_out(const WayOut& a, const WayOut& b) {
    if (a.count != b.count || a.behind != b.behind || a.target != b.target || a.pump != b.pump || a.start != b.start ||
        a.stop != b.stop || a.pump_flow != b.pump_flow || a.overflow != b.overflow || a.over_street != b.over_street ||
        a.row != b.row || a.how.index() != b.how.index())
        return false;
    if (const Outlet* o = std::get_if<Outlet>(&a.how)) return *o == std::get<Outlet>(b.how);
    const auto &x = std::get<1>(a.how), &y = std::get<1>(b.how);
    return x == y || x->barrel() == y->barrel();
}
bool same_pond(const PondNode& a, const PondNode& b) {
    return a.row == b.row && a.storage == b.storage && a.start_level == b.start_level &&
           same_number(a.crest, b.crest) && a.soakage == b.soakage && a.pipes == b.pipes &&
           std::equal(a.ways.begin(), a.ways.end(), b.ways.begin(), b.ways.end(), same_way_out);
}
/// All that shapes the run as a whole.
bool same_run(const Network& a, const Network& b) {
    const ThroughTime &s = *a.through_time, &t = *b.through_time;
    return same_topology(a, b) && s.step == t.step && s.travel_by == t.travel_by && s.turns == t.turns &&
           s.after_spill == t.after_spill && a.edition == b.edition && a.limited == b.limited &&
           a.gutter_time == b.gutter_time && a.full_travel_velocity == b.full_travel_velocity &&
           std::equal(a.inlets.begin(), a.inlets.end(), b.inlets.begin(), b.inlets.end(),
                      [](const StreetInlet& x, const StreetInlet& y) {
                          return x.node == y.node && x.to == y.to && x.end == y.end;
                      });
}
/// What a node brings by itself.
bool same_own(const Network& a, const Network& b, int i) {
    const Node &x = nth(a.nodes, i), &y = nth(b.nodes, i);
    const ThroughTime &s = *a.through_time, &t = *b.through_time;
    if (x.known_flow != y.known_flow || x.inlet != y.inlet) return false;
    if (x.inlet != no_inlet && !(nth(a.inlets, x.inlet) == nth(b.inlets, y.inlet))) return false;
    const int p = nth(s.pond_of, i), q = nth(t.pond_of, i);
    if ((p < 0) != (q < 0) || (p >= 0 && !same_pond(nth(s.ponds, p), nth(t.ponds, q)))) return false;
    const auto part = [i](const ThroughTime& of) {
        return std::span(of.areas).subspan(static_cast<std::size_t>(nth(of.area_begin, i)),
                                           static_cast<std::size_t>(nth(of.area_begin, i + 1) - nth(of.area_begin, i)));
    };
    const auto k = part(s), l = part(t);
    return std::equal(k.begin(), k.end(), l.begin(), l.end());
}
bool same_pipe(const Network& a, const Network& b, int link) {
    return same_way(a, b, link) && same_number(nth(a.links, link).capacity, nth(b.links, link).capacity);
}

/// What is touched, in the order in which water runs.
class Toucher {
  public:
    Toucher(const Network& now, const Network& was, const std::vector<char>& hang)
        : now_(now), was_(was), time_(*now.through_time), hang_(hang) {}

    std::vector<char> run() {
        touched_.assign(now_.nodes.size(), 0);
        for (std::size_t i = 0; i < touched_.size(); ++i) touched_[i] = !same_own(now_, was_, static_cast<int>(i));
        // What hung on a pond's outlets and does not any more lacks their water now, though nothing of its own changed.
        const std::vector<char> hung = hang_on_levels(was_);
        for (std::size_t i = 0; i < touched_.size(); ++i) touched_[i] |= static_cast<char>(hung[i] != hang_[i]);
        streets();
        for (const int i : time_.order) {
            if (!nth(touched_, i)) continue;
            if (const int down = nth(now_.nodes, i).down; down != no_node) nth(touched_, down) = 1;
        }
        // A pipe counts to the node it leads to.
        for (std::size_t l = 0; l < now_.links.size(); ++l)
            if (now_.links[l].main && !same_pipe(now_, was_, static_cast<int>(l)))
                for (int i = now_.links[l].to; i != no_node && !nth(touched_, i); i = nth(now_.nodes, i).down)
                    nth(touched_, i) = 1;
        together();
        return std::move(touched_);
    }

  private:
    void streets() {
        std::vector<char> other(now_.inlets.size(), 0);
        for (std::size_t s = 0; s < now_.inlets.size(); ++s) {
            const StreetInlet& in = now_.inlets[s];
            if (!other[s] && !nth(touched_, in.node)) continue;
            nth(touched_, in.node) = 1;
            if (in.end != PathEnd::Structure || in.to == no_node) continue;
            if (const int next = nth(now_.nodes, in.to).inlet; next != no_inlet) nth(other, next) = 1;
            else nth(touched_, in.to) = 1;
        }
    }
    /// Those that hang on levels: all or none.
    void together() {
        bool any = false;
        for (std::size_t i = 0; i < hang_.size() && !any; ++i) any = hang_[i] && touched_[i];
        std::vector<char> asked(now_.components.size(), 0);
        for (std::size_t i = 0; i < hang_.size() && !any; ++i) {
            const int c = now_.nodes[i].component;
            if (!hang_[i] || nth(asked, c)) continue;
            nth(asked, c) = 1;
            const Component& part = nth(now_.components, c);
            any = !same_levels(was_, now_, part);
            for (int l = part.link_begin; l < part.link_end && !any; ++l) any = !same_pipe(now_, was_, l);
        }
        if (any)
            for (std::size_t i = 0; i < hang_.size(); ++i) touched_[i] = touched_[i] || hang_[i];
    }

    const Network &now_, &was_;
    const ThroughTime& time_;
    const std::vector<char>& hang_;
    std::vector<char> touched_;
};

/// Nodes at which the network is cut into parts.
std::vector<char> cuts(const Network& network, const std::vector<char>& hang, std::size_t steps) {
    const std::size_t n = network.nodes.size();
    const std::size_t most = std::max(nodes_of_part, n * steps / most_values + 1);
    std::vector<std::size_t> above(n, 0);
    std::vector<char> cut(n, 0);
    for (const int i : network.through_time->order) {
        const int down = nth(network.nodes, i).down;
        if (down == no_node || nth(hang, i)) continue;
        std::size_t& here = nth(above, i);
        if (++here >= most) nth(cut, i) = 1;
        else nth(above, down) += here;
    }
    return cut;
}

/// Inlets whose water reaches a node that is computed.
std::vector<char> streets_of(const Network& network, const std::vector<FlowPlan::Part>& nodes) {
    std::vector<char> streets(network.inlets.size(), 0);
    for (std::size_t s = network.inlets.size(); s-- > 0;) {
        const StreetInlet& in = network.inlets[s];
        streets[s] = nth(nodes, in.node) == FlowPlan::Part::Computed;
        if (in.end != PathEnd::Structure || in.to == no_node) continue;
        const int next = nth(network.nodes, in.to).inlet;
        if (next != no_inlet ? nth(streets, next) : nth(nodes, in.to) == FlowPlan::Part::Computed) streets[s] = 1;
    }
    return streets;
}
bool same_storm(const FlowMemory& a, const FlowMemory& b) {
    return a.steps == b.steps && a.frequency_factor == b.frequency_factor && a.depths == b.depths;
}

}  // namespace

const KeptFlow* FlowMemory::of(int node) const {
    const auto at =
        std::lower_bound(flows.begin(), flows.end(), node, [](const KeptFlow& f, int n) { return f.node < n; });
    return at != flows.end() && at->node == node ? &*at : nullptr;
}

std::vector<char> hang_on_levels(const Network& network) {
    const ThroughTime& t = *network.through_time;
    std::vector<char> hang(network.nodes.size(), 0);
    for (std::size_t s = 0; s < network.inlets.size(); ++s) {
        const StreetInlet& in = network.inlets[s];
        if (!nth(t.after_spill, static_cast<int>(s))) continue;  // the first is the target of an outlet
        if (runs_on(in)) nth(hang, in.to) = 1;
    }
    for (const int i : t.order) {
        const int p = nth(t.pond_of, i);
        if (p >= 0)
            for (const WayOut& w : nth(t.ponds, p).ways)
                if (w.target >= 0) nth(hang, i) = 1;
        if (!nth(hang, i)) continue;
        if (const int down = nth(network.nodes, i).down; down != no_node) nth(hang, down) = 1;
        if (p >= 0)
            for (const WayOut& w : nth(t.ponds, p).ways)
                if (w.target >= 0) nth(hang, w.target) = 1;
    }
    return hang;
}

FlowPlan plan_flows(const Network& network, const FlowMemory& now, const std::vector<char>& hang,
                    const EventResult* before) {
    using Part = FlowPlan::Part;
    const ThroughTime& t = *network.through_time;
    FlowPlan plan;
    plan.kept = cuts(network, hang, now.steps);
    const FlowMemory* memory = before ? before->flows.get() : nullptr;
    if (!memory || !same_storm(*memory, now) || !same_run(network, *before->network)) {
        plan.nodes.assign(network.nodes.size(), Part::Computed);
        plan.streets.assign(network.inlets.size(), 1);
        return plan;
    }
    plan.before = before;
    const std::vector<char> touched = Toucher(network, *before->network, hang).run();
    plan.nodes.assign(network.nodes.size(), Part::Known);
    std::vector<int> border;
    for (std::size_t k = t.order.size(); k-- > 0;) {
        const int i = t.order[k], down = nth(network.nodes, i).down;
        Part& part = nth(plan.nodes, i);
        if (nth(touched, i)) part = Part::Computed;
        else if (down != no_node && nth(plan.nodes, down) == Part::Computed) {
            part = memory->of(i) ? Part::Given : Part::Computed;
            if (nth(touched, down)) border.push_back(i);
        }
    }
    if (border.size() * now.steps <= most_values)
        for (const int i : border) nth(plan.kept, i) = !nth(hang, i);
    plan.streets = streets_of(network, plan.nodes);
    return plan;
}

FlowPlan plan_series(const Network& network, const FlowMemory& now, const std::vector<char>& hang,
                     const EventResult& known, const std::vector<int>& nodes) {
    using Part = FlowPlan::Part;
    FlowPlan plan;
    if (known.network.get() != &network || !known.flows || !same_storm(*known.flows, now)) return plan;
    plan.nodes.assign(network.nodes.size(), Part::Known);
    plan.kept.assign(network.nodes.size(), 0);
    for (const int i : nodes) {
        if (nth(hang, i)) return {};
        nth(plan.nodes, i) = Part::Computed;
    }
    const std::vector<int>& order = network.through_time->order;
    for (std::size_t k = order.size(); k-- > 0;) {
        const int i = order[k], down = nth(network.nodes, i).down;
        Part& part = nth(plan.nodes, i);
        if (part == Part::Known && down != no_node && nth(plan.nodes, down) == Part::Computed)
            part = known.flows->of(i) ? Part::Given : Part::Computed;
    }
    plan.streets = streets_of(network, plan.nodes);
    plan.before = &known;
    return plan;
}

}  // namespace culvert
