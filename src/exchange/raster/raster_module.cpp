// SPDX-License-Identifier: GPL-3.0-or-later
// The module that reads rasters and features through GDAL; opened at first use by geo_module.cpp.
#include <cpl_conv.h>
#include <cpl_error.h>
#include <cpl_string.h>
#include <gdal_priv.h>
#include <ogr_spatialref.h>
#include <ogrsf_frmts.h>

#include <cctype>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <limits>
#include <string>

#include "exchange/geo_module.h"

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

namespace {

void scale(OGRGeometry& geometry, double by) {
    // Points of any kind of geometry, by a visitor of the library.
    class Scaler : public OGRDefaultGeometryVisitor {
      public:
        explicit Scaler(double factor) : by(factor) {}
        using OGRDefaultGeometryVisitor::visit;
        void visit(OGRPoint* p) override {
            p->setX(p->getX() * by);
            p->setY(p->getY() * by);
        }
        double by;
    } scaler(by);
    geometry.accept(&scaler);
}

/// A string as JSON writes it. Names from files may hold anything: what is no UTF-8 is taken for Latin-1, as tables
/// beside shapefiles are that do not say.
std::string quoted(const char* text) {
    std::string latin;
    if (!CPLIsUTF8(text, -1)) {
        char* recoded = CPLRecode(text, CPL_ENC_ISO8859_1, CPL_ENC_UTF8);
        latin = recoded;
        CPLFree(recoded);
        text = latin.c_str();
    }
    std::string out = "\"";
    for (const char* c = text; *c; ++c) {
        const auto u = static_cast<unsigned char>(*c);
        if (*c == '"' || *c == '\\') out += '\\';
        if (u < 0x20) out += ' ';
        else out += *c;
    }
    return out + "\"";
}

}  // namespace

extern "C" int culvert_read_features(const char* path, double metre, culvert::CulvertFeatures* out, char* error,
                                     int size) {
    GDALAllRegister();
    CPLPushErrorHandler(CPLQuietErrorHandler);
    const auto fail = [&](const char* what) {  // in our words: the library's name its own options
        std::snprintf(error, static_cast<std::size_t>(size), "%s", what);
        CPLPopErrorHandler();
        return 0;
    };
    CPLErrorReset();
    constexpr const char* drivers[] = {"ESRI Shapefile", "GPKG", nullptr};
    GDALDatasetUniquePtr data(
        GDALDataset::Open(path, GDAL_OF_VECTOR | GDAL_OF_READONLY | GDAL_OF_VERBOSE_ERROR, drivers));
    if (!data) return fail("it is no shapefile or GeoPackage, or its head is broken");
    OGRLayer* layer = nullptr;
    int others = 0;
    for (OGRLayer* l : data->GetLayers())
        if (l->GetFeatureCount() > 0) {
            if (layer) ++others;
            else layer = l;
        }
    if (!layer) return fail("the file holds no features");
    double by = 1;
    if (const OGRSpatialReference* system = layer->GetSpatialRef()) {
        if (system->IsGeographic())
            return fail("its places are longitudes and latitudes: export it in the project's plane coordinates");
        if (system->IsProjected() && system->GetLinearUnits() > 0) by = system->GetLinearUnits() / metre;
    }
    if (others) std::snprintf(out->remark, sizeof out->remark, "%d further layers were left out", others);
    if (std::abs(by - 1) > 1e-9)
        std::snprintf(out->remark + std::strlen(out->remark), sizeof out->remark - std::strlen(out->remark),
                      "%splaces converted from the unit of its coordinate system", others ? "; " : "");
    constexpr std::size_t most = 256u << 20;
    std::string text = "{\"type\": \"FeatureCollection\", \"features\": [";
    bool first = true;
    for (const auto& feature : *layer) {
        OGRGeometry* geometry = feature->GetGeometryRef();
        if (!geometry) continue;
        if (by != 1) scale(*geometry, by);
        char* shape = geometry->exportToJson();
        if (!shape) continue;
        text +=
            std::string(first ? "" : ",") + "\n{\"type\": \"Feature\", \"geometry\": " + shape + ", \"properties\": {";
        CPLFree(shape);
        first = false;
        for (int i = 0, written = 0; i < feature->GetFieldCount(); ++i) {
            if (!feature->IsFieldSetAndNotNull(i)) continue;
            const OGRFieldType type = feature->GetFieldDefnRef(i)->GetType();
            const bool number = type == OFTReal || type == OFTInteger || type == OFTInteger64;
            std::string value = feature->GetFieldAsString(i);
            if (number && !std::isfinite(feature->GetFieldAsDouble(i))) continue;
            std::string name = feature->GetFieldDefnRef(i)->GetNameRef();  // often in capitals only
            for (char& c : name) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
            text += (written++ ? ", " : "") + quoted(name.c_str()) + ": " + (number ? value : quoted(value.c_str()));
        }
        text += "}}";
        if (text.size() > most) return fail("it holds more than 256 million characters of features");
    }
    if (*CPLGetLastErrorMsg() && CPLGetLastErrorType() >= CE_Failure) return fail("the file is cut short or broken");
    text += "\n]}";
    out->text = static_cast<char*>(std::malloc(text.size() + 1));
    if (!out->text) return fail("there is not enough memory for its features");
    std::memcpy(out->text, text.c_str(), text.size() + 1);
    out->size = text.size();
    CPLPopErrorHandler();
    return 1;
}

extern "C" void culvert_free_features(culvert::CulvertFeatures* features) {
    std::free(features->text);
    features->text = nullptr;
}
