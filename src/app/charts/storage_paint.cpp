// SPDX-License-Identifier: GPL-3.0-or-later
// Painting of ponds in section, hydrographs and curves.
#include <QComboBox>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/charts/storage_view.h"
#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/analysis/result_fields.h"
#include "core/network/through_time.h"
#include "report/storage_tables.h"

namespace culvert::app {

void StorageView::paint_empty(QPainter& p, const QString& words) {
    p.setFont(lettering(10));
    p.setPen(theme().quiet);
    p.drawText(rect().adjusted(20, 10, -20, -10), Qt::AlignCenter | Qt::TextWordWrap, words);
}

void StorageView::paintEvent(QPaintEvent*) {
    if (dirty_) gather();
    QPainter p(this);
    paint_all(p);
}
void StorageView::paint_all(QPainter& p) {
    const Theme& t = theme();
    p.fillRect(rect(), t.panel);
    p.setRenderHint(QPainter::Antialiasing);
    marks_.clear();
    const auto r = document_.result();
    const bool by_time = document_.project().settings().runoff_by != RunoffBy::Rational;
    pictures_->setVisible(by_time && structure_.value != 0);
    if (!by_time)
        return paint_empty(
            p,
            "Hydrographs show here once the project computes them.\nChoose runoff by unit hydrograph under "
            "Rules, Runoff (Ctrl+K: runoff).");
    if (!structure_)
        return paint_empty(
            p, "Select a structure to see its hydrographs.\nGive one storage in its card to make it a pond.");
    if (!r || series_.empty()) return paint_empty(p, r ? "Computing …" : "There is nothing solved yet: it needs rain.");
    if (document_.dimmed()) p.setOpacity(0.45);
    if (pond()) paint_section(p);
    if (pictures_->currentIndex() == 0) paint_time(p);
    else paint_curve(p);
}

double StorageView::section_y(double level) const {
    const QRectF a = section_area();
    return a.bottom() - (level - section_.least) / (section_.most - section_.least) * a.height();
}

/// The pond as if cut through its middle: half widths by the root of its area, outlets where they stand.
void StorageView::paint_section(QPainter& p) {
    const Theme& t = theme();
    const UnitSet u = document_.units();
    const PondNode& n = *pond();
    const QRectF a = section_area();
    const Project& project = document_.project();
    const double top = std::max(n.storage.top(), std::isnan(n.crest) ? n.storage.top() : n.crest);
    double low = n.storage.bottom();
    for (const WayOut& w : n.ways) low = std::min(low, lowest_way({&w, 1}));
    section_ = {low - 0.06 * (top - low), top + 0.12 * (top - low)};
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    p.drawText(QRectF(12, 6, a.right() - 12, 20), Qt::AlignLeft | Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(text(element_name(project, Kind::Pond, n.row)), Qt::ElideRight,
                                                  a.width() + 30));
    const double widest = std::sqrt(std::max(1e-9, n.storage.area(top))), bank = 0.72 * a.width(),
                 middle = a.left() + bank / 2;
    const auto half = [&](double level) {
        return 0.5 * bank * std::sqrt(std::max(0.0, n.storage.area(level))) / widest;
    };
    QPolygonF left, right;
    constexpr int rows = 30;
    const double from = n.storage.bottom(), to = std::max(top, from + 1e-3);
    for (int i = 0; i <= rows; ++i) {
        const double z = from + (to - from) * i / rows;
        left << QPointF(middle - half(z), section_y(z));
        right << QPointF(middle + half(z), section_y(z));
    }
    const auto water_to = [&](double level, const QColor& body) {
        if (!(level > from)) return;
        QPolygonF body_shape;
        for (int i = 0; i <= rows; ++i) {
            const double z = std::min(level, from + (level - from) * i / rows);
            body_shape << QPointF(middle - half(z), section_y(z));
        }
        for (int i = rows; i >= 0; --i) {
            const double z = from + (level - from) * i / rows;
            body_shape << QPointF(middle + half(z), section_y(z));
        }
        p.setPen(Qt::NoPen);
        p.setBrush(body);
        p.drawPolygon(body_shape);
    };
    const int node = document_.result()->network->node_of(structure_);
    const PondSummary* s = pond_at(*document_.result(), static_cast<std::size_t>(node));
    const double now = at_time("level", time_);
    if (s) water_to(s->level, t.tint(t.water_body, 0.35));
    water_to(now, t.water_body);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.ground, 2));
    p.drawPolyline(left);
    p.drawPolyline(right);
    p.drawLine(left.front(), right.front());
    p.setPen(QPen(t.ground, 2));
    p.drawLine(left.back(), left.back() - QPointF(7, 0));
    p.drawLine(right.back(), right.back() + QPointF(8, 0));
    const auto line = [&](double level, const QColor& c, Qt::PenStyle style, const QString& words) {
        if (std::isnan(level)) return;
        p.setPen(QPen(c, 1.2, style));
        p.drawLine(QPointF(a.left(), section_y(level)), QPointF(middle + half(std::min(level, top)), section_y(level)));
        p.setFont(lettering(8));
        p.drawText(QRectF(0, section_y(level) - 8, a.left() - 12, 16), Qt::AlignRight | Qt::AlignVCenter, words);
    };
    line(n.crest, t.ground, Qt::DotLine, text(u.number(n.crest, Quantity::Level)));
    if (s)
        line(s->level, t.water, Qt::DashLine,
             std::abs(section_y(s->level) - section_y(n.crest)) < 13 ? QString()
                                                                     : text(u.number(s->level, Quantity::Level)));
    if (!std::isnan(now) && s && now > from + 1e-3)
        line(now, t.water, Qt::SolidLine,
             std::abs(section_y(now) - section_y(s->level)) < 13 ? QString() : text(u.number(now, Quantity::Level)));
    // Outlets on the right bank, with their flow at the chosen time.
    double last = -1e9;
    std::vector<std::size_t> order(n.ways.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::sort(order.begin(), order.end(), [&](std::size_t x, std::size_t y) {
        return lowest_way({&n.ways[x], 1}) > lowest_way({&n.ways[y], 1});
    });
    for (const std::size_t w : order) {
        const double crest = lowest_way({&n.ways[w], 1});
        const PondOutlet* row = n.pipes[w] < 0 ? project.outlets.find(n.ways[w].row) : nullptr;
        const double tall = row &&
                                    (row->kind == OutletKind::CircularOrifice || row->kind == OutletKind::BoxOrifice ||
                                     row->kind == OutletKind::Culvert) &&
                                    !std::isnan(row->size)
                                ? row->size
                            : n.pipes[w] >= 0
                                ? culvert::height(nth(document_.result()->network->links, n.pipes[w]).section)
                                : 0;
        const double x = middle + half(std::clamp(crest, from, top)), y = section_y(crest);
        const double h = tall > 0 ? std::max(4.0, y - section_y(crest + tall)) : 3;
        const bool weir = !(tall > 0);
        const QRectF mark = weir ? QRectF(x - 3, y - 2, 16, 4) : QRectF(x - 3, y - h, 16, h);
        p.setPen(QPen(dragged_ && row && dragged_ == row->id ? t.accent : t.ink, 1.4));
        p.setBrush(t.panel);
        p.drawRect(mark);
        const double q = at_time("way " + std::to_string(w + 1), time_);
        if (q > 1e-6) {
            p.setPen(QPen(t.water, 2));
            p.drawLine(QPointF(mark.right() + 2, mark.center().y()), QPointF(mark.right() + 12, mark.center().y()));
        }
        const double label = std::max(mark.center().y() - 12, last + 26);
        last = label;
        p.setFont(lettering(8));
        p.setPen(t.ink);
        const QRectF place(mark.right() + 15, label, std::max(40.0, a.right() + 34 - mark.right() - 15), 13);
        const QFontMetricsF m(p.font());
        p.drawText(place, Qt::AlignLeft | Qt::AlignVCenter,
                   m.elidedText(text(way_name(project, n, w)), Qt::ElideRight, place.width()));
        p.setPen(t.quiet);
        p.drawText(place.translated(0, 12), Qt::AlignLeft | Qt::AlignVCenter, text(u.text(q, Quantity::Flow)));
        marks_.push_back({n.ways[w].row, mark.adjusted(-4, -5, 4, 5),
                          text(way_name(project, n, w)) + " at " + text(u.text(crest, Quantity::Level)) +
                              (row ? ": drag it up or down" : "")});
    }
    p.setFont(lettering(8));
    p.setPen(t.quiet);
    p.drawText(QRectF(a.left() - 44, a.bottom() + 6, a.width() + 44, 14), Qt::AlignLeft | Qt::AlignVCenter,
               text(u.text(n.storage.volume(std::isnan(now) ? from : now), Quantity::Volume)) + " of " +
                   text(u.text(n.storage.volume(top), Quantity::Volume)) + " at " + clock_text(time_));
}

QRectF StorageView::outlet_place(std::uint64_t outlet) const {
    for (const Mark& m : marks_)
        if (m.outlet == outlet) return m.rect;
    return {};
}
QPointF StorageView::chart_place(double time, double flow) const {
    const QRectF a = chart_area();
    return {a.left() + (time - first_) / (last_ - first_) * a.width(),
            a.bottom() - flow / flow_.most * a.height() * 0.78};
}

void StorageView::paint_time(QPainter& p) {
    const Theme& t = theme();
    const UnitSet u = document_.units();
    const QRectF a = chart_area();
    const Series *in = series("inflow"), *out = series("flow"), *rain = series("rain"), *level = series("level");
    const RainEvent* event = document_.project().events.find(document_.event().value);
    double most = std::isnan(allowed_) ? 0 : allowed_;
    for (const Series* s : {in, out, before_series()})
        if (s)
            for (const double v : s->values) most = std::max(most, v);
    const bool others = !level && others_.size() > 1;
    if (others)
        for (const SiteHydrographs& h : others_)
            if (const Series* s = h.of("inflow"))
                for (const double v : s->values) most = std::max(most, v);
    flow_.most = std::max(most * 1.04, 1e-9);
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    const QString title = text(element_name(document_.project(), Kind::Structure, structure_.value)) +
                          (event ? ", " + text(event->name) : QString());
    p.drawText(QPointF(a.left() - 50, 20), title);
    const double title_end = a.left() - 50 + QFontMetricsF(p.font()).horizontalAdvance(title) + 14;
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    const double room = width() - 160 - title_end;
    p.drawText(QRectF(title_end, 6, std::max(0.0, room), 18), Qt::AlignLeft | Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(readout_, Qt::ElideRight, std::max(0.0, room)));
    // Grid of flows and times.
    const double per = u.unit(Quantity::Flow).factor, grid = round_step(flow_.most / per / 5);
    p.setFont(lettering(8));
    for (double v = 0; v * per <= flow_.most; v += grid) {
        const double y = chart_place(first_, v * per).y();
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(a.left(), y), QPointF(a.right(), y));
        p.setPen(t.quiet);
        p.drawText(QRectF(a.left() - 56, y - 8, 51, 16), Qt::AlignRight | Qt::AlignVCenter, QString::number(v));
    }
    p.drawText(QRectF(a.left() - 56, a.top() + 0.16 * a.height(), 51, 14), Qt::AlignRight | Qt::AlignVCenter,
               text(u.unit(Quantity::Flow).symbol));
    double hours = 1.0 / 6;
    for (const double h : {1.0 / 6, 0.25, 0.5, 1.0, 2.0, 3.0, 6.0, 12.0, 24.0, 48.0})
        if (hours = h; (last_ - first_) / 3600 / h <= std::max(2.0, a.width() / 70)) break;
    for (double h = std::ceil(first_ / 3600 / hours) * hours; h * 3600 <= last_; h += hours) {
        const double x = chart_place(h * 3600, 0).x();
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(x, a.top()), QPointF(x, a.bottom()));
        p.setPen(t.quiet);
        p.drawText(QRectF(x - 30, a.bottom() + 4, 60, 14), Qt::AlignCenter, clock_text(h * 3600));
    }
    p.save();
    p.setClipRect(a.adjusted(-1, -1, 1, 1));
    const auto path = [&](const Series& s, double scale_most, double share, double base) {
        QPolygonF line;
        const std::size_t n = s.values.size();
        const double columns = std::max(1.0, a.width()), step = std::max(1.0, (last_ - first_) / s.step / columns / 2);
        const double from = std::max(0.0, std::floor(first_ / s.step) - 1);
        for (std::size_t column = 0; from + static_cast<double>(column) * step < static_cast<double>(n); ++column) {
            const double i = from + static_cast<double>(column) * step;
            const double time = (i + 1) * s.step;
            if (time > last_ + 2 * s.step * step) break;
            double v = 0;  // the largest of what one column shows
            for (std::size_t k = static_cast<std::size_t>(i); k < n && static_cast<double>(k) < i + step; ++k)
                v = k == static_cast<std::size_t>(i) ? s.values[k] : std::max(v, s.values[k]);
            line << QPointF(chart_place(time, 0).x(), a.bottom() - (v - base) / scale_most * a.height() * share);
        }
        return line;
    };
    if (rain) {  // hangs from the top, on its own axis
        double heaviest = 1e-12;
        for (const double v : rain->values) heaviest = std::max(heaviest, v);
        QPolygonF body = path(*rain, heaviest, 0.18, 0);
        for (QPointF& q : body) q.setY(a.top() + (a.bottom() - q.y()));
        if (!body.empty()) {
            body.prepend(QPointF(body.front().x(), a.top()));
            body << QPointF(body.back().x(), a.top());
        }
        p.setPen(Qt::NoPen);
        p.setBrush(t.tint(t.water, 0.55));
        p.drawPolygon(body);
        p.setPen(t.quiet);
        p.drawText(QRectF(a.right() - 204, a.top() + 4, 200, 13), Qt::AlignRight | Qt::AlignVCenter,
                   "rain, up to " + text(u.text(heaviest, Quantity::Intensity)));
    }
    QPolygonF inflow = in ? path(*in, flow_.most, 0.78, 0) : QPolygonF();
    if (in && !std::isnan(allowed_) && required_ > 0) {  // what must be stored above what is allowed
        const double y = chart_place(0, allowed_).y();
        QPolygonF above;
        for (const QPointF& q : inflow) above << QPointF(q.x(), std::min(q.y(), y));
        if (!above.empty()) {
            above.prepend(QPointF(above.front().x(), y));
            above << QPointF(above.back().x(), y);
        }
        p.setPen(Qt::NoPen);
        p.setBrush(QBrush(t.tint(t.near, 0.35), Qt::BDiagPattern));
        p.drawPolygon(above);
    }
    p.setBrush(Qt::NoBrush);
    if (others)
        for (const SiteHydrographs& h : others_)
            if (const Series* s = h.of("inflow"); s && h.event != document_.event()) {
                p.setPen(QPen(t.tint(t.water, 0.5), 1.1));
                p.drawPolyline(path(*s, flow_.most, 0.78, 0));
            }
    if (const Series* before = before_series()) {
        p.setPen(QPen(t.ground, 1.6, Qt::DashDotLine));
        p.drawPolyline(path(*before, flow_.most, 0.78, 0));
    }
    p.setPen(QPen(t.water, 2.2));
    p.drawPolyline(inflow);
    if (out && level) {
        p.setPen(QPen(t.accent, 2.2));
        p.drawPolyline(path(*out, flow_.most, 0.78, 0));
    }
    if (!std::isnan(allowed_)) {
        p.setPen(QPen(t.near, 1.4, Qt::DashLine));
        const double y = chart_place(0, allowed_).y();
        p.drawLine(QPointF(a.left(), y), QPointF(a.right(), y));
    }
    if (level) {
        const PondNode& n = *pond();
        const double base = n.storage.bottom(),
                     top = std::max(n.storage.top(), std::isnan(n.crest) ? n.storage.top() : n.crest);
        p.setPen(QPen(t.ink, 1.2, Qt::DotLine));
        p.drawPolyline(path(*level, top - base, 0.78, base));
    }
    const double x = chart_place(time_, 0).x();
    p.setPen(QPen(t.ink, 1));
    p.drawLine(QPointF(x, a.top()), QPointF(x, a.bottom()));
    p.restore();
    p.setPen(t.ink);
    p.setBrush(t.ink);
    if (x >= a.left() && x <= a.right())
        p.drawPolygon(QPolygonF{{x - 5, a.bottom() + 8}, {x + 5, a.bottom() + 8}, {x, a.bottom() + 1}});
    p.setBrush(Qt::NoBrush);
    p.setFont(lettering(8));
    if (level) {
        const PondNode& n = *pond();
        const double base = n.storage.bottom(),
                     top = std::max(n.storage.top(), std::isnan(n.crest) ? n.storage.top() : n.crest);
        const Unit& unit = u.unit(Quantity::Level);
        const double step = round_step((top - base) / unit.factor / 4);
        p.setPen(t.quiet);
        for (double z = std::ceil(base / unit.factor / step) * step; z * unit.factor <= top; z += step)
            p.drawText(QRectF(a.right() + 4,
                              a.bottom() - (z * unit.factor - base) / (top - base) * a.height() * 0.78 - 8, 54, 16),
                       Qt::AlignLeft | Qt::AlignVCenter,
                       QString::number(z, 'f',
                                       step < 0.1 ? 2
                                       : step < 1 ? 1
                                                  : 0));
        p.drawText(QRectF(a.right() + 4, a.top() + 0.1 * a.height(), 54, 14), Qt::AlignLeft | Qt::AlignVCenter,
                   "level " + text(unit.symbol));
    }
    // Names at the lines, in words, upper right, over what runs behind them.
    QColor paper = t.panel;
    paper.setAlpha(225);
    double y = a.top() + 0.2 * a.height();
    const auto named = [&](const QColor& c, Qt::PenStyle style, const QString& words) {
        const double w = QFontMetricsF(p.font()).horizontalAdvance(words);
        p.fillRect(QRectF(a.right() - w - 34, y, w + 34, 14), paper);
        p.setPen(QPen(c, 2, style));
        p.drawLine(QPointF(a.right() - w - 30, y + 7), QPointF(a.right() - w - 10, y + 7));
        p.setPen(t.ink);
        p.drawText(QRectF(a.right() - w - 6, y, w + 4, 14), Qt::AlignLeft | Qt::AlignVCenter, words);
        y += 14;
    };
    const auto peak = [&](const Series* s) {
        double v = 0;
        if (s)
            for (const double q : s->values) v = std::max(v, q);
        return text(u.text(v, Quantity::Flow));
    };
    named(t.water, Qt::SolidLine, level ? "comes, peak " + peak(in) : "arrives, peak " + peak(in));
    if (level) named(t.accent, Qt::SolidLine, "leaves, peak " + peak(out));
    if (!std::isnan(allowed_)) {
        named(t.near, Qt::DashLine, "allowed " + text(u.text(allowed_, Quantity::Flow)));
        p.setPen(t.quiet);
        const QString words = text(u.text(required_, Quantity::Volume)) + " above it";
        const double w = QFontMetricsF(p.font()).horizontalAdvance(words);
        p.fillRect(QRectF(a.right() - w - 6, y, w + 6, 14), paper);
        p.drawText(QRectF(a.right() - 220, y, 220 - 2, 14), Qt::AlignRight | Qt::AlignVCenter, words);
        y += 14;
    }
    if (const Series* before = before_series())
        named(t.ground, Qt::DashDotLine, before_name_ + ", peak " + peak(before));
    if (others) named(t.tint(t.water, 0.5), Qt::SolidLine, "other events");
}

/// Curves that time has no part in.
void StorageView::paint_curve(QPainter& p) {
    const Theme& t = theme();
    const UnitSet u = document_.units();
    const QRectF a = chart_area();
    const PondNode* n = pond();
    struct Line {
        QString name;
        QColor ink;
        double width;
        std::vector<QPointF> points;  ///< SI
        bool second = false;
    };
    std::vector<Line> lines;
    Quantity across = Quantity::Flow, up = Quantity::Level, second = Quantity::None;
    QString title;
    if (pictures_->currentIndex() == 3) {
        const Series *in = series("inflow"), *out = series("flow");
        title = "What leaves against what comes";
        up = Quantity::Flow;
        Line loop{"", t.accent, 1.8, {}};
        if (in && out)
            for (std::size_t i = 0; i < in->values.size() && i < out->values.size(); ++i)
                loop.points.emplace_back(in->values[i], out->values[i]);
        lines.push_back(std::move(loop));
    } else if (!n) {
        p.setFont(lettering(10));
        p.setPen(t.quiet);
        p.drawText(a, Qt::AlignCenter | Qt::TextWordWrap, "This structure has no storage: give it some in its card.");
        return;
    } else {
        const double top = std::max(n->storage.top(), std::isnan(n->crest) ? n->storage.top() : n->crest);
        const auto rows = rating_of(n->storage, n->ways, n->storage.bottom(), top, 160);
        if (pictures_->currentIndex() == 1) {
            title = "Outflow by level";
            const QColor inks[] = {t.water, t.near, t.within, t.ground, t.quiet};
            Line all{"all", t.ink, 2.2, {}};
            for (const RatingRow& r : rows) all.points.emplace_back(r.outflow, r.level);
            for (std::size_t w = 0; w < n->ways.size(); ++w) {
                Line one{text(way_name(document_.project(), *n, w)), inks[w % 5], 1.4, {}};
                for (const RatingRow& r : rows) one.points.emplace_back(r.ways[w].flow, r.level);
                lines.push_back(std::move(one));
            }
            lines.push_back(std::move(all));
            if (n->soakage > 0) {
                Line soaks{"into the ground", t.quiet, 1.4, {}};
                for (const RatingRow& r : rows) soaks.points.emplace_back(n->soakage * r.area, r.level);
                lines.push_back(std::move(soaks));
            }
        } else {
            title = "Volume and water surface by level";
            across = Quantity::Volume;
            second = Quantity::WaterArea;
            Line volume{"volume", t.water, 2.2, {}}, area{"surface (upper scale)", t.accent, 1.6, {}, true};
            for (const RatingRow& r : rows) {
                volume.points.emplace_back(r.volume, r.level);
                area.points.emplace_back(r.area, r.level);
            }
            lines.push_back(std::move(volume));
            lines.push_back(std::move(area));
        }
    }
    double x_most = 1e-12, second_most = 1e-12, y_least = 1e300, y_most = -1e300;
    for (const Line& l : lines)
        for (const QPointF& q : l.points) {
            (l.second ? second_most : x_most) = std::max(l.second ? second_most : x_most, q.x());
            y_least = std::min(y_least, q.y());
            y_most = std::max(y_most, q.y());
        }
    if (pictures_->currentIndex() == 1 && n) {  // the overflow shall not flatten all else
        const int node = document_.result()->network->node_of(structure_);
        if (const PondSummary* s = pond_at(*document_.result(), static_cast<std::size_t>(node)))
            x_most = std::min(x_most, std::max(3 * s->peak_outflow, 1e-6));
    }
    if (!(y_most > y_least)) y_most = y_least + 1;
    const auto place = [&](const QPointF& q, bool other) {
        return QPointF(a.left() + q.x() / (other ? second_most : x_most) * a.width(),
                       a.bottom() - (q.y() - y_least) / (y_most - y_least) * a.height());
    };
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    p.drawText(QPointF(a.left() - 50, 20), title);
    p.setFont(lettering(8));
    const auto axis = [&](double most, Quantity q, double y, bool lines_too) {
        const Unit& unit = u.unit(q);
        const double step = round_step(most / unit.factor / 5);
        for (double v = 0; v * unit.factor <= most * 1.0001; v += step) {
            const double x = a.left() + v * unit.factor / most * a.width();
            if (lines_too) {
                p.setPen(QPen(t.hairline, 1));
                p.drawLine(QPointF(x, a.top()), QPointF(x, a.bottom()));
            }
            p.setPen(t.quiet);
            p.drawText(
                QRectF(x - 34, y, 68, 13), Qt::AlignCenter,
                QString::number(v) + ((v + step) * unit.factor > most * 1.0001 ? " " + text(unit.symbol) : QString()));
        }
    };
    axis(x_most, across, a.bottom() + 4, true);
    if (second != Quantity::None) axis(second_most, second, a.top() - 13, false);
    const Unit& unit = u.unit(up);
    const double step = round_step((y_most - y_least) / unit.factor / 5);
    for (double v = std::ceil(y_least / unit.factor / step - 1e-9) * step; v * unit.factor <= y_most * (1 + 1e-12);
         v += step) {
        const double y = place({0, v * unit.factor}, false).y();
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(a.left(), y), QPointF(a.right(), y));
        p.setPen(t.quiet);
        p.drawText(QRectF(a.left() - 56, y - 8, 51, 16), Qt::AlignRight | Qt::AlignVCenter,
                   QString::number(v, 'f',
                                   step < 0.1 ? 2
                                   : step < 1 ? 1
                                              : 0));
    }
    p.save();
    p.setClipRect(a.adjusted(-1, -1, 1, 1));
    p.setBrush(Qt::NoBrush);
    for (const Line& l : lines) {
        QPolygonF line;
        for (const QPointF& q : l.points) line << place(q, l.second);
        p.setPen(QPen(l.ink, l.width));
        p.drawPolyline(line);
    }
    const double now = at_time("level", time_);
    if (up == Quantity::Level && !std::isnan(now)) {
        p.setPen(QPen(t.water, 1, Qt::DashLine));
        const double y = place({0, now}, false).y();
        p.drawLine(QPointF(a.left(), y), QPointF(a.right(), y));
    }
    p.restore();
    double y = a.bottom() - 16 - 14 * static_cast<double>(lines.size());
    for (const Line& l : lines) {
        if (l.name.isEmpty()) continue;
        const double w = QFontMetricsF(p.font()).horizontalAdvance(l.name);
        p.setPen(QPen(l.ink, 2));
        p.drawLine(QPointF(a.right() - w - 30, y + 7), QPointF(a.right() - w - 10, y + 7));
        p.setPen(t.ink);
        p.drawText(QRectF(a.right() - w - 6, y, w + 4, 14), Qt::AlignLeft | Qt::AlignVCenter, l.name);
        y += 14;
    }
}

}  // namespace culvert::app
