// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QSettings>
#include <QtTest>
#include <cmath>
#include <csignal>
#include <filesystem>
#include <fstream>

#include <sys/wait.h>
#include <unistd.h>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/plan_tool.h"
#include "app/window/main_window.h"
#include "exchange/edit_text.h"
#include "support/networks.h"

using namespace culvert;
using namespace culvert::app;
namespace fs = std::filesystem;

/// The ledger's manners, rules, several elements at once, history, variants, and recovery after a crash.
class TestWorkbench : public QObject {
    Q_OBJECT
    std::unique_ptr<Document> document_;
    std::unique_ptr<MainWindow> window_;
    QTemporaryDir dir_;

    Document& d() { return *document_; }
    Ledger& ledger() { return *window_->drawer()->ledger(); }
    LedgerModel& model() { return *ledger().model(); }
    void settle() {
        QTRY_VERIFY_WITH_TIMEOUT(d().current() && (d().project().events.empty() || !d().all_results().empty()), 5000);
    }
    ElementRef element(const char* name) { return find_element(d().project(), name); }
    const Structure& structure(const char* name) { return *d().project().structures.find(element(name).id); }
    void open(const char* example) {
        window_->open_file(MainWindow::example(example));
        settle();
    }
    void choose(std::initializer_list<const char*> names, const char* key) {
        ledger().table()->selectionModel()->clearSelection();
        for (const char* name : names)
            ledger().table()->selectionModel()->select(
                model().index(model().row_of(element(name).id), model().column_of(key)), QItemSelectionModel::Select);
        QApplication::processEvents();
    }
    void press(QPushButton* b) { QTest::mouseClick(b, Qt::LeftButton); }

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QCoreApplication::setOrganizationName("calm-culvert-test");
        QSettings().clear();
        set_theme(false);
    }
    void init() {
        document_ = std::make_unique<Document>();
        window_ = std::make_unique<MainWindow>(*document_);
        window_->resize(1280, 800);
        window_->show();
        window_->activateWindow();
        QApplication::processEvents();
    }
    void cleanup() {
        window_.reset();
        document_.reset();
        QSettings().clear();
    }

    void rows_are_sorted_as_people_count() {
        d().set_project(testing::random_project({.pipes = 40, .seed = 3}));
        ledger().show_kind(Kind::Structure);
        for (int r = 1; r < model().rowCount(); ++r)
            QVERIFY(sort_key(model().index(r - 1, 0).data().toString().toStdString()) <=
                    sort_key(model().index(r, 0).data().toString().toStdString()));
        const std::vector<std::string> in_order{"",    "-1",   "1",     "02",   "10", "a",  "A1", "a2-B1", "A2-b10",
                                                "A10", "a10b", "A010c", "a999", "ab", "Ä1", "ä2", "Ä10"};
        for (std::size_t i = 0; i + 1 < in_order.size(); ++i)
            QVERIFY2(sort_key(in_order[i]) < sort_key(in_order[i + 1]), in_order[i].c_str());
        QCOMPARE(sort_key("A007"), sort_key("a7"));
        QVERIFY(sort_key("n99999999999999999999") < sort_key("n100000000000000000000"));
        const int rim = model().column_of("rim");
        model().sort(rim, Qt::DescendingOrder);
        for (int r = 1; r < model().rowCount(); ++r)
            QVERIFY(model().index(r - 1, rim).data(Qt::UserRole).toDouble() >=
                    model().index(r, rim).data(Qt::UserRole).toDouble());
        for (int r = 0; r < model().rowCount(); ++r) QCOMPARE(model().row_of(model().id_of(r)), r);
    }
    void rows_are_filtered_by_words_comparisons_and_verdicts() {
        open("alder-quay");
        ledger().show_kind(Kind::Structure);
        const int all = model().rowCount();
        ledger().filter()->setFocus();
        QTest::keyClicks(ledger().filter(), "manhole");
        QTest::keyClick(ledger().filter(), Qt::Key_Return);
        QCOMPARE(model().rowCount(), 3);
        QCOMPARE(ledger().said(), QString("3 of %1 rows").arg(all));
        QVERIFY(model().row_of(element("A1").id) < 0);
        ledger().filter()->setText("kind = outfall");
        QTest::keyClick(ledger().filter(), Qt::Key_Return);
        QCOMPARE(model().rowCount(), 1);
        ledger().filter()->setText("rim > 23.1");
        QTest::keyClick(ledger().filter(), Qt::Key_Return);
        int expected = 0;
        for (const Structure& s : d().project().structures) expected += s.rim > 23.1 + 1e-9;
        QCOMPARE(model().rowCount(), expected);
        ledger().filter()->setText("colour = red");
        QTest::keyClick(ledger().filter(), Qt::Key_Return);
        QVERIFY(ledger().said().contains("no column"));
        QCOMPARE(model().rowCount(), all);
        ledger().filter()->clear();
        ledger().show_kind(Kind::Pipe);
        ledger().verdicts()->setCurrentIndex(2);
        int beyond = 0;
        for (const Verdict v : d().review()->links) beyond += v == Verdict::Beyond;
        QVERIFY(beyond > 0);
        QCOMPARE(model().rowCount(), beyond);
    }
    void a_formula_changes_all_chosen_cells_at_once() {
        open("alder-quay");
        ledger().show_kind(Kind::Structure);
        const double a1 = structure("A1").rim, a2 = structure("A2").rim, a3 = structure("A3").rim;
        choose({"A1", "A2"}, "rim");
        ledger().change()->setFocus();
        QTest::keyClicks(ledger().change(), "+0.15");
        QTest::keyClick(ledger().change(), Qt::Key_Return);
        QVERIFY(std::abs(structure("A1").rim - a1 - 0.15) < 1e-9 && std::abs(structure("A2").rim - a2 - 0.15) < 1e-9);
        QCOMPARE(structure("A3").rim, a3);
        QVERIFY2(ledger().said().contains("2 of 2"), qPrintable(ledger().said()));
        d().undo();  // one change
        QCOMPARE(structure("A1").rim, a1);
        QCOMPARE(structure("A2").rim, a2);
        choose({"A1"}, "rim");
        ledger().change_chosen("=rim*two");
        QVERIFY(ledger().said().contains("two"));
        choose({"A1", "A3"}, "kind");
        ledger().change_chosen("manhole");
        QCOMPARE(structure("A3").kind, StructureKind::Manhole);
        choose({"A1", "A3"}, "name");
        ledger().change_chosen("same");
        QVERIFY(ledger().said().contains("unique"));
        // In a cell, by typing.
        QVERIFY(model().setData(model().index(model().row_of(element("A1").id), model().column_of("rim")), "=rim-1",
                                Qt::EditRole));
        QVERIFY(std::abs(structure("A1").rim - a1 + 1) < 1e-9);
    }
    void values_are_filled_down_and_rows_added() {
        open("alder-quay");
        ledger().show_kind(Kind::Structure);
        model().sort(0, Qt::AscendingOrder);
        choose({"A1", "A2", "A3"}, "loss");
        QVERIFY(model().setData(model().index(model().row_of(element("A1").id), model().column_of("loss")), "0.77",
                                Qt::EditRole));
        choose({"A1", "A2", "A3"}, "loss");
        ledger().table()->setFocus();
        QTest::keyClick(ledger().table(), Qt::Key_D, Qt::ControlModifier);
        QCOMPARE(structure("A2").loss, 0.77);
        QCOMPARE(structure("A3").loss, 0.77);
        d().undo();
        QVERIFY(std::isnan(structure("A3").loss));
        // Delete empties cells in the table, and never the element; a letter begins an entry, not a tool.
        choose({"A1", "A2"}, "loss");
        ledger().table()->setFocus();
        const std::size_t structures = d().project().structures.size();
        QTest::keyClick(ledger().table(), Qt::Key_Delete);
        QVERIFY(std::isnan(structure("A1").loss));
        QCOMPARE(d().project().structures.size(), structures);
        choose({"A1"}, "name");
        QTest::keyClick(ledger().table(), Qt::Key_Delete);
        QVERIFY(element("A1").id);
        ledger().table()->setCurrentIndex(
            model().index(model().row_of(element("A1").id), model().column_of("description")));
        QTest::keyClick(ledger().table(), Qt::Key_D);
        QCOMPARE(window_->plan()->tool_name(), QString("select"));
        QTest::keyClick(ledger().table(), Qt::Key_Escape);
        ledger().show_kind(Kind::StructureType);
        const int before = model().rowCount();
        ledger().table()->setCurrentIndex(model().index(0, 0));
        ledger().add_row();
        QCOMPARE(model().rowCount(), before + 1);
        ledger().delete_rows();
        QCOMPARE(model().rowCount(), before);
    }
    void a_table_pasted_from_a_spreadsheet_is_shown_accepted_and_undone_with_one_key() {
        open("alder-quay");
        ledger().show_kind(Kind::Structure);
        window_->drawer()->show_page(&ledger());
        QApplication::clipboard()->setText("Name\tRim (m)\nA1\t24.5\nA2\t23,85\nQ7\t20\n");
        const Project before = d().project();
        ledger().table()->setFocus();
        QTest::keyClick(ledger().table(), Qt::Key_V, Qt::ControlModifier);
        QTRY_VERIFY(ledger().pasting());
        QVERIFY(d().project() == before);
        QVERIFY(ledger().paste_view()->said().contains("1 row finds no element"));
        QCOMPARE(ledger().paste_view()->table()->model()->index(2, 0).data().toString(), QString("no element"));
        press(ledger().paste_view()->findChild<QPushButton*>("paste-accept"));
        QVERIFY(!ledger().pasting());
        QCOMPARE(structure("A1").rim, 24.5);
        QCOMPARE(structure("A2").rim, 23.85);
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(d().project() == before);
        // Dismissed: nothing.
        ledger().paste("name\trim\nA1\t1\n");
        QTRY_VERIFY(ledger().pasting());
        press(ledger().paste_view()->findChild<QPushButton*>("paste-dismiss"));
        QVERIFY(d().project() == before && !ledger().pasting());
        // The unit of a column is chosen after looking.
        ledger().paste("name\trim\nA1\t80\n");
        QTRY_VERIFY(ledger().pasting() && ledger().paste_view()->shown()->changes == 1);
        ledger().paste_view()->choose({1, -2, 0.3048, 0});
        QTRY_VERIFY(ledger().paste_view()->shown()->columns[1].unit == "ft");
        ledger().paste_view()->accept();
        QVERIFY(std::abs(structure("A1").rim - 24.384) < 1e-9);
    }
    void what_is_copied_with_its_head_comes_back_unchanged() {
        open("alder-quay");
        ledger().show_kind(Kind::Pipe);
        ledger().table()->selectAll();
        const QString copied = ledger().copied(true);
        QVERIFY(copied.startsWith("Name\t"));
        QCOMPARE(copied.count('\n'), 16);
        ledger().paste(copied);
        QTRY_VERIFY(ledger().paste_view()->shown() && ledger().paste_view()->said().contains("0 values"));
        QCOMPARE(ledger().paste_view()->shown()->bad, std::size_t{0});
        QCOMPARE(ledger().paste_view()->shown()->unmatched, std::size_t{0});
    }
    void columns_have_units_digits_and_places_of_their_own() {
        open("alder-quay");
        ledger().show_kind(Kind::Structure);
        const int rim = model().column_of("rim"), row = model().row_of(element("A1").id);
        const QString metres = model().index(row, rim).data().toString();
        model().set_display(rim, "ft", 1);
        QCOMPARE(model().index(row, rim).data().toString(), QString::number(structure("A1").rim / 0.3048, 'f', 1));
        QVERIFY(model().head(rim).contains("ft"));
        QVERIFY(model().setData(model().index(row, rim), "80", Qt::EditRole));  // a bare number is in the column's unit
        QVERIFY(std::abs(structure("A1").rim - 24.384) < 1e-9);
        ledger().show_kind(Kind::Pipe);
        ledger().show_kind(Kind::Structure);
        QVERIFY(model().head(rim).contains("ft"));  // kept
        model().set_display(rim, {}, -1);
        d().undo();
        QCOMPARE(model().index(row, rim).data().toString(), metres);
        // The first columns are held; more can be.
        QVERIFY(!ledger().held()->isColumnHidden(0) && ledger().table()->isColumnHidden(0));
        ledger().hold_columns(3);
        int held = 0;
        for (int c = 0; c < model().columnCount(); ++c) held += !ledger().held()->isColumnHidden(c);
        QCOMPARE(held, 3);
        ledger().show_kind(Kind::Pipe);
        ledger().show_kind(Kind::Structure);
        held = 0;
        for (int c = 0; c < model().columnCount(); ++c) held += !ledger().held()->isColumnHidden(c);
        QCOMPARE(held, 3);
    }
    void twenty_thousand_rows_open_sort_and_filter_without_a_hitch() {
        d().set_project(testing::random_project({.pipes = 20000, .seed = 3, .events = 1, .awkward = false}));
        QElapsedTimer t;
        t.start();
        ledger().show_kind(Kind::Pipe);
        QVERIFY(model().rowCount() == 20000);
        model().sort(model().column_of("invert_from"), Qt::DescendingOrder);
        model().set_filter("size > 400", LedgerModel::Show::All);
        QVERIFY(model().rowCount() > 100 && model().rowCount() < 20000);
        QVERIFY2(t.elapsed() < 3000, qPrintable(QString("%1 ms").arg(t.elapsed())));
    }
    void several_elements_are_changed_together_in_the_card() {
        open("alder-quay");
        d().select({element("A1"), element("A2"), element("A3–A4")});
        MultiEdit* rim = nullptr;
        for (MultiEdit* m : window_->card()->many())
            if (m->key() == "rim") rim = m;
        QVERIFY(rim && rim->line()->placeholderText() == "several");
        const double a1 = structure("A1").rim, a2 = structure("A2").rim;
        rim->line()->setFocus();
        QTest::keyClicks(rim->line(), "-0.1");
        QTest::keyClick(rim->line(), Qt::Key_Return);
        QVERIFY(std::abs(structure("A1").rim - a1 + 0.1) < 1e-9 && std::abs(structure("A2").rim - a2 + 0.1) < 1e-9);
        d().undo();
        QCOMPARE(structure("A1").rim, a1);
        for (MultiEdit* m : window_->card()->many())
            if (m->key() == "group") {
                QTest::keyClicks(m->line(), "quay side");
                QTest::keyClick(m->line(), Qt::Key_Return);
                break;
            }
        QCOMPARE(structure("A2").group, std::string("quay side"));
        QCOMPARE(d().selection().size(), std::size_t{3});
    }
    void a_typed_value_goes_back_where_it_came_from() {
        open("alder-quay");
        d().select({element("A3–A4")});
        FieldEdit* n = window_->card()->field(Kind::Pipe, "roughness");
        const double before = d().project().pipes.find(element("A3–A4").id)->roughness;
        n->line()->setFocus();
        n->line()->selectAll();
        QTest::keyClicks(n->line(), "0.02");
        QTest::keyClick(n->line(), Qt::Key_Return);
        QCOMPARE(d().project().pipes.find(element("A3–A4").id)->roughness, 0.02);
        QTRY_VERIFY(n->back()->isVisibleTo(n));
        QTest::mouseClick(n->back(), Qt::LeftButton);
        QCOMPARE(d().project().pipes.find(element("A3–A4").id)->roughness, before);
        QTRY_VERIFY(!n->back()->isVisibleTo(n));
    }
    void limits_have_exceptions_by_group_and_by_element() {
        open("alder-quay");
        RulesPanel* rules = window_->drawer()->rules();
        window_->actions().find("rules.1")->trigger();
        QVERIFY(rules->isVisible() && rules->page() == 1);
        const auto limits = d().project().limits.size();
        QCOMPARE(static_cast<std::size_t>(rules->limits()->rowCount()), limits);
        d().select({element("A3–A4"), element("A4–A5")});
        rules->add_exception();
        QCOMPARE(d().project().limits.size(), limits + 2);
        rules->findChild<QComboBox*>("exception-for")->setCurrentText("quay side");
        rules->add_exception();
        bool grouped = false;
        for (const Limit& l : d().project().limits) grouped |= l.group == "quay side";
        QVERIFY(grouped);
        // A value is typed; what is not understood is said and nothing changes.
        int row = -1;
        for (int r = 0; r < rules->limits()->rowCount(); ++r)
            if (rules->limits()->item(r, 1)->text() == "least cover" &&
                rules->limits()->item(r, 3)->text() == "the project")
                row = r;
        QVERIFY(row >= 0);
        rules->limits()->item(row, 2)->setText("1.1 m");
        QTRY_COMPARE(find_limit(d().project(), LimitKind::LeastCover, 0)->value, 1.1);
        rules->limits()->item(row, 2)->setText("deep");
        QVERIFY(rules->said().contains("deep"));
        QTest::qWait(20);
        QCOMPARE(find_limit(d().project(), LimitKind::LeastCover, 0)->value, 1.1);
        rules->limits()->item(row, 4)->setText("town rules, part 3");
        QTRY_COMPARE(find_limit(d().project(), LimitKind::LeastCover, 0)->source, std::string("town rules, part 3"));
    }
    void a_criteria_set_is_looked_at_before_it_is_taken() {
        open("alder-quay");
        RulesPanel* rules = window_->drawer()->rules();
        const QString path = dir_.path() + "/town.criteria";
        QVERIFY(rules->save_criteria(path, "Town rules", "2", "invented"));
        Editing e(d().project(), "loosen");
        e.set(Kind::Limit, find_limit(d().project(), LimitKind::LeastVelocity, 0)->id, "value", 0.11);
        d().commit(e.take());
        rules->load_criteria(path);
        QVERIFY(rules->criteria_list()->count() >= 1);
        QVERIFY(rules->criteria_list()->item(0)->text().contains("velocity"));
        QCOMPARE(find_limit(d().project(), LimitKind::LeastVelocity, 0)->value, 0.11);
        rules->accept_criteria();
        QVERIFY(window_->drawer()->preview()->active());
        window_->drawer()->preview()->accept();
        QVERIFY(find_limit(d().project(), LimitKind::LeastVelocity, 0)->value != 0.11);
        QCOMPARE(d().project().settings().criteria, std::string("Town rules, 2"));
        rules->load_criteria(dir_.path() + "/nowhere.criteria");
        QVERIFY(rules->said().contains("nowhere"));
    }
    void kinds_are_exchanged_after_a_look() {
        open("alder-quay");
        Editing plastic(d().project(), "plastic");
        for (PipeSize size : d().project().sizes) {
            size.id = random_id();
            size.material = "plastic";
            plastic.insert(size);
        }
        d().commit(plastic.take());
        RulesPanel* rules = window_->drawer()->rules();
        window_->actions().find("rules.4")->trigger();
        int row = -1;
        for (int r = 0; r < rules->swaps()->rowCount(); ++r)
            if (rules->swaps()->item(r, 0)->text() == "pipes") row = r;
        QVERIFY(row >= 0);
        auto* box = qobject_cast<QComboBox*>(rules->swaps()->cellWidget(row, 3));
        const QString from = rules->swaps()->item(row, 1)->text();
        for (int i = 1; i < box->count(); ++i)
            if (box->itemText(i) != from) box->setCurrentIndex(i);
        const std::string to = plain(box->currentText());
        press(rules->findChild<QPushButton*>("show-swap"));
        QVERIFY2(window_->drawer()->preview()->active(),
                 qPrintable(rules->said() + " from " + from + " to " + text(to)));
        window_->drawer()->preview()->accept();
        for (const Pipe& p : d().project().pipes)
            if (text(p.material) != from) QCOMPARE(p.material, to);
        d().undo();
        for (const Pipe& p : d().project().pipes) QVERIFY(p.material != to);
    }
    void the_history_jumps_and_says_what_was_done() {
        open("alder-quay");
        const Project zero = d().project();
        std::vector<Project> states{zero};
        for (int k = 1; k <= 4; ++k) {
            Editing e(d().project(), "Step " + std::to_string(k));
            e.set(Kind::Structure, element("A1").id, "rim", 24.0 + k);
            d().commit(e.take());
            states.push_back(d().project());
        }
        HistoryPanel* history = window_->drawer()->history();
        window_->drawer()->show_page(history);
        QCOMPARE(history->list()->count(), 5);
        QCOMPARE(history->list()->item(3)->text(), QString("Step 3"));
        for (const int to : {1, 4, 0, 3}) {
            emit history->list()->itemClicked(history->list()->item(to));
            QTRY_VERIFY(d().project() == states[static_cast<std::size_t>(to)]);
            QCOMPARE(history->list()->currentRow(), to);
        }
        d().undo();
        QVERIFY(d().project() == states[2]);
    }
    void a_variant_leaves_the_base_alone_follows_it_and_meets_conflicts() {
        open("alder-quay");
        const Project base = d().project();
        HistoryPanel* history = window_->drawer()->history();
        window_->drawer()->show_page(history);
        history->new_variant();
        QVERIFY(d().variant());
        const std::uint64_t variant = d().variant();
        const auto set = [&](const char* name, const char* key, double v) {
            Editing e(d().project(), std::string("set ") + key);
            e.set(Kind::Structure, element(name).id, key, v);
            d().commit(e.take());
        };
        set("A1", "rim", 26.0);
        QCOMPARE(structure("A1").rim, 26.0);
        QCOMPARE(d().base().structures.find(element("A1").id)->rim, base.structures.find(element("A1").id)->rim);
        QVERIFY(window_->windowTitle().contains("Variant 1"));
        // In the base: another field moves, and the same one moves elsewhere.
        d().activate_variant(0);
        QCOMPARE(structure("A1").rim, base.structures.find(element("A1").id)->rim);
        set("A2", "rim", 23.5);
        set("A1", "rim", 25.5);
        d().activate_variant(variant);
        QCOMPARE(structure("A2").rim, 23.5);  // follows
        QCOMPARE(structure("A1").rim, 26.0);  // its own
        QCOMPARE(d().conflicts().size(), std::size_t{1});
        QTRY_VERIFY(std::any_of(d().data_findings().begin(), d().data_findings().end(),
                                [](const Finding& f) { return f.title == "variant and base differ"; }));
        window_->drawer()->show_page(history);
        auto* mine = history->findChild<QPushButton*>("conflict-0-base");
        QVERIFY(mine);
        press(mine);
        QTRY_VERIFY(d().conflicts().empty());
        QCOMPARE(structure("A1").rim, 25.5);
        // Undo runs through it all; so does a save.
        d().undo();
        QCOMPARE(structure("A1").rim, 26.0);
        const QString path = dir_.path() + "/variants.culvert";
        QVERIFY(d().save(path).isEmpty());
        Document other;
        other.open(path, false);
        QCOMPARE(other.project().variants.size(), std::size_t{1});
        other.activate_variant(variant);
        QVERIFY(other.project() == d().project());
        // Compared, element by element.
        history->left()->setCurrentIndex(0);
        history->right()->setCurrentIndex(1);
        history->compare();
        QTRY_COMPARE(history->table()->columnCount(), 4);  // until then the conflict stands there
        QCOMPARE(history->table()->rowCount(), 1);
        QCOMPARE(history->table()->item(0, 0)->text(), QString("A1"));
        QVERIFY(history->table()->item(0, 3)->text().startsWith("26"));
        // Side by side: another plan of the base, the same view.
        window_->show_side_by_side(0);
        QVERIFY(window_->side_plan() && window_->side_plan()->isVisible());
        QTRY_VERIFY(window_->side_plan()->scale() > 0 &&
                    std::abs(window_->side_plan()->scale() - window_->plan()->scale()) < 1e-9);
        // Taken into the base, the variant is gone and the base is as it was; a conflict must be settled first.
        history->take_into_base();
        QVERIFY(history->said().contains("conflicts"));
        d().settle_conflict(0, true);
        const Project wanted = d().project();
        history->take_into_base();
        QCOMPARE(d().variant(), std::uint64_t{0});
        QVERIFY(d().project().structures == wanted.structures);
        QVERIFY(d().project().variants.empty());
    }
    void an_issued_state_is_kept_and_compared_with() {
        open("alder-quay");
        QVERIFY(d().save(dir_.path() + "/issued.culvert").isEmpty());
        HistoryPanel* history = window_->drawer()->history();
        window_->drawer()->show_page(history);
        history->issue();
        QTRY_COMPARE(d().project().variants.size(), std::size_t{1});
        const double was = structure("A1").rim;
        Editing e(d().project(), "later");
        e.set(Kind::Structure, element("A1").id, "rim", was + 1);
        d().commit(e.take());
        QCOMPARE(history->left()->count(), 2);
        history->left()->setCurrentIndex(1);
        history->right()->setCurrentIndex(0);
        history->compare();
        QTRY_COMPARE(history->table()->rowCount(), 1);
        QVERIFY(d().save(dir_.path() + "/issued.culvert").isEmpty());
        Document other;
        other.open(dir_.path() + "/issued.culvert", false);
        const auto state = other.issued(*other.project().variants.begin());
        QVERIFY(state);
        QCOMPARE(state->structures.find(element("A1").id)->rim, was);
    }
    void a_killed_program_gives_everything_back() {
        const std::string state = dir_.path().toStdString() + "/state",
                          file = dir_.path().toStdString() + "/killed.culvert";
        fs::copy_file(plain(MainWindow::example("alder-quay")), file);
        // Another process works on the project and is killed in the middle of it.
        const std::string journal = [&] {
            Project p = load_project(file).project;
            Journal j(journal_name(state, file));
            fs::create_directories(state);
            j.begin({p, file, stamp_of(file), false, 0});
            for (int k = 1; k <= 3; ++k) {
                Editing e(p, "Raise A1 " + std::to_string(k));
                e.set(Kind::Structure, find_element(p, "A1").id, "rim", 25.0 + k);
                const Edit edit = e.take();
                apply(p, edit);
                j.record(edit, p);
            }
            j.settle();
            return j.path();
        }();
        d().set_state_folder(text(state));
        window_->open_file(text(file));
        QVERIFY2(window_->notice()->said().contains("3 changes can be brought back"),
                 qPrintable(window_->notice()->said()));
        QVERIFY(window_->notice()->said().contains("Raise A1 3"));
        press(window_->notice()->findChild<QPushButton*>("notice-bring-it-back"));
        QCOMPARE(structure("A1").rim, 28.0);
        QVERIFY(d().modified());
        QVERIFY(!fs::exists(journal));
        d().undo();
        QCOMPARE(structure("A1").rim, 27.0);
        // It keeps a journal of its own now; a save empties it, a clean end removes it.
        QVERIFY(d().journal()->settle());
        QVERIFY(recover(d().journal()->path()));
        QVERIFY(d().save(text(file)).isEmpty());
        QVERIFY(!recover(d().journal()->path()));
        const std::string own = d().journal()->path();
        d().close_journal();
        QVERIFY(!fs::exists(own));
    }
    void the_real_program_killed_mid_edit_is_recovered_by_the_next() {
        // A child process opens a document, edits, and is killed without warning.
        const QString state = dir_.path() + "/state2", path = dir_.path() + "/real.culvert";
        QFile::copy(MainWindow::example("alder-quay"), path);
        const std::uint64_t a1 = find_element(load_project(plain(path)).project, "A1").id;
        int ready[2];
        QCOMPARE(pipe(ready), 0);
        const pid_t child = fork();
        if (child == 0) {
            // Only plain code in the child: the journal as the document uses it.
            fs::create_directories(plain(state));
            Project p = load_project(plain(path)).project;
            Journal j(journal_name(plain(state), plain(path)));
            j.begin({p, plain(path), stamp_of(plain(path)), false, 0});
            Editing e(p, "Last words");
            e.set(Kind::Structure, a1, "rim", 31.0);
            const Edit edit = e.take();
            apply(p, edit);
            j.record(edit, p);
            j.settle();
            (void)!write(ready[1], "x", 1);
            for (;;) pause();
        }
        char x = 0;
        QCOMPARE(read(ready[0], &x, 1), ssize_t{1});
        kill(child, SIGKILL);
        waitpid(child, nullptr, 0);
        d().set_state_folder(state);
        window_->open_file(path);
        QVERIFY2(window_->notice()->said().contains("Last words"), qPrintable(window_->notice()->said()));
        press(window_->notice()->findChild<QPushButton*>("notice-bring-it-back"));
        QCOMPARE(structure("A1").rim, 31.0);
    }
    void fifty_thousand_pipes_stay_usable() {
        d().set_project(testing::random_project({.pipes = 50000, .seed = 7, .events = 1, .awkward = false}));
        PlanView* plan = window_->plan();
        plan->zoom_to_all();
        QElapsedTimer t;
        t.start();
        QPixmap frame(plan->size());
        {
            QPainter p(&frame);
            plan->render_frame(p);
        }
        QVERIFY2(t.elapsed() < 1500, qPrintable(QString("a frame %1 ms").arg(t.elapsed())));
        t.restart();
        const QPointF middle(plan->width() / 2.0, plan->height() / 2.0);
        plan->zoom_at(middle, 30);
        plan->grab();
        QVERIFY2(t.elapsed() < 500, qPrintable(QString("zoomed %1 ms").arg(t.elapsed())));
        // An edit is made, shown and undone while the solve runs elsewhere.
        t.restart();
        Editing e(d().project(), "one pipe");
        e.set(Kind::Pipe, d().project().pipes.begin()->id, "size", 0.9);
        d().commit(e.take());
        QVERIFY2(t.elapsed() < 1000, qPrintable(QString("an edit %1 ms").arg(t.elapsed())));
        d().undo();
    }
};

QTEST_MAIN(TestWorkbench)
#include "test_workbench.moc"
