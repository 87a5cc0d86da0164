// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"
#include "app/desk/text.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <cmath>

#include "app/kit/theme.h"
#include "app/plan/plan_tool.h"

namespace culvert::app {

PlanView::PlanView(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Plan");
    setMinimumSize(200, 120);
    tool_ = make_tool("select", *this);
    typed_ = new QLineEdit(this);
    typed_->setAccessibleName("Length, length<angle, or x, y");
    typed_->setToolTip("A length along the direction shown; length<angle; x, y; @dx, dy from the last place");
    typed_->setFixedWidth(150);
    typed_->hide();
    typed_->installEventFilter(this);
    connect(typed_, &QLineEdit::returnPressed, this, &PlanView::take_typed);
    connect(&document_, &Document::site_changed, this, [this] {
        background_.update(document_.project(), document_.site());
        if (!fitted_) zoom_to_all();
        stale();
    });
    connect(&document_.site(), &Site::contours_changed, this, &PlanView::stale);
    settle_.setSingleShot(true);
    settle_.setInterval(80);
    connect(&settle_, &QTimer::timeout, this, [this] { stale(); });
    connect(&document_, &Document::changed, this, [this](const ChangeSet& what) {
        const bool was_empty = scene_.structures().empty();
        scene_.update(document_.project(), what);
        if (what.touches(Kind::Background) || what.touches(Kind::Surface))
            background_.update(document_.project(), document_.site());
        if (was_empty && !scene_.structures().empty() && !fitted_) zoom_to_all();
        late_.start();
    });
    // After a change the new results mostly come within a few milliseconds: one picture with them beats two. The
    // profile is painted first, since the eye is on the grade line.
    late_.setSingleShot(true);
    late_.setInterval(25);
    connect(&late_, &QTimer::timeout, this, &PlanView::stale);
    connect(&document_, &Document::results_changed, this, [this](const ResultsChange& what) {
        if (what.others && theme_.colour == "service_level") return stale();
        if (!what.viewed || !document_.current()) return;  // faults of the data are not drawn
        late_.stop();
        QMetaObject::invokeMethod(this, &PlanView::stale, Qt::QueuedConnection);
    });
    connect(&document_, &Document::event_changed, this, &PlanView::stale);
    connect(&document_, &Document::selection_changed, this, QOverload<>::of(&QWidget::update));
    connect(&document_, &Document::age_changed, this, &PlanView::stale);
    connect(&document_, &Document::file_changed, this, [this] {
        fitted_ = false;
        zoom_to_all();
    });
    scene_.update(document_.project());
}
PlanView::~PlanView() = default;

QPointF PlanView::to_screen(QPointF m) const {
    return {width() / 2.0 + (m.x() - centre_.x()) * scale_, height() / 2.0 - (m.y() - centre_.y()) * scale_};
}
QPointF PlanView::to_metres(QPointF s) const {
    return {centre_.x() + (s.x() - width() / 2.0) / scale_, centre_.y() - (s.y() - height() / 2.0) / scale_};
}

QPointF PlanView::snapped(QPointF screen, std::uint64_t* structure) const {
    const QPointF at = to_metres(screen);
    const std::uint64_t id = scene_.structure_at(at, reach());
    if (structure) *structure = id;
    if (!id) return at;
    const Structure* s = document_.project().structures.find(id);
    return s ? QPointF(s->x, s->y) : at;
}

Snap PlanView::snap(QPointF screen, Qt::KeyboardModifiers keys, std::optional<QPointF> from) const {
    Snap s;
    s.at = to_metres(screen);
    if (keys & Qt::AltModifier) return s;
    if (const std::uint64_t id = scene_.structure_at(s.at, reach()))
        if (const Structure* row = document_.project().structures.find(id))
            return {{row->x, row->y}, Snap::To::Structure, id, 0};
    if (keys & Qt::ShiftModifier && from) {
        constexpr double step = M_PI / 12;
        const QPointF d = s.at - *from;
        const double angle = std::round(std::atan2(d.y(), d.x()) / step) * step;
        const QPointF u(std::cos(angle), std::sin(angle));
        double along = QPointF::dotProduct(d, u);
        if (snap_options_.grid && snap_options_.spacing > 0)
            along = std::round(along / snap_options_.spacing) * snap_options_.spacing;
        s.at = *from + along * u;
        return s;
    }
    if (const auto on = scene_.pipe_near(s.at, reach()); on.id) return {on.at, Snap::To::Pipe, on.id, on.station};
    if (snap_options_.streets)
        if (const auto on = scene_.street_near(s.at, reach()); on.id)
            return {on.at, Snap::To::Street, on.id, on.station};
    if (snap_options_.background) {
        QPointF place;
        if (background_.near(s.at, reach(), place) >= 0) return {place, Snap::To::Background, 0, 0};
    }
    if (snap_options_.grid && snap_options_.spacing > 0) {
        const double g = snap_options_.spacing;
        return {{std::round(s.at.x() / g) * g, std::round(s.at.y() / g) * g}, Snap::To::Grid, 0, 0};
    }
    return s;
}

void PlanView::open_typed(const QString& first) {
    typed_->setText(first);
    QPointF at = pointer_ + QPointF(14, 14);
    if (!rect().contains(pointer_.toPoint())) at = rect().center();
    typed_->move(std::clamp(static_cast<int>(at.x()), 0, std::max(0, width() - 156)),
                 std::clamp(static_cast<int>(at.y()), 0, std::max(0, height() - 30)));
    typed_->show();
    typed_->raise();
    typed_->setFocus();
    typed_->setCursorPosition(static_cast<int>(first.size()));
}

void PlanView::take_typed() {
    QString t = typed_->text().trimmed();
    const UnitSet u = document_.units();
    const std::optional<QPointF> from = tool_->anchor();
    const auto length = [&](QString part, double& v) {
        const Entry e = read_entry(plain(part.trimmed()), Quantity::Length, u);
        v = e.value;
        return e.ok;
    };
    const bool relative = t.startsWith('@');
    if (relative) t.remove(0, 1);
    Snap place;
    double a = 0, b = 0;
    bool good = false;
    // A decimal comma is no list: "x, y" has a blank or a semicolon after its comma.
    const QChar part = t.contains(';') ? ';' : ',';
    const bool list = t.contains(';') || t.contains(", ") || (t.count(',') == 1 && t.contains('.'));
    if (t.contains('<') && from) {
        bool angle_ok = false;
        b = t.section('<', 1).trimmed().toDouble(&angle_ok);
        good = length(t.section('<', 0, 0), a) && angle_ok;
        place.at = *from + a * QPointF(std::cos(b * M_PI / 180), std::sin(b * M_PI / 180));
    } else if (list) {
        good = length(t.section(part, 0, 0), a) && length(t.section(part, 1), b) && (!relative || from);
        place.at = relative ? *from + QPointF(a, b) : QPointF(a, b);
    } else if (from) {
        good = length(t, a);
        const QPointF d = to_metres(pointer_) - *from;
        const double l = std::hypot(d.x(), d.y());
        good = good && l > 0;
        if (l > 0) place.at = *from + d / l * a;
    }
    good = good && in_reach(Point{place.at.x(), place.at.y()});
    if (!good) {
        typed_->setStyleSheet(QString("color:%1").arg(theme().beyond.name()));
        set_readout(from ? "a length; length<angle; or x, y" : "x, y; a length needs a first place");
        return;
    }
    typed_->setStyleSheet({});
    typed_->hide();
    setFocus();
    // A typed place takes hold of the structure or pipe that stands there, and of nothing else.
    if (const std::uint64_t id = scene_.structure_at(place.at, 0.005)) {
        place.to = Snap::To::Structure;
        place.id = id;
    } else if (const auto on = scene_.pipe_near(place.at, 0.005); on.id)
        place = {on.at, Snap::To::Pipe, on.id, on.station};
    tool_->place(place, {});
    update();
}

bool PlanView::eventFilter(QObject* watched, QEvent* e) {
    if (watched == typed_ && e->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(e)->key() == Qt::Key_Escape) {
        typed_->hide();
        setFocus();
        return true;
    }
    return QWidget::eventFilter(watched, e);
}

void PlanView::stale() {
    cache_good_ = false;
    update();
}

void PlanView::zoom_to_all() {
    scene_.update(document_.project());
    QRectF b = scene_.bounds();
    if (scene_.structures().empty()) {
        // Nothing is drawn yet: the ground and the backgrounds are what there is to see.
        b = background_.bounds();
        for (const auto& s : document_.site().surfaces())
            if (s->terrain) {
                const auto& box = s->terrain->bounds();
                const QRectF r(box.left, box.bottom, box.right - box.left, box.top - box.bottom);
                b = b.isNull() ? r : b.united(r);
            }
    }
    if (b.isNull() && scene_.structures().empty()) {
        centre_ = {0, 0};
        scale_ = 2;
    } else {
        // The tool strip lies over the top and the legend over the bottom: the site stands between them.
        const double above = 62, below = height() > 260 ? 60 : 30, beside = 70;
        const double room_x = std::max(100.0, width() - 2 * beside), room_y = std::max(80.0, height() - above - below);
        scale_ = std::min({room_x / std::max(b.width(), 5.0), room_y / std::max(b.height(), 5.0), 20.0});
        centre_ = b.center() + QPointF(0, (above - below) / 2 / scale_);
        fitted_ = width() > 220;
    }
    fits_all_ = true;
    stale();
}

void PlanView::zoom_at(QPointF screen, double factor) {
    const QPointF at = to_metres(screen);
    scale_ = std::clamp(scale_ * factor, 1e-4, 500.0);
    centre_ += at - to_metres(screen);
    fitted_ = true;
    fits_all_ = false;
    stale();
    emit view_changed();
}

void PlanView::pan_by(QPointF pixels) {
    centre_ += QPointF(-pixels.x() / scale_, pixels.y() / scale_);
    cache_offset_ += pixels;
    fitted_ = true;
    fits_all_ = false;
    settle_.start();
    update();
    emit view_changed();
}

void PlanView::show_element(ElementRef element) {
    QPointF at;
    if (element.kind == Kind::Structure) {
        const Structure* s = document_.project().structures.find(element.id);
        if (!s || !placed(*s)) return;
        at = {s->x, s->y};
    } else if (element.kind == Kind::Pipe) {
        const auto i = std::find_if(scene_.pipes().begin(), scene_.pipes().end(),
                                    [&](const PlanPipe& p) { return p.id == element.id; });
        if (i == scene_.pipes().end()) return;
        at = (i->line.front() + i->line.back()) / 2;
    } else return;
    if (rect().adjusted(40, 60, -40, -40).contains(to_screen(at).toPoint())) return;
    fits_all_ = false;
    centre_ = at;
    stale();
}

void PlanView::look_at(QPointF at) {
    centre_ = at;
    scale_ = std::max(scale_, 4.0);
    fitted_ = true;
    fits_all_ = false;
    stale();
    emit view_changed();
}
void PlanView::look_like(const PlanView& other) {
    centre_ = other.centre_;
    scale_ = other.scale_;
    fitted_ = true;
    fits_all_ = false;
    stale();
}

void PlanView::set_tool(const QString& name) {
    typed_->hide();
    retired_ = std::move(tool_);
    tool_ = make_tool(name, *this);
    set_readout({});
    setCursor(name == "select" ? Qt::ArrowCursor : Qt::CrossCursor);
    emit tool_changed();
    update();
}
QString PlanView::tool_name() const { return tool_->name(); }

void PlanView::set_plan_theme(const PlanTheme& t) {
    if (t == theme_) return;
    theme_ = t;
    stamps_.clear();
    stale();
}
void PlanView::set_readout(const QString& t) {
    if (t == readout_) return;
    readout_ = t;
    emit readout_changed();
    update();
}

void PlanView::paintEvent(QPaintEvent*) {
    if (!fitted_ && !scene_.structures().empty()) zoom_to_all();
    const double ratio = devicePixelRatioF();
    if (!cache_good_ && !(settle_.isActive() && !cache_.isNull())) {
        if (cache_.size() != size() * ratio) {
            cache_ = QPixmap(size() * ratio);
            cache_.setDevicePixelRatio(ratio);
        }
        QPainter p(&cache_);
        render_frame(p);
        cache_good_ = true;
        cache_offset_ = {};
    }
    QPainter p(this);
    paint_cached(p);
    paint_selection(p);
    tool_->paint(p);
    if (scene_.structures().empty() && document_.project().surfaces.empty() &&
        document_.project().backgrounds.empty() && document_.project().streets.empty())
        paint_empty(p);
    paint_legend(p);
    paint_scale_bar(p);
    paint_readout(p);
    if (hasFocus()) {
        p.setPen(QPen(theme().accent, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void PlanView::paint_cached(QPainter& p) {
    if (!cache_offset_.isNull()) p.fillRect(rect(), theme().paper);
    p.drawPixmap(cache_offset_, cache_);
}

void PlanView::resizeEvent(QResizeEvent*) {
    if (fits_all_) zoom_to_all();
    cache_good_ = false;
    emit resized();
}

void PlanView::mousePressEvent(QMouseEvent* e) {
    if (e->button() == Qt::MiddleButton || (e->button() == Qt::LeftButton && space_)) {
        panning_ = true;
        pan_from_ = e->position();
        setCursor(Qt::ClosedHandCursor);
        return;
    }
    tool_->press(e);
}
void PlanView::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    if (panning_) {
        pan_by(e->position() - pan_from_);
        pan_from_ = e->position();
        return;
    }
    tool_->move(e);
}
void PlanView::mouseReleaseEvent(QMouseEvent* e) {
    if (panning_) {
        panning_ = false;
        setCursor(tool_name() == "select" ? Qt::ArrowCursor : Qt::CrossCursor);
        return;
    }
    tool_->release(e);
}
void PlanView::mouseDoubleClickEvent(QMouseEvent* e) { tool_->double_click(e); }

void PlanView::wheelEvent(QWheelEvent* e) {
    zoom_at(e->position(), std::pow(1.0015, e->angleDelta().y()));
    e->accept();
}

void PlanView::keyPressEvent(QKeyEvent* e) {
    if (tool_->key(e)) return;
    if (tool_->takes_places() && !(e->modifiers() & (Qt::ControlModifier | Qt::AltModifier)) && e->text().size() == 1 &&
        (e->text()[0].isDigit() || e->text()[0] == '.' || e->text()[0] == '@')) {
        open_typed(e->text());
        return;
    }
    if (e->key() == Qt::Key_Space && !e->isAutoRepeat()) {
        space_ = true;
        setCursor(Qt::OpenHandCursor);
        return;
    }
    if (e->key() == Qt::Key_Plus) return zoom_at(rect().center(), 1.25);
    if (e->key() == Qt::Key_Minus) return zoom_at(rect().center(), 0.8);
    if (e->modifiers() == Qt::NoModifier) {
        constexpr double step = 60;
        if (e->key() == Qt::Key_Left) return pan_by({step, 0});
        if (e->key() == Qt::Key_Right) return pan_by({-step, 0});
        if (e->key() == Qt::Key_Up) return pan_by({0, step});
        if (e->key() == Qt::Key_Down) return pan_by({0, -step});
    }
    QWidget::keyPressEvent(e);
}
void PlanView::keyReleaseEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Space && !e->isAutoRepeat()) {
        space_ = false;
        setCursor(tool_name() == "select" ? Qt::ArrowCursor : Qt::CrossCursor);
    }
    QWidget::keyReleaseEvent(e);
}

void PlanView::contextMenuEvent(QContextMenuEvent* e) {
    if (tool_name() != "select") return;  // a tool that draws ends with that button
    const bool by_key = e->reason() == QContextMenuEvent::Keyboard;
    emit menu_wanted(by_key ? document_.selected() : scene_.element_at(to_metres(e->pos()), reach()), e->globalPos());
}

QString PlanView::tip_of(ElementRef el) const {
    QString tip = "<b>" + text(element_name(document_.project(), el.kind, el.id)) + "</b> " + text(kind_name(el.kind));
    const auto r = document_.result();
    const ResultOn on = results_of(el.kind);
    if (!r || result_index(*r, on, el) < 0) return tip;
    for (const ResultField& f : result_fields(on))
        if (f.shown & in_tip)
            tip += "<br>" + text(f.label) + " " + text(document_.units().text(result_at(*r, f, el), f.quantity));
    if (on == ResultOn::Area) return tip;
    const bool own = colouring_.field && (colouring_.field->shown & in_tip) && colouring_.field->on == on;
    if (colouring_.field && !own)  // what the colours mean, where it is not said already
        tip += "<br>" + text(colouring_.field->label) + " " +
               text(document_.units().text(result_at(*r, *colouring_.field, el), colouring_.field->quantity));
    return tip;
}

bool PlanView::event(QEvent* e) {
    if (e->type() == QEvent::PaletteChange) {
        stamps_.clear();
        stale();
    }
    if (e->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(e);
        const ElementRef el = scene_.element_at(to_metres(help->pos()), reach());
        if (!el.id) {
            QToolTip::hideText();
            return true;
        }
        QToolTip::showText(help->globalPos(), tip_of(el), this);
        return true;
    }
    return QWidget::event(e);
}

}  // namespace culvert::app
