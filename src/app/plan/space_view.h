// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>
#include <array>

#include "app/desk/document.h"

namespace culvert::app {

/// The site in space, to turn: ground as a net, structures, pipes by verdict, other lines under ground, clashes. It is
/// seen from so far that parallel lines stay parallel, heights drawn out, and painted without help of a graphics card.
///
/// Drag turns it, with Shift (or the middle button) moves it; the wheel zooms; a click selects what is nearest, a
/// double click shows all of it. Keys: arrows turn, + and - zoom, 0 shows all, Page up and down draw heights out.
class SpaceView : public QWidget {
    Q_OBJECT
  public:
    explicit SpaceView(Document& document, QWidget* parent = nullptr);
    /// Where a place stands on screen.
    [[nodiscard]] QPointF to_screen(double x, double y, double z) const;
    void turn(double degrees_round, double degrees_up);
    void zoom_at(QPointF at, double factor);
    void show_all();
    void set_exaggeration(double times);
    [[nodiscard]] double exaggeration() const { return times_; }
    [[nodiscard]] double round() const { return round_; }
    [[nodiscard]] double up() const { return up_; }
    [[nodiscard]] ElementRef element_at(QPointF at) const;
    /// Names that the last frame wrote, with their boxes; for tests.
    [[nodiscard]] const std::vector<std::pair<QString, QRectF>>& names() const { return names_; }
    [[nodiscard]] std::size_t ground_cells() const { return cells_.size(); }

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override;

  private:
    struct Place {
        double x, y, z;
    };
    struct Cell {
        std::array<Place, 4> corners;
        double light;  ///< of its slope, 0 to 1
    };
    /// One straight piece of a pipe, a structure or a buried line.
    struct Piece {
        ElementRef element;
        Place a, b;
        double width;  ///< m, outside
    };
    void gather();
    void fit();
    void paint_ground(QPainter& p) const;
    void paint_pieces(QPainter& p);
    void paint_clashes(QPainter& p) const;
    void paint_names(QPainter& p);
    void paint_compass(QPainter& p) const;
    [[nodiscard]] double depth_of(const Place& p) const;
    [[nodiscard]] QPointF to_screen(const Place& p) const { return to_screen(p.x, p.y, p.z); }

    Document& document_;
    std::vector<Cell> cells_;
    std::vector<Piece> pieces_;
    Place middle_{0, 0, 0};
    double width_ = 100, height_ = 10;   ///< m of what there is: across in plan, and in height
    double round_ = 30, up_ = 35;        ///< degrees: from where it is seen
    double scale_ = 1, times_ = 5;       ///< pixels a metre; heights drawn out
    QPointF shift_;                      ///< pixels
    double length_ = 40, spacing_ = 40;  ///< of a usual pipe, m, and pixels on screen: what there is room for
    bool dirty_ = true, fitted_ = false;
    std::vector<std::pair<QString, QRectF>> names_;
    QPointF pressed_, last_;
    bool down_ = false, moved_ = false, shifting_ = false;
};

}  // namespace culvert::app
