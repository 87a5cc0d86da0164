// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/analysis/results.h"
#include "core/base/working.h"

/// Takes a solved number apart into steps a person can check by hand. The steps call the same kernels as the solve and
/// end at the same number.
namespace culvert {

struct Explanation {
    std::string title;  ///< "Flow of A3–A4, 10 years"
    Working steps;
    std::string error;  ///< why there is nothing to explain
};

/// Quantities that can be explained: pipe "flow", "time", "capacity", "normal depth", "velocity", "friction";
/// structure "level", "loss", "spread" (the water on the street at its inlet), "release" (a pond's ways out at its
/// highest level). A structure also answers for the pipe that leads on from it.
std::vector<std::string_view> explainable(Kind kind);

Explanation explain(const Project& project, const EventResult& result, ElementRef element, std::string_view quantity);

}  // namespace culvert
