// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/propose_network.h"

#include <algorithm>
#include <cmath>
#include <queue>
#include <random>
#include <set>

#include "core/base/contract.h"
#include "core/design/branches.h"
#include "core/design/pipe_fit.h"
#include "core/model/lay.h"

namespace culvert {
namespace {

constexpr int near_neighbours = 5, restarts = 12, more_restarts = 80, few = 40;
constexpr double off_street = 1.33, crossing_price = 1e5;

int other_end(const Way& w, int node) { return w.a == node ? w.b : w.a; }

/// Ways at each node.
std::vector<std::vector<int>> ways_at(std::size_t nodes, std::span<const Way> ways) {
    std::vector<std::vector<int>> at(nodes);
    for (std::size_t w = 0; w < ways.size(); ++w) {
        nth(at, ways[w].a).push_back(static_cast<int>(w));
        nth(at, ways[w].b).push_back(static_cast<int>(w));
    }
    return at;
}

/// A tree laid from its heads down, for its cost. Nodes that lead nothing away are left out.
class TreeCost {
  public:
    TreeCost(std::span<const WayNode> nodes, std::span<const Way> ways, int root, const LayRules& rules)
        : nodes_(nodes), ways_(ways), root_(root), rules_(rules) {}

    double operator()(const std::vector<int>& way) {
        const std::size_t n = nodes_.size();
        used_.assign(n, 0);
        enters_.assign(n, 0);
        for (std::size_t i = 0; i < n; ++i) {
            if (!nodes_[i].must) continue;
            for (int at = static_cast<int>(i); at != root_ && !nth(used_, at);) {
                nth(used_, at) = 1;
                if (nth(way, at) < 0) return 1e300;
                at = other_end(nth(ways_, nth(way, at)), at);
            }
        }
        for (std::size_t i = 0; i < n; ++i)
            if (used_[i]) ++nth(enters_, other_end(nth(ways_, way[i]), static_cast<int>(i)));
        level_.assign(n, 1e300);
        order_.clear();
        for (std::size_t i = 0; i < n; ++i)
            if (used_[i] && enters_[i] == 0) order_.push_back(static_cast<int>(i));
        double cost = 0;
        std::size_t done = 0;
        for (; done < order_.size(); ++done) {
            const int i = order_[done];
            const Way& w = nth(ways_, nth(way, i));
            const int to = other_end(w, i);
            const double rim = nth(nodes_, i).rim, rim_to = nth(nodes_, to).rim;
            double up = std::min(rim - rules_.above, nth(level_, i) - rules_.drop);
            double down = std::min(to == root_ && std::isnan(rim_to) ? 1e300 : rim_to - rules_.above,
                                   up - rules_.least_slope * w.length);
            up = std::min(up, down + rules_.most_slope * w.length);
            const double end = std::isnan(rim_to) ? down + rules_.above : rim_to;
            const double depth = std::max(0.0, (rim - up + end - down) / 2) + rules_.below;
            cost += w.weight * w.length * (depth * rules_.width * rules_.dig_price + rules_.pipe_price);
            nth(level_, to) = std::min(nth(level_, to), down);
            for (const int c : w.crossings) {  // counted once, by the lower number
                const Way& x = nth(ways_, c);
                const auto takes = [&](int node) { return nth(used_, node) && nth(way, node) == c; };
                if (c > nth(way, i) && (takes(x.a) || takes(x.b))) cost += crossing_price;
            }
            if (to != root_ && --nth(enters_, to) == 0) order_.push_back(to);
        }
        std::size_t all = 0;
        for (const char u : used_) all += static_cast<std::size_t>(u);
        return done == all ? cost : 1e300;  // a ring leads nothing away
    }

  private:
    std::span<const WayNode> nodes_;
    std::span<const Way> ways_;
    int root_;
    const LayRules& rules_;
    std::vector<char> used_;
    std::vector<int> enters_, order_;
    std::vector<double> level_;
};

/// The tree of the shortest ways to the root, ways priced by a function.
template <class Price>
std::vector<int> shortest(std::span<const WayNode> nodes, std::span<const Way> ways, int root, Price price) {
    const auto at = ways_at(nodes.size(), ways);
    std::vector<double> away(nodes.size(), 1e300);
    std::vector<int> way(nodes.size(), -1);
    std::priority_queue<std::pair<double, int>, std::vector<std::pair<double, int>>, std::greater<>> open;
    nth(away, root) = 0;
    open.emplace(0.0, root);
    while (!open.empty()) {
        const auto [d, node] = open.top();
        open.pop();
        if (d > nth(away, node)) continue;
        for (const int w : nth(at, node)) {
            const int from = other_end(nth(ways, w), node);
            const double through = d + price(w, from, node);
            if (through < nth(away, from) - 1e-12) {
                nth(away, from) = through;
                nth(way, from) = w;
                open.emplace(through, from);
            }
        }
    }
    return way;
}

/// Single nodes led elsewhere as long as the whole gets cheaper.
void improve(TreeCost& price, std::span<const Way> ways, const std::vector<std::vector<int>>& at, int root,
             WayTree& tree, bool pairs, const std::stop_token& stop) {
    bool better = true;
    while (better && !stop.stop_requested()) {
        better = false;
        for (std::size_t i = 0; i < tree.way.size() && !stop.stop_requested(); ++i) {
            const int node = static_cast<int>(i);
            if (node == root) continue;
            const int stands = tree.way[i];
            int best = stands;
            for (const int w : at[i]) {
                if (w == stands) continue;
                tree.way[i] = w;
                const int to = other_end(nth(ways, w), node);
                const int neighbour = to == root ? -1 : nth(tree.way, to);
                if (const double cost = price(tree.way); cost < tree.cost - 1e-9) {
                    tree.cost = cost;
                    best = w;
                    better = true;
                }
                // With that the neighbour led elsewhere too: also where its water runs through this one now.
                if (to == root || !pairs) continue;
                int turned = neighbour;
                for (const int v : nth(at, to)) {
                    if (v == neighbour) continue;
                    nth(tree.way, to) = v;
                    if (const double cost = price(tree.way); cost < tree.cost - 1e-9) {
                        tree.cost = cost;
                        best = w;
                        turned = v;
                        better = true;
                    }
                }
                nth(tree.way, to) = turned;
                if (turned != neighbour) break;  // the rest is priced by another tree
            }
            tree.way[i] = best;
        }
    }
}

}  // namespace

double cost_of_tree(std::span<const WayNode> nodes, std::span<const Way> ways, int root, const LayRules& rules,
                    const std::vector<int>& way) {
    return TreeCost(nodes, ways, root, rules)(way);
}

WayTree shortest_tree(std::span<const WayNode> nodes, std::span<const Way> ways, int root, const LayRules& rules) {
    WayTree tree;
    tree.way = shortest(nodes, ways, root, [&](int w, int, int) { return nth(ways, w).length * nth(ways, w).weight; });
    tree.cost = TreeCost(nodes, ways, root, rules)(tree.way);
    return tree;
}

WayTree cheapest_tree(std::span<const WayNode> nodes, std::span<const Way> ways, int root, const LayRules& rules,
                      const std::stop_token& stop) {
    TreeCost price(nodes, ways, root, rules);
    const auto at = ways_at(nodes.size(), ways);
    const WayTree first = shortest_tree(nodes, ways, root, rules);
    WayTree best = first;
    std::mt19937 random(7);
    // From trees of the shortest ways where rising ground counts, more or less, and ways a little by chance.
    const int rounds = nodes.size() <= few ? more_restarts : restarts;
    for (int round = 0; round < rounds && !stop.stop_requested(); ++round) {
        std::vector<double> chance(ways.size(), 1);
        if (round > 1)
            for (double& c : chance) c = std::uniform_real_distribution<double>(0.7, 1.4)(random);
        const double rise = round == 0 ? 0 : (round % 4) * 60.0;
        WayTree tree;
        tree.way = shortest(nodes, ways, root, [&](int w, int from, int to) {
            const Way& x = nth(ways, w);
            const double up = nth(nodes, to).rim - nth(nodes, from).rim + rules.least_slope * x.length;
            return x.length * x.weight * nth(chance, w) + rise * std::max(0.0, std::isnan(up) ? 0 : up);
        });
        tree.cost = price(tree.way);
        improve(price, ways, at, root, tree, nodes.size() <= few, stop);
        if (tree.cost < best.cost) best = std::move(tree);
    }
    if (nodes.size() > few) improve(price, ways, at, root, best, true, stop);
    return best;
}

namespace {

class NetworkSearch {
  public:
    NetworkSearch(const Project& project, const Ground& ground, const NetworkAsk& ask, const std::stop_token& stop)
        : project_(project), ground_(ground), ask_(ask), stop_(stop) {}

    NetworkProposal run() {
        if (!gather()) return std::move(out_);
        find_meetings();
        along_streets();
        to_neighbours();
        find_crossings();
        if (stop_.stop_requested()) return {};
        drop_unreached();
        if (!out_.error.empty()) return std::move(out_);
        rules();
        std::vector<Way> plain = ways_;
        for (Way& w : plain) w.crossings.clear(), w.weight = 1;
        out_.cost_first = shortest_tree(nodes_, plain, root_, rules_).cost;
        const WayTree tree = cheapest_tree(nodes_, ways_, root_, rules_, stop_);
        if (stop_.stop_requested()) return {};
        write(tree);
        return std::move(out_);
    }

  private:
    struct Place {
        Point at;
        std::uint64_t structure = 0;  ///< 0: where streets meet
    };

    int add_node(Point at, std::uint64_t structure, double rim, bool must) {
        places_.push_back({at, structure});
        nodes_.push_back({rim, must});
        return static_cast<int>(nodes_.size()) - 1;
    }
    [[nodiscard]] double rim_at(Point at) const {
        const double level = ground_.empty() ? not_given : ground_.elevation(at);
        if (!std::isnan(level)) return level;
        double weight = 0, sum = 0;  // from the rims around
        for (const Structure& s : project_.structures) {
            if (!placed(s) || std::isnan(s.rim)) continue;
            const double d = distance(at, {s.x, s.y}), w = 1 / (d * d + 1);
            weight += w;
            sum += w * s.rim;
        }
        return weight > 0 ? sum / weight : project_.settings().default_rim;
    }
    bool gather() {
        std::set<std::uint64_t> leaves;
        for (const Pipe& p : project_.pipes) leaves.insert({p.from.value, p.to.value});
        const Structure* root = project_.structures.find(ask_.outfall.value);
        if (!root)
            for (const Structure& s : project_.structures)
                if (s.kind == StructureKind::Outfall && s.status != Status::Abandoned && placed(s) &&
                    (!root || rim_at({s.x, s.y}) < rim_at({root->x, root->y})))
                    root = &s;
        if (!root || !placed(*root)) {
            out_.error = "there is no outfall: place one first";
            return false;
        }
        root_ = add_node({root->x, root->y}, root->id, root->rim, false);
        for (const Structure& s : project_.structures) {
            if (!placed(s) || s.id == root->id || s.status == Status::Abandoned) continue;
            const bool asked = ask_.inlets.empty() ? s.kind == StructureKind::Inlet && !leaves.contains(s.id)
                                                   : std::find(ask_.inlets.begin(), ask_.inlets.end(),
                                                               StructureId{s.id}) != ask_.inlets.end();
            if (asked) add_node({s.x, s.y}, s.id, std::isnan(s.rim) ? rim_at({s.x, s.y}) : s.rim, true);
        }
        if (nodes_.size() < 2) {
            out_.error = "every inlet has a pipe already: choose those that are to be led elsewhere";
            return false;
        }
        return true;
    }

    /// Where lines of streets cross, or one ends on another.
    void find_meetings() {
        std::vector<const Street*> streets;
        for (const Street& s : project_.streets)
            if (s.line.size() > 1 && in_reach(s.line)) streets.push_back(&s);
        std::vector<Point> meetings;
        const auto offer = [&](Point p) {
            for (const Point& q : meetings)
                if (distance(p, q) < 3) return;
            for (const Place& q : places_)
                if (distance(p, q.at) < 3) return;
            meetings.push_back(p);
        };
        for (std::size_t i = 0; i < streets.size(); ++i)
            for (std::size_t k = i + 1; k < streets.size(); ++k) {
                const auto &a = streets[i]->line, &b = streets[k]->line;
                for (std::size_t s = 0; s + 1 < a.size(); ++s)
                    for (std::size_t t = 0; t + 1 < b.size(); ++t) {
                        double u = 0, v = 0;
                        if (crossing(a[s], a[s + 1], b[t], b[t + 1], u, v))
                            offer({a[s].x + u * (a[s + 1].x - a[s].x), a[s].y + u * (a[s + 1].y - a[s].y)});
                    }
                for (const auto& [line, end] :
                     {std::pair{&a, b.front()}, {&a, b.back()}, {&b, a.front()}, {&b, a.back()}})
                    if (std::abs(station_of(*line, end).offset) < 4) offer(end);
            }
        for (const Point& p : meetings) add_node(p, 0, rim_at(p), false);
    }

    void add_way(int a, int b, double weight) {
        if (a == b || !known_.insert(std::minmax(a, b)).second) return;
        const Point p = nth(places_, a).at, q = nth(places_, b).at;
        const double l = distance(p, q);
        if (l < 0.5 || blocked(p, q)) return;
        ways_.push_back({a, b, l, weight, {}});
    }
    [[nodiscard]] bool blocked(Point p, Point q) const {
        for (const auto& outline : ask_.obstacles) {
            double x0 = 1e300, x1 = -1e300, y0 = 1e300, y1 = -1e300;
            for (const Point& c : outline)
                x0 = std::min(x0, c.x), x1 = std::max(x1, c.x), y0 = std::min(y0, c.y), y1 = std::max(y1, c.y);
            if (std::max(p.x, q.x) < x0 || std::min(p.x, q.x) > x1 || std::max(p.y, q.y) < y0 ||
                std::min(p.y, q.y) > y1)
                continue;
            double t = 0, u = 0;
            for (std::size_t i = 0; i < outline.size(); ++i)
                if (crossing(p, q, outline[i], outline[(i + 1) % outline.size()], t, u)) return true;
            if (inside({(p.x + q.x) / 2, (p.y + q.y) / 2}, outline)) return true;
        }
        return false;
    }

    /// From each place to the next along its street, on either side and on the same.
    void along_streets() {
        for (const Street& street : project_.streets) {
            if (street.line.size() < 2 || !in_reach(street.line)) continue;
            struct On {
                double station, offset;
                int node;
            };
            std::vector<On> on;
            for (std::size_t i = 0; i < places_.size(); ++i) {
                const Station s = station_of(street.line, places_[i].at);
                if (std::abs(s.offset) <= street.half_width() + 2)
                    on.push_back({s.station, s.offset, static_cast<int>(i)});
            }
            std::sort(on.begin(), on.end(), [](const On& a, const On& b) {
                return std::tie(a.station, a.node) < std::tie(b.station, b.node);
            });
            for (std::size_t i = 0; i + 1 < on.size(); ++i) {
                add_way(on[i].node, on[i + 1].node, 1);
                for (std::size_t k = i + 2; k < std::min(on.size(), i + 6); ++k)
                    if (on[k].offset * on[i].offset > 0 || std::abs(on[k].offset) < 0.5) {
                        add_way(on[i].node, on[k].node, 1);
                        break;
                    }
            }
        }
    }
    void to_neighbours() {
        for (std::size_t i = 0; i < places_.size() && !stop_.stop_requested(); ++i) {
            std::vector<std::pair<double, int>> near;
            for (std::size_t k = 0; k < places_.size(); ++k)
                if (k != i) near.emplace_back(distance(places_[i].at, places_[k].at), static_cast<int>(k));
            const std::size_t most =
                std::min<std::size_t>(near.size(), near_neighbours + (static_cast<int>(i) == root_ ? 3 : 0));
            std::partial_sort(near.begin(), near.begin() + static_cast<std::ptrdiff_t>(most), near.end());
            for (std::size_t k = 0; k < most; ++k) add_way(static_cast<int>(i), near[k].second, off_street);
        }
    }
    void find_crossings() {
        for (std::size_t i = 0; i < ways_.size() && !stop_.stop_requested(); ++i)
            for (std::size_t k = i + 1; k < ways_.size(); ++k) {
                Way &x = ways_[i], &y = ways_[k];
                if (x.a == y.a || x.a == y.b || x.b == y.a || x.b == y.b) continue;
                double t = 0, u = 0;
                if (!crossing(nth(places_, x.a).at, nth(places_, x.b).at, nth(places_, y.a).at, nth(places_, y.b).at, t,
                              u))
                    continue;
                x.crossings.push_back(static_cast<int>(k));
                y.crossings.push_back(static_cast<int>(i));
            }
    }
    void drop_unreached() {
        const std::vector<int> way =
            shortest(nodes_, ways_, root_, [&](int w, int, int) { return nth(ways_, w).length; });
        std::size_t reached = 0;
        for (std::size_t i = 0; i < nodes_.size(); ++i) {
            if (!nodes_[i].must) continue;
            if (way[i] >= 0) ++reached;
            else {
                out_.left_out.push_back({places_[i].structure});
                nodes_[i].must = false;
            }
        }
        if (reached == 0) out_.error = "no way leads from the inlets to the outfall past the obstacles";
    }
    void rules() {
        const Settings& s = project_.settings();
        const auto limit = [&](LimitKind kind, double otherwise) {
            const Limit* l = find_limit(project_, kind, 0);
            return l ? l->value : otherwise;
        };
        pipe_ = laid_pipe(project_, {places_[1].structure ? places_[1].structure : places_[0].structure},
                          {places_[0].structure});
        const double h = height(section_of(pipe_));
        rules_.above = std::max(limit(LimitKind::LeastCover, 0), s.default_cover) + pipe_.wall + h;
        rules_.least_slope = std::max(limit(LimitKind::LeastSlope, 0), 1e-4);
        rules_.most_slope = limit(LimitKind::MostSlope, 0.1);
        rules_.drop = s.default_drop;
        rules_.width = trench_width(inside_width(size_of(pipe_)), pipe_.wall);
        rules_.below = pipe_.wall + trench_bedding;
        rules_.dig_price = s.excavation_price;
        rules_.pipe_price = price_of_size(project_, size_of(pipe_));
    }

    /// Manholes where streets meet, and the pipes, laid from the heads down.
    void write(const WayTree& tree) {
        std::vector<char> used(nodes_.size(), 0);
        for (std::size_t i = 0; i < nodes_.size(); ++i)
            for (int at = static_cast<int>(i); nodes_[i].must && at != root_ && !nth(used, at);) {
                nth(used, at) = 1;
                at = other_end(nth(ways_, nth(tree.way, at)), at);
            }
        std::vector<int> order, enters(nodes_.size(), 0);
        for (std::size_t i = 0; i < nodes_.size(); ++i)
            if (used[i]) ++nth(enters, other_end(nth(ways_, tree.way[i]), static_cast<int>(i)));
        for (std::size_t i = 0; i < nodes_.size(); ++i)
            if (used[i] && enters[i] == 0) order.push_back(static_cast<int>(i));
        for (std::size_t k = 0; k < order.size(); ++k) {
            const int to = other_end(nth(ways_, nth(tree.way, order[k])), order[k]);
            if (to != root_ && --nth(enters, to) == 0) order.push_back(to);
        }
        Editing e(project_, "Propose a network");
        for (std::size_t i = 0; i < nodes_.size(); ++i) {
            if (!used[i] || places_[i].structure) continue;
            Structure s =
                new_structure(e.now(), StructureKind::Manhole, to_mm(places_[i].at), {to_mm(nodes_[i].rim)}, "");
            places_[i].structure = s.id;
            e.insert(s);
            ++out_.manholes;
        }
        std::vector<double> level(nodes_.size(), 1e300);
        for (const int i : order) {
            const Way& w = nth(ways_, nth(tree.way, i));
            const int to = other_end(w, i);
            Pipe p = pipe_;
            p.id = random_id();
            p.name.clear();
            p.from = {nth(places_, i).structure};
            p.to = {nth(places_, to).structure};
            const double rim = nth(nodes_, i).rim, rim_to = nth(nodes_, to).rim;
            double up = floor_mm(std::min(rim - rules_.above, nth(level, i) - rules_.drop));
            const double down = floor_mm(std::min(to == root_ && std::isnan(rim_to) ? 1e300 : rim_to - rules_.above,
                                                  up - rules_.least_slope * w.length));
            up = std::min(up, floor_mm(down + rules_.most_slope * w.length));
            p.invert_from = up;
            p.invert_to = down;
            for (Origin& o : p.origin) o = Origin::Proposed;
            nth(level, to) = std::min(nth(level, to), down);
            e.insert(p);
            const double volume = trench_volume(e.now(), *e.now().pipes.find(p.id));
            if (!std::isnan(volume)) out_.volume += volume;
            out_.length += w.length;
            ++out_.pipes;
        }
        out_.cost = out_.volume * rules_.dig_price + out_.length * rules_.pipe_price;
        out_.edit = e.take();
    }

    const Project& project_;
    const Ground& ground_;
    const NetworkAsk& ask_;
    const std::stop_token& stop_;
    std::vector<Place> places_;
    std::vector<WayNode> nodes_;
    std::vector<Way> ways_;
    std::set<std::pair<int, int>> known_;
    int root_ = 0;
    LayRules rules_;
    Pipe pipe_;
    NetworkProposal out_;
};

}  // namespace

NetworkProposal propose_network(const Project& project, const Ground& ground, const NetworkAsk& ask,
                                const std::stop_token& stop) {
    return NetworkSearch(project, ground, ask, stop).run();
}

}  // namespace culvert
