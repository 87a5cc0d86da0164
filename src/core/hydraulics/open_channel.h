// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

/// Uniform flow in a trapezoidal channel, as it receives the water of an outfall.
///
///     Q = A R^(2/3) S^(1/2) / n      A = (b + z y) y,  P = b + 2 y (1 + z^2)^(1/2),  T = b + 2 z y
///
/// with the shear on its bed, at its largest, tau = rho g y S (rho = 1000 kg/m3).
/// @source  Chow, Open-Channel Hydraulics (1959), ch. 5 and 7; FHWA HEC-15 (2005), eq. 3.1
namespace culvert {

struct Trapezoid {
    double width = 0;  ///< b, of the bed, m, >= 0
    double sides = 0;  ///< z, run over rise, >= 0; not both 0
};
struct ChannelState {
    double depth = 0, velocity = 0, area = 0, top = 0;
    double froude = 0;  ///< with the mean depth
    double shear = 0;   ///< Pa
};
double channel_capacity(const Trapezoid& channel, double slope, double n, double depth);
/// @param slope  > 0
/// @param flow   m3/s; 0 gives a dry channel
ChannelState channel_flow(const Trapezoid& channel, double slope, double n, double flow);

}  // namespace culvert
