// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/text.h"
#include "app/profile/profile_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/kit/theme.h"
#include "core/model/lay.h"

namespace culvert::app {
namespace {

constexpr double left_margin = 64, right_margin = 24, head = 30, row_height = 15, table_rows = 4;

QPen ink_pen(Ink ink) {
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

}  // namespace

ProfileView::ProfileView(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Profile");
    setMinimumHeight(150);
    const auto refresh = [this] {
        dirty_ = true;
        update();
    };
    late_.setSingleShot(true);
    late_.setInterval(25);
    connect(&late_, &QTimer::timeout, this, refresh);
    connect(&document_, &Document::changed, this, [this] {
        dirty_ = true;
        late_.start();
    });
    // The eye is on the grade line: it is painted as its results come, before anything else hears of them.
    connect(&document_, &Document::results_changed, this, [this, refresh] {
        if (!document_.current() || document_.result() == painted_result_) return refresh();
        late_.stop();
        dirty_ = true;
        repaint();
    });
    connect(&document_, &Document::event_changed, this, refresh);
    connect(&document_, &Document::site_changed, this, refresh);
    connect(&document_, &Document::age_changed, this, refresh);
    connect(&document_, &Document::selection_changed, this, [this, refresh] {
        if (!late_.isActive()) refresh();
    });
}

void ProfileView::rebuild() {
    dirty_ = false;
    const ElementRef s = document_.selected();
    if (s.kind == Kind::Structure || s.kind == Kind::Pipe) through_ = s;
    if (s.kind == Kind::Catchment)
        if (const Catchment* c = document_.project().catchments.find(s.id))
            through_ = {Kind::Structure, c->structure.value};
    // While the newest levels are on their way, the geometry is that of the network last compiled.
    const auto r = document_.result();
    const auto review = document_.review();
    std::shared_ptr<const Network> net = r ? r->network : document_.network();
    if (!net) {
        profile_ = {};
        return;
    }
    const Profile before = std::move(profile_);
    profile_ = profile_of(document_.project(), *net, r.get(), review.get(), through_);
    find_ground();
    if (dragging_ && !before.empty()) {  // the scale holds still under the pointer
        profile_.low = before.low;
        profile_.high = before.high;
        return;
    }
    const double margin = 0.06 * (profile_.high - profile_.low);
    profile_.low -= margin;
    profile_.high += margin * 2;
}

void ProfileView::find_ground() {
    existing_.clear();
    finished_.clear();
    const Ground& ground = document_.site().ground();
    if (ground.empty()) return;
    const Project& project = document_.project();
    for (std::size_t i = 0; i < profile_.reaches.size(); ++i) {
        const ProfileReach& r = profile_.reaches[i];
        const Pipe* pipe = project.pipes.find(r.pipe.value);
        std::vector<Point> line = pipe ? pipe_line(project, *pipe) : std::vector<Point>{};
        if (line.empty()) continue;
        if (pipe->from != profile_.stations[i].structure) std::reverse(line.begin(), line.end());
        const double drawn = length(line), scale = drawn > 0 ? (r.x1 - r.x0) / drawn : 0;
        for (const bool top : {false, true}) {
            Ground one;
            (top ? one.finished : one.existing) = top ? ground.finished : ground.existing;
            if (one.empty()) continue;
            for (const auto& p : one.section(line)) {
                (top ? finished_ : existing_).push_back({r.x0 + p.distance * scale, p.level});
                if (!std::isnan(p.level))
                    profile_.low = std::min(profile_.low, p.level), profile_.high = std::max(profile_.high, p.level);
            }
        }
    }
}

QRectF ProfileView::plot() const {
    return {left_margin, head, std::max(10.0, width() - left_margin - right_margin),
            std::max(10.0, height() - head - row_height * table_rows - 14)};
}

QPointF ProfileView::to_screen(Point p) const {
    const QRectF a = plot();
    return {a.left() + p.x / profile_.length * a.width(),
            a.bottom() - (p.y - profile_.low) / (profile_.high - profile_.low) * a.height()};
}
double ProfileView::level_at(double y) const {
    const QRectF a = plot();
    return profile_.low + (a.bottom() - y) / a.height() * (profile_.high - profile_.low);
}

std::vector<ProfileView::Handle> ProfileView::handles() const {
    std::vector<Handle> list;
    for (std::size_t i = 0; i < profile_.reaches.size(); ++i) {
        const ProfileReach& r = profile_.reaches[i];
        const Pipe* pipe = document_.project().pipes.find(r.pipe.value);
        if (!pipe) continue;
        const bool along = pipe->from == profile_.stations[i].structure;
        if (!std::isnan(r.invert_up))
            list.push_back({{Kind::Pipe, r.pipe.value}, along ? "invert_from" : "invert_to", {r.x0, r.invert_up}});
        if (!std::isnan(r.invert_down))
            list.push_back({{Kind::Pipe, r.pipe.value}, along ? "invert_to" : "invert_from", {r.x1, r.invert_down}});
    }
    for (const ProfileStation& s : profile_.stations)
        if (!std::isnan(s.rim)) list.push_back({{Kind::Structure, s.structure.value}, "rim", {s.x, s.rim}});
    return list;
}

QPointF ProfileView::handle_at(ElementRef element, const char* field) const {
    for (const Handle& h : handles())
        if (h.element == element && std::string_view(h.field) == field) return to_screen(h.at);
    return {};
}

ElementRef ProfileView::element_at(QPointF at) const {
    if (profile_.empty()) return {};
    for (const ProfileStation& s : profile_.stations)
        if (std::abs(to_screen({s.x, 0}).x() - at.x()) < 7) return {Kind::Structure, s.structure.value};
    for (const ProfileReach& r : profile_.reaches)
        if (at.x() >= to_screen({r.x0, 0}).x() && at.x() <= to_screen({r.x1, 0}).x()) return {Kind::Pipe, r.pipe.value};
    return {};
}

void ProfileView::paintEvent(QPaintEvent*) {
    if (dirty_) rebuild();
    const Theme& t = theme();
    QPainter p(this);
    p.fillRect(rect(), t.panel);
    p.setRenderHint(QPainter::Antialiasing);
    const UnitSet u = document_.units();
    if (profile_.empty()) {
        p.setFont(lettering(10));
        p.setPen(t.quiet);
        p.drawText(rect(), Qt::AlignCenter,
                   document_.project().pipes.empty() ? "The profile shows here once a pipe is drawn"
                                                     : "The profile shows here once a pipe leads to an outfall");
        return;
    }
    const QRectF area = plot();
    const double exaggeration = (area.height() / (profile_.high - profile_.low)) / (area.width() / profile_.length);
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    const QString title = text(profile_.stations.front().name) + " to " + text(profile_.stations.back().name);
    p.drawText(QPointF(14, 20), title);
    const double title_width = QFontMetricsF(p.font()).horizontalAdvance(title);
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    p.drawText(QPointF(30 + title_width, 20), text(u.text(profile_.length, Quantity::Length)) + ", vertical × " +
                                                  QString::number(std::max(1.0, std::round(exaggeration))));
    // What the lines mean, said where the eye is.
    double key_x = width() - right_margin;
    for (const auto& [ink, label] :
         {std::pair{Ink::EnergyLine, "EGL"}, {Ink::HydraulicLine, "HGL"}, {Ink::Ground, "ground"}}) {
        const double w = QFontMetricsF(p.font()).horizontalAdvance(label);
        key_x -= w;
        p.setPen(t.quiet);
        p.drawText(QPointF(key_x, 20), label);
        p.setPen(ink_pen(ink));
        p.drawLine(QPointF(key_x - 26, 16), QPointF(key_x - 6, 16));
        key_x -= 40;
    }
    // Level grid.
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
    if (document_.dimmed()) p.setOpacity(0.45);
    for (const ElementRef s : document_.selection())
        if (s.kind == Kind::Pipe)
            for (const ProfileReach& r : profile_.reaches)
                if (r.pipe.value == s.id) {
                    QColor glow = t.accent;
                    glow.setAlpha(36);
                    const double x0 = to_screen({r.x0, 0}).x();
                    p.fillRect(QRectF(x0, area.top(), to_screen({r.x1, 0}).x() - x0, height() - area.top()), glow);
                }
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
        QPen pen(t.ground, top ? 1.4 : 1);
        if (!top) pen.setDashPattern({5, 3});
        p.setPen(pen);
        p.setBrush(Qt::NoBrush);
        p.drawPath(path);
    }
    for (const Drawn& d : draw_profile(document_.project(), profile_)) {
        QPolygonF line;
        for (const Point& q : d.points) line << to_screen(q);
        if (d.type == Drawn::Type::Area) {
            p.setPen(Qt::NoPen);
            p.setBrush(t.water_body);
            p.drawPolygon(line);
        } else if (d.type == Drawn::Type::Line && d.ink == Ink::Structure) {
            p.setPen(QPen(document_.is_selected(d.element) ? t.accent : t.ink,
                          document_.is_selected(d.element) ? 2.4 : 1.4));
            p.setBrush(Qt::NoBrush);
            p.drawRect(QRectF(line[1] - QPointF(4, 0), line[0] + QPointF(4, 0)));
        } else if (d.type == Drawn::Type::Level) {  // the water in the structure itself
            p.setPen(QPen(t.water, 2.4));
            p.drawLine(line[0] - QPointF(4, 0), line[0] + QPointF(4, 0));
        } else if (d.type == Drawn::Type::Line) {
            p.setPen(ink_pen(d.ink));
            p.drawPolyline(line);
        } else {
            p.setPen(t.ink);
            p.setFont(lettering(8.5, true));
            QString name = text(d.text);
            if (name.size() > 12) name = name.left(11) + "…";
            p.drawText(QRectF(line[0].x() - 50, line[0].y() - 18, 100, 15), Qt::AlignCenter, name);
        }
    }
    p.setOpacity(1);
    for (const Handle& h : handles()) {
        const bool shown =
            document_.is_selected(h.element) || (dragging_ && h.element == held_.element && h.field == held_.field);
        if (!shown) continue;
        p.setPen(QPen(t.accent, 1.6));
        p.setBrush(t.panel);
        p.drawEllipse(to_screen(h.at), 4, 4);
    }
    paint_table(p, {0, area.bottom() + 10, static_cast<double>(width()), row_height * table_rows});
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

void ProfileView::paint_table(QPainter& p, const QRectF& area) {
    const Theme& t = theme();
    const UnitSet u = document_.units();
    p.setPen(QPen(t.hairline, 1));
    p.drawLine(QPointF(0, area.top() - 3), QPointF(width(), area.top() - 3));
    const auto unit = [&](Quantity q) { return " " + text(u.unit(q).symbol); };
    const QString heads[] = {"Q" + unit(Quantity::Flow), "size" + unit(Quantity::Size), "slope" + unit(Quantity::Slope),
                             "V" + unit(Quantity::Velocity)};
    p.setFont(lettering(8));
    for (int row = 0; row < table_rows; ++row) {
        p.setPen(t.quiet);
        p.drawText(QRectF(6, area.top() + row * row_height, left_margin + 10, row_height),
                   Qt::AlignLeft | Qt::AlignVCenter, heads[row]);
    }
    for (const ProfileReach& r : profile_.reaches) {
        const double x0 = to_screen({r.x0, 0}).x(), x1 = to_screen({r.x1, 0}).x();
        if (x1 - x0 < 30) continue;  // no room: the card and the ledger have them
        const QString cells[] = {text(u.number(r.flow, Quantity::Flow)), text(u.number(r.height, Quantity::Size)),
                                 text(u.number(r.slope, Quantity::Slope)),
                                 text(u.number(r.velocity, Quantity::Velocity))};
        for (int row = 0; row < table_rows; ++row) {
            const bool over = row == 0 && r.flow_ratio > 1;
            p.setPen(over ? t.beyond : t.ink);
            p.setFont(lettering(8, row == 1));
            p.drawText(QRectF(x0, area.top() + row * row_height, x1 - x0, row_height), Qt::AlignCenter, cells[row]);
        }
    }
}

void ProfileView::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    pressed_ = e->position();
    down_ = true;
    dragging_ = false;
    held_ = {};
    double nearest = 9;
    for (const Handle& h : handles()) {
        const QPointF d = to_screen(h.at) - pressed_;
        // A selected element's handle wins where two lie together.
        const double away = std::hypot(d.x(), d.y()) - (document_.is_selected(h.element) ? 2 : 0);
        if (away < nearest) {
            nearest = away;
            held_ = h;
        }
    }
    if (!held_.element.id)
        if (const ElementRef hit = element_at(pressed_); hit.id) document_.select({hit});
}

void ProfileView::mouseMoveEvent(QMouseEvent* e) {
    if (!down_ || !held_.element.id) {
        bool near = false;
        for (const Handle& h : handles()) near |= (to_screen(h.at) - e->position()).manhattanLength() < 9;
        setCursor(near ? Qt::SizeVerCursor : Qt::ArrowCursor);
        return;
    }
    if (!dragging_ && std::abs(e->position().y() - pressed_.y()) < 3) return;
    dragging_ = true;
    const double level = std::round(level_at(e->position().y()) * 1000) / 1000;
    document_.cancel_pending();
    Editing edit(document_.project(), std::string(held_.field == std::string_view("rim") ? "Rim" : "Invert") + " of " +
                                          element_name(document_.project(), held_.element.kind, held_.element.id));
    edit.set(held_.element.kind, held_.element.id, held_.field, level);
    readout_ = text(document_.units().text(level, Quantity::Level));
    document_.set_pending(edit.take());
    update();
}

void ProfileView::mouseReleaseEvent(QMouseEvent*) {
    if (!down_) return;
    down_ = false;
    readout_.clear();
    if (dragging_) {
        dragging_ = false;
        document_.commit_pending();
    } else if (held_.element.id) {
        document_.select({held_.element});
    }
    update();
}

void ProfileView::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Escape && dragging_) {
        dragging_ = down_ = false;
        readout_.clear();
        document_.cancel_pending();
        return;
    }
    QWidget::keyPressEvent(e);
}

}  // namespace culvert::app
