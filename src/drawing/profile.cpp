// SPDX-License-Identifier: GPL-3.0-or-later
#include "drawing/profile.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/grade_line.h"
#include "core/model/lay.h"

namespace culvert {
namespace {

constexpr double gravity_2 = 2 * gravity;

/// A run: structures from the head down, and the pipes between them.
struct Run {
    std::vector<int> nodes, links;
};
/// The run through a node, or through a link: up to the farthest head, then down to the outfall, or to a node on the
/// way.
Run run_through(const Network& net, int node, int link, int last) {
    const std::size_t count = net.nodes.size();
    std::vector<double> below(count, 0);  // longest way from a head down to the node
    std::vector<int> up(count, no_link);
    for (std::size_t i = 0; i < count; ++i) {
        const Node& n = net.nodes[i];
        if (n.out == no_link) continue;
        const auto d = static_cast<std::size_t>(n.down);
        const Link& l = net.links[static_cast<std::size_t>(n.out)];
        const double way = below[i] + (l.length > 0 ? l.length : 0);
        if (up[d] == no_link || way > below[d]) {
            below[d] = way;
            up[d] = n.out;
        }
    }
    if (link != no_link) node = net.links[static_cast<std::size_t>(link)].from;
    if (node == no_node) {
        double longest = -1;
        for (std::size_t i = 0; i < count; ++i)
            if (net.nodes[i].out == no_link && below[i] > longest) {
                longest = below[i];
                node = static_cast<int>(i);
            }
        if (node == no_node) return {};
    }
    Run run{{node}, {}};
    while (up[static_cast<std::size_t>(run.nodes.front())] != no_link) {
        const int l = up[static_cast<std::size_t>(run.nodes.front())];
        run.links.insert(run.links.begin(), l);
        run.nodes.insert(run.nodes.begin(), net.links[static_cast<std::size_t>(l)].from);
    }
    const auto on = [&](int l) {
        run.links.push_back(l);
        run.nodes.push_back(net.links[static_cast<std::size_t>(l)].to);
    };
    if (link != no_link) on(link);
    while (run.nodes.back() != last && net.nodes[static_cast<std::size_t>(run.nodes.back())].out != no_link)
        on(net.nodes[static_cast<std::size_t>(run.nodes.back())].out);
    return run;
}

}  // namespace

Profile profile_of(const Project& project, const Network& net, const EventResult* result, const Review* review,
                   ElementRef through, StructureId until) {
    Profile p;
    int node = no_node, link = no_link;
    if (through.kind == Kind::Structure) node = net.node_of(StructureId{through.id});
    if (through.kind == Kind::Pipe) link = net.link_of(PipeId{through.id});
    if (result && (result->nodes.size() != net.nodes.size() || result->links.size() != net.links.size()))
        result = nullptr;
    double x = 0;
    p.low = 1e300;
    p.high = -1e300;
    const auto see = [&p](double level) {
        if (!std::isfinite(level)) return;
        p.low = std::min(p.low, level);
        p.high = std::max(p.high, level);
    };
    const Run run = run_through(net, node, link, net.node_of(until));
    for (std::size_t k = 0; k < run.nodes.size(); ++k) {
        const auto at = static_cast<std::size_t>(run.nodes[k]);
        const Node& n = net.nodes[at];
        const bool leads_on = k < run.links.size();
        const auto way = leads_on ? static_cast<std::size_t>(run.links[k]) : 0;
        ProfileStation s{n.structure,
                         run.nodes[k],
                         n.inflows > 1,
                         element_name(project, Kind::Structure, n.structure.value),
                         x,
                         n.rim,
                         leads_on ? net.links[way].invert_up : not_given,
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
        if (!leads_on) break;
        const Link& pipe = net.links[way];
        const double length = pipe.length > 0 ? pipe.length : 0;
        ProfileReach r{
            pipe.pipe,        run.links[k], x, x + length, pipe.invert_up, pipe.invert_down, height(pipe.section),
            Verdict::Unknown, {},           {}};
        if (review && way < review->links.size()) r.verdict = review->links[way];
        if (result && pipe.solvable) {
            const LinkFlow& f = result->links[way].flow;
            const LinkLevel& l = result->links[way].level;
            if (!std::isnan(l.head_up)) {
                Barrel barrel = barrel_of(pipe, f.flow);
                double down = l.jump >= pipe.length ? l.head_down : l.slow_down;
                if (f.against) {  // along the water, then as the run goes
                    barrel.slope = -barrel.slope;
                    down = l.head_up;
                }
                for (const ProfilePoint& point :
                     barrel_profile(barrel, state_of(barrel, f.normal), l.fast_up, down, l.jump)) {
                    const double at_run = f.against ? length - point.x : point.x;
                    const double level = pipe.invert_up - pipe.slope * at_run + point.depth;
                    r.hydraulic.push_back({x + at_run, level});
                    r.energy.push_back({x + at_run, level + point.velocity * point.velocity / gravity_2});
                    see(level);
                }
                if (f.against) {
                    std::reverse(r.hydraulic.begin(), r.hydraulic.end());
                    std::reverse(r.energy.begin(), r.energy.end());
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

Profile profile_between(const Profile& whole, StructureId a, StructureId b) {
    const auto place = [&](StructureId id) {
        return std::find_if(whole.stations.begin(), whole.stations.end(),
                            [id](const ProfileStation& s) { return s.structure == id; });
    };
    auto first = place(a), last = place(b);
    if (first == whole.stations.end() || last == whole.stations.end() || first == last) return {};
    if (last < first) std::swap(first, last);
    Profile part;
    part.stations.assign(first, last + 1);
    part.reaches.assign(whole.reaches.begin() + (first - whole.stations.begin()),
                        whole.reaches.begin() + (last - whole.stations.begin()));
    const double x = first->x;
    part.low = 1e300;
    part.high = -1e300;
    const auto see = [&part](double level) {
        if (!std::isfinite(level)) return;
        part.low = std::min(part.low, level);
        part.high = std::max(part.high, level);
    };
    for (ProfileStation& s : part.stations) {
        s.x -= x;
        for (const double level : {s.rim, s.bottom, s.level}) see(level);
    }
    for (ProfileReach& r : part.reaches) {
        r.x0 -= x;
        r.x1 -= x;
        for (const double level : {r.invert_up, r.invert_down, r.invert_up + r.height, r.invert_down + r.height})
            see(level);
        for (auto* line : {&r.hydraulic, &r.energy})
            for (Point& p : *line) {
                p.x -= x;
                see(p.y);
            }
    }
    if (!(part.high > part.low)) {
        part.low = 0;
        part.high = 1;
    }
    part.length = part.stations.back().x;
    return part;
}

/// @param last  stations that are looked at: a branch ends where it joins, which is the other run's
static void add_branches(const Project& project, const Network& net, const EventResult* result, const Review* review,
                         const Profile& run, std::size_t last, std::vector<Profile>& out) {
    for (std::size_t k = 0; k < last; ++k) {
        const ProfileStation& s = run.stations[k];
        if (s.node == no_node) continue;
        const auto& node = net.nodes[static_cast<std::size_t>(s.node)];
        std::vector<int> joining;
        for (int in = node.first_in; in != no_link; in = net.links[static_cast<std::size_t>(in)].next_in)
            if (k == 0 || run.reaches[k - 1].link != in) joining.push_back(in);
        if (k == 0) joining.clear();  // above the part of a run that is shown
        for (const int in : joining) {
            const Link& l = net.links[static_cast<std::size_t>(in)];
            const Profile branch = profile_of(project, net, result, review, {Kind::Pipe, l.pipe.value}, s.structure);
            if (branch.empty()) continue;
            out.push_back(branch);
            add_branches(project, net, result, review, branch, branch.stations.size() - 1, out);
        }
    }
}
std::vector<Profile> branches_of(const Project& project, const Network& net, const EventResult* result,
                                 const Review* review, const Profile& run) {
    std::vector<Profile> out;
    add_branches(project, net, result, review, run, run.stations.size(), out);
    return out;
}

std::vector<Point> ground_along(const Project& project, const Profile& profile, const Ground& ground) {
    std::vector<Point> out;
    for (std::size_t i = 0; i < profile.reaches.size() && !ground.empty(); ++i) {
        const ProfileReach& r = profile.reaches[i];
        const Pipe* pipe = project.pipes.find(r.pipe.value);
        if (!pipe) continue;
        std::vector<Point> line = pipe_line(project, *pipe);
        if (line.empty()) continue;
        if (pipe->from != profile.stations[i].structure) std::reverse(line.begin(), line.end());
        const double drawn = length(line), scale = drawn > 0 ? (r.x1 - r.x0) / drawn : 0;
        for (const auto& p : ground.section(line)) out.push_back({r.x0 + p.distance * scale, p.level});
    }
    return out;
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
