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
    /// From the lowest up, with those above it shut: no more leaves than is allowed in its event, and with a size one
    /// step larger more would. Those above stand no lower than the water of the events before.
    void each_outlet_is_the_largest_that_will_do() {
        int openings = 0, crests = 0, met = 0;
        for (int seed = 0; seed < 14; ++seed) {
            PondSite s(true, seed);
            if (seed % 3 == 1) {
                s.set(Kind::PondOutlet, s.high, "kind", static_cast<int>(OutletKind::SharpWeir));
                s.set(Kind::PondOutlet, s.high, "width", 0.4);
                for (const Release& r : std::vector<Release>(s.project.releases.begin(), s.project.releases.end()))
                    s.set(Kind::Release, r.id, "flow", r.flow > 0.1 ? 0.22 : 0.04);
            }
            for (const std::uint64_t o : {s.low, s.high}) s.set(Kind::PondOutlet, o, "to", std::uint64_t{0});
            // The upper one stands in the water of the first event before it is sized.
            if (seed % 3 == 2) s.set(Kind::PondOutlet, s.high, "level", s.project.outlets.find(s.low)->level + 0.1);
            // One event only: the upper one has none of its own, and runs as it stands.
            if (seed >= 10)
                for (const Release& r : std::vector<Release>(s.project.releases.begin(), s.project.releases.end()))
                    if (r.flow < 0.1) s.remove(Kind::Release, r.id);
            const OutletProposal p = size_outlets(s.project, s.pond);
            if (!p.why.empty()) continue;
            QCOMPARE(p.outlets.size(), std::size_t{seed >= 10 ? 1u : 2u});
            Project after = s.project;
            apply(after, p.edit);
            const auto at = [&](const Project& q, EventId event) {
                for (const SiteHydrographs& h : hydrographs_at(q, s.pond))
                    if (h.event == event) return h;
                return SiteHydrographs{};
            };
            double water = not_given;
            for (std::size_t k = 0; k < p.outlets.size(); ++k) {
                const SizedOutlet& o = p.outlets[k];
                QCOMPARE(o.size_before,
                         o.is_crest ? s.project.outlets.find(o.outlet)->width : s.project.outlets.find(o.outlet)->size);
                QCOMPARE(o.level_before, s.project.outlets.find(o.outlet)->level);
                Project q = after;
                for (std::size_t later = k + 1; later < p.outlets.size(); ++later)
                    q.outlets.erase(p.outlets[later].outlet);
                const SiteHydrographs h = at(q, o.event);
                if (k > 0) QVERIFY(o.level_after >= water - 1e-6 && o.level_after < water + 0.01 + 1e-6);
                else QCOMPARE(o.level_after, o.level_before);
                water = h.pond.level;  // the next one stands above it
                if (!o.why.empty()) continue;
                QVERIFY2(h.pond.peak_outflow <= h.allowed * (1 + 1e-6), qPrintable(QString::number(seed)));
                Editing larger(q, "");
                larger.set(Kind::PondOutlet, o.outlet, o.is_crest ? "width" : "size",
                           o.size_after + (o.is_crest ? 0.05 : 0.005));
                QVERIFY2(at(larger.now(), o.event).pond.peak_outflow > h.allowed, qPrintable(QString::number(seed)));
                ++(o.is_crest ? crests : openings);
            }
            // None runs in an event before its own: each is within what is allowed, with all of them.
            bool all = true;
            for (const SizedOutlet& o : p.outlets) all = all && o.why.empty();
            QCOMPARE(p.meets, all);
            met += all;
        }
        QVERIFY(met >= 6);
        QVERIFY2(openings >= 8 && crests >= 2, qPrintable(QString("%1 %2").arg(openings).arg(crests)));
    }
    /// One outlet answers for all events: it is as large as the strictest of them allows, alone.
    void one_outlet_answers_for_all_events() {
        int first = 0, later = 0;
        for (int seed = 0; seed < 8; ++seed) {
            PondSite s(true, seed);
            s.remove(Kind::PondOutlet, s.high);
            s.set(Kind::PondOutlet, s.low, "to", std::uint64_t{0});
            if (seed % 2)
                for (const Release& r : std::vector<Release>(s.project.releases.begin(), s.project.releases.end()))
                    s.set(Kind::Release, r.id, "flow", r.flow > 0.1 ? 0.07 : 0.06);
            const auto size = [](const PondSite& of) {
                const OutletProposal p = size_outlets(of.project, of.pond);
                return p.outlets.size() == 1 ? p.outlets[0].size_after : -1.0;
            };
            std::vector<double> alone;
            for (const RainEvent* e : events_in_order(s.project)) {
                PondSite one = s;
                for (const Release& r : s.project.releases)
                    if (r.event.value != e->id) one.remove(Kind::Release, r.id);
                if (const double d = size(one); d > 0) alone.push_back(d);
            }
            QCOMPARE(alone.size(), std::size_t{2});
            QCOMPARE(size(s), std::min(alone[0], alone[1]));
            ++(alone[0] < alone[1] ? first : later);
        }
        QVERIFY2(first > 0 && later > 0, qPrintable(QString("%1 %2").arg(first).arg(later)));
    }
    /// What is told of a place is what a solve finds there, with its releases and its pond.
    void hydrographs_tell_what_was_solved() {
        const PondSite s;
        const Results all = solve(s.project);
        for (const StructureId at : {s.head, s.pond, s.below, s.end}) {
            const auto list = hydrographs_at(s.project, at);
            QCOMPARE(list.size(), all.size());
            for (const SiteHydrographs& h : list)
                for (const auto& r : all) {
                    if (r->event != h.event) continue;
                    const NodeFlow& f = r->nodes[static_cast<std::size_t>(r->network->node_of(at))].flow;
                    QVERIFY(h.flow.flow == f.flow && h.flow.peak_time == f.peak_time && h.flow.volume == f.volume);
                    QVERIFY(f.flow > 0.01 && h.step == r->network->through_time->step);
                    QCOMPARE(std::isnan(h.pond.level), at != s.pond);
                    double allowed = not_given;
                    for (const Release& row : s.project.releases)
                        if (row.structure == at && row.event == h.event) allowed = row.flow;
                    QVERIFY(h.allowed == allowed || (std::isnan(h.allowed) && std::isnan(allowed)));
                }
        }
    }
    void what_cannot_be_sized_is_said() {
        const auto why = [](const PondSite& s, StructureId at) { return size_outlets(s.project, at).why; };
        PondSite s;
        QVERIFY(why(s, s.head).find("no pond") != std::string::npos);
        PondSite rational;
        rational.set(Kind::Settings, settings_id, "runoff_by", 0);
        QVERIFY(why(rational, rational.pond).find("no hydrographs") != std::string::npos);
        PondSite free = s;
        for (const Release& r : std::vector<Release>(free.project.releases.begin(), free.project.releases.end()))
            free.remove(Kind::Release, r.id);
        QVERIFY(why(free, free.pond).find("no release is allowed") != std::string::npos);
        PondSite pumped = s;
        for (const std::uint64_t o : {s.low, s.high}) pumped.set(Kind::PondOutlet, o, "overflow", true);
        QVERIFY(why(pumped, pumped.pond).find("no orifice and no weir") != std::string::npos);
        PondSite tight = s;
        for (const Release& r : std::vector<Release>(s.project.releases.begin(), s.project.releases.end()))
            tight.set(Kind::Release, r.id, "flow", 1e-5);
        const OutletProposal p = size_outlets(tight.project, tight.pond);
        QVERIFY(p.why.empty() && !p.meets);
        QVERIFY(p.outlets.front().why.find("smallest practical size") != std::string::npos);
        QVERIFY(std::abs(p.outlets.front().size_after - 0.05) < 1e-9);
        PondSite loose = s;
        for (const Release& r : std::vector<Release>(s.project.releases.begin(), s.project.releases.end()))
            loose.set(Kind::Release, r.id, "flow", 50.0);
        const OutletProposal wide = size_outlets(loose.project, loose.pond);
        QVERIFY(wide.meets && wide.outlets.front().why.find("largest size lets out less") != std::string::npos);
        QVERIFY(std::abs(wide.outlets.front().size_after - 3) < 1e-9);
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
