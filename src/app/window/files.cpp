// SPDX-License-Identifier: GPL-3.0-or-later
// New, open, save, recent files, closing: what the window does with project files.
#include <QApplication>
#include <QCloseEvent>
#include <QCoreApplication>
#include <QFileDialog>
#include <QFileInfo>
#include <QSettings>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/window/main_window.h"

namespace culvert::app {
namespace {
constexpr qint64 large_file = 1'500'000;  ///< bytes, from which a file is read off the interface thread
}

QString MainWindow::example(const QString& name) {
    // As installed, or beside the build.
    for (const char* folder : {"/../share/calm-culvert/examples/", "/../../../examples/"}) {
        const QString file = QCoreApplication::applicationDirPath() + folder + name + ".culvert";
        if (QFileInfo::exists(file)) return QDir::cleanPath(file);
    }
    return {};
}

bool MainWindow::is_example(const QString& path) {
    return !path.isEmpty() && QFileInfo(path).absolutePath() == QFileInfo(example("alder-quay")).absolutePath();
}

QStringList MainWindow::recent_files() { return QSettings().value("recent").toStringList(); }

void MainWindow::remember(const QString& path) {
    QStringList recent = recent_files();
    const QString full = QFileInfo(path).absoluteFilePath();
    recent.removeAll(full);
    recent.prepend(full);
    QSettings().setValue("recent", recent.mid(0, 10));
}

void MainWindow::open_file(const QString& path) {
    const std::uint64_t before = document_.generation();
    const auto opened = [this, path, before](const QString& said) {
        notice_->say(said);
        if (document_.generation() == before) return;
        remember(path);
        offer_recovery(path, said);
    };
    if (QFileInfo(path).size() < large_file) return opened(document_.open(path, !is_example(path)));
    notice_->say("Opening " + QFileInfo(path).fileName() + " …", {{"Stop", [this] { document_.cancel_open(); }}}, true);
    document_.open_later(path, !is_example(path), opened);
}

bool MainWindow::save_to(const QString& path, std::function<void()> then) {
    if (document_.is_large()) {
        notice_->say("Saving " + QFileInfo(path).fileName() + " …", {}, true);
        document_.save_later(path, false, [this, path, then](const QString& said) {
            if (saved_or_said(path, said) && then) then();
        });
        return true;
    }
    const bool good = saved_or_said(path, document_.save(path));
    if (good && then) then();
    return good;
}

bool MainWindow::saved_or_said(const QString& path, const QString& said) {
    if (said.isEmpty()) {
        remember(path);
        notice_->say({});
        return true;
    }
    std::vector<Notice::Choice> choices{{"Save under another name", [this] { save_as(); }}};
    if (document_.changed_on_disk() && path == document_.path())
        choices.emplace_back("Save over the changed file", [this, path] {
            const QString again = document_.save(path, true);
            if (!again.isEmpty()) notice_->say(again);
        });
    notice_->say(said, choices);
    return false;
}

void MainWindow::save(std::function<void()> then) {
    // The demo is there to be tried, not to be written over.
    const bool demo = is_example(document_.path());
    if (document_.path().isEmpty() || demo) save_as({}, std::move(then));
    else save_to(document_.path(), std::move(then));
}

void MainWindow::save_as(const QString& note, std::function<void()> then) {
    QString path = QFileDialog::getSaveFileName(
        this, "Save the project",
        document_.path().isEmpty() ? "project.culvert" : QFileInfo(document_.path()).fileName(),
        "Calm Culvert projects (*.culvert)");
    if (path.isEmpty()) return;
    if (!path.endsWith(".culvert")) path += ".culvert";
    if (!note.isEmpty()) {
        Editing e(document_.project(), "Note: " + plain(note));
        e.set(Kind::Settings, settings_id, "note", plain(note));
        document_.commit(e.take());
    }
    save_to(path, std::move(then));
}

void MainWindow::when_safe(const QString& what, std::function<void()> then) {
    if (!document_.modified()) {
        then();
        return;
    }
    notice_->say("There are unsaved changes.", {{"Save first",
                                                 [this, then] {
                                                     save([this, then] {
                                                         if (!document_.modified()) then();
                                                     });
                                                 }},
                                                {what, then}});
}

void MainWindow::declare_file_actions() {
    actions_->add("file.new", "New project in SI units", "Starts an empty project in metres", QKeySequence::New,
                  [this] {
                      when_safe("Start anew without saving", [this] {
                          document_.set_project(new_project(UnitSystem::Si));
                          rail_->set_stage(Stage::Layout);
                      });
                  });
    actions_->add("file.new_us", "New project in US units", "Starts an empty project in feet", {}, [this] {
        when_safe("Start anew without saving", [this] {
            document_.set_project(new_project(UnitSystem::Us));
            rail_->set_stage(Stage::Layout);
        });
    });
    actions_->add("file.open", "Open …", "Opens a project file", QKeySequence::Open, [this] {
        when_safe("Open without saving", [this] {
            const QString path = QFileDialog::getOpenFileName(this, "Open a project", {},
                                                              "Calm Culvert projects (*.culvert);;All files (*)");
            if (!path.isEmpty()) open_file(path);
        });
    });
    actions_->add("file.save", "Save", "Writes the project to its file", QKeySequence::Save, [this] { save(); });
    actions_->add("file.save_as", "Save as …", "Writes the project to another file", QKeySequence("Ctrl+Shift+S"),
                  [this] { save_as(); });
    actions_->add("file.demo", "Open the demo project", "Alder Quay, in SI units", {},
                  [this] { when_safe("Open without saving", [this] { open_file(example("alder-quay")); }); });
    actions_->add("file.demo_us", "Open the demo project in US units", "Juniper Flat, in US units", {},
                  [this] { when_safe("Open without saving", [this] { open_file(example("juniper-flat")); }); });
    int number = 0;
    for (const QString& path : recent_files()) {
        if (!QFileInfo::exists(path)) continue;
        actions_->add(QString("file.recent.%1").arg(++number), "Open recent: " + QFileInfo(path).fileName(), path, {},
                      [this, path] { when_safe("Open without saving", [this, path] { open_file(path); }); });
    }
    actions_->add("file.quit", "Quit", "Closes the window", QKeySequence::Quit, [this] { close(); });
}

void MainWindow::closeEvent(QCloseEvent* e) {
    if (!document_.modified() || close_anyway_) {
        document_.close_journal();
        e->accept();
        return;
    }
    e->ignore();
    when_safe("Close without saving", [this] {
        close_anyway_ = true;
        close();
    });
}

}  // namespace culvert::app
