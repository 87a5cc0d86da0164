// SPDX-License-Identifier: GPL-3.0-or-later
// Throws damaged text at every reader. Each round takes a good or an earlier interesting input, spoils it (bytes,
// digits, wild numbers, pieces of others, lines doubled or dropped, cut short) and reads it in a child process: one
// that crashes, aborts, or takes longer than its time is a failure, and so is a broken promise (what was read and
// written again reads as the same). The input is kept in build/fuzz.
//
//     culvert-fuzz [seconds] [--seed S] [reader ...]
#include <sys/mman.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <csignal>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <functional>
#include <iostream>
#include <random>

#include "core/base/numbers.h"
#include "core/design/design.h"
#include "core/model/catchment_time.h"
#include "core/model/formula.h"
#include "core/model/lay.h"
#include "core/model/variant.h"
#include "core/review/clashes.h"
#include "exchange/buried_lines.h"
#include "exchange/cover_layer.h"
#include "exchange/edit_text.h"
#include "exchange/file_review.h"
#include "exchange/journal.h"
#include "exchange/paste_table.h"
#include "exchange/rain_table.h"
#include "exchange/shelf.h"
#include "exchange/site_import.h"
#include "report/calc.h"
#include "report/quick.h"

using namespace culvert;
namespace fs = std::filesystem;

namespace {

constexpr unsigned seconds_for_one = 10;
constexpr std::size_t most_bytes = 1 << 20, largest_seed = 60'000;

[[noreturn]] void broken(const std::string& promise) {
    std::cerr << "broken promise: " << promise << std::endl;
    std::abort();
}
std::string text_of(const fs::path& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}
void try_surface(const SurfaceImport& s) {
    if (!s.ok) return;
    const auto t = Terrain::build(s.data);
    if (!t) return;
    for (std::size_t i = 0; i < t->triangles().size(); ++i)
        for (const std::uint32_t c : t->triangles()[i].corner)
            if (!in_reach(t->points()[c])) broken("a surface lies within reach");
    if (!(t->area() >= 0)) broken("a surface has an area");
    (void)t->section({t->bounds().left - 1, t->bounds().bottom}, {t->bounds().right, t->bounds().top + 1});
}
void try_project(const Project& p, bool solve_it) {
    if (p.settings_rows.size() != 1) broken("a project has one row of settings");
    const std::string text = write_project(p);
    const ReadOutcome again = read_project(text);
    if (!again.ok) broken("what is written can be read: " + (again.problems.empty() ? "" : again.problems[0].message));
    if (!(again.project == p)) broken("what is written reads back the same");
    if (!solve_it) return;
    const Network n = compile(p);
    (void)data_findings(p, n);
    (void)variant_findings(p);
    (void)dangling_references(p);
    for (const auto& r : solve(p)) {
        (void)review(p, *r);
        for (const NodeResult& node : r->nodes) {
            if (!(node.flow.flow >= 0)) broken("flows are numbers");
            if (std::isinf(node.level.level)) broken("levels are finite or unknown");
        }
    }
}

struct Reader {
    std::string name;
    std::vector<std::string> seeds;
    std::function<void(const std::string&)> read;
};

std::vector<Reader> readers() {
    const fs::path source = CULVERT_SOURCE, tests = source / "tests";
    const auto files = [](std::initializer_list<fs::path> folders, std::initializer_list<const char*> endings) {
        std::vector<std::string> out;
        for (const fs::path& folder : folders)
            for (const auto& e : fs::directory_iterator(folder))
                for (const char* ending : endings)
                    if (e.is_regular_file() && e.path().extension() == ending && e.file_size() < largest_seed)
                        out.push_back(text_of(e.path()));
        return out;
    };
    static const Project demo = load_project((source / "examples/alder-quay.culvert").string()).project;
    std::vector<Reader> list;
    list.push_back(
        {"project",
         files({source / "examples", tests / "found", tests / "exchange/malformed", tests / "exchange/readable"},
               {".culvert"}),
         [](const std::string& text) {
             const ReadOutcome r = read_project(text);
             if (!r.ok && r.problems.empty()) broken("a file that is refused is told why");
             if (r.ok) try_project(r.project, r.project.pipes.size() < 60);
         }});
    std::vector<std::string> edits;
    {
        Editing e(demo, "all kinds");
        for (const Structure& s : demo.structures) e.set(Kind::Structure, s.id, "rim", s.rim + 1);
        e.set(Kind::Structure, demo.structures.begin()->id, "kind", 3);
        e.set(Kind::Pipe, demo.pipes.begin()->id, "bends", std::vector<Point>{{1, 2}, {3, 4}});
        e.remove(Kind::Structure, std::next(demo.structures.begin())->id);
        Variant v;
        v.name = "V";
        v.id = 5;
        e.insert(v);
        edits.push_back(edit_text(e.take()));
        edits.push_back(edit_text(renumber(demo)));
    }
    list.push_back({"edit", edits, [](const std::string& text) {
                        std::vector<std::string> problems;
                        const auto e = read_edit(text, &problems);
                        if (!e) return;
                        if (e->unread.empty() != problems.empty()) broken("what does not fit is named and kept");
                        const std::string once = edit_text(*e);
                        const auto again = read_edit(once);
                        if (!again || edit_text(*again) != once) broken("an Edit reads back the same");
                        Project p = demo;
                        apply(p, *e);
                        try_project(p, p.pipes.size() < 60);
                        (void)with_overlay(demo, *e);
                        (void)composed(*e, *e);
                        (void)in_words(p, *e);
                        revert(p, *e);
                        if (p.settings_rows.size() != 1) broken("a project has one row of settings");
                    }});
    static const std::string scratch = "/tmp/culvert-fuzz-" + std::to_string(::getpid());
    {
        Journal j(scratch + ".journal");
        j.begin({new_project(UnitSystem::Us), "/nowhere/a.culvert", {}, false, 0});
        Project p = new_project(UnitSystem::Us);
        for (int k = 0; k < 3; ++k) {
            Editing e(p, "step");
            e.set(Kind::Settings, settings_id, "uplift", 1.1 + 0.1 * k);
            const Edit edit = e.take();
            apply(p, edit);
            j.record(edit, p);
        }
        j.undo({}, p);
        j.settle();
        list.push_back({"journal", {text_of(scratch + ".journal")}, [](const std::string& text) {
                            std::ofstream(scratch + ".j", std::ios::binary) << text;
                            const auto r = recover(scratch + ".j");
                            if (r) try_project(r->project(), false);
                        }});
        j.close();
    }
    list.push_back(
        {"points",
         files({source / "examples/site", tests / "found", tests / "exchange/malformed-points"}, {".csv", ".txt"}),
         [](const std::string& text) {
             const PointsLayout layout = sniff_points(text);
             try_surface(read_points(text, layout));
         }});
    list.push_back({"dxf",
                    files({source / "examples/site", tests / "found", tests / "exchange/malformed-dxf"}, {".dxf"}),
                    [](const std::string& text) {
                        const DrawingOutcome d = read_dxf(text);
                        if (!d.ok && d.problems.empty()) broken("a drawing that is refused is told why");
                        if (d.ok) try_surface(surface_of(d.drawing, std::vector<bool>(d.drawing.layers.size(), true)));
                    }});
    list.push_back({"landxml", files({source / "examples/site", tests / "exchange/malformed-landxml"}, {".xml"}),
                    [](const std::string& text) {
                        for (const SurfaceImport& s : read_landxml(text).surfaces) try_surface(s);
                    }});
    list.push_back(
        {"grid",
         {"ncols 4\nnrows 3\nxllcorner 100.5\nyllcorner 20\ncellsize 2\nNODATA_value -9999\n1 2 3 4\n2 3 -9999 "
          "5\n1 1 1 1.5\n"},
         [](const std::string& text) {
             std::ofstream(scratch + ".asc", std::ios::binary) << text;
             try_surface(read_grid(scratch + ".asc"));
         }});
    std::vector<std::string> surfaces = files({tests / "found"}, {".txt"});
    surfaces.push_back("calm-culvert surface 1\npoints 4\n0 0 1\n10 0 2\n0 10 3\n10 10 -\nfaces 1\n0 1 2\n");
    list.push_back({"surface", surfaces, [](const std::string& text) {
                        if (auto d = read_surface(text)) try_surface({true, "s", std::move(*d), {}, 0});
                    }});
    list.push_back({"criteria", {write_project(criteria_of(demo, "set", "1", "source"))}, [](const std::string& text) {
                        const ReadOutcome r = read_project(text);
                        if (!r.ok) return;
                        (void)criteria_differences(demo, r.project);
                        Project p = demo;
                        apply(p, criteria_edit(demo, r.project));
                        apply(p, library_edit(p, r.project, {true, true, true}));
                        try_project(p, true);
                    }});
    list.push_back({"rain",
                    {"Duration\t2\t10\t100 yr\n5 min\t120\t180\t240\n10\t90,5\t140\t190\n1 h\t30\t45\t70\n",
                     "min,2,10\n5,1.2,2.3\n15,2,3.5\n"},
                    [](const std::string& text) {
                        const RainTable t = read_rain_table(text, UnitSet());
                        if (!t.ok && t.problems.empty()) broken("a table that is refused is told why");
                        if (!t.ok) return;
                        Project p = demo;
                        apply(p, rain_edit(demo, t));
                        try_project(p, true);
                    }});
    for (const auto& [name, ending, form] :
         {std::tuple{"lines-csv", ".csv", BuriedForm::Csv}, {"lines-geojson", ".geojson", BuriedForm::GeoJson}})
        list.push_back({name, files({tests / "exchange/malformed-lines"}, {ending}), [form](const std::string& text) {
                            Project p = new_project(UnitSystem::Si);
                            const BuriedImport read = read_buried_lines(text, form, units_of(p));
                            if (read.ok == read.lines.empty()) broken("lines where it is well, none where it is not");
                            apply(p, buried_edit(p, read.lines, "fuzz"));
                            (void)clash_findings(p, clashes(p));
                        }});
    list.push_back({"covers", files({tests / "exchange/malformed-covers"}, {".geojson"}), [](const std::string& text) {
                        const CoverLayer layer = read_cover_layer(text);
                        if (layer.ok == layer.polygons.empty()) broken("a layer that is read holds polygons");
                        if (!layer.ok && layer.error.empty()) broken("a layer that is refused says why");
                        Project p = demo;
                        const CoverCut cut = cut_covers(p, layer.polygons, true);
                        apply(p, cut.edit);
                        for (const LandCover& l : p.land_covers)
                            if (!(l.area > 0)) broken("a land cover has an area");
                    }});
    list.push_back(
        {"parts",
         {"sheet 30m 1% 0.15; shallow 120m 2% paved; channel 200m 0.5% 0.03 0.4m; wave 20m 1% 0.1; time 4min"},
         [](const std::string& text) {
             const PartsRead r = read_parts(text, 0.08);
             for (const FlowPart& part : r.parts)
                 if (const double t = travel_time(part, {}); t < 0) broken("a time is not negative");
         }});
    list.push_back({"calc",
                    {"gutter flow=40l/s grade=1.2%", "opening flow=10l/s..90l/s/5 grade=2% length=3",
                     "normal flow=0.1m3/s size=600 slope=0.5%"},
                    [](const std::string& text) {
                        const CalcTable t = calculate(text.substr(0, 300), UnitSet(), Edition::Si);
                        if (t.error.empty() && (!t.calc || t.rows.empty()))
                            broken("a calculation answers or says why not");
                    }});
    list.push_back({"paste",
                    {"Name\tRim (ft)\tKind\nA1\t24.85\tinlet\nA2\t23,9\t\nX9\t22.10\tmanhole\n",
                     "name;known_flow;tailwater\nA1;12.5;free\nA3;0,2;level\n", "A1 25\nB1 24\n"},
                    [](const std::string& text) {
                        for (const Kind k : {Kind::Structure, Kind::Pipe, Kind::Limit, Kind::Event}) {
                            const PastePlan plan = plan_paste(demo, k, text, {});
                            Project p = demo;
                            apply(p, plan.edit);
                            try_project(p, true);
                        }
                    }});
    list.push_back({"formula",
                    {"=rim-1.2", "=max(rim, 3*size/1000)^2 + 450mm", "+10%", "=[Invert at start]-1:200*length"},
                    [](const std::string& text) {
                        std::vector<std::uint64_t> ids;
                        for (const Pipe& p : demo.pipes) ids.push_back(p.id);
                        const auto out =
                            edit_by_formula(demo, Kind::Pipe, *field_index(Kind::Pipe, "invert_from"), ids, text);
                        Project p = demo;
                        apply(p, out.edit);
                        try_project(p, false);
                    }});
    list.push_back({"entry",
                    {"18in", "450 mm", "82.40-0.6", "1:66", "1.5%", "1,234", "12 m3/s", "size for 264 l/s at 0.6 %"},
                    [](const std::string& text) {
                        for (std::size_t q = 0; q < quantity_count; ++q) {
                            const Entry e = read_entry(text, static_cast<Quantity>(q), UnitSet());
                            if (e.ok && !std::isfinite(e.value)) broken("an entry is a finite number");
                            if (!e.ok && e.error.empty()) broken("an entry that is refused is told why");
                        }
                        (void)quick_question(text, demo);
                        UnitSet u;
                        (void)u.apply(text);
                    }});
    return list;
}

class Spoiler {
  public:
    explicit Spoiler(unsigned seed) : random_(seed) {}
    std::string spoiled(const std::vector<std::string>& pool) {
        std::string s = pool[pick(pool.size())];
        const std::size_t times = 1 + pick(4);
        for (std::size_t k = 0; k < times; ++k) once(s, pool);
        if (s.size() > most_bytes) s.resize(most_bytes);
        return s;
    }

  private:
    std::size_t pick(std::size_t n) { return n ? static_cast<std::size_t>(random_() % n) : 0; }
    void once(std::string& s, const std::vector<std::string>& pool) {
        static const char* words[] = {
            "1e308", "-1e300", "NaN", "null",       "-1",     "0",    "1e-320", "99999999999999999999",
            "\"\"",  "[",      "{",   "}",          "]",      ",",    ";",      "\t",
            "\"",    "é",      "\n",  "--",         "0.0006", "true", ":",      "inf",
            "%",     "(",      "=",   "2147483648", "\\",     "–"};
        const std::size_t at = pick(s.size() + 1);
        switch (pick(9)) {
            case 0:
                if (!s.empty()) s[pick(s.size())] = static_cast<char>(random_());
                break;
            case 1: s.insert(at, words[pick(std::size(words))]); break;
            case 2: s.erase(at, 1 + pick(20)); break;
            case 3: s.resize(at); break;
            case 4: {  // a number becomes a wild one
                const auto digit = s.find_first_of("0123456789", at);
                if (digit == std::string::npos) break;
                const auto end = std::min(s.find_first_not_of("0123456789.eE+-", digit), s.size());
                s.replace(digit, end - digit, words[pick(8)]);
                break;
            }
            case 5: {  // a piece of another input
                const std::string& o = pool[pick(pool.size())];
                const std::size_t from = pick(o.size());
                s.insert(at, o.substr(from, 1 + pick(200)));
                break;
            }
            case 6: {  // a line twice
                const auto begin = s.rfind('\n', at ? at - 1 : 0), end = s.find('\n', at);
                if (begin != std::string::npos && end != std::string::npos && end > begin)
                    s.insert(end, s.substr(begin, end - begin));
                break;
            }
            case 7: {  // a line gone
                const auto begin = s.rfind('\n', at ? at - 1 : 0), end = s.find('\n', at);
                if (begin != std::string::npos && end != std::string::npos && end > begin) s.erase(begin, end - begin);
                break;
            }
            default: {  // a digit more or less
                const auto digit = s.find_first_of("0123456789", at);
                if (digit != std::string::npos) s[digit] = static_cast<char>('0' + pick(10));
            }
        }
    }
    std::mt19937 random_;
};

struct Shared {
    std::size_t rounds, size;
    char input[most_bytes];
};

/// Rounds until the time is over; false after a failure.
bool fuzz(const Reader& reader, double seconds, unsigned seed, Shared& shared, std::size_t& total) {
    if (reader.seeds.empty()) {
        std::cerr << reader.name << ": it has nothing to begin from\n";
        return false;
    }
    const auto now = [] { return std::chrono::steady_clock::now(); };
    const auto end = now() + std::chrono::duration<double>(seconds);
    bool good = true;
    for (unsigned batch = 0; good && now() < end; ++batch) {
        shared.rounds = 0;
        const pid_t child = ::fork();
        if (child == 0) {
            [[maybe_unused]] const rlimit memory{3UL << 30, 3UL << 30}, core{0, 0};
#if !defined(__SANITIZE_ADDRESS__)
            ::setrlimit(RLIMIT_AS, &memory);
#endif
            ::setrlimit(RLIMIT_CORE, &core);
            Spoiler spoiler(seed * 1000003 + batch);
            for (int k = 0; k < 400 && now() < end; ++k) {
                const std::string input =
                    k == 0 && batch < reader.seeds.size() ? reader.seeds[batch] : spoiler.spoiled(reader.seeds);
                shared.size = input.size();
                std::memcpy(shared.input, input.data(), input.size());
                ++shared.rounds;
                ::alarm(seconds_for_one);
                reader.read(input);
                ::alarm(0);
            }
            ::_exit(0);
        }
        int status = 0;
        ::waitpid(child, &status, 0);
        total += shared.rounds;
        if (!WIFEXITED(status) || WEXITSTATUS(status) != 0) {
            fs::create_directories("build/fuzz");
            const std::string kept =
                "build/fuzz/" + reader.name + "-" + std::to_string(seed) + "-" + std::to_string(batch);
            std::ofstream(kept, std::ios::binary).write(shared.input, static_cast<std::streamsize>(shared.size));
            std::cout << reader.name << ": "
                      << (WIFSIGNALED(status)
                              ? WTERMSIG(status) == SIGALRM ? "runs for ever" : strsignal(WTERMSIG(status))
                              : "ends")
                      << ", seed " << seed << ", round " << shared.rounds << " of batch " << batch << ": " << kept
                      << std::endl;
            good = false;
        }
    }
    return good;
}

}  // namespace

int main(int argc, char** argv) {
    double seconds = 60, given = 0;
    int seed = 1;
    std::vector<std::string> wanted;
    std::string again;
    for (int i = 1; i < argc; ++i) {
        const std::string a = argv[i];
        if (a == "--seed" && i + 1 < argc) parse_int(argv[++i], seed);
        else if (a == "--again" && i + 1 < argc) again = argv[++i];
        else if (parse_double(a, given)) seconds = given;
        else wanted.push_back(a);
    }
    void* memory = ::mmap(nullptr, sizeof(Shared), PROT_READ | PROT_WRITE, MAP_SHARED | MAP_ANONYMOUS, -1, 0);
    if (memory == MAP_FAILED) return 3;
    auto all = readers();
    if (!wanted.empty())
        std::erase_if(all,
                      [&](const Reader& r) { return std::find(wanted.begin(), wanted.end(), r.name) == wanted.end(); });
    if (!again.empty()) {  // one kept input, in this process
        for (const Reader& r : all) r.read(text_of(again));
        return 0;
    }
    int failed = 0;
    for (const Reader& r : all) {
        std::size_t rounds = 0;
        const bool good = fuzz(r, seconds / static_cast<double>(all.size()), static_cast<unsigned>(seed),
                               *static_cast<Shared*>(memory), rounds);
        failed += !good;
        std::cout << r.name << ": " << rounds << " rounds, seed " << seed << (good ? "" : ", FAILED") << std::endl;
    }
    for (const auto& e : fs::directory_iterator("/tmp"))
        if (e.path().string().starts_with("/tmp/culvert-fuzz-" + std::to_string(::getpid()))) fs::remove(e.path());
    return failed ? 1 : 0;
}
