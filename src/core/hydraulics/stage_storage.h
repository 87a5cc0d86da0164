// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <string>
#include <vector>

/// Area and volume of stored water by its level.
///
/// Given areas at levels, the area between two of them runs straight with the level (so that the volume is quadratic),
/// or like a cone's:
///
///     linear   V = h/2 (A1 + A2)              A = A1 + (A2 - A1) z/h
///     conic    V = h/3 (A1 + (A1 A2)^1/2 + A2)   A^1/2 runs straight
///
/// Above the last level the last area goes on, straight up; below the first there is nothing. What a level asks for
/// above the curve's top is answered, and `top()` says where the curve ended: nothing is drawn out silently.
///
/// @source  USDA NRCS NEH 650 ch. 11; ASCE MOP 77 (1992), ch. 9
namespace culvert {

enum class BetweenLevels { Linear, Conic };

class StageStorage {
  public:
    StageStorage() = default;
    /// @param levels  rising strictly, two at least; `areas` as many, none negative
    StageStorage(std::vector<double> levels, std::vector<double> areas, BetweenLevels between = BetweenLevels::Linear);
    /// From volumes above the first level, not falling: areas follow so that the volumes are met exactly, with the
    /// first area given.
    static StageStorage of_volumes(const std::vector<double>& levels, const std::vector<double>& volumes);
    [[nodiscard]] double area(double level) const;
    [[nodiscard]] double volume(double level) const;
    [[nodiscard]] double level(double volume) const;  ///< the least that holds it
    [[nodiscard]] double bottom() const { return levels_.front(); }
    [[nodiscard]] double top() const { return levels_.back(); }
    [[nodiscard]] bool empty() const { return levels_.empty(); }
    [[nodiscard]] const std::vector<double>& levels() const { return levels_; }
    /// A share of the space is stone: what is left for water.
    [[nodiscard]] StageStorage with_voids(double share) const;
    friend bool operator==(const StageStorage&, const StageStorage&) = default;

  private:
    [[nodiscard]] std::size_t place(double level) const;
    std::vector<double> levels_, areas_, volumes_;
    BetweenLevels between_ = BetweenLevels::Linear;
    bool stepped_ = false;  ///< areas hold between levels: made of volumes
};

/// What is wrong with a curve that was given, in words; empty where nothing is.
std::string stage_storage_fault(std::span<const double> levels, std::span<const double> areas);

/// A basin with a rectangular bottom and even side slopes (run over rise), to a depth.
StageStorage basin(double bottom_level, double length, double width, double sides, double depth);
StageStorage tank(double bottom_level, double area, double depth);
/// Horizontal pipes side by side, level along their length.
StageStorage pipe_array(double invert, double diameter, double length, int count = 1);

}  // namespace culvert
