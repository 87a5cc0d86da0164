// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_water.h"

#include <QPainter>
#include <cmath>
#include <set>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/design/site.h"

namespace culvert::app {
void PlanWater::update(Document& document, const std::shared_ptr<const EventResult>& result, const QRectF& view) {
    if (result != result_ || document.revision() != revision_) {
        result_ = result;
        revision_ = document.revision();
        strips_.clear();
        gathered_.clear();
    }
    if (!result || result->streets.empty()) return;
    const Project& project = document.project();
    // Streets that come into view: the others wait.
    const QRectF seen = view.normalized();
    std::set<std::uint64_t> fresh;
    for (const Street& street : project.streets) {
        if (street.line.size() < 2 || gathered_.contains(street.id)) continue;
        QRectF box(street.line[0].x, street.line[0].y, 0, 0);
        for (const Point& q : street.line)
            box = QRectF(QPointF(std::min(box.left(), q.x), std::min(box.top(), q.y)),
                         QPointF(std::max(box.right(), q.x), std::max(box.bottom(), q.y)));
        const double beside = street.half_width() + 1;
        if (seen.intersects(box.adjusted(-beside, -beside, beside, beside))) fresh.insert(street.id);
    }
    if (fresh.empty()) return;
    gathered_.insert(fresh.begin(), fresh.end());
    const Ground ground = document.site().ground();
    const StreetWater water(project, *result, [&](const Street& s) {
        return fresh.contains(s.id) ? profile_of(s, ground) : StreetProfile{};
    });
    for (const std::uint64_t id : fresh) {
        const Street& street = *project.streets.find(id);
        const auto& reaches = water.of({id});
        if (reaches.empty()) continue;
        const auto beside = [&street](double station, double offset) {
            const Point at = point_at(street.line, station, offset);
            return QPointF(at.x, at.y);
        };
        for (const StreetReach& reach : reaches) {
            Strip strip;
            QPolygonF inner;
            for (const WaterAt& w : reach.points) {
                const double curb = shape_at(project, street, w.station).to_curb();
                const QPointF foot = beside(w.station, reach.side * curb),
                              edge = beside(w.station, reach.side * (curb - w.spread));
                strip.area << foot;
                inner << edge;
                if (w.spread >= strip.spread) {
                    strip.spread = w.spread;
                    strip.dry = curb - w.spread;
                    strip.widest = foot;
                    strip.in = edge;
                    strip.crown = beside(w.station, 0);
                }
            }
            for (auto q = inner.crbegin(); q != inner.crend(); ++q) strip.area << *q;
            strip.box = strip.area.boundingRect();
            strips_.push_back(std::move(strip));
        }
    }
}

void PlanWater::paint(QPainter& p, const QRectF& view, double scale, const std::function<QPointF(QPointF)>& to_screen,
                      const UnitSet& units) const {
    const Theme& t = theme();
    const QRectF seen = view.normalized();
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    // Narrower than a pixel it would vanish: then the curb is drawn as a line of water.
    for (const Strip& s : strips_) {
        if (!seen.intersects(s.box.adjusted(-1, -1, 1, 1))) continue;
        QPolygonF area;
        for (const QPointF& q : s.area) area << to_screen(q);
        p.setBrush(t.water);
        if (s.spread * scale < 2) {
            p.setPen(QPen(t.water, 1.4));
            p.drawPolyline(area.mid(0, area.size() / 2));
            p.setPen(Qt::NoPen);
        } else p.drawPolygon(area);
    }
    // The dry width, where there is room for it.
    p.setFont(lettering(8));
    std::vector<QRectF> taken;
    for (const Strip& s : strips_) {
        if (s.dry * scale < 16 || !seen.intersects(s.box)) continue;
        const QPointF a = to_screen(s.in), b = to_screen(s.crown);
        const QString words = text(units.text(s.dry, Quantity::Length)) + " dry";
        const QRectF box((a + b) / 2 - QPointF(30, 7), QSizeF(60, 14));
        if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& r) { return r.intersects(box); })) continue;
        taken.push_back(box);
        p.setPen(QPen(t.quiet, 1));
        p.drawLine(a, b);
        p.setPen(Qt::NoPen);
        QColor paper = t.paper;
        paper.setAlpha(210);
        p.setBrush(paper);
        p.drawRoundedRect(box, 3, 3);
        p.setPen(t.ink);
        p.drawText(box, Qt::AlignCenter, words);
    }
}

}  // namespace culvert::app
