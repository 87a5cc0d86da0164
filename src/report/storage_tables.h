// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/catchment_series.h"
#include "core/analysis/solver.h"
#include "core/design/storage_study.h"
#include "core/network/through_time.h"
#include "report/tables.h"

/// Storage as tables: for terminals, files, the clipboard and reports.
namespace culvert {

/// One structure's hydrographs of one event, at the output interval: means over it; levels at its end.
TextTable hydrograph_table(const Project& project, const SiteHydrographs& hydrographs);
/// Every catchment in one event: rain, losses, runoff, largest flow and its time.
TextTable catchment_table(const Project& project, const EventResult& result);
/// One catchment through one storm: rain, what is lost and what runs off, its flow; means over the output interval.
TextTable catchment_series_table(const Project& project, const CatchmentSeries& series);
/// Every pond in every event.
TextTable pond_table(const Project& project, const Results& results);
/// A pond's space and the flow of each of its ways out, by level; none where it has no pond.
TextTable rating_table(const Project& project, StructureId structure, int rows = 25);
/// Storage that the allowed releases ask for.
TextTable volume_table(const Project& project, const std::vector<RequiredVolume>& volumes,
                       const std::vector<CriticalStorm>& storms = {});
TextTable outlet_table(const Project& project, const OutletProposal& proposal);
TextTable blocked_table(const Project& project, const std::vector<BlockedPond>& rows);
TextTable proof_table(const Project& project, const OutletProposal& proposal);
TextTable before_after_table(const Project& after, const std::vector<BeforeAfter>& rows);
/// All of one pond as text for a reviewer: what is allowed against what leaves, storage asked for, the overflow alone,
/// the rating by level, the routing of each event, and the working of each release. Empty where there is no pond.
std::string storage_report(const Project& project, StructureId structure);
/// Comma-separated, quoted where needed, a row of heads with units first.
std::string comma_separated(const TextTable& table);
/// Name of an outlet, or of the pipe that leaves a pond.
std::string way_name(const Project& project, const PondNode& pond, std::size_t way);

/// All ways into and out of a structure in an event: pipes, street paths, outlets, with what runs by each.
TextTable way_table(const Project& project, const EventResult& result, StructureId structure);
/// Structures whose water comes to one, or that its water reaches, in the order of their names.
TextTable reach_table(const Project& project, const Network& network, StructureId structure, bool above);

}  // namespace culvert
