// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/analysis/results.h"
#include "core/hydraulics/barrel.h"

/// Steady grade lines over the network.
///
/// From the outfalls up: the level at a pipe's end, the curve along it (see hydraulics/barrel.h), then the structure:
///
///     level = EGL at the pipe's entrance + K V^2 / 2g
///
/// as still water: the velocity head of the inflow is lost in the structure, so the pipes that enter meet that level.
/// A structure breaks fast flow: a steep pipe starts at critical depth. An inline joint does not: the energy is passed
/// on, so that fast flow runs through it. Then from the heads down: fast reaches of steep pipes, and where they jump.
///
/// The EGL never rises downstream, except at a structure held at its rim.
/// @source  FHWA HEC-22, 3rd ed. (2009), ch. 7; Chow (1959); Henderson (1966)
namespace culvert {

/// Fills the level part of `nodes` from their flow part. Allocates nothing.
///
/// @param before  an earlier solve of a network with the same structures and pipes in the same order, or null: a node
/// whose
///                inputs are all unchanged keeps its earlier result, bit for bit what a new solve would give
/// @return        number of barrels computed anew
std::size_t solve_levels(const Network& network, std::vector<NodeResult>& nodes, const EventResult* before = nullptr);

/// The barrel of a node's pipe with a flow, for profiles along it.
Barrel barrel_of(const Node& node, double flow);

}  // namespace culvert
