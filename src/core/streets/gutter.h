// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <variant>

#include "core/streets/edition.h"
#include "core/streets/street.h"

/// Water along the curb.
///
/// Water runs in the triangle between the curb and the street's cross slope. The gutter equation is Manning's, taken
/// over strips of the width, since the depth is small against it:
///
///     Q = (Ku / n) SL^(1/2) (8/3) ∫ d(x)^(5/3) dx          d(x): depth at x from the curb face
///
/// which for one straight cross slope gives the form that is printed,
///
///     Q = (Ku / n) Sx^(5/3) SL^(1/2) T^(8/3) = (Ku / n) SL^(1/2) d^(8/3) / Sx ,      d = T Sx
///
/// and for each straight part of a composite section its own term (d1^(8/3) − d2^(8/3)) / S. The spread ends at the
/// crown: where the water stands higher, the section is cut there, and `flow_to_crown` says what this side can carry;
/// what is above that runs over the crown to the other side.
///
/// @source  FHWA HEC-22, 3rd ed. (2009), sec. 4.3, eq. 4-2, 4-4, app. B for the parabolic crown
namespace culvert {

/// Gutter and lanes of one side of a street, each with its cross slope. Without a gutter of its own its width is 0.
struct CompositeSection {
    double gutter_width = 0.5;   ///< W, m, >= 0
    double gutter_slope = 0.05;  ///< Sw, m/m, > 0
    double cross_slope = 0.02;   ///< Sx of the lanes, m/m, > 0: water runs to the curb
    double to_crown = 4;         ///< curb face to crown, m
    friend bool operator==(const CompositeSection&, const CompositeSection&) = default;
};
/// A street whose crown is a parabola: height above the gutter H (2 x/B − (x/B)²).
struct ParabolicSection {
    double rise = 0.1;    ///< H, gutter to crown, m
    double to_crown = 4;  ///< B, curb face to crown, m
    friend bool operator==(const ParabolicSection&, const ParabolicSection&) = default;
};
/// A shallow swale of two slopes.
struct SwaleSection {
    double left_slope = 0.1, right_slope = 0.02;  ///< m/m, > 0
    friend bool operator==(const SwaleSection&, const SwaleSection&) = default;
};
using GutterSection = std::variant<CompositeSection, ParabolicSection, SwaleSection>;

/// The side of a street.
CompositeSection section_of(const StreetShape& shape);

struct Gutter {
    GutterSection section;
    double grade = 0.01;  ///< SL, m/m along the street, > 0; at 0 water stands: see sag.h of the inlets
    double n = 0.016;     ///< Manning roughness, > 0
    friend bool operator==(const Gutter&, const Gutter&) = default;
};

/// What runs along a curb.
struct GutterFlow {
    double depth = 0;       ///< at the curb, m
    double spread = 0;      ///< width of water from the curb, at most to the crown, m
    double velocity = 0;    ///< Q / A, m/s
    double over_crown = 0;  ///< part of the flow that this side cannot carry below its crown, m3/s
};

/// Depth at the curb when water stands a width into the street; the inverse of spread_of_depth up to the crown.
double depth_of_spread(const GutterSection& section, double spread);
/// Width of water from the curb, m; not beyond the crown.
double spread_of_depth(const GutterSection& section, double depth);
/// Depth at which the water reaches the crown; infinite for a swale, which has none.
double depth_at_crown(const GutterSection& section);
/// Cross-section of the flow, m2.
double flow_area(const GutterSection& section, double depth);

/// Discharge at a depth at the curb, m3/s. Grade 0 or below: 0.
double flow_of_depth(const Gutter& gutter, double depth, const StreetConstants& k);
/// Share of the flow within a width from the curb (Eo): 1 where the spread is not wider.
double frontal_share(const GutterSection& section, double depth, double width);
/// Depth for a flow, by Newton within a bracket; closed where one slope holds all. NaN without grade or roughness.
double depth_of_flow(const Gutter& gutter, double flow, const StreetConstants& k);
/// All of it.
GutterFlow gutter_flow(const Gutter& gutter, double flow, const StreetConstants& k);

/// A roadside ditch: a trapezoid by Manning's equation with its hydraulic radius.
struct Ditch {
    double bottom = 0.5;                 ///< m, >= 0
    double left_run = 3, right_run = 3;  ///< horizontal run of the sides for 1 of rise
    double grade = 0.01, n = 0.03;
};
double ditch_flow(const Ditch& ditch, double depth);
double ditch_depth(const Ditch& ditch, double flow);  ///< NaN without grade
double ditch_area(const Ditch& ditch, double depth);
/// Shear on the bed where the water is deepest, γ d S, Pa (γ = 9810 N/m3). @source  HEC-22, eq. 5-10
constexpr double bed_shear(double depth, double grade) { return 9810 * depth * grade; }

}  // namespace culvert
