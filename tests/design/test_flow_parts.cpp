// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/design/flow_parts.h"
#include "core/geometry/line.h"

using namespace culvert;

namespace {

Project with_catchment(const std::string& parts = {}) {
    Project p = new_project(UnitSystem::Si);
    Catchment c;
    c.id = 21;
    c.name = "North";
    c.area = 1000;
    c.coefficient = 0.5;
    c.time = 600;
    c.path_parts = parts;
    c.flow_path = {{0, 0}, {60, 80}, {60, 180}};  // 100 m, then 100 m
    p.catchments.insert(c);
    return p;
}
/// 4 % down to the bend, then 1 %, by the length along the line.
double two_planes(Point at) { return at.y <= 80 ? 50 - 0.04 * std::hypot(at.x, at.y) : 46 - 0.01 * (at.y - 80); }
std::vector<FlowPart> parts_of(const Project& p) { return read_parts(p.catchments.find(21)->path_parts, 0.05).parts; }
Project measured(Project p, std::vector<double> ends = {}, std::vector<std::string>* remarks = nullptr) {
    const Edit e = measure_flow_path(p, {21}, {}, two_planes, std::move(ends), remarks);
    apply(p, e);
    return p;
}

}  // namespace

/// Parts of a flow path measured along its line and from the ground.
class TestFlowParts : public QObject {
    Q_OBJECT
  private slots:
    void lengths_and_slopes_are_those_of_the_ground() {
        const Project p =
            measured(with_catchment("sheet 30m 9% 0.2; time 2min; shallow 70m 9% paved; channel 5m 9% 0.03 0.4m"));
        const auto parts = parts_of(p);
        QCOMPARE(parts.size(), std::size_t{4});
        const auto& sheet = std::get<SheetFlow>(parts[0]);
        QVERIFY(std::abs(sheet.length - 30) < 1e-9 && std::abs(sheet.slope - 0.04) < 1e-9 && sheet.n == 0.2);
        QCOMPARE(std::get<EnteredTime>(parts[1]).time, 120.0);
        const auto& shallow = std::get<ShallowFlow>(parts[2]);
        QVERIFY(std::abs(shallow.length - 70) < 1e-9 && std::abs(shallow.slope - 0.04) < 1e-9 && shallow.paved);
        const auto& channel = std::get<ChannelFlow>(parts[3]);  // the last ends with the line
        QVERIFY(std::abs(channel.length - 100) < 1e-9 && std::abs(channel.slope - 0.01) < 1e-9 &&
                std::abs(channel.radius - 0.4) < 1e-9);
        QCOMPARE(p.catchments.find(21)->time_by, TimeBy::Parts);
        QCOMPARE(p.catchments.find(21)->origin[*field_index(Kind::Catchment, "path_parts")], Origin::Ground);
    }
    void an_end_that_is_moved_changes_its_two_parts_only() {
        Project p = with_catchment("sheet 30m 9% 0.2; shallow 70m 9% paved; channel 100m 9% 0.03 0.4m");
        p = measured(p, {30, 150, 200});
        const auto parts = parts_of(p);
        QVERIFY(std::abs(length_of(parts[0]) - 30) < 1e-9 && std::abs(length_of(parts[1]) - 120) < 1e-9 &&
                std::abs(length_of(parts[2]) - 50) < 1e-9);
        // From 48.8 at 30 m to 45.5 at 150 m.
        QVERIFY(std::abs(std::get<ShallowFlow>(parts[1]).slope - (48.8 - 45.5) / 120) < 1e-5);
        // Whatever is asked of the last, it ends with the line.
        QVERIFY(std::abs(length_of(parts_of(measured(p, {30, 150, 180}))[2]) - 50) < 1e-9);
        // Dragged past its neighbours no part vanishes, and together they keep the line.
        for (const std::vector<double>& ends : {std::vector<double>{500, 150, 200}, {-5, 150, 200}, {180, 20, 200}}) {
            double sum = 0;
            for (const FlowPart& part : parts_of(measured(p, ends))) {
                QVERIFY(length_of(part) >= 0.099);
                sum += length_of(part);
            }
            QVERIFY(std::abs(sum - 200) < 0.02);
        }
    }
    void a_path_without_parts_begins_with_the_usual_ones() {
        Project p = with_catchment();
        LandCover l;
        l.id = 31;
        l.name = "asphalt or concrete";
        l.catchment = {21};
        l.area = 900;
        l.impervious = 1;
        l.roughness = 0.011;
        p.land_covers.insert(l);
        const auto parts = parts_of(measured(p));
        QCOMPARE(parts.size(), std::size_t{2});
        QVERIFY(std::get<SheetFlow>(parts[0]).n == 0.011 && std::abs(length_of(parts[0]) - 30) < 1e-9);
        QVERIFY(std::get<ShallowFlow>(parts[1]).paved && std::abs(length_of(parts[1]) - 170) < 1e-9);
        p.land_covers.erase(31);
        QVERIFY(!std::get<ShallowFlow>(parts_of(measured(p))[1]).paved);
        p.catchments.change(21)->flow_path = {{0, 0}, {20, 0}};
        QCOMPARE(parts_of(measured(p)).size(), std::size_t{1});
    }
    /// The usual first part is 30 m of sheet flow, in US projects 100 ft; what is left beyond a metre is shallow.
    void the_rest_beyond_a_metre_is_a_part_of_its_own() {
        for (const auto& [system, sheet] : {std::pair{UnitSystem::Si, 30.0}, {UnitSystem::Us, 100 * 0.3048}}) {
            const Project p = new_project(system);
            Catchment c;
            c.id = 9;
            QCOMPARE(usual_parts(p, c, sheet - 5).size(), std::size_t{1});
            QCOMPARE(usual_parts(p, c, sheet + 0.9).size(), std::size_t{1});
            const auto two = usual_parts(p, c, sheet + 1.5);
            QCOMPARE(two.size(), std::size_t{2});
            QVERIFY(std::abs(std::get<SheetFlow>(two[0]).length - sheet) < 1e-9);
            QVERIFY(std::abs(std::get<ShallowFlow>(two[1]).length - 1.5) < 1e-9);
            QVERIFY(!std::get<ShallowFlow>(two[1]).paved);
        }
    }
    /// Parts end where their lengths add up to; a time has none, and the last that has a length takes what is left.
    void parts_end_where_their_lengths_do() {
        SheetFlow sheet;
        sheet.length = 10;
        ShallowFlow shallow;
        shallow.length = 20;
        const EnteredTime time{60};
        using Ends = std::vector<double>;
        QVERIFY((part_ends({sheet, shallow, time}, 50) == Ends{10, 50, 50}));
        QVERIFY((part_ends({sheet, time, shallow}, 50) == Ends{10, 10, 50}));
        QVERIFY((part_ends({sheet, time}, 50) == Ends{50, 50}));
        QVERIFY((part_ends({shallow, shallow, sheet}, 25) == Ends{20, 25, 25}));
        QVERIFY((part_ends({time, time}, 50) == Ends{0, 0}));
        QVERIFY(part_ends({}, 50).empty());
    }
    void ground_that_rises_or_is_missing_is_said() {
        Project p = with_catchment("sheet 30m 9% 0.2; shallow 170m 8% paved");
        std::vector<std::string> remarks;
        Edit e = measure_flow_path(
            p, {21}, {}, [](Point at) { return at.y < 30 ? 40 + at.y : 50 - at.y / 100; }, {}, &remarks);
        QCOMPARE(remarks.size(), std::size_t{1});  // it rises over the first 30 m, and on the whole: it keeps its slope
        Project q = p;
        apply(q, e);
        QVERIFY(std::abs(std::get<SheetFlow>(parts_of(q)[0]).slope - 0.09) < 1e-9);
        remarks.clear();
        e = measure_flow_path(
            p, {21}, {}, [](Point) { return not_given; }, {}, &remarks);
        QVERIFY(remarks.size() == 2 && QString::fromStdString(remarks[0]).contains("not known"));
        q = p;
        apply(q, e);
        QVERIFY(std::abs(std::get<ShallowFlow>(parts_of(q)[1]).slope - 0.08) < 1e-9);
        // Dragged past either end, a part keeps a tenth of a metre.
        for (const double end : {-5.0, 1e6}) {
            const std::vector<Point> straight{{0, 0}, {10, 0}};
            const MeasuredParts m = measured_parts({SheetFlow{1, 0.01, 0.1, 0.07}, ShallowFlow{1, 0.01, true}},
                                                   {end, 10}, straight, [](Point at) { return 20 - at.x / 10; });
            QVERIFY(std::abs(length_of(m.parts[0]) - (end < 0 ? 0.1 : 9.9)) < 1e-9);
            QVERIFY(std::abs(length_of(m.parts[1]) - (end < 0 ? 9.9 : 0.1)) < 1e-9);
        }
        // Parts that cannot be read are made anew, the usual ones, and so are those without any length.
        for (const char* wrong : {"sheet over the lawn", "time 5 min", "sheet 30m 9% 0.2; nonsense"}) {
            const std::vector<FlowPart> anew = parts_of(measured(with_catchment(wrong)));
            QVERIFY2(anew.size() == 2 && std::holds_alternative<SheetFlow>(anew[0]) && length_of(anew[0]) == 30 &&
                         length_of(anew[1]) == 170,
                     wrong);
        }
        p.catchments.change(21)->flow_path.clear();
        QVERIFY(measure_flow_path(p, {21}, {}, two_planes).empty());
        QVERIFY(measure_flow_path(p, {21}, {{5, 5}, {5, 5}}, two_planes).empty());
        QVERIFY(measure_flow_path(p, {99}, {}, two_planes).empty());
    }
    void words_read_back_to_the_same_parts() {
        std::mt19937 dice(11);
        const auto some = [&](double low, double high) { return low + (high - low) * double(dice()) / 4294967296.0; };
        for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
            const UnitSet units(system);
            for (int round = 0; round < 400; ++round) {
                std::vector<FlowPart> parts;
                for (std::size_t k = 0; k <= dice() % 4; ++k) {
                    const double l = some(0.5, 900), s = some(1e-4, 0.3), n = some(0.01, 0.8);
                    switch (dice() % 5) {
                        case 0: parts.push_back(SheetFlow{l, s, n, 0.07}); break;
                        case 1: parts.push_back(ShallowFlow{l, s, dice() % 2 == 0}); break;
                        case 2: parts.push_back(ChannelFlow{l, s, n, some(0.05, 2)}); break;
                        case 3: parts.push_back(WaveFlow{l, s, n}); break;
                        default: parts.push_back(EnteredTime{some(0, 5000)});
                    }
                }
                const PartsRead back = read_parts(parts_text(parts, units), 0.07);
                QVERIFY2(back.fault.empty(), back.fault.c_str());
                QCOMPARE(back.parts.size(), parts.size());
                for (std::size_t k = 0; k < parts.size(); ++k) {
                    QCOMPARE(back.parts[k].index(), parts[k].index());
                    QVERIFY(std::abs(length_of(back.parts[k]) - length_of(parts[k])) < 0.006);
                }
                QCOMPARE(parts_text(back.parts, units), parts_text(parts, units));  // and nothing moves any more
            }
        }
        // Lengths to a hundredth of what is shown, no more.
        const std::vector<FlowPart> one{SheetFlow{41.2345678, 0.02, 0.24, 0.07}};
        QVERIFY(parts_text(one, UnitSet(UnitSystem::Si)).starts_with("sheet 41.23m 2% 0.24"));
        QVERIFY(parts_text(one, UnitSet(UnitSystem::Us)).starts_with("sheet 135.28ft 2% 0.24"));
    }
};

QTEST_GUILESS_MAIN(TestFlowParts)
#include "test_flow_parts.moc"
