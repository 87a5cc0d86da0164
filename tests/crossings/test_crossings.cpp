// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <map>
#include <random>

#include "core/review/clashes.h"

using namespace culvert;

namespace {

SpaceLine random_line(std::mt19937& random, double size, double step) {
    const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    SpaceLine l;
    l.half_width = l.half_height = uniform(0.05, 0.6);
    SpacePoint at{uniform(0, size), uniform(0, size), uniform(0, 6)};
    for (int i = 0; i < 4; ++i) {
        l.points.push_back(at);
        at = {at.x + uniform(-step, step), at.y + uniform(-step, step), at.z + uniform(-1, 1)};
    }
    return l;
}

/// A pipe A1–A2 of 100 m along x at y = 0, 0.4 m wide inside, walls 0.05 m, inverts 100 and 99; a water main across it.
Project across(double main_top) {
    Project p = new_project(UnitSystem::Si);
    for (int i = 0; i < 2; ++i) {
        Structure s;
        s.id = static_cast<std::uint64_t>(i) + 1;
        s.name = i ? "A2" : "A1";
        s.kind = i ? StructureKind::Outfall : StructureKind::Manhole;
        s.x = 100 * i;
        s.y = 0;
        s.rim = 103;
        p.structures.insert(s);
    }
    Pipe q;
    q.id = 11;
    q.from = {1};
    q.to = {2};
    q.size = 0.4;
    q.wall = 0.05;
    q.invert_from = 100;
    q.invert_to = 99;
    p.pipes.insert(q);
    BuriedLine w;
    w.id = 21;
    w.name = "W1";
    w.kind = LineKind::Water;
    w.line = {{40, -20}, {40, 20}};
    w.levels = {main_top};
    w.size = 0.2;
    p.buried_lines.insert(w);
    for (const Clearance& c : p.clearances)
        if (c.kind == LineKind::Water) p.clearances.change(c.id)->vertical = 0.3;
    return p;
}

}  // namespace

/// Lines in space, their gaps, and what the clearances make of them.
class TestCrossings : public QObject {
    Q_OBJECT
  private slots:
    /// Every crossing in plan, and no other: against all pairs of all segments.
    void crossings_are_those_of_all_pairs() {
        for (unsigned seed = 1; seed <= 30; ++seed) {
            std::mt19937 random(seed);
            std::vector<SpaceLine> a, b;
            for (int i = 0; i < 40; ++i) a.push_back(random_line(random, 100, 30));
            for (int i = 0; i < 40; ++i) b.push_back(random_line(random, 100, 30));
            std::map<std::pair<std::size_t, std::size_t>, int> brute, found;
            for (std::size_t i = 0; i < a.size(); ++i)
                for (std::size_t k = 0; k < b.size(); ++k)
                    for (std::size_t s = 0; s + 1 < a[i].points.size(); ++s)
                        for (std::size_t t = 0; t + 1 < b[k].points.size(); ++t) {
                            const auto &p = a[i].points[s], &q = a[i].points[s + 1], &u = b[k].points[t],
                                       &v = b[k].points[t + 1];
                            // Orientation, not the parametric form that the search uses.
                            const auto turn = [](auto& x, auto& y, auto& z) {
                                return (y.x - x.x) * (z.y - x.y) - (y.y - x.y) * (z.x - x.x);
                            };
                            if (turn(p, q, u) * turn(p, q, v) < 0 && turn(u, v, p) * turn(u, v, q) < 0) ++brute[{i, k}];
                        }
            for (const NearPlace& n : near_places(a, b, 0.5)) {
                if (!n.crosses) continue;
                ++found[{n.first, n.second}];
                // On both lines at once.
                const auto level = [](const SpaceLine& l, double along) {
                    for (std::size_t s = 0;; ++s) {
                        const auto &x = l.points[s], &y = l.points[s + 1];
                        const double length = std::hypot(y.x - x.x, y.y - x.y);
                        if (along <= length + 1e-9) return x.z + along / length * (y.z - x.z);
                        along -= length;
                    }
                };
                const double gap = std::abs(level(a[n.first], n.along_first) - level(b[n.second], n.along_second)) -
                                   a[n.first].half_height - b[n.second].half_height;
                QVERIFY(std::abs(gap - n.vertical) < 1e-9);
            }
            QVERIFY(brute == found);
        }
    }
    /// Gaps of lines that do not cross: against points strewn along both.
    void gaps_beside_are_the_least_of_the_corners() {
        SpaceLine a, b;
        a.points = {{0, 0, 10}, {100, 0, 9}};
        b.points = {{10, 2, 10.2}, {90, 2, 12}};
        a.half_width = a.half_height = 0.3;
        b.half_width = b.half_height = 0.2;
        const auto near = near_places(std::vector{a}, std::vector{b}, 2);
        QCOMPARE(near.size(), std::size_t{1});
        QVERIFY(!near[0].crosses);
        QVERIFY(std::abs(near[0].horizontal - 1.5) < 1e-12);
        QVERIFY(std::abs(near[0].vertical - (10.2 - 9.9 - 0.5)) <
                1e-12);  // at the end where they are nearest in height
        QVERIFY(near_places(std::vector{a}, std::vector{b}, 1.4).empty());
    }
    /// Neither the order of the lists nor the drawing direction changes what is found.
    void direction_and_order_do_not_matter() {
        std::mt19937 random(5);
        std::vector<SpaceLine> a, b;
        for (int i = 0; i < 60; ++i)
            a.push_back(random_line(random, 100, 30)), b.push_back(random_line(random, 100, 30));
        auto turned = b;
        for (SpaceLine& l : turned) std::reverse(l.points.begin(), l.points.end());
        const auto x = near_places(a, b, 1), y = near_places(a, turned, 1), z = near_places(b, a, 1);
        QVERIFY(x.size() > 50);
        QCOMPARE(x.size(), y.size());
        QCOMPARE(x.size(), z.size());
        double sum_x = 0, sum_y = 0, sum_z = 0;
        for (std::size_t i = 0; i < x.size(); ++i)
            sum_x += x[i].vertical, sum_y += y[i].vertical, sum_z += z[i].vertical;
        QVERIFY(std::abs(sum_x - sum_y) < 1e-6 && std::abs(sum_x - sum_z) < 1e-6);
        std::vector<SpaceLine> both = a;
        both.insert(both.end(), b.begin(), b.end());
        std::size_t between = 0;
        for (const NearPlace& n : near_places(both, both, 1, true))
            between += (n.first < a.size()) != (n.second < a.size());
        QCOMPARE(between, x.size());
    }
    void ten_thousand_lines_against_ten_thousand() {
        std::mt19937 random(7);
        std::vector<SpaceLine> a, b;
        for (int i = 0; i < 10000; ++i)
            a.push_back(random_line(random, 6000, 60)), b.push_back(random_line(random, 6000, 60));
        QElapsedTimer clock;
        clock.start();
        const auto found = near_places(a, b, 3);
        qInfo("10,000 x 10,000 lines: %lld ms, %zu places", clock.elapsed(), found.size());
        QVERIFY(found.size() > 1000);
        QVERIFY(clock.elapsed() < 3000);  // 1 s asked of a quiet machine
    }

    /// The pipe's crown at 40 m: invert 99.6, outside from 99.55 to 100.05. The main's bottom is its top less 0.2.
    void a_clash_says_place_gap_and_clearance() {
        const auto one = [](const Project& p) { return clashes(p).at(0); };
        const Clash over = one(across(100.5));  // bottom at 100.3: 0.25 above the pipe
        QVERIFY(over.crosses && over.other_above);
        QVERIFY(std::abs(over.along - 40) < 1e-9);
        QVERIFY(std::abs(over.vertical - 0.25) < 1e-9);
        QVERIFY(over.verdict == Verdict::Beyond);
        QVERIFY(std::abs(over.other_bottom - 100.3) < 1e-9 && std::abs(over.other_top - 100.5) < 1e-9);
        QVERIFY(one(across(100.57)).verdict == Verdict::Near);
        QVERIFY(one(across(100.7)).verdict == Verdict::Within);
        const Clash under = one(across(99.3));  // its top 0.25 below the pipe
        QVERIFY(!under.other_above && under.verdict == Verdict::Beyond);
        QVERIFY(one(across(99.8)).vertical < 0);
        const Project p = across(100.5);
        const auto findings = clash_findings(p, clashes(p));
        QCOMPARE(findings.size(), std::size_t{1});
        QCOMPARE(QString::fromStdString(findings[0].detail),
                 QString("crosses buried line W1 at 40.00 m from A1, under it: 0.25 m between the outsides, at least "
                         "0.30 m"));
        QVERIFY(clash_findings(across(100.7), clashes(across(100.7))).empty());
    }
    /// Beside each other both gaps count: a main 0.10 m higher and 2 m aside is clear where 1 m aside is asked, though
    /// another kind asks for 4 m and the search reaches that far.
    void beside_each_other_both_gaps_count() {
        for (const auto& [aside, verdict] : {std::pair{2.0, Verdict::Within}, {0.6, Verdict::Beyond}}) {
            Project p = across(100.5);
            p.pipes.change(11)->invert_to = 100;
            p.buried_lines.change(21)->line = {{10, 0.35 + aside}, {90, 0.35 + aside}};  // outsides at 0.25 and 0.10
            p.buried_lines.change(21)->levels = {100.75};  // its bottom 0.10 m above the top of the pipe
            for (const Clearance& c : p.clearances)
                p.clearances.change(c.id)->horizontal = c.kind == LineKind::Water ? 1 : 4;
            const std::vector<Clash> found = clashes(p);
            if (verdict == Verdict::Within) QVERIFY(found.empty());
            else {
                QCOMPARE(found.size(), std::size_t{1});
                QVERIFY(!found[0].crosses && found[0].verdict == verdict);
                QVERIFY(std::abs(found[0].horizontal - aside) < 1e-9 && std::abs(found[0].vertical - 0.1) < 1e-9);
            }
        }
    }
    void choice_buried_line_level_of() {
        Project p = across(100.5);
        p.buried_lines.change(21)->level_of = LevelOf::Centre;
        QVERIFY(std::abs(clashes(p).at(0).vertical - 0.35) < 1e-9);
        p.buried_lines.change(21)->level_of = LevelOf::Bottom;
        QVERIFY(std::abs(clashes(p).at(0).vertical - 0.45) < 1e-9);
        p.buried_lines.change(21)->levels = {99, 101};  // half way along at the crossing: 100
        QVERIFY(std::abs(clashes(p).at(0).vertical - (100 - 100.05)) < 1e-9);
        p.buried_lines.change(21)->status = Status::Abandoned;
        QVERIFY(clashes(p).empty());
    }
    /// The clearance of its kind is held, and no other.
    void choice_buried_line_kind() {
        for (int line = 0; line <= static_cast<int>(LineKind::Other); ++line)
            for (int held = 0; held <= static_cast<int>(LineKind::Other); ++held) {
                Project p = across(100.5);  // 0.25 m above the pipe
                p.buried_lines.change(21)->kind = static_cast<LineKind>(line);
                for (const Clearance& c : p.clearances)
                    p.clearances.change(c.id)->vertical = static_cast<int>(c.kind) == held ? 0.3 : 0.1;
                QCOMPARE(clashes(p).at(0).verdict == Verdict::Beyond, line == held);
            }
    }
    void choice_clearance_kind() {
        Project p = across(100.5);
        std::uint64_t row = 0;
        for (const Clearance& c : p.clearances)
            if (c.kind == LineKind::Water) row = c.id;
        QVERIFY(clashes(p).at(0).verdict == Verdict::Beyond);
        p.clearances.change(row)->kind = LineKind::Gas;  // nothing is asked of water mains any more
        QVERIFY(clashes(p).at(0).verdict == Verdict::Within);
        QVERIFY(std::isnan(clashes(p).at(0).least_vertical) && std::isnan(clashes(p).at(0).least_horizontal));
    }
    void a_crossing_without_a_level_is_named() {
        Project p = across(100);
        p.buried_lines.change(21)->levels.clear();
        const auto found = clash_findings(p, clashes(p));
        QCOMPARE(found.size(), std::size_t{1});
        QVERIFY(found[0].title == "crossing without a level" && found[0].severity == Severity::Warning);
        QVERIFY(found[0].check.rule == Rule::Data && found[0].check.verdict == Verdict::Near);
        p.buried_lines.change(21)->levels = {100};
        p.pipes.change(11)->invert_to = not_given;
        QVERIFY(clash_findings(p, clashes(p)).at(0).title == "crossing without a level");
    }
    /// Beside each other both gaps must fall short; one alone is enough to keep clear.
    void beside_a_line_one_gap_is_enough() {
        Project p = across(100);
        BuriedLine& w = *p.buried_lines.change(21);
        w.line = {{0, 2}, {100, 2}};
        w.levels = {99.9};
        const Clash c = clashes(p).at(0);
        QVERIFY(!c.crosses && c.verdict == Verdict::Beyond);  // 2 - 0.25 - 0.1 = 1.65 m, 3 m asked
        QVERIFY(std::abs(c.horizontal - 1.65) < 1e-9);
        w.levels = {102};
        QVERIFY(clashes(p).empty());  // far above it
        w.levels = {99.9};
        w.line = {{0, 4}, {100, 4}};
        QVERIFY(clashes(p).empty());  // far beside it
        // Through a manhole's outline.
        Structure s;
        s.id = 9;
        s.name = "B1";
        s.x = 50;
        s.y = 0.3;
        s.rim = 103;
        p.structures.insert(s);
        Pipe q;
        q.id = 19;
        q.from = {9};
        q.to = {2};
        q.invert_from = 99;
        q.invert_to = 98.5;
        p.pipes.insert(q);
        bool through = false;
        for (const Clash& k : clashes(p)) through |= k.other == ElementRef{Kind::Structure, 9} && k.pipe == PipeId{11};
        QVERIFY(through);
    }
    void pipes_that_meet_at_a_structure_do_not_clash() {
        Project p = across(110);
        Structure s;
        s.id = 3;
        s.name = "A0";
        s.x = 0;
        s.y = 50;
        s.rim = 103;
        p.structures.insert(s);
        Pipe q;
        q.id = 12;
        q.from = {3};
        q.to = {1};
        q.invert_from = 100.5;
        q.invert_to = 100;
        p.pipes.insert(q);
        for (const Clash& c : clashes(p)) QVERIFY(c.other.kind == Kind::BuriedLine);
        // One that crosses the run elsewhere does.
        q.id = 13;
        q.from = {3};
        Structure far;
        far.id = 4;
        far.name = "X1";
        far.x = 60;
        far.y = -40;
        far.rim = 103;
        p.structures.insert(far);
        q.to = {4};
        q.invert_from = 99.7;
        q.invert_to = 99.6;
        p.pipes.insert(q);
        bool crossed = false;
        for (const Clash& c : clashes(p))
            crossed |= c.other.kind == Kind::Pipe && c.crosses && c.verdict == Verdict::Beyond;
        QVERIFY(crossed);
    }
};
QTEST_GUILESS_MAIN(TestCrossings)
#include "test_crossings.moc"
