// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/outfall_command.h"

#include <filesystem>
#include <iostream>
#include <memory>

#include "core/design/outer_levels.h"
#include "exchange/shelf.h"

namespace culvert::cli {
namespace {

constexpr int done = 0, bad_file = 3;

struct Given {
    std::string file, output, outfall, other, place;
};

/// What an outfall meets, from the project it leads to.
int run_tailwater(Given g, const Load& load) {
    Project project, other;
    if (const int code = load(g.file, project)) return code;
    if (const int code = load(g.other, other)) return code;
    const auto named = [](const Project& p, const std::string& name) {
        const ElementRef e = find_element(p, name);
        return e.kind == Kind::Structure ? p.structures.find(e.id) : nullptr;
    };
    const Structure* outfall = named(project, g.outfall);
    if (!outfall) {
        std::cerr << g.file << ": there is no structure " << g.outfall << "\n";
        return bad_file;
    }
    StructureId there = place_in(other, *outfall);
    if (!g.place.empty()) {
        const Structure* s = named(other, g.place);
        if (!s) {
            std::cerr << g.other << ": there is no structure " << g.place << "\n";
            return bad_file;
        }
        there = {s->id};
    }
    const OuterLevels found =
        outer_levels(project, {outfall->id}, other, there, std::filesystem::path(g.other).filename().string());
    if (!found.why.empty()) std::cerr << g.other << ": " << found.why << "\n";
    if (found.taken == 0) return bad_file;
    for (const std::string& line : in_words(project, found.edit)) std::cout << line << "\n";
    apply(project, found.edit);
    std::cout << found.taken << " levels taken\n";
    return g.output.empty() ? done : write_with_assets(project, g.file, g.output);
}

}  // namespace

std::function<std::optional<int>()> add_outfall_command(CLI::App& app, Load load) {
    auto g = std::make_shared<Given>();
    auto* tail = app.add_subcommand("tailwater", "What an outfall meets in each event, from the project it leads to");
    tail->add_option("project", g->file, "Project file, or demo")->required();
    tail->add_option("outfall", g->outfall, "Outfall of the project")->required();
    tail->add_option("other", g->other, "Project it leads to")->required();
    tail->add_option("--at", g->place,
                     "Structure there (default: of the outfall's name, else the nearest within 30 m)");
    tail->add_option("--output,-o", g->output, "File to write with the levels");
    return [g, tail, load = std::move(load)]() -> std::optional<int> {
        return *tail ? std::optional(run_tailwater(*g, load)) : std::nullopt;
    };
}

}  // namespace culvert::cli
