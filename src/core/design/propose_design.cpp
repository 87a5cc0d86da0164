// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/propose_design.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "core/design/branches.h"
#include "core/design/designer.h"

namespace culvert {
namespace {

using designing::Designer;
using designing::slack;

/// Findings of pipes and levels beyond their limits: what a design can mend or break.
bool of_pipes(const Finding& f) {
    return f.check.verdict == Verdict::Beyond && f.check.rule != Rule::Data && stage_of(f.check.rule) != Stage::Streets;
}
int count_beyond(const Project& project, const EventResult& result) {
    const Review r = review(project, result);
    return static_cast<int>(std::count_if(r.findings.begin(), r.findings.end(), of_pipes));
}

double cost_of(const Project& project, const Pipe& p, double& volume) {
    volume = trench_volume(project, p);
    if (p.status != Status::Proposed) return 0;
    return price_of_size(project, size_of(p)) * length_of(project, p) +
           (volume > 0 ? volume * project.settings().excavation_price : 0);
}

double cost_of(const Project& project) {
    double sum = 0, volume = 0;
    for (const Pipe& p : project.pipes)
        if (const double c = cost_of(project, p, volume); !std::isnan(c)) sum += c;
    return sum;
}

/// Rows of before and after, upstream first.
void tell(DesignProposal& out, const Project& before, const Project& after, const EventResult& result,
          const std::map<std::uint64_t, std::string>& reasons) {
    const Network& net = *result.network;
    for (std::size_t i = 0; i < net.links.size(); ++i) {
        const Pipe *was = before.pipes.find(net.links[i].pipe.value), *is = after.pipes.find(net.links[i].pipe.value);
        if (!was || !is) continue;
        const bool along = was->from == nth(net.nodes, net.links[i].from).structure;
        DesignRow row;
        row.pipe = net.links[i].pipe;
        row.size_before = was->size;
        row.size_after = is->size;
        row.up_before = along ? was->invert_from : was->invert_to;
        row.up_after = along ? is->invert_from : is->invert_to;
        row.down_before = along ? was->invert_to : was->invert_from;
        row.down_after = along ? is->invert_to : is->invert_from;
        row.slope_before = (row.up_before - row.down_before) / net.links[i].length;
        row.slope_after = (row.up_after - row.down_after) / net.links[i].length;
        row.flow = result.links[i].flow.flow;
        row.cost_before = cost_of(before, *was, row.volume_before);
        row.cost_after = cost_of(after, *is, row.volume_after);
        if (const auto at = reasons.find(row.pipe.value); at != reasons.end()) row.reason = at->second;
        if (!std::isnan(row.cost_before)) out.cost_before += row.cost_before;
        if (!std::isnan(row.cost_after)) out.cost_after += row.cost_after;
        out.rows.push_back(std::move(row));
    }
}

/// The components that hold something beyond its limit, as a project of their own: only there is it asked why.
Project broken_part(const Project& project, const EventResult& result, const std::vector<Finding>& findings) {
    const Network& net = *result.network;
    std::vector<bool> kept(net.components.size(), false);
    for (const Finding& f : findings)
        if (of_pipes(f))
            if (const int node = net.node_of(f.element); node != no_node)
                kept[static_cast<std::size_t>(nth(net.nodes, node).component)] = true;
    Project part = project;
    std::set<std::uint64_t> gone;
    for (const Node& n : net.nodes)
        if (!kept[static_cast<std::size_t>(n.component)]) gone.insert(n.structure.value);
    if (gone.empty()) return part;
    for (const Pipe& p : project.pipes)
        if (gone.contains(p.from.value) || gone.contains(p.to.value)) part.pipes.erase(p.id);
    for (const StreetPath& p : project.street_paths)
        if (gone.contains(p.from.value) || gone.contains(p.to.value)) part.street_paths.erase(p.id);
    for (const Catchment& c : project.catchments)
        if (gone.contains(c.structure.value)) part.catchments.erase(c.id);
    for (const std::uint64_t id : gone) part.structures.erase(id);
    return part;
}

/// Which limit stands in the way: each that is broken is left out in turn, and the whole designed again.
void explain_blocks(DesignProposal& out, const Project& project, EventId event, const DesignOptions& options,
                    const std::stop_token& stop) {
    std::map<LimitKind, DesignBlock> kinds;
    for (const Finding& f : out.findings) {
        if (!of_pipes(f) || static_cast<std::size_t>(f.check.rule) >= limit_count) continue;
        const auto kind = static_cast<LimitKind>(f.check.rule);
        kinds.try_emplace(kind, DesignBlock{kind, f.element, f.check.limit});
    }
    // A limit that bounds another one's way may not be broken itself: the depth that a least slope digs to, for one.
    for (const LimitKind k :
         {LimitKind::MostDepth, LimitKind::LeastVelocity, LimitKind::MostVelocity, LimitKind::LeastCover,
          LimitKind::LeastSlope, LimitKind::MostSlope, LimitKind::MostSurcharge, LimitKind::LeastFreeboard,
          LimitKind::MostFlowRatio, LimitKind::MostFilledDepth})
        if (const Limit* l = find_limit(project, k, 0)) kinds.try_emplace(k, DesignBlock{k, {}, l->value});
    for (auto& [kind, block] : kinds) {
        if (stop.stop_requested()) return;
        DesignOptions relaxed = options;
        relaxed.explain_blocks = false;
        relaxed.without.push_back(kind);
        DesignProposal tried = propose_design(project, event, relaxed, stop);
        block.alone = tried.passes;
        if (!block.alone && !block.element.id) continue;
        // How near to the limit the design comes without it.
        Project with = project;
        apply(with, tried.edit);
        const Rule rule = static_cast<Rule>(kind);
        for (const auto& r : culvert::solve(with))
            if (r->event == event)
                for (const Finding& f : review(with, *r).findings)
                    if (f.check.rule == rule && f.check.verdict == Verdict::Beyond) {
                        const bool worse = std::isnan(block.nearest) || std::abs(f.check.value - f.check.limit) >
                                                                            std::abs(block.nearest - f.check.limit);
                        if (worse)
                            block.nearest = f.check.value, block.element = f.element, block.limit = f.check.limit;
                    }
        if (block.alone || block.element.id) out.blocks.push_back(block);
    }
    std::stable_sort(out.blocks.begin(), out.blocks.end(),
                     [](const DesignBlock& a, const DesignBlock& b) { return a.alone > b.alone; });
}

/// Which pinned end stands in the way: each at a pipe that breaks a limit is let go in turn, and the whole designed
/// again.
void explain_pins(DesignProposal& out, const Project& project, EventId event, const DesignOptions& options,
                  const std::stop_token& stop) {
    constexpr int most_tried = 8;
    std::set<std::uint64_t> broken;
    for (const Finding& f : out.findings)
        if (of_pipes(f) && f.element.kind == Kind::Pipe) broken.insert(f.element.id);
    int tried = 0;
    const UnitSet u = units_of(project);
    for (const std::uint64_t id : broken)
        for (const bool start : {true, false}) {
            const Pipe& p = *project.pipes.find(id);
            const std::size_t field = *field_index(Kind::Pipe, start ? "invert_from" : "invert_to");
            const double level = start ? p.invert_from : p.invert_to;
            if (std::isnan(level) || p.origin[field] == Origin::Default || p.origin[field] == Origin::Proposed)
                continue;
            if (p.status != Status::Proposed || ++tried > most_tried || stop.stop_requested()) return;
            Project free = project;
            free.pipes.change(id)->origin[field] = Origin::Proposed;
            DesignOptions quick = options;
            quick.explain_blocks = false;
            const DesignProposal without = propose_design(free, event, quick, stop);
            if (!without.passes) continue;
            apply(free, without.edit);
            const Pipe& now = *free.pipes.find(id);
            out.notes.push_back("The " + std::string(start ? "start" : "end") + " of " + pipe_name(project, p) +
                                " is pinned at " + u.text(level, Quantity::Level) +
                                ": let go, the design passes, with " +
                                u.text(start ? now.invert_from : now.invert_to, Quantity::Level) + " there.");
        }
}

}  // namespace

bool DesignRow::changed() const {
    return std::abs(size_before - size_after) > 1e-9 || !(std::abs(up_before - up_after) < slack) ||
           !(std::abs(down_before - down_after) < slack);
}

DesignProposal propose_design(const Project& project, EventId event, const DesignOptions& options,
                              const std::stop_token& stop) {
    DesignProposal out;
    if (!project.events.find(event.value)) return out;
    DesignOptions plain = options;
    plain.least_cost = false;
    Designer first(project, event, plain);
    if (!first.run(stop)) return out;
    Designer* designer = &first;
    std::optional<Designer> second;
    if (options.least_cost && options.sizes) {
        out.cost_plain = cost_of(first.now());
        second.emplace(project, event, options);
        if (second->run(stop)) {
            const int left = count_beyond(second->now(), second->result()),
                      left_plain = count_beyond(first.now(), first.result());
            if (left < left_plain || (left == left_plain && cost_of(second->now()) < out.cost_plain - 1e-6))
                designer = &*second;
        }
        if (stop.stop_requested()) return out;
    }
    out.rounds = designer->rounds();
    out.edit = designer->edit_of(project, *designer->result().network);
    // What it keeps is said by a full solve of the project itself, with all its events and limits.
    Project after = project;
    apply(after, out.edit);
    Project held = after;
    for (const Limit& l : after.limits)
        if (std::find(options.without.begin(), options.without.end(), l.kind) != options.without.end())
            held.limits.change(l.id)->active = false;
    for (const auto& r : culvert::solve(project))
        (r->event == event ? out.beyond_before : out.others_before) += count_beyond(project, *r);
    for (const auto& r : culvert::solve(after)) {
        if (r->event != event) {
            out.others_after += count_beyond(held, *r);
            continue;
        }
        out.findings = review(held, *r).findings;
        for (Finding& f : out.findings) word(held, *r, f);
        out.beyond_after = static_cast<int>(std::count_if(out.findings.begin(), out.findings.end(), of_pipes));
        tell(out, project, after, *r, designer->reasons());
    }
    out.passes = out.beyond_after == 0;
    if (!out.passes && options.explain_blocks) {
        const Project part = broken_part(project, designer->result(), out.findings);
        explain_pins(out, part, event, options, stop);
        explain_blocks(out, part, event, options, stop);
    }
    return out;
}

std::vector<std::string> block_words(const Project& project, const DesignProposal& proposal) {
    std::vector<std::string> out = proposal.notes;
    const UnitSet u = units_of(project);
    if (!proposal.passes && out.empty() && proposal.blocks.empty() && proposal.beyond_after > 0)
        out.push_back("What is left has no single limit as its cause: see the findings.");
    for (const DesignBlock& b : proposal.blocks) {
        if (!b.alone &&
            !std::none_of(proposal.blocks.begin(), proposal.blocks.end(), [](const DesignBlock& o) { return o.alone; }))
            continue;
        const Quantity q = limit_quantity(b.kind);
        std::string words = "The limit " + std::string(limit_names()[static_cast<std::size_t>(b.kind)]) + " " +
                            u.text(b.limit, q) +
                            (!b.alone                          ? " cannot be kept with the others"
                             : b.kind == LimitKind::LeastCover ? " prevents it: with less the design passes"
                                                               : " prevents it: without it the design passes");
        if (b.element.id && std::isfinite(b.nearest))
            words += ", with " + u.text(b.nearest, q) + " at " + element_name(project, b.element.kind, b.element.id);
        out.push_back(words + ".");
    }
    return out;
}

}  // namespace culvert
