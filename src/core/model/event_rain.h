// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/hydrology/idf.h"
#include "core/model/rows.h"

/// The rain of an event, however it is given: intensities by duration, or a depth that falls by a pattern.
///
/// A storm through time has, for each duration, one heaviest window of that length. The mean intensity of it is what a
/// peak of that duration answers to, so that the rational method can be used with a storm too:
///
///     i(d) = max over t of ( P(t + d) - P(t) ) / d        P(t): depth fallen by t
///
/// It is taken at durations from one step up to the whole storm and never rises with duration (a window that does not
/// divide a longer one can hold a little less than its share: then the larger value is kept, on the safe side).
namespace culvert {

struct EventRainTable {
    std::vector<double> durations;    ///< s, rising
    std::vector<double> intensities;  ///< m/s, not rising
};
/// Table of an event. Empty where `event_rain_fault` says something.
EventRainTable rain_table_of(const RainEvent& event);
/// What is wrong with an event's rain, in words; empty where nothing is.
std::string event_rain_fault(const RainEvent& event);
/// Depths of its storm in equal steps, m, and the step, s; empty for an event of intensities, and where it is at fault.
struct EventStorm {
    std::vector<double> depths;
    double step = 0;
};
EventStorm storm_of(const RainEvent& event);
/// Heaviest windows of a storm: the table of its durations.
EventRainTable windows_of(const EventStorm& storm);

}  // namespace culvert
