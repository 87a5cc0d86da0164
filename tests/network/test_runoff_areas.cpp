// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/network/network.h"
#include "core/network/through_time.h"
#include "support/ponds.h"

using namespace culvert;
using culvert::testing::PondSite;

namespace {

constexpr double kept_back = 0.0015;  ///< of paved ground where nobody says otherwise, m

std::uint64_t first_catchment(const PondSite& s) { return s.project.catchments.begin()->id; }
/// The area that stands for a catchment in the network.
RunoffArea area_of(const Project& p, std::uint64_t catchment) {
    const Network net = compile(p);
    for (const RunoffArea& a : net.through_time->areas)
        if (a.catchment.value == catchment) return a;
    return {};
}

}  // namespace

/// What of a catchment and its land covers is computed through time: parts, their losses, time and plane, by hand.
class TestRunoffAreas : public QObject {
    Q_OBJECT
    PondSite s_;
    std::uint64_t c_ = 0;
    Catchment& catchment() { return *s_.project.catchments.change(c_); }
    Settings& settings() { return *s_.project.settings_rows.change(settings_id); }
    RunoffArea area() { return area_of(s_.project, c_); }
    void cover(std::uint64_t id, double area, double paved, double curve_number = not_given) {
        LandCover l;
        l.id = id;
        l.catchment = {c_};
        l.area = area;
        l.impervious = paved;
        l.curve_number = curve_number;
        s_.project.land_covers.insert(l);
    }

  private slots:
    void init() {
        s_ = PondSite();
        c_ = first_catchment(s_);
        catchment().area = 1000;
    }
    void paved_ground_holds_and_the_rest_loses() {
        const CurveNumberLoss lawn{80, 0.2};
        QCOMPARE(area().parts, (std::vector<GroundPart>{{1000, lawn}}));
        catchment().impervious = 0.25;
        QCOMPARE(area().parts, (std::vector<GroundPart>{{250, HeldLoss{kept_back}}, {750, lawn}}));
        catchment().impervious = 1;
        QCOMPARE(area().parts, (std::vector<GroundPart>{{1000, HeldLoss{kept_back}}}));
        catchment().impervious = 1.2;  // out of range: as if nothing was said
        QCOMPARE(area().parts, (std::vector<GroundPart>{{1000, lawn}}));
        catchment().impervious = 0.25;
        settings().initial_share = 0.05;
        settings().curve_number = 70;
        catchment().curve_number = not_given;
        QCOMPARE(area().parts, (std::vector<GroundPart>{{250, HeldLoss{kept_back}}, {750, CurveNumberLoss{70, 0.05}}}));
        settings().curve_number = 120;
        settings().initial_share = -1;
        QCOMPARE(area().parts[1].loss, LossModel(CurveNumberLoss{80, 0.2}));
    }
    /// What is held: the cover's, else the catchment's, else the project's, else 1.5 mm.
    void depths_held_are_of_the_nearest_that_says() {
        catchment().impervious = 1;
        const auto held = [&] { return std::get<HeldLoss>(area().parts.at(0).loss).depth; };
        QCOMPARE(held(), kept_back);
        settings().paved_storage = 0.002;
        QCOMPARE(held(), 0.002);
        settings().paved_storage = -1;
        QCOMPARE(held(), kept_back);
        settings().paved_storage = not_given;
        QCOMPARE(held(), kept_back);
        settings().paved_storage = 0.002;
        catchment().storage = 0.003;
        QCOMPARE(held(), 0.003);
        catchment().storage = -1;
        QCOMPARE(held(), 0.002);
        catchment().storage = 0.003;
        cover(901, 400, 1);
        QCOMPARE(held(), 0.003);
        s_.project.land_covers.change(901)->storage = 0.004;
        QCOMPARE(held(), 0.004);
        s_.project.land_covers.change(901)->storage = -0.004;
        QCOMPARE(held(), 0.003);
    }
    /// Land covers stand in place of the catchment's area; a curve number of a paved one is of the whole of it.
    void covers_have_parts_of_their_own() {
        catchment().impervious = 0.5;  // of the catchment, where it has no covers
        cover(901, 400, not_given, 61);
        cover(902, 300, 1, 98);
        cover(903, 200, 0.998, 90);
        cover(904, 100, 0.9995, 90);
        cover(905, 50, 1);
        cover(906, 0, 1);
        cover(907, not_given, 1);
        const RunoffArea a = area();
        const CurveNumberLoss shoulder{90, 0.2};
        QCOMPARE(a.area, 1050.0);
        QCOMPARE(a.parts.size(), std::size_t{6});
        QCOMPARE(a.parts[0], (GroundPart{400, CurveNumberLoss{61, 0.2}}));
        QCOMPARE(a.parts[1], (GroundPart{300, CurveNumberLoss{98, 0.2}}));
        QVERIFY(a.parts[2].loss == LossModel(HeldLoss{kept_back}) && std::abs(a.parts[2].area - 199.6) < 1e-9);
        QVERIFY(a.parts[3].loss == LossModel(shoulder) && std::abs(a.parts[3].area - 0.4) < 1e-9);
        QCOMPARE(a.parts[4], (GroundPart{100, shoulder}));
        QCOMPARE(a.parts[5], (GroundPart{50, HeldLoss{kept_back}}));
        // A curve number says nothing where losses are given otherwise: paved ground only holds.
        for (const std::uint64_t id : {901, 903, 904, 905}) s_.project.land_covers.erase(id);
        s_.project.land_covers.change(902)->losses = LossesBy::Constant;
        s_.project.land_covers.change(902)->loss_rate = 1e-6;
        QCOMPARE(area().parts, (std::vector<GroundPart>{{300, HeldLoss{kept_back}}}));
        // Over pervious ground nothing is held: all of it loses.
        s_.project.land_covers.change(902)->drains = CoverDrains::OverPervious;
        s_.project.land_covers.change(902)->initial_loss = 0.004;
        QCOMPARE(area().parts, (std::vector<GroundPart>{{300, ConstantLoss{0.004, 1e-6}}}));
    }
    /// Each number of a loss is the cover's, else the catchment's, else the project's, else the usual one.
    void numbers_of_losses_are_of_the_nearest_that_says() {
        cover(901, 400, 0);
        LandCover& l = *s_.project.land_covers.change(901);
        const auto loss = [&] { return area().parts.at(0).loss; };
        settings().losses = LossesBy::Proportional;
        QCOMPARE(loss(), LossModel(ProportionalLoss{0, 0}));
        settings().loss_share = 0.3;
        settings().initial_loss = 0.001;
        QCOMPARE(loss(), LossModel(ProportionalLoss{0.001, 0.3}));
        catchment().loss_share = 0.4;
        catchment().initial_loss = 0.002;
        QCOMPARE(loss(), LossModel(ProportionalLoss{0.002, 0.4}));
        l.loss_share = 0.5;
        l.initial_loss = 0.003;
        QCOMPARE(loss(), LossModel(ProportionalLoss{0.003, 0.5}));
        catchment().losses = LossesBy::Constant;  // nearer than the project
        QCOMPARE(loss(), LossModel(ConstantLoss{0.003, 0}));
        l.losses = LossesBy::Horton;  // and the cover itself
        l.loss_rate = 2e-6;
        QCOMPARE(loss(), LossModel(HortonLoss{2e-6, 2e-6, 1 / 3600.0}));
        l.first_rate = 1e-6;  // never below the last
        QCOMPARE(loss(), LossModel(HortonLoss{2e-6, 2e-6, 1 / 3600.0}));
        l.first_rate = 9e-6;
        l.decay_time = 1200;
        QCOMPARE(loss(), LossModel(HortonLoss{9e-6, 2e-6, 1 / 1200.0}));
        l.losses = LossesBy::GreenAmpt;
        QCOMPARE(loss(), LossModel(GreenAmptLoss{2e-6, 0}));
        l.front_head = 0.08;
        QCOMPARE(loss(), LossModel(GreenAmptLoss{2e-6, 0.08}));
        l.losses = LossesBy::CurveNumber;
        QCOMPARE(loss(), LossModel(CurveNumberLoss{80, 0.2}));
        l.curve_number = 61;
        QCOMPARE(loss(), LossModel(CurveNumberLoss{61, 0.2}));
    }
    void times_and_planes() {
        catchment().time = 900;
        QCOMPARE(area().time, 900.0);
        catchment().time = 100;  // the project's least time
        QCOMPARE(area().time, 300.0);
        settings().least_time = 0;
        QCOMPARE(area().time, 100.0);
        catchment().time = 5;
        QCOMPARE(area().time, 30.0);
        catchment().time = not_given;
        QCOMPARE(area().time, 30.0);

        QVERIFY(std::abs(area().plane_width - std::sqrt(1000.0)) < 1e-9);
        QVERIFY(area().plane_slope == 0.01 && area().plane_roughness == 0.1);
        catchment().flow_path = {{0, 0}, {30, 40}};
        QVERIFY(std::abs(area().plane_width - 20) < 1e-9);
        catchment().path_length = 80;
        QVERIFY(std::abs(area().plane_width - 12.5) < 1e-9);
        catchment().path_length = 0.5;  // a metre at least
        QVERIFY(std::abs(area().plane_width - 1000) < 1e-9);
        catchment().plane_width = 25;
        catchment().path_slope = 0.02;
        catchment().plane_roughness = 0.2;
        const RunoffArea a = area();
        QVERIFY(a.plane_width == 25 && a.plane_slope == 0.02 && a.plane_roughness == 0.2);
        catchment().path_slope = 1e-5;
        QCOMPARE(area().plane_slope, 1e-4);
    }
    void by_what_and_how_peaked() {
        QVERIFY(area().by == TransformBy::UnitHydrograph && area().peak_factor == nrcs_peak_factor);
        settings().runoff_by = RunoffBy::Plane;
        QVERIFY(area().by == TransformBy::Plane);
        catchment().transform = TransformBy::ModifiedRational;
        QVERIFY(area().by == TransformBy::ModifiedRational);
        settings().peak_factor = 300;
        QCOMPARE(area().peak_factor, 300.0);
        catchment().peak_factor = 600;
        QCOMPARE(area().peak_factor, 600.0);
        catchment().peak_factor = -1;
        QCOMPARE(area().peak_factor, 300.0);
        settings().peak_factor = -1;
        QCOMPARE(area().peak_factor, nrcs_peak_factor);
        catchment().coefficient = 0.6;
        QCOMPARE(area().effective_area, 600.0);
        cover(901, 200, 0);
        QCOMPARE(area().effective_area, 0.0);  // of covers, not of the catchment
        s_.project.land_covers.change(901)->coefficient = 0.9;
        QCOMPARE(area().effective_area, 180.0);
    }
    /// By node and each found by its catchment; what has no area or no place is none.
    void areas_lie_in_order() {
        Project& p = s_.project;
        Catchment more = *p.catchments.find(c_);
        more.id = 905;
        more.structure = s_.pond;
        p.catchments.insert(more);
        more.id = 3;
        more.structure = s_.head;
        p.catchments.insert(more);
        more.id = 906;
        more.area = 0;
        p.catchments.insert(more);
        more.id = 907;
        more.area = 500;
        more.structure = {};
        p.catchments.insert(more);
        const Network net = compile(p);
        const ThroughTime& t = *net.through_time;
        QCOMPARE(t.areas.size(), std::size_t{6});
        QCOMPARE(t.area_begin.size(), net.nodes.size() + 1);
        QCOMPARE(t.area_begin.back(), 6);
        for (std::size_t node = 0; node < net.nodes.size(); ++node)
            for (int i = t.area_begin[node]; i < t.area_begin[node + 1]; ++i) {
                const RunoffArea& a = t.areas[static_cast<std::size_t>(i)];
                QCOMPARE(a.node, static_cast<int>(node));
                QCOMPARE(net.nodes[node].structure.value, p.catchments.find(a.catchment.value)->structure.value);
            }
        QCOMPARE(t.by_catchment.size(), std::size_t{6});
        for (std::size_t i = 0; i < t.by_catchment.size(); ++i) {
            const auto& [catchment, at] = t.by_catchment[i];
            QCOMPARE(t.areas[static_cast<std::size_t>(at)].catchment.value, catchment);
            if (i) QVERIFY(t.by_catchment[i - 1].first < catchment);
        }
    }
    /// What is out of range counts as its usual value; no storm has more than a hundred thousand steps.
    void settings_through_time() {
        const auto time = [&] { return *compile(s_.project).through_time; };
        const Settings usual;
        QCOMPARE(time().step, usual.computing_step);
        for (const double wrong : {-1.0, not_given}) {
            settings().computing_step = wrong;
            QCOMPARE(time().step, usual.computing_step);
        }
        settings().computing_step = 30;
        QCOMPARE(time().step, 30.0);
        settings().storm_length = 86400;
        QCOMPARE(time().step, 30.0);
        QCOMPARE(time().storm_length, 86400.0);
        const std::uint64_t event = s_.project.events.begin()->id;
        settings().computing_step = 1;
        s_.project.events.change(event)->storm_length = 200'000;
        QCOMPARE(time().step, 2.0);
        settings().output_interval = 120;
        settings().least_freeboard = 0.4;
        settings().most_drawdown = 86400;
        settings().after_rain = 7200;
        settings().storm_peak = 0.3;
        ThroughTime t = time();
        QVERIFY(t.output_interval == 120 && t.least_freeboard == 0.4 && t.most_drawdown == 86400 &&
                t.after_rain == 7200 && t.storm_peak == 0.3);
        settings().output_interval = settings().least_freeboard = settings().most_drawdown = settings().after_rain =
            settings().storm_peak = -1;
        t = time();
        QVERIFY(t.output_interval == usual.output_interval && t.least_freeboard == usual.least_freeboard &&
                t.most_drawdown == usual.most_drawdown && std::isnan(t.after_rain) && t.storm_peak == usual.storm_peak);
    }
};

QTEST_APPLESS_MAIN(TestRunoffAreas)
#include "test_runoff_areas.moc"
