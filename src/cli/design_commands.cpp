// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/design_commands.h"

#include <cmath>
#include <iostream>
#include <memory>
#include <nlohmann/json.hpp>

#include "core/design/quantities.h"
#include "core/design/sensitivity.h"
#include "report/tables.h"

namespace culvert::cli {
namespace {

using Json = nlohmann::ordered_json;
constexpr int done = 0;

struct Given {
    std::string file;
    double share = 10, height = 0.3;
    bool json = false;
};

int run_quantities(const Given& given, const Project& project) {
    const Quantities q = quantities(project);
    const UnitSet u = units_of(project);
    constexpr const char *groups[] = {"pipe", "excavation", "structure"},
                         *statuses[] = {"proposed", "existing", "abandoned"};
    TextTable t{{"", "what", "status", "depth", "count", "amount", "price", "cost"},
                {},
                {},
                {true, true, true, true, false, false, false, false}};
    t.units.assign(8, "");
    Json lines = Json::array();
    const auto money = [](double v) { return std::isnan(v) ? std::string() : std::to_string(std::lround(v)); };
    const auto number = [](double v) { return std::isnan(v) ? Json(nullptr) : Json(v); };
    for (const QuantityLine& l : q.lines) {
        t.rows.push_back({groups[static_cast<int>(l.group)], l.what, statuses[static_cast<int>(l.status)],
                          depth_words(l, u), std::to_string(l.count), amount_words(l, u),
                          std::isnan(l.price) ? std::string() : u.text(l.price, price_quantity(l.group)),
                          money(l.cost)});
        lines.push_back({{"group", groups[static_cast<int>(l.group)]},
                         {"what", l.what},
                         {"status", statuses[static_cast<int>(l.status)]},
                         {"depth_from", l.depth_from},
                         {"depth_to", number(l.depth_to)},
                         {"count", l.count},
                         {"amount", l.amount},
                         {"price", number(l.price)},
                         {"cost", number(l.cost)}});
    }
    if (given.json)
        std::cout << Json{{"cost", q.cost}, {"left_out", q.left_out.size()}, {"lines", lines}}.dump(2) << "\n";
    else {
        std::cout << render(t) << "\ncost of what is proposed: " << std::lround(q.cost) << "\n";
        if (!q.left_out.empty()) std::cout << q.left_out.size() << " pipes without levels or rims are not counted\n";
    }
    return done;
}

int run_sensitivity(const Given& given, const Project& project) {
    const UnitSet u = units_of(project);
    const Results results = solve(project);
    const RainEvent* e = design_event(project);
    const auto rows = sensitivities(project, results, {e ? e->id : 0}, usual_cases(given.share / 100, given.height));
    TextTable t{{"change", "new", "gone", "HGL rises most", "at", "which"},
                {"", "", "", std::string(u.unit(Quantity::Length).symbol), "", ""},
                {},
                {true, false, false, false, true, true}};
    Json out = Json::array();
    for (const SensitivityRow& r : rows) {
        std::string which;
        Json added = Json::array(), gone = Json::array();
        for (const FindingKey& key : r.added) {
            added.push_back(key_words(project, key));
            which += (which.empty() ? "" : "; ") + key_words(project, key);
        }
        for (const FindingKey& key : r.gone) {
            gone.push_back(key_words(project, key));
            which += (which.empty() ? "gone: " : "; gone: ") + key_words(project, key);
        }
        const std::string at = r.highest_at.id ? element_name(project, r.highest_at.kind, r.highest_at.id) : "";
        t.rows.push_back({r.change.words(u), std::to_string(r.added.size()), std::to_string(r.gone.size()),
                          u.number(r.highest_rise, Quantity::Length), at, which});
        out.push_back({{"change", r.change.words(u)},
                       {"new", added},
                       {"gone", gone},
                       {"highest_rise", r.highest_rise},
                       {"at", at}});
    }
    if (given.json) std::cout << out.dump(2) << "\n";
    else std::cout << render(t) << "\n";
    return done;
}

}  // namespace

std::function<std::optional<int>()> add_design_commands(CLI::App& app,
                                                        std::function<int(const std::string&, Project&)> load) {
    auto given = std::make_shared<Given>();
    auto* c_quantities =
        app.add_subcommand("quantities", "Pipes by size, excavation and structures by depth, with cost");
    auto* c_sensitivity =
        app.add_subcommand("sensitivity", "Which verdicts change with n, C, rain and tailwater up and down");
    for (auto* c : {c_quantities, c_sensitivity}) {
        c->add_option("project", given->file, "Project file, or demo")->required();
        c->add_flag("--json", given->json, "JSON in SI units instead of a table");
    }
    c_sensitivity->add_option("--share", given->share, "Of n, C and intensity, per cent")->check(CLI::Range(0.1, 90.0));
    c_sensitivity->add_option("--height", given->height, "Of the tailwater, m")->check(CLI::Range(0.001, 20.0));
    return [given, c_quantities, c_sensitivity, load = std::move(load)]() -> std::optional<int> {
        if (!*c_quantities && !*c_sensitivity) return {};
        Project project;
        if (const int code = load(given->file, project)) return code;
        return *c_quantities ? run_quantities(*given, project) : run_sensitivity(*given, project);
    };
}

}  // namespace culvert::cli
