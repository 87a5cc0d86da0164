// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ledger/paste_view.h"
#include "app/desk/text.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QMenu>
#include <QVBoxLayout>

#include "app/kit/theme.h"

namespace culvert::app {

void PasteModel::set(const Project& project, Kind kind, std::shared_ptr<const PastePlan> plan) {
    beginResetModel();
    plan_ = std::move(plan);
    kind_ = kind;
    names_.clear();
    for (const PasteRow& r : plan_->rows) {
        switch (r.fate) {
            case PasteRow::Fate::Matched: names_.push_back(text(element_name(project, kind, r.id))); break;
            case PasteRow::Fate::Doubled: names_.push_back(text(element_name(project, kind, r.id)) + ", twice"); break;
            case PasteRow::Fate::Unmatched: names_.push_back("no element"); break;
            case PasteRow::Fate::Empty: names_.emplace_back(); break;
        }
    }
    endResetModel();
}
int PasteModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() || !plan_ ? 0 : static_cast<int>(plan_->rows.size());
}
int PasteModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() || !plan_ ? 0 : static_cast<int>(plan_->columns.size()) + 1;
}
QVariant PasteModel::data(const QModelIndex& at, int role) const {
    const auto r = static_cast<std::size_t>(at.row());
    const PasteRow::Fate fate = plan_->rows[r].fate;
    const Theme& t = theme();
    if (at.column() == 0) {
        if (role == Qt::DisplayRole) return names_[r];
        if (role == Qt::ForegroundRole) return fate == PasteRow::Fate::Matched ? t.quiet : t.beyond;
        return {};
    }
    const auto c = static_cast<std::size_t>(at.column()) - 1;
    if (c >= plan_->cells[r].size()) return {};
    const CellState state = plan_->states[r].empty() ? CellState::Ignored : plan_->states[r][c];
    if (role == Qt::DisplayRole)
        return (state == CellState::Bad ? QString("◆ ") : QString()) + text(plan_->cells[r][c]);
    if (role == Qt::ForegroundRole)
        return state == CellState::Changes ? t.ink : (state == CellState::Bad ? t.beyond : t.quiet);
    if (role == Qt::FontRole && state == CellState::Changes) {
        static const QFont bold = lettering(9, true);
        return bold;
    }
    if (role == Qt::BackgroundRole && state == CellState::Bad) return t.tint(t.beyond, 0.12);
    if (role == Qt::ToolTipRole) {
        for (const PasteProblem& p : plan_->problems)
            if (p.line == plan_->rows[r].line && p.column == static_cast<int>(c) + 1) return text(p.message);
        constexpr const char* words[] = {"ignored", "the same as it is", "will be set", "not understood"};
        return QString(words[static_cast<int>(state)]);
    }
    return {};
}
QVariant PasteModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation == Qt::Vertical)
        return role == Qt::DisplayRole && plan_ ? QVariant(plan_->rows[static_cast<std::size_t>(section)].line)
                                                : QVariant();
    if (!plan_ || section < 0 || section >= columnCount()) return {};
    if (role == Qt::ToolTipRole && section > 0) return "Click to choose the field and the unit of this column";
    if (role != Qt::DisplayRole) return {};
    if (section == 0) return "Element";
    const PasteColumn& c = plan_->columns[static_cast<std::size_t>(section) - 1];
    QString to =
        c.key ? QString("finds the element")
              : (c.field < 0 ? QString("ignored") : text(infos_of(kind_)[static_cast<std::size_t>(c.field)]->label));
    if (!c.unit.empty()) to += " in " + text(c.unit);
    return (c.head.empty() ? QString("column %1").arg(section) : text(c.head)) + "\n→ " + to +
           (c.style.ambiguous || c.odd ? " ?" : "");
}

PasteView::PasteView(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), model_(new PasteModel(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(3);
    auto* row = new QHBoxLayout;
    said_ = new QLabel;
    said_->setWordWrap(true);
    row->addWidget(said_, 1);
    accept_ = new QPushButton("Accept");
    accept_->setObjectName("paste-accept");
    accept_->setToolTip("Sets the bold cells, as one change that can be undone");
    connect(accept_, &QPushButton::clicked, this, &PasteView::accept);
    row->addWidget(accept_);
    auto* no = new QPushButton("Dismiss");
    no->setObjectName("paste-dismiss");
    no->setToolTip("Leaves everything as it is");
    connect(no, &QPushButton::clicked, this, [this] {
        worker_.cancel();
        emit finished();
    });
    row->addWidget(no);
    column->addLayout(row);
    table_ = new QTableView;
    table_->setAccessibleName("What the paste would do");
    table_->setModel(model_);
    table_->verticalHeader()->setDefaultSectionSize(22);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->horizontalHeader()->setSectionsClickable(true);
    column->addWidget(table_, 1);
    connect(table_->horizontalHeader(), &QHeaderView::sectionClicked, this, &PasteView::head_menu);
}

void PasteView::plan(Kind kind, const QString& pasted, const PastePlace& place) {
    kind_ = kind;
    text_ = plain(pasted);
    place_ = place;
    choices_.clear();
    run();
}
void PasteView::choose(const PasteChoice& choice) {
    std::erase_if(choices_, [&](const PasteChoice& c) { return c.column == choice.column; });
    choices_.push_back(choice);
    run();
}
void PasteView::run() {
    said_->setText("Reading what was pasted …");
    worker_.run([this, project = document_.project(), kind = kind_, words = text_, place = place_,
                 choices = choices_](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        auto plan = std::make_shared<const PastePlan>(plan_paste(project, kind, words, place, choices));
        if (stop.stop_requested()) return;
        turn.tell([this, plan, project] {
            planned_for_ = project;
            show_plan(plan);
        });
    });
}
void PasteView::show_plan(const std::shared_ptr<const PastePlan>& plan) {
    plan_ = plan;
    model_->set(document_.project(), kind_, plan);
    QString words = text(plan->summary);
    for (std::size_t i = 0; i < std::min<std::size_t>(plan->problems.size(), 2); ++i)
        words += QString(" Line %1, column %2: ").arg(plan->problems[i].line).arg(plan->problems[i].column) +
                 text(plan->problems[i].message) + ".";
    if (plan->questions)
        words += " A column marked ? can be read with a decimal comma or with thousands: click its head.";
    said_->setText(words);
    said_->setStyleSheet(plan->ok ? QString() : QString("color:%1").arg(theme().beyond.name()));
    accept_->setEnabled(plan->ok);
    for (int c = 0; c < std::min(model_->columnCount(), 60); ++c) table_->setColumnWidth(c, c == 0 ? 120 : 130);
    emit ready();
}
void PasteView::accept() {
    if (!plan_ || !plan_->ok) return;
    if (!(planned_for_ == document_.project())) {  // something was changed meanwhile: look again
        run();
        return;
    }
    document_.commit(plan_->edit);
    emit finished();
}

void PasteView::head_menu(int section) {
    if (section == 0 || !plan_) return;
    const auto c = static_cast<std::size_t>(section) - 1;
    const PasteColumn& column = plan_->columns[c];
    if (column.key) return;
    QMenu menu;
    const auto put = [&](QMenu* into, const QString& words, bool on, PasteChoice choice) {
        QAction* a = into->addAction(words);
        a->setCheckable(true);
        a->setChecked(on);
        connect(a, &QAction::triggered, this, [this, choice] { choose(choice); });
    };
    put(&menu, "Ignore this column", column.field < 0, {c, -1, 0, 0});
    QMenu* fields = menu.addMenu("Field");
    const auto infos = infos_of(kind_);
    for (std::size_t i = 0; i < infos.size(); ++i)
        put(fields, text(infos[i]->label), column.field == static_cast<int>(i), {c, static_cast<int>(i), 0, 0});
    if (column.factor > 0) {
        QMenu* units = menu.addMenu("Unit");
        for (const Unit& u : units_of(infos[static_cast<std::size_t>(column.field)]->quantity))
            put(units, text(u.symbol), text(u.symbol) == text(column.unit),
                {c, column.field, u.factor, column.style.decimal});
        QMenu* decimals = menu.addMenu("Decimals");
        put(decimals, "1.5 is one and a half", column.style.decimal == '.', {c, column.field, column.factor, '.'});
        put(decimals, "1,5 is one and a half", column.style.decimal == ',', {c, column.field, column.factor, ','});
    }
    menu.exec(QCursor::pos());
}

}  // namespace culvert::app
