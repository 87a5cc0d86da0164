// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"

/// Variants: an overlay of changes over the base project. Each change remembers the value that it saw in the base. When
/// the base moves, changes of values that it left alone follow it; where base and variant changed the same value to
/// different ones there is a conflict, which is named and left to a person. Until then the variant's value holds.
namespace culvert {

/// A change of the overlay that the base has overtaken.
struct Conflict {
    Kind kind;
    std::uint64_t id;
    std::size_t field = 0;   ///< of a patch
    bool whole_row = false;  ///< the row was deleted on one side and changed on the other
    Value seen, base, mine;  ///< what the variant saw, what the base has now, what the variant set
    std::size_t change = 0;  ///< index in the overlay
};

/// The overlay with a further Edit on top, each value changed once: patches of one field become one, a patch of a row
/// that the overlay inserts goes into it, a delete of such a row takes both away. A change back to what was seen is
/// none.
Edit composed(const Edit& overlay, const Edit& next);

/// The base with the overlay on it.
Project with_overlay(const Project& base, const Edit& overlay, std::vector<Conflict>* conflicts = nullptr);

/// The overlay with one conflict settled: the base's value (the change goes) or mine (it now has seen the base's).
Edit settled(const Edit& overlay, const Project& base, const Conflict& conflict, bool mine);

/// The Edit that makes `after` out of `before`, element by element: what a comparison shows, and what turns a variant
/// into the base.
Edit edit_between(const Project& before, const Project& after, std::string name);

/// A value in words, in the project's units.
std::string value_text(const Project& project, Kind kind, std::size_t field, const Value& value);

}  // namespace culvert
