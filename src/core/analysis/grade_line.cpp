// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/contract.h"
#include "core/analysis/grade_line.h"

#include <cmath>

#include "core/hydraulics/uniform_flow.h"

namespace culvert {
namespace {

constexpr double dry = 1e-12;  ///< m3/s; below it a pipe carries nothing

double velocity_head(double v) { return v * v / (2 * gravity); }

/// Depth that a pipe's end is given from below, before critical depth is considered. NaN: free.
double depth_at_outfall(const Node& outfall, const Node& n, const FlowResult& f, double critical) {
    switch (outfall.tailwater) {
        case Tailwater::Free: return not_given;
        case Tailwater::Level: return outfall.tailwater_level - n.invert_down;
        case Tailwater::Normal: return f.normal;
        case Tailwater::MeanOfCriticalAndCrown: {
            const double mean = (critical + height(n.section)) / 2;
            return std::isnan(outfall.tailwater_level) ? mean : std::max(mean, outfall.tailwater_level - n.invert_down);
        }
    }
    return not_given;
}

bool same_barrel(const Node& a, const Node& b) {
    return a.section == b.section && a.roughness == b.roughness && a.length == b.length && a.slope == b.slope &&
           a.invert_up == b.invert_up && a.invert_down == b.invert_down && a.solvable == b.solvable;
}
bool same_bits(double a, double b) { return a == b || (std::isnan(a) && std::isnan(b)); }

/// A pipe that carries nothing: still water, if what stands below reaches it.
void solve_dry(const Node& n, LevelResult& r, double below) {
    const double floor = std::max(n.invert_up, n.invert_down);
    const double level = std::isfinite(below) ? std::max(below, floor) : floor;
    r.head_down = std::isfinite(below) ? std::max(below - n.invert_down, 0.0) : 0;
    if (floor == n.invert_up && level <= floor) r.head_up = 0;
    else r.head_up = level - n.invert_up;
    if (n.invert_down > n.invert_up) r.head_down = std::max(r.head_down, 0.0);
    r.free_end = !(below > n.invert_down);
    r.control = r.free_end || r.head_up <= 0 ? Control::Uniform : Control::Downstream;
    r.level = r.energy = n.invert_up + r.head_up;
}

/// Holds the level of a structure at its rim where the setting says so.
void hold_at_rim(const Network& network, const Node& n, LevelResult& r) {
    if (!network.hold_at_rim || !(r.level > n.rim)) return;
    r.level = n.rim;
    r.energy = n.kind == StructureKind::Joint ? std::min(r.energy, n.rim + velocity_head(r.velocity_up)) : n.rim;
    r.held = true;
}

}  // namespace

Barrel barrel_of(const Node& n, double flow) { return {n.section, n.roughness, n.length, n.slope, flow}; }

std::size_t solve_levels(const Network& network, std::vector<NodeResult>& nodes, const EventResult* before) {
    const std::size_t count = nodes.size();
    std::size_t computed = 0;
    // Up: from the outfalls to the heads. `slow_down` holds what the pipe's end was given; NaN when free.
    for (std::size_t i = count; i-- > 0;) {
        const Node& n = network.nodes[i];
        const FlowResult& f = nodes[i].flow;
        LevelResult r;
        if (n.down == no_node) {
            r.level = r.energy = n.tailwater == Tailwater::Level ? n.tailwater_level : not_given;
            nodes[i].level = r;
            continue;
        }
        const Node& down = nth(network.nodes, n.down);
        const LevelResult& below = nth(nodes, n.down).level;
        const bool to_outfall = down.kind == StructureKind::Outfall && down.down == no_node;
        if (!n.solvable || (!to_outfall && std::isnan(below.energy))) {
            nodes[i].level = r;  // not known
            continue;
        }
        if (f.flow <= dry) {
            solve_dry(n, r, below.level);
            r.slow_down = r.head_down;
            hold_at_rim(network, n, r);
            nodes[i].level = r;
            continue;
        }
        const Barrel barrel = barrel_of(n, f.flow);
        const bool to_joint = down.kind == StructureKind::Joint;
        if (before && before->nodes[i].flow.flow == f.flow && same_barrel(before->network->nodes[i], n) &&
            before->network->nodes[i].loss == n.loss && before->network->nodes[i].rim == n.rim &&
            before->network->hold_at_rim == network.hold_at_rim) {
            const Node& down_before = nth(before->network->nodes, n.down);
            const LevelResult& below_before = nth(before->nodes, n.down).level;
            if (down_before.kind == down.kind && down_before.tailwater == down.tailwater &&
                same_bits(down_before.tailwater_level, down.tailwater_level) &&
                same_bits(below_before.energy, below.energy) && same_bits(below_before.level, below.level) &&
                down.kind != StructureKind::Joint && n.kind != StructureKind::Joint) {
                nodes[i].level = before->nodes[i].level;
                continue;
            }
        }
        ++computed;
        const BarrelState state = state_of(barrel, f.normal);
        double given = not_given;
        if (to_outfall) given = depth_at_outfall(down, n, f, state.critical);
        else if (to_joint) given = depth_of_energy(n.section, below.energy - n.invert_down, f.flow, true);
        else given = below.level - n.invert_down;
        r.free_end = !(given > state.critical);
        r.slow_down = r.free_end ? state.critical : given;
        r.steep = state.steep;
        r.critical = state.critical;
        bool entrance = false;
        if (state.steep && r.free_end) {
            r.head_up = state.critical;
            entrance = true;
        } else {
            const SubcriticalCurve curve = subcritical_curve(barrel, state, r.slow_down);
            r.head_up = curve.depth_up;
            r.full_length = curve.full_length;
            r.reach = curve.reach;
            entrance = state.steep && curve.reach < n.length;
            if (entrance) r.head_up = state.critical;
            else if (curve.uniform_up) r.control = Control::Uniform;
        }
        if (entrance) r.control = Control::Entrance;
        r.head_down = r.slow_down;
        r.velocity_up = f.flow / wetted(n.section, r.head_up).area;
        r.velocity_down = f.flow / wetted(n.section, r.head_down).area;
        r.fast_up = entrance ? state.critical : not_given;
        r.energy = n.invert_up + r.head_up + velocity_head(r.velocity_up) + n.loss * velocity_head(r.velocity_up);
        r.level = n.kind == StructureKind::Joint ? n.invert_up + r.head_up : r.energy;
        hold_at_rim(network, n, r);
        r.jump = entrance ? -1 : 0;  // -1: fast water enters, its end is found on the way down
        nodes[i].level = r;
    }
    // Down: fast reaches, their jumps, and fast water through inline joints.
    for (std::size_t i = 0; i < count; ++i) {
        const Node& n = network.nodes[i];
        LevelResult& r = nodes[i].level;
        if (n.down == no_node || std::isnan(r.head_up) || nodes[i].flow.flow <= dry) continue;
        if (r.jump == -1 || (r.jump == 0 && !std::isnan(r.fast_up))) {
            const double flow = nodes[i].flow.flow;
            const Barrel barrel = barrel_of(n, flow);
            const BarrelState state = state_of(barrel, nodes[i].flow.normal, r.critical);
            const double arrived = r.fast_up;
            Jump jump{n.length, 0};
            if (r.free_end && state.steep) {
                jump.fast_depth_down = supercritical_curve(barrel, state, arrived).depth_down;
                r.slow_down = state.critical;
            } else {
                // On a drowned steep barrel, or a mild one, the curve reaches the entrance.
                const bool reaches = r.reach >= n.length;
                jump = find_jump(barrel, state, arrived,
                                 {r.slow_down, reaches ? r.head_up : state.critical, r.reach, r.full_length, false});
            }
            r.jump = jump.place;
            if (r.jump <= 0) {
                r.jump = 0;  // drowned to the entrance
                r.fast_up = not_given;
            } else {
                r.head_up = arrived;
                r.velocity_up = flow / wetted(n.section, arrived).area;
                if (r.control != Control::Entrance) r.control = Control::Arriving;
                if (n.kind == StructureKind::Joint) {
                    r.level = n.invert_up + r.head_up;
                    r.energy = r.level + velocity_head(r.velocity_up) * (1 + n.loss);
                    r.held = false;
                    hold_at_rim(network, n, r);
                }
                if (r.jump >= n.length) {
                    r.head_down = jump.fast_depth_down;
                    r.velocity_down = flow / wetted(n.section, r.head_down).area;
                    r.full_length = 0;
                } else {
                    r.full_length = std::min(r.full_length, n.length - r.jump);
                }
            }
        }
        // Fast to its end, and on through an inline joint that nothing else enters, if its energy suffices for fast water
        // behind the joint's loss, which is taken with the velocity behind it, as everywhere.
        const Node& down = nth(network.nodes, n.down);
        if (down.kind == StructureKind::Joint && down.inflows == 1 && down.down != no_node && r.jump >= n.length &&
            down.solvable) {
            LevelResult& next = nth(nodes, n.down).level;
            const double flow = nth(nodes, n.down).flow.flow;
            const double energy = n.invert_down + r.head_down + velocity_head(r.velocity_down) - down.invert_up;
            if (!std::isnan(next.head_up) && flow > dry) {
                const double fast = fast_depth_behind_loss(down.section, energy, flow, down.loss);
                if (!std::isnan(fast)) {
                    next.fast_up = fast;
                    if (next.jump == 0 && next.control != Control::Entrance) next.jump = -1;
                }
            }
        }
    }
    // Outfalls show their tailwater, or the highest grade line that comes in.
    for (std::size_t i = 0; i < count; ++i) {
        const Node& n = network.nodes[i];
        if (n.down == no_node) continue;
        const Node& down = nth(network.nodes, n.down);
        LevelResult& out = nth(nodes, n.down).level;
        if (down.down != no_node || down.tailwater == Tailwater::Level || std::isnan(nodes[i].level.head_down))
            continue;
        const double end = n.invert_down + nodes[i].level.head_down;
        if (!(out.level >= end)) out.level = out.energy = end;
    }
    return computed;
}

}  // namespace culvert
