// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/site_commands.h"

#include <cmath>
#include <filesystem>
#include <iomanip>
#include <iostream>
#include <memory>
#include <nlohmann/json.hpp>

#include "core/base/numbers.h"
#include "core/base/words.h"
#include "core/design/inlet_spacing.h"
#include "core/design/roadside_ditch.h"
#include "core/design/site.h"
#include "core/model/lay.h"
#include "core/model/variant.h"
#include "core/terrain/contours.h"
#include "exchange/cover_layer.h"
#include "exchange/shelf.h"
#include "exchange/site_import.h"

namespace culvert::cli {
namespace {

using Json = nlohmann::ordered_json;
constexpr int done = 0, differs = 1, bad_use = 2, bad_file = 3;

struct Given {
    std::string file, output, role = "existing", as = "surface", other, name;
    std::vector<std::string> at;
    double least_depth = 0.05, unit = 1;
    bool left = false;
    double depth = 0, width = 0, sides = -1, roughness = 0;
    bool judge = false, replace = false;
    bool json = false, low_points = false;
};

int say_problems(const std::string& path, const std::vector<ImportProblem>& problems, bool ok) {
    for (const ImportProblem& p : problems) {
        std::cerr << path;
        if (p.line > 0) std::cerr << ":" << p.line;
        std::cerr << ": " << (ok ? "warning: " : "") << sentences(p.message, p.remedy) << "\n";
    }
    return ok ? done : bad_file;
}

/// All surfaces that a file offers.
int surfaces_of(const Given& g, std::vector<SurfaceImport>& out) {
    const SiteOffer o = look_at(g.file, g.unit == 1 ? 0 : g.unit);
    if (const int code = say_problems(g.file, o.problems, o.ok)) return code;
    if (o.form == SiteForm::Points) {
        PointsLayout layout = o.layout;
        layout.unit = g.unit;
        for (const std::string& r : layout.remarks) std::cerr << g.file << ": note: " << r << "\n";
        out.push_back(read_points(o.bytes, layout));
        out.back().name = o.name;
    } else if (o.form == SiteForm::Drawing) {
        out.push_back(surface_of(o.drawing, std::vector<bool>(o.drawing.layers.size(), true)));
        out.back().name = o.name;
    } else out = o.surfaces;
    for (const SurfaceImport& s : out)
        if (const int code = say_problems(g.file, s.problems, s.ok)) return code;
    if (!out.empty()) return done;
    std::cerr << g.file << ": it holds no surface. Give points, a drawing with levels, LandXML or a grid.\n";
    return bad_file;
}

bool read_point(const std::string& text, Point& p) {
    const auto comma = text.find(',');
    if (comma == std::string::npos) return false;
    return parse_double(std::string_view(text).substr(0, comma), p.x) &&
           parse_double(std::string_view(text).substr(comma + 1), p.y) && in_reach(p);
}

int run_surface(const Given& g) {
    std::vector<SurfaceImport> imports;
    if (const int code = surfaces_of(g, imports)) return code;
    Json out = Json::array();
    for (const SurfaceImport& import : imports) {
        SurfaceNotes notes;
        const auto terrain = Terrain::build(import.data, &notes);
        if (!terrain) {
            std::cerr << g.file << ": " << import.name << ": "
                      << (notes.too_many ? notes.in_words().back() : std::string("the points make no triangle"))
                      << ".\n";
            return bad_file;
        }
        Json j{{"surface", import.name},
               {"points", terrain->points().size()},
               {"triangles", terrain->triangles().size()},
               {"area", terrain->area()},
               {"low", terrain->bounds().low},
               {"high", terrain->bounds().high},
               {"notes", notes.in_words()}};
        if (!g.json) {
            std::cout << import.name << ": " << terrain->points().size() << " points, " << terrain->triangles().size()
                      << " triangles, " << terrain->area() << " m2, levels " << terrain->bounds().low << " to "
                      << terrain->bounds().high << " m\n";
            for (const std::string& n : notes.in_words()) std::cout << "  " << n << "\n";
        }
        for (const std::string& text : g.at) {
            Point p;
            if (!read_point(text, p)) {
                std::cerr << "\"" << text << "\" is no place: write easting,northing in metres.\n";
                return bad_use;
            }
            const double z = terrain->elevation(p);
            j["at"].push_back({{"x", p.x}, {"y", p.y}, {"level", z != z ? Json(nullptr) : Json(z)}});
            if (!g.json)
                std::cout << "  at " << p.x << ", " << p.y << ": "
                          << (z != z ? std::string("off the surface") : fixed(z, 3)) << "\n";
        }
        if (g.low_points) {
            const Drainage drainage(terrain);
            for (const Depression& d : drainage.depressions(g.least_depth)) {
                j["low_points"].push_back({{"x", d.bottom.x},
                                           {"y", d.bottom.y},
                                           {"level", d.bottom_level},
                                           {"depth", d.depth()},
                                           {"area", d.area},
                                           {"volume", d.volume}});
                if (!g.json)
                    std::cout << "  low point at " << d.bottom.x << ", " << d.bottom.y << ": level " << d.bottom_level
                              << ", depth " << d.depth() << " m, area " << d.area << " m2, volume " << d.volume
                              << " m3\n";
            }
        }
        out.push_back(std::move(j));
    }
    if (g.json) std::cout << out.dump(2) << "\n";
    return done;
}

/// Where a project's assets lie, and its ground from them.
std::shared_ptr<AssetStore> assets_beside(const std::string& path) {
    auto store = std::make_shared<AssetStore>();
    store->set_project(path);
    return store;
}
SiteGround ground_of(const Project& project, const AssetStore& assets) {
    SiteGround g;
    for (const Surface& s : project.surfaces) {
        const auto bytes = assets.find(s.asset);
        if (!bytes) {
            std::cerr << "surface " << s.name << " is missing: the folder beside the project that ends in .assets.\n";
            continue;
        }
        auto data = read_surface(*bytes);
        const auto terrain = data ? Terrain::build(std::move(*data)) : nullptr;
        if (terrain && s.role == SurfaceRole::Finished) g.ground.finished = terrain;
        if (terrain && s.role == SurfaceRole::Existing) g.ground.existing = terrain;
    }
    if (const auto top = g.ground.finished ? g.ground.finished : g.ground.existing)
        g.drainage = std::make_shared<const Drainage>(top);
    return g;
}
int write(const Project& project, AssetStore& assets, const std::string& path) {
    if (const std::string fault = assets.save(project, path); !fault.empty()) {
        std::cerr << fault << "\n";
        return bad_file;
    }
    const SaveOutcome saved = save_project(project, path);
    if (!saved.ok) std::cerr << saved.error << "\n";
    return saved.ok ? done : bad_file;
}

int run_import(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const auto assets = assets_beside(g.file);
    Given source = g;
    source.file = g.other;
    if (g.as == "background") {
        const SiteOffer o = look_at(g.other, g.unit == 1 ? 0 : g.unit);
        if (const int code = say_problems(g.other, o.problems, o.ok)) return code;
        if (o.form != SiteForm::Drawing && o.form != SiteForm::Picture) {
            std::cerr << g.other << " is " << site_form_names[static_cast<int>(o.form)]
                      << ": a background is a drawing or a picture.\n";
            return bad_use;
        }
        apply(project, background_edit(project, *assets, o));
    } else {
        std::vector<SurfaceImport> imports;
        if (const int code = surfaces_of(source, imports)) return code;
        for (const SurfaceImport& import : imports) {
            const SurfaceOffer offer = make_surface(import, g.other);
            if (!offer.ok) return say_problems(g.other, offer.problems, false);
            for (const std::string& r : offer.remarks) std::cerr << g.other << ": note: " << r << "\n";
            apply(project, surface_edit(project, *assets, offer,
                                        g.role == "finished"
                                            ? SurfaceRole::Finished
                                            : (g.role == "other" ? SurfaceRole::Other : SurfaceRole::Existing)));
        }
    }
    return write(project, *assets, g.output);
}

int run_paths(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const auto assets = assets_beside(g.file);
    const StreetPathProposal p = propose_street_paths(project, ground_of(project, *assets));
    Json out = Json::array();
    for (const ProposedPath& path : p.paths) {
        const std::string from = element_name(project, Kind::Structure, path.from.value),
                          to = path.to ? element_name(project, Kind::Structure, path.to.value) : "";
        out.push_back(
            {{"from", from}, {"to", to}, {"found", path.way != ProposedPath::Way::None}, {"reason", path.reason}});
        if (!g.json) std::cout << from << ": " << path.reason << "\n";
    }
    if (g.json) std::cout << out.dump(2) << "\n";
    if (g.output.empty()) return done;
    apply(project, p.edit);
    return write(project, *assets, g.output);
}

/// The street of that name; null, and said with those there are, where there is none.
const Street* named_street(const Project& project, const std::string& name) {
    for (const Street& s : project.streets)
        if (s.name == name) return &s;
    std::cerr << "there is no street \"" << name << "\". The project has:";
    for (const Street& s : project.streets) std::cerr << " " << s.name << ";";
    std::cerr << "\n";
    return nullptr;
}

/// Open channels along one side of a street.
int run_ditch(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const auto assets = assets_beside(g.file);
    const Street* street = named_street(project, g.other);
    if (!street) return bad_use;
    const UnitSet u = units_of(project);
    const double length = u.unit(Quantity::Length).factor;
    DitchAsk ask{{street->id}, !g.left};
    for (const auto& [given, to] : {std::pair{g.depth, &ask.depth}, {g.width, &ask.width}})
        if (given > 0) *to = given * length;
    if (g.sides >= 0) ask.sides = g.sides;
    if (g.roughness > 0) ask.roughness = g.roughness;
    const DitchProposal d = propose_ditch(project, ask);
    if (!d.fault.empty()) {
        std::cerr << d.fault << "\n";
        return bad_use;
    }
    if (g.json)
        std::cout << Json{{"channels", d.channels},
                          {"length", d.length},
                          {"least_slope", d.least_slope},
                          {"remarks", d.remarks}}
                         .dump(2)
                  << "\n";
    else {
        std::cout << d.channels << " channels, " << u.text(d.length, Quantity::Length) << ", least slope "
                  << u.text(d.least_slope, Quantity::Slope) << "\n";
        for (const std::string& r : d.remarks) std::cout << r << "\n";
    }
    if (g.output.empty()) return done;
    apply(project, d.edit);
    return write(project, *assets, g.output);
}

/// Spaces inlets along a street for an event, or judges those that stand.
int run_inlets(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const auto assets = assets_beside(g.file);
    const Street* street = named_street(project, g.other);
    if (!street) return bad_use;
    const RainEvent* event = g.name.empty() ? design_event(project) : find_event(project, g.name);
    if (!event) {
        std::cerr << (project.events.empty() ? "the project has no rain event.\n"
                                             : "there is no event \"" + g.name + "\".\n");
        return bad_use;
    }
    const SiteGround ground = ground_of(project, *assets);
    const StreetId id{street->id};
    if (g.judge) {
        const InletJudgement j = judge_street(project, ground, id, {event->id});
        if (!j.fault.empty()) {
            std::cerr << j.fault << "\n";
            return bad_use;
        }
        if (g.json) std::cout << Json(j.words).dump(2) << "\n";
        else
            for (const std::string& line : j.words) std::cout << line << "\n";
        return done;
    }
    const InletProposal p = propose_inlets(project, ground, id, {event->id});
    if (!p.fault.empty()) {
        std::cerr << p.fault << "\n";
        return bad_use;
    }
    const UnitSet u = units_of(project);
    Json rows = Json::array();
    constexpr const char* kinds[] = {"on grade", "sag", "flanker"};
    if (!g.json)
        std::cout
            << "side   station        kind      area         own    approach      spread    captured      bypass  to\n";
    for (const std::size_t side : {std::size_t{0}, std::size_t{1}})
        for (const SpacedInlet& in : p.sides[side].inlets) {
            const double area = in.length * street->strip_width;
            const double to = in.to < 0 ? not_given : p.sides[side].inlets[static_cast<std::size_t>(in.to)].station;
            rows.push_back({{"side", side ? "right" : "left"},
                            {"station", in.station},
                            {"kind", kinds[static_cast<int>(in.as)]},
                            {"area", area},
                            {"own", in.own},
                            {"approach", in.approach},
                            {"spread", in.spread},
                            {"depth", in.depth},
                            {"captured", in.captured},
                            {"bypass", in.bypass},
                            {"to", std::isnan(to) ? Json(nullptr) : Json(to)}});
            if (g.json) continue;
            std::cout << std::left << std::setw(6) << (side ? "right" : "left") << std::right;
            const auto cell = [&](const std::string& words, int width) { std::cout << std::setw(width) << words; };
            cell(u.text(in.station, Quantity::Length), 10);
            cell(kinds[static_cast<int>(in.as)], 12);
            cell(u.text(area, Quantity::Area), 10);
            for (const double q : {in.own, in.approach}) cell(u.text(q, Quantity::Flow), 12);
            cell(u.text(in.spread, Quantity::Length), 12);
            for (const double q : {in.captured, in.bypass}) cell(u.text(q, Quantity::Flow), 12);
            std::cout << "  " << (std::isnan(to) ? "-" : u.text(to, Quantity::Length)) << "\n";
        }
    if (g.json) std::cout << rows.dump(2) << "\n";
    for (const std::string& note : p.remarks) std::cerr << note << "\n";
    if (g.output.empty()) return done;
    apply(project, p.edit);
    return write(project, *assets, g.output);
}

int run_covers(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const auto assets = assets_beside(g.file);
    const CoverLayer layer = load_cover_layer(g.other);
    if (!layer.ok) {
        std::cerr << g.other << ": " << layer.error << "\n";
        return bad_file;
    }
    const CoverCut cut = cut_covers(project, layer.polygons, g.replace);
    for (const auto* list : {&layer.remarks, &cut.remarks})
        for (const std::string& remark : *list) std::cerr << g.other << ": " << remark << "\n";
    const UnitSet u = units_of(project);
    std::cout << cut.covers << " land covers in " << cut.catchments << " catchments, "
              << u.text(cut.bare, Quantity::Area) << " without a cover, " << u.text(cut.twice, Quantity::Area)
              << " covered twice\n";
    apply(project, cut.edit);
    return g.output.empty() ? done : write(project, *assets, g.output);
}

int run_renumber(Given g, const Load& load) {
    Project project;
    if (const int code = load(g.file, project)) return code;
    const auto assets = assets_beside(g.file);
    const Edit edit = renumber(project);
    for (const std::string& line : in_words(project, edit, 100000)) std::cout << line << "\n";
    apply(project, edit);
    return g.output.empty() ? done : write(project, *assets, g.output);
}

int run_compare(Given g, const Load& load) {
    Project a, b;
    if (const int code = load(g.file, a)) return code;
    if (const int code = load(g.other, b)) return code;
    const Edit edit = edit_between(a, b, "");
    for (const std::string& line : in_words(b, edit, 100000)) std::cout << line << "\n";
    return edit.empty() ? done : differs;
}

int run_criteria(Given g, const Load& load) {
    Project project, set;
    if (const int code = load(g.file, project)) return code;
    const auto assets = assets_beside(g.file);
    if (g.other.empty()) {
        if (g.output.empty()) {
            std::cerr << "give a set to hold the project against, or --output to write the project's own set.\n";
            return bad_use;
        }
        AssetStore none;
        return write(criteria_of(project, g.name.empty() ? "criteria" : g.name, "", project.settings().title), none,
                     g.output);
    }
    if (const int code = load(g.other, set)) return code;
    const auto lines = criteria_differences(project, set);
    for (const std::string& line : lines) std::cout << line << "\n";
    if (g.output.empty()) return lines.empty() ? done : differs;
    apply(project, criteria_edit(project, set));
    return write(project, *assets, g.output);
}

}  // namespace

Ground ground_beside(const Project& project, const std::string& path) {
    return ground_of(project, *assets_beside(path)).ground;
}
int write_with_assets(const Project& project, const std::string& from, const std::string& to) {
    return write(project, *assets_beside(from), to);
}

std::function<std::optional<int>()> add_site_commands(CLI::App& app, Load load) {
    auto g = std::make_shared<Given>();
    const CLI::Validator metres_of_a_unit(
        [](std::string& text) {
            double v = 0;
            return parse_double(text, v) && v >= 1e-4 && v <= 1e5 ? std::string()
                                                                  : "a unit has 0.0001 to 100000 metres, not " + text;
        },
        "METRES");
    auto* surface =
        app.add_subcommand("surface", "What a file of points, a drawing, LandXML or a grid makes as a surface");
    surface->add_option("file", g->file, "csv, txt, dxf, xml, tif or asc")->required();
    surface->add_option("--at", g->at, "Levels at places: easting,northing in metres");
    surface->add_flag("--low-points", g->low_points, "Depressions with depth, area and volume");
    surface->add_option("--least-depth", g->least_depth, "Depressions shallower than this are noise, m");
    surface->add_option("--unit", g->unit, "Metres of one unit of the file")->check(metres_of_a_unit);
    surface->add_flag("--json", g->json, "JSON in SI units");
    auto* import = app.add_subcommand("import", "Add a surface or a background to a project");
    import->add_option("project", g->file, "Project file, or demo")->required();
    import->add_option("file", g->other, "File to import")->required();
    import->add_option("output", g->output, "File to write")->required();
    import->add_option("--as", g->as, "surface or background")->check(CLI::IsMember({"surface", "background"}));
    import->add_option("--role", g->role, "existing, finished or other")
        ->check(CLI::IsMember({"existing", "finished", "other"}));
    import->add_option("--unit", g->unit, "Metres of one unit of the file")->check(metres_of_a_unit);
    auto* paths = app.add_subcommand(
        "paths", "Propose street paths for all inlets; write the project with them where --output is given");
    paths->add_option("project", g->file, "Project file, or demo")->required();
    paths->add_option("--output,-o", g->output, "File to write");
    paths->add_flag("--json", g->json, "JSON instead of lines");
    auto* covers = app.add_subcommand(
        "covers",
        "Cut the land covers of a GeoJSON layer by the catchments; write the project where --output is given");
    covers->add_option("project", g->file, "Project file, or demo")->required();
    covers->add_option("layer", g->other, "GeoJSON of polygons in the project's coordinates")->required();
    covers->add_flag("--replace", g->replace,
                     "Land covers that catchments have go; else such catchments are left alone");
    covers->add_option("--output,-o", g->output, "File to write");
    auto* inlets = app.add_subcommand(
        "inlets",
        "Space inlets along a street for the allowed spread; write the project with them where --output is given");
    inlets->add_option("project", g->file, "Project file, or demo")->required();
    inlets->add_option("street", g->other, "Street by its name")->required();
    inlets->add_option("--event,-e", g->name, "Event (default: the minor system's design event)");
    inlets->add_flag("--judge", g->judge, "Judge those that stand: their spread, and which are not needed");
    inlets->add_option("--output,-o", g->output, "File to write");
    inlets->add_flag("--json", g->json, "JSON in SI units instead of a table");
    auto* ditch = app.add_subcommand(
        "ditch",
        "Lay open channels along a street from structure to structure; write the project where --output is given");
    ditch->add_option("project", g->file, "Project file, or demo")->required();
    ditch->add_option("street", g->other, "Street by its name")->required();
    ditch->add_flag("--left", g->left, "On the left side, looking along the street's line (default: right)");
    ditch->add_option("--depth", g->depth, "Depth, in the project's unit of length (default: 0.5 m)");
    ditch->add_option("--width", g->width, "Width of its bed (default: 0.5 m)");
    ditch->add_option("--sides", g->sides, "Side slope, run over rise (default: 2)");
    ditch->add_option("--roughness", g->roughness, "Manning n (default: 0.035)");
    ditch->add_option("--output,-o", g->output, "File to write");
    ditch->add_flag("--json", g->json, "JSON in SI units");
    auto* number = app.add_subcommand("renumber", "Rename structures by branch from the outfall up");
    number->add_option("project", g->file, "Project file, or demo")->required();
    number->add_option("--output,-o", g->output, "File to write");
    auto* compare = app.add_subcommand(
        "compare", "Differences of two projects, element by element; exit code 1 where there are any");
    compare->add_option("project", g->file, "Project file")->required();
    compare->add_option("other", g->other, "Project file")->required();
    auto* criteria =
        app.add_subcommand("criteria", "Hold a project against a criteria set, load it, or write the project's own");
    criteria->add_option("project", g->file, "Project file, or demo")->required();
    criteria->add_option("set", g->other, "Criteria set");
    criteria->add_option("--output,-o", g->output, "File to write");
    criteria->add_option("--name", g->name, "Name of the set that is written");
    return [=]() -> std::optional<int> {
        if (*surface) return run_surface(*g);
        if (*import) return run_import(*g, load);
        if (*paths) return run_paths(*g, load);
        if (*covers) return run_covers(*g, load);
        if (*inlets) return run_inlets(*g, load);
        if (*ditch) return run_ditch(*g, load);
        if (*number) return run_renumber(*g, load);
        if (*compare) return run_compare(*g, load);
        if (*criteria) return run_criteria(*g, load);
        return {};
    };
}

}  // namespace culvert::cli
