// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>

#include "core/model/edit.h"
#include "core/review/review.h"

/// Which slopes let a pipe of a size keep its limits.
///
/// Capacity, filled depth and velocity of a given flow depend on slope one way each, so that each limit bounds it from
/// one side, in closed form by Manning Q = K(y) S^(1/2):
///
///     flow ratio      S >= (Q / (r Kfull))²
///     filled depth    S >= (Q / K(f D))²
///     least velocity  S >= (Q / K(y))²  at the depth y where A(y) = Q / Vleast
///     most velocity   S <= (Q / K(y))²  at the depth y where A(y) = Q / Vmost
///
/// and least and most slope bound it themselves. Where A would be larger than the full section the pipe is faster than
/// that even where it runs full: a least velocity is always kept, a most velocity never.
namespace culvert {

/// The level in whole millimetres, not above it.
inline double floor_mm(double level) { return std::floor(level * 1000 + 1e-6) / 1000; }

struct PipeNeeds {
    double flow = 0;  ///< design flow, m3/s
    double flow_ratio = not_given, filled = not_given, least_velocity = not_given, most_velocity = not_given;
    double least_slope = not_given, most_slope = not_given, least_size = not_given;  ///< NaN: no such limit
    bool peak = false;  ///< capacity is the peak below the top, not that of the full section
};
PipeNeeds needs_of(const LimitTable& limits, std::uint64_t pipe, double flow, bool peak);

struct SlopeRange {
    double least = 0, most = 1e9;                ///< m/m; least > most: no slope will do
    LimitKind least_by = LimitKind::LeastSlope;  ///< the limit that bounds it below
    LimitKind most_by = LimitKind::MostSlope;
    [[nodiscard]] bool holds(double slope) const { return slope >= least * (1 - 1e-9) && slope <= most * (1 + 1e-9); }
};
SlopeRange slope_range(const Section& section, double roughness, const PipeNeeds& needs);

/// Section of a size of the catalogue.
Section section_of_size(const PipeSize& size);
/// The size that a pipe has, as a row of the catalogue.
PipeSize size_of(const Pipe& pipe);
/// Sets a pipe to a size of the catalogue, with its n and wall.
void put_size(Editing& editing, std::uint64_t pipe, const PipeSize& size, Origin origin);
inline double inside_width(const PipeSize& size) {
    return has_width(size.shape) && size.width > 0 ? size.width + 2 * size.sides * size.size : size.size;
}
/// Price of a metre of a size, laid; of a box that of the mean of its sides.
double price_of_size(const Project& project, const PipeSize& size);

}  // namespace culvert
