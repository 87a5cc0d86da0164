// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

/// Plane geometry of points and polylines, in metres. Degenerate input (coincident points, fewer than two or three
/// points) is allowed everywhere and gives the natural limit: zero length, zero area, distance to the point.
namespace culvert {

struct Point {
    double x = 0, y = 0;
    friend bool operator==(const Point&, const Point&) = default;
};

/// How far from the origin of its coordinates a place may lie, m: more than any projected system needs, and few enough
/// digits that a millimetre still counts. What lies farther is a mistake of unit or of reading.
constexpr double plan_reach = 1e8;
/// Whether a place is given, and within reach.
constexpr bool in_reach(Point p) {
    return p.x >= -plan_reach && p.x <= plan_reach && p.y >= -plan_reach && p.y <= plan_reach;
}
bool in_reach(std::span<const Point> line);

double distance(Point a, Point b);
/// Length along a polyline.
double length(std::span<const Point> line);
/// Unsigned area of a polygon given by its corners in order (shoelace formula); the first need not be repeated.
double area(std::span<const Point> polygon);
/// Shortest distance from a point to the segment a–b.
double distance_to_segment(Point p, Point a, Point b);
/// Whether p lies inside the polygon (even-odd rule).
bool inside(Point p, std::span<const Point> polygon);
/// Where a point stands along a polyline.
struct Station {
    double station = 0;  ///< length along the line to the foot of the perpendicular
    double offset = 0;   ///< distance from the line, positive right of it looking along it
    std::size_t segment = 0;
};
/// Nearest place of a polyline to a point; of two equally near ones, the first.
Station station_of(std::span<const Point> line, Point p);
/// The point at a station (held to the line's ends) and an offset to the right.
Point point_at(std::span<const Point> line, double station, double offset);
/// Where two segments cross (ends included); false for parallel ones. t and u are shares along a–b and c–d.
bool crossing(Point a, Point b, Point c, Point d, double& t, double& u);
/// Whether a polygon's edges cross or touch each other elsewhere than at shared corners.
bool crosses_itself(std::span<const Point> polygon);
/// Signed area: positive counter-clockwise.
double signed_area(std::span<const Point> polygon);
/// Mean of the corners; good enough to place a label.
Point centre(std::span<const Point> points);

}  // namespace culvert
