// SPDX-License-Identifier: GPL-3.0-or-later
// How the plan paints: areas, pipes, structures as stamps, labels by level of detail, legend, scale bar.
#include <QPainter>
#include <QPainterPath>
#include <array>
#include <cmath>

#include "app/desk/text.h"
#include "app/plan/plan_view.h"
#include "app/kit/theme.h"
#include "core/hydraulics/uniform_flow.h"

namespace culvert::app {
namespace {

constexpr std::size_t many = 3000;        ///< above this many in view, lines are thin and not smoothed
constexpr std::size_t most_labels = 600;  ///< above this many structures in view there are no labels
constexpr int shades = 4;
constexpr double real_outlines_from = 12;  ///< pixels a metre, from which structures have their real outline

struct Grades {
    std::array<double, shades - 1> steps;
    Quantity quantity;
    bool more_is_worse;
};
Grades grades(ColourBy by) {
    switch (by) {
        case ColourBy::FlowRatio: return {{0.5, 0.8, 1.0}, Quantity::Ratio, true};
        case ColourBy::FilledDepth: return {{0.4, 0.7, 0.94}, Quantity::Ratio, true};
        case ColourBy::Velocity: return {{0.75, 1.5, 3.0}, Quantity::Velocity, true};
        default: return {{0.0, 0.3, 1.0}, Quantity::Length, false};
    }
}

}  // namespace

QColor PlanView::shade_colour(int shade) const {
    const Theme& t = theme();
    const QColor light = t.dark ? QColor("#3E6C74") : QColor("#9CCBD0"),
                 deep = t.dark ? QColor("#BFE6EA") : QColor("#0F4651");
    const double s = shade / double(shades - 1);
    const auto mix = [s](int a, int b) { return static_cast<int>(a + (b - a) * s); };
    return {mix(light.red(), deep.red()), mix(light.green(), deep.green()), mix(light.blue(), deep.blue())};
}

void PlanView::forget_looks() {
    auto r = document_.result();
    auto rev = document_.review();
    if (!r || !rev || rev->nodes.size() != r->nodes.size() || rev->links.size() != r->links.size()) r = nullptr;
    Results all = colour_by_ == ColourBy::ServiceLevel ? document_.all_results() : Results{};
    const bool same = r == looked_result_ && rev == looked_review_ && all == looked_all_ && looked_by_ == colour_by_ &&
                      pipe_looks_.size() == scene_.pipes().size() &&
                      structure_looks_.size() == scene_.structures().size();
    if (same && scene_version_ == scene_.version()) return;
    scene_version_ = scene_.version();
    looked_result_ = std::move(r);
    looked_review_ = std::move(rev);
    looked_all_ = std::move(all);
    looked_by_ = colour_by_;
    pipe_looks_.assign(scene_.pipes().size(), {});
    structure_looks_.assign(scene_.structures().size(), -1);
}

Verdict PlanView::structure_look(std::size_t i) {
    if (structure_looks_[i] < 0) {
        structure_looks_[i] = static_cast<signed char>(
            looked_result_ ? looked_review_->of(*looked_result_->network, {Kind::Structure, scene_.structures()[i].id})
                           : Verdict::Unknown);
    }
    return static_cast<Verdict>(structure_looks_[i]);
}

const PlanView::PipeLook& PlanView::pipe_look(std::size_t i) {
    PipeLook& look = pipe_looks_[i];
    if (look.known) return look;
    look.known = true;
    const int link = looked_result_ ? looked_result_->network->link_of(PipeId{scene_.pipes()[i].id}) : no_link;
    if (link == no_link) return look;
    const auto at = static_cast<std::size_t>(link);
    const Link& n = looked_result_->network->links[at];
    const Node& from = looked_result_->network->nodes[static_cast<std::size_t>(n.from)];
    look.verdict = looked_review_->links[at];
    const Pipe* pipe = document_.project().pipes.find(n.pipe.value);
    const LinkFlow& f = looked_result_->links[at].flow;
    look.against = pipe && (pipe->from.value != from.structure.value) != f.against;
    switch (colour_by_) {
        case ColourBy::FlowRatio: look.value = n.capacity > 0 ? f.flow / n.capacity : not_given; break;
        case ColourBy::FilledDepth:
            look.value = std::isnan(f.normal) ? 1 : f.normal / culvert::height(n.section);
            break;
        case ColourBy::Velocity: look.value = f.velocity; break;
        case ColourBy::Freeboard: 
            look.value = from.rim - looked_result_->nodes[static_cast<std::size_t>(n.from)].level.level;
            break;
        case ColourBy::ServiceLevel:
            if (!looked_all_.empty()) {
                const ServiceLevel s = service_level(document_.project(), looked_all_, {Kind::Pipe, n.pipe.value});
                look.shade = shades - 1 -
                             std::clamp((s.passed() + 1) * shades / std::max(1, static_cast<int>(s.events.size()) + 1),
                                        0, shades - 1);
            }
            break;
        case ColourBy::Verdict: break;
    }
    if (colour_by_ != ColourBy::Verdict && colour_by_ != ColourBy::ServiceLevel && !std::isnan(look.value)) {
        const Grades g = grades(colour_by_);
        int k = 0;
        while (k < shades - 1 && look.value > g.steps[static_cast<std::size_t>(k)]) ++k;
        look.shade = g.more_is_worse ? k : shades - 1 - k;
    }
    return look;
}

void PlanView::render_frame(QPainter& p) {
    forget_looks();
    p.fillRect(rect(), theme().paper);
    if (document_.dimmed()) p.setOpacity(0.45);
    const QPointF a = to_metres({-20.0, height() + 20.0}), b = to_metres({width() + 20.0, -20.0});
    const QRectF view(a, b);
    paint_background(p, view);
    paint_ground(p, view);
    paint_streets(p, view);
    paint_areas(p, view);
    paint_paths(p, view);
    paint_pipes(p, view);
    paint_structures(p, view);
    paint_labels(p, view);
    p.setOpacity(1);
}

void PlanView::paint_areas(QPainter& p, const QRectF& view) {
    const Theme& t = theme();
    p.setRenderHint(QPainter::Antialiasing);
    for (const PlanArea& area : scene_.areas()) {
        QPolygonF polygon;
        for (const QPointF& q : area.outline) polygon << to_screen(q);
        if (!QRectF(to_screen(view.bottomLeft()), to_screen(view.topRight()))
                 .normalized()
                 .intersects(polygon.boundingRect()))
            continue;
        QPen edge(t.within, 1);
        edge.setDashPattern({4, 3});
        QColor line = t.within;
        line.setAlpha(120);
        edge.setColor(line);
        p.setPen(edge);
        p.setBrush(t.area);
        p.drawPolygon(polygon);
        if (!area.drains) continue;
        // The way its water takes to its structure: the longest flow path where it is known.
        p.setPen(QPen(line, 1));
        if (area.flow_path.size() > 1) {
            QPolygonF way;
            for (const QPointF& q : area.flow_path) way << to_screen(q);
            p.drawPolyline(way);
        } else p.drawLine(to_screen(area.centre), to_screen(area.target));
    }
}

void PlanView::paint_pipes(QPainter& p, const QRectF& view) {
    const Theme& t = theme();
    const auto in_view = scene_.pipes_in(view);
    const bool fine = in_view.size() <= many;
    p.setRenderHint(QPainter::Antialiasing, fine);
    if (!fine) {  // one call for each colour, one pixel wide
        std::array<QVector<QLineF>, 4 + shades> groups;
        for (const std::size_t i : in_view) {
            const PipeLook& look = pipe_look(i);
            auto& group = groups[look.shade >= 0 ? 4 + static_cast<std::size_t>(look.shade)
                                                 : static_cast<std::size_t>(look.verdict)];
            const auto& line = scene_.pipes()[i].line;
            for (std::size_t k = 1; k < line.size(); ++k) group << QLineF(to_screen(line[k - 1]), to_screen(line[k]));
        }
        for (std::size_t g = 0; g < groups.size(); ++g) {
            p.setPen(QPen(g < 4 ? t.verdict(static_cast<Verdict>(g)) : shade_colour(static_cast<int>(g) - 4), 1));
            p.drawLines(groups[g]);
        }
        return;
    }
    for (const std::size_t i : in_view) {
        const PlanPipe& pipe = scene_.pipes()[i];
        const PipeLook& look = pipe_look(i);
        QPolygonF line;
        for (const QPointF& q : pipe.line) line << to_screen(q);
        // Cut at the structures' outlines: as they are in the catalogue where they are large enough to be seen.
        const Pipe* row = scale_ > real_outlines_from ? document_.project().pipes.find(pipe.id) : nullptr;
        for (const bool front : {true, false}) {
            QPointF& end = front ? line.first() : line.last();
            const QPointF next = front ? line[1] : line[line.size() - 2], d = next - end;
            const double length = std::hypot(d.x(), d.y());
            double cut = 6;
            if (row)
                if (const Structure* s = document_.project().structures.find((front ? row->from : row->to).value)) {
                    const QPointF toward = to_metres(next);
                    cut = std::max(cut, outline_reach(document_.project(), *s, {toward.x(), toward.y()}) * scale_);
                }
            if (length > 12 + cut) end += d / length * cut;
        }
        const double real = pipe.width * scale_, width = std::max(3.0, real);
        if (real > 6) {
            p.setPen(QPen(t.tint(t.water_body, 0.5), real, Qt::SolidLine, Qt::FlatCap));
            p.drawPolyline(line);
        }
        if (pipe.idle) {
            p.setPen(QPen(t.unknown, 1, Qt::DashLine));
            p.drawPolyline(line);
            continue;
        }
        if (look.shade >= 0) p.setPen(QPen(shade_colour(look.shade), width, Qt::SolidLine, Qt::FlatCap));
        else
            p.setPen(t.verdict_pen(look.verdict, look.verdict == Verdict::Beyond ? std::max(5.0, std::min(width, 9.0))
                                                                                 : std::min(width, 5.0)));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(line);
        if (look.shade < 0 && look.verdict == Verdict::Beyond) {  // doubled
            p.setPen(QPen(t.paper, std::max(1.6, std::min(width, 9.0) * 0.3), Qt::SolidLine, Qt::FlatCap));
            p.drawPolyline(line);
        }
        // Flow arrow in the middle.
        const QPointF a = line[(line.size() - 2) / 2], b = line[(line.size() - 2) / 2 + 1], d = b - a;
        const double length = std::hypot(d.x(), d.y());
        if (length > 34) {
            const double sign = look.against ? -1 : 1;
            const QPointF u = d / length * sign, middle = (a + b) / 2, v(-u.y(), u.x());
            p.setPen(Qt::NoPen);
            p.setBrush(look.shade >= 0 ? shade_colour(look.shade) : t.verdict(look.verdict));
            p.drawPolygon(QPolygonF{middle + u * 8, middle - u * 5 + v * 5.5, middle - u * 5 - v * 5.5});
        }
    }
}

const QPixmap& PlanView::stamp(StructureKind kind, Verdict verdict) {
    QPixmap& pixmap = stamps_[{static_cast<int>(kind), static_cast<int>(verdict)}];
    if (!pixmap.isNull()) return pixmap;
    const Theme& t = theme();
    const double ratio = devicePixelRatioF();
    pixmap = QPixmap(QSize(22, 22) * ratio);
    pixmap.setDevicePixelRatio(ratio);
    pixmap.fill(Qt::transparent);
    QPainter p(&pixmap);
    p.setRenderHint(QPainter::Antialiasing);
    p.translate(11, 11);
    const QColor edge = verdict == Verdict::Beyond ? t.beyond : t.ink;
    p.setPen(QPen(edge, 1.6));
    p.setBrush(t.panel);
    switch (kind) {
        case StructureKind::Inlet:  // a grate
            p.drawRect(QRectF(-7, -5, 14, 10));
            for (const double x : {-3.5, 0.0, 3.5}) p.drawLine(QPointF(x, -3), QPointF(x, 3));
            break;
        case StructureKind::Manhole:
            p.drawEllipse(QPointF(0, 0), 6.5, 6.5);
            p.setBrush(edge);
            p.drawEllipse(QPointF(0, 0), 1.4, 1.4);
            break;
        case StructureKind::Outfall: p.drawPolygon(QPolygonF{{-7, -6}, {7, -8}, {7, 8}, {-7, 6}}); break;
        case StructureKind::Joint: p.drawEllipse(QPointF(0, 0), 3.2, 3.2); break;
    }
    if (verdict == Verdict::Beyond || verdict == Verdict::Near) draw_verdict_mark(p, {7, -7}, 3.2, verdict);
    return pixmap;
}

void PlanView::paint_structures(QPainter& p, const QRectF& view) {
    const auto in_view = scene_.structures_in(view);
    if (in_view.size() > many * 2) {
        QVector<QPointF> dots;
        for (const std::size_t i : in_view) dots << to_screen(scene_.structures()[i].at);
        p.setRenderHint(QPainter::Antialiasing, false);
        p.setPen(QPen(theme().ink, 2));
        p.drawPoints(dots.constData(), static_cast<int>(dots.size()));
        return;
    }
    for (const std::size_t i : in_view) {
        const PlanStructure& s = scene_.structures()[i];
        if (scale_ > real_outlines_from)
            if (const Structure* row = document_.project().structures.find(s.id))
                if (const StructureType* type = type_of(document_.project(), *row)) {
                    const bool round = type->plan == static_cast<int>(PlanShape::Round);
                    const double w = type->length * scale_,
                                 h = (round || std::isnan(type->width) ? type->length : type->width) * scale_;
                    p.save();
                    p.translate(to_screen(s.at));
                    if (const Street* street = document_.project().streets.find(row->street.value)) {
                        // A rectangle stands along its street.
                        const double at = station_of(street->line, {row->x, row->y}).station;
                        const Point before = point_at(street->line, at - 0.01, 0),
                                    after = point_at(street->line, at + 0.01, 0);
                        p.rotate(-std::atan2(after.y - before.y, after.x - before.x) * 180 / M_PI);
                    }
                    p.setPen(QPen(structure_look(i) == Verdict::Beyond ? theme().beyond : theme().ink, 1.4));
                    p.setBrush(theme().panel);
                    const QRectF box(-w / 2, -h / 2, w, h);
                    if (round) p.drawEllipse(box);
                    else p.drawRect(box);
                    p.restore();
                }
        p.drawPixmap(to_screen(s.at) - QPointF(11, 11), stamp(s.kind, structure_look(i)));
    }
}

void PlanView::paint_labels(QPainter& p, const QRectF& view) {
    const auto in_view = scene_.structures_in(view);
    if (in_view.size() > most_labels) return;
    const Theme& t = theme();
    const Project& project = document_.project();
    const UnitSet u = document_.units();
    p.setRenderHint(QPainter::Antialiasing);
    std::vector<QRectF> taken;
    const auto free = [&](const QRectF& r) {
        for (const QRectF& other : taken)
            if (other.intersects(r)) return false;
        return true;
    };
    for (const std::size_t i : in_view)
        taken.emplace_back(to_screen(scene_.structures()[i].at) - QPointF(8, 8), QSizeF(16, 16));
    // Points along the pipes, which labels keep off where they can.
    std::vector<QPointF> beads;
    if (in_view.size() < 120)
        for (const std::size_t i : scene_.pipes_in(view))
            for (std::size_t k = 1; k < scene_.pipes()[i].line.size(); ++k) {
                const QPointF a = to_screen(scene_.pipes()[i].line[k - 1]),
                              d = to_screen(scene_.pipes()[i].line[k]) - a;
                const double steps = std::max(1.0, std::hypot(d.x(), d.y()) / 8);
                for (double step = 0; step <= steps && beads.size() < 20000; ++step)
                    beads.push_back(a + d * (step / steps));
            }
    const QFont bold = lettering(8.5, true), plain_font = lettering(8);
    const QFontMetricsF bold_metrics(bold), metrics(plain_font);
    const auto halo = [&](QPointF at, const QString& s, const QColor& colour) {
        QColor back = t.paper;
        back.setAlpha(200);
        const QFontMetricsF m(p.font());
        p.fillRect(QRectF(at.x() - 1, at.y() - m.ascent(), m.horizontalAdvance(s) + 2, m.height()), back);
        p.setPen(colour);
        p.drawText(at, s);
    };
    for (const std::size_t i : in_view) {
        const PlanStructure& s = scene_.structures()[i];
        QString name = text(s.name);
        if (name.size() > 24) name = name.left(23) + "…";
        const QString rim = std::isnan(s.rim) ? QString() : text(u.number(s.rim, Quantity::Level));
        const QPointF at = to_screen(s.at);
        const double w = std::max(bold_metrics.horizontalAdvance(name), metrics.horizontalAdvance(rim)),
                     h = rim.isEmpty() ? 13 : 25;
        // A label keeps off pipes and other labels, and is nearer to its own structure than to any other.
        const std::array<QPointF, 6> offsets{QPointF(11, -h - 1), QPointF(11, 4),      QPointF(-w - 11, -h - 1),
                                             QPointF(-w - 11, 4), QPointF(-w / 2, 12), QPointF(-w / 2, -h - 12)};
        const auto stands_well = [&](const QRectF& box) {
            const double own = (box.center() - at).manhattanLength();
            for (const std::size_t k : in_view)
                if (k != i && (box.center() - to_screen(scene_.structures()[k].at)).manhattanLength() < own + 6)
                    return false;
            for (const QPointF& q : beads)
                if (box.contains(q)) return false;
            return true;
        };
        const QPointF* chosen = nullptr;
        for (const bool well : {true, false})
            for (const QPointF& offset : offsets)
                if (const QRectF box(at + offset, QSizeF(w, h)); !chosen && free(box) && (!well || stands_well(box)))
                    chosen = &offset;
        if (chosen) {
            const QRectF box(at + *chosen, QSizeF(w, h));
            taken.push_back(box);
            p.setFont(bold);
            halo(box.topLeft() + QPointF(0, bold_metrics.ascent() - 1), name, t.ink);
            if (!rim.isEmpty()) {
                p.setFont(plain_font);
                halo(box.topLeft() + QPointF(0, 12 + metrics.ascent() - 1), rim, t.quiet);
            }
        }
    }
    const auto r = document_.result();
    if (in_view.size() > most_labels / 3) return;
    for (const std::size_t i : scene_.pipes_in(view)) {
        const PlanPipe& pipe = scene_.pipes()[i];
        const Pipe* row = project.pipes.find(pipe.id);
        const std::size_t segment = (pipe.line.size() - 2) / 2;
        const QPointF a = to_screen(pipe.line[segment]), b = to_screen(pipe.line[segment + 1]), d = b - a;
        if (!row || std::hypot(d.x(), d.y()) < 48) continue;
        const bool box_shape = row->shape == 1 && row->width > 0;
        QString label = (box_shape ? text(u.number(row->width, Quantity::Size)) + "×" : QString()) +
                        text(u.number(row->size, Quantity::Size));
        if (r)
            if (const int link = r->network->link_of(PipeId{pipe.id});
                link != no_link && colour_by_ == ColourBy::Verdict)
                label += "  " + text(u.text(r->network->links[static_cast<std::size_t>(link)].slope, Quantity::Slope));
        if (colour_by_ != ColourBy::Verdict && colour_by_ != ColourBy::ServiceLevel && !std::isnan(pipe_look(i).value))
            label = text(u.text(pipe_look(i).value, grades(colour_by_).quantity));
        const double w = metrics.horizontalAdvance(label), h = metrics.height();
        const QPointF middle = (a + b) / 2, normal = QPointF(-d.y(), d.x()) / std::hypot(d.x(), d.y());
        for (const double side : {1.0, -1.0}) {
            const QPointF at =
                middle + normal * side * (10 + std::abs(normal.x()) * w / 2 + std::abs(normal.y()) * h / 2);
            const QRectF box(at - QPointF(w / 2, h / 2), QSizeF(w, h));
            if (!free(box)) continue;
            taken.push_back(box);
            p.setFont(plain_font);
            halo(box.topLeft() + QPointF(0, metrics.ascent()), label,
                 pipe_look(i).verdict == Verdict::Beyond && pipe_look(i).shade < 0 ? t.beyond : t.ink);
            break;
        }
    }
}

void PlanView::paint_selection(QPainter& p) {
    p.setRenderHint(QPainter::Antialiasing);
    QColor glow = theme().accent;
    glow.setAlpha(70);
    for (const ElementRef e : document_.selection()) {
        if (e.kind == Kind::Structure) {
            if (const Structure* s = document_.project().structures.find(e.id); s && placed(*s)) {
                p.setPen(QPen(theme().accent, 2));
                p.setBrush(Qt::NoBrush);
                p.drawEllipse(to_screen({s->x, s->y}), 12, 12);
            }
        } else if (e.kind == Kind::Pipe) {
            const Pipe* pipe = document_.project().pipes.find(e.id);
            const Structure *a = pipe ? document_.project().structures.find(pipe->from.value) : nullptr,
                            *b = pipe ? document_.project().structures.find(pipe->to.value) : nullptr;
            if (!a || !b || !placed(*a) || !placed(*b)) continue;
            QPolygonF line{to_screen({a->x, a->y})};
            for (const Point& q : pipe->bends) line << to_screen({q.x, q.y});
            line << to_screen({b->x, b->y});
            p.setPen(QPen(glow, 14, Qt::SolidLine, Qt::RoundCap));
            p.drawPolyline(line);
        } else if (e.kind == Kind::Catchment) {
            if (const Catchment* c = document_.project().catchments.find(e.id)) {
                QPolygonF polygon;
                for (const Point& q : c->outline) polygon << to_screen({q.x, q.y});
                p.setPen(QPen(theme().accent, 2));
                p.setBrush(Qt::NoBrush);
                p.drawPolygon(polygon);
            }
        } else if (e.kind == Kind::StreetPath || e.kind == Kind::Street) {
            const std::vector<QPointF>* found = nullptr;
            for (const PlanPath& path : scene_.paths())
                if (e.kind == Kind::StreetPath && path.id == e.id) found = &path.line;
            for (const PlanStreet& street : scene_.streets())
                if (e.kind == Kind::Street && street.id == e.id) found = &street.line;
            if (!found) continue;
            QPolygonF line;
            for (const QPointF& q : *found) line << to_screen(q);
            p.setPen(QPen(glow, 10, Qt::SolidLine, Qt::RoundCap));
            p.setBrush(Qt::NoBrush);
            p.drawPolyline(line);
        }
    }
}

void PlanView::paint_legend(QPainter& p) {
    if (scene_.pipes().empty()) return;
    const Theme& t = theme();
    const RainEvent* e = document_.project().events.find(document_.event().value);
    const QString title = "Pipes: " + colour_name(colour_by_) + (e ? ", " + text(e->name) : QString());
    p.setFont(lettering(8.5));
    const QFontMetricsF m(p.font());
    QStringList entries;
    std::vector<std::function<void(QRectF)>> marks;
    const UnitSet u = document_.units();
    if (colour_by_ == ColourBy::Verdict) {
        for (const Verdict v : {Verdict::Within, Verdict::Near, Verdict::Beyond}) {
            entries << QString(v == Verdict::Within ? "within" : (v == Verdict::Near ? "near" : "beyond"));
            marks.emplace_back([&p, &t, v](QRectF r) {
                p.setPen(t.verdict_pen(v, v == Verdict::Beyond ? 5 : 3.5));
                p.drawLine(QPointF(r.left(), r.center().y()), QPointF(r.right(), r.center().y()));
                if (v == Verdict::Beyond) {
                    p.setPen(QPen(t.panel, 1.6));
                    p.drawLine(QPointF(r.left(), r.center().y()), QPointF(r.right(), r.center().y()));
                }
            });
        }
    } else {
        const Grades g = grades(colour_by_);
        const QString unit = text(u.unit(g.quantity).symbol);
        for (int k = 0; k < shades; ++k) {
            const int step = g.more_is_worse ? k : shades - 1 - k;
            if (colour_by_ == ColourBy::ServiceLevel)
                entries << QString(k == 0 ? "all events" : (k == shades - 1 ? "none" : (k == 1 ? "most" : "few")));
            else if (step == 0) entries << "≤ " + text(u.number(g.steps[0], g.quantity)) + " " + unit;
            else entries << "> " + text(u.number(g.steps[static_cast<std::size_t>(step) - 1], g.quantity)) + " " + unit;
            marks.emplace_back([this, &p, k](QRectF r) {
                p.setPen(QPen(shade_colour(k), 5));
                p.drawLine(QPointF(r.left(), r.center().y()), QPointF(r.right(), r.center().y()));
            });
        }
    }
    double w = 16;
    for (const QString& entry : entries) w += 34 + m.horizontalAdvance(entry) + 14;
    w = std::max(w, m.horizontalAdvance(title) + 24);
    const QRectF box(10, height() - 54, w, 44);
    p.setPen(t.hairline);
    p.setBrush(t.panel);
    p.drawRoundedRect(box, 5, 5);
    p.setPen(t.quiet);
    p.drawText(box.topLeft() + QPointF(10, 17), title);
    double x = box.left() + 10;
    for (int i = 0; i < entries.size(); ++i) {
        marks[static_cast<std::size_t>(i)](QRectF(x, box.top() + 24, 28, 12));
        p.setPen(t.ink);
        p.drawText(QPointF(x + 34, box.top() + 34), entries[i]);
        x += 34 + m.horizontalAdvance(entries[i]) + 14;
    }
}

void PlanView::paint_scale_bar(QPainter& p) {
    if (scene_.structures().empty()) return;
    const UnitSet u = document_.units();
    const double unit = u.unit(Quantity::Length).factor, aim = 110 / scale_ / unit,
                 power = std::pow(10, std::floor(std::log10(aim)));
    double length = power;
    for (const double k : {2.0, 5.0, 10.0})
        if (k * power <= aim) length = k * power;
    const double pixels = length * unit * scale_, y = height() - 18, right = width() - 16;
    p.setPen(QPen(theme().ink, 1.5));
    p.drawLine(QPointF(right - pixels, y), QPointF(right, y));
    p.drawLine(QPointF(right - pixels, y - 3), QPointF(right - pixels, y + 3));
    p.drawLine(QPointF(right, y - 3), QPointF(right, y + 3));
    p.setFont(lettering(8));
    p.setPen(theme().quiet);
    p.drawText(QRectF(right - pixels - 20, y - 18, pixels + 40, 14), Qt::AlignCenter,
               QString::number(length) + " " + text(u.unit(Quantity::Length).symbol));
}

void PlanView::paint_empty(QPainter& p) {
    p.setPen(theme().ink);
    p.setFont(lettering(14, true));
    p.drawText(QRectF(0, height() / 2.0 - 40, width(), 24), Qt::AlignCenter, "Draw the first inlet");
    p.setPen(theme().quiet);
    p.setFont(lettering(10));
    p.drawText(QRectF(0, height() / 2.0 - 10, width(), 44), Qt::AlignCenter,
               "Choose Draw (D), click where the water comes in, then click on to the outfall.\nOr open the demo "
               "project: Ctrl+K, \"demo\".");
}

}  // namespace culvert::app
