// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/streets/street.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace culvert {

std::vector<SectionCorner> section_corners(const StreetShape& s) {
    const double lane = -s.lane_width * s.cross_slope, gutter = lane - s.gutter_width * s.gutter_slope,
                 curb = gutter + s.curb_height, verge = curb + s.verge_width * s.verge_slope;
    const std::vector<SectionCorner> right{
        {s.lane_width, lane}, {s.to_curb(), gutter}, {s.to_curb(), curb}, {s.half_width(), verge}};
    std::vector<SectionCorner> all;
    for (auto c = right.rbegin(); c != right.rend(); ++c) all.push_back({-c->offset, c->height});
    all.push_back({0, 0});
    all.insert(all.end(), right.begin(), right.end());
    return all;
}

double height_at(const StreetShape& s, double offset) {
    const double o = std::abs(offset), lane = -s.lane_width * s.cross_slope;
    if (o <= s.lane_width) return -o * s.cross_slope;
    const double gutter = lane - s.gutter_width * s.gutter_slope;
    if (o <= s.to_curb()) return lane - (o - s.lane_width) * s.gutter_slope;
    return gutter + s.curb_height + std::min(o - s.to_curb(), s.verge_width) * s.verge_slope;
}

std::vector<Point> parallel(std::span<const Point> given, double offset) {
    std::vector<Point> line;
    for (const Point& p : given)
        if (line.empty() || !(line.back() == p)) line.push_back(p);
    std::vector<Point> out;
    if (line.size() < 2) return out;
    const auto normal = [&](std::size_t i) {  // to the right of segment i
        const double dx = line[i + 1].x - line[i].x, dy = line[i + 1].y - line[i].y, l = std::hypot(dx, dy);
        return Point{dy / l, -dx / l};
    };
    constexpr double most_mitre = 3;
    for (std::size_t i = 0; i < line.size(); ++i) {
        const Point before = normal(i == 0 ? 0 : i - 1), after = normal(i + 1 == line.size() ? i - 1 : i);
        const double dot = before.x * after.x + before.y * after.y;
        // The mitre: both normals' sum, as long as 1 / cos of half the turn.
        double k = 1 / std::max(1 + dot, 1e-9);
        k = std::min(k, most_mitre / std::max(std::hypot(before.x + after.x, before.y + after.y), 1e-9));
        out.push_back({line[i].x + offset * k * (before.x + after.x), line[i].y + offset * k * (before.y + after.y)});
    }
    return out;
}

double level_at(const StreetProfile& p, double station) {
    if (p.empty()) return std::numeric_limits<double>::quiet_NaN();
    const auto next =
        std::upper_bound(p.begin(), p.end(), station, [](double s, const StreetPoint& q) { return s < q.station; });
    if (next == p.begin()) return p.front().level;
    if (next == p.end()) return p.back().level;
    const StreetPoint &a = *(next - 1), &b = *next;
    return a.level + (b.level - a.level) * (station - a.station) / (b.station - a.station);
}

double grade_at(const StreetProfile& p, double station) {
    if (p.size() < 2) return 0;
    auto next =
        std::upper_bound(p.begin(), p.end(), station, [](double s, const StreetPoint& q) { return s < q.station; });
    if (next == p.begin()) ++next;
    if (next == p.end()) --next;
    const StreetPoint &a = *(next - 1), &b = *next;
    return b.station > a.station ? (b.level - a.level) / (b.station - a.station) : 0;
}

double grade_to(const StreetProfile& profile, double station) {
    constexpr double near = 1e-6;
    const double before = -grade_at(profile, station - near), after = grade_at(profile, station + near);
    if (before > 0 && !(after > 0)) return before;
    if (after > 0 && !(before > 0)) return after;
    const double a = std::abs(before), b = std::abs(after);
    return a > 0 && b > 0 ? std::min(a, b) : std::max(a, b);
}

namespace {

/// Indexes of the points kept so that the level is nowhere farther off than the tolerance; ends and `fixed` stay.
std::vector<std::size_t> kept(const StreetProfile& p, double tolerance, const std::vector<std::size_t>& fixed) {
    std::vector<std::size_t> out;
    const auto between = [&](auto&& self, std::size_t a, std::size_t b) -> void {
        double worst = tolerance;
        std::size_t at = 0;
        for (std::size_t i = a + 1; i < b; ++i) {
            const double t = (p[i].station - p[a].station) / (p[b].station - p[a].station);
            const double off = std::abs(p[i].level - p[a].level - t * (p[b].level - p[a].level));
            if (off > worst) {
                worst = off;
                at = i;
            }
        }
        if (!at) return;
        self(self, a, at);
        out.push_back(at);
        self(self, at, b);
    };
    for (std::size_t k = 0; k + 1 < fixed.size(); ++k) {
        out.push_back(fixed[k]);
        between(between, fixed[k], fixed[k + 1]);
    }
    out.push_back(fixed.back());
    return out;
}

}  // namespace

std::vector<MarkedPlace> marked_places(const StreetProfile& given, double least_depth, double least_break) {
    StreetProfile p;
    for (const StreetPoint& q : given)
        if (!std::isnan(q.level) && (p.empty() || q.station > p.back().station)) p.push_back(q);
    std::vector<MarkedPlace> out;
    if (p.size() < 3) return out;
    // Turning points whose rise and fall to the next are at least the least depth.
    std::vector<std::size_t> turns{0};
    std::size_t low = 0, high = 0;  // the extremes since the last turn
    int way = 0;                    // +1 rising, -1 falling, 0 not known yet
    const auto far = [&](double from, double to) { return to - from >= least_depth && to > from; };
    for (std::size_t i = 1; i < p.size(); ++i) {
        if (p[i].level < p[low].level) low = i;
        if (p[i].level > p[high].level) high = i;
        const bool rises = far(p[low].level, p[i].level), falls = far(p[i].level, p[high].level);
        if (way <= 0 && rises) {
            if (way < 0) turns.push_back(low);
            way = 1;
            high = low = i;
        } else if (way >= 0 && falls) {
            if (way > 0) turns.push_back(high);
            way = -1;
            high = low = i;
        } else if (way > 0 && high == i) low = i;
        else if (way < 0 && low == i) high = i;
    }
    turns.push_back(p.size() - 1);
    const std::vector<std::size_t> keep = kept(p, least_depth / 2, turns);
    const auto grade = [&](std::size_t a, std::size_t b) {
        return (p[b].level - p[a].level) / (p[b].station - p[a].station);
    };
    for (std::size_t k = 1; k + 1 < keep.size(); ++k) {
        const double before = grade(keep[k - 1], keep[k]), after = grade(keep[k], keep[k + 1]);
        const bool turn = std::find(turns.begin(), turns.end(), keep[k]) != turns.end();
        if (!turn && std::abs(after - before) < least_break) continue;
        const ProfileMark mark =
            !turn ? ProfileMark::GradeBreak : (before < after ? ProfileMark::Low : ProfileMark::High);
        out.push_back({mark, p[keep[k]].station, p[keep[k]].level, before, after});
    }
    return out;
}

}  // namespace culvert
