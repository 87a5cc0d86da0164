// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/landxml.h"

#include <algorithm>
#include <charconv>
#include <cstring>
#include <pugixml.hpp>
#include <unordered_map>

namespace culvert {
namespace {

constexpr double survey_foot = 1200.0 / 3937.0, foot = 0.3048;

std::vector<double> numbers(const char* text) {
    std::vector<double> out;
    const char *at = text, *end = text + std::strlen(text);
    while (at < end) {
        while (at < end && (*at == ' ' || *at == '\n' || *at == '\t' || *at == '\r' || *at == ',')) ++at;
        double v = 0;
        const auto r = std::from_chars(at, end, v);
        if (r.ec != std::errc()) break;
        out.push_back(v);
        at = r.ptr;
    }
    return out;
}

int line_of(const std::string& text, std::ptrdiff_t offset) {
    const auto n = std::clamp<std::ptrdiff_t>(offset, 0, static_cast<std::ptrdiff_t>(text.size()));
    return 1 + static_cast<int>(std::count(text.begin(), text.begin() + n, '\n'));
}

/// Children by local name: files come with and without a namespace prefix.
template <class F>
void each(const pugi::xml_node& node, const char* name, F&& f) {
    for (const pugi::xml_node& child : node.children()) {
        const char* local = std::strrchr(child.name(), ':');
        if (!std::strcmp(local ? local + 1 : child.name(), name)) f(child);
    }
}
pugi::xml_node first(const pugi::xml_node& node, const char* name) {
    pugi::xml_node found;
    each(node, name, [&](const pugi::xml_node& n) {
        if (!found) found = n;
    });
    return found;
}

}  // namespace

LandXmlOutcome read_landxml(const std::string& text) {
    LandXmlOutcome out;
    pugi::xml_document document;
    const auto parsed = document.load_buffer(text.data(), text.size());
    if (!parsed) {
        out.problems.push_back({line_of(text, parsed.offset),
                                "the XML cannot be read on: an element is not closed, or the file is cut short",
                                "The file may be cut short: write it anew from where it came."});
        return out;
    }
    const pugi::xml_node root = first(document, "LandXML");
    if (!root) {
        out.problems.push_back(
            {1, "this is not a LandXML file: its root is \"" + std::string(document.first_child().name()) + "\"",
             "Choose a LandXML file."});
        return out;
    }
    double unit = 1;
    const pugi::xml_node units = first(root, "Units");
    if (const pugi::xml_node metric = first(units, "Metric")) {
        out.unit = metric.attribute("linearUnit").as_string("meter");
        if (out.unit == "millimeter") unit = 0.001;
        else if (out.unit == "centimeter") unit = 0.01;
        else if (out.unit == "kilometer") unit = 1000;
    } else if (const pugi::xml_node imperial = first(units, "Imperial")) {
        out.unit = imperial.attribute("linearUnit").as_string("foot");
        unit = out.unit == "USSurveyFoot" ? survey_foot : foot;
    } else out.problems.push_back({1, "the file names no unit", "Its numbers are read as metres."});
    const pugi::xml_node system = first(root, "CoordinateSystem");
    for (const char* key : {"epsgCode", "horizontalCoordinateSystemName", "desc", "name"})
        if (out.coordinates.empty() && system.attribute(key))
            out.coordinates =
                (std::strcmp(key, "epsgCode") ? "" : "EPSG:") + std::string(system.attribute(key).value());
    const auto point = [&](const std::vector<double>& n, std::size_t at, std::size_t size) {
        GroundPoint p;
        p.y = n[at] * unit;
        p.x = n[at + 1] * unit;
        if (size > 2) p.z = n[at + 2] * unit;
        return p;
    };
    each(root, "Surfaces", [&](const pugi::xml_node& surfaces) {
        each(surfaces, "Surface", [&](const pugi::xml_node& node) {
            SurfaceImport s;
            s.name = node.attribute("name").as_string("surface");
            s.data.coordinates = out.coordinates;
            const auto problem = [&](const pugi::xml_node& where, std::string message, std::string remedy) {
                ++s.left_out;
                if (s.problems.size() < 50)
                    s.problems.push_back({line_of(text, where.offset_debug()), std::move(message), std::move(remedy)});
            };
            const pugi::xml_node definition = first(node, "Definition");
            std::unordered_map<std::string, std::uint32_t> index;
            each(first(definition, "Pnts"), "P", [&](const pugi::xml_node& p) {
                const auto n = numbers(p.child_value());
                const std::string id = p.attribute("id").value();
                if (n.size() < 3)
                    return problem(p, "point " + id + " has " + std::to_string(n.size()) + " numbers, not three",
                                   "It is left out.");
                const GroundPoint at = point(n, 0, 3);
                if (!in_reach(at))
                    return problem(p, "point " + id + " lies beyond any ground", "It is left out. Is the unit right?");
                index[id] = static_cast<std::uint32_t>(s.data.points.size());
                s.data.points.push_back(at);
            });
            each(first(definition, "Faces"), "F", [&](const pugi::xml_node& f) {
                if (f.attribute("i").as_int() == 1) return;
                std::array<std::uint32_t, 3> face{};
                std::size_t k = 0;
                std::string word;
                for (const char* c = f.child_value();; ++c) {
                    if (*c && !std::strchr(" \t\r\n", *c)) {
                        word += *c;
                        continue;
                    }
                    if (!word.empty()) {
                        const auto at = index.find(word);
                        if (at == index.end())
                            return problem(f, "a face names point " + word + ", which is not there", "It is left out.");
                        if (k < 3) face[k] = at->second;
                        ++k;
                        word.clear();
                    }
                    if (!*c) break;
                }
                if (k != 3)
                    return problem(f, "a face has " + std::to_string(k) + " corners, not three", "It is left out.");
                s.data.faces.push_back(face);
            });
            const pugi::xml_node source = first(node, "SourceData");
            const auto list = [&](const pugi::xml_node& where, std::vector<GroundPoint>& line) {
                for (const auto& [name, size] : {std::pair{"PntList3D", std::size_t{3}}, {"PntList2D", std::size_t{2}}})
                    each(where, name, [&, size = size](const pugi::xml_node& l) {
                        const auto n = numbers(l.child_value());
                        if (n.size() % size)
                            problem(
                                l,
                                "a list of points has " + std::to_string(n.size()) + " numbers: some point lacks one",
                                "The last numbers are left out.");
                        for (std::size_t i = 0; i + size <= n.size(); i += size) line.push_back(point(n, i, size));
                    });
            };
            each(first(source, "Breaklines"), "Breakline", [&](const pugi::xml_node& b) {
                std::vector<GroundPoint> line;
                list(b, line);
                if (line.size() > 1) s.data.breaklines.push_back(std::move(line));
                else problem(b, "a breakline has fewer than two points", "It is left out.");
            });
            each(first(source, "DataPoints"), "PntList3D", [&](const pugi::xml_node& l) {
                const auto n = numbers(l.child_value());
                for (std::size_t i = 0; i + 3 <= n.size(); i += 3) s.data.points.push_back(point(n, i, 3));
            });
            each(first(source, "Boundaries"), "Boundary", [&](const pugi::xml_node& b) {
                std::vector<GroundPoint> ring;
                list(b, ring);
                std::vector<Point> plan;
                for (const GroundPoint& p : ring) plan.push_back({p.x, p.y});
                if (plan.size() < 3) return problem(b, "a boundary has fewer than three points", "It is left out.");
                (std::string(b.attribute("bndType").value()) == "outer" ? s.data.boundaries : s.data.holes)
                    .push_back(std::move(plan));
            });
            if (!s.data.faces.empty()) {  // the triangles already keep to the lines
                s.data.breaklines.clear();
                s.data.boundaries.clear();
                s.data.holes.clear();
            }
            s.ok = s.data.points.size() >= 3 || !s.data.breaklines.empty();
            if (!s.ok)
                s.problems.push_back({line_of(text, node.offset_debug()), "surface " + s.name + " has no points",
                                      "Choose another surface."});
            out.surfaces.push_back(std::move(s));
        });
    });
    if (out.surfaces.empty())
        out.problems.push_back({1, "the file holds no surface", "Write surfaces to it, with their points and faces."});
    return out;
}

}  // namespace culvert
