// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <QtWidgets>
#include <cmath>
#include <set>

#include "app/window/main_window.h"

using namespace culvert;
using namespace culvert::app;

/// The profile as a tool: levels typed in its table, runs kept by name, measuring, rows; the site in space; tailwater
/// from another project.
class TestProfileWindow : public QObject {
    Q_OBJECT
    std::unique_ptr<Document> document_;
    std::unique_ptr<MainWindow> window_;
    QTemporaryDir folder_;

    Document& d() { return *document_; }
    ProfileView& profile() { return *window_->profile(); }
    SpaceView& space() { return *window_->space(); }
    void settle() { QTRY_VERIFY_WITH_TIMEOUT(d().current() && d().review() && !d().all_results().empty(), 20000); }
    /// A1 – … – A5 (outfall), 60 m each, and B1 that joins at A3.
    static Project line() {
        Project p = new_project(UnitSystem::Si);
        for (int i = 0; i < 6; ++i) {
            Structure s;
            s.id = static_cast<std::uint64_t>(i) + 1;
            s.name = i < 5 ? "A" + std::to_string(i + 1) : "B1";
            s.kind = i == 4 ? StructureKind::Outfall : StructureKind::Manhole;
            s.x = i < 5 ? 60 * i : 120;
            s.y = i < 5 ? 0 : 50;
            s.rim = 50 - 0.7 * (i < 5 ? i : 1);
            s.known_flow = i == 0 ? 0.02 : 0;
            p.structures.insert(s);
        }
        for (int i = 0; i < 5; ++i) {
            Pipe q;
            q.id = static_cast<std::uint64_t>(i) + 11;
            q.from = {i < 4 ? static_cast<std::uint64_t>(i) + 1 : 6};
            q.to = {i < 4 ? static_cast<std::uint64_t>(i) + 2 : 3};
            q.material = "concrete";
            q.size = 0.3;
            q.invert_from = i < 4 ? 48 - 0.72 * i : 47.3;
            q.invert_to = i < 4 ? q.invert_from - 0.7 : 46.7;
            p.pipes.insert(q);
        }
        RainEvent e;
        e.id = 5;
        e.name = "10 years";
        e.return_period = 10;
        e.role = EventRole::Minor;
        e.durations = {300, 3600};
        e.intensities = {4e-5, 1e-5};
        p.events.insert(e);
        return p;
    }
    void show(Project p) {
        d().set_project(std::move(p));
        window_->actions().find("stage.levels")->trigger();
        settle();
        d().select({{Kind::Structure, 1}});
        profile().grab();
    }
    void key(Qt::Key k) { QTest::keyClick(profile().editor(), k); }

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test-profile");
    }
    void init() {
        QSettings().clear();
        document_ = std::make_unique<Document>();
        window_ = std::make_unique<MainWindow>(*document_);
        window_->resize(1280, 800);
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    }
    void cleanup() {
        window_.reset();
        document_.reset();
    }

    /// A double click opens the cell, Enter takes what is typed as one Edit, Tab goes on, a word is refused and stays.
    void levels_are_typed_in_the_table() {
        show(line());
        const QRectF cell = profile().typed_cell({12}, false);
        QVERIFY(!cell.isNull());
        QTest::mouseDClick(&profile(), Qt::LeftButton, {}, cell.center().toPoint());
        QVERIFY(profile().editor() && profile().editor()->isVisible());
        QCOMPARE(profile().editor()->text(), QString("47.280"));
        profile().editor()->clear();
        QTest::keyClicks(profile().editor(), "47.25");
        key(Qt::Key_Tab);
        QCOMPARE(d().project().pipes.find(12)->invert_from, 47.25);
        QVERIFY(profile().editor()->isVisible());  // on to the lower end
        QCOMPARE(profile().editor()->text(), QString("46.580"));
        profile().editor()->clear();
        QTest::keyClicks(profile().editor(), "soon");
        key(Qt::Key_Return);
        QVERIFY(profile().editor()->isVisible());
        QVERIFY(window_->notice()->said().contains("Invert of A2–A3"));
        QCOMPARE(d().project().pipes.find(12)->invert_to, 46.58);
        key(Qt::Key_Escape);
        QVERIFY(!profile().editor()->isVisible());
        d().undo();
        QCOMPARE(d().project().pipes.find(12)->invert_from, 47.28);
        // By the keyboard alone: F2 at the selected pipe; nothing typed is no change.
        settle();
        d().select({{Kind::Pipe, 13}});
        profile().grab();
        QTest::keyClick(&profile(), Qt::Key_F2);
        QVERIFY(profile().editor()->isVisible());
        const Project as_it_was = d().project();
        key(Qt::Key_Return);
        QVERIFY(d().project() == as_it_was);
    }
    /// While the run is being graded what is typed is a pin, and the rest follows.
    void a_level_typed_while_grading_is_a_pin() {
        show(line());
        d().select({{Kind::Pipe, 11}, {Kind::Pipe, 12}});
        window_->actions().find("view.grade")->trigger();
        QVERIFY(window_->drawer()->grade()->active());
        profile().grab();
        QVERIFY(profile().edit_level({12}, false));
        profile().editor()->clear();
        QTest::keyClicks(profile().editor(), "47.2");
        key(Qt::Key_Return);
        QVERIFY(d().has_pending());
        QCOMPARE(d().committed().pipes.find(12)->invert_from, 47.28);
        QVERIFY(std::abs(d().project().pipes.find(12)->invert_from - 47.2) < 1e-9);
    }
    /// Two structures show the part between; it is kept by name, shown again, and gone with its structure.
    void runs_are_kept_by_name() {
        show(line());
        QCOMPARE(profile().profile().stations.size(), std::size_t{5});
        d().select({{Kind::Structure, 4}, {Kind::Structure, 2}});
        profile().grab();
        QCOMPARE(profile().profile().stations.size(), std::size_t{3});
        QCOMPARE(profile().profile().stations.front().name, std::string("A2"));
        QVERIFY(std::abs(profile().profile().length - 120) < 1e-9);
        d().select({{Kind::Pipe, 12}});  // inside: the part stays
        profile().grab();
        QCOMPARE(profile().profile().stations.size(), std::size_t{3});
        window_->actions().find("profile.keep")->trigger();
        QCOMPARE(d().project().profiles.size(), std::size_t{1});
        QCOMPARE(d().project().profiles.begin()->name, std::string("A2 to A4"));
        window_->actions().find("profile.keep")->trigger();  // once is enough
        QCOMPARE(d().project().profiles.size(), std::size_t{1});
        d().select({{Kind::Structure, 6}});
        profile().grab();
        QCOMPARE(profile().profile().stations.front().name, std::string("B1"));
        std::unique_ptr<QMenu> menu(profile().make_menu());
        QAction* kept = menu->actions().front();
        QCOMPARE(kept->text(), QString("A2 to A4"));
        QVERIFY(!kept->isChecked());
        kept->trigger();
        profile().grab();
        QCOMPARE(profile().profile().stations.front().name, std::string("A2"));
        QCOMPARE(profile().profile().stations.back().name, std::string("A4"));
        Editing e(d().project(), "Remove A2");
        e.remove(Kind::Structure, 2);
        d().commit(e.take());
        QVERIFY(d().project().profiles.empty());
        d().undo();
        QCOMPARE(d().project().profiles.size(), std::size_t{1});
        // Two structures of which neither leads to the other: the run through the last.
        settle();
        d().select({{Kind::Structure, 1}, {Kind::Structure, 6}});
        profile().grab();
        QVERIFY(profile().profile().stations.size() >= 3);
    }
    /// From the second rim to the third: 60 m along, 0.7 m down.
    void the_profile_is_measured() {
        show(line());
        window_->actions().find("profile.measure")->trigger();
        QVERIFY(profile().measuring());
        profile().grab();
        const QPoint a = profile().handle_at({Kind::Structure, 2}, "rim").toPoint() + QPoint(2, 2),
                     b = profile().handle_at({Kind::Structure, 3}, "rim").toPoint() + QPoint(-2, 1);
        QTest::mousePress(&profile(), Qt::LeftButton, {}, a);
        QTest::mouseMove(&profile(), (a + b) / 2);
        QTest::mouseMove(&profile(), b);
        QTest::mouseRelease(&profile(), Qt::LeftButton, {}, b);
        QCOMPARE(profile().measured(), QString("60.00 m along, 0.70 m down, 1.17 %"));
        QCOMPARE(d().project().pipes.find(11)->invert_to, 47.3);  // nothing was dragged
        QTest::keyClick(&profile(), Qt::Key_Escape);
        QVERIFY(!profile().measuring() && profile().measured().isEmpty());
    }
    void rows_of_the_table_are_a_choice_that_stays() {
        show(line());
        QVERIFY(profile().table_heads().contains("invert, upper m"));
        profile().choose_rows({"flow", "invert_down"});
        profile().grab();
        QCOMPARE(profile().table_heads(), (QStringList{"flow l/s", "invert, lower m"}));
        QVERIFY(profile().typed_cell({12}, false).isNull() && !profile().typed_cell({12}, true).isNull());
        MainWindow again(d());
        again.resize(1280, 800);
        again.show();
        again.profile()->grab();
        QCOMPARE(again.profile()->table_heads(), (QStringList{"flow l/s", "invert, lower m"}));
        QSettings().setValue("profile/across", 250);
        QSettings().setValue("profile/up", 25);
        const ProfileSheet sheet = profile().sheet(profile_file_scale().across, profile_file_scale().up)();
        QVERIFY(sheet.width > 240 / 0.25 * 0.99);  // 240 m at 1 : 250 are 960 mm
    }
    void a_low_strip_keeps_its_plot() {
        show(line());
        profile().setFixedHeight(400);
        profile().grab();
        const int all = static_cast<int>(profile().table_heads().size());
        QCOMPARE(all, 6);
        int before = -1;
        for (int high = 100; high <= 400; ++high) {
            profile().setFixedHeight(high);
            profile().grab();
            const int rows = static_cast<int>(profile().table_heads().size());
            // From the ground at the head to the invert at the end, both inside the plot.
            const QPointF top = profile().handle_at({Kind::Structure, 1}, "rim"),
                          low = profile().handle_at({Kind::Pipe, 14}, "invert_to");
            QVERIFY2(low.y() - top.y() > 0.6 * 72 - (high < 116 ? 116 - high : 0), qPrintable(QString::number(high)));
            for (const auto& [words, place] : profile().cells())
                QVERIFY(place.top() > low.y() && place.bottom() <= high);
            QVERIFY(rows >= before && (rows == all || high < 44 + 72 + 15 * all));
            before = rows;
        }
        QCOMPARE(before, all);
    }
    void the_table_says_sizes_in_full() {
        Project p = line();
        p.pipes.change(11)->barrels = 3;
        p.pipes.change(12)->shape = Shape::Box;
        p.pipes.change(12)->width = 0.6;
        show(std::move(p));
        profile().choose_rows({"size"});
        profile().grab();
        QStringList said;
        for (const auto& [words, place] : profile().cells()) said << words;
        QVERIFY2(said.contains("3 of 300") && said.contains("600 × 300") && said.contains("300"),
                 qPrintable(said.join(", ")));
    }

    /// F12 in place of the plan: turned by mouse and keys, a click selects, heights are drawn out, names keep apart.
    void the_site_stands_in_space() {
        show(line());
        window_->actions().find("view.space")->trigger();
        QVERIFY(space().isVisible() && !window_->plan()->isVisible());
        space().grab();
        const auto& p = d().project();
        for (const Structure& s : p.structures) {
            const QPointF top = space().to_screen(s.x, s.y, s.rim);
            QVERIFY2(space().rect().contains(top.toPoint()), s.name.c_str());
        }
        // Higher is higher on screen, by the tilt and the exaggeration; parallel lines stay parallel.
        const QPointF low = space().to_screen(0, 0, 40), high = space().to_screen(0, 0, 41);
        QVERIFY(std::abs(low.x() - high.x()) < 1e-9 && low.y() > high.y());
        const QPointF e1 = space().to_screen(60, 0, 40) - low,
                      e2 = space().to_screen(160, 80, 47) - space().to_screen(100, 80, 47);
        QVERIFY(std::abs(e1.x() - e2.x()) < 1e-9 && std::abs(e1.y() - e2.y()) < 1e-9);
        const double times = space().exaggeration();
        space().set_exaggeration(2 * times);
        QVERIFY(std::abs((space().to_screen(0, 0, 40) - space().to_screen(0, 0, 41)).y() - 2 * (low - high).y()) <
                1e-9);
        space().set_exaggeration(times);
        const double round = space().round();
        QTest::mousePress(&space(), Qt::LeftButton, {}, {300, 100});
        QTest::mouseMove(&space(), {350, 100});
        QTest::mouseMove(&space(), {400, 110});
        QTest::mouseRelease(&space(), Qt::LeftButton, {}, {400, 110});
        QVERIFY(std::abs(space().round() - round) > 10);
        QCOMPARE(d().selected(), (ElementRef{Kind::Structure, 1}));  // turning selects nothing
        QTest::keyClick(&space(), Qt::Key_Left);
        space().grab();
        const QPointF middle = (space().to_screen(60, 0, 47.3 + 0.15) + space().to_screen(120, 0, 46.58 + 0.15)) / 2;
        QTest::mouseClick(&space(), Qt::LeftButton, {}, middle.toPoint());
        QCOMPARE(d().selected(), (ElementRef{Kind::Pipe, 12}));
        space().grab();
        QVERIFY(space().names().size() >= 4);
        for (std::size_t i = 0; i < space().names().size(); ++i)
            for (std::size_t k = i + 1; k < space().names().size(); ++k)
                QVERIFY(!space().names()[i].second.intersects(space().names()[k].second));
        // Another project fills the view again; a tool of the plan leads back to it.
        Project far = line();
        for (const Structure& s : line().structures) {
            far.structures.change(s.id)->x = 5000 + 40 * s.x;
            far.structures.change(s.id)->y = 90000 + 40 * s.y;
        }
        const QString path = folder_.filePath("far.culvert");
        QVERIFY(save_project(far, path.toStdString()).ok);
        window_->open_file(path);
        settle();
        QTRY_VERIFY(d().project().structures.find(1)->x == 5000);
        space().grab();
        for (const Structure& s : d().project().structures)
            QVERIFY2(space().rect().contains(space().to_screen(s.x, s.y, s.rim).toPoint()), s.name.c_str());
        QVERIFY((space().to_screen(5000, 90000, 50) - space().to_screen(14600, 90000, 50)).manhattanLength() > 200);
        window_->plan()->set_tool("draw");
        QVERIFY(!space().isVisible() && window_->plan()->isVisible());
        window_->plan()->set_tool("select");
        window_->actions().find("view.space")->trigger();
        window_->actions().find("view.space")->trigger();
        QVERIFY(!space().isVisible() && window_->plan()->isVisible());
    }

    /// Branches that join the run are named in its head; a click, or the command, shows the run through one.
    void branches_are_a_click_away() {
        window_->open_file(MainWindow::example("alder-quay"));
        QTRY_VERIFY_WITH_TIMEOUT(d().current(), 20000);
        d().select({find_element(d().project(), "A1")});
        QTRY_VERIFY(d().current());
        window_->grab();
        ProfileView* view = window_->profile();
        QVERIFY(!view->joins().empty());
        const auto shown = std::find_if(view->joins().begin(), view->joins().end(),
                                        [](const ProfileView::Join& j) { return !j.place.isEmpty(); });
        QVERIFY(shown != view->joins().end());
        const PipeId pipe = shown->pipe;
        const std::string head = view->profile().stations.front().name;
        QTest::mouseClick(view, Qt::LeftButton, {}, shown->place.center().toPoint());
        QVERIFY(d().selected() == (ElementRef{Kind::Pipe, pipe.value}));
        window_->grab();
        QVERIFY(view->profile().stations.front().name != head);
        QVERIFY(std::any_of(view->profile().reaches.begin(), view->profile().reaches.end(),
                            [&](const ProfileReach& r) { return r.pipe == pipe; }));
        d().select({find_element(d().project(), "A1")});
        window_->grab();
        const PipeId first = view->joins().front().pipe;
        window_->actions().find("profile.branch")->trigger();
        QVERIFY(d().selected() == (ElementRef{Kind::Pipe, first.value}));
    }
    /// All branches at one level scale: the run, then each branch; a click selects, a double click opens its profile.
    void branches_stand_side_by_side() {
        window_->open_file(MainWindow::example("alder-quay"));
        QTRY_VERIFY_WITH_TIMEOUT(d().current(), 20000);
        window_->actions().find("stage.levels")->trigger();
        d().select({find_element(d().project(), "A1")});
        window_->actions().find("profile.strip")->trigger();
        BranchStrip* strip = window_->branches();
        QTRY_VERIFY(strip->isVisible() && strip->runs().size() >= 4);
        // Every pipe that leads to the outfall stands in one of them, once.
        std::multiset<std::uint64_t> shown;
        for (const Profile& run : strip->runs())
            for (const ProfileReach& r : run.reaches) shown.insert(r.pipe.value);
        const auto r = d().result();
        for (const Link& l : r->network->links) QCOMPARE(shown.count(l.pipe.value), std::size_t{1});
        for (std::size_t i = 1; i < strip->runs().size(); ++i)
            QVERIFY(strip->place_of(i).left() >= strip->place_of(i - 1).right());
        const ProfileReach& reach = strip->runs()[1].reaches.front();
        const QPointF at = strip->to_screen(1, {(reach.x0 + reach.x1) / 2, reach.invert_up});
        QTest::mouseClick(strip, Qt::LeftButton, {}, at.toPoint());
        QVERIFY(d().selected() == (ElementRef{Kind::Pipe, reach.pipe.value}));
        QVERIFY(strip->runs().size() >= 4);  // it is one of them: they stay
        // The wheel zooms, a drag and the keys move.
        const double width = strip->place_of(0).width(), left = strip->place_of(0).left();
        QWheelEvent wheel({200, 80}, strip->mapToGlobal(QPointF(200, 80)), {}, {0, 240}, {}, {}, Qt::NoScrollPhase,
                          false);
        QApplication::sendEvent(strip, &wheel);
        QVERIFY(strip->place_of(0).width() > 1.3 * width);
        QTest::keyClick(strip, Qt::Key_Right);
        QVERIFY(strip->place_of(0).left() < left);
        QTest::mouseDClick(strip, Qt::LeftButton, {}, strip->to_screen(0, {10, strip->runs()[0].low}).toPoint());
        QTRY_VERIFY(!strip->isVisible() && window_->profile()->isVisible());
    }
    /// The outfall of the selection; shown as a preview first.
    void the_tailwater_comes_from_another_project() {
        Project trunk = line();
        trunk.structures.change(5)->name = "T9";
        trunk.structures.change(3)->name = "A5";
        const QString path = folder_.filePath("trunk.culvert");
        QVERIFY(save_project(trunk, path.toStdString()).ok);
        show(line());
        window_->take_outer_levels({5}, path);
        QTRY_VERIFY_WITH_TIMEOUT(d().has_pending(), 20000);
        QVERIFY(d().committed().outfall_levels.empty());
        d().commit_pending();
        QCOMPARE(d().project().outfall_levels.size(), std::size_t{1});
        const double level = d().project().outfall_levels.begin()->level;
        QVERIFY(level > 46.5 && level < 47);  // the invert at A3 is 46.58
        // None of its name, none near: the structure is chosen from a list that takes typing.
        trunk.structures.change(5)->name = "T9";
        for (const Structure& s : std::vector<Structure>(trunk.structures.begin(), trunk.structures.end()))
            trunk.structures.change(s.id)->x += 5000, trunk.structures.change(s.id)->name += " far";
        const QString far_path = folder_.filePath("far.culvert");
        QVERIFY(save_project(trunk, far_path.toStdString()).ok);
        window_->take_outer_levels({5}, far_path);
        CommandBar* bar = window_->command_bar();
        QTRY_VERIFY(bar->isVisible());
        QVERIFY(bar->line()->placeholderText().contains("far.culvert"));
        QTest::keyClicks(bar->line(), "a5 f");
        QCOMPARE(bar->list()->count(), 1);
        QTest::keyClick(bar->line(), Qt::Key_Return);
        QTRY_VERIFY_WITH_TIMEOUT(d().has_pending(), 20000);
        d().commit_pending();
        QVERIFY(d().project().outfall_levels.begin()->source.find("A5 far") != std::string::npos);
        QCOMPARE(d().project().outfall_levels.begin()->level, level);
        bar->open();  // an ordinary bar again
        QVERIFY(bar->list()->count() > 1 && !bar->line()->placeholderText().contains("far.culvert"));
        bar->hide();
        window_->take_outer_levels({5}, folder_.filePath("none.culvert"));
        QTRY_VERIFY(window_->notice()->said().contains("none.culvert"));
    }
    /// The plan in each form, beside the work; what cannot be written is said.
    void the_plan_is_saved() {
        show(line());
        for (const char* name : {"plan.pdf", "plan.svg", "plan.dxf"}) {
            const QString path = folder_.filePath(name);
            window_->notice()->say({});
            window_->save_plan_as(path);
            QTRY_VERIFY_WITH_TIMEOUT(window_->notice()->said().startsWith("Saved as"), 20000);
            QFile f(path);
            QVERIFY(f.open(QIODevice::ReadOnly));
            const QByteArray bytes = f.readAll();
            QVERIFY(bytes.size() > 1000);
            if (path.endsWith("svg")) QVERIFY(bytes.contains("A1 50.000"));
            if (path.endsWith("dxf")) QVERIFY(bytes.contains("A1 50.000") && bytes.contains("STRUCTURES"));
            if (path.endsWith("pdf")) QVERIFY(bytes.startsWith("%PDF"));
            QCOMPARE(window_->notice()->said().contains("coordinates"), path.endsWith("dxf"));
        }
        window_->save_plan_as("/proc/nowhere/plan.svg");
        QTRY_VERIFY(!window_->notice()->said().startsWith("Saved as"));
        d().set_project(new_project(UnitSystem::Si));
        window_->save_plan_as(folder_.filePath("none.svg"));
        QTRY_VERIFY(window_->notice()->said().startsWith("Nothing of the project"));
    }
    /// A rim moves; the tied level follows after one command, as a preview.
    void tied_levels_follow_when_asked() {
        Project p = line();
        p.pipes.change(11)->tie_from = "rim - 2 m";
        p.structures.change(1)->rim = 50.4;
        show(p);
        window_->actions().find("grade.ties")->trigger();
        QTRY_VERIFY_WITH_TIMEOUT(d().has_pending(), 20000);
        d().commit_pending();
        QVERIFY(std::abs(d().project().pipes.find(11)->invert_from - 48.4) < 1e-9);
        QCOMPARE(d().project().pipes.find(11)->tie_from, std::string("rim - 2 m"));
        // The card shows it under the level, and takes it away when it is emptied.
        d().select({{Kind::Pipe, 11}});
        FieldEdit* tie = nullptr;
        QTRY_VERIFY([&] {
            for (FieldEdit* f : window_->card()->findChildren<FieldEdit*>())
                if (f->info().key == "tie_from") tie = f;
            return tie != nullptr;
        }());
        QCOMPARE(tie->line()->text(), QString("rim - 2 m"));
        tie->line()->clear();
        tie->accept();
        QVERIFY(d().project().pipes.find(11)->tie_from.empty());
        d().undo();
        // The panel shows the tie as the pin it is.
        settle();
        d().select({{Kind::Pipe, 11}, {Kind::Pipe, 12}});
        window_->actions().find("view.grade")->trigger();
        QCOMPARE(window_->drawer()->grade()->table()->item(0, GradePanel::PinLeaving)->text(), QString("rim - 2 m"));
    }
};
QTEST_MAIN(TestProfileWindow)
#include "test_profile.moc"
