// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/panels/grade_panel.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"

namespace culvert::app {

GradePanel::GradePanel(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      matching_(new QComboBox),
      every_(new QLineEdit),
      title_(new QLabel),
      said_(new QLabel),
      free_(new QPushButton("Free all pins")),
      table_(new QTableWidget(0, Columns)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 4, 8, 4);
    auto* line = new QHBoxLayout;
    line->addWidget(title_);
    line->addWidget(new QLabel("pipes meet at"));
    matching_->addItems({"inverts", "0.8 of the height", "centres", "crowns"});
    matching_->setAccessibleName("Pipes meet at");
    matching_->setToolTip("What meets at a structure; no outgoing invert is ever above an incoming one");
    line->addWidget(matching_);
    line->addWidget(new QLabel("every level"));
    every_->setAccessibleName("Every level without a pin");
    every_->setPlaceholderText("ground - 1.5");
    every_->setToolTip(
        "Ties every level that has no pin of its own: \"ground - 1.5\", \"cover 1.2\", a pipe and an "
        "offset (\"B1–A3 + 0.30\"); empty: one slope between pins");
    every_->setMaximumWidth(150);
    line->addWidget(every_);
    free_->setToolTip("Takes all pins, ties, drops and slopes of this run away");
    line->addWidget(free_);
    line->addStretch(1);
    column->addLayout(line);
    said_->setWordWrap(true);
    column->addWidget(said_);
    table_->setAccessibleName("Levels of the run");
    table_->setHorizontalHeaderLabels(
        {"Structure", "Rim", "Arrives at", "pin", "Drop", "Leaves at", "pin", "Slope below", "pin"});
    constexpr const char* help[] = {
        "From the head down",
        "Rim, or the ground",
        "End of the pipe above: as it is, and as graded",
        "Level, or what it is tied to: 82.40, ground - 1.5, rim - 1.5, cover 1.2, B1–A3 - 0.05",
        "Fall across the structure; what is typed here holds in place of its own",
        "Start of the pipe below: as it is, and as graded",
        "Level, or what it is tied to: 82.40, ground - 1.5, rim - 1.5, cover 1.2, B1–A3 - 0.05",
        "Of the pipe below: as it is, and as graded",
        "Slope that the pipe below keeps: 0.5 %, 1:200"};
    for (int i = 0; i < Columns; ++i) table_->horizontalHeaderItem(i)->setToolTip(help[i]);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(22);
    table_->horizontalHeader()->setStretchLastSection(true);
    column->addWidget(table_, 1);
    said_->setText("Select two structures of a run, or its pipes, and grade it (F8).");
    connect(matching_, &QComboBox::activated, this, &GradePanel::regrade);
    connect(every_, &QLineEdit::editingFinished, this, [this] {
        if (every_->isModified()) regrade();
        every_->setModified(false);
    });
    connect(free_, &QPushButton::clicked, this, &GradePanel::clear_pins);
    connect(table_, &QTableWidget::cellChanged, this, &GradePanel::take_cell);
    connect(table_, &QTableWidget::itemSelectionChanged, this, [this] {
        const int row = table_->currentRow();
        if (!filling_ && row >= 0 && row < static_cast<int>(places_.size()))
            document_.select({{Kind::Structure, places_[static_cast<std::size_t>(row)].value}});
    });
    // What stands has changed: the same pins are held against it, and shown again once they are asked for.
    connect(&document_, &Document::changed, this, [this] {
        if (grading_ || run_.empty() || document_.has_pending()) return;
        for (const PipeId p : run_)
            if (!document_.project().pipes.find(p.value)) {
                run_.clear();
                places_.clear();
                table_->setRowCount(0);
                title_->clear();
                said_->setText("The run is not there any more. Select another one and grade it (F8).");
                return;
            }
        QString error;
        const auto net = document_.network();
        if (const auto ask = asked(error); ask && net) {
            graded_ = grade_run(document_.project(), *net, *ask, document_.site().ground());
            show_places();
        }
    });
}

bool GradePanel::begin(const std::vector<ElementRef>& elements) {
    const auto net = document_.network();
    if (!net) {
        said_->setText("There is no network yet: draw structures and pipes down to an outfall first.");
        return false;
    }
    const RunFound found = run_through(document_.committed(), *net, elements);
    if (!found.error.empty()) {
        said_->setText(text(found.error));
        return false;
    }
    const bool other = found.pipes != run_;
    if (other) {
        pins_.clear();
        every_->clear();
        matching_->setCurrentIndex(number_of(document_.project().settings().matching));
    }
    run_ = found.pipes;
    places_.clear();
    RunAsk bare;
    bare.pipes = run_;
    const Graded now = grade_run(document_.committed(), *net, bare, document_.site().ground());
    for (const GradedPlace& p : now.places) places_.push_back(p.structure);
    if (other)  // what the run was tied to when it was graded last
        for (std::size_t i = 0; i < run_.size() && i + 1 < places_.size(); ++i) {
            const Pipe& p = *document_.committed().pipes.find(run_[i].value);
            const bool along = p.from == places_[i];
            if (const auto& tie = along ? p.tie_from : p.tie_to; !tie.empty())
                pins_[places_[i].value].leaving = text(tie);
            if (const auto& tie = along ? p.tie_to : p.tie_from; !tie.empty())
                pins_[places_[i + 1].value].arriving = text(tie);
        }
    if (pins_.empty() && now.error.empty() && !now.places.empty()) {
        const UnitSet u = document_.units();
        const GradedPlace &head = now.places.front(), &end = now.places.back();
        if (!std::isnan(head.leaving_before))
            pins_[head.structure.value].leaving = text(u.number(head.leaving_before, Quantity::Level));
        if (!std::isnan(end.arriving_before))
            pins_[end.structure.value].arriving = text(u.number(end.arriving_before, Quantity::Level));
    }
    regrade();
    return graded_.error.empty();
}

bool GradePanel::shows(PipeId pipe) const { return std::find(run_.begin(), run_.end(), pipe) != run_.end(); }

bool GradePanel::drag(PipeId pipe, bool start, double level) {
    const auto at = std::find(run_.begin(), run_.end(), pipe);
    const Pipe* p = document_.committed().pipes.find(pipe.value);
    if (at == run_.end() || !p || places_.size() != run_.size() + 1) return false;
    const auto i = static_cast<std::size_t>(at - run_.begin());
    const StructureId end = start ? p->from : p->to;
    const QString words = text(document_.units().number(level, Quantity::Level));
    if (end == places_[i]) pins_[end.value].leaving = words;
    else if (end == places_[i + 1]) pins_[end.value].arriving = words;
    else return false;
    regrade();
    return true;
}

void GradePanel::clear_pins() {
    pins_.clear();
    every_->clear();
    regrade();
}

QString* GradePanel::pin_of(int row, int column) {
    if (row < 0 || row >= static_cast<int>(places_.size())) return nullptr;
    Pins& p = pins_[places_[static_cast<std::size_t>(row)].value];
    switch (column) {
        case PinArriving: return &p.arriving;
        case PinLeaving: return &p.leaving;
        case Drop: return &p.drop;
        case PinSlope: return &p.slope;
        default: return nullptr;
    }
}

void GradePanel::take_cell(int row, int column) {
    if (filling_) return;
    if (QString* pin = pin_of(row, column)) {
        *pin = table_->item(row, column)->text().trimmed();
        // A click elsewhere while the editor closes must not meet a table that is being filled.
        QMetaObject::invokeMethod(this, &GradePanel::regrade, Qt::QueuedConnection);
    }
}

std::optional<RunAsk> GradePanel::asked(QString& error) const {
    const Project& project = document_.committed();
    const UnitSet u = document_.units();
    RunAsk ask;
    ask.pipes = run_;
    ask.matching = static_cast<Matching>(matching_->currentIndex());
    ask.all_ties = true;
    const auto name = [&](StructureId s) { return text(element_name(project, Kind::Structure, s.value)); };
    for (const StructureId s : places_) {
        PlaceAsk place;
        if (const auto at = pins_.find(s.value); at != pins_.end()) {
            for (const auto& [words, tie] :
                 {std::pair{&at->second.arriving, &place.arriving}, {&at->second.leaving, &place.leaving}}) {
                if (words->isEmpty()) continue;
                const TieRead read = read_tie(project, plain(*words));
                if (!read.tie) {
                    error = name(s) + ": " + text(read.error);
                    return {};
                }
                *tie = read.tie;
            }
            for (const auto& [words, value, quantity] : {std::tuple{&at->second.drop, &place.drop, Quantity::Length},
                                                         {&at->second.slope, &place.slope, Quantity::Slope}}) {
                if (words->isEmpty()) continue;
                const Entry e = read_entry(plain(*words), quantity, u);
                if (!e.ok) {
                    error = name(s) + ": " + text(e.error);
                    return {};
                }
                *value = e.value;
            }
        }
        ask.places.push_back(place);
    }
    if (!every_->text().trimmed().isEmpty()) {
        const TieRead read = read_tie(project, plain(every_->text()));
        if (!read.tie) {
            error = "Every level: " + text(read.error);
            return {};
        }
        ask.every = read.tie;
    }
    return ask;
}

void GradePanel::regrade() {
    const auto net = document_.network();
    if (run_.empty() || !net) return;
    QString error;
    const auto ask = asked(error);
    if (!ask) {
        graded_.conflicts.clear();
        show_places();
        say(error);
        emit nothing_to_preview();
        return;
    }
    graded_ = grade_run(document_.committed(), *net, *ask, document_.site().ground());
    show_places();
    if (!graded_.error.empty()) {
        say(text(graded_.error));
        emit nothing_to_preview();
        return;
    }
    grading_ = true;
    if (graded_.edit.empty()) emit nothing_to_preview();
    else
        emit preview_wanted(
            text(graded_.edit.name) +
                QString(": %1 levels change, %2 %3")
                    .arg(graded_.edit.changes.size())
                    .arg(graded_.conflicts.empty() ? QString("no") : QString::number(graded_.conflicts.size()))
                    .arg(graded_.conflicts.size() == 1 ? "conflict" : "conflicts"),
            graded_.edit);
    grading_ = false;
}

void GradePanel::show_places() {
    filling_ = true;
    const UnitSet u = document_.units();
    const Project& project = document_.project();
    const auto level = [&](double v) { return text(u.number(v, Quantity::Level)); };
    const auto both = [&](double before, double after, Quantity q) {
        const QString a = text(u.number(before, q)), b = text(u.number(after, q));
        return std::isnan(after) ? QString() : a == b ? b : a + " → " + b;
    };
    if (places_.empty()) title_->clear();
    else
        title_->setText("<b>" + text(element_name(project, Kind::Structure, places_.front().value)) + " to " +
                        text(element_name(project, Kind::Structure, places_.back().value)) + "</b>,");
    table_->setRowCount(static_cast<int>(places_.size()));
    for (int i = 0; i < table_->rowCount(); ++i) {
        const auto at = static_cast<std::size_t>(i);
        const bool known = at < graded_.places.size() && graded_.error.empty();
        const GradedPlace place = known ? graded_.places[at] : GradedPlace{};
        const Pins& pins = pins_[places_[at].value];
        const bool first = i == 0, last = at + 1 == places_.size();
        const QString cells[Columns] = {
            text(element_name(project, Kind::Structure, places_[at].value)),
            known ? level(place.ground) : QString(),
            known && !first ? both(place.arriving_before, place.arriving, Quantity::Level) : QString(),
            pins.arriving,
            !pins.drop.isEmpty()       ? pins.drop
            : known && !first && !last ? text(u.number(place.fall, Quantity::Length))
                                       : QString(),
            known && !last ? both(place.leaving_before, place.leaving, Quantity::Level) : QString(),
            pins.leaving,
            known && !last ? both(place.slope_before, place.slope, Quantity::Slope) : QString(),
            pins.slope};
        for (int c = 0; c < Columns; ++c) {
            QTableWidgetItem* item = table_->item(i, c);
            if (!item) table_->setItem(i, c, item = new QTableWidgetItem);
            const bool typed = ((c == PinArriving) && !first) || ((c == PinLeaving || c == PinSlope) && !last) ||
                               (c == Drop && !first && !last);
            item->setText(cells[c]);
            item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | (typed ? Qt::ItemIsEditable : Qt::ItemFlags()));
            if (c > 0) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            const bool pinned =
                c == PinArriving || c == PinLeaving || c == PinSlope || (c == Drop && !pins.drop.isEmpty());
            item->setFont(lettering(9, pinned));
            item->setForeground(typed && pinned ? theme().accent : theme().ink);
            item->setBackground(typed ? QBrush(theme().tint(theme().accent, 0.05)) : QBrush());
        }
    }
    for (int c = 0; c < Columns - 1; ++c) {
        table_->resizeColumnToContents(c);
        table_->setColumnWidth(c, std::max(c == Name ? 80 : 64, table_->columnWidth(c) + 6));
    }
    filling_ = false;
    QStringList lines;
    for (const GradeConflict& c : graded_.conflicts) {
        QStringList pins;
        for (const std::string& p : c.pins) pins << text(p);
        lines << text(c.words) + (pins.isEmpty() ? QString() : " (by " + pins.join(" and ") + ")");
    }
    constexpr int most = 4;
    if (lines.size() > most) {
        const auto more = lines.size() - most;
        lines.erase(lines.begin() + most, lines.end());
        lines << QString("and %1 more").arg(more);
    }
    if (!lines.isEmpty()) return say(lines.join("\n"));
    said_->setText("Nothing conflicts. A level dragged in the profile is pinned.");
    said_->setStyleSheet({});
}

void GradePanel::say(const QString& wrong) {
    said_->setText(wrong);
    said_->setStyleSheet("color:" + theme().beyond.name());
}

}  // namespace culvert::app
