// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/level_snaps.h"

#include <cmath>

#include "core/model/lay.h"

namespace culvert {

std::vector<LevelSnap> level_snaps(const Project& project, PipeId id, bool start) {
    std::vector<LevelSnap> out;
    const Pipe* pipe = project.pipes.find(id.value);
    const Structure* at = pipe ? project.structures.find((start ? pipe->from : pipe->to).value) : nullptr;
    if (!at) return out;
    const UnitSet units = units_of(project);
    const double h = height(section_of(*pipe)), drop = drop_across(project, {at->id});
    const auto add = [&](double level, std::string words) {
        if (!std::isnan(level)) out.push_back({to_mm(level), std::move(words)});
    };
    for (const Pipe& other : project.pipes) {
        if (other.id == id.value) continue;
        for (const bool other_start : {true, false}) {
            if ((other_start ? other.from : other.to).value != at->id) continue;
            const double z = other_start ? other.invert_from : other.invert_to;
            const std::string name = pipe_name(project, other);
            add(z, "invert of " + name);
            add(z + height(section_of(other)) - h, "crown of " + name);
            if (drop > 0) {
                add(z - drop, units.text(drop, Quantity::Length) + " below the invert of " + name);
                add(z + drop, units.text(drop, Quantity::Length) + " above the invert of " + name);
            }
        }
    }
    const Limit* limit = find_limit(project, LimitKind::LeastCover, id.value);
    const double cover = limit ? limit->value : project.settings().default_cover;
    add(at->rim - cover - pipe->wall - h, "cover " + units.text(cover, Quantity::Length));
    return out;
}

const LevelSnap* nearest_snap(const std::vector<LevelSnap>& snaps, double level, double reach) {
    const LevelSnap* best = nullptr;
    for (const LevelSnap& s : snaps)
        if (std::abs(s.level - level) <= reach && (!best || std::abs(s.level - level) < std::abs(best->level - level)))
            best = &s;
    return best;
}

Edit move_run(const Project& project, const std::vector<PipeId>& pipes, double by) {
    Editing e(project, "Move a run");
    for (const PipeId id : pipes) {
        const Pipe* p = project.pipes.find(id.value);
        if (!p || p->status != Status::Proposed) continue;
        for (const auto& [key, level] : {std::pair{"invert_from", p->invert_from}, {"invert_to", p->invert_to}})
            if (!std::isnan(level)) e.set(Kind::Pipe, id.value, key, to_mm(level + by));
    }
    return e.take();
}

}  // namespace culvert
