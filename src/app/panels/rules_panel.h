// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QStackedWidget>
#include <QTableWidget>

#include "app/desk/document.h"
#include "app/entry/field_edit.h"
#include "exchange/shelf.h"

namespace culvert::app {

/// The drawer's page of rules: defaults for what is drawn, limits with their exceptions and sources, criteria sets, the
/// user's library, and the exchange of kinds across many elements.
class RulesPanel : public QWidget {
    Q_OBJECT
  public:
    RulesPanel(Document& document, QWidget* parent = nullptr);
    void show_page(int page);  ///< 0 defaults, 1 limits, 2 criteria, 3 library, 4 exchange
    [[nodiscard]] int page() const { return pages_->currentIndex(); }
    [[nodiscard]] FieldEdit* field(const char* key) const;
    [[nodiscard]] QTableWidget* limits() const { return limits_; }
    [[nodiscard]] QTableWidget* swaps() const { return swaps_; }
    [[nodiscard]] QListWidget* criteria_list() const { return criteria_list_; }
    [[nodiscard]] QString said() const { return said_->text(); }
    void load_criteria(const QString& path);
    bool save_criteria(const QString& path, const QString& name, const QString& version, const QString& source);
    void accept_criteria();
    void add_exception();
    void swap();
    static QString library_path();
    void bring_in(bool rain);
    void put_into_library(bool rain);

  protected:
    void showEvent(QShowEvent*) override { refresh(); }

  signals:
    void preview_wanted(const QString& what, culvert::Edit edit);
    void ledger_wanted(culvert::Kind kind);

  private:
    struct SettingsPart {
        const char* title;
        std::vector<const char*> keys;
    };
    QWidget* settings_page(const std::vector<SettingsPart>& parts);
    QWidget* defaults_page();
    QWidget* limits_page();
    QWidget* criteria_page();
    QWidget* library_page();
    QWidget* swaps_page();
    void refresh();
    void refresh_limits();
    void refresh_swaps();
    void say(const QString& words, bool wrong = false);

    Document& document_;
    QListWidget* list_;
    QStackedWidget* pages_;
    QLabel* said_;
    std::vector<FieldEdit*> fields_;
    QTableWidget *limits_ = nullptr, *swaps_ = nullptr;
    QComboBox* exception_for_ = nullptr;
    QComboBox* exception_kind_ = nullptr;
    QLabel *criteria_name_ = nullptr, *library_text_ = nullptr;
    QListWidget* criteria_list_ = nullptr;
    QLineEdit *set_name_ = nullptr, *set_version_ = nullptr, *set_source_ = nullptr;
    std::optional<Project> criteria_;
    bool filling_ = false;
};

}  // namespace culvert::app
