// SPDX-License-Identifier: GPL-3.0-or-later
#include <QApplication>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>
#include <set>

#include "app/plan_view.h"
#include "app/theme.h"
#include "core/model/lay.h"

namespace culvert::app {
namespace {

QString length_text(PlanView& v, double m) { return text(v.document().units().text(m, Quantity::Length)); }

/// Click selects, Ctrl adds, a drag over paper selects what it encloses, a drag on a structure moves the selection.
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
        Document& d = view_.document();
        const ElementRef hit = view_.scene().element_at(view_.to_metres(from_), view_.reach());
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
        if (!down_) return;
        if (!dragging_ && (at_ - from_).manhattanLength() < QApplication::startDragDistance() / 2.0) return;
        dragging_ = true;
        Document& d = view_.document();
        if (on_structure_) {
            const QPointF by = view_.to_metres(at_) - view_.to_metres(from_);
            d.cancel_pending();
            Editing edit(d.project(), "Move");
            for (const ElementRef s : d.selection()) {
                if (s.kind != Kind::Structure) continue;
                const Structure* row = d.project().structures.find(s.id);
                const auto to_mm = [](double v) { return std::round(v * 1000) / 1000; };
                edit.set(Kind::Structure, s.id, "x", to_mm(row->x + by.x()));
                edit.set(Kind::Structure, s.id, "y", to_mm(row->y + by.y()));
            }
            d.set_pending(edit.take());
            view_.set_readout("moved " + length_text(view_, std::hypot(by.x(), by.y())));
        }
        view_.update();
    }
    void release(QMouseEvent*) override {
        if (!down_) return;
        down_ = false;
        if (!dragging_) return;
        dragging_ = false;
        view_.set_readout({});
        Document& d = view_.document();
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
    bool key(QKeyEvent* e) override {
        if (e->key() != Qt::Key_Escape) return false;
        if (view_.document().has_pending()) {
            view_.document().cancel_pending();
            down_ = dragging_ = false;
            view_.set_readout({});
        } else view_.document().select({});
        return true;
    }
    void paint(QPainter& p) override {
        if (!dragging_ || on_structure_) return;
        QColor fill = theme().accent;
        fill.setAlpha(30);
        p.setPen(QPen(theme().accent, 1));
        p.setBrush(fill);
        p.drawRect(QRectF(from_, at_).normalized());
    }

  private:
    QPointF from_, at_;
    bool down_ = false, dragging_ = false, on_structure_ = false;
};

}  // namespace

/// Places structures and joins them with pipes as it goes. A click on a structure joins to it. Each click is one Edit.
class DrawTool : public PlanTool {
  public:
    using PlanTool::PlanTool;
    [[nodiscard]] QString name() const override { return "draw"; }
    [[nodiscard]] QString hint() const override {
        return "Click to place and join; I, M, O, J choose the kind; Esc ends the chain";
    }
    StructureKind kind = StructureKind::Inlet;

    void press(QMouseEvent* e) override {
        if (e->button() == Qt::RightButton) {
            end();
            return;
        }
        if (e->button() != Qt::LeftButton) return;
        std::uint64_t hit = 0;
        const QPointF at = view_.snapped(e->position(), &hit);
        Document& d = view_.document();
        const Structure* last = d.project().structures.find(last_);
        if (!last) last_ = 0;
        if (hit && hit == last_) return;
        if (hit && !last_) {
            last_ = hit;
            became_manhole();
            view_.update();
            return;
        }
        Editing edit(d.project(), "");
        Structure s;
        if (!hit) {
            s.id = random_id();
            s.kind = static_cast<int>(kind);
            const auto to_mm = [](double v) { return std::round(v * 1000) / 1000; };
            s.x = to_mm(at.x());
            s.y = to_mm(at.y());
            s.name = last ? next_structure_name(d.project(), last->name) : next_branch(d.project()) + "1";
            const Settings& set = d.project().settings();
            s.rim = last && !std::isnan(last->rim)
                        ? to_mm(last->rim - set.default_slope * std::hypot(s.x - last->x, s.y - last->y))
                        : set.default_rim;
            for (const char* key : {"name", "kind", "x", "y"})
                s.origin[*field_index(Kind::Structure, key)] = Origin::Typed;
            edit.insert(s);
        }
        const std::uint64_t target = hit ? hit : s.id;
        bool joined = false;
        if (last_) {
            for (const Pipe& p : d.project().pipes)
                joined |=
                    (p.from.value == last_ && p.to.value == target) || (p.to.value == last_ && p.from.value == target);
            if (!joined) edit.insert(laid_pipe(edit.now(), {last_}, {target}));
        }
        Edit change = edit.take();
        change.name = hit ? "Join to " + element_name(d.project(), Kind::Structure, hit) : "Draw " + s.name;
        d.commit(std::move(change));
        const Structure* now = d.project().structures.find(target);
        const bool ends = now && now->kind == static_cast<int>(StructureKind::Outfall);
        last_ = ends || (hit && joined) ? 0 : target;
        if (ends) kind = StructureKind::Inlet;
        else became_manhole();
        d.select({{Kind::Structure, target}});
        emit view_.tool_changed();
        view_.update();
    }
    void move(QMouseEvent* e) override {
        at_ = e->position();
        const Structure* last = view_.document().project().structures.find(last_);
        if (last) {
            const QPointF to = view_.snapped(at_);
            const double length = std::hypot(to.x() - last->x, to.y() - last->y);
            const Settings& s = view_.document().project().settings();
            view_.set_readout(length_text(view_, length) + " at " +
                              text(view_.document().units().text(s.default_slope, Quantity::Slope)) + ", falls " +
                              length_text(view_, s.default_slope * length));
        } else view_.set_readout({});
        view_.update();
    }
    bool key(QKeyEvent* e) override {
        if (e->modifiers() != Qt::NoModifier) return false;
        switch (e->key()) {
            case Qt::Key_Escape:
                if (last_) end();
                else view_.set_tool("select");
                return true;
            case Qt::Key_I: return choose(StructureKind::Inlet);
            case Qt::Key_M: return choose(StructureKind::Manhole);
            case Qt::Key_O: return choose(StructureKind::Outfall);
            case Qt::Key_J: return choose(StructureKind::Joint);
            default: return false;
        }
    }
    void paint(QPainter& p) override {
        std::uint64_t hit = 0;
        const QPointF to = view_.to_screen(view_.snapped(at_, &hit));
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(theme().accent, 1.6, Qt::DashLine));
        if (const Structure* last = view_.document().project().structures.find(last_))
            p.drawLine(view_.to_screen({last->x, last->y}), to);
        p.setPen(QPen(theme().accent, 2));
        p.setBrush(Qt::NoBrush);
        if (hit) p.drawEllipse(to, 13, 13);
        else p.drawEllipse(to, 5, 5);
    }

  private:
    bool choose(StructureKind k) {
        kind = k;
        emit view_.tool_changed();
        view_.update();
        return true;
    }
    void became_manhole() {
        if (kind == StructureKind::Inlet) kind = StructureKind::Manhole;
    }
    void end() {
        last_ = 0;
        kind = StructureKind::Inlet;
        view_.set_readout({});
        emit view_.tool_changed();
        view_.update();
    }
    std::uint64_t last_ = 0;
    QPointF at_;
};

namespace {

/// Draws a catchment corner by corner; a double click or Enter closes it. It drains to the nearest inlet.
class AreaTool : public PlanTool {
  public:
    using PlanTool::PlanTool;
    [[nodiscard]] QString name() const override { return "area"; }
    [[nodiscard]] QString hint() const override {
        return "Click the corners of a catchment; Enter or a double click closes it";
    }

    void press(QMouseEvent* e) override {
        if (e->button() != Qt::LeftButton) return;
        const QPointF at = view_.to_metres(e->position());
        corners_.push_back({std::round(at.x() * 1000) / 1000, std::round(at.y() * 1000) / 1000});
        view_.update();
    }
    void double_click(QMouseEvent*) override { close(); }
    void move(QMouseEvent* e) override {
        at_ = e->position();
        if (corners_.size() >= 2) {
            std::vector<Point> all = corners_;
            const QPointF to = view_.to_metres(at_);
            all.push_back({to.x(), to.y()});
            view_.set_readout(text(view_.document().units().text(area(all), Quantity::Area)));
        }
        view_.update();
    }
    bool key(QKeyEvent* e) override {
        if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) {
            close();
            return true;
        }
        if (e->key() == Qt::Key_Escape) {
            if (corners_.empty()) view_.set_tool("select");
            else corners_.pop_back();
            view_.update();
            return true;
        }
        return false;
    }
    void paint(QPainter& p) override {
        p.setRenderHint(QPainter::Antialiasing);
        QPolygonF polygon;
        for (const Point& c : corners_) polygon << view_.to_screen({c.x, c.y});
        polygon << at_;
        p.setPen(QPen(theme().accent, 1.6, Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(polygon);
    }

  private:
    void close() {
        if (corners_.size() < 3) return;
        Document& d = view_.document();
        const Point middle = centre(corners_);
        Catchment c;
        c.id = random_id();
        c.outline = corners_;
        c.area = std::round(area(corners_) * 10) / 10;
        std::set<std::string> used;
        for (const Catchment& other : d.project().catchments) used.insert(other.name);
        for (int k = 1; c.name.empty() || used.contains(c.name); ++k) c.name = "Area " + std::to_string(k);
        double nearest = 1e300;
        for (const Structure& s : d.project().structures) {
            const double away = distance({s.x, s.y}, middle);
            if (s.kind == static_cast<int>(StructureKind::Inlet) && away < nearest) {
                nearest = away;
                c.structure = {s.id};
            }
        }
        Editing edit(d.project(), "Draw " + c.name);
        edit.insert(c);
        corners_.clear();
        view_.set_readout({});
        d.commit(edit.take());
        d.select({{Kind::Catchment, c.id}});
    }
    std::vector<Point> corners_;
    QPointF at_;
};

/// Distance from point to point; levels where it snaps to structures.
class MeasureTool : public PlanTool {
  public:
    using PlanTool::PlanTool;
    [[nodiscard]] QString name() const override { return "measure"; }
    [[nodiscard]] QString hint() const override { return "Click points; Esc starts anew"; }
    void press(QMouseEvent* e) override {
        points_.push_back(view_.snapped(e->position()));
        move(e);
    }
    void move(QMouseEvent* e) override {
        at_ = view_.snapped(e->position());
        double sum = 0, last = 0;
        for (std::size_t i = 0; i < points_.size(); ++i) {
            const QPointF next = i + 1 < points_.size() ? points_[i + 1] : at_;
            last = std::hypot(next.x() - points_[i].x(), next.y() - points_[i].y());
            sum += last;
        }
        view_.set_readout(points_.empty()
                              ? QString()
                              : length_text(view_, last) +
                                    (points_.size() > 1 ? ", in all " + length_text(view_, sum) : QString()));
        view_.update();
    }
    bool key(QKeyEvent* e) override {
        if (e->key() != Qt::Key_Escape) return false;
        if (points_.empty()) view_.set_tool("select");
        points_.clear();
        view_.set_readout({});
        view_.update();
        return true;
    }
    void paint(QPainter& p) override {
        QPolygonF line;
        for (const QPointF& q : points_) line << view_.to_screen(q);
        line << view_.to_screen(at_);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(theme().accent, 1.6, Qt::DashLine));
        if (points_.size() > 0) p.drawPolyline(line);
    }

  private:
    std::vector<QPointF> points_;
    QPointF at_;
};

}  // namespace

std::unique_ptr<PlanTool> make_tool(const QString& name, PlanView& view) {
    if (name == "draw") return std::make_unique<DrawTool>(view);
    if (name == "area") return std::make_unique<AreaTool>(view);
    if (name == "measure") return std::make_unique<MeasureTool>(view);
    return std::make_unique<SelectTool>(view);
}

void set_draw_kind(PlanView& view, StructureKind kind) {
    if (view.tool_name() != "draw") view.set_tool("draw");
    if (auto* tool = dynamic_cast<DrawTool*>(&view.tool())) tool->kind = kind;
    emit view.tool_changed();
}
StructureKind draw_kind(PlanView& view) {
    const auto* tool = dynamic_cast<DrawTool*>(&view.tool());
    return tool ? tool->kind : StructureKind::Inlet;
}

}  // namespace culvert::app
