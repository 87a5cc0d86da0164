// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/paste_table.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <unordered_map>

#include "core/model/cells.h"
#include "core/model/formula.h"

namespace culvert {
namespace {

constexpr std::size_t most_problems = 100;

Quantity quantity_of(const Project& project, Kind kind, std::uint64_t id, const FieldInfo& info) {
    if (kind == Kind::Limit && info.key == "value")
        if (const Limit* l = project.limits.find(id)) return limit_quantity(l->kind);
    return info.quantity;
}
bool holds_number(Kind kind, std::size_t field) { return form_of(kind, field) == FieldForm::Number; }

const Unit* unit_named(Quantity q, const std::string& symbol) {
    for (const Unit& u : units_of(q))
        if (u.symbol == symbol || folded_name(u.symbol) == folded_name(symbol)) return &u;
    // As it may be typed behind a number: m3/s, cfs, acres.
    const Entry one = symbol.empty() ? Entry{} : read_entry("1 " + symbol, q, UnitSet());
    for (const Unit& u : units_of(q))
        if (one.ok && u.factor == one.value) return &u;
    return nullptr;
}
int field_named(Kind kind, const std::string& words) {
    const std::string key = folded_name(words);
    if (key.empty()) return -1;
    const auto infos = infos_of(kind);
    for (std::size_t i = 0; i < infos.size(); ++i)
        if (folded_name(infos[i]->key) == key || folded_name(infos[i]->label) == key) return static_cast<int>(i);
    return -1;
}

/// A head taken apart: "Rim (ft)" is Rim in ft; also "[ft]", "Rim, ft", "Rim / ft", and "Rim ft". As a whole first,
/// then of the ways to part it the first whose words name a field, or are "id".
struct Head {
    std::string words, unit;
    int field = -1;
};
Head head_of(Kind kind, std::string_view text) {
    const std::string t = trimmed(text);
    std::vector<Head> ways{{t, {}, -1}};
    const auto parted = [&](std::size_t at, std::size_t end) {
        if (at != std::string::npos && at > 0 && end > at)
            ways.push_back({trimmed(t.substr(0, at)), trimmed(t.substr(at + 1, end - at - 1)), -1});
    };
    if (const auto close = t.find_last_of(")]"); close != std::string::npos) parted(t.find_last_of("(["), close);
    for (const char c : {'\n', ',', '/', ' '}) parted(t.rfind(c), t.size());
    for (Head& way : ways)
        if (way.field = field_named(kind, way.words); way.field >= 0 || folded_name(way.words) == "id") return way;
    return ways.front();
}

/// The element that a reference names; 0 where there is none.
std::uint64_t referred(const Project& project, Refers to, const std::string& name) {
    const auto named = [&](const auto& table) {
        for (const auto& row : table)
            if (row.name == name) return row.id;
        return std::uint64_t{0};
    };
    if (to == Refers::Street) return named(project.streets);
    if (to == Refers::Catchment) return named(project.catchments);
    if (to == Refers::Event) return named(project.events);
    const ElementRef found = find_element(project, name);
    return to != Refers::Structure || found.kind == Kind::Structure ? found.id : 0;
}

}  // namespace

CellValue read_cell(const Project& project, Kind kind, std::uint64_t id, std::size_t field, std::string_view given,
                    double factor, const NumberStyle* style) {
    const FieldInfo& info = *infos_of(kind)[field];
    const std::string text = trimmed(given);
    const Value present = value_of(project, kind, id, field);
    const UnitSet units = units_of(project);
    if (std::holds_alternative<double>(present)) {
        if (text.empty() || text == "–" || text == "-") {
            if (info.needed) return {false, {}, std::string(info.label) + " needs a value"};
            return {true, not_given, {}};
        }
        const Quantity q = quantity_of(project, kind, id, info);
        double v = 0;
        std::string rest;
        if (style && read_number(text, *style, v, &rest) && trimmed(rest).empty()) {
            const double unit = factor > 0 ? factor : units.unit(q).factor;
            // A plain decimal is read once, in extended precision: what was copied comes back to the bit.
            if (double exact = 0; style->decimal == '.' && !style->grouped && read_decimal(text, unit, exact))
                v = exact;
            else v *= unit;
        } else {
            std::string entry = text;
            if (style && style->decimal == ',') std::replace(entry.begin(), entry.end(), ',', '.');
            const Entry e = read_entry(entry, q, units);
            if (!e.ok) return {false, {}, "\"" + text + "\" is no " + std::string(name_of(q)) + ": " + e.error};
            v = e.value;
            // A bare number in a column of another unit.
            if (factor > 0 && text.find_first_not_of("0123456789.,+-eE ") == std::string::npos)
                v = e.value / units.unit(q).factor * factor;
        }
        const FieldInfo range = info_of(project, kind, id, field);
        if (const std::string fault = range_fault(range, v, units); !fault.empty()) {
            bool odd = false;
            const double typed = factor > 0 ? v / factor : v / units.unit(q).factor;
            for (const Unit& u : units_of(q)) odd |= in_range(range, typed * u.factor) && typed != 0;
            return {false, {}, std::string(info.label) + " " + fault + (odd ? ": is its unit right?" : ""), odd};
        }
        return {true, v, {}};
    }
    if (std::holds_alternative<int>(present)) {
        for (std::size_t i = 0; i < info.choices.size(); ++i)
            if (folded_name(info.choices[i]) == folded_name(text)) return {true, static_cast<int>(i), {}};
        std::string known;
        for (const auto& c : info.choices) known += (known.empty() ? "" : ", ") + std::string(c);
        return {false, {}, "\"" + text + "\" is no " + std::string(info.label) + ": " + known};
    }
    if (std::holds_alternative<bool>(present)) {
        const std::string f = folded_name(text);
        if (f == "yes" || f == "true" || f == "1" || f == "x") return {true, true, {}};
        if (f.empty() || f == "no" || f == "false" || f == "0") return {true, false, {}};
        return {false, {}, "\"" + text + "\" is neither yes nor no"};
    }
    if (std::holds_alternative<std::uint64_t>(present)) {
        if (text.empty() || text == "–") return {true, std::uint64_t{0}, {}};
        if (const std::uint64_t found = referred(project, info.refers_to, text)) return {true, found, {}};
        return {false, {}, "there is no " + std::string(refers_name(info.refers_to)) + " \"" + text + "\""};
    }
    if (std::holds_alternative<std::string>(present)) return {true, text, {}};
    return {false, {}, std::string(info.label) + " is a list: it is drawn, not pasted"};
}

std::string cell_text(const Project& project, Kind kind, std::uint64_t id, std::size_t field) {
    const FieldInfo& info = *infos_of(kind)[field];
    const Value v = value_of(project, kind, id, field);
    if (const double* d = std::get_if<double>(&v)) {
        if (std::isnan(*d)) return {};
        const UnitSet units = units_of(project);
        return shortest_decimal(*d, units.unit(quantity_of(project, kind, id, info)).factor);
    }
    if (const bool* b = std::get_if<bool>(&v)) return *b ? "yes" : "no";
    if (const int* i = std::get_if<int>(&v)) return std::string(info.choices[static_cast<std::size_t>(*i)]);
    if (const auto* r = std::get_if<std::uint64_t>(&v)) { return *r ? name_of_row(project, *r) : std::string(); }
    if (const auto* s = std::get_if<std::string>(&v)) return *s;
    return {};
}

PastePlan plan_paste(const Project& project, Kind kind, std::string_view text, const PastePlace& place,
                     const std::vector<PasteChoice>& choices) {
    PastePlan plan;
    const auto problem = [&plan](int line, int column, std::string message) {
        if (plan.problems.size() < most_problems) plan.problems.push_back({line, column, std::move(message)});
    };
    // Spreadsheets part cells by tabs; only text without any is looked at more closely.
    const char separator = text.find('\t') != std::string_view::npos ? '\t' : find_separator(text.substr(0, 65536));
    Cells all = split_cells(text, separator);
    std::size_t wide = 0, cells = 0;
    for (const auto& r : all) {
        wide = std::max(wide, r.size());
        cells += r.size();
    }
    if (all.empty() || wide == 0) {
        plan.summary = "There is nothing to paste.";
        return plan;
    }
    if (cells > most_paste_cells) {
        plan.summary = "More than twenty million cells: paste a part of them.";
        return plan;
    }
    // A head line: one of its cells names a field, and none of its cells is a number.
    bool head = false;
    for (const std::string& c : all[0]) {
        double v = 0;
        if (read_number(trimmed(c), NumberStyle{}, v)) {
            head = false;
            break;
        }
        const Head h = head_of(kind, c);
        head |= h.field >= 0 || folded_name(h.words) == "id";
    }
    const std::size_t first = head ? 1 : 0;
    const auto infos = infos_of(kind);
    const UnitSet units = units_of(project);
    plan.columns.resize(wide);
    for (std::size_t c = 0; c < wide; ++c) {
        PasteColumn& column = plan.columns[c];
        std::string unit;
        if (head && c < all[0].size()) {
            column.head = trimmed(all[0][c]);
            const Head h = head_of(kind, column.head);
            column.field = h.field;
            unit = h.unit;
            column.key =
                infos.size() && (folded_name(h.words) == "id" ||
                                 (column.field >= 0 && infos[static_cast<std::size_t>(column.field)]->key == "name"));
            if (folded_name(h.words) == "id") column.field = -1;
        } else if (!head && c < place.columns.size()) column.field = static_cast<int>(place.columns[c]);
        for (const PasteChoice& choice : choices)
            if (choice.column == c && choice.field != -2) column.field = choice.field;
        if (column.field >= 0 && holds_number(kind, static_cast<std::size_t>(column.field))) {
            const Quantity q = infos[static_cast<std::size_t>(column.field)]->quantity;
            column.factor = units.unit(q).factor;
            column.unit = units.unit(q).symbol;
            if (!unit.empty()) {
                if (const Unit* u = unit_named(q, unit)) {
                    column.factor = u->factor;
                    column.unit = u->symbol;
                    column.unit_given = true;
                } else
                    problem(
                        1, static_cast<int>(c) + 1,
                        "\"" + unit + "\" is no unit of " + std::string(name_of(q)) + ": choose one for the column");
            }
            std::vector<std::string> sample;
            for (std::size_t r = first; r < std::min(all.size(), first + 200); ++r)
                if (c < all[r].size()) sample.push_back(all[r][c]);
            column.style = sniff_numbers(sample, separator);
            plan.questions |= column.style.ambiguous;
            for (const PasteChoice& choice : choices)
                if (choice.column == c) {
                    if (choice.factor > 0) {
                        column.factor = choice.factor;
                        for (const Unit& u : units_of(q))
                            if (u.factor == choice.factor) column.unit = u.symbol;
                    }
                    if (choice.decimal) {
                        column.style.decimal = choice.decimal;
                        column.style.ambiguous = false;
                    }
                }
        }
    }
    // What the rows are found by.
    std::size_t key = wide;
    for (std::size_t c = 0; c < wide && key == wide; ++c)
        if (plan.columns[c].key) key = c;
    std::unordered_map<std::string, std::uint64_t> by_name;
    with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        for (const R& row : project.table<R>()) {
            by_name.emplace(element_name(project, kind, row.id), row.id);
            by_name.emplace(id_text(row.id), row.id);
            if constexpr (std::is_same_v<R, Pipe>) {  // "A3-A4" for "A3–A4"
                std::string plain = element_name(project, kind, row.id);
                if (const auto dash = plain.find("–"); dash != std::string::npos)
                    by_name.emplace(plain.replace(dash, 3, "-"), row.id);
            }
        }
    });
    if (key == wide && !head) {
        // The first column repeats names.
        std::size_t hits = 0, rows = 0;
        for (std::size_t r = first; r < std::min(all.size(), first + 50); ++r) {
            if (all[r].empty()) continue;
            ++rows;
            hits += by_name.contains(trimmed(all[r][0]));
        }
        double v = 0;
        const bool numbers = !all[first].empty() && read_number(trimmed(all[first][0]), NumberStyle{}, v);
        if (rows > 0 && hits * 2 > rows && !numbers && wide > 1) {
            key = 0;
            plan.columns[0].key = true;
            // The cells after the names go onto the columns from the current one on.
            const bool at_name = !place.columns.empty() && infos[place.columns[0]]->key == "name";
            if (!at_name)
                for (std::size_t c = wide; c-- > 1;) plan.columns[c] = plan.columns[c - 1];
            plan.columns[0] = {};
            plan.columns[0].key = true;
            for (std::size_t c = 1; c < wide; ++c)
                if (plan.columns[c].field >= 0 && plan.columns[c].factor > 0) {
                    std::vector<std::string> sample;
                    for (std::size_t r = first; r < std::min(all.size(), first + 200); ++r)
                        if (c < all[r].size()) sample.push_back(all[r][c]);
                    plan.columns[c].style = sniff_numbers(sample, separator);
                }
        }
    }
    plan.by_place = key == wide;
    if (plan.by_place && head) {
        plan.summary =
            "No column of the head is \"name\" or \"id\": rows cannot find their elements. Add one, or copy without "
            "the head.";
        return plan;
    }
    Editing e(project, "Paste " + std::string(table_name(kind)));
    std::unordered_map<std::uint64_t, std::size_t> seen;
    plan.cells.assign(std::make_move_iterator(all.begin() + static_cast<std::ptrdiff_t>(first)),
                      std::make_move_iterator(all.end()));
    plan.rows.resize(plan.cells.size());
    plan.states.resize(plan.cells.size());
    for (std::size_t r = 0; r < plan.cells.size(); ++r) {
        PasteRow& row = plan.rows[r];
        row.line = static_cast<int>(r + first) + 1;
        if (std::all_of(plan.cells[r].begin(), plan.cells[r].end(), [](const auto& c) { return trimmed(c).empty(); }))
            continue;
        if (plan.by_place) {
            if (r < place.rows.size()) row.id = place.rows[r];
        } else if (key < plan.cells[r].size()) {
            row.name = trimmed(plan.cells[r][key]);
            if (const auto at = by_name.find(row.name); at != by_name.end()) row.id = at->second;
        }
        row.fate = row.id ? PasteRow::Fate::Matched : PasteRow::Fate::Unmatched;
        if (row.id) {
            const auto [other, fresh] = seen.emplace(row.id, r);
            if (!fresh) {
                for (const std::size_t twice : {other->second, r})
                    if (plan.rows[twice].fate != PasteRow::Fate::Doubled)
                        plan.rows[twice].fate = PasteRow::Fate::Doubled;
            }
        }
    }
    for (std::size_t r = 0; r < plan.cells.size(); ++r) {
        const PasteRow& row = plan.rows[r];
        plan.states[r].assign(plan.cells[r].size(), CellState::Ignored);
        plan.matched += row.fate == PasteRow::Fate::Matched;
        plan.unmatched += row.fate == PasteRow::Fate::Unmatched;
        plan.doubled += row.fate == PasteRow::Fate::Doubled;
        if (row.fate != PasteRow::Fate::Matched) continue;
        for (std::size_t c = 0; c < plan.cells[r].size(); ++c) {
            const PasteColumn& column = plan.columns[c];
            if (c == key || column.field < 0) continue;
            const auto field = static_cast<std::size_t>(column.field);
            // An empty cell of a table leaves the value alone: it was not filled in.
            if (trimmed(plan.cells[r][c]).empty()) continue;
            const CellValue v = read_cell(project, kind, row.id, field, plan.cells[r][c], column.factor,
                                          column.factor > 0 ? &column.style : nullptr);
            if (!v.ok) {
                plan.states[r][c] = CellState::Bad;
                ++plan.bad;
                plan.columns[c].odd += v.odd;
                problem(row.line, static_cast<int>(c) + 1, v.error);
                continue;
            }
            const Scale& scale = infos[field]->scale;
            if (const double* number = std::get_if<double>(&v.value);
                number && scale.low <= scale.high && *number != 0 && (*number < scale.low || *number > scale.high)) {
                ++plan.columns[c].odd;
                problem(row.line, static_cast<int>(c) + 1,
                        units.text(*number, infos[field]->quantity) + " is out of scale for " +
                            std::string(infos[field]->label) + ": is the column's unit right?");
            }
            if (same_value(value_of(project, kind, row.id, field), v.value)) {
                plan.states[r][c] = CellState::Same;
                continue;
            }
            plan.states[r][c] = CellState::Changes;
            ++plan.changes;
            e.set(kind, row.id, infos[field]->key, v.value);
        }
    }
    plan.edit = e.take();
    const auto count = [](std::size_t n, const char* one, const char* many) {
        return std::to_string(n) + " " + (n == 1 ? one : many);
    };
    plan.edit.name = "Paste " + count(plan.changes, "value", "values");
    plan.summary = count(plan.changes, "value changes", "values change") + " in " + count(plan.matched, "row", "rows");
    if (plan.unmatched) plan.summary += ", " + count(plan.unmatched, "row finds", "rows find") + " no element";
    if (plan.doubled) plan.summary += ", " + count(plan.doubled, "row names", "rows name") + " an element twice";
    if (plan.bad) plan.summary += ", " + count(plan.bad, "cell is", "cells are") + " not understood";
    std::size_t odd = 0;
    for (const PasteColumn& c : plan.columns) odd += c.odd;
    if (odd) plan.summary += ", " + count(odd, "value is", "values are") + " out of scale: check the unit";
    plan.summary += ".";
    plan.ok = plan.changes > 0;
    return plan;
}

}  // namespace culvert
