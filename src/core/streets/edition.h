// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>

/// Constants of the street equations. Their manual prints them twice, rounded once for SI and once for US units, so
/// that the two differ by up to two per cent. A project says which edition it computes with, so that a checker who
/// follows the working by hand meets the same numbers. Both are held here for SI quantities.
namespace culvert {

enum class Edition { Si, Us };

struct StreetConstants {
    double gutter;          ///< Ku of the gutter equation: 0.376, or 0.56 in ft
    double curb_length;     ///< of the length for total interception: 0.817, or 0.6
    double splash;          ///< loss of frontal interception per m/s above the splash-over velocity: 0.295, or 0.09
    double side;            ///< of the side interception: 0.0828, or 0.15
    double grate_weir;      ///< 1.66, or 3.0
    double curb_weir;       ///< 1.60, or 3.0
    double depressed_weir;  ///< 1.25, or 2.3
    double slot_weir;       ///< 1.4, or 2.48
};

/// @source  FHWA HEC-22, 3rd ed. (2009), eq. 4-2, 4-18, 4-19, 4-22, 4-26, 4-28, 4-30, 4-33
inline StreetConstants street_constants(Edition edition) {
    if (edition == Edition::Si) return {0.376, 0.817, 0.295, 0.0828, 1.66, 1.60, 1.25, 1.4};
    constexpr double ft = 0.3048;
    const double root = std::sqrt(ft);  // ft^(1/2) of a weir over L d^(3/2)
    return {0.56 * std::cbrt(ft), 0.6 * std::pow(ft, -0.26), 0.09 / ft, 0.15 * root, 3.0 * root, 3.0 * root, 2.3 * root,
            2.48 * root};
}

}  // namespace culvert
