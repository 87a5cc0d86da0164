// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/streets/gutter.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace culvert {
namespace {

constexpr double nan = std::numeric_limits<double>::quiet_NaN();

/// x^(8/3) and x^(5/3) of a depth.
double eight_thirds(double x) {
    const double r = std::cbrt(x);
    return x * x * r * r;
}
double five_thirds(double x) {
    const double r = std::cbrt(x);
    return x * r * r;
}

/// Gauss-Legendre, 12 points on (0, 1).
constexpr std::array<double, 6> nodes{0.1252334085114689, 0.3678314989981802, 0.5873179542866175,
                                      0.7699026741943047, 0.9041172563704749, 0.9815606342467192};
constexpr std::array<double, 6> weights{0.2491470458134028, 0.2334925365383548, 0.2031674267230659,
                                        0.1600783285433462, 0.1069393259953184, 0.0471753363865118};
template <class F>
double integral(double a, double b, F f) {
    const double mid = (a + b) / 2, half = (b - a) / 2;
    double sum = 0;
    for (std::size_t i = 0; i < nodes.size(); ++i)
        sum += weights[i] * (f(mid - half * nodes[i]) + f(mid + half * nodes[i]));
    return sum * half;
}

double height(const CompositeSection& s, double x) {
    return x <= s.gutter_width ? x * s.gutter_slope
                               : s.gutter_width * s.gutter_slope + (x - s.gutter_width) * s.cross_slope;
}
double height(const ParabolicSection& s, double x) {
    const double u = x / s.to_crown;
    return s.rise * u * (2 - u);
}

double spread(const CompositeSection& s, double d) {
    const double edge = s.gutter_width * s.gutter_slope;
    if (d <= edge) return std::min(d / s.gutter_slope, s.to_crown);
    return s.cross_slope > 0 ? std::min(s.gutter_width + (d - edge) / s.cross_slope, s.to_crown) : s.to_crown;
}
double spread(const ParabolicSection& s, double d) {
    return d >= s.rise ? s.to_crown : s.to_crown * (1 - std::sqrt(1 - d / s.rise));
}
double spread(const SwaleSection& s, double d) { return d / s.left_slope + d / s.right_slope; }

/// (8/3) ∫ d^(5/3) dx from the curb to a width, of water with a depth at the curb.
double carried(const CompositeSection& s, double d, double width) {
    const double end = std::min(spread(s, d), width);
    const double edge = std::min(end, s.gutter_width);
    const auto depth = [&](double x) { return std::max(d - height(s, x), 0.0); };
    double sum = 0;
    if (edge > 0)
        sum += s.gutter_slope > 0 ? (eight_thirds(d) - eight_thirds(depth(edge))) / s.gutter_slope
                                  : 8.0 / 3 * five_thirds(d) * edge;
    if (end > edge)
        sum += s.cross_slope > 0 ? (eight_thirds(depth(edge)) - eight_thirds(depth(end))) / s.cross_slope
                                 : 8.0 / 3 * five_thirds(depth(edge)) * (end - edge);
    return sum;
}
double carried(const ParabolicSection& s, double d, double width) {
    const double t = spread(s, d), end = std::min(t, width);
    // x = t (1 − u²) takes the root off the edge of the water.
    const double from = end >= t ? 0 : std::sqrt(1 - end / t);
    return 8.0 / 3 * integral(from, 1, [&](double u) {
               return five_thirds(std::max(d - height(s, t * (1 - u * u)), 0.0)) * 2 * t * u;
           });
}
/// A swale has no curb: its width is taken about its middle, in proportion to both sides.
double carried(const SwaleSection& s, double d, double width) {
    const double t = spread(s, d), share = t > 0 ? std::min(width / t, 1.0) : 1;
    const double left = eight_thirds(d) - eight_thirds(d * (1 - share));
    return left / s.left_slope + left / s.right_slope;
}

/// How fast that grows with the depth over the whole width: (8/3) (5/3) ∫ d^(2/3) dx.
double carried_slope(const CompositeSection& s, double d) {
    const double end = spread(s, d), edge = std::min(end, s.gutter_width);
    const double at_edge = std::max(d - height(s, edge), 0.0), at_end = std::max(d - height(s, end), 0.0);
    const auto part = [](double deep, double shallow, double slope, double width) {
        const double r = std::cbrt((deep + shallow) / 2);
        return slope > 0 ? (five_thirds(deep) - five_thirds(shallow)) / slope : 5.0 / 3 * r * r * width;
    };
    return 8.0 / 3 * (part(d, at_edge, s.gutter_slope, edge) + part(at_edge, at_end, s.cross_slope, end - edge));
}
double carried_slope(const ParabolicSection& s, double d) {
    const double step = d * 1e-6;
    return (carried(s, d, 1e9) - carried(s, d - step, 1e9)) / step;
}
double carried_slope(const SwaleSection& s, double d) {
    return 8.0 / 3 * five_thirds(d) * (1 / s.left_slope + 1 / s.right_slope);
}

double area(const CompositeSection& s, double d) {
    const double t = spread(s, d), edge = std::min(t, s.gutter_width);
    const double at_edge = std::max(d - edge * s.gutter_slope, 0.0), at_end = std::max(d - height(s, t), 0.0);
    return (d + at_edge) / 2 * edge + (at_edge + at_end) / 2 * (t - edge);
}
double area(const ParabolicSection& s, double d) {
    const double t = spread(s, d), u = t / s.to_crown;
    return d * t - s.rise * s.to_crown * (u * u - u * u * u / 3);
}
double area(const SwaleSection& s, double d) { return d * spread(s, d) / 2; }

double crown(const CompositeSection& s) { return height(s, s.to_crown); }
double crown(const ParabolicSection& s) { return s.rise; }
double crown(const SwaleSection&) { return std::numeric_limits<double>::infinity(); }

}  // namespace

CompositeSection section_of(const StreetShape& s) {
    return {s.gutter_width, s.gutter_slope, s.cross_slope, s.to_curb()};
}

double depth_of_spread(const GutterSection& section, double t) {
    if (const auto* s = std::get_if<SwaleSection>(&section)) return t / (1 / s->left_slope + 1 / s->right_slope);
    return std::visit(
        [&](const auto& s) {
            if constexpr (requires { height(s, t); }) return height(s, std::min(t, s.to_crown));
            else return 0.0;
        },
        section);
}
double spread_of_depth(const GutterSection& section, double depth) {
    return depth > 0 ? std::visit([&](const auto& s) { return spread(s, depth); }, section) : 0;
}
double depth_at_crown(const GutterSection& section) {
    return std::visit([](const auto& s) { return crown(s); }, section);
}
double flow_area(const GutterSection& section, double depth) {
    return depth > 0 ? std::visit([&](const auto& s) { return area(s, depth); }, section) : 0;
}

double flow_of_depth(const Gutter& g, double depth, const StreetConstants& k) {
    if (!(depth > 0) || !(g.grade > 0)) return 0;
    return k.gutter / g.n * std::sqrt(g.grade) *
           std::visit([&](const auto& s) { return carried(s, depth, 1e9); }, g.section);
}

double frontal_share(const GutterSection& section, double depth, double width) {
    if (!(depth > 0)) return 1;
    return std::visit(
        [&](const auto& s) {
            return width >= spread(s, depth) ? 1 : carried(s, depth, width) / carried(s, depth, 1e9);
        },
        section);
}

double depth_of_flow(const Gutter& g, double flow, const StreetConstants& k) {
    if (!(flow > 0)) return flow == 0 ? 0 : nan;
    if (!(g.grade > 0) || !(g.n > 0)) return nan;
    const double want = flow * g.n / (k.gutter * std::sqrt(g.grade));  // (8/3) ∫ d^(5/3) dx
    const auto power = [](double x) { return std::pow(x, 3.0 / 8); };
    if (const auto* s = std::get_if<SwaleSection>(&g.section))
        return power(want / (1 / s->left_slope + 1 / s->right_slope));
    if (const auto* s = std::get_if<CompositeSection>(&g.section)) {
        const double d = s->gutter_slope > 0 ? power(want * s->gutter_slope) : nan;
        if (d <= std::min(s->gutter_width, s->to_crown) * s->gutter_slope) return d;
        if (s->gutter_width <= 0 && s->cross_slope > 0) {
            const double plain = power(want * s->cross_slope);
            if (plain <= s->to_crown * s->cross_slope) return plain;
        }
    }
    // The flow rises with depth, ever faster: Newton from above never oversteps.
    const auto carry = [&](double d) {
        return std::visit([&](const auto& s) { return carried(s, d, 1e9); }, g.section);
    };
    double low = 0, high = 0.05;
    // All of it in the steeper of the two slopes stands at least as deep.
    if (const auto* s = std::get_if<CompositeSection>(&g.section))
        high = power(want * std::max(s->gutter_slope, s->cross_slope));
    double at = carry(high);
    while (at < want && high < 1e3) {
        low = high;
        high *= 2;
        at = carry(high);
    }
    double d = high;
    for (int i = 0; i < 60; ++i) {
        const double slope = std::visit([&](const auto& s) { return carried_slope(s, d); }, g.section);
        double next = d - (at - want) / slope;
        if (!(next > low && next < high)) next = (low + high) / 2;
        const double moved = std::abs(next - d);
        d = next;
        if (moved <= 1e-15 + 1e-10 * d) break;  // the step after this one would be below rounding
        at = carry(d);
        (at < want ? low : high) = d;
    }
    return d;
}

GutterFlow gutter_flow(const Gutter& g, double flow, const StreetConstants& k) {
    GutterFlow f;
    f.depth = depth_of_flow(g, flow, k);
    if (!(f.depth > 0)) return f;
    f.spread = spread_of_depth(g.section, f.depth);
    f.velocity = flow / flow_area(g.section, f.depth);
    const double crown_depth = depth_at_crown(g.section);
    if (f.depth > crown_depth) f.over_crown = flow - flow_of_depth(g, crown_depth, k);
    return f;
}

double ditch_area(const Ditch& d, double y) { return y > 0 ? (d.bottom + (d.left_run + d.right_run) / 2 * y) * y : 0; }
double ditch_flow(const Ditch& d, double y) {
    if (!(y > 0) || !(d.grade > 0)) return 0;
    const double a = ditch_area(d, y), p = d.bottom + y * (std::hypot(1, d.left_run) + std::hypot(1, d.right_run)),
                 r = a / p;
    return a * std::cbrt(r * r) * std::sqrt(d.grade) / d.n;
}
double ditch_depth(const Ditch& d, double flow) {
    if (!(flow > 0)) return flow == 0 ? 0 : nan;
    if (!(d.grade > 0) || !(d.n > 0)) return nan;
    double low = 0, high = 0.1;
    while (ditch_flow(d, high) < flow && high < 1e4) {
        low = high;
        high *= 2;
    }
    for (int i = 0; i < 100 && high - low > 1e-13 * high; ++i) {
        const double mid = (low + high) / 2;
        (ditch_flow(d, mid) < flow ? low : high) = mid;
    }
    return (low + high) / 2;
}

}  // namespace culvert
