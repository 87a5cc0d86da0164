// SPDX-License-Identifier: GPL-3.0-or-later
#include <QDir>
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <set>

#include "exchange/buried_lines.h"
#include "exchange/project_file.h"

using namespace culvert;

/// Buried lines from CSV, GeoJSON and DXF, and files that are none.
class TestBuriedLines : public QObject {
    Q_OBJECT
    static BuriedImport csv(const std::string& text, UnitSystem system = UnitSystem::Si) {
        return read_buried_lines(text, BuriedForm::Csv, UnitSet(system));
    }

  private slots:
    void points_of_one_name_are_a_line() {
        const BuriedImport r = csv(
            "Line;Utility;Diameter;Easting;Northing;Level\nW1;Water main;200;10;20;30,5\nG1;gas;110;0;0;1\nW1;;;40;20;"
            "30,1\nG1;;;5;5;2\n");
        QVERIFY2(r.ok, r.error.c_str());
        QCOMPARE(r.lines.size(), std::size_t{2});
        QVERIFY(r.lines[0].name == "W1" && r.lines[0].kind == LineKind::Water);
        QVERIFY(std::abs(r.lines[0].size - 0.2) < 1e-12);
        QVERIFY(r.lines[0].line == (std::vector<Point>{{10, 20}, {40, 20}}));
        QVERIFY(r.lines[0].levels == (std::vector<double>{30.5, 30.1}));
        QVERIFY(r.lines[1].kind == LineKind::Gas && r.lines[1].levels == (std::vector<double>{1, 2}));
        QVERIFY(r.remarks.empty());
    }
    void numbers_are_in_the_units_of_the_project() {
        const BuriedImport r = csv("name,kind,size,x,y,z\nE,power,4,100,0,10\nE,power,4,200,0,10\n", UnitSystem::Us);
        QVERIFY(r.ok);
        QVERIFY(std::abs(r.lines[0].line[0].x - 30.48) < 1e-9 && std::abs(r.lines[0].levels[0] - 3.048) < 1e-9);
        QVERIFY(std::abs(r.lines[0].size - 4 * 0.0254) < 1e-12 && r.lines[0].kind == LineKind::Electricity);
        QVERIFY(std::abs(csv("name,size,x,y\nW,8in,0,0\nW,,1,1\n").lines[0].size - 8 * 0.0254) < 1e-12);
    }
    void what_lacks_is_said() {
        const BuriedImport r = csv("name,kind,x,y,z\nW,water,0,0,\nW,water,9,0,12\nX,water,nonsense,0,1\n");
        QVERIFY(r.ok && r.lines.size() == 1 && r.lines[0].levels.empty());
        QCOMPARE(r.lines[0].size, 0.15);
        const auto said = [&](const char* words) {
            return std::any_of(r.remarks.begin(), r.remarks.end(),
                               [&](const std::string& s) { return s.find(words) != std::string::npos; });
        };
        QVERIFY(said("line 2: W has no size") && said("line 4: easting or northing") && said("not all of its points"));
    }
    /// A row at fault and an empty one end nothing: what follows is read.
    void rows_after_a_bad_one_are_read() {
        for (const char* bad : {"", "X,water,100,nonsense,0,1", "X,water,100,5,0,deep", ",,,,,", "X"}) {
            const BuriedImport r =
                csv("name,kind,size,x,y,z\n" + std::string(bad) + "\nW,water,100,0,0,1\nW,water,100,9,0,2\n");
            QVERIFY2(r.ok, bad);
            QCOMPARE(r.lines.size(), std::size_t{1});
            QCOMPARE(r.lines[0].line.size(), std::size_t{2});
        }
    }
    void geojson_lines_with_levels() {
        const BuriedImport r = read_buried_lines(
            R"({"type":"FeatureCollection","features":[
                {"type":"Feature","properties":{"NAME":"S2","Kind":"sewer","SIZE":300,"LEVEL_OF":"Bottom"},
                 "geometry":{"type":"LineString","coordinates":[[0,0,5],[100,0,4.5]]}},
                {"type":"Feature","properties":{"type":"telecom duct","level":7,"diameter":"50mm"},
                 "geometry":{"type":"MultiLineString","coordinates":[[[500,0],[510,0]],[[520,0],[530,5]]]}},
                {"type":"Feature","properties":{"level_of":"Centre line"},
                 "geometry":{"type":"LineString","coordinates":[[0,600,5],[100,600,4.5]]}},
                {"type":"Feature","properties":{"level_of":"pipe center"},
                 "geometry":{"type":"LineString","coordinates":[[0,700,5],[100,700,4.5]]}}]})",
            BuriedForm::GeoJson, UnitSet(UnitSystem::Si));
        QVERIFY2(r.ok, r.error.c_str());
        QCOMPARE(r.lines.size(), std::size_t{5});
        QVERIFY(r.lines[1].level_of == LevelOf::Top && r.lines[2].level_of == LevelOf::Top);
        QVERIFY(r.lines[3].level_of == LevelOf::Centre && r.lines[4].level_of == LevelOf::Centre);
        Project p = new_project(UnitSystem::Si);
        apply(p, buried_edit(p, r.lines, "lines.geojson"));
        for (const BuriedLine& l : p.buried_lines)
            QCOMPARE(l.origin[*field_index(Kind::BuriedLine, "level_of")],
                     l.level_of == LevelOf::Top ? Origin::Default : Origin::Imported);
        QVERIFY(r.lines[0].kind == LineKind::Sewer && r.lines[0].level_of == LevelOf::Bottom);
        QVERIFY(r.lines[0].levels == (std::vector<double>{5, 4.5}) && std::abs(r.lines[0].size - 0.3) < 1e-12);
        QVERIFY(r.lines[2].kind == LineKind::Communication && r.lines[2].levels == (std::vector<double>{7, 7}));
        QVERIFY(std::abs(r.lines[2].size - 0.05) < 1e-12);
    }
    void drawings_give_lines_by_layer() {
        const std::string dxf =
            "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\nGAS-LP\n10\n0\n20\n0\n30\n12\n11\n50\n21\n0\n31\n11\n0\nLINE\n8\n"
            "misc\n10\n0\n20\n9\n30\n0\n11\n50\n21\n9\n31\n0\n0\nENDSEC\n0\nEOF\n";
        const BuriedImport r = read_buried_lines(dxf, BuriedForm::Dxf, UnitSet(UnitSystem::Si));
        QVERIFY2(r.ok, r.error.c_str());
        QCOMPARE(r.lines.size(), std::size_t{2});
        QVERIFY(r.lines[0].kind == LineKind::Gas && r.lines[0].levels == (std::vector<double>{12, 11}));
        QVERIFY(r.lines[1].kind == LineKind::Other && r.lines[1].levels.empty());
    }
    /// A drawing in millimetres and one in feet: read in metres once, and not once more.
    void drawings_are_in_their_own_unit() {
        for (const auto& [unit, metres] : {std::pair{"4", 0.001}, {"2", 0.3048}, {"6", 1.0}}) {
            const auto at = [m = metres](double v) { return std::to_string(v / m); };
            const std::string dxf = std::string("0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n") + unit +
                                    "\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\nLINE\n8\nwater\n10\n" + at(100) +
                                    "\n20\n" + at(20) + "\n30\n" + at(5) + "\n11\n" + at(140) + "\n21\n" + at(20) +
                                    "\n31\n" + at(4.5) + "\n0\nENDSEC\n0\nEOF\n";
            const BuriedImport r = read_buried_lines(dxf, BuriedForm::Dxf, UnitSet(UnitSystem::Us));
            QVERIFY2(r.ok, r.error.c_str());
            QVERIFY(std::abs(r.lines[0].line[0].x - 100) < 1e-4 && std::abs(r.lines[0].line[1].x - 140) < 1e-4);
            QVERIFY(std::abs(r.lines[0].levels[0] - 5) < 1e-4 && std::abs(r.lines[0].levels[1] - 4.5) < 1e-4);
        }
        const BuriedImport r = read_buried_lines(
            "0\nSECTION\n2\nENTITIES\n0\nLINE\n8\nw\n10\n0\n20\n0\n11\n5\n21\n0\n0\n"
            "ENDSEC\n0\nEOF\n",
            BuriedForm::Dxf, UnitSet(UnitSystem::Us));
        QVERIFY(r.ok && r.remarks.at(0).find("does not say its unit") != std::string::npos);
    }
    /// One Edit; names are free, origins say where they come from, the file holds them.
    void they_are_taken_as_one_edit() {
        Project p = new_project(UnitSystem::Si);
        const BuriedImport r = csv("name,kind,size,x,y,z\nW1,water,200,10,20,30.5\nW1,water,200,40,20,30.1\n");
        for (int i = 0; i < 2; ++i) apply(p, buried_edit(p, r.lines, "mains.csv"));
        QCOMPARE(p.buried_lines.size(), std::size_t{1});  // the same rows: their ids are theirs
        QCOMPARE(buried_edit(p, r.lines, "mains.csv").name, std::string("Import a buried line"));
        QCOMPARE(buried_edit(p, csv("name,x,y\nV,0,0\nV,5,5\nW,1,0\nW,5,8\n").lines, "two.csv").name,
                 std::string("Import 2 buried lines"));
        apply(p, buried_edit(p, csv("name,x,y\nW1,0,0\nW1,5,5\n").lines, "more.csv"));
        QCOMPARE(p.buried_lines.size(), std::size_t{2});
        std::set<std::string> names;
        for (const BuriedLine& l : p.buried_lines) names.insert(l.name);
        QCOMPARE(names.size(), std::size_t{2});
        const ReadOutcome back = read_project(write_project(p));
        QVERIFY(back.ok && back.problems.empty());
        QVERIFY(back.project == p);
    }
    /// Fields in capitals, heights of the points, a size with its unit; another file of the same in feet.
    void a_shapefile_gives_its_lines() {
        const std::string folder = std::string(CULVERT_SOURCE) + "/tests/exchange/readable/";
        for (const char* name : {"mains.shp", "mains-feet.shp"}) {
            const BuriedImport r = load_buried_lines(folder + name, UnitSet(UnitSystem::Si));
            QVERIFY2(r.ok, r.error.c_str());
            QCOMPARE(r.lines.size(), std::size_t{2});
            const BuriedLine &w = r.lines[0], &g = r.lines[1];
            QCOMPARE(w.name, std::string("W1"));
            QCOMPARE(w.kind, LineKind::Water);
            QVERIFY(std::abs(w.size - 0.15) < 1e-12 && std::abs(g.size - 0.1) < 1e-12);
            QCOMPARE(g.kind, LineKind::Gas);
            const Point corners[] = {{100, 200}, {150, 220}, {180, 260}};
            QCOMPARE(w.line.size(), std::size_t{3});
            for (std::size_t i = 0; i < 3; ++i) QVERIFY(distance(w.line[i], corners[i]) < 1e-6);
            QCOMPARE(w.levels, (std::vector<double>{18.5, 18.2, 18.0}));
            QCOMPARE(r.remarks.empty(), std::string(name) == "mains.shp");  // the other was converted
        }
        // A GeoPackage as a GIS writes it.
        const BuriedImport pack = load_buried_lines(folder + "lines.gpkg", UnitSet(UnitSystem::Si));
        QVERIFY2(pack.ok, pack.error.c_str());
        QCOMPARE(pack.lines.size(), std::size_t{3});
        for (const BuriedLine& l : pack.lines) {
            QVERIFY(l.name.starts_with("Main ") && l.kind == LineKind::Water);
            QCOMPARE(l.levels, (std::vector<double>{20.5, 19.0}));
            QVERIFY(std::abs(l.line[1].x - l.line[0].x - 230) < 1e-6 &&
                    std::abs(l.line[1].y - l.line[0].y + 10) < 1e-6);
        }
        // A table that does not say how it is written: what is no UTF-8 is Latin-1.
        const BuriedImport latin = load_buried_lines(folder + "latin.shp", UnitSet(UnitSystem::Si));
        QVERIFY2(latin.ok, latin.error.c_str());
        QCOMPARE(latin.lines[0].name, std::string("Wässer"));
        const std::string bad = std::string(CULVERT_SOURCE) + "/tests/exchange/malformed-lines/";
        for (const auto& [name, words] :
             {std::pair{"alone.shp", ".shx is not there"}, {"degrees.shp", "longitudes"}, {"cut.shp", "cut short"}}) {
            const BuriedImport r = load_buried_lines(bad + name, UnitSet(UnitSystem::Si));
            QVERIFY2(r.error.find(words) != std::string::npos, r.error.c_str());
        }
        // Of its three files the one that is not there is named.
        QTemporaryDir part;
        for (const char* ending : {".shp", ".shx"})
            QVERIFY(QFile::copy(QString::fromStdString(folder + "latin") + ending, part.filePath("part") + ending));
        const BuriedImport r = load_buried_lines(part.filePath("part.shp").toStdString(), UnitSet(UnitSystem::Si));
        QVERIFY2(r.error.find(".dbf is not there") != std::string::npos, r.error.c_str());
    }
    void malformed_files_say_what_is_wrong() {
        const QDir folder(QString(CULVERT_SOURCE) + "/tests/exchange/malformed-lines");
        const QStringList names = folder.entryList(QDir::Files);
        QVERIFY(names.size() >= 11);
        for (const QString& name : names) {
            if (name.endsWith(".dbf") || name.endsWith(".shx") || name.endsWith(".prj")) continue;  // beside a .shp
            const BuriedImport r = load_buried_lines(folder.filePath(name).toStdString(), UnitSet(UnitSystem::Si));
            QVERIFY2(!r.ok && !r.error.empty() && r.lines.empty(), qPrintable(name));
        }
        for (const char* path : {"/nowhere/at all.csv", "/dev/zero", "/tmp"})
            QVERIFY(!load_buried_lines(path, UnitSet(UnitSystem::Si)).ok);
        QVERIFY(load_buried_lines((std::string(CULVERT_SOURCE) + "/README.md"), UnitSet(UnitSystem::Si))
                    .error.find("CSV, GeoJSON, DXF, shapefile and GeoPackage") != std::string::npos);
    }
};
QTEST_GUILESS_MAIN(TestBuriedLines)
#include "test_buried_lines.moc"
