// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/start.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QSettings>
#include <cstdio>

#include "app/main_window.h"
#include "app/theme.h"

namespace culvert::app {
namespace {

/// Runs the event loop until the document's results and advice are of the present revision, or two seconds have gone.
void settle(Document& d, int ms = 700) {
    QElapsedTimer t;
    t.start();
    while (t.elapsed() < 2000 && (t.elapsed() < ms || !d.current()))
        QApplication::processEvents(QEventLoop::AllEvents, 20);
}

void shoot(MainWindow& w, const QString& folder, const char* name) {
    settle(w.document(), 250);
    const QString path = folder + "/" + name + ".png";
    if (!w.grab().save(path)) std::fprintf(stderr, "cannot write %s\n", path.toUtf8().constData());
}

int shots(const QString& folder) {
    QDir().mkpath(folder);
    Document d;
    MainWindow w(d);
    w.resize(1280, 800);
    w.show();
    w.open_file(MainWindow::example("alder-quay"));
    settle(d);
    w.plan()->zoom_to_all();
    const auto select = [&](const char* name) {
        d.select({find_element(d.project(), name)});
        settle(d, 900);
    };
    w.rail()->set_stage(Stage::Levels);
    select("A5");
    shoot(w, folder, "levels-why");
    w.rail()->set_stage(Stage::Pipes);
    select("A6–A7");
    shoot(w, folder, "pipes-ladder");
    w.actions().find("view.working")->trigger();
    shoot(w, folder, "working");
    w.rail()->set_stage(Stage::Rain);
    d.select({});
    shoot(w, folder, "rain-table");
    w.actions().find("size.propose")->trigger();
    settle(d, 900);
    shoot(w, folder, "propose-sizes");
    w.drawer()->preview()->dismiss();
    w.command_bar()->open();
    w.command_bar()->line()->setText("size for 264 l/s at 0.6 %");
    shoot(w, folder, "command-bar");
    w.command_bar()->hide();
    d.set_project(new_project(UnitSystem::Si));
    w.rail()->set_stage(Stage::Layout);
    shoot(w, folder, "empty");
    w.open_file(MainWindow::example("juniper-flat"));
    settle(d);
    w.actions().find("view.theme")->trigger();
    w.plan()->zoom_to_all();
    w.rail()->set_stage(Stage::Levels);
    select("A4–A5");
    shoot(w, folder, "us-dark");
    return 0;
}

}  // namespace

int start(int argc, char** argv) {
    QApplication application(argc, argv);
    QApplication::setOrganizationName("calm-culvert");
    QApplication::setApplicationName("calm-culvert");
    QApplication::setApplicationVersion(CULVERT_VERSION);
    const QStringList arguments = QApplication::arguments();
    if (const auto at = arguments.indexOf("--shots"); at > 0 && at + 1 < arguments.size()) {
        set_theme(false);
        return shots(arguments[at + 1]);
    }
    set_theme(QSettings().value("dark", false).toBool());
    Document document;
    const QString state = qEnvironmentVariable("XDG_STATE_HOME", QDir::homePath() + "/.local/state");
    document.set_state_folder(state + "/calm-culvert");
    MainWindow window(document);
    window.show();
    window.offer_recovery({});
    if (arguments.size() > 1)
        window.open_file(QFileInfo(arguments[1]).exists() || MainWindow::example(arguments[1]).isEmpty()
                             ? arguments[1]
                             : MainWindow::example(arguments[1]));
    return QApplication::exec();
}

}  // namespace culvert::app
