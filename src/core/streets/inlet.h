// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <limits>
#include <span>
#include <string_view>
#include <variant>
#include <vector>

#include "core/streets/gutter.h"

/// What an inlet takes from the street.
///
/// **On grade** water runs past it, and it takes a share:
///
///     grate           E = Rf Eo + Rs (1 − Eo)      Rf = 1 − k (V − Vo),  Rs = 1 / (1 + k' V^1.8 / (Sx L^2.3))
///     curb opening    E = 1 − (1 − L / LT)^1.8     LT = k Q^0.42 SL^0.3 (1 / (n Se))^0.6 ,  Se = Sx + S'w Eo
///     slotted drain   as a curb opening with Se = Sx
///     combination     the grate alone where both are as long; a longer opening lies upstream of the grate and takes
///     its
///                     share first (a sweeper)
///
/// Eo is the share of the flow within the width of the grate (or, for Se, of the gutter), by the gutter equation over
/// that width. **In a sag** water stands over it and it takes all, at the depth where its weir, or its orifice, lets
/// that through; the smaller of the two governs, but a curb opening is a weir alone until the water covers it.
///
/// Clogging takes its share of a grate's area and perimeter in a sag and of the lengths on grade.
///
/// @source  FHWA HEC-22, 3rd ed. (2009), sec. 4.4, eq. 4-16 to 4-34
namespace culvert {

/// A grate in the gutter or in a pavement.
struct Grate {
    double length = 0.6, width = 0.45;                                 ///< along the street, and across it, m, > 0
    double splash_velocity = std::numeric_limits<double>::infinity();  ///< Vo, above which water splashes over, m/s
    double open_share = 0.5;                                           ///< clear opening over its area, 0..1
    double clogging = 0;                                               ///< share, 0..1
    friend bool operator==(const Grate&, const Grate&) = default;
};
enum class Throat { Horizontal, Inclined, Vertical };
/// An opening in the curb.
struct CurbOpening {
    double length = 1.5, height = 0.13;  ///< m, > 0
    Throat throat = Throat::Horizontal;  ///< how the throat lies behind the lip
    double depression = 0;               ///< local, below the gutter's own slope, m
    double depression_width = 0.6;       ///< W of it, across the street, m
    double clogging = 0;
    friend bool operator==(const CurbOpening&, const CurbOpening&) = default;
};
/// Grate and opening together. An opening that is longer than the grate sweeps the gutter before it.
struct CombinationInlet {
    Grate grate;
    CurbOpening opening;
    friend bool operator==(const CombinationInlet&, const CombinationInlet&) = default;
};
struct SlottedDrain {
    double length = 3, slot = 0.045;  ///< along the curb, and its width, m
    double clogging = 0;
    friend bool operator==(const SlottedDrain&, const SlottedDrain&) = default;
};
/// A grate in a yard or a ditch, where water comes to it from all sides.
struct AreaInlet {
    Grate grate;
    friend bool operator==(const AreaInlet&, const AreaInlet&) = default;
};
/// What tests of the maker say: captured flow for approach flow, linear between the points and held after the last.
struct RatedInlet {
    std::vector<double> approach, captured;  ///< m3/s, approach rising from 0
    friend bool operator==(const RatedInlet&, const RatedInlet&) = default;
};
using InletForm = std::variant<Grate, CurbOpening, CombinationInlet, SlottedDrain, AreaInlet, RatedInlet>;

/// Interception on grade, with what it was made of.
struct Capture {
    GutterFlow approach;
    double captured = 0;         ///< m3/s
    double efficiency = 1;       ///< E, captured over approaching; 1 without flow
    double frontal_share = 1;    ///< Eo of the grate
    double frontal = 1;          ///< Rf
    double side = 0;             ///< Rs
    double total_length = 0;     ///< LT of an opening or slot, m
    double effective_slope = 0;  ///< Se
    double swept = 0;            ///< taken by the opening upstream of the grate, m3/s
};
/// An area inlet is a grate here, met from one side.
Capture on_grade(const InletForm& inlet, const Gutter& gutter, double flow, const StreetConstants& k);

/// Length of opening (or slot) that takes all, LT, m.
double length_for_all(double flow, double grade, double n, double effective_slope, const StreetConstants& k);

/// Flow that enters in a sag at a depth of water at the curb (over the gutter's own level, without the local
/// depression), m3/s; rises with the depth. A rated inlet takes its largest captured flow at any depth.
double sag_capacity(const InletForm& inlet, const GutterSection& section, double depth, const StreetConstants& k);
/// Depth at the curb at which a flow enters; infinite where the inlet takes nothing (clogged, or rated too small).
double sag_depth(const InletForm& inlet, const GutterSection& section, double flow, const StreetConstants& k);
/// Which of the two governs there.
enum class SagControl { Weir, Orifice };
SagControl sag_control(const InletForm& inlet, const GutterSection& section, double depth, const StreetConstants& k);

/// A kind of grate of public tests with the coefficients of its splash-over velocity
///
///     Vo = a + b L − c L² + d L³        ft/s and ft
///
/// They were fitted to the charts of HEC-22 (chart 5) by practice; they stand here from memory and are marked so: check
/// them against your source, or enter the splash-over velocity of the grate itself.
struct GrateKind {
    std::string_view name;
    double a, b, c, d;
    double open_share;
};
std::span<const GrateKind> grate_kinds();
/// @param length  m; the fit holds from 0.3 to 1.4 m (1 to 4.5 ft) and is held at its ends
double splash_velocity(const GrateKind& kind, double length);

}  // namespace culvert
