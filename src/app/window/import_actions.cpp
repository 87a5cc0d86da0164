// SPDX-License-Identifier: GPL-3.0-or-later
// Layers that are taken from files as one previewed Edit: land covers, buried lines.
#include <QFileInfo>

#include "app/desk/text.h"
#include "app/window/main_window.h"
#include "core/base/contract.h"
#include "core/design/cover_cut.h"
#include "core/design/outer_levels.h"
#include "exchange/buried_lines.h"
#include "exchange/cover_layer.h"
#include "exchange/project_file.h"

namespace culvert::app {

void MainWindow::cut_cover_layer(const QString& path) {
    run_proposal("Cutting land covers", [project = document_.project(), path](const std::stop_token&) {
        const CoverLayer layer = load_cover_layer(plain(path));
        const QString file = QFileInfo(path).fileName();
        if (!layer.ok) return std::pair{file + ": " + text(layer.error) + ".", Edit{}};
        const CoverCut cut = cut_covers(project, layer.polygons, true);
        const UnitSet u = units_of(project);
        QString words = QString("%1 land covers in %2 catchments").arg(cut.covers).arg(cut.catchments);
        if (cut.bare > 1) words += ", " + text(u.text(cut.bare, Quantity::Area)) + " without a cover";
        if (cut.twice > 1) words += ", " + text(u.text(cut.twice, Quantity::Area)) + " covered twice";
        const std::size_t left = layer.remarks.size() + cut.remarks.size();
        if (left)
            words += QString("; %1 left out: ").arg(left) +
                     text(layer.remarks.empty() ? cut.remarks.front() : layer.remarks.front());
        return std::pair{words + ".", cut.edit};
    });
}

void MainWindow::import_buried_lines(const QString& path) {
    run_proposal("Reading lines", [project = document_.project(), path](const std::stop_token&) {
        const BuriedImport read = load_buried_lines(plain(path), units_of(project));
        const QString file = QFileInfo(path).fileName();
        if (!read.ok) return std::pair{file + ": " + text(read.error) + ".", Edit{}};
        QString words = QString("%1 buried lines from %2").arg(read.lines.size()).arg(file);
        if (!read.remarks.empty())
            words += QString("; %1 remarks: ").arg(read.remarks.size()) + text(read.remarks.front());
        return std::pair{words, buried_edit(project, read.lines, plain(file))};
    });
}

/// Of the structure of its name or the nearest; else of one that is chosen from the other project's.
void MainWindow::take_outer_levels(StructureId outfall, const QString& path) {
    reader_.run([this, project = document_.project(), outfall, path](const Turn& turn) {
        const QString file = QFileInfo(path).fileName();
        auto read = std::make_shared<ReadOutcome>(load_project(plain(path)));
        turn.tell([this, read, file, project, outfall] {
            if (!read->ok)
                return notice_->say(
                    file + ": " + text(read->problems.empty() ? "it cannot be read" : read->problems.front().message) +
                    ".");
            const Structure* s = project.structures.find(outfall.value);
            const StructureId there = s ? place_in(read->project, *s) : StructureId{};
            if (there || !s || read->project.structures.empty()) return take_levels_at(outfall, read, there, file);
            QStringList names;
            std::vector<StructureId> ids;
            for (const Structure& o : read->project.structures) {
                names << text(o.name.empty() ? "without a name" : o.name);
                ids.push_back({o.id});
            }
            command_bar_->ask(
                "Which structure of " + file + " does " + text(s->name) + " lead to?", names,
                [this, outfall, read, file, ids](int i) { take_levels_at(outfall, read, nth(ids, i), file); });
        });
    });
}

void MainWindow::take_levels_at(StructureId outfall, std::shared_ptr<const ReadOutcome> read, StructureId there,
                                const QString& file) {
    run_proposal("Solving " + file,
                 [project = document_.project(), outfall, read, there, file](const std::stop_token& stop) {
                     OuterLevels found = outer_levels(project, outfall, read->project, there, plain(file), stop);
                     QString words = file + ": " + text(found.why) + ".";
                     if (found.taken > 0) {
                         words = QString("Levels at %1 of %2 in %3 events")
                                     .arg(text(element_name(read->project, Kind::Structure, there.value)), file)
                                     .arg(found.taken);
                         if (!found.why.empty()) words += "; " + text(found.why);
                         words += ".";
                     }
                     return std::pair{words, std::move(found.edit)};
                 });
}

}  // namespace culvert::app
