// SPDX-License-Identifier: GPL-3.0-or-later
// Catchments in the plan: their fill, their land covers, the way of their water and its parts.
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/kit/theme.h"
#include "app/plan/plan_view.h"
#include "core/analysis/result_fields.h"
#include "core/design/flow_parts.h"
#include "core/geometry/grown_outline.h"

namespace culvert::app {
namespace {
constexpr std::size_t many = 3000;  ///< catchments; above that they are drawn without smoothing
}  // namespace

void PlanView::paint_areas(QPainter& p, const QRectF& view) {
    const Theme& t = theme();
    const bool filled = graded(theme_.areas);
    const ResultClasses classes = area_classes(theme_.areas);
    QColor line = t.within;
    line.setAlpha(filled ? 190 : 120);
    QPen edge(line, 1);
    edge.setDashPattern({4, 3});
    p.setRenderHint(QPainter::Antialiasing, scene_.areas().size() < many);
    QVector<QLineF> ways;
    const PlanArea* chosen = nullptr;
    for (const PlanArea& area : scene_.areas()) {
        if (!view.normalized().intersects(area.box)) continue;
        const double across = std::max(area.box.width(), area.box.height()) * scale_;
        if (across < 3) continue;  // smaller than what is drawn over it
        QPolygonF polygon;
        for (const QPointF& q : area.outline) polygon << to_screen(q);
        p.setPen(across < 14 ? QPen(Qt::NoPen) : edge);
        p.setBrush(theme_.areas == AreaFill::Outline ? QBrush(Qt::NoBrush) : QBrush(t.area));
        if (filled) {
            const double value = theme_.areas == AreaFill::Coefficient ? area.coefficient : area.time;
            QColor fill = std::isnan(value) ? t.unknown : shade_colour(classes.of(value));
            fill.setAlpha(std::isnan(value) ? 40 : 110);
            p.setBrush(fill);
        }
        p.drawPolygon(polygon);
        if (!area.drains || across < 24) continue;
        if (filled && document_.selected() == ElementRef{Kind::Catchment, area.id}) chosen = &area;
        // The way its water takes to its structure: the longest flow path where it is known.
        if (area.flow_path.size() > 1) {
            for (std::size_t i = 1; i < area.flow_path.size(); ++i)
                ways << QLineF(to_screen(area.flow_path[i - 1]), to_screen(area.flow_path[i]));
        } else ways << QLineF(to_screen(area.centre), to_screen(area.target));
    }
    if (filled) paint_covers(p, view, classes);
    p.setPen(QPen(filled ? t.water : line, filled ? 1.6 : 1));
    p.setBrush(Qt::NoBrush);
    p.drawLines(ways);
    if (chosen) paint_flow_parts(p, *chosen);
}

void PlanView::set_water_time(double seconds) {
    if (seconds == water_time_ || (std::isnan(seconds) && std::isnan(water_time_))) return;
    water_time_ = seconds;
    stale();
}

/// Of the water in a pond: at the chosen time, else its highest in the event; NaN where it is not known.
double PlanView::pond_level(const EventResult& r, StructureId structure) const {
    const int node = r.network->node_of(structure);
    const PondSummary* s = node == no_node ? nullptr : pond_at(r, static_cast<std::size_t>(node));
    if (!s) return not_given;
    const Series* levels = r.series_of({Kind::Structure, structure.value}, "level");
    if (std::isnan(water_time_) || !levels || levels->values.empty()) return s->level;
    const double last = static_cast<double>(levels->values.size() - 1);
    return levels->values[static_cast<std::size_t>(std::clamp(water_time_ / levels->step - 0.5, 0.0, last))];
}

/// Ponds with their outline, as wide as they are filled in the viewed event; and where their ways out lead.
void PlanView::paint_ponds(QPainter& p) {
    const Project& project = document_.project();
    if (project.ponds.size() == 0 && project.outlets.size() == 0) return;
    const Theme& t = theme();
    const auto r = document_.result();
    p.setRenderHint(QPainter::Antialiasing);
    const auto place_of = [&](StructureId id, QPointF& at) {
        const Structure* s = project.structures.find(id.value);
        if (!s || !placed(*s)) return false;
        at = to_screen({s->x, s->y});
        return true;
    };
    for (const Pond& pond : project.ponds) {
        if (pond.outline.size() < 3) continue;
        double level = pond.bottom;
        if (r)
            if (const double now = pond_level(*r, pond.structure); !std::isnan(now)) level = now;
        const double sides = std::isnan(pond.sides) ? 0 : pond.sides;
        const auto pushed = [&](double rise) {
            QPolygonF shape;
            for (const Point& q : grown_outline(pond.outline, std::max(0.0, rise) * sides))
                shape << to_screen({q.x, q.y});
            return shape;
        };
        p.setPen(QPen(t.ground, 1, Qt::DashLine));
        p.setBrush(t.tint(t.ground, 0.08));
        if (!std::isnan(pond.crest) && !std::isnan(pond.bottom)) p.drawPolygon(pushed(pond.crest - pond.bottom));
        p.setPen(QPen(t.water, 1));
        p.setBrush(t.water_body);
        p.drawPolygon(pushed(std::isnan(level) || std::isnan(pond.bottom) ? 0 : level - pond.bottom));
        p.setPen(QPen(t.water, 0.8, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        p.drawPolygon(pushed(0));
    }
    QPen way(t.water, 1.4);
    way.setDashPattern({2, 3});
    p.setPen(way);
    for (const PondOutlet& o : project.outlets) {
        QPointF a, b;
        if (!o.to || !place_of(o.structure, a) || !place_of(o.to, b)) continue;
        const double length = std::hypot(b.x() - a.x(), b.y() - a.y());
        if (length < 24) continue;
        const QPointF along = (b - a) / length, from = a + along * 10, to = b - along * 10,
                      across(-along.y() * 3.5, along.x() * 3.5);
        p.drawLine(from, to);
        p.setBrush(t.water);
        p.drawPolygon(QPolygonF{to, to - along * 7 + across, to - along * 7 - across});
        p.setBrush(Qt::NoBrush);
    }
}

/// Land covers that were drawn or cut from a layer, within their catchments: where C fills the plan, each by its own.
void PlanView::paint_covers(QPainter& p, const QRectF& view, const ResultClasses& classes) {
    const Theme& t = theme();
    for (const PlanCover& cover : scene_.covers()) {
        if (!view.normalized().intersects(cover.box)) continue;
        if (std::max(cover.box.width(), cover.box.height()) * scale_ < 6) continue;
        QPolygonF polygon;
        for (const QPointF& q : cover.outline) polygon << to_screen(q);
        const bool chosen = document_.is_selected({Kind::LandCover, cover.id});
        p.setPen(chosen ? QPen(t.accent, 1.6) : QPen(t.quiet, 0.8, Qt::DotLine));
        p.setBrush(Qt::NoBrush);
        if (theme_.areas == AreaFill::Coefficient && cover.coefficient >= 0) {
            QColor fill = shade_colour(classes.of(cover.coefficient));
            fill.setAlpha(130);
            p.setBrush(fill);
        }
        p.drawPolygon(polygon);
    }
}

/// The parts of the chosen catchment's flow path along its line: sheet flow dotted, shallow flow dashed, channels full.
void PlanView::paint_flow_parts(QPainter& p, const PlanArea& area) {
    const Catchment* c = document_.project().catchments.find(area.id);
    if (!c || c->time_by != TimeBy::Parts || c->flow_path.size() < 2) return;
    const Theme& t = theme();
    const ConcentrationTime found = concentration_time(document_.project(), *c);
    const std::vector<double> ends = part_ends(found.parts, length(c->flow_path));
    double from = 0;
    for (std::size_t i = 0; i < ends.size(); ++i) {
        const Qt::PenStyle style = std::holds_alternative<ChannelFlow>(found.parts[i])   ? Qt::SolidLine
                                   : std::holds_alternative<ShallowFlow>(found.parts[i]) ? Qt::DashLine
                                                                                         : Qt::DotLine;
        QPolygonF line;
        const auto put = [&](double at) {
            const Point q = point_at(c->flow_path, at, 0);
            line << to_screen({q.x, q.y});
        };
        put(from);
        double at = 0;
        for (std::size_t k = 1; k < c->flow_path.size(); ++k) {
            at += distance(c->flow_path[k - 1], c->flow_path[k]);
            if (at > from && at < ends[i]) line << to_screen({c->flow_path[k].x, c->flow_path[k].y});
        }
        put(ends[i]);
        p.setPen(QPen(t.paper, 5));
        p.drawPolyline(line);
        p.setPen(QPen(t.water, 2.6, style, Qt::FlatCap));
        p.drawPolyline(line);
        from = ends[i];
    }
}

}  // namespace culvert::app
