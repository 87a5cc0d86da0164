// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/geometry/line.h"

#include <algorithm>
#include <cmath>

namespace culvert {

bool in_reach(std::span<const Point> line) {
    return std::all_of(line.begin(), line.end(), [](Point p) { return in_reach(p); });
}

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

double signed_area(std::span<const Point> polygon) {
    double sum = 0;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const Point &a = polygon[i], &b = polygon[(i + 1) % polygon.size()], &o = polygon[0];
        sum += (a.x - o.x) * (b.y - o.y) - (b.x - o.x) * (a.y - o.y);
    }
    return sum / 2;
}

Station station_of(std::span<const Point> line, Point p) {
    Station best;
    if (line.empty()) return best;
    if (line.size() == 1) return {0, distance(p, line[0]), 0};
    double nearest = 1e300, run = 0;
    for (std::size_t i = 0; i + 1 < line.size(); ++i) {
        const Point a = line[i], b = line[i + 1], d{b.x - a.x, b.y - a.y};
        const double l2 = d.x * d.x + d.y * d.y;
        const double t = l2 > 0 ? std::clamp(((p.x - a.x) * d.x + (p.y - a.y) * d.y) / l2, 0.0, 1.0) : 0;
        const double away = distance(p, {a.x + t * d.x, a.y + t * d.y});
        if (away < nearest - 1e-9) {
            nearest = away;
            const double cross = d.x * (p.y - a.y) - d.y * (p.x - a.x);
            best = {run + t * std::sqrt(l2), cross > 0 ? -away : away, i};
        }
        run += std::sqrt(l2);
    }
    return best;
}

Point point_at(std::span<const Point> line, double station, double offset) {
    if (line.empty()) return {};
    double run = 0;
    for (std::size_t i = 0; i + 1 < line.size(); ++i) {
        const Point a = line[i], b = line[i + 1];
        const double l = distance(a, b);
        if (l > 0 && (station <= run + l || i + 2 == line.size())) {
            const double t = std::clamp((station - run) / l, 0.0, 1.0);
            return {a.x + t * (b.x - a.x) + offset * (b.y - a.y) / l, a.y + t * (b.y - a.y) - offset * (b.x - a.x) / l};
        }
        run += l;
    }
    return line.back();
}

bool crossing(Point a, Point b, Point c, Point d, double& t, double& u) {
    const double rx = b.x - a.x, ry = b.y - a.y, sx = d.x - c.x, sy = d.y - c.y, det = rx * sy - ry * sx;
    if (det == 0) return false;
    t = ((c.x - a.x) * sy - (c.y - a.y) * sx) / det;
    u = ((c.x - a.x) * ry - (c.y - a.y) * rx) / det;
    return t >= 0 && t <= 1 && u >= 0 && u <= 1;
}

bool crosses_itself(std::span<const Point> polygon) {
    const std::size_t n = polygon.size();
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t k = i + 1; k < n; ++k) {
            if (k == i + 1 || (i == 0 && k == n - 1)) continue;
            double t = 0, u = 0;
            if (crossing(polygon[i], polygon[(i + 1) % n], polygon[k], polygon[(k + 1) % n], t, u)) return true;
        }
    return false;
}

}  // namespace culvert
