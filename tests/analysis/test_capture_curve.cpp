// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/analysis/capture_curve.h"
#include "core/analysis/hydrograph.h"
#include "core/analysis/solver.h"
#include "core/analysis/street_flow.h"
#include "support/small_street.h"

using namespace culvert;

/// What inlets take of a flow that changes with time, against their own equations at each flow.
class TestCaptureCurve : public QObject {
    Q_OBJECT
  private slots:
    void an_inlet_takes_what_it_takes_at_each_moment() {
        // Each step by the inlet's own equations, in place of the points between which the curve is straight.
        Project p = street();
        p.settings_rows.change(settings_id)->runoff_by = RunoffBy::ModifiedRational;
        p.settings_rows.change(settings_id)->after_rain = 7200;
        const Network net = compile(p);
        const StreetConstants k = street_constants(net.edition);
        int moments = 0, unlike = 0;
        for (const RainEvent* e : events_in_order(p)) {
            EventResult r;
            static_cast<Summaries&>(r) = Summaries(net);
            set_tails(net, {e->id}, r);
            AskedSeries asked;
            for (const StreetInlet& in : net.inlets) asked.nodes.push_back(in.node);
            const auto all = solve_through_time(net, rain_of(*e), r, asked);
            for (std::size_t i = 0; i < net.inlets.size(); ++i) {
                const StreetInlet& in = net.inlets[i];
                const bool first = std::none_of(net.inlets.begin(), net.inlets.end(),
                                                [&](const StreetInlet& o) { return o.to == in.node; });
                if (!first || net.nodes[static_cast<std::size_t>(in.node)].inflows > 0) continue;
                const Series *runoff = nullptr, *inflow = nullptr;
                for (const Series& s : all) {
                    if (s.element.id != net.nodes[static_cast<std::size_t>(in.node)].structure.value) continue;
                    if (s.key == "runoff") runoff = &s;
                    if (s.key == "inflow") inflow = &s;
                }
                QVERIFY(runoff && inflow);
                const double largest = r.streets[i].flow,
                             known = net.nodes[static_cast<std::size_t>(in.node)].known_flow;
                for (std::size_t t = 0; t < runoff->values.size(); ++t) {
                    StreetFlow street;
                    const double q = runoff->values[t] + known;
                    const double takes = in.end == PathEnd::Nowhere ? q : q > 0 ? taken_by(in, q, k, street) : 0;
                    QVERIFY2(std::abs(inflow->values[t] - takes) < 1.1e-3 * largest,
                             qPrintable(QString("%1 of %2: %3").arg(inflow->values[t]).arg(q).arg(takes)));
                    ++moments;
                    unlike += std::abs(takes - q * r.streets[i].efficiency) > 0.02 * largest;
                }
            }
        }
        QVERIFY(moments > 100);
        QVERIFY2(unlike > 10, "a share that held for the largest flow would be seen");
    }
    /// In a sag all is taken until the water stands at the crest, and no more than that beyond it.
    void a_sag_takes_to_its_crest_and_no_more() {
        const Network net = compile(with(street(), Kind::Structure, 1, "inlet_place", InletPlace::Sag));
        const StreetConstants k = street_constants(net.edition);
        int sags = 0;
        for (StreetInlet in : net.inlets) {
            if (!in.sag) continue;
            in.end = PathEnd::Structure;
            in.crest = 0.06;
            StreetFlow at_crest;
            double largest = 0.5;
            const double most = taken_by(in, largest, k, at_crest);
            QVERIFY(most > 0 && most < largest);
            const CaptureCurve c = capture_curve(in, largest, k);
            for (const double share : {0.1, 0.5, 0.99, 1.01, 1.5}) {
                StreetFlow street;
                const double q = std::min(share * most, largest);
                QVERIFY(std::abs(c.at(q) - taken_by(in, q, k, street)) < 1e-9 * largest + 1e-6 * most);
            }
            QVERIFY(std::abs(c.at(largest) - most) < 1e-12);
            ++sags;
        }
        QVERIFY(sags > 0);
    }
};

QTEST_APPLESS_MAIN(TestCaptureCurve)
#include "test_capture_curve.moc"
