// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAbstractTableModel>

#include "app/desk/document.h"

namespace culvert::app {

/// Rain events along the top, durations down the side; pasting a table replaces it as one Edit.
class RainModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    RainModel(Document& document, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;

  signals:
    void refused(const QString& why);

  private:
    void reload();
    Document& document_;
    std::vector<std::uint64_t> events_;
    std::vector<double> durations_;
};

}  // namespace culvert::app
