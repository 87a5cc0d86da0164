// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/calc_command.h"

#include <cmath>
#include <iomanip>
#include <iostream>
#include <memory>
#include <nlohmann/json.hpp>

#include "report/calc.h"

namespace culvert::cli {
namespace {

using Json = nlohmann::ordered_json;

struct Asked {
    std::vector<std::string> words;
    std::string units = "SI", edition;
    bool list = false, json = false;
};

Json number(double v) { return std::isfinite(v) ? Json(v) : Json(nullptr); }

int run_list(const Asked& asked, const UnitSet& u) {
    Json all = Json::array();
    for (const Calc& c : calcs()) {
        Json fields = Json::array(), results = Json::array();
        for (const CalcField& f : c.inputs)
            fields.push_back({{"key", f.key},
                              {"label", f.label},
                              {"unit", u.unit(f.quantity).symbol},
                              {"asked", std::isnan(f.usual) && f.help.find("none:") == std::string_view::npos},
                              {"usual", number(f.usual)},
                              {"help", f.help}});
        for (const CalcField& f : c.results)
            results.push_back({{"key", f.key}, {"label", f.label}, {"unit", u.unit(f.quantity).symbol}});
        all.push_back(
            {{"name", c.name}, {"label", c.label}, {"help", c.help}, {"inputs", fields}, {"results", results}});
    }
    if (asked.json) {
        std::cout << all.dump(2) << "\n";
        return 0;
    }
    for (const Json& c : all) {
        std::cout << std::left << std::setw(13) << c["name"].get<std::string>() << c["label"].get<std::string>()
                  << ": ";
        std::string words;
        for (const Json& f : c["inputs"])
            words +=
                (words.empty() ? "" : ", ") + f["key"].get<std::string>() + (f["asked"].get<bool>() ? "" : " (usual)");
        std::cout << words << "\n";
    }
    std::cout
        << "Any one of what is asked for may be left out when a result is given instead. A range a..b gives a table.\n";
    return 0;
}

int run(const Asked& asked) {
    const UnitSet u(asked.units == "US" ? UnitSystem::Us : UnitSystem::Si);
    if (asked.list || asked.words.empty()) return run_list(asked, u);
    const Edition edition = (asked.edition.empty() ? asked.units : asked.edition) == "US" ? Edition::Us : Edition::Si;
    std::string words;
    for (const std::string& w : asked.words) words += (words.empty() ? "" : " ") + w;
    const CalcTable t = calculate(words, u, edition);
    if (!t.error.empty()) {
        std::cerr << t.error << "\n";
        return 2;
    }
    if (asked.json) {
        Json rows = Json::array();
        for (const CalcAnswer& a : t.rows) {
            Json values, steps = Json::array();
            for (const auto& [k, v] : a.values) values[k] = number(v);
            for (const Step& s : a.working) {
                Json terms;
                for (const Term& term : s.terms) terms[term.symbol] = number(term.value);
                steps.push_back({{"symbol", s.symbol},
                                 {"meaning", s.meaning},
                                 {"formula", s.formula},
                                 {"values", terms},
                                 {"result", number(s.result)},
                                 {"unit", s.unit},
                                 {"source", s.source},
                                 {"note", s.note}});
            }
            Json row{{"values", values}, {"working", steps}};
            if (!a.sought.empty()) row["sought"] = a.sought;
            if (!a.ok) row["error"] = a.error;
            rows.push_back(row);
        }
        std::cout << (t.ranged.empty() ? rows[0] : Json{{"ranged", t.ranged}, {"rows", rows}}).dump(2) << "\n";
        return 0;
    }
    if (t.ranged.empty()) {
        const CalcAnswer& a = t.rows[0];
        std::cout << answer_line(*t.calc, a, u) << "\n\n";
        for (const Step& s : a.working) {
            std::cout << s.symbol << " = " << working_number(s.result, 6) << (s.unit.empty() ? "" : " " + s.unit)
                      << "   " << s.meaning << "\n";
            if (!s.formula.empty()) std::cout << "    " << s.symbol << " = " << s.formula << "\n";
            for (const Term& term : s.terms) {
                std::cout << "    " << term.symbol << " = " << working_number(term.value);
                if (!term.unit.empty()) std::cout << " " << term.unit;
                if (!term.meaning.empty()) std::cout << "   " << term.meaning;
                std::cout << "\n";
            }
            if (!s.source.empty()) std::cout << "    " << s.source << "\n";
            if (!s.note.empty()) std::cout << "    " << s.note << "\n";
        }
        return 0;
    }
    std::vector<const CalcField*> columns;
    for (const CalcField& f : t.calc->inputs)
        if (f.key == t.ranged || f.key == t.rows[0].sought) columns.push_back(&f);
    for (const CalcField& f : t.calc->results) columns.push_back(&f);
    const auto cell = [](const std::string& content) { std::cout << std::right << std::setw(18) << content; };
    for (const CalcField* f : columns) {
        const std::string unit(u.unit(f->quantity).symbol);
        cell(std::string(f->key) + (unit.empty() ? "" : " " + unit));
    }
    std::cout << "\n";
    for (const CalcAnswer& a : t.rows) {
        for (const CalcField* f : columns) {
            const auto at = a.values.find(f->key);
            cell(at == a.values.end() ? "-" : u.number(at->second, f->quantity));
        }
        std::cout << (a.ok ? "" : "   " + a.error) << "\n";
    }
    return 0;
}

}  // namespace

std::function<std::optional<int>()> add_calc_command(CLI::App& app) {
    const auto asked = std::make_shared<Asked>();
    auto* c = app.add_subcommand("calc", "A calculation without a project: calc gutter flow=40l/s grade=1.2%");
    c->add_option("words", asked->words, "Its name and key=value; a range a..b gives a table");
    c->add_flag("--list", asked->list, "All calculations with their keys and units");
    c->add_flag("--json", asked->json, "JSON in SI units, with the working");
    c->add_option("--units", asked->units, "Of numbers without a unit, and of what is printed")
        ->check(CLI::IsMember({"SI", "US"}));
    c->add_option("--edition", asked->edition, "Of the manual's constants (default: that of the units)")
        ->check(CLI::IsMember({"SI", "US"}));
    return [c, asked]() -> std::optional<int> { return c->parsed() ? std::optional(run(*asked)) : std::nullopt; };
}

}  // namespace culvert::cli
