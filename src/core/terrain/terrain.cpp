// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/terrain/terrain.h"
#include "core/base/contract.h"

#include <algorithm>
#include <cmath>

namespace culvert {
namespace {

constexpr double nan = std::numeric_limits<double>::quiet_NaN();
/// Twice the signed area of a, b, p: positive when p lies left of a–b.
double side(const GroundPoint& a, const GroundPoint& b, Point p) {
    return (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x);
}
double tolerance(const GroundPoint& a, const GroundPoint& b) {
    return 1e-12 * (std::abs(b.x - a.x) + std::abs(b.y - a.y)) * (1 + std::abs(a.x) + std::abs(a.y)) * 1e-3;
}

}  // namespace

void Terrain::finish() {
    bounds_ = {};
    at_vertex_.assign(points_.size(), -1);
    std::size_t n = 0;
    hull_.clear();
    for (std::size_t i = 0; i < triangles_.size(); ++i) {
        for (int k = 0; k < 3; ++k)
            if (triangles_[i].beside[static_cast<std::size_t>(k)] < 0)
                hull_.emplace_back(static_cast<std::int32_t>(i), k);
        for (const std::uint32_t c : triangles_[i].corner)
            if (at_vertex_[c] < 0 || (surface_[i] && !surface_[static_cast<std::size_t>(at_vertex_[c])]))
                at_vertex_[c] = static_cast<std::int32_t>(i);
        if (!surface_[i]) continue;
        ++n;
        for (const std::uint32_t c : triangles_[i].corner) {
            const GroundPoint& p = points_[c];
            bounds_.left = std::min(bounds_.left, p.x);
            bounds_.right = std::max(bounds_.right, p.x);
            bounds_.bottom = std::min(bounds_.bottom, p.y);
            bounds_.top = std::max(bounds_.top, p.y);
            bounds_.low = std::min(bounds_.low, p.z);
            bounds_.high = std::max(bounds_.high, p.z);
        }
    }
    if (n == 0) return;
    // A coarse grid of starting triangles: about one cell for four triangles.
    const double w = std::max(bounds_.right - bounds_.left, 1e-9), h = std::max(bounds_.top - bounds_.bottom, 1e-9);
    const double cell = std::sqrt(w * h * 4 / static_cast<double>(n)) + std::max(w, h) / 4000;
    columns_ = static_cast<std::size_t>(w / cell) + 1;
    rows_ = static_cast<std::size_t>(h / cell) + 1;
    hints_.assign(columns_ * rows_, -1);
    for (std::size_t i = 0; i < triangles_.size(); ++i) {
        if (!surface_[i]) continue;
        const auto& c = triangles_[i].corner;
        const double x = (points_[c[0]].x + points_[c[1]].x + points_[c[2]].x) / 3,
                     y = (points_[c[0]].y + points_[c[1]].y + points_[c[2]].y) / 3;
        const auto column =
            std::min(columns_ - 1, static_cast<std::size_t>((x - bounds_.left) / w * static_cast<double>(columns_)));
        const auto row =
            std::min(rows_ - 1, static_cast<std::size_t>((y - bounds_.bottom) / h * static_cast<double>(rows_)));
        hints_[row * columns_ + column] = static_cast<std::int32_t>(i);
    }
    std::int32_t last = -1;
    for (auto& hint : hints_) {
        if (hint < 0) hint = last;
        last = hint;
    }
}

std::int32_t Terrain::locate(Point p, Cursor& cursor) const {
    if (triangles_.empty()) return -1;
    std::int32_t t = cursor.triangle;
    const auto corner_near = [&](std::int32_t at) {
        const GroundPoint& c = points_[nth(triangles_, at).corner[0]];
        return std::hypot(c.x - p.x, c.y - p.y);
    };
    const double w = bounds_.right - bounds_.left, h = bounds_.top - bounds_.bottom;
    const double cell = columns_ ? std::max(w / static_cast<double>(columns_), h / static_cast<double>(rows_)) : 0;
    if (t < 0 || static_cast<std::size_t>(t) >= triangles_.size() || corner_near(t) > 4 * cell) {
        t = 0;
        if (!hints_.empty() && w > 0 && h > 0) {
            const double cx = std::clamp((p.x - bounds_.left) / w, 0.0, 1.0) * static_cast<double>(columns_),
                         cy = std::clamp((p.y - bounds_.bottom) / h, 0.0, 1.0) * static_cast<double>(rows_);
            const std::int32_t hint = hints_[std::min(rows_ - 1, static_cast<std::size_t>(cy)) * columns_ +
                                             std::min(columns_ - 1, static_cast<std::size_t>(cx))];
            if (hint >= 0) t = hint;
        }
    }
    std::int32_t from = -1;
    for (std::size_t step = 0; step < triangles_.size() + 8; ++step) {
        const Triangle& tri = nth(triangles_, t);
        // The first side tried turns with the steps, so that no walk goes round in circles.
        int out = -1;
        for (int k = 0; k < 3 && out < 0; ++k) {
            const int s = static_cast<int>((static_cast<std::size_t>(k) + step) % 3);
            const auto us = static_cast<std::size_t>(s);
            if (from >= 0 && tri.beside[us] == from) continue;
            const GroundPoint &a = points_[tri.corner[(us + 1) % 3]], &b = points_[tri.corner[(us + 2) % 3]];
            if (side(a, b, p) < -tolerance(a, b)) out = s;
        }
        if (out < 0) {
            cursor.triangle = t;
            return t;
        }
        from = t;
        const std::int32_t next = nth(tri.beside, out);
        if (next < 0) {
            cursor.triangle = t;
            return -1;
        }
        t = next;
    }
    return -1;
}

Point Terrain::gradient(std::int32_t t) const {
    const auto& c = nth(triangles_, t).corner;
    const GroundPoint &a = points_[c[0]], &b = points_[c[1]], &d = points_[c[2]];
    const double ux = b.x - a.x, uy = b.y - a.y, uz = b.z - a.z, vx = d.x - a.x, vy = d.y - a.y, vz = d.z - a.z;
    const double det = ux * vy - uy * vx;
    if (det == 0) return {0, 0};
    return {(uz * vy - vz * uy) / det, (vz * ux - uz * vx) / det};
}

double Terrain::plane(std::int32_t t, Point p) const {
    const auto& c = nth(triangles_, t).corner;
    const GroundPoint &a = points_[c[0]], &b = points_[c[1]], &d = points_[c[2]];
    // Barycentric: a corner gives back its own level to the last bit.
    // The point lies in the triangle but for rounding: in a sliver that rounding would carry the level metres away, so
    // no weight is negative.
    const double wa = std::max(side(b, d, p), 0.0), wb = std::max(side(d, a, p), 0.0),
                 wd = std::max(side(a, b, p), 0.0), sum = wa + wb + wd;
    if (!(sum > 0)) return a.z;
    return (wa * a.z + wb * b.z + wd * d.z) / sum;
}

double Terrain::elevation(Point p, Cursor& cursor) const {
    const std::int32_t t = locate(p, cursor);
    if (t < 0) return nan;
    if (is_surface(t)) return plane(t, p);
    // On the very edge of the surface the triangle beside may hold it.
    for (std::size_t k = 0; k < 3; ++k) {
        const Triangle& tri = nth(triangles_, t);
        const std::int32_t n = tri.beside[k];
        const GroundPoint &a = points_[tri.corner[(k + 1) % 3]], &b = points_[tri.corner[(k + 2) % 3]];
        if (is_surface(n) &&
            distance_to_segment(p, {a.x, a.y}, {b.x, b.y}) < 1e-9 * (1 + std::abs(p.x) + std::abs(p.y)))
            return plane(n, p);
    }
    return nan;
}

std::vector<Terrain::SectionPoint> Terrain::section(Point a, Point b) const {
    std::vector<SectionPoint> out;
    const double l = distance(a, b);
    const Point d{b.x - a.x, b.y - a.y};
    const auto add = [&](double s, double level) {
        if (!out.empty() && std::abs(out.back().distance - s * l) < 1e-9 &&
            (out.back().level == level || (std::isnan(out.back().level) && std::isnan(level)) ||
             std::abs(out.back().level - level) < 1e-9))
            return;
        out.push_back({s * l, level});
    };
    Cursor cursor;
    std::int32_t t = locate(a, cursor), from = -1;
    double s = 0;
    if (l == 0) {
        out.push_back({0, t >= 0 && is_surface(t) ? plane(t, a) : nan});
        return out;
    }
    if (t < 0) {  // it starts outside the hull: the first hull edge it crosses lets it in
        double first = 2;
        for (const auto& [triangle, side] : hull_) {
            const auto& corner = nth(triangles_, triangle).corner;
            const auto k = static_cast<std::size_t>(side);
            const GroundPoint &p = points_[corner[(k + 1) % 3]], &q = points_[corner[(k + 2) % 3]];
            double u = 0, v = 0;
            if (crossing(a, b, {p.x, p.y}, {q.x, q.y}, u, v) && u < first) {
                first = u;
                t = triangle;
            }
        }
        add(0, nan);
        if (t < 0) {
            add(1, nan);
            return out;
        }
        s = first;
        add(s, nan);
    }
    for (std::size_t guard = 0; guard <= triangles_.size() * 2; ++guard) {
        const Triangle& tri = nth(triangles_, t);
        double exit = 1;
        int out_side = -1;
        for (std::size_t k = 0; k < 3; ++k) {
            if (from >= 0 && tri.beside[k] == from) continue;
            const GroundPoint &p = points_[tri.corner[(k + 1) % 3]], &q = points_[tri.corner[(k + 2) % 3]];
            const double nx = q.y - p.y, ny = -(q.x - p.x);  // outward, for corners counter-clockwise
            const double along = d.x * nx + d.y * ny;
            if (along <= 0) continue;
            const double u = ((p.x - a.x) * nx + (p.y - a.y) * ny) / along;
            if (u < exit) {
                exit = u;
                out_side = static_cast<int>(k);
            }
        }
        exit = std::max(exit, s);
        const auto level = [&](double u) { return is_surface(t) ? plane(t, {a.x + u * d.x, a.y + u * d.y}) : nan; };
        add(s, level(s));
        add(exit, level(exit));
        s = exit;
        if (out_side < 0 || s >= 1) break;
        from = t;
        t = nth(tri.beside, out_side);
        if (t < 0) {
            if (s < 1) {
                add(s, nan);
                add(1, nan);
            }
            break;
        }
    }
    return out;
}

Terrain::Box Terrain::bounds_of(std::int32_t t) const {
    Box b;
    for (const std::uint32_t c : nth(triangles_, t).corner) {
        const GroundPoint& p = points_[c];
        b.left = std::min(b.left, p.x);
        b.right = std::max(b.right, p.x);
        b.bottom = std::min(b.bottom, p.y);
        b.top = std::max(b.top, p.y);
        b.low = std::min(b.low, p.z);
        b.high = std::max(b.high, p.z);
    }
    return b;
}

Terrain::Filled Terrain::filled(std::int32_t t, double level) const {
    const auto& c = nth(triangles_, t).corner;
    std::array<GroundPoint, 3> p{points_[c[0]], points_[c[1]], points_[c[2]]};
    const double whole = side(p[0], p[1], {p[2].x, p[2].y}) / 2;
    std::sort(p.begin(), p.end(), [](const GroundPoint& a, const GroundPoint& b) { return a.z < b.z; });
    const double z0 = p[0].z, z1 = p[1].z, z2 = p[2].z;
    if (level <= z0) return {0, 0};
    if (level >= z2) return {whole, whole * (level - (z0 + z1 + z2) / 3)};
    // Below the middle corner the wet part is a triangle similar to the one cut off; above it, the whole less the dry
    // tip.
    if (level <= z1) {
        const double f = (level - z0) * (level - z0) / ((z1 - z0) * (z2 - z0)), wet = whole * f;
        return {wet, wet * (level - z0) / 3};
    }
    const double f = (z2 - level) * (z2 - level) / ((z2 - z0) * (z2 - z1)), dry = whole * f;
    return {whole - dry, whole * (level - (z0 + z1 + z2) / 3) + dry * (z2 - level) / 3};
}

double Terrain::area() const { return area_below(std::numeric_limits<double>::infinity()); }
double Terrain::area_below(double level) const {
    double sum = 0;
    for (std::size_t i = 0; i < triangles_.size(); ++i)
        if (surface_[i]) {
            if (std::isinf(level)) {
                const auto& c = triangles_[i].corner;
                sum += side(points_[c[0]], points_[c[1]], {points_[c[2]].x, points_[c[2]].y}) / 2;
            } else sum += filled(static_cast<std::int32_t>(i), level).area;
        }
    return sum;
}
double Terrain::volume_below(double level) const {
    double sum = 0;
    for (std::size_t i = 0; i < triangles_.size(); ++i)
        if (surface_[i]) sum += filled(static_cast<std::int32_t>(i), level).volume;
    return sum;
}

double Ground::elevation(Point p, Cursors& cursors) const {
    if (finished)
        if (const double z = finished->elevation(p, cursors.finished); !std::isnan(z)) return z;
    return existing ? existing->elevation(p, cursors.existing) : nan;
}

namespace {

/// Level of a section at a distance, NaN where it is off the surface.
double level_in(const std::vector<Terrain::SectionPoint>& s, double at, bool after) {
    double level = nan;
    for (std::size_t i = 0; i + 1 < s.size(); ++i) {
        const auto &a = s[i], &b = s[i + 1];
        if (at < a.distance || at > b.distance) continue;
        if (b.distance > a.distance) {
            const double v = a.level + (b.level - a.level) * (at - a.distance) / (b.distance - a.distance);
            if (after && at < b.distance) return v;
            if (!after && at > a.distance) return v;
            level = std::isnan(level) ? v : level;
        }
    }
    return level;
}

}  // namespace

std::vector<Terrain::SectionPoint> Ground::section(std::span<const Point> line) const {
    std::vector<Terrain::SectionPoint> out;
    double before = 0;
    const auto add = [&](double distance, double level) {
        if (!out.empty() && std::abs(out.back().distance - distance) < 1e-9 &&
            (std::abs(out.back().level - level) < 1e-9 || (std::isnan(out.back().level) && std::isnan(level))))
            return;
        out.push_back({distance, level});
    };
    for (std::size_t i = 0; i + 1 < line.size(); ++i) {
        const auto top = finished ? finished->section(line[i], line[i + 1]) : std::vector<Terrain::SectionPoint>{};
        const auto low = existing ? existing->section(line[i], line[i + 1]) : std::vector<Terrain::SectionPoint>{};
        std::vector<double> at{0, distance(line[i], line[i + 1])};
        for (const auto& p : top) at.push_back(p.distance);
        for (const auto& p : low) at.push_back(p.distance);
        std::sort(at.begin(), at.end());
        at.erase(std::unique(at.begin(), at.end(), [](double a, double b) { return b - a < 1e-9; }), at.end());
        const auto level = [&](double d, bool after) {
            const double t = level_in(top, d, after);
            return std::isnan(t) ? level_in(low, d, after) : t;
        };
        for (const double d : at) {
            if (d > at.front()) add(before + d, level(d, false));
            if (d < at.back()) add(before + d, level(d, true));
        }
        before += at.back();
    }
    return out;
}

}  // namespace culvert
