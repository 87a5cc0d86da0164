// SPDX-License-Identifier: GPL-3.0-or-later
// The painted parts of the card: section with water, size ladder, verdict bars, level budget, service level, levels.
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <cmath>

#include "app/card/card.h"
#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/analysis/budget.h"
#include "core/analysis/way_flows.h"
#include "core/base/contract.h"
#include "core/review/rules.h"

namespace culvert::app {
namespace {

/// One row of a verdict bar: a value against one limit or two.
struct Bar {
    QString label, limit, value;
    double at, low, high;  ///< value and limits; a limit that is not held is NaN
    Verdict verdict;
};

std::vector<Bar> bars_of(const CheckList& checks, const UnitSet& u) {
    std::vector<Bar> bars;
    for (const Check& c : checks) {
        const QString label = text(rule_info(c.rule).label);
        if (label.isEmpty()) continue;
        const auto same = std::find_if(bars.begin(), bars.end(), [&](const Bar& b) { return b.label == label; });
        Bar& bar = same == bars.end()
                       ? bars.emplace_back(Bar{label, {}, {}, c.value, not_given, not_given, Verdict::Unknown})
                       : *same;
        (c.at_most ? bar.high : bar.low) = c.limit;
        bar.verdict = std::max(bar.verdict, c.verdict);
        bar.value = text(u.text(c.value, c.quantity));
        if (c.rule == Rule::MostSurcharge && c.value > 0) bar.value = "+" + bar.value;
        const bool both = !std::isnan(bar.low) && !std::isnan(bar.high);
        bar.limit = both ? text(u.number(bar.low, c.quantity)) + " to " + text(u.number(bar.high, c.quantity))
                         : (c.at_most ? "at most " : "at least ") + text(u.number(c.limit, c.quantity));
    }
    return bars;
}

void draw_bar(QPainter& p, const Bar& b, double y, double width) {
    const Theme& t = theme();
    p.setFont(lettering(9));
    p.setPen(t.ink);
    p.drawText(QPointF(0, y + 12), b.label);
    const double label_width = QFontMetricsF(p.font()).horizontalAdvance(b.label);
    p.setFont(lettering(8));
    p.setPen(t.quiet);
    p.drawText(QPointF(std::max(86.0, label_width + 10), y + 12), b.limit);
    p.setFont(lettering(9, true));
    p.setPen(b.verdict == Verdict::Beyond ? t.beyond : t.ink);
    p.drawText(QRectF(0, y, width - 16, 16), Qt::AlignRight | Qt::AlignVCenter, b.value);
    draw_verdict_mark(p, {width - 6, y + 8}, 4, b.verdict);
    // The bar spans past its limits and past the value, so that a margin is a length.
    double low = std::isnan(b.low) ? std::min(0.0, b.high) : b.low,
           high = std::isnan(b.high) ? std::max(b.low, 0.0) : b.high;
    const double at = std::isfinite(b.at) ? b.at : high * 1.5;
    double span = std::max({std::abs(high - low), std::abs(at - high), std::abs(at - low), 1e-9});
    const double left = std::min({low, at}) - (std::isnan(b.low) ? 0.35 : 0.2) * span,
                 right = std::max({high, at}) + 0.25 * span;
    const auto x = [&](double v) { return std::clamp((v - left) / (right - left), 0.0, 1.0) * width; };
    const QRectF bar(0, y + 19, width, 6);
    p.setPen(Qt::NoPen);
    p.setBrush(t.tint(t.beyond, 0.22));
    p.drawRoundedRect(bar, 3, 3);
    p.setBrush(t.tint(t.within, 0.3));
    p.drawRect(QRectF(x(std::isnan(b.low) ? left : b.low), bar.top(),
                      x(std::isnan(b.high) ? right : b.high) - x(std::isnan(b.low) ? left : b.low), bar.height()));
    p.setPen(QPen(t.ink, 1.5));
    for (const double limit : {b.low, b.high})
        if (!std::isnan(limit)) p.drawLine(QPointF(x(limit), bar.top() - 2), QPointF(x(limit), bar.bottom() + 2));
    p.setPen(Qt::NoPen);
    p.setBrush(t.verdict(b.verdict));
    const double m = x(at);
    p.drawPolygon(QPolygonF{{m, bar.top() + 1}, {m + 5, bar.bottom() + 4}, {m - 5, bar.bottom() + 4}});
}

}  // namespace

void Card::add_verdicts() {
    add_canvas("verdicts", [this](QPainter& p, double width, std::vector<Canvas::Place>&) {
        const auto r = document_.result();
        const int at = node();
        p.setOpacity(document_.dimmed() ? 0.45 : 1);
        if (!r || at == no_node) {
            p.setFont(lettering(9));
            p.setPen(theme().quiet);
            p.drawText(QRectF(0, 4, width, 40), Qt::TextWordWrap,
                       document_.project().events.empty()
                           ? "Paste a rain table under Rain: then flows and limits stand here."
                           : "Not part of the solution yet: it needs a way to an outfall.");
            return 44.0;
        }
        const auto bars =
            bars_of(checks_of(LimitTable(document_.project(), r->event), *r, document_.selected()), document_.units());
        double y = 6;
        for (const Bar& b : bars) {
            draw_bar(p, b, y, width);
            y += 34;
        }
        return y;
    });
}

/// What comes to a structure and leaves it in the viewed event, by pipes, street paths and outlets; each is chosen by a
/// click.
void Card::add_ways(std::uint64_t id) {
    add_canvas("ways", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        const auto r = document_.result();
        const int node = r ? r->network->node_of(StructureId{id}) : no_node;
        if (node == no_node) return 0.0;
        const Network& net = *r->network;
        const UnitSet u = document_.units();
        p.setOpacity(document_.dimmed() ? 0.45 : 1);
        double y = 0;
        const auto row = [&](const Way& w, bool in) {
            const WayFlow f = flow_of(*r, w);
            ElementRef chosen{Kind::Structure, 0};
            const int other = in ? w.from : w.to;
            if (const auto* pipe = std::get_if<PipeWay>(&w.by))
                chosen = {Kind::Pipe, nth(net.links, pipe->link).pipe.value};
            else if (other != no_node) chosen.id = nth(net.nodes, other).structure.value;
            p.setFont(lettering(8.5));
            p.setPen(in ? t.quiet : t.water);
            p.drawText(QPointF(0, y + 12), in ? "→|" : "|→");
            p.setPen(t.ink);
            const QRectF words(22, y, width - 92, 17);
            p.drawText(words, Qt::AlignLeft | Qt::AlignVCenter,
                       p.fontMetrics().elidedText(text(way_name(document_.project(), net, w)), Qt::ElideRight,
                                                  static_cast<int>(words.width())));
            p.drawText(QRectF(0, y, width, 17), Qt::AlignRight | Qt::AlignVCenter,
                       text(u.text(f.flow, Quantity::Flow)));
            places.push_back(
                {QRectF(0, y, width, 17),
                 text(std::string(in ? "Comes by " : "Leaves by ") + way_name(document_.project(), net, w)),
                 chosen.id ? std::function<void()>([this, chosen] { document_.select({chosen}); })
                           : std::function<void()>()});
            y += 17;
        };
        for (const Way& w : ways_into(net, node)) row(w, true);
        for (const Way& w : ways_out_of(net, node)) row(w, false);
        return y + 2;
    });
}

/// All results of the element that the catalogue has, folded until it is asked for.
void Card::add_results() {
    add_canvas("results", [this](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        const auto r = document_.result();
        const ElementRef element = document_.selected();
        if (!r || result_index(*r, results_of(element.kind), element) < 0) return 0.0;
        const UnitSet u = document_.units();
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(0, 4.5), QPointF(width, 4.5));
        p.setFont(lettering(9.5, true));
        p.setPen(t.ink);
        p.drawText(QPointF(0, 23), results_open_ ? "All results" : "All results …");
        places.push_back(
            {QRectF(0, 8, width, 20), results_open_ ? "Fold" : "Show every result of the viewed event", [this] {
                 results_open_ = !results_open_;
                 refresh();
             }});
        if (!results_open_) return 30.0;
        p.setOpacity(document_.dimmed() ? 0.45 : 1);
        double y = 30;
        for (const ResultField& f : result_fields(results_of(element.kind))) {
            p.setFont(lettering(8.5));
            p.setPen(t.quiet);
            p.drawText(QPointF(0, y + 12), text(f.label));
            p.setPen(t.ink);
            p.drawText(QRectF(0, y, width, 17), Qt::AlignRight | Qt::AlignVCenter,
                       text(u.text(result_at(*r, f, element), f.quantity)));
            places.push_back({QRectF(0, y, width, 17), text(f.help), {}});
            y += 17;
        }
        return y + 4;
    });
}

void Card::add_budget() {
    add_canvas("budget", [this](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        const auto r = document_.result();
        const int at = node();
        if (!r || at == no_node) return 0.0;
        const StructureId structure = r->network->nodes[static_cast<std::size_t>(at)].structure;
        const LevelBudget b = level_budget(*r, structure);
        const UnitSet u = document_.units();
        p.setOpacity(document_.dimmed() ? 0.45 : 1);
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(0, 4.5), QPointF(width, 4.5));
        p.setFont(lettering(9.5, true));
        p.setPen(t.ink);
        const QString where = document_.selected().kind == Kind::Pipe
                                  ? " at " + text(element_name(document_.project(), Kind::Structure, structure.value))
                                  : QString();
        p.drawText(QPointF(0, 23), std::isnan(b.level)
                                       ? "Water level not known"
                                       : "Why the water stands at " + text(u.number(b.level, Quantity::Level)) + where);
        if (std::isnan(b.level)) return 30.0;
        double y = 30;
        const auto line = [&](const QColor& colour, const QString& label, const QString& value, ElementRef element,
                              bool strong) {
            p.fillRect(QRectF(0, y + 4, 10, 10), colour);
            p.setFont(lettering(8.5, strong));
            p.setPen(t.ink);
            p.drawText(QPointF(17, y + 13), QFontMetricsF(p.font()).elidedText(label, Qt::ElideRight, width - 90));
            p.drawText(QRectF(0, y, width, 18), Qt::AlignRight | Qt::AlignVCenter, value);
            places.push_back({QRectF(0, y, width, 18),
                              "Select " + text(element_name(document_.project(), element.kind, element.id)),
                              [this, element] { document_.select({element}); }});
            y += 18;
        };
        line(t.tint(t.water_body, 0.5),
             text(element_name(document_.project(), b.start_element.kind, b.start_element.id)) + ", " +
                 text(start_text(b.start)),
             text(u.number(b.start_level, Quantity::Level)), b.start_element, false);
        // Largest first: the cause stands on top, often downstream of what is marked. Small parts are summed.
        std::vector<BudgetPart> parts = b.parts;
        std::stable_sort(parts.begin(), parts.end(),
                         [](const BudgetPart& x, const BudgetPart& z) { return x.rise > z.rise; });
        constexpr std::size_t shown = 6;
        double rest = 0;
        for (std::size_t i = shown; i < parts.size(); ++i) rest += parts[i].rise;
        for (std::size_t i = 0; i < std::min(shown, parts.size()); ++i) {
            const BudgetPart& part = parts[i];
            const QString name = text(element_name(document_.project(), part.element.kind, part.element.id));
            line(i == 0 ? t.water : t.water_body,
                 part.element.kind == Kind::Pipe ? "friction in " + name : "losses at " + name,
                 (part.rise >= 0 ? "+" : "−") + text(u.number(std::abs(part.rise), Quantity::Length)), part.element,
                 i == 0);
        }
        if (parts.size() > shown)
            line(t.hairline, QString::number(parts.size() - shown) + " more",
                 (rest >= 0 ? "+" : "−") + text(u.number(std::abs(rest), Quantity::Length)), parts.back().element,
                 false);
        return y + 6;
    });
}

void Card::add_service() {
    add_canvas("service", [this](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        const Results all = document_.all_results();
        const int at = node();
        if (all.empty() || at == no_node) return 0.0;
        const ServiceLevel s = service_level(document_.project(), all, document_.selected());
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(0, 4.5), QPointF(width, 4.5));
        p.setFont(lettering(9.5, true));
        p.setPen(t.ink);
        p.drawText(QPointF(0, 23), "Service level");
        const int passed = s.passed();
        const RainEvent* rarest =
            passed >= 0 ? document_.project().events.find(s.events[static_cast<std::size_t>(passed)].value) : nullptr;
        p.setFont(lettering(8.5));
        p.setPen(t.quiet);
        p.drawText(QRectF(0, 10, width, 18), Qt::AlignRight | Qt::AlignVCenter,
                   rarest ? text(rarest->name) : QString("passes none"));
        const double label = 74,
                     cell = (width - label) / static_cast<double>(std::max<std::size_t>(s.events.size(), 1));
        for (std::size_t e = 0; e < s.events.size(); ++e) {
            const RainEvent* event = document_.project().events.find(s.events[e].value);
            p.setFont(lettering(8, s.events[e] == document_.event()));
            p.setPen(s.events[e] == document_.event() ? t.ink : t.quiet);
            const QRectF head(label + static_cast<double>(e) * cell, 28, cell, 14);
            p.drawText(head, Qt::AlignCenter,
                       event ? text(document_.units().number(event->return_period, Quantity::Years)) : QString());
            places.push_back({QRectF(head.left(), 28, cell, s.on_street ? 100 : 84),
                              "View " + (event ? text(event->name) : QString()),
                              [this, id = s.events[e]] { document_.set_event(id); }});
        }
        double y = 44;
        for (std::size_t row = 0; row < s.rows.size(); ++row) {
            if (row == 4 && !s.on_street) continue;
            p.setFont(lettering(8.5));
            p.setPen(t.ink);
            p.drawText(QPointF(0, y + 11), text(service_names[row]));
            for (std::size_t e = 0; e < s.events.size(); ++e) {
                const Verdict v = s.rows[row][e];
                const QRectF box(label + static_cast<double>(e) * cell + 2, y + 1, cell - 4, 11);
                p.setPen(v == Verdict::Beyond ? QPen(t.beyond, 1.3) : QPen(Qt::NoPen));
                p.setBrush(v == Verdict::Within ? t.tint(t.within, 0.35)
                                                : (v == Verdict::Near ? t.tint(t.near, 0.4) : t.panel));
                p.drawRoundedRect(box, 3, 3);
                if (v == Verdict::Beyond)
                    p.drawLine(box.bottomLeft() + QPointF(4, -3), box.topRight() + QPointF(-4, 3));
                if (v == Verdict::Near) {
                    p.setPen(QPen(t.near, 1.2, Qt::DashLine));
                    p.drawLine(QPointF(box.left() + 3, box.center().y()), QPointF(box.right() - 3, box.center().y()));
                }
            }
            y += 16;
        }
        return y + 6;
    });
}

void Card::pipe_card(std::uint64_t id) {
    const Pipe* pipe = document_.project().pipes.find(id);
    add_heading(text(pipe_name(document_.project(), *pipe)), [this, id] {
        const Pipe* now = document_.project().pipes.find(id);
        return now ? head_words(document_.project(), *now) : QString();
    });
    add_canvas("section", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        const Pipe* row = document_.project().pipes.find(id);
        if (!row || !(row->size > 0)) return 0.0;
        const UnitSet u = document_.units();
        const auto r = document_.result();
        const int at = link();
        const bool solved = r && at != no_link && !std::isnan(r->links[static_cast<std::size_t>(at)].level.head_up);
        p.setOpacity(document_.dimmed() ? 0.45 : 1);
        // The section with water at its upper end; above the crown it is full.
        const double head = solved ? r->links[static_cast<std::size_t>(at)].level.head_up : 0;
        const Section section = section_of(*row);
        const double high = culvert::height(section), wide = span_of(section);
        if (!(high > 0) || !(wide > 0)) return 0.0;
        const double share = std::clamp(head / high, 0.0, 1.0), scale = 72 / std::max(high, wide);
        const QRectF box(6 + (72 - wide * scale) / 2, 8 + (72 - high * scale) / 2, wide * scale, high * scale);
        QPainterPath outline;
        if (const auto* other = std::get_if<Shaped>(&section)) {
            double left = 1e9, right = -1e9;
            for (const OutlinePoint& q : other->table->outline()) {
                left = std::min(left, q.x);
                right = std::max(right, q.x);
            }
            QPolygonF points;
            for (const OutlinePoint& q : other->table->outline())
                points << QPointF(box.center().x() + (q.x - (left + right) / 2) * scale, box.bottom() - q.y * scale);
            outline.addPolygon(points);
        } else if (std::holds_alternative<culvert::Box>(section)) outline.addRect(box);
        else outline.addEllipse(box);
        p.save();
        p.setClipPath(outline);
        p.fillRect(QRectF(box.left(), box.bottom() - share * box.height(), box.width(), share * box.height()),
                   t.water_body);
        p.restore();
        p.setPen(QPen(t.hairline, 8));
        p.setBrush(Qt::NoBrush);
        p.drawPath(outline);
        p.setPen(QPen(t.ink, 2));
        p.drawPath(outline);
        p.setFont(lettering(10, true));
        p.setPen(t.ink);
        p.drawText(QRectF(0, box.top(), 84, box.height()), Qt::AlignCenter,
                   text(u.number(row->shape == culvert::Shape::Custom ? high : row->size, Quantity::Size)));
        // Normal and critical depth beside it.
        if (solved) {
            const LinkResult& l = r->links[static_cast<std::size_t>(at)];
            p.setFont(lettering(7.5));
            const auto mark = [&](double depth) { return box.bottom() - depth * scale; };
            const double yn = l.flow.normal, yc = l.level.critical;
            const bool normal = yn > 0 && yn <= high, critical = yc > 0 && yc <= high;
            const bool together = normal && critical && std::abs(mark(yn) - mark(yc)) < 9;
            p.setPen(QPen(t.water, 1.2));
            for (const auto& [shown, depth] : {std::pair{normal, yn}, {critical, yc}})
                if (shown) p.drawLine(QPointF(81, mark(depth)), QPointF(87, mark(depth)));
            p.setPen(t.quiet);
            if (together) p.drawText(QPointF(90, mark((yn + yc) / 2) + 3), "yn, yc");
            else {
                if (normal) p.drawText(QPointF(90, mark(yn) + 3), "yn");
                if (critical) p.drawText(QPointF(90, mark(yc) + 3), "yc");
            }
            p.setPen(t.ink);
        }
        p.setFont(lettering(9));
        const double x = 122;
        p.drawText(QPointF(x, 16), QFontMetricsF(p.font()).elidedText(
                                       (row->material.empty() ? QString("n ") : text(row->material) + ", n ") +
                                           text(u.number(row->roughness, Quantity::Roughness)),
                                       Qt::ElideRight, width - x));
        const double slope = solved ? r->network->links[static_cast<std::size_t>(at)].slope : not_given;
        p.drawText(QPointF(x, 33), "slope " + text(u.text(slope, Quantity::Slope)));
        if (solved) {
            p.setPen(t.quiet);
            const LinkFlow& f = r->links[static_cast<std::size_t>(at)].flow;
            p.drawText(QPointF(x, 50),
                       text(u.number(f.flow, Quantity::Flow)) + " of " +
                           text(u.text(r->network->links[static_cast<std::size_t>(at)].capacity, Quantity::Flow)));
        }
        // The ladder: what each size near this one would do to the HGL at its upper end.
        const auto& ladder = document_.ladder();
        p.setFont(lettering(8));
        p.setPen(t.quiet);
        p.drawText(QPointF(0, 103), row->size_locked ? "Size is locked"
                                    : sizes_of(document_.project(), row->material, row->shape).empty()
                                        ? "The catalogue has no sizes of its shape and material"
                                        : (ladder.empty() ? "Sizes: trying each …"
                                                          : "Sizes ( [ and ] step ), HGL to crown " +
                                                                text(u.unit(Quantity::Length).symbol)));
        if (ladder.empty()) return 146.0;
        const double cell = std::min(62.0, width / static_cast<double>(ladder.size()));
        for (std::size_t i = 0; i < ladder.size(); ++i) {
            const LadderStep& step = ladder[i];
            if (!step.size) continue;
            const QRectF chip(static_cast<double>(i) * cell, 109, cell - 5, 34);
            p.setPen(QPen(step.present ? t.accent : t.hairline, step.present ? 2 : 1));
            p.setBrush(step.present ? t.tint(t.accent, 0.14) : t.paper);
            p.drawRoundedRect(chip, 4, 4);
            p.setPen(t.ink);
            p.setFont(lettering(9, true));
            p.drawText(QRectF(chip.left(), chip.top() + 2, chip.width(), 16), Qt::AlignCenter,
                       text(u.number(step.size->size, Quantity::Size)));
            const bool above = step.hgl_to_crown > 0;
            p.setFont(lettering(8));
            p.setPen(above ? t.beyond : t.within);
            p.drawText(QRectF(chip.left(), chip.top() + 17, chip.width(), 14), Qt::AlignCenter,
                       std::isnan(step.hgl_to_crown)
                           ? QString("–")
                           : (above ? "+" : "−") + text(u.number(std::abs(step.hgl_to_crown), Quantity::Length)));
            if (!step.present && !row->size_locked)
                places.push_back(
                    {chip, "Take this size: flow ratio " + text(u.number(step.flow_ratio, Quantity::Ratio)),
                     [this, id, size = *step.size] { document_.commit(with_size(document_.project(), {id}, size)); }});
        }
        return 150.0;
    });
    add_parts({{CardPart::Verdicts, [this] { add_verdicts(); }},
               {CardPart::Cause, [this] { add_budget(); }},
               {CardPart::Service, [this] { add_service(); }},
               {CardPart::Levels, [this] { add_pipe_levels(); }},
               {CardPart::Results, [this] { add_results(); }},
               {CardPart::Inputs, [this, id] { add_pipe_inputs(id); }}});
}

void Card::add_pipe_levels() {
    add_title("Levels");
    add_canvas("levels", [this](QPainter& p, double width, std::vector<Canvas::Place>&) {
        const Theme& t = theme();
        const auto r = document_.result();
        const int at = link();
        if (!r || at == no_link) return 0.0;
        const UnitSet u = document_.units();
        const Link& n = r->network->links[static_cast<std::size_t>(at)];
        const LinkResult& v = r->links[static_cast<std::size_t>(at)];
        const Node &up_end = r->network->nodes[static_cast<std::size_t>(n.from)],
                   &down = r->network->nodes[static_cast<std::size_t>(n.to)];
        const double top = culvert::height(n.section), c1 = width - 84, c2 = width;
        const auto cell = [&](double right, double y, const QString& s, const QColor& colour) {
            p.setPen(colour);
            p.drawText(QRectF(right - 90, y, 90, 16), Qt::AlignRight | Qt::AlignVCenter, s);
        };
        p.setOpacity(document_.dimmed() ? 0.45 : 1);
        p.setFont(lettering(8.5));
        cell(c1, 0, text(element_name(document_.project(), Kind::Structure, up_end.structure.value)), t.quiet);
        cell(c2, 0, text(element_name(document_.project(), Kind::Structure, down.structure.value)), t.quiet);
        double y = 17;
        const std::tuple<const char*, double, double, bool> rows[] = {
            {"rim", up_end.rim, down.rim, false},
            {"HGL", n.invert_up + v.level.head_up, n.invert_down + v.level.head_down, true},
            {"crown", n.invert_up + top, n.invert_down + top, false},
            {"invert", n.invert_up, n.invert_down, false}};
        for (const auto& [label, up, low, water] : rows) {
            p.setPen(t.quiet);
            p.drawText(QPointF(0, y + 12), label);
            cell(c1, y, text(u.number(up, Quantity::Level)), water && v.level.head_up > top ? t.beyond : t.ink);
            cell(c2, y, text(u.number(low, Quantity::Level)), water && v.level.head_down > top ? t.beyond : t.ink);
            y += 17;
        }
        return y + 4;
    });
}

void Card::add_pipe_inputs(std::uint64_t id) {
    const Pipe* pipe = document_.project().pipes.find(id);
    add_title("Inputs");
    // What a level is tied to stands under it; ties are made by grading.
    for (const auto& [key, tie_key, tie, words] :
         {std::tuple{"invert_from", "tie_from", &pipe->tie_from, "Start tied to"},
          {"invert_to", "tie_to", &pipe->tie_to, "End tied to"}}) {
        add_field(Kind::Pipe, id, key);
        if (tie->empty()) continue;
        add_field(Kind::Pipe, id, tie_key);
        fields_.back()->set_label(words);
    }
    add_field(Kind::Pipe, id, "size");
    if (has_width(pipe->shape)) add_field(Kind::Pipe, id, "width");
    if (pipe->shape == culvert::Shape::Trapezoid) add_field(Kind::Pipe, id, "sides");
    if (pipe->shape == culvert::Shape::Custom)
        for (const char* key : {"section_across", "section_up"}) add_field(Kind::Pipe, id, key);
    for (const char* key : {"barrels", "roughness", "length", "shape", "material", "status", "name", "group",
                            "description", "note", "note_source"})
        add_field(Kind::Pipe, id, key);
    auto* lock = new QPushButton(pipe->size_locked ? "Unlock the size" : "Lock the size");
    lock->setToolTip("A locked size is checked, never proposed");
    connect(lock, &QPushButton::clicked, this, [this, id] {
        const Pipe* row = document_.project().pipes.find(id);
        Editing e(document_.project(), row->size_locked ? "Unlock the size" : "Lock the size");
        e.set(Kind::Pipe, id, "size_locked", !row->size_locked);
        document_.commit(e.take());
    });
    column_->addWidget(lock);
    add_crossings([id](const Clash& c) {
        return c.pipe.value == id || (c.other == ElementRef{Kind::Pipe, id} && c.crosses);
    });
}

}  // namespace culvert::app
