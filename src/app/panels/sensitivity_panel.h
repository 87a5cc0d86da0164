// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QDoubleSpinBox>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>

#include "app/desk/document.h"
#include "app/desk/task.h"
#include "core/design/sensitivity.h"

namespace culvert::app {

/// The drawer's page of what the verdicts hang on: n, C, intensity and tailwater up and down, each solved in every
/// event. A click on a line selects the elements whose verdicts change.
class SensitivityPanel : public QWidget {
    Q_OBJECT
  public:
    explicit SensitivityPanel(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] QTableWidget* table() const { return table_; }
    [[nodiscard]] QPushButton* button() const { return run_; }
    [[nodiscard]] QDoubleSpinBox* share() const { return share_; }
    void run();

  private:
    void show_rows(std::vector<SensitivityRow> rows);
    Document& document_;
    QDoubleSpinBox *share_, *height_;
    QPushButton* run_;
    QLabel* said_;
    QTableWidget* table_;
    std::vector<SensitivityRow> shown_;
    Task worker_{this};
};

}  // namespace culvert::app
