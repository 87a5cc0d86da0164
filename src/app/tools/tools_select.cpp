// SPDX-License-Identifier: GPL-3.0-or-later
// Selecting, moving, and dragging the handles of what is selected.
#include <QApplication>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/plan_tool.h"
#include "core/design/flow_parts.h"
#include "core/design/layout.h"
#include "core/model/cells.h"

namespace culvert::app {
namespace {

constexpr double handle_reach = 7;  ///< pixels

std::vector<StructureId> chosen_structures(const Document& d) {
    std::vector<StructureId> out;
    for (const ElementRef s : d.selection())
        if (s.kind == Kind::Structure) out.push_back({s.id});
    return out;
}

/// A place of the selected element that can be dragged: a bend, a corner, a street path's end.
struct Handle {
    enum class Form { Corner, Between, PathEnd, PartEnd } form = Form::Corner;
    ElementRef element;
    const char* key = "";   ///< the field of points
    std::size_t index = 0;  ///< of the corner; of the corner after, for one between
    Point at;
};

std::vector<Handle> handles_of(const Document& d) {
    std::vector<Handle> out;
    if (d.selection().size() != 1) return out;
    const ElementRef e = d.selected();
    const Project& p = d.project();
    const auto line = [&](const char* key, const std::vector<Point>& corners, const std::vector<Point>& whole,
                          std::size_t first, bool closed) {
        for (std::size_t i = 0; i < corners.size(); ++i) out.push_back({Handle::Form::Corner, e, key, i, corners[i]});
        for (std::size_t i = 0; i + 1 < whole.size() + (closed ? 1 : 0); ++i) {
            const Point a = whole[i], b = whole[(i + 1) % whole.size()];
            out.push_back({Handle::Form::Between, e, key, i + 1 - first, {(a.x + b.x) / 2, (a.y + b.y) / 2}});
        }
    };
    const auto between = [&](StructureId from, StructureId to, const std::vector<Point>& bends) {
        std::vector<Point> whole;
        if (const Structure* s = p.structures.find(from.value); s && placed(*s)) whole.push_back({s->x, s->y});
        whole.insert(whole.end(), bends.begin(), bends.end());
        if (const Structure* s = p.structures.find(to.value); s && placed(*s)) whole.push_back({s->x, s->y});
        return whole;
    };
    if (e.kind == Kind::Pipe) {
        if (const Pipe* row = p.pipes.find(e.id))
            line("bends", row->bends, between(row->from, row->to, row->bends), 1, false);
    } else if (e.kind == Kind::StreetPath) {
        if (const StreetPath* row = p.street_paths.find(e.id)) {
            const auto whole = between(row->from, row->to, row->bends);
            line("bends", row->bends, whole, 1, false);
            if (row->to && !whole.empty()) out.push_back({Handle::Form::PathEnd, e, "to", 0, whole.back()});
        }
    } else if (e.kind == Kind::Street) {
        if (const Street* row = p.streets.find(e.id)) line("line", row->line, row->line, 0, false);
    } else if (e.kind == Kind::BuriedLine) {
        if (const BuriedLine* row = p.buried_lines.find(e.id)) line("line", row->line, row->line, 0, false);
    } else if (e.kind == Kind::Catchment) {
        if (const Catchment* row = p.catchments.find(e.id)) {
            line("outline", row->outline, row->outline, 0, true);
            if (row->flow_path.size() > 1 && row->time_by == TimeBy::Parts) {
                const auto ends = part_ends(read_parts(row->path_parts, 0.05).parts, length(row->flow_path));
                for (std::size_t i = 0; i + 1 < ends.size(); ++i)
                    out.push_back({Handle::Form::PartEnd, e, "path_parts", i, point_at(row->flow_path, ends[i], 0)});
            }
        }
    } else if (e.kind == Kind::LandCover) {
        if (const LandCover* row = p.land_covers.find(e.id); row && row->outline.size() > 2)
            line("outline", row->outline, row->outline, 0, true);
    }
    return out;
}

std::vector<Point> points_of(const Project& p, const Handle& h) {
    const auto field = field_index(h.element.kind, h.key);
    if (!field || !has_row(p, h.element.kind, h.element.id)) return {};
    const Value v = value_of(p, h.element.kind, h.element.id, *field);
    const auto* points = std::get_if<std::vector<Point>>(&v);
    return points ? *points : std::vector<Point>{};
}

/// Click selects, Ctrl adds, a drag over paper selects what it encloses, a drag on a structure moves the selection, a
/// drag on a handle of the selected element moves that corner; Delete or a double click takes a corner away.
class SelectTool : public PlanTool {
  public:
    using PlanTool::PlanTool;
    [[nodiscard]] QString name() const override { return "select"; }
    [[nodiscard]] QString hint() const override { return "Click to select, drag to move, Delete removes"; }

    void press(QMouseEvent* e) override {
        if (e->button() != Qt::LeftButton) return;
        from_ = e->position();
        down_ = true;
        dragging_ = false;
        handle_.reset();
        Document& d = document();
        if (const auto h = handle_at(from_)) {
            handle_ = h;
            on_structure_ = false;
            return;
        }
        ElementRef hit = view_.scene().element_at(view_.to_metres(from_), view_.reach());
        // A click into a chosen catchment goes on to the land cover there.
        if (hit.kind == Kind::Catchment && hit.id && d.selection() == std::vector<ElementRef>{hit})
            if (const std::uint64_t cover = view_.scene().cover_at(view_.to_metres(from_), hit.id))
                hit = {Kind::LandCover, cover};
        const bool add = e->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier);
        on_structure_ = hit.kind == Kind::Structure;
        if (!hit.id) {
            if (!add) d.select({});
            return;
        }
        std::vector<ElementRef> selection = d.selection();
        if (add) {
            if (d.is_selected(hit)) std::erase(selection, hit);
            else selection.push_back(hit);
        } else if (!d.is_selected(hit)) selection = {hit};
        d.select(selection);
    }
    void move(QMouseEvent* e) override {
        at_ = e->position();
        if (!down_) {
            view_.setCursor(handle_at(at_) ? Qt::SizeAllCursor : Qt::ArrowCursor);
            return;
        }
        if (!dragging_ && (at_ - from_).manhattanLength() < QApplication::startDragDistance() / 2.0) return;
        dragging_ = true;
        Document& d = document();
        if (handle_) drag_handle(e);
        else if (on_structure_) {
            const QPointF by = view_.to_metres(at_) - view_.to_metres(from_);
            d.set_pending(move_structures(d.committed(), chosen_structures(d), {by.x(), by.y()}, ground()));
            view_.set_readout("moved " + shown(std::hypot(by.x(), by.y()), Quantity::Length));
        }
        view_.update();
    }
    void release(QMouseEvent* e) override {
        if (!down_) return;
        down_ = false;
        if (!dragging_) return;
        dragging_ = false;
        view_.set_readout({});
        Document& d = document();
        if (handle_) {
            if (handle_->form == Handle::Form::PathEnd) end_path(e);
            else d.commit_pending();
            handle_.reset();
            view_.update();
            return;
        }
        if (on_structure_) {
            d.commit_pending();
            return;
        }
        const QRectF box = QRectF(view_.to_metres(from_), view_.to_metres(at_)).normalized();
        std::vector<ElementRef> inside;
        for (const std::size_t i : view_.scene().structures_in(box))
            inside.push_back({Kind::Structure, view_.scene().structures()[i].id});
        for (const std::size_t i : view_.scene().pipes_in(box)) {
            const PlanPipe& pipe = view_.scene().pipes()[i];
            if (box.contains(pipe.line.front()) && box.contains(pipe.line.back()))
                inside.push_back({Kind::Pipe, pipe.id});
        }
        d.select(inside);
        view_.update();
    }
    void double_click(QMouseEvent* e) override {
        if (const auto h = handle_at(e->position()); h && h->form == Handle::Form::Corner) take_away(*h);
    }
    bool key(QKeyEvent* e) override {
        if (e->key() != Qt::Key_Escape) return false;
        if (document().has_pending()) {
            document().cancel_pending();
            down_ = dragging_ = false;
            handle_.reset();
            view_.set_readout({});
        } else document().select({});
        return true;
    }
    void paint(QPainter& p) override {
        const Theme& t = theme();
        p.setRenderHint(QPainter::Antialiasing);
        for (const Handle& h : handles_of(document())) {
            const QPointF at = view_.to_screen({h.at.x, h.at.y});
            p.setPen(QPen(t.accent, 1.4));
            p.setBrush(h.form == Handle::Form::Between ? QBrush(Qt::NoBrush) : QBrush(t.panel));
            if (h.form == Handle::Form::PathEnd)
                p.drawPolygon(
                    QPolygonF{at + QPointF(0, -7), at + QPointF(7, 0), at + QPointF(0, 7), at + QPointF(-7, 0)});
            else if (h.form == Handle::Form::PartEnd) p.drawEllipse(at, 5, 5);
            else if (h.form == Handle::Form::Corner) p.drawRect(QRectF(at - QPointF(4, 4), QSizeF(8, 8)));
            else p.drawEllipse(at, 2.6, 2.6);
        }
        if (!dragging_ || on_structure_ || (handle_ && handle_->form != Handle::Form::PathEnd)) return;
        if (handle_) {
            p.setPen(QPen(t.accent, 1.6, Qt::DashLine));
            p.drawLine(view_.to_screen({handle_->at.x, handle_->at.y}), at_);
            return;
        }
        QColor fill = t.accent;
        fill.setAlpha(30);
        p.setPen(QPen(t.accent, 1));
        p.setBrush(fill);
        p.drawRect(QRectF(from_, at_).normalized());
    }

  private:
    [[nodiscard]] std::optional<Handle> handle_at(QPointF screen) const {
        std::optional<Handle> best;
        double away = handle_reach;
        for (const Handle& h : handles_of(document())) {
            const QPointF at = view_.to_screen({h.at.x, h.at.y});
            // Between two corners there is one only where there is room.
            const double d =
                std::hypot(at.x() - screen.x(), at.y() - screen.y()) + (h.form == Handle::Form::Between ? 1.5 : 0);
            if (d <= away) {
                away = d;
                best = h;
            }
        }
        return best;
    }
    void drag_handle(QMouseEvent* e) {
        Document& d = document();
        if (handle_->form == Handle::Form::PathEnd) {
            const Snap s = view_.snap(at_, e->modifiers());
            view_.set_readout(s.to == Snap::To::Structure
                                  ? "leads to " + text(element_name(d.project(), Kind::Structure, s.id))
                                  : QString("let go over a structure; on paper it leaves the site"));
            return;
        }
        const Project& project = d.committed();
        if (handle_->form == Handle::Form::PartEnd) {
            drag_part_end(project);
            return;
        }
        std::vector<Point> points = points_of(project, *handle_);
        const Point to = to_point(view_.snap(at_, e->modifiers()).at);
        if (handle_->form == Handle::Form::Between)
            points.insert(points.begin() + static_cast<std::ptrdiff_t>(handle_->index), to);
        else if (handle_->index < points.size()) points[handle_->index] = to;
        Editing edit(project, handle_->form == Handle::Form::Between ? "Add a corner" : "Move a corner");
        edit.set(handle_->element.kind, handle_->element.id, handle_->key, points);
        if (handle_->element.kind == Kind::Street)  // what stands on it keeps its place, and gets its station anew
            for (const Structure& row : project.structures) {
                if (row.street.value != handle_->element.id) continue;
                const Station on = station_of(points, {row.x, row.y});
                for (const auto& [key, value] : {std::pair{"station", on.station}, {"offset", on.offset}})
                    edit.set(Kind::Structure, row.id, key, std::round(value * 1000) / 1000,
                             row.origin[*field_index(Kind::Structure, key)]);
            }
        if (handle_->element.kind == Kind::BuriedLine && handle_->form == Handle::Form::Between)
            if (const BuriedLine* row = project.buried_lines.find(handle_->element.id);
                row && row->levels.size() == row->line.size() && handle_->index > 0 &&
                handle_->index < row->levels.size()) {  // the new corner lies between its neighbours
                std::vector<double> levels = row->levels;
                const auto at = static_cast<std::ptrdiff_t>(handle_->index);
                levels.insert(levels.begin() + at, (levels[handle_->index - 1] + levels[handle_->index]) / 2);
                edit.set(Kind::BuriedLine, row->id, "levels", levels);
            }
        if (handle_->element.kind == Kind::LandCover) {
            edit.set(Kind::LandCover, handle_->element.id, "area", std::round(area(points) * 10) / 10);
            view_.set_readout(shown(area(points), Quantity::Area));
        } else if (handle_->element.kind == Kind::Catchment) {
            // An area that was measured follows the outline; one that was entered stays.
            const Catchment* c = project.catchments.find(handle_->element.id);
            const double before = area(c->outline);
            if (std::abs(c->area - before) < 0.06)
                edit.set(Kind::Catchment, c->id, "area", std::round(area(points) * 10) / 10);
            view_.set_readout(shown(area(points), Quantity::Area));
        } else view_.set_readout(shown(length(points), Quantity::Length));
        d.set_pending(edit.take());
    }
    /// Where two parts of a flow path meet moves along it; lengths and slopes are measured anew.
    void drag_part_end(const Project& project) {
        const Catchment* c = project.catchments.find(handle_->element.id);
        if (!c) return;
        const double whole = length(c->flow_path);
        std::vector<double> ends = part_ends(read_parts(c->path_parts, 0.05).parts, whole);
        if (handle_->index >= ends.size()) return;
        const QPointF at = view_.to_metres(at_);
        ends[handle_->index] = station_of(c->flow_path, {at.x(), at.y()}).station;
        std::vector<std::string> remarks;
        Edit edit = measure_flow_path(project, {c->id}, {}, ground(), std::move(ends), &remarks);
        edit.name = "Move the end of a part of the flow path of " + c->name;
        document().set_pending(std::move(edit));
        const Catchment* now = document().project().catchments.find(c->id);
        QString words = now ? text(now->path_parts).replace("; ", "\n") : QString();
        for (const std::string& r : remarks) words += "\n" + text(r);
        view_.set_readout(words);
    }
    void end_path(QMouseEvent* e) {
        Document& d = document();
        const StreetPath* path = d.project().street_paths.find(handle_->element.id);
        if (!path) return;
        const Snap s = view_.snap(e->position(), e->modifiers());
        const Structure* to = s.to == Snap::To::Structure ? d.project().structures.find(s.id) : nullptr;
        if (to && to->id == path->from.value) {
            emit view_.said("A street path cannot lead to where it begins.");
            return;
        }
        if (to && to->kind == StructureKind::Outfall) {
            emit view_.said(
                "Water on the street does not enter an outfall: lead the path to an inlet, or off the site.");
            return;
        }
        Editing edit(d.project(), "Lead " + path->name + " elsewhere");
        edit.set(Kind::StreetPath, path->id, "to", to ? to->id : std::uint64_t{0});
        std::vector<Point> bends;
        if (!to) bends.push_back(to_point(s.at));
        edit.set(Kind::StreetPath, path->id, "bends", bends);
        edit.set(
            Kind::StreetPath, path->id, "name",
            element_name(d.project(), Kind::Structure, path->from.value) + (to ? " to " + to->name : " off the site"));
        d.commit(edit.take());
    }
    void take_away(const Handle& h) {
        std::vector<Point> points = points_of(document().project(), h);
        const std::size_t least =
            h.element.kind == Kind::Street || h.element.kind == Kind::BuriedLine
                ? 2
                : (h.element.kind == Kind::Catchment || h.element.kind == Kind::LandCover ? 3 : 0);
        if (h.index >= points.size() || points.size() <= least) return;
        points.erase(points.begin() + static_cast<std::ptrdiff_t>(h.index));
        Editing edit(document().project(), "Take a corner away");
        edit.set(h.element.kind, h.element.id, h.key, points);
        if (h.element.kind == Kind::BuriedLine)
            if (const BuriedLine* row = document().project().buried_lines.find(h.element.id);
                row && h.index < row->levels.size() && row->levels.size() == points.size() + 1) {
                std::vector<double> levels = row->levels;
                levels.erase(levels.begin() + static_cast<std::ptrdiff_t>(h.index));
                edit.set(Kind::BuriedLine, row->id, "levels", levels);
            }
        document().commit(edit.take());
    }

    QPointF from_, at_;
    bool down_ = false, dragging_ = false, on_structure_ = false;
    std::optional<Handle> handle_;
};

/// Moves what is selected from a place to a place, by clicks or typed distances; Esc backs out one step.
class MoveTool : public PlanTool {
  public:
    using PlanTool::PlanTool;
    [[nodiscard]] QString name() const override { return "move"; }
    [[nodiscard]] QString hint() const override {
        return "Click what to move (Ctrl adds), then from where, then to where; or type the distance";
    }
    [[nodiscard]] bool takes_places() const override { return true; }
    [[nodiscard]] std::optional<QPointF> anchor() const override { return from_; }
    void press(QMouseEvent* e) override {
        if (e->button() != Qt::LeftButton) return;
        Document& d = document();
        if (!from_ && (chosen_structures(d).empty() || e->modifiers() & Qt::ControlModifier)) {
            const ElementRef hit = view_.scene().element_at(view_.to_metres(e->position()), view_.reach());
            if (hit.kind != Kind::Structure) return;
            std::vector<ElementRef> all =
                e->modifiers() & Qt::ControlModifier ? d.selection() : std::vector<ElementRef>{};
            all.push_back(hit);
            d.select(all);
            if (!(e->modifiers() & Qt::ControlModifier)) {
                const Structure* s = d.project().structures.find(hit.id);
                from_ = QPointF(s->x, s->y);
            }
            return;
        }
        place(view_.snap(e->position(), e->modifiers(), from_), e->modifiers());
    }
    void place(const Snap& s, Qt::KeyboardModifiers) override {
        Document& d = document();
        if (chosen_structures(d).empty()) return;
        if (!from_) {
            from_ = s.at;
            return;
        }
        d.cancel_pending();
        const QPointF by = s.at - *from_;
        d.commit(move_structures(d.project(), chosen_structures(d), {by.x(), by.y()}, ground()));
        from_.reset();
        view_.set_readout({});
    }
    void move(QMouseEvent* e) override {
        if (!from_) return;
        Document& d = document();
        const QPointF by = view_.snap(e->position(), e->modifiers(), from_).at - *from_;
        d.set_pending(move_structures(d.committed(), chosen_structures(d), {by.x(), by.y()}, ground()));
        view_.set_readout("moved " + shown(std::hypot(by.x(), by.y()), Quantity::Length));
    }
    bool key(QKeyEvent* e) override {
        if (e->key() != Qt::Key_Escape) return false;
        document().cancel_pending();
        if (from_) from_.reset();
        else if (!document().selection().empty()) document().select({});
        else view_.set_tool("select");
        view_.set_readout({});
        return true;
    }

  private:
    std::optional<QPointF> from_;
};

}  // namespace

std::unique_ptr<PlanTool> make_select_tool(PlanView& view) { return std::make_unique<SelectTool>(view); }

std::unique_ptr<PlanTool> make_tool(const QString& name, PlanView& view) {
    if (name == "move") return std::make_unique<MoveTool>(view);
    for (auto* make : {&make_draw_tool, &make_line_tool, &make_pick_tool})
        if (auto tool = (*make)(name, view)) return tool;
    return make_select_tool(view);
}

QString PlanTool::shown(double si, Quantity q) const { return text(view_.document().units().text(si, q)); }
std::function<double(Point)> PlanTool::ground() const {
    return [&d = view_.document()](Point p) { return d.ground_level(p); };
}

}  // namespace culvert::app
