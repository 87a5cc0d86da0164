// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <map>
#include <set>

#include "core/design/pipe_fit.h"
#include "core/design/quantities.h"
#include "core/design/sensitivity.h"
#include "core/model/lay.h"
#include "support/networks.h"

using namespace culvert;

namespace {

bool close(double a, double b, double within = 1e-9) {
    return std::abs(a - b) <= within * std::max({std::abs(a), std::abs(b), 1e-12});
}
Project two_pipes() {
    Project p = new_project(UnitSystem::Si);
    for (int i = 0; i < 3; ++i) {
        Structure s;
        s.id = static_cast<std::uint64_t>(i) + 1;
        s.name = "A" + std::to_string(i + 1);
        s.kind = i < 2 ? StructureKind::Manhole : StructureKind::Outfall;
        s.x = 100 * i;
        s.y = 0;
        s.rim = 52;
        p.structures.insert(s);
    }
    for (int i = 0; i < 2; ++i) {
        Pipe q;
        q.id = static_cast<std::uint64_t>(i) + 11;
        q.from = {static_cast<std::uint64_t>(i) + 1};
        q.to = {static_cast<std::uint64_t>(i) + 2};
        q.material = "concrete";
        q.size = 0.5;
        q.wall = 0.1;
        q.invert_from = i ? 49 : 50;
        q.invert_to = i ? 48 : 50;
        p.pipes.insert(q);
    }
    return p;
}

}  // namespace

/// Quantities by hand, and what the verdicts hang on.
class TestQuantities : public QObject {
    Q_OBJECT
  private slots:
    /// The first pipe: depth 2 m to the invert, 2.2 m to the bottom of the bedding, 1.3 m wide: 100 x 2.2 x 1.3 = 286
    /// m3.
    void lengths_volumes_and_costs_are_those_by_hand() {
        Project p = two_pipes();
        p.settings_rows.change(settings_id)->excavation_price = 40;
        p.settings_rows.change(settings_id)->pipe_price = 200;
        const Quantities q = quantities(p);
        double length = 0, dug = 0, cost = 0;
        int structures = 0;
        for (const QuantityLine& l : q.lines) {
            if (l.group == QuantityLine::Group::Pipe) length += l.amount;
            if (l.group == QuantityLine::Group::Excavation) dug += l.amount;
            if (l.group == QuantityLine::Group::Structure) structures += l.count;
            if (!std::isnan(l.cost)) cost += l.cost;
        }
        QVERIFY(close(length, 200));
        QVERIFY(close(dug, 286 + 100 * 3.7 * 1.3));
        QVERIFY(close(cost, 40 * dug + 200 * 0.5 * 200) && close(q.cost, cost));
        QCOMPARE(structures, 3);
        // The two trenches lie in two classes of depth.
        QCOMPARE(std::count_if(q.lines.begin(), q.lines.end(),
                               [](auto& l) { return l.group == QuantityLine::Group::Excavation; }),
                 2);
    }
    void what_exists_costs_nothing_and_what_lacks_levels_is_named() {
        Project p = two_pipes();
        const double all = quantities(p).cost;
        p.pipes.change(11)->status = Status::Existing;
        const Quantities q = quantities(p);
        QVERIFY(q.cost < all);
        bool apart = false;
        for (const QuantityLine& l : q.lines)
            if (l.status == Status::Existing)
                apart |= l.group == QuantityLine::Group::Pipe && close(l.amount, 100) && std::isnan(l.cost);
        QVERIFY(apart);
        for (const std::uint64_t id : {12, 11}) {  // the other one is counted, whichever stands first
            Project without = p;
            without.pipes.change(id)->invert_to = not_given;
            const Quantities rest = quantities(without);
            QCOMPARE(rest.left_out, (std::vector<ElementRef>{{Kind::Pipe, id}}));
            double length = 0;
            for (const QuantityLine& l : rest.lines)
                if (l.group == QuantityLine::Group::Pipe) length += l.amount;
            QVERIFY(close(length, 100));
        }
        QVERIFY(quantities(new_project(UnitSystem::Us)).lines.empty());
        // 45 a cubic metre are 34.40 a cubic yard, 90 a metre 27.43 a foot; a hundred cubic metres 131 cubic yards.
        const UnitSet us(UnitSystem::Us);
        QCOMPARE(us.text(45, Quantity::PricePerVolume), std::string("34.40 /yd³"));
        QCOMPARE(us.text(90, Quantity::PricePerLength), std::string("27.43 /ft"));
        const Entry typed = read_entry("34.40496861 /yd3", Quantity::PricePerVolume, us);
        QVERIFY(typed.ok && close(typed.value, 45, 1e-6));
        QuantityLine dug;
        dug.group = QuantityLine::Group::Excavation;
        dug.amount = 100;
        QCOMPARE(amount_words(dug, us), std::string("131 yd³"));
        QCOMPARE(amount_words(dug, UnitSet(UnitSystem::Si)), std::string("100 m³"));
    }
    /// A manhole costs 900 and 400 for each metre of its depth; an inlet by its depth alone; a pond has no price.
    void structures_are_priced_by_type_and_depth() {
        Project p = two_pipes();
        StructureType t;
        t.id = 41;
        t.name = "MH 1.2";
        t.kind = StructureKind::Manhole;
        t.price = 900;
        t.depth_price = 400;
        p.structure_types.insert(t);
        t.id = 42;
        t.name = "by depth";
        t.price = not_given;
        p.structure_types.insert(t);
        p.structures.change(1)->type = "MH 1.2";
        p.structures.change(2)->type = "by depth";
        p.structures.change(3)->kind = StructureKind::Pond;
        const Quantities q = quantities(p);
        std::map<std::string, QuantityLine> by;
        for (const QuantityLine& l : q.lines)
            if (l.group == QuantityLine::Group::Structure) by[l.what] = l;
        QCOMPARE(by.size(), std::size_t{3});
        QVERIFY(close(by["MH 1.2"].cost, 900 + 400 * structure_depth(p, *p.structures.find(1))));
        QVERIFY(close(by["by depth"].cost, 400 * structure_depth(p, *p.structures.find(2))));
        QVERIFY(structure_depth(p, *p.structures.find(1)) > 1.9);
        QVERIFY(by.contains("pond") && std::isnan(by["pond"].cost));
        p.structure_types.change(41)->depth_price = not_given;
        for (const QuantityLine& l : quantities(p).lines)
            if (l.what == "MH 1.2") QVERIFY(close(l.cost, 900) && close(l.price, 900));
        p.structures.change(1)->status = Status::Existing;
        for (const QuantityLine& l : quantities(p).lines)
            if (l.what == "MH 1.2") QVERIFY(std::isnan(l.cost) && l.status == Status::Existing);
    }
    /// Every kind of structure without a type is counted under its own name.
    void each_kind_has_its_line() {
        Project p = two_pipes();
        std::set<std::string> names;
        for (const StructureKind k : {StructureKind::Inlet, StructureKind::Manhole, StructureKind::Outfall,
                                      StructureKind::Joint, StructureKind::Pond}) {
            p.structures.change(2)->kind = k;
            for (const QuantityLine& l : quantities(p).lines)
                for (const ElementRef e : l.elements)
                    if (e == ElementRef{Kind::Structure, 2}) names.insert(l.what);
        }
        QCOMPARE(names, (std::set<std::string>{"inlet", "inline joint", "manhole", "outfall", "pond"}));
    }
    /// Depths of 0.5 to 7.5 m, from the ground to the bottom of the barrel, fall in classes of a metre and a half.
    void depths_fall_in_their_classes() {
        for (double depth = 0.5; depth < 7.6; depth += 0.5) {
            Project p = two_pipes();
            for (const std::uint64_t id : {11, 12}) {
                p.pipes.change(id)->invert_from = 52 + 0.1 - depth - 0.001;
                p.pipes.change(id)->invert_to = 52 + 0.1 - depth - 0.001;
            }
            for (const QuantityLine& l : quantities(p).lines) {
                if (l.group == QuantityLine::Group::Structure) continue;
                const double from = std::min(6.0, 1.5 * std::floor((depth + 0.001) / 1.5));
                QVERIFY2(l.depth_from == from, qPrintable(QString("%1: %2").arg(depth).arg(l.depth_from)));
                QVERIFY(from < 6 ? l.depth_to == from + 1.5 : std::isnan(l.depth_to));
            }
        }
    }
    void lines_say_their_depth_and_the_unit_of_their_price() {
        const Quantities q = quantities(two_pipes());
        std::set<std::string> si, us;
        for (const QuantityLine& l : q.lines)
            if (l.group == QuantityLine::Group::Excavation) {
                si.insert(depth_words(l, UnitSet(UnitSystem::Si)));
                us.insert(depth_words(l, UnitSet(UnitSystem::Us)));
            }
        QCOMPARE(si, (std::set<std::string>{"1.50 to 3.00 m", "3.00 to 4.50 m"}));
        QCOMPARE(us, (std::set<std::string>{"4.92 to 9.84 ft", "9.84 to 14.76 ft"}));
        QuantityLine deep;
        deep.depth_from = 6;
        QCOMPARE(depth_words(deep, UnitSet(UnitSystem::Si)), std::string("deeper than 6.00 m"));
        QCOMPARE(price_quantity(QuantityLine::Group::Pipe), Quantity::PricePerLength);
        QCOMPARE(price_quantity(QuantityLine::Group::Excavation), Quantity::PricePerVolume);
        QCOMPARE(price_quantity(QuantityLine::Group::Structure), Quantity::None);
        QuantityLine pipes;
        pipes.amount = 214.3;
        QCOMPARE(amount_words(pipes, UnitSet(UnitSystem::Si)), std::string("214.30 m"));
        pipes.group = QuantityLine::Group::Structure;
        pipes.count = 12;
        QCOMPARE(amount_words(pipes, UnitSet(UnitSystem::Si)), std::string("12"));
    }
    void every_pipe_is_counted_once() {
        for (unsigned seed = 1; seed < 30; ++seed) {
            const Project p = testing::random_project({.pipes = 60, .seed = seed});
            const Quantities q = quantities(p);
            std::map<std::uint64_t, int> seen;
            double length = 0;
            for (const QuantityLine& l : q.lines)
                if (l.group == QuantityLine::Group::Pipe) {
                    length += l.amount;
                    for (const ElementRef e : l.elements) ++seen[e.id];
                }
            for (const ElementRef e : q.left_out) ++seen[e.id];
            double whole = 0;
            for (const Pipe& pipe : p.pipes) {
                QCOMPARE(seen[pipe.id], 1);
                if (std::find(q.left_out.begin(), q.left_out.end(), ElementRef{Kind::Pipe, pipe.id}) ==
                    q.left_out.end())
                    whole += length_of(p, pipe);
            }
            QVERIFY(close(length, whole));
        }
    }
    /// Each change is what its words say, and its verdicts are those of the changed project solved from nothing.
    void changes_are_solved_over_every_event() {
        int changed = 0;
        for (unsigned seed = 1; seed < 12; ++seed) {
            const Project p = testing::random_project({.pipes = 30, .seed = seed});
            const Results results = solve(p);
            const FindingKeys before = beyond_keys(p, results);
            const auto rows = sensitivities(p, results, results.front()->event, usual_cases(0.2, 0.4));
            QCOMPARE(rows.size(), std::size_t{8});
            for (const SensitivityRow& r : rows) {
                const Project with = changed_by(p, r.change);
                const FindingKeys after = beyond_keys(with, solve(with));
                FindingKeys now = before;
                for (const FindingKey& key : r.gone) std::erase(now, key);
                now.insert(now.end(), r.added.begin(), r.added.end());
                std::sort(now.begin(), now.end());
                QVERIFY(now == after);
                changed += !r.added.empty() || !r.gone.empty();
                if (r.change.what == SensitivityCase::What::Intensity && r.change.change > 0) {
                    QVERIFY(close(with.settings().uplift, p.settings().uplift * 1.2));
                    QVERIFY(r.highest_rise >= -1e-9);  // more water nowhere lowers all levels
                }
                if (r.change.what == SensitivityCase::What::Tailwater)
                    for (const Structure& s : with.structures)
                        if (const Structure& was = *p.structures.find(s.id);
                            was.tailwater != Tailwater::Free && !std::isnan(was.tailwater_level))
                            QVERIFY(close(s.tailwater_level, was.tailwater_level + r.change.change));
                if (r.change.what == SensitivityCase::What::Roughness)
                    for (const Pipe& q : with.pipes)
                        QVERIFY(close(q.roughness, p.pipes.find(q.id)->roughness * (1 + r.change.change)));
                if (r.change.what == SensitivityCase::What::Coefficient)
                    for (const Catchment& c : with.catchments) QVERIFY(!(c.coefficient > 1));
            }
        }
        QVERIFY(changed > 10);
        const double by = 1.2;
        Project p = two_pipes();
        const auto insert = [&p](std::uint64_t id, double c, double cn, double paved) {
            Catchment row;
            row.id = id;
            row.coefficient = c, row.curve_number = cn, row.impervious = paved;
            p.catchments.insert(row);
            LandCover cover;
            cover.id = id + 100;
            cover.catchment = {id};
            cover.coefficient = c, cover.curve_number = cn, cover.impervious = paved;
            p.land_covers.insert(cover);
        };
        insert(21, 0.5, 80, 0.4);
        insert(22, 0.9, 98, 0.9);
        insert(23, not_given, not_given, not_given);
        const SensitivityCase up{SensitivityCase::What::Coefficient, by - 1};
        Project with = changed_by(p, up);
        for (const std::uint64_t id : {21, 22}) {
            const double c = id == 21 ? 0.6 : 1;  // never above 1
            QVERIFY(close(with.catchments.find(id)->coefficient, c) &&
                    close(with.land_covers.find(id + 100)->coefficient, c));
            // By the rational method no curve number counts.
            QCOMPARE(with.catchments.find(id)->curve_number, p.catchments.find(id)->curve_number);
        }
        QVERIFY(std::isnan(with.catchments.find(23)->coefficient) &&
                std::isnan(with.land_covers.find(123)->coefficient));
        // Through time what the ground can hold, S = 1000 / CN - 10, becomes less by the same share.
        p.settings_rows.change(settings_id)->runoff_by = RunoffBy::UnitHydrograph;
        with = changed_by(p, up);
        const auto held = [](double cn) { return 1000 / cn - 10; };
        for (const std::uint64_t id : {21, 22}) {
            const Catchment &a = *p.catchments.find(id), &b = *with.catchments.find(id);
            const LandCover& cover = *with.land_covers.find(id + 100);
            QVERIFY(close(held(b.curve_number) * by, held(a.curve_number), 1e-9));
            QVERIFY(close(b.impervious, std::min(1.0, a.impervious * by)));
            QVERIFY(close(cover.curve_number, b.curve_number) && close(cover.impervious, b.impervious));
        }
        QVERIFY(close(held(with.settings().curve_number) * by, held(p.settings().curve_number)));
        QVERIFY(std::isnan(with.catchments.find(23)->curve_number) && std::isnan(with.catchments.find(23)->impervious));
        QCOMPARE(SensitivityCase({SensitivityCase::What::Tailwater, -0.3}).words(UnitSet(UnitSystem::Si)),
                 std::string("tailwater 0.30 m lower"));
        QCOMPARE(SensitivityCase({SensitivityCase::What::Roughness, 0.1}).words(UnitSet(UnitSystem::Si)),
                 std::string("Manning n 10 % higher"));
    }
};

QTEST_GUILESS_MAIN(TestQuantities)
#include "test_quantities.moc"
