// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

#include "app/desk/document.h"
#include "app/desk/task.h"
#include "app/kit/when_seen.h"
#include "drawing/profile.h"

namespace culvert::app {

/// The run through the selection and every branch down to where it joins, side by side at one level scale: where in a
/// whole network the grade line meets a crown or a rim is seen at a glance. A click selects, a double click opens the
/// profile of that branch; the wheel zooms along, a drag moves.
class BranchStrip : public QWidget {
    Q_OBJECT
  public:
    explicit BranchStrip(Document& document, QWidget* parent = nullptr);
    /// The run first, then its branches from its head down, each followed by its own.
    [[nodiscard]] const std::vector<Profile>& runs() const { return runs_; }
    /// Place of a run on screen.
    [[nodiscard]] QRectF place_of(std::size_t run) const;
    [[nodiscard]] QPointF to_screen(std::size_t run, Point at) const;

  signals:
    void opened(culvert::ElementRef element);
    void menu_wanted(culvert::ElementRef element, QPoint at);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void resizeEvent(QResizeEvent*) override;

  private:
    void seek();
    void lay_out();
    [[nodiscard]] ElementRef element_at(QPointF at) const;
    [[nodiscard]] bool holds(ElementRef element) const;
    void paint_run(QPainter& p, std::size_t run);
    Document& document_;
    std::vector<Profile> runs_;
    std::size_t left_out_ = 0;
    ElementRef through_;
    std::vector<double> begins_;  ///< of the runs, in pixels of the whole strip
    double low_ = 0, high_ = 1, across_ = 1, whole_ = 0, zoom_ = 1, offset_ = 0;
    QPointF pressed_;
    bool down_ = false, moved_ = false, cut_ = false;
    WhenSeen refresh_;
    Task worker_{this};
};

}  // namespace culvert::app
