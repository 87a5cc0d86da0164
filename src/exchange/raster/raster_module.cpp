// SPDX-License-Identifier: GPL-3.0-or-later
// The module that reads rasters through GDAL; opened at first use by grid_read.cpp.
#include <cpl_error.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <limits>

#include "exchange/grid_read.h"

extern "C" int culvert_read_raster(const char* path, culvert::CulvertRaster* out, char* error, int size) {
    GDALAllRegister();
    CPLPushErrorHandler(CPLQuietErrorHandler);
    const auto fail = [&](const char* what) {
        std::snprintf(error, static_cast<std::size_t>(size), "%s%s%s", what, *CPLGetLastErrorMsg() ? ": " : "",
                      CPLGetLastErrorMsg());
        CPLPopErrorHandler();
        return 0;
    };
    CPLErrorReset();
    // Only what was asked for: other formats of the library lead to other files, or to the network.
    constexpr const char* drivers[] = {"GTiff", "AAIGrid", nullptr};
    GDALDatasetUniquePtr data(
        GDALDataset::Open(path, GDAL_OF_RASTER | GDAL_OF_READONLY | GDAL_OF_VERBOSE_ERROR, drivers));
    if (!data) return fail("the grid cannot be opened");
    GDALRasterBand* band = data->GetRasterCount() > 0 ? data->GetRasterBand(1) : nullptr;
    if (!band) return fail("the file holds no band of levels");
    out->columns = band->GetXSize();
    out->rows = band->GetYSize();
    const double cells = static_cast<double>(out->columns) * out->rows;
    if (cells > 4e8) return fail("the grid has more than 400 million cells");
    data->GetGeoTransform(out->transform);
    out->levels = static_cast<float*>(std::malloc(static_cast<std::size_t>(cells) * sizeof(float)));
    if (!out->levels) return fail("there is not enough memory for the grid");
    if (band->RasterIO(GF_Read, 0, 0, out->columns, out->rows, out->levels, out->columns, out->rows, GDT_Float32, 0,
                       0) != CE_None) {
        std::free(out->levels);
        out->levels = nullptr;
        return fail("the grid is cut short or broken");
    }
    int has = 0;
    const double none = band->GetNoDataValue(&has);
    if (has)
        for (std::size_t i = 0; i < static_cast<std::size_t>(cells); ++i)
            if (static_cast<double>(out->levels[i]) == none || out->levels[i] == static_cast<float>(none))
                out->levels[i] = std::numeric_limits<float>::quiet_NaN();
    if (const OGRSpatialReference* system = data->GetSpatialRef()) {
        std::snprintf(out->coordinates, sizeof out->coordinates, "%s", system->GetName() ? system->GetName() : "");
        if (system->IsProjected()) out->unit = system->GetLinearUnits();
    }
    CPLPopErrorHandler();
    return 1;
}

extern "C" void culvert_free_raster(culvert::CulvertRaster* raster) {
    std::free(raster->levels);
    raster->levels = nullptr;
}
