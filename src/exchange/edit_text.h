// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <optional>
#include <string>

#include "core/model/edit.h"
#include "exchange/json_tree.h"

/// An Edit as JSON on one line: what the journal and variants hold. Numbers are SI, the shortest decimal that reads
/// back to the same double; choices and origins are words. Fields go by key, so an Edit outlives a new version of the
/// field tables.
///
/// A file can hold anything. Each change is checked before it is a value: its kind and field are known, its value is of
/// the field's type, a choice is one of the choices, an id is an id, places are in reach, and the settings row is
/// neither inserted nor deleted. A change that does not fit is named, left out, and kept as it was written
/// (Edit::unread), so that writing the Edit again loses nothing.
namespace culvert {

std::string edit_text(const Edit& edit);
/// The same for the journal, where the state before is known: of a long text field only what changed stands there, as
/// "splice": [bytes kept, bytes cut, text put in]. A variant holds all its changes as one text: each Edit in it costs
/// as much as it changed, not as much as stands there.
std::string short_edit_text(const Edit& edit);
/// Makes before and after of each splice in an Edit's JSON, from the text that stands before it; one that does not fit
/// is left, and found fault with when the Edit is read.
/// @param text_of  kind, id and field key to the text before; null where there is none
void expand_splices(
    Json& edit,
    const std::function<const std::string*(const std::string&, std::uint64_t, const std::string&)>& text_of);
/// None where the text is no Edit at all.
/// @param problems  takes a sentence for each change that does not fit
std::optional<Edit> read_edit(const std::string& text, std::vector<std::string>* problems = nullptr);
std::optional<Edit> read_edit(const Json& json, std::vector<std::string>* problems = nullptr);

}  // namespace culvert
