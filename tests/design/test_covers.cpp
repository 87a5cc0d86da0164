// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <chrono>
#include <cmath>
#include <random>

#include "core/design/cover_cut.h"

using namespace culvert;

namespace {

std::vector<Point> square(double x, double y, double w, double h) {
    return {{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}};
}
Project with_catchments(const std::vector<std::vector<Point>>& outlines) {
    Project p = new_project(UnitSystem::Si);
    std::uint64_t id = 5000;
    for (const auto& o : outlines) {
        Catchment c;
        c.id = id++;
        c.name = "C" + std::to_string(c.id);
        c.area = 1;
        c.coefficient = 0.5;
        c.outline = o;
        p.catchments.insert(c);
    }
    return p;
}
std::map<std::string, double> areas(const Project& p, const CoverCut& cut, std::uint64_t catchment = 5000) {
    Project q = p;
    apply(q, cut.edit);
    std::map<std::string, double> out;
    for (const LandCover& l : q.land_covers)
        if (l.catchment.value == catchment) out[l.name] += l.area;
    return out;
}
bool inside_ring(Point p, const std::vector<Point>& r) {
    bool in = false;
    for (std::size_t i = 0, j = r.size() - 1; i < r.size(); j = i++)
        if ((r[i].y > p.y) != (r[j].y > p.y) && p.x < (r[j].x - r[i].x) * (p.y - r[i].y) / (r[j].y - r[i].y) + r[i].x)
            in = !in;
    return in;
}

}  // namespace

/// Land covers cut by catchments: against areas by hand, and against counting points of a fine grid.
class TestCovers : public QObject {
    Q_OBJECT
  private slots:
    void areas_are_those_of_the_common_parts() {
        const double x = 450000, y = 5200000;  // coordinates of a national grid
        const Project p = with_catchments({square(x, y, 100, 50)});
        const CoverCut cut = cut_covers(
            p,
            {{"roof", {square(x - 10, y - 10, 60, 100)}, not_given, not_given, ""},
             {"lawn, sandy soil", {square(x + 50, y, 40, 50), square(x + 60, y + 10, 10, 10)}, 0.15, 45, ""}},
            false);
        const auto a = areas(p, cut);
        QVERIFY(std::abs(a.at("roof") - 2500) < 1e-6 &&
                std::abs(a.at("lawn, sandy soil") - 1900) < 1e-6);  // less its hole
        QVERIFY(std::abs(cut.bare - 600) < 1e-6 && cut.twice == 0 && cut.catchments == 1 && cut.covers == 2);
        Project q = p;
        apply(q, cut.edit);
        for (const LandCover& l : q.land_covers) {
            QVERIFY(l.name != "roof" ||
                    (std::abs(l.coefficient - 0.85) < 1e-12 && l.curve_number == 98 && l.impervious == 1));
            QVERIFY(l.name == "roof" ||
                    (std::abs(l.coefficient - 0.15) < 1e-12 && std::abs(l.curve_number - 45) < 1e-9));
        }
    }
    void covers_that_stand_stay_or_go_as_asked() {
        Project p = with_catchments({square(0, 0, 100, 50)});
        LandCover old;
        old.id = 77;
        old.name = "old";
        old.catchment = {5000};
        old.area = 10;
        old.coefficient = 0.4;
        p.land_covers.insert(old);
        const std::vector<CoverPolygon> layer{{"roof", {square(0, 0, 100, 50)}, not_given, not_given, ""}};
        QVERIFY(cut_covers(p, layer, false).edit.empty());
        const auto a = areas(p, cut_covers(p, layer, true));
        QVERIFY(a.size() == 1 && a.contains("roof"));
        // One that has covers ends nothing: the others get theirs.
        Project two = with_catchments({square(0, 0, 100, 50), square(0, 50, 100, 50)});
        old.catchment = {two.catchments.begin()->id};
        two.land_covers.insert(old);
        const std::vector<CoverPolygon> all{{"roof", {square(0, 0, 100, 100)}, not_given, not_given, ""}};
        const CoverCut cut = cut_covers(two, all, false);
        QCOMPARE(cut.catchments, std::size_t{1});
        apply(two, cut.edit);
        QCOMPARE(two.land_covers.size(), std::size_t{2});
        for (const LandCover& l : two.land_covers) QCOMPARE(l.name == "old", l.catchment == old.catchment);
    }
    void faults_are_named_and_left_out() {
        const Project p = with_catchments({square(0, 0, 100, 50), {{0, 0}, {10, 10}, {10, 0}, {0, 10}}});
        const CoverCut cut =
            cut_covers(p,
                       {{"roof", {{{0, 0}, {1, 1}}}, not_given, not_given, "feature 1"},
                        {"roof", {{{0, 0}, {50, 50}, {50, 0}, {0, 30}}}, not_given, not_given, "feature 2"},
                        {"roof", {{{0, 0}, {1e300, 0}, {0, 1e300}}}, not_given, not_given, "feature 3"},
                        {"gravel", {square(0, 0, 10, 10)}, not_given, not_given, "feature 4"},
                        {"gravel", {square(5, 0, 10, 10)}, not_given, not_given, "feature 5"}},
                       false);
        QCOMPARE(cut.remarks.size(), std::size_t{4});
        QVERIFY(QString::fromStdString(cut.remarks[1]).contains("feature 2: its outline crosses itself"));
        QCOMPARE(cut.catchments, std::size_t{1});
        QVERIFY(std::abs(areas(p, cut).at("gravel") - 200) <
                1e-9);  // 50 of it twice: the areas do not add up, and that is a finding
    }
    /// Random rings against a grid of points.
    void random_shapes_are_what_counting_gives() {
        std::mt19937 random(4);
        const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        const auto star = [&](double x, double y, double r) {
            std::vector<Point> ring;
            for (int i = 0; i < 9; ++i) {
                const double a = i * 2 * M_PI / 9, k = r * uniform(0.4, 1);
                ring.push_back({x + k * std::cos(a), y + k * std::sin(a)});
            }
            return ring;
        };
        for (int k = 0; k < 12; ++k) {
            const auto a = star(0, 0, 50), b = star(uniform(-40, 40), uniform(-40, 40), 40);
            const Project p = with_catchments({a});
            const auto found = areas(p, cut_covers(p, {{"woods", {b}, not_given, not_given, ""}}, false));
            int both = 0;
            constexpr int n = 600;
            for (int i = 0; i < n; ++i)
                for (int j = 0; j < n; ++j) {
                    const Point q{-50 + 100.0 * (i + 0.5) / n, -50 + 100.0 * (j + 0.5) / n};
                    both += inside_ring(q, a) && inside_ring(q, b);
                }
            const double counted = both * 1e4 / n / n, cut = found.contains("woods") ? found.at("woods") : 0;
            QVERIFY2(std::abs(cut - counted) < 12, qPrintable(QString("%1 %2").arg(cut).arg(counted)));
        }
    }
    void a_city_is_cut_in_a_second() {
        std::vector<std::vector<Point>> outlines;
        for (int i = 0; i < 100; ++i)
            for (int j = 0; j < 100; ++j) outlines.push_back(square(50.0 * i, 50.0 * j, 50, 50));
        const Project p = with_catchments(outlines);
        std::vector<CoverPolygon> layer;
        for (int i = 0; i < 50; ++i)
            for (int j = 0; j < 40; ++j)
                layer.push_back({(i + j) % 2 ? "roof" : "park, cemetery",
                                 {square(100.0 * i - 13, 125.0 * j - 7, 100, 125)},
                                 not_given,
                                 not_given,
                                 ""});
        const auto begin = std::chrono::steady_clock::now();
        const CoverCut cut = cut_covers(p, layer, false);
        const double s = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
        qInfo("10,000 catchments cut by 2,000 polygons in %.2f s", s);
        QCOMPARE(cut.catchments, std::size_t{10000});
        double sum = 0;
        Project q = p;
        apply(q, cut.edit);
        for (const LandCover& l : q.land_covers) sum += l.area;
        QVERIFY(std::abs(sum + cut.bare - 25e6) < 1);
        QVERIFY(s < 10);
    }
    /// A roof drawn over two catchments: each gets its part, and the ground it lies on gives it up.
    void a_drawn_cover_takes_its_ground_from_the_rest() {
        Project p = with_catchments({square(0, 0, 100, 50), square(100, 0, 100, 50), square(300, 0, 10, 10)});
        for (const std::uint64_t id : {5000, 5001}) p.catchments.change(id)->area = 5000;
        const LandCover roof = cover_of_kind(*land_cover_kind("roof"));
        const auto drawn = [&](const std::vector<Point>& outline) {
            const Edit e = draw_cover(p, outline, roof);
            QVERIFY(!e.empty());
            apply(p, e);
        };
        const auto sums = [&](std::uint64_t catchment) {
            std::map<std::string, double> out;
            for (const LandCover& l : p.land_covers)
                if (l.catchment.value == catchment) out[l.name] += l.area;
            return out;
        };
        drawn(square(80, 10, 30, 20));
        QCOMPARE(sums(5000), (std::map<std::string, double>{{"roof", 400}, {rest_of_it, 4600}}));
        QCOMPARE(sums(5001), (std::map<std::string, double>{{"roof", 200}, {rest_of_it, 4800}}));
        QVERIFY(sums(5002).empty());
        for (const LandCover& l : p.land_covers) {
            QVERIFY(l.name != "roof" || std::abs(area(l.outline) - l.area) < 0.05);
            QVERIFY(l.name == "roof" || (l.outline.empty() && l.coefficient == 0.5));  // with the C it had
        }
        drawn(square(0, 0, 20, 20));
        QCOMPARE(sums(5000), (std::map<std::string, double>{{"roof", 800}, {rest_of_it, 4200}}));
        drawn(square(-10, -10, 90, 100));  // over nearly all that is left: the parts still make the whole
        QVERIFY(!sums(5000).contains(rest_of_it) || sums(5000).at(rest_of_it) > 0);
        // Where the rest was taken away by hand it stays away.
        for (const LandCover& l : Project(p).land_covers)
            if (l.name == rest_of_it) p.land_covers.erase(l.id);
        drawn(square(150, 0, 20, 20));
        QVERIFY(!sums(5001).contains(rest_of_it));
        std::string why;
        QVERIFY(draw_cover(p, {{0, 0}, {10, 10}, {10, 0}, {0, 10}}, roof, &why).empty() &&
                why == "its outline crosses itself");
        QVERIFY(draw_cover(p, square(1000, 0, 5, 5), roof, &why).empty() && why == "no catchment lies under it");
        QVERIFY(draw_cover(p, {{0, 0}, {1, 1}}, roof, &why).empty());
        QVERIFY(draw_cover(p, square(1e300, 0, 5, 5), roof, &why).empty());
    }
    void covers_of_a_layer_keep_their_outline_where_they_are_one_piece() {
        Project p = with_catchments({square(0, 0, 100, 50)});
        const CoverCut cut = cut_covers(p,
                                        {{"roof", {square(-10, 10, 60, 20)}, not_given, not_given, ""},
                                         {"woods", {square(60, 0, 5, 50)}, not_given, not_given, ""},
                                         {"well", {square(70, 0, 0.8, 0.8)}, not_given, not_given, ""},
                                         {"woods", {square(80, 0, 5, 50)}, not_given, not_given, ""}},
                                        false);
        apply(p, cut.edit);
        for (const LandCover& l : p.land_covers)
            if (l.name == "roof") QVERIFY(std::abs(area(l.outline) - 1000) < 1e-6);
            else if (l.name == "well") QVERIFY(std::abs(area(l.outline) - 0.64) < 1e-6);
            else QVERIFY(l.outline.empty());
    }
    void a_cover_of_a_kind_is_what_the_table_says() {
        int kinds = 0;
        for (const LandCoverKind& k : land_cover_kinds()) {
            const LandCover l = cover_of_kind(k);
            QVERIFY(l.name == k.name && l.source == land_cover_source && !l.source.empty());
            QVERIFY(std::abs(l.coefficient - (k.c_low + k.c_high) / 2) < 1e-12 && l.curve_number == k.curve_number[1]);
            QVERIFY(l.impervious == k.impervious || (std::isnan(l.impervious) && std::isnan(k.impervious)));
            QVERIFY(l.roughness == k.sheet_n || (std::isnan(l.roughness) && std::isnan(k.sheet_n)));
            ++kinds;
            // Cut from a layer it is the same, by its name alone.
            Project p = with_catchments({square(0, 0, 10, 10)});
            apply(p,
                  cut_covers(p, {{std::string(k.name), {square(0, 0, 10, 10)}, not_given, not_given, ""}}, false).edit);
            const LandCover& cut = *p.land_covers.begin();
            QVERIFY(std::abs(cut.coefficient - l.coefficient) < 1e-12 &&
                    std::abs(cut.curve_number - l.curve_number) < 1e-9);
            QVERIFY(cut.impervious == l.impervious && std::abs(cut.area - 100) < 1e-6);
        }
        QVERIFY(kinds > 5);
    }
    /// By hand: CNp 61 on 80 %, 20 % paved of which half runs over the lawn: 61 + 0.2 * 37 * 0.75 = 66.55.
    void paving_that_drains_over_lawn_lowers_the_curve_number() {
        const auto number = [](double paved, double over) {
            const CurvePart parts[] = {{100 - paved, 61, 0, false}, {paved - over, 98, 1, false}, {over, 98, 1, true}};
            return composite_curve_number(parts);
        };
        QVERIFY(std::abs(number(20, 10).curve_number - 66.55) < 1e-9 && number(20, 10).lowered);
        QVERIFY(std::abs(number(20, 20).curve_number - 64.7) < 1e-9);  // R = 1: half of it counts
        QVERIFY(std::abs(number(20, 0).curve_number - 68.4) < 1e-9 && !number(20, 0).lowered);  // plainly weighted
        QVERIFY(std::abs(number(40, 20).curve_number - 75.8) < 1e-9 && number(40, 20).too_paved);
        QVERIFY(std::isnan(composite_curve_number({}).curve_number));
        const CurvePart all[] = {{50, 98, 1, true}};
        QVERIFY(composite_curve_number(all).curve_number == 98);  // no lawn to run over
    }
};

QTEST_GUILESS_MAIN(TestCovers)
#include "test_covers.moc"
