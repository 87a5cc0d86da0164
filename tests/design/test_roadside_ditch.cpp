// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/analysis/solver.h"
#include "core/design/roadside_ditch.h"
#include "core/review/review.h"

using namespace culvert;

namespace {

/// A street with a bend; structures 5 m right of it at 20, 120 and 220 m, one on the left, an outfall at the end.
Project road() {
    Project p = new_project(UnitSystem::Si);
    Street s;
    s.id = 70;
    s.name = "Bent Lane";
    s.line = {{0, 0}, {160, 0}, {160, -140}};
    p.streets.insert(s);
    const auto add = [&](std::uint64_t id, const char* name, StructureKind kind, double x, double y, double rim) {
        Structure row;
        row.id = id;
        row.name = name;
        row.kind = kind;
        row.x = x;
        row.y = y;
        row.rim = rim;
        p.structures.insert(row);
    };
    add(1, "D1", StructureKind::Inlet, 20, -5, 101);
    add(2, "D2", StructureKind::Inlet, 120, -5, 100.2);
    add(3, "D3", StructureKind::Outfall, 155, -60, 99.6);
    add(4, "L1", StructureKind::Inlet, 60, 6, 101);
    p.structures.change(1)->known_flow = 0.2;
    RainEvent e;
    e.id = 9;
    e.name = "10 years";
    e.return_period = 10;
    e.durations = {300, 600, 3600};
    e.intensities = {3e-5, 2e-5, 1e-5};
    p.events.insert(e);
    return p;
}
const Pipe* between(const Project& p, std::uint64_t a, std::uint64_t b) {
    for (const Pipe& q : p.pipes)
        if (q.from.value == a && q.to.value == b) return &q;
    return nullptr;
}

}  // namespace

/// Ditches along streets as links of the network.
class TestRoadsideDitch : public QObject {
    Q_OBJECT
  private slots:
    void it_joins_what_stands_on_one_side() {
        Project p = road();
        const DitchProposal d = propose_ditch(p, {{70}, true});
        QVERIFY2(d.fault.empty(), d.fault.c_str());
        QCOMPARE(d.channels, 2);
        apply(p, d.edit);
        const Pipe *first = between(p, 1, 2), *second = between(p, 2, 3);
        QVERIFY(first && second && first->shape == Shape::Trapezoid && is_open(section_of(*first)));
        QCOMPARE(first->invert_from, 100.5);
        QCOMPARE(first->invert_to, 99.7);
        QCOMPARE(second->invert_to, 99.1);
        QVERIFY(first->bends.empty());
        // Round the street's corner it keeps its 5 m: its own corner stands at (155, -5).
        QCOMPARE(second->bends.size(), std::size_t{1});
        QVERIFY(std::hypot(second->bends[0].x - 155, second->bends[0].y + 5) < 1e-6);
        QVERIFY(std::abs(d.length - drawn_length(p, *first) - drawn_length(p, *second)) < 1e-9);
        QVERIFY(std::abs(d.least_slope - 0.6 / drawn_length(p, *second)) < 1e-9);
        // It carries water as any link: normal depth by Manning's equation of a trapezoid.
        const auto r = solve(p)[0];
        const int link = r->network->link_of({first->id});
        QVERIFY(link >= 0);
        const LinkFlow& f = r->links[static_cast<std::size_t>(link)].flow;
        QCOMPARE(f.flow, 0.2);
        const double y = f.normal, area = 0.5 * y + 2 * y * y, wet = 0.5 + 2 * y * std::sqrt(5.0);
        const double q = area * std::pow(area / wet, 2.0 / 3) * std::sqrt(0.8 / 100) / 0.035;
        QVERIFY2(std::abs(q - 0.2) < 1e-6, qPrintable(QString::number(q, 'f', 8)));
        for (const Finding& g : review(p, *r).findings) QVERIFY(!g.title.starts_with("cover"));
        // Once more: all are joined.
        const DitchProposal again = propose_ditch(p, {{70}, true});
        QVERIFY(again.edit.empty() && again.fault.find("joined already") != std::string::npos);
    }
    void it_runs_downhill_whatever_way_the_street_was_drawn() {
        Project p = road(), q = road();
        std::reverse(q.streets.change(70)->line.begin(), q.streets.change(70)->line.end());
        apply(p, propose_ditch(p, {{70}, true}).edit);
        apply(q, propose_ditch(q, {{70}, false}).edit);
        for (const auto& [a, b] : {std::pair{1, 2}, {2, 3}}) {
            const Pipe *x = between(p, static_cast<std::uint64_t>(a), static_cast<std::uint64_t>(b)),
                       *y = between(q, static_cast<std::uint64_t>(a), static_cast<std::uint64_t>(b));
            QVERIFY(x && y);
            QCOMPARE(x->invert_from, y->invert_from);
            QCOMPARE(x->invert_to, y->invert_to);
            QVERIFY(std::abs(drawn_length(p, *x) - drawn_length(q, *y)) < 1e-6);
        }
    }
    void a_pipe_that_comes_low_takes_the_ditch_down() {
        Project p = road();
        Pipe in;
        in.id = 50;
        in.from = {4};
        in.to = {1};
        in.invert_from = 100.4;
        in.invert_to = 100.1;
        p.pipes.insert(in);
        apply(p, propose_ditch(p, {{70}, true}).edit);
        QCOMPARE(between(p, 1, 2)->invert_from, 100.1);
        QCOMPARE(between(p, 1, 2)->invert_to, 99.7);
        // Lower still than the ditch's foot: it lies level, and the remark says why.
        Project q = road();
        in.invert_to = 99.5;
        q.pipes.insert(in);
        const DitchProposal d = propose_ditch(q, {{70}, true});
        apply(q, d.edit);
        QCOMPARE(between(q, 1, 2)->invert_from, 99.5);
        QCOMPARE(between(q, 1, 2)->invert_to, 99.5);
        QVERIFY(std::any_of(d.remarks.begin(), d.remarks.end(), [](const std::string& r) {
            return r.find("below the ditch's foot") != std::string::npos;
        }));
    }
    void what_cannot_be_is_said() {
        Project p = road();
        QVERIFY(propose_ditch(p, {{71}}).fault.find("no line") != std::string::npos);
        QVERIFY(propose_ditch(p, {{70}, false}).fault.find("one structure") != std::string::npos);
        QVERIFY(!propose_ditch(p, {{70}, true, -1}).fault.empty());
        QVERIFY(!propose_ditch(p, {{70}, true, not_given}).fault.empty());
        p.structures.change(2)->rim = not_given;
        const DitchProposal d = propose_ditch(p, {{70}, true});
        QVERIFY(d.edit.empty() && d.fault.find("rim") != std::string::npos);
    }
};

QTEST_APPLESS_MAIN(TestRoadsideDitch)
#include "test_roadside_ditch.moc"
