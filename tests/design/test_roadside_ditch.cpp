// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

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
    void it_is_as_deep_and_wide_as_was_asked() {
        for (const DitchAsk& ask :
             {DitchAsk{{70}, true, 0.8, 1.2, 3, 0.05}, DitchAsk{{70}, true, 0.3, 0.4, 1, 0.025}}) {
            Project p = road();
            apply(p, propose_ditch(p, ask).edit);
            QCOMPARE(p.pipes.size(), std::size_t{2});
            for (const Pipe& q : p.pipes) {
                QCOMPARE(q.size, ask.depth);
                QCOMPARE(q.width, ask.width);
                QCOMPARE(q.sides, ask.sides);
                QCOMPARE(q.roughness, ask.roughness);
                QCOMPARE(q.wall, 0.0);
                QCOMPARE(q.material, std::string("ditch"));
                QCOMPARE(q.shape, Shape::Trapezoid);
                const Structure &a = *p.structures.find(q.from.value), &b = *p.structures.find(q.to.value);
                QVERIFY(std::abs(a.rim - q.invert_from - ask.depth) < 1e-3);
                QVERIFY(std::abs(b.rim - q.invert_to - ask.depth) < 1e-3);
            }
        }
    }
    /// At any corner of the street the ditch keeps its way from both of its lines, as its ends stand off them.
    void it_keeps_its_offset_round_any_corner() {
        std::mt19937 dice(4);
        const auto some = [&](double low, double high) { return low + (high - low) * double(dice()) / 4294967296.0; };
        for (int round = 0; round < 300; ++round) {
            Project p = road();
            Street& street = *p.streets.change(70);
            street.line = {{0, 0}, {some(60, 90), 0}};
            double heading = 0;
            std::vector<double> stations{street.line[1].x};
            for (int k = 0; k < 2; ++k) {
                heading += some(-1.2, 1.2);
                const double step = some(60, 90);
                const Point at = street.line.back();
                street.line.push_back({at.x + step * std::cos(heading), at.y + step * std::sin(heading)});
                stations.push_back(stations.back() + step);
            }
            const double first = some(3, 8), last = round % 2 ? first : some(3, 8), all = stations.back();
            const bool right = dice() % 2;
            const double sign = right ? 1 : -1;
            const auto put = [&](std::uint64_t id, double station, double offset) {
                const Point at = point_at(street.line, station, sign * offset);
                Structure& s = *p.structures.change(id);
                s.x = at.x, s.y = at.y;
                s.kind = StructureKind::Manhole;
            };
            put(1, 10, first);
            put(2, all - 10, last);
            p.structures.erase(3);
            p.structures.erase(4);
            apply(p, propose_ditch(p, {{70}, right}).edit);
            const Pipe* ditch = between(p, 1, 2);
            QVERIFY(ditch);
            QCOMPARE(ditch->bends.size(), std::size_t{2});
            for (std::size_t k = 0; k < 2; ++k) {
                const double share = (stations[k] - 10) / (all - 20), off = sign * (first + share * (last - first));
                for (const std::size_t i : {k, k + 1}) {  // to the lines on both sides of the corner, right is positive
                    const Point a = street.line[i], b = street.line[i + 1], at = ditch->bends[k];
                    const double away = ((b.y - a.y) * (at.x - a.x) - (b.x - a.x) * (at.y - a.y)) / distance(a, b);
                    QVERIFY2(std::abs(away - off) < 2e-3, qPrintable(QString("%1 for %2").arg(away).arg(off)));
                }
            }
        }
    }
    /// A structure that names the street stands at it however far; another one must stand beside it.
    void who_stands_beside_the_street() {
        Project p = road();
        p.structures.change(2)->x = 100;
        p.structures.change(2)->y = -50;
        Project q = p;
        apply(q, propose_ditch(q, {{70}, true}).edit);
        QVERIFY(!between(q, 1, 2) && between(q, 1, 3));
        p.structures.change(2)->street = {70};
        q = p;
        apply(q, propose_ditch(q, {{70}, true}).edit);
        QVERIFY(!between(q, 1, 3));
        p.structures.change(2)->street = {};
        p.structures.change(2)->x = 120;
        p.structures.change(2)->y = -5;
        p.structures.change(2)->status = Status::Abandoned;
        q = p;
        apply(q, propose_ditch(q, {{70}, true}).edit);
        QVERIFY(!between(q, 1, 2) && between(q, 1, 3));
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
    /// What is joined already is left, and those below it are joined all the same.
    void a_gap_in_the_ditch_is_filled() {
        Project p = road();
        apply(p, propose_ditch(p, {{70}, true}).edit);
        p.pipes.erase(between(p, 2, 3)->id);
        const DitchProposal d = propose_ditch(p, {{70}, true});
        QCOMPARE(d.channels, 1);
        QVERIFY(std::any_of(d.remarks.begin(), d.remarks.end(),
                            [](const std::string& r) { return r == "D1 and D2 are joined already"; }));
        apply(p, d.edit);
        QVERIFY(between(p, 2, 3));
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
        Project q = road();  // two at one place, and an outfall that stands higher than its neighbour
        q.structures.change(2)->x = 20.2;
        q.structures.change(2)->kind = StructureKind::Manhole;
        q.structures.change(3)->rim = 102;
        const DitchProposal none = propose_ditch(q, {{70}, true});
        QVERIFY(none.edit.empty());
        QCOMPARE(none.remarks.size(), std::size_t{2});
        QVERIFY(none.remarks[0].find("D1 and D2 stand side by side") != std::string::npos);
        QVERIFY(none.remarks[1].find("no ditch leaves an outfall") != std::string::npos);
        for (const DitchAsk& ask :
             {DitchAsk{{70}, true, 5.1}, DitchAsk{{70}, true, 0.05}, DitchAsk{{70}, true, 0.5, 0.09},
              DitchAsk{{70}, true, 0.5, 21}, DitchAsk{{70}, true, 0.5, 0.5, -0.1}, DitchAsk{{70}, true, 0.5, 0.5, 10.1},
              DitchAsk{{70}, true, 0.5, 0.5, 2, 0.009}, DitchAsk{{70}, true, 0.5, 0.5, 2, 0.21}})
            QVERIFY(propose_ditch(road(), ask).fault.find("0.05 to 5 m") != std::string::npos);
        for (const DitchAsk& ask :
             {DitchAsk{{70}, true, 5}, DitchAsk{{70}, true, 0.5, 0.1, 0, 0.01}, DitchAsk{{70}, true, 0.5, 20, 10, 0.2}})
            QVERIFY(propose_ditch(road(), ask).fault.empty());
    }
};

QTEST_APPLESS_MAIN(TestRoadsideDitch)
#include "test_roadside_ditch.moc"
