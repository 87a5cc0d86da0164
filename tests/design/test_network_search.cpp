// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <functional>
#include <random>
#include <set>

#include "core/design/pipe_fit.h"
#include "core/design/propose_network.h"
#include "core/model/lay.h"

using namespace culvert;

namespace {

/// A random graph: some nodes must be led away, ways with weights and crossings, node 0 the root.
struct Graph {
    std::vector<WayNode> nodes;
    std::vector<Way> ways;
    std::vector<std::vector<int>> at;
    LayRules rules;
};
Graph random_graph(unsigned seed, int n) {
    std::mt19937 random(seed);
    const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    Graph g;
    std::vector<Point> place{{0, 0}};
    g.nodes.push_back({uniform(0, 1) < 0.3 ? std::nan("") : 48, false});
    for (int i = 1; i < n; ++i) {
        place.push_back({uniform(10, 60 * std::sqrt(n)), uniform(10, 60 * std::sqrt(n))});
        g.nodes.push_back(
            {50 + 0.008 * (place.back().x + place.back().y) + uniform(-1.5, 1.5), i < 3 || uniform(0, 1) < 0.7});
    }
    std::set<std::pair<int, int>> known;
    const auto p = [&](int i) { return place[static_cast<std::size_t>(i)]; };
    for (int i = 0; i < n; ++i) {
        std::vector<std::pair<double, int>> near;
        for (int k = 0; k < n; ++k)
            if (k != i) near.emplace_back(distance(p(i), p(k)), k);
        std::sort(near.begin(), near.end());
        for (std::size_t k = 0; k < 4; ++k)
            if (known.insert(std::minmax(i, near[k].second)).second)
                g.ways.push_back({i, near[k].second, near[k].first, uniform(0, 1) < 0.5 ? 1.0 : 1.33, {}});
    }
    g.at.resize(g.nodes.size());
    for (std::size_t w = 0; w < g.ways.size(); ++w) {
        g.at[static_cast<std::size_t>(g.ways[w].a)].push_back(static_cast<int>(w));
        g.at[static_cast<std::size_t>(g.ways[w].b)].push_back(static_cast<int>(w));
        for (std::size_t v = 0; v < w; ++v) {
            const Way &x = g.ways[w], &y = g.ways[v];
            double t = 0, u = 0;
            if (x.a == y.a || x.a == y.b || x.b == y.a || x.b == y.b || !crossing(p(x.a), p(x.b), p(y.a), p(y.b), t, u))
                continue;
            g.ways[w].crossings.push_back(static_cast<int>(v));
            g.ways[v].crossings.push_back(static_cast<int>(w));
        }
    }
    g.rules = {uniform(1.2, 2), uniform(0.002, 0.02), uniform(0.03, 0.1), uniform(0, 0.1),
               uniform(0.8, 2), uniform(0.1, 0.4),    uniform(20, 60),    uniform(50, 200)};
    return g;
}

/// What a tree costs, from the header's words: pipe by pipe from the node asked for upward, by recursion.
struct ByHand {
    const Graph& g;
    const std::vector<int>& way;
    std::set<int> used{};
    double cost = 0;

    [[nodiscard]] int down_of(int i) const {
        const Way& w = g.ways[static_cast<std::size_t>(way[static_cast<std::size_t>(i)])];
        return w.a == i ? w.b : w.a;
    }
    bool mark() {
        for (int i = 1; i < static_cast<int>(g.nodes.size()); ++i) {
            if (!g.nodes[static_cast<std::size_t>(i)].must) continue;
            std::size_t steps = 0;
            for (int at = i; at != 0; at = down_of(at)) {
                if (way[static_cast<std::size_t>(at)] < 0 || ++steps > g.nodes.size()) return false;
                used.insert(at);
            }
        }
        return true;
    }
    double end_of(int i) {  // the lower end of the pipe that leaves a node
        const Way& w = g.ways[static_cast<std::size_t>(way[static_cast<std::size_t>(i)])];
        const int to = down_of(i);
        const double rim = g.nodes[static_cast<std::size_t>(i)].rim, rim_to = g.nodes[static_cast<std::size_t>(to)].rim;
        double up = rim - g.rules.above;
        for (const int above : used)
            if (down_of(above) == i) up = std::min(up, end_of(above) - g.rules.drop);
        double down = up - g.rules.least_slope * w.length;
        const bool open = std::isnan(rim_to);  // an outfall without a rim: the ground lies as the pipe does
        if (!open) down = std::min(down, rim_to - g.rules.above);
        if ((up - down) / w.length > g.rules.most_slope) up = down + g.rules.most_slope * w.length;
        const double cut_up = rim - up, cut_down = open ? g.rules.above : rim_to - down;
        const double area = (std::max(0.0, (cut_up + cut_down) / 2) + g.rules.below) * g.rules.width;
        cost += w.weight * w.length * (area * g.rules.dig_price + g.rules.pipe_price);
        return down;
    }
    double operator()() {
        if (!mark()) return 1e300;
        for (const int i : used)
            if (down_of(i) == 0) end_of(i);
        std::set<int> taken;
        for (const int i : used) taken.insert(way[static_cast<std::size_t>(i)]);
        for (const int w : taken)
            for (const int c : g.ways[static_cast<std::size_t>(w)].crossings)
                if (c > w && taken.contains(c)) cost += 1e5;
        return cost;
    }
};

/// Streets of given lines, inlets and an outfall, each rim 50 m unless said.
struct Town {
    Project p = new_project(UnitSystem::Si);
    std::uint64_t next = 1;
    void street(std::vector<Point> line) {
        Street s;
        s.id = 1000 + next++;
        s.name = "Street " + std::to_string(s.id);
        s.line = std::move(line);
        p.streets.insert(s);
    }
    std::uint64_t structure(StructureKind kind, double x, double y, double rim = 50) {
        Structure s;
        s.id = next++;
        s.name = "S" + std::to_string(s.id);
        s.kind = kind;
        s.x = x;
        s.y = y;
        s.rim = rim;
        p.structures.insert(s);
        return s.id;
    }
    NetworkProposal propose(const NetworkAsk& ask = {}, const Ground& ground = {}) {
        NetworkProposal n = propose_network(p, ground, ask);
        apply(p, n.edit);
        return n;
    }
    [[nodiscard]] const Structure* manhole() const {
        for (const Structure& s : p.structures)
            if (s.kind == StructureKind::Manhole) return &s;
        return nullptr;
    }
};

}  // namespace

/// The search behind a proposed network: what a tree costs, the shortest and the cheapest; and what it lays, against
/// levels, volumes and prices found by hand.
class TestNetworkSearch : public QObject {
    Q_OBJECT
  private slots:
    void any_tree_costs_what_a_recursion_says() {
        int whole = 0, broken = 0, crossed = 0;
        for (unsigned seed = 1; seed <= 300; ++seed) {
            const Graph g = random_graph(seed, 12);
            std::mt19937 random(seed);
            for (int round = 0; round < 20; ++round) {
                // A way at random for each node, sometimes none; half of them from the tree of shortest ways.
                std::vector<int> way = shortest_tree(g.nodes, g.ways, 0, g.rules).way;
                for (std::size_t i = 1; i < way.size(); ++i)
                    if (std::uniform_real_distribution<double>(0, 1)(random) < 0.25)
                        way[i] = g.at[i][std::uniform_int_distribution<std::size_t>(0, g.at[i].size() - 1)(random)];
                const double told = cost_of_tree(g.nodes, g.ways, 0, g.rules, way);
                ByHand hand{g, way};
                const double by_hand = hand();
                QVERIFY2(std::abs(told - by_hand) <= 1e-9 * by_hand,
                         qPrintable(QString("%1 %2").arg(told).arg(by_hand)));
                (by_hand < 1e300 ? whole : broken)++;
                crossed += by_hand >= 1e5 && by_hand < 1e300;
            }
        }
        QVERIFY(whole > 500 && broken > 500 && crossed > 50);
    }
    void the_shortest_tree_is_that_of_all_pairs() {
        for (unsigned seed = 1; seed <= 60; ++seed) {
            const Graph g = random_graph(seed, 30);
            const std::size_t n = g.nodes.size();
            std::vector<std::vector<double>> d(n, std::vector<double>(n, 1e300));
            for (std::size_t i = 0; i < n; ++i) d[i][i] = 0;
            for (const Way& w : g.ways) {
                const auto a = static_cast<std::size_t>(w.a), b = static_cast<std::size_t>(w.b);
                d[a][b] = d[b][a] = std::min(d[a][b], w.length * w.weight);
            }
            for (std::size_t k = 0; k < n; ++k)
                for (std::size_t i = 0; i < n; ++i)
                    for (std::size_t j = 0; j < n; ++j) d[i][j] = std::min(d[i][j], d[i][k] + d[k][j]);
            const WayTree tree = shortest_tree(g.nodes, g.ways, 0, g.rules);
            QCOMPARE(tree.way[0], -1);
            for (std::size_t i = 1; i < n; ++i) {
                QCOMPARE(tree.way[i] < 0, d[i][0] >= 1e300);
                double sum = 0;
                for (std::size_t at = i; at != 0 && tree.way[at] >= 0;) {
                    const Way& w = g.ways[static_cast<std::size_t>(tree.way[at])];
                    sum += w.length * w.weight;
                    at = static_cast<std::size_t>(w.a == static_cast<int>(at) ? w.b : w.a);
                }
                if (tree.way[i] >= 0) QVERIFY(std::abs(sum - d[i][0]) < 1e-6);
            }
            QCOMPARE(tree.cost, cost_of_tree(g.nodes, g.ways, 0, g.rules, tree.way));
        }
    }
    /// No node, and no two neighbours, led elsewhere make the tree found cheaper: in small graphs and in larger ones.
    void no_small_change_makes_the_cheapest_cheaper() {
        int trees = 0;
        double saved = 0;
        for (unsigned seed = 1; seed <= 24; ++seed) {
            const Graph g = random_graph(seed, seed % 3 == 0 ? 60 : 20);
            const WayTree tree = cheapest_tree(g.nodes, g.ways, 0, g.rules);
            if (tree.cost >= 1e300) continue;
            ++trees;
            QVERIFY(tree.cost <= shortest_tree(g.nodes, g.ways, 0, g.rules).cost);
            saved += 1 - tree.cost / shortest_tree(g.nodes, g.ways, 0, g.rules).cost;
            QCOMPARE(tree.cost, cost_of_tree(g.nodes, g.ways, 0, g.rules, tree.way));
            const auto dearer = [&](const std::vector<int>& way) {
                return cost_of_tree(g.nodes, g.ways, 0, g.rules, way) >= tree.cost - 1e-6;
            };
            for (std::size_t i = 1; i < g.nodes.size(); ++i)
                for (const int w : g.at[i]) {
                    std::vector<int> way = tree.way;
                    way[i] = w;
                    QVERIFY(dearer(way));
                    const Way& led = g.ways[static_cast<std::size_t>(w)];
                    const int to = led.a == static_cast<int>(i) ? led.b : led.a;
                    if (to == 0) continue;
                    for (const int v : g.at[static_cast<std::size_t>(to)]) {
                        way[static_cast<std::size_t>(to)] = v;
                        QVERIFY(dearer(way));
                    }
                }
        }
        QVERIFY(trees >= 18 && saved / trees > 0.02);
    }
    /// One inlet, one pipe: everything by hand, with limits of the project's own.
    void one_pipe_by_hand() {
        for (const bool steep : {false, true}) {
            Town t;
            const double rim = steep ? 62 : 50;
            t.structure(StructureKind::Inlet, 100, 0, rim);
            t.structure(StructureKind::Outfall, 0, 0, 49.9);
            Settings& s = *t.p.settings_rows.change(settings_id);
            s.default_cover = 1.1;  // or the limit, where that is larger
            s.excavation_price = 40;
            for (const Limit& l : t.p.limits) {
                if (l.kind == LimitKind::LeastCover) t.p.limits.change(l.id)->value = steep ? 0.7 : 1.25;
                if (l.kind == LimitKind::LeastSlope) t.p.limits.change(l.id)->value = 0.008;
                if (l.kind == LimitKind::MostSlope) t.p.limits.change(l.id)->value = 0.05;
            }
            const NetworkProposal n = t.propose();
            QVERIFY(n.pipes == 1 && n.manholes == 0 && n.left_out.empty() && n.error.empty());
            const Pipe& q = *t.p.pipes.begin();
            const double above = (steep ? 1.1 : 1.25) + q.wall + q.size;
            double up = rim - above, down = std::min(49.9 - above, up - 0.008 * 100);
            up = std::min(up, down + 0.05 * 100);
            QVERIFY2(std::abs(q.invert_from - up) < 0.0021 && std::abs(q.invert_to - down) < 0.0011,
                     qPrintable(QString("%1 %2, %3 %4").arg(q.invert_from).arg(up).arg(q.invert_to).arg(down)));
            QVERIFY(q.invert_from <= up + 1e-9 && q.invert_to <= down + 1e-9);
            for (const Origin o : q.origin) QCOMPARE(o, Origin::Proposed);
            const double volume = 100 * (q.size + 2 * q.wall + 0.6) * ((rim - up + 49.9 - down) / 2 + q.wall + 0.1);
            const double price = price_of_size(t.p, size_of(q));
            QVERIFY(price > 0 || std::isnan(price));
            QVERIFY(std::abs(n.length - 100) < 1e-9);
            QVERIFY2(std::abs(n.volume / volume - 1) < 2e-3, qPrintable(QString("%1 %2").arg(n.volume).arg(volume)));
            QVERIFY(std::abs(n.cost - (n.volume * 40 + 100 * price)) < 1e-6);
            QVERIFY2(std::abs(n.cost_first / (volume * 40 + 100 * price) - 1) < 1e-9,
                     qPrintable(QString("%1 %2").arg(n.cost_first).arg(volume * 40 + 100 * price)));
        }
    }
    /// What enters goes before: pipes in a row and a branch, each at most a millimetre below what cover, slope and the
    /// drop allow.
    void a_row_is_laid_from_its_heads() {
        Town t;
        t.structure(StructureKind::Outfall, 0, 0, 44);
        for (int i = 1; i <= 5; ++i) t.structure(StructureKind::Inlet, 50.0 * i, 0, 50 + (i == 2 ? 1.5 : 0.05 * i));
        t.structure(StructureKind::Inlet, 150, 30, 48.4);
        t.street({{0, 0}, {260, 0}});
        t.street({{150, 0}, {150, 40}});
        const NetworkProposal n = t.propose();
        QCOMPARE(n.pipes, std::size_t{6});
        double length = 0, volume = 0;
        for (const Pipe& q : t.p.pipes) {
            const Structure &a = *t.p.structures.find(q.from.value), &b = *t.p.structures.find(q.to.value);
            const double above = 1.2 + q.wall + q.size, l = distance({a.x, a.y}, {b.x, b.y});
            double up = a.rim - above;
            for (const Pipe& in : t.p.pipes)
                if (in.to.value == a.id) up = std::min(up, in.invert_to - t.p.settings().default_drop);
            const double down = std::min(b.rim - above, up - 0.003 * l);
            up = std::min(up, down + 0.1 * l);
            QVERIFY2(std::abs(q.invert_from - up) < 0.0021 && std::abs(q.invert_to - down) < 0.0021,
                     qPrintable(QString("%1 %2, %3 %4").arg(q.invert_from).arg(up).arg(q.invert_to).arg(down)));
            length += l;
            volume +=
                l * (q.size + 2 * q.wall + 0.6) * ((a.rim - q.invert_from + b.rim - q.invert_to) / 2 + q.wall + 0.1);
        }
        QVERIFY(std::abs(n.length - length) < 1e-6 && std::abs(n.volume - volume) < 1e-6);
    }
    /// A way over land counts a third more than one along the street: round a corner of 98 degrees the street is worth
    /// it (2 sin 49 = 1.51, a third more 2.01 against 2), at 95 degrees it is not.
    void a_street_is_preferred_by_a_third() {
        for (const double degrees : {92.0, 95.0, 98.0, 110.0})
            for (const double apart : {0.0, 3.0}) {  // the second street may end a little short of the first
                Town t;
                const double a = degrees * M_PI / 180;
                const Point dir{std::cos(a), std::sin(a)};
                t.structure(StructureKind::Outfall, 100, 0);
                t.structure(StructureKind::Inlet, 100 * dir.x, 100 * dir.y);
                t.street({{100, 0}, {-20, 0}});
                t.street({{apart * dir.x, apart * dir.y}, {120 * dir.x, 120 * dir.y}});
                t.p.settings_rows.change(settings_id)->excavation_price = 0;
                const NetworkProposal n = t.propose();
                const bool round = degrees > 97;
                QCOMPARE(n.pipes, std::size_t{round ? 2u : 1u});
                QCOMPARE(n.manholes, std::size_t{round ? 1u : 0u});
                if (!round) continue;
                const Structure* m = t.manhole();
                QVERIFY(m && std::hypot(m->x - apart * dir.x, m->y - apart * dir.y) < 0.002);
            }
    }
    /// Where streets cross a manhole is put, its rim from the ground, or from the rims around where there is none.
    void a_manhole_where_streets_cross_has_its_rim() {
        for (const bool known : {false, true}) {
            Town t;
            t.structure(StructureKind::Outfall, 100, 0, 50);
            t.structure(StructureKind::Inlet, -63, 100, 52);
            std::vector<std::vector<Point>> streets{{{110, 0}, {-110, 0}}, {{19, -30}, {-63, 100}}};
            if (known) std::swap(streets[0], streets[1]);
            for (const auto& line : streets) t.street(line);
            Ground ground;
            if (known) {
                SurfaceData in;
                for (const double x : {-300.0, 300.0})
                    for (const double y : {-300.0, 300.0}) in.points.push_back({x, y, 53 + x / 100});
                ground.existing = Terrain::build(in);
            }
            // Where they cross, by the two straight lines.
            const double at = 19 - 82.0 * 30 / 130;
            double weight = 0, sum = 0;
            for (const Structure& s : t.p.structures) {
                const double d2 = (s.x - at) * (s.x - at) + s.y * s.y;
                weight += 1 / (d2 + 1);
                sum += s.rim / (d2 + 1);
            }
            NetworkAsk ask;  // the way over land is built over
            ask.obstacles = {{{30, 10}, {99, 10}, {99, 120}, {30, 120}},
                             {{-100, 10}, {-40, 10}, {-40, 40}, {-100, 40}}};
            const NetworkProposal n = t.propose(ask, ground);
            QVERIFY2(n.error.empty(), n.error.c_str());
            const Structure* m = t.manhole();
            QVERIFY(m && n.manholes == 1);
            QVERIFY(std::abs(m->x - at) < 0.001 && std::abs(m->y) < 0.001);
            const double rim = known ? 53 + at / 100 : sum / weight;
            QVERIFY2(std::abs(m->rim - rim) < 0.001, qPrintable(QString("%1 %2").arg(m->rim).arg(rim)));
        }
    }
    /// No way lies within an obstacle either, where it meets no side of it.
    void what_lies_within_an_obstacle_is_not_led_away() {
        Town t;
        t.structure(StructureKind::Outfall, 0, 0, 47);
        const std::uint64_t in = t.structure(StructureKind::Inlet, 60, 10);
        NetworkAsk ask;
        ask.obstacles = {{{-50, -50}, {200, -50}, {200, 200}, {-50, 200}}};
        QVERIFY(t.propose(ask).error.find("past the obstacles") != std::string::npos);
        // One of two is walled in: the other is led away, and the first is named.
        t.structure(StructureKind::Inlet, -60, 10);
        ask.obstacles = {{{20, -50}, {200, -50}, {200, 200}, {20, 200}}};
        const Project both = t.p;
        const NetworkProposal n = t.propose(ask);
        QCOMPARE(n.left_out, (std::vector<StructureId>{{in}}));
        QCOMPARE(n.pipes, std::size_t{1});
        // The other way round, so that it is not the order of the rows that names it.
        ask.obstacles = {{{-20, -50}, {-200, -50}, {-200, 200}, {-20, 200}}};
        const NetworkProposal other = propose_network(both, {}, ask);
        QVERIFY(other.left_out.size() == 1 && other.left_out[0].value > in);
        QCOMPARE(other.pipes, std::size_t{1});
    }
    /// An abandoned inlet asks for no pipe, and no water is led to an abandoned outfall.
    void what_is_abandoned_is_passed_over() {
        Town t;
        t.structure(StructureKind::Inlet, 50, 10);
        const std::uint64_t old = t.structure(StructureKind::Inlet, 80, 10),
                            end = t.structure(StructureKind::Outfall, 0, 0, 47);
        const std::uint64_t lower = t.structure(StructureKind::Outfall, 120, 0, 45);
        for (const std::uint64_t id : {old, lower}) t.p.structures.change(id)->status = Status::Abandoned;
        QCOMPARE(t.propose().pipes, std::size_t{1});
        QCOMPARE(t.p.pipes.begin()->to.value, end);
    }
    void the_lowest_outfall_is_taken_unless_one_is_named() {
        Town t;
        t.structure(StructureKind::Inlet, 50, 10);
        const std::uint64_t high = t.structure(StructureKind::Outfall, 0, 0, 49),
                            low = t.structure(StructureKind::Outfall, 120, 0, 47);
        t.structure(StructureKind::Outfall, 130, 40, 48);
        Town named = t;
        QVERIFY(t.propose().error.empty());
        QCOMPARE(t.p.pipes.begin()->to.value, low);
        NetworkAsk ask;
        ask.outfall = {high};
        QVERIFY(named.propose(ask).error.empty());
        QCOMPARE(named.p.pipes.begin()->to.value, high);
    }
};
QTEST_GUILESS_MAIN(TestNetworkSearch)
#include "test_network_search.moc"
