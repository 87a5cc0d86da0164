// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/hydrology/idf.h"

/// Rain through time, made from intensities by duration.
namespace culvert {

/// Nested alternating blocks: a storm of n equal steps whose heaviest k steps, for every k, hold together the depth
/// that the curve gives for a duration of k steps. Exactly so where each further step adds no more depth than the one
/// before; where a table bends the other way (a corner between two of its durations) they hold a little more, never
/// less.
///
///     P(k) = i(k dt) k dt,   blocks P(k) - P(k-1) by size, the largest in the middle, the next ones after and before
///     it
///
/// @param step    dt, s, > 0
/// @param blocks  n, >= 1
/// @return        depth of each block, m; their sum is i(n dt) n dt. Where the curve's depth would fall with duration
///                (a fault of the table) a block is 0 rather than negative, and the sum is larger than that.
/// @source        Chow, Maidment, Mays: Applied Hydrology (1988), sec. 14.4
std::vector<double> alternating_blocks(const IdfCurve& curve, double step, int blocks);

/// A storm after an equation i = a / (t + b)^c whose mean over the heaviest time t about the peak is that of the
/// equation (Keifer–Chu). The peak stands at the share `peak` of its length; each block is the mean over its time, so
/// that the depth is exact on any step.
///
/// @param a, b, c  of the equation in m/s and s; c < 1
/// @param peak     0..1, usually 0.3 to 0.5
/// @return         depth of each block, m; their sum is a T / (T + b)^c
/// @source         Keifer and Chu, J. Hydraul. Div. ASCE 83 (1957)
std::vector<double> keifer_chu(double a, double b, double c, double peak, double step, int blocks);

/// Shares of a 24-hour depth by the NRCS dimensionless curves. Their ordinates stand here from memory and are marked
/// so: check them against NEH 630, ch. 4.
enum class Nrcs24 { TypeI, TypeIA, TypeII, TypeIII };
double nrcs_share(Nrcs24 type, double time);  ///< of the depth that has fallen by a time, s; 1 from 24 h on
std::vector<double> nrcs_storm(Nrcs24 type, double depth, double step);
/// The same depth in each step.
std::vector<double> uniform_storm(double depth, int blocks);

}  // namespace culvert
