// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <filesystem>
#include <fstream>
#include <random>

#include <fcntl.h>
#include <sys/stat.h>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/window/main_window.h"
#include "exchange/content_hash.h"
#include "exchange/edit_text.h"
#include "support/networks.h"
#include "support/variants.h"

using namespace culvert;
using namespace culvert::app;
namespace fs = std::filesystem;

namespace {

/// A disk that is killed at one of its steps, or full for a while.
class TroubledDisk : public JournalDisk {
  public:
    int kill_at = 1 << 30, step = 0;
    bool full = false;
    std::map<std::string, std::size_t> flushed;
    [[nodiscard]] bool dead() const { return step > kill_at; }
    bool create(const std::string& path, const std::string& bytes) override {
        flushed[path] = 0;
        return written(path, bytes, [&](const std::string& b) { return JournalDisk::create(path, b); });
    }
    bool append(const std::string& path, const std::string& bytes) override {
        return written(path, bytes, [&](const std::string& b) { return JournalDisk::append(path, b); });
    }
    bool flush(const std::string& path) override {
        if (full || dead() || step++ == kill_at) return false;
        flushed[path] = fs::file_size(path);
        return JournalDisk::flush(path);
    }
    bool rename(const std::string& from, const std::string& to) override {
        if (full || dead() || step++ == kill_at) return false;
        flushed[to] = flushed[from];
        return JournalDisk::rename(from, to);
    }
    void remove(const std::string& path) override {
        if (!dead()) JournalDisk::remove(path);
    }
    /// What a power cut leaves: no more than was flushed.
    void cut() const {
        for (const auto& [path, size] : flushed)
            if (fs::exists(path) && fs::file_size(path) > size) fs::resize_file(path, size);
    }

  private:
    template <class Write>
    bool written(const std::string&, const std::string& bytes, Write write) {
        if (dead()) return false;
        if (full || step++ == kill_at) {
            write(bytes.substr(0, bytes.size() / 2));
            return false;
        }
        return write(bytes);
    }
};

struct Screen {
    Project base, shown;
    QString path;
};

}  // namespace

/// Nothing accepted is lost: kills at any write, full disks, files that go, change, or are reached through links.
class TestSafety : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int number_ = 0;
    QString folder() {
        const QString f = dir_.path() + QString("/%1").arg(++number_);
        QDir().mkpath(f + "/state");
        return f;
    }
    static Edit raise(const Project& p, double by) {
        Editing e(p, "Raise");
        const Structure& s = *p.structures.begin();
        e.set(Kind::Structure, s.id, "rim", s.rim + by);
        return e.take();
    }

  private slots:
    void initTestCase() { QStandardPaths::setTestModeEnabled(true); }

    void killed_at_any_write_the_state_on_screen_comes_back() {
        int kills = 0, recovered = 0, from_file = 0, variants = 0, undone_below_save = 0;
        for (unsigned seed = 1; seed <= 14; ++seed) {
            int steps = 1 << 30;  // of the disk in a run that is not killed
            for (int kill = -1; kill < steps; ++kill) {
                const QString f = folder();
                auto disk = std::make_shared<TroubledDisk>();
                if (kill >= 0) disk->kill_at = kill;
                std::vector<Screen> screens;
                {
                    Document d;
                    d.set_project(testing::random_project({.pipes = 4, .seed = seed, .events = 1}));
                    QVERIFY(d.save(f + "/a.culvert").isEmpty());
                    d.set_state_folder(f + "/state", disk);
                    std::mt19937 random(seed);
                    screens.push_back({d.base(), d.project(), d.path()});
                    std::size_t saved_at = 0;
                    for (int op = 0; op < 16 && !disk->dead(); ++op) {
                        const unsigned what = static_cast<unsigned>(random() % 12);
                        const auto ids = [&] {
                            std::vector<std::uint64_t> list;
                            for (const Structure& s : d.project().structures) list.push_back(s.id);
                            return list;
                        }();
                        const std::uint64_t one = ids[random() % ids.size()];
                        const double by = 0.01 * static_cast<double>(random() % 100 + 1);
                        if (what < 4) {
                            Editing e(d.project(), "Raise");
                            e.set(Kind::Structure, one, "rim", d.project().structures.find(one)->rim + by);
                            d.commit(e.take());
                        } else if (what == 4 && ids.size() > 2) {
                            Editing e(d.project(), "Delete");
                            e.remove(Kind::Structure, one);
                            d.commit(e.take());
                        } else if (what < 8) {
                            undone_below_save +=
                                d.history().position() <= saved_at && d.history().can_undo() && saved_at > 0;
                            d.undo();
                        } else if (what == 8) d.redo();
                        else if (what == 9) {
                            QVERIFY(d.save(d.path()).isEmpty());
                            saved_at = d.history().position();
                        } else if (what == 10 && random() % 3 == 0) {
                            QVERIFY(d.save(f + QString("/as%1.culvert").arg(op)).isEmpty());
                        } else if (d.base().variants.empty()) {
                            d.commit(testing::new_variant(d.base(), 4711, "V1"));
                        } else {
                            d.activate_variant(d.variant() ? 0 : d.base().variants.begin()->id);
                            ++variants;
                        }
                        d.journal()->settle();
                        screens.push_back({d.base(), d.project(), d.path()});
                    }
                    if (kill < 0) steps = disk->step;
                }
                if (kill < 0) continue;
                ++kills;
                if (kill % 2) disk->cut();
                // A new program: what it brings back, or else the file, is what was on screen before or after the step
                // that did not come to its end.
                Document next;
                next.set_state_folder(f + "/state");
                const auto left = next.recoverable({});
                const Screen &after = screens.back(), &before = screens[screens.size() < 2 ? 0 : screens.size() - 2];
                QVERIFY(left.size() <= 1);
                if (left.empty()) {
                    ++from_file;
                    // The file that was saved last holds it.
                    const Project a = load_project(plain(after.path)).project,
                                  b = load_project(plain(before.path)).project;
                    QVERIFY2(a == after.base || a == before.base || b == before.base,
                             qPrintable(QString("seed %1, killed at %2: nothing comes back").arg(seed).arg(kill)));
                    continue;
                }
                ++recovered;
                QVERIFY(left[0].left_out.empty());
                next.restore(left[0]);
                QVERIFY2(next.base() == after.base || next.base() == before.base,
                         qPrintable(QString("seed %1, killed at %2: another state comes back").arg(seed).arg(kill)));
                QVERIFY2(
                    next.project() == after.shown || next.project() == before.shown || next.base() == next.project(),
                    qPrintable(QString("seed %1, killed at %2: another variant").arg(seed).arg(kill)));
                QVERIFY(next.modified());
                QVERIFY2(fs::exists(next.journal()->path()), "safe again at once");
            }
        }
        QVERIFY2(kills > 300 && recovered > 150 && from_file > 50 && variants > 30 && undone_below_save > 3,
                 qPrintable(QString("%1 %2 %3 %4 %5")
                                .arg(kills)
                                .arg(recovered)
                                .arg(from_file)
                                .arg(variants)
                                .arg(undone_below_save)));
    }
    /// The journal hears what will stand in the file before it stands there: a program that dies between the two finds
    /// the file known as its own.
    void the_journal_hears_of_a_save_before_the_file_is_written() {
        struct Listening : TroubledDisk {
            QString file;
            QByteArray then;  // what the file held when the journal was told
            bool append(const std::string& path, const std::string& bytes) override {
                if (bytes.find("\"saving\"") != std::string::npos) then = content(file);
                return TroubledDisk::append(path, bytes);
            }
            static QByteArray content(const QString& name) {
                QFile f(name);
                return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
            }
        };
        const QString f = folder(), file = f + "/a.culvert";
        auto disk = std::make_shared<Listening>();
        disk->file = file;
        Document d;
        d.set_project(testing::random_project({.pipes = 4, .seed = 3, .events = 1}));
        QVERIFY(d.save(file).isEmpty());
        d.set_state_folder(f + "/state", disk);
        d.commit(raise(d.project(), 0.2));
        d.journal()->settle();
        const QByteArray before = Listening::content(file);
        disk->kill_at = disk->step + 1;  // its word is written; what follows is not
        QVERIFY(d.save(file).isEmpty());
        d.journal()->settle();
        QVERIFY(!before.isEmpty() && disk->then == before);
        QVERIFY(Listening::content(file) != before);
        Document next;
        next.set_state_folder(f + "/state");
        for (const auto& left : next.recoverable({})) QVERIFY2(!left.file_differs, "nobody else has written the file");
    }
    void an_undo_below_the_save_comes_back() {
        const QString f = folder();
        Project saved;
        {
            Document d;
            d.set_project(testing::random_project({.pipes = 4, .seed = 3, .events = 1}));
            d.save(f + "/a.culvert");
            d.set_state_folder(f + "/state");
            const double was = d.project().structures.begin()->rim;
            d.commit(raise(d.project(), 1));
            d.commit(raise(d.project(), 1));
            QVERIFY(d.save(f + "/a.culvert").isEmpty());
            d.undo();
            d.undo();
            QCOMPARE(d.project().structures.begin()->rim, was);
            d.journal()->settle();
            saved = d.project();
        }
        Document next;
        next.set_state_folder(f + "/state");
        const auto left = next.recoverable(f + "/a.culvert");
        QCOMPARE(left.size(), std::size_t{1});
        next.restore(left[0]);
        QVERIFY(next.project() == saved);
        QVERIFY(next.history().can_redo());
        next.redo();
        next.redo();
        QVERIFY(load_project(plain(f + "/a.culvert")).project == next.project());
    }
    void a_journal_that_cannot_be_written_is_said_until_it_can() {
        const QString f = folder();
        auto disk = std::make_shared<TroubledDisk>();
        Document d;
        MainWindow w(d);
        w.show();
        d.set_state_folder(f + "/state", disk);
        d.set_project(testing::random_project({.pipes = 4, .seed = 3, .events = 1}));
        d.commit(raise(d.project(), 1));
        QVERIFY(d.journal()->settle());
        disk->full = true;
        d.commit(raise(d.project(), 1));
        QTRY_VERIFY(!d.journal_trouble().isEmpty());
        auto* said = w.findChild<QLabel*>();
        Q_UNUSED(said);
        bool shown = false;
        for (QWidget* n : w.findChildren<QWidget*>("notice"))
            if (n->isVisible()) shown |= static_cast<Notice*>(n)->said().contains("cannot be kept safe");
        QVERIFY(shown);
        w.notice()->say("something else");  // it stays beside other news
        d.commit(raise(d.project(), 1));
        QVERIFY(!d.journal()->settle());
        disk->full = false;
        const Project now = d.project();
        QTRY_VERIFY_WITH_TIMEOUT(d.journal_trouble().isEmpty(), 8000);
        // It went on with a new base: all is there, and a torn line of before hides nothing.
        QVERIFY(d.journal()->settle());
        auto r = recover(d.journal()->path());
        QVERIFY(r && r->project() == now && !r->truncated);
        d.commit(raise(d.project(), 1));
        QVERIFY(d.journal()->settle());
        r = recover(d.journal()->path());
        QVERIFY(r && r->project() == d.project());
    }
    void recovery_is_offered_whatever_opening_says_and_where_the_file_lies() {
        const QString f = folder(), file = f + "/a.culvert";
        const auto leave = [&](const QString& path) {
            Document d;
            d.set_state_folder(f + "/state");
            d.open(path);
            d.commit(raise(d.project(), 2));
            d.journal()->settle();
        };
        Project p = testing::random_project({.pipes = 4, .seed = 3, .events = 1});
        p.catchments.change(p.catchments.begin()->id)->area = -5;  // opening warns of it
        QVERIFY(save_project(p, plain(file)).ok);
        const auto offered = [&](const QString& path) {
            Document d;
            MainWindow w(d);
            w.show();
            d.set_state_folder(f + "/state");
            if (path.isEmpty()) w.offer_recovery({});
            else w.open_file(path);
            return w.notice()->said();
        };
        leave(file);
        QVERIFY2(offered(file).contains("can be brought back") && offered(file).contains("area"),
                 qPrintable(offered(file)));
        // Through a link, and made through one.
        QVERIFY(QFile::link(file, f + "/link.culvert"));
        QVERIFY(offered(f + "/link.culvert").contains("can be brought back"));
        for (const std::string& j : journals_left(plain(f + "/state"), "")) fs::remove(j);
        leave(f + "/link.culvert");
        QVERIFY(offered(file).contains("can be brought back"));
        // After a rename, and where the file is gone.
        QVERIFY(QFile::rename(file, f + "/b.culvert"));
        QVERIFY(offered(f + "/b.culvert").contains("can be brought back"));
        QFile::remove(f + "/b.culvert");
        QVERIFY(offered({}).contains("Its file is gone"));
        // Several: one after another.
        Document never;
        never.set_state_folder(f + "/state2");
        for (int k = 0; k < 2; ++k) {
            Document d;
            d.set_state_folder(f + "/state");
            d.set_project(testing::random_project({.pipes = 3, .seed = 4, .events = 1}));
            d.commit(raise(d.project(), 1));
            d.journal()->settle();
        }
        Document d;
        MainWindow w(d);
        w.show();
        d.set_state_folder(f + "/state");
        w.offer_recovery({});
        QVERIFY2(w.notice()->said().contains("2 more after this"), qPrintable(w.notice()->said()));
        QTest::mouseClick(w.notice()->findChild<QPushButton*>("notice-throw-it-away"), Qt::LeftButton);
        QVERIFY(w.notice()->said().contains("1 more after this"));
    }
    void after_recovery_over_a_changed_file_saving_asks() {
        const QString f = folder(), file = f + "/a.culvert";
        Project p = testing::random_project({.pipes = 4, .seed = 3, .events = 1});
        QVERIFY(save_project(p, plain(file)).ok);
        {
            Document d;
            d.set_state_folder(f + "/state");
            d.open(file);
            d.commit(raise(d.project(), 2));
            d.journal()->settle();
        }
        Project others = p;
        apply(others, raise(others, 7));
        QVERIFY(save_project(others, plain(file)).ok);
        Document d;
        d.set_state_folder(f + "/state");
        d.open(file);
        const auto left = d.recoverable(file);
        QVERIFY(left.size() == 1 && left[0].file_differs);
        d.restore(left[0]);
        QVERIFY(d.save(file).contains("changed on disk"));
        QVERIFY(load_project(plain(file)).project == others);
        QVERIFY(d.save(file, true).isEmpty());
        // A file that is gone is not "changed": saving makes it anew.
        QFile::remove(file);
        QVERIFY(!d.changed_on_disk());
        d.commit(raise(d.project(), 1));
        QVERIFY(d.save(file).isEmpty());
        QVERIFY(QFile::exists(file));
    }
    void assets_of_two_unsaved_projects_are_both_kept() {
        const QString f = folder();
        const std::string ground = "calm-culvert surface 1\npoints 3\n0 0 1\n10 0 2\n0 10 3\n";
        std::string hash;
        const auto with_ground = [&](Document& d) {
            d.set_state_folder(f + "/state");
            hash = d.assets()->add(ground);
            Editing e(d.project(), "Ground");
            Surface s;
            s.id = 99;
            s.name = "ground";
            s.asset = hash;
            e.insert(s);
            d.commit(e.take());
            d.journal()->settle();
        };
        {
            Document lost;
            with_ground(lost);
        }
        Document saved;
        with_ground(saved);
        QVERIFY(saved.save(f + "/saved.culvert").isEmpty());
        // The other's ground is still in the spool when it is brought back.
        Document d;
        d.set_state_folder(f + "/state");
        auto left = d.recoverable({});
        QCOMPARE(left.size(), std::size_t{1});
        d.restore(left[0]);
        QVERIFY(d.assets()->find(hash));
        // Old content that no journal names goes; what one names, or is young, stays.
        const std::string spool = plain(f + "/state/assets");
        const std::string old = content_hash("old");
        std::ofstream(spool + "/" + old) << "old";
        sweep_spool(spool, plain(f + "/state"), 1);
        QVERIFY(fs::exists(spool + "/" + old));
        const timespec times[2] = {{1000, 0}, {1000, 0}};
        for (const std::string& name : {old, hash})
            QCOMPARE(utimensat(AT_FDCWD, (spool + "/" + name).c_str(), times, 0), 0);
        sweep_spool(spool, plain(f + "/state"), 1);
        QVERIFY(!fs::exists(spool + "/" + old));
        QVERIFY2(fs::exists(spool + "/" + hash), "the journal of the project that was brought back names it");
        // Through a link a project has its ground, and saving through it keeps the assets where the file lies.
        QDir().mkpath(f + "/elsewhere");
        QVERIFY(QFile::link(f + "/saved.culvert", f + "/elsewhere/link.culvert"));
        Document through;
        QVERIFY(through.open(f + "/elsewhere/link.culvert").isEmpty());
        QVERIFY(through.assets()->find(hash));
        QVERIFY(through.save(f + "/elsewhere/link.culvert").isEmpty());
        QVERIFY(QFileInfo(f + "/elsewhere/link.culvert").isSymLink());
        QVERIFY(!QFile::exists(f + "/elsewhere/link.culvert.assets"));
    }
    void another_project_starts_without_the_findings_of_the_last() {
        Document d;
        Project p = testing::random_project({.pipes = 4, .seed = 3, .events = 1});
        Catchment &a = *p.catchments.change(p.catchments.begin()->id), b = a;
        a.outline = {{0, 0}, {100, 0}, {100, 100}, {0, 100}};
        b.id = 777;
        b.name = "overlapping";
        b.outline = {{50, 0}, {150, 0}, {150, 100}, {50, 100}};
        p.catchments.insert(b);
        d.set_project(p);
        const auto overlap = [&d] {
            for (const Finding& f : d.data_findings())
                if (f.title == "catchments overlap") return true;
            return false;
        };
        QTRY_VERIFY(overlap());
        d.set_project(new_project(UnitSystem::Si));
        QVERIFY(!overlap() && d.data_findings().empty());
        QTest::qWait(300);
        QVERIFY2(!overlap(), "nor does a late answer bring them");
    }
    void an_import_is_taken_by_the_project_it_was_begun_in() {
        Document d;
        MainWindow w(d);
        w.show();
        GroundPanel* panel = w.drawer()->ground();
        const QString file = folder() + "/points.csv";
        {
            QFile csv(file);
            QVERIFY(csv.open(QFile::WriteOnly));
            csv.write("e,n,z\n");
            for (int i = 0; i < 20000; ++i)
                csv.write(QString("%1,%2,%3\n").arg(i % 150).arg(i / 150).arg(i % 7).toUtf8());
        }
        panel->look_at_file(file);
        QTRY_VERIFY(panel->offering());
        panel->take_as_surface();
        d.set_project(new_project(UnitSystem::Us));  // before the triangles are made
        QTRY_VERIFY_WITH_TIMEOUT(!panel->busy(), 10000);
        QVERIFY(d.project().surfaces.empty());
        QVERIFY2(panel->said().contains("Another project"), qPrintable(panel->said()));
    }
    void remedies_are_not_lost_by_looking_elsewhere() {
        Document d;
        d.open(MainWindow::example("alder-quay"), false);
        QTRY_VERIFY(d.current() && d.review());
        // Choosing pipes from before they are sought until long after the first are found stops none of them. A quick
        // machine seeks them within a few milliseconds: that they were sought is seen in what is found.
        QElapsedTimer since;
        since.start();
        while (since.elapsed() < 600)
            for (const Pipe& p : d.project().pipes) {
                d.select({{Kind::Pipe, p.id}});
                QTest::qWait(5);
            }
        QTRY_VERIFY_WITH_TIMEOUT(!d.seeking_remedies(), 20000);
        QTest::qWait(200);
        QTRY_VERIFY_WITH_TIMEOUT(!d.seeking_remedies(), 20000);
        std::vector<Finding> beyond;
        for (const Finding& f : d.review()->findings)
            if (f.check.verdict == Verdict::Beyond) beyond.push_back(f);
        QVERIFY(beyond.size() > 3);
        for (const Finding& f : beyond) QVERIFY(d.remedies_of(f));
        // Another event and back: what was found is still there.
        const EventId here = d.event();
        for (const RainEvent* e : events_in_order(d.project())) d.set_event({e->id});
        d.set_event(here);
        for (const Finding& f : beyond) QVERIFY(d.remedies_of(f));
    }
    void a_large_project_seeks_remedies_only_for_what_is_looked_at() {
        Document d;
        d.set_project(testing::sized_project(3000, 6));
        QTRY_VERIFY_WITH_TIMEOUT(!d.all_results().empty() && d.review(), 20000);
        QTest::qWait(400);
        QVERIFY(!d.seeking_remedies());
        const Finding* one = nullptr;
        for (const Finding& f : d.review()->findings)
            if (f.check.verdict == Verdict::Beyond && f.check.rule == Rule::MostFlowRatio) one = &f;
        QVERIFY(one);
        const Finding f = *one;
        d.look_at_findings("test", {f.key()});
        QTRY_VERIFY_WITH_TIMEOUT(d.remedies_of(f), 30000);
    }
    void outdated_answers_and_pending_edits() {
        Document d;
        d.set_project(testing::random_project({.pipes = 20, .seed = 5, .events = 2}));
        QTRY_VERIFY(d.current());
        d.set_solve_delay(120);
        QTRY_VERIFY(d.current());
        const std::uint64_t first = d.revision();
        d.commit(raise(d.project(), 1));
        QVERIFY(!d.current());
        d.commit(raise(d.project(), 1));
        // The first of the two solves is dropped whenever it comes; what is shown is of the last revision or the one
        // before both.
        QElapsedTimer t;
        t.start();
        while (!d.current() && t.elapsed() < 5000) {
            QTest::qWait(5);
            if (d.result()) QVERIFY(d.result()->revision == first || d.result()->revision == d.revision());
        }
        QVERIFY(d.current());
        // A pending Edit replaces the one before it: it is built on the project as it was, not on the last pending one.
        d.set_solve_delay(0);
        const double rim = d.project().structures.begin()->rim;
        const Project before = d.project();
        for (int k = 1; k <= 3; ++k) d.set_pending(raise(before, k));
        QCOMPARE(d.project().structures.begin()->rim, rim + 3);
        d.commit_pending();
        QCOMPARE(d.project().structures.begin()->rim, rim + 3);
        QCOMPARE(d.history().undo_name(), std::string("Raise"));
        d.undo();
        QVERIFY(d.project() == before);
        // One that inserts leaves nothing of its forerunners.
        for (int k = 1; k <= 3; ++k) {
            Editing e(before, "Insert");
            Structure s;
            s.name = "pending " + std::to_string(k);
            s.x = s.y = k;
            e.insert(s);
            d.set_pending(e.take());
        }
        QCOMPARE(d.project().structures.size(), before.structures.size() + 1);
        d.cancel_pending();
        QVERIFY(d.project() == before);
    }
    void variants_from_elsewhere_do_no_harm() {
        Document d;
        MainWindow w(d);
        w.show();
        w.open_file(QString(CULVERT_SOURCE) + "/tests/found/variant-choice-99-crash.culvert");
        QVERIFY(!d.base().variants.empty());
        d.activate_variant(d.base().variants.begin()->id);
        for (const Kind k : {Kind::Structure, Kind::Pipe}) {
            w.drawer()->ledger()->show_kind(k);
            w.drawer()->show_page(w.drawer()->ledger());
            w.grab();
        }
        bool named = false;
        for (const Finding& f : d.data_findings()) named |= f.title == "change that does not fit";
        QTRY_VERIFY(([&] {
            for (const Finding& f : d.data_findings()) named |= f.title == "change that does not fit";
            return named;
        })());
        // What does not fit is kept through further edits of the variant.
        d.commit(raise(d.project(), 1));
        const auto kept = read_edit(d.base().variants.begin()->changes);
        QVERIFY(kept && kept->unread.find("99") != std::string::npos);
    }
};

QTEST_MAIN(TestSafety)
#include "test_safety.moc"
