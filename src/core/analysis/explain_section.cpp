// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/explain_section.h"

#include <cmath>

namespace culvert {
namespace {

constexpr const char* along = "along its outline";

/// A value that stands for itself, with where it is from.
Step given(const char* symbol, const char* meaning, double value, std::string unit) {
    return {symbol, meaning, "", {}, value, std::move(unit), along, {}};
}
Step radius(const WorkingUnits& u, double area, double perimeter) {
    return {"R",
            "hydraulic radius",
            "A / P",
            {{"A", u.len(u.len(area)), u.len_unit() + "²", "area"}, {"P", u.len(perimeter), u.len_unit(), "perimeter"}},
            u.len(area / perimeter),
            u.len_unit(),
            "",
            {}};
}

}  // namespace

void add_full_section(Working& steps, const WorkingUnits& u, const Section& section) {
    const double a = full_area(section), r = a / full_perimeter(section);
    if (std::holds_alternative<Shaped>(section)) {
        steps.push_back(given("A", is_open(section) ? "area, full to its banks" : "full area", u.len(u.len(a)),
                              u.len_unit() + "²"));
        steps.push_back(given("P", "its perimeter", u.len(full_perimeter(section)), u.len_unit()));
        steps.push_back(radius(u, a, full_perimeter(section)));
        return;
    }
    std::vector<Term> terms{{"D", u.len(height(section)), u.len_unit(), "diameter"}};
    const char *area = "3.14159265358979 * D^2 / 4", *hydraulic = "D / 4";
    if (const auto* box = std::get_if<Box>(&section)) {
        terms = {{"b", u.len(box->width), u.len_unit(), "width"}, {"h", u.len(box->height), u.len_unit(), "height"}};
        area = "b * h";
        hydraulic = "b * h / (2 * (b + h))";
    }
    steps.push_back({"A", "full area", area, terms, u.len(u.len(a)), u.len_unit() + "²", "", {}});
    steps.push_back({"R", "hydraulic radius", hydraulic, terms, u.len(r), u.len_unit(), "", {}});
}

void add_wetted_section(Working& steps, const WorkingUnits& u, const Section& section, const Term& depth, double y) {
    const Wetted w = wetted(section, y);
    const std::string square = u.len_unit() + "²";
    if (std::holds_alternative<Shaped>(section)) {
        steps.push_back(given("y", "normal depth, found by solving", u.len(y), u.len_unit()));
        steps.push_back(given("A", "wetted area at that depth", u.len(u.len(w.area)), square));
        steps.push_back(given("P", "wetted perimeter", u.len(w.perimeter), u.len_unit()));
        return;
    }
    if (const auto* box = std::get_if<Box>(&section)) {
        const Term b{"b", u.len(box->width), u.len_unit(), "width"};
        steps.push_back({"A", "wetted area", "b * y", {b, depth}, u.len(u.len(w.area)), square, "", {}});
        steps.push_back({"P", "wetted perimeter", "b + 2 * y", {b, depth}, u.len(w.perimeter), u.len_unit(), "", {}});
        return;
    }
    const Term d{"D", u.len(height(section)), u.len_unit(), "diameter"};
    const double phi = 2 * std::asin(std::sqrt(y / height(section)));
    steps.push_back(
        {"phi", "half angle of the water surface", "2 * asin(sqrt(y / D))", {depth, d}, phi, "rad", "", {}});
    const Term angle{"phi", phi, "rad", "half angle"};
    steps.push_back({"A",
                     "wetted area",
                     "D^2 / 4 * (phi - sin(phi) * cos(phi))",
                     {d, angle},
                     u.len(u.len(w.area)),
                     square,
                     "",
                     {}});
    steps.push_back({"P", "wetted perimeter", "D * phi", {d, angle}, u.len(w.perimeter), u.len_unit(), "", {}});
}

}  // namespace culvert
