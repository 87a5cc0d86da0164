// SPDX-License-Identifier: GPL-3.0-or-later
// Labels of the plan: what matters most first, as many as find room, none over another or over a mark.
#include <QPainter>
#include <cmath>
#include <unordered_map>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/low_points.h"
#include "app/plan/plan_view.h"
#include "core/design/flow_parts.h"

namespace culvert::app {
namespace {

constexpr std::size_t most_low_points = 40;
constexpr std::size_t most_structure_labels = 200, most_pipe_labels = 120, most_area_labels = 120;
constexpr std::size_t most_candidates = 6000;  ///< above this many in view only what is chosen is labelled
constexpr std::size_t few = 25;                ///< labels where there is no room for more than the important ones

/// What is taken, in cells: a place is asked for in the time of its neighbourhood.
class Room {
  public:
    void take(const QRectF& r) {
        over(r, [&](auto& cell) { cell.push_back(r); });
    }
    [[nodiscard]] bool free(const QRectF& r) {
        bool good = true;
        over(r, [&](auto& cell) {
            for (const QRectF& other : cell) good = good && !other.intersects(r.adjusted(-gap, 0, gap, 0));
        });
        return good;
    }

  private:
    static constexpr double side = 40, gap = 2;
    template <class F>
    void over(const QRectF& r, const F& f) {
        for (int x = static_cast<int>(std::floor(r.left() / side)); x <= static_cast<int>(std::floor(r.right() / side));
             ++x)
            for (int y = static_cast<int>(std::floor(r.top() / side));
                 y <= static_cast<int>(std::floor(r.bottom() / side)); ++y)
                f(cells_[static_cast<std::int64_t>(x) << 32 | static_cast<std::uint32_t>(y)]);
    }
    std::unordered_map<std::int64_t, std::vector<QRectF>> cells_;
};

struct Ranked {
    int rank;
    std::size_t index;
};
/// The most important first, as many as are asked for, in the order of the plan among equals.
void keep_best(std::vector<Ranked>& list, std::size_t most) {
    const auto before = [](const Ranked& a, const Ranked& b) {
        return std::tie(b.rank, a.index) < std::tie(a.rank, b.index);
    };
    if (list.size() > most) {
        std::nth_element(list.begin(), list.begin() + static_cast<std::ptrdiff_t>(most), list.end(), before);
        list.resize(most);
    }
    std::sort(list.begin(), list.end(), before);
}

}  // namespace

void PlanView::paint_labels(QPainter& p, const QRectF& view) {
    labels_.clear();
    const Theme& t = theme();
    const UnitSet u = document_.units();
    p.setRenderHint(QPainter::Antialiasing);
    const auto in_view = scene_.structures_in(view);
    // Few structures are named however small they are.
    const std::size_t named_at_most = marks_ == Marks::Full ? most_candidates : (marks_ == Marks::Small ? 150 : 60);
    const bool roomy = marks_ != Marks::None && in_view.size() <= named_at_most;
    Room room;
    const QFont bold = lettering(8.5, true), plain_font = lettering(8);
    const QFontMetricsF bold_metrics(bold), metrics(plain_font);
    QColor back = t.paper;
    back.setAlpha(200);
    const auto write = [&](const QRectF& box, double from_top, const QFont& font, const QFontMetricsF& m,
                           const QString& s, const QColor& colour) {
        p.setFont(font);
        const QPointF at = box.topLeft() + QPointF(0, from_top + m.ascent() - 1);
        p.fillRect(QRectF(at.x() - 1, at.y() - m.ascent(), m.horizontalAdvance(s) + 2, m.height()), back);
        p.setPen(colour);
        p.drawText(at, s);
    };
    const auto note = [&](const QString& s, const QRectF& box) {
        room.take(box);
        labels_.emplace_back(s, box);
    };
    const auto selected = [&](Kind kind, std::uint64_t id) { return document_.is_selected({kind, id}); };

    const double mark = marks_ == Marks::Full ? 8 : (marks_ == Marks::Small ? 4.5 : 2.5);
    if (in_view.size() <= most_candidates && marks_ != Marks::None)
        for (const std::size_t i : in_view) {
            const QPointF at = to_screen(scene_.structures()[i].at);
            room.take({at - QPointF(mark, mark), QSizeF(2 * mark, 2 * mark)});
        }
    for (const QRectF& name : street_names_) room.take(name);
    // Points along the pipes, which labels keep off where they can.
    Room lines;
    std::size_t beads = 0;
    if (roomy && in_view.size() < 1000)
        for (const std::size_t i : scene_.pipes_in(view))
            for (std::size_t k = 1; k < scene_.pipes()[i].line.size(); ++k) {
                const QPointF a = to_screen(scene_.pipes()[i].line[k - 1]),
                              d = to_screen(scene_.pipes()[i].line[k]) - a;
                const double steps = std::max(1.0, std::hypot(d.x(), d.y()) / 11);
                for (double step = 0; step <= steps && beads < 8000; ++step, ++beads)
                    lines.take({a + d * (step / steps), QSizeF(0.5, 0.5)});
            }

    std::vector<Ranked> structures;
    const bool named = theme_.structure_labels != StructureLabels::None;
    std::size_t outfalls = 0;
    for (const std::size_t i : in_view) outfalls += scene_.structures()[i].kind == StructureKind::Outfall;
    const bool name_outfalls = named && (roomy || outfalls <= few);  // more of them would lie over the lines
    for (const std::size_t i : in_view) {
        const PlanStructure& s = scene_.structures()[i];
        int rank = 0;
        if (in_view.size() <= most_candidates) {
            const Verdict v = structure_look(i);
            rank = v == Verdict::Beyond ? 2 : (v == Verdict::Near ? 1 : 0);
        }
        if (s.kind == StructureKind::Outfall && name_outfalls) rank = 4;
        if (selected(Kind::Structure, s.id)) rank = 5;
        if ((named && roomy) || rank >= 4) structures.push_back({rank, i});
    }
    keep_best(structures, roomy ? most_structure_labels : few);
    const auto r = document_.result();
    for (const auto& [rank, place] : structures) {
        const std::size_t i = place;
        const PlanStructure& s = scene_.structures()[i];
        QString name = text(s.name);
        if (name.size() > 24) name = name.left(23) + "…";
        QString below;
        if (theme_.structure_labels == StructureLabels::NameAndRim && !std::isnan(s.rim))
            below = text(u.number(s.rim, Quantity::Level));
        if (theme_.structure_labels == StructureLabels::NameAndLevel && r)
            if (const double level = result_at(*r, *result_field(ResultOn::Node, "hgl"), {Kind::Structure, s.id});
                !std::isnan(level))
                below = text(u.number(level, Quantity::Level));
        if (marks_ != Marks::Full) below.clear();
        const QPointF at = to_screen(s.at);
        const double w = std::max(bold_metrics.horizontalAdvance(name), metrics.horizontalAdvance(below)),
                     h = below.isEmpty() ? 13 : 25, off = mark + 3;
        // A label keeps off pipes and other labels, and is nearer to its own structure than to any other.
        const std::array<QPointF, 6> offsets{QPointF(off, -h - 1),      QPointF(off, 4),
                                             QPointF(-w - off, -h - 1), QPointF(-w - off, 4),
                                             QPointF(-w / 2, off + 1),  QPointF(-w / 2, -h - off - 1)};
        const auto stands_well = [&](const QRectF& box) {
            const double own = (box.center() - at).manhattanLength() + 6;
            const QPointF middle = to_metres(box.center());
            const double around = own / scale_;
            for (const std::size_t k :
                 scene_.structures_in({middle.x() - around, middle.y() - around, 2 * around, 2 * around}))
                if (k != i && (box.center() - to_screen(scene_.structures()[k].at)).manhattanLength() < own)
                    return false;
            return lines.free(box);
        };
        const QPointF* chosen = nullptr;
        for (const bool well : {true, false})
            for (const QPointF& offset : offsets)
                if (const QRectF box(at + offset, QSizeF(w, h));
                    !chosen && room.free(box) && (!well || stands_well(box)))
                    chosen = &offset;
        if (!chosen) continue;
        const QRectF box(at + *chosen, QSizeF(w, h));
        note(name, box);
        write(box, 0, bold, bold_metrics, name, theme_.quiet_structures && rank < 4 ? t.quiet : t.ink);
        if (!below.isEmpty())
            write(box, 12, plain_font, metrics, below,
                  theme_.structure_labels == StructureLabels::NameAndLevel ? t.water : t.quiet);
    }

    if (const Catchment* c = graded(theme_.areas) && document_.selected().kind == Kind::Catchment
                                 ? document_.project().catchments.find(document_.selected().id)
                                 : nullptr;
        c && c->time_by == TimeBy::Parts && c->flow_path.size() > 1) {
        const ConcentrationTime found = concentration_time(document_.project(), *c);
        const std::vector<double> ends = part_ends(found.parts, length(c->flow_path));
        double from = 0;
        for (std::size_t i = 0; i < ends.size() && i < found.part_times.size(); ++i) {
            const Point middle = point_at(c->flow_path, (from + ends[i]) / 2, 0);
            from = ends[i];
            const QString words = text(part_name(found.parts[i])) + " " +
                                  text(u.text(length_of(found.parts[i]), Quantity::Length)) + ", " +
                                  text(u.text(found.part_times[i], Quantity::Duration));
            const double w = metrics.horizontalAdvance(words);
            const QPointF at = to_screen({middle.x, middle.y});
            for (const QPointF& off :
                 {QPointF(10, -6), QPointF(-w - 10, -6), QPointF(-w / 2, 10), QPointF(-w / 2, -24)})
                if (const QRectF box(at + off, QSizeF(w, 13)); room.free(box)) {
                    note(words, box);
                    write(box, 0, plain_font, metrics, words, t.water);
                    break;
                }
        }
    }
    if (graded(theme_.areas)) {
        std::vector<Ranked> areas;
        for (std::size_t i = 0; i < scene_.areas().size(); ++i)
            if (const PlanArea& a = scene_.areas()[i];
                a.box.width() * scale_ > 34 && a.box.height() * scale_ > 26 && view.normalized().intersects(a.box))
                areas.push_back({selected(Kind::Catchment, a.id) ? 1 : 0, i});
        keep_best(areas, most_area_labels);
        for (const auto& [rank, i] : areas) {
            const PlanArea& a = scene_.areas()[i];
            const QString value = theme_.areas == AreaFill::Coefficient
                                      ? "C " + text(u.number(a.coefficient, Quantity::Ratio))
                                      : text(u.text(a.time, Quantity::Duration));
            const QString size = text(u.text(a.area, Quantity::Area));
            const double w = std::max(bold_metrics.horizontalAdvance(value), metrics.horizontalAdvance(size));
            // In the middle, or above or below what stands there, but within its own area.
            const QPointF middle = to_screen(a.centre);
            const QRectF own = QRectF(to_screen(a.box.topLeft()), to_screen(a.box.bottomRight())).normalized();
            QRectF box;
            for (const double off : {0.0, 20.0, -20.0, 34.0, -34.0})
                if (const QRectF at(middle + QPointF(-w / 2, off - 12), QSizeF(w, 25));
                    box.isNull() && room.free(at) && own.adjusted(-6, -6, 6, 6).contains(at))
                    box = at;
            if (box.isNull()) continue;
            note(value, box);
            write(box, 0, bold, bold_metrics,
                  std::isnan(a.coefficient) && theme_.areas == AreaFill::Coefficient ? "no C" : value, t.ink);
            write(box, 12, plain_font, metrics, size, t.quiet);
        }
    }

    if (theme_.streets) {  // what runs along street paths, beside them
        const QRectF all = QRectF(rect()).adjusted(-20, -20, 20, 20);
        std::size_t said = 0;
        for (const PlanPath& path : scene_.paths()) {
            const QPolygonF line = path_line(path);
            if (line.size() < 2 || !all.intersects(line.boundingRect().adjusted(-1, -1, 1, 1))) continue;
            const QPointF a = line[line.size() - 2], d = line.back() - a;
            const double l = std::hypot(d.x(), d.y());
            if (l < 70) continue;
            const double flow = bypass_along(path.id);
            if (!(flow > 1e-6)) continue;
            if (++said > most_pipe_labels) break;
            const QString words = text(u.text(flow, Quantity::Flow));
            const QSizeF size(metrics.horizontalAdvance(words), 13);
            const QPointF n(-d.y() / l, d.x() / l);
            const double away = std::abs(n.x()) * size.width() / 2 + std::abs(n.y()) * size.height() / 2 + 4;
            const auto place = [&] {
                for (const double share : {0.5, 0.35, 0.65})
                    for (const double side : {1.0, -1.0}) {
                        const QPointF middle = a + share * d + side * away * n;
                        const QRectF box(middle - QPointF(size.width() / 2, size.height() / 2), size);
                        if (room.free(box) && lines.free(box)) return box;
                    }
                return QRectF();
            };
            const QRectF box = place();
            if (box.isNull()) continue;
            note(words, box);
            write(box, 0, plain_font, metrics, words, t.water);
        }
    }

    if (ground_show_.low_points) {  // where there is room beside their drops
        std::size_t said = 0;
        for (const LowPoint& low : low_points(document_, view)) {
            if (said >= most_low_points) break;
            const QString depth = text(u.text(low.depth, Quantity::Length));
            const QSizeF size(metrics.horizontalAdvance(depth), 13);
            const QPointF at = to_screen({low.bottom.x, low.bottom.y});
            for (const QPointF& off : {QPointF(9, -6), QPointF(-size.width() - 9, -6), QPointF(-size.width() / 2, -22),
                                       QPointF(-size.width() / 2, 8)})
                if (const QRectF box(at + off, size); room.free(box) && lines.free(box)) {
                    note(depth, box);
                    write(box, 0, plain_font, metrics, depth, low.filled ? t.water : t.quiet);
                    ++said;
                    break;
                }
        }
    }

    if (theme_.pipe_labels == PipeLabels::None || theme_.quiet_pipes || !roomy || in_view.size() > most_candidates)
        return;
    std::vector<Ranked> pipes;
    for (const std::size_t i : scene_.pipes_in(view)) {
        const PlanPipe& pipe = scene_.pipes()[i];
        const std::size_t segment = (pipe.line.size() - 2) / 2;
        const QPointF d = pipe.line[segment + 1] - pipe.line[segment];
        if (std::hypot(d.x(), d.y()) * scale_ < 48) continue;
        pipes.push_back({selected(Kind::Pipe, pipe.id) ? 4 : (pipe_look(i).verdict == Verdict::Beyond ? 1 : 0), i});
    }
    keep_best(pipes, most_pipe_labels);
    const bool by_value = theme_.pipe_labels == PipeLabels::Value && colouring_.field;
    for (const auto& [rank, i] : pipes) {
        const PlanPipe& pipe = scene_.pipes()[i];
        const Pipe* row = document_.project().pipes.find(pipe.id);
        if (!row) continue;
        const std::size_t segment = (pipe.line.size() - 2) / 2;
        const QPointF a = to_screen(pipe.line[segment]), b = to_screen(pipe.line[segment + 1]), d = b - a;
        QString label = text(size_words(u, *row, false));
        const PipeLook& look = pipe_look(i);
        if (by_value && !std::isnan(look.value)) label = text(u.text(look.value, colouring_.field->quantity));
        else if (r)
            if (const int link = r->network->link_of(PipeId{pipe.id}); link != no_link)
                label += "  " + text(u.text(r->network->links[static_cast<std::size_t>(link)].slope, Quantity::Slope));
        const double w = metrics.horizontalAdvance(label), h = metrics.height();
        const QPointF middle = (a + b) / 2, normal = QPointF(-d.y(), d.x()) / std::hypot(d.x(), d.y());
        for (const double side : {1.0, -1.0}) {
            const QPointF at =
                middle + normal * side * (10 + std::abs(normal.x()) * w / 2 + std::abs(normal.y()) * h / 2);
            const QRectF box(at - QPointF(w / 2, h / 2), QSizeF(w, h));
            if (!room.free(box)) continue;
            note(label, box);
            write(box, 1, plain_font, metrics, label,
                  look.verdict == Verdict::Beyond && look.shade < 0 ? t.beyond : t.ink);
            break;
        }
    }
}

}  // namespace culvert::app
