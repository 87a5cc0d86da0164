// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/charts/storage_view.h"

#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPdfWriter>
#include <QPushButton>
#include <QSvgGenerator>
#include <QToolTip>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/analysis/result_fields.h"
#include "core/base/clock.h"
#include "core/network/through_time.h"
#include "report/storage_tables.h"

namespace culvert::app {

QString clock_text(double seconds) { return text(minutes_text(seconds)); }

StorageView::StorageView(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(150);
    setAccessibleName("Pond in section and hydrographs");
    pictures_ = new QComboBox(this);
    pictures_->setObjectName("storage-picture");
    pictures_->setAccessibleName("What the chart shows");
    pictures_->setToolTip("Through time; outflow by level; area and volume by level; what leaves against what comes");
    pictures_->addItems({"through time", "outflow by level", "space by level", "out against in"});
    connect(pictures_, &QComboBox::currentIndexChanged, this, [this] { update(); });
    begin_ = new QPushButton("Compute hydrographs", this);
    begin_->setObjectName("storage-first");
    begin_->setToolTip("Runoff by the NRCS unit hydrograph in place of the rational method; it can be undone");
    connect(begin_, &QPushButton::clicked, this, [this] {
        Editing e(document_.project(), "Runoff by unit hydrograph");
        e.set(Kind::Settings, settings_id, "runoff_by", RunoffBy::UnitHydrograph);
        document_.commit(e.take());
    });
    const auto refresh = [this] {
        begin_->setVisible(document_.project().settings().runoff_by == RunoffBy::Rational);
        dirty_ = true;
        if (isVisible()) update();
    };
    connect(&document_, &Document::changed, this, refresh);
    connect(&document_, &Document::event_changed, this, refresh);
    connect(&document_, &Document::selection_changed, this, refresh);
    connect(&document_, &Document::results_changed, this, refresh);
    connect(&document_, &Document::age_changed, this, [this] { update(); });
    refresh();
}

void StorageView::showEvent(QShowEvent*) { update(); }

/// The selected structure or pond outlet's structure; else the one shown before; else the first pond.
void StorageView::choose() {
    const Project& p = document_.project();
    const ElementRef e = document_.selected();
    StructureId wanted;
    if (e.kind == Kind::Structure) wanted = {e.id};
    else if (e.kind == Kind::Pipe && p.pipes.find(e.id)) wanted = p.pipes.find(e.id)->from;
    else if (e.kind == Kind::Catchment && p.catchments.find(e.id)) wanted = p.catchments.find(e.id)->structure;
    if (e.kind == Kind::Pond && p.ponds.find(e.id)) wanted = p.ponds.find(e.id)->structure;
    if (e.kind == Kind::PondOutlet && p.outlets.find(e.id)) wanted = p.outlets.find(e.id)->structure;
    if (!wanted && structure_ && p.structures.find(structure_.value)) wanted = structure_;
    if (!wanted && p.ponds.size() > 0) wanted = p.ponds.begin()->structure;
    if (wanted != structure_) {
        structure_ = wanted;
        zoomed_ = false;
        others_.clear();
        others_of_ = 0;
        before_.clear();
        before_of_ = 0;
    }
}

const PondNode* StorageView::pond() const {
    const auto r = document_.result();
    const int node = r ? r->network->node_of(structure_) : no_node;
    return node == no_node ? nullptr : pond_node_at(*r, static_cast<std::size_t>(node));
}

void StorageView::gather() {
    dirty_ = false;
    choose();
    series_.clear();
    allowed_ = required_ = not_given;
    const auto r = document_.result();
    if (!r || !structure_ || !r->network->through_time) return;
    // Ponds and outfalls have their series with the results; others are sought.
    for (const Series& s : r->series)
        if (s.element.id == structure_.value) series_.push_back(s);
    // A pond shows the viewed event alone: its other events need not be sought.
    if (others_of_ != r->revision && !series("level")) seek_others();
    if (before_variant_ && before_of_ != document_.revision()) seek_before();
    if (series_.empty())
        for (const SiteHydrographs& h : others_)
            if (h.event == document_.event()) series_ = h.series;
    const int node = r->network->node_of(structure_);
    if (node != no_node) allowed_ = allowed_release(*r, static_cast<std::size_t>(node));
    const Series* in = series("inflow");
    if (in && !std::isnan(allowed_))
        required_ = required_volume(in->values, in->step, allowed_, r->network->through_time->cut);
    if (in && !zoomed_) {
        // From the beginning of the rain until little runs any more.
        double peak = 0;
        std::size_t begin = in->values.size(), end = 0;
        for (const char* key : {"inflow", "flow"})
            if (const Series* s = series(key)) {
                for (const double v : s->values) peak = std::max(peak, v);
                for (std::size_t i = 0; i < s->values.size(); ++i)
                    if (s->values[i] > 0.01 * peak) begin = std::min(begin, i), end = std::max(end, i);
            }
        first_ = begin > end ? 0 : std::max(0.0, (static_cast<double>(begin) - 30) * in->step);
        last_ = std::max(first_ + 10 * in->step, static_cast<double>(end + 30) * in->step);
        if (time_ < first_ || time_ > last_)
            if (const Series* s = series("flow")) {
                const auto most = std::max_element(s->values.begin(), s->values.end());
                time_ = (static_cast<double>(most - s->values.begin()) + 1) * s->step;
                emit time_chosen(time_);
            }
    }
    say_at(time_);
}

/// Hydrographs of all events, beside the work.
void StorageView::seek_others() {
    if (!isVisible() || document_.has_pending()) return;
    const std::uint64_t revision = document_.revision();
    others_of_ = revision;
    seeker_.run([this, project = document_.project(), structure = structure_, revision,
                 known = document_.all_results()](const Turn& turn) {
        auto found = hydrographs_at(project, structure, turn.stop, known);
        turn.tell([this, structure, revision, found = std::move(found)]() mutable {
            if (structure != structure_) return;
            others_ = std::move(found);
            others_of_ = revision;
            dirty_ = true;
            update();
        });
    });
}

void StorageView::set_before(std::optional<std::uint64_t> variant) {
    before_variant_ = variant;
    before_.clear();
    before_of_ = 0;
    before_name_ = "before";
    if (variant)
        if (const Variant* v = document_.base().variants.find(*variant)) before_name_ = text(v->name);
    dirty_ = true;
    update();
}
const Series* StorageView::before_series() const {
    for (const SiteHydrographs& h : before_)
        if (h.event == document_.event()) return h.of("flow");
    return nullptr;
}
/// The same structure in the site before, or the one of its name.
void StorageView::seek_before() {
    if (!before_variant_ || !isVisible() || document_.has_pending()) return;
    before_of_ = document_.revision();
    const std::string name = element_name(document_.project(), Kind::Structure, structure_.value);
    before_seeker_.run(
        [this, project = document_.as_variant(*before_variant_), structure = structure_, name](const Turn& turn) {
            StructureId at = structure;
            if (!project.structures.find(at.value))
                if (const ElementRef e = find_element(project, name); e.kind == Kind::Structure) at = {e.id};
            auto found = hydrographs_at(project, at, turn.stop);
            turn.tell([this, structure, found = std::move(found)]() mutable {
                if (structure != structure_) return;
                before_ = std::move(found);
                update();
            });
        });
}

const Series* StorageView::series(std::string_view key) const {
    for (const Series& s : series_)
        if (s.key == key) return &s;
    return nullptr;
}
double StorageView::at_time(std::string_view key, double time) const {
    const Series* s = series(key);
    if (!s || s->values.empty()) return not_given;
    const auto i =
        static_cast<std::size_t>(std::clamp(time / s->step - 0.5, 0.0, static_cast<double>(s->values.size() - 1)));
    return s->values[i];
}

void StorageView::set_time(double seconds) {
    time_ = std::clamp(seconds, first_, last_);
    say_at(time_);
    update();
    emit time_chosen(time_);
}
void StorageView::say_at(double time) {
    const UnitSet u = document_.units();
    readout_ = clock_text(time);
    const auto add = [&](const char* key, const char* words, Quantity q) {
        if (const double v = at_time(key, time); !std::isnan(v))
            readout_ += QString("   %1 %2").arg(words, text(u.text(v, q)));
    };
    add("inflow", "in", Quantity::Flow);
    add("flow", "out", Quantity::Flow);
    add("level", "level", Quantity::Level);
}

QRectF StorageView::section_area() const {
    if (!pond()) return {};
    return {60, 34, std::max(60.0, width() * 0.36 - 72), std::max(30.0, height() - 62.0)};
}
QRectF StorageView::chart_area() const {
    const double x = pond() ? width() * 0.36 + 62 : 64;
    return {x, 34, std::max(60.0, width() - x - (pond() ? 58 : 20)), std::max(30.0, height() - 62.0)};
}
void StorageView::resizeEvent(QResizeEvent*) {
    pictures_->setGeometry(width() - 150, 4, 140, 23);
    begin_->setGeometry(width() / 2 - 80, height() / 2 + 30, 160, 26);
}

QString StorageView::answers() const {
    const UnitSet u = document_.units();
    QStringList list;
    const auto peak = [&](const char* key, const char* words) {
        const Series* s = series(key);
        if (!s || s->values.empty()) return;
        const auto most = std::max_element(s->values.begin(), s->values.end());
        double volume = 0;
        for (const double v : s->values) volume += v * s->step;
        list << QString("%1: peak %2 at %3, volume %4")
                    .arg(words, text(u.text(*most, Quantity::Flow)),
                         clock_text((static_cast<double>(most - s->values.begin()) + 1) * s->step),
                         text(u.text(volume, Quantity::Volume)));
    };
    peak("inflow", "What comes");
    if (const Series* level = series("level")) {
        peak("flow", "What leaves");
        const double now = at_time("level", time_);
        const auto above = std::count_if(level->values.begin(), level->values.end(), [&](double z) { return z > now; });
        list << QString("Above %1 for %2 in all")
                    .arg(text(u.text(now, Quantity::Level)), clock_text(static_cast<double>(above) * level->step));
    }
    if (!std::isnan(required_)) list << "Volume above the allowed flow: " + text(u.text(required_, Quantity::Volume));
    return list.join("\n");
}

QString StorageView::table() const {
    SiteHydrographs h;
    h.series = series_;
    if (!series_.empty()) h.step = series_.front().step;
    const TextTable t = hydrograph_table(document_.project(), h);
    QStringList lines;
    QStringList head;
    for (std::size_t i = 0; i < t.heads.size(); ++i) head << text(t.heads[i]) + " " + text(t.units[i]);
    lines << head.join('\t');
    for (const auto& row : t.rows) {
        QStringList cells;
        for (const std::string& c : row) cells << text(c);
        lines << cells.join('\t');
    }
    return lines.join('\n') + '\n';
}

QString StorageView::save(const QString& path) {
    const QSize whole = size();
    if (path.endsWith(".svg", Qt::CaseInsensitive)) {
        QSvgGenerator file;
        file.setFileName(path);
        file.setSize(whole);
        file.setViewBox(QRect({}, whole));
        file.setTitle(text(element_name(document_.project(), Kind::Structure, structure_.value)));
        QPainter p;
        if (!p.begin(&file)) return path + " cannot be written.";
        paint_all(p);
        return {};
    }
    if (path.endsWith(".pdf", Qt::CaseInsensitive)) {
        QPdfWriter file(path);
        file.setPageSize(QPageSize(QPageSize::A4));
        file.setPageOrientation(QPageLayout::Landscape);
        QPainter p;
        if (!p.begin(&file)) return path + " cannot be written.";
        const double scale = std::min(file.width() / static_cast<double>(whole.width()),
                                      file.height() / static_cast<double>(whole.height()));
        p.scale(scale, scale);
        paint_all(p);
        return {};
    }
    return grab().save(path) ? QString() : path + " cannot be written.";
}

void StorageView::contextMenuEvent(QContextMenuEvent* e) {
    QMenu menu(this);
    menu.addAction("Copy as a table", this, [this] { QApplication::clipboard()->setText(table()); });
    menu.addAction("Copy as a picture", this, [this] { QApplication::clipboard()->setPixmap(grab()); });
    menu.addAction("Copy the answers", this, [this] { QApplication::clipboard()->setText(answers()); });
    menu.addSeparator();
    QMenu* beside = menu.addMenu("The site before beside it");
    const auto choice = [&](const QString& name, std::optional<std::uint64_t> variant) {
        QAction* a = beside->addAction(name, this, [this, variant] { set_before(variant); });
        a->setCheckable(true);
        a->setChecked(before_variant_ == variant);
    };
    choice("nothing", {});
    if (document_.variant()) choice("the base", 0);
    for (const Variant& v : document_.base().variants)
        if (v.role == VariantRole::Variant && v.id != document_.variant()) choice(text(v.name), v.id);
    menu.addAction("Add an outlet", this, [this] { emit outlet_wanted(structure_); });
    menu.addAction("Show the whole event", this, [this] {
        zoomed_ = false;
        dirty_ = true;
        update();
    });
    menu.exec(e->globalPos());
}

void StorageView::mousePressEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton) return;
    for (const Mark& m : marks_)
        if (m.rect.contains(e->position()) && document_.project().outlets.find(m.outlet)) {
            dragged_ = m.outlet;
            drag_from_ = e->position().y();
            drag_level_ = document_.project().outlets.find(m.outlet)->level;
            return;
        }
    if (chart_area().adjusted(-2, 0, 2, 24).contains(e->position()) && pictures_->currentIndex() == 0) {
        dragging_time_ = true;
        mouseMoveEvent(e);
    }
}
void StorageView::drag_outlet(double y) {
    const QRectF a = section_area();
    const PondOutlet* row = document_.committed().outlets.find(dragged_);
    if (!row || a.isEmpty()) return;
    const double per_pixel = (section_.most - section_.least) / a.height();
    // In steps of a centimetre, or of a hundredth of a foot.
    const double grain = document_.units().system() == UnitSystem::Us ? 0.01 * 0.3048 : 0.01;
    const double level = std::round((drag_level_ + (drag_from_ - y) * per_pixel) / grain) * grain;
    Editing edit(document_.committed(), "Move " + element_name(document_.committed(), Kind::PondOutlet, dragged_));
    edit.set(Kind::PondOutlet, dragged_, "level", level);
    document_.set_pending(edit.take());
}
void StorageView::mouseMoveEvent(QMouseEvent* e) {
    const QRectF a = chart_area();
    if (dragged_) return drag_outlet(e->position().y());
    if (dragging_time_) return set_time(first_ + (e->position().x() - a.left()) / a.width() * (last_ - first_));
    for (const Mark& m : marks_)
        if (m.rect.contains(e->position())) {
            setCursor(document_.project().outlets.find(m.outlet) ? Qt::SizeVerCursor : Qt::ArrowCursor);
            QToolTip::showText(e->globalPosition().toPoint(), m.words, this);
            return;
        }
    unsetCursor();
    if (a.contains(e->position()) && pictures_->currentIndex() == 0 && !series_.empty()) {
        say_at(first_ + (e->position().x() - a.left()) / a.width() * (last_ - first_));
        update();
    }
}
void StorageView::mouseReleaseEvent(QMouseEvent*) {
    dragging_time_ = false;
    if (!dragged_) return;
    dragged_ = 0;
    document_.commit_pending();
}
void StorageView::mouseDoubleClickEvent(QMouseEvent*) {
    zoomed_ = false;
    dirty_ = true;
    update();
}
void StorageView::wheelEvent(QWheelEvent* e) {
    const QRectF a = chart_area();
    if (!a.contains(e->position()) || pictures_->currentIndex() != 0 || series_.empty()) return;
    const double at = first_ + (e->position().x() - a.left()) / a.width() * (last_ - first_);
    const double factor = std::pow(1.2, -e->angleDelta().y() / 120.0);
    const double whole =
        series_.front().step * static_cast<double>(series("inflow") ? series("inflow")->values.size() : 1);
    const double wide = std::clamp((last_ - first_) * factor, 10 * series_.front().step, whole);
    first_ = std::clamp(at - (at - first_) * wide / (last_ - first_), 0.0, std::max(0.0, whole - wide));
    last_ = first_ + wide;
    zoomed_ = true;
    e->accept();
    update();
}
void StorageView::keyPressEvent(QKeyEvent* e) {
    const double step = series_.empty() ? 60 : series_.front().step * (e->modifiers() & Qt::ShiftModifier ? 10 : 1);
    switch (e->key()) {
        case Qt::Key_Left: return set_time(time_ - step);
        case Qt::Key_Right: return set_time(time_ + step);
        case Qt::Key_Home: return set_time(first_);
        case Qt::Key_End: return set_time(last_);
        case Qt::Key_Escape:
            if (dragged_) {
                dragged_ = 0;
                document_.cancel_pending();
                return;
            }
            break;
        default: break;
    }
    QWidget::keyPressEvent(e);
}
void StorageView::leaveEvent(QEvent*) {
    if (!series_.empty()) say_at(time_);
    update();
}

}  // namespace culvert::app
