// SPDX-License-Identifier: GPL-3.0-or-later
// The main menu beside the project's name, and what can be done to an element, from any view. Both hold actions that
// are declared elsewhere.
#include <QApplication>
#include <QFileInfo>
#include <QMenu>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/panels/preferences_panel.h"
#include "app/window/main_window.h"

namespace culvert::app {
namespace {

constexpr const char* about =
    "Calm Culvert %1: gravity storm sewers, laid out, solved and checked. Free software under the GPL, version 3 or "
    "later. "
    "Every number has its working (Ctrl+=); what is computed and from which sources stands in docs/methods.";

}  // namespace

void MainWindow::declare_menu_actions() {
    actions_->add("menu.open", "Main menu", "Files, edits, views, preferences, help", QKeySequence("F10"),
                  [this] { open_menu(); });
    actions_->add("view.preferences", "Preferences", "Looks, text size, units of new projects, journal folder",
                  QKeySequence("Ctrl+,"), [this] { show_extra_page(preferences_, "Preferences"); });
    actions_->add("view.shortcuts", "Shortcuts", "All commands with their keys", QKeySequence("F1"), [this] {
        shortcuts_->refresh();
        show_extra_page(shortcuts_, "Shortcuts");
    });
    actions_->add("help.about", "About Calm Culvert", "Version and licence", {},
                  [this] { notice_->say(QString(about).arg(QCoreApplication::applicationVersion())); });
}

/// A page that is in the drawer only once it was asked for.
void MainWindow::show_extra_page(QWidget* page, const QString& title) {
    if (drawer_->tabs()->indexOf(page) < 0) drawer_->tabs()->addTab(page, title);
    drawer_->show_page(page);
}

QMenu* MainWindow::make_menu() {
    auto* menu = new QMenu(this);
    menu->setObjectName("main-menu");
    menu->setToolTipsVisible(true);
    actions_->refresh();
    const auto add = [this](QMenu* into, std::initializer_list<const char*> ids) {
        for (const char* id : ids) {
            if (!*id) into->addSeparator();
            else if (QAction* a = actions_->find(id)) into->addAction(a);
        }
    };
    add(menu, {"file.new", "file.new_us", "file.open"});
    QMenu* recent = menu->addMenu("Open recent");
    for (QAction* a : actions_->all())
        if (a->objectName().startsWith("file.recent.")) recent->addAction(a);
    recent->setEnabled(!recent->isEmpty());
    add(menu,
        {"file.demo", "file.demo_us", "", "file.save", "file.save_as", "variant.issue", "", "ground.import",
         "lines.import", "rain.paste", "plan.save", "profile.save", "profile.copy", "", "edit.undo", "edit.redo", ""});
    QMenu* views = menu->addMenu("Views");
    for (const StageSpec& stage : stages()) add(views, {qPrintable(QString("stage.") + QString(stage.name).toLower())});
    add(views, {"", "view.plan", "view.ledger", "view.findings", "view.working", "view.ground", "view.rules",
                "view.history", "view.quantities", "view.sensitivity", "view.grade", "profile.events", "profile.strip",
                "profile.menu", "", "view.space", "view.all", "view.whole", "view.theme"});
    add(menu, {"view.find", "", "view.preferences", "view.shortcuts", "help.about", "", "file.quit"});
    menu->setAttribute(Qt::WA_DeleteOnClose);
    return menu;
}
void MainWindow::open_menu() { make_menu()->popup(strip_->mapToGlobal(QPoint(6, strip_->height() - 4))); }

/// What can be done to what is under the pointer: it becomes the selection, unless it is part of it.
QMenu* MainWindow::make_context_menu(ElementRef element) {
    if (element.id && !document_.is_selected(element)) document_.select({element});
    actions_->refresh();
    auto* menu = new QMenu(this);
    menu->setObjectName("context-menu");
    menu->setToolTipsVisible(true);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const std::size_t many = document_.selection().size();
    QAction* head = menu->addAction(!element.id ? QString("Nothing here")
                                    : many > 1  ? QString("%1 elements").arg(many)
                                                : text(kind_name(element.kind)) + " " +
                                                     text(element_name(document_.project(), element.kind, element.id)));
    head->setEnabled(false);
    menu->addSeparator();
    const auto add = [&](std::initializer_list<const char*> ids) {
        for (const char* id : ids) {
            if (!*id) menu->addSeparator();
            else if (QAction* a = actions_->find(id); a && a->isEnabled()) menu->addAction(a);
        }
    };
    if (element.kind == Kind::Pipe && element.id)
        add({"size.up", "size.down", "size.lock", "slope.lock", "", "edit.reverse", "levels.pin", "levels.follow",
             "levels.alternatives", "view.grade", "design.mend", "", "view.working", "walk.up", "walk.down",
             "select.above", "select.below"});
    else if (element.kind == Kind::Structure && element.id)
        add({"view.working", "walk.up", "walk.down", "select.above", "select.below", "", "view.grade", "names.renumber",
             "tool.move"});
    else if (element.kind == Kind::Catchment && element.id)
        add({"areas.downhill", "areas.nearest", "areas.merge", "", "tool.flow", "areas.measure", "tool.cover",
             "tool.cut"});
    else
        add({"tool.draw", "tool.structure", "tool.area", "tool.street", "network.propose", "", "view.all",
             "ground.import"});
    if (element.id) {
        menu->addSeparator();
        QAction* row = menu->addAction("Show in the ledger");
        row->setToolTip("Brings its row into view, with all its fields");
        connect(row, &QAction::triggered, this, [this, element] {
            drawer_->ledger()->show_kind(element.kind);
            drawer_->show_page(drawer_->ledger());
            document_.select({element});
        });
        add({"edit.delete"});
    }
    return menu;
}

}  // namespace culvert::app
