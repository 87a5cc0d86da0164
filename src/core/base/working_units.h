// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

namespace culvert {

/// Numbers of a working in the units that the manuals print: SI (m, m3/s, ha, mm/h) or US (ft, ft3/s, ac, in/h).
class WorkingUnits {
  public:
    explicit WorkingUnits(bool us) : us_(us) {}
    static constexpr double foot = 0.3048;
    [[nodiscard]] bool us() const { return us_; }
    [[nodiscard]] double len(double m) const { return us_ ? m / foot : m; }
    [[nodiscard]] std::string len_unit() const { return us_ ? "ft" : "m"; }
    [[nodiscard]] double flow_(double q) const { return us_ ? q / (foot * foot * foot) : q; }
    [[nodiscard]] std::string flow_unit() const { return us_ ? "ft³/s" : "m³/s"; }
    [[nodiscard]] double area(double m2) const { return us_ ? m2 / (43560 * foot * foot) : m2 / 10000; }
    [[nodiscard]] std::string area_unit() const { return us_ ? "ac" : "ha"; }
    [[nodiscard]] double rain(double m_s) const { return us_ ? m_s * 3600 / 0.0254 : m_s * 3.6e6; }
    [[nodiscard]] std::string rain_unit() const { return us_ ? "in/h" : "mm/h"; }

  protected:
    bool us_;
};

}  // namespace culvert
