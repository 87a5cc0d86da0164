// SPDX-License-Identifier: GPL-3.0-or-later
// Hydrographs and storage: what a day of rain over ten thousand catchments costs, a step of a pond, outlets sized.
#include <sys/resource.h>
#include <chrono>
#include <cstdio>

#include <chrono>

#include "core/analysis/flow_memory.h"
#include "core/analysis/solver.h"
#include "core/design/storage_study.h"
#include "core/hydraulics/outlet.h"
#include "site_bench.h"
#include "support/networks.h"
#include "support/ponds.h"

namespace {

using namespace culvert;
using culvert::testing::PondSite;

/// Shortest of some runs, ms.
template <class F>
double best_of(int runs, F f) {
    double best = 1e300;
    for (int i = 0; i < runs; ++i) {
        const auto begin = std::chrono::steady_clock::now();
        f();
        best =
            std::min(best, std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count());
    }
    return best;
}

double peak_memory_mb() {
    rusage use{};
    getrusage(RUSAGE_SELF, &use);
    return static_cast<double>(use.ru_maxrss) / 1024;
}

/// Every structure of a random network with a catchment of its own, six events of a day in minutes.
Project many_catchments(int pipes) {
    Project p = culvert::testing::random_project({.pipes = pipes, .seed = 7, .events = 6, .awkward = false});
    for (const Catchment& c : std::vector<Catchment>(p.catchments.begin(), p.catchments.end()))
        p.catchments.erase(c.id);
    std::uint64_t id = 900'000'000;
    int n = 0;
    for (const Structure& s : p.structures) {
        if (s.kind == StructureKind::Outfall) continue;
        Catchment c;
        c.id = ++id;
        c.name = "area " + std::to_string(++n);
        c.structure = {s.id};
        c.area = 2000 + 10 * (n % 300);
        c.coefficient = 0.6;
        c.time = 300 + (n % 120) * 10;
        c.curve_number = 70 + n % 25;
        c.impervious = 0.3;
        p.catchments.insert(c);
    }
    for (const RainEvent& e : std::vector<RainEvent>(p.events.begin(), p.events.end())) {
        RainEvent& row = *p.events.change(e.id);
        row.given = RainGiven::NrcsII;
        row.depth = 0.05 + 0.02 * static_cast<double>(e.id % 6);
    }
    Settings& s = *p.settings_rows.change(settings_id);
    s.runoff_by = RunoffBy::UnitHydrograph;
    s.computing_step = 60;
    return p;
}

/// One edit after the other, of a pipe or a catchment: the event that is looked at, and all of them.
void bench_edits(Project p) {
    Solver warm;
    const EventId first{events_in_order(p)[3]->id};
    warm.solve(p, 0, first);
    const auto edit = [&](const char* words, auto change) {
        double seen = 1e300, all = 1e300, once = 0;
        std::size_t computed = 0;
        for (int i = 0; i < 6; ++i) {
            change(i);
            double at = 0;
            std::shared_ptr<const EventResult> of;
            const double ms = best_of(1, [&] {
                const auto begin = std::chrono::steady_clock::now();
                warm.solve(p, 1, first, {}, [&](std::shared_ptr<const EventResult> r) {
                    if (!of)
                        at =
                            std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count();
                    if (!of) of = std::move(r);
                });
            });
            if (i == 0) once = at;
            seen = std::min(seen, at);
            all = std::min(all, ms);
            computed = of->flows->computed;
        }
        std::printf("  %s: viewed event %.1f ms (at first %.1f), all six %.1f ms; %zu nodes computed\n", words, seen,
                    once, all, computed);
    };
    const std::uint64_t pipe = std::next(p.pipes.begin(), 777)->id, area = std::next(p.catchments.begin(), 555)->id;
    edit("a pipe of them made larger", [&](int) { p.pipes.change(pipe)->size += 0.01; });
    edit("a catchment made larger", [&](int) { p.catchments.change(area)->area += 10; });
}

}  // namespace

void bench_storage() {
    std::printf("\nhydrographs, 24 h in steps of a minute, 6 events\n");
    double first = 0;
    for (const int pipes : {1000, 10'000}) {
        const Project p = many_catchments(pipes);
        const double before = peak_memory_mb();
        Results all;
        const double ms = best_of(pipes > 5000 ? 2 : 3, [&] { all = solve(p); });
        const double each = ms * 1000 / pipes / 6;
        if (first == 0) first = each;
        std::printf("  %6d catchments  %8.0f ms  %6.1f us a catchment and event (growth %.2f)  memory +%.0f MB\n",
                    pipes, ms, each, each / first, peak_memory_mb() - before);
        if (pipes == 10'000) {
            const StructureId outfall = [&] {
                for (const Structure& s : p.structures)
                    if (s.kind == StructureKind::Outfall) return StructureId{s.id};
                return StructureId{};
            }();
            const StructureId head{p.catchments.begin()->structure};
            std::printf("  series of one structure in all events: outfall %.0f ms, a head %.1f ms\n",
                        best_of(1, [&] { hydrographs_at(p, outfall); }), best_of(3, [&] { hydrographs_at(p, head); }));
            bench_edits(p);
        }
    }
    PondSite site;
    const Network net = compile(site.project);
    const PondNode& pond = net.through_time->ponds[0];
    std::vector<double> inflow;
    for (int i = 0; i < 2880; ++i) {
        const double x = (i + 0.5) / 90;
        inflow.push_back(0.6 * std::pow(x * std::exp(1 - x), 4));
    }
    PondInput in;
    in.storage = &pond.storage;
    in.ways = pond.ways;
    in.start_level = pond.start_level;
    in.inflow = inflow;
    PondRoute r;
    const double route_ms = best_of(20, [&] { r = route_pond(in); });
    std::vector<OutletFlow> each(pond.ways.size());
    double level = 40, sink = 0;
    const double rating_ms = best_of(5, [&] {
        for (int i = 0; i < 100'000; ++i) {
            level = 40 + (i % 260) * 0.01;
            sink += pond_outflow(pond.ways, level, {}, {}, each);
        }
    });
    const double rating_ns = rating_ms * 1e6 / 100'000;
    std::printf("pond of three ways out: %.2f ms for %zu steps, %.0f ns a step = %.1f ratings of %.0f ns%s\n", route_ms,
                inflow.size(), route_ms * 1e6 / static_cast<double>(inflow.size()),
                route_ms * 1e6 / static_cast<double>(inflow.size()) / rating_ns, rating_ns, sink < 0 ? "!" : "");
    Editing e(site.project, "a third");
    PondOutlet o = new_outlet(site.project, site.pond, OutletKind::SharpWeir);
    o.level = 41.6;
    o.width = 1;
    e.insert(o);
    RainEvent mid = *events_in_order(site.project)[0];
    mid.id = 77;
    mid.name = "10 years";
    mid.return_period = 10;
    mid.role = EventRole::Other;
    for (double& i : mid.intensities) i *= 1.6;
    e.insert(mid);
    Release third;
    third.id = 78;
    third.structure = site.pond;
    third.event = {77};
    third.flow = 0.09;
    e.insert(third);
    apply(site.project, e.take());
    OutletProposal sized;
    const double size_ms = best_of(3, [&] { sized = size_outlets(site.project, site.pond); });
    std::printf("three outlets sized for three events: %.0f ms, %zu routings (asked: 200 ms)\n", size_ms,
                sized.routings);
    Solver warm;
    warm.solve(site.project, 0);
    std::uint64_t revision = 0;
    const double edit_ms = best_of(10, [&] {
        Editing m(site.project, "move");
        m.set(Kind::PondOutlet, site.low, "level", 40 + 0.001 * static_cast<double>(++revision % 50));
        apply(site.project, m.take());
        warm.solve(site.project, revision);
    });
    std::printf("an outlet moved, all three events solved again: %.1f ms\n", edit_ms);
}
