// SPDX-License-Identifier: GPL-3.0-or-later
// The part of an inlet's card about the street: the section with its water, what comes, what is taken, what passes and
// where to, in each event.
#include <QPainter>
#include <cmath>

#include "app/card/card.h"
#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/analysis/way_flows.h"
#include "core/base/contract.h"
#include "core/review/rules.h"

namespace culvert::app {
namespace {

struct AtInlet {
    const StreetInlet* inlet = nullptr;
    const StreetFlow* flow = nullptr;
};
AtInlet at_inlet(const EventResult& r, std::uint64_t structure) {
    const int node = r.network->node_of(StructureId{structure});
    const int inlet = node == no_node ? no_inlet : nth(r.network->nodes, node).inlet;
    return inlet == no_inlet ? AtInlet{} : AtInlet{&nth(r.network->inlets, inlet), &nth(r.streets, inlet)};
}

/// One side of the street from the curb to the crown, heights drawn larger, with the water on it.
double draw_section(QPainter& p, const AtInlet& a, const UnitSet& u, double width) {
    const Theme& t = theme();
    const auto* s = std::get_if<CompositeSection>(&a.inlet->gutter.section);
    if (!s) return 0;
    const double left = 26, right = width - 10, top = 14, tall = 62;
    const double crown = depth_at_crown(*s), high = std::max({crown, a.inlet->curb, 0.05});
    const double x_scale = (right - left) / (s->to_crown + 0.4), y_scale = tall / high;
    const QPointF foot(left + 0.3 * x_scale, top + tall);
    const auto at = [&](double x, double h) { return foot + QPointF(x * x_scale, -h * y_scale); };
    const double edge = s->gutter_width * s->gutter_slope;
    const QPolygonF ground{at(-0.3, a.inlet->curb), at(0, a.inlet->curb), at(0, 0), at(s->gutter_width, edge),
                           at(s->to_crown, crown)};
    // Water.
    const double d = std::min(a.flow->depth, high), spread = a.flow->spread;
    if (d > 0 && std::isfinite(d)) {
        QPolygonF water{at(0, 0)};
        if (spread > s->gutter_width) water << at(s->gutter_width, edge);
        water << at(spread, std::min(depth_of_spread(*s, spread), d)) << at(0, d);
        p.setPen(Qt::NoPen);
        p.setBrush(t.water_body);
        p.drawPolygon(water);
        p.setPen(QPen(t.water, 1.4));
        p.drawLine(at(0, d), at(spread, d));
    }
    QPolygonF body = ground;
    body << at(s->to_crown, -0.12 * high) << at(-0.3, -0.12 * high);
    QColor fill = t.ground;
    fill.setAlpha(46);
    p.setPen(Qt::NoPen);
    p.setBrush(fill);
    p.drawPolygon(body);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.ground, 1.8));
    p.drawPolyline(ground);
    QPen axis(t.quiet, 1);
    axis.setDashPattern({6, 3, 1, 3});
    p.setPen(axis);
    p.drawLine(at(s->to_crown, crown) + QPointF(0, -8), at(s->to_crown, 0) + QPointF(0, 10));
    // Widths.
    const double y = foot.y() + 18;
    p.setFont(lettering(8));
    const auto dimension = [&](double from, double to, const QString& words, const QColor& colour) {
        if ((to - from) * x_scale < 3) return;
        p.setPen(QPen(colour, 1));
        const QPointF a0(at(from, 0).x(), y), b0(at(to, 0).x(), y);
        p.drawLine(a0, b0);
        for (const QPointF& q : {a0, b0}) p.drawLine(q + QPointF(0, -3), q + QPointF(0, 3));
        const double w = QFontMetricsF(p.font()).horizontalAdvance(words), middle = (a0.x() + b0.x()) / 2;
        p.drawText(QPointF(std::clamp(middle - w / 2, 0.0, width - w), y + 13), words);
    };
    dimension(0, spread, "spread " + text(u.number(spread, Quantity::Length)), t.water);
    dimension(spread, s->to_crown, "dry " + text(u.number(s->to_crown - spread, Quantity::Length)), t.quiet);
    return y + 20;
}

}  // namespace

void Card::add_street(std::uint64_t id) {
    add_canvas("street", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        const UnitSet u = document_.units();
        const Project& project = document_.project();
        const auto r = document_.result();
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(0, 4.5), QPointF(width, 4.5));
        p.setFont(lettering(9.5, true));
        p.setPen(t.ink);
        p.drawText(QPointF(0, 23), "On the street");
        const AtInlet a = r ? at_inlet(*r, id) : AtInlet{};
        if (!a.inlet) {
            p.setFont(lettering(8.5));
            p.setPen(t.quiet);
            const QRectF box(0, 30, width, 60);
            p.drawText(box, Qt::TextWordWrap,
                       "All that comes to it enters. To see the water on the street give it a type with an inlet, a "
                       "street, and the street's profile.");
            return 82.0;
        }
        p.setOpacity(document_.dimmed() ? 0.45 : 1);
        p.save();
        p.translate(0, 28);
        double y = 30 + draw_section(p, a, u, width);
        p.restore();
        const auto line = [&](const QString& what, const QString& value, const QString& tip,
                              const std::function<void()>& go = {}) {
            p.setFont(lettering(8.5));
            p.setPen(t.quiet);
            p.drawText(QPointF(0, y + 12), what);
            p.setPen(go ? t.accent : t.ink);
            p.drawText(QRectF(0, y, width, 17), Qt::AlignRight | Qt::AlignVCenter, value);
            places.push_back({QRectF(0, y, width, 17), tip, go});
            y += 17;
        };
        const auto flow = [&](double q) { return text(u.text(q, Quantity::Flow)); };
        line("comes", flow(a.flow->flow), "Flow that comes to the inlet along the curb");
        const Network& net = *r->network;
        for (const FromAbove& above : over_street_to(*r, a.inlet->node)) {
            const std::uint64_t from = nth(net.nodes, above.from).structure.value;
            line((above.spill ? "   spilled from " : "   passed ") + text(element_name(project, Kind::Structure, from)),
                 flow(above.flow),
                 above.spill ? "What the water kept there spills along its street path, at its largest: select it"
                             : "What the inlet above let pass: select it",
                 [this, from] {
                     document_.select({{Kind::Structure, from}});
                 });
        }
        line("taken", flow(a.flow->captured) + ", " + QString::number(std::lround(a.flow->efficiency * 100)) + " %",
             a.inlet->sag ? "In a sag it takes all, up to the depth at which it spills"
                          : "What it takes as the water runs past");
        const bool passes = a.flow->bypass > 1e-9;
        if (!passes) line("passes", "nothing", "All that comes is taken");
        else if (a.inlet->end == PathEnd::Structure) {
            const std::uint64_t to = nth(net.nodes, a.inlet->to).structure.value;
            line("passes on to " + text(element_name(project, Kind::Structure, to)), flow(a.flow->bypass),
                 "It runs on along its street path: select where to", [this, to] {
                     document_.select({{Kind::Structure, to}});
                 });
        } else
            line(a.inlet->end == PathEnd::OffSite ? "leaves the site" : "passes, no path: stays in the pipe",
                 flow(a.flow->bypass),
                 a.inlet->end == PathEnd::OffSite ? "Its street path leaves the site"
                                                  : "Draw the street path along which it runs");
        line("depth at the curb", text(u.text(a.flow->depth, Quantity::Length)), "Of the water on the street");
        if (!a.inlet->sag)
            line("street grade", text(u.text(a.inlet->gutter.grade, Quantity::Slope)),
                 a.inlet->grade_from == GradeFrom::Entered   ? "As entered"
                 : a.inlet->grade_from == GradeFrom::Profile ? "Of the street's profile"
                                                             : "Of the rims along its street path");
        // All events.
        y += 8;
        p.setFont(lettering(8));
        p.setPen(t.quiet);
        const double c1 = width * 0.44, c2 = width * 0.59, c3 = width * 0.75, c4 = width - 14;
        const auto cell = [&](double right, const QString& words) {
            p.drawText(QRectF(right - 90, y, 90, 14), Qt::AlignRight | Qt::AlignVCenter, words);
        };
        const QString unit = text(u.unit(Quantity::Flow).symbol);
        cell(c1, "comes " + unit);
        cell(c2, "taken");
        cell(c3, "passes");
        cell(c4, "spread " + text(u.unit(Quantity::Length).symbol));
        y += 15;
        for (const RainEvent* e : events_in_order(project)) {
            const auto of = document_.result(EventId{e->id});
            const AtInlet b = of ? at_inlet(*of, id) : AtInlet{};
            if (!b.inlet) continue;
            Verdict verdict = Verdict::Unknown;
            for (const Check& c : checks_of(LimitTable(project, of->event), *of, {Kind::Structure, id}))
                if (stage_of(c.rule) == Stage::Streets) verdict = std::max(verdict, c.verdict);
            p.setPen(t.ink);
            p.drawText(QRectF(0, y, c1 - 60, 15), Qt::AlignLeft | Qt::AlignVCenter,
                       QFontMetricsF(p.font()).elidedText(text(e->name), Qt::ElideRight, c1 - 62));
            cell(c1, text(u.number(b.flow->flow, Quantity::Flow)));
            cell(c2, text(u.number(b.flow->captured, Quantity::Flow)));
            cell(c3, text(u.number(b.flow->bypass, Quantity::Flow)));
            cell(c4, text(u.number(b.flow->spread, Quantity::Length)));
            draw_verdict_mark(p, {width - 5, y + 8}, 3.5, verdict);
            places.push_back(
                {QRectF(0, y, width, 15), "View this event", [this, event = e->id] { document_.set_event({event}); }});
            y += 16;
        }
        return y + 6;
    });
    add_capture(id);
    for (const char* key : {"type", "opening_length", "inlet_place", "street_grade", "crest_depth"})
        add_field(Kind::Structure, id, key);
}

/// What the inlet takes of what comes, over all flows, with the events on it; beside it that of another type of the
/// catalogue on the same street, dashed.
void Card::add_capture(std::uint64_t id) {
    add_canvas("capture", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const auto r = document_.result();
        const AtInlet a = r ? at_inlet(*r, id) : AtInlet{};
        if (!a.inlet || a.inlet->sag) return 0.0;
        const Theme& t = theme();
        const UnitSet u = document_.units();
        const Project& project = document_.project();
        const StreetConstants k = street_constants(r->network->edition);
        double most = 1e-4;
        for (const RainEvent* e : events_in_order(project))
            if (const auto of = document_.result(EventId{e->id}))
                if (const AtInlet b = at_inlet(*of, id); b.flow) most = std::max(most, b.flow->flow * 1.15);
        const QRectF area(30, 22, width - 40, 78);
        const auto at = [&](double q, double taken) {
            return QPointF(area.left() + q / most * area.width(), area.bottom() - taken / most * area.height());
        };
        p.setRenderHint(QPainter::Antialiasing);
        p.setFont(lettering(8.5, true));
        p.setPen(t.ink);
        p.drawText(QPointF(0, 12), "Taken of what comes, " + text(u.unit(Quantity::Flow).symbol));
        p.setPen(QPen(t.hairline, 1));
        p.drawRect(area);
        p.drawLine(at(0, 0), at(most, most));
        const auto curve = [&](const InletForm& form) {
            QPolygonF line;
            for (int i = 0; i <= 40; ++i)
                line << at(most * i / 40, on_grade(form, a.inlet->gutter, most * i / 40, k).captured);
            return line;
        };
        // Types to compare with: click for the next one.
        std::vector<const StructureType*> others;
        const Structure* s = project.structures.find(id);
        for (const StructureType& type : project.structure_types)
            if (type.kind == StructureKind::Inlet && inlet_form(type) && s && type.name != s->type)
                others.push_back(&type);
        p.setBrush(Qt::NoBrush);
        QString compared;
        if (!others.empty()) {
            const StructureType& other = *others[compared_type_ % others.size()];
            QPen dashed(t.quiet, 1.2);
            dashed.setDashPattern({4, 3});
            p.setPen(dashed);
            p.drawPolyline(curve(*inlet_form(other)));
            compared = text(other.name);
        }
        p.setPen(QPen(t.water, 1.8));
        p.drawPolyline(curve(a.inlet->form));
        p.setBrush(t.panel);
        for (const RainEvent* e : events_in_order(project))
            if (const auto of = document_.result(EventId{e->id}))
                if (const AtInlet b = at_inlet(*of, id); b.flow) {
                    p.setPen(QPen(e->id == document_.event().value ? t.accent : t.water, 1.6));
                    p.drawEllipse(at(b.flow->flow, b.flow->captured), 2.8, 2.8);
                }
        p.setFont(lettering(8));
        p.setPen(t.quiet);
        p.drawText(QRectF(0, area.top() - 7, 27, 14), Qt::AlignRight, text(u.number(most, Quantity::Flow)));
        p.drawText(QRectF(area.right() - 60, area.bottom() + 1, 60, 14), Qt::AlignRight,
                   text(u.number(most, Quantity::Flow)));
        if (!compared.isEmpty()) {
            const QRectF box(area.left(), area.bottom() + 1, area.width() - 62, 14);
            p.drawText(box, Qt::AlignLeft,
                       QFontMetricsF(p.font()).elidedText("dashed: " + compared, Qt::ElideRight, box.width()));
            places.push_back({box, "Compare with the next type of the catalogue", [this] {
                                  ++compared_type_;
                                  refresh();
                              }});
        }
        return area.bottom() + 20;
    });
}

}  // namespace culvert::app
