// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QLineEdit>
#include <QTableWidget>
#include <QWidget>

#include "app/kit/actions.h"

namespace culvert::app {

/// What holds for this person on this machine, whatever the project: looks, units of new projects, the folder of
/// journals. Every choice acts at once, but the folder: from the next start on.
class PreferencesPanel : public QWidget {
    Q_OBJECT
  public:
    explicit PreferencesPanel(QWidget* parent = nullptr);
    [[nodiscard]] QComboBox* looks() const { return looks_; }
    [[nodiscard]] QComboBox* text_size() const { return text_size_; }
    [[nodiscard]] QComboBox* units() const { return units_; }
    [[nodiscard]] QLineEdit* folder() const { return folder_; }
    /// Where journals lie: the chosen folder, or the usual one.
    static QString journal_folder();
    /// Units of a new project.
    static bool us_units();

  signals:
    void looks_changed();  ///< theme or text size

  private:
    QComboBox *looks_, *text_size_, *units_;
    QLineEdit* folder_;
};

/// All commands with their keys, found by typing.
class ShortcutsPanel : public QWidget {
    Q_OBJECT
  public:
    explicit ShortcutsPanel(const Actions& actions, QWidget* parent = nullptr);
    [[nodiscard]] QTableWidget* table() const { return table_; }
    [[nodiscard]] QLineEdit* filter() const { return filter_; }
    void refresh();

  private:
    const Actions& actions_;
    QLineEdit* filter_;
    QTableWidget* table_;
};

}  // namespace culvert::app
