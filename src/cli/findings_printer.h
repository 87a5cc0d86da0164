// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "report/tables.h"

namespace culvert::cli {

/// Prints findings as they come, as a JSON list or a table, so that a city's worth never stands in memory at once.
class FindingsPrinter {
  public:
    FindingsPrinter(const Project& project, bool json) : project_(project), json_(json) {}
    void put(Finding finding);
    /// Prints what is held back, and closes the list.
    void finish();

  private:
    void print_held();
    const Project& project_;
    bool json_, any_ = false;
    std::vector<Finding> held_;  ///< rows of a table, whose columns are as wide as the widest of them
};

}  // namespace culvert::cli
