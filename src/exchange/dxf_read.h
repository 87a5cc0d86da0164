// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "exchange/points_text.h"

/// A DXF drawing as the plan shows it and as surfaces are made from: lines, arcs, circles and polylines as chains of
/// points, texts, points and faces, each on a layer. Blocks are put in place where they are inserted.
namespace culvert {

struct Drawing {
    struct Line {
        int layer;
        bool closed;
        std::vector<GroundPoint> points;
    };
    struct Text {
        int layer;
        Point at;
        double height, angle;  ///< m, radians
        std::string text;
    };
    struct Spot {
        int layer;
        GroundPoint at;
    };
    struct Face {
        int layer;
        std::array<GroundPoint, 4> corners;
    };
    std::vector<std::string> layers;
    std::vector<Line> lines;
    std::vector<Text> texts;
    std::vector<Spot> points;
    std::vector<Face> faces;
    double unit = 1;          ///< metres of a drawing unit
    bool unit_known = false;  ///< the file says it
};
struct DrawingOutcome {
    bool ok = false;
    Drawing drawing;
    std::vector<ImportProblem> problems;
};
/// What a file may ask for is limited: copies of blocks, the points they make, and time; beyond that it is refused.
/// @param unit  metres of a drawing unit; 0: as the file says, else metres
DrawingOutcome read_dxf(const std::string& text, double unit = 0, const std::stop_token& stop = {});

/// Points, faces, and lines with levels of the chosen layers (by index) as surface data.
SurfaceImport surface_of(const Drawing& drawing, const std::vector<bool>& layers);

}  // namespace culvert
