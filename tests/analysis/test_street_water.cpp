// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <map>
#include <set>

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
        int reaches = 0, whole = 0, sags = 0, ended = 0;
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
                        // It begins where the street is highest: from there it falls all the way; a little farther on
                        // the street falls to the other side, or ends, or another inlet stands.
                        const StreetProfile levels = profile(street);
                        const double head = reach.points.front().station, foot = s.station, step = head < foot ? -1 : 1,
                                     on = head + 2 * step;
                        for (double x = head; (x - foot) * step > 0; x -= step)
                            QVERIFY(level_at(levels, x) >=
                                    level_at(levels, std::max(foot * step, (x - step) * step) * step) - 0.02);
                        bool stands = false;
                        for (const Structure& o : p.structures)
                            stands |= o.street.value == street.id && std::abs(o.station - head) < 0.01;
                        if (stands || on < levels.front().station || on > levels.back().station) ++ended;
                        else QVERIFY(level_at(levels, on) < level_at(levels, head) + 0.02);
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
        QVERIFY(ended > 600);
        QVERIFY2(reaches > 600 && whole > 300 && sags > 40,
                 qPrintable(QString("%1 %2 %3").arg(reaches).arg(whole).arg(sags)));
    }
    /// Past a crest between two inlets water runs the other way: it begins at the crest, for both.
    void it_begins_at_the_crest() {
        int seen = 0;
        for (unsigned seed = 1; seed <= 8; ++seed) {
            Project p = street_project({1, 2, seed});
            Street& street = *p.streets.change(p.streets.begin()->id);
            street.line = {{0, 0}, {400, 0}};
            street.stations = {0, 100, 150, 180, 300, 400};
            street.levels = {102, 101, 101.8, 102, 100, 101};
            double station = 100;
            for (const Structure& s : Project(p).structures)
                if (s.street.value == street.id) p.structures.change(s.id)->station = std::exchange(station, 300.0);
            const auto r = solve(p)[0];
            const StreetWater water(p, *r, profile);
            std::map<std::uint64_t, std::set<double>> heads;
            for (const StreetReach& reach : water.of({street.id}))
                heads[reach.inlet.value].insert(reach.points.front().station);
            for (const auto& [id, all] : heads) {
                ++seen;
                const double end = p.structures.find(id)->station < 180 ? 0 : 400;
                QVERIFY((all == std::set<double>{180, end}));
            }
        }
        QVERIFY(seen >= 8);
    }
    /// Streets drawn from their other ends: the same water, seen from there.
    void it_does_not_mind_the_direction_of_the_street() {
        int reaches = 0;
        for (unsigned seed = 1; seed <= 12; ++seed) {
            Project p = street_project({3, 10, seed}), q = p;
            for (const Street& s : p.streets) {
                Street& turned = *q.streets.change(s.id);
                std::reverse(turned.line.begin(), turned.line.end());
                std::reverse(turned.levels.begin(), turned.levels.end());
                std::reverse(turned.stations.begin(), turned.stations.end());
                for (double& at : turned.stations) at = s.stations.back() - at;
            }
            for (const Structure& s : p.structures)
                if (const Street* street = p.streets.find(s.street.value))
                    q.structures.change(s.id)->station = street->stations.back() - s.station;
            const auto a = solve(p)[0], b = solve(q)[0];
            const StreetWater one(p, *a, profile), other(q, *b, profile);
            for (const Street& s : p.streets) {
                using Ends = std::tuple<std::uint64_t, long, long, long>;
                const auto ends = [&](const StreetWater& w, bool turned) {
                    std::multiset<Ends> list;
                    for (const StreetReach& r : w.of({s.id})) {
                        const double at = r.points.front().station;
                        list.insert({r.inlet.value, std::lround((turned ? s.stations.back() - at : at) * 1e3),
                                     std::lround(r.points.front().flow * 1e9),
                                     std::lround(r.points.back().flow * 1e9)});
                    }
                    return list;
                };
                reaches += static_cast<int>(ends(one, false).size());
                QVERIFY2(ends(one, false) == ends(other, true), qPrintable(QString::number(seed)));
            }
        }
        QVERIFY(reaches > 200);
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
