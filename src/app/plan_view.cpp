// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan_view.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <cmath>

#include "app/theme.h"

namespace culvert::app {

PlanView::PlanView(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Plan");
    setMinimumSize(200, 120);
    tool_ = make_tool("select", *this);
    settle_.setSingleShot(true);
    settle_.setInterval(80);
    connect(&settle_, &QTimer::timeout, this, [this] { stale(); });
    connect(&document_, &Document::changed, this, [this] {
        const bool was_empty = scene_.structures().empty();
        scene_.update(document_.project());
        if (was_empty && !scene_.structures().empty() && !fitted_) zoom_to_all();
        late_.start();
    });
    // After a change the new results mostly come within a few milliseconds: one picture with them beats two.
    late_.setSingleShot(true);
    late_.setInterval(25);
    connect(&late_, &QTimer::timeout, this, &PlanView::stale);
    connect(&document_, &Document::results_changed, this, [this] {
        if (late_.isActive() && !document_.current()) return;
        late_.stop();
        stale();
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

void PlanView::stale() {
    cache_good_ = false;
    update();
}

void PlanView::zoom_to_all() {
    scene_.update(document_.project());
    const QRectF b = scene_.bounds();
    if (scene_.structures().empty()) {
        centre_ = {0, 0};
        scale_ = 2;
    } else {
        // The tool strip lies over the top: the site stands below it.
        constexpr double above = 62, below = 30, beside = 70;
        const double room_x = std::max(100.0, width() - 2 * beside), room_y = std::max(80.0, height() - above - below);
        scale_ = std::min({room_x / std::max(b.width(), 5.0), room_y / std::max(b.height(), 5.0), 20.0});
        centre_ = b.center() + QPointF(0, (above - below) / 2 / scale_);
        fitted_ = width() > 220;
    }
    stale();
}

void PlanView::zoom_at(QPointF screen, double factor) {
    const QPointF at = to_metres(screen);
    scale_ = std::clamp(scale_ * factor, 1e-4, 500.0);
    centre_ += at - to_metres(screen);
    fitted_ = true;
    stale();
}

void PlanView::pan_by(QPointF pixels) {
    centre_ += QPointF(-pixels.x() / scale_, pixels.y() / scale_);
    cache_offset_ += pixels;
    fitted_ = true;
    settle_.start();
    update();
}

void PlanView::show_element(ElementRef element) {
    QPointF at;
    if (element.kind == Kind::Structure) {
        const Structure* s = document_.project().structures.find(element.id);
        if (!s) return;
        at = {s->x, s->y};
    } else if (element.kind == Kind::Pipe) {
        const auto i = std::find_if(scene_.pipes().begin(), scene_.pipes().end(),
                                    [&](const PlanPipe& p) { return p.id == element.id; });
        if (i == scene_.pipes().end()) return;
        at = (i->line.front() + i->line.back()) / 2;
    } else return;
    if (rect().adjusted(40, 60, -40, -40).contains(to_screen(at).toPoint())) return;
    centre_ = at;
    stale();
}

void PlanView::set_tool(const QString& name) {
    tool_ = make_tool(name, *this);
    set_readout({});
    setCursor(name == "select" ? Qt::ArrowCursor : Qt::CrossCursor);
    emit tool_changed();
    update();
}
QString PlanView::tool_name() const { return tool_->name(); }

void PlanView::set_colour_by(ColourBy by) {
    colour_by_ = by;
    stale();
}
void PlanView::set_readout(const QString& t) {
    if (t == readout_) return;
    readout_ = t;
    emit readout_changed();
    update();
}

QString PlanView::colour_name(ColourBy by) {
    constexpr const char* names[] = {"worst verdict", "flow ratio", "filled depth",
                                     "velocity",      "freeboard",  "service level"};
    return names[static_cast<int>(by)];
}
QString PlanView::colour_help(ColourBy by) {
    constexpr const char* help[] = {
        "Colour by the worst verdict of each element", "Colour by flow over capacity",
        "Colour by depth over height at normal depth", "Colour by velocity of the design flow",
        "Colour structures by rim less grade line",    "Colour by the rarest event passed with all commoner ones"};
    return help[static_cast<int>(by)];
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
    if (scene_.structures().empty()) paint_empty(p);
    paint_legend(p);
    paint_scale_bar(p);
    if (!readout_.isEmpty()) {
        p.setFont(lettering(9));
        const QRectF box = QRectF(p.fontMetrics().boundingRect(readout_)).adjusted(-8, -4, 8, 4);
        const QRectF at((width() - box.width()) / 2, height() - box.height() - 10, box.width(), box.height());
        p.setPen(theme().hairline);
        p.setBrush(theme().panel);
        p.drawRoundedRect(at, 4, 4);
        p.setPen(theme().ink);
        p.drawText(at, Qt::AlignCenter, readout_);
    }
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

void PlanView::resizeEvent(QResizeEvent*) { cache_good_ = false; }

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
        const Project& p = document_.project();
        const UnitSet u = document_.units();
        QString tip = "<b>" + text(element_name(p, el.kind, el.id)) + "</b> " + text(kind_name(el.kind));
        const auto r = document_.result();
        const int node = !r ? no_node
                            : (el.kind == Kind::Pipe
                                   ? r->network->node_of(PipeId{el.id})
                                   : (el.kind == Kind::Structure ? r->network->node_of(StructureId{el.id}) : no_node));
        if (node != no_node) {
            const auto& n = r->network->nodes[static_cast<std::size_t>(node)];
            const auto& v = r->nodes[static_cast<std::size_t>(node)];
            if (el.kind == Kind::Pipe)
                tip += "<br>" + text(u.text(culvert::height(n.section), Quantity::Size)) + ", " +
                       text(u.text(n.slope, Quantity::Slope)) + "<br>flow " +
                       text(u.text(v.flow.flow, Quantity::Flow)) + " of " + text(u.text(n.capacity, Quantity::Flow));
            else
                tip += "<br>HGL " + text(u.text(v.level.level, Quantity::Level)) + "<br>freeboard " +
                       text(u.text(n.rim - v.level.level, Quantity::Length));
        }
        QToolTip::showText(help->globalPos(), tip, this);
        return true;
    }
    return QWidget::event(e);
}

}  // namespace culvert::app
