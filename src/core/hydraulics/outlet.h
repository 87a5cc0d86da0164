// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <string_view>
#include <variant>
#include <vector>

/// Ways out of stored water, each by itself: flow at a level inside and a level outside.
///
/// Orifice, wholly under water:  Q = C A (2 g H)^1/2, H from its middle to the level inside, or the difference of
///                               levels where the level outside stands above its top
/// Orifice, in part:             the velocity (2 g (h - y))^1/2 over its wetted height, integrated; the two agree as
///                               the water rises over it
/// Orifice, drowned in part:     below the level outside the difference of levels drives it, above it the velocity is
///                               that of free fall: nothing leaps as either level rises
/// Sharp crest:                  Q = C L H^3/2 (C in SI: 1.84 without end contractions); each end contraction takes
///                               0.1 H of its length; drowned by the level outside: x (1 - (Hd/H)^3/2)^0.385
/// Broad crest:                  Q = C L H^3/2, C 1.70; full until the level outside passes 0.8 H over it, then falling
///                               to nothing at H
/// V-notch:                      Q = 8/15 C (2 g)^1/2 tan(angle/2) H^5/2, C 0.58, drowned as a sharp crest, exponent
/// 5/2 Trapezoid after Cipolletti:   Q = 1.86 L H^3/2, sides 1 in 4 Riser:                        its rim as a sharp
/// crest all round, or its opening as an orifice: the smaller Rating:                       flows at levels, straight
/// between them
///
/// No way out runs backwards here: with a level outside above that inside the flow is 0.
///
/// @source  Brater, King, Lindell, Wei: Handbook of Hydraulics (1996), ch. 4 and 5; Villemonte, Civil Engineering 17
///          (1947); FHWA HEC-22, 3rd ed. (2009), ch. 8
namespace culvert {

struct CircularOrifice {
    double invert = 0, diameter = 0, coefficient = 0.6;
    friend bool operator==(const CircularOrifice&, const CircularOrifice&) = default;
};
struct BoxOrifice {
    double invert = 0, width = 0, height = 0, coefficient = 0.6;
    friend bool operator==(const BoxOrifice&, const BoxOrifice&) = default;
};
struct SharpWeir {
    double crest = 0, length = 0, coefficient = 1.84;
    int contractions = 0;  ///< 0, 1 or 2 ends
    friend bool operator==(const SharpWeir&, const SharpWeir&) = default;
};
struct BroadWeir {
    double crest = 0, length = 0, coefficient = 1.70;
    friend bool operator==(const BroadWeir&, const BroadWeir&) = default;
};
struct NotchWeir {
    double crest = 0, angle = 90;  ///< degrees
    double coefficient = 0.58;
    friend bool operator==(const NotchWeir&, const NotchWeir&) = default;
};
struct CipollettiWeir {
    double crest = 0, length = 0, coefficient = 1.86;
    friend bool operator==(const CipollettiWeir&, const CipollettiWeir&) = default;
};
struct Riser {
    double rim = 0, perimeter = 0, area = 0;
    double weir = 1.84, orifice = 0.6;
    friend bool operator==(const Riser&, const Riser&) = default;
};
struct RatedOutlet {
    std::vector<double> levels, flows;  ///< rising, two at least; nothing below the first, held above the last
    friend bool operator==(const RatedOutlet&, const RatedOutlet&) = default;
};
using Outlet =
    std::variant<CircularOrifice, BoxOrifice, SharpWeir, BroadWeir, NotchWeir, CipollettiWeir, Riser, RatedOutlet>;

/// What holds the flow at a level.
enum class OutletControl { Dry, Weir, PartOrifice, Orifice, Drowned, Rating, Entrance, Barrel, Pump, Behind };
std::string_view control_text(OutletControl control);

struct OutletFlow {
    double flow = 0;  ///< m3/s
    OutletControl control = OutletControl::Dry;
};
/// @param outside  level of the water it runs into; NaN: free
OutletFlow outlet_flow(const Outlet& outlet, double level, double outside);
/// Lowest level at which it runs.
double outlet_crest(const Outlet& outlet);

}  // namespace culvert
