// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/review/clashes.h"
#include "drawing/profile.h"

/// A run's profile at true scale, in millimetres of paper: grid, ground, structures, barrels with water, grade lines,
/// crossings, and a level table below. The origin is the lower left corner.
namespace culvert {

struct ProfileSheetOptions {
    double across = 500, up = 50;           ///< scales, 1 : 500 along the run and 1 : 50 in height
    std::vector<Point> existing, finished;  ///< ground along the run: distance, level; NaN parts it
    std::vector<Clash> crossings;
    std::vector<std::pair<std::string, std::vector<std::vector<Point>>>> others;  ///< events with their grade lines
};
struct ProfileSheet {
    DisplayList list;
    double width = 0, height = 0;  ///< mm
};
/// An empty sheet where the profile is empty or a scale is not above 0.
ProfileSheet profile_sheet(const Project& project, const Profile& profile, const EventResult* result,
                           const ProfileSheetOptions& options);

/// Sheets of several runs on one paper, side by side on one foot.
ProfileSheet side_by_side(const std::vector<ProfileSheet>& sheets);

}  // namespace culvert
