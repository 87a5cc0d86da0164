// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"

/// One field of one row, whatever their kind: for tables, entry fields and readers that know neither. What a field is
/// called, its range and its help stand in the field tables (fields.h).
namespace culvert {

/// What a field holds.
enum class FieldForm : std::uint8_t { Number, Words, Choice, YesNo, Reference, Places, Numbers };
FieldForm form_of(Kind kind, std::size_t field);

[[nodiscard]] bool has_row(const Project& project, Kind kind, std::uint64_t id);
/// Name of the row with this id, whatever its kind; empty where there is none.
[[nodiscard]] std::string name_of_row(const Project& project, std::uint64_t id);
/// Of all rows of a kind, rising.
[[nodiscard]] std::vector<std::uint64_t> ids_of(const Project& project, Kind kind);
/// The value of a field; that of a blank row where there is none of this id.
[[nodiscard]] Value value_of(const Project& project, Kind kind, std::uint64_t id, std::size_t field);
/// That of a row that was just made.
[[nodiscard]] Value blank_value(Kind kind, std::size_t field);
/// The number in a field; NaN where it holds none, and where there is no such row.
[[nodiscard]] double number_of(const Project& project, Kind kind, std::uint64_t id, std::size_t field);
[[nodiscard]] Origin origin_of(const Project& project, Kind kind, std::uint64_t id, std::size_t field);
/// Whether another row of the kind has this name.
[[nodiscard]] bool name_taken(const Project& project, Kind kind, std::string_view name, std::uint64_t except);
/// A name like this one that no row of the kind has: "name", "name 2", ...
[[nodiscard]] std::string free_name(const Project& project, Kind kind, const std::string& like);
/// One more row of a kind, with the values of `like` where there is such a row and a name of its own.
/// @param id  is given the new row's
Edit one_more(const Project& project, Kind kind, std::uint64_t like, std::uint64_t& id);

}  // namespace culvert
