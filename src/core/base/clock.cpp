// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/clock.h"

#include <cmath>

namespace culvert {

std::string clock_text(double seconds) {
    const long whole = std::lround(seconds), s = whole % 60;
    const auto two = [](long v) { return (v < 10 ? ":0" : ":") + std::to_string(v); };
    return std::to_string(whole / 3600) + two(whole / 60 % 60) + (s ? two(s) : std::string());
}

std::string minutes_text(double seconds) { return clock_text(60 * std::round(seconds / 60)); }

bool by_clock(const UnitSet& units) { return units.unit(Quantity::Duration).factor == 60; }

}  // namespace culvert
