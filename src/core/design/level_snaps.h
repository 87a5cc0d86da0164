// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"

/// Levels that an end of a pipe is often laid at: what a drag catches on.
namespace culvert {

struct LevelSnap {
    double level = 0;   ///< of the invert, m
    std::string words;  ///< "invert of A2–A3", "crown of A2–A3", "cover 1.20 m"
};
/// At the structure of an end: inverts, crowns and the other pipes' levels with the drop across the structure; least
/// cover (its limit, else the project's default).
/// @param start  the pipe's first end as drawn, else its second
std::vector<LevelSnap> level_snaps(const Project& project, PipeId pipe, bool start);
/// The nearest of them within a reach; null where there is none.
const LevelSnap* nearest_snap(const std::vector<LevelSnap>& snaps, double level, double reach);

/// Moves whole pipes up or down: both their inverts by the same amount. Existing and abandoned ones stay.
Edit move_run(const Project& project, const std::vector<PipeId>& pipes, double by);

}  // namespace culvert
