// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/review/review.h"
#include "core/terrain/contours.h"
#include "drawing/display_list.h"

/// The plan of a project: streets, catchments, contours, buried lines, pipes with size and slope, structures with name
/// and rim. On paper in millimetres at a scale, the origin the lower left corner; or in the project's own coordinates,
/// for drawings that are laid over others.
namespace culvert {

struct PlanSheetOptions {
    double scale = 0;             ///< 1 : so much; 0: the largest usual one that fits 400 by 277 mm
    bool in_coordinates = false;  ///< places as the project has them, in its unit of length; no frame, no title
    std::vector<Contour> contours;
    const Review* review = nullptr;  ///< of the event viewed: pipes in the ink of their verdict
    const EventResult* result = nullptr;
};
struct PlanSheet {
    DisplayList list;
    double width = 0, height = 0;  ///< mm
    double scale = 0;
    double letters = 2.5;  ///< height of its texts, in the unit of its places
    int labels_left = 0;   ///< names and sizes that had no room
};
/// An empty sheet where nothing has a place.
PlanSheet plan_sheet(const Project& project, const PlanSheetOptions& options);

}  // namespace culvert
