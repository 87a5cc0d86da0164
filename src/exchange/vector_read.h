// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

/// Features of a shapefile or GeoPackage, through the module that reads grids (grid_read.h), as GeoJSON: so one reader
/// knows what lines and covers are.
namespace culvert {

struct VectorText {
    bool ok = false;
    std::string text;    ///< a FeatureCollection; its places in the unit asked for
    std::string error;   ///< what is wrong and how to mend it
    std::string remark;  ///< a unit that was converted, layers that were left out
};
/// Whether the ending of a name is one of these forms: .shp, .gpkg.
bool is_vector_file(const std::string& path);
/// The first layer that holds features.
/// @param metre  metres of the unit that places are wanted in; a projected coordinate system that says its unit is
///               converted, another is taken as it stands, longitudes and latitudes are refused
VectorText read_vector(const std::string& path, double metre);

}  // namespace culvert
