// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/drawing_files.h"

#include <dxflib/dl_dxf.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <memory>
#include <set>

#include "core/base/contract.h"
#include "core/base/numbers.h"

namespace culvert {
namespace {

constexpr InkStyle styles[] = {{"GROUND", "8A5A2B", 0.35, false},
                               {"STRUCTURES", "1F2D36", 0.35, false},
                               {"BARRELS", "3E7D5A", 0.5, false},
                               {"BARRELS-NEAR", "B98218", 0.5, true},
                               {"BARRELS-BEYOND", "A8322A", 0.6, false},
                               {"BARRELS-UNKNOWN", "8A8F94", 0.35, true},
                               {"WATER", "A9D2D4", 0, false},
                               {"HGL", "2F7E8C", 0.5, false},
                               {"EGL", "2F7E8C", 0.25, true},
                               {"TEXT", "1F2D36", 0.18, false},
                               {"GRID", "B9B3A4", 0.13, false},
                               {"TEXT-BEYOND", "A8322A", 0.18, false}};
constexpr double letters = 2.5;  ///< mm

/// A tenth of a micrometre of paper is exact enough, whatever the locale.
std::string number(double v) { return fixed(v, 4); }
std::string escaped(const std::string& s) {
    std::string out;
    for (const char c : s) {
        if (c == '<') out += "&lt;";
        else if (c == '>') out += "&gt;";
        else if (c == '&') out += "&amp;";
        else if (static_cast<unsigned char>(c) >= 0x20) out += c;
    }
    return out;
}
/// A writer that cannot tell of a full disk is read back: the last line is the end of the file.
bool whole(const std::string& path) {
    std::ifstream file(path, std::ios::binary);
    file.seekg(-4, std::ios::end);
    std::string end(4, ' ');
    return file.read(end.data(), 4) && end == "EOF\n";
}
bool finite(const Drawn& d) {
    for (const Point& p : d.points)
        if (!std::isfinite(p.x) || !std::isfinite(p.y)) return false;
    return !d.points.empty();
}

}  // namespace

InkStyle style_of(Ink ink) { return nth(styles, ink); }

std::string svg_of(const DisplayList& list, double width, double height) {
    std::string out = "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"" +
                      number(width) + "mm\" height=\"" + number(height) + "mm\" viewBox=\"0 0 " + number(width) + " " +
                      number(height) + "\">\n<rect width=\"100%\" height=\"100%\" fill=\"#ffffff\"/>\n";
    for (const Drawn& d : list) {
        if (!finite(d)) continue;
        const InkStyle s = style_of(d.ink);
        if (d.type == Drawn::Type::Text) {
            out += "<text x=\"" + number(d.points.front().x) + "\" y=\"" + number(height - d.points.front().y) +
                   "\" font-family=\"Open Sans, DejaVu Sans, sans-serif\" font-size=\"" + number(letters) +
                   "\" fill=\"#" + s.colour + "\">" + escaped(d.text) + "</text>\n";
            continue;
        }
        const bool area = d.type == Drawn::Type::Area;
        out += area ? "<polygon points=\"" : "<polyline points=\"";
        for (const Point& p : d.points) out += number(p.x) + "," + number(height - p.y) + " ";
        out.back() = '"';
        if (area) out += std::string(" fill=\"#") + s.colour + "\"/>\n";
        else
            out += std::string(" fill=\"none\" stroke=\"#") + s.colour + "\" stroke-width=\"" + number(s.width) + "\"" +
                   (s.dashed ? " stroke-dasharray=\"2 1\"" : "") + "/>\n";
    }
    return out + "</svg>\n";
}

std::string write_dxf(const DisplayList& list, const std::string& path) {
    std::error_code ignored;
    if (std::filesystem::exists(path, ignored) && !std::filesystem::is_regular_file(path, ignored))
        return "is no regular file: choose another name";
    // Written beside it and renamed: the old file stands until the new one is whole.
    const std::string beside = path + ".part";
    DL_Dxf dxf;
    const std::unique_ptr<DL_WriterA> w(dxf.out(beside.c_str(), DL_Codes::AC1009));
    if (!w || w->openFailed()) return "cannot be written: is its folder there, and open to you?";
    dxf.writeHeader(*w);
    w->sectionEnd();
    w->sectionTables();
    std::set<std::string> layers;
    for (const Drawn& d : list) layers.insert(style_of(d.ink).layer);
    w->tableLinetypes(2);
    dxf.writeLinetype(*w, DL_LinetypeData("CONTINUOUS", "Solid line", 0, 0, 0.0));
    double dashes[] = {2, -1};
    dxf.writeLinetype(*w, DL_LinetypeData("DASHED", "Dashed", 0, 2, 3.0, dashes));
    w->tableEnd();
    w->tableLayers(static_cast<int>(layers.size()) + 1);
    dxf.writeLayer(*w, DL_LayerData("0", 0), DL_Attributes("", 7, -1, "CONTINUOUS", 1.0));
    for (const InkStyle& s : styles)
        if (layers.contains(s.layer))
            dxf.writeLayer(*w, DL_LayerData(s.layer, 0),
                           DL_Attributes("", DL_Codes::black, -1, s.dashed ? "DASHED" : "CONTINUOUS", 1.0));
    w->tableEnd();
    w->sectionEnd();
    w->sectionEntities();
    for (const Drawn& d : list) {
        if (!finite(d)) continue;
        const DL_Attributes at(style_of(d.ink).layer, 256, -1, "BYLAYER", 1.0);
        if (d.type == Drawn::Type::Text) {
            const Point p = d.points.front();
            std::string plain;
            for (const char c : d.text)
                if (static_cast<unsigned char>(c) >= 0x20) plain += c;
            dxf.writeText(*w, DL_TextData(p.x, p.y, 0, p.x, p.y, 0, letters, 1, 0, 0, 0, plain, "STANDARD", 0), at);
            continue;
        }
        const bool closed = d.type == Drawn::Type::Area;
        dxf.writePolyline(*w, DL_PolylineData(static_cast<int>(d.points.size()), 0, 0, closed ? 1 : 0), at);
        for (const Point& p : d.points) dxf.writeVertex(*w, DL_VertexData(p.x, p.y, 0, 0));
        dxf.writePolylineEnd(*w);
    }
    w->sectionEnd();
    w->dxfEOF();
    w->close();
    if (!whole(beside)) {
        std::filesystem::remove(beside, ignored);
        return "could not be written whole: is the disk full?";
    }
    std::filesystem::rename(beside, path, ignored);
    if (!ignored) return {};
    std::filesystem::remove(beside, ignored);
    return "cannot be written: is its folder open to you?";
}

}  // namespace culvert
