// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/kit/theme.h"

#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QHash>
#include <QPalette>
#include <QStyleFactory>
#include <QSvgRenderer>
#include <algorithm>
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
                "QTabBar::scroller{width:32px}QTabBar QToolButton{padding:0;background:%1;border:none}"
                "QTabBar QToolButton::left-arrow{image:url(:/chevron-left.svg);width:10px;height:10px}"
                "QTabBar QToolButton::right-arrow{image:url(:/chevron-right.svg);width:10px;height:10px}"
                "QSplitter::handle{background:%3}")
            .arg(t.panel.name(), t.ink.name(), t.hairline.name(), t.paper.name(), t.tint(t.accent, 0.16).name(),
                 t.accent.name(), t.quiet.name()));
}

namespace {
double scale_of_text = 1;
}
void set_text_scale(double scale) { scale_of_text = std::clamp(scale, 0.9, 1.5); }
double text_scale() { return scale_of_text; }

QFont lettering(double points, bool bold) {
    static const QString family = QFontDatabase::families().contains("Open Sans") ? "Open Sans" : "DejaVu Sans";
    QFont f(family);
    f.setPointSizeF(points * scale_of_text);
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

/// Icons are .svg files of one stroke width on a 24 x 24 grid, black; they are drawn in the ink that is asked for.
/// Strips paint them often, so each picture is kept.
bool has_icon(const QString& name) {
    load_resources();
    return QFile::exists(":/icons/" + name + ".svg");
}

QPixmap icon_pixmap(const QString& name, int size, const QColor& colour, double scale) {
    load_resources();
    static QHash<QString, QPixmap> kept;
    const QString key = QString("%1 %2 %3 %4").arg(name).arg(size).arg(colour.name()).arg(scale);
    if (const auto at = kept.constFind(key); at != kept.constEnd()) return *at;
    QPixmap pixmap(QSize(size, size) * scale);
    pixmap.setDevicePixelRatio(scale);
    pixmap.fill(Qt::transparent);
    if (QFile file(":/icons/" + name + ".svg"); file.open(QFile::ReadOnly)) {
        QPainter p(&pixmap);
        QSvgRenderer renderer(file.readAll().replace("stroke='black'", ("stroke='" + colour.name() + "'").toUtf8()));
        renderer.render(&p, QRectF(0, 0, size, size));
    }
    return *kept.insert(key, pixmap);
}

double round_step(double at_least) {
    const double power = std::pow(10, std::floor(std::log10(at_least)));
    for (const double k : {1.0, 2.0, 5.0})
        if (k * power >= at_least) return k * power;
    return 10 * power;
}

}  // namespace culvert::app
