// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/site_import.h"

#include <cmath>
#include <set>
#include <sstream>

#include "exchange/project_file.h"

namespace culvert {
namespace {

std::string ending(const std::string& path) {
    const auto dot = path.rfind('.');
    std::string e = dot == std::string::npos || path.find('/', dot) != std::string::npos ? "" : path.substr(dot + 1);
    for (char& c : e) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return e;
}
std::string stem(const std::string& path) {
    const auto slash = path.rfind('/');
    std::string name = slash == std::string::npos ? path : path.substr(slash + 1);
    if (const auto dot = name.rfind('.'); dot != std::string::npos && dot > 0) name.resize(dot);
    return name;
}
std::string file_name(const std::string& path) {
    const auto slash = path.rfind('/');
    return slash == std::string::npos ? path : path.substr(slash + 1);
}
bool read_into(const std::string& path, std::string& out) {
    const auto bytes = read_whole(path);
    if (bytes) out = *bytes;
    return bytes != nullptr;
}

/// The world file beside a picture: "a.png" has "a.pgw", "a.pngw" or "a.wld".
bool read_world(const std::string& path, std::vector<double>& placing, std::vector<ImportProblem>& problems) {
    const auto dot = path.rfind('.');
    const std::string base = path.substr(0, dot + 1), e = path.substr(dot + 1);
    std::vector<std::string> names{base + e + "w", base + "wld"};
    if (e.size() >= 3) names.insert(names.begin(), base + e.front() + e.back() + "w");
    for (const std::string& name : names) {
        std::string text;
        if (!read_into(name, text)) continue;
        std::istringstream in(text);
        placing.clear();
        double v = 0;
        while (placing.size() < 6 && in >> v) placing.push_back(v);
        const double det = placing.size() == 6 ? placing[0] * placing[3] - placing[1] * placing[2] : 0;
        if (placing.size() == 6 && std::isfinite(det) && det != 0) return true;
        problems.push_back(
            {static_cast<int>(placing.size()) + 1, file_name(name) + " has not six numbers that place a picture",
             "Write pixel width, two turns, pixel height (negative), x and y of the first pixel's middle."});
        placing.clear();
        return false;
    }
    problems.push_back({0, "there is no world file beside it (" + file_name(names[0]) + ")",
                        "Export the picture with its world file, or move it into place by its six numbers."});
    return false;
}

}  // namespace

SiteOffer SiteOffer::without_content() const {
    SiteOffer o;
    o.ok = ok;
    o.form = form;
    o.path = path;
    o.name = name;
    o.placing = placing;
    o.coordinates = coordinates;
    return o;
}

SiteOffer look_at(const std::string& path, double unit, const std::stop_token& stop) {
    SiteOffer o;
    o.path = path;
    o.name = stem(path);
    if (const std::string fault = unreadable(path); !fault.empty()) {
        o.problems.push_back({0, file_name(path) + ": " + fault,
                              fault == "this is a folder" ? "Choose a file in it." : "Choose another file."});
        return o;
    }
    const std::string e = ending(path);
    if (e == "tif" || e == "tiff" || e == "asc" || e == "grd") {
        o.form = SiteForm::Grid;
        o.surfaces.push_back(read_grid(path));
        o.surfaces[0].name = o.name;
        o.ok = o.surfaces[0].ok;
        o.problems = o.surfaces[0].problems;
        o.coordinates = o.surfaces[0].data.coordinates;
        return o;
    }
    if (!read_into(path, o.bytes)) {
        o.problems.push_back({0, file_name(path) + " cannot be read", "Check the permission of the file."});
        return o;
    }
    if (o.bytes.empty()) {
        o.problems.push_back({1, file_name(path) + " is empty", "Write it anew from where it came."});
        return o;
    }
    if (e == "png" || e == "jpg" || e == "jpeg" || e == "bmp" || e == "svg") {
        o.form = SiteForm::Picture;
        o.ok = read_world(path, o.placing, o.problems);
        return o;
    }
    if (e == "dxf") {
        o.form = SiteForm::Drawing;
        DrawingOutcome d = read_dxf(o.bytes, unit, stop);
        o.ok = d.ok;
        o.drawing = std::move(d.drawing);
        o.problems = std::move(d.problems);
        return o;
    }
    if (e == "xml" || e == "landxml" || o.bytes.find("<LandXML") < 4096) {
        o.form = SiteForm::LandXml;
        LandXmlOutcome x = read_landxml(o.bytes);
        o.surfaces = std::move(x.surfaces);
        o.problems = std::move(x.problems);
        o.coordinates = x.coordinates;
        o.ok = std::any_of(o.surfaces.begin(), o.surfaces.end(), [](const SurfaceImport& i) { return i.ok; });
        o.bytes.clear();
        return o;
    }
    if (e == "csv" || e == "txt" || e == "xyz" || e == "pts" || e == "pnt" || e == "dat") {
        o.form = SiteForm::Points;
        o.layout = sniff_points(o.bytes);
        o.ok =
            std::find(o.layout.columns.begin(), o.layout.columns.end(), PointColumn::Level) != o.layout.columns.end();
        if (!o.ok)
            o.problems.push_back(
                {1, "no three columns of numbers were found",
                 "One point a line: easting, northing, level; parted by tabs, semicolons, commas or blanks."});
        return o;
    }
    o.problems.push_back(
        {0, "." + e + " is not a kind of file that is read here",
         "Points: csv, txt, xyz. Drawings: dxf. Surfaces: xml (LandXML), tif, asc. Pictures: png, jpg."});
    return o;
}

SurfaceOffer make_surface(const SurfaceImport& import, const std::string& source, const std::stop_token& stop) {
    SurfaceOffer o;
    o.name = import.name;
    o.source = file_name(source);
    o.problems = import.problems;
    o.coordinates = import.data.coordinates;
    if (!import.ok) return o;
    SurfaceNotes notes;
    SurfaceData data = import.data;
    const auto terrain = Terrain::build(std::move(data), &notes, stop);
    o.remarks = notes.in_words();
    if (!terrain) {
        if (notes.too_many)
            o.problems.push_back(
                {0, o.remarks.back(), "Choose the layers of the survey only, without hatches and texts."});
        else if (!stop.stop_requested())
            o.problems.push_back(
                {0, "the points make no triangle", "A surface needs three points that are not in one line."});
        return o;
    }
    o.ok = true;
    o.points = terrain->points().size();
    for (std::size_t t = 0; t < terrain->triangles().size(); ++t)
        o.triangles += terrain->is_surface(static_cast<std::int32_t>(t));
    o.area = terrain->area();
    o.low = terrain->bounds().low;
    o.high = terrain->bounds().high;
    o.text = write_surface(import.data);
    return o;
}

std::string numbered_name(const Project& project, Kind kind, const std::string& word) {
    for (int k = 1;; ++k)
        if (std::string name = word + " " + std::to_string(k); free_name(project, kind, name) == name) return name;
}

namespace {
void take_coordinates(Editing& e, const Project& project, const std::string& coordinates, std::string& note) {
    if (coordinates.empty()) return;
    const std::string& known = project.settings().coordinates;
    if (known.empty()) e.set(Kind::Settings, settings_id, "coordinates", coordinates, Origin::Imported);
    else if (known != coordinates)
        note =
            "its coordinates are " + coordinates + ", the project's " + known + ": check that it lies where it belongs";
}
}  // namespace

Edit surface_edit(const Project& project, AssetStore& assets, const SurfaceOffer& offer, SurfaceRole role) {
    Editing e(project, "Import surface " + offer.name);
    Surface s;
    s.id = random_id();
    s.name = free_name(project, Kind::Surface, offer.name.empty() ? "surface" : offer.name);
    s.role = role;
    s.asset = offer.asset.empty() ? assets.add(offer.text) : offer.asset;
    s.source = offer.source;
    s.coordinates = offer.coordinates;
    take_coordinates(e, project, offer.coordinates, s.note);
    for (const char* key : {"name", "role", "asset", "source", "coordinates"})
        s.origin[*field_index(Kind::Surface, key)] = Origin::Imported;
    e.insert(std::move(s));
    return e.take();
}

Edit background_edit(const Project& project, AssetStore& assets, const SiteOffer& offer) {
    Editing e(project, "Import background " + offer.name);
    Background b;
    b.id = random_id();
    b.name = free_name(project, Kind::Background, offer.name);
    b.content = offer.form == SiteForm::Picture ? BackgroundContent::Picture : BackgroundContent::Drawing;
    b.asset = offer.asset.empty() ? assets.add(offer.bytes) : offer.asset;
    b.source = file_name(offer.path);
    b.placing = offer.form == SiteForm::Picture ? offer.placing : std::vector<double>{offer.drawing.unit};
    b.coordinates = offer.coordinates;
    take_coordinates(e, project, offer.coordinates, b.note);
    for (const char* key : {"name", "asset", "source", "placing"})
        b.origin[*field_index(Kind::Background, key)] = Origin::Imported;
    e.insert(std::move(b));
    return e.take();
}

}  // namespace culvert
