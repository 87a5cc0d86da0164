// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <string_view>
#include <vector>

#include "core/hydraulics/outlet.h"
#include "core/hydraulics/section.h"

/// A culvert: what a short barrel takes from still water at its entrance, by inlet and by outlet control; the smaller
/// flow governs.
///
/// Inlet control, HW the depth of the water over the entrance's invert, D the height, q = Q / (A D^1/2) in the units of
/// the US form (SI: times 1.811):
///
///     not submerged, form 1   HW/D = Hc/D + K q^M - 0.5 S        Hc: least energy of the flow
///     not submerged, form 2   HW/D = K q^M
///     submerged               HW/D = c q^2 + Y - 0.5 S
///
/// The first holds up to q = 3.5, the last from 4.0 on, and between them the line between the two. The slope's term is
/// + 0.7 S at mitered entrances.
///
/// Outlet control: the energy at the entrance of the barrel's profile from the water below it (at least critical
/// depth), plus ke V^2/2g. Full where the profile is full; the free surface by varied flow (hydraulics/barrel.h).
///
/// A culvert rises monotonically with the level: its two relations are kept as levels by flow at a few levels of the
/// water below, and read backwards.
///
/// @source  FHWA HDS-5, 3rd ed. (2012), app. A; its K, M, c, Y and ke stand here from memory and are marked so: check
namespace culvert {

struct EntranceNumbers {
    std::string_view name;
    int form;           ///< 1 or 2
    double k, m, c, y;  ///< of inlet control
    double loss;        ///< ke of outlet control
    bool mitered = false;
    friend bool operator==(const EntranceNumbers&, const EntranceNumbers&) = default;
};
/// In the order of the row's choices.
std::span<const EntranceNumbers> culvert_entrances();

struct CulvertBarrel {
    Section section = Circular{0.6};
    double invert = 0;  ///< at its entrance, m
    double length = 10, slope = 0.01, roughness = 0.013;
    EntranceNumbers entrance = culvert_entrances()[0];
    friend bool operator==(const CulvertBarrel&, const CulvertBarrel&) = default;
};
/// Depth over the entrance's invert by inlet control, m.
double inlet_control_depth(const CulvertBarrel& culvert, double flow);
/// Depth over the entrance's invert by outlet control, m.
/// @param below  level of the water at its lower end; NaN: free
double outlet_control_depth(const CulvertBarrel& culvert, double flow, double below);

/// The relations of one culvert, ready for many look-ups. Flows above the table's go on as those of full barrels do.
class CulvertRating {
  public:
    CulvertRating() = default;
    /// @param highest  level up to which it is asked, m
    CulvertRating(const CulvertBarrel& culvert, double highest);
    [[nodiscard]] OutletFlow flow(double level, double below) const;
    [[nodiscard]] const CulvertBarrel& barrel() const { return culvert_; }

  private:
    [[nodiscard]] double by_outlet(double depth, double below) const;
    CulvertBarrel culvert_;
    double area_ = 0, height_ = 0, end_invert_ = 0, full_loss_ = 0;
    std::vector<double> flows_, inlet_;        ///< depth by inlet control at each flow
    std::vector<double> tails_;                ///< depths below at which outlet control is kept; the first is free
    std::vector<std::vector<double>> outlet_;  ///< by tail, then flow
};

}  // namespace culvert
