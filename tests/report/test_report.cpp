// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <nlohmann/json.hpp>

#include "drawing/profile.h"
#include "exchange/project_file.h"
#include "report/quick.h"
#include "report/tables.h"
#include "report/validation.h"

using namespace culvert;
using Json = nlohmann::json;

namespace {

struct Run {
    int code;
    QString out, error;
};
Run run(const QStringList& arguments) {
    QProcess p;
    p.start(QString(CULVERT_BIN) + "/calm-culvert-cli", arguments);
    p.waitForFinished(30000);
    return {p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1, QString::fromUtf8(p.readAllStandardOutput()),
            QString::fromUtf8(p.readAllStandardError())};
}
Project demo(const char* name = "alder-quay") {
    return load_project(std::string(CULVERT_EXAMPLES) + "/" + name + ".culvert").project;
}

}  // namespace

class TestReport : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;

  private slots:
    void validation_cases_hold() {
        const auto cases = run_validation();
        QVERIFY(cases.size() >= 12);
        for (const ValidationCase& c : cases) QVERIFY2(c.passed(), c.name.c_str());
    }
    void tables_align_by_characters() {
        const TextTable t{{"name", "Q"}, {"", "m³/s"}, {{"A1–A2", "1.0"}, {"B", "12.25"}}, {true, false}};
        QCOMPARE(QString::fromStdString(render(t)),
                 QString("name       Q\n        m³/s\nA1–A2    1.0\nB      12.25\n"));
    }
    void solve_prints_the_core_numbers() {
        const Run r = run({"solve", "demo", "--event", "10", "--json"});
        QCOMPARE(r.code, 0);
        const Json j = Json::parse(r.out.toStdString())[0];
        const Project p = demo();
        const Results results = solve(p);
        const auto ten = std::find_if(results.begin(), results.end(), [&](const auto& e) {
            return p.events.find(e->event.value)->return_period == 10;
        });
        QCOMPARE(j["pipes"].size(), p.pipes.size());
        for (const auto& row : j["pipes"]) {
            const int link = (*ten)->network->link_of(PipeId{read_id(row["id"])});
            QCOMPARE(row["flow"].get<double>(), (*ten)->links[static_cast<std::size_t>(link)].flow.flow);
        }
        for (const auto& row : j["structures"]) {
            const int node = (*ten)->network->node_of(StructureId{read_id(row["id"])});
            QCOMPARE(row["hgl"].get<double>(), (*ten)->nodes[static_cast<std::size_t>(node)].level.level);
        }
        const Run table = run({"solve", "demo", "--event", "10"});
        QVERIFY(table.out.contains("A6–A7") && table.out.contains("l/s") && table.out.contains("freeboard"));
        QVERIFY(run({"solve", "demo-us"}).out.contains("ft³/s"));
        QCOMPARE(Json::parse(run({"solve", "demo", "-e", "all", "--json"}).out.toStdString()).size(), std::size_t{6});
    }
    void check_tells_by_its_exit_code() {
        const Run bad = run({"check", "demo"});
        QCOMPARE(bad.code, 1);
        QVERIFY(bad.out.contains("water above the crown") && bad.out.contains("A5–A6"));
        QCOMPARE(run({"check", "demo-us"}).code, 0);
        const Json j = Json::parse(run({"check", "demo", "--json"}).out.toStdString());
        QVERIFY(j.size() > 5 && j[0].contains("remedy"));
    }
    void size_and_convert_write_projects() {
        const QString sized = dir_.path() + "/sized.culvert", us = dir_.path() + "/us.culvert",
                      back = dir_.path() + "/back.culvert";
        QCOMPARE(run({"size", "demo", "-o", sized}).code, 0);
        // What is left is on the street, the short inlet of Garth Street, whose bypass floods the sag below it, and a
        // water main that sizes do not move.
        const Json left = Json::parse(run({"check", sized, "--json"}).out.toStdString());
        int beyond = 0;
        for (const Json& f : left)
            if (f["severity"] == "error") {
                ++beyond;
                QVERIFY(f["finding"] == "water too far into the street" || f["finding"] == "too near another line");
            }
        QCOMPARE(beyond, 2);
        QCOMPARE(run({"convert", "demo", us, "--units", "US"}).code, 0);
        QCOMPARE(run({"convert", us, back, "--units", "SI"}).code, 0);
        QVERIFY(write_project(load_project(back.toStdString()).project) == write_project(demo()));
        QCOMPARE(Json::parse(run({"solve", us, "--json"}).out.toStdString()),
                 Json::parse(run({"solve", "demo", "--json"}).out.toStdString()));
    }
    void explain_is_the_working() {
        const Run r = run({"explain", "demo", "A6-A7", "flow", "--event", "10"});
        QCOMPARE(r.code, 0);
        QVERIFY(r.out.contains("CA * i / 360 + Qk") && r.out.contains("HEC-22"));
        const Json j = Json::parse(run({"explain", "demo", "A5", "level", "-e", "10", "--json"}).out.toStdString());
        // The level that is explained is the one that is solved.
        double level = 0;
        for (const auto& result : solve(demo()))
            if (demo().events.find(result->event.value)->return_period == 10)
                level = result->nodes[static_cast<std::size_t>(result->network->node_of(find_element(demo(), "A5")))]
                            .level.level;
        QVERIFY(level > 19 && std::abs(j["steps"][0]["result"].get<double>() - level) < 1e-3);
    }
    void bad_use_is_answered_clearly() {
        QCOMPARE(run({}).code, 2);
        QCOMPARE(run({"paint", "demo"}).code, 2);
        QCOMPARE(run({"solve"}).code, 2);
        QCOMPARE(run({"--help"}).code, 0);
        QVERIFY(run({"--version"}).out.startsWith("calm-culvert-cli "));
        const Run nothing = run({"solve", "/no/such/file.culvert"});
        QCOMPARE(nothing.code, 3);
        QVERIFY(nothing.error.contains("no such file"));
        QCOMPARE(run({"solve", "/tmp"}).code, 3);
        const Run broken = run({"check", QString(CULVERT_SOURCE) + "/tests/exchange/malformed/syntax.culvert"});
        QCOMPARE(broken.code, 3);
        QVERIFY(broken.error.contains("syntax.culvert:5:"));
        const Run event = run({"solve", "demo", "-e", "7"});
        QCOMPARE(event.code, 2);
        QVERIFY(event.error.contains("10 years"));
        QCOMPARE(run({"explain", "demo", "Z9", "flow"}).code, 2);
        QVERIFY(run({"explain", "demo", "A5", "colour"}).error.contains("level"));
        QCOMPARE(run({"convert", "demo", "/proc/nothing.culvert"}).code, 3);
        QCOMPARE(run({"validate"}).code, 0);
        QVERIFY(run({"bench", "demo"}).out.contains("us per pipe and event"));
    }
    void a_project_without_rain_is_checked_too() {
        const QString path = dir_.path() + "/new.culvert";
        save_project(new_project(UnitSystem::Si), path.toStdString());
        const Run r = run({"check", path});
        QCOMPARE(r.code, 0);
        QVERIFY(r.out.contains("nothing drawn yet") && r.out.contains("no rain"));
        QCOMPARE(run({"solve", path}).code, 2);
    }
    void profile_is_the_run_through_an_element() {
        const Project p = demo();
        const Results results = solve(p);
        const auto& r = *results[2];
        const Review rev = review(p, r);
        const Profile main = profile_of(p, *r.network, &r, &rev, {});
        QCOMPARE(QString::fromStdString(main.stations.front().name), QString("A1"));
        QCOMPARE(QString::fromStdString(main.stations.back().name), QString("A8"));
        QCOMPARE(main.reaches.size() + 1, main.stations.size());
        const Profile branch = profile_of(p, *r.network, &r, &rev, find_element(p, "C2"));
        QCOMPARE(QString::fromStdString(branch.stations.front().name), QString("C1"));
        for (std::size_t i = 0; i < main.reaches.size(); ++i) {
            const ProfileReach& reach = main.reaches[i];
            const auto& v = r.links[static_cast<std::size_t>(r.network->link_of(reach.pipe))];
            QVERIFY(std::abs(reach.hydraulic.front().y - (reach.invert_up + v.level.head_up)) < 1e-6);
            QVERIFY(std::abs(reach.hydraulic.back().y - (reach.invert_down + v.level.head_down)) < 1e-6);
            for (std::size_t k = 0; k < reach.hydraulic.size(); ++k) {
                QVERIFY(reach.hydraulic[k].x >= reach.x0 - 1e-9 && reach.hydraulic[k].x <= reach.x1 + 1e-9);
                if (k) QVERIFY(reach.energy[k].y <= reach.energy[k - 1].y + 1e-4);  // falls along the barrel
                QVERIFY(reach.energy[k].y >= reach.hydraulic[k].y);
            }
        }
        QVERIFY(draw_profile(p, main).size() > main.reaches.size() * 4);
        QVERIFY(profile_of(new_project(UnitSystem::Si), Network{}, nullptr, nullptr, {}).empty());
    }
    void quick_questions() {
        const Project p = demo();
        QCOMPARE(QString::fromStdString(quick_question("flow ratio 450 at 0.6 % 264 l/s", p).answer),
                 QString("flow ratio 1.20"));
        QCOMPARE(QString::fromStdString(quick_question("size for 264 l/s at 0.6 %", p).answer), QString("size 525 mm"));
        QCOMPARE(QString::fromStdString(quick_question("capacity 18in at 1:100", p).answer),
                 QString("capacity 297.4 l/s"));
        for (const char* text :
             {"", "A3", "size", "open", "capacity 450", "flow ratio 450 at 0 % 264 l/s", "size for many l/s at 1 %"})
            QVERIFY2(!quick_question(text, p).understood, text);
    }
};
QTEST_GUILESS_MAIN(TestReport)
#include "test_report.moc"
