// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QtTest>

#include "app/kit/theme.h"
#include "app/window/main_window.h"
#include "core/model/lay.h"

using namespace culvert;
using namespace culvert::app;

/// A network whose water has several ways, in the real window.
class TestRings : public QObject {
    Q_OBJECT
  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test");
    }
    void a_relief_pipe_takes_its_share_and_undo_takes_it_back() {
        Document d;
        MainWindow w(d);
        w.resize(1280, 800);
        w.show();
        w.open_file(MainWindow::example("alder-quay"));
        const auto settle = [&] { QTRY_VERIFY_WITH_TIMEOUT(d.current() && d.review(), 5000); };
        settle();
        const auto id = [&](const char* name) { return find_element(d.project(), name).id; };
        const auto level = [&](const char* name) {
            const auto r = d.result();
            return r->nodes[static_cast<std::size_t>(r->network->node_of(StructureId{id(name)}))].level.level;
        };
        const auto flow = [&](PipeId pipe) {
            const auto r = d.result();
            return r->links[static_cast<std::size_t>(r->network->link_of(pipe))].flow;
        };
        const PipeId full{id("A6–A7")};
        const double before = level("A5"), all = flow(full).flow;
        // A second pipe beside the one that is too small, drawn against the water.
        Pipe relief = *d.project().pipes.find(full.value);
        relief.id = 4711;
        std::swap(relief.from, relief.to);
        std::swap(relief.invert_from, relief.invert_to);
        relief.bends = {{d.project().structures.find(relief.from.value)->x + 25,
                         d.project().structures.find(relief.from.value)->y + 40}};
        relief.length = d.project().pipes.find(full.value)->length;
        Editing e(d.project(), "Relief pipe");
        e.insert(relief);
        d.commit(e.take());
        settle();
        QVERIFY(level("A5") < before - 0.1);
        QVERIFY(std::abs(flow(full).flow + flow(PipeId{4711}).flow - all) < 0.02 * all);
        QVERIFY(flow(PipeId{4711}).flow > 0.3 * all);
        // The findings name the ring; no pipe above the crown for want of it.
        bool named = false;
        for (const Finding& f : d.data_findings()) named |= f.title == "closes a ring" && f.severity == Severity::Note;
        QVERIFY(named);
        QVERIFY(d.review()->of(*d.result()->network, {Kind::Pipe, full.value}) != Verdict::Beyond);
        // Both ways can be selected and are shown with their numbers.
        w.rail()->set_stage(Stage::Levels);
        w.plan()->zoom_to_all();
        for (const std::uint64_t pipe : {full.value, std::uint64_t{4711}}) {
            d.select({{Kind::Pipe, pipe}});
            QTest::qWait(300);
            QVERIFY(w.card()->field(Kind::Pipe, "size"));
            const QPixmap shown = w.grab();
            if (qEnvironmentVariableIsSet("CULVERT_GRAB"))
                shown.save(qEnvironmentVariable("CULVERT_GRAB") + QString::number(pipe) + ".png");
        }
        d.undo();
        settle();
        QCOMPARE(level("A5"), before);
    }
};
QTEST_MAIN(TestRings)
#include "test_rings.moc"
