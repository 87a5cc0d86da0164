// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <map>
#include <random>

#include "core/analysis/explain.h"
#include "core/analysis/result_fields.h"
#include "core/analysis/solver.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/review/review.h"
#include "support/networks.h"
#include "support/seen.h"

using namespace culvert;
using culvert::testing::random_project;
using culvert::testing::Recipe;
using culvert::testing::Seen;

namespace {

bool close(double a, double b, double within = 1e-9) { return std::abs(a - b) <= within; }

/// A1 – A2 – A3 (outfall), 60 m each, pressurised by a tailwater; known flows only. A2 turns by 90 degrees.
Project bend(double flow = 0.2) {
    Project p = new_project(UnitSystem::Si);
    const auto add = [&](std::uint64_t id, StructureKind kind, double x, double y, const char* name, double q) {
        Structure s;
        s.id = id;
        s.name = name;
        s.kind = kind;
        s.x = x;
        s.y = y;
        s.rim = 104;
        s.known_flow = q;
        p.structures.insert(s);
    };
    add(1, StructureKind::Manhole, 0, 60, "A1", flow);
    add(2, StructureKind::Manhole, 0, 0, "A2", 0);
    add(3, StructureKind::Outfall, 60, 0, "A3", 0);
    for (const auto& [id, from, to, up] : {std::tuple{11, 1, 2, 100.6}, {12, 2, 3, 100.3}}) {
        Pipe q;
        q.id = static_cast<std::uint64_t>(id);
        q.from = {static_cast<std::uint64_t>(from)};
        q.to = {static_cast<std::uint64_t>(to)};
        q.size = 0.45;
        q.invert_from = up;
        q.invert_to = up - 0.3;
        p.pipes.insert(q);
    }
    p.structures.change(3)->tailwater = Tailwater::Level;
    p.structures.change(3)->tailwater_level = 101.5;
    for (const auto& [id, name, years] : {std::tuple{5, "10 years", 10.0}, {6, "100 years", 100.0}}) {
        RainEvent e;
        e.id = static_cast<std::uint64_t>(id);
        e.name = name;
        e.return_period = years;
        e.durations = {300, 3600};
        e.intensities = {4e-5, 1e-5};
        p.events.insert(e);
    }
    return p;
}
double head(double v) { return v * v / (2 * gravity); }
double level(const Results& r, std::size_t event, std::uint64_t structure) {
    return r[event]->nodes[static_cast<std::size_t>(r[event]->network->node_of(StructureId{structure}))].level.level;
}

}  // namespace

/// Tailwaters by event and by rating, access holes in the network, several barrels, channels below outfalls.
class TestNetworkOutlets : public QObject {
    Q_OBJECT
  private slots:
    void a_level_of_one_event_is_met_in_that_event() {
        Project p = bend();
        const Results before = solve(p);
        OutfallLevel l;
        l.id = 90;
        l.structure = {3};
        l.event = {6};
        l.level = 102.25;
        p.outfall_levels.insert(l);
        const Results after = solve(p);
        QCOMPARE(level(after, 0, 3), 101.5);
        QCOMPARE(level(after, 1, 3), 102.25);
        QCOMPARE(level(after, 0, 1), level(before, 0, 1));
        QVERIFY(close(level(after, 1, 1) - level(before, 1, 1), 0.75));  // full throughout: all levels rise alike
        Editing e(p, "");
        e.remove(Kind::Event, 6);
        QVERIFY(e.now().outfall_levels.empty());
    }
    void a_rating_gives_the_level_of_the_flow() {
        Project p = bend(0.2);
        Structure& s = *p.structures.change(3);
        s.tailwater = Tailwater::Rating;
        s.rating_flows = {0.1, 0.3, 0.5};
        s.rating_levels = {101, 102, 102.5};
        QCOMPARE(level(solve(p), 0, 3), 101.5);
        p.structures.change(1)->known_flow = 0.05;  // held at its ends
        QCOMPARE(level(solve(p), 0, 3), 101.0);
        p.structures.change(1)->known_flow = 0.4;
        QVERIFY(close(level(solve(p), 0, 3), 102.25));
        p.structures.change(1)->known_flow = 9;
        QCOMPARE(level(solve(p), 0, 3), 102.5);
        p.structures.change(3)->rating_levels = {101, 102};
        const Network bad = compile(p);
        QCOMPARE(bad.faults.size(), std::size_t{1});
        QVERIFY(bad.faults[0].title == "tailwater rating at fault");
        QCOMPARE(level(solve(p), 0, 2) > 0, true);  // solved as a free outfall
    }
    /// A rating in a ring: two ways to two outfalls, one of them rated by what leaves there.
    void a_rating_holds_where_water_divides() {
        Project p = bend(0.3);
        Structure out;
        out.id = 4;
        out.name = "B1";
        out.kind = StructureKind::Outfall;
        out.x = -60;
        out.y = 0;
        out.tailwater = Tailwater::Rating;
        out.rating_flows = {0, 1};
        out.rating_levels = {101, 103};
        p.structures.insert(out);
        Pipe q;
        q.id = 13;
        q.from = {2};
        q.to = {4};
        q.size = 0.45;
        q.invert_from = 100.3;
        q.invert_to = 100;
        p.pipes.insert(q);
        const Results r = solve(p);
        const Network& net = *r[0]->network;
        const double leaves = r[0]->nodes[static_cast<std::size_t>(net.node_of(StructureId{4}))].flow.flow;
        QVERIFY(leaves > 0.05 && leaves < 0.3);
        QVERIFY(close(level(r, 0, 4), 101 + 2 * leaves, 1e-5));
        QVERIFY(r[0]->unbalanced.empty());
    }

    /// Full pipes: V = 0.2 / 0.15904, DI by hand, a turn of 90 degrees: E = Eo + 4.5 cos 45 (Eo - Ei).
    void an_access_hole_adds_what_the_method_says() {
        Project p = bend(0.2);
        p.settings_rows.change(settings_id)->loss_by = LossBy::AccessHole;
        const Results r = solve(p);
        const double area = M_PI * 0.45 * 0.45 / 4, v = 0.2 / area;
        const double friction = std::pow(0.2 / full_conveyance(Circular{0.45}, 0.013), 2) * 60;
        const double entrance = 101.5 + friction;  // grade line at the entrance of the lower pipe
        const double energy = entrance + head(v) + 0.2 * head(v) * (1 + 4.5 * std::cos(M_PI / 4));
        QVERIFY(close(level(r, 0, 2), energy, 1e-9));
        // The pipe above ends 0.4 V2/2g above it with its energy line.
        const auto above = culvert::testing::seen(*r[0], StructureId{1});
        QVERIFY(close(100.3 + above.level.head_down + head(v), energy + 0.4 * head(v), 1e-9));
        // The head has no inflow: its water plunges from the rim, by at most what the method counts.
        const double first = 100.6 + above.level.head_up + 1.2 * head(v);
        const double plunge = std::min((104 - first) / 0.45, 10.0);
        QVERIFY(close(level(r, 0, 1), first + plunge * 0.2 * head(v), 1e-9));
    }
    /// The same structure by K and by the energy method, as the project says.
    void setting_loss_by() {
        Project p = bend(0.2);
        const double by_k = level(solve(p), 0, 2);
        p.settings_rows.change(settings_id)->loss_by = LossBy::AccessHole;
        const double by_energy = level(solve(p), 0, 2), v = 0.2 / (M_PI * 0.45 * 0.45 / 4);
        QVERIFY(close(by_energy - by_k, 0.2 * head(v) * 4.5 * std::cos(M_PI / 4), 1e-9));  // K is 0.2, as Ki
    }
    /// A structure's own choice goes before the project's.
    void choice_structure_loss_by() {
        for (const LossBy project : {LossBy::Coefficient, LossBy::AccessHole}) {
            Project p = bend(0.2);
            double level_of[3];
            p.settings_rows.change(settings_id)->loss_by = project;
            for (const LossBy own : {LossBy::Project, LossBy::Coefficient, LossBy::AccessHole}) {
                p.structures.change(2)->loss_by = own;
                level_of[static_cast<int>(own)] = level(solve(p), 0, 2);
            }
            QCOMPARE(level_of[0], level_of[static_cast<int>(project)]);
            QVERIFY(level_of[2] > level_of[1] + 0.05);
        }
    }
    /// The level of each floor is that of the method with that floor.
    void choice_type_benching() {
        Project p = bend(0.2);
        p.settings_rows.change(settings_id)->loss_by = LossBy::AccessHole;
        StructureType t;
        t.id = 77;
        t.name = "bench";
        p.structure_types.insert(t);
        p.structures.change(2)->type = "bench";
        const double v = 0.2 / (M_PI * 0.45 * 0.45 / 4);
        const double friction = std::pow(0.2 / full_conveyance(Circular{0.45}, 0.013), 2) * 60;
        const double ei = 101.5 + friction + head(v) - 100.3;
        for (int floor = 0; floor < 5; ++floor) {
            p.structure_types.change(77)->benching = static_cast<Benching>(floor);
            const HoleInflow enters{0.2, 90, 0};
            const double e =
                access_hole_energy(Circular{0.45}, ei, v, 0.2, static_cast<Benching>(floor), {&enters, 1}, 3.7).energy;
            QVERIFY(close(level(solve(p), 0, 2), 100.3 + e, 1e-9));
        }
    }
    void the_working_of_an_access_hole_is_what_was_computed() {
        Project p = bend(0.2);
        p.settings_rows.change(settings_id)->loss_by = LossBy::AccessHole;
        for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
            p.settings_rows.change(settings_id)->system = system;
            const Results r = solve(p);
            const Explanation x = explain(p, *r[0], {Kind::Structure, 2}, "loss");
            QVERIFY(x.error.empty());
            QCOMPARE(x.steps.size(), std::size_t{8});
            for (const Step& s : x.steps) {
                std::string error;
                const double again = evaluate(s.formula, s.terms, &error);
                QVERIFY2(close(again, s.result, 1e-9 * std::max(1.0, std::abs(s.result))),
                         qPrintable(QString::fromStdString(s.symbol + " " + s.formula + " " + error)));
            }
            const double feet = system == UnitSystem::Us ? 0.3048 : 1;
            QVERIFY(close(x.steps.back().result * feet, level(r, 0, 2), 1e-9));
        }
    }
    /// Energy never rises downstream, no level is lost, also where holes, boxes, joints and drops come together.
    void random_networks_with_access_holes_keep_their_energy() {
        int holes = 0;
        for (unsigned seed = 1; seed <= 300; ++seed) {
            Project p = random_project({30, seed, 1, true});
            p.settings_rows.change(settings_id)->loss_by = LossBy::AccessHole;
            const Results r = solve(p);
            const Network& net = *r[0]->network;
            for (std::size_t i = 0; i < net.links.size(); ++i) {
                const Link& l = net.links[i];
                const LinkResult& f = r[0]->links[i];
                if (!l.solvable || f.flow.flow <= dry_flow || std::isnan(f.level.head_up)) continue;
                const auto& up = r[0]->nodes[static_cast<std::size_t>(l.from)].level;
                const auto& down = r[0]->nodes[static_cast<std::size_t>(l.to)].level;
                const double energy_up = l.invert_up + f.level.head_up + head(f.level.velocity_up),
                             energy_down = l.invert_down + f.level.head_down + head(f.level.velocity_down);
                QVERIFY(std::isfinite(up.level));
                if (!up.held) QVERIFY2(up.energy >= energy_up - 1e-7, qPrintable(QString::number(seed)));
                QVERIFY2(energy_up >= energy_down - 1e-6, qPrintable(QString::number(seed)));
                if (net.nodes[static_cast<std::size_t>(l.to)].access_hole && !down.held) {
                    QVERIFY2(energy_down >= down.energy - 1e-6, qPrintable(QString::number(seed)));
                    ++holes;
                }
            }
        }
        QVERIFY(holes > 3000);
    }

    /// Two barrels carry half each: the levels are those of one pipe with half the flow.
    void barrels_share_the_flow() {
        Project one = bend(0.1), two = bend(0.2);
        for (const std::uint64_t id : {11, 12}) two.pipes.change(id)->barrels = 2;
        const Results a = solve(one), b = solve(two);
        for (const std::uint64_t s : {1, 2}) QVERIFY(close(level(a, 0, s), level(b, 0, s), 1e-12));
        const Seen x = culvert::testing::seen(*a[0], StructureId{1}), y = culvert::testing::seen(*b[0], StructureId{1});
        QCOMPARE(x.flow.velocity, y.flow.velocity);
        QCOMPARE(x.flow.normal, y.flow.normal);
        QCOMPARE(x.flow.travel, y.flow.travel);
        QVERIFY(close(b[0]->network->links[0].capacity, 2 * a[0]->network->links[0].capacity, 1e-12));
        for (const char* what : {"capacity", "velocity", "friction", "normal depth"})
            for (const Step& s : explain(two, *b[0], {Kind::Pipe, 11}, what).steps)
                if (!s.formula.empty())
                    QVERIFY2(close(evaluate(s.formula, s.terms), s.result, 1e-9 * std::max(1.0, std::abs(s.result))),
                             qPrintable(QString::fromStdString(s.symbol)));
    }

    void the_channel_below_an_outfall_is_held_against_what_it_stands() {
        Project p = bend(0.4);
        Structure& s = *p.structures.change(3);
        s.channel_width = 0.5;
        s.channel_sides = 2;
        s.channel_slope = 0.02;
        s.channel_roughness = 0.03;
        s.channel_velocity = 1.2;
        s.channel_shear = 500;
        const Results r = solve(p);
        const auto node = static_cast<std::size_t>(r[0]->network->node_of(StructureId{3}));
        const ChannelState f = channel_flow({0.5, 2}, 0.02, 0.03, 0.4);
        QCOMPARE(result_field(ResultOn::Node, "channel_velocity")->value(*r[0], node), f.velocity);
        QCOMPARE(result_field(ResultOn::Node, "channel_shear")->value(*r[0], node), f.shear);
        QCOMPARE(result_field(ResultOn::Node, "channel_depth")->value(*r[0], node), f.depth);
        QVERIFY(f.velocity > 1.2 && f.shear < 450);
        int fast = 0, sheared = 0;
        for (const Finding& x : review(p, *r[0]).findings) {
            fast += x.check.rule == Rule::ChannelVelocity && x.check.verdict == Verdict::Beyond;
            sheared += x.check.rule == Rule::ChannelShear && x.check.verdict == Verdict::Beyond;
        }
        QCOMPARE(fast, 1);
        QCOMPARE(sheared, 0);
        p.structures.change(3)->channel_shear = 20;
        p.structures.change(3)->channel_velocity = not_given;
        fast = sheared = 0;
        for (const Finding& x : review(p, *solve(p)[0]).findings) {
            fast += x.check.rule == Rule::ChannelVelocity;
            sheared += x.check.rule == Rule::ChannelShear;
        }
        QCOMPARE(fast, 0);
        QCOMPARE(sheared, 1);
        p.structures.change(3)->channel_slope = not_given;
        QVERIFY(compile(p).faults.back().title == "receiving channel not complete");
    }

    /// Water in a full pipe: A L / Q.
    void residence_time_is_volume_over_flow() {
        const Project p = bend(0.2);
        const Results r = solve(p);
        const double a = M_PI * 0.45 * 0.45 / 4;
        const int link = r[0]->network->link_of(PipeId{12});
        QVERIFY(close(result_field(ResultOn::Link, "residence")->value(*r[0], static_cast<std::size_t>(link)),
                      a * 60 / 0.2, 1e-9));
    }

    /// What is solved after an edit is what is solved from nothing, bit for bit.
    void incremental_equals_cold_with_these() {
        std::mt19937 random(11);
        const auto pick = [&](int n) { return std::uniform_int_distribution<int>(0, n - 1)(random); };
        for (unsigned seed = 1; seed <= 12; ++seed) {
            Project p = random_project({25, seed, 2, true});
            Solver warm;
            warm.solve(p, 0);
            std::vector<std::uint64_t> structures, pipes;
            std::uint64_t outfall = 0;
            for (const Structure& s : p.structures) {
                structures.push_back(s.id);
                if (s.kind == StructureKind::Outfall) outfall = s.id;
            }
            for (const Pipe& q : p.pipes) pipes.push_back(q.id);
            for (int step = 0; step < 20; ++step) {
                Editing e(p, "");
                const auto s = structures[static_cast<std::size_t>(pick(static_cast<int>(structures.size())))];
                const auto q = pipes[static_cast<std::size_t>(pick(static_cast<int>(pipes.size())))];
                switch (pick(6)) {
                    case 0: e.set(Kind::Structure, s, "loss_by", static_cast<LossBy>(pick(3))); break;
                    case 1: e.set(Kind::Settings, settings_id, "loss_by", static_cast<LossBy>(1 + pick(2))); break;
                    case 2: e.set(Kind::Pipe, q, "barrels", 1.0 + pick(3)); break;
                    case 3: {
                        OutfallLevel l;
                        l.structure = {outfall};
                        l.event = {p.events.begin()->id};
                        l.level = 100 + 0.3 * pick(9);
                        for (const OutfallLevel& old : p.outfall_levels) {
                            e.remove(Kind::OutfallLevel, old.id);
                            break;
                        }
                        e.insert(l);
                        break;
                    }
                    case 4:
                        e.set(Kind::Structure, outfall, "tailwater", Tailwater::Rating);
                        e.set(Kind::Structure, outfall, "rating_flows", std::vector<double>{0, 0.5 + pick(4)});
                        e.set(Kind::Structure, outfall, "rating_levels", std::vector<double>{100, 101.0 + pick(3)});
                        break;
                    default: e.set(Kind::Structure, s, "x", p.structures.find(s)->x + 3); break;
                }
                apply(p, e.take());
                const Results a = warm.solve(p, 0), b = solve(p);
                for (std::size_t event = 0; event < a.size(); ++event)
                    for (std::size_t i = 0; i < a[event]->nodes.size(); ++i) {
                        const double x = a[event]->nodes[i].level.level, y = b[event]->nodes[i].level.level;
                        QVERIFY2(x == y || (std::isnan(x) && std::isnan(y)),
                                 qPrintable(QString("seed %1 step %2").arg(seed).arg(step)));
                    }
            }
        }
    }
    /// What is put into the capacity is worked out above it, whatever the section.
    void the_capacity_is_taken_apart() {
        const Project p = random_project({.pipes = 40, .seed = 2, .events = 1});
        const auto r = solve(p)[0];
        int taken = 0;
        for (const Pipe& q : p.pipes) {
            std::map<std::string, double> above;
            for (const Step& step : explain(p, *r, {Kind::Pipe, q.id}, "capacity").steps) {
                if (step.symbol == "Qfull")
                    for (const Term& t : step.terms)
                        if (t.symbol != "n") {
                            QVERIFY2(above.contains(t.symbol), t.symbol.c_str());
                            QVERIFY2(close(above[t.symbol], t.value, 1e-4 * std::abs(t.value)), t.symbol.c_str());
                            ++taken;
                        }
                above[step.symbol] = step.result;
            }
        }
        QVERIFY(taken > 60);
    }
};
QTEST_GUILESS_MAIN(TestNetworkOutlets)
#include "test_outlets.moc"
