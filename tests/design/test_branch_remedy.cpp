// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/design/branch_remedy.h"
#include "core/design/branches.h"
#include "core/design/pipe_fit.h"
#include "support/networks.h"
#include "support/rain.h"

using namespace culvert;

namespace {

/// A1 – … – A7 at 0.5 %, known flows, sizes by seed; the outfall free.
Project run(unsigned seed) {
    std::mt19937 random(seed);
    const auto pick = [&](int n) { return std::uniform_int_distribution<int>(0, n - 1)(random); };
    Project p = new_project(UnitSystem::Si);
    const double sizes[] = {0.3, 0.375, 0.45, 0.525};
    for (int i = 0; i < 6; ++i) {
        Structure s;
        s.id = static_cast<std::uint64_t>(i) + 1;
        s.name = "A" + std::to_string(i + 1);
        s.kind = i < 5 ? StructureKind::Manhole : StructureKind::Outfall;
        s.x = 60 * i;
        s.y = 0;
        s.rim = 53 - 0.3 * i;
        s.known_flow = i < 5 ? 0.01 * pick(6) : 0;
        p.structures.insert(s);
    }
    double size = sizes[pick(2)];
    for (int i = 0; i < 5; ++i) {
        Pipe q;
        q.id = static_cast<std::uint64_t>(i) + 11;
        q.from = {static_cast<std::uint64_t>(i) + 1};
        q.to = {static_cast<std::uint64_t>(i) + 2};
        q.material = "concrete";
        if (pick(3) == 0) size = std::max(size, sizes[pick(4)]);
        q.size = size;
        q.invert_from = 50.5 - 0.33 * i;
        q.invert_to = q.invert_from - 0.3;
        p.pipes.insert(q);
    }
    p.events.insert(culvert::testing::ten_years());
    return p;
}
std::vector<PipeId> all(const Project& p) {
    std::vector<PipeId> list;
    for (const Pipe& q : p.pipes) list.push_back({q.id});
    return list;
}
/// Whether a state keeps all that a larger pipe could cure.
bool clean(const Project& p) {
    for (const FindingKey& k : beyond_keys(p, solve(p))) switch (std::get<0>(k)) {
            case Rule::MostFlowRatio:
            case Rule::MostFilledDepth:
            case Rule::MostVelocity:
            case Rule::MostSurcharge:
            case Rule::LeastFreeboard:
            case Rule::Flooding:
            case Rule::SizeDecrease:
            case Rule::LeastSize: return false;
            default: break;
        }
    return true;
}
/// Fewest pipes that, each up to three sizes larger, leave it clean with nothing new: every combination.
int fewest(const Project& p) {
    std::vector<std::vector<const PipeSize*>> choices;
    for (const Pipe& q : p.pipes) {
        choices.emplace_back(1, nullptr);
        for (const PipeSize* s : sizes_of(p, q.material, q.shape))
            if (s->size > q.size + 1e-9 && choices.back().size() < 4) choices.back().push_back(s);
    }
    const FindingKeys before = beyond_keys(p, solve(p));
    int best = 99;
    std::vector<std::size_t> at(choices.size(), 0);
    for (;;) {
        int changed = 0;
        for (const std::size_t a : at) changed += a > 0;
        if (changed < best) {
            Editing e(p, "");
            std::size_t i = 0;
            for (const Pipe& q : p.pipes) {
                if (choices[i][at[i]]) put_size(e, q.id, *choices[i][at[i]], Origin::Proposed);
                ++i;
            }
            const FindingKeys after = beyond_keys(e.now(), solve(e.now()));
            FindingKeys added;
            std::set_difference(after.begin(), after.end(), before.begin(), before.end(), std::back_inserter(added));
            if (clean(e.now()) && added.empty()) best = changed;
        }
        std::size_t i = 0;
        while (i < at.size() && ++at[i] == choices[i].size()) at[i++] = 0;
        if (i == at.size()) return best;
    }
}

}  // namespace

/// A whole run cured by the fewest larger pipes.
class TestBranchRemedy : public QObject {
    Q_OBJECT
  private slots:
    void the_set_is_the_smallest_there_is() {
        int proposed = 0, by_two = 0, more = 0, brings = 0;
        for (unsigned seed = 1; seed <= 60; ++seed) {
            const Project p = run(seed);
            if (clean(p)) continue;
            const Results results = solve(p);
            const BranchRemedy r = mend_branch(p, results, all(p), {5});
            const int least = fewest(p);
            if (!r.edit.empty()) {  // what comes anew is what was not beyond before, in any event
                Project after = p;
                apply(after, r.edit);
                const FindingKeys was = beyond_keys(p, results), is = beyond_keys(after, solve(after));
                FindingKeys added;
                std::set_difference(is.begin(), is.end(), was.begin(), was.end(), std::back_inserter(added));
                QCOMPARE(r.added, static_cast<int>(added.size()));
                brings += r.added > 0;
            }
            if (least == 99) {
                QVERIFY(r.left > 0 || r.added > 0 || r.edit.empty());
                continue;
            }
            ++proposed;
            Project with = p;
            apply(with, r.edit);
            QVERIFY2(r.left == 0 && clean(with), qPrintable(QString::number(seed)));
            QCOMPARE(r.added, 0);
            // What goes is what was beyond in any event and is no longer; costs are pipes and trenches.
            const FindingKeys was = beyond_keys(p, results), is = beyond_keys(with, solve(with));
            FindingKeys gone;
            std::set_difference(was.begin(), was.end(), is.begin(), is.end(), std::back_inserter(gone));
            QCOMPARE(r.gone, static_cast<int>(gone.size()));
            QVERIFY(r.before > 0 && r.before <= static_cast<int>(was.size()) && r.tried > 0);
            double cost = 0;
            for (const BranchChange& c : r.changes) {
                const Pipe &a = *p.pipes.find(c.pipe.value), &b = *with.pipes.find(c.pipe.value);
                QVERIFY(c.before == a.size && c.after == b.size && c.after > c.before);
                cost += 60 * p.settings().pipe_price * (b.size - a.size) +
                        p.settings().excavation_price * (trench_volume(with, b) - trench_volume(p, a));
            }
            QVERIFY2(std::abs(r.cost - cost) < 1e-6, qPrintable(QString("%1 %2").arg(r.cost).arg(cost)));
            if (least <= 2) {
                QVERIFY(r.smallest);
                QCOMPARE(static_cast<int>(r.changes.size()), least);
                by_two += least == 2;
            } else {
                QVERIFY(!r.smallest && static_cast<int>(r.changes.size()) >= least);
                QVERIFY(static_cast<int>(r.changes.size()) <= least + 2);
                ++more;
            }
        }
        qInfo("%d cured, %d by two pipes, %d by more; %d bring something", proposed, by_two, more, brings);
        QVERIFY(proposed >= 15 && by_two >= 3);
    }
    /// Of a set of three or more: each undone alone, something is beyond again.
    void no_pipe_is_made_larger_for_nothing() {
        int checked = 0, partly = 0, brings = 0;
        for (unsigned seed = 1; seed <= 400; ++seed) {
            Project p = run(seed);
            for (const Structure& s : p.structures)
                if (seed % 2 && s.kind == StructureKind::Manhole) p.structures.change(s.id)->known_flow *= 1.6;
            if (clean(p)) continue;
            const BranchRemedy r = mend_branch(p, solve(p), all(p), {5});
            if (!r.edit.empty()) {
                Project with = p;
                apply(with, r.edit);
                QCOMPARE(r.left == 0, clean(with));
                partly += r.left > 0;
                const FindingKeys was = beyond_keys(p, solve(p)), is = beyond_keys(with, solve(with));
                FindingKeys added;
                std::set_difference(is.begin(), is.end(), was.begin(), was.end(), std::back_inserter(added));
                QCOMPARE(r.added, static_cast<int>(added.size()));
                brings += r.added > 0;
            }
            if (r.changes.size() < 3 || r.left + r.added > 0) continue;
            for (const auto& change : r.changes) {
                ++checked;
                Project with = p;
                apply(with, r.edit);
                const Pipe& old = *p.pipes.find(change.pipe.value);
                with.pipes.change(old.id)->size = old.size;
                with.pipes.change(old.id)->wall = old.wall;
                QVERIFY2(!clean(with), qPrintable(QString::number(seed)));
            }
        }
        qInfo("%d undone; %d cure a part, %d bring something", checked, partly, brings);
        QVERIFY(checked >= 60);
    }
    /// Two pipes too small above locked ones of 450 mm: the largest that are tried would end in a smaller pipe, a step
    /// up of both does not.
    void what_the_largest_sizes_spoil_smaller_ones_may_cure() {
        Project p = run(1);
        for (const Structure& s : p.structures) p.structures.change(s.id)->known_flow = s.id == 1 ? 0.08 : 0;
        for (const Pipe& q : p.pipes) {
            Pipe* c = p.pipes.change(q.id);
            c->size = q.id < 13 ? 0.3 : 0.45;
            c->size_locked = q.id >= 13;
        }
        const BranchRemedy r = mend_branch(p, solve(p), all(p), {5});
        QCOMPARE(r.left + r.added, 0);
        QCOMPARE(r.changes.size(), std::size_t{2});
        QVERIFY(r.smallest);
        for (const BranchChange& c : r.changes) QVERIFY(c.after < 0.45 + 1e-9);
        // Of two barrels each costs.
        for (const BranchChange& c : r.changes) p.pipes.change(c.pipe.value)->barrels = 2;
        for (const Structure& s : p.structures) p.structures.change(s.id)->known_flow *= 2;
        for (const Pipe& q : p.pipes)
            if (q.size_locked) p.pipes.change(q.id)->barrels = 2;
        const BranchRemedy two = mend_branch(p, solve(p), all(p), {5});
        QCOMPARE(two.changes.size(), r.changes.size());
        Project with = p;
        apply(with, two.edit);
        double cost = 0;
        for (const BranchChange& c : two.changes) {
            const Pipe &a = *p.pipes.find(c.pipe.value), &b = *with.pipes.find(c.pipe.value);
            cost += 2 * 60 * p.settings().pipe_price * (b.size - a.size) +
                    p.settings().excavation_price * (trench_volume(with, b) - trench_volume(p, a));
        }
        QVERIFY(std::abs(two.cost - cost) < 1e-6);
    }
    void what_is_locked_stays_and_what_needs_nothing_is_left() {
        Project p = run(1);
        for (const Pipe& q : p.pipes) p.pipes.change(q.id)->size_locked = true;
        const BranchRemedy r = mend_branch(p, solve(p), all(p), {5});
        QVERIFY(r.edit.empty() && !r.why.empty());
        // Drowned by the water outside: no size helps, and it is said.
        Project drowned = run(1);
        drowned.structures.change(6)->tailwater = Tailwater::Level;
        drowned.structures.change(6)->tailwater_level = 60;
        const BranchRemedy none = mend_branch(drowned, solve(drowned), all(drowned), {5});
        QVERIFY(none.edit.empty() && none.why.starts_with("no larger pipe of this run or below it helps"));
        Project wide = run(1);
        for (const Pipe& q : wide.pipes) wide.pipes.change(q.id)->size = 1.2;
        QVERIFY(mend_branch(wide, solve(wide), all(wide), {5}).edit.empty());
        QVERIFY(!mend_branch(wide, solve(wide), {}, {5}).why.empty());
    }
};
QTEST_GUILESS_MAIN(TestBranchRemedy)
#include "test_branch_remedy.moc"
