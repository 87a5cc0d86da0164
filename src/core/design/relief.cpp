// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/relief.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/budget.h"
#include "core/base/contract.h"

namespace culvert {

Pipe relief_pipe(const Project& project, const Pipe& beside, const PipeSize& size) {
    constexpr double clear = 1;  // m between the outsides
    Pipe p;
    p.id = random_id();
    p.from = beside.from;
    p.to = beside.to;
    p.material = size.material;
    p.shape = size.shape;
    p.size = size.size;
    p.width = size.width;
    p.sides = size.sides;
    p.roughness = size.roughness;
    p.wall = size.wall;
    p.invert_from = beside.invert_from;
    p.invert_to = beside.invert_to;
    p.group = beside.group;
    const Structure *a = project.structures.find(beside.from.value), *b = project.structures.find(beside.to.value);
    if (a && b && placed(*a) && placed(*b) && in_reach(beside.bends)) {
        std::vector<Point> line{{a->x, a->y}};
        line.insert(line.end(), beside.bends.begin(), beside.bends.end());
        line.push_back({b->x, b->y});
        const double whole = length(line),
                     off = clear + span_of(section_of(beside)) / 2 + beside.wall + span_of(section_of(p)) / 2 + p.wall;
        // Near its ends it comes in: at an eighth of the way it lies clear.
        if (whole > 4 * off) {
            std::vector<double> stations{whole / 8, whole * 7 / 8};
            double along = 0;
            for (std::size_t i = 1; i + 1 < line.size(); ++i) {
                along += distance(line[i - 1], line[i]);
                if (along > stations.front() && along < whole * 7 / 8) stations.push_back(along);
            }
            std::sort(stations.begin(), stations.end());
            for (const double s : stations) {
                const Point q = point_at(line, s, off);
                p.bends.push_back({std::round(q.x * 1000) / 1000, std::round(q.y * 1000) / 1000});
            }
        }
    }
    p.origin.fill(Origin::Proposed);
    return p;
}

std::string tailwater_words(const Project& project, const EventResult& result, const Finding& finding) {
    const Network& net = *result.network;
    const bool surcharge = finding.check.rule == Rule::MostSurcharge;
    if (!surcharge && finding.check.rule != Rule::LeastFreeboard && finding.check.rule != Rule::Flooding) return {};
    int node = net.node_of(finding.element);
    double allowed = not_given;
    if (finding.element.kind == Kind::Pipe) {
        const int link = net.link_of(PipeId{finding.element.id});
        if (link == no_link || !surcharge) return {};
        const Link& l = nth(net.links, link);
        const LinkLevel& r = nth(result.links, link).level;
        const bool lower = r.head_down > r.head_up;
        node = lower ? l.to : l.from;
        allowed = (lower ? l.invert_down : l.invert_up) + height(l.section) + finding.check.limit;
    }
    if (node == no_node) return {};
    const StructureId structure = nth(net.nodes, node).structure;
    const LevelBudget budget = level_budget(result, structure);
    if (std::isnan(allowed))
        allowed = nth(net.nodes, node).rim - (finding.check.rule == Rule::LeastFreeboard ? finding.check.limit : 0);
    if (budget.start != BudgetStart::Tailwater || !(budget.start_level > allowed)) return {};
    const UnitSet u = units_of(project);
    return "no pipe helps: the tailwater of " +
           element_name(project, budget.start_element.kind, budget.start_element.id) + " alone, " +
           u.text(budget.start_level, Quantity::Level) + ", stands " +
           u.text(budget.start_level - allowed, Quantity::Length) + " above what is allowed at " +
           element_name(project, Kind::Structure, structure.value);
}

}  // namespace culvert
