// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stop_token>

#include "core/analysis/catchment_flow.h"
#include "core/detention/pond_routing.h"

/// Runoff through time over the network: storms, losses, hydrographs of catchments, their way through pipes and ponds.
///
/// All series are the means of equal steps, so that a volume is their sum times the step, exactly, at every place. The
/// storm falls from time 0 on; before it runs what always runs (known flows).
///
/// Storm:      a depth by its pattern; or made of intensities by duration, alternating blocks or an equation
/// Runoff:     what the losses of each ground leave of the rain (hydrology/losses.h)
/// Hydrograph: NRCS unit hydrograph with lag 0.6 Tc; or the modified rational method in the general form: the response
///             of a catchment is even over its Tc,  q(t) = C A / Tc (P(t) - P(t - Tc)), which makes the trapezoid of an
///             even storm; or a plane that empties by Manning's equation, dd/dt = r - w S^1/2 / (n A) d^(5/3)
/// Inlets:     of what comes along the curb at each moment the inlet captures what it takes of that flow
///             (capture_curve.h); the rest runs on along its street path, later by its way at the largest bypass
/// Spills:     an overflow of a pond along a street path is part of what comes to the inlet there, without delay
/// Pipes:      later by the travel time at the largest flow; or as a kinematic wave, V = L A(Q), over reaches that the
///             water passes in about a step
/// Ponds:      detention/pond_routing.h, with the level of the water that each way meets
///
/// The duration of the unit hydrograph is that of the method, D = 2/15 Tc (0.133), whatever the computing step: its
/// peak is neither cut off nor sharpened by it; the flow of a step is the mean over it.
///
/// Where the water below a way out can drown it, the level there is that of the steady grade line at the flow of that
/// time, or of the next pond at that time: both are found again with the flows that follow from them until no level
/// changes by a millimetre.
///
/// Rings: all of a structure's water takes its main way through time; the steady balance then divides the largest flow.
///
/// @source  USDA NRCS NEH 630 ch. 10, 16, 17; Chow, Maidment, Mays: Applied Hydrology (1988), ch. 5, 7 to 9
namespace culvert {

/// What is asked of a computation beside the summaries.
struct AskedSeries {
    std::vector<int> nodes;   ///< whose series are kept
    bool ends = false;        ///< those of ponds and outfalls as well
    bool only_these = false;  ///< compute no more than what runs to these nodes; summaries of others stay empty
    /// A result of this very network: what it keeps is not computed again for those nodes. Null: none.
    const EventResult* known = nullptr;
};
/// What is known from the run before, and what this one leaves for the next (flow_memory.h).
struct FlowUpdate {
    const EventResult* before = nullptr;  ///< the same event over an earlier state; null: everything is computed
    std::shared_ptr<const FlowMemory> left;
};
/// Flows of all nodes and links (largest flow, its time, volume) with runoffs, ponds and the water balance; and the
/// steady levels of ways that ponds run into. Levels of the network are found afterwards, from the largest flows.
///
/// @return  the series asked for. Keys: "rain" (m/s), "runoff" of the catchments at a node, "inflow" all that arrives,
///          "flow" what leaves; of ponds "level", "way N" of each way out, and "below N", the level
///          it meets where that can hold it back
std::vector<Series> solve_through_time(const Network& network, const EventRain& rain, Summaries& out,
                                       const AskedSeries& asked = {}, const std::stop_token& stop = {},
                                       FlowUpdate* update = nullptr);

}  // namespace culvert
