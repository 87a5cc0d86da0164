// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/reach_routing.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/hydraulics/uniform_flow.h"

namespace culvert {

double lag(std::span<const double> in, double before, double steps, std::span<double> out) {
    const std::size_t n = std::min(in.size(), out.size());
    if (!(steps > 0)) steps = 0;
    const double whole = std::floor(steps), f = steps - whole;
    const std::size_t k = whole >= static_cast<double>(n) ? n : static_cast<std::size_t>(whole);
    const auto value = [&](std::size_t i, std::size_t back) { return back > i ? before : in[i - back]; };
    for (std::size_t i = 0; i < n; ++i) out[i] += (1 - f) * value(i, k) + f * value(i, k + 1);
    // What entered in the last k and f steps, less what stood there before.
    double left = 0;
    for (std::size_t i = n - std::min(k, n); i < n; ++i) left += in[i] - before;
    if (k < n) left += f * (in[n - k - 1] - before);
    return left;
}

namespace {

/// Flow by the wetted area of uniform flow in one reach, and back.
struct Rating {
    static constexpr std::size_t rows = 33;
    std::array<double, rows> area{}, flow{};

    explicit Rating(const Link& l) {
        const double top = height(l.section), s = std::sqrt(std::max(l.slope, 1e-12));
        for (std::size_t i = 0; i < rows; ++i) {
            const double y = top * static_cast<double>(i) / (rows - 1);
            area[i] = l.barrels * wetted(l.section, y).area;
            flow[i] = i == 0 ? 0 : l.barrels * conveyance(l.section, l.roughness, y) * s;
        }
        // A closed section carries most below its top: the rising part holds.
        for (std::size_t i = 1; i < rows; ++i) flow[i] = std::max(flow[i], flow[i - 1] * (1 + 1e-9));
    }
    [[nodiscard]] double flow_of(double a) const {
        if (a >= area.back()) return flow.back();
        const auto at = std::upper_bound(area.begin(), area.end(), a);
        const std::size_t i = std::max<std::size_t>(1, static_cast<std::size_t>(at - area.begin()));
        return flow[i - 1] + (flow[i] - flow[i - 1]) * (a - area[i - 1]) / (area[i] - area[i - 1]);
    }
    [[nodiscard]] double area_of(double q) const {
        if (q >= flow.back()) return area.back();
        const auto at = std::upper_bound(flow.begin(), flow.end(), q);
        const std::size_t i = std::max<std::size_t>(1, static_cast<std::size_t>(at - flow.begin()));
        return area[i - 1] + (area[i] - area[i - 1]) * (q - flow[i - 1]) / (flow[i] - flow[i - 1]);
    }
};

}  // namespace

double kinematic(const Link& l, std::span<const double> in, double before, double step, double travel,
                 std::vector<Reach>& reaches, std::span<double> out) {
    const Rating rating(l);
    const std::size_t m = static_cast<std::size_t>(std::clamp(std::round(travel / step), 1.0, 64.0));
    const double length = l.length / static_cast<double>(m), full = rating.area.back() * length;
    reaches.assign(m, {rating.area_of(before) * length});
    double first = 0, last = 0;
    for (const Reach& r : reaches) first += r.volume;
    const std::size_t n = std::min(in.size(), out.size());
    for (std::size_t i = 0; i < n; ++i) {
        double q = in[i];
        for (Reach& r : reaches) {
            const double known = r.volume + q * step;
            double v = 0;
            if (known - rating.flow.back() * step >= full) v = full;  // it is full, and gives on the rest
            else {
                double low = 0, high = std::min(known, full);
                for (int k = 0; k < 50 && high - low > 1e-12 * full; ++k) {
                    const double x = (low + high) / 2;
                    (x + rating.flow_of(x / length) * step < known ? low : high) = x;
                }
                v = (low + high) / 2;
            }
            q = (known - v) / step;
            r.volume = v;
        }
        out[i] += q;
    }
    for (const Reach& r : reaches) last += r.volume;
    return last - first;
}

}  // namespace culvert
