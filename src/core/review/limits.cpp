// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>

#include "core/base/contract.h"
#include "core/review/review.h"

namespace culvert {

LimitTable::LimitTable(const Project& project) : near_share_(project.settings().near_share) {
    project_.fill(not_given);
    for (const Limit& l : project.limits) {
        const double value = l.active && in_range(limit_info(l.kind), l.value) ? l.value : not_given;
        if (l.element) own_[l.element].emplace_back(l.kind, value);
        else if (l.group.empty()) nth(project_, l.kind) = value;
    }
    // After an element's own exceptions, which are found first, those of its group.
    for (const Limit& l : project.limits) {
        if (l.element || l.group.empty()) continue;
        const double value = l.active && in_range(limit_info(l.kind), l.value) ? l.value : not_given;
        const auto add = [&](const auto& row) {
            if (row.group == l.group) own_[row.id].emplace_back(l.kind, value);
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

Verdict worst(const CheckList& checks) {
    Verdict v = Verdict::Unknown;
    for (const Check& c : checks) v = std::max(v, c.verdict);
    return v;
}

}  // namespace culvert
