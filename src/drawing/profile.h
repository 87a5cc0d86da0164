// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/results.h"
#include "core/review/review.h"
#include "core/terrain/terrain.h"
#include "drawing/display_list.h"

/// The profile of a run: from its farthest head down to the outfall through the selected element.
namespace culvert {

struct ProfileStation {
    StructureId structure;
    int node = no_node;  ///< in the network
    bool joins = false;  ///< more than one pipe leads here
    std::string name;
    double x;                           ///< distance from the head, m
    double rim, bottom, level, energy;  ///< bottom: the lowest invert there; NaN where not known
};
struct ProfileReach {
    PipeId pipe;
    int link = no_link;  ///< in the network
    double x0, x1;
    double invert_up, invert_down, height;
    Verdict verdict = Verdict::Unknown;
    std::vector<Point> hydraulic, energy;  ///< grade lines along the barrel
};
struct Profile {
    std::vector<ProfileStation> stations;
    std::vector<ProfileReach> reaches;  ///< between consecutive stations
    double low = 0, high = 1, length = 1;
    [[nodiscard]] bool empty() const { return reaches.empty(); }
};

/// @param through  structure or pipe the run leads through; any other kind: the longest run of the network
/// @param until    a structure on its way down, where it ends; none: the outfall
/// @param result   an event's result, or null: geometry alone
Profile profile_of(const Project& project, const Network& network, const EventResult* result, const Review* review,
                   ElementRef through, StructureId until = {});

/// The part of a profile between two of its structures, whichever stands first, its distances from the upper one; an
/// empty profile where one of them is not on it.
Profile profile_between(const Profile& whole, StructureId a, StructureId b);

/// The branches of a run, each from its farthest head down to the structure where it joins, and theirs in turn: those
/// of a run from its head down, each followed by its own.
std::vector<Profile> branches_of(const Project& project, const Network& network, const EventResult* result,
                                 const Review* review, const Profile& run);

/// The ground along the run: distance, level; NaN parts it.
std::vector<Point> ground_along(const Project& project, const Profile& profile, const Ground& ground);

/// Lines, areas and texts in station–level coordinates.
DisplayList draw_profile(const Project& project, const Profile& profile);

}  // namespace culvert
