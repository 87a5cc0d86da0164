// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/design/design.h"
#include "core/review/clashes.h"

/// Ways out of a clash: the pipe graded under or over what it meets, with so much of the run around it that the ends
/// of the run keep their levels.
///
/// The level that is asked at the place leaves the clearance (or the project's pipes their own) between the outsides:
///
///     under   invert <= bottom of the other - clearance - wall - height
///     over    invert >= top of the other + clearance + wall
///
/// Of the runs of up to three pipes on either side the shortest that grades without a conflict and clashes with nothing
/// else is taken, for each way. Each is solved over the whole network and all events.
namespace culvert {

std::vector<Remedy> clash_remedies(const Project& project, const Results& results, const Finding& finding,
                                   const std::stop_token& stop = {});

}  // namespace culvert
