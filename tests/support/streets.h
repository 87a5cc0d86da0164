// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <random>

#include "core/model/edit.h"

/// Seeded random streets with inlets of every kind: chains over several streets, sags that spill, rings of street
/// paths, paths off the site and none at all, above pipes that lead to an outfall at each street's end.
namespace culvert::testing {

struct StreetRecipe {
    int streets = 4, inlets = 12;  ///< inlets of each street
    unsigned seed = 1;
};

inline Project street_project(const StreetRecipe& recipe) {
    std::mt19937 random(recipe.seed);
    const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    const auto whole = [&](int a, int b) { return std::uniform_int_distribution<int>(a, b)(random); };
    Project p = new_project(recipe.seed % 2 ? UnitSystem::Si : UnitSystem::Us);
    Settings& set = *p.settings_rows.change(settings_id);
    set.gutter_time = recipe.seed % 5 != 0;
    std::vector<std::string> types;
    for (const InletKind kind : {InletKind::Grate, InletKind::CurbOpening, InletKind::Combination, InletKind::Slotted,
                                 InletKind::Rated, InletKind::CurbOpening}) {
        StructureType t;
        t.id = 900 + types.size();
        t.name = "kind " + std::to_string(types.size());
        t.kind = StructureKind::Inlet;
        t.inlet = kind;
        t.length = uniform(0.4, 1.8);
        t.width = uniform(0.3, 0.6);
        t.grate = static_cast<GrateBars>(whole(0, 7));
        t.opening_length = uniform(0.6, 4);
        t.depression = types.size() == 5 ? 0.05 : 0;
        t.clogging = uniform(0, 0.4);
        t.rating_approach = {0, 0.01, 0.05};
        t.rating_captured = {0, 0.01, 0.02};
        p.structure_types.insert(t);
        types.push_back(t.name);
    }
    std::uint64_t next = 10000;
    std::vector<std::vector<std::uint64_t>> rows;
    for (int k = 0; k < recipe.streets; ++k) {
        Street street;
        street.id = next++;
        street.name = "Street " + std::to_string(k);
        const double y = 60.0 * k, spacing = uniform(18, 45);
        street.line = {{0, y}, {spacing * (recipe.inlets + 1), y}};
        double level = 100 + 2 * k;
        for (int i = 0; i <= recipe.inlets + 1; ++i) {
            street.stations.push_back(spacing * i);
            street.levels.push_back(level);
            level += spacing * (uniform(0, 1) < 0.15 ? uniform(0.002, 0.02) : -uniform(0.002, 0.05));
        }
        street.cross_slope = uniform(0.015, 0.03);
        street.lane_width = uniform(2.5, 7);
        p.streets.insert(street);
        std::vector<std::uint64_t> row;
        for (int i = 1; i <= recipe.inlets; ++i) {
            Structure s;
            s.id = next++ * 2654435761u % 1000000007u + 50000;
            s.name = "I" + std::to_string(k) + "." + std::to_string(i);
            s.kind = StructureKind::Inlet;
            s.x = spacing * i;
            s.y = y + 4;
            s.rim = street.levels[static_cast<std::size_t>(i)];
            s.street = {street.id};
            s.station = spacing * i;
            s.type = types[static_cast<std::size_t>(whole(0, static_cast<int>(types.size()) - 1))];
            if (uniform(0, 1) < 0.08) s.inlet_place = InletPlace::Sag;
            if (uniform(0, 1) < 0.05) s.street_grade = uniform(0.001, 0.03);
            if (uniform(0, 1) < 0.1) s.type.clear();  // all that comes enters
            if (uniform(0, 1) < 0.1) s.known_flow = uniform(0.001, 0.02);
            if (uniform(0, 1) < 0.3) s.crest_depth = uniform(0.01, 0.1);
            p.structures.insert(s);
            row.push_back(s.id);
            Catchment c;
            c.id = next++;
            c.name = "C" + s.name;
            c.structure = {s.id};
            c.area = uniform(200, 6000);
            c.coefficient = uniform(0, 1) < 0.05 ? 0 : uniform(0.3, 0.95);
            c.time = uniform(200, 1500);
            p.catchments.insert(c);
        }
        Structure outfall;
        outfall.id = next++;
        outfall.name = "O" + std::to_string(k);
        outfall.kind = StructureKind::Outfall;
        outfall.x = spacing * (recipe.inlets + 1);
        outfall.y = y + 4;
        outfall.rim = level;
        p.structures.insert(outfall);
        row.push_back(outfall.id);
        for (std::size_t i = 0; i + 1 < row.size(); ++i) {
            Pipe pipe;
            pipe.id = next++;
            pipe.from = {row[i]};
            pipe.to = {row[i + 1]};
            pipe.size = 0.6;
            pipe.invert_from = 90 - 0.3 * static_cast<double>(i);
            pipe.invert_to = pipe.invert_from - 0.3;
            p.pipes.insert(pipe);
        }
        row.pop_back();
        rows.push_back(row);
    }
    for (std::size_t k = 0; k < rows.size(); ++k)
        for (std::size_t i = 0; i < rows[k].size(); ++i) {
            const double lot = uniform(0, 1);
            if (lot < 0.08) continue;  // no path
            StreetPath path;
            path.id = next++;
            path.name = "p" + std::to_string(path.id);
            path.from = {rows[k][i]};
            if (lot < 0.14) path.bends = {{0, -50}};  // off the site
            else if (lot < 0.24) {
                const auto& other = rows[static_cast<std::size_t>(whole(0, recipe.streets - 1))];
                path.to = {other[static_cast<std::size_t>(whole(0, static_cast<int>(other.size()) - 1))]};
                if (path.to == path.from) continue;
            } else if (i + 1 < rows[k].size()) path.to = {rows[k][i + 1]};
            else continue;
            p.street_paths.insert(path);
        }
    for (int e = 0; e < 2; ++e) {
        RainEvent event;
        event.id = 50 + static_cast<std::uint64_t>(e);
        event.name = std::to_string(e ? 100 : 10) + " years";
        event.return_period = e ? 100 : 10;
        event.role = e ? EventRole::Major : EventRole::Minor;
        event.frequency_factor = e ? 1.25 : 1;
        event.durations = {300, 600, 1800, 3600, 7200};
        for (const double d : event.durations) event.intensities.push_back((e ? 1.7 : 1) * 0.004 / (d + 500) * 10);
        p.events.insert(event);
    }
    return p;
}

}  // namespace culvert::testing
