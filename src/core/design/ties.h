// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stop_token>

#include "core/design/grading.h"
#include "core/review/review.h"

/// Levels that follow: ties that grading left on pipes (Pipe::tie_from, tie_to), read again against what stands now.
///
/// Where the ground, a rim or a neighbouring pipe has changed, every run with a tie is graded anew: its ties and its
/// typed levels are the pins, what a program proposed follows by rule. Ties to pipes are followed until nothing moves
/// any more; where they lead to each other and never rest nothing follows, and that is said. Runs end where a pipe is not proposed.
namespace culvert {

/// A tie in words that mean the same in any unit system: "ground - 1.50 m", "cover 1.2 m", "B1–A3 + 0.05 m".
std::string tie_words(const Project& project, const Tie& tie);

/// A tied end of a pipe that stands at another level than its tie gives now.
struct TieMoved {
    PipeId pipe;
    bool start = false;                          ///< at Pipe::from
    double level = not_given, tied = not_given;  ///< m: it stands at, and the tie gives
};
struct TiesFollowed {
    Edit edit;
    int ties = 0;   ///< ends of pipes that are tied
    int moved = 0;  ///< of them, those whose level was not what the tie gives
    std::vector<TieMoved> moves;
    std::vector<GradeConflict> conflicts;
    std::vector<std::string> broken;  ///< "A3–A4: ...": ties that cannot be read, and what cannot follow
};
/// Whether any level of the project is tied.
bool has_ties(const Project& project);
/// What is said of levels that no longer stand where their ties put them: a finding for each such end.
std::vector<Finding> tie_findings(const Project& project, const TiesFollowed& followed);
TiesFollowed follow_ties(const Project& project, const Ground& ground, const std::stop_token& stop = {});

}  // namespace culvert
