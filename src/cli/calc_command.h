// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <optional>

namespace culvert::cli {

/// `calc NAME key=value ...`, `calc --list`. Returns what runs it where it was asked for.
std::function<std::optional<int>()> add_calc_command(CLI::App& app);

}  // namespace culvert::cli
