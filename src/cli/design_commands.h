// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <optional>

#include "core/model/project.h"

namespace culvert::cli {

/// `quantities`, `sensitivity`. Returns what runs the one that was asked for.
/// @param load  reads a project from a path; an exit code other than 0 where it could not
std::function<std::optional<int>()> add_design_commands(CLI::App& app,
                                                        std::function<int(const std::string&, Project&)> load);

}  // namespace culvert::cli
