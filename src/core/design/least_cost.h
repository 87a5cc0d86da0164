// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

/// The sizes of a tree of pipes that cost least together, excavation included.
///
/// For given sizes the cheapest levels are the highest that the limits allow (propose_design.h), so only sizes are
/// sought. A larger pipe may be flatter: it costs more itself and keeps all below it higher. What the pipes above cost
/// depends on what is below only through the level at which they arrive and the size they end with, so the least cost
/// is found from the heads down (Bellman): for each pipe and size a list of arrivals, each the cheapest for its level,
///
///     F_i(s, z) = min over starts u of  sum over pipes j above of min F_j(d <= s, arriving high enough for u)
///                 + price(s) L + dug · width(s) · L · (depth(u) + depth(z)) / 2
///     z = min(cover, u - Sleast(s) L),   (u - z) / L <= Smost(s)
///
/// and read back from the outfall up. Starts are those that the lists above allow, and those lowered to keep the most
/// slope, so nothing is rounded; a list that grows beyond `longest_list` drops the entries that differ least in level.
namespace culvert {

struct CostSize {
    double size;                     ///< m
    double above;                    ///< cover to keep, wall and size: from the rim down to the invert, m
    double least_slope, most_slope;  ///< m/m; least > most: this size will not do
    double price;                    ///< of a metre laid
    double width, bottom;            ///< of the trench, and from the invert down to its bottom, m
};
struct CostPipe {
    int below = -1;  ///< the pipe that leads on, by its place in the list; -1: none
    double length = 1, rim_up = 0, rim_down = 0;
    bool covered_below = true;  ///< cover is kept at its lower end too (not at an outfall)
    double drop = 0;            ///< below each pipe that enters
    double share = 0;           ///< of the height that meets: 0 inverts, 1 crowns
    double most_depth = 1e300;  ///< of its ends below the rims
    double dig_price = 0;       ///< of a cubic metre
    bool fixed_up = false, fixed_down = false;
    double up = 0, down = 0;      ///< where they are fixed
    std::vector<CostSize> sizes;  ///< that may be taken, rising
};
struct LeastCost {
    std::vector<int> size;  ///< by pipe, in its list; -1: its tree has no design within these limits
    double cost = 0;
};
constexpr std::size_t longest_list = 160;
/// @param pipes  each after all that lead into it
LeastCost least_cost(std::span<const CostPipe> pipes);

}  // namespace culvert
