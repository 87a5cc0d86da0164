// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

/// Text in rows and columns as people and spreadsheets make it: parted by tabs, semicolons, commas or blanks; decimals
/// by a point or a comma; thousands by commas, points, blanks or apostrophes.
namespace culvert {

using Cells = std::vector<std::vector<std::string>>;

std::string trimmed(std::string_view text);
/// The character that parts cells: tab, ';', ',' or ' '. A comma does so only where most lines have as many of them and
/// they are not decimal commas.
char find_separator(std::string_view text);
/// Cells of one line; quoted cells may hold the separator.
void split_line(std::string_view line, char separator, std::vector<std::string>& cells);
/// All rows; empty lines give empty rows, those at the end are dropped.
Cells split_cells(std::string_view text, char separator);

/// How numbers are written in a column.
struct NumberStyle {
    char decimal = '.';
    bool grouped = false;    ///< thousands are parted
    bool ambiguous = false;  ///< "1,234" everywhere: read as decimals, to be asked
};
NumberStyle sniff_numbers(std::span<const std::string> cells, char separator);
/// Leading number of a cell; `rest` is what follows it. False where there is none, or it is not finite.
bool read_number(std::string_view cell, const NumberStyle& style, double& value, std::string* rest = nullptr);

}  // namespace culvert
