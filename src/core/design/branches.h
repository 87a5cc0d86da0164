// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"

/// What can be done where a branch meets a main at the wrong level.
///
/// A branch arrives too low where its invert at the structure lies below the invert of the pipe that leads on, raised
/// by the drop across the structure: its water would have to climb. It arrives high where it lies above that by more
/// than it needs. Each alternative is an Edit with its price: the excavation it adds over what lies there now.
///
///     V = sum over the pipes changed of (change of mean trench depth) · L · (outside width + 2 · working space)
///
/// Trench depth is from the ground line between the rims to the bottom of the bedding under the barrel (invert – wall –
/// bedding). Working space and bedding are 0.3 m and 0.1 m. Less excavation than now has a negative price.
namespace culvert {

struct BranchAlternative {
    Edit edit;
    std::string text;         ///< "raise the branch: cover 0.86 m at A3 where 1.20 m is asked"
    double excavation = 0;    ///< m3 more than now
    double cost = 0;          ///< excavation times the project's price for it
    bool keeps_cover = true;  ///< no cover falls below the limit, or the default where there is none
};
struct BranchLevels {
    bool low = false, high = false;
    double gap = 0;  ///< by how much too low (positive) or high (negative), m
    StructureId structure;
    PipeId branch, main;
    std::vector<BranchAlternative> alternatives;  ///< cheapest first, those that keep their cover before the others
};
/// Looks at the downstream end of a pipe. Neither low nor high where it meets no pipe that leads on.
BranchLevels branch_levels(const Project& project, PipeId branch);

constexpr double trench_working_space = 0.3, trench_bedding = 0.1;  ///< m: on either side, and under the barrel
/// Width of the trench of a pipe as wide inside as given.
constexpr double trench_width(double inside, double wall) { return inside + 2 * wall + 2 * trench_working_space; }
/// Excavation of a pipe as it lies, m3; NaN without levels.
double trench_volume(const Project& project, const Pipe& pipe);

}  // namespace culvert
