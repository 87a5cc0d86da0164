// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <cmath>
#include <map>

#include "exchange/landxml.h"

using namespace culvert;

namespace {

constexpr const char* metric = "<Units><Metric linearUnit='meter'/></Units>";
std::string file(const std::string& surface, const std::string& head = metric) {
    return "<?xml version='1.0'?>\n<LandXML version='1.2'>\n" + head + "\n<Surfaces>\n<Surface name='ground'>\n" +
           surface + "\n</Surface>\n</Surfaces>\n</LandXML>";
}
std::string source(const std::string& data) { return file("<SourceData>" + data + "</SourceData>"); }
bool at(const GroundPoint& p, double x, double y, double z) {
    return std::abs(p.x - x) < 1e-9 && std::abs(p.y - y) < 1e-9 &&
           (std::abs(p.z - z) < 1e-9 || (std::isnan(p.z) && std::isnan(z)));
}

}  // namespace

/// Surfaces of LandXML files: what their survey holds, in which unit, and what is said of what cannot be.
class TestLandXml : public QObject {
    Q_OBJECT
  private slots:
    void survey_data_without_faces_are_points_lines_and_edges() {
        const LandXmlOutcome o = read_landxml(
            source("<DataPoints><PntList3D>0 0 1  0 50 2\n 40 50 3 40 0 4</PntList3D></DataPoints>"
                   "<Breaklines><Breakline><PntList3D>10 5 2 20 25 2.5 30 45 3</PntList3D></Breakline>"
                   "<Breakline><PntList2D>5 5 5 45</PntList2D></Breakline></Breaklines>"
                   "<Boundaries><Boundary bndType='outer'><PntList2D>0 0 0 50 40 50 40 0</PntList2D></Boundary>"
                   "<Boundary bndType='void'><PntList3D>10 10 0 10 20 0 20 20 0</PntList3D></Boundary></Boundaries>"));
        QCOMPARE(o.surfaces.size(), std::size_t{1});
        const SurfaceImport& s = o.surfaces[0];
        QVERIFY(s.ok && s.problems.empty());
        QCOMPARE(s.name, std::string("ground"));
        QCOMPARE(s.data.points.size(), std::size_t{4});
        QVERIFY(at(s.data.points[1], 50, 0, 2) && at(s.data.points[3], 0, 40, 4));  // northing stands first
        QCOMPARE(s.data.breaklines.size(), std::size_t{2});
        QCOMPARE(s.data.breaklines[0].size(), std::size_t{3});
        QVERIFY(at(s.data.breaklines[0][1], 25, 20, 2.5));
        // A line without levels takes them from the ground beneath.
        QVERIFY(at(s.data.breaklines[1][1], 45, 5, std::nan("")) || s.data.breaklines[1][1].z == GroundPoint{}.z);
        QCOMPARE(s.data.boundaries.size(), std::size_t{1});
        QCOMPARE(s.data.boundaries[0].size(), std::size_t{4});
        QVERIFY(s.data.boundaries[0][2].x == 50 && s.data.boundaries[0][2].y == 40);
        QCOMPARE(s.data.holes.size(), std::size_t{1});
        QVERIFY(s.data.holes[0][2].x == 20 && s.data.holes[0][2].y == 20);
    }
    void breaklines_alone_make_a_surface() {
        const LandXmlOutcome o = read_landxml(
            source("<Breaklines><Breakline><PntList3D>0 0 1 10 10 2</PntList3D></Breakline></Breaklines>"));
        QVERIFY(o.surfaces[0].ok);
    }
    void faces_already_keep_to_the_lines() {
        const LandXmlOutcome o = read_landxml(
            file("<SourceData><Breaklines><Breakline><PntList3D>0 0 1 10 10 2</PntList3D></Breakline></Breaklines>"
                 "<Boundaries><Boundary bndType='outer'><PntList2D>0 0 0 9 9 "
                 "9</PntList2D></Boundary></Boundaries></SourceData>"
                 "<Definition surfType='TIN'><Pnts><P id='a'>0 0 1</P><P id='b'>0 10 1</P><P id='c'>10 0 2</P><P "
                 "id='d'>10 10 2</P></Pnts>"
                 "<Faces><F>a b c</F><F>b d c</F></Faces></Definition>"));
        const SurfaceImport& s = o.surfaces[0];
        QVERIFY(s.ok && s.data.breaklines.empty() && s.data.boundaries.empty() && s.data.holes.empty());
        QCOMPARE(s.data.faces.size(), std::size_t{2});
        QCOMPARE(s.data.faces[1], (std::array<std::uint32_t, 3>{1, 3, 2}));
    }
    void every_unit_is_metres_in_the_end_data() {
        QTest::addColumn<QString>("units");
        QTest::addColumn<double>("metres");
        QTest::newRow("m") << metric << 1.0;
        QTest::newRow("mm") << "<Units><Metric linearUnit='millimeter'/></Units>" << 0.001;
        QTest::newRow("cm") << "<Units><Metric linearUnit='centimeter'/></Units>" << 0.01;
        QTest::newRow("km") << "<Units><Metric linearUnit='kilometer'/></Units>" << 1000.0;
        QTest::newRow("ft") << "<Units><Imperial linearUnit='foot'/></Units>" << 0.3048;
        QTest::newRow("ft without a word") << "<Units><Imperial/></Units>" << 0.3048;
        QTest::newRow("survey ft") << "<Units><Imperial linearUnit='USSurveyFoot'/></Units>" << 1200.0 / 3937.0;
    }
    void every_unit_is_metres_in_the_end() {
        QFETCH(QString, units);
        QFETCH(double, metres);
        const LandXmlOutcome o = read_landxml(
            file("<SourceData><DataPoints><PntList3D>1 2 3 4 5 6 7 8 10</PntList3D></DataPoints></SourceData>",
                 units.toStdString()));
        QVERIFY(o.problems.empty());
        QVERIFY(at(o.surfaces[0].data.points[2], 8 * metres, 7 * metres, 10 * metres));
    }
    void a_file_without_a_unit_is_read_in_metres_and_says_so() {
        const LandXmlOutcome o = read_landxml(
            file("<SourceData><DataPoints><PntList3D>1 2 3 4 5 6 7 8 10</PntList3D></DataPoints></SourceData>", ""));
        QVERIFY(o.problems.size() == 1 && o.problems[0].message.find("no unit") != std::string::npos);
        QVERIFY(at(o.surfaces[0].data.points[0], 2, 1, 3));
    }
    void coordinates_are_told_by_code_before_name() {
        const auto told = [](const char* system) {
            return read_landxml(file("", std::string(metric) + "<CoordinateSystem " + system + "/>")).coordinates;
        };
        QCOMPARE(told("name='Grid North' epsgCode='1234'"), std::string("EPSG:1234"));
        QCOMPARE(told("desc='old grid' horizontalCoordinateSystemName='New Grid' name='x'"), std::string("New Grid"));
        QCOMPARE(told("name='x' desc='old grid'"), std::string("old grid"));
        QCOMPARE(told("name='x'"), std::string("x"));
        QCOMPARE(told(""), std::string());
    }
    /// Each is left out and named with its line; the rest is read.
    void what_cannot_be_read_is_named_with_its_line() {
        const LandXmlOutcome o = read_landxml(
            file("<SourceData><Breaklines>\n<Breakline><PntList3D>0 0 1</PntList3D></Breakline>\n"
                 "<Breakline><PntList3D>0 0 1 10 10 2 5</PntList3D></Breakline></Breaklines>\n"
                 "<Boundaries><Boundary bndType='outer'><PntList2D>0 0 9 "
                 "9</PntList2D></Boundary></Boundaries></SourceData>\n"
                 "<Definition surfType='TIN'><Pnts>\n<P id='1'>0 0 1</P>\n<P id='2'>0 10 1</P>\n<P id='3'>10 0 2</P>\n"
                 "<P id='4'>10 0</P>\n<P id='5'>1e300 0 2</P></Pnts>\n<Faces>\n<F>1 2 3</F>\n<F>1 2</F>\n<F>1 2 3 "
                 "1</F>\n<F>1 2 8</F>\n"
                 "<F i='1'>2 1 3</F></Faces></Definition>"));
        const SurfaceImport& s = o.surfaces[0];
        QVERIFY(s.ok);
        QCOMPARE(s.data.points.size(), std::size_t{3});
        QCOMPARE(s.data.faces.size(), std::size_t{1});
        std::map<int, std::string> said;
        for (const ImportProblem& p : s.problems) {
            QVERIFY(!p.remedy.empty());
            said[p.line] = p.message;
        }
        QCOMPARE(s.problems.size(), std::size_t{8});
        QCOMPARE(s.left_out, std::size_t{8});
        const std::map<int, const char*> wanted{
            {7, "a breakline has fewer than two points"},  {8, "a list of points has 7 numbers: some point lacks one"},
            {9, "a boundary has fewer than three points"}, {14, "point 4 has 2 numbers, not three"},
            {15, "point 5 lies beyond any ground"},        {18, "a face has 2 corners, not three"},
            {19, "a face has 4 corners, not three"},       {20, "a face names point 8, which is not there"}};
        for (const auto& [line, words] : wanted) QCOMPARE(said[line], std::string(words));
        QVERIFY(read_landxml(file("<SourceData/>")).surfaces[0].problems.back().message.find("no points") !=
                std::string::npos);
        QVERIFY(read_landxml("<LandXML>" + std::string(metric) + "</LandXML>").problems[0].message.find("no surface") !=
                std::string::npos);
        QVERIFY(read_landxml("<html/>").problems[0].message.find("\"html\"") != std::string::npos);
    }
    void no_more_than_fifty_problems_are_listed() {
        std::string points;
        for (int i = 0; i < 80; ++i) points += "<P id='" + std::to_string(i) + "'>1</P>";
        const LandXmlOutcome o =
            read_landxml(file("<Definition surfType='TIN'><Pnts>" + points + "</Pnts></Definition>"));
        QCOMPARE(o.surfaces[0].left_out, std::size_t{80});
        QCOMPARE(o.surfaces[0].problems.size(), std::size_t{51});  // and that it has no points
    }
};
QTEST_APPLESS_MAIN(TestLandXml)
#include "test_landxml.moc"
