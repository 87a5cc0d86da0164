// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/analysis/capture_curve.h"
#include "core/analysis/explain.h"
#include "core/analysis/flow_memory.h"
#include "core/analysis/hydrograph.h"
#include "core/analysis/solver.h"
#include "core/analysis/street_flow.h"
#include "core/analysis/street_water.h"
#include "core/analysis/way_flows.h"
#include "core/design/storage_study.h"
#include "core/network/ways.h"
#include "support/difference.h"
#include "support/small_street.h"
#include "support/streets.h"

using culvert::testing::difference;

namespace {

void add_pipe(Project& p, std::uint64_t id, std::uint64_t from, std::uint64_t to, double up, double size) {
    Pipe q;
    q.id = id;
    q.from = {from};
    q.to = {to};
    q.size = size;
    q.invert_from = up;
    q.invert_to = up - 0.8;
    p.pipes.insert(q);
}
void add_path(Project& p, std::uint64_t id, std::uint64_t from, std::uint64_t to) {
    StreetPath path;
    path.id = id;
    path.name = "path " + std::to_string(id);
    path.from = {from};
    path.to = {to};
    p.street_paths.insert(path);
}
/// Water kept at 1 runs off by a small pipe, and over its rim along the street to the inlet 2; what that lets pass runs
/// to the inlet 4, and on off the site. Each has an outfall of its own.
Project corner() {
    Project p = street();
    Settings& s = *p.settings_rows.change(settings_id);
    s.runoff_by = RunoffBy::ModifiedRational;
    s.after_rain = 7200;
    p.structures.change(1)->type.clear();
    p.pipes.erase(11);
    Structure four = *p.structures.find(2);
    four.id = 4;
    four.name = "A4";
    four.x = four.station = 195;
    four.rim = 100.05;
    p.structures.insert(four);
    for (const std::uint64_t id : {5, 6}) {
        Structure out = *p.structures.find(3);
        out.id = id;
        out.name = "E" + std::to_string(id);
        out.y += 10.0 * static_cast<double>(id);
        p.structures.insert(out);
    }
    add_pipe(p, 13, 1, 5, 99.0, 0.15);
    add_pipe(p, 14, 4, 6, 98.0, 0.6);
    add_path(p, 32, 2, 4);
    add_path(p, 33, 4, 0);
    Pond pond;
    pond.id = 41;
    pond.name = "corner";
    pond.structure = {1};
    pond.storage_by = StorageBy::Tank;
    pond.bottom = 99;
    pond.length = pond.width = pond.depth = 2;
    p.ponds.insert(pond);
    PondOutlet over;
    over.id = 42;
    over.name = "over the rim";
    over.structure = {1};
    over.kind = OutletKind::BroadWeir;
    over.level = 101;
    over.width = 2;
    over.to = {2};
    over.overflow = true;
    p.outlets.insert(over);
    for (const auto& [id, at, area] : {std::tuple{22, 2, 900.0}, {23, 4, 600.0}}) {
        Catchment c = *p.catchments.find(21);
        c.id = static_cast<std::uint64_t>(id);
        c.name = "C" + std::to_string(id);
        c.structure = {static_cast<std::uint64_t>(at)};
        c.area = area;
        p.catchments.insert(c);
    }
    return p;
}
/// The small pipe meets standing water: the pond's levels are found in rounds.
void drown(Project& p, double level) {
    Structure& out = *p.structures.change(5);
    out.tailwater = Tailwater::Level;
    out.tailwater_level = level;
}
/// Solved, with the series of all its structures.
struct Solved {
    Network net;
    EventResult r;
    std::vector<Series> all;
    explicit Solved(const Project& p) : net(compile(p)) {
        const RainEvent* e = events_in_order(p)[0];
        static_cast<Summaries&>(r) = Summaries(net);
        set_tails(net, {e->id}, r);
        AskedSeries asked;
        for (std::size_t i = 0; i < net.nodes.size(); ++i) asked.nodes.push_back(static_cast<int>(i));
        all = solve_through_time(net, rain_of(*e), r, asked);
    }
    int node(std::uint64_t id) const { return net.node_of(StructureId{id}); }
    int inlet(std::uint64_t id) const { return net.nodes[static_cast<std::size_t>(node(id))].inlet; }
    const StreetFlow& street(std::uint64_t id) const { return r.streets[static_cast<std::size_t>(inlet(id))]; }
    std::vector<double> of(std::uint64_t id, std::string_view key) const {
        for (const Series& s : all)
            if (s.element.id == id && s.key == key) return s.values;
        return {};
    }
    double balance_error() const { return std::abs(r.balance.error()) / (r.balance.runoff + r.balance.known); }
};

}  // namespace

/// Water that is kept somewhere and spills along a street path: it comes to the inlet there like any other.
class TestSpill : public QObject {
    Q_OBJECT
    static void meets_the_inlets(const Project& p) {
        const Solved s(p);
        const std::vector<double> spill = s.of(1, "way 2"), own2 = s.of(2, "runoff"), own4 = s.of(4, "runoff"),
                                  in2 = s.of(2, "inflow"), in4 = s.of(4, "inflow");
        QVERIFY(!spill.empty() && spill.size() == own4.size());
        const StreetConstants k = street_constants(s.net.edition);
        const auto takes = [&](std::uint64_t id, double q) {
            StreetFlow none;
            return q > 0 ? taken_by(s.net.inlets[static_cast<std::size_t>(s.inlet(id))], q, k, none) : 0;
        };
        const double step = s.net.through_time->step, later = s.street(2).travel / step;
        QVERIFY(later > 0.05);
        double most2 = 0, most4 = 0, along2 = 0, passed_before = 0, off = 0;
        std::vector<double> passed(spill.size());
        for (std::size_t t = 0; t < spill.size(); ++t) {
            const double q2 = own2[t] + spill[t];
            if (q2 > most2) most2 = q2, along2 = spill[t];
            QVERIFY2(std::abs(in2[t] - takes(2, q2)) < 1.1e-3 * s.street(2).flow,
                     qPrintable(QString("%1: %2 of %3").arg(t).arg(in2[t]).arg(q2)));
            passed[t] = q2 - in2[t];
        }
        for (std::size_t t = 0; t < spill.size(); ++t) {
            // A mean of a step that comes a part of a step later.
            const auto whole = static_cast<std::size_t>(later);
            const double part = later - std::floor(later);
            const auto at = [&](std::size_t back) { return t >= back ? passed[t - back] : passed_before; };
            const double q4 = own4[t] + at(whole) * (1 - part) + at(whole + 1) * part;
            most4 = std::max(most4, q4);
            QVERIFY(std::abs(in4[t] - takes(4, q4)) < 2e-3 * s.street(4).flow);
            off += (q4 - in4[t]) * step;
        }
        QVERIFY(along2 > 0.02);  // it is the spill that governs
        QVERIFY(close(s.street(2).flow, most2) && close(s.street(2).along, along2) && close(s.street(4).flow, most4));
        QVERIFY(s.street(2).bypass > 0.005 && off > 1);
        QVERIFY(s.balance_error() < 1e-9);
        const auto r = solve(p)[0];
        QVERIFY(close(spilled(*r, s.node(1), s.node(2)), s.r.ponds[0].way_peaks[1]));
        QCOMPARE(spilled(*r, s.node(1), s.node(4)), 0.0);
        QCOMPARE(spilled(*r, s.node(2), s.node(4)), 0.0);
    }

  private slots:
    /// Each step of the spill, against the inlets' own equations, summed up here.
    void a_spill_meets_the_inlets_on_its_way() {
        for (const bool drowned : {false, true}) {
            Project p = corner();
            if (drowned) drown(p, 100.4);
            meets_the_inlets(p);
        }
        // The inlet's own water comes later and governs the time: then the spill is past its largest.
        Project late = corner();
        late.catchments.change(22)->area = 9000;
        late.catchments.change(22)->time = 3600;
        meets_the_inlets(late);
        const Solved s(late);
        QVERIFY(s.street(2).along < 0.98 * s.r.ponds[0].way_peaks[1]);
    }
    /// The water below in the pipes holds an outlet into the structure back; a spill over the ground runs on.
    void water_in_the_pipes_holds_no_spill_back() {
        const auto level = [](bool over_street, double tailwater) {
            Project p = corner();
            p.outlets.change(42)->overflow = over_street;
            Structure& out = *p.structures.change(3);
            out.tailwater = Tailwater::Level;
            out.tailwater_level = tailwater;
            const Solved s(p);
            return s.r.ponds[0].level;
        };
        const double free = level(true, 98);
        QVERIFY(free > 101.03);
        QVERIFY(close(level(false, 98), free));
        QCOMPARE(level(true, 101.08), free);
        QVERIFY(level(false, 101.08) > free + 0.02);
    }
    /// Along the curb it is there from where it spills.
    void the_street_carries_it_from_its_place() {
        const Project p = corner();
        const auto r = solve(p)[0];
        const StreetWater water(p, *r, [](const Street& s) {
            StreetProfile out;
            for (std::size_t i = 0; i < s.stations.size(); ++i) out.push_back({s.stations[i], s.levels[i]});
            return out;
        });
        const double spill = r->ponds[0].way_peaks[1], comes = r->streets[0].flow;
        const auto flow = [&](double station) { return water.at({70}, 1, station).flow; };
        QVERIFY(flow(90) < 0.6 * (comes - spill) && flow(90) > 0.3 * (comes - spill));
        QVERIFY(flow(101) > spill && flow(101) < spill + 0.7 * (comes - spill));
        QVERIFY(close(flow(179.99), comes, 1e-3));
        QVERIFY(close(water.at({70}, 1, 181).flow, r->streets[0].bypass, 0.2));
    }
    /// What makes it run over the street: an overflow, a street path to the same place, an inlet there.
    void an_outlet_into_the_structure_meets_no_inlet() {
        Project low = corner(), elsewhere = corner(), plain = corner();
        low.outlets.change(42)->overflow = false;
        elsewhere.street_paths.change(31)->to = {4};
        plain.structures.change(2)->type.clear();
        for (const Project& p : {low, elsewhere}) {
            const Solved s(p);
            const std::vector<double> spill = s.of(1, "way 2"), own = s.of(2, "runoff"), in = s.of(2, "inflow");
            const double most = *std::max_element(own.begin(), own.end());
            QVERIFY(close(s.street(2).flow, most) && s.street(2).along == 0);
            for (std::size_t t = 0; t < in.size(); ++t) QVERIFY(in[t] >= spill[t]);
            QVERIFY(s.balance_error() < 1e-9);
            QCOMPARE(spilled(*solve(p)[0], s.node(1), s.node(2)), 0.0);
        }
        const Solved s(plain);
        QCOMPARE(s.inlet(2), no_inlet);
        QVERIFY(s.r.nodes[static_cast<std::size_t>(s.node(2))].flow.flow > 0.03);
        QVERIFY(s.balance_error() < 1e-9);
        // Where inlets take all that comes, they take the spill too.
        Project all = corner();
        all.settings_rows.change(settings_id)->inlet_flow = InletFlow::AllEnters;
        const Solved t(all);
        QVERIFY(close(t.street(2).flow, s.r.nodes[static_cast<std::size_t>(s.node(2))].flow.flow, 1e-6));
        QVERIFY(t.balance_error() < 1e-9);
    }
    /// Where all enters, the street is watched all the same: it carries what it carried, and pipes what falls there.
    void where_all_enters_streets_are_watched() {
        int passes = 0;
        for (const unsigned seed : {1u, 2u, 3u, 4u}) {
            Project p = culvert::testing::street_project({3, 10, seed});
            p.settings_rows.change(settings_id)->runoff_by = RunoffBy::ModifiedRational;
            Project all = p;
            all.settings_rows.change(settings_id)->inlet_flow = InletFlow::AllEnters;
            p.settings_rows.change(settings_id)->inlet_flow = InletFlow::Limited;
            const Results a = solve(p), b = solve(all);
            for (std::size_t e = 0; e < a.size(); ++e) {
                QVERIFY(a[e]->streets.size() > 5);
                for (std::size_t i = 0; i < a[e]->streets.size(); ++i) {
                    const StreetFlow &f = a[e]->streets[i], &g = b[e]->streets[i];
                    QCOMPARE(g.flow, f.flow);
                    QCOMPARE(g.along, f.along);
                    QCOMPARE(g.spread, f.spread);
                    QCOMPARE(g.bypass, f.bypass);
                    passes += f.along > 1e-3;
                }
                const WaterBalance& w = b[e]->balance;
                QVERIFY(std::abs(w.error()) <= 1e-9 * (w.runoff + w.known));
            }
            // Without inlets' types nothing passes any: pipes carry the same as where all enters.
            Project none = all;
            for (const Structure& s : all.structures) none.structures.change(s.id)->type.clear();
            const Results c = solve(none);
            for (std::size_t e = 0; e < b.size(); ++e)
                for (std::size_t i = 0; i < b[e]->nodes.size(); ++i)
                    QVERIFY(close(b[e]->nodes[i].flow.flow, c[e]->nodes[i].flow.flow, 1e-9));
        }
        QVERIFY(passes > 10);
        // A spill is watched on the street, and enters.
        Project p = corner();
        p.settings_rows.change(settings_id)->inlet_flow = InletFlow::AllEnters;
        const Solved s(p);
        QVERIFY(s.street(2).along > 0.02 && s.street(4).along > 0.005);
        const std::vector<double> spill = s.of(1, "way 2"), own = s.of(2, "runoff"), in = s.of(2, "inflow");
        for (std::size_t t = 0; t < in.size(); ++t) QVERIFY(close(in[t], own[t] + spill[t]));
        QCOMPARE(s.of(4, "inflow"), s.of(4, "runoff"));
    }
    /// Water that would run in a ring over the street enters the pipe; one that comes back by pipes leaves, with an
    /// error.
    void rings_over_the_street_end() {
        Project p = corner();
        Structure& one = *p.structures.change(1);
        one.type = "grate";
        p.street_paths.change(32)->to = {1};  // the inlet 2 lets pass to 1, and that spills to 2
        const Solved s(p);
        QCOMPARE(s.street(2).along, 0.0);
        QVERIFY(s.street(1).along > 0);
        QVERIFY(s.balance_error() < 1e-9);
        QVERIFY(
            std::none_of(s.net.faults.begin(), s.net.faults.end(), [](auto& f) { return f.title == "leads back"; }));

        Project back = corner();
        back.pipes.change(12)->to = {1};
        back.pipes.change(12)->invert_to = 99.1;
        back.pipes.change(12)->invert_from = 99.4;
        const Solved b(back);
        QVERIFY(std::any_of(b.net.faults.begin(), b.net.faults.end(), [](auto& f) { return f.title == "leads back"; }));
        QVERIFY(b.balance_error() < 1e-9);
        QCOMPARE(b.street(2).along, 0.0);
    }
    /// Every turn comes after all that brings it water.
    void each_comes_after_what_brings_it_water() {
        const Network net = compile(corner());
        const ThroughTime& t = *net.through_time;
        QCOMPARE(t.turns.size(), net.nodes.size() + net.inlets.size());
        QCOMPARE(t.order.size(), net.nodes.size());
        const auto turn = [&](int number) {
            return std::find(t.turns.begin(), t.turns.end(), number) - t.turns.begin();
        };
        const int n1 = net.node_of(StructureId{1}), n2 = net.node_of(StructureId{2}), n4 = net.node_of(StructureId{4});
        const int s2 = net.nodes[static_cast<std::size_t>(n2)].inlet,
                  s4 = net.nodes[static_cast<std::size_t>(n4)].inlet;
        QVERIFY(turn(-1 - n1) < turn(s2) && turn(s2) < turn(s4) && turn(s2) < turn(-1 - n2) &&
                turn(s4) < turn(-1 - n4));
    }
    void an_edit_gives_what_a_solve_from_nothing_gives() {
        int spills = 0, less = 0;
        for (unsigned seed = 1; seed <= 6; ++seed) {
            Project p = corner();
            // A second corner between: 2 keeps water too, and spills on to 4. An inlet above lets pass to 2.
            if (seed % 2) {
                Pond pond = *p.ponds.find(41);
                pond.id = 43;
                pond.structure = {2};
                pond.bottom = 98;
                p.ponds.insert(pond);
                PondOutlet over = *p.outlets.find(42);
                over.id = 44;
                over.name = "on";
                over.structure = {2};
                over.to = {4};
                over.level = 99.6;
                p.outlets.insert(over);
            }
            Structure above = *p.structures.find(2);
            above.id = 7;
            above.name = "A7";
            above.x = above.station = 120;
            p.structures.insert(above);
            add_pipe(p, 15, 7, 3, 98.6, 0.4);
            add_path(p, 34, 7, 2);
            Catchment c = *p.catchments.find(21);
            c.id = 24;
            c.structure = {7};
            p.catchments.insert(c);
            std::mt19937 gen(seed);
            Solver warm;
            warm.solve(p, 0);
            for (int i = 0; i < 24; ++i) {
                switch (gen() % 12) {
                    case 0: p.catchments.change(21 + gen() % 4)->area *= gen() % 2 ? 1.2 : 0.9; break;
                    case 1: p.outlets.change(42)->level = 100.5 + 0.1 * static_cast<double>(gen() % 8); break;
                    case 2: p.structure_types.change(71)->length = 0.3 + 0.1 * static_cast<double>(gen() % 8); break;
                    case 3: p.pipes.change(12 + gen() % 3)->size = gen() % 2 ? 0.15 : 0.3; break;
                    case 4: p.structures.change(2)->known_flow = 0.004 * static_cast<double>(gen() % 5); break;
                    case 5: p.outlets.change(42)->overflow = gen() % 2; break;
                    case 6: p.outlets.change(42)->to = {gen() % 3 ? 2u : 4u}; break;
                    case 7: p.ponds.change(41)->length = 1 + static_cast<double>(gen() % 3); break;
                    case 8: p.structures.change(7)->known_flow = 0.01 * static_cast<double>(gen() % 5); break;
                    case 10: drown(p, 98.5 + 0.4 * static_cast<double>(gen() % 6)); break;
                    case 9:
                        p.settings_rows.change(settings_id)->inlet_flow =
                            gen() % 3 ? InletFlow::Limited : InletFlow::AllEnters;
                        break;
                    default: p.street_paths.change(31)->to = {gen() % 3 ? 2u : 4u}; break;
                }
                const Results w = warm.solve(p, 0), cold = solve(p);
                for (std::size_t e = 0; e < w.size(); ++e) {
                    const QString at = difference(*w[e], *cold[e]);
                    QVERIFY2(at.isEmpty(), qPrintable(QString("seed %1 edit %2: ").arg(seed).arg(i) + at));
                    const WaterBalance& b = w[e]->balance;
                    QVERIFY2(std::abs(b.error()) <= 1e-9 * (b.runoff + b.known),
                             qPrintable(QString("seed %1 edit %2: %3").arg(seed).arg(i).arg(b.error())));
                    less += w[e]->flows->computed < w[e]->nodes.size();
                    for (const StreetFlow& f : w[e]->streets) spills += f.along > 0.01;
                }
                for (const std::uint64_t id : {2, 4})
                    for (const auto& h : hydrographs_at(p, {id}, {}, cold))
                        for (const auto& plain : hydrographs_at(p, {id}))
                            if (plain.event == h.event) QCOMPARE(h.of("inflow")->values, plain.of("inflow")->values);
            }
        }
        QVERIFY(spills > 100);
        QVERIFY(less > 10);
    }
    /// The working of a flow names the ways by which water arrives, each with its number.
    void the_working_of_a_flow_names_what_arrives() {
        const auto words = [](const Project& p, std::uint64_t id) {
            const auto r = solve(p)[0];
            for (const Step& s : explain(p, *r, {Kind::Structure, id}, "flow").steps)
                if (s.symbol == "Qa") return QString::fromStdString(s.note);
            return QString();
        };
        const auto number = [](double q) { return QString::fromStdString(working_number(q, 5)) + " m³/s "; };
        Project p = corner();
        const auto r = solve(p)[0];
        const StreetFlow& at2 = r->streets[0];
        QVERIFY2(words(p, 2).contains(number(at2.captured) + "taken by its inlet, of "), qPrintable(words(p, 2)));
        QVERIFY(words(p, 2).endsWith(QString::fromStdString(working_number(at2.flow, 5)) + " along the street"));
        const auto small = r->links[static_cast<std::size_t>(r->network->link_of(PipeId{13}))].flow.flow;
        QVERIFY2(words(p, 5).contains("; " + number(small) + "by pipe A1"), qPrintable(words(p, 5)));
        p.outlets.change(42)->overflow = false;
        QVERIFY2(words(p, 2).contains("by outlet over the rim"), qPrintable(words(p, 2)));
        p = corner();
        p.settings_rows.change(settings_id)->inlet_flow = InletFlow::AllEnters;
        QVERIFY(words(p, 2).contains("of its catchment") && words(p, 2).contains("along the street from A1"));
        QVERIFY(words(p, 4).contains("of its catchment") && !words(p, 4).contains("A2"));
        p.structures.change(2)->known_flow = 0.0125;
        QVERIFY(words(p, 2).contains("0.0125 m³/s known flow"));
        QVERIFY(words(p, 1).contains("; ") && !words(p, 1).contains("each"));
    }
    /// The working: each formula gives its number; what is its own at that time is what its catchments give then.
    void the_working_says_where_the_water_comes_from() {
        Project p = corner();
        for (const RunoffBy by : {RunoffBy::ModifiedRational, RunoffBy::UnitHydrograph}) {
            p.settings_rows.change(settings_id)->runoff_by = by;
            p.settings_rows.change(settings_id)->curve_number = 96;
            const auto r = solve(p)[0];
            const Solved s(p);
            const std::vector<double> own = s.of(2, "runoff");
            const Explanation x = explain(p, *r, {Kind::Structure, 2}, "spread");
            QVERIFY(x.error.empty());
            int seen = 0;
            for (const Step& step : x.steps) {
                if (step.symbol == "Qs") {
                    QVERIFY(step.note.find("spilled from A1") != step.note.npos);
                    ++seen;
                }
                QVERIFY(step.symbol != "i" && step.symbol != "CA");
                if (step.formula.empty()) continue;
                std::string error;
                const double v = evaluate(step.formula, step.terms, &error);
                QVERIFY2(std::abs(v - step.result) <= 2e-5 * std::abs(step.result) + 1e-9,
                         qPrintable(QString("%1: %2, not %3 %4")
                                        .arg(step.symbol.c_str())
                                        .arg(v)
                                        .arg(step.result)
                                        .arg(error.c_str())));
                if (step.symbol != "Qa") continue;
                ++seen;
                const auto at = static_cast<std::size_t>(std::lround(s.street(2).time / s.net.through_time->step)) - 1;
                QVERIFY(close(step.terms[0].value, own[at]) && close(step.result, s.street(2).flow));
            }
            QCOMPARE(seen, 2);
        }
        const Network net = compile(p);
        int over = 0;
        for (const Way& w : ways_into(net, net.node_of(StructureId{2}))) {
            over += runs_over_street(net, w);
            if (runs_over_street(net, w))
                QCOMPARE(way_name(p, net, w), std::string("outlet over the rim, over the street"));
        }
        QCOMPARE(over, 1);
    }
};

QTEST_APPLESS_MAIN(TestSpill)
#include "test_spill.moc"
