// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

#include "core/base/units.h"

/// Times after a storm began, and how long ponds stand, as on a clock.
namespace culvert {

/// "12:06" hours and minutes; with seconds, "0:10:30", where they are not whole minutes.
/// @param seconds  0 to 1e9
std::string clock_text(double seconds);
/// To the minute: "12:06".
std::string minutes_text(double seconds);
/// Whether such times are shown so: where the project shows times in minutes. Hours and seconds stay as chosen.
bool by_clock(const UnitSet& units);

}  // namespace culvert
