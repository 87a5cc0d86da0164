// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/flow_update.h"

#include <algorithm>
#include <span>

#include "core/base/contract.h"

namespace culvert {
namespace {

template <class T>
auto part_of(const std::vector<T>& list, int begin, int end) {
    return std::span(list).subspan(static_cast<std::size_t>(begin), static_cast<std::size_t>(end - begin));
}

/// What a node passes on is the same: all that a node below reads of it.
bool same_flow(const NodeFlow& f, const LinkFlow& l, const NodeFlow& g, const LinkFlow& k) {
    return f.time == g.time && l.effective_area == k.effective_area && l.known_flow == k.known_flow &&
           l.flow == k.flow && same_number(l.travel, k.travel);
}

}  // namespace

bool same_topology(const Network& a, const Network& b) {
    return a.components == b.components && a.nodes.size() == b.nodes.size() && a.links.size() == b.links.size() &&
           std::equal(a.nodes.begin(), a.nodes.end(), b.nodes.begin(),
                      [](const Node& x, const Node& y) { return x.structure == y.structure && x.down == y.down; }) &&
           std::equal(a.links.begin(), a.links.end(), b.links.begin(), [](const Link& x, const Link& y) {
               return x.pipe == y.pipe && x.from == y.from && x.to == y.to;
           });
}
bool same_levels(const Network& a, const Network& b, const Component& part) {
    const auto x = part_of(a.nodes, part.node_begin, part.node_end),
               y = part_of(b.nodes, part.node_begin, part.node_end);
    for (std::size_t i = 0; i < x.size(); ++i)
        if (x[i].kind != y[i].kind || !same_number(x[i].rim, y[i].rim) || x[i].loss != y[i].loss ||
            x[i].tailwater != y[i].tailwater || !same_number(x[i].tailwater_level, y[i].tailwater_level) ||
            x[i].access_hole != y[i].access_hole || x[i].benching != y[i].benching)
            return false;
    const auto k = part_of(a.links, part.link_begin, part.link_end),
               l = part_of(b.links, part.link_begin, part.link_end);
    for (std::size_t i = 0; i < k.size(); ++i)
        if (!same_number(k[i].invert_up, l[i].invert_up) || !same_number(k[i].invert_down, l[i].invert_down) ||
            k[i].turn != l[i].turn || k[i].bend != l[i].bend)
            return false;
    return a.hold_at_rim == b.hold_at_rim && a.expansion == b.expansion && a.contraction == b.contraction &&
           a.ratings == b.ratings && a.tail_levels == b.tail_levels;
}
bool same_source(const Network& a, const Network& b, int node) {
    const Node &x = nth(a.nodes, node), &y = nth(b.nodes, node);
    if (x.known_flow != y.known_flow || x.local_time != y.local_time ||
        x.cover_end - x.cover_begin != y.cover_end - y.cover_begin)
        return false;
    for (int c = 0; c < x.cover_end - x.cover_begin; ++c)
        if (!(nth(a.covers, x.cover_begin + c) == nth(b.covers, y.cover_begin + c))) return false;
    return true;
}

bool same_way(const Network& a, const Network& b, int link) {
    const Link &k = nth(a.links, link), &l = nth(b.links, link);
    return k.solvable == l.solvable && k.section == l.section && k.roughness == l.roughness && k.barrels == l.barrels &&
           same_number(k.length, l.length) && same_number(k.slope, l.slope) && (k.capacity > 0) == (l.capacity > 0);
}

std::size_t update_flows(const Network& network, const Component& part, const EventRain& rain, const Network& old,
                         const Summaries& before, Summaries& out) {
    const auto place = [&](int node) { return static_cast<std::size_t>(node - part.node_begin); };
    std::vector<char> moved(place(part.node_end), 0);  // something that arrives is not what it was
    std::size_t computed = 0;
    for (int i = part.node_begin; i < part.node_end; ++i) nth(out.nodes, i).flow = {};
    for (int i = part.node_begin; i < part.node_end; ++i) {
        const Node& n = nth(network.nodes, i);
        NodeFlow& f = nth(out.nodes, i).flow;
        const NodeFlow& was = nth(before.nodes, i).flow;
        const bool entries = out.entries.size() == before.entries.size() &&
                             (out.entries.empty() || nth(out.entries, i) == nth(before.entries, i));
        const bool keeps = !nth(moved, place(i)) && entries && same_source(old, network, i);
        if (keeps) f = was;
        else {
            gather(network, i, rain, out);
            ++computed;
        }
        if (n.out == no_link) continue;
        LinkFlow& l = nth(out.links, n.out).flow;
        const LinkFlow& link_was = nth(before.links, n.out).flow;
        if (keeps && same_way(old, network, n.out)) l = link_was;
        else {
            l = {f.effective_area, f.known_flow, f.flow, 0, 0, 0, false};
            run_through(network, nth(network.links, n.out), l);
        }
        NodeFlow& d = nth(out.nodes, n.down).flow;
        d.effective_area += l.effective_area;
        d.known_flow += l.known_flow;
        // A branch that brings no rain sets no time.
        if (l.effective_area > 0) d.time = std::max(d.time, f.time + l.travel);
        d.flow = std::max(d.flow, l.flow);
        if (!same_flow(f, l, was, link_was)) nth(moved, place(n.down)) = 1;
    }
    return computed;
}

}  // namespace culvert
