// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/design/branches.h"
#include "core/design/clash_remedies.h"
#include "core/model/edit.h"
#include "support/rain.h"

using namespace culvert;

namespace {

/// A1 … A6, 40 m apart along x, falling by 1 %, the last pipe by 6 %, well below their rims; a water main of 0.2 m
/// across at a place.
Project run(double at, double main_top, bool turned = false) {
    Project p = new_project(UnitSystem::Si);
    for (int i = 0; i < 6; ++i) {
        Structure s;
        s.id = static_cast<std::uint64_t>(i) + 1;
        s.name = "A" + std::to_string(i + 1);
        s.kind = i < 5 ? StructureKind::Manhole : StructureKind::Outfall;
        s.x = 40 * i;
        s.y = 0;
        s.rim = 103.5 - 0.43 * i;
        s.known_flow = i == 0 ? 0.02 : 0;
        p.structures.insert(s);
    }
    for (int i = 0; i < 5; ++i) {
        Pipe q;
        q.id = static_cast<std::uint64_t>(i) + 11;
        const std::uint64_t a = static_cast<std::uint64_t>(i) + 1, b = a + 1;
        q.from = {turned ? b : a};
        q.to = {turned ? a : b};
        q.size = 0.4;
        q.wall = 0.05;
        const double up = 100 - 0.43 * i;
        const double down = up - (i < 4 ? 0.4 : 2.4);
        q.invert_from = turned ? down : up;
        q.invert_to = turned ? up : down;
        p.pipes.insert(q);
    }
    p.events.insert(culvert::testing::ten_years());
    BuriedLine w;
    w.id = 21;
    w.name = "W1";
    w.kind = LineKind::Water;
    w.line = {{at, -20}, {at, 20}};
    w.levels = {main_top};
    w.size = 0.2;
    p.buried_lines.insert(w);
    for (const Clearance& c : p.clearances)
        if (c.kind == LineKind::Water) p.clearances.change(c.id)->vertical = 0.3;
    return p;
}
std::vector<Remedy> remedies(const Project& p) {
    for (const Finding& f : clash_findings(p, clashes(p)))
        if (f.check.verdict == Verdict::Beyond) return clash_remedies(p, solve(p), f);
    return {};
}

}  // namespace

/// Pipes led under or over what they meet.
class TestClashRemedies : public QObject {
    Q_OBJECT
  private slots:
    /// Whatever place is crossed and however the pipes were drawn: the clearance is kept, by no more than a few
    /// millimetres too much, the ends of the run stay, and nothing else is met.
    void the_clearance_is_kept_and_not_more() {
        int under = 0, over = 0;
        for (const double at : {50.0, 75.0, 95.0, 100.0, 130.0})
            for (const double top : {-0.25, 0.0, 0.3, 0.6, 0.85})  // over the pipe's invert there
                for (const bool turned : {false, true}) {
                    const int k = static_cast<int>(at / 40);
                    const double invert = 100 - 0.43 * k - (at - 40 * k) * 0.01;
                    const Project p = run(at, invert + top, turned);
                    const auto list = remedies(p);
                    for (const Remedy& r : list) {
                        QVERIFY(r.mends && !r.edit.empty() && r.cost >= 0);
                        const bool below = r.text.find(" under W1") != std::string::npos;
                        QVERIFY2(below || r.text.find(" over W1") != std::string::npos, r.text.c_str());
                        Project q = p;
                        apply(q, r.edit);
                        double gap = not_given;
                        bool above = false;
                        for (const Clash& c : clashes(q)) {
                            QVERIFY2(c.verdict != Verdict::Beyond, r.text.c_str());
                            if (c.other == ElementRef{Kind::BuriedLine, 21}) gap = c.vertical, above = c.other_above;
                        }
                        QCOMPARE(above, below);  // under it, the main lies above
                        QVERIFY2(gap >= 0.3 - 1e-9 && gap < 0.305,
                                 qPrintable(QString("%1: %2").arg(r.text.c_str()).arg(gap)));
                        ++(below ? under : over);
                        // What was not graded keeps its levels, and what was ends where it ended.
                        int moved = 0;
                        for (const Pipe& now : q.pipes) {
                            const Pipe& was = *p.pipes.find(now.id);
                            moved += now.invert_from != was.invert_from || now.invert_to != was.invert_to;
                        }
                        const int beside = r.text.find("one pipe beside") != std::string::npos ? 1
                                           : r.text.find("pipes beside") != std::string::npos
                                               ? std::stoi(r.text.substr(r.text.find("with ") + 5))
                                               : 0;
                        QVERIFY2(moved <= beside + 1, r.text.c_str());
                    }
                }
        qInfo("%d under, %d over", under, over);
        QVERIFY(under >= 20 && over >= 20);
    }
    /// A length that was typed is run over more or less than drawn: the place where the lines cross is where they do.
    void a_typed_length_keeps_the_place_of_the_crossing() {
        int found = 0;
        for (const double length : {30.0, 40.0, 60.0})
            for (const double at : {50.0, 70.0}) {
                Project p = run(at, 99.6);
                p.pipes.change(12)->length = length;
                for (const Remedy& r : remedies(p)) {
                    Project q = p;
                    apply(q, r.edit);
                    for (const Clash& c : clashes(q))
                        if (c.other == ElementRef{Kind::BuriedLine, 21}) {
                            ++found;
                            QVERIFY2(c.vertical >= 0.3 - 1e-9 && c.vertical < 0.305,
                                     qPrintable(QString("%1 %2: %3").arg(length).arg(at).arg(c.vertical)));
                        }
                }
            }
        QVERIFY(found >= 4);
    }
    void the_same_whatever_way_it_was_drawn() {
        for (const double at : {50.0, 95.0, 130.0}) {
            const auto a = remedies(run(at, 99.6)), b = remedies(run(at, 99.6, true));
            QCOMPARE(a.size(), b.size());
            for (std::size_t i = 0; i < a.size(); ++i) QVERIFY(std::abs(a[i].cost - b[i].cost) < 1e-6);
        }
    }
    /// The cheaper first; costs are what trenches become deeper or shallower.
    void costs_are_those_of_the_trenches() {
        int both = 0;
        for (const double at : {50.0, 75.0, 95.0, 130.0})
            for (const double top : {99.3, 99.5, 99.7}) {
                const Project p = run(at, top);
                const auto list = remedies(p);
                both += list.size() > 1;
                for (const Remedy& r : list) {
                    Project q = p;
                    apply(q, r.edit);
                    double cost = 0;
                    for (const Pipe& now : q.pipes)
                        cost += std::abs(trench_volume(q, now) - trench_volume(p, *p.pipes.find(now.id)));
                    QVERIFY2(std::abs(cost - r.cost) < 1e-6, r.text.c_str());
                    // What it cures and brings: findings of all events, and clashes.
                    const FindingKeys was = beyond_keys(p, solve(p)), is = beyond_keys(q, solve(q));
                    FindingKeys gone, added;
                    std::set_difference(was.begin(), was.end(), is.begin(), is.end(), std::back_inserter(gone));
                    std::set_difference(is.begin(), is.end(), was.begin(), was.end(), std::back_inserter(added));
                    const auto beyond = [](const Project& of) {
                        const auto all = clashes(of);
                        return std::count_if(all.begin(), all.end(),
                                             [](const Clash& c) { return c.verdict == Verdict::Beyond; });
                    };
                    QCOMPARE(r.gone, static_cast<int>(gone.size()) + static_cast<int>(beyond(p) - beyond(q)));
                    QVERIFY(r.gone >= 1);
                    QCOMPARE(r.added, static_cast<int>(added.size()));
                    QCOMPARE(r.edit.name, r.text);
                }
                for (std::size_t i = 1; i < list.size(); ++i)
                    QVERIFY(std::tuple(list[i - 1].added, -list[i - 1].gone, list[i - 1].cost) <=
                            std::tuple(list[i].added, -list[i].gone, list[i].cost));
            }
        QVERIFY(both >= 3);  // over it and under it, each by its own price
    }
    void where_nothing_clashes_there_is_no_remedy() {
        QVERIFY(remedies(run(95, 103)).empty());
        Project p = run(95, 99.5);
        const auto findings = clash_findings(p, clashes(p));
        QVERIFY(!findings.empty());
        std::stop_source stop;
        stop.request_stop();
        QVERIFY(clash_remedies(p, solve(p), findings[0], stop.get_token()).empty());
    }
};
QTEST_GUILESS_MAIN(TestClashRemedies)
#include "test_clash_remedies.moc"
