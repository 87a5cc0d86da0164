// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <functional>
#include <numbers>

#include "core/analysis/explain.h"
#include "core/analysis/solver.h"
#include "core/model/edit.h"
#include "support/rain.h"
#include "support/workings.h"

using namespace culvert;
using culvert::testing::follow;
using culvert::testing::step_of;
using std::numbers::pi;

namespace {

bool close(double a, double b, double within) { return std::abs(a - b) <= within * std::max(1e-12, std::abs(b)); }

/// A pipe of a shape, and its full area and perimeter by formulas of its own; an area at a depth where one is at hand.
struct Case {
    const char* name;
    Pipe pipe;
    double height, span, area, perimeter;
    bool open;
    std::function<std::pair<double, double>(double)> wetted;  ///< area and perimeter at a depth
};
Pipe shaped_pipe(Shape shape, double size, double width = not_given, double sides = 0) {
    Pipe p;
    p.id = 11;
    p.from = {1};
    p.to = {2};
    p.shape = shape;
    p.size = size;
    p.width = width;
    p.sides = sides;
    p.invert_from = 100.3;
    p.invert_to = 100;
    return p;
}
/// Half the way round an ellipse, by many chords.
double half_ellipse(double a, double b) {
    double sum = 0;
    const int n = 200000;
    for (int i = 0; i < n; ++i) {
        const double s = pi * i / n, t = pi * (i + 1) / n;
        sum += std::hypot(a * (std::cos(t) - std::cos(s)), b * (std::sin(t) - std::sin(s)));
    }
    return sum;
}
std::vector<Case> cases() {
    Pipe custom = shaped_pipe(Shape::Custom, 0.5);
    custom.section_across = {0, 0.4, 1.0, 2.2};  // 1.5 to 1 left, a bed of 0.6, 2 to 1 right
    custom.section_up = {1.1, 0.5, 0.5, 1.1};
    custom.section_across[0] = 0.4 - 1.5 * 0.6;
    const double r = 0.4, t = std::atan(0.75);
    const auto trapezoid = [](double b, double left, double right) {
        return [=](double y) {
            return std::pair{(b + (left + right) / 2 * y) * y, b + y * (std::hypot(1, left) + std::hypot(1, right))};
        };
    };
    const auto of = [](auto f, double y) { return f(y); };
    std::vector<Case> list{
        {"circle", shaped_pipe(Shape::Circular, 0.6), 0.6, 0.6, pi * 0.09, pi * 0.6, false, {}},
        {"box", shaped_pipe(Shape::Box, 0.6, 0.9), 0.6, 0.9, 0.54, 3.0, false,
         [](double y) {
             return std::pair{0.9 * y, 0.9 + 2 * y};
         }},
        {"square box", shaped_pipe(Shape::Box, 0.6), 0.6, 0.6, 0.36, 2.4, false, {}},
        {"ellipse",
         shaped_pipe(Shape::Ellipse, 0.6, 0.9),
         0.6,
         0.9,
         pi * 0.3 * 0.45,
         2 * half_ellipse(0.45, 0.3),
         false,
         {}},
        {"arch",
         shaped_pipe(Shape::Arch, 0.6, 1.1),
         0.6,
         1.1,
         pi * 1.1 * 0.6 / 4,
         1.1 + half_ellipse(0.55, 0.6),
         false,
         {}},
        {"egg",
         shaped_pipe(Shape::Egg, 1.2),
         1.2,
         0.8,
         r * r * (pi / 2 + 9 * t - 3 + (pi / 2 - t) / 4),
         pi * r + 6 * r * std::asin(0.6) + r * std::atan2(4, 3),
         false,
         {}},
        {"half round",
         shaped_pipe(Shape::HalfRound, 0.7, 0.8),
         0.7,
         0.8,
         pi * 0.16 / 2 + 0.8 * 0.3,
         pi * 0.4 + 0.6,
         true,
         {}},
        {"trapezoid", shaped_pipe(Shape::Trapezoid, 0.8, 0.5, 2), 0.8, 3.7, 0, 0, true, trapezoid(0.5, 2, 2)},
        {"channel with walls", shaped_pipe(Shape::Trapezoid, 0.8, 0.5, 0), 0.8, 0.5, 0, 0, true, trapezoid(0.5, 0, 0)},
        {"triangle", shaped_pipe(Shape::Trapezoid, 0.8, not_given, 3), 0.8, 4.8, 0, 0, true, trapezoid(0, 3, 3)},
        {"custom", custom, 0.6, 2.7, 0, 0, true, trapezoid(0.6, 1.5, 2)}};
    for (Case& c : list)
        if (c.area == 0) std::tie(c.area, c.perimeter) = of(c.wetted, c.height);
    return list;
}
Project one(Pipe pipe, double flow, UnitSystem units = UnitSystem::Si, double tailwater = not_given) {
    Project p = new_project(units);
    p.settings_rows.change(settings_id)->edition = units == UnitSystem::Si ? Edition::Si : Edition::Us;
    for (const std::uint64_t i : {1, 2}) {
        Structure s;
        s.id = i;
        s.name = i == 1 ? "A1" : "A2";
        s.kind = i == 1 ? StructureKind::Manhole : StructureKind::Outfall;
        s.x = i == 1 ? 0 : 60;
        s.y = 0;
        s.rim = 104;
        s.known_flow = i == 1 ? flow : 0;
        if (i == 2 && !std::isnan(tailwater)) s.tailwater = Tailwater::Level, s.tailwater_level = tailwater;
        p.structures.insert(s);
    }
    p.pipes.insert(pipe);
    p.events.insert(culvert::testing::ten_years());
    return p;
}
double manning(double a, double p, double slope, double n = 0.013) {
    return a * std::pow(a / p, 2.0 / 3) * std::sqrt(slope) / n;
}

}  // namespace

/// Pipes of every shape in a project: their sections, what they carry, and the working of it.
class TestShapes : public QObject {
    Q_OBJECT
  private slots:
    void a_pipe_has_the_section_its_fields_say() {
        for (const Case& c : cases()) {
            const Section s = section_of(c.pipe);
            QVERIFY2(section_fault(c.pipe).empty(), c.name);
            QVERIFY2(close(height(s), c.height, 1e-9) && close(span_of(s), c.span, 1e-4), c.name);
            QVERIFY2(close(full_area(s), c.area, 1e-4), c.name);
            QVERIFY2(close(full_perimeter(s), c.perimeter, 2e-4), c.name);
            QVERIFY2(is_open(s) == c.open, c.name);
        }
    }
    void a_size_is_written_with_its_width_and_number() {
        const UnitSet u(UnitSystem::Si);
        Pipe p = shaped_pipe(Shape::Box, 0.6, 0.9);
        QCOMPARE(size_words(u, p), std::string("900 × 600 mm"));
        p.barrels = 3;
        QCOMPARE(size_words(u, p), std::string("3 of 900 × 600 mm"));
        QCOMPARE(size_words(u, p, false), std::string("3 of 900 × 600"));
        for (const Case& c : cases())
            if (c.pipe.shape == Shape::Custom) QCOMPARE(size_words(u, c.pipe), std::string("600 mm"));
    }
    void what_is_no_section_is_said() {
        const auto fault = [](Pipe p) { return section_fault(p); };
        QCOMPARE(fault(shaped_pipe(Shape::Trapezoid, 0.8)), std::string("has neither a bed nor sloping sides"));
        QCOMPARE(fault(shaped_pipe(Shape::Trapezoid, 0.8, 0.4)), std::string());
        QCOMPARE(fault(shaped_pipe(Shape::Trapezoid, 0.8, not_given, 1)), std::string());
        for (const Shape s : {Shape::Box, Shape::Ellipse, Shape::Arch, Shape::HalfRound}) {
            QCOMPARE(fault(shaped_pipe(s, 0.8, 0)), std::string("has no width"));
            QCOMPARE(fault(shaped_pipe(s, 0.8)), std::string());
        }
        QCOMPARE(fault(shaped_pipe(Shape::Egg, 0.8, 0)), std::string());
        Pipe custom = shaped_pipe(Shape::Custom, 0.5);
        custom.section_across = {0, 1, 2};
        custom.section_up = {1, 0};
        QCOMPARE(fault(custom), std::string("has 3 places across but 2 heights"));
        custom.section_up = {1, 1, 1};
        QVERIFY(!fault(custom).empty());
        custom.section_up = {1, 0, 1};
        QCOMPARE(fault(custom), std::string());

        // Such a pipe takes no part in the levels, its card is pointed at, and nothing of it is explained.
        for (const auto& [pipe, field, words] :
             {std::tuple{shaped_pipe(Shape::Box, 0.6, 0), "width", "its section has no width"},
              std::tuple{[] {
                             Pipe p = shaped_pipe(Shape::Custom, 0.5);
                             p.section_across = {0, 1};
                             p.section_up = {1, 0, 1};
                             return p;
                         }(),
                         "section_across", "its section has 2 places across but 3 heights"},
              std::tuple{[] {
                             Pipe p = shaped_pipe(Shape::Circular, 0.5);
                             p.roughness = not_given;
                             return p;
                         }(),
                         "roughness", "its Manning n is not given"}}) {
            const Project p = one(pipe, 0.1);
            const auto r = solve(p)[0];
            bool said = false;
            for (const Fault& f : r->network->faults)
                said |= f.element == ElementRef{Kind::Pipe, 11} && f.field == field &&
                        f.detail.find(words) != std::string::npos;
            QVERIFY2(said, words);
            QVERIFY(std::isnan(r->links[0].level.head_up));
            const Explanation e = explain(p, *r, {Kind::Pipe, 11}, "capacity");
            QVERIFY(e.steps.empty() && e.error.find("cannot be solved") != std::string::npos);
            QVERIFY(explain(p, *r, {Kind::Pipe, 11}, "flow").error.empty());
        }
    }
    void every_shape_carries_what_manning_says() {
        for (const Case& c : cases())
            for (const double barrels : {1.0, 3.0}) {
                Pipe pipe = c.pipe;
                pipe.barrels = barrels;
                const double full = manning(c.area, c.perimeter, 0.005), flow = 0.4 * full * barrels;
                const Project p = one(pipe, flow);
                const auto r = solve(p)[0];
                QVERIFY2(close(r->network->links[0].capacity, full * barrels, 3e-4), c.name);
                const LinkFlow& f = r->links[0].flow;
                QVERIFY2(close(f.flow, flow, 1e-12), c.name);
                if (!c.wetted) continue;
                // Depth at which this much runs, by halving.
                double low = 0, high = c.height;
                for (int i = 0; i < 200; ++i) {
                    const double y = (low + high) / 2;
                    const auto [a, wet] = c.wetted(y);
                    (manning(a, wet, 0.005) < flow / barrels ? low : high) = y;
                }
                QVERIFY2(close(f.normal, low, 1e-6), c.name);
                QVERIFY2(close(f.velocity, flow / barrels / c.wetted(low).first, 1e-6), c.name);
            }
    }
    void the_peak_below_full_is_a_capacity_of_its_own() {
        for (const Case& c : cases()) {
            Project p = one(c.pipe, 0.01);
            const double full = solve(p)[0]->network->links[0].capacity;
            p.settings_rows.change(settings_id)->capacity_basis = CapacityBasis::Peak;
            const double peak = solve(p)[0]->network->links[0].capacity;
            // The largest over the depths, looked at one by one.
            // Not of a box, which fills at once when the water meets its lid.
            const Section s = section_of(c.pipe);
            double most = std::holds_alternative<Box>(s) ? full : 0;
            for (int i = 1; i <= 20000 && !std::holds_alternative<Box>(s); ++i) {
                const Wetted w = wetted(s, height(s) * i / 20000.0 * (1 - 1e-9));
                most = std::max(most, manning(w.area, w.perimeter, 0.005));
            }
            QVERIFY2(close(peak, std::max(full, most), 1e-4), c.name);
        }
    }
    void workings_of_every_shape_can_be_followed() {
        for (const UnitSystem units : {UnitSystem::Si, UnitSystem::Us})
            for (const Case& c : cases())
                for (const double barrels : {1.0, 2.0})
                    for (const CapacityBasis basis : {CapacityBasis::Full, CapacityBasis::Peak})
                        for (const double tailwater : {not_given, 102.5}) {
                            Pipe pipe = c.pipe;
                            pipe.barrels = barrels;
                            const double flow = 0.4 * barrels * manning(c.area, c.perimeter, 0.005);
                            Project p = one(pipe, flow, units, tailwater);
                            p.settings_rows.change(settings_id)->capacity_basis = basis;
                            const auto r = solve(p)[0];
                            const double len = units == UnitSystem::Si ? 1 : 0.3048;
                            for (const char* of :
                                 {"capacity", "normal depth", "velocity", "friction", "level", "flow"}) {
                                const Explanation e = explain(p, *r, {Kind::Pipe, 11}, of);
                                QVERIFY2(e.error.empty() && !e.steps.empty(), of);
                                follow(e.steps, of, {"S", "R", "K", "Sf", "Qfull"});
                                for (const Step& s : e.steps) QVERIFY2(std::isfinite(s.result), s.symbol.c_str());
                            }
                            const Working w = explain(p, *r, {Kind::Pipe, 11}, "capacity").steps;
                            const bool table = c.pipe.shape != Shape::Circular && c.pipe.shape != Shape::Box;
                            QVERIFY2(close(step_of(w, "A")->result * len * len, c.area, 1e-4), c.name);
                            QVERIFY2(close(step_of(w, "R")->result * len, c.area / c.perimeter, 3e-4), c.name);
                            QCOMPARE(step_of(w, "P") != nullptr, table);
                            if (table) {
                                QVERIFY2(close(step_of(w, "P")->result * len, c.perimeter, 2e-4), c.name);
                                QCOMPARE(step_of(w, "A")->source, std::string("along its outline"));
                                QCOMPARE(step_of(w, "A")->meaning.find("banks") != std::string::npos, c.open);
                            }
                            QVERIFY2(close(step_of(w, "Qfull")->result * len * len * len,
                                           manning(c.area, c.perimeter, 0.005), 3e-4),
                                     c.name);
                            QCOMPARE(step_of(w, "Qb") != nullptr, barrels > 1 && basis == CapacityBasis::Full);
                            QCOMPARE(step_of(w, "Qpeak") != nullptr, basis == CapacityBasis::Peak);
                            if (const Step* q = step_of(w, "Qb"))
                                QVERIFY(close(q->result, barrels * step_of(w, "Qfull")->result, 1e-9));
                            QVERIFY(close(step_of(w, "Q/Qfull")->result,
                                          r->links[0].flow.flow / r->network->links[0].capacity, 1e-9));
                            const Working n = explain(p, *r, {Kind::Pipe, 11}, "normal depth").steps;
                            const double y = r->links[0].flow.normal;
                            const Wetted wet = wetted(section_of(c.pipe), y);
                            QVERIFY2(close(step_of(n, "A")->result * len * len, wet.area, 1e-9), c.name);
                            QVERIFY2(close(step_of(n, "P")->result * len, wet.perimeter, 1e-9), c.name);
                            QVERIFY2(close(step_of(n, "y/D")->result, y / c.height, 1e-9), c.name);
                            if (table) QVERIFY2(close(step_of(n, "y")->result * len, y, 1e-9), c.name);
                        }
    }
    void an_outfall_drowned_pipe_loses_friction_over_its_length() {
        for (const Case& c : cases()) {
            if (c.open) continue;
            const double flow = 0.8 * manning(c.area, c.perimeter, 0.005);
            const Project p = one(c.pipe, flow, UnitSystem::Si, 103);
            const auto r = solve(p)[0];
            const Working w = explain(p, *r, {Kind::Pipe, 11}, "friction").steps;
            QVERIFY2(step_of(w, "A") && close(step_of(w, "A")->result, c.area, 1e-4), c.name);
            QVERIFY2(step_of(w, "R") && close(step_of(w, "R")->result, c.area / c.perimeter, 3e-4), c.name);
            QVERIFY2(close(step_of(w, "K")->result, manning(c.area, c.perimeter, 1), 3e-4), c.name);
            QVERIFY2(step_of(w, "hf") && close(step_of(w, "hf")->result, 60 * 0.005 * 0.64, 1e-3), c.name);
            QVERIFY2(close(r->links[0].level.head_up + 0.3 - r->links[0].level.head_down, 60 * 0.005 * 0.64, 1e-3),
                     c.name);
        }
    }
};
QTEST_APPLESS_MAIN(TestShapes)
#include "test_shapes.moc"
