// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/hydrology/concentration.h"
#include "core/model/project.h"

/// A catchment's time of concentration from its rows.
///
/// The parts of a flow path are words, one part after the other, parted by semicolons, lengths and slopes with their
/// units (without one: metres, and metres a metre):
///
///     sheet 30m 1% 0.15; shallow 120m 2% paved; channel 200m 0.5% 0.03 0.4m; wave 20m 1% 0.1; time 4min
///
/// sheet and wave: length, slope, roughness; shallow: length, slope, paved or unpaved; channel: length, slope, Manning
/// n, hydraulic radius.
namespace culvert {

struct PartsRead {
    std::vector<FlowPart> parts;
    std::string fault;  ///< "part 2, \"shallow 120\": a slope is missing"; empty where all were understood
};
/// @param two_year_rain  of sheet flow, m
PartsRead read_parts(const std::string& text, double two_year_rain);
/// The same parts as words, lengths in metres or feet after the units. Reads back to the same to 1 cm and 0.001 %.
std::string parts_text(const std::vector<FlowPart>& parts, const UnitSet& units);

struct ConcentrationTime {
    double time = not_given;  ///< s, without the project's least time
    std::string fault;        ///< why there is none
    std::vector<FlowPart> parts;
    std::vector<double> part_times;
};
/// Kinematic waves take the rain of the minor system's design event, or the commonest one.
ConcentrationTime concentration_time(const Project& project, const Catchment& catchment);
/// The same with that rain at hand.
ConcentrationTime concentration_time(const Project& project, const Catchment& catchment, const IdfCurve& rain);
IdfCurve rain_of_times(const Project& project);

}  // namespace culvert
