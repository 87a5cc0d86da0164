// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

#include "app/desk/document.h"
#include "core/hydrology/idf_fit.h"

class QComboBox;

namespace culvert::app {

/// Rain as curves: intensity by duration of every event on logarithmic axes, the viewed one strong, its table's values
/// marked; beside it the viewed event as a storm of alternating blocks. A click on a curve views its event.
class RainView : public QWidget {
    Q_OBJECT
  public:
    RainView(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] QPointF to_screen(double duration, double intensity) const;
    /// Depths of the storm shown, m, and its step, s; empty without rain.
    [[nodiscard]] const std::vector<double>& storm() const { return storm_; }
    [[nodiscard]] double step() const { return step_; }
    /// The equation through the viewed event's table, in minutes and the project's unit.
    [[nodiscard]] const IdfFit& fit() const { return fit_; }
    [[nodiscard]] QComboBox* pattern() const { return pattern_; }
    /// The storm as two columns, time and depth of each step, and their sum so far.
    [[nodiscard]] QString storm_table() const;
    [[nodiscard]] QString readout() const { return readout_; }

  signals:
    void paste_wanted();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void showEvent(QShowEvent*) override;

  private:
    struct Curve {
        EventId event;
        QString name;
        IdfCurve curve;
        std::vector<double> durations, intensities;
    };
    void rebuild();
    [[nodiscard]] QRectF curves_area() const;
    [[nodiscard]] QRectF storm_area() const;
    void paint_curves(QPainter& p);
    void paint_storm(QPainter& p);
    void paint_fit(QPainter& p);
    void make_storm(const Curve& c);
    Document& document_;
    std::vector<Curve> curves_;
    double least_time_ = 1, most_time_ = 2, least_ = 1, most_ = 2;  ///< ends of the axes
    std::vector<double> storm_;
    IdfFit fit_;
    QComboBox* pattern_;
    QString pattern_fault_;
    bool own_storm_ = false;  ///< the viewed event is a depth with a pattern
    double step_ = 0;
    bool dirty_ = true;
    QPointF pointer_{-1, -1};
    QString readout_;
};

}  // namespace culvert::app
