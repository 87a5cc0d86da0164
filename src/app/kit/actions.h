// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAction>
#include <QWidget>
#include <functional>
#include <vector>

/// Every action is declared once: id, words, help, shortcut, what it does and when it can. Menus, strips, the command
/// bar and tests take them from here.
namespace culvert::app {

class Actions : public QObject {
    Q_OBJECT
  public:
    explicit Actions(QWidget* window) : QObject(window), window_(window) {}
    QAction* add(const QString& id, const QString& words, const QString& help, const QKeySequence& shortcut,
                 std::function<void()> run, std::function<bool()> enabled = {});
    [[nodiscard]] QAction* find(const QString& id) const;
    [[nodiscard]] const std::vector<QAction*>& all() const { return actions_; }
    /// Asks every action whether it can be done now.
    void refresh();

  private:
    QWidget* window_;
    std::vector<QAction*> actions_;
    std::vector<std::function<bool()>> enabled_;
};

}  // namespace culvert::app
