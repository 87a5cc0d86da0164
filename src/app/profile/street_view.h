// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QWidget>

#include "app/desk/document.h"
#include "core/analysis/street_water.h"
#include "core/design/site.h"

namespace culvert::app {

/// The selected street: its vertical profile with low and high points and breaks of grade, and its section across at
/// the station under the pointer. Levels (station, level) can be pasted.
class StreetView : public QWidget {
    Q_OBJECT
  public:
    StreetView(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] const StreetProfile& profile() const { return profile_; }
    [[nodiscard]] const std::vector<MarkedPlace>& marks() const { return marks_; }
    [[nodiscard]] double station() const { return station_; }
    [[nodiscard]] QString readout() const { return readout_; }
    [[nodiscard]] QPointF to_screen(double station, double level) const;
    /// Two columns, station and level, as a spreadsheet copies them; empty, or what is wrong.
    QString paste_levels(const QString& text);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    void rebuild();
    [[nodiscard]] const Street* street() const;
    [[nodiscard]] QRectF plot() const;
    [[nodiscard]] QRectF across() const;
    void paint_profile(QPainter& p);
    void paint_across(QPainter& p);
    void paint_spread(QPainter& p);
    [[nodiscard]] bool has_water() const;
    [[nodiscard]] double spread_height() const;
    [[nodiscard]] double foot() const;
    void read_out();
    Document& document_;
    std::uint64_t street_ = 0;
    StreetProfile profile_, existing_;
    std::vector<MarkedPlace> marks_;
    double low_ = 0, high_ = 1, length_ = 1, station_ = 0;
    std::optional<StreetWater> water_;  ///< of the viewed event
    bool dirty_ = true;
    QString readout_;
};

}  // namespace culvert::app
