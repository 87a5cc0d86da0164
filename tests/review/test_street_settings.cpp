// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/analysis/result_fields.h"
#include "core/analysis/solver.h"
#include "core/design/inlet_spacing.h"
#include "core/hydrology/land_covers.h"
#include "core/model/catchment_time.h"
#include "core/model/edit.h"
#include "core/review/rules.h"
#include "support/small_street.h"

using namespace culvert;

namespace {

/// A limit alone, just kept and just broken; off; in the other system's events only.
void hold(LimitKind kind, double now, bool at_most) {
    const Project p = street();
    const std::uint64_t id = limit_id(p, kind);
    QVERIFY(id && now > 0);
    const auto verdict = [&](double limit) {
        const auto c = check(with(with(p, Kind::Limit, id, "active", true), Kind::Limit, id, "value", limit),
                             static_cast<Rule>(kind));
        return c ? c->verdict : Verdict::Unknown;
    };
    // The major system's own limits do not hold in the minor event.
    const Project all = with(with(p, Kind::Limit, id, "active", true), Kind::Limit, id, "system", EventRole::Other);
    const auto in_all = [&](double limit) {
        const auto c = check(with(all, Kind::Limit, id, "value", limit), static_cast<Rule>(kind));
        return c ? c->verdict : Verdict::Unknown;
    };
    const double step = 1e-3 * now;
    QVERIFY(in_all(at_most ? now + step : now - step) != Verdict::Beyond);
    QCOMPARE(in_all(at_most ? now - step : now + step), Verdict::Beyond);
    QVERIFY(!check(with(p, Kind::Limit, id, "active", false), static_cast<Rule>(kind)));
    if (p.limits.find(id)->system == EventRole::Major)
        QCOMPARE(verdict(at_most ? now - step : now + step), Verdict::Unknown);
}

}  // namespace

/// Every setting, choice and limit of streets and areas: it alone changes the answer, the way its words say.
class TestStreetSettings : public QObject {
    Q_OBJECT
  private slots:
    void setting_two_year_rain() {
        Project p = with(with(street(), Kind::Catchment, 21, "time_by", TimeBy::Parts), Kind::Catchment, 21,
                         "path_parts", std::string("sheet 30m 1% 0.15"));
        const double a = concentration_time(with_setting(p, "two_year_rain", 0.05), *p.catchments.find(21)).time,
                     b = concentration_time(with_setting(p, "two_year_rain", 0.1), *p.catchments.find(21)).time;
        QVERIFY(close(a / b, std::sqrt(2.0)));
        QVERIFY(std::isnan(concentration_time(p, *p.catchments.find(21)).time));  // and it is said where it is missing
    }
    void setting_edition() {
        // The US edition's 0.56 in feet carries a little more: less spread.
        const StreetFlow a = at(street()), b = at(with_setting(street(), "edition", Edition::Us));
        QVERIFY(b.depth < a.depth &&
                close(b.depth / a.depth, std::pow(0.376 / (0.56 * std::cbrt(0.3048)), 0.375), 2e-3));
    }
    void choice_edition() { setting_edition(); }
    void setting_inlet_flow() {
        const Project p = street(), all = with_setting(p, "inlet_flow", InletFlow::AllEnters);
        const StreetFlow f = at(p);
        QVERIFY(f.bypass > 0.005);
        QVERIFY(close(pipe_flow(p, 1).effective_area, f.effective_area * f.efficiency));
        QVERIFY(close(pipe_flow(all, 1).effective_area, 3200));
        QVERIFY(close(at(all).spread, f.spread));
    }
    void setting_gutter_time() {
        const Project p = street();
        const StreetFlow first = at(p), second = at(p, 2), at_once = at(with_setting(p, "gutter_time", false), 2);
        QVERIFY(close(second.time, first.time + first.travel) && first.travel > 60 && close(at_once.time, first.time));
    }
    void setting_partial_area() {
        Project p = street();
        for (const auto& [id, area, c, time] : {std::tuple{41, 3500.0, 0.8, 300.0}, {42, 500.0, 0.8, 3600.0}}) {
            LandCover l;
            l.id = static_cast<std::uint64_t>(id);
            l.name = "cover";
            l.catchment = {21};
            l.area = area;
            l.coefficient = c;
            l.time = time;
            p.land_covers.insert(l);
        }
        const StreetFlow plain = at(p), f = at(with_setting(p, "partial_area", true));
        QVERIFY(close(plain.flow, 3200 * 1e-5) && close(f.flow, 2800 * 4e-5) && close(f.partial_time, 300));
    }
    /// Spread is a row of the service level of an inlet of a street, held in all events; elsewhere it is none.
    void spread_is_a_row_of_the_service_level() {
        const double now = at(street()).spread;
        const std::uint64_t limit = limit_id(street(), LimitKind::MostSpread);
        for (const double share : {0.5, 2.0}) {
            const Project p =
                with(with(street(), Kind::Limit, limit, "active", true), Kind::Limit, limit, "value", share * now);
            const ServiceLevel level = service_level(p, solve(p), {Kind::Structure, 1});
            QVERIFY(level.on_street);
            QCOMPARE(level.rows[4].front() == Verdict::Beyond, share < 1);
            QCOMPARE(level.passed() < 0, share < 1);
        }
    }
    void limit_most_spread() { hold(LimitKind::MostSpread, at(street()).spread, true); }
    void limit_most_share_of_spread() { hold(LimitKind::MostSpreadShare, at(street()).spread / 4, true); }
    void limit_least_dry_width() { hold(LimitKind::LeastDryWidth, 4 - at(street()).spread, false); }
    void limit_most_depth_on_street() { hold(LimitKind::MostStreetDepth, at(street()).depth, true); }
    void limit_most_depth_x_velocity() {
        hold(LimitKind::MostDepthVelocity, at(street()).depth * at(street()).velocity, true);
        const auto r = solve(street())[0];
        const double shown = result_at(*r, *result_field(ResultOn::Node, "depth_velocity"), {Kind::Structure, 1});
        QVERIFY(close(shown, at(street()).depth * at(street()).velocity) && !close(shown, 0));
    }
    void limit_most_velocity_on_street() { hold(LimitKind::MostStreetVelocity, at(street()).velocity, true); }
    void limit_most_shear_on_street() {  // 9810 N/m3, on a fall of 1 %
        hold(LimitKind::MostStreetShear, 98.1 * at(street()).depth, true);
        const Project sag = with(street(), Kind::Structure, 1, "inlet_place", InletPlace::Sag);
        const auto c = check(with(with(sag, Kind::Limit, limit_id(sag, LimitKind::MostStreetShear), "active", true),
                                  Kind::Limit, limit_id(sag, LimitKind::MostStreetShear), "system", EventRole::Other),
                             Rule::MostStreetShear);
        QVERIFY(!c || c->verdict == Verdict::Within);  // standing water pulls at nothing
    }
    /// A limit holds in the events of its system: those up to the minor system's design event, or the rarer ones.
    void choice_limit_system() {
        Project p = street();
        RainEvent e = *p.events.find(5);
        e.id = 6;
        e.name = "100 years";
        e.return_period = 100;
        e.role = EventRole::Major;
        p.events.insert(e);
        e.id = 7;
        e.name = "2 years";
        e.return_period = 2;
        e.role = EventRole::Other;
        p.events.insert(e);
        const std::uint64_t id = limit_id(p, LimitKind::MostSpread);
        const auto asked = [&](EventRole system) {
            QString s;
            const Project q = with(p, Kind::Limit, id, "system", system);
            for (std::size_t i = 0; i < 3; ++i) s += check(q, Rule::MostSpread, 1, i) ? "x" : "-";  // 2, 10, 100 years
            return s;
        };
        QCOMPARE(asked(EventRole::Other), "xxx");
        QCOMPARE(asked(EventRole::Minor), "xx-");
        QCOMPARE(asked(EventRole::Major), "--x");
    }
    void choice_structure_inlet_place() {
        const Project p = street(), sag = with(p, Kind::Structure, 1, "inlet_place", InletPlace::Sag);
        QVERIFY(at(p).velocity > 0 && at(p).bypass > 0);
        QCOMPARE(at(sag).velocity, 0.0);
        QVERIFY(close(at(sag).captured, at(sag).flow));
        // By itself it stands on the street's grade; at a low point in a sag.
        Project low = p;
        low.streets.change(70)->stations = {0, 100, 200};
        low.streets.change(70)->levels = {101, 100, 101};
        QCOMPARE(at(low).velocity, 0.0);
        QVERIFY(at(with(low, Kind::Structure, 1, "inlet_place", InletPlace::OnGrade)).velocity > 0);
    }
    void choice_catchment_time_by() {
        Project p = street();
        Catchment& c = *p.catchments.change(21);
        c.path_length = 304.8;
        c.path_slope = 0.01;
        c.path_parts = "shallow 100m 1% paved; time 3min";
        const auto time = [&](TimeBy by) {
            return concentration_time(with(p, Kind::Catchment, 21, "time_by", by),
                                      *with(p, Kind::Catchment, 21, "time_by", by).catchments.find(21))
                .time;
        };
        QVERIFY(close(time(TimeBy::Entered), 600));
        QVERIFY(close(time(TimeBy::Parts), 180 + 100 / (20.33 * 0.3048 * 0.1)));
        QVERIFY(close(time(TimeBy::Kirpich), kirpich_time(304.8, 0.01)) &&
                close(time(TimeBy::Faa), faa_time(0.8, 304.8, 0.01)));
    }
    void choice_type_grate() {
        Project p = street();
        p.streets.change(70)->levels = {122, 100};  // fast water
        const double open = at(with(p, Kind::StructureType, 71, "grate", GrateBars::Bars48)).captured,
                     closed = at(with(p, Kind::StructureType, 71, "grate", GrateBars::Reticuline)).captured;
        QVERIFY(open > closed * 1.1);  // water splashes over bars that lie close
        // An entered velocity stands before that of the bars.
        QVERIFY(close(at(with(with(p, Kind::StructureType, 71, "grate", GrateBars::Reticuline), Kind::StructureType, 71,
                              "splash_velocity", 19.0))
                          .captured,
                      at(with(p, Kind::StructureType, 71, "splash_velocity", 19.0)).captured));
    }
    void choice_type_throat() {
        Project p = with(with(with(street(), Kind::Structure, 1, "inlet_place", InletPlace::Sag), Kind::StructureType,
                              71, "inlet", InletKind::CurbOpening),
                         Kind::StructureType, 71, "opening_height", 0.05);
        p.street_paths.erase(31);  // it takes all, at any depth
        p.catchments.change(21)->area = 20000;
        const double level = at(p).depth,
                     turned = at(with(p, Kind::StructureType, 71, "throat", Throat::Vertical)).depth;
        QVERIFY(level > 0.06 && turned < level);  // a throat that turns its area up has more head
    }
    /// Each number of an inlet, its type and its street alone changes what is taken, or how the water stands.
    void every_number_of_an_inlet_counts() {
        struct Case {
            InletKind inlet;
            bool sag;
            Kind kind;
            std::uint64_t id;
            const char* field;
            double value;
            int taken, depth;  ///< how they change: 1 more, -1 less, 0 not at all
        };
        constexpr Kind T = Kind::StructureType, S = Kind::Structure, R = Kind::Street;
        using I = InletKind;
        // A steeper or smoother street has narrower water, more of it over a grate that splashes over at no velocity.
        const Case cases[] = {
            {I::Grate, false, T, 71, "grate_length", 1.2, 1, 0},
            {I::Grate, false, T, 71, "grate_width", 0.9, 1, 0},
            {I::Grate, false, T, 71, "clogging", 0.5, -1, 0},
            {I::Grate, false, T, 71, "splash_velocity", 0.3, -1, 0},
            {I::Grate, true, T, 71, "clogging", 0.5, 0, 1},
            {I::CurbOpening, false, T, 71, "opening_length", 3, 1, 0},
            {I::CurbOpening, false, T, 71, "depression", 0.05, 1, 0},
            {I::CurbOpening, false, T, 71, "clogging", 0.5, -1, 0},
            {I::CurbOpening, false, S, 1, "opening_length", 4, 1, 0},
            {I::CurbOpening, true, S, 1, "opening_length", 4, 0, -1},
            {I::CurbOpening, true, T, 71, "opening_height", 0.03, 0, 1},
            {I::Slotted, false, S, 1, "opening_length", 9, 1, 0},
            {I::Slotted, false, T, 71, "clogging", 0.5, -1, 0},
            {I::Slotted, true, T, 71, "slot_width", 0.01, 0, 1},
            {I::Combination, false, T, 71, "opening_length", 3, 1, 0},
            {I::Combination, false, T, 71, "clogging", 0.5, -1, 0},
            {I::Grate, false, S, 1, "street_grade", 0.04, 1, -1},
            {I::Grate, false, R, 70, "roughness", 0.025, -1, 1},
            {I::Grate, false, R, 70, "cross_slope", 0.04, 1, 1},
            {I::Grate, false, R, 70, "gutter_width", 0.9, 1, 1},
        };
        for (const Case& c : cases) {
            Project p = with(with(street(), T, 71, "inlet", c.inlet), S, 1, "inlet_place",
                             c.sag ? InletPlace::Sag : InletPlace::OnGrade);
            if (c.sag) p.street_paths.erase(31);  // it takes all, at any depth
            if (c.inlet == I::Grate && c.kind == T && !c.sag) p.streets.change(70)->levels = {108, 100};
            const StreetFlow before = at(p), after = at(with(p, c.kind, c.id, c.field, c.value));
            const auto sign = [](double a, double b) { return close(a, b, 1e-12) ? 0 : (b > a ? 1 : -1); };
            QVERIFY2(sign(before.captured, after.captured) == c.taken && sign(before.depth, after.depth) == c.depth,
                     qPrintable(QString("%1 of kind %2: taken %3 to %4, depth %5 to %6")
                                    .arg(c.field)
                                    .arg(number_of(c.inlet))
                                    .arg(before.captured)
                                    .arg(after.captured)
                                    .arg(before.depth)
                                    .arg(after.depth)));
        }
        // The depth at which a sag spills: its own before the curb's height.
        Project p = with(street(), Kind::Structure, 1, "inlet_place", InletPlace::Sag);
        p.catchments.change(21)->area = 20000;
        const StreetFlow curb = at(p), lower = at(with(p, Kind::Structure, 1, "crest_depth", 0.05)),
                         street_curb = at(with(p, Kind::Street, 70, "curb_height", 0.08));
        QVERIFY(close(curb.depth, 0.15) && close(lower.depth, 0.05) && close(street_curb.depth, 0.08) &&
                lower.bypass > curb.bypass);
    }
    /// Rain, uplift and the frequency factor reach times and spacing too.
    void times_and_spacing_take_the_rain_as_it_is() {
        Project p = with(with(street(), Kind::Catchment, 21, "time_by", TimeBy::Parts), Kind::Catchment, 21,
                         "path_parts", std::string("wave 30m 1% 0.1"));
        const double calm = concentration_time(p, *p.catchments.find(21)).time;
        p = with_setting(p, "uplift", 1.5);
        QVERIFY(concentration_time(p, *p.catchments.find(21)).time < calm * 0.95);
        const auto load = [](const Project& q) {
            std::string type, fault;
            const SpacingTask t = spacing_task(q, {}, *q.streets.find(70), {5}, &type, &fault);
            return fault.empty() ? t.load : 0;
        };
        const double plain = load(street());
        QVERIFY(close(plain, 0.7 * 12 * 4e-5));
        QVERIFY(close(load(with_setting(street(), "uplift", 1.5)), 1.5 * plain));
        QVERIFY(close(load(with(street(), Kind::Event, 5, "frequency_factor", 1.2)), 1.2 * plain));
        QVERIFY(close(load(with(street(), Kind::Event, 5, "frequency_factor", 1.9)), plain / 0.7));  // C Cf at most 1
        QVERIFY(close(load(with(street(), Kind::Street, 70, "strip_width", 20.0)), plain * 20 / 12));
        QVERIFY(close(load(with_setting(street(), "least_time", 3600.0)), plain / 4));
        // No inlets where none may stand.
        p = with(street(), Kind::Street, 70, "strip_width", 200.0);
        for (const std::uint64_t id : {1, 2}) p.structures.change(id)->street = {};
        const auto stations = [](const Project& q) {
            std::vector<double> out;
            const InletProposal proposal = propose_inlets(q, {}, {70}, {5});
            for (const SpacedInlet& in : proposal.sides[1].inlets) out.push_back(in.station);
            return out;
        };
        const auto free = stations(p);
        QVERIFY(!free.empty());
        const auto kept = stations(with(p, Kind::Street, 70, "avoid", std::vector<double>{free[0] - 5, free[0] + 5}));
        QVERIFY(!kept.empty() && close(kept[0], free[0] - 5, 1e-6));
    }
    /// Parts of a flow path that cannot be read are said with their number and what is wanted.
    void parts_at_fault_are_said() {
        for (const auto& [text, part] :
             {std::pair{"sheet 30m", "a length and a slope are wanted, as in \"sheet 30m 1%\""},
              {"shallow 10m 1%", "paved or unpaved"},
              {"time 3min; run 5m 1%", "part 2"},
              {"sheet 30m -1% 0.1", "does not run up"},
              {"channel 30m 1% 0.03", "hydraulic radius"},
              {"", "no part"},
              {"time x", "a time is wanted"},
              {"time -4min", "not negative"},
              {"wave -5m 1% 0.1", "between 0 and"}}) {
            const PartsRead r = read_parts(text, 0.08);
            QVERIFY2(QString::fromStdString(r.fault).contains(part),
                     qPrintable(QString("%1: %2").arg(text, r.fault.c_str())));
        }
        const PartsRead r = read_parts("sheet 100ft 1% 0.15; shallow 120 0.02 paved", 0.08);
        QVERIFY(r.fault.empty() && r.parts.size() == 2 && close(std::get<SheetFlow>(r.parts[0]).length, 30.48) &&
                close(std::get<ShallowFlow>(r.parts[1]).slope, 0.02));
    }
    /// A catchment that drains to a place on the street reaches the next inlet down it.
    void a_catchment_may_drain_to_the_street() {
        Project p = street();
        Catchment& c = *p.catchments.change(21);
        c.structure = {};
        c.street = {70};
        c.station = 40;
        QVERIFY(close(at(p, 1).own_area, 3200) && at(p, 2).own_area == 0);
        p.catchments.change(21)->station = 120;
        QVERIFY(close(at(p, 2).own_area, 3200) && at(p, 1).own_area == 0);
        p.streets.change(70)->levels = {100, 102};  // the other way
        QVERIFY(close(at(p, 1).own_area, 3200));
        p.catchments.change(21)->station = 10;  // below the last one: its water is not counted, and that is said
        bool said = false;
        for (const Fault& f : compile(p).faults) said |= f.title == "drains nowhere";
        QVERIFY(said);
    }
    /// Each finding of streets, in a project where it alone comes up.
    void findings_of_streets_come_up_where_they_should() {
        Project p = street();
        p.street_paths.erase(31);
        QVERIFY(check(p, Rule::BypassStays)->verdict == Verdict::Near &&
                check(street(), Rule::BypassStays)->verdict == Verdict::Within);
        StreetPath off;
        off.id = 32;
        off.name = "off";
        off.from = {1};
        off.bends = {{90, -20}};
        p.street_paths.insert(off);
        QVERIFY(check(p, Rule::BypassLeaves)->verdict == Verdict::Near);
        p = street();
        p.catchments.change(21)->area = 60000;
        QVERIFY(check(p, Rule::OverCrown)->verdict == Verdict::Near &&
                check(street(), Rule::OverCrown)->verdict == Verdict::Within);
    }
    /// Land covers that do not add up or lie far from what is usual, and rating curves that cannot be.
    void covers_and_ratings_at_fault_are_found() {
        const auto found = [](const Project& p, const char* title) {
            const Network net = compile(p);
            for (const Finding& f : data_findings(p, net))
                if (f.title == title) return QString::fromStdString(f.detail);
            return QString();
        };
        Project p = street();
        p.catchments.change(21)->outline = {{0, 0}, {80, 0}, {80, 50}, {0, 50}};
        LandCover l;
        l.id = 41;
        l.name = "roof";
        l.catchment = {21};
        l.area = 4000;
        l.coefficient = 0.85;
        p.land_covers.insert(l);
        QCOMPARE(found(p, "land covers do not add up") + found(p, "unusual runoff C"), QString());
        p.land_covers.change(41)->area = 3000;
        QVERIFY(found(p, "land covers do not add up").contains("C1"));
        p.land_covers.change(41)->coefficient = 0.3;
        QVERIFY(found(p, "unusual runoff C").contains("usually 0.75 to 0.95"));
        p.land_covers.change(41)->name = "a roof of grass";  // a name of its own is not judged
        QCOMPARE(found(p, "unusual runoff C"), QString());
        p = with(street(), Kind::StructureType, 71, "inlet", InletKind::Rated);
        QVERIFY(found(p, "rating at fault").contains("as many"));
        struct Curve {
            std::vector<double> approach, captured;
            const char* said;
        };
        const std::vector<Curve> curves{{{0, 0.01, 0.05}, {0, 0.01, 0.03}, ""},
                                        {{0, 0.05, 0.01}, {0, 0.01, 0.02}, "must rise"},
                                        {{0, 0.01, 0.05}, {0, 0.01, 0.005}, "falls"},
                                        {{0, 0.01, 0.05}, {0, 0.02, 0.03}, "more than comes"}};
        for (const auto& [approach, captured, said] : curves) {
            const Project q = with(with(p, Kind::StructureType, 71, "rating_approach", approach), Kind::StructureType,
                                   71, "rating_captured", captured);
            QVERIFY2(*said ? found(q, "rating at fault").contains(said) : found(q, "rating at fault").isEmpty(), said);
        }
    }
    /// Not needed is an inlet whose water may run on without any spread growing too wide; dropped, it runs on.
    void inlets_are_judged_by_what_was_solved() {
        Project p = street();
        p.catchments.change(21)->area = 400;
        InletJudgement j = judge_street(p, {}, {70}, {5});
        QVERIFY(j.fault.empty() && j.words.size() == 2 && !j.edit.empty());
        QVERIFY(QString::fromStdString(j.words[0]).startsWith("A1: spread") &&
                QString::fromStdString(j.words[0]).endsWith("not needed"));
        QVERIFY(!QString::fromStdString(j.words[1]).contains("not needed"));  // nothing leads on from A2
        apply(p, j.edit);
        QVERIFY(close(at(p, 2).own_area, 320) && p.structures.find(1)->kind == StructureKind::Manhole);
        // In a sag water stands until it is taken: such an inlet is needed, however little comes.
        p = with(street(), Kind::Structure, 1, "inlet_place", InletPlace::Sag);
        p.catchments.change(21)->area = 400;
        p = with(p, Kind::Limit, limit_id(p, LimitKind::MostSpread), "value", 9.0);  // though it may stand to the crown
        QVERIFY(judge_street(p, {}, {70}, {5}).edit.empty());
        // With all that water its neighbour below would spread too far.
        p = street();
        p.catchments.change(21)->area = 3000;
        p = with(p, Kind::Limit, limit_id(p, LimitKind::MostSpread), "value", at(p).spread * 1.001);
        p.structures.change(2)->street_grade = 0.004;
        j = judge_street(p, {}, {70}, {5});
        QVERIFY(j.edit.empty() && QString::fromStdString(j.words[0]).endsWith("within"));
        QVERIFY(!judge_street(p, {}, {71}, {5}).fault.empty());
    }
    /// A ring of street paths is cut behind its member with the lowest id, where the finding names it: its bypass stays
    /// in the pipe below, the others run on.
    void a_ring_is_cut_where_it_is_named() {
        Project p = street();
        StreetPath back = *p.street_paths.find(31);
        back.id = 32;
        back.name = "back";
        back.from = {2};
        back.to = {1};
        p.street_paths.insert(back);
        const Network net = compile(p);
        for (const StreetInlet& in : net.inlets) {
            const std::uint64_t id = net.nodes[static_cast<std::size_t>(in.node)].structure.value;
            QCOMPARE(in.end, id == 1 ? PathEnd::Nowhere : PathEnd::Structure);
        }
        bool named = false;
        for (const Finding& f : data_findings(p, net))
            named |= f.title == "street paths in a ring" && f.element.id == 31;
        QVERIFY(named);
        QVERIFY(check(p, Rule::BypassStays, 1)->verdict == Verdict::Near);
    }
    void an_inlet_that_cannot_be_computed_says_why() {
        const auto fault = [](const Project& p) {
            for (const Fault& f : compile(p).faults)
                if (f.title == "inlet not computed") return QString::fromStdString(f.detail);
            return QString();
        };
        QCOMPARE(fault(street()), QString());
        Project p = street();
        p.structures.change(2)->street = {};
        QVERIFY(fault(p).contains("A2") && fault(p).contains("stands on no street"));
        p = street();
        p.streets.change(70)->levels = {100, 100};
        QVERIFY(fault(p).contains("flat"));
        p = street();
        p.streets.change(70)->cross_slope = -0.02;
        QVERIFY(fault(p).contains("falls to its crown"));
        p = street();
        p.streets.change(70)->stations = {};
        p.streets.change(70)->levels = {};
        p.street_paths.erase(31);
        QVERIFY(fault(p).contains("grade of the street is not known"));
    }
    void choice_event_given() {
        // 36 mm in an hour, evenly: 1e-5 m/s at every time, where the table had 2.4e-5 at ten minutes.
        Project p = street();
        RainEvent* e = p.events.change(5);
        e->depth = 0.036;
        e->storm_length = 3600;
        e->pattern_shares = {1, 1, 4, 1, 1, 1};
        const double table = at(p).flow;
        const double even = at(with(p, Kind::Event, 5, "given", RainGiven::Uniform)).flow;
        QVERIFY(close(even, 0.8 * 4000 * 1e-5, 1e-9) && even < table);
        // Ten minutes of it hold four ninths of the depth.
        const double own = at(with(p, Kind::Event, 5, "given", RainGiven::OwnPattern)).flow;
        QVERIFY(close(own, 0.8 * 4000 * 0.036 * 4 / 9 / 600, 1e-9));
        double before = 0;  // the day's curves, from the flattest on
        for (const RainGiven g : {RainGiven::NrcsIA, RainGiven::NrcsI, RainGiven::NrcsII}) {
            const double q = at(with(p, Kind::Event, 5, "given", g)).flow;
            QVERIFY(q > before);
            before = q;
        }
        QVERIFY(
            at(with(with(p, Kind::Event, 5, "given", RainGiven::Uniform), Kind::Event, 5, "depth", not_given)).flow ==
            0);
    }
    void choice_drains() {
        // In the rational method a cover counts by its own C, wherever it runs.
        Project p = street();
        LandCover lawn;
        lawn.id = 41;
        lawn.catchment = {21};
        lawn.area = 3200;
        lawn.coefficient = 0.2;
        p.land_covers.insert(lawn);
        lawn.id = 42;
        lawn.area = 800;
        lawn.coefficient = 0.9;
        p.land_covers.insert(lawn);
        QVERIFY(close(at(p).flow, at(with(p, Kind::LandCover, 42, "drains", CoverDrains::OverPervious)).flow));
        // What it changes is the curve number (tests/design/test_covers.cpp).
        const auto number = [](CoverDrains drains) {
            const CurvePart parts[] = {{3200, 61, 0, false}, {800, 98, 1, drains == CoverDrains::OverPervious}};
            return composite_curve_number(parts).curve_number;
        };
        QVERIFY(number(CoverDrains::OverPervious) < number(CoverDrains::Away) - 3);
    }
};

QTEST_GUILESS_MAIN(TestStreetSettings)
#include "test_street_settings.moc"
