// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <random>
#include <set>

#include "core/analysis/solver.h"
#include "core/analysis/way_flows.h"
#include "support/networks.h"
#include "support/ponds.h"
#include "support/small_street.h"

using namespace culvert;
using testing::PondSite;
using testing::random_project;

/// Pipes, street paths and ways out of storage as one graph.
class TestWays : public QObject {
    Q_OBJECT
    static std::string names(const Project& p, const Network& n, const std::vector<int>& nodes) {
        std::vector<std::string> list;
        for (const int i : nodes)
            list.push_back(p.structures.find(n.nodes[static_cast<std::size_t>(i)].structure.value)->name);
        std::sort(list.begin(), list.end());
        std::string all;
        for (const std::string& s : list) all += (all.empty() ? "" : " ") + s;
        return all;
    }

  private slots:
    void water_of_a_pond_goes_on_by_its_outlets() {
        PondSite site;
        const Network net = compile(site.project);
        const Ways ways(net);
        QCOMPARE(names(site.project, net, ways.above(net.node_of(site.pond))), std::string("A1 A2 A3 P"));
        QCOMPARE(names(site.project, net, ways.below(net.node_of(site.head))), std::string("A1 A2 A3 C1 C2 E P"));
        QCOMPARE(names(site.project, net, ways.above(net.node_of(site.end))), std::string("A1 A2 A3 C1 C2 E P"));
        int outlets = 0, off = 0;
        for (const Way& w : ways.from(net.node_of(site.pond))) {
            QVERIFY(std::holds_alternative<OutletWay>(w.by));
            ++outlets;
            off += w.to == no_node;
        }
        QCOMPARE(outlets, 3);
        QVERIFY(off >= 1);
        // An outlet that runs through another one is no way of its own.
        site.set(Kind::PondOutlet, site.low, "behind", std::string("high"));
        const Network behind = compile(site.project);
        QCOMPARE(ways_out_of(behind, behind.node_of(site.pond)).size(), std::size_t{2});
    }
    void bypass_goes_by_the_street() {
        Project p = street();
        p.pipes.erase(11);  // A1 – A2: the street path is left
        const Network net = compile(p);
        const int a1 = net.node_of(StructureId{1}), a2 = net.node_of(StructureId{2});
        if (a1 == no_node) {  // without a pipe it may be no part of the network: then there is nothing to follow
            QVERIFY(a2 != no_node);
            return;
        }
        bool found = false;
        for (const Way& w : ways_out_of(net, a1))
            found = found || (std::holds_alternative<StreetWay>(w.by) && w.to == a2);
        QVERIFY(found);
    }
    void streets_and_pipes_lead_on_together() {
        const Project p = street();
        const Network net = compile(p);
        const Ways ways(net);
        const int a1 = net.node_of(StructureId{1});
        int pipes = 0, streets = 0;
        for (const Way& w : ways.from(a1)) {
            pipes += std::holds_alternative<PipeWay>(w.by);
            streets += std::holds_alternative<StreetWay>(w.by);
            QVERIFY(!way_name(p, net, w).empty());
        }
        QCOMPARE(pipes, 1);
        QCOMPARE(streets, 1);
        // Where all enters, nothing runs on over the street.
        Project q = p;
        q.settings_rows.change(settings_id)->inlet_flow = InletFlow::AllEnters;
        const Network open = compile(q);
        const Ways of_open(open);
        for (const Way& w : of_open.all()) QVERIFY(!std::holds_alternative<StreetWay>(w.by));
    }
    /// What runs by a way is what its kernel found; below 0 where a ring's water runs against it.
    void flows_are_those_of_the_kernels() {
        int against = 0;
        for (unsigned seed = 1; seed <= 12; ++seed) {
            Project p = random_project({.pipes = 40, .seed = seed, .events = 1, .awkward = false});
            std::vector<Structure> all(p.structures.begin(), p.structures.end());
            std::mt19937 gen(seed);
            for (std::uint64_t k = 0; k < 6; ++k) {  // pipes across, which close rings
                Pipe across = *p.pipes.begin();
                across.id = 70000 + k;
                across.from = {all[gen() % all.size()].id};
                across.to = {all[gen() % all.size()].id};
                across.size = 0.9;
                p.pipes.insert(across);
            }
            const auto r = solve(p)[0];
            const Ways ways(*r->network);
            for (const Way& w : ways.all())
                if (const auto* pipe = std::get_if<PipeWay>(&w.by)) {
                    const LinkFlow& f = r->links[static_cast<std::size_t>(pipe->link)].flow;
                    QCOMPARE(flow_of(*r, w).flow, f.against ? -f.flow : f.flow);
                    QVERIFY(!f.against || flow_of(*r, w).flow <= 0);
                    against += f.against && f.flow > 1e-6;
                }
        }
        QVERIFY2(against > 0, "water that runs against a pipe was seen");
        PondSite site;
        for (const auto& r : solve(site.project)) {
            double out = 0;
            for (const Way& w : ways_out_of(*r->network, r->network->node_of(site.pond))) out += flow_of(*r, w).volume;
            QVERIFY(std::abs(out - r->ponds[0].outflow_volume) < 1e-6 * out);
        }
        // The volume of a pipe is that of its structure where it alone leads on, else it is not known.
        site.insert(PondSite::pipe_of(901, {site.head.value + 1}, site.end, 42.9, 41.0, 0.3));
        int known = 0, unknown = 0;
        for (const auto& r : solve(site.project)) {
            const Ways ways(*r->network);
            for (const Way& w : ways.all())
                if (std::holds_alternative<PipeWay>(w.by)) {
                    const std::size_t from = static_cast<std::size_t>(w.from);
                    const bool parts = r->network->nodes[from].structure.value == site.head.value + 1;
                    const double volume = flow_of(*r, w).volume;
                    QVERIFY(parts ? std::isnan(volume) : volume == r->nodes[from].flow.volume && volume > 0);
                    ++(parts ? unknown : known);
                }
        }
        QVERIFY(known >= 8 && unknown == 4);
    }
    /// By pipes alone it is the set that a plain search over the rows finds; and the single lists are the graph's.
    void reach_is_that_of_a_search_over_the_rows() {
        for (unsigned seed = 1; seed <= 6; ++seed) {
            const Project p = random_project({.pipes = 120, .seed = seed, .events = 1});
            const Network net = compile(p);
            const Ways ways(net);
            std::mt19937 gen(seed);
            for (int k = 0; k < 10; ++k) {
                const int node = static_cast<int>(gen() % net.nodes.size());
                std::set<int> found{node};
                for (bool grew = true; grew;) {
                    grew = false;
                    for (const Link& l : net.links)
                        if (found.contains(l.to) && found.insert(l.from).second) grew = true;
                }
                const std::vector<int> above = ways.above(node);
                QVERIFY(std::vector<int>(found.begin(), found.end()) == above);
                for (const int i : above) {
                    const std::vector<int> below = ways.below(i);
                    QVERIFY(std::binary_search(below.begin(), below.end(), node));
                }
            }
            // In one order, whether all are gathered or those of a node only.
            const auto same = [](const Way& a, const Way& b) {
                return a.from == b.from && a.to == b.to && a.by == b.by;
            };
            for (int node = 0; node < static_cast<int>(net.nodes.size()); ++node) {
                const std::vector<Way> in = ways_into(net, node), out = ways_out_of(net, node);
                const auto from = ways.from(node);
                QVERIFY(std::equal(out.begin(), out.end(), from.begin(), from.end(), same));
                std::vector<Way> into;
                for (const int k : ways.into(node)) into.push_back(ways.all()[static_cast<std::size_t>(k)]);
                QCOMPARE(into.size(), in.size());
                for (const Way& w : in)
                    QVERIFY(std::any_of(into.begin(), into.end(), [&](const Way& v) { return same(v, w); }));
            }
        }
    }
};

QTEST_APPLESS_MAIN(TestWays)
#include "test_ways.moc"
