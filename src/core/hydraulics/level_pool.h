// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <span>
#include <vector>

#include "core/hydraulics/stage_storage.h"

/// Routing through stored water whose surface stays level.
///
///     dV/dt = I(t) - O(h, t)
///
/// by the trapezoidal rule, (V2 - V1)/dt = (I1 + I2)/2 - (O1 + O2)/2, solved for the level to a tenth of a micrometre;
/// so water is kept to rounding. The step is halved until the peak of the outflow changes by less than a two-thousandth
/// of it, twice in a row. The inflow runs straight between its values.
///
/// @source  Chow, Maidment, Mays: Applied Hydrology (1988), sec. 8.2
namespace culvert {

/// Outflow at a level and a time, m3/s: not negative, and not falling as the level rises.
using Outflow = std::function<double(double level, double time)>;

struct PoolRouting {
    std::vector<double> level, outflow;  ///< at the ends of the inflow's steps
    double peak_inflow = 0, peak_outflow = 0, peak_level = 0;
    double peak_inflow_time = 0, peak_outflow_time = 0;        ///< s
    double inflow_volume = 0, outflow_volume = 0, stored = 0;  ///< m3; stored: more at the end than at the beginning
    double drawn_down =
        -1;            ///< s, when a tenth of the most that was stored is left after the peak; -1: not within the time
    int substeps = 1;  ///< of each step of the inflow
    double above_curve = 0;  ///< m that the highest level stands above the top of the storage curve
};
/// @param inflow  at the ends of the steps, m3/s; before the first it is `inflow_before`
/// @param level   at the beginning, m
PoolRouting route_pool(const StageStorage& storage, const Outflow& outflow, std::span<const double> inflow, double step,
                       double level, double inflow_before = 0);

}  // namespace culvert
