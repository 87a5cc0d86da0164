// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <map>

#include "core/analysis/results.h"

/// Water along the curbs of a street, between the inlets whose flows are known: what plan, street profile and section
/// show.
///
/// Towards an inlet the gutter's flow grows evenly from what the inlet above it let pass to what approaches; where a pond
/// spills onto the street it is larger by that at once. The water's width at a place is that of its flow in the gutter
/// of the inlet it runs to; beside a sag it is that of the standing water, where that is wider.
namespace culvert {

struct WaterAt {
    double station = 0, flow = 0, depth = 0, spread = 0;
};
/// From where its water begins to the inlet that it comes to.
struct StreetReach {
    int side = 1;  ///< 1: right of the line looking up the stations, -1: left
    StructureId inlet;
    std::vector<WaterAt> points;  ///< in the order in which the water runs
};

/// Reaches of all streets, by street. Streets without profile, and inlets that are not computed, have none.
class StreetWater {
  public:
    /// @param profile  of a street: as entered, or from the ground
    using ProfileOf = std::function<StreetProfile(const Street&)>;
    StreetWater(const Project& project, const EventResult& result, const ProfileOf& profile);
    [[nodiscard]] const std::vector<StreetReach>& of(StreetId street) const;
    /// Water at a place of one side; zero where none runs. Where it ends at an inlet and more begins, that which
    /// carries more.
    [[nodiscard]] WaterAt at(StreetId street, int side, double station) const;

  private:
    std::map<std::uint64_t, std::vector<StreetReach>> reaches_;
};

}  // namespace culvert
