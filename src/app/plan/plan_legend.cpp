// SPDX-License-Identifier: GPL-3.0-or-later
// Legend, scale bar and first words of the plan.
#include <QPainter>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/plan_view.h"

namespace culvert::app {

void PlanView::paint_legend(QPainter& p) {
    legend_.clear();
    if (scene_.pipes().empty() && (!graded(theme_.areas) || scene_.areas().empty())) return;
    if (theme_.quiet_pipes && !graded(theme_.areas)) return;  // its colours mean nothing here
    const Theme& t = theme();
    const RainEvent* e = document_.project().events.find(document_.event().value);
    const bool areas = graded(theme_.areas);
    const QString title =
        areas ? colouring(theme_.areas == AreaFill::Coefficient ? "area_coefficient" : "area_time").label
              : "Pipes: " + colouring_.in_words() + (e ? ", " + text(e->name) : QString());
    p.setFont(lettering(8.5));
    const QFontMetricsF m(p.font());
    QStringList entries;
    std::vector<std::function<void(QRectF)>> marks;
    const UnitSet u = document_.units();
    if (!areas && colouring_.key == "verdict") {
        for (const Verdict v : {Verdict::Within, Verdict::Near, Verdict::Beyond}) {
            entries << QString(v == Verdict::Within ? "within" : (v == Verdict::Near ? "near" : "beyond"));
            marks.emplace_back([&p, &t, v](QRectF r) {
                p.setPen(t.verdict_pen(v, v == Verdict::Beyond ? 5 : 3.5));
                p.drawLine(QPointF(r.left(), r.center().y()), QPointF(r.right(), r.center().y()));
                if (v == Verdict::Beyond) {
                    p.setPen(QPen(t.panel, 1.6));
                    p.drawLine(QPointF(r.left(), r.center().y()), QPointF(r.right(), r.center().y()));
                }
            });
        }
    } else {
        const ResultClasses g =
            areas ? area_classes(theme_.areas) : (colouring_.field ? colouring_.field->classes : ResultClasses{});
        const Quantity q =
            areas ? area_quantity(theme_.areas) : (colouring_.field ? colouring_.field->quantity : Quantity::None);
        const QString unit = text(u.unit(q).symbol).isEmpty() ? QString() : " " + text(u.unit(q).symbol);
        for (int k = 0; k < plan_shades; ++k) {
            const int step = g.more_is_worse ? k : plan_shades - 1 - k;
            const auto bound = [&](int i) { return text(u.number(g.bounds[static_cast<std::size_t>(i)], q)) + unit; };
            if (g.empty())
                entries << QString(k == 0 ? "all events" : (k == plan_shades - 1 ? "none" : (k == 1 ? "most" : "few")));
            else entries << (step == 0 ? "≤ " + bound(0) : "> " + bound(step - 1));
            marks.emplace_back([this, &p, k, areas](QRectF r) {
                QColor c = shade_colour(k);
                if (areas) {
                    c.setAlpha(110);
                    p.fillRect(r, c);
                    return;
                }
                p.setPen(QPen(c, 5));
                p.drawLine(QPointF(r.left(), r.center().y()), QPointF(r.right(), r.center().y()));
            });
        }
    }
    legend_ = QStringList{title} + entries;
    double w = 16;
    for (const QString& entry : entries) w += 34 + m.horizontalAdvance(entry) + 14;
    w = std::max(w, m.horizontalAdvance(title) + 24);
    const QRectF box(10, height() - 54, w, 44);
    p.setPen(t.hairline);
    p.setBrush(t.panel);
    p.drawRoundedRect(box, 5, 5);
    p.setPen(t.quiet);
    p.drawText(box.topLeft() + QPointF(10, 17), title);
    double x = box.left() + 10;
    for (int i = 0; i < entries.size(); ++i) {
        marks[static_cast<std::size_t>(i)](QRectF(x, box.top() + 24, 28, 12));
        p.setPen(t.ink);
        p.drawText(QPointF(x + 34, box.top() + 34), entries[i]);
        x += 34 + m.horizontalAdvance(entries[i]) + 14;
    }
}

void PlanView::paint_scale_bar(QPainter& p) {
    if (scene_.structures().empty()) return;
    const UnitSet u = document_.units();
    const double unit = u.unit(Quantity::Length).factor, aim = 110 / scale_ / unit,
                 power = std::pow(10, std::floor(std::log10(aim)));
    double length = power;
    for (const double k : {2.0, 5.0, 10.0})
        if (k * power <= aim) length = k * power;
    const double pixels = length * unit * scale_, y = height() - 18, right = width() - 16;
    p.setPen(QPen(theme().ink, 1.5));
    p.drawLine(QPointF(right - pixels, y), QPointF(right, y));
    p.drawLine(QPointF(right - pixels, y - 3), QPointF(right - pixels, y + 3));
    p.drawLine(QPointF(right, y - 3), QPointF(right, y + 3));
    p.setFont(lettering(8));
    p.setPen(theme().quiet);
    p.drawText(QRectF(right - pixels - 20, y - 18, pixels + 40, 14), Qt::AlignCenter,
               QString::number(length) + " " + text(u.unit(Quantity::Length).symbol));
}

void PlanView::paint_empty(QPainter& p) {
    p.setPen(theme().ink);
    p.setFont(lettering(14, true));
    p.drawText(QRectF(0, height() / 2.0 - 40, width(), 24), Qt::AlignCenter, "Draw the first inlet");
    p.setPen(theme().quiet);
    p.setFont(lettering(10));
    p.drawText(QRectF(0, height() / 2.0 - 10, width(), 44), Qt::AlignCenter,
               "Choose Draw (D), click where the water comes in, then click on to the outfall.\nOr open the demo "
               "project: Ctrl+K, \"demo\".");
}

}  // namespace culvert::app
