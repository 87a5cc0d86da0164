// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydrology/idf.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

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
    char text[200];
    if (durations.empty()) return "no duration is given";
    if (durations.size() != intensities.size()) {
        std::snprintf(text, sizeof text, "%zu durations but %zu intensities", durations.size(), intensities.size());
        return text;
    }
    for (std::size_t i = 0; i < durations.size(); ++i) {
        const double d = durations[i] / 60, in = intensities[i] * 3.6e6;
        if (!(durations[i] > 0) || !std::isfinite(durations[i])) {
            std::snprintf(text, sizeof text, "duration %zu is %g min: it must be above 0", i + 1, d);
            return text;
        }
        if (!(intensities[i] > 0) || !std::isfinite(intensities[i])) {
            std::snprintf(text, sizeof text, "intensity at %g min is %g mm/h: it must be above 0", d, in);
            return text;
        }
        if (i == 0) continue;
        if (durations[i] <= durations[i - 1]) {
            std::snprintf(text, sizeof text, "duration %g min does not follow %g min: durations must rise", d,
                          durations[i - 1] / 60);
            return text;
        }
        if (intensities[i] > intensities[i - 1]) {
            std::snprintf(text, sizeof text, "intensity rises from %g mm/h at %g min to %g mm/h at %g min",
                          intensities[i - 1] * 3.6e6, durations[i - 1] / 60, in, d);
            return text;
        }
        if (intensities[i] * durations[i] < intensities[i - 1] * durations[i - 1] * (1 - 1e-3)) {
            std::snprintf(text, sizeof text,
                          "depth falls from %.2f mm at %g min to %.2f mm at %g min: a longer rain cannot bring less",
                          intensities[i - 1] * durations[i - 1] * 1000, durations[i - 1] / 60,
                          intensities[i] * durations[i] * 1000, d);
            return text;
        }
    }
    return {};
}

double effective_area(std::span<const Cover> covers, double frequency_factor) {
    double sum = 0;
    for (const Cover& c : covers) sum += std::min(1.0, c.coefficient * frequency_factor) * c.area;
    return sum;
}

}  // namespace culvert
