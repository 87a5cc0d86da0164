// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stop_token>

#include "core/analysis/hydrograph.h"
#include "core/analysis/solver.h"
#include "core/model/edit.h"

/// Storage as a design: the volume that an allowed release asks for, outlets sized for several events at once, and the
/// site before against after.
namespace culvert {

/// Hydrographs at one structure in one event.
struct SiteHydrographs {
    EventId event;
    double step = 60;
    std::vector<Series> series;  ///< "rain", "runoff", "inflow", "flow", of a pond "level" and "way N"
    PondSummary pond;            ///< where there is one
    NodeFlow flow;
    double allowed = not_given;
    [[nodiscard]] const Series* of(std::string_view key) const;
};
/// Series of one structure in all events, each computed no further than what runs there. Empty without hydrographs.
/// @param known  results of the project as it stands: what they keep is not computed again
std::vector<SiteHydrographs> hydrographs_at(const Project& project, StructureId structure,
                                            const std::stop_token& stop = {}, const Results& known = {});

/// A pond in one event with every way out blocked that is not an overflow.
struct BlockedPond {
    EventId event;
    double level = not_given, freeboard = not_given, outflow = not_given;
    bool above_curve = false;
};
/// Whether the overflow alone carries each event. Empty without a pond.
std::vector<BlockedPond> with_outlets_blocked(const Project& project, StructureId structure,
                                              const std::stop_token& stop = {});

/// What must be stored so that no more than the allowed flow leaves, by the area between.
struct RequiredVolume {
    EventId event;
    double allowed = not_given, flat = not_given, rising = not_given;  ///< m3/s, m3 by either line
    double asked = not_given;                                          ///< the one of them that the project takes
    double provided = not_given;                                       ///< most that the pond stored, m3
};
std::vector<RequiredVolume> required_volumes(const std::vector<SiteHydrographs>& hydrographs,
                                             ReleaseCut cut = ReleaseCut::Flat);

/// Storage by the modified rational method for the storm that asks for most: over all lengths d from Tc to a day
///
///     V(d) = C A i(d) d - Qa (d + Tc) / 2
///
/// with the release rising straight to the allowed flow. Known flows count with the storm.
struct CriticalStorm {
    EventId event;
    double allowed = not_given, duration = not_given, flow = not_given, volume = not_given;  ///< m3/s, s, m3/s, m3
};
/// @return  every event with an allowed release at the structure; volume 0 where nothing need be stored
std::vector<CriticalStorm> critical_storms(const Project& project, StructureId structure);

/// Rounding of what is built.
struct PracticalSizes {
    double opening_step = 0.005, least_opening = 0.05, crest_step = 0.05, level_step = 0.01;  ///< m
};
struct SizedOutlet {
    std::uint64_t outlet = 0;
    EventId event;  ///< whose release it is sized for
    double level_before = not_given, level_after = not_given;
    double size_before = not_given, size_after = not_given;  ///< the opening's, or the crest's length
    bool is_crest = false;
    std::string why;  ///< what stopped it; empty: it meets the release
};
struct ReleaseProof {
    EventId event;
    double allowed = not_given, before = not_given, after = not_given;
    double level_before = not_given, level_after = not_given, freeboard_after = not_given;
};
struct OutletProposal {
    std::vector<SizedOutlet> outlets;
    std::vector<ReleaseProof> proof;  ///< by routing the whole network with the proposal
    bool meets = false;
    std::string why;  ///< why there is no proposal
    Edit edit;
    std::size_t routings = 0;
};
/// Sizes the outlets of a pond from the lowest up, each for one event from the commonest up: its opening (or the length
/// of its crest) is the largest practical one with which no more leaves than is allowed. An outlet above the first
/// starts where the water stands at its highest in the event before, so that it does not run in that.
///
/// Openings keep their shape: a box keeps its width. Where there are more events than outlets the last one is sized
/// for the one that asks for the smallest; where there are more outlets, the others stay. Overflows, pipes, culverts,
/// pumps and ratings stay as they are.
OutletProposal size_outlets(const Project& project, StructureId structure, const PracticalSizes& sizes = {},
                            const std::stop_token& stop = {});

/// Storage for a structure, with sensible sizes: its bottom a little below the lowest pipe, its crest at the rim; and
/// two ways out, an opening at the bottom and an overflow, where nothing leads on.
/// @param outline  of its bottom; empty: a rectangle
Edit give_storage(const Project& project, StructureId structure, const std::vector<Point>& outline = {});
/// An outlet of a kind with sensible sizes above those that are there, leading where they lead.
PondOutlet new_outlet(const Project& project, StructureId structure, OutletKind kind);

/// One structure of two states of a site in one event.
struct BeforeAfter {
    StructureId before, after;
    std::string name, event;
    double before_peak = not_given, after_peak = not_given, allowed = not_given;  ///< m3/s
    double before_volume = not_given, after_volume = not_given;                   ///< m3
    double before_time = not_given, after_time = not_given;                       ///< s
    bool exceeds = false;  ///< more than is allowed; where nothing is given, more than before
};
/// All outfalls and ways off the site that both states have, by name, in the events that both have, by name.
/// @param unmatched  names of events and outfalls that only one of them has
std::vector<BeforeAfter> before_and_after(const Project& before, const Project& after,
                                          std::vector<std::string>* unmatched = nullptr,
                                          const std::stop_token& stop = {});
/// What left at a structure before, as allowed releases of the project for every event.
/// @param round_down  to a multiple of this, m3/s; 0: as it is
Edit releases_from(const Project& before, const Project& project, StructureId structure, double round_down,
                   const std::string& source);

}  // namespace culvert
