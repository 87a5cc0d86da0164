// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <string>
#include <vector>

/// Rain intensity by duration, and the rational method's parts.
namespace culvert {

constexpr double longest_duration = 1e7;    ///< s, of a rain table: four months
constexpr double highest_intensity = 1e-3;  ///< m/s: 3,600 mm/h, beyond any rain that was measured

/// Where a duration lies relative to a curve's table.
enum class IdfRange { Inside, BelowShortest, AboveLongest };

/// One return period's intensities, ready for fast look-up: logarithms of duration and intensity.
///
/// Between two durations the intensity is a straight line in log-log. Below the shortest it is held at the shortest;
/// above the longest the line of the last two is extended. Both ends are reported, never silent.
/// A curve of one duration has that intensity at every duration.
class IdfCurve {
  public:
    IdfCurve() = default;
    /// @param durations    s, rising, > 0
    /// @param intensities  m/s, > 0, as many
    IdfCurve(std::span<const double> durations, std::span<const double> intensities);
    [[nodiscard]] double intensity(double duration) const;
    [[nodiscard]] IdfRange range(double duration) const;
    [[nodiscard]] bool empty() const { return log_duration_.empty(); }
    friend bool operator==(const IdfCurve&, const IdfCurve&) = default;

  private:
    std::vector<double> log_duration_, log_intensity_;
};

/// What is wrong with a table of durations and intensities: empty if nothing. Names the row and the value.
/// Checked: same count, at least one, within range, durations rising, intensities not rising, depths (intensity x
/// duration) not falling.
std::string idf_fault(std::span<const double> durations, std::span<const double> intensities);

/// Area-weighted runoff coefficient with the frequency factor of a rarer event, each part capped at 1 before weighting:
///
///     C A = sum( min(1, C Cf) A )
///
/// @source  FHWA HEC-22, 3rd ed. (2009), sec. 3.2.2
struct Cover {
    double area;         ///< m2
    double coefficient;  ///< C, 0..1
};
double effective_area(std::span<const Cover> covers, double frequency_factor);

}  // namespace culvert
