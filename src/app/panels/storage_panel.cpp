// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/panels/storage_panel.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include "app/desk/text.h"
#include "app/kit/when_seen.h"
#include "report/storage_tables.h"

namespace culvert::app {

StoragePanel::StoragePanel(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      pages_(new QComboBox),
      others_(new QComboBox),
      run_(new QPushButton),
      copy_(new QPushButton("Copy")),
      take_(new QPushButton("Take as allowed")),
      round_(new QDoubleSpinBox),
      said_(new QLabel),
      table_(new QTableWidget) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 4, 8, 4);
    auto* line = new QHBoxLayout;
    pages_->setObjectName("storage-page");
    pages_->setAccessibleName("Table of storage");
    pages_->setToolTip("Which table of storage is shown");
    pages_->addItems({"Ponds in every event", "Outflow by level", "Storage asked for", "Catchments", "Outlets blocked",
                      "Outlet sizes", "Before and after"});
    line->addWidget(pages_);
    others_->setObjectName("storage-before");
    others_->setAccessibleName("The site before");
    others_->setToolTip("The variant that is the site before");
    line->addWidget(others_);
    run_->setObjectName("storage-run");
    line->addWidget(run_);
    take_->setObjectName("storage-take");
    take_->setToolTip(
        "What left before at the selected structure becomes what is allowed to leave there, for every event");
    line->addWidget(take_);
    round_->setObjectName("storage-round");
    round_->setAccessibleName("Round allowed releases down to");
    round_->setToolTip("What is taken as allowed is rounded down to a multiple of this; 0: as it is");
    round_->setRange(0, 1000);
    round_->setDecimals(1);
    round_->setPrefix("down to ");
    round_->setSpecialValueText("as it is");
    line->addWidget(round_);
    said_->setWordWrap(true);
    line->addWidget(said_, 1);
    copy_->setToolTip("Copies the table");
    line->addWidget(copy_);
    column->addLayout(line);
    table_->setAccessibleName("Storage");
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(22);
    column->addWidget(table_, 1);
    auto* seen = new WhenSeen(this, [this] { refresh(); });
    for (auto signal : {&Document::event_changed, &Document::selection_changed})
        connect(&document_, signal, this, [seen] { (*seen)(); });
    connect(&document_, &Document::results_changed, this, [seen] { (*seen)(); });
    connect(pages_, &QComboBox::currentIndexChanged, this, [this] {
        asked_of_ = 0;
        said_->clear();
        refresh();
    });
    connect(run_, &QPushButton::clicked, this, [this] { page() == Page::Sizes ? size() : compare(); });
    connect(take_, &QPushButton::clicked, this, [this] {
        const StructureId at = pond();
        if (!at) return said_->setText("Select the pond or outfall that it shall hold at.");
        const std::uint64_t other = others_->currentData().toULongLong();
        const std::string source = "site before: " + plain(others_->currentText());
        Edit edit = releases_from(document_.as_variant(other), document_.project(), at,
                                  document_.units().to_si(round_->value(), Quantity::Flow), source);
        if (edit.changes.empty())
            return said_->setText("Nothing was taken: no event of one name, or no end that fits.");
        emit proposed("What left before becomes what is allowed", edit);
    });
    connect(copy_, &QPushButton::clicked, this, [this] {
        QStringList lines;
        QStringList cells;
        for (int c = 0; c < table_->columnCount(); ++c)
            cells << table_->horizontalHeaderItem(c)->text().replace('\n', ' ');
        lines << cells.join('\t');
        for (int r = 0; r < table_->rowCount(); ++r) {
            cells.clear();
            for (int c = 0; c < table_->columnCount(); ++c)
                cells << (table_->item(r, c) ? table_->item(r, c)->text() : QString());
            lines << cells.join('\t');
        }
        QApplication::clipboard()->setText(lines.join('\n') + '\n');
    });
    refresh();
}

void StoragePanel::show(Page page) { pages_->setCurrentIndex(static_cast<int>(page)); }

/// The selected structure where it has a pond, or is an outfall; else the first pond.
StructureId StoragePanel::pond() const {
    const Project& p = document_.project();
    const ElementRef e = document_.selected();
    StructureId found;
    for (const Pond& row : p.ponds)
        if ((e.kind == Kind::Structure && row.structure.value == e.id) || (e.kind == Kind::Pond && row.id == e.id))
            return row.structure;
    if (const PondOutlet* o = e.kind == Kind::PondOutlet ? p.outlets.find(e.id) : nullptr) return o->structure;
    if (const Structure* s = e.kind == Kind::Structure ? p.structures.find(e.id) : nullptr;
        s && s->kind == StructureKind::Outfall)
        return {s->id};
    return p.ponds.size() > 0 ? p.ponds.begin()->structure : StructureId{};
}

void StoragePanel::fill(const TextTable& t) {
    table_->setColumnCount(static_cast<int>(t.heads.size()));
    table_->setRowCount(static_cast<int>(t.rows.size()));
    for (int c = 0; c < table_->columnCount(); ++c) {
        const auto i = static_cast<std::size_t>(c);
        table_->setHorizontalHeaderItem(
            c, new QTableWidgetItem(text(t.heads[i]) + (t.units[i].empty() ? QString() : "\n" + text(t.units[i]))));
        for (int r = 0; r < table_->rowCount(); ++r) {
            auto* item = new QTableWidgetItem(text(t.rows[static_cast<std::size_t>(r)][i]));
            if (!t.left[i]) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            table_->setItem(r, c, item);
        }
    }
    table_->resizeColumnsToContents();
}

void StoragePanel::refresh() {
    const Project& project = document_.project();
    const bool compares = page() == Page::Compared, sizes = page() == Page::Sizes;
    others_->setVisible(compares);
    take_->setVisible(compares);
    round_->setVisible(compares);
    round_->setSuffix(" " + text(document_.units().unit(Quantity::Flow).symbol));
    run_->setVisible(compares || sizes);
    run_->setText(sizes ? "Size the outlets" : "Compare");
    run_->setToolTip(sizes ? "Finds openings and crests that let out no more than is allowed in each event"
                           : "Solves both and lists every outfall in every event");
    const QVariant chosen = others_->currentData();
    {
        const QSignalBlocker quiet(others_);
        others_->clear();
        if (document_.variant()) others_->addItem("the base", QVariant::fromValue<qulonglong>(0));
        for (const Variant& v : document_.base().variants)
            if (v.role == VariantRole::Variant && v.id != document_.variant())
                others_->addItem(text(v.name), QVariant::fromValue<qulonglong>(v.id));
        if (const int at = others_->findData(chosen); at >= 0) others_->setCurrentIndex(at);
    }
    run_->setEnabled(!compares || others_->count() > 0);
    take_->setEnabled(others_->count() > 0);
    if (compares || sizes) {
        if (asked_of_ == document_.revision()) return;  // what was asked for stands
        if (asked_of_) said_->setText("The project has changed since: ask again.");
        else {
            fill({});
            said_->setText(
                sizes ? "Outlets from the lowest up, each for one event from the commonest up; the overflow stays."
                : others_->count() ? "Choose the variant that is the site before."
                                   : "Make a variant of the site before (History): it is compared here.");
        }
        return;
    }
    if (project.settings().runoff_by == RunoffBy::Rational) {
        fill({});
        said_->setText("The rational method gives no hydrographs: choose runoff by unit hydrograph (Rules, Runoff).");
        return;
    }
    said_->clear();
    const auto r = document_.result();
    switch (page()) {
        case Page::Ponds: {
            const Results all = document_.all_results();
            if (all.empty()) return;
            fill(pond_table(project, all));
            if (project.ponds.size() == 0)
                said_->setText("No pond yet: select a structure and give it storage in its card.");
            break;
        }
        case Page::Rating: fill(rating_table(project, pond())); break;
        case Page::Catchments:
            if (!r) return;
            fill(catchment_table(project, *r));
            if (const UnitSet u = document_.units(); true)
                said_->setText("Runoff " + text(u.text(r->balance.runoff, Quantity::Volume)) + ", left " +
                               text(u.text(r->balance.left, Quantity::Volume)) + ", stored " +
                               text(u.text(r->balance.stored, Quantity::Volume)));
            break;
        case Page::Required: {
            const StructureId at = pond();
            if (!at) return;
            worker_.run([this, project, at](const Turn& turn) {
                auto found = hydrographs_at(project, at, turn.stop);
                turn.tell([this, project, at, found = std::move(found)] {
                    if (page() == Page::Required)
                        fill(volume_table(project, required_volumes(found, project.settings().release_cut),
                                          critical_storms(project, at)));
                });
            });
            break;
        }
        case Page::Blocked: {
            const StructureId at = pond();
            if (!at) return;
            said_->setText("Every way out is blocked but the overflow.");
            worker_.run([this, project, at](const Turn& turn) {
                auto found = with_outlets_blocked(project, at, turn.stop);
                turn.tell([this, project, found = std::move(found)] {
                    if (page() == Page::Blocked) fill(blocked_table(project, found));
                });
            });
            break;
        }
        default: break;
    }
}

void StoragePanel::size() {
    show(Page::Sizes);
    const StructureId at = pond();
    if (!at) return said_->setText("No pond yet: select a structure and give it storage in its card.");
    said_->setText("Routing …");
    asked_of_ = document_.revision();
    worker_.run([this, project = document_.project(), at](const Turn& turn) {
        auto found = size_outlets(project, at, {}, turn.stop);
        turn.tell([this, project, at, found = std::move(found)] {
            if (!found.why.empty()) {
                QString why = text(found.why);
                why[0] = why[0].toUpper();
                return said_->setText(why + ".");
            }
            // Outlets first, then the proof: one table under the other, in the columns of the second.
            TextTable t = proof_table(project, found);
            const TextTable sizes = outlet_table(project, found);
            t.left.assign(t.left.size(), false);
            t.left[0] = true;
            for (const auto& row : sizes.rows) {
                std::vector<std::string> cells(t.heads.size());
                cells[0] = row[0] + ", for " + row[1] + ": " + row[4] + " to " + row[5] +
                           (row[2] != row[3] ? ", level " + row[2] + " to " + row[3] : "") +
                           (row[6].empty() ? "" : " (" + row[6] + ")");
                t.rows.push_back(std::move(cells));
            }
            fill(t);
            for (std::size_t r = 0; r < sizes.rows.size(); ++r)
                table_->setSpan(static_cast<int>(t.rows.size() - sizes.rows.size() + r), 0, 1, table_->columnCount());
            said_->setText(found.meets ? "All releases are met." : "Not all releases are met.");
            emit proposed("Outlets of " + text(element_name(project, Kind::Structure, at.value)) +
                              (found.meets ? ": all releases are met" : ": not all releases are met"),
                          found.edit);
            asked_of_ = document_.revision();
        });
    });
}

void StoragePanel::compare() {
    show(Page::Compared);
    if (others_->count() == 0) return;
    said_->setText("Solving …");
    asked_of_ = document_.revision();
    worker_.run([this, project = document_.project(),
                 before = document_.as_variant(others_->currentData().toULongLong())](const Turn& turn) {
        std::vector<std::string> unmatched;
        auto rows = before_and_after(before, project, &unmatched, turn.stop);
        turn.tell([this, project, rows = std::move(rows), unmatched = std::move(unmatched)] {
            fill(before_after_table(project, rows));
            QStringList words;
            const auto more = std::count_if(rows.begin(), rows.end(), [](const BeforeAfter& r) { return r.exceeds; });
            words << (more ? QString("%1 of %2 exceed").arg(more).arg(rows.size()) : QString("None exceeds"));
            for (const std::string& u : unmatched) words << text(u) + ": only one of the two has it";
            said_->setText(words.join("; ") + ".");
            asked_of_ = document_.revision();
        });
    });
}

}  // namespace culvert::app
