// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <random>

#include "exchange/cover_layer.h"
#include "exchange/site_import.h"

using namespace culvert;
namespace fs = std::filesystem;

namespace {

std::string folder(const char* name) { return std::string(CULVERT_SOURCE) + "/tests/exchange/" + name; }
std::string pairs(std::initializer_list<std::pair<int, std::string>> list) {
    std::string out;
    for (const auto& [code, value] : list) out += std::to_string(code) + "\n" + value + "\n";
    return out;
}
std::string entities(const std::string& body, const std::string& head = {}) {
    return head + pairs({{0, "SECTION"}, {2, "ENTITIES"}}) + body + pairs({{0, "ENDSEC"}, {0, "EOF"}});
}
/// A GeoTIFF of one strip of 32-bit floats, as plainly as the format allows.
std::string geotiff(int columns, int rows, double left, double top, double cell, const std::vector<float>& levels) {
    std::string out("II*\0", 4);
    const auto put = [&out](auto v) { out.append(reinterpret_cast<const char*>(&v), sizeof v); };
    const auto pixels = static_cast<std::uint32_t>(levels.size() * sizeof(float));
    constexpr std::uint32_t begin = 8;
    const std::uint32_t scale_at = begin + pixels, tie_at = scale_at + 24, directory = tie_at + 48;
    put(directory);
    out.append(reinterpret_cast<const char*>(levels.data()), pixels);
    for (const double v : {cell, cell, 0.0}) put(v);
    for (const double v : {0.0, 0.0, 0.0, left, top, 0.0}) put(v);
    const std::array<std::array<std::uint32_t, 4>, 12> tags{{{256, 4, 1, static_cast<std::uint32_t>(columns)},
                                                             {257, 4, 1, static_cast<std::uint32_t>(rows)},
                                                             {258, 3, 1, 32},
                                                             {259, 3, 1, 1},
                                                             {262, 3, 1, 1},
                                                             {273, 4, 1, begin},
                                                             {277, 3, 1, 1},
                                                             {278, 4, 1, static_cast<std::uint32_t>(rows)},
                                                             {279, 4, 1, pixels},
                                                             {339, 3, 1, 3},
                                                             {33550, 12, 3, scale_at},
                                                             {33922, 12, 6, tie_at}}};
    put(static_cast<std::uint16_t>(tags.size()));
    for (const auto& t : tags) {
        put(static_cast<std::uint16_t>(t[0]));
        put(static_cast<std::uint16_t>(t[1]));
        put(t[2]);
        put(t[3]);
    }
    put(std::uint32_t{0});
    return out;
}
/// All surfaces of a file, made.
std::vector<SurfaceOffer> made(const std::string& path) {
    const SiteOffer o = look_at(path);
    std::vector<SurfaceOffer> out;
    if (!o.ok) return out;
    if (o.form == SiteForm::Points) out.push_back(make_surface(read_points(o.bytes, o.layout), path));
    else if (o.form == SiteForm::Drawing)
        out.push_back(make_surface(surface_of(o.drawing, std::vector<bool>(o.drawing.layers.size(), true)), path));
    else
        for (const SurfaceImport& s : o.surfaces) out.push_back(make_surface(s, path));
    return out;
}

}  // namespace

/// Files of the ground and backgrounds: what is read, what is said of what cannot be.
class TestImport : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    std::string put(const std::string& name, const std::string& bytes) {
        const std::string path = dir_.path().toStdString() + "/" + name;
        std::ofstream(path, std::ios::binary) << bytes;
        return path;
    }

  private slots:
    void columns_are_guessed_by_head_or_by_place() {
        struct Case {
            const char* text;
            double x, y, z;
        };
        const Case cases[] = {
            {"P;East;North;Level\nA1;3500,25;5400,5;12,75\nA2;3501,25;5400,5;12,80\nA3;3500;5401;12,9\n", 3500.25,
             5400.5, 12.75},
            {"N,E,Z\n5400.5,3500.25,12.75\n5401,3500,13\n5402,3501,14\n", 3500.25, 5400.5, 12.75},
            {"3500.25 5400.5 12.75\n3501 5401 13\n3502 5402 12\n", 3500.25, 5400.5, 12.75},
            {"1\t3500.25\t5400.5\t12.75\tcode\n2\t3501\t5401\t13\tcode\n3\t3501\t5401.5\t13\tx\n", 3500.25, 5400.5,
             12.75},
            {"# a comment\n\nx,y,z\n3500.25,5400.5,12.75\n3501,5400,13\n3502,5402,12\n", 3500.25, 5400.5, 12.75},
            {"\"name\",\"easting (m)\",\"northing (m)\",\"level (m)\"\n\"a, "
             "b\",3500.25,5400.5,12.75\nc,3501,5401,12\nd,3502,5400,12\n",
             3500.25, 5400.5, 12.75},
            {"E;N;H\n3.500,25;5.400,50;12,75\n3.501,00;5.401,00;13,00\n3.502,00;5.400,00;13,00\n", 3500.25, 5400.5,
             12.75}};
        for (const Case& c : cases) {
            const SurfaceImport s = read_points(c.text, sniff_points(c.text));
            QVERIFY2(s.ok && s.data.points.size() == 3, c.text);
            QVERIFY2(std::abs(s.data.points[0].x - c.x) < 1e-9 && std::abs(s.data.points[0].y - c.y) < 1e-9 &&
                         std::abs(s.data.points[0].z - c.z) < 1e-9,
                     c.text);
        }
        // A decimal comma that could be a thousands comma is said.
        QVERIFY(!sniff_points("1,234;2,345;3,456\n1,235;2,346;3,457\n").remarks.empty());
    }
    void lines_of_one_name_are_breaklines() {
        const char* text = "e,n,z,line\n0,0,1,\n10,0,1,\n10,10,1,\n0,10,1,\n2,5,3,ridge\n5,5,3,ridge\n8,5,3,ridge\n";
        const SurfaceImport s = read_points(text, sniff_points(text));
        QVERIFY(s.ok);
        QCOMPARE(s.data.points.size(), std::size_t{4});
        QCOMPARE(s.data.breaklines.size(), std::size_t{1});
        QCOMPARE(s.data.breaklines[0].size(), std::size_t{3});
        const auto t = Terrain::build(s.data);
        for (double x = 2; x <= 8; x += 0.5) QVERIFY(std::abs(t->elevation({x, 5}) - 3) < 1e-9);
    }
    void a_bad_line_is_left_out_and_named() {
        const char* text = "e,n,z\n0,0,1\n10,zero,1\n10,10\n0,10,1\n5,5,2\n";
        const SurfaceImport s = read_points(text, sniff_points(text));
        QVERIFY(s.ok);
        QCOMPARE(s.data.points.size(), std::size_t{3});
        QCOMPARE(s.left_out, std::size_t{2});
        QCOMPARE(s.problems[0].line, 3);
        QVERIFY(s.problems[0].message.find("zero") != std::string::npos);
        QCOMPARE(s.problems[1].line, 4);
        QVERIFY(!s.problems[1].remedy.empty());
    }
    void feet_of_both_kinds_are_told_apart() {
        const char* text = "e,n,z\n1640416.667,1000000,100\n1640516.667,1000000,100\n1640416.667,1000100,101\n";
        PointsLayout l = sniff_points(text);
        l.unit = 0.3048;
        const double international = read_points(text, l).data.points[0].x;
        l.unit = 1200.0 / 3937.0;
        const double survey = read_points(text, l).data.points[0].x;
        QVERIFY(std::abs(survey - international - 1640416.667 * (1200.0 / 3937.0 - 0.3048)) < 1e-6);
        QVERIFY(survey - international > 0.9);  // a metre in half a million: not to be guessed
    }
    /// POLYLINE, VERTEX and SEQEND, as releases before the light polyline wrote them: open, closed with a half circle,
    /// and in a block.
    void polylines_of_older_drawings_hold_their_vertices() {
        const auto polyline = [](const char* layer, const char* flags,
                                 const std::vector<std::array<const char*, 4>>& vertices) {
            std::string out =
                pairs({{0, "POLYLINE"}, {8, layer}, {66, "1"}, {70, flags}, {10, "0"}, {20, "0"}, {30, "0"}});
            for (const auto& [x, y, z, bulge] : vertices)
                out += pairs({{0, "VERTEX"}, {8, layer}, {10, x}, {20, y}, {30, z}, {42, bulge}});
            return out + pairs({{0, "SEQEND"}, {8, layer}});
        };
        const DrawingOutcome read = read_dxf(entities(
            polyline("contour", "8", {{"1", "2", "7.5", "0"}, {"11", "2", "7.5", "0"}, {"11", "22", "8.5", "0"}}) +
                polyline("pond", "1", {{"0", "0", "0", "0"}, {"4", "0", "0", "1"}, {"4", "2", "0", "0"}}) +
                pairs({{0, "LINE"}, {8, "after"}, {10, "0"}, {20, "0"}, {11, "3"}, {21, "4"}}) +
                pairs({{0, "INSERT"}, {8, "walls"}, {2, "hut"}, {10, "100"}, {20, "0"}}),
            pairs({{0, "BLOCK"}, {2, "hut"}, {10, "0"}, {20, "0"}}) +
                polyline("walls", "0", {{"0", "0", "0", "0"}, {"5", "0", "0", "0"}}) + pairs({{0, "ENDBLK"}})));
        QVERIFY(read.ok);
        const auto& lines = read.drawing.lines;
        QCOMPARE(lines.size(), 4u);
        QCOMPARE(lines[0].points.size(), 3u);
        QVERIFY(lines[0].points[2].x == 11 && lines[0].points[2].y == 22 && lines[0].points[2].z == 8.5);
        QVERIFY(lines[1].closed);
        double east = 0;  // the half circle from (4, 0) to (4, 2) about (4, 1)
        for (const GroundPoint& p : lines[1].points) east = std::max(east, p.x);
        QVERIFY(std::abs(east - 5) < 0.01);
        QVERIFY(lines[1].points.back().x == 0 && lines[1].points.back().y == 0);
        QCOMPARE(lines[2].points.size(), 2u);
        QCOMPARE(lines[3].points.size(), 2u);
        QVERIFY(lines[3].points[0].x == 100 && lines[3].points[1].x == 105);
    }
    void drawings_hold_lines_arcs_texts_blocks_and_layers() {
        const std::string text =
            entities(pairs({{0, "LINE"}, {8, "walls"}, {10, "0"}, {20, "0"}, {11, "3"}, {21, "4"}}) +
                         pairs({{0, "ARC"}, {8, "curves"}, {10, "10"}, {20, "0"}, {40, "5"}, {50, "0"}, {51, "90"}}) +
                         pairs({{0, "CIRCLE"}, {8, "curves"}, {10, "0"}, {20, "0"}, {40, "2"}}) +
                         pairs({{0, "LWPOLYLINE"},
                                {8, "walls"},
                                {90, "3"},
                                {70, "1"},
                                {10, "0"},
                                {20, "0"},
                                {10, "6"},
                                {20, "0"},
                                {10, "6"},
                                {20, "8"}}) +
                         pairs({{0, "TEXT"}, {8, "names"}, {10, "1"}, {20, "2"}, {40, "2.5"}, {1, "MILL LANE"}}) +
                         pairs({{0, "POINT"}, {8, "spots"}, {10, "1"}, {20, "1"}, {30, "7.5"}}) +
                         pairs({{0, "3DFACE"},
                                {8, "tin"},
                                {10, "0"},
                                {20, "0"},
                                {30, "1"},
                                {11, "9"},
                                {21, "0"},
                                {31, "1"},
                                {12, "9"},
                                {22, "9"},
                                {32, "2"},
                                {13, "9"},
                                {23, "9"},
                                {33, "2"}}) +
                         pairs({{0, "INSERT"},
                                {8, "walls"},
                                {2, "box"},
                                {10, "100"},
                                {20, "50"},
                                {41, "2"},
                                {42, "2"},
                                {50, "90"}}),
                     pairs({{0, "SECTION"},
                            {2, "BLOCKS"},
                            {0, "BLOCK"},
                            {8, "0"},
                            {2, "box"},
                            {70, "0"},
                            {10, "0"},
                            {20, "0"},
                            {0, "LINE"},
                            {8, "0"},
                            {10, "0"},
                            {20, "0"},
                            {11, "1"},
                            {21, "0"},
                            {0, "ENDBLK"},
                            {0, "ENDSEC"}}));
        const DrawingOutcome read = read_dxf(text);
        QVERIFY(read.ok);
        const Drawing& d = read.drawing;
        QCOMPARE(d.texts.size(), std::size_t{1});
        QCOMPARE(d.texts[0].text, std::string("MILL LANE"));
        QCOMPARE(d.points.size(), std::size_t{1});
        QCOMPARE(d.points[0].at.z, 7.5);
        QCOMPARE(d.faces.size(), std::size_t{1});
        QCOMPARE(d.lines.size(), std::size_t{5});
        double arc = 0, circle = 0, triangle = 0, inserted = 0;
        for (const auto& l : d.lines) {
            std::vector<Point> flat;
            for (const GroundPoint& p : l.points) flat.push_back({p.x, p.y});
            if (l.closed) flat.push_back(flat.front());
            const double length_ = length(flat);
            const std::string& layer = d.layers[static_cast<std::size_t>(l.layer)];
            if (layer == "curves" && flat.front().x == 15) arc = length_;
            else if (layer == "curves") circle = length_;
            else if (l.closed) triangle = length_;
            else if (flat.front().x == 100) {
                inserted = length_;
                QVERIFY(std::abs(flat.back().x - 100) < 1e-9 &&
                        std::abs(flat.back().y - 52) < 1e-9);  // turned and doubled
            }
        }
        QVERIFY(std::abs(arc - 5 * M_PI / 2) < 0.01);
        QVERIFY(std::abs(circle - 4 * M_PI) < 0.02);
        QVERIFY(std::abs(triangle - 24) < 1e-9);
        QVERIFY(std::abs(inserted - 2) < 1e-9);
        // An ellipse lies about its centre: half axes 6 and 3, turned.
        const DrawingOutcome round = read_dxf(entities(pairs({{0, "ELLIPSE"},
                                                              {8, "a"},
                                                              {10, "40"},
                                                              {20, "70"},
                                                              {30, "2"},
                                                              {11, "3.6"},
                                                              {21, "4.8"},
                                                              {31, "0"},
                                                              {40, "0.5"},
                                                              {41, "0"},
                                                              {42, "6.283185307179586"}})),
                                              1);
        QVERIFY(round.ok && round.drawing.lines.size() == 1);
        double x = 0, y = 0, longest = 0;
        for (const GroundPoint& p : round.drawing.lines[0].points) {
            longest = std::max(longest, std::hypot(p.x - 40, p.y - 70));
            const double u = ((p.x - 40) * 0.6 + (p.y - 70) * 0.8) / 6, v = (-(p.x - 40) * 0.8 + (p.y - 70) * 0.6) / 3;
            QVERIFY(std::abs(u * u + v * v - 1) < 1e-9);
            x += p.x;
            y += p.y;
        }
        QVERIFY(std::abs(longest - 6) < 1e-9);
        // The unit of the file, or the one that is chosen.
        QVERIFY(!d.unit_known);
        const std::string feet = pairs({{0, "SECTION"}, {2, "HEADER"}, {9, "$INSUNITS"}, {70, "2"}, {0, "ENDSEC"}});
        const std::string line =
            pairs({{0, "LINE"}, {8, "a"}, {10, "0"}, {20, "20"}, {30, "5"}, {11, "10"}, {21, "30"}, {31, "7"}});
        for (const double unit : {0.3048, 1.0}) {
            const DrawingOutcome scaled =
                unit == 1 ? read_dxf(entities(line, feet), 1) : read_dxf(entities(line, feet));
            QVERIFY(scaled.drawing.unit_known);
            const GroundPoint &from = scaled.drawing.lines[0].points[0], &to = scaled.drawing.lines[0].points[1];
            for (const auto& [value, drawn] :
                 {std::pair{from.x, 0.0}, {from.y, 20.0}, {from.z, 5.0}, {to.x, 10.0}, {to.y, 30.0}, {to.z, 7.0}})
                QVERIFY(std::abs(value - drawn * unit) < 1e-12);
        }
        // Only chosen layers with levels make a surface.
        std::vector<bool> on(d.layers.size(), false);
        for (std::size_t i = 0; i < on.size(); ++i) on[i] = d.layers[i] == "tin";
        const SurfaceImport s = surface_of(d, on);
        QVERIFY(s.ok);
        QVERIFY(std::abs(Terrain::build(s.data)->elevation({6, 3}) - (1 + 3.0 / 9)) < 1e-9);
    }
    void landxml_is_read_northing_first_with_its_unit() {
        const std::string xml =
            "<?xml version='1.0'?><LandXML xmlns='http://www.landxml.org/schema/LandXML-1.2' "
            "version='1.2'><Units><Imperial linearUnit='USSurveyFoot'/></Units>"
            "<CoordinateSystem name='Grid North'/><Surfaces><Surface name='top'><Definition surfType='TIN'><Pnts><P "
            "id='1'>100 200 10</P><P id='2'>100 300 10</P>"
            "<P id='7'>200 200 20</P><P id='9'>200 300 20</P></Pnts><Faces><F>1 2 7</F><F i='1'>2 9 "
            "7</F></Faces></Definition></Surface></Surfaces></LandXML>";
        const LandXmlOutcome o = read_landxml(xml);
        QCOMPARE(o.surfaces.size(), std::size_t{1});
        QVERIFY(o.surfaces[0].ok);
        const double ft = 1200.0 / 3937.0;
        QVERIFY(std::abs(o.surfaces[0].data.points[0].x - 200 * ft) < 1e-9);
        QVERIFY(std::abs(o.surfaces[0].data.points[0].y - 100 * ft) < 1e-9);
        const auto t = Terrain::build(o.surfaces[0].data);
        QVERIFY(t);
        QVERIFY(std::abs(t->elevation({220 * ft, 130 * ft}) - 13 * ft) < 1e-9);
        QVERIFY(std::isnan(t->elevation({290 * ft, 190 * ft})));  // an invisible face is a hole
    }
    void grids_have_their_cells_levels_and_holes() {
        std::string asc = "ncols 12\nnrows 10\nxllcorner 1000\nyllcorner 500\ncellsize 4\nNODATA_value -9999\n";
        for (int r = 0; r < 10; ++r) {
            for (int c = 0; c < 12; ++c) {
                const bool hole = r >= 4 && r <= 5 && c >= 5 && c <= 6;
                asc += (hole ? std::string("-9999") : std::to_string(20 + 0.5 * c - 0.25 * r)) + (c < 11 ? " " : "\n");
            }
        }
        const auto surfaces = made(put("levels.asc", asc));
        QCOMPARE(surfaces.size(), std::size_t{1});
        QVERIFY(surfaces[0].ok);
        QCOMPARE(surfaces[0].points, std::size_t{116});
        const auto t = Terrain::build(*read_surface(surfaces[0].text));
        // The middle of cell (c, r) lies at x = 1000 + 4 (c + 1/2), y = 500 + 4 (10 - r - 1/2).
        for (const auto& [c, r] : {std::pair{0, 0}, {11, 9}, {3, 7}, {8, 2}})
            QVERIFY(std::abs(t->elevation({1000 + 4 * (c + 0.5), 500 + 4 * (9.5 - r)}) - (20 + 0.5 * c - 0.25 * r)) <
                    1e-4);
        QVERIFY(std::isnan(t->elevation({1000 + 4 * 6.0, 500 + 4 * 5.0})));  // in the hole
        // In feet, as the file beside it says: places and levels are metres afterwards.
        put("feet.prj",
            "PROJCS[\"in "
            "feet\",GEOGCS[\"round\",DATUM[\"round\",SPHEROID[\"round\",6378137,298.257]],PRIMEM[\"zero\",0],"
            "UNIT[\"degree\",0.0174532925199433]],PROJECTION[\"Transverse_Mercator\"],PARAMETER[\"false_easting\",0],"
            "PARAMETER[\"central_meridian\",9],UNIT[\"Foot\",0.3048]]");
        const auto feet = made(put("feet.asc", asc));
        const auto u = Terrain::build(*read_surface(feet[0].text));
        for (const auto& [c, r] : {std::pair{0, 0}, {11, 9}, {3, 7}, {8, 2}})
            QVERIFY(std::abs(u->elevation({0.3048 * (1002 + 4 * c), 0.3048 * (538 - 4 * r)}) -
                             0.3048 * (20 + 0.5 * c - 0.25 * r)) < 1e-4);
    }
    void a_geotiff_is_placed_by_its_tags() {
        std::vector<float> levels;
        for (int r = 0; r < 8; ++r)
            for (int c = 0; c < 9; ++c) levels.push_back(static_cast<float>(50 + 0.5 * c - 0.25 * r));
        const auto surfaces = made(put("levels.tif", geotiff(9, 8, 2000, 3000, 10, levels)));
        QCOMPARE(surfaces.size(), std::size_t{1});
        QVERIFY2(surfaces[0].ok, surfaces[0].problems.empty() ? "" : surfaces[0].problems[0].message.c_str());
        QCOMPARE(surfaces[0].points, std::size_t{72});
        const auto t = Terrain::build(*read_surface(surfaces[0].text));
        // The middle of cell (c, r): x = 2000 + 10 (c + 1/2), y = 3000 - 10 (r + 1/2).
        for (const auto& [c, r] : {std::pair{0, 0}, {8, 7}, {3, 5}})
            QVERIFY(std::abs(t->elevation({2000 + 10 * (c + 0.5), 3000 - 10 * (r + 0.5)}) - (50 + 0.5 * c - 0.25 * r)) <
                    1e-5);
        QVERIFY(std::abs(t->elevation({2040, 2960}) - (50 + 0.5 * 3.5 - 0.25 * 3.5)) < 1e-5);
    }
    void pictures_need_their_world_file() {
        const std::string png = put("plan.png", "not looked into here");
        QVERIFY(!look_at(png).ok);
        QVERIFY(look_at(png).problems[0].message.find("pgw") != std::string::npos);
        put("plan.pgw", "0.5\n0\n0\n-0.5\n1000\n2000\n");
        const SiteOffer o = look_at(png);
        QVERIFY(o.ok);
        QCOMPARE(o.placing, (std::vector<double>{0.5, 0, 0, -0.5, 1000, 2000}));
        put("plan.pgw", "0.5\n0\nzero\n");
        QVERIFY(!look_at(png).ok);
        put("plan.pgw", "0\n0\n0\n0\n1000\n2000\n");  // no size
        QVERIFY(!look_at(png).ok);
    }
    void malformed_files_are_refused_in_words_data() {
        QTest::addColumn<QString>("path");
        for (const char* kind : {"malformed-points", "malformed-dxf", "malformed-landxml", "malformed-grid"})
            for (const auto& file : fs::directory_iterator(folder(kind)))
                QTest::newRow((std::string(kind) + "/" + file.path().filename().string()).c_str())
                    << QString::fromStdString(file.path().string());
    }
    void malformed_files_are_refused_in_words() {
        QFETCH(QString, path);
        const SiteOffer o = look_at(path.toStdString());
        bool good = false, words = !o.problems.empty();
        for (const ImportProblem& p : o.problems) QVERIFY(!p.message.empty() && !p.remedy.empty());
        for (const SurfaceOffer& s : made(path.toStdString())) {
            good |= s.ok;
            words |= !s.problems.empty();
            for (const ImportProblem& p : s.problems) QVERIFY(!p.message.empty() && !p.remedy.empty());
        }
        QVERIFY(!good);
        QVERIFY(words);
    }
    void random_damage_never_crashes_an_importer() {
        std::mt19937 random(2);
        const std::string seeds[] = {
            "e,n,z\n0,0,1\n10,0,1\n10,10,1\n0,10,1\n",
            entities(pairs({{0, "LWPOLYLINE"}, {8, "w"}, {90, "2"}, {10, "0"}, {20, "0"}, {10, "6"}, {20, "0"}}) +
                     pairs({{0, "POLYLINE"}, {8, "w"}, {66, "1"}}) + pairs({{0, "VERTEX"}, {10, "3"}, {20, "1"}}) +
                     pairs({{0, "VERTEX"}, {10, "4"}, {20, "1"}}) + pairs({{0, "SEQEND"}}) +
                     pairs({{0, "INSERT"}, {8, "w"}, {2, "b"}, {10, "1"}, {20, "1"}})),
            "<LandXML version='1.2'><Surfaces><Surface name='t'><Definition surfType='TIN'><Pnts><P id='1'>0 0 1</P><P "
            "id='2'>0 9 1</P><P id='3'>9 0 2</P></Pnts><Faces><F>1 2 "
            "3</F></Faces></Definition></Surface></Surfaces></LandXML>"};
        for (int round = 0; round < 600; ++round) {
            std::string text = seeds[round % 3];
            for (int k = 0; k < 1 + round % 5; ++k) text[random() % text.size()] = static_cast<char>(random());
            if (round % 4 == 0) text.resize(random() % text.size());
            if (round % 3 == 0) read_points(text, sniff_points(text));
            else if (round % 3 == 1) read_dxf(text);
            else read_landxml(text);
        }
    }
    void what_is_taken_becomes_one_edit_and_knows_its_coordinates() {
        Project p = new_project(UnitSystem::Si);
        AssetStore assets;
        SurfaceImport in;
        in.ok = true;
        in.name = "survey";
        in.data.points = {{0, 0, 1}, {10, 0, 1}, {0, 10, 2}, {0, 10, 5}};
        in.data.coordinates = "EPSG:1";
        const SurfaceOffer offer = make_surface(in, "/some/where/survey.csv");
        QVERIFY(offer.ok && offer.points == 3 && offer.triangles == 1);
        QVERIFY(std::abs(offer.area - 50) < 1e-9);
        QVERIFY(!offer.remarks.empty());  // two points at one place
        const Edit first = surface_edit(p, assets, offer, SurfaceRole::Finished);
        apply(p, first);
        QCOMPARE(p.surfaces.size(), std::size_t{1});
        QCOMPARE(p.settings().coordinates, std::string("EPSG:1"));
        QCOMPARE(p.surfaces.begin()->source, std::string("survey.csv"));
        QVERIFY(assets.find(p.surfaces.begin()->asset));
        // Again, in another system: another name, and said.
        SurfaceOffer second = offer;
        second.coordinates = "EPSG:2";
        apply(p, surface_edit(p, assets, second, SurfaceRole::Existing));
        bool said = false;
        for (const Surface& s : p.surfaces) said |= s.note.find("EPSG:2") != std::string::npos && s.name == "survey 2";
        QVERIFY(said);
        revert(p, first);
        QCOMPARE(p.surfaces.size(), std::size_t{1});
        QCOMPARE(free_name(p, Kind::Surface, "other"), std::string("other"));
    }
    /// Each file of the folder is refused, or its features are left out, in words; and a good one is read.
    void land_cover_layers_are_read_or_refused_in_words() {
        const QDir folder(QString(CULVERT_SOURCE) + "/tests/exchange/malformed-covers");
        int files = 0;
        for (const QString& name : folder.entryList({"*.geojson"})) {
            const CoverLayer layer = load_cover_layer(folder.filePath(name).toStdString());
            QVERIFY2(!layer.ok && !layer.error.empty(), qPrintable(name));
            ++files;
        }
        QVERIFY(files >= 9);
        QVERIFY(!load_cover_layer("/nowhere.geojson").ok);
        const std::string alone = std::string(CULVERT_SOURCE) + "/tests/exchange/malformed-lines/alone.shp";
        QVERIFY(load_cover_layer(alone).error.find(".shx is not there") != std::string::npos);
        const CoverLayer good = read_cover_layer(R"({"type":"FeatureCollection","features":[
            {"type":"Feature","properties":{"COVER":"roof","C":0.9,"Cn":98},"geometry":{"type":"Polygon","coordinates":[[[0,0],[10,0],[10,10],[0,10],[0,0]],[[2,2],[4,2],[4,4],[2,4],[2,2]]]}},
            {"type":"Feature","properties":{"name":"woods"},"geometry":{"type":"MultiPolygon","coordinates":[[[[20,0],[30,0],[30,10]]],[[[40,0],[50,0],[50,10]]]]}},
            {"type":"Feature","properties":{},"geometry":{"type":"Polygon","coordinates":[[[0,0],[1,0],[1,1]]]}}]})");
        QVERIFY2(good.ok, good.error.c_str());
        QCOMPARE(good.polygons.size(), std::size_t{3});
        QCOMPARE(good.polygons[0].rings.size(), std::size_t{2});
        QVERIFY(good.polygons[0].kind == "roof" && good.polygons[0].curve_number == 98);
        QVERIFY(good.polygons[0].coefficient == 0.9 && good.polygons[2].kind == "woods" && good.remarks.size() == 1);
        // What is no polygon is named by its place and ends nothing; each polygon knows its own.
        const CoverLayer mixed = read_cover_layer(R"({"type":"FeatureCollection","features":[
            {"type":"Feature","properties":{"cover":"roof"},"geometry":{"type":"Point","coordinates":[0,0]}},
            {"type":"Feature","properties":{"cover":"roof"},"geometry":null},
            {"type":"Feature","properties":{"cover":"roof"},"geometry":{"type":"Polygon","coordinates":[[[0,0],[900,0],[900,900]]]}},
            {"type":"Feature","properties":{"cover":"lawn"},"geometry":{"type":"Polygon","coordinates":[[[0,0],[900,0],[900,900]]]}}]})");
        QCOMPARE(mixed.remarks,
                 (std::vector<std::string>{"feature 1: it is no polygon", "feature 2: it has no geometry"}));
        QCOMPARE(mixed.polygons.size(), std::size_t{2});
        QVERIFY(mixed.polygons[0].place == "feature 3" && mixed.polygons[1].place == "feature 4");
        for (const char* place : {"[900,\"b\"]", "[\"a\",5]", "[900]", "{}"}) {
            const CoverLayer odd = read_cover_layer(
                R"({"type":"FeatureCollection","features":[{"type":"Feature","properties":{"cover":"roof"},"geometry":{"type":"Polygon","coordinates":[[[0,0],)" +
                std::string(place) + R"(,[900,900]]]}}]})");
            QVERIFY2(odd.polygons.empty() && odd.error.find("no rings of places") != std::string::npos, place);
        }
        // A shapefile in feet, its fields in capitals: metres, and said.
        const CoverLayer shape = load_cover_layer(std::string(CULVERT_SOURCE) + "/tests/exchange/readable/covers.shp");
        QVERIFY2(shape.ok, shape.error.c_str());
        QVERIFY(shape.polygons.size() == 2 && shape.remarks.size() == 1);
        const CoverPolygon &roof = shape.polygons[0], &lawn = shape.polygons[1];
        QVERIFY(roof.kind == "roof" && roof.coefficient == 0.9 && roof.curve_number == 98 && roof.rings.size() == 2);
        QVERIFY(lawn.kind == "lawn" && lawn.coefficient == 0.2 && lawn.curve_number == 61 && lawn.rings.size() == 1);
        double east = 0, north = 0;
        for (const Point& q : lawn.rings[0]) east = std::max(east, q.x), north = std::max(north, q.y);
        QVERIFY(std::abs(east - 60) < 1e-6 && std::abs(north - 30) < 1e-6);
        QVERIFY(!load_cover_layer("/nowhere.shp").ok);
    }
    /// A bulge of tan(a/4): 1 is half a circle, and -0.5 an arc to the other side, each through its own points.
    void arcs_of_polylines_are_round() {
        for (const double bulge : {1.0, -1.0, 0.5, -0.2}) {
            const DrawingOutcome read = read_dxf(entities(pairs({{0, "LWPOLYLINE"},
                                                                 {8, "w"},
                                                                 {90, "2"},
                                                                 {10, "100"},
                                                                 {20, "50"},
                                                                 {42, std::to_string(bulge)},
                                                                 {10, "110"},
                                                                 {20, "50"}})));
            QVERIFY(read.ok && read.drawing.lines.size() == 1);
            const auto& line = read.drawing.lines[0].points;
            QVERIFY(line.size() > 4);
            // Height of the arc over its chord is the bulge times half of it; its radius by Pythagoras.
            const double h = std::abs(bulge) * 5, r = (25 + h * h) / (2 * h), cy = 50 + (bulge > 0 ? 1 : -1) * (r - h);
            double deepest = 0;
            for (const auto& q : line) {
                QVERIFY(std::abs(std::hypot(q.x - 105, q.y - cy) - r) < 1e-6);
                deepest = std::max(deepest, std::abs(q.y - 50));
            }
            QVERIFY(deepest <= h + 1e-6 && deepest > 0.98 * h);
            for (const auto& q : line)
                QVERIFY(bulge > 0 ? q.y <= 50 + 1e-6 : q.y >= 50 - 1e-6);  // to the right of the way
        }
    }
    void formatting_of_long_texts_goes_and_their_words_stay() {
        const DrawingOutcome read = read_dxf(entities(pairs(
            {{0, "MTEXT"}, {8, "t"}, {10, "1"}, {20, "2"}, {40, "2.5"}, {1, "{\\fArial|b0;Mill\\PLane} \\H2.5;12"}})));
        QVERIFY(read.ok && read.drawing.texts.size() == 1);
        QCOMPARE(read.drawing.texts[0].text, std::string("Mill Lane 12"));
    }
};

QTEST_GUILESS_MAIN(TestImport)
#include "test_import.moc"
