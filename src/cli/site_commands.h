// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <optional>

#include "core/model/project.h"
#include "core/terrain/terrain.h"

/// The commands of ground, layout and comparison: surface, import, paths, renumber, criteria, compare.
namespace culvert::cli {

/// Loads a project; the path becomes the file that it stands for ("demo").
using Load = std::function<int(std::string&, Project&)>;
/// Declares them; what is returned runs the one that was asked for and gives its exit code, or none.
std::function<std::optional<int>()> add_site_commands(CLI::App& app, Load load);

/// The ground of a project from the assets beside its file; what is missing is said.
Ground ground_beside(const Project& project, const std::string& path);
/// Saves a project with what it needs beside it, which lies beside the one it came from. An exit code; says what
/// failed.
int write_with_assets(const Project& project, const std::string& from, const std::string& to);

}  // namespace culvert::cli
