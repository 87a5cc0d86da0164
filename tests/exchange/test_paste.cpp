// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "exchange/paste_table.h"
#include "exchange/shelf.h"
#include "support/networks.h"

using namespace culvert;

namespace {

Project site() {
    Project p = new_project(UnitSystem::Si);
    for (int i = 1; i <= 30; ++i) {
        Structure s;
        s.id = static_cast<std::uint64_t>(i);
        s.name = "A" + std::to_string(i);
        s.rim = 20;
        p.structures.insert(s);
    }
    return p;
}
std::size_t field(Kind k, const char* key) { return *field_index(k, key); }
double rim(const Project& p, std::uint64_t id) { return p.structures.find(id)->rim; }
PastePlace from(const Project& p, std::initializer_list<const char*> keys) {
    PastePlace place;
    for (const Structure& s : p.structures) place.rows.push_back(s.id);
    for (const char* key : keys) place.columns.push_back(field(Kind::Structure, key));
    return place;
}

}  // namespace

/// Pasted tables: what finds what, in which unit, and what is said of the rest. Criteria sets and libraries.
class TestPaste : public QObject {
    Q_OBJECT
  private slots:
    void rows_find_their_elements_by_name_whatever_their_order() {
        const Project p = site();
        const PastePlan plan = plan_paste(
            p, Kind::Structure,
            "Rim (m)\tName\tNote\n21.5\tA7\tsurveyed\n22.25\tA2\t\n23\tZ9\tnowhere\n24\tA3\t\n25\tA3\tagain\n", {});
        QVERIFY(plan.ok);
        QCOMPARE(plan.matched, std::size_t{2});
        QCOMPARE(plan.unmatched, std::size_t{1});
        QCOMPARE(plan.doubled, std::size_t{2});
        QCOMPARE(plan.rows[2].fate, PasteRow::Fate::Unmatched);
        QCOMPARE(plan.rows[3].fate, PasteRow::Fate::Doubled);
        QCOMPARE(plan.rows[4].fate, PasteRow::Fate::Doubled);
        Project q = p;
        apply(q, plan.edit);
        QCOMPARE(rim(q, 7), 21.5);
        QCOMPARE(rim(q, 2), 22.25);
        QCOMPARE(rim(q, 3), 20.0);  // named twice: left alone
        QCOMPARE(q.structures.find(7)->note, std::string("surveyed"));
        QCOMPARE(q.structures.find(2)->note, std::string());  // an empty cell sets nothing
        revert(q, plan.edit);
        QVERIFY(q == p);
        // A first row with a number in it is data, whatever else stands in it.
        const PastePlan bare = plan_paste(p, Kind::Structure, "rim\t21.5\nA2\t22.25\n", {});
        QCOMPARE(bare.rows.size(), std::size_t{2});
        QVERIFY(bare.columns[0].head.empty());
        QVERIFY(plan.summary.find("1 row finds no element") != std::string::npos);
    }
    /// A column's unit is that of its head, large or small; without one that of the project, and the plan says which. A
    /// number that would be sensible in another unit is asked about.
    void units_of_columns_are_said_and_held() {
        Project p = new_project(UnitSystem::Si);
        for (std::uint64_t i = 1; i <= 3; ++i) {
            Pipe q;
            q.id = i;
            q.name = "P" + std::to_string(i);
            p.pipes.insert(q);
        }
        for (const auto& [head, unit, one] : {std::tuple{"size [cm]", "cm", 0.01},
                                              {"size (m)", "m", 1.0},
                                              {"size", "mm", 0.001},
                                              {"Size in", "in", 0.0254}}) {
            const PastePlan plan =
                plan_paste(p, Kind::Pipe,
                           "name\t" + std::string(head) + "\nP1\t" + std::to_string(0.45 / one) + "\n\t\nP2\t" +
                               std::to_string(450000 / one) + "\nP3\t" + std::to_string(0.6 / one) + "\n",
                           {});
            QCOMPARE(plan.columns[1].unit, std::string(unit));
            QCOMPARE(plan.columns[1].factor, one);
            Project q = p;
            apply(q, plan.edit);
            QVERIFY(std::abs(q.pipes.find(1)->size - 0.45) < 1e-6 && std::abs(q.pipes.find(3)->size - 0.6) < 1e-6);
            QVERIFY(q.pipes.find(2)->size == p.pipes.find(2)->size && plan.bad == 1 && plan.problems.size() == 1);
            QVERIFY(plan.problems[0].line == 4 && plan.problems[0].column == 2);
        }
        // 450 in a column of metres: it may be millimetres.
        for (const auto& [cell, asked] : {std::pair{"450", true}, {"45000000", false}}) {
            const PastePlan plan = plan_paste(p, Kind::Pipe, "name\tsize (m)\nP1\t" + std::string(cell) + "\n", {});
            QCOMPARE(plan.problems.size(), std::size_t{1});
            QCOMPARE(plan.problems[0].message.find("is its unit right?") != std::string::npos, asked);
        }
    }
    void the_order_of_rows_and_columns_changes_nothing() {
        const Project p = site();
        std::vector<std::array<std::string, 3>> rows;
        std::mt19937 random(1);
        for (int i = 1; i <= 30; ++i)
            rows.push_back({"A" + std::to_string(i), std::to_string(20 + i * 0.25), "n" + std::to_string(i)});
        const auto build = [&](std::array<int, 3> order) {
            const char* heads[] = {"name", "rim", "note"};
            std::string t;
            for (int k = 0; k < 3; ++k) t += std::string(k ? "\t" : "") + heads[order[static_cast<std::size_t>(k)]];
            t += "\n";
            for (const auto& r : rows)
                for (int k = 0; k < 3; ++k)
                    t += (k ? "\t" : "") + r[static_cast<std::size_t>(order[static_cast<std::size_t>(k)])] +
                         (k == 2 ? "\n" : "");
            return t;
        };
        Project first = p;
        apply(first, plan_paste(p, Kind::Structure, build({0, 1, 2}), {}).edit);
        std::shuffle(rows.begin(), rows.end(), random);
        Project second = p;
        apply(second, plan_paste(p, Kind::Structure, build({2, 0, 1}), {}).edit);
        QVERIFY(first == second);
        QCOMPARE(rim(first, 30), 27.5);
    }
    void units_come_from_the_head_or_are_chosen() {
        const Project p = site();
        for (const char* head : {"Rim (ft)", "Rim [ft]", "rim ft", "RIM, ft", "Rim / ft"}) {
            const PastePlan plan = plan_paste(p, Kind::Structure, std::string("name\t") + head + "\nA1\t100\n", {});
            Project q = p;
            apply(q, plan.edit);
            QVERIFY2(std::abs(rim(q, 1) - 30.48) < 1e-12, head);
            QVERIFY(plan.columns[1].unit_given);
        }
        Project q = p;
        apply(q, plan_paste(p, Kind::Structure, "name\trim\nA1\t100\n", {}, {{1, -2, 0.3048, 0}}).edit);
        QVERIFY(std::abs(rim(q, 1) - 30.48) < 1e-12);
        // A unit in the cell holds before the column's; an unknown one is said.
        q = p;
        apply(q, plan_paste(p, Kind::Structure, "name\trim (ft)\nA1\t31 m\n", {}).edit);
        QCOMPARE(rim(q, 1), 31.0);
        QVERIFY(!plan_paste(p, Kind::Structure, "name\trim (parsecs)\nA1\t31\n", {}).problems.empty());
    }
    /// A field's own label is that field whatever words it holds ("Loss K" is no "loss" in K), with its unit too.
    void labels_are_heads() {
        int seen = 0;
        for (const Kind kind : {Kind::Structure, Kind::Pipe, Kind::Catchment, Kind::PondOutlet}) {
            const auto infos = infos_of(kind);
            for (std::size_t i = 0; i < infos.size(); ++i) {
                if (infos[i]->key == "name") continue;
                const std::string unit(UnitSet().unit(infos[i]->quantity).symbol);
                for (const std::string& head : {std::string(infos[i]->label), std::string(infos[i]->key),
                                                std::string(infos[i]->label) + " (" + unit + ")"}) {
                    const PastePlan plan = plan_paste(Project(), kind, "id\t" + head + "\n1\t2\n", {});
                    QVERIFY2(plan.columns.size() == 2 && plan.columns[1].field == static_cast<int>(i), head.c_str());
                    QVERIFY2(plan.problems.empty(), head.c_str());
                    ++seen;
                }
            }
        }
        QVERIFY(seen > 150);
    }
    /// Units in a head as they may be typed behind a number.
    void units_of_a_head_are_those_of_entries() {
        const Project p = site();
        for (const auto& [unit, factor] : {std::pair{"l/s", 1e-3},
                                           {"L/s", 1e-3},
                                           {"lps", 1e-3},
                                           {"m3/s", 1.0},
                                           {"m³/s", 1.0},
                                           {"cfs", 0.3048 * 0.3048 * 0.3048},
                                           {"ft3/s", 0.3048 * 0.3048 * 0.3048}})
            for (const char* head : {"Known flow (%1)", "Known flow [%1]", "Known flow %1"}) {
                const std::string text = "Name\t" + QString(head).arg(unit).toStdString() + "\nA1\t2.5\nA2\t3\n";
                const PastePlan plan = plan_paste(p, Kind::Structure, text, {});
                QVERIFY2(plan.ok && plan.bad == 0 && plan.columns[1].unit_given, text.c_str());
                Project q = p;
                apply(q, plan.edit);
                QVERIFY2(std::abs(q.structures.find(1)->known_flow - 2.5 * factor) < 1e-12, text.c_str());
            }
        const PastePlan odd = plan_paste(p, Kind::Structure, "Name\tRim (furlong)\nA1\t2.5\n", {});
        QVERIFY(!odd.columns[1].unit_given && odd.problems.at(0).message.find("\"furlong\" is no unit of level") == 0);
    }
    void values_out_of_scale_ask_for_their_unit() {
        const Project p = testing::random_project({.pipes = 5, .seed = 1});
        const std::string name = pipe_name(p, *p.pipes.begin());
        // 0.45 in a column of millimetres: a pipe of half a millimetre is no pipe.
        const PastePlan slip = plan_paste(p, Kind::Pipe, "name\tsize\n" + name + "\t0.45\n", {});
        QCOMPARE(slip.columns[1].odd, std::size_t{1});
        // Possible, yet out of scale: taken, counted, and asked about.
        int asked = 0;
        for (const FieldInfo* f : infos_of(Kind::Pipe)) {
            const double value = std::max(f->scale.high * 1.2, 1e-6);
            if (!(f->scale.low <= f->scale.high) || value > f->high || f->quantity == Quantity::None) continue;
            const PastePlan wide = plan_paste(p, Kind::Pipe,
                                              "name\t" + std::string(f->key) + "\n" + name + "\t" +
                                                  QString::number(value, 'g', 12).toStdString() + "\n",
                                              {}, {{1, -2, 1.0, 0}});
            if (wide.columns[1].field < 0) continue;
            ++asked;
            QVERIFY2(wide.columns[1].odd == 1 && wide.bad == 0, f->key.data());
            QVERIFY(wide.problems.size() == 1 &&
                    wide.problems[0].message.find("out of scale for") != std::string::npos);
        }
        QVERIFY(asked >= 1);
        QVERIFY(slip.summary.find("out of scale") != std::string::npos);
        QVERIFY(slip.problems[0].message.find("unit") != std::string::npos);
        const PastePlan right = plan_paste(p, Kind::Pipe, "name\tsize\n" + name + "\t0.45\n", {}, {{1, -2, 1.0, 0}});
        QCOMPARE(right.columns[1].odd, std::size_t{0});
        Project q = p;
        apply(q, right.edit);
        QCOMPARE(q.pipes.begin()->size, 0.45);
    }
    void decimal_commas_and_thousands_are_understood() {
        const Project p = site();
        Project q = p;
        apply(q, plan_paste(p, Kind::Structure, "name\trim\nA1\t21,75\nA2\t1.022,50\n", {}).edit);
        QCOMPARE(rim(q, 1), 21.75);
        QCOMPARE(rim(q, 2), 1022.5);
        const PastePlan asks = plan_paste(p, Kind::Structure, "name\trim\nA1\t1,234\nA2\t1,235\n", {});
        QVERIFY(asks.questions);
        q = p;
        apply(q, plan_paste(p, Kind::Structure, "name\trim\nA1\t1,234\n", {}, {{1, -2, 0, ','}}).edit);
        QCOMPARE(rim(q, 1), 1.234);
    }
    void bad_cells_are_marked_and_nothing_else_is_lost() {
        const Project p = site();
        const PastePlan plan = plan_paste(
            p, Kind::Structure,
            "name\trim\tkind\nA1\tabout 20\tinlet\nA2\t21\tdragon\nA3\t99999\tmanhole\nA4\t20\tmanhole\n", {});
        QCOMPARE(plan.states[0][1], CellState::Bad);
        QCOMPARE(plan.states[0][2], CellState::Changes);
        QCOMPARE(plan.states[1][2], CellState::Bad);
        QCOMPARE(plan.states[2][1], CellState::Bad);  // out of range
        QCOMPARE(plan.states[3][1], CellState::Same);
        QCOMPARE(plan.bad, std::size_t{3});
        QCOMPARE(plan.problems[0].line, 2);
        QCOMPARE(plan.problems[0].column, 2);
        QVERIFY(plan.problems[0].message.find("about 20") != std::string::npos);
        QVERIFY(plan.problems[1].message.find("dragon") != std::string::npos);
        QCOMPARE(plan.changes, std::size_t{2});
    }
    void without_a_head_cells_go_where_the_cursor_is() {
        const Project p = site();
        // Names before the numbers name the rows, one row as well as many, from half of them on.
        for (const char* rows : {"A7\t21\n", "A7\t21\nA9\t22\n", "A7\t21\nA9\t22\nQ1\t23\n"}) {
            Project q = p;
            apply(q, plan_paste(p, Kind::Structure, rows, from(p, {"rim"})).edit);
            QCOMPARE(rim(q, 7), 21.0);
            QCOMPARE(rim(q, 1), 20.0);
        }
        QVERIFY(plan_paste(p, Kind::Structure, "A7\t21\nQ1\t22\n", from(p, {"rim"})).edit.empty());
        const PastePlan plan = plan_paste(p, Kind::Structure, "21\t0.5\n22\t0.6\n", from(p, {"rim", "loss"}));
        QVERIFY(plan.by_place);
        Project q = p;
        apply(q, plan.edit);
        QCOMPARE(rim(q, 1), 21.0);
        QCOMPARE(rim(q, 2), 22.0);
        QCOMPARE(q.structures.find(2)->loss, 0.6);
        // Names in the first column match, even without a head.
        q = p;
        apply(q, plan_paste(p, Kind::Structure, "A9\t31\nA4\t32\n", from(p, {"name", "rim"})).edit);
        QCOMPARE(rim(q, 9), 31.0);
        QCOMPARE(rim(q, 4), 32.0);
        QCOMPARE(rim(q, 1), 20.0);
        // A head that names nothing to match by is refused.
        QVERIFY(!plan_paste(p, Kind::Structure, "rim\n5\n", from(p, {"rim"})).ok);
        QVERIFY(!plan_paste(p, Kind::Structure, "", {}).ok);
        QVERIFY(!plan_paste(p, Kind::Structure, "\n\n\n", {}).ok);
    }
    void what_is_copied_can_be_pasted_back() {
        for (unsigned seed = 1; seed <= 6; ++seed) {
            const Project p = testing::random_project({.pipes = 40, .seed = seed});
            for (const Kind kind : {Kind::Structure, Kind::Pipe, Kind::Catchment}) {
                std::string table = "id";
                const auto infos = infos_of(kind);
                std::vector<std::size_t> fields;
                for (std::size_t f = 0; f < infos.size(); ++f)
                    if (infos[f]->key != "bends" && infos[f]->key != "outline" && infos[f]->key != "flow_path") {
                        fields.push_back(f);
                        table += "\t" + std::string(infos[f]->key);
                    }
                table += "\n";
                with_row_type(kind, [&]<class R>(std::type_identity<R>) {
                    for (const R& row : p.table<R>()) {
                        table += id_text(row.id);
                        for (const std::size_t f : fields) table += "\t" + cell_text(p, kind, row.id, f);
                        table += "\n";
                    }
                });
                const PastePlan plan = plan_paste(p, kind, table, {});
                QVERIFY2(plan.bad == 0, plan.problems.empty() ? "" : plan.problems[0].message.c_str());
                QVERIFY2(plan.changes == 0, plan.summary.c_str());
            }
        }
    }
    void wide_and_long_pastes_stay_quick() {
        Project p = site();
        std::string wide = "name";
        for (int c = 0; c < 300; ++c) wide += "\tcolumn " + std::to_string(c);
        wide += "\trim\nA1";
        for (int c = 0; c < 300; ++c) wide += "\tx";
        wide += "\t25\n";
        const PastePlan plan = plan_paste(p, Kind::Structure, wide, {});
        QCOMPARE(plan.columns.size(), std::size_t{302});
        QCOMPARE(plan.changes, std::size_t{1});
        std::string longer = "name\trim\n";
        for (int r = 0; r < 1000000; ++r) longer += "B" + std::to_string(r) + "\t21\n";
        longer += "A5\t26\n";
        QElapsedTimer t;
        t.start();
        const PastePlan big = plan_paste(p, Kind::Structure, longer, {});
        QCOMPARE(big.unmatched, std::size_t{1000000});
        QCOMPARE(big.changes, std::size_t{1});
        QVERIFY2(t.elapsed() < 15000, qPrintable(QString("%1 ms").arg(t.elapsed())));
    }

    void a_criteria_set_is_saved_loaded_compared_and_kept() {
        QTemporaryDir dir;
        const std::string path = dir.path().toStdString() + "/a.criteria";
        Project p = new_project(UnitSystem::Si);
        Limit own;
        own.id = 77;
        own.kind = LimitKind::LeastCover;
        own.value = 0.5;
        own.element = 123;
        p.limits.insert(own);
        Limit group = own;
        group.id = 78;
        group.element = 0;
        group.group = "quay";
        p.limits.insert(group);
        FindingRank rank;
        rank.id = 79;
        rank.finding = "pipe too steep";
        rank.rank = RankedAs::Note;
        p.finding_ranks.insert(rank);
        p.settings_rows.change(settings_id)->contraction_loss = 0.1;
        const Project set = criteria_of(p, "Vale rules", "2026-11", "invented");
        QCOMPARE(set.settings().criteria, std::string("Vale rules, 2026-11"));
        QVERIFY(!set.limits.find(77) && set.limits.find(78));  // exceptions of single elements belong to the site
        QVERIFY(save_project(set, path).ok);
        const ReadOutcome read = load_project(path);
        QVERIFY(read.ok);
        // Another project, with other values: the set makes it alike, and undoing gives it back.
        Project q = new_project(UnitSystem::Us);
        q.limits.insert(own);
        Limit* some = q.limits.change((++q.limits.begin())->id);
        some->value *= 1.7;
        q.settings_rows.change(settings_id)->least_time = 777;
        FindingRank other = rank;  // ranks what the set does not
        other.finding = "pipe too flat";
        other.rank = RankedAs::Off;
        q.finding_ranks.insert(other);
        QVERIFY(!criteria_differences(q, read.project).empty());
        const Project before = q;
        const Edit edit = criteria_edit(q, read.project);
        apply(q, edit);
        QVERIFY(criteria_differences(q, read.project).empty());
        QCOMPARE(q.settings().criteria, set.settings().criteria);
        QCOMPARE(q.limits.find(77)->value, 0.5);
        QVERIFY(criteria_edit(q, read.project).empty());
        QCOMPARE(q.finding_ranks.size(), std::size_t{1});
        QCOMPARE(q.finding_ranks.begin()->finding, rank.finding);
        QCOMPARE(q.finding_ranks.begin()->rank, RankedAs::Note);
        QCOMPARE(q.settings().contraction_loss, 0.1);
        // A set of an earlier version says nothing about later methods: they stay.
        Project early = read.project;
        Settings* s = early.settings_rows.change(settings_id);
        for (const char* key : {"bend_loss", "contraction_loss"})
            s->origin[*field_index(Kind::Settings, key)] = Origin::Default;
        s->contraction_loss = s->bend_loss = 0;
        QVERIFY(criteria_edit(q, early).empty());
        QCOMPARE(q.settings().edition, Edition::Us);  // the constants go with a project's units, not with its rules
        // A limit that the set does not hold is switched off, not lost.
        Project less = read.project;
        const Limit dropped = *less.limits.begin();
        less.limits.erase(dropped.id);
        Project r = q;
        apply(r, criteria_edit(q, less));
        bool off = false;
        for (const Limit& l : r.limits)
            off |= l.kind == dropped.kind && l.group == dropped.group && !l.element && !l.active;
        QVERIFY(off);
        revert(q, edit);
        QVERIFY(q == before);
    }
    void a_library_brings_rows_in_and_takes_them() {
        Project p = new_project(UnitSystem::Si), library = new_project(UnitSystem::Si);
        PipeSize s = *library.sizes.begin();
        const PipeSize same = s;
        library.sizes.change(s.id)->roughness = 0.0111;
        s.id = 999999;
        s.size = 3.333;
        library.sizes.insert(s);
        const Edit edit = library_edit(p, library, {true, true, false});
        Project q = p;
        apply(q, edit);
        QCOMPARE(q.sizes.size(), p.sizes.size() + 1);
        bool updated = false;
        for (const PipeSize& row : q.sizes)
            updated |= row.material == same.material && row.shape == same.shape && row.size == same.size &&
                       row.roughness == 0.0111;
        QVERIFY(updated);
        QVERIFY(library_edit(q, library, {true, true, false}).empty());
        QVERIFY(!in_words(p, edit).empty());
        QVERIFY(library_with(library, p, {true, false, false}).sizes == p.sizes);
        QVERIFY(library_with(library, p, {false, false, false}) == library);
        const Project types = library_with(library, p, {false, true, false}),
                      rain = library_with(library, p, {false, false, true});
        QVERIFY(types.structure_types == p.structure_types && types.sizes == library.sizes &&
                types.events == library.events);
        QVERIFY(rain.events == p.events && rain.structure_types == library.structure_types);
    }
};

QTEST_GUILESS_MAIN(TestPaste)
#include "test_paste.moc"
