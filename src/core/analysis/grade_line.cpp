// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/grade_line.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

double velocity_head(double v) { return v * v / (2 * gravity); }

/// Depth that a pipe's end is given by an outfall, before critical depth is considered. NaN: free.
double depth_at_outfall(const PipeInput& in, double critical) {
    switch (in.tailwater) {
        case Tailwater::Free: return not_given;
        case Tailwater::Level:
        case Tailwater::Rating: return in.tailwater_level - in.invert_down;
        case Tailwater::Normal: return in.normal;
        case Tailwater::MeanOfCriticalAndCrown: {
            const double mean = (critical + height(in.section)) / 2;
            return std::isnan(in.tailwater_level) ? mean : std::max(mean, in.tailwater_level - in.invert_down);
        }
    }
    return not_given;
}

/// Depth at the end of a pipe that enters an inline joint, critical depth where its energy suffices for more than
/// stands behind the joint. With the loss of a change of section the energy there is that of another flow: y + (1 - Ke)
/// V1^2/2g = E - Ke V2^2/2g, or y + (1 + Kc) V1^2/2g = E + Kc V2^2/2g.
double depth_at_joint(const PipeInput& in, double critical) {
    const double energy = in.below_energy - in.invert_down;
    const auto depth = [&](double share) {
        return std::max(critical, depth_of_energy(in.section, energy + (share - 1) * in.joint_head,
                                                  in.flow * std::sqrt(share), true));
    };
    const auto faster = [&](double y) { return velocity_head(in.flow / wetted(in.section, y).area) > in.joint_head; };
    if (in.joint_head >= 0 && in.expansion > 0)
        if (const double wide = depth(1 - in.expansion); faster(wide)) return wide;
    if (in.joint_head >= 0 && in.contraction > 0)
        if (const double narrow = depth(1 + in.contraction); !faster(narrow)) return narrow;
    return depth_of_energy(in.section, energy, in.flow, true);
}

/// Holds the level of a structure at its rim where the setting says so.
void hold_at_rim(bool hold, double rim, bool joint, double velocity_up, NodeLevel& node) {
    if (!hold || !(node.level > rim)) return;
    node.level = rim;
    node.energy = joint ? std::min(node.energy, rim + velocity_head(velocity_up)) : rim;
    node.held = true;
}

/// A pipe that carries nothing: still water, if what stands below reaches it.
void solve_dry(const PipeInput& in, NodeLevel& node, LinkLevel& r) {
    const double below = in.below_level;
    const double floor = std::max(in.invert_up, in.invert_down);
    const double level = std::isfinite(below) ? std::max(below, floor) : floor;
    r.head_down = std::isfinite(below) ? std::max(below - in.invert_down, 0.0) : 0;
    if (floor == in.invert_up && level <= floor) r.head_up = 0;
    else r.head_up = level - in.invert_up;
    r.free_end = !(below > in.invert_down);
    r.control = r.free_end || r.head_up <= 0 ? Control::Uniform : Control::Downstream;
    r.slow_down = r.head_down;
    node.level = node.energy = in.invert_up + r.head_up;
    hold_at_rim(in.hold_at_rim, in.rim, false, 0, node);
}

}  // namespace

Barrel barrel_of(const Link& l, double flow) { return {l.section, l.roughness, l.length, l.slope, flow / l.barrels}; }

namespace {

/// What enters an access hole beside its own water: the pipes of the tree, and ways out that run against their listing.
HoleInput hole_of(const Network& network, const Node& node, double invert, double barrels, const Summaries& all) {
    HoleInput hole;
    hole.on = true;
    hole.floor = node.benching;
    hole.depth.value = node.rim - invert;
    const auto add = [&](double flow, double turn, double above) {
        if (!(flow > dry_flow)) return;
        const auto most = static_cast<int>(hole.inflows.size());
        if (hole.count < most) {
            nth(hole.inflows, hole.count++) = {flow / barrels, turn, above};
            return;
        }
        HoleInflow& last = hole.inflows.back();
        const double sum = last.flow + flow / barrels, share = flow / barrels / sum;
        last = {sum, last.turn + share * (turn - last.turn), last.invert + share * (above - last.invert)};
    };
    for (int in = node.first_in; in != no_link; in = nth(network.links, in).next_in) {
        const Link& l = nth(network.links, in);
        const LinkFlow& f = nth(all.links, in).flow;
        if (!f.against) add(f.flow, l.turn, l.invert_down - invert);
    }
    for (int out = node.out; out != no_link && out < node.link_end; ++out)
        if (const LinkFlow& f = nth(all.links, out).flow; f.against)
            add(f.flow, 180, nth(network.links, out).invert_up - invert);
    return hole;
}

}  // namespace

void set_tails(const Network& network, EventId event, Summaries& out) {
    out.tails.clear();
    for (const Component& part : network.components)
        for (int i = part.node_begin; i < part.node_end; ++i)
            if (const Node& n = nth(network.nodes, i); n.out == no_link)
                out.tails.push_back({i, n.tailwater, n.tailwater_level});
    std::sort(out.tails.begin(), out.tails.end(), [](const Tail& a, const Tail& b) { return a.node < b.node; });
    for (const TailLevel& t : network.tail_levels) {
        if (t.event != event) continue;
        const auto at = std::lower_bound(out.tails.begin(), out.tails.end(), t.node,
                                         [](const Tail& a, int node) { return a.node < node; });
        if (at != out.tails.end() && at->node == t.node) *at = {t.node, Tailwater::Level, t.level};
    }
}

double rated_level(const TailRating& r, double q) {
    const auto above = std::upper_bound(r.flows.begin(), r.flows.end(), q);
    if (above == r.flows.begin()) return r.levels.front();
    if (above == r.flows.end()) return r.levels.back();
    const auto i = static_cast<std::size_t>(above - r.flows.begin());
    return r.levels[i - 1] + (q - r.flows[i - 1]) / (r.flows[i] - r.flows[i - 1]) * (r.levels[i] - r.levels[i - 1]);
}

void rate_tails(const Network& network, const Component& part, Summaries& out) {
    if (network.ratings.empty()) return;
    for (Tail& t : out.tails) {
        if (t.kind != Tailwater::Rating || t.node < part.node_begin || t.node >= part.node_end) continue;
        const Node& n = nth(network.nodes, t.node);
        if (n.rating == none_of_list) continue;
        t.level = rated_level(nth(network.ratings, n.rating), nth(out.nodes, t.node).flow.flow);
    }
}

void stand_in_ponds(const Network& network, Summaries& out) {
    if (!network.through_time) return;
    for (std::size_t p = 0; p < network.through_time->ponds.size(); ++p) {
        const PondNode& pond = network.through_time->ponds[p];
        if (nth(network.nodes, pond.node).out != no_link) continue;
        const auto at =
            std::find_if(out.tails.begin(), out.tails.end(), [&](const Tail& t) { return t.node == pond.node; });
        if (at == out.tails.end()) continue;
        at->kind = Tailwater::Level;
        at->level = nth(out.ponds, p).level;
    }
}

/// A pond that pipes lead on from stands at its routed level, where that is above what its pipe needs.
void raise_to_pond(const Network& network, int i, const Summaries& out, NodeLevel& node) {
    if (!network.through_time || out.ponds.empty()) return;
    const int p = nth(network.through_time->pond_of, i);
    if (p < 0) return;
    const double level = nth(out.ponds, p).level;
    if (level > node.level) node.level = level;
    if (level > node.energy) node.energy = level;
}

PipeInput input_of(const Network& network, const Link& l, const LinkFlow& f, const NodeLevel& below,
                   const Summaries& all) {
    const Node &from = nth(network.nodes, f.against ? l.to : l.from),
               &to = nth(network.nodes, f.against ? l.from : l.to);
    PipeInput in;
    in.section = l.section;
    in.roughness = l.roughness;
    in.length = l.length;
    in.slope = f.against ? -l.slope : l.slope;
    in.invert_up = f.against ? l.invert_down : l.invert_up;
    in.invert_down = f.against ? l.invert_up : l.invert_down;
    in.flow = f.flow / l.barrels;
    in.normal.value = f.normal;
    in.loss = from.loss;
    in.bend = l.bend;
    in.rim.value = from.rim;
    in.from_joint = from.kind == StructureKind::Joint;
    in.hold_at_rim = network.hold_at_rim;
    if (to.kind == StructureKind::Outfall && to.out == no_link) in.end = PipeInput::End::Outfall;
    else if (to.kind == StructureKind::Joint) in.end = PipeInput::End::Joint;
    if (in.end == PipeInput::End::Outfall) {
        const Tail tail = all.tail_of(f.against ? l.from : l.to);
        in.tailwater = tail.kind;
        in.tailwater_level.value = tail.kind == Tailwater::Rating ? below.level : tail.level;
    }
    in.below_level.value = below.level;
    in.below_energy.value = below.energy;
    if (in.end == PipeInput::End::Joint && to.out != no_link && (network.expansion > 0 || network.contraction > 0)) {
        const LinkLevel& next = nth(all.links, to.out).level;
        in.expansion = network.expansion;
        in.contraction = network.contraction;
        in.joint_head = velocity_head(nth(all.links, to.out).flow.against ? next.velocity_down : next.velocity_up);
    }
    in.into_hole = to.access_hole && to.out != no_link;
    if (from.access_hole) in.hole = hole_of(network, from, in.invert_up, l.barrels, all);
    return in;
}

/// Fast water from the upstream end, which ends in a jump.
void end_in_jump(const Barrel& barrel, double arrived, const Jump& jump, LinkLevel& r) {
    r.jump = jump.place;
    if (r.jump <= 0) {
        r.jump = 0;  // drowned to the entrance
        r.fast_up = not_given;
        return;
    }
    r.head_up = arrived;
    r.bends = 0;
    r.velocity_up = barrel.flow / wetted(barrel.section, arrived).area;
    if (r.control != Control::Entrance) r.control = Control::Arriving;
    if (r.jump >= barrel.length) {
        r.head_down = jump.fast_depth_down;
        r.velocity_down = barrel.flow / wetted(barrel.section, r.head_down).area;
        r.full_length = 0;
    } else {
        r.full_length = std::min(r.full_length, barrel.length - r.jump);
    }
}

void solve_pipe(const PipeInput& in, NodeLevel& node, LinkLevel& r, bool jump_at_once) {
    node = {};
    r = {};
    if (in.flow <= dry_flow) {
        solve_dry(in, node, r);
        return;
    }
    const Barrel barrel{in.section, in.roughness, in.length, in.slope, in.flow};
    const BarrelState state = state_of(barrel, in.normal);
    double given = not_given;
    if (in.end == PipeInput::End::Outfall) given = depth_at_outfall(in, state.critical);
    else if (in.end == PipeInput::End::Joint) given = depth_at_joint(in, state.critical);
    else if (in.into_hole)  // y + (1 - Ko) V^2/2g = level: as the energy of a smaller flow
        given = depth_of_energy(in.section, in.below_level - in.invert_down, in.flow * std::sqrt(1 - access_hole_exit),
                                true);
    else given = in.below_level - in.invert_down;
    r.free_end = !(given > state.critical);
    r.slow_down = r.free_end ? state.critical : given;
    r.steep = state.steep;
    r.critical = state.critical;
    bool entrance = false;
    Jump jump{not_given, not_given};
    if (state.steep && r.free_end) {
        r.head_up = state.critical;
        entrance = true;
    } else {
        const SubcriticalCurve curve = subcritical_curve(barrel, state, r.slow_down, jump_at_once ? &jump : nullptr);
        r.head_up = curve.depth_up;
        r.full_length = curve.full_length;
        r.reach = curve.reach;
        entrance = state.steep && curve.reach < in.length;
        if (entrance) r.head_up = state.critical;
        else if (curve.uniform_up) r.control = Control::Uniform;
    }
    if (entrance) r.control = Control::Entrance;
    r.head_down = r.slow_down;
    r.velocity_up = in.flow / wetted(in.section, r.head_up).area;
    r.velocity_down = in.flow / wetted(in.section, r.head_down).area;
    r.fast_up = entrance ? state.critical : not_given;
    r.bends = entrance ? 0 : in.bend * velocity_head(r.velocity_up);
    const double entrance_energy = in.invert_up + r.head_up + velocity_head(r.velocity_up) + r.bends;
    if (in.hole.on)
        node.energy =
            in.invert_up +
            access_hole_energy(in.section, entrance_energy - in.invert_up, r.velocity_up, in.flow, in.hole.floor,
                               {in.hole.inflows.data(), static_cast<std::size_t>(in.hole.count)}, in.hole.depth)
                .energy;
    else
        node.energy =
            in.invert_up + r.head_up + velocity_head(r.velocity_up) + in.loss * velocity_head(r.velocity_up) + r.bends;
    node.level = in.from_joint ? in.invert_up + r.head_up + r.bends : node.energy;
    hold_at_rim(in.hold_at_rim, in.rim, in.from_joint, r.velocity_up, node);
    r.jump = entrance ? -1 : 0;  // -1: fast water enters, its end is found on the way down
    if (entrance && !std::isnan(jump.place)) end_in_jump(barrel, state.critical, jump, r);
}

std::size_t solve_levels(const Network& network, const Component& part, Summaries& out, const EventResult* before) {
    std::size_t computed = 0;
    rate_tails(network, part, out);
    // Up: from the outfalls to the heads.
    for (int i = part.node_end; i-- > part.node_begin;) {
        const Node& n = nth(network.nodes, i);
        NodeLevel& node = nth(out.nodes, i).level;
        node = {};
        if (n.out == no_link) {
            const Tail tail = out.tail_of(i);
            node.level = node.energy = tail.stands() ? tail.level : not_given;
            continue;
        }
        const Link& l = nth(network.links, n.out);
        LinkResult& link = nth(out.links, n.out);
        const NodeLevel& below = nth(out.nodes, n.down).level;
        const PipeInput in = input_of(network, l, link.flow, below, out);
        if (!l.solvable || (in.end != PipeInput::End::Outfall && std::isnan(below.energy))) {
            link.level = {};  // not known
            continue;
        }
        const bool pond = network.through_time && nth(network.through_time->pond_of, i) >= 0;
        if (before && !pond && n.kind != StructureKind::Joint && in.end != PipeInput::End::Joint &&
            link.flow.flow > dry_flow) {
            const Network& old = *before->network;
            const LinkResult& kept = nth(before->links, n.out);
            if (nth(old.links, n.out).solvable &&
                input_of(old, nth(old.links, n.out), kept.flow, nth(before->nodes, n.down).level, *before) == in) {
                node = nth(before->nodes, i).level;
                link.level = kept.level;
                continue;
            }
        }
        computed += link.flow.flow > dry_flow;
        solve_pipe(in, node, link.level, n.kind != StructureKind::Joint);
        raise_to_pond(network, i, out, node);
    }
    run_fast(network, part, out);
    level_outfalls(network, part, out);
    return computed;
}

void run_fast(const Network& network, const Component& part, Summaries& out) {
    for (int i = part.link_begin; i < part.link_end; ++i) {
        const Link& l = nth(network.links, i);
        LinkLevel& r = nth(out.links, i).level;
        const LinkFlow& f = nth(out.links, i).flow;
        if (std::isnan(r.head_up) || f.flow <= dry_flow || f.against) continue;
        const Node& n = nth(network.nodes, l.from);
        if (r.jump == -1 || (r.jump == 0 && !std::isnan(r.fast_up))) {
            const Barrel barrel = barrel_of(l, f.flow);
            const BarrelState state = state_of(barrel, f.normal, r.critical);
            const double arrived = r.fast_up;
            Jump jump{l.length, 0};
            if (r.free_end && state.steep) {
                jump.fast_depth_down = supercritical_curve(barrel, state, arrived).depth_down;
                r.slow_down = state.critical;
            } else {
                // On a drowned steep barrel, or a mild one, the curve reaches the entrance.
                const bool reaches = r.reach >= l.length;
                jump = find_jump(barrel, state, arrived,
                                 {r.slow_down, reaches ? r.head_up : state.critical, r.reach, r.full_length, false});
            }
            end_in_jump(barrel, arrived, jump, r);
            if (r.jump > 0 && n.kind == StructureKind::Joint && l.main) {
                NodeLevel& node = nth(out.nodes, l.from).level;
                node.level = l.invert_up + r.head_up;
                node.energy = node.level + velocity_head(r.velocity_up) * (1 + n.loss);
                node.held = false;
                hold_at_rim(network.hold_at_rim, n.rim, true, r.velocity_up, node);
            }
        }
        // Fast to its end, and on through an inline joint that nothing else enters, if its energy suffices for fast
        // water behind the joint's loss, which is taken with the velocity behind it, as everywhere.
        const Node& down = nth(network.nodes, l.to);
        if (!l.main || down.kind != StructureKind::Joint || down.inflows != 1 || down.out == no_link ||
            down.link_end - down.out != 1 || !(r.jump >= l.length))
            continue;
        const Link& next = nth(network.links, down.out);
        LinkLevel& on = nth(out.links, down.out).level;
        const LinkFlow& flow = nth(out.links, down.out).flow;
        if (!next.solvable || std::isnan(on.head_up) || flow.flow <= dry_flow || flow.against) continue;
        const double energy = l.invert_down + r.head_down + velocity_head(r.velocity_down) - next.invert_up;
        const double fast = fast_depth_behind_loss(next.section, energy, flow.flow / next.barrels, down.loss);
        if (std::isnan(fast)) continue;
        on.fast_up = fast;
        if (on.jump == 0 && on.control != Control::Entrance) on.jump = -1;
    }
}

void level_outfalls(const Network& network, const Component& part, Summaries& out) {
    for (int i = part.link_begin; i < part.link_end; ++i) {
        const Link& l = nth(network.links, i);
        const Node& down = nth(network.nodes, l.to);
        if (down.out != no_link || out.tail_of(l.to).stands()) continue;
        const LinkLevel& r = nth(out.links, i).level;
        if (std::isnan(r.head_down)) continue;
        NodeLevel& node = nth(out.nodes, l.to).level;
        const double end = l.invert_down + r.head_down;
        if (!(node.level >= end)) node.level = node.energy = end;
    }
}

std::size_t solve_levels(const Network& network, Summaries& out, const EventResult* before) {
    std::size_t computed = 0;
    for (const Component& part : network.components)
        if (part.further == 0) computed += solve_levels(network, part, out, before);
    return computed;
}

}  // namespace culvert
