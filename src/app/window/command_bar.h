// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QFrame>
#include <QLineEdit>
#include <QListWidget>
#include <functional>

#include "app/desk/document.h"
#include "app/kit/actions.h"

namespace culvert::app {

/// Every command and every element by typing, and quick questions answered in place.
class CommandBar : public QFrame {
    Q_OBJECT
  public:
    CommandBar(Document& document, Actions& actions, QWidget* parent);
    void open();
    /// One of some names, by typing a part of it: in the bar's place, not a dialog. Escape leaves it.
    void ask(const QString& question, const QStringList& names, std::function<void(int)> chosen);
    [[nodiscard]] QLineEdit* line() const { return line_; }
    [[nodiscard]] QListWidget* list() const { return list_; }
    [[nodiscard]] class CalcDrawing* drawing() const { return drawing_; }

  signals:
    void element_chosen(culvert::ElementRef element);

  private:
    void present();
    void fill();
    void fill_asked(const QString& typed);
    void choose();
    [[nodiscard]] Edit size_edit(double size) const;
    [[nodiscard]] Edit opening_edit(double length) const;
    bool eventFilter(QObject* watched, QEvent* event) override;
    Edit put_;  ///< what an answer would put on the selected element
    Document& document_;
    Actions& actions_;
    QLineEdit* line_;
    QStringList asked_;                ///< names to choose from, in place of commands; empty: none
    std::function<void(int)> answer_;  ///< takes the place of the chosen one among them
    QStringList used_;                 ///< ids of the actions chosen here, the last one first
    QListWidget* list_;
    class CalcDrawing* drawing_;
};

}  // namespace culvert::app
