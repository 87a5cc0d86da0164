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

}  // namespace culvert
