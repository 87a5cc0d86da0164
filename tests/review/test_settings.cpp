// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <optional>
#include <set>

#include "core/design/branches.h"
#include "core/design/design.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/model/lay.h"
#include "support/rain.h"
#include "support/seen.h"

using namespace culvert;
using culvert::testing::pipe_of;
using culvert::testing::Seen;

namespace {

/// Inlet 1 – manhole 2 – outfall 3, 50 m each at 1 %, a catchment of 1 ha at the inlet, one event.
Project run() {
    Project p = new_project(UnitSystem::Si);
    const auto add = [&](std::uint64_t id, StructureKind kind, double x, double rim, const char* name) {
        Structure s;
        s.id = id;
        s.name = name;
        s.kind = kind;
        s.x = x;
        s.y = 0;
        s.rim = rim;
        p.structures.insert(s);
    };
    add(1, StructureKind::Inlet, 0, 103, "A1");
    add(2, StructureKind::Manhole, 50, 102.5, "A2");
    add(3, StructureKind::Outfall, 100, 102, "A3");
    const auto pipe = [&](std::uint64_t id, std::uint64_t from, std::uint64_t to, double up) {
        Pipe q;
        q.id = id;
        q.from = {from};
        q.to = {to};
        q.size = 0.45;
        q.material = "concrete";
        q.invert_from = up;
        q.invert_to = up - 0.5;
        p.pipes.insert(q);
    };
    pipe(11, 1, 2, 100.9);
    pipe(12, 2, 3, 100.35);
    Catchment c;
    c.id = 21;
    c.name = "C1";
    c.structure = {1};
    c.area = 10000;
    c.coefficient = 0.5;
    c.time = 600;
    p.catchments.insert(c);
    p.events.insert(culvert::testing::ten_years());
    return p;
}
template <class V>
Project with(Project p, Kind kind, std::uint64_t id, const char* key, V value) {
    Editing e(p, "set");
    if (!e.set(kind, id, key, Value(value))) qFatal("no field %s", key);
    apply(p, e.take());
    return p;
}
template <class V>
Project with_setting(Project p, const char* key, V value) {
    return with(std::move(p), Kind::Settings, settings_id, key, value);
}
Seen first(const Project& p, std::uint64_t structure = 1) {
    return culvert::testing::seen(*solve(p)[0], StructureId{structure});
}
double intensity(double t) { return std::exp(std::log(4e-5) + std::log(t / 300) / std::log(12.0) * std::log(0.25)); }
double head(double v) { return v * v / (2 * gravity); }
std::optional<Check> check(const Project& p, Rule rule, std::uint64_t structure = 1) {
    const auto r = solve(p)[0];
    const LimitTable limits(p);
    const std::uint64_t pipe = pipe_of(*r->network, r->network->node_of(StructureId{structure})).pipe.value;
    for (const ElementRef element : {ElementRef{Kind::Pipe, pipe}, ElementRef{Kind::Structure, structure}})
        for (const Check& c : checks_of(limits, *r, element))
            if (c.rule == rule) return c;
    return {};
}
/// A limit alone, just kept and just broken.
void hold(const Project& p, LimitKind kind, double value_now, bool at_most, std::uint64_t structure = 1) {
    std::uint64_t id = 0;
    for (const Limit& l : p.limits)
        if (l.kind == kind) id = l.id;
    QVERIFY(id);
    const double step = 1e-4 * (1 + std::abs(value_now));
    const auto verdict = [&](double limit) {
        const auto c = check(with(with(p, Kind::Limit, id, "active", true), Kind::Limit, id, "value", limit),
                             static_cast<Rule>(kind), structure);
        return c ? c->verdict : Verdict::Unknown;
    };
    QVERIFY(verdict(at_most ? value_now + step : value_now - step) != Verdict::Beyond);
    QCOMPARE(verdict(at_most ? value_now - step : value_now + step), Verdict::Beyond);
    QVERIFY(!check(with(p, Kind::Limit, id, "active", false), static_cast<Rule>(kind), structure));
    // An exception of the element, and one of its group, hold before the project's; the element's before the group's.
    const auto c = check(with(p, Kind::Limit, id, "active", true), static_cast<Rule>(kind), structure);
    QVERIFY(c);
    const auto r = solve(p)[0];
    const Link n = pipe_of(*r->network, r->network->node_of(StructureId{structure}));
    const bool of_structure = kind == LimitKind::MostDepth || kind == LimitKind::LeastFreeboard;
    const std::uint64_t element = of_structure ? structure : n.pipe.value;
    Project own = with(with(p, Kind::Limit, id, "active", true), Kind::Limit, id, "value",
                       at_most ? value_now + step : value_now - step);
    own = with(own, of_structure ? Kind::Structure : Kind::Pipe, element, "group", std::string("g"));
    Limit exception;
    exception.id = 901;
    exception.kind = kind;
    exception.group = "g";
    exception.value = at_most ? value_now - step : value_now + step;
    own.limits.insert(exception);
    const auto by_group = check(own, static_cast<Rule>(kind), structure);
    QVERIFY2(by_group && by_group->verdict == Verdict::Beyond && by_group->exception, "the group's limit holds");
    exception.id = 902;
    exception.group.clear();
    exception.element = element;
    exception.value = at_most ? value_now + step : value_now - step;
    own.limits.insert(exception);
    const auto by_element = check(own, static_cast<Rule>(kind), structure);
    QVERIFY2(by_element && by_element->verdict != Verdict::Beyond && by_element->exception,
             "the element's limit holds");
}

}  // namespace

/// Every setting, choice and limit: it alone changes the answer, the way its words say. tests/house lists those without
/// a test here.
class TestSettings : public QObject {
    Q_OBJECT
  private slots:
    // Settings
    void setting_system() {
        QCOMPARE(units_of(with_setting(run(), "system", 1)).unit(Quantity::Flow).symbol, std::string_view("ft³/s"));
        QCOMPARE(first(with_setting(run(), "system", 1)).flow.flow, first(run()).flow.flow);
    }
    void setting_display() {
        QCOMPARE(units_of(with_setting(run(), "display", std::string("flow m³/s 3"))).text(0.1, Quantity::Flow),
                 std::string("0.100 m³/s"));
    }
    void setting_least_time() {
        QCOMPARE(first(with(run(), Kind::Catchment, 21, "time", 60.0)).flow.time, 300.0);
        QCOMPARE(first(with_setting(run(), "least_time", 900.0)).flow.time, 900.0);
    }
    void setting_uplift() {
        QVERIFY(std::abs(first(with_setting(run(), "uplift", 1.3)).flow.flow - 1.3 * 5000 * intensity(600)) < 1e-12);
    }
    void setting_travel_velocity() {
        const double q = 5000 * intensity(600),
                     v = full_capacity(Circular{0.45}, 0.013, 0.01) / full_area(Circular{0.45});
        const double y = normal_depth(Circular{0.45}, 0.013, 0.01, q);
        QVERIFY(std::abs(first(run(), 2).flow.time - 600 - 50 * wetted(Circular{0.45}, y).area / q) < 1e-9);
        QVERIFY(std::abs(first(with_setting(run(), "travel_velocity", 1), 2).flow.time - 600 - 50 / v) < 1e-9);
    }
    void setting_hold_flow() {
        const double q1 = first(run()).flow.flow;
        QCOMPARE(first(run(), 2).flow.flow, q1);
        const auto plain = first(with_setting(run(), "hold_flow", false), 2).flow;
        QVERIFY(plain.flow < q1 && plain.flow == plain.plain_flow);
    }
    void setting_capacity_basis() {
        const double full = check(run(), Rule::MostFlowRatio)->value;
        QVERIFY(std::abs(check(with_setting(run(), "capacity_basis", 1), Rule::MostFlowRatio)->value * 1.0757 / full -
                         1) < 1e-3);
    }
    void setting_flooded_level() {
        const Project p = with(run(), Kind::Structure, 1, "rim", 101.1);
        QVERIFY(first(p).level.level > 101.1);
        QCOMPARE(first(with_setting(p, "flooded_level", 1)).level.level, 101.1);
        // Dry too: still water that stands below reaches over its rim.
        Project dry = with(with(p, Kind::Structure, 3, "tailwater", 1), Kind::Structure, 3, "tailwater_level", 101.9);
        for (const Structure& s : run().structures) dry = with(dry, Kind::Structure, s.id, "known_flow", 0.0);
        for (const Catchment& c : run().catchments) dry = with(dry, Kind::Catchment, c.id, "area", 0.0);
        QCOMPARE(first(dry).flow.flow, 0.0);
        QCOMPARE(first(dry).level.level, 101.9);
        QVERIFY(!first(dry).level.held);
        dry = with_setting(dry, "flooded_level", 1);
        QCOMPARE(first(dry).level.level, 101.1);
        QVERIFY(first(dry).level.held);
    }
    void loss_of(const char* key, StructureKind kind) {
        Project p = with(run(), Kind::Structure, 2, "kind", static_cast<int>(kind));
        p = with(p, Kind::Structure, 3, "tailwater", 1);
        p = with(p, Kind::Structure, 3, "tailwater_level", 101.9);  // all runs full
        const Seen a = first(with_setting(p, key, 0.0), 2), b = first(with_setting(p, key, 0.8), 2);
        QVERIFY(std::abs(b.level.energy - a.level.energy - 0.8 * head(b.level.velocity_up)) < 1e-9);
        QCOMPARE(first(with(with_setting(p, key, 0.8), Kind::Structure, 2, "loss", 0.0), 2).level.energy,
                 a.level.energy);
    }
    void setting_loss_inlet() { loss_of("loss_inlet", StructureKind::Inlet); }
    void setting_loss_manhole() { loss_of("loss_manhole", StructureKind::Manhole); }
    void setting_loss_joint() { loss_of("loss_joint", StructureKind::Joint); }
    void setting_default_cover() {
        const Pipe q = laid_pipe(with_setting(run(), "default_cover", 2.0), {1}, {2});
        QVERIFY(std::abs(103 - (q.invert_from + q.size + q.wall) - 2.0) < 1e-9);
    }
    void setting_default_slope() {
        const Pipe q = laid_pipe(with_setting(run(), "default_slope", 0.02), {1}, {2});
        QVERIFY(std::abs((q.invert_from - q.invert_to) / 50 - 0.02) < 1e-9);
    }
    void setting_default_size() { QCOMPARE(laid_pipe(with_setting(run(), "default_size", 0.6), {1}, {2}).size, 0.6); }
    void setting_default_rim() {
        QCOMPARE(new_structure(with_setting(run(), "default_rim", 77.0), StructureKind::Inlet, {5, 5}, {}, "").rim,
                 77.0);
    }
    void setting_default_drop() {
        QCOMPARE(drop_across(with_setting(run(), "default_drop", 0.11), {2}), 0.11);
        QCOMPARE(drop_across(with(with_setting(run(), "default_drop", 0.11), Kind::Structure, 2, "kind", 3), {2}), 0.0);
    }
    void setting_near_share() {
        const Project p = run();
        const double ratio = check(p, Rule::MostFlowRatio)->value;
        QCOMPARE(check(with_setting(p, "near_share", 1 - ratio - 0.01), Rule::MostFlowRatio)->verdict, Verdict::Within);
        QCOMPARE(check(with_setting(p, "near_share", 1 - ratio + 0.01), Rule::MostFlowRatio)->verdict, Verdict::Near);
    }
    void setting_default_material() {
        QCOMPARE(laid_pipe(with_setting(run(), "default_material", std::string("plastic")), {1}, {2}).roughness, 0.011);
    }
    void setting_default_type() {
        const Project p = run();
        for (const StructureType& t : p.structure_types)
            if (t.kind == StructureKind::Inlet) {
                const Project q = with_setting(p, "default_type", t.name);
                QCOMPARE(new_structure(q, StructureKind::Inlet, {5, 5}, {}, "").type, t.name);
                QVERIFY(new_structure(q, StructureKind::Manhole, {5, 5}, {}, "").type.empty());
            }
    }
    void setting_name_pattern() {
        const Project p = with_setting(run(), "name_pattern", std::string("MH-{branch}.{number:3}"));
        QCOMPARE(structure_name(p, "C", 7), std::string("MH-C.007"));
    }
    void setting_pipe_pattern() {
        const Project p = with_setting(run(), "pipe_pattern", std::string("{from} to {to}, {size}"));
        QCOMPARE(pipe_name(p, *p.pipes.find(11)), std::string("A1 to A2, 450"));
    }
    void setting_first_number() {
        QCOMPARE(next_structure_name(with_setting(run(), "first_number", 10.0), ""), std::string("B10"));
    }
    void setting_length_basis() {
        Project p = with(run(), Kind::Structure, 2, "type", std::string("manhole"));
        for (const StructureType& t : p.structure_types)
            if (t.plan == PlanShape::Round) p = with(p, Kind::Structure, 2, "type", t.name);
        const double reach = type_of(p, *p.structures.find(2))->length / 2;
        QCOMPARE(length_of(p, *p.pipes.find(11)), 50.0);
        QVERIFY(std::abs(length_of(with_setting(p, "length_basis", 1), *p.pipes.find(11)) - (50 - reach)) < 1e-9);
    }
    void setting_excavation_price() {
        Project p = with(run(), Kind::Pipe, 11, "invert_to", 99.9);  // arrives too low at A2
        const BranchLevels a = branch_levels(with_setting(p, "excavation_price", 10.0), {11}),
                           b = branch_levels(with_setting(p, "excavation_price", 30.0), {11});
        QVERIFY(!a.alternatives.empty() && a.alternatives.size() == b.alternatives.size());
        QVERIFY(std::abs(b.alternatives[0].cost - 3 * a.alternatives[0].cost) < 1e-9 && a.alternatives[0].cost != 0);
    }

    // Choices
    void choice_structure_kind() {
        // A joint passes fast water on and has no drop; a manhole breaks it; an outfall ends the network; an inlet's
        // loss is the inlets'.
        Project p = run();
        p.pipes.change(11)->invert_from = 102.2;  // 2.6 %
        const Seen manhole = first(p, 2), joint = first(with(p, Kind::Structure, 2, "kind", 3), 2),
                   inlet = first(with(p, Kind::Structure, 2, "kind", 0), 2);
        QVERIFY(joint.level.energy != manhole.level.energy && inlet.level.energy != manhole.level.energy);
        QVERIFY(solve(with(p, Kind::Structure, 2, "kind", 2))[0]->network->link_of(PipeId{12}) == no_link);
    }
    void choice_tailwater() {
        const Project p = with(run(), Kind::Structure, 3, "tailwater_level", 100.9);
        const auto end = [&](int kind) {
            return first(with(p, Kind::Structure, 3, "tailwater", kind), 2).level.head_down;
        };
        const Seen r = first(p, 2);
        QVERIFY(std::abs(end(1) - (100.9 - 99.85)) < 1e-9);
        const double yc = critical_depth(Circular{0.45}, r.flow.flow);
        QVERIFY(std::abs(end(0) - std::min(yc, r.flow.normal)) < 1e-4);
        const Project low = with(p, Kind::Structure, 3, "tailwater_level", not_given);
        QVERIFY(std::abs(first(with(low, Kind::Structure, 3, "tailwater", 3), 2).level.head_down - (yc + 0.45) / 2) <
                1e-9);
        Project flat = with(low, Kind::Pipe, 12, "invert_to", 100.30);  // mild: normal depth above critical
        flat = with(flat, Kind::Pipe, 12, "size", 0.6);
        const Seen mild = first(with(flat, Kind::Structure, 3, "tailwater", 2), 2);
        QVERIFY(std::abs(mild.level.head_down - mild.flow.normal) < 1e-9);
    }
    void choice_status() {
        // An abandoned pipe carries nothing; existing and proposed ones are solved alike.
        QVERIFY(solve(with(run(), Kind::Pipe, 12, "status", 2))[0]->network->link_of(PipeId{12}) == no_link);
        QCOMPARE(first(with(run(), Kind::Pipe, 12, "status", 1), 2).level.level, first(run(), 2).level.level);
    }
    void choice_shape() {
        const Project box = with(with(run(), Kind::Pipe, 11, "shape", 1), Kind::Pipe, 11, "width", 0.9);
        const auto r = solve(box)[0];
        QCOMPARE(r->network->links[static_cast<std::size_t>(r->network->link_of(PipeId{11}))].capacity,
                 full_capacity(Box{0.9, 0.45}, 0.013, 0.01));
    }
    void choice_role() {
        Project p = run();
        RainEvent rare = *p.events.begin();
        rare.id = 6;
        rare.name = "100 years";
        rare.return_period = 100;
        p.events.insert(rare);
        QCOMPARE(design_event(p)->id, std::uint64_t{5});
        QCOMPARE(design_event(with(p, Kind::Event, 6, "role", 1))->id, std::uint64_t{6});
        QCOMPARE(design_event(with(p, Kind::Event, 6, "role", 2))->id, std::uint64_t{5});
    }
    void choice_level_surface() {
        // Which surface gives a rim is asked where there is ground: tests/app/test_site.cpp; here it is kept.
        QCOMPARE(with_setting(run(), "level_surface", 2).settings().level_surface, GroundFor::Existing);
    }

    // Limits
    void limit_least_velocity() { hold(run(), LimitKind::LeastVelocity, first(run()).flow.velocity, false); }
    void limit_most_velocity() { hold(run(), LimitKind::MostVelocity, first(run()).flow.velocity, true); }
    void limit_least_slope() { hold(run(), LimitKind::LeastSlope, 0.01, false); }
    void limit_most_slope() { hold(run(), LimitKind::MostSlope, 0.01, true); }
    void limit_least_cover() { hold(run(), LimitKind::LeastCover, 103 - 100.9 - 0.45 - 0.05, false); }
    void limit_most_depth() { hold(run(), LimitKind::MostDepth, 103 - 100.9, true); }
    void limit_most_flow_ratio() {
        hold(run(), LimitKind::MostFlowRatio, first(run()).flow.flow / full_capacity(Circular{0.45}, 0.013, 0.01),
             true);
    }
    void limit_most_filled_depth() { hold(run(), LimitKind::MostFilledDepth, first(run()).flow.normal / 0.45, true); }
    void limit_most_surcharge() {
        const Project p =
            with(with(run(), Kind::Structure, 3, "tailwater", 1), Kind::Structure, 3, "tailwater_level", 101.6);
        const culvert::testing::SeenLevel r = first(p).level;
        hold(p, LimitKind::MostSurcharge, std::max(r.head_up, r.head_down) - 0.45, true);
    }
    void limit_least_freeboard() { hold(run(), LimitKind::LeastFreeboard, 103 - first(run()).level.level, false); }
    void limit_least_drop() { hold(run(), LimitKind::LeastDrop, 100.4 - 100.35, false, 2); }
    void limit_least_size() { hold(run(), LimitKind::LeastSize, 0.45, false); }

    void remedies_speak_for_the_event_that_is_viewed() {
        // A larger pipe cures the 10-year event's finding; what it would cure in a rarer one alone does not count.
        Project p = run();
        p.catchments.change(21)->area = 22000;
        RainEvent rare = *p.events.begin();
        rare.id = 6;
        rare.name = "100 years";
        rare.return_period = 100;
        for (double& i : rare.intensities) i *= 1.3;
        p.events.insert(rare);
        const Results results = solve(p);
        const Edit larger = step_size(p, {12}, +1);
        const auto before = beyond_keys(p, results);
        const Trial all = try_edit(p, solve(p), larger, before), viewed = try_edit(p, solve(p), larger, before, {5});
        QVERIFY(all.gone > viewed.gone);
        QVERIFY(viewed.gone > 0);
    }
    void ground_that_yields_no_runoff_sets_no_time() {
        Project p = run();
        Catchment lawn = *p.catchments.begin();
        lawn.id = 22;
        lawn.name = "lawn";
        lawn.coefficient = 0;
        lawn.time = 3000;
        p.catchments.insert(lawn);
        QCOMPARE(first(p).flow.time, 600.0);
        lawn.id = 23;
        lawn.name = "grass";
        lawn.coefficient = 0.01;
        p.catchments.insert(lawn);
        QCOMPARE(first(p).flow.time, 3000.0);
    }
    void check_finds_what_is_at_fault_in_every_table() {
        // One fault a row: table, row, field, value; and what its finding is called.
        struct Bad {
            Kind kind;
            std::uint64_t id;
            const char* field;
            Value value;
            const char* title;
        };
        Project p = run();
        Street street;
        street.id = 31;
        street.name = "S";
        street.line = {{0, 0}, {100, 0}};
        p.streets.insert(street);
        StreetSection section;
        section.id = 32;
        section.name = "wide";
        section.street = {31};
        section.start = 0;
        section.end = 50;
        p.street_sections.insert(section);
        Surface surface;
        surface.id = 33;
        surface.name = "ground";
        p.surfaces.insert(surface);
        Background background;
        background.id = 34;
        background.name = "plan";
        p.backgrounds.insert(background);
        LandCover cover;
        cover.id = 35;
        cover.catchment = {21};
        cover.area = 10000;
        cover.coefficient = 0.5;
        p.land_covers.insert(cover);
        StreetPath path;
        path.id = 36;
        path.name = "way";
        path.from = {1};
        p.street_paths.insert(path);
        Variant variant;
        variant.id = 37;
        variant.name = "V";
        p.variants.insert(variant);
        OutfallLevel level;
        level.id = 38;
        level.structure = {3};
        level.event = {5};
        level.level = 100;
        p.outfall_levels.insert(level);
        AcceptedFinding accepted;
        accepted.id = 39;
        accepted.finding = "flow above capacity";
        accepted.element = 11;
        accepted.event = {5};
        accepted.value = 1.2;
        accepted.reason = "phase 2";
        p.accepted_findings.insert(accepted);
        FindingRank rank;
        rank.id = 40;
        rank.finding = "too deep";
        p.finding_ranks.insert(rank);
        BuriedLine buried;
        buried.id = 41;
        buried.name = "W1";
        buried.line = {{0, 50}, {100, 50}};
        buried.levels = {100};
        p.buried_lines.insert(buried);
        ProfileRun kept;
        kept.id = 42;
        kept.name = "main";
        kept.from = {1};
        kept.to = {3};
        p.profiles.insert(kept);
        std::uint64_t clearance = 0;
        for (const Clearance& c : p.clearances) clearance = c.id;  // the last
        RainEvent second = *p.events.begin();
        second.id = 6;
        second.name = "2 years";
        second.return_period = 2;
        second.role = EventRole::Minor;
        p.events.insert(second);
        Pond pond;
        pond.id = 51;
        pond.name = "storage";
        pond.structure = {1};
        pond.storage_by = StorageBy::Tank;
        pond.bottom = 90;
        pond.length = pond.width = 2;
        pond.depth = 2;
        p.ponds.insert(pond);
        PondOutlet outlet;
        outlet.id = 52;
        outlet.name = "opening";
        outlet.structure = {1};
        outlet.level = 90;
        outlet.size = 0.1;
        p.outlets.insert(outlet);
        Release release;
        release.id = 53;
        release.structure = {3};
        release.event = {5};
        release.flow = 0.1;
        p.releases.insert(release);
        const auto errors = [](const Project& q) {
            std::vector<Finding> list;
            for (Finding& f : data_findings(q, compile(q)))
                if (f.severity == Severity::Error) list.push_back(std::move(f));
            return list;
        };
        QVERIFY2(errors(p).empty(), errors(p).empty() ? "" : errors(p)[0].detail.c_str());
        const char *range = "value out of range", *missing = "value missing", *nowhere = "leads nowhere";
        const std::uint64_t size = p.sizes.begin()->id, limit = p.limits.begin()->id,
                            type = p.structure_types.begin()->id;
        const Bad bad[] = {
            {Kind::Settings, settings_id, "uplift", -200.0, range},
            {Kind::Settings, settings_id, "least_time", -1.0, range},
            {Kind::Settings, settings_id, "default_size", 1e300, range},
            {Kind::Structure, 1, "x", not_given, missing},
            {Kind::Structure, 1, "rim", 1e300, range},
            {Kind::Structure, 1, "known_flow", -3.0, range},
            {Kind::Structure, 1, "name", std::string(), "no name"},
            {Kind::Structure, 2, "name", std::string("A1"), "name used twice"},
            {Kind::Structure, 1, "street", std::uint64_t{99}, nowhere},
            {Kind::Pipe, 11, "size", not_given, "cannot be solved"},
            {Kind::Pipe, 11, "size", 0.0006, "cannot be solved"},
            {Kind::Pipe, 11, "roughness", -1.0, "cannot be solved"},
            {Kind::Pipe, 11, "from", std::uint64_t{99}, "end missing"},
            {Kind::Catchment, 21, "structure", std::uint64_t{99}, nowhere},
            {Kind::Catchment, 21, "time", -5.0, range},
            {Kind::Catchment, 21, "area", 3.4e7, range},
            {Kind::Catchment, 21, "name", std::string(" "), "no name"},
            {Kind::LandCover, 35, "coefficient", 1.5, range},
            {Kind::LandCover, 35, "catchment", std::uint64_t{99}, nowhere},
            {Kind::StreetPath, 36, "from", std::uint64_t{99}, nowhere},
            {Kind::StreetPath, 36, "to", std::uint64_t{99}, nowhere},
            {Kind::Event, 6, "return_period", 0.0, range},
            {Kind::Event, 6, "frequency_factor", 7.0, range},
            {Kind::Event, 6, "intensities", std::vector<double>{1, 0.5}, "rain table at fault"},
            {Kind::Event, 5, "role", 1, "two events with one role"},
            {Kind::Size, size, "size", -0.3, range},
            {Kind::Size, size, "roughness", 0.0, range},
            {Kind::Limit, limit, "value", -1.0, range},
            {Kind::Limit, limit, "value", not_given, missing},
            {Kind::Limit, limit, "element", std::uint64_t{99}, nowhere},
            {Kind::Surface, 33, "least_depth", -1.0, range},
            {Kind::Surface, 33, "name", std::string(), "no name"},
            {Kind::Background, 34, "placing", std::vector<double>{1e15}, range},
            {Kind::Street, 31, "lane_width", -1.0, range},
            {Kind::Street, 31, "line", std::vector<Point>{{0, 0}}, "a street without length"},
            {Kind::Street, 31, "levels", std::vector<double>{10}, "profile at fault"},
            {Kind::StreetSection, 32, "cross_slope", 5.0, range},
            {Kind::StreetSection, 32, "street", std::uint64_t{99}, nowhere},
            {Kind::StructureType, type, "length", 0.0, range},
            {Kind::Variant, 37, "name", std::string(), "no name"},
            {Kind::OutfallLevel, 38, "level", 1e5, range},
            {Kind::OutfallLevel, 38, "level", not_given, missing},
            {Kind::OutfallLevel, 38, "structure", std::uint64_t{1}, "not an outfall"},
            {Kind::OutfallLevel, 38, "event", std::uint64_t{99}, nowhere},
            {Kind::AcceptedFinding, 39, "element", std::uint64_t{9999}, nowhere},
            {Kind::AcceptedFinding, 39, "reason", std::string(" "), "accepted without a reason"},
            {Kind::FindingRank, 40, "finding", std::string(), "no finding named"},
            {Kind::BuriedLine, 41, "size", -0.1, range},
            {Kind::BuriedLine, 41, "name", std::string(), "no name"},
            {Kind::BuriedLine, 41, "line", std::vector<Point>{{0, 0}}, "a line without length"},
            {Kind::BuriedLine, 41, "levels", std::vector<double>{1, 2, 3}, "levels at fault"},
            {Kind::ProfileRun, 42, "from", std::uint64_t{99}, nowhere},
            {Kind::ProfileRun, 42, "name", std::string(), "no name"},
            {Kind::Clearance, clearance, "vertical", -1.0, range},
            {Kind::Clearance, clearance, "kind", 1, "two clearances of one kind"},
            {Kind::Pipe, 11, "barrels", 0.0, "cannot be solved"},
            {Kind::Structure, 3, "channel_slope", 2.0, range},
            {Kind::Structure, 3, "rating_flows", std::vector<double>{-1}, range},
            {Kind::Pond, 51, "depth", -1.0, range},
            {Kind::Pond, 51, "structure", std::uint64_t{99}, nowhere},
            {Kind::Pond, 51, "name", std::string(), "no name"},
            {Kind::Pond, 51, "bottom", not_given, "space at fault"},
            {Kind::PondOutlet, 52, "size", -0.1, range},
            {Kind::PondOutlet, 52, "size", not_given, "outlet at fault"},
            {Kind::PondOutlet, 52, "to", std::uint64_t{99}, nowhere},
            {Kind::PondOutlet, 52, "behind", std::string("nothing"), "leads through no outlet"},
            {Kind::Release, 53, "flow", -1.0, range},
            {Kind::Release, 53, "event", std::uint64_t{99}, nowhere},
        };
        // A number that is no choice is never a value.
        for (const int none : {-1, 99}) {
            Editing e(p, "spoil");
            QVERIFY(!e.set(Kind::StructureType, type, "kind", none) && e.take().empty());
        }
        std::set<Kind> kinds;
        for (const Bad& b : bad) {
            Project q = p;
            Editing e(q, "spoil");
            QVERIFY2(e.set(b.kind, b.id, b.field, b.value), b.field);
            apply(q, e.take());
            const auto list = errors(q);
            const bool found = std::any_of(list.begin(), list.end(), [&](const Finding& f) {
                return f.title == b.title && f.element == ElementRef{b.kind, b.id} && !f.detail.empty() &&
                       !f.remedy.empty();
            });
            QVERIFY2(found,
                     qPrintable(QString("%1 of %2: %3").arg(b.field).arg(static_cast<int>(b.kind)).arg(b.title)));
            // What is out of range reaches no kernel: all levels stay numbers of this world, or unknown.
            for (const auto& r : solve(q))
                for (const NodeResult& n : r->nodes) {
                    QVERIFY(n.flow.flow >= 0 && n.flow.flow < 1e4);
                    QVERIFY(std::isnan(n.level.level) || std::abs(n.level.level) < 1e4);
                }
            kinds.insert(b.kind);
        }
        QCOMPARE(kinds.size(), kind_count);
    }
};

QTEST_APPLESS_MAIN(TestSettings)
#include "core/network/through_time.h"
#include "test_settings.moc"
