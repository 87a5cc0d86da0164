// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>

#include "core/model/cells.h"
#include "exchange/paste_table.h"
#include "exchange/points_text.h"

using namespace culvert;
using Strings = std::vector<std::string>;

namespace {

Strings split(std::string_view line, char separator) {
    Strings cells{"left from before"};
    split_line(line, separator, cells);
    return cells;
}
constexpr NumberStyle plain{'.', false, false}, grouped{'.', true, false}, comma{',', false, false},
    comma_grouped{',', true, false};
/// The number that a cell begins with and what follows it, as one text.
std::string number(std::string_view cell, const NumberStyle& style) {
    double v = 0;
    std::string rest;
    if (!read_number(cell, style, v, &rest)) return "none";
    return QString::number(v, 'g', 15).toStdString() + "|" + rest;
}
bool whole(std::string_view cell, const NumberStyle& style = plain) {
    double v = 0;
    return read_number(cell, style, v);
}
/// "decimal mark, grouped, ambiguous" of a column.
std::string style(const Strings& cells, char separator = ';') {
    const NumberStyle s = sniff_numbers(cells, separator);
    return std::string(1, s.decimal) + (s.grouped ? " grouped" : "") + (s.ambiguous ? " ambiguous" : "");
}

}  // namespace

/// Text in rows and columns: what parts cells, what holds them together, how numbers are written; columns of points.
class TestDelimited : public QObject {
    Q_OBJECT
  private slots:
    void what_parts_cells_is_found() {
        QCOMPARE(find_separator("a\tb;c,d\n1;2"), '\t');
        QCOMPARE(find_separator("no part here\na;b\n"), ';');
        QCOMPARE(find_separator("a,b,c\n1,2,3\n"), ',');
        QCOMPARE(find_separator("1 2 3\n4 5 6\n"), ' ');
        QCOMPARE(find_separator(""), ' ');
        QCOMPARE(find_separator("\n \n\r\n"), ' ');
        // Commas inside numbers that blanks part are decimal marks; beside letters they part cells.
        QCOMPARE(find_separator("12,5 13,1\n14,0 15,2\n"), ' ');
        QCOMPARE(find_separator("12,5\n14,0\n"), ',');
        QCOMPARE(find_separator("12,a b\n14,c d\n"), ',');
        QCOMPARE(find_separator(",5 6\n,7 8\n"), ',');
        QCOMPARE(find_separator("5 6,\n7 8,\n"), ',');
        // Three lines of four with as many are enough; two are not.
        QCOMPARE(find_separator("a,b\nc,d\ne,f\ng\n"), ',');
        QCOMPARE(find_separator("a,b\nc,d\ne\ng\n"), ' ');
        // Commas in quotes part nothing, nor does what stands in a comment.
        QCOMPARE(find_separator("\"a, b\",1\n\"c\",2\n\"d,e,f\",3\n"), ',');
        QCOMPARE(find_separator("# a;b\n\n1,2\n3,4\n"), ',');
        QCOMPARE(find_separator("A1,12\",3\nA2,15\",4\n"), ',');  // inches
        // Two hundred lines are looked at.
        std::string many;
        for (int i = 0; i < 200; ++i) many += "1,2\n";
        QCOMPARE(find_separator(many + "a;b\n"), ',');
    }
    void quotes_hold_a_cell_together_where_they_begin_it() {
        QCOMPARE(split("a,b,,c", ','), (Strings{"a", "b", "", "c"}));
        QCOMPARE(split("a,b,", ','), (Strings{"a", "b", ""}));
        QCOMPARE(split("", ','), (Strings{""}));
        QCOMPARE(split("  a b ;\"x; y\" ; z\r", ';'), (Strings{"a b", "x; y", "z"}));
        QCOMPARE(split("\"say \"\"so\"\"\",b", ','), (Strings{"say \"so\"", "b"}));
        QCOMPARE(split("\"open, to the end", ','), (Strings{"open, to the end"}));
        QCOMPARE(split("\"a\"b,c", ','), (Strings{"ab", "c"}));
        QCOMPARE(split("\xef\xbb\xbf\"name\",b", ','), (Strings{"name", "b"}));
        QCOMPARE(split("\xc2\xa0"
                       "a\xc2\xa0,b",
                       ','),
                 (Strings{"a", "b"}));
        QCOMPARE(split("a\t\tb", '\t'), (Strings{"a", "", "b"}));
        QCOMPARE(split("  1  2\t3 \r", ' '), (Strings{"1", "2", "3"}));
        QCOMPARE(split("\"A 1\" 2", ' '), (Strings{"A 1", "2"}));
        QCOMPARE(split("   ", ' '), Strings{});
        // A mark of inches is one.
        QCOMPARE(split("A1,12\",0.5,15\"", ','), (Strings{"A1", "12\"", "0.5", "15\""}));
        QCOMPARE(split("A1\t1' 6\"\t3", '\t'), (Strings{"A1", "1' 6\"", "3"}));
        QCOMPARE(split("\"12\"\"\",3", ','), (Strings{"12\"", "3"}));
    }
    void rows_keep_their_places() {
        const Cells cells = split_cells("a,b\n\n1,2\n \n\n", ',');
        QCOMPARE(cells, (Cells{{"a", "b"}, {}, {"1", "2"}}));
        QCOMPARE(split_cells("a\tb\n\t\n1\t2", '\t'), (Cells{{"a", "b"}, {"", ""}, {"1", "2"}}));
        QVERIFY(split_cells("", ',').empty() && split_cells("\n\n", ',').empty());
    }
    void a_number_and_what_follows_it() {
        QCOMPARE(number("12.5 m", plain), std::string("12.5|m"));
        QCOMPARE(number("+3", plain), std::string("3|"));
        QCOMPARE(number("\xe2\x88\x92"
                        "3.5",
                        plain),
                 std::string("-3.5|"));
        QCOMPARE(number("-4", plain), std::string("-4|"));
        QCOMPARE(number("1e3", plain), std::string("1000|"));
        QCOMPARE(number("1E+2", plain), std::string("100|"));
        QCOMPARE(number("5e-1x", plain), std::string("0.5|x"));
        QCOMPARE(number("5em", plain), std::string("5|em"));
        QCOMPARE(number("3-4", plain), std::string("3|-4"));
        QCOMPARE(number("1,5", plain), std::string("1|,5"));
        QCOMPARE(number("1,5", comma), std::string("1.5|"));
        QCOMPARE(number("1.5", comma), std::string("1|.5"));
        QCOMPARE(number("1,234.5", grouped), std::string("1234.5|"));
        QCOMPARE(number("1.234,5", comma_grouped), std::string("1234.5|"));
        QCOMPARE(number("1 234'567", grouped), std::string("1234567|"));
        QCOMPARE(number("1\xc2\xa0"
                        "234",
                        grouped),
                 std::string("1234|"));
        QCOMPARE(number("1\xe2\x80\xaf"
                        "234",
                        grouped),
                 std::string("1234|"));
        QCOMPARE(number("1 m", grouped), std::string("1|m"));
        QCOMPARE(number("1,m", grouped), std::string("1|,m"));
        QCOMPARE(number("1 234", plain), std::string("1|234"));
        for (const char* none : {"", "m", "-", "+", ".", "--3", "1e999", "1.2.3", "e5"})
            QCOMPARE(number(none, plain), std::string("none"));
        QVERIFY(whole("12") && whole("12 ") && !whole(" 12") && !whole("12 m") && !whole("12x"));
    }
    void how_a_column_is_written_is_seen() {
        QCOMPARE(style({"1.5", "2"}), std::string("."));
        QCOMPARE(style({"1,5", "2,25"}), std::string(","));
        QCOMPARE(style({"1,234", "2,345"}), std::string(", ambiguous"));
        QCOMPARE(style({"-1,234", "+12,345", "123,456"}), std::string(", ambiguous"));
        QCOMPARE(style({"1234,567"}), std::string(","));  // no group has four digits
        QCOMPARE(style({",567"}), std::string(","));
        QCOMPARE(style({"1,234", "2.5"}), std::string(". grouped"));
        QCOMPARE(style({"1,234", "1,234,567"}), std::string(". grouped"));
        QCOMPARE(style({"1,234.5"}), std::string(". grouped"));
        QCOMPARE(style({"1.234,5"}), std::string(", grouped"));
        QCOMPARE(style({"1.234.567"}), std::string(". grouped"));
        QCOMPARE(style({"1.234.567", "1,234"}), std::string(", grouped"));
        QCOMPARE(style({"1'234"}), std::string(". grouped"));
        QCOMPARE(style({"1 234"}), std::string(". grouped"));
        QCOMPARE(style({"12 m"}), std::string("."));
        QCOMPARE(style({"1\xc2\xa0"
                        "234"}),
                 std::string(". grouped"));
        QCOMPARE(style({"1\xe2\x80\xaf"
                        "234"}),
                 std::string(". grouped"));
        QCOMPARE(style({"1,5", "1,234"}), std::string(","));
        QCOMPARE(style({"1,5"}, ','), std::string("."));  // there a comma stands in none
        QCOMPARE(style({}), std::string("."));
    }
    /// An inch mark in a project in metres is inches, typed, pasted by tabs or by commas; so is a foot.
    void inches_are_inches() {
        Project p = new_project(UnitSystem::Si);
        for (const std::uint64_t id : {1, 2}) {
            Structure s;
            s.id = id;
            s.name = "A" + std::to_string(id);
            p.structures.insert(s);
        }
        Pipe q;
        q.id = 11;
        q.from = {1};
        q.to = {2};
        p.pipes.insert(q);
        const std::size_t size = *field_index(Kind::Pipe, "size");
        for (const char* text : {"18\"", "18 in", "1' 6\"", "1.5'", "18″", "1′ 6″", "18”", "457.2"}) {
            const CellValue v = read_cell(p, Kind::Pipe, 11, size, text);
            QVERIFY2(v.ok && std::abs(std::get<double>(v.value) - 0.4572) < 1e-12, text);
        }
        for (const char* text :
             {"name\tsize\troughness\nA1–A2\t18\"\t0.015\n", "name,size,roughness\nA1–A2,18\",0.015\n",
              "name,size,roughness\nA1–A2,\"18\"\"\",0.015\n"}) {
            Project copy = p;
            apply(copy, plan_paste(p, Kind::Pipe, text, {}, {}).edit);
            QVERIFY2(std::abs(copy.pipes.find(11)->size - 0.4572) < 1e-12, text);
            QVERIFY2(copy.pipes.find(11)->roughness == 0.015, text);
        }
    }
    void columns_of_points_are_named_by_their_head() {
        using enum PointColumn;
        const auto columns = [](const char* text) { return sniff_points(text).columns; };
        const std::vector<PointColumn> enz{Easting, Northing, Level};
        for (const char* head : {"e;n;z", "East;North;H", "easting [m];northing [m];level [m]", "x;y;elevation",
                                 "Rechts;Hoch;Height", "este;norte;cota", "EST;NORD;altitude", "X(m);Y(m);RL"})
            QVERIFY2(columns((std::string(head) + "\n1;2;3\n4;5;6\n").c_str()) == enz, head);
        QCOMPARE(columns("z;string;n;pt;e\n3;wall;2;7;1\n4;wall;5;8;6\n"),
                 (std::vector<PointColumn>{Level, Line, Northing, Name, Easting}));
        QCOMPARE(columns("e;n;z;z\n1;2;3;9\n4;5;6;9\n"), (std::vector<PointColumn>{Easting, Northing, Level, Ignore}));
        // Without a head in this order; a first column that counts, or is no number, is the name.
        QCOMPARE(columns("1;2;3\n4;5;6\n"), enz);
        QCOMPARE(columns("1;10.5;2;3\n2;11.5;5;6\n"), (std::vector<PointColumn>{Name, Easting, Northing, Level}));
        QCOMPARE(columns("1.5;10.5;2;3\n2.5;11.5;5;6\n"), (std::vector<PointColumn>{Easting, Northing, Level, Ignore}));
        QCOMPARE(columns("a;1;2;3\nb;4;5;6\n"), (std::vector<PointColumn>{Name, Easting, Northing, Level}));
        QCOMPARE(columns("a;b;z\n1;2;3\n4;5;6\n"), enz);  // a head without easting and northing
        QCOMPARE(sniff_points("# x\n\nnotes of a survey\ne;n;z\n1;2;3\n4;5;6\n").head, std::size_t{4});
        QCOMPARE(sniff_points("1;2;3\n4;5;6\n").head, std::size_t{0});
        QCOMPARE(sniff_points("1;2;3\n4;5;6\n").first, (Cells{{"1", "2", "3"}, {"4", "5", "6"}}));
        const auto remark = [](const char* text) {
            const PointsLayout l = sniff_points(text);
            return l.remarks.empty() ? std::string() : l.remarks.front();
        };
        QCOMPARE(remark("e;n;z\n1;2;3\n4;5;6\n"), std::string());
        QVERIFY(remark("1;2;3\n4;5;6\n").starts_with("no head names the columns"));
        QVERIFY(remark("1;2\n4;5\n").starts_with("fewer than three columns"));
        QCOMPARE(remark("# only\n"), std::string("the file has no line with text"));
        QCOMPARE(remark("some words\nand more\n"), std::string("no line has two numbers"));
        // A column counts where three cells of four are numbers.
        QCOMPARE(columns("1;2;3\n4;5;x\n6;7;8\n9;9;9\n"), enz);
        QVERIFY(columns("1;2;3\n4;5;x\n6;7;y\n9;9;9\n") != enz);
    }
    void lines_that_cannot_be_read_are_left_out_and_named() {
        const char* text =
            "e;n;z;line\n1;2;3;\n;2;3;\n1;2\n1;x;3;\n1;2;99999;\n1e9;2;3;\n5;6;7;wall\n8;9;10;wall\n0;0;0;"
            "alone\n";
        const SurfaceImport s = read_points(text, sniff_points(text));
        QVERIFY(s.ok);
        QCOMPARE(s.left_out, std::size_t{5});
        Strings said;
        for (const ImportProblem& p : s.problems) said.push_back(std::to_string(p.line) + " " + p.message);
        QCOMPARE(said.size(), std::size_t{5});
        QCOMPARE(said[0], std::string("3 has no easting"));
        QCOMPARE(said[1], std::string("4 has no level"));
        QCOMPARE(said[2], std::string("5 \"x\" is not a number for the northing"));
        QVERIFY(said[3].starts_with("6 level is 99999 m: at most "));
        QVERIFY(said[4].starts_with("7 easting is 1e+09 m: at most "));
        QVERIFY(s.data.points.size() == 2 && s.data.breaklines.size() == 1 && s.data.breaklines[0].size() == 2);
        // Fifty are shown, all are counted; two points make no surface.
        std::string bad = "e;n;z\n1;2;3\n1;5;3\n";
        for (int i = 0; i < 60; ++i) bad += "1;x;3\n";
        const SurfaceImport none = read_points(bad, sniff_points(bad));
        QVERIFY(!none.ok && none.left_out == 60 && none.problems.size() == 51);
        QVERIFY(none.problems.front().message.starts_with("the file has 2 points: a surface needs three"));
        PointsLayout blind = sniff_points(text);
        blind.columns.assign(4, PointColumn::Ignore);
        QVERIFY(read_points(text, blind).problems.at(0).message.starts_with("no column is chosen"));
        std::stop_source stop;
        stop.request_stop();
        std::string long_one = "e;n;z\n";
        for (int i = 0; i < 9000; ++i) long_one += std::to_string(i) + ";2;3\n";
        const SurfaceImport stopped = read_points(long_one, sniff_points(long_one), stop.get_token());
        QVERIFY(!stopped.ok && stopped.problems.empty() && stopped.data.points.size() < 5000);
    }
};

QTEST_APPLESS_MAIN(TestDelimited)
#include "test_delimited.moc"
