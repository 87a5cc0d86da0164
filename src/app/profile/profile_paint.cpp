// SPDX-License-Identifier: GPL-3.0-or-later
// How the profile paints: head, grid, ground, barrels and water, names by importance, level table.
#include <QPainter>
#include <QPainterPath>
#include <cmath>
#include <unordered_map>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/profile/profile_layout.h"
#include "app/profile/profile_view.h"
#include "core/model/lay.h"

namespace culvert::app {
QPen profile_pen(Ink ink) {
    const Theme& t = theme();
    switch (ink) {
        case Ink::Ground: return QPen(t.ground, 1.6);
        case Ink::Structure: return QPen(t.ink, 1.4);
        case Ink::BarrelWithin: return QPen(t.within, 2);
        case Ink::BarrelNear: {
            QPen p(t.near, 2);
            p.setDashPattern({4, 2});
            return p;
        }
        case Ink::BarrelBeyond: return QPen(t.beyond, 2.4);
        case Ink::BarrelUnknown: {
            QPen p(t.unknown, 1.6);
            p.setDashPattern({1, 2});
            return p;
        }
        case Ink::HydraulicLine: return QPen(t.water, 2.4);
        case Ink::EnergyLine: {
            QPen p(t.water, 1);
            p.setDashPattern({2, 3});
            return p;
        }
        default: return QPen(t.ink, 1);
    }
}

void ProfileView::paintEvent(QPaintEvent*) {
    if (dirty_) rebuild();
    const Theme& t = theme();
    QPainter p(this);
    p.fillRect(rect(), t.panel);
    p.setRenderHint(QPainter::Antialiasing);
    names_.clear();
    cells_.clear();
    crossings_.clear();
    if (profile_.empty()) {
        p.setFont(lettering(10));
        p.setPen(t.quiet);
        p.drawText(rect(), Qt::AlignCenter,
                   document_.project().pipes.empty() ? "The profile shows here once a pipe is drawn"
                                                     : "The profile shows here once a pipe leads to an outfall");
        return;
    }
    const QRectF area = plot();
    std::vector<double> gaps;
    for (const ProfileReach& r : profile_.reaches) gaps.push_back(to_screen({r.x1, 0}).x() - to_screen({r.x0, 0}).x());
    const auto middle = gaps.begin() + static_cast<std::ptrdiff_t>(gaps.size() / 2);
    std::nth_element(gaps.begin(), middle, gaps.end());
    spacing_ = *middle;
    paint_head(p);
    paint_grid(p);
    if (document_.dimmed()) p.setOpacity(0.45);
    p.save();
    p.setClipRect(QRectF(area.left() - 6, profile_head - 4, area.width() + 12, height() - profile_head + 4));
    for (const ElementRef s : document_.selection())
        if (s.kind == Kind::Pipe)
            for (const ProfileReach& r : profile_.reaches)
                if (r.pipe.value == s.id) {
                    QColor glow = t.accent;
                    glow.setAlpha(36);
                    const double x0 = to_screen({r.x0, 0}).x();
                    p.fillRect(QRectF(x0, area.top(), to_screen({r.x1, 0}).x() - x0, height() - area.top()), glow);
                }
    p.setClipRect(QRectF(area.left() - 6, profile_head - 4, area.width() + 12, area.bottom() - profile_head + 8));
    paint_ground(p);
    if (committed_) paint_committed(p);
    paint_drawing(p);
    paint_crossings(p);
    paint_names(p);
    paint_other_events(p);
    p.setOpacity(1);
    for (const Handle& h : handles()) {
        const bool shown =
            document_.is_selected(h.element) || (dragging_ && h.element == held_.element && h.field == held_.field);
        if (!shown) continue;
        p.setPen(QPen(t.accent, 1.6));
        p.setBrush(t.panel);
        p.drawEllipse(to_screen(h.at), 4, 4);
    }
    p.restore();
    paint_measure(p);
    paint_table(p, {0, area.bottom() + 10, static_cast<double>(width()), table_height()});
    if (!readout_.isEmpty()) {
        p.setFont(lettering(9, true));
        p.setPen(t.accent);
        p.drawText(pressed_ + QPointF(12, -8), readout_);
    }
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
    const auto r = document_.result();
    painted_revision_ = r ? r->revision : 0;
    painted_result_ = r;
    emit painted();
}

/// From where to where, the exaggeration, what was cut, and what the lines mean, said where the eye is.
void ProfileView::paint_head(QPainter& p) {
    const Theme& t = theme();
    const UnitSet u = document_.units();
    const QRectF area = plot();
    const bool part = to_ > from_;
    const double shown = part ? to_ - from_ : profile_.length;
    const double exaggeration = (area.height() / (profile_.high - profile_.low)) / (area.width() / shown);
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    const QString title = text(profile_.stations.front().name) + " to " + text(profile_.stations.back().name);
    p.drawText(QPointF(14, 20), title);
    const double title_width = QFontMetricsF(p.font()).horizontalAdvance(title);
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    const QString length = part ? text(u.number(from_, Quantity::Length)) + " to " +
                                      text(u.text(to_, Quantity::Length)) + " of " +
                                      text(u.text(profile_.length, Quantity::Length))
                                : text(u.text(profile_.length, Quantity::Length));
    const std::size_t hidden = rows_.size() - rows_shown();
    const QString words = length + ", vertical × " + QString::number(std::max(1.0, std::round(exaggeration))) +
                          (hidden == 0   ? QString()
                           : hidden == 1 ? QString(", 1 row hidden")
                                         : QString(", %1 rows hidden").arg(hidden));
    p.drawText(QPointF(30 + title_width, 20), words);
    if (!cut_.isEmpty()) {
        const double at = 46 + title_width + QFontMetricsF(p.font()).horizontalAdvance(words);
        p.setPen(t.beyond);
        p.drawText(QPointF(at, 20), QFontMetricsF(p.font()).elidedText(cut_, Qt::ElideRight, width() - at - 210));
    } else paint_joins(p, 46 + title_width + QFontMetricsF(p.font()).horizontalAdvance(words), width() - 210);
    p.setFont(lettering(8.5));
    double key_x = width() - profile_right;
    for (const auto& [ink, label] :
         {std::pair{Ink::EnergyLine, "EGL"}, {Ink::HydraulicLine, "HGL"}, {Ink::Ground, "ground"}}) {
        const double w = QFontMetricsF(p.font()).horizontalAdvance(label);
        key_x -= w;
        p.setPen(t.quiet);
        p.drawText(QPointF(key_x, 20), label);
        p.setPen(profile_pen(ink));
        p.drawLine(QPointF(key_x - 26, 16), QPointF(key_x - 6, 16));
        key_x -= 40;
    }
}

void ProfileView::paint_grid(QPainter& p) {
    const Theme& t = theme();
    const UnitSet u = document_.units();
    const QRectF area = plot();
    const double unit = u.unit(Quantity::Level).factor, range = (profile_.high - profile_.low) / unit,
                 step = round_step(range / std::max(2.0, area.height() / 24));
    p.setFont(lettering(8));
    for (double level = std::ceil(profile_.low / unit / step) * step; level * unit < profile_.high; level += step) {
        const double y = to_screen({0, level * unit}).y();
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(area.left() - 4, y), QPointF(area.right(), y));
        p.setPen(t.quiet);
        p.drawText(QRectF(0, y - 8, area.left() - 9, 16), Qt::AlignRight | Qt::AlignVCenter,
                   (level + step > profile_.high / unit ? text(u.unit(Quantity::Level).symbol) + " " : QString()) +
                       QString::number(level, 'f', step < 1 ? 2 : (u.system() == UnitSystem::Us ? 0 : 1)));
    }
}

void ProfileView::paint_ground(QPainter& p) {
    for (const bool top : {false, true}) {
        QPainterPath path;
        bool down = false;
        for (const Point& q : top ? finished_ : existing_) {
            if (std::isnan(q.y)) {
                down = false;
                continue;
            }
            if (down) path.lineTo(to_screen(q));
            else path.moveTo(to_screen(q));
            down = true;
        }
        QPen pen(theme().ground, top ? 1.4 : 1);
        if (!top) pen.setDashPattern({5, 3});
        p.setPen(pen);
        p.setBrush(Qt::NoBrush);
        p.drawPath(path);
    }
}

/// Barrels as they stand, thin and dashed, where the change that is shown moves them.
void ProfileView::paint_committed(QPainter& p) {
    QPen pen(theme().quiet, 1);
    pen.setDashPattern({4, 3});
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    for (std::size_t i = 0; i < committed_->reaches.size() && i < profile_.reaches.size(); ++i) {
        const ProfileReach &old = committed_->reaches[i], &now = profile_.reaches[i];
        if (std::isnan(old.invert_up) || std::isnan(old.invert_down)) continue;
        if (std::abs(old.invert_up - now.invert_up) < 5e-4 && std::abs(old.invert_down - now.invert_down) < 5e-4 &&
            std::abs(old.height - now.height) < 5e-4)
            continue;
        for (const double h : {0.0, old.height})
            p.drawLine(to_screen({old.x0, old.invert_up + h}), to_screen({old.x1, old.invert_down + h}));
    }
}

void ProfileView::paint_drawing(QPainter& p) {
    const Theme& t = theme();
    const QRectF area = plot();
    const double half = std::clamp(spacing_ / 6, 0.0, 4.0);  // of a structure's box
    for (const Drawn& d : draw_profile(document_.project(), profile_)) {
        QPolygonF line;
        for (const Point& q : d.points) line << to_screen(q);
        if (line.isEmpty() || line.boundingRect().right() < area.left() - 10 ||
            line.boundingRect().left() > area.right() + 10)
            continue;
        if (d.type == Drawn::Type::Area) {
            p.setPen(Qt::NoPen);
            p.setBrush(t.water_body);
            p.drawPolygon(line);
        } else if (d.type == Drawn::Type::Line && d.ink == Ink::Structure) {
            const bool chosen = document_.is_selected(d.element);
            p.setPen(
                QPen(chosen ? t.accent : (half < 1.5 ? t.hairline : t.ink), chosen ? 2.4 : (half < 1.5 ? 1 : 1.4)));
            p.setBrush(Qt::NoBrush);
            if (half < 1.5 && !chosen) p.drawLine(line[0], line[1]);
            else p.drawRect(QRectF(line[1] - QPointF(half, 0), line[0] + QPointF(half, 0)));
        } else if (d.type == Drawn::Type::Level) {  // the water in the structure itself
            p.setPen(QPen(t.water, 2.4));
            p.drawLine(line[0] - QPointF(half, 0), line[0] + QPointF(half, 0));
        } else if (d.type == Drawn::Type::Line) {
            QPen pen = profile_pen(d.ink);
            if (spacing_ < 24) pen.setWidthF(std::min(pen.widthF(), 1.5));
            p.setPen(pen);
            p.drawPolyline(line);
        }
    }
}

/// Outlines of what crosses the run, at their level: with a mark and a name where there is room.
void ProfileView::paint_crossings(QPainter& p) {
    std::unordered_map<std::uint64_t, std::size_t> reach_of;
    for (std::size_t i = 0; i < profile_.reaches.size(); ++i) reach_of[profile_.reaches[i].pipe.value] = i;
    marks_taken_.clear();
    for (const Verdict verdict : {Verdict::Beyond, Verdict::Near, Verdict::Unknown, Verdict::Within})
        for (const Clash& c : document_.clashes()) {
            if (c.verdict != verdict || !c.crosses || std::isnan(c.other_top)) continue;
            if (const auto own = reach_of.find(c.pipe.value); own != reach_of.end())
                paint_crossing(p, own->second, c, c.other, c.along, c.other_top, c.other_bottom);
            const auto other = c.other.kind == Kind::Pipe ? reach_of.find(c.other.id) : reach_of.end();
            const Pipe* crosses = other == reach_of.end() ? nullptr : document_.project().pipes.find(c.pipe.value);
            const Pipe* crossed = crosses ? document_.project().pipes.find(c.other.id) : nullptr;
            if (!crossed) continue;  // seen from the pipe that the other one crosses:
            const double drawn = length(pipe_line(document_.project(), *crosses));
            const double invert =
                crosses->invert_from + (drawn > 0 ? c.along / drawn : 0) * (crosses->invert_to - crosses->invert_from);
            const double bottom = invert - crosses->wall;
            paint_crossing(p, other->second, c, {Kind::Pipe, crosses->id},
                           station_of(pipe_line(document_.project(), *crossed), c.at).station,
                           bottom + 2 * space_line(document_.project(), *crosses).half_height, bottom);
        }
}

void ProfileView::paint_crossing(QPainter& p, std::size_t reach, const Clash& c, ElementRef what, double along,
                                 double top, double bottom) {
    const Theme& t = theme();
    const ProfileReach& r = profile_.reaches[reach];
    const Pipe* pipe = document_.project().pipes.find(r.pipe.value);
    if (!pipe) return;
    const double drawn = drawn_length(document_.project(), *pipe);
    const bool forth = pipe->from == profile_.stations[reach].structure;
    const double share = drawn > 0 ? std::clamp(along / drawn, 0.0, 1.0) : 0;
    const double x = r.x0 + (forth ? share : 1 - share) * (r.x1 - r.x0);
    const QPointF high = to_screen({x, top}), low = to_screen({x, bottom});
    const bool small = spacing_ < 24;
    const double half = small ? 1.5 : std::clamp((low.y() - high.y()) / 4, 2.5, 9.0);
    const QRectF outline(high.x() - half, high.y(), 2 * half, std::max(2 * half, low.y() - high.y()));
    for (const double taken : marks_taken_)  // another one stands there
        if (std::abs(taken - high.x()) < 2 * half + 3) return;
    marks_taken_.push_back(high.x());
    p.setPen(QPen(t.verdict(c.verdict == Verdict::Within ? Verdict::Unknown : c.verdict),
                  c.verdict == Verdict::Beyond && !small ? 2 : 1.2));
    p.setBrush(t.panel);
    p.drawEllipse(outline);
    const QString name = text(element_name(document_.project(), what.kind, what.id));
    crossings_.emplace_back(name, outline);
    if (small) return;
    if (c.verdict == Verdict::Beyond || c.verdict == Verdict::Near)
        draw_verdict_mark(p, {outline.center().x(), outline.bottom() + 8}, 4, c.verdict);
    if (spacing_ < 60 || plot().height() < least_plot + table_row) return;  // words would hide the pipes
    p.setFont(lettering(8));
    const QRectF words(outline.right() + 4, outline.center().y() - 7, QFontMetricsF(p.font()).horizontalAdvance(name),
                       14);
    p.fillRect(words, t.panel);
    p.setPen(t.quiet);
    p.drawText(words, Qt::AlignLeft | Qt::AlignVCenter, name);
}

/// What a station's name is worth where there is no room for all: chosen, ends, beyond a limit, where branches join.
int ProfileView::importance(std::size_t i) const {
    const ProfileStation& s = profile_.stations[i];
    if (document_.is_selected({Kind::Structure, s.structure.value})) return 5;
    if (i < profile_.reaches.size() && document_.is_selected({Kind::Pipe, profile_.reaches[i].pipe.value})) return 5;
    if (i == 0 || i + 1 == profile_.stations.size()) return 4;
    const auto review = document_.review();
    const auto r = document_.result();
    if (review && r && review->of(*r->network, {Kind::Structure, s.structure.value}) == Verdict::Beyond) return 3;
    return s.joins ? 2 : 1;
}

void ProfileView::paint_names(QPainter& p) {
    const QRectF area = plot();
    p.setFont(lettering(8.5, true));
    const QFontMetricsF m(p.font());
    std::vector<std::pair<int, std::size_t>> order;
    for (std::size_t i = 0; i < profile_.stations.size(); ++i)
        if (const double x = to_screen({profile_.stations[i].x, 0}).x(); x >= area.left() - 1 && x <= area.right() + 1)
            order.emplace_back(-importance(i), i);
    std::sort(order.begin(), order.end());
    for (const auto& [rank, i] : order) {
        const ProfileStation& s = profile_.stations[i];
        const double top = !std::isnan(s.rim) ? s.rim
                           : i > 0            ? profile_.reaches[i - 1].invert_down + profile_.reaches[i - 1].height
                                              : s.bottom;
        if (std::isnan(top)) continue;
        QString name = text(s.name);
        if (name.size() > 12) name = name.left(11) + "…";
        const double w = m.horizontalAdvance(name);
        const QPointF at = to_screen({s.x, top});
        const QRectF box(std::clamp(at.x() - w / 2, area.left() - 4, std::max(area.left() - 4, area.right() + 4 - w)),
                         std::max(profile_head - 2, at.y() - 18), w, 15);
        bool free = true;
        for (const auto& [other, taken] : names_) free = free && !taken.adjusted(-5, -1, 5, 1).intersects(box);
        if (!free) continue;
        names_.emplace_back(name, box);
        p.setPen(rank == -3 ? theme().beyond : theme().ink);
        p.drawText(box, Qt::AlignCenter, name);
    }
}

}  // namespace culvert::app
