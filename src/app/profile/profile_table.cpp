// SPDX-License-Identifier: GPL-3.0-or-later
// The level table under the profile: which rows it has, how it is painted, and levels typed in its cells.
#include "app/profile/profile_table.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QPainter>
#include <QSettings>
#include <cmath>
#include <span>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/profile/profile_layout.h"
#include "app/profile/profile_view.h"
#include "exchange/paste_table.h"

namespace culvert::app {

const std::vector<TableRow>& all_table_rows() {
    static const std::vector<TableRow> all = [] {
        std::vector<TableRow> list;
        for (const ResultField& f : result_fields(ResultOn::Link))
            list.push_back({text(f.key), text(f.head), f.quantity, &f, false});
        std::stable_partition(list.begin(), list.end(), [](const TableRow& r) { return r.quantity == Quantity::Flow; });
        const std::vector<TableRow> ends{{"invert_up", "invert, upper", Quantity::Level, nullptr, false},
                                         {"invert_down", "invert, lower", Quantity::Level, nullptr, true}};
        list.insert(list.end(), ends.begin(), ends.end());
        return list;
    }();
    return all;
}
std::vector<TableRow> chosen_table_rows() {
    const QSettings settings;
    const bool chosen = settings.contains("profile/rows");
    const QStringList keys = settings.value("profile/rows").toStringList();
    std::vector<TableRow> rows;
    for (const TableRow& r : all_table_rows())
        if (chosen ? keys.contains(r.key) : !r.field || (r.field->shown & in_profile)) rows.push_back(r);
    return rows;
}
void choose_table_rows(const QStringList& keys) { QSettings().setValue("profile/rows", keys); }

/// In a low strip the plot keeps its least height, and the table's last rows give way.
std::size_t ProfileView::rows_shown() const {
    const double room = (height() - profile_head - profile_foot - least_plot) / table_row;
    return std::min(rows_.size(), static_cast<std::size_t>(std::max(0.0, room)));
}
double ProfileView::table_height() const { return table_row * static_cast<double>(rows_shown()); }

void ProfileView::paint_table(QPainter& p, const QRectF& area) {
    const Theme& t = theme();
    const UnitSet u = document_.units();
    const Project& project = document_.project();
    p.setPen(QPen(t.hairline, 1));
    p.drawLine(QPointF(0, area.top() - 3), QPointF(width(), area.top() - 3));
    const std::span rows(rows_.data(), rows_shown());
    heads_.clear();
    typed_cells_.clear();
    p.setFont(lettering(8));
    for (std::size_t row = 0; row < rows.size(); ++row) {
        const QString unit = text(u.unit(rows[row].quantity).symbol);
        heads_ << rows[row].head + (unit.isEmpty() ? "" : " " + unit);
        p.setPen(t.quiet);
        p.drawText(QRectF(6, area.top() + static_cast<double>(row) * table_row, table_left - 6, table_row),
                   Qt::AlignLeft | Qt::AlignVCenter, heads_.back());
    }
    const auto r = document_.result();
    const ResultField* ratio = result_field(ResultOn::Link, "flow_ratio");
    // Columns with room first take theirs; of the others the important ones, then whatever still fits between.
    const QRectF room(table_left, area.top(), width() - table_left - 4, area.height());
    std::vector<std::tuple<bool, int, std::size_t>> order;
    for (std::size_t i = 0; i < profile_.reaches.size(); ++i) {
        const double x0 = to_screen({profile_.reaches[i].x0, 0}).x(), x1 = to_screen({profile_.reaches[i].x1, 0}).x();
        const bool chosen = document_.is_selected({Kind::Pipe, profile_.reaches[i].pipe.value});
        const bool beyond = profile_.reaches[i].verdict == Verdict::Beyond;
        if (x1 > room.left() && x0 < room.right()) order.emplace_back(x1 - x0 < 44, chosen ? -2 : (beyond ? -1 : 0), i);
    }
    std::sort(order.begin(), order.end());
    std::vector<std::pair<double, double>> taken;
    for (const auto& [narrow, rank, i] : order) {
        const ProfileReach& reach = profile_.reaches[i];
        const auto link = static_cast<std::size_t>(reach.link);
        const bool solved =
            r && reach.link != no_link && link < r->links.size() && r->network->links[link].pipe == reach.pipe;
        std::vector<QString> values;
        double w = 0;
        for (const TableRow& row : rows) {
            const double value = !row.field ? (row.lower ? reach.invert_down : reach.invert_up)
                                 : solved   ? row.field->value(*r, link)
                                            : not_given;
            // A size in full, "3 of 900": one barrel's height would pass for the whole.
            const Pipe* pipe =
                solved && row.quantity == Quantity::Size ? project.pipes.find(reach.pipe.value) : nullptr;
            values.push_back(row.field && !solved ? QString()
                             : pipe               ? text(size_words(u, *pipe, false))
                                                  : text(u.number(value, row.quantity)));
            w = std::max(w, QFontMetricsF(lettering(8, true)).horizontalAdvance(values.back()) + 8);
        }
        const double middle = (to_screen({reach.x0, 0}).x() + to_screen({reach.x1, 0}).x()) / 2, left = middle - w / 2;
        bool free = left >= room.left() && left + w <= room.right() + 8;
        for (const auto& [a, b] : taken) free = free && (left + w <= a || left >= b);
        if (!free) continue;
        taken.emplace_back(left, left + w);
        for (std::size_t row = 0; row < rows.size(); ++row) {
            const ResultField* field = rows[row].field;
            const bool over = field && field->key == "flow" && solved && ratio && ratio->value(*r, link) > 1;
            p.setPen(over ? t.beyond : t.ink);
            p.setFont(lettering(8, rows[row].quantity == Quantity::Size));
            const QRectF cell(left, area.top() + static_cast<double>(row) * table_row, w, table_row);
            cells_.emplace_back(values[row], cell);
            p.drawText(cell, Qt::AlignCenter, values[row]);
            if (!field) typed_cells_.push_back({reach.pipe, rows[row].lower, cell});
        }
    }
    // From left to right, the upper end first: the order of the Tab key.
    std::sort(typed_cells_.begin(), typed_cells_.end(), [](const TypedCell& a, const TypedCell& b) {
        return std::tuple(a.cell.center().x(), a.lower) < std::tuple(b.cell.center().x(), b.lower);
    });
    // The line stays with its cell when the view gets another size, or is zoomed.
    if (!editor_ || !editor_->isVisible()) return;
    if (const QRectF cell = typed_cell(edited_.pipe, edited_.lower); cell.isNull()) close_editor();
    else editor_->move(QPointF(cell.center().x() - 38, cell.center().y() - 11).toPoint());
}

QRectF ProfileView::typed_cell(PipeId pipe, bool lower) const {
    for (const TypedCell& c : typed_cells_)
        if (c.pipe == pipe && c.lower == lower) return c.cell;
    return {};
}

/// Opens a line in a cell; what is typed there is a level of the pipe's end, or a pin where the run is being graded.
bool ProfileView::edit_level(PipeId pipe, bool lower) {
    const QRectF cell = typed_cell(pipe, lower);
    const auto reach = std::find_if(profile_.reaches.begin(), profile_.reaches.end(),
                                    [&](const ProfileReach& r) { return r.pipe == pipe; });
    if (cell.isNull() || reach == profile_.reaches.end()) return false;
    if (!editor_) {
        editor_ = new QLineEdit(this);
        editor_->setAccessibleName("Level");
        editor_->setAlignment(Qt::AlignCenter);
        editor_->installEventFilter(this);
        connect(editor_, &QLineEdit::textEdited, this, [this] { editor_->setStyleSheet({}); });
    }
    edited_ = {pipe, lower, cell};
    editor_->setStyleSheet({});
    editor_->setFont(lettering(8.5));
    editor_->setText(text(document_.units().number(lower ? reach->invert_down : reach->invert_up, Quantity::Level)));
    editor_->setGeometry(QRectF(cell.center().x() - 38, cell.center().y() - 11, 76, 22).toRect());
    editor_->setToolTip("Enter takes the level, Tab goes on to the next, Esc leaves it");
    editor_->selectAll();
    editor_->show();
    editor_->setFocus();
    return true;
}

bool ProfileView::take_level() {
    const Pipe* p = document_.project().pipes.find(edited_.pipe.value);
    const auto reach = std::find_if(profile_.reaches.begin(), profile_.reaches.end(),
                                    [&](const ProfileReach& r) { return r.pipe == edited_.pipe; });
    if (!p || reach == profile_.reaches.end()) return true;
    if (!editor_->isModified()) return true;
    const auto at = static_cast<std::size_t>(reach - profile_.reaches.begin());
    const bool along = p->from == profile_.stations[at].structure, start = along != edited_.lower;
    const char* key = start ? "invert_from" : "invert_to";
    const CellValue typed =
        read_cell(document_.project(), Kind::Pipe, p->id, *field_index(Kind::Pipe, key), plain(editor_->text()));
    const double* level = std::get_if<double>(&typed.value);
    if (!typed.ok || !level || std::isnan(*level)) {
        editor_->setStyleSheet("border:1px solid " + theme().beyond.name());
        emit refused("Invert of " + text(pipe_name(document_.project(), *p)) + ": " +
                     (typed.error.empty() ? QString("type a level") : text(typed.error)) + ".");
        return false;
    }
    if (taker_ && taker_(edited_.pipe, start, *level)) return true;
    Editing edit(document_.committed(), "Invert of " + pipe_name(document_.project(), *p));
    edit.set(Kind::Pipe, p->id, key, *level);
    document_.commit(edit.take());
    return true;
}

void ProfileView::close_editor() {
    if (!editor_ || !editor_->isVisible()) return;
    editor_->hide();
    setFocus();
}

bool ProfileView::eventFilter(QObject* watched, QEvent* event) {
    if (watched != editor_ || !editor_->isVisible()) return QWidget::eventFilter(watched, event);
    if (event->type() == QEvent::FocusOut && static_cast<QFocusEvent*>(event)->reason() != Qt::PopupFocusReason) {
        if (take_level()) editor_->hide();
        return false;
    }
    if (event->type() != QEvent::KeyPress) return false;
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Escape) {
        editor_->setModified(false);
        close_editor();
        return true;
    }
    const bool back = key == Qt::Key_Backtab;
    if (key != Qt::Key_Return && key != Qt::Key_Enter && key != Qt::Key_Tab && !back) return false;
    if (!take_level()) return true;
    editor_->setModified(false);
    if (key == Qt::Key_Return || key == Qt::Key_Enter) {
        close_editor();
        return true;
    }
    for (std::size_t i = 0; i < typed_cells_.size(); ++i)
        if (typed_cells_[i].pipe == edited_.pipe && typed_cells_[i].lower == edited_.lower) {
            const std::size_t next = back ? i - 1 : i + 1;
            if (next < typed_cells_.size()) edit_level(typed_cells_[next].pipe, typed_cells_[next].lower);
            else close_editor();
            break;
        }
    return true;
}

}  // namespace culvert::app
