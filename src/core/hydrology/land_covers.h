// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <span>
#include <string_view>

/// Usual numbers of what covers the ground: guides to start from, and to notice a slip by.
///
/// Curve numbers are those of TR-55 table 2-2 by hydrologic soil group, runoff coefficients the usual ranges of
/// HEC-22 table 3-1, roughness of sheet flow that of TR-55 table 3-1. They stand here from memory and are marked so:
/// check them against your source; a project's own numbers are kept with the catchment.
namespace culvert {

struct LandCoverKind {
    std::string_view name;
    double c_low, c_high;                ///< usual range of the rational C
    std::array<double, 4> curve_number;  ///< soil groups A to D
    double impervious;                   ///< share
    double sheet_n;                      ///< roughness of sheet flow
};
std::span<const LandCoverKind> land_cover_kinds();
/// By its name; null where none is named so.
const LandCoverKind* land_cover_kind(std::string_view name);
constexpr std::string_view land_cover_source =
    "usual values of HEC-22 table 3-1 and TR-55 tables 2-2 and 3-1, from memory: check";

/// A part of a catchment, for its composite curve number.
struct CurvePart {
    double area;  ///< m2
    double curve_number;
    double impervious;   ///< share; NaN counts as none
    bool over_pervious;  ///< its water runs over pervious ground before it is gathered
};
/// Curve number of a whole catchment: weighted by area; where impervious parts drain over pervious ones and all
/// impervious ground is less than 30 % of the whole, lowered by
///
///     CNc = CNp + Pimp (98 - CNp) (1 - R / 2)
///
/// with CNp that of the pervious parts, Pimp the impervious share, R the share of it that drains over pervious ground.
/// A part counts as impervious where its share is at least 0.99. NaN without parts.
/// @source  USDA NRCS TR-55 (1986), fig. 2-4
struct CompositeCurve {
    double curve_number;
    bool lowered = false;    ///< the equation above was used
    bool too_paved = false;  ///< parts drain over pervious ground, but 30 % or more is impervious: plainly weighted
};
CompositeCurve composite_curve_number(std::span<const CurvePart> parts);

}  // namespace culvert
