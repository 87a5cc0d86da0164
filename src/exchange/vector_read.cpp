// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/vector_read.h"

#include <algorithm>
#include <cctype>
#include <filesystem>

#include "exchange/geo_module.h"

namespace culvert {

bool is_vector_file(const std::string& path) {
    std::string ending = std::filesystem::path(path).extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return ending == ".shp" || ending == ".gpkg";
}

VectorText read_vector(const std::string& path, double metre) {
    VectorText out;
    const GeoModule& module = geo_module();
    if (!module.read_features) {
        out.error = "shapefiles and GeoPackages cannot be read: " + module.missing;
        return out;
    }
    // A link may lead to a device, or to nothing; the library would say so in its own words.
    std::error_code ignored;
    if (!std::filesystem::is_regular_file(path, ignored)) {
        out.error = "it is no file that can be read";
        return out;
    }
    for (const auto& [small, big] : {std::pair{".shx", ".SHX"}, {".dbf", ".DBF"}}) {
        std::filesystem::path beside(path);
        if (beside.extension() == ".gpkg") break;
        if (std::filesystem::exists(beside.replace_extension(small), ignored) ||
            std::filesystem::exists(beside.replace_extension(big), ignored))
            continue;
        out.error = "its " + std::string(small) +
                    " is not there: a shapefile is three files of one name, .shp, .shx and " +
                    ".dbf; put them side by side";
        return out;
    }
    CulvertFeatures features;
    char error[512] = {};
    if (!module.read_features(path.c_str(), metre, &features, error, sizeof error)) {
        out.error = error;
        return out;
    }
    out.text.assign(features.text, features.size);
    out.remark = features.remark;
    module.release_features(&features);
    out.ok = true;
    return out;
}

}  // namespace culvert
