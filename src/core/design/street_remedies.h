// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"
#include "core/review/review.h"

namespace culvert {

/// Changes of inlets that may mend a finding of streets, to be tried: a longer opening at the inlet found fault with
/// and at those whose bypass reaches it (the largest first), and other inlet types of the catalogue in their place.
struct InletChange {
    Edit edit;
    std::string text;
    double growth = 0;  ///< of the opening, m: an order of merit
};
std::vector<InletChange> inlet_changes(const Project& project, const EventResult& result, StructureId structure);
/// Whether larger inlets can mend findings of a rule.
bool mended_by_inlets(Rule rule);

}  // namespace culvert
