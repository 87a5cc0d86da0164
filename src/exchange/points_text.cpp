// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/points_text.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/numbers.h"
namespace culvert {
namespace {

constexpr std::size_t shown_lines = 12, sniffed_lines = 200, most_problems = 50;

std::string lower(std::string s) {
    for (char& c : s) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return s;
}

PointColumn by_head(const std::string& head) {
    const std::string h = lower(head);
    const auto any = [&](std::initializer_list<const char*> words) {
        return std::any_of(words.begin(), words.end(), [&](const char* w) {
            return h == w || h.starts_with(std::string(w) + " ") || h.starts_with(std::string(w) + "(") ||
                   h.starts_with(std::string(w) + "[");
        });
    };
    if (any({"e", "east", "easting", "x", "rechts", "este", "est"})) return PointColumn::Easting;
    if (any({"n", "north", "northing", "y", "hoch", "norte", "nord"})) return PointColumn::Northing;
    if (any({"z", "h", "level", "elevation", "elev", "height", "rl", "altitude", "cota"})) return PointColumn::Level;
    if (any({"line", "string", "breakline"})) return PointColumn::Line;
    if (any({"name", "point", "pt", "id", "no", "number", "p"})) return PointColumn::Name;
    return PointColumn::Ignore;
}

template <class F>
void each_line(std::string_view text, F&& f) {
    int number = 1;
    for (std::size_t at = 0; at < text.size(); ++number) {
        const auto end = std::min(text.find('\n', at), text.size());
        std::string_view line = text.substr(at, end - at);
        if (!line.empty() && line.back() == '\r') line.remove_suffix(1);
        at = end + 1;
        if (!f(number, line)) return;
    }
}

}  // namespace

PointsLayout sniff_points(std::string_view text) {
    PointsLayout l;
    l.separator = find_separator(text.substr(0, 65536));
    Cells rows;
    std::vector<std::size_t> numbers;
    each_line(text, [&](int number, std::string_view line) {
        if (line.find_first_not_of(" \t") == line.npos || line[0] == '#') return true;
        rows.emplace_back();
        split_line(line, l.separator, rows.back());
        numbers.push_back(static_cast<std::size_t>(number));
        return rows.size() < sniffed_lines;
    });
    l.first.assign(rows.begin(), rows.begin() + static_cast<std::ptrdiff_t>(std::min(rows.size(), shown_lines)));
    if (rows.empty()) {
        l.remarks.emplace_back("the file has no line with text");
        return l;
    }
    // A head is a first line with fewer than two numbers.
    const auto numeric = [&](const std::string& cell) {
        double v = 0;
        return read_number(cell, {',', false, false}, v) || read_number(cell, {'.', true, false}, v);
    };
    std::size_t head_row = 0;
    while (head_row < rows.size() && std::count_if(rows[head_row].begin(), rows[head_row].end(), numeric) < 2)
        ++head_row;
    if (head_row >= rows.size()) {
        l.remarks.emplace_back("no line has two numbers");
        head_row = 0;
    }
    l.head = numbers[head_row] - 1;
    std::size_t width = 0;
    for (std::size_t r = head_row; r < rows.size(); ++r) width = std::max(width, rows[r].size());
    l.columns.assign(width, PointColumn::Ignore);
    l.styles.resize(width);
    std::vector<std::size_t> number_columns;
    for (std::size_t c = 0; c < width; ++c) {
        std::vector<std::string> cells;
        std::size_t good = 0, given = 0;
        for (std::size_t r = head_row; r < rows.size(); ++r)
            if (c < rows[r].size() && !rows[r][c].empty()) cells.push_back(rows[r][c]);
        given = cells.size();
        l.styles[c] = sniff_numbers(cells, l.separator);
        for (const std::string& cell : cells) {
            double v = 0;
            good += read_number(cell, l.styles[c], v);
        }
        if (given && good * 4 >= given * 3) number_columns.push_back(c);
        if (l.styles[c].ambiguous)
            l.remarks.push_back("column " + std::to_string(c + 1) + ": \"" + cells.front() +
                                "\" is read with a decimal comma");
    }
    bool named = false;
    if (head_row > 0)
        for (std::size_t c = 0; c < width && c < rows[head_row - 1].size(); ++c) {
            const PointColumn role = by_head(rows[head_row - 1][c]);
            if (role != PointColumn::Ignore && std::find(l.columns.begin(), l.columns.end(), role) == l.columns.end())
                l.columns[c] = role;
        }
    const auto has = [&](PointColumn r) { return std::find(l.columns.begin(), l.columns.end(), r) != l.columns.end(); };
    named = has(PointColumn::Easting) && has(PointColumn::Northing) && has(PointColumn::Level);
    if (!named) {
        l.columns.assign(width, PointColumn::Ignore);
        // Of four or more numbers, a first one that counts is the point's name.
        std::size_t skip = 0;
        if (number_columns.size() >= 4 || (!number_columns.empty() && number_columns[0] > 0)) {
            bool counts = number_columns.size() >= 4;
            for (std::size_t r = head_row; r < rows.size(); ++r) {
                double v = 0;
                counts = counts && !rows[r].empty() && read_number(rows[r][0], l.styles[0], v) && v == std::floor(v) &&
                         std::abs(v) < 1e8;
            }
            if (counts) skip = 1;
            l.columns[0] = number_columns[0] == 0 && !counts ? PointColumn::Ignore : PointColumn::Name;
        }
        constexpr PointColumn order[] = {PointColumn::Easting, PointColumn::Northing, PointColumn::Level};
        for (std::size_t k = 0; k < 3 && skip + k < number_columns.size(); ++k)
            l.columns[number_columns[skip + k]] = order[k];
        if (number_columns.size() >= skip + 3)
            l.remarks.emplace_back(
                "no head names the columns: they are read as easting, northing, level in this order");
        else l.remarks.emplace_back("fewer than three columns of numbers were found");
    }
    return l;
}

SurfaceImport read_points(std::string_view text, const PointsLayout& layout, const std::stop_token& stop) {
    SurfaceImport out;
    const auto column = [&](PointColumn r) {
        const auto at = std::find(layout.columns.begin(), layout.columns.end(), r);
        return at == layout.columns.end() ? std::size_t(-1) : static_cast<std::size_t>(at - layout.columns.begin());
    };
    const std::size_t e = column(PointColumn::Easting), n = column(PointColumn::Northing),
                      z = column(PointColumn::Level), line_at = column(PointColumn::Line);
    const auto problem = [&](int line, std::string message, std::string remedy) {
        ++out.left_out;
        if (out.problems.size() < most_problems) out.problems.push_back({line, std::move(message), std::move(remedy)});
    };
    if (e == std::size_t(-1) || n == std::size_t(-1) || z == std::size_t(-1)) {
        problem(0, "no column is chosen for easting, northing or level", "Choose one column for each.");
        return out;
    }
    std::vector<std::string> cells;
    std::map<std::string, std::vector<GroundPoint>> lines;
    each_line(text, [&](int number, std::string_view line) {
        if (static_cast<std::size_t>(number) <= layout.head || line.find_first_not_of(" \t") == line.npos ||
            line[0] == '#')
            return true;
        split_line(line, layout.separator, cells);
        GroundPoint p;
        const auto read = [&](std::size_t c, double& v, const char* what) {
            if (c >= cells.size() || cells[c].empty()) {
                problem(number, std::string("has no ") + what, "The line is left out; complete it to use it.");
                return false;
            }
            if (!read_number(cells[c], layout.styles[c], v)) {
                problem(number, "\"" + cells[c].substr(0, 40) + "\" is not a number for the " + what,
                        "The line is left out; correct it to use it.");
                return false;
            }
            v *= layout.unit;
            const double reach = c == z ? level_reach : plan_reach;
            if (std::abs(v) > reach) {
                problem(
                    number,
                    std::string(what) + " is " + general(v, 6) + " m: at most " + fixed(reach, 0) + " m can be right",
                    "The line is left out; is the unit right?");
                return false;
            }
            return true;
        };
        if (read(e, p.x, "easting") && read(n, p.y, "northing") && read(z, p.z, "level")) {
            if (line_at < cells.size() && !cells[line_at].empty()) lines[cells[line_at]].push_back(p);
            else out.data.points.push_back(p);
        }
        return number % 4096 != 0 || !stop.stop_requested();
    });
    for (auto& [name, points] : lines) {
        if (points.size() > 1) out.data.breaklines.push_back(std::move(points));
        else out.data.points.push_back(points.front());
    }
    std::size_t count = out.data.points.size();
    for (const auto& l : out.data.breaklines) count += l.size();
    out.ok = count >= 3 && !stop.stop_requested();
    if (!out.ok && !stop.stop_requested())
        out.problems.insert(out.problems.begin(),
                            {0, "the file has " + std::to_string(count) + " points: a surface needs three",
                             "Check the columns and the separator."});
    return out;
}

}  // namespace culvert
