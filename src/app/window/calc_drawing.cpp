// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/calc_drawing.h"

#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"

namespace culvert::app {

CalcDrawing::CalcDrawing(QWidget* parent) : QWidget(parent) {
    setFixedHeight(132);
    setAccessibleName("Drawing of the answer");
}

void CalcDrawing::show_table(const CalcTable& table, const UnitSet& units) {
    table_ = table;
    units_ = units;
    row_ = 0;
    update();
}
void CalcDrawing::show_row(int row) {
    row_ = std::clamp(row, 0, std::max(0, static_cast<int>(table_.rows.size()) - 1));
    update();
}

double CalcDrawing::value(int row, std::string_view key) const {
    if (row < 0 || row >= static_cast<int>(table_.rows.size())) return not_given;
    const CalcAnswer& a = table_.rows[static_cast<std::size_t>(row)];
    const auto at = a.values.find(key);
    return !a.ok || at == a.values.end() ? not_given : at->second;
}

QString CalcDrawing::section() const {
    if (!table_.calc) return {};
    if (!std::isnan(value(row_, "to_crown")) && !std::isnan(value(row_, "spread"))) return "street";
    if (!std::isnan(value(row_, "size"))) return "pipe";
    return {};
}

void CalcDrawing::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QString what = section();
    const bool curve = has_curve();
    const QRectF all = QRectF(rect()).adjusted(10, 6, -10, -6);
    const QRectF left =
        curve && !what.isEmpty() ? QRectF(all.left(), all.top(), all.width() * 0.46, all.height()) : all;
    if (what == "street") paint_street(p, left);
    if (what == "pipe") paint_pipe(p, left);
    if (curve)
        paint_curve(p, what.isEmpty()
                           ? all
                           : QRectF(left.right() + 18, all.top(), all.right() - left.right() - 18, all.height()));
}

/// From the curb to the crown: gutter, lane, and the water to its spread.
void CalcDrawing::paint_street(QPainter& p, const QRectF& box) const {
    const Theme& t = theme();
    const auto or_0 = [&](std::string_view key) { return std::isnan(value(row_, key)) ? 0 : value(row_, key); };
    const double crown = std::max(value(row_, "to_crown"), 0.1), gutter = std::min(or_0("gutter"), crown);
    const double sw = or_0("gutter_slope"), sx = or_0("cross_slope"), depth = or_0("depth");
    const double spread = std::min(or_0("spread"), crown), curb = std::max(0.15, depth * 1.1);
    const auto bed = [&](double x) { return x <= gutter ? sw * x : sw * gutter + sx * (x - gutter); };
    const double high = std::max(bed(crown), curb), scale_x = (box.width() - 30) / crown,
                 scale_y = (box.height() - 34) / std::max(high, 0.05);
    const auto at = [&](double x, double y) {
        return QPointF(box.left() + 20 + x * scale_x, box.bottom() - 20 - y * scale_y);
    };
    if (spread > 0) {
        const double level = bed(spread);
        QPolygonF water{at(0, level), at(0, 0)};
        if (spread > gutter) water << at(gutter, bed(gutter));
        water << at(spread, level);
        p.setPen(QPen(t.water, 1.4));
        p.setBrush(t.water_body);
        p.drawPolygon(water);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.ink, 1.6));
    p.drawPolyline(QPolygonF{at(0, curb) + QPointF(-14, 0), at(0, curb), at(0, 0), at(gutter, bed(gutter)),
                             at(crown, bed(crown))});
    p.setFont(lettering(8.5));
    p.setPen(t.water);
    const QPointF foot = at(0, 0) + QPointF(0, 15);
    p.drawText(foot, "spread " + text(units_.text(value(row_, "spread"), Quantity::Length)) + ", depth " +
                         text(units_.text(depth, Quantity::Length)));
    p.setPen(t.quiet);
    p.drawText(QRectF(box.left(), box.top(), box.width(), 14), Qt::AlignRight,
               "heights drawn " + QString::number(std::max(1.0, std::round(scale_y / scale_x))) + " times");
}

/// A circle, or a box where a width is given, with its water.
void CalcDrawing::paint_pipe(QPainter& p, const QRectF& box) const {
    const Theme& t = theme();
    const double size = std::max(value(row_, "size"), 1e-3), width = value(row_, "width");
    const bool round = std::isnan(width);
    const double across = round ? size : width,
                 scale = std::min((box.height() - 22) / size, (box.width() - 150) / across);
    const QRectF barrel(box.left() + 16, box.top() + 2, across * scale, size * scale);
    QPainterPath path;
    if (round) path.addEllipse(barrel);
    else path.addRect(barrel);
    const double depth = value(row_, "depth");
    if (depth > 0) {
        p.save();
        p.setClipPath(path);
        const double y = barrel.bottom() - std::min(depth, size) * scale;
        p.fillRect(QRectF(barrel.left(), y, barrel.width(), barrel.bottom() - y), t.water_body);
        p.setPen(QPen(t.water, 1.6));
        p.drawLine(QPointF(barrel.left(), y), QPointF(barrel.right(), y));
        p.restore();
    }
    p.setPen(QPen(t.ink, 1.6));
    p.setBrush(Qt::NoBrush);
    p.drawPath(path);
    p.setFont(lettering(8.5));
    p.setPen(t.ink);
    double y = barrel.top() + 14;
    const auto say = [&](const QString& words) {
        p.drawText(QPointF(barrel.right() + 14, y), words);
        y += 16;
    };
    say((round ? "diameter " : "height ") + text(units_.text(size, Quantity::Size)));
    if (!round) say("width " + text(units_.text(width, Quantity::Size)));
    if (depth > 0) say("depth " + text(units_.text(depth, Quantity::Length)) + (depth > size ? ", above the top" : ""));
}

void CalcDrawing::paint_curve(QPainter& p, const QRectF& box) const {
    const Theme& t = theme();
    const CalcField *x_field = nullptr, *y_field = nullptr;
    for (const auto* fields : {&table_.calc->inputs, &table_.calc->results})
        for (const CalcField& f : *fields)
            if (f.key == table_.ranged) x_field = &f;
    for (const auto* fields : {&table_.calc->results, &table_.calc->inputs})
        for (const CalcField& f : *fields)
            if (!y_field && &f != x_field && (fields == &table_.calc->results || f.key == table_.rows[0].sought))
                y_field = &f;
    if (!x_field || !y_field) return;
    double left = 1e300, right = -1e300, low = 0, high = -1e300;
    for (int i = 0; i < static_cast<int>(table_.rows.size()); ++i) {
        const double x = value(i, x_field->key), y = value(i, y_field->key);
        if (std::isnan(x) || std::isnan(y)) continue;
        left = std::min(left, x);
        right = std::max(right, x);
        high = std::max(high, y);
    }
    if (!(right > left) || !(high > low)) return;
    const QRectF area = box.adjusted(44, 14, -6, -18);
    const auto at = [&](double x, double y) {
        return QPointF(area.left() + (x - left) / (right - left) * area.width(),
                       area.bottom() - (y - low) / (high - low) * area.height());
    };
    p.setPen(QPen(t.hairline, 1));
    p.drawRect(area);
    QPolygonF line;
    for (int i = 0; i < static_cast<int>(table_.rows.size()); ++i)
        if (const double x = value(i, x_field->key), y = value(i, y_field->key); !std::isnan(x) && !std::isnan(y))
            line << at(x, y);
    p.setPen(QPen(t.water, 1.8));
    p.drawPolyline(line);
    const double x = value(row_, x_field->key), y = value(row_, y_field->key);
    if (!std::isnan(x) && !std::isnan(y)) {
        p.setBrush(t.accent);
        p.setPen(Qt::NoPen);
        p.drawEllipse(at(x, y), 4, 4);
    }
    p.setFont(lettering(8));
    p.setPen(t.quiet);
    p.drawText(QRectF(box.left(), area.top() - 7, 40, 14), Qt::AlignRight,
               text(units_.number(high, y_field->quantity)));
    p.drawText(QRectF(box.left(), area.bottom() - 7, 40, 14), Qt::AlignRight,
               text(units_.number(low, y_field->quantity)));
    p.drawText(QRectF(area.left(), area.bottom() + 3, area.width(), 14), Qt::AlignLeft,
               text(units_.number(left, x_field->quantity)));
    p.drawText(QRectF(area.left(), area.bottom() + 3, area.width(), 14), Qt::AlignRight,
               text(units_.number(right, x_field->quantity)));
    p.drawText(QRectF(area.left(), area.bottom() + 3, area.width(), 14), Qt::AlignHCenter,
               text(x_field->label) + " " + text(units_.unit(x_field->quantity).symbol));
    p.drawText(QRectF(area.left() + 4, box.top() - 4, area.width(), 14), Qt::AlignLeft,
               text(y_field->label) + " " + text(units_.unit(y_field->quantity).symbol));
}

}  // namespace culvert::app
