// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>

#include "core/analysis/results.h"
#include "core/hydraulics/access_hole.h"
#include "core/hydraulics/barrel.h"

/// Steady grade lines over the network.
///
/// From the outfalls up: the level at a pipe's end, the curve along it (see hydraulics/barrel.h), then the structure:
///
///     level = EGL at the pipe's entrance + K V^2 / 2g
///
/// as still water: the velocity head of the inflow is lost in the structure, so the pipes that enter meet that level.
/// Where the energy method for access holes is chosen (hydraulics/access_hole.h) the level is its energy, and a pipe
/// that enters keeps what its exit loss leaves of its velocity head: its energy line ends 0.4 V^2/2g above the level.
///
/// Bends along a pipe, Kb = its angles in degrees times the project's K, lose Kb V^2/2g where its water is slow at
/// its entrance; where the level is set there, or water arrives fast, they lie below that place and raise nothing
/// above. At an inline joint the energy of the pipe that enters is more than that behind it by a change of section:
///
///     Ke (V1^2 - V2^2)/2g  where water slows down,  Kc (V2^2 - V1^2)/2g  where it gets faster
///
/// A structure breaks fast flow: a steep pipe starts at critical depth. An inline joint does not: the energy is passed
/// on, so that fast flow runs through it. Then from the heads down: fast reaches of steep pipes, and where they jump.
///
/// The EGL never rises downstream, except at a structure held at its rim.
/// @source  FHWA HEC-22, 3rd ed. (2009), ch. 7; Chow (1959); Henderson (1966)
namespace culvert {

/// A number that may not be known, equal to another one that is not known.
struct Known {
    double value = not_given;
    operator double() const { return value; }  // NOLINT: it is a number
    friend bool operator==(Known a, Known b) {
        return a.value == b.value || (a.value != a.value && b.value != b.value);
    }
};

/// An access hole, as the pipe that leaves it reads it; flows are those of one barrel.
struct HoleInput {
    bool on = false;
    Benching floor = Benching::Depressed;
    Known depth;  ///< rim to the invert of the pipe
    int count = 0;
    std::array<HoleInflow, 5> inflows{};  ///< more than these are taken together
    friend bool operator==(const HoleInput&, const HoleInput&) = default;
};

/// All that the grade line of a pipe and of the structure it leaves depends on, in the direction of the water. Two
/// equal ones have the same answer, bit for bit: this is the key of what is kept from an earlier solve.
struct PipeInput {
    Section section = Circular{1};
    double roughness = 0, length = 0, slope = 0, invert_up = 0, invert_down = 0;
    double flow = 0;  ///< of one barrel
    Known normal;
    double loss = 0;  ///< K of the structure it leaves
    double bend = 0;  ///< K of its bends
    Known rim;        ///< of that structure
    bool from_joint = false, hold_at_rim = false;
    enum class End : std::uint8_t { Structure, Joint, Outfall } end = End::Structure;
    Tailwater tailwater = Tailwater::Free;  ///< of an outfall
    Known tailwater_level;
    Known below_level, below_energy;  ///< at the structure it leads to
    double joint_head = -1;           ///< velocity head behind the inline joint it leads to, m; negative: not looked at
    double expansion = 0, contraction = 0;
    bool into_hole = false;  ///< that structure is an access hole
    HoleInput hole;          ///< the structure it leaves
    friend bool operator==(const PipeInput&, const PipeInput&) = default;
};
/// Input of a link with its flow and the levels of the node it leads to.
/// @param all  flows of what enters the node it leaves, and tailwaters
PipeInput input_of(const Network& network, const Link& link, const LinkFlow& flow, const NodeLevel& below,
                   const Summaries& all);

/// What each outfall meets in an event, into `out.tails`; levels of ratings follow when flows are known.
void set_tails(const Network& network, EventId event, Summaries& out);
/// Ponds that end a network stand at their highest level: the tailwater of what runs into them.
void stand_in_ponds(const Network& network, Summaries& out);
/// Level of a tailwater's rating at a flow; held at its ends.
double rated_level(const TailRating& rating, double flow);
/// Levels of the ratings of a component's outfalls, from the flows that leave there.
void rate_tails(const Network& network, const Component& component, Summaries& out);

/// Solves one pipe from its lower end: its slow curve, and the level in the structure it leaves. `link.jump` is -1
/// where fast water enters: its end is found on the way down, or at once where only its own entrance can send it.
void solve_pipe(const PipeInput& in, NodeLevel& node, LinkLevel& link, bool jump_at_once = false);

/// Fills the level part of a component that is a tree from its flow part. Allocates nothing.
///
/// @param before  an earlier solve of a network with the same structures and pipes in the same order, or null: a pipe
///                whose inputs are all unchanged keeps its earlier result
/// @return        number of barrels computed anew
std::size_t solve_levels(const Network& network, const Component& component, Summaries& out,
                         const EventResult* before = nullptr);
/// The same for all components that are trees.
std::size_t solve_levels(const Network& network, Summaries& out, const EventResult* before = nullptr);

/// The way down of fast water: through the links of a component in the order given, from entrances of steep pipes and
/// through inline joints, to where it jumps. Links whose water runs against their listing break it.
void run_fast(const Network& network, const Component& component, Summaries& out);
/// Outfalls show their tailwater, or the highest grade line that comes in.
void level_outfalls(const Network& network, const Component& component, Summaries& out);

/// One barrel of a link with the flow of all, for profiles along it.
Barrel barrel_of(const Link& link, double flow);

constexpr double dry_flow = 1e-12;  ///< m3/s; below it a pipe carries nothing

}  // namespace culvert
