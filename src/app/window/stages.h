// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

#include "app/card/card_part.h"
#include "app/plan/plan_theme.h"
#include "core/base/stage.h"
#include "core/model/ids.h"

/// The registry of stages: what each shows in every part of the window. A new stage is one row in stages.cpp.
namespace culvert::app {

/// What stands below the plan.
enum class LowerView { Run, Street, Section, Rain, Storage };
enum class DrawerPage { Ledger, Findings, Ground, Storage };

struct StageSpec {
    Stage stage;
    const char *name, *icon, *help;
    std::vector<const char*> tools;
    PlanTheme plan;
    LowerView lower;
    DrawerPage page;
    Kind ledger;
    CardPart card;            ///< stands first
    std::vector<int> shares;  ///< of the height: plan, lower view, drawer; in 750 parts
};
const std::vector<StageSpec>& stages();
const StageSpec& stage_spec(Stage stage);

}  // namespace culvert::app
