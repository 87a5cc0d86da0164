// SPDX-License-Identifier: GPL-3.0-or-later
// The card of a catchment: its numbers, its time with the parts it is made of, its land covers and what they make
// together.
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <algorithm>
#include <cmath>

#include "app/card/card.h"
#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/analysis/catchment_series.h"
#include "core/analysis/result_fields.h"
#include "core/base/clock.h"
#include "core/design/cover_cut.h"
#include "core/geometry/line.h"
#include "core/hydrology/land_covers.h"
#include "core/model/catchment_time.h"

namespace culvert::app {

/// The parts of the time, or the formula, with what each takes.
void Card::add_time(std::uint64_t id) {
    add_canvas("time", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Catchment* c = document_.project().catchments.find(id);
        if (!c) return 0.0;
        const Theme& t = theme();
        const UnitSet u = document_.units();
        const ConcentrationTime found = concentration_time(document_.project(), *c);
        double y = 2;
        const auto row = [&](const QString& what, const QString& middle, const QString& value, bool bold) {
            p.setFont(lettering(8.5, bold));
            p.setPen(bold ? t.ink : t.quiet);
            p.drawText(QRectF(0, y, width, 16), Qt::AlignLeft | Qt::AlignVCenter, what);
            p.drawText(QRectF(0, y, width - 66, 16), Qt::AlignRight | Qt::AlignVCenter, middle);
            p.setPen(t.ink);
            p.drawText(QRectF(0, y, width, 16), Qt::AlignRight | Qt::AlignVCenter, value);
            y += 16;
        };
        for (std::size_t i = 0; i < found.part_times.size(); ++i) {
            const FlowPart& part = found.parts[i];
            const double length = length_of(part), time = found.part_times[i];
            row(text(part_name(part)),
                length > 0
                    ? text(u.text(length, Quantity::Length)) + ", " + text(u.text(length / time, Quantity::Velocity))
                    : QString(),
                text(u.text(time, Quantity::Duration)), false);
            if (const auto* sheet = std::get_if<SheetFlow>(&part);
                sheet && sheet->length > longest_sheet_flow * 1.001) {
                p.setPen(t.near);
                p.drawText(QRectF(0, y, width, 15), Qt::AlignLeft,
                           "sheet flow gathers within 30 m (100 ft): shorten it");
                y += 15;
            }
        }
        if (!found.fault.empty()) {
            p.setFont(lettering(8.5));
            p.setPen(t.beyond);
            const QRectF box(0, y, width, 46);
            p.drawText(box, Qt::TextWordWrap, text(found.fault) + ". The least time is taken.");
            return y + 46;
        }
        row(c->time_by == TimeBy::Kirpich ? "by Kirpich"
            : c->time_by == TimeBy::Faa   ? "by FAA"
                                          : "together",
            {}, text(u.text(found.time, Quantity::Duration)), true);
        const double least = document_.project().settings().least_time;
        if (found.time < least) row("least time of the project", {}, text(u.text(least, Quantity::Duration)), false);
        places.push_back({QRectF(0, 0, width, y),
                          "Lengths over velocities; sheet flow and waves by their equations (docs/methods/streets.md)",
                          {}});
        return y + 4;
    });
}

/// What the land covers make together, and whether they add up.
void Card::add_covers(std::uint64_t id) {
    add_canvas("composite", [this, id](QPainter& p, double width, std::vector<Canvas::Place>&) {
        const Project& project = document_.project();
        const Catchment* c = project.catchments.find(id);
        if (!c) return 0.0;
        double whole = 0, ca = 0, paved = 0;
        std::vector<CurvePart> curves;
        QStringList odd;
        for (const LandCover& l : project.land_covers) {
            if (l.catchment.value != id || !(l.area > 0)) continue;
            whole += l.area;
            ca += l.area * l.coefficient;
            if (l.curve_number > 0)
                curves.push_back({l.area, l.curve_number, l.impervious, l.drains == CoverDrains::OverPervious});
            if (l.impervious > 0) paved += l.area * l.impervious;
            const LandCoverKind* kind = land_cover_kind(l.name);
            if (kind && (l.coefficient < kind->c_low - 1e-9 || l.coefficient > kind->c_high + 1e-9))
                odd << QString("%1: C %2, usually %3 to %4")
                           .arg(text(l.name))
                           .arg(l.coefficient, 0, 'f', 2)
                           .arg(kind->c_low, 0, 'f', 2)
                           .arg(kind->c_high, 0, 'f', 2);
        }
        if (!(whole > 0)) return 0.0;
        const Theme& t = theme();
        const UnitSet u = document_.units();
        double y = 0;
        const auto line = [&](const QString& words, const QColor& colour, bool bold) {
            p.setFont(lettering(8.5, bold));
            p.setPen(colour);
            p.drawText(QRectF(0, y, width, 16), Qt::AlignLeft | Qt::AlignVCenter, words);
            y += 16;
        };
        const CompositeCurve number = composite_curve_number(curves);
        line("together " + text(u.text(whole, Quantity::Area)) + ", C " + text(u.number(ca / whole, Quantity::Ratio)) +
                 (curves.empty() ? QString() : QString(", CN %1").arg(number.curve_number, 0, 'f', 1)) +
                 (paved > 0 ? QString(", %1 % impervious").arg(100 * paved / whole, 0, 'f', 0) : QString()),
             t.ink, true);
        if (!c->outline.empty())
            if (const double drawn = area(c->outline); std::abs(whole / drawn - 1) > 0.01)
                line("the outline holds " + text(u.text(drawn, Quantity::Area)) + ": they do not add up", t.near,
                     false);
        if (number.lowered) line("CN is lower for what runs over pervious ground (TR-55, fig. 2-4)", t.quiet, false);
        if (number.too_paved) line("30 % or more is impervious: CN is plainly weighted", t.near, false);
        for (const QString& words : odd) line(words, t.near, false);
        return y + 4;
    });
}

void Card::cover_card(std::uint64_t id) {
    const LandCover* l = document_.project().land_covers.find(id);
    add_heading(text(l->name),
                "land cover of " + text(element_name(document_.project(), Kind::Catchment, l->catchment.value)));
    for (const char* key : {"name", "area", "coefficient", "curve_number", "impervious", "drains", "time", "roughness",
                            "storage", "source"})
        add_field(Kind::LandCover, id, key);
    add_ground_losses(Kind::LandCover, id);
}

/// What it makes of the rain in each event, where the project is computed through time.
void Card::add_runoff(std::uint64_t id) {
    if (document_.project().settings().runoff_by == RunoffBy::Rational) return;
    add_title("What it makes of the rain");
    add_canvas("runoff", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        const UnitSet u = document_.units();
        std::vector<const ResultField*> fields;
        for (const char* key : {"rain", "runoff", "peak", "peak_time"})
            fields.push_back(result_field(ResultOn::Area, key));
        static constexpr double columns[] = {0.48, 0.65, 0.83, 1.0};
        const auto cell = [&](std::size_t i, double y, const QString& words) {
            p.drawText(QRectF(0, y, width * columns[i], 17), Qt::AlignRight | Qt::AlignVCenter, words);
        };
        const auto is_time = [&](const ResultField& f) { return f.quantity == Quantity::Duration && by_clock(u); };
        p.setOpacity(document_.dimmed() ? 0.45 : 1);
        p.setFont(lettering(8));
        p.setPen(t.quiet);
        double y = 0;
        for (std::size_t i = 0; i < fields.size(); ++i) {
            cell(i, y, text(fields[i]->head));
            cell(i, y + 12, is_time(*fields[i]) ? "h:min" : text(u.unit(fields[i]->quantity).symbol));
            const double from = i ? columns[i - 1] : 0.3;
            places.push_back({QRectF(width * from, y, width * (columns[i] - from), 28), text(fields[i]->help), {}});
        }
        y += 29;
        for (const RainEvent* e : events_in_order(document_.project())) {
            const auto r = document_.result({e->id});
            if (!r || result_index(*r, ResultOn::Area, {Kind::Catchment, id}) < 0) continue;
            p.setFont(lettering(8.5, e->id == document_.event().value));
            p.setPen(t.ink);
            p.drawText(QRectF(0, y, width * 0.32, 17), Qt::AlignLeft | Qt::AlignVCenter, text(e->name));
            for (std::size_t i = 0; i < fields.size(); ++i) {
                const double value = result_at(*r, *fields[i], {Kind::Catchment, id});
                cell(i, y,
                     is_time(*fields[i]) && value >= 0 ? text(minutes_text(value))
                                                       : text(u.number(value, fields[i]->quantity)));
            }
            y += 17;
        }
        return y + 4;
    });
    add_rain_chart(id);
    add_results();
}

namespace {

/// What one catchment makes of a storm, drawn: rain from the top with what runs off in it, the flow below.
class RainChart {
  public:
    RainChart(const CatchmentSeries& s, const UnitSet& units) : s_(s), u_(units) {
        const double most = *std::max_element(s.rain.begin(), s.rain.end()),
                     peak = *std::max_element(s.flow.begin(), s.flow.end());
        // Where it matters: from the first rain worth seeing until the water has gone by.
        while (first_ + 1 < s.rain.size() && s.rain[first_] < 0.06 * most && s.flow[first_] < 0.04 * peak) ++first_;
        last_ = s.rain.size();
        while (last_ > first_ + 1 && s.rain[last_ - 1] < 0.06 * most && s.flow[last_ - 1] < 0.04 * peak) --last_;
    }
    double paint(QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        const QRectF area(0, 16, width, height);
        QColor lost = t.ground;
        lost.setAlpha(130);
        const std::size_t shown = last_ - first_, columns = std::min<std::size_t>(shown, 64);
        double most = 1e-12, peak = 1e-12;
        std::vector<Column> list;
        for (std::size_t c = 0; c < columns; ++c) {
            const std::size_t a = first_ + shown * c / columns, b = first_ + shown * (c + 1) / columns;
            Column column{static_cast<double>(b) * s_.step, 0, 0, 0};
            for (std::size_t k = a; k < b; ++k) {  // the heaviest of it
                if (s_.rain[k] / s_.step >= column.rain)
                    column.rain = s_.rain[k] / s_.step, column.runs = s_.runoff[k] / s_.step;
                column.flow = std::max(column.flow, s_.flow[k]);
            }
            most = std::max(most, column.rain);
            peak = std::max(peak, column.flow);
            list.push_back(column);
        }
        const double step = area.width() / static_cast<double>(columns), top = 0.42 * area.height();
        QPolygonF flow{area.bottomLeft()};
        for (std::size_t c = 0; c < columns; ++c) {
            const Column& q = list[c];
            const double x = area.left() + step * static_cast<double>(c), fell = top * q.rain / most,
                         runs = top * q.runs / most;
            p.fillRect(QRectF(x, area.top(), std::max(1.0, step - 0.6), fell), lost);
            p.fillRect(QRectF(x, area.top(), std::max(1.0, step - 0.6), runs), t.water_body);
            flow << QPointF(x + step / 2, area.bottom() - 0.5 * area.height() * q.flow / peak);
            places.push_back({QRectF(x, area.top(), step, area.height()),
                              QString("until %1: rain up to %2, of it lost %3, runs off %4; flow up to %5")
                                  .arg(text(minutes_text(q.until)), rate(q.rain), rate(std::max(0.0, q.rain - q.runs)),
                                       rate(q.runs), text(u_.text(q.flow, Quantity::Flow))),
                              {}});
        }
        flow << area.bottomRight();
        QColor body = t.water_body;
        body.setAlpha(90);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(Qt::NoPen);
        p.setBrush(body);
        p.drawPolygon(flow);
        p.setPen(QPen(t.water, 1.5));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(QPolygonF(flow.mid(1, flow.size() - 2)));
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(area.bottomLeft(), area.bottomRight());
        p.setFont(lettering(8));
        p.setPen(t.quiet);
        p.drawText(QRectF(0, 0, width, 14), Qt::AlignLeft, "rain up to " + rate(most));
        p.drawText(QRectF(0, 0, width, 14), Qt::AlignRight, "flow up to " + text(u_.text(peak, Quantity::Flow)));
        const double below = area.bottom() + 2;
        p.drawText(QRectF(0, below, width, 14), Qt::AlignLeft,
                   text(minutes_text(static_cast<double>(first_) * s_.step)));
        p.drawText(QRectF(0, below, width, 14), Qt::AlignRight,
                   text(minutes_text(static_cast<double>(last_) * s_.step)));
        p.fillRect(QRectF(width / 2 - 62, below + 3, 8, 8), lost);
        p.drawText(QRectF(width / 2 - 51, below, 40, 14), Qt::AlignLeft, "lost");
        p.fillRect(QRectF(width / 2 - 14, below + 3, 8, 8), t.water_body);
        p.drawText(QRectF(width / 2 - 3, below, 60, 14), Qt::AlignLeft, "runs off");
        return below + 20;
    }

  private:
    static constexpr double height = 110;
    struct Column {
        double until, rain, runs, flow;
    };
    [[nodiscard]] QString rate(double v) const { return text(u_.text(v, Quantity::Intensity)); }
    const CatchmentSeries& s_;
    const UnitSet& u_;
    std::size_t first_ = 0, last_ = 0;
};

}  // namespace

/// The viewed event's storm over it, through time. It costs less than painting it.
void Card::add_rain_chart(std::uint64_t id) {
    add_canvas("rain-chart", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const auto r = document_.result();
        const RainEvent* e = r ? document_.project().events.find(r->event.value) : nullptr;
        if (!e) return 0.0;
        const CatchmentSeries s = series_of_catchment(*r->network, rain_of(*e), {id});
        if (s.rain.empty()) return 0.0;
        p.setOpacity(document_.dimmed() ? 0.45 : 1);
        const UnitSet u = document_.units();
        return RainChart(s, u).paint(p, width, places);
    });
}

void Card::catchment_card(std::uint64_t id) {
    const Catchment* c = document_.project().catchments.find(id);
    const Structure* s = document_.project().structures.find(c->structure.value);
    add_heading(text(c->name), "catchment" + (s ? ", drains to " + text(s->name) : QString(", drains nowhere")));
    for (const char* key : {"name", "area", "coefficient"}) add_field(Kind::Catchment, id, key);
    add_title("Time of concentration");
    add_field(Kind::Catchment, id, "time_by");
    if (c->time_by == TimeBy::Entered) add_field(Kind::Catchment, id, "time");
    else {
        if (c->time_by == TimeBy::Parts) add_field(Kind::Catchment, id, "path_parts");
        else
            for (const char* key : {"path_length", "path_slope"}) add_field(Kind::Catchment, id, key);
        add_time(id);
        if (c->time_by == TimeBy::Parts) add_field(Kind::Settings, settings_id, "two_year_rain");
    }
    add_runoff(id);
    add_ground_losses(Kind::Catchment, id);
    add_field(Kind::Catchment, id, "note");
    bool title = false;
    for (const LandCover& l : document_.project().land_covers) {
        if (l.catchment.value != id) continue;
        if (!title) add_title("Land covers: they make area and C");
        title = true;
        for (const char* key : {"name", "area", "coefficient", "curve_number", "drains", "time"})
            add_field(Kind::LandCover, l.id, key);
    }
    if (title) add_covers(id);
    auto* library = new QPushButton("A land cover of the library");
    library->setObjectName("library-cover");
    library->setToolTip("Usual C, curve number and roughness of a kind of ground; they stay yours to change");
    auto* menu = new QMenu(library);
    for (const LandCoverKind& kind : land_cover_kinds())
        menu->addAction(QString("%1   C %2 to %3   CN %4")
                            .arg(text(kind.name))
                            .arg(kind.c_low, 0, 'f', 2)
                            .arg(kind.c_high, 0, 'f', 2)
                            .arg(kind.curve_number[1]),
                        this, [this, id, &kind] {
                            const Project& project = document_.project();
                            const Catchment* row = project.catchments.find(id);
                            if (!row) return;
                            LandCover l = cover_of_kind(kind);
                            l.catchment = {id};
                            l.area = row->area;  // what the others leave of it
                            bool first = true;
                            for (const LandCover& other : project.land_covers)
                                if (other.catchment.value == id) {
                                    if (first && !row->outline.empty()) l.area = area(row->outline);
                                    l.area -= other.area;
                                    first = false;
                                }
                            if (!(l.area > 0)) l.area = 1;
                            Editing e(project, "Land cover " + std::string(kind.name));
                            e.insert(l);
                            document_.commit(e.take());
                        });
    library->setMenu(menu);
    column_->addWidget(library);
    auto* add = new QPushButton("Add a land cover");
    add->setToolTip("A part of the catchment with its own runoff coefficient");
    connect(add, &QPushButton::clicked, this, [this, id] {
        const Catchment* row = document_.project().catchments.find(id);
        LandCover l;
        l.name = "cover";
        l.catchment = {id};
        l.area = row->area;
        l.coefficient = row->coefficient;
        Editing e(document_.project(), "Add a land cover");
        e.insert(l);
        document_.commit(e.take());
    });
    column_->addWidget(add);
    if (!c->outline.empty()) {
        add_canvas("measured", [this, id](QPainter& p, double, auto&) {
            const Catchment* row = document_.project().catchments.find(id);
            if (!row) return 0.0;
            const double measured = area(row->outline), off = row->area / measured - 1;
            const UnitSet u = document_.units();
            p.setFont(lettering(8.5));
            p.setPen(std::abs(off) > 0.01 ? theme().near : theme().quiet);
            p.drawText(QPointF(0, 14),
                       "measured from its outline: " + text(u.text(measured, Quantity::Area)) +
                           (std::abs(off) > 0.01
                                ? QString(", %1%2 %").arg(off > 0 ? "+" : "−").arg(std::abs(off) * 100, 0, 'f', 0)
                                : QString()));
            p.setPen(theme().quiet);
            p.drawText(QPointF(0, 30),
                       row->flow_path.size() > 1
                           ? "longest flow path: " + text(u.text(length(row->flow_path), Quantity::Length))
                           : QString("no flow path yet: choose Drain down the ground"));
            return 36.0;
        });
    }
}

}  // namespace culvert::app
