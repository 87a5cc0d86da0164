// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/hydrograph.h"

#include <algorithm>
#include <cmath>
#include <deque>

#include "core/analysis/catchment_flow.h"
#include "core/analysis/grade_line.h"
#include "core/analysis/reach_routing.h"
#include "core/analysis/street_flow.h"
#include "core/base/contract.h"
#include "core/hydraulics/uniform_flow.h"

namespace culvert {
namespace {

constexpr double day = 86400;
constexpr std::size_t most_steps = 200'000;
constexpr int most_rounds = 12;

/// A series on its way: means of steps, and what runs before the storm.
struct Flow {
    std::vector<double> values;
    double before = 0;
};

class ThroughTimeSolver {
  public:
    ThroughTimeSolver(const Network& network, const EventRain& rain, Summaries& out, const AskedSeries& asked,
                      const std::stop_token& stop)
        : net_(network), time_(*network.through_time), rain_(rain), out_(out), asked_(asked), stop_(stop) {}

    std::vector<Series> run() {
        depths_ = storm_steps(net_, rain_);
        step_ = time_.step;
        choose();
        length();
        out_.runoffs.assign(time_.areas.size(), {});
        out_.ponds.assign(time_.ponds.size(), {});
        out_.balance = {};
        for (NodeResult& n : out_.nodes) n.flow = {};
        for (LinkResult& l : out_.links) l.flow = {};
        below_.resize(time_.ponds.size());
        find_targets();
        pass(true);
        for (round_ = 1; round_ < most_rounds && !stop_.stop_requested(); ++round_) {
            if (!meet_levels()) break;
            pass(false);
        }
        series_still_.insert(series_still_.end(), std::make_move_iterator(series_.begin()),
                             std::make_move_iterator(series_.end()));
        return std::move(series_still_);
    }

  private:
    static std::size_t at(int i) { return static_cast<std::size_t>(i); }

    /// Nodes that are needed: all, or those whose water reaches the nodes asked for.
    void choose() {
        needed_.assign(net_.nodes.size(), 1);
        kept_.assign(net_.nodes.size(), 0);
        for (const int n : asked_.nodes) nth(kept_, n) = 1;
        if (asked_.ends) {
            for (const PondNode& p : time_.ponds) nth(kept_, p.node) = 1;
            for (std::size_t i = 0; i < net_.nodes.size(); ++i)
                if (net_.nodes[i].out == no_link) kept_[i] = 1;
        }
        if (!asked_.only_these) return;
        needed_.assign(net_.nodes.size(), 0);
        for (const int n : asked_.nodes) nth(needed_, n) = 1;
        // What a pond meets below it is needed too: it may hold its water back.
        for (bool grew = true; grew;) {
            grew = false;
            const auto need = [&](int i) {
                if (!nth(needed_, i)) nth(needed_, i) = 1, grew = true;
            };
            for (std::size_t k = time_.order.size(); k-- > 0;) {
                const int i = time_.order[k];
                const Node& n = nth(net_.nodes, i);
                if (nth(needed_, i)) continue;
                if (n.down != no_node && nth(needed_, n.down)) need(i);
                if (nth(time_.street_to, i) >= 0 && nth(needed_, nth(time_.street_to, i))) need(i);
                if (const int p = nth(time_.pond_of, i); p >= 0)
                    for (const WayOut& w : nth(time_.ponds, p).ways)
                        if (w.target >= 0 && nth(needed_, w.target)) need(i);
            }
            for (const PondNode& p : time_.ponds)
                if (nth(needed_, p.node))
                    for (const WayOut& w : p.ways)
                        for (int t = w.target; t >= 0; t = nth(net_.nodes, t).down) need(t);
        }
    }

    /// Steps that are computed: the storm, and what its water needs to run off.
    void length() {
        double after = time_.after_rain;
        if (std::isnan(after)) {
            after = 0;
            for (const RunoffArea& a : time_.areas) after = std::max(after, 4 * a.time);
            double travel = 0;
            std::vector<double> longest(net_.nodes.size(), 0);
            for (const int i : time_.order) {
                const Node& n = nth(net_.nodes, i);
                if (n.out == no_link) continue;
                const Link& l = nth(net_.links, n.out);
                const double v = l.solvable && l.capacity > 0 ? l.capacity / l.barrels / full_area(l.section) : 1;
                double& below = nth(longest, n.down);
                below = std::max(below, nth(longest, i) + (l.solvable ? l.length / std::clamp(v, 0.3, 10.0) : 0));
                travel = std::max(travel, below);
            }
            after += 2 * travel + 10 * step_;
            if (!time_.ponds.empty()) after = std::max(after, 2 * day);
        }
        count_ = depths_.size() + static_cast<std::size_t>(std::ceil(after / step_));
        count_ = std::clamp<std::size_t>(count_, 1, most_steps);
    }

    // Buffers are used again: no more of them live than branches wait for each other.
    int take_flow() {
        if (!spare_.empty()) {
            const int f = spare_.back();
            spare_.pop_back();
            nth(flows_, f).before = 0;
            std::fill(nth(flows_, f).values.begin(), nth(flows_, f).values.end(), 0.0);
            return f;
        }
        flows_.push_back({std::vector<double>(count_, 0.0), 0});
        return static_cast<int>(flows_.size()) - 1;
    }
    void give_back(int& f) {
        if (f >= 0) spare_.push_back(f);
        f = -1;
    }
    Flow& arriving(std::vector<int>& list, int node) {
        int& f = nth(list, node);
        if (f < 0) f = take_flow();
        return nth(flows_, f);
    }

    /// Nodes whose flows hang on levels below ponds: those ponds, and all that their water runs to.
    void mark_again() {
        again_.assign(net_.nodes.size(), 0);
        for (const int i : time_.order) {
            const int p = nth(time_.pond_of, i);
            if (p >= 0)
                for (const WayOut& w : nth(time_.ponds, p).ways)
                    if (w.target >= 0) nth(again_, i) = 1;
            if (!nth(again_, i)) continue;
            if (const int down = nth(net_.nodes, i).down; down != no_node) nth(again_, down) = 1;
            if (p >= 0)
                for (const WayOut& w : nth(time_.ponds, p).ways)
                    if (w.target >= 0) nth(again_, w.target) = 1;
        }
    }
    /// Where water that leaves a node arrives: what does not change from round to round is kept apart.
    Flow& sink(int from, int to) { return arriving(nth(again_, to) && !nth(again_, from) ? fixed_ : in_, to); }

    /// All nodes at first; then those that hang on what was found.
    void pass(bool first) {
        for (int& f : in_) give_back(f);
        in_.assign(net_.nodes.size(), -1);
        if (first) {
            on_street_ = fixed_ = in_;
            share_.assign(net_.nodes.size(), 1);
            still_ = {};
            series_still_.clear();
            mark_again();
        }
        moving_ = {};
        series_.clear();
        target_flow_.clear();
        if (first) {
            balance_ = &still_;
            streets();
        }
        for (const int i : time_.order) {
            if (stop_.stop_requested()) return;
            if (!nth(needed_, i)) continue;
            if (first) gather_own(i);
            if (first || nth(again_, i)) node(i);
        }
        WaterBalance& b = out_.balance = still_;
        b.left += moving_.left;
        b.soaked += moving_.soaked;
        b.stored += moving_.stored;
        b.cut += moving_.cut;
    }

    /// Flow of a node's own catchments, into a series; what they make of the rain.
    void own_runoff(int i, std::vector<double>& to, bool count) {
        for (int a = nth(time_.area_begin, i); a < time_.area_begin[at(i) + 1]; ++a) {
            const RunoffArea& area = nth(time_.areas, a);
            RunoffSummary& r = nth(out_.runoffs, a);
            r = {};
            one_.assign(count_, 0.0);
            const double beyond = makers_.run(area, depths_, rain_.frequency_factor, step_, one_, r);
            for (std::size_t k = 0; k < count_; ++k) {
                to[k] += one_[k];
                if (one_[k] > r.peak) r.peak = one_[k], r.peak_time = (static_cast<double>(k) + 1) * step_;
            }
            if (!count) continue;
            still_.cut += beyond;
            still_.rain += r.rain * area.area;
            still_.lost += (r.infiltrated + r.held) * area.area;
            still_.runoff += r.runoff * area.area;
        }
    }
    /// What inlets take, in the order of the streets.
    void streets() {
        if (net_.inlets.empty()) return;
        const StreetConstants k = street_constants(net_.edition);
        for (StreetEntry& e : out_.entries) e = {};
        for (std::size_t s = 0; s < net_.inlets.size(); ++s) {
            const StreetInlet& in = net_.inlets[s];
            StreetFlow& f = nth(out_.streets, s);
            f = {};
            if (!nth(needed_, in.node)) continue;
            approach_.assign(count_, nth(net_.nodes, in.node).known_flow);
            own_runoff(in.node, approach_, false);
            const double before = nth(net_.nodes, in.node).known_flow;
            double arrived_before = 0;
            if (const int a = nth(on_street_, in.node); a >= 0) {
                for (std::size_t i = 0; i < count_; ++i) approach_[i] += nth(flows_, a).values[i];
                arrived_before = nth(flows_, a).before;
            }
            const auto most = std::max_element(approach_.begin(), approach_.end());
            f.flow = *most;
            f.known_flow = f.flow;
            f.own_known = before;
            f.time = (static_cast<double>(most - approach_.begin()) + 1) * step_;
            const double taken = f.flow > 0 ? taken_by(in, f.flow, k, f) : 0;
            f.efficiency = f.flow > 0 ? taken / f.flow : 1;
            f.captured = taken;
            f.bypass = f.flow - taken;
            const bool stays = in.end == PathEnd::Nowhere || !net_.limited;
            nth(share_, in.node) = stays ? 1 : f.efficiency;
            if (stays || !(f.bypass > 0)) continue;
            if (in.end == PathEnd::OffSite) {
                for (std::size_t i = 0; i < count_; ++i) balance_->left += (1 - f.efficiency) * approach_[i] * step_;
                continue;
            }
            double travel = 0;
            if (net_.gutter_time && in.gutter.grade > 0) {
                const GutterFlow past = gutter_flow(in.gutter, f.bypass, k);
                if (past.velocity > 0) travel = in.path_length / past.velocity;
            }
            f.travel = travel;
            for (double& q : approach_) q *= 1 - f.efficiency;
            const bool inlet = nth(net_.nodes, in.to).inlet != no_inlet;
            Flow& to = inlet ? arriving(on_street_, in.to) : sink(in.node, in.to);
            balance_->stored +=
                lag(approach_, (before + arrived_before) * (1 - f.efficiency), travel / step_, to.values) * step_;
            to.before += (before + arrived_before) * (1 - f.efficiency);
        }
    }

    /// What a node brings itself, with what comes to it over the street, to what arrives.
    void gather_own(int i) {
        const Node& n = nth(net_.nodes, i);
        Flow& q = arriving(nth(again_, i) ? fixed_ : in_, i);
        own_.assign(count_, 0.0);
        own_runoff(i, own_, true);
        still_.known += n.known_flow * step_ * static_cast<double>(count_);
        double before = n.known_flow;
        const double share = nth(share_, i);
        if (const int s = nth(on_street_, i); s >= 0) {
            before += nth(flows_, s).before;
            for (std::size_t k = 0; k < count_; ++k)
                q.values[k] += share * (own_[k] + n.known_flow + nth(flows_, s).values[k]);
            give_back(nth(on_street_, i));
        } else
            for (std::size_t k = 0; k < count_; ++k) q.values[k] += share * (own_[k] + n.known_flow);
        q.before += share * before;
        if (nth(kept_, i)) {
            note(i, "rain", depths_, 1 / step_, true);
            note(i, "runoff", own_, 1, true);
        }
    }

    void node(int i) {
        const Node& n = nth(net_.nodes, i);
        balance_ = nth(again_, i) ? &moving_ : &still_;
        NodeFlow& f = nth(out_.nodes, i).flow;
        Flow& q = arriving(in_, i);
        if (nth(again_, i)) {
            const Flow& own = nth(flows_, nth(fixed_, i));
            for (std::size_t k = 0; k < count_; ++k) q.values[k] += own.values[k];
            q.before += own.before;
        }
        const bool keep = nth(kept_, i) != 0;
        f = {};
        f.time = not_given;
        f.intensity = not_given;
        double sum = 0;
        for (std::size_t k = 0; k < count_; ++k) {
            sum += q.values[k];
            if (q.values[k] > f.flow || k == 0)
                f.flow = q.values[k], f.peak_time = (static_cast<double>(k) + 1) * step_;
        }
        f.plain_flow = f.known_flow = f.flow;
        f.volume = sum * step_;
        if (keep) note(i, "inflow", q.values);
        if (const int p = nth(time_.pond_of, i); p >= 0) pond(p, i, q, keep);
        else if (n.out != no_link) {
            if (keep) note(i, "flow", q.values);
            through(n.out, q, i, n.down);
        } else {
            if (keep) note(i, "flow", q.values);
            balance_->left += sum * step_;
        }
        for (const int t : targets_)
            if (t == i) target_flow_.emplace_back(i, q.values);
        give_back(nth(in_, i));
    }
    /// Largest flow of a link, and its water at the next node.
    void through(int link, const Flow& q, int from, int to) {
        const Link& l = nth(net_.links, link);
        LinkFlow& f = nth(out_.links, link).flow;
        f = {};
        f.flow = f.known_flow = std::max(0.0, *std::max_element(q.values.begin(), q.values.end()));
        run_through(net_, l, f);
        if (!nth(needed_, to)) {
            double sum = 0;
            for (const double v : q.values) sum += v;
            balance_->left += sum * step_;
            return;
        }
        Flow& next = sink(from, to);
        next.before += q.before;
        if (time_.travel_by == TravelBy::Kinematic && l.solvable && f.travel > step_ && l.slope > 0)
            balance_->stored += kinematic(l, q.values, q.before, step_, f.travel, reach_, next.values);
        else balance_->stored += lag(q.values, q.before, f.travel / step_, next.values) * step_;
    }

    void pond(int p, int i, const Flow& q, bool keep) {
        const PondNode& pond = nth(time_.ponds, p);
        PondInput in;
        in.storage = &pond.storage;
        in.ways = pond.ways;
        in.start_level = pond.start_level;
        in.soakage = pond.soakage;
        in.inflow = q.values;
        in.step = step_;
        in.below = nth(below_, p);
        const PondRoute r = route_pond(in);
        PondSummary& s = nth(out_.ponds, p);
        const bool settled = s.settled;
        s = {};
        s.settled = settled;
        NodeFlow& f = nth(out_.nodes, i).flow;
        s.peak_inflow = f.flow;
        s.peak_inflow_time = f.peak_time;
        s.peak_outflow = r.peak_outflow;
        s.peak_outflow_time = r.peak_outflow_time;
        s.level = r.peak_level;
        s.level_time = r.peak_level_time;
        s.stored = r.most_stored;
        s.drawdown = r.drawdown >= 0 ? r.drawdown : not_given;
        s.inflow_volume = r.inflow_volume;
        s.outflow_volume = r.outflow_volume;
        s.soaked = r.soaked;
        s.left = r.stored;
        s.above_curve = r.above_curve;
        s.way_peaks = r.way_peaks;
        f.flow = f.plain_flow = f.known_flow = r.peak_outflow;
        f.peak_time = r.peak_outflow_time;
        balance_->soaked += r.soaked;
        balance_->stored += r.stored;
        levels_.resize(time_.ponds.size());
        nth(levels_, p) = r.level;
        if (keep) {
            note(i, "flow", r.outflow);
            note(i, "level", r.level);
        }
        Flow part;
        for (std::size_t w = 0; w < pond.ways.size(); ++w) {
            const std::span<const double> of(r.ways.data() + w * count_, count_);
            double sum = 0;
            for (const double v : of) sum += v;
            s.way_volumes.push_back(sum * step_);
            part.values.assign(of.begin(), of.end());
            if (keep) {
                note(i, "way " + std::to_string(w + 1), part.values);
                if (w < in.below.size() && !in.below[w].empty()) note(i, "below " + std::to_string(w + 1), in.below[w]);
            }
            const WayOut& way = pond.ways[w];
            if (pond.pipes[w] >= 0) {
                part.before = 0;
                through(pond.pipes[w], part, i, nth(net_.links, pond.pipes[w]).to);
            } else if (way.behind >= 0) continue;
            else if (way.target >= 0 && nth(needed_, way.target)) {
                Flow& next = sink(i, way.target);
                for (std::size_t k = 0; k < count_; ++k) next.values[k] += part.values[k];
            } else balance_->left += sum * step_;
        }
    }
    void note(int node, std::string key, const std::vector<double>& values, double factor = 1, bool still = false) {
        Series s;
        s.element = {Kind::Structure, nth(net_.nodes, node).structure.value};
        s.key = std::move(key);
        s.step = step_;
        s.values = values;
        if (factor != 1)
            for (double& v : s.values) v *= factor;
        (still || !nth(again_, node) ? series_still_ : series_).push_back(std::move(s));
    }

    /// Nodes that ways out of ponds run to: their flows through time are kept.
    void find_targets() {
        for (const PondNode& p : time_.ponds)
            for (const WayOut& w : p.ways)
                if (w.target >= 0 && w.behind < 0 && !w.pump && nth(needed_, w.target)) targets_.push_back(w.target);
        std::sort(targets_.begin(), targets_.end());
        targets_.erase(std::unique(targets_.begin(), targets_.end()), targets_.end());
    }
    /// Levels that ways out of ponds meet, from the flows that were found. False where none changed by a millimetre.
    bool meet_levels() {
        if (time_.ponds.empty()) return false;
        if (targets_.empty()) return false;
        bool changed = false;
        std::vector<std::pair<int, std::vector<double>>> stand;
        for (const int t : targets_) {
            std::vector<double> level;
            if (const int p = nth(time_.pond_of, t); p >= 0) level = nth(levels_, p);
            else if (const auto* q = flow_at(t)) level = levels_at(t, *q);
            stand.emplace_back(t, std::move(level));
        }
        for (std::size_t p = 0; p < time_.ponds.size(); ++p) {
            const PondNode& pond = time_.ponds[p];
            std::vector<std::vector<double>>& below = below_[p];
            below.resize(pond.ways.size());
            double worst = 0;
            for (std::size_t w = 0; w < pond.ways.size(); ++w) {
                const WayOut& way = pond.ways[w];
                if (way.target < 0 || way.behind >= 0 || way.pump) continue;
                const auto at_target =
                    std::find_if(stand.begin(), stand.end(), [&](auto& s) { return s.first == way.target; });
                if (at_target == stand.end() || at_target->second.empty()) continue;
                const double crest = lowest_way({&way, 1});
                std::vector<double> now = at_target->second;
                if (!(*std::max_element(now.begin(), now.end()) > crest)) {
                    if (!below[w].empty()) below[w].clear(), changed = true;
                    continue;
                }
                if (below[w].empty()) {
                    below[w] = std::move(now);
                    worst = 1;
                    continue;
                }
                for (std::size_t k = 0; k < count_; ++k) {
                    worst = std::max(worst, std::abs(std::max(now[k], crest) - std::max(below[w][k], crest)));
                    // Half way where it has not settled soon: it does not swing.
                    below[w][k] = round_ > 5 ? (below[w][k] + now[k]) / 2 : now[k];
                }
            }
            changed = changed || worst > 1e-3;
            out_.ponds[p].settled = worst <= 5e-3;
        }
        return changed;
    }
    const std::vector<double>* flow_at(int node) const {
        for (const auto& [n, q] : target_flow_)
            if (n == node) return &q;
        return nullptr;
    }
    /// Steady levels at a node by the flow there: all flows on its way to the outfall in the same proportion to their
    /// largest.
    std::vector<double> levels_at(int node, const std::vector<double>& q) {
        const double peak = nth(out_.nodes, node).flow.flow;
        constexpr double shares[] = {0, 0.05, 0.15, 0.3, 0.5, 0.75, 1};
        std::vector<int> path;
        for (int i = node; i != no_node; i = nth(net_.nodes, i).down) path.push_back(i);
        std::vector<double> at_share;
        Summaries scaled = out_;
        for (const double s : shares) {
            for (const int i : path)
                if (const int l = nth(net_.nodes, i).out; l != no_link) {
                    LinkFlow& f = nth(scaled.links, l).flow;
                    f.flow = s * nth(out_.links, l).flow.flow;
                    run_through(net_, nth(net_.links, l), f);
                }
            for (std::size_t k = path.size(); k-- > 0;) {
                const Node& n = nth(net_.nodes, path[k]);
                NodeLevel& level = nth(scaled.nodes, path[k]).level;
                level = {};
                if (n.out == no_link) {
                    const Tail tail = scaled.tail_of(path[k]);
                    level.level = level.energy = tail.stands() ? tail.level : not_given;
                    if (const int p = nth(time_.pond_of, path[k]); p >= 0)
                        level.level = level.energy = nth(out_.ponds, p).level;
                    continue;
                }
                const Link& l = nth(net_.links, n.out);
                LinkResult& link = nth(scaled.links, n.out);
                const NodeLevel& below = nth(scaled.nodes, n.down).level;
                const PipeInput in = input_of(net_, l, link.flow, below, scaled);
                if (!l.solvable || (in.end != PipeInput::End::Outfall && std::isnan(below.energy))) continue;
                solve_pipe(in, level, link.level);
            }
            at_share.push_back(nth(scaled.nodes, node).level.level);
        }
        std::vector<double> levels(q.size(), not_given);
        if (std::isnan(at_share.back()) || !(peak > 0)) return {};
        for (std::size_t i = 0; i < q.size(); ++i) {
            const double s = std::clamp(q[i] / peak, 0.0, 1.0);
            std::size_t k = 1;
            while (k + 1 < std::size(shares) && shares[k] < s) ++k;
            levels[i] =
                at_share[k - 1] + (at_share[k] - at_share[k - 1]) * (s - shares[k - 1]) / (shares[k] - shares[k - 1]);
        }
        return levels;
    }

    const Network& net_;
    const ThroughTime& time_;
    const EventRain& rain_;
    Summaries& out_;
    const AskedSeries& asked_;
    const std::stop_token& stop_;
    std::vector<double> depths_;
    double step_ = 60;
    std::size_t count_ = 0;
    std::vector<char> needed_, kept_;
    std::deque<Flow> flows_;  ///< places stay where they are when more are made
    std::vector<int> spare_, in_, on_street_;
    std::vector<double> share_;  ///< of what comes to a node by its catchments and the street, that enters there
    std::vector<double> own_, one_, approach_;
    CatchmentFlow makers_;
    std::vector<Reach> reach_;
    std::vector<std::vector<std::vector<double>>> below_;  ///< by pond, then way
    std::vector<std::vector<double>> levels_;              ///< by pond
    std::vector<int> targets_;
    std::vector<std::pair<int, std::vector<double>>> target_flow_;
    std::vector<Series> series_, series_still_;  ///< of nodes that hang on levels below ponds, and of others
    std::vector<char> again_;
    std::vector<int> fixed_;  ///< what arrives at such nodes whatever those levels are
    WaterBalance still_, moving_;
    WaterBalance* balance_ = &still_;
    int round_ = 0;
};

}  // namespace

std::vector<Series> solve_through_time(const Network& network, const EventRain& rain, Summaries& out,
                                       const AskedSeries& asked, const std::stop_token& stop) {
    if (!network.through_time) return {};
    return ThroughTimeSolver(network, rain, out, asked, stop).run();
}

}  // namespace culvert
