// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <vector>

#include "app/desk/document.h"

/// Places where water would stand on the ground, as the plan marks and names them.
namespace culvert::app {

struct LowPoint {
    Point bottom;
    double depth = 0;     ///< m, up to where it would run over
    bool filled = false;  ///< of the surface that the water runs over; else of another one that is shown
};
/// Those of all surfaces that are shown, within a part of the plan; the deepest first.
inline std::vector<LowPoint> low_points(Document& document, const QRectF& view) {
    std::vector<LowPoint> list;
    const Site& site = document.site();
    for (const auto& s : site.surfaces()) {
        const Surface* row = document.project().surfaces.find(s->id);
        if (!row || !row->visible) continue;
        for (const Depression& d : s->depressions)
            if (view.contains({d.bottom.x, d.bottom.y})) list.push_back({d.bottom, d.depth(), s.get() == site.top()});
    }
    std::stable_sort(list.begin(), list.end(), [](const LowPoint& a, const LowPoint& b) { return a.depth > b.depth; });
    return list;
}

}  // namespace culvert::app
