// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QStringList>
#include <vector>

#include "core/analysis/result_fields.h"

/// Rows of the level table under the profile: levels of the pipes' ends, which can be typed there, and what the result
/// catalogue has about pipes. Which are shown is a choice of the person, kept for all projects.
namespace culvert::app {

struct TableRow {
    QString key, head;  ///< the head without its unit
    Quantity quantity = Quantity::None;
    const ResultField* field = nullptr;  ///< none: a level that can be typed
    bool lower = false;                  ///< of the lower end
};
/// Everything there is, in the order it is shown.
const std::vector<TableRow>& all_table_rows();
/// What is shown: as chosen last, or else what the catalogue shows in profiles, with both levels.
std::vector<TableRow> chosen_table_rows();
void choose_table_rows(const QStringList& keys);

}  // namespace culvert::app
