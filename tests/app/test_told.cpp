// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QtTest>

#include "app/desk/document.h"
#include "support/networks.h"
#include "support/variants.h"

using namespace culvert;
using namespace culvert::app;

/// What a document tells, one word a signal, in their order. Of another project the event is told before and after its
/// rows.
class TestTold : public QObject {
    Q_OBJECT
    /// All but advice and the age of results, which come when they do.
    struct Heard : QObject {
        explicit Heard(Document& d) : document(d) {
            const auto hear = [this](auto signal, const char* word) {
                connect(&document, signal, this, [this, word] { words += word; });
            };
            connect(&d, &Document::changed, this, [this](const ChangeSet& what) {
                words += "changed";
                change = what;
            });
            connect(&d, &Document::results_changed, this, [this](const ResultsChange& what) {
                if (what.viewed) words += "viewed";
                if (what.others) words += "others";
                if (what.data) words += "data";
                all += what.others;
            });
            hear(&Document::event_changed, "event");
            hear(&Document::selection_changed, "selection");
            hear(&Document::file_changed, "file");
            hear(&Document::site_changed, "site");
            hear(&Document::journal_changed, "journal");
            connect(&d, &Document::age_changed, this, [this] { ages += document.dimmed() ? "old" : "new"; });
        }
        /// What was told until all events were solved, and then what comes by itself within a moment.
        QString settled() {
            (void)QTest::qWaitFor([this] { return all > 0; }, 10000);
            QTest::qWait(20);
            return taken();
        }
        QString taken() {
            all = 0;
            return std::exchange(words, {}).join(' ');
        }
        Document& document;
        QStringList words, ages;
        ChangeSet change;
        int all = 0;
    };
    static Edit size(const Document& d, std::uint64_t pipe, double size) {
        Editing e(d.committed(), "size");
        e.set(Kind::Pipe, pipe, "size", size);
        return e.take();
    }
    static ElementRef pipe(std::uint64_t id) { return {Kind::Pipe, id}; }

  private slots:
    void an_edit_and_a_choice_are_told_once() {
        Document d;
        Heard heard(d);
        d.set_project(testing::chain_project(5, 2));
        QCOMPARE(heard.settled().remove("site "), QString("event changed selection event file viewed others"));
        QVERIFY(d.data_findings().empty());
        const auto events = events_in_order(d.project());
        const EventId other{events[events[0]->id == d.event().value ? 1 : 0]->id};

        d.commit(size(d, 1001, 0.6));
        QCOMPARE(heard.settled(), QString("changed viewed others"));
        QVERIFY(heard.change.touches(pipe(1001)) && heard.change.rows().size() == 1);
        d.undo();
        QCOMPARE(heard.settled(), QString("changed viewed others"));
        QVERIFY(heard.change.touches(pipe(1001)) && heard.change.rows().size() == 1);
        d.jump_to(0);  // it is there
        d.commit({});
        d.undo();
        QCOMPARE(heard.taken(), QString());

        d.select({pipe(1001)});
        d.select({pipe(1001)});
        QCOMPARE(heard.taken(), QString("selection"));
        d.set_event(other);
        QCOMPARE(heard.taken(), QString("event viewed"));
        d.set_event(other);
        d.set_event(EventId{31337});
        QCOMPARE(heard.taken(), QString());
        QVERIFY(d.event() == other && d.result()->event == other);

        Editing gone(d.project(), "delete");
        gone.remove(Kind::Pipe, 1001);
        d.commit(gone.take());
        QVERIFY(heard.settled().startsWith("changed selection viewed"));
        QVERIFY(d.selection().empty());
        d.undo();
        heard.settled();
        Editing event(d.project(), "delete the event");
        event.remove(Kind::Event, other.value);
        d.commit(event.take());
        QCOMPARE(heard.settled(), QString("event changed viewed others"));
    }
    void a_pending_edit_takes_back_what_the_one_before_it_did() {
        Document d;
        d.set_project(testing::chain_project(5, 1));
        Heard heard(d);
        heard.settled();
        const auto touched = [&] {
            QString list;
            for (const std::uint64_t id : {1001, 1011, 1021})
                if (heard.change.touches(pipe(id))) list += QString(" %1").arg(id);
            return heard.taken() + list;
        };
        d.set_pending(size(d, 1001, 0.6));
        QCOMPARE(touched(), QString("changed 1001"));
        d.set_pending(size(d, 1011, 0.6));
        QCOMPARE(touched(), QString("changed 1001 1011"));
        d.set_pending(size(d, 1021, 0.6));
        QCOMPARE(touched(), QString("changed 1011 1021"));
        d.cancel_pending();
        QCOMPARE(touched(), QString("changed 1021"));
        d.cancel_pending();
        d.commit_pending();
        QCOMPARE(touched(), QString(" 1021"));  // nothing was told: it is the change of before
        d.set_pending(size(d, 1001, 0.75));
        heard.taken();
        d.commit_pending();
        QCOMPARE(touched(), QString("changed 1001"));
        QVERIFY(d.history().position() == 1 && d.project().pipes.find(1001)->size == 0.75);
        QVERIFY(d.base() == d.project() && d.committed() == d.project());
        // The next one is built on what was committed, not on what stood before.
        d.set_pending(size(d, 1011, 0.45));
        d.cancel_pending();
        QVERIFY(d.project().pipes.find(1001)->size == 0.75);
    }
    void results_that_lag_behind_are_told_old_once_and_new_once() {
        Document d;
        d.set_project(testing::chain_project(5, 1));
        Heard heard(d);
        heard.settled();
        d.set_solve_delay(600);
        QElapsedTimer since;
        since.start();
        heard.ages.clear();
        d.commit(size(d, 1001, 0.6));
        QVERIFY(!d.dimmed());
        QTRY_VERIFY(d.dimmed());
        QVERIFY(since.elapsed() >= 140 && since.elapsed() < 600);
        heard.settled();
        QCOMPARE(heard.ages, (QStringList{"old", "new"}));
        QVERIFY(!d.dimmed() && d.current());
        // What is given up stays old, and is said to be once.
        d.commit(size(d, 1001, 0.75));
        d.cancel_solve();
        QTest::qWait(500);
        QCOMPARE(heard.ages, (QStringList{"old", "new", "old"}));
        QVERIFY(d.dimmed() && !d.current());
        // Without events there is nothing to wait for.
        Editing e(d.project(), "no rain");
        for (const RainEvent& event : d.project().events) e.remove(Kind::Event, event.id);
        d.commit(e.take());
        QTRY_VERIFY(!d.dimmed());
        QVERIFY(d.current() && !d.result());
    }
    void a_variant_is_told_as_a_whole() {
        Document d;
        d.set_project(testing::chain_project(5, 1));
        d.commit(testing::new_variant(d.project()));
        Heard heard(d);
        heard.settled();
        d.activate_variant(7);
        QCOMPARE(heard.settled(), QString("changed file viewed others"));
        QVERIFY(heard.change.touches(pipe(1031)) && heard.change.touches(Kind::Street) && !heard.change.listed());
        d.activate_variant(7);
        QCOMPARE(heard.taken(), QString());
        const std::size_t position = d.history().position();
        d.commit(size(d, 1001, 0.6));
        QCOMPARE(heard.settled(), QString("changed viewed others"));
        QVERIFY(heard.change.touches(pipe(1001)) && heard.change.touches(ElementRef{Kind::Variant, 7}));
        // The same once more changes nothing.
        d.commit(size(d, 1001, 0.6));
        QCOMPARE(heard.taken(), QString());
        QCOMPARE(d.history().position(), position + 1);
        QVERIFY(d.base().pipes.find(1001)->size != 0.6 && d.as_variant(7).pipes.find(1001)->size == 0.6);
        QVERIFY(d.as_variant(0) == d.base() && d.as_variant(99) == d.base());
        d.undo();
        QVERIFY(!heard.change.listed());
        // A variant that is undone away is not shown any more.
        d.undo();
        QVERIFY(d.variant() == 0 && d.project() == d.base());
    }
    void another_project_has_nothing_of_the_one_before() {
        QTemporaryDir dir;
        Document d;
        Project first = testing::chain_project(5, 1);
        Pipe bad = *first.pipes.begin();
        bad.roughness = -1;
        *first.pipes.change(bad.id) = bad;
        d.set_project(first);
        Heard heard(d);
        heard.settled();
        QVERIFY(!d.data_findings().empty() && d.network() && d.result());
        QVERIFY(d.save(dir.filePath("first.culvert")).isEmpty());
        QCOMPARE(heard.taken(), QString("file"));
        d.commit(size(d, 1001, 0.6));
        d.undo();
        QVERIFY(d.modified() == false);
        d.commit(size(d, 1001, 0.6));
        QVERIFY(d.save(dir.filePath("first.culvert")).isEmpty());
        d.undo();
        d.commit(size(d, 1001, 0.45));  // what was saved is cut off
        d.select({pipe(1001)});
        d.set_pending(size(d, 1001, 0.9));
        const std::uint64_t generation = d.generation();
        d.set_project(testing::chain_project(4, 1));
        QVERIFY(d.data_findings().empty() && !d.network() && !d.result() && d.selection().empty());
        QVERIFY(!d.modified() && !d.has_pending() && d.path().isEmpty() && d.generation() == generation + 1);
        QVERIFY(!d.history().can_undo() && !d.history().can_redo());
        QVERIFY(d.committed() == d.project() && d.base() == d.project());
        heard.settled();
        QVERIFY(d.data_findings().empty());
        // The file is no longer marked as open.
        Document other;
        const QString said = other.open(dir.filePath("first.culvert"));
        QVERIFY2(!said.contains("open elsewhere"), qPrintable(said));
        QVERIFY(other.project().pipes.find(1001)->size == 0.6);
    }
    /// A file that is read again has the same rows: what was found in them is found again.
    void the_same_project_again_has_the_same_findings() {
        Project p = testing::chain_project(4, 1);
        for (const std::uint64_t id : {1, 2}) {
            Catchment c;
            c.id = id;
            c.name = "over";
            c.structure = {p.structures.begin()->id};
            c.area = 400;
            c.coefficient = 0.5;
            c.time = 600;
            c.outline = {{0, 0}, {20, 0}, {20, 20}, {0, 20}};
            p.catchments.insert(c);
        }
        BuriedLine gas;
        gas.id = 5;
        gas.name = "gas";
        const Structure &a = *p.structures.begin(), &b = *++p.structures.begin();
        const Point mid{(a.x + b.x) / 2, (a.y + b.y) / 2}, across{(b.y - a.y) / 2, (a.x - b.x) / 2};
        const Pipe* run = nullptr;
        for (const Pipe& pipe : p.pipes)
            if ((pipe.from.value == a.id && pipe.to.value == b.id) ||
                (pipe.to.value == a.id && pipe.from.value == b.id))
                run = &pipe;
        QVERIFY(run);
        gas.line = {{mid.x + across.x, mid.y + across.y}, {mid.x - across.x, mid.y - across.y}};
        gas.levels = {(run->invert_from + run->invert_to) / 2 + run->size / 2};
        gas.size = 0.1;
        p.buried_lines.insert(gas);
        Pipe tied = *p.pipes.begin();
        tied.tie_from = "rim - 9 m";
        *p.pipes.change(tied.id) = tied;
        const auto titles = [](const Document& d) {
            QStringList list;
            for (const Finding& f : d.data_findings()) list += QString::fromStdString(f.title);
            list.sort();
            return list;
        };
        const auto complete = [&](const Document& d) {
            const QStringList list = titles(d);
            return list.contains("catchments overlap") && list.contains("tie no longer holds") && !d.clashes().empty();
        };
        Document d;
        d.set_project(p);
        QTRY_VERIFY2(complete(d), qPrintable(titles(d).join(", ")));
        const QStringList before = titles(d);
        d.set_project(p);
        QVERIFY(titles(d).isEmpty() && d.clashes().empty());
        QTRY_VERIFY2(complete(d), qPrintable(titles(d).join(", ")));
        QTRY_COMPARE(titles(d), before);
    }
    void files_written_beside_the_work_are_told_once() {
        QTemporaryDir dir;
        Document d;
        d.set_project(testing::chain_project(5, 1));
        Heard heard(d);
        heard.settled();
        QStringList said;
        const auto done = [&](const QString& why) { said += why.left(9); };
        const auto save = [&](const QString& path) {
            said.clear();
            d.save_later(path, false, done);
            (void)QTest::qWaitFor([&] { return !said.isEmpty(); }, 5000);
            return said.join('|');
        };
        QCOMPARE(save(dir.filePath("a.culvert")), QString());
        QCOMPARE(heard.taken(), QString("file"));
        QCOMPARE(d.path(), dir.filePath("a.culvert"));
        QVERIFY(!d.changed_on_disk());
        d.commit(size(d, 1001, 0.6));
        heard.settled();
        // What hangs at the pointer is let go, and not written.
        d.set_pending(size(d, 1001, 0.9));
        QCOMPARE(save(dir.filePath("a.culvert")), QString());
        QVERIFY(!d.has_pending() && d.project().pipes.find(1001)->size == 0.6 && !d.modified());
        heard.settled();
        d.commit(size(d, 1011, 0.6));
        heard.settled();
        // One that fails leaves all as it was: nothing is being written, what is edited next is a change like others.
        QCOMPARE(save("/proc/nothing"), QString("Not saved"));
        QVERIFY(heard.taken().isEmpty() && d.modified() && d.path() == dir.filePath("a.culvert"));
        d.undo();
        QVERIFY(!d.modified());
        // A project that is opened meanwhile does not take the path, nor what was edited, of the one that is written.
        said.clear();
        d.save_later(dir.filePath("b.culvert"), false, done);
        d.set_project(testing::chain_project(3, 1));
        QTRY_COMPARE(said, QStringList(QString()));
        QVERIFY(d.path().isEmpty() && !d.modified());
        Document other;
        QVERIFY(other.open(dir.filePath("b.culvert")).isEmpty());
        QVERIFY(other.project().pipes.size() > d.project().pipes.size());
        QVERIFY(other.save(dir.filePath("b.culvert")).isEmpty());
        // Somebody else writes it.
        QFile file(dir.filePath("b.culvert"));
        QVERIFY(file.open(QIODevice::Append));
        file.write("\n\n");
        file.close();
        QVERIFY(other.changed_on_disk());
        QVERIFY(other.save(dir.filePath("b.culvert")).contains("changed on disk"));
        said.clear();
        other.save_later(dir.filePath("b.culvert"), false, done);
        QCOMPARE(said, QStringList("The file "));
        QVERIFY(other.save(dir.filePath("b.culvert"), true).isEmpty() && !other.changed_on_disk());
        QVERIFY(QFile::remove(dir.filePath("b.culvert")));
        QVERIFY(!other.changed_on_disk());
    }
    void two_issued_states_are_two() {
        QTemporaryDir dir;
        Document d;
        d.set_project(testing::chain_project(5, 1));
        Heard heard(d);
        heard.settled();
        d.issue("Tender", "first");
        QTRY_COMPARE(d.history().position(), std::size_t{1});
        d.commit(size(d, 1001, 0.6));
        d.issue("Contract", "second");
        QTRY_COMPARE(d.history().position(), std::size_t{3});
        QCOMPARE(d.project().variants.size(), std::size_t{2});
        for (const Variant& v : d.project().variants) {
            QVERIFY(v.id > 1000 && v.role == VariantRole::Issued);
            const auto state = d.issued(v);
            QVERIFY(state);
            QCOMPARE(state->pipes.find(1001)->size == 0.6, v.name == "Contract");
            QCOMPARE(v.note, std::string(v.name == "Tender" ? "first" : "second"));
        }
    }
    /// Two surfaces, 60 by 60 m, one over the other; which of them counts is a setting, which is drawn another.
    void ground_is_told_when_it_is_there() {
        const auto plane = [](double base, double per_metre) {
            SurfaceData s;
            for (int x = 0; x <= 60; x += 10)
                for (int y = 0; y <= 60; y += 10) s.points.push_back({double(x), double(y), base + per_metre * x});
            return s;
        };
        Document d;
        Project p = testing::chain_project(3, 1);
        const auto add = [&](std::uint64_t id, SurfaceRole role, const SurfaceData& data) {
            Surface s;
            s.id = id;
            s.name = std::to_string(id);
            s.role = role;
            s.asset = d.assets()->add(write_surface(data));
            p.surfaces.insert(s);
        };
        add(1, SurfaceRole::Existing, plane(10.05, 0.1));
        add(2, SurfaceRole::Finished, plane(20.1, 0.2));
        add(3, SurfaceRole::Finished, plane(90.1, 0.2));  // the first finished one counts
        Heard heard(d);
        d.set_project(p);
        QVERIFY(d.site().busy());
        QTRY_VERIFY(!d.site().busy());
        QCOMPARE(heard.words.count("site"), 1);
        heard.settled();
        QCOMPARE(d.ground_level({30, 30}), 26.1);
        QVERIFY(d.site().top() && d.site().top()->id == 2 && std::isnan(d.ground_level({-5, 30})));
        const auto set = [&](GroundFor which) {
            Editing e(d.project(), "level");
            e.set(Kind::Settings, d.project().settings().id, "level_surface", which);
            d.commit(e.take());
            return d.ground_level({30, 30});
        };
        QCOMPARE(set(GroundFor::Existing), 13.05);
        QCOMPARE(set(GroundFor::Finished), 26.1);
        QVERIFY(!d.site().busy() && heard.words.count("site") == 0);  // nothing was read again
        // Contours of what is drawn, for the view and half of it more on each side.
        d.site().want_contours(QRectF(22, 22, 16, 10), 1);
        QTRY_COMPARE(d.site().contours().size(), std::size_t{3});
        for (const SiteContours& c : d.site().contours()) {
            QVERIFY(c.box.left == 14 && c.box.right == 46 && c.box.bottom == 17 && c.box.top == 37 && c.interval == 1);
            QCOMPARE(c.lines.size(), std::size_t(c.surface == 1 ? 4 : 8));  // of the triangles from 10 to 50
            for (const Contour& l : c.lines)
                for (const Point& q : l.line) QVERIFY(q.x >= 10 - 1e-6 && q.x <= 50 + 1e-6);
        }
        const auto change = [&](auto fill) {
            heard.words.clear();
            Editing e(d.project(), "surface");
            fill(e);
            d.commit(e.take());
            (void)QTest::qWaitFor([&] { return heard.words.contains("site"); }, 5000);
            std::vector<std::uint64_t> drawn;
            for (const SiteContours& c : d.site().contours()) drawn.push_back(c.surface);
            return drawn;
        };
        QCOMPARE(change([](Editing& e) { e.set(Kind::Surface, 1, "visible", false); }),
                 (std::vector<std::uint64_t>{2, 3}));
        QCOMPARE(change([](Editing& e) { e.remove(Kind::Surface, 2); }), std::vector<std::uint64_t>{3});
        QCOMPARE(d.ground_level({30, 30}), 96.1);
        QVERIFY(d.site().top()->id == 3 && d.site().surface(1) && !d.site().surface(2));
        QCOMPARE(change([](Editing& e) { e.remove(Kind::Surface, 3); }), std::vector<std::uint64_t>{});
        QVERIFY(d.site().top()->id == 1 && std::isnan(d.ground_level({30, 30})));  // the finished one is asked for
        QCOMPARE(set(GroundFor::FinishedThenExisting), 13.05);
        QCOMPARE(change([](Editing& e) { e.remove(Kind::Surface, 1); }), std::vector<std::uint64_t>{});
        QVERIFY(!d.site().top() && d.site().surfaces().empty());
    }
};

QTEST_MAIN(TestTold)
#include "test_told.moc"
