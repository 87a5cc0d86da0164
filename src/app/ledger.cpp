// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ledger.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QPushButton>
#include <cmath>

#include "app/theme.h"
#include "exchange/rain_table.h"

namespace culvert::app {
namespace {

struct ResultColumn {
    const char* label;
    Quantity quantity;
};
constexpr ResultColumn pipe_results[] = {{"Length", Quantity::Length},    {"Slope", Quantity::Slope},
                                         {"Flow", Quantity::Flow},        {"Capacity", Quantity::Flow},
                                         {"Flow ratio", Quantity::Ratio}, {"Velocity", Quantity::Velocity},
                                         {"HGL up", Quantity::Level},     {"HGL down", Quantity::Level}};
constexpr ResultColumn structure_results[] = {
    {"HGL", Quantity::Level}, {"Freeboard", Quantity::Length}, {"Tc", Quantity::Duration}};

std::span<const ResultColumn> results_of(Kind kind) {
    if (kind == Kind::Pipe) return pipe_results;
    if (kind == Kind::Structure) return structure_results;
    return {};
}

/// Natural order: A2 before A10.
QString sort_key(const QString& name) {
    QString key, digits;
    for (const QChar c : name + QChar(' ')) {
        if (c.isDigit()) {
            digits += c;
            continue;
        }
        if (!digits.isEmpty()) key += digits.rightJustified(9, '0');
        digits.clear();
        key += c;
    }
    return key;
}

class Sorter : public QSortFilterProxyModel {
  public:
    using QSortFilterProxyModel::QSortFilterProxyModel;

  protected:
    [[nodiscard]] bool lessThan(const QModelIndex& a, const QModelIndex& b) const override {
        const QVariant x = sourceModel()->data(a, Qt::UserRole), y = sourceModel()->data(b, Qt::UserRole);
        if (x.userType() == QMetaType::Double && y.userType() == QMetaType::Double) return x.toDouble() < y.toDouble();
        return sort_key(x.toString()) < sort_key(y.toString());
    }
};

}  // namespace

LedgerModel::LedgerModel(Document& document, QObject* parent) : QAbstractTableModel(parent), document_(document) {
    connect(&document_, &Document::changed, this, &LedgerModel::reload);
    connect(&document_, &Document::results_changed, this, [this] {
        if (!ids_.empty()) emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
    });
    set_kind(Kind::Pipe);
}

void LedgerModel::set_kind(Kind kind) {
    beginResetModel();
    kind_ = kind;
    fields_.clear();
    const auto infos = infos_of(kind);
    with_row_type(kind, [&]<class R>(std::type_identity<R>) {
        for (std::size_t i = 0; i < infos.size(); ++i) {
            const Field<R>& f = fields_of<R>()[i];
            const bool list = std::holds_alternative<std::vector<Point> R::*>(f.member) ||
                              std::holds_alternative<std::vector<double> R::*>(f.member);
            const bool reference = std::holds_alternative<StructureId R::*>(f.member) ||
                                   std::holds_alternative<CatchmentId R::*>(f.member);
            if (!list && !(reference && kind == Kind::Pipe)) fields_.push_back(i);
        }
    });
    endResetModel();
    reload();
}

void LedgerModel::reload() {
    std::vector<std::uint64_t> ids;
    with_row_type(kind_, [&]<class R>(std::type_identity<R>) {
        for (const R& row : document_.project().table<R>()) ids.push_back(row.id);
    });
    if (ids != ids_) {
        beginResetModel();
        ids_ = std::move(ids);
        endResetModel();
    } else if (!ids_.empty()) emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
}

int LedgerModel::row_of(std::uint64_t id) const {
    const auto at = std::lower_bound(ids_.begin(), ids_.end(), id);
    return at != ids_.end() && *at == id ? static_cast<int>(at - ids_.begin()) : -1;
}

int LedgerModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(ids_.size());
}
int LedgerModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(fields_.size() + results_of(kind_).size());
}

double LedgerModel::result_value(std::uint64_t id, std::size_t column, Quantity* quantity) const {
    if (quantity) *quantity = results_of(kind_)[column].quantity;
    const auto r = document_.result();
    if (!r) return not_given;
    const int node = kind_ == Kind::Pipe ? r->network->node_of(PipeId{id}) : r->network->node_of(StructureId{id});
    if (node == no_node) return not_given;
    const Node& n = r->network->nodes[static_cast<std::size_t>(node)];
    const NodeResult& v = r->nodes[static_cast<std::size_t>(node)];
    if (kind_ == Kind::Pipe) {
        const double values[] = {n.length,
                                 n.slope,
                                 v.flow.flow,
                                 n.capacity,
                                 n.capacity > 0 ? v.flow.flow / n.capacity : not_given,
                                 v.flow.velocity,
                                 n.invert_up + v.level.head_up,
                                 n.invert_down + v.level.head_down};
        return values[column];
    }
    const double values[] = {v.level.level, n.rim - v.level.level, v.flow.time};
    return values[column];
}

QVariant LedgerModel::data(const QModelIndex& at, int role) const {
    if (!at.isValid() || static_cast<std::size_t>(at.row()) >= ids_.size()) return {};
    const std::uint64_t id = ids_[static_cast<std::size_t>(at.row())];
    const UnitSet u = document_.units();
    const auto column = static_cast<std::size_t>(at.column());
    if (column >= fields_.size()) {
        Quantity q{};
        const double v = result_value(id, column - fields_.size(), &q);
        if (role == Qt::DisplayRole) return text(u.number(v, q));
        if (role == Qt::UserRole) return v;
        if (role == Qt::TextAlignmentRole) return QVariant(Qt::AlignRight | Qt::AlignVCenter);
        if (role == Qt::ForegroundRole) return theme().water;
        return {};
    }
    return with_row_type(kind_, [&]<class R>(std::type_identity<R>) -> QVariant {
        const R* row = document_.project().table<R>().find(id);
        if (!row) return {};
        const Field<R>& f = fields_of<R>()[fields_[column]];
        const Value value = get(*row, f);
        Quantity q = f.quantity;
        if constexpr (std::is_same_v<R, Limit>)
            if (f.key == "value") q = limit_quantity(static_cast<LimitKind>(row->kind));
        if (role == Qt::ForegroundRole && row->origin[fields_[column]] == Origin::Default && f.key != "name")
            return theme().quiet;
        if (role == Qt::TextAlignmentRole)
            return std::holds_alternative<double>(value) ? QVariant(Qt::AlignRight | Qt::AlignVCenter)
                                                         : QVariant(Qt::AlignLeft | Qt::AlignVCenter);
        if (role == Qt::ToolTipRole) return text(f.help);
        if (role == Qt::CheckStateRole && std::holds_alternative<bool>(value))
            return std::get<bool>(value) ? Qt::Checked : Qt::Unchecked;
        if (role != Qt::DisplayRole && role != Qt::EditRole && role != Qt::UserRole) return {};
        if (const double* number = std::get_if<double>(&value)) {
            if (role == Qt::UserRole) return *number;
            return role == Qt::EditRole
                       ? text(u.entry(*number, q))
                       : text(std::isnan(*number) ? ""
                                                  : (kind_ == Kind::Limit ? u.text(*number, q) : u.number(*number, q)));
        }
        if (const std::string* s = std::get_if<std::string>(&value)) {
            if constexpr (std::is_same_v<R, Pipe>)
                if (f.key == "name" && role != Qt::EditRole) return text(pipe_name(document_.project(), *row));
            return text(*s);
        }
        if (const int* choice = std::get_if<int>(&value)) return text(f.choices[static_cast<std::size_t>(*choice)]);
        if (const auto* reference = std::get_if<std::uint64_t>(&value)) {
            if (!*reference) return {};
            if (const Structure* s = document_.project().structures.find(*reference)) return text(s->name);
            if (const Catchment* c = document_.project().catchments.find(*reference)) return text(c->name);
            return text(pipe_name(document_.project(), document_.project().pipes.find(*reference)
                                                           ? *document_.project().pipes.find(*reference)
                                                           : Pipe{}));
        }
        return {};
    });
}

QVariant LedgerModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || section < 0 || section >= columnCount()) return {};
    const auto column = static_cast<std::size_t>(section);
    const bool result = column >= fields_.size();
    const FieldInfo* f = result ? nullptr : infos_of(kind_)[fields_[column]];
    if (role == Qt::ToolTipRole) return result ? QString("Result of the viewed event") : text(f->help);
    if (role != Qt::DisplayRole) return {};
    const Quantity q = result ? results_of(kind_)[column - fields_.size()].quantity : f->quantity;
    const QString unit = text(document_.units().unit(q).symbol);
    return (result ? QString(results_of(kind_)[column - fields_.size()].label) : text(f->label)) +
           (unit.isEmpty() ? "" : "\n" + unit);
}

Qt::ItemFlags LedgerModel::flags(const QModelIndex& at) const {
    Qt::ItemFlags f = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
    if (static_cast<std::size_t>(at.column()) < fields_.size()) {
        const FieldInfo* info = infos_of(kind_)[fields_[static_cast<std::size_t>(at.column())]];
        if (info->key == "size_locked" || info->key == "active") f |= Qt::ItemIsUserCheckable;
        else f |= Qt::ItemIsEditable;
    }
    return f;
}

bool LedgerModel::setData(const QModelIndex& at, const QVariant& given, int role) {
    const std::uint64_t id = id_of(at.row());
    const std::size_t field = fields_[static_cast<std::size_t>(at.column())];
    const FieldInfo& info = *infos_of(kind_)[field];
    const Value present = with_row_type(kind_, [&]<class R>(std::type_identity<R>) -> Value {
        return get(*document_.project().table<R>().find(id), fields_of<R>()[field]);
    });
    Value value;
    const QString typed = given.toString().trimmed();
    if (role == Qt::CheckStateRole) value = given.toInt() == Qt::Checked;
    else if (role != Qt::EditRole) return false;
    else if (std::holds_alternative<double>(present)) {
        Quantity q = info.quantity;
        if (kind_ == Kind::Limit && info.key == "value")
            q = limit_quantity(static_cast<LimitKind>(document_.project().limits.find(id)->kind));
        if (typed.isEmpty()) value = not_given;
        else {
            const Entry e = read_entry(plain(typed), q, document_.units(), info.scale);
            FieldInfo range = info;
            range.quantity = q;
            const std::string fault = e.ok ? range_fault(range, e.value, document_.units()) : e.error;
            if (!fault.empty()) {
                emit refused(text(info.label) + " of " + text(element_name(document_.project(), kind_, id)) + ": " +
                             text(fault) + ".");
                return false;
            }
            if (!e.question.empty()) {
                emit refused(text(info.label) + " of " + text(element_name(document_.project(), kind_, id)) + ": " +
                             text(e.question) + " Write the unit.");
                return false;
            }
            value = e.value;
        }
    } else if (std::holds_alternative<int>(present)) {
        const auto choice = std::find(info.choices.begin(), info.choices.end(), std::string_view(plain(typed)));
        if (choice == info.choices.end()) {
            QString known;
            for (const auto& c : info.choices) known += (known.isEmpty() ? "" : ", ") + text(c);
            emit refused("\"" + typed + "\" is not a " + text(info.label).toLower() + ": " + known + ".");
            return false;
        }
        value = static_cast<int>(choice - info.choices.begin());
    } else if (std::holds_alternative<std::uint64_t>(present)) {
        const ElementRef target = find_element(document_.project(), plain(typed));
        if (!typed.isEmpty() && !target.id) {
            emit refused("There is no element \"" + typed + "\".");
            return false;
        }
        value = target.id;
    } else value = plain(typed);
    Editing e(document_.project(), std::string(info.label) + " of " + element_name(document_.project(), kind_, id));
    e.set(kind_, id, info.key, std::move(value));
    document_.commit(e.take());
    emit refused({});
    return true;
}

RainModel::RainModel(Document& document, QObject* parent) : QAbstractTableModel(parent), document_(document) {
    connect(&document_, &Document::changed, this, &RainModel::reload);
    reload();
}
void RainModel::reload() {
    beginResetModel();
    events_.clear();
    durations_.clear();
    for (const RainEvent* e : events_in_order(document_.project())) {
        events_.push_back(e->id);
        durations_.insert(durations_.end(), e->durations.begin(), e->durations.end());
    }
    std::sort(durations_.begin(), durations_.end());
    durations_.erase(std::unique(durations_.begin(), durations_.end()), durations_.end());
    endResetModel();
}
int RainModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(durations_.size());
}
int RainModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(events_.size());
}
QVariant RainModel::data(const QModelIndex& at, int role) const {
    const RainEvent* e = document_.project().events.find(events_[static_cast<std::size_t>(at.column())]);
    if (role == Qt::TextAlignmentRole) return QVariant(Qt::AlignRight | Qt::AlignVCenter);
    if (!e || (role != Qt::DisplayRole && role != Qt::EditRole)) return {};
    for (std::size_t i = 0; i < e->durations.size() && i < e->intensities.size(); ++i)
        if (e->durations[i] == durations_[static_cast<std::size_t>(at.row())])
            return text(role == Qt::EditRole ? document_.units().entry(e->intensities[i], Quantity::Intensity)
                                             : document_.units().number(e->intensities[i], Quantity::Intensity));
    return {};
}
QVariant RainModel::headerData(int section, Qt::Orientation orientation, int role) const {
    // A header with no section asks for section 0.
    if (role != Qt::DisplayRole || section < 0 || section >= (orientation == Qt::Vertical ? rowCount() : columnCount()))
        return {};
    if (orientation == Qt::Vertical)
        return text(document_.units().entry(durations_[static_cast<std::size_t>(section)], Quantity::Duration));
    const RainEvent* e = document_.project().events.find(events_[static_cast<std::size_t>(section)]);
    return (e ? text(e->name) : QString()) + "\n" + text(document_.units().unit(Quantity::Intensity).symbol);
}
Qt::ItemFlags RainModel::flags(const QModelIndex&) const {
    return Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsEditable;
}
bool RainModel::setData(const QModelIndex& at, const QVariant& given, int role) {
    if (role != Qt::EditRole) return false;
    const RainEvent* e = document_.project().events.find(events_[static_cast<std::size_t>(at.column())]);
    const double duration = durations_[static_cast<std::size_t>(at.row())];
    const Entry entry = read_entry(plain(given.toString()), Quantity::Intensity, document_.units());
    if (!entry.ok || !(entry.value > 0)) {
        emit refused(text(entry.ok ? "an intensity must be above 0" : entry.error) + ".");
        return false;
    }
    std::vector<double> durations = e->durations, values = e->intensities;
    const auto place = std::lower_bound(durations.begin(), durations.end(), duration) - durations.begin();
    if (static_cast<std::size_t>(place) < durations.size() && durations[static_cast<std::size_t>(place)] == duration)
        values[static_cast<std::size_t>(place)] = entry.value;
    else {
        durations.insert(durations.begin() + place, duration);
        values.insert(values.begin() + place, entry.value);
    }
    Editing edit(document_.project(), "Intensity of " + e->name);
    edit.set(Kind::Event, e->id, "durations", durations);
    edit.set(Kind::Event, e->id, "intensities", values);
    document_.commit(edit.take());
    emit refused({});
    return true;
}

Ledger::Ledger(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      model_(new LedgerModel(document, this)),
      rain_(new RainModel(document, this)),
      sorted_(new Sorter(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 4, 8, 4);
    column->setSpacing(3);
    auto* row = new QHBoxLayout;
    kinds_ = new QComboBox;
    kinds_->setAccessibleName("Kind of element");
    kinds_->setToolTip("Which elements the ledger lists");
    for (const auto& [kind, label] : {std::pair{Kind::Structure, "Structures"},
                                      {Kind::Pipe, "Pipes"},
                                      {Kind::Catchment, "Catchments"},
                                      {Kind::LandCover, "Land covers"},
                                      {Kind::Event, "Rain table"},
                                      {Kind::Limit, "Limits"},
                                      {Kind::Size, "Sizes"},
                                      {Kind::StreetPath, "Street paths"}})
        kinds_->addItem(label, static_cast<int>(kind));
    row->addWidget(kinds_);
    auto* paste = new QPushButton("Paste a rain table");
    paste->setToolTip(
        "Durations down the side, return periods along the top; intensities, or depths, which rise with duration");
    paste->setObjectName("paste-rain");
    row->addWidget(paste);
    said_ = new QLabel;
    said_->setWordWrap(true);
    row->addWidget(said_, 1);
    column->addLayout(row);
    table_ = new QTableView;
    table_->setAccessibleName("Ledger");
    table_->setAlternatingRowColors(true);
    table_->verticalHeader()->setDefaultSectionSize(22);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->setSortingEnabled(true);
    table_->installEventFilter(this);
    column->addWidget(table_, 1);
    sorted_->setSourceModel(model_);
    sorted_->setDynamicSortFilter(false);
    connect(kinds_, &QComboBox::currentIndexChanged, this,
            [this](int i) { show_kind(static_cast<Kind>(kinds_->itemData(i).toInt())); });
    connect(paste, &QPushButton::clicked, this, [this] { paste_rain(QApplication::clipboard()->text()); });
    connect(model_, &LedgerModel::refused, this, [this](const QString& why) { say(why, true); });
    connect(rain_, &RainModel::refused, this, [this](const QString& why) { say(why, true); });
    connect(&document_, &Document::selection_changed, this, &Ledger::follow_selection);
    show_kind(Kind::Pipe);
}

void Ledger::show_kind(Kind kind) {
    const QSignalBlocker block(kinds_);
    kinds_->setCurrentIndex(kinds_->findData(static_cast<int>(kind)));
    findChild<QPushButton*>("paste-rain")->setVisible(kind == Kind::Event);
    say({}, false);
    table_->setSortingEnabled(kind != Kind::Event);
    if (kind == Kind::Event) {
        table_->setModel(rain_);
        table_->verticalHeader()->show();
        if (document_.project().events.empty()) say("Copy a rain table from a spreadsheet and paste it here.", false);
        return;
    }
    model_->set_kind(kind);
    table_->setModel(sorted_);
    table_->verticalHeader()->hide();
    table_->sortByColumn(0, Qt::AscendingOrder);
    sorted_->sort(0);
    for (int c = 0; c < model_->columnCount(); ++c) table_->setColumnWidth(c, c == 0 ? 120 : 92);
    connect(table_->selectionModel(), &QItemSelectionModel::currentRowChanged, this, [this](const QModelIndex& now) {
        if (following_ || !now.isValid() || table_->model() != sorted_) return;
        const Kind shown = model_->kind();
        if (shown != Kind::Structure && shown != Kind::Pipe && shown != Kind::Catchment) return;
        following_ = true;
        document_.select({{shown, model_->id_of(sorted_->mapToSource(now).row())}});
        following_ = false;
    });
    follow_selection();
}

void Ledger::follow_selection() {
    if (following_ || table_->model() != sorted_ || document_.selected().kind != model_->kind()) return;
    const int row = model_->row_of(document_.selected().id);
    if (row < 0) return;
    following_ = true;
    const QModelIndex at = sorted_->mapFromSource(model_->index(row, std::max(0, table_->currentIndex().column())));
    table_->setCurrentIndex(at);
    following_ = false;
}

void Ledger::say(const QString& t, bool wrong) {
    said_->setText(t);
    said_->setStyleSheet(QString("color:%1").arg((wrong ? theme().beyond : theme().quiet).name()));
}

bool Ledger::paste_rain(const QString& pasted) {
    const RainTable t = read_rain_table(plain(pasted), document_.units());
    if (!t.ok) {
        QString why;
        for (const RainTableProblem& p : t.problems) {
            if (why.size() > 300) {
                why += " …";
                break;
            }
            why +=
                (why.isEmpty() ? "" : "  ") + QString("Row %1, column %2: ").arg(p.row).arg(p.column) + text(p.message);
        }
        say("Nothing was changed. " + why, true);
        return false;
    }
    document_.commit(rain_edit(document_.project(), t));
    say("Read " + text(t.understood) + ".", false);
    return true;
}

bool Ledger::eventFilter(QObject* watched, QEvent* event) {
    if (watched == table_ && event->type() == QEvent::KeyPress) {
        auto* key = static_cast<QKeyEvent*>(event);
        if (key->matches(QKeySequence::Paste) && table_->model() == rain_) {
            paste_rain(QApplication::clipboard()->text());
            return true;
        }
        if (key->matches(QKeySequence::Copy)) {
            QString out;
            int last = -1;
            QModelIndexList cells = table_->selectionModel()->selectedIndexes();
            std::sort(cells.begin(), cells.end());
            for (const QModelIndex& cell : cells) {
                out += last < 0 ? QString() : (cell.row() == last ? QString("\t") : QString("\n"));
                out += cell.data().toString();
                last = cell.row();
            }
            QApplication::clipboard()->setText(out);
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

}  // namespace culvert::app
