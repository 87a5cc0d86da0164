// SPDX-License-Identifier: GPL-3.0-or-later
// What can be chosen about the profile: runs kept by name, rows of its table, measuring, the scale of its files.
#include <QMenu>
#include <QPainter>
#include <QSettings>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/profile/profile_layout.h"
#include "app/profile/profile_table.h"
#include "app/profile/profile_view.h"
#include "exchange/site_import.h"

namespace culvert::app {
namespace {

constexpr std::pair<int, int> scales[] = {{1000, 100}, {500, 100}, {500, 50}, {250, 50}, {250, 25}, {200, 20}};

}  // namespace

FileScale profile_file_scale() {
    const QSettings settings;
    FileScale s{settings.value("profile/across", 500).toDouble(), settings.value("profile/up", 50).toDouble()};
    if (!(s.across >= 1 && s.across <= 1e5 && s.up >= 1 && s.up <= 1e5)) s = {500, 50};
    return s;
}

void ProfileView::choose_rows(const QStringList& keys) {
    choose_table_rows(keys);
    rows_ = chosen_table_rows();
    close_editor();
    update();
}

/// The run that is shown, kept by name as one Edit.
void ProfileView::keep_run() {
    if (profile_.empty()) return emit refused("There is no profile to keep: select a run that leads to an outfall.");
    const ProfileStation &head = profile_.stations.front(), &end = profile_.stations.back();
    for (const ProfileRun& r : document_.project().profiles)
        if (r.from == head.structure && r.to == end.structure)
            return emit refused("It is kept already, as \"" + text(r.name) + "\".");
    Editing e(document_.project(), "Keep the profile " + head.name + " to " + end.name);
    ProfileRun run;
    run.name = free_name(document_.project(), Kind::ProfileRun, head.name + " to " + end.name);
    run.from = head.structure;
    run.to = end.structure;
    e.insert(run);
    document_.commit(e.take());
}

void ProfileView::show_run(const ProfileRun& run) {
    document_.select({{Kind::Structure, run.from.value}, {Kind::Structure, run.to.value}});
}

QMenu* ProfileView::make_menu() {
    auto* menu = new QMenu(this);
    menu->setObjectName("profile-menu");
    menu->setToolTipsVisible(true);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    for (const ProfileRun& run : document_.project().profiles) {
        QAction* a = menu->addAction(text(run.name), this, [this, id = run.id] {
            if (const ProfileRun* r = document_.project().profiles.find(id)) show_run(*r);
        });
        a->setToolTip("Shows the run from " + text(element_name(document_.project(), Kind::Structure, run.from.value)) +
                      " to " + text(element_name(document_.project(), Kind::Structure, run.to.value)));
        a->setCheckable(true);
        a->setChecked(!profile_.empty() && profile_.stations.front().structure == run.from &&
                      profile_.stations.back().structure == run.to);
    }
    QAction* keep = menu->addAction("Keep this profile", this, &ProfileView::keep_run);
    keep->setToolTip(
        "Keeps the run that is shown by name, with the project. Two selected structures show the part between");
    menu->addSeparator();
    QMenu* rows = menu->addMenu("Rows of the table");
    for (const TableRow& r : all_table_rows()) {
        QAction* a = rows->addAction(r.head);
        a->setCheckable(true);
        a->setChecked(std::any_of(rows_.begin(), rows_.end(), [&](const TableRow& x) { return x.key == r.key; }));
        connect(a, &QAction::toggled, this, [this, key = r.key](bool on) {
            QStringList keys;
            for (const TableRow& x : rows_)
                if (x.key != key) keys << x.key;
            if (on) keys << key;
            choose_rows(keys);
        });
    }
    QMenu* files = menu->addMenu("Scale of its files");
    const FileScale now = profile_file_scale();
    for (const auto& [across, up] : scales) {
        QAction* a = files->addAction(QString("1 : %1 along, 1 : %2 in height").arg(across).arg(up), this,
                                      [across = across, up = up] {
                                          QSettings settings;
                                          settings.setValue("profile/across", across);
                                          settings.setValue("profile/up", up);
                                      });
        a->setCheckable(true);
        a->setChecked(now.across == across && now.up == up);
    }
    QAction* strip = menu->addAction("Branches in its files", this, [] {
        QSettings settings;
        settings.setValue("profile/branches", !settings.value("profile/branches", false).toBool());
    });
    strip->setToolTip("Saved files show the run and, side by side, every branch down to where it joins");
    strip->setCheckable(true);
    strip->setChecked(QSettings().value("profile/branches", false).toBool());
    QAction* measure = menu->addAction("Measure", this, [this] { set_measuring(!measuring_); });
    measure->setToolTip("Drag between two places: distance, height and slope (M)");
    measure->setCheckable(true);
    measure->setChecked(measuring_);
    return menu;
}

void ProfileView::set_measuring(bool on) {
    measuring_ = on;
    measured_ = {};
    setCursor(on ? Qt::CrossCursor : Qt::ArrowCursor);
    update();
}

/// A place of the run for measuring: an end of a pipe, a rim or a grade line in reach, else the place itself.
Point ProfileView::place_at(QPointF at) const {
    constexpr double reach = 8;
    const QRectF a = plot();
    const double left = to_ > from_ ? from_ : 0, shown = to_ > from_ ? to_ - from_ : profile_.length;
    Point best{left + (at.x() - a.left()) / a.width() * shown, level_at(at.y())};
    double nearest = reach;
    const auto see = [&](Point p) {
        const QPointF d = to_screen(p) - at;
        if (const double away = std::hypot(d.x(), d.y()); std::isfinite(away) && away < nearest) {
            nearest = away;
            best = p;
        }
    };
    for (const Handle& h : handles()) see(h.at);
    for (const ProfileReach& r : profile_.reaches) {
        see({r.x0, r.invert_up + r.height});
        see({r.x1, r.invert_down + r.height});
        for (const Point& p : r.hydraulic) see(p);
    }
    return best;
}

QString ProfileView::measured() const {
    if (!measured_) return {};
    const UnitSet u = document_.units();
    const double along = measured_->second.x - measured_->first.x, up = measured_->second.y - measured_->first.y;
    QString words = text(u.text(std::abs(along), Quantity::Length)) + " along, " +
                    text(u.text(std::abs(up), Quantity::Length)) + (up < 0 ? " down" : " up");
    if (std::abs(along) > 1e-6) words += ", " + text(u.text(std::abs(up / along), Quantity::Slope));
    return words;
}

void ProfileView::paint_measure(QPainter& p) {
    if (!measured_) return;
    const Theme& t = theme();
    const QPointF a = to_screen(measured_->first), b = to_screen(measured_->second);
    p.setPen(QPen(t.accent, 1.4));
    p.drawLine(a, b);
    p.setBrush(t.panel);
    for (const QPointF& q : {a, b}) p.drawEllipse(q, 3, 3);
    p.setFont(lettering(9, true));
    const QString words = measured();
    const double w = QFontMetricsF(p.font()).horizontalAdvance(words) + 10;
    const QRectF area = plot();
    const QRectF box(std::clamp(b.x() + 10, area.left(), std::max(area.left(), area.right() - w)),
                     std::clamp(b.y() - 26, area.top(), area.bottom() - 18), w, 18);
    p.setPen(Qt::NoPen);
    p.setBrush(t.panel);
    p.drawRoundedRect(box, 3, 3);
    p.setPen(t.accent);
    p.drawText(box, Qt::AlignCenter, words);
}

}  // namespace culvert::app
