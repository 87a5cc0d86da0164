// SPDX-License-Identifier: GPL-3.0-or-later
#include <sys/stat.h>
#include <QtTest>
#include <boost/crc.hpp>

#include <boost/crc.hpp>
#include <filesystem>
#include <fstream>
#include <functional>
#include <random>

#include <unistd.h>

#include "exchange/assets.h"
#include "exchange/content_hash.h"
#include "exchange/edit_text.h"
#include "exchange/journal.h"
#include "exchange/project_file.h"
#include "support/networks.h"
#include "support/ponds.h"

using namespace culvert;
namespace fs = std::filesystem;

namespace {

std::string text_of(const std::string& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

/// A disk whose program is killed at one of its steps: what was under way is half done, nothing after it happens. With
/// the power cut too, what was not flushed is gone.
class KilledDisk : public JournalDisk {
  public:
    int kill_at;
    bool power_cut;
    int step = 0;
    std::map<std::string, std::size_t> flushed;
    KilledDisk(int at, bool power) : kill_at(at), power_cut(power) {}
    bool create(const std::string& path, const std::string& bytes) override {
        if (dead()) return false;
        flushed[path] = 0;
        if (step++ == kill_at) {
            JournalDisk::create(path, bytes.substr(0, bytes.size() / 2));
            return false;
        }
        return JournalDisk::create(path, bytes);
    }
    bool append(const std::string& path, const std::string& bytes) override {
        if (dead()) return false;
        if (step++ == kill_at) {
            JournalDisk::append(path, bytes.substr(0, bytes.size() / 2));
            return false;
        }
        return JournalDisk::append(path, bytes);
    }
    bool flush(const std::string& path) override {
        if (dead() || step++ == kill_at) return false;
        flushed[path] = fs::file_size(path);
        return JournalDisk::flush(path);
    }
    bool rename(const std::string& from, const std::string& to) override {
        if (dead() || step++ == kill_at) return false;
        flushed[to] = flushed[from];
        return JournalDisk::rename(from, to);
    }
    [[nodiscard]] bool dead() const { return step > kill_at; }
    /// What a power cut leaves.
    void cut(const std::string& path) const {
        if (power_cut && fs::exists(path) && flushed.contains(path)) fs::resize_file(path, flushed.at(path));
    }
};

Edit rename_first(const Project& p, int k) {
    Editing e(p, "step " + std::to_string(k));
    e.set(Kind::Structure, p.structures.begin()->id, "description", "step " + std::to_string(k));
    e.set(Kind::Pipe, p.pipes.begin()->id, "roughness", 0.01 + 0.0001 * k);
    return e.take();
}

}  // namespace

/// The journal loses nothing; Edits and assets go to disk and come back as they were.
class TestJournal : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    int number_ = 0;
    std::string fresh() { return dir_.path().toStdString() + "/" + std::to_string(++number_) + ".journal"; }

    /// Killed at every step of some edits, with and without a power cut.
    static void kill_everywhere(const Project& base, const std::function<Edit(const Project&, int)>& change,
                                const std::function<std::string()>& fresh) {
        constexpr int edits = 5;
        int recovered = 0, nothing = 0;
        for (const bool power : {false, true})
            for (int kill = 0; kill < 3 + 2 * edits + 2; ++kill) {
                const std::string path = fresh();
                auto disk = std::make_shared<KilledDisk>(kill, power);
                std::vector<Project> states{base};
                std::size_t safe = 0;  // Edits that were told to be on disk
                {
                    Journal journal(path, disk);
                    journal.begin({base, "", {}, false, 0});
                    Project p = base;
                    for (int k = 1; k <= edits; ++k) {
                        const Edit edit = change(p, k);
                        apply(p, edit);
                        states.push_back(p);
                        journal.record(edit, p);
                        if (journal.settle()) safe = static_cast<std::size_t>(k);
                    }
                }
                disk->cut(path);
                const auto r = recover(path);
                if (!r) {
                    QCOMPARE(safe, std::size_t{0});
                    ++nothing;
                    continue;
                }
                ++recovered;
                QVERIFY2(r->done >= safe,
                         qPrintable(QString("killed at %1: %2 of %3").arg(kill).arg(r->done).arg(safe)));
                QVERIFY(r->project() == states[r->done]);
            }
        QVERIFY(recovered > 12 && nothing > 3);
    }

  private slots:
    /// A clean end while the disk is full is an end: nothing is written when there is room again.
    void what_is_closed_is_not_tried_again() {
        class FullDisk : public JournalDisk {
          public:
            std::atomic<bool> full = true;
            bool create(const std::string& path, const std::string& bytes) override {
                return !full && JournalDisk::create(path, bytes);
            }
        };
        const auto disk = std::make_shared<FullDisk>();
        const Project p = testing::random_project({.pipes = 4, .seed = 2});
        const std::string closed = fresh(), open = fresh();
        Journal end(closed, disk, Journal::Millis(20)), goes_on(open, disk, Journal::Millis(20));
        for (Journal* j : {&end, &goes_on}) {
            j->begin({p, {}, {}, false, 0});
            Project q = p;
            const Edit e = rename_first(p, 1);
            apply(q, e);
            j->record(e, q);
            QVERIFY(!j->settle());
        }
        end.close();
        disk->full = false;
        QTRY_VERIFY(fs::exists(open));
        QTest::qWait(100);
        QVERIFY(!fs::exists(closed) && goes_on.settle() && end.settle());
        const auto back = recover(open);
        QVERIFY(back && !(back->base == p && back->edits.empty()));
    }
    void edits_come_back_from_their_text() {
        for (unsigned seed = 1; seed <= 10; ++seed) {
            const Project p = testing::random_project({.pipes = 12, .seed = seed});
            Editing e(p, "näme \"quoted\"\n");
            for (const Structure& s : p.structures) e.set(Kind::Structure, s.id, "rim", s.rim + 0.1);
            e.set(Kind::Pipe, p.pipes.begin()->id, "bends", std::vector<Point>{{1.25, -3}, {0.1 + 0.2, 1e-9}});
            e.set(Kind::Pipe, p.pipes.begin()->id, "length", not_given);
            e.set(Kind::Settings, settings_id, "title", std::string("a\tb\\c"));
            e.remove(Kind::Structure, p.structures.begin()->id);
            RainEvent rain;
            rain.name = "7 years";
            rain.durations = {60, 300};
            rain.intensities = {1e-5, 5e-6};
            e.insert(rain);
            const Edit edit = e.take();
            const std::string text = edit_text(edit);
            QVERIFY(text.find('\n') == std::string::npos);
            const auto back = read_edit(text);
            QVERIFY(back);
            QCOMPARE(back->name, edit.name);
            Project a = p, b = p;
            apply(a, edit);
            apply(b, *back);
            QVERIFY(a == b);
            revert(b, *back);
            QVERIFY(b == p);
            QCOMPARE(edit_text(*back), text);
        }
        for (const char* bad : {"", "7", "{}", "[1,2]", "{\"name\":3}", "{\"name\":\"x\",\"changes\":[{\"set\":1}]}"}) {
            const auto read = read_edit(std::string(bad));
            QVERIFY(!read || read->empty());
        }
    }
    /// An edit in which a value does not fit is named and left out whole; those before and after it come back.
    void an_edit_that_does_not_fit_is_left_out_whole() {
        const std::string path = fresh();
        Project p = testing::random_project({.pipes = 10, .seed = 2});
        const std::uint64_t first = p.structures.begin()->id, other = std::next(p.structures.begin())->id;
        {
            Journal journal(path);
            journal.begin({p, "", {}, false, 0});
            const auto put = [&](const char* name, double rim, StructureKind kind) {
                Editing e(p, name);
                e.set(Kind::Structure, first, "rim", rim);
                e.set(Kind::Structure, other, "kind", kind);
                const Edit edit = e.take();
                apply(p, edit);
                journal.record(edit, p);
            };
            const StructureKind is = p.structures.find(other)->kind;
            put("one", 201, is == StructureKind::Inlet ? StructureKind::Manhole : StructureKind::Inlet);
            put("two", 202, StructureKind::Joint);
            put("three", 203, StructureKind::Manhole);
            QVERIFY(journal.settle());
            fs::copy_file(path, path + ".kept");
        }
        std::ifstream in(path + ".kept");
        std::string text((std::istreambuf_iterator<char>(in)), {}), spoiled = text;
        const auto at = spoiled.find("\"joint\"", spoiled.find("\"two\""));
        QVERIFY(at != std::string::npos);
        spoiled.replace(at, 7, "\"spoon\"");
        // As a program with other choices would have written it: with its checksum.
        const auto begin = spoiled.rfind('\n', at) + 1, end = spoiled.find('\n', at);
        boost::crc_32_type crc;
        crc.process_bytes(spoiled.data() + begin + 9, end - begin - 9);
        spoiled.replace(begin, 8, QString("%1").arg(crc.checksum(), 8, 16, QChar('0')).toStdString());
        std::ofstream(path + ".spoiled") << spoiled;
        const auto r = recover(path + ".spoiled");
        QVERIFY(r);
        QCOMPARE(r->left_out.size(), std::size_t{1});
        QVERIFY2(r->left_out[0].starts_with("two: ") && r->left_out[0].find("spoon") != std::string::npos,
                 r->left_out[0].c_str());
        QCOMPARE(r->edits.size(), std::size_t{3});
        QVERIFY(!r->edits[0].changes.empty() && r->edits[1].changes.empty() && !r->edits[2].changes.empty());
        QCOMPARE(r->project().structures.find(first)->rim, 203.0);
        QVERIFY(r->project().structures.find(other)->kind == StructureKind::Manhole);
    }
    void what_was_recorded_is_recovered_with_undo_and_redo() {
        const std::string path = fresh();
        Project p = testing::random_project({.pipes = 10, .seed = 2});
        const Project base = p;
        Journal journal(path);
        journal.begin({base, "", {}, false, 0});
        std::vector<Project> states{p};
        for (int k = 1; k <= 4; ++k) {
            const Edit edit = rename_first(p, k);
            apply(p, edit);
            journal.record(edit, p);
            states.push_back(p);
        }
        journal.undo({}, states[3]);
        journal.undo({}, states[2]);
        journal.redo({}, states[3]);
        QVERIFY(journal.settle());
        const auto r = recover(path);
        QVERIFY(r);
        QVERIFY(r->base == base);
        QCOMPARE(r->done, std::size_t{3});
        QCOMPARE(r->edits.size(), std::size_t{4});
        QVERIFY(r->saved_at == 0 && !r->file_gone && !r->file_differs);
        QVERIFY(r->project() == states[3]);
        QCOMPARE(r->edits[0].name, std::string("step 1"));
        QVERIFY(!r->truncated);
        QVERIFY2(journal.worst_delay() < 1, "on disk a second late at most");
        journal.close();
        QVERIFY(!fs::exists(path));
        QVERIFY(!recover(path));
        journal.saving("00");  // of a project that is closed there is nothing to be brought back
        QVERIFY(journal.settle());
        QVERIFY(!fs::exists(path));
    }
    /// Steps back and forth that there is nothing for are left out.
    void a_step_without_an_edit_is_none() {
        const std::string file = fresh();
        Project p = testing::random_project({.pipes = 4, .seed = 4});
        QVERIFY(save_project(p, file).ok);
        const Project base = p;
        const std::string path = fresh();
        {
            Journal journal(path);
            journal.begin({p, file, stamp_of(file), false, 0});
            const Edit edit = rename_first(p, 1);
            apply(p, edit);
            journal.record(edit, p);
            QVERIFY(journal.settle());
        }
        const std::string written = text_of(path);
        const auto with = [&](int undo, int redo) {
            std::string text = written;
            for (int i = 0; i < undo + redo; ++i) {
                const std::string body = i < undo ? "{\"undo\":true}" : "{\"redo\":true}";
                boost::crc_32_type crc;
                crc.process_bytes(body.data(), body.size());
                text += id_text(crc.checksum()).substr(8) + " " + body + "\n";
            }
            std::ofstream(path, std::ios::binary) << text;
            return recover(path);
        };
        QCOMPARE(with(0, 0)->project_path, file);
        QVERIFY(with(0, 0)->project() == p);
        QVERIFY(with(0, 3)->project() == p);
        QVERIFY(!with(3, 0) || with(3, 0)->project() == base);
        QVERIFY(with(2, 3)->project() == p);
    }
    void a_disk_that_refuses_says_so() {
        JournalDisk disk;
        const std::string path = fresh(), none = fs::path(path).parent_path().string() + "/none/x";
        QVERIFY(disk.create(path, "a") && disk.append(path, "b") && disk.flush(path));
        QVERIFY(!disk.create(none, "a") && !disk.append(none, "a") && !disk.flush(none));
        QVERIFY(!disk.rename(none, path) && !disk.rename(path, none) &&
                !disk.rename(path, fs::path(path).parent_path().string()));
        QVERIFY(fs::exists(path));
        QVERIFY(disk.rename(path, path + "2") && !fs::exists(path) && fs::exists(path + "2"));
        disk.remove(path + "2");
        QVERIFY(!fs::exists(path + "2"));
    }
    void killed_at_any_step_it_gives_back_a_state_that_was_accepted() {
        kill_everywhere(testing::random_project({.pipes = 6, .seed = 4}), rename_first, [this] { return fresh(); });
    }
    void killed_while_ponds_are_drawn() {
        const testing::PondSite site;
        kill_everywhere(
            site.project,
            [&](const Project& p, int k) {
                Editing e(p, "storage " + std::to_string(k));
                switch (k) {
                    case 1:
                        e.set(Kind::PondOutlet, site.low, "size", 0.175);
                        e.set(Kind::PondOutlet, site.low, "behind", std::string("high"));
                        break;
                    case 2: e.remove(Kind::PondOutlet, site.high); break;
                    case 3: {
                        Release r;
                        r.id = 70001;
                        r.structure = site.end;
                        r.event = {p.events.begin()->id};
                        r.flow = 0.21;
                        e.insert(r);
                        PondOutlet o = *p.outlets.find(site.spill);
                        o.id = 70002;
                        o.name = "second spillway";
                        e.insert(o);
                        break;
                    }
                    case 4: {
                        Pond pond = *p.ponds.find(site.pond_row);
                        pond.levels = {40, 41.25, 43};
                        pond.areas = {300, 410.5, 900};
                        e.remove(Kind::Pond, site.pond_row);
                        pond.id = 70003;
                        e.insert(pond);
                        e.set(Kind::Settings, settings_id, "runoff_by", RunoffBy::Plane);
                        break;
                    }
                    default: e.remove(Kind::Structure, site.pond.value);
                }
                return e.take();
            },
            [this] { return fresh(); });
    }
    void a_save_makes_the_journal_obsolete_only_when_it_went_through() {
        const std::string file = dir_.path().toStdString() + "/saved.culvert";
        Project p = testing::random_project({.pipes = 6, .seed = 5});
        QVERIFY(save_project(p, file).ok);
        for (const bool saved : {true, false}) {
            const std::string path = fresh();
            Project q = load_project(file).project;
            Journal journal(path);
            journal.begin({q, file, stamp_of(file), false, 0});
            const Edit first = rename_first(q, 1);
            apply(q, first);
            journal.record(first, q);
            journal.saving(content_hash(write_project(q)));
            if (saved) QVERIFY(save_project(q, file).ok);
            const auto r = recover(path);
            QCOMPARE(r.has_value(), !saved);
            if (r) QVERIFY(!r->file_differs);
            // One more Edit after the save: only that comes back.
            const Edit second = rename_first(q, 2);
            apply(q, second);
            journal.record(second, q);
            journal.settle();
            const auto later = recover(path);
            QVERIFY(later);
            QCOMPARE(later->done - later->saved_at, saved ? std::size_t{1} : std::size_t{2});
            QVERIFY(!later->file_differs);
            QVERIFY(later->project() == q);
            journal.close();
            if (saved) QVERIFY(save_project(p, file).ok);
        }
        // The file was changed by somebody else meanwhile: said.
        const std::string path = fresh();
        Journal journal(path);
        journal.begin({load_project(file).project, file, stamp_of(file), false, 0});
        journal.record(rename_first(p, 3), p);
        journal.settle();
        QVERIFY(save_project(testing::random_project({.pipes = 3, .seed = 8}), file).ok);
        const auto r = recover(path);
        QVERIFY(r && r->file_differs);
    }
    void an_undo_below_the_base_takes_its_edit_back() {
        const std::string path = fresh();
        Project p = testing::random_project({.pipes = 6, .seed = 9});
        std::vector<Project> states{p};
        std::vector<Edit> edits;
        for (int k = 1; k <= 2; ++k) {
            edits.push_back(rename_first(p, k));
            apply(p, edits.back());
            states.push_back(p);
        }
        {
            Journal journal(path);
            journal.begin({p, "", {}, false, 0});  // saved with both
            journal.undo(edits[1], states[1]);
            QVERIFY(journal.settle());
            const auto one = recover(path);
            QVERIFY(one);
            QVERIFY(one->project() == states[1]);
            QVERIFY(one->base == states[1]);
            QCOMPARE(one->edits.size(), std::size_t{1});  // it can be done again
            QCOMPARE(one->done, std::size_t{0});
            QCOMPARE(one->saved_at, std::size_t{1});
            journal.undo(edits[0], states[0]);
            QVERIFY(journal.settle());
            QVERIFY(recover(path)->project() == states[0]);
            journal.redo(edits[0], states[1]);
            QVERIFY(journal.settle());
        }
        const auto r = recover(path);
        QVERIFY(r);
        QVERIFY(r->project() == states[1]);
        Project again = r->base;
        for (const Edit& e : r->edits) apply(again, e);
        QVERIFY(again == states[2]);
    }
    void damage_never_brings_back_what_was_not_there() {
        const std::string path = fresh();
        Project p = testing::random_project({.pipes = 5, .seed = 6});
        std::vector<Project> states{p};
        {
            Journal journal(path);
            journal.begin({p, "", {}, false, 0});
            for (int k = 1; k <= 4; ++k) {
                const Edit edit = rename_first(p, k);
                apply(p, edit);
                states.push_back(p);
                journal.record(edit, p);
            }
            journal.settle();
        }
        const std::string whole = text_of(path);
        std::mt19937 random(3);
        for (int round = 0; round < 200; ++round) {
            std::string bytes = whole;
            if (round % 2) bytes.resize(random() % bytes.size());
            else bytes[random() % bytes.size()] = static_cast<char>(random());
            std::ofstream(path, std::ios::binary) << bytes;
            const auto r = recover(path);
            if (r) QVERIFY(r->done < states.size() && r->project() == states[r->done]);
        }
        for (const char* other : {"", "hello\n", "{}\n"}) {
            std::ofstream(path, std::ios::binary) << other;
            QVERIFY(!recover(path));
        }
    }
    void journals_that_no_program_holds_are_found() {
        const std::string folder = dir_.path().toStdString() + "/state";
        fs::create_directory(folder);
        const std::string file = folder + "/a.culvert";
        Project p = testing::random_project({.pipes = 3, .seed = 5});
        QVERIFY(save_project(p, file).ok);
        const std::string mine = journal_name(folder, file), other = journal_name(folder, "");
        QVERIFY(mine != journal_name(folder, file));
        {
            Journal journal(mine), never_saved(other);
            journal.begin({p, file, stamp_of(file), false, 0});
            never_saved.begin({p, "", {}, false, 0});
            const Edit edit = rename_first(p, 1);
            journal.record(edit, p);
            never_saved.record(edit, p);
            QVERIFY(journal.settle() && never_saved.settle());
            QVERIFY2(journals_left(folder, "").empty(), "both are held, whatever their process is called");
        }
        QCOMPARE(journals_left(folder, file), std::vector<std::string>{mine});
        QCOMPARE(journals_left(folder, "").size(), std::size_t{2});
        QVERIFY(journals_left(folder + "/nowhere", "").empty());
        // Renamed since: the same file, under another name.
        const std::string renamed = folder + "/b.culvert";
        fs::rename(file, renamed);
        QCOMPARE(journals_left(folder, renamed), std::vector<std::string>{mine});
        // Gone: the journal holds the whole project.
        fs::remove(renamed);
        const auto r = recover(mine);
        QVERIFY(r && r->file_gone);
        QCOMPARE(r->project().structures.begin()->description, std::string("step 1"));
    }

    void surfaces_come_back_from_their_text() {
        std::mt19937 random(9);
        std::uniform_real_distribution<double> u(-1e6, 1e6);
        SurfaceData d;
        for (int i = 0; i < 300; ++i) d.points.push_back({u(random), u(random), i % 7 ? u(random) : std::nan("")});
        d.breaklines = {{{1, 2, 3}, {4, 5, std::nan("")}}, {}};
        d.boundaries = {{{0, 0}, {1, 0}, {1, 1}}};
        d.holes = {{{0.25, 0.25}, {0.5, 0.25}, {0.5, 0.5}}};
        d.faces = {{0, 1, 2}, {2, 1, 3}};
        d.longest_edge = 55.5;
        d.coordinates = "EPSG:25832, metres";
        const std::string text = write_surface(d);
        std::string error;
        const auto back = read_surface(text, &error);
        QVERIFY2(back, error.c_str());
        QCOMPARE(write_surface(*back), text);
        for (std::size_t i = 0; i < d.points.size(); ++i) {
            QCOMPARE(back->points[i].x, d.points[i].x);
            QVERIFY(back->points[i].z == d.points[i].z || std::isnan(d.points[i].z));
        }
        QCOMPARE(back->faces, d.faces);
        QCOMPARE(back->coordinates, d.coordinates);
        for (const std::string& bad : {std::string(), std::string("hello"), text.substr(0, 100),
                                       std::string("calm-culvert surface 1\npoints 99999999999\n"),
                                       std::string("calm-culvert surface 1\npoints 1\n1 2 3\nfaces 1\n0 1 2\n"),
                                       std::string("calm-culvert surface 1\nwhat 1\n1\n")}) {
            QVERIFY(!read_surface(bad, &error));
            QVERIFY(!error.empty());
        }
    }
    void assets_lie_beside_the_project_once_it_is_saved() {
        const std::string spool = dir_.path().toStdString() + "/spool",
                          file = dir_.path().toStdString() + "/with.culvert";
        fs::create_directory(spool);
        Project p = new_project(UnitSystem::Si);
        std::string hash;
        {
            AssetStore store(spool);
            hash = store.add("the ground");
            QVERIFY(fs::exists(spool + "/" + hash));  // safe before any save
            Surface s;
            s.id = 5;
            s.name = "ground";
            s.asset = hash;
            p.surfaces.insert(s);
            QCOMPARE(assets_of(p), std::vector<std::string>{hash});
            QVERIFY(store.save(p, file).empty());
            QVERIFY(fs::exists(spool + "/" + hash));  // another project that is not saved may need it
        }
        AssetStore other;
        QVERIFY(!other.find(hash));
        other.set_project(file);
        QCOMPARE(*other.find(hash), std::string("the ground"));
        struct stat first, again;
        const std::string there = AssetStore::folder_of(file) + "/" + hash;
        QCOMPARE(stat(there.c_str(), &first), 0);
        QVERIFY(other.save(p, file).empty());
        QCOMPARE(stat(there.c_str(), &again), 0);
        QCOMPARE(again.st_ino, first.st_ino);  // gigabytes are not written at every save
        // Changed bytes are not the asset.
        AssetStore third;
        std::ofstream(AssetStore::folder_of(file) + "/" + hash) << "something else";
        third.set_project(file);
        QVERIFY(!third.find(hash));
        QVERIFY(!third.find("../../etc/passwd"));
        QVERIFY(!other.save(p, "/proc/nowhere/x.culvert").empty());
        // The published SHA-256 of "abc" (FIPS 180-4).
        QCOMPARE(content_hash("abc"), std::string("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"));
        // Content named by programs before is still found: FNV-1a of 128 bits, of which "" has the offset basis.
        QVERIFY(is_content_of("", "6c62272e07bb014262b821756295c58d"));
        QVERIFY(!is_content_of("x", "6c62272e07bb014262b821756295c58d"));
        // A spool that cannot be written is said; one that can clears it.
        AssetStore store;
        store.set_spool("/proc/no/such/folder");
        store.add("something");
        QVERIFY(!store.trouble().empty());
        QTemporaryDir folder;
        store.set_spool(folder.path().toStdString());
        store.add("another thing");
        QVERIFY(store.trouble().empty());
        // Worked with whole numbers of any length: xor each byte, times 2^88 + 2^8 + 0x3b, modulo 2^128.
        QVERIFY(is_content_of("a", "d228cb696f1a8caf78912b704e4a8964"));
        QVERIFY(is_content_of("foobar", "343e1662793c64bf6f0d3597ba446f18"));
    }
};

QTEST_GUILESS_MAIN(TestJournal)
#include "test_journal.moc"
