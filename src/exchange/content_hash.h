// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <string_view>

/// What content is known by: assets by the hash of their bytes, a saved project by that of its text.
namespace culvert {

/// SHA-256 (FIPS 180-4), 64 hexadecimal digits: no two contents share one, by accident or by design.
std::string content_hash(std::string_view bytes);

/// Whether a text has the form of a hash: 64 digits, or 32 as programs before format 2 of the journal made them.
bool is_hash(std::string_view text);
/// Whether bytes are the content that a hash names, in either form.
bool is_content_of(std::string_view bytes, std::string_view hash);

}  // namespace culvert
