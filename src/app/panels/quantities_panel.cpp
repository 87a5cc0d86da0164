// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/panels/quantities_panel.h"

#include <QHeaderView>
#include <QVBoxLayout>
#include <cmath>

#include "app/desk/text.h"

namespace culvert::app {

QuantitiesPanel::QuantitiesPanel(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), said_(new QLabel), table_(new QTableWidget(0, 7)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 4, 8, 4);
    said_->setWordWrap(true);
    column->addWidget(said_);
    table_->setAccessibleName("Quantities and cost");
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(22);
    table_->setHorizontalHeaderLabels({"What", "Status", "Depth", "Count", "Amount", "Price", "Cost"});
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    column->addWidget(table_, 1);
    connect(table_, &QTableWidget::itemSelectionChanged, this, [this] {
        std::vector<ElementRef> all;
        for (const QModelIndex& row : table_->selectionModel()->selectedRows())
            if (const auto at = static_cast<std::size_t>(row.row()); at < shown_.lines.size())
                all.insert(all.end(), shown_.lines[at].elements.begin(), shown_.lines[at].elements.end());
        if (!all.empty()) document_.select(all);
    });
    when_seen_ = new WhenSeen(this, [this] { refresh(); });
    connect(&document_, &Document::changed, this, [this] { (*when_seen_)(); });
    (*when_seen_)();
}

void QuantitiesPanel::refresh() {
    counter_.run([this, project = document_.project()](const Turn& turn) {
        Quantities found = quantities(project);
        turn.tell([this, found = std::move(found)]() mutable { show_lines(std::move(found)); });
    });
}

void QuantitiesPanel::show_lines(Quantities found) {
    shown_ = std::move(found);
    const UnitSet u = document_.units();
    const QSignalBlocker quiet(table_);
    table_->setRowCount(static_cast<int>(shown_.lines.size()));
    constexpr const char* statuses[] = {"proposed", "existing", "abandoned"};
    for (int row = 0; row < table_->rowCount(); ++row) {
        const QuantityLine& l = shown_.lines[static_cast<std::size_t>(row)];
        const auto cell = [&](int column, const QString& words, bool number) {
            auto* item = new QTableWidgetItem(words);
            if (number) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            item->setToolTip(words);
            table_->setItem(row, column, item);
        };
        const auto money = [](double v) { return std::isnan(v) ? QString() : QString::number(v, 'f', 0); };
        cell(0, text(l.what), false);
        cell(1, statuses[static_cast<int>(l.status)], false);
        cell(2, text(depth_words(l, u)), false);
        cell(3, QString::number(l.count), true);
        cell(4, text(amount_words(l, u)), true);
        cell(5, std::isnan(l.price) ? QString() : text(u.text(l.price, price_quantity(l.group))), true);
        cell(6, money(l.cost), true);
    }
    for (int column = 1; column < table_->columnCount(); ++column) table_->resizeColumnToContents(column);
    QString words =
        QString(
            "What is proposed costs %1; existing pipes cost nothing. The prices of digging and of pipes stand "
            "among the defaults, those of structures with their types.")
            .arg(shown_.cost, 0, 'f', 0);
    if (!shown_.left_out.empty())
        words += QString(" %1 pipes without levels or rims are not counted.").arg(shown_.left_out.size());
    said_->setText(shown_.lines.empty() ? QString("Nothing is drawn yet: pipes and structures are counted here.")
                                        : words);
}

}  // namespace culvert::app
