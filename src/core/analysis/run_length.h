// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>

#include "core/network/network.h"

namespace culvert {

/// Steps that are computed through time: the storm, and what its water needs to run off.
///
/// After the storm come four times the longest time of concentration, twice the longest way through the pipes at their
/// full velocity, and ten steps, up to whole hours, so that a pipe that is a little faster changes no length; with
/// ponds two days at least. The project may give the time after the rain itself. No more than 200,000 steps.
std::size_t run_length(const Network& network, std::size_t storm_steps);

}  // namespace culvert
