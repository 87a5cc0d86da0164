// SPDX-License-Identifier: GPL-3.0-or-later
// Cards of several elements, streets, street paths; the structure's drawing with its dimensions.
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <cmath>

#include "app/card/card.h"
#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/model/lay.h"
#include "exchange/site_import.h"

namespace culvert::app {
namespace {

std::vector<const char*> shared_fields(Kind kind) {
    switch (kind) {
        case Kind::Structure:
            return {"kind",  "type",   "rim",         "loss_by", "loss",       "sump",
                    "group", "status", "description", "note",    "note_source"};
        case Kind::Pipe:
            return {"size",  "barrels", "material",    "roughness", "invert_from", "invert_to",
                    "group", "status",  "description", "note",      "note_source"};
        case Kind::Catchment: return {"coefficient", "area", "time", "structure", "note"};
        case Kind::BuriedLine: return {"kind", "size", "level_of", "status", "source", "note"};
        case Kind::Street:
            return {"lane_width",  "cross_slope", "gutter_width", "gutter_slope",
                    "curb_height", "verge_width", "verge_slope"};
        default: return {};
    }
}

}  // namespace

void Card::many_card() {
    std::array<std::vector<std::uint64_t>, kind_count> of_kind;
    for (const ElementRef e : document_.selection()) of_kind[static_cast<std::size_t>(e.kind)].push_back(e.id);
    QString what;
    for (std::size_t k = 0; k < kind_count; ++k)
        if (!of_kind[k].empty())
            what += (what.isEmpty() ? "" : ", ") + QString::number(of_kind[k].size()) + " " +
                    text(of_kind[k].size() == 1 ? kind_name(static_cast<Kind>(k)) : table_name(static_cast<Kind>(k)))
                        .replace('_', ' ');
    add_heading(QString::number(document_.selection().size()) + " selected", what);
    for (std::size_t k = 0; k < kind_count; ++k) {
        const Kind kind = static_cast<Kind>(k);
        const auto fields = shared_fields(kind);
        if (of_kind[k].empty() || fields.empty()) continue;
        add_title("All " + QString::number(of_kind[k].size()) + " " +
                  text(of_kind[k].size() == 1 ? kind_name(kind) : table_name(kind)).replace('_', ' '));
        for (const char* key : fields) {
            auto* f = new MultiEdit(document_, kind, of_kind[k], key);
            many_.push_back(f);
            column_->addWidget(f);
        }
    }
    add_title("Each of them");
    add_canvas("list", [this](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        double y = 0;
        p.setFont(lettering(9));
        for (const ElementRef e : document_.selection()) {
            if (y > 400) break;
            p.setPen(theme().ink);
            p.drawText(QPointF(0, y + 14), text(element_name(document_.project(), e.kind, e.id)));
            p.setPen(theme().quiet);
            p.drawText(QRectF(0, y, width, 18), Qt::AlignRight | Qt::AlignVCenter, text(kind_name(e.kind)));
            places.push_back({QRectF(0, y, width, 18), "Select it alone", [this, e] { document_.select({e}); }});
            y += 19;
        }
        return y + 4;
    });
}

void Card::street_card(std::uint64_t id) {
    const Street* s = document_.project().streets.find(id);
    add_heading(text(s->name), "street, " + text(document_.units().text(length(s->line), Quantity::Length)));
    add_field(Kind::Street, id, "name");
    add_title("Section, each side of the crown");
    for (const char* key : {"lane_width", "cross_slope", "gutter_width", "gutter_slope", "curb_height", "verge_width",
                            "verge_slope", "roughness"})
        add_field(Kind::Street, id, key);
    add_title("Inlets along it");
    for (const char* key : {"strip_width", "strip_coefficient", "flankers"}) add_field(Kind::Street, id, key);
    for (const StreetSection& other : document_.project().street_sections) {
        if (other.street.value != id) continue;
        add_title("Another section: " + text(other.name));
        for (const char* key : {"start", "end", "lane_width", "cross_slope", "gutter_width", "gutter_slope",
                                "curb_height", "verge_width"})
            add_field(Kind::StreetSection, other.id, key);
    }
    auto* add = new QPushButton("Another section over a range of stations");
    add->setObjectName("add-street-section");
    add->setToolTip("Holds between two stations instead of the street's own section");
    connect(add, &QPushButton::clicked, this, [this, id] {
        const Street* row = document_.project().streets.find(id);
        StreetSection section;
        section.id = random_id();
        static_cast<StreetShape&>(section) = *row;
        section.name = free_name(document_.project(), Kind::StreetSection, row->name + " section");
        section.street = {id};
        section.start = 0;
        section.end = std::round(length(row->line));
        Editing e(document_.project(), "Section of " + row->name);
        e.insert(section);
        document_.commit(e.take());
    });
    column_->addWidget(add);
    if (!s->levels.empty()) {
        auto* drop = new QPushButton("Levels from the ground again");
        drop->setToolTip("Forgets the levels that were entered");
        connect(drop, &QPushButton::clicked, this, [this, id] {
            Editing e(document_.project(), "Levels from the ground");
            e.set(Kind::Street, id, "stations", std::vector<double>{});
            e.set(Kind::Street, id, "levels", std::vector<double>{});
            document_.commit(e.take());
        });
        column_->addWidget(drop);
    }
    add_field(Kind::Street, id, "note");
    add_title("Structures on it");
    add_canvas("on-street", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        std::vector<const Structure*> on;
        for (const Structure& row : document_.project().structures)
            if (row.street.value == id) on.push_back(&row);
        std::sort(on.begin(), on.end(), [](auto* a, auto* b) { return a->station < b->station; });
        double y = 0;
        p.setFont(lettering(9));
        const UnitSet u = document_.units();
        for (const Structure* row : on) {
            p.setPen(theme().ink);
            p.drawText(QPointF(0, y + 14), text(row->name));
            p.setPen(theme().quiet);
            p.drawText(QRectF(0, y, width, 18), Qt::AlignRight | Qt::AlignVCenter,
                       text(u.text(row->station, Quantity::Length)) + (row->offset > 0 ? ", right" : ", left"));
            places.push_back({QRectF(0, y, width, 18), "Select it", [this, e = row->id] {
                                  document_.select({{Kind::Structure, e}});
                              }});
            y += 19;
        }
        if (on.empty()) {
            p.setPen(theme().quiet);
            p.drawText(QPointF(0, 14), "none yet");
            y = 19;
        }
        return y + 4;
    });
}

void Card::path_card(std::uint64_t id) {
    const StreetPath* path = document_.project().street_paths.find(id);
    static const std::size_t to = *field_index(Kind::StreetPath, "to");
    add_heading(text(path->name), path->origin[to] == Origin::Proposed ? "street path, proposed" : "street path");
    add_field(Kind::StreetPath, id, "name");
    add_field(Kind::StreetPath, id, "note");
    add_canvas("path", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const StreetPath* row = document_.project().street_paths.find(id);
        if (!row) return 0.0;
        double y = 4;
        p.setFont(lettering(9));
        for (const auto& [label, s] : {std::pair{"from", row->from}, {"to", row->to}}) {
            p.setPen(theme().quiet);
            p.drawText(QPointF(0, y + 14), label);
            p.setPen(theme().ink);
            p.drawText(QRectF(0, y, width, 18), Qt::AlignRight | Qt::AlignVCenter,
                       s ? text(element_name(document_.project(), Kind::Structure, s.value)) : QString("off the site"));
            if (s)
                places.push_back({QRectF(0, y, width, 18), "Select it", [this, e = s.value] {
                                      document_.select({{Kind::Structure, e}});
                                  }});
            y += 19;
        }
        p.setPen(theme().quiet);
        p.setFont(lettering(8.5));
        p.drawText(QRectF(0, y + 4, width, 40), Qt::TextWordWrap,
                   "Drag the diamond at its end to another structure, or to paper to lead it off the site.");
        return y + 46;
    });
}

/// The structure in elevation: rim, its pipes at their inverts, sump, and the dimensions between them.
void Card::add_structure_drawing(std::uint64_t id) {
    add_canvas("structure", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Project& project = document_.project();
        const Structure* s = project.structures.find(id);
        const double low = lowest_invert(project, {id});
        if (!s || std::isnan(low) || std::isnan(s->rim) || s->rim <= low) return 0.0;
        const Theme& t = theme();
        const UnitSet u = document_.units();
        const double depth = structure_depth(project, *s), bottom = s->rim - depth;
        const QRectF body(width * 0.3, 12, std::min(64.0, width * 0.22), 118);
        const auto y_of = [&](double level) {
            return body.top() + (s->rim - level) / std::max(depth, 0.1) * body.height();
        };
        p.setPen(QPen(t.ground, 1.6));
        p.drawLine(QPointF(body.left() - 50, body.top()), QPointF(body.right() + 50, body.top()));
        // Water in it.
        const auto r = document_.result();
        const int at = node();
        if (r && at != no_node) {
            const double level = r->nodes[static_cast<std::size_t>(at)].level.level;
            if (!std::isnan(level) && level > bottom)
                p.fillRect(QRectF(body.left(), y_of(std::min(level, s->rim)), body.width(),
                                  y_of(bottom) - y_of(std::min(level, s->rim))),
                           t.water_body);
        }
        p.setPen(QPen(t.ink, 1.6));
        p.setBrush(Qt::NoBrush);
        p.drawRect(body);
        p.setFont(lettering(8));
        int shown = 0;
        double last_left = -1e9, last_right = -1e9;
        for (const Pipe& pipe : project.pipes) {
            const bool in = pipe.to.value == id, out = pipe.from.value == id;
            if ((!in && !out) || shown > 6) continue;
            ++shown;
            const double invert = in ? pipe.invert_to : pipe.invert_from;
            if (std::isnan(invert)) continue;
            const double y0 = y_of(invert), y1 = y_of(invert + pipe.size);
            const QRectF barrel(in ? body.left() - 26 : body.right(), y1, 26, std::max(3.0, y0 - y1));
            p.setPen(QPen(t.ink, 1.2));
            p.drawLine(barrel.topLeft(), barrel.topRight());
            p.drawLine(barrel.bottomLeft(), barrel.bottomRight());
            double& last = in ? last_left : last_right;
            const double y = std::max(y0 - 8, last + 12);
            last = y;
            static const std::size_t from_field = *field_index(Kind::Pipe, "invert_from"),
                                     to_field = *field_index(Kind::Pipe, "invert_to");
            const bool follows = pipe.origin[in ? to_field : from_field] == Origin::Default;
            const QRectF label(in ? 0 : barrel.right() + 4, y, in ? barrel.left() - 4 : width - barrel.right() - 4, 13);
            p.setPen(t.quiet);
            // A pin marks an end that stays; a following end has a ring.
            p.drawText(label, (in ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter,
                       (follows ? "○ " : "● ") + text(u.number(invert, Quantity::Level)));
            places.push_back({label.united(barrel),
                              text(pipe_name(project, pipe)) +
                                  (follows ? ": this end follows the structure" : ": this end is pinned"),
                              [this, e = pipe.id] {
                                  document_.select({{Kind::Pipe, e}});
                              }});
        }
        // Dimensions.
        const double x = width - 48;
        const auto dimension = [&](double a, double b, const QString& words) {
            if (std::abs(b - a) < 3 || x > width - 20) return;
            p.setPen(QPen(t.quiet, 1));
            p.drawLine(QPointF(x, a), QPointF(x, b));
            for (const double y : {a, b}) p.drawLine(QPointF(x - 3, y), QPointF(x + 3, y));
            p.drawText(QRectF(x + 4, (a + b) / 2 - 7, width - x - 4, 14), Qt::AlignLeft | Qt::AlignVCenter, words);
        };
        dimension(body.top(), y_of(low), text(u.text(s->rim - low, Quantity::Length)));
        if (low - bottom > 0.01)
            dimension(y_of(low), body.bottom(), "sump " + text(u.number(low - bottom, Quantity::Length)));
        p.setPen(t.ink);
        p.drawText(QRectF(body.left() - 60, body.bottom() + 3, body.width() + 120, 14), Qt::AlignCenter,
                   "depth " + text(u.text(depth, Quantity::Length)));
        return 150.0;
    });
}

}  // namespace culvert::app
