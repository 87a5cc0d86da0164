// SPDX-License-Identifier: GPL-3.0-or-later
#include "site_bench.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QPainter>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <random>

#include "../tests/support/networks.h"
#include "app/window/main_window.h"
#include "core/design/site.h"
#include "core/terrain/contours.h"
#include "exchange/paste_table.h"
#include "exchange/site_import.h"

using namespace culvert;
using namespace culvert::app;

namespace {

double now_ms() {
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now().time_since_epoch()).count();
}
template <class F>
double once(F f) {
    const double t = now_ms();
    f();
    return now_ms() - t;
}
template <class F>
double best_of(int runs, F f) {
    double best = 1e300;
    for (int i = 0; i < runs; ++i) best = std::min(best, once(f));
    return best;
}
/// Greatest memory of this program so far, MB.
double peak_mb() {
    std::ifstream in("/proc/self/status");
    for (std::string line; std::getline(in, line);)
        if (line.starts_with("VmHWM:")) return std::atof(line.c_str() + 6) / 1024;
    return 0;
}
SurfaceData hills(std::size_t n, unsigned seed) {
    std::mt19937 random(seed);
    const double side = std::sqrt(static_cast<double>(n)) * 2;
    std::uniform_real_distribution<double> u(0, side);
    SurfaceData d;
    d.points.reserve(n);
    for (std::size_t i = 0; i < n; ++i) {
        const double x = u(random), y = u(random);
        d.points.push_back({x, y, 100 - 0.01 * x + 3 * std::sin(x / 60) * std::cos(y / 70)});
    }
    return d;
}

}  // namespace

void bench_site(double reference) {
    std::printf("\nground (random points, 4 m2 each)\n%10s %12s %10s %12s %12s %14s %12s %12s\n", "points",
                "triangles s", "us/point", "contours ms", "flood s", "queries M/s", "random M/s", "peak MB");
    double first = 0;
    for (const std::size_t n : {std::size_t{1000}, std::size_t{10000}, std::size_t{100000}, std::size_t{1000000}}) {
        SurfaceData d = hills(n, 1);
        std::shared_ptr<const Terrain> t;
        const double build = once([&] { t = Terrain::build(std::move(d)); });
        std::size_t lines = 0;
        const double contour = once([&] { lines = contours(*t, 0.5).size(); });
        std::shared_ptr<const Drainage> drainage;
        const double flood = once([&] { drainage = std::make_shared<const Drainage>(t); });
        const double side = std::sqrt(static_cast<double>(n)) * 2;
        double sum = 0;
        constexpr int queries = 2'000'000;
        const double coherent = once([&] {
            Terrain::Cursor cursor;
            for (int i = 0; i < queries; ++i) {
                const double s = static_cast<double>(i) / queries;
                const double z = t->elevation({side * (0.05 + 0.9 * s), side * (0.5 + 0.4 * std::sin(40 * s))}, cursor);
                sum += std::isnan(z) ? 0 : z;
            }
        });
        std::mt19937 random(3);
        std::uniform_real_distribution<double> u(0.02 * side, 0.98 * side);
        std::vector<Point> places(200'000);
        for (Point& p : places) p = {u(random), u(random)};
        const double scattered = once([&] {
            for (const Point& p : places) {
                const double z = t->elevation(p);
                sum += std::isnan(z) ? 0 : z;
            }
        });
        if (!first) first = build / static_cast<double>(n);
        std::printf(
            "%10zu %12.3f %10.2f %12.1f %12.3f %14.2f %12.2f %12.0f   (%.1f kernels a point, grows x%.2f, %zu "
            "contours%s)\n",
            n, build / 1000, build * 1000 / static_cast<double>(n), contour, flood / 1000, queries / coherent / 1000,
            static_cast<double>(places.size()) / scattered / 1000, peak_mb(),
            build * 1000 / static_cast<double>(n) / reference, build / static_cast<double>(n) / first, lines,
            sum == 0 ? "!" : "");
        if (n == 1000000) {
            // From the file's text to the triangles: what opening costs.
            std::string text;
            {
                SurfaceData again = hills(n, 1);
                text = "e,n,z\n";
                char line[96];
                for (const GroundPoint& p : again.points)
                    text.append(line, static_cast<std::size_t>(
                                          std::snprintf(line, sizeof line, "%.3f,%.3f,%.3f\n", p.x, p.y, p.z)));
            }
            const double open = once([&] {
                const SurfaceImport in = read_points(text, sniff_points(text));
                const SurfaceOffer offer = make_surface(in, "bench");
                if (!offer.ok) std::printf("not read!\n");
            });
            std::printf("1,000,000 points from text to a checked surface: %.2f s, peak %.0f MB\n", open / 1000,
                        peak_mb());
        }
    }
}

void bench_workbench(double reference) {
    Document document;
    MainWindow window(document);
    window.resize(1280, 800);
    window.show();
    const auto settle = [&] {
        QElapsedTimer t;
        t.start();
        while (!document.current() && t.elapsed() < 60000) QApplication::processEvents(QEventLoop::AllEvents, 5);
    };
    std::printf("\nworkbench\n");
    document.set_project(testing::random_project({.pipes = 20000, .seed = 3, .events = 1, .awkward = false}));
    settle();
    Ledger& ledger = *window.drawer()->ledger();
    window.drawer()->show_page(&ledger);
    QApplication::processEvents();
    ledger.show_kind(Kind::Structure);
    QApplication::processEvents();
    const double open = once([&] {
        ledger.show_kind(Kind::Pipe);
        ledger.table()->grab();
    });
    LedgerModel& m = *ledger.model();
    // Asked for the order it has, the table does nothing: each time the other one.
    bool down = false;
    const auto other = [&] { return (down = !down) ? Qt::DescendingOrder : Qt::AscendingOrder; };
    const double by_number = best_of(4, [&] { m.sort(m.column_of("invert_from"), other()); });
    const double by_name = best_of(4, [&] { m.sort(0, other()); });
    const double words = best_of(3, [&] { m.set_filter("S12", LedgerModel::Show::All); });
    const double compared = best_of(3, [&] { m.set_filter("size > 400", LedgerModel::Show::All); });
    m.set_filter({}, LedgerModel::Show::All);
    const double scroll = best_of(20, [&] {
        static int at = 0;
        ledger.table()->scrollTo(m.index((at += 997) % m.rowCount(), 3), QAbstractItemView::PositionAtTop);
        ledger.table()->viewport()->grab();
    });
    std::printf(
        "ledger, 20,000 rows: open %.0f ms, sort by number %.0f ms, by name %.0f ms, filter by words %.0f ms, by a "
        "comparison %.0f ms, a scrolled page %.1f ms\n",
        open, by_number, by_name, words, compared, scroll);
    std::string table = "name\tsize\n";
    for (const Pipe& p : document.project().pipes) table += pipe_name(document.project(), p) + "\t525\n";
    PastePlan plan;
    const double planned = best_of(2, [&] { plan = plan_paste(document.project(), Kind::Pipe, table, {}); });
    const double pasted = once([&] { document.commit(plan.edit); });
    std::printf(
        "paste of 20,000 rows: planned in %.0f ms (off the interface thread), %zu values taken in %.0f ms, undone in "
        "%.0f ms\n",
        planned, plan.changes, pasted, once([&] { document.undo(); }));

    const auto frames = [&](double zoom) {
        PlanView* view = window.plan();
        view->zoom_to_all();
        if (zoom > 1) {
            const auto& s = view->scene().structures();
            view->zoom_at(view->to_screen(s[s.size() / 2].at), zoom);
        }
        QPixmap picture(view->size());
        return best_of(3, [&] {
            QPainter p(&picture);
            view->render_frame(p);
        });
    };
    const auto frames_of = [&](const char* what) {
        settle();
        std::printf("plan, 50,000 pipes %s: all in view %.0f ms a frame, at x8 %.0f ms, at x40 with labels %.0f ms\n",
                    what, frames(1), frames(8), frames(40));
    };
    document.set_project(testing::sized_project(50000, 1));
    frames_of("in districts");
    document.set_project(testing::random_project({.pipes = 50000, .seed = 7, .events = 1, .awkward = false}));
    frames_of("that cross each other");

    std::vector<double> commits;
    for (int i = 0; i < 9; ++i) {
        Editing e(document.project(), "size");
        e.set(Kind::Pipe, document.project().pipes.begin()->id, "size", 0.4 + 0.01 * i);
        const Edit edit = e.take();
        commits.push_back(once([&] { document.commit(edit); }));
        settle();
    }
    std::sort(commits.begin(), commits.end());
    std::printf(
        "an edit in the window at 50,000 pipes: the interface thread is busy for %.1f ms (median; worst %.1f)\n",
        commits[4], commits.back());

    std::printf("%10s %18s %18s %16s\n", "pipes", "one Edit us", "undo us", "kernels an Edit");
    for (const int pipes : {1000, 10000, 100000}) {
        Project p = testing::sized_project(pipes, 1);
        std::vector<std::uint64_t> ids;
        for (const Pipe& row : p.pipes) ids.push_back(row.id);
        std::mt19937 random(1);
        std::vector<double> there, back;
        for (int i = 0; i < 200; ++i) {
            const Project snapshot = p;  // a solver or the history holds one
            const std::uint64_t id = ids[random() % ids.size()];
            const double t = now_ms();
            Editing e(p, "size");
            e.set(Kind::Pipe, id, "size", 0.1 + 0.001 * i);
            const Edit edit = e.take();
            apply(p, edit);
            there.push_back((now_ms() - t) * 1000);
            const double u = now_ms();
            revert(p, edit);
            back.push_back((now_ms() - u) * 1000);
            apply(p, edit);
        }
        std::sort(there.begin(), there.end());
        std::sort(back.begin(), back.end());
        std::printf("%10d %18.1f %18.1f %16.1f   (worst %.0f us)\n", pipes, there[100], back[100],
                    there[100] / reference, there.back());
    }
}
