// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/hydrograph.h"

#include <algorithm>
#include <cmath>
#include <deque>

#include "core/analysis/capture_curve.h"
#include "core/analysis/catchment_flow.h"
#include "core/analysis/flow_memory.h"
#include "core/analysis/grade_line.h"
#include "core/analysis/level_by_flow.h"
#include "core/analysis/reach_routing.h"
#include "core/analysis/run_length.h"
#include "core/analysis/street_flow.h"
#include "core/base/contract.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

constexpr int most_rounds = 12;

/// A series on its way: means of steps, and what runs before the storm.
struct Flow {
    std::vector<double> values;
    double before = 0;
};

class ThroughTimeSolver {
  public:
    ThroughTimeSolver(const Network& network, const EventRain& rain, Summaries& out, const AskedSeries& asked,
                      const std::stop_token& stop, FlowUpdate* update)
        : net_(network),
          time_(*network.through_time),
          rain_(rain),
          out_(out),
          asked_(asked),
          stop_(stop),
          update_(asked.only_these ? nullptr : update) {}

    std::vector<Series> run() {
        depths_ = storm_steps(net_, rain_);
        step_ = time_.step;
        choose();
        count_ = run_length(net_, depths_.size());
        again_ = hang_on_levels(net_);
        begin();
        below_.resize(time_.ponds.size());
        find_targets();
        pass(true);
        for (round_ = 1; round_ < most_rounds && !stop_.stop_requested(); ++round_) {
            if (!meet_levels()) break;
            pass(false);
        }
        series_still_.insert(series_still_.end(), std::make_move_iterator(series_.begin()),
                             std::make_move_iterator(series_.end()));
        if (update_) finish();
        return std::move(series_still_);
    }

  private:
    using Part = FlowPlan::Part;
    static std::size_t at(int i) { return static_cast<std::size_t>(i); }

    /// Empty summaries, or those of the run before with what is computed again taken out.
    void begin() {
        memory_->depths = depths_;
        memory_->frequency_factor = rain_.frequency_factor;
        memory_->steps = count_;
        if (update_) plan_ = plan_flows(net_, *memory_, again_, update_->before);
        else if (asked_.only_these && asked_.known)
            plan_ = plan_series(net_, *memory_, again_, *asked_.known, asked_.nodes);
        planned_ = !plan_.nodes.empty();
        if (planned_)
            for (std::size_t i = 0; i < needed_.size(); ++i) needed_[i] = plan_.nodes[i] == Part::Computed;
        out_.runoffs.assign(time_.areas.size(), {});
        out_.ponds.assign(time_.ponds.size(), {});
        still_.assign(net_.nodes.size(), {});
        moving_ = still_;
        const EventResult* b = plan_.before;
        if (!b) {
            for (NodeResult& n : out_.nodes) n.flow = {};
            for (LinkResult& l : out_.links) l.flow = {};
            return;
        }
        const FlowMemory& m = *b->flows;
        const ThroughTime& was = *b->network->through_time;
        out_.streets = b->streets;
        for (std::size_t l = 0; l < out_.links.size(); ++l)
            out_.links[l].flow = m.link_flows.empty() ? b->links[l].flow : m.link_flows[l];
        for (std::size_t i = 0; i < out_.nodes.size(); ++i) {
            if (needed_[i]) continue;
            out_.nodes[i].flow = m.node_flows.empty() ? b->nodes[i].flow : m.node_flows[i];
            still_[i] = m.water[i];
            const int areas = time_.area_begin[i + 1] - time_.area_begin[i];
            for (int a = 0; a < areas; ++a)
                nth(out_.runoffs, time_.area_begin[i] + a) = nth(b->runoffs, was.area_begin[i] + a);
            if (const int p = time_.pond_of[i]; p >= 0) nth(out_.ponds, p) = nth(b->ponds, was.pond_of[i]);
        }
    }
    /// What the next run needs of this one.
    void finish() {
        if (const EventResult* b = plan_.before)
            for (const Series& s : b->series) {
                const int node = net_.node_of(s.element);
                if (node != no_node && !nth(needed_, node) && nth(kept_, node)) series_still_.push_back(s);
            }
        if (const EventResult* b = plan_.before)
            for (const KeptFlow& f : b->flows->flows)
                if (nth(plan_.kept, f.node) && nth(plan_.nodes, f.node) == Part::Known) memory_->flows.push_back(f);
        memory_->water = still_;
        for (std::size_t i = 0; i < moving_.size(); ++i) add(memory_->water[i], moving_[i]);
        memory_->computed = static_cast<std::size_t>(std::count(needed_.begin(), needed_.end(), 1));
        std::sort(memory_->flows.begin(), memory_->flows.end(),
                  [](const KeptFlow& x, const KeptFlow& y) { return x.node < y.node; });
        if (std::any_of(net_.components.begin(), net_.components.end(), [](auto& c) { return c.further > 0; })) {
            for (const NodeResult& n : out_.nodes) memory_->node_flows.push_back(n.flow);
            for (const LinkResult& l : out_.links) memory_->link_flows.push_back(l.flow);
        }
        update_->left = memory_;
    }
    static void add(WaterBalance& to, const WaterBalance& part) {
        for (double WaterBalance::*v :
             {&WaterBalance::rain, &WaterBalance::lost, &WaterBalance::runoff, &WaterBalance::known,
              &WaterBalance::left, &WaterBalance::soaked, &WaterBalance::stored, &WaterBalance::cut})
            to.*v += part.*v;
    }
    /// Where water is counted that a node has, or that is on its way to it from another one.
    WaterBalance& book(int node, int from) { return nth(nth(again_, from) ? moving_ : still_, node); }

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
                if (const int on = net_.street_on(i); on != no_node && nth(needed_, on)) need(i);
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

    /// Where water that leaves a node arrives: what does not change from round to round is kept apart.
    Flow& sink(int from, int to) { return arriving(nth(again_, to) && !nth(again_, from) ? fixed_ : in_, to); }

    /// All nodes at first; then those that hang on what was found.
    void pass(bool first) {
        for (std::vector<int>* list : {&in_, &on_street_}) {
            for (int& f : *list) give_back(f);
            list->assign(net_.nodes.size(), -1);
        }
        if (first) {
            fixed_ = fixed_street_ = in_;
            captures_.assign(net_.inlets.size(), {});
            series_still_.clear();
        }
        std::fill(moving_.begin(), moving_.end(), WaterBalance{});
        series_.clear();
        target_flow_.clear();
        if (first)
            for (StreetEntry& e : out_.entries) e = {};
        for (const int turn : time_.turns) {
            if (stop_.stop_requested()) return;
            if (turn >= 0) {
                if (first || nth(time_.after_spill, turn)) street(turn);
                continue;
            }
            const int i = -1 - turn;
            if (first && planned_ && nth(plan_.nodes, i) == Part::Given) give(i);
            if (!nth(needed_, i)) continue;
            if (first || spill_comes_to(i)) gather_own(i, first);
            if (first || nth(again_, i)) node(i);
        }
        out_.balance = {};
        for (std::size_t i = 0; i < still_.size(); ++i) {
            WaterBalance here = still_[i];
            add(here, moving_[i]);
            add(out_.balance, here);
        }
    }
    /// What left a node in the run before, to what is computed below it.
    void give(int i) {
        const KeptFlow& f = *plan_.before->flows->of(i);
        const Node& n = nth(net_.nodes, i);
        through(n.out, *f.values, f.before, i, n.down);
        if (nth(plan_.kept, i)) memory_->flows.push_back(f);
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
            WaterBalance& b = nth(still_, i);
            b.cut += beyond;
            b.rain += r.rain * area.area;
            b.lost += (r.infiltrated + r.held) * area.area;
            b.runoff += r.runoff * area.area;
        }
    }
    /// Whether what comes to a node's inlet hangs on a pond above it.
    [[nodiscard]] bool spill_comes_to(int node) const {
        const int s = nth(net_.nodes, node).inlet;
        return s != no_inlet && nth(time_.after_spill, s);
    }
    /// What comes to an inlet over the street; what does not change from round to round is kept apart.
    Flow& street_sink(bool after_spill, int to) {
        return arriving(spill_comes_to(to) && !after_spill ? fixed_street_ : on_street_, to);
    }
    /// Adds it to a series of what comes otherwise.
    void add_street(int node, std::vector<double>& to, double& before) {
        for (const std::vector<int>* list : {&fixed_street_, &on_street_})
            if (const int f = nth(*list, node); f >= 0) {
                for (std::size_t k = 0; k < count_; ++k) to[k] += nth(flows_, f).values[k];
                before += nth(flows_, f).before;
            }
    }
    /// What an inlet takes, and where the rest goes. Where all is to enter it does, and the street is watched all the
    /// same.
    void street(int number) {
        const StreetConstants k = street_constants(net_.edition);
        const StreetInlet& in = nth(net_.inlets, number);
        const bool again = nth(time_.after_spill, number) != 0;
        nth(captures_, number) = {};
        if (planned_ ? !nth(plan_.streets, number) : !nth(needed_, in.node)) return;
        StreetFlow& f = nth(out_.streets, number);
        f = {};
        approach_.assign(count_, nth(net_.nodes, in.node).known_flow);
        own_runoff(in.node, approach_, false);
        double before = nth(net_.nodes, in.node).known_flow;
        f.own_known = before;
        comes_.assign(count_, 0.0);
        add_street(in.node, comes_, before);
        for (std::size_t i = 0; i < count_; ++i) approach_[i] += comes_[i];
        const auto most = std::max_element(approach_.begin(), approach_.end());
        f.flow = *most;
        f.known_flow = f.flow;
        f.along = comes_[static_cast<std::size_t>(most - approach_.begin())];
        f.time = (static_cast<double>(most - approach_.begin()) + 1) * step_;
        const double taken = f.flow > 0 ? taken_by(in, f.flow, k, f) : 0;
        f.efficiency = f.flow > 0 ? taken / f.flow : 1;
        f.captured = taken;
        f.bypass = f.flow - taken;
        if (in.end == PathEnd::Nowhere || !(f.bypass > 0)) return;
        const CaptureCurve capture = capture_curve(in, f.flow, k);
        if (net_.limited) nth(captures_, number) = capture;
        for (double& q : approach_) q -= capture.at(q);
        const auto book_at = [&](int node) -> WaterBalance& { return nth(again ? moving_ : still_, node); };
        if (in.end == PathEnd::OffSite) {
            if (!nth(needed_, in.node) || !net_.limited) return;
            double off = 0;
            for (const double q : approach_) off += q * step_;
            book_at(in.node).left += off;
            return;
        }
        double travel = 0;
        if (net_.gutter_time && in.gutter.grade > 0) {
            const GutterFlow past = gutter_flow(in.gutter, f.bypass, k);
            if (past.velocity > 0) travel = in.path_length / past.velocity;
        }
        f.travel = travel;
        const double passes_before = before - capture.at(before);
        const int next = nth(net_.nodes, in.to).inlet;
        const bool inlet = next != no_inlet;
        if (!inlet && !net_.limited) return;
        if (planned_ && !(inlet ? nth(plan_.streets, next) : nth(needed_, in.to))) return;
        Flow& to = inlet ? street_sink(again, in.to) : arriving(nth(again_, in.to) && !again ? fixed_ : in_, in.to);
        const double way = lag(approach_, passes_before, travel / step_, to.values) * step_;
        if (nth(needed_, in.to) && net_.limited) book_at(in.to).stored += way;
        to.before += passes_before;
    }

    /// What a node brings itself, with what comes to it over the street, to what arrives.
    void gather_own(int i, bool first) {
        const Node& n = nth(net_.nodes, i);
        Flow& q = arriving(nth(again_, i) && !spill_comes_to(i) ? fixed_ : in_, i);
        own_.assign(count_, 0.0);
        own_runoff(i, own_, first);
        if (first) nth(still_, i).known += n.known_flow * step_ * static_cast<double>(count_);
        double before = n.known_flow;
        // All that comes to the inlet, in the order in which street() adds it.
        comes_.assign(count_, 0.0);
        if (net_.limited) add_street(i, comes_, before);
        give_back(nth(on_street_, i));
        for (std::size_t k = 0; k < count_; ++k) comes_[k] = n.known_flow + own_[k] + comes_[k];
        if (n.inlet == no_inlet || nth(captures_, n.inlet).flows.empty()) {
            for (std::size_t k = 0; k < count_; ++k) q.values[k] += comes_[k];
            q.before += before;
        } else {
            const CaptureCurve& capture = nth(captures_, n.inlet);
            for (std::size_t k = 0; k < count_; ++k) q.values[k] += capture.at(comes_[k]);
            q.before += capture.at(before);
        }
        if (first && nth(kept_, i)) {
            note(i, "rain", depths_, 1 / step_, true);
            note(i, "runoff", own_, 1, true);
        }
    }

    void node(int i) {
        const Node& n = nth(net_.nodes, i);
        NodeFlow& f = nth(out_.nodes, i).flow;
        Flow& q = arriving(in_, i);
        if (nth(again_, i)) {
            if (const int own = nth(fixed_, i); own >= 0) {
                for (std::size_t k = 0; k < count_; ++k) q.values[k] += nth(flows_, own).values[k];
                q.before += nth(flows_, own).before;
            }
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
            through(n.out, q.values, q.before, i, n.down);
            if (planned_ && nth(plan_.kept, i))
                memory_->flows.push_back({i, q.before, std::make_shared<const std::vector<double>>(q.values)});
        } else {
            if (keep) note(i, "flow", q.values);
            book(i, i).left += sum * step_;
        }
        for (const int t : targets_)
            if (t == i) target_flow_.emplace_back(i, q.values);
        give_back(nth(in_, i));
    }
    /// Largest flow of a link, and its water at the next node.
    void through(int link, const std::vector<double>& q, double before, int from, int to) {
        const Link& l = nth(net_.links, link);
        LinkFlow& f = nth(out_.links, link).flow;
        f = {};
        f.flow = f.known_flow = std::max(0.0, *std::max_element(q.begin(), q.end()));
        run_through(net_, l, f);
        if (!nth(needed_, to)) {
            double sum = 0;
            for (const double v : q) sum += v;
            book(from, from).left += sum * step_;
            return;
        }
        Flow& next = sink(from, to);
        next.before += before;
        book(to, from).stored += time_.travel_by == TravelBy::Kinematic && l.solvable && f.travel > step_ && l.slope > 0
                                     ? kinematic(l, q, before, step_, f.travel, reach_, next.values)
                                     : lag(q, before, f.travel / step_, next.values) * step_;
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
        book(i, i).soaked += r.soaked;
        book(i, i).stored += r.stored;
        levels_.resize(time_.ponds.size());
        nth(levels_, p) = r.level;
        if (keep) {
            note(i, "flow", r.outflow);
            note(i, "level", r.level);
        }
        std::vector<double> part;
        for (std::size_t w = 0; w < pond.ways.size(); ++w) {
            const std::span<const double> of(r.ways.data() + w * count_, count_);
            double sum = 0;
            for (const double v : of) sum += v;
            s.way_volumes.push_back(sum * step_);
            part.assign(of.begin(), of.end());
            if (keep) {
                note(i, "way " + std::to_string(w + 1), part);
                if (w < in.below.size() && !in.below[w].empty()) note(i, "below " + std::to_string(w + 1), in.below[w]);
            }
            const WayOut& way = pond.ways[w];
            if (pond.pipes[w] >= 0) {
                through(pond.pipes[w], part, 0, i, nth(net_.links, pond.pipes[w]).to);
            } else if (way.behind >= 0) continue;
            else if (way.target >= 0 && nth(needed_, way.target)) {
                const auto run = [&](Flow& next) {
                    for (std::size_t k = 0; k < count_; ++k) next.values[k] += part[k];
                };
                if (way.over_street) run(street_sink(true, way.target));
                if (!way.over_street || !net_.limited) run(sink(i, way.target));
            } else book(i, i).left += sum * step_;
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

    /// Whether the water at its target can hold a way out back: not a pump's, nor a spill over the ground.
    static bool meets_level(const WayOut& w) { return w.target >= 0 && w.behind < 0 && !w.pump && !w.over_street; }
    /// Nodes that ways out of ponds run to: their flows through time are kept.
    void find_targets() {
        for (const PondNode& p : time_.ponds)
            for (const WayOut& w : p.ways)
                if (meets_level(w) && nth(needed_, w.target)) targets_.push_back(w.target);
        std::sort(targets_.begin(), targets_.end());
        targets_.erase(std::unique(targets_.begin(), targets_.end()), targets_.end());
    }
    /// Levels that ways out of ponds meet, from the flows that were found. False where none changed by a millimetre.
    bool meet_levels() {
        if (time_.ponds.empty()) return false;
        if (targets_.empty()) return false;
        bool changed = false;
        std::vector<std::pair<int, std::vector<double>>> stand;
        LevelByFlow levels(net_, out_);
        for (const int t : targets_) {
            std::vector<double> level;
            if (const int p = nth(time_.pond_of, t); p >= 0) level = nth(levels_, p);
            else if (const auto* q = flow_at(t)) level = levels.at(t, *q);
            stand.emplace_back(t, std::move(level));
        }
        for (std::size_t p = 0; p < time_.ponds.size(); ++p) {
            const PondNode& pond = time_.ponds[p];
            std::vector<std::vector<double>>& below = below_[p];
            below.resize(pond.ways.size());
            double worst = 0;
            for (std::size_t w = 0; w < pond.ways.size(); ++w) {
                const WayOut& way = pond.ways[w];
                if (!meets_level(way)) continue;
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
    std::vector<int> spare_, in_;
    std::vector<int> on_street_;          ///< by node: what comes to its inlet along streets
    std::vector<int> fixed_street_;       ///< of that, what comes whatever the ponds spill
    std::vector<CaptureCurve> captures_;  ///< by inlet: of what comes by its catchments and the street, that enters
    std::vector<double> own_, one_, approach_, comes_;
    CatchmentFlow makers_;
    std::vector<Reach> reach_;
    std::vector<std::vector<std::vector<double>>> below_;  ///< by pond, then way
    std::vector<std::vector<double>> levels_;              ///< by pond
    std::vector<int> targets_;
    std::vector<std::pair<int, std::vector<double>>> target_flow_;
    std::vector<Series> series_, series_still_;  ///< of nodes that hang on levels below ponds, and of others
    std::vector<char> again_;
    std::vector<int> fixed_;                    ///< what arrives at such nodes whatever those levels are
    std::vector<WaterBalance> still_, moving_;  ///< by node: what stands after the first pass, and of the last one
    int round_ = 0;
    FlowUpdate* update_;
    FlowPlan plan_;
    bool planned_ = false;
    std::shared_ptr<FlowMemory> memory_ = std::make_shared<FlowMemory>();
};

}  // namespace

std::vector<Series> solve_through_time(const Network& network, const EventRain& rain, Summaries& out,
                                       const AskedSeries& asked, const std::stop_token& stop, FlowUpdate* update) {
    if (!network.through_time) return {};
    return ThroughTimeSolver(network, rain, out, asked, stop, update).run();
}

}  // namespace culvert
