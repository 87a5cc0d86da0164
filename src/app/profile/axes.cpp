// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/profile/axes.h"

#include <cmath>

#include "app/kit/theme.h"

namespace culvert::app {

void paint_axes(QPainter& p, const SectionAxes& axes, const UnitSet& u) {
    const Theme& t = theme();
    const QRectF& a = axes.area;
    const double unit = u.unit(Quantity::Level).factor, range = axes.high - axes.low,
                 step = round_step(range / unit / std::max(2.0, a.height() / 26));
    p.setFont(lettering(8));
    for (double level = std::ceil(axes.low / unit / step) * step; level * unit < axes.high; level += step) {
        const double y = a.bottom() - (level * unit - axes.low) / range * a.height();
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(a.left() - 4, y), QPointF(a.right(), y));
        p.setPen(t.quiet);
        p.drawText(QRectF(0, y - 8, a.left() - 9, 16), Qt::AlignRight | Qt::AlignVCenter,
                   QString::number(level, 'f', step < 1 ? 2 : 1));
    }
    const double length = u.unit(Quantity::Length).factor,
                 along = round_step(axes.length / length / std::max(2.0, a.width() / axes.label_every));
    for (double at = 0; at * length <= axes.length * (1 + 1e-9); at += along) {
        const double x = a.left() + at * length / axes.length * a.width();
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(x, a.bottom()), QPointF(x, a.bottom() + 4));
        p.setPen(t.quiet);
        p.drawText(QRectF(x - 40, a.bottom() + 5, 80, 14), Qt::AlignCenter, QString::number(at));
    }
}

}  // namespace culvert::app
