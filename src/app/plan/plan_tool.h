// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include "app/plan/plan_view.h"

namespace culvert::app {

/// A tool of the plan: takes mouse and keys, paints its preview over the plan. Esc backs out one step.
class PlanTool {
  public:
    explicit PlanTool(PlanView& view) : view_(view) {}
    virtual ~PlanTool() = default;
    PlanTool(const PlanTool&) = delete;
    PlanTool& operator=(const PlanTool&) = delete;
    [[nodiscard]] virtual QString name() const = 0;
    [[nodiscard]] virtual QString hint() const = 0;
    virtual void press(QMouseEvent*) {}
    virtual void move(QMouseEvent*) {}
    virtual void release(QMouseEvent*) {}
    virtual void double_click(QMouseEvent*) {}
    virtual bool key(QKeyEvent*) { return false; }  ///< true: taken
    virtual void paint(QPainter&) {}

    /// Tools that take places can take typed ones: a length, "length<angle", or "x, y" ("@dx, dy" from the last place).
    [[nodiscard]] virtual bool takes_places() const { return false; }
    /// Where the last place was; typed lengths count from there.
    [[nodiscard]] virtual std::optional<QPointF> anchor() const { return {}; }
    virtual void place(const Snap&, Qt::KeyboardModifiers) {}

  protected:
    [[nodiscard]] Document& document() const { return view_.document(); }
    [[nodiscard]] QString shown(double si, Quantity q) const;
    /// Level of the ground as a function for core/design.
    [[nodiscard]] std::function<double(Point)> ground() const;
    PlanView& view_;
};

/// "select", "structure", "draw", "area", "cut", "street", "path", "move", "reverse", "split", "merge", "delete",
/// "trace", "measure".
std::unique_ptr<PlanTool> make_tool(const QString& name, PlanView& view);
std::unique_ptr<PlanTool> make_select_tool(PlanView& view);
std::unique_ptr<PlanTool> make_draw_tool(const QString& name, PlanView& view);
std::unique_ptr<PlanTool> make_line_tool(const QString& name, PlanView& view);
std::unique_ptr<PlanTool> make_pick_tool(const QString& name, PlanView& view);

/// The kind of structure that the draw tools place next.
void set_draw_kind(PlanView& view, StructureKind kind);
StructureKind draw_kind(PlanView& view);

inline Point to_point(QPointF p) { return {std::round(p.x() * 1000) / 1000, std::round(p.y() * 1000) / 1000}; }

}  // namespace culvert::app
