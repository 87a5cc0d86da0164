// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydraulics/open_channel.h"

#include <cmath>

#include "core/hydraulics/section.h"

namespace culvert {

double channel_capacity(const Trapezoid& c, double slope, double n, double y) {
    if (y <= 0) return 0;
    const double area = (c.width + c.sides * y) * y, wet = c.width + 2 * y * std::sqrt(1 + c.sides * c.sides);
    return area * std::pow(area / wet, 2.0 / 3) * std::sqrt(slope) / n;
}

ChannelState channel_flow(const Trapezoid& c, double slope, double n, double flow) {
    ChannelState out;
    if (!(flow > 0) || !(slope > 0)) return out;
    double low = 0, high = 1;
    while (channel_capacity(c, slope, n, high) < flow && high < 1e4) high *= 2;
    // The capacity rises with depth: a bracket, halved until both ends are one number.
    for (int i = 0; i < 200 && high - low > 1e-13 * high; ++i) {
        const double y = (low + high) / 2;
        (channel_capacity(c, slope, n, y) < flow ? low : high) = y;
    }
    constexpr double water = 1000;  // kg/m3
    out.depth = (low + high) / 2;
    out.area = (c.width + c.sides * out.depth) * out.depth;
    out.top = c.width + 2 * c.sides * out.depth;
    out.velocity = flow / out.area;
    out.froude = out.velocity / std::sqrt(gravity * out.area / out.top);
    out.shear = water * gravity * out.depth * slope;
    return out;
}

}  // namespace culvert
