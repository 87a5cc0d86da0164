// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QSignalSpy>
#include <QtTest>
#include <set>

#include "app/desk/document.h"
#include "app/window/main_window.h"
#include "support/networks.h"
#include "support/variants.h"

using namespace culvert;
using namespace culvert::app;

/// The document without a window: revisions, pending Edits, history, advice, stale and outdated results.
class TestDocument : public QObject {
    Q_OBJECT
    static void settle(Document& d) {
        QTRY_VERIFY_WITH_TIMEOUT(d.current() && (d.project().events.empty() || !d.all_results().empty()), 5000);
    }
    static Edit larger(const Document& d) { return step_size(d.project(), {d.project().pipes.begin()->id}, +1); }

  private slots:
    void results_know_their_revision() {
        Document d;
        d.set_project(testing::random_project({.pipes = 60, .seed = 3, .events = 3}));
        QVERIFY(!d.current());
        settle(d);
        for (const auto& r : d.all_results()) QCOMPARE(r->revision, d.revision());
        const std::uint64_t before = d.revision();
        d.commit(larger(d));
        QVERIFY(d.revision() > before && !d.current());
        QVERIFY(d.result());  // the last good one stays
        QCOMPARE(d.result()->revision, before);
        QVERIFY(d.all_results().empty());
        settle(d);
    }
    void the_answer_is_that_of_a_solve_from_nothing() {
        Document d;
        d.set_project(testing::random_project({.pipes = 80, .seed = 5, .events = 2}));
        std::mt19937 random(3);
        for (int i = 0; i < 25; ++i) {
            auto row = d.project().pipes.begin();
            for (std::size_t k = random() % d.project().pipes.size(); k > 0; --k) ++row;
            const std::uint64_t id = row->id;
            if (random() % 4 == 0 && d.history().can_undo()) d.undo();
            else d.commit(step_size(d.project(), {id}, random() % 2 ? +1 : -1));
            if (random() % 3) continue;  // edits come faster than results
            settle(d);
            const Results warm = d.all_results(), cold = solve(d.project());
            for (std::size_t e = 0; e < cold.size(); ++e)
                for (std::size_t n = 0; n < cold[e]->nodes.size(); ++n) {
                    QCOMPARE(warm[e]->nodes[n].flow.flow, cold[e]->nodes[n].flow.flow);
                    const double a = warm[e]->nodes[n].level.level, b = cold[e]->nodes[n].level.level;
                    QVERIFY(a == b || (std::isnan(a) && std::isnan(b)));
                }
        }
    }
    /// One step back and one forth, each of one Edit, however many there are.
    void undo_and_redo_go_one_step() {
        Document d;
        d.set_project(testing::random_project({.pipes = 10, .seed = 3}));
        std::vector<Project> states{d.project()};
        for (int i = 0; i < 4; ++i) {
            d.commit(larger(d));
            states.push_back(d.project());
        }
        std::size_t at = 4;
        const auto go = [&](bool forth) {
            forth ? d.redo() : d.undo();
            if (forth ? at + 1 < states.size() : at > 0) forth ? ++at : --at;
            QVERIFY(d.project() == states[at] && d.history().position() == at);
        };
        for (const bool forth :
             {false, false, false, true, false, true, true, true, true, false, false, false, false, false, true})
            go(forth);
    }
    void a_pending_edit_is_replaced_committed_or_dropped() {
        Document d;
        d.set_project(testing::random_project({.pipes = 10, .seed = 1}));
        const Project before = d.project();
        const std::uint64_t id = before.pipes.begin()->id;
        for (const double invert : {101.0, 102.0, 103.0}) {
            Editing e(before, "drag");
            e.set(Kind::Pipe, id, "invert_from", invert);
            d.set_pending(e.take());
            QCOMPARE(d.project().pipes.find(id)->invert_from, invert);
        }
        QVERIFY(d.has_pending());
        QVERIFY(!d.history().can_undo());
        d.cancel_pending();
        QVERIFY(d.project() == before);
        Editing e(before, "drag");
        e.set(Kind::Pipe, id, "invert_from", 104.0);
        d.set_pending(e.take());
        d.commit_pending();
        QVERIFY(!d.has_pending());
        QCOMPARE(d.history().position(), std::size_t{1});
        d.undo();
        QVERIFY(d.project() == before);
        // A commit in the middle of a drag drops the drag, not the commit.
        Editing f(before, "drag");
        f.set(Kind::Pipe, id, "invert_from", 105.0);
        d.set_pending(f.take());
        Editing g(before, "typed");
        g.set(Kind::Pipe, id, "note", std::string("kept"));
        d.commit(g.take());
        QCOMPARE(d.project().pipes.find(id)->invert_from, before.pipes.find(id)->invert_from);
        QCOMPARE(d.project().pipes.find(id)->note, std::string("kept"));
        // An empty Edit is none.
        d.commit({});
        QCOMPARE(d.history().position(), std::size_t{1});
        // A save drops what is pending: what is on the screen is what the file holds.
        Editing h(d.project(), "drag");
        h.set(Kind::Pipe, id, "invert_from", 106.0);
        d.set_pending(h.take());
        QTemporaryDir folder;
        QVERIFY(d.save(folder.filePath("a.culvert")).isEmpty());
        QVERIFY(!d.has_pending() && d.project().pipes.find(id)->invert_from == before.pipes.find(id)->invert_from);
    }
    /// What a file says wrong is told with its line and column, the first line too; the project on screen stays.
    void a_broken_file_says_its_line() {
        QTemporaryDir dir;
        Document d;
        d.set_project(testing::random_project({.pipes = 5, .seed = 1}));
        settle(d);
        const Project before = d.project();
        for (const int line : {1, 3}) {
            const QString path = dir.filePath(QString("broken%1.culvert").arg(line));
            QFile f(path);
            QVERIFY(f.open(QIODevice::WriteOnly));
            f.write(QByteArray("{\n").repeated(line == 1 ? 0 : 1) + QByteArray(line == 1 ? "" : "\n") + "nonsense\n");
            f.close();
            const QString said = d.open(path);
            QVERIFY2(said.contains(QString("broken%1.culvert, line %1, column ").arg(line)), qPrintable(said));
            QVERIFY(d.project() == before);
        }
    }
    void modified_follows_the_saved_state() {
        QTemporaryDir dir;
        const QString path = dir.path() + "/a.culvert";
        Document d;
        d.set_project(testing::random_project({.pipes = 10, .seed = 1}));
        QVERIFY(!d.modified());
        d.commit(larger(d));
        QVERIFY(d.modified());
        QVERIFY(d.save(path).isEmpty());
        QVERIFY(!d.modified());
        d.undo();
        QVERIFY(d.modified());
        d.redo();
        QVERIFY(!d.modified());
        d.undo();
        d.commit(
            step_size(d.project(), {d.project().pipes.begin()->id}, -1));  // the saved state is on a branch cut off
        QVERIFY(d.modified());
        QVERIFY(d.save("/proc/nothing").startsWith("Not saved"));
        QVERIFY(d.modified());
        // Reopened: the same project; opening what cannot be read changes nothing.
        QVERIFY(d.save(path).isEmpty());
        const Project saved = d.project();
        Document other;
        (void)other.open(path);  // it says that it is open here; it opens all the same
        QVERIFY(other.project() == saved);
        QVERIFY(!other.open(dir.path()).isEmpty());
        QVERIFY(other.project() == saved);
    }
    void deleting_what_is_selected_or_viewed() {
        Document d;
        d.set_project(testing::random_project({.pipes = 20, .seed = 4, .events = 3}));
        settle(d);
        const std::uint64_t pipe = d.project().pipes.begin()->id;
        d.select({{Kind::Pipe, pipe}});
        Editing e(d.project(), "delete");
        e.remove(Kind::Pipe, pipe);
        d.commit(e.take());
        QVERIFY(d.selection().empty());
        const EventId viewed = d.event();
        Editing f(d.project(), "delete the event");
        f.remove(Kind::Event, viewed.value);
        d.commit(f.take());
        QVERIFY(d.event() != viewed && d.project().events.find(d.event().value));
        settle(d);
        QCOMPARE(d.all_results().size(), std::size_t{2});
        for (const std::uint64_t id : {d.project().events.begin()->id, (++d.project().events.begin())->id}) {
            Editing g(d.project(), "delete the event");
            g.remove(Kind::Event, id);
            d.commit(g.take());
        }
        QVERIFY(d.project().events.empty() && d.current() && !d.result());
    }
    void advice_comes_for_the_present_revision_only() {
        Document d;
        QVERIFY(d.open(MainWindow::example("alder-quay"), false).isEmpty());
        settle(d);
        d.select({find_element(d.project(), "A6–A7")});
        QTRY_VERIFY_WITH_TIMEOUT(!d.ladder().empty(), 5000);
        int present = 0;
        for (const LadderStep& s : d.ladder()) present += s.present && s.size->size == 0.675;
        QCOMPARE(present, 1);
        QTRY_VERIFY_WITH_TIMEOUT(d.remedies_of(d.review()->findings[0]) != nullptr, 8000);
        d.commit(step_size(d.project(), {d.selected().id}, +1));
        QVERIFY(d.ladder().empty());
        QTRY_VERIFY_WITH_TIMEOUT(!d.ladder().empty(), 5000);
        for (const LadderStep& s : d.ladder()) QVERIFY(!s.present || s.size->size == 0.75);
    }
    void the_proposal_is_made_in_the_background() {
        Document d;
        (void)d.open(MainWindow::example("alder-quay"), false);
        settle(d);
        std::shared_ptr<const SizeProposal> got;
        connect(&d, &Document::proposed, this, [&](const std::shared_ptr<const SizeProposal>& p) { got = p; });
        d.propose_sizes();
        QVERIFY(!got);
        QTRY_VERIFY_WITH_TIMEOUT(got != nullptr, 5000);
        QCOMPARE(got->rows.size(), std::size_t{15});
        QCOMPARE(got->beyond_after, 0);
    }
    /// Levels that stand elsewhere than their tie puts them; also to ground that is read after the project.
    void a_tie_that_no_longer_holds_is_said() {
        const auto said = [](const Document& d) {
            return std::count_if(d.data_findings().begin(), d.data_findings().end(),
                                 [](const Finding& f) { return f.title == "tie no longer holds"; });
        };
        Document d;
        (void)d.open(MainWindow::example("alder-quay"), false);
        settle(d);
        const auto tie = [&](const char* words) {
            Editing e(d.project(), "tie");
            e.set(Kind::Pipe, find_element(d.project(), "B1-B2").id, "tie_from", std::string(words));
            d.commit(e.take());
        };
        tie("rim - 3 m");
        QTRY_COMPARE_WITH_TIMEOUT(said(d), 1, 5000);
        d.undo();
        QTRY_COMPARE_WITH_TIMEOUT(said(d), 0, 5000);
        tie("ground - 4 m");
        QTRY_COMPARE_WITH_TIMEOUT(said(d), 1, 5000);
        QTemporaryDir folder;
        QVERIFY(d.save(folder.filePath("tied.culvert")).isEmpty());
        Document other;
        QVERIFY(other.open(folder.filePath("tied.culvert"), false).isEmpty());
        QTRY_COMPARE_WITH_TIMEOUT(said(other), 1, 10000);
    }
    /// What is found in the background comes and goes with the edits, and says where, what and what to do.
    void outlines_and_crossings_are_looked_at_after_every_edit() {
        Document d;
        Project p = testing::chain_project(4, 1);
        const auto square = [](double x, double y, double w, double h) {
            return std::vector<Point>{{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}};
        };
        // Four about a hole of 20 by 20 m.
        const std::vector<std::vector<Point>> outlines{square(0, 0, 60, 20), square(0, 40, 60, 20),
                                                       square(0, 20, 20, 20), square(40, 20, 20, 20)};
        for (std::size_t i = 0; i < outlines.size(); ++i) {
            Catchment c;
            c.id = 7000 + i;
            c.name = "L" + std::to_string(i);
            c.structure = {p.structures.begin()->id};
            c.area = 1000;
            c.coefficient = 0.5;
            c.time = 600;
            c.outline = outlines[i];
            p.catchments.insert(c);
        }
        d.set_project(p);
        settle(d);
        const auto found = [&](const char* title) -> const Finding* {
            for (const Finding& f : d.data_findings())
                if (f.title == title) return &f;
            return nullptr;
        };
        QTRY_VERIFY_WITH_TIMEOUT(found("gap between catchments"), 5000);
        const Finding gap = *found("gap between catchments");
        QVERIFY2(gap.detail.find(units_of(p).text(400, Quantity::Area)) != std::string::npos && !gap.remedy.empty() &&
                     gap.field == "outline",
                 gap.detail.c_str());
        QVERIFY(gap.element.kind == Kind::Catchment && gap.check.verdict == Verdict::Near);
        Editing e(d.project(), "fill it");
        e.set(Kind::Catchment, 7003, "outline", square(15, 20, 45, 20));
        d.commit(e.take());
        QTRY_VERIFY_WITH_TIMEOUT(!found("gap between catchments") && found("catchments overlap"), 5000);
        QVERIFY(found("catchments overlap")->detail.find(units_of(p).text(100, Quantity::Area)) != std::string::npos);
        QVERIFY(!found("catchments overlap")->remedy.empty());
        d.undo();
        QTRY_VERIFY_WITH_TIMEOUT(found("gap between catchments") && !found("catchments overlap"), 5000);
        // A water main through a pipe, laid by an edit, and taken away by another.
        const Pipe& pipe = *d.project().pipes.begin();
        const Structure &a = *d.project().structures.find(pipe.from.value),
                        &b = *d.project().structures.find(pipe.to.value);
        const Point middle{(a.x + b.x) / 2, (a.y + b.y) / 2}, across{-(b.y - a.y) / 4, (b.x - a.x) / 4};
        BuriedLine main;
        main.id = 8000;
        main.name = "W1";
        main.line = {{middle.x - across.x, middle.y - across.y}, {middle.x + across.x, middle.y + across.y}};
        main.levels = {(pipe.invert_from + pipe.invert_to) / 2 + 0.1};
        Editing lay(d.project(), "a main");
        lay.insert(main);
        d.commit(lay.take());
        const auto clash = [&] {
            return std::any_of(d.clashes().begin(), d.clashes().end(),
                               [](const Clash& c) { return c.verdict == Verdict::Beyond; });
        };
        QTRY_VERIFY_WITH_TIMEOUT(clash(), 5000);
        Editing away(d.project(), "moved");
        away.set(Kind::BuriedLine, 8000, "line", std::vector<Point>{{-500, -500}, {-400, -500}});
        d.commit(away.take());
        QTRY_VERIFY_WITH_TIMEOUT(!clash(), 5000);
        // Another project has none of these, also where its catchments are the same rows.
        d.set_project(new_project(UnitSystem::Si));
        QVERIFY(!found("gap between catchments"));
        d.set_project(p);
        QTRY_VERIFY_WITH_TIMEOUT(found("gap between catchments"), 5000);
    }
    /// A row that the variant deleted and the base changed: said as such; of a field, all three values.
    void conflicts_say_what_each_did() {
        for (const bool whole : {true, false}) {
            Document d;
            d.set_project(testing::chain_project(4, 1));
            d.commit(testing::new_variant(d.project(), 7, "Other"));
            d.activate_variant(7);
            Editing mine(d.project(), "mine");
            if (whole) mine.remove(Kind::Pipe, 1001);
            else mine.set(Kind::Pipe, 1001, "size", 0.9);
            d.commit(mine.take());
            d.activate_variant(0);
            const std::string was = UnitSet().text(d.project().pipes.find(1001)->size, Quantity::Size);
            Editing base(d.project(), "base");
            base.set(Kind::Pipe, 1001, "size", 0.6);
            d.commit(base.take());
            d.activate_variant(7);
            QCOMPARE(d.conflicts().size(), std::size_t{1});
            const auto said = [&]() -> const Finding* {
                for (const Finding& f : d.data_findings())
                    if (f.title == "variant and base differ") return &f;
                return nullptr;
            };
            QTRY_VERIFY_WITH_TIMEOUT(said(), 5000);
            const std::string detail = said()->detail;
            QCOMPARE(detail == "one of them deleted it and the other changed it", whole);
            if (whole) continue;
            for (const std::string& word : {was, std::string("900 mm"), std::string("600 mm")})
                QVERIFY2(detail.find(word) != std::string::npos, detail.c_str());
            QVERIFY(said()->field == "size" && said()->element == (ElementRef{Kind::Pipe, 1001}));
        }
    }
    /// All above or below what is selected; of a pipe what lies below its lower end.
    void what_lies_above_and_below_is_selected() {
        Document d;
        d.set_project(testing::chain_project(5, 1));
        settle(d);
        const Network net = compile(d.project());
        std::vector<int> chain;  // nodes down the water
        for (int i = 0; i < static_cast<int>(net.nodes.size()); ++i)
            if (net.nodes[static_cast<std::size_t>(i)].inflows == 0)
                for (int n = i; n != no_node; n = net.nodes[static_cast<std::size_t>(n)].down) chain.push_back(n);
        QCOMPARE(chain.size(), net.nodes.size());
        const auto structure = [&](std::size_t k) {
            return ElementRef{Kind::Structure, net.nodes[static_cast<std::size_t>(chain[k])].structure.value};
        };
        const auto pipe = [&](std::size_t k) {
            return ElementRef{
                Kind::Pipe,
                net.links[static_cast<std::size_t>(net.nodes[static_cast<std::size_t>(chain[k])].out)].pipe.value};
        };
        const auto chosen = [&](ElementRef from, bool above) {
            d.select({from});
            d.select_reach(above);
            std::set<std::uint64_t> ids;
            for (const ElementRef e : d.selection())
                if (e.kind == Kind::Structure) ids.insert(e.id);
            return ids;
        };
        using Ids = std::set<std::uint64_t>;
        QVERIFY(
            (chosen(structure(3), true) == Ids{structure(0).id, structure(1).id, structure(2).id, structure(3).id}));
        QVERIFY((chosen(pipe(3), false) == Ids{structure(4).id, structure(5).id}));
        QVERIFY((chosen(pipe(1), true) == Ids{structure(0).id, structure(1).id}));
        QVERIFY((chosen(structure(4), false) == Ids{structure(4).id, structure(5).id}));
    }
    /// Content that the disk does not take, beside a journal that it does: said at once, until it is saved.
    void an_import_that_is_in_memory_only_is_said() {
        QTemporaryDir folder;
        Document d;
        d.set_state_folder(folder.filePath("state"));
        d.set_project(testing::chain_project(4, 1));
        const auto import = [&](std::uint64_t id, const std::string& bytes) {
            Surface row;
            row.id = id;
            row.name = "ground " + std::to_string(id);
            row.asset = d.assets()->add(bytes);
            Editing e(d.project(), "Import");
            e.insert(row);
            d.commit(e.take());
        };
        import(71, "calm-culvert surface 1\npoints 1\n0 0 1\n");
        QCOMPARE(d.journal_trouble(), QString());
        QDir(folder.filePath("state/assets")).removeRecursively();
        QFile block(folder.filePath("state/assets"));  // a file where the folder should be
        QVERIFY(block.open(QIODevice::WriteOnly));
        import(72, "calm-culvert surface 1\npoints 1\n0 0 2\n");
        QVERIFY2(d.journal_trouble().contains("in memory only"), qPrintable(d.journal_trouble()));
        QVERIFY(d.journal_trouble().contains("Save soon"));
        QVERIFY(d.save(folder.filePath("safe.culvert")).isEmpty());
        QCOMPARE(d.journal_trouble(), QString());
        // Another project has lost nothing.
        import(73, "calm-culvert surface 1\npoints 1\n0 0 3\n");
        QVERIFY(!d.journal_trouble().isEmpty());
        d.set_project(testing::chain_project(4, 1));
        d.commit(larger(d));
        QCOMPARE(d.journal_trouble(), QString());
        Document again;
        QVERIFY(again.open(folder.filePath("safe.culvert"), false).isEmpty());
        for (const Surface& s : again.project().surfaces) QVERIFY(s.id == 71 || again.assets()->find(s.asset));
    }
    void walking_meets_every_element_of_a_run() {
        Document d;
        (void)d.open(MainWindow::example("alder-quay"), false);
        settle(d);
        d.select({find_element(d.project(), "B1")});
        QStringList names;
        for (int i = 0; i < 40; ++i) {
            names << QString::fromStdString(element_name(d.project(), d.selected().kind, d.selected().id));
            const ElementRef before = d.selected();
            d.walk(false);
            if (d.selected() == before) break;
        }
        QCOMPARE(names.first(), QString("B1"));
        QCOMPARE(names.last(), QString("A8"));
        QCOMPARE(names.size(), 17);
        d.select({find_element(d.project(), "A3")});
        d.walk(true);  // upstream: the larger flow
        QVERIFY(d.selected() == find_element(d.project(), "A2–A3"));
    }
    void many_edits_in_a_row_end_at_the_last() {
        Document d;
        d.set_project(testing::random_project({.pipes = 300, .seed = 6, .events = 6}));
        for (int i = 0; i < 60; ++i) d.commit(step_size(d.project(), {d.project().pipes.begin()->id}, i % 2 ? -1 : +1));
        settle(d);
        QCOMPARE(d.result()->revision, d.revision());
        QCOMPARE(d.history().position(), std::size_t{60});
    }
};
QTEST_MAIN(TestDocument)
#include "test_document.moc"
