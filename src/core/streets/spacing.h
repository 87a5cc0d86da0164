// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include "core/streets/inlet.h"

/// Inlets along one curb of a street, for an allowed spread.
///
/// The ground beside the street drains evenly to its curb: Q grows by q = C i W a metre, W the drained width. From a
/// high point down, the first inlet stands where the water reaches the allowed spread, Q(s) = Qa(s), Qa the gutter's
/// flow at that spread and the grade there; it lets its bypass pass, and the next one stands where that with what joins
/// it reaches it again. Between two points of the profile the grade is one, so each place is found in closed form;
/// nothing is tried. A low point has an inlet for what comes from both sides, and flankers where they are asked for; a
/// flanker that would come within the least gap of the inlet above it is that inlet. A station where none may stand
/// moves its inlet up the street.
///
/// @source  FHWA HEC-22, 3rd ed. (2009), sec. 4.4.6 and 4.4.7
namespace culvert {

struct SpacingTask {
    StreetProfile profile;  ///< rising stations
    GutterSection section;
    double n = 0.016;
    InletForm inlet;
    double load = 0;            ///< q, m3/s a metre of curb
    double drained_width = 12;  ///< W, m: areas of the table
    double allowed_spread = 2;  ///< m
    double begin = 0, end = 0;  ///< stations between which inlets are spaced
    double crest = 0.15;        ///< depth at which a sag would spill; it is not allowed to
    bool flankers = false;
    std::vector<std::pair<double, double>> avoid;  ///< from, to
    double least_gap = 1;                          ///< between two inlets, m
    StreetConstants constants;
};

enum class SpacedAs { OnGrade, Sag, Flanker };
struct SpacedInlet {
    double station = 0;
    SpacedAs as = SpacedAs::OnGrade;
    double drains_from = 0, drains_to = 0;  ///< stations between which the ground drains to it first
    double length = 0;                      ///< of curb between them, m
    double own = 0;                         ///< flow of it, m3/s
    double approach = 0;                    ///< with the bypass that comes
    double depth = 0, spread = 0;
    double captured = 0, bypass = 0;
    int to = -1;  ///< next one that its bypass reaches; none: the end of the street
};
struct Spacing {
    std::vector<SpacedInlet> inlets;          ///< by station
    double leaves_begin = 0, leaves_end = 0;  ///< flow that runs past the ends, m3/s
    std::string fault;                        ///< why none could be placed: grade, load, spread
    std::vector<std::string> notes;           ///< an inlet that could not hold the spread, and why
};
Spacing space_inlets(const SpacingTask& task);

/// The profile in parts on which water runs one way, from their high end to their low end.
struct Run {
    double high, low;  ///< stations
    bool sag;          ///< the low end is a low point of the profile between begin and end
};
std::vector<Run> runs_of(const StreetProfile& profile, double begin, double end);

}  // namespace culvert
