// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/analysis/solver.h"
#include "core/review/review.h"
#include "support/ponds.h"

using namespace culvert;
using culvert::testing::PondSite;

/// Where pipes end in a pond, and what is said of water that goes round it.
class TestStorageFindings : public QObject {
    Q_OBJECT
    /// Another outfall, beside the site.
    static StructureId second_end(PondSite& s) {
        Structure end;
        end.id = 900;
        end.name = "E2";
        end.kind = StructureKind::Outfall;
        end.x = 80;
        end.y = 90;
        end.rim = 45;
        s.insert(end);
        return StructureId{end.id};
    }

  private slots:
    /// Water that parts is said where its ways do not meet again above a pond or an outfall; not where they do.
    void water_that_parts_above_a_pond_is_said() {
        const auto a2 = [](const PondSite& s) { return StructureId{s.head.value + 1}; };
        /// A second pipe from A2, to an outfall of its own or to a structure.
        const auto with_pipe = [&](StructureId to, double down) {
            PondSite s;
            if (!to.value) to = second_end(s);
            s.insert(PondSite::pipe_of(901, a2(s), to, 42.9, down, 0.6));
            return s;
        };
        const auto flow_in = [](const EventResult& r, std::uint64_t pipe) {
            return r.links[static_cast<std::size_t>(r.network->link_of(PipeId{pipe}))].flow.flow;
        };
        const auto aside = [](const PondSite& s) {
            const auto r = solve(s.project)[0];
            for (const Finding& f : review(s.project, *r).findings)
                if (f.check.rule == Rule::PartsBeforePond) return f.check.value;
            return 0.0;
        };
        const PondSite site, away = with_pipe({}, 42.0);
        const StructureId a3{site.head.value + 2};
        const auto r = solve(away.project)[0];
        QVERIFY(flow_in(*r, 901) > 0.01 && r->ponds[0].peak_inflow > 0.01);  // both get water
        QVERIFY(aside(away) > 0.01);
        QCOMPARE(aside(with_pipe(a3, 42.1)), 0.0);
        QCOMPARE(aside(with_pipe(site.pond, 41.4)), 0.0);    // both end in the pond
        QVERIFY(aside(with_pipe(site.below, 39.8)) > 0.01);  // round the pond
        PondSite led_on = with_pipe(site.below, 39.8);       // the pond too is led on by a pipe
        led_on.insert(PondSite::pipe_of(902, led_on.pond, led_on.below, 40.0, 39.8, 0.3));
        QVERIFY(aside(led_on) > 0.01);
        // Drawn the other way it is the same.
        const auto turned = [](PondSite s) {
            Pipe p = *s.project.pipes.find(901);
            s.remove(Kind::Pipe, 901);
            std::swap(p.from, p.to);
            std::swap(p.invert_from, p.invert_to);
            s.insert(p);
            return s;
        };
        for (const PondSite& s : {away, with_pipe(a3, 42.1), with_pipe(site.pond, 41.4), with_pipe(site.below, 39.8)})
            QCOMPARE(aside(turned(s)), aside(s));
        PondSite rational = away;
        rational.set(Kind::Settings, settings_id, "runoff_by", 0);
        QCOMPARE(aside(rational), 0.0);
    }
    /// Whether pipes end in a pond is told by their levels, its outlets, and anew after each edit.
    void pipes_that_fall_to_a_pond_end_there() {
        PondSite s;
        const StructureId end = second_end(s);
        s.insert(PondSite::pipe_of(901, StructureId{s.head.value + 1}, end, 42.9, 42.0, 0.6));
        std::uint64_t last = 0;
        for (const Pipe& p : s.project.pipes)
            if (p.to == s.pond) last = p.id;
        for (const bool through_time : {true, false}) {
            s.set(Kind::Settings, settings_id, "runoff_by", through_time ? 1 : 0);
            Solver warm;
            std::uint64_t revision = 0;
            const auto ends = [&] {
                const Results kept = warm.solve(s.project, ++revision), cold = solve(s.project);
                const Network &a = *kept[0]->network, &b = *cold[0]->network;
                const Link &l = a.links[static_cast<std::size_t>(a.link_of(PipeId{last}))],
                           &c = b.links[static_cast<std::size_t>(b.link_of(PipeId{last}))];
                if (l.from != c.from || l.to != c.to) return -1;
                return a.nodes[static_cast<std::size_t>(l.to)].structure == s.pond ? 1 : 0;
            };
            QCOMPARE(ends(), 1);
            s.set(Kind::Pipe, last, "invert_to", 42.3);  // it rises to the pond: its water comes from there
            QCOMPARE(ends(), 0);
            s.set(Kind::Pipe, last, "invert_to", 41.4);
            QCOMPARE(ends(), 1);
            PondSite none = s;
            std::swap(none.project, s.project);
            for (const std::uint64_t o : {s.low, s.high, s.spill}) s.remove(Kind::PondOutlet, o);
            QCOMPARE(ends(), 0);
            s.second_pond();  // with outlets: they are not this pond's
            QCOMPARE(ends(), 0);
            std::swap(none.project, s.project);
            QCOMPARE(ends(), 1);
        }
    }
    /// Of the water that came a millionth may be missing, by rounding; more is said, with the numbers.
    void water_that_is_lost_is_said() {
        const PondSite s;
        EventResult r = *solve(s.project)[0];
        const double came = r.balance.runoff + r.balance.known;
        QVERIFY(came > 10);
        const auto said = [&](double share) {
            EventResult odd = r;
            odd.balance.left += share * came + r.balance.error();
            for (const Finding& f : review(s.project, odd).findings)
                if (f.check.rule == Rule::WaterLost) return f.detail;
            return std::string();
        };
        QCOMPARE(said(0), std::string());
        QCOMPARE(said(0.8e-6), std::string());
        QCOMPARE(said(-0.8e-6), std::string());
        const UnitSet units = units_of(s.project);
        for (const double share : {0.01, -0.01})
            QCOMPARE(said(share), units.text(0.01 * came, Quantity::Volume) + " of " +
                                      units.text(came, Quantity::Volume) + " are not accounted for");
        QVERIFY(!said(1.2e-6).empty() && !said(-1.2e-6).empty());
    }
};

QTEST_APPLESS_MAIN(TestStorageFindings)
#include "test_storage_findings.moc"
