// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <compare>
#include <cstdint>
#include <string>

/// Identity of elements: random 64-bit numbers, typed, never reused. 0 means "none".
namespace culvert {

template <class Tag>
struct Id {
    std::uint64_t value = 0;
    explicit operator bool() const { return value != 0; }
    friend auto operator<=>(const Id&, const Id&) = default;
};
using StructureId = Id<struct StructureTag>;
using PipeId = Id<struct PipeTag>;
using CatchmentId = Id<struct CatchmentTag>;
using StreetId = Id<struct StreetTag>;
using EventId = Id<struct EventTag>;

/// A new random identity, never 0.
std::uint64_t random_id();
/// 16 hexadecimal digits and back; 0 for text that is not an id.
std::string id_text(std::uint64_t id);
std::uint64_t read_id(const std::string& text);

}  // namespace culvert
