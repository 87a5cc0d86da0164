// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydrology/unit_hydrograph.h"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace culvert {
namespace {

struct Ordinate {
    double t, q;
};
constexpr Ordinate curvilinear[] = {{0, 0},       {0.1, 0.03},  {0.2, 0.1},  {0.3, 0.19},  {0.4, 0.31},  {0.5, 0.47},
                                    {0.6, 0.66},  {0.7, 0.82},  {0.8, 0.93}, {0.9, 0.99},  {1, 1},       {1.1, 0.99},
                                    {1.2, 0.93},  {1.3, 0.86},  {1.4, 0.78}, {1.5, 0.68},  {1.6, 0.56},  {1.7, 0.46},
                                    {1.8, 0.39},  {1.9, 0.33},  {2, 0.28},   {2.2, 0.207}, {2.4, 0.147}, {2.6, 0.107},
                                    {2.8, 0.077}, {3, 0.055},   {3.2, 0.04}, {3.4, 0.029}, {3.6, 0.021}, {3.8, 0.015},
                                    {4, 0.011},   {4.5, 0.005}, {5, 0}};

double published(double t) {
    const auto above = std::upper_bound(std::begin(curvilinear), std::end(curvilinear), t,
                                        [](double v, const Ordinate& o) { return v < o.t; });
    if (above == std::begin(curvilinear) || above == std::end(curvilinear)) return 0;
    const Ordinate &a = *(above - 1), &b = *above;
    return a.q + (t - a.t) / (b.t - a.t) * (b.q - a.q);
}

}  // namespace

double gamma_exponent(double peak_factor) {
    // Integral of (x e^(1-x))^m over all x: e^m Gamma(m + 1) / m^(m + 1); it falls as m grows.
    const auto factor = [](double m) { return 645.33 / std::exp(m + std::lgamma(m + 1) - (m + 1) * std::log(m)); };
    double low = 1e-3, high = 200;
    for (int i = 0; i < 100; ++i) {
        const double m = std::sqrt(low * high);
        (factor(m) < peak_factor ? low : high) = m;
    }
    return std::sqrt(low * high);
}

std::vector<double> unit_hydrograph(double lag, double step, double peak_factor) {
    const double peak = step / 2 + lag;
    const bool usual = peak_factor == nrcs_peak_factor;
    const double m = usual ? 0 : gamma_exponent(peak_factor);
    std::vector<double> q;
    double sum = 0;
    // A gamma shape has no end: it is left where it is a millionth of its peak.
    for (double t = step / peak;; t += step / peak) {
        const double v = usual ? published(t) : std::pow(t * std::exp(1 - t), m);
        if (t > 1 && v < (usual ? 1e-12 : 1e-6)) break;
        q.push_back(v);
        sum += v;
    }
    if (q.empty() || sum <= 0) return {1 / step};  // all of it within one step
    for (double& v : q) v /= sum * step;
    return q;
}

double required_volume(std::span<const double> flow, double step, double allowed, ReleaseCut cut) {
    // The flow is 0 before its first value, which stands at the end of the first step.
    const auto at = [&](std::size_t i) { return i == 0 ? 0.0 : flow[i - 1]; };
    const std::size_t n = flow.size();
    // The last place where the falling limb comes down to the allowed flow.
    double crossing = -1;
    for (std::size_t i = 0; i < n; ++i)
        if (at(i) > allowed && at(i + 1) <= allowed)
            crossing = (static_cast<double>(i) + (at(i) - allowed) / (at(i) - at(i + 1))) * step;
    if (crossing < 0) {
        if (n == 0 || !(flow[n - 1] > allowed)) return 0;  // it never rises above
        crossing = static_cast<double>(n) * step;          // it stands above it to its end
    }
    double start = 0;
    for (std::size_t i = 0; i < n && at(i + 1) <= 0; ++i) start = static_cast<double>(i + 1) * step;
    const auto cut_at = [&](double t) {
        if (cut == ReleaseCut::Flat) return allowed;
        return t <= start ? 0 : allowed * (t - start) / (crossing - start);
    };
    double volume = 0;
    for (std::size_t i = 0; i < n; ++i) {
        const double t0 = static_cast<double>(i) * step, t1 = std::min(t0 + step, crossing);
        if (t1 <= t0) break;
        const double share = (t1 - t0) / step, a = at(i) - cut_at(t0),
                     b = at(i) + share * (at(i + 1) - at(i)) - cut_at(t1), dt = t1 - t0;
        if (a >= 0 && b >= 0) volume += (a + b) / 2 * dt;
        else if (a > 0 || b > 0) {
            const double above = std::max(a, b), below = -std::min(a, b);
            volume += above / 2 * dt * above / (above + below);
        }
    }
    return volume;
}

}  // namespace culvert
