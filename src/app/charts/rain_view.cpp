// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/charts/rain_view.h"

#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QContextMenuEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/desk/text.h"
#include "app/kit/theme.h"
#include "core/hydrology/design_storm.h"
#include "core/model/event_rain.h"

namespace culvert::app {
namespace {

constexpr double left_margin = 58, top_margin = 32, bottom_margin = 30;
constexpr int most_blocks = 48;
constexpr double longest_storm = 24 * 3600;

/// "30 min", "2 h": a time on an axis has no more digits than it needs.
QString on_axis(double seconds) {
    return seconds >= 2 * 3600 ? QString::number(seconds / 3600, 'g', 3) + " h"
                               : QString::number(seconds / 60, 'g', 3) + " min";
}

}  // namespace

RainView::RainView(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setAccessibleName("Intensity curves and storm");
    setMinimumHeight(150);
    pattern_ = new QComboBox(this);
    pattern_->setObjectName("storm-pattern");
    pattern_->setAccessibleName("Pattern of the storm");
    pattern_->setToolTip("How the event's rain is spread over time");
    pattern_->addItems({"alternating blocks", "Keifer–Chu", "uniform", "NRCS type I", "NRCS type IA", "NRCS type II",
                        "NRCS type III"});
    const auto refresh = [this] {
        dirty_ = true;
        if (isVisible()) update();
    };
    connect(&document_, &Document::changed, this, refresh);
    connect(&document_, &Document::event_changed, this, refresh);
    connect(pattern_, &QComboBox::currentIndexChanged, this, refresh);
}

void RainView::showEvent(QShowEvent*) { update(); }

void RainView::rebuild() {
    dirty_ = false;
    curves_.clear();
    storm_.clear();
    least_time_ = least_ = 1e300;
    most_time_ = most_ = 0;
    for (const RainEvent* e : events_in_order(document_.project())) {
        EventRainTable table = rain_table_of(*e);
        if (table.durations.empty()) continue;  // said among the findings
        least_time_ = std::min(least_time_, table.durations.front());
        most_time_ = std::max(most_time_, table.durations.back());
        least_ = std::min(least_, table.intensities.back());
        most_ = std::max(most_, table.intensities.front());
        curves_.push_back(
            {{e->id}, text(e->name), rain_of(*e).curve, std::move(table.durations), std::move(table.intensities)});
    }
    if (curves_.empty()) return;
    if (most_time_ <= least_time_) most_time_ = least_time_ * 10, least_time_ /= 10;
    least_ /= 1.2;
    most_ *= 1.2;
    fit_ = {};
    for (const Curve& c : curves_)
        if (c.event == document_.event()) {
            std::vector<double> minutes, shown;
            for (const double d : c.durations) minutes.push_back(d / 60);
            for (const double v : c.intensities)
                shown.push_back(v / document_.units().unit(Quantity::Intensity).factor);
            fit_ = fit_idf(minutes, shown);
            make_storm(c);
        }
}

/// A storm of the viewed event by the chosen pattern, in at most so many blocks.
void RainView::make_storm(const Curve& c) {
    pattern_fault_.clear();
    const RainEvent* event = document_.project().events.find(c.event.value);
    own_storm_ = event && event->given != RainGiven::Intensities;
    pattern_->setVisible(!own_storm_);
    const double uplift = usable(document_.project().settings(), &Settings::uplift, 1.0);
    if (own_storm_) {  // the event is a storm itself
        EventStorm storm = storm_of(*event);
        storm_ = std::move(storm.depths);
        step_ = storm.step;
        for (double& d : storm_) d *= uplift;
        return;
    }
    const int pattern = pattern_->currentIndex();
    step_ = c.durations.front();
    const double whole = std::min(std::max(c.durations.back(), step_), longest_storm);
    int blocks = std::max(1, static_cast<int>(std::lround(whole / step_)));
    if (blocks > most_blocks) {
        step_ = whole / most_blocks;
        blocks = most_blocks;
    }
    if (pattern == 0) storm_ = alternating_blocks(c.curve, step_, blocks);
    else if (pattern == 1) {
        if (fit_.ok && fit_.c < 1) {  // the equation's a in m/s and s
            const double per = document_.units().unit(Quantity::Intensity).factor;
            storm_ = keifer_chu(fit_.a * per * std::pow(60, fit_.c), fit_.b * 60, fit_.c, 0.4, step_, blocks);
        } else pattern_fault_ = "needs an equation whose power is below 1: at least three durations";
    } else if (pattern == 2) storm_ = uniform_storm(c.curve.intensity(whole) * whole, blocks);
    else {
        step_ = longest_storm / most_blocks;
        storm_ = nrcs_storm(static_cast<Nrcs24>(pattern - 3), c.curve.intensity(longest_storm) * longest_storm, step_);
    }
    for (double& d : storm_) d *= uplift;
}

QString RainView::storm_table() const {
    const bool us = document_.units().system() == UnitSystem::Us;
    const double per = us ? 0.0254 : 0.001;
    QString out = us ? "time min\tdepth in\tsum in\n" : "time min\tdepth mm\tsum mm\n";
    double sum = 0;
    for (std::size_t i = 0; i < storm_.size(); ++i) {
        sum += storm_[i];
        out += QString("%1\t%2\t%3\n")
                   .arg(QString::number(static_cast<double>(i + 1) * step_ / 60, 'g', 8),
                        QString::number(storm_[i] / per, 'f', us ? 4 : 3), QString::number(sum / per, 'f', us ? 4 : 3));
    }
    return out;
}

void RainView::contextMenuEvent(QContextMenuEvent* e) {
    QMenu menu(this);
    menu.addAction("Copy the storm as a table", this, [this] { QApplication::clipboard()->setText(storm_table()); });
    menu.addAction("Copy as a picture", this, [this] { QApplication::clipboard()->setPixmap(grab()); });
    menu.exec(e->globalPos());
}

void RainView::resizeEvent(QResizeEvent*) {
    const QRectF a = storm_area();
    pattern_->setGeometry(static_cast<int>(a.right()) - 168, 4, 168, 24);
}

/// The equation through the table, and how far it is off at each duration.
void RainView::paint_fit(QPainter& p) {
    if (!fit_.ok) return;
    const Theme& t = theme();
    const QRectF a = curves_area();
    const double per = document_.units().unit(Quantity::Intensity).factor;
    QPolygonF line;
    for (int i = 0; i <= 60; ++i) {
        const double d = least_time_ * std::pow(most_time_ / least_time_, i / 60.0);
        const double v = fit_.intensity(d / 60) * per;
        if (v >= least_ && v <= most_) line << to_screen(d, v);
    }
    QPen pen(t.accent, 1.2);
    pen.setDashPattern({4, 3});
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(line);
    // Residuals stand on a line of their own: a tenth of the height is five per cent, or the worst where that is more.
    const double base = a.bottom() - 16, tall = 12, full = std::max(0.05, std::abs(fit_.worst));
    p.setPen(QPen(t.hairline, 1));
    p.drawLine(QPointF(a.left(), base), QPointF(a.right(), base));
    for (const Curve& c : curves_)
        if (c.event == document_.event())
            for (std::size_t i = 0; i < c.durations.size() && i < fit_.residuals.size(); ++i) {
                const double x = to_screen(c.durations[i], least_).x(), h = fit_.residuals[i] / full * tall;
                p.setPen(QPen(t.accent, 3));
                p.drawLine(QPointF(x, base), QPointF(x, base - h));
            }
    p.setFont(lettering(8));
    p.setPen(t.accent);
    p.drawText(QRectF(a.left() + 6, base - 32, a.width() - 12, 14), Qt::AlignLeft | Qt::AlignVCenter,
               QString("i = %1 / (t + %2)^%3   t in min   off by %4 % at most")
                   .arg(QString::number(fit_.a, 'g', 5), QString::number(fit_.b, 'f', 2),
                        QString::number(fit_.c, 'f', 4), QString::number(std::abs(fit_.worst) * 100, 'f', 1)));
}

QRectF RainView::curves_area() const {
    return {left_margin, top_margin, std::max(80.0, width() * 0.56 - left_margin - 74),
            std::max(20.0, height() - top_margin - bottom_margin)};
}
QRectF RainView::storm_area() const {
    const double x = width() * 0.56 + 52;
    return {x, top_margin, std::max(60.0, width() - x - 18), std::max(20.0, height() - top_margin - bottom_margin)};
}

QPointF RainView::to_screen(double duration, double intensity) const {
    const QRectF a = curves_area();
    return {a.left() + std::log(duration / least_time_) / std::log(most_time_ / least_time_) * a.width(),
            a.bottom() - std::log(intensity / least_) / std::log(most_ / least_) * a.height()};
}

void RainView::paintEvent(QPaintEvent*) {
    if (dirty_) rebuild();
    const Theme& t = theme();
    QPainter p(this);
    p.fillRect(rect(), t.panel);
    p.setRenderHint(QPainter::Antialiasing);
    if (curves_.empty()) {
        p.setFont(lettering(10));
        p.setPen(t.quiet);
        p.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap,
                   "Intensity curves show here once there is rain.\nCopy a table from a web page or a spreadsheet and "
                   "paste it in "
                   "the ledger below.");
        return;
    }
    paint_curves(p);
    paint_fit(p);
    paint_storm(p);
}

void RainView::paint_curves(QPainter& p) {
    const Theme& t = theme();
    const UnitSet u = document_.units();
    const QRectF a = curves_area();
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    p.drawText(QPointF(14, 20), "Intensity by duration");
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    p.drawText(QPointF(170, 20),
               text(u.unit(Quantity::Intensity).symbol) + (readout_.isEmpty() ? QString() : "    " + readout_));
    // Lines at 1, 2 and 5 times powers of ten, and at durations that people name.
    p.setFont(lettering(8));
    const double per = u.unit(Quantity::Intensity).factor;
    for (double power = std::pow(10, std::floor(std::log10(least_ / per))); power * per < most_; power *= 10)
        for (const double k : {1.0, 2.0, 5.0}) {
            const double value = k * power * per;
            if (value < least_ || value > most_) continue;
            const double y = to_screen(least_time_, value).y();
            p.setPen(QPen(t.hairline, 1));
            p.drawLine(QPointF(a.left(), y), QPointF(a.right(), y));
            p.setPen(t.quiet);
            p.drawText(QRectF(0, y - 8, a.left() - 6, 16), Qt::AlignRight | Qt::AlignVCenter,
                       QString::number(k * power));
        }
    double last = -1e9;
    for (const auto& [minutes, label] : std::initializer_list<std::pair<double, const char*>>{{1, "1 min"},
                                                                                              {2, "2"},
                                                                                              {5, "5 min"},
                                                                                              {10, "10"},
                                                                                              {15, "15"},
                                                                                              {30, "30"},
                                                                                              {60, "1 h"},
                                                                                              {120, "2 h"},
                                                                                              {180, "3"},
                                                                                              {360, "6 h"},
                                                                                              {720, "12"},
                                                                                              {1440, "1 day"},
                                                                                              {2880, "2 days"},
                                                                                              {7200, "5"},
                                                                                              {14400, "10 days"}}) {
        const double d = minutes * 60;
        if (d < least_time_ * 0.999 || d > most_time_ * 1.001) continue;
        const double x = to_screen(d, least_).x();
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(x, a.top()), QPointF(x, a.bottom()));
        p.setPen(t.quiet);
        if (x - last < 36) continue;
        last = x;
        p.drawText(QRectF(x - 30, a.bottom() + 4, 60, 14), Qt::AlignCenter, label);
    }
    double label_y = -1e9;
    for (auto c = curves_.rbegin(); c != curves_.rend(); ++c) {  // the rarest stands highest
        const bool viewed = c->event == document_.event();
        QPolygonF line;
        for (std::size_t i = 0; i < c->durations.size(); ++i) line << to_screen(c->durations[i], c->intensities[i]);
        p.setPen(QPen(viewed ? t.water : t.tint(t.water, 0.5), viewed ? 2.4 : 1.2));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(line);
        if (viewed) {
            p.setBrush(t.panel);
            for (const QPointF& q : line) p.drawEllipse(q, 2.6, 2.6);
        }
        const QPointF end = line.back();
        const double y =
            std::max(std::min(end.y() - 7, a.bottom() - 13 * static_cast<double>(curves_.rend() - c)), label_y + 13);
        label_y = y;
        p.setFont(lettering(8, viewed));
        p.setPen(viewed ? t.ink : t.quiet);
        p.drawText(QRectF(a.right() + 6, y, 74, 14), Qt::AlignLeft | Qt::AlignVCenter,
                   QFontMetricsF(p.font()).elidedText(c->name, Qt::ElideRight, 72));
    }
}

void RainView::paint_storm(QPainter& p) {
    const Theme& t = theme();
    const UnitSet u = document_.units();
    const QRectF a = storm_area();
    const RainEvent* e = document_.project().events.find(document_.event().value);
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    const double x = a.left() - 44;
    p.drawText(QPointF(x, 20), e ? "Storm of " + text(e->name) : QString("Storm"));
    const double title = QFontMetricsF(p.font()).horizontalAdvance(e ? "Storm of " + text(e->name) : QString("Storm"));
    if (storm_.empty()) {
        p.setFont(lettering(9));
        p.setPen(t.quiet);
        p.drawText(a, Qt::AlignCenter | Qt::TextWordWrap, pattern_fault_);
        return;
    }
    double highest = 0, whole = 0;
    for (const double d : storm_) {
        highest = std::max(highest, d / step_);
        whole += d;
    }
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    const double room =
        std::max(0.0, a.right() - x - title - (own_storm_ ? 12 : 186));  // beside the choice of a pattern
    const double depth = whole / (u.system() == UnitSystem::Us ? 0.0254 : 0.001);
    p.drawText(
        QRectF(x + title + 12, 6, room, 18), Qt::AlignLeft | Qt::AlignVCenter,
        QFontMetricsF(p.font()).elidedText("steps of " + on_axis(step_) + ", " +
                                               QString::number(depth, 'f', u.system() == UnitSystem::Us ? 2 : 1) +
                                               (u.system() == UnitSystem::Us ? " in" : " mm") + " in all",
                                           Qt::ElideRight, room));
    const double per = u.unit(Quantity::Intensity).factor, grid = round_step(highest / per / 4);
    p.setFont(lettering(8));
    for (double level = 0; level * per <= highest * 1.02; level += grid) {
        const double y = a.bottom() - level * per / highest * a.height();
        p.setPen(QPen(t.hairline, 1));
        p.drawLine(QPointF(a.left(), y), QPointF(a.right(), y));
        p.setPen(t.quiet);
        p.drawText(QRectF(a.left() - 48, y - 8, 43, 16), Qt::AlignRight | Qt::AlignVCenter, QString::number(level));
    }
    const double w = a.width() / static_cast<double>(storm_.size());
    p.setPen(QPen(t.panel, w > 3 ? 1 : 0.3));
    p.setBrush(t.water_body);
    for (std::size_t i = 0; i < storm_.size(); ++i) {
        const double h = storm_[i] / step_ / highest * a.height();
        p.drawRect(QRectF(a.left() + static_cast<double>(i) * w, a.bottom() - h, w, h));
    }
    // What has fallen so far.
    QPolygonF sum{a.bottomLeft()};
    double fallen = 0;
    for (std::size_t i = 0; i < storm_.size(); ++i) {
        fallen += storm_[i];
        sum << QPointF(a.left() + static_cast<double>(i + 1) * w, a.bottom() - fallen / whole * a.height());
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.accent, 1.2));
    p.drawPolyline(sum);
    p.setPen(QPen(t.ink, 1));
    p.drawLine(a.bottomLeft(), a.bottomRight());
    p.setPen(t.quiet);
    const double length = step_ * static_cast<double>(storm_.size());
    for (const double share : {0.0, 0.5, 1.0})
        p.drawText(QRectF(a.left() + share * (a.width() - 80), a.bottom() + 4, 80, 14),
                   share == 0 ? Qt::AlignLeft | Qt::AlignVCenter
                              : (share == 1 ? Qt::AlignRight | Qt::AlignVCenter : Qt::AlignCenter),
                   share == 0 ? QString("0") : on_axis(share * length));
}

void RainView::mouseMoveEvent(QMouseEvent* e) {
    pointer_ = e->position();
    readout_.clear();
    const QRectF a = curves_area();
    if (a.contains(pointer_) && !curves_.empty()) {
        const double d = least_time_ * std::pow(most_time_ / least_time_, (pointer_.x() - a.left()) / a.width());
        const UnitSet u = document_.units();
        for (const Curve& c : curves_)
            if (c.event == document_.event())
                readout_ = text(u.text(d, Quantity::Duration)) + ": " +
                           text(u.text(c.curve.intensity(d), Quantity::Intensity));
    }
    update();
}
void RainView::leaveEvent(QEvent*) {
    readout_.clear();
    update();
}
void RainView::mousePressEvent(QMouseEvent* e) {
    const QRectF a = curves_area();
    if (!a.adjusted(-4, -4, 80, 4).contains(e->position()) || curves_.empty()) return;
    const double x = std::min(e->position().x(), a.right());
    const double d = least_time_ * std::pow(most_time_ / least_time_, (x - a.left()) / a.width());
    const Curve* nearest = nullptr;
    double away = 14;
    for (const Curve& c : curves_)
        if (const double off = std::abs(to_screen(d, c.curve.intensity(d)).y() - e->position().y()); off < away) {
            away = off;
            nearest = &c;
        }
    if (nearest) document_.set_event(nearest->event);
}

}  // namespace culvert::app
