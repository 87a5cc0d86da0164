// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/start.h"
#include "app/desk/text.h"

#include <CLI/CLI.hpp>
#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QMouseEvent>
#include <QPushButton>
#include <QSettings>
#include <algorithm>
#include <cstdlib>
#include <iostream>
#include <thread>

#include "app/kit/theme.h"
#include "app/window/main_window.h"

namespace culvert::app {
namespace {

constexpr auto longest_goodbye = std::chrono::seconds(3);

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
    if (!w.grab().save(path)) std::cerr << "cannot write " << plain(path) << "\n";
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
    // A run graded through one pin; the levels that stand are thin beneath.
    w.rail()->set_stage(Stage::Levels);
    select("A4");
    w.actions().find("view.grade")->trigger();
    w.drawer()->grade()->table()->item(3, GradePanel::PinLeaving)->setText("19.55");
    settle(d, 900);
    w.drawer()->grade()->table()->scrollToItem(w.drawer()->grade()->table()->item(5, 0));
    shoot(w, folder, "grade");
    w.drawer()->preview()->dismiss();
    w.rail()->set_stage(Stage::Rain);
    d.select({});
    shoot(w, folder, "rain-table");
    w.rail()->set_stage(Stage::Areas);
    settle(d, 900);  // the ground under the flow path
    select("South Garth");
    shoot(w, folder, "areas");
    d.select({});
    w.rail()->set_stage(Stage::Pipes);
    w.actions().find("edit.select_all")->trigger();
    w.actions().find("levels.follow")->trigger();
    d.select({});
    w.actions().find("design.propose")->trigger();
    settle(d, 1500);
    shoot(w, folder, "design");
    w.drawer()->preview()->dismiss();
    d.undo();
    settle(d, 300);
    w.command_bar()->open();
    w.command_bar()->line()->setText("gutter flow=10l/s..100l/s grade=1.2%");
    shoot(w, folder, "command-bar");
    w.command_bar()->hide();
    // The ground: surfaces, low points, the drawing under the plan.
    w.rail()->set_stage(Stage::Ground);
    d.select({});
    w.plan()->setFocus();
    settle(d, 300);
    for (const Surface& s : d.project().surfaces)
        for (QTreeWidgetItem* item : w.drawer()->ground()->tree()->findItems(text(s.name), Qt::MatchExactly))
            if (s.role == SurfaceRole::Existing) w.drawer()->ground()->tree()->setCurrentItem(item);
    w.plan()->zoom_to_all();
    settle(d, 1200);
    shoot(w, folder, "ground");
    for (const Street& s : d.project().streets)
        if (s.name == "Ropewalk") d.select({{Kind::Street, s.id}});
    w.rail()->set_stage(Stage::Streets);
    settle(d, 600);
    d.select({find_element(d.project(), "C3")});  // a sag that spreads too far, and where its water came from
    settle(d, 400);
    shoot(w, folder, "street");
    // Street paths for the whole site, shown before they are taken.
    d.select({});
    w.actions().find("paths.propose")->trigger();
    settle(d, 900);
    w.plan()->zoom_to_all();
    shoot(w, folder, "street-paths");
    w.drawer()->preview()->dismiss();
    // A pipe being drawn, with what it would be at the pointer.
    w.rail()->set_stage(Stage::Layout);
    d.select({});
    w.plan()->set_tool("draw");
    const auto click = [&](QPointF at) {
        QMouseEvent press(QEvent::MouseButtonPress, at, w.plan()->mapToGlobal(at), Qt::LeftButton, Qt::LeftButton, {});
        QApplication::sendEvent(w.plan(), &press);
    };
    click(w.plan()->to_screen({330, 440}));
    const QPointF to = w.plan()->to_screen({372, 366});
    QMouseEvent move(QEvent::MouseMove, to, w.plan()->mapToGlobal(to), Qt::NoButton, Qt::NoButton, {});
    QApplication::sendEvent(w.plan(), &move);
    shoot(w, folder, "drawing");
    w.plan()->set_tool("select");
    d.undo();
    // Levels pasted from a spreadsheet, looked at before they are taken.
    w.drawer()->ledger()->show_kind(Kind::Structure);
    w.drawer()->show_page(w.drawer()->ledger());
    w.drawer()->ledger()->paste(
        "Name\tRim (m)\tNote\nA1\t24.85\tchecked on site\nA2\t23,9\t\nA2\t23.92\t\nX9\t22.10\t\nB1\tabout "
        "25\t\nC1\t23.61\t");
    settle(d, 500);
    shoot(w, folder, "paste");
    w.drawer()->ledger()->paste_view()->findChild<QPushButton*>("paste-dismiss")->click();
    w.drawer()->rules()->show_page(1);
    w.drawer()->show_page(w.drawer()->rules());
    shoot(w, folder, "limits");
    w.drawer()->history()->new_variant();
    {
        Editing e(d.project(), "Larger main");
        for (const Pipe& p : d.project().pipes)
            if (p.size == 0.45) e.set(Kind::Pipe, p.id, "size", 0.525);
        d.commit(e.take());
    }
    w.drawer()->show_page(w.drawer()->history());
    w.drawer()->history()->left()->setCurrentIndex(0);
    w.drawer()->history()->right()->setCurrentIndex(1);
    w.drawer()->history()->compare();
    settle(d, 600);
    shoot(w, folder, "history");
    w.show_side_by_side(0);
    w.drawer()->tabs()->setCurrentIndex(1);
    settle(d, 900);
    shoot(w, folder, "side-by-side");
    w.actions().find("variant.side_off")->trigger();
    // The site in space, all the room its own.
    w.rail()->set_stage(Stage::Levels);
    select("A5");
    w.actions().find("view.space")->trigger();
    settle(d, 300);
    w.actions().find("view.whole")->trigger();
    settle(d, 600);
    w.space()->show_all();
    shoot(w, folder, "space");
    w.actions().find("view.whole")->trigger();
    w.actions().find("view.space")->trigger();
    w.notice()->say({});
    w.open_file(MainWindow::example("fern-hollow"));
    settle(d);
    w.plan()->zoom_to_all();
    w.rail()->set_stage(Stage::Storage);
    d.set_event({find_event(d.project(), "100 years")->id});
    select("P1");
    w.actions().find("storage.compare")->trigger();
    settle(d, 1500);
    shoot(w, folder, "storage");
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
    CLI::App line("Calm Culvert lays out, computes and reviews gravity storm sewers.", "calm-culvert");
    std::string project, folder;
    line.add_option("project", project, "a project file, or an example: alder-quay, fern-hollow, juniper-flat");
    line.add_option("--shots", folder, "write a picture of each main view into this folder, and end");
    line.set_version_flag("--version", CULVERT_VERSION);
    line.footer("calm-culvert-cli --help: the same work without a window.");
    const auto read = [&line](std::vector<std::string> words) -> std::optional<int> {
        try {
            std::reverse(words.begin(), words.end());
            line.parse(words);
        } catch (const CLI::Success& said) { return line.exit(said); } catch (const CLI::ParseError& wrong) {
            std::cerr << "calm-culvert: " << wrong.what() << "\nSee calm-culvert --help.\n";
            return 2;
        }
        return {};
    };
    for (const std::string& word : std::vector<std::string>(argv + 1, argv + argc))  // these need no screen
        if (word == "--help" || word == "-h" || word == "--version") return *read({word});
    QApplication application(argc, argv);
    std::vector<std::string> words;
    for (const QString& word : QApplication::arguments().mid(1)) words.push_back(plain(word));
    if (const auto ends = read(words)) return *ends;
    QApplication::setOrganizationName("calm-culvert");
    QApplication::setApplicationName("calm-culvert");
    QApplication::setApplicationVersion(CULVERT_VERSION);
    QApplication::setWindowIcon(QIcon(":/calm-culvert.svg"));
    QGuiApplication::setDesktopFileName("calm-culvert");
    if (!folder.empty()) {
        set_theme(false);
        return shots(text(folder));
    }
    set_text_scale(QSettings().value("text_scale", 1.0).toDouble());
    set_theme(QSettings().value("dark", false).toBool());
    Document document;
    if (PreferencesPanel::us_units()) document.set_project(new_project(UnitSystem::Us));
    const QString state = PreferencesPanel::journal_folder();
    document.set_state_folder(state);
    MainWindow window(document);
    window.show();
    if (const QString path = text(project), example = MainWindow::example(path); !path.isEmpty())
        window.open_file(QFileInfo::exists(path) || example.isEmpty() ? path : example);
    if (window.notice()->said().isEmpty()) window.offer_recovery({});
    std::thread([folder = plain(state)] { sweep_spool(folder + "/assets", folder); }).detach();
    const int code = QApplication::exec();
    // All is on disk. A job that does not heed its stop (a library at work on a large file) keeps nobody waiting.
    std::thread([code] {
        std::this_thread::sleep_for(longest_goodbye);
        std::_Exit(code);
    }).detach();
    return code;
}

}  // namespace culvert::app
