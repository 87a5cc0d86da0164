// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stop_token>

#include "core/design/grading.h"

/// Levels that follow: ties that grading left on pipes (Pipe::tie_from, tie_to), read again against what stands now.
///
/// Where the ground, a rim or a neighbouring pipe has changed, every run with a tie is graded anew: its ties and its
/// typed levels are the pins, what a program proposed follows by rule. Ties to pipes are followed until nothing moves
/// any more. Runs end where a pipe is not proposed.
namespace culvert {

/// A tie in words that mean the same in any unit system: "ground - 1.50 m", "cover 1.2 m", "B1–A3 + 0.05 m".
std::string tie_words(const Project& project, const Tie& tie);

struct TiesFollowed {
    Edit edit;
    int ties = 0;   ///< ends of pipes that are tied
    int moved = 0;  ///< of them, those whose level was not what the tie gives
    std::vector<GradeConflict> conflicts;
    std::vector<std::string> broken;  ///< "A3–A4: ...": ties that cannot be read, and what cannot follow
};
TiesFollowed follow_ties(const Project& project, const Ground& ground, const std::stop_token& stop = {});

}  // namespace culvert
