// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/network/ways.h"
#include "core/network/through_time.h"

#include <algorithm>

#include "core/base/contract.h"

namespace culvert {
namespace {

template <class Next>
std::vector<int> reached(int from, std::size_t nodes, Next next) {
    std::vector<char> seen(nodes, 0);
    std::vector<int> stack{from}, found;
    nth(seen, from) = 1;
    while (!stack.empty()) {
        const int i = stack.back();
        stack.pop_back();
        found.push_back(i);
        next(i, [&](int to) {
            if (to == no_node || nth(seen, to)) return;
            nth(seen, to) = 1;
            stack.push_back(to);
        });
    }
    std::sort(found.begin(), found.end());
    return found;
}

/// All ways, kind by kind.
template <class Take>
void each_way(const Network& network, Take take) {
    for (std::size_t l = 0; l < network.links.size(); ++l)
        take(Way{network.links[l].from, network.links[l].to, PipeWay{static_cast<int>(l)}});
    for (std::size_t s = 0; s < network.inlets.size(); ++s) {
        const StreetInlet& in = network.inlets[s];
        if (in.end == PathEnd::Nowhere || !network.limited) continue;
        take(Way{in.node, in.end == PathEnd::OffSite ? no_node : in.to, StreetWay{static_cast<int>(s)}});
    }
    if (!network.through_time) return;
    for (std::size_t p = 0; p < network.through_time->ponds.size(); ++p) {
        const PondNode& pond = network.through_time->ponds[p];
        for (std::size_t w = 0; w < pond.ways.size(); ++w)
            if (pond.pipes[w] < 0 && pond.ways[w].behind < 0)
                take(Way{pond.node, pond.ways[w].target < 0 ? no_node : pond.ways[w].target,
                         OutletWay{static_cast<int>(p), static_cast<int>(w)}});
    }
}

}  // namespace

Ways::Ways(const Network& network) {
    each_way(network, [this](const Way& w) { ways_.push_back(w); });
    std::stable_sort(ways_.begin(), ways_.end(), [](const Way& a, const Way& b) { return a.from < b.from; });
    const std::size_t n = network.nodes.size();
    begin_.assign(n + 1, 0);
    into_begin_.assign(n + 1, 0);
    for (const Way& w : ways_) {
        ++begin_[static_cast<std::size_t>(w.from) + 1];
        if (w.to != no_node) ++into_begin_[static_cast<std::size_t>(w.to) + 1];
    }
    for (std::size_t i = 0; i < n; ++i) begin_[i + 1] += begin_[i], into_begin_[i + 1] += into_begin_[i];
    into_.resize(static_cast<std::size_t>(into_begin_[n]));
    std::vector<int> at(into_begin_.begin(), into_begin_.end() - 1);
    for (std::size_t k = 0; k < ways_.size(); ++k)
        if (ways_[k].to != no_node) nth(into_, nth(at, ways_[k].to)++) = static_cast<int>(k);
}

std::span<const Way> Ways::from(int node) const& {
    return std::span(ways_).subspan(static_cast<std::size_t>(nth(begin_, node)),
                                    static_cast<std::size_t>(nth(begin_, node + 1) - nth(begin_, node)));
}
std::span<const int> Ways::into(int node) const {
    return std::span(into_).subspan(static_cast<std::size_t>(nth(into_begin_, node)),
                                    static_cast<std::size_t>(nth(into_begin_, node + 1) - nth(into_begin_, node)));
}

std::vector<int> Ways::above(int node) const {
    return reached(node, begin_.size() - 1, [this](int i, auto take) {
        for (const int k : into(i)) take(nth(ways_, k).from);
    });
}
std::vector<int> Ways::below(int node) const {
    return reached(node, begin_.size() - 1, [this](int i, auto take) {
        for (const Way& w : from(i)) take(w.to);
    });
}

bool runs_over_street(const Network& network, const Way& way) {
    if (const auto* outlet = std::get_if<OutletWay>(&way.by))
        return nth(nth(network.through_time->ponds, outlet->pond).ways, outlet->way).over_street;
    return std::holds_alternative<StreetWay>(way.by);
}

std::vector<Way> ways_into(const Network& network, int node) {
    std::vector<Way> list;
    each_way(network, [&](const Way& w) {
        if (w.to == node) list.push_back(w);
    });
    return list;
}
std::vector<Way> ways_out_of(const Network& network, int node) {
    std::vector<Way> list;
    each_way(network, [&](const Way& w) {
        if (w.from == node) list.push_back(w);
    });
    return list;
}

std::string way_name(const Project& project, const Network& network, const Way& way) {
    const auto place = [&](int node) {
        return element_name(project, Kind::Structure, nth(network.nodes, node).structure.value);
    };
    if (const auto* pipe = std::get_if<PipeWay>(&way.by))
        return "pipe " + element_name(project, Kind::Pipe, nth(network.links, pipe->link).pipe.value);
    if (const auto* outlet = std::get_if<OutletWay>(&way.by)) {
        const PondNode& pond = nth(network.through_time->ponds, outlet->pond);
        return "outlet " + element_name(project, Kind::PondOutlet, nth(pond.ways, outlet->way).row) +
               (runs_over_street(network, way) ? ", over the street" : "");
    }
    return way.to == no_node ? "street, off the site" : "street path to " + place(way.to);
}

}  // namespace culvert
