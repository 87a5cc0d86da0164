// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/rain_table.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>
#include <regex>

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

std::string lower(std::string text) {
    for (char& c : text) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return text;
}
bool holds(const std::string& text, std::initializer_list<const char*> words) {
    return std::any_of(words.begin(), words.end(), [&](const char* w) { return text.find(w) != std::string::npos; });
}

/// What a web page adds: other hyphens and blanks, bounds in parentheses below or behind a value. A row that such
/// bounds had broken is joined again.
std::string tidied(const std::string& text) {
    std::string plain;
    for (std::size_t i = 0; i < text.size();) {
        const auto is = [&](std::string_view w) { return text.compare(i, w.size(), w) == 0; };
        if (is("\u2011") || is("\u2010") || is("\u2013") || is("\u2212")) plain += '-', i += 3;
        else if (is("\u00a0")) plain += ' ', i += 2;
        else plain += text[i++];
    }
    std::string out;
    for (std::size_t i = 0; i < plain.size(); ++i) {
        if (plain[i] == '(') {
            const auto end = plain.find(')', i);
            if (end != std::string::npos && end - i < 40 && end > i + 1 &&
                plain.find_first_not_of("0123456789.,- \t", i + 1) == end) {
                const auto last = out.find_last_not_of(" \t\r\n");
                if (const bool own_line = last != std::string::npos && out.find('\n', last) != std::string::npos;
                    own_line)
                    out.erase(last + 1);
                i = end;
                continue;
            }
        }
        out += plain[i];
    }
    return out;
}

/// "5", "5-min:", "2 hr", "1 day", "1h": seconds. `factor` is that of a bare number.
bool duration(std::string cell, bool comma, double factor, double& seconds) {
    while (!cell.empty() && (cell.back() == ':' || cell.back() == ' ' || cell.back() == '.')) cell.pop_back();
    double value = 0;
    std::string rest;
    if (!number(cell, comma, value, rest)) return false;
    const auto at = rest.find_first_not_of(" -");
    const std::string unit = lower(at == std::string::npos ? "" : rest.substr(at));
    if (unit.empty()) seconds = value * factor;
    else if (unit == "m" || unit == "'" || unit.starts_with("min")) seconds = value * 60;
    else if (unit == "h" || unit.starts_with("hr") || unit.starts_with("hour")) seconds = value * 3600;
    else if (unit == "d" || unit.starts_with("day")) seconds = value * 86400;
    else return false;
    return true;
}
/// "10", "10-yr", "T10", "10 years".
bool return_period(std::string cell, bool comma, double& years) {
    const auto digit = cell.find_first_of("0123456789");
    if (digit != std::string::npos && digit > 0 && cell[digit - 1] != '-') cell = cell.substr(digit);
    std::string rest;
    if (!number(cell, comma, years, rest) || !(years > 0)) return false;
    const auto at = rest.find_first_not_of(" -");
    if (at == std::string::npos) return true;
    return lower(rest.substr(at)).starts_with("y") || lower(rest.substr(at)) == "a";
}

/// A duration and nothing but numbers behind it.
bool is_data(const std::vector<std::string>& row, bool comma) {
    double value = 0;
    std::string rest;
    if (row.size() < 2 || !duration(row[0], comma, 60, value)) return false;
    for (std::size_t c = 1; c < row.size(); ++c)
        if (!row[c].empty() && (!number(row[c], comma, value, rest) || !rest.empty())) return false;
    return true;
}

/// The character that parts cells: the one with which most rows are data, since lines before and after a table may hold
/// any other.
char separator_of(const std::string& text) {
    char best = find_separator(text);
    std::size_t most = 0;
    for (const char c : {best, '\t', ';', ',', ' '}) {
        std::size_t cells = 0;
        for (const auto& row : split_cells(text, c))
            if (is_data(row, c != ',')) cells += row.size();
        if (cells > most) {
            most = cells;
            best = c;
        }
    }
    return best;
}

/// Where the table stands in the text: its head, and the row after its last.
struct TablePlace {
    std::size_t head = 0, end = 0;
};
TablePlace find_place(const Cells& cells, bool comma) {
    TablePlace p;
    while (p.head < cells.size() && cells[p.head].empty()) ++p.head;
    p.end = cells.size();
    std::size_t first = 0, last = 0, wide = 0;
    // The first and the last of the rows that are as wide as most data.
    std::map<std::size_t, std::size_t> widths;
    for (const auto& row : cells)
        if (is_data(row, comma)) ++widths[row.size()];
    for (const auto& [width, count] : widths)
        if (count >= widths[wide]) wide = width;
    if (!wide) return p;
    const auto same = [&](std::size_t r) { return is_data(cells[r], comma) && cells[r].size() == wide; };
    for (first = 0; first < cells.size() && !same(first);) ++first;
    // A row that is too short, or whose duration is not understood, is of the table still: it is named later.
    const auto meant = [&](std::size_t r) {
        double value = 0;
        std::string rest;
        return is_data(cells[r], comma) ||
               (cells[r].size() == wide && std::all_of(cells[r].begin() + 1, cells[r].end(), [&](const std::string& c) {
                    return number(c, comma, value, rest) && rest.empty();
                }));
    };
    for (last = cells.size(); last > first && !meant(last - 1);) --last;
    // Above it the head: the nearest row with as many return periods, or one more cell. A head may look like data
    // itself.
    const auto periods = [&](std::size_t r) {
        std::size_t n = 0;
        double years = 0;
        for (std::size_t c = cells[r].size() == wide ? 1 : 0; c < cells[r].size(); ++c)
            n += return_period(cells[r][c], comma, years);
        return n;
    };
    for (std::size_t r = first; r-- > p.head;)
        if (periods(r) + 1 == wide) {
            p.head = r;
            p.end = last;
            return p;
        }
    double seconds = 0;
    if (p.head < first && first > p.head + 4)
        p.head = first - 1;  // a long preface: what stands above the data is meant
    // Lines after the table that begin with no number are not of it.
    while (p.end > last && (cells[p.end - 1].empty() || !duration(cells[p.end - 1][0], comma, 60, seconds)) &&
           last > p.head + 1 && p.end > last + 1)
        --p.end;
    return p;
}

/// Which unit the words say that stand over the table and in its corner.
struct Spoken {
    double bare_duration = 60;
    double value = 0;  ///< m, or m/s, of one unit; 0: not said
    bool depth = false, said_duration = false;
    std::string words;
};
Spoken listen(const Cells& cells, const TablePlace& place, std::size_t first) {
    Spoken s;
    std::string above;
    for (std::size_t r = 0; r <= place.head && r < cells.size(); ++r)
        for (std::size_t c = 0; c < cells[r].size(); ++c)
            if (r < place.head || c < std::max<std::size_t>(first, 1)) above += " " + lower(cells[r][c]);
    const std::string corner = first && !cells[place.head].empty() ? lower(cells[place.head][0]) : "";
    if (corner == "h" || corner == "hr" || corner == "hours" ||
        holds(corner, {"(h)", "(hr", "(hours", "[h]", "in hours"}))
        s.bare_duration = 3600, s.said_duration = true;
    s.said_duration |= holds(corner, {"min"});
    const double mm = 0.001, in = 0.0254;
    if (holds(above, {"mm/h", "mm per hour", "millimetres per hour", "millimeters/hour", "mm/hr"}))
        s.value = mm / 3600, s.words = "mm/h";
    else if (holds(above, {"in/h", "inches per hour", "inches/hour", "in/hr"})) s.value = in / 3600, s.words = "in/h";
    else if (holds(above, {"inches", "(in)", "(inch", "[in]"})) s.value = in, s.words = "in", s.depth = true;
    else if (holds(above, {"(mm)", "[mm]", "millimet"})) s.value = mm, s.words = "mm", s.depth = true;
    return s;
}

/// Values that rise with duration are depths, those that fall are intensities: the numbers tell. The unit is what the
/// words over the table say, else the project's.
void make_intensities(RainTable& t, double spoken, bool spoken_depth, const std::string& words, const UnitSet& units) {
    bool rising = t.durations.size() > 1, falling = true;
    for (const auto& column : t.intensities)
        for (std::size_t i = 1; i < column.size(); ++i) {
            rising = rising && column[i] >= column[i - 1];
            falling = falling && column[i] <= column[i - 1];
        }
    const bool us = units.system() == UnitSystem::Us;
    const bool depths = (rising && !falling) || (t.durations.size() == 1 && spoken > 0 && spoken_depth);
    double unit = depths ? (us ? 0.0254 : 0.001) : units.unit(Quantity::Intensity).factor;
    std::string name = depths ? (us ? "in" : "mm") : std::string(units.unit(Quantity::Intensity).symbol);
    if (spoken > 0) {
        // The words name a length, or a length an hour: of depths the length counts, of intensities the rate.
        unit = spoken_depth == depths ? spoken : (depths ? spoken * 3600 : spoken / 3600);
        name = spoken_depth == depths ? words : (depths ? words.substr(0, words.find('/')) : words + "/h");
    }
    for (auto& column : t.intensities)
        for (std::size_t i = 0; i < column.size(); ++i) column[i] *= depths ? unit / t.durations[i] : unit;
    t.taken_for = (depths ? "depths in " : "intensities in ") + name;
}

/// Equations in place of a table, one return period a line: "10 years: 1500 / (t + 10)^0.8", t in minutes, the
/// intensity in the project's unit. Empty where the text is none.
std::optional<RainTable> read_equations(const std::string& text, const UnitSet& units) {
    static const std::regex form(
        R"(^\s*([0-9.]+)\s*(?:years?|yr|a)?\s*[:;=,\t ]\s*(?:i\s*=)?\s*([0-9.]+)\s*/\s*\(\s*t\s*(?:\+\s*([0-9.]+)\s*)?\)\s*\^\s*\(?([0-9.]+)\)?\s*$)",
        std::regex::icase);
    constexpr double minutes[] = {5, 10, 15, 20, 30, 45, 60, 90, 120, 180, 360, 720, 1440};
    RainTable t;
    for (const double m : minutes) t.durations.push_back(m * 60);
    std::size_t begin = 0;
    int row = 0;
    while (begin < text.size()) {
        const std::size_t end = std::min(text.find('\n', begin), text.size());
        const std::string line = text.substr(begin, std::min<std::size_t>(end - begin, 200));
        begin = end + 1;
        ++row;
        if (line.find_first_not_of(" \t\r") == std::string::npos) continue;
        std::smatch m;
        double years = 0, a = 0, b = 0, c = 0;
        if (!std::regex_match(line, m, form) || !parse_double(m[1].str(), years) || !parse_double(m[2].str(), a) ||
            (m[3].matched && !parse_double(m[3].str(), b)) || !parse_double(m[4].str(), c))
            return {};
        if (!(years > 0) || !(a > 0) || !(c > 0) || c > 1)
            t.problems.push_back(
                {row, 1, "an equation needs a return period and a above 0, and a power above 0 and at most 1."});
        t.return_periods.push_back(years);
        std::vector<double> column;
        for (const double d : minutes)
            column.push_back(a / std::pow(d + b, c) * units.unit(Quantity::Intensity).factor);
        t.intensities.push_back(std::move(column));
    }
    if (t.return_periods.empty()) return {};
    t.taken_for = "equations in " + std::string(units.unit(Quantity::Intensity).symbol) + " with t in minutes";
    t.understood = std::to_string(t.return_periods.size()) +
                   (t.return_periods.size() == 1 ? " equation" : " equations") + " a / (t + b)^c, t in minutes, " +
                   std::string(units.unit(Quantity::Intensity).symbol) + ": made into a table from 5 min to 24 h";
    t.ok = t.problems.empty();
    return t;
}

}  // namespace

RainTable read_rain_table(const std::string& pasted, const UnitSet& units) {
    if (auto equations = read_equations(pasted, units)) return *std::move(equations);
    RainTable t;
    const auto problem = [&](std::size_t row, std::size_t column, std::string message) {
        if (t.problems.size() < 20)
            t.problems.push_back({static_cast<int>(row) + 1, static_cast<int>(column) + 1, std::move(message)});
    };
    const std::string text = tidied(pasted);
    const char separator = separator_of(text);
    const Cells cells = split_cells(text, separator);
    const bool comma = separator != ',';
    const TablePlace place = find_place(cells, comma);
    const std::size_t head = place.head;
    if (head >= cells.size()) {
        problem(0, 0, "there is nothing to read. Copy a table: durations down the side, return periods along the top.");
        return t;
    }
    // A head without a corner cell is one cell short of the rows below it.
    const std::size_t width = head + 1 < cells.size() ? cells[head + 1].size() : cells[head].size();
    std::size_t first = cells[head].size() + 1 == width ? 0 : 1;
    if (separator == ' ' && cells[head].size() > width)
        first = cells[head].size() - width + 1;  // a corner of several words
    for (std::size_t c = first; c < cells[head].size(); ++c) {
        if (cells[head][c].empty()) continue;
        double years = 0;
        if (!return_period(cells[head][c], comma, years))
            problem(head, c, "\"" + cells[head][c] + "\" is not a return period: write years, for example 10.");
        else t.return_periods.push_back(years);
    }
    const std::size_t count = t.return_periods.size();
    if (count == 0 && t.problems.empty())
        problem(head, 0, "the first row has no return period: write years along the top.");
    const Spoken spoken = listen(cells, place, first);
    t.intensities.resize(count);
    for (std::size_t r = head + 1; r < place.end; ++r) {
        const auto& row = cells[r];
        if (row.empty()) continue;
        double seconds = 0;
        if (!duration(row[0], comma, spoken.bare_duration, seconds)) {
            problem(r, 0, "\"" + row[0] + "\" is not a duration: write minutes, or hours as \"1 h\".");
            continue;
        }
        if (!(seconds > 0)) {
            problem(r, 0, "duration " + row[0] + " must be above 0.");
            continue;
        }
        if (!t.durations.empty() && seconds <= t.durations.back())
            problem(r, 0, "duration " + row[0] + " does not follow the one above: durations must rise.");
        if (row.size() != count + 1) {
            problem(r, row.size() - 1,
                    "has " + std::to_string(row.size() - 1) + " values, the head has " + std::to_string(count) +
                        " return periods.");
            continue;
        }
        t.durations.push_back(seconds);
        for (std::size_t c = 0; c < count; ++c) {
            double value = 0;
            std::string rest;
            if (!number(row[c + 1], comma, value, rest) || !rest.empty()) {
                problem(r, c + 1, "\"" + row[c + 1] + "\" is not a number.");
                value = 1;
            } else if (!(value > 0)) problem(r, c + 1, row[c + 1] + " must be above 0.");
            t.intensities[c].push_back(value);
        }
    }
    if (t.durations.empty() && t.problems.empty()) problem(head + 1, 0, "there is no row with a duration and values.");
    if (!t.problems.empty()) return t;
    make_intensities(t, spoken.value, spoken.depth, spoken.words, units);
    for (std::size_t c = 0; c < count; ++c)
        if (const std::string fault = idf_fault(t.durations, t.intensities[c]); !fault.empty())
            problem(head, c + first,
                    "return period " + units.number(t.return_periods[c], Quantity::Years) + ": " + fault + ".");
    const std::size_t n = t.durations.size();
    std::size_t aside = 0;
    for (std::size_t r = 0; r < cells.size(); ++r) aside += !cells[r].empty() && (r < head || r >= place.end);
    const auto span = [](double s) {
        if (s >= 86400 && std::fmod(s, 86400) == 0) return general(s / 86400, 4) + (s == 86400 ? " day" : " days");
        return s >= 7200 ? general(s / 3600, 4) + " h" : general(s / 60, 4) + " min";
    };
    t.understood =
        std::to_string(n) + (n == 1 ? " duration (" : " durations (") + span(t.durations.front()) +
        (n > 1 ? " to " + span(t.durations.back()) : "") + "), " + std::to_string(count) +
        (count == 1 ? " return period, " : " return periods, ") + t.taken_for +
        (aside ? ", " + std::to_string(aside) + (aside == 1 ? " line" : " lines") + " beside the table left out" : "");
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
            e.set(Kind::Event, same->id, "given", RainGiven::Intensities);
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
        return std::any_of(events.begin(), events.end(), [&](const RainEvent* r) { return r->role == role; });
    };
    const bool minor = marked(EventRole::Minor), major = marked(EventRole::Major);
    std::uint64_t nearest = 0, rarest = events.empty() ? 0 : events.back()->id;
    double away = 1e300;
    for (const RainEvent* r : events)
        if (const double d = std::abs(std::log(r->return_period / 10)); d < away) {
            away = d;
            nearest = r->id;
        }
    if (!minor && nearest) e.set(Kind::Event, nearest, "role", EventRole::Minor);
    if (!major && rarest && rarest != nearest) e.set(Kind::Event, rarest, "role", EventRole::Major);
    return e.take();
}

}  // namespace culvert
