// SPDX-License-Identifier: GPL-3.0-or-later
// The headless command. Exit codes: 0 done and within limits, 1 findings beyond a limit or a case failed, 2 bad use,
// 3 a file could not be read or written. See docs/command-line.md.
#include <CLI/CLI.hpp>
#include <chrono>
#include <cmath>
#include <filesystem>
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/calc_command.h"
#include "cli/crossing_commands.h"
#include "cli/design_commands.h"
#include "cli/drawing_commands.h"
#include "cli/findings_printer.h"
#include "cli/grade_command.h"
#include "cli/outfall_command.h"
#include "cli/site_commands.h"
#include "cli/storage_commands.h"
#include "core/analysis/explain.h"
#include "core/base/numbers.h"
#include "core/base/words.h"
#include "core/design/design.h"
#include "core/design/propose_design.h"
#include "core/design/ties.h"
#include "core/review/clashes.h"
#include "core/review/policy.h"
#include "exchange/file_review.h"
#include "report/tables.h"
#include "report/validation.h"

namespace {

using namespace culvert;
using Json = nlohmann::ordered_json;
constexpr int done = 0, beyond = 1, bad_use = 2, bad_file = 3;

/// "demo" and the like stand for the example projects, wherever they are installed.
std::string resolve(const std::string& path) {
    namespace fs = std::filesystem;
    std::error_code ignored;
    if (fs::exists(path, ignored) || path.size() > 60 || path.find('/') != std::string::npos) return path;
    const std::string name = path == "demo" ? "alder-quay" : (path == "demo-us" ? "juniper-flat" : path);
    const fs::path program = fs::read_symlink("/proc/self/exe", ignored);
    for (const char* folder :
         {"../share/calm-culvert/examples", "../../../examples"})  // as installed, or beside the build
        if (const fs::path file = program.parent_path() / folder / (name + ".culvert"); fs::exists(file, ignored))
            return file.lexically_normal().string();
    return path;
}

void print_problems(const std::string& path, const std::vector<ReadProblem>& problems, bool warnings) {
    for (const ReadProblem& p : problems) {
        std::cerr << path;
        if (p.line > 0) std::cerr << ":" << p.line;
        if (p.column > 0) std::cerr << ":" << p.column;
        std::cerr << ": " << (warnings ? "warning: " : "") << sentences(p.message, p.remedy) << "\n";
    }
}

int load(const std::string& given, Project& project, ReadOutcome* kept = nullptr) {
    const std::string path = resolve(given);
    ReadOutcome read = load_project(path);
    if (!kept || !read.ok) print_problems(path, read.problems, read.ok);
    if (!read.ok) return bad_file;
    project = std::move(read.project);
    if (kept) *kept = std::move(read);
    return done;
}

/// The events a call asks for: all, one, or the design event of the minor system.
int choose_events(const Project& project, const std::string& wanted, std::vector<const RainEvent*>& events) {
    if (wanted == "all") events = events_in_order(project);
    else if (const RainEvent* e = wanted.empty() ? design_event(project) : find_event(project, wanted)) events = {e};
    if (!events.empty()) return done;
    if (project.events.empty()) {
        std::cerr << "the project has no rain event. Paste a rain table under Rain in the application.\n";
        return bad_use;
    }
    std::cerr << "there is no event \"" << wanted << "\". The project has:";
    for (const RainEvent* known : events_in_order(project)) std::cerr << " " << known->name << ";";
    std::cerr << " or use \"all\".\n";
    return bad_use;
}

std::shared_ptr<const EventResult> result_of(const Results& results, const RainEvent* event) {
    for (const auto& r : results)
        if (r->event.value == event->id) return r;
    return nullptr;
}

int run_solve(const std::string& file, const std::string& event, bool json) {
    Project project;
    if (const int code = load(file, project)) return code;
    std::vector<const RainEvent*> events;
    if (const int code = choose_events(project, event, events)) return code;
    const Results results = solve(project);
    Json out = Json::array();
    for (const RainEvent* e : events) {
        const auto r = result_of(results, e);
        if (json) {
            out.push_back(result_json(project, *r));
            continue;
        }
        std::cout << project.settings().title << ", event " << e->name << "\n\n"
                  << render(pipe_table(project, *r)) << "\n"
                  << render(structure_table(project, *r)) << "\n";
    }
    if (json) std::cout << out.dump(2) << "\n";
    return done;
}

int run_check(const std::string& file, const std::string& event, bool json) {
    Project project;
    ReadOutcome read;
    if (const int code = load(file, project, &read)) return code;
    std::vector<const RainEvent*> events;
    if (!project.events.empty() || (!event.empty() && event != "all"))
        if (const int code = choose_events(project, event, events)) return code;
    AssetStore assets;
    assets.set_project(resolve(file));
    std::vector<Finding> data = read_findings(read);
    const auto add = [&data](std::vector<Finding> more) {
        data.insert(data.end(), std::make_move_iterator(more.begin()), std::make_move_iterator(more.end()));
    };
    const auto network = std::make_shared<const Network>(compile(project));
    add(data_findings(project, *network));
    add(variant_findings(project));
    add(asset_findings(project, assets));
    add(clash_findings(project, clashes(project)));
    if (has_ties(project)) add(tie_findings(project, follow_ties(project, cli::ground_beside(project, file))));
    FindingPolicy(project).apply(data);
    std::size_t count = 0, worst = 0;
    // One event at a time, each finding printed as soon as it has its words: memory for one event, whatever the number.
    cli::FindingsPrinter print(project, json);
    const auto put = [&](std::vector<Finding> findings, const EventResult* result) {
        for (Finding& f : findings) {
            if (result) word(project, *result, f);
            ++count;
            worst += f.check.verdict == Verdict::Beyond;
            print.put(std::move(f));
        }
    };
    put(std::move(data), nullptr);
    for (const RainEvent* e : events) {
        const EventResult result = solve_one(network, rain_of(*e));
        put(review(project, result).findings, &result);
    }
    print.finish();
    if (!json && count == 0) std::cout << "no findings\n";
    else if (!json) std::cout << count << " findings, " << worst << " beyond a limit\n";
    return worst ? beyond : done;
}

int run_explain(const std::string& file, const std::string& element, const std::string& quantity,
                const std::string& event, bool json) {
    Project project;
    if (const int code = load(file, project)) return code;
    std::vector<const RainEvent*> events;
    if (const int code = choose_events(project, event, events)) return code;
    const ElementRef ref = find_element(project, element);
    if (!ref.id) {
        std::cerr << "there is no structure or pipe \"" << element
                  << "\". Pipes are named by their ends, for example A3-A4.\n";
        return bad_use;
    }
    const Results results = solve(project);
    Json out = Json::array();
    for (const RainEvent* e : events) {
        const Explanation x = explain(project, *result_of(results, e), ref, quantity);
        if (!x.error.empty()) {
            std::cerr << x.error << "\n";
            return bad_use;
        }
        if (json) out.push_back(working_json(x));
        else std::cout << working_text(x);
    }
    // One document: the working of one event, or a list of them where all were asked for.
    if (json) std::cout << (event == "all" ? out : out[0]).dump(2) << "\n";
    return done;
}

int run_size(const std::string& file, const std::string& event, const std::string& output, bool json) {
    Project project;
    if (const int code = load(file, project)) return code;
    std::vector<const RainEvent*> events;
    if (event == "all") {
        std::cerr << "sizes are proposed for one event: name it, or leave --event away for the minor system's.\n";
        return bad_use;
    }
    if (const int code = choose_events(project, event, events)) return code;
    const SizeProposal proposal = propose_sizes(project, {events[0]->id});
    const UnitSet u = units_of(project);
    TextTable t{{"pipe", "before", "after", "flow", "capacity", "reason"},
                {"", std::string(u.unit(Quantity::Size).symbol), std::string(u.unit(Quantity::Size).symbol),
                 std::string(u.unit(Quantity::Flow).symbol), std::string(u.unit(Quantity::Flow).symbol), ""},
                {},
                {true, false, false, false, false, true}};
    Json out = Json::array();
    for (const SizeRow& r : proposal.rows) {
        const std::string name = element_name(project, Kind::Pipe, r.pipe.value);
        t.rows.push_back({name, u.number(r.before, Quantity::Size), u.number(r.after, Quantity::Size),
                          u.number(r.flow, Quantity::Flow), u.number(r.capacity, Quantity::Flow), r.reason});
        out.push_back({{"pipe", name},
                       {"before", r.before},
                       {"after", r.after},
                       {"flow", r.flow},
                       {"capacity", r.capacity},
                       {"reason", r.reason}});
    }
    if (json) std::cout << out.dump(2) << "\n";
    else
        std::cout << render(t) << "\nbeyond a limit: " << proposal.beyond_before << " before, " << proposal.beyond_after
                  << " after\n";
    if (!output.empty()) {
        apply(project, proposal.edit);
        return cli::write_with_assets(project, resolve(file), output);
    }
    return done;
}

int run_design(const std::string& file, const std::string& event, const std::string& output, bool json) {
    Project project;
    if (const int code = load(file, project)) return code;
    std::vector<const RainEvent*> events;
    if (event == "all") {
        std::cerr << "a design is proposed for one event: name it, or leave --event away for the minor system's.\n";
        return bad_use;
    }
    if (const int code = choose_events(project, event, events)) return code;
    const DesignProposal d = propose_design(project, {events[0]->id});
    const UnitSet u = units_of(project);
    const auto unit = [&](Quantity q) { return std::string(u.unit(q).symbol); };
    TextTable t{{"pipe", "size", "to", "slope", "to", "start", "to", "end", "to", "flow", "cost", "to", "reason"},
                {"", unit(Quantity::Size), "", unit(Quantity::Slope), "", unit(Quantity::Level), "",
                 unit(Quantity::Level), "", unit(Quantity::Flow), "", "", ""},
                {},
                {true, false, false, false, false, false, false, false, false, false, false, false, true}};
    Json rows = Json::array();
    for (const DesignRow& r : d.rows) {
        const std::string name = element_name(project, Kind::Pipe, r.pipe.value);
        const auto n = [&](double v, Quantity q) { return u.number(v, q); };
        const auto money = [](double v) { return std::isnan(v) ? std::string("-") : std::to_string(std::lround(v)); };
        t.rows.push_back({name, n(r.size_before, Quantity::Size), n(r.size_after, Quantity::Size),
                          n(r.slope_before, Quantity::Slope), n(r.slope_after, Quantity::Slope),
                          n(r.up_before, Quantity::Level), n(r.up_after, Quantity::Level),
                          n(r.down_before, Quantity::Level), n(r.down_after, Quantity::Level),
                          n(r.flow, Quantity::Flow), money(r.cost_before), money(r.cost_after), r.reason});
        rows.push_back({{"pipe", name},
                        {"size", {r.size_before, r.size_after}},
                        {"slope", {r.slope_before, r.slope_after}},
                        {"start", {r.up_before, r.up_after}},
                        {"end", {r.down_before, r.down_after}},
                        {"flow", r.flow},
                        {"volume", {r.volume_before, r.volume_after}},
                        {"cost", {r.cost_before, r.cost_after}},
                        {"reason", r.reason}});
    }
    const auto why = block_words(project, d);
    if (json)
        std::cout << Json{{"passes", d.passes},
                          {"beyond", {d.beyond_before, d.beyond_after}},
                          {"beyond_in_other_events", {d.others_before, d.others_after}},
                          {"cost", {d.cost_before, d.cost_after}},
                          {"cost_of_plain_design", d.cost_plain},
                          {"prevented_by", why},
                          {"pipes", rows}}
                         .dump(2)
                  << "\n";
    else {
        std::cout << render(t) << "\nbeyond a limit: " << d.beyond_before << " before, " << d.beyond_after
                  << " after; in other events " << d.others_before << " before, " << d.others_after
                  << " after\ncost: " << std::lround(d.cost_before) << " before, " << std::lround(d.cost_after)
                  << " after\n";
        if (d.cost_plain > d.cost_after * 1.0005)
            std::cout << "the plain design, of the smallest sizes that will do, costs " << std::lround(d.cost_plain)
                      << "\n";
        for (const std::string& line : why) std::cout << line << "\n";
    }
    if (!output.empty()) {
        apply(project, d.edit);
        if (const int code = cli::write_with_assets(project, resolve(file), output)) return code;
    }
    return d.passes ? done : beyond;
}

int run_convert(const std::string& file, const std::string& output, const std::string& units) {
    Project project;
    if (const int code = load(file, project)) return code;
    if (!units.empty()) {
        Editing e(project, "Units");
        e.set(Kind::Settings, settings_id, "system", units == "US" ? 1 : 0);
        apply(project, e.take());
    }
    return cli::write_with_assets(project, resolve(file), output);
}

int run_validate(bool json) {
    TextTable t{{"case", "against", "unit", "expected", "computed", "difference", "allowed", ""},
                {},
                {},
                {true, true, true, false, false, false, false, true}};
    Json out = Json::array();
    int failed = 0;
    const auto cases = run_validation();
    for (const ValidationCase& c : cases) {
        failed += !c.passed();
        const std::string difference = scientific(c.difference(), 1),
                          allowed = scientific(c.tolerance, 0) + (c.relative ? " rel" : "");
        t.rows.push_back({c.name, c.against, c.unit, working_number(c.expected, 6), working_number(c.computed, 6),
                          difference, allowed, c.passed() ? "holds" : "FAILS"});
        out.push_back({{"case", c.name},
                       {"against", c.against},
                       {"unit", c.unit},
                       {"expected", c.expected},
                       {"computed", c.computed},
                       {"difference", c.difference()},
                       {"allowed", c.tolerance},
                       {"holds", c.passed()}});
    }
    if (json) std::cout << out.dump(2) << "\n";
    else
        std::cout << render(t) << "\n"
                  << cases.size() - static_cast<std::size_t>(failed) << " of " << cases.size() << " cases hold\n";
    return failed ? beyond : done;
}

int run_bench(const std::string& file) {
    Project project;
    if (const int code = load(file, project)) return code;
    const auto events = events_in_order(project);
    const auto now = [] { return std::chrono::steady_clock::now(); };
    const auto begin = now();
    int rounds = 0;
    while (now() - begin < std::chrono::milliseconds(500)) {
        solve(project);
        ++rounds;
    }
    const double us = std::chrono::duration<double, std::micro>(now() - begin).count() / rounds;
    std::cout << project.pipes.size() << " pipes, " << events.size() << " events: " << us / 1000
              << " ms a solve from nothing, "
              << us / static_cast<double>(std::max<std::size_t>(1, project.pipes.size() * events.size()))
              << " us per pipe and event\n"
              << "random networks of 1,000 to 100,000 pipes: ./dev bench\n";
    return done;
}

}  // namespace

// Only the declarations of the options stand outside its try blocks.
// NOLINTNEXTLINE(bugprone-exception-escape)
int main(int argc, char** argv) {
    CLI::App app{"Calm Culvert: gravity storm sewers, solved and checked"};
    app.set_version_flag("--version", std::string("calm-culvert-cli ") + CULVERT_VERSION);
    app.require_subcommand(1);
    app.footer(
        "Exit codes: 0 done, 1 findings beyond a limit (check) or a case that fails (validate), 2 bad use, 3 a "
        "file.\n\"demo\" and \"demo-us\" stand for the example projects.");
    std::string file, event, element, quantity, output, units;
    bool json = false;
    const auto common = [&](CLI::App* c, bool with_event) {
        c->add_option("project", file, "Project file, or demo")->required();
        if (with_event)
            c->add_option("--event,-e", event,
                          "Event by name or return period, or all (default: the minor system's design event)");
        c->add_flag("--json", json, "JSON in SI units instead of a table");
    };
    auto* c_solve = app.add_subcommand("solve", "Flows, capacities and grade lines");
    common(c_solve, true);
    auto* c_check = app.add_subcommand("check", "Findings; the exit code tells whether any is beyond its limit");
    common(c_check, true);
    auto* c_explain = app.add_subcommand("explain", "The working behind a number");
    common(c_explain, true);
    c_explain->add_option("element", element, "Structure or pipe, for example A3 or A3-A4")->required();
    c_explain
        ->add_option("quantity", quantity, "flow, time, capacity, \"normal depth\", velocity, friction, level, loss")
        ->required();
    auto* c_size = app.add_subcommand("size", "Propose sizes; write the project with them where --output is given");
    common(c_size, true);
    c_size->add_option("--output,-o", output, "File to write with the proposal accepted");
    auto* c_design = app.add_subcommand(
        "design",
        "Propose sizes, slopes and levels that keep every limit; write the project with them where --output is given");
    common(c_design, true);
    c_design->add_option("--output,-o", output, "File to write with the proposal accepted");
    auto* c_convert =
        app.add_subcommand("convert", "Write a project anew, in the current format, in other units where asked");
    c_convert->add_option("project", file, "Project file, or demo")->required();
    c_convert->add_option("output", output, "File to write")->required();
    c_convert->add_option("--units", units, "SI or US")->check(CLI::IsMember({"SI", "US"}));
    auto* c_bench = app.add_subcommand("bench", "Time a solve of a project on this machine");
    c_bench->add_option("project", file, "Project file, or demo")->default_val("demo");
    auto* c_validate = app.add_subcommand("validate", "Run the validation cases on this machine");
    c_validate->add_flag("--json", json, "JSON instead of a table");
    const auto load_resolved = [](std::string& path, Project& project) {
        path = resolve(path);
        return load(path, project);
    };
    const auto site = culvert::cli::add_site_commands(app, load_resolved);
    const auto drawings = culvert::cli::add_drawing_commands(app, load_resolved);
    const auto outfall = culvert::cli::add_outfall_command(app, load_resolved);
    const auto grade = culvert::cli::add_grade_command(app, load_resolved);
    const auto crossings = culvert::cli::add_crossing_commands(app, load_resolved);
    const auto storage = culvert::cli::add_storage_commands(app, load_resolved);
    const auto calc = culvert::cli::add_calc_command(app);
    const auto design = culvert::cli::add_design_commands(
        app, [](const std::string& path, Project& project) { return load(path, project); });
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) { return app.exit(e) == 0 ? done : bad_use; }
    const auto run = [&] {
        if (*c_solve) return run_solve(file, event, json);
        if (*c_check) return run_check(file, event, json);
        if (*c_explain) return run_explain(file, element, quantity, event, json);
        if (*c_size) return run_size(file, event, output, json);
        if (*c_design) return run_design(file, event, output, json);
        if (*c_convert) return run_convert(file, output, units);
        if (*c_bench) return run_bench(file);
        if (const auto code = site()) return *code;
        if (const auto code = drawings()) return *code;
        if (const auto code = outfall()) return *code;
        if (const auto code = grade()) return *code;
        if (const auto code = crossings()) return *code;
        if (const auto code = storage()) return *code;
        if (const auto code = calc()) return *code;
        if (const auto code = design()) return *code;
        return run_validate(json);
    };
    try {
        const int code = run();
        // What was printed must have arrived: a full disk behind the output is no success.
        std::cout.flush();
        if (std::cout.good()) return code;
        std::cerr << "the output could not be written: is the disk full?\n";
        return bad_file;
    } catch (const std::bad_alloc&) {
        std::cerr << "out of memory: the project is too large for this machine.\n";
    } catch (const std::exception& e) { std::cerr << "it could not be done: " << e.what() << "\n"; }
    return bad_file;
}
