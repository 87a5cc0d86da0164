// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAbstractTableModel>
#include <QComboBox>
#include <QLabel>
#include <QSortFilterProxyModel>
#include <QTableView>

#include "app/document.h"

namespace culvert::app {

/// All elements of a kind: their fields, editable, and beside them their results, told apart by ink.
class LedgerModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    LedgerModel(Document& document, QObject* parent = nullptr);
    void set_kind(Kind kind);
    [[nodiscard]] Kind kind() const { return kind_; }
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;
    [[nodiscard]] std::uint64_t id_of(int row) const { return ids_[static_cast<std::size_t>(row)]; }
    [[nodiscard]] int row_of(std::uint64_t id) const;

  signals:
    void refused(const QString& why);

  private:
    void reload();
    [[nodiscard]] double result_value(std::uint64_t id, std::size_t column, Quantity* quantity = nullptr) const;
    Document& document_;
    Kind kind_ = Kind::Pipe;
    std::vector<std::uint64_t> ids_;
    std::vector<std::size_t> fields_;  ///< indexes of the fields shown
};

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

/// The drawer's ledger: a choice of kind, the table, and what was last refused.
class Ledger : public QWidget {
    Q_OBJECT
  public:
    Ledger(Document& document, QWidget* parent = nullptr);
    void show_kind(Kind kind);
    [[nodiscard]] QTableView* table() const { return table_; }
    [[nodiscard]] LedgerModel* model() const { return model_; }
    /// Reads a rain table from text and commits it; says what was understood or what is wrong.
    bool paste_rain(const QString& text);
    [[nodiscard]] QString said() const { return said_->text(); }

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void say(const QString& text, bool wrong);
    void follow_selection();
    Document& document_;
    LedgerModel* model_;
    RainModel* rain_;
    QSortFilterProxyModel* sorted_;
    QTableView* table_;
    QComboBox* kinds_;
    QLabel* said_;
    bool following_ = false;
};

}  // namespace culvert::app
