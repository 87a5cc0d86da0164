// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ledger/rain_model.h"
#include "app/desk/text.h"

#include <algorithm>

#include "app/kit/theme.h"

namespace culvert::app {

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
    return (e ? text(e->name) : QString()) + "\n" +
           (e && e->given != RainGiven::Intensities ? QString("not used")
                                                    : text(document_.units().unit(Quantity::Intensity).symbol));
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
    edit.set(Kind::Event, e->id, "given", RainGiven::Intensities);
    document_.commit(edit.take());
    emit refused({});
    return true;
}

}  // namespace culvert::app
