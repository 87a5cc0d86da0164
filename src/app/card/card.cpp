// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/card/card.h"

#include <QApplication>
#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QToolTip>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/base/numbers.h"
#include "core/model/lay.h"

namespace culvert::app {

Canvas::Canvas(const QString& name, Draw draw, QWidget* parent) : QWidget(parent), draw_(std::move(draw)) {
    setObjectName(name);
    setAccessibleName(name);
    setMouseTracking(true);
    QSizePolicy policy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setSizePolicy(policy);
}
void Canvas::refresh() {
    QPixmap scratch(1, 1);
    QPainter p(&scratch);
    places_.clear();
    setFixedHeight(static_cast<int>(std::ceil(draw_(p, width(), places_))));
    update();
}
void Canvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    std::vector<Place> places;
    draw_(p, width(), places);
}
void Canvas::resizeEvent(QResizeEvent*) { refresh(); }
void Canvas::mousePressEvent(QMouseEvent* e) {
    for (const Place& place : places_)
        if (place.click && place.rect.contains(e->position())) {
            const auto click = place.click;  // it may change the document, and so these places
            click();
            return;
        }
}
void Canvas::mouseMoveEvent(QMouseEvent* e) {
    bool hand = false;
    for (const Place& place : places_) hand |= place.click && place.rect.contains(e->position());
    setCursor(hand ? Qt::PointingHandCursor : Qt::ArrowCursor);
}
bool Canvas::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(e);
        for (const Place& place : places_)
            if (!place.tip.isEmpty() && place.rect.contains(help->pos())) {
                QToolTip::showText(help->globalPos(), place.tip, this);
                return true;
            }
        QToolTip::hideText();
        return true;
    }
    return QWidget::event(e);
}

Card::Card(Document& document, QWidget* parent) : QScrollArea(parent), document_(document) {
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setMinimumWidth(304);
    setAccessibleName("Card");
    connect(&document_, &Document::selection_changed, this, &Card::rebuild);
    // What was typed stands in its field already: the rest follows with the results, or soon where they keep one
    // waiting.
    late_.setSingleShot(true);
    late_.setInterval(25);
    connect(&late_, &QTimer::timeout, this, &Card::rebuild);
    connect(&document_, &Document::changed, this, [this](const ChangeSet& what) {
        if (concerns(what)) late_.start();
    });
    connect(&document_, &Document::results_changed, this, [this](const ResultsChange& what) {
        if (what.viewed) {
            late_.stop();
            QMetaObject::invokeMethod(this, &Card::rebuild, Qt::QueuedConnection);
        } else if (what.others)
            for (Canvas* c : canvases_)
                if (c->objectName() == "service") c->refresh();
    });
    connect(&document_, &Document::event_changed, this, &Card::rebuild);  // of Rain it shows the event itself
    connect(&document_, &Document::age_changed, this, &Card::refresh);
    connect(&document_, &Document::advice_changed, this, [this] {
        for (Canvas* c : canvases_)
            if (c->objectName() == "section") c->refresh();
    });
    rebuild();
}

FieldEdit* Card::field(Kind kind, const char* key) const {
    for (FieldEdit* f : fields_)
        if (f->info().key == key && infos_of(kind)[*field_index(kind, key)] == &f->info()) return f;
    return nullptr;
}
Canvas* Card::canvas(const QString& name) const {
    for (Canvas* c : canvases_)
        if (c->objectName() == name) return c;
    return nullptr;
}

int Card::node() const {
    const auto r = document_.result();
    return r ? r->network->node_of(document_.selected()) : no_node;
}
int Card::link() const {
    const auto r = document_.result();
    const ElementRef s = document_.selected();
    return r && s.kind == Kind::Pipe ? r->network->link_of(PipeId{s.id}) : no_link;
}

/// The structure of a pond, an outlet or a release; none for another row.
static StructureId storage_of_row(const Project& p, ElementRef e) {
    if (const Pond* row = e.kind == Kind::Pond ? p.ponds.find(e.id) : nullptr) return row->structure;
    if (const PondOutlet* row = e.kind == Kind::PondOutlet ? p.outlets.find(e.id) : nullptr) return row->structure;
    if (const Release* row = e.kind == Kind::Release ? p.releases.find(e.id) : nullptr) return row->structure;
    return {};
}

QString Card::signature() const {
    QString s = QString(theme().dark ? "d%1" : "l%1").arg(static_cast<int>(first_));
    if (document_.selection().size() > 400) {
        std::uint64_t mixed = document_.selection().size();
        for (const ElementRef e : document_.selection()) mixed = mixed * 1099511628211ULL ^ e.id;
        s += QString("%1 ").arg(mixed);
    } else
        for (const ElementRef e : document_.selection()) s += QString("%1:%2 ").arg(static_cast<int>(e.kind)).arg(e.id);
    const ElementRef e = document_.selected();
    const Project& p = document_.project();
    if (p.settings().system == UnitSystem::Us) s += "us";
    // What the heading says.
    if (e.id) s += text(element_name(p, e.kind, e.id));
    else {
        s += text(p.settings().title) + "/" + text(p.settings().place);
        if (const RainEvent* event = p.events.find(document_.event().value); event && first_ == CardPart::Event)
            s += QString("e%1g%2").arg(event->id).arg(number_of(event->given)) + text(event->name);
    }
    if (e.kind == Kind::Pipe)
        if (const Pipe* row = p.pipes.find(e.id))
            s += text(document_.units().text(length_of(p, *row), Quantity::Length));
    if (e.kind == Kind::Catchment)
        if (const Catchment* row = p.catchments.find(e.id))
            s +=
                text(element_name(p, Kind::Structure, row->structure.value)) + QString::number(number_of(row->time_by));
    if (e.kind == Kind::Structure) {
        if (const Structure* row = p.structures.find(e.id))
            s += QString("k%1t%2c%3")
                     .arg(number_of(row->kind))
                     .arg(number_of(row->tailwater))
                     .arg(row->channel_width > 0);
        for (const OutfallLevel& l : p.outfall_levels)
            if (l.structure.value == e.id) s += QString("o%1").arg(l.id % 9973);
        for (const Catchment& c : p.catchments)
            if (c.structure.value == e.id) s += QString("c%1").arg(c.id);
    }
    if (e.kind == Kind::Structure || storage_of_row(p, e)) {
        s += QString("r%1").arg(number_of(p.settings().runoff_by));
        for (const Pond& row : p.ponds) s += QString("p%1k%2").arg(row.id % 9973).arg(number_of(row.storage_by));
        for (const PondOutlet& row : p.outlets) s += QString("w%1k%2").arg(row.id % 9973).arg(number_of(row.kind));
        for (const Release& row : p.releases) s += QString("a%1").arg(row.id % 9973);
    }
    if (e.kind == Kind::Catchment || e.kind == Kind::LandCover) {
        s += QString("r%1l%2").arg(number_of(p.settings().runoff_by)).arg(number_of(p.settings().losses));
        if (const Catchment* row = p.catchments.find(e.id))
            s += QString("l%1t%2").arg(number_of(row->losses)).arg(number_of(row->transform));
        if (const LandCover* row = p.land_covers.find(e.id)) s += QString("l%1").arg(number_of(row->losses));
    }
    if (e.kind == Kind::Street) {
        if (const Street* row = p.streets.find(e.id)) s += QString("l%1").arg(row->levels.size());
        for (const StreetSection& row : p.street_sections) s += QString("x%1").arg(row.id % 9973);
    }
    if (e.kind == Kind::Pipe)
        if (const Pipe* row = p.pipes.find(e.id))
            s += QString("s%1l%2t%3%4")
                     .arg(number_of(row->shape))
                     .arg(row->size_locked)
                     .arg(row->tie_from.empty())
                     .arg(row->tie_to.empty());
    if (e.kind == Kind::Catchment || e.kind == Kind::Structure)
        for (const LandCover& l : p.land_covers) s += QString("v%1").arg(l.id % 9973);
    return s;
}

void Card::rebuild() {
    const QString now = signature();
    if (now == built_) {
        refresh();
        return;
    }
    // What has the focus is kept where the same field stands in the new card.
    QString focus;
    if (QWidget* w = QApplication::focusWidget(); w && content_ && content_->isAncestorOf(w)) focus = w->objectName();
    built_ = now;
    fields_.clear();
    many_.clear();
    canvases_.clear();
    if (QWidget* old = takeWidget()) {  // it may be one of its own fields that asked for this
        old->hide();
        old->deleteLater();
    }
    content_ = new QWidget;
    content_->setStyleSheet(QString("QWidget#card{background:%1}").arg(theme().panel.name()));
    content_->setObjectName("card");
    column_ = new QVBoxLayout(content_);
    column_->setContentsMargins(16, 14, 16, 16);
    column_->setSpacing(5);
    const ElementRef s = document_.selected();
    if (document_.selection().size() > 1) many_card();
    else if (s.kind == Kind::Pipe && s.id) pipe_card(s.id);
    else if (s.kind == Kind::Structure && s.id) structure_card(s.id);
    else if (s.kind == Kind::Catchment && s.id) catchment_card(s.id);
    else if (s.kind == Kind::LandCover && s.id) cover_card(s.id);
    else if (const StructureId at = storage_of_row(document_.project(), s)) structure_card(at.value);
    else if (s.kind == Kind::Street && s.id) street_card(s.id);
    else if (s.kind == Kind::StreetPath && s.id) path_card(s.id);
    else if (s.kind == Kind::BuriedLine && s.id) buried_card(s.id);
    else project_card();
    column_->addStretch(1);
    setWidget(content_);
    refresh();
    if (!focus.isEmpty())
        if (auto* w = content_->findChild<QWidget*>(focus)) w->setFocus();
}

/// Whether a change may be seen here: of what is selected, or of a kind that its parts show.
bool Card::concerns(const ChangeSet& what) const {
    const ElementRef e = document_.selected();
    if (!e.id || !what.listed() || document_.selection().size() > 1) return true;
    for (const ElementRef row : what.rows())
        if (row == e || (row.kind != Kind::Structure && row.kind != Kind::Pipe)) return true;
    return e.kind != Kind::Structure && e.kind != Kind::Pipe ? true : what.topology() || what.touches(Kind::Structure);
}

void Card::refresh() {
    for (FieldEdit* f : fields_) f->refresh();
    for (MultiEdit* f : many_) f->refresh();
    for (Canvas* c : canvases_) c->refresh();
}

void Card::add_heading(const QString& name, const QString& what) {
    add_heading(name, [what] { return what; });
}
void Card::add_heading(const QString& name, std::function<QString()> told) {
    add_canvas("heading", [name, told = std::move(told)](QPainter& p, double width, auto&) {
        const QString what = told();
        p.setFont(lettering(14, true));
        p.setPen(theme().ink);
        const QFontMetricsF m(p.font());
        const QString shown = m.elidedText(name, Qt::ElideRight, width - 20);
        p.drawText(QPointF(0, 20), shown);
        const double w = m.horizontalAdvance(shown);
        p.setFont(lettering(9));
        p.setPen(theme().quiet);
        const bool beside = w + 14 + QFontMetricsF(p.font()).horizontalAdvance(what) < width;
        p.drawText(beside ? QPointF(w + 14, 20) : QPointF(0, 38), what);
        return beside ? 28.0 : 46.0;
    });
}
void Card::add_title(const QString& title) {
    add_canvas("title-" + title, [title](QPainter& p, double width, auto&) {
        p.setPen(QPen(theme().hairline, 1));
        p.drawLine(QPointF(0, 4.5), QPointF(width, 4.5));
        p.setFont(lettering(9.5, true));
        p.setPen(theme().ink);
        p.drawText(QPointF(0, 23), title);
        return 28.0;
    });
}
void Card::add_field(Kind kind, std::uint64_t id, const char* key) {
    auto* f = new FieldEdit(document_, kind, id, key);
    fields_.push_back(f);
    column_->addWidget(f);
}
Canvas* Card::add_canvas(const QString& name, Canvas::Draw draw) {
    auto* c = new Canvas(name, std::move(draw));
    canvases_.push_back(c);
    column_->addWidget(c);
    return c;
}

void Card::project_card() {
    const Settings& s = document_.project().settings();
    add_heading(s.title.empty() ? "New project" : text(s.title), text(s.place));
    if (first_ == CardPart::Event && document_.event()) {
        add_event();
        add_title("Project");
    }
    for (const char* key : {"title", "place", "note", "system", "display"}) add_field(Kind::Settings, settings_id, key);
    add_title("Method");
    for (const char* key : {"least_time", "uplift", "travel_velocity", "capacity_basis", "flooded_level", "loss_by",
                            "loss_inlet", "loss_manhole"})
        add_field(Kind::Settings, settings_id, key);
    add_title("New pipes and structures");
    for (const char* key : {"default_size", "default_slope", "default_cover", "default_drop", "default_rim"})
        add_field(Kind::Settings, settings_id, key);
}

/// The viewed event, however its rain is given.
void Card::add_event() {
    const RainEvent* e = document_.project().events.find(document_.event().value);
    if (!e) return;
    add_title("Rain of " + text(e->name));
    for (const char* key : {"name", "return_period", "role", "frequency_factor", "given"})
        add_field(Kind::Event, e->id, key);
    if (e->given == RainGiven::Intensities) return;  // they stand in the rain table
    add_field(Kind::Event, e->id, "depth");
    if (e->given == RainGiven::Uniform || e->given == RainGiven::OwnPattern)
        add_field(Kind::Event, e->id, "storm_length");
    if (e->given == RainGiven::OwnPattern)
        for (const char* key : {"pattern_shares", "pattern_times"}) add_field(Kind::Event, e->id, key);
}

void Card::set_first(CardPart part) {
    if (part == first_) return;
    first_ = part;
    rebuild();
}

void Card::add_parts(std::vector<Part> parts) {
    std::stable_partition(parts.begin(), parts.end(), [this](const Part& p) { return p.first == first_; });
    order_.clear();
    for (const auto& [part, add] : parts) {
        order_.push_back(part);
        add();
    }
}

QString head_words(const Structure& s) {
    return text(structure_word(s.kind)) + (s.status == Status::Abandoned ? ", abandoned" : "");
}
QString head_words(const Project& project, const Pipe& p) {
    return (p.barrels >= 2 ? text(general(std::floor(p.barrels), 6)) + " barrels, " : QString("pipe, ")) +
           text(units_of(project).text(length_of(project, p), Quantity::Length)) +
           (p.status == Status::Abandoned ? ", abandoned" : "");
}

void Card::structure_card(std::uint64_t id) {
    const Structure* s = document_.project().structures.find(id);
    add_heading(text(s->name), [this, id] {
        const Structure* now = document_.project().structures.find(id);
        return now ? head_words(*now) : QString();
    });
    if (s->kind != StructureKind::Pond) add_structure_drawing(id);
    std::vector<Part> parts;
    const bool outfall = s->kind == StructureKind::Outfall;
    if (!outfall) parts.emplace_back(CardPart::Verdicts, [this] { add_verdicts(); });
    parts.emplace_back(CardPart::Cause, [this] { add_budget(); });
    if (!outfall) parts.emplace_back(CardPart::Service, [this] { add_service(); });
    parts.emplace_back(CardPart::Results, [this, id] {
        add_ways(id);
        add_results();
    });
    parts.emplace_back(CardPart::Inputs, [this, id] { add_structure_inputs(id); });
    if (!outfall) parts.emplace_back(CardPart::Drains, [this, id] { add_drains(id); });
    if (s->kind == StructureKind::Inlet) parts.emplace_back(CardPart::Street, [this, id] { add_street(id); });
    if (s->kind != StructureKind::Joint) parts.emplace_back(CardPart::Storage, [this, id] { add_storage(id); });
    add_parts(std::move(parts));
}

void Card::add_structure_inputs(std::uint64_t id) {
    const Structure* s = document_.project().structures.find(id);
    add_title("Inputs");
    for (const char* key : {"name", "kind", "rim"}) add_field(Kind::Structure, id, key);
    if (s->kind != StructureKind::Inlet) add_field(Kind::Structure, id, "type");
    if (s->kind == StructureKind::Outfall) {
        add_outfall(id);
        return;
    }
    for (const char* key :
         {"sump", "known_flow", "loss_by", "loss", "status", "group", "description", "note", "note_source"})
        add_field(Kind::Structure, id, key);
}

void Card::add_drains(std::uint64_t id) {
    const Structure* s = document_.project().structures.find(id);
    bool drained = false;
    for (const Catchment& c : document_.project().catchments) {
        if (c.structure.value != id) continue;
        drained = true;
        add_title("Drains here: " + text(c.name));
        for (const char* key : {"area", "coefficient", "time"}) add_field(Kind::Catchment, c.id, key);
        const bool covers = std::any_of(document_.project().land_covers.begin(), document_.project().land_covers.end(),
                                        [&](const LandCover& l) { return l.catchment.value == c.id; });
        if (covers)
            add_canvas("covers", [](QPainter& p, double, auto&) {
                p.setPen(theme().near);
                p.setFont(lettering(8.5));
                p.drawText(QPointF(0, 14), "its land covers make area and C");
                return 20.0;
            });
    }
    if (drained || s->kind == StructureKind::Joint) return;
    add_title("Drains here: nothing yet");
    const std::uint64_t fresh = random_id();
    for (const char* key : {"area", "coefficient", "time"}) {
        add_field(Kind::Catchment, fresh, key);
        fields_.back()->set_maker([this, id, fresh, key](Value v) {
            Editing e(document_.project(), "Catchment of " + element_name(document_.project(), Kind::Structure, id));
            Catchment c;
            c.id = fresh;
            c.structure = {id};
            c.name = element_name(document_.project(), Kind::Structure, id) + " area";
            e.insert(c);
            e.set(Kind::Catchment, fresh, key, std::move(v));
            return e.take();
        });
    }
}

}  // namespace culvert::app
