// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <functional>
#include <random>
#include <set>

#include "core/base/units.h"
#include "core/base/words.h"
#include "core/base/working.h"

using namespace culvert;

class TestUnits : public QObject {
    Q_OBJECT
  private slots:
    void control_characters_are_shown_by_name() {
        QCOMPARE(printable("A\tB\nC\rD\x1b[0m\x7f\x01"), std::string("A\\tB\\nC\\rD\\x1b[0m\\x7f\\x01"));
        QCOMPARE(within_sentence("Invert at start"), std::string("invert at start"));
        QCOMPARE(within_sentence("Manning n"), std::string("Manning n"));
        QCOMPARE(within_sentence("CN") + within_sentence(""), std::string("CN"));
        QCOMPARE(printable("naïve – 3 m²"), std::string("naïve – 3 m²"));
    }
    void what_is_no_number_is_said_in_words() {
        const UnitSet u(UnitSystem::Si);
        const auto error = [&](const char* text, Quantity q = Quantity::Length) {
            return read_entry(text, q, u).error;
        };
        QVERIFY(error("").starts_with("type a "));
        QVERIFY(error(" + ").starts_with("type a "));
        QCOMPARE(error("1:0", Quantity::Slope), std::string("a slope of 1:0 has no meaning: write for example 1:66"));
        QVERIFY(error("12 parsec").starts_with("\"parsec\" is not a unit of "));
        // With all the units there are, each once.
        for (std::size_t i = 0; i < quantity_count; ++i) {
            const Quantity q = static_cast<Quantity>(i);
            QStringList symbols;
            for (const Unit& unit : units_of(q))
                if (!unit.symbol.empty())
                    symbols << QString::fromUtf8(unit.symbol.data(), static_cast<int>(unit.symbol.size()));
            symbols.removeDuplicates();
            const QString said = QString::fromStdString(error("12 parsec", q));
            const std::string_view name = name_of(q);
            QCOMPARE(said, "\"parsec\" is not a unit of " +
                               QString::fromUtf8(name.data(), static_cast<int>(name.size())) +
                               (symbols.isEmpty() ? QString() : ": use " + symbols.join(", ")));
        }
        QVERIFY(error("1 m x").starts_with("\"m x\" is not a unit of ") ||
                error("1 m x").starts_with("did not understand"));
        QVERIFY(!read_entry("1e400", Quantity::Length, u).ok);
        QVERIFY(read_entry("−2.5 m", Quantity::Length, u).value == -2.5);
        QVERIFY(read_entry("2\u00a0m", Quantity::Length, u).value == 2);
        // Feet and inches beside each other, with any first digit.
        const UnitSet us(UnitSystem::Us);
        for (const char* text : {"1 ft 0 in", "1 ft 0.0 in", "0 ft 12 in", "1ft 0in"})
            QVERIFY2(std::abs(read_entry(text, Quantity::Length, us).value - 0.3048) < 1e-12, text);
        QVERIFY(std::abs(read_entry("1 ft 9 in", Quantity::Length, us).value - 1.75 * 0.3048) < 1e-12);
        for (const auto& [text, feet] : {std::pair{"5' 6\"", 5.5},
                                         {"5'-6\"", 5.5},
                                         {"5' - 6\"", 5.5},
                                         {"5’–6”", not_given},
                                         {"5′ 6″", 5.5},
                                         {"-5' 6\"", -5.5},
                                         {"-5'-6\"", -5.5},
                                         {"−5'-6\"", -5.5},
                                         {"5' + 6\"", 5.5},
                                         {"-5' + 6\"", -4.5},
                                         {"5' - 18\"", 3.5},
                                         {"20' - 5'-6\"", 14.5},
                                         {"20' - 6\" - 6\"", 20.0},
                                         {"5' 6", not_given},
                                         {"5 6\"", not_given},
                                         {"5 6", not_given}}) {
            const Entry e = read_entry(text, Quantity::Length, us);
            QVERIFY2(e.ok == !std::isnan(feet) && (!e.ok || std::abs(e.value - feet * 0.3048) < 1e-12), text);
        }
        // Thousands that a blank parts are not a sum of two numbers.
        QCOMPARE(error("1 200", Quantity::Size),
                 std::string("\"1 200\" is two numbers: write one, or + or - between them, or the unit of each"));
        QVERIFY(read_entry("1 h 30 min", Quantity::Duration, u).value == 5400 && !error("1 h 30").empty());
        std::string huge = "9" + std::string(320, '0') + " m";
        QVERIFY(!read_entry(huge, Quantity::Length, u).ok);
        std::string sum = std::string("1") + std::string(308, '0') + " km + 1" + std::string(308, '0') + " km";
        QVERIFY(!read_entry(sum, Quantity::Length, u).ok);
    }
    void entries_with_units_and_sums() {
        const UnitSet si(UnitSystem::Si), us(UnitSystem::Us);
        const auto value = [](const char* text, Quantity q, const UnitSet& u) {
            const Entry e = read_entry(text, q, u);
            return e.ok ? e.value : -1e9;
        };
        QCOMPARE(value("450", Quantity::Size, si), 0.45);
        QCOMPARE(value("18in", Quantity::Size, si), 18 * 0.0254);
        QCOMPARE(value("18 in", Quantity::Size, us), 18 * 0.0254);
        QCOMPARE(value("450mm", Quantity::Size, us), 0.45);
        QCOMPARE(value("82.40-0.6", Quantity::Level, si), 81.8);
        QCOMPARE(value("82.40 - 600 mm", Quantity::Level, si), 81.8);
        QCOMPARE(value("−1.5", Quantity::Level, si), -1.5);
        QCOMPARE(value("0,45 m", Quantity::Size, si), 0.45);
        QCOMPARE(value("2.5 cfs", Quantity::Flow, si), 2.5 * 0.3048 * 0.3048 * 0.3048);
        QCOMPARE(value("264 l/s", Quantity::Flow, us), 0.264);
        QCOMPARE(value("0.7 ha", Quantity::Area, us), 7000.0);
        QCOMPARE(value("6'", Quantity::Length, si), 6 * 0.3048);
        QCOMPARE(value("1.5e3 mm", Quantity::Length, si), 1.5);
        QCOMPARE(value("2E-3 km", Quantity::Length, si), 2.0);
        QCOMPARE(value("1e+2", Quantity::Length, si), 100.0);
        QVERIFY(!read_entry("1e m", Quantity::Length, si).ok);
    }
    void slopes_in_every_form() {
        const UnitSet u;
        for (const char* text : {"1.5%", "1.5 %", "0.015", "15 ‰", "0.015 m/m", "1:66.6666666666667", "1.5"}) {
            const Entry e = read_entry(text, Quantity::Slope, u);
            QVERIFY2(e.ok, text);
            QVERIFY2(std::abs(e.value - 0.015) < 1e-12, text);
        }
        QVERIFY(!read_entry("1:0", Quantity::Slope, u).ok);
        QVERIFY(!read_entry("0.05", Quantity::Slope, u).question.empty());  // 0.05 % or 5 %
        QVERIFY(read_entry("0.05 %", Quantity::Slope, u).question.empty());
    }
    void wrong_scale_is_asked() {
        const UnitSet si(UnitSystem::Si), us(UnitSystem::Us);
        const Entry e = read_entry("0.45", Quantity::Size, si, {0.05, 8});
        QVERIFY(e.ok && !e.question.empty());
        QCOMPARE(e.alternative, 0.45);
        const Entry mm_in_us = read_entry("450", Quantity::Size, us, {0.05, 8});
        QVERIFY(!mm_in_us.question.empty());
        QCOMPARE(mm_in_us.alternative, 0.45);
        QVERIFY(read_entry("450", Quantity::Size, si, {0.05, 8}).question.empty());
        QVERIFY(read_entry("0.45 mm", Quantity::Size, si, {0.05, 8})
                    .question.empty());  // said with its unit: taken at its word
    }
    void refusals_say_what_is_wrong() {
        const UnitSet u;
        for (const char* text :
             {"", "abc", "12 kg", "1,234", "1.2.3", "12 m m", "1e999", "5 +", "0x10", "nan", "inf", "10 20 x"}) {
            const Entry e = read_entry(text, Quantity::Length, u);
            QVERIFY2(!e.ok, text);
            QVERIFY2(!e.error.empty(), text);
        }
        QVERIFY(read_entry("12 kg", Quantity::Length, u).error.find("kg") != std::string::npos);
        QVERIFY(read_entry("1,234", Quantity::Length, u).error.find("1.234 or 1234") != std::string::npos);
    }
    void shortest_decimal_reads_back_exactly() {
        std::mt19937_64 random(7);
        for (int i = 0; i < 20000; ++i) {
            const double si =
                std::ldexp(std::uniform_real_distribution<double>(-1, 1)(random), static_cast<int>(random() % 60) - 30);
            for (const double factor :
                 {1.0, 0.3048, 0.0254, 0.01, 0.001, 4046.8564224, 0.028316846592, 0.0254 / 3600}) {
                const std::string text = shortest_decimal(si, factor);
                double back = 0;
                QVERIFY(read_decimal(text, factor, back));
                QCOMPARE(back, si);
            }
        }
        QCOMPARE(QString::fromStdString(shortest_decimal(0.45, 0.001)), QString("450"));
        QCOMPARE(QString::fromStdString(shortest_decimal(12 * 0.3048, 0.3048)), QString("12"));
        double back = 0;
        QVERIFY(!read_decimal("1e999", 1, back));
        QVERIFY(!read_decimal("nan", 1, back));
    }
    void shown_digits_and_choices() {
        UnitSet u;
        QCOMPARE(QString::fromStdString(u.text(0.264, Quantity::Flow)), QString("264.0 l/s"));
        // One name a quantity: the unit of one price is not asked of the others.
        std::set<std::string_view> names;
        for (std::size_t q = 0; q < quantity_count; ++q) names.insert(name_of(static_cast<Quantity>(q)));
        QCOMPARE(names.size(), quantity_count);
        QVERIFY(u.apply("flow m³/s 3; velocity m/s 1").empty());
        QCOMPARE(QString::fromStdString(u.text(0.264, Quantity::Flow)), QString("0.264 m³/s"));
        QCOMPARE(QString::fromStdString(u.text(1.25, Quantity::Velocity)), QString("1.2 m/s"));
        QCOMPARE(QString::fromStdString(u.apply("floww l/s")), QString("floww"));
        QCOMPARE(QString::fromStdString(u.number(-0.0001, Quantity::Length)), QString("0.00"));
        QCOMPARE(QString::fromStdString(u.number(std::nan(""), Quantity::Length)), QString("–"));
    }
    void long_times_are_hours_and_minutes() {
        UnitSet u(UnitSystem::Si);
        QCOMPARE(u.text(726 * 60.0, Quantity::Duration), std::string("12:06 h"));
        QCOMPARE(u.text(86400, Quantity::Duration), std::string("24:00 h"));
        QCOMPARE(u.text(6 * 3600.0 - 60, Quantity::Duration), std::string("359.00 min"));  // a Tc keeps its digits
        QCOMPARE(u.text(7 * 3600.0 - 20, Quantity::Duration), std::string("7:00 h"));
        QCOMPARE(u.number(86400, Quantity::Duration),
                 std::string("1440.00"));  // in columns, and their unit in the head
        QCOMPARE(u.apply("time h 2"), std::string());
        QCOMPARE(u.text(726 * 60.0, Quantity::Duration), std::string("12.10 h"));  // as chosen
    }
    void entry_text_is_read_back() {
        std::mt19937 random(3);
        for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
            const UnitSet u(system);
            for (int q = 1; q < static_cast<int>(Quantity::Count); ++q)
                for (int i = 0; i < 50; ++i) {
                    const double v = std::uniform_real_distribution<double>(0.2, 30)(random) *
                                     u.unit(static_cast<Quantity>(q)).factor;
                    const Entry e = read_entry(u.entry(v, static_cast<Quantity>(q)), static_cast<Quantity>(q), u);
                    QVERIFY2(e.ok, e.error.c_str());
                    QVERIFY2(std::abs(e.value - v) <= 1e-4 * std::abs(v), u.entry(v, static_cast<Quantity>(q)).c_str());
                }
        }
    }
    /// Against the recursion that defines it: a letter more, less, another, or two changed about.
    void distances_of_words_are_counted() {
        const std::function<std::size_t(std::string_view, std::string_view)> least = [&](std::string_view a,
                                                                                         std::string_view b) {
            if (a.empty() || b.empty()) return std::max(a.size(), b.size());
            const std::string_view x = a.substr(1), y = b.substr(1);
            std::size_t best = std::min({least(x, b) + 1, least(a, y) + 1, least(x, y) + (a[0] != b[0])});
            if (a.size() > 1 && b.size() > 1 && a[0] == b[1] && a[1] == b[0])
                best = std::min(best, least(a.substr(2), b.substr(2)) + 1);
            return best;
        };
        std::mt19937 dice(5);
        for (int i = 0; i < 400; ++i) {
            std::string a(dice() % 7, 'a'), b(dice() % 7, 'a');
            for (char& c : a) c = static_cast<char>('a' + dice() % 3);
            for (char& c : b) c = static_cast<char>('a' + dice() % 3);
            QVERIFY2(edit_distance(a, b) == least(a, b), (a + " " + b).c_str());
        }
    }
    void formulas_are_evaluated() {
        const std::vector<Term> t{{"A", 2, "", ""}, {"R", 8, "", ""}, {"S", 0.25, "", ""}, {"n", 0.5, "", ""}};
        QCOMPARE(evaluate("A * R^(2 / 3) * sqrt(S) / n", t), 8.0);
        QCOMPARE(evaluate("-2^2 + max(A, min(R, 3))", t), -1.0);
        QCOMPARE(evaluate("2^3^2", t), 512.0);
        std::string error;
        QVERIFY(std::isnan(evaluate("A * B", t, &error)) && error.find("B") != std::string::npos);
        QVERIFY(std::isnan(evaluate("(A", t, &error)));
        QVERIFY(std::isnan(evaluate("A A", t, &error)));
    }
};
QTEST_APPLESS_MAIN(TestUnits)
#include "test_base.moc"
