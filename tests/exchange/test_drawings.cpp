// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <numbers>
#include <set>

#include "exchange/dxf_read.h"

using namespace culvert;
using std::numbers::pi;

namespace {

std::string pairs(std::initializer_list<std::pair<int, std::string>> list) {
    std::string out;
    for (const auto& [code, value] : list) out += std::to_string(code) + "\n" + value + "\n";
    return out;
}
std::string drawing(const std::string& entities, const std::string& blocks = {}, const std::string& header = {}) {
    std::string out = header;
    if (!blocks.empty()) out += pairs({{0, "SECTION"}, {2, "BLOCKS"}}) + blocks + pairs({{0, "ENDSEC"}});
    return out + pairs({{0, "SECTION"}, {2, "ENTITIES"}}) + entities + pairs({{0, "ENDSEC"}, {0, "EOF"}});
}
std::string block(const char* name, const std::string& body, const char* x = "0", const char* y = "0",
                  const char* z = "0") {
    return pairs({{0, "BLOCK"}, {8, "0"}, {2, name}, {70, "0"}, {10, x}, {20, y}, {30, z}}) + body +
           pairs({{0, "ENDBLK"}});
}
const std::string line =
    pairs({{0, "LINE"}, {8, "0"}, {10, "1"}, {20, "2"}, {30, "3"}, {11, "2"}, {21, "2"}, {31, "3"}});
bool says(const DrawingOutcome& o, const std::string& words) {
    return std::any_of(o.problems.begin(), o.problems.end(), [&](const ImportProblem& p) {
        return p.message.find(words) != std::string::npos && !p.remedy.empty();
    });
}
bool near(double a, double b) { return std::abs(a - b) < 1e-9; }
bool at(const GroundPoint& p, double x, double y, double z) { return near(p.x, x) && near(p.y, y) && near(p.z, z); }

}  // namespace

/// Drawings in DXF: blocks put in place, units, limits.
class TestDrawings : public QObject {
    Q_OBJECT
  private slots:
    /// Twice as wide, thrice as high, turned by 90 degrees about its base (1, 1, 1), put at (100, 50, 10): a place (x,
    /// y) of the block comes to (100 - 3 (y - 1), 50 + 2 (x - 1)).
    void all_of_a_block_is_put_in_place() {
        const std::string body =
            line + pairs({{0, "TEXT"}, {8, "names"}, {10, "4"}, {20, "2"}, {40, "0.5"}, {50, "30"}, {1, "INLET"}}) +
            pairs({{0, "POINT"}, {8, "spots"}, {10, "2"}, {20, "3"}, {30, "7.5"}}) +
            pairs({{0, "3DFACE"},
                   {8, "0"},
                   {10, "1"},
                   {20, "1"},
                   {30, "1"},
                   {11, "2"},
                   {21, "1"},
                   {31, "1"},
                   {12, "2"},
                   {22, "2"},
                   {32, "2"},
                   {13, "1"},
                   {23, "2"},
                   {33, "2"}});
        const DrawingOutcome o = read_dxf(drawing(pairs({{0, "INSERT"},
                                                         {8, "site"},
                                                         {2, "gully"},
                                                         {10, "100"},
                                                         {20, "50"},
                                                         {30, "10"},
                                                         {41, "2"},
                                                         {42, "3"},
                                                         {50, "90"}}),
                                                  block("gully", body, "1", "1", "1")));
        QVERIFY2(o.ok, o.problems.empty() ? "" : o.problems[0].message.c_str());
        const Drawing& d = o.drawing;
        const auto layer = [&](int l) { return d.layers[static_cast<std::size_t>(l)]; };
        QVERIFY(d.lines.size() == 1 && d.texts.size() == 1 && d.points.size() == 1 && d.faces.size() == 1);
        QVERIFY(at(d.lines[0].points[0], 97, 50, 12) && at(d.lines[0].points[1], 97, 52, 12));
        QCOMPARE(layer(d.lines[0].layer), std::string("site"));  // what lies on layer 0 takes that of its insert
        QVERIFY(near(d.texts[0].at.x, 97) && near(d.texts[0].at.y, 56) && near(d.texts[0].height, 1.5));
        QVERIFY(near(d.texts[0].angle, 120 * pi / 180));
        QCOMPARE(d.texts[0].text, std::string("INLET"));
        QCOMPARE(layer(d.texts[0].layer), std::string("names"));
        QVERIFY(at(d.points[0].at, 94, 52, 16.5));
        QCOMPARE(layer(d.points[0].layer), std::string("spots"));
        QVERIFY(at(d.faces[0].corners[0], 100, 50, 10) && at(d.faces[0].corners[2], 97, 52, 11));
        QCOMPARE(layer(d.faces[0].layer), std::string("site"));
    }
    void blocks_inside_blocks_and_rows_of_them() {
        const std::string inner =
            pairs({{0, "INSERT"}, {8, "0"}, {2, "unit"}, {10, "10"}, {20, "0"}, {41, "2"}, {42, "2"}});
        const DrawingOutcome o = read_dxf(drawing(pairs({{0, "INSERT"},
                                                         {8, "a"},
                                                         {2, "pair"},
                                                         {10, "100"},
                                                         {20, "0"},
                                                         {41, "3"},
                                                         {42, "3"},
                                                         {50, "180"},
                                                         {70, "3"},
                                                         {71, "2"},
                                                         {44, "50"},
                                                         {45, "20"}}),
                                                  block("unit", line) + block("pair", inner)));
        QVERIFY(o.ok);
        QCOMPARE(o.drawing.lines.size(), std::size_t{6});  // three columns, two rows
        std::set<std::pair<long, long>> starts;
        for (const Drawing::Line& l : o.drawing.lines) {
            QVERIFY(near(std::hypot(l.points[1].x - l.points[0].x, l.points[1].y - l.points[0].y), 6));
            starts.insert({std::lround(l.points[0].x * 1000), std::lround(l.points[0].y * 1000)});
        }
        // The unit's line begins at 1, 2: doubled 2, 4; behind the inner insert 12, 4; trebled 36, 12; turned about.
        std::set<std::pair<long, long>> wanted;
        for (const long c : {0, 1, 2})
            for (const long r : {0, 1}) wanted.insert({(100 - 36 - 50 * c) * 1000, (-12 - 20 * r) * 1000});
        QVERIFY(starts == wanted);
    }
    void blocks_that_hold_themselves_end() {
        const std::string self = pairs({{0, "INSERT"}, {8, "0"}, {2, "loop"}, {10, "1"}, {20, "0"}});
        const DrawingOutcome o = read_dxf(
            drawing(pairs({{0, "INSERT"}, {8, "a"}, {2, "loop"}, {10, "0"}, {20, "0"}}), block("loop", line + self)));
        QVERIFY(o.ok);
        QVERIFY(o.drawing.lines.size() >= 2 && o.drawing.lines.size() < 12);
    }
    void blocks_that_are_not_there_are_said() {
        const DrawingOutcome o =
            read_dxf(drawing(line + pairs({{0, "INSERT"}, {8, "a"}, {2, "gone"}, {10, "0"}, {20, "0"}})));
        QVERIFY(o.ok && o.drawing.lines.size() == 1);
        QVERIFY(says(o, "1 blocks are inserted that the drawing does not hold"));
        QVERIFY(says(o, "does not say its unit"));
    }
    void too_many_copies_are_refused() {
        // 200 x 200 places of one point each, nested thrice: more than any drawing needs.
        const auto many = [](const char* of) {
            return pairs({{0, "INSERT"},
                          {8, "0"},
                          {2, of},
                          {10, "0"},
                          {20, "0"},
                          {70, "200"},
                          {71, "200"},
                          {44, "1"},
                          {45, "1"}});
        };
        const std::string point = pairs({{0, "POINT"}, {8, "0"}, {10, "0"}, {20, "0"}, {30, "0"}});
        const DrawingOutcome copies = read_dxf(drawing(many("b"), block("a", point) + block("b", many("a"))));
        QVERIFY(!copies.ok && copies.drawing.points.empty());
        QVERIFY(copies.problems.back().message.find("inserted more than 1000000 times") != std::string::npos);
        std::string ring;
        for (int i = 0; i < 40; ++i) ring += pairs({{0, "CIRCLE"}, {8, "0"}, {10, "0"}, {20, "0"}, {40, "1"}});
        const DrawingOutcome points = read_dxf(drawing(many("a"), block("a", ring)));
        QVERIFY(!points.ok && points.problems.back().message.find("more than 3000000 points") != std::string::npos);
        // No more than 200 columns and rows of one insert are meant.
        const DrawingOutcome held = read_dxf(
            drawing(pairs({{0, "INSERT"}, {8, "0"}, {2, "a"}, {10, "0"}, {20, "0"}, {70, "900"}, {71, "1"}, {44, "1"}}),
                    block("a", point)));
        QCOMPARE(held.drawing.points.size(), std::size_t{200});
    }
    void every_unit_of_the_format_is_known_data() {
        QTest::addColumn<int>("code");
        QTest::addColumn<double>("metres");
        for (const auto& [code, metres] : {std::pair{1, 0.0254},
                                           {2, 0.3048},
                                           {4, 0.001},
                                           {5, 0.01},
                                           {6, 1.0},
                                           {7, 1000.0},
                                           {10, 0.9144},
                                           {14, 0.1},
                                           {21, 1200.0 / 3937.0},
                                           {0, 0.0},
                                           {3, 0.0},
                                           {99, 0.0}})
            QTest::newRow(std::to_string(code).c_str()) << code << metres;
    }
    void every_unit_of_the_format_is_known() {
        QFETCH(int, code);
        QFETCH(double, metres);
        const std::string all = line + pairs({{0, "POINT"}, {8, "0"}, {10, "4"}, {20, "5"}, {30, "6"}}) +
                                pairs({{0, "TEXT"}, {8, "0"}, {10, "7"}, {20, "8"}, {40, "2"}, {1, "A"}}) +
                                pairs({{0, "3DFACE"},
                                       {8, "0"},
                                       {10, "1"},
                                       {20, "1"},
                                       {30, "1"},
                                       {11, "2"},
                                       {21, "1"},
                                       {31, "1"},
                                       {12, "2"},
                                       {22, "2"},
                                       {32, "2"},
                                       {13, "2"},
                                       {23, "2"},
                                       {33, "2"}});
        const DrawingOutcome o = read_dxf(drawing(
            all, {},
            pairs({{0, "SECTION"}, {2, "HEADER"}, {9, "$INSUNITS"}, {70, std::to_string(code)}, {0, "ENDSEC"}})));
        const double by = metres > 0 ? metres : 1;
        const Drawing& d = o.drawing;
        QCOMPARE(d.unit_known, metres > 0);
        QCOMPARE(d.unit, by);
        QVERIFY(at(d.lines[0].points[0], by, 2 * by, 3 * by) && at(d.points[0].at, 4 * by, 5 * by, 6 * by));
        QVERIFY(near(d.texts[0].at.x, 7 * by) && near(d.texts[0].at.y, 8 * by) && near(d.texts[0].height, 2 * by));
        QVERIFY(at(d.faces[0].corners[3], 2 * by, 2 * by, 2 * by));
    }
    void long_texts_lose_their_codes_and_keep_their_words() {
        const auto read = [](const std::string& text) {
            const DrawingOutcome o =
                read_dxf(drawing(pairs({{0, "MTEXT"}, {8, "a"}, {10, "1"}, {20, "2"}, {40, "3"}}) + text));
            return o.drawing.texts.empty() ? std::string("none") : o.drawing.texts[0].text;
        };
        QCOMPARE(read(pairs({{1, R"({\fArial|b0;MH 7}\Prim\~level \\ 12)"}})), std::string("MH 7 rim level \\ 12"));
        QCOMPARE(read(pairs({{1, R"(\H2.5;\C1;tall)"}})), std::string("tall"));
        QCOMPARE(read(pairs({{3, "first part, "}, {3, "second, "}, {1, "last"}})),
                 std::string("first part, second, last"));
        const std::string one = pairs({{0, "MTEXT"}, {8, "a"}, {10, "1"}, {20, "2"}, {40, "3"}});
        const DrawingOutcome two =
            read_dxf(drawing(one + pairs({{3, "a long "}, {1, "one"}}) + one + pairs({{3, "another "}, {1, "one"}})));
        QCOMPARE(two.drawing.texts.size(), std::size_t{2});
        QCOMPARE(two.drawing.texts[0].text, std::string("a long one"));
        QCOMPARE(two.drawing.texts[1].text, std::string("another one"));
    }
    void what_is_far_or_no_number_is_left_out_and_counted() {
        const auto said = [](const std::string& entity) {
            const DrawingOutcome o = read_dxf(drawing(line + entity));
            return o.ok && o.drawing.lines.size() == 1 && o.drawing.points.empty() && o.drawing.texts.empty() &&
                           o.drawing.faces.empty() && o.problems.size() == 2
                       ? o.problems[o.problems[0].message.find("its unit") != std::string::npos].message
                       : std::string("?");
        };
        QVERIFY(said(pairs({{0, "POINT"}, {8, "0"}, {10, "1e13"}, {20, "0"}, {30, "0"}}))
                    .starts_with("1 entities have coordinates"));
        QVERIFY(said(pairs({{0, "POINT"}, {8, "0"}, {10, "1e11"}, {20, "0"}, {30, "0"}}))
                    .starts_with("1 entities lie farther"));
        QVERIFY(said(pairs({{0, "POINT"}, {8, "0"}, {10, "0"}, {20, "0"}, {30, "1e11"}}))
                    .starts_with("1 entities lie farther"));
        QVERIFY(said(pairs({{0, "TEXT"}, {8, "0"}, {10, "1e11"}, {20, "0"}, {40, "1"}, {1, "A"}}))
                    .starts_with("1 entities lie"));
        QVERIFY(said(pairs({{0, "TEXT"}, {8, "0"}, {10, "1"}, {20, "1"}, {40, "1e11"}, {1, "A"}}))
                    .starts_with("1 entities lie"));
        QVERIFY(
            said(pairs({{0, "LINE"}, {8, "0"}, {10, "1"}, {20, "0"}, {30, "0"}, {11, "1e11"}, {21, "0"}, {31, "0"}}))
                .starts_with("1 entities lie"));
        QVERIFY(said(pairs({{0, "SPLINE"}, {8, "0"}, {70, "8"}, {71, "3"}, {10, "0"}, {20, "0"}})).find("splines") !=
                std::string::npos);
    }
    /// A circle is a ring of equal chords, an arc has its share of them and two at least.
    void arcs_have_their_share_of_the_chords() {
        const auto points = [](const char* from, const char* to) {
            const DrawingOutcome o = read_dxf(drawing(
                pairs({{0, "ARC"}, {8, "0"}, {10, "5"}, {20, "6"}, {30, "1"}, {40, "3"}, {50, from}, {51, to}})));
            return o.drawing.lines.at(0).points;
        };
        const DrawingOutcome o =
            read_dxf(drawing(pairs({{0, "CIRCLE"}, {8, "0"}, {10, "5"}, {20, "6"}, {30, "1"}, {40, "3"}})));
        const auto& ring = o.drawing.lines.at(0).points;
        QVERIFY(o.drawing.lines[0].closed && ring.size() > 32 && ring.size() < 200);
        const std::size_t chords = ring.size() - 1;
        QCOMPARE(points("0", "180").size(), chords / 2 + 1);
        QCOMPARE(points("270", "90").size(), chords / 2 + 1);  // through zero
        QCOMPARE(points("10", "11").size(), std::size_t{3});
        const auto quarter = points("270", "0");
        QVERIFY(at(quarter.front(), 5, 3, 1) && at(quarter.back(), 8, 6, 1));
        for (std::size_t i = 0; i + 1 < quarter.size(); ++i)
            QVERIFY(near(std::hypot(quarter[i].x - 5, quarter[i].y - 6), 3) && quarter[i].x < quarter[i + 1].x);
    }
    void what_would_take_all_memory_is_refused() {
        const DrawingOutcome o =
            read_dxf(drawing(pairs({{0, "LWPOLYLINE"}, {8, "0"}, {90, "99999999"}, {10, "0"}, {20, "0"}})));
        QVERIFY(!o.ok && o.problems.back().message.find("announces 99999999 parts") != std::string::npos);
        const std::string text(5000, 'A');
        const DrawingOutcome cut =
            read_dxf(drawing(pairs({{0, "TEXT"}, {8, "0"}, {10, "1"}, {20, "2"}, {40, "1"}, {1, text}}) + line));
        QVERIFY(cut.ok && cut.drawing.lines.size() == 1);
        QCOMPARE(cut.drawing.texts[0].text.size(), std::size_t{1000});
        QVERIFY(cut.problems[0].line == 16 && cut.problems[0].message.find("5000 characters") != std::string::npos);
    }
    void it_can_be_stopped_and_says_what_is_missing() {
        std::string many;
        for (int i = 0; i < 3000; ++i) many += line;
        std::stop_source stop;
        stop.request_stop();
        const DrawingOutcome o = read_dxf(drawing(many), 0, stop.get_token());
        QVERIFY(!o.ok && o.problems[0].message == "it was stopped");
        std::string torn = drawing(many);
        torn.resize(torn.size() / 2);
        const DrawingOutcome half = read_dxf(torn);
        QVERIFY(half.ok && half.drawing.lines.size() > 1000 && half.drawing.lines.size() < 2000);
        QVERIFY(says(half, "cut short"));
        for (const ImportProblem& p : half.problems)
            if (p.message.find("cut short") != std::string::npos)
                QCOMPARE(p.line, static_cast<int>(std::count(torn.begin(), torn.end(), '\n')) + 1);
    }
    void four_corners_are_two_triangles_and_three_are_one() {
        const std::string quad = pairs({{0, "3DFACE"},
                                        {8, "a"},
                                        {10, "0"},
                                        {20, "0"},
                                        {30, "1"},
                                        {11, "2"},
                                        {21, "0"},
                                        {31, "1"},
                                        {12, "2"},
                                        {22, "2"},
                                        {32, "2"},
                                        {13, "0"},
                                        {23, "2"},
                                        {33, "2"}}),
                          three = pairs({{0, "3DFACE"},
                                         {8, "a"},
                                         {10, "2"},
                                         {20, "0"},
                                         {30, "1"},
                                         {11, "4"},
                                         {21, "0"},
                                         {31, "1"},
                                         {12, "4"},
                                         {22, "2"},
                                         {32, "2"},
                                         {13, "4"},
                                         {23, "2"},
                                         {33, "2"}});
        const DrawingOutcome o = read_dxf(
            drawing(quad + three +
                    pairs({{0, "LINE"}, {8, "a"}, {10, "0"}, {20, "0"}, {30, "0"}, {11, "1"}, {21, "1"}, {31, "0"}})));
        const SurfaceImport s = surface_of(o.drawing, {true});
        QVERIFY(s.ok);
        QCOMPARE(s.data.faces.size(), std::size_t{3});
        QCOMPARE(s.data.points.size(), std::size_t{6});  // shared corners are one point
        double area = 0;
        for (const auto& f : s.data.faces) {
            const GroundPoint &a = s.data.points[f[0]], &b = s.data.points[f[1]], &c = s.data.points[f[2]];
            area += std::abs((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x)) / 2;
        }
        QVERIFY(near(area, 4 + 2));
        QVERIFY(s.problems.size() == 1 && s.problems[0].message.starts_with("1 lines have no level"));
        QVERIFY(!surface_of(o.drawing, {false}).ok);
    }
};
QTEST_APPLESS_MAIN(TestDrawings)
#include "test_drawings.moc"
