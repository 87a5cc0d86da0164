// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/drawer.h"
#include "app/desk/text.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QScrollBar>
#include <QStandardItemModel>
#include <QTabBar>
#include <cmath>

#include "app/kit/theme.h"
#include "report/tables.h"

namespace culvert::app {

PreviewBar::PreviewBar(Document& document, QWidget* parent) : QWidget(parent), document_(document), label_(new QLabel) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 4, 12, 4);
    label_->setWordWrap(true);
    row->addWidget(label_, 1);
    auto* accept_button = new QPushButton("Accept");
    accept_button->setObjectName("preview-accept");
    accept_button->setToolTip("Take the change; it can be undone");
    auto* dismiss_button = new QPushButton("Dismiss");
    dismiss_button->setObjectName("preview-dismiss");
    dismiss_button->setToolTip("Leave the project as it was");
    row->addWidget(accept_button);
    row->addWidget(dismiss_button);
    connect(accept_button, &QPushButton::clicked, this, &PreviewBar::accept);
    connect(dismiss_button, &QPushButton::clicked, this, &PreviewBar::dismiss);
    // Another change, or undo, has dropped what was shown.
    connect(&document_, &Document::changed, this, [this] {
        if (active_ && !document_.has_pending()) {
            active_ = false;
            hide();
            emit finished(false);
        }
    });
    setAutoFillBackground(true);
    hide();
}
void PreviewBar::show_preview(const QString& what, Edit edit) {
    document_.set_pending(std::move(edit));
    active_ = document_.has_pending();
    label_->setText("<b>Preview</b> &nbsp; " + what.toHtmlEscaped());
    setVisible(active_);
}
void PreviewBar::accept() {
    if (!active_) return;
    active_ = false;
    hide();
    document_.commit_pending();
    emit finished(true);
}
void PreviewBar::dismiss() {
    if (!active_) return;
    active_ = false;
    hide();
    document_.cancel_pending();
    emit finished(false);
}

void Drawer::resizeEvent(QResizeEvent*) {
    look_at_visible();
    constexpr int wide = 780;  // all pages with room around their names
    const bool narrow = width() < wide * text_scale();
    QTabBar* bar = tabs_->tabBar();
    if (narrow == narrow_) return;
    narrow_ = narrow;
    bar->setStyleSheet(narrow ? "QTabBar::tab{padding:6px 6px}" : "");  // its tabs are measured anew
}

Drawer::Drawer(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    preview_ = new PreviewBar(document_);
    column->addWidget(preview_);
    tabs_ = new QTabWidget;
    tabs_->setDocumentMode(true);
    column->addWidget(tabs_);
    ledger_ = new Ledger(document_);
    tabs_->addTab(ledger_, "Ledger");

    findings_page_ = new FindingsPage(document_);
    tabs_->addTab(findings_page_, "Findings");
    QTableView* findings = findings_page_->table();
    FindingsModel* model = findings_page_->model();
    const auto look = [this] { QMetaObject::invokeMethod(this, &Drawer::look_at_visible, Qt::QueuedConnection); };
    connect(findings->verticalScrollBar(), &QScrollBar::valueChanged, this, look);
    connect(model, &QAbstractItemModel::modelReset, this, look);
    connect(tabs_, &QTabWidget::currentChanged, this, look);
    connect(findings->selectionModel(), &QItemSelectionModel::currentRowChanged, this, [this](const QModelIndex& now) {
        if (!now.isValid() || findings_page_->model()->filter().selected) return;
        const Finding& f = findings_page_->model()->finding(now.row());
        if (f.element.kind == Kind::Structure || f.element.kind == Kind::Pipe || f.element.kind == Kind::Catchment)
            document_.select({f.element});
    });
    connect(findings, &QTableView::clicked, this, [this](const QModelIndex& at) {
        if (at.column() == 3) try_remedy(at.row());
    });
    connect(findings, &QTableView::activated, this, [this](const QModelIndex& at) { try_remedy(at.row()); });
    const auto count = [this] {
        const int n = findings_page_->model()->beyond();
        tabs_->setTabText(1, n ? QString("Findings %1").arg(n) : QString("Findings"));
    };
    connect(model, &QAbstractItemModel::modelReset, this, count);
    connect(&document_, &Document::results_changed, this, count);

    // What can be done to the element of a row.
    findings->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(findings, &QTableView::customContextMenuRequested, this, [this, findings](const QPoint& at) {
        if (const QModelIndex row = findings->indexAt(at); row.isValid())
            emit menu_wanted(findings_page_->model()->finding(row.row()).element,
                             findings->viewport()->mapToGlobal(at));
    });
    connect(ledger_, &Ledger::menu_wanted, this, &Drawer::menu_wanted);

    working_page_ = new QWidget;
    auto* working_column = new QVBoxLayout(working_page_);
    working_column->setContentsMargins(8, 4, 8, 4);
    quantity_ = new QComboBox;
    quantity_->setAccessibleName("Quantity");
    quantity_->setToolTip("Which number is taken apart");
    quantity_->setObjectName("working-quantity");
    working_column->addWidget(quantity_, 0, Qt::AlignLeft);
    working_ = new QTextBrowser;
    working_->setAccessibleName("Working");
    working_->setFrameShape(QFrame::NoFrame);
    working_column->addWidget(working_, 1);
    tabs_->addTab(working_page_, "Working");
    connect(quantity_, &QComboBox::currentTextChanged, this, &Drawer::refresh_working);
    connect(&document_, &Document::results_changed, this, [this](const ResultsChange& what) {
        if (what.viewed) refresh_working();
    });
    for (auto signal : {&Document::event_changed, &Document::selection_changed})
        connect(&document_, signal, this, &Drawer::refresh_working);
    connect(tabs_, &QTabWidget::currentChanged, this, &Drawer::refresh_working);

    ground_ = new GroundPanel(document_);
    tabs_->addTab(ground_, "Ground");
    rules_ = new RulesPanel(document_);
    tabs_->addTab(rules_, "Rules");
    history_ = new HistoryPanel(document_);
    tabs_->addTab(history_, "History");
    quantities_ = new QuantitiesPanel(document_);
    tabs_->addTab(quantities_, "Quantities");
    sensitivity_ = new SensitivityPanel(document_);
    tabs_->addTab(sensitivity_, "Sensitivity");
    grade_ = new GradePanel(document_);
    tabs_->addTab(grade_, "Grade");
    storage_ = new StoragePanel(document_);
    tabs_->addTab(storage_, "Storage");
    connect(storage_, &StoragePanel::proposed, this,
            [this](const QString& words, const Edit& edit) { preview_->show_preview(words, edit); });
    connect(grade_, &GradePanel::preview_wanted, preview_, &PreviewBar::show_preview);
    connect(grade_, &GradePanel::nothing_to_preview, preview_, &PreviewBar::dismiss);
    connect(ground_, &GroundPanel::preview_wanted, preview_, &PreviewBar::show_preview);
    connect(rules_, &RulesPanel::preview_wanted, preview_, &PreviewBar::show_preview);
    connect(rules_, &RulesPanel::ledger_wanted, this, [this](Kind kind) {
        ledger_->show_kind(kind);
        show_page(ledger_);
    });
    connect(tabs_, &QTabWidget::currentChanged, this, [this] {
        if (tabs_->currentWidget() == ground_ || tabs_->currentWidget() == rules_ ||
            tabs_->currentWidget() == history_ || tabs_->currentWidget() == quantities_ ||
            tabs_->currentWidget() == sensitivity_ || tabs_->currentWidget() == grade_)
            emit room_wanted(236);
    });

    proposal_page_ = new QWidget(this);
    proposal_page_->hide();
    auto* proposal_column = new QVBoxLayout(proposal_page_);
    proposal_column->setContentsMargins(8, 4, 8, 4);
    proposal_text_ = new QLabel;
    proposal_column->addWidget(proposal_text_);
    proposal_table_ = new QTableView;
    proposal_table_->setAccessibleName("What is proposed, pipe by pipe");
    proposal_table_->setModel(new QStandardItemModel(0, 6, this));
    proposal_table_->verticalHeader()->hide();
    proposal_table_->verticalHeader()->setDefaultSectionSize(22);
    proposal_table_->horizontalHeader()->setStretchLastSection(true);
    proposal_column->addWidget(proposal_table_, 1);
    connect(&document_, &Document::proposed, this, &Drawer::show_sizes);
    connect(&document_, &Document::designed, this, &Drawer::show_design);
    connect(preview_, &PreviewBar::finished, this, [this] {
        if (const int at = tabs_->indexOf(proposal_page_); at >= 0) tabs_->removeTab(at);
        proposed_.reset();
    });
    connect(static_cast<QStandardItemModel*>(proposal_table_->model()), &QStandardItemModel::itemChanged, this,
            [this](QStandardItem* item) {
                if (!proposed_ || item->column() != 0) return;
                accepted_[static_cast<std::size_t>(item->data(Qt::UserRole).toInt())] =
                    item->checkState() == Qt::Checked;
                preview_proposal();
            });
    tabs_->setCurrentIndex(1);
}

void Drawer::show_page(QWidget* page) {
    tabs_->setCurrentWidget(page);
    emit room_wanted(page == findings_page_ ? 190 : 236);
}

void Drawer::look_at_visible() {
    std::vector<FindingKey> shown;
    QTableView* table = findings_page_->table();
    FindingsModel* model = findings_page_->model();
    if (table->isVisible()) {
        const int first = std::max(0, table->rowAt(0)), last = table->rowAt(table->viewport()->height() - 1);
        const int end = last < 0 ? model->rowCount() : last + 1;
        for (int row = first; row < end && row < first + 100; ++row) shown.push_back(model->finding(row).key());
    }
    document_.look_at_findings("findings", std::move(shown));
}

void Drawer::try_remedy(int row) {
    if (row < 0 || row >= findings_page_->model()->rowCount()) return;
    const Finding f = findings_page_->model()->finding(row);
    const auto* remedies = document_.remedies_of(f);
    if (!remedies || remedies->empty() || remedies->front().edit.empty()) return;
    const Remedy r = remedies->front();
    preview_->show_preview(
        text(r.text) + QString(": %1 findings gone, %2 new, over all events").arg(r.gone).arg(r.added), r.edit);
}

void Drawer::show_working(const QString& quantity) {
    tabs_->setCurrentWidget(working_page_);
    refresh_working();
    if (const int at = quantity_->findText(quantity); at >= 0) quantity_->setCurrentIndex(at);
}

void Drawer::refresh_working() {
    if (tabs_->currentWidget() != working_page_) return;
    const ElementRef s = document_.selected();
    const auto known = s.id ? explainable(s.kind) : std::vector<std::string_view>{};
    QStringList names;
    for (const auto& k : known) names << text(k);
    QStringList present;
    for (int i = 0; i < quantity_->count(); ++i) present << quantity_->itemText(i);
    if (names != present) {
        const QSignalBlocker block(quantity_);
        const QString was = quantity_->currentText();
        quantity_->clear();
        quantity_->addItems(names);
        if (const int at = quantity_->findText(was); at >= 0) quantity_->setCurrentIndex(at);
    }
    quantity_->setVisible(!names.isEmpty());
    const Theme& t = theme();
    const auto r = document_.result();
    if (names.isEmpty() || !r) {
        working_->setHtml(QString("<p style='color:%1'>%2</p>")
                              .arg(t.quiet.name(),
                                   names.isEmpty()
                                       ? "Select a pipe or a structure: its numbers are taken apart here, step by step."
                                       : "There is no rain event yet."));
        return;
    }
    const Explanation e = explain(document_.project(), *r, s, plain(quantity_->currentText()));
    const QString quiet = QString("<span style='color:%1'>").arg(t.quiet.name());
    QString html = "<h3 style='margin:2px 0 4px 0'>" + text(e.title.empty() ? e.error : e.title).toHtmlEscaped() +
                   "</h3><table cellspacing='0' cellpadding='5' width='100%'>";
    for (const Step& step : e.steps) {
        html += "<tr><td width='52%'>" + text(step.meaning).toHtmlEscaped() + "<br><b>" +
                text(step.symbol).toHtmlEscaped() +
                "</b> = " + (step.formula.empty() ? QString() : text(step.formula).toHtmlEscaped() + " = ") + "<b>" +
                text(working_number(step.result, 6)) + "&nbsp;" + text(step.unit) + "</b>";
        if (!step.note.empty())
            html += QString("<br><span style='color:%1'>").arg(t.accent.name()) + text(step.note).toHtmlEscaped() +
                    "</span>";
        if (!step.source.empty()) html += "<br>" + quiet + text(step.source).toHtmlEscaped() + "</span>";
        html += "</td><td>";
        for (const Term& term : step.terms)
            html += text(term.symbol).toHtmlEscaped() + " = " + text(working_number(term.value)) + "&nbsp;" +
                    text(term.unit) + " &nbsp;" + quiet + text(term.meaning).toHtmlEscaped() + "</span><br>";
        html += "</td></tr>";
    }
    html += "</table>";
    working_->setHtml(html);
}

void Drawer::show_sizes(const std::shared_ptr<const SizeProposal>& proposal) {
    const UnitSet u = document_.units();
    const QString size = " " + text(u.unit(Quantity::Size).symbol), flow = " " + text(u.unit(Quantity::Flow).symbol);
    Proposed p;
    p.edit = proposal->edit;
    p.tab = "Sizes";
    p.what = "sizes of %1 pipes";
    p.heads = {"Pipe", "Before" + size, "After" + size, "Flow" + flow, "Capacity" + flow, "Reason"};
    int changes = 0;
    for (const SizeRow& r : proposal->rows) {
        const bool change = std::abs(r.before - r.after) > 1e-9;
        changes += change;
        p.rows.push_back(
            {r.pipe,
             change,
             {text(u.number(r.before, Quantity::Size)), text(u.number(r.after, Quantity::Size)),
              text(u.number(r.flow, Quantity::Flow)), text(u.number(r.capacity, Quantity::Flow)), text(r.reason)},
             {1}});
    }
    p.words =
        QString(
            "%1 of %2 pipes change. Beyond a limit in the viewed event: %3 before, %4 after. Untick what should stay.")
            .arg(changes)
            .arg(proposal->rows.size())
            .arg(proposal->beyond_before)
            .arg(proposal->beyond_after);
    show_proposed(std::move(p));
}

void Drawer::show_design(const std::shared_ptr<const DesignProposal>& proposal) {
    const UnitSet u = document_.units();
    const auto unit = [&](Quantity q) { return " " + text(u.unit(q).symbol); };
    Proposed p;
    p.edit = proposal->edit;
    p.tab = "Design";
    p.what = "a design of %1 pipes";
    p.heads = {"Pipe",
               "Size before",
               "after" + unit(Quantity::Size),
               "Slope before",
               "after" + unit(Quantity::Slope),
               "Start before",
               "after" + unit(Quantity::Level),
               "End before",
               "after" + unit(Quantity::Level),
               "Flow" + unit(Quantity::Flow),
               "Cost before",
               "after",
               "Reason"};
    int changes = 0;
    for (const DesignRow& r : proposal->rows) {
        changes += r.changed();
        const auto money = [](double v) { return std::isnan(v) ? QString("–") : QString::number(v, 'f', 0); };
        Proposed::Row row{
            r.pipe,
            r.changed(),
            {text(u.number(r.size_before, Quantity::Size)), text(u.number(r.size_after, Quantity::Size)),
             text(u.number(r.slope_before, Quantity::Slope)), text(u.number(r.slope_after, Quantity::Slope)),
             text(u.number(r.up_before, Quantity::Level)), text(u.number(r.up_after, Quantity::Level)),
             text(u.number(r.down_before, Quantity::Level)), text(u.number(r.down_after, Quantity::Level)),
             text(u.number(r.flow, Quantity::Flow)), money(r.cost_before), money(r.cost_after), text(r.reason)},
            {}};
        for (const int after : {1, 3, 5, 7})
            if (row.cells[after] != row.cells[after - 1]) row.bold.push_back(after);
        p.rows.push_back(std::move(row));
    }
    QString words = QString(
                        "%1 of %2 pipes change. Beyond a limit: %3 before, %4 after; in the other events %5 before, %6 "
                        "after. Cost %7 before, %8 after.")
                        .arg(changes)
                        .arg(proposal->rows.size())
                        .arg(proposal->beyond_before)
                        .arg(proposal->beyond_after)
                        .arg(proposal->others_before)
                        .arg(proposal->others_after)
                        .arg(proposal->cost_before, 0, 'f', 0)
                        .arg(proposal->cost_after, 0, 'f', 0);
    if (proposal->cost_plain > proposal->cost_after * 1.0005)
        words += QString(" The plain design, of the smallest sizes that will do, costs %1.")
                     .arg(proposal->cost_plain, 0, 'f', 0);
    for (const std::string& line : block_words(document_.project(), *proposal)) words += "\n" + text(line);
    p.words = words;
    show_proposed(std::move(p));
}

void Drawer::show_proposed(Proposed proposed) {
    proposed_ = std::make_shared<const Proposed>(std::move(proposed));
    accepted_.assign(proposed_->rows.size(), true);
    auto* model = static_cast<QStandardItemModel*>(proposal_table_->model());
    const QSignalBlocker block(model);
    model->clear();
    model->setHorizontalHeaderLabels(proposed_->heads);
    for (std::size_t i = 0; i < proposed_->rows.size(); ++i) {
        const Proposed::Row& r = proposed_->rows[i];
        auto* name = new QStandardItem(text(element_name(document_.project(), Kind::Pipe, r.pipe.value)));
        name->setData(static_cast<int>(i), Qt::UserRole);
        name->setCheckable(r.change);
        if (r.change) name->setCheckState(Qt::Checked);
        name->setEditable(false);
        QList<QStandardItem*> row{name};
        for (int k = 0; k < r.cells.size(); ++k) {
            auto* item = new QStandardItem(r.cells[k]);
            if (std::find(r.bold.begin(), r.bold.end(), k) != r.bold.end() && r.change)
                item->setFont(lettering(9, true));
            if (k + 1 < r.cells.size()) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            item->setEditable(false);
            row << item;
        }
        model->appendRow(row);
    }
    emit model->layoutChanged();
    proposal_table_->resizeColumnsToContents();
    proposal_table_->setColumnWidth(0, std::max(110, proposal_table_->columnWidth(0) + 24));  // with its tick
    proposal_text_->setText(proposed_->words);
    proposal_text_->setWordWrap(true);
    open_proposal_page();
    preview_proposal();
}

void Drawer::open_proposal_page() {
    const int at = tabs_->indexOf(proposal_page_);
    if (at < 0) tabs_->addTab(proposal_page_, proposed_->tab);
    else tabs_->setTabText(at, proposed_->tab);
    tabs_->setCurrentWidget(proposal_page_);
}

void Drawer::preview_proposal() {
    if (!proposed_) return;
    const auto keep = proposed_;
    Edit edit;
    edit.name = keep->edit.name;
    int taken = 0;
    for (std::size_t i = 0; i < keep->rows.size(); ++i) {
        if (!accepted_[i]) continue;
        bool any = false;
        for (const Change& c : keep->edit.changes)
            if (const auto* p = std::get_if<Patch>(&c); p && p->id == keep->rows[i].pipe.value) {
                edit.changes.push_back(c);
                any = true;
            }
        taken += any;
    }
    if (edit.empty()) {
        document_.cancel_pending();
        proposed_ = keep;
        open_proposal_page();
        return;
    }
    preview_->show_preview(keep->what.arg(taken), std::move(edit));
}

}  // namespace culvert::app
