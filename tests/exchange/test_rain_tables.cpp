// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "exchange/delimited.h"
#include "exchange/rain_table.h"

using namespace culvert;

/// Rain tables: which unit their words and their numbers say, and every way to write a duration or a return period.
class TestRainTables : public QObject {
    Q_OBJECT
    static double mm_h(const RainTable& t, std::size_t column, std::size_t row) {
        return t.intensities[column][row] * 3.6e6;
    }
    static bool close(double a, double b) { return std::abs(a - b) <= 1e-9 * std::abs(b); }

  private slots:
    void cells_lose_what_stands_about_them() {
        for (const char* cell : {"abc", " abc", "abc ", "\t abc \r", "\u00a0abc\u00a0", "\ufeffabc"})
            QCOMPARE(trimmed(cell), std::string("abc"));
        QCOMPARE(trimmed(" a b\tc "), std::string("a b\tc"));
        QCOMPARE(trimmed(" \t "), std::string());
        QCOMPARE(trimmed(" 12\" "), std::string("12\""));  // inches
    }
    /// Numbers that rise are depths, those that fall intensities; the words over them give the unit of length.
    void numbers_tell_the_kind_and_words_the_unit_data() {
        QTest::addColumn<QString>("head");
        QTest::addColumn<QString>("rows");
        QTest::addColumn<double>("si");  // mm/h of the first value in an SI project
        QTest::addColumn<double>("us");
        QTest::addColumn<QString>("taken_si");
        QTest::addColumn<QString>("taken_us");
        const double in = 25.4;
        const QString rising = "5\t8\n10\t12\n", falling = "5\t90\n10\t70\n", one = "15\t20\n";
        QTest::newRow("rising") << "" << rising << 96.0 << 96 * in << "depths in mm"
                                << "depths in in";
        QTest::newRow("falling") << "" << falling << 90.0 << 90 * in << "intensities in mm/h"
                                 << "intensities in in/h";
        QTest::newRow("rising, mm") << "Depths (mm)\n"
                                    << rising << 96.0 << 96.0 << "depths in mm"
                                    << "depths in mm";
        QTest::newRow("rising, in") << "Depths (inches)\n"
                                    << rising << 96 * in << 96 * in << "depths in in"
                                    << "depths in in";
        QTest::newRow("rising, mm/h") << "mm/h\n"
                                      << rising << 96.0 << 96.0 << "depths in mm"
                                      << "depths in mm";
        QTest::newRow("rising, in/h") << "in/hr\n"
                                      << rising << 96 * in << 96 * in << "depths in in"
                                      << "depths in in";
        QTest::newRow("falling, mm/h") << "in mm per hour\n"
                                       << falling << 90.0 << 90.0 << "intensities in mm/h"
                                       << "intensities in mm/h";
        QTest::newRow("falling, in/h") << "inches per hour\n"
                                       << falling << 90 * in << 90 * in << "intensities in in/h"
                                       << "intensities in in/h";
        QTest::newRow("falling, mm") << "rain (mm)\n"
                                     << falling << 90.0 << 90.0 << "intensities in mm/h"
                                     << "intensities in mm/h";
        QTest::newRow("falling, in") << "rain [in]\n"
                                     << falling << 90 * in << 90 * in << "intensities in in/h"
                                     << "intensities in in/h";
        QTest::newRow("one") << "" << one << 20.0 << 20 * in << "intensities in mm/h"
                             << "intensities in in/h";
        QTest::newRow("one, mm") << "rain (mm)\n"
                                 << one << 80.0 << 80.0 << "depths in mm"
                                 << "depths in mm";
        QTest::newRow("one, mm/h") << "mm/h\n"
                                   << one << 20.0 << 20.0 << "intensities in mm/h"
                                   << "intensities in mm/h";
    }
    void numbers_tell_the_kind_and_words_the_unit() {
        QFETCH(QString, head);
        QFETCH(QString, rows);
        QFETCH(double, si);
        QFETCH(double, us);
        QFETCH(QString, taken_si);
        QFETCH(QString, taken_us);
        const std::string text = (head + "min\t10\n" + rows).toStdString();
        for (const auto& [system, first, taken] :
             {std::tuple{UnitSystem::Si, si, taken_si}, {UnitSystem::Us, us, taken_us}}) {
            const RainTable t = read_rain_table(text, UnitSet(system));
            QCOMPARE(QString::fromStdString(t.taken_for), taken);
            QVERIFY2(close(mm_h(t, 0, 0), first), qPrintable(QString::number(mm_h(t, 0, 0))));
            // An unlikely rain is named, not changed.
            QCOMPARE(t.ok, t.problems.empty());
        }
    }
    void durations_and_return_periods_are_written_in_many_ways() {
        const RainTable t = read_rain_table(
            "Duration\tT2\t10-yr\t25 years\t50 a\t100y\n"
            "5'\t100\t110\t120\t130\t140\n15m\t80\t90\t100\t110\t120\n"
            "30-min:\t60\t70\t80\t90\t100\n1h\t40\t45\t50\t55\t60\n2 hr.\t25\t30\t35\t40\t45\n"
            "12 hours\t6\t7\t8\t9\t10\n1 day\t3.5\t4\t4.5\t5\t5.5\n2d\t2\t2.2\t2.4\t2.6\t3\n",
            UnitSet(UnitSystem::Si));
        QVERIFY2(t.ok, t.problems.empty() ? "" : t.problems[0].message.c_str());
        QCOMPARE(t.return_periods, (std::vector<double>{2, 10, 25, 50, 100}));
        QCOMPARE(t.durations, (std::vector<double>{300, 900, 1800, 3600, 7200, 43200, 86400, 172800}));
        QVERIFY(close(mm_h(t, 4, 3), 60) && close(mm_h(t, 0, 7), 2));
        QVERIFY(t.understood.starts_with("8 durations (5 min to 2 days), 5 return periods, intensities in mm/h"));
        // A unit in the corner is that of bare numbers only.
        const RainTable hours = read_rain_table("hours\t10\n0.5\t60\n1\t40\n90 min\t30", UnitSet(UnitSystem::Si));
        QCOMPARE(hours.durations, (std::vector<double>{1800, 3600, 5400}));
        QVERIFY(hours.understood.starts_with("3 durations (30 min to 90 min), 1 return period, "));
        QCOMPARE(read_rain_table("min\t10\n60\t40\n150\t30", UnitSet()).durations.back(), 9000.0);
        QVERIFY(read_rain_table("min\t10\n60\t40\n150\t30", UnitSet()).understood.find("60 min to 2.5 h") !=
                std::string::npos);
        QVERIFY(read_rain_table("min\t10\n1440\t4", UnitSet()).understood.starts_with("1 duration (1 day), "));
    }
    void commas_part_cells_or_are_decimals() {
        const RainTable parted = read_rain_table("min,2,10\n5,91.9,136.7\n10,74,110\n", UnitSet(UnitSystem::Si));
        QVERIFY(parted.ok && close(mm_h(parted, 1, 0), 136.7));
        const RainTable decimal = read_rain_table("min;2;10\n5;91,9;136,7\n10;74;110\n", UnitSet(UnitSystem::Si));
        QVERIFY(decimal.ok && close(mm_h(decimal, 1, 0), 136.7) && close(mm_h(decimal, 0, 0), 91.9));
        const RainTable blanks = read_rain_table("min 2 10\n5 91,9 136,7\n10 74 110\n", UnitSet(UnitSystem::Si));
        QVERIFY(blanks.ok && close(mm_h(blanks, 1, 0), 136.7));
    }
    void lines_beside_the_table_are_counted() {
        const RainTable t = read_rain_table(
            "Rain service\nStation 7\n\nmin\t2\t10\n5\t91.9\t136.7\n10\t74\t110\n\nRead in 2020, no warranty\n",
            UnitSet(UnitSystem::Si));
        QVERIFY2(t.ok, t.problems.empty() ? "" : t.problems[0].message.c_str());
        QVERIFY2(t.understood.ends_with("3 lines beside the table left out"), t.understood.c_str());
        const RainTable one = read_rain_table("Rain service\nmin\t2\n5\t91.9\n10\t74\n", UnitSet(UnitSystem::Si));
        QVERIFY2(one.understood.ends_with("1 line beside the table left out"), one.understood.c_str());
    }
    void what_is_wrong_is_named_with_its_cell() {
        const auto said = [](const char* text, int row, int column, const char* words) {
            const RainTable t = read_rain_table(text, UnitSet(UnitSystem::Si));
            for (const RainTableProblem& p : t.problems)
                if (p.row == row && p.column == column && p.message.find(words) != std::string::npos) return !t.ok;
            return false;
        };
        QVERIFY(said("min\t2\t10\n0\t91\t100\n5\t80\t90", 2, 1, "duration 0 must be above 0"));
        QVERIFY(said("min\t2\t10\n5\t91\tx\n10\t80\t90", 2, 3, "\"x\" is not a number"));
        QVERIFY(said("min\t2\t10\n5\t91\t0\n10\t80\t90", 2, 3, "0 must be above 0"));
        QVERIFY(said("min\t2\t10\n5\t91\t100\n10\t80", 3, 2, "has 1 values, the head has 2"));
        QVERIFY(said("min\t2\t0\n5\t91\t100", 1, 3, "is not a return period"));
        QVERIFY(said("min\t2\n5\t91\n3 weeks\t80", 3, 1, "\"3 weeks\" is not a duration"));
        // One fault does not hide the next, nor what stands below them.
        for (const char* wrong :
             {"3 weeks\t80\n0\t70\n20\t60\t50\n", "0\t80\n3 weeks\t70\n", "20\t60\t50\n3 weeks\t70\n"}) {
            const std::string rows = wrong, table = "min\t2\n5\t91\n10\t88\n15\t86\n" + rows + "x\t40\n";
            const auto faults = static_cast<int>(std::count(rows.begin(), rows.end(), '\n')) + 1;
            QCOMPARE(static_cast<int>(read_rain_table(table, UnitSet(UnitSystem::Si)).problems.size()), faults);
            QVERIFY(said(table.c_str(), faults + 4, 1, "\"x\" is not a duration"));
        }
        const RainTable gaps =
            read_rain_table("2: 900/(t+8)^0.75\n \t\n\n10: 1500/(t+10)^0.8\n", UnitSet(UnitSystem::Si));
        QVERIFY(gaps.ok && gaps.return_periods == (std::vector<double>{2, 10}));
        QVERIFY(said("10: 1500/(t+10)^1.4", 1, 1, "at most 1"));
        QVERIFY(said("2: 900/(t+8)^0.75\n0: 1500/(t+10)^0.8", 2, 1, "above 0"));
        std::string many = "min\t2\n";
        for (int i = 0; i < 40; ++i) many += "x\ty\n";
        QVERIFY(read_rain_table(many, UnitSet()).problems.size() <= 20);
    }
    void equations_hold_at_every_duration() {
        for (const UnitSystem system : {UnitSystem::Si, UnitSystem::Us}) {
            const RainTable t =
                read_rain_table("2: 900/(t+8)^0.75\n100 yr; i = 2600 / ( t ) ^ (0.82)\n", UnitSet(system));
            QVERIFY(t.ok);
            QCOMPARE(t.durations.size(), std::size_t{13});
            QCOMPARE(t.durations.front(), 300.0);
            QCOMPARE(t.durations.back(), 86400.0);
            const double unit = system == UnitSystem::Si ? 1 : 25.4;
            for (std::size_t i = 0; i < t.durations.size(); ++i) {
                const double m = t.durations[i] / 60;
                QVERIFY(close(mm_h(t, 0, i), 900 / std::pow(m + 8, 0.75) * unit));
                QVERIFY(close(mm_h(t, 1, i), 2600 / std::pow(m, 0.82) * unit));
            }
            QVERIFY(t.understood.starts_with("2 equations a / (t + b)^c"));
        }
        QVERIFY(read_rain_table("2: 900/(t+8)^0.75", UnitSet()).understood.starts_with("1 equation a"));
    }
};
QTEST_APPLESS_MAIN(TestRainTables)
#include "test_rain_tables.moc"
