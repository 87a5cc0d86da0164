// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/calc.h"

#include <algorithm>
#include <cmath>
#include <sstream>

#include "core/base/words.h"

namespace culvert {
namespace {

std::vector<CalcField> fields_of(const Calc& c) {
    std::vector<CalcField> all = c.inputs;
    all.insert(all.end(), c.results.begin(), c.results.end());
    return all;
}

/// May stand without a value: the calculation knows what to do without.
bool optional(const CalcField& f) { return f.help.find("none:") != std::string_view::npos; }

}  // namespace

CalcAnswer calculate(const Calc& calc, const CalcValues& given, Edition edition, bool with_working) {
    CalcAnswer a;
    CalcValues in;
    const CalcField* missing = nullptr;
    std::string asked;
    const CalcField* wanted = nullptr;  // a result that is given
    for (const CalcField& f : calc.results)
        if (given.contains(std::string(f.key)) &&
            std::none_of(calc.inputs.begin(), calc.inputs.end(), [&](const CalcField& i) { return i.key == f.key; }))
            wanted = &f;
    for (const CalcField& f : calc.inputs) {
        const auto at = given.find(f.key);
        if (at != given.end()) {
            if (!(at->second >= f.low && at->second <= f.high)) {
                a.error = std::string(f.label) + " is out of its range";
                return a;
            }
            in[std::string(f.key)] = at->second;
        } else if (!std::isnan(f.usual)) in[std::string(f.key)] = f.usual;
        else if (!optional(f)) {
            asked += (asked.empty() ? "" : ", ") + std::string(f.key);
            missing = missing ? missing : &f;
        }
    }
    if (asked.find(',') != std::string::npos || (missing && !wanted)) {
        a.error = std::string(calc.label) + " asks for " + asked;
        return a;
    }
    // A length that has a usual value and was not given is what people ask for: how long must it be?
    if (wanted && !missing)
        for (const CalcField& f : calc.inputs)
            if (f.key == "length" && !given.contains(f.key)) {
                missing = &f;
                in.erase(std::string(f.key));
            }
    if (wanted && !missing) {
        // All inputs are known: the first one with a usual value that was not given is sought, if there is one.
        a.error = "everything is given: leave out what shall be found";
        return a;
    }
    if (wanted) {
        const double target = given.find(wanted->key)->second;
        const auto at = [&](double x) {
            CalcValues trial = in, out;
            trial[std::string(missing->key)] = x;
            const std::string wrong = calc.run(trial, edition, out, nullptr);
            return wrong.empty() ? out[std::string(wanted->key)] : not_given;
        };
        // Bounds in from both ends until both have an answer.
        double low = std::max(missing->low, 1e-9), high = missing->high;
        double at_low = at(low), at_high = at(high);
        for (int i = 0; i < 80 && std::isnan(at_low); ++i) at_low = at(low *= 1.2);
        for (int i = 0; i < 160 && std::isnan(at_high) && high > low; ++i) at_high = at(high /= 1.2);
        if (std::isnan(at_low) || std::isnan(at_high) || (at_low - target) * (at_high - target) > 0) {
            a.error = "no " + std::string(missing->key) + " gives that " + std::string(wanted->key);
            return a;
        }
        for (int i = 0; i < 200 && high / low > 1 + 1e-14; ++i) {
            const double mid = std::sqrt(low * high), value = at(mid);
            if (std::isnan(value)) break;
            ((value - target) * (at_low - target) > 0 ? low : high) = mid;
        }
        in[std::string(missing->key)] = std::sqrt(low * high);
        a.sought = missing->key;
    }
    CalcValues out;
    a.error = calc.run(in, edition, out, with_working ? &a.working : nullptr);
    a.values = in;
    for (const auto& [k, v] : out) a.values[k] = v;
    a.ok = a.error.empty();
    return a;
}

CalcTable calculate(const std::string& words, const UnitSet& units, Edition edition) {
    CalcTable table;
    std::istringstream in(words);
    std::string name;
    in >> name;
    table.calc = find_calc(name);
    if (!table.calc) {
        table.error = "there is no calculation \"" + name + "\"";
        std::vector<std::string_view> names;
        for (const Calc& c : calcs()) names.push_back(c.name);
        if (const auto near = nearest_word(name, names); !near.empty())
            table.error += "; is \"" + std::string(near) + "\" meant?";
        return table;
    }
    // "flow=40 l/s" may be written with a blank before its unit.
    std::vector<std::string> pairs;
    for (std::string w; in >> w;)
        if (w.find('=') != std::string::npos || pairs.empty()) pairs.push_back(w);
        else pairs.back() += w;
    CalcValues given;
    double from = 0, to = 0;
    int rows = 0;
    const auto fields = fields_of(*table.calc);
    for (const std::string& pair : pairs) {
        const auto eq = pair.find('=');
        const std::string key = pair.substr(0, eq);
        const auto f = std::find_if(fields.begin(), fields.end(), [&](const CalcField& x) { return x.key == key; });
        if (eq == std::string::npos || f == fields.end()) {
            table.error = "\"" + key + "\" is nothing that " + std::string(table.calc->label) + " knows; it knows";
            for (const CalcField& x : fields) table.error += (&x == fields.data() ? " " : ", ") + std::string(x.key);
            return table;
        }
        const auto read = [&](const std::string& text, double& value) {
            const Entry e = read_entry(text, f->quantity, units);
            if (!e.ok) table.error = key + ": " + e.error;
            value = e.value;
            return e.ok;
        };
        std::string value = pair.substr(eq + 1);
        if (const auto dots = value.find(".."); dots != std::string::npos) {
            if (rows) {
                table.error = "one value can run at a time";
                return table;
            }
            rows = 11;
            std::string end = value.substr(dots + 2);
            if (const auto slash = end.rfind('/');
                slash != std::string::npos && slash + 1 < end.size() &&
                end.find_first_not_of("0123456789", slash + 1) == std::string::npos) {
                rows = std::clamp(std::atoi(end.c_str() + slash + 1), 2, 1000);
                end = end.substr(0, slash);
            }
            if (!read(value.substr(0, dots), from) || !read(end, to)) return table;
            table.ranged = key;
            continue;
        }
        double si = 0;
        if (!read(value, si)) return table;
        given[key] = si;
    }
    if (!rows) {
        table.rows.push_back(calculate(*table.calc, given, edition));
        table.error = table.rows[0].error;
        return table;
    }
    for (int i = 0; i < rows; ++i) {
        given[table.ranged] = from + (to - from) * i / (rows - 1);
        table.rows.push_back(calculate(*table.calc, given, edition));
    }
    if (std::none_of(table.rows.begin(), table.rows.end(), [](const CalcAnswer& a) { return a.ok; }))
        table.error = table.rows[0].error;
    return table;
}

std::string answer_line(const Calc& calc, const CalcAnswer& a, const UnitSet& u) {
    std::string line;
    const auto add = [&](const CalcField& f) {
        const auto at = a.values.find(f.key);
        if (at == a.values.end()) return;
        std::string label(f.label);
        label[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(label[0])));
        line += (line.empty() ? "" : ", ") + label + " " + u.text(at->second, f.quantity);
    };
    for (const CalcField& f : calc.inputs)
        if (f.key == a.sought) add(f);
    for (const CalcField& f : calc.results) add(f);
    return line;
}

}  // namespace culvert
