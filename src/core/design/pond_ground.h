// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stop_token>

#include "core/model/edit.h"
#include "core/terrain/terrain.h"

/// Ponds and the ground: space that the ground has, earth that a graded pond moves, gaps of a curve filled.
namespace culvert {

/// Water surface by level that the ground has about a place.
struct GroundSpace {
    std::vector<double> levels, areas;
    double spills = not_given;  ///< level at which the water would run off over the edge of what was looked at
    std::string why;            ///< why there is nothing
};
/// The ground is looked at on cells (at most 160 across); of those at or below a level the ones that hang together with
/// the lowest cell near the place are its water surface. It ends at the outline, or `reach` from the place where no
/// outline is given, or at the edge of the surface: there the water spills.
///
/// @param low, high  between them `steps` levels are taken, m; low NaN: the lowest ground; high NaN: where it spills
GroundSpace space_of_ground(const Ground& ground, const std::vector<Point>& outline, Point place, double low,
                            double high, int steps = 12, double reach = 80, const std::stop_token& stop = {});
/// The space of a pond given by levels and areas, taken from the ground.
Edit take_space(const Project& project, std::uint64_t pond, const GroundSpace& space);

/// Earth that a pond of an outline moves, from its bottom up its side slopes to its crest: what is dug, and what must
/// be filled where the ground lies lower. Cells of at most a two-hundredth of its width.
struct CutFill {
    double cut = 0, fill = 0;  ///< m3
    double area = 0;           ///< that is graded, m2
    std::string why;           ///< why it is not known
};
CutFill cut_and_fill(const Ground& ground, const Pond& pond);

/// A curve of levels that reaches from below every way out up to a level: what is missing is drawn out straight, as
/// rows of its own that can be seen. Empty where nothing is missing, or the space is not given by levels.
Edit fill_gaps(const Project& project, std::uint64_t pond, double up_to);

}  // namespace culvert
