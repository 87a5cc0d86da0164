// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <random>

#include "core/analysis/solver.h"
#include "support/difference.h"
#include "support/networks.h"
#include "support/rain.h"

using namespace culvert;

/// A solver that keeps what an edit does not touch, against one that begins from nothing: bit for bit, whatever is
/// edited and whatever the settings say of times and flows.
class TestWarm : public QObject {
    Q_OBJECT
  private slots:
    void every_edit_equals_a_cold_solve() {
        std::size_t edits = 0;
        for (unsigned seed = 1; seed <= 24; ++seed) {
            Project p = testing::random_project({.pipes = 40, .seed = seed, .events = 2});
            Settings& s = *p.settings_rows.change(settings_id);
            s.hold_flow = seed % 2;
            s.travel_velocity = seed % 4 < 2 ? VelocityFor::FullFlow : VelocityFor::DesignFlow;
            std::mt19937 random(seed);
            const auto some = [&](const auto& table) {
                auto row = table.begin();
                for (std::size_t k = random() % table.size(); k > 0; --k) ++row;
                return row->id;
            };
            Solver warm;
            warm.solve(p, 0);
            for (int i = 0; i < 24; ++i) {
                const double factor = random() % 2 ? 1.3 : 0.7;
                switch (random() % 11) {
                    case 0: p.catchments.change(some(p.catchments))->time *= factor; break;
                    case 1: p.catchments.change(some(p.catchments))->area *= factor; break;
                    case 2: p.catchments.change(some(p.catchments))->coefficient *= 0.9; break;
                    case 3: p.catchments.change(some(p.catchments))->structure = {some(p.structures)}; break;
                    case 4: p.pipes.change(some(p.pipes))->roughness *= factor; break;
                    case 5: p.pipes.change(some(p.pipes))->length = 20 + static_cast<double>(random() % 100); break;
                    case 6: p.pipes.change(some(p.pipes))->size *= factor; break;
                    case 7: p.structures.change(some(p.structures))->known_flow += 0.01; break;
                    case 8: p.events.change(some(p.events))->intensities[0] *= 1.1; break;
                    case 9:
                        p.settings_rows.change(settings_id)->least_time = 60.0 * static_cast<double>(3 + random() % 9);
                        break;
                    default: p.settings_rows.change(settings_id)->uplift = 1 + 0.1 * static_cast<double>(random() % 4);
                }
                const Results a = warm.solve(p, 0), b = solve(p);
                QCOMPARE(a.size(), b.size());
                for (std::size_t e = 0; e < a.size(); ++e) {
                    const QString differs = testing::difference(*a[e], *b[e]);
                    QVERIFY2(differs.isEmpty(),
                             qPrintable(QString("seed %1 edit %2: %3").arg(seed).arg(i).arg(differs)));
                }
                ++edits;
            }
        }
        QCOMPARE(edits, std::size_t{24 * 24});
    }
    /// A flow that is held below a junction may change while area, known flow and time that pass on stay: the time
    /// there is that of the other branch, and water travels as in full pipes.
    void a_held_flow_that_changes_is_felt_below() {
        Project p = new_project(UnitSystem::Si);
        const auto structure = [&](std::uint64_t id, const char* name, double x, double y) {
            Structure s;
            s.id = id;
            s.name = name;
            s.kind = id == 5 ? StructureKind::Outfall : StructureKind::Manhole;
            s.x = x;
            s.y = y;
            s.rim = 54 - x / 100;
            p.structures.insert(s);
        };
        structure(1, "A", 0, 0);
        structure(2, "C", 0, 80);
        structure(3, "B", 60, 0);
        structure(4, "D", 120, 0);
        structure(5, "E", 180, 0);
        for (const auto& [id, from, to] : {std::tuple{11, 1, 3}, {12, 2, 3}, {13, 3, 4}, {14, 4, 5}}) {
            Pipe q;
            q.id = static_cast<std::uint64_t>(id);
            q.from = {static_cast<std::uint64_t>(from)};
            q.to = {static_cast<std::uint64_t>(to)};
            q.size = 0.9;
            q.invert_from = 51 - p.structures.find(q.from.value)->x / 100;
            q.invert_to = 51 - p.structures.find(q.to.value)->x / 100;
            p.pipes.insert(q);
        }
        for (const auto& [id, to, area, time] : {std::tuple{21, 1, 9000.0, 600.0}, {22, 2, 60.0, 3000.0}}) {
            Catchment c;
            c.id = static_cast<std::uint64_t>(id);
            c.structure = {static_cast<std::uint64_t>(to)};
            c.area = area;
            c.coefficient = 0.8;
            c.time = time;
            p.catchments.insert(c);
        }
        p.events.insert(testing::ten_years());
        p.settings_rows.change(settings_id)->travel_velocity = VelocityFor::FullFlow;
        const auto below = [](const Results& r) {
            return r[0]->links[static_cast<std::size_t>(r[0]->network->link_of(PipeId{14}))].flow.flow;
        };
        Solver warm;
        const double first = below(warm.solve(p, 0));
        p.catchments.change(21)->time = 400;
        const double after = below(warm.solve(p, 0)), cold = below(solve(p));
        QVERIFY2(cold > first * 1.05, qPrintable(QString("%1 %2").arg(first).arg(cold)));
        QCOMPARE(after, cold);
    }
};
QTEST_APPLESS_MAIN(TestWarm)
#include "test_warm.moc"
