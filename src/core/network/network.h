// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

#include "core/hydraulics/section.h"
#include "core/model/project.h"

/// A project compiled for solving: dense indexes, flow order, and the faults of its data.
///
/// Each structure has at most one pipe that carries its water on, so the network is a forest whose roots are outfalls.
/// A node is a structure with that pipe; nodes are numbered so that water flows from lower to higher numbers.
///
/// Direction comes from the graph: every pipe leads towards the outfall that its structure can reach. Where that is
/// ambiguous (a ring, two ways out, two outfalls on one network) the lowest invert at the structure takes the water,
/// and the pipe that carries none is named as a fault. Slope is signed: an adverse pipe has a negative slope.
namespace culvert {

enum class Severity { Note, Warning, Error };

/// A fault of the data: the element, the field, the value, what is wrong and what mends it.
struct Fault {
    Severity severity = Severity::Error;
    ElementRef element;
    std::string field;   ///< key, empty where no single field is at fault
    std::string title;   ///< a few words: "no way out"
    std::string detail;  ///< one sentence with the value
    std::string remedy;
};

constexpr int no_node = -1;

struct Node {
    StructureId structure;
    PipeId pipe;  ///< the pipe that carries the water on; none for an outfall
    StructureKind kind = StructureKind::Manhole;
    int down = no_node;    ///< node at the pipe's downstream end
    int inflows = 0;       ///< number of pipes that lead here
    bool solvable = true;  ///< the pipe's numbers allow a solution
    double rim = not_given;
    double loss = 0;  ///< K
    double known_flow = 0;
    Tailwater tailwater = Tailwater::Free;
    double tailwater_level = not_given;
    double local_time = 0;  ///< longest time of the catchments that drain here, least time applied; 0: none
    int cover_begin = 0, cover_end = 0;  ///< in Network::covers
    // the pipe
    Section section = Circular{1};
    double roughness = 0.013, length = 1, wall = 0, invert_up = 0, invert_down = 0, slope = 0, capacity = 0;
    friend bool operator==(const Node&, const Node&) = default;
};

struct NetworkCover {
    double area, coefficient;
    friend bool operator==(const NetworkCover&, const NetworkCover&) = default;
};

struct Network {
    std::vector<Node> nodes;  ///< in flow order
    std::vector<NetworkCover> covers;
    std::vector<PipeId> idle;  ///< pipes that take no part: closing a ring, a second way out, without ends
    std::vector<Fault> faults;
    bool hold_flow = true, full_travel_velocity = false, hold_at_rim = false, peak_capacity = false;
    double least_time = 300, uplift = 1;

    /// Node of a structure, or of the structure a pipe leads from; no_node where it is not part of the solution.
    [[nodiscard]] int node_of(StructureId id) const;
    [[nodiscard]] int node_of(PipeId id) const;
    std::vector<std::pair<std::uint64_t, int>> by_structure, by_pipe;  ///< sorted
};

Network compile(const Project& project);

}  // namespace culvert
