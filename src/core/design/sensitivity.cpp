// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/sensitivity.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"
#include "core/review/rules.h"

namespace culvert {

std::string SensitivityCase::words(const UnitSet& units) const {
    constexpr const char* names[] = {"Manning n", "runoff C", "rain intensity", "tailwater"};
    const std::string by = what == What::Tailwater
                               ? units.text(std::abs(change), Quantity::Length)
                               : shortest_decimal(std::round(std::abs(change) * 1000) / 10, 1) + " %";
    return std::string(nth(names, static_cast<int>(what))) + " " + by + (change >= 0 ? " higher" : " lower");
}

std::vector<SensitivityCase> usual_cases(double share, double height) {
    using What = SensitivityCase::What;
    std::vector<SensitivityCase> cases;
    for (const What what : {What::Roughness, What::Coefficient, What::Intensity, What::Tailwater})
        for (const double sign : {1.0, -1.0})
            cases.push_back({what, sign * (what == What::Tailwater ? height : share)});
    return cases;
}

Project changed_by(const Project& project, const SensitivityCase& change) {
    Project p = project;
    const double by = 1 + change.change;
    switch (change.what) {
        case SensitivityCase::What::Roughness:
            for (const Pipe& pipe : project.pipes) p.pipes.change(pipe.id)->roughness *= by;
            break;
        case SensitivityCase::What::Coefficient:
            for (const Catchment& c : project.catchments) {
                double& value = p.catchments.change(c.id)->coefficient;
                value = std::isnan(value) ? value : std::min(1.0, value * by);
            }
            for (const LandCover& l : project.land_covers) {
                double& value = p.land_covers.change(l.id)->coefficient;
                value = std::isnan(value) ? value : std::min(1.0, value * by);
            }
            // Through time the curve number and the paved share stand for C: what the ground takes is scaled.
            if (project.settings().runoff_by != RunoffBy::Rational) {
                const auto number = [by](double cn) {
                    return std::isnan(cn) || !(cn > 0) ? cn
                                                       : std::clamp(1000 / (10 + (1000 / cn - 10) / by), 1.0, 100.0);
                };
                const auto paved = [by](double share) {
                    return std::isnan(share) ? share : std::clamp(share * by, 0.0, 1.0);
                };
                Settings& s = *p.settings_rows.change(settings_id);
                s.curve_number = number(s.curve_number);
                for (const Catchment& c : project.catchments) {
                    Catchment& row = *p.catchments.change(c.id);
                    row.curve_number = number(row.curve_number);
                    row.impervious = paved(row.impervious);
                }
                for (const LandCover& l : project.land_covers) {
                    LandCover& row = *p.land_covers.change(l.id);
                    row.curve_number = number(row.curve_number);
                    row.impervious = paved(row.impervious);
                }
            }
            break;
        case SensitivityCase::What::Intensity: p.settings_rows.change(settings_id)->uplift *= by; break;
        case SensitivityCase::What::Tailwater:
            for (const Structure& s : project.structures)
                if (s.kind == StructureKind::Outfall && s.tailwater != Tailwater::Free &&
                    !std::isnan(s.tailwater_level))
                    p.structures.change(s.id)->tailwater_level += change.change;
            break;
    }
    return p;
}

std::vector<SensitivityRow> sensitivities(const Project& project, const Results& results, EventId event,
                                          const std::vector<SensitivityCase>& cases, const std::stop_token& stop) {
    std::vector<SensitivityRow> rows;
    const FindingKeys before = beyond_keys(project, results);
    const auto of_event = [&](const Results& all) {
        for (const auto& r : all)
            if (r->event == event) return r;
        return std::shared_ptr<const EventResult>();
    };
    const auto now = of_event(results);
    for (const SensitivityCase& c : cases) {
        const Project with = changed_by(project, c);
        Solver solver;
        const Results then = solver.solve(with, 0, event, stop);
        if (stop.stop_requested() || then.empty()) return {};
        SensitivityRow row{c, {}, {}, not_given, {}};
        const FindingKeys after = beyond_keys(with, then);
        std::set_difference(after.begin(), after.end(), before.begin(), before.end(), std::back_inserter(row.added));
        std::set_difference(before.begin(), before.end(), after.begin(), after.end(), std::back_inserter(row.gone));
        if (const auto r = of_event(then); r && now && r->nodes.size() == now->nodes.size())
            for (std::size_t i = 0; i < r->nodes.size(); ++i) {
                const double rise = r->nodes[i].level.level - now->nodes[i].level.level;
                if (std::isnan(rise) || !(std::isnan(row.highest_rise) || rise > row.highest_rise)) continue;
                row.highest_rise = rise;
                row.highest_at = {Kind::Structure, r->network->nodes[i].structure.value};
            }
        if (std::isnan(row.highest_rise)) row.highest_rise = 0;
        rows.push_back(std::move(row));
    }
    return rows;
}

std::string key_words(const Project& project, const FindingKey& key) {
    const auto& [rule, element, event, more] = key;
    const RainEvent* e = project.events.find(event.value);
    return element_name(project, element.kind, element.id) + ": " + std::string(rule_name(rule)) +
           (e ? " (" + e->name + ")" : "");
}

}  // namespace culvert
