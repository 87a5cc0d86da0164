// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <optional>
#include <set>

#include "core/design/design.h"
#include "core/hydraulics/uniform_flow.h"
#include "support/networks.h"
#include "support/seen.h"

using namespace culvert;
using culvert::testing::random_project;

namespace {

/// inlet 1 – manhole 2 – outfall 3, 50 m each at 1 %, one event.
Project short_run(double flow, double size = 0.45) {
    Project p = new_project(UnitSystem::Si);
    const auto add = [&](std::uint64_t id, StructureKind kind, double x, double rim, const char* name) {
        Structure s;
        s.id = id;
        s.name = name;
        s.kind = kind;
        s.x = x;
        s.y = 0;
        s.rim = rim;
        p.structures.insert(s);
    };
    add(1, StructureKind::Inlet, 0, 103, "A1");
    add(2, StructureKind::Manhole, 50, 102.5, "A2");
    add(3, StructureKind::Outfall, 100, 102, "A3");
    p.structures.change(1)->known_flow = flow;
    const auto pipe = [&](std::uint64_t id, std::uint64_t from, std::uint64_t to, double up) {
        Pipe q;
        q.id = id;
        q.from = {from};
        q.to = {to};
        q.size = size;
        q.material = "concrete";
        q.invert_from = up;
        q.invert_to = up - 0.5;
        p.pipes.insert(q);
    };
    pipe(11, 1, 2, 100.9);
    pipe(12, 2, 3, 100.35);
    RainEvent e;
    e.id = 5;
    e.name = "10 years";
    e.return_period = 10;
    e.role = EventRole::Minor;
    e.durations = {300, 3600};
    e.intensities = {4e-5, 1e-5};
    p.events.insert(e);
    return p;
}
int beyond(const Project& p, const EventResult& r) {
    int n = 0;
    for (const Finding& f : review(p, r).findings) n += f.check.verdict == Verdict::Beyond && !f.accepted;
    return n;
}
struct Both {
    CheckList pipe, structure;
};
/// Of a structure and the pipe that leads on from it.
Both checks(const Project& p, std::uint64_t structure) {
    const auto r = solve(p)[0];
    const LimitTable limits(p);
    return {checks_of(limits, *r,
                      {Kind::Pipe,
                       culvert::testing::pipe_of(*r->network, r->network->node_of(StructureId{structure})).pipe.value}),
            checks_of(limits, *r, {Kind::Structure, structure})};
}
/// The check of a rule; a copy, since lists are often temporaries.
std::optional<Check> find(const CheckList& list, Rule rule) {
    for (const Check& c : list)
        if (c.rule == rule) return c;
    return {};
}
std::vector<Finding> findings(const Project& p) {
    auto list = data_findings(p, compile(p));
    for (const auto& r : solve(p))
        for (Finding& f : review(p, *r).findings) {
            word(p, *r, f);
            list.push_back(std::move(f));
        }
    return list;
}
const Finding* titled(const std::vector<Finding>& list, const std::string& title) {
    for (const Finding& f : list)
        if (f.title == title) return &f;
    return nullptr;
}

}  // namespace

class TestReview : public QObject {
    Q_OBJECT
  private slots:
    void a_dry_pipe_is_asked_for_its_levels_but_not_for_its_flow() {
        const auto dry = checks(short_run(0), 1).pipe, wet = checks(short_run(0.2), 1).pipe;
        for (const Rule rule : {Rule::LeastVelocity, Rule::MostVelocity, Rule::MostFlowRatio})
            QVERIFY2(!find(dry, rule) && find(wet, rule), rule_name(rule).data());
        for (const Rule rule : {Rule::LeastSlope, Rule::LeastCover}) QVERIFY(find(dry, rule) && find(wet, rule));
    }
    void street_paths_that_run_round_are_named_in_their_order() {
        Project p = short_run(0.2);
        int id = 70;
        for (const auto& [from, to] : {std::pair{1, 2}, {2, 3}, {3, 2}}) {
            StreetPath path;
            path.id = static_cast<std::uint64_t>(id++);
            path.from = {static_cast<std::uint64_t>(from)};
            path.to = {static_cast<std::uint64_t>(to)};
            p.street_paths.insert(path);
        }
        const auto name = [&](std::uint64_t s) { return element_name(p, Kind::Structure, s); };
        std::vector<std::string> said;
        for (const Finding& f : data_findings(p, compile(p)))
            if (f.title == "street paths in a ring") said.push_back(f.detail);
        QCOMPARE(said.size(), std::size_t{1});
        // What leads into the ring is no part of it.
        QCOMPARE(said[0], "Street paths run round: " + name(2) + " – " + name(3) + " – " + name(2) + ".");
    }
    void the_last_of_a_range_is_reviewed() {
        // Ranges hold 2,048: networks of which the last node, or the last pipe, is alone in one.
        bool node_alone = false, pipe_alone = false;
        for (int pipes = 2049; pipes > 1900 && !(node_alone && pipe_alone); --pipes) {
            Project p = testing::sized_project(pipes, 1);
            const Network net = compile(p);
            const bool node = net.nodes.size() % 2048 == 1, link = net.links.size() % 2048 == 1;
            if (!node && !link) continue;
            node_alone |= node, pipe_alone |= link;
            // The last node is an outfall: a channel below it is held against what it stands.
            Structure& outfall = *p.structures.change(net.nodes.back().structure.value);
            outfall.channel_width = 1, outfall.channel_slope = 0.01, outfall.channel_velocity = 3;
            const auto result = solve(p)[0];
            const Review r = review(p, *result);
            const LimitTable limits(p, result->event);
            const ElementRef last{Kind::Structure, net.nodes.back().structure.value},
                pipe{Kind::Pipe, net.links.back().pipe.value};
            QVERIFY(r.nodes.size() == net.nodes.size() && r.links.size() == net.links.size());
            QCOMPARE(r.nodes.back(), worst(checks_of(limits, *result, last)));
            QCOMPARE(r.links.back(), worst(checks_of(limits, *result, pipe)));
            QVERIFY(r.nodes.back() != Verdict::Unknown && r.links.back() != Verdict::Unknown);
        }
        QVERIFY(node_alone && pipe_alone);
    }
    void ranges_put_together_miss_nothing() {
        // More elements than one thread reviews at a time, so that parts meet in their midst.
        Project p = testing::sized_project(5000, 1);
        p.settings_rows.change(settings_id)->least_time = 60;  // below the shortest duration of the table at the heads
        const auto result = solve(p)[0];
        const Network& net = *result->network;
        const Review r = review(p, *result);
        const LimitTable limits(p, result->event);
        Verdict all = Verdict::Unknown;
        std::size_t beyond = 0, named = 0;
        for (std::size_t i = 0; i < net.links.size(); i += 7) {
            const ElementRef pipe{Kind::Pipe, net.links[i].pipe.value};
            const CheckList list = checks_of(limits, *result, pipe);
            QCOMPARE(r.links[i], worst(list));
            for (const Check& c : list) beyond += c.verdict == Verdict::Beyond && c.rule != Rule::Data;
            for (const Finding& f : r.findings) named += f.element == pipe && f.check.verdict == Verdict::Beyond;
        }
        QVERIFY(beyond > 20);
        QCOMPARE(named, beyond);
        for (const Verdict v : r.links) all = std::max(all, v);
        for (const Verdict v : r.nodes) all = std::max(all, v);
        QCOMPARE(r.verdict, all);
        // The notes count over all parts, and name the worst.
        const IdfCurve curve = rain_of(*p.events.begin()).curve;
        int below = 0, held = 0, worst_at = -1;
        for (std::size_t i = 0; i < net.nodes.size(); ++i) {
            const NodeFlow& f = result->nodes[i].flow;
            held += f.flow > f.plain_flow * (1 + 1e-9) && net.nodes[i].out != no_link;
            if (!(f.effective_area > 0) || curve.range(f.time) != IdfRange::BelowShortest) continue;
            ++below;
            if (worst_at < 0 || f.time < result->nodes[static_cast<std::size_t>(worst_at)].flow.time)
                worst_at = static_cast<int>(i);
        }
        QVERIFY(below > 100 && held > 0);
        int notes = 0;
        for (const Finding& f : r.findings) {
            if (f.check.rule == Rule::FlowHeld) {
                QVERIFY(f.detail.starts_with(std::to_string(held) + " pipes"));
                ++notes;
            }
            if (f.check.rule != Rule::OutsideTable) continue;
            QVERIFY(f.detail.find(", " + std::to_string(below) + " structures below") != std::string::npos);
            QCOMPARE(f.element.id, net.nodes[static_cast<std::size_t>(worst_at)].structure.value);
            ++notes;
        }
        QCOMPARE(notes, 2);
    }
    void values_margins_and_verdicts() {
        const Project p = short_run(0.2);
        const Both c = checks(p, 1);
        const Section s = Circular{0.45};
        const double capacity = full_capacity(s, 0.013, 0.01);
        const auto ratio = find(c.pipe, Rule::MostFlowRatio);
        QVERIFY(ratio && std::abs(ratio->value - 0.2 / capacity) < 1e-12 && ratio->verdict == Verdict::Within);
        QVERIFY(std::abs(ratio->margin() - (1 - 0.2 / capacity)) < 1e-12);
        QVERIFY(std::abs(find(c.pipe, Rule::LeastSlope)->value - 0.01) < 1e-12);
        QVERIFY(std::abs(find(c.pipe, Rule::LeastCover)->value - (103 - 100.9 - 0.45 - 0.05)) < 1e-12);
        QVERIFY(std::abs(find(c.structure, Rule::MostDepth)->value - 2.1) < 1e-12);
        const auto r = solve(p)[0];
        const NodeLevel& l = r->nodes[static_cast<std::size_t>(r->network->node_of(StructureId{1}))].level;
        QVERIFY(std::abs(find(c.structure, Rule::LeastFreeboard)->value - (103 - l.level)) < 1e-12);
        QVERIFY(std::abs(find(checks(p, 2).pipe, Rule::LeastDrop)->value - 0.05) < 1e-12);
    }
    void near_is_inside_ten_per_cent_of_a_limit() {
        const double capacity = full_capacity(Section(Circular{0.45}), 0.013, 0.01);
        const auto verdict = [&](double share) {
            return find(checks(short_run(capacity * share), 1).pipe, Rule::MostFlowRatio)->verdict;
        };
        QCOMPARE(verdict(0.89), Verdict::Within);
        QCOMPARE(verdict(0.91), Verdict::Near);
        QCOMPARE(verdict(1.0), Verdict::Near);
        QCOMPARE(verdict(1.001), Verdict::Beyond);
        Project p = short_run(capacity * 0.85);
        p.settings_rows.change(settings_id)->near_share = 0.2;
        QCOMPARE(find(checks(p, 1).pipe, Rule::MostFlowRatio)->verdict, Verdict::Near);
    }
    void limits_can_be_off_or_have_exceptions() {
        Project p = short_run(0.4);
        QCOMPARE(find(checks(p, 1).pipe, Rule::MostFlowRatio)->verdict, Verdict::Beyond);
        Limit own;
        own.id = 900;
        own.kind = LimitKind::MostFlowRatio;
        own.value = 2;
        own.element = 11;
        p.limits.insert(own);
        const auto c = find(checks(p, 1).pipe, Rule::MostFlowRatio);
        QVERIFY(c->verdict == Verdict::Within && c->exception);
        QCOMPARE(find(checks(p, 2).pipe, Rule::MostFlowRatio)->verdict, Verdict::Beyond);  // only for that pipe
        for (const Limit& l : p.limits)
            if (l.kind == own.kind && l.element == 0) {
                p.limits.change(l.id)->active = false;
                break;
            }
        QVERIFY(!find(checks(p, 2).pipe, Rule::MostFlowRatio));
    }
    void every_rule_can_be_broken() {
        std::set<Rule> seen;
        const auto take = [&](const Project& p) {
            for (const Finding& f : findings(p)) {
                if (f.check.verdict >= Verdict::Near || f.severity == Severity::Note) seen.insert(f.check.rule);
                QVERIFY2(!f.title.empty() && (!f.detail.empty()), f.title.c_str());
            }
        };
        take(short_run(0.6));  // ratio, velocity, surcharge, flooding
        take(short_run(0.001));
        Project p = short_run(0.2);
        p.pipes.change(11)->invert_to = 100.85;  // too flat
        take(p);
        p = short_run(0.2);
        p.pipes.change(12)->invert_to = 94;   // too steep
        p.structures.change(1)->rim = 101.9;  // too little cover
        p.structures.change(2)->rim = 108;    // too deep
        p.pipes.change(12)->size = 0.2;       // below the least, smaller than the pipe above
        p.pipes.change(11)->length = 60;
        take(p);
        p = short_run(0.2);
        p.structures.change(2)->rim = 100.5;  // below the crown
        std::swap(p.pipes.change(12)->from, p.pipes.change(12)->to);
        std::swap(p.pipes.change(12)->invert_from, p.pipes.change(12)->invert_to);
        p.pipes.change(11)->invert_to = 100.3;  // below the outgoing start
        StreetPath path;
        path.id = 70;
        path.from = {1};
        p.street_paths.insert(path);
        take(p);
        Project wide = short_run(0);
        Catchment c;
        c.id = 31;
        c.structure = {1};
        c.area = 5000;
        c.coefficient = 0.9;
        c.time = 7200;
        wide.catchments.insert(c);
        for (Limit l : wide.limits)
            if (l.kind == LimitKind::MostFilledDepth) {
                wide.limits.change(l.id)->active = true;
                wide.limits.change(l.id)->value = 0.2;
                break;
            }
        Catchment slow = c;
        slow.id = 32;
        slow.structure = {2};
        slow.area = 10;
        slow.time = 20000;  // Tc jumps, intensity falls: the flow that enters is held
        wide.catchments.insert(slow);
        take(wide);
        Project tight = short_run(0.25);
        tight.structures.change(1)->rim = 101.6;
        tight.structures.change(2)->rim = 101.1;
        std::uint64_t outfall = 0;
        for (const Structure& s : tight.structures)
            if (s.kind == StructureKind::Outfall) outfall = s.id;
        Structure& end = *tight.structures.change(outfall);
        end.channel_width = 0.2;
        end.channel_slope = 0.05;
        end.channel_velocity = 0.3;
        end.channel_shear = 1;
        take(tight);
        // Notes, what needs other lines, what cannot be broken from outside: test_policy, test_crossings, storage
        // settings.
        seen.insert({Rule::Oversized, Rule::Crossing, Rule::Beside});
        for (int rule = 0; rule <= static_cast<int>(Rule::Data); ++rule)
            // Those of streets: test_street_settings.
            if (static_cast<Rule>(rule) != Rule::Data && stage_of(static_cast<Rule>(rule)) != Stage::Streets &&
                stage_of(static_cast<Rule>(rule)) != Stage::Storage)
                QVERIFY2(seen.contains(static_cast<Rule>(rule)), rule_name(static_cast<Rule>(rule)).data());
    }
    /// Whatever still leads to an abandoned structure is named with it; the pipes that are abandoned with it are not.
    void an_abandoned_structure_in_use_is_an_error() {
        Project p = short_run(0.1);
        QVERIFY(!titled(findings(p), "abandoned but in use"));
        p.structures.change(1)->status = Status::Abandoned;
        const auto users = [&] {
            const auto list = findings(p);
            const Finding* f = titled(list, "abandoned but in use");
            if (!f) return std::string();
            if (f->severity != Severity::Error || f->element != ElementRef{Kind::Structure, 1} || f->field != "status")
                return std::string("not as it should be");
            return f->detail;
        };
        QCOMPARE(users(), std::string("A1 is abandoned, yet in use by pipe A1–A2. It is counted as if it stood."));
        // One that nothing leads to hides none after it.
        Project two = p;
        two.pipes.change(11)->status = Status::Abandoned;
        two.structures.change(2)->status = Status::Abandoned;
        Catchment on;
        on.id = 30;
        on.name = "K";
        on.structure = {2};
        on.area = 100;
        on.coefficient = 0.5;
        two.catchments.insert(on);
        const auto both = findings(two);
        QVERIFY(titled(both, "abandoned but in use") && titled(both, "abandoned but in use")->element.id == 2);
        p.pipes.change(11)->status = Status::Abandoned;
        QCOMPARE(users(), std::string());
        for (std::uint64_t id = 31; id < 34; ++id) {
            Catchment c;
            c.id = id;
            c.name = "K" + std::to_string(id);
            c.structure = {1};
            c.area = 100;
            c.coefficient = 0.5;
            p.catchments.insert(c);
        }
        StreetPath path;
        path.id = 70;
        path.name = "down";
        path.from = {2};
        path.to = {1};
        p.street_paths.insert(path);
        QCOMPARE(users(),
                 std::string("A1 is abandoned, yet in use by catchment K31, catchment K32, catchment K33, street "
                             "path down. It is counted as if it stood."));
        PondOutlet o;
        o.id = 80;
        o.name = "low";
        o.structure = {2};
        o.to = {1};
        p.outlets.insert(o);
        QVERIFY(users().find("street path down and 1 more. It") != std::string::npos);
    }
    void awkward_projects_get_a_clear_answer() {
        Project p = new_project(UnitSystem::Si);
        QVERIFY(titled(findings(p), "nothing drawn yet") && titled(findings(p), "no rain"));
        Structure out;
        out.id = 1;
        out.name = "A1";
        out.kind = StructureKind::Outfall;
        p.structures.insert(out);
        QVERIFY(titled(findings(p), "no pipe yet"));
        p = short_run(0.1);
        p.structures.change(2)->x = 0;  // on A1
        const auto point = findings(p);
        QVERIFY(titled(point, "two at one point")->detail.find("A1 and A2") != std::string::npos);
        p = short_run(0.1);
        Catchment c;
        c.id = 31;
        c.name = "K";
        c.structure = {1};
        c.area = -5;
        c.coefficient = 1.4;
        p.catchments.insert(c);
        const auto bad = findings(p);
        int ranges = 0;
        for (const Finding& f : bad)
            if (f.title == "value out of range") {
                ++ranges;
                QVERIFY(f.detail.find("K") != std::string::npos && (f.field == "area" || f.field == "coefficient"));
            }
        QCOMPARE(ranges, 2);
        p.events.change(5)->intensities = {1e-5, 4e-5};
        QVERIFY(titled(findings(p), "rain table at fault")->detail.find("10 years") != std::string::npos);
        p = short_run(0.1);
        p.structures.change(3)->tailwater = Tailwater::Level;
        QVERIFY(titled(findings(p), "tailwater missing")->element.id == 3);
        p.structures.change(3)->tailwater_level = 150;
        QVERIFY(titled(findings(p), "tailwater above ground"));
        p.structures.change(2)->name = "A1";
        QVERIFY(titled(findings(p), "name used twice")->element.id == 2);
        p.structures.change(1)->rim = not_given;
        QVERIFY(titled(findings(p), "value missing")->field == "rim");
        p.structures.change(1)->name = std::string(200, 'w') + "水";
        QVERIFY(!findings(p).empty());
    }
    void service_level_is_the_rarest_event_passed_with_all_commoner() {
        ServiceLevel s;
        s.events = {{1}, {2}, {3}};
        for (auto& row : s.rows) row = {Verdict::Within, Verdict::Near, Verdict::Within};
        QCOMPARE(s.passed(), 2);
        s.rows[2][1] = Verdict::Beyond;
        QCOMPARE(s.passed(), 0);
        s.rows[0][0] = Verdict::Beyond;
        QCOMPARE(s.passed(), -1);
        const Project p = random_project({.pipes = 40, .seed = 4, .events = 4});
        const Results all = solve(p);
        for (int i = 0; i < static_cast<int>(all[0]->nodes.size()); ++i) {
            const ElementRef id{Kind::Structure, all[0]->network->nodes[static_cast<std::size_t>(i)].structure.value};
            const ServiceLevel level = service_level(p, all, id);
            QCOMPARE(level.events.size(), std::size_t{4});
            for (std::size_t e = 0; e < 4; ++e) {
                if (const auto k = find(checks_of(LimitTable(p), *all[e], id), Rule::Flooding))
                    QCOMPARE(level.rows[3][e], k->verdict);
            }
        }
    }
    void proposed_sizes_are_the_smallest_that_keep_the_limits() {
        int changed = 0, none = 0;
        for (unsigned seed = 1; seed <= 25; ++seed) {
            Project p = random_project({.pipes = 50, .seed = seed, .events = 2});
            const std::uint64_t locked = p.pipes.begin()->id;
            p.pipes.change(locked)->size_locked = true;
            const EventId event{design_event(p)->id};
            const SizeProposal proposal = propose_sizes(p, event);
            Project with = p;
            apply(with, proposal.edit);
            QCOMPARE(with.pipes.find(locked)->size, p.pipes.find(locked)->size);
            const Results results = solve(with);
            const auto r = results[0]->event == event ? results[0] : results[1];
            // Its figures are those of the project before and after.
            const Results first = solve(p);
            QCOMPARE(proposal.beyond_before, beyond(p, *(first[0]->event == event ? first[0] : first[1])));
            QCOMPARE(proposal.beyond_after, beyond(with, *r));
            QCOMPARE(proposal.findings.size(), review(with, *r).findings.size());
            const LimitTable limits(with);
            for (const SizeRow& row : proposal.rows) {
                const auto link = static_cast<std::size_t>(r->network->link_of(row.pipe));
                const Link& n = r->network->links[link];
                const double q = r->links[link].flow.flow;
                QVERIFY(!row.reason.empty());
                if (row.locked || !(n.slope > 0)) continue;
                const Pipe& pipe = *with.pipes.find(row.pipe.value);
                double upstream = 0;
                for (const Link& other : r->network->links)
                    if (other.to == n.from) upstream = std::max(upstream, height(other.section));
                if (row.reason.find("no size") == 0) {
                    ++none;
                    continue;
                }
                QVERIFY2(q <= n.capacity * (1 + 1e-9), qPrintable(QString("seed %1").arg(seed)));
                QVERIFY(pipe.size >= upstream - 1e-9 ||
                        r->network->nodes[static_cast<std::size_t>(n.from)].inflows == 0);
                // One size smaller would break a limit: brute force over the catalogue.
                for (const PipeSize* s : sizes_of(with, pipe.material, pipe.shape)) {
                    if (s->size >= pipe.size - 1e-9) break;
                    const Section section = s->shape == Shape::Box
                                                ? Section(Box{std::isnan(s->width) ? s->size : s->width, s->size})
                                                : Section(Circular{s->size});
                    const bool too_small = s->size < upstream - 1e-9 ||
                                           s->size < limits.limit(LimitKind::LeastSize, 0).value - 1e-9 ||
                                           q > full_capacity(section, s->roughness, n.slope);
                    QVERIFY(too_small);
                }
            }
            changed += !proposal.edit.empty();
            revert(with, proposal.edit);
            QVERIFY(with == p);
        }
        QVERIFY(changed > 15);
    }
    void remedies_are_tried_before_they_are_shown() {
        int tried = 0, mending = 0;
        for (unsigned seed = 1; seed <= 6; ++seed) {
            const Project p = random_project({.pipes = 25, .seed = seed, .events = 2});
            const Results before = solve(p);
            const FindingKeys keys = beyond_keys(p, before);
            for (const auto& r : before)
                for (const Finding& f : review(p, *r).findings) {
                    if (f.check.verdict != Verdict::Beyond || tried > 60) continue;
                    bool last_mends = true;
                    for (const Remedy& remedy : remedies(p, before, f)) {
                        Project with = p;
                        apply(with, remedy.edit);
                        const Results after = solve(with);
                        const FindingKeys now = beyond_keys(with, after);
                        const bool gone = !std::binary_search(now.begin(), now.end(), f.key());
                        QCOMPARE(gone, remedy.mends);
                        QVERIFY(last_mends || !remedy.mends);  // mending ones first
                        last_mends = remedy.mends;
                        const Trial trial = try_edit(p, solve(p), remedy.edit, keys, f.event);
                        QCOMPARE(trial.gone, remedy.gone);
                        QCOMPARE(trial.added, remedy.added);
                        ++tried;
                        mending += gone;
                    }
                }
        }
        QVERIFY(tried > 30 && mending > 10);
    }
    void a_cause_downstream_is_offered() {
        // Two good pipes above one that is too small: the finding stands upstream, the remedy below.
        Project p = short_run(0.33, 0.525);
        p.pipes.change(12)->size = 0.375;
        p.pipes.change(11)->invert_from = 101.1;
        p.pipes.change(11)->invert_to = 100.6;
        const Results results = solve(p);
        const Review rev = review(p, *results[0]);
        const auto f = std::find_if(rev.findings.begin(), rev.findings.end(), [](const Finding& k) {
            return k.element == ElementRef{Kind::Pipe, 11} && k.check.rule == Rule::MostSurcharge;
        });
        QVERIFY(f != rev.findings.end());
        const auto list = remedies(p, results, *f);
        QVERIFY(!list.empty() && list[0].mends);
        QVERIFY2(list[0].text.find("A2–A3") != std::string::npos, list[0].text.c_str());
    }
    void the_ladder_is_a_whole_solve_of_each_size() {
        const Project p = short_run(0.3);
        const auto ladder = size_ladder(p, solve(p), {12}, {5});
        QCOMPARE(ladder.size(), std::size_t{5});
        int present = 0;
        double last = 1e9;
        for (const LadderStep& s : ladder) {
            Project with = p;
            apply(with, with_size(p, {12}, *s.size));
            const auto r = solve(with)[0];
            const int link = r->network->link_of(PipeId{12});
            QCOMPARE(s.hgl_to_crown, r->links[static_cast<std::size_t>(link)].level.head_up - s.size->size);
            const LinkResult& of = r->links[static_cast<std::size_t>(link)];
            QCOMPARE(s.flow_ratio, of.flow.flow / r->network->links[static_cast<std::size_t>(link)].capacity);
            QVERIFY(s.flow_ratio > 0.05 && s.hgl_to_crown < last);
            last = s.hgl_to_crown;
            present += s.present;
        }
        QCOMPARE(present, 1);
        const Edit up = step_size(p, {12}, +1), down = step_size(p, {12}, -1);
        Project q = p;
        apply(q, up);
        QCOMPARE(q.pipes.find(12)->size, 0.525);
        apply(q, step_size(q, {12}, -1));
        QCOMPARE(q.pipes.find(12)->size, 0.45);
        QVERIFY(!down.empty());
        q.pipes.change(12)->size_locked = true;
        QVERIFY(step_size(q, {12}, +1).empty());
        q.pipes.change(12)->size_locked = false;
        q.pipes.change(12)->size = 2.1;
        QVERIFY(step_size(q, {12}, +1).empty());
    }
};
QTEST_APPLESS_MAIN(TestReview)
#include "test_review.moc"
