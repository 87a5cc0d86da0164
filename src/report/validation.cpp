// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/validation.h"

#include <cmath>
#include <numbers>

#include "core/analysis/solver.h"
#include "core/hydraulics/barrel.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/hydrology/concentration.h"
#include "core/hydrology/idf_fit.h"
#include "core/model/edit.h"
#include "core/streets/spacing.h"

namespace culvert {

double ValidationCase::difference() const {
    const double d = std::abs(computed - expected);
    return relative ? d / std::abs(expected) : d;
}

namespace {

/// Independent of the barrel's own integration: classical Runge-Kutta in x with very many steps, geometry from the
/// depth.
double runge_kutta_upstream(const Barrel& b, double depth_down, double length, int steps) {
    const auto slope = [&](double y) {
        const double d = std::get<Circular>(b.section).diameter;
        const double theta = 2 * std::acos(1 - 2 * y / d), a = d * d / 8 * (theta - std::sin(theta)), p = d * theta / 2,
                     t = d * std::sin(theta / 2);
        const double r = a / p, sf = std::pow(b.flow * b.n / (a * std::pow(r, 2.0 / 3)), 2),
                     fr2 = b.flow * b.flow * t / (gravity * a * a * a);
        return (b.slope - sf) / (1 - fr2);
    };
    const double h = -length / steps;
    double y = depth_down;
    for (int i = 0; i < steps; ++i) {
        const double k1 = slope(y), k2 = slope(y + h / 2 * k1), k3 = slope(y + h / 2 * k2), k4 = slope(y + h * k3);
        y += h / 6 * (k1 + 2 * k2 + 2 * k3 + k4);
    }
    return y;
}

}  // namespace

std::vector<ValidationCase> run_validation() {
    std::vector<ValidationCase> cases;
    const auto add = [&](std::string name, std::string against, std::string unit, double expected, double computed,
                         double tolerance, bool relative = true) {
        cases.push_back(
            {std::move(name), std::move(against), std::move(unit), expected, computed, tolerance, relative});
    };
    using std::numbers::pi;
    const Section c450 = Circular{0.45}, c600 = Circular{0.6};
    const double full = full_capacity(c450, 0.013, 0.006);
    add("full capacity, circle 450 mm at 0.6 %", "pi D^2/4 (D/4)^(2/3) sqrt(S)/n", "m3/s",
        pi * 0.45 * 0.45 / 4 * std::pow(0.45 / 4, 2.0 / 3) * std::sqrt(0.006) / 0.013, full, 1e-12);
    add("normal depth at half the full flow, circle", "half full, by symmetry of A and P", "m", 0.225,
        normal_depth(c450, 0.013, 0.006, full / 2), 1e-10);
    double peak = 0, peak_at = 0;
    for (int i = 1; i < 1000000; ++i) {
        const double y = i * 1e-6, th = 2 * std::acos(1 - 2 * y), a = (th - std::sin(th)) / 8, p = th / 2,
                     q = std::pow(a, 5.0 / 3) / std::pow(p, 2.0 / 3);
        if (q > peak) peak = q, peak_at = y;
    }
    const double unit_full = std::pow(pi / 4, 5.0 / 3) / std::pow(pi, 2.0 / 3);
    add("largest flow of a circle over the full one", "search over a million depths", "", peak / unit_full,
        peak_ratio(c450), 1e-9);
    add("depth of the largest flow, y/D", "search over a million depths", "", peak_at,
        normal_depth(Circular{1}, 0.013, 0.01,
                     full_capacity(Circular{1}, 0.013, 0.01) * peak_ratio(c450) * (1 - 1e-13)),
        1e-4, false);
    add("critical depth, box 2 m wide, 6 m3/s", "(q^2/g)^(1/3)", "m", std::cbrt(9 / gravity),
        critical_depth(Box{2, 3}, 6), 1e-12);
    const double yc = critical_depth(c600, 0.3);
    add("Froude number at critical depth, circle", "1 by definition", "", 1, froude(c600, yc, 0.3), 1e-9);
    const double q = 2.0, y1 = 0.4;
    const double fr = q / 1.0 / y1 / std::sqrt(gravity * y1), y2 = y1 / 2 * (std::sqrt(1 + 8 * fr * fr) - 1);
    add("momentum before and after a jump, box 1 m", "conjugate depth y2/y1 = (sqrt(1+8Fr^2)-1)/2", "m3",
        momentum(Box{1, 3}, y1, q), momentum(Box{1, 3}, y2, q), 1e-12);
    const Barrel m1{c600, 0.013, 80, 0.003, 0.18};
    add("backwater M1, 80 m of 600 mm", "Runge-Kutta, 200 000 steps", "m", runge_kutta_upstream(m1, 0.55, 80, 200000),
        subcritical_curve(m1, state_of(m1), 0.55).depth_up, 1e-4, false);
    const double m2_start = state_of(m1).critical * 1.05;
    add("drawdown M2, 80 m of 600 mm", "Runge-Kutta, 200 000 steps", "m",
        runge_kutta_upstream(m1, m2_start, 80, 200000), subcritical_curve(m1, state_of(m1), m2_start).depth_up, 1e-4,
        false);
    const Barrel adverse{c600, 0.013, 60, -0.002, 0.12};
    add("adverse slope A2, 60 m of 600 mm", "Runge-Kutta, 200 000 steps", "m",
        runge_kutta_upstream(adverse, 0.45, 60, 200000), subcritical_curve(adverse, state_of(adverse), 0.45).depth_up,
        1e-4, false);
    const Barrel pressed{c450, 0.013, 106.2, 0.006, 0.264};
    const double k = full_conveyance(c450, 0.013);
    add("pressure head, 106.2 m of 450 mm, 264 l/s", "(Q/K)^2 L - S0 L", "m",
        0.8 + (0.264 / k) * (0.264 / k) * 106.2 - 0.006 * 106.2,
        subcritical_curve(pressed, state_of(pressed), 0.8).depth_up, 1e-12);
    const std::vector<double> durations{300, 3600}, intensities{100 / 3.6e6, 100 / 3.6e6 * std::pow(12, -0.7)};
    add("intensity between two durations", "i = i0 (t/t0)^-0.7", "mm/h", 100 * std::pow(4, -0.7),
        IdfCurve(durations, intensities).intensity(1200) * 3.6e6, 1e-12);
    // Streets. The examples of the manual are recalled from memory: they prove nothing alone.
    const StreetConstants si = street_constants(Edition::Si);
    const Gutter uniform{CompositeSection{0, 0.02, 0.02, 9}, 0.01, 0.016};
    add("gutter, spread of 50 l/s at 1 %, Sx 2 %", "HEC-22 example, from memory: 2.7 m", "m", 2.7,
        gutter_flow(uniform, 0.05, si).spread, 0.05, false);
    add("gutter, flow at 2.5 m of spread", "(Ku/n) Sx^(5/3) SL^(1/2) T^(8/3)", "m3/s",
        0.376 / 0.016 * std::pow(0.02, 5.0 / 3) * 0.1 * std::pow(2.5, 8.0 / 3), flow_of_depth(uniform, 0.05, si),
        1e-12);
    const CompositeSection composite{0.6, 0.06, 0.02, 9};
    const double ratio = 3, eo = 1 / (1 + ratio / (std::pow(1 + ratio / (2.4 / 0.6 - 1), 8.0 / 3) - 1));
    add("share of the flow in a composite gutter", "HEC-22 eq. 4-4", "", eo,
        frontal_share(composite, depth_of_spread(composite, 2.4), 0.6), 1e-12);
    double strips = 0;
    const double deep = depth_of_spread(composite, 2.4);
    for (int i = 0; i < 200000; ++i) {
        const double x = (i + 0.5) * 2.4 / 200000, d = deep - (x < 0.6 ? x * 0.06 : 0.036 + (x - 0.6) * 0.02);
        strips += std::pow(std::max(d, 0.0), 5.0 / 3) * 2.4 / 200000;
    }
    add("flow of a composite gutter, 2.4 m of spread", "200,000 strips across it", "m3/s",
        8.0 / 3 * 0.376 / 0.016 * std::sqrt(0.01) * strips, flow_of_depth({composite, 0.01, 0.016}, deep, si), 1e-6);
    const double lt = 0.817 * std::pow(0.05, 0.42) * std::pow(0.01, 0.3) * std::pow(1 / (0.016 * 0.02), 0.6);
    add("curb opening of 3 m on a grade, 50 l/s", "1 - (1 - L/LT)^1.8", "", 1 - std::pow(1 - 3 / lt, 1.8),
        on_grade(CurbOpening{3, 0.15}, uniform, 0.05, si).efficiency, 1e-12);
    add("depth over a 2.4 m opening in a sag, 60 l/s", "(Q / 1.60 L)^(2/3)", "m", std::pow(0.06 / (1.6 * 2.4), 2.0 / 3),
        sag_depth(CurbOpening{2.4, 0.15}, uniform.section, 0.06, si), 1e-9);
    SpacingTask task;
    task.profile = {{0, 110}, {1500, 80}};
    task.section = CompositeSection{0.5, 0.05, 0.02, 4};
    task.inlet = Grate{0.6, 0.45, 2};
    task.load = 2.4e-4;
    task.end = 1500;
    task.constants = si;
    const double allowed = flow_of_depth({task.section, 0.02, 0.016}, depth_of_spread(task.section, 2), si);
    add("first inlet of a street of 2 %", "Q(allowed spread) / load", "m", allowed / task.load,
        space_inlets(task).inlets.front().station, 1e-9);
    add("sheet flow, 100 ft of grass at 1 %, 3.6 in", "0.007 (nL)^0.8 / (P2^0.5 s^0.4)", "min",
        60 * 0.007 * std::pow(24, 0.8) / (std::sqrt(3.6) * std::pow(0.01, 0.4)),
        travel_time(SheetFlow{30.48, 0.01, 0.24, 0.09144}, {}) / 60, 1e-12);
    const std::vector<double> minutes{5, 10, 20, 40, 80},
        by_equation{1500 / std::pow(15, 0.8), 1500 / std::pow(20, 0.8), 1500 / std::pow(30, 0.8),
                    1500 / std::pow(50, 0.8), 1500 / std::pow(90, 0.8)};
    add("b of an equation through its own table", "i = 1500 / (t + 10)^0.8", "min", 10, fit_idf(minutes, by_equation).b,
        1e-6);
    // A two-pipe network by hand: 0.7 ha at C 0.72 in 8 min, 100 mm/h whatever the time.
    Project p = new_project(UnitSystem::Si);
    const auto structure = [&](std::uint64_t id, StructureKind kind, double x, double rim) {
        Structure s;
        s.id = id;
        s.kind = kind;
        s.x = x;
        s.rim = rim;
        p.structures.insert(s);
    };
    structure(11, StructureKind::Inlet, 0, 102);
    structure(12, StructureKind::Outfall, 50, 101);
    Pipe pipe;
    pipe.id = 21;
    pipe.from = {11};
    pipe.to = {12};
    pipe.size = 0.45;
    pipe.invert_from = 100;
    pipe.invert_to = 99.5;
    p.pipes.insert(pipe);
    Catchment catchment;
    catchment.id = 31;
    catchment.structure = {11};
    catchment.area = 7000;
    catchment.coefficient = 0.72;
    catchment.time = 480;
    p.catchments.insert(catchment);
    RainEvent e;
    e.id = 41;
    e.durations = {600};
    e.intensities = {100 / 3.6e6};
    p.events.insert(e);
    const Results r = solve(p);
    add("rational flow, 0.7 ha at C 0.72, 100 mm/h", "C i A / 360", "m3/s", 0.72 * 100 * 0.7 / 360,
        r[0]->nodes[0].flow.flow, 1e-12);
    return cases;
}

}  // namespace culvert
