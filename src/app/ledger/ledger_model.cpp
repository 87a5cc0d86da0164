// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ledger/ledger_model.h"
#include "app/desk/text.h"

#include <QRegularExpression>
#include <QSettings>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "app/kit/theme.h"
#include "core/model/cells.h"
#include "core/model/formula.h"
#include "core/model/lay.h"
#include "exchange/paste_table.h"

namespace culvert::app {
namespace {

/// What the ledger shows beside a kind's fields: the catalogue's results that belong to it. What catchments make of
/// the rain is known through time alone.
std::vector<const ResultField*> columns_of(Kind kind, const Project& project) {
    std::vector<const ResultField*> list;
    const bool through_time = project.settings().runoff_by != RunoffBy::Rational;
    if (kind == Kind::Pipe || kind == Kind::Structure || (kind == Kind::Catchment && through_time))
        for (const ResultField& f : result_fields(results_of(kind)))
            if (f.shown & in_ledger) list.push_back(&f);
    // Not of an event: an outline is measured.
    static const ResultField measured{"measured",   "Measured", "measured", Quantity::Area,       ResultOn::Node,
                                      Stage::Areas, in_ledger,  nullptr,    "Area of its outline"};
    if (kind == Kind::Catchment) list.push_back(&measured);
    return list;
}

}  // namespace

std::string sort_key(std::string_view name) {
    std::string lower;  // made for other letters than plain ones
    if (std::any_of(name.begin(), name.end(), [](char c) { return static_cast<unsigned char>(c) > 127; })) {
        lower = text(name).toLower().toStdString();
        name = lower;
    }
    const auto is_digit = [](char c) { return c >= '0' && c <= '9'; };
    std::string key;
    for (std::size_t i = 0; i < name.size();) {
        if (!is_digit(name[i])) {
            const char c = name[i++];
            key += c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
            continue;
        }
        // A number: how many digits it has, then they; so a shorter one stands first.
        std::size_t end = i;
        while (end < name.size() && is_digit(name[end])) ++end;
        while (i + 1 < end && name[i] == '0') ++i;
        const std::size_t digits = std::min<std::size_t>(end - i, 250);
        if (digits < 9) key += static_cast<char>('0' + digits);
        else (key += '9') += static_cast<char>(digits);
        key.append(name.substr(i, end - i));
        i = end;
    }
    return key;
}

LedgerModel::LedgerModel(Document& document, QObject* parent) : QAbstractTableModel(parent), document_(document) {
    connect(&document_, &Document::changed, this, [this](const ChangeSet& what) {
        arranged_ = false;
        // Names of structures stand in the rows of pipes, catchments and paths.
        if (what.touches(Kind::Settings) && results_ != columns_of(kind_, document_.project())) set_kind(kind_);
        else if (what.resizes(kind_)) reload();
        else if (!order_.empty() &&
                 (what.touches(kind_) || what.touches(Kind::Structure) || what.touches(Kind::Settings)))
            emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
    });
    connect(&document_, &Document::results_changed, this, [this](const ResultsChange& what) {
        arranged_ = false;
        if (what.viewed && !order_.empty() && !results_.empty())
            emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
    });
    set_kind(Kind::Pipe);
}

void LedgerModel::set_kind(Kind kind) {
    beginResetModel();
    kind_ = kind;
    fields_.clear();
    results_ = columns_of(kind, document_.project());
    filter_.clear();
    compared_ = -1;
    show_ = Show::All;
    sort_column_ = 0;
    sort_order_ = Qt::AscendingOrder;
    const auto infos = infos_of(kind);
    for (std::size_t i = 0; i < infos.size(); ++i) {
        const FieldForm form = form_of(kind, i);
        const bool list = form == FieldForm::Places || form == FieldForm::Numbers;
        const bool inner = infos[i]->key == "asset" || infos[i]->key == "changes";
        if (!list && !inner) fields_.push_back(i);
    }
    ids_.clear();
    order_.clear();
    endResetModel();
    displays_.clear();
    const QSettings settings;
    for (int c = 0; c < columnCount(); ++c) {
        const QStringList kept = settings.value("ledger/display/" + column_key(c)).toStringList();
        if (kept.size() == 2) displays_[column_key(c)] = {kept[0], kept[1].toInt()};
    }
    reload();
}

void LedgerModel::reload() {
    std::vector<std::uint64_t> ids = culvert::ids_of(document_.project(), kind_);
    if (ids != ids_) {
        ids_ = std::move(ids);
        arrange();
    } else if (!order_.empty()) emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
}

/// Filters and sorts; keys are made once for each row.
void LedgerModel::arrange() {
    beginResetModel();
    order_.clear();
    order_.reserve(ids_.size());
    for (std::size_t i = 0; i < ids_.size(); ++i)
        if (passes(ids_[i])) order_.push_back(static_cast<std::uint32_t>(i));
    const int c = sort_column_;
    if (c >= 0 && c < columnCount()) {
        std::vector<Key> keys(ids_.size());
        bool numbers = static_cast<std::size_t>(c) >= fields_.size();
        if (numbers)
            for (const std::uint32_t i : order_)
                keys[i].number = result_value(ids_[i], static_cast<std::size_t>(c) - fields_.size());
        else {
            const Project& project = document_.project();
            const std::size_t field = fields_[static_cast<std::size_t>(c)];
            const bool pipe_names = kind_ == Kind::Pipe && infos_of(kind_)[field]->key == "name";
            numbers = form_of(kind_, field) == FieldForm::Number;
            for (const std::uint32_t i : order_) {
                if (numbers) keys[i].number = number_of(project, kind_, ids_[i], field);
                else
                    keys[i].text = sort_key(pipe_names ? pipe_name(project, *project.pipes.find(ids_[i]))
                                                       : cell_text(project, kind_, ids_[i], field));
            }
        }
        const bool down = sort_order_ == Qt::DescendingOrder;
        std::stable_sort(order_.begin(), order_.end(), [&](std::uint32_t a, std::uint32_t b) {
            if (!numbers) return down ? keys[b].text < keys[a].text : keys[a].text < keys[b].text;
            const double x = keys[a].number, y = keys[b].number;
            if (std::isnan(x) || std::isnan(y))
                return !std::isnan(x) && std::isnan(y);  // what is not known stands last
            return down ? y < x : x < y;
        });
    }
    row_.assign(ids_.size(), -1);
    for (std::size_t r = 0; r < order_.size(); ++r) row_[order_[r]] = static_cast<std::int32_t>(r);
    arranged_ = true;
    endResetModel();
}

void LedgerModel::sort(int column, Qt::SortOrder order) {
    if (arranged_ && column == sort_column_ && order == sort_order_) return;  // views ask again when they are shown
    sort_column_ = column;
    sort_order_ = order;
    arrange();
}

Verdict LedgerModel::verdict_of(std::uint64_t id) const {
    const auto r = document_.result();
    const auto review = document_.review();
    if (!r || !review) return Verdict::Unknown;
    return review->of(*r->network, {kind_, id});
}

bool LedgerModel::passes(std::uint64_t id) const {
    if (show_ != Show::All) {
        const Verdict v = verdict_of(id);
        if (v != Verdict::Beyond && !(show_ == Show::NearOrBeyond && v == Verdict::Near)) return false;
    }
    if (filter_.isEmpty()) return true;
    if (compared_ >= 0) {
        const auto c = static_cast<std::size_t>(compared_);
        double number = not_given;
        QString words;
        bool is_number = c >= fields_.size();
        if (is_number) number = result_value(id, c - fields_.size());
        else {
            is_number = form_of(kind_, fields_[c]) == FieldForm::Number;
            if (is_number) number = number_of(document_.project(), kind_, id, fields_[c]);
            else words = text(cell_text(document_.project(), kind_, id, fields_[c]));
        }
        if (is_number) {
            const double tolerance = std::abs(compared_number_) * 1e-9;
            if (comparison_ == "=") return std::abs(number - compared_number_) <= tolerance;
            if (comparison_ == "<") return number < compared_number_ - tolerance;
            if (comparison_ == ">") return number > compared_number_ + tolerance;
            if (comparison_ == "<=") return number <= compared_number_ + tolerance;
            return number >= compared_number_ - tolerance;
        }
        return words.compare(compared_text_, Qt::CaseInsensitive) == 0;
    }
    // Every typed word stands in one of the row's words.
    const Project& project = document_.project();
    QString all;
    if (kind_ == Kind::Pipe)
        if (const Pipe* p = project.pipes.find(id)) all = text(pipe_name(project, *p)) + " ";
    for (const std::size_t i : fields_)
        if (const FieldForm form = form_of(kind_, i); form != FieldForm::Number && form != FieldForm::YesNo)
            if (const std::string words = cell_text(project, kind_, id, i); !words.empty()) all += text(words) + " ";
    for (const QString& word : filter_.split(' ', Qt::SkipEmptyParts))
        if (!all.contains(word, Qt::CaseInsensitive)) return false;
    return true;
}

QString LedgerModel::set_filter(const QString& typed, Show show) {
    filter_ = typed.trimmed();
    show_ = show;
    compared_ = -1;
    QString wrong;
    static const QRegularExpression comparison("^\\s*([^<>=]+?)\\s*(<=|>=|<|>|=)\\s*(.+?)\\s*$");
    if (const auto m = comparison.match(filter_); m.hasMatch()) {
        const QString name = m.captured(1);
        for (int c = 0; c < columnCount() && compared_ < 0; ++c) {
            const QString label = headerData(c, Qt::Horizontal, Qt::DisplayRole).toString().section('\n', 0, 0);
            const int f = field_of(c);
            const QString key = text(f >= 0 ? infos_of(kind_)[static_cast<std::size_t>(f)]->key
                                            : results_[static_cast<std::size_t>(c) - fields_.size()]->key);
            if (label.compare(name, Qt::CaseInsensitive) == 0 || key.compare(name, Qt::CaseInsensitive) == 0)
                compared_ = c;
        }
        comparison_ = m.captured(2);
        compared_text_ = m.captured(3);
        if (compared_ < 0) wrong = "There is no column \"" + name + "\".";
        else {
            const Quantity q = quantity_of(compared_);
            const Entry e = read_entry(plain(compared_text_), q, document_.units());
            bool bare = false;
            const double number = compared_text_.toDouble(&bare);
            compared_number_ = bare ? number * display(compared_).factor : e.value;
            const bool is_text = field_of(compared_) >= 0 && q == Quantity::None;
            if (!e.ok && !is_text) wrong = text(e.error) + ".";
        }
        if (!wrong.isEmpty()) {
            filter_.clear();
            compared_ = -1;
        }
    }
    arrange();
    return wrong;
}

int LedgerModel::row_of(std::uint64_t id) const {
    const auto at = std::lower_bound(ids_.begin(), ids_.end(), id);
    return at != ids_.end() && *at == id ? row_[static_cast<std::size_t>(at - ids_.begin())] : -1;
}
int LedgerModel::column_of(std::string_view key) const {
    for (std::size_t i = 0; i < fields_.size(); ++i)
        if (infos_of(kind_)[fields_[i]]->key == key) return static_cast<int>(i);
    return -1;
}

int LedgerModel::rowCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(order_.size());
}
int LedgerModel::columnCount(const QModelIndex& parent) const {
    return parent.isValid() ? 0 : static_cast<int>(fields_.size() + results_.size());
}

double LedgerModel::result_value(std::uint64_t id, std::size_t column) const {
    if (!results_[column]->value) {  // measured
        const Catchment* c = document_.project().catchments.find(id);
        return c && c->outline.size() > 2 ? area(c->outline) : not_given;
    }
    const auto r = document_.result();
    return r ? result_at(*r, *results_[column], {kind_, id}) : not_given;
}

QString LedgerModel::column_key(int column) const {
    const auto c = static_cast<std::size_t>(column);
    return text(table_name(kind_)) + "/" +
           (c < fields_.size() ? text(infos_of(kind_)[fields_[c]]->key)
                               : "result " + text(results_[c - fields_.size()]->key));
}
Quantity LedgerModel::quantity_of(int column) const {
    const auto c = static_cast<std::size_t>(column);
    return c < fields_.size() ? infos_of(kind_)[fields_[c]]->quantity : results_[c - fields_.size()]->quantity;
}
Unit LedgerModel::display(int column) const {
    const Quantity q = quantity_of(column);
    Unit unit = document_.units().unit(q);
    if (const auto at = displays_.find(column_key(column)); at != displays_.end()) {
        for (const Unit& u : units_of(q))
            if (text(u.symbol) == at->second.first) unit = u;
        if (at->second.second >= 0) unit.digits = at->second.second;
    }
    return unit;
}
void LedgerModel::set_display(int column, const QString& unit, int digits) {
    QSettings settings;
    if (unit.isEmpty() && digits < 0) {
        displays_.erase(column_key(column));
        settings.remove("ledger/display/" + column_key(column));
    } else {
        displays_[column_key(column)] = {unit, digits};
        settings.setValue("ledger/display/" + column_key(column), QStringList{unit, QString::number(digits)});
    }
    emit headerDataChanged(Qt::Horizontal, column, column);
    if (!order_.empty()) emit dataChanged(index(0, column), index(rowCount() - 1, column));
}

QString LedgerModel::formatted(double si, int column) const {
    if (std::isnan(si)) return static_cast<std::size_t>(column) < fields_.size() ? QString() : QString("–");
    if (displays_.empty() || !displays_.contains(column_key(column)))
        return text(document_.units().number(si, quantity_of(column)));
    const Unit u = display(column);
    return QString::number(si / u.factor, 'f', u.digits);
}

QVariant LedgerModel::data(const QModelIndex& at, int role) const {
    if (!at.isValid() || static_cast<std::size_t>(at.row()) >= order_.size()) return {};
    const std::uint64_t id = id_of(at.row());
    const auto column = static_cast<std::size_t>(at.column());
    if (column >= fields_.size()) {
        if (role == Qt::DisplayRole) return formatted(result_value(id, column - fields_.size()), at.column());
        if (role == Qt::UserRole) return result_value(id, column - fields_.size());
        if (role == Qt::TextAlignmentRole) return QVariant(Qt::AlignRight | Qt::AlignVCenter);
        if (role == Qt::ForegroundRole) return document_.dimmed() ? theme().quiet : theme().water;
        if (role == Qt::ToolTipRole) return "Result of the viewed event: it cannot be typed";
        if (role == Qt::FontRole) {
            static const QFont slanted = [] {
                QFont f = lettering(9);
                f.setItalic(true);
                return f;
            }();
            return slanted;
        }
        return {};
    }
    if (role != Qt::DisplayRole && role != Qt::EditRole && role != Qt::UserRole && role != Qt::ForegroundRole &&
        role != Qt::TextAlignmentRole && role != Qt::ToolTipRole && role != Qt::CheckStateRole)
        return {};
    const Project& project = document_.project();
    if (!has_row(project, kind_, id)) return {};
    const std::size_t field = fields_[column];
    const FieldInfo& f = *infos_of(kind_)[field];
    if (role == Qt::ForegroundRole)
        return origin_of(project, kind_, id, field) == Origin::Default && f.key != "name" ? QVariant(theme().quiet)
                                                                                          : QVariant();
    if (role == Qt::TextAlignmentRole)
        return form_of(kind_, field) == FieldForm::Number ? QVariant(Qt::AlignRight | Qt::AlignVCenter)
                                                          : QVariant(Qt::AlignLeft | Qt::AlignVCenter);
    if (role == Qt::ToolTipRole) {
        constexpr const char* origins[] = {"default",  "typed",   "from the ground", "from the catalogue",
                                           "imported", "proposed"};
        return text(f.help) + "\nOrigin: " + origins[static_cast<std::size_t>(origin_of(project, kind_, id, field))];
    }
    const Value value = value_of(project, kind_, id, field);
    if (role == Qt::CheckStateRole) {
        if (const bool* b = std::get_if<bool>(&value)) return *b ? Qt::Checked : Qt::Unchecked;
        return {};
    }
    if (std::holds_alternative<bool>(value)) return role == Qt::UserRole ? QVariant(std::get<bool>(value)) : QVariant();
    if (const double* number = std::get_if<double>(&value)) {
        if (role == Qt::UserRole) return *number;
        if (kind_ == Kind::Limit && f.key == "value") {
            const Quantity q = limit_quantity(project.limits.find(id)->kind);
            return text(role == Qt::EditRole ? document_.units().entry(*number, q)
                                             : document_.units().text(*number, q));
        }
        if (role != Qt::EditRole) return formatted(*number, at.column());
        const QString unit = text(display(at.column()).symbol);
        return std::isnan(*number)
                   ? QString()
                   : text(shortest_decimal(*number, display(at.column()).factor)) + (unit.isEmpty() ? "" : " " + unit);
    }
    if (kind_ == Kind::Pipe && f.key == "name" && role != Qt::EditRole)
        return text(pipe_name(project, *project.pipes.find(id)));
    return text(cell_text(project, kind_, id, field));
}

QString LedgerModel::copied(const QModelIndex& at) const {
    if (!at.isValid()) return {};
    const QVariant v = data(at, Qt::UserRole);
    if (v.userType() == QMetaType::Double)
        return std::isnan(v.toDouble()) ? QString() : text(shortest_decimal(v.toDouble(), display(at.column()).factor));
    if (v.userType() == QMetaType::Bool) return v.toBool() ? "yes" : "no";
    return data(at, Qt::DisplayRole).toString();
}

QString LedgerModel::head(int column) const {
    QString label = headerData(column, Qt::Horizontal, Qt::DisplayRole).toString();
    const QString unit = label.section('\n', 1);
    return label.section('\n', 0, 0) + (unit.isEmpty() ? QString() : " (" + unit + ")");
}

QVariant LedgerModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || section < 0 || section >= columnCount()) return {};
    const auto column = static_cast<std::size_t>(section);
    const bool result = column >= fields_.size();
    const FieldInfo* f = result ? nullptr : infos_of(kind_)[fields_[column]];
    if (role == Qt::ToolTipRole)
        return result ? text(results_[column - fields_.size()]->help) + "\nResult of the viewed event" : text(f->help);
    if (role == Qt::ForegroundRole && result) return theme().water;
    if (role != Qt::DisplayRole) return {};
    const QString unit = text(display(section).symbol);
    return (result ? text(results_[column - fields_.size()]->label) : text(f->label)) +
           (unit.isEmpty() ? "" : "\n" + unit);
}

Qt::ItemFlags LedgerModel::flags(const QModelIndex& at) const {
    Qt::ItemFlags f = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
    if (static_cast<std::size_t>(at.column()) >= fields_.size()) return f;
    const bool check = form_of(kind_, fields_[static_cast<std::size_t>(at.column())]) == FieldForm::YesNo;
    return f | (check ? Qt::ItemIsUserCheckable : Qt::ItemIsEditable);
}

bool LedgerModel::setData(const QModelIndex& at, const QVariant& given, int role) {
    const int column_field = field_of(at.column());
    if (column_field < 0) return false;
    const std::uint64_t id = id_of(at.row());
    const auto field = static_cast<std::size_t>(column_field);
    const FieldInfo& info = *infos_of(kind_)[field];
    const QString name = text(element_name(document_.project(), kind_, id));
    const QString typed = given.toString().trimmed();
    const auto refuse = [&](const QString& why) {
        emit refused(text(info.label) + (name.isEmpty() ? QString() : " of " + name) + ": " + why +
                     (why.endsWith('.') ? "" : "."));
        return false;
    };
    Value value;
    if (role == Qt::CheckStateRole) value = given.toInt() == Qt::Checked;
    else if (role != Qt::EditRole) return false;
    else if (info.quantity != Quantity::None &&
             (typed.startsWith('=') || typed.startsWith('*') || typed.startsWith('+'))) {
        GroupEdit g = edit_by_formula(document_.project(), kind_, field, {id}, plain(typed));
        if (!g.refused.empty()) return refuse(text(g.refused[0]));
        document_.commit(std::move(g.edit));
        emit refused({});
        return true;
    } else {
        const double factor = kind_ == Kind::Limit && info.key == "value" ? 0 : display(at.column()).factor;
        const CellValue cell = read_cell(document_.project(), kind_, id, field, plain(typed), factor);
        if (!cell.ok) return refuse(text(cell.error));
        if (const double* v = std::get_if<double>(&cell.value); v && !typed.isEmpty()) {
            bool bare = false;
            typed.toDouble(&bare);
            const bool off = info.scale.low <= info.scale.high && std::isfinite(*v) && *v != 0 &&
                             (*v < info.scale.low || *v > info.scale.high);
            if (off && bare) {
                const Entry e = read_entry(plain(typed), info.quantity, document_.units(), info.scale);
                return refuse((e.question.empty() ? typed + " is out of scale." : text(e.question)) +
                              " Write the unit.");
            }
        }
        value = cell.value;
    }
    if (info.key == "name" && kind_ != Kind::Pipe) {
        const std::string& wanted = std::get<std::string>(value);
        if (wanted.empty()) return refuse("a name is needed");
        for (const std::uint64_t other : ids_)
            if (other != id && element_name(document_.project(), kind_, other) == wanted)
                return refuse("\"" + text(wanted) + "\" is already the name of another " + text(kind_name(kind_)));
    }
    Editing e(document_.project(), std::string(info.label) + " of " + plain(name));
    e.set(kind_, id, info.key, std::move(value));
    document_.commit(e.take());
    emit refused({});
    return true;
}

}  // namespace culvert::app
