// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/grade_command.h"

#include <algorithm>
#include <cmath>
#include <iostream>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>

#include "core/analysis/solver.h"
#include "core/design/branch_remedy.h"
#include "core/design/grading.h"
#include "core/design/propose_network.h"
#include "core/design/ties.h"
#include "core/model/lay.h"
#include "core/review/clashes.h"
#include "drawing/profile_sheet.h"
#include "exchange/shelf.h"
#include "report/drawing_files.h"
#include "report/tables.h"

namespace culvert::cli {
namespace {

using Json = nlohmann::ordered_json;
constexpr int done = 0, conflict = 1, bad_use = 2, bad_file = 3;

struct Given {
    std::string file, from, to, every, matching = "project", output;
    std::vector<std::string> pins, arriving, slopes, drops;
    bool json = false;
};

int fail(const std::string& words) {
    std::cerr << words << "\n";
    return bad_use;
}

/// "A1 82.4": the name of an element of the run at the front, the rest behind it; the longest name that fits.
struct Named {
    std::size_t place = 0;
    std::string rest;
    bool found = false;
};
template <class Ids>
Named named(const Project& project, const std::string& words, const Ids& ids, Kind kind) {
    for (std::size_t cut = words.size(); cut > 0; --cut) {
        if (cut == words.size() || words[cut] != ' ') continue;
        const ElementRef e = find_element(project, words.substr(0, cut));
        if (e.kind != kind) continue;
        for (std::size_t i = 0; i < ids.size(); ++i)
            if (ids[i].value == e.id) return {i, words.substr(cut + 1), true};
    }
    return {};
}

/// Fills in what was asked; a sentence where it cannot be read.
std::string read_ask(const Given& g, const Project& project, const std::vector<StructureId>& places, RunAsk& ask) {
    const UnitSet units = units_of(project);
    ask.places.resize(places.size());
    for (const bool arriving : {false, true})
        for (const std::string& words : arriving ? g.arriving : g.pins) {
            const Named at = named(project, words, places, Kind::Structure);
            if (!at.found) return "\"" + words + "\": begin with a structure of the run, as in \"A3 82.40\".";
            const TieRead read = read_tie(project, at.rest);
            if (!read.tie) return read.error + ".";
            PlaceAsk& place = ask.places[at.place];
            (arriving || at.place + 1 == places.size() ? place.arriving : place.leaving) = read.tie;
        }
    for (const std::string& words : g.slopes) {
        const Named at = named(project, words, ask.pipes, Kind::Pipe);
        if (!at.found) return "\"" + words + "\": begin with a pipe of the run, as in \"A3-A4 0.5%\".";
        const Entry e = read_entry(at.rest, Quantity::Slope, units);
        if (!e.ok) return words + ": " + e.error;
        ask.places[at.place].slope = e.value;
    }
    for (const std::string& words : g.drops) {
        const Named at = named(project, words, places, Kind::Structure);
        if (!at.found) return "\"" + words + "\": begin with a structure of the run, as in \"A3 0.05\".";
        const Entry e = read_entry(at.rest, Quantity::Length, units);
        if (!e.ok) return words + ": " + e.error;
        ask.places[at.place].drop = e.value;
    }
    if (!g.every.empty()) {
        const TieRead read = read_tie(project, g.every);
        if (!read.tie) return read.error + ".";
        ask.every = read.tie;
    }
    return {};
}

Json number(double v) { return std::isnan(v) ? Json(nullptr) : Json(v); }

void print(const Given& g, const Project& project, const Graded& graded) {
    const UnitSet u = units_of(project);
    const auto level = [&](double v) { return u.number(v, Quantity::Level); };
    const std::string unit(u.unit(Quantity::Level).symbol);
    TextTable t{{"structure", "at", "rim", "arrives", "to", "fall", "leaves", "to", "slope", "to"},
                {"", std::string(u.unit(Quantity::Length).symbol), unit, unit, unit,
                 std::string(u.unit(Quantity::Length).symbol), unit, unit, std::string(u.unit(Quantity::Slope).symbol),
                 std::string(u.unit(Quantity::Slope).symbol)},
                {},
                {true, false, false, false, false, false, false, false, false, false}};
    Json places = Json::array(), conflicts = Json::array();
    for (const GradedPlace& p : graded.places) {
        const std::string name = element_name(project, Kind::Structure, p.structure.value);
        t.rows.push_back({name, u.number(p.x, Quantity::Length), level(p.rim), level(p.arriving_before),
                          level(p.arriving), u.number(p.fall, Quantity::Length), level(p.leaving_before),
                          level(p.leaving), u.number(p.slope_before, Quantity::Slope),
                          u.number(p.slope, Quantity::Slope)});
        places.push_back({{"structure", name},
                          {"at", p.x},
                          {"arriving", {number(p.arriving_before), number(p.arriving)}},
                          {"leaving", {number(p.leaving_before), number(p.leaving)}},
                          {"slope", {number(p.slope_before), number(p.slope)}},
                          {"fall", p.fall}});
    }
    for (const GradeConflict& c : graded.conflicts) conflicts.push_back({{"words", c.words}, {"pins", c.pins}});
    if (g.json) {
        std::cout << Json{{"places", places}, {"conflicts", conflicts}}.dump(2) << "\n";
        return;
    }
    std::cout << render(t) << "\n";
    for (const GradeConflict& c : graded.conflicts) {
        std::cout << c.words;
        for (std::size_t i = 0; i < c.pins.size(); ++i) std::cout << (i ? " and " : " (by ") << c.pins[i];
        std::cout << (c.pins.empty() ? "\n" : ")\n");
    }
    if (graded.conflicts.empty()) std::cout << "no conflicts\n";
}

int run_grade(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const Network network = compile(project);
    const ElementRef from = find_element(project, g.from), to = find_element(project, g.to);
    for (const auto& [name, e] : {std::pair{&g.from, from}, {&g.to, to}})
        if (e.kind != Kind::Structure) return fail("there is no structure \"" + *name + "\".");
    const RunFound run = run_between(project, network, {from.id}, {to.id});
    if (!run.error.empty()) return fail(run.error);
    RunAsk ask;
    ask.pipes = run.pipes;
    std::vector<StructureId> places{{from.id}};
    for (const PipeId p : run.pipes)
        places.push_back(nth(network.nodes, nth(network.links, network.link_of(p)).to).structure);
    constexpr const char* matchings[] = {"inverts", "0.8", "centres", "crowns"};
    ask.matching = project.settings().matching;
    for (std::size_t i = 0; i < std::size(matchings); ++i)
        if (g.matching == matchings[i]) ask.matching = static_cast<Matching>(i);
    if (const std::string fault = read_ask(g, project, places, ask); !fault.empty()) return fail(fault);
    const Graded graded = grade_run(project, network, ask, ground_beside(project, g.file));
    if (!graded.error.empty()) return fail(graded.error);
    print(g, project, graded);
    if (!g.output.empty()) {
        apply(project, graded.edit);
        if (const int code = write_with_assets(project, g.file, g.output)) return code;
    }
    return graded.conflicts.empty() ? done : conflict;
}

/// Levels that follow the ground, rims and pipes they were tied to.
int run_ties(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const TiesFollowed f = follow_ties(project, ground_beside(project, g.file));
    for (const std::string& line : in_words(project, f.edit)) std::cout << line << "\n";
    for (const GradeConflict& c : f.conflicts) std::cout << c.words << "\n";
    for (const std::string& words : f.broken) std::cerr << words << "\n";
    std::cout << f.moved << " of " << f.ties << " tied levels move\n";
    if (!g.output.empty()) {
        apply(project, f.edit);
        if (const int code = write_with_assets(project, g.file, g.output)) return code;
    }
    return f.conflicts.empty() && f.broken.empty() ? done : conflict;
}

int run_mend(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const RainEvent* event = g.every.empty() ? design_event(project) : find_event(project, g.every);
    if (!event)
        return fail(g.every.empty() ? "the project has no rain event." : "there is no event \"" + g.every + "\".");
    const Results results = solve(project);
    const ElementRef from = find_element(project, g.from), to = find_element(project, g.to);
    for (const auto& [name, e] : {std::pair{&g.from, from}, {&g.to, to}})
        if (e.kind != Kind::Structure) return fail("there is no structure \"" + *name + "\".");
    const RunFound run = run_between(project, *results.front()->network, {from.id}, {to.id});
    if (!run.error.empty()) return fail(run.error);
    const BranchRemedy r = mend_branch(project, results, run.pipes, {event->id});
    const UnitSet u = units_of(project);
    if (g.json) {
        Json changes = Json::array();
        for (const BranchChange& c : r.changes)
            changes.push_back(
                {{"pipe", element_name(project, Kind::Pipe, c.pipe.value)}, {"size", {c.before, c.after}}});
        std::cout << Json{{"changes", changes},     {"before", r.before}, {"left", r.left},
                          {"gone", r.gone},         {"new", r.added},     {"cost", r.cost},
                          {"smallest", r.smallest}, {"tried", r.tried},   {"why", r.why}}
                         .dump(2)
                  << "\n";
    } else {
        for (const BranchChange& c : r.changes)
            std::cout << element_name(project, Kind::Pipe, c.pipe.value) << ": " << u.text(c.before, Quantity::Size)
                      << " to " << u.text(c.after, Quantity::Size) << "\n";
        if (r.edit.empty()) std::cout << r.why << "\n";
        else
            std::cout << r.before - r.left << " of " << r.before << " findings of the run gone, " << r.added
                      << " new; cost " << std::lround(r.cost)
                      << (r.smallest ? "; no fewer pipes will do\n" : "; a small set, not proven the smallest\n");
    }
    if (!g.output.empty()) {
        apply(project, r.edit);
        if (const int code = write_with_assets(project, g.file, g.output)) return code;
    }
    return r.left || r.edit.empty() ? conflict : done;
}

/// The run through an element, from its farthest head to its outfall, as a drawing.
int run_network(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    NetworkAsk ask;
    if (!g.to.empty()) {
        const ElementRef e = find_element(project, g.to);
        const Structure* s = e.kind == Kind::Structure ? project.structures.find(e.id) : nullptr;
        if (!s || s->kind != StructureKind::Outfall) return fail("there is no outfall \"" + g.to + "\".");
        ask.outfall = {s->id};
    }
    const NetworkProposal n = propose_network(project, ground_beside(project, g.file), ask);
    if (!n.error.empty()) return fail(n.error + ".");
    if (g.json)
        std::cout << Json{{"pipes", n.pipes},
                          {"manholes", n.manholes},
                          {"length", n.length},
                          {"volume", n.volume},
                          {"cost", n.cost},
                          {"cost_of_shortest_ways", n.cost_first},
                          {"left_out", n.left_out.size()}}
                         .dump(2)
                  << "\n";
    else
        std::cout << n.pipes << " pipes, " << n.manholes << " manholes, "
                  << units_of(project).text(n.length, Quantity::Length) << ", " << std::lround(n.volume)
                  << " m3 dug, cost " << std::lround(n.cost) << "; the tree of shortest ways costs "
                  << std::lround(n.cost_first) << "\n";
    for (const StructureId s : n.left_out)
        std::cerr << "no way leads from " << element_name(project, Kind::Structure, s.value) << "\n";
    if (!g.output.empty()) {
        apply(project, n.edit);
        if (const int code = write_with_assets(project, g.file, g.output)) return code;
    }
    return n.left_out.empty() ? done : conflict;
}

}  // namespace

std::function<std::optional<int>()> add_grade_command(CLI::App& app, Load load) {
    auto g = std::make_shared<Given>();
    auto* c = app.add_subcommand("grade", "Grade a run: pinned levels and slopes stay, the rest follows by rule");
    c->add_option("project", g->file, "Project file, or demo")->required();
    c->add_option("from", g->from, "Structure at the head of the run")->required();
    c->add_option("to", g->to, "Structure at its end")->required();
    c->add_option("--pin", g->pins,
                  "Level that leaves a structure (arrives at the last): \"A3 82.40\", \"A3 ground - "
                  "1.5\", \"A3 cover 1.2\", \"A3 B1-A3 - 0.05\"")
        ->allow_extra_args(false);
    c->add_option("--arriving", g->arriving, "Level that arrives at a structure")->allow_extra_args(false);
    c->add_option("--slope", g->slopes, "Slope that a pipe keeps: \"A3-A4 0.5%\"")->allow_extra_args(false);
    c->add_option("--drop", g->drops, "Fall across a structure: \"A3 0.05\"")->allow_extra_args(false);
    c->add_option("--every", g->every, "Tie of every level without a pin: \"ground - 1.5\"");
    c->add_option("--matching", g->matching, "What meets at structures")
        ->check(CLI::IsMember({"project", "inverts", "0.8", "centres", "crowns"}));
    c->add_option("--output,-o", g->output, "File to write with the levels taken");
    c->add_flag("--json", g->json, "JSON in SI units instead of a table");
    auto* t = app.add_subcommand("ties", "Levels follow the ground, rims and pipes they were tied to when graded");
    t->add_option("project", g->file, "Project file, or demo")->required();
    t->add_option("--output,-o", g->output, "File to write with the levels");
    auto* m = app.add_subcommand("mend", "The fewest larger pipes that keep the limits of a run");
    m->add_option("project", g->file, "Project file, or demo")->required();
    m->add_option("from", g->from, "Structure at the head of the run")->required();
    m->add_option("to", g->to, "Structure at its end")->required();
    m->add_option("--event,-e", g->every, "Event by name or return period (default: the minor system's)");
    m->add_option("--output,-o", g->output, "File to write with the sizes taken");
    m->add_flag("--json", g->json, "JSON in SI units instead of words");
    auto* n = app.add_subcommand("network", "Pipes along the streets from inlets without one to an outfall");
    n->add_option("project", g->file, "Project file, or demo")->required();
    n->add_option("--outfall", g->to, "Where to (default: the lowest)");
    n->add_option("--output,-o", g->output, "File to write with the pipes");
    n->add_flag("--json", g->json, "JSON in SI units instead of words");
    return [g, c, t, m, n, load = std::move(load)]() -> std::optional<int> {
        if (*n) return run_network(*g, load);
        if (*t) return run_ties(*g, load);
        if (*m) return run_mend(*g, load);
        if (!*c) return {};
        return run_grade(*g, load);
    };
}

}  // namespace culvert::cli
