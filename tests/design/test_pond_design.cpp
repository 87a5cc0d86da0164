// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/analysis/solver.h"
#include "core/design/fault_remedies.h"
#include "core/design/storage_study.h"
#include "support/ponds.h"

using namespace culvert;
using testing::PondSite;

/// What a pond is designed for, and what mends one that is not routed.
class TestPondDesign : public QObject {
    Q_OBJECT
  private slots:
    void releases_are_those_of_the_site_before() {
        const PondSite before(false), after;
        const auto gave = [&](const std::string& event) {
            for (const auto& r : solve(before.project))
                if (before.project.events.find(r->event.value)->name == event)
                    return r->nodes[static_cast<std::size_t>(r->network->node_of(before.end))].flow.flow;
            return -1.0;
        };
        Project p = after.project;
        for (const Release& r : std::vector<Release>(p.releases.begin(), p.releases.end())) p.releases.erase(r.id);
        for (const double step : {0.01, 0.05, 0.0}) {  // a second time: the same rows, with other flows
            apply(p, releases_from(before.project, p, after.end, step, "before"));
            QCOMPARE(p.releases.size(), p.events.size());
            for (const RainEvent& e : p.events) {
                const Release* row = nullptr;
                for (const Release& r : p.releases)
                    if (r.event.value == e.id && r.structure == after.end) row = &r;
                QVERIFY(row && row->source == "before");
                const double q = gave(e.name);
                QVERIFY(q > 0.05);
                if (step == 0) QVERIFY(std::abs(row->flow - q) < 1e-12);
                else {  // rounded down to the step, and by less than one
                    QVERIFY(row->flow <= q && q - row->flow < step);
                    QVERIFY(std::abs(row->flow / step - std::round(row->flow / step)) < 1e-9);
                }
            }
        }
    }
    void a_pond_that_is_not_routed_has_its_remedy() {
        PondSite site;
        site.set(Kind::Settings, settings_id, "runoff_by", 0);
        const Results rational = solve(site.project);
        int mended = 0;
        for (const Fault& f : rational[0]->network->faults) {
            if (f.title != "not routed") {
                QVERIFY(fault_remedies(site.project, f).empty());
                continue;
            }
            QVERIFY(f.remedy.find("modified rational") != std::string::npos);
            const auto list = fault_remedies(site.project, f);
            QCOMPARE(list.size(), std::size_t{1});
            Project after = site.project;
            apply(after, list[0].edit);
            const Results routed = solve(after);
            QVERIFY(routed[0]->ponds[0].peak_outflow > 0);
            // Where one catchment drains to a head, its peak is the rational one.
            const Network& net = *routed[0]->network;
            int heads = 0;
            for (std::size_t e = 0; e < routed.size(); ++e)
                for (std::size_t i = 0; i < net.nodes.size(); ++i) {
                    const auto& areas = net.through_time->area_begin;
                    if (net.nodes[i].inflows > 0 || areas[i + 1] - areas[i] != 1 || net.nodes[i].known_flow != 0)
                        continue;
                    if (net.through_time->pond_of[i] >= 0) continue;
                    const int r = rational[e]->network->node_of(net.nodes[i].structure);
                    const double q = rational[e]->nodes[static_cast<std::size_t>(r)].flow.flow;
                    if (!(q > 0)) continue;
                    QVERIFY2(std::abs(routed[e]->nodes[i].flow.flow / q - 1) < 0.02,
                             qPrintable(QString("%1 for %2").arg(routed[e]->nodes[i].flow.flow).arg(q)));
                    ++heads;
                }
            QVERIFY(heads > 0);
            ++mended;
        }
        QVERIFY(mended > 0);
    }
};

QTEST_APPLESS_MAIN(TestPondDesign)
#include "test_pond_design.moc"
