// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>

#include "core/model/edit.h"

/// Changes of the layout, each as one Edit. Levels come from the project's defaults (core/model/lay.h); rims from the
/// ground where there is one.
namespace culvert {

/// Level of the ground at a point, NaN where there is none.
using GroundAt = std::function<double(Point)>;

/// Splits a pipe at a place along its drawn line. The new structure's kind is `kind`; both parts keep size, material
/// and lock, and the levels stay on the line that the pipe had: nothing changes but the structure between.
/// @param structure  id that the new structure gets; null: not wanted
Edit split_pipe(const Project& project, PipeId pipe, double station, StructureKind kind, const GroundAt& ground,
                StructureId* structure = nullptr);
/// Joins the two pipes at an inline joint or a manhole with two pipes: the structure becomes a bend. Empty where there
/// are not just two pipes of one section, or where the structure carries more than their levels (a catchment, a flow).
Edit merge_at(const Project& project, StructureId structure, std::string* why_not = nullptr);
/// Exchanges start and end of a pipe: its water does not mind.
Edit reverse_pipe(const Project& project, PipeId pipe);

/// Pipes from lines: ends become structures, shared ones where they meet within the tolerance; corners become bends; a
/// line that ends on another splits it. A pipe leads from the higher to the lower ground; without ground, as drawn.
struct FromLines {
    Edit edit;
    std::size_t structures = 0, pipes = 0, skipped = 0;  ///< skipped: shorter than the tolerance, or there already
};
FromLines pipes_from_lines(const Project& project, const std::vector<std::vector<Point>>& lines, double tolerance,
                           const GroundAt& ground);

/// Inlets at places, each with its rim from the ground; places within the tolerance of a structure are left out.
Edit inlets_at(const Project& project, const std::vector<Point>& places, double tolerance, const GroundAt& ground);

/// Moves structures; rims of ground origin are read anew where the ground has a level, ends that follow are laid again,
/// stations along streets too.
Edit move_structures(const Project& project, const std::vector<StructureId>& which, Point by, const GroundAt& ground);

/// Exchanges kinds across many elements by a table: types of structures, materials of pipes. A pipe of a mapped
/// material takes the nearest size of the new one that is not smaller, else its largest.
struct Swap {
    std::string from, to;
};
struct SwapOutcome {
    Edit edit;
    std::size_t structures = 0, pipes = 0;
    std::vector<std::string> remarks;  ///< what could not be mapped
};
SwapOutcome swap_kinds(const Project& project, const std::vector<Swap>& types, const std::vector<Swap>& materials,
                       const std::vector<ElementRef>& only = {});

}  // namespace culvert
