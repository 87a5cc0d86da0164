// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/design/design.h"

/// The smallest set of larger pipes that cures a whole run, not one finding after another.
///
/// Enlarging one pipe often moves the trouble to the next. So sets of changes are tried whole, each over the network
/// and all events: first every pipe of the run (and what carries its water on) by itself, one to three sizes up; then
/// every pair of those that help; then the one that helps most, taken and the search begun again, with what turns out
/// not to be needed taken back at the end. A set of one or two is the smallest there is; a larger one is small, not
/// proven to be the smallest.
///
/// Cured are capacity, filled depth, velocity, surcharge, freeboard and flooding of the run in the event looked at.
namespace culvert {

struct BranchChange {
    PipeId pipe;
    double before = 0, after = 0;  ///< size, m
};
struct BranchRemedy {
    Edit edit;
    std::vector<BranchChange> changes;
    int before = 0;           ///< findings of the run beyond their limits in the event
    int left = 0;             ///< of them with the edit
    int gone = 0, added = 0;  ///< over the whole network: in events no rarer, and over all events
    double cost = 0;          ///< of pipes and trenches more than now, in the project's prices
    bool smallest = false;    ///< no smaller set of the sizes tried cures it
    int tried = 0;            ///< sets
    std::string why;          ///< where nothing is proposed
};
BranchRemedy mend_branch(const Project& project, const Results& results, const std::vector<PipeId>& run, EventId event,
                         const std::stop_token& stop = {});

}  // namespace culvert
