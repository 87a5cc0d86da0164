// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/terrain/terrain.h"

/// Contours: lines of equal level on a surface.
///
/// In each triangle a contour is straight, so a line is a chain of points on edges: exact for the surface as it is
/// triangulated. A corner exactly at a level counts as above it; so no contour branches, and a flat triangle at a level
/// has none.
namespace culvert {

struct Contour {
    double level;
    bool closed;
    std::vector<Point> line;
};
/// Contours at all multiples of an interval, m, > 0, in the triangles that meet a box. Stops early on request.
std::vector<Contour> contours(const Terrain& terrain, double interval, const Terrain::Box& box,
                              const std::stop_token& stop = {});
std::vector<Contour> contours(const Terrain& terrain, double interval, const std::stop_token& stop = {});

/// An interval of 1, 2 or 5 times a power of ten that puts about `lines` contours between low and high.
double contour_interval(double low, double high, int lines);

/// A line with fewer points that stays within a tolerance of it (Douglas and Peucker); ends stay.
std::vector<Point> simplified(const std::vector<Point>& line, double tolerance);

}  // namespace culvert
