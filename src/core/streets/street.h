// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

#include "core/geometry/line.h"

/// A street: its section across and its profile along.
///
///      verge   curb gutter    lane     crown     lane    gutter curb   verge
///     ______                 ____________|____________                ______
///           |________-------             |            -------________|
///
/// Heights are relative to the crown; offsets are measured from it, positive to the right looking up the stations.
namespace culvert {

/// The section of a street on each side of its crown, from the crown outward: lanes, gutter, curb, verge. Both sides
/// are alike.
struct StreetShape {
    double lane_width = 3.5;                         ///< of all lanes of one side, m
    double cross_slope = 0.02;                       ///< of the lanes, m/m, positive falls from the crown
    double gutter_width = 0.5, gutter_slope = 0.05;  ///< m, m/m
    double curb_height = 0.15;                       ///< m
    double verge_width = 2, verge_slope = 0.02;      ///< m, m/m; the verge rises from the curb
    double roughness = 0.016;                        ///< Manning n of gutter and lanes
    /// Distance from the crown to the face of the curb.
    [[nodiscard]] double to_curb() const { return lane_width + gutter_width; }
    [[nodiscard]] double half_width() const { return to_curb() + verge_width; }
};

struct SectionCorner {
    double offset, height;
};
/// Corners of the whole section from the left verge to the right one: nine of them.
std::vector<SectionCorner> section_corners(const StreetShape& shape);
/// Height at an offset relative to the crown; beyond the verge that of its edge. At the curb's face: the gutter.
double height_at(const StreetShape& shape, double offset);

/// A line beside a line at an offset to the right, mitred at its corners; sharp corners are cut at three offsets.
std::vector<Point> parallel(std::span<const Point> line, double offset);

struct StreetPoint {
    double station, level;
};
using StreetProfile = std::vector<StreetPoint>;
/// Level at a station, linear between the points; held at the ends; NaN without points.
double level_at(const StreetProfile& profile, double station);
/// Grade just after a station, m/m, positive rises; 0 without two points.
double grade_at(const StreetProfile& profile, double station);
/// Grade along which water comes to a place, m/m, never below 0: at a break of grade that of the side it comes from,
/// whichever way the street was drawn. From both sides, or from neither (a crest): the flatter that is not level, on
/// which it stands wider.
double grade_to(const StreetProfile& profile, double station);

/// Places that matter along a profile.
enum class ProfileMark { Low, High, GradeBreak };
struct MarkedPlace {
    ProfileMark mark;
    double station, level;
    double grade_before, grade_after;
};
/// Low and high points whose rise to the next one is at least `least_depth` (smaller waves are noise), and breaks of
/// grade between them of at least `least_break` (m/m), along the profile simplified to within half the least depth. The
/// ends are no marks.
std::vector<MarkedPlace> marked_places(const StreetProfile& profile, double least_depth, double least_break);

}  // namespace culvert
