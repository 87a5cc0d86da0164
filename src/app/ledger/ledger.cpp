// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ledger/ledger.h"
#include "app/desk/text.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QMenu>
#include <QScrollBar>
#include <QSettings>
#include <algorithm>
#include <cmath>
#include <map>

#include "app/kit/theme.h"
#include "exchange/rain_table.h"

namespace culvert::app {
namespace {

constexpr int most_selected = 2000;  ///< rows that the selection of the whole window follows

bool has_name(Kind kind) { return field_index(kind, "name").has_value(); }
bool is_drawn(Kind kind) {
    return kind == Kind::Structure || kind == Kind::Pipe || kind == Kind::Catchment || kind == Kind::Street ||
           kind == Kind::StreetPath || kind == Kind::BuriedLine;
}
/// Kinds whose rows are made by typing, not by drawing.
bool can_add(Kind kind) {
    return kind == Kind::Size || kind == Kind::StructureType || kind == Kind::Limit || kind == Kind::StreetSection ||
           kind == Kind::LandCover || kind == Kind::Clearance || kind == Kind::OutfallLevel ||
           kind == Kind::FindingRank || kind == Kind::Pond || kind == Kind::PondOutlet || kind == Kind::Release;
}

}  // namespace

Ledger::Ledger(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      model_(new LedgerModel(document, this)),
      rain_(new RainModel(document, this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 4, 8, 4);
    column->setSpacing(3);
    auto* row = new QHBoxLayout;
    row->setSpacing(5);
    kinds_ = new QComboBox;
    kinds_->setAccessibleName("Kind of element");
    kinds_->setToolTip("Which elements the ledger lists");
    for (const auto& [kind, label] : {std::pair{Kind::Structure, "Structures"},
                                      {Kind::Pipe, "Pipes"},
                                      {Kind::Catchment, "Catchments"},
                                      {Kind::LandCover, "Land covers"},
                                      {Kind::Street, "Streets"},
                                      {Kind::StreetSection, "Street sections"},
                                      {Kind::StreetPath, "Street paths"},
                                      {Kind::BuriedLine, "Buried lines"},
                                      {Kind::Clearance, "Clearances"},
                                      {Kind::OutfallLevel, "Outfall levels"},
                                      {Kind::Pond, "Ponds"},
                                      {Kind::PondOutlet, "Outlets"},
                                      {Kind::Release, "Allowed releases"},
                                      {Kind::ProfileRun, "Profiles"},
                                      {Kind::AcceptedFinding, "Accepted findings"},
                                      {Kind::FindingRank, "Finding ranks"},
                                      {Kind::Surface, "Surfaces"},
                                      {Kind::Background, "Backgrounds"},
                                      {Kind::Event, "Rain table"},
                                      {Kind::Limit, "Limits"},
                                      {Kind::Size, "Sizes"},
                                      {Kind::StructureType, "Structure types"}})
        kinds_->addItem(label, static_cast<int>(kind));
    row->addWidget(kinds_);
    filter_ = new QLineEdit;
    filter_->setPlaceholderText("Filter: words, or size < 450");
    filter_->setAccessibleName("Filter");
    filter_->setToolTip("Rows that hold these words; or a comparison of a column: size < 450, kind = inlet");
    filter_->setClearButtonEnabled(true);
    filter_->setMinimumWidth(90);
    filter_->setMaximumWidth(180);
    row->addWidget(filter_, 2);
    verdicts_ = new QComboBox;
    verdicts_->addItems({"all verdicts", "near or beyond", "beyond"});
    verdicts_->setAccessibleName("Filter by verdict");
    verdicts_->setToolTip("Rows by their worst verdict in the viewed event");
    row->addWidget(verdicts_);
    change_ = new QLineEdit;
    change_->setPlaceholderText("Change the chosen cells: +0.15");
    change_->setAccessibleName("Change the chosen cells");
    change_->setToolTip(
        "For all chosen cells at once: a value, +0.15, *1.02, or =rim-1.2 with the names of fields; Enter makes it");
    change_->setMinimumWidth(90);
    row->addWidget(change_, 3);
    columns_ = new QPushButton("Columns");
    columns_->setObjectName("ledger-columns");
    columns_->setToolTip(
        "Chooses columns; drag a head to move one, right click it for its unit and digits and to hold it");
    row->addWidget(columns_);
    add_ = new QPushButton("Add");
    add_->setObjectName("ledger-add");
    add_->setToolTip("Adds a row like the current one");
    row->addWidget(add_);
    auto* paste = new QPushButton("Paste a rain table");
    paste->setToolTip(
        "Durations down the side, return periods along the top; intensities, or depths, which rise with duration");
    paste->setObjectName("paste-rain");
    row->addWidget(paste);
    column->addLayout(row);
    said_ = new QLabel;
    said_->setWordWrap(true);
    said_->hide();
    column->addWidget(said_);

    pages_ = new QStackedWidget;
    column->addWidget(pages_, 1);
    auto* tables = new QWidget;
    auto* side_by_side = new QHBoxLayout(tables);
    side_by_side->setContentsMargins(0, 0, 0, 0);
    side_by_side->setSpacing(0);
    held_ = new QTableView;
    held_->setAccessibleName("Ledger, held columns");
    table_ = new QTableView;
    table_->setAccessibleName("Ledger");
    for (QTableView* t : {held_, table_}) {
        t->setAlternatingRowColors(true);
        t->setWordWrap(false);
        t->verticalHeader()->setDefaultSectionSize(22);
        t->verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
        t->verticalHeader()->hide();
        t->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        t->horizontalHeader()->setFixedHeight(36);
        t->horizontalHeader()->setContextMenuPolicy(Qt::CustomContextMenu);
        t->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
        t->setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
        t->installEventFilter(this);
        t->setContextMenuPolicy(Qt::CustomContextMenu);
        connect(t, &QTableView::customContextMenuRequested, this, [this, t](const QPoint& at) {
            if (const QModelIndex hit = t->indexAt(at);
                hit.isValid() && t->model() == model_ && is_drawn(model_->kind()))
                emit menu_wanted({model_->kind(), model_->id_of(hit.row())}, t->viewport()->mapToGlobal(at));
        });
        connect(t->horizontalHeader(), &QHeaderView::customContextMenuRequested, this,
                [this, t](const QPoint& at) { head_menu(t, at); });
    }
    table_->horizontalHeader()->setSectionsMovable(true);
    connect(table_->horizontalHeader(), &QHeaderView::sectionMoved, this, &Ledger::keep_layout);
    held_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOn);
    held_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    held_->setFrameShape(QFrame::NoFrame);
    table_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOn);
    connect(held_->verticalScrollBar(), &QScrollBar::valueChanged, table_->verticalScrollBar(), &QScrollBar::setValue);
    connect(table_->verticalScrollBar(), &QScrollBar::valueChanged, held_->verticalScrollBar(), &QScrollBar::setValue);
    side_by_side->addWidget(held_);
    side_by_side->addWidget(table_, 1);
    pages_->addWidget(tables);
    paste_ = new PasteView(document_);
    pages_->addWidget(paste_);
    connect(paste_, &PasteView::ready, this, [this] { pages_->setCurrentIndex(1); });
    connect(paste_, &PasteView::finished, this, [this] {
        pages_->setCurrentIndex(0);
        table_->setFocus();
    });

    connect(kinds_, &QComboBox::currentIndexChanged, this,
            [this](int i) { show_kind(static_cast<Kind>(kinds_->itemData(i).toInt())); });
    connect(paste, &QPushButton::clicked, this, [this] { paste_rain(QApplication::clipboard()->text()); });
    connect(columns_, &QPushButton::clicked, this, &Ledger::columns_menu);
    connect(add_, &QPushButton::clicked, this, &Ledger::add_row);
    connect(change_, &QLineEdit::returnPressed, this, [this] { change_chosen(change_->text()); });
    filter_delay_.setSingleShot(true);
    filter_delay_.setInterval(120);
    connect(&filter_delay_, &QTimer::timeout, this, &Ledger::apply_filter);
    connect(filter_, &QLineEdit::textChanged, &filter_delay_, QOverload<>::of(&QTimer::start));
    connect(filter_, &QLineEdit::returnPressed, this, &Ledger::apply_filter);
    connect(verdicts_, &QComboBox::currentIndexChanged, this, &Ledger::apply_filter);
    select_delay_.setSingleShot(true);
    select_delay_.setInterval(0);
    connect(&select_delay_, &QTimer::timeout, this, &Ledger::take_selection);
    connect(model_, &LedgerModel::refused, this, [this](const QString& why) { say(why, true); });
    connect(rain_, &RainModel::refused, this, [this](const QString& why) { say(why, true); });
    connect(&document_, &Document::selection_changed, this, &Ledger::follow_selection);
    show_kind(Kind::Pipe);
}

void Ledger::show_kind(Kind kind) {
    const QSignalBlocker block(kinds_);
    kinds_->setCurrentIndex(kinds_->findData(static_cast<int>(kind)));
    const bool rain = kind == Kind::Event;
    findChild<QPushButton*>("paste-rain")->setVisible(rain);
    for (QWidget* w : std::initializer_list<QWidget*>{filter_, verdicts_, change_, columns_}) w->setVisible(!rain);
    verdicts_->setVisible(kind == Kind::Pipe || kind == Kind::Structure);
    add_->setVisible(can_add(kind));
    held_->setVisible(!rain);
    pages_->setCurrentIndex(0);
    say({}, false);
    if (rain) {
        table_->setSortingEnabled(false);
        table_->setModel(rain_);
        table_->verticalHeader()->show();
        for (int c = 0; c < rain_->columnCount(); ++c) table_->setColumnHidden(c, false);
        if (document_.project().events.empty()) say("Copy a rain table from a spreadsheet and paste it here.", false);
        return;
    }
    {
        const QSignalBlocker a(filter_), b(verdicts_);
        filter_->clear();
        verdicts_->setCurrentIndex(0);
    }
    const bool fresh = table_->model() != model_;
    model_->set_kind(kind);
    if (fresh) {
        table_->setModel(model_);
        held_->setModel(model_);
        held_->setSelectionModel(table_->selectionModel());
        connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
            if (!following_) select_delay_.start();  // what follows the window's selection is not asked back
        });
        connect(table_->selectionModel(), &QItemSelectionModel::currentRowChanged, this,
                [this](const QModelIndex& now) {
                    if (following_ || !now.isValid() || table_->model() != model_ || !is_drawn(model_->kind())) return;
                    if (table_->selectionModel()->selectedIndexes().size() > 1) return;
                    following_ = true;
                    document_.select({{model_->kind(), model_->id_of(now.row())}});
                    following_ = false;
                });
    }
    table_->verticalHeader()->hide();
    lay_out_columns();
    for (QTableView* t : {held_, table_}) {
        const QSignalBlocker quiet(t->horizontalHeader());
        t->horizontalHeader()->setSortIndicator(0, Qt::AscendingOrder);  // as the model stands
        t->setSortingEnabled(true);
    }
    model_->sort(0, Qt::AscendingOrder);
    follow_selection();
}

void Ledger::lead_with(Stage stage) {
    if (lead_ == stage) return;
    lead_ = stage;
    lay_out_columns();
}

/// Columns where a person has not ordered them: as the model has them, but the name and then the results of the stage.
std::vector<int> Ledger::usual_columns(Stage lead) const {
    std::vector<int> first, then;
    for (int c = 0; c < model_->columnCount(); ++c) {
        const ResultField* f = model_->result(c);
        const bool leads = f && f->stage == lead && (lead == Stage::Streets || lead == Stage::Storage) &&
                           model_->kind() == Kind::Structure;
        (c == 0 || leads ? first : then).push_back(c);
    }
    first.insert(first.end(), then.begin(), then.end());
    return first;
}
QStringList Ledger::usual_order(Stage lead) const {
    QStringList list;
    for (const int c : usual_columns(lead)) list << model_->head(c).section(" (", 0, 0);
    return list;
}

void Ledger::lay_out_columns() {
    laying_ = true;
    const QSettings settings;
    const QString key = "ledger/columns/" + text(table_name(model_->kind()));
    QStringList hidden = settings.value(key + "/hidden").toStringList();
    if (!settings.contains(key + "/hidden")) {
        if (model_->kind() == Kind::Pipe) hidden = {"From", "To", "Note source"};
        if (model_->kind() == Kind::Structure) hidden = {"Note source"};
    }
    held_count_ = settings.value(key + "/held", has_name(model_->kind()) ? 1 : 0).toInt();
    QHeaderView* header = table_->horizontalHeader();
    QStringList order = settings.value(key + "/order").toStringList();
    if (order == usual_order(Stage::Layout)) order.clear();  // nobody ordered them
    for (int c = 0; c < model_->columnCount(); ++c) header->moveSection(header->visualIndex(c), c);
    int place = 0;
    for (const QString& label : order)
        for (int c = 0; c < model_->columnCount(); ++c)
            if (model_->head(c).section(" (", 0, 0) == label && header->visualIndex(c) >= place)
                header->moveSection(header->visualIndex(c), place++);
    if (order.isEmpty()) {
        for (const int c : usual_columns(lead_)) header->moveSection(header->visualIndex(c), place++);
    }
    const QFontMetrics letters(header->font());
    for (int c = 0; c < model_->columnCount(); ++c) {
        const QString label = model_->head(c).section(" (", 0, 0);
        const int wide = std::clamp(letters.horizontalAdvance(label) + 22, c == 0 ? 120 : 92, 170);
        for (QTableView* t : {held_, table_}) {
            t->setColumnHidden(c, hidden.contains(label));
            t->setColumnWidth(c, wide);
        }
    }
    laying_ = false;
    hold_columns(held_count_);
}

void Ledger::hold_columns(int count) {
    held_count_ = count;
    const QHeaderView* header = table_->horizontalHeader();
    int width = 0, place = 0;
    std::vector<int> order;
    for (int v = 0; v < header->count(); ++v) order.push_back(header->logicalIndex(v));
    for (const int c : order) {
        const bool off = held_->isColumnHidden(c) && table_->isColumnHidden(c);
        if (off) continue;
        const bool holds = place < count;
        ++place;
        held_->setColumnHidden(c, !holds);
        table_->setColumnHidden(c, holds);
        if (holds) width += held_->columnWidth(c);
    }
    held_->setFixedWidth(width + 1);
    held_->setVisible(count > 0);
    keep_layout();
}

void Ledger::keep_layout() {
    if (laying_ || table_->model() != model_) return;
    QStringList hidden, order;
    const QHeaderView* header = table_->horizontalHeader();
    for (int v = 0; v < header->count(); ++v) {
        const int c = header->logicalIndex(v);
        const QString label = model_->head(c).section(" (", 0, 0);
        order << label;
        if (held_->isColumnHidden(c) && table_->isColumnHidden(c)) hidden << label;
    }
    QSettings settings;
    const QString key = "ledger/columns/" + text(table_name(model_->kind()));
    settings.setValue(key + "/hidden", hidden);
    if (order == usual_order(lead_)) settings.remove(key + "/order");
    else settings.setValue(key + "/order", order);
    settings.setValue(key + "/held", held_count_);
}

std::vector<int> Ledger::shown_columns() const {
    std::vector<int> out;
    const QHeaderView* header = table_->horizontalHeader();
    for (int v = 0; v < header->count(); ++v)
        if (const int c = header->logicalIndex(v); !held_->isColumnHidden(c)) out.push_back(c);
    for (int v = 0; v < header->count(); ++v)
        if (const int c = header->logicalIndex(v); !table_->isColumnHidden(c)) out.push_back(c);
    return out;
}

void Ledger::columns_menu() {
    QMenu menu;
    for (int c = 0; c < model_->columnCount(); ++c) {
        QAction* a = menu.addAction(model_->head(c));
        a->setCheckable(true);
        a->setChecked(!(held_->isColumnHidden(c) && table_->isColumnHidden(c)));
        connect(a, &QAction::toggled, this, [this, c](bool on) {
            table_->setColumnHidden(c, !on);
            held_->setColumnHidden(c, true);
            hold_columns(held_count_);
        });
    }
    menu.exec(columns_->mapToGlobal(QPoint(0, columns_->height())));
}

void Ledger::head_menu(QTableView* view, const QPoint& at) {
    const int c = view->horizontalHeader()->logicalIndexAt(at);
    if (c < 0 || table_->model() != model_) return;
    QMenu menu;
    menu.addAction("Hide this column", this, [this, c] {
        table_->setColumnHidden(c, true);
        held_->setColumnHidden(c, true);
        hold_columns(held_count_);
    });
    const auto shown = shown_columns();
    const auto place = static_cast<int>(std::find(shown.begin(), shown.end(), c) - shown.begin());
    menu.addAction("Hold the columns up to this one", this, [this, place] { hold_columns(place + 1); });
    if (held_count_ > 0) menu.addAction("Hold none", this, [this] { hold_columns(0); });
    const Quantity q = model_->quantity_of(c);
    if (q != Quantity::None) {
        QMenu* units = menu.addMenu("Unit");
        const Unit now = model_->display(c);
        for (const Unit& u : units_of(q)) {
            QAction* a = units->addAction(text(u.symbol));
            a->setCheckable(true);
            a->setChecked(u.symbol == now.symbol);
            connect(a, &QAction::triggered, this,
                    [this, c, symbol = text(u.symbol)] { model_->set_display(c, symbol, -1); });
        }
        QMenu* digits = menu.addMenu("Digits");
        for (int d = 0; d <= 5; ++d) {
            QAction* a = digits->addAction(QString::number(d));
            a->setCheckable(true);
            a->setChecked(d == now.digits);
            connect(a, &QAction::triggered, this,
                    [this, c, d, symbol = text(now.symbol)] { model_->set_display(c, symbol, d); });
        }
        menu.addAction("As the project", this, [this, c] { model_->set_display(c, {}, -1); });
    }
    menu.exec(view->horizontalHeader()->mapToGlobal(at));
}

void Ledger::apply_filter() {
    filter_delay_.stop();
    const QString wrong =
        model_->set_filter(filter_->text(), static_cast<LedgerModel::Show>(verdicts_->currentIndex()));
    const bool some = !filter_->text().trimmed().isEmpty() || verdicts_->currentIndex() > 0;
    if (!wrong.isEmpty()) say(wrong, true);
    else say(some ? QString("%1 of %2 rows").arg(model_->rowCount()).arg(model_->all_rows()) : QString(), false);
}

void Ledger::follow_selection() {
    if (following_ || table_->model() != model_) return;
    if (document_.selected().kind != model_->kind()) {
        // What is no longer chosen is no longer marked, or the next change of the table would choose it again.
        following_ = true;
        if (is_drawn(model_->kind())) table_->clearSelection();
        following_ = false;
        return;
    }
    const int row = model_->row_of(document_.selected().id);
    if (row < 0) return;
    following_ = true;
    int column = table_->currentIndex().column();
    if (column < 0 || (table_->isColumnHidden(column) && held_->isColumnHidden(column)))
        column = shown_columns().empty() ? 0 : shown_columns().front();
    table_->setCurrentIndex(model_->index(row, column));
    if (const auto& all = document_.selection(); all.size() > 1 && all.size() <= most_selected) {
        QItemSelection marked;
        for (const ElementRef& e : all)
            if (const int r = e.kind == model_->kind() ? model_->row_of(e.id) : -1; r >= 0)
                marked.append(QItemSelectionRange(model_->index(r, column)));
        table_->selectionModel()->select(marked, QItemSelectionModel::ClearAndSelect);
    }
    table_->scrollTo(model_->index(row, column));
    following_ = false;
}

/// Several chosen rows are the window's selection too.
void Ledger::take_selection() {
    if (following_ || table_->model() != model_ || !is_drawn(model_->kind())) return;
    std::vector<int> rows;
    const QItemSelection selection = table_->selectionModel()->selection();
    for (const QItemSelectionRange& r : selection)
        for (int i = r.top(); i <= r.bottom() && rows.size() < most_selected; ++i) rows.push_back(i);
    std::sort(rows.begin(), rows.end());
    rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
    if (rows.size() < 2) return;
    std::vector<ElementRef> elements;
    for (const int r : rows) elements.push_back({model_->kind(), model_->id_of(r)});
    following_ = true;
    document_.select(std::move(elements));
    following_ = false;
}

void Ledger::say(const QString& t, bool wrong) {
    said_->setText(t);
    said_->setVisible(!t.isEmpty());
    said_->setStyleSheet(QString("color:%1").arg((wrong ? theme().beyond : theme().quiet).name()));
}

bool Ledger::paste_rain(const QString& pasted) {
    const RainTable t = read_rain_table(plain(pasted), document_.units());
    if (!t.ok) {
        QString why;
        for (const RainTableProblem& p : t.problems) {
            if (why.size() > 300) {
                why += " …";
                break;
            }
            why +=
                (why.isEmpty() ? "" : "  ") + QString("Row %1, column %2: ").arg(p.row).arg(p.column) + text(p.message);
        }
        say("Nothing was changed. " + why, true);
        return false;
    }
    document_.commit(rain_edit(document_.project(), t));
    say("Read " + text(t.understood) + ".", false);
    return true;
}

bool Ledger::eventFilter(QObject* watched, QEvent* event) {
    if ((watched == table_ || watched == held_) && event->type() == QEvent::ShortcutOverride) {
        // In a table letters begin an entry and Delete empties cells; they are not the plan's tools there.
        auto* key = static_cast<QKeyEvent*>(event);
        const bool plain_key = !(key->modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier));
        if (plain_key && (key->key() == Qt::Key_Delete || (!key->text().isEmpty() && key->text()[0].isPrint()))) {
            event->accept();
            return true;
        }
    }
    if ((watched == table_ || watched == held_) && event->type() == QEvent::KeyPress) {
        auto* key = static_cast<QKeyEvent*>(event);
        if (key->matches(QKeySequence::Paste)) {
            paste(QApplication::clipboard()->text());
            return true;
        }
        if (key->matches(QKeySequence::Copy) ||
            (key->key() == Qt::Key_C && key->modifiers() == (Qt::ControlModifier | Qt::ShiftModifier))) {
            QApplication::clipboard()->setText(copied(key->modifiers() & Qt::ShiftModifier));
            return true;
        }
        if (table_->model() == model_ && key->key() == Qt::Key_Delete && key->modifiers() == Qt::NoModifier) {
            clear_chosen();
            return true;
        }
        if (table_->model() == model_ && key->key() == Qt::Key_D && key->modifiers() == Qt::ControlModifier) {
            fill_down();
            return true;
        }
        if (table_->model() == model_ && key->key() == Qt::Key_Delete && key->modifiers() == Qt::ControlModifier) {
            delete_rows();
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

}  // namespace culvert::app
