// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>

namespace culvert {

/// The parts of the job, in the order in which practitioners do them. A result, a limit and a finding belong to one:
/// the rail counts by it, and the window shows each where its work is done.
enum class Stage : std::uint8_t { Ground, Layout, Areas, Rain, Streets, Pipes, Levels, Storage };

}  // namespace culvert
