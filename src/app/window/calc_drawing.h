// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

#include "report/calc.h"

namespace culvert::app {

/// Beneath the answers of a quick question: the section that a row is about, with its water; and where one value runs,
/// the first result as a curve over it, the row pointed at marked.
class CalcDrawing : public QWidget {
    Q_OBJECT
  public:
    explicit CalcDrawing(QWidget* parent = nullptr);
    /// @param units  that its numbers are shown in
    void show_table(const CalcTable& table, const UnitSet& units);
    void show_row(int row);
    [[nodiscard]] int row() const { return row_; }
    /// What the section drawn is: "street", "pipe" or nothing.
    [[nodiscard]] QString section() const;
    [[nodiscard]] bool has_curve() const { return !table_.ranged.empty() && table_.rows.size() > 1; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    [[nodiscard]] double value(int row, std::string_view key) const;
    void paint_street(QPainter& p, const QRectF& box) const;
    void paint_pipe(QPainter& p, const QRectF& box) const;
    void paint_curve(QPainter& p, const QRectF& box) const;
    CalcTable table_;
    UnitSet units_;
    int row_ = 0;
};

}  // namespace culvert::app
