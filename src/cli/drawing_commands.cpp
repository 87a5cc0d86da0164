// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/drawing_commands.h"

#include <iostream>
#include <memory>
#include <optional>

#include "cli/site_commands.h"
#include "core/analysis/solver.h"
#include "core/review/clashes.h"
#include "drawing/plan_sheet.h"
#include "drawing/profile_sheet.h"
#include "report/drawing_files.h"

namespace culvert::cli {
namespace {

constexpr int done = 0, bad_use = 2, bad_file = 3;

struct Given {
    std::string file, element, event, output;
    double across = 500, up = 50, scale = 0;
    bool all_events = false, contours = false, branches = false;
};

int fail(const std::string& words) {
    std::cerr << words << "\n";
    return bad_use;
}

int run_profile(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const ElementRef e = find_element(project, g.element);
    if (!e.id) return fail("there is no structure or pipe \"" + g.element + "\".");
    if (drawing_form(g.output) == DrawingForm::None)
        return fail("name the file to write, with the ending .svg or .dxf: --output FILE.");
    if (!(g.across >= 1 && g.across <= 1e5 && g.up >= 1 && g.up <= 1e5))
        return fail("scales are between 1 and 100000, as in --across 500 --up 50.");
    const RainEvent* event = g.event.empty() ? design_event(project) : find_event(project, g.event);
    if (!event && !g.event.empty()) return fail("there is no event \"" + g.event + "\".");
    const auto network = std::make_shared<const Network>(compile(project));
    std::optional<EventResult> result;
    Review rev;
    if (event) {
        result = solve_one(network, rain_of(*event));
        rev = review(project, *result);
    }
    const Profile p = profile_of(project, *network, result ? &*result : nullptr, result ? &rev : nullptr, e);
    if (p.empty()) return fail(g.element + " lies on no run that leads to an outfall.");
    ProfileSheetOptions options;
    options.across = g.across;
    options.up = g.up;
    options.crossings = clashes(project);
    for (const RainEvent* rain : g.all_events ? events_in_order(project) : std::vector<const RainEvent*>{}) {
        if (rain == event) continue;
        const EventResult other = solve_one(network, rain_of(*rain));
        std::vector<std::vector<Point>> lines;
        for (const ProfileReach& r :
             profile_of(project, *network, &other, nullptr, {Kind::Structure, p.stations.front().structure.value})
                 .reaches)
            if (r.hydraulic.size() > 1) lines.push_back(r.hydraulic);
        options.others.emplace_back(rain->name, std::move(lines));
    }
    options.finished = ground_along(project, p, ground_beside(project, g.file));
    const EventResult* r = result ? &*result : nullptr;
    ProfileSheet sheet = profile_sheet(project, p, r, options);
    if (g.branches) {
        std::vector<ProfileSheet> all{std::move(sheet)};
        options.others.clear();
        const Ground ground = ground_beside(project, g.file);
        for (const Profile& branch : branches_of(project, *network, r, result ? &rev : nullptr, p)) {
            options.finished = ground_along(project, branch, ground);
            all.push_back(profile_sheet(project, branch, r, options));
        }
        sheet = side_by_side(all);
    }
    const SaveOutcome saved = save_drawing(sheet.list, sheet.width, sheet.height, g.output);
    if (!saved.ok) std::cerr << saved.error << "\n";
    return saved.ok ? done : bad_file;
}

int run_plan(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const DrawingForm form = drawing_form(g.output);
    if (form == DrawingForm::None) return fail("name the file to write, with the ending .svg or .dxf: --output FILE.");
    if (g.scale != 0 && !(g.scale >= 1 && g.scale <= 1e6))
        return fail("the scale is between 1 and 1000000, as in --scale 1000.");
    const RainEvent* event = g.event.empty() ? design_event(project) : find_event(project, g.event);
    if (!event && !g.event.empty()) return fail("there is no event \"" + g.event + "\".");
    const auto network = std::make_shared<const Network>(compile(project));
    std::optional<EventResult> result;
    Review rev;
    PlanSheetOptions options;
    options.scale = g.scale;
    options.in_coordinates = form == DrawingForm::Dxf;
    if (event) {
        result = solve_one(network, rain_of(*event));
        rev = review(project, *result);
        options.result = &*result;
        options.review = &rev;
    }
    if (g.contours) {
        const Ground ground = ground_beside(project, g.file);
        if (const auto& top = ground.finished ? ground.finished : ground.existing)
            options.contours = contours(*top, project.settings().system == UnitSystem::Us ? 2 * 0.3048 : 0.5);
    }
    const PlanSheet sheet = plan_sheet(project, options);
    if (sheet.list.empty()) return fail("nothing of the project has a place in plan.");
    const SaveOutcome saved = save_drawing(sheet.list, sheet.width, sheet.height, g.output, sheet.letters);
    if (!saved.ok) std::cerr << saved.error << "\n";
    else if (sheet.labels_left)
        std::cout << sheet.labels_left << " names and sizes had no room at 1 : " << sheet.scale << "\n";
    return saved.ok ? done : bad_file;
}

}  // namespace

std::function<std::optional<int>()> add_drawing_commands(CLI::App& app, Load load) {
    auto g = std::make_shared<Given>();
    auto* d = app.add_subcommand("profile", "The profile of the run through an element at true scale, as SVG or DXF");
    d->add_option("project", g->file, "Project file, or demo")->required();
    d->add_option("element", g->element, "Structure or pipe")->required();
    d->add_option("--output,-o", g->output, "File to write, .svg or .dxf")->required();
    d->add_option("--event,-e", g->event, "Event by name or return period (default: the minor system's)");
    d->add_flag("--all-events", g->all_events, "With the grade lines of all other events");
    d->add_option("--across", g->across, "Scale along the run (500)");
    d->add_option("--up", g->up, "Scale in height (50)");
    d->add_flag("--branches", g->branches, "With its branches, each down to where it joins, side by side");
    auto* p = app.add_subcommand("plan", "The plan to scale as SVG, or in the project's coordinates as DXF");
    p->add_option("project", g->file, "Project file, or demo")->required();
    p->add_option("--output,-o", g->output, "File to write, .svg or .dxf")->required();
    p->add_option("--event,-e", g->event, "Event by name or return period (default: the minor system's)");
    p->add_option("--scale", g->scale, "1 : so much (default: the largest that fits A3)");
    p->add_flag("--contours", g->contours, "With contours of the ground");
    return [g, d, p, load = std::move(load)]() -> std::optional<int> {
        if (*d) return run_profile(*g, load);
        if (*p) return run_plan(*g, load);
        return {};
    };
}

}  // namespace culvert::cli
