// SPDX-License-Identifier: GPL-3.0-or-later
// What the ledger does to many cells and rows at once: copy, paste, fill down, change, clear, add, delete.
#include <algorithm>
#include <cmath>
#include <map>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/ledger/ledger.h"
#include "core/model/cells.h"
#include "core/model/formula.h"
#include "exchange/site_import.h"

namespace culvert::app {

void Ledger::paste(const QString& pasted) {
    if (table_->model() == rain_) {
        paste_rain(pasted);
        return;
    }
    PastePlace place;
    const QModelIndex now = table_->currentIndex();
    const auto shown = shown_columns();
    const auto first = std::find(shown.begin(), shown.end(), now.column());
    for (auto c = first == shown.end() ? shown.begin() : first; c != shown.end(); ++c)
        if (const int f = model_->field_of(*c); f >= 0) place.columns.push_back(static_cast<std::size_t>(f));
    for (int r = std::max(0, now.row()); r < model_->rowCount(); ++r) place.rows.push_back(model_->id_of(r));
    paste_->plan(model_->kind(), pasted, place);
}

QString Ledger::copied(bool with_head) const {
    const QModelIndexList cells = table_->selectionModel()->selectedIndexes();
    if (table_->model() == rain_ || cells.empty()) {
        QModelIndexList sorted = cells;
        std::sort(sorted.begin(), sorted.end());
        QString out;
        int last = -1;
        for (const QModelIndex& cell : sorted) {
            out += last < 0 ? QString() : (cell.row() == last ? QString("\t") : QString("\n"));
            out += cell.data().toString();
            last = cell.row();
        }
        return out;
    }
    std::map<int, std::map<int, QModelIndex>> rows;  // by row, by place
    const auto shown = shown_columns();
    std::map<int, int> place;
    for (std::size_t i = 0; i < shown.size(); ++i) place[shown[i]] = static_cast<int>(i);
    std::map<int, int> columns;
    for (const QModelIndex& cell : cells) {
        if (!place.contains(cell.column())) continue;
        rows[cell.row()][place[cell.column()]] = cell;
        columns[place[cell.column()]] = cell.column();
    }
    QString out;
    if (with_head) {
        bool first = true;
        for (const auto& [p, c] : columns) {
            // A result is not a field of the same name: pasted back it is ignored.
            out += (first ? "" : "\t") + (model_->field_of(c) < 0 ? QString("result ") : QString()) + model_->head(c);
            first = false;
        }
        out += "\n";
    }
    for (const auto& [r, found] : rows) {
        bool first = true;
        for (const auto& [p, c] : columns) {
            const auto at = found.find(p);
            out += (first ? "" : "\t") + (at == found.end() ? QString() : model_->copied(at->second));
            first = false;
        }
        out += "\n";
    }
    return out;
}

void Ledger::fill_down() {
    std::map<int, std::vector<int>> columns;  // rows by column
    for (const QModelIndex& cell : table_->selectionModel()->selectedIndexes())
        if (model_->field_of(cell.column()) >= 0) columns[cell.column()].push_back(cell.row());
    Editing e(document_.project(), "Fill down");
    const Kind kind = model_->kind();
    for (auto& [c, rows] : columns) {
        std::sort(rows.begin(), rows.end());
        const auto field = static_cast<std::size_t>(model_->field_of(c));
        const FieldInfo& info = *infos_of(kind)[field];
        if (info.key == "name") continue;  // names stay unique
        const Value top = value_of(document_.project(), kind, model_->id_of(rows.front()), field);
        for (std::size_t i = 1; i < rows.size(); ++i) e.set(kind, model_->id_of(rows[i]), info.key, top);
    }
    Edit edit = e.take();
    if (edit.empty()) {
        say("Choose two cells or more of a column, the top one with the value.", true);
        return;
    }
    edit.name = "Fill down " + std::to_string(edit.changes.size()) + " cells";
    document_.commit(std::move(edit));
}

void Ledger::change_chosen(const QString& typed) {
    if (typed.trimmed().isEmpty() || table_->model() != model_) return;
    std::map<int, std::vector<std::uint64_t>> columns;
    for (const QModelIndex& cell : table_->selectionModel()->selectedIndexes())
        if (model_->field_of(cell.column()) >= 0) columns[cell.column()].push_back(model_->id_of(cell.row()));
    if (columns.empty()) {
        say("Choose cells of a field first: they all take the change.", true);
        return;
    }
    const Kind kind = model_->kind();
    Edit all;
    std::vector<std::string> refused;
    std::size_t cells = 0;
    for (const auto& [c, ids] : columns) {
        const auto field = static_cast<std::size_t>(model_->field_of(c));
        const FieldInfo& info = *infos_of(kind)[field];
        cells += ids.size();
        Edit part;
        if (is_formula(plain(typed)) && info.quantity != Quantity::None) {
            GroupEdit g = edit_by_formula(document_.project(), kind, field, ids, plain(typed));
            refused.insert(refused.end(), g.refused.begin(), g.refused.end());
            part = std::move(g.edit);
        } else {
            Editing e(document_.project(), "");
            if (info.key == "name" && ids.size() > 1) {
                refused.emplace_back("one name for several elements: names are unique");
                continue;
            }
            for (const std::uint64_t id : ids) {
                const CellValue v =
                    read_cell(document_.project(), kind, id, field, plain(typed), model_->display(c).factor);
                if (v.ok) e.set(kind, id, info.key, v.value);
                else refused.push_back(element_name(document_.project(), kind, id) + ": " + v.error);
            }
            part = e.take();
        }
        all.changes.insert(all.changes.end(), std::make_move_iterator(part.changes.begin()),
                           std::make_move_iterator(part.changes.end()));
        all.name = std::string(info.label) + " " + plain(typed) + " of " + std::to_string(ids.size()) + " " +
                   std::string(table_name(kind));
    }
    const std::size_t changed = all.changes.size();
    if (changed) document_.commit(std::move(all));
    if (refused.empty()) {
        say(QString("%1 of %2 cells changed.").arg(changed).arg(cells), false);
        change_->clear();
    } else
        say(QString("%1 of %2 cells changed; not: ").arg(changed).arg(cells) + text(refused[0]) +
                (refused.size() > 1 ? QString(", and %1 more").arg(refused.size() - 1) : QString()) + ".",
            true);
}

void Ledger::add_row() {
    const Kind kind = model_->kind();
    const QModelIndex now = table_->currentIndex();
    std::uint64_t id = 0;
    document_.commit(one_more(document_.project(), kind, now.isValid() ? model_->id_of(now.row()) : 0, id));
    if (const int r = model_->row_of(id); r >= 0) {
        table_->setCurrentIndex(model_->index(r, 0));
        table_->scrollTo(model_->index(r, 0));
    }
}

void Ledger::delete_rows() {
    std::vector<std::uint64_t> ids;
    for (const QItemSelectionRange& r : table_->selectionModel()->selection())
        for (int i = r.top(); i <= r.bottom(); ++i) ids.push_back(model_->id_of(i));
    std::sort(ids.begin(), ids.end());
    ids.erase(std::unique(ids.begin(), ids.end()), ids.end());
    Editing e(document_.project(),
              "Delete " + std::to_string(ids.size()) + " " +
                  std::string(ids.size() == 1 ? kind_name(model_->kind()) : table_name(model_->kind())));
    for (const std::uint64_t id : ids) e.remove(model_->kind(), id);
    document_.commit(e.take());
}

void Ledger::clear_chosen() {
    const Kind kind = model_->kind();
    Editing e(document_.project(), "Clear cells");
    std::size_t kept = 0;
    for (const QModelIndex& cell : table_->selectionModel()->selectedIndexes()) {
        const int field = model_->field_of(cell.column());
        if (field < 0) continue;
        const FieldInfo& info = *infos_of(kind)[static_cast<std::size_t>(field)];
        const std::uint64_t id = model_->id_of(cell.row());
        const CellValue empty = read_cell(document_.project(), kind, id, static_cast<std::size_t>(field), "");
        const bool words = empty.ok && std::holds_alternative<std::string>(empty.value);
        if (empty.ok && info.key != "name" &&
            (words || std::holds_alternative<double>(empty.value) ||
             std::holds_alternative<std::uint64_t>(empty.value)))
            e.set(kind, id, info.key, empty.value);
        else ++kept;
    }
    Edit edit = e.take();
    if (kept) say(QString("%1 cells need a value and keep it.").arg(kept), true);
    if (edit.empty()) return;
    edit.name = "Clear " + std::to_string(edit.changes.size()) + " cells";
    document_.commit(std::move(edit));
}

}  // namespace culvert::app
