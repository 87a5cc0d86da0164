// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/terrain/terrain.h"

/// Where water runs and stands on a surface.
///
/// Water is let in from the edge of the surface inward, always at the lowest place it can reach (a priority flood over
/// the corners of the triangles; Barnes, Lehman and Mulla 2014 describe it for grids). Each corner so gets the level up
/// to which water would stand there before it can leave; where that is above the ground there is a depression. Since
/// the surface is linear in each triangle, its lowest, highest and saddle places all lie at corners: this is exact.
namespace culvert {

struct Depression {
    Point bottom, spill;  ///< its lowest place, and where it would run over
    double bottom_level, spill_level;
    double area, volume;  ///< of the water when it is full to the spill level, m2 and m3
    [[nodiscard]] double depth() const { return spill_level - bottom_level; }
};

enum class TraceEnd { LeftSurface, Depression, Flat, OffSurface };
/// The way of a drop of water: down the steepest slope, along valley edges, over the lip of depressions too shallow to
/// hold it.
struct Trace {
    std::vector<GroundPoint> line;
    TraceEnd end = TraceEnd::OffSurface;
    [[nodiscard]] double length() const;
};

class Drainage {
  public:
    /// Floods the surface: n log n. The terrain must outlive nothing; it is kept.
    explicit Drainage(std::shared_ptr<const Terrain> terrain);

    /// Depressions at least this deep, deepest first. Shallower ones are noise of the survey.
    [[nodiscard]] std::vector<Depression> depressions(double least_depth) const;
    /// The way down from a point. It ends in a depression at least this deep, or where it leaves the surface.
    [[nodiscard]] Trace trace(Point from, double least_depth) const;
    /// Level to which water would stand at a corner of the triangles before it leaves.
    [[nodiscard]] double filled_level(std::uint32_t vertex) const { return filled_[vertex]; }
    [[nodiscard]] const Terrain& terrain() const { return *terrain_; }

  private:
    template <class F>
    void around(std::uint32_t vertex, F&& f) const;  ///< f(triangle, index of the vertex in it)
    std::shared_ptr<const Terrain> terrain_;
    std::vector<double> filled_;
    std::vector<std::int32_t> parent_;  ///< the corner it was flooded from, toward the edge of the surface
    std::vector<std::int32_t> basin_;   ///< depression that a corner lies in, -1 none
    std::vector<Depression> all_;
};

/// Areas of a surface by the inlet that takes their water, found on a grid of cells: each cell drains to the lowest of
/// its eight neighbours (steepest fall), out of depressions over their lips; a cell with a sink keeps its water.
struct ProposedArea {
    std::size_t sink;  ///< index of the sink
    std::vector<Point> outline;
    double area;
};
/// @param cell  size of a cell, m; outlines follow cells and are then simplified within one cell
std::vector<ProposedArea> propose_areas(const Ground& ground, const Terrain::Box& box, const std::vector<Point>& sinks,
                                        double cell, const std::stop_token& stop = {});

}  // namespace culvert
