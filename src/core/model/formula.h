// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <memory>

#include "core/model/edit.h"

/// A formula typed into many cells at once:
///
///     +0.15   -0.3   *1.02   /2      change what is there
///     =rim-1.2     =invert_from + 2 * size     = (rim + 3ft) / 2
///
/// Names are the fields of the row, by key or by label ("Invert up" as invert_from or "invert up"); of a pipe also
/// from_rim and to_rim, and length and slope as drawn. A number is in the unit that the project shows for the field
/// that is set; with a unit of its own ("3ft", "450mm") it is that. Fields of lengths of any kind (level, length, size)
/// are measured in the unit of the field that is set, so rim - size is right in feet and inches too.
namespace culvert {

/// Letters and digits only, small: "Invert at start" and invert_at_start are one name.
std::string folded_name(std::string_view name);

class Formula {
  public:
    /// @param kind, field  the field that is set; it must hold a number
    static Formula parse(std::string_view text, Kind kind, std::size_t field, const UnitSet& units);
    [[nodiscard]] bool ok() const { return error_.empty(); }
    [[nodiscard]] const std::string& error() const { return error_; }
    /// Value of the field for a row, SI; NaN where a value it needs is not given, or it divides by nothing.
    [[nodiscard]] double value(const Project& project, std::uint64_t id) const;

  private:
    struct Node;
    friend class FormulaParser;
    std::shared_ptr<const Node> root_;
    std::string error_;
    Kind kind_{};
    std::size_t field_ = 0;
    double unit_ = 1;
};

/// Whether a text is a formula: it begins with =, *, / or a sign that stands before a change ("+0.15", "-0.3").
bool is_formula(std::string_view text);

/// One Edit that sets a field of rows by a formula; rows whose result is out of range or not known are named and left.
struct GroupEdit {
    Edit edit;
    std::vector<std::string> refused;
};
GroupEdit edit_by_formula(const Project& project, Kind kind, std::size_t field, const std::vector<std::uint64_t>& ids,
                          std::string_view text);

}  // namespace culvert
