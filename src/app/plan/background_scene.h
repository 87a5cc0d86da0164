// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/desk/site.h"
#include "core/geometry/box_index.h"

namespace culvert::app {

/// Lines of the backgrounds that are shown, with a spatial index: for painting, for snapping, for taking over.
class BackgroundScene {
  public:
    struct Line {
        std::uint64_t background = 0;
        int layer = 0;
        bool dim = true;
        std::vector<QPointF> points;
        QRectF box;
    };
    struct Text {
        bool dim = true;
        QPointF at;
        double height = 0, angle = 0;
        QString text;
    };
    /// Cheap when neither the rows nor the drawings have changed.
    void update(const Project& project, const Site& site);
    [[nodiscard]] const std::vector<Line>& lines() const { return lines_; }
    [[nodiscard]] const std::vector<Text>& texts() const { return texts_; }
    [[nodiscard]] std::vector<std::size_t> lines_in(const QRectF& rect) const;
    /// A corner within reach, else a place on a line within reach; -1: none.
    int near(QPointF at, double reach, QPointF& place) const;
    [[nodiscard]] QRectF bounds() const { return bounds_; }

  private:
    Table<Background> seen_;
    std::vector<const void*> seen_drawings_;
    std::vector<Line> lines_;
    std::vector<Text> texts_;
    QRectF bounds_;
    BoxIndex index_;
};

}  // namespace culvert::app
