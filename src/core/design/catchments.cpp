// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <boost/geometry.hpp>
#include <boost/geometry/geometries/multi_polygon.hpp>
#include <boost/geometry/geometries/point_xy.hpp>
#include <boost/geometry/geometries/polygon.hpp>
#include <boost/geometry/index/rtree.hpp>
#include <cmath>
#include <set>

#include "core/design/site.h"
#include "core/model/lay.h"
#include "core/terrain/contours.h"

namespace culvert {
namespace {

namespace bg = boost::geometry;
using GeoPoint = bg::model::d2::point_xy<double>;
using Polygon = bg::model::polygon<GeoPoint>;
using Polygons = bg::model::multi_polygon<Polygon>;
using GeoBox = bg::model::box<GeoPoint>;

Polygon polygon_of(const std::vector<Point>& outline) {
    Polygon p;
    for (const Point& q : outline) bg::append(p.outer(), GeoPoint(q.x, q.y));
    bg::correct(p);
    return p;
}
template <class Ring>
std::vector<Point> outline_of(const Ring& ring) {
    std::vector<Point> out;
    for (const GeoPoint& p : ring) out.push_back({p.x(), p.y()});
    if (out.size() > 1 && out.front() == out.back()) out.pop_back();
    return out;
}
std::vector<Point> rounded(std::vector<Point> line) {
    for (Point& p : line) p = to_mm(p);
    return line;
}
void origins(Catchment& c, std::initializer_list<const char*> keys, Origin o) {
    for (const char* key : keys) c.origin[*field_index(Kind::Catchment, key)] = o;
}

}  // namespace

CatchmentProposal propose_catchments(const Project& project, const SiteGround& site,
                                     const std::vector<StructureId>& wanted, double cell, const std::stop_token& stop) {
    CatchmentProposal out;
    Editing e(project, "Propose catchments");
    std::set<std::uint64_t> drained;
    for (const Catchment& c : project.catchments) drained.insert(c.structure.value);
    std::vector<Point> sinks;
    std::vector<const Structure*> inlets;
    for (const Structure& s : project.structures)
        if (takes_water(s) && placed(s)) {
            sinks.push_back({s.x, s.y});
            inlets.push_back(&s);
        }
    if (sinks.empty() || site.ground.empty()) {
        out.remarks.emplace_back(sinks.empty() ? "there is no inlet" : "there is no surface");
        return out;
    }
    Terrain::Box box;
    for (const auto& t : {site.ground.finished, site.ground.existing})
        if (t) {
            box.left = std::min(box.left, t->bounds().left);
            box.right = std::max(box.right, t->bounds().right);
            box.bottom = std::min(box.bottom, t->bounds().bottom);
            box.top = std::max(box.top, t->bounds().top);
        }
    const auto areas = propose_areas(site.ground, box, sinks, cell, stop);
    if (stop.stop_requested()) return {};
    std::set<std::uint64_t> found;
    for (const ProposedArea& a : areas) {
        const Structure& s = *inlets[a.sink];
        const bool asked = wanted.empty() || std::find(wanted.begin(), wanted.end(), StructureId{s.id}) != wanted.end();
        if (!asked || drained.contains(s.id)) continue;
        found.insert(s.id);
        Catchment c;
        c.id = random_id();
        c.name = s.name + " area";
        c.structure = {s.id};
        c.outline = rounded(a.outline);
        c.area = std::round(area(c.outline) * 10) / 10;
        c.flow_path = rounded(longest_flow_path(site, c.outline, {s.x, s.y}));
        origins(c, {"name", "structure", "outline", "area", "flow_path"}, Origin::Proposed);
        e.insert(std::move(c));
        ++out.made;
    }
    for (const Structure* s : inlets)
        if (!drained.contains(s->id) && !found.contains(s->id) &&
            (wanted.empty() || std::find(wanted.begin(), wanted.end(), StructureId{s->id}) != wanted.end()))
            out.remarks.push_back(s->name + ": no ground drains to it");
    out.edit = e.take();
    return out;
}

StructureId nearest_inlet(const Project& project, Point at) {
    StructureId best;
    double away = 1e300;
    for (const Structure& s : project.structures)
        if (const double d = distance({s.x, s.y}, at); takes_water(s) && d < away) {
            away = d;
            best = {s.id};
        }
    return best;
}

StructureId downhill_target(const Project& project, const SiteGround& site, const std::vector<Point>& outline) {
    const Point middle = centre(outline);
    if (site.drainage) {
        constexpr double reach = 4;
        const Trace trace = site.drainage->trace(middle, 1e9);
        for (std::size_t i = 1; i < trace.line.size(); ++i) {
            const Point a{trace.line[i - 1].x, trace.line[i - 1].y}, b{trace.line[i].x, trace.line[i].y};
            StructureId best;
            double first = 1e300;
            for (const Structure& s : project.structures) {
                if (!takes_water(s) || distance_to_segment({s.x, s.y}, a, b) > reach) continue;
                if (const double d = distance(a, {s.x, s.y}); d < first) {
                    first = d;
                    best = {s.id};
                }
            }
            if (best) return best;
        }
    }
    return nearest_inlet(project, middle);
}

std::vector<Point> longest_flow_path(const SiteGround& site, const std::vector<Point>& outline, Point structure) {
    if (!site.drainage || outline.size() < 3) return {};
    constexpr std::size_t most_heads = 48;
    constexpr double reach = 4;
    const Point middle = centre(outline);
    std::vector<Point> ring = outline;
    ring.push_back(outline.front());
    const double round = length(ring);
    std::vector<Point> best;
    double longest = 0;
    for (std::size_t i = 0; i < most_heads; ++i) {
        const Point at = point_at(ring, round * static_cast<double>(i) / most_heads, 0);
        // A little inside the outline: on the divide itself water has no way.
        const Point head{at.x + 0.03 * (middle.x - at.x), at.y + 0.03 * (middle.y - at.y)};
        const Trace trace = site.drainage->trace(head, 1e9);
        std::vector<Point> way;
        double l = 0;
        bool arrives = false;
        for (const GroundPoint& g : trace.line) {
            const Point p{g.x, g.y};
            if (!way.empty()) {
                if (distance_to_segment(structure, way.back(), p) <= reach) {
                    arrives = true;
                    break;
                }
                l += distance(way.back(), p);
            }
            way.push_back(p);
        }
        if (!arrives) continue;
        l += distance(way.back(), structure);
        way.push_back(structure);
        if (l > longest) {
            longest = l;
            best = std::move(way);
        }
    }
    return simplified(best, 0.2);
}

std::vector<OutlineFault> outline_faults(const Project& project, double least_area, const std::stop_token& stop) {
    std::vector<OutlineFault> out;
    std::vector<std::pair<GeoBox, std::size_t>> boxes;
    std::vector<std::pair<const Catchment*, Polygon>> shapes;
    for (const Catchment& c : project.catchments) {
        if (c.outline.size() < 3) continue;
        if (crosses_itself(c.outline)) {
            out.push_back({OutlineFault::Form::CrossesItself, c.id, 0, area(c.outline), c.outline});
            continue;
        }
        shapes.emplace_back(&c, polygon_of(c.outline));
        boxes.emplace_back(bg::return_envelope<GeoBox>(shapes.back().second), shapes.size() - 1);
    }
    const bg::index::rtree<std::pair<GeoBox, std::size_t>, bg::index::quadratic<16>> tree(boxes);
    for (std::size_t i = 0; i < shapes.size(); ++i) {
        if (stop.stop_requested()) return {};
        for (auto it = tree.qbegin(bg::index::intersects(boxes[i].first)); it != tree.qend(); ++it) {
            if (it->second <= i) continue;
            Polygons common;
            bg::intersection(shapes[i].second, shapes[it->second].second, common);
            const double a = bg::area(common);
            if (a < least_area) continue;
            std::vector<Point> place;
            for (const Polygon& p : common)
                if (place.empty() || bg::area(p) > area(place)) place = outline_of(p.outer());
            std::uint64_t x = shapes[i].first->id, y = shapes[it->second].first->id;
            if (shapes[i].first->name > shapes[it->second].first->name) std::swap(x, y);
            out.push_back({OutlineFault::Form::Overlap, x, y, a, std::move(place)});
        }
    }
    // Gaps: what the catchments together enclose. Unions are made pairwise, so that the cost stays near n log n.
    std::vector<Polygons> parts;
    for (const auto& [c, p] : shapes) parts.push_back(Polygons{p});
    while (parts.size() > 1) {
        std::vector<Polygons> next;
        for (std::size_t i = 0; i < parts.size(); i += 2) {
            if (stop.stop_requested()) return out;
            if (i + 1 == parts.size()) next.push_back(std::move(parts[i]));
            else {
                Polygons joined;
                bg::union_(parts[i], parts[i + 1], joined);
                next.push_back(std::move(joined));
            }
        }
        parts = std::move(next);
    }
    if (!parts.empty())
        for (const Polygon& p : parts[0])
            for (const auto& hole : p.inners()) {
                std::vector<Point> place = outline_of(hole);
                const double a = area(place);
                if (a < least_area) continue;
                const Point middle = centre(place);
                std::uint64_t beside = 0;
                double away = 1e300;
                for (const auto& [c, shape] : shapes)
                    if (const double d = bg::distance(shape, GeoPoint(middle.x, middle.y)); d < away) {
                        away = d;
                        beside = c->id;
                    }
                out.push_back({OutlineFault::Form::Gap, beside, 0, a, std::move(place)});
            }
    return out;
}

namespace {

/// Covers of a catchment that is cut in two. One with an outline goes where it lies; the others share what ground is
/// left on each side, in proportion to their areas.
void split_covers(Editing& e, CatchmentId id, CatchmentId second, const Polygon& a, const Polygon& b, double share) {
    struct Cut {
        LandCover cover;
        double beyond;  ///< area on the second side
        std::vector<Point> outlines[2];
    };
    std::vector<Cut> cuts;
    double all = 0, placed = 0, free = 0;
    for (const LandCover& cover : e.now().land_covers) {
        if (cover.catchment != id || !(cover.area > 0)) continue;
        Cut cut{cover, not_given, {}};
        all += cover.area;
        if (cover.outline.size() > 2 && !crosses_itself(cover.outline)) {
            double areas[2] = {0, 0};
            for (int side = 0; side < 2; ++side) {
                Polygons parts;
                bg::intersection(polygon_of(cover.outline), side ? b : a, parts);
                areas[side] = bg::area(parts);
                if (parts.size() == 1 && parts[0].inners().empty())
                    cut.outlines[side] = rounded(outline_of(parts[0].outer()));
            }
            const double both = areas[0] + areas[1];
            if (both > 1e-6)
                cut.beyond = cover.area * (areas[1] < 1e-6 * both ? 0 : areas[0] < 1e-6 * both ? 1 : areas[1] / both);
        }
        if (std::isnan(cut.beyond)) free += cover.area;
        else placed += cut.beyond;
        cuts.push_back(std::move(cut));
    }
    const double rest = free > 0 ? std::clamp((all * share - placed) / free, 0.0, 1.0) : 0;
    for (Cut& cut : cuts) {
        LandCover& cover = cut.cover;
        const double beyond = std::isnan(cut.beyond) ? cover.area * rest : cut.beyond, here = cover.area - beyond;
        const std::vector<Point> was = cover.outline;
        if (beyond > 1e-6) {
            LandCover other = cover;
            other.id = random_id();
            other.foreign.clear();
            other.catchment = second;
            other.area = beyond;
            other.outline = here > 1e-6 ? cut.outlines[1] : was;
            e.insert(std::move(other));
        }
        if (here <= 1e-6) {
            e.remove(Kind::LandCover, cover.id);
            continue;
        }
        e.set(Kind::LandCover, cover.id, "area", here, cover.origin[*field_index(Kind::LandCover, "area")]);
        if (beyond > 1e-6) e.set(Kind::LandCover, cover.id, "outline", cut.outlines[0]);
    }
}

}  // namespace

Edit split_catchment(const Project& project, CatchmentId id, const std::vector<Point>& line, std::string* why_not) {
    const auto no = [why_not](const std::string& why) {
        if (why_not) *why_not = why;
        return Edit{};
    };
    const Catchment* c = project.catchments.find(id.value);
    if (!c || c->outline.size() < 3) return no("there is no outline to cut");
    if (line.size() < 2 || length(line) == 0) return no("the line is too short");
    if (crosses_itself(c->outline)) return no("the outline crosses itself: mend it first");
    // The half plane left of a line is made of the line and a far way round; its ends are drawn out beyond the outline.
    double far = 0;
    for (const Point& p : c->outline) far = std::max(far, distance(p, line.front()));
    far = 4 * (far + length(line)) + 10;
    std::vector<Point> cut = line;
    const auto beyond = [far](Point from, Point toward) {
        const double l = distance(from, toward);
        return Point{toward.x + far * (toward.x - from.x) / l, toward.y + far * (toward.y - from.y) / l};
    };
    cut.front() = beyond(line[1], line[0]);
    cut.back() = beyond(line[line.size() - 2], line.back());
    const double dx = cut.back().x - cut.front().x, dy = cut.back().y - cut.front().y, l = std::hypot(dx, dy);
    if (l == 0) return no("the line ends where it begins");
    std::vector<Point> left = cut;
    left.push_back({cut.back().x - dy / l * 2 * far, cut.back().y + dx / l * 2 * far});
    left.push_back({cut.front().x - dy / l * 2 * far, cut.front().y + dx / l * 2 * far});
    Polygons a, b;
    bg::intersection(polygon_of(c->outline), polygon_of(left), a);
    bg::difference(polygon_of(c->outline), polygon_of(left), b);
    if (a.size() != 1 || b.size() != 1 || bg::area(a) < 1e-6 || bg::area(b) < 1e-6)
        return no(a.size() > 1 || b.size() > 1 ? "the line cuts it into more than two pieces"
                                               : "the line does not cut through it");
    const double whole = bg::area(a) + bg::area(b), share = bg::area(b) / whole;
    Editing e(project, "Split " + c->name);
    const Catchment row = *c;
    Catchment second = row;
    second.id = random_id();
    second.foreign.clear();
    second.flow_path.clear();
    std::set<std::string> used;
    for (const Catchment& other : project.catchments) used.insert(other.name);
    second.name = row.name + " b";
    for (int k = 2; used.contains(second.name); ++k) second.name = row.name + " b" + std::to_string(k);
    second.outline = rounded(outline_of(b[0].outer()));
    second.area = row.area * share;
    e.insert(second);
    e.set(Kind::Catchment, row.id, "outline", rounded(outline_of(a[0].outer())));
    e.set(Kind::Catchment, row.id, "area", row.area * (1 - share), row.origin[*field_index(Kind::Catchment, "area")]);
    e.set(Kind::Catchment, row.id, "flow_path", std::vector<Point>{});
    split_covers(e, id, {second.id}, a[0], b[0], share);
    return e.take();
}

namespace {

/// Whether the pervious ground of two rows takes the rain alike.
bool same_losses(const GroundLosses& a, const GroundLosses& b) {
    const auto same = [&](double GroundLosses::*of) {
        return a.*of == b.*of || (std::isnan(a.*of) && std::isnan(b.*of));
    };
    return a.losses == b.losses && same(&GroundLosses::initial_loss) && same(&GroundLosses::loss_rate) &&
           same(&GroundLosses::loss_share) && same(&GroundLosses::first_rate) && same(&GroundLosses::decay_time) &&
           same(&GroundLosses::front_head);
}

}  // namespace

Edit merge_catchments(const Project& project, const std::vector<CatchmentId>& ids, std::string* why_not) {
    const auto no = [why_not](const std::string& why) {
        if (why_not) *why_not = why;
        return Edit{};
    };
    std::vector<const Catchment*> rows;
    for (const CatchmentId id : ids)
        if (const Catchment* c = project.catchments.find(id.value)) rows.push_back(c);
    if (rows.size() < 2) return no("choose two catchments or more");
    Polygons all;
    for (const Catchment* c : rows) {
        if (c->outline.size() < 3) return no(c->name + " has no outline");
        if (crosses_itself(c->outline)) return no("the outline of " + c->name + " crosses itself: mend it first");
        Polygons joined;
        bg::union_(all, polygon_of(c->outline), joined);
        all = std::move(joined);
    }
    if (all.size() != 1) return no("they do not touch: they would make more than one piece");
    const Catchment first = *rows[0];
    double sum = 0, time = not_given;
    std::set<std::uint64_t> covered;
    for (const LandCover& l : project.land_covers) covered.insert(l.catchment.value);
    const bool covers = std::any_of(rows.begin(), rows.end(), [&](const Catchment* c) {
        return covered.contains(c->id) || !same_losses(*c, *rows[0]);
    });
    for (const Catchment* c : rows) {
        sum += c->area;
        time = std::fmax(time, c->time);
    }
    // By area; of what a row does not say the project's value counts, and where no row says anything nothing is said.
    const auto mean = [&](double Catchment::*of, double usual) {
        double weighted = 0;
        bool said = false;
        for (const Catchment* c : rows) {
            said |= !std::isnan(c->*of);
            weighted += c->area * (std::isnan(c->*of) ? usual : c->*of);
        }
        return said && sum > 0 ? weighted / sum : not_given;
    };
    Editing e(project, "Merge " + std::to_string(rows.size()) + " catchments");
    e.set(Kind::Catchment, first.id, "outline", rounded(outline_of(all[0].outer())));
    e.set(Kind::Catchment, first.id, "area", sum);
    if (!covers) {
        e.set(Kind::Catchment, first.id, "coefficient", mean(&Catchment::coefficient, not_given));
        e.set(Kind::Catchment, first.id, "curve_number",
              mean(&Catchment::curve_number, project.settings().curve_number));
        e.set(Kind::Catchment, first.id, "impervious", mean(&Catchment::impervious, 0));
    }
    e.set(Kind::Catchment, first.id, "time", time);
    e.set(Kind::Catchment, first.id, "flow_path", std::vector<Point>{});
    // Land covers give their catchment its area and C: one that has none comes in as a cover of its own.
    for (const Catchment* c : rows)
        if (covers && !covered.contains(c->id)) {
            LandCover own;
            static_cast<GroundLosses&>(own) = *c;
            own.id = random_id();
            own.name = c->name;
            own.catchment = {first.id};
            own.area = c->area;
            own.coefficient = c->coefficient;
            own.curve_number = c->curve_number;
            own.impervious = c->impervious;
            own.storage = c->storage;
            e.insert(std::move(own));
        }
    for (std::size_t i = 1; i < rows.size(); ++i) {
        std::vector<std::uint64_t> move;
        for (const LandCover& l : e.now().land_covers)
            if (l.catchment.value == rows[i]->id) move.push_back(l.id);
        for (const std::uint64_t l : move) {
            // What it took from its catchment it takes along.
            if (std::isnan(project.land_covers.find(l)->curve_number) && !std::isnan(rows[i]->curve_number))
                e.set(Kind::LandCover, l, "curve_number", rows[i]->curve_number);
            e.set(Kind::LandCover, l, "catchment", first.id);
        }
        e.remove(Kind::Catchment, rows[i]->id);
    }
    return e.take();
}

}  // namespace culvert
