// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

#include "core/model/project.h"

/// Quick questions, answered without an element: typed in the command bar.
///
///     flow ratio 450 at 0.6 % 264 l/s        also: capacity 450 at 0.6 %
///     size for 264 l/s at 0.6 %
///     spread 40 l/s at 1.2 %
///
/// The order of the numbers is free as long as their units tell them apart; a bare number is a size.
namespace culvert {

struct QuickAnswer {
    bool understood = false;
    std::string answer;              ///< "flow ratio 1.20"
    std::string working;             ///< "Qfull = 220.8 l/s, V = 1.58 m/s, n = 0.013"
    const PipeSize* size = nullptr;  ///< of the project's catalogue, where the answer is one
};
QuickAnswer quick_question(const std::string& text, const Project& project);

}  // namespace culvert
