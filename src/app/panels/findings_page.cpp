// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/panels/findings_page.h"

#include <QApplication>
#include <QClipboard>
#include <QDate>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QMenu>
#include <QPainter>
#include <QSaveFile>
#include <QSettings>
#include <QVBoxLayout>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/design/sensitivity.h"
#include "core/review/rules.h"

namespace culvert::app {

/// A sentence as the second half of one.
static QString begun_small(QString words) {
    if (words.size() > 1 && words[1].isLower()) words[0] = words[0].toLower();
    return words;
}

FindingsModel::FindingsModel(Document& document, QObject* parent) : QAbstractTableModel(parent), document_(document) {
    connect(&document_, &Document::results_changed, this, [this](const ResultsChange& what) {
        if (what.viewed || what.data || (what.others && filter_.all_events)) reload();
    });
    connect(&document_, &Document::event_changed, this, &FindingsModel::reload);
    connect(&document_, &Document::selection_changed, this, [this] {
        if (filter_.selected) reload();
    });
    const auto repaint = [this] {
        if (!findings_.empty()) emit dataChanged(index(0, 0), index(rowCount() - 1, 3));
    };
    connect(&document_, &Document::advice_changed, this, repaint);
    connect(&document_, &Document::age_changed, this, repaint);
    reload();
}

void FindingsModel::set_filter(FindingsFilter filter) {
    if (filter == filter_) return;
    filter_ = std::move(filter);
    reload();
}

bool FindingsModel::listed(const Finding& f) const {
    switch (filter_.grade) {
        case FindingsFilter::Grade::All: break;
        case FindingsFilter::Grade::Beyond:
            if (f.check.verdict != Verdict::Beyond) return false;
            break;
        case FindingsFilter::Grade::NearOrBeyond:
            if (f.severity == Severity::Note) return false;
            break;
        case FindingsFilter::Grade::Notes:
            if (f.severity != Severity::Note || f.accepted) return false;
            break;
        case FindingsFilter::Grade::Accepted:
            if (!f.accepted) return false;
            break;
    }
    if (filter_.selected && !document_.is_selected(f.element)) return false;
    if (filter_.words.isEmpty()) return true;
    const QString title =
        f.title.empty() ? text(f.check.verdict == Verdict::Near ? near_name(f.check.rule) : rule_name(f.check.rule))
                        : text(f.title);
    return title.contains(filter_.words, Qt::CaseInsensitive) ||
           text(element_name(document_.project(), f.element.kind, f.element.id))
               .contains(filter_.words, Qt::CaseInsensitive);
}

/// What is new and what is gone since the last change: small sets, of what is near or beyond a limit.
void FindingsModel::compare() {
    const auto review = document_.review();
    if (!review) return;  // nothing is solved yet: nothing to compare with
    const bool other = compared_event_ != document_.event() || compared_generation_ != document_.generation();
    std::set<FindingKey> now;
    const auto take = [&](const Finding& f) {
        if (f.severity != Severity::Note) now.insert(f.key());
    };
    for (const Finding& f : review->findings) take(f);
    for (const Finding& f : document_.data_findings()) take(f);
    const std::uint64_t revision = review->revision;
    if (other) {
        before_ = standing_ = now;
        compared_event_ = document_.event();
        compared_generation_ = document_.generation();
        compared_revision_ = revision;
        settling_ = true;
    }
    // Faults of the data and crossings of the first state come after its first results.
    if (settling_ && revision == compared_revision_ && !document_.has_pending()) before_ = standing_ = now;
    else settling_ = false;
    const bool shown_only = document_.has_pending();
    if (!shown_only && revision != compared_revision_) {
        before_ = std::move(standing_);
        compared_revision_ = revision;
    }
    const std::set<FindingKey>& base = shown_only ? standing_ : before_;
    fresh_.clear();
    gone_.clear();
    std::set_difference(now.begin(), now.end(), base.begin(), base.end(), std::inserter(fresh_, fresh_.end()));
    std::set_difference(base.begin(), base.end(), now.begin(), now.end(), std::back_inserter(gone_));
    if (!shown_only) standing_ = std::move(now);
}

void FindingsModel::reload() {
    compare();
    std::vector<std::shared_ptr<const Review>> reviews;
    if (filter_.all_events)
        for (const RainEvent* e : events_in_order(document_.project())) {
            if (const auto r = document_.review({e->id})) reviews.push_back(r);
        }
    else if (const auto r = document_.review()) reviews.push_back(r);
    std::vector<Finding> data = document_.data_findings();
    std::vector<const Finding*> list;
    int beyond = 0;
    for (const auto& r : reviews)
        for (const Finding& f : r->findings)
            if (listed(f)) list.push_back(&f);
    for (const Finding& f : data) {
        beyond += f.check.verdict == Verdict::Beyond;
        if (listed(f)) list.push_back(&f);
    }
    if (const auto r = document_.review())
        for (const Finding& f : r->findings) beyond += f.check.verdict == Verdict::Beyond;
    std::stable_sort(list.begin(), list.end(), [](const Finding* a, const Finding* b) {
        return static_cast<int>(a->severity) > static_cast<int>(b->severity);
    });
    beginResetModel();
    reviews_ = std::move(reviews);
    data_ = std::move(data);  // its elements stay where they are
    findings_ = std::move(list);
    worded_.clear();
    beyond_ = beyond;
    endResetModel();
}

const Finding& FindingsModel::finding(int row) const {
    const Finding* f = findings_[static_cast<std::size_t>(row)];
    if (f->index < 0 || (!f->title.empty() && !f->accepted && !f->reopened)) return *f;
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
        p.setRenderHint(QPainter::Antialiasing);
        draw_verdict_mark(p, {8, 8}, 5, f.severity == Severity::Note ? Verdict::Unknown : f.check.verdict);
        return mark;
    }
    const auto* remedies = document_.remedies_of(f);
    const bool told = remedies && !remedies->empty();
    const bool tried = told && !remedies->front().edit.empty();
    if (role == Qt::ForegroundRole) {
        if (document_.dimmed() || f.accepted) return t.quiet;
        if (at.column() == 2) return t.quiet;
        if (at.column() == 3) return tried ? t.accent : t.quiet;
        return t.ink;
    }
    if (role == Qt::FontRole && (at.column() == 0 || (at.column() == 1 && is_fresh(f)))) return lettering(9, true);
    if (role == Qt::ToolTipRole) {
        QString tip = text(f.title) + "\n" + text(f.detail) + "\n" + text(f.remedy);
        if (is_fresh(f)) tip.prepend("New since the last change: ");
        if (told)
            for (const Remedy& r : *remedies)
                tip += "\n" + text(r.text) +
                       (r.edit.empty() ? QString() : QString(": %1 gone, %2 new").arg(r.gone).arg(r.added));
        return tip;
    }
    if (role != Qt::DisplayRole) return {};
    switch (at.column()) {
        case 0: return text(element_name(document_.project(), f.element.kind, f.element.id));
        case 1: {
            QString title = text(f.title);
            if (filter_.all_events && f.event)
                title += ", " + text(element_name(document_.project(), Kind::Event, f.event.value));
            return title;
        }
        case 2: return text(f.detail);
        default:
            if (f.accepted) return QString("accepted");
            if (tried) {
                const Remedy& r = remedies->front();
                return "Try " + text(r.text) +
                       QString(": %1 gone, %2")
                           .arg(r.gone)
                           .arg(r.added ? QString("%1 new").arg(r.added) : QString("none new"));
            }
            if (told) return text(remedies->front().text);
            return remedies && f.check.verdict == Verdict::Beyond
                       ? QString("no single step mends it; ") + begun_small(text(f.remedy))
                       : text(f.remedy);
    }
}

QVariant FindingsModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
    constexpr const char* heads[] = {"Element", "Finding", "Numbers", "Remedy, tried over the whole network"};
    return heads[section];
}

FindingsPage::FindingsPage(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      model_(new FindingsModel(document, this)),
      table_(new QTableView),
      grade_(new QComboBox),
      events_(new QComboBox),
      of_selection_(new QPushButton("selected")),
      accept_(new QPushButton("Accept …")),
      reopen_(new QPushButton("Open again")),
      ranks_(new QToolButton),
      export_(new QToolButton),
      words_(new QLineEdit),
      reason_(new QLineEdit),
      by_(new QLineEdit),
      reason_line_(new QWidget),
      said_(new QLabel) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 4, 8, 0);
    column->setSpacing(3);
    auto* line = new QHBoxLayout;
    line->setSpacing(5);
    words_->setPlaceholderText("Filter by words");
    words_->setAccessibleName("Filter findings");
    words_->setClearButtonEnabled(true);
    words_->setMinimumWidth(80);
    words_->setMaximumWidth(140);
    grade_->addItems({"all findings", "beyond", "near or beyond", "notes", "accepted"});
    grade_->setAccessibleName("Filter by grade");
    grade_->setToolTip("Which findings are listed");
    events_->addItems({"viewed event", "all events"});
    events_->setAccessibleName("Events");
    events_->setToolTip("Findings of the viewed event, or of all; faults of the data always");
    of_selection_->setCheckable(true);
    of_selection_->setToolTip("Only findings of what is selected");
    accept_->setToolTip(
        "Accepts the selected findings with a reason: they stay listed as notes, and open again where "
        "they become worse");
    reopen_->setToolTip("Takes the acceptance of the selected findings back");
    ranks_->setText("Rank as");
    ranks_->setPopupMode(QToolButton::InstantPopup);
    ranks_->setToolTip("How grave findings of this kind are in this project");
    export_->setText("Export");
    export_->setPopupMode(QToolButton::InstantPopup);
    export_->setToolTip("The listed findings as a table");
    for (QWidget* w :
         std::initializer_list<QWidget*>{words_, grade_, events_, of_selection_, accept_, reopen_, ranks_, export_})
        line->addWidget(w);
    line->addWidget(said_, 1);
    column->addLayout(line);
    auto* reason = new QHBoxLayout(reason_line_);
    reason->setContentsMargins(0, 0, 0, 0);
    reason->addWidget(new QLabel("Reason"));
    reason_->setAccessibleName("Reason of the acceptance");
    reason->addWidget(reason_, 3);
    reason->addWidget(new QLabel("by"));
    by_->setAccessibleName("Accepted by");
    reason->addWidget(by_, 1);
    auto* take = new QPushButton("Accept");
    take->setObjectName("findings-accept");
    reason->addWidget(take);
    auto* leave = new QPushButton("Leave");
    reason->addWidget(leave);
    reason_line_->hide();
    column->addWidget(reason_line_);
    table_->setAccessibleName("Findings");
    table_->setModel(model_);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    table_->setShowGrid(false);
    table_->setWordWrap(false);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(26);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->setColumnWidth(0, 96);
    table_->setColumnWidth(1, 196);
    table_->setColumnWidth(2, 312);
    column->addWidget(table_, 1);

    const auto filter = [this] {
        FindingsFilter f;
        f.grade = static_cast<FindingsFilter::Grade>(grade_->currentIndex());
        f.all_events = events_->currentIndex() == 1;
        f.selected = of_selection_->isChecked();
        f.words = words_->text().trimmed();
        model_->set_filter(f);
    };
    connect(words_, &QLineEdit::textChanged, this, filter);
    connect(grade_, &QComboBox::currentIndexChanged, this, filter);
    connect(events_, &QComboBox::currentIndexChanged, this, filter);
    connect(of_selection_, &QPushButton::toggled, this, filter);
    connect(accept_, &QPushButton::clicked, this, &FindingsPage::ask_reason);
    connect(reopen_, &QPushButton::clicked, this, &FindingsPage::reopen_selected);
    const auto accept = [this] {
        if (reason_->text().trimmed().isEmpty()) {
            reason_->setFocus();
            said_->setText("Give the reason: it stands in the report.");
            return;
        }
        accept_selected(reason_->text().trimmed(), by_->text().trimmed());
    };
    connect(take, &QPushButton::clicked, this, accept);
    connect(reason_, &QLineEdit::returnPressed, this, accept);
    connect(leave, &QPushButton::clicked, reason_line_, &QWidget::hide);
    auto* menu = new QMenu(export_);
    menu->addAction("Copy as a table", this, [this] { QApplication::clipboard()->setText(as_text('\t')); });
    menu->addAction("Save as CSV …", this, [this] {
        const QString path = QFileDialog::getSaveFileName(this, "Save findings", "findings.csv", "CSV (*.csv)");
        if (path.isEmpty()) return;
        QSaveFile file(path);
        const QByteArray bytes = as_text(',').toUtf8();
        if (!file.open(QIODevice::WriteOnly) || file.write(bytes) != bytes.size() || !file.commit())
            said_->setText(path + " could not be written: " + file.errorString());
    });
    export_->setMenu(menu);
    ranks_->setMenu(new QMenu(ranks_));
    connect(ranks_->menu(), &QMenu::aboutToShow, this, &FindingsPage::make_ranks);
    // What was chosen stays chosen where it is still found.
    connect(model_, &QAbstractItemModel::modelAboutToBeReset, this, [this] {
        kept_.clear();
        for (const QModelIndex& at : table_->selectionModel()->selectedRows())
            kept_.insert(model_->finding(at.row()).key());
    });
    connect(model_, &QAbstractItemModel::modelReset, this, [this] {
        if (!kept_.empty())
            for (int row = 0; row < model_->rowCount() && !kept_.empty(); ++row)
                if (kept_.erase(model_->key(row)))
                    table_->selectionModel()->select(model_->index(row, 0),
                                                     QItemSelectionModel::Select | QItemSelectionModel::Rows);
        kept_.clear();
        refresh_line();
    });
    connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &FindingsPage::refresh_line);
    refresh_line();
}

std::vector<Finding> FindingsPage::chosen() const {
    std::vector<Finding> list;
    for (const QModelIndex& at : table_->selectionModel()->selectedRows()) list.push_back(model_->finding(at.row()));
    return list;
}

void FindingsPage::refresh_line() {
    const auto rows = table_->selectionModel()->selectedRows();
    bool open = false, accepted = false;
    for (const QModelIndex& at : rows) {
        const Finding& f = model_->finding(at.row());
        open = open || (!f.accepted && f.severity != Severity::Note);
        accepted = accepted || f.accepted || f.reopened;
    }
    accept_->setEnabled(open);
    reopen_->setVisible(accepted);
    ranks_->setEnabled(!rows.isEmpty());
    if (!open) reason_line_->hide();
    const auto& gone = model_->gone();
    if (!model_->fresh() && gone.empty()) {
        said_->clear();
        said_->setToolTip({});
        return;
    }
    said_->setText(QString("%1 new, %2 gone %3")
                       .arg(model_->fresh())
                       .arg(gone.size())
                       .arg(document_.has_pending() ? "as shown" : "since the last change"));
    QStringList names;
    for (const FindingKey& key : gone)
        if (names.size() < 12) names << "gone: " + text(key_words(document_.project(), key));
    said_->setToolTip(names.join("\n"));
}

void FindingsPage::ask_reason() {
    if (chosen().empty()) return;
    by_->setText(QSettings().value("findings/by").toString());
    reason_line_->show();
    reason_->setFocus();
    reason_->selectAll();
}

void FindingsPage::accept_selected(const QString& reason, const QString& by) {
    std::vector<Finding> list;
    for (Finding& f : chosen())
        if (!f.accepted && f.severity != Severity::Note) list.push_back(std::move(f));
    if (list.empty()) return;
    if (!by.isEmpty()) QSettings().setValue("findings/by", by);
    reason_line_->hide();
    document_.commit(accept_findings(document_.project(), list, plain(reason), plain(by),
                                     plain(QDate::currentDate().toString(Qt::ISODate))));
}

void FindingsPage::reopen_selected() {
    Edit edit = reopen_findings(document_.project(), chosen());
    if (!edit.empty()) document_.commit(std::move(edit));
}

void FindingsPage::make_ranks() {
    ranks_->menu()->clear();
    const auto list = chosen();
    if (list.empty()) return;
    const std::string name(finding_name(list.front()));
    QAction* head = ranks_->menu()->addAction("\"" + text(name) + "\" is");
    head->setEnabled(false);
    const auto add = [&](const char* words, std::optional<RankedAs> rank) {
        ranks_->menu()->addAction(words, this, [this, name, rank] {
            Edit edit = rank_finding(document_.project(), name, rank);
            if (!edit.empty()) document_.commit(std::move(edit));
        });
    };
    add("an error", RankedAs::Error);
    add("a warning", RankedAs::Warning);
    add("a note", RankedAs::Note);
    add("not said at all", RankedAs::Off);
    add("ranked as usual", {});
}

QString FindingsPage::as_text(QChar separator) const {
    const auto cell = [separator](QString s) {
        if (separator == '\t') return s.replace('\t', ' ').replace('\n', ' ');
        if (s.contains(separator) || s.contains('"') || s.contains('\n')) return "\"" + s.replace('"', "\"\"") + "\"";
        return s;
    };
    QString out =
        QStringList{"grade", "element", "kind", "finding", "event", "numbers", "remedy"}.join(separator) + "\n";
    for (int row = 0; row < model_->rowCount(); ++row) {
        const Finding& f = model_->finding(row);
        constexpr const char* grades[] = {"note", "warning", "error"};
        const QStringList cells{
            f.accepted ? "accepted" : grades[static_cast<int>(f.severity)],
            text(element_name(document_.project(), f.element.kind, f.element.id)),
            text(kind_name(f.element.kind)),
            text(f.title),
            f.event ? text(element_name(document_.project(), Kind::Event, f.event.value)) : QString(),
            text(f.detail),
            text(f.remedy)};
        QStringList line;
        for (const QString& c : cells) line << cell(c);
        out += line.join(separator) + "\n";
    }
    return out;
}

}  // namespace culvert::app
