// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QColor>
#include <QFont>
#include <QIcon>
#include <QPainter>
#include <QPen>

#include "core/review/review.h"

/// Looks: paper and ink, one set of roles for light and dark. Colour never speaks alone: each verdict has a mark and a
/// line.
namespace culvert::app {

struct Theme {
    bool dark = false;
    QColor paper, panel, ink, quiet, hairline, water, water_body, accent, within, near, beyond, unknown, ground, area;
    [[nodiscard]] QColor verdict(Verdict v) const;
    /// within: solid; near: dashed; beyond: solid (painters double it); unknown: dotted.
    [[nodiscard]] QPen verdict_pen(Verdict v, double width) const;
    [[nodiscard]] QColor tint(const QColor& colour, double share) const;  ///< mixed into the panel
};

/// The theme in force; one per process, like the palette of QApplication that it is set with.
const Theme& theme();
void set_theme(bool dark);

QFont lettering(double points, bool bold = false);
/// Of all lettering, from 0.9 to 1.5; it takes effect with the next set_theme.
void set_text_scale(double scale);
double text_scale();

/// Mark of a verdict: disc within, open triangle near, diamond beyond, ring unknown.
void draw_verdict_mark(QPainter& p, QPointF centre, double radius, Verdict v);

/// Our own line icons, one stroke width, in the given colour.
bool has_icon(const QString& name);
QPixmap icon_pixmap(const QString& name, int size, const QColor& colour, double scale = 1);

/// The least of 1, 2 and 5 times a power of ten that is not below a number: the step of an axis.
double round_step(double at_least);

}  // namespace culvert::app
