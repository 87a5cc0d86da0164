// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/run_length.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

constexpr double day = 86400;
constexpr std::size_t most_steps = 200'000;

double longest_travel(const Network& network) {
    double travel = 0;
    std::vector<double> longest(network.nodes.size(), 0);
    for (const int i : network.through_time->order) {
        const Node& n = nth(network.nodes, i);
        if (n.out == no_link) continue;
        const Link& l = nth(network.links, n.out);
        const double v = l.solvable && l.capacity > 0 ? l.capacity / l.barrels / full_area(l.section) : 1;
        double& below = nth(longest, n.down);
        below = std::max(below, nth(longest, i) + (l.solvable ? l.length / std::clamp(v, 0.3, 10.0) : 0));
        travel = std::max(travel, below);
    }
    return travel;
}

}  // namespace

std::size_t run_length(const Network& network, std::size_t storm_steps) {
    const ThroughTime& time = *network.through_time;
    double after = time.after_rain;
    if (std::isnan(after)) {
        after = 0;
        for (const RunoffArea& a : time.areas) after = std::max(after, 4 * a.time);
        after = std::ceil((after + 2 * longest_travel(network) + 10 * time.step) / 3600) * 3600;
        if (!time.ponds.empty()) after = std::max(after, 2 * day);
    }
    const std::size_t steps = storm_steps + static_cast<std::size_t>(std::ceil(after / time.step));
    return std::clamp<std::size_t>(steps, 1, most_steps);
}

}  // namespace culvert
