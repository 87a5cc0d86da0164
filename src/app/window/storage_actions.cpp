// SPDX-License-Identifier: GPL-3.0-or-later
// Storage and hydrographs: what can be asked for, declared once.
#include <QFileDialog>
#include <QSaveFile>

#include "app/desk/text.h"
#include "app/window/main_window.h"
#include "core/design/pond_ground.h"
#include "core/design/storage_study.h"
#include "report/storage_tables.h"

namespace culvert::app {

void MainWindow::declare_storage_actions() {
    const auto runoff = [this](const char* id, const char* words, const char* help, RunoffBy by) {
        actions_->add(
            id, words, help, {},
            [this, by, words] {
                Editing e(document_.project(), words);
                e.set(Kind::Settings, settings_id, "runoff_by", by);
                document_.commit(e.take());
            },
            [this, by] { return document_.project().settings().runoff_by != by; });
    };
    runoff("runoff.rational", "Runoff by the rational method", "Largest flows by C, intensity and area; no hydrographs",
           RunoffBy::Rational);
    runoff("runoff.unit", "Runoff by unit hydrograph",
           "Hydrographs of every catchment by curve number and the NRCS unit hydrograph, through pipes and ponds",
           RunoffBy::UnitHydrograph);
    runoff("runoff.modified", "Runoff by the modified rational method",
           "Hydrographs by C and area, even over each catchment's time of concentration", RunoffBy::ModifiedRational);
    runoff("runoff.plane", "Runoff by planes", "Hydrographs of planes that empty by Manning's equation",
           RunoffBy::Plane);
    const auto selected = [this]() -> StructureId {
        const ElementRef e = document_.selected();
        return e.kind == Kind::Structure ? StructureId{e.id} : StructureId{};
    };
    const auto has_pond = [this, selected] {
        const StructureId at = selected();
        return at && std::any_of(document_.project().ponds.begin(), document_.project().ponds.end(),
                                 [&](const Pond& p) { return p.structure == at; });
    };
    actions_->add(
        "storage.give", "Give the structure storage",
        "A space by level at the selected structure, with an opening and an overflow where nothing leads on", {},
        [this, selected] { document_.commit(give_storage(document_.project(), selected())); },
        [selected, has_pond] { return selected() && !has_pond(); });
    const auto words = infos_of(Kind::PondOutlet)[*field_index(Kind::PondOutlet, "kind")]->choices;
    for (std::size_t k = 0; k < words.size(); ++k) {
        const QString name = text(words[k]);
        actions_->add(
            "outlet." + QString(name).replace(' ', '_').toLower(), "Add a way out: " + name,
            "Adds a " + name + " to the selected pond, with usual sizes and coefficients", {},
            [this, selected, k, name] {
                Editing e(document_.project(), "Add " + plain(name));
                e.insert(new_outlet(document_.project(), selected(), static_cast<OutletKind>(k)));
                document_.commit(e.take());
            },
            has_pond);
    }
    const auto page = [this](StoragePanel::Page p) {
        drawer_->show_page(drawer_->storage());
        drawer_->storage()->show(p);
    };
    actions_->add(
        "storage.size", "Size the outlets",
        "Finds openings and crests with which no more leaves than is allowed, in all events at once, as a preview", {},
        [this, page] {
            page(StoragePanel::Page::Sizes);
            drawer_->storage()->size();
        },
        [this] { return document_.project().ponds.size() > 0; });
    actions_->add("storage.ponds", "Ponds in every event",
                  "Peaks, levels, freeboard, volumes and drawdown of all ponds", {},
                  [page] { page(StoragePanel::Page::Ponds); });
    actions_->add("storage.rating", "Outflow by level",
                  "Space and flow of each way out of the selected pond, and what governs", {},
                  [page] { page(StoragePanel::Page::Rating); });
    actions_->add("storage.required", "Storage asked for",
                  "Volume between what comes and what is allowed, in each event", {},
                  [page] { page(StoragePanel::Page::Required); });
    actions_->add("storage.catchments", "What catchments make of the rain",
                  "Rain, losses, runoff, peak and time of each", {}, [page] { page(StoragePanel::Page::Catchments); });
    actions_->add("storage.compare", "Before and after",
                  "What leaves at every outfall in every event, against a variant that is the site before", {},
                  [this, page] {
                      page(StoragePanel::Page::Compared);
                      drawer_->storage()->compare();
                      if (drawer_->storage()->others()->count() > 0)
                          storage_->set_before(drawer_->storage()->others()->currentData().toULongLong());
                  });
    actions_->add("storage.save", "Save the pond's chart", "Section and hydrographs as SVG, PDF or PNG", {}, [this] {
        const QString path =
            QFileDialog::getSaveFileName(this, "Save the pond's chart", "pond.svg", "Pictures (*.svg *.pdf *.png)");
        if (!path.isEmpty()) notice_->say(storage_->save(path));
    });
    actions_->add(
        "storage.report", "Save the pond's report",
        "Allowed against achieved, storage asked for, rating by level, routing and working, as text", {},
        [this, selected] {
            const QString path =
                QFileDialog::getSaveFileName(this, "Save the pond's report", "pond.txt", "Text (*.txt)");
            if (path.isEmpty()) return;
            notice_->say("Writing …");
            proposer_.run([this, path, project = document_.project(), at = selected()](const Turn& turn) {
                const std::string report = storage_report(project, at);
                QSaveFile file(path);
                const bool done = !report.empty() && file.open(QFile::WriteOnly) &&
                                  file.write(report.data(), static_cast<qint64>(report.size())) ==
                                      static_cast<qint64>(report.size()) &&
                                  file.commit();
                turn.tell([this, done, path] { notice_->say(done ? QString() : path + " cannot be written."); });
            });
        },
        has_pond);
    actions_->add("storage.blocked", "Outlets blocked", "Whether the overflow alone carries each event", {},
                  [page] { page(StoragePanel::Page::Blocked); });
    const auto pond = [this, selected]() -> const Pond* {
        for (const Pond& p : document_.project().ponds)
            if (p.structure == selected()) return &p;
        return nullptr;
    };
    actions_->add(
        "storage.from_ground", "Take the pond's space from the ground",
        "Levels and water surfaces that the ground has within the pond's outline, or about its structure", {},
        [this, pond] {
            const Pond* p = pond();
            const Structure* s = document_.project().structures.find(p->structure.value);
            run_proposal("Looking at the ground",
                         [project = document_.project(), id = p->id, outline = p->outline, place = Point{s->x, s->y},
                          crest = p->crest, ground = document_.site_ground().ground](const std::stop_token& stop) {
                             const GroundSpace g =
                                 space_of_ground(ground, outline, place, not_given, crest, 12, 80, stop);
                             if (!g.why.empty()) {
                                 QString why = text(g.why);
                                 why[0] = why[0].toUpper();
                                 return std::pair{why + ".", Edit{}};
                             }
                             const UnitSet u = units_of(project);
                             const StageStorage space(g.levels, g.areas);
                             QString said = QString("Space of the ground: %1 up to %2")
                                                .arg(text(u.text(space.volume(g.levels.back()), Quantity::Volume)),
                                                     text(u.text(g.levels.back(), Quantity::Level)));
                             if (!std::isnan(g.spills))
                                 said += ", spills at " + text(u.text(g.spills, Quantity::Level));
                             return std::pair{said, take_space(project, id, g)};
                         });
        },
        has_pond);
    actions_->add(
        "storage.fill_gaps", "Fill the gaps of the pond's levels",
        "Draws the curve out below its lowest way out and up to its crest, as rows that can be seen", {},
        [this, pond] {
            const Pond* p = pond();
            double top = p->crest;
            if (std::isnan(top)) top = document_.project().structures.find(p->structure.value)->rim;
            Edit e = fill_gaps(document_.project(), p->id, top);
            if (e.changes.empty())
                notice_->say("Nothing is missing: the levels reach from below the outlets up to the crest.");
            else
                drawer_->preview()->show_preview("The gaps of " + text(p->name) + " are filled straight", std::move(e));
        },
        has_pond);
    actions_->add(
        "storage.earth", "Earth that the pond moves", "What is dug and what is filled for the selected pond's outline",
        {},
        [this, pond] {
            const Pond* p = pond();
            run_proposal("Looking at the ground", [project = document_.project(), row = *p,
                                                   ground = document_.site_ground().ground](const std::stop_token&) {
                const CutFill c = cut_and_fill(ground, row);
                const UnitSet u = units_of(project);
                if (!c.why.empty()) {
                    QString why = text(c.why);
                    why[0] = why[0].toUpper();
                    return std::pair{why + ".", Edit{}};
                }
                return std::pair{QString("%1: %2 dug, %3 filled")
                                     .arg(text(row.name), text(u.text(c.cut, Quantity::Volume)),
                                          text(u.text(c.fill, Quantity::Volume))),
                                 Edit{}};
            });
        },
        has_pond);
    connect(storage_, &StorageView::time_chosen, this, [this](double seconds) {
        if (shown_stage_ == Stage::Storage) plan_->set_water_time(seconds);
    });
    connect(storage_, &StorageView::outlet_wanted, this, [this](StructureId at) {
        Editing e(document_.project(), "Add circular orifice");
        e.insert(new_outlet(document_.project(), at, OutletKind::CircularOrifice));
        document_.commit(e.take());
    });
}

}  // namespace culvert::app
