// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/catchment_flow.h"

#include <algorithm>
#include <cmath>

#include "core/hydrology/design_storm.h"
#include "core/hydrology/idf_fit.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

constexpr double day = 86400;
constexpr double unit_share = 2.0 / 15;  ///< D over Tc: a fifth of the time to the peak
constexpr std::size_t most_steps = 200'000;

/// Depths in equal steps on another step: what has fallen runs straight between the ends of its steps.
std::vector<double> on_step(const std::vector<double>& depths, double from, double step) {
    const double length = from * static_cast<double>(depths.size());
    const std::size_t n = static_cast<std::size_t>(std::max(1.0, std::ceil(length / step - 1e-9)));
    std::vector<double> out(n, 0);
    for (std::size_t i = 0; i < depths.size(); ++i) {
        if (depths[i] == 0) continue;
        const double t0 = static_cast<double>(i) * from, t1 = t0 + from;
        std::size_t k = static_cast<std::size_t>(t0 / step + 1e-9);
        double left = depths[i];
        for (; k + 1 < n && (static_cast<double>(k) + 1) * step < t1 - 1e-9; ++k) {
            const double a = std::max(t0, static_cast<double>(k) * step), b = (static_cast<double>(k) + 1) * step;
            const double part = depths[i] * (b - a) / from;
            out[k] += part;
            left -= part;
        }
        out[std::min(k, n - 1)] += left;
    }
    return out;
}

}  // namespace

std::vector<double> storm_steps(const Network& network, const EventRain& rain) {
    const ThroughTime& t = *network.through_time;
    std::vector<double> depths;
    if (!rain.depths.empty()) depths = on_step(rain.depths, rain.depth_step, t.step);
    else if (!rain.curve.empty()) {
        const double length = std::isnan(t.storm_length) ? std::min(rain.durations.back(), day) : t.storm_length;
        const int blocks =
            std::clamp(static_cast<int>(std::lround(length / t.step)), 1, static_cast<int>(most_steps / 2));
        if (t.storm_by == StormBy::KeiferChu && rain.durations.size() >= 3) {
            const IdfFit fit = fit_idf(rain.durations, rain.intensities);
            if (fit.ok && fit.c < 1) depths = keifer_chu(fit.a, fit.b, fit.c, t.storm_peak, t.step, blocks);
        }
        if (depths.empty()) depths = alternating_blocks(rain.curve, t.step, blocks);
    }
    for (double& d : depths) d = std::max(0.0, d * network.uplift);
    return depths;
}

double CatchmentFlow::run(const RunoffArea& area, std::span<const double> depths, double frequency_factor, double step,
                          std::vector<double>& flow, RunoffSummary& r) {
    const std::size_t n = depths.size(), count = flow.size();
    runs_.assign(n, 0.0);
    if (area.by == TransformBy::ModifiedRational) {
        const double share = area.area > 0 ? std::min(1.0, area.effective_area / area.area * frequency_factor) : 0;
        for (std::size_t k = 0; k < n; ++k) {
            runs_[k] = depths[k] * share * area.area;
            r.rain += depths[k];
            r.runoff += depths[k] * share;
        }
        r.infiltrated = r.rain - r.runoff;
    } else {
        left_.resize(n);
        for (const GroundPart& g : area.parts) {
            const LossTotals t = take_losses(g.loss, depths, step, left_);
            const double w = g.area / area.area;
            r.rain += t.rain * w;
            r.runoff += t.runoff * w;
            r.infiltrated += t.infiltrated * w;
            r.held += t.held * w;
            for (std::size_t k = 0; k < n; ++k) runs_[k] += left_[k] * g.area;
        }
    }
    if (area.by == TransformBy::Plane) { return plane(area, step, flow); }
    if (area.by == TransformBy::UnitHydrograph) return by_unit_hydrograph(area, step, flow);
    even_response(area.time, step);
    const std::size_t m = even_.size();
    double beyond = 0;
    for (std::size_t k = 0; k < n; ++k) {
        const double volume = runs_[k];
        if (volume == 0) continue;
        const std::size_t reach = std::min(m, count > k ? count - k : 0);
        double* q = flow.data() + k;
        const double* h = even_.data();
        for (std::size_t j = 0; j < reach; ++j) q[j] += volume * h[j];
        for (std::size_t j = reach; j < m; ++j) beyond += volume * h[j];
    }
    return beyond * step;
}

/// The NRCS way to the letter: rain that runs off in blocks of D = 2/15 Tc, the unit hydrograph of that duration (its
/// ordinates a fifth of the time to the peak apart, whatever Tc), flows at the ends of the blocks, straight between
/// them; then the mean over each step of computing.
double CatchmentFlow::by_unit_hydrograph(const RunoffArea& area, double step, std::vector<double>& flow) {
    if (area.peak_factor != unit_factor_) {
        unit_ = unit_hydrograph(0.6, unit_share, area.peak_factor);
        for (double& u : unit_) u *= unit_share;  // shares of the volume
        unit_factor_ = area.peak_factor;
    }
    const double d = unit_share * area.time, length = step * static_cast<double>(runs_.size());
    const std::size_t blocks = static_cast<std::size_t>(std::ceil(length / d - 1e-9)), m = unit_.size();
    ends_.assign(blocks + m + 1, 0.0);  // flow at the ends of the blocks, from 0 on; a last 0
    // Block by block what has run off in it: steps may be longer or shorter.
    std::size_t i = 0;
    double left = runs_.empty() ? 0 : runs_[0];
    for (std::size_t b = 0; b < blocks; ++b) {
        const double end = b + 1 == blocks ? HUGE_VAL : static_cast<double>(b + 1) * d;
        double volume = 0;
        while (i < runs_.size()) {
            const double step_end = static_cast<double>(i + 1) * step;
            if (step_end <= end) {
                volume += left;
                if (++i < runs_.size()) left = runs_[i];
                continue;
            }
            const double whole = runs_[i], part = whole * (step_end - end) / step;
            volume += left - part;
            left = part;
            break;
        }
        if (volume == 0) continue;
        double* q = ends_.data() + b + 1;
        for (std::size_t j = 0; j < m; ++j) q[j] += volume * unit_[j];
    }
    // Means over the steps: differences of what has run by, quadratic within a block.
    const std::size_t count = flow.size();
    double by = 0, last = 0;  // up to the beginning of the block; up to the end of the step before
    std::size_t b = 0;
    for (std::size_t k = 0; k < count; ++k) {
        const double t = static_cast<double>(k + 1) * step;
        while (b + 1 < ends_.size() && static_cast<double>(b + 1) * d <= t) {
            by += (ends_[b] + ends_[b + 1]) / 2;
            ++b;
        }
        double now = by;
        if (b + 1 < ends_.size()) {
            const double x = t / d - static_cast<double>(b);
            now += x * (ends_[b] + x * (ends_[b + 1] - ends_[b]) / 2);
        } else if (last == by) break;  // all has run by
        flow[k] = std::max(0.0, (now - last) / step);
        last = now;
    }
    double all = by;
    for (; b + 1 < ends_.size(); ++b) all += (ends_[b] + ends_[b + 1]) / 2;
    return all - last;
}

/// Even over a time: the modified rational method.
void CatchmentFlow::even_response(double time, double step) {
    const double steps = std::max(time / step, 1e-9);
    // Rain falls evenly within its step: the mean of an even response over each step, which both ends soften.
    const std::size_t m = static_cast<std::size_t>(std::ceil(steps)) + 1;
    even_.assign(m, 0);
    const auto gone = [&](double x) {  // share that has run off x steps after the rain of a step began
        const auto ramp = [&](double y) { return y <= 0 ? 0 : y >= steps ? y - steps / 2 : y * y / (2 * steps); };
        return ramp(x) - ramp(x - 1);
    };
    for (std::size_t j = 0; j < m; ++j)
        even_[j] = (gone(static_cast<double>(j) + 1) - gone(static_cast<double>(j))) / step;
}
/// A plane that empties by Manning's equation; the depth at the end of a step stands for the step.
double CatchmentFlow::plane(const RunoffArea& a, double step, std::vector<double>& flow) {
    const std::size_t count = flow.size();
    const double power = 5.0 / 3, alpha = a.plane_width * std::sqrt(a.plane_slope) / (a.plane_roughness * a.area);
    double d = 0;
    for (std::size_t k = 0; k < count; ++k) {
        const double fell = k < runs_.size() ? runs_[k] / a.area : 0, known = d + fell;
        if (known <= 0) continue;
        double low = 0, high = known;
        for (int i = 0; i < 60 && high - low > 1e-15 * known; ++i) {
            const double x = (low + high) / 2;
            (x + step * alpha * std::pow(x, power) < known ? low : high) = x;
        }
        d = (low + high) / 2;
        flow[k] = (known - d) * a.area / step;
    }
    return d * a.area;
}

}  // namespace culvert
