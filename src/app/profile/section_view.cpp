// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/profile/section_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/profile/axes.h"
#include "core/design/flow_parts.h"
#include "core/model/lay.h"

namespace culvert::app {
namespace {
constexpr double left_margin = 64, top_margin = 34, bottom_margin = 26, right_margin = 18;

/// Level at a distance; NaN off the surface.
double level_along(const std::vector<Point>& ground, double at) {
    for (std::size_t i = 1; i < ground.size(); ++i)
        if (at >= ground[i - 1].x && at <= ground[i].x && ground[i].x > ground[i - 1].x)
            return ground[i - 1].y +
                   (at - ground[i - 1].x) / (ground[i].x - ground[i - 1].x) * (ground[i].y - ground[i - 1].y);
    return not_given;
}
}  // namespace

SectionView::SectionView(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setAccessibleName("Section through the ground");
    setMinimumHeight(150);
    const auto refresh = [this] {
        dirty_ = true;
        if (isVisible()) update();
    };
    connect(&document_, &Document::changed, this, refresh);
    connect(&document_, &Document::site_changed, this, refresh);
    connect(&document_, &Document::selection_changed, this, refresh);
}

void SectionView::choose_line() {
    const Project& p = document_.project();
    const ElementRef e = document_.selected();
    line_.clear();
    flow_path_ = false;
    parts_.clear();
    time_ = not_given;
    const auto place = [&](StructureId id) {
        if (const Structure* at = p.structures.find(id.value); at && placed(*at)) line_.push_back({at->x, at->y});
    };
    if (const Street* street = e.kind == Kind::Street ? p.streets.find(e.id) : nullptr) {
        line_ = street->line;
        title_ = "Ground along " + text(street->name);
    } else if (const Pipe* pipe = e.kind == Kind::Pipe ? p.pipes.find(e.id) : nullptr) {
        line_ = pipe_line(p, *pipe);
        title_ = "Ground along " + text(pipe_name(p, *pipe));
    } else if (const Catchment* c = e.kind == Kind::Catchment ? p.catchments.find(e.id) : nullptr) {
        line_ = c->flow_path;
        flow_path_ = true;
        const ConcentrationTime found = concentration_time(p, *c);
        time_ = found.time;
        if (c->time_by == TimeBy::Parts && line_.size() > 1) {
            const std::vector<double> ends = part_ends(found.parts, length(line_));
            for (std::size_t i = 0; i < ends.size(); ++i)
                parts_.push_back(
                    {ends[i], found.parts[i], i < found.part_times.size() ? found.part_times[i] : not_given});
        }
        title_ = "Flow path of " + text(c->name);
    } else if (const StreetPath* path = e.kind == Kind::StreetPath ? p.street_paths.find(e.id) : nullptr) {
        place(path->from);
        line_.insert(line_.end(), path->bends.begin(), path->bends.end());
        place(path->to);
        title_ = "Ground along street path " + text(element_name(p, e.kind, e.id));
    } else {
        double left = 1e300, right = -1e300, y = 0;
        int count = 0;
        for (const auto& s : document_.site().surfaces())
            if (s->terrain) {
                const auto& b = s->terrain->bounds();
                left = std::min(left, b.left);
                right = std::max(right, b.right);
                y += (b.bottom + b.top) / 2;
                ++count;
            }
        if (count) line_ = {{left, y / count}, {right, y / count}};
        title_ = "Ground across the site, west to east";
    }
    if (!in_reach(line_)) line_.clear();
}

void SectionView::rebuild() {
    dirty_ = false;
    existing_.clear();
    finished_.clear();
    choose_line();
    if (line_.size() < 2) return;
    length_ = std::max(length(line_), 1e-3);
    low_ = 1e300;
    high_ = -1e300;
    const Ground& ground = document_.site().ground();
    for (const bool top : {false, true}) {
        Ground one;
        (top ? one.finished : one.existing) = top ? ground.finished : ground.existing;
        if (one.empty()) continue;
        for (const auto& q : one.section(line_)) {
            (top ? finished_ : existing_).push_back({q.distance, q.level});
            if (std::isnan(q.level)) continue;
            low_ = std::min(low_, q.level);
            high_ = std::max(high_, q.level);
        }
    }
    if (low_ > high_) low_ = 0, high_ = 1;
    const double margin = std::max(0.1 * (high_ - low_), 0.2);
    low_ -= margin;
    high_ += margin;
}

QRectF SectionView::plot() const {
    return {left_margin, top_margin, std::max(80.0, width() - left_margin - right_margin),
            std::max(20.0, height() - top_margin - bottom_margin)};
}
QPointF SectionView::to_screen(double distance, double level) const {
    const QRectF a = plot();
    return {a.left() + distance / length_ * a.width(), a.bottom() - (level - low_) / (high_ - low_) * a.height()};
}

void SectionView::paintEvent(QPaintEvent*) {
    if (dirty_) rebuild();
    const Theme& t = theme();
    const UnitSet u = document_.units();
    QPainter p(this);
    p.fillRect(rect(), t.panel);
    p.setRenderHint(QPainter::Antialiasing);
    const bool bare = existing_.empty() && finished_.empty();
    if (line_.size() < 2 || bare) {
        p.setFont(lettering(10));
        p.setPen(t.quiet);
        p.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap,
                   flow_path_ && line_.size() < 2 ? "This catchment has no flow path yet. \"Drain down the ground\" "
                                                    "finds it; then its length, fall and slope "
                                                    "stand here."
                                                  : "A section shows here once there is ground: drop a survey on the "
                                                    "plan, or choose Import in the Ground page."
                                                    "\nThen select a street, a pipe or a flow path to cut along it.");
        return;
    }
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    p.drawText(QPointF(14, 20), title_);
    const double w = QFontMetricsF(p.font()).horizontalAdvance(title_);
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    QString words = text(u.text(length_, Quantity::Length));
    const std::vector<Point>& top = finished_.empty() ? existing_ : finished_;
    const double first = top.empty() ? not_given : top.front().y, last = top.empty() ? not_given : top.back().y;
    if (!std::isnan(first) && !std::isnan(last)) {
        words += (first >= last ? ", falls " : ", rises ") + text(u.text(std::abs(first - last), Quantity::Length));
        if (flow_path_) words += ", slope " + text(u.text((first - last) / length_, Quantity::Slope));
    }
    if (flow_path_ && !std::isnan(time_)) words += ", time " + text(u.text(time_, Quantity::Duration));
    p.drawText(QPointF(30 + w, 20), words);
    if (!readout_.isEmpty()) {
        p.setPen(t.accent);
        p.drawText(QRectF(0, 6, width() - right_margin, 18), Qt::AlignRight | Qt::AlignVCenter, readout_);
    }
    const QRectF a = plot();
    paint_axes(p, {a, low_, high_, length_, 110}, u);
    if (!parts_.empty()) paint_parts(p);
    for (const bool top_one : {false, true}) {
        QPainterPath path;
        bool down = false;
        for (const Point& q : top_one ? finished_ : existing_) {
            if (std::isnan(q.y)) {
                down = false;
                continue;
            }
            if (down) path.lineTo(to_screen(q.x, q.y));
            else path.moveTo(to_screen(q.x, q.y));
            down = true;
        }
        QPen pen(t.ground, top_one ? 1.8 : 1.2);
        if (!top_one && !finished_.empty()) pen.setDashPattern({5, 3});
        p.setPen(pen);
        p.setBrush(Qt::NoBrush);
        p.drawPath(path);
    }
}

/// Parts of a flow path: where each ends, what it is, and the time the water takes through it.
void SectionView::paint_parts(QPainter& p) {
    const Theme& t = theme();
    const UnitSet u = document_.units();
    const QRectF a = plot();
    p.setFont(lettering(8.5));
    double from = 0;
    for (std::size_t i = 0; i < parts_.size(); ++i) {
        const Part& part = parts_[i];
        const double left = to_screen(from, low_).x(), right = to_screen(part.end, low_).x();
        if (i + 1 < parts_.size()) {
            p.setPen(QPen(t.hairline, 1.4, Qt::DashLine));
            p.drawLine(QPointF(right, a.top()), QPointF(right, a.bottom()));
        }
        QString words = text(part_name(part.part));
        if (!std::isnan(part.time)) words += ", " + text(u.text(part.time, Quantity::Duration));
        const QFontMetricsF m(p.font());
        if (right - left > 34) {
            words = m.elidedText(words, Qt::ElideRight, right - left - 8);
            const double w = m.horizontalAdvance(words);
            const QRectF box((left + right - w) / 2, a.top() + 1, w, 15);
            p.fillRect(box.adjusted(-3, 0, 3, 0), t.panel);
            p.setPen(t.ink);
            p.drawText(box, Qt::AlignCenter, words);
        }
        from = part.end;
    }
}

void SectionView::mouseMoveEvent(QMouseEvent* e) {
    const QRectF a = plot();
    readout_.clear();
    if (a.contains(e->position()) && line_.size() > 1) {
        const UnitSet u = document_.units();
        const double at = (e->position().x() - a.left()) / a.width() * length_;
        readout_ = text(u.text(at, Quantity::Length));
        const double low = level_along(existing_, at), top = level_along(finished_, at);
        if (!std::isnan(low)) readout_ += ", existing " + text(u.text(low, Quantity::Level));
        if (!std::isnan(top)) readout_ += ", finished " + text(u.text(top, Quantity::Level));
    }
    update();
}
void SectionView::leaveEvent(QEvent*) {
    readout_.clear();
    update();
}

}  // namespace culvert::app
