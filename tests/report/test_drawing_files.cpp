// SPDX-License-Identifier: GPL-3.0-or-later
#include <QTemporaryDir>
#include <QXmlStreamReader>
#include <QtTest>
#include <clocale>
#include <set>

#include "core/analysis/solver.h"
#include "drawing/profile_sheet.h"
#include "exchange/dxf_read.h"
#include "exchange/project_file.h"
#include "report/drawing_files.h"
#include "support/networks.h"

using namespace culvert;

namespace {

std::vector<Drawn> barrels(const DisplayList& list) {
    std::vector<Drawn> out;
    for (const Drawn& d : list)
        if (d.ink >= Ink::BarrelWithin && d.ink <= Ink::BarrelUnknown && d.type == Drawn::Type::Line) out.push_back(d);
    return out;
}
ProfileSheet sheet_of(unsigned seed, const ProfileSheetOptions& options, Profile& profile, DisplayList& drawn) {
    const Project p = testing::random_project({.pipes = 30, .seed = seed, .events = 1});
    const auto r = solve(p)[0];
    const Review rev = review(p, *r);
    profile = profile_of(p, *r->network, r.get(), &rev, {});
    drawn = draw_profile(p, profile);
    return profile_sheet(p, profile, r.get(), options);
}
bool near(double a, double b, double by) { return std::abs(a - b) <= by; }

}  // namespace

class TestDrawingFiles : public QObject {
    Q_OBJECT
  private slots:
    void metres_become_millimetres_of_paper_at_both_scales() {
        int compared = 0;
        for (unsigned seed = 1; seed <= 12; ++seed)  // SI and US projects alike
            for (const auto& [across, up] : {std::pair{500.0, 50.0}, {200.0, 200.0}, {2500.0, 100.0}}) {
                ProfileSheetOptions options;
                options.across = across;
                options.up = up;
                Profile profile;
                DisplayList drawn;
                const ProfileSheet sheet = sheet_of(seed, options, profile, drawn);
                const auto a = barrels(drawn), b = barrels(sheet.list);
                QVERIFY(!a.empty());
                QCOMPARE(a.size(), b.size());
                const Point a0 = a[0].points[0], b0 = b[0].points[0];
                for (std::size_t i = 0; i < a.size(); ++i)
                    for (std::size_t k = 0; k < a[i].points.size(); ++k, ++compared) {
                        const Point p = a[i].points[k], q = b[i].points[k];
                        QVERIFY(near((p.x - a0.x) / across * 1000, q.x - b0.x, 1e-6));
                        QVERIFY(near((p.y - a0.y) / up * 1000, q.y - b0.y, 1e-6));
                    }
                for (const Drawn& d : sheet.list)
                    for (const Point& q : d.points) {
                        QVERIFY(q.x >= 0 && q.x <= sheet.width + 1e-9);
                        QVERIFY(q.y >= 0 && q.y <= sheet.height + 1e-9);
                    }
            }
        QVERIFY(compared > 1000);
    }
    /// By hand: 50 m at 1 : 500 are 100 mm from the margin of 34; the pipe is drawn against its water.
    void crossings_and_the_table_stand_where_they_belong() {
        Project p = new_project(UnitSystem::Si);
        for (const std::uint64_t i : {1, 2}) {
            Structure s;
            s.id = i;
            s.name = i == 1 ? "A1" : "A2";
            s.kind = i == 1 ? StructureKind::Manhole : StructureKind::Outfall;
            s.x = i == 1 ? 0 : 50;
            s.y = 0;
            s.rim = i == 1 ? 103.25 : 102.75;
            s.known_flow = i == 1 ? 0.04 : 0;
            p.structures.insert(s);
        }
        Pipe q;
        q.id = 11;
        q.from = {2};
        q.to = {1};
        q.size = 0.3;
        q.invert_from = 99.5;
        q.invert_to = 100;
        p.pipes.insert(q);
        BuriedLine w;
        w.id = 21;
        w.name = "W1";
        w.line = {{40, -5}, {40, 5}};
        w.levels = {101.5};
        w.size = 0.2;
        p.buried_lines.insert(w);
        RainEvent e;
        e.id = 5;
        e.name = "10 years";
        e.return_period = 10;
        e.durations = {300, 3600};
        e.intensities = {4e-5, 1e-5};
        p.events.insert(e);
        const auto r = solve(p)[0];
        ProfileSheetOptions options;
        options.crossings = clashes(p);
        const ProfileSheet sheet = profile_sheet(p, profile_of(p, *r->network, r.get(), nullptr, {}), r.get(), options);
        const auto row_of =
            [&](const char* words) {  // the table's rows stand under each other, their heads at the left
                for (const Drawn& d : sheet.list)
                    if (d.type == Drawn::Type::Text && d.points[0].x == 4 && d.text.starts_with(words))
                        return d.points[0].y;
                return -1.0;
            };
        const auto stands = [&](const std::string& text, double y, double x0, double x1) {
            return std::any_of(sheet.list.begin(), sheet.list.end(), [&](const Drawn& d) {
                return d.type == Drawn::Type::Text && d.text == text && near(d.points[0].y, y, 1e-9) &&
                       d.points[0].x >= x0 && d.points[0].x <= x1;
            });
        };
        for (const auto& [head, first, last] : {std::tuple{"structure", "A1", "A2"},
                                                {"distance", "0.00", "50.00"},
                                                {"rim", "103.250", "102.750"},
                                                {"invert", "100.000", "99.500"}}) {
            QVERIFY2(stands(first, row_of(head), 34, 36), head);
            QVERIFY2(stands(last, row_of(head), 134, 136), head);
        }
        const double level = r->nodes[static_cast<std::size_t>(r->network->node_of(StructureId{1}))].level.level;
        QVERIFY(level > 100.05 && stands(units_of(p).number(level, Quantity::Level), row_of("HGL"), 34, 36));
        for (const auto& [head, text] : {std::pair{"size", "300"}, {"slope", "1.00"}, {"flow", "40.0"}})
            QVERIFY2(stands(text, row_of(head), 70, 90), head);
        // 10 m from the outfall: 40 m from the head, 80 mm; its middle at 101.4, 28 mm over the invert of the head.
        const auto mark = std::find_if(sheet.list.begin(), sheet.list.end(),
                                       [](const Drawn& d) { return d.type == Drawn::Type::Text && d.text == "W1"; });
        QVERIFY(mark != sheet.list.end());
        QVERIFY(mark->points[0].x > 114 && mark->points[0].x < 117);
        double bottom = 1e9;
        for (const Drawn& d : barrels(sheet.list))
            for (const Point& at : d.points)
                if (near(at.x, 34, 1e-6)) bottom = std::min(bottom, at.y);
        QVERIFY(near(mark->points[0].y + 1 - bottom, 28, 1e-6));
    }
    /// Each branch once, from its head to where it joins; the paper is as wide as all of them.
    void branches_stand_beside_their_run() {
        for (unsigned seed = 1; seed <= 12; ++seed) {
            const Project p = culvert::testing::random_project({.pipes = 30, .seed = seed});
            const auto r = solve(p)[0];
            const Network& net = *r->network;
            const Profile run = profile_of(p, net, r.get(), nullptr, {});
            const auto branches = branches_of(p, net, r.get(), nullptr, run);
            std::multiset<std::uint64_t> seen;
            for (const ProfileReach& x : run.reaches) seen.insert(x.pipe.value);
            double width = 0;
            std::vector<ProfileSheet> sheets{profile_sheet(p, run, r.get(), {})};
            for (const Profile& b : branches) {
                QVERIFY(!b.empty() && b.stations.front().x == 0 && b.stations.back().joins);
                for (const ProfileReach& x : b.reaches) seen.insert(x.pipe.value);
                sheets.push_back(profile_sheet(p, b, r.get(), {}));
            }
            for (const ProfileSheet& s : sheets) width += s.width;
            const ProfileSheet all = side_by_side(sheets);
            QVERIFY(near(all.width, width, 1e-6));
            // every main pipe of this outfall, once
            for (const Link& l : net.links)
                if (l.main) QCOMPARE(seen.count(l.pipe.value), std::size_t{1});
        }
    }
    /// What stands in both files is what the list says, whatever the user's locale.
    void both_files_hold_each_line_and_text() {
        const char* const had = std::setlocale(LC_NUMERIC, nullptr);
        const std::string before = had ? had : "C";
        for (const char* locale : {"C", "de_DE.UTF-8"}) {
            std::setlocale(LC_NUMERIC, locale);
            Profile profile;
            DisplayList drawn;
            const ProfileSheet sheet = sheet_of(4, {}, profile, drawn);
            std::vector<std::vector<Point>> lines;
            std::vector<std::string> texts;
            for (const Drawn& d : sheet.list) {
                if (d.type == Drawn::Type::Text) texts.push_back(d.text);
                else lines.push_back(d.points);
            }
            QXmlStreamReader xml(QByteArray::fromStdString(svg_of(sheet.list, sheet.width, sheet.height)));
            std::size_t line = 0, word = 0;
            while (!xml.atEnd()) {
                xml.readNext();
                if (!xml.isStartElement()) continue;
                if (xml.name() == QLatin1String("text"))
                    QCOMPARE(xml.readElementText().toStdString(), texts.at(word++));
                else if (xml.name().startsWith(QLatin1String("poly"))) {
                    const QStringList pairs = xml.attributes().value("points").toString().split(' ');
                    QCOMPARE(pairs.size(), static_cast<qsizetype>(lines.at(line).size()));
                    for (qsizetype k = 0; k < pairs.size(); ++k) {
                        const QStringList xy = pairs[k].split(',');
                        QCOMPARE(xy.size(), 2);
                        const Point p = lines[line][static_cast<std::size_t>(k)];
                        QVERIFY(near(xy[0].toDouble(), p.x, 1e-4) && near(sheet.height - xy[1].toDouble(), p.y, 1e-4));
                    }
                    ++line;
                }
            }
            QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
            QCOMPARE(line, lines.size());
            QCOMPARE(word, texts.size());

            QTemporaryDir folder;
            const std::string path = (folder.path() + "/run.dxf").toStdString();
            QVERIFY(save_drawing(sheet.list, sheet.width, sheet.height, path).ok);
            std::string bytes;
            QCOMPARE(read_file(path, bytes, 1 << 24), std::string());
            const DrawingOutcome read = read_dxf(bytes, 1);
            QVERIFY(read.ok);
            QCOMPARE(read.drawing.lines.size(), lines.size());
            QCOMPARE(read.drawing.texts.size(), texts.size());
            for (std::size_t i = 0; i < lines.size(); ++i) {
                QCOMPARE(read.drawing.lines[i].points.size(), lines[i].size() + read.drawing.lines[i].closed);
                for (std::size_t k = 0; k < lines[i].size(); ++k)
                    QVERIFY(near(read.drawing.lines[i].points[k].x, lines[i][k].x, 1e-4) &&
                            near(read.drawing.lines[i].points[k].y, lines[i][k].y, 1e-4));
            }
            for (std::size_t i = 0; i < texts.size(); ++i) QCOMPARE(read.drawing.texts[i].text, texts[i]);
            QCOMPARE(QDir(folder.path()).entryList(QDir::Files).size(), 1);  // nothing left beside it
        }
        std::setlocale(LC_NUMERIC, before.c_str());
    }
    void what_cannot_be_drawn_or_written_is_said() {
        Profile profile;
        DisplayList drawn;
        ProfileSheetOptions none;
        none.up = 0;
        QVERIFY(sheet_of(1, none, profile, drawn).list.empty());
        const ProfileSheet sheet = sheet_of(1, {}, profile, drawn);
        const auto saved = [&](const std::string& path) {
            return save_drawing(sheet.list, sheet.width, sheet.height, path);
        };
        for (const char* ending : {"svg", "dxf"})
            QVERIFY(saved(std::string("/no/such/folder/run.") + ending).error.find("folder") != std::string::npos);
        QVERIFY(!saved("/dev/null").ok);
        QVERIFY(saved("run.txt").error.find(".svg or .dxf") != std::string::npos);
        QTemporaryDir folder;  // the old file stands where there is no room for a new one
        const QString path = folder.path() + "/run.dxf";
        QFile old(path);
        QVERIFY(old.open(QIODevice::WriteOnly) && old.write("old") == 3);
        old.close();
        const QByteArray temporary = qgetenv("TMPDIR");
        qputenv("TMPDIR", "/no/such/folder");
        const SaveOutcome full = saved(path.toStdString());
        if (temporary.isNull()) qunsetenv("TMPDIR");
        else qputenv("TMPDIR", temporary);
        QVERIFY(!full.ok && full.error.find("temporary") != std::string::npos);
        QVERIFY(old.open(QIODevice::ReadOnly));
        QCOMPARE(old.readAll(), QByteArray("old"));
        QCOMPARE(QDir(folder.path()).entryList(QDir::Files).size(), 1);
        // What a link leads to is replaced, the link stays.
        QVERIFY(QFile::link(path, folder.path() + "/link.dxf"));
        QVERIFY(saved((folder.path() + "/link.dxf").toStdString()).ok);
        QVERIFY(QFileInfo(folder.path() + "/link.dxf").isSymLink() && QFileInfo(path).size() > 100);
    }
    void a_name_with_marks_of_the_format_stays_a_name() {
        const DisplayList list = {{Drawn::Type::Text, Ink::Label, {{1, 2}}, "A<&>\n\"1\"", {}}};
        QXmlStreamReader xml(QByteArray::fromStdString(svg_of(list, 10, 10)));
        QString found;
        while (!xml.atEnd())
            if (xml.readNext() == QXmlStreamReader::StartElement && xml.name() == QLatin1String("text"))
                found = xml.readElementText();
        QVERIFY(!xml.hasError());
        QCOMPARE(found, QString("A<&>\"1\""));
    }
};

QTEST_GUILESS_MAIN(TestDrawingFiles)
#include "test_drawing_files.moc"
