// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/analysis/solver.h"
#include "core/design/storage_study.h"
#include "support/ponds.h"
#include "support/small_street.h"

using namespace culvert;
using testing::PondSite;

namespace {

const Pond& only_pond(const Project& p) { return *p.ponds.begin(); }
Project given(const Project& p, StructureId at, const std::vector<Point>& outline = {}) {
    Project q = p;
    apply(q, give_storage(p, at, outline));
    return q;
}
const PondOutlet* named(const Project& p, std::string_view name) {
    for (const PondOutlet& o : p.outlets)
        if (o.name == name) return &o;
    return nullptr;
}
bool near(double a, double b, double within = 1e-9) { return std::abs(a - b) <= within; }

}  // namespace

/// Storage and outlets with their first sizes, each told by hand; a pond with its outlets blocked; two states of a site
/// set against each other, and what the state before lets out.
class TestGiveStorage : public QObject {
    Q_OBJECT
  private slots:
    /// At an end of the network: a basin 0.6 m below the lowest pipe, an opening at its bottom, an overflow.
    void an_outfall_becomes_a_pond() {
        PondSite s(false);
        s.set(Kind::Settings, settings_id, "runoff_by", static_cast<int>(RunoffBy::Rational));
        const Project q = given(s.project, s.end);
        const Pond& p = only_pond(q);
        QCOMPARE(q.structures.find(s.end.value)->kind, StructureKind::Pond);
        QVERIFY(p.structure == s.end && p.storage_by == StorageBy::Basin && p.name == "E pond");
        QVERIFY(near(p.bottom, 39.2 - 0.6) && near(p.crest, 41.5) && near(p.depth, 41.5 - 38.6));
        QVERIFY(near(p.length, 30) && near(p.width, 20));
        const PondOutlet *low = named(q, "circular orifice"), *over = named(q, "overflow");
        QVERIFY(q.outlets.size() == 2 && low && over);
        QVERIFY(low->kind == OutletKind::CircularOrifice && near(low->level, p.bottom) && near(low->size, 0.15));
        QVERIFY(!low->overflow && over->overflow && !over->to && over->kind == OutletKind::BroadWeir);
        QVERIFY(near(over->level, 41.5 - 0.4) && near(over->width, 4));
        QCOMPARE(q.settings().runoff_by, RunoffBy::UnitHydrograph);
        QVERIFY(solve(q)[0]->ponds[0].peak_outflow > 0);
        QVERIFY(give_storage(q, s.end).empty() && give_storage(q, {4711}).empty());
        // Drawn: the outline holds.
        const std::vector<Point> outline{{400, -10}, {420, -10}, {420, 10}, {400, 10}};
        const Project drawn = given(s.project, s.end, outline);
        QVERIFY(only_pond(drawn).storage_by == StorageBy::Outline && only_pond(drawn).outline == outline);
    }
    /// Within the network: a tank as low as its pipes, which go on letting its water out.
    void a_manhole_becomes_a_tank() {
        PondSite s(false);
        const Project q = given(s.project, s.pond);
        const Pond& p = only_pond(q);
        QCOMPARE(q.structures.find(s.pond.value)->kind, StructureKind::Manhole);
        QVERIFY(p.storage_by == StorageBy::Tank && p.name == "P storage" && near(p.bottom, 40.0));
        QVERIFY(near(p.length, 4) && near(p.width, 2) && near(p.crest, 43) && near(p.depth, 3));
        QCOMPARE(q.outlets.size(), std::size_t{0});
        // Drawn against the water, and its rim not given: the same tank, two metres deep.
        Project turned = s.project;
        for (const Pipe& r : s.project.pipes) {
            if (r.from != s.pond && r.to != s.pond) continue;
            Pipe& t = *turned.pipes.change(r.id);
            std::swap(t.from, t.to);
            std::swap(t.invert_from, t.invert_to);
        }
        turned.structures.change(s.pond.value)->rim = not_given;
        const Project t = given(turned, s.pond);
        QVERIFY(near(only_pond(t).bottom, 40.0) && t.outlets.size() == 0 && near(only_pond(t).crest, 42));
        // Where all pipes lead to it, it is no end of the site yet has ways out: as low as the lowest.
        Project end = s.project;
        for (const Pipe& r : s.project.pipes)
            if (r.from == s.pond) end.pipes.erase(r.id);
        const Project e = given(end, s.pond);
        QVERIFY(near(only_pond(e).bottom, 41.4) && e.outlets.size() == 2 && near(only_pond(e).depth, 1.6));
        // Its opening leads to the nearest head of a pipe that lies lower.
        QCOMPARE(named(e, "circular orifice")->to.value, std::uint64_t{s.below.value});
        // Alone and shallow: at least half a metre.
        Project alone = new_project(UnitSystem::Si);
        Structure m;
        m.id = 1;
        m.name = "M1";
        m.x = m.y = 0;
        alone.structures.insert(m);
        QVERIFY(near(only_pond(given(alone, {1})).bottom, 0) && near(only_pond(given(alone, {1})).depth, 2));
        alone.structures.change(1)->rim = 50;
        QVERIFY(near(only_pond(given(alone, {1})).bottom, 48));
    }
    void a_street_inlet_spills_along_its_path() {
        const Project p = street();
        const StreetPath path = *p.street_paths.begin();
        const Project q = given(p, path.from);
        const PondOutlet* over = named(q, "spill along " + path.name);
        QVERIFY(over && q.outlets.size() == 1 && over->overflow && over->to == path.to);
        QCOMPARE(over->level, p.structures.find(path.from.value)->rim);
        // Of two paths the first: water spills once.
        Project two = p;
        StreetPath other = path;
        other.id = path.id + 1;
        other.name = "another";
        two.street_paths.insert(other);
        QCOMPARE(given(two, path.from).outlets.size(), std::size_t{1});
    }
    void names_are_not_taken_twice() {
        PondSite s(false);
        const Project q = given(s.project, s.end);
        std::vector<std::string> names;
        Project more = q;
        for (int i = 0; i < 3; ++i) {
            const PondOutlet o = new_outlet(more, s.end, OutletKind::CircularOrifice);
            more.outlets.insert(o);
            names.push_back(o.name);
        }
        QCOMPARE(names, (std::vector<std::string>{"circular orifice 2", "circular orifice 3", "circular orifice 4"}));
        Project pond = s.project;
        Pond other;
        other.id = 77;
        other.name = "E pond";
        other.structure = s.head;
        pond.ponds.insert(other);
        apply(pond, give_storage(pond, s.end));
        int second = 0;
        for (const Pond& p : pond.ponds) second += p.name == "E pond 2";
        QCOMPARE(second, 1);
    }
    /// The first at the bottom, later ones between the highest and the crest, led where the others lead.
    void an_outlet_has_first_sizes_of_its_kind() {
        PondSite s;  // bottom 40, crest 42.6; outlets at 40, 41 and 42.2
        const auto fresh = [&](OutletKind k) { return new_outlet(s.project, s.pond, k); };
        const PondOutlet later = fresh(OutletKind::CircularOrifice);
        QVERIFY(near(later.level, 42.4) && near(later.size, 0.15) && later.to == s.below);
        QVERIFY(later.structure == s.pond && later.id != 0);
        PondSite high = s;
        high.set(Kind::PondOutlet, s.spill, "level", 42.5);
        QVERIFY(near(new_outlet(high.project, s.pond, OutletKind::Notch).level, 42.4));  // 0.2 m below the crest
        PondSite bare = s;
        for (const std::uint64_t o : {s.low, s.high, s.spill}) bare.remove(Kind::PondOutlet, o);
        const PondOutlet first = new_outlet(bare.project, s.pond, OutletKind::BoxOrifice);
        QVERIFY(near(first.level, 40) && near(first.size, 0.2) && near(first.width, 0.3) && first.to == s.below);
        for (const OutletKind k : {OutletKind::SharpWeir, OutletKind::BroadWeir, OutletKind::Cipolletti})
            QVERIFY(near(fresh(k).width, 2) && near(fresh(k).level, 42.4));
        QVERIFY(near(fresh(OutletKind::Notch).angle, 90));
        for (const OutletKind k : {OutletKind::Riser, OutletKind::Grate}) QVERIFY(near(fresh(k).size, 0.9));
        const PondOutlet culvert = fresh(OutletKind::Culvert), pump = fresh(OutletKind::Pump),
                         rating = fresh(OutletKind::Rating);
        QVERIFY(near(culvert.level, 40) && near(culvert.size, 0.45) && near(culvert.length, 30) &&
                near(culvert.slope, 0.005));
        QVERIFY(near(pump.level, 41.3) && near(pump.stop_level, 40.26) && near(pump.pump_flow, 0.02));
        QVERIFY((rating.rating_levels == std::vector<double>{40, 42.6}) &&
                (rating.rating_flows == std::vector<double>{0, 0.1}));
        // Where there is no storage yet, two metres below the rim; it leads nowhere that lies higher or far away.
        PondSite none(false);
        QVERIFY(near(new_outlet(none.project, none.pond, OutletKind::Notch).level, 41));
        QVERIFY(new_outlet(none.project, none.pond, OutletKind::Notch).to == none.below);
        for (const auto& [move, expected] : {std::pair{0.0, none.below}, {305.0, StructureId{}}}) {
            PondSite far = none;
            far.set(Kind::Structure, far.pond.value, "y", move);
            if (move > 0) far.set(Kind::Structure, far.pond.value, "x", 350.0);
            QCOMPARE(new_outlet(far.project, far.pond, OutletKind::Notch).to.value, expected.value);
        }
    }
    /// As if only the overflows stood there.
    /// A further outlet leads where those of the pond lead.
    void a_further_outlet_leads_where_the_others_do() {
        testing::PondSite s;
        for (const StructureId to : {s.end, s.head, s.below}) {
            for (const std::uint64_t o : {s.low, s.high}) s.set(Kind::PondOutlet, o, "to", to.value);
            QCOMPARE(new_outlet(s.project, s.pond, OutletKind::SharpWeir).to, to);
        }
    }
    void blocked_is_a_pond_with_its_overflow_alone() {
        for (int seed = 0; seed < 6; ++seed) {
            PondSite s(true, seed);
            s.set(Kind::PondOutlet, s.spill, "level", 41.3);
            const auto rows = with_outlets_blocked(s.project, s.pond);
            PondSite only = s;
            only.remove(Kind::PondOutlet, s.low);
            only.remove(Kind::PondOutlet, s.high);
            const auto routed = hydrographs_at(only.project, s.pond);
            QCOMPARE(rows.size(), routed.size());
            for (std::size_t i = 0; i < rows.size(); ++i) {
                QVERIFY(rows[i].event == routed[i].event);
                QVERIFY2(near(rows[i].level, routed[i].pond.level, 1e-6) &&
                             near(rows[i].outflow, routed[i].pond.peak_outflow, 1e-6) &&
                             near(rows[i].freeboard, 42.6 - routed[i].pond.level, 1e-6),
                         qPrintable(QString("%1 %2").arg(rows[i].level).arg(routed[i].pond.level)));
                QCOMPARE(rows[i].above_curve, routed[i].pond.level > 42.6 + 1e-6);
            }
        }
        PondSite s;
        QVERIFY(with_outlets_blocked(s.project, s.head).empty());
        // Above the top of its curve, though below the crest: said.
        for (const double depth : {1.9, 4.0}) {
            s.set(Kind::Pond, s.pond_row, "depth", depth);
            for (const BlockedPond& row : with_outlets_blocked(s.project, s.pond))
                QCOMPARE(row.above_curve, row.level > 40 + depth + 1e-6);
        }
        s.set(Kind::Pond, s.pond_row, "depth", 1.9);
        QVERIFY(with_outlets_blocked(s.project, s.pond)[1].above_curve);
    }
    /// Rows of each end and event that both states have, with what the results of each say.
    void before_and_after_are_those_of_each_state() {
        PondSite before(false), after;
        for (const RainEvent* e : events_in_order(after.project)) {
            Release r;
            r.id = 5000 + e->id;
            r.structure = after.end;
            r.event = {e->id};
            r.flow = e->return_period < 10 ? 1e-3 : 50;
            after.insert(r);
        }
        std::vector<std::string> unmatched;
        const auto rows = before_and_after(before.project, after.project, &unmatched);
        int ends = 0;
        for (const BeforeAfter& row : rows) {
            if (row.name != "E") continue;
            ++ends;
            const auto flow = [&](const PondSite& s, StructureId id) {
                for (const auto& r : solve(s.project))
                    if (s.project.events.find(r->event.value)->name == row.event)
                        return r->nodes[static_cast<std::size_t>(r->network->node_of(id))].flow;
                return NodeFlow{};
            };
            const NodeFlow was = flow(before, before.end), is = flow(after, after.end);
            QVERIFY(row.before == before.end && row.after == after.end);
            QVERIFY(near(row.before_peak, was.flow) && near(row.after_peak, is.flow));
            QVERIFY(near(row.before_volume, was.volume) && near(row.after_volume, is.volume) && is.volume > 1);
            QVERIFY(near(row.before_time, was.peak_time) && near(row.after_time, is.peak_time));
            QVERIFY(near(row.allowed, row.event == "2 years" ? 1e-3 : 50));
            QCOMPARE(row.exceeds, row.event == "2 years");
        }
        QCOMPARE(ends, 2);
        QVERIFY(unmatched.empty());
        // An end that only one of them has, or an event, is told.
        after.set(Kind::Structure, after.end.value, "name", std::string("F"));
        QVERIFY(before_and_after(before.project, after.project, &unmatched).empty());
        std::sort(unmatched.begin(), unmatched.end());
        QCOMPARE(unmatched, (std::vector<std::string>{"outfall E", "outfall F"}));
    }
    /// The water of a pond that leaves the site there is an end of it; what runs on within it is not.
    void a_pond_at_the_end_is_compared_by_what_leaves() {
        PondSite off;
        for (const std::uint64_t o : {off.low, off.high}) off.set(Kind::PondOutlet, o, "to", std::uint64_t{0});
        const auto rows = before_and_after(off.project, off.project);
        int ponds = 0;
        for (const BeforeAfter& row : rows) {
            if (row.name != "P") continue;
            ++ponds;
            for (const auto& r : solve(off.project)) {
                if (off.project.events.find(r->event.value)->name != row.event) continue;
                const PondSummary& p = r->ponds[0];
                double peak = 0, volume = 0;
                for (std::size_t w = 0; w < p.way_peaks.size(); ++w) peak += p.way_peaks[w], volume += p.way_volumes[w];
                QVERIFY(near(row.after_peak, peak) && near(row.after_volume, volume) && volume > 1);
                QVERIFY(!row.exceeds);
            }
        }
        QCOMPARE(ponds, 2);
        PondSite on;
        on.set(Kind::PondOutlet, on.spill, "to", std::uint64_t{on.below.value});
        for (const BeforeAfter& row : before_and_after(on.project, on.project)) QVERIFY(row.name != "P");
    }
    /// Allowed releases from the state before are found by the structure, by its name, or by the only end there was.
    void releases_find_their_structure() {
        PondSite before(false), after;
        const auto flows = [&](const Project& from, StructureId at) {
            std::map<std::string, double> list;
            Project q = after.project;
            apply(q, releases_from(from, q, at, 0, "before"));
            for (const Release& r : q.releases)
                if (r.structure == at && r.source == "before") list[q.events.find(r.event.value)->name] = r.flow;
            return list;
        };
        const auto own = flows(before.project, after.end);
        QCOMPARE(own.size(), std::size_t{2});
        // Another number, the same name.
        Project other = before.project;
        Structure end = *other.structures.find(before.end.value);
        for (const std::uint64_t pipe : [&] {
                 std::vector<std::uint64_t> v;
                 for (const Pipe& p : other.pipes)
                     if (p.to == before.end) v.push_back(p.id);
                 return v;
             }())
            other.pipes.change(pipe)->to = {9999};
        other.structures.erase(end.id);
        end.id = 9999;
        other.structures.insert(end);
        QCOMPARE(flows(other, after.end), own);
        // Another name too: the only end there was. With two ends nothing is guessed.
        other.structures.change(9999)->name = "old outfall";
        QCOMPARE(flows(other, after.end), own);
        Structure second = end;
        second.id = 9998;
        second.name = "second";
        second.x += 50;
        other.structures.insert(second);
        QVERIFY(flows(other, after.end).empty());
    }
};
QTEST_APPLESS_MAIN(TestGiveStorage)
#include "test_give_storage.moc"
