// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/dxf_read.h"

#include <dxflib/dl_creationadapter.h>
#include <dxflib/dl_dxf.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstring>
#include <map>
#include <numbers>
#include <set>
#include <sstream>

#include "core/base/numbers.h"

namespace culvert {
namespace {

constexpr double turn = 2 * std::numbers::pi;
constexpr int chords_of_circle = 72, most_nested = 8;
constexpr std::size_t most_copies = 1'000'000, most_copied_points = 3'000'000;  ///< of blocks
constexpr std::size_t longest_line = 1000;  ///< characters; the library reads lines of up to 1,023
constexpr auto most_time = std::chrono::seconds(60);

/// Metres of the units that the format numbers.
double unit_metres(int code) {
    switch (code) {
        case 1: return 0.0254;
        case 2: return 0.3048;
        case 4: return 0.001;
        case 5: return 0.01;
        case 6: return 1;
        case 7: return 1000;
        case 10: return 0.9144;
        case 14: return 0.1;
        case 21: return 1200.0 / 3937.0;
        default: return 0;
    }
}

/// Reading ends here: why, and what helps.
struct Enough {
    std::string message, remedy;
};

/// The file's lines, looked at before the library sees them: lines too long for it are cut, counts that would make it
/// take memory for what the file does not hold are refused.
std::string prepared(const std::string& text, std::vector<ImportProblem>& problems) {
    std::string cut;  // empty as long as nothing had to be changed
    const auto lines = static_cast<long>(std::count(text.begin(), text.end(), '\n')) + 1;
    bool counts = false;
    int code = 0;
    std::size_t number = 0, shortened = 0;
    for (std::size_t at = 0; at < text.size();) {
        const auto end = std::min(text.find('\n', at), text.size());
        std::string_view line = std::string_view(text).substr(at, end - at);
        ++number;
        if (line.size() > longest_line) {
            if (cut.empty()) cut.assign(text, 0, at);
            if (++shortened == 1)
                problems.push_back({static_cast<int>(number),
                                    "a line of " + std::to_string(line.size()) + " characters is read to its " +
                                        std::to_string(longest_line) + "th",
                                    "Shorten the text if it matters"});
            cut.append(line.substr(0, longest_line));
            cut += '\n';
        } else if (!cut.empty()) {
            cut.append(line);
            cut += '\n';
        }
        const std::string word = trimmed(line.substr(0, 40));
        if (number % 2 == 1) {
            code = -1;
            parse_int(word, code);
        } else if (code == 0)
            counts = word == "LWPOLYLINE" || word == "SPLINE" || word == "HATCH" || word == "LEADER" || word == "MLINE";
        else if (counts && ((code >= 72 && code <= 76) || (code >= 90 && code <= 97))) {
            double count = 0;
            if (parse_double(word, count) && count > static_cast<double>(lines))
                throw Enough{"line " + std::to_string(number) + " announces " + word +
                                 " parts of an entity; the file has " + std::to_string(lines) + " lines",
                             "The file is damaged: write it anew from where it came"};
        }
        at = end + 1;
    }
    return cut;
}

struct Insert {
    std::string block;
    GroundPoint at;
    double sx, sy, angle;
    int columns, rows;
    double column_space, row_space;
    int layer;
};
struct Content {
    Drawing drawing;
    std::vector<Insert> inserts;
    GroundPoint base;
};

class Collector : public DL_CreationAdapter {
  public:
    std::vector<std::string> layers;
    std::map<std::string, int> layer_index;
    std::map<std::string, Content> blocks;
    Content model;
    double unit = 0;
    std::size_t skipped = 0, bad = 0, copies = 0, copied_points = 0;
    const std::stop_token& stop;
    const std::chrono::steady_clock::time_point until = std::chrono::steady_clock::now() + most_time;

    explicit Collector(const std::stop_token& token) : stop(token) {}
    /// Called for every entity that is read or copied.
    void go_on() {
        if (++looked_ % 1024) return;
        if (stop.stop_requested()) throw Enough{"it was stopped", "Read it again to have it"};
        if (std::chrono::steady_clock::now() > until)
            throw Enough{"reading it takes longer than a minute", "Write a part of the drawing, or without its blocks"};
    }
    void copied(std::size_t points) {
        go_on();
        copied_points += points + 1;
        if (copied_points > most_copied_points)
            throw Enough{"its blocks, put in place, make more than " + std::to_string(most_copied_points) + " points",
                         "Write the drawing without the blocks that repeat, or only the layers that are needed"};
    }

    int layer() {
        go_on();
        std::string name = attributes.getLayer();
        if (name.empty()) name = "0";
        const auto [at, fresh] = layer_index.emplace(name, static_cast<int>(layers.size()));
        if (fresh) layers.push_back(name);
        return at->second;
    }
    Content& here() { return block_ ? *block_ : model; }
    void addLayer(const DL_LayerData& d) override {
        if (layer_index.emplace(d.name, static_cast<int>(layers.size())).second) layers.push_back(d.name);
    }
    void addBlock(const DL_BlockData& d) override {
        flush();
        block_ = &blocks[d.name];
        block_->base = {d.bpx, d.bpy, d.bpz};
    }
    void endBlock() override {
        flush();
        block_ = nullptr;
    }
    void setVariableInt(const std::string& key, int value, int) override {
        if (key == "$INSUNITS") unit = unit_metres(value);
    }
    bool good(std::initializer_list<double> values) {
        for (const double v : values)
            if (!std::isfinite(v) || std::abs(v) > 1e12) {
                ++bad;
                return false;
            }
        return true;
    }
    void addPoint(const DL_PointData& d) override {
        if (good({d.x, d.y, d.z})) here().drawing.points.push_back({layer(), {d.x, d.y, d.z}});
    }
    void addLine(const DL_LineData& d) override {
        if (good({d.x1, d.y1, d.z1, d.x2, d.y2, d.z2}))
            here().drawing.lines.push_back({layer(), false, {{d.x1, d.y1, d.z1}, {d.x2, d.y2, d.z2}}});
    }
    void arc(double x, double y, double z, double radius, double a, double sweep, bool closed) {
        if (!good({x, y, z, radius, a, sweep})) return;
        Drawing::Line l{layer(), closed, {}};
        const int n = std::max(2, static_cast<int>(std::ceil(std::abs(sweep) / turn * chords_of_circle)));
        for (int i = 0; i <= n; ++i) {
            const double t = a + sweep * i / n;
            l.points.push_back({x + radius * std::cos(t), y + radius * std::sin(t), z});
        }
        here().drawing.lines.push_back(std::move(l));
    }
    void addArc(const DL_ArcData& d) override {
        double sweep = (d.angle2 - d.angle1) / 360 * turn;
        if (sweep <= 0) sweep += turn;
        arc(d.cx, d.cy, d.cz, d.radius, d.angle1 / 360 * turn, sweep, false);
    }
    void addCircle(const DL_CircleData& d) override { arc(d.cx, d.cy, d.cz, d.radius, 0, turn, true); }
    void addEllipse(const DL_EllipseData& d) override {
        if (!good({d.cx, d.cy, d.mx, d.my, d.ratio, d.angle1, d.angle2})) return;
        Drawing::Line l{layer(), false, {}};
        double sweep = d.angle2 - d.angle1;
        if (sweep <= 0) sweep += turn;
        for (int i = 0; i <= chords_of_circle; ++i) {
            const double t = d.angle1 + sweep * i / chords_of_circle;
            l.points.push_back({d.cx + d.mx * std::cos(t) - d.my * d.ratio * std::sin(t),
                                d.cy + d.my * std::cos(t) + d.mx * d.ratio * std::sin(t), d.cz});
        }
        here().drawing.lines.push_back(std::move(l));
    }
    void addPolyline(const DL_PolylineData& d) override {
        flush();
        open_ = true;
        line_ = {layer(), (d.flags & 1) != 0, {}};
        elevation_ = d.elevation;
        mesh_ = (d.flags & (16 | 64)) != 0;
        bulge_ = 0;
    }
    void addVertex(const DL_VertexData& d) override {
        if (!open_ || mesh_ || !good({d.x, d.y, d.z, d.bulge})) return;
        const GroundPoint next{d.x, d.y, d.z != 0 ? d.z : elevation_};
        bulge(next);
        line_.points.push_back(next);
        bulge_ = d.bulge;
    }
    void endEntity() override { flush(); }  // the library calls endSection after each vertex too: no end of a line
    void addText(const DL_TextData& d) override {
        if (good({d.ipx, d.ipy, d.height, d.angle}))
            here().drawing.texts.push_back({layer(), {d.ipx, d.ipy}, d.height, d.angle, d.text});
    }
    void addMTextChunk(const std::string& text) override { chunks_ += text; }
    void addMText(const DL_MTextData& d) override {
        std::string text = chunks_ + d.text, plain;
        chunks_.clear();
        for (std::size_t i = 0; i < text.size(); ++i) {  // formatting codes go, the words stay
            if (text[i] == '{' || text[i] == '}') continue;
            if (text[i] == '\\' && i + 1 < text.size()) {
                const char c = text[++i];
                if (c == 'P' || c == '~') plain += ' ';
                else if (c == '\\' || c == '{' || c == '}') plain += c;
                else if (const auto end = text.find(';', i); end != std::string::npos && std::strchr("ACFHQTWfp", c))
                    i = end;
            } else plain += text[i];
        }
        if (good({d.ipx, d.ipy, d.height, d.angle}))
            here().drawing.texts.push_back({layer(), {d.ipx, d.ipy}, d.height, d.angle, plain});
    }
    void add3dFace(const DL_3dFaceData& d) override {
        Drawing::Face f{layer(), {}};
        for (std::size_t i = 0; i < 4; ++i) {
            f.corners[i] = {d.x[i], d.y[i], d.z[i]};
            if (!good({d.x[i], d.y[i], d.z[i]})) return;
        }
        here().drawing.faces.push_back(f);
    }
    void addInsert(const DL_InsertData& d) override {
        if (good({d.ipx, d.ipy, d.sx, d.sy, d.angle}))
            here().inserts.push_back({d.name,
                                      {d.ipx, d.ipy, d.ipz},
                                      d.sx,
                                      d.sy,
                                      d.angle / 360 * turn,
                                      std::clamp(d.cols, 1, 200),
                                      std::clamp(d.rows, 1, 200),
                                      d.colSp,
                                      d.rowSp,
                                      layer()});
    }
    void addSpline(const DL_SplineData&) override { ++skipped; }
    void addHatch(const DL_HatchData&) override { ++skipped; }
    void addImage(const DL_ImageData&) override { ++skipped; }

    void flush() {
        if (!open_) return;
        open_ = false;
        if (line_.closed && !line_.points.empty()) {
            bulge(line_.points.front());
            line_.points.push_back(line_.points.front());
        }
        if (line_.points.size() > 1) here().drawing.lines.push_back(std::move(line_));
        line_ = {};
    }
    /// Whether a block puts anything in place, itself or by blocks inside it.
    bool holds_anything(const std::string& name) {
        if (holds_.empty()) {
            for (const auto& [block, content] : blocks) {
                const Drawing& d = content.drawing;
                if (!d.lines.empty() || !d.points.empty() || !d.faces.empty() || !d.texts.empty()) holds_.insert(block);
            }
            for (int depth = 0; depth <= most_nested; ++depth)
                for (const auto& [block, content] : blocks)
                    if (!holds_.contains(block) &&
                        std::any_of(content.inserts.begin(), content.inserts.end(),
                                    [this](const Insert& i) { return holds_.contains(i.block); }))
                        holds_.insert(block);
            holds_.insert("");
        }
        return holds_.contains(name);
    }

    /// Puts a block's content in place, and that of blocks inside it.
    void place(const Content& block, const Insert& i, int depth) {
        if (depth > most_nested) return;
        const double c = std::cos(i.angle), s = std::sin(i.angle);
        for (int row = 0; row < i.rows; ++row)
            for (int column = 0; column < i.columns; ++column) {
                if (++copies > most_copies)
                    throw Enough{"its blocks are inserted more than " + std::to_string(most_copies) + " times",
                                 "Write the drawing without the blocks that repeat"};
                const auto moved = [&](GroundPoint p) {
                    const double x = (p.x - block.base.x) * i.sx + column * i.column_space,
                                 y = (p.y - block.base.y) * i.sy + row * i.row_space;
                    return GroundPoint{i.at.x + c * x - s * y, i.at.y + s * x + c * y, i.at.z + p.z - block.base.z};
                };
                const auto on = [&](int l) { return layers[static_cast<std::size_t>(l)] == "0" ? i.layer : l; };
                for (Drawing::Line l : block.drawing.lines) {
                    copied(l.points.size());
                    for (GroundPoint& p : l.points) p = moved(p);
                    l.layer = on(l.layer);
                    model.drawing.lines.push_back(std::move(l));
                }
                for (const Drawing::Text& t : block.drawing.texts) {
                    copied(1 + t.text.size() / 16);
                    const GroundPoint p = moved({t.at.x, t.at.y, 0});
                    model.drawing.texts.push_back(
                        {on(t.layer), {p.x, p.y}, t.height * std::abs(i.sy), t.angle + i.angle, t.text});
                }
                for (const Drawing::Spot& p : block.drawing.points) {
                    copied(1);
                    model.drawing.points.push_back({on(p.layer), moved(p.at)});
                }
                for (Drawing::Face f : block.drawing.faces) {
                    copied(4);
                    for (GroundPoint& p : f.corners) p = moved(p);
                    f.layer = on(f.layer);
                    model.drawing.faces.push_back(f);
                }
                for (const Insert& inner : block.inserts)
                    if (const auto at = blocks.find(inner.block); at != blocks.end() && holds_anything(inner.block)) {
                        Insert outer = inner;
                        outer.at = moved(inner.at);
                        outer.sx *= i.sx;
                        outer.sy *= i.sy;
                        outer.angle += i.angle;
                        place(at->second, outer, depth + 1);
                    }
            }
    }

  private:
    /// The arc of the last vertex's bulge, as chords up to the next vertex.
    void bulge(const GroundPoint& to) {
        if (bulge_ == 0 || line_.points.empty()) return;
        const GroundPoint a = line_.points.back();
        const double angle = 4 * std::atan(bulge_), dx = to.x - a.x, dy = to.y - a.y, l = std::hypot(dx, dy);
        bulge_ = 0;
        if (l == 0 || std::abs(angle) < 1e-9) return;
        const double r = l / 2 / std::sin(angle / 2), h = r * std::cos(angle / 2);
        const double cx = (a.x + to.x) / 2 - dy / l * h, cy = (a.y + to.y) / 2 + dx / l * h,
                     start = std::atan2(a.y - cy, a.x - cx);
        const int n = std::max(2, static_cast<int>(std::ceil(std::abs(angle) / turn * chords_of_circle)));
        for (int i = 1; i < n; ++i) {
            const double t = start + angle * i / n;
            line_.points.push_back(
                {cx + std::abs(r) * std::cos(t), cy + std::abs(r) * std::sin(t), a.z + (to.z - a.z) * i / n});
        }
    }
    Content* block_ = nullptr;
    Drawing::Line line_;
    bool open_ = false, mesh_ = false;
    double elevation_ = 0, bulge_ = 0;
    std::string chunks_;
    std::size_t looked_ = 0;
    std::set<std::string> holds_;  ///< names of blocks that hold anything; empty as long as it was not asked
};

void scale(GroundPoint& p, double unit) {
    p.x *= unit;
    p.y *= unit;
    p.z *= unit;
}

/// What lies where no site is: left out, and said.
void drop_out_of_reach(Drawing& d, std::vector<ImportProblem>& problems) {
    const auto far = [](const GroundPoint& p) { return !in_reach(p); };
    std::size_t gone = std::erase_if(d.points, [&](const Drawing::Spot& s) { return far(s.at); });
    gone += std::erase_if(d.lines,
                          [&](const Drawing::Line& l) { return std::any_of(l.points.begin(), l.points.end(), far); });
    gone += std::erase_if(d.faces,
                          [&](const Drawing::Face& f) { return std::any_of(f.corners.begin(), f.corners.end(), far); });
    gone += std::erase_if(d.texts, [](const Drawing::Text& t) {
        return !in_reach(t.at) || !(std::abs(t.height) < plan_reach) || !std::isfinite(t.angle);
    });
    if (gone)
        problems.push_back({0,
                            std::to_string(gone) + " entities lie farther than " + fixed(plan_reach / 1000, 0) +
                                " km away or " + fixed(level_reach / 1000, 0) + " km high",
                            "They are left out. Is the unit right?"});
}

}  // namespace

DrawingOutcome read_dxf(const std::string& text, double unit, const std::stop_token& stop) {
    DrawingOutcome out;
    const auto refused = [&out](int line, std::string message, std::string remedy) {
        out.problems.push_back({line, std::move(message), std::move(remedy)});
        out.drawing = {};
        out.ok = false;
        return out;
    };
    const auto first = text.find_first_not_of(" \t\r\n\xef\xbb\xbf");
    if (first == std::string::npos) return refused(1, "the file is empty", "Write it anew from where it came.");
    if (text.substr(0, 22).find("Binary DXF") != std::string::npos)
        return refused(1, "this is a binary DXF", "Save it as text DXF.");
    if (text.find("SECTION") == std::string::npos)
        return refused(1, "this is not a DXF: it has no SECTION", "Choose a DXF file in text form.");
    const int lines = static_cast<int>(std::count(text.begin(), text.end(), '\n'));
    const auto last = text.find_last_not_of(" \t\r\n");
    const bool whole = last != std::string::npos && last >= 2 && text.compare(last - 2, 3, "EOF") == 0;
    Collector c(stop);
    std::size_t unknown = 0;
    try {
        const std::string cut = prepared(text, out.problems);
        std::istringstream stream(cut.empty() ? text : cut);
        DL_Dxf reader;
        reader.in(stream, &c);
        c.flush();
        const auto inserts = c.model.inserts;
        for (const Insert& i : inserts) {
            const auto at = c.blocks.find(i.block);
            if (at == c.blocks.end()) ++unknown;
            else if (c.holds_anything(i.block)) c.place(at->second, i, 0);
        }
    } catch (const Enough& e) { return refused(0, e.message, e.remedy); } catch (const std::bad_alloc&) {
        return refused(0, "there is not enough memory for the drawing", "Write a part of it.");
    }
    if (!whole)
        out.problems.push_back({lines + 1, "the drawing is cut short: its end (EOF) is missing",
                                "What stands before line " + std::to_string(lines + 1) +
                                    " is shown; write the file anew to have it all."});
    if (c.bad)
        out.problems.push_back(
            {0, std::to_string(c.bad) + " entities have coordinates that are no plain numbers", "They are left out."});
    if (c.skipped)
        out.problems.push_back({0, std::to_string(c.skipped) + " splines, hatches or pictures are not shown",
                                "Turn them into lines if they matter."});
    if (unknown)
        out.problems.push_back(
            {0, std::to_string(unknown) + " blocks are inserted that the drawing does not hold", "They are left out."});
    out.drawing = std::move(c.model.drawing);
    Drawing& d = out.drawing;
    d.layers = c.layers;
    d.unit_known = c.unit > 0;
    d.unit = unit > 0 ? unit : (c.unit > 0 ? c.unit : 1);
    if (d.unit != 1) {
        for (auto& l : d.lines)
            for (GroundPoint& p : l.points) scale(p, d.unit);
        for (auto& p : d.points) scale(p.at, d.unit);
        for (auto& f : d.faces)
            for (GroundPoint& p : f.corners) scale(p, d.unit);
        for (auto& t : d.texts) {
            t.at = {t.at.x * d.unit, t.at.y * d.unit};
            t.height *= d.unit;
        }
    }
    drop_out_of_reach(d, out.problems);
    if (!d.unit_known && unit <= 0)
        out.problems.push_back(
            {0, "the drawing does not say its unit", "It is read as metres; choose another if it does not fit."});
    out.ok = !(d.lines.empty() && d.points.empty() && d.faces.empty() && d.texts.empty());
    if (!out.ok)
        out.problems.push_back({0, "the drawing holds nothing that can be shown", "Check that it was written whole."});
    return out;
}

SurfaceImport surface_of(const Drawing& d, const std::vector<bool>& layers) {
    SurfaceImport out;
    const auto on = [&](int l) {
        return static_cast<std::size_t>(l) < layers.size() && layers[static_cast<std::size_t>(l)];
    };
    for (const auto& p : d.points)
        if (on(p.layer)) out.data.points.push_back(p.at);
    std::map<std::tuple<double, double, double>, std::uint32_t> index;
    const auto vertex = [&](const GroundPoint& p) {
        const auto [at, fresh] =
            index.emplace(std::tuple(p.x, p.y, p.z), static_cast<std::uint32_t>(out.data.points.size()));
        if (fresh) out.data.points.push_back(p);
        return at->second;
    };
    for (const auto& f : d.faces) {
        if (!on(f.layer)) continue;
        const auto a = vertex(f.corners[0]), b = vertex(f.corners[1]), c = vertex(f.corners[2]),
                   e = vertex(f.corners[3]);
        if (a != b && b != c && a != c) out.data.faces.push_back({a, b, c});
        if (e != c && e != a && a != c) out.data.faces.push_back({a, c, e});
    }
    std::size_t level = 0;
    for (const auto& l : d.lines) {
        if (!on(l.layer)) continue;
        // Lines at level 0 with everything else higher were drawn flat: they have no level.
        bool flat = true;
        for (const GroundPoint& p : l.points) flat = flat && p.z == 0;
        if (flat) ++level;
        else out.data.breaklines.push_back(l.points);
    }
    if (level)
        out.problems.push_back(
            {0, std::to_string(level) + " lines have no level", "They are left out of the surface."});
    out.ok = out.data.points.size() + 2 * out.data.breaklines.size() >= 3;
    if (!out.ok)
        out.problems.push_back(
            {0, "the chosen layers hold fewer than three points with levels", "Choose the layers of the survey."});
    return out;
}

}  // namespace culvert
