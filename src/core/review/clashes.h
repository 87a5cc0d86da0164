// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/crossings/crossings.h"
#include "core/review/review.h"

/// Pipes of the project against each other, against structures they do not end at, and against other lines under
/// ground.
namespace culvert {

/// A place where a pipe comes near something else, and what the clearances ask there.
struct Clash {
    PipeId pipe;
    ElementRef other;  ///< a pipe, a structure, or a buried line
    double along = 0;  ///< m of the pipe, as drawn
    Point at;
    bool crosses = false;
    bool other_above = false;
    double vertical = not_given, horizontal = 0;  ///< gaps between the outsides, m; vertical NaN: a level is not known
    double least_vertical = not_given, least_horizontal = not_given;  ///< clearances; NaN: not held
    double other_top = not_given, other_bottom = not_given;           ///< levels of its outside there
    Verdict verdict = Verdict::Unknown;                               ///< unknown: it crosses, but a level is not known
};
/// Crossings of all pipes, and what lies beside them within the clearances; those that keep them too.
std::vector<Clash> clashes(const Project& project);
/// Those that are near or beyond a clearance, or cross without a level, as findings in words.
std::vector<Finding> clash_findings(const Project& project, const std::vector<Clash>& clashes);

/// Outside of a pipe, a buried line as lines in space.
SpaceLine space_line(const Project& project, const Pipe& pipe);
SpaceLine space_line(const BuriedLine& line);

}  // namespace culvert
