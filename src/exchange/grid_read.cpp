// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/grid_read.h"

#include <cmath>

#include "exchange/geo_module.h"

namespace culvert {

SurfaceImport read_grid(const std::string& path) {
    const GeoModule& module = geo_module();
    SurfaceImport out;
    if (!module.read) {
        out.problems.push_back({0, "grids cannot be read", module.missing + "."});
        return out;
    }
    CulvertRaster raster;
    char error[512] = {};
    if (!module.read(path.c_str(), &raster, error, sizeof error)) {
        out.problems.push_back({0, error, "Check that it is a GeoTIFF or an ESRI ASCII grid, and whole."});
        return out;
    }
    const auto cells = static_cast<std::size_t>(raster.columns) * static_cast<std::size_t>(raster.rows);
    const int step = std::max(
        1, static_cast<int>(std::ceil(std::sqrt(static_cast<double>(cells) / static_cast<double>(most_cells)))));
    std::size_t missing = 0;
    const double* t = raster.transform;
    for (int r = 0; r < raster.rows; r += step)
        for (int c = 0; c < raster.columns; c += step) {
            const float z = raster.levels[static_cast<std::size_t>(r) * static_cast<std::size_t>(raster.columns) +
                                          static_cast<std::size_t>(c)];
            if (!std::isfinite(z)) {
                ++missing;
                continue;
            }
            const double x = c + 0.5, y = r + 0.5;
            out.data.points.push_back({(t[0] + x * t[1] + y * t[2]) * raster.unit,
                                       (t[3] + x * t[4] + y * t[5]) * raster.unit,
                                       static_cast<double>(z) * raster.unit});
        }
    const double dx = std::hypot(t[1], t[4]) * step * raster.unit, dy = std::hypot(t[2], t[5]) * step * raster.unit;
    if (missing) out.data.longest_edge = std::hypot(dx, dy) * 1.2;
    out.data.coordinates = raster.coordinates;
    module.release(&raster);
    if (missing)
        out.problems.push_back({0, std::to_string(missing) + " cells have no level", "The surface has holes there."});
    if (step > 1)
        out.problems.push_back(
            {0, "the grid has " + std::to_string(cells) + " cells",
             "Every " + std::to_string(step) + "th row and column is used; cut it to the site for more."});
    if (const auto gone = std::erase_if(out.data.points, [](const GroundPoint& p) { return !in_reach(p); }))
        out.problems.push_back({0, std::to_string(gone) + " cells lie beyond any ground",
                                "They are left out. Check the unit and the header of the grid."});
    out.ok = out.data.points.size() >= 3;
    if (!out.ok)
        out.problems.push_back({0, "the grid has fewer than three cells with a level", "Choose another band or file."});
    return out;
}

}  // namespace culvert
