// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <numeric>
#include <set>

#include "core/analysis/solver.h"
#include "core/design/branches.h"
#include "core/design/layout.h"
#include "core/design/level_snaps.h"
#include "core/model/lay.h"
#include "support/networks.h"

using namespace culvert;

namespace {

Structure structure(std::uint64_t id, const char* name, double x, double y, double rim,
                    StructureKind kind = StructureKind::Manhole) {
    Structure s;
    s.id = id;
    s.name = name;
    s.x = x;
    s.y = y;
    s.rim = rim;
    s.kind = kind;
    return s;
}
Pipe pipe(std::uint64_t id, std::uint64_t from, std::uint64_t to, double up, double down) {
    Pipe p;
    p.id = id;
    p.from = {from};
    p.to = {to};
    p.size = 0.3;
    p.invert_from = up;
    p.invert_to = down;
    return p;
}
double ground(Point p) { return 20 - 0.02 * p.x; }
/// Excavation by slices along the pipe, from the ground line between the rims to the trench bottom.
double sliced_trench(const Project& project, const Pipe& p) {
    const Structure &a = *project.structures.find(p.from.value), &b = *project.structures.find(p.to.value);
    const double width = p.size + 2 * p.wall + 0.6, length = length_of(project, p);
    double v = 0;
    constexpr int n = 1000;
    for (int i = 0; i < n; ++i) {
        const double t = (i + 0.5) / n;
        v += ((a.rim + t * (b.rim - a.rim)) - (p.invert_from + t * (p.invert_to - p.invert_from)) + p.wall + 0.1) *
             width * length / n;
    }
    return v;
}

}  // namespace

/// Splitting, merging, reversing, lines to pipes, exchanging kinds, and what mends a branch at the wrong level.
class TestLayout : public QObject {
    Q_OBJECT
  private slots:
    void a_split_pipe_keeps_its_line_and_its_levels() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 20));
        p.structures.insert(structure(2, "A2", 60, 40, 19));
        Pipe bent = pipe(5, 1, 2, 18, 17);
        bent.bends = {{60, 0}};
        bent.name = "main";
        p.pipes.insert(bent);
        for (const double station : {10.0, 59.0, 60.0, 61.0, 95.0}) {
            StructureId made;
            Project q = p;
            apply(q, split_pipe(p, {5}, station, StructureKind::Manhole, {}, &made));
            QCOMPARE(q.pipes.size(), std::size_t{2});
            const Structure& s = *q.structures.find(made.value);
            const Pipe& up = *q.pipes.find(5);
            const Pipe* down = nullptr;
            for (const Pipe& x : q.pipes)
                if (x.id != 5) down = &x;
            QCOMPARE(up.to, made);
            QCOMPARE(down->from, made);
            QCOMPARE(down->to, bent.to);
            QVERIFY(up.name == "main" && up.foreign == bent.foreign && down->name.empty() && down->foreign.empty());
            QVERIFY(std::abs(drawn_length(q, up) - station) < 2e-3);
            QVERIFY(std::abs(drawn_length(q, up) + drawn_length(q, *down) - 100) < 2e-3);
            QCOMPARE(up.invert_to, down->invert_from);
            QVERIFY(std::abs(up.invert_to - (18 - station / 100)) < 1e-3);
            QVERIFY(std::abs(s.rim - (20 - station / 100)) < 1e-3);
            // Merged again it is what it was, but for the bend where the structure stood.
            Project r = q;
            apply(r, merge_at(q, made));
            QCOMPARE(r.pipes.size(), std::size_t{1});
            QVERIFY(std::abs(drawn_length(r, *r.pipes.begin()) - 100) < 2e-3);
            QCOMPARE(r.pipes.begin()->invert_from, 18.0);
            QCOMPARE(r.pipes.begin()->invert_to, 17.0);
        }
        QVERIFY(split_pipe(p, {5}, 0, StructureKind::Manhole, {}).empty());
        QVERIFY(split_pipe(p, {5}, 100, StructureKind::Manhole, {}).empty());
        QVERIFY(split_pipe(p, {99}, 1, StructureKind::Manhole, {}).empty());
        // Its rim comes from the ground where there is one.
        StructureId made;
        Project q = p;
        apply(q, split_pipe(p, {5}, 30, StructureKind::Joint, ground, &made));
        QVERIFY(std::abs(q.structures.find(made.value)->rim - 19.4) < 1e-9);
        QCOMPARE(q.structures.find(made.value)->kind, StructureKind::Joint);
    }
    void a_merge_that_would_lose_something_is_refused() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 20));
        p.structures.insert(structure(2, "A2", 50, 0, 20));
        p.structures.insert(structure(3, "A3", 100, 0, 20, StructureKind::Outfall));
        p.pipes.insert(pipe(5, 1, 2, 18, 17.5));
        p.pipes.insert(pipe(6, 3, 2, 17, 17.5));  // drawn from the other side
        std::string why;
        Project q = p;
        apply(q, merge_at(p, {2}, &why));
        QCOMPARE(q.pipes.size(), std::size_t{1});
        QCOMPARE(q.pipes.find(5)->to.value, std::uint64_t{3});
        QCOMPARE(q.pipes.find(5)->invert_to, 17.0);
        const auto refused = [&](auto change, const char* word) {
            Project r = p;
            change(r);
            why.clear();
            const bool empty = merge_at(r, {2}, &why).empty();
            return empty && why.find(word) != std::string::npos;
        };
        QVERIFY(refused([](Project& r) { r.pipes.change(6)->size = 0.45; }, "different sections"));
        QVERIFY(refused([](Project& r) { r.pipes.change(6)->material = "steel"; }, "different sections"));
        QVERIFY(refused([](Project& r) { r.pipes.change(6)->barrels = 2; }, "different sections"));
        QVERIFY(refused([](Project& r) { r.pipes.change(6)->roughness = 0.02; }, "different sections"));
        QVERIFY(refused([](Project& r) { r.pipes.change(6)->shape = Shape::Egg; }, "different sections"));
        QVERIFY(refused(
            [](Project& r) {
                for (const std::uint64_t id : {5, 6}) {
                    r.pipes.change(id)->shape = Shape::Box;
                    r.pipes.change(id)->width = id == 5 ? 0.4 : 0.5;
                }
            },
            "different sections"));
        QVERIFY(refused([](Project& r) { r.pipes.change(6)->from = {1}; }, "lead to the same structure"));
        QVERIFY(refused(
            [](Project& r) {
                Pond row;
                row.id = 9;
                row.structure = {2};
                r.ponds.insert(row);
            },
            "has storage"));
        QVERIFY(refused(
            [](Project& r) {
                PondOutlet row;
                row.id = 9;
                row.to = {2};
                r.outlets.insert(row);
            },
            "an outlet leads to A2"));
        QVERIFY(refused([](Project& r) { r.structures.change(2)->kind = StructureKind::Outfall; }, "is an outfall"));
        QVERIFY(refused([](Project& r) { r.structures.erase(2); }, "no such structure"));
        QVERIFY(refused([](Project& r) { r.structures.change(2)->known_flow = 0.01; }, "known flow"));
        QVERIFY(refused([](Project& r) { r.pipes.erase(6); }, "1 pipe:"));
        QVERIFY(refused(
            [](Project& r) {
                Catchment c;
                c.id = 8;
                c.name = "Yard";
                c.structure = {2};
                r.catchments.insert(c);
            },
            "Yard"));
        QVERIFY(merge_at(p, {3}, &why).empty());
    }
    /// A tie belongs to an end of a pipe, however the pipe is drawn or cut.
    void ties_stay_with_their_ends() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 20));
        p.structures.insert(structure(2, "A2", 100, 0, 19));
        Pipe tied = pipe(5, 1, 2, 18, 17);
        tied.tie_from = "cover 1.2";
        tied.tie_to = "ground - 2";
        p.pipes.insert(tied);
        Project q = p;
        apply(q, reverse_pipe(p, {5}));
        QCOMPARE(q.pipes.find(5)->tie_from, std::string("ground - 2"));
        QCOMPARE(q.pipes.find(5)->tie_to, std::string("cover 1.2"));
        apply(q, reverse_pipe(q, {5}));
        QCOMPARE(q.pipes.find(5)->tie_from, tied.tie_from);
        QCOMPARE(q.pipes.find(5)->tie_to, tied.tie_to);
        StructureId made;
        apply(q, split_pipe(q, {5}, 30, StructureKind::Manhole, {}, &made));
        for (const Pipe& part : q.pipes) {
            QCOMPARE(part.tie_from, std::string(part.from.value == 1 ? "cover 1.2" : ""));
            QCOMPARE(part.tie_to, std::string(part.to.value == 2 ? "ground - 2" : ""));
        }
        for (const int turn : {0, 1, 2, 3}) {  // none, the upper, the lower part, both
            Project r = q;
            for (const Pipe& part : q.pipes)
                if (turn & (part.id == 5 ? 1 : 2)) apply(r, reverse_pipe(r, {part.id}));
            apply(r, merge_at(r, made));
            QCOMPARE(r.pipes.size(), std::size_t{1});
            const Pipe& one = *r.pipes.begin();
            QCOMPARE(one.from.value == 1 ? one.tie_from : one.tie_to, std::string("cover 1.2"));
            QCOMPARE(one.from.value == 1 ? one.tie_to : one.tie_from, std::string("ground - 2"));
        }
    }
    void lengths_that_were_entered_are_parted_and_joined() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 20));
        p.structures.insert(structure(2, "A2", 100, 0, 19));
        Pipe long_one = pipe(5, 1, 2, 18, 17);
        long_one.length = 110;
        p.pipes.insert(long_one);
        StructureId made;
        apply(p, split_pipe(p, {5}, 25, StructureKind::Manhole, {}, &made));
        for (const Pipe& part : p.pipes) QVERIFY(std::abs(part.length - (part.from.value == 1 ? 27.5 : 82.5)) < 1e-9);
        Project q = p;
        q.pipes.change(5)->length = not_given;  // one of them as drawn: 25 m
        apply(p, merge_at(p, made));
        QCOMPARE(p.pipes.begin()->length, 110.0);
        apply(q, merge_at(q, made));
        QCOMPARE(q.pipes.begin()->length, 107.5);
    }
    void reversing_twice_is_nothing_and_water_does_not_mind() {
        for (unsigned seed = 1; seed <= 10; ++seed) {
            const Project p = testing::random_project({.pipes = 20, .seed = seed});
            Project q = p;
            for (const Pipe& row : p.pipes) apply(q, reverse_pipe(q, {row.id}));
            const Results a = solve(p), b = solve(q);
            QCOMPARE(a.size(), b.size());
            for (std::size_t e = 0; e < a.size(); ++e)
                for (const Structure& s : p.structures) {
                    const int i = a[e]->network->node_of(StructureId{s.id}),
                              j = b[e]->network->node_of(StructureId{s.id});
                    QCOMPARE(i == no_node, j == no_node);
                    if (i == no_node) continue;
                    const double x = a[e]->nodes[static_cast<std::size_t>(i)].level.level,
                                 y = b[e]->nodes[static_cast<std::size_t>(j)].level.level;
                    QVERIFY(x == y || (std::isnan(x) && std::isnan(y)));
                }
            for (const Pipe& row : p.pipes) {
                apply(q, reverse_pipe(q, {row.id}));
                QCOMPARE(q.pipes.find(row.id)->from, row.from);
                QCOMPARE(q.pipes.find(row.id)->invert_from, row.invert_from);
            }
        }
    }
    void lines_become_pipes_joined_at_their_ends_and_split_where_they_touch() {
        const Project p = new_project(UnitSystem::Si);
        // A main in two lines whose ends nearly meet, a branch that ends on its middle, a bent line, a dot, a double.
        const std::vector<std::vector<Point>> lines{{{100, 0}, {50, 0}},    {{50.03, 0.02}, {0, 0}},
                                                    {{75, 40}, {75, 0.04}}, {{0, 0}, {-20, 10}, {-40, 10}},
                                                    {{3, 3}, {3, 3.01}},    {{50, 0}, {100, 0}}};
        const FromLines made = pipes_from_lines(p, lines, 0.1, ground);
        Project q = p;
        apply(q, made.edit);
        QCOMPARE(made.structures, std::size_t{6});  // 100, 75, 50, 0, the branch's head, the end of the bent line
        QCOMPARE(made.pipes, std::size_t{5});
        QCOMPARE(q.structures.size(), made.structures);
        QCOMPARE(q.pipes.size(), made.pipes);
        std::set<std::string> names;
        for (const Structure& s : q.structures) {
            QVERIFY(names.insert(s.name).second);
            QVERIFY(std::abs(s.rim - ground({s.x, s.y})) < 1e-3);
        }
        int bends = 0;
        double whole = 0;
        for (const Pipe& row : q.pipes) whole += length_of(q, row);
        QVERIFY(std::abs(whole - (100 + 40 + std::hypot(20, 10) + 20)) < 0.15);  // no part is lost
        for (const Pipe& row : q.pipes) {
            const Structure &a = *q.structures.find(row.from.value), &b = *q.structures.find(row.to.value);
            QVERIFY(a.rim >= b.rim);  // from the higher to the lower ground
            bends += static_cast<int>(row.bends.size());
            QVERIFY(std::isfinite(row.invert_from) && std::isfinite(row.invert_to));
        }
        QCOMPARE(bends, 1);
        // Cut once, from either end, a line leaves both its parts.
        for (const bool turned : {false, true}) {
            std::vector<Point> main{{100, 0}, {50, 0}};
            if (turned) std::reverse(main.begin(), main.end());
            Project cut = p;
            apply(cut, pipes_from_lines(p, {main, {{75, 40}, {75, 0}}}, 0.1, ground).edit);
            QCOMPARE(cut.pipes.size(), std::size_t{3});
            double all = 0;
            for (const Pipe& row : cut.pipes) all += length_of(cut, row);
            QVERIFY(std::abs(all - 90) < 1e-6);
        }
        // Cut at its corner it has no corner left.
        Project corner = p;
        apply(corner, pipes_from_lines(p, {{{0, 0}, {50, 0}, {50, 40}}, {{50, 0}, {90, -20}}}, 0.1, ground).edit);
        QCOMPARE(corner.pipes.size(), std::size_t{3});
        for (const Pipe& row : corner.pipes) QVERIFY(row.bends.empty());
        // The order and the direction of lines do not matter.
        auto other = lines;
        std::reverse(other.begin(), other.end());
        for (auto& l : other) std::reverse(l.begin(), l.end());
        const FromLines again = pipes_from_lines(p, other, 0.1, ground);
        QCOMPARE(again.pipes, made.pipes);
        QCOMPARE(again.structures, made.structures);
        // On top of what is there: nothing new.
        QVERIFY(pipes_from_lines(q, lines, 0.1, ground).edit.empty());
    }
    /// A line of three legs is cut where a structure stands on its second and where another line ends on its third.
    void lines_are_cut_on_whatever_leg() {
        for (const bool turned : {false, true}) {
            Project p = new_project(UnitSystem::Si);
            p.structures.insert(structure(1, "A1", 50.03, 20, 19));
            Structure nowhere = structure(2, "A2", not_given, not_given, 19);
            p.structures.insert(nowhere);
            std::vector<Point> main{{0, 0}, {50, 0}, {50, 60}, {90, 60}};
            if (turned) std::reverse(main.begin(), main.end());
            const FromLines made = pipes_from_lines(p, {main, {{80, 90}, {80, 60}}}, 0.1, ground);
            QCOMPARE(made.pipes, std::size_t{4});
            QCOMPARE(made.structures, std::size_t{4});
            apply(p, made.edit);
            std::multiset<long> lengths;
            for (const Pipe& row : p.pipes) {
                lengths.insert(std::lround(length_of(p, row)));
                QCOMPARE(row.bends.size(), std::size_t(lengths.count(70) && std::lround(length_of(p, row)) == 70));
            }
            QVERIFY((lengths == std::multiset<long>{10, 30, 70, 70}));
        }
    }
    /// Ends within the tolerance are one place, wherever they lie on the plane and in whatever direction.
    void ends_meet_within_any_tolerance() {
        for (const double near : {0.05, 0.5, 2.0, 7.0})
            for (int k = 0; k < 60; ++k) {
                const double a = 0.37 * k, x = 300 + 1.3 * k, y = 200 - 0.7 * k;
                const auto two = [&](double apart) {
                    const Point from{x, y}, to{x + apart * std::cos(a), y + apart * std::sin(a)};
                    const std::vector<Point> up{{x - 60 * std::cos(a), y - 60 * std::sin(a)}, from},
                        down{to, {to.x + 60 * std::cos(a), to.y + 60 * std::sin(a)}};
                    return pipes_from_lines(new_project(UnitSystem::Si), {up, down}, near, {}).structures;
                };
                QCOMPARE(two(0.95 * near), std::size_t{3});
                QCOMPARE(two(1.05 * near), std::size_t{4});
            }
    }
    void moved_along_a_street_its_station_and_offset_follow() {
        Project p = new_project(UnitSystem::Si);
        Street s;
        s.id = 70;
        s.line = {{0, 0}, {100, 0}};
        p.streets.insert(s);
        Structure a = structure(1, "A1", 30, -3, 20);
        a.street = {70};
        a.station = 30;
        a.offset = 3;
        p.structures.insert(a);
        apply(p, move_structures(p, {{1}}, {10, -2}, ground));
        QCOMPARE(p.structures.find(1)->station, 40.0);
        QCOMPARE(p.structures.find(1)->offset, 5.0);
    }
    /// What a dragged end catches on, each level by hand: of a pipe that arrives, of one that begins there.
    void levels_to_catch_on() {
        Project p = new_project(UnitSystem::Si);
        for (std::uint64_t i = 1; i <= 4; ++i)
            p.structures.insert(structure(i, ("A" + std::to_string(i)).c_str(), 40.0 * double(i), 0, 20));
        p.settings_rows.change(settings_id)->default_drop = 0.05;
        p.pipes.insert(pipe(11, 1, 2, 18, 17.5));
        p.pipes.insert(pipe(12, 2, 3, 17.4, 17));
        p.pipes.insert(pipe(13, 3, 4, 16, 15.5));  // ends elsewhere
        Pipe own = pipe(14, 2, 4, 17.3, 17);
        own.size = 0.5;
        own.wall = 0.06;
        p.pipes.insert(own);
        const auto is = [](const std::vector<LevelSnap>& list, std::map<std::string, double> levels) {
            if (list.size() != levels.size()) return false;
            for (const LevelSnap& s : list)
                if (!levels.contains(s.words) || std::abs(levels[s.words] - s.level) > 1e-9) return false;
            return true;
        };
        const auto start = level_snaps(p, {14}, true);
        QVERIFY(is(start, {{"invert of A1–A2", 17.5},
                           {"crown of A1–A2", 17.3},
                           {"0.05 m below the invert of A1–A2", 17.45},
                           {"0.05 m above the invert of A1–A2", 17.55},
                           {"invert of A2–A3", 17.4},
                           {"crown of A2–A3", 17.2},
                           {"0.05 m below the invert of A2–A3", 17.35},
                           {"0.05 m above the invert of A2–A3", 17.45},
                           {"cover 0.90 m", 20 - 0.9 - 0.06 - 0.5}}));
        QVERIFY(is(level_snaps(p, {14}, false), {{"invert of A3–A4", 15.5},
                                                 {"crown of A3–A4", 15.3},
                                                 {"0.05 m below the invert of A3–A4", 15.45},
                                                 {"0.05 m above the invert of A3–A4", 15.55},
                                                 {"cover 0.90 m", 18.54}}));
        QVERIFY(level_snaps(p, {99}, true).empty());
        QCOMPARE(nearest_snap(start, 17.43, 0.05)->level, 17.45);
        QCOMPARE(nearest_snap(start, 17.42, 0.05)->level, 17.4);
        QVERIFY(!nearest_snap(start, 17.7, 0.05));
        p.settings_rows.change(settings_id)->default_drop = 0;
        QCOMPARE(level_snaps(p, {14}, true).size(), std::size_t{5});
        // A run moved as a whole; what exists stays, and what has no level has none.
        p.pipes.change(12)->status = Status::Existing;
        p.pipes.change(13)->invert_to = not_given;
        apply(p, move_run(p, {{11}, {12}, {13}}, -0.25));
        QVERIFY(p.pipes.find(11)->invert_from == 17.75 && p.pipes.find(11)->invert_to == 17.25);
        QVERIFY(p.pipes.find(12)->invert_from == 17.4 && p.pipes.find(13)->invert_from == 15.75);
        QVERIFY(std::isnan(p.pipes.find(13)->invert_to));
    }
    void low_points_get_inlets_where_none_stands() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 20));
        Project q = p;
        apply(q, inlets_at(p, {{0.5, 0.5}, {30, 0}, {30.2, 0}, {60, 5}}, 1, ground));
        QCOMPARE(q.structures.size(), std::size_t{3});
        for (const Structure& s : q.structures)
            if (s.id != 1) QCOMPARE(s.kind, StructureKind::Inlet);
    }
    void moving_reads_ground_levels_anew_and_leaves_typed_ones() {
        Project p = new_project(UnitSystem::Si);
        Structure a = structure(1, "A1", 0, 0, 20), b = structure(2, "A2", 50, 0, 25);
        a.origin[*field_index(Kind::Structure, "rim")] = Origin::Ground;
        b.origin[*field_index(Kind::Structure, "rim")] = Origin::Typed;
        p.structures.insert(a);
        p.structures.insert(b);
        Pipe laid = laid_pipe(p, {1}, {2});
        p.pipes.insert(laid);
        Project q = p;
        apply(q, move_structures(p, {{1}, {2}}, {10, 0}, ground));
        QVERIFY(std::abs(q.structures.find(1)->rim - 19.8) < 1e-9);
        QCOMPARE(q.structures.find(2)->rim, 25.0);
        QVERIFY(std::abs(laid.invert_from - q.pipes.find(laid.id)->invert_from - 0.2) < 1e-3);
    }
    void kinds_are_exchanged_by_a_table() {
        Project p = new_project(UnitSystem::Si);
        std::string other, mine = p.sizes.begin()->material;
        for (const PipeSize& s : p.sizes)
            if (s.material != mine) other = s.material;
        QVERIFY(!other.empty());
        p.structures.insert(structure(1, "A1", 0, 0, 20));
        p.structures.insert(structure(2, "A2", 50, 0, 20));
        Pipe a = pipe(5, 1, 2, 18, 17.5);
        a.material = mine;
        a.size = 0.301;  // between two sizes: the next that is not smaller
        p.pipes.insert(a);
        const std::string type = p.structure_types.begin()->name;
        SwapOutcome out = swap_kinds(p, {{"", type}}, {{mine, other}});
        QCOMPARE(out.structures, std::size_t{2});
        QCOMPARE(out.pipes, std::size_t{1});
        // A shape that the other kind has not is said, and ends nothing.
        Project box = p;
        Pipe odd = a;
        odd.id = 4;
        odd.shape = Shape::Box;
        box.pipes.insert(odd);
        const SwapOutcome round = swap_kinds(box, {}, {{mine, other}});
        QCOMPARE(round.pipes, std::size_t{1});
        QVERIFY(round.remarks.size() == 1 && round.remarks[0].find("of the shape of") != std::string::npos);
        // A type that is not there is said, and ends nothing.
        p.structures.change(1)->type = "old";
        const SwapOutcome partly = swap_kinds(p, {{"old", "no such type"}, {"", type}}, {});
        QCOMPARE(partly.structures, std::size_t{1});
        QVERIFY(partly.remarks.size() == 1 && partly.remarks[0].find("no such type") != std::string::npos);
        p.structures.change(1)->type.clear();
        Project q = p;
        apply(q, out.edit);
        QCOMPARE(q.pipes.find(5)->material, other);
        QCOMPARE(q.structures.find(1)->type, type);
        QCOMPARE(q.structures.find(1)->kind, p.structure_types.begin()->kind);
        // The next size that is not smaller, with all that belongs to it.
        const PipeSize* next = nullptr;
        for (const PipeSize& s : p.sizes)
            if (s.material == other && s.shape == Shape::Circular && s.size >= 0.301 && (!next || s.size < next->size))
                next = &s;
        QVERIFY(next && q.pipes.find(5)->size == next->size && q.pipes.find(5)->roughness == next->roughness &&
                q.pipes.find(5)->wall == next->wall);
        QCOMPARE(q.pipes.find(5)->origin[*field_index(Kind::Pipe, "size")], Origin::Catalogue);
        QVERIFY(out.remarks.empty());
        // None is as large: the largest, and it is said.
        Project huge = p;
        huge.pipes.change(5)->size = 9;
        out = swap_kinds(huge, {}, {{mine, other}});
        apply(huge, out.edit);
        double largest = 0;
        for (const PipeSize& s : p.sizes)
            if (s.material == other && s.shape == Shape::Circular) largest = std::max(largest, s.size);
        QCOMPARE(huge.pipes.find(5)->size, largest);
        QVERIFY(out.remarks.size() == 1 && out.remarks[0].find("smaller than it was") != std::string::npos);
        out = swap_kinds(p, {{"", "of no catalogue"}}, {});
        QVERIFY(out.edit.empty() && out.remarks.size() == 1 && out.structures == 0);
        // A structure becomes what its new type is.
        for (const StructureType& t : p.structure_types) {
            Project turned = p;
            turned.structures.change(1)->kind = StructureKind::Joint;
            apply(turned, swap_kinds(turned, {{"", t.name}}, {}).edit);
            QCOMPARE(turned.structures.find(1)->kind, t.kind);
        }
        // An outfall or a pond that gets a type stays one.
        for (const StructureKind kind : {StructureKind::Outfall, StructureKind::Pond}) {
            Project end = p;
            end.structures.change(2)->kind = kind;
            apply(end, swap_kinds(end, {{"", type}}, {}).edit);
            QCOMPARE(end.structures.find(2)->kind, kind);
            QCOMPARE(end.structures.find(2)->type, type);
        }
        // Only the chosen ones; an unknown kind is said.
        out = swap_kinds(p, {{"", type}}, {}, {{Kind::Structure, 2}});
        QCOMPARE(out.structures, std::size_t{1});
        out = swap_kinds(p, {}, {{mine, "glass"}});
        QVERIFY(out.edit.empty() && out.remarks.size() == 1 && out.remarks[0].find("glass") != std::string::npos);
    }
    void trench_volume_is_that_of_slices() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 21));
        p.structures.insert(structure(2, "A2", 80, 0, 19.5));
        const Pipe row = pipe(5, 1, 2, 18.3, 17.4);
        QVERIFY(std::abs(trench_volume(p, row) / sliced_trench(p, row) - 1) < 1e-9);
    }
    void a_branch_that_arrives_too_low_gets_priced_ways_out() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 20));
        p.structures.insert(structure(2, "A2", 60, 0, 19.6));
        p.structures.insert(structure(3, "A3", 120, 0, 19));
        p.structures.insert(structure(4, "A4", 180, 0, 17, StructureKind::Outfall));
        p.structures.insert(structure(6, "B1", 60, 50, 20));
        p.pipes.insert(pipe(11, 1, 2, 18.4, 18.0));
        p.pipes.insert(pipe(12, 2, 3, 17.95, 17.4));
        p.pipes.insert(pipe(13, 3, 4, 17.35, 15.0));
        p.pipes.insert(pipe(14, 6, 2, 18.0, 17.5));
        const BranchLevels levels = branch_levels(p, {14});
        QVERIFY(levels.low);
        QVERIFY(std::abs(levels.gap - (17.95 + p.settings().default_drop - 17.5)) < 1e-9);
        QVERIFY(levels.alternatives.size() >= 3);
        std::set<std::string> kinds;
        for (const BranchAlternative& a : levels.alternatives) {
            kinds.insert(a.text.substr(0, a.text.find(' ')));
            Project q = p;
            apply(q, a.edit);
            // Its price is the trench volume added, by an independent sum over every pipe.
            double before = 0, after = 0;
            for (const Pipe& row : p.pipes) before += sliced_trench(p, row);
            for (const Pipe& row : q.pipes) after += sliced_trench(q, row);
            QVERIFY2(std::abs(after - before - a.excavation) < 1e-6, qPrintable(QString::fromStdString(a.text)));
            QVERIFY(std::abs(a.cost - a.excavation * p.settings().excavation_price) < 1e-6);
            // And it mends what it is for.
            const BranchLevels now = branch_levels(q, {14});
            QVERIFY2(!now.low, qPrintable(QString::fromStdString(a.text)));
            // Nothing else comes to stand adverse.
            for (const Pipe& row : q.pipes) QVERIFY(row.invert_from >= row.invert_to);
        }
        QVERIFY(kinds.contains("raise") && kinds.contains("lead") && kinds.contains("lower"));
        // Whether the outfall lies lower too is said: not where the fall on the way suffices, but where it does not.
        const auto outfall_said = [](const BranchLevels& l) {
            for (const BranchAlternative& a : l.alternatives)
                if (a.text.starts_with("lower"))
                    return a.text.find("the outfall would lie lower too") != std::string::npos;
            return false;
        };
        QVERIFY(!outfall_said(levels));
        Project flat = p;
        flat.pipes.change(13)->invert_to = 17.25;
        QVERIFY(outfall_said(branch_levels(flat, {14})));
        // Without a least slope a lowered pipe falls as it did, but no more than the project's usual slope asks.
        Project free = p;
        for (const Limit& l : p.limits)
            if (l.kind == LimitKind::LeastSlope) free.limits.change(l.id)->active = false;
        free.pipes.change(12)->invert_to = 17.95 - 0.004 * 60;  // flatter than the usual 1 %
        for (const double usual : {0.01, 0.002}) {
            free.settings_rows.change(settings_id)->default_slope = usual;
            for (const BranchAlternative& a : branch_levels(free, {14}).alternatives) {
                if (!a.text.starts_with("lower")) continue;
                Project q = free;
                apply(q, a.edit);
                const Pipe &now = *q.pipes.find(12), &was = *free.pipes.find(12);
                QVERIFY(now.invert_from < was.invert_from - 1e-9 && now.invert_to < was.invert_to - 1e-9);
                QVERIFY2(std::abs((now.invert_from - now.invert_to) / 60 - std::min(0.004, usual)) < 3e-5,
                         qPrintable(QString::number((now.invert_from - now.invert_to) / 60)));
            }
        }
        for (std::size_t i = 1; i < levels.alternatives.size(); ++i)
            if (levels.alternatives[i].keeps_cover == levels.alternatives[i - 1].keeps_cover)
                QVERIFY(levels.alternatives[i].excavation >= levels.alternatives[i - 1].excavation);
        // The same, drawn from the other end.
        Project turned = p;
        apply(turned, reverse_pipe(p, {14}));
        const BranchLevels other = branch_levels(turned, {14});
        QCOMPARE(other.alternatives.size(), levels.alternatives.size());
        for (std::size_t i = 0; i < other.alternatives.size(); ++i)
            QVERIFY(std::abs(other.alternatives[i].excavation - levels.alternatives[i].excavation) < 1e-9);
        // High enough: nothing to mend; much too high: a drop, or a steeper branch.
        p.pipes.change(14)->invert_to = 17.95 + p.settings().default_drop;
        QVERIFY(!branch_levels(p, {14}).low && branch_levels(p, {14}).alternatives.empty());
        p.pipes.change(14)->invert_from = 18.9;
        p.pipes.change(14)->invert_to = 18.4;
        QVERIFY(branch_levels(p, {14}).high);
        QVERIFY(!branch_levels(p, {14}).alternatives.empty());
        QVERIFY(branch_levels(p, {13}).alternatives.empty());  // into the outfall
    }
};

QTEST_APPLESS_MAIN(TestLayout)
#include "test_layout.moc"
