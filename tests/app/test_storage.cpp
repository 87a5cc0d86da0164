// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <QtWidgets>

#include "app/card/card.h"
#include "app/charts/storage_view.h"
#include "app/kit/theme.h"
#include "app/plan/plan_tool.h"
#include "app/window/drawer.h"
#include "app/window/main_window.h"
#include "core/analysis/result_fields.h"
#include "core/geometry/line.h"
#include "core/network/network.h"

using namespace culvert;
using namespace culvert::app;

namespace {

struct Fixture {
    Document document;
    MainWindow window{document};
    Fixture() {
        QSettings().clear();
        set_theme(false);
        window.resize(1280, 800);
        window.show();
    }
    void open() {
        QVERIFY(document.open(MainWindow::example("fern-hollow"), false).isEmpty());
        settle();
        window.actions().find("stage.storage")->trigger();
        select("P1");
    }
    void settle() {
        QTRY_VERIFY_WITH_TIMEOUT(document.current(), 20000);
        QCoreApplication::processEvents();
    }
    void select(const char* name) {
        document.select({find_element(document.project(), name)});
        settle();
        window.grab();
    }
    [[nodiscard]] StorageView* view() { return window.storage(); }
    [[nodiscard]] StoragePanel* panel() { return window.drawer()->storage(); }
    [[nodiscard]] std::uint64_t outlet(const char* name) const {
        for (const PondOutlet& o : document.project().outlets)
            if (o.name == name) return o.id;
        return 0;
    }
    void mouse(QEvent::Type type, QWidget* w, QPointF at, Qt::MouseButton button = Qt::LeftButton) {
        QMouseEvent e(type, at, w->mapToGlobal(at), type == QEvent::MouseMove ? Qt::NoButton : button,
                      type == QEvent::MouseButtonRelease ? Qt::NoButton : button, {});
        QApplication::sendEvent(w, &e);
    }
    [[nodiscard]] double leaves() const {
        const auto r = document.result();
        return r && !r->ponds.empty() ? r->ponds[0].peak_outflow : 0;
    }
    void event(const char* name) {
        document.set_event({find_event(document.project(), name)->id});
        settle();
        window.grab();
    }
};

}  // namespace

/// The Storage stage as a person works in it: section, chart, card, tables, sizes, before and after.
class TestStorage : public QObject {
    Q_OBJECT
  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test-storage");
    }
    /// The event that a release holds in stands in the ledger by its name, and is typed there.
    void a_release_names_its_event() {
        Fixture f;
        f.open();
        Ledger& ledger = *f.window.drawer()->ledger();
        ledger.show_kind(Kind::Release);
        LedgerModel& m = *ledger.model();
        const QModelIndex cell = m.index(0, m.column_of("event"));
        QCOMPARE(cell.data().toString(), QString("2 years"));
        QVERIFY(m.setData(cell, "10 years", Qt::EditRole));
        QCOMPARE(f.document.project().releases.begin()->event.value, find_event(f.document.project(), "10 years")->id);
        QVERIFY(!m.setData(cell, "11 years", Qt::EditRole));
        QVERIFY2(ledger.said().contains("there is no event \"11 years\""), qPrintable(ledger.said()));
        f.document.undo();
        QCOMPARE(m.index(0, m.column_of("event")).data().toString(), QString("2 years"));
    }
    void the_chart_shows_what_was_routed() {
        Fixture f;
        f.open();
        f.event("100 years");
        const auto r = f.document.result();
        QCOMPARE(r->source, ResultSource::ThroughTime);
        const Series *in = f.view()->series("inflow"), *out = f.view()->series("flow");
        QVERIFY(in && out && f.view()->series("level") && f.view()->series("rain"));
        QCOMPARE(*std::max_element(in->values.begin(), in->values.end()), r->ponds[0].peak_inflow);
        QVERIFY(f.view()->required() > 100);
        QVERIFY(f.view()->answers().contains("What comes") && f.view()->answers().contains("Above"));
        QVERIFY(f.view()->table().contains("inflow"));
        // The time line is dragged, and stepped by keys.
        f.event("10 years");
        const double before = f.view()->time();
        const QPointF later = f.view()->chart_place(before + 3600, 0);
        f.mouse(QEvent::MouseButtonPress, f.view(), f.view()->chart_place(before, 0) + QPointF(0, -20));
        f.mouse(QEvent::MouseMove, f.view(), later + QPointF(0, -20));
        f.mouse(QEvent::MouseButtonRelease, f.view(), later + QPointF(0, -20));
        QVERIFY(std::abs(f.view()->time() - before - 3600) < 120);
        QVERIFY(f.view()->readout().contains("in ") && f.view()->readout().contains("level"));
        const double stands = f.view()->time();
        QTest::keyClick(f.view(), Qt::Key_Right);
        QCOMPARE(f.view()->time(), stands + 60);
        // The plan shows the pond at that time in this stage, and as high as it comes in the others.
        const auto now = f.document.result();
        const StructureId at{find_element(f.document.project(), "P1").id};
        const double shown = f.window.plan()->pond_level(*now, at);
        QVERIFY(
            std::abs(shown - f.view()->series("level")->values[static_cast<std::size_t>(f.view()->time() / 60 - 0.5)]) <
            1e-12);
        QVERIFY(shown < now->ponds[0].level - 0.01);
        f.window.actions().find("stage.levels")->trigger();
        QCOMPARE(f.window.plan()->pond_level(*now, at), now->ponds[0].level);
        f.window.actions().find("stage.storage")->trigger();
        QCOMPARE(f.window.plan()->pond_level(*now, at), shown);
        // The chart as files.
        QTemporaryDir folder;
        for (const char* name : {"pond.svg", "pond.pdf", "pond.png"}) {
            const QString path = folder.filePath(name);
            QVERIFY2(f.view()->save(path).isEmpty(), name);
            QVERIFY2(QFileInfo(path).size() > 4000, name);
        }
        QVERIFY(!f.view()->save("/nowhere/pond.png").isEmpty());
        // A structure without a pond: what arrives, sought beside the work.
        f.select("A3");
        QTRY_VERIFY((f.window.grab(), f.view()->series("inflow") != nullptr));
        QVERIFY(!f.view()->series("level"));
    }
    void an_outlet_is_dragged_and_the_curve_follows() {
        Fixture f;
        f.open();
        f.event("100 years");
        const std::uint64_t slot = f.outlet("middle slot");
        const QRectF place = f.view()->outlet_place(slot);
        QVERIFY(!place.isEmpty());
        const double level = f.document.project().outlets.find(slot)->level, leaves = f.leaves();
        const std::size_t edits = f.document.history().position();
        f.mouse(QEvent::MouseButtonPress, f.view(), place.center());
        for (int i = 1; i <= 5; ++i) f.mouse(QEvent::MouseMove, f.view(), place.center() - QPointF(0, 6.0 * i));
        QVERIFY(f.document.has_pending());
        f.settle();
        QVERIFY2(f.leaves() < leaves, "it follows while it is dragged");
        f.mouse(QEvent::MouseButtonRelease, f.view(), place.center() - QPointF(0, 30));
        QVERIFY(f.document.project().outlets.find(slot)->level > level + 0.05);
        QCOMPARE(f.document.history().position(), edits + 1);
        f.document.undo();
        f.settle();
        QCOMPARE(f.document.project().outlets.find(slot)->level, level);
        QCOMPARE(f.leaves(), leaves);
        // From an edit to its repainted hydrograph.
        std::vector<double> took;
        for (int i = 0; i < 9; ++i) {
            QElapsedTimer t;
            t.start();
            Editing e(f.document.project(), "move");
            e.set(Kind::PondOutlet, slot, "level", 43.3 + 0.01 * i);
            f.document.commit(e.take());
            while (!f.document.current() && t.elapsed() < 5000)
                QCoreApplication::processEvents(QEventLoop::AllEvents, 1);
            f.view()->repaint();
            took.push_back(static_cast<double>(t.nsecsElapsed()) / 1e6);
        }
        std::sort(took.begin(), took.end());
        qInfo("an edit to a pond to its repainted hydrograph: median %.1f ms, worst %.1f ms", took[4], took[8]);
#if !defined(CULVERT_CONTRACTS)                                         // sanitizers take their time
        QVERIFY2(took[4] < 250, qPrintable(QString::number(took[4])));  // 50 ms on a quiet machine: ./dev bench
#endif
    }
    void outlets_are_sized_by_a_button_and_taken() {
        Fixture f;
        f.open();
        f.event("100 years");
        QVERIFY(f.leaves() >
                allowed_release(*f.document.result(),
                                static_cast<std::size_t>(f.document.result()->ponds.empty()
                                                             ? 0
                                                             : f.document.network()->through_time->ponds[0].node)));
        f.panel()->pages()->setCurrentIndex(static_cast<int>(StoragePanel::Page::Sizes));
        QTest::mouseClick(f.panel()->button(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(f.window.drawer()->preview()->active(), 10000);
        QVERIFY(f.panel()->said().contains("met"));
        f.window.drawer()->preview()->accept();
        f.settle();
        QTRY_COMPARE(f.document.all_results().size(), std::size_t{3});
        for (const auto& r : f.document.all_results()) {
            const auto node = static_cast<std::size_t>(r->network->through_time->ponds[0].node);
            QVERIFY(r->ponds[0].peak_outflow <= allowed_release(*r, node) * (1 + 1e-6));
        }
        f.document.undo();
        f.settle();
        // Every table fills.
        for (const auto page : {StoragePanel::Page::Ponds, StoragePanel::Page::Rating, StoragePanel::Page::Required,
                                StoragePanel::Page::Catchments}) {
            f.panel()->show(page);
            QTRY_VERIFY2(f.panel()->table()->rowCount() >= 3, qPrintable(QString::number(static_cast<int>(page))));
        }
        // A way out is picked from its drawing.
        f.window.grab();
        Canvas* kinds = f.window.findChild<Card*>()->canvas("outlet-kinds");
        QVERIFY(kinds);
        kinds->grab();
        const std::size_t before = f.document.project().outlets.size();
        QVERIFY(kinds->places().size() == 11);
        for (const Canvas::Place& p : kinds->places())
            if (p.tip.contains("V-notch")) {
                QTest::mouseClick(kinds, Qt::LeftButton, {}, p.rect.center().toPoint());
                break;
            }
        QCOMPARE(f.document.project().outlets.size(), before + 1);
        f.settle();
        const PondOutlet* made = nullptr;
        for (const PondOutlet& o : f.document.project().outlets)
            if (o.kind == OutletKind::Notch) made = &o;
        QVERIFY(made && made->to && std::isnan(made->coefficient));
        f.document.undo();
        QCOMPARE(f.document.project().outlets.size(), before);
        // Settings of runoff stand under Rules.
        f.window.drawer()->show_page(f.window.drawer()->rules());
        f.window.drawer()->rules()->show_page(5);
        FieldEdit* number = f.window.drawer()->rules()->field("curve_number");
        QVERIFY(number);
        auto* line = number->findChild<QLineEdit*>();
        line->setFocus();
        line->selectAll();
        QTest::keyClicks(line, "85");
        QTest::keyClick(line, Qt::Key_Return);
        QCOMPARE(f.document.project().settings().curve_number, 85.0);
    }
    void before_and_after_is_a_click() {
        Fixture f;
        f.open();
        f.panel()->pages()->setCurrentIndex(static_cast<int>(StoragePanel::Page::Compared));
        QCOMPARE(f.panel()->others()->count(), 1);
        QCOMPARE(f.panel()->others()->currentText(), QString("before building"));
        QTest::mouseClick(f.panel()->button(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(f.panel()->table()->rowCount() >= 3, 10000);
        QStringList verdicts;
        for (int r = 0; r < f.panel()->table()->rowCount(); ++r) {
            QCOMPARE(f.panel()->table()->item(r, 0)->text(), QString("Fern Brook"));
            verdicts << f.panel()->table()->item(r, 9)->text();
        }
        QVERIFY2(verdicts.contains("within"), qPrintable(verdicts.join(", ")));
        // The same site before beside the chart.
        f.event("100 years");
        f.view()->set_before(f.panel()->others()->currentData().toULongLong());
        QTRY_VERIFY_WITH_TIMEOUT((f.window.grab(), f.view()->before_series() != nullptr), 10000);
        const auto& left = f.view()->before_series()->values;
        const double peak = *std::max_element(left.begin(), left.end());
        QVERIFY(peak > 0.4 && peak < 0.5);
        // What left before becomes what is allowed.
        f.select("P1");
        f.panel()->findChild<QDoubleSpinBox*>("storage-round")->setValue(5);
        QTest::mouseClick(f.panel()->findChild<QPushButton*>("storage-take"), Qt::LeftButton);
        QTRY_VERIFY(f.window.drawer()->preview()->active());
        f.window.drawer()->preview()->accept();
        f.settle();
        double flow = 0;
        for (const Release& r : f.document.project().releases)
            if (f.document.project().events.find(r.event.value)->name == "100 years") flow = r.flow;
        QCOMPARE(flow, 0.44);
    }
    void a_structure_is_given_storage() {
        Fixture f;
        QVERIFY(f.document.open(MainWindow::example("alder-quay"), false).isEmpty());
        f.settle();
        f.window.actions().find("stage.storage")->trigger();
        f.window.grab();
        std::uint64_t outfall = 0;
        for (const Structure& s : f.document.project().structures)
            if (s.kind == StructureKind::Outfall) outfall = s.id;
        f.document.select({{Kind::Structure, outfall}});
        f.settle();
        f.window.actions().refresh();
        QVERIFY(f.window.actions().find("storage.give")->isEnabled());
        f.window.actions().find("storage.give")->trigger();
        f.settle();
        QCOMPARE(f.document.project().ponds.size(), std::size_t{1});
        QCOMPARE(f.document.project().structures.find(outfall)->kind, StructureKind::Pond);
        QVERIFY(f.document.project().settings().runoff_by == RunoffBy::UnitHydrograph);
        const auto r = f.document.result();
        QCOMPARE(r->ponds.size(), std::size_t{1});
        QVERIFY(r->ponds[0].peak_inflow > 0);
        QVERIFY(std::abs(r->balance.error()) < 1e-6 * (r->balance.runoff + r->balance.known));
        f.document.undo();
        f.settle();
        QCOMPARE(f.document.result()->source, ResultSource::Steady);
        // A pond is drawn.
        f.document.select({});
        f.window.grab();
        f.window.plan()->set_tool("pond");
        for (const QPointF c : {QPointF(600, 150), QPointF(640, 150), QPointF(640, 180), QPointF(600, 180)}) {
            const QPointF at = f.window.plan()->to_screen(c);
            f.mouse(QEvent::MouseButtonPress, f.window.plan(), at);
            f.mouse(QEvent::MouseButtonRelease, f.window.plan(), at);
        }
        QTest::keyClick(f.window.plan(), Qt::Key_Return);
        QCOMPARE(f.document.project().ponds.size(), std::size_t{1});
        const Pond& p = *f.document.project().ponds.begin();
        QCOMPARE(p.storage_by, StorageBy::Outline);
        QVERIFY(p.outline.size() == 4 && std::abs(area(p.outline) - 1200) < 60);
        QCOMPARE(f.document.project().structures.find(p.structure.value)->kind, StructureKind::Pond);
        QVERIFY(!storage_of(p).empty());
        // A contour of a pond whose space is given by levels joins them: half a metre above the last without ground.
        {
            Editing e(f.document.project(), "by areas");
            e.set(Kind::Pond, p.id, "levels", std::vector<double>{45, 46});
            e.set(Kind::Pond, p.id, "areas", std::vector<double>{200, 700});
            e.set(Kind::Pond, p.id, "storage_by", StorageBy::Areas);
            f.document.commit(e.take());
        }
        const std::uint64_t row = p.id;
        f.document.select({{Kind::Structure, p.structure.value}});
        f.window.plan()->set_tool("pond");
        QVERIFY(f.window.plan()->tool().hint().contains("contour"));
        for (const QPointF c : {QPointF(590, 140), QPointF(650, 140), QPointF(650, 190), QPointF(590, 190)}) {
            const QPointF at = f.window.plan()->to_screen(c);
            f.mouse(QEvent::MouseButtonPress, f.window.plan(), at);
            f.mouse(QEvent::MouseButtonRelease, f.window.plan(), at);
        }
        QTest::keyClick(f.window.plan(), Qt::Key_Return);
        const Pond& drawn = *f.document.project().ponds.find(row);
        QCOMPARE(drawn.levels.size(), std::size_t{3});
        const double ground = f.document.ground_level({590, 140});
        if (std::isnan(ground)) QCOMPARE(drawn.levels, (std::vector<double>{45, 46, 46.5}));
        const auto contour = std::find_if(drawn.areas.begin(), drawn.areas.end(), [](double a) { return a > 1000; });
        QVERIFY2(contour != drawn.areas.end() && std::abs(*contour - 3000) < 400,
                 qPrintable(QString("%1 %2 %3").arg(drawn.areas[0]).arg(drawn.areas[1]).arg(drawn.areas[2])));
        f.document.undo();
        QCOMPARE(f.document.project().ponds.find(row)->levels.size(), std::size_t{2});
        f.document.undo();
        f.document.undo();
        QCOMPARE(f.document.project().ponds.size(), std::size_t{0});
    }
    /// Walking and selecting follow outlets as they follow pipes.
    void outlets_lead_on() {
        Fixture f;
        f.open();
        f.event("100 years");
        f.window.actions().find("walk.down")->trigger();
        QCOMPARE(element_name(f.document.project(), Kind::Structure, f.document.selected().id), std::string("C1"));
        f.window.actions().find("walk.up")->trigger();
        QCOMPARE(element_name(f.document.project(), Kind::Structure, f.document.selected().id), std::string("P1"));
        f.select("A3");
        f.window.actions().find("select.below")->trigger();
        const auto has = [&](const char* name) {
            return f.document.is_selected(find_element(f.document.project(), name));
        };
        QVERIFY(has("A3") && has("A4") && has("P1") && has("C1") && has("C2") && !has("A2") && !has("B3"));
        f.select("P1");
        f.window.actions().find("select.above")->trigger();
        QVERIFY(has("A1") && has("B1") && has("Larch Row") && has("Pond Meadow") && !has("C1"));
        // The card lists them with what runs by each.
        f.select("P1");
        auto* ways = f.window.findChild<QWidget*>("ways");
        QVERIFY(ways && ways->height() >= 6 * 17);
    }
    /// What catchments make of the rain stands in their ledger, tooltip and card, from the one catalogue.
    void catchments_have_results() {
        Fixture f;
        f.open();
        f.event("10 years");
        LedgerModel* model = f.window.drawer()->ledger()->model();
        model->set_kind(Kind::Catchment);
        const auto column = [&](const QString& head) {
            for (int c = 0; c < model->columnCount(); ++c)
                if (model->headerData(c, Qt::Horizontal, Qt::DisplayRole).toString().contains(head)) return c;
            return -1;
        };
        const int peak = column("Peak of the area"), runoff = column("Runoff share");
        QVERIFY(peak > 0 && runoff > 0 && model->rowCount() > 3);
        const auto r = f.document.result();
        const ThroughTime& t = *r->network->through_time;
        for (int row = 0; row < model->rowCount(); ++row) {
            const std::uint64_t id = model->id_of(row);
            for (std::size_t i = 0; i < t.areas.size(); ++i)
                if (t.areas[i].catchment.value == id) {
                    QCOMPARE(model->data(model->index(row, runoff), Qt::UserRole).toDouble(),
                             r->runoffs[i].runoff / r->runoffs[i].rain);
                    QCOMPARE(model->data(model->index(row, peak), Qt::UserRole).toDouble(),
                             r->runoffs[i].peak / t.areas[i].area);
                }
        }
        // Its storm is drawn in its card, with what is lost and what runs off.
        const std::uint64_t first = f.document.project().catchments.begin()->id;
        f.document.select({{Kind::Catchment, first}});
        QTRY_VERIFY(f.window.findChild<Canvas*>("rain-chart"));
        auto* chart = f.window.findChild<Canvas*>("rain-chart");
        chart->grab();
        QVERIFY2(chart->places().size() > 20 && chart->height() > 100, "a column for each part of the storm");
        QVERIFY(chart->places()[10].tip.contains("rain") && chart->places()[10].tip.contains("runs off"));
        // The rational method knows none of it.
        Editing e(f.document.project(), "rational");
        e.set(Kind::Settings, settings_id, "runoff_by", RunoffBy::Rational);
        f.document.commit(e.take());
        QCOMPARE(column("Runoff share"), -1);
        // Its pond is not routed then: one click chooses the modified rational method.
        const auto remedy = [&]() -> const Remedy* {
            for (const Finding& found : f.document.data_findings())
                if (found.title == "not routed")
                    if (const auto* list = f.document.remedies_of(found); list && !list->empty()) return &list->front();
            return nullptr;
        };
        QTRY_VERIFY_WITH_TIMEOUT(remedy(), 20000);
        QVERIFY(remedy()->mends);
        f.document.commit(Edit(remedy()->edit));
        QVERIFY(f.document.project().settings().runoff_by == RunoffBy::ModifiedRational);
        QTRY_VERIFY_WITH_TIMEOUT(f.document.current(), 20000);
        for (const Finding& found : f.document.data_findings()) QVERIFY(found.title != "not routed");
        f.document.undo();
        f.document.undo();
        QVERIFY(column("Runoff share") > 0);
    }
};

QTEST_MAIN(TestStorage)
#include "test_storage.moc"
