// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QImage>
#include <QObject>
#include <QRectF>
#include <QStringList>
#include <map>

#include "app/desk/task.h"
#include "core/model/project.h"
#include "core/terrain/contours.h"
#include "core/terrain/drainage.h"
#include "exchange/assets.h"
#include "exchange/dxf_read.h"

/// The ground and the backgrounds of a document, made from their assets on another thread: triangulated surfaces, low
/// points, contours for what is in view, drawings, pictures. What is not ready yet is simply not there; `changed` says
/// when it is.
namespace culvert::app {

struct SiteSurface {
    std::uint64_t id = 0;
    std::string asset;
    std::shared_ptr<const Terrain> terrain;
    std::shared_ptr<const Drainage> drainage;
    std::vector<Depression> depressions;
    double least_depth = 0;
    QString fault;  ///< why there is no terrain
};
struct SiteContours {
    std::uint64_t surface = 0;
    double interval = 0;
    Terrain::Box box;  ///< what they cover
    std::vector<Contour> lines;
};
struct SiteBackground {
    std::uint64_t id = 0;
    std::string asset;
    double unit = 0;
    std::shared_ptr<const Drawing> drawing;
    QImage picture;
    QString fault;
};

class Site : public QObject {
    Q_OBJECT
  public:
    explicit Site(std::shared_ptr<AssetStore> assets, QObject* parent = nullptr);
    ~Site() override;

    /// Brings it up to date in the background; cheap when no surface or background has changed.
    void update(const Project& project);
    [[nodiscard]] const Ground& ground() const { return ground_; }
    /// Level of the ground that gives rims, by the project's setting; NaN off the surface.
    [[nodiscard]] double level(Point p) const;
    [[nodiscard]] const std::vector<std::shared_ptr<const SiteSurface>>& surfaces() const { return surfaces_; }
    [[nodiscard]] const SiteSurface* surface(std::uint64_t id) const;
    /// The surface that water runs over: finished where there is one.
    [[nodiscard]] const SiteSurface* top() const;
    [[nodiscard]] const std::vector<std::shared_ptr<const SiteBackground>>& backgrounds() const { return backgrounds_; }
    [[nodiscard]] const SiteBackground* background(std::uint64_t id) const;

    /// Contours of the shown surfaces for a view; the last ones until newer are ready.
    void want_contours(const QRectF& view, double interval);
    [[nodiscard]] const std::vector<SiteContours>& contours() const { return contours_; }
    [[nodiscard]] bool busy() const { return busy_; }

  signals:
    void changed();
    void contours_changed();

  private:
    void take(std::vector<std::shared_ptr<const SiteSurface>> surfaces,
              std::vector<std::shared_ptr<const SiteBackground>> backgrounds);
    std::shared_ptr<AssetStore> assets_;
    Table<Surface> seen_surfaces_;
    Table<Background> seen_backgrounds_;
    GroundFor level_surface_ = GroundFor::FinishedThenExisting;
    std::vector<std::shared_ptr<const SiteSurface>> surfaces_;
    std::vector<std::shared_ptr<const SiteBackground>> backgrounds_;
    std::map<std::uint64_t, SurfaceRole> roles_;
    std::map<std::uint64_t, bool> shown_;
    Ground ground_;
    mutable Ground::Cursors cursors_;
    std::vector<SiteContours> contours_;
    QRectF wanted_box_;
    double wanted_interval_ = 0;
    bool busy_ = false;
    Task loader_{this}, contourer_{this};
};

/// Layers of a drawing that its background does not show.
QStringList hidden_layers(const Background& row);

}  // namespace culvert::app
