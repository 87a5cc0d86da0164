// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QPainter>

#include "core/base/units.h"

namespace culvert::app {

/// Axes of a section: levels at the left in round steps of the project's unit, stations below, from 0 to `length`.
struct SectionAxes {
    QRectF area;
    double low, high, length;  ///< m
    double label_every;        ///< pixels between two stations, about
};
void paint_axes(QPainter& p, const SectionAxes& axes, const UnitSet& units);

}  // namespace culvert::app
