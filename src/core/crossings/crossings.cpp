// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/crossings/crossings.h"

#include <algorithm>
#include <cmath>

#include "core/geometry/box_index.h"

namespace culvert {
namespace {

struct Segment {
    std::size_t line = 0, at = 0;  ///< from point `at` to the next
    double start = 0;              ///< m along the line
};

Point plan(const SpacePoint& p) { return {p.x, p.y}; }

std::vector<Segment> segments_of(std::span<const SpaceLine> lines) {
    std::vector<Segment> out;
    for (std::size_t l = 0; l < lines.size(); ++l) {
        double along = 0;
        for (std::size_t i = 0; i + 1 < lines[l].points.size(); ++i) {
            out.push_back({l, i, along});
            along += distance(plan(lines[l].points[i]), plan(lines[l].points[i + 1]));
        }
    }
    return out;
}
BoundingBox box_of(const SpacePoint& a, const SpacePoint& b, double more) {
    return {std::min(a.x, b.x) - more, std::min(a.y, b.y) - more, std::max(a.x, b.x) + more, std::max(a.y, b.y) + more};
}

/// Two segments of two lines.
class Pair {
  public:
    Pair(const SpaceLine& first, const Segment& s, const SpaceLine& second, const Segment& t)
        : first_(first),
          second_(second),
          s_(s),
          t_(t),
          a_(first.points[s.at]),
          b_(first.points[s.at + 1]),
          c_(second.points[t.at]),
          d_(second.points[t.at + 1]) {}

    /// The crossing, or else the place of least vertical gap among those within reach; false: not near.
    bool find(double reach, NearPlace& out) const {
        double p = 0, q = 0;
        if (crossing(plan(a_), plan(b_), plan(c_), plan(d_), p, q)) {
            out = place(p, q);
            out.crosses = true;
            return true;
        }
        bool found = false;
        const auto take = [&](double u, double v) {
            const NearPlace here = place(u, v);
            if (here.horizontal > reach) return;
            if (!found || better(here, out)) out = here;
            found = true;
        };
        take(0, foot(a_, c_, d_));
        take(1, foot(b_, c_, d_));
        take(foot(c_, a_, b_), 0);
        take(foot(d_, a_, b_), 1);
        return found;
    }
    /// Nearer in height; where that is not known, in plan.
    static bool better(const NearPlace& x, const NearPlace& y) {
        if (std::isnan(x.vertical) || std::isnan(y.vertical) || x.vertical == y.vertical)
            return x.horizontal < y.horizontal;
        return x.vertical < y.vertical;
    }

  private:
    static double foot(const SpacePoint& p, const SpacePoint& a, const SpacePoint& b) {
        const double x = b.x - a.x, y = b.y - a.y, l = x * x + y * y;
        return l > 0 ? std::clamp(((p.x - a.x) * x + (p.y - a.y) * y) / l, 0.0, 1.0) : 0;
    }
    [[nodiscard]] NearPlace place(double p, double q) const {
        const SpacePoint on{a_.x + p * (b_.x - a_.x), a_.y + p * (b_.y - a_.y), a_.z + p * (b_.z - a_.z)},
            other{c_.x + q * (d_.x - c_.x), c_.y + q * (d_.y - c_.y), c_.z + q * (d_.z - c_.z)};
        NearPlace n;
        n.first = s_.line;
        n.second = t_.line;
        n.along_first = s_.start + p * distance(plan(a_), plan(b_));
        n.along_second = t_.start + q * distance(plan(c_), plan(d_));
        n.at = plan(on);
        n.vertical = std::abs(on.z - other.z) - first_.half_height - second_.half_height;
        n.horizontal = distance(plan(on), plan(other)) - first_.half_width - second_.half_width;
        n.second_above = other.z > on.z;
        return n;
    }

    const SpaceLine &first_, &second_;
    const Segment &s_, &t_;
    const SpacePoint &a_, &b_, &c_, &d_;
};

}  // namespace

std::vector<NearPlace> near_places(std::span<const SpaceLine> first, std::span<const SpaceLine> second, double reach,
                                   bool same) {
    const std::vector<Segment> mine = segments_of(first), others = segments_of(second);
    double widest = 0;
    for (const SpaceLine& l : second) widest = std::max(widest, l.half_width);
    std::vector<BoundingBox> boxes;
    boxes.reserve(others.size());
    for (const Segment& s : others) {
        const SpaceLine& l = second[s.line];
        boxes.push_back(box_of(l.points[s.at], l.points[s.at + 1], 0));
    }
    const BoxIndex index(boxes);
    std::vector<NearPlace> crossings, beside;
    std::vector<std::size_t> hits;
    for (const Segment& s : mine) {
        const SpaceLine& l = first[s.line];
        index.meeting(box_of(l.points[s.at], l.points[s.at + 1], reach + l.half_width + widest), hits);
        for (const std::size_t hit : hits) {
            const Segment& t = others[hit];
            if (same && t.line <= s.line) continue;
            NearPlace here;
            if (Pair(l, s, second[t.line], t).find(reach, here)) (here.crosses ? crossings : beside).push_back(here);
        }
    }
    // A crossing in a corner belongs to two segments; of a pair beside each other one place stands for all.
    const auto order = [](const NearPlace& x, const NearPlace& y) {
        return std::tie(x.first, x.second, x.along_first) < std::tie(y.first, y.second, y.along_first);
    };
    std::sort(crossings.begin(), crossings.end(), order);
    crossings.erase(std::unique(crossings.begin(), crossings.end(),
                                [](const NearPlace& x, const NearPlace& y) {
                                    return x.first == y.first && x.second == y.second &&
                                           y.along_first - x.along_first < 1e-6;
                                }),
                    crossings.end());
    std::sort(beside.begin(), beside.end(), order);
    std::vector<NearPlace> out = crossings;
    for (std::size_t i = 0; i < beside.size();) {
        std::size_t end = i;
        NearPlace best = beside[i];
        for (; end < beside.size() && beside[end].first == best.first && beside[end].second == best.second; ++end)
            if (Pair::better(beside[end], best)) best = beside[end];
        i = end;
        const auto known =
            std::lower_bound(crossings.begin(), crossings.end(), best, [](const NearPlace& x, const NearPlace& y) {
                return std::tie(x.first, x.second) < std::tie(y.first, y.second);
            });
        if (known == crossings.end() || known->first != best.first || known->second != best.second) out.push_back(best);
    }
    std::sort(out.begin(), out.end(), order);
    return out;
}

}  // namespace culvert
