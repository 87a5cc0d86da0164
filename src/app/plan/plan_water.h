// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QPolygonF>
#include <functional>
#include <memory>
#include <set>

#include "app/desk/document.h"
#include "core/analysis/street_water.h"

class QPainter;

namespace culvert::app {

/// Water along the curbs in plan: strips of its true width, with the dry width that is left where it is widest, and the
/// flows that pass inlets along the street paths. Gathered once for a result, painted at any zoom.
class PlanWater {
  public:
    /// Below this scale, pixels a metre, the strips are thinner than what is drawn over them.
    static constexpr double least_scale = 0.4;
    void update(Document& document, const std::shared_ptr<const EventResult>& result, const QRectF& view);
    void paint(QPainter& p, const QRectF& view, double scale, const std::function<QPointF(QPointF)>& to_screen,
               const UnitSet& units) const;
    [[nodiscard]] std::size_t strips() const { return strips_.size(); }

  private:
    struct Strip {
        QPolygonF area;      ///< project metres
        QPointF widest, in;  ///< the curb there, and the edge of the water
        QPointF crown;
        double spread = 0, dry = 0;
        QRectF box;
    };
    std::vector<Strip> strips_;
    std::set<std::uint64_t> gathered_;  ///< streets whose strips are there
    std::shared_ptr<const EventResult> result_;
    std::uint64_t revision_ = 0;
};

}  // namespace culvert::app
