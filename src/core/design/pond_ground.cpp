// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/pond_ground.h"

#include <algorithm>
#include <cmath>
#include <queue>

#include "core/geometry/grown_outline.h"
#include "core/network/network.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

constexpr int most_across = 160;

struct Grid {
    double x = 0, y = 0, cell = 1;
    int columns = 0, rows = 0;
    [[nodiscard]] Point at(int i) const {
        const int row = i / columns;
        return {x + (i % columns + 0.5) * cell, y + (row + 0.5) * cell};
    }
    [[nodiscard]] int count() const { return columns * rows; }
};
Grid grid_over(const std::vector<Point>& shape, int across) {
    double x0 = 1e300, x1 = -1e300, y0 = 1e300, y1 = -1e300;
    for (const Point& p : shape) {
        x0 = std::min(x0, p.x), x1 = std::max(x1, p.x);
        y0 = std::min(y0, p.y), y1 = std::max(y1, p.y);
    }
    Grid g;
    g.cell = std::max({(x1 - x0) / across, (y1 - y0) / across, 0.05});
    g.x = x0;
    g.y = y0;
    g.columns = std::max(1, static_cast<int>(std::ceil((x1 - x0) / g.cell)));
    g.rows = std::max(1, static_cast<int>(std::ceil((y1 - y0) / g.cell)));
    return g;
}
double to_line(Point p, const std::vector<Point>& shape) {
    double near = 1e300;
    for (std::size_t i = 0; i < shape.size(); ++i)
        near = std::min(near, distance_to_segment(p, shape[i], shape[(i + 1) % shape.size()]));
    return near;
}

}  // namespace

GroundSpace space_of_ground(const Ground& ground, const std::vector<Point>& outline, Point place, double low,
                            double high, int steps, double reach, const std::stop_token& stop) {
    GroundSpace s;
    if (ground.empty()) {
        s.why = "the project has no surface of the ground";
        return s;
    }
    std::vector<Point> shape = outline;
    const bool bounded = shape.size() >= 3;
    if (!bounded)
        shape = {{place.x - reach, place.y - reach},
                 {place.x + reach, place.y - reach},
                 {place.x + reach, place.y + reach},
                 {place.x - reach, place.y + reach}};
    const Grid g = grid_over(shape, most_across);
    std::vector<double> level(static_cast<std::size_t>(g.count()), not_given);
    Ground::Cursors cursors;
    int lowest = -1;
    double nearest = 1e300;
    for (int i = 0; i < g.count(); ++i) {
        if (stop.stop_requested()) return s;
        const Point p = g.at(i);
        if (bounded && !inside(p, shape)) continue;
        double& z = level[static_cast<std::size_t>(i)];
        z = ground.elevation(p, cursors);
        if (std::isnan(z)) continue;
        // The lowest cell of those near the place; of an outline the lowest of all.
        const double d = distance(p, place);
        if (bounded ? lowest < 0 || z < level[static_cast<std::size_t>(lowest)]
                    : d < 10 && (lowest < 0 || z < level[static_cast<std::size_t>(lowest)]))
            lowest = i;
        nearest = std::min(nearest, d);
    }
    if (lowest < 0) {
        s.why = bounded ? "the ground is not known within the outline" : "the ground is not known there";
        return s;
    }
    // Filled from the lowest cell up, always over the lowest rim: each cell has the level at which water reaches it.
    std::vector<double> wet(level.size(), not_given);
    using Next = std::pair<double, int>;
    std::priority_queue<Next, std::vector<Next>, std::greater<>> open;
    open.push({level[static_cast<std::size_t>(lowest)], lowest});
    wet[static_cast<std::size_t>(lowest)] = level[static_cast<std::size_t>(lowest)];
    double water = level[static_cast<std::size_t>(lowest)];
    while (!open.empty()) {
        const auto [z, i] = open.top();
        open.pop();
        water = std::max(water, z);
        const int c = i % g.columns, r = i / g.columns;
        for (const auto& [dc, dr] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}}) {
            const int cc = c + dc, rr = r + dr;
            const bool out = cc < 0 || rr < 0 || cc >= g.columns || rr >= g.rows;
            const std::size_t k = out ? 0 : static_cast<std::size_t>(rr * g.columns + cc);
            if (out || std::isnan(level[k])) {
                if (!(s.spills <= water)) s.spills = water;
                continue;
            }
            if (!std::isnan(wet[k])) continue;
            wet[k] = std::max(level[k], water);
            open.push({wet[k], static_cast<int>(k)});
        }
    }
    std::vector<double> reached;
    for (const double z : wet)
        if (!std::isnan(z)) reached.push_back(z);
    std::sort(reached.begin(), reached.end());
    if (std::isnan(low)) low = reached.front();
    if (std::isnan(high)) high = bounded ? reached.back() : s.spills;
    if (!(high > low + 0.01)) {
        s.why = "water would run off at once: the ground holds none there";
        return s;
    }
    for (int i = 0; i <= steps; ++i) {
        const double z = low + (high - low) * i / steps;
        const auto n = std::upper_bound(reached.begin(), reached.end(), z) - reached.begin();
        s.levels.push_back(std::round(z * 1000) / 1000);
        s.areas.push_back(std::round(static_cast<double>(n) * g.cell * g.cell * 10) / 10);
    }
    return s;
}

Edit take_space(const Project& project, std::uint64_t pond, const GroundSpace& space) {
    Editing e(project, "Space of " + element_name(project, Kind::Pond, pond) + " from the ground");
    if (space.levels.size() < 2) return e.take();
    e.set(Kind::Pond, pond, "storage_by", static_cast<int>(StorageBy::Areas), Origin::Ground);
    e.set(Kind::Pond, pond, "levels", space.levels, Origin::Ground);
    e.set(Kind::Pond, pond, "areas", space.areas, Origin::Ground);
    return e.take();
}

CutFill cut_and_fill(const Ground& ground, const Pond& pond) {
    CutFill c;
    const double crest = pond.crest, bottom = pond.bottom, sides = std::isnan(pond.sides) ? 0 : pond.sides;
    if (pond.outline.size() < 3) c.why = "the outline of its bottom is not drawn";
    else if (ground.empty()) c.why = "the project has no surface of the ground";
    else if (!(crest > bottom)) c.why = "its crest and its bottom are not given";
    if (!c.why.empty()) return c;
    const std::vector<Point> all = grown_outline(pond.outline, sides * (crest - bottom));
    const Grid g = grid_over(all, 200);
    Ground::Cursors cursors;
    int unknown = 0, seen = 0;
    for (int i = 0; i < g.count(); ++i) {
        const Point p = g.at(i);
        if (!inside(p, all)) continue;
        ++seen;
        const double z = ground.elevation(p, cursors);
        if (std::isnan(z)) {
            ++unknown;
            continue;
        }
        const double rise = inside(p, pond.outline) || sides <= 0 ? 0 : to_line(p, pond.outline) / sides;
        const double level = std::min(crest, bottom + rise), dz = z - level, cell = g.cell * g.cell;
        (dz > 0 ? c.cut : c.fill) += std::abs(dz) * cell;
        c.area += cell;
    }
    if (unknown * 50 > seen) c.why = "the ground is not known under all of it";
    return c;
}

Edit fill_gaps(const Project& project, std::uint64_t pond, double up_to) {
    Editing e(project, "Fill the gaps of " + element_name(project, Kind::Pond, pond));
    const Pond* p = project.ponds.find(pond);
    if (!p || (p->storage_by != StorageBy::Areas && p->storage_by != StorageBy::Volumes) || p->levels.size() < 2)
        return e.take();
    std::vector<double> levels = p->levels, areas = p->areas, volumes = p->volumes;
    double low = levels.front();
    for (const PondOutlet& o : project.outlets)
        if (o.structure == p->structure)
            if (const auto w = way_of(o, up_to)) low = std::min(low, lowest_way({&*w, 1}));
    const bool by_area = p->storage_by == StorageBy::Areas;
    if ((by_area ? areas : volumes).size() != levels.size()) return e.take();
    if (low < levels.front() - 1e-9) {
        levels.insert(levels.begin(), low);
        if (by_area) areas.insert(areas.begin(), areas.front());
        else {  // as wide as above
            const double wide = (volumes[1] - volumes[0]) / (levels[2] - levels[1]);
            for (double& v : volumes) v += wide * (levels[1] - low);
            volumes.insert(volumes.begin(), 0);
        }
    }
    if (up_to > levels.back() + 1e-9) {
        const std::size_t n = levels.size();
        if (by_area) areas.push_back(areas.back());
        else
            volumes.push_back(volumes.back() + (volumes[n - 1] - volumes[n - 2]) / (levels[n - 1] - levels[n - 2]) *
                                                   (up_to - levels[n - 1]));
        levels.push_back(up_to);
    }
    if (levels.size() == p->levels.size()) return e.take();
    e.set(Kind::Pond, pond, "levels", levels, Origin::Proposed);
    if (by_area) e.set(Kind::Pond, pond, "areas", areas, Origin::Proposed);
    else e.set(Kind::Pond, pond, "volumes", volumes, Origin::Proposed);
    return e.take();
}

}  // namespace culvert
