// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QPen>

#include "drawing/display_list.h"

/// How the profile's page is divided: head, plot, level table below.
namespace culvert::app {

constexpr double profile_left = 64, profile_right = 24, profile_head = 30, table_row = 15,
                 table_left = 92;    ///< where the table's columns begin
constexpr double profile_foot = 14,  ///< between plot and table, and below
    least_plot = 72;                 ///< what the plot keeps of a low strip

/// How each ink of the drawing is drawn on screen.
QPen profile_pen(Ink ink);

}  // namespace culvert::app
