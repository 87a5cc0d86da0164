// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/site.h"
#include "app/desk/text.h"

#include <cmath>

namespace culvert::app {
namespace {

constexpr std::size_t most_contour_points = 400'000;  ///< above this a coarser interval is taken

std::shared_ptr<const SiteSurface> load_surface(const AssetStore& assets, const Surface& row,
                                                const std::shared_ptr<const SiteSurface>& before,
                                                const std::stop_token& stop) {
    auto s = std::make_shared<SiteSurface>();
    s->id = row.id;
    s->asset = row.asset;
    s->least_depth = row.least_depth;
    if (before && before->asset == row.asset) {
        s->terrain = before->terrain;
        s->drainage = before->drainage;
        s->fault = before->fault;
    } else if (const auto bytes = assets.find(row.asset)) {
        std::string error;
        if (auto data = read_surface(*bytes, &error)) s->terrain = Terrain::build(std::move(*data), nullptr, stop);
        if (!s->terrain && !stop.stop_requested())
            s->fault = text(error.empty() ? "its points make no triangle" : error);
        if (s->terrain) s->drainage = std::make_shared<const Drainage>(s->terrain);
    } else
        s->fault =
            "its file is missing: the folder beside the project that ends in .assets. Import it again, or put the "
            "folder back";
    if (s->drainage) s->depressions = s->drainage->depressions(row.least_depth);
    return s;
}

std::shared_ptr<const SiteBackground> load_background(const AssetStore& assets, const Background& row,
                                                      const std::shared_ptr<const SiteBackground>& before) {
    const double unit = row.content == BackgroundContent::Drawing && !row.placing.empty() ? row.placing[0] : 0;
    if (before && before->asset == row.asset && before->unit == unit) return before;
    auto b = std::make_shared<SiteBackground>();
    b->id = row.id;
    b->asset = row.asset;
    b->unit = unit;
    const auto bytes = assets.find(row.asset);
    if (!bytes) {
        b->fault = "its file is missing: the folder beside the project that ends in .assets";
        return b;
    }
    if (row.content == BackgroundContent::Drawing) {
        DrawingOutcome read = read_dxf(*bytes, unit);
        if (read.ok) b->drawing = std::make_shared<const Drawing>(std::move(read.drawing));
        else b->fault = read.problems.empty() ? QString("it cannot be read") : text(read.problems[0].message);
    } else {
        b->picture = QImage::fromData(reinterpret_cast<const uchar*>(bytes->data()), static_cast<int>(bytes->size()));
        if (b->picture.isNull()) b->fault = "it is no picture that can be read (PNG, JPEG, SVG, BMP)";
    }
    return b;
}

}  // namespace

Site::Site(std::shared_ptr<AssetStore> assets, QObject* parent) : QObject(parent), assets_(std::move(assets)) {}
Site::~Site() = default;

void Site::update(const Project& project) {
    if (level_surface_ != project.settings().level_surface) {
        level_surface_ = project.settings().level_surface;
        cursors_ = {};
    }
    if (seen_surfaces_.same(project.surfaces) && seen_backgrounds_.same(project.backgrounds)) return;
    seen_surfaces_ = project.surfaces;
    seen_backgrounds_ = project.backgrounds;
    busy_ = true;
    loader_.run([this, surfaces = project.surfaces, backgrounds = project.backgrounds, had = surfaces_,
                 had_backgrounds = backgrounds_, assets = assets_](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        const auto old = [](const auto& list, std::uint64_t id) -> typename std::decay_t<decltype(list)>::value_type {
            for (const auto& x : list)
                if (x->id == id) return x;
            return nullptr;
        };
        std::vector<std::shared_ptr<const SiteBackground>> b;
        for (const Background& row : backgrounds) {
            b.push_back(load_background(*assets, row, old(had_backgrounds, row.id)));
            if (stop.stop_requested()) return;
        }
        std::vector<std::shared_ptr<const SiteSurface>> s;
        for (const Surface& row : surfaces) {
            s.push_back(load_surface(*assets, row, old(had, row.id), stop));
            if (stop.stop_requested()) return;
        }
        turn.tell([this, s = std::move(s), b = std::move(b)]() mutable { take(std::move(s), std::move(b)); });
    });
}

void Site::take(std::vector<std::shared_ptr<const SiteSurface>> surfaces,
                std::vector<std::shared_ptr<const SiteBackground>> backgrounds) {
    surfaces_ = std::move(surfaces);
    backgrounds_ = std::move(backgrounds);
    roles_.clear();
    shown_.clear();
    for (const Surface& row : seen_surfaces_) {
        roles_[row.id] = row.role;
        shown_[row.id] = row.visible;
    }
    ground_ = {};
    for (const auto& s : surfaces_) {
        if (!s->terrain) continue;
        if (roles_[s->id] == SurfaceRole::Finished && !ground_.finished) ground_.finished = s->terrain;
        if (roles_[s->id] == SurfaceRole::Existing && !ground_.existing) ground_.existing = s->terrain;
    }
    cursors_ = {};
    busy_ = false;
    std::erase_if(contours_, [this](const SiteContours& c) { return !surface(c.surface) || !shown_[c.surface]; });
    wanted_interval_ = 0;
    emit changed();
}

double Site::level(Point p) const {
    switch (level_surface_) {
        case GroundFor::Finished:
            return ground_.finished ? ground_.finished->elevation(p, cursors_.finished) : not_given;
        case GroundFor::Existing:
            return ground_.existing ? ground_.existing->elevation(p, cursors_.existing) : not_given;
        case GroundFor::FinishedThenExisting: break;
    }
    return ground_.elevation(p, cursors_);
}

const SiteSurface* Site::surface(std::uint64_t id) const {
    for (const auto& s : surfaces_)
        if (s->id == id) return s.get();
    return nullptr;
}
const SiteBackground* Site::background(std::uint64_t id) const {
    for (const auto& b : backgrounds_)
        if (b->id == id) return b.get();
    return nullptr;
}
const SiteSurface* Site::top() const {
    const SiteSurface* best = nullptr;
    for (const auto& s : surfaces_) {
        if (!s->terrain) continue;
        const auto role = roles_.find(s->id);
        if (role != roles_.end() && role->second == SurfaceRole::Finished) return s.get();
        if (!best && role != roles_.end() && role->second == SurfaceRole::Existing) best = s.get();
    }
    return best;
}

void Site::want_contours(const QRectF& view, double interval) {
    if (surfaces_.empty() || !(interval > 0)) return;
    if (wanted_interval_ == interval && wanted_box_.contains(view)) return;
    wanted_interval_ = interval;
    wanted_box_ = view.adjusted(-view.width() / 2, -view.height() / 2, view.width() / 2, view.height() / 2);
    std::vector<std::shared_ptr<const SiteSurface>> shown;
    for (const auto& s : surfaces_)
        if (s->terrain && shown_[s->id]) shown.push_back(s);
    contourer_.run([this, shown, box = wanted_box_, interval](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        std::vector<SiteContours> all;
        Terrain::Box b;
        b.left = box.left();
        b.right = box.right();
        b.bottom = box.top();
        b.top = box.bottom();
        for (const auto& s : shown) {
            SiteContours c{s->id, interval, b, {}};
            for (int again = 0; again < 4; ++again) {
                c.lines = culvert::contours(*s->terrain, c.interval, b, stop);
                std::size_t points = 0;
                for (const Contour& l : c.lines) points += l.line.size();
                if (points < most_contour_points) break;
                c.interval *= 5;
            }
            if (stop.stop_requested()) return;
            all.push_back(std::move(c));
        }
        turn.tell([this, all = std::move(all)]() mutable {
            contours_ = std::move(all);
            emit contours_changed();
        });
    });
}

QStringList hidden_layers(const Background& row) { return text(row.hidden).split(';', Qt::SkipEmptyParts); }

}  // namespace culvert::app
