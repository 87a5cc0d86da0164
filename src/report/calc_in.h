// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>

#include "core/base/working_units.h"
#include "report/calc.h"

namespace culvert {

/// What a calculation is given, and where its working goes.
struct CalcIn : WorkingUnits {
    CalcIn(const CalcValues& given, Edition e, Working* steps)
        : WorkingUnits(e == Edition::Us), v(given), edition(e), working(steps) {}
    const CalcValues& v;
    Edition edition;
    Working* working;
    [[nodiscard]] double operator()(std::string_view key) const {
        const auto at = v.find(key);
        return at == v.end() ? not_given : at->second;
    }
    /// Of what may stand without a value.
    [[nodiscard]] double or_0(std::string_view key) const {
        const double value = (*this)(key);
        return std::isnan(value) ? 0 : value;
    }
    void step(Step s) const {
        if (working) working->push_back(std::move(s));
    }
};

}  // namespace culvert
