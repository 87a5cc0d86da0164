// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <functional>
#include <map>
#include <numbers>
#include <set>

#include "core/network/network.h"
#include "core/network/through_time.h"
#include "support/ponds.h"

using namespace culvert;
using culvert::testing::PondSite;
using std::numbers::pi;

namespace {

bool close(double a, double b, double within = 1e-9) {
    return std::abs(a - b) <= within * std::max(1e-12, std::abs(b));
}

Pond pond(StorageBy by) {
    Pond p;
    p.id = 1;
    p.storage_by = by;
    p.bottom = 10;
    p.length = 20;
    p.width = 10;
    p.depth = 2;
    p.sides = 0;
    p.diameter = 1.2;
    p.levels = {10, 11, 12};
    p.areas = {100, 200, 300};
    p.volumes = {0, 120, 400};
    p.outline = {{0, 0}, {20, 0}, {20, 10}, {0, 10}};
    return p;
}
PondOutlet outlet(OutletKind kind) {
    PondOutlet o;
    o.id = 1;
    o.kind = kind;
    o.level = 10;
    o.size = 0.3;
    o.width = 0.5;
    o.length = 20;
    o.slope = 0.01;
    o.stop_level = 9.8;
    o.pump_flow = 0.03;
    o.rating_levels = {10, 12, 13};
    o.rating_flows = {0, 0.4, 0.5};
    return o;
}
double runs(const PondOutlet& o, double level) {
    std::string why;
    const auto w = way_of(o, 20, &why);
    if (!w) qFatal("%s", why.c_str());
    std::vector<OutletFlow> each(1);
    const char running[] = {1};
    return pond_outflow({&*w, 1}, level, {}, running, each);
}

}  // namespace

/// Rows of ponds and their outlets: what they are made of, and what is said of those that cannot be.
class TestPondRows : public QObject {
    Q_OBJECT
  private slots:
    void spaces_at_fault_say_what_and_where() {
        using Change = std::function<void(Pond&)>;
        const std::vector<std::tuple<StorageBy, Change, const char*>> cases{
            {StorageBy::Areas, [](Pond& p) { p.areas.pop_back(); }, "it has 3 levels and 2 areas"},
            {StorageBy::Volumes, [](Pond& p) { p.levels = {10}; }, "it needs two levels at least"},
            {StorageBy::Volumes, [](Pond& p) { p.volumes.push_back(500); }, "it has 3 levels and 4 volumes"},
            {StorageBy::Volumes,
             [](Pond& p) {
                 p.levels = {10, 12, 12};
             },
             "its levels do not rise at row 3"},
            {StorageBy::Volumes, [](Pond& p) { p.levels[1] = not_given; }, "its levels do not rise at row 2"},
            {StorageBy::Volumes,
             [](Pond& p) {
                 p.volumes = {0, 120, 119};
             },
             "its volume falls at row 3"},
            {StorageBy::Volumes, [](Pond& p) { p.volumes[0] = -1; }, "its volume falls at row 1"},
            {StorageBy::Volumes,
             [](Pond& p) {
                 p.volumes = {0, 0, 0};
             },
             "it holds nothing"},
            {StorageBy::Basin, [](Pond& p) { p.bottom = not_given; }, "its bottom level is not given"},
            {StorageBy::Basin, [](Pond& p) { p.length = not_given; }, "its length is not given"},
            {StorageBy::Basin, [](Pond& p) { p.width = not_given; }, "its width is not given"},
            {StorageBy::Tank, [](Pond& p) { p.depth = not_given; }, "its depth is not given"},
            {StorageBy::Pipes, [](Pond& p) { p.diameter = not_given; }, "its diameter is not given"},
            {StorageBy::Pipes, [](Pond& p) { p.length = not_given; }, "its length is not given"},
            {StorageBy::Outline, [](Pond& p) { p.outline.resize(2); }, "its outline is not drawn"},
            {StorageBy::Outline, [](Pond& p) { p.depth = not_given; }, "its depth is not given"},
            {StorageBy::Outline,
             [](Pond& p) {
                 p.outline = {{0, 0}, {20, 0}, {40, 0}};
             },
             "its outline has no area"},
            {StorageBy::Tank, [](Pond& p) { p.forebay = 1; }, "nothing of its space holds water"},
        };
        for (const auto& [by, change, words] : cases) {
            Pond p = pond(by);
            std::string why;
            QVERIFY2(!storage_of(p, &why).empty() && why.empty(), words);
            change(p);
            QVERIFY2(storage_of(p, &why).empty(), words);
            QCOMPARE(why, std::string(words));
            QVERIFY(storage_of(p).empty());  // also where nobody asks why
        }
        Pond p = pond(StorageBy::Tank);
        p.voids = -1;
        std::string why;
        QVERIFY(storage_of(p, &why).empty());
        QCOMPARE(why, std::string("voids out of range"));
    }
    void a_space_is_as_large_as_its_dimensions() {
        for (const double forebay : {not_given, 0.25})
            for (const double voids : {not_given, 0.4}) {
                const double share = (std::isnan(forebay) ? 1 : 0.75) * (std::isnan(voids) ? 1 : 0.4);
                const auto volume = [&](StorageBy by, double level, double count = 1) {
                    Pond p = pond(by);
                    p.forebay = forebay;
                    p.voids = voids;
                    p.count = count;
                    return storage_of(p).volume(level);
                };
                for (const StorageBy by : {StorageBy::Areas, StorageBy::Volumes, StorageBy::Basin, StorageBy::Tank,
                                           StorageBy::Pipes, StorageBy::Outline}) {
                    QCOMPARE(storage_of(pond(by)).bottom(), 10.0);
                    QVERIFY(close(storage_of(pond(by)).top(), by == StorageBy::Pipes ? 11.2 : 12));
                }
                QVERIFY(close(volume(StorageBy::Tank, 11.5), 300 * share));
                QVERIFY(close(volume(StorageBy::Basin, 11.5), 300 * share, 1e-6));
                QVERIFY(close(volume(StorageBy::Outline, 11.5), 300 * share, 1e-6));
                QVERIFY(close(volume(StorageBy::Areas, 11), 150 * share));
                QVERIFY(close(volume(StorageBy::Volumes, 12), 400 * share));
                QVERIFY(close(volume(StorageBy::Pipes, 11.2), pi * 0.36 * 20 * share, 1e-3));
                QVERIFY(close(volume(StorageBy::Pipes, 11.2, 3), 3 * pi * 0.36 * 20 * share, 1e-3));
                QVERIFY(close(volume(StorageBy::Pipes, 11.2, not_given), pi * 0.36 * 20 * share, 1e-3));
            }
    }
    void outlets_at_fault_say_what() {
        using Change = std::function<void(PondOutlet&)>;
        const Change no_size = [](PondOutlet&o) { o.size = not_given; },
                     no_width = [](PondOutlet&o) { o.width = not_given; };
        const std::vector<std::tuple<OutletKind, Change, const char*>> cases{
            {OutletKind::CircularOrifice, [](PondOutlet& o) { o.level = not_given; }, "its level is not given"},
            {OutletKind::Pump, [](PondOutlet& o) { o.level = not_given; }, "its level is not given"},
            {OutletKind::CircularOrifice, no_size, "its size is not given"},
            {OutletKind::BoxOrifice, no_size, "its size is not given"},
            {OutletKind::BoxOrifice, no_width, "its width is not given"},
            {OutletKind::SharpWeir, no_width, "its length is not given"},
            {OutletKind::BroadWeir, no_width, "its length is not given"},
            {OutletKind::Cipolletti, no_width, "its length is not given"},
            {OutletKind::Riser, no_size, "its size is not given"},
            {OutletKind::Grate, no_size, "its size is not given"},
            {OutletKind::Culvert, no_size, "its size is not given"},
            {OutletKind::Culvert, [](PondOutlet& o) { o.length = not_given; }, "its length is not given"},
            {OutletKind::Culvert, [](PondOutlet& o) { o.roughness = not_given; }, "its Manning n is not given"},
            {OutletKind::Culvert, [](PondOutlet& o) { o.entrance = CulvertEntrance::BoxHeadwall, o.width = not_given; },
             "its width is not given"},
            {OutletKind::Pump, [](PondOutlet& o) { o.pump_flow = not_given; }, "its pump flow is not given"},
            {OutletKind::Pump, [](PondOutlet& o) { o.stop_level = 10; }, "it stops at no level below its start"},
            {OutletKind::Pump, [](PondOutlet& o) { o.stop_level = not_given; }, "it stops at no level below its start"},
            {OutletKind::Rating, [](PondOutlet& o) { o.rating_flows.pop_back(); },
             "its rating has 3 levels and 2 flows: two of each at least"},
            {OutletKind::Rating, [](PondOutlet& o) { o.rating_flows = {0}, o.rating_levels = {10}; },
             "its rating has 1 levels and 1 flows: two of each at least"},
            {OutletKind::Rating, [](PondOutlet& o) { o.rating_flows[1] = -0.1; },
             "row 2 of its rating is no level with a flow"},
            {OutletKind::Rating, [](PondOutlet& o) { o.rating_levels[0] = not_given; },
             "row 1 of its rating is no level with a flow"},
            {OutletKind::Rating, [](PondOutlet& o) { o.rating_levels[2] = 12; }, "its rating does not rise at row 3"},
            {OutletKind::Rating, [](PondOutlet& o) { o.rating_flows[2] = 0.3; }, "its rating does not rise at row 3"},
        };
        for (const auto& [kind, change, words] : cases) {
            PondOutlet o = outlet(kind);
            std::string why;
            QVERIFY2(way_of(o, 20, &why), words);
            change(o);
            QVERIFY2(!way_of(o, 20, &why), words);
            QCOMPARE(why, std::string(words));
            QVERIFY(!way_of(o, 20));
        }
        PondOutlet o = outlet(OutletKind::Notch);
        o.angle = 1e6;
        std::string why;
        QVERIFY(!way_of(o, 20, &why));
        QCOMPARE(why, std::string("angle out of range"));
        o.angle = not_given;  // square, unless something else is said
        QVERIFY(way_of(o, 20).has_value());
    }
    /// By the equations of the manuals, from the fields of the row; the head above the crest is 0.4 m.
    void an_outlet_lets_through_what_its_fields_say() {
        const double h = 0.4, g = 9.81;
        const auto with = [](OutletKind kind, const std::function<void(PondOutlet&)>& change = {}) {
            PondOutlet o = outlet(kind);
            if (change) change(o);
            return o;
        };
        const auto level = [&](double head) { return 10 + head; };
        // Well under water: the head stands on the middle.
        QVERIFY(close(runs(with(OutletKind::CircularOrifice), level(2)), 0.6 * pi * 0.0225 * std::sqrt(2 * g * 1.85)));
        QVERIFY(close(runs(with(OutletKind::BoxOrifice), level(2)), 0.6 * 0.15 * std::sqrt(2 * g * 1.85)));
        QVERIFY(close(runs(with(OutletKind::BoxOrifice, [](PondOutlet& o) { o.coefficient = 0.8; }), level(2)),
                      0.8 * 0.15 * std::sqrt(2 * g * 1.85)));
        for (const int ends : {0, 1, 2})
            QVERIFY(close(runs(with(OutletKind::SharpWeir, [&](PondOutlet& o) { o.contractions = ends; }), level(h)),
                          1.84 * (0.5 - 0.1 * ends * h) * std::pow(h, 1.5)));
        QVERIFY(close(runs(with(OutletKind::SharpWeir, [&](PondOutlet& o) { o.contractions = not_given; }), level(h)),
                      1.84 * 0.5 * std::pow(h, 1.5)));
        QVERIFY(close(runs(with(OutletKind::BroadWeir), level(h)), 1.7 * 0.5 * std::pow(h, 1.5)));
        QVERIFY(close(runs(with(OutletKind::Cipolletti), level(h)), 1.86 * 0.5 * std::pow(h, 1.5)));
        for (const double angle : {90.0, 60.0, not_given})
            QVERIFY(close(
                runs(with(OutletKind::Notch, [&](PondOutlet& o) { o.angle = angle; }), level(h)),
                8.0 / 15 * 0.58 * std::sqrt(2 * g) * std::tan((angle == 60 ? 30 : 45) * pi / 180) * std::pow(h, 2.5)));
        // A riser, round and with two sides: its rim as a crest, its mouth as an opening, the smaller.
        const auto round = [](PondOutlet& o) { o.width = not_given; };
        for (const double head : {0.03, 0.1, 0.4}) {
            const double weir = std::pow(head, 1.5), speed = std::sqrt(2 * g * head);
            QVERIFY(close(runs(with(OutletKind::Riser, round), level(head)),
                          std::min(1.84 * pi * 0.3 * weir, 0.6 * pi * 0.0225 * speed)));
            QVERIFY(
                close(runs(with(OutletKind::Riser), level(head)), std::min(1.84 * 2 * 0.8 * weir, 0.6 * 0.15 * speed)));
            QVERIFY(close(runs(with(OutletKind::Grate), level(head)),
                          std::min(1.66 * 2 * 0.8 * weir, 0.67 * 0.15 * speed)));
            QVERIFY(close(runs(with(OutletKind::Grate, round), level(head)),
                          std::min(1.66 * pi * 0.3 * weir, 0.67 * pi * 0.0225 * speed)));
        }
        QVERIFY(close(runs(with(OutletKind::Rating), 11), 0.2) && close(runs(with(OutletKind::Rating), 12.5), 0.45));
        QVERIFY(close(runs(with(OutletKind::Pump), 10.1), 0.03));
        // Several alike, and a share of each left open.
        QVERIFY(close(runs(with(OutletKind::BroadWeir,
                                [](PondOutlet& o) {
                                    o.count = 3.7;  // whole ones
                                    o.open_share = 0.5;
                                }),
                           level(h)),
                      1.5 * 1.7 * 0.5 * std::pow(h, 1.5)));
    }
    void coefficients_have_a_source() {
        for (int k = 0; k <= static_cast<int>(OutletKind::Rating); ++k) {
            const auto kind = static_cast<OutletKind>(k);
            QCOMPARE(std::isnan(usual_coefficient(kind)), coefficient_source(kind).empty());
            QCOMPARE(std::isnan(usual_coefficient(kind)),
                     kind == OutletKind::Culvert || kind == OutletKind::Pump || kind == OutletKind::Rating);
        }
    }
    void words_for_what_holds_the_flow_differ() {
        std::set<std::string_view> words;
        for (int k = 0; k <= static_cast<int>(OutletControl::Behind); ++k)
            words.insert(control_text(static_cast<OutletControl>(k)));
        QVERIFY(words.size() == static_cast<std::size_t>(OutletControl::Behind) + 1 && !words.contains(""));
    }
    void rows_that_stand_nowhere_are_named() {
        const auto named = [](const Project& p, Kind kind, std::uint64_t id, const char* title) {
            for (const Fault& f : compile(p).faults)
                if (f.element == ElementRef{kind, id} && f.title == title)
                    return !f.detail.empty() && !f.remedy.empty();
            return false;
        };
        const PondSite site;
        for (const char* title : {"pond without a structure", "two ponds at one structure", "space at fault"})
            QVERIFY(!named(site.project, Kind::Pond, site.pond_row, title));
        PondSite s;
        Pond second = *s.project.ponds.find(s.pond_row);
        second.id = 9001;
        second.name = "second";
        s.insert(second);
        QVERIFY(named(s.project, Kind::Pond, 9001, "two ponds at one structure"));
        QCOMPARE(compile(s.project).through_time->ponds.size(), std::size_t{1});
        QCOMPARE(compile(s.project).through_time->ponds[0].row, s.pond_row);
        second.id = 9002;  // one that is left out takes none of those below it with it
        second.structure = s.below;
        s.insert(second);
        QCOMPARE(compile(s.project).through_time->ponds.size(), std::size_t{2});
        s = PondSite();
        s.set(Kind::Pond, s.pond_row, "structure", std::uint64_t{0});
        QVERIFY(named(s.project, Kind::Pond, s.pond_row, "pond without a structure"));
        QVERIFY(named(s.project, Kind::PondOutlet, s.low, "outlet without a pond"));
        // One that names a structure which is gone hides none after it.
        s = PondSite();
        Pond lost = *s.project.ponds.find(s.pond_row);
        lost.id = 1;
        lost.name = "lost";
        lost.structure = {987654};
        s.insert(lost);
        QCOMPARE(compile(s.project).through_time->ponds.size(), std::size_t{1});
        s = PondSite();
        s.set(Kind::Pond, s.pond_row, "bottom", not_given);
        QVERIFY(named(s.project, Kind::Pond, s.pond_row, "space at fault"));
        s = PondSite();
        for (const std::uint64_t o : {s.low, s.high}) s.remove(Kind::PondOutlet, o);
        QVERIFY(named(s.project, Kind::Pond, s.pond_row, "one way out"));
        s.remove(Kind::PondOutlet, s.spill);
        QVERIFY(named(s.project, Kind::Pond, s.pond_row, "no way out"));
        s.set(Kind::Pond, s.pond_row, "soakage", 1e-5);
        QVERIFY(!named(s.project, Kind::Pond, s.pond_row, "no way out"));
        // A pond that nobody gave a space: its structure says so.
        s = PondSite();
        for (const std::uint64_t o : {s.low, s.high, s.spill}) s.remove(Kind::PondOutlet, o);
        s.remove(Kind::Pond, s.pond_row);
        QVERIFY(named(s.project, Kind::Structure, s.pond.value, "pond without space"));
        s.set(Kind::Structure, s.pond.value, "status", static_cast<int>(Status::Abandoned));
        QVERIFY(!named(s.project, Kind::Structure, s.pond.value, "pond without space"));
    }
    /// With a structure its ways go, and ways that led to it lead nowhere; others stay as they are.
    void a_structure_takes_its_ways_with_it() {
        for (const bool pond : {false, true}) {
            PondSite s;
            const auto outlets = [&] {
                std::map<std::uint64_t, std::uint64_t> to;
                for (const PondOutlet& o : s.project.outlets) to[o.id] = o.to.value;
                return to;
            };
            const auto before = outlets();
            s.remove(Kind::Structure, s.head.value);
            QVERIFY(outlets() == before && s.project.ponds.size() == 1);
            s.remove(Kind::Structure, pond ? s.pond.value : s.below.value);
            QCOMPARE(s.project.ponds.size(), std::size_t(!pond));
            QCOMPARE(outlets().size(), pond ? 0 : before.size());
            for (const auto& [id, to] : outlets()) QCOMPARE(to, before.at(id) == s.below.value ? 0 : before.at(id));
        }
    }
    /// Water does not stand below the bottom, whatever was entered; one outlet at fault takes no other with it.
    void what_is_entered_wrong_spoils_nothing_beside_it() {
        PondSite s;
        for (const auto& [entered, begins] : {std::pair{39.0, 40.0}, {40.7, 40.7}, {not_given, 40.0}}) {
            s.set(Kind::Pond, s.pond_row, "start_level", entered);
            QCOMPARE(compile(s.project).through_time->ponds.at(0).start_level, begins);
        }
        const std::size_t all = compile(s.project).through_time->ponds.at(0).ways.size();
        for (const std::uint64_t o : {s.low, s.high, s.spill}) {
            PondSite t;
            t.set(Kind::PondOutlet, o, "to", t.pond.value);  // back to its own pond
            const std::vector<WayOut> left = compile(t.project).through_time->ponds.at(0).ways;
            QCOMPARE(left.size(), all - 1);
            for (const WayOut& w : left) QVERIFY(w.row != o);
        }
    }
    void a_release_is_a_flow_or_a_flow_of_the_area() {
        PondSite s;
        const std::uint64_t row = s.project.releases.begin()->id;
        const EventId event = s.project.releases.begin()->event;
        const auto allowed = [&](const Project& p) {
            for (const AllowedRelease& a : compile(p).releases)
                if (a.event == event) return a.flow;
            return not_given;
        };
        s.set(Kind::Release, row, "flow", 0.05);
        QVERIFY(close(allowed(s.project), 0.05));
        s.set(Kind::Release, row, "area_rate", 1e-6);
        QVERIFY(close(allowed(s.project), 0.05));  // the flow counts where both are given
        s.set(Kind::Release, row, "flow", not_given);
        double drains = 0;
        for (const Catchment& c : s.project.catchments) drains += c.area;
        QVERIFY(close(allowed(s.project), 1e-6 * drains));
        s.set(Kind::Release, row, "area_rate", not_given);
        QVERIFY(std::isnan(allowed(s.project)));
        bool said = false;
        for (const Fault& f : compile(s.project).faults)
            said |= f.element == ElementRef{Kind::Release, row} && f.title == "release not given";
        QVERIFY(said);
        // The others are allowed all the same.
        QCOMPARE(compile(s.project).releases.size(), s.project.releases.size() - 1);
        QVERIFY(s.project.releases.size() >= 2);
        // What is allowed in no event, or nowhere, allows nothing, and is not taken for what was not given.
        for (const char* field : {"event", "structure"}) {
            PondSite t;
            const std::size_t all = compile(t.project).releases.size();
            t.set(Kind::Release, row, field, std::uint64_t{0});
            QCOMPARE(compile(t.project).releases.size(), all - 1);
            for (const double flow : {0.05, not_given}) {
                t.set(Kind::Release, row, "flow", flow);
                for (const Fault& f : compile(t.project).faults) QVERIFY(f.title != "release not given");
            }
        }
    }
    void a_space_of_less_than_a_cubic_metre_holds() {
        Pond p = pond(StorageBy::Volumes);
        p.volumes = {0, 0.2, 0.6};
        std::string why;
        const StageStorage space = storage_of(p, &why);
        QVERIFY2(why.empty() && close(space.volume(12), 0.6), why.c_str());
        for (const double z : {10.2, 10.9, 11.3, 11.99}) QVERIFY(close(space.level(space.volume(z)), z, 1e-9));
    }
    void the_lowest_way_is_a_pumps_stop_too() {
        std::vector<WayOut> ways;
        for (const OutletKind kind : {OutletKind::CircularOrifice, OutletKind::Pump}) {
            PondOutlet o = outlet(kind);
            std::string why;
            ways.push_back(*way_of(o, 20, &why));
        }
        QVERIFY(ways[1].pump && ways[1].start == 10 && ways[1].stop == 9.8 && ways[1].pump_flow == 0.03);
        QCOMPARE(lowest_way(ways), 9.8);
        QCOMPARE(lowest_way({&ways[1], 1}), 9.8);
        QCOMPARE(lowest_way({&ways[0], 1}), 10.0);
        QVERIFY(std::isinf(lowest_way({})));
    }
};
QTEST_APPLESS_MAIN(TestPondRows)
#include "test_pond_rows.moc"
