// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QAbstractTableModel>
#include <map>
#include <unordered_map>

#include "app/desk/document.h"
#include "core/analysis/result_fields.h"

namespace culvert::app {

/// All elements of a kind: their fields, editable, and beside them their results, told apart by ink and a slanted
/// letter. Sorting and filtering order row numbers only: twenty thousand rows cost a few milliseconds.
class LedgerModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum class Show { All, NearOrBeyond, Beyond };
    LedgerModel(Document& document, QObject* parent = nullptr);
    void set_kind(Kind kind);
    [[nodiscard]] Kind kind() const { return kind_; }
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;
    void sort(int column, Qt::SortOrder order) override;

    /// Rows whose words hold what was typed, or that meet a comparison such as "size < 450" or "kind = inlet".
    /// Returns what is wrong with the comparison, empty if nothing.
    QString set_filter(const QString& typed, Show show);
    [[nodiscard]] std::size_t all_rows() const { return ids_.size(); }
    [[nodiscard]] std::uint64_t id_of(int row) const { return ids_[order_[static_cast<std::size_t>(row)]]; }
    [[nodiscard]] int row_of(std::uint64_t id) const;
    /// Index in the kind's field table, or -1 for a result.
    [[nodiscard]] int field_of(int column) const {
        return static_cast<std::size_t>(column) < fields_.size()
                   ? static_cast<int>(fields_[static_cast<std::size_t>(column)])
                   : -1;
    }
    [[nodiscard]] int column_of(std::string_view key) const;
    /// The number of a cell as it would be copied: full digits, in the column's unit.
    [[nodiscard]] QString copied(const QModelIndex& index) const;
    [[nodiscard]] QString head(int column) const;  ///< label and unit on one line: "Rim (m)"
    [[nodiscard]] Quantity quantity_of(int column) const;
    /// The result a column shows; null for a field.
    [[nodiscard]] const ResultField* result(int column) const {
        const auto c = static_cast<std::size_t>(column);
        return c < fields_.size() ? nullptr : results_[c - fields_.size()];
    }
    /// Unit and digits of one column, apart from the project's; an empty symbol: the project's.
    void set_display(int column, const QString& unit, int digits);
    [[nodiscard]] Unit display(int column) const;

  signals:
    void refused(const QString& why);

  private:
    struct Key {
        double number = 0;
        std::string text;
    };
    void reload();
    void arrange();
    [[nodiscard]] bool passes(std::uint64_t id) const;
    [[nodiscard]] double result_value(std::uint64_t id, std::size_t column) const;
    [[nodiscard]] QString formatted(double si, int column) const;
    [[nodiscard]] QString column_key(int column) const;
    [[nodiscard]] Verdict verdict_of(std::uint64_t id) const;
    Document& document_;
    Kind kind_ = Kind::Pipe;
    std::vector<std::uint64_t> ids_;    ///< all rows, by id
    std::vector<std::uint32_t> order_;  ///< indexes of ids_ as shown
    std::vector<std::int32_t> row_;     ///< row of each index, -1 where it is filtered out
    std::vector<std::size_t> fields_;   ///< indexes of the fields shown
    std::vector<const ResultField*> results_;
    int sort_column_ = 0;
    Qt::SortOrder sort_order_ = Qt::AscendingOrder;
    bool arranged_ = false;  ///< rows stand as the project and the results are now
    QString filter_;
    Show show_ = Show::All;
    int compared_ = -1;  ///< column of the comparison
    QString comparison_;
    double compared_number_ = 0;
    QString compared_text_;
    std::map<QString, std::pair<QString, int>> displays_;
};

/// Keys whose bytes stand in the natural order of the names: A2 before A10, whatever the case.
std::string sort_key(std::string_view name);

}  // namespace culvert::app
