// SPDX-License-Identifier: GPL-3.0-or-later
// Tools that place structures: one by one, or joined with pipes as they go.
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/plan_tool.h"
#include "core/design/layout.h"
#include "core/model/lay.h"

namespace culvert::app {
namespace {

/// Water ends there: the chain that is drawn does too.
bool ends_chain(StructureKind kind) { return kind == StructureKind::Outfall || kind == StructureKind::Pond; }

/// What places structures: the kind that comes next, by key and by strip.
class StructureTool : public PlanTool {
  public:
    explicit StructureTool(PlanView& view) : PlanTool(view), kind(view.document().project().settings().default_kind) {}
    [[nodiscard]] QString name() const override { return "structure"; }
    [[nodiscard]] QString hint() const override {
        return "Click to place; on a pipe it splits it; I, M, O, J choose the kind";
    }
    [[nodiscard]] bool takes_places() const override { return true; }
    StructureKind kind;

    void press(QMouseEvent* e) override {
        if (e->button() == Qt::LeftButton) place(view_.snap(e->position(), e->modifiers(), anchor()), e->modifiers());
    }
    void place(const Snap& s, Qt::KeyboardModifiers) override {
        Document& d = document();
        if (s.to == Snap::To::Structure) {
            d.select({{Kind::Structure, s.id}});
            return;
        }
        StructureId made;
        if (s.to == Snap::To::Pipe) {
            d.commit(split_pipe(d.project(), {s.id}, s.station, kind, ground(), &made));
        } else {
            Editing e(d.project(), "");
            const Structure row = fresh(d.project(), to_point(s.at), "");
            e.insert(row);
            Edit edit = e.take();
            edit.name = "Place " + row.name;
            made = {row.id};
            d.commit(std::move(edit));
        }
        if (made) d.select({{Kind::Structure, made.value}});
    }
    void move(QMouseEvent* e) override {
        at_ = view_.snap(e->position(), e->modifiers(), anchor());
        const double level = document().ground_level(to_point(at_.at));
        view_.set_readout(at_.to == Snap::To::Pipe ? "splits the pipe here"
                          : std::isnan(level)      ? QString()
                                                   : "ground " + shown(level, Quantity::Level));
        view_.update();
    }
    bool key(QKeyEvent* e) override {
        if (e->modifiers() != Qt::NoModifier) return false;
        switch (e->key()) {
            case Qt::Key_Escape: view_.set_tool("select"); return true;
            case Qt::Key_I: return choose(StructureKind::Inlet);
            case Qt::Key_M: return choose(StructureKind::Manhole);
            case Qt::Key_O: return choose(StructureKind::Outfall);
            case Qt::Key_J: return choose(StructureKind::Joint);
            case Qt::Key_B: return choose(StructureKind::Pond);
            default: return false;
        }
    }
    void paint(QPainter& p) override { paint_hold(p); }

  protected:
    bool choose(StructureKind k) {
        kind = k;
        emit view_.tool_changed();
        view_.update();
        return true;
    }
    /// A new structure with the rim from the ground; without ground, `near`'s or the default.
    [[nodiscard]] Structure fresh(const Project& project, Point at, const std::string& near) const {
        Structure s = new_structure(project, kind, at, {document().ground_level(at)}, near);
        for (const char* key : {"name", "kind", "x", "y"}) s.origin[*field_index(Kind::Structure, key)] = Origin::Typed;
        return s;
    }
    /// A ring where the click would take hold: large on an element, crossed on a line.
    void paint_hold(QPainter& p) const {
        const QPointF to = view_.to_screen(at_.at);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(theme().accent, 2));
        p.setBrush(Qt::NoBrush);
        if (at_.to == Snap::To::Structure) p.drawEllipse(to, 13, 13);
        else if (at_.to == Snap::To::Pipe || at_.to == Snap::To::Street || at_.to == Snap::To::Background) {
            p.drawLine(to - QPointF(7, 7), to + QPointF(7, 7));
            p.drawLine(to - QPointF(7, -7), to + QPointF(7, -7));
        } else p.drawEllipse(to, 5, 5);
    }
    Snap at_;
};

/// Places structures and joins them with pipes as it goes. A click on a structure joins to it, one on a pipe splits
/// that and joins there; B or Ctrl and a click makes a bend. Each pipe is one Edit.
class DrawTool : public StructureTool {
  public:
    using StructureTool::StructureTool;
    [[nodiscard]] QString name() const override { return "draw"; }
    [[nodiscard]] QString hint() const override {
        return "Click to place and join; Ctrl+click makes a bend; I, M, O, J choose the kind; Esc ends the chain";
    }
    [[nodiscard]] std::optional<QPointF> anchor() const override {
        if (!bends_.empty()) return QPointF(bends_.back().x, bends_.back().y);
        if (const Structure* s = last()) return QPointF(s->x, s->y);
        return {};
    }
    void press(QMouseEvent* e) override {
        if (e->button() == Qt::RightButton) end();
        else StructureTool::press(e);
    }
    void place(const Snap& s, Qt::KeyboardModifiers keys) override {
        Document& d = document();
        if (!last()) last_ = 0;
        if (last_ && (keys & Qt::ControlModifier || bend_next_)) {
            bends_.push_back(to_point(s.at));
            bend_next_ = false;
            view_.update();
            return;
        }
        const std::uint64_t hit = s.to == Snap::To::Structure ? s.id : 0;
        if (hit && hit == last_) return;
        if (hit && !last_) {
            last_ = hit;
            chose_next();
            view_.update();
            return;
        }
        Trial t = tried(s);
        Edit change = std::move(t.edit);
        const bool stood = hit || s.to == Snap::To::Pipe;
        d.commit(std::move(change));
        bends_.clear();
        const Structure* now = d.project().structures.find(t.target);
        const bool ends = now && ends_chain(now->kind);
        last_ = ends || (stood && t.joined) ? 0 : t.target;
        if (ends) kind = d.project().settings().default_kind;
        else chose_next();
        d.select({{Kind::Structure, t.target}});
        emit view_.tool_changed();
        if (stood && t.pipe) emit view_.pipe_laid({t.pipe});
        view_.update();
    }
    void move(QMouseEvent* e) override {
        at_ = view_.snap(e->position(), e->modifiers(), anchor());
        read_out();
        view_.update();
    }
    bool key(QKeyEvent* e) override {
        if (e->modifiers() == Qt::NoModifier && e->key() == Qt::Key_B && last_) {
            bend_next_ = true;
            view_.set_readout("the next click makes a bend");
            return true;
        }
        if (e->modifiers() == Qt::NoModifier && e->key() == Qt::Key_Escape) {
            if (bend_next_) bend_next_ = false;
            else if (!bends_.empty()) bends_.pop_back();
            else if (last_) end();
            else view_.set_tool("select");
            view_.update();
            return true;
        }
        return StructureTool::key(e);
    }
    void paint(QPainter& p) override {
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(theme().accent, 1.6, Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        if (const Structure* s = last()) {
            QPolygonF line{view_.to_screen({s->x, s->y})};
            for (const Point& b : bends_) line << view_.to_screen({b.x, b.y});
            line << view_.to_screen(at_.at);
            p.drawPolyline(line);
        }
        paint_hold(p);
    }

  private:
    struct Trial {
        Edit edit;
        std::uint64_t target = 0, pipe = 0;
        bool joined = false;  ///< already, by a pipe that stood
    };
    [[nodiscard]] const Structure* last() const { return document().project().structures.find(last_); }

    /// The Edit that a click would make: for the click, and for the readout before it.
    [[nodiscard]] Trial tried(const Snap& s) const {
        const Project& project = document().project();
        Trial t;
        Edit before;
        if (s.to == Snap::To::Structure) t.target = s.id;
        else if (s.to == Snap::To::Pipe) {
            StructureId made;
            before = split_pipe(project, {s.id}, s.station,
                                kind == StructureKind::Inlet ? StructureKind::Manhole : kind, ground(), &made);
            t.target = made.value;
        }
        Project split = project;
        apply(split, before);
        Editing e(split, "");
        const Structure* from = last();
        std::string words;
        if (!t.target) {
            Structure row = fresh(project, to_point(s.at), from ? from->name : "");
            const Settings& set = project.settings();
            if (row.origin[*field_index(Kind::Structure, "rim")] != Origin::Ground && from && !std::isnan(from->rim))
                row.rim =
                    std::round((from->rim - set.default_slope * std::hypot(row.x - from->x, row.y - from->y)) * 1000) /
                    1000;
            t.target = row.id;
            words = "Draw " + row.name;
            e.insert(std::move(row));
        } else
            words =
                s.to == Snap::To::Pipe ? before.name : "Join to " + element_name(project, Kind::Structure, t.target);
        if (from) {
            const StructureId a{from->id}, b{t.target};
            bool there = false;
            for (const Pipe& p : project.pipes) there |= (p.from == a && p.to == b) || (p.to == a && p.from == b);
            if (!there) {
                // Where the chain began at a structure that has its way down, the new pipe comes from above.
                const bool upward = leads_on(project, a) && !leads_on(split, b) && s.to == Snap::To::Free &&
                                    !ends_chain(e.now().structures.find(b.value)->kind);
                std::vector<Point> bends = bends_;
                if (upward) std::reverse(bends.begin(), bends.end());
                Pipe pipe =
                    upward ? laid_pipe(e.now(), b, a, std::move(bends)) : laid_pipe(e.now(), a, b, std::move(bends));
                t.pipe = pipe.id;
                e.insert(std::move(pipe));
            }
            t.joined = there;
        }
        Edit after = e.take();
        t.edit.name = words;
        t.edit.changes = std::move(before.changes);
        t.edit.changes.insert(t.edit.changes.end(), std::make_move_iterator(after.changes.begin()),
                              std::make_move_iterator(after.changes.end()));
        return t;
    }
    static bool leads_on(const Project& project, StructureId s) {
        const Structure* row = project.structures.find(s.value);
        if (row && ends_chain(row->kind)) return true;
        for (const Pipe& p : project.pipes)
            if (p.from == s) return true;
        return false;
    }
    void read_out() {
        const Structure* from = last();
        if (!from) {
            const double level = document().ground_level(to_point(at_.at));
            view_.set_readout(at_.to == Snap::To::Pipe ? "splits the pipe and begins here"
                              : std::isnan(level)      ? QString()
                                                       : "ground " + shown(level, Quantity::Level));
            return;
        }
        if (bend_next_) return;
        const Trial t = tried(at_);
        Project then = document().project();
        apply(then, t.edit);
        const Pipe* p = then.pipes.find(t.pipe);
        if (!p) {
            view_.set_readout(at_.to == Snap::To::Structure ? "already joined" : QString());
            return;
        }
        const Structure *a = then.structures.find(p->from.value), *b = then.structures.find(p->to.value);
        const double l = length_of(then, *p), high = p->size + p->wall;
        QString out = shown(l, Quantity::Length) + " at " +
                      shown((p->invert_from - p->invert_to) / l, Quantity::Slope) + ", falls " +
                      shown(p->invert_from - p->invert_to, Quantity::Length) + "\n" + "invert " +
                      text(document().units().number(p->invert_from, Quantity::Level)) + " to " +
                      shown(p->invert_to, Quantity::Level) + "\ncover " +
                      text(document().units().number(a->rim - p->invert_from - high, Quantity::Length)) + " to " +
                      shown(b->rim - p->invert_to - high, Quantity::Length);
        if (at_.to == Snap::To::Free && !document().site().ground().empty() &&
            std::isnan(document().ground_level(to_point(at_.at))))
            out += "\noff the surface: its rim goes on from the last";
        view_.set_readout(out);
    }
    void chose_next() {
        if (kind == StructureKind::Inlet) kind = StructureKind::Manhole;
    }
    void end() {
        last_ = 0;
        bends_.clear();
        bend_next_ = false;
        kind = document().project().settings().default_kind;
        view_.set_readout({});
        emit view_.tool_changed();
        view_.update();
    }
    std::uint64_t last_ = 0;
    std::vector<Point> bends_;
    bool bend_next_ = false;
};

}  // namespace

std::unique_ptr<PlanTool> make_draw_tool(const QString& name, PlanView& view) {
    if (name == "structure") return std::make_unique<StructureTool>(view);
    if (name == "draw") return std::make_unique<DrawTool>(view);
    return nullptr;
}

void set_draw_kind(PlanView& view, StructureKind kind) {
    if (view.tool_name() != "draw" && view.tool_name() != "structure") view.set_tool("draw");
    if (auto* tool = dynamic_cast<StructureTool*>(&view.tool())) tool->kind = kind;
    emit view.tool_changed();
}
StructureKind draw_kind(PlanView& view) {
    const auto* tool = dynamic_cast<StructureTool*>(&view.tool());
    return tool ? tool->kind : StructureKind::Inlet;
}

}  // namespace culvert::app
