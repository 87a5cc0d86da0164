// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "core/analysis/result_fields.h"

/// How the profile's page is divided: head, plot, level table below.
namespace culvert::app {

constexpr double profile_left = 64, profile_right = 24, profile_head = 30, table_row = 15;

/// Rows of the level table: what the catalogue shows in profiles, the flow first.
std::vector<const ResultField*> table_fields();

}  // namespace culvert::app
