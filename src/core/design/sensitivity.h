// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stop_token>

#include "core/design/design.h"

/// How much the verdicts hang on what is known least well: roughness, runoff coefficients, intensities, tailwater. Each
/// is changed alone, everywhere at once, and the whole is solved again in every event.
namespace culvert {

struct SensitivityCase {
    enum class What { Roughness, Coefficient, Intensity, Tailwater } what = What::Roughness;
    double change = 0.1;                                          ///< a share of the value; for the tailwater metres
    [[nodiscard]] std::string words(const UnitSet& units) const;  ///< "Manning n 10 % higher"
};
/// Up and down by a share, and the tailwater by a height.
std::vector<SensitivityCase> usual_cases(double share = 0.1, double height = 0.3);

struct SensitivityRow {
    SensitivityCase change;
    FindingKeys added, gone;  ///< beyond their limits with it, and no longer so
    double highest_rise = 0;  ///< of any HGL in the event looked at, m; negative: they all fall
    ElementRef highest_at;
};
/// The project with a change: pipes' n; C of catchments and covers, never above 1; the rain's uplift; levels of
/// outfalls that have one.
Project changed_by(const Project& project, const SensitivityCase& change);
/// @param event  whose levels are compared
/// Empty where stopped.
std::vector<SensitivityRow> sensitivities(const Project& project, const Results& results, EventId event,
                                          const std::vector<SensitivityCase>& cases, const std::stop_token& stop = {});
/// "A5–A6: flow above capacity (10 years)".
std::string key_words(const Project& project, const FindingKey& key);

}  // namespace culvert
