// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/fields.h"

/// What reader and writer of the project file share.
namespace culvert {

constexpr std::array<std::string_view, 6> origin_names{"default",   "typed",    "ground",
                                                       "catalogue", "imported", "proposed"};

/// Quantity that a field's numbers have in the file; a limit's value has that of what it limits.
template <class R>
Quantity quantity_in_file(const R& row, const FieldInfo& field) {
    if constexpr (std::is_same_v<R, Limit>)
        if (field.key == "value" && row.kind >= 0 && row.kind < static_cast<int>(LimitKind::Count))
            return limit_quantity(static_cast<LimitKind>(row.kind));
    return field.quantity;
}

}  // namespace culvert
