// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydraulics/level_pool.h"

#include <algorithm>
#include <cmath>

namespace culvert {
namespace {

constexpr int most_substeps = 256;
constexpr double peak_within = 5e-4;

/// Level at the end of a step: V(h) + O(h) dt/2 = what is known. Both grow with the level, so that it is bracketed.
double next_level(const StageStorage& s, const Outflow& out, double known, double half, double time, double from) {
    const auto missing = [&](double h) { return s.volume(h) + half * out(h, time) - known; };
    double low = s.bottom(), high = std::max(s.top(), from);
    if (missing(low) >= 0) return low;  // it runs dry within the step
    for (int i = 0; i < 60 && missing(high) < 0; ++i) high += std::max(1.0, high - low);
    double f_low = missing(low), f_high = missing(high);
    int side = 0;
    for (int i = 0; i < 100 && high - low > 1e-7; ++i) {
        double h = i % 8 == 7 ? (low + high) / 2 : (low * f_high - high * f_low) / (f_high - f_low);
        if (!(h > low && h < high)) h = (low + high) / 2;
        const double f = missing(h);
        if (f == 0) return h;
        if (f < 0) {
            low = h, f_low = f;
            if (side == 1) f_high /= 2;
            side = 1;
        } else {
            high = h, f_high = f;
            if (side == -1) f_low /= 2;
            side = -1;
        }
    }
    return (low + high) / 2;
}

PoolRouting route(const StageStorage& s, const Outflow& out, std::span<const double> inflow, double step, double level,
                  double before, int substeps) {
    PoolRouting r;
    r.substeps = substeps;
    r.level.reserve(inflow.size());
    r.outflow.reserve(inflow.size());
    const double dt = step / substeps, first = s.volume(level);
    double h = level, v = first, o = out(h, 0), last = before, most = v;
    r.peak_level = h;
    r.peak_outflow = o;
    r.peak_inflow = before;
    for (std::size_t i = 0; i < inflow.size(); ++i) {
        for (int k = 0; k < substeps; ++k) {
            const double i1 = last + (inflow[i] - last) * k / substeps,
                         i2 = last + (inflow[i] - last) * (k + 1) / substeps,
                         time = (static_cast<double>(i) + (k + 1.0) / substeps) * step;
            const double known = v + dt / 2 * (i1 + i2 - o);
            h = next_level(s, out, known, dt / 2, time, h);
            const double v2 = s.volume(h);
            // What runs out is what is not stored: water is kept, also in the step in which it runs dry.
            const double ran = std::max(0.0, v + dt / 2 * (i1 + i2) - v2);
            o = out(h, time);
            r.outflow_volume += ran;
            r.inflow_volume += dt / 2 * (i1 + i2);
            v = v2;
            if (o > r.peak_outflow) r.peak_outflow = o, r.peak_outflow_time = time;
            if (h > r.peak_level) r.peak_level = h;
            if (v > most) most = v, r.drawn_down = -1;
            else if (r.drawn_down < 0 && most > first && v <= first + 0.1 * (most - first)) r.drawn_down = time;
        }
        last = inflow[i];
        if (last > r.peak_inflow) r.peak_inflow = last, r.peak_inflow_time = static_cast<double>(i + 1) * step;
        r.level.push_back(h);
        r.outflow.push_back(o);
    }
    r.stored = v - first;
    r.above_curve = std::max(0.0, r.peak_level - s.top());
    return r;
}

}  // namespace

PoolRouting route_pool(const StageStorage& storage, const Outflow& outflow, std::span<const double> inflow, double step,
                       double level, double inflow_before) {
    // Twice in a row: a peak between two steps may look settled once.
    PoolRouting r = route(storage, outflow, inflow, step, level, inflow_before, 1);
    int settled = 0;
    for (int n = 2; n <= most_substeps && settled < 2; n *= 2) {
        PoolRouting finer = route(storage, outflow, inflow, step, level, inflow_before, n);
        const bool same = std::abs(finer.peak_outflow - r.peak_outflow) <= peak_within * finer.peak_outflow;
        settled = same ? settled + 1 : 0;
        r = std::move(finer);
    }
    return r;
}

}  // namespace culvert
