// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydrology/idf.h"

#include <algorithm>
#include <cmath>
#include <string>

#include "core/base/numbers.h"

namespace culvert {

IdfCurve::IdfCurve(std::span<const double> durations, std::span<const double> intensities) {
    const std::size_t count = std::min(durations.size(), intensities.size());
    for (std::size_t i = 0; i < count; ++i) {
        log_duration_.push_back(std::log(durations[i]));
        log_intensity_.push_back(std::log(intensities[i]));
    }
}

double IdfCurve::intensity(double duration) const {
    if (log_duration_.empty()) return 0;
    const std::size_t last = log_duration_.size() - 1;
    if (last == 0) return std::exp(log_intensity_[0]);
    const double x = std::log(duration);
    if (!(x > log_duration_[0])) return std::exp(log_intensity_[0]);
    std::size_t i = 1;
    while (i < last && log_duration_[i] < x) ++i;
    const double t = (x - log_duration_[i - 1]) / (log_duration_[i] - log_duration_[i - 1]);
    return std::exp(log_intensity_[i - 1] + t * (log_intensity_[i] - log_intensity_[i - 1]));
}

IdfRange IdfCurve::range(double duration) const {
    if (log_duration_.size() < 2) return IdfRange::Inside;
    const double x = std::log(duration), slack = 1e-9;
    if (x < log_duration_.front() - slack) return IdfRange::BelowShortest;
    return x > log_duration_.back() + slack ? IdfRange::AboveLongest : IdfRange::Inside;
}

std::string idf_fault(std::span<const double> durations, std::span<const double> intensities) {
    if (durations.empty()) return "no duration is given";
    if (durations.size() != intensities.size())
        return std::to_string(durations.size()) + " durations but " + std::to_string(intensities.size()) +
               " intensities";
    const auto minutes = [&](std::size_t i) { return general(durations[i] / 60, 6) + " min"; };
    const auto rain = [&](std::size_t i) { return general(intensities[i] * 3.6e6, 6) + " mm/h"; };
    const auto depth = [&](std::size_t i) { return fixed(intensities[i] * durations[i] * 1000, 2) + " mm"; };
    for (std::size_t i = 0; i < durations.size(); ++i) {
        if (!(durations[i] > 0))
            return "duration " + std::to_string(i + 1) + " is " + minutes(i) + ": it must be above 0";
        if (!(intensities[i] > 0)) return "intensity at " + minutes(i) + " is " + rain(i) + ": it must be above 0";
        if (!(durations[i] <= longest_duration))
            return "duration " + std::to_string(i + 1) + " is " + minutes(i) + ": it must be at most " +
                   general(longest_duration / 60, 6) + " min";
        if (!(intensities[i] <= highest_intensity))
            return "intensity at " + minutes(i) + " is " + rain(i) + ": it must be at most " +
                   general(highest_intensity * 3.6e6, 6) + " mm/h";
        if (i == 0) continue;
        if (durations[i] <= durations[i - 1])
            return "duration " + minutes(i) + " does not follow " + minutes(i - 1) + ": durations must rise";
        if (intensities[i] > intensities[i - 1])
            return "intensity rises from " + rain(i - 1) + " at " + minutes(i - 1) + " to " + rain(i) + " at " +
                   minutes(i);
        if (intensities[i] * durations[i] < intensities[i - 1] * durations[i - 1] * (1 - 1e-3))
            return "depth falls from " + depth(i - 1) + " at " + minutes(i - 1) + " to " + depth(i) + " at " +
                   minutes(i) + ": a longer rain cannot bring less";
    }
    return {};
}

double effective_area(std::span<const Cover> covers, double frequency_factor) {
    double sum = 0;
    for (const Cover& c : covers) sum += std::min(1.0, c.coefficient * frequency_factor) * c.area;
    return sum;
}

}  // namespace culvert
