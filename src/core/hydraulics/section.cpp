// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydraulics/section.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace culvert {

using std::numbers::pi;

double segment(double phi) {
    const double t = 2 * phi;
    if (t > 0.6) return (t - std::sin(t)) / 2;
    const double q = t * t;  // series of t - sin t; the first left out is below 1e-16 of the sum here
    return t * q / 12 * (1 - q / 20 * (1 - q / 42 * (1 - q / 72 * (1 - q / 110 * (1 - q / 156)))));
}

double CircleShape::full_parameter() const { return pi; }
double CircleShape::parameter(double y) const {
    if (y >= d) return pi;
    if (y <= 0) return 0;
    return 2 * std::asin(std::sqrt(y / d));  // exact near the invert, where acos would lose digits
}
double CircleShape::depth(double s) const {
    const double half = std::sin(s / 2);
    return d * half * half;
}
double CircleShape::full_area() const { return pi * d * d / 4; }
double CircleShape::full_perimeter() const { return pi * d; }

double height(const Section& section) {
    return std::visit([](const auto& s) { return shape(s).height(); }, section);
}
double full_area(const Section& section) {
    return std::visit([](const auto& s) { return shape(s).full_area(); }, section);
}
double full_perimeter(const Section& section) {
    return std::visit([](const auto& s) { return shape(s).full_perimeter(); }, section);
}

double span_of(const Section& section) {
    if (const auto* box = std::get_if<Box>(&section)) return box->width;
    if (const auto* other = std::get_if<Shaped>(&section)) return other->table->width();
    return std::get<Circular>(section).diameter;
}
bool is_open(const Section& section) {
    const auto* other = std::get_if<Shaped>(&section);
    return other && other->table->open();
}

Wetted wetted(const Section& section, double depth) {
    return std::visit(
        [depth](const auto& s) {
            const auto sh = shape(s);
            if (depth >= sh.height()) return Wetted{sh.height(), sh.full_area(), sh.full_perimeter(), 0};
            Wetted w{};
            double unused = 0;
            sh.at(sh.parameter(std::max(depth, 0.0)), w, unused);
            return w;
        },
        section);
}

double centroid_depth(const Section& section, double depth) {
    if (const auto* box = std::get_if<Box>(&section)) return std::clamp(depth, 0.0, box->height) / 2;
    if (const auto* other = std::get_if<Shaped>(&section)) {
        const double y = std::clamp(depth, 0.0, other->table->height());
        const SectionTable::Row r = other->table->at(y);
        return r.area > 0 ? y - r.moment / r.area : 0;
    }
    const double d = std::get<Circular>(section).diameter;
    const double y = std::clamp(depth, 0.0, d);
    if (y <= 0) return 0;
    const double phi = shape(Circular{d}).parameter(y), area = d * d / 4 * segment(phi);
    // First moment of a segment about the centre: (D/2)^3 * 2/3 sin^3 phi; the surface lies y - D/2 above the centre.
    const double sine = std::sin(phi);
    if (phi < 0.05) return 0.4 * y;  // parabola, the limit of a shallow segment
    return y - d / 2 + d * d * d / 12 * sine * sine * sine / area;
}

}  // namespace culvert
