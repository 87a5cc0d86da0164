// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"
#include "exchange/project_file.h"

/// What is shared between projects: criteria sets (limits, ranks of findings and method settings, with a name, a
/// version and a source) and the user's library (catalogue of sizes and structure types, rain). Both are project files
/// without elements, read and written by the project's own reader, so that every project is a library too.
namespace culvert {

/// Settings that belong to a method, not to a site.
std::span<const std::string_view> method_keys();

/// The limits (without exceptions of single elements), the ranks of findings and the method settings of a project, as a
/// criteria set.
/// @param name, version  stand together in the settings as "name, version"; `source` in its note
Project criteria_of(const Project& project, const std::string& name, const std::string& version,
                    const std::string& source);
/// The Edit that makes a project keep a criteria set: limits match by kind and group; what the set does not hold is
/// switched off, never deleted; a finding it does not rank has its usual rank again. Exceptions of single elements
/// stay.
Edit criteria_edit(const Project& project, const Project& criteria);
/// Differences of two sets in words: "least velocity: 0.6 m/s, was 0.75 m/s".
std::vector<std::string> criteria_differences(const Project& a, const Project& b);

/// Which parts of a library are meant.
struct LibraryParts {
    bool sizes = true, types = true, rain = false;
};
/// A library with the parts of a project; parts that are not meant stay as the library has them.
Project library_with(const Project& library, const Project& project, LibraryParts parts);
/// The Edit that brings the library's rows into a project: sizes match by material, shape and size, types by name,
/// events by name. Rows of the project that the library lacks stay.
Edit library_edit(const Project& project, const Project& library, LibraryParts parts);

/// Every change of an Edit in words, for a preview: "pipe A3–A4: size 450 mm, was 375 mm".
std::vector<std::string> in_words(const Project& project, const Edit& edit, std::size_t most = 200);

}  // namespace culvert
