// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/drawer.h"
#include "app/desk/text.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QStandardItemModel>
#include <cmath>

#include "app/kit/theme.h"
#include "report/tables.h"

namespace culvert::app {

FindingsModel::FindingsModel(Document& document, QObject* parent) : QAbstractTableModel(parent), document_(document) {
    connect(&document_, &Document::results_changed, this, [this](const ResultsChange& what) {
        if (what.viewed || what.data) reload();
    });
    connect(&document_, &Document::event_changed, this, &FindingsModel::reload);
    connect(&document_, &Document::advice_changed, this, [this] {
        if (!findings_.empty()) emit dataChanged(index(0, 3), index(rowCount() - 1, 3));
    });
    reload();
}

/// The worst first: errors of results, then of the data, then what is near. The findings stay where they are; rows
/// point at them.
void FindingsModel::reload() {
    const auto review = document_.review();
    std::vector<const Finding*> list;
    std::vector<Finding> data = document_.data_findings();
    // Both lists have the worst first: they are merged, those of the results before those of the data.
    for (const Severity severity : {Severity::Error, Severity::Warning, Severity::Note}) {
        if (review)
            for (const Finding& f : review->findings)
                if (f.severity == severity) list.push_back(&f);
        for (const Finding& f : data)
            if (f.severity == severity) list.push_back(&f);
    }
    beginResetModel();
    review_ = review;
    data_ = std::move(data);
    findings_ = std::move(list);
    worded_.clear();
    beyond_ = static_cast<int>(std::count_if(findings_.begin(), findings_.end(),
                                             [](const Finding* f) { return f->check.verdict == Verdict::Beyond; }));
    endResetModel();
}

const Finding& FindingsModel::finding(int row) const {
    const Finding* f = findings_[static_cast<std::size_t>(row)];
    if (!f->title.empty()) return *f;
    const auto [at, fresh] = worded_.try_emplace(f, *f);
    if (fresh)
        if (const auto r = document_.result(f->event)) word(document_.project(), *r, at->second);
    return at->second;
}

QVariant FindingsModel::data(const QModelIndex& at, int role) const {
    if (!at.isValid() || static_cast<std::size_t>(at.row()) >= findings_.size()) return {};
    const Finding& f = finding(at.row());
    const Theme& t = theme();
    if (role == Qt::DecorationRole && at.column() == 0) {
        QPixmap mark(16, 16);
        mark.fill(Qt::transparent);
        QPainter p(&mark);
        draw_verdict_mark(p, {8, 8}, 5, f.severity == Severity::Note ? Verdict::Unknown : f.check.verdict);
        return mark;
    }
    const auto* remedies = document_.remedies_of(f);
    const bool tried = remedies && !remedies->empty();
    if (role == Qt::ForegroundRole) {
        if (document_.dimmed()) return t.quiet;
        if (at.column() == 2) return t.quiet;
        if (at.column() == 3) return tried ? t.accent : t.quiet;
        return t.ink;
    }
    if (role == Qt::FontRole && at.column() == 0) return lettering(9, true);
    if (role == Qt::ToolTipRole) {
        QString tip = text(f.title) + "\n" + text(f.detail) + "\n" + text(f.remedy);
        if (tried)
            for (const Remedy& r : *remedies)
                tip += QString("\n%1: %2 gone, %3 new").arg(text(r.text)).arg(r.gone).arg(r.added);
        return tip;
    }
    if (role != Qt::DisplayRole) return {};
    switch (at.column()) {
        case 0: return text(element_name(document_.project(), f.element.kind, f.element.id));
        case 1: return text(f.title);
        case 2: return text(f.detail);
        default:
            if (tried) {
                const Remedy& r = remedies->front();
                return "Try " + text(r.text) +
                       QString(": %1 gone, %2")
                           .arg(r.gone)
                           .arg(r.added ? QString("%1 new").arg(r.added) : QString("none new"));
            }
            return remedies && f.check.verdict == Verdict::Beyond
                       ? QString("no single step mends it; ") + text(f.remedy)
                       : text(f.remedy);
    }
}

QVariant FindingsModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    constexpr const char* heads[] = {"Element", "Finding", "Numbers", "Remedy, tried over the whole network"};
    return heads[section];
}

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

    findings_model_ = new FindingsModel(document_, this);
    findings_ = new QTableView;
    findings_->setAccessibleName("Findings");
    findings_->setModel(findings_model_);
    findings_->setSelectionBehavior(QAbstractItemView::SelectRows);
    findings_->setSelectionMode(QAbstractItemView::SingleSelection);
    findings_->setShowGrid(false);
    findings_->setWordWrap(false);
    findings_->verticalHeader()->hide();
    findings_->verticalHeader()->setDefaultSectionSize(26);
    findings_->horizontalHeader()->setStretchLastSection(true);
    findings_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    findings_->setColumnWidth(0, 96);
    findings_->setColumnWidth(1, 186);
    findings_->setColumnWidth(2, 312);
    tabs_->addTab(findings_, "Findings");
    const auto look = [this] { QMetaObject::invokeMethod(this, &Drawer::look_at_visible, Qt::QueuedConnection); };
    connect(findings_->verticalScrollBar(), &QScrollBar::valueChanged, this, look);
    connect(findings_model_, &QAbstractItemModel::modelReset, this, look);
    connect(tabs_, &QTabWidget::currentChanged, this, look);
    connect(findings_->selectionModel(), &QItemSelectionModel::currentRowChanged, this, [this](const QModelIndex& now) {
        if (!now.isValid()) return;
        const Finding& f = findings_model_->finding(now.row());
        if (f.element.kind == Kind::Structure || f.element.kind == Kind::Pipe || f.element.kind == Kind::Catchment)
            document_.select({f.element});
    });
    connect(findings_, &QTableView::clicked, this, [this](const QModelIndex& at) {
        if (at.column() == 3) try_remedy(at.row());
    });
    connect(findings_, &QTableView::activated, this, [this](const QModelIndex& at) { try_remedy(at.row()); });
    const auto count = [this] {
        const int n = findings_model_->beyond();
        tabs_->setTabText(1, n ? QString("Findings %1").arg(n) : QString("Findings"));
    };
    connect(findings_model_, &QAbstractItemModel::modelReset, this, count);

    // What can be done to the element of a row.
    findings_->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(findings_, &QTableView::customContextMenuRequested, this, [this](const QPoint& at) {
        if (const QModelIndex row = findings_->indexAt(at); row.isValid())
            emit menu_wanted(findings_model_->finding(row.row()).element, findings_->viewport()->mapToGlobal(at));
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
    connect(ground_, &GroundPanel::preview_wanted, preview_, &PreviewBar::show_preview);
    connect(rules_, &RulesPanel::preview_wanted, preview_, &PreviewBar::show_preview);
    connect(rules_, &RulesPanel::ledger_wanted, this, [this](Kind kind) {
        ledger_->show_kind(kind);
        show_page(ledger_);
    });
    connect(tabs_, &QTabWidget::currentChanged, this, [this] {
        if (tabs_->currentWidget() == ground_ || tabs_->currentWidget() == rules_ ||
            tabs_->currentWidget() == history_ || tabs_->currentWidget() == quantities_ ||
            tabs_->currentWidget() == sensitivity_)
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
    emit room_wanted(page == findings_ ? 160 : 236);
}

void Drawer::look_at_visible() {
    std::vector<FindingKey> shown;
    if (findings_->isVisible()) {
        const int first = std::max(0, findings_->rowAt(0)),
                  last = findings_->rowAt(findings_->viewport()->height() - 1);
        const int end = last < 0 ? findings_model_->rowCount() : last + 1;
        for (int row = first; row < end && row < first + 100; ++row)
            shown.push_back(findings_model_->finding(row).key());
    }
    document_.look_at_findings("findings", std::move(shown));
}

void Drawer::try_remedy(int row) {
    if (row < 0 || row >= findings_model_->rowCount()) return;
    const Finding f = findings_model_->finding(row);
    const auto* remedies = document_.remedies_of(f);
    if (!remedies || remedies->empty()) return;
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
