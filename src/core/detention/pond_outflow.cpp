// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/detention/pond_outflow.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"

namespace culvert {
namespace {

OutletFlow one_way(const WayOut& w, double level, double below, bool running) {
    if (w.pump) return {running ? w.pump_flow * w.count : 0, running ? OutletControl::Pump : OutletControl::Dry};
    OutletFlow f = std::holds_alternative<Outlet>(w.how)
                       ? outlet_flow(std::get<Outlet>(w.how), level, below)
                       : std::get<std::shared_ptr<const CulvertRating>>(w.how)->flow(level, below);
    f.flow *= w.count;
    return f;
}
bool run_of(std::span<const char> running, std::size_t i) { return i < running.size() && running[i] != 0; }
double below_of(std::span<const double> below, std::size_t i) { return i < below.size() ? below[i] : std::nan(""); }

}  // namespace

double pond_outflow(std::span<const WayOut> ways, double level, std::span<const double> below,
                    std::span<const char> running, std::span<OutletFlow> out) {
    double sum = 0;
    for (std::size_t i = 0; i < ways.size(); ++i) out[i] = {};
    const auto leads = [&](std::size_t i) {
        return std::any_of(ways.begin(), ways.end(), [i](const WayOut& w) { return w.behind == static_cast<int>(i); });
    };
    for (std::size_t i = 0; i < ways.size(); ++i) {
        if (ways[i].behind >= 0) continue;
        if (!leads(i)) {
            out[i] = one_way(ways[i], level, below_of(below, i), run_of(running, i));
            sum += out[i].flow;
            continue;
        }
        // What stands between the openings and the way behind them.
        const auto before = [&](double w) {
            double q = 0;
            for (std::size_t k = 0; k < ways.size(); ++k)
                if (ways[k].behind == static_cast<int>(i))
                    q += (out[k] = one_way(ways[k], level, w, run_of(running, k))).flow;
            return q;
        };
        const auto after = [&](double w) { return (out[i] = one_way(ways[i], w, below_of(below, i), false)).flow; };
        const double outside = below_of(below, i);
        const double free = before(std::isnan(outside) ? -HUGE_VAL : outside);
        if (!(free > 0)) continue;
        double low = std::isnan(outside) ? lowest_way(ways.subspan(i, 1)) : outside, high = level;
        low = std::min(low, high);
        for (int n = 0; n < 60 && high - low > 1e-7; ++n) {
            const double w = (low + high) / 2;
            (after(w) < before(w) ? low : high) = w;
        }
        const double w = (low + high) / 2, into = before(w), on = after(w);
        out[i].flow = std::min(on, free);  // the steeper of the two is the openings', near the pond's level
        // Less than the openings would let in by themselves: the way behind them governs.
        const bool behind = out[i].flow < 0.995 * free;
        const double scale = into > 0 ? out[i].flow / into : 0;
        for (std::size_t k = 0; k < ways.size(); ++k)
            if (ways[k].behind == static_cast<int>(i)) {
                out[k].flow *= scale;
                if (behind && out[k].flow > 0) out[k].control = OutletControl::Behind;
            }
        if (!behind) out[i].control = OutletControl::Behind;
        sum += out[i].flow;
    }
    return sum;
}

double lowest_way(std::span<const WayOut> ways) {
    double low = HUGE_VAL;
    for (const WayOut& w : ways) {
        if (w.pump) low = std::min(low, w.stop);
        else if (const auto* o = std::get_if<Outlet>(&w.how)) low = std::min(low, outlet_crest(*o));
        else low = std::min(low, std::get<std::shared_ptr<const CulvertRating>>(w.how)->barrel().invert);
    }
    return low;
}

void switch_pumps(std::span<const WayOut> ways, double level, std::span<char> running) {
    for (std::size_t i = 0; i < ways.size(); ++i) {
        if (!ways[i].pump) continue;
        if (level >= ways[i].start) running[i] = 1;
        else if (level <= ways[i].stop) running[i] = 0;
    }
}

}  // namespace culvert
