// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/analysis/solver.h"
#include "core/analysis/street_water.h"
#include "support/streets.h"

using namespace culvert;
using culvert::testing::street_project;

/// Water along the curbs: at each inlet it is what was solved there, between them it runs downhill and grows.
class TestStreetWater : public QObject {
    Q_OBJECT
    static StreetProfile profile(const Street& s) {
        StreetProfile out;
        for (std::size_t i = 0; i < s.stations.size(); ++i) out.push_back({s.stations[i], s.levels[i]});
        return out;
    }

  private slots:
    void it_ends_at_the_inlet_with_its_flow() {
        int reaches = 0, whole = 0, sags = 0;
        for (unsigned seed = 1; seed <= 20; ++seed) {
            const Project p = street_project({3, 12, seed});
            for (const auto& r : solve(p)) {
                const StreetWater water(p, *r, profile);
                for (const Street& street : p.streets)
                    for (const StreetReach& reach : water.of({street.id})) {
                        const Structure& s = *p.structures.find(reach.inlet.value);
                        const int i =
                            r->network->nodes[static_cast<std::size_t>(r->network->node_of(reach.inlet))].inlet;
                        const StreetFlow& f = r->streets[static_cast<std::size_t>(i)];
                        const StreetInlet& in = r->network->inlets[static_cast<std::size_t>(i)];
                        QVERIFY(s.street.value == street.id && reach.side == 1);
                        QVERIFY(std::abs(reach.points.back().station - s.station) < 1e-9);
                        // By the rational method less may arrive than passed above: it comes later, in weaker rain.
                        QVERIFY(reach.points.back().flow <= std::max(f.flow, reach.points.front().flow) * (1 + 1e-12));
                        // Its water comes down to it, and does not shrink.
                        QVERIFY(level_at(profile(street), reach.points.front().station) >=
                                level_at(profile(street), s.station) - 0.01);
                        for (std::size_t k = 1; k < reach.points.size(); ++k)
                            QVERIFY(reach.points[k].flow >= reach.points[k - 1].flow - 1e-15);
                        if (in.sag) {
                            ++sags;
                            QVERIFY(reach.points.back().depth >= f.depth - 1e-9);
                        } else if (reach.points.back().flow == f.flow) {
                            ++whole;
                            QVERIFY(std::abs(reach.points.back().spread - f.spread) < 1e-9 * f.spread);
                            const WaterAt at = water.at({street.id}, 1, s.station);
                            QVERIFY(at.flow > 0);
                        }
                        ++reaches;
                    }
            }
        }
        QVERIFY2(reaches > 600 && whole > 300 && sags > 40,
                 qPrintable(QString("%1 %2 %3").arg(reaches).arg(whole).arg(sags)));
    }
    void streets_without_water_have_none() {
        const Project p = street_project({2, 5, 1});
        const auto r = solve(p)[0];
        const StreetWater none(p, *r, [](const Street&) { return StreetProfile{}; });
        for (const Street& s : p.streets) QVERIFY(none.of({s.id}).empty());
        QCOMPARE(StreetWater(p, *r, profile).at({12345}, 1, 10).flow, 0.0);
        QCOMPARE(StreetWater(p, *r, profile).at({p.streets.begin()->id}, -1, 10).flow, 0.0);
    }
};

QTEST_GUILESS_MAIN(TestStreetWater)
#include "test_street_water.moc"
