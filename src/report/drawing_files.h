// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

#include "drawing/display_list.h"

/// Drawings as files: SVG 1.1 in millimetres, and DXF (R12) with one layer for each role of ink.
namespace culvert {

/// @param width, height  of the paper, mm; the origin of the list is its lower left corner
std::string svg_of(const DisplayList& list, double width, double height);
/// Writes a DXF file in drawing units of a millimetre of paper. Empty, or why it could not be written.
std::string write_dxf(const DisplayList& list, const std::string& path);
/// The layer, and its pen: width in mm, and colour as RRGGBB.
struct InkStyle {
    const char *layer, *colour;
    double width;
    bool dashed;
};
InkStyle style_of(Ink ink);

}  // namespace culvert
