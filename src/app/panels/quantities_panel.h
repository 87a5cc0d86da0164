// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>
#include <QTableWidget>

#include "app/desk/document.h"
#include "app/desk/task.h"
#include "app/kit/when_seen.h"
#include "core/design/quantities.h"

namespace culvert::app {

/// The drawer's page of quantities and cost, live: pipes by size, excavation and structures by depth. A click on a line
/// selects what it counts.
class QuantitiesPanel : public QWidget {
    Q_OBJECT
  public:
    explicit QuantitiesPanel(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] QTableWidget* table() const { return table_; }
    [[nodiscard]] QString said() const { return said_->text(); }

  private:
    void refresh();
    void show_lines(Quantities found);
    Document& document_;
    QLabel* said_;
    QTableWidget* table_;
    Quantities shown_;
    WhenSeen* when_seen_;
    Task counter_{this};
};

}  // namespace culvert::app
