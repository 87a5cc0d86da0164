// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/drawing_files.h"

#include <dxflib/dl_dxf.h>
#include <unistd.h>

#include <cmath>
#include <cstdlib>
#include <filesystem>
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
                               {"TEXT-BEYOND", "A8322A", 0.18, false},
                               {"CONTOURS", "C9A87E", 0.13, false},
                               {"CATCHMENTS", "8FA98F", 0.18, true},
                               {"STREETS", "9A958A", 0.18, false},
                               {"BURIED-LINES", "6A5A8A", 0.35, true}};
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
/// A file of our own in the folder for temporary ones: the DXF library writes to a name only.
struct Scratch {
    std::string path;  ///< empty where there is no such folder
    Scratch() {
        std::error_code none;
        const std::filesystem::path folder = std::filesystem::temp_directory_path(none);
        if (none) return;
        path = (folder / "calm-culvert-XXXXXX").string();
        const int file = ::mkstemp(path.data());
        if (file >= 0) ::close(file);
    }
    ~Scratch() { ::unlink(path.c_str()); }
    Scratch(const Scratch&) = delete;
    Scratch& operator=(const Scratch&) = delete;
};
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

std::string dxf_of(const DisplayList& list, double height) {
    const Scratch scratch;
    DL_Dxf dxf;
    const std::unique_ptr<DL_WriterA> w(dxf.out(scratch.path.c_str(), DL_Codes::AC1009));
    if (!w || w->openFailed()) return {};
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
            dxf.writeText(*w, DL_TextData(p.x, p.y, 0, p.x, p.y, 0, height, 1, 0, 0, 0, plain, "STANDARD", 0), at);
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
    std::string bytes;
    const bool read = read_file(scratch.path, bytes, std::size_t{1} << 30).empty();
    return read && bytes.ends_with("EOF\n") ? bytes : std::string();  // the writer cannot tell of a full disk
}

DrawingForm drawing_form(const std::string& path) {
    std::string ending = std::filesystem::path(path).extension().string();
    for (char& c : ending)
        if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
    return ending == ".svg" ? DrawingForm::Svg : ending == ".dxf" ? DrawingForm::Dxf : DrawingForm::None;
}

SaveOutcome save_drawing(const DisplayList& list, double width, double height, const std::string& path,
                         double letter_height) {
    const DrawingForm form = drawing_form(path);
    if (form == DrawingForm::Svg) return save_text(svg_of(list, width, height), path);
    if (form != DrawingForm::Dxf) return {false, path + ": give the file the ending .svg or .dxf"};
    const std::string bytes = dxf_of(list, letter_height);
    if (bytes.empty())
        return {false, path +
                           ": no drawing could be made in the folder for temporary files (TMPDIR): is it there, "
                           "and the disk not full?"};
    return save_text(bytes, path);
}

}  // namespace culvert
