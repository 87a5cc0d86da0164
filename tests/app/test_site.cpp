// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QClipboard>
#include <QtTest>
#include <cmath>
#include <filesystem>
#include <fstream>

#include "app/kit/theme.h"
#include "app/plan/plan_tool.h"
#include "app/window/main_window.h"
#include "core/base/numbers.h"
#include "core/model/lay.h"
#include "exchange/edit_text.h"
#include "support/networks.h"

using namespace culvert;
using namespace culvert::app;

/// The ground, the drawing tools over it, streets, street paths, catchments: by real mouse and keys.
class TestSite : public QObject {
    Q_OBJECT
    std::unique_ptr<Document> document_;
    std::unique_ptr<MainWindow> window_;
    QTemporaryDir dir_;

    Document& d() { return *document_; }
    PlanView* plan() { return window_->plan(); }
    QPointF screen(double x, double y) { return plan()->to_screen({x, y}); }
    void click(QPointF at, Qt::KeyboardModifiers keys = {}) {
        QTest::mouseClick(plan(), Qt::LeftButton, keys, at.toPoint());
    }
    void key(int k, Qt::KeyboardModifiers keys = {}) { QTest::keyClick(plan(), static_cast<Qt::Key>(k), keys); }
    /// The first figure opens the entry at the pointer, the rest is typed into it.
    void type(const char* words) {
        key_text(words[0]);
        QTest::keyClicks(plan()->typed(), words + 1);
    }
    void key_text(char c) { QTest::keyClicks(plan(), QString(QChar(c))); }
    void hover(QPointF at) {
        QMouseEvent move(QEvent::MouseMove, at, plan()->mapToGlobal(at), Qt::NoButton, Qt::NoButton, {});
        QApplication::sendEvent(plan(), &move);
    }
    void drag(QPointF from, QPointF to) {
        QTest::mousePress(plan(), Qt::LeftButton, {}, from.toPoint());
        QTest::mouseMove(plan(), ((from + to) / 2).toPoint());
        QTest::mouseMove(plan(), to.toPoint());
        QTest::mouseRelease(plan(), Qt::LeftButton, {}, to.toPoint());
    }
    ElementRef element(const char* name) { return find_element(d().project(), name); }
    const Structure& structure(const char* name) { return *d().project().structures.find(element(name).id); }
    std::string file(const char* name, const std::string& bytes) {
        const std::string path = dir_.path().toStdString() + "/" + name;
        std::ofstream(path, std::ios::binary) << bytes;
        return path;
    }
    /// A plane that falls 2 % to the east from level 30, 400 m square, and a hollow around (300, 300).
    void give_ground() {
        std::string csv = "Easting,Northing,Level\n";
        for (int x = 0; x <= 400; x += 10)
            for (int y = 0; y <= 400; y += 10)
                csv +=
                    fixed(x, 6) + "," + fixed(y, 6) + "," +
                    shortest(30 - 0.02 * x - 2 * std::exp(-((x - 300.0) * (x - 300) + (y - 300.0) * (y - 300)) / 800)) +
                    "\n";
        GroundPanel* ground = window_->drawer()->ground();
        window_->import_file(QString::fromStdString(file("plane.csv", csv)));
        QTRY_VERIFY_WITH_TIMEOUT(ground->offering(), 5000);
        ground->take_as_surface();
        QTRY_VERIFY_WITH_TIMEOUT(!d().project().surfaces.empty() && d().site().ground().existing, 5000);
        plan()->zoom_to_all();
        plan()->setFocus();
    }

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        set_theme(false);
    }
    void init() {
        document_ = std::make_unique<Document>();
        window_ = std::make_unique<MainWindow>(*document_);
        window_->resize(1280, 800);
        window_->show();
        window_->activateWindow();
        QApplication::processEvents();
        plan()->setFocus();
    }
    void cleanup() {
        window_.reset();
        document_.reset();
    }

    void a_survey_is_looked_at_before_it_is_taken() {
        GroundPanel* ground = window_->drawer()->ground();
        window_->import_file(
            QString::fromStdString(file("odd.csv", "a;b;c\n100;200;5,5\n110;200;6\n100;210;7\n110;210;oops\n")));
        QTRY_VERIFY(ground->offering());
        QVERIFY(d().project().surfaces.empty());  // nothing is taken yet
        auto* first = ground->findChild<QComboBox*>("point-column-0");
        QVERIFY(first);
        QCOMPARE(first->currentText(), QString("easting"));
        // The columns are the other way round: northing first.
        auto* second = ground->findChild<QComboBox*>("point-column-1");
        first->setCurrentIndex(3);
        emit first->activated(3);
        second->setCurrentIndex(2);
        emit second->activated(2);
        ground->role()->setCurrentIndex(1);
        QTest::mouseClick(ground->findChild<QPushButton*>("make-surface"), Qt::LeftButton);
        QTRY_COMPARE(d().project().surfaces.size(), std::size_t{1});
        QVERIFY2(ground->said().contains("3 points") && ground->said().contains("oops"), qPrintable(ground->said()));
        QTRY_VERIFY(d().site().ground().finished);
        QVERIFY(std::abs(d().ground_level({203, 102}) - (5.5 + 0.3 * 1.5 + 0.2 * 0.5)) < 2e-3);
        QVERIFY(std::isnan(d().ground_level({0, 0})));
        d().undo();
        QVERIFY(d().project().surfaces.empty());
        QTRY_VERIFY(!d().site().ground().finished);
        d().redo();
        QTRY_VERIFY(d().site().ground().finished);
        // Refused in words; dismissed without a trace.
        window_->import_file(QString::fromStdString(file("bad.csv", "nothing here\n")));
        QTRY_VERIFY(!ground->busy() && ground->said().contains("bad"));
        window_->import_file(QString::fromStdString(file("good.csv", "1,2,3\n2,2,3\n1,3,3\n")));
        QTRY_VERIFY(ground->offering());
        QTest::mouseClick(ground->findChild<QPushButton*>("dismiss-import"), Qt::LeftButton);
        QVERIFY(!ground->offering());
        QCOMPARE(d().project().surfaces.size(), std::size_t{1});
    }
    void drawn_structures_take_their_rims_from_the_ground() {
        give_ground();
        key(Qt::Key_D);
        QTest::mouseMove(plan(), screen(40, 100).toPoint());
        QVERIFY(plan()->readout().contains("ground"));
        click(screen(40, 100));
        QTest::mouseMove(plan(), screen(140, 100).toPoint());
        for (const char* word : {" m at ", "invert", "cover"})
            QVERIFY2(plan()->readout().contains(word), qPrintable(plan()->readout()));
        click(screen(140, 100));
        const Structure a = structure("A1"), b = structure("A2");
        QVERIFY(std::abs(a.rim - (30 - 0.02 * a.x)) < 2e-3);
        QVERIFY(std::abs(b.rim - (30 - 0.02 * b.x)) < 2e-3);
        QCOMPARE(a.origin[*field_index(Kind::Structure, "rim")], Origin::Ground);
        const Pipe& p = *d().project().pipes.begin();
        QVERIFY(std::abs(b.rim - p.invert_to - p.size - p.wall - d().project().settings().default_cover) <
                2e-3);  // the ground falls faster than the default slope
        // Moved, it reads the ground anew; a typed rim stays.
        key(Qt::Key_Escape);
        key(Qt::Key_Escape);
        drag(screen(b.x, b.y), screen(b.x + 50, b.y));
        const Structure moved = structure("A2");
        QVERIFY(moved.x > b.x + 40);
        QVERIFY(std::abs(moved.rim - (30 - 0.02 * moved.x)) < 2e-3);
        Editing e(d().project(), "typed");
        e.set(Kind::Structure, moved.id, "rim", 25.0);
        d().commit(e.take());
        drag(screen(moved.x, moved.y), screen(moved.x - 20, moved.y));
        QCOMPARE(structure("A2").rim, 25.0);
    }
    void lengths_angles_and_places_are_typed_at_the_pointer() {
        key(Qt::Key_D);
        type("10, 20");
        QVERIFY(plan()->typed()->isVisible());
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        QCOMPARE(d().project().structures.size(), std::size_t{1});
        QCOMPARE(structure("A1").x, 10.0);
        QCOMPARE(structure("A1").y, 20.0);
        type("50<90");
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        QVERIFY(std::abs(structure("A2").x - 10) < 1e-9 && std::abs(structure("A2").y - 70) < 1e-9);
        type("@30, -40");
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        QVERIFY(std::abs(structure("A3").x - 40) < 1e-9 && std::abs(structure("A3").y - 30) < 1e-9);
        // A length alone goes along the direction of the pointer.
        QTest::mouseMove(plan(), (screen(40, 30) + QPointF(100, 0)).toPoint());
        type("25.5");
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        QVERIFY(std::abs(std::hypot(structure("A4").x - 40, structure("A4").y - 30) - 25.5) < 2e-3);
        // Feet are understood; nonsense is not, and Esc leaves the entry only.
        type("100ft<180");
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        QVERIFY(std::abs(structure("A4").x - structure("A5").x - 30.48) < 2e-3);
        type("7 monkeys");
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        QVERIFY(plan()->typed()->isVisible());
        QTest::keyClick(plan()->typed(), Qt::Key_Escape);
        QVERIFY(!plan()->typed()->isVisible());
        QCOMPARE(plan()->tool_name(), QString("draw"));
        QCOMPARE(d().project().structures.size(), std::size_t{5});
    }
    void a_branch_onto_a_pipe_splits_it_and_bends_are_drawn() {
        key(Qt::Key_D);
        type("0, 0");
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        type("@100, 0");
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        key(Qt::Key_Escape);
        plan()->zoom_to_all();
        click(screen(40, 60));  // a branch
        click(screen(40, 30), Qt::ControlModifier);
        QCOMPARE(d().project().pipes.size(), std::size_t{1});  // a bend is no structure
        click(screen(60, 0));
        QCOMPARE(d().project().pipes.size(), std::size_t{3});
        QCOMPARE(d().project().structures.size(), std::size_t{4});
        bool bent = false;
        for (const Pipe& p : d().project().pipes) bent |= p.bends.size() == 1;
        QVERIFY(bent);
        d().undo();  // the split and the branch are one change
        QCOMPARE(d().project().pipes.size(), std::size_t{1});
        d().redo();
        // A corner of the selected pipe is dragged, and taken away by a double click.
        key(Qt::Key_Escape);
        key(Qt::Key_Escape);
        std::uint64_t id = 0;
        Point bend;
        for (const Pipe& p : d().project().pipes)
            if (!p.bends.empty()) {
                id = p.id;
                bend = p.bends[0];
            }
        d().select({{Kind::Pipe, id}});
        drag(screen(bend.x, bend.y), screen(bend.x - 12, bend.y + 6));
        QVERIFY(d().project().pipes.find(id)->bends[0].x < bend.x - 8);
        bend = d().project().pipes.find(id)->bends[0];
        QTest::mouseDClick(plan(), Qt::LeftButton, {}, screen(bend.x, bend.y).toPoint());
        QVERIFY(d().project().pipes.find(id)->bends.empty());
    }
    void split_merge_reverse_and_delete_by_click() {
        key(Qt::Key_D);
        type("0, 0");
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        type("@100, 0");
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        key(Qt::Key_Escape);
        plan()->zoom_to_all();
        plan()->set_tool("split");
        hover(screen(30, 0));
        QVERIFY2(plan()->readout().startsWith("split"),
                 qPrintable(plan()->readout() + QString(" %1 pipes").arg(d().project().pipes.size())));
        click(screen(30, 0));
        QCOMPARE(d().project().pipes.size(), std::size_t{2});
        const ElementRef made = d().selected();
        QVERIFY(std::abs(d().project().structures.find(made.id)->x - 30) < 1);
        plan()->set_tool("merge");
        const Structure s = *d().project().structures.find(made.id);
        click(screen(s.x, s.y));
        QCOMPARE(d().project().pipes.size(), std::size_t{1});
        QVERIFY(!d().project().structures.find(made.id));
        click(screen(0, 0));  // a head cannot be merged over: said
        QVERIFY(window_->notice()->said().contains("1 pipe:"));
        const Pipe before = *d().project().pipes.begin();
        plan()->set_tool("reverse");
        click(screen(60, 0));
        QCOMPARE(d().project().pipes.begin()->from, before.to);
        QCOMPARE(d().project().pipes.begin()->invert_from, before.invert_to);
        plan()->set_tool("delete");
        click(screen(60, 0));
        QVERIFY(d().project().pipes.empty());
        QCOMPARE(d().project().structures.size(), std::size_t{2});
        key(Qt::Key_Escape);
        QCOMPARE(plan()->tool_name(), QString("select"));
    }
    void the_move_tool_goes_by_typed_distances() {
        key(Qt::Key_S);
        click(screen(0, 0));
        const Structure a = structure("A1");
        plan()->set_tool("move");
        d().select({element("A1")});
        click(screen(a.x, a.y));  // from where
        type("12.5<0");
        QTest::keyClick(plan()->typed(), Qt::Key_Return);
        QVERIFY(std::abs(structure("A1").x - a.x - 12.5) < 2e-3);
        QVERIFY(std::abs(structure("A1").y - a.y) < 2e-3);
    }
    void clicks_take_hold_of_the_grid_and_of_steps_of_fifteen_degrees() {
        plan()->snap_options().grid = true;
        plan()->snap_options().spacing = 5;
        key(Qt::Key_S);
        click(screen(11.4, 8.2));
        QCOMPARE(structure("A1").x, 10.0);
        QCOMPARE(structure("A1").y, 10.0);
        plan()->snap_options().grid = false;
        const Snap s = plan()->snap(screen(50, 13), Qt::ShiftModifier, QPointF(10, 10));
        QVERIFY(std::abs(s.at.y() - 10) < 1e-9);
        const Snap diagonal = plan()->snap(screen(40, 42), Qt::ShiftModifier, QPointF(10, 10));
        QVERIFY(std::abs((diagonal.at.y() - 10) - (diagonal.at.x() - 10)) < 1e-9);
        QCOMPARE(plan()->snap(screen(10, 10)).to, Snap::To::Structure);
        QCOMPARE(plan()->snap(screen(10, 10), Qt::AltModifier).to, Snap::To::Free);
    }
    void low_points_get_inlets_that_are_previewed() {
        give_ground();
        GroundPanel* ground = window_->drawer()->ground();
        QTRY_VERIFY(ground->low_points()->rowCount() >= 1);
        ground->inlets_at_low_points();
        QVERIFY(window_->drawer()->preview()->active());
        QVERIFY(d().project().structures.size() >= 1);
        window_->drawer()->preview()->dismiss();
        QVERIFY(d().project().structures.empty());
        ground->inlets_at_low_points();
        window_->drawer()->preview()->accept();
        QCOMPARE(d().project().structures.size(), static_cast<std::size_t>(ground->low_points()->rowCount()));
        const Structure& s = *d().project().structures.begin();
        QVERIFY(std::hypot(s.x - 300, s.y - 300) < 15);
        d().undo();
        QVERIFY(d().project().structures.empty());
    }
    void a_street_shows_its_profile_and_gives_stations() {
        give_ground();
        plan()->set_tool("street");
        click(screen(20, 200));
        click(screen(380, 200));
        key(Qt::Key_Return);
        QCOMPARE(d().project().streets.size(), std::size_t{1});
        const Street street = *d().project().streets.begin();
        QVERIFY(window_->street()->isVisible());
        QApplication::processEvents();
        window_->street()->grab();
        QVERIFY(window_->street()->profile().size() > 10);
        for (const StreetPoint& p : window_->street()->profile()) {
            const Point at = point_at(street.line, p.station, 0);
            const double z =
                30 - 0.02 * at.x - 2 * std::exp(-((at.x - 300) * (at.x - 300) + (at.y - 300) * (at.y - 300)) / 800);
            QVERIFY(std::abs(p.level - z) < 0.02);
        }
        QTest::mouseMove(window_->street(), window_->street()->to_screen(100, 27).toPoint());
        QVERIFY(window_->street()->readout().contains("grade"));
        // An inlet on its curb knows street, station, side.
        plan()->set_tool("structure");
        click(screen(150, 196));
        const Structure s = *d().project().structures.begin();
        QCOMPARE(s.street.value, street.id);
        QVERIFY(std::abs(s.station - (s.x - street.line[0].x)) < 1);
        QVERIFY(s.offset > 0);
        // Pasted levels hold before the ground; bad ones change nothing.
        d().select({{Kind::Street, street.id}});
        QVERIFY(window_->street()->paste_levels("station\tlevel\n0\t31\n100\t30,5\n360\t29").isEmpty());
        QCOMPARE(d().project().streets.find(street.id)->levels.size(), std::size_t{3});
        QVERIFY(window_->street()->paste_levels("0\t31\n0\t30").contains("Line 2"));
        QVERIFY(!window_->street()->paste_levels("nothing").isEmpty());
    }
    void street_paths_are_proposed_at_once_and_corrected_by_dragging_an_end() {
        give_ground();
        plan()->set_tool("structure");
        for (const double x : {40.0, 140.0, 240.0}) {
            key(Qt::Key_I);
            click(screen(x, 80));
        }
        key(Qt::Key_I);
        click(screen(240, 160));
        window_->actions().find("paths.propose")->trigger();
        QTRY_VERIFY(window_->drawer()->preview()->active());
        QCOMPARE(d().project().street_paths.size(), std::size_t{4});
        window_->drawer()->preview()->accept();
        key(Qt::Key_Escape);
        const auto path = [&](const char* from) -> const StreetPath* {
            for (const StreetPath& p : d().project().street_paths)
                if (p.from.value == element(from).id) return &p;
            return nullptr;
        };
        QCOMPARE(path("A1")->to.value, element("B1").id);
        QCOMPARE(path("B1")->to.value, element("C1").id);
        QVERIFY(!path("C1")->to);
        // The end of the first is dragged to the fourth.
        plan()->set_tool("select");
        d().select({{Kind::StreetPath, path("B1")->id}});
        const Structure c = structure("C1"), other = structure("D1");
        drag(screen(c.x, c.y), screen(other.x, other.y));
        QCOMPARE(path("B1")->to.value, other.id);
        QCOMPARE(path("B1")->origin[*field_index(Kind::StreetPath, "to")], Origin::Typed);
        // Proposed again it stays, since a person has corrected it.
        window_->actions().find("paths.propose")->trigger();
        QTest::qWait(300);
        if (window_->drawer()->preview()->active()) window_->drawer()->preview()->accept();
        QCOMPARE(path("B1")->to.value, other.id);
        // Drawn by hand, off the site.
        plan()->set_tool("path");
        click(screen(other.x, other.y));
        click(screen(other.x + 60, other.y + 30));
        key(Qt::Key_Return);
        QVERIFY(path("D1") && !path("D1")->to && path("D1")->bends.size() == 1);
    }
    void catchments_measure_drain_downhill_and_are_cut() {
        give_ground();
        plan()->set_tool("structure");
        key(Qt::Key_I);
        click(screen(60, 100));
        key(Qt::Key_I);
        click(screen(200, 100));
        plan()->set_tool("area");
        for (const auto& [x, y] : {std::pair{80.0, 80.0}, {120.0, 80.0}, {120.0, 120.0}, {80.0, 120.0}})
            click(screen(x, y));
        key(Qt::Key_Return);
        QCOMPARE(d().project().catchments.size(), std::size_t{1});
        const Catchment c = *d().project().catchments.begin();
        QVERIFY(std::abs(c.area - area(c.outline)) < 0.06);
        QCOMPARE(c.structure.value, element("B1").id);  // downhill, though A1 is nearer
        QVERIFY(c.flow_path.size() > 1);
        plan()->set_tool("cut");
        click(screen(100, 70));
        click(screen(100, 130));
        key(Qt::Key_Return);
        QCOMPARE(d().project().catchments.size(), std::size_t{2});
        std::vector<ElementRef> both;
        for (const Catchment& part : d().project().catchments) both.push_back({Kind::Catchment, part.id});
        d().select(both);
        window_->actions().find("areas.merge")->trigger();
        QCOMPARE(d().project().catchments.size(), std::size_t{1});
        QVERIFY(std::abs(area(d().project().catchments.begin()->outline) - area(c.outline)) < 0.1);
        // Drawn over another: the overlap is found in the background, with its area.
        plan()->set_tool("area");
        for (const auto& [x, y] : {std::pair{100.0, 90.0}, {140.0, 90.0}, {140.0, 110.0}, {100.0, 110.0}})
            click(screen(x, y));
        key(Qt::Key_Return);
        QTRY_VERIFY(std::any_of(d().data_findings().begin(), d().data_findings().end(),
                                [](const Finding& f) { return f.title == "catchments overlap"; }));
        d().undo();
        QTRY_VERIFY(std::none_of(d().data_findings().begin(), d().data_findings().end(),
                                 [](const Finding& f) { return f.title == "catchments overlap"; }));
        // An outline that crosses itself is not taken.
        plan()->set_tool("area");
        for (const auto& [x, y] : {std::pair{200.0, 200.0}, {240.0, 240.0}, {240.0, 200.0}, {200.0, 240.0}})
            click(screen(x, y));
        key(Qt::Key_Return);
        QCOMPARE(d().project().catchments.size(), std::size_t{1});
        QVERIFY(window_->notice()->said().contains("crosses itself"));
    }
    void a_drawing_under_the_plan_gives_pipes_and_streets() {
        const std::string dxf =
            "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\ndrain\n10\n0\n20\n0\n11\n60\n21\n0\n0\nLINE\n8\ndrain\n10\n60\n20\n0"
            "\n11\n120\n21\n30\n0\nLINE\n8\ncrown\n10\n0\n20\n80\n11\n120\n21\n80\n0\nENDSEC\n0\nEOF\n";
        GroundPanel* ground = window_->drawer()->ground();
        window_->import_file(QString::fromStdString(file("plan.dxf", dxf)));
        QTRY_VERIFY(ground->offering());
        QTest::mouseClick(ground->findChild<QPushButton*>("use-background"), Qt::LeftButton);
        QTRY_COMPARE(d().project().backgrounds.size(), std::size_t{1});
        QTRY_COMPARE(plan()->background().lines().size(), std::size_t{3});
        plan()->zoom_to_all();
        // Corners are taken hold of.
        const Snap s = plan()->snap(screen(60.5, 0.4));
        QCOMPARE(s.to, Snap::To::Background);
        QVERIFY(std::abs(s.at.x() - 60) < 1e-9);
        plan()->setFocus();
        plan()->set_tool("trace");
        click(screen(30, 0));
        click(screen(90, 15));
        key(Qt::Key_Return);
        QVERIFY(window_->drawer()->preview()->active());
        window_->drawer()->preview()->accept();
        QCOMPARE(d().project().pipes.size(), std::size_t{2});
        QCOMPARE(d().project().structures.size(), std::size_t{3});
        plan()->set_tool("street");
        click(screen(60, 80), Qt::ControlModifier);
        QCOMPARE(d().project().streets.size(), std::size_t{1});
        QCOMPARE(length(d().project().streets.begin()->line), 120.0);
        // A layer that is off is not there to be taken.
        Editing e(d().project(), "hide");
        e.set(Kind::Background, d().project().backgrounds.begin()->id, "hidden", std::string("drain"));
        d().commit(e.take());
        QCOMPARE(plan()->background().lines().size(), std::size_t{1});
    }
    void a_picture_lies_where_its_world_file_says() {
        QImage picture(4, 2, QImage::Format_RGB32);
        picture.fill(Qt::white);
        picture.setPixelColor(3, 0, Qt::blue);  // its upper right pixel
        const QString path = dir_.path() + "/photo.png";
        QVERIFY(picture.save(path));
        file("photo.pgw",
             "10\n0\n0\n-10\n105\n215\n");  // the first pixel's middle; so the picture is 100..140 x 200..220
        GroundPanel* ground = window_->drawer()->ground();
        window_->import_file(path);
        QTRY_VERIFY(ground->offering());
        QTest::mouseClick(ground->findChild<QPushButton*>("use-background"), Qt::LeftButton);
        QTRY_VERIFY(!d().site().backgrounds().empty() && !d().site().backgrounds()[0]->picture.isNull());
        plan()->look_at({120, 210});
        const QImage shown = plan()->grab().toImage();
        const auto colour = [&](double x, double y) { return shown.pixelColor(screen(x, y).toPoint()); };
        QVERIFY(colour(136, 216).blue() > colour(136, 216).red() + 40);
        QVERIFY(std::abs(colour(136, 204).blue() - colour(136, 204).red()) < 25);
        QVERIFY(std::abs(colour(106, 216).blue() - colour(106, 216).red()) < 25);
    }
    void a_branch_too_low_is_offered_its_ways_out() {
        Editing e(d().project(), "set up");
        const auto put = [&](std::uint64_t id, const char* name, double x, double y, double rim, StructureKind kind) {
            Structure s;
            s.id = id;
            s.name = name;
            s.x = x;
            s.y = y;
            s.rim = rim;
            s.kind = kind;
            e.insert(s);
        };
        put(1, "A1", 0, 0, 20, StructureKind::Manhole);
        put(2, "A2", 60, 0, 20, StructureKind::Manhole);
        put(3, "A3", 120, 0, 19, StructureKind::Outfall);
        put(4, "B1", 60, 60, 20, StructureKind::Inlet);
        for (const auto& [id, a, b, up, down] : {std::tuple{11, 1, 2, 19.2, 19.0}, {12, 2, 3, 18.95, 18.5}}) {
            Pipe p;
            p.id = static_cast<std::uint64_t>(id);
            p.from = {static_cast<std::uint64_t>(a)};
            p.to = {static_cast<std::uint64_t>(b)};
            p.invert_from = up;
            p.invert_to = down;
            e.insert(p);
        }
        d().commit(e.take());
        plan()->zoom_to_all();
        key(Qt::Key_D);
        click(screen(60, 60));
        click(screen(60, 0));  // by the defaults it arrives below the shallow main
        QVERIFY2(window_->notice()->said().contains("too low"), qPrintable(window_->notice()->said()));
        const auto buttons = window_->notice()->findChildren<QPushButton*>();
        QVERIFY(buttons.size() >= 2);
        QPushButton* first = nullptr;
        for (QPushButton* b : buttons)
            if (b->isVisible() && b->text().contains("m³") && !first) first = b;
        QVERIFY(first);
        QTest::mouseClick(first, Qt::LeftButton);
        QVERIFY(window_->drawer()->preview()->active());
        window_->drawer()->preview()->accept();
        double arrives = 0;
        for (const Pipe& p : d().project().pipes)
            if (p.from.value == 4) arrives = p.invert_to;
        QVERIFY(arrives >= d().project().pipes.find(12)->invert_from - 1e-9);
    }
};

QTEST_MAIN(TestSite)
#include "test_site.moc"
