// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <set>

#include "core/model/lay.h"
#include "core/model/way_back.h"
#include "support/networks.h"

using namespace culvert;

namespace {

Structure structure(std::uint64_t id, const char* name, double x, double y, double rim,
                    StructureKind kind = StructureKind::Manhole) {
    Structure s;
    s.id = id;
    s.name = name;
    s.x = x;
    s.y = y;
    s.rim = rim;
    s.kind = kind;
    return s;
}
std::string name(const Project& p, std::uint64_t id) { return p.structures.find(id)->name; }

}  // namespace

/// Names by branch, levels by the defaults, ends that follow and ends that are pinned.
class TestLay : public QObject {
    Q_OBJECT
  private slots:
    void names_follow_the_pattern_and_are_taken_apart_again() {
        Project p = new_project(UnitSystem::Si);
        QCOMPARE(structure_name(p, "A", 7), std::string("A7"));
        for (const char* pattern : {"{branch}{number}", "MH-{branch}-{number:3}", "{branch}.{number:2}/new"}) {
            p.settings_rows.change(settings_id)->name_pattern = pattern;
            for (const char* branch : {"A", "B", "Z", "AA", "AZ", "BA"})
                for (const int number : {1, 9, 10, 99, 100, 1234}) {
                    const NameParts back = parts_of_name(p, structure_name(p, branch, number));
                    QCOMPARE(back.branch, std::string(branch));
                    QCOMPARE(back.number, number);
                }
        }
        QVERIFY(parts_of_name(p, "no such name").branch.empty());
        QCOMPARE(branch_letter(0), std::string("A"));
        QCOMPARE(branch_letter(25), std::string("Z"));
        QCOMPARE(branch_letter(26), std::string("AA"));
        QCOMPARE(branch_letter(27), std::string("AB"));
        QCOMPARE(branch_letter(52), std::string("BA"));
    }
    void a_new_name_goes_on_with_its_branch_or_begins_one() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 10));
        p.structures.insert(structure(2, "A2", 0, 0, 10));
        QCOMPARE(next_structure_name(p, "A1"), std::string("A3"));
        QCOMPARE(next_structure_name(p, ""), std::string("B1"));
        p.settings_rows.change(settings_id)->first_number = 10;
        QCOMPARE(next_structure_name(p, ""), std::string("B10"));
    }
    /// A new branch has a letter of its own, by whatever pattern names are made.
    void a_new_branch_takes_the_next_free_letter() {
        Project p = new_project(UnitSystem::Si);
        QCOMPARE(next_branch(p), std::string("A"));
        p.settings_rows.change(settings_id)->name_pattern = "MH-{branch}-{number:3}";
        p.structures.insert(structure(1, "MH-A-001", 0, 0, 10));
        QCOMPARE(next_branch(p), std::string("B"));
        p.structures.insert(structure(2, "MH-B-001", 0, 0, 10));
        QCOMPARE(next_branch(p), std::string("C"));
        p.structures.change(1)->name = "C7";  // of another pattern, but a letter all the same
        QCOMPARE(next_branch(p), std::string("A"));
        p.structures.change(2)->name = "A7";
        QCOMPARE(next_branch(p), std::string("B"));
    }
    void renumbering_goes_from_the_outfall_up_main_first() {
        // Outfall – m – n – far head; a branch joins at m.
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "x", 0, 0, 10, StructureKind::Outfall));
        p.structures.insert(structure(2, "q", 10, 0, 10));
        p.structures.insert(structure(3, "r", 20, 0, 10));
        p.structures.insert(structure(4, "s", 50, 0, 10));
        p.structures.insert(structure(5, "t", 10, 12, 10));
        const auto join = [&](std::uint64_t id, std::uint64_t a, std::uint64_t b) {
            Pipe pipe;
            pipe.id = id;
            pipe.from = {a};
            pipe.to = {b};
            p.pipes.insert(pipe);
        };
        join(11, 2, 1);
        join(12, 3, 2);
        join(13, 3, 4);  // drawn against the water: it does not matter
        join(14, 5, 2);
        apply(p, renumber(p));
        QCOMPARE(name(p, 1), std::string("A1"));
        QCOMPARE(name(p, 2), std::string("A2"));
        QCOMPARE(name(p, 3), std::string("A3"));
        QCOMPARE(name(p, 4), std::string("A4"));
        QCOMPARE(name(p, 5), std::string("B1"));
        QVERIFY(renumber(p).empty());  // done is done
        // What no outfall reaches is named too, each piece from its first structure, after the mains and before
        // branches.
        p.structures.insert(structure(6, "u", 100, 100, 10));
        p.structures.insert(structure(7, "v", 110, 100, 10));
        p.structures.insert(structure(8, "w", 200, 200, 10));
        join(15, 6, 7);
        apply(p, renumber(p));
        QCOMPARE(name(p, 5), std::string("D1"));
        QCOMPARE(name(p, 6), std::string("B1"));
        QCOMPARE(name(p, 7), std::string("B2"));
        QCOMPARE(name(p, 8), std::string("C1"));
    }
    void renumbering_keeps_names_unique_on_random_networks() {
        for (unsigned seed = 1; seed <= 20; ++seed) {
            Project p = testing::random_project({.pipes = 60, .seed = seed});
            const Project before = p;
            std::vector<StructureId> chosen;
            int k = 0;
            for (const Structure& s : p.structures)
                if (seed % 2 == 0 || ++k % 3 == 0) chosen.push_back({s.id});
            const Edit edit = renumber(p, seed % 2 == 0 ? std::vector<StructureId>{} : chosen);
            apply(p, edit);
            std::set<std::string> names;
            for (const Structure& s : p.structures) QVERIFY2(names.insert(s.name).second, s.name.c_str());
            for (const Structure& s : before.structures)
                if (seed % 2 && std::find(chosen.begin(), chosen.end(), StructureId{s.id}) == chosen.end())
                    QCOMPARE(name(p, s.id), s.name);
            revert(p, edit);
            QVERIFY(p == before);
        }
    }
    void a_laid_pipe_keeps_its_cover_to_the_outside_of_the_barrel() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 20));
        p.structures.insert(structure(2, "A2", 100, 0, 20));
        p.structures.insert(structure(3, "A3", 100, 100, 14));
        const Settings& s = p.settings();
        const Pipe flat = laid_pipe(p, {1}, {2});
        QVERIFY(flat.wall > 0);
        // The ground is level: cover at the start, then the default slope.
        QVERIFY(std::abs(20 - (flat.invert_from + flat.size + flat.wall) - s.default_cover) < 1e-3);
        QVERIFY(std::abs((flat.invert_from - flat.invert_to) / 100 - s.default_slope) < 1e-4);
        p.pipes.insert(flat);
        // The ground falls faster: cover holds at the far end too; the start is a drop below what comes in.
        const Pipe steep = laid_pipe(p, {2}, {3});
        QVERIFY(std::abs(14 - (steep.invert_to + steep.size + steep.wall) - s.default_cover) < 1e-3);
        QVERIFY(std::abs(flat.invert_to - steep.invert_from - s.default_drop) < 1e-3);
        QCOMPARE(steep.origin[*field_index(Kind::Pipe, "invert_to")], Origin::Default);
    }
    void ends_follow_their_structures_and_pinned_ones_stay() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 20));
        p.structures.insert(structure(2, "A2", 100, 0, 20));
        p.structures.insert(structure(3, "A3", 200, 0, 20));
        Pipe a = laid_pipe(p, {1}, {2});
        p.pipes.insert(a);
        Pipe b = laid_pipe(p, {2}, {3});
        b.origin[*field_index(Kind::Pipe, "invert_to")] = Origin::Typed;
        p.pipes.insert(b);
        Editing e(p, "lower A1");
        e.set(Kind::Structure, 1, "rim", 18.0);
        follow(e, {{1}});
        const Pipe &a2 = *e.now().pipes.find(a.id), &b2 = *e.now().pipes.find(b.id);
        QVERIFY(std::abs(a.invert_from - a2.invert_from - 2) < 1e-3);
        QVERIFY(std::abs(a.invert_to - a2.invert_to - 2) < 1e-3);
        QVERIFY(std::abs(b.invert_from - b2.invert_from - 2) < 1e-3);  // downstream takes it on
        QCOMPARE(b2.invert_to, b.invert_to);                           // pinned
        QCOMPARE(a2.origin[*field_index(Kind::Pipe, "invert_from")], Origin::Default);
        // A pipe that ends nowhere keeps its levels, and the others follow all the same, whichever stands first.
        for (const std::uint64_t id : {std::uint64_t{1}, ~std::uint64_t{0} - 1}) {
            Project q = p;
            Pipe loose = *q.pipes.find(a.id);
            loose.id = id;
            loose.to = {999};
            q.pipes.insert(loose);
            Editing lower(q, "lower A1");
            lower.set(Kind::Structure, 1, "rim", 18.0);
            follow(lower, {{1}});
            QVERIFY(std::abs(lower.now().pipes.find(a.id)->invert_from - a2.invert_from) < 1e-9);
            QCOMPARE(lower.now().pipes.find(id)->invert_from, loose.invert_from);
        }
    }
    void a_structure_is_as_deep_as_its_lowest_pipe_and_its_sump() {
        Project p = new_project(UnitSystem::Si);
        Structure s = structure(1, "A1", 0, 0, 20);
        p.structures.insert(s);
        p.structures.insert(structure(2, "A2", 50, 0, 20));
        Pipe pipe = laid_pipe(p, {1}, {2});
        pipe.invert_from = 17.5;
        p.pipes.insert(pipe);
        QCOMPARE(structure_depth(p, s), 2.5);
        StructureType t;
        t.id = 9;
        t.name = "deep";
        t.sump = 0.4;
        t.length = 1.2;
        p.structure_types.insert(t);
        s.type = "deep";
        QCOMPARE(structure_depth(p, s), 2.9);
        s.sump = 0.1;  // its own holds before the type's
        QCOMPARE(structure_depth(p, s), 2.6);
        // Lengths between outlines: half a diameter less at the end that has a type.
        p.structures.change(1)->type = "deep";
        QCOMPARE(drawn_length(p, pipe), 50.0);
        p.settings_rows.change(settings_id)->length_basis = LengthBasis::Outlines;
        QVERIFY(std::abs(drawn_length(p, pipe) - 49.4) < 1e-9);
    }
    void a_new_structure_takes_ground_street_and_type() {
        Project p = new_project(UnitSystem::Si);
        Street street;
        street.id = 5;
        street.name = "Long Row";
        street.line = {{0, 0}, {100, 0}};
        p.streets.insert(street);
        const Structure s = new_structure(p, StructureKind::Inlet, {40, -3.4}, {12.3456}, "");
        QCOMPARE(s.rim, 12.346);
        QCOMPARE(s.origin[*field_index(Kind::Structure, "rim")], Origin::Ground);
        QCOMPARE(s.street.value, std::uint64_t{5});
        QCOMPARE(s.station, 40.0);
        QCOMPARE(s.offset, 3.4);  // right of the line, looking along it
        // Of two streets the nearer one, whichever stands first.
        Street beside = street;
        beside.id = 6;
        beside.line = {{0, -6}, {100, -6}};
        p.streets.insert(beside);
        QCOMPARE(new_structure(p, StructureKind::Inlet, {40, -2}, {}, "").street.value, std::uint64_t{5});
        QCOMPARE(new_structure(p, StructureKind::Inlet, {40, -4}, {}, "").street.value, std::uint64_t{6});
        const Structure far = new_structure(p, StructureKind::Inlet, {40, 60}, {}, "");
        QVERIFY(!far.street);
        QCOMPARE(far.rim, p.settings().default_rim);
        // Off the ground it stands as high as the one that it goes on from.
        p.structures.insert(structure(11, "A1", 0, 60, 31));
        p.structures.insert(structure(12, "A2", 0, 90, 32));
        QCOMPARE(new_structure(p, StructureKind::Inlet, {40, 90}, {}, "A2").rim, 32.0);
        QCOMPARE(new_structure(p, StructureKind::Inlet, {40, 90}, {}, "A9").rim, p.settings().default_rim);
    }
    void values_find_their_way_back() {
        Project p = new_project(UnitSystem::Si);
        p.structures.insert(structure(1, "A1", 0, 0, 20));
        p.structures.insert(structure(2, "A2", 100, 0, 20));
        Pipe pipe = laid_pipe(p, {1}, {2});
        p.pipes.insert(pipe);
        Editing e(p, "");
        e.set(Kind::Structure, 1, "rim", 19.0);
        e.set(Kind::Structure, 1, "loss", 0.7);
        e.set(Kind::Pipe, pipe.id, "invert_from", 17.0);
        e.set(Kind::Pipe, pipe.id, "roughness", 0.02);
        Project typed = p;
        apply(typed, e.take());
        const auto back = [&](Kind k, std::uint64_t id, const char* key, double ground = not_given) {
            const auto way = way_back(typed, k, id, key, ground);
            Project q = typed;
            if (way) apply(q, way->edit);
            return q;
        };
        QCOMPARE(back(Kind::Structure, 1, "rim", 20.4).structures.find(1)->rim, 20.4);
        for (const double ground : {not_given, 20.4}) {  // only a rim comes from the ground
            const Structure s = *back(Kind::Structure, 1, "loss", ground).structures.find(1);
            QVERIFY(std::isnan(s.loss) && s.rim == 19);
            QCOMPARE(s.origin[*field_index(Kind::Structure, "loss")], Origin::Default);
        }
        QVERIFY(!std::isnan(back(Kind::Structure, 2, "rim").structures.find(2)->rim));
        QCOMPARE(back(Kind::Pipe, pipe.id, "roughness").pipes.find(pipe.id)->roughness, pipe.roughness);
        const Pipe following = *back(Kind::Pipe, pipe.id, "invert_from").pipes.find(pipe.id);
        QCOMPARE(following.origin[*field_index(Kind::Pipe, "invert_from")], Origin::Default);
        QVERIFY(std::abs(19 - following.invert_from - following.size - following.wall - p.settings().default_cover) <
                1e-3);
        QVERIFY(!way_back(p, Kind::Pipe, pipe.id, "invert_from"));  // it follows already
        QVERIFY(!way_back(p, Kind::Structure, 1, "name"));
        // An area goes back to its outline; what else a catchment was given, to the default.
        Catchment yard;
        yard.id = 777;
        yard.name = "Yard";
        yard.area = 250;
        yard.curve_number = 91;
        yard.origin[*field_index(Kind::Catchment, "area")] = Origin::Typed;
        yard.origin[*field_index(Kind::Catchment, "curve_number")] = Origin::Typed;
        Project lots = p;
        lots.catchments.insert(yard);
        QVERIFY(!way_back(lots, Kind::Catchment, 777, "area"));  // nothing is drawn
        lots.catchments.change(777)->outline = {{0, 0}, {20, 0}, {20, 10.04}, {0, 10.04}};
        const auto measured = way_back(lots, Kind::Catchment, 777, "area"),
                   number = way_back(lots, Kind::Catchment, 777, "curve_number");
        QVERIFY(measured && number && number->text == "the default");
        apply(lots, measured->edit);
        apply(lots, number->edit);
        QCOMPARE(lots.catchments.find(777)->area, 200.8);
        QCOMPARE(lots.catchments.find(777)->origin[*field_index(Kind::Catchment, "area")], Origin::Default);
        QVERIFY(std::isnan(lots.catchments.find(777)->curve_number));
        QVERIFY(!way_back(lots, Kind::Catchment, 777, "area"));
    }
};

QTEST_APPLESS_MAIN(TestLay)
#include "test_lay.moc"
