// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/cells.h"
#include "core/model/edit.h"
#include "exchange/assets.h"
#include "exchange/dxf_read.h"
#include "exchange/grid_read.h"
#include "exchange/landxml.h"

/// Files of the ground and of backgrounds: what a file offers, shown before anything is taken, and the Edit that takes
/// it.
namespace culvert {

enum class SiteForm { Unknown, Points, Drawing, LandXml, Grid, Picture };
constexpr const char* site_form_names[] = {"unknown file", "survey points",  "drawing",
                                           "LandXML",      "grid of levels", "picture"};

/// What a file could become.
struct SiteOffer {
    bool ok = false;
    SiteForm form = SiteForm::Unknown;
    std::string path, name;
    std::string bytes;                    ///< of points, drawings and pictures
    PointsLayout layout;                  ///< of points, to be looked at and changed
    Drawing drawing;                      ///< in its unit
    std::vector<SurfaceImport> surfaces;  ///< of LandXML and grids
    std::string asset;                    ///< hash of the bytes where a store holds them already
    std::vector<double> placing;          ///< of a picture: its world file's six numbers
    std::string coordinates;
    std::vector<ImportProblem> problems;
    /// What a row of the project needs of it, without bytes, drawing and surfaces.
    [[nodiscard]] SiteOffer without_content() const;
};
/// Reads a file and tells what it is by its ending and its content. May take seconds: not for the interface thread.
/// @param unit  metres of a drawing's unit where the file does not say; 0: metres
SiteOffer look_at(const std::string& path, double unit = 0, const std::stop_token& stop = {});

/// A surface made from data, tried before it is offered: its notes, its size, and the Edit that adds it.
struct SurfaceOffer {
    bool ok = false;
    std::string name, text;  ///< the text is the asset
    std::string asset;       ///< its hash where a store holds it already
    std::string coordinates, source;
    std::size_t points = 0, triangles = 0;
    double area = 0, low = 0, high = 0;
    std::vector<ImportProblem> problems;
    std::vector<std::string> remarks;
};
SurfaceOffer make_surface(const SurfaceImport& import, const std::string& source, const std::stop_token& stop = {});
/// The Edit; the asset is kept in the store first, where the offer does not say that it is there. Where the project
/// knows no coordinate system it takes this one's; where it knows another, the surface's note says so.
Edit surface_edit(const Project& project, AssetStore& assets, const SurfaceOffer& offer, SurfaceRole role);
/// A drawing or picture as a background, kept as the file's own bytes.
Edit background_edit(const Project& project, AssetStore& assets, const SiteOffer& offer);

/// The word with the first number that makes a free name: "Street 3".
std::string numbered_name(const Project& project, Kind kind, const std::string& word);

}  // namespace culvert
