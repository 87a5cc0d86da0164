// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <string>

#include "core/model/edit.h"
#include "exchange/json_tree.h"

/// An Edit as JSON on one line: what the journal and variants hold. Numbers are SI, the shortest decimal that reads
/// back to the same double. Fields go by key, so an Edit outlives a new version of the field tables.
namespace culvert {

std::string edit_text(const Edit& edit);
/// None where the text is no Edit. Changes of fields or kinds that this version does not know are left out.
std::optional<Edit> read_edit(const std::string& text);
std::optional<Edit> read_edit(const Json& json);

}  // namespace culvert
