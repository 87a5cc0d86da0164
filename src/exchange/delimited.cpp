// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/delimited.h"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace culvert {
namespace {

constexpr std::size_t lines_looked_at = 200;

bool digit(char c) { return c >= '0' && c <= '9'; }

}  // namespace

std::string trimmed(std::string_view s) {
    const auto drop = [&](bool front) {
        for (;;) {
            if (s.empty()) return;
            const char c = front ? s.front() : s.back();
            if (c == ' ' || c == '\t' || c == '\r') {
                if (front) s.remove_prefix(1);
                else s.remove_suffix(1);
            } else if (front && s.starts_with("\xc2\xa0")) s.remove_prefix(2);
            else if (!front && s.ends_with("\xc2\xa0")) s.remove_suffix(2);
            else if (front && s.starts_with("\xef\xbb\xbf")) s.remove_prefix(3);  // a byte order mark
            else return;
        }
    };
    drop(true);
    drop(false);
    return std::string(s);
}

char find_separator(std::string_view text) {
    std::vector<std::string_view> lines;
    for (std::size_t at = 0; at < text.size() && lines.size() < lines_looked_at;) {
        const auto end = std::min(text.find('\n', at), text.size());
        if (const auto line = text.substr(at, end - at); line.find_first_not_of(" \t\r") != line.npos && line[0] != '#')
            lines.push_back(line);
        at = end + 1;
    }
    for (const char c : {'\t', ';'})
        if (std::any_of(lines.begin(), lines.end(), [&](std::string_view l) { return l.find(c) != l.npos; })) return c;
    std::vector<std::string> cells;
    const auto commas = [&cells](std::string_view l) {  // outside quotes
        split_line(l, ',', cells);
        return static_cast<std::ptrdiff_t>(cells.size()) - 1;
    };
    const auto first = lines.empty() ? 0 : commas(lines[0]);
    if (first == 0) return ' ';
    // A few lines may be cut short.
    const auto alike =
        std::count_if(lines.begin(), lines.end(), [&](std::string_view l) { return commas(l) == first; });
    const bool even = alike * 4 >= static_cast<std::ptrdiff_t>(lines.size()) * 3;
    // "12,5 13,1": every comma between digits and blanks between the numbers: decimal commas.
    const bool blanks = std::all_of(lines.begin(), lines.end(), [&](std::string_view l) {
        for (std::size_t i = 0; i < l.size(); ++i)
            if (l[i] == ',' && (i == 0 || i + 1 == l.size() || !digit(l[i - 1]) || !digit(l[i + 1]))) return false;
        const auto from = l.find_first_not_of(" \r"), last = l.find_last_not_of(" \r");
        return l.substr(from, last - from + 1).find(' ') != l.npos;
    });
    return even && !blanks ? ',' : ' ';
}

void split_line(std::string_view line, char separator, std::vector<std::string>& cells) {
    cells.clear();
    const bool blanks = separator == ' ';
    if (line.starts_with("\xef\xbb\xbf")) line.remove_prefix(3);  // a byte order mark
    const auto ends = [&](char c) { return blanks ? c == ' ' || c == '\t' || c == '\r' : c == separator; };
    for (std::size_t at = 0; at <= line.size();) {
        while (at < line.size() && (line[at] == ' ' || line[at] == '\t' || line[at] == '\r') &&
               (blanks || !ends(line[at])))
            ++at;
        if (blanks && at == line.size()) return;
        std::string cell;
        // Quotes hold a cell together where they begin it; a later one is the mark of an inch.
        bool quoted = at < line.size() && line[at] == '"';
        for (at += quoted; at < line.size() && (quoted || !ends(line[at])); ++at) {
            if (quoted && line[at] == '"') {
                if (at + 1 < line.size() && line[at + 1] == '"') cell += line[at++];
                else quoted = false;
            } else cell += line[at];
        }
        cells.push_back(trimmed(cell));
        ++at;
    }
}

Cells split_cells(std::string_view text, char separator) {
    Cells cells;
    for (std::size_t at = 0; at <= text.size();) {
        const auto end = std::min(text.find('\n', at), text.size());
        const auto line = text.substr(at, end - at);
        at = end + 1;
        cells.emplace_back();
        if (line.find_first_not_of(" \t\r") != line.npos || (separator == '\t' && line.find('\t') != line.npos))
            split_line(line, separator, cells.back());
    }
    while (!cells.empty() && cells.back().empty()) cells.pop_back();
    return cells;
}

NumberStyle sniff_numbers(std::span<const std::string> cells, char separator) {
    NumberStyle style;
    bool point = false, comma_grouped = false, comma_decimal = false, point_grouped = false, comma_three = false;
    for (const std::string& c : cells) {
        const auto commas = std::count(c.begin(), c.end(), ','), points = std::count(c.begin(), c.end(), '.');
        style.grouped |= c.find('\'') != c.npos || c.find("\xc2\xa0") != c.npos || c.find("\xe2\x80\xaf") != c.npos ||
                         (c.find(' ') != c.npos && digit(c.back()));
        if (commas && points) {
            (c.rfind(',') > c.rfind('.') ? comma_decimal : comma_grouped) = true;
            (c.rfind(',') > c.rfind('.') ? point_grouped : point) = true;
        } else if (commas > 1) comma_grouped = true;
        else if (points > 1) point_grouped = true;
        else if (points == 1) point = true;
        else if (commas == 1) {
            const auto after = c.size() - c.find(',') - 1;
            const auto head = c.find(',') - (c[0] == '-' || c[0] == '+' ? 1 : 0);
            if (after == 3 && head >= 1 && head <= 3 && c.find_first_not_of("+-0123456789,") == c.npos)
                comma_three = true;
            else comma_decimal = true;
        }
    }
    if (separator == ',') return style;  // a comma that parts cells is in none
    if (comma_decimal || (comma_three && !point && !comma_grouped)) {
        style.decimal = ',';
        style.ambiguous = !comma_decimal && !point_grouped;
    }
    style.grouped |= comma_grouped || point_grouped || (comma_three && style.decimal == '.');
    return style;
}

bool read_number(std::string_view cell, const NumberStyle& style, double& value, std::string* rest) {
    char text[64];
    std::size_t n = 0, at = 0;
    if (at < cell.size() && cell[at] == '+') ++at;
    if (cell.substr(at).starts_with("\xe2\x88\x92")) {  // a typographer's minus
        text[n++] = '-';
        at += 3;
    }
    for (; at < cell.size() && n + 2 < sizeof text; ++at) {
        const char c = cell[at];
        if (digit(c) || c == '-' ||
            ((c == 'e' || c == 'E') && n && at + 1 < cell.size() &&
             (digit(cell[at + 1]) || cell[at + 1] == '-' || cell[at + 1] == '+')) ||
            (c == '+' && n && (text[n - 1] == 'e' || text[n - 1] == 'E'))) {
            if (c == '-' && n && text[n - 1] != 'e' && text[n - 1] != 'E') break;
            if (c != '+') text[n++] = c;
        } else if (c == style.decimal) text[n++] = '.';
        else if (style.grouped && (c == ',' || c == '.' || c == '\'' || c == ' ') && at + 1 < cell.size() &&
                 digit(cell[at + 1]))
            continue;
        else if (style.grouped && cell.substr(at).starts_with("\xc2\xa0")) ++at;
        else if (style.grouped && cell.substr(at).starts_with("\xe2\x80\xaf")) at += 2;
        else break;
    }
    const auto end = std::from_chars(text, text + n, value);
    if (end.ec != std::errc() || end.ptr != text + n || !std::isfinite(value)) return false;
    const std::string after = at < cell.size() ? trimmed(cell.substr(at)) : std::string();
    if (rest) {
        *rest = after;
        return true;
    }
    return after.empty();
}

}  // namespace culvert
