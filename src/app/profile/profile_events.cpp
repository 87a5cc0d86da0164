// SPDX-License-Identifier: GPL-3.0-or-later
// The grade lines of the other events, thin beside the viewed one's: how the run answers a rarer storm.
#include <QPainter>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/profile/profile_layout.h"
#include "app/profile/profile_view.h"

namespace culvert::app {

void ProfileView::set_all_events(bool on) {
    all_events_ = on;
    dirty_ = true;
    update();
}

/// Results of another revision belong to other levels: they are left out until theirs come.
void ProfileView::find_other_events() {
    others_.clear();
    const auto viewed = document_.result();
    if (!all_events_ || !viewed) return;
    for (const RainEvent* e : events_in_order(document_.project())) {
        const auto r = document_.result({e->id});
        if (r == viewed || !r || !r->network || r->revision != viewed->revision) continue;
        const Profile run = run_of(*r->network, r.get(), nullptr);
        if (run.reaches.size() != profile_.reaches.size()) continue;
        OtherGradeLine line{e->name, {}};
        for (const ProfileReach& reach : run.reaches)
            if (reach.hydraulic.size() > 1) line.parts.push_back(reach.hydraulic);
        if (!line.parts.empty()) others_.push_back(std::move(line));
    }
}

void ProfileView::paint_other_events(QPainter& p) {
    const Theme& t = theme();
    const QRectF area = plot();
    p.setFont(lettering(8));
    const QFontMetricsF metrics(p.font());
    for (const OtherGradeLine& o : others_) {
        QColor colour = t.water;
        colour.setAlpha(170);
        p.setPen(QPen(colour, 1));
        p.setBrush(Qt::NoBrush);
        const QString name = text(o.event);
        bool named = false;
        for (const std::vector<Point>& part : o.parts) {
            QPolygonF line;
            for (const Point& q : part) line << to_screen(q);
            if (line.back().x() < area.left() || line.front().x() > area.right()) continue;
            p.drawPolyline(line);
            const QRectF box(std::max(line.front().x(), area.left()) + 6, line.front().y() - metrics.height() + 1,
                             metrics.horizontalAdvance(name) + 2, metrics.height());
            if (named || !area.contains(box.center()) ||
                std::any_of(names_.begin(), names_.end(), [&](const auto& n) { return n.second.intersects(box); }))
                continue;
            named = true;  // at the first pipe that has room for it
            QColor paper = t.panel;
            paper.setAlpha(210);
            p.fillRect(box, paper);
            p.setPen(t.water);
            p.drawText(box, Qt::AlignLeft | Qt::AlignVCenter, name);
            p.setPen(QPen(colour, 1));
            names_.emplace_back(name, box);
        }
    }
}

}  // namespace culvert::app
