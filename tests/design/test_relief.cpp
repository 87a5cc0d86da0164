// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/design/pipe_fit.h"
#include "core/design/relief.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/model/lay.h"
#include "support/rain.h"

using namespace culvert;

namespace {

bool close(double a, double b, double within = 1e-9) { return std::abs(a - b) <= within; }

/// A1 at (0, 0), A2 at a place, an outfall A3 60 m on; a pipe of 0.45 m with its wall between them.
Project two(Point second, std::vector<Point> bends = {}) {
    Project p = new_project(UnitSystem::Si);
    const Point at[] = {{0, 0}, second, {second.x + 60, second.y}};
    for (int i = 0; i < 3; ++i) {
        Structure s;
        s.id = static_cast<std::uint64_t>(i) + 1;
        s.name = "A" + std::to_string(s.id);
        s.kind = i < 2 ? StructureKind::Manhole : StructureKind::Outfall;
        s.x = at[i].x;
        s.y = at[i].y;
        s.rim = 53 - 0.5 * i;
        p.structures.insert(s);
    }
    for (int i = 0; i < 2; ++i) {
        Pipe q;
        q.id = static_cast<std::uint64_t>(i) + 11;
        q.from = {static_cast<std::uint64_t>(i) + 1};
        q.to = {static_cast<std::uint64_t>(i) + 2};
        q.material = "concrete";
        q.group = "main";
        q.size = 0.45;
        q.wall = 0.06;
        q.invert_from = 50 - 0.6 * i;
        q.invert_to = 49.5 - 0.6 * i;
        if (i == 0) q.bends = bends;
        p.pipes.insert(q);
    }
    p.events.insert(culvert::testing::ten_years());
    return p;
}
PipeSize size(Shape shape, double high, double wide) {
    PipeSize s;
    s.material = "vitrified clay";
    s.shape = shape;
    s.size = high;
    s.width = wide;
    s.roughness = 0.011;
    s.wall = 0.04;
    return s;
}

}  // namespace

/// Pipes beside pipes, and what a size asks of its slope.
class TestRelief : public QObject {
    Q_OBJECT
  private slots:
    /// It leads where the other leads, at its levels; a metre is clear between the outsides, from an eighth of the way
    /// to seven eighths.
    void a_relief_pipe_lies_a_metre_beside() {
        for (const Shape shape : {Shape::Circular, Shape::Box}) {
            const Project p = two({80, 0});
            const PipeSize s = size(shape, 0.3, shape == Shape::Box ? 0.8 : not_given);
            const Pipe &beside = *p.pipes.find(11), q = relief_pipe(p, beside, s);
            QVERIFY(q.id != 0 && q.id != 11 && q.from.value == 1 && q.to.value == 2);
            QVERIFY(q.material == s.material && q.shape == shape && q.size == 0.3 && q.wall == 0.04);
            QVERIFY(q.roughness == 0.011 && q.group == "main");
            if (shape == Shape::Box) QCOMPARE(q.width, 0.8);
            QVERIFY(q.invert_from == 50 && q.invert_to == 49.5);
            for (const Origin o : q.origin) QCOMPARE(o, Origin::Proposed);
            QCOMPARE(q.bends.size(), std::size_t{2});
            const double wide = shape == Shape::Box ? 0.8 : 0.3;
            for (int k = 0; k < 2; ++k) {
                const Point b = q.bends[static_cast<std::size_t>(k)];
                QVERIFY(close(b.x, k ? 70 : 10, 1e-3));
                const double clear = std::abs(b.y) - (0.225 + 0.06) - (wide / 2 + 0.04);
                QVERIFY2(close(clear, 1, 1.1e-3), qPrintable(QString::number(clear)));
            }
        }
    }
    void a_ditch_beside_keeps_its_side_slopes() {
        const Project p = two({80, 0});
        PipeSize s = size(Shape::Trapezoid, 0.6, 0.4);
        s.sides = 1.5;
        const Pipe q = relief_pipe(p, *p.pipes.find(11), s);
        QVERIFY(q.shape == Shape::Trapezoid && q.size == 0.6 && q.width == 0.4 && q.sides == 1.5);
    }
    /// Round a bend it keeps beside: every bend between the eighths has its own beside it, on one side.
    void it_follows_the_bends() {
        const Project p = two({80, 60}, {{80, 0}});
        const Pipe q = relief_pipe(p, *p.pipes.find(11), size(Shape::Circular, 0.3, not_given));
        QCOMPARE(q.bends.size(), std::size_t{3});
        const double off = 1 + 0.285 + 0.19;
        // 140 m in all: 17.5 m, the bend at 80 m, 122.5 m.
        QVERIFY(close(q.bends[0].x, 17.5, 1e-3) && close(std::abs(q.bends[0].y), off, 1.1e-3));
        QVERIFY(close(q.bends[2].y, 42.5, 1e-3) && close(std::abs(q.bends[2].x - 80), off, 1.1e-3));
        QVERIFY(close(distance(q.bends[1], {80, 0}), off, 0.7));
        QVERIFY((q.bends[0].y > 0) == (q.bends[2].x < 80));  // left of it all the way, or right of it
        // A bend in the first eighth is left out; a pipe too short for an offset runs straight.
        const Project early = two({90, 10}, {{5, 10}});
        QCOMPARE(relief_pipe(early, *early.pipes.find(11), size(Shape::Circular, 0.3, not_given)).bends.size(),
                 std::size_t{2});
        const Project brief = two({5.8, 0});
        QVERIFY(relief_pipe(brief, *brief.pipes.find(11), size(Shape::Circular, 0.3, not_given)).bends.empty());
        const Project enough = two({6.0, 0});
        QVERIFY(!relief_pipe(enough, *enough.pipes.find(11), size(Shape::Circular, 0.3, not_given)).bends.empty());
    }
    /// What a pipe takes from the catalogue it gives back.
    void a_size_put_is_the_size_had() {
        for (const Shape shape : {Shape::Circular, Shape::Box, Shape::Trapezoid, Shape::Ellipse}) {
            Project p = two({80, 0});
            PipeSize s = size(shape, 0.6, has_width(shape) ? 0.9 : not_given);
            if (shape == Shape::Trapezoid) s.sides = 1.5;
            p.pipes.change(11)->shape = shape;
            p.pipes.change(11)->material = s.material;
            Editing e(p, "put");
            put_size(e, 11, s, Origin::Proposed);
            apply(p, e.take());
            const PipeSize had = size_of(*p.pipes.find(11));
            QVERIFY(had.shape == shape && had.size == 0.6 && had.roughness == 0.011 && had.wall == 0.04);
            QVERIFY(had.material == s.material);
            if (has_width(shape)) QCOMPARE(had.width, 0.9);
            if (shape == Shape::Trapezoid) QVERIFY(had.sides == 1.5 && close(inside_width(had), 0.9 + 2 * 1.5 * 0.6));
            else QVERIFY(close(inside_width(had), has_width(shape) ? 0.9 : 0.6));
            const Section one = section_of_size(s), other = section_of(*p.pipes.find(11));
            QVERIFY(close(full_area(one), full_area(other), 1e-12));
            const Origin o = p.pipes.find(11)->origin[*field_index(Kind::Pipe, "size")];
            QCOMPARE(o, Origin::Proposed);
            QCOMPARE(p.pipes.find(11)->origin[*field_index(Kind::Pipe, "wall")], Origin::Catalogue);
            // A metre by its size; where it has a width, by the mean of both.
            const double by = has_width(shape) ? 0.75 : 0.6;
            QVERIFY(close(price_of_size(p, s), p.settings().pipe_price * by, 1e-9));
        }
    }
    /// At the bounds of the slopes found the limit is just met by the flow as it runs there, a little beyond it is not.
    void slopes_bound_what_they_say() {
        std::mt19937 random(11);
        const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        int least[5] = {}, most = 0, none = 0;
        for (int round = 0; round < 600; ++round) {
            const Section section = round % 2 ? Section{Circular{uniform(0.3, 1.5)}}
                                              : section_of(Shape::Box, uniform(0.4, 1.2), uniform(0.5, 2), 0);
            PipeNeeds needs;
            needs.flow = full_area(section) * uniform(0.05, 2.5);
            needs.peak = round % 3 == 0;
            const int what = round % 5;
            if (what == 0) needs.flow_ratio = uniform(0.5, 1);
            if (what == 1) needs.filled = uniform(0.4, 0.95);
            if (what == 2) needs.least_velocity = uniform(0.5, 1.5);
            if (what == 3) needs.most_velocity = uniform(1.5, 4);
            if (what == 4) needs.least_slope = 0.004, needs.most_slope = 0.05;
            const SlopeRange r = slope_range(section, 0.013, needs);
            const auto velocity = [&](double slope) {
                const double y = normal_depth(section, 0.013, slope, needs.flow);
                return std::isfinite(y) && y < height(section) ? needs.flow / wetted(section, y).area
                                                               : needs.flow / full_area(section);
            };
            const auto depth = [&](double slope) {
                const double y = normal_depth(section, 0.013, slope, needs.flow);
                return std::isfinite(y) ? y : 1e9;
            };
            const double more = r.least * 1.01, fewer = r.least * 0.99;
            if (what == 0) {
                const double q = full_capacity(section, 0.013, r.least) * (needs.peak ? peak_ratio(section) : 1);
                QVERIFY(close(needs.flow / q, needs.flow_ratio, 1e-6));
                QCOMPARE(r.least_by, LimitKind::MostFlowRatio);
                ++least[0];
            } else if (what == 1) {
                QVERIFY(depth(more) <= needs.filled * height(section) + 1e-6);
                QVERIFY(depth(fewer) >= needs.filled * height(section) - 1e-6);
                QCOMPARE(r.least_by, LimitKind::MostFilledDepth);
                ++least[1];
            } else if (what == 2) {
                if (r.least == 0) {  // faster than asked even where it runs full
                    QVERIFY(needs.flow / full_area(section) >= needs.least_velocity - 1e-9);
                    continue;
                }
                QVERIFY(velocity(more) >= needs.least_velocity - 1e-6);
                QVERIFY(velocity(fewer) <= needs.least_velocity + 1e-6);
                QCOMPARE(r.least_by, LimitKind::LeastVelocity);
                ++least[2];
            } else if (what == 3) {
                QCOMPARE(r.most_by, LimitKind::MostVelocity);
                if (r.most == 0) {
                    QVERIFY(needs.flow / full_area(section) >= needs.most_velocity - 1e-9);
                    ++none;
                    continue;
                }
                QVERIFY(velocity(r.most * 0.99) <= needs.most_velocity + 1e-6);
                QVERIFY(velocity(r.most * 1.01) >= needs.most_velocity - 1e-6);
                ++most;
            } else {
                QVERIFY(r.least == 0.004 && r.most == 0.05 && r.holds(0.004) && r.holds(0.05));
                QVERIFY(!r.holds(0.00399) && !r.holds(0.0501));
                ++least[4];
            }
        }
        QVERIFY(least[0] > 50 && least[1] > 50 && least[2] > 20 && least[4] > 50 && most > 20 && none > 5);
        PipeNeeds dry;
        dry.flow_ratio = dry.filled = 0.5;
        dry.least_velocity = 1;
        QVERIFY(slope_range(Circular{0.3}, 0.013, dry).least == 0);
    }
    /// Said where the tailwater alone stands above what is allowed: at a structure by its rim, at a pipe by its crown.
    void tailwater_is_named_with_what_it_stands_above() {
        Project p = two({80, 0});
        p.structures.change(1)->known_flow = 0.01;
        p.structures.change(3)->tailwater = Tailwater::Level;
        p.structures.change(3)->tailwater_level = 52.3;
        p.structures.change(3)->rim = 54;
        p.structures.change(2)->rim = 52.5;
        const Results r = solve(p);
        const auto words = [&](Rule rule, ElementRef at, double limit) {
            Finding f;
            f.element = at;
            f.check.rule = rule;
            f.check.limit = limit;
            return tailwater_words(p, *r[0], f);
        };
        const ElementRef a2{Kind::Structure, 2}, pipe{Kind::Pipe, 11};
        // Freeboard of 0.3 m below the rim of 52.5: 52.2 is allowed.
        QCOMPARE(words(Rule::LeastFreeboard, a2, 0.3),
                 std::string(
                     "no pipe helps: the tailwater of A3 alone, 52.300 m, stands 0.10 m above what is allowed at A2"));
        QVERIFY(words(Rule::LeastFreeboard, a2, 0.1).empty());  // 52.4 is allowed
        QVERIFY(words(Rule::Flooding, a2, 0.3).empty());        // only the rim counts
        QVERIFY(words(Rule::MostVelocity, pipe, 3).empty());
        // Surcharge: at the lower end of the pipe, 49.5 + 0.45 and what the limit lets stand above.
        QVERIFY(words(Rule::MostSurcharge, pipe, 0).find("2.35 m above what is allowed at A2") != std::string::npos);
        QVERIFY(words(Rule::MostSurcharge, pipe, 2.0).find("0.35 m above") != std::string::npos);
        QVERIFY(words(Rule::MostSurcharge, pipe, 2.4).empty());
        // Where the grade line starts at a free outfall no tailwater is blamed.
        p.structures.change(3)->tailwater = Tailwater::Free;
        const Results free = solve(p);
        Finding f;
        f.element = a2;
        f.check.rule = Rule::LeastFreeboard;
        f.check.limit = 50;
        QVERIFY(tailwater_words(p, *free[0], f).empty());
    }
};
QTEST_APPLESS_MAIN(TestRelief)
#include "test_relief.moc"
