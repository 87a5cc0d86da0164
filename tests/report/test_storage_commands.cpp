// SPDX-License-Identifier: GPL-3.0-or-later
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QtTest>
#include <cmath>

#include "core/analysis/result_fields.h"
#include "core/analysis/solver.h"
#include "exchange/project_file.h"

using namespace culvert;

/// Hydrographs, ponds and releases as a script asks for them.
class TestStorageCommands : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    struct Ran {
        int code;
        QString out, err;
        [[nodiscard]] QJsonArray rows() const { return QJsonDocument::fromJson(out.toUtf8()).array(); }
    };
    static Ran run(const QStringList& arguments) {
        QProcess p;
        p.start(QString(CULVERT_BIN) + "/calm-culvert-cli", arguments);
        p.waitForFinished(60000);
        return {p.exitCode(), QString::fromUtf8(p.readAllStandardOutput()),
                QString::fromUtf8(p.readAllStandardError())};
    }
    const QString site_ = QString(CULVERT_EXAMPLES) + "/fern-hollow.culvert";
    static const EventResult& of(const Results& all, const Project& p, const char* event) {
        for (const auto& r : all)
            if (p.events.find(r->event.value)->name == event) return *r;
        return *all.front();
    }

  private slots:
    /// Numbers are in SI, whatever the project shows, and not rounded as shown.
    void json_is_in_si() {
        const Project p = load_project(site_.toStdString()).project;
        const Results all = solve(p);
        const EventResult& r = of(all, p, "100 years");
        const Ran ran = run({"ponds", site_, "--event", "100 years", "--json"});
        QCOMPARE(ran.code, 1);  // its release is beyond what is allowed
        QCOMPARE(ran.rows().size(), 1);
        const QJsonObject pond = ran.rows()[0].toObject();
        QCOMPARE(pond["peak out"].toDouble(), r.ponds[0].peak_outflow);
        QCOMPARE(pond["level"].toDouble(), r.ponds[0].level);
        QVERIFY(std::abs(pond["peak out"].toDouble() - 0.458) < 0.001);
        QVERIFY(std::abs(pond["allowed"].toDouble() - 0.44) < 1e-9);
        const Ran areas = run({"catchments", site_, "--event", "100 years", "--json"});
        QVERIFY2(areas.code == 0, qPrintable(areas.err));
        QCOMPARE(static_cast<std::size_t>(areas.rows().size()), r.runoffs.size());
        double volume = 0;
        for (const QJsonValue& v : areas.rows()) {
            const QJsonObject a = v.toObject();
            QVERIFY(a["rain"].toDouble() > 0.02 && a["rain"].toDouble() < 0.5);
            QVERIFY(std::abs(a["rain"].toDouble() - a["infiltrated"].toDouble() - a["held"].toDouble() -
                             a["runoff"].toDouble()) < 1e-9);
            volume += a["volume"].toDouble();
        }
        QVERIFY(std::abs(volume - r.balance.runoff) < 1e-6 * volume);
    }
    void times_read_as_on_a_clock() {
        const QJsonObject pond = run({"ponds", site_, "--event", "10 years", "--json"}).rows()[0].toObject();
        const Ran csv = run({"ponds", site_, "--event", "10 years", "--csv"});
        const QStringList heads = csv.out.section('\n', 0, 0).split(','),
                          cells = csv.out.section('\n', 1, 1).split(',');
        for (const char* key : {"at", "drawdown"}) {
            const qsizetype c = heads.indexOf(QString(key) + " (h:min)");
            QVERIFY2(c > 0, qPrintable(csv.out));
            const QStringList parts = cells[c].split(':');
            QVERIFY(parts.size() >= 2 && parts[1].size() == 2);
            double seconds = parts[0].toDouble() * 3600 + parts[1].toDouble() * 60;
            if (parts.size() > 2) seconds += parts[2].toDouble();
            QVERIFY(std::abs(seconds - pond[key].toDouble()) <= 0.5);
        }
        // A reviewer reads the ways out by their names.
        const Ran report = run({"storage-report", site_, "P1"});
        const qsizetype routing = report.out.indexOf("Routing, 10 years");
        QVERIFY(routing > 0);
        const QString head = report.out.mid(routing).section('\n', 2, 2);
        QVERIFY2(head.contains("low opening") && head.contains("spillway") && !head.contains("way 1"),
                 qPrintable(head));
    }
    void one_catchment_through_time() {
        const Project p = load_project(site_.toStdString()).project;
        const QString name = QString::fromStdString(p.catchments.begin()->name);
        const Ran ran = run({"catchments", site_, "--series", name, "--event", "100 years", "--json"});
        QVERIFY2(ran.code == 0 && ran.rows().size() > 50, qPrintable(ran.err));
        double fell = 0, ran_off = 0;
        for (const QJsonValue& v : ran.rows()) {
            const QJsonObject row = v.toObject();
            QVERIFY(std::abs(row["rain"].toDouble() - row["lost"].toDouble() - row["runs off"].toDouble()) < 1e-12);
            fell += row["rain"].toDouble();
            ran_off += row["runs off"].toDouble();
        }
        const Results all = solve(p);
        const RunoffSummary& whole =
            of(all, p, "100 years")
                .runoffs[static_cast<std::size_t>(result_index(of(all, p, "100 years"), ResultOn::Area,
                                                               {Kind::Catchment, p.catchments.begin()->id}))];
        QVERIFY(std::abs(ran_off / fell - whole.runoff / whole.rain) < 1e-6);
        QCOMPARE(run({"catchments", site_, "--series", "nowhere"}).code, 2);
    }
    void soakage_stands_in_the_rating() {
        Project p = load_project(site_.toStdString()).project;
        QVERIFY(!run({"rating", site_, "P1"}).out.contains("into the ground"));
        p.ponds.change(p.ponds.begin()->id)->soakage = 2e-5;
        const QString path = dir_.filePath("soaks.culvert");
        save_project(p, path.toStdString());
        const Ran rating = run({"rating", path, "P1", "--json"});
        QVERIFY2(rating.code == 0 && rating.rows().size() > 5, qPrintable(rating.err));
        for (const QJsonValue& v : rating.rows()) {
            const QJsonObject row = v.toObject();
            QVERIFY(std::abs(row["into the ground"].toDouble() - 2e-5 * row["area"].toDouble()) < 1e-12);
        }
    }
    void tables_are_those_of_the_project() {
        const Ran areas = run({"catchments", site_, "--event", "10 years"});
        QVERIFY2(areas.code == 0, qPrintable(areas.err));
        QVERIFY(areas.out.contains("mm") && areas.out.contains("infiltrated") && areas.out.contains("difference"));
        const Ran csv = run({"catchments", site_, "--event", "10 years", "--csv"});
        QVERIFY(csv.code == 0 && csv.out.startsWith("catchment,"));
        const Ran flow = run({"hydrographs", site_, "P1", "--event", "10 years", "--csv"});
        QVERIFY2(flow.code == 0 && flow.out.contains("inflow") && flow.out.count('\n') > 100, qPrintable(flow.err));
        // The rain of the table adds up to that of the event.
        const QStringList heads = flow.out.section('\n', 0, 0).split(',');
        const qsizetype rain = heads.indexOf("rain (mm/h)"), time = heads.indexOf("time (h:min)");
        QVERIFY2(rain > 0 && time == 0, qPrintable(heads.join(' ')));
        double fallen = 0, before = 0;
        for (const QString& line : flow.out.split('\n').mid(1)) {
            const QStringList cells = line.split(',');
            if (cells.size() != heads.size()) continue;
            const double hours = cells[0].section(':', 0, 0).toDouble() + cells[0].section(':', 1, 1).toDouble() / 60;
            fallen += cells[rain].toDouble() * (hours - before);
            before = hours;
        }
        const Project p = load_project(site_.toStdString()).project;
        const Results all = solve(p);
        const double depth = 1000 * of(all, p, "10 years").runoffs[0].rain;
        QVERIFY2(std::abs(fallen - depth) < 1, qPrintable(QString("%1 of %2").arg(fallen).arg(depth)));
        const Ran rating = run({"rating", site_, "P1", "--rows", "9", "--json"});
        QVERIFY2(rating.code == 0, qPrintable(rating.err));
        QCOMPARE(rating.rows().size(), 9);
        double last = -1;
        for (const QJsonValue& v : rating.rows()) {
            QVERIFY(v.toObject()["level"].toDouble() > last);
            last = v.toObject()["level"].toDouble();
        }
        const Ran volume = run({"volume", site_, "P1"});
        QVERIFY2(volume.code == 0 && volume.out.contains("100 years"), qPrintable(volume.err));
        const Ran blocked = run({"blocked", site_, "P1"});
        QVERIFY2(!blocked.out.isEmpty(), qPrintable(blocked.err));
        const Ran report = run({"storage-report", site_, "P1"});
        QVERIFY2(report.code == 0 && report.out.size() > 2000, qPrintable(report.err));
    }
    /// The proposal is written, and what is written keeps the releases.
    void outlets_are_sized_into_a_file() {
        const QString out = dir_.filePath("sized.culvert");
        const Ran sized = run({"outlets", site_, "P1", "--output", out});
        QVERIFY2(sized.code == 0, qPrintable(sized.err + sized.out));
        QCOMPARE(run({"ponds", out}).code, 0);
        const Ran compare = run({"before-after", site_, out, "--json"});
        QVERIFY2(compare.out.contains("100 years"), qPrintable(compare.err));
    }
    void ways_and_reach() {
        const Ran ways = run({"ways", site_, "P1", "--event", "100 years", "--json"});
        QVERIFY2(ways.code == 0, qPrintable(ways.err));
        QStringList in, out;
        double leaves = 0;
        for (const QJsonValue& v : ways.rows()) {
            const QJsonObject w = v.toObject();
            (w["direction"].toString() == "in" ? in : out) << w["way"].toString();
            if (w["direction"].toString() == "out") leaves += w["flow"].toDouble();
        }
        QCOMPARE(in.size(), 2);
        QVERIFY(out.contains("outlet low opening") && out.contains("outlet spillway"));
        QVERIFY(std::abs(leaves - 0.458) < 0.002);
        const auto names = [](const Ran& r) {
            QStringList list;
            for (const QJsonValue& v : r.rows()) list << v.toObject()["structure"].toString();
            return list;
        };
        QCOMPARE(names(run({"ways", site_, "P1", "--below", "--json"})), QStringList({"C1", "C2", "Fern Brook", "P1"}));
        const QStringList above = names(run({"ways", site_, "C1", "--above", "--json"}));
        QVERIFY(above.contains("A1") && above.contains("B3") && above.contains("P1") && !above.contains("C2"));
    }
    void a_ditch_by_command() {
        const QString demo = QString(CULVERT_EXAMPLES) + "/alder-quay.culvert";
        const Ran unknown = run({"ditch", demo, "No Such Street"});
        QVERIFY(unknown.code == 2 && unknown.err.contains("Mill Street"));
        const Ran joined = run({"ditch", demo, "Ropewalk"});
        QVERIFY(joined.code == 2 && joined.err.contains("joined already"));
        QCOMPARE(run({"ditch", demo, "Ropewalk", "--depth", "90"}).code, 2);
    }
    void bad_use_is_told() {
        QCOMPARE(run({"hydrographs", site_, "nowhere"}).code, 2);
        QCOMPARE(run({"ponds", site_, "--event", "7 years"}).code, 2);
        QCOMPARE(run({"rating", site_, "A1"}).code, 2);
        const Ran rational = run({"catchments", QString(CULVERT_EXAMPLES) + "/alder-quay.culvert"});
        QVERIFY(rational.code != 0 && !rational.err.isEmpty());
        QCOMPARE(run({"ponds", dir_.filePath("none.culvert")}).code, 3);
    }
};

QTEST_GUILESS_MAIN(TestStorageCommands)
#include "test_storage_commands.moc"
