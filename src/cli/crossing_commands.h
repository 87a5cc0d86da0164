// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "cli/site_commands.h"

/// The commands of other lines under ground: lines (import), clashes.
namespace culvert::cli {

std::function<std::optional<int>()> add_crossing_commands(CLI::App& app, Load load);

}  // namespace culvert::cli
