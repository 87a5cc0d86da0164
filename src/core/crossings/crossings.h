// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <limits>
#include <span>
#include <vector>

#include "core/geometry/line.h"

/// Where lines in space come near each other.
///
/// A line runs straight from point to point; around it lies its outside, as wide and as high as given. Two lines are
/// near each other where they cross in plan, or where their outsides come within a reach beside each other:
///
///     vertical gap    |z1 - z2| - h1 - h2        h: half of the outside height; negative: they meet
///     horizontal gap  distance in plan - w1 - w2 w: half of the outside width; negative where they cross
///
/// A clearance zone is a box: two lines are too near where the vertical gap is below the vertical clearance and the
/// horizontal one below the horizontal clearance, at one place.
namespace culvert {

struct SpacePoint {
    double x = 0, y = 0;
    double z = 0;  ///< of the middle of the line, m; NaN: not known
};
struct SpaceLine {
    std::vector<SpacePoint> points;
    double half_width = 0, half_height = 0;  ///< of the outside, m
};
struct NearPlace {
    std::size_t first = 0, second = 0;         ///< lines
    double along_first = 0, along_second = 0;  ///< m from their starts, in plan
    Point at;
    bool crosses = false;
    double vertical = std::numeric_limits<double>::quiet_NaN();  ///< gap, m; NaN: a level is not known
    double horizontal = 0;                                       ///< gap, m
    bool second_above = false;
};

/// Places at which lines of the first list come near lines of the second: every crossing, and for each pair that does
/// not cross the place beside each other with the least vertical gap. Lines of fewer than two points are nowhere.
/// The cost grows with the number of segments and of places, not with the product of the lists.
///
/// @param reach  largest horizontal gap of interest, m
/// @param same   the lists are one: each pair is given once, and no line with itself
std::vector<NearPlace> near_places(std::span<const SpaceLine> first, std::span<const SpaceLine> second, double reach,
                                   bool same = false);

}  // namespace culvert
