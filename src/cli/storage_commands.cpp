// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/storage_commands.h"

#include <cmath>
#include <filesystem>
#include <iostream>
#include <memory>
#include <nlohmann/json.hpp>

#include "core/analysis/solver.h"
#include "core/base/numbers.h"
#include "core/design/storage_study.h"
#include "report/storage_tables.h"

namespace culvert::cli {
namespace {

using Json = nlohmann::ordered_json;
constexpr int done = 0, beyond = 1, bad_use = 2, bad_file = 3;

struct Given {
    std::string file, other, structure, event, output, series;
    bool json = false, csv = false;
    bool above = false, below = false;
    int rows = 25;
    double round = 0;
};

/// A table as it was asked for. JSON holds numbers in SI by the heads of their columns, whatever the project shows.
void print(const TextTable& t, const Given& g) {
    if (g.csv) std::cout << comma_separated(t);
    else if (!g.json) std::cout << render(t);
    else {
        Json out = Json::array();
        for (std::size_t k = 0; k < t.rows.size(); ++k) {
            Json o;
            for (std::size_t i = 0; i < t.rows[k].size(); ++i) {
                std::string key = t.heads[i];
                while (o.contains(key)) key += " ";
                const double v = t.si.empty() ? not_given : t.si[k][i];
                if (std::isfinite(v)) o[key] = v;
                else if (t.rows[k][i] == "–") o[key] = nullptr;
                else o[key] = t.rows[k][i];
            }
            out.push_back(std::move(o));
        }
        std::cout << out.dump(2) << "\n";
    }
}

class StorageCommands {
  public:
    StorageCommands(Given g, Load load) : g_(std::move(g)), load_(std::move(load)) {}

    int hydrographs() {
        if (const int code = open()) return code;
        const StructureId at = structure();
        if (!at) return bad_use;
        const auto all = hydrographs_at(project_, at);
        if (all.empty()) return none();
        bool any = false;
        for (const SiteHydrographs& h : all) {
            const RainEvent* e = project_.events.find(h.event.value);
            if (!wanted(*e)) continue;
            any = true;
            if (!g_.json && !g_.csv) std::cout << g_.structure << ", event " << e->name << "\n\n";
            print(hydrograph_table(project_, h), g_);
            if (!g_.json && !g_.csv) std::cout << "\n";
        }
        return any ? done : no_event();
    }
    int catchments() {
        if (const int code = open()) return code;
        bool any = false;
        for (const auto& r : solve(project_)) {
            const RainEvent* e = project_.events.find(r->event.value);
            if (!wanted(*e)) continue;
            if (!r->network->through_time) return none();
            any = true;
            if (!g_.series.empty()) {
                const ElementRef at = find_element(project_, g_.series);
                if (at.kind != Kind::Catchment || !at.id) {
                    std::cerr << "there is no catchment \"" << g_.series << "\".\n";
                    return bad_use;
                }
                if (!g_.json && !g_.csv) std::cout << g_.series << ", event " << e->name << "\n\n";
                print(catchment_series_table(project_, series_of_catchment(*r->network, rain_of(*e), {at.id})), g_);
                if (!g_.json && !g_.csv) std::cout << "\n";
                continue;
            }
            if (!g_.json && !g_.csv) std::cout << "event " << e->name << "\n\n";
            print(catchment_table(project_, *r), g_);
            if (!g_.json && !g_.csv) {
                const UnitSet u = units_of(project_);
                const WaterBalance& b = r->balance;
                const auto v = [&](double x) { return u.text(x, Quantity::Volume); };
                std::cout << "\nrunoff " << v(b.runoff) << ", known flows " << v(b.known) << "; left " << v(b.left)
                          << ", soaked away " << v(b.soaked) << ", still stored " << v(b.stored)
                          << ", still on its way " << v(b.cut) << "; difference " << v(b.error()) << "\n\n";
            }
        }
        return any ? done : no_event();
    }
    int ways() {
        if (const int code = open()) return code;
        const StructureId at = structure();
        if (!at) return bad_use;
        if (g_.above || g_.below) {
            print(reach_table(project_, compile(project_), at, g_.above), g_);
            return done;
        }
        bool any = false;
        for (const auto& r : solve(project_)) {
            const RainEvent* e = project_.events.find(r->event.value);
            if (!wanted(*e)) continue;
            any = true;
            if (!g_.json && !g_.csv) std::cout << g_.structure << ", event " << e->name << "\n\n";
            print(way_table(project_, *r, at), g_);
            if (!g_.json && !g_.csv) std::cout << "\n";
        }
        return any ? done : no_event();
    }
    int ponds() {
        if (const int code = open()) return code;
        const Results all = solve(project_);
        Results some;
        bool exceeds = false;
        for (const auto& r : all) {
            if (!wanted(*project_.events.find(r->event.value))) continue;
            if (!r->network->through_time) return none();
            some.push_back(r);
            for (const Finding& f : review(project_, *r).findings)
                exceeds |= f.check.verdict == Verdict::Beyond && stage_of(f.check.rule) == Stage::Storage;
        }
        if (some.empty()) return no_event();
        print(pond_table(project_, some), g_);
        return exceeds ? beyond : done;
    }
    int rating() {
        if (const int code = open()) return code;
        const StructureId at = structure();
        if (!at) return bad_use;
        const TextTable t = rating_table(project_, at, g_.rows);
        if (t.rows.empty()) {
            std::cerr << g_.structure << " has no pond, or the project has no hydrographs.\n";
            return bad_use;
        }
        print(t, g_);
        return done;
    }
    int volume() {
        if (const int code = open()) return code;
        const StructureId at = structure();
        if (!at) return bad_use;
        const auto all = hydrographs_at(project_, at);
        if (all.empty()) return none();
        print(volume_table(project_, required_volumes(all, project_.settings().release_cut),
                           critical_storms(project_, at)),
              g_);
        return done;
    }
    int report() {
        if (const int code = open()) return code;
        const StructureId at = structure();
        if (!at) return bad_use;
        const std::string text = storage_report(project_, at);
        if (text.empty()) return none();
        std::cout << text;
        return done;
    }
    int blocked() {
        if (const int code = open()) return code;
        const StructureId at = structure();
        if (!at) return bad_use;
        const auto rows = with_outlets_blocked(project_, at);
        if (rows.empty()) return none();
        print(blocked_table(project_, rows), g_);
        return std::any_of(rows.begin(), rows.end(), [](const BlockedPond& r) { return r.freeboard < 0; }) ? beyond
                                                                                                           : done;
    }
    int outlets() {
        if (const int code = open()) return code;
        const StructureId at = structure();
        if (!at) return bad_use;
        const OutletProposal p = size_outlets(project_, at);
        if (!p.why.empty()) {
            std::cerr << g_.structure << ": " << p.why << ".\n";
            return bad_use;
        }
        print(outlet_table(project_, p), g_);
        if (!g_.json && !g_.csv) std::cout << "\n";
        print(proof_table(project_, p), g_);
        if (!g_.json && !g_.csv) std::cout << (p.meets ? "\nall releases are met\n" : "\nnot all releases are met\n");
        if (!g_.output.empty()) {
            apply(project_, p.edit);
            if (const int code = write_with_assets(project_, g_.file, g_.output)) return code;
        }
        return p.meets ? done : beyond;
    }
    int before_after() {
        Project before;
        if (const int code = load_(g_.other, before)) return code;
        if (const int code = open()) return code;
        std::vector<std::string> unmatched;
        const auto rows = culvert::before_and_after(before, project_, &unmatched);
        for (const std::string& u : unmatched) std::cerr << u << ": only one of the two has it\n";
        print(before_after_table(project_, rows), g_);
        const bool exceeds = std::any_of(rows.begin(), rows.end(), [](const BeforeAfter& r) { return r.exceeds; });
        return rows.empty() ? bad_use : exceeds ? beyond : done;
    }
    int releases() {
        Project before;
        if (const int code = load_(g_.other, before)) return code;
        if (const int code = open()) return code;
        const StructureId at = structure();
        if (!at) return bad_use;
        const UnitSet u = units_of(project_);
        const Edit e = releases_from(before, project_, at, u.to_si(g_.round, Quantity::Flow),
                                     std::filesystem::path(g_.other).filename().string());
        if (e.changes.empty()) {
            std::cerr << "nothing was taken: no event of one name, or no end that fits.\n";
            return bad_use;
        }
        apply(project_, e);
        for (const Release& r : project_.releases)
            if (r.structure == at)
                std::cout << project_.events.find(r.event.value)->name << ": " << u.text(r.flow, Quantity::Flow)
                          << "\n";
        return g_.output.empty() ? done : write_with_assets(project_, g_.file, g_.output);
    }

  private:
    int open() { return load_(g_.file, project_); }
    [[nodiscard]] StructureId structure() const {
        const ElementRef e = find_element(project_, g_.structure);
        if (e.kind == Kind::Structure && e.id) return {e.id};
        std::cerr << "there is no structure \"" << g_.structure << "\".\n";
        return {};
    }
    [[nodiscard]] bool wanted(const RainEvent& e) const {
        if (g_.event.empty() || g_.event == "all") return true;
        const RainEvent* found = find_event(project_, g_.event);
        return found && found->id == e.id;
    }
    static int none() {
        std::cerr << "the project has no hydrographs: its runoff is by the rational method. Choose runoff by unit "
                     "hydrograph in its settings.\n";
        return bad_use;
    }
    [[nodiscard]] int no_event() const {
        std::cerr << "there is no event \"" << g_.event << "\".\n";
        return bad_use;
    }
    Given g_;
    Load load_;
    Project project_;
};

}  // namespace

std::function<std::optional<int>()> add_storage_commands(CLI::App& app, Load load) {
    auto g = std::make_shared<Given>();
    using Run = int (StorageCommands::*)();
    auto list = std::make_shared<std::vector<std::pair<CLI::App*, Run>>>();
    const auto command = [&](const char* name, const char* help, Run run, bool at, bool event) {
        auto* c = app.add_subcommand(name, help);
        c->add_option("project", g->file, "Project file, or demo")->required();
        if (at) c->add_option("structure", g->structure, "Structure, for example P1")->required();
        if (event) c->add_option("--event,-e", g->event, "Event by name or return period (default: all)");
        c->add_flag("--json", g->json, "JSON in SI units in place of a table");
        c->add_flag("--csv", g->csv, "Comma-separated values in place of a table");
        list->emplace_back(c, run);
        return c;
    };
    command("hydrographs", "Hydrographs at a structure, at the output interval", &StorageCommands::hydrographs, true,
            true);
    command("catchments", "What each catchment makes of the rain, and the water balance", &StorageCommands::catchments,
            false, true)
        ->add_option("--series", g->series, "One catchment through time instead: rain, lost, running off, flow");
    auto* ways = command("ways", "Pipes, street paths and outlets at a structure, and what runs by each",
                         &StorageCommands::ways, true, true);
    ways->add_flag("--above", g->above, "All structures whose water comes here, instead");
    ways->add_flag("--below", g->below, "All structures that its water reaches, instead");
    command("ponds", "Ponds in each event; the exit code tells whether one is beyond a limit", &StorageCommands::ponds,
            false, true);
    command("rating", "Space and outflow of a pond by level, and what governs each way out", &StorageCommands::rating,
            true, false)
        ->add_option("--rows", g->rows, "Levels")
        ->check(CLI::Range(2, 1000));
    command("volume", "Storage that the allowed releases ask for", &StorageCommands::volume, true, false);
    command("storage-report", "All of one pond as text for a reviewer", &StorageCommands::report, true, false);
    command("blocked", "A pond with every way out blocked but its overflow", &StorageCommands::blocked, true, false);
    command("outlets", "Size the outlets of a pond for its allowed releases", &StorageCommands::outlets, true, false)
        ->add_option("--output,-o", g->output, "File to write with the proposal accepted");
    auto* compare = command("before-after", "What leaves at each outfall, before and after",
                            &StorageCommands::before_after, false, false);
    compare->add_option("before", g->other, "Project of the site before")->required();
    auto* releases =
        command("releases", "Take what left before as allowed releases", &StorageCommands::releases, true, false);
    releases->add_option("before", g->other, "Project of the site before")->required();
    releases->add_option("--round", g->round, "Down to a multiple of this flow, in the project's unit");
    releases->add_option("--output,-o", g->output, "File to write");
    return [g, list, load]() -> std::optional<int> {
        for (const auto& [c, run] : *list)
            if (*c) return (StorageCommands(*g, load).*run)();
        return {};
    };
}

}  // namespace culvert::cli
