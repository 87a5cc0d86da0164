// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/rows.h"

namespace culvert::testing {

/// Rain of ten years, 144 mm/h over 5 minutes and 36 mm/h over an hour.
inline RainEvent ten_years() {
    RainEvent e;
    e.id = 5;
    e.name = "10 years";
    e.return_period = 10;
    e.durations = {300, 3600};
    e.intensities = {4e-5, 1e-5};
    return e;
}

}  // namespace culvert::testing
