// SPDX-License-Identifier: GPL-3.0-or-later
// Tools that do one thing to the element under a click.
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/plan_tool.h"
#include "core/design/layout.h"

namespace culvert::app {
namespace {

/// What they share: the element under the pointer is marked, Esc leaves.
class PickTool : public PlanTool {
  public:
    using PlanTool::PlanTool;
    void move(QMouseEvent* e) override {
        at_ = e->position();
        over_ = wanted(view_.scene().element_at(view_.to_metres(at_), view_.reach()));
        view_.set_readout(over_.id ? words(over_) : QString());
        view_.update();
    }
    void press(QMouseEvent* e) override {
        if (e->button() != Qt::LeftButton) return;
        at_ = e->position();
        const ElementRef hit = wanted(view_.scene().element_at(view_.to_metres(at_), view_.reach()));
        if (hit.id) pick(hit);
        over_ = {};
        view_.set_readout({});
    }
    bool key(QKeyEvent* e) override {
        if (e->key() != Qt::Key_Escape) return false;
        view_.set_tool("select");
        return true;
    }
    void paint(QPainter& p) override {
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(theme().accent, 2));
        p.setBrush(Qt::NoBrush);
        if (over_.kind == Kind::Structure)
            if (const Structure* s = document().project().structures.find(over_.id))
                p.drawEllipse(view_.to_screen({s->x, s->y}), 13, 13);
        if (over_.kind == Kind::Pipe) {
            const auto on = view_.scene().pipe_near(view_.to_metres(at_), view_.reach() * 2);
            if (on.id) p.drawEllipse(view_.to_screen(on.at), 6, 6);
        }
    }

  protected:
    /// The element if this tool has a use for it, else none.
    [[nodiscard]] virtual ElementRef wanted(ElementRef hit) const = 0;
    [[nodiscard]] virtual QString words(ElementRef hit) const = 0;
    virtual void pick(ElementRef hit) = 0;
    [[nodiscard]] QString name_of_element(ElementRef e) const {
        return text(element_name(document().project(), e.kind, e.id));
    }
    QPointF at_;
    ElementRef over_;
};

class ReverseTool : public PickTool {
  public:
    using PickTool::PickTool;
    [[nodiscard]] QString name() const override { return "reverse"; }
    [[nodiscard]] QString hint() const override { return "Click a pipe: its drawn start and end are exchanged"; }

  protected:
    [[nodiscard]] ElementRef wanted(ElementRef e) const override { return e.kind == Kind::Pipe ? e : ElementRef{}; }
    [[nodiscard]] QString words(ElementRef e) const override { return "reverse " + name_of_element(e); }
    void pick(ElementRef e) override {
        document().select({e});
        document().commit(reverse_pipe(document().project(), {e.id}));
    }
};

/// Splits a pipe where it is clicked, or at a typed distance from its start.
class SplitTool : public PickTool {
  public:
    using PickTool::PickTool;
    [[nodiscard]] QString name() const override { return "split"; }
    [[nodiscard]] QString hint() const override { return "Click a pipe where it is to be split"; }
    [[nodiscard]] bool takes_places() const override { return over_.id != 0; }
    [[nodiscard]] std::optional<QPointF> anchor() const override {
        const Pipe* p = document().project().pipes.find(over_.id);
        const Structure* s = p ? document().project().structures.find(p->from.value) : nullptr;
        return s ? std::optional<QPointF>(QPointF(s->x, s->y)) : std::nullopt;
    }
    void place(const Snap& s, Qt::KeyboardModifiers) override {
        const auto on = view_.scene().pipe_near(s.at, view_.reach() * 3);
        if (on.id) split(on);
    }

  protected:
    [[nodiscard]] ElementRef wanted(ElementRef e) const override { return e.kind == Kind::Pipe ? e : ElementRef{}; }
    [[nodiscard]] QString words(ElementRef e) const override {
        const auto on = view_.scene().pipe_near(view_.to_metres(at_), view_.reach() * 2);
        return "split " + name_of_element(e) + " at " + shown(on.station, Quantity::Length);
    }
    void pick(ElementRef) override {
        const auto on = view_.scene().pipe_near(view_.to_metres(at_), view_.reach() * 2);
        if (on.id) split(on);
    }
    void split(const PlanScene::OnLine& on) {
        StructureId made;
        document().commit(
            split_pipe(document().project(), {on.id}, on.station, StructureKind::Manhole, ground(), &made));
        if (made) document().select({{Kind::Structure, made.value}});
    }
};

class MergeTool : public PickTool {
  public:
    using PickTool::PickTool;
    [[nodiscard]] QString name() const override { return "merge"; }
    [[nodiscard]] QString hint() const override {
        return "Click an inline joint or a manhole: its two pipes become one";
    }

  protected:
    [[nodiscard]] ElementRef wanted(ElementRef e) const override {
        return e.kind == Kind::Structure ? e : ElementRef{};
    }
    [[nodiscard]] QString words(ElementRef e) const override {
        std::string why;
        return merge_at(document().project(), {e.id}, &why).empty() ? "not merged: " + text(why)
                                                                    : "merge over " + name_of_element(e);
    }
    void pick(ElementRef e) override {
        std::string why;
        Edit edit = merge_at(document().project(), {e.id}, &why);
        if (edit.empty()) emit view_.said("Not merged: " + text(why) + ".");
        else document().commit(std::move(edit));
    }
};

class DeleteTool : public PickTool {
  public:
    using PickTool::PickTool;
    [[nodiscard]] QString name() const override { return "delete"; }
    [[nodiscard]] QString hint() const override { return "Click what is to go; what hangs on it goes too"; }

  protected:
    [[nodiscard]] ElementRef wanted(ElementRef e) const override { return e; }
    [[nodiscard]] QString words(ElementRef e) const override { return "delete " + name_of_element(e); }
    void pick(ElementRef e) override {
        Editing edit(document().project(), "Delete " + element_name(document().project(), e.kind, e.id));
        edit.remove(e.kind, e.id);
        document().commit(edit.take());
    }
};

/// Takes lines of the background for pipes: click chooses (again leaves it), Enter shows what they would become.
class TraceTool : public PlanTool {
  public:
    using PlanTool::PlanTool;
    [[nodiscard]] QString name() const override { return "trace"; }
    [[nodiscard]] QString hint() const override {
        return "Click lines of the background; Enter shows the pipes that they become";
    }
    void press(QMouseEvent* e) override {
        if (e->button() != Qt::LeftButton) return;
        QPointF place;
        const int line = view_.background().near(view_.to_metres(e->position()), view_.reach(), place);
        if (line < 0) return;
        const auto i = static_cast<std::size_t>(line);
        if (std::erase(lines_, i) == 0) lines_.push_back(i);
        view_.set_readout(QString::number(lines_.size()) + (lines_.size() == 1 ? " line" : " lines") +
                          "; Enter makes pipes");
        view_.update();
    }
    bool key(QKeyEvent* e) override {
        if (e->key() == Qt::Key_Escape) {
            if (lines_.empty()) view_.set_tool("select");
            else lines_.pop_back();
            view_.update();
            return true;
        }
        if ((e->key() != Qt::Key_Return && e->key() != Qt::Key_Enter) || lines_.empty()) return false;
        std::vector<std::vector<Point>> lines;
        for (const std::size_t i : lines_) {
            if (i >= view_.background().lines().size()) continue;
            auto& line = lines.emplace_back();
            for (const QPointF& p : view_.background().lines()[i].points) line.push_back({p.x(), p.y()});
        }
        FromLines made = pipes_from_lines(document().project(), lines, 0.1, ground());
        if (made.edit.empty())
            emit view_.said("These lines make no pipe: they are too short, or pipes lie there already.");
        else
            emit view_.preview_wanted(QString("%1 pipes and %2 structures from %3 lines")
                                          .arg(made.pipes)
                                          .arg(made.structures)
                                          .arg(lines.size()),
                                      made.edit);
        lines_.clear();
        view_.set_readout({});
        return true;
    }
    void paint(QPainter& p) override {
        p.setRenderHint(QPainter::Antialiasing);
        QColor glow = theme().accent;
        glow.setAlpha(120);
        p.setPen(QPen(glow, 5));
        for (const std::size_t i : lines_) {
            if (i >= view_.background().lines().size()) continue;
            QPolygonF line;
            for (const QPointF& q : view_.background().lines()[i].points) line << view_.to_screen(q);
            p.drawPolyline(line);
        }
    }

  private:
    std::vector<std::size_t> lines_;
};

}  // namespace

std::unique_ptr<PlanTool> make_pick_tool(const QString& name, PlanView& view) {
    if (name == "reverse") return std::make_unique<ReverseTool>(view);
    if (name == "split") return std::make_unique<SplitTool>(view);
    if (name == "merge") return std::make_unique<MergeTool>(view);
    if (name == "delete") return std::make_unique<DeleteTool>(view);
    if (name == "trace") return std::make_unique<TraceTool>(view);
    return nullptr;
}

}  // namespace culvert::app
