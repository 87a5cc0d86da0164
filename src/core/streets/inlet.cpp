// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/streets/inlet.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace culvert {
namespace {

constexpr double gravity = 9.81, orifice = 0.67;
constexpr double infinite = std::numeric_limits<double>::infinity();

double cross_slope(const GutterSection& s) {
    if (const auto* c = std::get_if<CompositeSection>(&s)) return c->cross_slope;
    if (const auto* p = std::get_if<ParabolicSection>(&s)) return 2 * p->rise / p->to_crown;  // at the curb
    return std::get<SwaleSection>(s).right_slope;
}
/// Mean fall across a width at the curb: how much less the water stands over its middle.
double fall_over(const GutterSection& s, double width) { return depth_of_spread(s, width) / 2; }

/// The share that an opening takes of what reaches it.
double share_of_length(double length, double all) {
    return length >= all ? 1 : 1 - std::pow(1 - std::max(length, 0.0) / all, 1.8);
}

double effective_slope(const CurbOpening& o, const Gutter& g, double depth, double* eo) {
    // The gutter's own fall below the lanes, and the local depression, over the width they take.
    const double sx = cross_slope(g.section);
    double width = 0, depression = o.depression;
    if (const auto* c = std::get_if<CompositeSection>(&g.section); c && c->gutter_width > 0) {
        width = c->gutter_width;
        depression += c->gutter_width * (c->gutter_slope - c->cross_slope);
    }
    if (width <= 0) width = o.depression > 0 ? o.depression_width : 0;
    if (width <= 0) return sx;
    *eo = frontal_share(g.section, depth, width);
    return sx + depression / width * *eo;
}

void take(const Grate& grate, const Gutter& g, double flow, double depth, double velocity, const StreetConstants& k,
          Capture& c) {
    const double length = grate.length * (1 - grate.clogging);
    c.frontal_share = frontal_share(g.section, depth, grate.width);
    c.frontal = length <= 0 ? 0
                : std::isfinite(grate.splash_velocity)
                    ? std::clamp(1 - k.splash * (velocity - grate.splash_velocity), 0.0, 1.0)
                    : 1;
    const double sx = cross_slope(g.section);
    c.side = length <= 0 || sx <= 0 ? 0 : 1 / (1 + k.side * std::pow(velocity, 1.8) / (sx * std::pow(length, 2.3)));
    c.captured = flow * (c.frontal * c.frontal_share + c.side * (1 - c.frontal_share));
}
void take(const CurbOpening& o, const Gutter& g, double flow, double depth, double length, const StreetConstants& k,
          Capture& c) {
    double eo = 1;
    c.effective_slope = effective_slope(o, g, depth, &eo);
    c.total_length = length_for_all(flow, g.grade, g.n, c.effective_slope, k);
    c.captured = flow * share_of_length(length * (1 - o.clogging), c.total_length);
}

struct OnGrade {
    const Gutter& g;
    double flow;
    const StreetConstants& k;
    Capture& c;
    void operator()(const Grate& i) const { take(i, g, flow, c.approach.depth, c.approach.velocity, k, c); }
    void operator()(const AreaInlet& i) const { (*this)(i.grate); }
    void operator()(const CurbOpening& i) const { take(i, g, flow, c.approach.depth, i.length, k, c); }
    void operator()(const SlottedDrain& i) const {
        c.effective_slope = cross_slope(g.section);
        c.total_length = length_for_all(flow, g.grade, g.n, c.effective_slope, k);
        c.captured = flow * share_of_length(i.length * (1 - i.clogging), c.total_length);
    }
    void operator()(const CombinationInlet& i) const {
        double rest = flow;
        if (i.opening.length > i.grate.length) {
            take(i.opening, g, flow, c.approach.depth, i.opening.length - i.grate.length, k, c);
            c.swept = c.captured;
            rest -= c.swept;
        }
        if (rest > 0) {
            const GutterFlow past = rest == flow ? c.approach : gutter_flow(g, rest, k);
            take(i.grate, g, rest, past.depth, past.velocity, k, c);
        }
        c.captured = rest > 0 ? c.swept + c.captured : flow;
    }
    void operator()(const RatedInlet& i) const {
        if (i.approach.empty()) return;
        const auto next = std::upper_bound(i.approach.begin(), i.approach.end(), flow);
        const auto at = static_cast<std::size_t>(next - i.approach.begin());
        if (at == 0) c.captured = std::min(flow, i.captured.front());
        else if (next == i.approach.end()) c.captured = i.captured.back();
        else {
            const double a = i.approach[at - 1], b = i.approach[at];
            c.captured = i.captured[at - 1] + (i.captured[at] - i.captured[at - 1]) * (flow - a) / (b - a);
        }
    }
};

struct Opening {
    double weir = 0, orifice = 0;
    double free_to = 0;  ///< depth up to which it is a weir alone
    [[nodiscard]] double flow(double depth) const { return depth <= free_to ? weir : std::min(weir, orifice); }
};
double root(double x) { return x > 0 ? std::sqrt(x) : 0; }

struct InSag {
    const GutterSection& section;
    double depth;
    const StreetConstants& k;
    Opening grate(const Grate& g, double perimeter) const {
        const double d = std::max(depth - fall_over(section, g.width), 0.0), open = 1 - g.clogging;
        return {k.grate_weir * perimeter * open * d * root(d),
                orifice * g.length * g.width * g.open_share * open * root(2 * gravity * d), 0};
    }
    Opening operator()(const Grate& g) const { return grate(g, g.length + 2 * g.width); }
    Opening operator()(const AreaInlet& a) const { return grate(a.grate, 2 * (a.grate.length + a.grate.width)); }
    Opening operator()(const CurbOpening& o) const { return opening(o, o.length); }
    Opening opening(const CurbOpening& o, double full_length) const {
        const double length = full_length * (1 - o.clogging);
        // Head above the middle of the opening, where the throat turns its area.
        const double lift = o.throat == Throat::Vertical ? 0 : o.throat == Throat::Inclined ? std::sqrt(0.5) : 1;
        const double head = depth + o.depression - o.height / 2 * lift;
        const auto weir = [&](double d) {
            if (o.depression <= 0) return k.curb_weir * length * d * root(d);
            const double depressed =
                k.depressed_weir * (length + 1.8 * o.depression_width * (1 - o.clogging)) * d * root(d);
            return o.length > 3.6 ? std::max(depressed, k.curb_weir * length * d * root(d)) : depressed;
        };
        const double free_to = o.height + o.depression;
        Opening out{weir(depth), orifice * o.height * length * root(2 * gravity * head), free_to};
        // Just after it is covered the orifice would let less through than the weir just before: it never falls.
        out.orifice = std::max(out.orifice, weir(std::min(depth, free_to)));
        return out;
    }
    Opening operator()(const SlottedDrain& s) const {
        const double length = s.length * (1 - s.clogging);
        return {k.slot_weir * length * depth * root(depth), 0.8 * length * s.slot * root(2 * gravity * depth), 0};
    }
    Opening operator()(const CombinationInlet& c) const {
        const Opening g = (*this)(c.grate);
        const double beyond = std::max(c.opening.length - c.grate.length, 0.0);
        // As a weir the grate keeps the water from the opening behind it; as orifices both take their share.
        const Opening side = beyond > 0 ? opening(c.opening, beyond) : Opening{};
        const Opening all = opening(c.opening, c.opening.length);
        return {g.weir + side.weir, g.orifice + all.orifice, 0};
    }
    Opening operator()(const RatedInlet& r) const {
        const double most = r.captured.empty() ? infinite : *std::max_element(r.captured.begin(), r.captured.end());
        return {depth > 0 ? most : 0, depth > 0 ? most : 0, 0};
    }
};

}  // namespace

double length_for_all(double flow, double grade, double n, double se, const StreetConstants& k) {
    if (!(flow > 0) || !(grade > 0)) return 0;
    if (!(se > 0)) return infinite;
    return k.curb_length * std::pow(flow, 0.42) * std::pow(grade, 0.3) * std::pow(n * se, -0.6);
}

Capture on_grade(const InletForm& inlet, const Gutter& gutter, double flow, const StreetConstants& k) {
    Capture c;
    if (!(flow > 0)) return c;
    c.approach = gutter_flow(gutter, flow, k);
    if (!(c.approach.depth > 0)) return c;  // no grade: the caller holds it for a sag
    std::visit(OnGrade{gutter, flow, k, c}, inlet);
    c.captured = std::clamp(c.captured, 0.0, flow);
    c.efficiency = c.captured / flow;
    return c;
}

double sag_capacity(const InletForm& inlet, const GutterSection& section, double depth, const StreetConstants& k) {
    if (!(depth > 0)) return 0;
    return std::visit(InSag{section, depth, k}, inlet).flow(depth);
}

SagControl sag_control(const InletForm& inlet, const GutterSection& section, double depth, const StreetConstants& k) {
    const Opening o = std::visit(InSag{section, depth, k}, inlet);
    return depth <= o.free_to || o.weir <= o.orifice ? SagControl::Weir : SagControl::Orifice;
}

double sag_depth(const InletForm& inlet, const GutterSection& section, double flow, const StreetConstants& k) {
    if (!(flow > 0)) return 0;
    double low = 0, high = 0.1;
    while (sag_capacity(inlet, section, high, k) < flow) {
        low = high;
        high *= 2;
        if (high > 1e3) return infinite;
    }
    for (int i = 0; i < 100 && high - low > 1e-13 * high; ++i) {
        const double mid = (low + high) / 2;
        (sag_capacity(inlet, section, mid, k) < flow ? low : high) = mid;
    }
    return high;
}

std::span<const GrateKind> grate_kinds() {
    static constexpr std::array<GrateKind, 7> kinds{{
        {"bars 48 mm", 2.22, 4.03, 0.65, 0.06, 0.9},
        {"bars 48 x 102 mm", 0.74, 2.44, 0.27, 0.02, 0.8},
        {"bars 29 mm", 1.76, 3.12, 0.45, 0.03, 0.6},
        {"curved vane", 0.30, 4.85, 1.31, 0.15, 0.35},
        {"tilted bars 45°", 0.99, 2.64, 0.36, 0.03, 0.17},
        {"tilted bars 30°", 0.51, 2.34, 0.20, 0.01, 0.34},
        {"reticuline", 0.28, 2.28, 0.18, 0.01, 0.8},
    }};
    return kinds;
}

double splash_velocity(const GrateKind& kind, double length) {
    constexpr double ft = 0.3048;
    const double l = std::clamp(length / ft, 1.0, 4.5);
    return (kind.a + kind.b * l - kind.c * l * l + kind.d * l * l * l) * ft;
}

}  // namespace culvert
