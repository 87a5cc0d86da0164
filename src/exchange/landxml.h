// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "exchange/points_text.h"

/// Surfaces of a LandXML file (the open schema, versions 1.0 to 2.0): points, faces, breaklines, boundaries, with the
/// unit and the coordinate system that it records. Its points are written northing first. An invisible face is a hole.
namespace culvert {

struct LandXmlOutcome {
    std::vector<SurfaceImport> surfaces;
    std::vector<ImportProblem> problems;
    std::string unit;         ///< "meter", "foot", "USSurveyFoot" as written
    std::string coordinates;  ///< name or code of the coordinate system
};
LandXmlOutcome read_landxml(const std::string& text);

}  // namespace culvert
