// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "core/hydrology/idf.h"

/// Time of concentration: how long the water of the farthest point takes to where it enters.
///
/// Either along a flow path, part by part as the water changes its way of running (the times add up), or by one of the
/// empirical formulas for a whole catchment. Formulas are printed in US units in their sources and computed so here;
/// lengths and slopes come and go in SI. Flat parts (slope 0) have no time by any of them: NaN.
namespace culvert {

/// Thin flow over a plane, before it gathers.
///
///     Tt = 0.007 (n L)^0.8 / (P2^0.5 s^0.4)       h, ft, in
///
/// P2: 2-year 24-hour rain. It holds for short ways only: at most 30 m (100 ft) is usual.
/// @source  USDA NRCS TR-55 (1986), eq. 3-3
struct SheetFlow {
    double length, slope, n;  ///< m, m/m, n of sheet flow (0.011 smooth, 0.15 short grass, 0.24 dense grass)
    double rain;              ///< P2, m
    friend bool operator==(const SheetFlow&, const SheetFlow&) = default;
};
constexpr double longest_sheet_flow = 30.48;  ///< m

/// Flow that has gathered in rills: V = 16.13 s^0.5 unpaved, 20.33 s^0.5 paved (ft/s).
/// @source  TR-55, fig. 3-1 and app. F
struct ShallowFlow {
    double length, slope;
    bool paved;
    friend bool operator==(const ShallowFlow&, const ShallowFlow&) = default;
};

/// Flow in a channel, ditch or pipe by Manning with a hydraulic radius: V = R^(2/3) s^(1/2) / n.
struct ChannelFlow {
    double length, slope, n;
    double radius;  ///< m
    friend bool operator==(const ChannelFlow&, const ChannelFlow&) = default;
};

/// Kinematic wave over a plane; the rain's intensity depends on the time that is sought, which is found so that both
/// agree:
///
///     Tt = 6.92 / i^0.4 (n L / S^0.5)^0.6       min, mm/h, m        (0.933 with in/h and ft)
///
/// @source  FHWA HEC-22, 3rd ed. (2009), eq. 3-3
struct WaveFlow {
    double length, slope, n;
    friend bool operator==(const WaveFlow&, const WaveFlow&) = default;
};

/// A time that is known.
struct EnteredTime {
    double time;  ///< s
    friend bool operator==(const EnteredTime&, const EnteredTime&) = default;
};

using FlowPart = std::variant<SheetFlow, ShallowFlow, ChannelFlow, WaveFlow, EnteredTime>;

/// Time through a part, s. NaN where its numbers allow none.
/// @param rain    curve that a kinematic wave takes its intensity from; empty: such a part has no time
/// @param uplift  multiplies its intensities
double travel_time(const FlowPart& part, const IdfCurve& rain, double uplift = 1);
/// Mean velocity through it, m/s; NaN for an entered time.
double velocity(const FlowPart& part, const IdfCurve& rain, double uplift = 1);
double length_of(const FlowPart& part);
std::string_view part_name(const FlowPart& part);

/// tc = 0.0078 L^0.77 S^-0.385      min, ft. For small rural catchments with channels.
/// @source  Kirpich (1940), as in Chow, Maidment, Mays: Applied Hydrology (1988), table 15.1.2
double kirpich_time(double length, double slope);
/// tc = 1.8 (1.1 − C) L^0.5 / S^(1/3)      min, ft, per cent. For airfields and paved areas.
/// @source  Federal Aviation Administration (1970), same table
double faa_time(double coefficient, double length, double slope);

}  // namespace culvert
