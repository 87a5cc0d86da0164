// SPDX-License-Identifier: GPL-3.0-or-later
// How the window turns to a stage, and gives one view all the room.
#include <QApplication>
#include <QSettings>

#include "app/window/main_window.h"

namespace culvert::app {

void MainWindow::show_stage(Stage stage) {
    const StageSpec& spec = stage_spec(stage);
    if (!before_whole_.isEmpty()) give_whole();
    shown_stage_ = stage;
    if (!plan_themes_.contains(stage)) plan_themes_[stage] = spec.plan;
    plan_->set_plan_theme(plan_themes_[stage]);
    plan_->set_water_time(stage == Stage::Storage && storage_->time() >= 0 ? storage_->time() : not_given);
    {
        const QSignalBlocker quiet(colour_by_);
        const PlanTheme& t = plan_themes_[stage];
        const QString key = t.areas == AreaFill::Coefficient ? "area_coefficient"
                            : t.areas == AreaFill::Time      ? "area_time"
                                                             : t.colour;
        colour_by_->setCurrentIndex(std::max(0, colour_by_->findData(key)));
    }
    QWidget* lower = run_view();
    if (spec.lower == LowerView::Section) lower = section_;
    else if (spec.lower == LowerView::Rain) lower = rain_;
    else if (spec.lower == LowerView::Street) lower = street_;
    else if (spec.lower == LowerView::Storage) lower = storage_;
    if (spec.lower == LowerView::Street) lower = lower_for(spec.lower, document_.selected());
    profiles_->setCurrentWidget(lower);
    drawer_->ledger()->lead_with(stage);
    drawer_->ledger()->show_kind(spec.ledger);
    if (spec.page == DrawerPage::Ground) drawer_->tabs()->setCurrentWidget(drawer_->ground());
    else if (spec.page == DrawerPage::Storage) drawer_->tabs()->setCurrentWidget(drawer_->storage());
    else drawer_->tabs()->setCurrentIndex(spec.page == DrawerPage::Findings ? 1 : 0);
    card_->set_first(spec.card);
    QList<int> shares = shares_[stage];
    if (shares.isEmpty())
        for (const QVariant& v : QSettings().value(QString("stage/%1/shares").arg(spec.name)).toList())
            shares << v.toInt();
    if (shares.size() != 3) shares = QList<int>(spec.shares.begin(), spec.shares.end());
    middle_->setSizes(shares);
    refresh_tool_strip();
}

QWidget* MainWindow::run_view() const {
    return strip_shown_ ? static_cast<QWidget*>(branches_) : static_cast<QWidget*>(profile_);
}
void MainWindow::show_strip(bool on) {
    strip_shown_ = on;
    if (QAction* a = actions_->find("profile.strip")) a->setChecked(on);
    if (profiles_->currentWidget() == profile_ || profiles_->currentWidget() == branches_) {
        profiles_->setCurrentWidget(run_view());
        run_view()->setFocus();
    }
}

/// A street shows as one; in the stage of streets so does an inlet that stands on one.
QWidget* MainWindow::lower_for(LowerView lower, ElementRef e) const {
    if (e.kind == Kind::Street) return street_;
    if (lower != LowerView::Street) return run_view();
    if (!e.id || e.kind == Kind::StreetPath) return street_;
    const Structure* s = e.kind == Kind::Structure ? document_.project().structures.find(e.id) : nullptr;
    return s && s->street ? static_cast<QWidget*>(street_) : run_view();
}

void MainWindow::keep_shares() {
    if (!shown_stage_ || !before_whole_.isEmpty()) return;
    shares_[*shown_stage_] = middle_->sizes();
    QVariantList kept;
    for (const int n : middle_->sizes()) kept << n;
    QSettings().setValue(QString("stage/%1/shares").arg(stage_spec(*shown_stage_).name), kept);
}

void MainWindow::choose_colouring(const QString& key) {
    const Colouring c = colouring(key);
    PlanTheme t = plan_->plan_theme();
    t.areas = c.areas;
    t.quiet_pipes = graded(c.areas);
    if (!graded(c.areas)) {
        t.colour = c.key;
        t.pipe_labels = c.field ? PipeLabels::Value : PipeLabels::SizeAndSlope;
    }
    plan_themes_[rail_->stage()] = t;
    plan_->set_plan_theme(t);
    const QSignalBlocker quiet(colour_by_);
    colour_by_->setCurrentIndex(std::max(0, colour_by_->findData(key)));
}

/// The plan, the lower view, the drawer or the card: whichever has the keyboard.
void MainWindow::give_whole() {
    QWidget* const parts[] = {middle_->widget(0), profiles_, drawer_, card_};
    if (!before_whole_.isEmpty()) {
        for (QWidget* part : parts) part->show();
        middle_->show();
        middle_->setSizes(before_whole_);
        before_whole_.clear();
        return;
    }
    QWidget* chosen = parts[0];
    for (QWidget* part : parts)
        if (QWidget* f = QApplication::focusWidget(); f && (f == part || part->isAncestorOf(f))) chosen = part;
    before_whole_ = middle_->sizes();
    for (QWidget* part : parts) part->setVisible(part == chosen);
    middle_->setVisible(chosen != card_);
}

}  // namespace culvert::app
