// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/results.h"

#include "core/base/contract.h"

#include <algorithm>

namespace culvert {

Tail Summaries::tail_of(int node) const {
    const auto at = std::lower_bound(tails.begin(), tails.end(), node, [](const Tail& t, int n) { return t.node < n; });
    return at != tails.end() && at->node == node ? *at : Tail{node, Tailwater::Free, not_given};
}

int EventResult::way_on(int node) const {
    const Node& n = nth(network->nodes, node);
    const Component& part = nth(network->components, n.component);
    int best = n.out;
    if (part.further == 0) return best;
    double most = best == no_link || nth(links, best).flow.against ? 0 : nth(links, best).flow.flow;
    for (int l = part.link_begin; l < part.link_end; ++l) {
        const Link& link = nth(network->links, l);
        const LinkFlow& f = nth(links, l).flow;
        if ((f.against ? link.to : link.from) == node && f.flow > most) {
            most = f.flow;
            best = l;
        }
    }
    return best;
}

std::string_view source_name(ResultSource source) {
    constexpr std::string_view names[] = {"steady", "through time", "imported", "observed"};
    return nth(names, source);
}

const Series* EventResult::series_of(ElementRef element, std::string_view key) const {
    for (const Series& s : series)
        if (s.element == element && s.key == key) return &s;
    return nullptr;
}

}  // namespace culvert
