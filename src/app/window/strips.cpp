// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/strips.h"
#include "app/desk/text.h"

#include <QFileInfo>
#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

#include "app/kit/theme.h"
#include "app/window/stages.h"

namespace culvert::app {
namespace {

constexpr double rail_step = 64;

}  // namespace

EventStrip::EventStrip(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setFixedHeight(48);
    setFocusPolicy(Qt::TabFocus);
    setAccessibleName("Rain events");
    const auto refresh = [this] { update(); };
    connect(&document_, &Document::changed, this, refresh);
    connect(&document_, &Document::results_changed, this, refresh);
    for (auto signal : {&Document::event_changed, &Document::age_changed, &Document::file_changed})
        connect(&document_, signal, this, refresh);
}

double EventStrip::title_width() const {
    const Settings& s = document_.project().settings();
    const QString title = s.title.empty() ? "New project" : text(s.title);
    return std::min(240.0, QFontMetricsF(lettering(11, true)).horizontalAdvance(title)) +
           (document_.modified() ? 66 : 0);
}

std::vector<EventStrip::Chip> EventStrip::chips() const {
    std::vector<Chip> list;
    const auto events = events_in_order(document_.project());
    double x = std::max(246.0, title_width() + 70);
    const double room = width() - x - 330;
    const double chip_width = std::clamp(room / std::max(1.0, static_cast<double>(events.size())) - 6, 34.0, 52.0);
    for (const RainEvent* e : events) {
        list.push_back({{e->id}, QRectF(x, 10, chip_width, 28)});
        x += chip_width + 6;
    }
    return list;
}
QRectF EventStrip::chip(EventId event) const {
    for (const Chip& c : chips())
        if (c.event == event) return c.rect;
    return {};
}
QRectF EventStrip::find_box() const { return QRectF(width() - 262, 10, 104, 28); }

QString EventStrip::state_text() const {
    const auto count = document_.project().events.size();
    if (count == 0) return "no rain yet";
    if (document_.dimmed()) return "solving …";
    if (!document_.current()) return "…";
    return QString("%1 events, %2 ms").arg(count).arg(std::max(1.0, std::round(document_.solve_ms())));
}

void EventStrip::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), t.panel);
    p.setPen(QPen(t.hairline, 1));
    p.drawLine(QPointF(0, height() - 0.5), QPointF(width(), height() - 0.5));
    const Settings& s = document_.project().settings();
    p.setFont(lettering(11, true));
    p.setPen(t.ink);
    const QString title =
        QFontMetricsF(p.font()).elidedText(s.title.empty() ? "New project" : text(s.title), Qt::ElideRight, 240);
    p.drawText(QPointF(46, 29), title);
    const double w = QFontMetricsF(p.font()).horizontalAdvance(title);
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    if (document_.modified()) p.drawText(QPointF(54 + w, 29), "unsaved");
    double end = 0;
    for (const Chip& c : chips()) {
        const RainEvent* e = document_.project().events.find(c.event.value);
        const bool viewed = c.event == document_.event();
        const auto review = document_.review(c.event);
        const auto result = document_.result(c.event);
        const bool fresh = result && result->revision == document_.revision();
        p.setOpacity(fresh || !document_.dimmed() ? 1 : 0.45);
        p.setPen(QPen(viewed ? t.accent : t.hairline, viewed ? 2 : 1));
        p.setBrush(viewed ? t.tint(t.accent, 0.14) : t.paper);
        p.drawRoundedRect(c.rect, 14, 14);
        draw_verdict_mark(p, {c.rect.left() + 12, c.rect.center().y()}, 4.2,
                          review ? review->verdict : Verdict::Unknown);
        p.setFont(lettering(9, viewed));
        p.setPen(t.ink);
        const QString label = QString::number(e->return_period);
        const QRectF place = c.rect.adjusted(18, 0, -3, 0);
        p.drawText(place, Qt::AlignCenter, label);
        if (e->role != EventRole::Other) {  // the design events of the minor and the major system
            const double half = QFontMetricsF(p.font()).horizontalAdvance(label) / 2 + 2, y = c.rect.bottom() - 5;
            p.setPen(QPen(t.ink, e->role == EventRole::Minor ? 1.6 : 1.2,
                          e->role == EventRole::Minor ? Qt::SolidLine : Qt::DotLine));
            p.drawLine(QPointF(place.center().x() - half, y), QPointF(place.center().x() + half, y));
        }
        p.setOpacity(1);
        end = c.rect.right();
    }
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    if (end > 0)
        p.drawText(QPointF(end + 10, 29),
                   "years" + (s.uplift != 1 ? QString("   uplift ×%1").arg(s.uplift) : QString()));
    p.setPen(QPen(t.hairline, 1));
    p.setBrush(t.paper);
    p.drawRoundedRect(find_box(), 5, 5);
    p.setPen(t.quiet);
    p.drawText(find_box(), Qt::AlignCenter, "Find   Ctrl+K");
    p.drawText(QRectF(width() - 150, 0, 136, height()), Qt::AlignRight | Qt::AlignVCenter, state_text());
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(1, 1, -2, -2));
    }
}

void EventStrip::mousePressEvent(QMouseEvent* e) {
    for (const Chip& c : chips())
        if (c.rect.contains(e->position())) document_.set_event(c.event);
    if (find_box().contains(e->position())) emit command_bar_wanted();
}
void EventStrip::keyPressEvent(QKeyEvent* e) {
    const auto list = chips();
    for (std::size_t i = 0; i < list.size(); ++i) {
        if (list[i].event != document_.event()) continue;
        if (e->key() == Qt::Key_Right && i + 1 < list.size()) return document_.set_event(list[i + 1].event);
        if (e->key() == Qt::Key_Left && i > 0) return document_.set_event(list[i - 1].event);
    }
    QWidget::keyPressEvent(e);
}
bool EventStrip::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(e);
        for (const Chip& c : chips())
            if (c.rect.contains(help->pos())) {
                const RainEvent* row = document_.project().events.find(c.event.value);
                const auto review = document_.review(c.event);
                int beyond = 0;
                if (review)
                    for (const Finding& f : review->findings) beyond += f.check.verdict == Verdict::Beyond;
                constexpr const char* roles[] = {"", ", design event of the minor system",
                                                 ", design event of the major system"};
                QToolTip::showText(help->globalPos(),
                                   text(row->name) + nth(roles, row->role) + QString(": %1 beyond a limit").arg(beyond),
                                   this);
                return true;
            }
        QToolTip::showText(help->globalPos(), document_.path().isEmpty() ? QString("not saved yet") : document_.path(),
                           this);
        return true;
    }
    return QWidget::event(e);
}

StageRail::StageRail(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setFixedWidth(84);
    setFocusPolicy(Qt::TabFocus);
    setAccessibleName("Stages");
    connect(&document_, &Document::results_changed, this, [this](const ResultsChange& what) {
        if (what.viewed || what.data) count();
    });
    connect(&document_, &Document::event_changed, this, &StageRail::count);
}

void StageRail::set_stage(Stage stage) {
    if (stage == stage_) return;
    stage_ = stage;
    update();
    emit stage_changed(stage);
}

void StageRail::count() {
    const auto before = counts_;
    counts_.fill(0);
    const auto add = [&](const Finding& f) {
        if (f.check.verdict != Verdict::Beyond) return;
        Stage s = stage_of(f.check.rule);
        if (f.check.rule == Rule::Data && f.element.kind == Kind::Event) s = Stage::Rain;
        if (f.check.rule == Rule::Data && (f.element.kind == Kind::Catchment || f.element.kind == Kind::LandCover))
            s = Stage::Areas;
        ++nth(counts_, s);
    };
    if (const auto r = document_.review())
        for (const Finding& f : r->findings) add(f);
    for (const Finding& f : document_.data_findings()) add(f);
    if (counts_ != before) update();
}

QRectF StageRail::button(Stage stage) const {
    for (std::size_t i = 0; i < stages().size(); ++i)
        if (stages()[i].stage == stage)
            return QRectF(6, 10 + static_cast<double>(i) * rail_step, width() - 12, rail_step - 8);
    return {};
}

void StageRail::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), t.dark ? t.paper : QColor("#F0EADD"));
    for (const StageSpec& s : stages()) {
        const QRectF r = button(s.stage);
        const bool chosen = s.stage == stage_;
        if (chosen) {
            p.setPen(QPen(t.hairline, 1));
            p.setBrush(t.panel);
            p.drawRoundedRect(r, 6, 6);
            p.fillRect(QRectF(0, r.top() + 8, 3, r.height() - 16), t.accent);
        }
        const QColor colour = chosen ? t.accent : t.ink;
        p.drawPixmap(QPointF(r.center().x() - 13, r.top() + 7), icon_pixmap(s.icon, 26, colour, devicePixelRatioF()));
        p.setFont(lettering(8.5, chosen));
        p.setPen(colour);
        p.drawText(QRectF(r.left(), r.bottom() - 22, r.width(), 18), Qt::AlignCenter, s.name);
        if (const int n = findings(s.stage)) {
            const QString label = n > 99 ? "99+" : QString::number(n);
            p.setFont(lettering(7.5, true));
            const double w = std::max(16.0, QFontMetricsF(p.font()).horizontalAdvance(label) + 9);
            const QRectF badge(r.right() - w - 2, r.top() + 3, w, 16);
            p.setPen(Qt::NoPen);
            p.setBrush(t.beyond);
            p.drawRoundedRect(badge, 8, 8);
            p.setPen(t.panel);
            p.drawText(badge, Qt::AlignCenter, label);
        }
    }
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(button(stage_));
    }
}

void StageRail::mousePressEvent(QMouseEvent* e) {
    for (const StageSpec& s : stages())
        if (button(s.stage).contains(e->position())) set_stage(s.stage);
}
void StageRail::keyPressEvent(QKeyEvent* e) {
    const int at = static_cast<int>(stage_), last = static_cast<int>(stages().size()) - 1;
    if (e->key() == Qt::Key_Down) return set_stage(static_cast<Stage>(std::min(at + 1, last)));
    if (e->key() == Qt::Key_Up) return set_stage(static_cast<Stage>(std::max(at - 1, 0)));
    QWidget::keyPressEvent(e);
}

}  // namespace culvert::app
