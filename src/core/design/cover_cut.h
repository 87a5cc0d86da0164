// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/hydrology/land_covers.h"
#include "core/model/edit.h"

/// Land covers from polygons: a layer of what covers the ground, cut by the outlines of catchments, so that areas fill
/// in.
///
/// Each catchment with an outline gets, for each kind of cover, the area of its part; what no polygon covers stays
/// without a cover and is said, as is ground that two polygons share (it is counted once for each, so the areas do not
/// add up: a finding says so too). C, curve number and roughness are the polygon's own where it brings them, else the
/// usual ones of its kind (core/hydrology/land_covers.h), else those of the catchment.
namespace culvert {

struct CoverPolygon {
    std::string kind;
    std::vector<std::vector<Point>> rings;  ///< the outer one, then holes
    double coefficient = not_given, curve_number = not_given;
    std::string place;  ///< where it stands in its file, for messages
};

struct CoverCut {
    Edit edit;
    std::size_t catchments = 0, covers = 0;  ///< that got covers; rows made
    double bare = 0;                         ///< area of those catchments that no polygon covers, m2
    double twice = 0;                        ///< that more than one covers, m2
    std::vector<std::string> remarks;        ///< polygons that were left out, and why
};
/// @param replace  covers that catchments have already: true: they go; false: such catchments are left alone
CoverCut cut_covers(const Project& project, const std::vector<CoverPolygon>& polygons, bool replace);

/// A land cover drawn as a polygon: each catchment under it gets the part that lies in it, with its outline. The ground
/// was another cover's before: that of the cover without an outline (the rest of the catchment), whose area falls by as
/// much; a catchment that had no covers gets one of that kind, with the C it had.
/// @param like  name, C, curve number and so on of the cover
Edit draw_cover(const Project& project, const std::vector<Point>& outline, const LandCover& like,
                std::string* why_not = nullptr);
/// The cover of the library as a row, with the middle of its usual C, for soil group B.
LandCover cover_of_kind(const LandCoverKind& kind);
constexpr const char* rest_of_it = "the rest";

}  // namespace culvert
