// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/contract.h"
#include "core/analysis/budget.h"

#include <algorithm>
#include <cmath>

namespace culvert {

std::string_view start_text(BudgetStart start) {
    switch (start) {
        case BudgetStart::Tailwater: return "tailwater";
        case BudgetStart::FreeOutfall: return "free outfall";
        case BudgetStart::FreeFall: return "free fall at its end";
        case BudgetStart::Uniform: return "uniform flow";
        case BudgetStart::Critical: return "critical depth at its entrance";
        case BudgetStart::StillWater: return "still water";
        case BudgetStart::Unknown: break;
    }
    return "not known";
}

LevelBudget level_budget(const EventResult& result, StructureId structure) {
    LevelBudget budget;
    int at = result.network->node_of(structure);
    if (at == no_node) return budget;
    budget.level = nth(result.nodes, at).level.level;
    if (std::isnan(budget.level)) return budget;
    const auto begin = [&](BudgetStart start, ElementRef element, double level) {
        budget.start = start;
        budget.start_element = element;
        budget.start_level = level;
    };
    for (;;) {
        const Node& n = nth(result.network->nodes, at);
        const LevelResult& r = nth(result.nodes, at).level;
        const ElementRef self{Kind::Structure, n.structure.value}, pipe{Kind::Pipe, n.pipe.value};
        if (n.down == no_node) {
            begin(n.tailwater == Tailwater::Level ? BudgetStart::Tailwater : BudgetStart::FreeOutfall, self, r.level);
            break;
        }
        const double entrance = n.invert_up + r.head_up, exit = n.invert_down + r.head_down;
        budget.parts.push_back({self, r.level - entrance});
        if (r.control == Control::Uniform || r.control == Control::Entrance || r.control == Control::Arriving) {
            begin(r.control == Control::Uniform ? BudgetStart::Uniform : BudgetStart::Critical, pipe, entrance);
            break;
        }
        budget.parts.push_back({pipe, entrance - exit});
        const Node& down = nth(result.network->nodes, n.down);
        const double below = nth(result.nodes, n.down).level.level;
        if (r.free_end || std::isnan(below)) {
            begin(down.down == no_node ? BudgetStart::FreeOutfall : BudgetStart::FreeFall, pipe, exit);
            break;
        }
        // At a still-water structure the two are one level; at an inline joint and at outfall rules they differ.
        if (exit != below) budget.parts.push_back({{Kind::Structure, down.structure.value}, exit - below});
        at = n.down;
    }
    std::reverse(budget.parts.begin(), budget.parts.end());
    return budget;
}

}  // namespace culvert
