// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydrology/design_storm.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace culvert {

std::vector<double> alternating_blocks(const IdfCurve& curve, double step, int blocks) {
    std::vector<double> depths;
    double before = 0;
    for (int k = 1; k <= blocks; ++k) {
        const double whole = std::max(before, curve.intensity(k * step) * (k * step));
        depths.push_back(whole - before);
        before = whole;
    }
    std::stable_sort(depths.begin(), depths.end(), [](double a, double b) { return a > b; });
    std::vector<double> storm(depths.size());
    const auto middle = static_cast<std::ptrdiff_t>((depths.size() - 1) / 2);
    for (std::size_t k = 0; k < depths.size(); ++k) {  // middle, after, before, after ...
        const auto away = static_cast<std::ptrdiff_t>((k + 1) / 2);
        storm[static_cast<std::size_t>(k % 2 ? middle + away : middle - away)] = depths[k];
    }
    return storm;
}

std::vector<double> keifer_chu(double a, double b, double c, double peak, double step, int blocks) {
    const double whole = step * blocks, at = peak * whole;
    // Depth of the heaviest time t is P(t) = a t / (t + b)^c; the share `peak` of it falls before the peak.
    const auto depth = [&](double t) { return t > 0 ? a * t / std::pow(t + b, c) : 0; };
    const auto fallen = [&](double t) {
        if (t < at) return peak * (depth(whole) - depth((at - t) / peak));
        return peak * depth(whole) + (peak < 1 ? (1 - peak) * depth((t - at) / (1 - peak)) : 0);
    };
    std::vector<double> storm;
    double before = 0;
    for (int k = 1; k <= blocks; ++k) {
        const double now = fallen(k * step);
        storm.push_back(now - before);
        before = now;
    }
    return storm;
}

namespace {
struct Ordinate {
    double hour;
    std::array<double, 4> share;  ///< I, IA, II, III
};
constexpr Ordinate nrcs_ordinates[] = {
    {0, {0, 0, 0, 0}},
    {2, {0.035, 0.050, 0.022, 0.020}},
    {4, {0.076, 0.116, 0.048, 0.043}},
    {6, {0.125, 0.206, 0.080, 0.072}},
    {7, {0.156, 0.268, 0.098, 0.089}},
    {8, {0.194, 0.425, 0.120, 0.115}},
    {8.5, {0.219, 0.480, 0.133, 0.130}},
    {9, {0.254, 0.520, 0.147, 0.148}},
    {9.5, {0.303, 0.550, 0.163, 0.167}},
    {9.75, {0.362, 0.564, 0.172, 0.178}},
    {10, {0.515, 0.577, 0.181, 0.189}},
    {10.5, {0.583, 0.601, 0.204, 0.216}},
    {11, {0.624, 0.624, 0.235, 0.250}},
    {11.5, {0.654, 0.645, 0.283, 0.298}},
    {11.75, {0.669, 0.655, 0.357, 0.339}},
    {12, {0.682, 0.664, 0.663, 0.500}},
    {12.5, {0.706, 0.683, 0.735, 0.702}},
    {13, {0.727, 0.701, 0.772, 0.751}},
    {13.5, {0.748, 0.719, 0.799, 0.785}},
    {14, {0.767, 0.736, 0.820, 0.811}},
    {16, {0.830, 0.800, 0.880, 0.886}},
    {20, {0.926, 0.906, 0.952, 0.957}},
    {24, {1, 1, 1, 1}},
};
}  // namespace

double nrcs_share(Nrcs24 type, double time) {
    const auto which = static_cast<std::size_t>(type);
    const double hour = time / 3600;
    if (!(hour > 0)) return 0;
    for (std::size_t k = 1; k < std::size(nrcs_ordinates); ++k)
        if (const Ordinate& p = nrcs_ordinates[k - 1], &q = nrcs_ordinates[k]; hour < q.hour)
            return p.share[which] + (q.share[which] - p.share[which]) * (hour - p.hour) / (q.hour - p.hour);
    return 1;
}
std::vector<double> nrcs_storm(Nrcs24 type, double depth, double step) {
    std::vector<double> storm;
    const int blocks = static_cast<int>(std::ceil(86400 / step - 1e-9));
    for (int k = 0; k < blocks; ++k)
        storm.push_back(depth * (nrcs_share(type, (k + 1) * step) - nrcs_share(type, k * step)));
    return storm;
}
std::vector<double> uniform_storm(double depth, int blocks) {
    return std::vector<double>(static_cast<std::size_t>(std::max(blocks, 0)), blocks > 0 ? depth / blocks : 0);
}

}  // namespace culvert
