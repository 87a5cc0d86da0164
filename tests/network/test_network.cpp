// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <map>
#include <numbers>
#include <random>
#include <set>

#include "core/network/network.h"
#include "support/networks.h"

using namespace culvert;

namespace {

/// Any graph at all: rings, parallel pipes, islands, several outfalls, pipes to nowhere.
Project any_graph(unsigned seed) {
    std::mt19937 random(seed);
    Project p = new_project(UnitSystem::Si);
    const std::uint64_t count = 3 + random() % 25;
    for (std::uint64_t i = 1; i <= count; ++i) {
        Structure s;
        s.id = i * 37 % 1009;
        s.name = "N" + std::to_string(i);
        s.kind = random() % 6 == 0 ? StructureKind::Outfall
                 : random() % 2    ? StructureKind::Manhole
                                   : StructureKind::Inlet;
        s.x = static_cast<double>(random() % 1000);
        s.y = static_cast<double>(random() % 1000);
        s.rim = 20;
        p.structures.insert(s);
    }
    const std::uint64_t pipes = random() % (2 * count);
    for (std::uint64_t i = 1; i <= pipes; ++i) {
        Pipe q;
        q.id = 5000 + i;
        q.from = {(1 + random() % (count + 1)) * 37 % 1009};  // now and then a structure that is not there
        q.to = {(1 + random() % count) * 37 % 1009};
        q.invert_from = 10 + static_cast<double>(random() % 100) / 10;
        q.invert_to = 10 + static_cast<double>(random() % 100) / 10;
        if (random() % 12 == 0) q.status = Status::Abandoned;
        p.pipes.insert(q);
    }
    return p;
}

}  // namespace

class TestNetwork : public QObject {
    Q_OBJECT
  private slots:
    void lengths_end_at_the_walls_of_structures() {
        Project p = new_project(UnitSystem::Si);
        StructureType t;
        t.id = 900;
        t.name = "box";
        t.plan = PlanShape::Rectangular;
        t.length = 2;
        t.width = 1;
        p.structure_types.insert(t);
        Structure s;
        s.id = 1;
        s.type = "box";
        s.x = 30;
        s.y = 40;
        p.structures.insert(s);
        // Without a street it stands along the pipe.
        for (const Point to : {Point{130, 40}, Point{30, -60}, Point{100, 110}})
            QVERIFY(std::abs(outline_reach(p, *p.structures.find(1), to) - 1) < 1e-12);
        // Along a street: by the ray from its middle to the first wall, whichever way the street runs.
        Street street;
        street.id = 7;
        street.name = "Slope Street";
        street.line = {{0, 10}, {100, 110}};
        p.streets.insert(street);
        p.structures.change(1)->street = {7};
        std::mt19937 random(5);
        std::uniform_real_distribution<double> turn(0, 2 * std::numbers::pi);
        for (int i = 0; i < 50; ++i) {
            const double a = turn(random), axis = std::numbers::pi / 4;
            const Point to{30 + 25 * std::cos(a), 40 + 25 * std::sin(a)};
            double far = 0;  // walked in small steps
            for (double d = 0; d < 2; d += 1e-5) {
                const double along = d * std::cos(a - axis), across = d * std::sin(a - axis);
                if (std::abs(along) > 1 || std::abs(across) > 0.5) break;
                far = d;
            }
            QVERIFY2(std::abs(outline_reach(p, *p.structures.find(1), to) - far) < 3e-5,
                     qPrintable(QString("%1 for %2").arg(outline_reach(p, *p.structures.find(1), to)).arg(far)));
        }
        p.structure_types.change(900)->plan = PlanShape::Round;
        QCOMPARE(outline_reach(p, *p.structures.find(1), {99, 3}), 1.0);
    }
    void every_size_of_an_inlet_type_counts() {
        // Each number of a type that its kind reads changes what is compiled, alone.
        StructureType t;
        t.name = "inlet";
        t.length = 1.2;
        t.width = 0.5;
        t.opening_length = 2;
        t.opening_height = 0.15;
        t.depression = 0.05;
        t.depression_width = 0.9;
        t.clogging = 0.1;
        t.slot_width = 0.04;
        const auto opening = [](const InletForm& f) {
            return std::holds_alternative<CombinationInlet>(f) ? std::get<CombinationInlet>(f).opening
                                                               : std::get<CurbOpening>(f);
        };
        for (const InletKind kind : {InletKind::CurbOpening, InletKind::Combination}) {
            t.inlet = kind;
            const CurbOpening o = opening(*inlet_form(t, not_given));
            QCOMPARE(o.length, 2.0);
            QCOMPARE(o.height, 0.15);
            QCOMPARE(o.depression, 0.05);
            QCOMPARE(o.depression_width, 0.9);
            QCOMPARE(o.clogging, 0.1);
            QCOMPARE(opening(*inlet_form(t, 3.5)).length, 3.5);  // its own length
        }
        t.inlet = InletKind::Slotted;
        const auto slot = std::get<SlottedDrain>(*inlet_form(t, not_given));
        QVERIFY(slot.length == 1.2 && slot.slot == 0.04 && slot.clogging == 0.1);
        t.inlet = InletKind::Grate;
        const auto grate = std::get<Grate>(*inlet_form(t, not_given));
        QVERIFY(grate.length == 1.2 && grate.width == 0.5 && grate.clogging == 0.1);
    }
    void a_network_made_from_the_last_one_is_that_of_compile() {
        const auto same = [](double a, double b) { return a == b || (a != a && b != b); };
        const auto equal = [&](const Network& a, const Network& b) {
            bool good = a.nodes.size() == b.nodes.size() && a.links.size() == b.links.size() &&
                        a.components == b.components && a.covers == b.covers && a.idle == b.idle &&
                        a.by_structure == b.by_structure && a.by_pipe == b.by_pipe &&
                        a.faults.size() == b.faults.size() && a.least_time == b.least_time;
            for (std::size_t i = 0; good && i < a.nodes.size(); ++i) {
                const Node &x = a.nodes[i], &y = b.nodes[i];
                good = x.structure == y.structure && x.kind == y.kind && x.out == y.out && x.down == y.down &&
                       x.link_end == y.link_end && x.inflows == y.inflows && x.component == y.component &&
                       same(x.rim, y.rim) && same(x.sump, y.sump) && x.loss == y.loss && x.known_flow == y.known_flow &&
                       x.tailwater == y.tailwater && same(x.tailwater_level, y.tailwater_level) &&
                       x.first_in == y.first_in && x.access_hole == y.access_hole && x.inlet == y.inlet &&
                       x.local_time == y.local_time && x.cover_begin == y.cover_begin && x.cover_end == y.cover_end;
            }
            for (std::size_t i = 0; good && i < a.links.size(); ++i) {
                const Link &x = a.links[i], &y = b.links[i];
                good = x.pipe == y.pipe && x.from == y.from && x.to == y.to && x.main == y.main &&
                       x.solvable == y.solvable && x.section == y.section && x.roughness == y.roughness &&
                       same(x.length, y.length) && x.wall == y.wall && same(x.invert_up, y.invert_up) &&
                       same(x.invert_down, y.invert_down) && same(x.slope, y.slope) && same(x.capacity, y.capacity) &&
                       x.next_in == y.next_in && x.bend == y.bend && x.turn == y.turn && x.barrels == y.barrels;
            }
            for (std::size_t i = 0; good && i < a.faults.size(); ++i)
                good = a.faults[i].element == b.faults[i].element && a.faults[i].detail == b.faults[i].detail;
            return good;
        };
        std::mt19937 random(4);
        int made = 0, whole = 0;
        for (unsigned seed = 1; seed <= 300; ++seed) {
            Project p = seed % 2 ? any_graph(seed) : testing::random_project({.pipes = 30, .seed = seed, .events = 1});
            Network net = compile(p);
            for (int step = 0; step < 12 && !p.pipes.empty(); ++step) {
                Project next = p;
                const auto any = [&](const auto& table) {
                    auto row = table.begin();
                    std::advance(row, static_cast<long>(random() % table.size()));
                    return row->id;
                };
                Pipe& q = *next.pipes.change(any(p.pipes));
                Structure& s = *next.structures.change(any(p.structures));
                // Levels decide which way is the main one where there are several.
                switch (seed % 2 && random() % 2 ? 2 : random() % 13) {
                    case 0: q.size = 0.3 + static_cast<double>(random() % 10) / 10; break;
                    case 1: q.roughness = 0.010 + static_cast<double>(random() % 10) / 1000; break;
                    case 2: q.invert_from += static_cast<double>(random() % 100) / 5 - 10; break;
                    case 3: q.invert_to = random() % 5 ? q.invert_to - 0.2 : not_given; break;
                    case 4: q.status = Status::Abandoned; break;
                    case 5: s.rim += 0.5; break;
                    case 6: s.loss = 0.7; break;
                    case 7: s.known_flow = 0.05; break;
                    case 8: s.kind = StructureKind::Outfall; break;
                    case 9: s.x += 10; break;
                    case 10: s.name += "x"; break;
                    case 11: q.size = random() % 2 ? 1e9 : -1; break;  // out of its range: a fault is made
                    default:
                        q.length = 12;
                        s.sump = 0.4;
                        break;
                }
                if (const auto again = recompile(p, net, next)) {
                    QVERIFY2(equal(*again, compile(next)), qPrintable(QString("seed %1, step %2").arg(seed).arg(step)));
                    ++made;
                } else ++whole;
                net = compile(next);
                p = next;
            }
        }
        QVERIFY2(made > 200 && whole > 200, qPrintable(QString("%1 made, %2 whole").arg(made).arg(whole)));
    }
    void any_graph_compiles_to_a_forest_that_leads_to_outfalls() {
        int rings = 0, islands = 0, two = 0;
        for (unsigned seed = 1; seed <= 600; ++seed) {
            const Project p = any_graph(seed);
            const Network n = compile(p);
            std::set<std::uint64_t> used;
            for (std::size_t i = 0; i < n.nodes.size(); ++i) {
                const Node& node = n.nodes[i];
                QCOMPARE(n.node_of(node.structure), static_cast<int>(i));
                if (node.down == no_node) {
                    QCOMPARE(node.kind, StructureKind::Outfall);
                    QCOMPARE(node.out, no_link);
                    continue;
                }
                QVERIFY(node.down > static_cast<int>(i));  // water flows to higher numbers
                const Link& main = n.links[static_cast<std::size_t>(node.out)];
                QVERIFY(main.main && main.from == static_cast<int>(i) && main.to == node.down);
                QCOMPARE(n.node_of({Kind::Pipe, main.pipe.value}), static_cast<int>(i));
            }
            int mains = 0, outfalls = 0;
            for (std::size_t k = 0; k < n.links.size(); ++k) {
                const Link& link = n.links[k];
                QVERIFY(used.insert(link.pipe.value).second);
                QCOMPARE(n.link_of(link.pipe), static_cast<int>(k));
                // The pipe does join the two, and its inverts are those of its ends.
                const Pipe& q = *p.pipes.find(link.pipe.value);
                const StructureId from = n.nodes[static_cast<std::size_t>(link.from)].structure,
                                  to = n.nodes[static_cast<std::size_t>(link.to)].structure;
                const bool along = q.from == from;
                QVERIFY((along ? q.to : q.from) == to);
                QVERIFY(along || q.to == from);
                QCOMPARE(link.invert_up, along ? q.invert_from : q.invert_to);
                mains += link.main;
            }
            for (const Node& node : n.nodes) outfalls += node.down == no_node;
            QCOMPARE(mains + outfalls, static_cast<int>(n.nodes.size()));  // the main links make a forest
            for (std::size_t c = 0; c < n.components.size(); ++c) {
                const Component& k = n.components[c];
                int further = 0;
                for (int l = k.link_begin; l < k.link_end; ++l) {
                    const Link& link = n.links[static_cast<std::size_t>(l)];
                    further += !link.main;
                    for (const int end : {link.from, link.to})
                        QCOMPARE(n.nodes[static_cast<std::size_t>(end)].component, static_cast<int>(c));
                }
                QCOMPARE(further, k.further);
            }
            // Every pipe that is not abandoned is used or idle, and every structure solved or named.
            std::set<std::uint64_t> idle;
            for (const PipeId id : n.idle) idle.insert(id.value);
            for (const Pipe& q : p.pipes) {
                if (q.status == Status::Abandoned) continue;
                QVERIFY(used.contains(q.id) != idle.contains(q.id));
            }
            // A structure is in the solution exactly if a way to an outfall exists: by plain search.
            std::set<std::uint64_t> reached;
            for (const Structure& s : p.structures)
                if (s.kind == StructureKind::Outfall) reached.insert(s.id);
            for (bool grew = true; grew;) {
                grew = false;
                for (const Pipe& q : p.pipes) {
                    if (q.status == Status::Abandoned || !p.structures.find(q.from.value) ||
                        !p.structures.find(q.to.value))
                        continue;
                    if (reached.contains(q.from.value) != reached.contains(q.to.value)) {
                        reached.insert(q.from.value);
                        reached.insert(q.to.value);
                        grew = true;
                    }
                }
            }
            for (const Structure& s : p.structures)
                QCOMPARE(n.node_of(StructureId{s.id}) != no_node, reached.contains(s.id));
            for (const Fault& f : n.faults) {
                QVERIFY(!f.title.empty() && !f.detail.empty() && !f.remedy.empty());
                rings += f.title == "closes a ring";
                two += f.title == "two ways out";
                islands += f.title == "no way out" || f.title == "not connected";
            }
        }
        QVERIFY(rings > 100 && islands > 100 && two > 50);
    }
    void a_structure_with_a_choice_uses_its_lowest_way() {
        for (const bool swap : {false, true}) {
            Project p = new_project(UnitSystem::Si);
            for (std::uint64_t i = 1; i <= 3; ++i) {
                Structure s;
                s.id = i;
                s.name = std::string("N") + static_cast<char>('0' + i);
                s.kind = i == 1 ? StructureKind::Inlet : StructureKind::Outfall;
                s.x = 40.0 * static_cast<double>(i);
                s.y = 0;
                p.structures.insert(s);
            }
            for (std::uint64_t i = 2; i <= 3; ++i) {
                Pipe q;
                q.id = 10 + i;
                q.from = {1};
                q.to = {i};
                q.invert_from = (i == 2) == swap ? 5 : 6;
                q.invert_to = 4;
                p.pipes.insert(q);
            }
            const Network n = compile(p);
            const Node& node = n.nodes[static_cast<std::size_t>(n.node_of(StructureId{1}))];
            QCOMPARE(n.links[static_cast<std::size_t>(node.out)].pipe.value,
                     swap ? std::uint64_t{12} : std::uint64_t{13});
        }
    }
    void catchments_bring_covers_and_times() {
        Project p = testing::random_project({.pipes = 3, .seed = 4, .events = 1});
        p.catchments = {};
        const std::uint64_t to = p.pipes.begin()->from.value;
        Catchment c;
        c.id = 900;
        c.name = "K";
        c.structure = {to};
        c.area = 1000;
        c.coefficient = 0.5;
        c.time = 100;
        p.catchments.insert(c);
        const auto node = [&] {
            const Network n = compile(p);
            Node found = n.nodes[static_cast<std::size_t>(n.node_of(StructureId{to}))];
            double ca = 0;
            for (int k = found.cover_begin; k < found.cover_end; ++k)
                ca += n.covers[static_cast<std::size_t>(k)].area * n.covers[static_cast<std::size_t>(k)].coefficient;
            return std::pair{found, ca};
        };
        QCOMPARE(node().second, 500.0);
        QCOMPARE(node().first.local_time, 300.0);  // the least time
        // Land covers make area and coefficient.
        for (const auto& [id, a, k] : {std::tuple{901, 600.0, 0.9}, {902, 200.0, 0.2}}) {
            LandCover l;
            l.id = static_cast<std::uint64_t>(id);
            l.catchment = {900};
            l.area = a;
            l.coefficient = k;
            p.land_covers.insert(l);
        }
        QCOMPARE(node().second, 580.0);
        // Parts at fault do not count, and stop nothing.
        p.land_covers.change(902)->coefficient = 7;
        QCOMPARE(node().second, 540.0);
        // One that drains nowhere is named.
        p.catchments.change(900)->structure = {};
        const Network n = compile(p);
        QVERIFY(std::any_of(n.faults.begin(), n.faults.end(),
                            [](const Fault& f) { return f.title == "drains nowhere" && f.element.id == 900; }));
    }
    void entered_lengths_and_bends_count() {
        Project p = testing::random_project({.pipes = 1, .seed = 2, .events = 1, .awkward = false});
        const std::uint64_t id = p.pipes.begin()->id;
        const double straight = drawn_length(p, *p.pipes.find(id));
        const Structure& a = *p.structures.find(p.pipes.find(id)->from.value);
        p.pipes.change(id)->bends = {{a.x + 300, a.y}, {a.x, a.y}};
        QVERIFY(std::abs(drawn_length(p, *p.pipes.find(id)) - straight - 600) < 1e-9);
        p.pipes.change(id)->length = 77;
        const Network n = compile(p);
        const Link& node = n.links[static_cast<std::size_t>(n.link_of(PipeId{id}))];
        QCOMPARE(node.length, 77.0);
        QVERIFY(std::abs(node.slope - (node.invert_up - node.invert_down) / 77) < 1e-15);
    }
    void compiling_does_not_depend_on_the_order_of_rows() {
        for (unsigned seed = 1; seed <= 40; ++seed) {
            const Project p = any_graph(seed);
            Project q = p;
            q.pipes = {};
            std::vector<Pipe> rows(p.pipes.begin(), p.pipes.end());
            std::shuffle(rows.begin(), rows.end(), std::mt19937(seed));
            for (Pipe& row : rows) q.pipes.insert(row);
            const Network a = compile(p), b = compile(q);
            QVERIFY(std::equal(
                a.nodes.begin(), a.nodes.end(), b.nodes.begin(), b.nodes.end(),
                [](const Node& x, const Node& y) { return x.structure == y.structure && x.down == y.down; }));
            QVERIFY(std::equal(a.links.begin(), a.links.end(), b.links.begin(), b.links.end()));
            QCOMPARE(a.faults.size(), b.faults.size());
        }
    }
};
QTEST_APPLESS_MAIN(TestNetwork)
#include "test_network.moc"
