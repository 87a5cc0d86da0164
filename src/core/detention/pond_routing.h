// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

#include "core/detention/pond_outflow.h"

/// Routing through a pond with all its ways out.
///
///     V2 - V1 = I dt - (O1 + O2)/2 dt
///
/// The inflow is the mean of each step, and so is what is given on: what leaves in a step is what came and was not
/// stored, so that water is kept to rounding whatever the step. Steps are parted where the outflow changes quickly, and
/// halved until the peak of the outflow changes by less than a two-thousandth. Where a part of a step would empty the
/// pond more than twice over (little storage, large outlet) the outflow at its end is taken for the whole of it, which
/// does not swing.
///
/// Pumps switch between parts of steps, by the level: from the start level on they run, until the stop level.
namespace culvert {

struct PondInput {
    const StageStorage* storage = nullptr;
    std::span<const WayOut> ways;
    double start_level = 0;
    double soakage = 0;              ///< m/s through the water's surface
    std::span<const double> inflow;  ///< means of the steps, m3/s
    double step = 60;                ///< s
    /// Levels of the water below the ways that have a target: at the ends of the steps, per way; empty: free.
    std::span<const std::vector<double>> below;
    std::span<const char> blocked;  ///< per way; empty: none
    double against = 0;  ///< a flow that the peak is held against: finer steps are left out where it is far from it
};
struct PondRoute {
    std::vector<double> level;                       ///< at the ends of the steps, m
    std::vector<double> outflow;                     ///< means of the steps by all ways, m3/s
    std::vector<double> ways;                        ///< the same by way: all steps of the first, of the second, ...
    double peak_outflow = 0, peak_outflow_time = 0;  ///< at an instant
    double peak_level = 0, peak_level_time = 0;
    double most_stored = 0;  ///< above what stood there before, m3
    double drawdown = -1;    ///< s from the highest level until a tenth of that is left; -1: not within the time
    double inflow_volume = 0, outflow_volume = 0, soaked = 0, stored = 0;  ///< m3; stored: more than at the beginning
    double above_curve = 0;  ///< m that the highest level stands above the top of the storage curve
    std::vector<double> way_peaks;
    std::size_t evaluations = 0;  ///< of all ways together at a level
};
PondRoute route_pond(const PondInput& pond);

/// Ratings of all ways at equally spaced levels, for tables and charts.
struct RatingRow {
    double level = 0, area = 0, volume = 0, outflow = 0;
    std::vector<OutletFlow> ways;
};
std::vector<RatingRow> rating_of(const StageStorage& storage, std::span<const WayOut> ways, double from, double to,
                                 int rows);

}  // namespace culvert
