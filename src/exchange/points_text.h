// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/terrain/terrain.h"
#include "exchange/delimited.h"

/// Survey points as text (CSV, TXT): one point a line. What each column is, is guessed and shown before anything is
/// read, and can be changed.
namespace culvert {

enum class PointColumn { Ignore, Name, Easting, Northing, Level, Line };
constexpr const char* point_column_names[] = {"ignore", "name", "easting", "northing", "level", "line"};

struct PointsLayout {
    char separator = ',';
    std::size_t head = 0;  ///< lines before the first point
    std::vector<PointColumn> columns;
    std::vector<NumberStyle> styles;
    double unit = 1;                   ///< metres of one unit of all three numbers
    Cells first;                       ///< the first lines as cells, for the person to look at
    std::vector<std::string> remarks;  ///< what was guessed and might be otherwise
};
PointsLayout sniff_points(std::string_view text);

struct ImportProblem {
    int line = 0;  ///< 1-based, 0: the whole file
    std::string message, remedy;
};
struct SurfaceImport {
    bool ok = false;
    std::string name;
    SurfaceData data;
    std::vector<ImportProblem> problems;  ///< why it is not ok; or what was left out
    std::size_t left_out = 0;             ///< lines or entities left out, of which the first are among the problems
};
/// Reads all points by a layout. Points of one name in the line column make a breakline, in their order.
SurfaceImport read_points(std::string_view text, const PointsLayout& layout, const std::stop_token& stop = {});

}  // namespace culvert
