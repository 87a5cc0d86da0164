// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <map>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/units.h"
#include "core/base/working.h"
#include "core/model/project.h"

/// Calculations without an element: what is typed in the command bar and asked by `calc NAME key=value ...`.
///
/// Each has inputs, of which some have a usual value, and results with their working. Any one input may be left out
/// when a result is given instead: it is sought between the bounds of that input so that the result comes out, by
/// bisection on a scale of logarithms; where the result does not lie between those of both bounds, that is said.
///
///     calc gutter flow=40l/s grade=1.2%            spread, depth, velocity
///     calc gutter spread=2.5m grade=1.2%           the flow
///     calc gutter flow=10l/s..100l/s grade=1.2%    a table
namespace culvert {

struct CalcField {
    std::string_view key, label;
    Quantity quantity = Quantity::None;
    double usual = not_given;       ///< taken where nothing is given; NaN: it is asked for
    double low = 1e-6, high = 1e6;  ///< bounds, SI, > 0; of the seeking too
    std::string_view help;
};
using CalcValues = std::map<std::string, double, std::less<>>;  ///< by key, SI

struct Calc {
    std::string_view name, label, help;
    std::vector<CalcField> inputs, results;
    /// Fills the results; their working in the units of the edition where asked for. A message where the inputs allow
    /// no answer.
    std::string (*run)(const CalcValues& in, Edition edition, CalcValues& out, Working* working);
};
std::span<const Calc> calcs();
const Calc* find_calc(std::string_view name);

struct CalcAnswer {
    bool ok = false;
    std::string error;   ///< what is missing or wrong, and how to write it
    CalcValues values;   ///< inputs and results
    std::string sought;  ///< the input that was solved for; empty: none
    Working working;
};
/// @param given  inputs, and at most one result in place of an input
CalcAnswer calculate(const Calc& calc, const CalcValues& given, Edition edition, bool with_working = true);

/// The same from words: "gutter flow=40l/s grade=1.2%". A range "a..b" for one value gives a row for each of 11 values,
/// "a..b/21" for 21.
struct CalcTable {
    const Calc* calc = nullptr;
    std::string error;
    std::string ranged;  ///< key of the value that runs; empty: one row
    std::vector<CalcAnswer> rows;
};
CalcTable calculate(const std::string& words, const UnitSet& units, Edition edition);
/// The answer in a line: "spread 2.61 m, depth 0.083 m".
std::string answer_line(const Calc& calc, const CalcAnswer& answer, const UnitSet& units);

}  // namespace culvert
