// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/design/site.h"
#include "core/model/edit.h"
#include "core/streets/spacing.h"

/// Inlets along a street of the project, as one Edit: structures at their stations, the street paths of what they let
/// pass, and the strips of ground that drain to them.
namespace culvert {

struct InletProposal {
    Edit edit;
    std::array<Spacing, 2> sides;  ///< left, right, looking up the stations
    std::array<bool, 2> stood{};   ///< a side that has inlets already: it is left alone
    int placed = 0;
    std::string type;                  ///< of the inlets
    std::string fault;                 ///< why there is nothing
    std::vector<std::string> remarks;  ///< what could not be held
};
/// The task of one side in an event: the street's profile, section, drained strip, the rain at the least time, the
/// allowed spread, the type that new inlets take. `fault` says what is missing.
SpacingTask spacing_task(const Project& project, const SiteGround& site, const Street& street, EventId event,
                         std::string* type, std::string* fault);
InletProposal propose_inlets(const Project& project, const SiteGround& site, StreetId street, EventId event);

/// Inlets that stand along a street, judged by what was solved: the spread at each, and which are not needed, that is,
/// whose water may run on without making any spread worse than allowed. The Edit makes a manhole of one of those, the
/// one that takes least, and leads what came to it along its street path; with it gone others may be needed.
struct InletJudgement {
    Edit edit;
    std::vector<std::string> words;  ///< per inlet: "B3: spread 1.8 m, within; not needed"
    std::string fault;
};
InletJudgement judge_street(const Project& project, const SiteGround& site, StreetId street, EventId event);

/// An inlet that moves along its street takes with it the ends of the strips that were laid out by its station: its own
/// ends there, and that of the next one begins there. Strips that a person has drawn or changed stay.
/// @param was      the structure as it stood
/// @param station  where it goes, m
void follow_strips(Editing& editing, const Project& project, const Structure& was, double station);

}  // namespace culvert
