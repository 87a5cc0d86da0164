// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/rain_table.h"

#include <algorithm>
#include <cmath>

#include "core/base/numbers.h"
#include "core/hydrology/idf.h"
#include "exchange/delimited.h"

namespace culvert {
namespace {

/// Leading number of a cell, decimal comma allowed where commas do not part cells; `rest` is what follows it.
bool number(const std::string& cell, bool comma, double& value, std::string& rest) {
    const bool decimal = comma && std::count(cell.begin(), cell.end(), ',') == 1 && cell.find('.') == std::string::npos;
    return read_number(cell, {decimal ? ',' : '.', false, false}, value, &rest);
}

}  // namespace

RainTable read_rain_table(const std::string& text, const UnitSet& units) {
    RainTable t;
    const auto problem = [&](int row, int column, std::string message) {
        if (t.problems.size() < 20) t.problems.push_back({row, column, std::move(message)});
    };
    const char separator = find_separator(text);
    const Cells cells = split_cells(text, separator);
    const bool comma = separator != ',';
    std::size_t head = 0;
    while (head < cells.size() && cells[head].empty()) ++head;
    if (head >= cells.size()) {
        problem(1, 1, "there is nothing to read. Copy a table: durations down the side, return periods along the top.");
        return t;
    }
    // A head without a corner cell is one cell short of the rows below it.
    const std::size_t width = head + 1 < cells.size() ? cells[head + 1].size() : cells[head].size();
    const std::size_t first = cells[head].size() + 1 == width ? 0 : 1;
    for (std::size_t c = first; c < cells[head].size(); ++c) {
        double years = 0;
        std::string rest;
        std::string cell = cells[head][c];
        if (cell.empty()) continue;
        const auto digit = cell.find_first_of("0123456789");
        if (digit != std::string::npos && digit > 0 && cell.find_first_of("-") != digit - 1)
            cell = cell.substr(digit);  // "T10", "Q 10"
        const bool known_word = number(cell, comma, years, rest) &&
                                (rest.empty() || rest[0] == 'y' || rest[0] == 'Y' || rest[0] == 'a' || rest[0] == '-');
        if (!known_word || !(years > 0))
            problem(static_cast<int>(head) + 1, static_cast<int>(c) + 1,
                    "\"" + cells[head][c] + "\" is not a return period: write years, for example 10.");
        else t.return_periods.push_back(years);
    }
    const std::size_t count = t.return_periods.size();
    if (count == 0 && t.problems.empty())
        problem(static_cast<int>(head) + 1, 1, "the first row has no return period: write years along the top.");
    t.intensities.resize(count);
    for (std::size_t r = head + 1; r < cells.size(); ++r) {
        const auto& row = cells[r];
        if (row.empty()) continue;
        double minutes = 0;
        std::string rest;
        const int line = static_cast<int>(r) + 1;
        if (!number(row[0], comma, minutes, rest) ||
            !(rest.empty() || rest[0] == 'm' || rest[0] == '\'' || rest[0] == 'h')) {
            problem(line, 1, "\"" + row[0] + "\" is not a duration: write minutes, or hours as \"1 h\".");
            continue;
        }
        if (!rest.empty() && rest[0] == 'h') minutes *= 60;
        if (!(minutes > 0)) {
            problem(line, 1, "duration " + row[0] + " must be above 0.");
            continue;
        }
        if (!t.durations.empty() && minutes * 60 <= t.durations.back())
            problem(line, 1, "duration " + row[0] + " does not follow the one above: durations must rise.");
        if (row.size() != count + 1) {
            problem(line, static_cast<int>(row.size()),
                    "has " + std::to_string(row.size() - 1) + " values, the head has " + std::to_string(count) +
                        " return periods.");
            continue;
        }
        t.durations.push_back(minutes * 60);
        for (std::size_t c = 0; c < count; ++c) {
            double value = 0;
            if (!number(row[c + 1], comma, value, rest) || !rest.empty()) {
                problem(line, static_cast<int>(c) + 2, "\"" + row[c + 1] + "\" is not a number.");
                value = 1;
            } else if (!(value > 0)) problem(line, static_cast<int>(c) + 2, row[c + 1] + " must be above 0.");
            t.intensities[c].push_back(value);
        }
    }
    if (t.durations.empty() && t.problems.empty())
        problem(static_cast<int>(head) + 2, 1, "there is no row with a duration and values.");
    if (!t.problems.empty()) return t;
    const std::size_t n = t.durations.size();
    bool rising = n > 1, falling = true;
    for (const auto& column : t.intensities)
        for (std::size_t i = 1; i < n; ++i) {
            rising = rising && column[i] >= column[i - 1];
            falling = falling && column[i] <= column[i - 1];
        }
    const bool us = units.system() == UnitSystem::Us;
    if (rising && !falling) {
        for (auto& column : t.intensities)
            for (std::size_t i = 0; i < n; ++i) column[i] *= (us ? 0.0254 : 0.001) / t.durations[i];
    } else {
        for (auto& column : t.intensities)
            for (double& v : column) v = units.to_si(v, Quantity::Intensity);
    }
    for (std::size_t c = 0; c < count; ++c)
        if (const std::string fault = idf_fault(t.durations, t.intensities[c]); !fault.empty())
            problem(static_cast<int>(head) + 1, static_cast<int>(c + 1 + first),
                    "return period " + units.number(t.return_periods[c], Quantity::Years) + ": " + fault + ".");
    t.understood = std::to_string(n) + (n == 1 ? " duration, " : " durations, ") + std::to_string(count) +
                   (count == 1 ? " return period, " : " return periods, ") +
                   (rising && !falling ? (us ? "depths in in" : "depths in mm")
                                       : "intensities in " + std::string(units.unit(Quantity::Intensity).symbol));
    t.ok = t.problems.empty();
    return t;
}

Edit rain_edit(const Project& project, const RainTable& table) {
    Editing e(project, "Paste a rain table");
    for (std::size_t c = 0; c < table.return_periods.size(); ++c) {
        const double years = table.return_periods[c];
        const RainEvent* same = nullptr;
        for (const RainEvent& event : project.events)
            if (event.return_period == years) same = &event;
        if (same) {
            e.set(Kind::Event, same->id, "durations", table.durations);
            e.set(Kind::Event, same->id, "intensities", table.intensities[c]);
            continue;
        }
        RainEvent event;
        event.name = general(years, 6) + (years == 1 ? " year" : " years");
        event.return_period = years;
        event.durations = table.durations;
        event.intensities = table.intensities[c];
        for (const char* key : {"name", "return_period", "durations", "intensities"})
            event.origin[*field_index(Kind::Event, key)] = Origin::Typed;
        e.insert(event);
    }
    const auto events = events_in_order(e.now());
    const auto marked = [&](EventRole role) {
        return std::any_of(events.begin(), events.end(),
                           [&](const RainEvent* r) { return r->role == static_cast<int>(role); });
    };
    const bool minor = marked(EventRole::Minor), major = marked(EventRole::Major);
    std::uint64_t nearest = 0, rarest = events.empty() ? 0 : events.back()->id;
    double away = 1e300;
    for (const RainEvent* r : events)
        if (const double d = std::abs(std::log(r->return_period / 10)); d < away) {
            away = d;
            nearest = r->id;
        }
    if (!minor && nearest) e.set(Kind::Event, nearest, "role", static_cast<int>(EventRole::Minor));
    if (!major && rarest && rarest != nearest) e.set(Kind::Event, rarest, "role", static_cast<int>(EventRole::Major));
    return e.take();
}

}  // namespace culvert
