// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/street_water.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/way_flows.h"
#include "core/base/contract.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

constexpr int samples = 9;
constexpr double at_place = 0.5;  ///< m: a point of the profile this near an inlet is where it stands
constexpr double noise = 0.002;   ///< m: what rises less than this does not turn the water

struct Standing {
    double station;
    int inlet;
};

struct StationFlow {
    double station, flow;
};
/// What ponds along a street spill onto it, on their way to a node's inlet.
std::vector<StationFlow> spills_onto(const Project& project, const EventResult& result, int node,
                                     std::uint64_t street) {
    std::vector<StationFlow> found;
    if (!result.network->through_time) return found;
    for (const PondNode& pond : result.network->through_time->ponds) {
        const double q = spilled(result, pond.node, node);
        if (!(q > 0)) continue;
        const Structure* s = project.structures.find(nth(result.network->nodes, pond.node).structure.value);
        if (s && s->street.value == street && !std::isnan(s->station)) found.push_back({s->station, q});
    }
    return found;
}

/// The station at which water that runs to `to` from the side of `step` (1: from higher stations) begins: the next
/// inlet, the next high point, or the street's end.
double head_of(const StreetProfile& profile, const std::vector<Standing>& row, std::size_t at, int step) {
    const double from = row[at].station;
    double end = step > 0 ? profile.back().station : profile.front().station;
    if (step > 0 && at + 1 < row.size()) end = std::min(end, row[at + 1].station);
    if (step < 0 && at > 0) end = std::max(end, row[at - 1].station);
    // Up the profile as long as it rises.
    double s = from, level = level_at(profile, from);
    const auto visit = [&](const StreetPoint& p) {
        if ((p.station - from) * step <= at_place || (p.station - end) * step >= 0) return true;
        if (p.level < level - noise) return false;
        s = p.station;
        level = p.level;
        return true;
    };
    if (step > 0) {
        for (const StreetPoint& p : profile)
            if (!visit(p)) return s;
    } else
        for (auto p = profile.rbegin(); p != profile.rend(); ++p)
            if (!visit(*p)) return s;
    return level_at(profile, end) < level - noise ? s : end;
}

}  // namespace

StreetWater::StreetWater(const Project& project, const EventResult& result, const ProfileOf& profile_of) {
    const Network& net = *result.network;
    const StreetConstants k = street_constants(net.edition);
    std::map<std::pair<std::uint64_t, int>, std::vector<Standing>> rows;
    for (std::size_t i = 0; i < net.inlets.size(); ++i) {
        const Structure* s = project.structures.find(nth(net.nodes, net.inlets[i].node).structure.value);
        if (!s || !s->street || std::isnan(s->station)) continue;
        rows[{s->street.value, s->offset < 0 ? -1 : 1}].push_back({s->station, static_cast<int>(i)});
    }
    StreetProfile profile;
    std::uint64_t profiled = 0;
    for (auto& [key, row] : rows) {
        const auto& [id, side] = key;
        const Street* street = project.streets.find(id);
        if (!street) continue;
        if (profiled != id) {
            profile = profile_of(*street);
            profiled = id;
        }
        if (profile.size() < 2) continue;
        std::sort(row.begin(), row.end(), [](const Standing& a, const Standing& b) {
            return std::tie(a.station, a.inlet) < std::tie(b.station, b.inlet);
        });
        const std::vector<Standing>& standing = row;
        const auto of_inlet = [&](std::size_t i) -> const StreetFlow& {
            return nth(result.streets, standing[i].inlet);
        };
        for (std::size_t at = 0; at < row.size(); ++at) {
            const StreetInlet& in = nth(net.inlets, row[at].inlet);
            const StreetFlow& f = of_inlet(at);
            if (!(f.flow > 0)) continue;
            constexpr double near = 0.5;
            const bool from_below = level_at(profile, row[at].station - near) > level_at(profile, row[at].station);
            const bool from_above = level_at(profile, row[at].station + near) > level_at(profile, row[at].station);
            const double share = from_below && from_above ? 0.5 : 1;
            for (const int step : {-1, 1}) {
                if (step < 0 ? !from_below : !from_above) continue;
                const double head = head_of(profile, row, at, step), there = row[at].station;
                if (std::abs(head - there) < 1e-6) continue;
                // What the inlet at its head let pass, where it leads here; and what spills between.
                double begins = 0;
                const std::size_t other = step > 0 ? at + 1 : at - 1;
                if ((step > 0 ? at + 1 < row.size() : at > 0) && std::abs(row[other].station - head) < 1e-6)
                    if (const StreetInlet& above = nth(net.inlets, row[other].inlet);
                        above.end == PathEnd::Structure && above.to == in.node)
                        begins = of_inlet(other).bypass;
                double added = 0;
                std::vector<StationFlow> spills;
                for (const StationFlow& s : spills_onto(project, result, in.node, id))
                    if ((s.station - there) * step > 0 && (head - s.station) * step > -1e-6)
                        spills.push_back(s), added += s.flow;
                const double even = std::max(0.0, f.flow * share - begins - added);
                StreetReach reach{side, nth(net.nodes, in.node).structure, {}};
                const double low = level_at(profile, there);
                std::vector<double> parts;
                for (int p = 0; p < samples; ++p) parts.push_back(p / double(samples - 1));
                for (const StationFlow& s : spills)  // where it comes it is all there
                    if (const double t = (s.station - head) / (there - head); t > 0 && t < 1) parts.push_back(t);
                std::sort(parts.begin(), parts.end());
                for (const double t : parts) {
                    WaterAt w;
                    w.station = head + (there - head) * t;
                    w.flow = begins + even * t;
                    for (const StationFlow& s : spills)
                        if ((s.station - w.station) * step > -1e-6) w.flow += s.flow;
                    Gutter gutter = in.gutter;
                    const double grade = std::abs(grade_at(profile, w.station - step * 1e-3));
                    if (grade > 0) gutter.grade = grade;
                    if (t == 1 && !in.sag) gutter.grade = in.gutter.grade;
                    const GutterFlow g = gutter_flow(gutter, w.flow, k);
                    w.depth = g.depth > 0 ? g.depth : 0;
                    w.spread = g.spread;
                    if (in.sag)
                        if (const double still = f.depth - (level_at(profile, w.station) - low); still > w.depth) {
                            w.depth = still;
                            w.spread = spread_of_depth(in.gutter.section, still);
                        }
                    reach.points.push_back(w);
                }
                reaches_[id].push_back(std::move(reach));
            }
        }
    }
}

const std::vector<StreetReach>& StreetWater::of(StreetId street) const {
    static const std::vector<StreetReach> none;
    const auto at = reaches_.find(street.value);
    return at == reaches_.end() ? none : at->second;
}

WaterAt StreetWater::at(StreetId street, int side, double station) const {
    WaterAt most{station, 0, 0, 0};
    for (const StreetReach& r : of(street)) {
        if (r.side != side) continue;
        for (std::size_t i = 1; i < r.points.size(); ++i) {
            const WaterAt &a = r.points[i - 1], &b = r.points[i];
            const double near = i + 1 == r.points.size() || i == 1 ? at_place : 0;
            if (station < std::min(a.station, b.station) - near || station > std::max(a.station, b.station) + near)
                continue;
            const double t = std::clamp((station - a.station) / (b.station - a.station), 0.0, 1.0);
            const auto mix = [t](double x, double y) { return x + (y - x) * t; };
            if (const WaterAt w{station, mix(a.flow, b.flow), mix(a.depth, b.depth), mix(a.spread, b.spread)};
                w.flow > most.flow)
                most = w;
        }
    }
    return most;
}

}  // namespace culvert
