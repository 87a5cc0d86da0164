// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <string_view>

/// Numbers as text that never ask the locale: a point is the decimal mark, whatever the user's settings say. What
/// files, workings, messages and screens show is made here; a decimal comma is understood where a person types
/// (units.h, exchange/delimited.h), and is never written.
namespace culvert {

/// With a fixed number of decimals, every digit kept: "0.50", "-3.2". From 1e15 on, where decimals mean nothing, in the
/// form "1e+300". Never "-0.00". NaN and infinities are "nan", "inf", "-inf".
std::string fixed(double value, int decimals);

/// With a number of significant digits and no zeros at the end: "0.34", "1.5e-07".
std::string general(double value, int digits);

/// One digit before the point: "1.5e-07".
std::string scientific(double value, int decimals);

/// The shortest text that reads back to the same value.
std::string shortest(double value);

/// Reads the whole text as one finite number. False, and no change of `value`, for anything else: blanks, a comma,
/// words.
bool parse_double(std::string_view text, double& value);
bool parse_int(std::string_view text, int& value);

}  // namespace culvert
