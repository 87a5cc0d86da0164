// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAbstractTableModel>
#include <QLabel>
#include <QPushButton>
#include <QTableView>

#include "app/desk/document.h"
#include "exchange/paste_table.h"

namespace culvert::app {

/// What a paste would do, before it does it: each row with the element it found, each cell as it was understood.
class PasteModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    using QAbstractTableModel::QAbstractTableModel;
    void set(const Project& project, Kind kind, std::shared_ptr<const PastePlan> plan);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

  private:
    std::shared_ptr<const PastePlan> plan_;
    Kind kind_ = Kind::Pipe;
    std::vector<QString> names_;
};

class PasteView : public QWidget {
    Q_OBJECT
  public:
    PasteView(Document& document, QWidget* parent = nullptr);
    /// Plans on another thread; `ready` when there is something to look at.
    void plan(Kind kind, const QString& text, const PastePlace& place);
    [[nodiscard]] const PastePlan* shown() const { return plan_.get(); }
    [[nodiscard]] QTableView* table() const { return table_; }
    [[nodiscard]] QString said() const { return said_->text(); }
    void accept();
    void choose(const PasteChoice& choice);

  signals:
    void ready();
    void finished();

  private:
    void run();
    void show_plan(const std::shared_ptr<const PastePlan>& plan);
    void head_menu(int column);
    Document& document_;
    Kind kind_ = Kind::Pipe;
    std::string text_;
    PastePlace place_;
    std::vector<PasteChoice> choices_;
    std::shared_ptr<const PastePlan> plan_;
    Project planned_for_;
    PasteModel* model_;
    QTableView* table_;
    QLabel* said_;
    QPushButton* accept_;
    Task worker_{this};
};

}  // namespace culvert::app
