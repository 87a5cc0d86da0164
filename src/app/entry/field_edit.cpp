// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/entry/field_edit.h"

#include <QCompleter>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QRegularExpression>
#include <QShortcut>
#include <QStringListModel>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/model/cells.h"
#include "core/model/way_back.h"
#include "exchange/paste_table.h"

namespace culvert::app {

FieldEdit::FieldEdit(Document& document, Kind kind, std::uint64_t id, std::string_view key, QWidget* parent)
    : QWidget(parent),
      document_(document),
      kind_(kind),
      id_(id),
      field_(field_index(kind, key).value()),
      info_(infos_of(kind)[field_]) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(1);
    auto* row = new QHBoxLayout;
    row->setSpacing(6);
    auto* label = label_ = new QLabel(text(info_->label));
    label->setStyleSheet(QString("color:%1").arg(theme().quiet.name()));
    label->setMinimumWidth(96);
    row->addWidget(label, 1);
    const QString object = "field-" + text(table_name(kind)) + "-" + text(key);
    if (!info_->choices.empty()) {
        combo_ = new QComboBox;
        for (const auto& c : info_->choices) combo_->addItem(text(c));
        combo_->setObjectName(object);
        combo_->setToolTip(text(info_->help));
        combo_->setAccessibleName(text(info_->label));
        combo_->setFocusPolicy(Qt::StrongFocus);
        label->setBuddy(combo_);
        row->addWidget(combo_, 0);
        combo_->setFixedWidth(116);
        connect(combo_, &QComboBox::activated, this, [this](int index) { put(index); });
    } else {
        line_ = new QLineEdit;
        line_->setObjectName(object);
        line_->setToolTip(text(info_->help));
        line_->setAccessibleName(text(info_->label));
        line_->setFixedWidth(116);
        if (info_->quantity != Quantity::None) line_->setAlignment(Qt::AlignRight);
        label->setBuddy(line_);
        line_->installEventFilter(this);
        row->addWidget(line_, 0);
        connect(line_, &QLineEdit::returnPressed, this, &FieldEdit::accept);
        if (!offered().isEmpty()) offer();
    }
    back_ = new QToolButton;
    back_->setIcon(QIcon(icon_pixmap("back", 14, theme().quiet, devicePixelRatioF())));
    back_->setAutoRaise(true);
    back_->setStyleSheet("QToolButton{padding:0;border:none}");
    back_->setFixedSize(18, 22);
    back_->setFocusPolicy(Qt::TabFocus);
    back_->setAccessibleName("Back to its origin: " + text(info_->label));
    back_->setObjectName("back-" + text(key));
    QSizePolicy keeps = back_->sizePolicy();
    keeps.setRetainSizeWhenHidden(true);
    back_->setSizePolicy(keeps);
    row->addWidget(back_);
    connect(back_, &QToolButton::clicked, this, &FieldEdit::go_back);
    column->addLayout(row);
    note_ = new QLabel;
    note_->setWordWrap(true);
    note_->setFont(lettering(8.5));
    note_->hide();
    column->addWidget(note_);
    refresh();
}

/// What the project knows for a field of words: types and materials of its catalogue, groups that are in use.
QStringList FieldEdit::offered() const {
    const Project& p = document_.project();
    QStringList list;
    const auto add = [&list](const std::string& word) {
        if (!word.empty() && !list.contains(text(word))) list << text(word);
    };
    if (info_->key == "type" || info_->key == "default_type")
        for (const StructureType& t : p.structure_types) add(t.name);
    if (info_->key == "material" || info_->key == "default_material")
        for (const PipeSize& size : p.sizes) add(size.material);
    if (std::holds_alternative<bool>(value()))
        list << "yes"
             << "no";
    const auto names = [&](const auto& table) {
        for (const auto& row : table)
            if (list.size() < 500) add(row.name);
    };
    if (info_->refers_to == Refers::Structure) names(p.structures);
    if (info_->refers_to == Refers::Catchment) names(p.catchments);
    if (info_->refers_to == Refers::Street) names(p.streets);
    if (info_->refers_to == Refers::Event) names(p.events);
    if (info_->key == "behind")
        if (const PondOutlet* self = kind_ == Kind::PondOutlet ? p.outlets.find(id_) : nullptr)
            for (const PondOutlet& row : p.outlets)
                if (row.structure == self->structure && row.id != self->id && row.behind.empty()) add(row.name);
    if (info_->key == "group") {
        for (const Structure& row : p.structures) add(row.group);
        for (const Pipe& row : p.pipes) add(row.group);
    }
    return list;
}

/// A list that also takes typing: the mark at the end of the line, or the Down key, opens it.
void FieldEdit::offer() {
    auto* list = new QStringListModel(offered(), line_);
    auto* completer = new QCompleter(list, line_);
    completer->setCaseSensitivity(Qt::CaseInsensitive);
    completer->setFilterMode(Qt::MatchContains);
    line_->setCompleter(completer);
    QAction* open = line_->addAction(QIcon(":/chevron.svg"), QLineEdit::TrailingPosition);
    open->setToolTip("Choose from those there are");
    const auto show = [this, list, completer] {
        list->setStringList(offered());
        completer->setCompletionPrefix({});
        completer->complete();
    };
    connect(open, &QAction::triggered, this, show);
    auto* down = new QShortcut(Qt::Key_Down, line_, show);
    down->setContext(Qt::WidgetShortcut);
    connect(completer, QOverload<const QString&>::of(&QCompleter::activated), this, [this](const QString& chosen) {
        line_->setText(chosen);
        line_->setModified(true);
        accept();
    });
}

Value FieldEdit::value() const { return value_of(document_.project(), kind_, id_, field_); }
Origin FieldEdit::origin() const { return origin_of(document_.project(), kind_, id_, field_); }
Quantity FieldEdit::quantity() const {
    if (kind_ == Kind::Limit && info_->key == "value")
        if (const Limit* l = document_.project().limits.find(id_)) return limit_quantity(l->kind);
    return info_->quantity;
}

double FieldEdit::ground() const {
    if (kind_ != Kind::Structure) return not_given;
    const Structure* s = document_.project().structures.find(id_);
    return s ? document_.ground_level({s->x, s->y}) : not_given;
}
void FieldEdit::go_back() {
    if (auto way = way_back(document_.project(), kind_, id_, info_->key, ground()))
        document_.commit(std::move(way->edit));
}

void FieldEdit::refresh() {
    const Value v = value();
    const Origin from = origin();
    const bool may =
        from == Origin::Typed || from == Origin::Imported || (from == Origin::Default && info_->key == "rim");
    const auto way = may ? way_back(document_.project(), kind_, id_, info_->key, ground(), false) : std::nullopt;
    back_->setVisible(way.has_value());
    if (way) back_->setToolTip("Back to " + text(way->text));
    if (combo_) {
        combo_->setCurrentIndex(std::get<int>(v));
        return;
    }
    QString shown;
    if (const double* number = std::get_if<double>(&v)) shown = text(document_.units().entry(*number, quantity()));
    else if (const std::string* s = std::get_if<std::string>(&v)) shown = text(*s);
    else if (const bool* yes = std::get_if<bool>(&v)) shown = *yes ? "yes" : "no";
    else if (std::holds_alternative<std::uint64_t>(v)) shown = text(cell_text(document_.project(), kind_, id_, field_));
    else if (const auto* list = std::get_if<std::vector<double>>(&v))
        for (const double x : *list)
            shown += (shown.isEmpty() ? "" : "  ") + text(document_.units().entry(x, quantity()));
    if (line_->hasFocus() && line_->isModified() && line_->text() != shown_) return;  // what is being typed stays
    shown_ = shown;
    if (line_->text() != shown) {
        line_->setText(shown);
        line_->setCursorPosition(0);
    }
    line_->setModified(false);
    constexpr const char* origins[] = {"default",  "typed",   "from the ground", "from the catalogue",
                                       "imported", "proposed"};
    const bool end = kind_ == Kind::Pipe && (info_->key == "invert_from" || info_->key == "invert_to");
    line_->setToolTip(text(info_->help) + "\nOrigin: " + origins[static_cast<std::size_t>(from)] +
                      (!end                      ? ""
                       : from == Origin::Default ? ": it follows its structure"
                                                 : ": it is pinned and stays"));
    const bool given = from == Origin::Typed || from == Origin::Imported;
    // A style sheet is read anew each time it is set: only where it says something else.
    const QString style = given ? QString() : QString("QLineEdit{color:%1}").arg(theme().quiet.name());
    if (line_->styleSheet() != style) line_->setStyleSheet(style);
}

void FieldEdit::say(const QString& t, bool wrong) {
    note_->setVisible(!t.isEmpty());
    note_->setText(t);
    const QString style = QString("color:%1").arg((wrong ? theme().beyond : theme().near).name());
    if (note_->styleSheet() != style) note_->setStyleSheet(style);
}

void FieldEdit::put(Value v) {
    Edit edit;
    if (make_ && !has_row(document_.project(), kind_, id_)) edit = make_(std::move(v));
    else {
        Editing e(document_.project(),
                  std::string(info_->label) + " of " + element_name(document_.project(), kind_, id_));
        e.set(kind_, id_, info_->key, std::move(v));
        edit = e.take();
    }
    say({}, false);
    if (line_) line_->setModified(false);
    document_.commit(std::move(edit));
}

void FieldEdit::accept() {
    if (!line_ || line_->text() == shown_) {
        say({}, false);
        return;
    }
    const QString typed = line_->text().trimmed();
    const Value present = value();
    if (std::holds_alternative<std::string>(present)) {
        if (info_->key == "name" && kind_ == Kind::Structure && typed.isEmpty()) {
            say("A structure needs a name.", true);
            return;
        }
        if (info_->key == "name" && !typed.isEmpty()) {
            if (name_taken(document_.project(), kind_, plain(typed), id_)) {
                say("\"" + typed + "\" is already the name of another " + text(kind_name(kind_)) + ".", true);
                return;
            }
        }
        put(plain(typed));
        return;
    }
    if (std::holds_alternative<std::vector<double>>(present)) {
        accept_list(typed);
        return;
    }
    if (std::holds_alternative<bool>(present) || std::holds_alternative<std::uint64_t>(present)) {
        const CellValue cell = read_cell(document_.project(), kind_, id_, field_, plain(typed));
        if (!cell.ok) return say(text(cell.error) + ".", true);
        put(cell.value);
        refresh();
        return;
    }
    if (typed.isEmpty()) {
        if (info_->needed) {
            say("A value is needed: " + text(info_->help) + ".", true);
            return;
        }
        put(not_given);
        return;
    }
    const Entry entry = read_entry(plain(typed), quantity(), document_.units(), info_->scale);
    if (!entry.ok) {
        say(text(entry.error) + ".", true);
        return;
    }
    const FieldInfo range = info_of(document_.project(), kind_, id_, *field_index(kind_, info_->key));
    double accepted = entry.value;
    // A value out of scale asks for its unit, unless neither reading can be right.
    if (!entry.question.empty() && (in_range(range, accepted) || in_range(range, entry.alternative))) {
        if (asked_ != typed) {  // ask once; Enter again takes what the question offers
            asked_ = typed;
            say(text(entry.question) + " Enter takes that; write the unit for another.", false);
            return;
        }
        accepted = entry.alternative;
    }
    asked_.clear();
    if (const std::string fault = range_fault(range, accepted, document_.units()); !fault.empty()) {
        say(text(info_->label) + " " + text(fault) + ".", true);
        return;
    }
    put(accepted);
    refresh();
}

/// Several numbers, parted by spaces, semicolons or tabs as a column of a spreadsheet is.
void FieldEdit::accept_list(const QString& typed) {
    std::vector<double> list;
    for (const QString& word : typed.split(QRegularExpression("[\\s;]+"), Qt::SkipEmptyParts)) {
        const Entry entry = read_entry(plain(word), quantity(), document_.units());
        const std::string fault = entry.ok ? range_fault(*info_, entry.value, document_.units()) : entry.error;
        if (!fault.empty()) {
            say("\"" + word + "\": " + text(fault) + ".", true);
            return;
        }
        list.push_back(entry.value);
    }
    put(list);
    refresh();
}

bool FieldEdit::eventFilter(QObject* watched, QEvent* event) {
    if (watched == line_) {
        if (event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape &&
            line_->text() != shown_) {
            line_->setText(shown_);
            line_->setModified(false);
            say({}, false);
            return true;
        }
        if (event->type() == QEvent::FocusIn)
            QMetaObject::invokeMethod(line_, &QLineEdit::selectAll, Qt::QueuedConnection);
        if (event->type() == QEvent::FocusOut && line_->text() != shown_) accept();
    }
    return QWidget::eventFilter(watched, event);
}

}  // namespace culvert::app
