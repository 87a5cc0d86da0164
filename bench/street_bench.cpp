// SPDX-License-Identifier: GPL-3.0-or-later
// Water on the streets: cost per inlet as a ratio to one gutter solve, its share of a whole solve, growth, spacing.
#include <QApplication>
#include <QImage>
#include <QPainter>
#include <chrono>
#include <cstdio>

#include "../tests/support/streets.h"
#include "app/window/main_window.h"
#include "core/analysis/solver.h"
#include "core/analysis/street_flow.h"
#include "core/analysis/street_water.h"
#include "core/streets/spacing.h"
#include "site_bench.h"

namespace {

using namespace culvert;
using namespace culvert::app;

double now_us() {
    return std::chrono::duration<double, std::micro>(std::chrono::steady_clock::now().time_since_epoch()).count();
}
template <class F>
double timed(F f) {
    double best = 1e300;
    const double begin = now_us();
    int runs = 0;
    do {
        const double t = now_us();
        f();
        best = std::min(best, now_us() - t);
    } while (++runs < 3 || now_us() - begin < 3e5);
    return best;
}

}  // namespace

void bench_streets() {
    const StreetConstants k = street_constants(Edition::Si);
    const Gutter gutter{CompositeSection{0.5, 0.05, 0.02, 4}, 0.012, 0.016};
    volatile double sink = 0;
    const double one = timed([&] {
                           for (int i = 0; i < 1000; ++i) sink = sink + depth_of_flow(gutter, 0.02 + 5e-5 * i, k);
                       }) /
                       1000;
    std::printf("\nstreets: one gutter solve %.3f us\n%8s %14s %9s %16s %12s\n", one, "inlets", "us/inlet/event",
                "ratio", "of whole solve", "water, ms");
    double first = 0;
    for (const int streets : {70, 700, 7000}) {
        const Project p = testing::street_project({streets, 14, 3});
        const auto net = std::make_shared<const Network>(compile(p));
        const EventRain rain = rain_of(*p.events.begin());
        Summaries found(*net);
        const auto inlets = static_cast<double>(net->inlets.size());
        const double street_us = timed([&] { solve_streets(*net, rain, found); });
        const double whole_us = timed([&] { (void)solve_all(*net, rain, found); });
        const EventResult result = solve_one(net, rain);
        const double water_us = timed([&] {
            const StreetWater water(p, result, [](const Street& s) {
                StreetProfile out;
                for (std::size_t i = 0; i < s.stations.size(); ++i) out.push_back({s.stations[i], s.levels[i]});
                return out;
            });
            sink = sink + static_cast<double>(water.of({1}).size());
        });
        if (first == 0) first = street_us / inlets;
        std::printf("%8zu %14.3f %9.2f %15.0f%% %12.1f\n", net->inlets.size(), street_us / inlets,
                    street_us / inlets / one, 100 * street_us / (whole_us - street_us), water_us / 1000);
        if (streets == 7000) std::printf("growth x %.2f per inlet\n", street_us / inlets / first);
    }
    {
        Document document;
        MainWindow window(document);
        window.resize(1280, 800);
        window.show();
        document.set_project(testing::street_project({200, 14, 3}));
        for (int i = 0; i < 2000 && (!document.current() || document.all_results().empty()); ++i) {
            QApplication::processEvents(QEventLoop::AllEvents, 5);
        }
        window.actions().find("stage.streets")->trigger();
        window.plan()->zoom_to_all();
        QImage picture(window.plan()->size(), QImage::Format_ARGB32_Premultiplied);
        const double frame = timed([&] {
            QPainter p(&picture);
            window.plan()->render_frame(p);
        });
        std::printf("plan with water on 200 streets, all in view: %.1f ms a frame\n", frame / 1000);
    }
    SpacingTask t;
    for (int i = 0; i <= 100; ++i) t.profile.push_back({50.0 * i, 200 - 0.6 * i + (i % 10 == 7 ? 0.9 : 0)});
    t.section = CompositeSection{0.5, 0.05, 0.02, 4};
    t.inlet = Grate{0.6, 0.45, 2};
    t.load = 2.4e-4;
    t.end = 5000;
    t.constants = k;
    std::size_t placed = 0;
    const double spacing_us = timed([&] { placed = space_inlets(t).inlets.size(); });
    std::printf("spacing of a 5 km street: %zu inlets in %.2f ms\n", placed, spacing_us / 1000);
}
