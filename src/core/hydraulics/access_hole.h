// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>

#include "core/hydraulics/section.h"

/// Energy in an access hole (manhole) by the energy method.
///
/// All energies are above the invert of the outflow pipe. The first estimate is the largest of what the outflow pipe
/// asks for when it is controlled from below, when its entrance is submerged like an orifice, and when it works like a
/// weir:
///
///     Eo = Ei + Ki V^2/2g            Ki = 0.2, Ei: energy in the outflow pipe at its entrance
///     Es = D DI^2                    DI = Q / (A (g D)^0.5), the discharge intensity
///     Eu = 1.6 D DI^0.67
///     E1 = max(Eo, Es, Eu, Ei)
///
/// Then it is adjusted, each part by a coefficient times (E1 - Ei), and never below Ei:
///
///     benching   CB, between its values for E1/D <= 1 and >= 2.5 in proportion
///     angle      Ct = 4.5 (sum QJ / Q) cos(tw/2)      tw = sum QJ tJ / sum QJ, of inflows that do not plunge;
///                                                      180 degrees runs straight through, so that Ct = 0
///     plunging   Cp = sum Qk hk / Q                   hk = (zk - E1)/D at most 10, of inflows whose invert lies above
///     E1
///
///     E = max(E1 + (CB + Ct + Cp)(E1 - Ei), Ei)
///
/// The water in the hole is still: its level is E above the outflow invert. A pipe that enters below it loses
/// Ko V^2/2g, Ko = 0.4, on its way in: its energy line ends that much above the level.
///
/// What falls in at the top (the structure's own runoff) counts as plunging from the rim; where inflows together are
/// more than the outflow, as rational flows may be, they count in proportion.
/// @source  FHWA HEC-22, 3rd ed. (2009), sec. 7.1.6.7 and tables 7-6 and 7-7; from memory of the text, checked by hand
///          only against the equations as they stand here
namespace culvert {

struct HoleInflow {
    double flow = 0;    ///< m3/s
    double turn = 180;  ///< between its pipe and the outflow pipe, degrees; 180: straight through
    double invert = 0;  ///< of its pipe above the outflow invert, m
    friend bool operator==(const HoleInflow&, const HoleInflow&) = default;
};
/// Floor of an access hole: what its benching leads.
enum class Benching { Depressed, Flat, Half, Full, Improved };
struct AccessHoleEnergy {
    double outlet = 0, submerged = 0, unsubmerged = 0;  ///< Eo, Es, Eu, m
    double first = 0;                                   ///< E1
    double benching = 0, angle = 0, plunging = 0;       ///< coefficients
    double energy = 0;                                  ///< E
};
constexpr double access_hole_entrance = 0.2, access_hole_exit = 0.4;  ///< Ki, Ko

/// @param outflow_energy  Ei, m
/// @param velocity        in the outflow pipe at its entrance, m/s
/// @param flow            of the outflow pipe, m3/s, > 0
/// @param depth           from the rim to the outflow invert, m: what the hole's own water falls; NaN: not known
AccessHoleEnergy access_hole_energy(const Section& outflow, double outflow_energy, double velocity, double flow,
                                    Benching floor, std::span<const HoleInflow> inflows, double depth);

}  // namespace culvert
