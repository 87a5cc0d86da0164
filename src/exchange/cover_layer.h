// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/design/cover_cut.h"

/// A GIS layer of land covers as GeoJSON (RFC 7946): Polygon and MultiPolygon features in the project's plane
/// coordinates.
///
/// The kind of cover is the property "cover", "land_cover", "name", "kind" or "type", the first there is; "C" or
/// "coefficient" and "CN" or "curve_number" are taken where they stand. Coordinates are the project's, not degrees: a
/// file in degrees is refused with how to convert it.
namespace culvert {

struct CoverLayer {
    bool ok = false;
    std::vector<CoverPolygon> polygons;
    std::string error;                 ///< what is wrong and how to mend it
    std::vector<std::string> remarks;  ///< features that were left out
};
CoverLayer read_cover_layer(const std::string& geojson);
CoverLayer load_cover_layer(const std::string& path);

}  // namespace culvert
