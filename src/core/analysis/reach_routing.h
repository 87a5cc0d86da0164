// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

#include "core/network/network.h"

/// Hydrographs on their way through a pipe. Series are means of equal steps; both ways keep water to rounding.
namespace culvert {

/// Adds a series to another one, later by a number of steps (also a part of one): out(i) = (1 - f) in(i - k) +
/// f in(i - k - 1). Before its beginning it ran at `before`.
/// @return  sum of the values that are still on their way at the end, above what was so at the beginning; times the
///          step it is a volume
double lag(std::span<const double> in, double before, double steps, std::span<double> out);

/// A part of a pipe that the water passes in about a step.
struct Reach {
    double volume = 0;
};
/// Kinematic wave: each reach stores V = length x A(Q), A that of uniform flow, and gives on
///
///     V2 - V1 = (I - Q(V2)) dt
///
/// which neither swings nor runs backwards. Above its capacity a pipe is full: it stores no more, and gives on what
/// comes.
/// @param travel   through the pipe at its largest flow, s
/// @param reaches  room to work in
/// @return         volume that is in the pipe at the end above that at the beginning, m3
double kinematic(const Link& link, std::span<const double> in, double before, double step, double travel,
                 std::vector<Reach>& reaches, std::span<double> out);

}  // namespace culvert
