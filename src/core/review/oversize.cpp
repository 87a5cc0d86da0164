// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <cmath>
#include <map>

#include "core/hydraulics/uniform_flow.h"
#include "core/review/rules.h"

namespace culvert {
namespace {

using Sizes = std::map<std::pair<std::string_view, Shape>, std::vector<const PipeSize*>>;

Sizes catalogue(const Project& project) {
    Sizes sizes;
    for (const PipeSize& s : project.sizes) sizes[{s.material, s.shape}].push_back(&s);
    for (auto& [kind, list] : sizes)
        std::sort(list.begin(), list.end(), [](auto* a, auto* b) { return a->size < b->size; });
    return sizes;
}
const PipeSize* next_smaller(const Sizes& sizes, const Pipe& pipe) {
    const auto list = sizes.find({pipe.material, pipe.shape});
    const PipeSize* below = nullptr;
    if (list != sizes.end())
        for (const PipeSize* s : list->second)
            if (s->size < pipe.size - 1e-9) below = s;
    return below;
}

}  // namespace

void add_oversized(const Project& project, const EventResult& result, const LimitTable& limits,
                   std::vector<Finding>& findings) {
    const RainEvent* design = design_event(project);
    if (!design || design->id != result.event.value || project.sizes.empty()) return;
    const Network& net = *result.network;
    const Sizes sizes = catalogue(project);
    const Entering entering(net);
    const UnitSet u = units_of(project);
    for (std::size_t i = 0; i < net.links.size(); ++i) {
        const Link& l = net.links[i];
        const LinkFlow& f = result.links[i].flow;
        const Pipe* pipe = project.pipes.find(l.pipe.value);
        if (!pipe || !l.solvable || f.against || !(f.flow > 1e-6) || !(l.slope > 0) || pipe->size_locked ||
            pipe->status != Status::Proposed)
            continue;
        const PipeSize* s = next_smaller(sizes, *pipe);
        if (!s) continue;
        const auto limit = [&](LimitKind kind) { return limits.limit(kind, l.pipe.value).value; };
        if (s->size < limit(LimitKind::LeastSize) - 1e-9 || s->size < nth(entering.largest_size, l.from) - 1e-9)
            continue;
        const Section section = section_of(s->shape, s->size, s->width, s->sides);
        const double one = f.flow / l.barrels;
        const double capacity =
            full_capacity(section, s->roughness, l.slope) * (net.peak_capacity ? peak_ratio(section) : 1);
        if (!(one / capacity <=
              std::min(1.0, std::isnan(limit(LimitKind::MostFlowRatio)) ? 1.0 : limit(LimitKind::MostFlowRatio))))
            continue;
        const double y = normal_depth(section, s->roughness, l.slope, one);
        if (y / s->size > limit(LimitKind::MostFilledDepth)) continue;
        if (design_velocity(section, one, y) > limit(LimitKind::MostVelocity)) continue;
        const LinkLevel& level = result.links[i].level;
        if (level.head_up > height(l.section) || level.head_down > height(l.section)) continue;  // it stands full
        Finding note;
        note.severity = Severity::Note;
        note.element = {Kind::Pipe, l.pipe.value};
        note.event = result.event;
        note.index = static_cast<int>(i);
        note.check.rule = Rule::Oversized;
        note.check.verdict = Verdict::Within;
        note.check.value = pipe->size;
        note.check.limit = s->size;
        note.check.quantity = Quantity::Size;
        note.title = rule_name(Rule::Oversized);
        note.detail = u.text(s->size, Quantity::Size) + " would carry " + u.text(f.flow, Quantity::Flow) + " at " +
                      u.number(one / capacity, Quantity::Ratio) + " of its capacity, filled to " +
                      u.number(y / s->size, Quantity::Ratio);
        note.remedy = "Take " + u.text(s->size, Quantity::Size) + ", or lock the size if it is meant.";
        findings.push_back(std::move(note));
    }
}

}  // namespace culvert
