// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydraulics/access_hole.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"

namespace culvert {
namespace {

/// CB where the bench is not submerged (E/D <= 1) and where it is (E/D >= 2.5).
struct Bench {
    double dry, wet;
};
constexpr Bench benches[] = {{0, 0}, {-0.05, -0.05}, {-0.85, -0.05}, {-0.93, -0.25}, {-0.98, -0.60}};

double bench_coefficient(Benching floor, double submergence) {
    const Bench& b = nth(benches, floor);
    const double share = std::clamp((submergence - 1) / 1.5, 0.0, 1.0);
    return b.dry + share * (b.wet - b.dry);
}

}  // namespace

AccessHoleEnergy access_hole_energy(const Section& outflow, double outflow_energy, double velocity, double flow,
                                    Benching floor, std::span<const HoleInflow> inflows, double depth) {
    AccessHoleEnergy e;
    const double d = height(outflow), intensity = flow / (full_area(outflow) * std::sqrt(gravity * d));
    e.outlet = outflow_energy + access_hole_entrance * velocity * velocity / (2 * gravity);
    e.submerged = d * intensity * intensity;
    e.unsubmerged = 1.6 * d * std::pow(intensity, 0.67);
    e.first = std::max({e.outlet, e.submerged, e.unsubmerged, outflow_energy});
    const double excess = e.first - outflow_energy;
    double all = 0;
    for (const HoleInflow& in : inflows) all += in.flow;
    const double own = std::max(0.0, flow - all), scale = all > flow ? flow / all : 1;
    double level_flow = 0, turned = 0, plunge = 0;
    const auto fall = [&](double from) { return std::min((from - e.first) / d, 10.0); };
    for (const HoleInflow& in : inflows) {
        const double q = in.flow * scale;
        if (in.invert > e.first) plunge += q * fall(in.invert);
        else {
            level_flow += q;
            turned += q * in.turn;
        }
    }
    if (own > 0 && depth > e.first) plunge += own * fall(depth);
    constexpr double radian = 57.29577951308232;
    e.benching = bench_coefficient(floor, e.first / d);
    e.angle = level_flow > 0 ? 4.5 * (level_flow / flow) * std::cos(turned / level_flow / 2 / radian) : 0;
    if (std::abs(e.angle) < 1e-12) e.angle = 0;
    e.plunging = plunge / flow;
    e.energy = std::max(e.first + (e.benching + e.angle + e.plunging) * excess, outflow_energy);
    return e;
}

}  // namespace culvert
