// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>
#include <set>

#include "core/design/grading.h"
#include "core/design/level_snaps.h"
#include "core/model/lay.h"

using namespace culvert;

namespace {

bool close(double a, double b, double within = 1e-9) { return std::abs(a - b) <= within; }

/// A1 … An, 50 m apart along x, rims at 110, pipes of 0.3 m at the project's drop of 0.03 m; drawn against the water
/// where `turned`.
Project run(int n, bool turned = false) {
    Project p = new_project(UnitSystem::Si);
    for (int i = 0; i < n; ++i) {
        Structure s;
        s.id = static_cast<std::uint64_t>(i) + 1;
        s.name = "A" + std::to_string(i + 1);
        s.kind = i + 1 < n ? StructureKind::Manhole : StructureKind::Outfall;
        s.x = 50 * i;
        s.y = 0;
        s.rim = 110 - 0.2 * i;
        p.structures.insert(s);
    }
    for (int i = 0; i + 1 < n; ++i) {
        Pipe q;
        q.id = static_cast<std::uint64_t>(i) + 101;
        const std::uint64_t a = static_cast<std::uint64_t>(i) + 1, b = a + 1;
        q.from = {turned ? b : a};
        q.to = {turned ? a : b};
        const double up = 108 - 0.5 * i, down = up - 0.4;
        q.invert_from = turned ? down : up;
        q.invert_to = turned ? up : down;
        p.pipes.insert(q);
    }
    return p;
}
RunAsk ask_of(int pipes) {
    RunAsk a;
    for (int i = 0; i < pipes; ++i) a.pipes.push_back({static_cast<std::uint64_t>(i) + 101});
    a.places.resize(static_cast<std::size_t>(pipes) + 1);
    return a;
}
Tie at_level(double z) {
    Tie t;
    t.value = z;
    return t;
}
Graded grade(const Project& p, const RunAsk& a) { return grade_run(p, compile(p), a); }
/// Inverts at the ends of a pipe, along the water.
std::pair<double, double> ends(const Project& p, std::uint64_t pipe) {
    const Pipe& q = *p.pipes.find(pipe);
    const bool along = q.from.value < q.to.value;
    return along ? std::pair{q.invert_from, q.invert_to} : std::pair{q.invert_to, q.invert_from};
}

}  // namespace

/// Runs graded by pins, slopes, matching and drops.
class TestGrading : public QObject {
    Q_OBJECT
  private slots:
    /// Two pins, three pipes of 50 m, two falls of 0.03: S = (100 - 98.44 - 0.06) / 150 = 1 %.
    void one_slope_between_two_pins() {
        Project p = run(4);
        RunAsk a = ask_of(3);
        a.places[0].leaving = at_level(100);
        a.places[3].arriving = at_level(98.44);
        const Graded g = grade(p, a);
        QVERIFY(g.error.empty());
        for (std::size_t i = 0; i < 3; ++i) QVERIFY(close(g.places[i].slope, 0.01));
        apply(p, g.edit);
        QVERIFY(ends(p, 101) == std::pair(100.0, 99.5));
        QVERIFY(ends(p, 102) == std::pair(99.47, 98.97));
        QVERIFY(ends(p, 103) == std::pair(98.94, 98.44));
    }
    /// With one slope pinned the others share what is left: 1.5 m less 0.2 x 50 % ... by hand below.
    void a_pinned_slope_leaves_the_rest_to_the_others() {
        Project p = run(4);
        RunAsk a = ask_of(3);
        a.places[0].leaving = at_level(100);
        a.places[3].arriving = at_level(98.44);
        a.places[1].slope = 0.02;  // 1 m of the 1.5 m: 0.5 m over 100 m for the two others
        apply(p, grade(p, a).edit);
        QVERIFY(ends(p, 101) == std::pair(100.0, 99.75));
        QVERIFY(ends(p, 102) == std::pair(99.72, 98.72));
        QVERIFY(ends(p, 103) == std::pair(98.69, 98.44));
    }
    void one_pin_moves_the_run_with_its_slopes() {
        Project p = run(4);
        const Project before = p;
        RunAsk a = ask_of(3);
        a.places[1].leaving = at_level(ends(p, 102).first - 0.7);
        apply(p, grade(p, a).edit);
        const double fall = 0.03;  // at each structure, in place of the 0.1 of the drawing
        QVERIFY(close(ends(p, 102).first, ends(before, 102).first - 0.7));
        for (const std::uint64_t id : {101, 102, 103}) {
            const auto [u, d] = ends(p, id);
            QVERIFY(close(u - d, 0.4));
        }
        QVERIFY(close(ends(p, 101).second - ends(p, 102).first, fall));
    }
    /// Where nothing is asked the head holds: its level stays, slopes stay, and structures get their falls.
    void nothing_asked_keeps_the_head() {
        Project p = run(4);
        const Project before = p;
        const Graded g = grade(p, ask_of(3));
        QVERIFY2(g.error.empty(), g.error.c_str());
        for (std::size_t i = 0; i < 4; ++i) QVERIFY(close(g.places[i].x, 50.0 * static_cast<double>(i)));
        // The ground over it is the surface's, and where there is none the rims.
        SurfaceData plane;
        for (const double x : {-10.0, 120.0})
            for (const double y : {-10.0, 10.0}) plane.points.push_back({x, y, 109 + x / 100});
        Ground ground;
        ground.finished = Terrain::build(std::move(plane));
        const Graded over = grade_run(p, compile(p), ask_of(3), ground);
        for (std::size_t i = 0; i < 4; ++i) {
            const double x = 50.0 * static_cast<double>(i), rim = 110 - 0.2 * static_cast<double>(i);
            QVERIFY(close(g.places[i].ground, rim) && close(g.places[i].rim, rim) && close(over.places[i].rim, rim));
            QVERIFY2(close(over.places[i].ground, x < 120 ? 109 + x / 100 : rim),
                     qPrintable(QString::number(over.places[i].ground)));
        }
        apply(p, g.edit);
        QCOMPARE(ends(p, 101).first, ends(before, 101).first);
        double z = ends(before, 101).first;
        for (const std::uint64_t id : {101, 102, 103}) {
            QVERIFY(close(ends(p, id).first, z) && close(ends(p, id).second, z - 0.4));
            z -= 0.4 + 0.03;
        }
        // A pipe without a length, and a head without a level, are said.
        Project none = before;
        none.pipes.change(102)->length = 0;
        QVERIFY(grade(none, ask_of(3)).error.find("has no length") != std::string::npos);
        Project headless = before;
        headless.pipes.change(101)->invert_from = headless.pipes.change(101)->invert_to = not_given;
        QVERIFY(grade(headless, ask_of(3)).error.find("pin a level") != std::string::npos);
    }
    /// Between two pins a pipe of less than a metre has their slope too.
    void a_short_pipe_between_pins_has_their_slope() {
        Project p = run(3);
        p.structures.change(2)->x = 0.8;
        RunAsk a = ask_of(2);
        a.places[0].leaving = at_level(108);
        a.places[1].arriving = at_level(107.99);
        a.places[1].leaving = at_level(107.9);
        a.places[2].arriving = at_level(107.5);
        const Graded g = grade(p, a);
        QVERIFY2(g.error.empty() && g.conflicts.empty(), g.error.c_str());
        apply(p, g.edit);
        QVERIFY(ends(p, 101) == std::pair(108.0, 107.99) && ends(p, 102) == std::pair(107.9, 107.5));
    }
    void one_pipe_is_a_run_of_one() {
        Project p = run(4);
        RunAsk a;
        a.pipes = {{102}};
        a.places.resize(2);
        a.places[0].leaving = at_level(107);
        a.places[0].slope = 0.004;
        apply(p, grade(p, a).edit);
        QVERIFY(ends(p, 102) == std::pair(107.0, 106.8));
        QVERIFY(p.pipes.find(102)->origin[*field_index(Kind::Pipe, "invert_from")] == Origin::Typed);
        QVERIFY(p.pipes.find(102)->origin[*field_index(Kind::Pipe, "invert_to")] == Origin::Proposed);
    }
    /// Crowns meet where the pipe grows; where it shrinks nothing rises.
    void matching_sets_the_fall() {
        Project p = run(4);
        p.pipes.change(102)->size = 0.6;
        p.pipes.change(103)->size = 0.3;
        const double share[] = {0, 0.8, 0.5, 1};
        for (const Matching m : {Matching::Inverts, Matching::EightTenths, Matching::Centres, Matching::Crowns}) {
            RunAsk a = ask_of(3);
            a.matching = m;
            const Graded g = grade(p, a);
            QVERIFY(close(g.places[1].fall, std::max(0.03, share[static_cast<int>(m)] * 0.3)));
            QVERIFY(close(g.places[2].fall, 0.03));
        }
        p.structures.change(2)->kind = StructureKind::Joint;
        RunAsk a = ask_of(3);
        QVERIFY(close(grade(p, a).places[1].fall, 0));
        a.places[1].drop = 0.25;
        QVERIFY(close(grade(p, a).places[1].fall, 0.25));
    }
    /// A pin at a crossing binds its pipe with those above; the next pin only those below.
    void a_pin_inside_a_pipe() {
        Project p = run(4);
        RunAsk a = ask_of(3);
        a.places[0].leaving = at_level(100);
        a.places[1].along = {{0, 20, 99.27}};  // 70 m and one fall of 0.03: 1 %
        a.places[3].arriving = at_level(98.14);
        const Graded g = grade(p, a);
        QVERIFY(close(g.places[0].slope, 0.01) && close(g.places[1].slope, 0.01));
        QVERIFY(close(g.places[2].slope, (98.97 - 0.03 - 98.14) / 50, 1e-6));
        apply(p, g.edit);
        QVERIFY(close(ends(p, 102).first - 0.01 * 20, 99.27));
    }
    /// Random runs with random pins: every pin is kept, every fall is right, pipes between the same pins have one
    /// slope.
    void random_runs_keep_what_is_pinned() {
        std::mt19937 random(3);
        const auto uniform = [&](double lo, double hi) {
            return std::uniform_real_distribution<double>(lo, hi)(random);
        };
        int pins_seen = 0, slopes_seen = 0, inside_seen = 0;
        for (int round = 0; round < 2000; ++round) {
            std::vector<ChainPipe> pipes(static_cast<std::size_t>(uniform(1, 9)));
            for (ChainPipe& c : pipes) {
                c.length = uniform(5, 120);
                c.now = uniform(-0.01, 0.03);
                c.fall = uniform(0, 1) < 0.5 ? 0 : uniform(0, 0.3);
                if (uniform(0, 1) < 0.2) c.slope = uniform(0.001, 0.02);
            }
            pipes[0].fall = 0;
            std::vector<ChainPin> pins;
            for (std::size_t i = 0; i < pipes.size(); ++i)
                if (uniform(0, 1) < 0.35 || (i + 1 == pipes.size() && pins.empty()))
                    pins.push_back({i, uniform(0, 1) < 0.6 ? 0 : uniform(0, pipes[i].length), uniform(90, 100)});
            const Chain c = grade_chain(pipes, pins);
            std::set<std::size_t> lost;
            for (const ChainClash& k : c.clashes) lost.insert(k.second);
            for (std::size_t k = 0; k < pins.size(); ++k) {
                if (lost.contains(k)) continue;
                const ChainLevel& l = c.levels[pins[k].pipe];
                QVERIFY(close(l.up - l.slope * pins[k].along, pins[k].level, 1e-9));
                ++pins_seen;
                inside_seen += pins[k].along > 0;
            }
            for (std::size_t i = 0; i < pipes.size(); ++i) {
                const ChainLevel& l = c.levels[i];
                QVERIFY(close(l.up - l.down, l.slope * pipes[i].length, 1e-9));
                if (i > 0) QVERIFY(close(c.levels[i - 1].down - l.up, pipes[i].fall, 1e-9));
                if (!std::isnan(pipes[i].slope)) {
                    QVERIFY(close(l.slope, pipes[i].slope, 1e-12));
                    ++slopes_seen;
                    continue;
                }
                if (l.above == no_pin && l.below != no_pin && pins[l.below].pipe > i)
                    QVERIFY(close(l.slope, pipes[i].now));
                if (i > 0 && std::isnan(pipes[i - 1].slope) && l.above != no_pin && l.below != no_pin &&
                    c.levels[i - 1].above == l.above && c.levels[i - 1].below == l.below && pins[l.above].pipe < i - 1)
                    QVERIFY(close(l.slope, c.levels[i - 1].slope, 1e-9));
            }
        }
        QVERIFY(pins_seen > 3000 && slopes_seen > 1500 && inside_seen > 1000);
    }
    /// The way it was drawn does not change a level.
    void drawing_direction_does_not_matter() {
        for (const bool pinned : {false, true}) {
            Project a = run(5), b = run(5, true);
            RunAsk ask = ask_of(4);
            if (pinned) {
                ask.places[1].leaving = at_level(106.2);
                ask.places[4].arriving = at_level(104.9);
            }
            apply(a, grade(a, ask).edit);
            apply(b, grade(b, ask).edit);
            for (const std::uint64_t id : {101, 102, 103, 104}) QVERIFY(ends(a, id) == ends(b, id));
        }
    }
    void levels_are_tied() {
        Project p = run(4);
        const auto tied = [&](const char* words, std::size_t place) {
            RunAsk a = ask_of(3);
            const TieRead r = read_tie(p, words);
            if (!r.tie) return not_given;
            a.places[place].leaving = r.tie;
            return grade(p, a).places[place].leaving;
        };
        QCOMPARE(tied("104.25", 1), 104.25);
        QVERIFY(close(tied("rim - 1.5", 1), 109.8 - 1.5));
        QVERIFY(close(tied("ground-2", 2), 109.6 - 2));  // no surface: its rim
        QVERIFY(close(tied("cover 1.2", 0), 110 - 1.2 - 0.05 - 0.3));
        Structure s;
        s.id = 50;
        s.name = "B1";
        s.x = 50;
        s.y = 80;
        s.rim = 111;
        p.structures.insert(s);
        Pipe q;
        q.id = 150;
        q.from = {50};
        q.to = {2};
        q.invert_from = 107;
        q.invert_to = 106;
        p.pipes.insert(q);
        QVERIFY(close(tied("B1-A2", 1), 106));
        QVERIFY(close(tied("B1–A2 - 0.05", 1), 105.95));
        QVERIFY(close(tied("B1-A2 + 0.1", 2), 106.1));  // its line is nearest at its end
        Pipe away = q;  // one that leaves A2, and one that passes it 10 m beside it, a quarter down its way
        away.id = 151;
        away.from = {2};
        away.to = {50};
        p.pipes.erase(150);
        p.pipes.insert(away);
        QVERIFY(close(tied("A2-B1", 1), 107));
        QVERIFY(close(tied("A2-B1 + 0.25", 1), 107.25));
        QVERIFY(close(tied("A2-B1 - 0.25", 1), 106.75));
        p.pipes.change(away.id)->name = "Z";  // named by a letter
        QVERIFY(close(tied("Z", 1), 107) && close(tied("Z + 0.25", 1), 107.25));
        p.pipes.change(away.id)->name.clear();
        p.structures.change(50)->x = 0;
        p.structures.change(50)->y = 10;
        Structure far = *p.structures.find(50);
        far.id = 51;
        far.name = "B2";
        far.x = 200;
        p.structures.insert(far);
        Pipe beside = q;
        beside.id = 152;
        beside.from = {50};
        beside.to = {51};
        p.pipes.insert(beside);
        QVERIFY(close(tied("B1-B2 + 0.1", 1), 107 - 0.25 + 0.1, 1e-3));
        for (const char* wrong : {"", "B9", "cover", "ground 2", "12 parsecs", "rim - nothing"})
            QVERIFY2(!read_tie(p, wrong).tie && !read_tie(p, wrong).error.empty(), wrong);
        RunAsk a = ask_of(3);
        a.every = read_tie(p, "rim - 2").tie;
        const Graded g = grade(p, a);
        for (std::size_t i = 0; i < 3; ++i) QVERIFY(close(g.places[i].leaving, g.places[i].rim - 2));
        QVERIFY(close(g.places[3].arriving, g.places[3].rim - 2));
    }
    void conflicts_name_the_pins() {
        Project p = run(4);
        const auto conflict = [&](const RunAsk& a, const char* words) {
            const Graded g = grade(p, a);
            for (const GradeConflict& c : g.conflicts)
                if (QString::fromStdString(c.words).contains(words)) return c;
            QString said;
            for (const GradeConflict& c : g.conflicts) said += QString::fromStdString(c.words) + "; ";
            qWarning("no conflict with \"%s\" in: %s", words, qPrintable(said));
            return GradeConflict{};
        };
        RunAsk a = ask_of(3);
        a.places[0].leaving = at_level(100);
        a.places[3].arriving = at_level(100.5);
        GradeConflict c = conflict(a, "does not fall");
        QCOMPARE(c.pins.size(), std::size_t{2});
        QVERIFY(c.pins[0] == "A1 leaving 100.000 m" && c.pins[1] == "A4 arriving 100.500 m");
        a.places[3].arriving = at_level(99.8);
        QCOMPARE(conflict(a, "at least 0.30 %").pins.size(), std::size_t{2});
        a.places[3].arriving = at_level(75);
        QVERIFY(!conflict(a, "at most 10.00 %").pins.empty());
        a = ask_of(3);
        a.places[1].leaving = at_level(109.7);
        QVERIFY(!conflict(a, "above the rim of A2").pins.empty());
        a.places[1].leaving = at_level(109);
        QVERIFY(!conflict(a, "of cover at A2, at least 0.90 m").pins.empty());
        a.places[1].leaving = at_level(103);
        QVERIFY(!conflict(a, "A2 is 6.80 m deep, at most 6.00 m").pins.empty());
        a = ask_of(3);
        for (std::size_t i = 0; i < 3; ++i) a.places[i].slope = 0.01;
        a.places[0].leaving = at_level(100);
        a.places[3].arriving = at_level(98);
        c = conflict(a, "0.44 m above the lower pin, which is not kept");
        QCOMPARE(c.pins.size(), std::size_t{2});
        a = ask_of(3);
        a.places[1].arriving = at_level(106);
        a.places[1].leaving = at_level(106.4);
        QVERIFY(!conflict(a, "starts 0.40 m above the end").pins.empty());
        Structure s;
        s.id = 50;
        s.name = "B1";
        s.x = 50;
        s.y = 80;
        s.rim = 111;
        p.structures.insert(s);
        Pipe q;
        q.id = 150;
        q.from = {50};
        q.to = {2};
        q.invert_from = 107;
        q.invert_to = 106;
        p.pipes.insert(q);
        a = ask_of(3);
        a.places[1].leaving = at_level(106.5);
        QCOMPARE(conflict(a, "0.50 m too low for a start at").pins, (std::vector<std::string>{"A2 leaving 106.500 m"}));
        // Of several pins the nearest on either side are named.
        a.places[0].leaving = at_level(107);
        a.places[1].leaving = {};
        a.places[2].arriving = at_level(106.4);
        a.places[3].arriving = at_level(106.1);
        QCOMPARE(conflict(a, "too low for a start at").pins,
                 (std::vector<std::string>{"A1 leaving 107.000 m", "A3 arriving 106.400 m"}));
    }
    void limits_are_those_of_the_pipe() {
        Project p = run(3);
        Limit l;
        l.id = 900;
        l.kind = LimitKind::LeastSlope;
        l.value = 0.02;
        l.element = 102;
        p.limits.insert(l);
        RunAsk a = ask_of(2);
        a.places[0].leaving = at_level(107);
        a.places[0].slope = a.places[1].slope = 0.01;
        const Graded g = grade(p, a);
        QCOMPARE(g.conflicts.size(), std::size_t{1});
        QVERIFY(g.conflicts[0].element == (ElementRef{Kind::Pipe, 102}));
    }
    void what_is_no_run_is_said() {
        Project p = run(5);
        Structure s;
        s.id = 50;
        s.name = "B1";
        s.x = 50;
        s.y = 80;
        s.rim = 111;
        p.structures.insert(s);
        Pipe q;
        q.id = 150;
        q.from = {50};
        q.to = {2};
        q.invert_from = 109;
        q.invert_to = 108.5;
        p.pipes.insert(q);
        const Network net = compile(p);
        QCOMPARE(run_through(p, net, {{Kind::Structure, 1}, {Kind::Structure, 4}}).pipes.size(), std::size_t{3});
        QCOMPARE(run_through(p, net, {{Kind::Structure, 4}, {Kind::Structure, 1}}).pipes.size(), std::size_t{3});
        QCOMPARE(run_through(p, net, {{Kind::Pipe, 150}, {Kind::Pipe, 103}}).pipes.size(), std::size_t{3});
        QCOMPARE(run_through(p, net, {{Kind::Pipe, 102}}).pipes.size(), std::size_t{1});
        const RunFound two = run_through(p, net, {{Kind::Structure, 1}, {Kind::Structure, 50}});
        QVERIFY(two.pipes.empty() && QString::fromStdString(two.error).contains("do not lie on one run"));
        QVERIFY(!run_through(p, net, {{Kind::Structure, 1}}).error.empty());
        QVERIFY(!run_between(p, net, {4}, {1}).error.empty());
        QVERIFY(run_between(p, net, {4}, {1}).pipes.empty());  // nothing to grade by mistake
        QCOMPARE(run_between(p, net, {50}, {5}).pipes.size(), std::size_t{4});
        RunAsk a;
        QVERIFY(!grade_run(p, net, a).error.empty());
        a.pipes = {{101}, {103}};
        QVERIFY(QString::fromStdString(grade_run(p, net, a).error).contains("does not follow"));
        p.pipes.change(102)->status = Status::Existing;
        QVERIFY(QString::fromStdString(grade_run(p, net, ask_of(3)).error).contains("A2–A3 is existing"));
        p.pipes.change(102)->status = Status::Proposed;
        a = ask_of(3);
        a.places[0].along = {{0, 60, 105}};
        QVERIFY(QString::fromStdString(grade_run(p, net, a).error).contains("no level at 60.00 m"));
        p.structures.change(3)->rim = not_given;
        a = ask_of(3);
        a.places[2].leaving = read_tie(p, "rim - 1").tie;
        QVERIFY(QString::fromStdString(grade_run(p, net, a).error).contains("its rim is not given"));
    }
    void undo_of_a_graded_run_is_identity() {
        Project p = run(6);
        const Project before = p;
        RunAsk a = ask_of(5);
        a.places[2].leaving = at_level(101);
        const Edit e = grade(p, a).edit;
        QVERIFY(!e.empty());
        apply(p, e);
        QVERIFY(!(p == before));
        revert(p, e);
        QVERIFY(p == before);
    }

    void a_drag_catches_on_what_meets_there() {
        Project p = run(3);
        p.pipes.change(102)->size = 0.6;
        const auto snaps = level_snaps(p, {102}, true);  // at A2: A1–A2 arrives at 107.6
        const auto catches = [&](double level, const char* words, double at) {
            const LevelSnap* s = nearest_snap(snaps, level, 0.01);
            return s && QString::fromStdString(s->words).contains(words) && close(s->level, at);
        };
        QVERIFY(catches(107.604, "invert of A1–A2", 107.6));
        QVERIFY(catches(107.303, "crown of A1–A2", 107.3));
        QVERIFY(catches(107.573, "0.03 m below the invert of A1–A2", 107.57));
        QVERIFY(catches(109.8 - 0.9 - 0.05 - 0.6, "cover 0.90 m", 108.25));
        QVERIFY(!nearest_snap(snaps, 106, 0.05));
    }
    void a_run_moves_whole() {
        Project p = run(4);
        p.pipes.change(102)->status = Status::Existing;
        const Project before = p;
        apply(p, move_run(p, {{101}, {102}, {103}}, -0.25));
        QVERIFY(close(ends(p, 101).first, ends(before, 101).first - 0.25));
        QVERIFY(close(ends(p, 103).second, ends(before, 103).second - 0.25));
        QVERIFY(ends(p, 102) == ends(before, 102));
    }
};
QTEST_GUILESS_MAIN(TestGrading)
#include "test_grading.moc"
