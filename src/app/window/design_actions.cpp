// SPDX-License-Identifier: GPL-3.0-or-later
// What the window asks core/design for: runs graded and mended, networks proposed.
#include <QFileDialog>

#include "app/desk/text.h"
#include "app/window/main_window.h"
#include "core/design/branch_remedy.h"
#include "core/design/propose_network.h"
#include "core/design/roadside_ditch.h"
#include "core/design/ties.h"
#include "drawing/plan_sheet.h"

namespace culvert::app {
namespace {

QString sentence(const std::string& words) {
    QString s = text(words);
    if (!s.isEmpty()) s[0] = s[0].toUpper();
    return s + ".";
}

}  // namespace

/// The run that the selection makes, or else the one in the profile.
void MainWindow::grade_selection() {
    std::vector<ElementRef> elements;
    for (const ElementRef e : document_.selection())
        if (e.kind == Kind::Pipe || e.kind == Kind::Structure) elements.push_back(e);
    if (elements.empty() || (elements.size() == 1 && elements.front().kind == Kind::Structure)) {
        elements.clear();
        for (const ProfileReach& r : profile_->profile().reaches) elements.push_back({Kind::Pipe, r.pipe.value});
    }
    drawer_->show_page(drawer_->grade());
    drawer_->grade()->begin(elements);
}

void MainWindow::mend_run() {
    std::vector<PipeId> run;
    for (const ProfileReach& r : profile_->profile().reaches) run.push_back(r.pipe);
    const Results results = document_.all_results();
    if (results.empty()) return notice_->say("The results are on their way: ask again in a moment.");
    run_proposal("Trying larger pipes", [project = document_.project(), results, run,
                                         event = document_.event()](const std::stop_token& stop) {
        const BranchRemedy r = mend_branch(project, results, run, event, stop);
        if (r.edit.empty()) return std::pair{sentence(r.why), Edit{}};
        const UnitSet u = units_of(project);
        QStringList changes;
        for (const BranchChange& c : r.changes)
            changes << text(element_name(project, Kind::Pipe, c.pipe.value)) + " " +
                           text(u.text(c.after, Quantity::Size));
        QString words = changes.join(", ") + QString(": %1 of %2 findings of the run gone, %3 new, cost %4")
                                                 .arg(r.before - r.left)
                                                 .arg(r.before)
                                                 .arg(r.added)
                                                 .arg(r.cost, 0, 'f', 0);
        words += r.smallest ? "; no fewer pipes will do" : QString("; %1 sets tried").arg(r.tried);
        return std::pair{words, r.edit};
    });
}

/// The site in space stands in the plan's place.
void MainWindow::show_in_space(bool on) {
    space_->setVisible(on);
    plan_->setVisible(!on);
    if (QAction* a = actions_->find("view.space")) a->setChecked(on);
    (on ? static_cast<QWidget*>(space_) : plan_)->setFocus();
}

void MainWindow::save_profile() {
    const FileScale scale = profile_file_scale();
    const QString path = QFileDialog::getSaveFileName(
        this, QString("Save the profile, 1 : %1 and 1 : %2").arg(scale.across).arg(scale.up), {},
        "PDF (*.pdf);;SVG (*.svg);;DXF (*.dxf)");
    if (!path.isEmpty()) save_profile_as(path);
}

void MainWindow::save_profile_as(const QString& path) {
    const FileScale scale = profile_file_scale();
    writer_.run([this, path, scale, sheet = profile_->sheet(scale.across, scale.up)](const Turn& turn) {
        const QString fault = write_sheet(sheet(), path);
        turn.tell([this, path, scale, fault] {
            notice_->say(fault.isEmpty() ? QString("Saved as %1, 1 : %2 along the run and 1 : %3 in height.")
                                               .arg(path)
                                               .arg(scale.across)
                                               .arg(scale.up)
                                         : fault);
        });
    });
}

void MainWindow::save_plan() {
    const QString path =
        QFileDialog::getSaveFileName(this, "Save the plan", {}, "PDF (*.pdf);;SVG (*.svg);;DXF in coordinates (*.dxf)");
    if (!path.isEmpty()) save_plan_as(path);
}

/// To the largest usual scale that fits A3, or in the project's coordinates as DXF.
void MainWindow::save_plan_as(const QString& path) {
    writer_.run([this, path, project = document_.project(), result = document_.result(), review = document_.review(),
                 ground = document_.site_ground().ground](const Turn& turn) {
        PlanSheetOptions options;
        options.in_coordinates = path.endsWith(".dxf", Qt::CaseInsensitive);
        options.result = result.get();
        options.review = review.get();
        if (const auto& top = ground.finished ? ground.finished : ground.existing)
            options.contours = contours(*top, project.settings().system == UnitSystem::Us ? 2 * 0.3048 : 0.5);
        const PlanSheet sheet = plan_sheet(project, options);
        const QString fault = sheet.list.empty()
                                  ? QString("Nothing of the project has a place in plan yet.")
                                  : write_paper(sheet.list, sheet.width, sheet.height, sheet.letters, path);
        turn.tell([this, path, fault, scale = sheet.scale, left = sheet.labels_left,
                   coordinates = options.in_coordinates] {
            QString words = "Saved as " + path +
                            (coordinates ? QString(", in the project's coordinates") : QString(", 1 : %1").arg(scale));
            if (left) words += QString("; %1 names and sizes had no room").arg(left);
            notice_->say(fault.isEmpty() ? words + "." : fault);
        });
    });
}

/// Levels whose ties stand against other ground, rims and pipes than when they were graded.
void MainWindow::follow_the_ties() {
    run_proposal("Reading the ties again", [project = document_.project(),
                                            ground = document_.site_ground().ground](const std::stop_token& stop) {
        const TiesFollowed f = follow_ties(project, ground, stop);
        if (f.ties == 0)
            return std::pair{QString("No level is tied: grading (F8) ties what is pinned to the ground, a rim, a cover "
                                     "or a pipe."),
                             Edit{}};
        QString words = QString("%1 of %2 tied levels move").arg(f.moved).arg(f.ties);
        if (!f.conflicts.empty())
            words += QString(", %1 conflicts: ").arg(f.conflicts.size()) + text(f.conflicts.front().words);
        if (!f.broken.empty()) words += "; not followed: " + text(f.broken.front());
        return std::pair{words + ".", f.edit};
    });
}

const Street* MainWindow::chosen_street() const {
    const auto& streets = document_.project().streets;
    const ElementRef e = document_.selected();
    if (e.kind == Kind::Street) return streets.find(e.id);
    if (e.kind == Kind::Structure)
        if (const Structure* s = document_.project().structures.find(e.id); s && s->street)
            return streets.find(s->street.value);
    return streets.size() == 1 ? &*streets.begin() : nullptr;
}

/// Along the chosen street.
void MainWindow::propose_the_ditch(bool right) {
    const Street* street = chosen_street();
    if (!street) return;
    run_proposal(
        "Laying a ditch", [project = document_.project(), id = StreetId{street->id}, right](const std::stop_token&) {
            DitchProposal d = propose_ditch(project, {id, right});
            if (!d.fault.empty()) return std::pair{"No ditch: " + text(d.fault) + ".", Edit{}};
            const UnitSet u = units_of(project);
            QString words =
                QString("%1 channels, %2, least slope %3")
                    .arg(d.channels)
                    .arg(text(u.text(d.length, Quantity::Length)), text(u.text(d.least_slope, Quantity::Slope)));
            if (!d.remarks.empty()) words += "; " + text(d.remarks.front());
            if (d.remarks.size() > 1) words += QString(" and %1 more").arg(d.remarks.size() - 1);
            return std::pair{words + ".", std::move(d.edit)};
        });
}

/// Of the chosen inlets, or of all that no pipe leaves, to the chosen outfall or the lowest.
void MainWindow::propose_pipes() {
    NetworkAsk ask;
    for (const ElementRef e : document_.selection())
        if (const Structure* s = e.kind == Kind::Structure ? document_.project().structures.find(e.id) : nullptr) {
            if (s->kind == StructureKind::Outfall) ask.outfall = {s->id};
            else ask.inlets.push_back({s->id});
        }
    for (const auto& line : plan_->background().lines()) {
        if (line.points.size() < 4 || line.points.front() != line.points.back()) continue;
        // Buildings are told by the name of their layer; other closed lines (blocks, curbs) are no obstacle.
        const SiteBackground* b = document_.site().background(line.background);
        if (!b || !b->drawing || static_cast<std::size_t>(line.layer) >= b->drawing->layers.size()) continue;
        const QString layer = text(nth(b->drawing->layers, line.layer)).toLower();
        if (!layer.contains("build") && !layer.contains("house") && !layer.contains("wall")) continue;
        ask.obstacles.emplace_back();
        for (const QPointF& p : line.points) ask.obstacles.back().push_back({p.x(), p.y()});
        ask.obstacles.back().pop_back();
    }
    run_proposal("Seeking ways along the streets", [project = document_.project(),
                                                    ground = document_.site_ground().ground,
                                                    ask = std::move(ask)](const std::stop_token& stop) {
        const NetworkProposal n = propose_network(project, ground, ask, stop);
        if (!n.error.empty()) return std::pair{sentence(n.error), Edit{}};
        const UnitSet u = units_of(project);
        QString words = QString("%1 pipes and %2 manholes, %3, %4 m³ dug, cost %5; the tree of shortest ways costs %6")
                            .arg(n.pipes)
                            .arg(n.manholes)
                            .arg(text(u.text(n.length, Quantity::Length)))
                            .arg(n.volume, 0, 'f', 0)
                            .arg(n.cost, 0, 'f', 0)
                            .arg(n.cost_first, 0, 'f', 0);
        if (!n.left_out.empty()) words += QString("; no way past the obstacles from %1 inlets").arg(n.left_out.size());
        return std::pair{words + ". F9 sizes them", n.edit};
    });
}

}  // namespace culvert::app
