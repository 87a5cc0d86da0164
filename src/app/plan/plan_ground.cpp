// SPDX-License-Identifier: GPL-3.0-or-later
// How the plan paints what lies under the network: backgrounds, contours, low points, slope arrows, streets, street
// paths; and the readout at the pointer.
#include <QPainter>
#include <QPainterPath>
#include <array>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/low_points.h"
#include "app/plan/plan_view.h"
#include "core/analysis/way_flows.h"

namespace culvert::app {
namespace {

constexpr std::size_t most_contour_labels = 60, most_texts = 1500;

QColor faded(QColor c, int alpha) {
    c.setAlpha(alpha);
    return c;
}

}  // namespace

void PlanView::paint_background(QPainter& p, const QRectF& view) {
    if (!ground_show_.background) return;
    const Theme& t = theme();
    for (const Background& row : document_.project().backgrounds) {
        const SiteBackground* b = document_.site().background(row.id);
        if (!row.visible || !b || b->picture.isNull() || row.placing.size() != 6) continue;
        // The world file places the middle of the first pixel; a picture's corner lies half a pixel before it.
        const auto& w = row.placing;
        const double x = w[4] - (w[0] + w[2]) / 2, y = w[5] - (w[1] + w[3]) / 2;
        const QPointF o = to_screen({x, y}), ex = to_screen({x + w[0], y + w[1]}) - o,
                      ey = to_screen({x + w[2], y + w[3]}) - o;
        p.save();
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.setOpacity(p.opacity() * (row.dim ? 0.45 : 1));
        p.setTransform(QTransform(ex.x(), ex.y(), ey.x(), ey.y(), o.x(), o.y()), true);
        p.drawImage(QPointF(0, 0), b->picture);
        p.restore();
    }
    if (background_.lines().empty() && background_.texts().empty()) return;
    const auto in_view = background_.lines_in(view);
    p.setRenderHint(QPainter::Antialiasing, in_view.size() < 4000);
    p.setBrush(Qt::NoBrush);
    for (const bool dim : {true, false}) {
        p.setPen(QPen(dim ? faded(t.quiet, 110) : faded(t.ink, 190), 1));
        QVector<QLineF> segments;
        for (const std::size_t i : in_view) {
            const auto& line = background_.lines()[i];
            if (line.dim != dim) continue;
            // Smaller than a pixel: a dot is enough.
            if (line.box.width() * scale_ < 1 && line.box.height() * scale_ < 1) continue;
            for (std::size_t k = 1; k < line.points.size(); ++k)
                segments << QLineF(to_screen(line.points[k - 1]), to_screen(line.points[k]));
        }
        p.drawLines(segments);
    }
    std::size_t drawn = 0;
    for (const auto& label : background_.texts()) {
        const double pixels = label.height * scale_;
        if (pixels < 6 || !view.contains(label.at) || ++drawn > most_texts) continue;
        p.save();
        p.translate(to_screen(label.at));
        p.rotate(-label.angle * 180 / M_PI);
        QFont f = lettering(8);
        f.setPixelSize(std::clamp(static_cast<int>(pixels), 6, 200));
        p.setFont(f);
        p.setPen(label.dim ? faded(t.quiet, 140) : t.ink);
        p.drawText(QPointF(0, 0), label.text);
        p.restore();
    }
}

void PlanView::paint_ground(QPainter& p, const QRectF& view) {
    Site& site = document_.site();
    if (site.surfaces().empty()) return;
    const Theme& t = theme();
    const UnitSet u = document_.units();
    if (ground_show_.contours) {
        double low = 1e300, high = -1e300, left = 1e300, right = -1e300;
        for (const auto& s : site.surfaces())
            if (s->terrain) {
                low = std::min(low, s->terrain->bounds().low);
                high = std::max(high, s->terrain->bounds().high);
                left = std::min(left, s->terrain->bounds().left);
                right = std::max(right, s->terrain->bounds().right);
            }
        if (low < high) {
            // About fourteen contours over what is in view, in round steps of the project's unit.
            const double unit = u.unit(Quantity::Level).factor,
                         share = std::clamp(view.width() / std::max(right - left, 1.0), 0.02, 1.0);
            const double interval = contour_interval(low / unit, (low + (high - low) * share) / unit, 14) * unit;
            site.want_contours(view, interval);
        }
        p.setRenderHint(QPainter::Antialiasing);
        p.setBrush(Qt::NoBrush);
        QFont small = lettering(7.5);
        p.setFont(small);
        const QFontMetricsF m(small);
        std::size_t labels = 0;
        for (const SiteContours& c : site.contours()) {
            const Surface* row = document_.project().surfaces.find(c.surface);
            if (!row || !row->visible) continue;
            const bool existing = row->role == SurfaceRole::Existing;
            QPainterPath thin, bold;
            struct Label {
                QPointF at;
                double angle;
                QString words;
            };
            std::vector<Label> said;
            for (const Contour& line : c.lines) {
                if (line.line.size() < 2) continue;
                const bool fifth = std::abs(std::remainder(line.level, 5 * c.interval)) < c.interval * 1e-3;
                QPolygonF points;
                double l = 0;
                for (const Point& q : line.line) {
                    const QPointF at = to_screen({q.x, q.y});
                    if (!points.isEmpty()) {
                        const QPointF d = at - points.back();
                        const double step = std::hypot(d.x(), d.y());
                        if (step < 0.7 && &q != &line.line.back()) continue;
                        l += step;
                    }
                    points << at;
                }
                (fifth ? bold : thin).addPolygon(points);
                if (fifth && l > 160 && labels < most_contour_labels && points.size() > 2) {
                    const qsizetype k = points.size() / 2;
                    const QPointF d = points[k] - points[k - 1];
                    double angle = std::atan2(d.y(), d.x()) * 180 / M_PI;
                    if (angle > 90) angle -= 180;
                    if (angle < -90) angle += 180;
                    said.push_back({points[k], angle, text(u.number(line.level, Quantity::Level))});
                    ++labels;
                }
            }
            QPen pen(faded(t.ground, existing ? 90 : 130), 0.8);
            if (existing) pen.setDashPattern({5, 3});
            p.setPen(pen);
            p.drawPath(thin);
            pen.setWidthF(1.3);
            pen.setColor(faded(t.ground, existing ? 130 : 190));
            p.setPen(pen);
            p.drawPath(bold);
            for (const Label& label : said) {
                p.save();
                p.translate(label.at);
                p.rotate(label.angle);
                const double w = m.horizontalAdvance(label.words);
                p.fillRect(QRectF(-w / 2 - 2, -m.height() / 2, w + 4, m.height()), faded(t.paper, 215));
                p.setPen(t.ground);
                p.drawText(QPointF(-w / 2, m.ascent() - m.height() / 2), label.words);
                p.restore();
            }
        }
    }
    const SiteSurface* top = site.top();
    if (!top) return;
    if (ground_show_.arrows) {
        // Slope arrows on a grid of the screen, as long as the ground is steep.
        Terrain::Cursor cursor;
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(faded(t.water, 170), 1.1));
        constexpr int step = 44;
        for (int y = step / 2; y < height(); y += step)
            for (int x = step / 2; x < width(); x += step) {
                const QPointF at = to_metres(QPointF(x, y));
                const auto triangle = top->terrain->locate({at.x(), at.y()}, cursor);
                if (!top->terrain->is_surface(triangle)) continue;
                const Point g = top->terrain->gradient(triangle);
                const double slope = std::hypot(g.x, g.y);
                if (slope < 1e-5) continue;
                const double l = 6 + 12 * std::min(1.0, std::sqrt(slope / 0.05));
                const QPointF d(-g.x / slope * l, g.y / slope * l), head = QPointF(x, y) + d / 2,
                                                                    n(-d.y() / l, d.x() / l);
                p.drawLine(QPointF(x, y) - d / 2, head);
                p.drawLine(head, head - d / l * 4 + n * 2.6);
                p.drawLine(head, head - d / l * 4 - n * 2.6);
            }
    }
    if (ground_show_.low_points) {
        p.setRenderHint(QPainter::Antialiasing);
        for (const LowPoint& low : low_points(document_, view)) {  // their depths stand with the other labels
            const QPointF at = to_screen({low.bottom.x, low.bottom.y});
            p.setPen(QPen(low.filled ? t.water : faded(t.water, 130), low.filled ? 1.5 : 1));
            p.setBrush(low.filled ? QBrush(faded(t.water_body, 120)) : QBrush(Qt::NoBrush));
            // A drop's outline: water stands here.
            QPainterPath drop;
            drop.moveTo(at + QPointF(0, -8));
            drop.cubicTo(at + QPointF(7, 0), at + QPointF(5, 6), at + QPointF(0, 6));
            drop.cubicTo(at + QPointF(-5, 6), at + QPointF(-7, 0), at + QPointF(0, -8));
            p.drawPath(drop);
        }
    }
}

void PlanView::paint_streets(QPainter& p, const QRectF& view) {
    const Theme& t = theme();
    p.setRenderHint(QPainter::Antialiasing);
    std::vector<QRectF>& named = street_names_;  // names do not lie on each other
    named.clear();
    for (const PlanStreet& s : scene_.streets()) {
        const auto polyline = [this](const std::vector<QPointF>& line) {
            QPolygonF out;
            for (const QPointF& q : line) out << to_screen(q);
            return out;
        };
        QPolygonF area = polyline(s.left_edge), right = polyline(s.right_edge);
        for (auto q = right.crbegin(); q != right.crend(); ++q) area << *q;
        if (!QRectF(rect()).intersects(area.boundingRect()) && !view.isNull()) continue;
        p.setPen(Qt::NoPen);
        p.setBrush(faded(t.ground, theme_.streets ? 60 : 22));
        p.drawPolygon(area);
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(faded(t.ground, theme_.streets ? 255 : 150), theme_.streets ? 1.8 : 1.2));
        p.drawPolyline(polyline(s.left_curb));
        p.drawPolyline(polyline(s.right_curb));
        QPen crown(faded(t.ground, 150), 1);
        crown.setDashPattern({8, 3, 2, 3});
        p.setPen(crown);
        p.drawPolyline(polyline(s.line));
        if (s.line.size() < 2) continue;
        const QPolygonF line = polyline(s.line);
        const qsizetype k = (line.size() - 1) / 2;
        const QPointF d = line[k + 1] - line[k];
        if (std::hypot(d.x(), d.y()) < 60) continue;
        double angle = std::atan2(d.y(), d.x()) * 180 / M_PI;
        if (angle > 90) angle -= 180;
        if (angle < -90) angle += 180;
        p.setFont(lettering(8));
        const double w = QFontMetricsF(p.font()).horizontalAdvance(text(s.name)),
                     c = std::abs(std::cos(angle * M_PI / 180)), n = std::abs(std::sin(angle * M_PI / 180));
        // In the middle, or beside it where a structure or another street's name stands there.
        QPointF middle;
        QRectF box;
        const auto lies_free = [&](double share) {
            middle = line[k] + share * d;
            box = QRectF(middle.x() - (w * c + 16 * n) / 2, middle.y() - (w * n + 16 * c) / 2 - 8 * c, w * c + 16 * n,
                         w * n + 16 * c);
            const QPointF low = to_metres(box.bottomLeft() + QPointF(-8, 8)),
                          high = to_metres(box.topRight() + QPointF(8, -8));
            return std::none_of(named.begin(), named.end(), [&](const QRectF& o) { return o.intersects(box); }) &&
                   scene_.structures_in(QRectF(low, high)).empty();
        };
        constexpr std::array<double, 5> shares{0.5, 0.35, 0.65, 0.2, 0.8};
        if (std::none_of(shares.begin(), shares.end(), lies_free)) continue;
        named.push_back(box);
        p.save();
        p.translate(middle);
        p.rotate(angle);
        p.setPen(t.ground);
        p.drawText(QRectF(-150, -16, 300, 14), Qt::AlignCenter, text(s.name));
        p.restore();
    }
}

/// Flow of the viewed event that runs along a street path, what passes an inlet and what spills; 0 where none is known.
double PlanView::bypass_along(std::uint64_t path) const {
    const StreetPath* row = document_.project().street_paths.find(path);
    const auto r = document_.result();
    const int node = row && r ? r->network->node_of(row->from) : no_node;
    const int inlet = node == no_node ? no_inlet : r->network->nodes[static_cast<std::size_t>(node)].inlet;
    if (node == no_node) return 0;
    return (inlet == no_inlet ? 0 : r->streets[static_cast<std::size_t>(inlet)].bypass) +
           spilled(*r, node, row->to ? r->network->node_of(row->to) : no_node);
}

QPolygonF PlanView::path_line(const PlanPath& path) const {
    QPolygonF line;
    for (const QPointF& q : path.line) line << to_screen(q);
    if (line.size() == 2) {  // beside the pipe that mostly lies below it
        const QPointF d = line[1] - line[0];
        const double l = std::max(1.0, std::hypot(d.x(), d.y()));
        line.translate(QPointF(-d.y(), d.x()) / l * 7);
    }
    return line;
}

void PlanView::paint_paths(QPainter& p, const QRectF&) {
    const Theme& t = theme();
    p.setRenderHint(QPainter::Antialiasing);
    for (const PlanPath& path : scene_.paths()) {
        const QPolygonF line = path_line(path);
        if (!QRectF(rect()).adjusted(-20, -20, 20, 20).intersects(line.boundingRect().adjusted(-1, -1, 1, 1))) continue;
        QPen pen(t.water, 1.4);
        pen.setDashPattern({1, 3});
        p.setPen(pen);
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(line);
        if (line.size() < 2) continue;
        // An arrow short of the end; a bar across where the water leaves the site.
        const QPointF end = line.back(), d = end - line[line.size() - 2];
        const double l = std::hypot(d.x(), d.y());
        if (l < 14) continue;
        const QPointF u = d / l, n(-u.y(), u.x()), head = end - u * (path.leaves ? 0 : 12);
        p.setPen(QPen(t.water, 1.4));
        p.drawLine(head, head - u * 6 + n * 3.5);
        p.drawLine(head, head - u * 6 - n * 3.5);
        if (path.leaves) p.drawLine(end + n * 7, end - n * 7);
    }
}

void PlanView::paint_readout(QPainter& p) {
    const QString words = readout_.isEmpty() ? QString() : readout_;
    if (words.isEmpty()) return;
    const QStringList lines = words.split('\n');
    p.setFont(lettering(9));
    const QFontMetricsF m(p.font());
    double w = 0;
    for (const QString& line : lines) w = std::max(w, m.horizontalAdvance(line));
    const QSizeF size(w + 16, m.height() * static_cast<double>(lines.size()) + 8);
    // At the pointer, and never off the view or under it.
    QPointF at = pointer_ + QPointF(18, 18);
    if (at.x() + size.width() > width() - 4) at.setX(pointer_.x() - size.width() - 14);
    if (at.y() + size.height() > height() - 4) at.setY(pointer_.y() - size.height() - 14);
    at.setX(std::clamp(at.x(), 4.0, std::max(4.0, width() - size.width() - 4)));
    at.setY(std::clamp(at.y(), 4.0, std::max(4.0, height() - size.height() - 4)));
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(theme().hairline);
    p.setBrush(theme().panel);
    p.drawRoundedRect(QRectF(at, size), 4, 4);
    p.setPen(theme().ink);
    double y = at.y() + 4 + m.ascent();
    for (const QString& line : lines) {
        p.drawText(QPointF(at.x() + 8, y), line);
        y += m.height();
    }
}

}  // namespace culvert::app
