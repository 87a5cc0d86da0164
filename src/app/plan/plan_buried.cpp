// SPDX-License-Identifier: GPL-3.0-or-later
// Other lines under ground in the plan, and the places where pipes come too near them.
#include <QPainter>
#include <cmath>
#include <set>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/plan_view.h"

namespace culvert::app {
namespace {

/// Dashes by kind, in widths of the line: the pattern says it where there is no room for a name.
QVector<qreal> dashes(LineKind kind) {
    switch (kind) {
        case LineKind::Water: return {9, 3};
        case LineKind::Gas: return {9, 3, 2, 3};
        case LineKind::Sewer: return {5, 3};
        case LineKind::Electricity: return {2, 3};
        case LineKind::Communication: return {2, 3, 2, 6};
        case LineKind::Heat: return {9, 3, 2, 3, 2, 3};
        case LineKind::Duct: return {5, 3, 2, 3};
        case LineKind::Storm:
        case LineKind::Other: break;
    }
    return {3, 3};
}

}  // namespace

void PlanView::paint_buried(QPainter& p, const QRectF& view) {
    if (scene_.lines().empty()) return;
    const Theme& t = theme();
    const QRectF seen = view.normalized();
    p.setBrush(Qt::NoBrush);
    p.setRenderHint(QPainter::Antialiasing, scene_.lines().size() < 2000);
    p.setFont(lettering(8));
    const QFontMetricsF m(p.font());
    for (const PlanLine& l : scene_.lines()) {
        if (!seen.intersects(l.box.adjusted(-1e-6, -1e-6, 1e-6, 1e-6))) continue;
        QPolygonF line;
        for (const QPointF& q : l.line) line << to_screen(q);
        QPen pen(t.ground, 1.2);
        pen.setDashPattern(dashes(l.kind));
        p.setPen(pen);
        p.drawPolyline(line);
        if (l.name.empty()) continue;
        // Its name along its longest stretch, where that is in view and long enough.
        const QString name = text(l.name);
        const double w = m.horizontalAdvance(name);
        qsizetype best = -1;
        double longest = w + 30;
        for (qsizetype i = 0; i + 1 < line.size(); ++i) {
            const double length = QLineF(line[i], line[i + 1]).length();
            const QPointF middle = (line[i] + line[i + 1]) / 2;
            if (length > longest && rect().contains(middle.toPoint())) {
                longest = length;
                best = i;
            }
        }
        if (best < 0) continue;
        const QLineF stretch(line[best], line[best + 1]);
        double angle = -stretch.angle();
        if (stretch.dx() < 0) angle += 180;
        p.save();
        p.translate(stretch.pointAt(0.35));
        p.rotate(angle);
        p.fillRect(QRectF(-w / 2 - 3, -7, w + 6, 14), t.paper);
        p.setPen(t.ground);
        p.drawText(QRectF(-w / 2, -8, w, 16), Qt::AlignCenter, name);
        p.restore();
    }
}

/// Marks shrink with the room between structures; where two would lie on each other the worse one stands.
void PlanView::paint_clashes(QPainter& p, const QRectF& view) {
    const QRectF seen = view.normalized();
    p.setRenderHint(QPainter::Antialiasing);
    const double r = marks_ == Marks::Full ? 7 : marks_ == Marks::Small ? 4 : marks_ == Marks::Dots ? 2.5 : 1.5;
    const double cell = 2 * r + 5;
    std::set<std::pair<int, int>> taken;
    for (const Verdict verdict : {Verdict::Beyond, Verdict::Near, Verdict::Unknown})
        for (const Clash& c : document_.clashes()) {
            if (c.verdict != verdict || !seen.contains(c.at.x, c.at.y)) continue;
            const QPointF at = to_screen({c.at.x, c.at.y});
            if (!taken.emplace(static_cast<int>(std::floor(at.x() / cell)), static_cast<int>(std::floor(at.y() / cell)))
                     .second)
                continue;
            p.setPen(r < 4 ? QPen(Qt::NoPen) : QPen(theme().verdict(c.verdict), 1.4));
            p.setBrush(theme().paper);
            if (r < 4) {  // a dot with a rim of paper, so that it is told from the line beneath
                p.drawEllipse(at, r + 1, r + 1);
                p.setBrush(theme().verdict(c.verdict));
                p.drawEllipse(at, r, r);
                continue;
            }
            p.drawEllipse(at, r + 2, r + 2);
            draw_verdict_mark(p, at, r * 0.6, c.verdict);
        }
}

}  // namespace culvert::app
