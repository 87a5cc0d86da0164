// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/network/street_inlet.h"
#include "core/streets/inlet.h"

/// What an inlet captures of a flow Q that changes with time: Qi(Q), between no flow and the largest of an event.
///
/// An inlet on grade takes a greater share of little water than of much: E(Q) falls with the spread, the velocity and
/// the length that all of it would need. An inlet in a sag takes all until the water stands at its crest, and no more
/// than that above it. A share that holds for the largest flow alone would let too much pass before and after it.
///
/// The curve is linear between its points; points are set closer until half way between two of them it is off by less
/// than a thousandth of the largest flow. In a sag it is exact. Q is that of steady flow at each moment: water stored
/// in the gutter is not counted.
///
/// @source  FHWA HEC-22, 3rd ed. (2009), sec. 4.4, at each flow
namespace culvert {

struct CaptureCurve {
    std::vector<double> flows, captured;  ///< m3/s, both from 0 on; empty: all is taken

    /// Qi of a flow between 0 and the largest; beyond it the last value.
    [[nodiscard]] double at(double flow) const;
};

/// @param largest  of the event, m3/s, above 0
CaptureCurve capture_curve(const StreetInlet& inlet, double largest, const StreetConstants& constants);

}  // namespace culvert
