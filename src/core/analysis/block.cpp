// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/block.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <limits>

#include "core/analysis/grade_line.h"
#include "core/base/contract.h"
#include "core/hydraulics/uniform_flow.h"

namespace culvert {
namespace {

constexpr int most_rounds = 60, most_steps = 80;
constexpr double level_within = 2e-6;  ///< m, of levels reached on two ways
constexpr double flow_within = 1e-6;   ///< of the largest flow
constexpr double nothing = -1e6;       ///< level of what is not there

class BlockSolver {
  public:
    BlockSolver(const Network& network, const Component& part, const EventRain& rain, Summaries& out,
                const std::stop_token& stop)
        : net_(network),
          part_(part),
          rain_(rain),
          out_(out),
          stop_(stop),
          flow_(static_cast<std::size_t>(part.link_end - part.link_begin), 0.0),
          supply_(static_cast<std::size_t>(part.node_end - part.node_begin), 0.0),
          level_(supply_.size(), nothing) {
        std::vector<char>& counts = in_core_;
        counts.assign(supply_.size(), 0);
        links_of_.resize(supply_.size());
        for (int l = part.link_begin; l < part.link_end; ++l) {
            const Link& link = nth(net_.links, l);
            links_of_[at_node(link.from)].push_back(l);
            links_of_[at_node(link.to)].push_back(l);
            if (link.main) continue;
            further_.push_back(l);
            for (int end : {link.from, link.to})
                for (; end != no_node && !counts[at_node(end)]; end = nth(net_.nodes, end).down)
                    counts[at_node(end)] = 1;
        }
        for (int i = part.node_end; i-- > part.node_begin;)
            if (counts[at_node(i)]) core_.push_back(i);
        x_.assign(further_.size(), 0.0);
    }

    std::size_t run() {
        tree_flows();
        rate_tails(net_, part_, out_);
        int stuck = 0;  // rounds that ended without a balance
        for (int round = 0; round < most_rounds && !tired(); ++round) {
            largest_ = 0;
            for (const double s : supply_) largest_ += std::max(s, 0.0);
            if (largest_ <= dry_flow) break;
            stuck = balance() ? 0 : stuck + 1;
            spread(x_);
            const double changed = distribute();
            rate_tails(net_, part_, out_);
            if (changed <= flow_within * largest_ || stuck == 3) break;
        }
        distribute();
        rate_tails(net_, part_, out_);
        levels();
        return flow_.size();
    }

  private:
    [[nodiscard]] bool tired() const { return work_ > most_work || stop_.stop_requested(); }
    [[nodiscard]] std::size_t at_node(int node) const { return static_cast<std::size_t>(node - part_.node_begin); }
    [[nodiscard]] std::size_t at_link(int link) const { return static_cast<std::size_t>(link - part_.link_begin); }

    /// The first guess: all water takes the tree.
    void tree_flows() {
        Component tree = part_;
        solve_flows(net_, tree, rain_, out_);
        std::vector<double> arrives(supply_.size(), 0.0);
        for (int i = part_.node_begin; i < part_.node_end; ++i) {
            const Node& n = nth(net_.nodes, i);
            supply_[at_node(i)] = nth(out_.nodes, i).flow.flow - arrives[at_node(i)];
            if (n.out != no_link) arrives[at_node(n.down)] += nth(out_.links, n.out).flow.flow;
        }
    }

    /// Flows of all links for given ones of the further links: continuity at every structure.
    void spread(const std::vector<double>& x) {
        std::vector<double>& arrives = scratch_;
        arrives = supply_;
        for (std::size_t k = 0; k < further_.size(); ++k) {
            const Link& l = nth(net_.links, further_[k]);
            flow_[at_link(further_[k])] = x[k];
            arrives[at_node(l.from)] -= x[k];
            arrives[at_node(l.to)] += x[k];
        }
        for (int i = part_.node_begin; i < part_.node_end; ++i) {
            const Node& n = nth(net_.nodes, i);
            if (n.out == no_link) continue;
            flow_[at_link(n.out)] = arrives[at_node(i)];
            arrives[at_node(n.down)] += arrives[at_node(i)];
        }
    }

    /// Level that a link needs at the node the water comes from, with a flow >= 0 and the level where it goes.
    [[nodiscard]] double needs(const Link& l, double flow, bool against, double below) const {
        LinkFlow f;
        f.flow = flow;
        f.against = against;
        f.normal =
            flow > dry_flow ? normal_depth(l.section, l.roughness, against ? -l.slope : l.slope, flow / l.barrels) : 0;
        NodeLevel b;
        b.level = b.energy = below <= nothing ? not_given : below;
        PipeInput in = input_of(net_, l, f, b, out_);
        in.from_joint = false;  // where ways meet or part, a joint is still water like any structure
        if (in.end == PipeInput::End::Joint) in.end = PipeInput::End::Structure;
        NodeLevel node;
        LinkLevel link;
        solve_pipe(in, node, link);
        return node.level;
    }
    /// Level at the upper end of a tree link. Where the tree's water runs backwards it is the level that, at the other
    /// end, needs just what stands below; without such a level, as far below the free outflow as that lies above.
    [[nodiscard]] double upper_level(const Link& l, double flow, double below) const {
        if (flow >= 0) return needs(l, flow, false, below);
        const double free = needs(l, -flow, true, nothing);
        const double exit = l.invert_up + critical_depth(l.section, -flow / l.barrels);
        if (!(free < below)) return exit - (free - below);
        double low = exit, high = below;
        if (low >= high) return below;
        for (int i = 0; i < 60 && high - low > 1e-9; ++i) {
            const double middle = (low + high) / 2;
            (needs(l, -flow, true, middle) > below ? high : low) = middle;
        }
        return (low + high) / 2;
    }
    [[nodiscard]] double outfall_level(int node) const {
        const Tail tail = out_.tail_of(node);
        const int rating = nth(net_.nodes, node).rating;
        if (tail.kind != Tailwater::Rating || rating == none_of_list) return tail.stands() ? tail.level : nothing;
        double arrives = 0;  // the level is that of the flow being tried
        for (const int l : links_of_[at_node(node)])
            arrives += nth(net_.links, l).to == node ? flow_[at_link(l)] : -flow_[at_link(l)];
        return rated_level(nth(net_.ratings, rating), arrives);
    }

    /// Levels, for the flows that stand in `flow_`, of the nodes below the ends of further links.
    void find_levels() {
        work_ += core_.size();
        for (const int i : core_) {
            const Node& n = nth(net_.nodes, i);
            double& level = level_[at_node(i)];
            if (n.out == no_link) {
                level = outfall_level(i);
                continue;
            }
            const Link& l = nth(net_.links, n.out);
            level = l.solvable ? upper_level(l, flow_[at_link(n.out)], level_[at_node(n.down)]) : not_given;
        }
    }

    struct Residual {
        double g = 0;       ///< m; 0 where the link is content
        bool free = false;  ///< whether its flow is to be changed by it
    };
    /// What is missing at a further link, with all levels for its flow at hand.
    [[nodiscard]] Residual residual(std::size_t k, double x) const {
        const Link& l = nth(net_.links, further_[k]);
        const double from = level_[at_node(l.from)], to = level_[at_node(l.to)];
        if (!l.solvable || std::isnan(from) || std::isnan(to)) return {};
        if (x > dry_flow) return {from - needs(l, x, false, to), true};
        const bool outfall = nth(net_.nodes, l.to).out == no_link;
        if (x < -dry_flow) return {needs(l, -x, true, from) - to, true};
        const double crest = std::max(l.invert_up, l.invert_down);
        if (const double forward = from - std::max(to, crest); forward > level_within) return {forward, true};
        if (const double back = outfall ? 1 : std::max(from, crest) - to; back < -level_within) return {back, true};
        return {};
    }
    double evaluate(const std::vector<double>& x, std::vector<Residual>& g) {
        spread(x);
        find_levels();
        double worst = 0;
        for (std::size_t k = 0; k < x.size(); ++k) {
            g[k] = residual(k, x[k]);
            worst = std::max(worst, std::abs(g[k].g));
        }
        return worst;
    }
    [[nodiscard]] double least(std::size_t k) const {  // no water comes out of an outfall
        return nth(net_.nodes, nth(net_.links, further_[k]).to).out == no_link ? 0 : -largest_;
    }

    bool balance() {
        std::vector<Residual> g(x_.size()), trial_g(x_.size());
        double worst = evaluate(x_, g);
        for (int step = 0; step < most_steps && worst > level_within && !tired(); ++step) {
            if (!newton(g, worst, trial_g)) sweep();
            worst = evaluate(x_, g);
        }
        return worst <= level_within;
    }

    /// A step of Newton's method over the links that want one, halved until it helps. False where it does not.
    bool newton(const std::vector<Residual>& g, double worst, std::vector<Residual>& trial_g) {
        std::vector<std::size_t> active;
        for (std::size_t k = 0; k < x_.size(); ++k)
            if (g[k].free && std::abs(x_[k]) > dry_flow) active.push_back(k);
        for (std::size_t k = 0; k < x_.size(); ++k)  // at rest, but wants to run: it begins with a little
            if (g[k].free && std::abs(x_[k]) <= dry_flow) return false;
        if (active.empty() || active.size() > 200) return false;
        const auto n = static_cast<Eigen::Index>(active.size());
        Eigen::MatrixXd j(n, n);
        Eigen::VectorXd r(n);
        std::vector<double> x = x_;
        for (Eigen::Index c = 0; c < n; ++c) {
            const std::size_t k = active[static_cast<std::size_t>(c)];
            const double h = std::max(1e-5 * std::abs(x_[k]), 1e-7 * largest_);
            x[k] = x_[k] + h;
            evaluate(x, trial_g);
            x[k] = x_[k];
            for (Eigen::Index i = 0; i < n; ++i) {
                const std::size_t a = active[static_cast<std::size_t>(i)];
                j(i, c) = (trial_g[a].g - g[a].g) / h;
            }
            r(c) = -g[k].g;
        }
        const Eigen::VectorXd d = j.partialPivLu().solve(r);
        if (!d.allFinite()) return false;
        for (int halved = 0; halved < 6; ++halved) {  // down to a thirty-second of the step
            const double t = std::ldexp(1.0, -halved);
            for (Eigen::Index c = 0; c < n; ++c) {
                const std::size_t k = active[static_cast<std::size_t>(c)];
                double to = std::clamp(x_[k] + t * d(c), least(k), largest_);
                if (to * x_[k] < 0) to = 0;  // through rest one step at a time
                x[k] = to;
            }
            if (evaluate(x, trial_g) < worst * (1 - 0.1 * t)) {
                x_ = x;
                return true;
            }
        }
        return false;
    }

    /// Each further link by itself, in a bracket: the residual falls with its flow.
    void sweep() {
        for (std::size_t k = 0; k < x_.size() && !tired(); ++k) {
            const auto value = [&](double x) {
                x_[k] = x;
                spread(x_);
                find_levels();
                return residual(k, x).g;
            };
            const double now = value(x_[k]);
            if (std::abs(now) <= level_within / 2) continue;
            double low = now > 0 ? x_[k] : least(k), high = now > 0 ? largest_ : x_[k];
            // At rest the residual spans an interval: a change of sign through it is content there.
            if (low < 0 && high > 0) {
                const double rest = value(0);
                if (rest == 0) continue;
                (rest > 0 ? low : high) = 0;
            }
            double f_low = value(low), f_high = value(high);
            if (f_low <= 0) {
                value(low);
                continue;
            }
            if (f_high >= 0) {
                value(high);
                continue;
            }
            double x = low;
            int side = 0;
            for (int i = 0; i < 80 && high - low > 1e-13 * largest_; ++i) {
                x = i % 10 == 9 ? (low + high) / 2 : (low * f_high - high * f_low) / (f_high - f_low);
                if (!(x > low && x < high)) x = (low + high) / 2;
                const double f = value(x);
                if (std::abs(f) <= level_within / 4) break;
                if (f > 0) {
                    low = x, f_low = f;
                    if (side == 1) f_high /= 2;
                    side = 1;
                } else {
                    high = x, f_high = f;
                    if (side == -1) f_low /= 2;
                    side = -1;
                }
            }
            value(x);
        }
    }

    /// Nodes in the order of the water, by the flows that run.
    [[nodiscard]] std::vector<int> order() const {
        std::vector<int> waits(supply_.size(), 0), ready, done;
        const auto ends = [&](int link) {
            const Link& l = nth(net_.links, link);
            return runs(link) > 0 ? std::pair{l.from, l.to} : std::pair{l.to, l.from};
        };
        for (int l = part_.link_begin; l < part_.link_end; ++l)
            if (runs(l) != 0) ++waits[at_node(ends(l).second)];
        for (int i = part_.node_end; i-- > part_.node_begin;)
            if (waits[at_node(i)] == 0) ready.push_back(i);
        std::vector<char> taken(supply_.size(), 0);
        while (done.size() < supply_.size()) {
            int node = no_node;
            if (!ready.empty()) {
                node = ready.back();
                ready.pop_back();
            } else  // water that runs round, by rounding alone: the first that is left
                for (int i = part_.node_begin; i < part_.node_end && node == no_node; ++i)
                    if (!taken[at_node(i)]) node = i;
            if (taken[at_node(node)]) continue;
            taken[at_node(node)] = 1;
            done.push_back(node);
            for (const int l : links_of_[at_node(node)])
                if (runs(l) != 0 && ends(l).first == node && --waits[at_node(ends(l).second)] == 0)
                    ready.push_back(ends(l).second);
        }
        return done;
    }
    /// 1 as listed, -1 against, 0 where nothing runs.
    [[nodiscard]] int runs(int link) const {
        const double q = flow_[at_link(link)], least = std::max(dry_flow, 1e-10 * largest_);
        return q > least ? 1 : (q < -least ? -1 : 0);
    }

    /// Rational flows along the ways, divided as the balance of heads divides them. Sets supplies and returns the
    /// largest change of a link's flow.
    double distribute() {
        for (int i = part_.node_begin; i < part_.node_end; ++i) nth(out_.nodes, i).flow = {};
        std::vector<double> arrives(supply_.size(), 0.0);
        double change = 0;
        for (int l = part_.link_begin; l < part_.link_end; ++l)
            if (runs(l) == 0) nth(out_.links, l).flow = {};
        for (const int i : order()) {
            NodeFlow& f = nth(out_.nodes, i).flow;
            gather(net_, i, rain_, out_);
            supply_[at_node(i)] = f.flow - arrives[at_node(i)];
            double leaves = 0;
            for_ways(i, [&](int, double q) { leaves += q; });
            const auto send = [&](int link, double share, bool against) {
                const Link& l = nth(net_.links, link);
                LinkFlow& out = nth(out_.links, link).flow;
                out = {f.effective_area * share, f.known_flow * share, f.flow * share, 0, 0, 0, against};
                run_through(net_, l, out);
                const int to = against ? l.from : l.to;
                NodeFlow& d = nth(out_.nodes, to).flow;
                d.effective_area += out.effective_area;
                d.known_flow += out.known_flow;
                if (out.effective_area > 0) d.time = std::max(d.time, f.time + out.travel);
                d.flow = std::max(d.flow, out.flow);
                arrives[at_node(to)] += out.flow;
                change = std::max(change, std::abs(out.flow - std::abs(flow_[at_link(link)])));
            };
            const int out = nth(net_.nodes, i).out;
            if (leaves > 0) for_ways(i, [&](int link, double q) { send(link, q / leaves, runs(link) < 0); });
            else if (out != no_link && f.flow > dry_flow && runs(out) == 0) send(out, 1, false);
        }
        return change;
    }
    /// Calls f(link, flow) for the links by which water leaves a node.
    template <class F>
    void for_ways(int node, F f) const {
        for (const int l : links_of_[at_node(node)]) {
            const Link& link = nth(net_.links, l);
            const int way = runs(l);
            if ((way > 0 && link.from == node) || (way < 0 && link.to == node)) f(l, std::abs(flow_[at_link(l)]));
        }
    }

    /// Final levels, from where the water goes to where it comes from: a structure takes its level from the way that
    /// carries most.
    void levels() {
        for (int i = part_.node_begin; i < part_.node_end; ++i) {
            const Node& n = nth(net_.nodes, i);
            nth(out_.nodes, i).level = {};
            if (const Tail tail = out_.tail_of(i); n.out == no_link && tail.stands())
                nth(out_.nodes, i).level.level = nth(out_.nodes, i).level.energy = tail.level;
        }
        for (int l = part_.link_begin; l < part_.link_end; ++l) nth(out_.links, l).level = {};
        const std::vector<int> way = order();
        std::vector<std::pair<int, double>> solved;
        const auto settle = [&](int i) {
            const Node& n = nth(net_.nodes, i);
            if (n.out == no_link) return;
            NodeLevel& node = nth(out_.nodes, i).level;
            double most = -1;
            int ways = 0;
            for_ways(i, [&](int, double) { ++ways; });
            solved.clear();
            const auto solve = [&](int link, double weight) {
                const Link& l = nth(net_.links, link);
                LinkResult& r = nth(out_.links, link);
                const NodeLevel& below = nth(out_.nodes, r.flow.against ? l.from : l.to).level;
                PipeInput in = input_of(net_, l, r.flow, below, out_);
                if (!l.solvable || (in.end != PipeInput::End::Outfall && std::isnan(below.energy))) return;
                if (in_core_[at_node(i)]) in.from_joint = false;
                const int below_node = r.flow.against ? l.from : l.to;
                if (in.end == PipeInput::End::Joint && in_core_[at_node(below_node)])
                    in.end = PipeInput::End::Structure;
                NodeLevel own;
                solve_pipe(in, own, r.level);
                solved.emplace_back(link, own.level);
                if (r.flow.against) turn(r.level);
                if (weight > most) {
                    most = weight;
                    node = own;
                }
            };
            if (ways == 0) solve(n.out, 0);
            else for_ways(i, [&](int link, double q) { solve(link, q); });
            for (const auto& [link, level] : solved)
                if (std::abs(level - node.level) > balanced_within)
                    out_.unbalanced.push_back({link, level - node.level});
        };
        for (auto i = way.rbegin(); i != way.rend(); ++i) settle(*i);
        // Where nothing runs no water says which comes first: those stand in what their main way leads to.
        for (int i = part_.node_end; i-- > part_.node_begin;)
            if (std::isnan(nth(out_.nodes, i).level.energy)) settle(i);
        // What carries nothing stands in the water of its ends.
        for (int l = part_.link_begin; l < part_.link_end; ++l) {
            const Link& link = nth(net_.links, l);
            LinkResult& r = nth(out_.links, l);
            if (r.flow.flow > dry_flow || !link.solvable || !std::isnan(r.level.head_up)) continue;
            const auto depth = [](double level, double invert) {
                return std::isnan(level) ? 0 : std::max(level - invert, 0.0);
            };
            r.level.head_up = depth(nth(out_.nodes, link.from).level.level, link.invert_up);
            r.level.head_down = r.level.slow_down = depth(nth(out_.nodes, link.to).level.level, link.invert_down);
            r.level.control = Control::Uniform;
            const NodeLevel &a = nth(out_.nodes, link.from).level, &b = nth(out_.nodes, link.to).level;
            if (link.main || a.held || b.held || std::isnan(a.level)) continue;
            const double crest = std::max(link.invert_up, link.invert_down);
            const auto above = [&](double from, double to) {
                return from - std::max(std::isnan(to) ? nothing : to, crest);
            };
            const double left = std::max(above(a.level, b.level),
                                         nth(net_.nodes, link.to).out == no_link ? nothing : above(b.level, a.level));
            if (left > balanced_within) out_.unbalanced.push_back({l, left});
        }
        std::sort(out_.unbalanced.begin(), out_.unbalanced.end(),
                  [](const Unbalanced& x, const Unbalanced& y) { return x.link < y.link; });
        run_fast(net_, part_, out_);
        level_outfalls(net_, part_, out_);
    }
    /// A grade line computed along the water, as the link is listed against it. Fast water that enters runs on to its
    /// end.
    static void turn(LinkLevel& r) {
        std::swap(r.head_up, r.head_down);
        std::swap(r.velocity_up, r.velocity_down);
        if (r.jump == -1) r.jump = 0;
        r.fast_up = not_given;
    }

    const Network& net_;
    const Component& part_;
    const EventRain& rain_;
    Summaries& out_;
    const std::stop_token& stop_;
    std::size_t work_ = 0;             ///< profiles computed
    std::vector<char> in_core_;        ///< by node
    std::vector<int> further_, core_;  ///< links beside the tree; nodes from their ends down, lowest first
    std::vector<std::vector<int>> links_of_;
    std::vector<double> x_;       ///< flows of the further links
    std::vector<double> flow_;    ///< of all links of the block, signed
    std::vector<double> supply_;  ///< what enters at each node beside what arrives
    std::vector<double> level_, scratch_;
    double largest_ = 0;
};

}  // namespace

std::size_t solve_block(const Network& network, const Component& component, const EventRain& rain, Summaries& out,
                        const std::stop_token& stop) {
    return BlockSolver(network, component, rain, out, stop).run();
}

}  // namespace culvert
