// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stop_token>

#include "core/analysis/solver.h"
#include "core/model/edit.h"
#include "core/review/review.h"

/// Proposes Edits, and tries each over the whole network and all events before it is shown.
namespace culvert {

struct SizeRow {
    PipeId pipe;
    double before, after;   ///< size, m
    double flow, capacity;  ///< design flow and full-flow capacity with the size after, m3/s
    double velocity;
    bool locked;
    std::string reason;  ///< what decided: "carries 264 l/s", "not smaller than A2–A3", "largest size is not enough"
};
struct SizeProposal {
    Edit edit;
    std::vector<SizeRow> rows;      ///< every pipe, upstream first
    std::vector<Finding> findings;  ///< of the design event after a full solve with the edit
    int beyond_before = 0, beyond_after = 0;
};

/// Smallest size from the catalogue (same material and shape) that carries the event's design flow within the limits on
/// flow ratio, filled depth and size, and is not smaller than a pipe that enters. Locked pipes are checked only.
/// Since sizes change travel times and so flows, the proposal is repeated until it stands (at most 8 times).
SizeProposal propose_sizes(const Project& project, EventId event);

/// The outcome of an Edit, solved whole.
struct Trial {
    int gone = 0;   ///< findings beyond their limit that are gone, in events no rarer than the one looked at
    int added = 0;  ///< new ones, over all events
    Results results;
    std::vector<FindingKey> keys;  ///< of what is beyond its limit with the edit
};
/// Findings beyond their limits over all events, as keys, sorted.
using FindingKeys = std::vector<FindingKey>;
FindingKeys beyond_keys(const Project& project, const Results& results);
/// @param upto  the event looked at: what a larger pipe would cure in rarer ones does not speak for it; none: all
/// events
/// @param results  of the project as it stands: only what the Edit touches is solved anew
Trial try_edit(const Project& project, const Results& results, const Edit& edit, const FindingKeys& before,
               EventId upto = {}, const std::stop_token& stop = {});

struct Remedy {
    Edit edit;         ///< empty: a word about what no change here can do
    std::string text;  ///< "525 mm on A5–A6"
    int gone = 0, added = 0;
    bool mends = false;  ///< the finding itself is gone
    double cost = 0;     ///< pipe length times what is added of size, m2: an order of merit, not a price
};
/// Remedies of a finding, tried over the whole network and all events, best first: mending ones, then fewest findings
/// new, most gone, least cost; last what is to be said where nothing here helps (relief.h). Empty where none helps, or
/// when stopped.
std::vector<Remedy> remedies(const Project& project, const Results& results, const Finding& finding,
                             const std::stop_token& stop = {});

/// What each size near the present one would do to a pipe: HGL relative to the crown at its upper end.
struct LadderStep {
    const PipeSize* size;  ///< of the project given
    bool present;
    double hgl_to_crown;  ///< m, positive above; NaN where not known
    double flow_ratio;
};
/// @param results  of the project as it stands, or empty; empty answer when stopped
std::vector<LadderStep> size_ladder(const Project& project, const Results& results, PipeId pipe, EventId event,
                                    const std::stop_token& stop = {}, int below = 1, int above = 3);

/// Sets a pipe to a size of the catalogue, with its n and wall, as one Edit. Its inverts stay.
Edit with_size(const Project& project, PipeId pipe, const PipeSize& size);
/// The next larger (step > 0) or smaller size; an empty Edit where there is none.
Edit step_size(const Project& project, PipeId pipe, int step);

}  // namespace culvert
