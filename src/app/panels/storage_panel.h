// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>

#include "app/desk/document.h"
#include "app/desk/task.h"
#include "core/design/storage_study.h"
#include "report/tables.h"

namespace culvert::app {

/// The drawer's page of storage: ponds in every event, the outflow by level, the storage that releases ask for, what
/// catchments make of the rain, outlets sized for all releases at once, and the site before against after.
class StoragePanel : public QWidget {
    Q_OBJECT
  public:
    enum class Page { Ponds, Rating, Required, Catchments, Blocked, Sizes, Compared };
    explicit StoragePanel(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] QTableWidget* table() const { return table_; }
    [[nodiscard]] QComboBox* pages() const { return pages_; }
    [[nodiscard]] QComboBox* others() const { return others_; }
    [[nodiscard]] QPushButton* button() const { return run_; }
    [[nodiscard]] QString said() const { return said_->text(); }
    void show(Page page);
    /// Sizes the outlets of the selected pond; `proposed` brings the Edit.
    void size();
    /// Compares with the chosen variant, as the site before.
    void compare();

  signals:
    void proposed(const QString& words, const culvert::Edit& edit);

  private:
    void refresh();
    void fill(const TextTable& table);
    [[nodiscard]] StructureId pond() const;
    [[nodiscard]] Page page() const { return static_cast<Page>(pages_->currentIndex()); }
    Document& document_;
    QComboBox *pages_, *others_;
    QPushButton *run_, *copy_, *take_;
    QDoubleSpinBox* round_;  ///< allowed releases are rounded down to a multiple of it, in the project's unit
    QLabel* said_;
    QTableWidget* table_;
    std::uint64_t asked_of_ = 0;  ///< revision that sizes or comparison are of
    Task worker_{this};
};

}  // namespace culvert::app
