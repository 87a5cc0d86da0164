// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydraulics/outlet.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "core/hydraulics/section.h"

namespace culvert {
namespace {

double speed(double head) { return std::sqrt(2 * gravity * std::max(head, 0.0)); }

/// Integral of width x velocity over the wetted height of an opening, under a level h over its invert: by Gauss in an
/// angle, y = a sin^2, in which widths of circles and the velocity at the surface are smooth.
template <class Width>
double wetted_flow(double top, double h, Width width) {
    constexpr double x[] = {0.1488743389816312, 0.4333953941292472, 0.6794095682990244, 0.8650633666889845,
                            0.9739065285171717},
                     w[] = {0.2955242247147529, 0.2692667193099963, 0.2190863625159820, 0.1494513491505806,
                            0.0666713443086881};
    constexpr int parts = 4;
    const double a = std::min(top, h), wide = std::numbers::pi / 2 / parts;
    double sum = 0;
    for (int p = 0; p < parts; ++p)
        for (int i = 0; i < 5; ++i)
            for (const double side : {-1.0, 1.0}) {
                const double angle = (p + 0.5 + side * x[i] / 2) * wide, s = std::sin(angle), y = a * s * s;
                sum += w[i] * wide / 2 * a * std::sin(2 * angle) * std::sqrt(std::max(0.0, h - y)) * width(y);
            }
    return std::sqrt(2 * gravity) * sum;
}

/// An opening of a height: free, in part under the water outside, or wholly. Below the level outside the difference of
/// levels drives it, above it water falls free, so that nothing leaps as either level passes its middle or its top.
/// @param wetted  integral of width x velocity over what is wet of it, by the level over its invert
/// @param parted  the same above a height, and the area below it, by the level and that height
/// @param spread  variance of the heights of its area over the square of its height
template <class Wetted, class Parted>
OutletFlow opening(double invert, double height, double area, double coefficient, double level, double outside,
                   Wetted wetted, Parted parted, double spread) {
    const double h = level - invert, tail = outside - invert;
    if (!(h > 0) || !(area > 0)) return {};
    if (outside >= level) return {0, OutletControl::Drowned};
    if (tail >= height) return {coefficient * area * speed(level - outside), OutletControl::Drowned};
    OutletFlow free{0, h < height ? OutletControl::PartOrifice : OutletControl::Orifice};
    const bool deep = h >= height * 3;
    const double plain = coefficient * area * speed(h - height / 2), whole = deep ? plain : coefficient * wetted(h);
    // Over the opening the integral goes over into the head on its middle.
    free.flow = h < height ? whole : whole + (h - height) / (2 * height) * (plain - whole);
    if (!(tail > 0)) return free;
    // What the head on the middle gives more than the integral goes to nothing as it drowns.
    const double head = h - height / 2,
                 more = deep ? plain * spread * height * height / (8 * head * head) : free.flow - whole;
    const auto [falls, below] = parted(h, tail);
    free.flow = coefficient * (falls + below * speed(h - tail)) + more * (1 - tail / height);
    if (tail > height / 2) free.control = OutletControl::Drowned;
    return free;
}

/// Villemonte's reduction of a sharp crest.
double drowned(double head, double tail, double exponent) {
    if (!(tail > 0)) return 1;
    if (tail >= head) return 0;
    return std::pow(1 - std::pow(tail / head, exponent), 0.385);
}
OutletFlow over(double flow, double head, double tail, double exponent) {
    if (!(head > 0)) return {};
    return {flow * drowned(head, tail, exponent), tail > 0 ? OutletControl::Drowned : OutletControl::Weir};
}

/// Integral of width x velocity of a circle of diameter 1 under a level over its invert, both over (2 g)^1/2: a table
/// of the quadrature above, read by cubics; one part up to the crown, where the integrand changes, and one above it.
class CircleTable {
  public:
    CircleTable() {
        for (int i = 0; i <= count; ++i) {
            low_[static_cast<std::size_t>(i)] = i == 0 ? 0 : at(static_cast<double>(i) / count);
            high_[static_cast<std::size_t>(i)] = at(1 + 2 * static_cast<double>(i) / count);
        }
    }
    [[nodiscard]] double operator()(double h) const {
        return h <= 1 ? read(low_, h * count) : read(high_, (h - 1) / 2 * count);
    }

  private:
    static constexpr int count = 512;
    static double at(double h) {
        return wetted_flow(1.0, h, [](double y) { return 2 * std::sqrt(std::max(0.0, y * (1 - y))); }) /
               std::sqrt(2 * gravity);
    }
    static double read(const std::array<double, count + 1>& list, double x) {
        const int before = std::clamp(static_cast<int>(x), 1, count - 2);
        const auto i = static_cast<std::size_t>(before);
        const double t = x - before, a = list[i - 1], b = list[i], c = list[i + 1], d = list[i + 2];
        return std::max(0.0, -t * (t - 1) * (t - 2) / 6 * a + (t + 1) * (t - 1) * (t - 2) / 2 * b -
                                 (t + 1) * t * (t - 2) / 2 * c + (t + 1) * t * (t - 1) / 6 * d);
    }
    std::array<double, count + 1> low_{}, high_{};
};

/// Integral of width x velocity of a circle above a height t, under a level h: by Gauss in an angle a, y = t + (top -
/// t) sin^2 a, in which the width at the sill, and the width at the crown or the velocity at the surface, are smooth.
double above(double d, double h, double t) {
    struct Node {
        double height, weight;  ///< share of the height above t; with what does not change from call to call
    };
    static const auto nodes = [] {
        constexpr double x[] = {0.1834346424956498, 0.5255324099163290, 0.7966664774136267, 0.9602898564975363},
                         w[] = {0.3626837833783620, 0.3137066458778873, 0.2223810344533745, 0.1012285362903763};
        std::array<Node, 8> list{};
        for (std::size_t i = 0; i < 8; ++i) {
            const double angle = (1 + (i < 4 ? -x[i] : x[i - 4])) * std::numbers::pi / 4, s = std::sin(angle);
            list[i] = {s * s, std::sqrt(2 * gravity) * w[i % 4] * std::numbers::pi * s * (1 - s * s)};
        }
        return list;
    }();
    const double top = std::min(h, d), over = top - t, other = std::max(h, d);
    double sum = 0;
    for (const Node& n : nodes) {
        const double y = t + over * n.height;
        sum += n.weight * std::sqrt(y * (other - y));
    }
    return over * std::sqrt(over) * sum;
}
OutletFlow flow_of(const CircularOrifice& o, double level, double outside) {
    static const CircleTable table;
    const double d = o.diameter, scale = std::sqrt(2 * gravity) * d * d * std::sqrt(d);
    return opening(
        o.invert, d, std::numbers::pi * d * d / 4, o.coefficient, level, outside,
        [&](double h) { return scale * table(h / d); },
        [d](double h, double t) {
            return std::pair{above(d, h, t), wetted(Circular{d}, t).area};
        },
        1.0 / 16);
}
OutletFlow flow_of(const BoxOrifice& o, double level, double outside) {
    // Of a band from a height up: the difference of two such under a free surface.
    const auto band = [&](double h, double from) {
        const double under = h - from, over = std::max(0.0, h - o.height);
        return std::sqrt(2 * gravity) * o.width * 2 / 3 * (under * std::sqrt(under) - over * std::sqrt(over));
    };
    return opening(
        o.invert, o.height, o.width * o.height, o.coefficient, level, outside, [&](double h) { return band(h, 0); },
        [&](double h, double t) {
            return std::pair{band(h, t), o.width * t};
        },
        1.0 / 12);
}
OutletFlow flow_of(const SharpWeir& o, double level, double outside) {
    const double h = level - o.crest, length = std::max(0.0, o.length - 0.1 * o.contractions * std::max(h, 0.0));
    return over(o.coefficient * length * std::pow(std::max(h, 0.0), 1.5), h, outside - o.crest, 1.5);
}
OutletFlow flow_of(const BroadWeir& o, double level, double outside) {
    constexpr double modular = 0.8;  // of the head, over the crest
    const double h = level - o.crest, tail = outside - o.crest;
    if (!(h > 0)) return {};
    const double free = o.coefficient * o.length * std::pow(h, 1.5);
    if (!(tail > modular * h)) return {free, OutletControl::Weir};
    if (tail >= h) return {0, OutletControl::Drowned};
    const double s = (1 - tail / h) / (1 - modular);
    return {free * std::sqrt(s), OutletControl::Drowned};
}
OutletFlow flow_of(const NotchWeir& o, double level, double outside) {
    const double h = level - o.crest, half = std::tan(o.angle * std::numbers::pi / 360);
    return over(8.0 / 15 * o.coefficient * std::sqrt(2 * gravity) * half * std::pow(std::max(h, 0.0), 2.5), h,
                outside - o.crest, 2.5);
}
OutletFlow flow_of(const CipollettiWeir& o, double level, double outside) {
    const double h = level - o.crest;
    return over(o.coefficient * o.length * std::pow(std::max(h, 0.0), 1.5), h, outside - o.crest, 1.5);
}
OutletFlow flow_of(const Riser& o, double level, double outside) {
    const double h = level - o.rim;
    if (!(h > 0)) return {};
    const OutletFlow rim = over(o.weir * o.perimeter * std::pow(h, 1.5), h, outside - o.rim, 1.5);
    const bool under = outside > o.rim;
    const OutletFlow mouth{o.orifice * o.area * speed(under ? level - outside : h),
                           under ? OutletControl::Drowned : OutletControl::Orifice};
    return mouth.flow < rim.flow ? mouth : rim;
}
OutletFlow flow_of(const RatedOutlet& o, double level, double) {
    if (o.levels.empty() || level <= o.levels.front()) return {};
    const auto above = std::upper_bound(o.levels.begin(), o.levels.end(), level);
    if (above == o.levels.end()) return {o.flows.back(), OutletControl::Rating};
    const auto i = static_cast<std::size_t>(above - o.levels.begin());
    return {
        o.flows[i - 1] + (level - o.levels[i - 1]) / (o.levels[i] - o.levels[i - 1]) * (o.flows[i] - o.flows[i - 1]),
        OutletControl::Rating};
}

double crest_of(const CircularOrifice& o) { return o.invert; }
double crest_of(const BoxOrifice& o) { return o.invert; }
double crest_of(const SharpWeir& o) { return o.crest; }
double crest_of(const BroadWeir& o) { return o.crest; }
double crest_of(const NotchWeir& o) { return o.crest; }
double crest_of(const CipollettiWeir& o) { return o.crest; }
double crest_of(const Riser& o) { return o.rim; }
double crest_of(const RatedOutlet& o) { return o.levels.empty() ? HUGE_VAL : o.levels.front(); }

}  // namespace

std::string_view control_text(OutletControl control) {
    switch (control) {
        case OutletControl::Dry: return "dry";
        case OutletControl::Weir: return "crest";
        case OutletControl::PartOrifice: return "opening in part under water";
        case OutletControl::Orifice: return "opening under water";
        case OutletControl::Drowned: return "level outside";
        case OutletControl::Rating: return "rating";
        case OutletControl::Entrance: return "entrance of the culvert";
        case OutletControl::Barrel: return "barrel of the culvert";
        case OutletControl::Pump: return "pump";
        case OutletControl::Behind: return "the way out behind";
    }
    return "";
}
OutletFlow outlet_flow(const Outlet& outlet, double level, double outside) {
    return std::visit([&](const auto& o) { return flow_of(o, level, outside); }, outlet);
}
double outlet_crest(const Outlet& outlet) {
    return std::visit([](const auto& o) { return crest_of(o); }, outlet);
}

}  // namespace culvert
