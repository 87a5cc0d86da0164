// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydrology/design_storm.h"

#include <algorithm>

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

}  // namespace culvert
