// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <stop_token>

#include "core/model/edit.h"
#include "core/terrain/terrain.h"

/// The tree of pipes that leads inlets to an outfall with least digging.
///
/// Pipes may run from inlet to inlet along a street, over places where streets meet (a manhole is put there), and
/// straight to near neighbours, which count a third more, so that a street is preferred; never through an obstacle. Of
/// all trees over these ways that is sought whose pipes, laid from the heads down at least cover and least slope,
///
///     start <= rim - cover - wall - height,  and below what enters by the drop
///     end   <= rim - cover - wall - height,  and start - S L
///
/// cost least to dig and lay, without one pipe crossing another in plan. From the tree of shortest ways, and from
/// others, single pipes are led elsewhere as long as that makes the whole cheaper. All pipes have the project's default
/// size: a design (propose_design.h) sizes them afterwards.
namespace culvert {

struct NetworkAsk {
    std::vector<StructureId> inlets;            ///< to be led away; empty: all inlets that no pipe leaves
    StructureId outfall;                        ///< none: the only one, or the lowest
    std::vector<std::vector<Point>> obstacles;  ///< outlines that no pipe may cross
};
struct NetworkProposal {
    Edit edit;
    std::size_t pipes = 0, manholes = 0;
    double length = 0, volume = 0, cost = 0;
    double cost_first = 0;              ///< of the tree of shortest ways, its crossings let pass
    std::vector<StructureId> left_out;  ///< no way leads from them past the obstacles
    std::string error;
};
NetworkProposal propose_network(const Project& project, const Ground& ground, const NetworkAsk& ask,
                                const std::stop_token& stop = {});

// The search as plain numbers.

struct WayNode {
    double rim = 0;
    bool must = false;  ///< an inlet: to be led away
};
struct Way {
    int a = 0, b = 0;
    double length = 0;
    double weight = 1;           ///< how much more it counts than a way along a street
    std::vector<int> crossings;  ///< ways that it crosses in plan
};
struct LayRules {
    double above = 1.5;  ///< rim to the start of a pipe: cover, wall, height, m
    double least_slope = 0.005, most_slope = 0.1, drop = 0.03;
    double width = 1, below = 0.15;           ///< of the trench; from the invert to its bottom, m
    double dig_price = 45, pipe_price = 100;  ///< of m3, of m
};
/// For each node the way that takes its water; -1: none. The root has none.
struct WayTree {
    std::vector<int> way;
    double cost = 1e300;
};
/// What a tree costs; every crossing of two of its ways counts as much as a kilometre of pipe.
double cost_of_tree(std::span<const WayNode> nodes, std::span<const Way> ways, int root, const LayRules& rules,
                    const std::vector<int>& way);
WayTree shortest_tree(std::span<const WayNode> nodes, std::span<const Way> ways, int root, const LayRules& rules);
WayTree cheapest_tree(std::span<const WayNode> nodes, std::span<const Way> ways, int root, const LayRules& rules,
                      const std::stop_token& stop = {});

}  // namespace culvert
