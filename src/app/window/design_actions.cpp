// SPDX-License-Identifier: GPL-3.0-or-later
// What the window asks core/design for: runs graded and mended, networks proposed.
#include <QFileDialog>

#include "app/desk/text.h"
#include "app/window/main_window.h"
#include "core/design/branch_remedy.h"
#include "core/design/propose_network.h"

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

void MainWindow::save_profile() {
    const QString path = QFileDialog::getSaveFileName(this, "Save the profile, 1 : 500 and 1 : 50", {},
                                                      "PDF (*.pdf);;SVG (*.svg);;DXF (*.dxf)");
    if (!path.isEmpty()) save_profile_as(path);
}

void MainWindow::save_profile_as(const QString& path) {
    writer_.run([this, path, sheet = profile_->sheet(500, 50)](const Turn& turn) {
        const QString fault = write_sheet(sheet, path);
        turn.tell([this, path, fault] {
            notice_->say(fault.isEmpty() ? "Saved as " + path + ", 1 : 500 along the run and 1 : 50 in height."
                                         : fault);
        });
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
