// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <string>
#include <string_view>

/// Small work on words that messages and look-ups share.
namespace culvert {

/// Text as it can be shown on one line and in a terminal: control characters stand as \n, \t, \x1b.
std::string printable(std::string_view text);

/// Every kind of dash as "-", so that "A3–A4", "A3—A4" and "A3-A4" are one name where a person types it.
std::string plain_dashes(std::string_view text);

/// A label as it stands within a sentence: "Invert at start" becomes "invert at start"; names keep their capital.
std::string within_sentence(std::string_view label);

/// Message and remedy as sentences: one full stop after each, whatever they end with.
std::string sentences(std::string_view message, std::string_view remedy = {});

/// Number of single changes (a letter put in, left out, exchanged, or two neighbours turned) that make b of a.
std::size_t edit_distance(std::string_view a, std::string_view b);
/// The word nearest to a misspelt one: at most two changes away, and fewer than half its letters; empty if there is
/// none.
std::string_view nearest_word(std::string_view typed, std::span<const std::string_view> words);

}  // namespace culvert
