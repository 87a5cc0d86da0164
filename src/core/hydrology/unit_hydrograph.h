// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

/// Runoff through time: what a catchment makes of rain that runs off.
///
/// The NRCS unit hydrograph has the shape q/qp over t/tp with the time to its peak
///
///     tp = step / 2 + lag         lag = 0.6 Tc
///
/// Its ordinates are taken at the ends of the steps and scaled so that a unit of depth gives a unit of volume, exactly.
/// With the peak factor 484 the shape is the published curvilinear one; with another factor it is
///
///     q/qp = ( t/tp e^(1 - t/tp) )^m      m from the factor: 645.33 / integral of the shape
///
/// A step of 0.133 Tc is usual; above 0.17 Tc the peak is cut off.
///
/// @source  USDA NRCS NEH 630 ch. 16; its dimensionless ordinates stand here from memory and are marked so: check them
namespace culvert {

constexpr double nrcs_peak_factor = 484;

/// Flow of one metre of depth over one square metre, m3/s, at the ends of the steps; their sum times the step is 1.
/// @param lag   s, > 0
/// @param step  s, > 0
std::vector<double> unit_hydrograph(double lag, double step, double peak_factor = nrcs_peak_factor);
/// Exponent of the gamma shape for a peak factor, 1 to 2000.
double gamma_exponent(double peak_factor);

/// Volume between a hydrograph and what may be released, m3; the hydrograph runs straight between its values.
enum class ReleaseCut {
    Flat,   ///< all above the allowed flow
    Rising  ///< above a line from the first runoff to where the falling limb meets the allowed flow
};
double required_volume(std::span<const double> flow, double step, double allowed, ReleaseCut cut);

}  // namespace culvert
