// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/quick.h"

#include <cmath>

#include "core/hydraulics/uniform_flow.h"
#include "report/calc.h"

namespace culvert {
namespace {

struct Parsed {
    double size = not_given, slope = not_given, flow = not_given;
    bool capacity = false, ratio = false, size_for = false, spread = false, bad = false;
};

bool is_unit_of(const std::string& unit, Quantity q) {
    return read_entry("1" + unit, q, UnitSet()).ok && !unit.empty();
}

Parsed parse(const std::string& text, const UnitSet& units) {
    Parsed p;
    std::vector<std::string> words(1);
    for (const char c : text) {
        if (c == ' ') {
            if (!words.back().empty()) words.emplace_back();
        } else words.back() += c;
    }
    if (words.back().empty()) words.pop_back();
    for (std::size_t i = 0; i < words.size(); ++i) {
        std::string w = words[i];
        if (w == "capacity") p.capacity = true;
        else if (w == "ratio") p.ratio = true;
        else if (w == "size") p.size_for = true;
        else if (w == "spread") p.spread = true;
        else if (w == "flow" || w == "for" || w == "at" || w == "of") continue;
        else if (w.find_first_of("0123456789") == 0 || w[0] == '.') {
            auto end = w.find_first_not_of("0123456789.,:");
            std::string number = w.substr(0, end), unit = end == std::string::npos ? "" : w.substr(end);
            if (unit.empty() && i + 1 < words.size() && words[i + 1].find_first_of("0123456789.") != 0 &&
                words[i + 1] != "at" && words[i + 1] != "for")
                unit = words[++i];
            if (number.find(':') != std::string::npos || is_unit_of(unit, Quantity::Slope)) {
                const Entry e = read_entry(number + unit, Quantity::Slope, units);
                if (e.ok) p.slope = e.value;
                else p.bad = true;
            } else if (is_unit_of(unit, Quantity::Flow))
                p.flow = read_entry(number + unit, Quantity::Flow, units).value;
            else if (unit.empty() || is_unit_of(unit, Quantity::Size)) {
                const Entry e = read_entry(number + unit, Quantity::Size, units);
                if (e.ok) p.size = e.value;
                else p.bad = true;
            } else p.bad = true;
        } else p.bad = true;
    }
    return p;
}

}  // namespace

QuickAnswer quick_question(const std::string& text, const Project& project) {
    const UnitSet u = units_of(project);
    const Parsed p = parse(text, u);
    QuickAnswer a;
    constexpr double n = 0.013;
    if (p.bad || !(p.slope > 0)) return a;
    if (p.spread && p.flow > 0) {
        const CalcAnswer found =
            calculate(*find_calc("gutter"), {{"flow", p.flow}, {"grade", p.slope}}, project.settings().edition, false);
        if (!found.ok) return a;
        a.understood = true;
        a.answer = "spread " + u.text(found.values.at("spread"), Quantity::Length);
        a.working = "depth " + u.text(found.values.at("depth"), Quantity::Length) +
                    ", V = " + u.text(found.values.at("velocity"), Quantity::Velocity) +
                    ", cross slope 2 %, gutter 0.5 m at 5 %, n = 0.016";
        return a;
    }
    const std::string fine = ", n = " + u.number(n, Quantity::Roughness);
    if (p.size_for && p.flow > 0) {
        for (const PipeSize* s : sizes_of(project, "concrete", Shape::Circular)) {
            const double capacity = full_capacity(Circular{s->size}, s->roughness, p.slope);
            if (capacity < p.flow) continue;
            a.understood = true;
            a.answer = "size " + u.text(s->size, Quantity::Size);
            a.size = s;
            a.working = "Qfull = " + u.text(capacity, Quantity::Flow) + ", flow ratio " +
                        u.number(p.flow / capacity, Quantity::Ratio) +
                        ", n = " + u.number(s->roughness, Quantity::Roughness);
            return a;
        }
        a.understood = true;
        a.answer = "no size of the catalogue carries it";
        return a;
    }
    if (!(p.size > 0) || !(p.capacity || p.ratio)) return a;
    const Section section = Circular{p.size};
    const double full = full_capacity(section, n, p.slope);
    if (p.ratio) {
        if (!(p.flow > 0)) return a;
        const double y = normal_depth(section, n, p.slope, p.flow);
        a.answer = "flow ratio " + u.number(p.flow / full, Quantity::Ratio);
        a.working = "Qfull = " + u.text(full, Quantity::Flow) +
                    (std::isnan(y) ? ", runs full" : ", y/D = " + u.number(y / p.size, Quantity::Ratio)) +
                    ", V = " + u.text(design_velocity(section, p.flow, y), Quantity::Velocity) + fine;
    } else {
        a.answer = "capacity " + u.text(full, Quantity::Flow);
        a.working = "Vfull = " + u.text(full / full_area(section), Quantity::Velocity) + fine;
    }
    a.understood = true;
    return a;
}

}  // namespace culvert
