// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/design/site.h"
#include "core/model/catchment_time.h"

/// The parts of a flow path on the drawn line: where each ends, its length along the line, its fall from the ground.
///
/// The line leads from the head of the catchment's longest way down to its structure. Parts follow one another along
/// it; a part of a known time takes no length. A part's slope is the fall of the ground between its ends over its
/// length:
///
///     s = (z(start) - z(end)) / L
///
/// Where the ground rises along a part, or is not known at one of its ends, the mean fall of the whole line is taken
/// and said; where that is not above 0 either, the part keeps the slope it had.
namespace culvert {

/// Stations along the line at which the parts end, in their order; the last part with a length ends with the line.
std::vector<double> part_ends(const std::vector<FlowPart>& parts, double line_length);

struct MeasuredParts {
    std::vector<FlowPart> parts;
    std::vector<std::string> remarks;  ///< "part 2: the ground rises along it; the mean fall of the path is taken"
};
/// Lengths and slopes of parts that end at these stations.
/// @param level  of the ground at a place; NaN where it is not known
MeasuredParts measured_parts(std::vector<FlowPart> parts, const std::vector<double>& ends,
                             const std::vector<Point>& line, const std::function<double(Point)>& level);
/// What a path usually is, to begin with: sheet flow over at most 30 m (100 ft), then shallow flow, paved where most of
/// the catchment's covers are impervious. Roughness is that of its largest cover, else of short grass.
std::vector<FlowPart> usual_parts(const Project& project, const Catchment& catchment, double line_length);

/// Sets a catchment's flow path, measures its parts along it (its own where it has such, else the usual ones) and finds
/// its time by them. A line of fewer than two points: the path as drawn.
/// @param ends  stations at which the parts are to end; empty: as they do now
Edit measure_flow_path(const Project& project, CatchmentId catchment, std::vector<Point> line,
                       const std::function<double(Point)>& level, std::vector<double> ends = {},
                       std::vector<std::string>* remarks = nullptr);

}  // namespace culvert
