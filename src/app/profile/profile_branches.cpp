// SPDX-License-Identifier: GPL-3.0-or-later
// Branches that join the run of the profile: named in its head, chosen by a click.
#include <QPainter>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/profile/profile_view.h"
#include "core/base/contract.h"

namespace culvert::app {

void ProfileView::find_joins(const Network& net) {
    joins_.clear();
    for (std::size_t k = 1; k < profile_.stations.size(); ++k) {
        const ProfileStation& s = profile_.stations[k];
        if (s.node == no_node || !s.joins) continue;
        for (int in = nth(net.nodes, s.node).first_in; in != no_link; in = nth(net.links, in).next_in) {
            const Link& l = nth(net.links, in);
            if (in == profile_.reaches[k - 1].link) continue;
            joins_.push_back(
                {l.pipe,
                 text(element_name(document_.project(), Kind::Structure, nth(net.nodes, l.from).structure.value)),
                 text(s.name),
                 {}});
        }
    }
}

/// "joined by B3 at A3, C3 at A5", as far as there is room.
void ProfileView::paint_joins(QPainter& p, double from, double to) {
    for (Join& j : joins_) j.place = {};
    if (joins_.empty()) return;
    const Theme& t = theme();
    p.setFont(lettering(8.5));
    const QFontMetricsF m(p.font());
    const double more = m.horizontalAdvance(QString("and %1 more").arg(joins_.size()));
    double x = from;
    p.setPen(t.quiet);
    const QString lead = "joined by ";
    if (x + m.horizontalAdvance(lead) + more > to) return;
    p.drawText(QPointF(x, 20), lead);
    x += m.horizontalAdvance(lead);
    for (std::size_t i = 0; i < joins_.size(); ++i) {
        Join& j = joins_[i];
        const QString at = " at " + j.at + (i + 1 < joins_.size() ? ", " : "");
        const double w = m.horizontalAdvance(j.name), all = w + m.horizontalAdvance(at);
        if (x + all + (i + 1 < joins_.size() ? more : 0) > to) {
            p.setPen(t.quiet);
            p.drawText(QPointF(x, 20), QString("and %1 more").arg(joins_.size() - i));
            return;
        }
        p.setPen(t.accent);
        p.drawText(QPointF(x, 20), j.name);
        j.place = {x - 2, 6, w + 4, 19};
        p.setPen(t.quiet);
        p.drawText(QPointF(x + w, 20), at);
        x += all;
    }
}

const ProfileView::Join* ProfileView::join_at(QPointF at) const {
    for (const Join& j : joins_)
        if (j.place.contains(at)) return &j;
    return nullptr;
}

/// The branch after the one that is selected, in the order in which they join; after the last one the first.
void ProfileView::show_next_branch() {
    if (joins_.empty()) return;
    // A branch that is shown has joins of its own: where it has none, those it was chosen among go on.
    const ElementRef now = document_.selected();
    std::size_t next = 0;
    for (std::size_t i = 0; i < joins_.size(); ++i)
        if (now == ElementRef{Kind::Pipe, joins_[i].pipe.value}) next = (i + 1) % joins_.size();
    document_.select({{Kind::Pipe, joins_[next].pipe.value}});
}

}  // namespace culvert::app
