// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "cli/site_commands.h"

/// The command that grades a run: pins, ties, slopes and drops, and what conflicts.
namespace culvert::cli {

std::function<std::optional<int>()> add_grade_command(CLI::App& app, Load load);

}  // namespace culvert::cli
