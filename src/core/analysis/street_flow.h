// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/rational.h"

/// Water over the streets: from inlet to inlet, before the pipes.
///
/// At an inlet arrive its own catchments, known flows, and what inlets above it let pass. The rational flow of all that
///
///     Qa = i(t) (sum(C Cf A) + sum of bypassed C A) + known flows
///
/// with t the longest time of what arrives, is what the gutter carries to it; the inlet takes its share E (on grade) or
/// all of it at the depth it needs (in a sag), less what goes over the sag's crest. **The same share of C A and of
/// known flow** is taken, and the rest goes along the street path, arriving later by its way over its velocity. Where
/// no path leads on, it stays in the pipe below the inlet, so that nothing is undersized.
///
/// With `partial_area`, Qa is the largest over the times of what arrives, each with the areas that answer by then.
///
/// @source  FHWA HEC-22, 3rd ed. (2009), sec. 4.4 and 3.2.2
namespace culvert {

/// Solves all inlets, in their order, and fills `out.streets` and `out.entries`. Allocates nothing.
void solve_streets(const Network& network, const EventRain& rain, Summaries& out);

/// What an inlet takes of a flow that comes to it, m3/s; depth, spread and velocity of the water go to `street`.
double taken_by(const StreetInlet& inlet, double flow, const StreetConstants& constants, StreetFlow& street);

/// C A and known flow of an event: all that falls and enters, and where it went. In = captured + onto nodes without an
/// inlet + off the site, to rounding.
struct StreetBalance {
    double area_in = 0, known_in = 0;          ///< own of all inlets
    double area_taken = 0, known_taken = 0;    ///< into pipes at inlets
    double area_passed = 0, known_passed = 0;  ///< along paths to structures without an inlet
    double area_left = 0, known_left = 0;      ///< off the site
};
StreetBalance street_balance(const Network& network, const Summaries& result);

}  // namespace culvert
