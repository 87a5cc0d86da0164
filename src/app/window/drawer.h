// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QTabWidget>
#include <QTableView>
#include <QTextBrowser>

#include "app/desk/document.h"
#include "app/ledger/ledger.h"
#include "app/panels/findings_page.h"
#include "app/panels/grade_panel.h"
#include "app/panels/ground_panel.h"
#include "app/panels/history_panel.h"
#include "app/panels/quantities_panel.h"
#include "app/panels/rules_panel.h"
#include "app/panels/sensitivity_panel.h"
#include "app/panels/storage_panel.h"

namespace culvert::app {

/// A change that is shown but not taken yet: what it is, Accept, Dismiss.
class PreviewBar : public QWidget {
    Q_OBJECT
  public:
    PreviewBar(Document& document, QWidget* parent = nullptr);
    void show_preview(const QString& what, Edit edit);
    [[nodiscard]] bool active() const { return active_; }
    void accept();
    void dismiss();

  signals:
    void finished(bool accepted);

  private:
    Document& document_;
    QLabel* label_;
    bool active_ = false;
};

/// Bottom of the window: ledger, findings, working, and a size proposal while there is one.
class Drawer : public QWidget {
    Q_OBJECT
  public:
    Drawer(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] QTabWidget* tabs() const { return tabs_; }
    [[nodiscard]] Ledger* ledger() const { return ledger_; }
    [[nodiscard]] FindingsModel* findings() const { return findings_page_->model(); }
    [[nodiscard]] QTableView* findings_table() const { return findings_page_->table(); }
    [[nodiscard]] FindingsPage* findings_page() const { return findings_page_; }
    [[nodiscard]] QTextBrowser* working() const { return working_; }
    [[nodiscard]] PreviewBar* preview() const { return preview_; }
    [[nodiscard]] GroundPanel* ground() const { return ground_; }
    [[nodiscard]] RulesPanel* rules() const { return rules_; }
    [[nodiscard]] HistoryPanel* history() const { return history_; }
    [[nodiscard]] QuantitiesPanel* quantities() const { return quantities_; }
    [[nodiscard]] SensitivityPanel* sensitivity() const { return sensitivity_; }
    [[nodiscard]] GradePanel* grade() const { return grade_; }
    [[nodiscard]] StoragePanel* storage() const { return storage_; }
    [[nodiscard]] QTableView* proposal_table() const { return proposal_table_; }
    void show_working(const QString& quantity);
    void try_remedy(int row);
    /// Brings a page to the front, with room to work in.
    void show_page(QWidget* page);

  protected:
    void resizeEvent(QResizeEvent*) override;

  signals:
    void menu_wanted(culvert::ElementRef element, QPoint at);
    void room_wanted(int pixels);

  private:
    void refresh_working();
    /// Tells the document which findings are to be seen, so that their remedies are sought.
    void look_at_visible();
    void show_sizes(const std::shared_ptr<const SizeProposal>& proposal);
    void show_design(const std::shared_ptr<const DesignProposal>& proposal);
    /// What is proposed for pipes, to be taken row by row.
    struct Proposed {
        struct Row {
            PipeId pipe;
            bool change;
            QStringList cells;
            std::vector<int> bold;
        };
        Edit edit;
        QString tab, what, words;
        QStringList heads;
        std::vector<Row> rows;
    };
    void show_proposed(Proposed proposed);
    void open_proposal_page();
    void preview_proposal();
    Document& document_;
    PreviewBar* preview_;
    QTabWidget* tabs_;
    bool narrow_ = false;  ///< little room around the names of its pages
    Ledger* ledger_;
    GroundPanel* ground_;
    RulesPanel* rules_;
    HistoryPanel* history_;
    QuantitiesPanel* quantities_;
    SensitivityPanel* sensitivity_;
    GradePanel* grade_;
    StoragePanel* storage_;
    FindingsPage* findings_page_;
    QWidget* working_page_;
    QComboBox* quantity_;
    QTextBrowser* working_;
    QWidget* proposal_page_;
    QTableView* proposal_table_;
    QLabel* proposal_text_;
    std::shared_ptr<const Proposed> proposed_;
    std::vector<bool> accepted_;
};

}  // namespace culvert::app
