// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/design/storage_study.h"
#include "core/analysis/run_length.h"
#include "core/analysis/solver.h"
#include "support/ponds.h"
#include "support/small_street.h"

using namespace culvert;
using testing::PondSite;

/// How long a computation through time lasts.
class TestRunLength : public QObject {
    Q_OBJECT
  private slots:
    /// The steps of a run: the storm, four times the longest Tc, twice the way through the pipes, ten steps, in hours.
    void a_run_lasts_until_its_water_is_off() {
        const auto hours = [](const PondSite& s, std::size_t storm) {
            const Network net = compile(s.project);
            return (static_cast<double>(run_length(net, storm)) - static_cast<double>(storm)) * net.through_time->step /
                   3600;
        };
        PondSite s(false);
        QCOMPARE(hours(s, 100), 1.0);  // 4 x 600 s, 10 x 60 s, and 410 m at some 2 m/s, twice
        const std::uint64_t first = s.project.pipes.begin()->id;
        s.set(Kind::Pipe, first, "length", 1500.0);
        const Network net = compile(s.project);
        double travel = 0;  // a single line of pipes
        for (const Link& l : net.links)
            travel += l.length / (l.capacity / full_area(l.section));  // all between 0.3 and 10 m/s
        QVERIFY(2 * travel > 3600);
        QCOMPARE(hours(s, 100), std::ceil((2400 + 600 + 2 * travel) / 3600));
        s.set(Kind::Settings, settings_id, "after_rain", 5400.0);
        QCOMPARE(hours(s, 100), 1.5);
        QCOMPARE(hours(PondSite(), 100), 48.0);
        QCOMPARE(run_length(net, 1'000'000), std::size_t{200'000});
    }
    /// A known flow runs over the street before the rain, too: what passes the first inlet stands at the next from the
    /// beginning, and nothing comes or goes.
    void what_runs_before_the_rain_passes_its_inlets() {
        Project p = street();
        p.settings_rows.change(settings_id)->runoff_by = RunoffBy::ModifiedRational;
        p.catchments.erase(21);
        p.structures.change(1)->known_flow = 0.08;
        const double passes = ::at(p).bypass;
        QVERIFY(passes > 0.01 && std::abs(::at(p, 2).flow - passes) < 1e-9);
        for (const std::uint64_t id : {1, 2, 3})
            for (const SiteHydrographs& h : hydrographs_at(p, StructureId{id})) {
                const Series* s = h.of("inflow");
                QVERIFY(s && s->values.size() > 10);
                const auto [least, most] = std::minmax_element(s->values.begin(), s->values.end());
                QVERIFY2(*most - *least < 1e-9 && *most > 1e-3,
                         qPrintable(QString("%1: %2 to %3").arg(id).arg(*least).arg(*most)));
            }
        for (const auto& r : solve(p)) {
            const WaterBalance& b = r->balance;
            QVERIFY2(std::abs(b.error()) <= 1e-6 * b.known && std::abs(b.stored) <= 1e-6 * b.known,
                     qPrintable(QString("%1 %2 of %3").arg(b.error()).arg(b.stored).arg(b.known)));
        }
    }
    /// A run that ends too early: what has not run off is still on its way, and no water is lost.
    void what_a_short_run_cuts_off_is_counted() {
        for (const RunoffBy by : {RunoffBy::UnitHydrograph, RunoffBy::ModifiedRational, RunoffBy::Plane})
            for (const TravelBy travel : {TravelBy::Lag, TravelBy::Kinematic})
                for (const double step : {30.0, 60.0, 300.0}) {
                    PondSite s;
                    s.set(Kind::Settings, settings_id, "runoff_by", static_cast<int>(by));
                    s.set(Kind::Settings, settings_id, "travel_by", static_cast<int>(travel));
                    s.set(Kind::Settings, settings_id, "computing_step", step);
                    s.set(Kind::Settings, settings_id, "after_rain", 0.0);
                    s.uniform(0.05, 1800);
                    for (const Catchment& c :
                         std::vector<Catchment>(s.project.catchments.begin(), s.project.catchments.end())) {
                        s.set(Kind::Catchment, c.id, "path_length", 150.0);
                        s.set(Kind::Catchment, c.id, "path_slope", 0.01);
                        s.set(Kind::Catchment, c.id, "plane_roughness", 0.2);
                    }
                    for (const auto& r : solve(s.project)) {
                        const WaterBalance& b = r->balance;
                        QVERIFY2(b.runoff > 50 && b.cut > 0.05 * b.runoff,
                                 qPrintable(QString("%1 %2 of %3").arg(static_cast<int>(by)).arg(b.cut).arg(b.runoff)));
                        QVERIFY2(
                            std::abs(b.error()) <= 1e-6 * b.runoff,
                            qPrintable(QString("%1 %2 of %3").arg(static_cast<int>(by)).arg(b.error()).arg(b.runoff)));
                    }
                }
    }
};

QTEST_APPLESS_MAIN(TestRunLength)
#include "test_run_length.moc"
