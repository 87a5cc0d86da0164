// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <variant>

/// What the ground takes of a storm, step by step, and what runs off.
///
/// Rain comes as depths of equal steps, even within each. Of every step the rain is what runs off, what infiltrates and
/// what is held (on leaves, in hollows, or before runoff begins): the three add up to the rain.
///
/// Curve number:             Pe = (P - Ia)^2 / (P - Ia + S) of the depth P fallen so far, Ia = r S,
///                           S = 25.4 mm (1000 / CN - 10); with r = 0.05 S is that of CN at 0.2, converted:
///                           S.05 = 1.33 in (S.20 / 1 in)^1.15
/// Initial and constant:     nothing runs off until Ia has fallen, then a rate is lost; in the step in which Ia is
///                           reached, for the rest of it
/// Initial and proportional: then a share is lost
/// Horton:                   capacity f = fc + (f0 - fc) e^(-k t), taken by what has infiltrated, not by the clock
/// Green and Ampt:           f = K (1 + N / F), N = suction times moisture deficit, F infiltrated so far; the time of
///                           ponding is found within a step
/// Held:                     a depth that wets and fills hollows, then all runs off (paved ground)
///
/// @source  USDA NRCS NEH 630 ch. 10; Hawkins et al., Curve Number Hydrology (ASCE 2009) for r = 0.05; Horton (1940);
///          Chow, Maidment, Mays: Applied Hydrology (1988), sec. 5.4
namespace culvert {

struct CurveNumberLoss {
    double curve_number = 80;  ///< above 0, at most 100
    double ratio = 0.2;        ///< Ia / S
    friend bool operator==(const CurveNumberLoss&, const CurveNumberLoss&) = default;
};
struct ConstantLoss {
    double initial = 0, rate = 0;  ///< m, m/s
    friend bool operator==(const ConstantLoss&, const ConstantLoss&) = default;
};
struct ProportionalLoss {
    double initial = 0, share = 0;  ///< m, 0 to 1
    friend bool operator==(const ProportionalLoss&, const ProportionalLoss&) = default;
};
struct HortonLoss {
    double first = 0, last = 0, decay = 0;  ///< f0 and fc, m/s, f0 >= fc; k, 1/s, > 0
    friend bool operator==(const HortonLoss&, const HortonLoss&) = default;
};
struct GreenAmptLoss {
    double conductivity = 0;  ///< K, m/s, > 0
    double head = 0;          ///< N, m: suction at the front times the moisture it finds room for
    friend bool operator==(const GreenAmptLoss&, const GreenAmptLoss&) = default;
};
struct HeldLoss {
    double depth = 0;  ///< m
    friend bool operator==(const HeldLoss&, const HeldLoss&) = default;
};
using LossModel = std::variant<CurveNumberLoss, ConstantLoss, ProportionalLoss, HortonLoss, GreenAmptLoss, HeldLoss>;

/// S of a curve number, m.
double retention(const CurveNumberLoss& loss);
/// Depth that runs off of a whole storm, m.
double runoff_depth(const CurveNumberLoss& loss, double rain);

struct LossTotals {
    double rain = 0, runoff = 0, infiltrated = 0, held = 0;  ///< m
};
/// @param rain    depths of the steps, m
/// @param step    s
/// @param runoff  filled with what runs off in each step, m; as long as `rain`, and may be the same list
LossTotals take_losses(const LossModel& loss, std::span<const double> rain, double step, std::span<double> runoff);

}  // namespace culvert
