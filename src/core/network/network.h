// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/base/contract.h"
#include "core/hydraulics/section.h"
#include "core/model/project.h"
#include "core/network/street_inlet.h"

/// A project compiled for solving: nodes and links with dense indexes, in flow order, and the faults of its data.
///
/// A structure is a node; a pipe is a link between two nodes. Links lead towards the outfall that their structure can
/// reach; where a structure has several ways, its main one is that with the lowest invert, and the main ways make a
/// tree whose root is an outfall, or a pond with outlets that all its pipes fall to. What is left closes rings, runs
/// beside another pipe, or is a further way out: such links have `main` false, and their flow is found by the balance
/// of heads (core/analysis/block.h), also against the way they are listed. A component is all that water can pass
/// between; one without further links is a tree.
///
/// Nodes of a component stand together, each after all that lead to it by main links; links stand in the order of the
/// nodes they leave, a node's main link first. Slope is signed: an adverse pipe has a negative slope.
///
/// Over the streets water runs from inlet to inlet, also between components: inlets with their street paths stand
/// apart, in an order of their own (street_inlet.h).
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

constexpr int no_node = -1, no_link = -1, no_inlet = -1, none_of_list = -1;

/// Tailwater of an outfall by the flow that leaves by it.
struct TailRating {
    std::vector<double> flows, levels;  ///< rising; held at its ends
    friend bool operator==(const TailRating&, const TailRating&) = default;
};
/// Level that an outfall meets in one event.
struct TailLevel {
    int node = no_node;
    EventId event;
    double level = 0;
    friend bool operator==(const TailLevel&, const TailLevel&) = default;
};
/// The channel below an outfall, a trapezoid, and what its lining stands.
struct Channel {
    double width = 0, sides = 0, slope = 0, roughness = 0;
    double most_velocity = not_given, most_shear = not_given;
};

/// What may leave at a node in one event, m3/s.
struct AllowedRelease {
    int node = no_node;
    EventId event;
    double flow = 0;
};

/// A structure.
struct Node {
    StructureId structure;
    StructureKind kind = StructureKind::Manhole;
    int out = no_link;       ///< its main link; none for an outfall
    int down = no_node;      ///< node at the end of the main link
    int link_end = 0;        ///< after the last link that leaves it; the first is `out`
    int inflows = 0;         ///< number of main links that lead here
    int first_in = no_link;  ///< one of them; the others follow by Link::next_in
    int inlet = no_inlet;    ///< in Network::inlets
    int component = 0;
    double rim = not_given;
    double sump = 0;  ///< depth below the lowest invert, its own or its type's
    double loss = 0;  ///< K
    double known_flow = 0;
    Tailwater tailwater = Tailwater::Free;
    double tailwater_level = not_given;
    int rating = none_of_list;   ///< of its tailwater, in Network::ratings
    int channel = none_of_list;  ///< that receives its water, in Network::channels
    bool access_hole = false;    ///< its loss is found by the energy method, not by K
    Benching benching = Benching::Depressed;
    double local_time = 0;  ///< longest time of the catchments that drain here, least time applied; 0: none
    int cover_begin = 0, cover_end = 0;  ///< in Network::covers
    friend bool operator==(const Node&, const Node&) = default;
};

/// A pipe between two structures.
struct Link {
    PipeId pipe;
    int from = no_node, to = no_node;
    int next_in = no_link;  ///< another main link into `to`
    bool main = true;       ///< part of the tree; else it closes a ring, runs beside another, or is a further way out
    bool solvable = true;   ///< its numbers allow a solution
    Section section = Circular{1};
    double roughness = 0.013, length = 1, wall = 0;
    double invert_up = 0, invert_down = 0;  ///< at `from` and at `to`
    double slope = 0, capacity = 0;         ///< of all its barrels together
    double barrels = 1;                     ///< alike; they share the flow
    double bend = 0;                        ///< K of the bends along it
    double turn = 180;                      ///< at `to`, between it and the main way on, degrees; 180: straight through
    friend bool operator==(const Link&, const Link&) = default;
};

struct NetworkCover {
    double area, coefficient;
    double time;  ///< least time applied, s
    friend bool operator==(const NetworkCover&, const NetworkCover&) = default;
};

/// All nodes and links that water can pass between.
struct Component {
    int node_begin = 0, node_end = 0, link_begin = 0, link_end = 0;
    int further = 0;  ///< links beside the tree; 0: a tree
    friend bool operator==(const Component&, const Component&) = default;
};

struct ThroughTime;  // through_time.h: only what computes hydrographs reads it

struct Network {
    std::vector<Node> nodes;
    std::vector<Link> links;
    std::vector<Component> components;
    std::vector<NetworkCover> covers;
    std::vector<StreetInlet> inlets;  ///< each after all whose bypass reaches it
    std::vector<TailRating> ratings;
    std::vector<TailLevel> tail_levels;  ///< by node, then event
    std::vector<Channel> channels;
    std::vector<PipeId> idle;  ///< pipes that take no part: without an end, between two outfalls, without a way out
    std::vector<Fault> faults;
    bool hold_flow = true, full_travel_velocity = false, hold_at_rim = false, peak_capacity = false;
    double least_time = 300, uplift = 1;
    Edition edition = Edition::Si;
    bool limited = true;  ///< what an inlet lets pass runs on along its street path
    bool gutter_time = true, partial_area = false;
    double expansion = 0, contraction = 0;            ///< K of the change of velocity head at inline joints
    std::shared_ptr<const ThroughTime> through_time;  ///< null: the rational method
    std::vector<AllowedRelease> releases;             ///< by node, then event

    /// no_node or no_link where it is not part of the solution.
    [[nodiscard]] int node_of(StructureId id) const;
    [[nodiscard]] int link_of(PipeId id) const;
    /// Node of a structure; for a pipe the node it leaves.
    [[nodiscard]] int node_of(ElementRef element) const;
    /// Where what the inlet of a node lets pass runs to; no_node: nowhere.
    [[nodiscard]] int street_on(int node) const {
        const int inlet = nth(nodes, node).inlet;
        return inlet != no_inlet && runs_on(nth(inlets, inlet)) ? nth(inlets, inlet).to : no_node;
    }
    std::vector<std::pair<std::uint64_t, int>> by_structure, by_pipe;  ///< sorted
};

Network compile(const Project& project);

/// Inlets of a compiled network with their street paths, and the faults of those that cannot be computed.
void place_inlets(const Project& project, Network& network);
/// What stands at outfalls (tailwater ratings, levels by event, receiving channels) and the angles at which pipes meet
/// in access holes, and the faults of those at fault.
void place_outlets(const Project& project, Network& network);
/// The structure a catchment drains to: its own, or the next inlet down its street; none where there is none.
StructureId target_of(const Project& project, const Catchment& catchment);

/// The same, made from the network of an earlier state where only values of a few pipes and structures differ (sizes,
/// roughness, levels, losses) and no fault is made or mended by them; none where the whole must be compiled. The result
/// is that of `compile`, bit for bit; its cost is a copy.
std::optional<Network> recompile(const Project& before, const Network& network, const Project& now);

}  // namespace culvert
