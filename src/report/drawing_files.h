// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

#include "drawing/display_list.h"
#include "exchange/save_text.h"

/// Drawings as files: SVG 1.1 in millimetres, and DXF (R12) with one layer for each role of ink.
namespace culvert {

/// @param width, height  of the paper, mm; the origin of the list is its lower left corner
std::string svg_of(const DisplayList& list, double width, double height);
/// DXF text in the units of the list (a millimetre of paper, or the project's); empty where the folder for temporary
/// files has no room.
std::string dxf_of(const DisplayList& list, double letters = 2.5);
/// By the ending of the name, in either case.
enum class DrawingForm { None, Svg, Dxf };
DrawingForm drawing_form(const std::string& path);
/// Saves SVG or DXF, by the ending of the name, as a project is saved.
/// @param letters  height of texts in a DXF
SaveOutcome save_drawing(const DisplayList& list, double width, double height, const std::string& path,
                         double letters = 2.5);
/// The layer, and its pen: width in mm, and colour as RRGGBB.
struct InkStyle {
    const char *layer, *colour;
    double width;
    bool dashed;
};
InkStyle style_of(Ink ink);

}  // namespace culvert
