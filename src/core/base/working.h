// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

/// The step-by-step calculation behind a number, open to a hand check.
///
/// A Step holds the formula as text with symbols, the values those symbols had, and the result that the kernel itself
/// computed. A test re-evaluates every formula text from its values and must get the result, so that what is printed
/// is what was computed. Formulas use + - * / ^ ( ) and the functions sqrt, exp, ln, sin, cos, asin, min, max, abs.
/// Values are in the units of the project's edition (SI: m, m3/s, mm/h, ha, min; US: ft, ft3/s, in/h, ac, min), so that
/// a checker can follow with the manuals' own constants.
namespace culvert {

struct Term {
    std::string symbol;
    double value = 0;  ///< in `unit`, the unit the formula expects
    std::string unit;
    std::string meaning;
};

struct Step {
    std::string symbol;   ///< what is found, "Q"
    std::string meaning;  ///< "flow in the pipe"
    std::string formula;  ///< right-hand side in symbols, "CA * i / 360 + Qk"; empty for a given value
    std::vector<Term> terms;
    double result = 0;  ///< in `unit`
    std::string unit;
    std::string source;  ///< where the formula or value comes from
    std::string note;    ///< what governed, what was limited
};

using Working = std::vector<Step>;

/// A number as a working shows it. Values have nine significant digits, so that differences of levels come out right by
/// hand; results have six.
std::string working_number(double value, int digits = 9);

/// Evaluates a formula text with the given values. Returns NaN, and a message in `error`, for a text it cannot read.
double evaluate(const std::string& formula, const std::vector<Term>& terms, std::string* error = nullptr);

}  // namespace culvert
