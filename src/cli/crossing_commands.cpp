// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/crossing_commands.h"

#include <cmath>
#include <filesystem>
#include <iostream>
#include <memory>
#include <nlohmann/json.hpp>

#include "core/design/clash_remedies.h"
#include "core/review/clashes.h"
#include "exchange/buried_lines.h"
#include "report/tables.h"

namespace culvert::cli {
namespace {

using Json = nlohmann::ordered_json;
constexpr int done = 0, beyond = 1, bad_file = 3;

struct Given {
    std::string file, lines, output;
    bool json = false, all = false, remedies = false;
};

Json number(double v) { return std::isnan(v) ? Json(nullptr) : Json(v); }

int run_lines(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const BuriedImport read = load_buried_lines(g.lines, units_of(project));
    if (!read.ok) {
        std::cerr << g.lines << ": " << read.error << "\n";
        return bad_file;
    }
    for (const std::string& r : read.remarks) std::cerr << g.lines << ": " << r << "\n";
    apply(project, buried_edit(project, read.lines, std::filesystem::path(g.lines).filename().string()));
    std::cout << read.lines.size() << " buried lines\n";
    return g.output.empty() ? done : write_with_assets(project, g.file, g.output);
}

int run_clashes(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const UnitSet u = units_of(project);
    const std::string unit(u.unit(Quantity::Length).symbol);
    TextTable t{{"pipe", "at", "meets", "which", "way", "vertical", "least", "beside", "least", "verdict"},
                {"", unit, "", "", "", unit, unit, unit, unit, ""},
                {},
                {true, false, true, true, true, false, false, false, false, true}};
    constexpr const char* verdicts[] = {"not known", "within", "near", "beyond"};
    Json rows = Json::array();
    int bad = 0;
    const std::vector<Clash> all = clashes(project);
    for (const Clash& c : all) {
        bad += c.verdict == Verdict::Beyond;
        if (!g.all && c.verdict == Verdict::Within) continue;
        const std::string pipe = element_name(project, Kind::Pipe, c.pipe.value),
                          other = element_name(project, c.other.kind, c.other.id),
                          way = !c.crosses      ? "beside"
                                : c.other_above ? "under it"
                                                : "over it";
        const auto m = [&](double v) { return u.number(v, Quantity::Length); };
        t.rows.push_back({pipe, m(c.along), std::string(kind_name(c.other.kind)), other, way, m(c.vertical),
                          m(c.least_vertical), m(c.horizontal), m(c.least_horizontal),
                          verdicts[static_cast<int>(c.verdict)]});
        rows.push_back({{"pipe", pipe},
                        {"at", c.along},
                        {"place", {c.at.x, c.at.y}},
                        {"other_kind", kind_name(c.other.kind)},
                        {"other", other},
                        {"crosses", c.crosses},
                        {"other_above", c.other_above},
                        {"vertical", number(c.vertical)},
                        {"least_vertical", number(c.least_vertical)},
                        {"horizontal", c.horizontal},
                        {"least_horizontal", number(c.least_horizontal)},
                        {"verdict", verdicts[static_cast<int>(c.verdict)]}});
    }
    if (g.json) std::cout << rows.dump(2) << "\n";
    else if (t.rows.empty()) std::cout << "no clashes among " << all.size() << " crossings\n";
    else std::cout << render(t) << "\n" << bad << " beyond a clearance, of " << all.size() << " places\n";
    if (g.remedies && !g.json) {
        const Results results = solve(project);
        for (const Finding& f : clash_findings(project, all)) {
            if (f.check.verdict != Verdict::Beyond) continue;
            std::cout << element_name(project, Kind::Pipe, f.element.id) << " and " << f.field << ":";
            const auto list = clash_remedies(project, results, f);
            if (list.empty()) std::cout << " no way over or under it keeps the limits and the ends of a short run\n";
            for (const Remedy& r : list)
                std::cout << "\n  " << r.text << ": " << r.gone << " findings gone, " << r.added << " new";
            if (!list.empty()) std::cout << "\n";
        }
    }
    return bad ? beyond : done;
}

}  // namespace

std::function<std::optional<int>()> add_crossing_commands(CLI::App& app, Load load) {
    auto g = std::make_shared<Given>();
    auto* lines =
        app.add_subcommand("lines", "Add buried lines from CSV, GeoJSON, DXF, shapefile or GeoPackage to a project");
    lines->add_option("project", g->file, "Project file, or demo")->required();
    lines->add_option("lines", g->lines, "File of the lines")->required();
    lines->add_option("--output,-o", g->output, "File to write with the lines");
    auto* found = app.add_subcommand("clashes", "Where pipes come too near other lines, structures and each other");
    found->add_option("project", g->file, "Project file, or demo")->required();
    found->add_flag("--all", g->all, "Crossings that keep their clearance too");
    found->add_flag("--remedies", g->remedies, "Try ways over and under, over the whole network and all events");
    found->add_flag("--json", g->json, "JSON in SI units instead of a table");
    return [g, lines, found, load = std::move(load)]() -> std::optional<int> {
        if (*lines) return run_lines(*g, load);
        if (*found) return run_clashes(*g, load);
        return {};
    };
}

}  // namespace culvert::cli
