// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/profile/branch_strip.h"

#include <QContextMenuEvent>
#include <QPainter>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "app/profile/profile_layout.h"
#include "core/base/contract.h"

namespace culvert::app {
namespace {
constexpr double between = 52, least_width = 70, foot = 12;
constexpr std::size_t most_runs = 80;
}  // namespace

BranchStrip::BranchStrip(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), refresh_(this, [this] { seek(); }) {
    setAccessibleName("Branches side by side");
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(110);
    connect(&document_, &Document::results_changed, this, [this](const ResultsChange& what) {
        if (what.viewed) refresh_();
    });
    connect(&document_, &Document::event_changed, this, [this] { refresh_(); });
    connect(&document_, &Document::selection_changed, this, [this] {
        const ElementRef e = document_.selected();
        if ((e.kind == Kind::Structure || e.kind == Kind::Pipe) && e.id && !holds(e)) refresh_();
        else update();
    });
    connect(&document_, &Document::age_changed, this, qOverload<>(&QWidget::update));
    refresh_();
}

bool BranchStrip::holds(ElementRef e) const {
    for (const Profile& run : runs_) {
        for (const ProfileStation& s : run.stations)
            if (e == ElementRef{Kind::Structure, s.structure.value}) return true;
        for (const ProfileReach& r : run.reaches)
            if (e == ElementRef{Kind::Pipe, r.pipe.value}) return true;
    }
    return false;
}

/// Beside the work: a city has thousands of branches.
void BranchStrip::seek() {
    const ElementRef e = document_.selected();
    const bool inner = holds(e);
    if ((e.kind == Kind::Structure || e.kind == Kind::Pipe) && e.id && !inner) through_ = e;
    const auto r = document_.result();
    const std::shared_ptr<const Network> net = r ? r->network : document_.network();
    if (!net) {
        runs_.clear();
        update();
        return;
    }
    worker_.run([this, project = document_.project(), net, r, review = document_.review(),
                 through = through_](const Turn& turn) {
        std::vector<Profile> runs;
        Profile main = profile_of(project, *net, r.get(), review.get(), through);
        if (main.empty()) main = profile_of(project, *net, r.get(), review.get(), {Kind::Catchment, 0});
        if (!main.empty()) {
            std::vector<Profile> branches = branches_of(project, *net, r.get(), review.get(), main);
            runs.push_back(std::move(main));
            std::move(branches.begin(), branches.end(), std::back_inserter(runs));
        }
        turn.tell([this, runs = std::move(runs)]() mutable {
            left_out_ = runs.size() > most_runs ? runs.size() - most_runs : 0;
            if (left_out_) runs.resize(most_runs);
            runs_ = std::move(runs);
            lay_out();
            update();
        });
    });
}

void BranchStrip::lay_out() {
    begins_.clear();
    if (runs_.empty()) return;
    double length = 0, top = -1e300;
    low_ = 1e300;
    high_ = -1e300;
    for (const Profile& run : runs_) {
        length += run.length;
        low_ = std::min(low_, run.low);
        top = std::max(top, run.high);
        for (const ProfileStation& s : run.stations)
            for (const double level : {s.rim, s.bottom})
                if (!std::isnan(level)) high_ = std::max(high_, level);
        for (const ProfileReach& r : run.reaches)
            if (!std::isnan(r.invert_up)) high_ = std::max(high_, r.invert_up + r.height);
    }
    // Water far above the ground would press all of it flat: it is cut, and the head says so.
    const double most = high_ + 0.6 * std::max(high_ - low_, 1.0);
    cut_ = top > most;
    high_ = cut_ ? most : std::max(top, high_);
    const double margin = 0.06 * (high_ - low_);
    low_ -= margin;
    high_ += margin;
    const double room = std::max(50.0, width() - profile_left - profile_right);
    const double n = static_cast<double>(runs_.size()), fits = (room - between * (n - 1)) / std::max(length, 1.0);
    across_ = std::max(fits, least_width * n / std::max(length, 1.0)) * zoom_;
    double x = 0;
    for (const Profile& run : runs_) {
        begins_.push_back(x);
        x += std::max(least_width / 2, run.length * across_) + between;
    }
    whole_ = x - between;
    offset_ = std::clamp(offset_, 0.0, std::max(0.0, whole_ - room));
}

QPointF BranchStrip::to_screen(std::size_t run, Point at) const {
    const double top = profile_head + 18, bottom = height() - foot;
    return {profile_left + begins_[run] - offset_ + at.x * across_,
            bottom - (at.y - low_) / (high_ - low_) * (bottom - top)};
}
QRectF BranchStrip::place_of(std::size_t run) const {
    const QPointF a = to_screen(run, {0, high_}), b = to_screen(run, {runs_[run].length, low_});
    return QRectF(a, b);
}

ElementRef BranchStrip::element_at(QPointF at) const {
    for (std::size_t i = 0; i < runs_.size() && i < begins_.size(); ++i) {
        if (!place_of(i).adjusted(-10, -profile_head, 10, foot).contains(at)) continue;
        for (const ProfileStation& s : runs_[i].stations)
            if (std::abs(to_screen(i, {s.x, low_}).x() - at.x()) < 6) return {Kind::Structure, s.structure.value};
        for (const ProfileReach& r : runs_[i].reaches)
            if (to_screen(i, {r.x0, low_}).x() <= at.x() && at.x() <= to_screen(i, {r.x1, low_}).x())
                return {Kind::Pipe, r.pipe.value};
    }
    return {};
}

void BranchStrip::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter p(this);
    p.fillRect(rect(), t.panel);
    p.setRenderHint(QPainter::Antialiasing);
    if (runs_.empty() || begins_.empty()) {
        p.setFont(lettering(10));
        p.setPen(t.quiet);
        p.drawText(rect(), Qt::AlignCenter, "Branches show here once pipes lead to an outfall");
        return;
    }
    const UnitSet u = document_.units();
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    const QString title = QString("%1 to %2 with %3 branches")
                              .arg(text(runs_[0].stations.front().name), text(runs_[0].stations.back().name))
                              .arg(runs_.size() - 1 + left_out_);
    p.drawText(QPointF(14, 20), title);
    QStringList notes;
    if (cut_) notes << "water rises out of the picture";
    if (left_out_) notes << QString("%1 more are not drawn: select one of them").arg(left_out_);
    if (!notes.isEmpty()) {
        const double at = 24 + QFontMetricsF(p.font()).horizontalAdvance(title);
        p.setFont(lettering(8.5));
        p.setPen(t.near);
        p.drawText(QPointF(at, 20), notes.join("; "));
    }
    const double unit = u.unit(Quantity::Level).factor, range = (high_ - low_) / unit,
                 step = round_step(range / std::max(2.0, height() / 40.0));
    p.setFont(lettering(8));
    bool first = true;
    for (double level = std::ceil(low_ / unit / step) * step; level * unit < high_; level += step) {
        const double y = to_screen(0, {0, level * unit}).y();
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(profile_left, y), QPointF(width() - profile_right, y));
        p.setPen(t.quiet);
        p.drawText(QRectF(0, y - 8, profile_left - 8, 16), Qt::AlignRight | Qt::AlignVCenter,
                   (first ? text(u.unit(Quantity::Level).symbol) + " " : QString()) +
                       QString::number(level, 'f', step < 1 ? 1 : 0));
        first = false;
    }
    if (document_.dimmed()) p.setOpacity(0.45);
    p.setClipRect(QRectF(profile_left - 6, profile_head - 8, width() - profile_left - profile_right + 12,
                         height() - profile_head + 8));
    for (std::size_t i = 0; i < runs_.size(); ++i)
        if (const QRectF at = place_of(i); at.right() > profile_left - 20 && at.left() < width()) paint_run(p, i);
    if (hasFocus()) {
        p.setClipping(false);
        p.setPen(QPen(t.accent, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void BranchStrip::paint_run(QPainter& p, std::size_t i) {
    const Theme& t = theme();
    const Profile& run = runs_[i];
    const QRectF place = place_of(i);
    const bool chosen = std::any_of(run.reaches.begin(), run.reaches.end(), [&](const ProfileReach& r) {
        return document_.is_selected({Kind::Pipe, r.pipe.value});
    });
    p.setFont(lettering(8.5, true));
    p.setPen(chosen ? t.accent : t.ink);
    const QString title = text(run.stations.front().name) + " to " + text(run.stations.back().name);
    p.drawText(QPointF(place.left(), profile_head + 8),
               p.fontMetrics().elidedText(title, Qt::ElideRight, static_cast<int>(place.width() + between - 8)));
    for (const ProfileReach& r : run.reaches)
        if (document_.is_selected({Kind::Pipe, r.pipe.value})) {
            QColor glow = t.accent;
            glow.setAlpha(36);
            const double x0 = to_screen(i, {r.x0, 0}).x();
            p.fillRect(QRectF(x0, place.top(), to_screen(i, {r.x1, 0}).x() - x0, place.height()), glow);
        }
    for (const Drawn& d : draw_profile(document_.project(), run)) {
        QPolygonF line;
        for (const Point& q : d.points) line << to_screen(i, q);
        if (line.isEmpty() || d.type == Drawn::Type::Text) continue;
        if (d.type == Drawn::Type::Area) {
            p.setPen(Qt::NoPen);
            p.setBrush(t.water_body);
            p.drawPolygon(line);
        } else if (d.type == Drawn::Type::Line) {
            QPen pen = profile_pen(d.ink);
            if (d.ink == Ink::Structure) pen = QPen(document_.is_selected(d.element) ? t.accent : t.quiet, 1);
            else pen.setWidthF(std::min(pen.widthF(), 1.8));
            p.setPen(pen);
            p.drawPolyline(line);
        }
    }
    // Names where there is room for them; the ends first.
    p.setFont(lettering(7.5));
    const QFontMetricsF m(p.font());
    std::vector<std::pair<double, double>> taken;
    const auto name = [&](const ProfileStation& s) {
        if (std::isnan(s.rim)) return;
        const QPointF at = to_screen(i, {s.x, s.rim});
        const double w = m.horizontalAdvance(text(s.name));
        for (const auto& [a, b] : taken)
            if (at.x() - w / 2 < b + 4 && at.x() + w / 2 > a - 4) return;
        taken.emplace_back(at.x() - w / 2, at.x() + w / 2);
        p.setPen(document_.is_selected({Kind::Structure, s.structure.value}) ? t.accent : t.quiet);
        p.drawText(QPointF(at.x() - w / 2, at.y() - 4), text(s.name));
    };
    name(run.stations.front());
    name(run.stations.back());
    for (const ProfileStation& s : run.stations) name(s);
}

void BranchStrip::mousePressEvent(QMouseEvent* e) {
    pressed_ = e->position();
    down_ = e->button() == Qt::LeftButton || e->button() == Qt::MiddleButton;
    moved_ = false;
}
void BranchStrip::mouseMoveEvent(QMouseEvent* e) {
    if (!down_) return;
    const double by = e->position().x() - pressed_.x();
    if (!moved_ && std::abs(by) < 4) return;
    moved_ = true;
    offset_ -= by;
    pressed_ = e->position();
    lay_out();
    update();
}
void BranchStrip::mouseReleaseEvent(QMouseEvent* e) {
    if (down_ && !moved_ && e->button() == Qt::LeftButton)
        if (const ElementRef hit = element_at(e->position()); hit.id) document_.select({hit});
    down_ = false;
}
void BranchStrip::mouseDoubleClickEvent(QMouseEvent* e) {
    if (const ElementRef hit = element_at(e->position()); hit.id) emit opened(hit);
}
void BranchStrip::wheelEvent(QWheelEvent* e) {
    const double before = zoom_, at = e->position().x() - profile_left + offset_;
    zoom_ = std::clamp(zoom_ * std::pow(1.2, e->angleDelta().y() / 120.0), 1.0, 40.0);
    offset_ = at * zoom_ / before - (e->position().x() - profile_left);
    lay_out();
    update();
    e->accept();
}
void BranchStrip::keyPressEvent(QKeyEvent* e) {
    const double step = e->key() == Qt::Key_Left ? -60 : e->key() == Qt::Key_Right ? 60 : 0;
    if (step == 0) {
        if (e->key() == Qt::Key_Return && document_.selected().id) emit opened(document_.selected());
        return QWidget::keyPressEvent(e);
    }
    offset_ += step;
    lay_out();
    update();
}
void BranchStrip::contextMenuEvent(QContextMenuEvent* e) { emit menu_wanted(element_at(e->pos()), e->globalPos()); }
void BranchStrip::resizeEvent(QResizeEvent*) { lay_out(); }

}  // namespace culvert::app
