// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/model/formula.h"
#include "core/model/lay.h"
#include "support/networks.h"

using namespace culvert;

/// Formulas of the ledger: in the project's units, with fields by key or label.
class TestFormula : public QObject {
    Q_OBJECT
    static Project small(UnitSystem system) {
        Project p = new_project(system);
        Structure a, b;
        a.id = 1;
        a.name = "A1";
        a.rim = 30;
        b.id = 2;
        b.name = "A2";
        a.x = a.y = b.y = 0;
        b.x = 40;
        b.rim = 29;
        p.structures.insert(a);
        p.structures.insert(b);
        Pipe pipe;
        pipe.id = 3;
        pipe.from = {1};
        pipe.to = {2};
        pipe.size = 0.4572;
        pipe.invert_from = 27;
        pipe.invert_to = 26;
        p.pipes.insert(pipe);
        return p;
    }
    static double value(const Project& p, Kind k, const char* key, std::uint64_t id, const char* formula) {
        const Formula f = Formula::parse(formula, k, *field_index(k, key), units_of(p));
        return f.value(p, id);
    }

  private slots:
    void arithmetic_follows_the_usual_rules() {
        const Project p = small(UnitSystem::Si);
        const auto rim = [&](const char* formula) { return value(p, Kind::Structure, "rim", 1, formula); };
        QCOMPARE(rim("+0.15"), 30.15);
        QCOMPARE(rim("-0.5"), 29.5);
        QCOMPARE(rim("*2"), 60.0);
        QCOMPARE(rim("/4"), 7.5);
        QCOMPARE(rim("=1+2*3"), 7.0);
        QCOMPARE(rim("=(1+2)*3"), 9.0);
        QCOMPARE(rim("=-2+5"), 3.0);
        QCOMPARE(rim("=10-2-3"), 5.0);
        QCOMPARE(rim("=12/2/3"), 2.0);
        QCOMPARE(rim("=rim-1.2"), 28.8);
        QCOMPARE(rim("= Rim - 450mm"), 29.55);
        QVERIFY(std::isnan(rim("+10%")));  // no percentage of a level
    }
    void pipes_know_their_rims_length_and_slope() {
        const Project p = small(UnitSystem::Si);
        QCOMPARE(value(p, Kind::Pipe, "invert_from", 3, "=from_rim-1.5"), 28.5);
        QCOMPARE(value(p, Kind::Pipe, "invert_to", 3, "=invert_from - length*0.01"), 26.6);
        QCOMPARE(value(p, Kind::Pipe, "invert_to", 3, "=[Invert at start]-1"), 26.0);
        QCOMPARE(value(p, Kind::Pipe, "invert_to", 3, "=Invert at start - 1"),
                 26.0);  // words of a label, as they stand
        QCOMPARE(value(p, Kind::Pipe, "invert_to", 3, "=2 * (to_rim - invert  at start) + 20"), 24.0);
        QVERIFY(std::abs(value(p, Kind::Pipe, "invert_to", 3, "=invert_from - slope*length") - 26.0) < 1e-12);
        QCOMPARE(value(p, Kind::Pipe, "invert_from", 3, "=to_rim - 2*size/1000*0"), 29.0);
    }
    /// A length that is not entered is the drawn one, in the units of the project.
    void a_drawn_length_counts_in_the_units_of_the_project() {
        for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
            Project p = small(system);
            p.pipes.change(3)->length = not_given;
            const double drawn = drawn_length(p, *p.pipes.find(3));
            QVERIFY(drawn > 1);
            QVERIFY(std::abs(value(p, Kind::Pipe, "invert_to", 3, "=length") - drawn) < 1e-9);
        }
    }
    void feet_and_inches_mix_as_lengths() {
        const Project p = small(UnitSystem::Us);
        // invert (ft) from rim (ft) less the size, whose own unit is inches.
        QVERIFY(std::abs(value(p, Kind::Pipe, "invert_from", 3, "=from_rim - size") - (30 - 0.4572)) < 1e-12);
        QVERIFY(std::abs(value(p, Kind::Structure, "rim", 1, "+1") - (30 + 0.3048)) < 1e-12);
        QVERIFY(std::abs(value(p, Kind::Pipe, "size", 3, "=size+6") - (0.4572 + 6 * 0.0254)) < 1e-12);
        QVERIFY(std::abs(value(p, Kind::Pipe, "size", 3, "=1.5ft") - 0.4572) < 1e-12);
    }
    void what_is_not_understood_is_said() {
        const Project p = small(UnitSystem::Si);
        const auto error = [&](const char* formula, Kind k = Kind::Structure, const char* key = "rim") {
            return Formula::parse(formula, k, *field_index(k, key), units_of(p)).error();
        };
        QVERIFY(error("=rim+bogus").find("bogus") != std::string::npos);
        QVERIFY(error("=(1+2").find("bracket") != std::string::npos);
        QVERIFY(error("=1+").find("ends") != std::string::npos);
        QVERIFY(!error("=1 2").empty());
        for (const char* blanks : {"=rim+1", " = rim + 1 ", "  =rim +1", "+1", " + 1 ", " +1"}) {
            QVERIFY2(error(blanks).empty(), blanks);
            QCOMPARE(value(p, Kind::Structure, "rim", 1, blanks), value(p, Kind::Structure, "rim", 1, "=rim+1"));
        }
        QVERIFY(!error("=rim$").empty());
        QVERIFY(error("=.x").find("\".x\" is no number") != std::string::npos);
        QVERIFY(error("=[rim").find("a [ is not closed") != std::string::npos);
        QVERIFY(error("=$").find("\"$\" does not belong in a formula") != std::string::npos);
        QVERIFY(error("=0.01 m", Kind::Pipe, "roughness").find("has a unit that does not fit here") !=
                std::string::npos);
        QVERIFY(error("=5 m", Kind::Catchment, "area").find("has a unit that does not fit here") != std::string::npos);
        for (const char* key : {"rim", "sump"}) QVERIFY(error("=5 m", Kind::Structure, key).empty());
        QVERIFY(error("=300 mm", Kind::Pipe, "size").empty() && error("=0.3 m", Kind::Pipe, "length").empty());
        QVERIFY(error("=3 min").find("\"3 min\" has a unit that does not fit here") != std::string::npos);
        QVERIFY(error("=kind").find("\"kind\" is no number of a structure: ") != std::string::npos);
        QVERIFY(error("=[no such]").find("no such") != std::string::npos);
        QVERIFY(error("+1", Kind::Structure, "name").find("not a number") != std::string::npos);
        QVERIFY(!error(std::string(std::string("=") + std::string(5000, '(')).c_str()).empty());
        QVERIFY(std::isnan(value(p, Kind::Structure, "rim", 1, "=rim/0")));
        QVERIFY(is_formula("+0.15") && is_formula("=rim") && is_formula("*2") && !is_formula("12.5") &&
                !is_formula("") && !is_formula("A1"));
    }
    void a_group_edit_is_one_edit_and_names_what_it_leaves() {
        Project p = small(UnitSystem::Si);
        p.structures.change(2)->rim = not_given;
        GroupEdit g = edit_by_formula(p, Kind::Structure, *field_index(Kind::Structure, "rim"), {1, 2}, "+0.15");
        QCOMPARE(g.edit.changes.size(), std::size_t{1});
        QCOMPARE(g.refused.size(), std::size_t{1});
        QVERIFY(g.refused[0].find("A2") != std::string::npos);
        const Project before = p;
        apply(p, g.edit);
        QCOMPARE(p.structures.find(1)->rim, 30.15);
        revert(p, g.edit);
        QVERIFY(p == before);
        // Out of range: named, left alone.
        g = edit_by_formula(p, Kind::Pipe, *field_index(Kind::Pipe, "size"), {3}, "*-1");
        QVERIFY(g.edit.empty() && g.refused.size() == 1);
        // What is no formula is refused in its words, once for all rows.
        g = edit_by_formula(p, Kind::Pipe, *field_index(Kind::Pipe, "size"), {3, 4}, "=furlongs*2");
        QVERIFY(g.edit.empty() && g.refused.size() == 1 && g.refused[0].find("furlongs") != std::string::npos);
        // What is refused holds nothing after it back.
        Project two = small(UnitSystem::Si);
        two.structures.change(1)->rim = 8999;
        two.structures.change(2)->rim = 20;
        const std::size_t rim = *field_index(Kind::Structure, "rim");
        g = edit_by_formula(two, Kind::Structure, rim, {1, 2}, "+5");
        QVERIFY(g.refused.size() == 1 && g.refused[0].find("A1") != std::string::npos);
        apply(two, g.edit);
        QVERIFY(two.structures.find(1)->rim == 8999 && two.structures.find(2)->rim == 25);
        two.structures.change(1)->rim = not_given;
        g = edit_by_formula(two, Kind::Structure, rim, {1, 2}, "+5");
        QVERIFY(g.refused.size() == 1 && g.edit.changes.size() == 1);
        // To the hundredth of a millimetre, as a person would write it.
        two.structures.change(2)->rim = 10;
        apply(two, edit_by_formula(two, Kind::Structure, rim, {2}, "/3").edit);
        QCOMPARE(two.structures.find(2)->rim, 3.33333);
    }
};

QTEST_APPLESS_MAIN(TestFormula)
#include "test_formula.moc"
