// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/geo_module.h"

#include <dlfcn.h>
#include <unistd.h>

#include <climits>

namespace culvert {
namespace {

constexpr const char* module_name = "culvert-raster.so";

/// Beside the program, or where an installed program keeps its modules.
GeoModule open_module() {
    GeoModule m;
    char self[PATH_MAX] = {};
    const auto n = ::readlink("/proc/self/exe", self, sizeof self - 1);
    std::string folder(self, n > 0 ? static_cast<std::size_t>(n) : 0), error;
    folder = folder.substr(0, folder.rfind('/'));
    for (const std::string& path : {folder + "/" + module_name, folder + "/../lib/calm-culvert/" + module_name}) {
        void* library = ::dlopen(path.c_str(), RTLD_NOW | RTLD_LOCAL);
        if (!library) {
            error = ::dlerror();
            continue;
        }
        const auto find = [&](auto& function, const char* name) {
            function = reinterpret_cast<std::remove_reference_t<decltype(function)>>(::dlsym(library, name));
        };
        find(m.read, "culvert_read_raster");
        find(m.release, "culvert_free_raster");
        find(m.read_features, "culvert_read_features");
        find(m.release_features, "culvert_free_features");
        if (m.read && m.release && m.read_features && m.release_features) return m;
    }
    m = {};
    m.missing = "the module " + std::string(module_name) + " did not open (" + error +
                "). Install the package whole, with libgdal";
    return m;
}

}  // namespace

const GeoModule& geo_module() {
    static const GeoModule module = open_module();
    return module;
}

}  // namespace culvert
