// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/kit/theme.h"

#include <QApplication>
#include <QFontDatabase>
#include <QHash>
#include <QPalette>
#include <QStyleFactory>
#include <QSvgRenderer>
#include <cmath>

static void load_resources() { Q_INIT_RESOURCE(app); }  // must stand outside any namespace

namespace culvert::app {
namespace {

Theme make(bool dark) {
    Theme t;
    t.dark = dark;
    t.paper = dark ? "#182026" : "#F7F4EC";
    t.panel = dark ? "#1F2930" : "#FFFDF8";
    t.ink = dark ? "#E6E2D6" : "#1F2D36";
    t.quiet = dark ? "#9AA6AB" : "#66747C";
    t.hairline = dark ? "#3A464D" : "#D9D3C4";
    t.water = dark ? "#6DB9C4" : "#2F7E8C";
    t.water_body = dark ? "#2B5560" : "#A9D2D4";
    t.accent = dark ? "#D08A66" : "#8C4A2F";
    t.within = dark ? "#6FB58C" : "#3E7D5A";
    t.near = dark ? "#DBA645" : "#B98218";
    t.beyond = dark ? "#E27166" : "#A8322A";
    t.unknown = "#8A8F94";
    t.ground = dark ? "#B7996F" : "#8A6A45";
    t.area = dark ? "#24343A" : "#E9ECDF";
    return t;
}

Theme& current() {
    static Theme t = make(false);
    return t;
}

/// Paths on a 24 x 24 grid.
const QHash<QString, QString>& icons() {
    static const QHash<QString, QString> paths{
        {"layout",
         "<circle cx='5' cy='7' r='2.2'/><circle cx='12' cy='12' r='2.2'/><circle cx='19' cy='17' r='2.2'/><path "
         "d='M6.8 8.3 10.2 10.7M13.8 13.3 17.2 15.7'/>"},
        {"areas", "<path d='M5 8 12 4 19 9 16 19 6 18Z'/>"},
        {"rain", "<path d='M7 4 4 11M13 4 10 11M19 4 16 11M10 14 7 21M16 14 13 21'/>"},
        {"pipes", "<circle cx='12' cy='12' r='8'/><path d='M4 12H20'/>"},
        {"levels", "<path d='M3 6 21 11M3 11 21 16'/><path d='M3 16 21 20' stroke-dasharray='2.5 2.5'/>"},
        {"ground",
         "<path d='M2 17C6 13 8 17 12 12S18 8 22 5'/><path d='M2 21C7 18 9 20 13 16S19 13 22 11' stroke-dasharray='3 "
         "2'/>"},
        {"streets", "<path d='M7 3 3 21M17 3 21 21'/><path d='M12 4V7M12 11V14M12 18V21'/>"},
        {"back", "<path d='M8 5 4 9 8 13'/><path d='M4 9H14A5 5 0 0 1 14 19H8'/>"},
        {"structure", "<rect x='6' y='7' width='12' height='10'/><path d='M10 9V15M14 9V15'/>"},
        {"merge", "<path d='M4 6 12 12 20 12M4 18 12 12'/>"},
        {"move", "<path d='M12 4V20M4 12H20M9 7 12 4 15 7M9 17 12 20 15 17M7 9 4 12 7 15M17 9 20 12 17 15'/>"},
        {"cut", "<path d='M5 8 12 4 19 9 16 19 6 18Z'/><path d='M3 15 21 8' stroke-dasharray='3 2'/>"},
        {"trace", "<path d='M4 18 10 8 20 6' stroke-dasharray='3 2'/><path d='M14 14 20 20M14 14V19M14 14H19'/>"},
        {"street", "<path d='M4 19C8 19 8 8 20 5'/><path d='M8 21C12 19 12 12 21 10'/>"},
        {"path", "<path d='M4 5C10 5 8 14 18 16' stroke-dasharray='3 2'/><path d='M14 12 19 16 14 20'/>"},
        {"split", "<path d='M4 12H9M15 12H20'/><path d='M12 5V19'/>"},
        {"bend", "<path d='M4 18 12 8 20 16'/><circle cx='12' cy='8' r='2'/>"},
        {"select", "<path d='M6 4 18 12 12 13.5 9 19Z'/>"},
        {"draw", "<circle cx='5' cy='18' r='2.2'/><path d='M6.8 16.5 16 8'/><path d='M17 4V10M14 7H20'/>"},
        {"measure", "<path d='M3 16 16 3 21 8 8 21ZM7 12 9 14M10 9 12 11M13 6 15 8'/>"},
        {"area", "<path d='M4 8 12 3 20 9 17 19 6 18Z' stroke-dasharray='3 2'/>"},
        {"up", "<path d='M12 19V6M7 11 12 6 17 11'/>"},
        {"down", "<path d='M12 5V18M7 13 12 18 17 13'/>"},
    };
    return paths;
}

}  // namespace

QColor Theme::verdict(Verdict v) const {
    switch (v) {
        case Verdict::Within: return within;
        case Verdict::Near: return near;
        case Verdict::Beyond: return beyond;
        case Verdict::Unknown: break;
    }
    return unknown;
}

QPen Theme::verdict_pen(Verdict v, double width) const {
    QPen pen(verdict(v), width);
    pen.setCapStyle(Qt::FlatCap);
    if (v == Verdict::Near) pen.setDashPattern({3, 1.6});
    if (v == Verdict::Unknown) pen.setDashPattern({1, 1.6});
    return pen;
}

QColor Theme::tint(const QColor& c, double share) const {
    const auto mix = [share](int a, int b) { return static_cast<int>(a * share + b * (1 - share)); };
    return {mix(c.red(), panel.red()), mix(c.green(), panel.green()), mix(c.blue(), panel.blue())};
}

const Theme& theme() { return current(); }

void set_theme(bool dark) {
    load_resources();
    current() = make(dark);
    const Theme& t = current();
    if (!qApp) return;
    QApplication::setStyle(QStyleFactory::create("Fusion"));
    QPalette p;
    p.setColor(QPalette::Window, t.panel);
    p.setColor(QPalette::Base, t.panel);
    p.setColor(QPalette::AlternateBase, t.paper);
    p.setColor(QPalette::Text, t.ink);
    p.setColor(QPalette::WindowText, t.ink);
    p.setColor(QPalette::ButtonText, t.ink);
    p.setColor(QPalette::Button, t.panel);
    p.setColor(QPalette::Highlight, t.tint(t.accent, 0.22));
    p.setColor(QPalette::HighlightedText, t.ink);
    p.setColor(QPalette::ToolTipBase, t.panel);
    p.setColor(QPalette::ToolTipText, t.ink);
    p.setColor(QPalette::PlaceholderText, t.quiet);
    p.setColor(QPalette::Link, t.accent);
    p.setColor(QPalette::Mid, t.hairline);
    QApplication::setPalette(p);
    QApplication::setFont(lettering(9.5));
    qApp->setStyleSheet(
        QString("QToolTip{background:%1;color:%2;border:1px solid %3;padding:3px}"
                "QLineEdit{border:1px solid %3;border-radius:4px;padding:2px "
                "6px;background:%4;selection-background-color:%5;selection-color:%2}"
                "QLineEdit:focus{border:1.5px solid %6}"
                "QComboBox{border:1px solid %3;border-radius:4px;padding:2px 6px;background:%4}"
                "QComboBox::drop-down{border:none;width:18px}QComboBox::down-arrow{image:url(:/"
                "chevron.svg);width:10px;height:10px}"
                "QComboBox:focus,QPushButton:focus,QToolButton:focus{border:1.5px solid %6}"
                "QPushButton{border:1px solid %3;border-radius:4px;padding:3px 10px;background:%1}"
                "QPushButton:hover,QToolButton:hover{background:%5}"
                "QToolButton{border:1px solid transparent;border-radius:4px;padding:3px 8px}"
                "QToolButton:checked{background:%5;color:%6;border:1px solid %3}"
                "QHeaderView::section{background:%1;color:%7;border:none;border-bottom:1px solid %3;padding:3px 6px}"
                "QTableView{gridline-color:%3;border:none;selection-background-color:%5;selection-color:%2}"
                "QTableCornerButton::section{background:%1;border:none}QTreeView,QListView{border:none}"
                "QScrollBar:vertical{width:10px;background:%1}QScrollBar::handle:vertical{background:%3;border-radius:"
                "5px;min-height:24px}"
                "QScrollBar::add-line,QScrollBar::sub-line{height:0;width:0}"
                "QScrollBar:horizontal{height:10px;background:%1}QScrollBar::handle:horizontal{background:%3;border-"
                "radius:5px;min-width:24px}"
                "QTabBar::tab{padding:6px "
                "14px;color:%7;border:none;background:transparent}QTabBar::tab:selected{color:%2;border-bottom:2px "
                "solid %6;font-weight:600}"
                "QSplitter::handle{background:%3}")
            .arg(t.panel.name(), t.ink.name(), t.hairline.name(), t.paper.name(), t.tint(t.accent, 0.16).name(),
                 t.accent.name(), t.quiet.name()));
}

QFont lettering(double points, bool bold) {
    static const QString family = QFontDatabase::families().contains("Open Sans") ? "Open Sans" : "DejaVu Sans";
    QFont f(family);
    f.setPointSizeF(points);
    f.setWeight(bold ? QFont::DemiBold : QFont::Normal);
    return f;
}

void draw_verdict_mark(QPainter& p, QPointF c, double r, Verdict v) {
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const QColor colour = theme().verdict(v);
    p.setPen(QPen(colour, 1.5));
    p.setBrush(Qt::NoBrush);
    switch (v) {
        case Verdict::Within:
            p.setBrush(colour);
            p.drawEllipse(c, r * 0.72, r * 0.72);
            break;
        case Verdict::Near:
            p.drawPolygon(QPolygonF{{c.x(), c.y() - r}, {c.x() + r, c.y() + r * 0.8}, {c.x() - r, c.y() + r * 0.8}});
            break;
        case Verdict::Beyond:
            p.setBrush(colour);
            p.drawPolygon(QPolygonF{{c.x(), c.y() - r}, {c.x() + r, c.y()}, {c.x(), c.y() + r}, {c.x() - r, c.y()}});
            break;
        case Verdict::Unknown: p.drawEllipse(c, r * 0.7, r * 0.7); break;
    }
    p.restore();
}

bool has_icon(const QString& name) { return icons().contains(name); }

QPixmap icon_pixmap(const QString& name, int size, const QColor& colour, double scale) {
    const QString svg = QString(
                            "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 24 24'><g fill='none' stroke='%1' "
                            "stroke-width='1.6' stroke-linecap='round' stroke-linejoin='round'>%2</g></svg>")
                            .arg(colour.name(), icons().value(name));
    QPixmap pixmap(QSize(size, size) * scale);
    pixmap.setDevicePixelRatio(scale);
    pixmap.fill(Qt::transparent);
    QPainter p(&pixmap);
    QSvgRenderer renderer(svg.toUtf8());
    renderer.render(&p, QRectF(0, 0, size, size));
    return pixmap;
}

double round_step(double at_least) {
    const double power = std::pow(10, std::floor(std::log10(at_least)));
    for (const double k : {1.0, 2.0, 5.0})
        if (k * power >= at_least) return k * power;
    return 10 * power;
}

}  // namespace culvert::app
