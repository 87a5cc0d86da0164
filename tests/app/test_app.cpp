// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QClipboard>
#include <QLineEdit>
#include <QProcess>
#include <QStandardItemModel>
#include <QtTest>
#include <set>

#include "app/kit/theme.h"
#include "app/window/main_window.h"
#include "exchange/project_file.h"
#include "support/networks.h"

using namespace culvert;
using namespace culvert::app;

/// The real window, driven by mouse and keys.
class TestApp : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

    /// A window of its own for each test, on a document of its own.
    struct Fixture {
        Document document;
        MainWindow window{document};
        Fixture() {
            window.resize(1280, 800);
            window.show();
            QApplication::processEvents();
        }
        void open(const char* example) {
            window.open_file(MainWindow::example(example));
            settle();
        }
        void settle() {
            QTRY_VERIFY_WITH_TIMEOUT(
                document.current() && (document.project().events.empty() || !document.all_results().empty()), 5000);
        }
        [[nodiscard]] ElementRef element(const char* name) const { return find_element(document.project(), name); }
        [[nodiscard]] const NodeResult& at(const char* structure) const {
            const auto r = document.result();
            return r->nodes[static_cast<std::size_t>(
                r->network->node_of(StructureId{find_element(document.project(), structure).id}))];
        }
        void click(QPointF at, Qt::KeyboardModifiers modifiers = {}) {
            QTest::mouseClick(window.plan(), Qt::LeftButton, modifiers, at.toPoint());
        }
        void key(QWidget* w, int k, Qt::KeyboardModifiers modifiers = {}) {
            QTest::keyClick(w, static_cast<Qt::Key>(k), modifiers);
        }
        /// Types into a field of the card and presses Enter.
        void type(Kind kind, const char* field, const char* text) {
            FieldEdit* f = window.card()->field(kind, field);
            QVERIFY2(f, field);
            f->line()->setFocus();
            f->line()->selectAll();
            QTest::keyClicks(f->line(), text);
            QTest::keyClick(f->line(), Qt::Key_Return);
            QApplication::processEvents();
        }
        [[nodiscard]] bool has_finding(const char* element, const char* title) const {
            const auto* m = window.drawer()->findings();
            for (int i = 0; i < m->rowCount(); ++i)
                if (element_name(document.project(), m->finding(i).element.kind, m->finding(i).element.id) == element &&
                    m->index(i, 1).data().toString() == QString(title))
                    return true;
            return false;
        }
    };

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test");
        set_theme(false);
    }

    /// The demo: a surcharge, its cause two reaches below, one key mends it, undo brings it back.
    void the_story_of_the_demo() {
        Fixture f;
        f.open("alder-quay");
        QVERIFY(f.has_finding("A4–A5", "water above the crown"));
        f.click(f.window.plan()->to_screen({402, 312}));  // A5, in the plan
        QVERIFY(f.document.selected() == f.element("A5"));
        const double before = f.at("A5").level.level;
        QVERIFY(before > 20.335);  // above the crown of what comes in
        Canvas* why = f.window.card()->canvas("budget");
        QVERIFY(why && why->places().size() >= 3);
        const auto cause = why->places()[1];  // the largest part stands on top
        QVERIFY2(cause.tip.contains("A6–A7"), qPrintable(cause.tip));
        QTest::mouseClick(why, Qt::LeftButton, {}, cause.rect.center().toPoint());
        QVERIFY(f.document.selected() == f.element("A6–A7"));
        f.key(f.window.plan(), Qt::Key_BracketRight);
        f.settle();
        QCOMPARE(f.document.project().pipes.find(f.element("A6–A7").id)->size, 0.75);
        QVERIFY(f.at("A5").level.level < before - 0.1);
        for (const char* pipe : {"A4–A5", "A5–A6", "A6–A7", "C2–C3", "C3–A5"})
            QVERIFY2(!f.has_finding(pipe, "water above the crown"), pipe);
        QVERIFY(!f.has_finding("A6–A7", "flow above capacity"));
        f.key(&f.window, Qt::Key_Z, Qt::ControlModifier);
        f.settle();
        QCOMPARE(f.at("A5").level.level, before);
        QVERIFY(f.has_finding("A4–A5", "water above the crown"));
        QVERIFY(f.has_finding("A6–A7", "flow above capacity"));
    }

    /// A new project from an empty plan to a checked grade line, saved and opened again.
    void the_story_of_a_new_project() {
        Fixture f;
        f.window.actions().find("file.new")->trigger();
        QVERIFY(f.document.project().structures.empty());
        PlanView* plan = f.window.plan();
        plan->setFocus();
        f.key(plan, Qt::Key_D);
        QCOMPARE(plan->tool_name(), QString("draw"));
        f.click({200, 150});
        f.click({330, 170});
        f.click({460, 200});
        f.key(plan, Qt::Key_O);
        f.click({600, 220});
        QCOMPARE(f.document.project().structures.size(), std::size_t{4});
        QCOMPARE(f.document.project().pipes.size(), std::size_t{3});
        const Structure* inlet = f.document.project().structures.find(f.element("A1").id);
        QVERIFY(inlet && inlet->kind == StructureKind::Inlet);
        QCOMPARE(f.document.project().structures.find(f.element("A2").id)->kind, StructureKind::Manhole);
        QCOMPARE(f.document.project().structures.find(f.element("A4").id)->kind, StructureKind::Outfall);
        f.key(plan, Qt::Key_Escape);
        QCOMPARE(plan->tool_name(), QString("select"));
        f.click(plan->to_screen({inlet->x, inlet->y}));
        QVERIFY(f.document.selected() == f.element("A1"));
        f.type(Kind::Catchment, "area", "0.7 ha");
        QCOMPARE(f.document.project().catchments.size(), std::size_t{1});
        f.type(Kind::Catchment, "coefficient", "0.72");
        f.type(Kind::Catchment, "time", "8 min");
        const Catchment& c = *f.document.project().catchments.begin();
        QCOMPARE(c.area, 7000.0);
        QCOMPARE(c.coefficient, 0.72);
        QCOMPARE(c.time, 480.0);
        QVERIFY(c.structure.value == f.element("A1").id);
        // Paste a rain table.
        QTest::mouseClick(f.window.rail(), Qt::LeftButton, {}, f.window.rail()->button(Stage::Rain).center().toPoint());
        QApplication::clipboard()->setText("min\t2\t10\t100\n5\t92\t137\t205\n10\t74\t110\t165\n30\t44\t65\t98\n");
        f.window.drawer()->ledger()->table()->setFocus();
        f.key(f.window.drawer()->ledger()->table(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(f.document.project().events.size(), std::size_t{3});
        QVERIFY(f.window.drawer()->ledger()->said().contains("3 durations (5 min to 30 min), 3 return periods"));
        f.settle();
        const double intensity =
            std::exp(std::log(137.0) + (std::log(8.0) - std::log(5.0)) / (std::log(10.0) - std::log(5.0)) *
                                           (std::log(110.0) - std::log(137.0)));
        QVERIFY(std::abs(f.at("A1").flow.flow - 0.72 * intensity * 0.7 / 360) < 1e-9);
        // Sizes proposed, shown, accepted.
        f.key(&f.window, Qt::Key_P, Qt::ControlModifier | Qt::ShiftModifier);
        QTRY_VERIFY(f.window.drawer()->preview()->active());
        QVERIFY(f.document.has_pending());
        QCOMPARE(f.window.drawer()->proposal_table()->model()->rowCount(), 3);
        QTest::mouseClick(f.window.drawer()->findChild<QPushButton*>("preview-accept"), Qt::LeftButton);
        QVERIFY(!f.document.has_pending());
        f.settle();
        for (const Pipe& p : f.document.project().pipes) QVERIFY(p.size >= 0.375);
        const NodeResult& a1 = f.at("A1");
        const auto network = f.document.result()->network;
        QVERIFY(
            a1.flow.flow <=
            network
                ->links[static_cast<std::size_t>(
                    network->nodes[static_cast<std::size_t>(network->node_of(StructureId{f.element("A1").id}))].out)]
                .capacity);
        QVERIFY(std::isfinite(a1.level.level));
        // Save, close, reopen: the same.
        const QString path = dir_.path() + "/story.culvert";
        QVERIFY(f.window.save_to(path));
        QVERIFY(!f.document.modified());
        const double level = f.at("A2").level.level;
        const Project saved = f.document.project();
        Fixture g;
        g.window.open_file(path);
        g.settle();
        QVERIFY(g.document.project() == saved);
        QCOMPARE(g.at("A2").level.level, level);
        QVERIFY(MainWindow::recent_files().contains(path));
        // Everything can be taken back to the empty plan.
        while (f.document.history().can_undo()) f.document.undo();
        QVERIFY(f.document.project().structures.empty() && f.document.project().events.empty());
    }

    void plan_pans_zooms_and_selects() {
        Fixture f;
        f.open("alder-quay");
        PlanView* plan = f.window.plan();
        const QPointF at(300, 120), metres = plan->to_metres(at);
        QWheelEvent wheel(at, plan->mapToGlobal(at.toPoint()), {}, {0, 240}, Qt::NoButton, Qt::NoModifier,
                          Qt::NoScrollPhase, false);
        const double scale = plan->scale();
        QApplication::sendEvent(plan, &wheel);
        QVERIFY(plan->scale() > scale * 1.2);
        QVERIFY((plan->to_metres(at) - metres).manhattanLength() < 1e-6);  // the point under the pointer stays
        QTest::mousePress(plan, Qt::MiddleButton, {}, {300, 200});
        QTest::mouseMove(plan, {340, 230});
        QTest::mouseRelease(plan, Qt::MiddleButton, {}, {340, 230});
        QVERIFY((plan->to_screen(metres) - (at + QPointF(40, 30))).manhattanLength() < 1.5);
        f.key(plan, Qt::Key_Home);
        // A rubber band over everything, then Ctrl-click takes one out.
        f.window.plan()->set_tool("select");
        QTest::mousePress(plan, Qt::LeftButton, {}, {3, 3});
        QTest::mouseMove(plan, {300, 200});
        QTest::mouseMove(plan, {plan->width() - 3, plan->height() - 3});
        QTest::mouseRelease(plan, Qt::LeftButton, {}, {plan->width() - 3, plan->height() - 3});
        QCOMPARE(f.document.selection().size(),
                 f.document.project().structures.size() + f.document.project().pipes.size());
        f.click(plan->to_screen({402, 312}), Qt::ControlModifier);
        QVERIFY(!f.document.is_selected(f.element("A5")));
        f.key(plan, Qt::Key_Escape);
        QVERIFY(f.document.selection().empty());
        // A click in a catchment takes the catchment; on a pipe the pipe.
        f.click(plan->to_screen({(530 + 596) / 2.0, (232 + 206) / 2.0}));
        QVERIFY(f.document.selected() == f.element("A7–A8"));
    }
    void a_drag_is_one_edit_and_escape_drops_it() {
        Fixture f;
        f.open("alder-quay");
        PlanView* plan = f.window.plan();
        const Structure before = *f.document.project().structures.find(f.element("A4").id);
        const QPoint from = plan->to_screen({before.x, before.y}).toPoint();
        const auto drag = [&](bool release) {
            QTest::mousePress(plan, Qt::LeftButton, {}, from);
            for (int i = 1; i <= 5; ++i) QTest::mouseMove(plan, from + QPoint(6 * i, 4 * i));
            if (release) QTest::mouseRelease(plan, Qt::LeftButton, {}, from + QPoint(30, 20));
        };
        drag(false);
        QVERIFY(f.document.has_pending());
        f.key(plan, Qt::Key_Escape);
        QTest::mouseRelease(plan, Qt::LeftButton, {}, from + QPoint(30, 20));
        QCOMPARE(f.document.project().structures.find(before.id)->x, before.x);
        QCOMPARE(f.document.history().position(), std::size_t{0});
        drag(true);
        QCOMPARE(f.document.history().position(), std::size_t{1});
        const Structure* moved = f.document.project().structures.find(before.id);
        QVERIFY(std::abs(moved->x - before.x - 30 / plan->scale()) < 1.5 / plan->scale());
        f.document.undo();
        QCOMPARE(f.document.project().structures.find(before.id)->x, before.x);
    }
    void deleting_takes_what_hangs_on_it() {
        Fixture f;
        f.open("alder-quay");
        f.document.select({f.element("A3")});
        f.key(f.window.plan(), Qt::Key_Delete);
        QVERIFY(!f.element("A3").id && !f.element("A2–A3").id && !f.element("B3–A3").id);
        f.settle();
        QVERIFY(f.has_finding("A2", "no way out") || f.has_finding("A1", "no way out"));
        f.key(&f.window, Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(f.element("A2–A3").id);
    }
    void profile_follows_and_edits() {
        Fixture f;
        f.open("alder-quay");
        f.document.select({f.element("C2–C3")});
        QApplication::processEvents();
        ProfileView* profile = f.window.profile();
        profile->repaint();
        QCOMPARE(QString::fromStdString(profile->profile().stations.front().name), QString("C1"));
        const ElementRef pipe = f.element("C2–C3");
        const double before = f.document.project().pipes.find(pipe.id)->invert_to;
        const QPoint handle = profile->handle_at(pipe, "invert_to").toPoint();
        QTest::mousePress(profile, Qt::LeftButton, {}, handle);
        QTest::mouseMove(profile, handle + QPoint(0, 6));
        QTest::mouseMove(profile, handle + QPoint(0, 12));
        QVERIFY(f.document.has_pending());
        QTest::mouseRelease(profile, Qt::LeftButton, {}, handle + QPoint(0, 12));
        const double after = f.document.project().pipes.find(pipe.id)->invert_to;
        QVERIFY(after < before - 0.05);
        QCOMPARE(f.document.history().position(), std::size_t{1});
        f.settle();
        profile->repaint();
        QCOMPARE(profile->painted_revision(), f.document.revision());
    }
    void fields_understand_ask_and_refuse() {
        Fixture f;
        f.open("alder-quay");
        f.document.select({f.element("A6–A7")});
        f.type(Kind::Pipe, "size", "0.45");  // looks like metres in a millimetre field: asked
        FieldEdit* size = f.window.card()->field(Kind::Pipe, "size");
        QVERIFY2(size->said().contains("out of scale"), qPrintable(size->said()));
        QCOMPARE(f.document.history().position(), std::size_t{0});
        QTest::keyClick(size->line(), Qt::Key_Return);  // Enter takes what it offers
        QCOMPARE(f.document.project().pipes.find(f.element("A6–A7").id)->size, 0.45);
        f.type(Kind::Pipe, "size", "18in");
        QCOMPARE(f.document.project().pipes.find(f.element("A6–A7").id)->size, 18 * 0.0254);
        f.type(Kind::Pipe, "size", "-3");
        QVERIFY2(size->said().contains("at least 20 mm"), qPrintable(size->said()));
        QCOMPARE(size->line()->text(), QString("-3"));  // what was typed stays to be mended
        QTest::keyClick(size->line(), Qt::Key_Escape);
        QVERIFY(size->said().isEmpty());
        f.type(Kind::Pipe, "invert_from", "19.48-0.6");
        QCOMPARE(f.document.project().pipes.find(f.element("A6–A7").id)->invert_from, 19.48 - 0.6);
        f.document.select({f.element("A5")});
        f.type(Kind::Structure, "name", "A6");
        QVERIFY(f.window.card()->field(Kind::Structure, "name")->said().contains("already the name"));
        QCOMPARE(f.document.project().structures.find(f.document.selected().id)->name, std::string("A5"));
        // A table keeps what was typed when the user looks elsewhere.
        FieldEdit* rim = f.window.card()->field(Kind::Structure, "rim");
        rim->line()->setFocus();
        rim->line()->selectAll();
        QTest::keyClicks(rim->line(), "21.9");
        f.window.plan()->setFocus();
        QCOMPARE(f.document.project().structures.find(f.element("A5").id)->rim, 21.9);
    }
    void remedies_are_previewed_and_taken() {
        Fixture f;
        f.open("alder-quay");
        QTRY_VERIFY_WITH_TIMEOUT(f.document.remedies_of(f.window.drawer()->findings()->finding(0)) != nullptr, 8000);
        const Finding first = f.window.drawer()->findings()->finding(0);
        const auto* list = f.document.remedies_of(first);
        QVERIFY(!list->empty());
        QVERIFY2(list->front().text == "750 mm on A6–A7", list->front().text.c_str());
        f.window.drawer()->try_remedy(0);
        QVERIFY(f.window.drawer()->preview()->active());
        QCOMPARE(f.document.history().position(), std::size_t{0});
        f.window.drawer()->preview()->dismiss();
        QCOMPARE(f.document.project().pipes.find(f.element("A6–A7").id)->size, 0.675);
        QTRY_VERIFY_WITH_TIMEOUT(f.document.remedies_of(first) != nullptr, 8000);
        f.window.drawer()->try_remedy(0);
        f.window.drawer()->preview()->accept();
        QCOMPARE(f.document.project().pipes.find(f.element("A6–A7").id)->size, 0.75);
        QCOMPARE(f.document.history().undo_name(), std::string("750 mm on A6–A7"));
    }
    void a_slow_solver_dims_can_be_stopped_and_leaves_the_last_good() {
        Fixture f;
        f.open("alder-quay");
        const double good = f.at("A5").level.level;
        const std::uint64_t solved = f.document.result()->revision;
        f.document.set_solve_delay(100000);
        f.document.select({f.element("A6–A7")});
        f.key(f.window.plan(), Qt::Key_BracketRight);
        QVERIFY(!f.document.current());
        QVERIFY(!f.document.dimmed());  // not at once
        QTRY_VERIFY_WITH_TIMEOUT(f.document.dimmed(), 1000);
        QCOMPARE(f.window.strip()->state_text(), QString("solving …"));
        QCOMPARE(f.at("A5").level.level, good);
        QCOMPARE(f.document.result()->revision, solved);
        f.key(&f.window, Qt::Key_Period, Qt::ControlModifier);
        f.document.set_solve_delay(0);
        f.settle();
        QVERIFY(!f.document.dimmed());
        QVERIFY(f.at("A5").level.level < good);
    }
    void command_bar_finds_commands_elements_and_answers() {
        Fixture f;
        f.open("alder-quay");
        f.key(&f.window, Qt::Key_K, Qt::ControlModifier);
        CommandBar* bar = f.window.command_bar();
        QVERIFY(bar->isVisible());
        QTest::keyClicks(bar->line(), "C3");
        QTest::keyClick(bar->line(), Qt::Key_Return);
        QVERIFY(f.document.selected() == f.element("C3") || f.document.selected() == f.element("C3–A5"));
        bar->open();
        QTest::keyClicks(bar->line(), "flow ratio 450 at 0.6 % 264 l/s");
        QVERIFY2(bar->list()->item(0)->text().startsWith("flow ratio 1.20"), qPrintable(bar->list()->item(0)->text()));
        QTest::keyClick(bar->line(), Qt::Key_Escape);
        QVERIFY(!bar->isVisible());
        bar->open();
        QTest::keyClicks(bar->line(), "measure");
        QTest::keyClick(bar->line(), Qt::Key_Return);
        QCOMPARE(f.window.plan()->tool_name(), QString("measure"));
        bar->open();
        QTest::keyClicks(bar->line(), "qqqq");
        QVERIFY(bar->list()->item(0)->text().startsWith("Nothing answers"));
    }
    void every_action_is_declared_whole() {
        Fixture f;
        std::set<QString> ids, keys;
        for (QAction* a : f.window.actions().all()) {
            QVERIFY(ids.insert(a->objectName()).second);
            QVERIFY2(!a->text().isEmpty() && a->toolTip().size() > 8, qPrintable(a->objectName()));
            if (!a->shortcut().isEmpty())
                QVERIFY2(keys.insert(a->shortcut().toString()).second, qPrintable(a->shortcut().toString()));
        }
        QVERIFY(ids.size() > 40);
    }
    void walking_and_events_by_keys() {
        Fixture f;
        f.open("alder-quay");
        f.document.select({f.element("A5")});
        f.key(&f.window, Qt::Key_Down, Qt::AltModifier);
        QVERIFY(f.document.selected() == f.element("A5–A6"));
        f.key(&f.window, Qt::Key_Down, Qt::AltModifier);
        QVERIFY(f.document.selected() == f.element("A6"));
        f.key(&f.window, Qt::Key_Up, Qt::AltModifier);
        f.key(&f.window, Qt::Key_Up, Qt::AltModifier);
        QVERIFY(f.document.selected() == f.element("A5"));
        const EventId ten = f.document.event();
        f.key(&f.window, Qt::Key_Right, Qt::ControlModifier);
        QVERIFY(f.document.project().events.find(f.document.event().value)->return_period == 25);
        QTest::mouseClick(f.window.strip(), Qt::LeftButton, {}, f.window.strip()->chip(ten).center().toPoint());
        QVERIFY(f.document.event() == ten);
    }
    void ledger_edits_and_refuses() {
        Fixture f;
        f.open("alder-quay");
        Ledger* ledger = f.window.drawer()->ledger();
        ledger->show_kind(Kind::Pipe);
        LedgerModel* m = ledger->model();
        QCOMPARE(m->rowCount(), 15);
        const int row = m->row_of(f.element("A6–A7").id);
        int column = -1;
        for (int c = 0; c < m->columnCount(); ++c)
            if (m->headerData(c, Qt::Horizontal, Qt::DisplayRole).toString().startsWith("Size\n")) column = c;
        QVERIFY(m->setData(m->index(row, column), "30 in", Qt::EditRole));
        QCOMPARE(f.document.project().pipes.find(f.element("A6–A7").id)->size, 0.762);
        QVERIFY(!m->setData(m->index(row, column), "wide", Qt::EditRole));
        QVERIFY(ledger->said().contains("A6–A7") && ledger->said().contains("wide"));
        // The ledger follows the selection and leads it.
        f.document.select({f.element("B1–B2")});
        QCOMPARE(ledger->table()->currentIndex().siblingAtColumn(0).data().toString(), QString("B1–B2"));
        QVERIFY(!ledger->paste_rain("min\t2\n5\tabc"));
        QVERIFY(ledger->said().contains("Row 2, column 2") && ledger->said().contains("abc"));
    }
    void files_that_fail_leave_the_project_as_it_is() {
        Fixture f;
        f.open("alder-quay");
        const Project before = f.document.project();
        f.window.open_file(QString(CULVERT_SOURCE) + "/tests/exchange/malformed/syntax.culvert");
        QVERIFY(f.document.project() == before);
        QVERIFY2(f.window.notice()->said().contains("line 5"), qPrintable(f.window.notice()->said()));
        QVERIFY(!f.window.save_to("/proc/nothing.culvert"));
        QVERIFY(f.window.notice()->said().startsWith("Not saved"));
        // Changed on disk by somebody else: warned, not overwritten.
        const QString path = dir_.path() + "/shared.culvert";
        QVERIFY(f.window.save_to(path));
        QTest::qWait(20);
        save_project(new_project(UnitSystem::Us), path.toStdString());
        f.document.select({f.element("A6–A7")});
        f.key(f.window.plan(), Qt::Key_BracketRight);
        QVERIFY(!f.window.save_to(path));
        QVERIFY(f.window.notice()->said().contains("changed on disk"));
        QCOMPARE(load_project(path.toStdString()).project.settings().system, UnitSystem::Us);
        // Closing with unsaved changes asks.
        QVERIFY(f.document.modified());
        f.window.close();
        QVERIFY(f.window.isVisible() && f.window.notice()->said().contains("unsaved"));
        // Open in two places: said.
        QFile lock(dir_.path() + "/other.culvert.lock");
        save_project(before, (dir_.path() + "/other.culvert").toStdString());
        QVERIFY(lock.open(QFile::WriteOnly));
        lock.write("far-away\n1\nMaja\n");
        lock.close();
        Fixture g;
        g.window.open_file(dir_.path() + "/other.culvert");
        QVERIFY(g.window.notice()->said().contains("Maja on far-away"));
    }
    void two_documents_at_once() {
        Fixture f, g;
        f.open("alder-quay");
        g.open("juniper-flat");
        QVERIFY(f.document.project().settings().system == UnitSystem::Si &&
                g.document.project().settings().system == UnitSystem::Us);
        f.document.select({f.element("A6–A7")});
        f.window.activateWindow();
        QApplication::processEvents();
        f.key(f.window.plan(), Qt::Key_BracketRight);
        QVERIFY(f.document.modified() && !g.document.modified());
    }
    void units_switch_and_back() {
        Fixture f;
        f.open("alder-quay");
        const Project before = f.document.project();
        f.document.select({f.element("A5")});
        f.window.actions().find("units.switch")->trigger();
        QTRY_VERIFY(f.window.card()->field(Kind::Structure, "rim")->line()->text().endsWith("ft"));
        f.window.actions().find("units.switch")->trigger();
        QCOMPARE(f.document.project().structures.find(f.element("A5").id)->rim,
                 before.structures.find(f.element("A5").id)->rim);
    }
    void awkward_states_are_painted() {
        Fixture f;  // empty project, 2-pipe project, long names, dark theme, many pipes, no results: none may fail
        f.window.grab();
        f.window.actions().find("view.theme")->trigger();
        f.window.grab();
        f.document.set_project(culvert::testing::random_project({.pipes = 2000, .seed = 3, .events = 6}));
        f.window.grab();
        f.settle();
        f.window.grab();
        Editing e(f.document.project(), "long");
        e.set(Kind::Structure, f.document.project().structures.begin()->id, "name", std::string(200, 'W') + "水井ط");
        f.document.commit(e.take());
        f.document.select({{Kind::Structure, f.document.project().structures.begin()->id}});
        for (const char* stage : {"stage.layout", "stage.areas", "stage.rain", "stage.pipes", "stage.levels"}) {
            f.window.actions().find(stage)->trigger();
            f.window.grab();
        }
        for (const Colouring& c : colourings()) {
            f.window.actions().find("colour." + c.key)->trigger();
            QVERIFY(!f.window.grab().isNull());
        }
        f.window.resize(1024, 700);
        f.window.grab();
        f.window.actions().find("view.theme")->trigger();
    }
    /// Questions to the program are answered without a screen; a word that it does not know is said.
    void a_program_that_is_asked_says_what_it_is() {
        const auto ask = [](const QStringList& words, const char* screen) {
            QProcess p;
            QProcessEnvironment e = QProcessEnvironment::systemEnvironment();
            e.insert("QT_QPA_PLATFORM", screen);
            p.setProcessEnvironment(e);
            p.start(CULVERT_BIN "/calm-culvert", words);
            return std::tuple{p.waitForFinished(10000) ? p.exitCode() : -1, QString(p.readAllStandardOutput()),
                              QString(p.readAllStandardError())};
        };
        for (const char* word : {"--help", "-h"}) {
            const auto [code, said, wrong] = ask({word}, "no-such-screen");
            QVERIFY2(code == 0 && said.contains("--shots") && said.contains("calm-culvert-cli") && wrong.isEmpty(),
                     word);
        }
        QVERIFY(std::get<1>(ask({"--version"}, "no-such-screen")).trimmed().split('.').size() == 3);
        const auto [code, said, wrong] = ask({"--nonsense"}, "offscreen");
        QVERIFY(code == 2 && wrong.contains("--nonsense") && wrong.contains("--help"));
        QCOMPARE(std::get<0>(ask({"one.culvert", "two.culvert"}, "offscreen")), 2);
    }
    void from_an_edit_to_the_picture_in_fifty_milliseconds() {
        Fixture f;
        f.document.set_project(culvert::testing::random_project({.pipes = 1000, .seed = 5, .events = 6}));
        f.settle();
        QTest::qWait(300);
        f.document.select({{Kind::Pipe, f.document.project().pipes.begin()->id}});
        std::vector<double> times;
        for (int i = 0; i < 9; ++i) {
            QTest::qWait(60);
            QElapsedTimer t;
            t.start();
            f.document.commit(step_size(f.document.project(), {f.document.selected().id}, i % 2 ? -1 : +1));
            while (f.window.profile()->painted_revision() != f.document.revision() && t.elapsed() < 2000)
                QApplication::processEvents(QEventLoop::AllEvents, 1);
            times.push_back(static_cast<double>(t.nsecsElapsed()) / 1e6);
        }
        std::sort(times.begin(), times.end());
        qInfo("edit to repainted profile, 1,000 pipes, 6 events: median %.1f ms, worst %.1f ms", times[4], times[8]);
        QVERIFY(times[4] < 150);  // the bench holds the aim of 50; this guards against a stall on a busy machine
    }
};
QTEST_MAIN(TestApp)
#include "test_app.moc"
