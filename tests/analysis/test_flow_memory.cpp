// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <functional>
#include <random>

#include "core/analysis/flow_memory.h"
#include "core/analysis/solver.h"
#include "core/design/storage_study.h"
#include "support/difference.h"
#include "support/networks.h"
#include "support/ponds.h"
#include "support/small_street.h"

using namespace culvert;
using testing::difference;
using testing::PondSite;
using testing::random_project;

namespace {

/// A network with what makes hydrographs hang together: a ring, ponds, one of them in a chain.
Project site(unsigned seed, int* ponds, int* rings) {
    Project p = random_project({.pipes = 90, .seed = seed, .events = 2});
    std::mt19937 gen(seed);
    Settings& s = *p.settings_rows.change(settings_id);
    s.runoff_by = static_cast<RunoffBy>(1 + seed % 3);
    s.travel_by = static_cast<TravelBy>(seed % 2);
    s.computing_step = 300;
    std::vector<Pipe> pipes(p.pipes.begin(), p.pipes.end());
    if (seed % 4 == 1) {
        Pipe beside = pipes[gen() % pipes.size()];
        beside.id = 77;
        p.pipes.insert(beside);
        ++*rings;
    }
    for (std::uint64_t k = 0; k < seed % 3; ++k) {
        const Pipe& pipe = pipes[gen() % pipes.size()];
        const bool along = pipe.invert_from >= pipe.invert_to;
        Structure* at = p.structures.change(along ? pipe.from.value : pipe.to.value);
        if (at->kind == StructureKind::Outfall) continue;
        at->kind = StructureKind::Pond;
        Pond row;
        row.id = 900 + k;
        row.name = "pond " + std::to_string(k);
        row.structure = {at->id};
        row.storage_by = StorageBy::Tank;
        row.bottom = std::max(pipe.invert_from, pipe.invert_to);
        row.length = 20;
        row.width = 15;
        row.depth = 2;
        p.ponds.insert(row);
        PondOutlet spill;
        spill.id = 950 + k;
        spill.name = "spill " + std::to_string(k);
        spill.structure = {at->id};
        spill.kind = OutletKind::BroadWeir;
        spill.level = row.bottom + 1.2;
        spill.width = 3;
        p.outlets.insert(spill);
        ++*ponds;
    }
    return p;
}

template <class T>
std::uint64_t any_of(const Table<T>& table, std::mt19937& gen) {
    auto row = table.begin();
    for (std::size_t k = gen() % table.size(); k > 0; --k) ++row;
    return row->id;
}

void change_something(Project& p, std::mt19937& gen) {
    const std::uint64_t pipe = any_of(p.pipes, gen), structure = any_of(p.structures, gen),
                        catchment = any_of(p.catchments, gen);
    switch (gen() % 22) {
        case 0: p.pipes.change(pipe)->size *= gen() % 2 ? 1.25 : 0.8; break;
        case 1: p.pipes.change(pipe)->invert_from += 0.01; break;
        case 2: p.structures.change(structure)->known_flow = 0.001 * static_cast<double>(gen() % 20); break;
        case 3: p.catchments.change(catchment)->area *= 1.1; break;
        case 4: p.catchments.change(catchment)->time = 300 + static_cast<double>(gen() % 600); break;
        case 5: p.catchments.change(catchment)->curve_number = 60 + static_cast<double>(gen() % 30); break;
        case 6: p.structures.change(structure)->rim += 0.05; break;
        case 7: p.settings_rows.change(settings_id)->curve_number = 70 + static_cast<double>(gen() % 20); break;
        case 8:
            if (p.ponds.size() > 0) p.ponds.change(any_of(p.ponds, gen))->width += 2;
            break;
        case 9:
            if (p.outlets.size() > 0) p.outlets.change(any_of(p.outlets, gen))->level += 0.02;
            break;
        case 10:
            if (p.ponds.size() > 0)
                p.ponds.change(any_of(p.ponds, gen))->soakage = 1e-6 * static_cast<double>(gen() % 5);
            break;
        case 11: {
            Catchment c = *p.catchments.find(catchment);
            c.id = 100000 + gen() % 100000;
            c.name += "+";
            p.catchments.insert(c);
            break;
        }
        case 12:
            for (const Structure& s : p.structures)
                if (s.kind == StructureKind::Outfall && s.tailwater == Tailwater::Level) {
                    p.structures.change(s.id)->tailwater_level += 0.01;
                    break;
                }
            break;
        case 13: p.settings_rows.change(settings_id)->uplift = 1 + 0.05 * static_cast<double>(gen() % 5); break;
        case 14:
            p.events.change(any_of(p.events, gen))->frequency_factor = 1 + 0.05 * static_cast<double>(gen() % 4);
            break;
        case 15:
        case 16:  // led elsewhere, maybe in a ring, maybe off the site
            if (p.outlets.size() > 0)
                p.outlets.change(any_of(p.outlets, gen))->to = {gen() % 4 ? structure : std::uint64_t{0}};
            break;
        case 17:
            if (p.ponds.size() > 0) {
                const Pond& pond = *p.ponds.find(any_of(p.ponds, gen));
                PondOutlet o;
                o.id = 200000 + gen() % 100000;
                o.name = "opening";
                o.structure = pond.structure;
                o.to = {structure};
                o.level = pond.bottom + 0.1;
                o.size = 0.2;
                p.outlets.insert(o);
            }
            break;
        case 18:
            if (p.outlets.size() > 0) p.outlets.erase(any_of(p.outlets, gen));
            break;
        case 19:
            if (p.ponds.size() > 0) p.ponds.change(any_of(p.ponds, gen))->bottom += 0.05;
            break;
        case 20:
            p.settings_rows.change(settings_id)->travel_by = gen() % 2 ? TravelBy::Kinematic : TravelBy::Lag;
            break;
        default: p.pipes.change(pipe)->roughness = 0.011 + 0.001 * static_cast<double>(gen() % 4); break;
    }
}

double peak_of(const Results& results, std::uint64_t event, StructureId at) {
    for (const auto& r : results)
        if (r->event.value == event) return r->nodes[static_cast<std::size_t>(r->network->node_of(at))].flow.flow;
    return not_given;
}
Project street_through_time() {
    Project p = street();
    p.settings_rows.change(settings_id)->runoff_by = RunoffBy::ModifiedRational;
    return p;
}

}  // namespace

/// What an edit computes through time, and that it changes no answer.
class TestFlowMemory : public QObject {
    Q_OBJECT
  private slots:
    void incremental_equals_cold() {
        std::size_t computed = 0, all = 0, with_known = 0;
        int ponds = 0, rings = 0;
        for (unsigned seed = 1; seed <= 6; ++seed) {
            Project p = site(seed, &ponds, &rings);
            std::mt19937 gen(seed);
            Solver warm;
            warm.solve(p, 0);
            for (int i = 0; i < 16; ++i) {
                change_something(p, gen);
                if (i == 9) p.pipes.erase(any_of(p.pipes, gen));  // another shape: from nothing
                const Results w = warm.solve(p, 0), c = solve(p);
                QCOMPARE(w.size(), c.size());
                for (std::size_t e = 0; e < w.size(); ++e) {
                    const QString at = difference(*w[e], *c[e]);
                    QVERIFY2(at.isEmpty(), qPrintable(QString("seed %1 edit %2: ").arg(seed).arg(i) + at));
                    QVERIFY2(std::abs(w[e]->balance.error()) <= 1e-6 * (w[e]->balance.runoff + w[e]->balance.known),
                             qPrintable(QString("seed %1 edit %2").arg(seed).arg(i)));
                    computed += w[e]->flows->computed;
                    all += w[e]->nodes.size();
                    with_known += w[e]->flows->computed < w[e]->nodes.size();
                }
            }
        }
        qInfo("%zu of %zu nodes computed; %d ponds, %d rings", computed, all, ponds, rings);
        QVERIFY(ponds >= 4 && rings >= 2);
        QVERIFY(4 * computed < 3 * all);  // some of the edits are of the whole project
        QVERIFY(with_known > 50);
    }
    /// Each number of an event and of the settings alone, with each way of making runoff.
    void each_number_of_an_event_is_felt() {
        for (const RunoffBy by : {RunoffBy::UnitHydrograph, RunoffBy::ModifiedRational, RunoffBy::Plane}) {
            PondSite s;
            for (const Catchment& c : Project(s.project).catchments)
                s.project.catchments.change(c.id)->impervious = 0.3;
            Settings& settings = *s.project.settings_rows.change(settings_id);
            settings.runoff_by = by;
            const std::uint64_t event = s.project.events.begin()->id;
            Solver warm;
            const double flow = peak_of(warm.solve(s.project, 0), event, s.end);
            const auto felt = [&](const char* what, const std::function<void(Project&)>& change, bool moves) {
                Project q = s.project;
                change(q);
                const Results w = warm.solve(q, 0), c = solve(q);
                for (std::size_t e = 0; e < w.size(); ++e)
                    QVERIFY2(difference(*w[e], *c[e]).isEmpty(), qPrintable(QString(what) + difference(*w[e], *c[e])));
                QVERIFY2(!moves || std::abs(peak_of(w, event, s.end) - flow) > 1e-6 * flow, what);
                warm.solve(s.project, 0);
            };
            const bool rational = by == RunoffBy::ModifiedRational;
            felt(
                "Cf", [&](Project& q) { q.events.change(event)->frequency_factor = 1.3; }, rational);
            felt(
                "rain", [&](Project& q) { q.events.change(event)->intensities[2] *= 1.02; }, true);
            felt(
                "uplift", [](Project& q) { q.settings_rows.change(settings_id)->uplift = 1.1; }, true);
            felt(
                "step", [](Project& q) { q.settings_rows.change(settings_id)->computing_step = 30; }, false);
            felt(
                "length", [&](Project& q) { q.events.change(event)->storm_length = 7200; }, false);
            felt(
                "held", [](Project& q) { q.settings_rows.change(settings_id)->paved_storage = 0.004; }, !rational);
            felt(
                "CN", [](Project& q) { q.settings_rows.change(settings_id)->initial_share = 0.05; }, !rational);
            felt(
                "end", [](Project& q) { q.settings_rows.change(settings_id)->after_rain = 60; }, false);
        }
    }
    /// What an edit leaves alone is taken from before, in every event.
    void every_event_keeps_what_an_edit_leaves_alone() {
        Project p = random_project({.pipes = 60, .seed = 3, .events = 4});
        Solver warm;
        warm.solve(p, 0);
        for (const auto& r : warm.solve(p, 0)) QCOMPARE(r->recomputed, std::size_t{0});
        // The roughness of the head of a branch.
        const auto r = solve(p)[0];
        for (std::size_t l = 0; l < r->links.size(); ++l)
            if (const Link& link = r->network->links[l];
                r->network->nodes[static_cast<std::size_t>(link.from)].first_in == no_link) {
                p.pipes.change(link.pipe.value)->roughness *= 1.1;
                break;
            }
        const Results after = warm.solve(p, 0);
        QCOMPARE(after.size(), std::size_t{4});
        for (const auto& e : after) QVERIFY2(e->recomputed < 30, qPrintable(QString::number(e->recomputed)));
    }
    /// Series of one structure from what a solve keeps, and from nothing.
    void series_of_a_node_are_the_same_from_what_is_kept() {
        int ponds = 0, rings = 0, compared = 0;
        for (unsigned seed = 1; seed <= 4; ++seed) {
            const Project p = site(seed, &ponds, &rings);
            const Results known = solve(p);
            std::mt19937 gen(seed);
            for (int i = 0; i < 6; ++i) {
                const StructureId at{any_of(p.structures, gen)};
                const auto a = hydrographs_at(p, at, {}, known), b = hydrographs_at(p, at);
                QCOMPARE(a.size(), b.size());
                for (std::size_t e = 0; e < a.size(); ++e) {
                    QCOMPARE(a[e].series.size(), b[e].series.size());
                    QCOMPARE(a[e].flow.flow, b[e].flow.flow);
                    for (const Series& s : a[e].series) {
                        QCOMPARE(s.values, b[e].of(s.key)->values);
                        ++compared;
                    }
                }
            }
        }
        const Results known = solve(street_through_time());
        for (const std::uint64_t id : {1, 2, 3})
            for (const auto& h : hydrographs_at(street_through_time(), {id}, {}, known))
                for (const auto& plain : hydrographs_at(street_through_time(), {id}))
                    if (plain.event == h.event) QCOMPARE(h.of("inflow")->values, plain.of("inflow")->values);
        // Below a pond whose outlets lead on: its water is no part of what pipes bring.
        PondSite ponds_site;
        const Results of_ponds = solve(ponds_site.project);
        for (const Structure& s : ponds_site.project.structures)
            for (const auto& h : hydrographs_at(ponds_site.project, {s.id}, {}, of_ponds))
                for (const auto& plain : hydrographs_at(ponds_site.project, {s.id}))
                    if (plain.event == h.event) QCOMPARE(h.of("inflow")->values, plain.of("inflow")->values);
        QVERIFY(compared > 100);
    }
    void streets_and_bypass_follow() {
        Project p = street_through_time();
        std::mt19937 gen(5);
        Solver warm;
        warm.solve(p, 0);
        int bypass = 0;
        for (int i = 0; i < 40; ++i) {
            // Every other time the lower inlet, twice in a row: what the upper one lets pass is no part of what is
            // kept.
            if (i % 4 < 2) p.structures.change(2)->known_flow = 0.001 * i;
            else switch (gen() % 5) {
                    case 0: p.catchments.change(any_of(p.catchments, gen))->area *= gen() % 2 ? 1.3 : 0.8; break;
                    case 1:
                        p.structures.change(1 + gen() % 2)->known_flow = 0.002 * static_cast<double>(gen() % 30);
                        break;
                    case 2: p.structure_types.change(71)->length = 0.3 + 0.1 * static_cast<double>(gen() % 8); break;
                    case 3: p.pipes.change(11 + gen() % 2)->size = gen() % 2 ? 0.3 : 0.45; break;
                    default: p.streets.change(70)->levels[0] += 0.1; break;
                }
            const Results w = warm.solve(p, 0), c = solve(p);
            for (std::size_t e = 0; e < w.size(); ++e) {
                const QString at = difference(*w[e], *c[e]);
                QVERIFY2(at.isEmpty(), qPrintable(QString("edit %1: ").arg(i) + at));
                for (const StreetFlow& f : w[e]->streets) bypass += f.bypass > 1e-3;
            }
        }
        QVERIFY(bypass > 10);
    }
    /// Where gutters fall as rims do, a rim that moves changes what its neighbours take.
    void rims_move_the_grades_of_gutters() {
        Project p = street();
        p.streets.change(70)->stations.clear();
        p.streets.change(70)->levels.clear();
        for (const std::uint64_t id : {1, 2}) {
            Solver solver;
            const Results before = solver.solve(p, 1);
            Project q = p;
            q.structures.change(id)->rim += id == 1 ? 0.4 : -0.3;
            const Results warm = solver.solve(q, 2), cold = solve(q);
            const QString at = testing::difference(*warm[0], *cold[0]);
            QVERIFY2(at.isEmpty(), qPrintable(at));
            QVERIFY(!testing::difference(*before[0], *cold[0]).isEmpty());
        }
    }
    void ponds_in_a_chain_follow() {
        PondSite s;
        s.second_pond();
        s.set(Kind::Structure, s.end.value, "tailwater", static_cast<int>(Tailwater::Level));
        s.set(Kind::Structure, s.end.value, "tailwater_level", 41.2);
        Solver warm;
        double highest = warm.solve(s.project, 0)[1]->ponds[1].level;
        const double first = highest;
        std::mt19937 gen(7);
        for (int i = 0; i < 12; ++i) {
            if (i % 3 == 0) s.set(Kind::PondOutlet, s.low, "size", 0.12 + 0.01 * static_cast<double>(gen() % 8));
            else if (i % 3 == 1) s.set(Kind::Structure, s.head.value, "known_flow", 0.001 * static_cast<double>(i));
            else s.set(Kind::Structure, s.end.value, "tailwater_level", 41.2 + 0.05 * i);
            const Results w = warm.solve(s.project, 0), c = solve(s.project);
            for (std::size_t e = 0; e < w.size(); ++e) {
                const QString at = difference(*w[e], *c[e]);
                QVERIFY2(at.isEmpty(), qPrintable(QString("edit %1: ").arg(i) + at));
            }
            highest = std::max(highest, w[1]->ponds[1].level);
        }
        QVERIFY2(highest > first + 0.05, "the water below holds the pond up");
    }
    /// One size in a long line: what flows in from the side is known the second time.
    /// A lone way out, so that no other one says that the pond has changed.
    void each_number_of_a_lone_outlet_is_felt() {
        PondSite s;
        s.remove(Kind::PondOutlet, s.high);
        s.remove(Kind::PondOutlet, s.spill);
        Solver warm;
        warm.solve(s.project, 0);
        int felt = 0;
        const auto follows = [&](const char* what) {
            const Results w = warm.solve(s.project, 0), c = solve(s.project);
            for (std::size_t e = 0; e < w.size(); ++e) {
                const QString at = difference(*w[e], *c[e]);
                QVERIFY2(at.isEmpty(), qPrintable(QString(what) + ": " + at));
            }
            ++felt;
        };
        const std::vector<std::pair<const char*, double>> numbers{
            {"size", 0.21}, {"level", 40.15}, {"coefficient", 0.55}, {"count", 2}, {"open_share", 0.8}};
        for (const OutletKind kind : {OutletKind::CircularOrifice, OutletKind::SharpWeir, OutletKind::Riser}) {
            s.set(Kind::PondOutlet, s.low, "kind", static_cast<int>(kind));
            s.set(Kind::PondOutlet, s.low, "width", 0.9);
            follows("kind");
            for (const auto& [key, value] : numbers) {
                s.set(Kind::PondOutlet, s.low, key, value);
                follows(key);
            }
        }
        // A culvert without a length is at fault: what lay below it gets nothing any more.
        s.set(Kind::PondOutlet, s.low, "kind", static_cast<int>(OutletKind::Culvert));
        follows("at fault");
        s.set(Kind::PondOutlet, s.low, "kind", static_cast<int>(OutletKind::CircularOrifice));
        follows("mended");
        // Led elsewhere: off the site, further down, and back.
        s.set(Kind::PondOutlet, s.low, "to", std::uint64_t{0});
        follows("off the site");
        s.set(Kind::PondOutlet, s.low, "to", s.end.value);
        follows("to the outfall");
        s.set(Kind::PondOutlet, s.low, "to", s.below.value);
        follows("back");
        QCOMPARE(felt, 23);
    }
    /// A culvert out of a pond, kept by its barrel: a change of any of its numbers is felt, no change is none.
    void each_number_of_a_culvert_is_felt() {
        testing::PondSite s;
        s.set(Kind::PondOutlet, s.low, "kind", static_cast<int>(OutletKind::Culvert));
        for (const auto& [key, value] :
             {std::pair{"size", 0.3}, {"length", 20.0}, {"slope", 0.01}, {"roughness", 0.013}})
            s.set(Kind::PondOutlet, s.low, key, value);
        for (const auto& [key, value] :
             {std::pair{"size", 0.25}, {"length", 45.0}, {"slope", 0.02}, {"roughness", 0.024}, {"level", 40.2}}) {
            testing::PondSite t = s;
            Solver solver;
            (void)solver.solve(t.project, 1);
            t.set(Kind::PondOutlet, t.low, key, value);
            const Results warm = solver.solve(t.project, 2), cold = solve(t.project), before = solve(s.project);
            for (std::size_t e = 0; e < cold.size(); ++e) {
                const QString at = testing::difference(*warm[e], *cold[e]);
                QVERIFY2(at.isEmpty(), qPrintable(QString(key) + ": " + at));
                QVERIFY2(!testing::difference(*before[e], *cold[e]).isEmpty(), key);
            }
        }
    }
    void an_edit_computes_what_lies_below_it() {
        Project p = random_project({.pipes = 1500, .seed = 3, .events = 1});
        p.settings_rows.change(settings_id)->runoff_by = RunoffBy::ModifiedRational;
        Solver warm;
        const Results first = warm.solve(p, 0);
        const Network& net = *first[0]->network;
        // Series are kept here and there, not everywhere.
        const std::size_t kept = first[0]->flows->flows.size();
        QVERIFY2(kept > 10 && kept * 10 < net.nodes.size(), qPrintable(QString::number(kept)));
        // A pipe far up: the one with the longest way to the outfall.
        int far = 0;
        std::size_t most = 0;
        for (std::size_t l = 0; l < net.links.size(); ++l) {
            std::size_t n = 0;
            for (int i = net.links[l].to; i != no_node; i = net.nodes[static_cast<std::size_t>(i)].down) ++n;
            if (n > most) most = n, far = static_cast<int>(l);
        }
        const std::uint64_t pipe = net.links[static_cast<std::size_t>(far)].pipe.value;
        p.pipes.change(pipe)->size *= 1.25;
        const std::size_t once = warm.solve(p, 1)[0]->flows->computed;
        p.pipes.change(pipe)->size *= 1.25;
        const Results w = warm.solve(p, 2);
        const std::size_t twice = w[0]->flows->computed;
        qInfo("%zu nodes, %zu below the pipe: %zu computed at first, then %zu", net.nodes.size(), most, once, twice);
        QCOMPARE(twice, most);
        QVERIFY(once < net.nodes.size());
        QVERIFY2(difference(*w[0], *solve(p)[0]).isEmpty(), "as from nothing");
    }
};

QTEST_GUILESS_MAIN(TestFlowMemory)
#include "test_flow_memory.moc"
