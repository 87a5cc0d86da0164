// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/entry/multi_edit.h"
#include "app/desk/text.h"

#include <QHBoxLayout>

#include "app/kit/theme.h"
#include "core/model/formula.h"
#include "exchange/paste_table.h"

namespace culvert::app {

MultiEdit::MultiEdit(Document& document, Kind kind, std::vector<std::uint64_t> ids, std::string_view key,
                     QWidget* parent)
    : QWidget(parent),
      document_(document),
      kind_(kind),
      ids_(std::move(ids)),
      key_(key),
      field_(*field_index(kind, key)) {
    const FieldInfo& info = *infos_of(kind)[field_];
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(1);
    auto* row = new QHBoxLayout;
    row->setSpacing(6);
    auto* label = new QLabel(text(info.label));
    label->setStyleSheet(QString("color:%1").arg(theme().quiet.name()));
    row->addWidget(label, 1);
    if (!info.choices.empty()) {
        combo_ = new QComboBox;
        combo_->addItem("several");
        for (const auto& c : info.choices) combo_->addItem(text(c));
        combo_->setFixedWidth(126);
        combo_->setAccessibleName(text(info.label) + " of all chosen");
        combo_->setToolTip(text(info.help));
        row->addWidget(combo_);
        connect(combo_, &QComboBox::activated, this, [this](int i) {
            if (i > 0) take(combo_->itemText(i));
        });
    } else {
        line_ = new QLineEdit;
        line_->setFixedWidth(126);
        line_->setAccessibleName(text(info.label) + " of all chosen");
        line_->setObjectName("multi-" + text(key));
        line_->setToolTip(text(info.help) + "\nA value for all, or a change: +0.15, *1.02, =rim-1.2");
        if (info.quantity != Quantity::None) line_->setAlignment(Qt::AlignRight);
        label->setBuddy(line_);
        row->addWidget(line_);
        connect(line_, &QLineEdit::returnPressed, this, [this] { take(line_->text()); });
    }
    column->addLayout(row);
    note_ = new QLabel;
    note_->setWordWrap(true);
    note_->setFont(lettering(8.5));
    note_->hide();
    column->addWidget(note_);
    refresh();
}

void MultiEdit::refresh() {
    QString common;
    bool same = true, first = true;
    for (const std::uint64_t id : ids_) {
        const QString v = text(cell_text(document_.project(), kind_, id, field_));
        if (first) common = v;
        same = same && v == common;
        first = false;
        if (!same) break;
    }
    if (combo_) {
        const QSignalBlocker block(combo_);
        combo_->setCurrentIndex(same ? std::max(0, combo_->findText(common)) : 0);
        return;
    }
    if (line_->hasFocus() && line_->isModified()) return;
    const FieldInfo& info = *infos_of(kind_)[field_];
    const QString unit = text(document_.units().unit(info.quantity).symbol);
    line_->setText(same && !common.isEmpty() ? common + (unit.isEmpty() ? "" : " " + unit) : QString());
    line_->setPlaceholderText(same ? QString() : QString("several"));
    line_->setModified(false);
}

void MultiEdit::take(const QString& typed) {
    const FieldInfo& info = *infos_of(kind_)[field_];
    Edit edit;
    std::vector<std::string> refused;
    if (line_ && info.quantity != Quantity::None && is_formula(plain(typed))) {
        GroupEdit g = edit_by_formula(document_.project(), kind_, field_, ids_, plain(typed));
        edit = std::move(g.edit);
        refused = std::move(g.refused);
    } else {
        Editing e(document_.project(), std::string(info.label) + " of " + std::to_string(ids_.size()) + " " +
                                           std::string(table_name(kind_)));
        for (const std::uint64_t id : ids_) {
            const CellValue v = read_cell(document_.project(), kind_, id, field_, plain(typed));
            if (v.ok) e.set(kind_, id, info.key, v.value);
            else refused.push_back(v.error);
        }
        edit = e.take();
    }
    note_->setVisible(!refused.empty());
    if (!refused.empty()) {
        note_->setText(text(refused[0]) +
                       (refused.size() > 1 ? QString(", and %1 more").arg(refused.size() - 1) : QString()) + ".");
        note_->setStyleSheet(QString("color:%1").arg(theme().beyond.name()));
    }
    if (line_) line_->setModified(false);
    if (!edit.empty()) document_.commit(std::move(edit));
    refresh();
}

}  // namespace culvert::app
