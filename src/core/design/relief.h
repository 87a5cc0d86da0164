// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/design/design.h"

/// Two more ways to look at water that stands too high.
///
/// A relief pipe runs beside one that is too small, from the same structure to the same structure: flow divides between
/// the two by the balance of heads. It spares what lies there, and is dug beside it.
///
/// Where a grade line starts at a tailwater that alone stands above what is allowed, no pipe helps, and that is said.
namespace culvert {

/// A pipe of a size beside another, its levels the other's, a metre clear of it along the middle of the way.
Pipe relief_pipe(const Project& project, const Pipe& beside, const PipeSize& size);

/// "the tailwater of O1 alone stands 0.12 m above what is allowed at A3"; empty where that is not so, or where the
/// finding is not about a level.
std::string tailwater_words(const Project& project, const EventResult& result, const Finding& finding);

}  // namespace culvert
