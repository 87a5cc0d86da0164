// SPDX-License-Identifier: GPL-3.0-or-later
// What the window does with the ground, the layout, variants and recovery.
#include <QApplication>
#include <QClipboard>
#include <QFileDialog>
#include <QFileInfo>
#include <QSettings>
#include <QVBoxLayout>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/plan/plan_tool.h"
#include "app/window/main_window.h"
#include "core/design/branches.h"
#include "core/design/flow_parts.h"
#include "core/design/inlet_spacing.h"
#include "core/design/site.h"
#include "core/model/lay.h"
#include "exchange/cover_layer.h"

namespace culvert::app {
void MainWindow::run_proposal(const QString& what,
                              std::function<std::pair<QString, Edit>(const std::stop_token&)> find) {
    notice_->say(what + " …", {{"Stop", [this] { proposer_.cancel(); }}});
    proposer_.run([this, find = std::move(find), revision = document_.revision()](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        auto found = find(stop);
        if (stop.stop_requested()) return;
        turn.tell([this, found = std::move(found), revision] {
            if (revision != document_.revision()) {
                notice_->say("The project was changed meanwhile: ask again.");
                return;
            }
            if (found.second.empty()) notice_->say(found.first);
            else {
                notice_->say({});
                drawer_->preview()->show_preview(found.first, found.second);
            }
        });
    });
}

void MainWindow::offer_alternatives(PipeId pipe, bool asked) {
    const BranchLevels levels = branch_levels(document_.project(), pipe);
    const std::string name = element_name(document_.project(), Kind::Pipe, pipe.value);
    const UnitSet u = document_.units();
    if (levels.alternatives.empty()) {
        if (asked)
            notice_->say(text(name) + (levels.main ? " meets the main at a level that needs nothing."
                                                   : " meets no pipe that leads on."));
        return;
    }
    std::vector<Notice::Choice> choices;
    for (const BranchAlternative& a : levels.alternatives) {
        if (choices.size() == 4) break;
        QString words = text(a.text);
        words[0] = words[0].toUpper();
        words += QString(": %1%2 m³, %3")
                     .arg(a.excavation >= 0 ? "+" : "−")
                     .arg(std::abs(a.excavation), 0, 'f', 1)
                     .arg(QString::number(std::round(a.cost), 'f', 0).replace('-', "−"));
        choices.emplace_back(words, [this, edit = a.edit, words] { drawer_->preview()->show_preview(words, edit); });
    }
    notice_->say(text(name) + " arrives " + text(u.text(std::abs(levels.gap), Quantity::Length)) +
                     (levels.low ? " too low" : " high") + " at " +
                     text(element_name(document_.project(), Kind::Structure, levels.structure.value)) +
                     ". Excavation and its price beside each way out:",
                 choices);
}

void MainWindow::import_file(const QString& path) { drawer_->ground()->look_at_file(path); }

void MainWindow::show_side_by_side(std::uint64_t variant) {
    const Variant* row = document_.base().variants.find(variant);
    std::optional<Project> other;
    if (row && row->role == VariantRole::Issued) other = document_.issued(*row);
    else other = document_.as_variant(variant);
    if (!other) {
        notice_->say("The issued state is missing: the folder beside the project that ends in .assets.");
        return;
    }
    delete side_plan_;  // before the document that it shows
    side_document_ = std::make_unique<Document>(nullptr, document_.assets());
    side_document_->set_project(std::move(*other), {}, false);
    side_document_->set_event(document_.event());
    side_plan_ = new PlanView(*side_document_);
    side_plan_->setAccessibleName("Plan of the other state");
    static_cast<QVBoxLayout*>(side_->layout())->addWidget(side_plan_, 1);
    side_title_->setText((row ? text(row->name) : QString("Base")) +
                         ", beside what is shown. Changes are made on the left.");
    side_->show();
    const int w = (plan_->width() + side_->width()) / 2;
    if (auto* plans = qobject_cast<QSplitter*>(plan_->parentWidget())) plans->setSizes({w, w});
    connect(plan_, &PlanView::view_changed, side_plan_, [this] { side_plan_->look_like(*plan_); });
    connect(side_plan_, &PlanView::view_changed, plan_, [this] {
        const QSignalBlocker block(plan_);
        plan_->look_like(*side_plan_);
    });
    connect(&document_, &Document::event_changed, side_document_.get(),
            [this] { side_document_->set_event(document_.event()); });
    QMetaObject::invokeMethod(
        this,
        [this] {
            plan_->zoom_to_all();
            if (side_plan_) side_plan_->look_like(*plan_);
            refresh_tool_strip();
        },
        Qt::QueuedConnection);
}

void MainWindow::offer_recovery(const QString& path, const QString& first) {
    auto found = document_.recoverable(path);
    if (found.empty()) return;
    const std::size_t count = found.size();
    auto last = std::make_shared<Recovered>(std::move(found.back()));
    const QString of = last->project_path.empty() ? QString("a project that was never saved")
                                                  : QFileInfo(text(last->project_path)).fileName();
    QStringList names;
    for (std::size_t i = 0; i < last->done; ++i) names << text(last->edits[i].name);
    QString words = QString("The program ended before %1 was saved. ").arg(of);
    if (last->done > last->saved_at || last->edits.empty())
        words += QString("%1 can be brought back")
                     .arg(last->done == 1   ? QString("One change")
                          : last->done == 0 ? QString("Its state")
                                            : QString("%1 changes").arg(last->done));
    else
        words += QString("%1 taken back since can be so again")
                     .arg(last->edits.size() - last->done == 1 ? "What was" : "Changes");
    if (names.size() > 5) words += ": " + names.mid(0, 2).join(", ") + ", … " + names.mid(names.size() - 2).join(", ");
    else if (!names.isEmpty()) words += ": " + names.join(", ");
    words += ".";
    for (const std::string& l : last->left_out) words += " Left out, since it does not fit: " + text(l) + ".";
    if (last->file_gone) words += " Its file is gone: the journal holds the whole project.";
    if (last->file_differs) words += " The file was changed since by somebody else: saving will ask.";
    if (count > 1) words += QString(" %1 more after this.").arg(count - 1);
    const auto next = [this, path] { offer_recovery(path); };
    notice_->say(
        (first.isEmpty() ? "" : first + "\n") + words,
        {{"Bring it back",
          [this, last] { when_safe("Bring it back without saving", [this, last] { document_.restore(*last); }); }},
         {"Throw it away", [last, next] {
              JournalDisk().remove(last->journal);
              next();
          }}});
}

void MainWindow::declare_tools() {
    const auto tool = [this](const char* name, const char* words, const char* help, const char* key) {
        actions_->add(QString("tool.") + name, words, help, QKeySequence(key), [this, name] {
            plan_->set_tool(name);
            plan_->setFocus();
        });
    };
    tool("select", "Select",
         "Click to select, drag to move, drag over paper to enclose; corners of one element can be dragged", "V");
    tool("draw", "Draw", "Click to place structures, joined with pipes as you go; a click on a pipe splits it", "D");
    tool("structure", "Structure", "Places structures one by one; on a pipe it splits it", "S");
    tool("area", "Catchment", "Click the corners of a catchment; Enter closes it", "C");
    tool("pond", "Pond", "Click the corners of a pond's bottom, or of a contour of the selected one; Enter closes it",
         "Shift+O");
    tool("cut", "Cut", "Click a line through a catchment; Enter cuts it in two", "X");
    tool("flow", "Flow path", "Click the way of a catchment's water from its head down; its parts are measured", "W");
    tool("cover", "Land cover", "Click the corners of a land cover; catchments get the parts that lie in them",
         "Shift+C");
    tool("street", "Street", "Click along the crown of a street; Ctrl+click takes a line of the background", "R");
    tool("path", "Street path", "Click an inlet, then the way its water takes to the next", "P");
    tool("buried", "Buried line", "Click along another line under ground: a water main, a gas pipe, a cable", "U");
    tool("split", "Split", "Click a pipe where it is to be split", "/");
    tool("merge", "Merge", "Click a joint or a manhole: its two pipes become one", "Shift+J");
    tool("reverse", "Reverse", "Click a pipe: its drawn start and end are exchanged", "Shift+R");
    tool("move", "Move", "Moves what is chosen from a place to a place, by clicks or typed distances", "Shift+V");
    tool("delete", "Delete by click", "Click what is to go; what hangs on it goes too", "Shift+X");
    tool("trace", "Take lines", "Click lines of the background: they become pipes, shown before they are taken", "T");
    tool("measure", "Measure", "Distances from point to point, with the fall of the ground", "Shift+M");
}

void MainWindow::declare_ground_actions() {
    actions_->add("ground.import", "Import ground or a background …",
                  "Reads survey points, a drawing, LandXML, a grid or a picture, and shows what it offers",
                  QKeySequence("Ctrl+I"), [this] {
                      const QString path = QFileDialog::getOpenFileName(
                          this, "Import ground or a background", {},
                          "Ground and backgrounds (*.csv *.txt *.xyz *.pts *.dxf *.xml *.landxml *.tif *.tiff *.asc "
                          "*.png *.jpg *.jpeg);;All files (*)");
                      if (!path.isEmpty()) import_file(path);
                  });
    const auto toggle = [this](const char* id, const char* words, const char* help, bool GroundShow::*part) {
        QAction* a = actions_->add(id, words, help, {}, [this, part] {
            plan_->ground_show().*part = !(plan_->ground_show().*part);
            plan_->stale();
        });
        a->setCheckable(true);
        a->setChecked(plan_->ground_show().*part);
    };
    toggle("ground.contours", "Show contours", "Contours of the shown surfaces, by level of detail",
           &GroundShow::contours);
    toggle("ground.low_points", "Show low points", "Places where water stands, with their depth",
           &GroundShow::low_points);
    toggle("ground.arrows", "Show slope arrows", "Which way the ground falls, and how steeply", &GroundShow::arrows);
    toggle("ground.background", "Show backgrounds", "Drawings and pictures under the plan", &GroundShow::background);
    const auto snap = [this](const char* id, const char* words, const char* help, bool SnapOptions::*part) {
        QAction* a = actions_->add(id, words, help, {},
                                   [this, part] { plan_->snap_options().*part = !(plan_->snap_options().*part); });
        a->setCheckable(true);
        a->setChecked(plan_->snap_options().*part);
    };
    snap("snap.streets", "Take hold of streets", "Clicks near a street's crown or curb take hold of it",
         &SnapOptions::streets);
    snap("snap.background", "Take hold of the background", "Clicks near a background's lines take hold of them",
         &SnapOptions::background);
    snap("snap.grid", "Take hold of the grid", "Clicks take hold of a grid of whole units", &SnapOptions::grid);
}

void MainWindow::declare_street_actions() {
    actions_->add(
        "network.propose", "Propose a network",
        "Pipes along the streets from inlets to the outfall, with least digging under cover and slope, past closed "
        "lines "
        "of the background; shown before they are taken",
        {}, [this] { propose_pipes(); }, [this] { return has_inlets(); });
    actions_->add(
        "paths.propose", "Propose street paths",
        "The way of the water over the surface for all inlets at once, from streets, curbs and the ground",
        QKeySequence("Ctrl+Shift+W"),
        [this] {
            run_proposal(
                "Finding the ways of the water",
                [project = document_.project(), ground = document_.site_ground()](const std::stop_token& stop) {
                    StreetPathProposal p = propose_street_paths(project, ground, 4, stop);
                    QString words =
                        QString("street paths: %1 to an inlet, %2 off the site").arg(p.found).arg(p.leaving);
                    if (p.kept) words += QString(", %1 drawn by hand stay").arg(p.kept);
                    if (p.none) {
                        words += QString(", %1 not found").arg(p.none);
                        for (const ProposedPath& path : p.paths)
                            if (path.way == ProposedPath::Way::None) {
                                words += " (" + text(element_name(project, Kind::Structure, path.from.value)) + ": " +
                                         text(path.reason) + ")";
                                break;
                            }
                    }
                    return std::pair{words + ". Drag the end of one to correct it.", p.edit};
                });
        },
        [this] { return has_inlets(); });
    const auto has_street = [this] { return chosen_street() != nullptr; };
    actions_->add(
        "streets.space", "Space inlets along the street",
        "Stations for the allowed spread in the viewed event on each side that has none, with street paths and strips",
        QKeySequence("Ctrl+Shift+I"),
        [this] {
            const Street* street = chosen_street();
            if (!street) return;
            run_proposal("Spacing inlets",
                         [project = document_.project(), ground = document_.site_ground(), id = StreetId{street->id},
                          event = document_.event()](const std::stop_token&) {
                             InletProposal p = propose_inlets(project, ground, id, event);
                             if (!p.fault.empty()) return std::pair{"No inlets: " + text(p.fault) + ".", Edit{}};
                             QString words = QString("%1 inlets of type %2").arg(p.placed).arg(text(p.type));
                             for (const std::size_t side : {std::size_t{0}, std::size_t{1}})
                                 if (p.stood[side])
                                     words += QString(", the %1 side has its own").arg(side ? "right" : "left");
                             for (std::size_t i = 0; i < std::min<std::size_t>(p.remarks.size(), 2); ++i)
                                 words += "; " + text(p.remarks[i]);
                             return std::pair{words + ".", p.edit};
                         });
        },
        has_street);
    actions_->add(
        "streets.judge", "Judge the street's inlets",
        "The spread at each inlet of the street in the viewed event, and which one is not needed", {},
        [this] {
            const Street* street = chosen_street();
            if (!street) return;
            run_proposal("Judging inlets",
                         [project = document_.project(), ground = document_.site_ground(), id = StreetId{street->id},
                          event = document_.event()](const std::stop_token&) {
                             InletJudgement j = judge_street(project, ground, id, event);
                             if (!j.fault.empty()) return std::pair{"Not judged: " + text(j.fault) + ".", Edit{}};
                             QString words;
                             for (const std::string& w : j.words) words += (words.isEmpty() ? "" : "; ") + text(w);
                             if (j.edit.empty()) words += ". All are needed";
                             return std::pair{words + ".", j.edit};
                         });
        },
        has_street);
    for (const bool right : {false, true})
        actions_->add(
            right ? "streets.ditch_right" : "streets.ditch_left",
            QString("Ditch on the %1 side of the street").arg(right ? "right" : "left"),
            "Open channels along the street from structure to structure, half a metre deep, shown before they are "
            "taken",
            {}, [this, right] { propose_the_ditch(right); }, has_street);
    actions_->add(
        "streets.keep_profile", "Keep the ground as the streets' profiles",
        "Streets without levels of their own take those of the surface: inlets on them then have a grade", {},
        [this] {
            const Project& project = document_.project();
            Editing e(project, "Profiles from the ground");
            int taken = 0;
            for (const Street& s : project.streets) {
                if (!s.levels.empty()) continue;
                std::vector<double> stations, levels;
                for (const StreetPoint& p : profile_of(s, document_.site_ground().ground)) {
                    if (std::isnan(p.level)) continue;
                    stations.push_back(std::round(p.station * 1000) / 1000);
                    levels.push_back(std::round(p.level * 1000) / 1000);
                }
                if (stations.size() < 2) continue;
                e.set(Kind::Street, s.id, "stations", stations, Origin::Ground);
                e.set(Kind::Street, s.id, "levels", levels, Origin::Ground);
                ++taken;
            }
            if (taken) document_.commit(e.take());
            else notice_->say("No street without levels lies on a surface.");
        },
        [this] { return document_.project().streets.size() > 0; });
}

void MainWindow::declare_area_actions() {
    actions_->add(
        "lines.import", "Import buried lines",
        "Water mains, gas pipes, cables from CSV, GeoJSON, DXF, shapefile or GeoPackage, shown before they are taken",
        {}, [this] {
            const QString path = QFileDialog::getOpenFileName(
                this, "Buried lines", {}, "Lines (*.csv *.txt *.geojson *.json *.dxf *.shp *.gpkg);;All files (*)");
            if (!path.isEmpty()) import_buried_lines(path);
        });
    actions_->add(
        "outfall.levels", "Tailwater from another project",
        "What the selected outfall meets in each event: the grade line of another project at the structure of "
        "its name, or the nearest within 30 m, shown before it is taken",
        {}, [this] {
            const ElementRef at = document_.selected();
            const Structure* s = at.kind == Kind::Structure ? document_.project().structures.find(at.id) : nullptr;
            if (!s || s->kind != StructureKind::Outfall)
                return notice_->say(
                    "Select the outfall first: only where water leaves does it meet a level from outside.");
            const QString path = QFileDialog::getOpenFileName(this, "The project it leads to", {},
                                                              "Projects (*.culvert);;All files (*)");
            if (!path.isEmpty()) take_outer_levels({s->id}, path);
        });
    actions_->add(
        "areas.covers", "Land covers from a GIS layer",
        "Cuts the polygons of a GeoJSON file, shapefile or GeoPackage by the catchments' outlines: areas, C and curve "
        "numbers fill in",
        {},
        [this] {
            const QString path = QFileDialog::getOpenFileName(
                this, "Land covers", {}, "Polygons (*.geojson *.json *.shp *.gpkg);;All files (*)");
            if (!path.isEmpty()) cut_cover_layer(path);
        },
        [this] {
            return std::any_of(document_.project().catchments.begin(), document_.project().catchments.end(),
                               [](const Catchment& c) { return c.outline.size() > 2; });
        });
    actions_->add(
        "areas.propose", "Propose catchments",
        "Catchments from the ground for inlets that have none, or for the selected ones", {},
        [this] {
            std::vector<StructureId> wanted;
            for (const ElementRef e : document_.selection())
                if (e.kind == Kind::Structure) wanted.push_back({e.id});
            run_proposal("Letting the water run", [project = document_.project(), ground = document_.site_ground(),
                                                   wanted](const std::stop_token& stop) {
                CatchmentProposal p = propose_catchments(project, ground, wanted, 2, stop);
                QString words = QString("%1 catchments from the ground").arg(p.made);
                for (std::size_t i = 0; i < std::min<std::size_t>(p.remarks.size(), 3); ++i)
                    words += "; " + text(p.remarks[i]);
                return std::pair{words + ".", p.edit};
            });
        },
        [this] { return has_inlets() && !document_.project().surfaces.empty(); });
    const auto catchments = [this] {
        std::vector<CatchmentId> ids;
        for (const ElementRef e : document_.selection())
            if (e.kind == Kind::Catchment) ids.push_back({e.id});
        return ids;
    };
    actions_->add(
        "areas.merge", "Merge catchments", "Makes one catchment of the selected ones", {},
        [this, catchments] {
            std::string why;
            Edit edit = merge_catchments(document_.project(), catchments(), &why);
            if (edit.empty()) notice_->say("Not merged: " + text(why) + ".");
            else document_.commit(std::move(edit));
        },
        [catchments] { return catchments().size() > 1; });
    const auto drain_to = [this, catchments](const char* words, bool downhill) {
        Editing e(document_.project(), words);
        for (const CatchmentId id : catchments()) {
            const Catchment* c = document_.project().catchments.find(id.value);
            if (!c || c->outline.size() < 3) continue;
            const StructureId to = downhill ? downhill_target(document_.project(), document_.site_ground(), c->outline)
                                            : nearest_inlet(document_.project(), centre(c->outline));
            if (!to) continue;
            e.set(Kind::Catchment, id.value, "structure", to.value, Origin::Proposed);
            const Structure* s = document_.project().structures.find(to.value);
            const auto path = longest_flow_path(document_.site_ground(), c->outline, {s->x, s->y});
            if (!path.empty()) e.set(Kind::Catchment, id.value, "flow_path", path, Origin::Proposed);
        }
        document_.commit(e.take());
    };
    actions_->add(
        "areas.downhill", "Drain down the ground", "Selected catchments drain to the inlet that their water reaches",
        {}, [drain_to] { drain_to("Drain down the ground", true); }, [catchments] { return !catchments().empty(); });
    actions_->add(
        "areas.nearest", "Drain to the nearest inlet", "Selected catchments drain to the nearest inlet", {},
        [drain_to] { drain_to("Drain to the nearest inlet", false); }, [catchments] { return !catchments().empty(); });
    actions_->add(
        "areas.measure", "Measure flow paths",
        "Lengths and slopes of the parts of the selected catchments' flow paths, from the drawn line and the ground",
        {},
        [this, catchments] {
            std::vector<Edit> edits;
            QStringList words;
            const auto level = [this](Point p) { return document_.ground_level(p); };
            for (const CatchmentId id : catchments()) {
                std::vector<std::string> remarks;
                const Catchment* c = document_.project().catchments.find(id.value);
                if (!c) continue;
                Edit e = measure_flow_path(document_.project(), id, {}, level, {}, &remarks);
                if (e.empty()) words << text(c->name) + " has no flow path: draw one, or choose Drain down the ground";
                else edits.push_back(std::move(e));
                for (const std::string& r : remarks) words << text(c->name) + ", " + text(r);
            }
            if (edits.empty()) {
                notice_->say("Not measured: " + words.join("; ") + ".");
                return;
            }
            Edit all = std::move(edits.front());
            for (std::size_t i = 1; i < edits.size(); ++i)
                for (auto& change : edits[i].changes) all.changes.push_back(std::move(change));
            all.name = edits.size() == 1 ? all.name : "Measure flow paths";
            document_.commit(std::move(all));
            if (!words.isEmpty()) notice_->say("Measured; " + words.mid(0, 3).join("; ") + ".");
        },
        [catchments] { return !catchments().empty(); });
    actions_->add(
        "areas.check", "Check catchment outlines", "Overlaps, gaps and outlines that cross themselves", {},
        [this] {
            run_proposal("Checking outlines", [project = document_.project()](const std::stop_token& stop) {
                const auto faults = outline_faults(project, 0.5, stop);
                const UnitSet u = units_of(project);
                QString words = faults.empty() ? QString("No overlap, no gap: the outlines are sound.")
                                               : QString("%1 faults of outlines. ").arg(faults.size());
                for (std::size_t i = 0; i < std::min<std::size_t>(faults.size(), 4); ++i) {
                    const OutlineFault& f = faults[i];
                    const QString a = text(element_name(project, Kind::Catchment, f.first)),
                                  b = text(element_name(project, Kind::Catchment, f.second)),
                                  size = text(u.text(f.area, Quantity::Area));
                    words += f.form == OutlineFault::Form::Overlap ? a + " and " + b + " overlap by " + size + ". "
                             : f.form == OutlineFault::Form::Gap   ? "A gap of " + size + " beside " + a + ". "
                                                                   : "The outline of " + a + " crosses itself. ";
                }
                return std::pair{words.trimmed(), Edit{}};
            });
        },
        [this] { return !document_.project().catchments.empty(); });
}

void MainWindow::declare_level_actions() {
    actions_->add(
        "levels.alternatives", "Ways out of a wrong branch level",
        "Where the selected pipe meets the main too low or high: what can be done, each with its price",
        QKeySequence("Ctrl+Shift+L"), [this] { offer_alternatives({document_.selected().id}, true); },
        [this] { return document_.selected().kind == Kind::Pipe && document_.selected().id; });
    const auto pin = [this](bool follows) {
        Editing e(document_.project(), follows ? "Ends follow" : "Pin ends");
        std::vector<StructureId> ends;
        for (const ElementRef s : document_.selection())
            if (const Pipe* p = s.kind == Kind::Pipe ? document_.project().pipes.find(s.id) : nullptr) {
                for (const char* key : {"invert_from", "invert_to"})
                    e.set(Kind::Pipe, p->id, key,
                          key == std::string_view("invert_from") ? p->invert_from : p->invert_to,
                          follows ? Origin::Default : Origin::Typed);
                ends.push_back(p->from);
                ends.push_back(p->to);
            }
        if (follows) follow(e, ends);
        document_.commit(e.take());
    };
    const auto pipes_chosen = [this] {
        for (const ElementRef s : document_.selection())
            if (s.kind == Kind::Pipe) return true;
        return false;
    };
    actions_->add(
        "levels.pin", "Pin the ends", "Both ends of the selected pipes keep their levels when structures move", {},
        [pin] { pin(false); }, pipes_chosen);
    actions_->add(
        "levels.follow", "Let the ends follow",
        "Both ends of the selected pipes are laid from rims, cover and slope again", {}, [pin] { pin(true); },
        pipes_chosen);
    actions_->add(
        "names.renumber", "Renumber from the outfall up",
        "Names by branch: the selected structures, or all where none is selected", QKeySequence("Ctrl+Shift+N"),
        [this] {
            std::vector<StructureId> chosen;
            for (const ElementRef e : document_.selection())
                if (e.kind == Kind::Structure) chosen.push_back({e.id});
            Edit edit = renumber(document_.project(), chosen);
            if (edit.empty()) notice_->say("The names follow the pattern already.");
            else
                drawer_->preview()->show_preview(QString("%1 structures get new names").arg(edit.changes.size()), edit);
        },
        [this] { return !document_.project().structures.empty(); });
}

void MainWindow::declare_page_actions() {
    const auto page = [this](const char* id, const char* words, const char* help, const QKeySequence& key, auto show) {
        actions_->add(id, words, help, key, show);
    };
    page("view.ground", "Show ground and backgrounds", "Surfaces, backgrounds, low points, imports",
         QKeySequence("Ctrl+4"), [this] { drawer_->show_page(drawer_->ground()); });
    page("view.rules", "Show defaults and limits", "Defaults, limits, criteria sets, library, exchange of kinds",
         QKeySequence("Ctrl+5"), [this] { drawer_->show_page(drawer_->rules()); });
    page("view.quantities", "Show quantities and cost",
         "Pipes by size, excavation and structures by depth, with their prices", QKeySequence("Ctrl+7"),
         [this] { drawer_->show_page(drawer_->quantities()); });
    page("view.sensitivity", "Show what the verdicts hang on",
         "Roughness, runoff, rain and tailwater up and down: which verdicts change", QKeySequence("Ctrl+8"), [this] {
             drawer_->show_page(drawer_->sensitivity());
             drawer_->sensitivity()->run();
         });
    page("view.grade", "Grade a run",
         "Pins, ties, drops and slopes of the selected run, or of the one in the profile; new levels are shown before "
         "they are taken",
         QKeySequence("F8"), [this] { grade_selection(); });
    page("profile.save", "Save the profile",
         "The run in the profile at true scale, with its level table: PDF, SVG, DXF", QKeySequence(),
         [this] { save_profile(); });
    QAction* every =
        actions_->add("profile.events", "Grade lines of all events",
                      "In the profile, thin beside those of the viewed event: how the run answers a rarer storm",
                      QKeySequence("Shift+F8"), [this] { profile_->set_all_events(!profile_->all_events()); });
    every->setCheckable(true);
    page("plan.save", "Save the plan",
         "The plan at the largest usual scale that fits A3: PDF, SVG; DXF in its coordinates", QKeySequence(),
         [this] { save_plan(); });
    page("profile.menu", "Choices of the profile",
         "Profiles kept by name, rows of its table, measuring, scale of its files", QKeySequence("Ctrl+Shift+F8"),
         [this] { profile_->open_menu(); });
    page("profile.keep", "Keep this profile",
         "Keeps the run in the profile by name, with the project; two selected structures show the part between",
         QKeySequence(), [this] { profile_->keep_run(); });
    page("profile.measure", "Measure in the profile", "Drag between two places: distance, height and slope",
         QKeySequence(), [this] {
             profile_->set_measuring(!profile_->measuring());
             profile_->setFocus();
         });
    page(
        "grade.ties", "Levels follow their ties",
        "Reads what levels were tied to when they were graded (ground, rims, cover, pipes) again, and shows what moves",
        QKeySequence("Ctrl+F8"), [this] { follow_the_ties(); });
    QAction* space = actions_->add("view.space", "The site in space",
                                   "Ground, structures, pipes, buried lines and clashes in place of the plan, to turn",
                                   QKeySequence("F12"), [this] { show_in_space(space_->isHidden()); });
    space->setCheckable(true);
    page("profile.copy", "Copy the profile as a picture", "What the profile shows, for a letter or a report",
         QKeySequence(), [this] { QApplication::clipboard()->setPixmap(profile_->grab()); });
    page("view.history", "Show history and variants", "Every change, variants, issued states, comparison",
         QKeySequence("Ctrl+6"), [this] { drawer_->show_page(drawer_->history()); });
    constexpr const char* rules[] = {"Defaults for what is drawn", "Limits and exceptions", "Criteria sets", "Library",
                                     "Exchange kinds"};
    for (int i = 0; i < 5; ++i)
        page(QString("rules.%1").arg(i).toUtf8().constData(), rules[i], "Opens this page of the rules", {}, [this, i] {
            drawer_->rules()->show_page(i);
            drawer_->show_page(drawer_->rules());
        });
    page("variant.new", "New variant", "A variant that begins as what is shown now", QKeySequence(),
         [this] { drawer_->history()->new_variant(); });
    page("variant.issue", "Keep as an issued state", "To compare with later", QKeySequence(),
         [this] { drawer_->history()->issue(); });
    page("variant.side_off", "Close the plan beside", "Only one plan is shown", QKeySequence(),
         [this] { side_->hide(); });
}

bool MainWindow::has_inlets() const {
    const auto& all = document_.project().structures;
    return std::any_of(all.begin(), all.end(), [](const Structure& s) { return s.kind == StructureKind::Inlet; });
}

void MainWindow::declare_site_actions() {
    declare_tools();
    declare_ground_actions();
    declare_street_actions();
    declare_area_actions();
    declare_level_actions();
    declare_page_actions();
}

}  // namespace culvert::app
