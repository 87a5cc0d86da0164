// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/review/review.h"
#include "exchange/assets.h"
#include "exchange/project_file.h"

/// Faults that only the files know: what reading a project warned of, contents that are missing beside it, variants
/// whose text does not fit.
namespace culvert {

/// Faults of a variant's changes, and of an issued state: changes that do not fit are named; they are kept, and not
/// applied.
std::vector<Finding> variant_findings(const Project& project);
/// Surfaces, backgrounds and issued states whose content is nowhere.
std::vector<Finding> asset_findings(const Project& project, const AssetStore& assets);
/// What reading the file warned of, as findings.
std::vector<Finding> read_findings(const ReadOutcome& read);

}  // namespace culvert
