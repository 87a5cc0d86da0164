// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydraulics/uniform_flow.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace culvert {
namespace {

using std::numbers::pi;
constexpr double none = std::numeric_limits<double>::quiet_NaN();

/// Newton held inside a bracket: f(low) <= 0 <= f(high). `f` returns value and slope.
template <class F>
double solve(F f, double low, double high, double guess) {
    double x = guess;
    for (int i = 0; i < 80; ++i) {
        const auto [value, slope] = f(x);
        if (value > 0) high = x;
        else low = x;
        double next = x - value / slope;
        if (!(next > low && next < high)) next = (low + high) / 2;
        const double moved = std::abs(next - x);
        x = next;
        if (moved <= 4e-15 * std::abs(x) || high - low <= 4e-16 * high) break;
        // Newton converges quadratically: a step this small means the next is below rounding.
        if (moved <= 1e-9 * std::abs(x) && next > low && next < high && std::abs(value) < 1e-8) break;
    }
    return x;
}

struct ValueSlope {
    double value, slope;
};

/// Half angle at which a circle with constant n carries most: 5 phi sin^2 phi = phi - sin phi cos phi ... see
/// peak_angle().
double find_peak_angle() {
    // d/dphi of A^(5/3) P^(-2/3) = 0  <=>  5 * 2 sin^2(phi) * phi = 2 (phi - sin phi cos phi)
    double low = 2, high = 3;
    for (int i = 0; i < 100; ++i) {
        const double phi = (low + high) / 2, s = std::sin(phi);
        (5 * s * s * phi > segment(phi) ? low : high) = phi;
    }
    return low;
}
double peak_angle() {
    static const double angle = find_peak_angle();
    return angle;
}

/// ln of the conveyance shape of a circle, (phi - sin phi cos phi)^(5/3) phi^(-2/3), times 3/5, and its slope.
ValueSlope circle_log_conveyance(double phi) {
    const double s = std::sin(phi), seg = phi > 0.3 ? phi - s * std::cos(phi) : segment(phi);
    return {std::log(seg) - 0.4 * std::log(phi), 2 * s * s / seg - 0.4 / phi};
}

/// Q n / sqrt(S) of a circle, made free of D: equals (phi - sin phi cos phi)^(5/3) phi^(-2/3); pi when full.
double circle_target(double d, double n, double slope, double flow) {
    const double quarter = d * d / 4;
    return flow * n / std::sqrt(slope) / (quarter * std::cbrt(quarter * quarter)) * std::cbrt(d * d);
}

/// Depth between two at which A R^(2/3) has a value: less at the first than at the second.
double depth_by_conveyance(const SectionTable& t, double value, double low, double high) {
    const auto shape_conveyance = [&t](double y) {
        const SectionTable::Row r = t.at(y);
        if (!(r.area > 0)) return 0.0;
        const double radius = r.area / r.perimeter;
        return r.area * std::cbrt(radius * radius);
    };
    for (int i = 0; i < 200 && std::abs(high - low) > 4e-16 * std::max(high, low); ++i) {
        const double y = (low + high) / 2;
        (shape_conveyance(y) < value ? low : high) = y;
    }
    return (low + high) / 2;
}

/// Q^2 T = g A^3, of several depths that of least energy; the height where no depth below it is critical.
double critical_in_table(const SectionTable& t, double flow) {
    const double q2 = flow * flow / gravity;
    /// Positive where the flow is fast.
    const auto excess = [&](double y, double share) {  // just above, or below, a level where the width leaps
        const SectionTable::Row r = t.at(y + share * 1e-9 * t.height());
        return q2 * r.top - r.area * r.area * r.area;
    };
    const std::vector<double> levels = t.levels();
    double best = none, energy = std::numeric_limits<double>::infinity();
    const auto offer = [&](double y) {
        const double a = t.at(y).area, e = a > 0 ? y + q2 / (2 * a * a) : energy;
        if (e < energy) {
            energy = e;
            best = y;
        }
    };
    for (std::size_t i = 0; i + 1 < levels.size(); ++i) {
        double low = levels[i], high = levels[i + 1];
        const bool fast = low <= 0 || excess(low, 1) > 0,
                   slow = i + 2 == levels.size() && !t.open() ? true : excess(high, -1) <= 0;
        if (i > 0 && excess(low, -1) > 0 && !fast) offer(low);  // it turns slow where the width leaps
        if (!fast || !slow) continue;
        for (int k = 0; k < 100 && high - low > 1e-15 * high; ++k) {
            const double y = (low + high) / 2;
            (excess(y, 0) > 0 ? low : high) = y;
        }
        offer((low + high) / 2);
    }
    return std::isnan(best) ? t.height() : best;
}

}  // namespace

double full_conveyance(const Section& section, double n) {
    const double a = full_area(section), r = a / full_perimeter(section);
    return a * std::cbrt(r * r) / n;
}

double conveyance(const Section& section, double n, double depth) {
    if (const auto* box = std::get_if<Box>(&section)) {
        const double y = std::clamp(depth, 0.0, box->height), a = box->width * y, r = a / (box->width + 2 * y);
        return a * std::cbrt(r * r) / n;
    }
    const Wetted w = wetted(section, depth);
    if (w.area <= 0) return 0;
    const double r = w.area / w.perimeter;
    return w.area * std::cbrt(r * r) / n;
}

double full_capacity(const Section& section, double n, double slope) {
    return slope > 0 ? full_conveyance(section, n) * std::sqrt(slope) : 0;
}

double peak_ratio(const Section& section) {
    if (std::holds_alternative<Box>(section)) return 1;
    if (const auto* other = std::get_if<Shaped>(&section)) return other->table->peak_ratio();
    static const double ratio = std::exp(circle_log_conveyance(peak_angle()).value / 0.6) / pi;
    return ratio;
}

double normal_depth(const Section& section, double n, double slope, double flow) {
    if (flow <= 0) return 0;
    if (slope <= 0) return none;
    if (const auto* box = std::get_if<Box>(&section))
        return flow > full_capacity(section, n, slope) ? none : open_normal_depth(*box, n, slope, flow);
    if (const auto* other = std::get_if<Shaped>(&section)) {
        const SectionTable& t = *other->table;
        if (flow > full_capacity(section, n, slope) * t.peak_ratio()) return none;
        return depth_by_conveyance(t, flow * n / std::sqrt(slope), 0, t.peak_depth());
    }
    const double d = std::get<Circular>(section).diameter;
    const double target = circle_target(d, n, slope, flow);
    if (target > peak_ratio(section) * pi) return none;
    const double goal = 0.6 * std::log(target);
    const auto f = [goal](double phi) {
        const auto [value, slope_] = circle_log_conveyance(phi);
        return ValueSlope{value - goal, slope_};
    };
    // Shallow water: 2/3 phi^2.6. The middle of the range is met within a few per cent by bending that power law.
    const double shallow = std::pow(1.5 * std::exp(goal), 1 / 2.6);
    const double guess = shallow * (1 + 0.045 * shallow * shallow);
    return CircleShape{d}.depth(solve(f, 0, peak_angle(), std::min(guess, peak_angle() * 0.99)));
}

double open_normal_depth(const Box& box, double n, double slope, double flow) {
    if (flow > conveyance(box, n, box.height) * std::sqrt(slope)) return box.height;
    const double b = box.width, target = std::log(flow * n / std::sqrt(slope));
    const auto f = [&](double y) {
        return ValueSlope{5.0 / 3 * std::log(b * y) - 2.0 / 3 * std::log(b + 2 * y) - target,
                          5 / (3 * y) - 4 / (3 * (b + 2 * y))};
    };
    const double wide =
        std::pow(flow * n / (b * std::sqrt(slope)), 0.6);  // exact for a very wide channel, low otherwise
    return solve(f, 0, box.height, std::min(wide, box.height * 0.999));
}

double upper_normal_depth(const Section& section, double n, double slope, double flow) {
    if (const auto* box = std::get_if<Box>(&section)) return box->height;
    if (const auto* other = std::get_if<Shaped>(&section)) {
        const SectionTable& t = *other->table;
        const double full = full_capacity(section, n, slope);
        if (slope <= 0 || flow <= full || flow > full * t.peak_ratio()) return t.height();
        return depth_by_conveyance(t, flow * n / std::sqrt(slope), t.height(), t.peak_depth());
    }
    const double d = std::get<Circular>(section).diameter;
    if (slope <= 0 || flow <= 0) return d;
    const double target = circle_target(d, n, slope, flow);
    if (target <= pi || target > peak_ratio(section) * pi) return d;
    double low = peak_angle(), high = pi;  // conveyance falls from low to high
    const double goal = 0.6 * std::log(target);
    for (int i = 0; i < 60; ++i) {
        const double phi = (low + high) / 2;
        (circle_log_conveyance(phi).value > goal ? low : high) = phi;
    }
    return CircleShape{d}.depth(low);
}

double critical_depth(const Section& section, double flow) {
    if (flow <= 0) return 0;
    if (const auto* box = std::get_if<Box>(&section)) {
        const double q = flow / box->width;
        return std::min(std::cbrt(q * q / gravity), box->height);
    }
    if (const auto* other = std::get_if<Shaped>(&section)) return critical_in_table(*other->table, flow);
    const double d = std::get<Circular>(section).diameter;
    const double goal = std::log(flow * flow / gravity * 64 / (d * d * d * d * d));
    const auto f = [goal](double phi) {
        const double s = std::sin(phi), c = std::cos(phi), seg = phi > 0.3 ? phi - s * c : segment(phi);
        return ValueSlope{3 * std::log(seg) - std::log(s) - goal, 6 * s * s / seg - c / s};
    };
    const double high = pi - 1e-7;
    static const double most = 3 * std::log(high - std::sin(high) * std::cos(high)) - std::log(std::sin(high));
    if (goal > most) return d;
    // Where to begin: (2/3)^3 phi^8 of a shallow flow, corrected; near the crown sin phi is what is small.
    const double s8 = std::exp(goal + 3 * std::log(1.5)), s2 = std::sqrt(std::sqrt(s8));
    const double guess = s2 < 3.5 ? std::sqrt(s2) * (1 + s2 * (0.0535 + s2 * (0.0072 + s2 * 0.0018)))
                                  : pi - 27.0 / 8 * pi * pi * pi / s8;
    return CircleShape{d}.depth(solve(f, 0, high, guess));
}

double froude(const Section& section, double depth, double flow) {
    const Wetted w = wetted(section, depth);
    if (w.area <= 0) return 0;
    return flow / w.area * std::sqrt(w.top / (gravity * w.area));
}

double specific_energy(const Section& section, double depth, double flow) {
    const double a = wetted(section, depth).area;
    if (a <= 0) return depth;
    return depth + flow * flow / (2 * gravity * a * a);
}

double depth_of_energy(const Section& section, double energy, double flow, bool subcritical) {
    const double top = height(section), critical = critical_depth(section, flow);
    if (flow <= 0) return subcritical ? std::max(energy, 0.0) : 0;
    if (energy <= specific_energy(section, critical, flow)) return critical;
    if (subcritical && energy >= specific_energy(section, top, flow))
        return energy - (specific_energy(section, top, flow) - top);
    double low = subcritical ? critical : 0,
           high = subcritical ? top : critical;  // energy rises to high / falls to high
    for (int i = 0; i < 70; ++i) {
        const double y = (low + high) / 2;
        const bool above = y <= 0 || specific_energy(section, y, flow) > energy;
        (above == subcritical ? high : low) = y;
    }
    return (low + high) / 2;
}

double fast_depth_behind_loss(const Section& section, double energy, double flow, double loss) {
    const double critical = critical_depth(section, flow);
    const auto needed = [&](double y) {
        const double a = wetted(section, y).area;
        return a > 0 ? y + (1 + loss) * flow * flow / (2 * gravity * a * a) : std::numeric_limits<double>::infinity();
    };
    if (!(energy >= needed(critical))) return none;
    double low = 0, high = critical;  // what is needed falls from low to high
    for (int i = 0; i < 70; ++i) {
        const double y = (low + high) / 2;
        (needed(y) > energy ? low : high) = y;
    }
    return (low + high) / 2;
}

double momentum(const Section& section, double depth, double flow) {
    if (const auto* circle = std::get_if<Circular>(&section); circle && depth > 0) {  // in one go: this is asked often
        const double d = circle->diameter, y = std::min(depth, d), phi = CircleShape{d}.parameter(y),
                     sine = std::sin(phi);
        const double a = d * d / 4 * (phi > 0.3 ? phi - sine * std::cos(phi) : segment(phi));
        const double moment = phi < 0.05 ? 0.4 * y * a : a * (y - d / 2) + d * d * d / 12 * sine * sine * sine;
        return flow * flow / (gravity * a) + moment + a * std::max(depth - d, 0.0);
    }
    const double y = std::min(depth, height(section)), a = wetted(section, y).area;
    if (a <= 0) return 0;
    const double pressure = std::max(depth - height(section), 0.0);
    return flow * flow / (gravity * a) + a * (centroid_depth(section, y) + pressure);
}

double design_velocity(const Section& section, double flow, double normal) {
    if (flow <= 0) return 0;
    const double a = std::isfinite(normal) ? wetted(section, normal).area : full_area(section);
    return a > 0 ? flow / a : 0;
}

}  // namespace culvert
