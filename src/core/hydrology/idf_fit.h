// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

/// An equation through a rain table: i = a / (t + b)^c.
namespace culvert {

struct IdfFit {
    bool ok = false;
    double a = 0, b = 0, c = 0;     ///< a in the intensity's unit times the duration's to the power c; b a duration
    std::vector<double> residuals;  ///< equation over table less 1, per duration
    double worst = 0, root_mean_square = 0;
    [[nodiscard]] double intensity(double duration) const;
};

/// Least squares of the logarithms: for each b the line ln i = ln a − c ln(t + b) is exact, and b is sought between 0
/// and the longest duration, first on a grid and then by golden section about its best place.
///
/// @param durations    in any unit, rising, > 0; at least three
/// @param intensities  in any unit, > 0, as many
IdfFit fit_idf(std::span<const double> durations, std::span<const double> intensities);

}  // namespace culvert
