// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAbstractTableModel>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableView>
#include <QToolButton>
#include <set>
#include <unordered_map>

#include "app/desk/document.h"
#include "core/review/policy.h"

namespace culvert::app {

/// Which findings are listed.
struct FindingsFilter {
    enum class Grade { All, Beyond, NearOrBeyond, Notes, Accepted } grade = Grade::All;
    bool all_events = false;  ///< else the viewed one, and the data
    bool selected = false;    ///< of what is selected only
    QString words;            ///< in the element's name or the finding's
    friend bool operator==(const FindingsFilter&, const FindingsFilter&) = default;
};

/// Findings of the viewed event, or of all, and of the data; worst first, each with its best remedy.
class FindingsModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    FindingsModel(Document& document, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override {
        return parent.isValid() ? 0 : static_cast<int>(findings_.size());
    }
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override { return parent.isValid() ? 0 : 4; }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    /// In words: they are made when a row is first asked for.
    [[nodiscard]] const Finding& finding(int row) const;
    /// Of a row, without making its words.
    [[nodiscard]] FindingKey key(int row) const { return findings_[static_cast<std::size_t>(row)]->key(); }
    [[nodiscard]] int beyond() const { return beyond_; }  ///< of the viewed event and the data, whatever is listed
    [[nodiscard]] const FindingsFilter& filter() const { return filter_; }
    void set_filter(FindingsFilter filter);
    /// Against what stood before the last change, or while a change is only shown against what stands; of the viewed
    /// event.
    [[nodiscard]] std::size_t fresh() const { return fresh_.size(); }
    [[nodiscard]] const std::vector<FindingKey>& gone() const { return gone_; }
    [[nodiscard]] bool is_fresh(const Finding& f) const { return fresh_.contains(f.key()); }

  private:
    void reload();
    void compare();
    [[nodiscard]] bool listed(const Finding& f) const;
    Document& document_;
    FindingsFilter filter_;
    std::vector<std::shared_ptr<const Review>> reviews_;  ///< whose findings the rows point at
    std::vector<Finding> data_;
    std::vector<const Finding*> findings_;
    mutable std::unordered_map<const Finding*, Finding> worded_;
    int beyond_ = 0;
    EventId compared_event_;
    std::uint64_t compared_generation_ = 0, compared_revision_ = 0;
    bool settling_ = false;                           ///< the first state is still being found out about
    std::set<FindingKey> before_, standing_, fresh_;  ///< before the last change; as it stands; new ones
    std::vector<FindingKey> gone_;
};

/// The drawer's page of findings: filters, what is new and gone, acceptance with a reason, ranks, export.
class FindingsPage : public QWidget {
    Q_OBJECT
  public:
    FindingsPage(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] FindingsModel* model() const { return model_; }
    [[nodiscard]] QTableView* table() const { return table_; }
    [[nodiscard]] QString said() const { return said_->text(); }
    /// Opens the line that asks for the reason, for the selected rows.
    void ask_reason();
    void accept_selected(const QString& reason, const QString& by);
    void reopen_selected();
    /// The listed rows as text, cells parted by the separator, with a head.
    [[nodiscard]] QString as_text(QChar separator) const;

  private:
    void refresh_line();
    void make_ranks();
    [[nodiscard]] std::vector<Finding> chosen() const;
    Document& document_;
    FindingsModel* model_;
    QTableView* table_;
    QComboBox *grade_, *events_;
    QPushButton *of_selection_, *accept_, *reopen_;
    QToolButton *ranks_, *export_;
    QLineEdit *words_, *reason_, *by_;
    QWidget* reason_line_;
    QLabel* said_;
    std::set<FindingKey> kept_;  ///< rows chosen while the list is made anew
};

}  // namespace culvert::app
