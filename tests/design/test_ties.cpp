// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/design/outer_levels.h"
#include "core/design/relief.h"
#include "core/design/ties.h"
#include "core/model/lay.h"
#include "support/rain.h"

using namespace culvert;

namespace {

bool close(double a, double b, double within = 1e-9) { return std::abs(a - b) <= within; }

/// A1 … A4 along x, 50 m apart, rims falling from 110; B1 joins at A2 from the north.
Project site() {
    Project p = new_project(UnitSystem::Si);
    const auto structure = [&](std::uint64_t id, const char* name, StructureKind kind, double x, double y, double rim) {
        Structure s;
        s.id = id;
        s.name = name;
        s.kind = kind;
        s.x = x;
        s.y = y;
        s.rim = rim;
        p.structures.insert(s);
    };
    for (int i = 0; i < 4; ++i)
        structure(static_cast<std::uint64_t>(i) + 1, ("A" + std::to_string(i + 1)).c_str(),
                  i < 3 ? StructureKind::Manhole : StructureKind::Outfall, 50 * i, 0, 110 - 0.5 * i);
    structure(9, "B1", StructureKind::Inlet, 50, 40, 110.2);
    const auto pipe = [&](std::uint64_t id, std::uint64_t from, std::uint64_t to, double up, double down) {
        Pipe q;
        q.id = id;
        q.from = {from};
        q.to = {to};
        q.material = "concrete";
        q.size = 0.3;
        q.invert_from = up;
        q.invert_to = down;
        for (const char* key : {"invert_from", "invert_to"}) q.origin[*field_index(Kind::Pipe, key)] = Origin::Proposed;
        p.pipes.insert(q);
    };
    pipe(101, 1, 2, 108.4, 107.9);
    pipe(102, 2, 3, 107.87, 107.4);
    pipe(103, 3, 4, 107.37, 106.9);
    pipe(104, 9, 2, 108.6, 108.2);
    p.events.insert(culvert::testing::ten_years());
    return p;
}
Tie read(const Project& p, const char* words) {
    const TieRead t = read_tie(p, words);
    return t.tie ? *t.tie : Tie{};
}
double invert(const Project& p, std::uint64_t pipe, bool start) {
    const Pipe& q = *p.pipes.find(pipe);
    return start ? q.invert_from : q.invert_to;
}

}  // namespace

/// Ties that stay with pipes, relief pipes, levels from another project.
class TestTies : public QObject {
    Q_OBJECT
  private slots:
    void words_of_a_tie_read_back_in_either_system() {
        Project p = site();
        for (const char* words : {"ground - 1.5", "rim + 0.25", "cover 1.2", "A1–A2 + 0.05", "B1–A2", "ground"}) {
            const Tie t = read(p, words);
            const std::string kept = tie_words(p, t);
            for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
                p.settings_rows.change(settings_id)->system = system;
                const Tie back = read(p, kept.c_str());
                QVERIFY2(back.to == t.to && close(back.value, t.value, 1e-6) && back.line == t.line, kept.c_str());
            }
            p.settings_rows.change(settings_id)->system = UnitSystem::Si;
        }
    }
    /// Graded with ties, the pipes keep them; when rims change, the run follows and untied levels between go along.
    void a_run_follows_its_ties() {
        Project p = site();
        RunAsk ask;
        ask.pipes = {{101}, {102}, {103}};
        ask.places.resize(4);
        ask.places[0].leaving = read(p, "rim - 1.6");
        ask.places[3].arriving = read(p, "rim - 2.0");
        const Graded g = grade_run(p, compile(p), ask);
        QVERIFY2(g.error.empty(), g.error.c_str());
        apply(p, g.edit);
        QCOMPARE(p.pipes.find(101)->tie_from, std::string("rim - 1.6 m"));
        QCOMPARE(p.pipes.find(103)->tie_to, std::string("rim - 2 m"));
        QVERIFY(p.pipes.find(102)->tie_from.empty());
        QVERIFY(close(invert(p, 101, true), 108.4) && close(invert(p, 103, false), 106.5));
        QVERIFY(follow_ties(p, {}).edit.empty());  // all is as tied
        QCOMPARE(follow_ties(p, {}).ties, 2);
        QVERIFY(has_ties(p) && tie_findings(p, follow_ties(p, {})).empty());
        p.structures.change(1)->rim = 111;
        const TiesFollowed f = follow_ties(p, {});
        QCOMPARE(f.moved, 1);
        // It says so by itself: where, what the tie is, what it gives now.
        const std::vector<Finding> said = tie_findings(p, f);
        QCOMPARE(said.size(), std::size_t{1});
        QVERIFY(said[0].element == (ElementRef{Kind::Pipe, 101}));
        QCOMPARE(said[0].field, std::string("invert_from"));
        QVERIFY2(said[0].detail.find("108.400 m") != std::string::npos &&
                     said[0].detail.find("rim - 1.6 m") != std::string::npos &&
                     said[0].detail.find("109.400 m") != std::string::npos,
                 said[0].detail.c_str());
        // Of a pipe that is gone meanwhile nothing is said; of the others all the same.
        TiesFollowed both = f;
        both.moves.insert(both.moves.begin(), TieMoved{PipeId{999}, true, 1, 2});
        QCOMPARE(tie_findings(p, both).size(), std::size_t{1});
        const Project before = p;
        apply(p, f.edit);
        QVERIFY(close(invert(p, 101, true), 109.4) && close(invert(p, 103, false), 106.5));
        // one slope from the new head to the end, less the falls of 30 mm
        const double slope = (109.4 - 106.5 - 0.06) / 150;
        for (const std::uint64_t id : {101, 102, 103})
            QVERIFY(close((invert(p, id, true) - invert(p, id, false)) / 50, slope, 4e-5));
        revert(p, f.edit);
        QVERIFY(p == before);
    }
    /// What is tied to a pipe of another run follows after it, whichever run is read first.
    void a_tie_to_a_pipe_that_is_tied_follows_too() {
        Project p = site();
        p.pipes.change(104)->tie_to = "A1–A2 + 0.3 m";  // B1 ends 0.3 above the end of A1-A2
        p.pipes.change(101)->tie_to = "rim - 2.2 m";
        const TiesFollowed f = follow_ties(p, {});
        apply(p, f.edit);
        QVERIFY(close(invert(p, 101, false), 109.5 - 2.2));
        QVERIFY(close(invert(p, 104, false), 109.5 - 2.2 + 0.3));
        QVERIFY(follow_ties(p, {}).edit.empty());
        // The other way round: the main, which is read first, hangs on its branch.
        Project q = site();
        q.pipes.change(101)->tie_to = "B1–A2 - 0.4 m";
        q.pipes.change(104)->tie_to = "rim - 1.8 m";
        apply(q, follow_ties(q, {}).edit);
        QVERIFY(close(invert(q, 104, false), 109.5 - 1.8));
        QVERIFY(close(invert(q, 101, false), 109.5 - 1.8 - 0.4));
    }
    /// Two ties that climb on each other: no level follows, and it is said.
    void ties_that_lead_to_each_other_are_named() {
        Project p = site();
        p.pipes.change(101)->tie_to = "B1–A2 - 0.05 m";
        p.pipes.change(104)->tie_to = "A1–A2 - 0.05 m";
        const TiesFollowed f = follow_ties(p, {});
        QVERIFY(f.edit.empty() && f.moves.empty());
        QCOMPARE(f.broken.size(), std::size_t{1});
        QVERIFY(f.broken[0].find("lead to each other") != std::string::npos);
        p.pipes.change(104)->tie_to = "A1–A2 + 0.05 m";  // the same distance seen from both: they rest
        const TiesFollowed rest = follow_ties(p, {});
        QVERIFY(rest.broken.empty());
        apply(p, rest.edit);
        QVERIFY(close(invert(p, 104, false), invert(p, 101, false) + 0.05));
    }
    /// A typed level holds, as a pin; an existing pipe is no part of a run; a tie that cannot be read is named.
    void typed_levels_hold_and_broken_ties_are_named() {
        Project p = site();
        p.pipes.change(101)->tie_from = "rim - 1.6 m";
        p.pipes.change(103)->origin[*field_index(Kind::Pipe, "invert_to")] = Origin::Typed;
        p.structures.change(1)->rim = 109.5;
        Project q = p;
        apply(q, follow_ties(q, {}).edit);
        QVERIFY(close(invert(q, 101, true), 107.9) && close(invert(q, 103, false), 106.9));
        p.pipes.change(102)->status = Status::Existing;
        p.pipes.change(102)->tie_to = "rim - 2 m";  // it cannot follow, which is said
        q = p;
        const TiesFollowed some = follow_ties(q, {});
        QCOMPARE(some.broken.size(), std::size_t{1});
        QVERIFY(some.broken.front().find("A2–A3: it is not proposed") == 0);
        apply(q, some.edit);
        p.pipes.change(102)->tie_to.clear();
        QVERIFY(close(invert(q, 101, true), 107.9) && close(invert(q, 102, true), 107.87));
        p.pipes.change(101)->tie_from = "the moon";
        const TiesFollowed f = follow_ties(p, {});
        QVERIFY(f.edit.empty() && f.broken.size() == 1);
        QVERIFY(f.broken.front().find("A1–A2") != std::string::npos);
    }
    void what_the_panel_does_not_ask_is_tied_no_more() {
        Project p = site();
        p.pipes.change(102)->tie_from = "rim - 2 m";
        RunAsk ask;
        ask.pipes = {{101}, {102}, {103}};
        ask.places.resize(4);
        ask.places[0].leaving = read(p, "108.4");
        Project kept = p;
        apply(kept, grade_run(p, compile(p), ask).edit);
        QCOMPARE(kept.pipes.find(102)->tie_from, std::string("rim - 2 m"));
        ask.all_ties = true;
        apply(p, grade_run(p, compile(p), ask).edit);
        QVERIFY(p.pipes.find(102)->tie_from.empty());
    }

    /// Too much for one pipe: a second of its size beside it carries half, and the finding is gone.
    void a_relief_pipe_mends_and_lies_clear() {
        Project p = site();
        p.structures.change(1)->known_flow = 0.14;  // 0.3 m at 1 % carries 97 l/s
        for (const std::uint64_t id : {102, 103}) p.pipes.change(id)->size = 0.6;
        const Results before = solve(p);
        const Review rev = review(p, *before[0]);
        const auto f = std::find_if(rev.findings.begin(), rev.findings.end(), [](const Finding& x) {
            return x.check.rule == Rule::MostFlowRatio && x.element == ElementRef{Kind::Pipe, 101};
        });
        QVERIFY(f != rev.findings.end());
        const Remedy* relief = nullptr;
        const auto list = remedies(p, before, *f);
        for (const Remedy& r : list)
            if (r.text.find("relief pipe") != std::string::npos) relief = &r;
        QVERIFY(relief && relief->mends);
        Project with = p;
        apply(with, relief->edit);
        QCOMPARE(with.pipes.size(), p.pipes.size() + 1);
        const auto after = solve(with)[0];
        double sum = 0;
        for (const Pipe& q : with.pipes) {
            if (q.from.value != 1) continue;
            const auto l = static_cast<std::size_t>(after->network->link_of(PipeId{q.id}));
            sum += after->links[l].flow.flow;
            QVERIFY(after->links[l].flow.flow < after->network->links[l].capacity * (1 + 1e-9));
            if (q.id == 101) continue;
            QCOMPARE(q.material, p.pipes.find(101)->material.empty() ? q.material : p.pipes.find(101)->material);
            const auto known = std::find_if(p.sizes.begin(), p.sizes.end(), [&](const PipeSize& s) {
                return s.material == q.material && s.size == q.size && s.wall == q.wall && s.roughness == q.roughness;
            });
            QVERIFY(known != p.sizes.end());  // a row of the catalogue
            // clear by a metre along the middle of the way
            const double off = std::abs(q.bends.front().y);
            QVERIFY(off >= 1 + 0.15 + 0.05 + q.size / 2 + q.wall - 2e-3);
            QCOMPARE(q.invert_from, 108.4);
        }
        QVERIFY(close(sum, 0.14, 1e-9));
    }
    /// 0.45 m at 1 % carries 285 l/s; 340 need 55 more: of the sizes that mend, the smallest is offered, once.
    void the_smallest_relief_that_mends_is_offered() {
        Project p = site();
        p.structures.change(1)->known_flow = 0.34;
        p.pipes.change(101)->size = 0.45;
        for (const std::uint64_t id : {102, 103}) p.pipes.change(id)->size = 0.75;
        const Results before = solve(p);
        for (const Finding& f : review(p, *before[0]).findings) {
            if (f.check.rule != Rule::MostFlowRatio || f.element != ElementRef{Kind::Pipe, 101}) continue;
            std::vector<std::string> offered;
            for (const Remedy& r : remedies(p, before, f))
                if (r.text.find("relief pipe") != std::string::npos) offered.push_back(r.text);
            QCOMPARE(offered, (std::vector<std::string>{"a relief pipe of 300 mm beside A1–A2"}));
            return;
        }
        QFAIL("the pipe is not too small");
    }
    void a_tailwater_above_what_is_allowed_is_said() {
        Project p = site();
        p.structures.change(1)->known_flow = 0.02;
        p.structures.change(4)->tailwater = Tailwater::Level;
        p.structures.change(4)->tailwater_level = 109.3;  // the rim of A3 is 109.0
        p.structures.change(4)->rim = 112;
        const Results before = solve(p);
        const Review rev = review(p, *before[0]);
        bool seen = false;
        for (const Finding& f : rev.findings) {
            if (f.check.rule != Rule::Flooding || f.element != ElementRef{Kind::Structure, 3}) continue;
            seen = true;
            const std::string words = tailwater_words(p, *before[0], f);
            QVERIFY2(words.find("A4") != std::string::npos && words.find("0.30 m") != std::string::npos, words.c_str());
            const auto list = remedies(p, before, f);
            QVERIFY(!list.empty() && list.back().edit.empty() && list.back().text == words);
        }
        QVERIFY(seen);
        // The same flooded by friction: the grade line starts at a tailwater, but that is not to blame.
        p.structures.change(4)->tailwater_level = 108.9;
        p.structures.change(1)->known_flow = 0.2;
        const Results lower = solve(p);
        int flooded = 0;
        for (const Finding& f : review(p, *lower[0]).findings)
            if (f.check.rule == Rule::Flooding) {
                ++flooded;
                QVERIFY(tailwater_words(p, *lower[0], f).empty());
            }
        QVERIFY(flooded >= 1);
    }

    /// The trunk's grade line at the structure of the outfall's name, event by event; other events are named.
    void an_outfall_takes_the_levels_of_the_project_it_leads_to() {
        Project p = site(), trunk = site();
        RainEvent rare = *p.events.begin();
        rare.id = 6;
        rare.name = "100 years";
        rare.return_period = 100;
        p.events.insert(rare);
        trunk.structures.change(3)->name = "A4";
        trunk.structures.change(4)->name = "Sea";
        trunk.structures.change(1)->known_flow = 0.05;
        RainEvent common = *trunk.events.begin();  // another one, lower
        common.id = 8;
        common.name = "50 years";
        common.return_period = 50;
        for (double& i : common.intensities) i /= 3;
        trunk.events.insert(common);
        Catchment c;
        c.id = 21;
        c.structure = {1};
        c.area = 900;
        c.coefficient = 0.8;
        c.time = 600;
        trunk.catchments.insert(c);
        std::shared_ptr<const EventResult> r;
        for (const auto& e : solve(trunk))
            if (e->event.value == 5) r = e;
        const double level = r->nodes[static_cast<std::size_t>(r->network->node_of(StructureId{3}))].level.level;
        const StructureId there = place_in(trunk, *p.structures.find(4));
        QCOMPARE(there.value, std::uint64_t{3});
        const OuterLevels found = outer_levels(p, {4}, trunk, there, "trunk.culvert");
        QCOMPARE(found.taken, 1);
        QVERIFY(found.why.find("100 years") != std::string::npos);
        const OuterLevels no = outer_levels(p, {1}, trunk, there, "trunk.culvert");
        QVERIFY(no.taken == 0 && no.edit.empty() && no.why.starts_with("choose an outfall"));
        apply(p, found.edit);
        QCOMPARE(p.outfall_levels.size(), std::size_t{1});
        QVERIFY(close(p.outfall_levels.begin()->level, level, 6e-4));
        QCOMPARE(p.outfall_levels.begin()->source, std::string("trunk.culvert, A4, 10 years"));
        const auto mine = solve(p);
        for (const auto& e : mine)
            if (e->event.value == 5)
                QVERIFY(close(e->nodes[static_cast<std::size_t>(e->network->node_of(StructureId{4}))].level.level,
                              p.outfall_levels.begin()->level, 1e-9) ||
                        level < 106.9);
        // An event that is not known there, before the others: it is said, and they are taken.
        Project early = p;
        RainEvent odd = *p.events.find(5);
        odd.id = 1;
        odd.name = "3 years";
        odd.return_period = 3;
        early.events.insert(odd);
        const OuterLevels rest = outer_levels(early, {4}, trunk, there, "t");
        QVERIFY(rest.taken == 1 && rest.why.find("3 years: no such event there") != std::string::npos);
        // By its return period where the names differ.
        Project renamed = trunk;
        renamed.events.change(5)->name = "one in ten";
        QCOMPARE(outer_levels(p, {4}, renamed, there, "t").taken, 1);
        // Taken again: the same row changes, no second one comes.
        trunk.structures.change(1)->known_flow = 0.08;
        apply(p, outer_levels(p, {4}, trunk, there, "trunk.culvert").edit);
        QCOMPARE(p.outfall_levels.size(), std::size_t{1});
        QVERIFY(p.outfall_levels.begin()->level > level + 0.01);
        // Not an outfall, no such place, nothing near.
        QVERIFY(outer_levels(p, {2}, trunk, there, "t").edit.empty());
        QVERIFY(outer_levels(p, {4}, trunk, {}, "t").why.find("30 m") != std::string::npos);
        for (const Structure& s : site().structures) trunk.structures.change(s.id)->x += 500;
        trunk.structures.change(3)->name = "other";
        QVERIFY(!place_in(trunk, *p.structures.find(4)));
        // Of two within 30 m the nearer one, whichever stands first.
        const Structure& mine_there = *p.structures.find(4);
        for (const std::uint64_t near : {1, 2}) {
            Project two = new_project(UnitSystem::Si);
            for (const std::uint64_t id : {1, 2}) {
                Structure s = mine_there;
                s.id = id;
                s.name = "T" + std::to_string(id);
                s.x += id == near ? 12 : 25;
                two.structures.insert(s);
            }
            QCOMPARE(place_in(two, mine_there).value, near);
        }
    }
};
QTEST_GUILESS_MAIN(TestTies)
#include "test_ties.moc"
