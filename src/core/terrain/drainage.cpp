// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/terrain/drainage.h"
#include "core/base/contract.h"

#include <algorithm>
#include <cmath>
#include <queue>
#include <set>

namespace culvert {
namespace {

constexpr double nan = std::numeric_limits<double>::quiet_NaN();

}  // namespace

double Trace::length() const {
    double sum = 0;
    for (std::size_t i = 1; i < line.size(); ++i)
        sum += std::hypot(line[i].x - line[i - 1].x, line[i].y - line[i - 1].y);
    return sum;
}

template <class F>
void Drainage::around(std::uint32_t v, F&& f) const {
    const Terrain& t = *terrain_;
    const std::int32_t start = t.triangle_at(v);
    if (start < 0) return;
    const auto place = [&](std::int32_t tri) {
        const auto& c = t.triangles()[static_cast<std::size_t>(tri)].corner;
        return c[0] == v ? 0 : c[1] == v ? 1 : 2;
    };
    // Round the vertex one way, over the hull's triangles too; where it meets the hull, the other way from the start.
    std::int32_t tri = start;
    do {
        const int at = place(tri);
        if (t.is_surface(tri)) f(tri, at);
        tri = t.triangles()[static_cast<std::size_t>(tri)].beside[static_cast<std::size_t>((at + 1) % 3)];
    } while (tri >= 0 && tri != start);
    if (tri == start) return;
    tri = t.triangles()[static_cast<std::size_t>(start)].beside[static_cast<std::size_t>((place(start) + 2) % 3)];
    while (tri >= 0) {
        const int at = place(tri);
        if (t.is_surface(tri)) f(tri, at);
        tri = t.triangles()[static_cast<std::size_t>(tri)].beside[static_cast<std::size_t>((at + 2) % 3)];
    }
}

Drainage::Drainage(std::shared_ptr<const Terrain> terrain) : terrain_(std::move(terrain)) {
    const Terrain& t = *terrain_;
    const std::size_t n = t.points().size();
    filled_.assign(n, nan);
    parent_.assign(n, -1);
    basin_.assign(n, -1);
    using Item = std::pair<double, std::uint32_t>;
    std::priority_queue<Item, std::vector<Item>, std::greater<>> queue;
    for (std::size_t i = 0; i < t.triangles().size(); ++i) {
        if (!t.is_surface(static_cast<std::int32_t>(i))) continue;
        for (int k = 0; k < 3; ++k)
            if (t.beside(static_cast<std::int32_t>(i), k) < 0)
                for (int e = 1; e <= 2; ++e) {
                    const std::uint32_t v = t.triangles()[i].corner[static_cast<std::size_t>((k + e) % 3)];
                    if (std::isnan(filled_[v])) {
                        filled_[v] = t.points()[v].z;
                        queue.emplace(filled_[v], v);
                    }
                }
    }
    while (!queue.empty()) {
        const auto [level, v] = queue.top();
        queue.pop();
        around(v, [&, v = v, level = level](std::int32_t tri, int at) {
            for (int e = 1; e <= 2; ++e) {
                const std::uint32_t u =
                    t.triangles()[static_cast<std::size_t>(tri)].corner[static_cast<std::size_t>((at + e) % 3)];
                if (!std::isnan(filled_[u])) continue;
                filled_[u] = std::max(level, t.points()[u].z);
                parent_[u] = static_cast<std::int32_t>(v);
                queue.emplace(filled_[u], u);
            }
        });
    }
    // Corners under water that touch each other make one depression.
    for (std::uint32_t s = 0; s < n; ++s) {
        if (basin_[s] >= 0 || std::isnan(filled_[s]) || !(filled_[s] > t.points()[s].z)) continue;
        const auto id = static_cast<std::int32_t>(all_.size());
        Depression d{{}, {}, 1e300, filled_[s], 0, 0};
        std::vector<std::uint32_t> work{s};
        std::vector<std::int32_t> wet;
        basin_[s] = id;
        for (std::size_t i = 0; i < work.size(); ++i) {
            const std::uint32_t v = work[i];
            const GroundPoint& p = t.points()[v];
            if (p.z < d.bottom_level) {
                d.bottom_level = p.z;
                d.bottom = {p.x, p.y};
            }
            if (const std::int32_t up = parent_[v]; up >= 0 && nth(basin_, up) != id) {
                const GroundPoint& lip = t.points()[static_cast<std::size_t>(up)];
                if (!(nth(filled_, up) > lip.z)) d.spill = {lip.x, lip.y};
            }
            around(v, [&](std::int32_t tri, int at) {
                wet.push_back(tri);
                for (int e = 1; e <= 2; ++e) {
                    const std::uint32_t u =
                        t.triangles()[static_cast<std::size_t>(tri)].corner[static_cast<std::size_t>((at + e) % 3)];
                    if (basin_[u] < 0 && filled_[u] > t.points()[u].z) {
                        basin_[u] = id;
                        work.push_back(u);
                    }
                }
            });
        }
        std::sort(wet.begin(), wet.end());
        wet.erase(std::unique(wet.begin(), wet.end()), wet.end());
        for (const std::int32_t tri : wet) {
            const auto f = t.filled(tri, d.spill_level);
            d.area += f.area;
            d.volume += f.volume;
        }
        all_.push_back(d);
    }
}

std::vector<Depression> Drainage::depressions(double least_depth) const {
    std::vector<Depression> out;
    for (const Depression& d : all_)
        if (d.depth() >= least_depth) out.push_back(d);
    std::sort(out.begin(), out.end(), [](const Depression& a, const Depression& b) {
        return std::tuple(-a.depth(), a.bottom.x, a.bottom.y) < std::tuple(-b.depth(), b.bottom.x, b.bottom.y);
    });
    return out;
}

Trace Drainage::trace(Point from, double least_depth) const {
    const Terrain& t = *terrain_;
    Trace out;
    Terrain::Cursor cursor;
    std::int32_t tri = t.locate(from, cursor), entered = -1;
    if (!t.is_surface(tri)) return out;
    Point q = from;
    out.line.push_back({q.x, q.y, t.plane(tri, q)});
    std::int64_t vertex = -1;
    std::set<std::uint32_t> over;  // depressions' bottoms already left: none is left twice
    const std::size_t guard = 4 * t.triangles().size() + 100;
    const auto to_vertex = [&](std::uint32_t v) {
        vertex = v;
        entered = -1;
        const GroundPoint& p = t.points()[v];
        q = {p.x, p.y};
        if (out.line.back().x != p.x || out.line.back().y != p.y) out.line.push_back(p);
    };
    // A surveyed point itself: of the triangles around it none is the one it lies in.
    for (const std::uint32_t v : t.triangles()[static_cast<std::size_t>(tri)].corner)
        if (std::hypot(t.points()[v].x - q.x, t.points()[v].y - q.y) < 1e-6) to_vertex(v);
    for (std::size_t step = 0; step < guard; ++step) {
        if (vertex >= 0) {
            const auto v = static_cast<std::uint32_t>(vertex);
            const GroundPoint here = t.points()[v];
            double steepest = 0;
            std::int32_t into = -1, along = -1;
            bool edge_of_surface = false;
            around(v, [&](std::int32_t at_tri, int at) {
                const auto& c = t.triangles()[static_cast<std::size_t>(at_tri)].corner;
                for (int e = 1; e <= 2; ++e) {
                    const std::uint32_t u = c[static_cast<std::size_t>((at + e) % 3)];
                    const GroundPoint& p = t.points()[u];
                    const double fall = (here.z - p.z) / std::hypot(p.x - here.x, p.y - here.y);
                    if (fall > steepest ||
                        (fall == steepest && fall > 0 && along >= 0 && u < static_cast<std::uint32_t>(along))) {
                        steepest = fall;
                        along = static_cast<std::int32_t>(u);
                        into = -1;
                    }
                    edge_of_surface |= t.beside(at_tri, (at + e) % 3) < 0;
                }
                const Point g = t.gradient(at_tri);
                const double slope = std::hypot(g.x, g.y);
                const GroundPoint &a = t.points()[c[static_cast<std::size_t>((at + 1) % 3)]],
                                  &b = t.points()[c[static_cast<std::size_t>((at + 2) % 3)]];
                const double to_a = (a.x - here.x) * -g.y - (a.y - here.y) * -g.x,
                             to_b = (b.x - here.x) * -g.y - (b.y - here.y) * -g.x;
                if (slope > steepest * (1 + 1e-12) && to_a > 0 && to_b < 0) {
                    steepest = slope;
                    into = at_tri;
                    along = -1;
                }
            });
            if (into >= 0) {
                tri = into;
                vertex = -1;
                entered = -1;
            } else if (along >= 0) {
                to_vertex(static_cast<std::uint32_t>(along));
                continue;
            } else {
                if (edge_of_surface) {
                    out.end = TraceEnd::LeftSurface;
                    return out;
                }
                const std::int32_t basin = basin_[v];
                const double depth = basin >= 0 ? nth(all_, basin).depth() : 0;
                if ((basin >= 0 && depth >= least_depth) || !over.insert(v).second) {
                    out.end = basin >= 0 ? TraceEnd::Depression : TraceEnd::Flat;
                    return out;
                }
                // Over the lip: the way the flood came in, until the ground lies lower than the lip.
                const double level = filled_[v];
                std::uint32_t u = v;
                bool beyond = false;
                while (parent_[u] >= 0 && !beyond) {
                    u = static_cast<std::uint32_t>(parent_[u]);
                    to_vertex(u);
                    beyond = t.points()[u].z < level && basin_[u] != basin_[v];
                }
                if (!beyond) {
                    out.end = TraceEnd::LeftSurface;
                    return out;
                }
                continue;
            }
        }
        const Point g = t.gradient(tri), d{-g.x, -g.y};
        const auto& c = t.triangles()[static_cast<std::size_t>(tri)].corner;
        if (std::hypot(d.x, d.y) < 1e-12) {  // level ground: to its lowest way out
            std::uint32_t low = c[0];
            for (const std::uint32_t k : c)
                if (filled_[k] < filled_[low] || (filled_[k] == filled_[low] && k < low)) low = k;
            to_vertex(low);
            if (!over.contains(low)) continue;
            out.end = TraceEnd::Flat;
            return out;
        }
        double exit = 1e300;
        int side = -1;
        for (std::size_t k = 0; k < 3; ++k) {
            if (entered >= 0 && t.triangles()[static_cast<std::size_t>(tri)].beside[k] == entered) continue;
            const GroundPoint &a = t.points()[c[(k + 1) % 3]], &b = t.points()[c[(k + 2) % 3]];
            const double nx = b.y - a.y, ny = -(b.x - a.x), toward = d.x * nx + d.y * ny;
            if (toward <= 0) continue;
            const double u = ((a.x - q.x) * nx + (a.y - q.y) * ny) / toward;
            if (u < exit) {
                exit = u;
                side = static_cast<int>(k);
            }
        }
        if (side < 0) {
            out.end = TraceEnd::Flat;
            return out;
        }
        exit = std::max(exit, 0.0);
        q = {q.x + exit * d.x, q.y + exit * d.y};
        const std::uint32_t va = c[static_cast<std::size_t>((side + 1) % 3)],
                            vb = c[static_cast<std::size_t>((side + 2) % 3)];
        const GroundPoint &a = t.points()[va], &b = t.points()[vb];
        const double edge = std::hypot(b.x - a.x, b.y - a.y);
        const double z = std::min(t.plane(tri, q), out.line.back().z);
        if (std::hypot(q.x - a.x, q.y - a.y) < 1e-9 * edge) {
            to_vertex(va);
            continue;
        }
        if (std::hypot(q.x - b.x, q.y - b.y) < 1e-9 * edge) {
            to_vertex(vb);
            continue;
        }
        if (std::hypot(q.x - out.line.back().x, q.y - out.line.back().y) > 1e-9) out.line.push_back({q.x, q.y, z});
        const std::int32_t next = t.beside(tri, side);
        if (next < 0) {
            out.end = TraceEnd::LeftSurface;
            return out;
        }
        // Beyond the edge the water goes on, unless the ground there falls back toward it: then along the edge.
        const Point g2 = t.gradient(next);
        const double nx = b.y - a.y, ny = -(b.x - a.x);
        if (-(g2.x * nx + g2.y * ny) > 0) {
            entered = tri;
            tri = next;
        } else if (a.z != b.z) to_vertex(a.z < b.z ? va : vb);
        else to_vertex(filled_[va] < filled_[vb] || (filled_[va] == filled_[vb] && va < vb) ? va : vb);
    }
    out.end = TraceEnd::Flat;
    return out;
}

}  // namespace culvert
