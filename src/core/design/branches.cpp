// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/branches.h"
#include "core/base/contract.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/model/lay.h"
#include "core/network/network.h"

namespace culvert {
namespace {

constexpr double working_space = 0.3, bedding = 0.1;

double least(const Project& project, LimitKind kind, std::uint64_t element, double otherwise) {
    const Limit* l = find_limit(project, kind, element);
    return l ? l->value : otherwise;
}
double cover(const Structure& s, const Pipe& p, double invert) {
    return s.rim - (invert + height(section_of(p)) + p.wall);
}
double volume_of(const Project& project, const Project& before, const std::set<std::uint64_t>& pipes) {
    double v = 0;
    for (const std::uint64_t id : pipes) {
        const Pipe *now = project.pipes.find(id), *was = before.pipes.find(id);
        if (now) v += trench_volume(project, *now);
        if (was) v -= trench_volume(before, *was);
    }
    return v;
}

}  // namespace

double trench_volume(const Project& project, const Pipe& p) {
    const Structure *a = project.structures.find(p.from.value), *b = project.structures.find(p.to.value);
    if (!a || !b) return not_given;
    const double width = (p.shape == Shape::Box && p.width > 0 ? p.width : p.size) + 2 * p.wall + 2 * working_space;
    const double depth = (a->rim - p.invert_from + b->rim - p.invert_to) / 2 + p.wall + bedding;
    return depth * length_of(project, p) * width;
}

BranchLevels branch_levels(const Project& project, PipeId id) {
    BranchLevels out;
    const Pipe* given = project.pipes.find(id.value);
    if (!given || std::isnan(given->invert_from) || std::isnan(given->invert_to)) return out;
    const Network network = compile(project);
    const int branch = network.link_of(id);
    if (branch == no_link || !nth(network.links, branch).main) return out;
    const int node = nth(network.links, branch).from;
    const Node& n = nth(network.nodes, node);
    const Node& below = nth(network.nodes, n.down);
    // A structure on the main with the pipe that leads on from it.
    struct Step {
        const Node* node;
        const Link* pipe;  ///< null at an outfall
    };
    const auto step = [&network](int at) {
        const Node& m = nth(network.nodes, at);
        return Step{&m, m.out == no_link ? nullptr : &nth(network.links, m.out)};
    };
    out.structure = below.structure;
    out.branch = id;
    if (below.out == no_link || below.kind == StructureKind::Outfall) return out;
    out.main = nth(network.links, below.out).pipe;
    const double main_invert = nth(network.links, below.out).invert_up;
    // Along the water: its upper end is that of the node's structure.
    const bool turned = given->from != n.structure;
    const char *up = turned ? "invert_to" : "invert_from", *down = turned ? "invert_from" : "invert_to";
    const double high_end = turned ? given->invert_to : given->invert_from,
                 low_end = turned ? given->invert_from : given->invert_to;
    const double drop = drop_across(project, below.structure), wanted = main_invert + drop;
    out.gap = wanted - low_end;
    const Structure &a = *project.structures.find(n.structure.value),
                    &b = *project.structures.find(below.structure.value);
    const double length = length_of(project, *given);
    const double slope = least(project, LimitKind::LeastSlope, id.value, 0);
    const double flattest = slope > 0 ? slope : project.settings().default_slope;
    const double asked = least(project, LimitKind::LeastCover, id.value, project.settings().default_cover);
    const auto metres = [&](double v) { return units_of(project).text(v, Quantity::Length); };
    const auto finish = [&](Editing& e, std::string text, const std::set<std::uint64_t>& pipes, bool keeps) {
        BranchAlternative alt;
        const double v = volume_of(e.now(), project, pipes);
        alt.edit = e.take();
        if (alt.edit.empty()) return;
        alt.edit.name = text;
        alt.text = std::move(text);
        alt.excavation = v;
        alt.cost = v * project.settings().excavation_price;
        alt.keeps_cover = keeps;
        out.alternatives.push_back(std::move(alt));
    };
    const std::string name = pipe_name(project, *given), at = b.name;
    // What comes in at the branch's head must stay above it.
    double least_in = 1e300;
    for (const Link& m : network.links)
        if (m.main && m.to == node) least_in = std::min(least_in, m.invert_down);
    if (out.gap > 0.0005) {
        out.low = true;
        {  // raise the branch
            const double top = std::max(high_end, wanted + flattest * length);
            const double c = std::min(cover(a, *given, top), cover(b, *given, wanted));
            const double room = least_in - drop_across(project, n.structure);
            if (top <= room + 1e-9) {
                Editing e(project, "");
                e.set(Kind::Pipe, id.value, up, to_mm(top), Origin::Proposed);
                e.set(Kind::Pipe, id.value, down, to_mm(wanted), Origin::Proposed);
                const bool keeps = c >= asked - 1e-9;
                finish(e,
                       "raise " + name + " to " + units_of(project).text(wanted, Quantity::Level) + " at " + at +
                           (keeps ? "" : ": cover " + metres(c) + " where " + metres(asked) + " is asked"),
                       {id.value}, keeps);
            }
        }
        {  // shorten the branch: join a structure farther down the main that lies low enough
            Step m = step(n.down);
            for (int guard = 0; guard < 200 && m.node->down != no_node; ++guard) {
                m = step(m.node->down);
                if (!m.pipe) break;
                const Structure& s = *project.structures.find(m.node->structure.value);
                const double way = distance({a.x, a.y}, {s.x, s.y});
                const double arrive = high_end - flattest * way;
                if (arrive < m.pipe->invert_up + drop_across(project, m.node->structure)) continue;
                Editing e(project, "");
                e.set(Kind::Pipe, id.value, turned ? "from" : "to", m.node->structure.value);
                e.set(Kind::Pipe, id.value, "bends", std::vector<Point>{});
                if (!std::isnan(given->length)) e.set(Kind::Pipe, id.value, "length", not_given);
                const double arrives =
                    to_mm(std::min(arrive, s.rim - asked - given->wall - height(section_of(*given))));
                if (arrives < m.pipe->invert_up + drop_across(project, m.node->structure) - 1e-9) continue;
                e.set(Kind::Pipe, id.value, down, arrives, Origin::Proposed);
                finish(e, "lead " + name + " to " + s.name + " instead, " + metres(way) + " long", {id.value}, true);
                break;
            }
        }
        {  // lower the main from here down, as far as it must
            Editing e(project, "");
            std::set<std::uint64_t> pipes;
            double invert = low_end - drop;
            Step m = step(n.down);
            bool possible = true;
            for (std::size_t guard = 0; guard < network.nodes.size(); ++guard) {
                if (!m.pipe) {
                    // The outfall's own level cannot be lowered here: the pipe into it would end below it.
                    break;
                }
                const Pipe& p = *project.pipes.find(m.pipe->pipe.value);
                const bool back = p.from != m.node->structure;
                if (m.pipe->invert_up <= invert + 1e-9) break;  // low enough from here on
                pipes.insert(p.id);
                e.set(Kind::Pipe, p.id, back ? "invert_to" : "invert_from", to_mm(invert), Origin::Proposed);
                const double s = least(project, LimitKind::LeastSlope, p.id, 0);
                const double end = std::min(
                    m.pipe->invert_down,
                    invert - (s > 0 ? s : std::min(m.pipe->slope, project.settings().default_slope)) * m.pipe->length);
                if (end < m.pipe->invert_down - 1e-9)
                    e.set(Kind::Pipe, p.id, back ? "invert_from" : "invert_to", to_mm(end), Origin::Proposed);
                if (m.node->down == no_node) break;
                const Step next = step(m.node->down);
                invert = std::min(end, m.pipe->invert_down) - drop_across(project, next.node->structure);
                if (!next.pipe && end < m.pipe->invert_down - 1e-9) possible = false;
                m = next;
            }
            const std::string outfall = possible ? "" : "; the outfall would lie lower too";
            finish(e,
                   "lower " + std::to_string(pipes.size()) + (pipes.size() == 1 ? " pipe" : " pipes") +
                       " of the main from " + at + " down" + outfall,
                   pipes, true);
        }
    } else if (out.gap < -0.0005 && low_end - main_invert > drop + 0.0005) {
        // High enough to stand as a drop; or the branch can be laid deeper, or steeper.
        out.high = low_end - wanted > 0.3;
        if (out.high) {
            {  // a drop on the branch: the branch keeps its least depth to the structure
                const double shallow = std::min(a.rim, b.rim) - asked - given->wall - height(section_of(*given));
                const double end = std::min(shallow, high_end - flattest * length);
                if (end > low_end + 1e-9) {
                    Editing e(project, "");
                    e.set(Kind::Pipe, id.value, down, to_mm(end), Origin::Proposed);
                    finish(e, "a drop of " + metres(end - main_invert) + " on " + name + " at " + at, {id.value}, true);
                }
            }
            Editing e(project, "");
            e.set(Kind::Pipe, id.value, down, to_mm(wanted), Origin::Proposed);
            finish(e, "steepen " + name + " to meet the main at " + at, {id.value}, true);
        }
    }
    std::stable_sort(out.alternatives.begin(), out.alternatives.end(), [](const auto& x, const auto& y) {
        return x.keeps_cover != y.keeps_cover ? x.keeps_cover : x.excavation < y.excavation;
    });
    return out;
}

}  // namespace culvert
