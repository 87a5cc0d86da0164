// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <random>

#include "core/analysis/budget.h"
#include "core/analysis/catchment_flow.h"
#include "core/analysis/catchment_series.h"
#include "core/analysis/explain.h"
#include "core/analysis/hydrograph.h"
#include "core/analysis/reach_routing.h"
#include "core/analysis/result_fields.h"
#include "core/analysis/solver.h"
#include "core/design/storage_study.h"
#include "core/hydrology/unit_hydrograph.h"
#include "core/review/review.h"
#include "support/ponds.h"
#include "support/small_street.h"

using namespace culvert;
using testing::PondSite;

/// Hydrographs over the network: volumes, the steady answer, independence of order, ponds and what stands below them.
class TestHydrograph : public QObject {
    Q_OBJECT
    static const Series* series(const std::vector<Series>& all, std::string_view key) {
        for (const Series& s : all)
            if (s.key == key) return &s;
        return nullptr;
    }
    static double sum(const std::vector<double>& v) {
        double s = 0;
        for (const double x : v) s += x;
        return s;
    }
    static bool has_fault(const Project& p, const std::string& title) {
        for (const Fault& f : compile(p).faults)
            if (f.title == title) return true;
        return false;
    }

  private slots:
    /// A depth of 1 m in one step over an area, by one catchment.
    static std::vector<double> one_step(double time, double step, double factor, double* beyond = nullptr,
                                        std::size_t rain_steps = 1, std::size_t count = 8000) {
        RunoffArea a;
        a.area = 1000;
        a.time = time;
        a.peak_factor = factor;
        a.parts = {{1000, ConstantLoss{}}};
        CatchmentFlow maker;
        RunoffSummary r;
        std::vector<double> depths(rain_steps, 1.0 / static_cast<double>(rain_steps)), flow(count, 0.0);
        const double left = maker.run(a, depths, 1, step, flow, r);
        if (beyond) *beyond = left;
        return flow;
    }
    void response_has_unit_volume() {
        std::mt19937 gen(3);
        std::uniform_real_distribution<double> u(0, 1);
        for (int n = 0; n < 200; ++n) {
            const double time = 120 + 7200 * u(gen), step = 10 + 600 * u(gen),
                         factor = n % 3 ? 484 : 200 + 400 * u(gen);
            double beyond = 0;
            // Also where the time ends long before the water.
            const std::size_t count = n % 2 ? 8000 : 2 + static_cast<std::size_t>(20 * u(gen));
            const double volume = sum(one_step(time, step, factor, &beyond, 1, count)) * step + beyond;
            QVERIFY2(std::abs(volume / 1000 - 1) < 1e-9, qPrintable(QString::number(volume, 'g', 12)));
        }
    }
    void peak_is_the_methods() {
        // Rain of one duration D: qp = 484 A Q / tp, tp = D/2 + 0.6 Tc = 2/3 Tc; in SI 0.7498 V / tp. The published
        // ordinates hold a per cent less or more.
        for (const double time : {600.0, 1500.0, 3600.0}) {
            const double d = time * 2 / 15, volume = 1000;
            const auto q = one_step(time, d / 8, 484, nullptr, 8);
            const double peak = *std::max_element(q.begin(), q.end());
            const double handbook = 484 * 0.028316846592 / (2589988.110336 * 0.0254 / 3600) * volume / (time * 2 / 3);
            QVERIFY2(std::abs(peak / handbook - 1) < 0.01, qPrintable(QString("%1 %2").arg(peak).arg(handbook)));
            const auto at = std::max_element(q.begin(), q.end()) - q.begin();
            QVERIFY(std::abs((static_cast<double>(at) + 0.5) * d / 8 - time * 2 / 3) < d / 2);
        }
    }
    void computing_step_does_not_matter() {
        // Means of finer steps are the means of coarser ones.
        const auto fine = one_step(900, 10, 484, nullptr, 12), coarse = one_step(900, 60, 484, nullptr, 2);
        for (std::size_t i = 0; i < 60; ++i) {
            double mean = 0;
            for (std::size_t k = 0; k < 6; ++k) mean += fine[6 * i + k] / 6;
            QVERIFY2(std::abs(mean - coarse[i]) < 1e-9,
                     qPrintable(QString("%1: %2 %3").arg(i).arg(mean).arg(coarse[i])));
        }
    }
    void lag_keeps_water() {
        std::mt19937 gen(5);
        std::uniform_real_distribution<double> u(0, 1);
        for (int n = 0; n < 100; ++n) {
            std::vector<double> in, out(60, 0.0);
            const double before = u(gen);
            for (int i = 0; i < 60; ++i) in.push_back(u(gen));
            const double left = lag(in, before, 20 * u(gen), out);
            QVERIFY(std::abs(sum(in) - sum(out) - left) < 1e-9);
        }
        std::vector<double> whole{1, 2, 3, 4}, later(4, 0.0);
        lag(whole, 0, 1, later);
        QCOMPARE(later, (std::vector<double>{0, 1, 2, 3}));
    }
    void kinematic_wave_keeps_water_and_comes_later() {
        Link l;
        l.section = Circular{0.9};
        l.length = 1200;
        l.slope = 0.002;
        l.roughness = 0.013;
        std::vector<double> in(240, 0.0), out(240, 0.0);
        for (std::size_t i = 0; i < 60; ++i) in[i] = 0.4 * std::sin(3.14159265 * (static_cast<double>(i) + 0.5) / 60);
        std::vector<Reach> reaches;
        const double left = kinematic(l, in, 0, 60, 900, reaches, out);
        QVERIFY(std::abs((sum(in) - sum(out)) * 60 - left) < 1e-6);
        const auto peak_in = std::max_element(in.begin(), in.end()),
                   peak_out = std::max_element(out.begin(), out.end());
        QVERIFY(*peak_out<*peak_in&& * peak_out> 0.5 * *peak_in);
        QVERIFY(peak_out - out.begin() > peak_in - in.begin() + 4);
        for (const double q : out) QVERIFY(q >= -1e-12);
        // Steady flow stays as it is.
        std::vector<double> even(60, 0.2), same(60, 0.0);
        kinematic(l, even, 0.2, 60, 900, reaches, same);
        for (const double q : same) QVERIFY(std::abs(q - 0.2) < 1e-3);
    }
    void runoff_is_the_curve_number_equation() {
        PondSite site;
        site.uniform(0.08, 6 * 3600);
        const Results all = solve(site.project);
        const ThroughTime& t = *all[0]->network->through_time;
        for (std::size_t i = 0; i < t.areas.size(); ++i) {
            const RunoffSummary& r = all[0]->runoffs[i];
            // By hand: CN 80, all pervious: S = 63.5 mm, (80 - 12.7)^2 / (80 + 50.8) = 34.63 mm.
            QVERIFY2(std::abs(r.runoff - 0.0346277) < 1e-6, qPrintable(QString::number(r.runoff, 'f', 7)));
            QVERIFY(std::abs(r.rain - r.runoff - r.infiltrated - r.held) < 1e-9 * r.rain);
        }
    }
    void steady_inflow_ends_at_the_steady_answer() {
        PondSite site(false);
        for (const Structure& s : site.project.structures) site.set(Kind::Structure, s.id, "known_flow", 0.02);
        for (const Catchment& c :
             std::vector<Catchment>(site.project.catchments.begin(), site.project.catchments.end()))
            site.remove(Kind::Catchment, c.id);
        const Results through = solve(site.project);
        site.set(Kind::Settings, settings_id, "runoff_by", 0);
        const Results steady = solve(site.project);
        QCOMPARE(through.size(), steady.size());
        QCOMPARE(through[0]->source, ResultSource::ThroughTime);
        for (std::size_t l = 0; l < steady[0]->links.size(); ++l) {
            QVERIFY(std::abs(through[0]->links[l].flow.flow - steady[0]->links[l].flow.flow) < 1e-12);
            QVERIFY(std::abs(through[0]->links[l].level.head_up - steady[0]->links[l].level.head_up) < 1e-9);
        }
        for (std::size_t n = 0; n < steady[0]->nodes.size(); ++n)
            QVERIFY(std::abs(through[0]->nodes[n].level.level - steady[0]->nodes[n].level.level) < 1e-9);
    }
    void even_rain_ends_at_the_rational_flow() {
        // Long even rain, modified rational: every pipe carries C i A of all above it.
        PondSite site(false);
        site.uniform(0.06, 6 * 3600);
        site.set(Kind::Settings, settings_id, "runoff_by", static_cast<int>(RunoffBy::ModifiedRational));
        const Results through = solve(site.project);
        site.set(Kind::Settings, settings_id, "runoff_by", 0);
        const Results steady = solve(site.project);
        for (std::size_t l = 0; l < steady[0]->links.size(); ++l)
            QVERIFY2(
                std::abs(through[0]->links[l].flow.flow - steady[0]->links[l].flow.flow) <
                    1e-6 * steady[0]->links[l].flow.flow,
                qPrintable(QString("%1 %2").arg(through[0]->links[l].flow.flow).arg(steady[0]->links[l].flow.flow)));
    }
    /// Rain of one intensity for D on an area of Tc: it rises for the shorter of both, stands, and falls as long; at
    /// most C i A, or that times D / Tc where the storm is the shorter; its volume is C i A D.
    void an_even_storm_gives_the_trapezoid() {
        for (const double tc : {240.0, 600.0, 1110.0})
            for (const double d : {300.0, 600.0, 2400.0}) {
                const double step = 60, c = 0.7, area = 5200, intensity = 0.05 / 3600, most = c * intensity * area;
                RunoffArea a;
                a.area = area;
                a.effective_area = c * area;
                a.time = tc;
                a.by = TransformBy::ModifiedRational;
                const std::vector<double> depths(static_cast<std::size_t>(d / step), intensity * step);
                std::vector<double> flow(120, 0.0);
                RunoffSummary summary{};
                CatchmentFlow one;
                QVERIFY(std::abs(one.run(a, depths, 1, step, flow, summary)) < 1e-12);
                const auto at = [&](double t) {
                    return most * std::min(1.0, d / tc) *
                           std::clamp(std::min(t, tc + d - t) / std::min(tc, d), 0.0, 1.0);
                };
                double volume = 0;
                for (std::size_t i = 0; i < flow.size(); ++i) {
                    double mean = 0;
                    for (int k = 0; k < 600; ++k) mean += at((static_cast<double>(i) + (k + 0.5) / 600) * step) / 600;
                    QVERIFY2(std::abs(flow[i] - mean) < 1e-6 * most,
                             qPrintable(QString("Tc %1, D %2, step %3").arg(tc).arg(d).arg(i)));
                    volume += flow[i] * step;
                }
                QVERIFY(std::abs(volume - most * d) < 1e-9 * most * d);
            }
    }
    void water_balances_everywhere() {
        std::mt19937 gen(17);
        std::uniform_real_distribution<double> u(0, 1);
        int with_ponds = 0, stored = 0;
        for (int n = 0; n < 60; ++n) {
            PondSite site(n % 3 != 0, n + 1);
            site.set(Kind::Settings, settings_id, "runoff_by", 1 + n % 3);
            site.set(Kind::Settings, settings_id, "travel_by", n % 2);
            site.set(Kind::Settings, settings_id, "losses", 1 + n % 5);
            site.set(Kind::Settings, settings_id, "initial_loss", 0.004);
            site.set(Kind::Settings, settings_id, "loss_rate", 2e-6);
            site.set(Kind::Settings, settings_id, "loss_share", 0.3);
            site.set(Kind::Settings, settings_id, "first_rate", 1e-5);
            site.set(Kind::Settings, settings_id, "front_head", 0.05);
            site.set(Kind::Settings, settings_id, "after_rain", 600 + 40000 * u(gen));
            if (n % 4 == 0)
                for (const Structure& s : site.project.structures)
                    site.set(Kind::Structure, s.id, "known_flow", 0.01 * u(gen));
            for (const auto& r : solve(site.project)) {
                const WaterBalance& b = r->balance;
                QVERIFY(b.runoff > 0);
                QVERIFY2(std::abs(b.error()) < 1e-6 * (b.runoff + b.known),
                         qPrintable(QString("%1: %2 of %3").arg(n).arg(b.error()).arg(b.runoff)));
                QVERIFY(std::abs(b.rain - b.lost - b.runoff) < 1e-9 * b.rain);
                with_ponds += !r->ponds.empty();
                stored += b.stored > 1;
            }
        }
        QVERIFY(with_ponds > 30 && stored > 10);
    }
    void bypass_runs_on_through_time() {
        Project p = street();
        p.settings_rows.change(settings_id)->runoff_by = RunoffBy::ModifiedRational;
        p.settings_rows.change(settings_id)->after_rain = 7200;
        int passed = 0;
        for (const auto& r : solve(p)) {
            QVERIFY(r->balance.runoff > 0);
            QVERIFY2(std::abs(r->balance.error()) < 1e-6 * (r->balance.runoff + r->balance.known),
                     qPrintable(QString("%1 of %2").arg(r->balance.error()).arg(r->balance.runoff)));
            for (std::size_t i = 0; i < r->streets.size(); ++i) {
                const StreetFlow& f = r->streets[i];
                QVERIFY(std::abs(f.captured + f.bypass - f.flow) < 1e-9);
                passed += f.bypass > 1e-3;
                const auto node = static_cast<std::size_t>(r->network->inlets[i].node);
                if (r->network->inlets[i].end == PathEnd::Structure && r->network->nodes[node].inflows == 0)
                    QVERIFY2(std::abs(r->nodes[node].flow.flow - f.captured) < 1e-6 * f.flow,
                             "what the inlet took is in the pipe");
            }
        }
        QVERIFY(passed > 0);
    }
    /// One catchment alone: every step adds up, and its flow is what the network's solve has there.
    void a_catchment_through_its_storm() {
        PondSite site;
        for (const LossesBy by :
             {LossesBy::CurveNumber, LossesBy::Constant, LossesBy::Proportional, LossesBy::Horton, LossesBy::GreenAmpt})
            for (const RunoffBy method : {RunoffBy::UnitHydrograph, RunoffBy::ModifiedRational, RunoffBy::Plane}) {
                site.set(Kind::Settings, settings_id, "losses", static_cast<int>(by));
                site.set(Kind::Settings, settings_id, "runoff_by", static_cast<int>(method));
                const Network net = compile(site.project);
                const RainEvent& e = **events_in_order(site.project).begin();
                EventResult whole;
                static_cast<Summaries&>(whole) = Summaries(net);
                AskedSeries asked;
                asked.nodes = {net.node_of(site.head)};
                const auto all = solve_through_time(net, rain_of(e), whole, asked);
                const RunoffArea& area = net.through_time->areas[static_cast<std::size_t>(
                    net.through_time->area_begin[static_cast<std::size_t>(asked.nodes[0])])];
                const CatchmentSeries s = series_of_catchment(net, rain_of(e), area.catchment);
                QVERIFY(!s.rain.empty() && s.rain.size() == s.flow.size() && s.lost.size() == s.flow.size());
                double fell = 0, ran = 0;
                for (std::size_t k = 0; k < s.rain.size(); ++k) {
                    QVERIFY(std::abs(s.rain[k] - s.lost[k] - s.runoff[k]) < 1e-12 && s.runoff[k] >= 0);
                    fell += s.rain[k];
                    ran += s.runoff[k];
                }
                QVERIFY(std::abs(fell - whole.runoffs[0].rain) < 1e-9 &&
                        std::abs(ran - whole.runoffs[0].runoff) < 1e-9);
                QVERIFY(ran > 0 && ran <= fell + 1e-12);
                QVERIFY(std::abs(sum(s.flow) * s.step + s.beyond - ran * area.area) < 1e-6 * ran * area.area);
                const Series* there = series(all, "runoff");
                QVERIFY(there);
                for (std::size_t k = 0; k < s.flow.size(); ++k) QVERIFY(std::abs(s.flow[k] - there->values[k]) < 1e-12);
            }
        QVERIFY(series_of_catchment(compile(site.project), {}, {12345}).rain.empty());
    }
    void order_and_direction_do_not_matter() {
        PondSite a(true, 7);
        PondSite b(true, 7);
        for (const Pipe& p : std::vector<Pipe>(b.project.pipes.begin(), b.project.pipes.end())) {
            b.set(Kind::Pipe, p.id, "from", p.to.value);
            b.set(Kind::Pipe, p.id, "to", p.from.value);
            b.set(Kind::Pipe, p.id, "invert_from", p.invert_to);
            b.set(Kind::Pipe, p.id, "invert_to", p.invert_from);
        }
        b.set(Kind::Settings, settings_id, "system", 1);
        const Results x = solve(a.project), y = solve(b.project);
        for (std::size_t e = 0; e < x.size(); ++e) {
            QCOMPARE(x[e]->ponds.size(), y[e]->ponds.size());
            for (std::size_t p = 0; p < x[e]->ponds.size(); ++p) {
                QCOMPARE(x[e]->ponds[p].peak_outflow, y[e]->ponds[p].peak_outflow);
                QCOMPARE(x[e]->ponds[p].level, y[e]->ponds[p].level);
            }
            for (std::size_t l = 0; l < x[e]->links.size(); ++l)
                QCOMPARE(x[e]->links[l].flow.flow, y[e]->links[l].flow.flow);
        }
    }
    void a_part_computed_alone_is_the_same() {
        PondSite site(true, 3);
        const Network net = compile(site.project);
        for (const RainEvent* e : events_in_order(site.project)) {
            EventResult whole;
            static_cast<Summaries&>(whole) = Summaries(net);
            set_tails(net, {e->id}, whole);
            const auto all = solve_through_time(net, rain_of(*e), whole, {{}, true, false});
            for (const auto& h : hydrographs_at(site.project, site.pond)) {
                if (h.event.value != e->id) continue;
                const Series* level = h.of("level");
                QVERIFY(level);
                for (const Series& s : all)
                    if (s.key == "level") QCOMPARE(s.values, level->values);
                QCOMPARE(h.pond.peak_outflow, whole.ponds[0].peak_outflow);
            }
        }
    }
    void pond_holds_back_and_sets_the_tailwater() {
        PondSite site;
        for (const auto& r : solve(site.project)) {
            const PondSummary& p = r->ponds[0];
            QVERIFY(p.peak_outflow < 0.8 * p.peak_inflow);
            QVERIFY(p.level > 40 && p.level_time > p.peak_inflow_time);
            const int node = r->network->node_of(site.pond);
            QCOMPARE(r->nodes[static_cast<std::size_t>(node)].level.level, p.level);
            // The water above stands on that of the pond.
            const LevelBudget b = level_budget(*r, site.head);
            QVERIFY(b.start != BudgetStart::Pond || b.start_element.id == site.pond.value);
            QCOMPARE(level_budget(*r, site.pond).start, BudgetStart::Pond);
            QVERIFY(std::abs(p.inflow_volume - p.outflow_volume - p.soaked - p.left) < 1e-6 * p.inflow_volume);
            double ways = 0;
            for (const double v : p.way_volumes) ways += v;
            QVERIFY(std::abs(ways - p.outflow_volume) < 1e-6 * p.inflow_volume);
        }
    }
    void what_stands_below_an_outlet_holds_it_back() {
        PondSite site;
        const double free = solve(site.project)[1]->ponds[0].level;
        // A weir of a tailwater at the end of the pipes below raises the level at the structure it runs to.
        site.set(Kind::Structure, site.end.value, "tailwater", static_cast<int>(Tailwater::Level));
        site.set(Kind::Structure, site.end.value, "tailwater_level", 41.2);
        const auto held = solve(site.project)[1];
        QVERIFY2(held->ponds[0].level > free + 0.02, qPrintable(QString("%1 %2").arg(held->ponds[0].level).arg(free)));
        QVERIFY(held->ponds[0].settled);
        QVERIFY(held->ponds[0].level > 41.2 - 0.05);
        // The level there in the summary is what the pond met: at its largest outflow the openings obey it.
        QVERIFY(std::abs(held->balance.error()) < 1e-6 * held->balance.runoff);
    }
    void ponds_in_a_chain() {
        PondSite site;
        site.second_pond();
        const auto r = solve(site.project)[0];
        QCOMPARE(r->ponds.size(), std::size_t{2});
        QVERIFY(r->ponds[0].settled && r->ponds[1].settled);
        QVERIFY(std::abs(r->balance.error()) < 1e-6 * r->balance.runoff);
        QVERIFY(!has_fault(site.project, "leads back"));
    }
    void working_follows_by_hand() {
        for (const int system : {0, 1}) {
            PondSite site;
            site.set(Kind::Settings, settings_id, "system", system);
            site.uniform(0.15, 3600);  // so much that the spillway runs
            QVERIFY(solve(site.project)[0]->ponds[0].way_peaks.back() > 0.05);
            int formulas = 0;
            for (const auto& r : solve(site.project))
                for (const ElementRef e :
                     {ElementRef{Kind::Structure, site.head.value}, ElementRef{Kind::Structure, site.pond.value}})
                    for (const char* what : {"flow", "release"}) {
                        const Explanation x = explain(site.project, *r, e, what);
                        for (const Step& s : x.steps) {
                            if (s.formula.empty()) continue;
                            std::string error;
                            const double v = evaluate(s.formula, s.terms, &error);
                            QVERIFY2(error.empty(), error.c_str());
                            QVERIFY2(
                                std::abs(v - s.result) < 1e-5 * std::max(1e-3, std::abs(s.result)),
                                qPrintable(QString("%1: %2 against %3").arg(s.meaning.c_str()).arg(v).arg(s.result)));
                            ++formulas;
                        }
                    }
            QVERIFY(formulas > 20);
        }
    }
    void bad_storage_is_named() {
        PondSite site;
        const auto with = [&](std::vector<double> levels, std::vector<double> areas) {
            PondSite other;
            other.set(Kind::Pond, other.pond_row, "storage_by", static_cast<int>(StorageBy::Areas));
            other.set(Kind::Pond, other.pond_row, "levels", std::move(levels));
            other.set(Kind::Pond, other.pond_row, "areas", std::move(areas));
            return has_fault(other.project, "space at fault") && !solve(other.project).empty();
        };
        QVERIFY(with({40, 41, 40.5}, {10, 20, 30}));
        QVERIFY(with({40}, {10}));
        QVERIFY(with({40, 41}, {10}));
        QVERIFY(with({40, 41}, {-1, 10}));
        QVERIFY(with({40, 41}, {0, 0}));
        PondSite self;
        self.set(Kind::PondOutlet, self.low, "to", self.pond.value);
        QVERIFY(has_fault(self.project, "outlet at fault"));
        PondSite loop;
        loop.set(Kind::PondOutlet, loop.low, "to", loop.head.value);
        QVERIFY(has_fault(loop.project, "leads back"));
        const auto r = solve(loop.project)[0];
        QVERIFY(std::abs(r->balance.error()) < 1e-6 * r->balance.runoff);
        PondSite zero;
        zero.set(Kind::PondOutlet, zero.low, "coefficient", 0.0);
        QVERIFY(has_fault(zero.project, "outlet at fault"));
        PondSite below;
        below.set(Kind::PondOutlet, below.low, "level", 39.0);
        QVERIFY(has_fault(below.project, "outlet below the bottom"));
        PondSite one;
        one.remove(Kind::PondOutlet, one.spill);
        one.remove(Kind::PondOutlet, one.high);
        QVERIFY(has_fault(one.project, "one way out"));
        PondSite rational;
        rational.set(Kind::Settings, settings_id, "runoff_by", 0);
        QVERIFY(has_fault(rational.project, "not routed"));
        for (const Fault& f : compile(rational.project).faults)
            if (f.title == "not routed")
                QVERIFY2(f.severity == Severity::Error && f.detail.find("without that water") != std::string::npos,
                         f.detail.c_str());
        QVERIFY(!solve(rational.project).empty());
    }
    void wild_steps_and_numbers() {
        PondSite site;
        for (const double step : {1.0, 7.0, 900.0, 3600.0}) {
            site.set(Kind::Settings, settings_id, "computing_step", step);
            const auto r = solve(site.project)[0];
            QVERIFY(std::abs(r->balance.error()) < 1e-6 * r->balance.runoff);
            QVERIFY(r->ponds[0].peak_outflow > 0);
        }
        site.set(Kind::Settings, settings_id, "computing_step", -5.0);  // out of range: named elsewhere, not used
        QVERIFY(solve(site.project)[0]->ponds[0].peak_outflow > 0);
    }
    /// A second pipe beside one takes some of its largest flow; what flows through the structures stays.
    void a_pipe_beside_another_divides_the_largest_flow() {
        const PondSite plain(false);
        PondSite beside = plain;
        std::uint64_t first = 0;
        for (const Pipe& p : plain.project.pipes)
            if (p.from.value == plain.head.value + 1) first = p.id;
        Pipe second = *plain.project.pipes.find(first);
        second.id = 950;
        beside.insert(second);
        const Results a = solve(plain.project), b = solve(beside.project);
        for (std::size_t e = 0; e < a.size(); ++e) {
            for (const Structure& s : plain.project.structures) {
                const double
                    q = a[e]->nodes[static_cast<std::size_t>(a[e]->network->node_of(StructureId{s.id}))].flow.flow,
                    r = b[e]->nodes[static_cast<std::size_t>(b[e]->network->node_of(StructureId{s.id}))].flow.flow;
                // The balance holds a flow that is flattened on its way.
                QVERIFY2(q > 0.01 && r > q * (1 - 1e-9) && r < q * 1.03,
                         qPrintable(QString("%1: %2, alone %3").arg(s.name.c_str()).arg(r).arg(q)));
            }
            const auto flow = [](const EventResult& r, std::uint64_t pipe) {
                return r.links[static_cast<std::size_t>(r.network->link_of(PipeId{pipe}))].flow.flow;
            };
            const double alone = flow(*a[e], first);
            QVERIFY(std::abs(flow(*b[e], first) - alone / 2) < 1e-3 * alone);
            QVERIFY(std::abs(flow(*b[e], 950) - alone / 2) < 1e-3 * alone);
        }
    }
    void wild_rows_reach_no_kernel() {
        // Any number in any field of ponds, outlets, catchments and settings: an answer of this world, or none.
        std::mt19937 gen(99);
        const auto any = [&](int n) { return static_cast<int>(gen() % static_cast<unsigned>(n)); };
        const double wild[] = {0, -1, 1e-9, 1e-3, 0.5, 3, 40, 43, 1e3, 1e6, 1e9, 1e300, -1e300, not_given};
        for (int n = 0; n < 60; ++n) {
            PondSite site(true, n + 1);
            if (n % 5 == 0) site.second_pond();
            for (int k = 0; k < 3; ++k) {
                const Kind kind = std::array{Kind::Pond, Kind::PondOutlet, Kind::Settings,
                                             Kind::Catchment}[static_cast<std::size_t>(any(4))];
                std::uint64_t id = settings_id;
                if (kind == Kind::Pond) id = site.pond_row;
                if (kind == Kind::PondOutlet)
                    id = std::array{site.low, site.high, site.spill}[static_cast<std::size_t>(any(3))];
                if (kind == Kind::Catchment) id = site.project.catchments.begin()->id;
                const auto infos = infos_of(kind);
                const std::size_t at = static_cast<std::size_t>(any(static_cast<int>(infos.size())));
                const double v = wild[any(14)];
                if (infos[at]->key == "computing_step" && v < 1) continue;
                if (!infos[at]->choices.empty())
                    site.set(kind, id, infos[at]->key, any(static_cast<int>(infos[at]->choices.size())));
                else {
                    site.set(kind, id, infos[at]->key, v);  // refused where the field is no number
                    site.set(kind, id, infos[at]->key, std::vector<double>{v, wild[any(14)], 41});
                }
            }
            for (const auto& r : solve(site.project)) {
                for (const NodeResult& node : r->nodes) {
                    QVERIFY2(node.flow.flow >= -1e-9 && node.flow.flow < 1e7,
                             qPrintable(QString("%1: %2").arg(n).arg(node.flow.flow)));
                    QVERIFY(std::isnan(node.level.level) || std::abs(node.level.level) < 1e9);
                }
                for (const PondSummary& p : r->ponds) QVERIFY(std::isfinite(p.peak_outflow) && std::isfinite(p.level));
                QVERIFY2(std::abs(r->balance.error()) <=
                             1e-6 * std::max(1.0, r->balance.runoff + r->balance.known + std::abs(r->balance.stored)),
                         qPrintable(QString("%1: %2 of %3").arg(n).arg(r->balance.error()).arg(r->balance.runoff)));
                review(site.project, *r);
            }
        }
    }
    void sizes_meet_the_releases_and_are_the_largest() {
        PondSite site;
        const OutletProposal p = size_outlets(site.project, site.pond);
        QVERIFY2(p.why.empty(), p.why.c_str());
        QVERIFY(p.meets);
        QCOMPARE(p.outlets.size(), std::size_t{2});
        // Brute force: each opening in turn a step larger lets out more than is allowed in its event.
        for (const SizedOutlet& s : p.outlets) {
            Project q = site.project;
            apply(q, p.edit);
            // The outlets above it are sized for their own events: only its event is looked at.
            const PondOutlet* row = q.outlets.find(s.outlet);
            Editing e(q, "larger");
            e.set(Kind::PondOutlet, s.outlet, s.is_crest ? "width" : "size",
                  (s.is_crest ? row->width + 0.05 : row->size + 0.005));
            double after = 0, allowed = 0;
            for (const auto& h : hydrographs_at(e.now(), site.pond))
                if (h.event == s.event) after = h.pond.peak_outflow, allowed = h.allowed;
            QVERIFY2(after > allowed || s.outlet != p.outlets.front().outlet, "a larger opening would do as well");
        }
        for (const ReleaseProof& r : p.proof) QVERIFY(r.after <= r.allowed * (1 + 1e-6));
    }
    void required_volume_is_what_routing_needs_about() {
        PondSite site;
        for (const RequiredVolume& v : required_volumes(hydrographs_at(site.project, site.pond))) {
            QVERIFY(v.flat > 0 && v.rising >= v.flat - 1e-9);
        }
    }
    void critical_storm_is_the_largest_of_all() {
        PondSite site;
        for (const CriticalStorm& c : critical_storms(site.project, site.pond)) {
            QVERIFY(c.volume > 0);
            // Brute force over every length in steps of ten seconds.
            site.set(Kind::Settings, settings_id, "runoff_by", 0);
            const auto net = std::make_shared<const Network>(compile(site.project));
            const EventRain rain = rain_of(*site.project.events.find(c.event.value));
            const EventResult r = solve_one(net, rain);
            const NodeFlow& f = r.nodes[static_cast<std::size_t>(net->node_of(site.pond))].flow;
            double most = 0;
            for (double d = f.time; d <= 86400; d += 10)
                most = std::max(most, f.effective_area * rain.curve.intensity(d) * d - c.allowed * (d + f.time) / 2);
            QVERIFY2(std::abs(c.volume - most) < 1e-4 * most, qPrintable(QString("%1 %2").arg(c.volume).arg(most)));
            site.set(Kind::Settings, settings_id, "runoff_by", 1);
        }
    }
    void a_low_inlet_fills_and_spills_on() {
        Project p = street();
        p.settings_rows.change(settings_id)->inlet_flow = InletFlow::AllEnters;
        Editing small(p, "a small pipe");
        for (const Pipe& q : p.pipes)
            if (q.from.value == 1) small.set(Kind::Pipe, q.id, "size", 0.04);
        apply(p, small.take());
        apply(p, give_storage(p, {1}));
        QCOMPARE(p.ponds.size(), std::size_t{1});
        QCOMPARE(p.outlets.size(), std::size_t{1});
        QCOMPARE(p.outlets.begin()->to.value, std::uint64_t{2});
        for (const auto& r : solve(p)) {
            QCOMPARE(r->ponds.size(), std::size_t{1});
            QVERIFY(std::abs(r->balance.error()) < 1e-6 * r->balance.runoff);
            const PondSummary& s = r->ponds[0];
            QCOMPARE(s.way_peaks.size(), std::size_t{2});  // its pipe, and the street
            QVERIFY2(s.way_volumes[1] > 0.1, qPrintable(QString::number(s.way_volumes[1])));
            QVERIFY(std::abs(s.way_volumes[0] + s.way_volumes[1] - s.outflow_volume) < 1e-6 * s.inflow_volume);
        }
    }
    void before_and_after_by_name() {
        PondSite after, before(false);
        std::vector<std::string> unmatched;
        const auto rows = before_and_after(before.project, after.project, &unmatched);
        QVERIFY(!rows.empty());
        for (const BeforeAfter& r : rows) {
            QCOMPARE(r.name, std::string("E"));
            QVERIFY(r.after_peak < r.before_peak);
            QVERIFY(!r.exceeds);
        }
        after.set(Kind::Event, events_in_order(after.project)[0]->id, "name", std::string("another"));
        unmatched.clear();
        before_and_after(before.project, after.project, &unmatched);
        const auto has = [&](const char* what) { return std::count(unmatched.begin(), unmatched.end(), what) == 1; };
        QVERIFY(has("event another") && has("event 2 years"));
    }
};

QTEST_APPLESS_MAIN(TestHydrograph)
#include "test_hydrograph.moc"
