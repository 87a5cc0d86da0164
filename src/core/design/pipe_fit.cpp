// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/pipe_fit.h"

#include <algorithm>
#include <cmath>

#include "core/hydraulics/uniform_flow.h"

namespace culvert {
namespace {

/// Depth at which a section has an area; its height where it has not so much.
double depth_of_area(const Section& section, double wanted) {
    double low = 0, high = height(section);
    if (wanted >= full_area(section)) return high;
    for (int i = 0; i < 60; ++i) {
        const double middle = (low + high) / 2;
        (wetted(section, middle).area < wanted ? low : high) = middle;
    }
    return (low + high) / 2;
}
double slope_for(double flow, double conveyance) {
    return conveyance > 0 ? (flow / conveyance) * (flow / conveyance) : 1e9;
}

/// Conveyance up to a depth: near the top it falls again (a circle), or the lid is wet before (a box); there the most
/// that the free surface conveys.
double most_conveyance(const Section& section, double n, double depth) {
    const double k = conveyance(section, n, depth), most = peak_ratio(section) * full_conveyance(section, n);
    return k > most || conveyance(section, n, depth * (1 - 1e-6)) > k ? most : k;
}

}  // namespace

Section section_of_size(const PipeSize& s) { return section_of(s.shape, s.size, s.width, s.sides); }

PipeSize size_of(const Pipe& pipe) {
    PipeSize s;
    s.material = pipe.material;
    s.shape = pipe.shape;
    s.size = pipe.size;
    s.width = pipe.width;
    s.sides = pipe.sides;
    s.roughness = pipe.roughness;
    s.wall = pipe.wall;
    return s;
}

void put_size(Editing& e, std::uint64_t pipe, const PipeSize& s, Origin origin) {
    e.set(Kind::Pipe, pipe, "size", s.size, origin);
    if (has_width(s.shape)) e.set(Kind::Pipe, pipe, "width", s.width, origin);
    if (s.shape == Shape::Trapezoid) e.set(Kind::Pipe, pipe, "sides", s.sides, origin);
    e.set(Kind::Pipe, pipe, "roughness", s.roughness, Origin::Catalogue);
    e.set(Kind::Pipe, pipe, "wall", s.wall, Origin::Catalogue);
}

double price_of_size(const Project& project, const PipeSize& size) {
    return project.settings().pipe_price *
           (has_width(size.shape) && size.width > 0 ? (size.width + size.size) / 2 : size.size);
}

PipeNeeds needs_of(const LimitTable& limits, std::uint64_t pipe, double flow, bool peak) {
    const auto of = [&](LimitKind kind) { return limits.limit(kind, pipe).value; };
    return {flow,
            of(LimitKind::MostFlowRatio),
            of(LimitKind::MostFilledDepth),
            of(LimitKind::LeastVelocity),
            of(LimitKind::MostVelocity),
            of(LimitKind::LeastSlope),
            of(LimitKind::MostSlope),
            of(LimitKind::LeastSize),
            peak};
}

SlopeRange slope_range(const Section& section, double n, const PipeNeeds& needs) {
    SlopeRange out;
    const auto at_least = [&](double slope, LimitKind by) {
        if (slope > out.least) out.least = slope, out.least_by = by;
    };
    const auto at_most = [&](double slope, LimitKind by) {
        if (slope < out.most) out.most = slope, out.most_by = by;
    };
    if (!std::isnan(needs.least_slope)) at_least(needs.least_slope, LimitKind::LeastSlope);
    if (!std::isnan(needs.most_slope)) at_most(needs.most_slope, LimitKind::MostSlope);
    if (!(needs.flow > 1e-12)) return out;  // a dry pipe is not asked for its velocity or filling
    if (!std::isnan(needs.flow_ratio))
        at_least(slope_for(needs.flow,
                           needs.flow_ratio * full_conveyance(section, n) * (needs.peak ? peak_ratio(section) : 1)),
                 LimitKind::MostFlowRatio);
    if (!std::isnan(needs.filled))
        at_least(slope_for(needs.flow, most_conveyance(section, n, std::min(needs.filled, 1.0) * height(section))),
                 LimitKind::MostFilledDepth);
    const double whole = full_area(section);
    if (needs.least_velocity > 0) {
        const double wanted = needs.flow / needs.least_velocity;
        if (wanted < whole)  // else it is faster even where it runs full
            at_least(slope_for(needs.flow, most_conveyance(section, n, depth_of_area(section, wanted))),
                     LimitKind::LeastVelocity);
    }
    if (needs.most_velocity > 0) {
        const double wanted = needs.flow / needs.most_velocity;
        if (wanted < whole)
            at_most(slope_for(needs.flow, most_conveyance(section, n, depth_of_area(section, wanted))) * (1 - 1e-9),
                    LimitKind::MostVelocity);
        else at_most(0, LimitKind::MostVelocity);  // faster even where it runs full
    }
    return out;
}

}  // namespace culvert
