// SPDX-License-Identifier: GPL-3.0-or-later
// Storage of a structure: its space, its ways out as drawings, what is allowed to leave, and how it does in each event.
#include <QPainter>
#include <cmath>

#include "app/card/card.h"
#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/analysis/result_fields.h"
#include "core/design/storage_study.h"
#include "core/network/through_time.h"

namespace culvert::app {
namespace {

/// What a kind of outlet looks like, from the front or from the side; water in blue.
void draw_outlet(QPainter& p, OutletKind kind, const QRectF& r) {
    const Theme& t = theme();
    const QPointF c = r.center();
    const auto water = [&](const QRectF& at) { p.fillRect(at, t.water_body); };
    const QPen ink(t.ink, 1.5);
    p.setBrush(Qt::NoBrush);
    const QRectF wall = r.adjusted(3, 3, -3, -3);
    switch (kind) {
        case OutletKind::CircularOrifice:
        case OutletKind::BoxOrifice: {
            water({wall.left(), wall.top() + 5, wall.width(), wall.height() - 5});
            p.setPen(ink);
            p.setBrush(t.panel);
            if (kind == OutletKind::CircularOrifice) p.drawEllipse(QPointF(c.x(), c.y() + 5), 6, 6);
            else p.drawRect(QRectF(c.x() - 8, c.y(), 16, 9));
            break;
        }
        case OutletKind::SharpWeir:
        case OutletKind::BroadWeir:
        case OutletKind::Cipolletti:
        case OutletKind::Notch: {
            water({wall.left(), c.y() - 5, wall.width(), wall.bottom() - c.y() + 5});
            QPolygonF crest{wall.bottomLeft(), wall.topLeft()};
            if (kind == OutletKind::Notch)
                crest << QPointF(c.x() - 9, wall.top()) << QPointF(c.x(), c.y() + 7) << QPointF(c.x() + 9, wall.top());
            else if (kind == OutletKind::Cipolletti)
                crest << QPointF(c.x() - 12, wall.top()) << QPointF(c.x() - 8, c.y() + 3)
                      << QPointF(c.x() + 8, c.y() + 3) << QPointF(c.x() + 12, wall.top());
            else
                crest << QPointF(c.x() - 10, wall.top()) << QPointF(c.x() - 10, c.y() + 3)
                      << QPointF(c.x() + 10, c.y() + 3) << QPointF(c.x() + 10, wall.top());
            crest << wall.topRight() << wall.bottomRight();
            p.setPen(ink);
            p.setBrush(t.panel);
            p.drawPolygon(crest);
            if (kind == OutletKind::BroadWeir)
                p.drawLine(QPointF(c.x() - 10, c.y() + 7), QPointF(c.x() + 10, c.y() + 7));
            break;
        }
        case OutletKind::Riser:
        case OutletKind::Grate: {
            water({wall.left(), c.y() - 4, wall.width(), wall.bottom() - c.y() + 4});
            const QRectF box(c.x() - 8, c.y() + 1, 16, wall.bottom() - c.y() - 1);
            p.setPen(ink);
            p.setBrush(t.panel);
            p.drawRect(box);
            if (kind == OutletKind::Grate)
                for (const double x : {-4.0, 0.0, 4.0})
                    p.drawLine(QPointF(c.x() + x, c.y() - 2), QPointF(c.x() + x, c.y() + 4));
            break;
        }
        case OutletKind::Culvert: {
            water({wall.left(), c.y() - 4, 12, wall.bottom() - c.y() + 4});
            p.setPen(ink);
            p.drawLine(QPointF(wall.left() + 12, wall.top()), QPointF(wall.left() + 12, c.y() + 1));
            p.drawLine(QPointF(wall.left() + 12, c.y() + 1), QPointF(wall.right(), c.y() + 4));
            p.drawLine(QPointF(wall.left() + 12, wall.bottom() - 3), QPointF(wall.right(), wall.bottom()));
            p.drawLine(QPointF(wall.left() + 12, wall.bottom() - 3), QPointF(wall.left(), wall.bottom() - 3));
            break;
        }
        case OutletKind::Pump:
            water({wall.left(), c.y() + 4, wall.width(), wall.bottom() - c.y() - 4});
            p.setPen(ink);
            p.setBrush(t.panel);
            p.drawEllipse(QPointF(c.x() - 4, c.y() + 7), 5, 5);
            p.drawLine(QPointF(c.x() - 4, c.y() + 2), QPointF(c.x() - 4, wall.top() + 2));
            p.drawLine(QPointF(c.x() - 4, wall.top() + 2), QPointF(wall.right(), wall.top() + 2));
            break;
        case OutletKind::Rating:
            p.setPen(QPen(t.hairline, 1));
            p.drawLine(wall.bottomLeft(), wall.topLeft());
            p.drawLine(wall.bottomLeft(), wall.bottomRight());
            p.setPen(QPen(t.water, 1.8));
            p.drawPolyline(QPolygonF{wall.bottomLeft(), QPointF(c.x() - 4, wall.bottom() - 5),
                                     QPointF(c.x() + 6, c.y() + 2), wall.topRight()});
            break;
    }
    p.setBrush(Qt::NoBrush);
}

std::string_view kind_words(OutletKind kind) {
    return infos_of(Kind::PondOutlet)[*field_index(Kind::PondOutlet, "kind")]->choices[static_cast<std::size_t>(kind)];
}

}  // namespace

void Card::add_storage(std::uint64_t id) {
    const Project& project = document_.project();
    const Pond* pond = nullptr;
    for (const Pond& p : project.ponds)
        if (p.structure.value == id) pond = &p;
    if (!pond) {
        add_canvas("no-storage", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
            const Theme& t = theme();
            p.setPen(QPen(t.hairline, 1));
            p.drawLine(QPointF(0, 4.5), QPointF(width, 4.5));
            p.setFont(lettering(9.5));
            p.setPen(t.accent);
            p.drawText(QPointF(0, 23), "Give it storage …");
            places.push_back({QRectF(0, 8, width, 20),
                              "A space by level with its ways out; the project then computes hydrographs",
                              [this, id] { document_.commit(give_storage(document_.project(), {id})); }});
            return 30.0;
        });
        add_releases(id);
        return;
    }
    add_title("Storage: " + text(pond->name));
    add_canvas("pond-events", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        const UnitSet u = document_.units();
        const Project& now = document_.project();
        p.setOpacity(document_.dimmed() ? 0.45 : 1);
        const double columns[] = {0.50, 0.66, 0.83, 1.0};
        double y = 15;  // below the heads
        for (const RainEvent* e : events_in_order(now)) {
            const auto r = document_.result({e->id});
            const int node = r ? r->network->node_of(StructureId{id}) : no_node;
            const PondSummary* s = node == no_node ? nullptr : pond_at(*r, static_cast<std::size_t>(node));
            if (!s) continue;
            const double allowed = allowed_release(*r, static_cast<std::size_t>(node));
            const PondNode* n = pond_node_at(*r, static_cast<std::size_t>(node));
            const bool over = s->peak_outflow > allowed * (1 + 1e-9), full = s->level > n->crest;
            draw_verdict_mark(p, {6, y + 9}, 4,
                              over || full          ? Verdict::Beyond
                              : std::isnan(allowed) ? Verdict::Unknown
                                                    : Verdict::Within);
            p.setFont(lettering(8.5, e->id == document_.event().value));
            p.setPen(t.ink);
            p.drawText(QRectF(16, y, width * 0.32, 18), Qt::AlignVCenter,
                       QFontMetricsF(p.font()).elidedText(text(e->name), Qt::ElideRight, width * 0.3));
            const QString cells[] = {
                text(u.number(s->peak_inflow, Quantity::Flow)), text(u.number(s->peak_outflow, Quantity::Flow)),
                text(u.number(allowed, Quantity::Flow)), text(u.number(s->level, Quantity::Level))};
            for (int i = 0; i < 4; ++i) {
                p.setPen((i == 1 && over) || (i == 3 && full) ? t.beyond : t.ink);
                p.drawText(QRectF(0, y, width * columns[i], 18), Qt::AlignRight | Qt::AlignVCenter, cells[i]);
            }
            places.push_back({QRectF(0, y, width, 18), "View " + text(e->name),
                              [this, event = e->id] { document_.set_event({event}); }});
            y += 19;
        }
        if (y < 20) {
            p.setFont(lettering(8.5));
            p.setPen(t.near);
            const bool rational = now.settings().runoff_by == RunoffBy::Rational;
            p.drawText(QRectF(0, 0, width, 34), Qt::AlignLeft | Qt::TextWordWrap,
                       rational ? "The rational method gives no hydrographs: click to compute them."
                                : "Nothing routed yet: see the findings.");
            if (rational)
                places.push_back({QRectF(0, 0, width, 34), "Computes runoff by the NRCS unit hydrograph", [this] {
                                      Editing e(document_.project(), "Runoff by unit hydrograph");
                                      e.set(Kind::Settings, settings_id, "runoff_by", RunoffBy::UnitHydrograph);
                                      document_.commit(e.take());
                                  }});
            return 36.0;
        }
        p.setFont(lettering(8));
        p.setPen(t.quiet);
        const char* heads[] = {"in", "out", "allowed", "level"};
        for (int k = 0; k < 4; ++k)
            p.drawText(QRectF(0, 0, width * columns[k], 14), Qt::AlignRight | Qt::AlignVCenter, heads[k]);
        p.drawText(QRectF(0, y, width, 14), Qt::AlignRight | Qt::AlignVCenter,
                   text(u.unit(Quantity::Flow).symbol) + ", " + text(u.unit(Quantity::Level).symbol));
        return y + 18;
    });
    std::vector<const PondOutlet*> outlets;
    for (const PondOutlet& o : project.outlets)
        if (o.structure.value == id) outlets.push_back(&o);
    std::sort(outlets.begin(), outlets.end(),
              [](auto* a, auto* b) { return std::tie(a->level, a->id) < std::tie(b->level, b->id); });
    for (const PondOutlet* o : outlets) add_outlet(*o);
    add_title("Add a way out");
    add_canvas("outlet-kinds", [this, id](QPainter& p, double width, std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        constexpr int kinds = static_cast<int>(OutletKind::Rating) + 1;
        const int across = std::max(1, static_cast<int>(width / 62));
        for (int k = 0; k < kinds; ++k) {
            const int row = k / across;
            const QRectF cell((k % across) * width / across, row * 56, width / across - 4, 52);
            const auto kind = static_cast<OutletKind>(k);
            p.setPen(QPen(t.hairline, 1));
            p.setBrush(Qt::NoBrush);
            p.drawRoundedRect(cell, 3, 3);
            draw_outlet(p, kind, QRectF(cell.center().x() - 19, cell.top() + 1, 38, 34));
            p.setFont(lettering(7.5));
            p.setPen(t.ink);
            p.drawText(QRectF(cell.left() + 1, cell.bottom() - 16, cell.width() - 2, 14), Qt::AlignCenter,
                       QFontMetricsF(p.font()).elidedText(text(kind_words(kind)), Qt::ElideRight, cell.width() - 4));
            const double c = usual_coefficient(kind);
            places.push_back(
                {cell,
                 "Adds a " + text(kind_words(kind)) +
                     (std::isnan(c) ? QString()
                                    : QString(", coefficient %1: %2").arg(c).arg(text(coefficient_source(kind)))),
                 [this, id, kind] {
                     Editing e(document_.project(), "Add " + std::string(kind_words(kind)));
                     e.insert(new_outlet(document_.project(), {id}, kind));
                     document_.commit(e.take());
                 }});
        }
        const int rows = (kinds + across - 1) / across;
        return 56.0 * rows + 4;
    });
    add_releases(id);
    add_title("Its space");
    add_pond(*pond);
}

void Card::add_pond(const Pond& pond) {
    const std::uint64_t id = pond.id;
    for (const char* key : {"name", "storage_by"}) add_field(Kind::Pond, id, key);
    std::vector<const char*> keys;
    switch (pond.storage_by) {
        case StorageBy::Areas: keys = {"levels", "areas", "between"}; break;
        case StorageBy::Volumes: keys = {"levels", "volumes"}; break;
        case StorageBy::Basin: keys = {"bottom", "length", "width", "sides", "depth"}; break;
        case StorageBy::Tank: keys = {"bottom", "length", "width", "depth"}; break;
        case StorageBy::Pipes: keys = {"bottom", "diameter", "length", "count"}; break;
        case StorageBy::Outline: keys = {"bottom", "sides", "depth"}; break;
    }
    for (const char* key : keys) add_field(Kind::Pond, id, key);
    for (const char* key : {"crest", "start_level", "voids", "forebay", "soakage", "note"})
        add_field(Kind::Pond, id, key);
}

void Card::add_outlet(const PondOutlet& o) {
    const std::uint64_t id = o.id;
    add_title("Way out: " + text(o.name));
    add_canvas("outlet-" + text(id_text(id)), [this, id, kind = o.kind](QPainter& p, double width,
                                                                        std::vector<Canvas::Place>& places) {
        const Theme& t = theme();
        draw_outlet(p, kind, QRectF(0, 0, 44, 38));
        const auto r = document_.result();
        const UnitSet u = document_.units();
        const PondOutlet* row = document_.project().outlets.find(id);
        const int node = r && row ? r->network->node_of(row->structure) : no_node;
        const PondNode* n = node == no_node ? nullptr : pond_node_at(*r, static_cast<std::size_t>(node));
        const PondSummary* s = node == no_node ? nullptr : pond_at(*r, static_cast<std::size_t>(node));
        p.setFont(lettering(8.5));
        if (n && s)
            for (std::size_t w = 0; w < n->ways.size() && w < s->way_peaks.size(); ++w)
                if (n->ways[w].row == id) {
                    std::vector<OutletFlow> each(n->ways.size());
                    pond_outflow(n->ways, s->level, {}, {}, each);
                    p.setPen(t.ink);
                    p.drawText(QPointF(54, 15), "≤ " + text(u.text(s->way_peaks[w], Quantity::Flow)) + ", " +
                                                    text(u.text(s->way_volumes[w], Quantity::Volume)) + " in all");
                    p.setPen(t.quiet);
                    p.drawText(QPointF(54, 31),
                               QFontMetricsF(p.font()).elidedText("held by: " + text(control_text(each[w].control)),
                                                                  Qt::ElideRight, width - 56));
                }
        p.setPen(t.accent);
        p.drawText(QRectF(width - 60, 0, 60, 16), Qt::AlignRight | Qt::AlignVCenter, "delete");
        places.push_back({QRectF(width - 60, 0, 60, 16), "Takes this way out away", [this, id] {
                              Editing e(document_.project(),
                                        "Delete " + element_name(document_.project(), Kind::PondOutlet, id));
                              e.remove(Kind::PondOutlet, id);
                              document_.commit(e.take());
                          }});
        return 42.0;
    });
    std::vector<const char*> keys;
    switch (o.kind) {
        case OutletKind::CircularOrifice: keys = {"level", "size", "count", "coefficient"}; break;
        case OutletKind::BoxOrifice: keys = {"level", "size", "width", "count", "coefficient"}; break;
        case OutletKind::SharpWeir: keys = {"level", "width", "contractions", "coefficient"}; break;
        case OutletKind::BroadWeir:
        case OutletKind::Cipolletti: keys = {"level", "width", "coefficient"}; break;
        case OutletKind::Notch: keys = {"level", "angle", "coefficient"}; break;
        case OutletKind::Riser:
        case OutletKind::Grate: keys = {"level", "size", "width", "count", "coefficient"}; break;
        case OutletKind::Culvert:
            keys = {"level", "size", "width", "length", "slope", "roughness", "entrance", "count"};
            break;
        case OutletKind::Pump: keys = {"level", "stop_level", "pump_flow", "count"}; break;
        case OutletKind::Rating: keys = {"rating_levels", "rating_flows"}; break;
    }
    for (const char* key : keys) add_field(Kind::PondOutlet, id, key);
    for (const char* key : {"name", "to", "behind", "open_share", "overflow"}) add_field(Kind::PondOutlet, id, key);
}

/// What may leave here in each event.
void Card::add_releases(std::uint64_t id) {
    const Structure* s = document_.project().structures.find(id);
    if (!s || (s->kind != StructureKind::Pond && s->kind != StructureKind::Outfall)) return;
    add_title("Allowed to leave here");
    for (const RainEvent* e : events_in_order(document_.project())) {
        const Release* row = nullptr;
        for (const Release& r : document_.project().releases)
            if (r.structure.value == id && r.event.value == e->id) row = &r;
        const std::uint64_t fresh = row ? row->id : random_id();
        add_field(Kind::Release, fresh, "flow");
        fields_.back()->set_label("in " + text(e->name));
        if (row) continue;
        fields_.back()->set_maker([this, id, fresh, event = e->id](Value v) {
            Editing edit(document_.project(),
                         "Allowed release of " + element_name(document_.project(), Kind::Structure, id));
            Release r;
            r.id = fresh;
            r.structure = {id};
            r.event = {event};
            edit.insert(r);
            edit.set(Kind::Release, fresh, "flow", std::move(v));
            return edit.take();
        });
    }
}

/// Losses of its pervious ground, where the project computes hydrographs.
void Card::add_ground_losses(Kind kind, std::uint64_t id) {
    const Settings& set = document_.project().settings();
    if (set.runoff_by == RunoffBy::Rational) return;
    add_title("Losses and hydrograph");
    LossesBy by = set.losses;
    if (kind == Kind::Catchment)  // a land cover shows them among its inputs
        for (const char* key : {"curve_number", "impervious", "storage"}) add_field(kind, id, key);
    add_field(kind, id, "losses");
    if (const Catchment* c = kind == Kind::Catchment ? document_.project().catchments.find(id) : nullptr) {
        if (c->losses != LossesBy::Project) by = c->losses;
        add_field(kind, id, "transform");
        const bool plane = c->transform == TransformBy::Plane ||
                           (c->transform == TransformBy::Project && set.runoff_by == RunoffBy::Plane);
        if (plane)
            for (const char* key : {"plane_width", "path_slope", "plane_roughness"}) add_field(kind, id, key);
        else add_field(kind, id, "peak_factor");
    } else if (const LandCover* l = document_.project().land_covers.find(id)) {
        if (l->losses != LossesBy::Project) by = l->losses;
    }
    if (by == LossesBy::Constant || by == LossesBy::Proportional) add_field(kind, id, "initial_loss");
    if (by == LossesBy::Constant || by == LossesBy::Horton || by == LossesBy::GreenAmpt)
        add_field(kind, id, "loss_rate");
    if (by == LossesBy::Proportional) add_field(kind, id, "loss_share");
    if (by == LossesBy::Horton)
        for (const char* key : {"first_rate", "decay_time"}) add_field(kind, id, key);
    if (by == LossesBy::GreenAmpt) add_field(kind, id, "front_head");
}

}  // namespace culvert::app
