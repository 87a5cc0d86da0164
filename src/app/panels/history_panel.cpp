// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/panels/history_panel.h"
#include "app/desk/text.h"

#include <QDate>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QSplitter>
#include <QVBoxLayout>

#include "app/kit/theme.h"
#include "app/kit/when_seen.h"
#include "exchange/edit_text.h"
#include "exchange/site_import.h"

namespace culvert::app {
namespace {

constexpr int most_shown = 2000;

QPushButton* button(const QString& words, const QString& name, const QString& tip) {
    auto* b = new QPushButton(words);
    b->setObjectName(name);
    b->setToolTip(tip);
    return b;
}
QTableWidgetItem* cell(const QString& words) {
    auto* item = new QTableWidgetItem(words);
    item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
    item->setToolTip(words);
    return item;
}

}  // namespace

std::vector<Difference> differences(const Project& left, const Project& right) {
    std::vector<Difference> out;
    const Edit edit = edit_between(left, right, "");
    for (const Change& c : edit.changes) {
        if (const auto* p = std::get_if<Patch>(&c)) {
            if (p->kind == Kind::Variant || same_value(p->before, p->after)) continue;
            out.push_back({{p->kind, p->id},
                           text(element_name(right, p->kind, p->id)),
                           text(infos_of(p->kind)[p->field]->label),
                           text(value_text(left, p->kind, p->field, p->before)),
                           text(value_text(right, p->kind, p->field, p->after))});
            if (p->kind == Kind::Settings) out.back().name = "settings";
        } else {
            const bool added = std::holds_alternative<Insert>(c);
            const AnyRow& row = added ? std::get<Insert>(c).row : std::get<Delete>(c).row;
            const Kind kind = static_cast<Kind>(row.index());
            if (kind == Kind::Variant) continue;
            const std::uint64_t id = std::visit([](const auto& r) { return r.id; }, row);
            out.push_back({{kind, id},
                           text(element_name(added ? right : left, kind, id)),
                           text(kind_name(kind)),
                           added ? "–" : "there",
                           added ? "there" : "–"});
        }
    }
    return out;
}

HistoryPanel::HistoryPanel(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 4, 8, 4);
    column->setSpacing(3);
    auto* split = new QSplitter(Qt::Horizontal);
    column->addWidget(split, 1);

    list_ = new QListWidget;
    list_->setAccessibleName("History");
    list_->setToolTip("Every change since the project was opened; click one to go to the state after it");
    list_->setMinimumWidth(150);
    split->addWidget(list_);
    connect(list_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        const auto position = item->data(Qt::UserRole).toULongLong();
        QMetaObject::invokeMethod(
            this, [this, position] { document_.jump_to(position); }, Qt::QueuedConnection);
    });
    connect(list_, &QListWidget::itemActivated, list_, &QListWidget::itemClicked);

    auto* middle = new QWidget;
    auto* middle_column = new QVBoxLayout(middle);
    middle_column->setContentsMargins(6, 0, 6, 0);
    variants_ = new QListWidget;
    variants_->setAccessibleName("Variants and issued states");
    variants_->setToolTip("Click a variant to work in it; what it does not change follows the base");
    middle_column->addWidget(variants_, 1);
    connect(variants_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        if (item->data(Qt::UserRole + 1).toBool()) return;  // an issued state is only looked at
        const auto id = item->data(Qt::UserRole).toULongLong();
        QMetaObject::invokeMethod(
            this, [this, id] { document_.activate_variant(id); }, Qt::QueuedConnection);
    });
    connect(variants_, &QListWidget::itemActivated, variants_, &QListWidget::itemClicked);
    auto* note_row = new QHBoxLayout;
    note_ = new QLineEdit;
    note_->setPlaceholderText("A note for what is kept");
    note_->setAccessibleName("Note");
    note_->setToolTip("Goes with an issued state, or with the project where it is saved under another name");
    note_row->addWidget(note_, 1);
    auto* save = button("Save as …", "save-as-note", "Saves the project under another name, with this note in it");
    connect(save, &QPushButton::clicked, this, [this] { emit save_as_wanted(note_->text().trimmed()); });
    note_row->addWidget(save);
    middle_column->addLayout(note_row);
    auto* row = new QGridLayout;
    int place = 0;
    const std::tuple<const char*, const char*, const char*, void (HistoryPanel::*)()> actions[] = {
        {"New variant", "new-variant", "A variant that begins as what is shown now", &HistoryPanel::new_variant},
        {"Into the base", "variant-into-base", "Makes the active variant's changes in the base, and ends the variant",
         &HistoryPanel::take_into_base},
        {"Delete", "delete-variant", "Deletes the chosen variant or issued state; it can be undone",
         &HistoryPanel::delete_variant},
        {"Issue", "issue-state", "Keeps what is shown now as an issued state, to compare with later",
         &HistoryPanel::issue}};
    for (const auto& [words, name, tip, run] : actions) {
        auto* b = button(words, name, tip);
        connect(b, &QPushButton::clicked, this, run);
        row->addWidget(b, place / 2, place % 2);
        ++place;
    }
    middle_column->addLayout(row);
    split->addWidget(middle);

    auto* right = new QWidget;
    auto* right_column = new QVBoxLayout(right);
    right_column->setContentsMargins(0, 0, 0, 0);
    auto* choose = new QHBoxLayout;
    left_ = new QComboBox;
    left_->setAccessibleName("Compare");
    right_ = new QComboBox;
    right_->setAccessibleName("with");
    for (QComboBox* box : {left_, right_}) box->setMinimumWidth(90);
    choose->addWidget(new QLabel("Compare"));
    choose->addWidget(left_, 1);
    choose->addWidget(new QLabel("with"));
    choose->addWidget(right_, 1);
    auto* go = button("List", "compare-states", "Lists what differs, element by element");
    connect(go, &QPushButton::clicked, this, &HistoryPanel::compare);
    choose->addWidget(go);
    auto* side = button("Side by side", "side-by-side", "Shows the first state's plan beside the present one");
    connect(side, &QPushButton::clicked, this,
            [this] { emit side_by_side_wanted(left_->currentData().toULongLong()); });
    choose->addWidget(side);
    right_column->addLayout(choose);
    table_title_ = new QLabel;
    table_title_->setWordWrap(true);
    right_column->addWidget(table_title_);
    table_ = new QTableWidget(0, 4);
    table_->setAccessibleName("Differences");
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(22);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    right_column->addWidget(table_, 1);
    connect(table_, &QTableWidget::cellClicked, this, [this](int r, int) {
        if (static_cast<std::size_t>(r) < shown_.size())
            document_.select({shown_[static_cast<std::size_t>(r)].element});
    });
    split->addWidget(right);
    split->setSizes({170, 210, 500});
    said_ = new QLabel;
    said_->setWordWrap(true);
    said_->hide();
    column->addWidget(said_);
    auto* seen = new WhenSeen(this, [this] { refresh(); });
    connect(&document_, &Document::changed, this, [seen] { (*seen)(); });
    connect(&document_, &Document::file_changed, this, [seen] { (*seen)(); });
    refresh();
}

void HistoryPanel::say(const QString& words, bool wrong) {
    said_->setText(words);
    said_->setVisible(!words.isEmpty());
    said_->setStyleSheet(QString("color:%1").arg((wrong ? theme().beyond : theme().quiet).name()));
}

std::uint64_t HistoryPanel::chosen_variant() const {
    const QListWidgetItem* item = variants_->currentItem();
    return item ? item->data(Qt::UserRole).toULongLong() : 0;
}

void HistoryPanel::refresh() {
    if (document_.has_pending()) return;
    const auto& edits = document_.history().edits();
    const std::size_t position = document_.history().position();
    list_->clear();
    const auto add = [&](std::size_t at, const QString& words) {
        auto* item = new QListWidgetItem(words, list_);
        item->setData(Qt::UserRole, QVariant::fromValue<qulonglong>(at));
        if (at == position) item->setFont(lettering(9, true));
        else if (at > position) item->setForeground(theme().quiet);
    };
    const std::size_t first = edits.size() > most_shown ? edits.size() - most_shown : 0;
    if (first == 0) add(0, "as opened");
    for (std::size_t i = first; i < edits.size(); ++i) add(i + 1, text(edits[i].name));
    if (QListWidgetItem* now = list_->item(static_cast<int>(position - first) + (first == 0 ? 0 : -1))) {
        list_->setCurrentItem(now);
        list_->scrollToItem(now);
    }
    const std::uint64_t chosen = chosen_variant();
    const QVariant was_left = left_->currentData(), was_right = right_->currentData();
    variants_->clear();
    left_->clear();
    right_->clear();
    const auto state = [&](std::uint64_t id, const QString& name, bool issued, const QString& note) {
        const bool active = !issued && id == document_.variant();
        auto* item = new QListWidgetItem((active ? "▸ " : "   ") + name + (issued ? ", issued" : ""), variants_);
        item->setData(Qt::UserRole, QVariant::fromValue<qulonglong>(id));
        item->setData(Qt::UserRole + 1, issued);
        item->setToolTip(note);
        if (active) item->setFont(lettering(9, true));
        if (id == chosen) variants_->setCurrentItem(item);
        for (QComboBox* box : {left_, right_}) box->addItem(name, QVariant::fromValue<qulonglong>(id));
    };
    state(0, "Base", false, "What all variants stand on");
    std::uint64_t last_issued = 0;
    for (const bool issued : {false, true})
        for (const Variant& v : document_.base().variants)
            if ((v.role == VariantRole::Issued) == issued) {
                const auto overlay = issued ? std::nullopt : read_edit(v.changes);
                state(v.id, text(v.name), issued,
                      text(v.note) + (overlay ? QString(" %1 changes").arg(overlay->changes.size()) : QString()));
                if (issued) last_issued = v.id;
            }
    const auto keep = [](QComboBox* box, const QVariant& was, std::uint64_t otherwise) {
        int at = was.isValid() ? box->findData(was) : -1;
        if (at < 0) at = box->findData(QVariant::fromValue<qulonglong>(otherwise));
        box->setCurrentIndex(std::max(0, at));
    };
    keep(left_, was_left, last_issued);
    keep(right_, was_right, document_.variant());
    if (!comparing_) show_conflicts();
}

void HistoryPanel::show_conflicts() {
    const auto& conflicts = document_.conflicts();
    if (conflicts.empty()) {
        if (shown_.empty()) {
            table_->setRowCount(0);
            table_title_->setText(document_.variant() ? "No conflict between this variant and the base." : "");
        }
        return;
    }
    shown_.clear();
    const Project& p = document_.project();
    table_title_->setText(
        QString("<b>%1</b> of the variant's values were changed in the base too. Its own hold until you choose.")
            .arg(conflicts.size()));
    table_->setColumnCount(5);
    table_->setHorizontalHeaderLabels({"Element", "Field", "Began from", "Base now", "Variant"});
    table_->setRowCount(static_cast<int>(conflicts.size()));
    for (std::size_t i = 0; i < conflicts.size(); ++i) {
        const Conflict& c = conflicts[i];
        const int r = static_cast<int>(i);
        shown_.push_back({{c.kind, c.id}, {}, {}, {}, {}});
        table_->setItem(r, 0, cell(text(element_name(p, c.kind, c.id))));
        table_->setItem(r, 1, cell(c.whole_row ? QString("the whole row") : text(infos_of(c.kind)[c.field]->label)));
        table_->setItem(r, 2, cell(c.whole_row ? QString("–") : text(value_text(p, c.kind, c.field, c.seen))));
        for (const bool mine : {false, true}) {
            auto* b = button(c.whole_row ? (mine ? "keep the variant's" : "take the base's")
                                         : text(value_text(p, c.kind, c.field, mine ? c.mine : c.base)),
                             QString("conflict-%1-%2").arg(i).arg(mine ? "mine" : "base"),
                             mine ? "Keep the variant's value" : "Take the base's value");
            connect(b, &QPushButton::clicked, this, [this, i, mine] {
                QMetaObject::invokeMethod(
                    this, [this, i, mine] { document_.settle_conflict(i, mine); }, Qt::QueuedConnection);
            });
            table_->setCellWidget(r, mine ? 4 : 3, b);
        }
    }
}

void HistoryPanel::new_variant() {
    const Project& base = document_.base();
    Variant v;
    v.id = random_id();
    v.name = numbered_name(base, Kind::Variant, "Variant");
    if (const Variant* active = base.variants.find(document_.variant())) v.changes = active->changes;
    Editing e(document_.project(), "New variant " + v.name);
    e.insert(v);
    document_.commit(e.take());
    document_.activate_variant(v.id);
}

void HistoryPanel::take_into_base() {
    const Variant* row = document_.base().variants.find(document_.variant());
    if (!row) {
        say("Choose a variant first: the base is active.", true);
        return;
    }
    if (!document_.conflicts().empty()) {
        say("Settle its conflicts first.", true);
        return;
    }
    const std::uint64_t id = row->id;
    Edit edit = edit_between(document_.base(), document_.project(), "Take " + row->name + " into the base");
    document_.activate_variant(0);
    Editing gone(document_.project(), "");
    gone.remove(Kind::Variant, id);
    for (Change& c : gone.take().changes) edit.changes.push_back(std::move(c));
    document_.commit(std::move(edit));
}

void HistoryPanel::delete_variant() {
    const std::uint64_t id = chosen_variant();
    const Variant* row = document_.base().variants.find(id);
    if (!row) {
        say("Choose a variant or an issued state first: the base stays.", true);
        return;
    }
    if (id == document_.variant()) document_.activate_variant(0);
    Editing e(document_.project(), "Delete variant " + row->name);
    e.remove(Kind::Variant, id);
    document_.commit(e.take());
}

void HistoryPanel::issue() {
    const QString day = QDate::currentDate().toString(Qt::ISODate);
    const std::string name = free_name(document_.base(), Kind::Variant, plain("Issue " + day));
    document_.issue(text(name), note_->text().trimmed().isEmpty() ? day : day + ": " + note_->text().trimmed());
    note_->clear();
    say("Kept as \"" + text(name) + "\".");
}

void HistoryPanel::compare() {
    comparing_ = true;
    table_title_->setText("Comparing …");
    const auto state = [this](std::uint64_t id) -> std::function<std::optional<Project>()> {
        const Variant* row = id ? document_.base().variants.find(id) : nullptr;
        if (row && row->role == VariantRole::Issued)
            return [assets = document_.assets(), hash = row->asset]() -> std::optional<Project> {
                const auto bytes = assets->find(hash);
                if (!bytes) return {};
                ReadOutcome read = read_project(*bytes);
                if (!read.ok) return {};
                return std::move(read.project);
            };
        return [p = document_.as_variant(id)]() -> std::optional<Project> { return p; };
    };
    worker_.run([this, a = state(left_->currentData().toULongLong()),
                 b = state(right_->currentData().toULongLong())](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        const auto left = a(), right = b();
        auto found = left && right ? differences(*left, *right) : std::vector<Difference>{};
        if (stop.stop_requested()) return;
        turn.tell([this, found = std::move(found), whole = left && right]() mutable {
            comparing_ = false;
            shown_ = std::move(found);
            table_->setColumnCount(4);
            table_->setHorizontalHeaderLabels({"Element", "Field", left_->currentText(), right_->currentText()});
            const auto n = std::min<std::size_t>(shown_.size(), most_shown);
            table_->setRowCount(static_cast<int>(n));
            for (std::size_t i = 0; i < n; ++i) {
                const Difference& d = shown_[i];
                const QString cells[] = {d.name, d.field, d.left, d.right};
                for (int c = 0; c < 4; ++c) {
                    table_->removeCellWidget(static_cast<int>(i), c);
                    table_->setItem(static_cast<int>(i), c, cell(cells[c]));
                }
            }
            table_title_->setText(
                !whole           ? "The issued state is missing: the folder beside the project that ends in .assets."
                : shown_.empty() ? QString("No difference.")
                                 : QString("%1 differences").arg(shown_.size()));
        });
    });
}

}  // namespace culvert::app
