// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/hydraulics/section.h"

/// Steady flow along one barrel: free surface and pressurised, sub- and supercritical, with the jump between them.
///
/// Free surface: gradually varied flow,
///
///     dy/dx = (S0 - Sf) / (1 - Fr^2)        Sf = (Q n)^2 / (A^2 R^(4/3)),  Fr^2 = Q^2 T / (g A^3)
///
/// integrated in depth, x(y) = integral of (1 - Fr^2)/(S0 - Sf) dy, where it is smooth through critical depth. Towards
/// normal depth, where it has a pole, the variable is the logarithm of the distance to normal depth. Panels of 7-point
/// Kronrod quadrature are halved until the 3-point Gauss rule agrees, so finer steps change no level by a millimetre.
/// Pressurised: the grade line falls by Sf = (Q / Kfull)^2. The change of one into the other is found, not assumed.
///
/// A barrel is steep where S0 > Sf at critical depth: then its slow flow needs support from below, and water that falls
/// into it runs fast. A circle between Qfull and 1.076 Qfull may have both its normal depths below critical depth and
/// not be steep: it is controlled from its outlet.
///
/// A box on a falling slope runs full as soon as Q exceeds Qfull: its lid counts as wetted, and the friction of its
/// slow flow is nowhere less than
///
///     min(Sf full, r S0)        r = (P full / P without lid)^(4/3)
///
/// (With the lid taken for dry the water could run just below it, until a touch makes the level leap by metres.) That
/// is more than S0, so a curve that rises towards the lid meets it; it is S0 at Qfull and falls behind the friction
/// without a lid where the flow is far above, so the level follows flow and slope without a leap.
///
/// @source  Chow, Open-Channel Hydraulics (1959), ch. 9 and 15; Henderson, Open Channel Flow (1966), ch. 4 and 6
namespace culvert {

struct Barrel {
    Section section;
    double n;       ///< Manning roughness, > 0
    double length;  ///< m, > 0
    double slope;   ///< S0, m/m, positive falls downstream; level and adverse barrels are allowed
    double flow;    ///< Q, m3/s, >= 0
};

/// What every solve of a barrel needs; computed once per barrel and flow.
struct BarrelState {
    double normal;          ///< normal depth, lower branch, m; NaN where there is none
    double upper_normal;    ///< second normal depth of a closed section above Qfull, else the height
    double critical;        ///< m
    double friction_full;   ///< Sf of the full barrel
    double least_friction;  ///< of slow flow in a box above Qfull, whose lid is wetted; else 0
    double fast_normal;     ///< normal depth of fast flow, m; NaN where there is none below critical depth
    bool steep;             ///< S0 > Sf at critical depth
};
BarrelState state_of(const Barrel& barrel);
/// The same with the normal depth already at hand (the flows stage finds it for the travel time).
BarrelState state_of(const Barrel& barrel, double normal);
/// The same with normal and critical depth at hand.
BarrelState state_of(const Barrel& barrel, double normal, double critical);

/// The curve that is controlled from downstream, seen from its upstream end.
struct SubcriticalCurve {
    double depth_down;  ///< depth or pressure head above the invert at the downstream end, m
    double depth_up;    ///< the same at the upstream end; the critical depth where the curve ends inside
    double reach;       ///< how far the curve reaches from the downstream end, m; the length, or less on a steep barrel
    double full_length;  ///< length that runs full, m
    bool uniform_up;     ///< within 0.1 mm of normal depth at the upstream end: the downstream level is not felt there
};

struct Jump {
    double place;            ///< m from the upstream end; 0: drowned to the entrance; the length: swept out downstream
    double fast_depth_down;  ///< of the fast curve at the downstream end, or where it ends
};

/// @param depth_down       depth at the downstream end, not below critical depth (it is raised to it); above the height
///                         it is a pressure head
/// @param behind_entrance  where asked for, and the curve ends inside a steep barrel: the jump between it and fast
///                         water that enters at critical depth, from the curve as it was integrated
SubcriticalCurve subcritical_curve(const Barrel& barrel, const BarrelState& state, double depth_down,
                                   Jump* behind_entrance = nullptr);

/// Depth on the downstream-controlled curve at a distance from the downstream end; NaN beyond its reach.
double subcritical_depth(const Barrel& barrel, const BarrelState& state, double depth_down, double distance);

struct SupercriticalCurve {
    double depth_down;  ///< at the downstream end; the critical depth where the curve ends inside
    double reach;       ///< from the upstream end, m: the length, or less where it rises to critical depth (M3, H3, A3)
};
/// @param depth_up  depth at the upstream end, at most the critical depth, > 0
SupercriticalCurve supercritical_curve(const Barrel& barrel, const BarrelState& state, double depth_up);
/// Depth on the upstream-controlled curve at a distance from the upstream end; NaN beyond its reach.
double supercritical_depth(const Barrel& barrel, const BarrelState& state, double depth_up, double distance);

/// Where the fast curve from `depth_up` and the slow one have equal momentum, to a millimetre: found in a bracket on
/// the curves themselves.
/// @param slow  as subcritical_curve gave it
Jump find_jump(const Barrel& barrel, const BarrelState& state, double depth_up, const SubcriticalCurve& slow);

struct ProfilePoint {
    double x;      ///< from the upstream end, m
    double depth;  ///< water depth or pressure head above the invert, m
    double velocity;
};
/// The whole profile for drawing: `depth_up_super` NaN where no supercritical flow enters; `jump` as find_jump placed
/// it.
std::vector<ProfilePoint> barrel_profile(const Barrel& barrel, const BarrelState& state, double depth_up_super,
                                         double depth_down, double jump, int points = 24);

}  // namespace culvert
