// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QStackedWidget>
#include <QTableView>
#include <QTimer>

#include "app/ledger/ledger_model.h"
#include "app/ledger/paste_view.h"
#include "app/ledger/rain_model.h"

namespace culvert::app {

/// The drawer's ledger: a choice of kind, a filter, a line that changes all chosen cells, the table with its first
/// columns held, and what was last refused. Pasted tables are shown before they are taken.
class Ledger : public QWidget {
    Q_OBJECT
  public:
    Ledger(Document& document, QWidget* parent = nullptr);
    void show_kind(Kind kind);
    /// Results of a stage stand right after the held columns, where a person has not ordered them.
    void lead_with(Stage stage);
    [[nodiscard]] QTableView* table() const { return table_; }
    [[nodiscard]] QTableView* held() const { return held_; }
    [[nodiscard]] LedgerModel* model() const { return model_; }
    [[nodiscard]] QLineEdit* filter() const { return filter_; }
    [[nodiscard]] QComboBox* verdicts() const { return verdicts_; }
    [[nodiscard]] QLineEdit* change() const { return change_; }
    [[nodiscard]] PasteView* paste_view() const { return paste_; }
    [[nodiscard]] bool pasting() const { return pages_->currentIndex() == 1; }
    /// Reads a rain table from text and commits it; says what was understood or what is wrong.
    bool paste_rain(const QString& text);
    void paste(const QString& text);
    [[nodiscard]] QString copied(bool with_head) const;
    void fill_down();
    /// Empties the chosen cells: numbers become not given where they may, words empty. Names stay.
    void clear_chosen();
    /// Sets all chosen cells to a value, or changes them by a formula, as one Edit.
    void change_chosen(const QString& typed);
    void hold_columns(int count);
    void add_row();
    void delete_rows();
    [[nodiscard]] QString said() const { return said_->text(); }

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  signals:
    void menu_wanted(culvert::ElementRef element, QPoint at);

  private:
    void say(const QString& text, bool wrong);
    void follow_selection();
    void take_selection();
    void apply_filter();
    void columns_menu();
    void head_menu(QTableView* view, const QPoint& at);
    void lay_out_columns();
    void keep_layout();
    [[nodiscard]] std::vector<int> shown_columns() const;  ///< as they stand from left to right
    Document& document_;
    LedgerModel* model_;
    RainModel* rain_;
    QStackedWidget* pages_;
    PasteView* paste_;
    QTableView *table_, *held_;
    QComboBox *kinds_, *verdicts_;
    QLineEdit *filter_, *change_;
    QPushButton *columns_, *add_;
    QLabel* said_;
    QTimer filter_delay_, select_delay_;
    int held_count_ = 1;
    Stage lead_ = Stage::Layout;
    [[nodiscard]] std::vector<int> usual_columns(Stage lead) const;
    [[nodiscard]] QStringList usual_order(Stage lead) const;
    bool following_ = false, laying_ = false;
};

}  // namespace culvert::app
