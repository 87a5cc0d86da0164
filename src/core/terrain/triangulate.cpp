// SPDX-License-Identifier: GPL-3.0-or-later
#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Spatial_sort_traits_adapter_2.h>
#include <CGAL/Triangulation_face_base_with_info_2.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>
#include <CGAL/property_map.h>
#include <CGAL/spatial_sort.h>

#include <boost/geometry.hpp>
#include <boost/geometry/geometries/box.hpp>
#include <boost/geometry/geometries/point_xy.hpp>
#include <boost/geometry/index/rtree.hpp>
#include <cmath>
#include <numeric>
#include <set>

#include "core/base/contract.h"
#include "core/base/numbers.h"
#include "core/terrain/terrain.h"

namespace culvert {
namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
struct VertexInfo {
    double z = std::numeric_limits<double>::quiet_NaN();
    std::uint32_t index = 0;
};
using Vertex = CGAL::Triangulation_vertex_base_with_info_2<VertexInfo, Kernel>;
using Face = CGAL::Triangulation_face_base_with_info_2<std::int32_t, Kernel,
                                                       CGAL::Constrained_triangulation_face_base_2<Kernel>>;
using Cdt = CGAL::Constrained_Delaunay_triangulation_2<Kernel, CGAL::Triangulation_data_structure_2<Vertex, Face>,
                                                       CGAL::Exact_predicates_tag>;

namespace bg = boost::geometry;
using Corner = bg::model::d2::point_xy<double>;
using Box = bg::model::box<Corner>;
using SegmentTree = bg::index::rtree<std::pair<Box, std::size_t>, bg::index::quadratic<16>>;
struct Segment {
    GroundPoint a, b;
    [[nodiscard]] Box box() const {
        return {{std::min(a.x, b.x), std::min(a.y, b.y)}, {std::max(a.x, b.x), std::max(a.y, b.y)}};
    }
};
SegmentTree tree_of(const std::vector<Segment>& segments) {
    std::vector<std::pair<Box, std::size_t>> boxes;
    boxes.reserve(segments.size());
    for (std::size_t i = 0; i < segments.size(); ++i) boxes.emplace_back(segments[i].box(), i);
    return SegmentTree(boxes);
}
/// Whether two segments cross within both; ends that touch make no new corner.
bool cross(const Segment& s, const Segment& t) {
    const auto side = [](const GroundPoint& a, const GroundPoint& b, const GroundPoint& p) {
        const double d = (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x);
        return (d > 0) - (d < 0);
    };
    return side(s.a, s.b, t.a) * side(s.a, s.b, t.b) < 0 && side(t.a, t.b, s.a) * side(t.a, t.b, s.b) < 0;
}

constexpr std::size_t between_stops = 20000;  ///< points inserted between two looks at the stop token
/// Corners that crossings of lines may add to those given: lines that cross each other everywhere are no breaklines.
constexpr std::size_t most_added = 200'000;
/// Crossings of breaklines with each other. Each is a corner in a fan of slivers, which costs 0.1 ms where lines are
/// long.
constexpr std::size_t most_crossings = 20'000;
/// Pairs of lines whose boxes meet: beyond so many a line, and these besides, they lie in a heap on each other.
constexpr std::size_t most_near_a_line = 100, most_near = 2'000'000;

}  // namespace

class Triangulator {
  public:
    Triangulator(SurfaceData& data, SurfaceNotes& notes, const std::stop_token& stop)
        : data_(data), notes_(notes), stop_(stop) {}

    std::shared_ptr<const Terrain> run() {
        drop_out_of_reach();
        first_of_lines_ = data_.points.size();
        for (const auto& line : data_.breaklines)
            for (const GroundPoint& p : line)
                if (std::isfinite(p.z)) data_.points.push_back(p);
        if (cross_everywhere() || !insert_points() || cdt_.dimension() < 2) return nullptr;
        for (const auto& f : data_.faces) {
            if (enough()) return nullptr;
            for (std::size_t k = 0; k < 3; ++k) constrain(f[k], f[(k + 1) % 3]);
        }
        for (const auto& line : data_.breaklines)
            for (std::size_t i = 1; i < line.size(); ++i) {
                if (enough()) return nullptr;
                if (std::isfinite(line[i - 1].z) && std::isfinite(line[i].z)) constrain(line[i - 1], line[i]);
            }
        level_crossings();
        drape();
        if (enough()) return nullptr;
        auto terrain = flatten();
        if (stop_.stop_requested()) return nullptr;
        classify(*terrain);
        if (std::none_of(terrain->surface_.begin(), terrain->surface_.end(), [](auto s) { return s != 0; }))
            return nullptr;
        terrain->finish();
        return terrain;
    }

  private:
    /// Stopped, or more crossings than a surface has.
    bool enough() {
        notes_.too_many = cdt_.number_of_vertices() > data_.points.size() + most_added;
        return notes_.too_many || stop_.stop_requested();
    }

    [[nodiscard]] std::vector<Segment> lines_with_levels() const {
        std::vector<Segment> out;
        for (const auto& line : data_.breaklines)
            for (std::size_t i = 1; i < line.size(); ++i)
                if (std::isfinite(line[i - 1].z) && std::isfinite(line[i].z)) out.push_back({line[i - 1], line[i]});
        return out;
    }
    /// Counts the crossings of breaklines before the first is inserted, as far as the limit.
    bool cross_everywhere() {
        const std::vector<Segment> segments = lines_with_levels();
        if (segments.size() * segments.size() / 2 < most_crossings) return false;
        const SegmentTree tree = tree_of(segments);
        std::size_t count = 0, looked = 0;
        for (std::size_t i = 0; i < segments.size(); ++i)
            for (auto it = tree.qbegin(bg::index::intersects(segments[i].box())); it != tree.qend(); ++it) {
                if (++looked % between_stops == 0 && stop_.stop_requested()) return true;
                if (looked > most_near + most_near_a_line * segments.size()) return notes_.too_many = true;
                if (it->second > i && cross(segments[i], segments[it->second]) && ++count > most_crossings)
                    return notes_.too_many = true;
            }
        return false;
    }

    /// Numbers that no ground has would cost the triangulation its predicates: they are left out and counted. Indexes
    /// of points stay, since faces name them.
    void drop_out_of_reach() {
        for (GroundPoint& p : data_.points)
            if (!in_reach(p)) {
                ++notes_.out_of_reach;
                --notes_.without_level;  // it is not counted twice
                p = {0, 0, std::numeric_limits<double>::quiet_NaN()};
            }
        const auto drop = [this](auto& line) {
            notes_.out_of_reach += std::erase_if(line, [](const auto& p) { return !in_reach(p); });
        };
        for (auto& l : data_.breaklines) drop(l);
        for (auto& l : data_.boundaries) drop(l);
        for (auto& l : data_.holes) drop(l);
    }

    bool insert_points() {
        std::vector<Kernel::Point_2> places;
        places.reserve(data_.points.size());
        for (GroundPoint& p : data_.points) {
            notes_.without_level += !std::isfinite(p.z);
            places.emplace_back(p.x, p.y);
        }
        std::vector<std::size_t> order;
        order.reserve(places.size());
        for (std::size_t i = 0; i < places.size(); ++i)
            if (std::isfinite(data_.points[i].z) && std::isfinite(data_.points[i].x) &&
                std::isfinite(data_.points[i].y))
                order.push_back(i);
        using Map = CGAL::Pointer_property_map<Kernel::Point_2>::type;
        CGAL::spatial_sort(order.begin(), order.end(),
                           CGAL::Spatial_sort_traits_adapter_2<Kernel, Map>(CGAL::make_property_map(places)));
        handles_.resize(data_.points.size());
        // Of points at one place the first given holds, whatever order they are inserted in.
        Cdt::Face_handle hint;
        std::size_t count = 0;
        for (const std::size_t at : order) {
            const auto i = static_cast<std::uint32_t>(at);
            if (++count % between_stops == 0 && stop_.stop_requested()) return false;
            const std::size_t before = cdt_.number_of_vertices();
            const auto v = cdt_.insert(places[i], hint);
            handles_[i] = v;
            hint = v->face();
            if (cdt_.number_of_vertices() > before) {
                v->info().z = data_.points[i].z;
                v->info().index = i;
            } else {
                const double difference = std::abs(v->info().z - data_.points[i].z);
                if (difference > 0 ||
                    std::max(i, v->info().index) < first_of_lines_) {  // a line may share a point's place
                    ++notes_.duplicates;
                    notes_.worst_duplicate = std::max(notes_.worst_duplicate, difference);
                }
                if (i < v->info().index) {
                    v->info().index = i;
                    v->info().z = data_.points[i].z;
                }
            }
        }
        return true;
    }
    void constrain(std::uint32_t a, std::uint32_t b) {
        if (a >= handles_.size() || b >= handles_.size()) return;
        if (handles_[a] != Cdt::Vertex_handle() && handles_[b] != Cdt::Vertex_handle() && handles_[a] != handles_[b])
            cdt_.insert_constraint(handles_[a], handles_[b]);
    }
    void constrain(const GroundPoint& a, const GroundPoint& b) {
        const auto va = vertex(a), vb = vertex(b);
        if (va != vb) cdt_.insert_constraint(va, vb);
    }
    Cdt::Vertex_handle vertex(const GroundPoint& p) {
        const std::size_t before = cdt_.number_of_vertices();
        // The search starts at a face of the last vertex, asked for now: inserting a constraint frees faces, so none
        // may be kept from one call to the next. Vertices stay.
        const auto v =
            cdt_.insert(Kernel::Point_2(p.x, p.y), last_ == Cdt::Vertex_handle() ? Cdt::Face_handle() : last_->face());
        last_ = v;
        if (cdt_.number_of_vertices() > before) v->info().z = p.z;
        return v;
    }

    /// Where breaklines cross, the triangulation makes a vertex that has no level: it gets the mean of the levels of
    /// the lines through it.
    void level_crossings() {
        std::vector<Cdt::Vertex_handle> bare;
        for (auto v = cdt_.finite_vertices_begin(); v != cdt_.finite_vertices_end(); ++v)
            if (std::isnan(v->info().z)) bare.push_back(v);
        if (bare.empty()) return;
        std::vector<Segment> segments = lines_with_levels();
        for (const auto& f : data_.faces)
            for (std::size_t k = 0; k < 3; ++k)
                if (f[k] < data_.points.size() && f[(k + 1) % 3] < data_.points.size())
                    segments.push_back({data_.points[f[k]], data_.points[f[(k + 1) % 3]]});
        const SegmentTree tree = tree_of(segments);
        for (const auto v : bare) {
            const double x = v->point().x(), y = v->point().y(),
                         near = 1e-6 * (1 + std::abs(x) * 1e-3 + std::abs(y) * 1e-3);
            double sum = 0, low = 1e300, high = -1e300;
            int count = 0;
            const Box around({x - near, y - near}, {x + near, y + near});
            for (auto it = tree.qbegin(boost::geometry::index::intersects(around)); it != tree.qend(); ++it) {
                const auto& [a, b] = segments[it->second];
                if (distance_to_segment({x, y}, {a.x, a.y}, {b.x, b.y}) > near) continue;
                const double l = std::hypot(b.x - a.x, b.y - a.y);
                const double z = a.z + (l > 0 ? std::hypot(x - a.x, y - a.y) / l : 0) * (b.z - a.z);
                sum += z;
                low = std::min(low, z);
                high = std::max(high, z);
                ++count;
            }
            if (!count) continue;
            v->info().z = sum / count;
            ++notes_.crossings;
            notes_.worst_crossing = std::max(notes_.worst_crossing, high - low);
        }
    }

    /// Lines without levels (2-D breaklines, boundaries, holes) are laid on the surface that the points make: a vertex
    /// at each edge they cross, so that they change no level.
    void drape() {
        std::vector<std::vector<Point>> lines = data_.boundaries;
        for (auto& ring : lines)
            if (ring.size() > 2 && !(ring.front() == ring.back())) ring.push_back(ring.front());
        for (auto ring : data_.holes) {
            if (ring.size() > 2 && !(ring.front() == ring.back())) ring.push_back(ring.front());
            lines.push_back(std::move(ring));
        }
        for (const auto& line : data_.breaklines)
            for (std::size_t i = 1; i < line.size(); ++i)
                if (!std::isfinite(line[i - 1].z) || !std::isfinite(line[i].z))
                    lines.push_back({{line[i - 1].x, line[i - 1].y}, {line[i].x, line[i].y}});
        if (lines.empty()) return;
        auto beneath = flatten();
        beneath->surface_.assign(beneath->triangles_.size(), 1);
        beneath->finish();
        // The sides of every triangle that a line runs through are held, so that new corners turn no other triangle.
        const auto handles = by_index_;
        Terrain::Cursor at;
        for (const auto& line : lines)
            for (std::size_t i = 1; i < line.size(); ++i) {
                const Point a = line[i - 1], b = line[i];
                const double l = distance(a, b);
                if (l == 0) continue;
                const auto ground = beneath->section(a, b);
                for (std::size_t k = 1; k < ground.size(); ++k) {
                    if (enough()) return;
                    const double f = (ground[k - 1].distance + ground[k].distance) / 2 / l;
                    const std::int32_t t = beneath->locate({a.x + (b.x - a.x) * f, a.y + (b.y - a.y) * f}, at);
                    if (t < 0) continue;
                    const auto& c = beneath->triangles()[static_cast<std::size_t>(t)].corner;
                    for (std::size_t e = 0; e < 3; ++e) cdt_.insert_constraint(handles[c[e]], handles[c[(e + 1) % 3]]);
                }
            }
        for (const auto& line : lines)
            for (std::size_t i = 1; i < line.size(); ++i) {
                const Point a = line[i - 1], b = line[i];
                const double l = distance(a, b);
                if (l == 0) continue;
                GroundPoint last;
                bool joined = false;
                for (const Terrain::SectionPoint& s : beneath->section(a, b)) {
                    if (enough()) return;
                    if (std::isnan(s.level)) {
                        joined = false;
                        ++notes_.unplaced;
                        continue;
                    }
                    const GroundPoint now{a.x + (b.x - a.x) * s.distance / l, a.y + (b.y - a.y) * s.distance / l,
                                          s.level};
                    if (joined) constrain(last, now);
                    last = now;
                    joined = true;
                }
            }
        // A boundary that crosses another line beside a vertex of its own: the level beneath holds there too.
        Terrain::Cursor cursor;
        for (auto v = cdt_.finite_vertices_begin(); v != cdt_.finite_vertices_end(); ++v)
            if (std::isnan(v->info().z)) v->info().z = beneath->elevation({v->point().x(), v->point().y()}, cursor);
    }

    std::shared_ptr<Terrain> flatten() {
        auto t = std::make_shared<Terrain>();
        t->points_.reserve(cdt_.number_of_vertices());
        std::uint32_t n = 0;
        kept_.clear();
        by_index_.clear();
        for (auto v = cdt_.finite_vertices_begin(); v != cdt_.finite_vertices_end(); ++v) {
            kept_.push_back(v->info().index);
            by_index_.push_back(v);
            v->info().index = n++;
            t->points_.push_back({v->point().x(), v->point().y(), v->info().z});
        }
        std::int32_t f = 0;
        for (auto face = cdt_.finite_faces_begin(); face != cdt_.finite_faces_end(); ++face) face->info() = f++;
        t->triangles_.reserve(static_cast<std::size_t>(f));
        for (auto face = cdt_.finite_faces_begin(); face != cdt_.finite_faces_end(); ++face) {
            Terrain::Triangle tri{};
            for (int k = 0; k < 3; ++k) {
                nth(tri.corner, k) = face->vertex(k)->info().index;
                const auto other = face->neighbor(k);
                nth(tri.beside, k) = cdt_.is_infinite(other) ? -1 : other->info();
            }
            t->triangles_.push_back(tri);
        }
        std::size_t at = 0;
        for (auto v = cdt_.finite_vertices_begin(); v != cdt_.finite_vertices_end(); ++v) v->info().index = kept_[at++];
        return t;
    }

    void classify(Terrain& t) {
        t.surface_.assign(t.triangles_.size(), 1);
        std::set<std::array<std::uint32_t, 3>> faces;
        std::size_t seen = 0;
        for (auto f : data_.faces) {
            for (auto& corner : f)
                if (corner < handles_.size() && handles_[corner] != Cdt::Vertex_handle())
                    corner = handles_[corner]->info().index;
            std::sort(f.begin(), f.end());
            faces.insert(f);
        }
        for (std::size_t i = 0; i < t.triangles_.size(); ++i) {
            const auto& c = t.triangles_[i].corner;
            const GroundPoint &a = t.points_[c[0]], &b = t.points_[c[1]], &d = t.points_[c[2]];
            const Point middle{(a.x + b.x + d.x) / 3, (a.y + b.y + d.y) / 3};
            bool in = std::isfinite(a.z) && std::isfinite(b.z) && std::isfinite(d.z);
            if (!faces.empty()) {
                std::array<std::uint32_t, 3> key{kept_[c[0]], kept_[c[1]], kept_[c[2]]};
                std::sort(key.begin(), key.end());
                const bool found = faces.contains(key);
                seen += found;
                in = in && found;
            }
            if (data_.longest_edge > 0)
                for (const auto& [p, q] : {std::pair(a, b), std::pair(b, d), std::pair(d, a)})
                    in = in && std::hypot(p.x - q.x, p.y - q.y) <= data_.longest_edge;
            if (!data_.boundaries.empty()) {
                bool within = false;
                for (const auto& ring : data_.boundaries) within |= inside(middle, ring);
                in = in && within;
            }
            for (const auto& ring : data_.holes) in = in && !inside(middle, ring);
            t.surface_[i] = in;
        }
        notes_.lost_faces = faces.size() - std::min(seen, faces.size());
    }

    SurfaceData& data_;
    SurfaceNotes& notes_;
    const std::stop_token& stop_;
    Cdt cdt_;
    std::vector<Cdt::Vertex_handle> handles_, by_index_;
    std::vector<std::uint32_t> kept_;
    std::size_t first_of_lines_ = 0;
    Cdt::Vertex_handle last_;  ///< inserted last, near which the next one probably lies
};

std::shared_ptr<const Terrain> Terrain::build(SurfaceData data, SurfaceNotes* notes, const std::stop_token& stop) {
    SurfaceNotes scratch;
    return Triangulator(data, notes ? *notes : scratch, stop).run();
}

std::vector<std::string> SurfaceNotes::in_words() const {
    std::vector<std::string> out;
    const auto say = [&](std::size_t count, const std::string& words) {
        if (count) out.push_back(std::to_string(count) + " " + words);
    };
    say(duplicates, "points stand where another does: the first holds (levels differ by up to " +
                        fixed(worst_duplicate, 3) + " m)");
    say(without_level, "points have no level and were left out");
    say(out_of_reach, "points lie farther than " + fixed(plan_reach / 1000, 0) + " km away or " +
                          fixed(level_reach / 1000, 0) + " km high and were left out");
    say(crossings, "crossings of breaklines: the mean of both levels holds (they differ by up to " +
                       fixed(worst_crossing, 3) + " m)");
    say(lost_faces, "triangles of the file overlap others and were made anew");
    say(unplaced, "parts of lines without levels lie off the surface");
    if (too_many)
        out.push_back("the lines cross each other more than " + std::to_string(most_crossings) +
                      " times, or lie in heaps on each other: no surface was made");
    return out;
}

}  // namespace culvert
