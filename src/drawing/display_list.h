// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <vector>

#include "core/geometry/line.h"
#include "core/model/project.h"

/// A drawing as a list of lines, areas and texts with roles instead of colours: one list feeds screen, PDF, SVG and
/// DXF.
namespace culvert {

enum class Ink {
    Ground,
    Structure,
    BarrelWithin,
    BarrelNear,
    BarrelBeyond,
    BarrelUnknown,
    Water,
    HydraulicLine,
    EnergyLine,
    Label,
    QuietLabel,
    BeyondLabel,
    Contour,
    Catchment,
    Street,
    BuriedLine
};

struct Drawn {
    enum class Type { Line, Area, Text, Level } type = Type::Line;
    Ink ink = Ink::Label;
    std::vector<Point> points;  ///< in the drawing's own coordinates; a text and a water level have one
    std::string text;
    ElementRef element;
};
using DisplayList = std::vector<Drawn>;

}  // namespace culvert
