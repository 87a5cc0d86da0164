// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <QtWidgets>
#include <set>

#include "app/kit/theme.h"
#include "app/window/main_window.h"

using namespace culvert;
using namespace culvert::app;

/// What people look for where they look for it: main menu, menus of elements, preferences, shortcuts, command bar.
class TestMenus : public QObject {
    Q_OBJECT
    std::unique_ptr<Document> document_;
    std::unique_ptr<MainWindow> window_;
    static QStringList words(const QMenu& menu) {
        QStringList list;
        for (const QAction* a : menu.actions()) list << a->text();
        return list;
    }

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test-menus");
        QSettings().clear();
        set_theme(false);
        document_ = std::make_unique<Document>();
        window_ = std::make_unique<MainWindow>(*document_);
        window_->resize(1280, 800);
        window_->show();
        window_->open_file(MainWindow::example("alder-quay"));
        QTRY_VERIFY(document_->current() && document_->review());
    }
    void cleanupTestCase() {
        window_.reset();
        set_text_scale(1);
        set_theme(false);
    }
    void the_main_menu_holds_what_is_looked_for_there() {
        const std::unique_ptr<QMenu> menu(window_->make_menu());
        const QStringList all = words(*menu);
        for (const char* wanted : {"Open …", "Open recent", "Save", "Save as …", "Undo", "Redo", "Views", "Preferences",
                                   "Shortcuts", "About Calm Culvert", "Quit"})
            QVERIFY2(all.contains(wanted), wanted);
        // F10, or a click beside the project's name, opens it.
        auto* button = window_->findChild<QToolButton*>("menu-button");
        QVERIFY(button && button->isVisible());
        button->click();
        QTRY_VERIFY(window_->findChild<QMenu*>("main-menu") && QApplication::activePopupWidget());
        QApplication::activePopupWidget()->close();
    }
    /// What is chosen elsewhere is marked in the ledger, all of it; it stays chosen in the order it was.
    void the_ledger_marks_all_that_is_chosen() {
        window_->drawer()->ledger()->show_kind(Kind::Pipe);
        QTableView& table = *window_->drawer()->ledger()->table();
        const auto marked = [&] {
            std::set<int> rows;
            for (const QModelIndex& cell : table.selectionModel()->selectedIndexes()) rows.insert(cell.row());
            return rows;
        };
        const auto row = [&](const char* name) {
            return window_->drawer()->ledger()->model()->row_of(find_element(document_->project(), name).id);
        };
        const std::vector<ElementRef> three{find_element(document_->project(), "B1–B2"),
                                            find_element(document_->project(), "A4–A5"),
                                            find_element(document_->project(), "A6–A7")};
        document_->select(three);
        QApplication::processEvents();
        QCOMPARE(marked(), (std::set<int>{row("B1–B2"), row("A4–A5"), row("A6–A7")}));
        QTest::qWait(5);  // what the table is asked later
        QCOMPARE(document_->selection(), three);
        document_->select({three[1]});
        QCOMPARE(marked(), std::set<int>{row("A4–A5")});
        // Taken away in the ledger: the window follows.
        document_->select(three);
        table.selectionModel()->select(table.model()->index(row("A4–A5"), table.currentIndex().column()),
                                       QItemSelectionModel::Deselect);
        QTRY_COMPARE(document_->selection().size(), std::size_t{2});
        QVERIFY(!document_->is_selected(three[1]));
    }
    /// Inches and feet typed in a ledger in metres: in a cell, and for all chosen ones.
    void marks_of_inches_are_inches_in_the_ledger() {
        Ledger& ledger = *window_->drawer()->ledger();
        ledger.show_kind(Kind::Pipe);
        LedgerModel& model = *ledger.model();
        const ElementRef pipe = find_element(document_->project(), "A4–A5");
        const QModelIndex cell = model.index(model.row_of(pipe.id), model.column_of("size"));
        const auto typed = [&](const char* words) {
            return model.setData(cell, QString::fromUtf8(words), Qt::EditRole);
        };
        for (const char* words : {"18\"", "1'-6\""}) {
            QVERIFY(typed(words));
            QVERIFY2(std::abs(document_->project().pipes.find(pipe.id)->size - 0.4572) < 1e-9, words);
            document_->undo();
        }
        const double before = document_->project().pipes.find(pipe.id)->size;
        QVERIFY(!typed("1 200"));
        QCOMPARE(document_->project().pipes.find(pipe.id)->size, before);
        QVERIFY2(ledger.said().contains("two numbers"), qPrintable(ledger.said()));
        // For all chosen cells, typed in the line above the table.
        ledger.table()->selectionModel()->clearSelection();
        ledger.table()->selectionModel()->select(cell, QItemSelectionModel::Select);
        QApplication::processEvents();
        ledger.change()->setFocus();
        QTest::keyClicks(ledger.change(), "18\"");
        QTest::keyClick(ledger.change(), Qt::Key_Return);
        QVERIFY(std::abs(document_->project().pipes.find(pipe.id)->size - 0.4572) < 1e-9);
        document_->undo();
        QCOMPARE(document_->project().pipes.find(pipe.id)->size, before);
    }
    void a_right_click_on_a_pipe_selects_it_and_offers_its_actions() {
        const ElementRef pipe = find_element(document_->project(), "A4–A5");
        document_->select({});
        const Pipe* row = document_->project().pipes.find(pipe.id);
        const Structure &a = *document_->project().structures.find(row->from.value),
                        &b = *document_->project().structures.find(row->to.value);
        const QPoint at = window_->plan()->to_screen({(a.x + b.x) / 2, (a.y + b.y) / 2}).toPoint();
        QContextMenuEvent e(QContextMenuEvent::Mouse, at, window_->plan()->mapToGlobal(at));
        QApplication::sendEvent(window_->plan(), &e);
        QTRY_VERIFY(QApplication::activePopupWidget());
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        QVERIFY(menu);
        QVERIFY(document_->selected() == pipe);
        QVERIFY2(words(*menu).contains("Next larger size") && words(*menu).contains("Show in the ledger") &&
                     words(*menu).contains("Delete"),
                 qPrintable(words(*menu).join(", ")));
        const double before = row->size;
        for (QAction* action : menu->actions())
            if (action->text() == "Next larger size") action->trigger();
        menu->close();
        QVERIFY(document_->project().pipes.find(pipe.id)->size > before);
        document_->undo();
        const ElementRef structure = find_element(document_->project(), "A5");
        const std::unique_ptr<QMenu> other(window_->make_context_menu(structure));
        QVERIFY(!words(*other).contains("Next larger size") && words(*other).contains("Walk upstream"));
    }
    void the_command_bar_ranks_names_before_help_and_what_was_used_lately() {
        CommandBar* bar = window_->command_bar();
        const auto first = [&](const QString& typed) {
            bar->open();
            bar->findChild<QLineEdit*>()->setText(typed);
            return bar->findChild<QListWidget*>()->item(0)->text();
        };
        QVERIFY2(first("find").startsWith("Show the findings") || first("find").startsWith("Find a command"),
                 qPrintable(first("find")));
        QVERIFY(first("redo").startsWith("Redo"));
        QVERIFY(first("work").startsWith("Show the working"));
        QVERIFY(first("save").startsWith("Save"));
        // Chosen once, it stands before what answers as well.
        const QString before = first("stage");
        QListWidget* list = bar->findChild<QListWidget*>();
        int at = -1;
        for (int i = 0; i < list->count(); ++i)
            if (list->item(i)->text().contains("Streets")) at = i;
        QVERIFY(at > 0);
        list->setCurrentRow(at);
        QTest::keyClick(bar->findChild<QLineEdit*>(), Qt::Key_Return);
        QVERIFY(!before.contains("Streets") && first("stage").contains("Streets"));
        bar->hide();
    }
    void a_material_is_chosen_from_a_list_that_takes_typing() {
        PipeSize clay;
        clay.material = "clay";
        clay.size = 0.3;
        Editing e(document_->project(), "Another material");
        e.insert(clay);
        document_->commit(e.take());
        const ElementRef pipe = find_element(document_->project(), "A4–A5");
        document_->select({pipe});
        FieldEdit* field = window_->card()->field(Kind::Pipe, "material");
        QVERIFY(field && field->offered().contains("concrete") && field->offered().size() > 1);
        const QString other = field->offered().last();
        window_->activateWindow();
        QTRY_VERIFY(window_->isActiveWindow());
        field->line()->setFocus();
        QTest::keyClick(field->line(), Qt::Key_Down);
        QTRY_VERIFY(field->line()->completer()->popup()->isVisible());
        QCOMPARE(field->line()->completer()->completionCount(), static_cast<int>(field->offered().size()));
        emit field->line()->completer()->activated(other);
        QCOMPARE(QString::fromStdString(document_->project().pipes.find(pipe.id)->material), other);
        field->line()->completer()->popup()->hide();
        document_->undo();
        // Typing goes on as before.
        field = window_->card()->field(Kind::Pipe, "material");
        field->line()->setText("brick");
        field->line()->setModified(true);
        emit field->line()->returnPressed();
        QCOMPARE(document_->project().pipes.find(pipe.id)->material, std::string("brick"));
        document_->undo();
        document_->undo();
    }
    void preferences_act_at_once_and_stay() {
        window_->actions().find("view.preferences")->trigger();
        PreferencesPanel* p = window_->preferences();
        QVERIFY(p->isVisible());
        p->looks()->setCurrentIndex(1);
        QVERIFY(theme().dark && QSettings().value("dark").toBool());
        window_->actions().find("view.theme")->trigger();
        QVERIFY(!theme().dark);
        QCOMPARE(p->looks()->currentIndex(), 0);
        const double points = lettering(10).pointSizeF();
        p->text_size()->setCurrentIndex(p->text_size()->findData(1.3));
        QVERIFY(lettering(10).pointSizeF() > points * 1.25);
        QVERIFY(!window_->grab().isNull());
        p->text_size()->setCurrentIndex(p->text_size()->findData(1.0));
        QVERIFY(!PreferencesPanel::us_units());
        p->units()->setCurrentIndex(1);
        QVERIFY(PreferencesPanel::us_units());
        p->folder()->setText("/tmp/culvert-journals");
        emit p->folder()->editingFinished();
        QCOMPARE(PreferencesPanel::journal_folder(), QString("/tmp/culvert-journals"));
        p->folder()->clear();
        emit p->folder()->editingFinished();
        QVERIFY(PreferencesPanel::journal_folder().endsWith("calm-culvert"));
    }
    void every_key_is_listed_once() {
        window_->actions().find("view.shortcuts")->trigger();
        QTableWidget* table = window_->shortcuts()->table();
        QStringList keys;
        for (int r = 0; r < table->rowCount(); ++r) keys << table->item(r, 0)->text();
        QVERIFY(keys.contains("F11") && keys.contains("Ctrl+K"));
        QCOMPARE(keys.removeDuplicates(), 0);
        window_->shortcuts()->filter()->setText("whole");
        QCOMPARE(table->rowCount(), 1);
    }
};

QTEST_MAIN(TestMenus)
#include "test_menus.moc"
