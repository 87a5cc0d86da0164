// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/panels/sensitivity_panel.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include "app/desk/text.h"

namespace culvert::app {

SensitivityPanel::SensitivityPanel(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      share_(new QDoubleSpinBox),
      height_(new QDoubleSpinBox),
      run_(new QPushButton("Try them")),
      said_(new QLabel),
      table_(new QTableWidget(0, 5)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 4, 8, 4);
    auto* line = new QHBoxLayout;
    line->addWidget(new QLabel("n, C and intensity by"));
    share_->setRange(1, 90);
    share_->setDecimals(0);
    share_->setValue(10);
    share_->setSuffix(" %");
    share_->setAccessibleName("Share of n, C and intensity");
    line->addWidget(share_);
    line->addWidget(new QLabel("tailwater by"));
    const UnitSet units = document_.units();
    const Unit& unit = units.unit(Quantity::Length);
    height_->setRange(0.01, 20);
    height_->setValue(unit.factor < 0.5 ? 1 : 0.3);
    height_->setSuffix(" " + text(unit.symbol));
    height_->setAccessibleName("Height of the tailwater");
    line->addWidget(height_);
    run_->setToolTip("Solves every event with each of them higher and lower, and lists the verdicts that change");
    line->addWidget(run_);
    line->addWidget(said_, 1);
    column->addLayout(line);
    table_->setAccessibleName("What the verdicts hang on");
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(22);
    table_->setHorizontalHeaderLabels({"Change", "New", "Gone", "HGL rises most", "Which"});
    table_->horizontalHeader()->setStretchLastSection(true);
    column->addWidget(table_, 1);
    said_->setText("Each is changed alone, everywhere, and solved in every event.");
    connect(run_, &QPushButton::clicked, this, &SensitivityPanel::run);
    connect(&document_, &Document::changed, this, [this] {
        if (!shown_.empty()) said_->setText("The project has changed since: try again.");
    });
    connect(table_, &QTableWidget::itemSelectionChanged, this, [this] {
        std::vector<ElementRef> all;
        for (const QModelIndex& row : table_->selectionModel()->selectedRows())
            if (const auto at = static_cast<std::size_t>(row.row()); at < shown_.size())
                for (const auto* keys : {&shown_[at].added, &shown_[at].gone})
                    for (const FindingKey& key : *keys)
                        if (const ElementRef e = std::get<ElementRef>(key);
                            std::find(all.begin(), all.end(), e) == all.end())
                            all.push_back(e);
        if (!all.empty()) document_.select(all);
    });
}

void SensitivityPanel::run() {
    const Results results = document_.all_results();
    if (results.empty()) {
        said_->setText("There is nothing solved yet: it needs rain, pipes and an outfall.");
        return;
    }
    said_->setText("Solving …");
    const double height = height_->value() * document_.units().unit(Quantity::Length).factor;
    worker_.run([this, project = document_.project(), results, event = document_.event(),
                 cases = usual_cases(share_->value() / 100, height)](const Turn& turn) {
        auto rows = sensitivities(project, results, event, cases, turn.stop);
        turn.tell([this, rows = std::move(rows)]() mutable { show_rows(std::move(rows)); });
    });
}

void SensitivityPanel::show_rows(std::vector<SensitivityRow> rows) {
    shown_ = std::move(rows);
    const UnitSet u = document_.units();
    const Project& p = document_.project();
    const QSignalBlocker quiet(table_);
    table_->setRowCount(static_cast<int>(shown_.size()));
    for (int i = 0; i < table_->rowCount(); ++i) {
        const SensitivityRow& r = shown_[static_cast<std::size_t>(i)];
        const auto cell = [&](int column, const QString& words, bool number) {
            auto* item = new QTableWidgetItem(words);
            if (number) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            item->setToolTip(words);
            table_->setItem(i, column, item);
        };
        QStringList which;
        constexpr int most = 4;
        for (const FindingKey& key : r.added)
            if (which.size() < most) which << text(key_words(p, key));
        for (const FindingKey& key : r.gone)
            if (which.size() < most) which << "gone: " + text(key_words(p, key));
        if (const auto all = r.added.size() + r.gone.size();
            all > static_cast<std::size_t>(which.size()) && !which.isEmpty())
            which << QString("and %1 more").arg(all - static_cast<std::size_t>(which.size()));
        cell(0, text(r.change.words(u)), false);
        cell(1, QString::number(r.added.size()), true);
        cell(2, QString::number(r.gone.size()), true);
        cell(3,
             r.highest_at.id && std::abs(r.highest_rise) > 5e-4
                 ? text(u.text(r.highest_rise, Quantity::Length)) + " at " +
                       text(element_name(p, r.highest_at.kind, r.highest_at.id))
                 : QString("–"),
             true);
        cell(4, which.join("; "), false);
    }
    table_->resizeColumnsToContents();
    said_->setText("Select a line: what changes in it is selected.");
}

}  // namespace culvert::app
