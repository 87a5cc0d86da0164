// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"

/// Other lines under ground from files: what they carry, their size, their levels.
///
/// CSV:      a head that names the columns, then one point a line; points of one name in their order are a line:
///           name, kind, size, easting (x), northing (y), level (z)
/// GeoJSON:  LineString and MultiLineString features (RFC 7946) in the project's plane coordinates, levels as the third
///           number of a place or as the property "level"; "name", "kind" (or "type"), "size" (or "diameter"),
///           "level_of"
/// Shapefile and GeoPackage: as GeoJSON, their fields as its properties (vector_read.h)
/// DXF:      lines and polylines; each layer is a kind where its name says so, levels are their heights where not 0
///
/// Numbers without a unit are in the units the project shows. What a line lacks is left open: a crossing without a
/// level is a finding.
namespace culvert {

struct BuriedImport {
    bool ok = false;
    std::vector<BuriedLine> lines;
    std::string error;                 ///< what is wrong and how to mend it
    std::vector<std::string> remarks;  ///< what was left out or taken for granted
};
enum class BuriedForm { Csv, GeoJson, Dxf };
BuriedImport read_buried_lines(const std::string& text, BuriedForm form, const UnitSet& units);
/// By the ending of its name.
BuriedImport load_buried_lines(const std::string& path, const UnitSet& units);
/// Adds them to a project, under names that are free.
Edit buried_edit(const Project& project, const std::vector<BuriedLine>& lines, const std::string& source);

/// The kind that words mean: "water main", "GAS-LP"; other where they say nothing known.
LineKind line_kind_of(std::string_view words);

}  // namespace culvert
