// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/rational.h"

/// One catchment through one storm: what falls in each step, what of it is lost and what runs off, and its hydrograph.
///
///     rain = lost + runoff        in every step, as depths over the catchment
///     sum of flow x step + what is still on its way = sum of runoff x area
///
/// The same kernels as in a solve of the network (hydrograph.h), for the catchment alone; the series end when the flow
/// has fallen to a five-hundredth of its peak, but not before the rain does.
namespace culvert {

struct CatchmentSeries {
    double step = 60;                        ///< s
    std::vector<double> rain, lost, runoff;  ///< m in each step
    std::vector<double> flow;                ///< means of the steps, m3/s; as many as of the others
    double beyond = 0;                       ///< has not run off when the series end, m3
};
/// Empty where the network is not computed through time, or has no such catchment.
CatchmentSeries series_of_catchment(const Network& network, const EventRain& rain, CatchmentId catchment);

}  // namespace culvert
