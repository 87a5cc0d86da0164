// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stop_token>

#include "core/model/edit.h"
#include "core/review/review.h"

/// A design that passes: sizes, slopes and levels of all pipes together, or what prevents it.
///
/// Levels are laid from the heads down, each as high as it may lie:
///
///     start of a pipe   at most  rim - cover - wall - height, and what matching allows below each pipe that enters
///     its end           at most  rim - cover - wall - height, and  start - Sleast L
///     its start again   at most  end + Smost L                     (a drop at its head where the ground is steeper)
///
/// with Sleast and Smost from the limits on slope, capacity, filled depth and velocity (pipe_fit.h). That is the design
/// with the least excavation for its sizes: whatever is laid higher breaks a limit. Of the sizes the smallest is taken
/// that needs no steeper slope than the ground gives, else the one that needs the least slope. Since times change with
/// velocities, flows and design are repeated until they agree. Then the grade lines are solved: where water stands
/// above its limit, what raises it most downstream is enlarged, until it does not.
///
/// So much is the plain design. Beside it the sizes that cost least together are sought (least_cost.h), for the flows
/// of the design as it stands, and the whole repeated with them; of the two, the one that passes, then the cheaper, is
/// proposed.
///
/// What is locked stays: a size or slope that is locked, an end that is pinned (typed, imported, from the ground or a
/// catalogue; one that follows or was proposed is free). Existing and abandoned pipes are locked whole.
namespace culvert {

struct DesignRow {
    PipeId pipe;
    double size_before = 0, size_after = 0;
    double up_before = 0, up_after = 0, down_before = 0, down_after = 0;  ///< inverts, downstream of the water
    double slope_before = 0, slope_after = 0;
    double flow = 0;                             ///< design flow after, m3/s
    double volume_before = 0, volume_after = 0;  ///< excavation, m3
    double cost_before = 0, cost_after = 0;      ///< excavation and pipe, in the project's prices
    std::string reason;                          ///< what decided
    [[nodiscard]] bool changed() const;
};
/// A limit that cannot be kept with the others.
struct DesignBlock {
    LimitKind kind = LimitKind::MostVelocity;
    ElementRef element;  ///< where
    double limit = 0;
    double nearest = not_given;  ///< what the design reaches without it: the nearest value that can be kept
    bool alone = false;          ///< without it alone the design passes (tried)
};
struct DesignProposal {
    Edit edit;
    std::vector<DesignRow> rows;    ///< every pipe, upstream first
    std::vector<Finding> findings;  ///< of the design event with the edit, solved whole
    int beyond_before = 0, beyond_after = 0;
    int others_before = 0, others_after = 0;  ///< in the other events
    bool passes = false;                      ///< nothing of pipes and levels is beyond its limit in the design event
    std::vector<DesignBlock> blocks;          ///< where it does not: why
    std::vector<std::string> notes;
    double cost_before = 0, cost_after = 0;
    double cost_plain =
        not_given;  ///< with the smallest sizes that need no steeper slope than the ground; NaN: not tried
    int rounds = 0;
};
struct DesignOptions {
    bool sizes = true, levels = true;  ///< what may change
    bool least_cost = true;            ///< seek the sizes that cost least together, and take them where they cost less
    bool explain_blocks = true;        ///< try which limit prevents a design that passes
    std::vector<LimitKind> without;    ///< limits that are not held
};
DesignProposal propose_design(const Project& project, EventId event, const DesignOptions& options = {},
                              const std::stop_token& stop = {});

/// What prevents a design, in sentences: "most velocity 3.00 m/s cannot be kept with the others: at A3–A4 3.41 m/s
/// ...".
std::vector<std::string> block_words(const Project& project, const DesignProposal& proposal);

}  // namespace culvert
