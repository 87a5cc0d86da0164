// SPDX-License-Identifier: GPL-3.0-or-later
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QtTest>
#include <cmath>
#include <fstream>

#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

#include "core/analysis/solver.h"
#include "core/design/design.h"
#include "core/hydraulics/uniform_flow.h"
#include "exchange/assets.h"
#include "exchange/content_hash.h"
#include "exchange/dxf_read.h"
#include "exchange/file_review.h"
#include "exchange/site_import.h"
#include "support/seen.h"

using namespace culvert;

namespace {
const QString program = QString(CULVERT_BIN) + "/calm-culvert-cli";
}

/// Files that once crashed the program, kept it for ever, or got a wrong number from it; and places that a command is
/// given as its output. Each with what is right.
class TestFound : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    struct Run {
        int code = -1;
        QByteArray out, err;
    };
    static Run run(const QStringList& arguments, const QString& output = {}) {
        QProcess p;
        p.setProgram(program);
        p.setArguments(arguments);
        if (!output.isEmpty()) p.setStandardOutputFile(output);
        p.start();
        Run r;
        if (!p.waitForFinished(30000)) {
            p.kill();
            p.waitForFinished();
            r.err = "it never ends";
            return r;
        }
        r.code = p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -2;
        r.out = p.readAllStandardOutput();
        r.err = p.readAllStandardError();
        return r;
    }
    static QString found(const char* name) { return QString(CULVERT_SOURCE) + "/tests/found/" + name; }
    static Project project(const char* name) { return load_project(found(name).toStdString()).project; }
    struct Solved {
        Project project;
        std::shared_ptr<const EventResult> result;
        [[nodiscard]] culvert::testing::SeenLevel at(const char* name) const {
            return culvert::testing::seen(*result, node(name)).level;
        }
        [[nodiscard]] Link pipe(const char* name) const {
            return culvert::testing::pipe_of(*result->network, node(name));
        }
        [[nodiscard]] int node(const char* name) const { return result->network->node_of(find_element(project, name)); }
    };
    static Solved solved(const char* name) {
        Solved s{project(name), {}};
        s.result = solve(s.project).front();
        return s;
    }

  private slots:
    void files_that_crashed_or_never_ended_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<int>("code");
        QTest::addColumn<QString>("says");
        const auto row = [](const char* file, QStringList before, QStringList after, int code, const char* says) {
            QTest::newRow(file) << before + QStringList{found(file)} + after << code << says;
        };
        row("breaklines-overlap-crash.csv", {"surface"}, {}, 0, "triangles");
        row("lines-overlap-crash.dxf", {"surface"}, {}, 0, "triangles");
        row("lines-overlap-hang.dxf", {"surface"}, {}, 3, "make no triangle");
        row("lines-heaped-hang.dxf", {"surface"}, {}, 3, "heaps");
        row("line-1024-hang.dxf", {"surface"}, {}, 0, "1024 characters");
        row("blocks-empty-hang.dxf", {"surface"}, {}, 0, "3 points");
        row("block-fat-memory.dxf", {"surface"}, {}, 3, "more than 3000000 points");
        row("points-1e308-abort.csv", {"surface"}, {}, 3, "easting is 1e+308 m");
        row("size-no-events-all-crash.culvert", {"size"}, {"--event", "all"}, 2, "one event");
        row("outline-1e300-crash.culvert", {"check"}, {}, 3, "\"outline\": point 2 is 1e+300 m");
        row("coordinates-1e308-window-hang.culvert", {"check"}, {}, 3, "structure A4, field \"x\": is 1e+308 m");
        row("variant-choice-99-crash.culvert", {"check"}, {}, 1, "choice number 99");
        row("uplift-negative-passes.culvert", {"check"}, {}, 1, "Rain uplift is -200");
        row("easting-missing-silent.culvert", {"check"}, {}, 1, "Easting of structure");
    }
    void files_that_crashed_or_never_ended() {
        QFETCH(QStringList, arguments);
        QFETCH(int, code);
        QFETCH(QString, says);
        const Run r = run(arguments);
        QVERIFY2(r.code == code, (QByteArray::number(r.code) + ": " + r.err.left(400)).constData());
        QVERIFY2((r.out + r.err).contains(says.toUtf8()), (r.out + r.err).left(1500).constData());
    }
    void a_survey_turned_is_a_surface() {
        QProcess unzip;
        unzip.setStandardOutputFile(dir_.path() + "/turned.csv");
        unzip.start("gunzip", {"-c", found("survey-turned-crash.csv.gz")});
        QVERIFY(unzip.waitForFinished());
        const Run r = run({"surface", dir_.path() + "/turned.csv"});
        QCOMPARE(r.code, 0);
        QVERIFY(r.out.contains("triangles"));
    }
    void a_surface_that_ran_for_ever_ends() {
        std::ifstream in(found("surface-asset-hang.txt").toStdString());
        const std::string text{std::istreambuf_iterator<char>(in), {}};
        AssetStore store;
        Project p = new_project(UnitSystem::Si);
        Surface s;
        s.id = 1;
        s.name = "ground";
        s.asset = store.add(text);
        p.surfaces.insert(s);
        const QString file = dir_.path() + "/asset.culvert";
        QVERIFY(store.save(p, file.toStdString()).empty());
        QVERIFY(save_project(p, file.toStdString()).ok);
        QCOMPARE(run({"paths", file}).code, 0);
    }
    void polylines_of_older_drawings_are_not_lost() {
        const QString out = dir_.path() + "/older.culvert";
        QCOMPARE(run({"import", "demo", found("older-polylines-lost.dxf"), out, "--as", "background"}).code, 0);
        const ReadOutcome read = load_project(out.toStdString());
        QVERIFY(read.ok);
        const auto held = std::find_if(read.project.backgrounds.begin(), read.project.backgrounds.end(),
                                       [](const Background& b) { return b.name == "older-polylines-lost"; });
        QVERIFY(held != read.project.backgrounds.end());
        AssetStore store;
        store.set_project(out.toStdString());
        const AssetStore::Bytes bytes = store.find(held->asset);
        QVERIFY(bytes);
        const DrawingOutcome drawing = read_dxf(*bytes, 1);
        QCOMPARE(drawing.drawing.lines.size(), 1u);
        QCOMPARE(drawing.drawing.lines[0].points.back().x, 131.0);
    }
    void thirty_kilobytes_take_no_gigabytes() {
        for (const char* as : {"background", "surface"}) {
            const Run r =
                run({"import", "demo", found("block-fat-memory.dxf"), dir_.path() + "/out.culvert", "--as", as});
            QCOMPARE(r.code, 3);
        }
        rusage use{};
        getrusage(RUSAGE_CHILDREN, &use);
        QVERIFY2(use.ru_maxrss < 400 * 1024, qPrintable(QString("%1 kB").arg(use.ru_maxrss)));
    }

    void levels_are_right() {
        // Expected values: independent integration and momentum balances, as given with the files.
        QVERIFY(std::abs(solved("adverse-box.culvert").result->links[0].level.head_up -
                         solved("adverse-box.culvert").at("A–O").head_up) < 1e-12);
        const auto hgl_up = [](const Solved& s, const char* pipe) {
            return s.pipe(pipe).invert_up + s.at(pipe).head_up;
        };
        QVERIFY(std::abs(hgl_up(solved("adverse-box.culvert"), "A–O") - 100.0253) < 1e-4);
        const Solved rim = solved("joint-above-rim.culvert");
        QVERIFY(std::abs(rim.at("J").level - 101.400) < 1e-9);
        QVERIFY(rim.at("J").held);
        QVERIFY(std::abs(solved("jump-level-pipe.culvert").at("J–O").jump - 6.779) < 2e-3);
        const Solved lost = solved("jump-lost.culvert");
        QVERIFY(std::abs(lost.at("J").level - 100.444) < 1e-3);
        QVERIFY(std::abs(lost.at("J–O").jump - 6.11) < 0.01);
        const Solved misplaced = solved("jump-misplaced.culvert");
        QVERIFY(std::abs(misplaced.at("J–O").jump - 34.56) < 0.01);
        const Solved steep = solved("steep-above-capacity.culvert");
        QVERIFY(std::abs(steep.at("A").level - 103.478) < 1e-3);
        QVERIFY(std::abs(hgl_up(steep, "A–O") - 102.6526) < 1e-3);
        const Link pipe = steep.pipe("A–O");
        QVERIFY(std::abs(pipe.invert_down + steep.at("A–O").head_down - 100.588) < 1e-3);
    }
    void a_loss_at_a_joint_is_one_loss() {
        // Fast water through a joint with K 0.5: its energy is that at the end of the pipe above, and behind it the
        // loss with the velocity there is gone.
        const Solved s = solved("joint-loss-fast.culvert");
        const culvert::testing::SeenLevel &up = s.at("U–J"), &down = s.at("J–O");
        const Link pipe = s.pipe("U–J");
        const Link next = s.pipe("J–O");
        const double arriving = pipe.invert_down + up.head_down + up.velocity_down * up.velocity_down / (2 * gravity);
        QVERIFY(std::abs(s.at("J").energy - arriving) < 1e-9);
        QVERIFY(std::abs(arriving - 101.319) < 1e-3);
        const double behind = next.invert_up + down.head_up + down.velocity_up * down.velocity_up / (2 * gravity);
        QVERIFY(std::abs(arriving - behind - 0.5 * down.velocity_up * down.velocity_up / (2 * gravity)) < 1e-9);
    }
    void sizing_allows_what_checking_allows() {
        const Project p = project("size-at-capacity.culvert");
        const SizeProposal proposal = propose_sizes(p, {design_event(p)->id});
        QCOMPARE(proposal.rows.size(), std::size_t{1});
        QCOMPARE(proposal.rows[0].after, 0.6);
        QCOMPARE(proposal.beyond_after, 0);
    }

    void outputs_are_written_or_said_not_to_be() {
        // A full disk behind the output.
        for (const QStringList& a : {QStringList{"solve", "demo"}, {"check", "demo", "--json"}, {"validate"}}) {
            const Run r = run(a, "/dev/full");
            QCOMPARE(r.code, 3);
            QVERIFY(r.err.contains("could not be written"));
        }
        // What is no regular file is left alone; a link is followed.
        const QString fifo = dir_.path() + "/fifo", file = dir_.path() + "/real.culvert",
                      link = dir_.path() + "/link.culvert";
        QCOMPARE(mkfifo(qPrintable(fifo), 0600), 0);
        for (const QString& target : {fifo, QString("/dev/null"), dir_.path()}) {
            const Run r = run({"convert", "demo", target});
            QVERIFY2(r.code == 3 && (r.err.contains("this is") || r.err.contains("write")), r.err.constData());
        }
        struct stat s {};
        QVERIFY(stat(qPrintable(fifo), &s) == 0 && S_ISFIFO(s.st_mode));
        QVERIFY(stat("/dev/null", &s) == 0 && S_ISCHR(s.st_mode));
        QCOMPARE(symlink(qPrintable(file), qPrintable(link)), 0);  // it leads to nothing yet
        QCOMPARE(run({"convert", "demo", link}).code, 0);
        QVERIFY(QFileInfo(link).isSymLink() && QFileInfo(file).isFile());
        QCOMPARE(run({"convert", "demo-us", link}).code, 0);
        QVERIFY(QFileInfo(link).isSymLink());
        QCOMPARE(load_project(file.toStdString()).project.settings().system, UnitSystem::Us);
        // Names that are too long, links in a circle: said, no abort.
        const QString loop = dir_.path() + "/loop";
        QCOMPARE(symlink(qPrintable(loop), qPrintable(loop)), 0);
        for (const QString& name : {QString(300, 'x'), QString(5000, 'y'), loop, loop + "/a.culvert"}) {
            for (const char* command : {"check", "surface"}) QCOMPARE(run({command, name}).code, 3);
            QCOMPARE(run({"convert", "demo", name}).code, 3);
        }
        QCOMPARE(run({"check", fifo}).code, 3);  // not read, not waited for
    }
    void what_a_project_needs_goes_along() {
        const QString out = dir_.path() + "/converted.culvert", sized = dir_.path() + "/sized.culvert";
        QCOMPARE(run({"convert", "demo", out, "--units", "US"}).code, 0);
        QCOMPARE(run({"size", "demo", "--output", sized}).code, 0);
        for (const QString& file : {out, sized}) {
            const Project p = load_project(file.toStdString()).project;
            AssetStore store;
            store.set_project(file.toStdString());
            QVERIFY(!assets_of(p).empty());
            for (const std::string& hash : assets_of(p)) QVERIFY(store.find(hash));
            QVERIFY(asset_findings(p, store).empty());
        }
        QDir(out + ".assets").removeRecursively();
        const Run r = run({"check", out});
        QVERIFY(r.code == 1 && r.out.contains("content missing"));
        QVERIFY2(r.out.contains(".assets"), "and what mends it");
    }
    void one_document_whatever_is_asked() {
        const Run all = run({"explain", "demo", "A6-A7", "flow", "--event", "all", "--json"});
        QCOMPARE(all.code, 0);
        QJsonParseError error{};
        const auto list = QJsonDocument::fromJson(all.out, &error);
        QVERIFY2(error.error == QJsonParseError::NoError && list.isArray(), all.out.left(300).constData());
        QCOMPARE(list.array().size(), 6);
        const auto one = QJsonDocument::fromJson(run({"explain", "demo", "A6–A7", "flow", "--json"}).out);
        QVERIFY(one.isObject());
        const auto findings = QJsonDocument::fromJson(run({"check", "demo", "--json", "--event", "all"}).out, &error);
        QVERIFY2(error.error == QJsonParseError::NoError && findings.array().size() > 10,
                 qPrintable(error.errorString()));
        const auto none =
            QJsonDocument::fromJson(run({"check", found("size-at-capacity.culvert"), "--json"}).out, &error);
        QVERIFY2(none.isArray(), qPrintable(error.errorString()));
    }
    void units_and_events_out_of_range() {
        for (const char* unit : {"-1", "0", "1e300", "nan"})
            QCOMPARE(run({"surface", QString(CULVERT_EXAMPLES) + "/site/alder-quay-survey.csv", "--unit", unit}).code,
                     2);
        const QString empty = dir_.path() + "/empty.culvert";
        QVERIFY(save_project(new_project(UnitSystem::Si), empty.toStdString()).ok);
        for (const char* command : {"solve", "size"})
            for (const char* event : {"all", "10"}) QCOMPARE(run({command, empty, "--event", event}).code, 2);
        QCOMPARE(run({"check", empty, "--event", "all"}).code, 0);
    }
    void a_grid_file_reads_no_other_format() {
        // A file that is another format of the raster library, which leads it to any file of the machine.
        const QString secret = dir_.path() + "/secret.asc";
        std::ofstream(secret.toStdString())
            << "ncols 2\nnrows 2\nxllcorner 0\nyllcorner 0\ncellsize 1\nNODATA_value -9999\n1 2\n3 4\n";
        const QString vrt = dir_.path() + "/vrt.asc";
        std::ofstream(vrt.toStdString())
            << "<VRTDataset rasterXSize=\"2\" rasterYSize=\"2\"><VRTRasterBand dataType=\"Float32\" band=\"1\">"
               "<SimpleSource><SourceFilename relativeToVRT=\"0\">"
            << secret.toStdString()
            << "</SourceFilename><SourceBand>1</SourceBand></SimpleSource></VRTRasterBand></VRTDataset>";
        QCOMPARE(run({"surface", secret}).code, 0);
        QCOMPARE(run({"surface", vrt}).code, 3);
        QFile::rename(vrt, dir_.path() + "/vrt.tif");
        QCOMPARE(run({"surface", dir_.path() + "/vrt.tif"}).code, 3);
        QCOMPARE(run({"surface", dir_.path() + "/vrt.vrt"}).code, 3);
    }
    /// A finding about a file's content names the field that it is about; a place that is no file has no line.
    void findings_of_a_file_name_their_field() {
        Project p = new_project(UnitSystem::Si);
        Surface surface;
        surface.id = 31;
        surface.name = "lost";
        surface.asset = "nowhere";
        p.surfaces.insert(surface);
        AssetStore store;
        const auto missing = asset_findings(p, store);
        QCOMPARE(missing.size(), std::size_t{1});
        QCOMPARE(missing[0].field, std::string("asset"));
        QVERIFY(missing[0].severity == Severity::Error && missing[0].check.verdict == Verdict::Beyond);
        Variant v;
        v.id = 32;
        v.name = "odd";
        Variant same = v;  // one that changes nothing, before it
        same.id = 30;
        same.name = "as it is";
        p.variants.insert(same);
        v.changes = "not a text of changes";
        p.variants.insert(v);
        QCOMPARE(asset_findings(p, store).size(), std::size_t{1});  // variants of the design have no content
        Variant issued = same;
        issued.id = 33;
        issued.name = "issued";
        issued.role = VariantRole::Issued;
        issued.asset = std::string(64, 'a');
        p.variants.insert(issued);
        QCOMPARE(asset_findings(p, store).size(), std::size_t{2});
        p.variants.erase(33);
        const auto odd = variant_findings(p);
        QVERIFY(!odd.empty() && odd[0].field == "changes" && odd[0].element.id == 32);
        for (const Finding& f : {missing[0], odd[0]}) {
            QCOMPARE(f.check.rule, Rule::Data);
            QCOMPARE(f.check.verdict, f.severity == Severity::Error ? Verdict::Beyond : Verdict::Near);
            QVERIFY(!f.title.empty() && !f.detail.empty() && !f.remedy.empty());
        }
        QCOMPARE(missing[0].severity, Severity::Error);
        const SiteOffer offer = look_at(dir_.path().toStdString(), 1);
        QVERIFY(!offer.problems.empty() && offer.problems[0].line == 0);
    }
};

QTEST_GUILESS_MAIN(TestFound)
#include "test_found.moc"
