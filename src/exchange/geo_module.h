// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>
#include <string>

/// The module that holds the GDAL library, opened at first use since that takes long to start. What crosses its border
/// is plain C.
namespace culvert {

struct CulvertRaster {
    int columns = 0, rows = 0;
    double transform[6] = {0, 1, 0, 0, 0, -1};  ///< x = t0 + c t1 + r t2, y = t3 + c t4 + r t5, at a cell's corner
    float* levels = nullptr;                    ///< row by row, NaN where there is none; freed with culvert_free_raster
    double unit = 1;                            ///< metres of the coordinate system's unit
    char coordinates[256] = {};
};
struct CulvertFeatures {
    char* text = nullptr;  ///< GeoJSON; freed with culvert_free_features
    std::size_t size = 0;
    char remark[256] = {};
};

struct GeoModule {
    int (*read)(const char* path, CulvertRaster* out, char* error, int size) = nullptr;
    void (*release)(CulvertRaster*) = nullptr;
    int (*read_features)(const char* path, double metre, CulvertFeatures* out, char* error, int size) = nullptr;
    void (*release_features)(CulvertFeatures*) = nullptr;
    std::string missing;  ///< why it is not there, and what to do
};
const GeoModule& geo_module();

}  // namespace culvert
