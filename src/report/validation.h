// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

/// The shipped validation cases: each holds the program's own kernels against a closed form or an independent method,
/// on the user's machine. docs/methods/validation.md lists them.
namespace culvert {

struct ValidationCase {
    std::string name, against;
    std::string unit;
    double expected, computed, tolerance;  ///< tolerance is relative where `relative`, else absolute
    bool relative = true;
    [[nodiscard]] double difference() const;
    [[nodiscard]] bool passed() const { return difference() <= tolerance; }
};
std::vector<ValidationCase> run_validation();

}  // namespace culvert
