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

double distance(Point a, Point b);
/// Length along a polyline.
double length(std::span<const Point> line);
/// Unsigned area of a polygon given by its corners in order (shoelace formula); the first need not be repeated.
double area(std::span<const Point> polygon);
/// Shortest distance from a point to the segment a–b.
double distance_to_segment(Point p, Point a, Point b);
/// Whether p lies inside the polygon (even-odd rule).
bool inside(Point p, std::span<const Point> polygon);
/// Mean of the corners; good enough to place a label.
Point centre(std::span<const Point> points);

}  // namespace culvert
