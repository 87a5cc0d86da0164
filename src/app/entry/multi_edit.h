// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QWidget>

#include "app/desk/document.h"

namespace culvert::app {

/// One field of several elements: their common value, or "several". What is typed is set in all, or changes all by a
/// formula (+0.15, *1.02, =rim-1.2), as one Edit.
class MultiEdit : public QWidget {
    Q_OBJECT
  public:
    MultiEdit(Document& document, Kind kind, std::vector<std::uint64_t> ids, std::string_view key,
              QWidget* parent = nullptr);
    void refresh();
    [[nodiscard]] QLineEdit* line() const { return line_; }
    [[nodiscard]] QComboBox* combo() const { return combo_; }
    [[nodiscard]] QString said() const { return note_->text(); }
    [[nodiscard]] std::string_view key() const { return key_; }

  private:
    void take(const QString& typed);
    Document& document_;
    Kind kind_;
    std::vector<std::uint64_t> ids_;
    std::string key_;
    std::size_t field_;
    QLineEdit* line_ = nullptr;
    QComboBox* combo_ = nullptr;
    QLabel* note_;
};

}  // namespace culvert::app
