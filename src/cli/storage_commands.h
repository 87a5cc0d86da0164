// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <CLI/CLI.hpp>

#include "cli/site_commands.h"

/// Hydrographs and storage for scripts.
namespace culvert::cli {

/// Adds the commands; the call runs the one that was given, if it is one of these.
std::function<std::optional<int>()> add_storage_commands(CLI::App& app, Load load);

}  // namespace culvert::cli
