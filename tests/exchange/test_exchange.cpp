// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <filesystem>
#include <fstream>
#include <sstream>

#include <unistd.h>

#include "core/model/edit.h"
#include "exchange/project_file.h"
#include "exchange/rain_table.h"
#include "support/networks.h"

using namespace culvert;
namespace fs = std::filesystem;

namespace {

std::string folder(const char* name) { return std::string(CULVERT_SOURCE) + "/tests/exchange/" + name; }
std::string text_of(const std::string& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

/// A disk that fails at one of its steps.
class FailingDisk : public Disk {
  public:
    int fail_at;
    int step = 0;
    explicit FailingDisk(int at) : fail_at(at) {}
    bool write(const std::string& path, const std::string& bytes, std::string& error) override {
        if (step++ == fail_at) {  // half of it was written when the disk was full
            std::ofstream(path) << bytes.substr(0, bytes.size() / 2);
            error = "the disk is full. Free some space, or save elsewhere; nothing is lost";
            return false;
        }
        return Disk::write(path, bytes, error);
    }
    bool rename(const std::string& from, const std::string& to, std::string& error) override {
        if (step++ == fail_at) {
            error = "no permission";
            return false;
        }
        return Disk::rename(from, to, error);
    }
};

}  // namespace

class TestExchange : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    std::string file(const char* name) { return dir_.path().toStdString() + "/" + name; }

  private slots:
    void load_of_save_is_identity() {
        std::mt19937 random(1);
        for (unsigned seed = 1; seed <= 40; ++seed) {
            Project p = testing::random_project({.pipes = 30, .seed = seed, .events = 3});
            // Awkward values: names in any script, quotes, control characters, numbers of every size, all origins.
            Structure odd;
            odd.id = random_id();
            odd.name = "Ångström \"井\" \\ \t\n" + std::string(200, 'x') + "ط";
            odd.x = std::ldexp(1.0 / 3, static_cast<int>(random() % 40) - 20);
            odd.rim = 1e-17 * static_cast<double>(random());
            for (std::size_t i = 0; i < fields_of<Structure>().size(); ++i)
                odd.origin[i] = static_cast<Origin>(random() % 6);
            odd.foreign = {{"survey", "P-17"}, {"gis", "a\"b"}};
            p.structures.insert(odd);
            for (const Pipe& q : p.pipes)
                if (random() % 2) p.pipes.change(q.id)->bends = {{1.0 / 3, 2.0 / 7}, {-3, 1e6}};
            const std::string text = write_project(p);
            const ReadOutcome back = read_project(text);
            QVERIFY2(back.ok, back.problems.empty() ? "" : back.problems[0].message.c_str());
            QVERIFY(back.project == p);
            QCOMPARE(write_project(back.project), text);
        }
    }
    void switching_units_there_and_back_is_identity() {
        for (unsigned seed = 1; seed <= 20; ++seed) {
            const Project p = testing::random_project({.pipes = 40, .seed = seed, .events = 2});
            Project q = p;
            for (int i = 0; i < 2; ++i) {
                UnitSystem& system = q.settings_rows.change(settings_id)->system;
                system = system == UnitSystem::Si ? UnitSystem::Us : UnitSystem::Si;
                const ReadOutcome back = read_project(write_project(q));
                QVERIFY(back.ok);
                q = back.project;
            }
            QCOMPARE(write_project(q), write_project(p));
            for (const Pipe& row : p.pipes) QCOMPARE(q.pipes.find(row.id)->invert_from, row.invert_from);
        }
    }
    void files_hold_the_projects_units_and_one_element_a_line() {
        Project p = new_project(UnitSystem::Us);
        Pipe pipe;
        pipe.id = 0xb1;
        pipe.size = 18 * 0.0254;
        pipe.origin.fill(Origin::Typed);
        p.pipes.insert(pipe);
        const std::string text = write_project(p);
        QVERIFY(text.find("\"size\": 18,") != std::string::npos);
        QCOMPARE(std::count(text.begin(), text.end(), '\n'),
                 static_cast<long>(p.limits.size() + p.sizes.size() + p.structure_types.size() + p.clearances.size() +
                                   1 + 3 + 5 * 2 + 18 + 1));
        // One changed value is one changed line.
        p.pipes.change(0xb1)->invert_from = 30;
        const std::string after = write_project(p);
        int different = 0;
        std::istringstream a(text), b(after);
        for (std::string x, y; std::getline(a, x) && std::getline(b, y);) different += x != y;
        QCOMPARE(different, 1);
    }
    void demos_are_written_as_read() {
        for (const char* name : {"alder-quay", "juniper-flat"}) {
            const ReadOutcome r = load_project(std::string(CULVERT_EXAMPLES) + "/" + name + ".culvert");
            QVERIFY(r.ok && r.problems.empty());
            QCOMPARE(write_project(r.project), text_of(std::string(CULVERT_EXAMPLES) + "/" + name + ".culvert"));
            QVERIFY(r.project.structures.size() >= 12 && r.project.structures.size() <= 20);
            QCOMPARE(r.project.events.size(), std::size_t{6});
        }
    }
    void malformed_files_say_where_and_what_data() {
        QTest::addColumn<QString>("name");
        QTest::addColumn<int>("line");
        QTest::addColumn<QString>("says");
        QTest::newRow("empty") << "empty" << 1 << "empty";
        QTest::newRow("syntax") << "syntax" << 5 << "the name of a member must stand here";
        QTest::newRow("truncated") << "truncated" << 5 << "cut short";
        QTest::newRow("list") << "list" << 1 << "expected an object";
        QTest::newRow("other json") << "other-json" << 1 << "no format version";
        QTest::newRow("binary") << "binary" << 1 << "no value";
        QTest::newRow("newer") << "newer" << 2 << "newer than this program";
        QTest::newRow("duplicate id") << "duplicate-id" << 6 << "used twice (first on line 5)";
        QTest::newRow("text in number") << "text-in-number" << 5
                                        << "field \"size\": expected a number in mm, found the text \"large\"";
        QTest::newRow("row") << "row-not-object" << 5 << "a pipe must be an object, found a number";
        QTest::newRow("not finite") << "not-finite" << 5 << "a number is too large";
        QTest::newRow("choice")
            << "unknown-choice" << 5
            << "expected one of \"inlet\", \"manhole\", \"outfall\", \"joint\", \"pond\", found the text \"fountain\"";
        QTest::newRow("no id") << "no-id" << 5 << "id is missing";
        QTest::newRow("table") << "table-not-list" << 4 << "must be a list";
        QTest::newRow("settings") << "no-settings" << 1 << "no settings";
        QTest::newRow("point") << "bad-point" << 5 << "expected a point, found a list";
        QTest::newRow("utf-8") << "not-utf8" << 4 << "UTF-8";
        QTest::newRow("deep") << "deep" << 1 << "levels of nesting";
    }
    void malformed_files_say_where_and_what() {
        QFETCH(QString, name);
        QFETCH(int, line);
        QFETCH(QString, says);
        const ReadOutcome r = load_project(folder("malformed") + "/" + name.toStdString() + ".culvert");
        QVERIFY(!r.ok);
        QVERIFY(!r.problems.empty());
        const ReadProblem& p = r.problems[0];
        QVERIFY2(QString::fromStdString(p.message).contains(says), p.message.c_str());
        QVERIFY2(p.line == line, qPrintable(QString("line %1: ").arg(p.line) + p.message.c_str()));
        QVERIFY(!p.remedy.empty());
    }
    void every_malformed_file_is_in_the_table() {
        int files = 0;
        for (const auto& entry : fs::directory_iterator(folder("malformed"))) files += entry.is_regular_file();
        QCOMPARE(files, 18);
    }
    void truncated_anywhere_never_crashes() {
        const std::string text = text_of(std::string(CULVERT_EXAMPLES) + "/alder-quay.culvert");
        for (std::size_t n = 0; n + 3 < text.size(); n += 37) {
            const ReadOutcome r = read_project(text.substr(0, n));
            QVERIFY(!r.ok && !r.problems.empty() && !r.problems[0].message.empty());
        }
        std::mt19937 random(5);
        for (int i = 0; i < 400; ++i) {  // random damage: either read or refused in words
            std::string broken = text;
            for (int k = 0; k < 3; ++k) broken[random() % broken.size()] = static_cast<char>(random() % 256);
            const ReadOutcome r = read_project(broken);
            QVERIFY(r.ok || !r.problems.empty());
        }
    }
    void older_formats_migrate() {
        const ReadOutcome r = load_project(folder("readable") + "/format-1.culvert");
        QVERIFY(r.ok);
        QCOMPARE(r.migrated_from, 1);
        QCOMPARE(r.project.structures.begin()->kind, StructureKind::Joint);
        QCOMPARE(r.project.catchments.begin()->time, 540.0);
        QVERIFY(write_project(r.project).find("\"calm-culvert\": 2") != std::string::npos);
    }
    void unknown_members_survive_edits() {
        ReadOutcome r = load_project(folder("readable") + "/later-members.culvert");
        QVERIFY(r.ok);
        Editing e(r.project, "rim");
        e.set(Kind::Structure, 0xa1, "rim", 4.5);
        apply(r.project, e.take());
        const std::string text = write_project(r.project);
        for (const char* kept :
             {"\"benching\": {\"kind\":\"half\",\"depths\":[1,2.50]}", "\"bridges\": [{\"span\":12.5}]",
              "\"colour of the cover\": \"green\"", "\"survey\": \"P-17\"", "\"rim\": 4.5"})
            QVERIFY2(text.find(kept) != std::string::npos, kept);
        QVERIFY(read_project(text).project == r.project);
    }
    void dangling_and_out_of_range_are_named_and_kept() {
        const ReadOutcome r = load_project(folder("readable") + "/dangling.culvert");
        QVERIFY(r.ok);
        QCOMPARE(r.problems.size(), std::size_t{2});
        QCOMPARE(r.problems[0].line, 8);
        QVERIFY(r.problems[0].message.find("size") != std::string::npos &&
                r.problems[0].message.find("-300 mm") != std::string::npos);
        QVERIFY(r.problems[1].message.find("00000000000000ff") != std::string::npos);
        QCOMPARE(r.project.pipes.begin()->to.value, std::uint64_t{0xff});
    }
    void saving_is_atomic() {
        const Project p = testing::random_project({.pipes = 20, .seed = 1});
        const std::string path = file("atomic.culvert");
        QVERIFY(save_project(p, path).ok);
        // A short name in folders whose names are long together; one that is too long itself is refused.
        QDir deep(QFileInfo(QString::fromStdString(path)).absolutePath());
        for (int k = 0; k < 3; ++k) {
            const QString part(120, QChar('a' + k));
            QVERIFY(deep.mkdir(part) && deep.cd(part));
        }
        QVERIFY(save_project(p, deep.filePath("b.culvert").toStdString()).ok);
        QVERIFY(!save_project(p, deep.filePath(QString(260, 'c')).toStdString()).ok);
        const std::string good = text_of(path);
        Project q = p;
        q.pipes.change(q.pipes.begin()->id)->size = 2;
        for (int at = 0; at < 2; ++at) {
            FailingDisk disk(at);
            const SaveOutcome s = save_project(q, path, &disk);
            QVERIFY(!s.ok && s.error.find(path) != std::string::npos);
            QCOMPARE(text_of(path), good);
            for (const auto& entry : fs::directory_iterator(dir_.path().toStdString()))
                QVERIFY(entry.path().string().find(".saving-") == std::string::npos);
        }
        QVERIFY(save_project(q, path).ok);
        QVERIFY(load_project(path).project == q);
        // What the disk itself refuses has its reason in words.
        Disk disk;
        std::string error;
        QVERIFY(!disk.rename(file("none"), file("other"), error) && error.find("does not exist") != std::string::npos);
        error.clear();
        QVERIFY(!disk.write(file("no/such/folder/a"), "a", error) && !error.empty());
    }
    void places_that_cannot_be_saved_to() {
        const Project p = new_project(UnitSystem::Si);
        QVERIFY(save_project(p, dir_.path().toStdString()).error.find("folder") != std::string::npos);
        QVERIFY(save_project(p, file("no/such/folder.culvert")).error.find("does not exist") != std::string::npos);
        QVERIFY(save_project(p, "/proc/version").error.size() > 10);
        if (fs::exists("/dev/full")) {
            std::string error;
            Disk disk;
            QVERIFY(!disk.write("/dev/full", "some bytes", error));
            QVERIFY2(error.find("disk is full") != std::string::npos, error.c_str());
        }
        QVERIFY(load_project(dir_.path().toStdString()).problems[0].message.find("folder") != std::string::npos);
        QVERIFY(load_project(file("nothing")).problems[0].message.find("no such file") != std::string::npos);
    }
    void a_link_stays_a_link() {
        const std::string target = file("real.culvert"), link = file("link.culvert");
        QVERIFY(save_project(new_project(UnitSystem::Si), target).ok);
        fs::create_symlink(target, link);
        QVERIFY(save_project(new_project(UnitSystem::Us), link).ok);
        QVERIFY(fs::is_symlink(link));
        QCOMPARE(load_project(target).project.settings().system, UnitSystem::Us);
    }
    void locks_and_stamps() {
        const std::string path = file("locked.culvert");
        save_project(new_project(UnitSystem::Si), path);
        {
            ProjectLock lock;
            QVERIFY(lock.take(path).empty());
            QVERIFY(fs::exists(path + ".lock"));
        }
        QVERIFY(!fs::exists(path + ".lock"));
        std::ofstream(path + ".lock") << "another-host\n1\nMaja\n";
        ProjectLock second;
        QCOMPARE(QString::fromStdString(second.take(path)), QString("Maja on another-host"));
        char host[256] = "";
        gethostname(host, 255);
        std::ofstream(path + ".lock") << host << "\n999999\nMaja\n";  // its process is gone
        QVERIFY(second.take(path).empty());
        const FileStamp before = stamp_of(path);
        QVERIFY(before == stamp_of(path));
        save_project(new_project(UnitSystem::Us), path);
        QVERIFY(!(before == stamp_of(path)));
        QVERIFY(!stamp_of(file("nothing")).exists);
    }
    void rain_tables_as_pasted_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<int>("durations");
        QTest::addColumn<int>("periods");
        QTest::addColumn<double>("first");  // mm/h at the shortest, commonest
        QTest::newRow("tabs") << "min\t2\t10\n5\t91.9\t136.7\n10\t74.0\t110.0\n" << 2 << 2 << 91.9;
        QTest::newRow("decimal commas") << "min;2;10\n5;91,9;136,7\n10;74,0;110,0\n" << 2 << 2 << 91.9;
        QTest::newRow("commas") << ",2,10\n5,91.9,136.7\n10,74,110\n" << 2 << 2 << 91.9;
        QTest::newRow("blanks") << "min 2 10\n5 91.9 136.7\n10 74 110" << 2 << 2 << 91.9;
        QTest::newRow("no corner") << "2\t10\n5\t91.9\t136.7\n10\t74\t110" << 2 << 2 << 91.9;
        QTest::newRow("words") << "Duration\t2-yr\t10 years\n5 min\t91.9\t136.7\n1 h\t20\t30" << 2 << 2 << 91.9;
        QTest::newRow("depths") << "min\t2\n5\t8\n10\t12\n60\t24" << 3 << 1 << 96.0;
        QTest::newRow("one duration") << "min\t10\n10\t110" << 1 << 1 << 110.0;
        // As public services print them: words around, units with the durations, depths in inches.
        QTest::newRow("printed, commas")
            << "Point depths of rain (inches)\nStation 1, an invented place\nElevation: 12 m\n\n"
               "by duration for years:, 1, 2, 5, 10\n5-min:, 0.30,0.36,0.45,0.53\n"
               "60-min:, 0.95,1.15,1.45,1.70\n2-hr:, 1.2,1.4,1.7,2.0\n24-hr:, 2.1,2.5,3.1,3.6\n"
               "2-day:, 2.5,3.0,3.6,4.2\n\nDate and time: 1 March\nran 0.05 s\n"
            << 5 << 4 << 0.30 * 25.4 * 12;
        QTest::newRow("printed, bounds below")
            << "Duration\t1\t2\t5\n5-min\t0.30\n(0.24-0.37)\t0.36\n(0.29-0.45)\t0.45\n(0.36-0.56)\n"
               "10-min\t0.43\n(0.35-0.53)\t0.52\n(0.42-0.64)\t0.65\n(0.52-0.81)\n"
            << 2 << 3 << 0.30 * 12;
        QTest::newRow("rates in inches") << "Intensities (in/hr)\nmin\t2\t10\n5\t3.6\t5.4\n10\t2.9\t4.3\n"
                                         << 2 << 2 << 3.6 * 25.4;
        QTest::newRow("rates in millimetres") << "Intensities (mm/h)\nmin\t2\t10\n5\t91.9\t136.7\n10\t74\t110\n"
                                              << 2 << 2 << 91.9;
        QTest::newRow("depths in millimetres") << "Depths (mm)\nmin\t2\t10\n5\t8\t12\n10\t12\t17\n" << 2 << 2 << 96.0;
        QTest::newRow("hours in the corner")
            << "Duration (h)\t2\t10\n1\t20\t30\n2\t24\t36\n6\t30\t45" << 3 << 2 << 20.0;
        QTest::newRow("other hyphens") << "Duration\t2\t10\n5‑min\t91.9\t136.7\n2‑hr\t20\t30" << 2 << 2 << 91.9;
        for (const char* hyphen : {"-", "\u2010", "\u2011", "\u2013", "\u2212"})
            QTest::newRow(QString("hyphen U+%1").arg(QString(hyphen)[0].unicode(), 4, 16).toUtf8().constData())
                << "Duration\t2\t10\n5" + QString(hyphen) + "min\t91.9\t136.7\n2" + hyphen + "hr\t20\t30" << 2 << 2
                << 91.9;
        QTest::newRow("windows lines") << "min\t2\r\n5\t91.9\r\n10\t74\r\n" << 2 << 1 << 91.9;
    }
    void rain_tables_as_pasted() {
        QFETCH(QString, text);
        QFETCH(int, durations);
        QFETCH(int, periods);
        QFETCH(double, first);
        const RainTable t = read_rain_table(text.toStdString(), UnitSet(UnitSystem::Si));
        QVERIFY2(t.ok, t.problems.empty() ? "" : t.problems[0].message.c_str());
        QCOMPARE(static_cast<int>(t.durations.size()), durations);
        QCOMPARE(static_cast<int>(t.return_periods.size()), periods);
        QVERIFY(std::abs(t.intensities[0][0] * 3.6e6 - first) < 1e-9);
    }
    void bad_rain_tables_name_the_cell_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<int>("row");
        QTest::addColumn<QString>("says");
        QTest::newRow("nothing") << "" << 1 << "nothing to read";
        QTest::newRow("text in a cell") << "min\t2\n5\tabc\n10\t74" << 2 << "\"abc\" is not a number";
        QTest::newRow("falling depths") << "min\t2\n5\t8\n10\t12\n20\t11" << 1 << "return period 2";
        QTest::newRow("falling durations") << "min\t2\n10\t74\n5\t91" << 3 << "must rise";
        QTest::newRow("short row") << "min\t2\t10\n5\t91.9" << 2 << "has 1 values";
        QTest::newRow("negative") << "min\t2\n5\t-91.9" << 2 << "above 0";
        QTest::newRow("head") << "min\ttwo\n5\t91.9" << 1 << "not a return period";
        QTest::newRow("duration") << "min\t2\nfive\t91.9" << 2 << "not a duration";
        QTest::newRow("head only") << "min\t2\t10" << 2 << "no row";
        QTest::newRow("prose") << "once upon a time" << 1 << "not a return period";
    }
    void bad_rain_tables_name_the_cell() {
        QFETCH(QString, text);
        QFETCH(int, row);
        QFETCH(QString, says);
        const RainTable t = read_rain_table(text.toStdString(), UnitSet());
        QVERIFY(!t.ok && !t.problems.empty());
        QVERIFY2(QString::fromStdString(t.problems[0].message).contains(says), t.problems[0].message.c_str());
        QCOMPARE(t.problems[0].row, row);
    }
    /// Equations in place of a table, worked out again; what is no equation is read as a table and named.
    void rain_is_read_from_equations() {
        const RainTable t = read_rain_table(
            "2 years: 900/(t+8)^0.75\n10 yr i = 1500 / (t + 10)^0.8\n100, 2600/(t)^0.82\n", UnitSet(UnitSystem::Si));
        QVERIFY2(t.ok, t.problems.empty() ? "" : t.problems[0].message.c_str());
        QCOMPARE(t.return_periods, (std::vector<double>{2, 10, 100}));
        for (std::size_t i = 0; i < t.durations.size(); ++i) {
            const double m = t.durations[i] / 60;
            QVERIFY(std::abs(t.intensities[1][i] * 3.6e6 - 1500 / std::pow(m + 10, 0.8)) < 1e-9);
            QVERIFY(std::abs(t.intensities[2][i] * 3.6e6 - 2600 / std::pow(m, 0.82)) < 1e-9);
        }
        QVERIFY(QString::fromStdString(t.understood).contains("3 equations"));
        QVERIFY(!read_rain_table("10: 1500/(t+10)^1.4", UnitSet()).ok);
        QVERIFY(!read_rain_table("10: 1500/(x+10)^0.8", UnitSet()).ok);
    }
    void a_pasted_table_becomes_one_edit() {
        Project p = new_project(UnitSystem::Si);
        RainTable t = read_rain_table("min\t2\t10\t100\n5\t90\t130\t200\n10\t70\t110\t160", units_of(p));
        Edit e = rain_edit(p, t);
        const Project before = p;
        apply(p, e);
        QCOMPARE(p.events.size(), std::size_t{3});
        QCOMPARE(QString::fromStdString(design_event(p)->name), QString("10 years"));
        QCOMPARE(events_in_order(p).back()->role, EventRole::Major);
        const std::uint64_t id = design_event(p)->id;
        // Roles that somebody gave stay.
        for (const EventRole role : {EventRole::Minor, EventRole::Major}) {
            Project given = new_project(UnitSystem::Si);
            RainEvent own;
            own.id = 77;
            own.name = "own";
            own.return_period = 5;
            own.durations = {300, 600};
            own.intensities = {3e-5, 2e-5};
            own.role = role;
            given.events.insert(own);
            apply(given, rain_edit(given, t));
            int roles[3] = {};
            for (const RainEvent& r : given.events) ++roles[static_cast<int>(r.role)];
            QCOMPARE(given.events.find(77)->role, role);
            QCOMPARE(roles[static_cast<int>(role)], 1);
            QCOMPARE(roles[static_cast<int>(EventRole::Minor)] + roles[static_cast<int>(EventRole::Major)], 2);
        }
        revert(p, e);
        QVERIFY(p == before);
        apply(p, e);
        t = read_rain_table("min\t10\n5\t140\n10\t120", units_of(p));
        apply(p, rain_edit(p, t));
        QCOMPARE(p.events.size(), std::size_t{3});  // the same return period takes the new table and keeps its id
        QVERIFY(std::abs(p.events.find(id)->intensities[0] * 3.6e6 - 140) < 1e-9);
        // An event that was a depth with a pattern is given by the table from then on.
        p.events.change(id)->given = RainGiven::NrcsII;
        apply(p, rain_edit(p, t));
        QCOMPARE(p.events.find(id)->given, RainGiven::Intensities);
        // Other durations come with their intensities.
        apply(p, rain_edit(p, read_rain_table("min\t10\n15\t100\n30\t80\n60\t50", units_of(p))));
        QCOMPARE(p.events.find(id)->durations, (std::vector<double>{900, 1800, 3600}));
        QCOMPARE(p.events.find(id)->intensities.size(), std::size_t{3});
    }
};
QTEST_GUILESS_MAIN(TestExchange)
#include "test_exchange.moc"
