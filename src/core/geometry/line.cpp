// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/geometry/line.h"

#include <algorithm>
#include <cmath>

namespace culvert {

double distance(Point a, Point b) { return std::hypot(b.x - a.x, b.y - a.y); }

double length(std::span<const Point> line) {
    double sum = 0;
    for (std::size_t i = 1; i < line.size(); ++i) sum += distance(line[i - 1], line[i]);
    return sum;
}

double area(std::span<const Point> polygon) {
    if (polygon.size() < 3) return 0;
    double twice = 0;
    const Point origin = polygon[0];  // relative to a corner, so that large coordinates lose no digits
    for (std::size_t i = 1; i + 1 < polygon.size(); ++i) {
        const Point a = polygon[i], b = polygon[i + 1];
        twice += (a.x - origin.x) * (b.y - origin.y) - (b.x - origin.x) * (a.y - origin.y);
    }
    return std::abs(twice) / 2;
}

double distance_to_segment(Point p, Point a, Point b) {
    const double dx = b.x - a.x, dy = b.y - a.y, square = dx * dx + dy * dy;
    if (square == 0) return distance(p, a);
    const double t = std::clamp(((p.x - a.x) * dx + (p.y - a.y) * dy) / square, 0.0, 1.0);
    return distance(p, {a.x + t * dx, a.y + t * dy});
}

bool inside(Point p, std::span<const Point> polygon) {
    bool in = false;
    for (std::size_t i = 0, j = polygon.empty() ? 0 : polygon.size() - 1; i < polygon.size(); j = i++) {
        const Point a = polygon[i], b = polygon[j];
        if ((a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x) in = !in;
    }
    return in;
}

Point centre(std::span<const Point> points) {
    Point sum;
    for (const Point& p : points) {
        sum.x += p.x;
        sum.y += p.y;
    }
    if (!points.empty()) {
        sum.x /= static_cast<double>(points.size());
        sum.y /= static_cast<double>(points.size());
    }
    return sum;
}

}  // namespace culvert
