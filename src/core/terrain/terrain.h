// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <limits>
#include <memory>
#include <span>
#include <stop_token>
#include <string>
#include <vector>

#include "core/geometry/line.h"

/// Surfaces of the ground: triangles over surveyed points.
///
/// Between three neighbouring points the ground is taken as plane, so a level between them is linear in the plan
/// distance. Which points are neighbours follows from the Delaunay rule (no point inside the circle through a
/// triangle's corners), except across breaklines: a curb or a ditch bank is an edge of triangles, never crossed by one.
/// A boundary and holes cut away triangles; where they are gone the surface has no level (NaN), it is not guessed.
namespace culvert {

struct GroundPoint {
    double x = 0, y = 0;
    double z = std::numeric_limits<double>::quiet_NaN();
};
/// How far from datum ground may lie, m; what lies farther is a mistake of reading.
constexpr double level_reach = 2e4;
/// Whether a point's place is within reach, and its level, where it has one.
constexpr bool in_reach(const GroundPoint& p) {
    return in_reach(Point{p.x, p.y}) && (p.z != p.z || (p.z >= -level_reach && p.z <= level_reach));
}

/// What a surface is made from. Everything but the points may be empty.
struct SurfaceData {
    std::vector<GroundPoint> points;
    std::vector<std::vector<GroundPoint>> breaklines;  ///< corners without z take it from the surface beneath
    std::vector<std::vector<Point>> boundaries;        ///< only what lies inside one of them is surface
    std::vector<std::vector<Point>> holes;             ///< what lies inside one is not
    std::vector<std::array<std::uint32_t, 3>> faces;   ///< triangles as surveyed, indexes of points; else Delaunay
    double longest_edge = 0;                           ///< triangles with a longer side are no surface; 0: no such rule
    std::string coordinates;                           ///< coordinate system as recorded in the file
};

/// What was noticed while a surface was made, for the person who imports it.
struct SurfaceNotes {
    std::size_t duplicates = 0;     ///< points at the place of an earlier one; the first one holds
    double worst_duplicate = 0;     ///< greatest difference of level between such points, m
    std::size_t without_level = 0;  ///< points without z, left out
    std::size_t crossings = 0;      ///< breaklines that cross; the mean of both levels holds there
    double worst_crossing = 0;      ///< greatest difference of level at a crossing, m
    std::size_t lost_faces = 0;     ///< surveyed triangles that overlap others
    std::size_t unplaced = 0;       ///< corners of 2-D lines outside the surface
    std::size_t out_of_reach = 0;   ///< points and corners with places or levels beyond any ground, left out
    bool too_many = false;          ///< lines cross so often that no surface was made
    [[nodiscard]] std::vector<std::string> in_words() const;
};

/// A triangulated surface: immutable, safe to read from several threads.
class Terrain {
  public:
    struct Triangle {
        std::array<std::uint32_t, 3> corner;  ///< counter-clockwise
        std::array<std::int32_t, 3> beside;   ///< neighbour opposite each corner, -1 at the hull
    };
    /// Where the last query ended; the next one starts there. One per thread.
    struct Cursor {
        std::int32_t triangle = -1;
    };

    /// Null where no triangle is surface (fewer than three points, all in one line, outside every boundary), or when
    /// stopped. Cost about n log n.
    static std::shared_ptr<const Terrain> build(SurfaceData data, SurfaceNotes* notes = nullptr,
                                                const std::stop_token& stop = {});

    [[nodiscard]] const std::vector<GroundPoint>& points() const { return points_; }
    [[nodiscard]] const std::vector<Triangle>& triangles() const { return triangles_; }
    /// Whether a triangle is surface, not merely inside the hull.
    [[nodiscard]] bool is_surface(std::int32_t triangle) const {
        return triangle >= 0 && surface_[static_cast<std::size_t>(triangle)];
    }
    /// Neighbour that is surface, or -1.
    [[nodiscard]] std::int32_t beside(std::int32_t triangle, int side) const {
        const std::int32_t n = triangles_[static_cast<std::size_t>(triangle)].beside[static_cast<std::size_t>(side)];
        return is_surface(n) ? n : -1;
    }
    /// A triangle that has the vertex as a corner.
    [[nodiscard]] std::int32_t triangle_at(std::uint32_t vertex) const { return at_vertex_[vertex]; }

    /// Triangle of the hull that holds a point, by walking from the cursor; -1 outside the hull.
    std::int32_t locate(Point p, Cursor& cursor) const;
    /// Level at a point, linear in its triangle; NaN where there is no surface.
    double elevation(Point p, Cursor& cursor) const;
    double elevation(Point p) const {
        Cursor fresh;
        return elevation(p, fresh);
    }
    /// Rise per metre of a triangle's plane: dz/dx, dz/dy.
    [[nodiscard]] Point gradient(std::int32_t triangle) const;
    /// Level of a triangle's plane at a point.
    [[nodiscard]] double plane(std::int32_t triangle, Point p) const;

    /// The ground under a straight line: a point at each edge that it crosses and at its ends, by distance from a;
    /// exact, since the ground is straight between them. Where the line is off the surface the level is NaN.
    struct SectionPoint {
        double distance, level;
    };
    [[nodiscard]] std::vector<SectionPoint> section(Point a, Point b) const;

    struct Box {
        double left = 1e300, bottom = 1e300, right = -1e300, top = -1e300, low = 1e300, high = -1e300;
        [[nodiscard]] bool meets(const Box& o) const {
            return left <= o.right && o.left <= right && bottom <= o.top && o.bottom <= top;
        }
    };
    [[nodiscard]] const Box& bounds() const { return bounds_; }
    [[nodiscard]] Box bounds_of(std::int32_t triangle) const;

    /// Plan area of the surface, m2; of the part below a level; and the volume between a level and the ground below it.
    [[nodiscard]] double area() const;
    [[nodiscard]] double area_below(double level) const;
    [[nodiscard]] double volume_below(double level) const;
    /// Area of one triangle below a level and the volume between the level and it.
    struct Filled {
        double area, volume;
    };
    [[nodiscard]] Filled filled(std::int32_t triangle, double level) const;

  private:
    friend class Triangulator;
    void finish();
    std::vector<GroundPoint> points_;
    std::vector<Triangle> triangles_;
    std::vector<std::uint8_t> surface_;
    std::vector<std::int32_t> at_vertex_;
    std::vector<std::int32_t> hints_;  ///< a triangle near each cell of a coarse grid
    std::size_t columns_ = 0, rows_ = 0;
    std::vector<std::pair<std::int32_t, int>> hull_;  ///< triangle and side of each edge of the hull
    Box bounds_;
};

/// Existing and finished ground together: finished where it exists, else existing.
struct Ground {
    std::shared_ptr<const Terrain> finished, existing;
    struct Cursors {
        Terrain::Cursor finished, existing;
    };
    double elevation(Point p, Cursors& cursors) const;
    [[nodiscard]] double elevation(Point p) const {
        Cursors fresh;
        return elevation(p, fresh);
    }
    [[nodiscard]] bool empty() const { return !finished && !existing; }
    /// The ground under a line, by distance along it; NaN where there is no surface. Where one surface gives way to the
    /// other both levels stand at that distance.
    [[nodiscard]] std::vector<Terrain::SectionPoint> section(std::span<const Point> line) const;
};

}  // namespace culvert
