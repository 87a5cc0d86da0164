// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <stop_token>

#include "core/analysis/rational.h"

/// Components in which water has several ways: rings, parallel pipes, further ways out.
///
/// The flows are those with which one level stands at each structure, whichever pipe it is reached by: each pipe by its
/// own profile and losses, free surface or full. A way whose highest invert stands above the water carries nothing.
///
/// Unknown is the flow x of each link beside the tree, positive as it is listed; the flows of the tree follow from
/// continuity. For given flows the grade lines are computed from the outfalls up, and
///
///     g(x) = H(from) - U(x, H(to))        U: level that the link needs at its upper end
///
/// must vanish for each: g falls with x, and jumps at x = 0, where it spans what keeps a way still or dry. The set is
/// solved by Newton's method with a line search, and where that does not get on, one link after another in a bracket.
/// Then area and known flow are divided as the flow is, rational flows are computed anew along the ways (each with its
/// own travel time), and the whole is repeated until no flow changes by more than 1e-6 of the largest.
///
/// Continuity holds by construction; levels reached on two ways agree to a tenth of a millimetre. Where they do not –
/// the levels of a steep pipe jump as it drowns, and no steady flow may lie between, or `most_work` was spent – the
/// link is listed as unbalanced with the difference that is left: a finding says so.
///
/// Where ways meet, part or go round, an inline joint is still water with its loss, like any structure.
namespace culvert {

constexpr double balanced_within = 1e-4;      ///< m
constexpr std::size_t most_work = 2'000'000;  ///< profiles of pipes that one balance may take, about 10 s

/// Fills flows and levels of a component. Allocates; meant for components that are no trees.
/// @return  number of barrels in it
std::size_t solve_block(const Network& network, const Component& component, const EventRain& rain, Summaries& out,
                        const std::stop_token& stop = {});

}  // namespace culvert
