// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/cover_layer.h"

#include <cmath>
#include <fstream>
#include <iterator>
#include <nlohmann/json.hpp>

#include "exchange/json_member.h"
#include "exchange/vector_read.h"

namespace culvert {
namespace {

using Json = nlohmann::json;
constexpr std::size_t most_points = 5'000'000;

bool ring_of(const Json& list, std::vector<Point>& out, std::size_t& points) {
    if (!list.is_array()) return false;
    for (const Json& p : list) {
        if (!p.is_array() || p.size() < 2 || !p[0].is_number() || !p[1].is_number() || ++points > most_points)
            return false;
        out.push_back({p[0].get<double>(), p[1].get<double>()});
    }
    if (out.size() > 1 && out.front() == out.back()) out.pop_back();
    return out.size() >= 3;
}

}  // namespace

CoverLayer read_cover_layer(const std::string& text) {
    CoverLayer out;
    const Json root = Json::parse(text, nullptr, false);
    if (root.is_discarded()) {
        out.error = "it is no JSON: export the layer as GeoJSON";
        return out;
    }
    const bool collection = root.is_object() && root.contains("features") && root["features"].is_array();
    if (!collection) {
        out.error = "it holds no features: a GeoJSON FeatureCollection is wanted";
        return out;
    }
    std::size_t points = 0, number = 0;
    bool degrees = true;
    for (const Json& feature : root["features"]) {
        const std::string place = "feature " + std::to_string(++number);
        const auto leave = [&](const std::string& why) { out.remarks.push_back(place + ": " + why); };
        if (!feature.is_object() || !feature.contains("geometry") || !feature["geometry"].is_object()) {
            leave("it has no geometry");
            continue;
        }
        const Json& geometry = feature["geometry"];
        const std::string type =
            geometry.value("type", Json("")).is_string() ? geometry.value("type", Json("")).get<std::string>() : "";
        if ((type != "Polygon" && type != "MultiPolygon") || !geometry.contains("coordinates")) {
            leave("it is no polygon");
            continue;
        }
        CoverPolygon cover;
        cover.place = place;
        const Json none = Json::object();
        const Json& properties =
            feature.contains("properties") && feature["properties"].is_object() ? feature["properties"] : none;
        for (const char* key : {"cover", "land_cover", "name", "kind", "type"})
            if (const Json* said = member(properties, key); cover.kind.empty() && said && said->is_string())
                cover.kind = said->get<std::string>();
        if (cover.kind.empty()) {
            leave("it does not say what covers the ground: give it a property \"cover\"");
            continue;
        }
        for (const char* key : {"c", "coefficient"})
            if (const Json* said = member(properties, key); said && said->is_number())
                cover.coefficient = said->get<double>();
        for (const char* key : {"cn", "curve_number"})
            if (const Json* said = member(properties, key); said && said->is_number())
                cover.curve_number = said->get<double>();
        if (!std::isnan(cover.coefficient) && !(cover.coefficient >= 0 && cover.coefficient <= 1)) {
            leave("its C is not between 0 and 1");
            continue;
        }
        if (!std::isnan(cover.curve_number) && !(cover.curve_number >= 1 && cover.curve_number <= 100)) {
            leave("its CN is not between 1 and 100");
            continue;
        }
        const Json one = type == "Polygon" ? Json::array({geometry["coordinates"]}) : geometry["coordinates"];
        bool good = one.is_array() && !one.empty();
        std::vector<CoverPolygon> parts;
        for (const Json& polygon : one) {
            CoverPolygon part = cover;
            good = good && polygon.is_array() && !polygon.empty();
            if (!good) break;
            for (const Json& list : polygon) {
                part.rings.emplace_back();
                if (!ring_of(list, part.rings.back(), points)) good = false;
            }
            parts.push_back(std::move(part));
        }
        if (!good) {
            leave(points > most_points ? "the layer has too many points" : "its coordinates are no rings of places");
            continue;
        }
        for (CoverPolygon& part : parts) {
            for (const auto& ring : part.rings)
                for (const Point& p : ring) degrees = degrees && std::abs(p.x) <= 180 && std::abs(p.y) <= 90;
            out.polygons.push_back(std::move(part));
        }
    }
    if (out.polygons.empty()) {
        out.error = out.remarks.empty() ? "it holds no polygon" : out.remarks.front();
        return out;
    }
    const bool said = root.contains("crs") && root["crs"].dump().find("CRS84") != std::string::npos;
    if (said && degrees) {
        out.error = "its coordinates are degrees: export it in the project's coordinate system";
        out.polygons.clear();
        return out;
    }
    out.ok = true;
    return out;
}

CoverLayer load_cover_layer(const std::string& path) {
    if (is_vector_file(path)) {
        const VectorText read = read_vector(path, 1);
        CoverLayer out;
        out.error = read.error;
        if (read.ok) out = read_cover_layer(read.text);
        if (!read.remark.empty()) out.remarks.push_back(read.remark);
        return out;
    }
    std::ifstream file(path, std::ios::binary);
    if (!file) {
        CoverLayer out;
        out.error = "it cannot be read";
        return out;
    }
    return read_cover_layer({std::istreambuf_iterator<char>(file), {}});
}

}  // namespace culvert
