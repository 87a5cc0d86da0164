// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydrology/concentration.h"

#include <cmath>
#include <limits>

namespace culvert {
namespace {

constexpr double nan = std::numeric_limits<double>::quiet_NaN(), ft = 0.3048, inch = 0.0254;

struct Time {
    const IdfCurve& rain;
    double uplift;
    double operator()(const SheetFlow& s) const {
        if (!(s.slope > 0) || !(s.n > 0) || !(s.rain > 0)) return nan;
        return 3600 * 0.007 * std::pow(s.n * s.length / ft, 0.8) / (std::sqrt(s.rain / inch) * std::pow(s.slope, 0.4));
    }
    double operator()(const ShallowFlow& s) const {
        return s.slope > 0 ? s.length / ((s.paved ? 20.33 : 16.13) * ft * std::sqrt(s.slope)) : nan;
    }
    double operator()(const ChannelFlow& s) const {
        if (!(s.slope > 0) || !(s.n > 0) || !(s.radius > 0)) return nan;
        return s.length * s.n / (std::cbrt(s.radius * s.radius) * std::sqrt(s.slope));
    }
    double operator()(const WaveFlow& s) const {
        if (!(s.slope > 0) || !(s.n > 0) || rain.empty()) return nan;
        if (!(s.length > 0)) return 0;
        const double way = 60 * 6.92 * std::pow(s.n * s.length / std::sqrt(s.slope), 0.6);
        const auto by = [&](double t) { return way / std::pow(rain.intensity(t) * uplift * 3.6e6, 0.4); };
        // A longer time has weaker rain, which makes it longer: but less than in proportion, so there is one answer.
        double low = 1e-3, high = 60;
        while (by(high) > high && high < 1e8) high *= 2;
        for (int i = 0; i < 200 && high - low > 1e-12 * high; ++i) {
            const double mid = (low + high) / 2;
            (by(mid) > mid ? low : high) = mid;
        }
        return (low + high) / 2;
    }
    double operator()(const EnteredTime& s) const { return s.time; }
};

}  // namespace

double travel_time(const FlowPart& part, const IdfCurve& rain, double uplift) {
    return std::visit(Time{rain, uplift}, part);
}
double length_of(const FlowPart& part) {
    return std::visit(
        [](const auto& p) {
            if constexpr (requires { p.length; }) return p.length;
            else return 0.0;
        },
        part);
}
double velocity(const FlowPart& part, const IdfCurve& rain, double uplift) {
    const double length = length_of(part);
    return length > 0 ? length / travel_time(part, rain, uplift) : nan;
}
std::string_view part_name(const FlowPart& part) {
    constexpr std::string_view names[] = {"sheet flow", "shallow flow", "channel", "kinematic wave", "entered"};
    return names[part.index()];
}

double kirpich_time(double length, double slope) {
    return slope > 0 ? 60 * 0.0078 * std::pow(length / ft, 0.77) * std::pow(slope, -0.385) : nan;
}
double faa_time(double coefficient, double length, double slope) {
    return slope > 0 ? 60 * 1.8 * (1.1 - coefficient) * std::sqrt(length / ft) / std::cbrt(slope * 100) : nan;
}

}  // namespace culvert
