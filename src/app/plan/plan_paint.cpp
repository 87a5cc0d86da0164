// SPDX-License-Identifier: GPL-3.0-or-later
// How the plan paints: areas, pipes, structures as stamps, labels by level of detail, legend, scale bar.
#include <QPainter>
#include <QPainterPath>
#include <array>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/plan_view.h"
#include "core/hydraulics/uniform_flow.h"

namespace culvert::app {
namespace {

constexpr std::size_t many = 3000;         ///< above this many in view, lines are thin and not smoothed
constexpr double real_outlines_from = 12;  ///< pixels a metre, from which structures have their real outline

}  // namespace

QColor PlanView::shade_colour(int shade) const {
    const Theme& t = theme();
    const QColor light = t.dark ? QColor("#3E6C74") : QColor("#9CCBD0"),
                 deep = t.dark ? QColor("#BFE6EA") : QColor("#0F4651");
    const double s = shade / double(plan_shades - 1);
    const auto mix = [s](int a, int b) { return static_cast<int>(a + (b - a) * s); };
    return {mix(light.red(), deep.red()), mix(light.green(), deep.green()), mix(light.blue(), deep.blue())};
}

void PlanView::forget_looks() {
    auto r = document_.result();
    auto rev = document_.review();
    if (!r || !rev || rev->nodes.size() != r->nodes.size() || rev->links.size() != r->links.size()) r = nullptr;
    colouring_ = colouring(theme_.colour);
    Results all = colouring_.key == "service_level" ? document_.all_results() : Results{};
    const bool same = r == looked_result_ && rev == looked_review_ && all == looked_all_ &&
                      looked_by_ == theme_.colour && pipe_looks_.size() == scene_.pipes().size() &&
                      structure_looks_.size() == scene_.structures().size();
    if (same && scene_version_ == scene_.version()) return;
    scene_version_ = scene_.version();
    looked_result_ = std::move(r);
    looked_review_ = std::move(rev);
    looked_all_ = std::move(all);
    looked_by_ = theme_.colour;
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
    look.against = pipe && (pipe->from.value != from.structure.value) != looked_result_->links[at].flow.against;
    if (const ResultField* f = colouring_.field) {
        look.value = f->value(*looked_result_, f->on == ResultOn::Link ? at : static_cast<std::size_t>(n.from));
        if (!std::isnan(look.value)) look.shade = f->classes.of(look.value);
    } else if (colouring_.key == "service_level" && !looked_all_.empty()) {
        const ServiceLevel s = service_level(document_.project(), looked_all_, {Kind::Pipe, n.pipe.value});
        look.shade = plan_shades - 1 -
                     std::clamp((s.passed() + 1) * plan_shades / std::max(1, static_cast<int>(s.events.size()) + 1), 0,
                                plan_shades - 1);
    }
    return look;
}

void PlanView::render_frame(QPainter& p) {
    forget_looks();
    p.fillRect(rect(), theme().paper);
    if (document_.dimmed()) p.setOpacity(0.45);
    const QPointF a = to_metres({-20.0, height() + 20.0}), b = to_metres({width() + 20.0, -20.0});
    const QRectF view(a, b);
    measure_marks(view);
    paint_background(p, view);
    paint_ground(p, view);
    paint_streets(p, view);
    paint_areas(p, view);
    paint_ponds(p);
    if (theme_.streets && scale_ >= PlanWater::least_scale && document_.result() &&
        !document_.result()->streets.empty()) {
        water_.update(document_, document_.result(), view);
        water_.paint(
            p, view, scale_, [this](QPointF q) { return to_screen(q); }, document_.units());
    }
    paint_paths(p, view);
    paint_buried(p, view);
    paint_pipes(p, view);
    paint_structures(p, view);
    paint_clashes(p, view);
    paint_labels(p, view);
    p.setOpacity(1);
}

/// How large marks can be without covering what lies between them: by the middle one of the pipes' lengths in view, and
/// by how the structures crowd.
void PlanView::measure_marks(const QRectF& view) {
    const auto in_view = scene_.pipes_in(view), near = scene_.structures_in(view);
    std::vector<double> lengths;
    const std::size_t step = std::max<std::size_t>(1, in_view.size() / 400);
    for (std::size_t i = 0; i < in_view.size(); i += step) {
        const auto& line = scene_.pipes()[in_view[i]].line;
        lengths.push_back(std::hypot(line.back().x() - line.front().x(), line.back().y() - line.front().y()) * scale_);
    }
    spacing_ = 100;
    if (!lengths.empty()) {
        const auto middle = lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() / 2);
        std::nth_element(lengths.begin(), middle, lengths.end());
        spacing_ = *middle;
    } else if (near.size() > 1) spacing_ = std::sqrt(width() * double(height()) / static_cast<double>(near.size()));
    // Where structures crowd, long pipes between them do not make room: how many share a square of sixteen pixels?
    if (near.size() > 40) {
        constexpr int cell = 16;
        const int across = width() / cell + 4, down = height() / cell + 4;
        std::vector<bool> taken(static_cast<std::size_t>(across * down), false);
        std::size_t squares = 0;
        for (const std::size_t i : near) {
            const QPointF at = to_screen(scene_.structures()[i].at);
            const int x = std::clamp(static_cast<int>(at.x()) / cell + 2, 0, across - 1),
                      y = std::clamp(static_cast<int>(at.y()) / cell + 2, 0, down - 1);
            const auto square =
                static_cast<std::size_t>(y) * static_cast<std::size_t>(across) + static_cast<std::size_t>(x);
            squares += !taken[square];
            taken[square] = true;
        }
        const double each = static_cast<double>(near.size()) / static_cast<double>(squares);
        if (each > 1.5) spacing_ = std::min(spacing_, cell / std::sqrt(each));
    }
    marks_ =
        spacing_ >= 40 ? Marks::Full : (spacing_ >= 22 ? Marks::Small : (spacing_ >= 10 ? Marks::Dots : Marks::None));
    if (theme_.quiet_structures && marks_ < Marks::Dots) marks_ = Marks::Dots;
}

QPen PlanView::pipe_pen(const PipeLook& look, double width) const {
    const Theme& t = theme();
    if (theme_.quiet_pipes) return QPen(t.unknown, std::min(width, 2.0), Qt::SolidLine, Qt::FlatCap);
    if (look.shade >= 0) return QPen(shade_colour(look.shade), width, Qt::SolidLine, Qt::FlatCap);
    return t.verdict_pen(look.verdict, width);
}

void PlanView::paint_pipes(QPainter& p, const QRectF& view) {
    const Theme& t = theme();
    const auto in_view = scene_.pipes_in(view);
    // Smooth edges cost by length: where lines that cross the whole view would ink a fifth of it nobody sees them.
    double ink = 0;
    const double across = std::hypot(view.width(), view.height());
    for (const std::size_t i : in_view) {
        const auto& line = scene_.pipes()[i].line;
        ink += std::min(across, std::hypot(line.back().x() - line.front().x(), line.back().y() - line.front().y()));
    }
    const bool fine = smooth_pipes_ = in_view.size() <= many && ink * scale_ < 0.2 * width() * height();
    p.setRenderHint(QPainter::Antialiasing, fine);
    if (!fine) {  // one call for each colour, one pixel wide; what is worst lies on top
        std::array<QVector<QLineF>, 4 + plan_shades> groups;
        for (const std::size_t i : in_view) {
            const PipeLook& look = pipe_look(i);
            auto& group = groups[look.shade >= 0 ? 4 + static_cast<std::size_t>(look.shade)
                                                 : static_cast<std::size_t>(look.verdict)];
            const auto& line = scene_.pipes()[i].line;
            for (std::size_t k = 1; k < line.size(); ++k) group << QLineF(to_screen(line[k - 1]), to_screen(line[k]));
        }
        for (std::size_t g = 0; g < groups.size(); ++g) {
            const QColor colour = g < 4 ? t.verdict(static_cast<Verdict>(g)) : shade_colour(static_cast<int>(g) - 4);
            p.setPen(QPen(theme_.quiet_pipes ? t.unknown : colour, spacing_ > 8 ? 2 : 1));
            p.drawLines(groups[g]);
        }
        return;
    }
    // Lines grow thin with the room between structures; a doubled line needs five pixels to be seen as such.
    const double most = std::clamp(spacing_ / 8, 1.4, 5.0), most_beyond = std::clamp(spacing_ / 6, 2.2, 9.0);
    const double off = marks_ == Marks::Full ? 6 : (marks_ == Marks::Small ? 3 : 0);
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
            double cut = off;
            if (row)
                if (const Structure* s = document_.project().structures.find((front ? row->from : row->to).value)) {
                    const QPointF toward = to_metres(next);
                    cut = std::max(cut, outline_reach(document_.project(), *s, {toward.x(), toward.y()}) * scale_);
                }
            if (length > 12 + cut) end += d / length * cut;
        }
        const double real = pipe.width * scale_, width = std::max(std::min(3.0, most), real);
        if (real > 6) {
            p.setPen(QPen(t.tint(t.water_body, 0.5), real, Qt::SolidLine, Qt::FlatCap));
            p.drawPolyline(line);
        }
        if (pipe.idle) {
            p.setPen(QPen(t.unknown, 1, Qt::DashLine));
            p.drawPolyline(line);
            continue;
        }
        const bool beyond = look.shade < 0 && look.verdict == Verdict::Beyond && !theme_.quiet_pipes;
        const double wide = beyond ? std::max(most_beyond > 5 ? 5.0 : most_beyond, std::min(width, most_beyond))
                                   : (look.shade >= 0 ? width : std::min(width, most));
        p.setPen(pipe_pen(look, wide));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(line);
        if (beyond && wide >= 4.5) {  // doubled
            p.setPen(QPen(t.paper, std::max(1.6, wide * 0.3), Qt::SolidLine, Qt::FlatCap));
            p.drawPolyline(line);
        }
        // Flow arrow in the middle.
        const QPointF a = line[(line.size() - 2) / 2], b = line[(line.size() - 2) / 2 + 1], d = b - a;
        const double length = std::hypot(d.x(), d.y());
        if (length > 34 && !theme_.quiet_pipes) {
            const double sign = look.against ? -1 : 1;
            const QPointF u = d / length * sign, middle = (a + b) / 2, v(-u.y(), u.x());
            p.setPen(Qt::NoPen);
            p.setBrush(look.shade >= 0 ? shade_colour(look.shade) : t.verdict(look.verdict));
            p.drawPolygon(QPolygonF{middle + u * 8, middle - u * 5 + v * 5.5, middle - u * 5 - v * 5.5});
        }
    }
}

const QPixmap& PlanView::stamp(StructureKind kind, Verdict verdict, bool idle) {
    const bool full = marks_ == Marks::Full;
    QPixmap& pixmap = stamps_[{static_cast<int>(kind), static_cast<int>(verdict), static_cast<int>(marks_), idle}];
    if (!pixmap.isNull()) return pixmap;
    const Theme& t = theme();
    const double ratio = devicePixelRatioF();
    pixmap = QPixmap(QSize(22, 22) * ratio);
    pixmap.setDevicePixelRatio(ratio);
    pixmap.fill(Qt::transparent);
    QPainter p(&pixmap);
    p.setRenderHint(QPainter::Antialiasing);
    p.translate(11, 11);
    if (theme_.quiet_structures) verdict = Verdict::Unknown;
    const QColor edge = theme_.quiet_structures || idle ? t.unknown : (verdict == Verdict::Beyond ? t.beyond : t.ink);
    if (marks_ == Marks::Dots) {  // the shape of the verdict is all there is room for
        p.setPen(Qt::NoPen);
        p.setBrush(edge);
        if (kind == StructureKind::Outfall) p.drawPolygon(QPolygonF{{-4, -3}, {4, -4.5}, {4, 4.5}, {-4, 3}});
        else if (verdict == Verdict::Beyond || verdict == Verdict::Near) draw_verdict_mark(p, {0, 0}, 3, verdict);
        else p.drawEllipse(QPointF(0, 0), 1.8, 1.8);
        return pixmap;
    }
    if (!full) p.scale(0.55, 0.55);
    p.setPen(QPen(edge, full ? 1.6 : 2));
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
        case StructureKind::Pond:  // banks that hold water
            p.drawPolygon(QPolygonF{{-8, -5}, {8, -5}, {5, 6}, {-5, 6}});
            p.setPen(QPen(t.water, full ? 1.6 : 2));
            p.drawLine(QPointF(-6.5, -1), QPointF(6.5, -1));
            break;
    }
    if (idle) {  // struck out
        p.setPen(QPen(edge, full ? 1.6 : 2));
        p.drawLine(QPointF(-8, 8), QPointF(8, -8));
    }
    if (verdict == Verdict::Beyond || verdict == Verdict::Near)
        draw_verdict_mark(p, full ? QPointF(7, -7) : QPointF(9, -9), full ? 3.2 : 4.4, verdict);
    return pixmap;
}

void PlanView::paint_real_outline(QPainter& p, const PlanStructure& s, bool beyond) {
    const Structure* row = document_.project().structures.find(s.id);
    const StructureType* type = row ? type_of(document_.project(), *row) : nullptr;
    if (!type) return;
    const bool round = type->plan == PlanShape::Round;
    const double w = type->length * scale_,
                 h = (round || std::isnan(type->width) ? type->length : type->width) * scale_;
    p.save();
    p.translate(to_screen(s.at));
    if (const Street* street = document_.project().streets.find(row->street.value)) {
        // A rectangle stands along its street.
        const double at = station_of(street->line, {row->x, row->y}).station;
        const Point before = point_at(street->line, at - 0.01, 0), after = point_at(street->line, at + 0.01, 0);
        p.rotate(-std::atan2(after.y - before.y, after.x - before.x) * 180 / M_PI);
    }
    p.setPen(QPen(beyond ? theme().beyond : theme().ink, 1.4));
    p.setBrush(theme().panel);
    const QRectF box(-w / 2, -h / 2, w, h);
    if (round) p.drawEllipse(box);
    else p.drawRect(box);
    p.restore();
}

void PlanView::paint_structures(QPainter& p, const QRectF& view) {
    if (marks_ == Marks::None) return;  // the lines say where they stand
    const auto in_view = scene_.structures_in(view);
    for (const std::size_t i : in_view) {
        const PlanStructure& s = scene_.structures()[i];
        if (scale_ > real_outlines_from) paint_real_outline(p, s, structure_look(i) == Verdict::Beyond);
        p.drawPixmap(to_screen(s.at) - QPointF(11, 11), stamp(s.kind, structure_look(i), s.idle));
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
        } else if (e.kind == Kind::StreetPath || e.kind == Kind::Street || e.kind == Kind::BuriedLine) {
            const std::vector<QPointF>* found = nullptr;
            for (const PlanPath& path : scene_.paths())
                if (e.kind == Kind::StreetPath && path.id == e.id) found = &path.line;
            for (const PlanStreet& street : scene_.streets())
                if (e.kind == Kind::Street && street.id == e.id) found = &street.line;
            for (const PlanLine& line : scene_.lines())
                if (e.kind == Kind::BuriedLine && line.id == e.id) found = &line.line;
            if (!found) continue;
            QPolygonF line;
            for (const QPointF& q : *found) line << to_screen(q);
            p.setPen(QPen(glow, 10, Qt::SolidLine, Qt::RoundCap));
            p.setBrush(Qt::NoBrush);
            p.drawPolyline(line);
        }
    }
}

}  // namespace culvert::app
