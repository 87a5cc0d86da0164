// SPDX-License-Identifier: GPL-3.0-or-later
// A design of sizes, slopes and levels: seconds and cost per pipe, plain and least cost, and growth.
#include <chrono>
#include <cmath>
#include <cstdio>

#include "core/design/design.h"
#include "core/design/propose_design.h"
#include "core/model/lay.h"
#include "site_bench.h"
#include "support/networks.h"

namespace {

using namespace culvert;

/// Lines of a hundred fresh pipes down a gentle slope, each to an outfall of its own.
Project fresh_lines(int lines) {
    constexpr int pipes = 100;
    Project p = new_project(UnitSystem::Si);
    RainEvent e;
    e.id = 5;
    e.name = "10 years";
    e.return_period = 10;
    e.role = EventRole::Minor;
    e.durations = {300, 3600};
    e.intensities = {3e-5, 1e-5};
    p.events.insert(e);
    std::uint64_t next = 1000;
    for (int l = 0; l < lines; ++l) {
        std::uint64_t before = 0;
        for (int i = 0; i <= pipes; ++i) {
            Structure s;
            s.id = next++;
            s.name = "L" + std::to_string(l) + "-" + std::to_string(i);
            s.kind = i < pipes ? StructureKind::Inlet : StructureKind::Outfall;
            s.x = 40 * i;
            s.y = 60 * l;
            s.rim = 200 - 0.25 * i + 0.8 * std::sin(0.3 * i + l);
            p.structures.insert(s);
            if (i < pipes) {
                Catchment c;
                c.id = next++;
                c.structure = {s.id};
                c.area = 600;
                c.coefficient = 0.6;
                c.time = 600;
                p.catchments.insert(c);
            }
            if (before) {
                Pipe q = laid_pipe(p, {before}, {s.id});
                q.id = next++;
                p.pipes.insert(q);
            }
            before = s.id;
        }
    }
    return p;
}

}  // namespace

void bench_design() {
    std::printf("\ndesign of sizes, slopes and levels, solved and reviewed\n%8s %12s %10s %14s %10s %8s %8s\n", "pipes",
                "plain, s", "us/pipe", "least cost, s", "us/pipe", "saving", "beyond");
    for (const int lines : {10, 100}) {
        const Project p = fresh_lines(lines);
        double took[2] = {0, 0}, cost[2] = {0, 0};
        int beyond = 0;
        for (const bool least : {false, true}) {
            DesignOptions options;
            options.least_cost = least;
            options.explain_blocks = false;
            const auto start = std::chrono::steady_clock::now();
            const DesignProposal d = propose_design(p, {5}, options);
            took[least] = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
            cost[least] = d.cost_after;
            beyond = d.beyond_after;
        }
        const double n = 100.0 * lines;
        std::printf("%8d %12.2f %10.0f %14.2f %10.0f %7.1f%% %8d\n", 100 * lines, took[0], took[0] / n * 1e6, took[1],
                    took[1] / n * 1e6, 100 * (1 - cost[1] / cost[0]), beyond);
    }
}

void bench_remedies() {
    // One finding at a time, as the window asks for those it shows; the worst is what a person waits for.
    const Project p = culvert::testing::sized_project(1000, 6);
    const Results results = solve(p);
    std::vector<double> took;
    int found = 0;
    for (const auto& r : results)
        for (const Finding& f : review(p, *r).findings) {
            if (f.check.verdict != Verdict::Beyond || took.size() >= 60 || ++found % 7) continue;
            const auto start = std::chrono::steady_clock::now();
            const auto list = remedies(p, results, f);
            took.push_back(std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count());
        }
    std::sort(took.begin(), took.end());
    if (took.empty()) return;
    std::printf("\nremedies of one finding, 1,000 pipes, 6 events: median %.0f ms, worst %.0f ms of %zu findings\n",
                took[took.size() / 2], took.back(), took.size());
}
