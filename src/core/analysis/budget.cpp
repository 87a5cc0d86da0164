// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/budget.h"
#include "core/base/contract.h"
#include "core/network/through_time.h"

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
        case BudgetStart::Pond: return "highest water of the pond";
        case BudgetStart::Unknown: break;
    }
    return "not known";
}

LevelBudget level_budget(const EventResult& result, StructureId structure) {
    LevelBudget budget;
    const Network& net = *result.network;
    int at = net.node_of(structure);
    if (at == no_node) return budget;
    budget.level = nth(result.nodes, at).level.level;
    if (std::isnan(budget.level)) return budget;
    const auto begin = [&](BudgetStart start, ElementRef element, double level) {
        budget.start = start;
        budget.start_element = element;
        budget.start_level = level;
    };
    for (std::size_t guard = 0; guard <= net.nodes.size(); ++guard) {
        const Node& n = nth(net.nodes, at);
        const NodeLevel& level = nth(result.nodes, at).level;
        const ElementRef self{Kind::Structure, n.structure.value};
        if (net.through_time && !result.ponds.empty() && nth(net.through_time->pond_of, at) >= 0) {
            begin(BudgetStart::Pond, self, level.level);
            break;
        }
        // The way that carries most of what leaves it.
        const int link = result.way_on(at);
        if (link == no_link) {
            begin(result.tail_of(at).stands() ? BudgetStart::Tailwater : BudgetStart::FreeOutfall, self, level.level);
            break;
        }
        const Link& l = nth(net.links, link);
        const LinkLevel& r = nth(result.links, link).level;
        const bool against = nth(result.links, link).flow.against;
        const ElementRef pipe{Kind::Pipe, l.pipe.value};
        const double high = against ? l.invert_down + r.head_down : l.invert_up + r.head_up,
                     low = against ? l.invert_up + r.head_up : l.invert_down + r.head_down;
        const int to = against ? l.from : l.to;
        budget.parts.push_back({self, level.level - high - r.bends});
        if (r.control == Control::Uniform || r.control == Control::Entrance || r.control == Control::Arriving) {
            if (r.bends != 0) budget.parts.push_back({pipe, r.bends});
            begin(r.control == Control::Uniform ? BudgetStart::Uniform : BudgetStart::Critical, pipe, high);
            break;
        }
        budget.parts.push_back({pipe, high - low + r.bends});
        const Node& down = nth(net.nodes, to);
        const double below = nth(result.nodes, to).level.level;
        if (r.free_end || std::isnan(below)) {
            begin(down.out == no_link ? BudgetStart::FreeOutfall : BudgetStart::FreeFall, pipe, low);
            break;
        }
        // At a still-water structure the two are one level; at an inline joint, an access hole and at outfall rules
        // they differ.
        if (low != below) budget.parts.push_back({{Kind::Structure, down.structure.value}, low - below});
        at = to;
    }
    std::reverse(budget.parts.begin(), budget.parts.end());
    return budget;
}

}  // namespace culvert
