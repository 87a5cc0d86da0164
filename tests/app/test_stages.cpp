// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <QtWidgets>

#include "app/window/main_window.h"
#include "support/networks.h"

using namespace culvert;
using namespace culvert::app;

/// Each stage shapes the window: what plan, lower view, drawer and card show; and all of it reads at scale.
class TestStages : public QObject {
    Q_OBJECT
    static void overlap_free(const std::vector<std::pair<QString, QRectF>>& boxes) {
        for (std::size_t i = 0; i < boxes.size(); ++i)
            for (std::size_t k = 0; k < i; ++k)
                QVERIFY2(!boxes[i].second.intersects(boxes[k].second),
                         qPrintable(boxes[i].first + " lies on " + boxes[k].first));
    }
    struct Fixture {
        Document document;
        MainWindow window{document};
        Fixture() {
            QSettings().clear();
            window.resize(1280, 800);
            window.show();
        }
        void open_demo() {
            window.open_file(MainWindow::example("alder-quay"));
            settle();
        }
        void settle() {
            QTRY_VERIFY_WITH_TIMEOUT(document.current() && document.review() && !document.all_results().empty(), 20000);
        }
        ElementRef named(const char* name) { return find_element(document.project(), name); }
        void stage(const char* name) {
            window.actions().find(QString("stage.") + name)->trigger();
            window.grab();
        }
        [[nodiscard]] QStringList plan_labels() const {
            QStringList list;
            for (const auto& [words, box] : window.plan()->labels()) list << words;
            return list;
        }
    };

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test-stages");  // its settings are cleared
    }
    void every_stage_turns_every_part_of_the_window() {
        Fixture f;
        f.open_demo();
        f.document.select({f.named("A5")});
        for (const StageSpec& spec : stages()) {
            f.stage(qPrintable(QString(spec.name).toLower()));
            const QString at = spec.name;
            QVERIFY2(f.window.plan()->plan_theme() == spec.plan, qPrintable(at));
            QWidget* lower = f.window.lower()->currentWidget();
            if (spec.lower == LowerView::Section) QVERIFY2(lower == f.window.section(), qPrintable(at));
            else if (spec.lower == LowerView::Rain) QVERIFY2(lower == f.window.rain(), qPrintable(at));
            else if (spec.lower == LowerView::Street)
                QVERIFY2(lower == f.window.street(), qPrintable(at));  // the inlet's street, at its station
            else if (spec.lower == LowerView::Storage) QVERIFY2(lower == f.window.storage(), qPrintable(at));
            else QVERIFY2(lower == f.window.profile(), qPrintable(at));  // a structure is selected: its run
            const QWidget* page = f.window.drawer()->tabs()->currentWidget();
            if (spec.page == DrawerPage::Ground) QVERIFY2(page == f.window.drawer()->ground(), qPrintable(at));
            else if (spec.page == DrawerPage::Storage) QVERIFY2(page == f.window.drawer()->storage(), qPrintable(at));
            else QCOMPARE(f.window.drawer()->tabs()->currentIndex(), spec.page == DrawerPage::Findings ? 1 : 0);
            if (spec.page == DrawerPage::Ledger && spec.ledger != Kind::Event)
                QVERIFY2(f.window.drawer()->ledger()->findChild<LedgerModel*>()->kind() == spec.ledger, qPrintable(at));
            const auto& order = f.window.card()->order();
            QVERIFY(!order.empty());
            if (std::find(order.begin(), order.end(), spec.card) != order.end())
                QVERIFY2(order.front() == spec.card, qPrintable(at));
        }
        f.document.select({});
        f.stage("streets");
        QVERIFY(f.window.lower()->currentWidget() == f.window.street());
        QTRY_VERIFY2((f.window.grab(), !f.window.street()->profile().empty()),
                     "the first street stands there before one is chosen");
    }
    void areas_fill_by_c_or_time_and_the_card_begins_with_what_drains_here() {
        Fixture f;
        f.open_demo();
        f.document.select({f.named("A5")});
        f.stage("areas");
        QVERIFY(f.window.plan()->legend().contains("Catchments by C"));
        QVERIFY2(f.plan_labels().filter("C 0.").size() > 1, qPrintable(f.plan_labels().join(", ")));
        // A catchment with covers has their weighted C, another its own.
        double effective = 0, whole = 0;
        for (const LandCover& l : f.document.project().land_covers) {
            effective += l.area * l.coefficient;
            whole += l.area;
        }
        QVERIFY(f.plan_labels().contains("C " + QString::number(effective / whole, 'f', 2)));
        QCOMPARE(f.window.card()->order().front(), CardPart::Drains);
        f.window.actions().find("colour.area_time")->trigger();
        f.window.grab();
        QVERIFY(f.window.plan()->legend().contains("Catchments by time"));
        QVERIFY(f.plan_labels().filter("C 0.").isEmpty());
        // Another stage and back: the choice stands.
        f.stage("pipes");
        QVERIFY(f.window.plan()->legend().join(' ').contains("flow ratio"));
        f.stage("areas");
        QVERIFY(f.window.plan()->plan_theme().areas == AreaFill::Time);
    }
    void rain_shows_curves_and_a_storm_that_keeps_its_depth() {
        Fixture f;
        f.open_demo();
        f.stage("rain");
        const RainEvent* e = f.document.project().events.find(f.document.event().value);
        double depth = 0;
        for (const double d : f.window.rain()->storm()) depth += d;
        const double whole = f.window.rain()->step() * static_cast<double>(f.window.rain()->storm().size());
        QVERIFY(std::abs(depth - rain_of(*e).curve.intensity(whole) * whole) < 1e-12);
        // The equation through the table, and every pattern with the depth it should have.
        const IdfFit& fit = f.window.rain()->fit();
        QVERIFY(fit.ok && std::abs(fit.worst) < 0.1 && fit.residuals.size() == e->durations.size());
        for (int pattern = 0; pattern < f.window.rain()->pattern()->count(); ++pattern) {
            f.window.rain()->pattern()->setCurrentIndex(pattern);
            f.window.grab();
            double sum = 0;
            for (const double d : f.window.rain()->storm()) sum += d;
            const double day = rain_of(*e).curve.intensity(86400) * 86400;
            const double minutes = whole / 60, by_fit = fit.a / std::pow(minutes + fit.b, fit.c) * minutes / 60 * 0.001;
            const double want = pattern == 1 ? by_fit : pattern > 2 ? day : depth;
            QVERIFY2(std::abs(sum - want) < 1e-9 * want,
                     qPrintable(QString("%1: %2, not %3").arg(pattern).arg(sum).arg(want)));
            QCOMPARE(f.window.rain()->storm_table().count('\n'), static_cast<int>(f.window.rain()->storm().size()) + 1);
        }
        f.window.rain()->pattern()->setCurrentIndex(0);
        // A click on the rarest curve views that event.
        const RainEvent* rarest = events_in_order(f.document.project()).back();
        const QPointF at = f.window.rain()->to_screen(rarest->durations[3], rarest->intensities[3]);
        QTest::mouseClick(f.window.rain(), Qt::LeftButton, {}, at.toPoint());
        QCOMPARE(f.document.event().value, rarest->id);
    }
    void ground_shows_a_section_along_what_is_selected() {
        Fixture f;
        f.open_demo();
        QTRY_VERIFY(!f.document.site().ground().empty());
        f.stage("ground");
        f.window.grab();
        const SectionView* section = f.window.section();
        QVERIFY(section->title().contains("west to east"));
        QVERIFY(section->ground(false).size() > 10 && section->ground(true).size() > 10);
        const ElementRef pipe = f.named("A4–A5");
        f.document.select({pipe});
        f.window.grab();
        QVERIFY(section->title().contains("A4–A5"));
        const Point first = section->line().front();
        const double level = f.document.site().ground().elevation(first);
        QVERIFY(std::abs(section->ground(true).front().y - level) < 1e-6);
    }
    void one_view_takes_the_whole_window_and_gives_it_back() {
        Fixture f;
        f.open_demo();
        const QList<int> before = f.window.middle()->sizes();
        f.window.profile()->setFocus();
        f.window.actions().find("view.whole")->trigger();
        f.window.grab();
        QVERIFY(f.window.profile()->isVisible() && !f.window.plan()->isVisible() && !f.window.card()->isVisible());
        QTRY_VERIFY(f.window.profile()->height() > 600);
        f.window.actions().find("view.whole")->trigger();
        f.window.grab();
        QVERIFY(f.window.plan()->isVisible() && f.window.card()->isVisible() && f.window.drawer()->isVisible());
        QTRY_COMPARE(f.window.middle()->sizes(), before);
    }
    /// In every stage of the demo, also at the size at which low points lie among the structures.
    void depths_of_low_points_lie_over_no_name() {
        Fixture f;
        f.open_demo();
        QTRY_VERIFY_WITH_TIMEOUT(f.document.site().top(), 20000);
        int depths = 0;
        for (const StageSpec& spec : stages()) {
            f.stage(qPrintable(QString(spec.name).toLower()));
            QTest::qWait(50);
            for (const double zoom : {0.45, 1.0, 1.6}) {
                f.window.plan()->zoom_to_all();
                f.window.plan()->zoom_at({f.window.plan()->width() / 2.0, f.window.plan()->height() / 2.0}, zoom);
                f.window.plan()->grab();
                overlap_free(f.window.plan()->labels());
                for (const QString& words : f.plan_labels()) depths += words.startsWith("0.") && words.endsWith(" m");
            }
        }
        QVERIFY2(depths > 5, qPrintable(QString::number(depths)));
    }
    void at_two_thousand_pipes_marks_shrink_and_nothing_lies_on_anything() {
        Fixture f;
        f.document.set_project(testing::random_project({.pipes = 2000, .seed = 3, .events = 2}));
        f.settle();
        f.stage("layout");
        f.window.plan()->zoom_to_all();
        f.window.grab();
        const auto few = f.window.plan()->labels().size();
        QVERIFY(f.window.plan()->marks() >= PlanView::Marks::Dots);
        overlap_free(f.window.plan()->labels());
        const QPointF middle(f.window.plan()->width() / 2.0, f.window.plan()->height() / 2.0);
        for (int i = 0; i < 40 && f.window.plan()->marks() != PlanView::Marks::Full; ++i) {
            f.window.plan()->zoom_at(middle, 1.4);
            f.window.grab();
            overlap_free(f.window.plan()->labels());
        }
        QVERIFY(f.window.plan()->marks() == PlanView::Marks::Full);
        QVERIFY2(f.window.plan()->labels().size() > few, "labels come as room does");
    }
    /// At 1024 wide every page of the drawer is in reach of the mouse.
    void all_pages_of_the_drawer_are_in_reach() {
        Fixture f;
        f.open_demo();
        QTabBar* bar = f.window.drawer()->tabs()->tabBar();
        const auto last = [&] { return bar->tabRect(bar->count() - 1).right(); };
        for (const int width : {1280, 1024}) {
            f.window.resize(width, 700);
            f.window.grab();
            QTRY_VERIFY2(last() <= bar->width(),
                         qPrintable(QString("%1: %2 of %3").arg(width).arg(last()).arg(bar->width())));
        }
    }
    /// A heap of structures, each with a long pipe of its own: their marks would lie on each other, however long the
    /// pipes are, and so many long lines would take their time for edges that nobody sees.
    void a_crowd_with_long_pipes_shows_no_marks() {
        const auto heap = [](int count, double apart) {
            Project p = new_project(UnitSystem::Si);
            Editing e(p, "heap");
            for (int i = 0; i <= count; ++i) {
                Structure s;
                s.id = static_cast<std::uint64_t>(1 + i);
                s.name = "H" + std::to_string(i);
                s.x = i < count ? apart * (i % 10) : 4000;
                s.y = i < count ? apart * (i / 10) : 0;
                s.rim = 10;
                if (i == count) s.kind = StructureKind::Outfall;
                e.insert(s);
                if (i == count) break;
                Pipe pipe;
                pipe.id = static_cast<std::uint64_t>(10000 + i);
                pipe.from = {s.id};
                pipe.to = {static_cast<std::uint64_t>(1 + count)};
                pipe.size = 0.3;
                pipe.invert_from = 8;
                pipe.invert_to = 5;
                e.insert(pipe);
            }
            RainEvent rain;
            rain.id = 5;
            rain.name = "10 years";
            rain.return_period = 10;
            rain.durations = {300, 3600};
            rain.intensities = {4e-5, 1e-5};
            e.insert(rain);
            apply(p, e.take());
            return p;
        };
        Fixture f;
        const auto look = [&](const Project& p) {
            f.document.set_project(p);
            f.settle();
            f.stage("layout");
            f.window.plan()->zoom_to_all();
            f.window.grab();
        };
        look(heap(60, 4));
        QCOMPARE(f.window.plan()->marks(), PlanView::Marks::None);
        QVERIFY(f.window.plan()->smooth_pipes());
        look(heap(60, 150));  // room for each
        QVERIFY(f.window.plan()->marks() < PlanView::Marks::Dots);
        look(heap(600, 4));
        QVERIFY(!f.window.plan()->smooth_pipes());
        f.window.plan()->zoom_at({10, f.window.plan()->height() / 2.0}, 1.01);  // another frame, drawn alike
        f.window.grab();
        QVERIFY(!f.window.plan()->smooth_pipes());
    }
    void a_long_run_thins_names_and_columns_out_and_the_wheel_brings_them_back() {
        Fixture f;
        f.document.set_project(testing::chain_project(90, 2));
        f.settle();
        f.stage("levels");
        ProfileView* v = f.window.profile();
        QCOMPARE(v->profile().stations.size(), std::size_t{91});
        overlap_free(v->names());
        overlap_free(v->cells());
        const std::size_t rows = static_cast<std::size_t>(v->table_heads().size());
        QVERIFY(v->names().size() > 8 && v->names().size() < 60);
        QVERIFY2(v->cells().size() >= 8 * rows, "the table is not empty");
        const ElementRef chosen{Kind::Structure, v->profile().stations[44].structure.value};
        f.document.select({chosen});
        f.window.grab();
        const QString name = QString::fromStdString(v->profile().stations[44].name);
        QVERIFY2(std::any_of(v->names().begin(), v->names().end(), [&](const auto& n) { return n.first == name; }),
                 "what is selected is named before all else");
        const double x = v->to_screen({v->profile().stations[44].x, v->profile().stations[44].rim}).x();
        QWheelEvent wheel(QPointF(x, 80), v->mapToGlobal(QPointF(x, 80)), {}, {0, 120 * 8}, Qt::NoButton,
                          Qt::NoModifier, Qt::NoScrollPhase, false);
        QApplication::sendEvent(v, &wheel);
        f.window.grab();
        QVERIFY(v->shown_to() - v->shown_from() < v->profile().length / 3);
        QVERIFY2(std::abs(v->to_screen({v->profile().stations[44].x, 0}).x() - x) < 1,
                 "the place under the pointer stays");
        std::size_t visible = 0;
        for (const auto& s : v->profile().stations) visible += s.x >= v->shown_from() && s.x <= v->shown_to();
        overlap_free(v->names());
        QVERIFY(v->names().size() + 3 >= visible || visible > 40);
        v->show_whole_run();
        QVERIFY(v->shown_to() == v->shown_from());
    }
    void a_level_far_off_is_cut_and_said() {
        Fixture f;
        f.open_demo();
        f.document.select({f.named("A4–A5")});
        f.stage("levels");
        QVERIFY(f.window.profile()->cut().isEmpty());
        const double high = f.window.profile()->profile().high;
        Editing e(f.document.project(), "A slip of the finger");
        e.set(Kind::Structure, f.named("A5").id, "rim", 2175.0);
        f.document.commit(e.take());
        f.settle();
        f.window.grab();
        QVERIFY2(f.window.profile()->cut().contains("2175"), qPrintable(f.window.profile()->cut()));
        QVERIFY(f.window.profile()->profile().high < high + 5);
    }
};

QTEST_MAIN(TestStages)
#include "test_stages.moc"
