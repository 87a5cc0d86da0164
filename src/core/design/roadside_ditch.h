// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/design/layout.h"

/// A ditch along a street: open channels that join the structures on one side of it, one after the other.
///
/// The channels are links like any pipe: a trapezoid whose height is the ditch's depth. Their levels are one depth
/// below the rims, so that the ditch is brim-full at the ground; where a structure has a lower invert already, the
/// ditch that leaves it begins there. Each runs with the street's line at the offset of its two ends, towards the lower
/// of them. Structures that a pipe joins already get no ditch between them.
namespace culvert {

struct DitchAsk {
    StreetId street;
    bool right = true;         ///< side, looking along the street's line
    double depth = 0.5;        ///< m
    double width = 0.5;        ///< of its bed, m
    double sides = 2;          ///< run over rise
    double roughness = 0.035;  ///< Manning n
};
struct DitchProposal {
    Edit edit;
    int channels = 0;
    double length = 0;                 ///< of all, m
    double least_slope = not_given;    ///< m/m
    std::vector<std::string> remarks;  ///< what was left out, and why
    std::string fault;                 ///< why there is no ditch, in words
};
DitchProposal propose_ditch(const Project& project, const DitchAsk& ask);

}  // namespace culvert
