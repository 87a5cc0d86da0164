// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <nlohmann/json.hpp>
#include <string_view>

namespace culvert {

/// A member of an object by its name in any case, as attributes of GIS layers come; null where there is none.
/// @param key  in small letters
inline const nlohmann::json* member(const nlohmann::json& object, std::string_view key) {
    if (!object.is_object()) return nullptr;
    const auto same = [](char a, char b) { return (a >= 'A' && a <= 'Z' ? a - 'A' + 'a' : a) == b; };
    for (auto it = object.begin(); it != object.end(); ++it)
        if (std::equal(it.key().begin(), it.key().end(), key.begin(), key.end(), same)) return &it.value();
    return nullptr;
}

}  // namespace culvert
