// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

#include "app/desk/document.h"
#include "core/model/catchment_time.h"

namespace culvert::app {

/// A section through the ground: along the selected street, pipe, street path or flow path of a catchment; where
/// nothing is selected, across the site from west to east. For a flow path it says length, fall and slope.
class SectionView : public QWidget {
    Q_OBJECT
  public:
    SectionView(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] QString title() const { return title_; }
    [[nodiscard]] QString readout() const { return readout_; }
    [[nodiscard]] const std::vector<Point>& line() const { return line_; }
    /// Distance and level of the existing, or the finished ground.
    [[nodiscard]] const std::vector<Point>& ground(bool finished) const { return finished ? finished_ : existing_; }
    [[nodiscard]] QPointF to_screen(double distance, double level) const;

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;

  private:
    void rebuild();
    void choose_line();
    void paint_parts(QPainter& p);
    [[nodiscard]] QRectF plot() const;
    Document& document_;
    std::vector<Point> line_, existing_, finished_;
    double length_ = 1, low_ = 0, high_ = 1, time_ = not_given;
    bool dirty_ = true, flow_path_ = false;
    struct Part {
        double end;
        FlowPart part;
        double time;
    };
    std::vector<Part> parts_;
    QString title_, readout_;
};

}  // namespace culvert::app
