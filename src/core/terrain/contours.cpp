// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/terrain/contours.h"
#include "core/base/contract.h"

#include <algorithm>
#include <cmath>

namespace culvert {

std::vector<Contour> contours(const Terrain& t, double interval, const std::stop_token& stop) {
    return contours(t, interval, t.bounds(), stop);
}

std::vector<Contour> contours(const Terrain& t, double interval, const Terrain::Box& box, const std::stop_token& stop) {
    std::vector<Contour> out;
    if (!(interval > 0)) return out;
    // Which triangles each level passes through, level by level.
    std::vector<std::pair<std::int32_t, std::int32_t>> passes;
    const auto& triangles = t.triangles();
    for (std::size_t i = 0; i < triangles.size(); ++i) {
        if (!t.is_surface(static_cast<std::int32_t>(i))) continue;
        const Terrain::Box b = t.bounds_of(static_cast<std::int32_t>(i));
        if (!b.meets(box)) continue;
        // A level passes where a corner lies below it and another at or above it.
        for (double k = std::floor(b.low / interval) + 1; k * interval <= b.high; ++k)
            if (k * interval > b.low) passes.emplace_back(static_cast<std::int32_t>(k), static_cast<std::int32_t>(i));
    }
    std::sort(passes.begin(), passes.end());
    std::vector<std::int32_t> visited(triangles.size(), std::numeric_limits<std::int32_t>::min());
    std::vector<std::int32_t> belongs(triangles.size(), std::numeric_limits<std::int32_t>::min());
    const auto above = [&](std::uint32_t v, double level) { return t.points()[v].z >= level; };
    for (std::size_t first = 0; first < passes.size();) {
        if (stop.stop_requested()) return {};
        const std::int32_t k = passes[first].first;
        const double level = k * interval;
        std::size_t last = first;
        while (last < passes.size() && passes[last].first == k)
            belongs[static_cast<std::size_t>(passes[last++].second)] = k;
        const auto cut = [&](std::int32_t tri, std::size_t side) {
            const auto& c = nth(triangles, tri).corner;
            const GroundPoint *a = &t.points()[c[(side + 1) % 3]], *b = &t.points()[c[(side + 2) % 3]];
            if (c[(side + 1) % 3] > c[(side + 2) % 3]) std::swap(a, b);  // the same point from both sides
            const double f = (level - a->z) / (b->z - a->z);
            return Point{a->x + f * (b->x - a->x), a->y + f * (b->y - a->y)};
        };
        // Walks from a triangle out through a side until the contour ends or closes; adds a point for each side.
        const auto walk = [&](std::int32_t tri, std::size_t side, std::vector<Point>& line, std::int32_t home) {
            for (;;) {
                line.push_back(cut(tri, side));
                const std::int32_t next = t.beside(tri, static_cast<int>(side));
                if (next < 0 || nth(belongs, next) != k) return false;
                if (next == home) return true;
                const auto& n = nth(triangles, next);
                std::size_t entry = 0;
                while (entry < 3 && n.beside[entry] != tri) ++entry;
                nth(visited, next) = k;
                std::size_t exit = 3;
                for (std::size_t s = 0; s < 3; ++s)
                    if (s != entry && above(n.corner[(s + 1) % 3], level) != above(n.corner[(s + 2) % 3], level))
                        exit = s;
                if (exit == 3) return false;
                tri = next;
                side = exit;
            }
        };
        for (std::size_t i = first; i < last; ++i) {
            const std::int32_t tri = passes[i].second;
            if (nth(visited, tri) == k) continue;
            nth(visited, tri) = k;
            const auto& c = nth(triangles, tri).corner;
            std::size_t sides[2], n = 0;
            for (std::size_t s = 0; s < 3; ++s)
                if (above(c[(s + 1) % 3], level) != above(c[(s + 2) % 3], level) && n < 2) sides[n++] = s;
            if (n < 2) continue;
            Contour contour{level, false, {}};
            contour.closed = walk(tri, sides[0], contour.line, tri);
            if (contour.closed) {
                contour.line.push_back(cut(tri, sides[1]));
                contour.line.push_back(contour.line.front());
            } else {
                std::reverse(contour.line.begin(), contour.line.end());
                walk(tri, sides[1], contour.line, -2);
            }
            contour.line.erase(std::unique(contour.line.begin(), contour.line.end()), contour.line.end());
            if (contour.line.size() > 1) out.push_back(std::move(contour));
        }
        first = last;
    }
    return out;
}

double contour_interval(double low, double high, int lines) {
    const double aim = std::max(high - low, 1e-6) / std::max(lines, 1), ten = std::pow(10, std::floor(std::log10(aim)));
    for (const double step : {1.0, 2.0, 5.0})
        if (step * ten >= aim * 0.999) return step * ten;
    return 10 * ten;
}

std::vector<Point> simplified(const std::vector<Point>& line, double tolerance) {
    if (line.size() < 3) return line;
    std::vector<char> keep(line.size(), 0);
    keep.front() = keep.back() = 1;
    std::vector<std::pair<std::size_t, std::size_t>> work{{0, line.size() - 1}};
    while (!work.empty()) {
        const auto [a, b] = work.back();
        work.pop_back();
        double worst = tolerance;
        std::size_t at = 0;
        for (std::size_t i = a + 1; i < b; ++i)
            if (const double d = distance_to_segment(line[i], line[a], line[b]); d > worst) {
                worst = d;
                at = i;
            }
        if (!at) continue;
        keep[at] = 1;
        work.emplace_back(a, at);
        work.emplace_back(at, b);
    }
    std::vector<Point> out;
    for (std::size_t i = 0; i < line.size(); ++i)
        if (keep[i]) out.push_back(line[i]);
    return out;
}

}  // namespace culvert
