// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTableWidget>

#include "app/desk/document.h"

namespace culvert::app {

/// One difference between two states, element by element.
struct Difference {
    ElementRef element;
    QString name, field, left, right;
};
/// What differs between two projects, worded; variants themselves are left out.
std::vector<Difference> differences(const Project& left, const Project& right);

/// The drawer's page of history: every change in words with a jump to it, variants with their conflicts, issued states,
/// and the comparison of any two of them.
class HistoryPanel : public QWidget {
    Q_OBJECT
  public:
    HistoryPanel(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] QListWidget* list() const { return list_; }
    [[nodiscard]] QListWidget* variants() const { return variants_; }
    [[nodiscard]] QTableWidget* table() const { return table_; }
    [[nodiscard]] QLineEdit* note() const { return note_; }
    [[nodiscard]] QComboBox* left() const { return left_; }
    [[nodiscard]] QComboBox* right() const { return right_; }
    void new_variant();
    void take_into_base();
    void delete_variant();
    void issue();
    void compare();
    [[nodiscard]] QString said() const { return said_->text(); }

  signals:
    void side_by_side_wanted(quint64 variant);
    void save_as_wanted(const QString& note);

  private:
    void refresh();
    void show_conflicts();
    void say(const QString& words, bool wrong = false);
    [[nodiscard]] std::uint64_t chosen_variant() const;
    Document& document_;
    QListWidget *list_, *variants_;
    QTableWidget* table_;
    QComboBox *left_, *right_;
    QLabel *said_, *table_title_;
    QLineEdit* note_;
    std::vector<Difference> shown_;
    bool filling_ = false, comparing_ = false;
    Task worker_{this};
};

}  // namespace culvert::app
