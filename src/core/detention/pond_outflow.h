// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <span>
#include <vector>

#include "core/detention/culvert.h"
#include "core/hydraulics/outlet.h"
#include "core/hydraulics/stage_storage.h"

/// All ways out of one pond together, at one level.
///
/// Ways out beside each other add up. One behind another takes all that the openings before it let in: the water
/// between them stands at the level w at which
///
///     sum of the openings (h -> w)  =  the way out behind them (w -> the water below)
///
/// so the smaller governs, and openings are drowned where it does. A pump runs from its start level down to its stop
/// level: whether it runs is state, and is carried by the caller.
/// Water also soaks into the ground through the wetted area; that runs to no other place.
namespace culvert {

/// One way out.
struct WayOut {
    std::variant<Outlet, std::shared_ptr<const CulvertRating>> how = Outlet{CircularOrifice{}};
    double count = 1;  ///< alike; times the share that is not clogged
    int behind = -1;   ///< the way, among those of the pond, through which its water then runs
    int target = -1;   ///< whose water level it meets, by the caller's number; -1: free
    bool pump = false;
    double start = 0, stop = 0, pump_flow = 0;
    bool overflow = false;
    bool over_street = false;  ///< runs on along a street path: what comes to the inlet there, not into its pipe
    std::uint64_t row = 0;     ///< outlet or pipe it stands for
};
/// At a level, with the water below each way.
/// @param below    per way; NaN: free
/// @param running  per way: whether a pump runs; ignored for others
/// @param out      per way: what leaves by it; one behind others: all that leaves by it
/// @return         what leaves the pond by all ways
double pond_outflow(std::span<const WayOut> ways, double level, std::span<const double> below,
                    std::span<const char> running, std::span<OutletFlow> out);
/// Lowest level at which any way runs; infinite where there is none.
double lowest_way(std::span<const WayOut> ways);
/// Switches pumps by a level.
void switch_pumps(std::span<const WayOut> ways, double level, std::span<char> running);

}  // namespace culvert
