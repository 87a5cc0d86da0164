// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/cover_cut.h"

#include <algorithm>
#include <boost/geometry.hpp>
#include <boost/geometry/geometries/multi_polygon.hpp>
#include <boost/geometry/geometries/point_xy.hpp>
#include <boost/geometry/geometries/polygon.hpp>
#include <boost/geometry/index/rtree.hpp>
#include <cmath>
#include <map>

#include "core/geometry/line.h"
#include "core/hydrology/land_covers.h"

namespace culvert {
namespace {

namespace bg = boost::geometry;
using Spot = bg::model::d2::point_xy<double>;
using Shape2 = bg::model::polygon<Spot>;
using Parts = bg::model::multi_polygon<Shape2>;
using Extent = bg::model::box<Spot>;

/// A polygon of rings; empty where they make none. Coordinates are taken from an origin near by: in metres of a
/// national grid the area of a small piece would lose digits.
bool polygon_of(const std::vector<std::vector<Point>>& rings, Point origin, Shape2& out) {
    out.clear();
    if (rings.empty() || rings[0].size() < 3) return false;
    const auto fill = [&](auto& ring, const std::vector<Point>& points) {
        for (const Point& p : points) bg::append(ring, Spot(p.x - origin.x, p.y - origin.y));
    };
    fill(out.outer(), rings[0]);
    out.inners().resize(rings.size() - 1);
    for (std::size_t i = 1; i < rings.size(); ++i) fill(out.inners()[i - 1], rings[i]);
    bg::correct(out);
    return bg::area(out) > 0;
}

std::vector<Point> points_of(const Shape2& shape, Point origin) {
    std::vector<Point> out;
    const auto mm = [](double v) { return std::round(v * 1000) / 1000; };
    for (const Spot& s : shape.outer()) out.push_back({mm(s.x() + origin.x), mm(s.y() + origin.y)});
    if (out.size() > 1 && out.front() == out.back()) out.pop_back();
    return out;
}

}  // namespace

Edit draw_cover(const Project& project, const std::vector<Point>& outline, const LandCover& like,
                std::string* why_not) {
    const auto refuse = [&](const char* why) {
        if (why_not) *why_not = why;
        return Edit{};
    };
    Shape2 drawn;
    if (outline.size() < 3 || !in_reach(outline)) return refuse("it needs three corners");
    const Point origin = outline.front();
    if (!polygon_of({outline}, origin, drawn) || !bg::is_valid(drawn)) return refuse("its outline crosses itself");
    const Extent box = bg::return_envelope<Extent>(drawn);
    Editing e(project, "Draw " + like.name);
    bool any = false;
    for (const Catchment& c : project.catchments) {
        Shape2 whole;
        if (c.outline.size() < 3 || !polygon_of({c.outline}, origin, whole)) continue;
        if (!bg::intersects(box, bg::return_envelope<Extent>(whole)) || !bg::is_valid(whole)) continue;
        Parts parts;
        bg::intersection(whole, drawn, parts);
        double covered = 0;
        for (const Shape2& part : parts) {
            const double a = bg::area(part);
            if (a < 0.05) continue;
            LandCover l = like;
            l.id = random_id();
            l.catchment = {c.id};
            l.area = std::round(a * 10) / 10;
            l.outline = points_of(part, origin);
            covered += l.area;
            e.insert(std::move(l));
        }
        if (covered == 0) continue;
        any = true;
        // The ground it was drawn over was another's: what is left of the catchment, or the rest of it.
        const LandCover* rest = nullptr;
        bool covers = false;
        for (const LandCover& l : project.land_covers) {
            if (l.catchment.value != c.id) continue;
            covers = true;
            if (l.outline.empty() && (!rest || l.name == rest_of_it)) rest = &l;
        }
        if (rest && rest->area > covered + 0.05)
            e.set(Kind::LandCover, rest->id, "area", std::round((rest->area - covered) * 10) / 10);
        else if (rest) e.remove(Kind::LandCover, rest->id);
        else if (!covers) {
            const double left = std::round((std::max(c.area, bg::area(whole)) - covered) * 10) / 10;
            if (left > 0.05) {
                LandCover l;
                l.id = random_id();
                l.name = rest_of_it;
                l.catchment = {c.id};
                l.area = left;
                l.coefficient = c.coefficient;
                e.insert(std::move(l));
            }
        }
    }
    if (!any) return refuse("no catchment lies under it");
    return e.take();
}

LandCover cover_of_kind(const LandCoverKind& kind) {
    LandCover l;
    l.name = kind.name;
    l.coefficient = (kind.c_low + kind.c_high) / 2;
    l.curve_number = kind.curve_number[1];
    l.impervious = kind.impervious;
    l.roughness = kind.sheet_n;
    l.source = land_cover_source;
    return l;
}

CoverCut cut_covers(const Project& project, const std::vector<CoverPolygon>& polygons, bool replace) {
    CoverCut out;
    Point origin{};
    for (const Catchment& c : project.catchments)
        if (!c.outline.empty()) {
            origin = c.outline.front();
            break;
        }
    std::vector<Shape2> shapes(polygons.size());
    std::vector<std::pair<Extent, std::size_t>> boxes;
    for (std::size_t i = 0; i < polygons.size(); ++i) {
        const bool reach = std::all_of(polygons[i].rings.begin(), polygons[i].rings.end(),
                                       [](const auto& ring) { return in_reach(ring); });
        if (!reach || !polygon_of(polygons[i].rings, origin, shapes[i])) {
            out.remarks.push_back(polygons[i].place + ": a polygon needs three corners and an area");
            continue;
        }
        std::string why;
        if (!bg::is_valid(shapes[i], why)) {
            out.remarks.push_back(polygons[i].place + ": its outline crosses itself");
            continue;
        }
        boxes.emplace_back(bg::return_envelope<Extent>(shapes[i]), i);
    }
    const bg::index::rtree<std::pair<Extent, std::size_t>, bg::index::rstar<16>> tree(boxes);
    std::map<std::uint64_t, std::vector<std::uint64_t>> had;
    for (const LandCover& l : project.land_covers) had[l.catchment.value].push_back(l.id);
    Editing e(project, "Land covers from a layer");
    std::vector<LandCover> made;
    std::vector<std::uint64_t> gone;
    std::vector<std::pair<Extent, std::size_t>> near;
    for (const Catchment& c : project.catchments) {
        if (c.outline.size() < 3) continue;
        const auto own = had.find(c.id);
        if (own != had.end() && !replace) continue;
        Shape2 outline;
        if (!polygon_of({c.outline}, origin, outline) || !bg::is_valid(outline)) {
            out.remarks.push_back("catchment " + c.name + ": its outline crosses itself");
            continue;
        }
        near.clear();
        tree.query(bg::index::intersects(bg::return_envelope<Extent>(outline)), std::back_inserter(near));
        std::sort(near.begin(), near.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
        struct Sum {
            double area = 0, ca = 0, cn = 0;
            const CoverPolygon* first = nullptr;
            std::vector<Point> piece;  ///< where it is one, without holes
            int pieces = 0;
        };
        std::map<std::string, Sum> sums;
        double covered = 0;
        for (const auto& [box, i] : near) {
            Parts parts;
            bg::intersection(outline, shapes[i], parts);
            const double a = bg::area(parts);
            if (!(a > 1e-3)) continue;
            const CoverPolygon& p = polygons[i];
            const LandCoverKind* kind = land_cover_kind(p.kind);
            double coefficient = p.coefficient, number = p.curve_number;
            if (coefficient != coefficient) coefficient = kind ? (kind->c_low + kind->c_high) / 2 : c.coefficient;
            if (number != number && kind) number = kind->curve_number[1];
            Sum& sum = sums[p.kind];
            if (!sum.first) sum.first = &p;
            sum.area += a;
            sum.ca += a * coefficient;
            sum.cn += a * number;
            sum.pieces += static_cast<int>(parts.size());
            if (sum.pieces == 1 && parts[0].inners().empty()) sum.piece = points_of(parts[0], origin);
            else sum.piece.clear();
            covered += a;
        }
        if (sums.empty()) continue;
        const double whole = bg::area(outline);
        out.bare += std::max(whole - covered, 0.0);
        out.twice += std::max(covered - whole, 0.0);
        ++out.catchments;
        if (own != had.end()) gone.insert(gone.end(), own->second.begin(), own->second.end());
        for (const auto& [name, sum] : sums) {
            LandCover l;
            l.name = name;
            l.catchment = {c.id};
            l.area = sum.area;
            l.coefficient = sum.ca / sum.area;
            l.curve_number = sum.cn / sum.area;
            if (const LandCoverKind* kind = land_cover_kind(name)) {
                l.impervious = kind->impervious;
                l.roughness = kind->sheet_n;
            }
            l.outline = sum.piece;
            l.source = "cut from a layer";
            made.push_back(std::move(l));
        }
    }
    for (const std::uint64_t id : gone) e.remove(Kind::LandCover, id);
    out.covers = made.size();
    for (LandCover& l : made) e.insert(std::move(l));
    out.edit = e.take();
    return out;
}

}  // namespace culvert
