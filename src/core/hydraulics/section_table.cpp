// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydraulics/section_table.h"

#include <algorithm>
#include <cmath>
#include <list>
#include <mutex>
#include <numbers>

namespace culvert {
namespace {

using std::numbers::pi;
constexpr int corners = 480;

/// An arc of a circle or ellipse about a centre, from one angle to another, without its first point.
void arc(std::vector<OutlinePoint>& out, OutlinePoint centre, double rx, double ry, double from, double to, int steps) {
    for (int i = 1; i <= steps; ++i) {
        const double a = from + (to - from) * i / steps;
        out.push_back({centre.x + rx * std::cos(a), centre.y + ry * std::sin(a)});
    }
}

struct Outline {
    std::vector<OutlinePoint> points;
    bool open = false;
    double area = 0;  ///< of the curve; 0: the outline is what is meant
};

Outline outline_of(const Ellipse& e) {
    Outline o;
    o.points.push_back({0, 0});
    arc(o.points, {0, e.height / 2}, e.width / 2, e.height / 2, -pi / 2, 1.5 * pi, corners);
    o.points.back() = {0, 0};
    o.area = pi * e.width * e.height / 4;
    return o;
}
Outline outline_of(const Arch& a) {
    Outline o;
    o.points = {{-a.width / 2, 0}, {a.width / 2, 0}};
    arc(o.points, {0, 0}, a.width / 2, a.height, 0, pi, corners / 2);
    o.points.back() = o.points.front();
    o.area = pi * a.width * a.height / 4;
    return o;
}
Outline outline_of(const Egg& e) {
    // With r = w/2 = h/3: top circle r about (0, 2r), bottom circle r/2 about (0, r/2), sides 3r about (-+2r, 2r).
    const double r = e.height / 3;
    Outline o;
    // The sides meet the bottom circle where the line of both centres does: tan of it is (2r - r/2) / 2r.
    const double meet = std::atan2(-1.5, 2.0);  // seen from the centre of the bottom circle, below the horizontal
    o.points.push_back({0, 0});
    arc(o.points, {0, r / 2}, r / 2, r / 2, -pi / 2, meet, corners / 8);
    arc(o.points, {-2 * r, 2 * r}, 3 * r, 3 * r, meet, 0, corners / 4);
    arc(o.points, {0, 2 * r}, r, r, 0, pi, corners / 2);
    arc(o.points, {2 * r, 2 * r}, 3 * r, 3 * r, pi, pi - meet, corners / 4);
    arc(o.points, {0, r / 2}, r / 2, r / 2, pi - meet, 1.5 * pi, corners / 8);
    o.points.back() = {0, 0};
    // Half circle above; below it two sectors of the sides less the triangle between their centres and the bottom's,
    // and the sector of the bottom.
    const double t = -meet;
    const double sides = 2 * (0.5 * 9 * r * r * t) - 2 * (0.5 * 2 * r * 1.5 * r);
    const double bottom = 0.5 * r * r / 4 * (pi - 2 * t);
    o.area = pi * r * r / 2 + sides + bottom;
    return o;
}
Outline outline_of(const OpenTrapezoid& t) {
    const double foot = t.width / 2, top = foot + t.sides * t.height;
    Outline o{{{-top, t.height}, {-foot, 0}, {foot, 0}, {top, t.height}}, true, 0};
    if (t.width == 0) o.points.erase(o.points.begin() + 1);
    return o;
}
Outline outline_of(const HalfRound& h) {
    const double r = h.width / 2;
    Outline o{{}, true, 0};
    if (h.height > r) o.points.push_back({-r, h.height});
    const double angle = h.height >= r ? 0 : std::asin((r - h.height) / r);
    o.points.push_back({-r * std::cos(angle), std::min(h.height, r)});
    arc(o.points, {0, r}, r, r, pi + angle, 2 * pi - angle, corners / 2);
    if (h.height > r) o.points.push_back({r, h.height});
    const double phi = pi / 2 - angle;  // half angle of the wetted segment
    o.area = r * r * (phi - std::sin(phi) * std::cos(phi)) + 2 * r * std::max(h.height - r, 0.0);
    return o;
}
Outline outline_of(const CustomOutline& c) {
    Outline o{c.points, !(c.points.front() == c.points.back()), 0};
    double low = c.points.front().y;
    for (const OutlinePoint& p : c.points) low = std::min(low, p.y);
    for (OutlinePoint& p : o.points) p.y -= low;
    return o;
}

bool cross(OutlinePoint a, OutlinePoint b, OutlinePoint c, OutlinePoint d) {
    const auto turn = [](OutlinePoint p, OutlinePoint q, OutlinePoint r) {
        return (q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x);
    };
    return turn(a, b, c) * turn(a, b, d) < 0 && turn(c, d, a) * turn(c, d, b) < 0;
}

}  // namespace

std::string outline_fault(std::span<const OutlinePoint> p) {
    if (p.size() < 3) return "it has " + std::to_string(p.size()) + " points: three at the least make a section";
    for (const OutlinePoint& q : p)
        if (!std::isfinite(q.x) || !std::isfinite(q.y) || std::abs(q.x) > 1000 || std::abs(q.y) > 1e4)
            return "a point lies out of reach";
    double low = p[0].y, high = p[0].y;
    for (const OutlinePoint& q : p) low = std::min(low, q.y), high = std::max(high, q.y);
    if (high - low < 1e-3) return "it is flat: it holds no water";
    if (p.front() == p.back()) {
        for (std::size_t i = 0; i + 1 < p.size(); ++i)
            for (std::size_t k = i + 2; k + 1 < p.size(); ++k)
                if (cross(p[i], p[i + 1], p[k], p[k + 1]))
                    return "it folds over: pieces " + std::to_string(i + 1) + " and " + std::to_string(k + 1) +
                           " cross";
        return {};
    }
    for (std::size_t i = 1; i < p.size(); ++i)
        if (p[i].x < p[i - 1].x)
            return "it folds over: point " + std::to_string(i + 1) + " lies left of the one before it";
    if (p.back().x <= p.front().x) return "it has no width";
    if (std::min(p.front().y, p.back().y) - low < 1e-3)
        return "one of its banks is its lowest point: it holds no water";
    return {};
}

SectionTable::SectionTable(SectionForm form) : form_(std::move(form)) {
    Outline o = std::visit([](const auto& f) { return outline_of(f); }, form_);
    outline_ = std::move(o.points);
    open_ = o.open;
    build(1);
    if (o.area > 0) build(o.area / full_.area);
    find_peak();
}

void SectionTable::build(double scale) {
    bands_.clear();
    full_ = {};
    width_ = 0;
    double top = 0;
    for (const OutlinePoint& p : outline_) top = std::max(top, p.y);
    height_ = open_ ? std::min(outline_.front().y, outline_.back().y) : top;
    std::vector<double> levels{0, height_};
    for (const OutlinePoint& p : outline_)
        if (p.y > 0 && p.y < height_) levels.push_back(p.y);
    std::sort(levels.begin(), levels.end());
    levels.erase(std::unique(levels.begin(), levels.end(), [&](double a, double b) { return b - a < 1e-12 * height_; }),
                 levels.end());
    levels.back() = height_;
    struct Edge {
        OutlinePoint low, high;
        double length;
    };
    std::vector<Edge> edges;
    for (std::size_t i = 0; i + 1 < outline_.size(); ++i) {
        OutlinePoint a = outline_[i], b = outline_[i + 1];
        if (b.y < a.y) std::swap(a, b);
        edges.push_back({a, b, std::hypot(b.x - a.x, b.y - a.y)});
    }
    const double small = 1e-9 * height_;
    /// Width at a level that lies inside the band whose middle is given: edges are told by the middle.
    const auto width_at = [&](double y, double middle) {
        if (open_) {
            double t = 0;
            for (const Edge& e : edges) {
                if (e.high.y <= middle) t += std::abs(e.high.x - e.low.x);
                else if (e.low.y < middle) t += std::abs(e.high.x - e.low.x) * (y - e.low.y) / (e.high.y - e.low.y);
            }
            return t;
        }
        std::vector<double> at;
        for (const Edge& e : edges)
            if (e.low.y < middle && e.high.y > middle)
                at.push_back(e.low.x + (e.high.x - e.low.x) * (y - e.low.y) / (e.high.y - e.low.y));
        std::sort(at.begin(), at.end());
        double t = 0;
        for (std::size_t i = 0; i + 1 < at.size(); i += 2) t += at[i + 1] - at[i];
        return t;
    };
    const auto perimeter_at = [&](double y, double middle) {
        double p = 0;
        for (const Edge& e : edges) {
            if (e.high.y <= middle) p += e.length;
            else if (e.low.y < middle) p += e.length * (y - e.low.y) / (e.high.y - e.low.y);
        }
        return p;
    };
    Row foot;
    for (std::size_t i = 0; i + 1 < levels.size(); ++i) {
        const double y0 = levels[i], y1 = levels[i + 1], middle = (y0 + y1) / 2, h = y1 - y0;
        Band b{};
        b.y = y0;
        b.height = h;
        b.top0 = scale * std::max(0.0, width_at(y0, middle));
        b.top1 = scale * std::max(0.0, width_at(y1, middle));
        b.area = foot.area;
        b.perimeter = perimeter_at(y0, middle);
        b.rise = perimeter_at(y1, middle) - b.perimeter;
        b.moment = foot.moment;
        width_ = std::max({width_, b.top0, b.top1});
        bands_.push_back(b);
        foot.area += h * (b.top0 + b.top1) / 2;
        // Of a trapezoid about the lowest point.
        foot.moment += h * (b.top0 * (y0 / 2 + h / 6) + b.top1 * (y0 / 2 + h / 3));
    }
    full_.area = foot.area;
    full_.moment = foot.moment;
    full_.perimeter = bands_.back().perimeter + bands_.back().rise;
    if (!open_)  // a flat lid is wetted when the section is full
        for (const Edge& e : edges)
            if (e.low.y > height_ - small && e.high.y > height_ - small) full_.perimeter += e.length;
    full_.top = 0;
}

SectionTable::Row SectionTable::at(double depth) const {
    if (depth <= 0) return {};
    if (depth >= height_) return full_;
    const auto next =
        std::upper_bound(bands_.begin(), bands_.end(), depth, [](double y, const Band& b) { return y < b.y; });
    const Band& b = *(next - 1);
    const double d = depth - b.y, u = d / b.height;
    Row r;
    r.top = b.top0 + (b.top1 - b.top0) * u;
    r.area = b.area + d * (b.top0 + r.top) / 2;
    r.perimeter = b.perimeter + b.rise * u;
    r.moment = b.moment + d * (b.top0 * (b.y / 2 + d / 6) + r.top * (b.y / 2 + d / 3));
    return r;
}

std::vector<double> SectionTable::levels() const {
    std::vector<double> out;
    for (const Band& b : bands_) out.push_back(b.y);
    out.push_back(height_);
    return out;
}

void SectionTable::find_peak() {
    const auto conveyance = [](const Row& r) {
        return r.perimeter > 0 ? r.area * std::cbrt(r.area / r.perimeter * (r.area / r.perimeter)) : 0;
    };
    const double full = conveyance(full_);
    peak_depth_ = height_;
    peak_ratio_ = 1;
    if (open_) return;
    double best = full;
    const int steps = 2000;
    int at = steps;
    for (int i = steps / 2; i < steps; ++i)
        if (const double k = conveyance(this->at(height_ * i / steps)); k > best) {
            best = k;
            at = i;
        }
    if (at == steps) return;
    double low = height_ * (at - 1) / steps, high = height_ * std::min(at + 1, steps) / steps;
    for (int i = 0; i < 80; ++i) {
        const double a = low + (high - low) / 3, b = high - (high - low) / 3;
        (conveyance(this->at(a)) < conveyance(this->at(b)) ? low : high) =
            conveyance(this->at(a)) < conveyance(this->at(b)) ? a : b;
    }
    peak_depth_ = (low + high) / 2;
    peak_ratio_ = std::max(best, conveyance(this->at(peak_depth_))) / full;
}

Shaped shaped(const SectionForm& form) {
    constexpr std::size_t kept = 64;
    static std::mutex guard;
    static std::list<std::shared_ptr<const SectionTable>> known;  // the last one asked for first
    {
        const std::lock_guard lock(guard);
        for (auto at = known.begin(); at != known.end(); ++at)
            if ((*at)->form() == form) {
                known.splice(known.begin(), known, at);
                return {known.front()};
            }
    }
    auto made = std::make_shared<const SectionTable>(form);
    const std::lock_guard lock(guard);
    known.push_front(made);
    if (known.size() > kept) known.pop_back();
    return {made};
}

}  // namespace culvert
