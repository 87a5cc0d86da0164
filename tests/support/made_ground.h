// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <string>

#include "core/design/site.h"

namespace culvert::testing {

inline Structure inlet(std::uint64_t id, const std::string& name, double x, double y, double rim = 10) {
    Structure s;
    s.id = id;
    s.name = name;
    s.x = x;
    s.y = y;
    s.rim = rim;
    s.kind = StructureKind::Inlet;
    return s;
}

/// A square of ground z = f(x, y), 100 m wide, as a grid of points.
template <class F>
SiteGround made(F f, double step = 5) {
    SurfaceData d;
    for (double x = 0; x <= 100 + 1e-9; x += step)
        for (double y = 0; y <= 100 + 1e-9; y += step) d.points.push_back({x, y, f(x, y)});
    SiteGround g;
    g.ground.finished = Terrain::build(std::move(d));
    g.drainage = std::make_shared<const Drainage>(g.ground.finished);
    return g;
}

}  // namespace culvert::testing
