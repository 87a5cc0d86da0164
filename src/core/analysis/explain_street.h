// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/results.h"
#include "core/base/working.h"

namespace culvert {

/// The working behind the water on the street at an inlet: what comes, how wide it stands, what is taken and what
/// passes, where the rest goes. Empty where the node has no inlet that is computed.
Working explain_street(const Project& project, const EventResult& result, int node);

}  // namespace culvert
