// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/hydraulics/section.h"

/// Uniform and critical flow in a closed section.
namespace culvert {

/// Conveyance of the section running full.
///
///     K = A R^(2/3) / n        Q = K sqrt(S),  R = A / P
///
/// @param n   Manning roughness, > 0
/// @return    K, m3/s
/// @source    Manning's equation, SI form (k = 1); FHWA HEC-22, 3rd ed. (2009), eq. 7-1
double full_conveyance(const Section& section, double n);

/// Conveyance at a depth, free surface (a box just below its lid has more than a full one).
double conveyance(const Section& section, double n, double depth);

/// Full-flow capacity Qfull = K sqrt(S), m3/s; 0 for a level or adverse slope.
double full_capacity(const Section& section, double n, double slope);

/// Largest conveyance over the depth, as a multiple of the full one: 1.0757 at y/D = 0.938 for a circle; 1 for a box,
/// which runs full above Qfull, and for an open channel, which is full to its banks.
double peak_ratio(const Section& section);

/// Depth of uniform flow, on the lower branch.
///
/// @return  y in m, 0 for no flow; NaN where there is no uniform flow: slope <= 0, or a flow above the section's peak;
///          a box has none above Qfull, since it runs full there (see barrel.h).
double normal_depth(const Section& section, double n, double slope, double flow);

/// Depth of uniform flow in a box whose lid is taken for dry, also above Qfull; the height where none is below it.
double open_normal_depth(const Box& box, double n, double slope, double flow);

/// Upper depth of uniform flow in a closed section between Qfull and the peak; the height elsewhere.
double upper_normal_depth(const Section& section, double n, double slope, double flow);

/// Depth of least specific energy:  Q^2 T = g A^3. A box may have it at its lid, a circle always below its crown.
/// @source  Chow, Open-Channel Hydraulics (1959), ch. 4
double critical_depth(const Section& section, double flow);

/// Froude number with hydraulic depth A / T; 0 for a full section.
double froude(const Section& section, double depth, double flow);

/// Specific energy y + V^2 / 2g above the invert; a pressurised section (depth above its height) has the full area.
double specific_energy(const Section& section, double depth, double flow);

/// Depth with the given specific energy, on the subcritical or the supercritical side.
/// Below the least energy there is none: the critical depth is returned. Above the crown the depth is a pressure head.
double depth_of_energy(const Section& section, double energy, double flow, bool subcritical);

/// Depth of fast water behind a loss K V^2 / 2g with its own velocity:  y + (1 + K) V^2 / 2g = energy,  y <= critical
/// depth. NaN where the energy does not suffice for fast water.
double fast_depth_behind_loss(const Section& section, double energy, double flow, double loss);

/// Momentum function M = Q^2 / (g A) + A z, z the depth of the centroid of pressure; m3. Pressure above the crown
/// counts.
double momentum(const Section& section, double depth, double flow);

/// Velocity of the design flow: at normal depth where there is one, else of the full section.
double design_velocity(const Section& section, double flow, double normal);

}  // namespace culvert
