// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/analysis/explain.h"
#include "core/design/design.h"
#include "core/review/review.h"

/// What results say as tables: for terminals, as JSON, and for reports.
namespace culvert {

struct TextTable {
    std::vector<std::string> heads;
    std::vector<std::string> units;  ///< one a column, empty where there is none
    std::vector<std::vector<std::string>> rows;
    std::vector<bool> left;  ///< columns of words
    std::vector<std::vector<double>> si =
        {};  ///< as rows: numbers in SI, NaN for words; empty where only words are kept
};
/// Columns of equal width, numbers to the right; counts characters, not bytes.
std::string render(const TextTable& table);

/// Pipes, then structures, of one event: what the plan, card and profile show.
TextTable pipe_table(const Project& project, const EventResult& result);
TextTable structure_table(const Project& project, const EventResult& result);
nlohmann::ordered_json result_json(const Project& project, const EventResult& result);

TextTable findings_table(const Project& project, const std::vector<Finding>& findings);
nlohmann::ordered_json findings_json(const Project& project, const std::vector<Finding>& findings);

/// "Q = CA * i / 360 + Qk" with values below, for a terminal.
std::string working_text(const Explanation& explanation);
nlohmann::ordered_json working_json(const Explanation& explanation);

/// One line that lists the formula's values: "CA = 1.2 ha, i = 80 mm/h".
std::string terms_text(const Step& step);

}  // namespace culvert
