// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/results.h"

/// Why the water stands where it does: the level a grade line starts from, and what each pipe and structure adds to it
/// on the way up. Start and parts add up to the level exactly; it is a look-up in the results, not a new calculation.
namespace culvert {

enum class BudgetStart { Tailwater, FreeOutfall, FreeFall, Uniform, Critical, StillWater, Pond, Unknown };

struct BudgetPart {
    ElementRef element;
    double rise;  ///< m: a pipe's friction (the fall of its grade line) with its bends, a structure's loss with its
                  ///< velocity head
};
struct LevelBudget {
    double level = not_given;
    BudgetStart start = BudgetStart::Unknown;
    ElementRef start_element;
    double start_level = not_given;
    std::vector<BudgetPart> parts;  ///< from the start up
};

/// Budget of the grade line in a structure.
LevelBudget level_budget(const EventResult& result, StructureId structure);

/// A few words for a start: "tailwater", "free outfall", ...
std::string_view start_text(BudgetStart start);

}  // namespace culvert
