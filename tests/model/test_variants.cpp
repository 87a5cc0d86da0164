// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <random>

#include "core/model/variant.h"
#include "support/networks.h"

using namespace culvert;

/// Overlays over a base: what they do, what they follow, where they conflict.
class TestVariants : public QObject {
    Q_OBJECT

    /// A random Edit of a few fields, with inserts and deletes now and then.
    static Edit random_edit(const Project& p, std::mt19937& random, bool rows = true) {
        Editing e(p, "random");
        std::vector<std::uint64_t> pipes, structures;
        for (const Pipe& row : p.pipes) pipes.push_back(row.id);
        for (const Structure& row : p.structures) structures.push_back(row.id);
        for (int k = 0; k < 6; ++k) {
            const std::uint64_t pipe = pipes[random() % pipes.size()], s = structures[random() % structures.size()];
            switch (random() % (rows ? 8 : 6)) {
                case 0: e.set(Kind::Pipe, pipe, "size", 0.1 * static_cast<double>(1 + random() % 12)); break;
                case 1: e.set(Kind::Pipe, pipe, "roughness", 0.001 * static_cast<double>(9 + random() % 9)); break;
                case 2: e.set(Kind::Structure, s, "rim", 100 + static_cast<double>(random() % 50)); break;
                case 3:
                    e.set(Kind::Structure, s, "group", std::string(1, static_cast<char>('a' + random() % 3)));
                    break;
                case 4: e.set(Kind::Structure, s, "loss", static_cast<double>(random() % 7) / 10); break;
                case 5: e.set(Kind::Settings, settings_id, "uplift", 1 + static_cast<double>(random() % 4) / 10); break;
                case 6: e.remove(Kind::Pipe, pipe); break;
                default: {
                    Structure fresh;
                    fresh.name = "new " + std::to_string(random());
                    fresh.rim = 50;
                    e.insert(fresh);
                }
            }
        }
        return e.take();
    }

  private slots:
    void an_overlay_composed_edit_by_edit_is_the_edited_project() {
        std::mt19937 random(11);
        for (unsigned seed = 1; seed <= 30; ++seed) {
            const Project base = testing::random_project({.pipes = 25, .seed = seed});
            Project now = base;
            Edit overlay;
            for (int step = 0; step < 12; ++step) {
                const Edit edit = random_edit(now, random);
                apply(now, edit);
                overlay = composed(overlay, edit);
                QVERIFY(with_overlay(base, overlay) == now);
            }
            std::vector<Conflict> conflicts;
            with_overlay(base, overlay, &conflicts);
            QVERIFY(conflicts.empty());
            // The difference of base and variant does the same.
            Project again = base;
            apply(again, edit_between(base, now, ""));
            QVERIFY(again == now);
        }
    }
    void a_change_and_its_way_back_leave_nothing() {
        const Project base = testing::random_project({.pipes = 10, .seed = 3});
        const std::uint64_t id = base.pipes.begin()->id;
        Editing e(base, "");
        e.set(Kind::Pipe, id, "size", 1.5);
        Project p = base;
        const Edit there = e.take();
        apply(p, there);
        Editing f(p, "");
        f.set(Kind::Pipe, id, "size", base.pipes.find(id)->size,
              base.pipes.find(id)->origin[*field_index(Kind::Pipe, "size")]);
        QVERIFY(composed(there, f.take()).empty());
        // A row made and deleted again: nothing too.
        Editing g(base, "");
        Structure s;
        s.id = 77;
        s.name = "short lived";
        g.insert(s);
        const Edit made = g.take();
        Project q = base;
        apply(q, made);
        Editing h(q, "");
        h.remove(Kind::Structure, 77);
        QVERIFY(composed(made, h.take()).empty());
    }
    /// Undo of a delete in a variant: what comes back as it was leaves nothing, what comes back changed is its changes.
    void a_row_deleted_and_put_back_is_what_differs() {
        const Project base = testing::random_project({.pipes = 10, .seed = 4});
        const Pipe was = *std::next(base.pipes.begin(), 3);
        for (const bool patched_before : {false, true})
            for (const bool changed : {false, true}) {
                Edit overlay;
                Project now = base;
                const auto step = [&](auto change) {
                    Editing e(now, "");
                    change(e);
                    const Edit edit = e.take();
                    apply(now, edit);
                    overlay = composed(overlay, edit);
                    QVERIFY(with_overlay(base, overlay) == now);
                };
                if (patched_before) step([&](Editing& e) { e.set(Kind::Pipe, was.id, "roughness", 0.02); });
                const Pipe then = *now.pipes.find(was.id);
                step([&](Editing& e) { e.remove(Kind::Pipe, was.id); });
                QCOMPARE(overlay.changes.size(), std::size_t{1});  // one delete, of the base's own row
                QVERIFY(std::get<Pipe>(std::get<Delete>(overlay.changes[0]).row.get()) == was);
                step([&](Editing& e) {
                    Pipe back = then;
                    if (changed) back.size = 2.1, back.origin[*field_index(Kind::Pipe, "size")] = Origin::Proposed;
                    e.insert(back);
                });
                QCOMPARE(overlay.changes.size(), static_cast<std::size_t>(patched_before) + changed);
                for (const Change& c : overlay.changes) {
                    const Patch& p = std::get<Patch>(c);
                    QVERIFY(p.id == was.id && p.kind == Kind::Pipe);
                    const bool size = p.field == *field_index(Kind::Pipe, "size");
                    QVERIFY(same_value(p.before, size ? Value(was.size) : Value(was.roughness)));
                    QVERIFY(same_value(p.after, size ? Value(2.1) : Value(0.02)));
                    if (size) QCOMPARE(p.origin_after, Origin::Proposed);
                }
            }
    }
    /// Mine: the deletion remembers the row as the base has it now, and is no conflict any more.
    void a_deletion_that_was_settled_stays_settled() {
        Project base = testing::random_project({.pipes = 6, .seed = 9});
        const std::uint64_t id = base.pipes.begin()->id;
        Editing gone(base, "");
        gone.remove(Kind::Pipe, id);
        const Edit overlay = gone.take();
        base.pipes.change(id)->size = 1.7;
        std::vector<Conflict> conflicts;
        with_overlay(base, overlay, &conflicts);
        QCOMPARE(conflicts.size(), std::size_t{1});
        const Edit mine = settled(overlay, base, conflicts[0], true);
        conflicts.clear();
        QVERIFY(!with_overlay(base, mine, &conflicts).pipes.find(id) && conflicts.empty());
        with_overlay(base, overlay, &conflicts);
        const Edit theirs = settled(overlay, base, conflicts[0], false);
        conflicts.clear();
        QVERIFY(with_overlay(base, theirs, &conflicts).pipes.find(id)->size == 1.7 && conflicts.empty());
    }
    void clean_patches_follow_the_base_and_true_conflicts_are_named() {
        std::mt19937 random(5);
        int clean = 0, clashes = 0;
        for (unsigned seed = 1; seed <= 60; ++seed) {
            const Project base = testing::random_project({.pipes = 8, .seed = seed});
            const Edit overlay = composed({}, random_edit(base, random, false));
            Project moved = base;
            const Edit of_base = random_edit(base, random, false);
            apply(moved, of_base);
            std::vector<Conflict> conflicts;
            const Project variant = with_overlay(moved, overlay, &conflicts);
            // What each side finally set, by row and field.
            std::map<std::tuple<Kind, std::uint64_t, std::size_t>, Value> mine;
            for (const Change& c : overlay.changes) {
                const Patch& p = std::get<Patch>(c);
                mine[{p.kind, p.id, p.field}] = p.after;
            }
            std::size_t expected = 0;
            for (std::size_t k = 0; k < kind_count; ++k)
                with_row_type(static_cast<Kind>(k), [&]<class R>(std::type_identity<R>) {
                    for (const R& row : variant.table<R>())
                        for (std::size_t f = 0; f < fields_of<R>().size(); ++f) {
                            const auto& field = fields_of<R>()[f];
                            const Value shown = get(row, field), now = get(*moved.table<R>().find(row.id), field),
                                        was = get(*base.table<R>().find(row.id), field);
                            const auto at = mine.find({kind_of<R>(), row.id, f});
                            // Its own value where it set one, else the base's newest.
                            QVERIFY(same_value(shown, at == mine.end() ? now : at->second));
                            if (at == mine.end()) clean += !same_value(now, was);
                            else expected += !same_value(now, was) && !same_value(now, at->second);
                        }
                });
            QCOMPARE(conflicts.size(), expected);
            clashes += static_cast<int>(expected);
            // Settled either way there is one conflict less, and the value is the chosen one.
            if (conflicts.empty()) continue;
            const Conflict c = conflicts.front();
            for (const bool keep : {true, false}) {
                const Edit after = settled(overlay, moved, c, keep);
                std::vector<Conflict> left;
                const Project done = with_overlay(moved, after, &left);
                QCOMPARE(left.size(), conflicts.size() - 1);
                with_row_type(c.kind, [&]<class R>(std::type_identity<R>) {
                    QVERIFY(
                        same_value(get(*done.table<R>().find(c.id), fields_of<R>()[c.field]), keep ? c.mine : c.base));
                });
            }
        }
        QVERIFY2(clean > 100 && clashes > 10, qPrintable(QString("%1 clean, %2 conflicts").arg(clean).arg(clashes)));
    }
    void a_row_deleted_on_one_side_and_changed_on_the_other_is_a_conflict() {
        const Project base = testing::random_project({.pipes = 6, .seed = 9});
        const std::uint64_t id = base.pipes.begin()->id;
        Editing patch(base, ""), gone(base, "");
        patch.set(Kind::Pipe, id, "size", 2.0);
        gone.remove(Kind::Pipe, id);
        const Edit sized = patch.take(), deleted = gone.take();
        Project without = base, with_size = base;
        apply(without, deleted);
        apply(with_size, sized);
        std::vector<Conflict> conflicts;
        with_overlay(without, sized, &conflicts);
        QCOMPARE(conflicts.size(), std::size_t{1});
        QVERIFY(conflicts[0].whole_row);
        QVERIFY(settled(sized, without, conflicts[0], true).empty());
        Conflict none = conflicts[0];
        none.change = sized.changes.size();  // the overlay was changed since: nothing is settled
        QCOMPARE(settled(sized, without, none, false).changes.size(), sized.changes.size());
        conflicts.clear();
        const Project variant = with_overlay(with_size, deleted, &conflicts);
        QCOMPARE(conflicts.size(), std::size_t{1});
        QVERIFY(!variant.pipes.find(id));
        // Deleted on both sides: agreed.
        conflicts.clear();
        with_overlay(without, deleted, &conflicts);
        QVERIFY(conflicts.empty());
    }
    void comparisons_speak_in_words() {
        const Project base = testing::random_project({.pipes = 6, .seed = 1});
        QCOMPARE(value_text(base, Kind::Pipe, *field_index(Kind::Pipe, "size"), Value(0.45)), std::string("450 mm"));
        QCOMPARE(value_text(base, Kind::Structure, *field_index(Kind::Structure, "kind"), Value(1)),
                 std::string("manhole"));
        QCOMPARE(value_text(base, Kind::Pipe, *field_index(Kind::Pipe, "size_locked"), Value(true)),
                 std::string("yes"));
        const std::uint64_t s = base.structures.begin()->id;
        QCOMPARE(value_text(base, Kind::Pipe, *field_index(Kind::Pipe, "from"), Value(s)),
                 base.structures.begin()->name);
        const auto text = [&](Kind kind, const char* key, Value v) {
            return value_text(base, kind, *field_index(kind, key), v);
        };
        const Catchment& c = *base.catchments.begin();
        QCOMPARE(text(Kind::LandCover, "catchment", c.id), c.name);
        Project streets = base;
        Street lane;
        lane.id = 4001;
        lane.name = "Lane";
        streets.streets.insert(lane);
        QCOMPARE(value_text(streets, Kind::Structure, *field_index(Kind::Structure, "street"), Value(lane.id)),
                 std::string("Lane"));
        QCOMPARE(text(Kind::Structure, "street", std::uint64_t{0x1f}), id_text(0x1f));
        QCOMPARE(text(Kind::Structure, "street", std::uint64_t{0}), std::string("–"));
        QCOMPARE(text(Kind::Pipe, "size", not_given), std::string("–"));
        QCOMPARE(text(Kind::Pipe, "material", std::string()), std::string("–"));
        QCOMPARE(text(Kind::Pipe, "material", std::string(80, 'x')), std::string(60, 'x'));
        QCOMPARE(text(Kind::Pipe, "size_locked", false), std::string("no"));
        QCOMPARE(text(Kind::Structure, "kind", 99), std::string("99"));
        QCOMPARE(text(Kind::Pipe, "bends", std::vector<Point>{{0, 0}}), std::string("1 value"));
        QCOMPARE(text(Kind::Event, "durations", std::vector<double>{1, 2}), std::string("2 values"));
    }
};

QTEST_APPLESS_MAIN(TestVariants)
#include "test_variants.moc"
