// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <filesystem>
#include <fstream>

#include "exchange/site_import.h"

using namespace culvert;
namespace fs = std::filesystem;

/// Files of the site, told apart by their ending and content; and what is offered of each.
class TestSiteFiles : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    std::string put(const std::string& name, const std::string& bytes) {
        const std::string path = dir_.path().toStdString() + "/" + name;
        std::ofstream(path, std::ios::binary) << bytes;
        return path;
    }
    static std::string surface(const std::string& name = "top") {
        return "<LandXML version='1.2'><Units><Metric linearUnit='meter'/></Units><CoordinateSystem name='Grid "
               "North'/><Surfaces><Surface name='" +
               name +
               "'><Definition surfType='TIN'><Pnts><P id='1'>0 0 1</P><P id='2'>0 10 1</P><P id='3'>10 0 2</P></Pnts>"
               "<Faces><F>1 2 3</F></Faces></Definition></Surface></Surfaces></LandXML>";
    }

  private slots:
    void surfaces_come_through_to_the_offer() {
        for (const char* name : {"a.xml", "b.landxml", "c.XML", "d.txt"}) {
            const SiteOffer o = look_at(put(name, surface()));
            QVERIFY2(o.ok && o.problems.empty(), name);
            QCOMPARE(o.form, SiteForm::LandXml);
            QCOMPARE(o.surfaces.size(), std::size_t{1});
            QCOMPARE(o.surfaces[0].name, std::string("top"));
            QCOMPARE(o.surfaces[0].data.points.size(), std::size_t{3});
            QCOMPARE(o.coordinates, std::string("Grid North"));
            QVERIFY(o.bytes.empty());  // what was read of it is held once
            const SurfaceOffer made = make_surface(o.surfaces[0], o.path);
            QVERIFY(made.ok && made.points == 3 && made.triangles == 1 && std::abs(made.area - 50) < 1e-9);
            QVERIFY(made.low == 1 && made.high == 2);
            QCOMPARE(made.coordinates, std::string("Grid North"));
            QVERIFY(made.source == name);
        }
        QVERIFY(!look_at(put("empty.xml", "<LandXML version='1.2'><Surfaces/></LandXML>")).ok);
    }
    void points_and_drawings_are_told_by_their_ending() {
        const SiteOffer points = look_at(put("survey.csv", "e,n,z\n0,0,1\n10,0,1\n0,10,2\n"));
        QVERIFY(points.ok && points.form == SiteForm::Points && points.name == "survey" && !points.bytes.empty());
        QCOMPARE(points.layout.columns,
                 (std::vector<PointColumn>{PointColumn::Easting, PointColumn::Northing, PointColumn::Level}));
        for (const char* name : {"a.txt", "a.xyz", "a.pts", "a.pnt", "a.dat"})
            QVERIFY2(look_at(put(name, "0 0 1\n10 0 1\n0 10 2\n5 5 2\n")).form == SiteForm::Points, name);
        QCOMPARE(look_at(put("a.txt", "0 0 1\n10 0 1\n0 10 2\n")).name, std::string("a"));
        QCOMPARE(look_at(put("a.b.txt", "0 0 1\n10 0 1\n0 10 2\n")).name, std::string("a.b"));
        const SiteOffer none = look_at(put("prose.txt", "once upon a time\nthere was a pipe\n"));
        QVERIFY(!none.ok && none.problems[0].message.find("no three columns") != std::string::npos);
        const std::string dxf =
            "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\na\n10\n0\n20\n0\n11\n3\n21\n4\n0\nENDSEC\n0\nEOF\n";
        for (const double unit : {0.0, 0.3048}) {
            const SiteOffer drawing = look_at(put("plan.dxf", dxf), unit);
            QVERIFY(drawing.ok && drawing.form == SiteForm::Drawing && drawing.drawing.lines.size() == 1);
            QVERIFY(std::abs(drawing.drawing.lines[0].points[1].x - 3 * (unit > 0 ? unit : 1)) < 1e-12);
        }
    }
    void pictures_take_any_of_their_world_files() {
        const std::string six = "0.5\n0.1\n0.2\n-0.5\n1000\n2000\n";
        for (const auto& [picture, world] : {std::pair{"a.png", "a.pgw"},
                                             {"b.png", "b.pngw"},
                                             {"c.jpg", "c.jgw"},
                                             {"d.jpeg", "d.wld"},
                                             {"e.bmp", "e.bpw"},
                                             {"f.svg", "f.sgw"}}) {
            const std::string path = put(picture, "x");
            QVERIFY2(!look_at(path).ok, picture);
            put(world, six);
            const SiteOffer o = look_at(path);
            QVERIFY2(o.ok && o.form == SiteForm::Picture, picture);
            QCOMPARE(o.placing, (std::vector<double>{0.5, 0.1, 0.2, -0.5, 1000, 2000}));
            const SiteOffer brief = o.without_content();
            QVERIFY(brief.ok && brief.form == o.form && brief.path == path && brief.name == o.name &&
                    brief.placing == o.placing && brief.bytes.empty());
        }
        put("g.png", "x");
        put("g.pgw", "0.5\n0.5\n0.5\n0.5\n1000\n2000\n");  // a picture without a width
        QVERIFY(look_at(dir_.path().toStdString() + "/g.png").problems[0].message.find("six numbers") !=
                std::string::npos);
        put("g.pgw", "0.5\n0\n0\n");
        QCOMPARE(look_at(dir_.path().toStdString() + "/g.png").problems[0].line, 4);
    }
    void what_is_no_file_of_the_site_is_refused_in_words() {
        const auto said = [](const SiteOffer& o) {
            return o.ok || o.problems.empty() ? std::string() : o.problems[0].message;
        };
        QCOMPARE(said(look_at(put("a.pdf", "x"))), std::string(".pdf is not a kind of file that is read here"));
        QCOMPARE(said(look_at(put("empty.csv", ""))), std::string("empty.csv is empty"));
        QVERIFY(said(look_at(dir_.path().toStdString())).find("this is a folder") != std::string::npos);
        QVERIFY(said(look_at(dir_.path().toStdString() + "/none.csv")).starts_with("none.csv: "));
    }
    void a_surface_that_makes_no_triangle_is_refused() {
        SurfaceImport line;
        line.ok = true;
        line.data.points = {{0, 0, 1}, {1, 1, 1}, {2, 2, 1}};
        const SurfaceOffer o = make_surface(line, "/x/line.csv");
        QVERIFY(!o.ok && o.problems.size() == 1 && o.problems[0].message == "the points make no triangle");
        QVERIFY(!make_surface(SurfaceImport{}, "x").ok);
        std::stop_source stop;
        stop.request_stop();
        line.data.points.push_back({5, 0, 1});
        QVERIFY(make_surface(line, "x").ok);
        QVERIFY(make_surface(line, "x", stop.get_token()).problems.empty());
    }
    void names_are_numbered_where_they_are_taken() {
        Project p = new_project(UnitSystem::Si);
        QCOMPARE(numbered_name(p, Kind::Surface, "survey"), std::string("survey 1"));
        for (const char* name : {"survey 1", "survey 2", "survey 4"}) {
            Surface s;
            s.id = p.surfaces.size() + 1;
            s.name = name;
            p.surfaces.insert(s);
        }
        QCOMPARE(numbered_name(p, Kind::Surface, "survey"), std::string("survey 3"));
    }
};
QTEST_APPLESS_MAIN(TestSiteFiles)
#include "test_site_files.moc"
