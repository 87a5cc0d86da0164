// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/panels/ground_panel.h"
#include "app/desk/text.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QSplitter>
#include <cmath>

#include "app/kit/theme.h"
#include "app/kit/when_seen.h"
#include "core/base/contract.h"
#include "core/base/words.h"
#include "core/design/layout.h"

namespace culvert::app {
namespace {

constexpr double international_foot = 0.3048, survey_foot = 1200.0 / 3937.0;

QTableWidgetItem* cell(const QString& words, bool right = false) {
    auto* item = new QTableWidgetItem(words);
    item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
    if (right) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    return item;
}
void quiet_table(QTableWidget* t, const QString& name) {
    t->setAccessibleName(name);
    t->verticalHeader()->hide();
    t->verticalHeader()->setDefaultSectionSize(22);
    t->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    t->setSelectionBehavior(QAbstractItemView::SelectRows);
}
QString problems_in_words(const std::vector<ImportProblem>& problems) {
    QString out;
    int shown = 0;
    for (const ImportProblem& p : problems) {
        if (++shown > 5) {
            out += QString("\n… and %1 more").arg(problems.size() - 5);
            break;
        }
        out += (out.isEmpty() ? "" : "\n") + (p.line > 0 ? QString("Line %1: ").arg(p.line) : QString()) +
               text(sentences(p.message, p.remedy));
    }
    return out;
}

}  // namespace

GroundPanel::GroundPanel(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 4, 8, 4);
    column->setSpacing(3);
    auto* split = new QSplitter(Qt::Horizontal);
    column->addWidget(split, 1);
    tree_ = new QTreeWidget;
    tree_->setAccessibleName("Surfaces and backgrounds");
    tree_->setHeaderLabels({"Shown", "Kind"});
    tree_->setColumnWidth(0, 168);
    tree_->setMinimumWidth(240);
    split->addWidget(tree_);
    connect(tree_, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item) { tree_changed(item); });
    connect(tree_, &QTreeWidget::currentItemChanged, this, &GroundPanel::refresh_low);

    pages_ = new QStackedWidget;
    split->addWidget(pages_);
    auto* details = new QWidget;
    auto* detail_column = new QVBoxLayout(details);
    detail_column->setContentsMargins(6, 0, 0, 0);
    detail_ = new QLabel;
    detail_->setWordWrap(true);
    detail_column->addWidget(detail_);
    low_ = new QTableWidget(0, 5);
    quiet_table(low_, "Low points");
    low_->horizontalHeader()->setStretchLastSection(true);
    detail_column->addWidget(low_, 1);
    connect(low_, &QTableWidget::cellClicked, this, [this](int row, int) {
        if (const SiteSurface* s = document_.site().surface(current().id);
            s && row < static_cast<int>(s->depressions.size())) {
            const Depression& d = s->depressions[static_cast<std::size_t>(row)];
            emit place_wanted({d.bottom.x, d.bottom.y});
        }
    });
    auto* buttons = new QHBoxLayout;
    auto* inlets = new QPushButton("Inlets at the chosen low points");
    inlets->setObjectName("inlets-at-low-points");
    inlets->setToolTip(
        "An inlet at each low point chosen in the table, or at all of them where none is; shown before it is taken");
    connect(inlets, &QPushButton::clicked, this, &GroundPanel::inlets_at_low_points);
    buttons->addWidget(inlets);
    auto* pipes = new QPushButton("Pipes from the layer");
    pipes->setObjectName("pipes-from-layer");
    pipes->setToolTip("Lines of the chosen layer become pipes, their ends structures; shown before it is taken");
    connect(pipes, &QPushButton::clicked, this, &GroundPanel::pipes_from_layer);
    buttons->addWidget(pipes);
    buttons->addStretch(1);
    detail_column->addLayout(buttons);
    pages_->addWidget(details);

    auto* offer = new QWidget;
    auto* offer_column = new QVBoxLayout(offer);
    offer_column->setContentsMargins(6, 0, 0, 0);
    offer_text_ = new QLabel;
    offer_text_->setWordWrap(true);
    offer_column->addWidget(offer_text_);
    offer_table_ = new QTableWidget;
    quiet_table(offer_table_, "What the file offers");
    offer_column->addWidget(offer_table_, 1);
    auto* choices = new QHBoxLayout;
    unit_ = new QComboBox;
    unit_->setAccessibleName("Unit of the file");
    unit_->setToolTip(
        "Length that one unit of the file's numbers is; the two feet differ by 2 in a million, 1 m in 500 km");
    unit_->addItem("metres", 1.0);
    unit_->addItem("feet (international)", international_foot);
    unit_->addItem("feet (US survey)", survey_foot);
    unit_->addItem("millimetres", 0.001);
    choices->addWidget(unit_);
    role_ = new QComboBox;
    role_->setAccessibleName("Role of the surface");
    role_->setToolTip("Existing ground, finished ground (rims come from it), or another surface");
    role_->addItems({"existing ground", "finished ground", "other surface"});
    choices->addWidget(role_);
    surface_button_ = new QPushButton("Make a surface");
    surface_button_->setObjectName("make-surface");
    surface_button_->setToolTip("Joins the points to triangles and adds the surface to the project");
    connect(surface_button_, &QPushButton::clicked, this, &GroundPanel::take_as_surface);
    choices->addWidget(surface_button_);
    background_button_ = new QPushButton("Use as background");
    background_button_->setObjectName("use-background");
    background_button_->setToolTip("Shows it under the plan, to draw over and to take lines from");
    connect(background_button_, &QPushButton::clicked, this, &GroundPanel::take_as_background);
    choices->addWidget(background_button_);
    auto* no = new QPushButton("Dismiss");
    no->setObjectName("dismiss-import");
    no->setToolTip("Leaves the file alone");
    connect(no, &QPushButton::clicked, this, &GroundPanel::dismiss);
    choices->addWidget(no);
    choices->addStretch(1);
    offer_column->addLayout(choices);
    pages_->addWidget(offer);
    split->setStretchFactor(0, 2);
    split->setStretchFactor(1, 5);
    split->setSizes({250, 620});
    auto* bottom = new QHBoxLayout;
    said_ = new QLabel;
    said_->setWordWrap(true);
    bottom->addWidget(said_, 1);
    stop_ = new QPushButton("Stop");
    stop_->setToolTip("Stops reading; nothing changes");
    stop_->hide();
    connect(stop_, &QPushButton::clicked, this, [this] {
        worker_.cancel();
        set_busy({});
        say("Stopped.");
    });
    bottom->addWidget(stop_);
    column->addLayout(bottom);
    auto* seen = new WhenSeen(this, [this] { refresh(); });
    connect(&document_, &Document::changed, this, [seen] { (*seen)(); });
    connect(&document_, &Document::site_changed, this, [seen] { (*seen)(); });
    refresh();
}

void GroundPanel::say(const QString& words, bool wrong) {
    said_->setText(words);
    said_->setVisible(!words.isEmpty());
    said_->setStyleSheet(QString("color:%1").arg((wrong ? theme().beyond : theme().quiet).name()));
}
void GroundPanel::set_busy(const QString& words) {
    busy_ = !words.isEmpty();
    stop_->setVisible(busy_);
    if (busy_) say(words);
}

/// Whether the document holds another project than the one an import was begun in; says so.
bool GroundPanel::another_project(std::uint64_t generation) {
    if (generation == document_.generation()) return false;
    say("Another project was opened meanwhile: nothing was taken. Import the file again if it belongs here.");
    return true;
}

void GroundPanel::look_at_file(const QString& path) {
    set_busy("Reading " + path.section('/', -1) + " …");
    emit offered();
    worker_.run([this, path, unit = unit_metres()](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        auto offer = std::make_shared<SiteOffer>(
            culvert::look_at(plain(path), path.endsWith(".dxf", Qt::CaseInsensitive) ? 0 : unit, stop));
        if (stop.stop_requested()) return;
        turn.tell([this, offer] {
            set_busy({});
            offer_ = offer;
            show_offer();
        });
    });
}

double GroundPanel::unit_metres() const { return unit_->currentData().toDouble(); }

void GroundPanel::show_offer() {
    const SiteOffer& o = *offer_;
    const QString problems = problems_in_words(o.problems);
    if (!o.ok) {
        say(text(o.name) + ": " + problems, true);
        offer_.reset();
        pages_->setCurrentIndex(0);
        return;
    }
    say({});
    filling_ = true;
    QString head = "<b>" + text(o.name).toHtmlEscaped() + "</b>, " + site_form_names[static_cast<int>(o.form)];
    if (!o.coordinates.empty()) head += ", " + text(o.coordinates).toHtmlEscaped();
    offer_table_->clear();
    offer_table_->setRowCount(0);
    const bool can_surface = o.form != SiteForm::Picture,
               can_background = o.form == SiteForm::Drawing || o.form == SiteForm::Picture;
    surface_button_->setVisible(can_surface);
    role_->setVisible(can_surface);
    background_button_->setVisible(can_background);
    unit_->setVisible(o.form == SiteForm::Points || o.form == SiteForm::Drawing);
    const bool us = document_.project().settings().system == UnitSystem::Us;
    if (o.form == SiteForm::Points) {
        columns_ = o.layout.columns;
        for (const std::string& r : o.layout.remarks) head += "<br>" + text(r).toHtmlEscaped();
        unit_->setCurrentIndex(us ? 1 : 0);
        const int columns = static_cast<int>(o.layout.columns.size());
        offer_table_->setColumnCount(columns);
        offer_table_->setRowCount(static_cast<int>(o.layout.first.size()) + 1);
        offer_table_->horizontalHeader()->hide();
        for (int c = 0; c < columns; ++c) {
            auto* what = new QComboBox;
            what->setObjectName(QString("point-column-%1").arg(c));
            what->setAccessibleName(QString("Column %1").arg(c + 1));
            what->setToolTip("What this column of the file is");
            for (const char* n : point_column_names) what->addItem(n);
            what->setCurrentIndex(static_cast<int>(o.layout.columns[static_cast<std::size_t>(c)]));
            connect(what, &QComboBox::activated, this, [this, c](int i) {
                if (offer_) columns_[static_cast<std::size_t>(c)] = static_cast<PointColumn>(i);
            });
            offer_table_->setCellWidget(0, c, what);
            offer_table_->setColumnWidth(c, 110);
            for (std::size_t r = 0; r < o.layout.first.size(); ++r)
                if (static_cast<std::size_t>(c) < o.layout.first[r].size())
                    offer_table_->setItem(static_cast<int>(r) + 1, c,
                                          cell(text(o.layout.first[r][static_cast<std::size_t>(c)])));
        }
    } else if (o.form == SiteForm::Drawing) {
        const Drawing& d = o.drawing;
        head += QString(", %1 lines, %2 points, %3 faces, %4 texts")
                    .arg(d.lines.size())
                    .arg(d.points.size())
                    .arg(d.faces.size())
                    .arg(d.texts.size());
        offer_table_->horizontalHeader()->show();
        offer_table_->setColumnCount(5);
        offer_table_->setHorizontalHeaderLabels({"Layer", "Lines", "With levels", "Points", "Faces"});
        std::vector<std::array<int, 4>> counts(d.layers.size());
        const auto layer = [&](int l) -> std::array<int, 4>& {
            return counts[static_cast<std::size_t>(std::clamp(l, 0, static_cast<int>(counts.size()) - 1))];
        };
        if (!counts.empty()) {
            for (const auto& l : d.lines) {
                ++layer(l.layer)[0];
                bool levels = false;
                for (const auto& p : l.points) levels |= !std::isnan(p.z) && p.z != 0;
                layer(l.layer)[1] += levels;
            }
            for (const auto& s : d.points) ++layer(s.layer)[2];
            for (const auto& f : d.faces) ++layer(f.layer)[3];
        }
        offer_table_->setRowCount(static_cast<int>(counts.size()));
        for (std::size_t i = 0; i < counts.size(); ++i) {
            auto* name = cell(text(d.layers[i]));
            name->setFlags(name->flags() | Qt::ItemIsUserCheckable);
            name->setCheckState(Qt::Checked);
            offer_table_->setItem(static_cast<int>(i), 0, name);
            for (int k = 0; k < 4; ++k)
                offer_table_->setItem(static_cast<int>(i), k + 1,
                                      cell(QString::number(counts[i][static_cast<std::size_t>(k)]), true));
        }
        offer_table_->setColumnWidth(0, 180);
        const int at = d.unit == 1 ? 0
                                   : (std::abs(d.unit - international_foot) < 1e-9
                                          ? 1
                                          : (std::abs(d.unit - survey_foot) < 1e-9 ? 2 : (d.unit == 0.001 ? 3 : 0)));
        unit_->setCurrentIndex(d.unit_known ? at : (us ? 1 : 0));
    } else if (o.form == SiteForm::LandXml || o.form == SiteForm::Grid) {
        offer_table_->horizontalHeader()->show();
        offer_table_->setColumnCount(3);
        offer_table_->setHorizontalHeaderLabels({"Surface", "Points", "Faces"});
        offer_table_->setRowCount(static_cast<int>(o.surfaces.size()));
        for (std::size_t i = 0; i < o.surfaces.size(); ++i) {
            auto* name = cell(text(o.surfaces[i].name));
            if (o.surfaces[i].ok) {
                name->setFlags(name->flags() | Qt::ItemIsUserCheckable);
                name->setCheckState(Qt::Checked);
            }
            offer_table_->setItem(static_cast<int>(i), 0, name);
            offer_table_->setItem(static_cast<int>(i), 1,
                                  cell(QString::number(o.surfaces[i].data.points.size()), true));
            offer_table_->setItem(static_cast<int>(i), 2, cell(QString::number(o.surfaces[i].data.faces.size()), true));
        }
    }
    offer_table_->setVisible(o.form != SiteForm::Picture);
    // Where there is existing ground, the next surface is probably the finished one.
    bool existing = false;
    for (const Surface& s : document_.project().surfaces) existing |= s.role == SurfaceRole::Existing;
    role_->setCurrentIndex(existing ? 1 : 0);
    if (!problems.isEmpty()) head += "<br>" + QString(problems).toHtmlEscaped().replace('\n', "<br>");
    offer_text_->setText(head);
    pages_->setCurrentIndex(1);
    filling_ = false;
    emit offered();
}

void GroundPanel::take_as_surface() {
    if (!offer_ || busy_) return;
    std::vector<bool> on;
    if (offer_->form != SiteForm::Points)
        for (int r = 0; r < offer_table_->rowCount(); ++r)
            on.push_back(offer_table_->item(r, 0)->checkState() == Qt::Checked);
    set_busy("Joining the points to triangles …");
    const double unit = unit_metres();
    const bool unit_shown = unit_->isVisibleTo(this);
    worker_.run([this, offer = std::shared_ptr<const SiteOffer>(offer_), on, unit, unit_shown, columns = columns_,
                 generation = document_.generation(), role = static_cast<SurfaceRole>(role_->currentIndex()),
                 assets = document_.assets()](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        std::vector<SurfaceImport> imports;
        if (offer->form == SiteForm::Points) {
            PointsLayout layout = offer->layout;
            layout.unit = unit;
            layout.columns = columns;
            imports.push_back(read_points(offer->bytes, layout, stop));
            imports.back().name = offer->name;
        } else if (offer->form == SiteForm::Drawing) {
            const DrawingOutcome read = unit_shown && std::abs(unit - offer->drawing.unit) > 1e-12
                                            ? read_dxf(offer->bytes, unit, stop)
                                            : DrawingOutcome{true, offer->drawing, {}};
            imports.push_back(surface_of(read.drawing, on));
            imports.back().name = offer->name;
        } else
            for (std::size_t i = 0; i < offer->surfaces.size(); ++i)
                if (offer->surfaces[i].ok && (i >= on.size() || on[i])) imports.push_back(offer->surfaces[i]);
        std::vector<SurfaceOffer> made;
        for (const SurfaceImport& import : imports) made.push_back(make_surface(import, offer->path, stop));
        for (SurfaceOffer& s : made)
            if (s.ok) s.asset = assets->add(std::move(s.text));  // on the disk before the Edit that needs it
        if (stop.stop_requested()) return;
        turn.tell([this, made = std::move(made), role, generation] {
            set_busy({});
            if (another_project(generation)) return;
            QString words;
            bool good = false;
            Editing all(document_.project(), "");
            Edit edit;
            Project now = document_.project();
            for (const SurfaceOffer& s : made) {
                if (!s.ok) {
                    words += text(s.name) + ": " + problems_in_words(s.problems) + "\n";
                    continue;
                }
                good = true;
                const Edit one = surface_edit(now, *document_.assets(), s, role);
                apply(now, one);
                edit.name = one.name;
                edit.changes.insert(edit.changes.end(), one.changes.begin(), one.changes.end());
                const UnitSet u = document_.units();
                words += QString("%1: %2 points, %3 triangles, %4, levels %5 to %6.")
                             .arg(text(s.name))
                             .arg(s.points)
                             .arg(s.triangles)
                             .arg(text(u.text(s.area, Quantity::Area)), text(u.number(s.low, Quantity::Level)),
                                  text(u.text(s.high, Quantity::Level)));
                for (const std::string& r : s.remarks) words += " " + text(r) + ".";
                if (!s.problems.empty()) words += " " + problems_in_words(s.problems);
                words += "\n";
            }
            if (good) {
                document_.commit(std::move(edit));
                offer_.reset();
                pages_->setCurrentIndex(0);
            }
            say(words.trimmed(), !good);
        });
    });
}

void GroundPanel::take_as_background() {
    if (!offer_ || busy_) return;
    const double unit = unit_metres();
    std::string hidden;
    if (offer_->form == SiteForm::Drawing)
        for (int r = 0; r < offer_table_->rowCount(); ++r)
            if (offer_table_->item(r, 0)->checkState() != Qt::Checked)
                hidden += (hidden.empty() ? "" : ";") + plain(offer_table_->item(r, 0)->text());
    set_busy("Keeping the file …");
    worker_.run([this, offer = std::shared_ptr<const SiteOffer>(offer_), hidden, unit,
                 generation = document_.generation(), assets = document_.assets()](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        std::string hash = assets->add(offer->bytes);
        if (stop.stop_requested()) return;
        turn.tell([this, offer, hidden, unit, generation, hash = std::move(hash)] {
            set_busy({});
            say({});
            if (another_project(generation)) return;
            SiteOffer kept = offer->without_content();
            kept.drawing.unit = unit;
            kept.asset = hash;
            Edit edit = background_edit(document_.project(), *document_.assets(), kept);
            for (Change& c : edit.changes)
                if (auto* i = std::get_if<Insert>(&c))
                    if (auto* row = std::get_if<Background>(&i->row.change())) row->hidden = hidden;
            offer_.reset();
            pages_->setCurrentIndex(0);
            document_.commit(std::move(edit));
        });
    });
}

void GroundPanel::dismiss() {
    offer_.reset();
    pages_->setCurrentIndex(0);
    say({});
}

ElementRef GroundPanel::current() const {
    const QTreeWidgetItem* item = tree_->currentItem();
    if (!item) return {};
    if (item->parent()) item = item->parent();
    return {static_cast<Kind>(item->data(0, Qt::UserRole).toInt()), item->data(0, Qt::UserRole + 1).toULongLong()};
}

void GroundPanel::refresh() {
    const ElementRef was = current();
    const QString layer =
        tree_->currentItem() && tree_->currentItem()->parent() ? tree_->currentItem()->text(0) : QString();
    filling_ = true;
    tree_->clear();
    const auto row_item = [this](Kind kind, std::uint64_t id, const std::string& name, const QString& what,
                                 bool shown) {
        auto* item = new QTreeWidgetItem(tree_, {text(name), what});
        item->setData(0, Qt::UserRole, static_cast<int>(kind));
        item->setData(0, Qt::UserRole + 1, QVariant::fromValue<qulonglong>(id));
        item->setCheckState(0, shown ? Qt::Checked : Qt::Unchecked);
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        return item;
    };
    QTreeWidgetItem* chosen = nullptr;
    for (const Surface& s : document_.project().surfaces) {
        const SiteSurface* site = document_.site().surface(s.id);
        constexpr const char* roles[] = {"existing", "finished", "other"};
        auto* item =
            row_item(Kind::Surface, s.id, s.name,
                     QString(nth(roles, s.role)) + (site && !site->fault.isEmpty() ? ", missing" : ""), s.visible);
        if (was == ElementRef{Kind::Surface, s.id} || (!was.id && !chosen)) chosen = item;
    }
    for (const Background& b : document_.project().backgrounds) {
        const SiteBackground* site = document_.site().background(b.id);
        auto* item = row_item(Kind::Background, b.id, b.name,
                              QString(b.content == BackgroundContent::Drawing ? "drawing" : "picture") +
                                  (site && !site->fault.isEmpty() ? ", missing" : ""),
                              b.visible);
        if (site && site->drawing) {
            const QStringList hidden = hidden_layers(b);
            for (const std::string& l : site->drawing->layers) {
                auto* child = new QTreeWidgetItem(item, {text(l), "layer"});
                child->setCheckState(0, hidden.contains(text(l)) ? Qt::Unchecked : Qt::Checked);
                if (was == ElementRef{Kind::Background, b.id} && text(l) == layer) chosen = child;
            }
            item->setExpanded(true);
        }
        if (was == ElementRef{Kind::Background, b.id} && layer.isEmpty()) chosen = item;
    }
    if (chosen) tree_->setCurrentItem(chosen);
    filling_ = false;
    refresh_low();
}

void GroundPanel::refresh_low() {
    if (filling_) return;
    const ElementRef e = current();
    const SiteSurface* s = e.kind == Kind::Surface ? document_.site().surface(e.id) : nullptr;
    const UnitSet u = document_.units();
    low_->setRowCount(0);
    low_->setVisible(s && s->terrain);
    findChild<QPushButton*>("inlets-at-low-points")->setVisible(s && s->terrain && !s->depressions.empty());
    findChild<QPushButton*>("pipes-from-layer")->setVisible(e.kind == Kind::Background && e.id);
    if (!e.id) {
        detail_->setText(
            "Import a survey, a grid, a drawing or a picture: what it offers is shown here before it is taken.");
        return;
    }
    if (e.kind == Kind::Background) {
        const Background* row = document_.project().backgrounds.find(e.id);
        const SiteBackground* b = document_.site().background(e.id);
        detail_->setText(
            (row ? "<b>" + text(row->name).toHtmlEscaped() + "</b> from " + text(row->source).toHtmlEscaped()
                 : QString()) +
            (b && !b->fault.isEmpty() ? "<br>It is not shown: " + b->fault.toHtmlEscaped() + "." : QString()) +
            "<br>Tick a layer to show it. Choose one to make pipes of its lines.");
        return;
    }
    const Surface* row = document_.project().surfaces.find(e.id);
    if (!row) return;
    QString words = "<b>" + text(row->name).toHtmlEscaped() + "</b> from " + text(row->source).toHtmlEscaped();
    if (!row->note.empty()) words += "<br>" + text(row->note).toHtmlEscaped();
    if (!s || !s->terrain) {
        detail_->setText(words + "<br>" +
                         (s && !s->fault.isEmpty() ? "It is not shown: " + s->fault.toHtmlEscaped() + "."
                                                   : QString("being read …")));
        return;
    }
    const auto& box = s->terrain->bounds();
    detail_->setText(words + QString(": %1 points, levels %2 to %3. %4 low points deeper than %5.")
                                 .arg(s->terrain->points().size())
                                 .arg(text(u.number(box.low, Quantity::Level)), text(u.text(box.high, Quantity::Level)))
                                 .arg(s->depressions.size())
                                 .arg(text(u.text(row->least_depth, Quantity::Length))));
    const bool us = u.system() == UnitSystem::Us;
    const auto unit = [&](Quantity q) { return " " + text(u.unit(q).symbol); };
    low_->setHorizontalHeaderLabels({"Level" + unit(Quantity::Level), "Depth" + unit(Quantity::Length),
                                     QString(us ? "Area ft²" : "Area m²"), "East" + unit(Quantity::Length),
                                     "North" + unit(Quantity::Length)});
    const std::size_t shown = std::min<std::size_t>(s->depressions.size(), 500);
    low_->setRowCount(static_cast<int>(shown));
    for (std::size_t i = 0; i < shown; ++i) {
        const Depression& d = s->depressions[i];
        const QString cells[] = {
            text(u.number(d.bottom_level, Quantity::Level)), text(u.number(d.depth(), Quantity::Length)),
            QString::number(us ? d.area / (international_foot * international_foot) : d.area, 'f', 0),
            text(u.number(d.bottom.x, Quantity::Length)), text(u.number(d.bottom.y, Quantity::Length))};
        for (int c = 0; c < 5; ++c) low_->setItem(static_cast<int>(i), c, cell(cells[c], true));
    }
}

void GroundPanel::tree_changed(QTreeWidgetItem* item) {
    if (filling_) return;
    const bool on = item->checkState(0) == Qt::Checked;
    QTreeWidgetItem* top = item->parent() ? item->parent() : item;
    const Kind kind = static_cast<Kind>(top->data(0, Qt::UserRole).toInt());
    const std::uint64_t id = top->data(0, Qt::UserRole + 1).toULongLong();
    Editing e(document_.project(), (on ? "Show " : "Hide ") + plain(item->text(0)));
    if (item == top) e.set(kind, id, "visible", on);
    else {
        QStringList hidden;
        for (int i = 0; i < top->childCount(); ++i)
            if (top->child(i)->checkState(0) != Qt::Checked) hidden << top->child(i)->text(0);
        e.set(kind, id, "hidden", plain(hidden.join(';')));
    }
    // The tree is made anew by the change: not from inside its own signal.
    QMetaObject::invokeMethod(
        this, [this, edit = e.take()] { document_.commit(edit); }, Qt::QueuedConnection);
}

void GroundPanel::inlets_at_low_points() {
    const SiteSurface* s = document_.site().surface(current().id);
    if (!s) return;
    std::vector<Point> places;
    const auto rows = low_->selectionModel()->selectedRows();
    for (std::size_t i = 0; i < s->depressions.size(); ++i) {
        bool chosen = rows.isEmpty();
        for (const QModelIndex& r : rows) chosen |= static_cast<std::size_t>(r.row()) == i;
        if (chosen) places.push_back(s->depressions[i].bottom);
    }
    Edit edit = inlets_at(document_.project(), places, 2, [this](Point p) { return document_.ground_level(p); });
    if (edit.empty()) {
        say("There is a structure at each of these low points already.");
        return;
    }
    emit preview_wanted(QString("%1 inlets at low points").arg(edit.changes.size()), edit);
}

void GroundPanel::pipes_from_layer() {
    const ElementRef e = current();
    const SiteBackground* b = document_.site().background(e.id);
    if (!b || !b->drawing) return;
    const QTreeWidgetItem* item = tree_->currentItem();
    int layer = -1;
    if (item && item->parent())
        for (std::size_t i = 0; i < b->drawing->layers.size(); ++i)
            if (text(b->drawing->layers[i]) == item->text(0)) layer = static_cast<int>(i);
    if (layer < 0) {
        say("Choose a layer of the drawing first.");
        return;
    }
    std::vector<std::vector<Point>> lines;
    for (const Drawing::Line& l : b->drawing->lines) {
        if (l.layer != layer) continue;
        auto& line = lines.emplace_back();
        for (const GroundPoint& p : l.points) line.push_back({p.x, p.y});
    }
    set_busy("Making pipes of the lines …");
    worker_.run([this, project = document_.project(), lines = std::move(lines), ground = document_.site().ground(),
                 revision = document_.revision()](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        auto made = std::make_shared<const FromLines>(pipes_from_lines(
            project, lines, 0.1, [&ground](Point p) { return std::round(ground.elevation(p) * 1000) / 1000; }));
        if (stop.stop_requested()) return;
        turn.tell([this, made, count = lines.size(), revision] {
            set_busy({});
            say({});
            if (revision != document_.revision()) say("The project was changed meanwhile: ask again.");
            else if (made->edit.empty())
                say("The lines of this layer make no pipe: they are too short, or pipes lie there already.");
            else
                emit preview_wanted(QString("%1 pipes and %2 structures from %3 lines, %4 left out")
                                        .arg(made->pipes)
                                        .arg(made->structures)
                                        .arg(count)
                                        .arg(made->skipped),
                                    made->edit);
        });
    });
}

}  // namespace culvert::app
