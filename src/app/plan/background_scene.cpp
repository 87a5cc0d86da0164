// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/background_scene.h"
#include "app/desk/text.h"

#include <cmath>

#include "app/kit/theme.h"

namespace culvert::app {

void BackgroundScene::update(const Project& project, const Site& site) {
    std::vector<const void*> drawings;
    for (const Background& row : project.backgrounds) {
        const SiteBackground* b = site.background(row.id);
        drawings.push_back(b ? b->drawing.get() : nullptr);
    }
    if (seen_.same(project.backgrounds) && drawings == seen_drawings_) return;
    seen_ = project.backgrounds;
    seen_drawings_ = std::move(drawings);
    lines_.clear();
    texts_.clear();
    bounds_ = {};
    std::vector<BoundingBox> boxes;
    for (const Background& row : project.backgrounds) {
        const SiteBackground* b = site.background(row.id);
        if (!row.visible || !b || !b->drawing) continue;
        const QStringList hidden = hidden_layers(row);
        std::vector<bool> on;
        for (const std::string& layer : b->drawing->layers) on.push_back(!hidden.contains(text(layer)));
        const auto shown = [&on](int layer) {
            return layer < 0 || static_cast<std::size_t>(layer) >= on.size() || on[static_cast<std::size_t>(layer)];
        };
        const auto add = [&](int layer, std::vector<QPointF> points) {
            double left = 1e300, right = -1e300, low = 1e300, high = -1e300;
            for (const QPointF& p : points) {
                left = std::min(left, p.x());
                right = std::max(right, p.x());
                low = std::min(low, p.y());
                high = std::max(high, p.y());
            }
            if (!(left <= right)) return;
            boxes.push_back({left, low, right, high});
            const QRectF box(left, low, right - left, high - low);
            bounds_ = bounds_.isNull() ? box : bounds_.united(box);
            lines_.push_back({row.id, layer, row.dim, std::move(points), box});
        };
        for (const Drawing::Line& l : b->drawing->lines) {
            if (!shown(l.layer)) continue;
            std::vector<QPointF> points;
            for (const GroundPoint& p : l.points) points.emplace_back(p.x, p.y);
            if (l.closed && !points.empty()) points.push_back(points.front());
            add(l.layer, std::move(points));
        }
        for (const Drawing::Face& f : b->drawing->faces)
            if (shown(f.layer)) {
                std::vector<QPointF> points;
                for (const GroundPoint& p : f.corners) points.emplace_back(p.x, p.y);
                points.push_back(points.front());
                add(f.layer, std::move(points));
            }
        for (const Drawing::Text& t : b->drawing->texts)
            if (shown(t.layer)) texts_.push_back({row.dim, {t.at.x, t.at.y}, t.height, t.angle, text(t.text)});
    }
    index_ = BoxIndex(boxes);
}

std::vector<std::size_t> BackgroundScene::lines_in(const QRectF& r) const {
    return index_.meeting({r.left(), r.top(), r.right(), r.bottom()});
}

int BackgroundScene::near(QPointF at, double reach, QPointF& place) const {
    int corner = -1, on = -1;
    double corner_away = reach, on_away = reach;
    QPointF corner_at, on_at;
    for (const std::size_t i : lines_in({at.x() - reach, at.y() - reach, 2 * reach, 2 * reach})) {
        const auto& points = lines_[i].points;
        for (std::size_t k = 0; k < points.size(); ++k) {
            if (const double d = std::hypot(points[k].x() - at.x(), points[k].y() - at.y()); d <= corner_away) {
                corner_away = d;
                corner = static_cast<int>(i);
                corner_at = points[k];
            }
            if (k == 0) continue;
            const QPointF a = points[k - 1], d = points[k] - a;
            const double l2 = QPointF::dotProduct(d, d);
            const QPointF foot = a + (l2 > 0 ? std::clamp(QPointF::dotProduct(at - a, d) / l2, 0.0, 1.0) : 0) * d;
            if (const double off = std::hypot(foot.x() - at.x(), foot.y() - at.y()); off <= on_away) {
                on_away = off;
                on = static_cast<int>(i);
                on_at = foot;
            }
        }
    }
    if (corner >= 0) {
        place = corner_at;
        return corner;
    }
    place = on_at;
    return on;
}

}  // namespace culvert::app
