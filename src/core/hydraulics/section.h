// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>
#include <variant>

#include "core/hydraulics/section_table.h"

/// Cross-section shapes, and their wetted geometry at a depth: circles and boxes by formulas, all others by tables
/// (section_table.h).
///
/// For a depth y above the invert: wetted area A [m2], wetted perimeter P [m], width of the water surface T [m], and
/// depth of the centroid of A below the surface [m]. Depths are held to 0 <= y <= height: a pipe runs full at its
/// height, the top closes (T = 0 for a circle; for a box the lid is wetted at y = height, not before).
namespace culvert {

constexpr double gravity = 9.81;  ///< m/s2, the manuals' value

struct Circular {
    double diameter;  ///< D, m, > 0
    friend bool operator==(const Circular&, const Circular&) = default;
};
struct Box {
    double width;   ///< b, m, > 0
    double height;  ///< h, m, > 0
    friend bool operator==(const Box&, const Box&) = default;
};
using Section = std::variant<Circular, Box, Shaped>;

struct Wetted {
    double depth, area, perimeter, top;
};

double height(const Section& section);
double full_area(const Section& section);
double full_perimeter(const Section& section);  ///< lid included, where it has one
/// Largest inside width.
double span_of(const Section& section);
/// Whether it has no crown: its height is that of its banks.
bool is_open(const Section& section);
Wetted wetted(const Section& section, double depth);
/// Depth of the centroid of the wetted area below the water surface, m; feeds the momentum function.
double centroid_depth(const Section& section, double depth);

/// Wetted geometry through a parameter in which all of it is smooth, up to the crown: the half angle phi at the centre
/// for a circle (y = D/2 (1 - cos phi), 0..pi), the depth itself for a box. Varied flow is integrated in it.
struct CircleShape {
    double d;
    [[nodiscard]] double full_parameter() const;
    [[nodiscard]] double parameter(double depth) const;
    [[nodiscard]] double depth(double s) const;
    /// Wetted geometry and dy/ds at parameter s.
    inline void at(double s, Wetted& w, double& dy_ds) const;
    [[nodiscard]] double full_area() const;
    [[nodiscard]] double full_perimeter() const;
    [[nodiscard]] double height() const { return d; }
};
struct BoxShape {
    double b, h;
    [[nodiscard]] double full_parameter() const { return h; }
    [[nodiscard]] double parameter(double depth) const { return depth; }
    [[nodiscard]] double depth(double s) const { return s; }
    void at(double s, Wetted& w, double& dy_ds) const {
        w = {s, b * s, b + 2 * s, b};
        dy_ds = 1;
    }
    [[nodiscard]] double full_area() const { return b * h; }
    [[nodiscard]] double full_perimeter() const { return 2 * (b + h); }
    [[nodiscard]] double height() const { return h; }
};
struct TableShape {
    const SectionTable* table;
    [[nodiscard]] double full_parameter() const { return table->height(); }
    [[nodiscard]] double parameter(double depth) const { return depth; }
    [[nodiscard]] double depth(double s) const { return s; }
    void at(double s, Wetted& w, double& dy_ds) const {
        const SectionTable::Row r = table->at(s);
        w = {s, r.area, r.perimeter, r.top};
        dy_ds = 1;
    }
    [[nodiscard]] double full_area() const { return table->full_area(); }
    [[nodiscard]] double full_perimeter() const { return table->full_perimeter(); }
    [[nodiscard]] double height() const { return table->height(); }
};
inline TableShape shape(const Shaped& s) { return {s.table.get()}; }
inline CircleShape shape(const Circular& c) { return {c.diameter}; }
inline BoxShape shape(const Box& b) { return {b.width, b.height}; }

/// phi - sin(phi) cos(phi), without loss of digits at small angles: 4 A / D^2 of a circle.
double segment(double phi);

inline void CircleShape::at(double s, Wetted& w, double& dy_ds) const {
    const double sn = std::sin(s), cs = std::cos(s);
    const double seg = s > 0.3 ? s - sn * cs : segment(s);
    w.depth = s > 0.3 ? d * (1 - cs) / 2 : depth(s);
    w.area = d * d / 4 * seg;
    w.perimeter = d * s;
    w.top = d * sn;
    dy_ds = d * sn / 2;
}

}  // namespace culvert
