// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/units.h"

#include "core/base/clock.h"

#include <algorithm>
#include <charconv>
#include <cmath>

#include "core/base/numbers.h"

namespace culvert {
namespace {

constexpr double foot = 0.3048, inch = 0.0254, acre = 43560 * foot * foot, cubic_foot = foot * foot * foot;

struct QuantityDef {
    std::string_view name;
    std::vector<Unit> units;
};

const std::array<QuantityDef, quantity_count>& table() {
    static const std::array<QuantityDef, quantity_count> defs{{
        {"number", {{"", 1, 3}, {"", 1, 3}}},
        {"length", {{"m", 1, 2}, {"ft", foot, 2}, {"mm", 0.001, 0}, {"in", inch, 1}, {"cm", 0.01, 1}, {"km", 1000, 3}}},
        {"level", {{"m", 1, 3}, {"ft", foot, 2}, {"mm", 0.001, 0}, {"in", inch, 1}, {"cm", 0.01, 1}}},
        {"size", {{"mm", 0.001, 0}, {"in", inch, 0}, {"m", 1, 3}, {"ft", foot, 2}, {"cm", 0.01, 1}}},
        {"area", {{"ha", 10000, 3}, {"ac", acre, 3}, {"m²", 1, 0}, {"ft²", foot * foot, 0}, {"km²", 1e6, 4}}},
        {"flow", {{"l/s", 0.001, 1}, {"ft³/s", cubic_foot, 2}, {"m³/s", 1, 4}, {"m³/h", 1.0 / 3600, 1}}},
        {"velocity", {{"m/s", 1, 2}, {"ft/s", foot, 2}}},
        {"slope", {{"%", 0.01, 2}, {"%", 0.01, 2}, {"m/m", 1, 5}, {"‰", 0.001, 1}}},
        {"intensity", {{"mm/h", 0.001 / 3600, 1}, {"in/h", inch / 3600, 2}}},
        {"time", {{"min", 60, 2}, {"min", 60, 2}, {"h", 3600, 3}, {"s", 1, 0}}},
        {"years", {{"years", 1, 0}, {"years", 1, 0}}},
        {"ratio", {{"", 1, 2}, {"", 1, 2}, {"%", 0.01, 0}}},
        {"roughness", {{"", 1, 3}, {"", 1, 3}}},
        {"depth-velocity", {{"m²/s", 1, 2}, {"ft²/s", foot * foot, 2}}},
        {"stress", {{"Pa", 1, 1}, {"lb/ft²", 4.4482216152605 / (foot * foot), 2}}},
        {"price-by-volume", {{"/m³", 1, 2}, {"/yd³", 1 / (27 * cubic_foot), 2}, {"/ft³", 1 / cubic_foot, 2}}},
        {"price-by-length", {{"/m", 1, 2}, {"/ft", 1 / foot, 2}}},
        {"price-by-size", {{"/m²", 1, 2}, {"/ft²", 1 / (foot * foot), 2}}},
        {"volume", {{"m³", 1, 1}, {"ft³", cubic_foot, 1}, {"ac·ft", acre * foot, 3}, {"yd³", 27 * cubic_foot, 1}}},
        {"water-area", {{"m²", 1, 1}, {"ft²", foot * foot, 1}, {"ha", 10000, 3}, {"ac", acre, 3}}},
        {"flow-per-area", {{"l/s/ha", 1e-7, 2}, {"ft³/s/ac", cubic_foot / acre, 3}}},
        {"rain-depth", {{"mm", 0.001, 1}, {"in", inch, 2}, {"cm", 0.01, 2}}},
    }};
    return defs;
}

bool same_symbol(std::string_view typed, std::string_view symbol) {
    // Typed units may write squares and cubes plainly: m3/s, ft2, cfs is a trade word for ft3/s.
    std::string plain;
    for (std::size_t i = 0; i < symbol.size(); ++i) {
        if (symbol.substr(i).starts_with("²")) {
            plain += '2';
            ++i;
        } else if (symbol.substr(i).starts_with("³")) {
            plain += '3';
            ++i;
        } else plain += symbol[i];
    }
    if (typed == symbol || typed == plain) return true;
    if (plain == "ft3/s" && typed == "cfs") return true;
    if (plain == "ft" && (typed == "'" || typed == "feet")) return true;
    if (plain == "in" && (typed == "\"" || typed == "inch")) return true;
    if (plain == "ft/s" && typed == "fps") return true;
    if (plain == "l/s" && (typed == "L/s" || typed == "lps")) return true;
    if (plain == "m/m" && (typed == "ft/ft")) return true;
    if (plain == "ac" && (typed == "acre" || typed == "acres")) return true;
    if (plain == "years" && (typed == "year" || typed == "yr" || typed == "a")) return true;
    return false;
}

}  // namespace

const std::vector<Unit>& units_of(Quantity quantity) { return table()[static_cast<std::size_t>(quantity)].units; }
std::string_view name_of(Quantity quantity) { return table()[static_cast<std::size_t>(quantity)].name; }

UnitSet::UnitSet(UnitSystem system) : system_(system) {
    for (std::size_t q = 0; q < quantity_count; ++q) chosen_[q] = table()[q].units[system == UnitSystem::Si ? 0 : 1];
}

std::string UnitSet::apply(std::string_view choices) {
    std::string refused;
    std::size_t at = 0;
    while (at < choices.size()) {
        auto end = std::min(choices.find(';', at), choices.size());
        std::vector<std::string> words(1);
        for (char c : choices.substr(at, end - at)) {
            if (c == ' ') {
                if (!words.back().empty()) words.emplace_back();
            } else words.back() += c;
        }
        if (words.back().empty()) words.pop_back();
        at = end + 1;
        if (words.empty()) continue;
        bool done = false;
        for (std::size_t q = 0; q < quantity_count; ++q) {
            if (table()[q].name != words[0]) continue;
            Unit unit = chosen_[q];
            for (std::size_t w = 1; w < words.size(); ++w) {
                if (words[w].size() == 1 && words[w][0] >= '0' && words[w][0] <= '9') {
                    unit.digits = words[w][0] - '0';
                    done = true;
                }
                for (const Unit& u : table()[q].units)
                    if (!u.symbol.empty() && same_symbol(words[w], u.symbol)) {
                        unit.symbol = u.symbol;
                        unit.factor = u.factor;
                        if (w + 1 == words.size()) unit.digits = u.digits;
                        done = true;
                        break;
                    }
            }
            chosen_[q] = unit;
        }
        if (!done) refused += (refused.empty() ? "" : "; ") + words[0];
    }
    return refused;
}

std::string UnitSet::number(double si, Quantity quantity) const {
    if (!std::isfinite(si)) return std::isinf(si) ? (si > 0 ? "∞" : "−∞") : "–";
    return fixed(shown(si, quantity), unit(quantity).digits);
}

std::string UnitSet::text(double si, Quantity quantity) const {
    const Unit& u = unit(quantity);
    // Six hours and more of storms and ponds, where minutes are shown: "12:06 h" is read at once, "726.00 min" is not.
    if (quantity == Quantity::Duration && by_clock(*this) && si >= 6 * 3600.0 && si < 1e9)
        return minutes_text(si) + " h";
    std::string t = number(si, quantity);
    if (!u.symbol.empty() && std::isfinite(si)) t += " " + std::string(u.symbol);
    return t;
}

std::string UnitSet::entry(double si, Quantity quantity) const {
    if (!std::isfinite(si)) return "";
    const Unit& u = unit(quantity);
    std::string t = fixed(shown(si, quantity), u.digits + 4);
    if (t.find('.') != std::string::npos && t.find('e') == std::string::npos) {
        t.erase(t.find_last_not_of('0') + 1);
        if (t.back() == '.') t.pop_back();
    }
    if (!u.symbol.empty()) t += " " + std::string(u.symbol);
    return t;
}

bool read_decimal(std::string_view text, double factor, double& si) {
    if (factor == 1) return parse_double(text, si);
    long double value = 0;
    const auto read = std::from_chars(text.data(), text.data() + text.size(), value);
    if (read.ec != std::errc() || read.ptr != text.data() + text.size()) return false;
    const double rounded = static_cast<double>(value * static_cast<long double>(factor));
    if (!std::isfinite(rounded)) return false;
    si = rounded;
    return true;
}

std::string shortest_decimal(double si, double factor) {
    if (factor == 1) return shortest(si);
    std::string text;
    char buffer[5200];  // the longest long double, written out
    const auto written = [&](std::chars_format form, int precision) {
        const auto end =
            std::to_chars(buffer, buffer + sizeof buffer,
                          static_cast<long double>(si) / static_cast<long double>(factor), form, precision);
        return std::string(buffer, end.ptr);
    };
    const long double value = static_cast<long double>(si) / static_cast<long double>(factor);
    // More digits are never farther off, so the least number that reads back is found by halving.
    const auto reads_back = [&](int precision) {
        double back = 0;
        text = written(std::chars_format::general, precision);
        return read_decimal(text, factor, back) && back == si;
    };
    int low = 1, high = 21;
    if (reads_back(6)) high = 6;  // what people type
    else low = 7;
    while (low < high) {
        const int middle = (low + high) / 2;
        if (reads_back(middle)) high = middle;
        else low = middle + 1;
    }
    for (int precision = low; precision <= 21; ++precision) {
        if (!reads_back(precision)) continue;
        double back = 0;
        // "4.5e+02" reads back, but "450" is what a person writes.
        const int exponent = value == 0 ? 0 : static_cast<int>(std::floor(std::log10(std::abs(value))));
        if (exponent > -7 && exponent < 16) {
            const std::string plain = written(std::chars_format::fixed, std::max(0, precision - 1 - exponent));
            if (read_decimal(plain, factor, back) && back == si) return plain;
        }
        break;
    }
    return text;
}

namespace {

struct Reader {
    std::string_view text;
    std::size_t at = 0;
    void skip() {
        while (at < text.size() && text[at] == ' ') ++at;
    }
    [[nodiscard]] bool done() const { return at >= text.size(); }
};

/// One number; a lone decimal comma is accepted, a comma that could be a thousands separator is refused.
bool read_number(Reader& in, double& value, std::string& error) {
    in.skip();
    std::string digits;
    std::size_t begin = in.at;
    int commas = 0, points = 0;
    while (!in.done()) {
        char c = in.text[in.at];
        if ((c >= '0' && c <= '9') || c == '.') points += c == '.';
        else if (c == ',') {
            ++commas;
            c = '.';
        } else if ((c == 'e' || c == 'E') && in.at > begin && in.at + 1 < in.text.size() &&
                   (in.text[in.at + 1] == '-' || in.text[in.at + 1] == '+' ||
                    (in.text[in.at + 1] >= '0' && in.text[in.at + 1] <= '9'))) {
            digits += c;
            c = in.text[++in.at];
        } else break;
        digits += c;
        ++in.at;
    }
    const std::string typed(in.text.substr(begin, in.at - begin));
    if (digits.empty()) {
        error = "expected a number at \"" + std::string(in.text.substr(begin)) + "\"";
        return false;
    }
    if (points + commas > 1) {
        error = "\"" + typed + "\" has more than one decimal mark: write it without thousands separators";
        return false;
    }
    if (commas == 1 && typed.size() - typed.find(',') == 4 && typed[0] != '0') {
        std::string plain = typed;
        plain.erase(plain.find(','), 1);
        error = "\"" + typed + "\" can mean two numbers: write " + digits + " or " + plain;
        return false;
    }
    if (!parse_double(digits, value)) {
        error = "\"" + typed + "\" is not a number";
        return false;
    }
    return true;
}

std::string unit_list(Quantity quantity) {
    std::string list;
    std::vector<std::string_view> named;  // a unit may stand twice, with other digits
    for (const Unit& u : units_of(quantity)) {
        if (u.symbol.empty() || std::find(named.begin(), named.end(), u.symbol) != named.end()) continue;
        list += (named.empty() ? "" : ", ") + std::string(u.symbol);
        named.push_back(u.symbol);
    }
    return list;
}

}  // namespace

Entry read_entry(std::string_view text, Quantity quantity, const UnitSet& units, Scale scale) {
    Entry entry;
    // Typographic minus, primes and quotes are what people paste.
    constexpr std::pair<std::string_view, char> typographic[] = {{"−", '-'},  {"\u00a0", ' '}, {"′", '\''},
                                                                 {"’", '\''}, {"″", '"'},      {"”", '"'}};
    std::string plain;
    for (std::size_t i = 0; i < text.size();) {
        const auto* at = std::find_if(std::begin(typographic), std::end(typographic),
                                      [&](const auto& t) { return text.substr(i).starts_with(t.first); });
        if (at == std::end(typographic)) {
            plain += text[i++];
            continue;
        }
        plain += at->second;
        i += at->first.size();
    }
    Reader in{plain};
    double sum = 0, bare_number = 0;
    int terms = 0;
    bool bare = false, had_unit = false;
    double feet = 0;  // of the term before: its sign where it was in feet, else 0
    in.skip();
    while (!in.done() || terms == 0) {
        double sign = 1;
        in.skip();
        const bool minus = !in.done() && in.text[in.at] == '-', plus = !in.done() && in.text[in.at] == '+';
        if (minus || plus) sign = in.text[in.at++] == '-' ? -1 : 1;
        else if (terms > 0 && !(in.text[in.at] >= '0' && in.text[in.at] <= '9')) {
            entry.error = "did not understand \"" + std::string(in.text.substr(in.at)) + "\"";
            return entry;
        }
        double number = 0;
        if (!read_number(in, number, entry.error)) {
            if (plain.find_first_not_of(" +-") == std::string::npos)
                entry.error = "type a " + std::string(name_of(quantity));
            return entry;
        }
        in.skip();
        double factor = units.unit(quantity).factor;
        bool has_unit = false;
        if (quantity == Quantity::Slope && !in.done() && in.text[in.at] == ':') {
            ++in.at;
            double run = 0;
            if (!read_number(in, run, entry.error)) return entry;
            if (run == 0) {
                entry.error = "a slope of 1:0 has no meaning: write for example 1:66";
                return entry;
            }
            number /= run;
            factor = 1;
            has_unit = true;
        } else {
            std::size_t begin = in.at;
            while (!in.done() && std::string_view(" +-0123456789").find(in.text[in.at]) == std::string_view::npos) {
                ++in.at;
                // the exponent of a plainly written unit: m3/s, ft2
                if (!in.done() && (in.text[in.at] == '2' || in.text[in.at] == '3')) ++in.at;
            }
            const std::string typed(in.text.substr(begin, in.at - begin));
            if (!typed.empty()) {
                for (const Unit& u : units_of(quantity))
                    if (!u.symbol.empty() && same_symbol(typed, u.symbol)) {
                        factor = u.factor;
                        has_unit = true;
                        break;
                    }
                if (!has_unit) {
                    const std::string known = unit_list(quantity);
                    entry.error = "\"" + typed + "\" is not a unit of " + std::string(name_of(quantity)) +
                                  (known.empty() ? "" : ": use " + known);
                    return entry;
                }
            }
        }
        if (!has_unit) {
            bare = true;
            bare_number = sign * number;
        }
        // Two numbers beside each other are one measure only where both say their unit: "1 200" is no 201.
        if (terms > 0 && !minus && !plus && !(had_unit && has_unit)) {
            entry.error = "\"" + plain + "\" is two numbers: write one, or + or - between them, or the unit of each";
            return entry;
        }
        // 5' 6", 5'-6" and -5'-6": the inches go with their feet.
        if (feet != 0 && has_unit && factor == inch && number < 12 && !plus) sign = feet;
        feet = has_unit && factor == foot ? sign : 0;
        had_unit = has_unit;
        sum += sign * number * factor;
        ++terms;
        in.skip();
    }
    if (!std::isfinite(sum)) {
        entry.error = "the number is too large";
        return entry;
    }
    entry.ok = true;
    entry.value = sum;
    if (quantity == Quantity::Slope && bare && terms == 1 && units.unit(quantity).factor == 0.01) {
        const double magnitude = std::abs(bare_number);
        if (magnitude < 0.02) entry.value = bare_number;
        else if (magnitude < 0.1) {
            entry.alternative = bare_number;
            entry.question = units.entry(entry.value, quantity) + ", or " + units.entry(bare_number, quantity) + "?";
        }
    }
    entry.understood = units.entry(entry.value, quantity);
    if (entry.question.empty() && scale.low <= scale.high && bare && terms == 1 && entry.value != 0) {
        const auto plausible = [&](double v) { return std::abs(v) >= scale.low && std::abs(v) <= scale.high; };
        if (!plausible(entry.value))
            for (const Unit& u : units_of(quantity)) {
                const double other = bare_number * u.factor;
                if (u.factor == units.unit(quantity).factor || !plausible(other)) continue;
                entry.alternative = other;
                entry.question = entry.understood + " is out of scale: " + fixed(bare_number, 3) + " " +
                                 std::string(u.symbol) + " (" + units.entry(other, quantity) + ")?";
                break;
            }
    }
    return entry;
}

}  // namespace culvert
