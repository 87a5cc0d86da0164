// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <cmath>
#include <map>
#include <queue>

#include "core/base/contract.h"
#include "core/terrain/contours.h"
#include "core/terrain/drainage.h"

namespace culvert {
namespace {

/// The outer ring of the cells with a label: walked with the label on the left, corner by corner.
std::vector<Point> ring_of(const std::vector<std::int32_t>& label, int columns, int rows, std::int32_t wanted,
                           int start, const Terrain::Box& box, double cell) {
    const auto is = [&](int c, int r) {
        return c >= 0 && r >= 0 && c < columns && r < rows && nth(label, r * columns + c) == wanted;
    };
    // `start` is the lowest, then leftmost cell of its part: its lower left corner is on the outer ring.
    int x = start % columns, y = start / columns, dx = 1, dy = 0;
    const int x0 = x, y0 = y;
    std::vector<Point> ring;
    do {
        ring.push_back({box.left + x * cell, box.bottom + y * cell});
        x += dx;
        y += dy;
        // Cells ahead to the left and to the right of the corner we stand on.
        const auto ahead = [&](bool left) {
            const int lx = left ? -dy : dy, ly = left ? dx : -dx;
            return is(x + (dx + lx - 1) / 2, y + (dy + ly - 1) / 2);
        };
        if (ahead(false)) {  // turn right
            const int t = dx;
            dx = dy;
            dy = -t;
        } else if (!ahead(true)) {  // turn left
            const int t = dx;
            dx = -dy;
            dy = t;
        }
    } while (x != x0 || y != y0 || dx != 1 || dy != 0);
    return ring;
}

}  // namespace

std::vector<ProposedArea> propose_areas(const Ground& ground, const Terrain::Box& box, const std::vector<Point>& sinks,
                                        double cell, const std::stop_token& stop) {
    std::vector<ProposedArea> out;
    if (!(cell > 0) || sinks.empty() || ground.empty()) return out;
    const int columns = static_cast<int>((box.right - box.left) / cell) + 1,
              rows = static_cast<int>((box.top - box.bottom) / cell) + 1;
    const auto count = static_cast<std::size_t>(columns) * static_cast<std::size_t>(rows);
    std::vector<double> level(count);
    Ground::Cursors cursors;
    for (int r = 0; r < rows; ++r) {
        if (stop.stop_requested()) return {};
        for (int c = 0; c < columns; ++c)
            nth(level, r * columns + c) =
                ground.elevation({box.left + (c + 0.5) * cell, box.bottom + (r + 0.5) * cell}, cursors);
    }
    // A flood from the sinks and from the edge of the surface at once: each cell belongs to what flooded it first.
    constexpr std::int32_t nobody = -1, outside = -2;
    std::vector<std::int32_t> label(count, nobody);
    std::vector<char> done(count, 0);
    struct Item {
        double level, fall;
        std::int32_t at, label;
        bool operator<(const Item& o) const { return std::tuple(level, fall, at) > std::tuple(o.level, o.fall, o.at); }
    };
    std::priority_queue<Item> queue;
    for (std::size_t s = 0; s < sinks.size(); ++s) {
        // An inlet takes what comes within a cell and a half of it.
        const double reach = 1.5 * cell;
        for (int r = std::max(0, static_cast<int>((sinks[s].y - reach - box.bottom) / cell));
             r < rows && box.bottom + r * cell < sinks[s].y + reach; ++r)
            for (int c = std::max(0, static_cast<int>((sinks[s].x - reach - box.left) / cell));
                 c < columns && box.left + c * cell < sinks[s].x + reach; ++c) {
                const auto at =
                    static_cast<std::size_t>(r) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(c);
                const double away =
                    std::hypot(box.left + (c + 0.5) * cell - sinks[s].x, box.bottom + (r + 0.5) * cell - sinks[s].y);
                if (away <= reach && !std::isnan(level[at]))
                    queue.push({level[at], -1e9 + away, static_cast<std::int32_t>(at), static_cast<std::int32_t>(s)});
            }
    }
    const auto edge = [&](int c, int r) {
        for (int dy = -1; dy <= 1; ++dy)
            for (int dx = -1; dx <= 1; ++dx) {
                const int x = c + dx, y = r + dy;
                if (x < 0 || y < 0 || x >= columns || y >= rows || std::isnan(nth(level, y * columns + x))) return true;
            }
        return false;
    };
    for (int r = 0; r < rows; ++r)
        for (int c = 0; c < columns; ++c)
            if (const auto at =
                    static_cast<std::size_t>(r) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(c);
                !std::isnan(level[at]) && edge(c, r))
                queue.push({level[at], 0, static_cast<std::int32_t>(at), outside});
    while (!queue.empty()) {
        const Item i = queue.top();
        queue.pop();
        const auto at = static_cast<std::size_t>(i.at);
        if (done[at]) continue;
        done[at] = 1;
        label[at] = i.label;
        const int c = i.at % columns, r = i.at / columns;
        for (int dy = -1; dy <= 1; ++dy)
            for (int dx = -1; dx <= 1; ++dx) {
                const int x = c + dx, y = r + dy;
                if ((!dx && !dy) || x < 0 || y < 0 || x >= columns || y >= rows) continue;
                const auto n =
                    static_cast<std::size_t>(y) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(x);
                if (done[n] || std::isnan(level[n])) continue;
                // Of the cells that could flood it at one level, the one it falls to steepest does.
                const double fall = (level[n] - level[at]) / (cell * std::hypot(dx, dy));
                queue.push({std::max(i.level, level[n]), -fall, static_cast<std::int32_t>(n), i.label});
            }
    }
    // The largest part of each label, its ring simplified within a cell.
    std::vector<std::int32_t> part(count, -1);
    struct Part {
        std::int32_t label;
        int start;
        std::size_t size;
    };
    std::vector<Part> parts;
    for (std::size_t s = 0; s < count; ++s) {
        if (label[s] < 0 || part[s] >= 0) continue;
        const auto id = static_cast<std::int32_t>(parts.size());
        parts.push_back({label[s], static_cast<int>(s), 0});
        std::vector<std::size_t> work{s};
        part[s] = id;
        for (std::size_t i = 0; i < work.size(); ++i) {
            const int c = static_cast<int>(work[i]) % columns, r = static_cast<int>(work[i]) / columns;
            for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}}) {
                const int x = c + dx, y = r + dy;
                if (x < 0 || y < 0 || x >= columns || y >= rows) continue;
                const auto n =
                    static_cast<std::size_t>(y) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(x);
                if (part[n] < 0 && label[n] == label[s]) {
                    part[n] = id;
                    work.push_back(n);
                }
            }
        }
        parts.back().size = work.size();
    }
    std::map<std::int32_t, std::size_t> largest;
    for (std::size_t p = 0; p < parts.size(); ++p)
        if (const auto it = largest.find(parts[p].label); it == largest.end() || parts[it->second].size < parts[p].size)
            largest[parts[p].label] = p;
    for (const auto& [sink, p] : largest) {
        std::vector<Point> ring = ring_of(part, columns, rows, static_cast<std::int32_t>(p), parts[p].start, box, cell);
        ring.push_back(ring.front());
        // Split at the far corner, so that both halves have ends to hold on to.
        const auto far = std::max_element(
            ring.begin(), ring.end(), [&](Point a, Point b) { return distance(a, ring[0]) < distance(b, ring[0]); });
        std::vector<Point> first = simplified({ring.begin(), far + 1}, cell * 0.75),
                           second = simplified({far, ring.end()}, cell * 0.75);
        first.insert(first.end(), second.begin() + 1, second.end() - 1);
        if (first.size() < 3) continue;
        out.push_back({static_cast<std::size_t>(sink), first, culvert::area(first)});
    }
    return out;
}

}  // namespace culvert
