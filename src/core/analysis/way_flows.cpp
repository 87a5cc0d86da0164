// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/way_flows.h"

#include <algorithm>

#include "core/analysis/result_fields.h"
#include "core/base/contract.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

struct FlowOf {
    const EventResult& r;
    WayFlow operator()(const PipeWay& w) const {
        const LinkFlow& f = nth(r.links, w.link).flow;
        const Link& l = nth(r.network->links, w.link);
        const bool only = nth(r.network->nodes, l.from).link_end - nth(r.network->nodes, l.from).out == 1 &&
                          !(r.network->through_time && nth(r.network->through_time->pond_of, l.from) >= 0);
        return {f.against ? -f.flow : f.flow,
                only && r.network->through_time ? nth(r.nodes, l.from).flow.volume : not_given};
    }
    WayFlow operator()(const StreetWay& w) const { return {nth(r.streets, w.inlet).bypass, not_given}; }
    WayFlow operator()(const OutletWay& w) const {
        if (r.ponds.empty()) return {not_given, not_given};
        const PondSummary& p = nth(r.ponds, w.pond);
        const auto i = static_cast<std::size_t>(w.way);
        return {i < p.way_peaks.size() ? p.way_peaks[i] : not_given,
                i < p.way_volumes.size() ? p.way_volumes[i] : not_given};
    }
};

}  // namespace

double spilled(const EventResult& result, int from, int to) {
    const PondSummary* pond = pond_at(result, static_cast<std::size_t>(from));
    if (!pond || to == no_node) return 0;
    const PondNode& node = *pond_node_at(result, static_cast<std::size_t>(from));
    double sum = 0;
    for (std::size_t w = 0; w < std::min(node.ways.size(), pond->way_peaks.size()); ++w)
        if (node.ways[w].over_street && node.ways[w].target == to) sum += pond->way_peaks[w];
    return sum;
}

std::vector<FromAbove> over_street_to(const EventResult& result, int node) {
    const Network& net = *result.network;
    std::vector<FromAbove> found;
    for (std::size_t s = 0; s < net.inlets.size(); ++s)
        if (const StreetInlet& in = net.inlets[s]; in.end == PathEnd::Structure && in.to == node)
            if (const double q = nth(result.streets, s).bypass; q > 0) found.push_back({in.node, q, false});
    if (net.through_time)
        for (const PondNode& p : net.through_time->ponds)
            if (const double q = spilled(result, p.node, node); q > 0) found.push_back({p.node, q, true});
    return found;
}

WayFlow flow_of(const EventResult& result, const Way& way) { return std::visit(FlowOf{result}, way.by); }

}  // namespace culvert
