// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/buried_lines.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <map>
#include <nlohmann/json.hpp>

#include "core/model/formula.h"
#include "exchange/delimited.h"
#include "exchange/dxf_read.h"
#include "exchange/json_member.h"
#include "exchange/site_import.h"
#include "exchange/vector_read.h"

namespace culvert {
namespace {

using Json = nlohmann::json;
constexpr std::size_t most_points = 2'000'000, most_remarks = 20;
constexpr double usual_size = 0.15;

class Reader {
  public:
    explicit Reader(const UnitSet& units) : units_(units), metre_(units.unit(Quantity::Length).factor) {}

    BuriedImport csv(const std::string& text) {
        const char separator = find_separator(text);
        const Cells rows = split_cells(text, separator);
        std::map<std::string, std::size_t> column;
        std::size_t head = 0;
        while (head < rows.size() && rows[head].empty()) ++head;
        if (head == rows.size()) return fail("it is empty: a head and one point a line are wanted");
        for (std::size_t i = 0; i < rows[head].size(); ++i) {
            std::string name = folded_name(rows[head][i]);
            for (const auto& [other, own] : {std::pair{"easting", "x"},
                                             {"northing", "y"},
                                             {"level", "z"},
                                             {"elevation", "z"},
                                             {"diameter", "size"},
                                             {"type", "kind"},
                                             {"line", "name"},
                                             {"utility", "kind"}})
                if (name == other) name = own;
            column.try_emplace(name, i);
        }
        for (const char* needed : {"name", "x", "y"})
            if (!column.contains(needed))
                return fail("line " + std::to_string(head + 1) + ": the head has no column \"" + needed +
                            "\": name the columns name, kind, size, x, y, z");
        std::map<std::string, std::size_t> known;
        for (std::size_t r = head + 1; r < rows.size(); ++r) {
            if (rows[r].empty()) continue;
            const std::string place = "line " + std::to_string(r + 1);
            const auto cell = [&](const char* name) -> std::string {
                const auto at = column.find(name);
                return at == column.end() || at->second >= rows[r].size() ? "" : trimmed(rows[r][at->second]);
            };
            const std::string name = cell("name");
            double x = 0, y = 0, z = not_given;
            if (name.empty()) {
                leave(place + ": it has no name");
                continue;
            }
            if (!number(cell("x"), x) || !number(cell("y"), y)) {
                leave(place + ": easting or northing is no number");
                continue;
            }
            if (const std::string level = cell("z"); !level.empty() && !number(level, z)) {
                leave(place + ": its level \"" + level.substr(0, 20) + "\" is no number");
                continue;
            }
            const auto [at, fresh] = known.try_emplace(name, out_.lines.size());
            if (fresh) {
                BuriedLine line = blank(name, cell("kind"));
                size(line, cell("size"), place);
                out_.lines.push_back(std::move(line));
            }
            add(out_.lines[at->second], x * metre_, y * metre_, std::isnan(z) ? z : z * metre_);
            if (++points_ > most_points) return fail("it has too many points");
        }
        return finish();
    }

    BuriedImport geojson(const std::string& text) {
        const Json root = Json::parse(text, nullptr, false);
        if (root.is_discarded()) return fail("it is no JSON: export the layer as GeoJSON");
        if (!root.is_object() || !root.contains("features") || !root["features"].is_array())
            return fail("it holds no features: a GeoJSON FeatureCollection is wanted");
        std::size_t number = 0;
        bool degrees = true;
        for (const Json& feature : root["features"]) {
            const std::string place = "feature " + std::to_string(++number);
            const Json* geometry = member(feature, "geometry");
            const Json* coordinates = geometry ? member(*geometry, "coordinates") : nullptr;
            const std::string type = geometry ? words(*geometry, {"type"}) : "";
            if (!coordinates || (type != "LineString" && type != "MultiLineString")) {
                leave(place + ": it is no line");
                continue;
            }
            const Json none = Json::object();
            const Json* given = member(feature, "properties");
            const Json& properties = given && given->is_object() ? *given : none;
            const Json parts = type == "LineString" ? Json::array({*coordinates}) : *coordinates;
            if (!parts.is_array()) {
                leave(place + ": its coordinates are no list");
                continue;
            }
            for (const Json& part : parts) {
                std::string name = words(properties, {"name", "id", "line"});
                if (name.empty()) name = "line " + std::to_string(out_.lines.size() + 1);
                BuriedLine line = blank(name, words(properties, {"kind", "type", "utility", "layer"}));
                size(line, words(properties, {"size", "diameter"}), place);
                const std::string of = folded_name(words(properties, {"level_of"}));
                if (of.find("centre") != std::string::npos || of.find("center") != std::string::npos)
                    line.level_of = LevelOf::Centre;
                if (of.find("bottom") != std::string::npos) line.level_of = LevelOf::Bottom;
                double whole = not_given;
                if (const Json* level = member(properties, "level"); level && level->is_number())
                    whole = level->get<double>() * metre_;
                bool good = part.is_array();
                if (good)
                    for (const Json& p : part) {
                        if (!p.is_array() || p.size() < 2 || !p[0].is_number() || !p[1].is_number() ||
                            (p.size() > 2 && !p[2].is_number()) || ++points_ > most_points) {
                            good = false;
                            break;
                        }
                        const double x = p[0].get<double>(), y = p[1].get<double>();
                        degrees = degrees && std::abs(x) <= 180 && std::abs(y) <= 90;
                        add(line, x * metre_, y * metre_, p.size() > 2 ? p[2].get<double>() * metre_ : whole);
                    }
                if (points_ > most_points) return fail("the layer has too many points");
                if (!good) leave(place + ": its coordinates are no places");
                else out_.lines.push_back(std::move(line));
            }
        }
        const Json* crs = member(root, "crs");
        if (crs && degrees && crs->dump().find("CRS84") != std::string::npos)
            return fail("its coordinates are degrees: export it in the project's coordinate system");
        return finish();
    }

    BuriedImport dxf(const std::string& text) {
        const DrawingOutcome read = read_dxf(text);
        if (!read.ok) return fail(read.problems.empty() ? "it is no drawing" : read.problems.front().message);
        for (const ImportProblem& p : read.problems) leave(p.message + ". " + p.remedy);
        std::map<int, int> count;
        for (const Drawing::Line& l : read.drawing.lines) {
            if (l.points.size() < 2) continue;
            const std::string layer = l.layer >= 0 && static_cast<std::size_t>(l.layer) < read.drawing.layers.size()
                                          ? read.drawing.layers[static_cast<std::size_t>(l.layer)]
                                          : "line";
            BuriedLine line = blank(layer + " " + std::to_string(++count[l.layer]), layer);
            line.size = usual_size;
            bool flat = true;
            for (const GroundPoint& p : l.points) flat = flat && p.z == 0;
            for (const GroundPoint& p : l.points) add(line, p.x, p.y, flat ? not_given : p.z);  // read in metres
            out_.lines.push_back(std::move(line));
        }
        if (!out_.lines.empty())
            leave("a drawing holds no sizes: " + units_.text(usual_size, Quantity::Size) + " is taken for all");
        return finish();
    }

    BuriedImport fail(std::string why) {
        out_ = {};
        out_.error = std::move(why);
        return std::move(out_);
    }

  private:
    static std::string words(const Json& object, std::initializer_list<const char*> keys) {
        for (const char* key : keys)
            if (const Json* value = member(object, key)) {
                if (value->is_string()) return value->get<std::string>();
                if (value->is_number()) return value->dump();
            }
        return {};
    }
    void leave(std::string remark) {
        if (out_.remarks.size() < most_remarks) out_.remarks.push_back(std::move(remark));
        else ++more_;
    }
    bool number(const std::string& cell, double& value) const {
        std::string rest;
        NumberStyle style;
        if (cell.find(',') != std::string::npos && cell.find('.') == std::string::npos) style.decimal = ',';
        return culvert::read_number(cell, style, value, &rest) && trimmed(rest).empty() && std::abs(value) < 1e12;
    }
    BuriedLine blank(const std::string& name, const std::string& kind) const {
        BuriedLine line;
        line.id = random_id();
        line.name = name.substr(0, 200);
        line.kind = line_kind_of(kind.empty() ? name : kind);
        line.size = not_given;
        return line;
    }
    void size(BuriedLine& line, const std::string& typed, const std::string& place) {
        line.size = usual_size;
        if (typed.empty()) {
            leave(place + ": " + line.name + " has no size: " + units_.text(usual_size, Quantity::Size) + " is taken");
            return;
        }
        const Entry e = read_entry(typed, Quantity::Size, units_);
        if (e.ok && e.value > 0 && e.value <= 20) line.size = e.value;
        else leave(place + ": the size of " + line.name + " is not understood: " + (e.ok ? "out of range" : e.error));
    }
    static void add(BuriedLine& line, double x, double y, double z) {
        if (!line.line.empty() && line.line.back() == Point{x, y}) return;
        line.line.push_back({x, y});
        line.levels.push_back(z);
    }
    BuriedImport finish() {
        std::erase_if(out_.lines, [this](const BuriedLine& l) {
            const bool bad = l.line.size() < 2 || !in_reach(l.line);
            if (bad) leave(l.name + (l.line.size() < 2 ? " has one point only" : " lies out of reach of any plan"));
            return bad;
        });
        for (BuriedLine& l : out_.lines)
            if (std::any_of(l.levels.begin(), l.levels.end(),
                            [](double z) { return std::isnan(z) || std::abs(z) > 9000; })) {
                const bool some =
                    std::any_of(l.levels.begin(), l.levels.end(), [](double z) { return !std::isnan(z); });
                if (some) leave(l.name + ": not all of its points have a level, so none is taken");
                l.levels.clear();
            }
        if (more_) out_.remarks.push_back("and " + std::to_string(more_) + " more");
        out_.ok = !out_.lines.empty();
        if (!out_.ok) out_.error = out_.remarks.empty() ? "it holds no line" : out_.remarks.front();
        return std::move(out_);
    }

    const UnitSet& units_;
    double metre_;
    std::size_t points_ = 0, more_ = 0;
    BuriedImport out_;
};

}  // namespace

LineKind line_kind_of(std::string_view given) {
    const std::string words = folded_name(given);
    for (const auto& [part, kind] : {std::pair{"water", LineKind::Water},
                                     {"gas", LineKind::Gas},
                                     {"sewer", LineKind::Sewer},
                                     {"foul", LineKind::Sewer},
                                     {"sanitary", LineKind::Sewer},
                                     {"electric", LineKind::Electricity},
                                     {"power", LineKind::Electricity},
                                     {"cable", LineKind::Electricity},
                                     {"communic", LineKind::Communication},
                                     {"telecom", LineKind::Communication},
                                     {"fibre", LineKind::Communication},
                                     {"fiber", LineKind::Communication},
                                     {"heat", LineKind::Heat},
                                     {"steam", LineKind::Heat},
                                     {"duct", LineKind::Duct},
                                     {"storm", LineKind::Storm}})
        if (words.find(part) != std::string::npos) return kind;
    return LineKind::Other;
}

BuriedImport read_buried_lines(const std::string& text, BuriedForm form, const UnitSet& units) {
    Reader reader(units);
    switch (form) {
        case BuriedForm::Csv: return reader.csv(text);
        case BuriedForm::GeoJson: return reader.geojson(text);
        case BuriedForm::Dxf: return reader.dxf(text);
    }
    return reader.fail("its form is not known");
}

BuriedImport load_buried_lines(const std::string& path, const UnitSet& units) {
    std::string ending = std::filesystem::path(path).extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    std::error_code ignored;
    if (!std::filesystem::is_regular_file(path, ignored)) return Reader(units).fail("it is no file that can be read");
    if (is_vector_file(path)) {
        const VectorText read = read_vector(path, units.unit(Quantity::Length).factor);
        if (!read.ok) return Reader(units).fail(read.error);
        BuriedImport out = read_buried_lines(read.text, BuriedForm::GeoJson, units);
        if (!read.remark.empty()) out.remarks.push_back(read.remark);
        return out;
    }
    std::ifstream file(path, std::ios::binary);
    if (!file) return Reader(units).fail("it cannot be read");
    const std::string text{std::istreambuf_iterator<char>(file), {}};
    if (ending == ".geojson" || ending == ".json") return read_buried_lines(text, BuriedForm::GeoJson, units);
    if (ending == ".dxf") return read_buried_lines(text, BuriedForm::Dxf, units);
    if (ending == ".csv" || ending == ".txt") return read_buried_lines(text, BuriedForm::Csv, units);
    return Reader(units).fail(
        "lines are read from CSV, GeoJSON, DXF, shapefile and GeoPackage: give the file one of these endings");
}

Edit buried_edit(const Project& project, const std::vector<BuriedLine>& lines, const std::string& source) {
    Editing e(project,
              lines.size() == 1 ? "Import a buried line" : "Import " + std::to_string(lines.size()) + " buried lines");
    for (BuriedLine line : lines) {
        line.name = free_name(e.now(), Kind::BuriedLine, line.name);
        line.source = source;
        for (const char* key : {"name", "kind", "line", "levels", "size", "source"})
            line.origin[*field_index(Kind::BuriedLine, key)] = Origin::Imported;
        if (line.level_of != LevelOf::Top)  // said by the file
            line.origin[*field_index(Kind::BuriedLine, "level_of")] = Origin::Imported;
        e.insert(std::move(line));
    }
    return e.take();
}

}  // namespace culvert
