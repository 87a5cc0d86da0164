// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/level_by_flow.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/grade_line.h"
#include "core/analysis/rational.h"
#include "core/base/contract.h"
#include "core/network/through_time.h"

namespace culvert {

double LevelByFlow::level_of(int node, const std::vector<int>& path, double share) {
    for (const int i : path)
        if (const int l = nth(net_.nodes, i).out; l != no_link) {
            LinkFlow& f = nth(scaled_.links, l).flow;
            f.flow = share * nth(found_.links, l).flow.flow;
            run_through(net_, nth(net_.links, l), f);
        }
    for (std::size_t k = path.size(); k-- > 0;) {
        const Node& n = nth(net_.nodes, path[k]);
        NodeLevel& level = nth(scaled_.nodes, path[k]).level;
        level = {};
        if (n.out == no_link) {
            const Tail tail = scaled_.tail_of(path[k]);
            level.level = level.energy = tail.stands() ? tail.level : not_given;
            if (const int p = nth(net_.through_time->pond_of, path[k]); p >= 0)
                level.level = level.energy = nth(found_.ponds, p).level;
            continue;
        }
        const Link& l = nth(net_.links, n.out);
        LinkResult& link = nth(scaled_.links, n.out);
        const NodeLevel& below = nth(scaled_.nodes, n.down).level;
        const PipeInput in = input_of(net_, l, link.flow, below, scaled_);
        if (!l.solvable || (in.end != PipeInput::End::Outfall && std::isnan(below.energy))) continue;
        solve_pipe(in, level, link.level);
    }
    return nth(scaled_.nodes, node).level.level;
}

std::vector<double> LevelByFlow::at(int node, const std::vector<double>& flows) {
    constexpr double shares[] = {0, 0.05, 0.15, 0.3, 0.5, 0.75, 1};
    std::vector<int> path;
    for (int i = node; i != no_node; i = nth(net_.nodes, i).down) path.push_back(i);
    double levels[std::size(shares)];
    for (std::size_t k = 0; k < std::size(shares); ++k) levels[k] = level_of(node, path, shares[k]);
    for (const int i : path) {
        nth(scaled_.nodes, i) = nth(found_.nodes, i);
        if (const int l = nth(net_.nodes, i).out; l != no_link) nth(scaled_.links, l) = nth(found_.links, l);
    }
    const double most = nth(found_.nodes, node).flow.flow;
    if (std::isnan(levels[std::size(shares) - 1]) || !(most > 0)) return {};
    std::vector<double> out(flows.size(), not_given);
    for (std::size_t i = 0; i < flows.size(); ++i) {
        const double s = std::clamp(flows[i] / most, 0.0, 1.0);
        std::size_t k = 1;
        while (k + 1 < std::size(shares) && shares[k] < s) ++k;
        out[i] = levels[k - 1] + (levels[k] - levels[k - 1]) * (s - shares[k - 1]) / (shares[k] - shares[k - 1]);
    }
    return out;
}

}  // namespace culvert
