// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>

#include "core/base/contract.h"
#include "core/review/review.h"

namespace culvert {

LimitTable::LimitTable(const Project& project) : near_share_(project.settings().near_share) {
    project_.fill(not_given);
    for (const Limit& l : project.limits) {
        if (l.kind < 0 || l.kind >= static_cast<int>(LimitKind::Count)) continue;
        const double value = l.active && in_range(limit_info(static_cast<LimitKind>(l.kind)), l.value) ? l.value : not_given;
        if (l.element) own_[l.element].emplace_back(static_cast<LimitKind>(l.kind), value);
        else if (l.group.empty()) nth(project_, l.kind) = value;
    }
    // After an element's own exceptions, which are found first, those of its group.
    for (const Limit& l : project.limits) {
        if (l.element || l.group.empty() || l.kind < 0 || l.kind >= static_cast<int>(LimitKind::Count)) continue;
        const double value = l.active && in_range(limit_info(static_cast<LimitKind>(l.kind)), l.value) ? l.value : not_given;
        const auto add = [&](const auto& row) {
            if (row.group == l.group)
                own_[row.id].emplace_back(static_cast<LimitKind>(l.kind), value);
        };
        for (const Structure& s : project.structures) add(s);
        for (const Pipe& p : project.pipes) add(p);
    }
}

LimitTable::Found LimitTable::limit(LimitKind kind, std::uint64_t element) const {
    if (!own_.empty())
        if (const auto own = own_.find(element); own != own_.end())
            for (const auto& [k, value] : own->second)
                if (k == kind) return {value, true};
    return {nth(project_, kind), false};
}

std::string_view rule_name(Rule rule) {
    constexpr std::string_view names[] = {"below the least velocity",
                                          "above the highest velocity",
                                          "flatter than the least slope",
                                          "steeper than the most",
                                          "too little cover",
                                          "too deep",
                                          "flow above capacity",
                                          "filled too deep",
                                          "water above the crown",
                                          "too little freeboard",
                                          "rises across the structure",
                                          "below the least size",
                                          "flooding",
                                          "smaller than the pipe above",
                                          "rim below the crown",
                                          "length differs from the drawing",
                                          "runs against the drawing",
                                          "time outside the rain table",
                                          "flow held",
                                          "water leaves the site",
                                          "data"};
    return nth(names, rule);
}

std::string_view near_name(Rule rule) {
    constexpr std::string_view names[] = {
        "near its least velocity", "near its highest velocity", "near the least slope", "near the steepest slope",
        "near the least cover",    "near the most depth",       "near its capacity",    "near the most filled depth",
        "water near the crown",    "near the least freeboard",  "near the least drop",  "near the least size"};
    const auto i = static_cast<std::size_t>(rule);
    return i < std::size(names) ? names[i] : rule_name(rule);
}

Stage stage_of(Rule rule) {
    switch (rule) {
        case Rule::MostSurcharge:
        case Rule::LeastFreeboard:
        case Rule::Flooding: return Stage::Levels;
        case Rule::RimBelowCrown:
        case Rule::LengthDiffers:
        case Rule::AgainstDrawing:
        case Rule::LeavesSite:
        case Rule::Data: return Stage::Layout;
        case Rule::OutsideTable: return Stage::Rain;
        default: return Stage::Pipes;
    }
}

Verdict worst(const CheckList& checks) {
    Verdict v = Verdict::Unknown;
    for (const Check& c : checks) v = std::max(v, c.verdict);
    return v;
}

}  // namespace culvert
