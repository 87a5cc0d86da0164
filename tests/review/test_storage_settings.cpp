// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <numbers>
#include <set>

#include "core/analysis/hydrograph.h"
#include "core/analysis/result_fields.h"
#include "core/analysis/solver.h"
#include "core/design/storage_study.h"
#include "core/hydrology/design_storm.h"
#include "core/review/rules.h"
#include "support/ponds.h"

using namespace culvert;
using testing::PondSite;

/// Every setting, choice and rule of hydrographs and storage: it alone changes the answer, the way its words say.
class TestStorageSettings : public QObject {
    Q_OBJECT
    static void close_to(double a, double b, double share = 1e-6) {
        QVERIFY2(std::abs(a - b) <= share * std::max(std::abs(a), std::abs(b)),
                 qPrintable(QString("%1 against %2").arg(a).arg(b)));
    }
    static void setting(PondSite& s, std::string_view key, Value v) {
        s.set(Kind::Settings, settings_id, key, std::move(v));
    }
    template <class E>
    requires std::is_enum_v<E>
    static void setting(PondSite& s, std::string_view key, E v) {
        s.set(Kind::Settings, settings_id, key, static_cast<int>(v));
    }
    /// What runs off the first catchment of a site, m.
    static double runoff(const PondSite& s) { return solve(s.project)[0]->runoffs[0].runoff; }
    static double peak(const PondSite& s) { return solve(s.project)[0]->runoffs[0].peak; }
    static std::optional<Check> check(const PondSite& s, Rule rule, std::size_t event, StructureId at) {
        const auto r = solve(s.project)[event];
        const CheckList all = checks_of(LimitTable(s.project, r->event), *r, {Kind::Structure, at.value});
        for (const Check& c : all)
            if (c.rule == rule) return c;
        return {};
    }
    static Verdict verdict(const PondSite& s, Rule rule, std::size_t event) {
        const auto c = check(s, rule, event, s.pond);
        return c ? c->verdict : Verdict::Unknown;
    }
    /// A site without curve numbers: what the project says holds.
    static PondSite plain_site() {
        PondSite s;
        for (const Catchment& c : std::vector<Catchment>(s.project.catchments.begin(), s.project.catchments.end()))
            s.set(Kind::Catchment, c.id, "curve_number", not_given);
        s.uniform(0.06, 3600);
        return s;
    }
    static double hand_cn(double p, double cn, double ratio) {
        double s = 0.0254 * (1000 / cn - 10);
        if (ratio == 0.05) s = 0.0254 * 1.33 * std::pow(s / 0.0254, 1.15);
        return std::pow(p - ratio * s, 2) / (p + (1 - ratio) * s);
    }

  private slots:
    void setting_runoff_by() {
        PondSite s = plain_site();
        const auto by = [&](RunoffBy b) {
            setting(s, "runoff_by", b);
            return solve(s.project)[0]->links[0].flow.flow;
        };
        const double rational = by(RunoffBy::Rational), unit = by(RunoffBy::UnitHydrograph),
                     modified = by(RunoffBy::ModifiedRational), plane = by(RunoffBy::Plane);
        close_to(modified, rational, 1e-3);  // an even storm longer than Tc: C i A
        QVERIFY(unit > 0 && plane > 0 && std::abs(unit - modified) > 1e-4 && std::abs(plane - unit) > 1e-4);
    }
    void choice_runoff_by() { setting_runoff_by(); }
    void choice_transform() {
        PondSite s = plain_site();
        const double project = peak(s);
        const std::uint64_t c = solve(s.project)[0]->network->through_time->areas[0].catchment.value;
        s.set(Kind::Catchment, c, "transform", static_cast<int>(TransformBy::ModifiedRational));
        close_to(peak(s), 0.6 * 0.06 / 3600 * 8000, 1e-3);
        QVERIFY(std::abs(peak(s) - project) > 1e-4);
    }
    void setting_curve_number() {
        PondSite s = plain_site();
        for (const double cn : {65.0, 80.0, 98.0}) {
            setting(s, "curve_number", cn);
            close_to(runoff(s), hand_cn(0.06, cn, 0.2));
        }
    }
    void setting_initial_share() {
        PondSite s = plain_site();
        for (const double r : {0.05, 0.1, 0.2}) {
            setting(s, "initial_share", r);
            close_to(runoff(s), hand_cn(0.06, 80, r));
        }
    }
    void setting_paved_storage() {
        PondSite s = plain_site();
        for (const Catchment& c : std::vector<Catchment>(s.project.catchments.begin(), s.project.catchments.end()))
            s.set(Kind::Catchment, c.id, "impervious", 1.0);
        for (const double held : {0.0, 0.0015, 0.01}) {
            setting(s, "paved_storage", held);
            close_to(runoff(s), 0.06 - held);
        }
    }
    void choice_drains() {
        // Four tenths are paved: they give all but what they hold, where their water is led away; where it runs over
        // the rest, the loss of the whole holds.
        PondSite s = plain_site();
        setting(s, "curve_number", 70.0);
        const std::uint64_t c = solve(s.project)[0]->network->through_time->areas[0].catchment.value;
        LandCover l;
        l.id = 4711;
        l.catchment = {c};
        l.area = 8000;
        l.coefficient = 0.6;
        l.impervious = 0.4;
        s.project.land_covers.insert(l);
        const double held = s.project.settings().paved_storage;
        close_to(runoff(s), 0.4 * (0.06 - held) + 0.6 * hand_cn(0.06, 70, 0.2));
        s.set(Kind::LandCover, 4711, "drains", static_cast<int>(CoverDrains::OverPervious));
        close_to(runoff(s), hand_cn(0.06, 70, 0.2));
    }
    void setting_peak_factor() {
        PondSite s = plain_site();
        setting(s, "peak_factor", 484.0);
        const double usual = peak(s);
        setting(s, "peak_factor", 200.0);
        QVERIFY(peak(s) < 0.95 * usual);
    }
    void setting_computing_step() {
        PondSite s;
        for (const double step : {30.0, 60.0, 300.0}) {
            setting(s, "computing_step", step);
            QCOMPARE(solve(s.project)[0]->series.front().step, step);
        }
    }
    void setting_output_interval() {
        PondSite s;
        setting(s, "output_interval", 600.0);
        QCOMPARE(compile(s.project).through_time->output_interval, 600.0);  // how tables take it: tests/report
    }
    void setting_after_rain() {
        PondSite s;
        setting(s, "after_rain", 3600.0);
        const std::size_t one = solve(s.project)[0]->series.front().values.size();
        setting(s, "after_rain", 7200.0);
        const auto all = solve(s.project)[0];
        for (const Series& x : all->series)
            if (x.key == "inflow") QCOMPARE(x.values.size(), (12 * 60 + 2 * 60) * std::size_t{1});
        QVERIFY(one > 0);
    }
    void setting_travel_by() {
        PondSite s(false);
        for (const Pipe& p : std::vector<Pipe>(s.project.pipes.begin(), s.project.pipes.end()))
            s.set(Kind::Pipe, p.id, "length", 900.0);
        setting(s, "after_rain", 86400.0);
        const auto flow = [&] { return solve(s.project)[0]->nodes.back().flow; };
        const NodeFlow lag = flow();
        setting(s, "travel_by", TravelBy::Kinematic);
        const NodeFlow wave = flow();
        QVERIFY(wave.flow < lag.flow && wave.flow > 0.5 * lag.flow);
        close_to(wave.volume, lag.volume, 1e-3);
    }
    void choice_travel_by() { setting_travel_by(); }
    void setting_storm_by() {
        PondSite s;
        const Network blocks = compile(s.project);
        const EventRain rain = rain_of(*events_in_order(s.project)[0]);
        const auto a = storm_steps(blocks, rain);
        setting(s, "storm_by", StormBy::KeiferChu);
        const auto b = storm_steps(compile(s.project), rain);
        QCOMPARE(a.size(), b.size());
        QVERIFY(a != b);
        const auto total = [](const std::vector<double>& v) {
            double sum = 0;
            for (const double x : v) sum += x;
            return sum;
        };
        close_to(total(a), rain.curve.intensity(12 * 3600) * 12 * 3600);
        close_to(total(b), total(a), 0.02);  // of an equation through the table
    }
    void choice_storm_by() { setting_storm_by(); }
    void setting_storm_peak() {
        PondSite s;
        setting(s, "storm_by", StormBy::KeiferChu);
        const EventRain rain = rain_of(*events_in_order(s.project)[0]);
        for (const double place : {0.3, 0.5}) {
            setting(s, "storm_peak", place);
            const auto d = storm_steps(compile(s.project), rain);
            const auto at = std::max_element(d.begin(), d.end()) - d.begin();
            QVERIFY(std::abs(static_cast<double>(at) / static_cast<double>(d.size()) - place) < 0.01);
        }
    }
    void setting_storm_length() {
        PondSite s;
        setting(s, "storm_length", 7200.0);
        const EventRain rain = rain_of(*events_in_order(s.project)[0]);
        const auto d = storm_steps(compile(s.project), rain);
        QCOMPARE(d.size(), std::size_t{120});
        double sum = 0;
        for (const double x : d) sum += x;
        close_to(sum, rain.curve.intensity(7200) * 7200);
    }
    void setting_release_cut() {
        PondSite s;
        const auto all = hydrographs_at(s.project, s.pond);
        for (const ReleaseCut cut : {ReleaseCut::Flat, ReleaseCut::Rising}) {
            setting(s, "release_cut", cut);
            for (const RequiredVolume& v : required_volumes(all, s.project.settings().release_cut))
                QCOMPARE(v.asked, cut == ReleaseCut::Flat ? v.flat : v.rising);
            QCOMPARE(compile(s.project).through_time->cut, cut);
        }
    }
    void choice_release_cut() { setting_release_cut(); }
    void setting_least_freeboard() {
        PondSite s;
        const double left = 42.6 - solve(s.project)[1]->ponds[0].level;
        QVERIFY(left > 0.01);
        setting(s, "least_freeboard", left - 1e-3);
        QVERIFY(verdict(s, Rule::PondFreeboard, 1) != Verdict::Beyond);
        setting(s, "least_freeboard", left + 1e-3);
        QCOMPARE(verdict(s, Rule::PondFreeboard, 1), Verdict::Beyond);
    }
    void setting_most_drawdown() {
        PondSite s;
        const double takes = solve(s.project)[0]->ponds[0].drawdown;
        QVERIFY(takes > 0);
        setting(s, "most_drawdown", takes + 60);
        QCOMPARE(verdict(s, Rule::LongDrawdown, 0), Verdict::Within);
        setting(s, "most_drawdown", takes - 60);
        QCOMPARE(verdict(s, Rule::LongDrawdown, 0), Verdict::Near);
    }
    void setting_losses() {
        PondSite s = plain_site();
        std::set<double> depths;
        setting(s, "loss_rate", 3e-6);
        setting(s, "loss_share", 0.4);
        setting(s, "first_rate", 2e-5);
        setting(s, "front_head", 0.1);
        for (const LossesBy by : {LossesBy::CurveNumber, LossesBy::Constant, LossesBy::Proportional, LossesBy::Horton,
                                  LossesBy::GreenAmpt}) {
            setting(s, "losses", by);
            depths.insert(runoff(s));
        }
        QCOMPARE(depths.size(), std::size_t{5});
    }
    void choice_losses() {
        // Of a catchment, and of a land cover within one.
        PondSite s = plain_site();
        const std::uint64_t c = solve(s.project)[0]->network->through_time->areas[0].catchment.value;
        setting(s, "loss_share", 0.4);
        s.set(Kind::Catchment, c, "losses", static_cast<int>(LossesBy::Proportional));
        close_to(runoff(s), 0.06 * 0.6);
        Editing e(s.project, "cover");
        LandCover l;
        l.id = 7001;
        l.name = "yard";
        l.catchment = {c};
        l.area = 4000;
        l.coefficient = 0.5;
        l.losses = LossesBy::Constant;
        l.initial_loss = 0.01;
        e.insert(l);
        apply(s.project, e.take());
        close_to(runoff(s), 0.05);
    }
    void setting_initial_loss() {
        PondSite s = plain_site();
        setting(s, "losses", LossesBy::Constant);
        for (const double d : {0.0, 0.012}) {
            setting(s, "initial_loss", d);
            close_to(runoff(s), 0.06 - d);
        }
    }
    void setting_loss_rate() {
        PondSite s = plain_site();
        setting(s, "losses", LossesBy::Constant);
        setting(s, "loss_rate", 5e-6);
        close_to(runoff(s), 0.06 - 5e-6 * 3600);
    }
    void setting_loss_share() {
        PondSite s = plain_site();
        setting(s, "losses", LossesBy::Proportional);
        setting(s, "loss_share", 0.25);
        close_to(runoff(s), 0.045);
    }
    void setting_first_rate() {
        // Below the rain all the time: what it can take is f0 ... fc, integrated.
        PondSite s = plain_site();
        setting(s, "losses", LossesBy::Horton);
        setting(s, "loss_rate", 2e-6);
        setting(s, "decay_time", 1800.0);
        for (const double f0 : {4e-6, 1e-5}) {
            setting(s, "first_rate", f0);
            const double k = 1 / 1800.0, taken = 2e-6 * 3600 + (f0 - 2e-6) / k * (1 - std::exp(-k * 3600));
            close_to(runoff(s), 0.06 - taken, 1e-5);
        }
    }
    void setting_decay_time() {
        PondSite s = plain_site();
        setting(s, "losses", LossesBy::Horton);
        setting(s, "loss_rate", 1e-6);
        setting(s, "first_rate", 1e-5);
        setting(s, "decay_time", 900.0);
        const double soon = runoff(s);
        setting(s, "decay_time", 7200.0);
        QVERIFY(runoff(s) < soon);
    }
    void setting_front_head() {
        // F - N ln(1 + F/N) = K t from the time of ponding on.
        PondSite s = plain_site();
        setting(s, "losses", LossesBy::GreenAmpt);
        setting(s, "loss_rate", 1e-6);
        const double dry = [&] {
            setting(s, "front_head", 0.0);
            return runoff(s);
        }();
        close_to(dry, 0.06 - 1e-6 * 3600, 1e-6);
        setting(s, "front_head", 0.08);
        const double rain = 0.06 / 3600, k = 1e-6, n = 0.08, at = k * n / (rain - k), time = 3600 - at / rain;
        double f = at;
        for (int i = 0; i < 200000; ++i) {  // by small steps of dF/dt = K (1 + N / F)
            const double h = time / 200000;
            f += h * k * (1 + n / (f + h / 2 * k * (1 + n / f)));
        }
        close_to(runoff(s), 0.06 - f, 1e-4);
    }
    void choice_storage_by() {
        Pond p;
        p.bottom = 10;
        p.length = 20;
        p.width = 10;
        p.depth = 2;
        p.sides = 2;
        p.diameter = 1;
        p.levels = {10, 11, 12};
        p.areas = {100, 200, 300};
        p.volumes = {0, 120, 400};
        p.outline = {{0, 0}, {20, 0}, {20, 10}, {0, 10}};
        const auto volume = [&](StorageBy by, double level) {
            p.storage_by = by;
            return storage_of(p).volume(level);
        };
        close_to(volume(StorageBy::Areas, 12), 400);
        close_to(volume(StorageBy::Volumes, 11), 120);
        close_to(volume(StorageBy::Tank, 11.5), 300);
        // (20 + 4 z)(10 + 4 z) integrated to 2.
        close_to(volume(StorageBy::Basin, 12), 200 * 2 + 120.0 / 2 * 4 + 16.0 / 3 * 8, 1e-3);
        close_to(volume(StorageBy::Outline, 12), 200 * 2 + 120.0 / 2 * 4 + 16.0 / 3 * 8, 1e-3);
        close_to(volume(StorageBy::Pipes, 11), 20 * std::numbers::pi / 4, 1e-3);
        close_to(volume(StorageBy::Pipes, 10.5), 20 * std::numbers::pi / 8, 5e-3);
    }
    void choice_between() {
        Pond p;
        p.levels = {10, 12};
        p.areas = {100, 400};
        close_to(storage_of(p).volume(12), 500);
        p.between = BetweenLevels::Conic;
        close_to(storage_of(p).volume(12), 2.0 / 3 * (100 + 200 + 400));
    }
    void choice_outlet_kind() {
        std::set<double> flows;
        for (int k = 0; k <= static_cast<int>(OutletKind::Rating); ++k) {
            PondOutlet o;
            o.id = 1;
            o.kind = static_cast<OutletKind>(k);
            o.level = 10;
            o.size = 0.3;
            o.width = 0.5;
            o.length = 20;
            o.slope = 0.01;
            o.stop_level = 9.8;
            o.pump_flow = 0.03;
            o.rating_levels = {10, 12};
            o.rating_flows = {0, 0.4};
            std::string why;
            const auto w = way_of(o, 14, &why);
            QVERIFY2(w, why.c_str());
            std::vector<OutletFlow> each(1);
            const char running[] = {1};
            const double q = pond_outflow({&*w, 1}, 10.8, {}, running, each);
            QVERIFY(q > 0);
            flows.insert(q);
        }
        QCOMPARE(flows.size(), std::size_t{11});  // all of them
    }
    void choice_entrance() {
        std::set<double> flows;
        for (int k = 0; k <= static_cast<int>(CulvertEntrance::BoxStraight); ++k) {
            PondOutlet o;
            o.kind = OutletKind::Culvert;
            o.entrance = static_cast<CulvertEntrance>(k);
            o.level = 10;
            o.size = 0.6;
            o.width = 0.6;
            o.length = 10;
            o.slope = 0.02;
            const auto w = way_of(o, 14);
            QVERIFY(w.has_value());
            std::vector<OutletFlow> each(1);
            flows.insert(pond_outflow({&*w, 1}, 11.2, {}, {}, each));
        }
        QCOMPARE(flows.size(), std::size_t{9});
    }
    void known_flows_run_from_the_beginning() {
        PondSite s(false);
        for (const Catchment& c : std::vector<Catchment>(s.project.catchments.begin(), s.project.catchments.end()))
            s.remove(Kind::Catchment, c.id);
        s.set(Kind::Structure, s.head.value, "known_flow", 0.02);
        const auto r = solve(s.project)[0];
        for (const Series& x : r->series)
            if (x.element.id == s.end.value && x.key == "flow")
                for (const double q : x.values) close_to(q, 0.02, 1e-12);
    }
    void pipes_that_leave_a_pond_run_with_all_barrels_and_stand_at_its_level() {
        PondSite s(false);
        apply(s.project, give_storage(s.project, s.pond));
        std::uint64_t leaves = 0;
        for (const Pipe& p : s.project.pipes)
            if (p.from == s.pond) leaves = p.id;
        s.set(Kind::Pipe, leaves, "size", 0.2);
        const auto one = solve(s.project)[0];
        s.set(Kind::Pipe, leaves, "barrels", 3.0);
        const auto three = solve(s.project)[0];
        QCOMPARE(three->network->through_time->ponds[0].ways[0].count, 3.0);
        QVERIFY2(three->ponds[0].level < one->ponds[0].level - 0.1, "three barrels need less head");
        // Still water that stands higher than what the pipe needs.
        s.set(Kind::Pond, s.project.ponds.begin()->id, "start_level", 42.9);
        const auto r = solve(s.project)[0];
        const auto& level = r->nodes[static_cast<std::size_t>(r->network->node_of(s.pond))].level;
        QVERIFY(r->ponds[0].level >= 42.9 && level.level >= r->ponds[0].level && level.energy >= level.level);
    }
    void factors_of_rain_and_runoff() {
        PondSite s = plain_site();
        const double rain = solve(s.project)[0]->runoffs[0].rain;
        setting(s, "uplift", 1.2);
        close_to(solve(s.project)[0]->runoffs[0].rain, 1.2 * rain);
        setting(s, "uplift", 1.0);
        setting(s, "runoff_by", RunoffBy::ModifiedRational);
        close_to(runoff(s), 0.6 * 0.06);
        s.set(Kind::Event, events_in_order(s.project)[0]->id, "frequency_factor", 1.25);
        close_to(runoff(s), 0.75 * 0.06);
        s.set(Kind::Event, events_in_order(s.project)[0]->id, "frequency_factor", 2.0);
        close_to(runoff(s), 0.06);  // C Cf is at most 1
    }
    void shares_of_openings_and_of_space() {
        PondOutlet o;
        o.level = 10;
        o.size = 0.2;
        o.count = 3;
        o.open_share = 0.5;
        close_to(way_of(o, 14)->count, 1.5);
        Pond p;
        p.storage_by = StorageBy::Tank;
        p.bottom = 0;
        p.length = p.width = 10;
        p.depth = 2;
        p.voids = 0.4;
        p.forebay = 0.25;
        close_to(storage_of(p).volume(2), 200 * 0.4 * 0.75);
    }
    void a_release_by_area_counts_all_that_drains_there() {
        PondSite s;
        const std::uint64_t id = s.project.releases.begin()->id;
        s.set(Kind::Release, id, "flow", not_given);
        s.set(Kind::Release, id, "area_rate", 2e-6);
        const Network net = compile(s.project);
        const EventId event = s.project.releases.find(id)->event;
        for (const AllowedRelease& a : net.releases)
            if (a.event == event) close_to(a.flow, 2e-6 * 4 * 8000);
    }
    void every_rule_of_storage_can_be_broken() {
        PondSite s;
        // A release just above and just below what leaves.
        const double leaves = solve(s.project)[0]->ponds[0].peak_outflow;
        for (const Release& r : std::vector<Release>(s.project.releases.begin(), s.project.releases.end()))
            s.set(Kind::Release, r.id, "flow", leaves * 1.2);
        QCOMPARE(verdict(s, Rule::ReleaseExceeded, 0), Verdict::Within);
        for (const Release& r : std::vector<Release>(s.project.releases.begin(), s.project.releases.end()))
            s.set(Kind::Release, r.id, "flow", leaves * 0.999);
        QCOMPARE(verdict(s, Rule::ReleaseExceeded, 0), Verdict::Beyond);
        QCOMPARE(verdict(s, Rule::OverflowRuns, 0), Verdict::Within);
        s.set(Kind::PondOutlet, s.high, "overflow", true);
        s.set(Kind::PondOutlet, s.high, "level", 40.1);
        QCOMPARE(verdict(s, Rule::OverflowRuns, 0), Verdict::Near);
        QVERIFY(!check(s, Rule::OverflowRuns, 1, s.pond));  // in a rare event it may
        PondSite low;
        low.set(Kind::Pond, low.pond_row, "depth", 0.4);
        low.set(Kind::Pond, low.pond_row, "crest", 42.6);
        QCOMPARE(verdict(low, Rule::CurveShort, 1), Verdict::Beyond);
        PondSite wide;
        wide.set(Kind::PondOutlet, wide.low, "size", 2.0);
        wide.set(Kind::Pond, wide.pond_row, "length", 3.0);
        wide.set(Kind::Pond, wide.pond_row, "width", 3.0);
        QCOMPARE(verdict(wide, Rule::NoAttenuation, 0), Verdict::Near);
        PondSite culvert;
        culvert.set(Kind::PondOutlet, culvert.low, "kind", static_cast<int>(OutletKind::Culvert));
        culvert.set(Kind::PondOutlet, culvert.low, "size", 0.2);
        culvert.set(Kind::PondOutlet, culvert.low, "length", 8.0);
        culvert.set(Kind::PondOutlet, culvert.low, "slope", 0.03);
        QCOMPARE(verdict(culvert, Rule::EntranceGoverns, 0), Verdict::Near);
        for (const auto& r : solve(culvert.project))
            for (Finding& f : review(culvert.project, *r).findings) {
                word(culvert.project, *r, f);
                QVERIFY(!f.title.empty() && !f.detail.empty() && !f.remedy.empty());
            }
    }
};

QTEST_APPLESS_MAIN(TestStorageSettings)
#include "test_storage_settings.moc"
