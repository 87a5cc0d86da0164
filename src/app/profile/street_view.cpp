// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/profile/street_view.h"
#include "app/desk/text.h"

#include <QApplication>
#include <QClipboard>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/kit/theme.h"
#include "app/profile/axes.h"
#include "exchange/delimited.h"

namespace culvert::app {
namespace {
constexpr double least_depth = 0.05, least_break = 0.01;  ///< of what is marked: m, m/m
constexpr double left_margin = 64, top_margin = 34, bottom_margin = 26;
}  // namespace

StreetView::StreetView(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Street profile and section");
    setMinimumHeight(150);
    const auto refresh = [this] {
        dirty_ = true;
        update();
    };
    connect(&document_, &Document::changed, this, refresh);
    connect(&document_, &Document::results_changed, this, refresh);
    connect(&document_, &Document::event_changed, this, refresh);
    connect(&document_, &Document::site_changed, this, refresh);
    connect(&document_, &Document::selection_changed, this, [this, refresh] {
        // An inlet brings its street, and its place on it.
        if (const Structure* on = document_.selected().kind == Kind::Structure
                                      ? document_.project().structures.find(document_.selected().id)
                                      : nullptr;
            on && on->street && !std::isnan(on->station)) {
            street_ = on->street.value;
            station_ = on->station;
        }
        if (document_.selected().kind == Kind::Street && document_.selected().id != street_) {
            street_ = document_.selected().id;
            station_ = 0;
        }
        refresh();
    });
}

/// The one that was selected last; before that, the first.
const Street* StreetView::street() const {
    const auto& all = document_.project().streets;
    const Street* chosen = all.find(street_);
    return chosen || all.empty() ? chosen : &*all.begin();
}

void StreetView::rebuild() {
    dirty_ = false;
    profile_.clear();
    existing_.clear();
    marks_.clear();
    const Street* s = street();
    if (!s || s->line.size() < 2) return;
    profile_ = profile_of(*s, document_.site().ground());
    if (document_.site().ground().existing) {
        Ground old;
        old.existing = document_.site().ground().existing;
        for (const auto& p : old.section(s->line)) existing_.push_back({p.distance, p.level});
    }
    marks_ = marked_places(profile_, least_depth, least_break);
    water_.reset();
    if (const auto r = document_.result(); r && !r->streets.empty())
        water_.emplace(document_.project(), *r,
                       [this, id = s->id](const Street& other) { return other.id == id ? profile_ : StreetProfile{}; });
    length_ = std::max(length(s->line), 1e-3);
    low_ = 1e300;
    high_ = -1e300;
    for (const auto* list : {&profile_, &existing_})
        for (const StreetPoint& q : *list)
            if (!std::isnan(q.level)) {
                low_ = std::min(low_, q.level);
                high_ = std::max(high_, q.level);
            }
    if (low_ > high_) low_ = 0, high_ = 1;
    const double margin = std::max(0.08 * (high_ - low_), 0.2);
    high_ += 2 * margin;
    read_out();
}

QRectF StreetView::plot() const {
    return {left_margin, top_margin, std::max(80.0, width() * 0.66 - left_margin - 10),
            std::max(20.0, height() - top_margin - bottom_margin - (has_water() ? spread_height() + 8 : 0))};
}
bool StreetView::has_water() const {
    const Street* s = street();
    return s && water_ && !water_->of({s->id}).empty();
}
double StreetView::spread_height() const { return std::clamp(height() * 0.26, 34.0, 70.0); }
QRectF StreetView::across() const {
    const double x = width() * 0.66 + 16;
    return {x, top_margin, std::max(60.0, width() - x - 14), std::max(20.0, height() - top_margin - 10)};
}
QPointF StreetView::to_screen(double station, double level) const {
    const QRectF a = plot();
    return {a.left() + station / length_ * a.width(), a.bottom() - (level - foot()) / (high_ - foot()) * a.height()};
}
/// Level at the foot of the plot: names of structures stand between the lowest place and the axis.
double StreetView::foot() const {
    constexpr double names = 30;
    const double height = std::max(plot().height(), 2 * names);
    return low_ - (high_ - low_) * names / (height - names);
}

void StreetView::read_out() {
    const Street* s = street();
    if (!s) return;
    const UnitSet u = document_.units();
    readout_ = "station " + text(u.text(station_, Quantity::Length));
    if (!profile_.empty())
        readout_ += ", crown " + text(u.text(level_at(profile_, station_), Quantity::Level)) + ", grade " +
                    text(u.text(grade_at(profile_, station_), Quantity::Slope));
}

void StreetView::paintEvent(QPaintEvent*) {
    if (dirty_) rebuild();
    const Theme& t = theme();
    QPainter p(this);
    p.fillRect(rect(), t.panel);
    p.setRenderHint(QPainter::Antialiasing);
    const Street* s = street();
    if (!s) {
        p.setFont(lettering(10));
        p.setPen(t.quiet);
        p.drawText(rect(), Qt::AlignCenter, "Select a street: its profile and its section show here");
        return;
    }
    paint_profile(p);
    paint_across(p);
    if (hasFocus()) {
        p.setPen(QPen(t.accent, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

void StreetView::paint_profile(QPainter& p) {
    const Theme& t = theme();
    const Street& s = *street();
    const UnitSet u = document_.units();
    const QRectF area = plot();
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    p.drawText(QPointF(14, 20), text(s.name));
    const double name_width = QFontMetricsF(p.font()).horizontalAdvance(text(s.name));
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    const double said_from = 30 + name_width;
    p.drawText(QPointF(said_from, 20), QFontMetricsF(p.font()).elidedText(
                                           readout_ + "   " + text(u.text(length_, Quantity::Length)) +
                                               (s.levels.empty() ? ", crown from the ground" : ", crown as entered"),
                                           Qt::ElideRight, std::max(0.0, across().left() - 16 - said_from)));
    if (profile_.empty()) {
        p.drawText(area, Qt::AlignCenter,
                   "No surface reaches this street: import one,\nor paste its stations and levels here (Ctrl+V)");
        return;
    }
    paint_axes(p, {area, foot(), high_, length_, 80}, u);
    const auto polyline = [&](const StreetProfile& list) {
        QPainterPath path;
        bool pen_down = false;
        for (const StreetPoint& q : list) {
            if (std::isnan(q.level)) {
                pen_down = false;
                continue;
            }
            const QPointF at = to_screen(q.station, q.level);
            if (pen_down) path.lineTo(at);
            else path.moveTo(at);
            pen_down = true;
        }
        return path;
    };
    p.setBrush(Qt::NoBrush);
    QPen old(t.ground, 1);
    old.setDashPattern({5, 3});
    p.setPen(old);
    p.drawPath(polyline(existing_));
    p.setPen(QPen(t.ground, 2));
    p.drawPath(polyline(profile_));
    // Where the section is taken; names stand over it.
    const QPointF here = to_screen(station_, level_at(profile_, station_));
    QPen cursor(t.accent, 1);
    cursor.setDashPattern({3, 2});
    p.setPen(cursor);
    p.drawLine(QPointF(here.x(), area.top()),
               QPointF(here.x(), area.bottom() + (has_water() ? spread_height() + 8 : 0)));
    // Structures along it.
    p.setFont(lettering(8));
    std::vector<const Structure*> standing;
    for (const Structure& row : document_.project().structures)
        if (row.street.value == s.id && !std::isnan(row.station)) standing.push_back(&row);
    std::sort(standing.begin(), standing.end(), [](auto* a, auto* b) { return a->station < b->station; });
    double named_to = -1e9;
    for (const Structure* place : standing) {
        const Structure& row = *place;
        const QPointF at = to_screen(row.station, level_at(profile_, row.station));
        p.setPen(QPen(t.ink, 1.4));
        p.drawLine(at, at + QPointF(0, 14));
        const QString name = text(row.name) + (row.offset > 0 ? " r" : " l");
        const double w = QFontMetricsF(p.font()).horizontalAdvance(name);
        if (at.x() - w / 2 < named_to) continue;  // the chosen ones are in the ledger
        named_to = at.x() + w / 2 + 4;
        const QRectF box(at.x() - w / 2 - 2, at.y() + 14, w + 4, 13);
        p.fillRect(box, t.panel);
        p.drawText(box, Qt::AlignCenter, name);
    }
    const QFontMetricsF m(p.font());
    double taken = -1e9;
    for (const MarkedPlace& mark : marks_) {
        const QPointF at = to_screen(mark.station, mark.level);
        p.setPen(QPen(mark.mark == ProfileMark::GradeBreak ? t.quiet : t.water, 1.4));
        p.setBrush(mark.mark == ProfileMark::Low ? QBrush(t.water_body) : QBrush(t.panel));
        if (mark.mark == ProfileMark::Low)
            p.drawPolygon(QPolygonF{at + QPointF(0, 5), at + QPointF(6, -5), at + QPointF(-6, -5)});
        else if (mark.mark == ProfileMark::High)
            p.drawPolygon(QPolygonF{at + QPointF(0, -5), at + QPointF(6, 5), at + QPointF(-6, 5)});
        else p.drawLine(at + QPointF(0, -5), at + QPointF(0, 5));
        if (mark.mark == ProfileMark::GradeBreak) continue;
        const QString words =
            (mark.mark == ProfileMark::Low ? "low " : "high ") + text(u.number(mark.level, Quantity::Level));
        const double w = m.horizontalAdvance(words);
        if (at.x() - w / 2 < taken) continue;
        taken = at.x() + w / 2 + 8;
        p.setPen(t.water);
        p.drawText(QPointF(at.x() - w / 2, at.y() - 10), words);
    }
    paint_spread(p);
}

/// Spread along the street: the left side above its line, the right side below, against what is allowed.
void StreetView::paint_spread(QPainter& p) {
    if (!has_water()) return;
    const Theme& t = theme();
    const Street& s = *street();
    const UnitSet u = document_.units();
    const QRectF profile = plot();
    const QRectF area(profile.left(), profile.bottom() + 15, profile.width(), spread_height());
    const double middle = area.center().y();
    const double most = std::max(1.0, s.to_curb()), scale = area.height() / 2 / most;
    const auto x = [&](double station) { return area.left() + station / length_ * area.width(); };
    p.setPen(Qt::NoPen);
    QColor fill = t.ground;
    fill.setAlpha(30);
    p.setBrush(fill);
    p.drawRect(area);
    for (const StreetReach& reach : water_->of({s.id})) {
        QPolygonF band;
        // The curbs are the outer edges, the crown is the middle, as one looks down on the street.
        const double curb = reach.side > 0 ? area.bottom() : area.top();
        for (const WaterAt& w : reach.points) band << QPointF(x(w.station), curb);
        for (auto w = reach.points.rbegin(); w != reach.points.rend(); ++w)
            band << QPointF(x(w->station), curb - reach.side * std::min(w->spread, most) * scale);
        p.setBrush(t.water_body);
        p.setPen(QPen(t.water, 1));
        p.drawPolygon(band);
    }
    p.setPen(QPen(t.ground, 1.4));
    p.drawLine(area.topLeft(), area.topRight());
    p.drawLine(area.bottomLeft(), area.bottomRight());
    QPen axis(t.quiet, 1);
    axis.setDashPattern({6, 3, 1, 3});
    p.setPen(axis);
    p.drawLine(QPointF(area.left(), middle), QPointF(area.right(), middle));
    const auto r = document_.result();
    // What is allowed at the inlet that the water at the cursor runs to.
    std::uint64_t judged = 0;
    for (const StreetReach& reach : water_->of({s.id}))
        if (!judged || (station_ - reach.points.front().station) * (station_ - reach.points.back().station) <= 0)
            judged = reach.inlet.value;
    const double limit = LimitTable(document_.project(), r->event).limit(LimitKind::MostSpread, judged).value;
    p.setFont(lettering(8));
    if (limit > 0 && limit < most) {
        QPen pen(t.near, 1);
        pen.setDashPattern({4, 3});
        p.setPen(pen);
        for (const double y : {area.top() + limit * scale, area.bottom() - limit * scale})
            p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
    }
    p.setPen(t.quiet);
    p.drawText(QRectF(2, area.top() - 2, left_margin - 8, 13), Qt::AlignRight, "left curb");
    p.drawText(QRectF(2, area.bottom() - 11, left_margin - 8, 13), Qt::AlignRight, "right curb");
    const WaterAt left = water_->at({s.id}, -1, station_), right = water_->at({s.id}, 1, station_);
    QString words;
    for (const auto& [side, w] : {std::pair{"left", left}, {"right", right}})
        if (w.spread > 0)
            words += QString(words.isEmpty() ? "" : "   ") + side + " " + text(u.text(w.flow, Quantity::Flow)) +
                     ", spread " + text(u.text(w.spread, Quantity::Length));
    if (limit > 0) words += QString(words.isEmpty() ? "" : "   ") + "allowed " + text(u.text(limit, Quantity::Length));
    p.drawText(QRectF(area.left(), area.bottom() + 1, area.width(), 14), Qt::AlignRight, words);
}

void StreetView::paint_across(QPainter& p) {
    const Theme& t = theme();
    const Street& s = *street();
    const UnitSet u = document_.units();
    const QRectF area = across();
    const StreetShape shape = shape_at(document_.project(), s, station_);
    p.setFont(lettering(10, true));
    p.setPen(t.ink);
    p.drawText(QPointF(area.left(), 20), "Across");
    p.setFont(lettering(8.5));
    p.setPen(t.quiet);
    p.drawText(QPointF(area.left() + 54, 20),
               QFontMetricsF(p.font()).elidedText("looking up the stations", Qt::ElideRight,
                                                  std::max(0.0, area.width() - 54)));
    const auto corners = section_corners(shape);
    double low = 1e300, high = -1e300;
    for (const SectionCorner& c : corners) {
        low = std::min(low, c.height);
        high = std::max(high, c.height);
    }
    const bool flat = area.height() < 150;
    const double across_scale = area.width() / (2.1 * shape.half_width()),
                 up = std::min(area.height() * (flat ? 0.3 : 0.42) / std::max(high - low, 0.05), across_scale * 8);
    const QPointF crown(area.center().x(), area.top() + area.height() * (flat ? 0.3 : 0.42));
    const auto at = [&](double offset, double height) { return crown + QPointF(offset * across_scale, -height * up); };
    QPolygonF line;
    for (const SectionCorner& c : corners) line << at(c.offset, c.height);
    QPolygonF body = line;
    body << at(corners.back().offset, low - 14 / up) << at(corners.front().offset, low - 14 / up);
    p.setPen(Qt::NoPen);
    QColor fill = t.ground;
    fill.setAlpha(40);
    p.setBrush(fill);
    p.drawPolygon(body);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.ground, 2));
    p.drawPolyline(line);
    // Water at both curbs.
    if (water_)
        for (const int side : {-1, 1}) {
            const WaterAt w = water_->at({s.id}, side, station_);
            if (!(w.depth > 0)) continue;
            const double surface = height_at(shape, shape.to_curb()) + w.depth, edge = shape.to_curb() - w.spread;
            QPolygonF body_of_water{at(side * shape.to_curb(), surface),
                                    at(side * shape.to_curb(), height_at(shape, shape.to_curb()))};
            if (edge < shape.lane_width)
                body_of_water << at(side * shape.lane_width, height_at(shape, shape.lane_width));
            body_of_water << at(side * edge, height_at(shape, edge))
                          << at(side * edge, std::max(surface, height_at(shape, edge)));
            p.setPen(Qt::NoPen);
            p.setBrush(t.water_body);
            p.drawPolygon(body_of_water);
            p.setPen(QPen(t.water, 1.4));
            p.drawLine(at(side * shape.to_curb(), surface), at(side * edge, surface));
            p.setBrush(Qt::NoBrush);
        }
    QPen axis(t.quiet, 1);
    axis.setDashPattern({6, 3, 1, 3});
    p.setPen(axis);
    p.drawLine(crown + QPointF(0, -14), QPointF(crown.x(), at(0, low).y() + (flat ? 14 : 18)));
    // Widths and slopes of the right side.
    p.setFont(lettering(8));
    const double y = at(0, low).y() + (flat ? 22 : 30);
    const auto dimension = [&](double a, double b, const QString& name, const QString& slope) {
        const double x0 = at(a, 0).x(), x1 = at(b, 0).x();
        p.setPen(QPen(t.quiet, 1));
        p.drawLine(QPointF(x0, y), QPointF(x1, y));
        for (const double x : {x0, x1}) p.drawLine(QPointF(x, y - 3), QPointF(x, y + 3));
        p.setPen(t.ink);
        p.drawText(QRectF((x0 + x1) / 2 - 60, y + 3, 120, 13), Qt::AlignCenter,
                   text(u.number(b - a, Quantity::Length)));
        p.setPen(t.quiet);
        p.drawText(QRectF((x0 + x1) / 2 - 60, y + 15, 120, 13), Qt::AlignCenter, name);
        p.drawText(QRectF((x0 + x1) / 2 - 60, y + 27, 120, 13), Qt::AlignCenter, slope);
    };
    dimension(0, shape.lane_width, "lanes", text(u.text(shape.cross_slope, Quantity::Slope)));
    dimension(shape.to_curb(), shape.half_width(), "verge", text(u.text(shape.verge_slope, Quantity::Slope)));
    const QString gutter = "gutter " + text(u.text(shape.gutter_width, Quantity::Length)),
                  slope = text(u.text(shape.gutter_slope, Quantity::Slope));
    QStringList facts{gutter + " at " + slope};
    const double room = area.width() / 2 - 10;
    const QFontMetricsF metrics(p.font());
    if (metrics.horizontalAdvance(facts[0]) > room) facts = {gutter, "at " + slope};
    facts << "curb " + text(u.text(shape.curb_height, Quantity::Length))
          << "vertical × " + QString::number(std::max(1.0, std::round(up / across_scale)));
    for (int i = 0; i < facts.size(); ++i) {
        const double top = y + 3 + 13 * i;
        if (top + 12 > height()) break;
        p.setPen(i + 1 < facts.size() ? t.ink : t.quiet);
        p.drawText(QRectF(area.left(), top, room, 13), Qt::AlignLeft,
                   metrics.elidedText(facts[i], Qt::ElideRight, room));
    }
}

void StreetView::mouseMoveEvent(QMouseEvent* e) {
    if (!street()) return;
    const QRectF area = plot();
    if (!area.adjusted(-4, -20, 4, 20).contains(e->position())) return;
    station_ = std::clamp((e->position().x() - area.left()) / area.width() * length_, 0.0, length_);
    read_out();
    update();
}
void StreetView::mousePressEvent(QMouseEvent* e) {
    setFocus();
    mouseMoveEvent(e);
}
void StreetView::keyPressEvent(QKeyEvent* e) {
    if (e->matches(QKeySequence::Paste)) {
        const QString wrong = paste_levels(QApplication::clipboard()->text());
        if (!wrong.isEmpty()) {
            readout_ = wrong;
            update();
        }
        return;
    }
    const double step = length_ / 200;
    if (e->key() == Qt::Key_Left || e->key() == Qt::Key_Right) {
        station_ = std::clamp(station_ + (e->key() == Qt::Key_Left ? -step : step), 0.0, length_);
        read_out();
        update();
        return;
    }
    QWidget::keyPressEvent(e);
}

QString StreetView::paste_levels(const QString& pasted) {
    const Street* s = street();
    if (!s) return "Select a street first.";
    const std::string words = plain(pasted);
    const char separator = words.find('\t') != std::string::npos ? '\t' : find_separator(words);
    const Cells cells = split_cells(words, separator);
    std::vector<std::string> sample;
    for (const auto& row : cells) sample.insert(sample.end(), row.begin(), row.end());
    const NumberStyle style = sniff_numbers(sample, separator);
    const UnitSet u = document_.units();
    std::vector<double> stations, levels;
    for (std::size_t r = 0; r < cells.size(); ++r) {
        double a = 0, b = 0;
        if (cells[r].size() < 2 || !read_number(cells[r][0], style, a) || !read_number(cells[r][1], style, b)) {
            if (stations.empty()) continue;  // a head
            return QString("Line %1: a station and a level are wanted. Nothing was changed.").arg(r + 1);
        }
        a *= u.unit(Quantity::Length).factor;
        b *= u.unit(Quantity::Level).factor;
        if (!stations.empty() && a <= stations.back())
            return QString("Line %1: stations must rise. Nothing was changed.").arg(r + 1);
        stations.push_back(a);
        levels.push_back(b);
    }
    if (stations.size() < 2) return "Two columns are wanted: station and level.";
    Editing e(document_.project(), "Levels of " + s->name);
    e.set(Kind::Street, s->id, "stations", stations);
    e.set(Kind::Street, s->id, "levels", levels);
    document_.commit(e.take());
    return {};
}

}  // namespace culvert::app
