// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

#include "core/model/edit.h"

/// A rain table as text, as it comes from a spreadsheet: durations down the side, return periods along the top.
///
///     min    2     10    100
///     5    91.9  136.7  204.8
///     10   ...
///
/// or as a public service prints it: lines before and after the table, durations as "5-min", "2-hr", "24-hr", "2-day",
/// values with bounds in parentheses, commas between the cells.
///
/// or as equations, one return period a line, t in minutes:
///
///     10 years: 1500 / (t + 10)^0.8
///
/// Cells are parted by tabs, semicolons, commas or blanks; decimals by a point, or by a comma where commas do not part
/// cells. Durations are minutes unless the cell, or the corner of the table, says otherwise. Values that fall with
/// duration are intensities, values that rise are depths; their unit is the one that the words over the table name
/// ("inches", "mm/h"), else the project's. What was taken for what is said.
namespace culvert {

struct RainTableProblem {
    int row, column;      ///< 1-based, in the pasted text
    std::string message;  ///< the cell, what is wrong, how to write it
};
struct RainTable {
    bool ok = false;
    std::vector<double> return_periods;            ///< years
    std::vector<double> durations;                 ///< s
    std::vector<std::vector<double>> intensities;  ///< per return period, m/s
    std::string taken_for;                         ///< "depths in in"
    std::string understood;  ///< "9 durations (5 min to 2 h), 3 return periods, intensities in mm/h"
    std::vector<RainTableProblem> problems;
};
RainTable read_rain_table(const std::string& text, const UnitSet& units);

/// One Edit: events of the same return period take the new table, others are added. Where no design event of the minor
/// or the major system is marked, the 10-year (or nearest) and the rarest are.
Edit rain_edit(const Project& project, const RainTable& table);

}  // namespace culvert
