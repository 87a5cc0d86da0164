// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/edit.h"

namespace culvert::testing {

/// The Edit that begins a variant.
inline Edit new_variant(const Project& project, std::uint64_t id = 7, const char* name = "Wider") {
    Editing e(project, "New variant");
    Variant v;
    v.id = id;
    v.name = name;
    e.insert(v);
    return e.take();
}

}  // namespace culvert::testing
