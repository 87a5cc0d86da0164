// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/space_view.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <unordered_map>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/model/lay.h"
#include "core/review/clashes.h"

namespace culvert::app {
namespace {

constexpr int net_cells = 44;  ///< of the ground, along its longer side
constexpr double steep = 10;   ///< how much slopes are drawn out where they are shaded
constexpr double radian = std::numbers::pi / 180;

}  // namespace

SpaceView::SpaceView(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Site in space");
    setMinimumSize(200, 150);
    const auto refresh = [this] {
        dirty_ = true;
        if (isVisible()) update();
    };
    connect(&document_, &Document::changed, this, refresh);
    connect(&document_, &Document::site_changed, this, refresh);
    connect(&document_, &Document::file_changed, this, [this, refresh] {
        fitted_ = false;
        refresh();
    });
    connect(&document_, &Document::results_changed, this, [this] {
        if (isVisible()) update();
    });
    connect(&document_, &Document::event_changed, this, [this] { update(); });
    connect(&document_, &Document::selection_changed, this, [this] { update(); });
}

/// What stands in space, in metres; the ground as a net of cells over what is drawn.
void SpaceView::gather() {
    dirty_ = false;
    pieces_.clear();
    cells_.clear();
    const Project& p = document_.project();
    double x0 = 1e300, x1 = -1e300, y0 = 1e300, y1 = -1e300, z0 = 1e300, z1 = -1e300;
    const auto see = [&](const Place& q) {
        x0 = std::min(x0, q.x), x1 = std::max(x1, q.x);
        y0 = std::min(y0, q.y), y1 = std::max(y1, q.y);
        z0 = std::min(z0, q.z), z1 = std::max(z1, q.z);
    };
    const auto take = [&](ElementRef element, const SpaceLine& line) {
        for (std::size_t i = 0; i + 1 < line.points.size(); ++i) {
            const SpacePoint &a = line.points[i], &b = line.points[i + 1];
            if (!in_reach(Point{a.x, a.y}) || !in_reach(Point{b.x, b.y}) || !std::isfinite(a.z) || !std::isfinite(b.z))
                continue;
            pieces_.push_back({element, {a.x, a.y, a.z}, {b.x, b.y, b.z}, 2 * line.half_width});
            see(pieces_.back().a);
            see(pieces_.back().b);
        }
    };
    for (const Pipe& pipe : p.pipes) take({Kind::Pipe, pipe.id}, space_line(p, pipe));
    for (const BuriedLine& l : p.buried_lines) take({Kind::BuriedLine, l.id}, space_line(l));
    std::unordered_map<std::uint64_t, double> lowest;
    for (const Pipe& pipe : p.pipes)
        for (const auto& [end, invert] :
             {std::pair{pipe.from.value, pipe.invert_from}, {pipe.to.value, pipe.invert_to}})
            if (std::isfinite(invert)) {
                const auto [at, fresh] = lowest.try_emplace(end, invert);
                at->second = std::min(at->second, invert);
            }
    for (const Structure& s : p.structures) {
        const auto bottom = lowest.find(s.id);
        if (!placed(s) || !std::isfinite(s.rim)) continue;
        const double foot = bottom == lowest.end() ? s.rim : std::min(bottom->second, s.rim);
        pieces_.push_back({{Kind::Structure, s.id}, {s.x, s.y, foot}, {s.x, s.y, s.rim}, 1.2});
        see(pieces_.back().a);
        see(pieces_.back().b);
    }
    if (x0 > x1) {
        x0 = y0 = z0 = 0;
        x1 = y1 = z1 = 1;
    }
    const Ground& ground = document_.site().ground();
    const double margin = 0.06 * std::max({x1 - x0, y1 - y0, 20.0});
    if (!ground.empty()) {
        const double step = (std::max(x1 - x0, y1 - y0) + 2 * margin) / net_cells;
        const int across = static_cast<int>(std::ceil((x1 - x0 + 2 * margin) / step)),
                  along = static_cast<int>(std::ceil((y1 - y0 + 2 * margin) / step));
        Ground::Cursors cursors;
        std::vector<Place> net;
        for (int j = 0; j <= along; ++j)
            for (int i = 0; i <= across; ++i) {
                const double x = x0 - margin + i * step, y = y0 - margin + j * step;
                net.push_back({x, y, ground.elevation({x, y}, cursors)});
            }
        for (int j = 0; j < along; ++j)
            for (int i = 0; i < across; ++i) {
                const std::size_t row = static_cast<std::size_t>(across) + 1,
                                  at = static_cast<std::size_t>(j) * row + static_cast<std::size_t>(i),
                                  above = at + row;
                const std::array<Place, 4> corners{net[at], net[at + 1], net[above + 1], net[above]};
                if (std::any_of(corners.begin(), corners.end(), [](const Place& q) { return !std::isfinite(q.z); }))
                    continue;
                // Light from the north-west, as maps are shaded; slopes drawn out as the view draws heights.
                const double sx = steep * (corners[1].z - corners[0].z) / step,
                             sy = steep * (corners[3].z - corners[0].z) / step;
                const double light = (sx - sy + 1.4) / (std::sqrt(sx * sx + sy * sy + 1) * 2);
                cells_.push_back({corners, std::clamp(light, 0.0, 1.0)});
                for (const Place& q : corners) z0 = std::min(z0, q.z), z1 = std::max(z1, q.z);
            }
    }
    std::vector<double> lengths;
    for (const Piece& piece : pieces_)
        if (piece.element.kind == Kind::Pipe)
            lengths.push_back(std::hypot(piece.b.x - piece.a.x, piece.b.y - piece.a.y));
    if (!lengths.empty()) {
        const auto half = lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() / 2);
        std::nth_element(lengths.begin(), half, lengths.end());
        length_ = *half;
    }
    middle_ = {(x0 + x1) / 2, (y0 + y1) / 2, (z0 + z1) / 2};
    width_ = std::max(std::hypot(x1 - x0, y1 - y0) + 2 * margin, 1.0);
    height_ = std::max(z1 - z0, 0.1);
    if (fitted_ || pieces_.empty()) return;
    // Heights so that the site stands up, in round numbers.
    times_ = std::clamp(round_step(0.07 * width_ / height_), 1.0, 50.0);
    fit();
}

void SpaceView::fit() {
    fitted_ = !pieces_.empty();
    shift_ = {};
    const double high = width_ * std::sin(up_ * radian) + height_ * times_ * std::cos(up_ * radian);
    scale_ = std::min(width() * 0.92 / width_, height() * 0.92 / std::max(high, 1e-3));
}

/// Round the vertical first, then tilted toward the eye; heights drawn out.
QPointF SpaceView::to_screen(double x, double y, double z) const {
    const double c = std::cos(round_ * radian), s = std::sin(round_ * radian);
    const double dx = x - middle_.x, dy = y - middle_.y, dz = (z - middle_.z) * times_;
    const double right = dx * c + dy * s, away = dy * c - dx * s;
    const double raised = away * std::sin(up_ * radian) + dz * std::cos(up_ * radian);
    return {width() / 2.0 + right * scale_ + shift_.x(), height() / 2.0 - raised * scale_ + shift_.y()};
}
/// How far from the eye a place stands.
double SpaceView::depth_of(const Place& p) const {
    const double c = std::cos(round_ * radian), s = std::sin(round_ * radian);
    const double away = (p.y - middle_.y) * c - (p.x - middle_.x) * s;
    return away * std::cos(up_ * radian) - (p.z - middle_.z) * times_ * std::sin(up_ * radian);
}

void SpaceView::paintEvent(QPaintEvent*) {
    if (dirty_) gather();
    const Theme& t = theme();
    QPainter p(this);
    p.fillRect(rect(), t.paper);
    names_.clear();
    if (pieces_.empty()) {
        p.setFont(lettering(10));
        p.setPen(t.quiet);
        p.drawText(rect(), Qt::AlignCenter, "The site shows here once structures and pipes have levels");
        return;
    }
    // As the plan does: marks shrink and go, names thin out, before they lie on each other.
    spacing_ = length_ * scale_ * (1 + std::sin(up_ * radian)) / 2;
    p.setRenderHint(QPainter::Antialiasing, pieces_.size() < 6000);
    paint_ground(p);
    paint_pieces(p);
    paint_clashes(p);
    paint_names(p);
    paint_compass(p);
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void SpaceView::paint_ground(QPainter& p) const {
    const Theme& t = theme();
    std::vector<std::pair<double, const Cell*>> order;
    for (const Cell& c : cells_) order.emplace_back(-depth_of(c.corners[0]) - depth_of(c.corners[2]), &c);
    std::sort(order.begin(), order.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    for (const auto& [away, c] : order) {
        QPolygonF quad;
        for (const Place& q : c->corners) quad << to_screen(q);
        QColor fill = t.tint(t.ground, 0.10 + 0.28 * (1 - c->light)), line = t.ground;
        fill.setAlpha(200);
        line.setAlpha(46);
        p.setPen(QPen(line, 0.8));
        p.setBrush(fill);
        p.drawPolygon(quad);
    }
}

/// Far pieces first. What lies under the ground is seen through it.
void SpaceView::paint_pieces(QPainter& p) {
    const Theme& t = theme();
    const auto review = document_.review();
    const auto r = document_.result();
    std::vector<std::pair<double, const Piece*>> order;
    order.reserve(pieces_.size());
    for (const Piece& piece : pieces_) order.emplace_back(-depth_of(piece.a) - depth_of(piece.b), &piece);
    std::sort(order.begin(), order.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    const bool many = pieces_.size() > 6000, small = spacing_ < 16, tiny = spacing_ < 8;
    const QRectF seen = rect().adjusted(-40, -40, 40, 40);
    for (const auto& [away, piece] : order) {
        const QPointF a = to_screen(piece->a), b = to_screen(piece->b);
        if (!QRectF(a, b).normalized().adjusted(-1, -1, 1, 1).intersects(seen)) continue;
        const bool chosen = document_.is_selected(piece->element);
        const double width = std::clamp(piece->width * scale_, tiny ? 0.8 : small || many ? 1.2 : 2.2, 14.0);
        if (piece->element.kind == Kind::Structure) {
            if (tiny && !chosen) continue;
            p.setPen(QPen(chosen ? t.accent : t.ink, chosen ? width + 1.5 : std::min(small ? 1.0 : width, 5.0),
                          Qt::SolidLine, Qt::FlatCap));
            p.drawLine(a, b);
            if (!small) {
                p.setPen(QPen(chosen ? t.accent : t.ink, 1.2));
                p.setBrush(t.panel);
                p.drawEllipse(b, std::max(width / 2, 2.5), std::max(width / 2, 2.5) * std::sin(up_ * radian) + 0.6);
            }
            continue;
        }
        if (piece->element.kind == Kind::BuriedLine) {
            QPen pen(chosen ? t.accent : t.quiet, width, Qt::SolidLine, Qt::RoundCap);
            p.setPen(pen);
            p.drawLine(a, b);
            continue;
        }
        Verdict v = Verdict::Unknown;
        if (review && r && r->network) v = review->of(*r->network, piece->element);
        if (chosen) {
            QColor glow = t.accent;
            glow.setAlpha(80);
            p.setPen(QPen(glow, width + 7, Qt::SolidLine, Qt::RoundCap));
            p.drawLine(a, b);
        }
        QPen pen = t.verdict_pen(v, width);
        pen.setCapStyle(Qt::RoundCap);
        p.setPen(pen);
        p.drawLine(a, b);
        if (v == Verdict::Beyond && width > 3 && !many) {  // beyond: a light line along its middle
            p.setPen(QPen(t.panel, width / 4));
            p.drawLine(a, b);
        }
    }
}

void SpaceView::paint_clashes(QPainter& p) const {
    if (spacing_ < 16) return;
    for (const Clash& c : document_.clashes()) {
        if ((c.verdict != Verdict::Beyond && c.verdict != Verdict::Near) || !std::isfinite(c.other_top)) continue;
        draw_verdict_mark(p, to_screen(c.at.x, c.at.y, (c.other_top + c.other_bottom) / 2), std::min(5.0, spacing_ / 8),
                          c.verdict);
    }
}

/// Names above their structures: those selected first, then as many as have room.
void SpaceView::paint_names(QPainter& p) {
    const Theme& t = theme();
    p.setFont(lettering(8.5, true));
    const QFontMetricsF m(p.font());
    constexpr std::size_t most = 160;
    QColor paper = t.paper;
    paper.setAlpha(215);
    for (const bool chosen : {true, false})
        for (const Piece& piece : pieces_) {
            if (piece.element.kind != Kind::Structure || document_.is_selected(piece.element) != chosen) continue;
            if (!chosen && spacing_ < 24) {  // only where water leaves
                const Structure* s = document_.project().structures.find(piece.element.id);
                if (!s || s->kind != StructureKind::Outfall) continue;
            }
            if (names_.size() >= most) return;
            const QPointF at = to_screen(piece.b);
            if (!rect().contains(at.toPoint())) continue;
            const QString name = text(element_name(document_.project(), Kind::Structure, piece.element.id));
            const double w = m.horizontalAdvance(name);
            const QRectF box(at.x() - w / 2, at.y() - 20, w, 14);
            const bool free = std::none_of(names_.begin(), names_.end(), [&](const auto& n) {
                return n.second.adjusted(-6, -2, 6, 2).intersects(box);
            });
            if (!free) continue;
            names_.emplace_back(name, box);
            p.fillRect(box.adjusted(-2, 0, 2, 0), paper);
            p.setPen(chosen ? t.accent : t.ink);
            p.drawText(box, Qt::AlignCenter, name);
        }
}

/// Which way north is, and how much heights are drawn out.
void SpaceView::paint_compass(QPainter& p) const {
    const Theme& t = theme();
    const QPointF middle(width() - 40, height() - 44);
    const double c = std::cos(round_ * radian), s = std::sin(round_ * radian), tilt = std::sin(up_ * radian);
    const QPointF north(s * 22, -c * 22 * tilt);
    p.setPen(QPen(t.quiet, 1.4));
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(middle, 22, 22 * tilt);
    p.setPen(QPen(t.ink, 2));
    p.drawLine(middle, middle + north);
    p.setFont(lettering(8, true));
    p.drawText(QRectF(middle + north * 1.35 - QPointF(8, 8), QSizeF(16, 16)), Qt::AlignCenter, "N");
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    p.drawText(QRectF(width() - 210, height() - 20, 200, 16), Qt::AlignRight | Qt::AlignVCenter,
               QString("heights × %1").arg(times_, 0, 'g', 3));
    p.drawText(QRectF(12, height() - 20, width() - 230, 16), Qt::AlignLeft | Qt::AlignVCenter,
               "drag turns, with Shift moves; wheel zooms; a click selects");
}

ElementRef SpaceView::element_at(QPointF at) const {
    constexpr double reach = 9;
    double nearest = reach;
    ElementRef found;
    for (const Piece& piece : pieces_) {
        const QPointF a = to_screen(piece.a), d = to_screen(piece.b) - a;
        const double l2 = QPointF::dotProduct(d, d);
        const QPointF foot = a + (l2 > 0 ? std::clamp(QPointF::dotProduct(at - a, d) / l2, 0.0, 1.0) : 0) * d;
        // A structure stands in front of the pipes that end in it.
        const double away =
            std::hypot(foot.x() - at.x(), foot.y() - at.y()) - (piece.element.kind == Kind::Structure ? 2 : 0);
        if (away < nearest) {
            nearest = away;
            found = piece.element;
        }
    }
    return found;
}

void SpaceView::turn(double degrees_round, double degrees_up) {
    round_ = std::remainder(round_ + degrees_round, 360);
    up_ = std::clamp(up_ + degrees_up, 5.0, 90.0);
    update();
}
void SpaceView::zoom_at(QPointF at, double factor) {
    const double was = scale_;
    scale_ = std::clamp(scale_ * factor, 1e-4, 2000.0);
    const QPointF from_middle = at - QPointF(width() / 2.0, height() / 2.0);
    shift_ = from_middle - (from_middle - shift_) * (scale_ / was);
    update();
}
void SpaceView::show_all() {
    if (dirty_) gather();
    fit();
    update();
}
void SpaceView::set_exaggeration(double times) {
    times_ = std::clamp(times, 1.0, 50.0);
    update();
}

void SpaceView::mousePressEvent(QMouseEvent* e) {
    pressed_ = last_ = e->position();
    down_ = true;
    moved_ = false;
    shifting_ = e->button() == Qt::MiddleButton || (e->modifiers() & Qt::ShiftModifier);
}
void SpaceView::mouseMoveEvent(QMouseEvent* e) {
    if (!down_) return;
    if (!moved_ && (e->position() - pressed_).manhattanLength() < 4) return;
    moved_ = true;
    const QPointF d = e->position() - last_;
    last_ = e->position();
    if (shifting_) {
        shift_ += d;
        update();
    } else turn(d.x() * 0.4, d.y() * 0.4);
}
void SpaceView::mouseReleaseEvent(QMouseEvent* e) {
    if (down_ && !moved_ && e->button() == Qt::LeftButton) {
        const ElementRef hit = element_at(e->position());
        document_.select(hit.id ? std::vector<ElementRef>{hit} : std::vector<ElementRef>{});
    }
    down_ = false;
}
void SpaceView::mouseDoubleClickEvent(QMouseEvent* e) {
    if (!element_at(e->position()).id) show_all();
}
void SpaceView::wheelEvent(QWheelEvent* e) {
    zoom_at(e->position(), std::pow(1.0015, e->angleDelta().y()));
    e->accept();
}
void SpaceView::keyPressEvent(QKeyEvent* e) {
    const QPointF middle(width() / 2.0, height() / 2.0);
    switch (e->modifiers() & (Qt::AltModifier | Qt::ControlModifier) ? 0 : e->key()) {
        case Qt::Key_Left: return turn(-5, 0);
        case Qt::Key_Right: return turn(5, 0);
        case Qt::Key_Up: return turn(0, 5);
        case Qt::Key_Down: return turn(0, -5);
        case Qt::Key_Plus:
        case Qt::Key_Equal: return zoom_at(middle, 1.25);
        case Qt::Key_Minus: return zoom_at(middle, 0.8);
        case Qt::Key_0: return show_all();
        case Qt::Key_PageUp: return set_exaggeration(times_ * 1.25);
        case Qt::Key_PageDown: return set_exaggeration(times_ / 1.25);
        default: QWidget::keyPressEvent(e);
    }
}
void SpaceView::resizeEvent(QResizeEvent*) {
    if (!dirty_ && fitted_) fit();
}

}  // namespace culvert::app
