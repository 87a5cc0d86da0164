// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "exchange/points_text.h"

/// Grids of levels: GeoTIFF, ESRI ASCII grid and what else the GDAL library reads. GDAL stands in a module of its own
/// that is opened at first use, since it takes long to start.
namespace culvert {

/// What the module hands over; plain C, so that it can be a module.
struct CulvertRaster {
    int columns = 0, rows = 0;
    double transform[6] = {0, 1, 0, 0, 0, -1};  ///< x = t0 + c t1 + r t2, y = t3 + c t4 + r t5, at a cell's corner
    float* levels = nullptr;                    ///< row by row, NaN where there is none; freed with culvert_free_raster
    double unit = 1;                            ///< metres of the coordinate system's unit
    char coordinates[256] = {};
};

constexpr std::size_t most_cells = 4'000'000;  ///< a larger grid is thinned evenly

/// Cell centres as points; cells without a level leave holes. Where the module is missing it says how to install it.
SurfaceImport read_grid(const std::string& path);

}  // namespace culvert
