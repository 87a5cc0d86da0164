// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stop_token>

#include "core/model/edit.h"

/// What an outfall meets, from the project of the system it leads to: its grade line at a structure there, event by
/// event.
///
/// The other project is solved as it stands. Events belong together by their name, else by their return period. The
/// levels are taken into rows of the outfall, with where they are from; they do not follow when the other project
/// changes, and are taken again then.
namespace culvert {

struct OuterLevels {
    Edit edit;        ///< empty where nothing could be taken
    int taken = 0;    ///< events
    std::string why;  ///< what could not be taken, in words
};

/// The structure of another project at which an outfall ends: of its name, else the nearest within 30 m; none.
StructureId place_in(const Project& other, const Structure& outfall);

/// @param file  how the other project is named in the rows' source
OuterLevels outer_levels(const Project& project, StructureId outfall, const Project& other, StructureId there,
                         const std::string& file, const std::stop_token& stop = {});

}  // namespace culvert
