// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <QtWidgets>
#include <set>

#include "app/desk/task.h"
#include "app/window/main_window.h"
#include "exchange/edit_text.h"
#include "support/networks.h"
#include "support/variants.h"

using namespace culvert;
using namespace culvert::app;

/// The desk: what a change says, what is solved and painted for it, work off the interface thread.
class TestDesk : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

  private slots:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QApplication::setOrganizationName("calm-culvert-test");
        QApplication::setApplicationName("calm-culvert-test");
    }
    void a_change_says_what_it_touched() {
        Document d;
        d.set_project(testing::chain_project(5, 1));
        std::vector<ChangeSet> said;
        connect(&d, &Document::changed, this, [&](const ChangeSet& c) { said.push_back(c); });
        const auto edit = [&](const char* name, auto fill) {
            Editing e(d.project(), name);
            fill(e);
            said.clear();
            d.commit(e.take());
            return said.size() == 1 ? said[0] : ChangeSet();
        };
        const ElementRef pipe{Kind::Pipe, 1001}, structure{Kind::Structure, 1000};
        ChangeSet c = edit("size", [](Editing& e) { e.set(Kind::Pipe, 1001, "size", 0.6); });
        QVERIFY(c.touches(pipe) && !c.touches(structure) && !c.touches(Kind::Catchment));
        QVERIFY(!c.geometry() && !c.topology() && c.listed() && !c.resizes(Kind::Pipe));
        QVERIFY(!c.touches(ElementRef{Kind::Pipe, 1011}));
        c = edit("move", [](Editing& e) { e.set(Kind::Structure, 1000, "x", 5.0); });
        QVERIFY(c.touches(structure) && c.geometry() && !c.topology());
        c = edit("join", [](Editing& e) { e.set(Kind::Pipe, 1001, "to", std::uint64_t{1020}); });
        QVERIFY(c.topology() && !c.resizes(Kind::Pipe));
        c = edit("remove", [](Editing& e) { e.remove(Kind::Structure, 1000); });
        QVERIFY(c.topology() && c.resizes(Kind::Structure) && c.resizes(Kind::Pipe) && c.touches(pipe));
        said.clear();
        d.undo();
        QCOMPARE(said.size(), std::size_t{1});
        QVERIFY(said[0].touches(structure) && said[0].topology());
        c = edit("many", [&](Editing& e) {
            for (const Structure& s : d.project().structures) e.set(Kind::Structure, s.id, "note", std::string("x"));
            for (int i = 0; i < 100; ++i) e.insert(Limit{});
        });
        QVERIFY(!c.listed() && c.touches(structure));
        said.clear();
        d.set_project(new_project(UnitSystem::Si));
        QVERIFY(said.back().touches(Kind::Street) && said.back().topology() && !said.back().listed());
    }
    void rows_are_put_in_order_once_when_a_table_is_shown() {
        Document d;
        MainWindow window(d);
        d.set_project(testing::random_project({.pipes = 40, .seed = 3}));
        Ledger& ledger = *window.drawer()->ledger();
        LedgerModel& model = *ledger.model();
        ledger.show_kind(Kind::Pipe);
        QSignalSpy resets(&model, &QAbstractItemModel::modelReset);
        ledger.show_kind(Kind::Structure);
        QCOMPARE(resets.count(), 2);  // emptied, then filled
        // Asked for the order they have they stay; after an edit they are put in it.
        model.sort(0, Qt::AscendingOrder);
        QCOMPARE(resets.count(), 2);
        Editing e(d.project(), "rename");
        e.set(Kind::Structure, model.id_of(0), "name", std::string("zzz"));
        d.commit(e.take());
        model.sort(0, Qt::AscendingOrder);
        QCOMPARE(model.index(model.rowCount() - 1, 0).data().toString(), QString("zzz"));
    }
    void a_settled_conflict_is_seen_in_the_plan() {
        Document d;
        PlanView plan(d);
        d.set_project(testing::chain_project(4, 1));
        d.commit(testing::new_variant(d.project()));
        d.activate_variant(7);
        const auto size = [&](double m) {
            Editing one(d.project(), "size");
            one.set(Kind::Pipe, 1001, "size", m);
            d.commit(one.take());
        };
        size(0.9);
        d.activate_variant(0);
        size(0.6);
        d.activate_variant(7);
        QCOMPARE(d.conflicts().size(), std::size_t{1});
        QCOMPARE(plan.scene().pipes().front().width, 0.9);
        d.settle_conflict(0, false);
        QCOMPARE(d.project().pipes.find(1001)->size, 0.6);
        QCOMPARE(plan.scene().pipes().front().width, 0.6);
    }
    void a_drag_is_one_edit_and_one_change_a_move() {
        Document d;
        MainWindow w(d);
        w.resize(1280, 800);
        w.show();
        w.open_file(MainWindow::example("alder-quay"));
        QTRY_VERIFY(d.current() && d.review());
        const ElementRef pipe = find_element(d.project(), "A4–A5");
        d.select({pipe});
        w.grab();
        const QPointF from = w.profile()->handle_at(pipe, "invert_to");
        QVERIFY(!from.isNull());
        int changes = 0;
        connect(&d, &Document::changed, &w, [&] { ++changes; });
        const std::size_t position = d.history().position();
        const std::uint64_t before = d.revision();
        QTest::mousePress(w.profile(), Qt::LeftButton, {}, from.toPoint());
        for (int i = 1; i <= 5; ++i) QTest::mouseMove(w.profile(), from.toPoint() + QPoint(0, 4 * i));
        QCOMPARE(changes, 5);
        QCOMPARE(d.revision(), before + 5);  // each is solved once
        QTest::mouseRelease(w.profile(), Qt::LeftButton, {}, from.toPoint() + QPoint(0, 20));
        QCOMPARE(changes, 6);
        QCOMPARE(d.history().position(), position + 1);
        d.undo();
        QCOMPARE(d.history().position(), position);
    }
    void an_edit_is_painted_once_with_its_results_and_hidden_views_wait() {
        Document d;
        MainWindow w(d);
        w.resize(1280, 800);
        w.show();
        w.open_file(MainWindow::example("alder-quay"));
        QTRY_VERIFY(d.current() && !d.all_results().empty() && !d.seeking_remedies());
        QTest::qWait(300);
        d.select({find_element(d.project(), "A4–A5")});
        QTest::qWait(300);
        int painted = 0;
        connect(w.profile(), &ProfileView::painted, &w, [&] { ++painted; });
        Editing e(d.project(), "size");
        e.set(Kind::Pipe, d.selected().id, "size", 0.75);
        QElapsedTimer since;
        since.start();
        d.commit(e.take());
        while (w.profile()->painted_revision() != d.revision() && since.elapsed() < 5000) QTest::qWait(1);
        const bool quick = since.elapsed() < 100;  // else it was dimmed meanwhile, and painted for that too
        QTRY_VERIFY(!d.all_results().empty());
        QTest::qWait(60);
        QVERIFY(w.profile()->painted_revision() == d.revision());
        QVERIFY2(painted <= (quick ? 2 : 5), qPrintable(QString::number(painted)));
        // The history page is hidden: it does not follow until it is shown.
        QVERIFY(!w.drawer()->history()->isVisible());
        w.drawer()->show_page(w.drawer()->history());
        QCOMPARE(w.drawer()->history()->list()->count(), static_cast<int>(d.history().edits().size()) + 1);
    }
    void a_surface_whose_content_is_missing_is_said_with_its_remedy() {
        Document d;
        Project p = testing::chain_project(3, 1);
        Surface s;
        s.id = 5;
        s.name = "old ground";
        s.asset = std::string(64, 'a');
        p.surfaces.insert(s);
        d.set_project(p);
        const auto missing = [&]() -> const Finding* {
            for (const Finding& f : d.data_findings())
                if (f.title == "content missing") return &f;
            return nullptr;
        };
        QTRY_VERIFY(missing());
        QVERIFY(missing()->element == (ElementRef{Kind::Surface, 5}) && missing()->check.verdict == Verdict::Beyond);
        QVERIFY(missing()->detail.find("old ground") != std::string::npos &&
                missing()->remedy.find(".assets") != std::string::npos);
    }
    void a_task_tells_the_newest_run_only_and_says_exceptions() {
        QObject owner;
        QString failed;
        std::vector<int> told;
        Task task(&owner, [&](const QString& why) { failed = why; });
        for (int i = 0; i < 3; ++i)
            task.run([&told, i](const Turn& turn) {
                for (int k = 0; k < 20 && !turn.stop.stop_requested(); ++k) QThread::msleep(1);
                turn.tell([&told, i] { told.push_back(i); });
            });
        QTRY_COMPARE(told, std::vector<int>{2});
        task.run([&told](const Turn& turn) { turn.tell([&told] { told.push_back(9); }); });
        QThread::msleep(50);
        task.cancel();  // told already, but not heard yet
        QTest::qWait(50);
        QCOMPARE(told, std::vector<int>{2});
        task.run([](const Turn&) { throw std::runtime_error("the floor is wet"); });
        QTRY_COMPARE(failed, QString("the floor is wet"));
        task.run([&told](const Turn& turn) { turn.tell([&told] { told.push_back(4); }); });
        QTRY_COMPARE(told, (std::vector<int>{2, 4}));  // it goes on
    }
    void a_thousand_edits_in_a_variant_keep_the_journal_small_and_come_back() {
        const QString state = dir_.path() + "/variant-state";
        Project shown;
        QString journal;
        {
            Document d;
            d.set_state_folder(state);
            d.set_project(testing::sized_project(400, 1));
            d.commit(testing::new_variant(d.project()));
            d.activate_variant(7);
            std::vector<std::uint64_t> pipes;
            for (const Pipe& p : d.project().pipes) pipes.push_back(p.id);
            for (std::size_t i = 0; i < 1000; ++i) {
                Editing one(d.project(), "size");
                one.set(Kind::Pipe, pipes[i * 7 % pipes.size()], i % 3 ? "size" : "description",
                        i % 3 ? Value(0.3 + 0.001 * static_cast<double>(i)) : Value("ä" + std::to_string(i)));
                d.commit(one.take());
                if (i % 50 == 49) d.undo();
                if (i % 100 == 99) d.redo();
            }
            // Deleted and brought back it is what it was, and what is changed in it then comes back too.
            Editing gone(d.project(), "delete");
            gone.remove(Kind::Variant, 7);
            d.commit(gone.take());
            d.undo();
            d.activate_variant(7);
            Editing last(d.project(), "size");
            last.set(Kind::Pipe, pipes[0], "size", 2.0);
            d.commit(last.take());
            QVERIFY(d.journal()->keep());
            shown = d.project();
            for (const QFileInfo& f : QDir(state).entryInfoList({"*.journal"})) journal = f.filePath();
            qint64 base = 0, edits = 0;
            QFile file(journal);
            QVERIFY(file.open(QFile::ReadOnly));
            for (int line = 0; !file.atEnd(); ++line) (line < 2 ? base : edits) += file.readLine().size();
            qInfo("1,000 edits in a variant: %lld bytes of journal beside its base", static_cast<long long>(edits));
            QVERIFY(edits < 2'000'000);
            QVERIFY(QFile::copy(journal, dir_.path() + "/copy.journal"));
        }
        const auto back = recover((dir_.path() + "/copy.journal").toStdString());
        QVERIFY(back);
        QCOMPARE(back->variant, std::uint64_t{7});
        const Project root = back->project();
        const auto overlay = read_edit(root.variants.find(7)->changes);
        QVERIFY(overlay && with_overlay(root, *overlay) == shown);
        QVERIFY(back->left_out.empty());
    }
    void a_file_is_written_beside_the_work_and_what_came_since_is_unsaved() {
        Document d;
        d.set_state_folder(dir_.path() + "/state");
        d.set_project(testing::sized_project(3000, 1));
        QVERIFY(d.is_large());
        const QString path = dir_.path() + "/large.culvert";
        QString answer = "not yet";
        const Project was = d.project();
        const std::uint64_t id = was.pipes.begin()->id;
        d.save_later(path, false, [&](const QString& said) { answer = said; });
        Editing e(d.project(), "meanwhile");
        e.set(Kind::Pipe, id, "size", 0.9);
        d.commit(e.take());
        QTRY_COMPARE_WITH_TIMEOUT(answer, QString(), 20000);
        QVERIFY(d.modified());
        QVERIFY(load_project(path.toStdString()).project == was);
        // What came since is in the journal, beside what the file holds.
        Document other;
        other.set_state_folder(dir_.path() + "/state");
        d.journal()->keep();
        d.undo();
        QVERIFY2(!d.modified(), "the state that was written");
        d.redo();
        // A save that is overtaken by an undo and another branch is no longer the state on any branch.
        answer = "not yet";
        d.save_later(path, true, [&](const QString& said) { answer = said; });
        d.undo();
        Editing f(d.project(), "another branch");
        f.set(Kind::Pipe, id, "size", 1.2);
        d.commit(f.take());
        QTRY_COMPARE_WITH_TIMEOUT(answer, QString(), 20000);
        QVERIFY(d.modified());
        QCOMPARE(load_project(path.toStdString()).project.pipes.find(id)->size, 0.9);
        // Read beside the work too; a second wish replaces the first.
        Document r;
        int answers = 0;
        r.open_later(dir_.path() + "/gone.culvert", false, [&](const QString&) { ++answers; });
        r.open_later(path, false, [&](const QString&) { ++answers; });
        QTRY_VERIFY_WITH_TIMEOUT(r.project().pipes.size() == was.pipes.size(), 20000);
        QCOMPARE(answers, 1);
    }
};

QTEST_MAIN(TestDesk)
#include "test_desk.moc"
