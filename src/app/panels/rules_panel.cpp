// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/panels/rules_panel.h"
#include "app/desk/text.h"

#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QScrollArea>
#include <QStandardPaths>
#include <cmath>
#include <map>

#include "app/kit/theme.h"
#include "app/kit/when_seen.h"
#include "core/base/words.h"
#include "core/design/layout.h"

namespace culvert::app {
namespace {

QPushButton* button(const QString& words, const QString& name, const QString& tip) {
    auto* b = new QPushButton(words);
    b->setObjectName(name);
    b->setToolTip(tip);
    return b;
}
QLabel* heading(const QString& words) {
    auto* l = new QLabel(words);
    l->setFont(lettering(9.5, true));
    return l;
}
void plain_table(QTableWidget* t, const QString& name) {
    t->setAccessibleName(name);
    t->verticalHeader()->hide();
    t->verticalHeader()->setDefaultSectionSize(24);
    t->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
}

}  // namespace

RulesPanel::RulesPanel(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(8, 4, 8, 4);
    list_ = new QListWidget;
    list_->setAccessibleName("Rules");
    list_->addItems({"Defaults", "Limits", "Criteria sets", "Library", "Exchange kinds", "Runoff"});
    list_->setFixedWidth(112);
    row->addWidget(list_);
    auto* column = new QVBoxLayout;
    row->addLayout(column, 1);
    pages_ = new QStackedWidget;
    column->addWidget(pages_, 1);
    said_ = new QLabel;
    said_->setWordWrap(true);
    said_->hide();
    column->addWidget(said_);
    pages_->addWidget(defaults_page());
    pages_->addWidget(limits_page());
    pages_->addWidget(criteria_page());
    pages_->addWidget(library_page());
    pages_->addWidget(swaps_page());
    pages_->addWidget(settings_page(
        {{"Runoff",
          {"runoff_by", "travel_by", "computing_step", "output_interval", "after_rain", "storm_by", "storm_length",
           "storm_peak"}},
         {"Ground",
          {"losses", "curve_number", "initial_share", "paved_storage", "peak_factor", "initial_loss", "loss_rate"}},
         {"Other losses, ponds",
          {"loss_share", "first_rate", "decay_time", "front_head", "release_cut", "least_freeboard",
           "most_drawdown"}}}));
    connect(list_, &QListWidget::currentRowChanged, this, [this](int i) {
        pages_->setCurrentIndex(std::max(0, i));
        say({});
        refresh();
    });
    list_->setCurrentRow(0);
    auto* seen = new WhenSeen(this, [this] { refresh(); });
    connect(&document_, &Document::changed, this, [seen] { (*seen)(); });
    connect(&document_, &Document::selection_changed, this, [seen] { (*seen)(); });
}

void RulesPanel::show_page(int page) { list_->setCurrentRow(page); }
FieldEdit* RulesPanel::field(const char* key) const {
    for (FieldEdit* f : fields_)
        if (f->info().key == key) return f;
    return nullptr;
}
void RulesPanel::say(const QString& words, bool wrong) {
    said_->setText(words);
    said_->setVisible(!words.isEmpty());
    said_->setStyleSheet(QString("color:%1").arg((wrong ? theme().beyond : theme().quiet).name()));
}

QWidget* RulesPanel::defaults_page() {
    return settings_page(
        {{"New structures", {"default_kind", "default_type", "level_surface", "default_rim", "default_drop"}},
         {"New pipes",
          {"default_material", "default_size", "default_slope", "default_cover", "length_basis", "matching"}},
         {"Names and prices",
          {"name_pattern", "pipe_pattern", "first_number", "excavation_price", "pipe_price", "coordinates"}}});
}

/// Settings of the project, column by column.
QWidget* RulesPanel::settings_page(const std::vector<SettingsPart>& parts) {
    auto* page = new QWidget;
    auto* grid = new QGridLayout(page);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(2);
    grid->setVerticalSpacing(3);
    for (std::size_t c = 0; c < parts.size(); ++c) {
        grid->addWidget(heading(parts[c].title), 0, static_cast<int>(c));
        for (std::size_t r = 0; r < parts[c].keys.size(); ++r) {
            auto* f = new FieldEdit(document_, Kind::Settings, settings_id, parts[c].keys[r]);
            fields_.push_back(f);
            grid->addWidget(f, static_cast<int>(r) + 1, static_cast<int>(c), Qt::AlignTop);
        }
    }
    grid->setRowStretch(9, 1);
    auto* scroll = new QScrollArea;
    scroll->setWidget(page);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    return scroll;
}

QWidget* RulesPanel::limits_page() {
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    limits_ = new QTableWidget(0, 6);
    limits_->setHorizontalHeaderLabels({"Held", "Limit", "Value", "For", "Source", "Events"});
    plain_table(limits_, "Limits");
    limits_->setColumnWidth(0, 50);
    limits_->setColumnWidth(1, 180);
    limits_->setColumnWidth(2, 110);
    limits_->setColumnWidth(3, 130);
    limits_->setColumnWidth(4, 160);
    limits_->setColumnWidth(5, 120);
    limits_->horizontalHeader()->moveSection(5, 4);
    limits_->horizontalHeader()->setStretchLastSection(true);
    column->addWidget(limits_, 1);
    connect(limits_, &QTableWidget::itemChanged, this, [this](QTableWidgetItem* item) {
        if (filling_) return;
        const std::uint64_t id = limits_->item(item->row(), 0)->data(Qt::UserRole).toULongLong();
        const Limit* l = document_.project().limits.find(id);
        if (!l) return;
        Editing e(document_.project(), "Limit " + std::string(limit_names()[static_cast<std::size_t>(l->kind)]));
        if (item->column() == 0) e.set(Kind::Limit, id, "active", item->checkState() == Qt::Checked);
        else if (item->column() == 2) {
            const Entry entry = read_entry(plain(item->text()), limit_quantity(l->kind), document_.units());
            if (!entry.ok) {
                say(text(entry.error) + ".", true);
                QMetaObject::invokeMethod(this, &RulesPanel::refresh_limits, Qt::QueuedConnection);
                return;
            }
            e.set(Kind::Limit, id, "value", entry.value);
        } else if (item->column() == 4) e.set(Kind::Limit, id, "source", plain(item->text().trimmed()));
        say({});
        QMetaObject::invokeMethod(
            this, [this, edit = e.take()] { document_.commit(edit); }, Qt::QueuedConnection);
    });
    auto* row = new QHBoxLayout;
    row->addWidget(new QLabel("Exception:"));
    exception_kind_ = new QComboBox;
    exception_kind_->setAccessibleName("Limit of the exception");
    for (const auto& n : limit_names()) exception_kind_->addItem(text(n));
    row->addWidget(exception_kind_);
    exception_for_ = new QComboBox;
    exception_for_->setEditable(true);
    exception_for_->setObjectName("exception-for");
    exception_for_->setAccessibleName("Group or selection");
    exception_for_->setToolTip("The selected elements, or all elements of a group: write its name");
    exception_for_->setMinimumWidth(150);
    row->addWidget(exception_for_);
    auto* add = button("Add", "add-exception", "A limit of their own, with the project's value to begin with");
    connect(add, &QPushButton::clicked, this, &RulesPanel::add_exception);
    row->addWidget(add);
    auto* drop = button("Delete", "delete-exception",
                        "Deletes the chosen exceptions; the project's limits are switched off, not deleted");
    connect(drop, &QPushButton::clicked, this, [this] {
        Editing e(document_.project(), "Delete exceptions");
        for (const QModelIndex& i : limits_->selectionModel()->selectedIndexes()) {
            const std::uint64_t id = limits_->item(i.row(), 0)->data(Qt::UserRole).toULongLong();
            const Limit* l = document_.project().limits.find(id);
            if (l && (l->element || !l->group.empty())) e.remove(Kind::Limit, id);
        }
        document_.commit(e.take());
    });
    row->addWidget(drop);
    row->addStretch(1);
    column->addLayout(row);
    return page;
}

void RulesPanel::add_exception() {
    const auto kind = static_cast<LimitKind>(exception_kind_->currentIndex());
    const Limit* base = find_limit(document_.project(), kind, 0);
    const QString what = exception_for_->currentText().trimmed();
    Editing e(document_.project(), "Exception: " + std::string(limit_names()[static_cast<std::size_t>(kind)]));
    const auto make = [&](std::uint64_t element, const std::string& group) {
        Limit l;
        l.kind = kind;
        l.value = base ? base->value : 0;
        if (base) l.system = base->system;
        l.element = element;
        l.group = group;
        e.insert(l);
    };
    if (what == "selected elements" || what.isEmpty()) {
        for (const ElementRef s : document_.selection())
            if (s.kind == Kind::Pipe || s.kind == Kind::Structure) make(s.id, {});
    } else make(0, plain(what));
    Edit edit = e.take();
    if (edit.empty()) {
        say("Select pipes or structures first, or write the name of a group.", true);
        return;
    }
    document_.commit(std::move(edit));
}

void RulesPanel::refresh_limits() {
    filling_ = true;
    const Project& p = document_.project();
    const UnitSet u = document_.units();
    std::vector<const Limit*> rows;
    for (const Limit& l : p.limits) rows.push_back(&l);
    std::sort(rows.begin(), rows.end(), [](const Limit* a, const Limit* b) {
        return std::tuple(a->kind, a->element != 0, a->group, a->element) <
               std::tuple(b->kind, b->element != 0, b->group, b->element);
    });
    limits_->setRowCount(static_cast<int>(rows.size()));
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const Limit& l = *rows[i];
        const int r = static_cast<int>(i);
        auto* held = new QTableWidgetItem;
        held->setFlags(Qt::ItemIsEnabled | Qt::ItemIsUserCheckable | Qt::ItemIsSelectable);
        held->setCheckState(l.active ? Qt::Checked : Qt::Unchecked);
        held->setData(Qt::UserRole, QVariant::fromValue<qulonglong>(l.id));
        held->setToolTip("Whether the limit is held");
        limits_->setItem(r, 0, held);
        auto* name = new QTableWidgetItem(text(limit_names()[static_cast<std::size_t>(l.kind)]));
        name->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
        limits_->setItem(r, 1, name);
        auto* value = new QTableWidgetItem(text(u.entry(l.value, limit_quantity(l.kind))));
        value->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        value->setToolTip("Double click to change");
        limits_->setItem(r, 2, value);
        QString of = "the project";
        if (l.element) of = text(element_name(p, p.pipes.find(l.element) ? Kind::Pipe : Kind::Structure, l.element));
        else if (!l.group.empty()) of = "group " + text(l.group);
        auto* who = new QTableWidgetItem(of);
        who->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
        if (l.element || !l.group.empty()) who->setFont(lettering(9, true));
        limits_->setItem(r, 3, who);
        limits_->setItem(r, 4, new QTableWidgetItem(text(l.source)));
        auto* events = new QComboBox;
        events->setAccessibleName("Events that the limit holds in");
        events->setToolTip("All events, those up to the minor system's design event, or the rarer ones");
        for (const auto& choice : infos_of(Kind::Limit)[*field_index(Kind::Limit, "system")]->choices)
            events->addItem(text(choice));
        events->setCurrentIndex(number_of(l.system));
        connect(events, &QComboBox::activated, this, [this, id = l.id](int choice) {
            Editing e(document_.project(), "Events of a limit");
            e.set(Kind::Limit, id, "system", static_cast<EventRole>(choice));
            QMetaObject::invokeMethod(
                this, [this, edit = e.take()] { document_.commit(edit); }, Qt::QueuedConnection);
        });
        limits_->setCellWidget(r, 5, events);
    }
    QStringList known{"selected elements"};
    for (const Structure& s : p.structures)
        if (!s.group.empty() && !known.contains(text(s.group))) known << text(s.group);
    for (const Pipe& s : p.pipes)
        if (!s.group.empty() && !known.contains(text(s.group))) known << text(s.group);
    QStringList present;
    for (int i = 0; i < exception_for_->count(); ++i) present << exception_for_->itemText(i);
    if (present != known) {
        exception_for_->clear();
        exception_for_->addItems(known);
    }
    filling_ = false;
}

QWidget* RulesPanel::criteria_page() {
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    criteria_name_ = new QLabel;
    criteria_name_->setWordWrap(true);
    column->addWidget(criteria_name_);
    criteria_list_ = new QListWidget;
    criteria_list_->setAccessibleName("What the set would change");
    column->addWidget(criteria_list_, 1);
    auto* row = new QHBoxLayout;
    auto* load = button("Load a set …", "load-criteria",
                        "Reads limits and method settings from a file and shows what would change");
    connect(load, &QPushButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(
            this, "Load a criteria set", {}, "Criteria sets and projects (*.criteria *.culvert);;All files (*)");
        if (!path.isEmpty()) load_criteria(path);
    });
    auto* take = button("Show it on the project", "take-criteria",
                        "Tries the set on the project, with all findings, before it is taken");
    connect(take, &QPushButton::clicked, this, &RulesPanel::accept_criteria);
    auto* named = new QHBoxLayout;
    const std::tuple<QLineEdit**, const char*, const char*> lines[] = {
        {&set_name_, "Name of a set to save", "What the set is called"},
        {&set_version_, "Version", "Its version; the day where none is given"},
        {&set_source_, "Source", "Whose rules they are, and where they are written"}};
    for (const auto& [line, words, tip] : lines) {
        *line = new QLineEdit;
        (*line)->setPlaceholderText(words);
        (*line)->setAccessibleName(words);
        (*line)->setToolTip(tip);
        named->addWidget(*line);
    }
    column->addLayout(named);
    auto* save = button("Save as a set …", "save-criteria",
                        "Writes the project's limits and method settings, with a name, a version and a source");
    connect(save, &QPushButton::clicked, this, [this] {
        QString path =
            QFileDialog::getSaveFileName(this, "Save a criteria set", "rules.criteria", "Criteria sets (*.criteria)");
        if (path.isEmpty()) return;
        if (!path.endsWith(".criteria")) path += ".criteria";
        const QString known = text(document_.project().settings().criteria).section(", ", 0, 0);
        const auto or_else = [](const QLineEdit* line, const QString& otherwise) {
            return line->text().trimmed().isEmpty() ? otherwise : line->text().trimmed();
        };
        save_criteria(path, or_else(set_name_, known.isEmpty() ? QFileInfo(path).completeBaseName() : known),
                      or_else(set_version_, QDate::currentDate().toString(Qt::ISODate)),
                      or_else(set_source_, text(document_.project().settings().title)));
    });
    for (auto* b : {load, take, save}) row->addWidget(b);
    row->addStretch(1);
    column->addLayout(row);
    return page;
}

void RulesPanel::load_criteria(const QString& path) {
    ReadOutcome read = load_project(plain(path));
    if (!read.ok) {
        QString why;
        for (const ReadProblem& p : read.problems)
            why += (why.isEmpty() ? "" : " ") + text(sentences(p.message, p.remedy));
        say(QFileInfo(path).fileName() + ": " + why, true);
        return;
    }
    criteria_ = std::move(read.project);
    criteria_list_->clear();
    for (const std::string& line : criteria_differences(document_.project(), *criteria_))
        criteria_list_->addItem(text(line));
    if (criteria_list_->count() == 0) criteria_list_->addItem("The project keeps this set already.");
    const Settings& s = criteria_->settings();
    say("\"" + text(s.criteria.empty() ? s.title : s.criteria) + "\"" +
        (s.note.empty() ? QString() : " after " + text(s.note)) + ": what it would change is listed.");
    show_page(2);
    refresh();
}
bool RulesPanel::save_criteria(const QString& path, const QString& name, const QString& version,
                               const QString& source) {
    const Project set = criteria_of(document_.project(), plain(name), plain(version), plain(source));
    const SaveOutcome out = save_project(set, plain(path));
    say(out.ok ? "Saved " + QFileInfo(path).fileName() + "." : "Not saved: " + text(out.error) + ".", !out.ok);
    return out.ok;
}
void RulesPanel::accept_criteria() {
    if (!criteria_) {
        say("Load a set first.", true);
        return;
    }
    Edit edit = criteria_edit(document_.project(), *criteria_);
    if (edit.empty()) {
        say("The project keeps this set already.");
        return;
    }
    emit preview_wanted("criteria set " + text(criteria_->settings().criteria), std::move(edit));
}

QString RulesPanel::library_path() {
    return QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) + "/calm-culvert/library.culvert";
}

QWidget* RulesPanel::library_page() {
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    library_text_ = new QLabel;
    library_text_->setWordWrap(true);
    column->addWidget(library_text_);
    auto* row = new QHBoxLayout;
    const std::tuple<const char*, const char*, const char*, std::function<void()>> actions[] = {
        {"Bring in the catalogue", "library-in",
         "Sizes and structure types of your library, shown before they are taken", [this] { bring_in(false); }},
        {"Bring in the rain", "library-rain-in", "Rain events of your library, shown before they are taken",
         [this] { bring_in(true); }},
        {"Put this catalogue into the library", "library-out", "Your library takes the sizes and types of this project",
         [this] { put_into_library(false); }},
        {"Put this rain into the library", "library-rain-out", "Your library takes the rain events of this project",
         [this] { put_into_library(true); }}};
    for (const auto& [words, name, tip, run] : actions) {
        auto* b = button(words, name, tip);
        connect(b, &QPushButton::clicked, this, run);
        row->addWidget(b);
    }
    row->addStretch(1);
    column->addLayout(row);
    auto* edit_row = new QHBoxLayout;
    for (const auto& [words, kind] :
         {std::pair{"Edit the sizes", Kind::Size}, {"Edit the structure types", Kind::StructureType}}) {
        auto* b = button(words, QString("edit-") + text(table_name(kind)),
                         "Opens them in the ledger, where rows can be added and deleted");
        connect(b, &QPushButton::clicked, this, [this, k = kind] { emit ledger_wanted(k); });
        edit_row->addWidget(b);
    }
    edit_row->addStretch(1);
    column->addLayout(edit_row);
    column->addStretch(1);
    return page;
}

void RulesPanel::bring_in(bool rain) {
    const ReadOutcome read = load_project(plain(library_path()));
    if (!read.ok) {
        say(QFileInfo::exists(library_path())
                ? "The library cannot be read: " +
                      text(read.problems.empty() ? std::string("unknown form") : read.problems[0].message) + "."
                : QString("There is no library yet: put a project's catalogue into it first."),
            true);
        return;
    }
    const LibraryParts parts{!rain, !rain, rain};
    Edit edit = library_edit(document_.project(), read.project, parts);
    if (edit.empty()) {
        say("The project has all of it already.");
        return;
    }
    QString words;
    const auto lines = in_words(document_.project(), edit, 6);
    for (const std::string& l : lines) words += (words.isEmpty() ? "" : "; ") + text(l);
    emit preview_wanted(words, std::move(edit));
}
void RulesPanel::put_into_library(bool rain) {
    QDir().mkpath(QFileInfo(library_path()).absolutePath());
    Project library;
    library.settings_rows.change(settings_id)->title = "Library";
    if (QFileInfo::exists(library_path())) {
        ReadOutcome read = load_project(plain(library_path()));
        if (!read.ok) {
            say("The library cannot be read, and is left alone: " + library_path(), true);
            return;
        }
        library = std::move(read.project);
    }
    const SaveOutcome out =
        save_project(library_with(library, document_.project(), {!rain, !rain, rain}), plain(library_path()));
    say(out.ok ? "Your library has it: " + library_path() : "Not saved: " + text(out.error) + ".", !out.ok);
    refresh();
}

QWidget* RulesPanel::swaps_page() {
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, 0, 0);
    auto* label = new QLabel(
        "Each kind that is in use, and what it is to become. With several elements selected only they change.");
    label->setWordWrap(true);
    column->addWidget(label);
    swaps_ = new QTableWidget(0, 4);
    swaps_->setHorizontalHeaderLabels({"", "In use", "Elements", "Becomes"});
    plain_table(swaps_, "Exchange of kinds");
    swaps_->setColumnWidth(0, 110);
    swaps_->setColumnWidth(1, 190);
    swaps_->setColumnWidth(2, 80);
    swaps_->horizontalHeader()->setStretchLastSection(true);
    column->addWidget(swaps_, 1);
    auto* go =
        button("Show the exchange", "show-swap", "Shows what would change, with all findings, before it is taken");
    connect(go, &QPushButton::clicked, this, &RulesPanel::swap);
    column->addWidget(go, 0, Qt::AlignLeft);
    return page;
}

void RulesPanel::refresh_swaps() {
    const Project& p = document_.project();
    std::map<std::string, int> types, materials;
    for (const Structure& s : p.structures) ++types[s.type];
    for (const Pipe& pipe : p.pipes) ++materials[pipe.material];
    std::map<std::pair<bool, std::string>, QString> chosen;
    for (int r = 0; r < swaps_->rowCount(); ++r)
        if (const auto* box = qobject_cast<QComboBox*>(swaps_->cellWidget(r, 3)))
            chosen[{swaps_->item(r, 0)->text() == "structures",
                    plain(swaps_->item(r, 1)->data(Qt::UserRole).toString())}] = box->currentText();
    QStringList type_names, material_names;
    for (const StructureType& t : p.structure_types) type_names << text(t.name);
    for (const PipeSize& s : p.sizes)
        if (!material_names.contains(text(s.material))) material_names << text(s.material);
    type_names.sort();
    material_names.sort();
    swaps_->setRowCount(0);
    const auto add = [&](bool structures, const std::string& from, int count, const QStringList& to) {
        const int r = swaps_->rowCount();
        swaps_->insertRow(r);
        const QString cells[] = {structures ? "structures" : "pipes", from.empty() ? "without a type" : text(from),
                                 QString::number(count)};
        for (int c = 0; c < 3; ++c) {
            auto* item = new QTableWidgetItem(cells[c]);
            item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
            item->setData(Qt::UserRole, text(from));
            swaps_->setItem(r, c, item);
        }
        auto* box = new QComboBox;
        box->addItem("stays");
        box->addItems(to);
        box->setAccessibleName("Becomes");
        if (const auto was = chosen.find({structures, from}); was != chosen.end()) box->setCurrentText(was->second);
        swaps_->setCellWidget(r, 3, box);
    };
    for (const auto& [name, count] : types) add(true, name, count, type_names);
    for (const auto& [name, count] : materials) add(false, name, count, material_names);
}

void RulesPanel::swap() {
    std::vector<Swap> types, materials;
    for (int r = 0; r < swaps_->rowCount(); ++r) {
        const auto* box = qobject_cast<QComboBox*>(swaps_->cellWidget(r, 3));
        if (!box || box->currentIndex() <= 0) continue;
        (swaps_->item(r, 0)->text() == "structures" ? types : materials)
            .push_back({plain(swaps_->item(r, 1)->data(Qt::UserRole).toString()), plain(box->currentText())});
    }
    // One selected element is where the eye is, not a choice: only several of them narrow the exchange.
    const auto few = document_.selection().size() > 1 ? document_.selection() : std::vector<ElementRef>{};
    SwapOutcome out = swap_kinds(document_.project(), types, materials, few);
    QString remarks;
    for (const std::string& r : out.remarks) remarks += " " + text(r) + ".";
    if (out.edit.empty()) {
        say("Nothing would change: choose what a kind is to become." + remarks, !out.remarks.empty());
        return;
    }
    say(remarks.trimmed());
    emit preview_wanted(
        QString("%1 structures and %2 pipes change their kind.").arg(out.structures).arg(out.pipes) + remarks,
        out.edit);
}

void RulesPanel::refresh() {
    switch (pages_->currentIndex()) {
        case 0:
            for (FieldEdit* f : fields_) f->refresh();
            break;
        case 1: refresh_limits(); break;
        case 2: {
            const Settings& s = document_.project().settings();
            criteria_name_->setText(
                "In force: <b>" +
                (s.criteria.empty() ? QString("no set; limits as typed") : text(s.criteria).toHtmlEscaped()) + "</b>");
            break;
        }
        case 3:
            library_text_->setText("Your library lies at " + library_path() +
                                   (QFileInfo::exists(library_path()) ? "." : ". There is none yet.") +
                                   " It is a project without elements, shared by all projects.");
            break;
        default: refresh_swaps(); break;
    }
}

}  // namespace culvert::app
