// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/numbers.h"

#include <charconv>
#include <cmath>

namespace culvert {
namespace {

constexpr double decimals_end = 1e15;  ///< above it a double has no decimals that mean anything

template <class... Form>
std::string put(double value, Form... form) {
    char buffer[80];
    const auto end = std::to_chars(buffer, buffer + sizeof buffer, value, form...);
    return {buffer, end.ptr};
}

}  // namespace

std::string fixed(double value, int decimals) {
    if (!std::isfinite(value)) return put(value);
    if (std::abs(value) >= decimals_end) return put(value, std::chars_format::scientific);
    std::string text = put(value, std::chars_format::fixed, decimals);
    if (text[0] == '-' && text.find_first_not_of("-0.") == std::string::npos) text.erase(0, 1);
    return text;
}
std::string general(double value, int digits) { return put(value, std::chars_format::general, digits); }
std::string scientific(double value, int decimals) { return put(value, std::chars_format::scientific, decimals); }
std::string shortest(double value) { return put(value); }

bool parse_double(std::string_view text, double& value) {
    double v = 0;
    const auto read = std::from_chars(text.data(), text.data() + text.size(), v);
    if (read.ec != std::errc() || read.ptr != text.data() + text.size() || !std::isfinite(v)) return false;
    value = v;
    return true;
}
bool parse_int(std::string_view text, int& value) {
    int v = 0;
    const auto read = std::from_chars(text.data(), text.data() + text.size(), v);
    if (read.ec != std::errc() || read.ptr != text.data() + text.size()) return false;
    value = v;
    return true;
}

}  // namespace culvert
