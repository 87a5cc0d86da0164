// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <span>

#include "core/model/edit.h"
#include "core/network/network.h"
#include "core/terrain/terrain.h"

/// Grading of a run: some of its levels are pinned, some of its slopes too, and the rest follows by rule.
///
/// A run is a chain of pipes from one structure down to another; one pipe is a run of one. Its levels are bound by
///
///     end of a pipe      = its start - S L
///     start of the next  = that end - fall       fall = max(drop, share (h - habove), 0)
///
/// with the drop of the structure (none at an inline joint) and the share that its matching asks: 0 for inverts, 0.8,
/// 0.5 for centres, 1 for crowns; so crown matching never raises an outgoing invert. A pin is a level known at one
/// place. Between two pins all pipes whose slope is not pinned have one slope,
///
///     S = (z1 - z2 - falls - sum of the pinned S L) / sum of the free L
///
/// A pin inside a pipe (at a crossing) binds the slope of that pipe with those above it; the next pin only those below.
/// Above the first pin and below the last the pipes keep their slopes, so that one pin alone moves a run as a whole.
namespace culvert {

// The chain as plain numbers.

struct ChainPipe {
    double length = 0;         ///< m, > 0
    double slope = not_given;  ///< pinned; NaN: free
    double now = 0;            ///< slope it has, kept where no two pins decide
    double fall = 0;  ///< across the structure it leaves: end of the pipe above less its start; of the first: 0
};
struct ChainPin {
    std::size_t pipe = 0;
    double along = 0;  ///< m from the pipe's start, 0 to its length
    double level = 0;
};
constexpr std::size_t no_pin = static_cast<std::size_t>(-1);
struct ChainLevel {
    double up = 0, down = 0, slope = 0;
    std::size_t above = no_pin, below = no_pin;  ///< pins between which it lies
};
/// Two pins between which nothing is free, and which do not agree.
struct ChainClash {
    std::size_t first = 0, second = 0;
    double reached = 0;  ///< level at the second by the slopes and falls between, m
};
struct Chain {
    std::vector<ChainLevel> levels;
    std::vector<ChainClash> clashes;  ///< the second pin of each is not kept
};
/// @param pins  at least one, in the order of the run
Chain grade_chain(std::span<const ChainPipe> pipes, std::span<const ChainPin> pins);

// The same for a project.

/// What a level is tied to, and how far above it the level lies (negative: below).
struct Tie {
    enum class To : std::uint8_t {
        Level,   ///< the number itself
        Ground,  ///< the ground at the structure, its rim where no surface is known
        Rim,
        Cover,  ///< so that the outside of the barrel lies this far below the rim
        Line    ///< a pipe: its invert where it ends at this structure, else where its line passes nearest
    } to = To::Level;
    double value = 0;
    PipeId line;
    std::string words;  ///< as typed
};
struct TieRead {
    std::optional<Tie> tie;
    std::string error;
};
/// "82.40", "ground - 1.5", "rim - 1.5 ft", "cover 1.2", "B1–A3", "B1-A3 + 0.05".
TieRead read_tie(const Project& project, std::string_view words);

/// What is asked at a structure of the run, and of the pipe that leaves it.
struct PlaceAsk {
    std::optional<Tie> arriving, leaving;  ///< end of the pipe above, start of the pipe below
    double drop = not_given;               ///< NaN: the structure's own
    double slope = not_given;              ///< of the pipe that leaves, pinned
    std::vector<ChainPin> along;           ///< levels inside that pipe; their `pipe` is not read
};
struct RunAsk {
    std::vector<PipeId> pipes;     ///< from the head down
    std::vector<PlaceAsk> places;  ///< one more than pipes; fewer: nothing is asked there
    std::optional<Tie> every;      ///< of all levels without a pin of their own
    bool all_ties = false;         ///< what is not asked here is tied to nothing: its pipes forget their ties
    Matching matching = Matching::Inverts;
};

/// The run that leads through all of these structures and pipes; an error names what does not lie on one.
struct RunFound {
    std::vector<PipeId> pipes;
    std::string error;
};
RunFound run_through(const Project& project, const Network& network, const std::vector<ElementRef>& elements);
/// All pipes from a structure down to another one, by the way its water takes.
RunFound run_between(const Project& project, const Network& network, StructureId from, StructureId to);

struct GradedPlace {
    StructureId structure;
    PipeId pipe;   ///< that leaves; none at the end of the run
    double x = 0;  ///< m from the head of the run
    double rim = not_given, ground = not_given;
    double arriving_before = not_given, arriving = not_given;  ///< end of the pipe above; NaN at the head
    double leaving_before = not_given, leaving = not_given;    ///< start of the pipe below; NaN at the end
    double slope_before = not_given, slope = not_given;        ///< of the pipe below
    double fall = 0;
    bool arriving_pinned = false, leaving_pinned = false;
};
/// What cannot be kept: which limit or rule, where, and the pins that cause it.
struct GradeConflict {
    ElementRef element;
    std::string words;
    std::vector<std::string> pins;  ///< "A1 leaving 82.400 m"
};
struct Graded {
    Edit edit;
    std::vector<GradedPlace> places;
    std::vector<GradeConflict> conflicts;
    std::string error;  ///< nothing could be graded: why
};
/// Levels of a run as asked; what they are tied to stays with the pipes, so that they can follow later (ties.h). Slopes
/// and falls are rounded up to whole millimetres of fall. Inverts of pins are typed, the others proposed; levels are
/// multiples of a millimetre.
/// @param network  of the project: which way its water runs
/// @param ground   for ties to it; where it is not known the rim stands for it
Graded grade_run(const Project& project, const Network& network, const RunAsk& ask, const Ground& ground = {});

}  // namespace culvert
