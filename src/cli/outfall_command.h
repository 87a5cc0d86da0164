// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "cli/site_commands.h"

/// The command of what an outfall meets: tailwater.
namespace culvert::cli {

std::function<std::optional<int>()> add_outfall_command(CLI::App& app, Load load);

}  // namespace culvert::cli
