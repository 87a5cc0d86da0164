// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_scene.h"

#include <QPolygonF>
#include <cmath>
#include <numeric>
#include <unordered_map>

#include "core/model/catchment_time.h"
#include "core/streets/street.h"

namespace culvert::app {

/// Sizes, rims and names change more often than places: then lists and trees stay, and only their values are renewed.
bool PlanScene::update_in_place(const Project& p) {
    if (seen_structures_.size() != p.structures.size() || seen_pipes_.size() != p.pipes.size()) return false;
    if (!seen_structures_.same(p.structures)) {
        auto old = seen_structures_.begin();
        for (const Structure& s : p.structures) {
            if (old->id != s.id || placed(*old) != placed(s) || (placed(s) && (old->x != s.x || old->y != s.y)))
                return false;
            ++old;
        }
    }
    if (!seen_pipes_.same(p.pipes)) {
        auto old = seen_pipes_.begin();
        for (const Pipe& pipe : p.pipes) {
            if (old->id != pipe.id || old->from != pipe.from || old->to != pipe.to || old->bends != pipe.bends)
                return false;
            ++old;
        }
    }
    std::size_t i = 0;
    if (!seen_structures_.same(p.structures))
        for (const Structure& s : p.structures) {
            if (!placed(s)) continue;
            take_values(structures_[i++], s);
        }
    i = 0;
    if (!seen_pipes_.same(p.pipes))
        for (const Pipe& pipe : p.pipes) {
            if (i == pipes_.size() || pipes_[i].id != pipe.id) continue;  // it lacks an end and is not shown
            take_values(pipes_[i++], pipe);
        }
    seen_structures_ = p.structures;
    seen_pipes_ = p.pipes;
    ++version_;
    return true;
}

void PlanScene::take_values(PlanStructure& shown, const Structure& s) {
    shown.kind = s.kind;
    shown.rim = s.rim;
    shown.idle = s.status == Status::Abandoned;
    if (shown.name != s.name) shown.name = s.name;
}
void PlanScene::take_values(PlanPipe& shown, const Pipe& pipe) {
    shown.width = span_of(section_of(pipe));
    shown.idle = pipe.status == Status::Abandoned;
}

bool PlanScene::update_rows(const Project& p, const ChangeSet& what) {
    if (!built_ || !what.listed() || what.geometry() || what.topology()) return false;
    for (const Kind kind : {Kind::Catchment, Kind::LandCover, Kind::StreetPath, Kind::Street, Kind::BuriedLine})
        if (what.touches(kind)) return false;
    // Lists stand in the order of their ids, as the tables do.
    const auto at = [](auto& list, std::uint64_t id) {
        const auto i =
            std::lower_bound(list.begin(), list.end(), id, [](const auto& e, std::uint64_t v) { return e.id < v; });
        return i != list.end() && i->id == id ? &*i : nullptr;
    };
    for (const ElementRef e : what.rows()) {
        if (e.kind == Kind::Structure)
            if (const Structure* s = p.structures.find(e.id))
                if (PlanStructure* shown = at(structures_, e.id)) take_values(*shown, *s);
        if (e.kind == Kind::Pipe)
            if (const Pipe* pipe = p.pipes.find(e.id))
                if (PlanPipe* shown = at(pipes_, e.id)) take_values(*shown, *pipe);
    }
    seen_structures_ = p.structures;
    seen_pipes_ = p.pipes;
    if (what.touches(Kind::Structure) || what.touches(Kind::Pipe)) ++version_;
    return true;
}

void PlanScene::update(const Project& p, const ChangeSet& what) {
    if (update_rows(p, what)) return;
    if (built_ && seen_structures_.same(p.structures) && seen_pipes_.same(p.pipes) &&
        seen_catchments_.same(p.catchments) && seen_covers_.same(p.land_covers) && seen_paths_.same(p.street_paths) &&
        seen_streets_.same(p.streets) && seen_lines_.same(p.buried_lines))
        return;
    if (built_ && seen_catchments_.same(p.catchments) && seen_covers_.same(p.land_covers) &&
        seen_paths_.same(p.street_paths) && seen_streets_.same(p.streets) && seen_lines_.same(p.buried_lines) &&
        update_in_place(p))
        return;
    seen_structures_ = p.structures;
    seen_pipes_ = p.pipes;
    seen_catchments_ = p.catchments;
    seen_covers_ = p.land_covers;
    seen_paths_ = p.street_paths;
    seen_streets_ = p.streets;
    seen_lines_ = p.buried_lines;
    built_ = true;
    ++version_;
    pipes_.clear();
    structures_.clear();
    areas_.clear();
    covers_.clear();
    paths_.clear();
    streets_.clear();
    lines_.clear();
    double left = 1e300, right = -1e300, low = 1e300, high = -1e300;
    const auto grow = [&](QPointF at) {
        left = std::min(left, at.x());
        right = std::max(right, at.x());
        low = std::min(low, at.y());
        high = std::max(high, at.y());
    };
    std::vector<BoundingBox> points;
    for (const Structure& s : p.structures) {
        if (!placed(s)) continue;  // it has no place: named among the findings
        points.push_back({s.x, s.y, s.x, s.y});
        structures_.push_back({s.id, {s.x, s.y}, s.kind, s.name, s.rim, s.status == Status::Abandoned});
        grow({s.x, s.y});
    }
    std::vector<BoundingBox> boxes;
    for (const Pipe& pipe : p.pipes) {
        const Structure *a = p.structures.find(pipe.from.value), *b = p.structures.find(pipe.to.value);
        if (!a || !b || !placed(*a) || !placed(*b) || !in_reach(pipe.bends)) continue;
        PlanPipe shown{pipe.id, {{a->x, a->y}}, span_of(section_of(pipe)), pipe.status == Status::Abandoned};
        for (const Point& bend : pipe.bends) shown.line.emplace_back(bend.x, bend.y);
        shown.line.emplace_back(b->x, b->y);
        double x0 = 1e300, x1 = -1e300, y0 = 1e300, y1 = -1e300;
        for (const QPointF& q : shown.line) {
            x0 = std::min(x0, q.x());
            x1 = std::max(x1, q.x());
            y0 = std::min(y0, q.y());
            y1 = std::max(y1, q.y());
            grow(q);
        }
        boxes.push_back({x0, y0, x1, y1});
        pipes_.push_back(std::move(shown));
    }
    std::unordered_map<std::uint64_t, std::pair<double, double>> covers;  // area, and C times area
    for (const LandCover& l : p.land_covers) {
        if (l.outline.size() > 2 && in_reach(l.outline)) {
            PlanCover cover{l.id, l.catchment.value, {}, {}, l.coefficient};
            for (const Point& q : l.outline) cover.outline.emplace_back(q.x, q.y);
            cover.box = QPolygonF(QList<QPointF>(cover.outline.begin(), cover.outline.end())).boundingRect();
            covers_.push_back(std::move(cover));
        }
        if (l.area > 0 && l.coefficient >= 0) {
            auto& [whole, effective] = covers[l.catchment.value];
            whole += l.area;
            effective += l.area * l.coefficient;
        }
    }
    const IdfCurve rain = rain_of_times(p);
    for (const Catchment& c : p.catchments) {
        if (c.outline.size() < 3 || !in_reach(c.outline) || !in_reach(c.flow_path)) continue;
        PlanArea area{
            c.id, {}, {}, {}, false, c.name, c.area, {}, {}, c.coefficient, concentration_time(p, c, rain).time};
        if (const auto own = covers.find(c.id); own != covers.end()) {
            area.area = own->second.first;
            area.coefficient = own->second.second / own->second.first;
        }
        for (const Point& q : c.flow_path) area.flow_path.emplace_back(q.x, q.y);
        for (const Point& q : c.outline) {
            area.outline.emplace_back(q.x, q.y);
            grow({q.x, q.y});
        }
        const Point middle = centre(c.outline);
        area.centre = {middle.x, middle.y};
        if (const Structure* s = p.structures.find(c.structure.value); s && placed(*s)) {
            area.target = {s->x, s->y};
            area.drains = true;
        }
        QPolygonF all;
        for (const auto* part : {&area.outline, &area.flow_path})
            for (const QPointF& q : *part) all << q;
        if (area.drains) all << area.target;
        area.box = all.boundingRect();
        areas_.push_back(std::move(area));
    }
    for (const StreetPath& path : p.street_paths) {
        const Structure *from = p.structures.find(path.from.value), *to = p.structures.find(path.to.value);
        if (!from || (!to && path.bends.empty()) || !placed(*from) || (to && !placed(*to)) || !in_reach(path.bends))
            continue;
        static const std::size_t target = *field_index(Kind::StreetPath, "to");
        PlanPath shown{path.id, {{from->x, from->y}}, !to, path.origin[target] == Origin::Proposed};
        for (const Point& q : path.bends) shown.line.emplace_back(q.x, q.y);
        if (to) shown.line.emplace_back(to->x, to->y);
        paths_.push_back(std::move(shown));
    }
    for (const Street& street : p.streets) {
        if (street.line.size() < 2 || !in_reach(street.line)) continue;
        PlanStreet shown{street.id, street.name, {}, {}, {}, {}, {}};
        const auto take = [&](std::vector<QPointF>& into, const std::vector<Point>& line) {
            for (const Point& q : line) {
                into.emplace_back(q.x, q.y);
                grow({q.x, q.y});
            }
        };
        take(shown.line, street.line);
        take(shown.left_curb, parallel(street.line, -street.to_curb()));
        take(shown.right_curb, parallel(street.line, street.to_curb()));
        take(shown.left_edge, parallel(street.line, -street.half_width()));
        take(shown.right_edge, parallel(street.line, street.half_width()));
        streets_.push_back(std::move(shown));
    }
    for (const BuriedLine& l : p.buried_lines) {
        if (l.line.size() < 2 || !in_reach(l.line)) continue;
        PlanLine shown{l.id, l.name, l.kind, {}, {}};
        for (const Point& q : l.line) {
            shown.line.emplace_back(q.x, q.y);
            grow({q.x, q.y});
        }
        shown.box = QPolygonF(QList<QPointF>(shown.line.begin(), shown.line.end())).boundingRect();
        lines_.push_back(std::move(shown));
    }
    bounds_ = left <= right ? QRectF(left, low, right - left, high - low) : QRectF();
    structure_index_ = BoxIndex(points);
    pipe_index_ = BoxIndex(boxes);
}

static BoundingBox box_of(const QRectF& rect) { return {rect.left(), rect.top(), rect.right(), rect.bottom()}; }
static std::vector<std::size_t> all_of(std::size_t count) {
    std::vector<std::size_t> out(count);
    std::iota(out.begin(), out.end(), std::size_t{0});
    return out;
}
std::vector<std::size_t> PlanScene::pipes_in(const QRectF& rect) const {
    return rect.contains(bounds_) ? all_of(pipes_.size()) : pipe_index_.meeting(box_of(rect));
}
std::vector<std::size_t> PlanScene::structures_in(const QRectF& rect) const {
    return rect.contains(bounds_) ? all_of(structures_.size()) : structure_index_.meeting(box_of(rect));
}

std::uint64_t PlanScene::structure_at(QPointF at, double reach) const {
    std::uint64_t found = 0;
    double nearest = reach;
    for (const std::size_t i : structures_in({at.x() - reach, at.y() - reach, 2 * reach, 2 * reach})) {
        const QPointF d = structures_[i].at - at;
        if (const double distance = std::hypot(d.x(), d.y()); distance <= nearest) {
            nearest = distance;
            found = structures_[i].id;
        }
    }
    return found;
}

ElementRef PlanScene::element_at(QPointF at, double reach) const {
    if (const std::uint64_t s = structure_at(at, reach)) return {Kind::Structure, s};
    ElementRef found;
    double nearest = reach;
    for (const std::size_t i : pipes_in({at.x() - reach, at.y() - reach, 2 * reach, 2 * reach}))
        for (std::size_t k = 1; k < pipes_[i].line.size(); ++k) {
            const QPointF a = pipes_[i].line[k - 1], b = pipes_[i].line[k];
            if (const double d = distance_to_segment({at.x(), at.y()}, {a.x(), a.y()}, {b.x(), b.y()}); d <= nearest) {
                nearest = d;
                found = {Kind::Pipe, pipes_[i].id};
            }
        }
    if (found.id) return found;
    const auto near_line = [&](const std::vector<QPointF>& line) {
        for (std::size_t k = 1; k < line.size(); ++k)
            if (distance_to_segment({at.x(), at.y()}, {line[k - 1].x(), line[k - 1].y()}, {line[k].x(), line[k].y()}) <=
                reach)
                return true;
        return false;
    };
    for (const PlanLine& line : lines_)
        if (near_line(line.line)) return {Kind::BuriedLine, line.id};
    for (const PlanPath& path : paths_)
        if (near_line(path.line)) return {Kind::StreetPath, path.id};
    for (const PlanStreet& street : streets_)
        if (near_line(street.line)) return {Kind::Street, street.id};
    for (const PlanArea& area : areas_) {
        std::vector<Point> outline;
        for (const QPointF& q : area.outline) outline.push_back({q.x(), q.y()});
        if (inside({at.x(), at.y()}, outline)) return {Kind::Catchment, area.id};
    }
    return {};
}

std::uint64_t PlanScene::cover_at(QPointF at, std::uint64_t catchment) const {
    for (const PlanCover& c : covers_)
        if (c.catchment == catchment && c.box.contains(at) &&
            QPolygonF(QList<QPointF>(c.outline.begin(), c.outline.end())).containsPoint(at, Qt::OddEvenFill))
            return c.id;
    return 0;
}

namespace {

/// Brings the nearest place of a line into `best` where it is nearer than what is there.
void nearer(PlanScene::OnLine& best, double& away, std::uint64_t id, const std::vector<QPointF>& line, QPointF at) {
    double station = 0;
    for (std::size_t k = 1; k < line.size(); ++k) {
        const QPointF a = line[k - 1], d = line[k] - a;
        const double l2 = QPointF::dotProduct(d, d), l = std::sqrt(l2);
        const double t = l2 > 0 ? std::clamp(QPointF::dotProduct(at - a, d) / l2, 0.0, 1.0) : 0;
        const QPointF foot = a + t * d;
        if (const double off = std::hypot(at.x() - foot.x(), at.y() - foot.y()); off <= away) {
            away = off;
            best = {id, foot, station + t * l};
        }
        station += l;
    }
}

}  // namespace

PlanScene::OnLine PlanScene::pipe_near(QPointF at, double reach) const {
    OnLine best;
    for (const std::size_t i : pipes_in({at.x() - reach, at.y() - reach, 2 * reach, 2 * reach}))
        nearer(best, reach, pipes_[i].id, pipes_[i].line, at);
    return best;
}
PlanScene::OnLine PlanScene::street_near(QPointF at, double reach) const {
    OnLine best;
    for (const PlanStreet& s : streets_)
        for (const auto* line : {&s.line, &s.left_curb, &s.right_curb}) nearer(best, reach, s.id, *line, at);
    return best;
}

}  // namespace culvert::app
