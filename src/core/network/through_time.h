// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <vector>

#include "core/detention/pond_outflow.h"
#include "core/hydrology/losses.h"
#include "core/network/network.h"

/// What hydrographs need beside the network: the ground that rain falls on, the ponds with their ways out, and the
/// settings of computing through time. Compiled once, beside the nodes; core/analysis/hydrograph.h reads it.
namespace culvert {

/// Ground of one kind within a catchment.
struct GroundPart {
    double area = 0;  ///< m2
    LossModel loss = CurveNumberLoss{};
    friend bool operator==(const GroundPart&, const GroundPart&) = default;
};
/// A catchment.
struct RunoffArea {
    CatchmentId catchment;
    int node = -1;
    double area = 0;                               ///< m2; that of its parts together
    double time = 0;                               ///< of concentration, least time applied, s
    TransformBy by = TransformBy::UnitHydrograph;  ///< never Project
    double peak_factor = nrcs_peak_factor;
    double effective_area = 0;  ///< sum of C A, of the modified rational method; frequency factor not yet applied
    double plane_width = 0, plane_slope = 0, plane_roughness = 0;
    std::vector<GroundPart> parts;
    friend bool operator==(const RunoffArea&, const RunoffArea&) = default;
};
/// Water kept at a node.
struct PondNode {
    std::uint64_t row = 0;
    int node = -1;
    StageStorage storage;
    double start_level = 0, crest = not_given, soakage = 0;
    std::vector<WayOut>
        ways;                ///< the pipes that leave it as culverts first, then its outlets; `target` is a node or -1
    std::vector<int> pipes;  ///< per way: the link it stands for, or -1
};

struct ThroughTime {
    std::vector<RunoffArea> areas;                            ///< by node
    std::vector<int> area_begin;                              ///< per node, and one more: its areas
    std::vector<std::pair<std::uint64_t, int>> by_catchment;  ///< sorted: where in `areas`
    std::vector<PondNode> ponds;                              ///< by node
    std::vector<int> pond_of;                                 ///< per node; -1: none
    /// Nodes in an order in which water runs: pipes and ways out of ponds lead on only.
    std::vector<int> order;
    /// Streets and pipes in one order: an inlet by its number in Network::inlets, then the water on the street before
    /// it is told; or a node, as -1 - its number, then all that runs by pipes and ponds is.
    std::vector<int> turns;
    std::vector<char> after_spill;  ///< per inlet: a pond's spill comes to it, over however many inlets
    double step = 60, output_interval = 300, after_rain = not_given, storm_length = not_given, storm_peak = 0.4;
    TravelBy travel_by = TravelBy::Lag;
    StormBy storm_by = StormBy::AlternatingBlocks;
    ReleaseCut cut = ReleaseCut::Flat;
    double least_freeboard = 0.3, most_drawdown = 72 * 3600.0;
};

/// Fills what is computed through time, and the faults of ponds and outlets. Without hydrographs only the faults.
void place_storage(const Project& project, Network& network);
/// In which order its water runs, on streets too; what would lead back is cut, and said among the faults.
void order_water(const Project& project, Network& network, ThroughTime& time);
/// Losses of ground by a row, then its catchment, then the project.
LossModel loss_of(const Settings& settings, const Catchment& catchment, const LandCover* cover);
/// Space of a pond by level; empty where it is at fault, with the reason in words.
StageStorage storage_of(const Pond& pond, std::string* fault = nullptr);
/// A way out as kernels take it; none where it is at fault.
std::optional<WayOut> way_of(const PondOutlet& outlet, double highest, std::string* fault = nullptr);
/// The usual coefficient of a kind with its source, for words; NaN where the kind has none.
double usual_coefficient(OutletKind kind);
std::string_view coefficient_source(OutletKind kind);

}  // namespace culvert
