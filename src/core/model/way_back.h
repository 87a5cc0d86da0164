// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>

#include "core/model/edit.h"

/// The way back of a value to where it would come from if nobody had typed it: the ground, the catalogue, the levels
/// that follow, the measured area, or the default.
namespace culvert {

struct WayBack {
    Edit edit;
    std::string text;  ///< "rim from the ground: 22.41 m"
};
/// None where the value is there already, or there is nothing to go back to.
/// @param whole   with the ends of pipes that follow; without, it only tells whether and whereto there is a way
/// @param ground  level of the ground at a structure's place, NaN where there is none
std::optional<WayBack> way_back(const Project& project, Kind kind, std::uint64_t id, std::string_view key,
                                double ground = not_given, bool whole = true);

}  // namespace culvert
