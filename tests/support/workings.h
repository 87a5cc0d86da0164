// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QtTest>
#include <cmath>
#include <map>
#include <set>

#include "core/base/working.h"

namespace culvert::testing {

/// Follows a working by hand, with the digits that stand on the screen: each formula gives its result, and where a step
/// takes one of the named symbols in the unit in which a step above found it, it takes that value.
inline void follow(const Working& steps, const char* of, std::initializer_list<const char*> carried = {}) {
    std::map<std::pair<std::string, std::string>, double> found;
    for (const Step& s : steps) {
        std::set<std::string> once;  // a symbol means one thing in a step
        for (const Term& t : s.terms)
            QVERIFY2(once.insert(t.symbol).second || s.formula.empty(), (s.symbol + ": " + t.symbol).c_str());
        for (const Term& t : s.terms)
            for (const char* symbol : carried)
                if (const auto at = found.find({t.symbol, t.unit}); t.symbol == symbol && at != found.end())
                    QVERIFY2(std::abs(at->second - t.value) <= 1e-9 * std::max(1.0, std::abs(t.value)),
                             qPrintable(QString("%1: %2 takes %3 = %4, found as %5")
                                            .arg(of, s.symbol.c_str(), symbol)
                                            .arg(t.value)
                                            .arg(at->second)));
        if (!s.formula.empty()) {
            std::vector<Term> shown = s.terms;
            double scale = std::abs(s.result), largest = 0;
            for (Term& t : shown) {
                t.value = std::stod(working_number(t.value));
                if (t.unit == s.unit) scale = std::max(scale, std::abs(t.value));
                if (std::isfinite(t.value)) largest = std::max(largest, std::abs(t.value));
            }
            // Constants of a manual have six digits; differences of levels lose what they have in common.
            std::string error;
            const double exact = evaluate(s.formula, s.terms, &error), v = evaluate(s.formula, shown);
            QVERIFY2(error.empty(), (s.formula + ": " + error).c_str());
            QVERIFY2(std::abs(exact - s.result) <= 1e-5 * std::max(scale, 1e-9) + 1e-12 * largest,
                     qPrintable(QString("%1: %2 = %3 is %4, not %5")
                                    .arg(of, s.symbol.c_str(), s.formula.c_str())
                                    .arg(exact, 0, 'g', 10)
                                    .arg(s.result, 0, 'g', 10)));
            QVERIFY2(std::abs(v - s.result) <= 3e-5 * std::max(scale, 1e-9) + 1e-8 * largest,
                     qPrintable(QString("%1: %2 = %3 gives %4, shown %5")
                                    .arg(of, s.symbol.c_str(), s.formula.c_str())
                                    .arg(v)
                                    .arg(s.result)));
        }
        found[{s.symbol, s.unit}] = s.result;
    }
}
/// A step of a working by its symbol, the last of several.
inline const Step* step_of(const Working& steps, const std::string& symbol) {
    const Step* found = nullptr;
    for (const Step& s : steps)
        if (s.symbol == symbol) found = &s;
    return found;
}

}  // namespace culvert::testing
