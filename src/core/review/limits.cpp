// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>

#include "core/base/contract.h"
#include "core/review/review.h"

namespace culvert {

namespace {

/// The system an event belongs to: up to the minor system's design event, or rarer. Without one, all are of the minor.
EventRole system_of(const Project& project, EventId id) {
    const RainEvent* event = project.events.find(id.value);
    if (!event) return EventRole::Other;
    if (event->role != EventRole::Other) return event->role;
    for (const RainEvent* e : events_in_order(project))
        if (e->role == EventRole::Minor)
            return event->return_period > e->return_period ? EventRole::Major : EventRole::Minor;
    return EventRole::Minor;
}

}  // namespace

LimitTable::LimitTable(const Project& project, EventId event) : near_share_(project.settings().near_share) {
    project_.fill(not_given);
    const EventRole system = system_of(project, event);
    common_ = event && system == EventRole::Minor;
    const auto holds = [&](const Limit& l) {
        return l.system == EventRole::Other || system == EventRole::Other || l.system == system;
    };
    for (const Limit& l : project.limits) {
        if (!holds(l)) continue;
        const double value = l.active && in_range(limit_info(l.kind), l.value) ? l.value : not_given;
        if (l.element) own_[l.element].emplace_back(l.kind, value);
        else if (l.group.empty()) nth(project_, l.kind) = value;
    }
    // After an element's own exceptions, which are found first, those of its group.
    for (const Limit& l : project.limits) {
        if (l.element || l.group.empty() || !holds(l)) continue;
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
