// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "cli/site_commands.h"

/// Commands that draw: the profile of a run, the plan.
namespace culvert::cli {

std::function<std::optional<int>()> add_drawing_commands(CLI::App& app, Load load);

}  // namespace culvert::cli
