// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "exchange/points_text.h"

/// Grids of levels: GeoTIFF, ESRI ASCII grid and what else the GDAL library reads. GDAL stands in a module of its own
/// that is opened at first use, since it takes long to start.
namespace culvert {

constexpr std::size_t most_cells = 4'000'000;  ///< a larger grid is thinned evenly

/// Cell centres as points; cells without a level leave holes. Where the module is missing it says how to install it.
SurfaceImport read_grid(const std::string& path);

}  // namespace culvert
