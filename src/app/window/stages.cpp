// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/stages.h"

#include <algorithm>

namespace culvert::app {

const std::vector<StageSpec>& stages() {
    using PL = PipeLabels;
    using SL = StructureLabels;
    static const std::vector<StageSpec> list{
        {Stage::Ground,
         "Ground",
         "ground",
         "Surfaces and backgrounds",
         {"select", "trace", "street", "measure"},
         {"verdict", AreaFill::Outline, PL::None, SL::None, true, true},
         LowerView::Section,
         DrawerPage::Ground,
         Kind::Surface,
         CardPart::Levels,
         {390, 150, 210}},
        {Stage::Layout,
         "Layout",
         "layout",
         "Structures and pipes",
         {"select", "draw", "structure", "split", "merge", "move", "measure"},
         {"verdict", AreaFill::Quiet, PL::SizeAndSlope, SL::NameAndRim, false, false},
         LowerView::Run,
         DrawerPage::Ledger,
         Kind::Structure,
         CardPart::Levels,
         {440, 190, 120}},
        {Stage::Areas,
         "Areas",
         "areas",
         "Catchments and land covers",
         {"select", "area", "cut", "flow", "cover", "measure"},
         {"verdict", AreaFill::Coefficient, PL::None, SL::Name, true, false},
         LowerView::Section,
         DrawerPage::Ledger,
         Kind::Catchment,
         CardPart::Drains,
         {410, 150, 190}},
        {Stage::Rain,
         "Rain",
         "rain",
         "Rain events",
         {"select", "draw", "area", "measure"},
         {"verdict", AreaFill::Quiet, PL::None, SL::None, true, true},
         LowerView::Rain,
         DrawerPage::Ledger,
         Kind::Event,
         CardPart::Event,
         {240, 280, 230}},
        {Stage::Streets,
         "Streets",
         "streets",
         "Streets and street paths",
         {"select", "street", "path", "structure", "measure"},
         {"spread_share", AreaFill::Outline, PL::None, SL::Name, true, false, true},
         LowerView::Street,
         DrawerPage::Ledger,
         Kind::Structure,
         CardPart::Street,
         {370, 200, 180}},
        {Stage::Pipes,
         "Pipes",
         "pipes",
         "Flows, sizes, velocities",
         {"select", "draw", "area", "measure"},
         {"flow_ratio", AreaFill::Quiet, PL::SizeAndSlope, SL::Name, false, false},
         LowerView::Run,
         DrawerPage::Ledger,
         Kind::Pipe,
         CardPart::Verdicts,
         {350, 220, 180}},
        {Stage::Levels,
         "Levels",
         "levels",
         "Grade lines, surcharge, freeboard",
         {"select", "draw", "buried", "measure"},
         {"verdict", AreaFill::Quiet, PL::SizeAndSlope, SL::NameAndLevel, false, false},
         LowerView::Run,
         DrawerPage::Findings,
         Kind::Structure,
         CardPart::Cause,
         {290, 300, 160}},
        {Stage::Storage,
         "Storage",
         "storage",
         "Ponds, outlets, hydrographs, releases",
         {"select", "draw", "structure", "pond", "measure"},
         {"verdict", AreaFill::Quiet, PL::None, SL::Name, true, false},
         LowerView::Storage,
         DrawerPage::Storage,
         Kind::Pond,
         CardPart::Storage,
         {270, 310, 170}}};
    return list;
}

const StageSpec& stage_spec(Stage stage) {
    const auto at =
        std::find_if(stages().begin(), stages().end(), [&](const StageSpec& s) { return s.stage == stage; });
    return at == stages().end() ? stages().front() : *at;
}

}  // namespace culvert::app
