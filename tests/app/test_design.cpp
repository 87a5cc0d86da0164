// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <QtWidgets>
#include <cmath>

#include "app/window/main_window.h"

using namespace culvert;
using namespace culvert::app;

/// A line drawn by mouse, rain and areas given, and one key: a design that passes, shown before it is taken.
class TestDesignWindow : public QObject {
    Q_OBJECT
    std::unique_ptr<Document> document_;
    std::unique_ptr<MainWindow> window_;

    Document& d() { return *document_; }
    PlanView& plan() { return *window_->plan(); }
    void settle() { QTRY_VERIFY_WITH_TIMEOUT(d().current() && d().review(), 20000); }
    int beyond() {
        int n = 0;
        for (const Finding& f : d().review()->findings)
            n += f.check.verdict == Verdict::Beyond && f.check.rule != Rule::Data &&
                 stage_of(f.check.rule) != Stage::Streets;
        return n;
    }
    void draw_line() {
        Project p = new_project(UnitSystem::Si);
        RainEvent e;
        e.id = 5;
        e.name = "10 years";
        e.return_period = 10;
        e.role = EventRole::Minor;
        e.durations = {300, 3600};
        e.intensities = {4e-5, 1e-5};
        p.events.insert(e);
        d().set_project(p);
        window_->actions().find("stage.layout")->trigger();
        window_->grab();
        window_->actions().find("tool.draw")->trigger();
        window_->actions().find("kind.inlet")->trigger();
        const QPoint middle(plan().width() / 2, plan().height() / 2);
        for (int i = 0; i < 3; ++i) QTest::mouseClick(&plan(), Qt::LeftButton, {}, middle + QPoint(-160 + 110 * i, 0));
        window_->actions().find("kind.outfall")->trigger();
        QTest::mouseClick(&plan(), Qt::LeftButton, {}, middle + QPoint(170, 0));
        QCOMPARE(d().project().pipes.size(), std::size_t{3});
        Editing areas(d().project(), "Areas");
        for (const Structure& s : d().project().structures) {
            if (s.kind != StructureKind::Inlet) continue;
            Catchment c;
            c.id = s.id ^ 1;
            c.name = "at " + s.name;
            c.structure = {s.id};
            c.area = 9000;
            c.coefficient = 0.8;
            c.time = 600;
            areas.insert(c);
        }
        d().commit(areas.take());
        settle();
    }
    void press_the_key() {
        window_->activateWindow();
        QTest::keyClick(window_.get(), Qt::Key_F9);
        QVERIFY(window_->notice()->said().startsWith("Designing"));  // and how to stop it
        QTRY_VERIFY_WITH_TIMEOUT(d().has_pending(), 20000);
        window_->grab();
        QVERIFY(window_->notice()->said().isEmpty());
    }

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test-design");
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
    void a_line_passes_with_one_key() {
        draw_line();
        QVERIFY(beyond() > 0);
        const Project before = d().project();
        press_the_key();
        QCOMPARE(window_->drawer()->tabs()->tabText(window_->drawer()->tabs()->currentIndex()), QString("Design"));
        QCOMPARE(window_->drawer()->proposal_table()->model()->rowCount(), 3);
        window_->drawer()->preview()->accept();
        settle();
        QCOMPARE(beyond(), 0);
        d().undo();  // one Edit
        QVERIFY(d().project() == before);
    }
    void a_row_that_is_unticked_stays() {
        draw_line();
        press_the_key();
        auto* model = window_->drawer()->proposal_table()->model();
        int changed = -1;
        for (int row = 0; row < model->rowCount(); ++row)
            if (model->data(model->index(row, 0), Qt::CheckStateRole).isValid()) changed = row;
        QVERIFY(changed >= 0);
        const QString name = model->data(model->index(changed, 0)).toString();
        const ElementRef pipe = find_element(d().committed(), name.toStdString());
        const Pipe was = *d().committed().pipes.find(pipe.id);
        model->setData(model->index(changed, 0), Qt::Unchecked, Qt::CheckStateRole);
        QTRY_VERIFY(d().has_pending());
        window_->drawer()->preview()->accept();
        QVERIFY(*d().project().pipes.find(pipe.id) == was);
    }
    /// The outfall is pinned too high: the page names the pin, and the level that would do.
    void what_prevents_a_design_is_said() {
        draw_line();
        const Pipe* last = nullptr;
        for (const Pipe& p : d().project().pipes)
            if (d().project().structures.find(p.to.value)->kind == StructureKind::Outfall) last = &p;
        QVERIFY(last);
        Editing e(d().project(), "Pin");
        e.set(Kind::Pipe, last->id, "invert_to", last->invert_to + 1.2);
        d().commit(e.take());
        settle();
        press_the_key();
        QString said;
        for (const QLabel* l : window_->drawer()->findChildren<QLabel*>())
            if (l->text().contains("pipes change")) said = l->text();
        QVERIFY2(said.contains("is pinned at") && said.contains("let go, the design passes"), qPrintable(said));
    }
};

QTEST_MAIN(TestDesignWindow)
#include "test_design.moc"
