// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/design/design.h"
#include "core/design/pipe_fit.h"
#include "core/model/lay.h"
#include "support/rain.h"

using namespace culvert;

namespace {

/// A1 – A2 – A3 – A4 along x, 50 m apart; every second way of drawing the pipes.
Project run(bool turned) {
    Project p = new_project(UnitSystem::Si);
    for (int i = 0; i < 4; ++i) {
        Structure s;
        s.id = static_cast<std::uint64_t>(i) + 1;
        s.name = "A" + std::to_string(i + 1);
        s.kind = i < 3 ? StructureKind::Manhole : StructureKind::Outfall;
        s.x = 50 * i;
        s.y = 0;
        s.rim = 104 - 0.5 * i;
        s.known_flow = i == 0 ? 0.05 : 0;
        p.structures.insert(s);
    }
    for (int i = 0; i < 3; ++i) {
        Pipe q;
        q.id = static_cast<std::uint64_t>(i) + 11;
        q.from = {static_cast<std::uint64_t>(i) + (turned ? 2u : 1u)};
        q.to = {static_cast<std::uint64_t>(i) + (turned ? 1u : 2u)};
        q.material = "concrete";
        q.size = 0.45;
        q.wall = 0.06;
        const double up = 101 - 0.53 * i, down = up - 0.5;
        q.invert_from = turned ? down : up;
        q.invert_to = turned ? up : down;
        p.pipes.insert(q);
    }
    p.events.insert(culvert::testing::ten_years());
    return p;
}
double& upper(Project& p, std::uint64_t id, bool turned) {
    return turned ? p.pipes.change(id)->invert_to : p.pipes.change(id)->invert_from;
}
double& lower(Project& p, std::uint64_t id, bool turned) {
    return turned ? p.pipes.change(id)->invert_from : p.pipes.change(id)->invert_to;
}
bool near(double a, double b, double within) { return std::abs(a - b) <= within; }

struct Found {
    Finding finding;
    std::vector<Remedy> list;
};
Found look(const Project& p, Rule rule, std::uint64_t pipe) {
    const Results r = solve(p);
    for (const Finding& f : review(p, *r[0]).findings)
        if (f.check.rule == rule && f.element == ElementRef{Kind::Pipe, pipe}) return {f, remedies(p, r, f)};
    return {};
}

}  // namespace

/// What levels out of their limits are mended by: how far, at which end, at what price, whichever way pipes are drawn.
class TestRemedies : public QObject {
    Q_OBJECT
  private slots:
    void a_start_above_what_enters_is_lowered() {
        for (const bool turned : {false, true}) {
            Project p = run(turned);
            upper(p, 12, turned) = 100.62;  // 0.12 m above the end of the pipe that enters at 100.5
            const Found f = look(p, Rule::LeastDrop, 12);
            QVERIFY(!f.list.empty());
            const Remedy& r = f.list[0];
            QVERIFY(r.mends && r.added == 0 && r.gone >= 1);
            QVERIFY2(r.text.find("start of ") == 0 && r.text.find(" at 100.5") != std::string::npos, r.text.c_str());
            Project q = p;
            apply(q, r.edit);
            QVERIFY(near(upper(q, 12, turned), 100.5, 1.1e-3) && upper(q, 12, turned) <= 100.5 + 1e-9);
            QVERIFY(lower(q, 12, turned) == lower(p, 12, turned) &&
                    q.pipes.find(11)->invert_to == p.pipes.find(11)->invert_to);
            QVERIFY(near(r.cost, 50 * 0.12, 1e-6));
            QCOMPARE(r.edit.name, r.text);
        }
    }
    void too_flat_a_pipe_is_lowered_at_its_end() {
        for (const bool turned : {false, true}) {
            Project p = run(turned);
            lower(p, 13, turned) = upper(p, 13, turned) - 0.06;  // 0.12 % where 0.3 % is asked
            const Found f = look(p, Rule::LeastSlope, 13);
            const Remedy* end = nullptr;
            for (const Remedy& r : f.list)
                if (r.text.find("end of ") == 0) end = &r;
            QVERIFY(end && end->mends);
            Project q = p;
            apply(q, end->edit);
            const double wanted = upper(p, 13, turned) - 0.003 * 50;
            QVERIFY(near(lower(q, 13, turned), wanted, 1.1e-3) && lower(q, 13, turned) <= wanted + 1e-9);
            QVERIFY(upper(q, 13, turned) == upper(p, 13, turned));
            QVERIFY(near(end->cost, 50 * (0.003 - 0.0012), 1e-6));
        }
    }
    void too_little_cover_lowers_the_whole_pipe() {
        for (const bool turned : {false, true}) {
            Project p = run(turned);
            p.structures.change(1)->rim = 101 + 0.45 + 0.06 + 0.65;  // 0.65 m of cover where 0.9 is asked
            const Found f = look(p, Rule::LeastCover, 11);
            const Remedy* down = nullptr;
            for (const Remedy& r : f.list)
                if (r.text.find(" lower") != std::string::npos) down = &r;
            QVERIFY(down && down->mends && down->text.find("0.25 m lower") != std::string::npos);
            Project q = p;
            apply(q, down->edit);
            for (const bool start : {true, false}) {
                double &now = start ? upper(q, 11, turned) : lower(q, 11, turned),
                       &was = start ? upper(p, 11, turned) : lower(p, 11, turned);
                QVERIFY(near(was - now, 0.25, 1.1e-3) && was - now >= 0.25 - 1e-9);
            }
            QVERIFY(near(down->cost, 50 * 0.25, 1e-6));
        }
    }
    /// For each offer of a list: what goes and comes is what two whole reviews differ by, and the best stands first.
    void offers_say_what_they_do() {
        int offers = 0, mending = 0;
        for (const double flow : {0.2, 0.33, 0.5, 0.8}) {
            Project p = run(false);
            p.structures.change(1)->known_flow = flow;
            p.pipes.change(12)->size = 0.375;
            const Results before = solve(p);
            const FindingKeys was = beyond_keys(p, before);
            for (const Finding& f : review(p, *before[0]).findings) {
                if (f.check.verdict != Verdict::Beyond) continue;
                const auto list = remedies(p, before, f);
                for (std::size_t i = 0; i < list.size(); ++i) {
                    const Remedy& r = list[i];
                    if (r.edit.empty()) continue;
                    ++offers;
                    Project q = p;
                    apply(q, r.edit);
                    const FindingKeys is = beyond_keys(q, solve(q));
                    FindingKeys gone, added;
                    std::set_difference(was.begin(), was.end(), is.begin(), is.end(), std::back_inserter(gone));
                    std::set_difference(is.begin(), is.end(), was.begin(), was.end(), std::back_inserter(added));
                    QCOMPARE(r.gone, static_cast<int>(gone.size()));
                    QCOMPARE(r.added, static_cast<int>(added.size()));
                    QCOMPARE(r.mends, std::find(is.begin(), is.end(), f.key()) == is.end());
                    QVERIFY(r.mends || r.gone > 0);
                    mending += r.mends;
                    double cost = 0;  // a larger pipe by its growth, a relief pipe by its size
                    for (const Pipe& now : q.pipes)
                        cost += 50 * (now.size - (p.pipes.find(now.id) ? p.pipes.find(now.id)->size : 0));
                    if (r.text.find(" on ") != std::string::npos || r.text.find("relief") != std::string::npos)
                        QVERIFY2(near(r.cost, cost, 1e-6), r.text.c_str());
                    if (i == 0) continue;
                    const Remedy& a = list[i - 1];
                    QVERIFY(std::tuple(!a.mends, a.added, -a.gone, a.cost) <=
                            std::tuple(!r.mends, r.added, -r.gone, r.cost));
                }
            }
        }
        QVERIFY(offers > 15 && mending > 8);
    }
    /// From a size that the catalogue does not hold the next one up or down; none beyond its ends.
    void steps_go_to_the_next_size_of_the_catalogue() {
        Project p = run(false);
        std::vector<double> sizes;
        for (const PipeSize* s : sizes_of(p, "concrete", Shape::Circular)) sizes.push_back(s->size);
        const auto stepped = [&](double from, int step) {
            p.pipes.change(11)->size = from;
            const Edit e = step_size(p, {11}, step);
            if (e.empty()) return 0.0;
            Project q = p;
            apply(q, e);
            return q.pipes.find(11)->size;
        };
        for (std::size_t i = 0; i < sizes.size(); ++i) {
            QVERIFY(near(stepped(sizes[i], +1), i + 1 < sizes.size() ? sizes[i + 1] : 0, 1e-12));
            QVERIFY(near(stepped(sizes[i], -1), i > 0 ? sizes[i - 1] : 0, 1e-12));
            if (i + 1 == sizes.size()) continue;
            const double between = (sizes[i] + sizes[i + 1]) / 2;
            QVERIFY(near(stepped(between, +1), sizes[i + 1], 1e-12) && near(stepped(between, -1), sizes[i], 1e-12));
        }
        QVERIFY(stepped(sizes.back() + 1, +1) == 0 && near(stepped(sizes.back() + 1, -1), sizes.back(), 1e-12));
        QVERIFY(step_size(p, {999}, 1).empty());
        QVERIFY(size_ladder(p, solve(p), {999}, {5}).empty());
        // At the ends of the catalogue the ladder is shorter; without its event it has sizes alone.
        p.pipes.change(11)->size = sizes.front();
        QCOMPARE(size_ladder(p, solve(p), {11}, {5}, {}, 2, 2).size(), std::size_t{3});
        p.pipes.change(11)->size = sizes.back();
        QCOMPARE(size_ladder(p, solve(p), {11}, {5}, {}, 2, 2).size(), std::size_t{3});
        for (const LadderStep& s : size_ladder(p, solve(p), {11}, {77}))
            QVERIFY(std::isnan(s.flow_ratio) && std::isnan(s.hgl_to_crown));
    }
};
QTEST_GUILESS_MAIN(TestRemedies)
#include "test_remedies.moc"
