// SPDX-License-Identifier: GPL-3.0-or-later
// What an outfall meets and where its water goes; other lines under ground, and what crosses them.
#include <QPainter>
#include <cmath>

#include "app/card/card.h"
#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/analysis/result_fields.h"

namespace culvert::app {

void Card::add_outfall(std::uint64_t id) {
    const Structure* s = document_.project().structures.find(id);
    add_field(Kind::Structure, id, "tailwater");
    if (s->tailwater == Tailwater::Level || s->tailwater == Tailwater::MeanOfCriticalAndCrown)
        add_field(Kind::Structure, id, "tailwater_level");
    if (s->tailwater == Tailwater::Rating)
        for (const char* key : {"rating_flows", "rating_levels"}) add_field(Kind::Structure, id, key);
    add_title("Tailwater of single events");
    for (const RainEvent* e : events_in_order(document_.project())) {
        const OutfallLevel* row = nullptr;
        for (const OutfallLevel& l : document_.project().outfall_levels)
            if (l.structure.value == id && l.event.value == e->id) row = &l;
        const std::uint64_t fresh = row ? row->id : random_id();
        add_field(Kind::OutfallLevel, fresh, "level");
        fields_.back()->set_label("in " + text(e->name));
        if (row) continue;
        fields_.back()->set_maker([this, id, fresh, event = e->id](Value v) {
            Editing edit(document_.project(), "Tailwater of " + element_name(document_.project(), Kind::Structure, id));
            OutfallLevel l;
            l.id = fresh;
            l.structure = {id};
            l.event = {event};
            edit.insert(l);
            edit.set(Kind::OutfallLevel, fresh, "level", std::move(v));
            return edit.take();
        });
    }
    add_title("Channel below the outfall");
    add_field(Kind::Structure, id, "channel_width");
    if (std::isnan(s->channel_width)) return;
    for (const char* key : {"channel_sides", "channel_slope", "channel_roughness", "channel_velocity", "channel_shear"})
        add_field(Kind::Structure, id, key);
    add_canvas("channel", [this, id](QPainter& p, double width, std::vector<Canvas::Place>&) {
        const auto r = document_.result();
        const int at = node();
        const Structure* row = document_.project().structures.find(id);
        if (!r || at == no_node || !row) return 0.0;
        const Theme& t = theme();
        const ChannelState f = receiving(*r, static_cast<std::size_t>(at));
        if (!(f.depth > 0)) return 0.0;
        const UnitSet u = document_.units();
        // The trapezoid with its water, as deep again above it.
        const double b = row->channel_width, z = row->channel_sides, top = 1.5 * f.depth;
        const double across = b + 2 * z * top, scale = std::min((width - 20) / across, 70 / top);
        const double middle = width / 2, foot = 84;
        const auto at_depth = [&](double y, double side) {
            return QPointF(middle + side * (b / 2 + z * y) * scale, foot - y * scale);
        };
        p.setPen(Qt::NoPen);
        p.setBrush(t.water_body);
        p.drawPolygon(QPolygonF{at_depth(0, -1), at_depth(0, 1), at_depth(f.depth, 1), at_depth(f.depth, -1)});
        p.setPen(QPen(t.ground, 1.6));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(QPolygonF{at_depth(top, -1), at_depth(0, -1), at_depth(0, 1), at_depth(top, 1)});
        p.setPen(QPen(t.water, 1.6));
        p.drawLine(at_depth(f.depth, -1), at_depth(f.depth, 1));
        p.setFont(lettering(8.5));
        p.setPen(t.ink);
        p.drawText(QRectF(0, foot + 4, width, 15), Qt::AlignCenter,
                   text(u.text(f.depth, Quantity::Length)) + " deep, " + text(u.text(f.velocity, Quantity::Velocity)) +
                       ", " + text(u.text(f.shear, Quantity::Stress)) + (f.froude > 1 ? ", fast" : ""));
        return foot + 22;
    });
}

void Card::buried_card(std::uint64_t id) {
    const BuriedLine* l = document_.project().buried_lines.find(id);
    add_heading(l->name.empty() ? QString("unnamed line") : text(l->name),
                "buried line, " + text(document_.units().text(length(l->line), Quantity::Length)));
    for (const char* key : {"name", "kind", "size", "level_of", "levels", "status", "source", "note"})
        add_field(Kind::BuriedLine, id, key);
    for (const Clearance& c : document_.project().clearances)
        if (c.kind == l->kind) {
            add_title("Clearance asked of its kind");
            for (const char* key : {"vertical", "horizontal", "source"}) add_field(Kind::Clearance, c.id, key);
        }
    add_crossings([id](const Clash& c) { return c.other == ElementRef{Kind::BuriedLine, id}; });
}

/// Places where lines come near each other, worst first; a click goes to the pipe, or to what it meets.
void Card::add_crossings(std::function<bool(const Clash&)> of) {
    if (document_.clashes().empty()) return;
    add_title("Crossings");
    add_canvas("crossings", [this, of = std::move(of)](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        const UnitSet u = document_.units();
        std::vector<Clash> list;
        for (const Clash& c : document_.clashes())
            if (of(c)) list.push_back(c);
        std::stable_sort(list.begin(), list.end(),
                         [](const Clash& a, const Clash& b) { return a.verdict > b.verdict; });
        p.setFont(lettering(8.5));
        if (list.empty()) {
            p.setPen(t.quiet);
            p.drawText(QPointF(0, 14), "none");
            return 20.0;
        }
        double y = 0;
        constexpr std::size_t most = 12;
        for (std::size_t i = 0; i < list.size() && i < most; ++i) {
            const Clash& c = list[i];
            const bool chosen = document_.selected() == ElementRef{Kind::Pipe, c.pipe.value};
            const ElementRef shown = chosen ? c.other : ElementRef{Kind::Pipe, c.pipe.value};
            const Verdict v = c.verdict;
            draw_verdict_mark(p, {6, y + 9}, 4, v);
            p.setPen(v == Verdict::Beyond ? t.beyond : t.ink);
            const double gap = c.crosses ? c.vertical : c.horizontal,
                         least = c.crosses ? c.least_vertical : c.least_horizontal;
            p.drawText(QRectF(16, y, width * 0.45, 18), Qt::AlignVCenter,
                       QString(chosen == c.other_above ? "under " : "over ") +
                           text(element_name(document_.project(), shown.kind, shown.id)));
            p.drawText(QRectF(0, y, width, 18), Qt::AlignRight | Qt::AlignVCenter,
                       std::isnan(c.vertical) ? QString("level not known")
                                              : text(u.number(gap, Quantity::Length)) + " of " +
                                                    text(u.text(std::isnan(least) ? 0 : least, Quantity::Length)));
            places.push_back({QRectF(0, y, width, 18),
                              QString("%1 of %2 from its start; a click goes there")
                                  .arg(text(u.text(c.along, Quantity::Length)))
                                  .arg(text(element_name(document_.project(), Kind::Pipe, c.pipe.value))),
                              [this, shown] { document_.select({shown}); }});
            y += 19;
        }
        if (list.size() > most) {
            p.setPen(t.quiet);
            p.drawText(QPointF(16, y + 13), QString("and %1 more").arg(list.size() - most));
            y += 19;
        }
        return y + 4;
    });
}

}  // namespace culvert::app
