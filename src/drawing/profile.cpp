// SPDX-License-Identifier: GPL-3.0-or-later
#include "drawing/profile.h"

#include <cmath>

#include "core/analysis/grade_line.h"

namespace culvert {
namespace {

constexpr double gravity_2 = 2 * gravity;

/// Nodes of the run: up to the farthest head, then down to the outfall.
std::vector<int> run_through(const Network& net, int node) {
    const std::size_t count = net.nodes.size();
    std::vector<double> below(count, 0);  // longest way from a head down to the node
    std::vector<int> up(count, no_node);
    for (std::size_t i = 0; i < count; ++i) {
        const Node& n = net.nodes[i];
        if (n.down == no_node) continue;
        const auto d = static_cast<std::size_t>(n.down);
        const double way = below[i] + (n.length > 0 ? n.length : 0);
        if (up[d] == no_node || way > below[d]) {
            below[d] = way;
            up[d] = static_cast<int>(i);
        }
    }
    if (node == no_node) {
        double longest = -1;
        for (std::size_t i = 0; i < count; ++i)
            if (net.nodes[i].down == no_node && below[i] > longest) {
                longest = below[i];
                node = static_cast<int>(i);
            }
        if (node == no_node) return {};
    }
    std::vector<int> run{node};
    while (up[static_cast<std::size_t>(run.front())] != no_node)
        run.insert(run.begin(), up[static_cast<std::size_t>(run.front())]);
    while (net.nodes[static_cast<std::size_t>(run.back())].down != no_node)
        run.push_back(net.nodes[static_cast<std::size_t>(run.back())].down);
    return run;
}

}  // namespace

Profile profile_of(const Project& project, const Network& net, const EventResult* result, const Review* review,
                   ElementRef through) {
    Profile p;
    int node = no_node;
    if (through.kind == Kind::Structure) node = net.node_of(StructureId{through.id});
    if (through.kind == Kind::Pipe) node = net.node_of(PipeId{through.id});
    if (result && result->nodes.size() != net.nodes.size()) result = nullptr;
    double x = 0;
    p.low = 1e300;
    p.high = -1e300;
    const auto see = [&p](double level) {
        if (!std::isfinite(level)) return;
        p.low = std::min(p.low, level);
        p.high = std::max(p.high, level);
    };
    for (const int i : run_through(net, node)) {
        const auto at = static_cast<std::size_t>(i);
        const Node& n = net.nodes[at];
        ProfileStation s{n.structure,
                         element_name(project, Kind::Structure, n.structure.value),
                         x,
                         n.rim,
                         n.pipe ? n.invert_up : not_given,
                         not_given,
                         not_given};
        if (!p.reaches.empty())
            s.bottom =
                std::isnan(s.bottom) ? p.reaches.back().invert_down : std::min(s.bottom, p.reaches.back().invert_down);
        if (result) {
            s.level = result->nodes[at].level.level;
            s.energy = result->nodes[at].level.energy;
        }
        for (const double level : {s.rim, s.bottom, s.level}) see(level);
        p.stations.push_back(s);
        if (!n.pipe) break;
        const double length = n.length > 0 ? n.length : 0;
        ProfileReach r{n.pipe, x,  x + length, n.invert_up, n.invert_down, height(n.section), Verdict::Unknown,
                       {},     {}, not_given,  not_given,   n.slope,       not_given};
        if (review && at < review->verdicts.size()) r.verdict = review->verdicts[at].pipe;
        if (result && n.solvable) {
            const FlowResult& f = result->nodes[at].flow;
            const LevelResult& l = result->nodes[at].level;
            r.flow = f.flow;
            r.velocity = f.velocity;
            r.flow_ratio = n.capacity > 0 ? f.flow / n.capacity : not_given;
            if (!std::isnan(l.head_up)) {
                const Barrel barrel = barrel_of(n, f.flow);
                const double down = l.jump >= n.length ? l.head_down : l.slow_down;
                for (const ProfilePoint& point :
                     barrel_profile(barrel, state_of(barrel, f.normal), l.fast_up, down, l.jump)) {
                    const double invert = n.invert_up - n.slope * point.x, level = invert + point.depth;
                    r.hydraulic.push_back({x + point.x, level});
                    r.energy.push_back({x + point.x, level + point.velocity * point.velocity / gravity_2});
                    see(level);
                }
            }
        }
        for (const double level : {r.invert_up, r.invert_down, r.invert_up + r.height, r.invert_down + r.height})
            see(level);
        p.reaches.push_back(std::move(r));
        x += length;
    }
    p.length = std::max(x, 1e-3);
    if (p.low > p.high) {
        p.low = 0;
        p.high = 1;
    }
    if (p.high - p.low < 0.5) {
        p.low -= 0.25;
        p.high += 0.25;
    }
    return p;
}

DisplayList draw_profile(const Project&, const Profile& p) {
    DisplayList list;
    const auto line = [&](Ink ink, std::vector<Point> points, ElementRef element = {}) {
        list.push_back({Drawn::Type::Line, ink, std::move(points), {}, element});
    };
    // Water first, so that barrels and lines lie over it.
    for (const ProfileReach& r : p.reaches) {
        if (r.hydraulic.size() < 2 || r.x1 <= r.x0) continue;
        std::vector<Point> body;
        for (const Point& h : r.hydraulic) {
            const double t = (h.x - r.x0) / (r.x1 - r.x0), invert = r.invert_up + t * (r.invert_down - r.invert_up);
            body.push_back({h.x, std::min(h.y, invert + r.height)});
        }
        body.push_back({r.x1, r.invert_down});
        body.push_back({r.x0, r.invert_up});
        list.push_back({Drawn::Type::Area, Ink::Water, std::move(body), {}, {Kind::Pipe, r.pipe.value}});
    }
    std::vector<Point> ground;
    for (const ProfileStation& s : p.stations)
        if (!std::isnan(s.rim)) ground.push_back({s.x, s.rim});
    line(Ink::Ground, std::move(ground));
    for (const ProfileReach& r : p.reaches) {
        const Ink ink = r.verdict == Verdict::Beyond
                            ? Ink::BarrelBeyond
                            : (r.verdict == Verdict::Near
                                   ? Ink::BarrelNear
                                   : (r.verdict == Verdict::Within ? Ink::BarrelWithin : Ink::BarrelUnknown));
        const ElementRef element{Kind::Pipe, r.pipe.value};
        if (std::isnan(r.invert_up) || std::isnan(r.invert_down)) continue;
        line(ink, {{r.x0, r.invert_up}, {r.x1, r.invert_down}}, element);
        line(ink, {{r.x0, r.invert_up + r.height}, {r.x1, r.invert_down + r.height}}, element);
    }
    for (const ProfileReach& r : p.reaches) {
        if (r.hydraulic.size() < 2) continue;
        line(Ink::EnergyLine, r.energy, {Kind::Pipe, r.pipe.value});
        line(Ink::HydraulicLine, r.hydraulic, {Kind::Pipe, r.pipe.value});
    }
    for (std::size_t i = 0; i < p.stations.size(); ++i) {
        const ProfileStation& s = p.stations[i];
        const ElementRef element{Kind::Structure, s.structure.value};
        const double top =
            std::isnan(s.rim) ? (i > 0 ? p.reaches[i - 1].invert_down + p.reaches[i - 1].height : s.bottom) : s.rim;
        if (!std::isnan(s.bottom) && !std::isnan(top)) line(Ink::Structure, {{s.x, s.bottom}, {s.x, top}}, element);
        if (!std::isnan(s.level) && i + 1 < p.stations.size())
            list.push_back({Drawn::Type::Level, Ink::HydraulicLine, {{s.x, s.level}}, {}, element});
        if (!std::isnan(top)) list.push_back({Drawn::Type::Text, Ink::Label, {{s.x, top}}, s.name, element});
    }
    return list;
}

}  // namespace culvert
