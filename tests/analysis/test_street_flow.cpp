// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <functional>
#include <map>

#include "core/analysis/explain.h"
#include "core/analysis/solver.h"
#include "core/analysis/street_flow.h"
#include "support/streets.h"

using namespace culvert;
using culvert::testing::street_project;
using culvert::testing::StreetRecipe;

namespace {

bool close(double a, double b, double within = 1e-9) {
    return std::abs(a - b) <= within * std::max({std::abs(a), std::abs(b), 1e-6});
}

bool same_bits(const EventResult& a, const EventResult& b) {
    if (a.nodes.size() != b.nodes.size() || a.links.size() != b.links.size() || a.streets.size() != b.streets.size())
        return false;
    const auto same = [](double x, double y) { return x == y || (x != x && y != y); };
    for (std::size_t i = 0; i < a.nodes.size(); ++i) {
        const NodeFlow &f = a.nodes[i].flow, &g = b.nodes[i].flow;
        if (f.effective_area != g.effective_area || f.known_flow != g.known_flow || f.time != g.time ||
            f.flow != g.flow || f.partial_flow != g.partial_flow ||
            !same(a.nodes[i].level.level, b.nodes[i].level.level))
            return false;
    }
    for (std::size_t i = 0; i < a.streets.size(); ++i) {
        const StreetFlow &f = a.streets[i], &g = b.streets[i];
        if (f.flow != g.flow || f.captured != g.captured || f.spread != g.spread || f.time != g.time ||
            f.travel != g.travel)
            return false;
    }
    return true;
}

/// The streets once more, from the definition: each inlet asks those whose path leads to it, recursively, from the
/// rows.
struct Independent {
    const Project& project;
    const Network& net;
    const RainEvent& event;
    const StreetConstants k;
    struct Flow {
        double area, known, time, flow, taken;
    };
    std::map<std::uint64_t, Flow> found;

    const StreetInlet* inlet(std::uint64_t id) const {
        const int node = net.node_of(StructureId{id});
        return node < 0 || net.nodes[static_cast<std::size_t>(node)].inlet < 0
                   ? nullptr
                   : &net.inlets[static_cast<std::size_t>(net.nodes[static_cast<std::size_t>(node)].inlet)];
    }
    Flow at(std::uint64_t id) {
        if (const auto done = found.find(id); done != found.end()) return done->second;
        Flow f{0, project.structures.find(id)->known_flow, 0, 0, 0};
        for (const Catchment& c : project.catchments)
            if (c.structure.value == id && c.coefficient > 0) {
                f.area += std::min(1.0, c.coefficient * event.frequency_factor) * c.area;
                f.time = std::max({f.time, c.time, 300.0});
            }
        double arrived = 0, late = 0;
        for (const StreetPath& p : project.street_paths) {
            if (p.to.value != id) continue;
            const StreetInlet* above = inlet(p.from.value);
            if (!above || above->end != PathEnd::Structure) continue;
            const Flow up = at(p.from.value);
            const double share = 1 - (up.flow > 0 ? up.taken / up.flow : 1);
            arrived += up.area * share;
            f.known += up.known * share;
            if (share * up.area <= 0 || up.flow <= up.taken) continue;
            double travel = 0;
            if (project.settings().gutter_time && above->gutter.grade > 0)
                travel = path_length(project, p) / gutter_flow(above->gutter, up.flow - up.taken, k).velocity;
            late = std::max(late, up.time + travel);
        }
        f.area += arrived;
        f.time = std::max(f.time, late);
        if (f.time <= 0) f.time = 300;
        const IdfCurve rain(event.durations, event.intensities);
        f.flow = f.area * rain.intensity(f.time) * project.settings().uplift + f.known;
        if (project.settings().partial_area) {  // of all that has come by the time of any of its parts
            std::vector<std::pair<double, double>> parts;
            if (arrived > 0) parts.emplace_back(late, arrived);
            for (const Catchment& c : project.catchments)
                if (c.structure.value == id && c.coefficient > 0)
                    parts.emplace_back(std::max(c.time, 300.0),
                                       std::min(1.0, c.coefficient * event.frequency_factor) * c.area);
            for (const auto& [time, own] : parts) {
                double by_then = 0;
                for (const auto& [other, area] : parts)
                    if (other <= time) by_then += area;
                f.flow = std::max(f.flow, by_then * rain.intensity(time) * project.settings().uplift + f.known);
            }
        }
        f.taken = f.flow;
        if (const StreetInlet* in = inlet(id); in && f.flow > 0) {
            if (!in->sag) f.taken = on_grade(in->form, in->gutter, f.flow, k).captured;
            else if (in->end != PathEnd::Nowhere)
                f.taken = std::min(f.flow, std::max(sag_capacity(in->form, in->gutter.section, in->crest, k), 0.0));
        }
        return found[id] = f;
    }
};

}  // namespace

/// Water over the streets: against a second way of following it, its balance, and what must not change it.
class TestStreetFlow : public QObject {
    Q_OBJECT
  private slots:
    void every_inlet_is_what_following_the_water_gives() {
        int sags_spill = 0, rings = 0, across = 0, longest = 0, off_site = 0, stays = 0, to_plain = 0, all = 0;
        for (unsigned seed = 1; seed <= 60; ++seed) {
            Project p = street_project({3 + static_cast<int>(seed % 4), 14, seed});
            p.settings_rows.change(settings_id)->partial_area = seed % 3 == 0;
            p.settings_rows.change(settings_id)->uplift = 1 + 0.1 * (seed % 4);
            if (seed % 3 == 0)  // quick roofs among slow gardens
                for (const Catchment& c : p.catchments) p.catchments.change(c.id)->time *= c.id % 2 ? 4 : 1;
            const auto net = std::make_shared<const Network>(compile(p));
            std::map<int, int> chain;
            for (std::size_t i = 0; i < net->inlets.size(); ++i) {
                const StreetInlet& in = net->inlets[i];
                if (in.end != PathEnd::Structure) continue;
                const int to = net->nodes[static_cast<std::size_t>(in.to)].inlet;
                if (to < 0) continue;
                QVERIFY(static_cast<std::size_t>(to) > i);  // each after all whose bypass reaches it
                chain[to] = std::max(chain[to], chain[static_cast<int>(i)] + 1);
                longest = std::max(longest, chain[to]);
                const auto street = [&](int node) {
                    return p.structures.find(net->nodes[static_cast<std::size_t>(node)].structure.value)->street;
                };
                across += street(in.node) != street(in.to);
            }
            for (const StreetPath& path : p.street_paths)
                if (const int node = net->node_of(path.from); path.to && node >= 0)
                    if (const int i = net->nodes[static_cast<std::size_t>(node)].inlet;
                        i >= 0 && net->inlets[static_cast<std::size_t>(i)].end == PathEnd::Nowhere)
                        ++rings;
            for (const RainEvent& e : p.events) {
                const EventResult r = solve_one(net, rain_of(e));
                Independent second{p, *net, e, street_constants(p.settings().edition), {}};
                for (std::size_t i = 0; i < net->inlets.size(); ++i) {
                    const StreetInlet& in = net->inlets[i];
                    const StreetFlow& f = r.streets[i];
                    const auto id = net->nodes[static_cast<std::size_t>(in.node)].structure.value;
                    const Independent::Flow g = second.at(id);
                    QVERIFY2(close(f.effective_area, g.area) && close(f.known_flow, g.known) &&
                                 close(f.time, g.time, 1e-7) && close(f.flow, g.flow, 1e-7) &&
                                 close(f.captured, g.taken, 1e-7),
                             qPrintable(QString("seed %1, inlet %2: %3 of %4, second %5 of %6")
                                            .arg(seed)
                                            .arg(i)
                                            .arg(f.captured)
                                            .arg(f.flow)
                                            .arg(g.taken)
                                            .arg(g.flow)));
                    QVERIFY(close(f.captured + f.bypass, f.flow));
                    sags_spill += in.sag && f.bypass > 0;
                    off_site += in.end == PathEnd::OffSite && f.bypass > 0;
                    stays += in.end == PathEnd::Nowhere && f.bypass > 0;
                    all += f.bypass == 0 && f.flow > 0;
                    to_plain += in.end == PathEnd::Structure && f.bypass > 0 &&
                                net->nodes[static_cast<std::size_t>(in.to)].inlet < 0;
                }
            }
        }
        QVERIFY2(sags_spill > 30 && rings > 5 && across > 30 && longest > 10 && off_site > 30 && stays > 30 &&
                     to_plain > 30 && all > 30,
                 qPrintable(QString("%1 %2 %3 %4 %5 %6 %7 %8")
                                .arg(sags_spill)
                                .arg(rings)
                                .arg(across)
                                .arg(longest)
                                .arg(off_site)
                                .arg(stays)
                                .arg(to_plain)
                                .arg(all)));
    }
    /// What falls and enters, in C A and known flow, is what all outfalls carry and what left the site.
    void nothing_is_lost_and_nothing_made() {
        for (unsigned seed = 1; seed <= 40; ++seed) {
            const Project p = street_project({5, 20, seed});
            const auto net = std::make_shared<const Network>(compile(p));
            for (const RainEvent& e : p.events) {
                const EventRain rain = rain_of(e);
                const EventResult r = solve_one(net, rain);
                const StreetBalance b = street_balance(*net, r);
                QVERIFY(close(b.area_in, b.area_taken + b.area_passed + b.area_left) &&
                        close(b.known_in, b.known_taken + b.known_passed + b.known_left));
                double area = 0, known = 0, out_area = 0, out_known = 0;
                for (const Catchment& c : p.catchments)
                    area += std::min(1.0, c.coefficient * e.frequency_factor) * c.area;
                for (const Structure& s : p.structures) known += s.known_flow;
                for (std::size_t i = 0; i < net->nodes.size(); ++i)
                    if (net->nodes[i].kind == StructureKind::Outfall) {
                        out_area += r.nodes[i].flow.effective_area;
                        out_known += r.nodes[i].flow.known_flow;
                    }
                QVERIFY(close(area, out_area + b.area_left) && close(known, out_known + b.known_left));
            }
        }
    }
    /// One street of ten thousand inlets: the same balance, and a chain that runs through most of them.
    void a_chain_of_ten_thousand() {
        const Project p = street_project({1, 10000, 2});
        const auto net = std::make_shared<const Network>(compile(p));
        QVERIFY(net->inlets.size() > 8000);
        int longest = 0;
        std::vector<int> chain(net->inlets.size(), 0);
        for (std::size_t i = 0; i < net->inlets.size(); ++i)
            if (net->inlets[i].end == PathEnd::Structure)
                if (const int to = net->nodes[static_cast<std::size_t>(net->inlets[i].to)].inlet; to >= 0) {
                    QVERIFY(static_cast<std::size_t>(to) > i);
                    int& next = chain[static_cast<std::size_t>(to)];
                    next = std::max(next, chain[i] + 1);
                    longest = std::max(longest, next);
                }
        QVERIFY2(longest > 20, qPrintable(QString::number(longest)));
        for (const RainEvent& e : p.events) {
            const EventResult r = solve_one(net, rain_of(e));
            const StreetBalance b = street_balance(*net, r);
            QVERIFY(close(b.area_in, b.area_taken + b.area_passed + b.area_left) &&
                    close(b.known_in, b.known_taken + b.known_passed + b.known_left));
        }
    }
    /// With "all enters" the pipes are those of a project without inlets, bit for bit, and the streets are watched all
    /// the same.
    void the_setting_changes_what_enters_and_nothing_else() {
        for (unsigned seed = 1; seed <= 10; ++seed) {
            Project limited = street_project({4, 12, seed}), all = limited, plain = limited;
            all.settings_rows.change(settings_id)->inlet_flow = InletFlow::AllEnters;
            for (const Structure& s : limited.structures) plain.structures.change(s.id)->type.clear();
            const Results a = solve(limited), b = solve(all), c = solve(plain);
            for (std::size_t e = 0; e < a.size(); ++e) {
                QCOMPARE(c[e]->streets.size(), std::size_t{0});
                double differs = 0;
                for (std::size_t i = 0; i < b[e]->nodes.size(); ++i) {
                    QVERIFY(close(b[e]->nodes[i].flow.flow, c[e]->nodes[i].flow.flow, 1e-12));
                    QVERIFY(close(b[e]->nodes[i].flow.time, c[e]->nodes[i].flow.time, 1e-12));
                    differs = std::max(differs, std::abs(a[e]->nodes[i].flow.flow - b[e]->nodes[i].flow.flow));
                }
                QVERIFY(differs > 1e-3);
                for (std::size_t i = 0; i < b[e]->streets.size(); ++i)
                    QCOMPARE(a[e]->streets[i].spread, b[e]->streets[i].spread);
            }
        }
    }
    void an_edit_gives_what_a_cold_solve_gives() {
        std::mt19937 random(5);
        for (unsigned seed = 1; seed <= 8; ++seed) {
            Project p = street_project({3, 10, seed});
            Solver warm;
            (void)warm.solve(p, 0);
            std::vector<std::uint64_t> structures, catchments, paths, pipes;
            for (const Structure& s : p.structures) structures.push_back(s.id);
            for (const Catchment& c : p.catchments) catchments.push_back(c.id);
            for (const StreetPath& s : p.street_paths) paths.push_back(s.id);
            for (const Pipe& s : p.pipes) pipes.push_back(s.id);
            const auto any = [&](const auto& list) { return list[random() % list.size()]; };
            for (int step = 0; step < 60; ++step) {
                switch (random() % 9) {
                    case 0: p.catchments.change(any(catchments))->area *= 1.3; break;
                    case 1:
                        p.structures.change(any(structures))->opening_length =
                            0.5 + 0.1 * static_cast<double>(random() % 60);
                        break;
                    case 2: p.structures.change(any(structures))->rim += 0.05; break;
                    case 3: p.pipes.change(any(pipes))->size = random() % 2 ? 0.45 : 0.75; break;
                    case 4:
                        if (const auto id = any(paths); p.street_paths.find(id)) p.street_paths.change(id)->to = {};
                        break;
                    case 5:
                        p.structures.change(any(structures))->crest_depth = 0.01 * static_cast<double>(random() % 20);
                        break;
                    case 6: p.settings_rows.change(settings_id)->partial_area = random() % 2; break;
                    case 7:
                        p.structures.change(any(structures))->inlet_place = static_cast<InletPlace>(random() % 3);
                        break;
                    case 8:
                        p.structures.change(any(structures))->known_flow = 0.001 * static_cast<double>(random() % 30);
                        break;
                }
                const Results a = warm.solve(p, 0), b = solve(p);
                QCOMPARE(a.size(), b.size());
                for (std::size_t e = 0; e < a.size(); ++e)
                    QVERIFY2(same_bits(*a[e], *b[e]), qPrintable(QString("seed %1 step %2").arg(seed).arg(step)));
            }
        }
    }
    /// Each formula of the working gives its result, and the last ones are what was solved.
    void the_working_of_an_inlet_gives_its_numbers() {
        int steps = 0, off_site = 0, on = 0, stays = 0;
        for (unsigned seed = 1; seed <= 12; ++seed) {
            const Project p = street_project({3, 10, seed});
            for (const auto& r : solve(p))
                for (std::size_t i = 0; i < r->network->inlets.size(); ++i) {
                    const auto id =
                        r->network->nodes[static_cast<std::size_t>(r->network->inlets[i].node)].structure.value;
                    const Explanation x = explain(p, *r, {Kind::Structure, id}, "spread");
                    QVERIFY(x.error.empty() && !x.steps.empty());
                    for (const Step& s : x.steps) {
                        if (s.symbol == "Qb") {  // and where it goes
                            const StreetInlet& in = r->network->inlets[i];
                            const bool some = r->streets[i].bypass > 1e-12, leaves = in.end == PathEnd::OffSite,
                                       runs = in.end == PathEnd::Structure;
                            const auto says = [&](const char* words) { return s.note.find(words) != s.note.npos; };
                            QCOMPARE(says("leaves the site"), some && leaves);
                            QCOMPARE(says("min later"), some && runs);
                            QCOMPARE(says("stays in the pipe"), some && !leaves && !runs);
                            off_site += some && leaves, on += some && runs, stays += some && !leaves && !runs;
                        }
                        if (s.formula.empty()) continue;
                        std::string error;
                        const double v = evaluate(s.formula, s.terms, &error);
                        // Ku of the gutter in ft is exact in both; the acre-inch is printed with six digits.
                        QVERIFY2(std::abs(v - s.result) <= 2e-5 * std::abs(s.result) + 1e-9,
                                 qPrintable(QString("%1 = %2: %3, not %4 %5")
                                                .arg(s.symbol.c_str(), s.formula.c_str())
                                                .arg(v)
                                                .arg(s.result)
                                                .arg(error.c_str())));
                        ++steps;
                    }
                }
        }
        QVERIFY(steps > 1500);
        QVERIFY2(off_site > 5 && on > 20 && stays > 5,
                 qPrintable(QString("%1 %2 %3").arg(off_site).arg(on).arg(stays)));
    }
    void row_order_does_not_matter() {
        for (unsigned seed = 1; seed <= 6; ++seed) {
            const Project p = street_project({4, 12, seed});
            Project q = p;
            q.street_paths = {};
            q.structures = {};
            std::vector<StreetPath> paths(p.street_paths.begin(), p.street_paths.end());
            std::vector<Structure> structures(p.structures.begin(), p.structures.end());
            for (auto i = paths.rbegin(); i != paths.rend(); ++i) q.street_paths.insert(*i);
            for (auto i = structures.rbegin(); i != structures.rend(); ++i) q.structures.insert(*i);
            const auto a = solve(p), b = solve(q);
            for (std::size_t e = 0; e < a.size(); ++e)
                for (std::size_t i = 0; i < a[e]->network->inlets.size(); ++i) {
                    const auto id =
                        a[e]->network->nodes[static_cast<std::size_t>(a[e]->network->inlets[i].node)].structure;
                    const int j = b[e]->network->nodes[static_cast<std::size_t>(b[e]->network->node_of(id))].inlet;
                    QVERIFY(
                        close(a[e]->streets[i].captured, b[e]->streets[static_cast<std::size_t>(j)].captured, 1e-12));
                    QVERIFY(close(a[e]->streets[i].spread, b[e]->streets[static_cast<std::size_t>(j)].spread, 1e-12));
                }
        }
    }
    /// Two areas at one manhole, worked by hand: the small fast one brings more than both at the long time.
    void a_part_that_answers_sooner_may_govern() {
        Project p = new_project(UnitSystem::Si);
        p.settings_rows.change(settings_id)->least_time = 300;
        const auto structure = [&](std::uint64_t id, const char* name, StructureKind kind, double x) {
            Structure s;
            s.id = id;
            s.name = name;
            s.kind = kind;
            s.x = x;
            s.y = 0;
            s.rim = 12;
            p.structures.insert(s);
        };
        structure(1, "A1", StructureKind::Manhole, 0);
        structure(2, "A2", StructureKind::Outfall, 50);
        Pipe pipe;
        pipe.id = 3;
        pipe.from = {1};
        pipe.to = {2};
        pipe.size = 0.9;
        pipe.invert_from = 10;
        pipe.invert_to = 9.5;
        p.pipes.insert(pipe);
        structure(4, "A0", StructureKind::Manhole, -900);
        pipe.id = 5;
        pipe.from = {4};
        pipe.to = {1};
        pipe.invert_from = 11;
        pipe.invert_to = 10.1;
        p.pipes.insert(pipe);
        for (const auto& [id, to, area, time] : {std::tuple{6, 1, 9000.0, 300.0}, {7, 4, 3000.0, 3600.0}}) {
            Catchment c;
            c.id = static_cast<std::uint64_t>(id);
            c.name = "C" + std::to_string(id);
            c.structure = {static_cast<std::uint64_t>(to)};
            c.area = area;
            c.coefficient = 0.8;
            c.time = time;
            p.catchments.insert(c);
        }
        RainEvent e;
        e.id = 8;
        e.name = "10 years";
        e.return_period = 10;
        e.durations = {300, 3600, 7200};
        e.intensities = {4e-5, 1e-5, 6e-6};
        p.events.insert(e);
        const auto flow_at = [](const Project& q, std::uint64_t id) {
            const auto r = solve(q)[0];
            return r->nodes[static_cast<std::size_t>(r->network->node_of(StructureId{id}))].flow;
        };
        const NodeFlow plain = flow_at(p, 1);
        QCOMPARE(plain.partial_flow, 0.0);
        p.settings_rows.change(settings_id)->partial_area = true;
        const NodeFlow f = flow_at(p, 1);
        QVERIFY(close(f.partial_flow, 0.8 * 9000 * 4e-5, 1e-12) && f.partial_time == 300 && f.flow == f.partial_flow);
        QVERIFY(f.plain_flow == plain.plain_flow && f.flow > plain.plain_flow);
        const auto r = solve(p)[0];
        const Explanation x = explain(p, *r, {Kind::Pipe, 3}, "flow");
        for (const Step& s : x.steps)
            if (!s.formula.empty()) QVERIFY2(close(evaluate(s.formula, s.terms), s.result, 1e-6), s.symbol.c_str());
        QVERIFY(close(x.steps.back().result, f.flow, 1e-9));
    }
};

QTEST_GUILESS_MAIN(TestStreetFlow)
#include "test_street_flow.moc"
