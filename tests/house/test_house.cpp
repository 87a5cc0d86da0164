// SPDX-License-Identifier: GPL-3.0-or-later
#include <QtTest>
#include <map>

#include "core/model/fields.h"

using namespace culvert;

/// The house itself: rooms include only rooms on lower floors, no Qt below the application, files stay small, every
/// source names its licence.
class TestHouse : public QObject {
    Q_OBJECT
    const std::map<QString, int> floors_{
        {"core/base", 0},      {"core/geometry", 1}, {"core/hydraulics", 1}, {"core/streets", 2}, {"core/hydrology", 2},
        {"core/detention", 2}, {"core/terrain", 2},  {"core/crossings", 2},  {"core/model", 3},   {"core/network", 4},
        {"core/analysis", 5},  {"core/review", 6},   {"core/design", 7},     {"exchange", 8},     {"drawing", 8},
        {"report", 9},         {"print", 10},        {"app/kit", 11},        {"app/desk", 11},    {"cli", 11},
        {"app/entry", 12},     {"app/plan", 13},     {"app/profile", 13},    {"app/card", 13},    {"app/ledger", 13},
        {"app/panels", 13},    {"app/charts", 13},   {"app/tools", 14},      {"app/window", 15},  {"app/main", 16}};

    QString room(const QString& path) const {
        QString best;
        for (const auto& [name, floor] : floors_)
            if (path.startsWith(name + "/") && name.size() > best.size()) best = name;
        return best;
    }
    static QStringList sources(const QString& folder) {
        QStringList list;
        QDirIterator it(QString(CULVERT_SOURCE) + "/" + folder, {"*.cpp", "*.h"}, QDir::Files,
                        QDirIterator::Subdirectories);
        while (it.hasNext()) list << it.next();
        return list;
    }
    static QString read(const QString& path) {
        QFile f(path);
        return f.open(QFile::ReadOnly) ? QString::fromUtf8(f.readAll()) : QString();
    }

  private slots:
    void rooms_include_only_lower_floors() {
        const QString root = QString(CULVERT_SOURCE) + "/src/";
        const QRegularExpression include("^\\s*#\\s*include\\s*[<\\x22]([^>\\x22]+)[>\\x22]",
                                         QRegularExpression::MultilineOption);
        int checked = 0;
        for (const QString& path : sources("src")) {
            const QString here = room(path.mid(root.size()));
            QVERIFY2(!here.isEmpty(), qPrintable(path + " stands in no room"));
            auto it = include.globalMatch(read(path));
            while (it.hasNext()) {
                const QString what = it.next().captured(1), there = room(what);
                if (!there.isEmpty() && there != here)
                    QVERIFY2(floors_.at(there) < floors_.at(here), qPrintable(path + " includes " + what));
                if (floors_.at(here) < 10 || here == "cli")
                    QVERIFY2(!QRegularExpression("^Q[A-Z]").match(what).hasMatch(),
                             qPrintable(path + " includes " + what));
                ++checked;
            }
        }
        QVERIFY(checked > 200);
    }
    void files_are_small_and_name_their_licence() {
        for (const char* folder : {"src", "tests", "bench"})
            for (const QString& path : sources(folder)) {
                const QString body = read(path);
                const auto lines = body.split('\n');
                const auto full =
                    std::count_if(lines.begin(), lines.end(), [](const QString& l) { return !l.trimmed().isEmpty(); });
                QVERIFY2(full <= 600, qPrintable(path + QString(": %1 lines").arg(full)));
                QVERIFY2(body.startsWith("// SPDX-License-Identifier: GPL-3.0-or-later"), qPrintable(path));
            }
    }
    void every_setting_choice_and_limit_has_a_test_in_which_it_alone_changes_the_answer() {
        const QString tests = read(QString(CULVERT_SOURCE) + "/tests/review/test_settings.cpp") +
                              read(QString(CULVERT_SOURCE) + "/tests/review/test_street_settings.cpp") +
                              read(QString(CULVERT_SOURCE) + "/tests/review/test_storage_settings.cpp") +
                              read(QString(CULVERT_SOURCE) + "/tests/design/test_propose_design.cpp") +
                              read(QString(CULVERT_SOURCE) + "/tests/analysis/test_outlets.cpp") +
                              read(QString(CULVERT_SOURCE) + "/tests/analysis/test_minor_losses.cpp") +
                              read(QString(CULVERT_SOURCE) + "/tests/review/test_policy.cpp") +
                              read(QString(CULVERT_SOURCE) + "/tests/crossings/test_crossings.cpp");
        QStringList without;
        // Words that are for people only, and what a new row begins with in the window (tests/app).
        const QStringList words{"title", "place", "note", "criteria", "coordinates", "default_kind"};
        for (const FieldInfo* f : infos_of(Kind::Settings)) {
            const QString key = QString::fromUtf8(f->key.data(), static_cast<qsizetype>(f->key.size()));
            if (!words.contains(key) && !tests.contains("void setting_" + key + "()") &&
                !tests.contains("void choice_" + key + "()"))
                without << "setting " + key;
        }
        for (const std::string_view l : limit_names()) {
            const QString name = QString::fromStdString(std::string(l)).replace(' ', '_');
            if (!tests.contains("void limit_" + name + "()")) without << "limit " + name;
        }
        // Choices of what is drawn or catalogued, which no answer depends on yet.
        const QStringList quiet{"surface.role", "background.content", "type.kind",  "type.plan",
                                "type.inlet",   "variant.role",       "size.shape", "limit.kind"};
        for (std::size_t k = 0; k < kind_count; ++k) {
            const Kind kind = static_cast<Kind>(k);
            for (const FieldInfo* f : infos_of(kind)) {
                const QString key = QString::fromStdString(std::string(f->key)),
                              name = QString::fromStdString(std::string(kind_name(kind))).replace(' ', '_');
                if (f->choices.empty() || kind == Kind::Settings || quiet.contains(name + "." + key)) continue;
                if (!tests.contains("void choice_" + key + "()") &&
                    !tests.contains("void choice_" + name + "_" + key + "()"))
                    without << "choice " + name + "." + key;
            }
        }
        QVERIFY2(without.isEmpty(), qPrintable("without a test: " + without.join(", ")));
    }
    /// Faults are planted by their text: where the source changed, the list must follow.
    void planted_faults_find_their_places() {
        QProcess list;
        list.start("python3", {QString(CULVERT_SOURCE) + "/tests/mutate.py", "--list"});
        QVERIFY(list.waitForFinished(60000));
        QVERIFY2(list.exitCode() == 0, list.readAllStandardError().constData());
        QVERIFY(list.readAllStandardOutput().count('\n') > 200);
    }
    void public_headers_of_the_core_teach() {
        for (const QString& path : sources("src/core"))
            if (path.endsWith(".h")) QVERIFY2(read(path).contains("///"), qPrintable(path));
    }
};
QTEST_APPLESS_MAIN(TestHouse)
#include "test_house.moc"
