// SPDX-License-Identifier: GPL-3.0-or-later
#include "drawing/plan_sheet.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "core/base/numbers.h"
#include "core/geometry/box_index.h"
#include "core/model/lay.h"
#include "core/streets/street.h"

namespace culvert {
namespace {

constexpr double margin = 10, head = 12, letters = 2.5;  ///< mm
constexpr double paper_width = 400, paper_height = 277;  ///< mm: A3 with its borders
constexpr double usual_scales[] = {100,   200,   250,   500,   1000,   2000,   2500,  5000,
                                   10000, 20000, 25000, 50000, 100000, 200000, 500000};

class PlanDrawing {
  public:
    PlanDrawing(const Project& project, const PlanSheetOptions& options)
        : project_(project), options_(options), units_(units_of(project)) {}

    PlanSheet run() {
        if (!bounds()) return {};
        for (const Contour& c : options_.contours) line(Ink::Contour, c.line);
        for (const Catchment& c : project_.catchments)
            if (c.outline.size() > 2 && in_reach(c.outline)) {
                std::vector<Point> ring = c.outline;
                ring.push_back(ring.front());
                line(Ink::Catchment, ring, {Kind::Catchment, c.id});
            }
        for (const Street& s : project_.streets) street(s);
        for (const BuriedLine& l : project_.buried_lines)
            if (l.line.size() > 1 && in_reach(l.line)) line(Ink::BuriedLine, l.line, {Kind::BuriedLine, l.id});
        for (const Pipe& p : project_.pipes) pipe(p);
        for (const Structure& s : project_.structures)
            if (placed(s)) structure(s);
        // Names first, then what pipes are, then other lines: what comes first has room first.
        for (const Structure& s : project_.structures)
            if (placed(s)) name(s);
        for (const Pipe& p : project_.pipes) what(p);
        for (const BuriedLine& l : project_.buried_lines)
            if (l.line.size() > 1 && in_reach(l.line))
                label(place(middle_of(l.line)), l.name, Ink::BuriedLine, {Kind::BuriedLine, l.id});
        if (!options_.in_coordinates) frame();
        return std::move(out_);
    }

  private:
    bool bounds() {
        double x1 = -1e300, y1 = -1e300;
        const auto see = [&](Point p) {
            x0_ = std::min(x0_, p.x), x1 = std::max(x1, p.x);
            y0_ = std::min(y0_, p.y), y1 = std::max(y1, p.y);
        };
        for (const Structure& s : project_.structures)
            if (placed(s)) see({s.x, s.y});
        for (const Pipe& p : project_.pipes)
            if (in_reach(p.bends)) std::for_each(p.bends.begin(), p.bends.end(), see);
        for (const Catchment& c : project_.catchments)
            if (in_reach(c.outline)) std::for_each(c.outline.begin(), c.outline.end(), see);
        for (const Street& s : project_.streets)
            if (in_reach(s.line)) std::for_each(s.line.begin(), s.line.end(), see);
        if (x0_ > x1) return false;
        const double wide = std::max(x1 - x0_, 1.0), high = std::max(y1 - y0_, 1.0);
        out_.scale = options_.scale;
        if (!(out_.scale > 0)) {
            out_.scale = usual_scales[std::size(usual_scales) - 1];
            for (const double s : usual_scales)
                if (wide * 1000 / s <= paper_width - 2 * margin &&
                    high * 1000 / s <= paper_height - 2 * margin - head) {
                    out_.scale = s;
                    break;
                }
        }
        out_.width = wide * 1000 / out_.scale + 2 * margin;
        out_.height = high * 1000 / out_.scale + 2 * margin + head;
        metre_ = 1000 / out_.scale;  // mm of paper
        if (options_.in_coordinates) {
            metre_ = 1 / units_.unit(Quantity::Length).factor;
            out_.letters = letters * out_.scale / 1000 * metre_;
        }
        mm_ = options_.in_coordinates ? out_.scale / 1000 * metre_ : 1;
        return true;
    }
    /// Where a place of the project stands on the sheet.
    [[nodiscard]] Point place(Point p) const {
        if (options_.in_coordinates) return {p.x * metre_, p.y * metre_};
        return {margin + (p.x - x0_) * metre_, margin + (p.y - y0_) * metre_};
    }
    static Point middle_of(const std::vector<Point>& line) { return point_at(line, length(line) / 2, 0); }
    void line(Ink ink, const std::vector<Point>& points, ElementRef element = {}) {
        if (points.size() < 2) return;
        std::vector<Point> placed;
        for (const Point& p : points) placed.push_back(place(p));
        out_.list.push_back({Drawn::Type::Line, ink, std::move(placed), {}, element});
    }
    void drawn(Ink ink, std::vector<Point> points, ElementRef element) {
        out_.list.push_back({Drawn::Type::Line, ink, std::move(points), {}, element});
    }
    /// Words beside a place, at the first of four sides that is free; none: they are left out, and counted.
    void label(Point at, const std::string& words, Ink ink, ElementRef element) {
        if (words.empty()) return;
        std::size_t shown = 0;
        for (const char c : words) shown += (static_cast<unsigned char>(c) & 0xc0) != 0x80;
        const double w = static_cast<double>(shown) * 0.62 * letters * mm_, h = letters * mm_, gap = 1.6 * mm_;
        for (const auto& [dx, dy] :
             {std::pair{gap, gap / 2}, {-gap - w, gap / 2}, {gap, -gap / 2 - h}, {-gap - w, -gap / 2 - h}}) {
            const BoundingBox box{at.x + dx, at.y + dy, at.x + dx + w, at.y + dy + h};
            const bool off = !options_.in_coordinates && (box.left < 3 || box.right > out_.width - 3);
            if (off || !take(box)) continue;
            out_.list.push_back({Drawn::Type::Text, ink, {{box.left, box.low}}, words, element});
            return;
        }
        ++out_.labels_left;
    }
    /// Whether a box is free; it is taken then. Boxes stand in cells of a net as wide as a label.
    bool take(const BoundingBox& box) {
        const double cell = 30 * mm_;
        const auto at = [cell](double v) { return static_cast<long>(std::floor(v / cell)); };
        for (long i = at(box.left); i <= at(box.right); ++i)
            for (long j = at(box.low); j <= at(box.high); ++j)
                for (const BoundingBox& b : taken_[{i, j}])
                    if (b.left < box.right && box.left < b.right && b.low < box.high && box.low < b.high) return false;
        for (long i = at(box.left); i <= at(box.right); ++i)
            for (long j = at(box.low); j <= at(box.high); ++j) taken_[{i, j}].push_back(box);
        return true;
    }

    void street(const Street& s) {
        if (s.line.size() < 2 || !in_reach(s.line)) return;
        for (const double off : {-s.to_curb(), s.to_curb()})
            line(Ink::Street, parallel(s.line, off), {Kind::Street, s.id});
    }
    void pipe(const Pipe& p) {
        const std::vector<Point> way = pipe_line(project_, p);
        if (way.size() < 2) return;
        constexpr Ink inks[] = {Ink::BarrelUnknown, Ink::BarrelWithin, Ink::BarrelNear, Ink::BarrelBeyond};
        Verdict v = Verdict::Unknown;
        bool against = false;
        if (options_.result && options_.result->network) {
            const ElementRef self{Kind::Pipe, p.id};
            if (options_.review) v = options_.review->of(*options_.result->network, self);
            const int at = options_.result->network->link_of(PipeId{p.id});
            if (at != no_link) {
                const Link& l = options_.result->network->links[static_cast<std::size_t>(at)];
                against = options_.result->network->nodes[static_cast<std::size_t>(l.from)].structure != p.from;
            }
        }
        const Ink ink = inks[static_cast<std::size_t>(v)];
        line(ink, way, {Kind::Pipe, p.id});
        // An arrow the way its water runs, where there is room for it.
        const double l = length(way), size = 2.2 * mm_ / metre_;
        if (l < 6 * size) return;
        const double station = l * 0.62;
        const Point tip = place(point_at(way, station + (against ? -size : size) / 2, 0));
        const double back = station - (against ? -size : size) / 2;
        drawn(ink, {place(point_at(way, back, size * 0.4)), tip, place(point_at(way, back, -size * 0.4))},
              {Kind::Pipe, p.id});
    }
    void structure(const Structure& s) {
        const Point at = place({s.x, s.y});
        const ElementRef self{Kind::Structure, s.id};
        const double r = (s.kind == StructureKind::Joint ? 0.6 : 1.1) * mm_;
        std::vector<Point> shape;
        if (s.kind == StructureKind::Inlet) shape = {{-r, -r}, {r, -r}, {r, r}, {-r, r}, {-r, -r}};
        else if (s.kind == StructureKind::Outfall) shape = {{-r, -r}, {r, -r}, {0, r}, {-r, -r}};
        else
            for (int k = 0; k <= 24; ++k)
                shape.push_back({r * std::cos(k * std::numbers::pi / 12), r * std::sin(k * std::numbers::pi / 12)});
        for (Point& p : shape) p = {at.x + p.x, at.y + p.y};
        drawn(Ink::Structure, std::move(shape), self);
        take({at.x - r, at.y - r, at.x + r, at.y + r});
    }
    void name(const Structure& s) {
        std::string words = s.name;
        if (!std::isnan(s.rim)) words += " " + units_.number(s.rim, Quantity::Level);
        label(place({s.x, s.y}), words, Ink::Label, {Kind::Structure, s.id});
    }
    void what(const Pipe& p) {
        const std::vector<Point> way = pipe_line(project_, p);
        const double l = length_of(project_, p);
        if (way.size() < 2 || length(way) * metre_ < 12 * mm_) return;
        std::string words = size_words(units_, p, false);
        if (l > 0 && !std::isnan(p.invert_from) && !std::isnan(p.invert_to))
            words += ", " + units_.text(std::abs(p.invert_from - p.invert_to) / l, Quantity::Slope);
        label(place(middle_of(way)), words, Ink::Label, {Kind::Pipe, p.id});
    }
    /// Title, scale bar, north.
    void frame() {
        const double w = out_.width, h = out_.height;
        drawn(Ink::Structure, {{2, 2}, {w - 2, 2}, {w - 2, h - 2}, {2, h - 2}, {2, 2}}, {});
        std::string t = project_.settings().title.empty() ? std::string("Plan") : project_.settings().title;
        t += ", 1 : " + fixed(out_.scale, out_.scale == std::floor(out_.scale) ? 0 : 2);
        if (options_.result)
            if (const RainEvent* e = project_.events.find(options_.result->event.value)) t += ", " + e->name;
        out_.list.push_back({Drawn::Type::Text, Ink::Label, {{6, h - 8}}, t, {}});
        const Point n{w - 9, h - 14};
        drawn(Ink::Structure, {{n.x - 2, n.y}, {n.x, n.y + 8}, {n.x + 2, n.y}, {n.x, n.y + 2}, {n.x - 2, n.y}}, {});
        out_.list.push_back({Drawn::Type::Text, Ink::Label, {{n.x + 3, n.y + 5}}, "N", {}});
        const Unit& unit = units_.unit(Quantity::Length);
        double bar = 1;
        for (const double b : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 2000.0, 5000.0, 10000.0})
            if (b * unit.factor * 1000 / out_.scale <= std::max(12.0, std::min(60.0, w - 30))) bar = b;
        const double long_as = bar * unit.factor * 1000 / out_.scale;
        drawn(Ink::Structure, {{6, 6.5}, {6, 5}, {6 + long_as, 5}, {6 + long_as, 6.5}}, {});
        out_.list.push_back(
            {Drawn::Type::Text, Ink::Label, {{8 + long_as, 4.5}}, fixed(bar, 0) + " " + std::string(unit.symbol), {}});
    }

    const Project& project_;
    const PlanSheetOptions& options_;
    UnitSet units_;
    double x0_ = 1e300, y0_ = 1e300, metre_ = 1, mm_ = 1;
    std::map<std::pair<long, long>, std::vector<BoundingBox>> taken_;
    PlanSheet out_;
};

}  // namespace

PlanSheet plan_sheet(const Project& project, const PlanSheetOptions& options) {
    if (options.scale < 0 || !std::isfinite(options.scale)) return {};
    return PlanDrawing(project, options).run();
}

}  // namespace culvert
