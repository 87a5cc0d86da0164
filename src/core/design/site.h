// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <stop_token>

#include "core/design/layout.h"
#include "core/terrain/drainage.h"

/// What the ground proposes: street paths for all inlets at once, catchments, targets.
namespace culvert {

/// The ground as these need it: levels, and the way of water over the upper surface (null: not known).
struct SiteGround {
    Ground ground;
    std::shared_ptr<const Drainage> drainage;
};

/// Vertical profile of a street: as entered, else the ground under its line. Empty where neither is known.
StreetProfile profile_of(const Street& street, const Ground& ground);

/// The way that the water of one inlet was found to take.
struct ProposedPath {
    StructureId from, to;  ///< no target: it leaves the site
    std::vector<Point> bends;
    enum class Way { Street, Ground, None } way = Way::None;
    std::string reason;  ///< "along Mill Street to the low point at 84 m"
};
struct StreetPathProposal {
    Edit edit;
    std::vector<ProposedPath> paths;  ///< of every inlet, in the order of their names
    std::size_t found = 0, leaving = 0, none = 0, kept = 0;
};
/// For every inlet: along the curb of its street, downhill, to the next inlet on the same side; else down the ground,
/// over the lips of depressions, to the first inlet within `reach` of the way. Never to an outfall (water on the street
/// does not enter a pipe's end), never round in a ring: of the paths that close one, that which rises is left out.
/// Paths that a person has drawn or corrected stay; earlier proposals are replaced.
StreetPathProposal propose_street_paths(const Project& project, const SiteGround& site, double reach = 4,
                                        const std::stop_token& stop = {});

/// Catchments of inlets that have none, from the ground: outline, area, the longest flow path. Water is let run on a
/// grid of cells; inlets that have a catchment keep their water too, so a new one never takes theirs.
struct CatchmentProposal {
    Edit edit;
    std::size_t made = 0;
    std::vector<std::string> remarks;
};
CatchmentProposal propose_catchments(const Project& project, const SiteGround& site,
                                     const std::vector<StructureId>& inlets, double cell,
                                     const std::stop_token& stop = {});

/// The structure that a catchment's water reaches: down the ground from its middle, else the nearest inlet to its
/// middle.
StructureId downhill_target(const Project& project, const SiteGround& site, const std::vector<Point>& outline);
StructureId nearest_inlet(const Project& project, Point at);
/// The longest way down the ground from the outline to the structure, from its head; empty where no way is found.
std::vector<Point> longest_flow_path(const SiteGround& site, const std::vector<Point>& outline, Point structure);

/// Faults of catchment outlines: one that crosses itself, two that overlap, gaps enclosed between them.
struct OutlineFault {
    enum class Form { CrossesItself, Overlap, Gap } form;
    std::uint64_t first = 0, second = 0;  ///< catchments
    double area = 0;
    std::vector<Point> place;  ///< outline of the overlap or the gap
};
std::vector<OutlineFault> outline_faults(const Project& project, double least_area = 0.5,
                                         const std::stop_token& stop = {});
/// Cuts a catchment along a line that enters and leaves it; the part on its left keeps the row. Entered areas are
/// shared by measured area. A land cover with an outline goes where it lies, cut where the line cuts it; the others
/// share what is left of each part. Empty where the line does not cut it in two.
Edit split_catchment(const Project& project, CatchmentId id, const std::vector<Point>& line,
                     std::string* why_not = nullptr);
/// One catchment of several that touch: the first keeps its row, entered areas are summed, C, curve number and paved
/// share are weighted by area (where one has land covers the others become covers of it), the longest time stays. Empty
/// where their outlines make more than one piece.
Edit merge_catchments(const Project& project, const std::vector<CatchmentId>& ids, std::string* why_not = nullptr);

}  // namespace culvert
