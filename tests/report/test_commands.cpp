// SPDX-License-Identifier: GPL-3.0-or-later
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QtTest>
#include <cmath>
#include <fstream>

#include "core/base/numbers.h"
#include "exchange/assets.h"
#include "exchange/project_file.h"

using namespace culvert;

/// The commands of ground, layout and comparison, as a script calls them.
class TestCommands : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    struct Ran {
        int code;
        QString out, err;
    };
    static Ran run(const QStringList& arguments) {
        QProcess p;
        p.start(QString(CULVERT_BIN) + "/calm-culvert-cli", arguments);
        p.waitForFinished(60000);
        return {p.exitCode(), QString::fromUtf8(p.readAllStandardOutput()),
                QString::fromUtf8(p.readAllStandardError())};
    }
    static QByteArray read(const QString& path) {
        QFile f(path);
        return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
    }
    QString file(const char* name) { return dir_.path() + "/" + name; }
    QString put(const char* name, const std::string& bytes) {
        std::ofstream(file(name).toStdString(), std::ios::binary) << bytes;
        return file(name);
    }
    /// A bowl 100 m square: z = ((x - 50)^2 + (y - 50)^2) / 500, with a lip cut at its east side.
    QString bowl() {
        std::string csv = "e,n,z\n";
        for (int x = 0; x <= 100; x += 2)
            for (int y = 0; y <= 100; y += 2)
                csv += fixed(x, 6) + "," + fixed(y, 6) + "," +
                       shortest(((x - 50.0) * (x - 50) + (y - 50.0) * (y - 50)) / 500) + "\n";
        return put("bowl.csv", csv);
    }

  private slots:
    void surface_tells_levels_and_low_points() {
        const Ran r = run({"surface", bowl(), "--at", "70,50", "--at", "500,500", "--low-points", "--json"});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        const QJsonObject s = QJsonDocument::fromJson(r.out.toUtf8()).array()[0].toObject();
        QCOMPARE(s["points"].toInt(), 51 * 51);
        QVERIFY(std::abs(s["area"].toDouble() - 10000) < 1e-6);
        QVERIFY(std::abs(s["at"].toArray()[0].toObject()["level"].toDouble() - 0.8) < 0.005);
        QVERIFY(s["at"].toArray()[1].toObject()["level"].isNull());
        const QJsonObject low = s["low_points"].toArray()[0].toObject();
        // It spills at the middle of a side, level 5: a paraboloid of depth h over a radius R holds pi R^2 h / 2.
        QVERIFY(std::abs(low["depth"].toDouble() - 5) < 0.01);
        QVERIFY(std::abs(low["volume"].toDouble() / (M_PI * 2500 * 5 / 2) - 1) < 0.01);
        QVERIFY(run({"surface", bowl()}).out.contains("2601 points"));
        QCOMPARE(run({"surface", bowl(), "--at", "here"}).code, 2);
        const Ran bad = run({"surface", put("bad.csv", "nothing\n")});
        QCOMPARE(bad.code, 3);
        QVERIFY(bad.err.contains("bad.csv"));
        QCOMPARE(run({"surface", file("not-there.csv")}).code, 3);
    }
    void import_keeps_the_surface_beside_the_project() {
        const Ran r = run({"import", "demo-us", bowl(), file("with.culvert"), "--role", "finished"});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        const ReadOutcome read = load_project(file("with.culvert").toStdString());
        QVERIFY(read.ok);
        QCOMPARE(read.project.surfaces.size(), std::size_t{1});
        QCOMPARE(read.project.surfaces.begin()->role, SurfaceRole::Finished);
        AssetStore assets;
        assets.set_project(file("with.culvert").toStdString());
        const auto bytes = assets.find(read.project.surfaces.begin()->asset);
        QVERIFY(bytes && read_surface(*bytes)->points.size() == 51 * 51);
        QCOMPARE(run({"import", "demo-us", bowl(), file("x.culvert"), "--as", "background"}).code, 2);
        QCOMPARE(run({"import", "demo-us", bowl(), "/proc/nowhere/x.culvert"}).code, 3);
    }
    void paths_are_found_and_written() {
        const Ran r = run({"paths", "demo", "--json", "--output", file("paths.culvert")});
        QVERIFY2(r.code == 0, qPrintable(r.err));
        const QJsonArray list = QJsonDocument::fromJson(r.out.toUtf8()).array();
        QVERIFY(list.size() >= 8);
        QMap<QString, QString> to;
        for (const auto& v : list) to[v.toObject()["from"].toString()] = v.toObject()["to"].toString();
        QCOMPARE(to["A1"], QString("A2"));
        QCOMPARE(to["B1"], QString("B2"));
        const ReadOutcome read = load_project(file("paths.culvert").toStdString());
        QVERIFY(read.ok && read.project.street_paths.size() > 8);
    }
    void profiles_are_written_as_drawings() {
        const QString one = file("one.svg"), all = file("all.svg"), dxf = file("run.dxf");
        QCOMPARE(run({"profile", "demo", "A3", "-o", one}).code, 0);
        QCOMPARE(run({"profile", "demo", "A3", "--all-events", "-o", all}).code, 0);
        QVERIFY(read(one).contains(">A1</text>") && !read(one).contains(">100 years</text>"));
        QVERIFY(read(all).contains(">100 years</text>"));
        // At half the scale across, half the paper but its margins of 42 mm.
        const auto wide = [&](const QString& path) {
            return QRegularExpression("width=\"([0-9.]+)mm\"").match(read(path)).captured(1).toDouble();
        };
        QCOMPARE(run({"profile", "demo", "A3", "--across", "1000", "-o", all}).code, 0);
        QVERIFY(std::abs((wide(one) - 42) - 2 * (wide(all) - 42)) < 1e-3);
        QCOMPARE(run({"profile", "demo", "A3", "-o", dxf}).code, 0);
        QVERIFY(read(dxf).contains("BARRELS") && read(dxf).endsWith("EOF\n"));
        QCOMPARE(run({"profile", "demo", "A3", "-o", file("RUN.DXF")}).code, 0);
        QVERIFY(read(file("RUN.DXF")).contains("BARRELS"));
        QCOMPARE(run({"profile", "demo", "A3", "-o", file("run.txt")}).code, 2);
        const QByteArray before = read(one);
        QCOMPARE(run({"profile", "demo", "nowhere", "-o", one}).code, 2);
        QCOMPARE(run({"profile", "demo", "A3", "--up", "0", "-o", one}).code, 2);
        QCOMPARE(read(one), before);
        QVERIFY(run({"profile", "demo", "A3", "-o", file("run.txt")}).err.contains(".svg or .dxf"));
        const Ran closed = run({"profile", "demo", "A3", "-o", "/no/such/folder/run.dxf"});
        QVERIFY(closed.code == 3 && closed.err.contains("folder"));
    }
    /// The plan by command: to a scale, in coordinates, refused where nothing can be made of what is asked.
    void plan_command() {
        const QString svg = file("plan.svg"), dxf = file("plan.dxf");
        QCOMPARE(run({"plan", "demo", "--contours", "-o", svg}).code, 0);
        QVERIFY(read(svg).contains("1 : 2000") && read(svg).contains("Water main W1"));
        QCOMPARE(run({"plan", "demo", "--scale", "1000", "-o", svg}).code, 0);
        QVERIFY(read(svg).contains("1 : 1000"));
        QCOMPARE(run({"plan", "demo", "-o", dxf}).code, 0);
        QVERIFY(read(dxf).contains("BARRELS-BEYOND"));
        QCOMPARE(run({"plan", "demo", "-o", file("plan.txt")}).code, 2);
        QCOMPARE(run({"plan", "demo", "--scale", "-3", "-o", svg}).code, 2);
        QCOMPARE(run({"profile", "demo", "A3", "--branches", "-o", svg}).code, 0);
        QVERIFY(read(svg).contains("C1 to A5"));
        // A structure without any way out has no run: said, whatever is asked with it.
        Project lone = new_project(UnitSystem::Si);
        Structure s;
        s.id = 1;
        s.name = "M";
        s.x = s.y = 0;
        lone.structures.insert(s);
        RainEvent e;
        e.id = 5;
        e.name = "10 years";
        e.return_period = 10;
        e.durations = {300, 3600};
        e.intensities = {4e-5, 1e-5};
        lone.events.insert(e);
        const QString alone = put("lone.culvert", write_project(lone));
        const Ran r = run({"profile", alone, "M", "--all-events", "-o", svg});
        QCOMPARE(r.code, 2);
        QVERIFY(r.err.contains("no run"));
    }
    /// What an outfall meets, from the project it leads to; ties read again.
    void tailwater_and_ties_commands() {
        const QString out = file("tail.culvert");
        Ran r = run({"tailwater", "demo", "A8", "demo", "--at", "A5", "-o", out});
        QCOMPARE(r.code, 0);
        QVERIFY(r.out.contains("6 levels taken"));
        QVERIFY(read(out).contains("A5, 10 years"));
        QCOMPARE(run({"tailwater", "demo", "A5", "demo", "--at", "A5"}).code, 3);  // no outfall
        QCOMPARE(run({"tailwater", "demo", "A8", "demo", "--at", "nowhere"}).code, 3);
        QCOMPARE(run({"tailwater", "demo", "A8", file("none.culvert")}).code, 3);
        QCOMPARE(run({"grade", "demo", "A1", "A3", "--pin", "A1 rim - 2", "-o", out}).code < 2, true);
        QVERIFY(read(out).contains("rim - 2 m"));
        r = run({"ties", out});
        QVERIFY2(r.out.contains("0 of 1 tied levels move"), qPrintable(r.out));
        QVERIFY(run({"ties", "demo"}).out.contains("0 of 0"));
    }
    void renumber_compare_and_criteria_speak_by_their_exit_codes() {
        QCOMPARE(run({"renumber", "demo", "--output", file("new.culvert")}).code, 0);
        QVERIFY(run({"renumber", file("new.culvert")}).out.isEmpty());  // done is done
        const Ran differs = run({"compare", "demo", file("new.culvert")});
        QCOMPARE(differs.code, run({"renumber", "demo"}).out.isEmpty() ? 0 : 1);
        QCOMPARE(run({"compare", "demo", "demo"}).code, 0);
        QCOMPARE(run({"criteria", "demo", "--output", file("set.criteria"), "--name", "Vale"}).code, 0);
        QCOMPARE(run({"criteria", "demo", file("set.criteria")}).code, 0);
        const Ran other = run({"criteria", "demo-us", file("set.criteria")});
        QCOMPARE(other.code, 1);
        QVERIFY(other.out.contains(", was "));
        QCOMPARE(run({"criteria", "demo-us", file("set.criteria"), "--output", file("us.culvert")}).code, 0);
        QCOMPARE(run({"criteria", file("us.culvert"), file("set.criteria")}).code, 0);
        QCOMPARE(run({"criteria", "demo"}).code, 2);
        QCOMPARE(run({"compare", "demo", file("not-there.culvert")}).code, 3);
    }
};

QTEST_GUILESS_MAIN(TestCommands)
#include "test_commands.moc"
