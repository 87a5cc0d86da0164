// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <QtWidgets>
#include <cmath>

#include "app/ledger/rain_model.h"
#include "app/window/main_window.h"
#include "core/design/flow_parts.h"

using namespace culvert;
using namespace culvert::app;

/// Areas through the window: a flow path drawn and its parts dragged, a land cover drawn over catchments, a storm as an
/// event.
class TestAreasWindow : public QObject {
    Q_OBJECT
    std::unique_ptr<Document> document_;
    std::unique_ptr<MainWindow> window_;

    Document& d() { return *document_; }
    PlanView& plan() { return *window_->plan(); }
    const Catchment& garth() { return *d().project().catchments.find(find_element(d().project(), "South Garth").id); }
    void click(Point at, Qt::KeyboardModifiers keys = Qt::AltModifier) {
        const QPoint p = plan().to_screen({at.x, at.y}).toPoint();
        QTest::mouseMove(&plan(), p);
        QTest::mouseClick(&plan(), Qt::LeftButton, keys, p);
    }
    /// The example, its ground there, the Areas stage, the plan over one catchment.
    void open() {
        window_->open_file(MainWindow::example("alder-quay"));
        QTRY_VERIFY_WITH_TIMEOUT(d().current() && d().review() && !d().all_results().empty(), 20000);
        window_->actions().find("stage.areas")->trigger();
        QTRY_VERIFY_WITH_TIMEOUT(!std::isnan(d().ground_level(garth().outline.front())), 20000);
        d().select({{Kind::Catchment, garth().id}});
        const Point middle = centre(garth().outline);
        plan().zoom_at(plan().to_screen({middle.x, middle.y}), 2.5);
        window_->grab();
    }
    /// Two places within the catchment, the higher first.
    std::pair<Point, Point> way() {
        const Point middle = centre(garth().outline);
        const auto toward = [&](std::size_t i) {
            const Point c = garth().outline[i];
            return Point{middle.x + 0.8 * (c.x - middle.x), middle.y + 0.8 * (c.y - middle.y)};
        };
        Point high = toward(0), low = toward(0);
        for (std::size_t i = 1; i < garth().outline.size(); ++i) {
            if (d().ground_level(toward(i)) > d().ground_level(high)) high = toward(i);
            if (d().ground_level(toward(i)) < d().ground_level(low)) low = toward(i);
        }
        return {high, low};
    }
    void draw_path() {
        const auto [high, low] = way();
        window_->actions().find("tool.flow")->trigger();
        click(high);
        click({(high.x + low.x) / 2, (high.y + low.y) / 2});
        click(low);
        QTest::keyClick(&plan(), Qt::Key_Return);
    }

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test-areas");
    }
    void init() {
        QSettings().clear();
        document_ = std::make_unique<Document>();
        window_ = std::make_unique<MainWindow>(*document_);
        window_->resize(1280, 800);
        window_->show();
    }
    void cleanup() {
        window_.reset();
        document_.reset();
    }
    void a_drawn_flow_path_is_measured_from_the_ground() {
        open();
        draw_path();
        const Catchment& c = garth();
        QCOMPARE(c.flow_path.size(), std::size_t{3});
        QCOMPARE(c.time_by, TimeBy::Parts);
        const auto parts = read_parts(c.path_parts, 0.05).parts;
        QVERIFY(!parts.empty() && std::holds_alternative<SheetFlow>(parts[0]));
        double whole = 0;
        for (const FlowPart& p : parts) whole += length_of(p);
        QVERIFY(std::abs(whole - length(c.flow_path)) < 0.05);
        // Slopes are those of the ground under each; where it rises a little, the mean one of the whole way.
        const auto level = [&](double station) { return d().ground_level(point_at(c.flow_path, station, 0)); };
        const double first = length_of(parts[0]), mean = (level(0) - level(whole)) / whole;
        const double fall = (level(0) - level(first)) / first, second = (level(first) - level(whole)) / (whole - first);
        QVERIFY(mean > 0 && second > 0);
        QVERIFY(std::abs(std::get<SheetFlow>(parts[0]).slope - (fall > 0 ? fall : mean)) < 2e-5);
        QVERIFY(std::abs(std::get<ShallowFlow>(parts[1]).slope - second) < 5e-5);
        QCOMPARE(d().selected(), (ElementRef{Kind::Catchment, c.id}));
        const std::string words = c.path_parts;
        window_->actions().find("edit.undo")->trigger();  // one Edit
        QVERIFY(garth().flow_path.size() != 3 && garth().path_parts != words);
    }
    void the_end_of_a_part_is_dragged_along_the_path() {
        open();
        draw_path();
        window_->actions().find("tool.select")->trigger();
        const auto before = read_parts(garth().path_parts, 0.05).parts;
        QVERIFY(before.size() >= 2);
        const Point from = point_at(garth().flow_path, length_of(before[0]), 0),
                    to = point_at(garth().flow_path, length_of(before[0]) * 0.5, 0);
        const QPoint a = plan().to_screen({from.x, from.y}).toPoint(), b = plan().to_screen({to.x, to.y}).toPoint();
        QVERIFY((a - b).manhattanLength() > 8);
        QTest::mousePress(&plan(), Qt::LeftButton, {}, a);
        QTest::mouseMove(&plan(), (a + b) / 2);
        QTest::mouseMove(&plan(), b);
        QVERIFY(d().has_pending());
        QTest::mouseRelease(&plan(), Qt::LeftButton, {}, b);
        const auto after = read_parts(garth().path_parts, 0.05).parts;
        QCOMPARE(after.size(), before.size());
        QVERIFY(std::abs(length_of(after[0]) - length_of(before[0]) * 0.5) < 2);
        QVERIFY(std::abs(length_of(after[0]) + length_of(after[1]) - length_of(before[0]) - length_of(before[1])) <
                0.1);
        // The plan and the section below it say the parts.
        window_->grab();
        bool named = false;
        for (const auto& [words, box] : plan().labels())
            named |= words.startsWith("sheet flow") || words.startsWith("sheet");
        QVERIFY(named);
    }
    void a_land_cover_is_drawn_over_a_catchment() {
        open();
        const auto [high, low] = way();
        const Point middle{(high.x + low.x) / 2, (high.y + low.y) / 2};
        window_->actions().find("tool.cover")->trigger();
        for (const Point& p : {Point{middle.x - 8, middle.y - 6},
                               {middle.x + 8, middle.y - 6},
                               {middle.x + 8, middle.y + 6},
                               {middle.x - 8, middle.y + 6}})
            click(p);
        QTest::keyClick(&plan(), Qt::Key_Return);
        auto* menu = plan().findChild<QMenu*>("cover-kinds");
        QVERIFY(menu);
        for (QAction* a : menu->actions())
            if (a->text().startsWith("roof")) a->trigger();
        menu->close();
        double roof = 0, rest = 0;
        std::uint64_t id = 0;
        for (const LandCover& l : d().project().land_covers)
            if (l.catchment.value == garth().id) {
                (l.name == "roof" ? roof : rest) += l.area;
                if (l.name == "roof") id = l.id;
            }
        QVERIFY(std::abs(roof - 192) < 12);
        QVERIFY(std::abs(roof + rest - garth().area) < 1 || std::abs(roof + rest - area(garth().outline)) < 1);
        // A second click into the chosen catchment goes on to the cover there.
        window_->actions().find("tool.select")->trigger();
        d().select({{Kind::Catchment, garth().id}});
        click({middle.x + 1, middle.y - 2}, {});
        QCOMPARE(d().selected(), (ElementRef{Kind::LandCover, id}));
        window_->grab();
        QVERIFY(window_->card()->field(Kind::LandCover, "curve_number"));  // and its card is its own
    }
    void an_event_of_depth_and_pattern_is_a_storm() {
        open();
        const std::uint64_t event = d().event().value;
        const double before = d().result()->nodes[0].flow.intensity;
        // As a person gives it: nothing chosen, on the card of the Rain stage.
        d().select({});
        window_->actions().find("stage.rain")->trigger();
        window_->grab();
        const auto type = [&](const char* key, const char* words) {
            QTRY_VERIFY2(window_->card()->field(Kind::Event, key), key);
            FieldEdit* field = window_->card()->field(Kind::Event, key);
            auto* line = field->findChild<QLineEdit*>();
            line->setFocus();
            line->selectAll();
            QTest::keyClicks(line, words);
            QTest::keyClick(line, Qt::Key_Return);
        };
        const auto give = [&](RainGiven by) {
            window_->grab();
            FieldEdit* field = window_->card()->field(Kind::Event, "given");
            QVERIFY(field);
            auto* box = field->findChild<QComboBox*>();
            box->setCurrentIndex(static_cast<int>(by));
            emit box->activated(static_cast<int>(by));
        };
        give(RainGiven::OwnPattern);
        type("depth", "40mm");
        type("storm_length", "60min");
        type("pattern_shares", "1 2;4 1");
        QCOMPARE(d().project().events.find(event)->pattern_shares, (std::vector<double>{1, 2, 4, 1}));
        type("pattern_shares", "1 two");  // refused in words, and what stood stays
        QCOMPARE(d().project().events.find(event)->pattern_shares.size(), std::size_t{4});
        QTRY_VERIFY(d().current());
        window_->grab();
        QCOMPARE(window_->rain()->storm().size(), std::size_t{4});
        give(RainGiven::NrcsII);
        type("depth", "60mm");
        QTRY_VERIFY(d().current());
        QVERIFY(d().result()->nodes[0].flow.intensity != before);
        window_->actions().find("stage.rain")->trigger();
        window_->grab();
        QCOMPARE(window_->rain()->storm().size(), std::size_t{288});
        double sum = 0;
        for (const double x : window_->rain()->storm()) sum += x;
        QVERIFY(std::abs(sum - 0.06 * d().project().settings().uplift) < 1e-9);
        QVERIFY(!window_->rain()->pattern()->isVisible());
        // An intensity that is typed into its table is what it is given by from then on.
        RainModel table(d());
        for (int column = 0; column < table.columnCount(); ++column)
            QVERIFY(table.setData(table.index(0, column), "70 mm/h", Qt::EditRole));
        QCOMPARE(d().project().events.find(event)->given, RainGiven::Intensities);
    }
};

QTEST_MAIN(TestAreasWindow)
#include "test_areas.moc"
