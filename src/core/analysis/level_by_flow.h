// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/analysis/results.h"

namespace culvert {

/// Steady levels at a node by the flow there, all flows on its way to the outfall standing in the same proportion to
/// their largest: what a way out of a pond meets at each time (hydrograph.h).
class LevelByFlow {
  public:
    /// @param found  flows whose largest are known, ponds with their highest levels, tails
    LevelByFlow(const Network& network, const Summaries& found) : net_(network), found_(found), scaled_(found) {}
    /// @param flows  through the node, m3/s
    /// @return       a level for each; empty where the node has no steady level
    std::vector<double> at(int node, const std::vector<double>& flows);

  private:
    double level_of(int node, const std::vector<int>& path, double share);
    const Network& net_;
    const Summaries& found_;
    Summaries scaled_;  ///< as found, but for the path of the node that is asked for
};

}  // namespace culvert
