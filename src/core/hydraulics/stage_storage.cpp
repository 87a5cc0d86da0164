// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydraulics/stage_storage.h"

#include <algorithm>
#include <cmath>

namespace culvert {

StageStorage::StageStorage(std::vector<double> levels, std::vector<double> areas, BetweenLevels between)
    : levels_(std::move(levels)), areas_(std::move(areas)), between_(between) {
    volumes_.push_back(0);
    for (std::size_t i = 1; i < levels_.size(); ++i) {
        const double h = levels_[i] - levels_[i - 1], a = areas_[i - 1], b = areas_[i];
        volumes_.push_back(volumes_.back() +
                           (between_ == BetweenLevels::Linear ? h / 2 * (a + b) : h / 3 * (a + std::sqrt(a * b) + b)));
    }
}

StageStorage StageStorage::of_volumes(const std::vector<double>& levels, const std::vector<double>& volumes) {
    StageStorage s;
    s.levels_ = levels;
    s.stepped_ = true;
    s.volumes_.push_back(0);
    for (std::size_t i = 1; i < levels.size(); ++i) {
        s.areas_.push_back((volumes[i] - volumes[i - 1]) / (levels[i] - levels[i - 1]));
        s.volumes_.push_back(volumes[i] - volumes.front());
    }
    s.areas_.push_back(s.areas_.empty() ? 0 : s.areas_.back());
    return s;
}

std::size_t StageStorage::place(double level) const {
    const auto above = std::upper_bound(levels_.begin(), levels_.end(), level);
    return static_cast<std::size_t>(
        std::clamp<std::ptrdiff_t>(above - levels_.begin() - 1, 0, static_cast<std::ptrdiff_t>(levels_.size()) - 1));
}

double StageStorage::area(double level) const {
    if (level < bottom()) return 0;
    if (level >= top()) return areas_.back();
    const std::size_t i = place(level);
    if (stepped_) return areas_[i];
    const double t = (level - levels_[i]) / (levels_[i + 1] - levels_[i]);
    if (between_ == BetweenLevels::Linear) return areas_[i] + t * (areas_[i + 1] - areas_[i]);
    const double r = std::sqrt(areas_[i]) + t * (std::sqrt(areas_[i + 1]) - std::sqrt(areas_[i]));
    return r * r;
}

double StageStorage::volume(double level) const {
    if (level <= bottom()) return 0;
    if (level >= top()) return volumes_.back() + (level - top()) * areas_.back();
    const std::size_t i = place(level);
    const double h = level - levels_[i], a = areas_[i], b = area(level);
    if (stepped_) return volumes_[i] + h * a;
    return volumes_[i] + (between_ == BetweenLevels::Linear ? h / 2 * (a + b) : h / 3 * (a + std::sqrt(a * b) + b));
}

double StageStorage::level(double volume) const {
    if (volume <= 0) return bottom();
    if (volume >= volumes_.back())
        return areas_.back() > 0 ? top() + (volume - volumes_.back()) / areas_.back() : top();
    const auto above = std::upper_bound(volumes_.begin(), volumes_.end(), volume);
    const auto i = static_cast<std::size_t>(above - volumes_.begin()) - 1;
    const double left = volume - volumes_[i], h = levels_[i + 1] - levels_[i], a = areas_[i];
    if (stepped_) return levels_[i] + (a > 0 ? left / a : 0);
    if (between_ == BetweenLevels::Linear) {
        // a z + g z^2 / 2 = left, without loss where the area hardly changes
        const double g = (areas_[i + 1] - a) / h;
        return levels_[i] + 2 * left / (a + std::sqrt(std::max(0.0, a * a + 2 * g * left)));
    }
    // (r^3 - r0^3) / (3 s) = left, r the root of the area, s its rise by level
    const double r0 = std::sqrt(a), s = (std::sqrt(areas_[i + 1]) - r0) / h;
    if (std::abs(s) < 1e-12) return levels_[i] + left / a;
    return levels_[i] + (std::cbrt(std::max(0.0, r0 * r0 * r0 + 3 * s * left)) - r0) / s;
}

StageStorage StageStorage::with_voids(double share) const {
    StageStorage s = *this;
    for (auto* list : {&s.areas_, &s.volumes_})
        for (double& v : *list) v *= share;
    return s;
}

std::string stage_storage_fault(std::span<const double> levels, std::span<const double> areas) {
    if (levels.size() != areas.size())
        return "has " + std::to_string(levels.size()) + " levels and " + std::to_string(areas.size()) +
               " areas: give one area for each level";
    if (levels.size() < 2) return "has one level: give two at least, the lowest outlet between them or above";
    for (std::size_t i = 0; i < levels.size(); ++i) {
        if (!std::isfinite(levels[i]) || !std::isfinite(areas[i])) return "has a value that is no number";
        if (areas[i] < 0) return "has an area below zero";
        if (i > 0 && !(levels[i] > levels[i - 1]))
            return "does not rise: level " + std::to_string(i + 1) + " is not above the one before";
    }
    if (std::all_of(areas.begin(), areas.end(), [](double a) { return a == 0; })) return "holds nothing";
    return {};
}

StageStorage basin(double bottom_level, double length, double width, double sides, double depth) {
    // The area is quadratic in depth: so many steps that a straight area between them is right to a ten-thousandth.
    constexpr int steps = 64;
    std::vector<double> levels, areas;
    for (int i = 0; i <= steps; ++i) {
        const double z = depth * i / steps;
        levels.push_back(bottom_level + z);
        areas.push_back((length + 2 * sides * z) * (width + 2 * sides * z));
    }
    return {std::move(levels), std::move(areas)};
}

StageStorage tank(double bottom_level, double area, double depth) {
    return {{bottom_level, bottom_level + depth}, {area, area}};
}

StageStorage pipe_array(double invert, double diameter, double length, int count) {
    // Exact volumes at close levels, closer toward bottom and top where the surface changes fast.
    constexpr int steps = 96;
    const double r = diameter / 2;
    std::vector<double> levels, volumes;
    for (int i = 0; i <= steps; ++i) {
        const double angle = std::acos(-1.0) * i / steps, y = r * (1 - std::cos(angle));
        levels.push_back(invert + y);
        volumes.push_back(count * length * r * r * (angle - std::sin(angle) * std::cos(angle)));
    }
    return StageStorage::of_volumes(levels, volumes);
}

}  // namespace culvert
