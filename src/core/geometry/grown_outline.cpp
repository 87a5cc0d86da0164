// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/geometry/grown_outline.h"

#include <cmath>

namespace culvert {

std::vector<Point> grown_outline(const std::vector<Point>& outline, double distance) {
    // A corner given twice, or the first again as the last, is one corner.
    std::vector<Point> p;
    for (const Point& c : outline)
        if (p.empty() || !(c == p.back())) p.push_back(c);
    while (p.size() > 1 && p.front() == p.back()) p.pop_back();
    const std::size_t n = p.size();
    if (n < 3 || !(distance > 0)) return outline;
    double twice = 0;
    for (std::size_t i = 0; i < n; ++i) twice += p[i].x * p[(i + 1) % n].y - p[(i + 1) % n].x * p[i].y;
    const double side = twice > 0 ? 1 : -1;
    std::vector<Point> out;
    for (std::size_t i = 0; i < n; ++i) {
        const Point &a = p[(i + n - 1) % n], &b = p[i], &c = p[(i + 1) % n];
        const double l1 = std::hypot(b.x - a.x, b.y - a.y), l2 = std::hypot(c.x - b.x, c.y - b.y);
        if (!(l1 > 0) || !(l2 > 0)) continue;
        const double ux = (b.x - a.x) / l1, uy = (b.y - a.y) / l1, vx = (c.x - b.x) / l2, vy = (c.y - b.y) / l2;
        // Along the mean of both normals, so far that both edges move by the distance.
        const double nx = side * (uy + vy), ny = side * -(ux + vx), k = 1 + ux * vx + uy * vy;
        if (!(k > 1e-6)) continue;  // it turns back on itself
        out.push_back({b.x + distance * nx / k, b.y + distance * ny / k});
    }
    return out;
}

}  // namespace culvert
