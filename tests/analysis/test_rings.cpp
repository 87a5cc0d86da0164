// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <numbers>
#include <random>

#include "core/analysis/solver.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/review/review.h"
#include "support/networks.h"
#include "support/rain.h"

using namespace culvert;

namespace {

constexpr double loss_manhole = 0.2;

void add_structure(Project& p, std::uint64_t id, StructureKind kind, double x, double y, double rim, double flow = 0) {
    Structure s;
    s.id = id;
    s.name = "N" + std::to_string(id);
    s.kind = kind;
    s.x = x;
    s.y = y;
    s.rim = rim;
    s.known_flow = flow;
    p.structures.insert(s);
}
void add_pipe(Project& p, std::uint64_t id, std::uint64_t from, std::uint64_t to, double size, double up, double down,
              double length = not_given) {
    Pipe q;
    q.id = id;
    q.from = {from};
    q.to = {to};
    q.size = size;
    q.invert_from = up;
    q.invert_to = down;
    q.length = length;
    p.pipes.insert(q);
}
Project empty() {
    Project p = new_project(UnitSystem::Si);
    p.settings_rows.change(settings_id)->loss_manhole = loss_manhole;
    p.settings_rows.change(settings_id)->loss_inlet = loss_manhole;
    p.settings_rows.change(settings_id)->loss_joint = loss_manhole;
    p.events.insert(culvert::testing::ten_years());
    return p;
}
void tailwater(Project& p, std::uint64_t id, double level) {
    p.structures.change(id)->tailwater = Tailwater::Level;
    p.structures.change(id)->tailwater_level = level;
}
/// Manholes 1 … n x m under a tailwater that fills every pipe; the last node is the outfall. Random sizes and inflows.
Project drowned_grid(unsigned seed, std::uint64_t n, std::uint64_t m) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> u(0, 1);
    Project p = empty();
    for (std::uint64_t i = 0; i < n; ++i)
        for (std::uint64_t j = 0; j < m; ++j)
            add_structure(p, 1 + i * m + j, random() % 4 ? StructureKind::Manhole : StructureKind::Joint,
                          50.0 * static_cast<double>(i), 50.0 * static_cast<double>(j), 110,
                          random() % 2 ? 0.05 * u(random) : 0);
    const std::uint64_t outfall = n * m + 1;
    add_structure(p, outfall, StructureKind::Outfall, 50.0 * static_cast<double>(n), 0, 110);
    tailwater(p, outfall, 106);
    std::uint64_t id = 1000;
    const auto pipe = [&](std::uint64_t a, std::uint64_t b) {
        const bool turned = random() % 2;  // drawn either way
        const double up = 100 + u(random), down = 100 + u(random);
        add_pipe(p, id++, turned ? b : a, turned ? a : b, 0.3 + 0.15 * static_cast<double>(random() % 4), up, down,
                 40 + 30 * u(random));
    };
    for (std::uint64_t i = 0; i < n; ++i)
        for (std::uint64_t j = 0; j < m; ++j) {
            if (i + 1 < n) pipe(1 + i * m + j, 1 + (i + 1) * m + j);
            if (j + 1 < m) pipe(1 + i * m + j, 2 + i * m + j);
        }
    pipe(1 + (n - 1) * m, outfall);
    return p;
}
/// Loss of a full pipe and of the structure it leaves, for a unit of flow squared.
double resistance(const Link& l) {
    const double d = height(l.section), a = std::numbers::pi * d * d / 4,
                 k = a * std::pow(d / 4, 2.0 / 3) / l.roughness;
    return l.length / (k * k) + (1 + loss_manhole) / (2 * gravity * a * a);
}
double signed_flow(const EventResult& r, std::size_t link) {
    const LinkFlow& f = r.links[link].flow;
    return f.against ? -f.flow : f.flow;
}
/// Continuity of water and of area at every node; true everywhere, whatever the ways.
void check_continuity(const Project& p, const EventResult& r, bool constant) {
    if (constant) QVERIFY(r.unbalanced.empty());
    double known = 0, area = 0, out_known = 0, out_area = 0;
    std::vector<double> in(r.nodes.size(), 0), out(r.nodes.size(), 0);
    for (std::size_t l = 0; l < r.links.size(); ++l) {
        const Link& link = r.network->links[l];
        const LinkFlow& f = r.links[l].flow;
        QVERIFY(f.flow >= 0);
        in[static_cast<std::size_t>(f.against ? link.from : link.to)] += f.flow;
        out[static_cast<std::size_t>(f.against ? link.to : link.from)] += f.flow;
    }
    for (std::size_t i = 0; i < r.nodes.size(); ++i) {
        const Node& n = r.network->nodes[i];
        known += n.known_flow;
        if (n.out == no_link) {
            out_known += r.nodes[i].flow.known_flow;
            out_area += r.nodes[i].flow.effective_area;
            QVERIFY(out[i] == 0);
        } else if (constant)
            QVERIFY2(
                std::abs(in[i] + n.known_flow - out[i]) < 1e-9,
                qPrintable(QString("node %1: %2 in, %3 own, %4 out").arg(i).arg(in[i]).arg(n.known_flow).arg(out[i])));
    }
    for (const Catchment& c : p.catchments)
        if (r.network->node_of(c.structure) != no_node) area += c.area * c.coefficient;
    QVERIFY2(std::abs(known - out_known) < 1e-9 * std::max(1.0, known),
             qPrintable(QString("%1 %2").arg(known).arg(out_known)));
    QVERIFY(std::abs(area - out_area) < 1e-9 * std::max(1.0, area));
}
/// Depth of free-surface flow a length above a given depth: dy/dx = (S0 - Sf) / (1 - Fr2), by Runge and Kutta.
double depth_above(const Link& l, double slope, double flow, double depth) {
    const auto rise = [&](double y) {
        const auto w = wetted(l.section, y);
        const double v = flow / w.area, sf = std::pow(v * l.roughness / std::pow(w.area / w.perimeter, 2.0 / 3), 2);
        return (sf - slope) / (1 - flow * flow * w.top / (gravity * w.area * w.area * w.area));
    };
    const int steps = 4000;
    const double h = l.length / steps;
    for (int i = 0; i < steps; ++i) {
        const double a = rise(depth), b = rise(depth + h / 2 * a), c = rise(depth + h / 2 * b), d = rise(depth + h * c);
        depth += h / 6 * (a + 2 * b + 2 * c + d);
    }
    return depth;
}

}  // namespace

/// Networks whose water has several ways, against balances found in other ways.
class TestRings : public QObject {
    Q_OBJECT
  private slots:
    void two_full_pipes_side_by_side_divide_by_their_resistance() {
        Project p = empty();
        add_structure(p, 1, StructureKind::Manhole, 0, 0, 110, 0.5);
        add_structure(p, 2, StructureKind::Manhole, 100, 0, 110);
        add_structure(p, 3, StructureKind::Outfall, 150, 0, 110);
        add_pipe(p, 11, 1, 2, 0.45, 101, 100.5);
        add_pipe(p, 12, 2, 1, 0.6, 100.5, 101.2);  // drawn against the water
        add_pipe(p, 13, 2, 3, 0.75, 100.4, 100.2);
        tailwater(p, 3, 104);
        const auto r = solve(p)[0];
        check_continuity(p, *r, true);
        const auto a = static_cast<std::size_t>(r->network->link_of({11})),
                   b = static_cast<std::size_t>(r->network->link_of({12}));
        const double ra = std::sqrt(resistance(r->network->links[a])), rb = std::sqrt(resistance(r->network->links[b]));
        QVERIFY(std::abs(r->links[a].flow.flow - 0.5 * rb / (ra + rb)) < 1e-5);
        QVERIFY(std::abs(r->links[b].flow.flow - 0.5 * ra / (ra + rb)) < 1e-5);
        const double level = 104 +
                             0.25 * resistance(r->network->links[static_cast<std::size_t>(r->network->link_of({13}))]) +
                             std::pow(r->links[a].flow.flow * ra, 2);
        QVERIFY(std::abs(r->nodes[static_cast<std::size_t>(r->network->node_of(StructureId{1}))].level.level - level) <
                1e-4);
    }
    void drowned_grids_agree_with_corrections_round_the_rings() {
        // Independent: flows corrected ring by ring, dQ = -sum(r Q |Q|) / sum(2 r |Q|), until nothing is left.
        for (unsigned seed = 1; seed <= 12; ++seed) {
            const std::uint64_t n = 2 + seed % 3, m = 2 + seed % 2;
            const Project p = drowned_grid(seed, n, m);
            const auto r = solve(p)[0];
            check_continuity(p, *r, true);
            const Network& net = *r->network;
            QCOMPARE(net.components.size(), std::size_t{1});
            QCOMPARE(net.components[0].further, static_cast<int>((n - 1) * (m - 1)));
            // All water by the tree, then the rings that the further links close with it.
            std::vector<double> q(net.links.size(), 0);
            for (int i = 0; i < static_cast<int>(net.nodes.size()); ++i)
                for (int at = i; net.nodes[static_cast<std::size_t>(at)].out != no_link;
                     at = net.nodes[static_cast<std::size_t>(at)].down)
                    q[static_cast<std::size_t>(net.nodes[static_cast<std::size_t>(at)].out)] +=
                        net.nodes[static_cast<std::size_t>(i)].known_flow;
            std::vector<std::vector<std::pair<std::size_t, int>>> rings;
            for (std::size_t l = 0; l < net.links.size(); ++l) {
                if (net.links[l].main) continue;
                std::vector<std::pair<std::size_t, int>> ring{{l, 1}};
                for (const auto& [end, sign] : {std::pair{net.links[l].to, 1}, {net.links[l].from, -1}})
                    for (int at = end; net.nodes[static_cast<std::size_t>(at)].out != no_link;
                         at = net.nodes[static_cast<std::size_t>(at)].down)
                        ring.emplace_back(static_cast<std::size_t>(net.nodes[static_cast<std::size_t>(at)].out), sign);
                rings.push_back(ring);
            }
            for (int round = 0; round < 20000; ++round)
                for (const auto& ring : rings) {
                    double sum = 0, weight = 0;
                    for (const auto& [l, s] : ring) {
                        sum += s * resistance(net.links[l]) * q[l] * std::abs(q[l]);
                        weight += 2 * resistance(net.links[l]) * std::abs(q[l]);
                    }
                    if (weight > 0)
                        for (const auto& [l, s] : ring) q[l] -= 0.7 * s * sum / weight;
                }
            double total = 0;
            for (const Node& node : net.nodes) total += node.known_flow;
            for (std::size_t l = 0; l < net.links.size(); ++l)
                QVERIFY2(std::abs(signed_flow(*r, l) - q[l]) < 2e-4 * total + 1e-6,
                         qPrintable(QString("seed %1 link %2: %3, corrected %4")
                                        .arg(seed)
                                        .arg(l)
                                        .arg(signed_flow(*r, l))
                                        .arg(q[l])));
        }
    }
    void levels_agree_whichever_way_they_are_reached() {
        int links = 0, further = 0, against = 0;
        for (unsigned seed = 1; seed <= 25; ++seed) {
            const Project p = drowned_grid(seed, 2 + seed % 4, 2 + seed % 3);
            const auto r = solve(p)[0];
            for (std::size_t l = 0; l < r->links.size(); ++l) {
                const Link& link = r->network->links[l];
                const LinkResult& x = r->links[l];
                if (x.flow.flow < 1e-9) continue;
                const auto level = [&](int node) { return r->nodes[static_cast<std::size_t>(node)].level.level; };
                const double up = level(x.flow.against ? link.to : link.from),
                             down = level(x.flow.against ? link.from : link.to);
                QVERIFY2(std::abs(up - down - resistance(link) * x.flow.flow * x.flow.flow) < 1e-4,
                         qPrintable(QString("seed %1 link %2: %3 to %4").arg(seed).arg(l).arg(up).arg(down)));
                ++links;
                further += !link.main;
                against += x.flow.against;
            }
        }
        QVERIFY(links > 200 && further > 60 && against > 10);
    }
    void a_diamond_of_equal_sides_halves_its_flow() {
        Project p = empty();
        add_structure(p, 1, StructureKind::Inlet, 0, 0, 110, 0.3);
        add_structure(p, 2, StructureKind::Manhole, 40, 30, 110);
        add_structure(p, 3, StructureKind::Manhole, 40, -30, 110);
        add_structure(p, 4, StructureKind::Manhole, 80, 0, 110);
        add_structure(p, 5, StructureKind::Outfall, 120, 0, 110);
        add_pipe(p, 11, 1, 2, 0.6, 101, 100.9);
        add_pipe(p, 12, 2, 4, 0.6, 100.9, 100.8);
        add_pipe(p, 13, 1, 3, 0.6, 101, 100.9);
        add_pipe(p, 14, 3, 4, 0.6, 100.9, 100.8);
        add_pipe(p, 15, 4, 5, 0.75, 100.8, 100.7);
        tailwater(p, 5, 101.35);  // free surface, subcritical throughout
        const auto r = solve(p)[0];
        check_continuity(p, *r, true);
        for (const std::uint64_t id : {11, 12, 13, 14})
            QVERIFY2(std::abs(r->links[static_cast<std::size_t>(r->network->link_of({id}))].flow.flow - 0.15) < 1e-5,
                     qPrintable(QString::number(r->links[static_cast<std::size_t>(r->network->link_of({id}))].flow.flow,
                                                'g', 9)));
    }
    void free_surface_rings_agree_with_direct_integration() {
        int seen = 0, filled = 0;
        for (unsigned seed = 1; seed <= 12; ++seed) {
            std::mt19937 random(seed);
            std::uniform_real_distribution<double> u(0, 1);
            Project p = empty();
            add_structure(p, 1, StructureKind::Inlet, 0, 0, 110, 0.1 + 0.15 * u(random));
            add_structure(p, 2, StructureKind::Manhole, 40, 30, 110, 0.02);
            add_structure(p, 3, StructureKind::Manhole, 40, -30, 110);
            add_structure(p, 4, StructureKind::Manhole, 80, 0, 110);
            add_structure(p, 5, StructureKind::Outfall, 120, 0, 110);
            add_pipe(p, 11, 1, 2, 0.6, 101 + 0.05 * u(random), 100.92);
            add_pipe(p, 12, 2, 4, 0.6, 100.9, 100.82);
            add_pipe(p, 13, 1, 3, 0.6, 101, 100.93);
            add_pipe(p, 14, 3, 4, 0.6, 100.9, 100.85 - 0.05 * u(random), 60 + 40 * u(random));
            add_pipe(p, 15, 4, 5, 0.9, 100.75, 100.7);
            tailwater(p, 5, 101.2 + 0.15 * u(random));
            const auto r = solve(p)[0];
            check_continuity(p, *r, true);
            for (std::size_t l = 0; l < r->links.size(); ++l) {
                const Link& link = r->network->links[l];
                const LinkResult& x = r->links[l];
                if (x.flow.flow < 1e-4) continue;
                const bool against = x.flow.against;
                const NodeLevel &up = r->nodes[static_cast<std::size_t>(against ? link.to : link.from)].level,
                                &down = r->nodes[static_cast<std::size_t>(against ? link.from : link.to)].level;
                const double start = down.level - (against ? link.invert_up : link.invert_down),
                             top = height(link.section);
                if (start > 0.98 * top || start < 1.1 * critical_depth(link.section, x.flow.flow)) {
                    filled += start > 0.98 * top;
                    continue;
                }
                const double depth = depth_above(link, against ? -link.slope : link.slope, x.flow.flow, start);
                if (depth > 0.93 * top) continue;
                const double v = x.flow.flow / wetted(link.section, depth).area;
                const double level =
                    (against ? link.invert_down : link.invert_up) + depth + (1 + loss_manhole) * v * v / (2 * gravity);
                QVERIFY2(std::abs(level - up.level) < 1e-4,
                         qPrintable(
                             QString("seed %1 link %2: %3, integrated %4").arg(seed).arg(l).arg(up.level).arg(level)));
                ++seen;
            }
        }
        QVERIFY2(seen > 40, qPrintable(QString::number(seen)));
        Q_UNUSED(filled);
    }
    void a_way_above_the_water_stays_dry() {
        Project p = empty();
        add_structure(p, 1, StructureKind::Inlet, 0, 0, 110, 0.05);
        add_structure(p, 2, StructureKind::Manhole, 50, 0, 110);
        add_structure(p, 3, StructureKind::Outfall, 100, 0, 110);
        add_structure(p, 4, StructureKind::Outfall, 50, 50, 110);
        add_pipe(p, 11, 1, 2, 0.45, 101, 100.7);
        add_pipe(p, 12, 2, 3, 0.45, 100.7, 100.4);
        add_pipe(p, 13, 2, 4, 0.45, 102.5, 102);  // an overflow, far above
        auto r = solve(p)[0];
        const auto over = [&] { return r->links[static_cast<std::size_t>(r->network->link_of({13}))].flow.flow; };
        QCOMPARE(over(), 0.0);
        const auto plain = [&] {
            Project q = p;
            q.pipes.erase(13);
            return solve(q)[0];
        };
        const auto level = [](const EventResult& x, std::uint64_t id) {
            return x.nodes[static_cast<std::size_t>(x.network->node_of(StructureId{id}))].level.level;
        };
        for (const std::uint64_t id : {1, 2}) QVERIFY(std::abs(level(*r, id) - level(*plain(), id)) < 1e-9);
        // Four times over capacity the water reaches it; what it takes is missing on the first way, none is lost.
        p.structures.change(1)->known_flow = 0.8;
        r = solve(p)[0];
        QVERIFY(over() > 0.05);
        check_continuity(p, *r, true);
        QVERIFY(level(*r, 2) < level(*plain(), 2) && level(*r, 2) > 102.5);
        // Both outfalls below a lake: the levels are the lake's and what the losses add.
        tailwater(p, 3, 105);
        tailwater(p, 4, 105);
        r = solve(p)[0];
        check_continuity(p, *r, true);
        const double a = std::sqrt(resistance(r->network->links[static_cast<std::size_t>(r->network->link_of({12}))])),
                     b = std::sqrt(resistance(r->network->links[static_cast<std::size_t>(r->network->link_of({13}))]));
        QVERIFY(std::abs(over() - 0.8 * a / (a + b)) < 1e-5);
    }
    void rain_and_times_on_a_ring() {
        Project p = drowned_grid(3, 3, 3);
        for (const std::uint64_t id : {1, 5, 9}) {
            p.structures.change(id)->known_flow = 0;
            Catchment c;
            c.id = 500 + id;
            c.name = "C" + std::to_string(id);
            c.structure = {id};
            c.area = 3000 + 100.0 * static_cast<double>(id);
            c.coefficient = 0.6;
            c.time = 300;
            p.catchments.insert(c);
        }
        const auto r = solve(p)[0];
        check_continuity(p, *r, false);
        // Every node's time is the longest of the ways that lead to it, and its flow its area by the intensity then.
        for (std::size_t i = 0; i < r->nodes.size(); ++i) {
            const NodeFlow& f = r->nodes[i].flow;
            double time = r->network->nodes[i].local_time;
            for (std::size_t l = 0; l < r->links.size(); ++l) {
                const Link& link = r->network->links[l];
                const LinkFlow& x = r->links[l].flow;
                if (x.effective_area > 0 && (x.against ? link.from : link.to) == static_cast<int>(i))
                    time = std::max(
                        time, r->nodes[static_cast<std::size_t>(x.against ? link.to : link.from)].flow.time + x.travel);
            }
            if (f.effective_area <= 0) continue;
            QVERIFY(std::abs(f.time - time) < 1e-9);
            const double intensity = 4e-5 * std::pow(std::max(f.time, 300.0) / 300, std::log(0.25) / std::log(12.0));
            QVERIFY(std::abs(f.plain_flow - f.effective_area * intensity - f.known_flow) < 1e-9);
        }
    }
    void direction_order_units_and_edits_change_nothing() {
        for (unsigned seed = 1; seed <= 8; ++seed) {
            const Project p = drowned_grid(seed, 3, 3);
            const auto r = solve(p)[0];
            Project turned = p;
            for (const Pipe& row : p.pipes) {
                Pipe& q = *turned.pipes.change(row.id);
                std::swap(q.from, q.to);
                std::swap(q.invert_from, q.invert_to);
            }
            UnitSystem& system = turned.settings_rows.change(settings_id)->system;
            system = system == UnitSystem::Si ? UnitSystem::Us : UnitSystem::Si;
            const auto s = solve(turned)[0];
            for (const Structure& row : p.structures) {
                const auto level = [&](const EventResult& x) {
                    return x.nodes[static_cast<std::size_t>(x.network->node_of(StructureId{row.id}))].level.level;
                };
                QVERIFY(level(*r) == level(*s));
            }
            Solver warm;
            Project edited = p;
            (void)warm.solve(edited, 0);
            for (int i = 0; i < 4; ++i) {
                edited.pipes.change(1000 + static_cast<std::uint64_t>(i) * 2)->size += 0.15;
                const auto w = warm.solve(edited, 1)[0], c = solve(edited)[0];
                for (std::size_t l = 0; l < w->links.size(); ++l)
                    QCOMPARE(w->links[l].flow.flow, c->links[l].flow.flow);
            }
        }
    }
    void steep_and_flat_rings_balance_or_say_so() {
        int balanced = 0, said = 0;
        for (unsigned seed = 1; seed <= 60; ++seed) {
            Project p = drowned_grid(100 + seed, 2 + seed % 3, 2 + seed % 2);
            std::mt19937 random(seed);
            std::uniform_real_distribution<double> u(0, 1);
            p.structures.change(p.structures.size())->tailwater = Tailwater::Free;
            // Ground that falls towards the outfall, from nearly flat to 8 %.
            const double fall = 0.0005 * std::pow(160, u(random));
            for (const Pipe& row : Project(p).pipes) {
                Pipe& q = *p.pipes.change(row.id);
                const auto level = [&](StructureId id) {
                    const Structure& s = *p.structures.find(id.value);
                    return 100 - fall * (s.x - 0.3 * s.y) + 0.02 * u(random);
                };
                q.invert_from = level(q.from);
                q.invert_to = level(q.to);
            }
            const auto r = solve(p)[0];
            check_continuity(p, *r, r->unbalanced.empty());
            (r->unbalanced.empty() ? balanced : said) += 1;
            for (std::size_t l = 0; l < r->links.size(); ++l) {
                const Link& link = r->network->links[l];
                const LinkResult& x = r->links[l];
                if (x.flow.flow < 1e-9) continue;
                const bool against = x.flow.against;
                const double up = link.invert_up + x.level.head_up + std::pow(x.level.velocity_up, 2) / (2 * gravity),
                             down = link.invert_down + x.level.head_down +
                                    std::pow(x.level.velocity_down, 2) / (2 * gravity);
                QVERIFY2(against ? down >= up - 1e-5 : up >= down - 1e-5,
                         qPrintable(QString("seed %1 link %2").arg(seed).arg(l)));
            }
            // What is said is a finding.
            int findings = 0;
            const Review rev = review(p, *r);
            for (const Finding& f : rev.findings)
                if (f.title == "ways do not balance") {
                    ++findings;
                    QVERIFY(f.check.rule == Rule::Data && f.check.verdict == Verdict::Beyond &&
                            rev.verdict == Verdict::Beyond && f.element.kind == Kind::Pipe && f.event == r->event);
                }
            QCOMPARE(findings, static_cast<int>(r->unbalanced.size()));
        }
        qInfo("%d balanced, %d without a steady balance", balanced, said);
        QVERIFY(balanced > 40);
    }
    /// What does not balance is beyond, whatever else holds.
    void ways_that_do_not_balance_are_beyond() {
        const Project p = drowned_grid(4, 3, 3);
        EventResult r = *solve(p)[0];
        r.unbalanced.push_back({2, 0.25});
        const Review rev = review(p, r);
        QCOMPARE(rev.verdict, Verdict::Beyond);
        int said = 0;
        for (const Finding& f : rev.findings)
            if (f.title == "ways do not balance") {
                ++said;
                QVERIFY(f.check.rule == Rule::Data && f.check.verdict == Verdict::Beyond && f.index == 2);
                QVERIFY(f.element == (ElementRef{Kind::Pipe, r.network->links[2].pipe.value}) && f.event == r.event);
                QVERIFY(f.detail.find("differ by 0.25 m") != std::string::npos && !f.remedy.empty());
            }
        QCOMPARE(said, 1);
    }
    void faulty_numbers_on_a_ring_stop_only_what_depends_on_them() {
        for (const std::uint64_t id : {1000, 1003, 1006, 1009}) {
            Project p = drowned_grid(4, 3, 3);
            p.pipes.change(id)->size = not_given;
            const auto r = solve(p)[0];
            for (const LinkResult& l : r->links) QVERIFY(l.flow.flow >= 0);
        }
        Project p = drowned_grid(4, 3, 3);  // no tailwater that is known
        p.structures.change(10)->tailwater_level = not_given;
        (void)solve(p);
        for (const Structure& s : Project(p).structures) p.structures.change(s.id)->known_flow = 0;  // dry
        (void)solve(p);
    }
};
QTEST_APPLESS_MAIN(TestRings)
#include "test_rings.moc"
