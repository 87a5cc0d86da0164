// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <bitset>

#include "core/model/edit.h"

/// What a change touched: it travels with every signal, so that a view looks at what concerns it and no more.
namespace culvert {

class ChangeSet {
  public:
    static constexpr std::size_t most_rows = 64;  ///< above this many, rows are no longer listed

    /// Another project, or a state whose difference is not known.
    static ChangeSet everything();
    static ChangeSet of(const Edit& edit);
    ChangeSet& operator|=(const ChangeSet& other);

    [[nodiscard]] bool touches(Kind kind) const { return kinds_[static_cast<std::size_t>(kind)]; }
    /// Whether a row may have changed.
    [[nodiscard]] bool touches(ElementRef element) const;
    /// Whether rows of a kind came or went.
    [[nodiscard]] bool resizes(Kind kind) const { return resized_[static_cast<std::size_t>(kind)]; }
    /// Places or lines.
    [[nodiscard]] bool geometry() const { return geometry_; }
    /// What leads to what: structures or pipes came, went, or were joined otherwise.
    [[nodiscard]] bool topology() const { return topology_; }
    /// Whether all rows that changed are in rows().
    [[nodiscard]] bool listed() const { return !many_; }
    [[nodiscard]] const std::vector<ElementRef>& rows() const { return rows_; }
    [[nodiscard]] bool empty() const { return kinds_.none(); }

  private:
    std::bitset<kind_count> kinds_, resized_;
    std::vector<ElementRef> rows_;
    bool geometry_ = false, topology_ = false, many_ = false;
};

}  // namespace culvert
