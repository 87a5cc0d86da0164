// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>
#include <utility>
#include <vector>

/// JSON as read: numbers as their text, so that no digit is lost, and the line each value ends on.
namespace culvert {

struct Json {
    enum class Type { Null, Flag, Number, Text, List, Object } type = Type::Null;
    bool flag = false;
    std::string text;  ///< of a text, or the digits of a number
    std::vector<Json> items;
    std::vector<std::pair<std::string, Json>> members;
    int line = 0;

    // Defined where the type is complete: its members hold more of it.
    Json();
    Json(const Json&);
    Json(Json&&) noexcept;
    Json& operator=(const Json&);
    Json& operator=(Json&&) noexcept;
    ~Json();
    [[nodiscard]] const Json* find(std::string_view key) const;
    [[nodiscard]] const char* type_name() const {
        constexpr const char* names[] = {"nothing", "true or false", "a number", "a text", "a list", "an object"};
        return names[static_cast<int>(type)];
    }
    /// What it is, with its value where that is short: "the number 99", "the text \"abc\"", "a list".
    [[nodiscard]] std::string in_words() const;
};
inline Json::Json() = default;
inline Json::Json(const Json&) = default;
inline Json::Json(Json&&) noexcept = default;
inline Json& Json::operator=(const Json&) = default;
inline Json& Json::operator=(Json&&) noexcept = default;
inline Json::~Json() = default;
inline const Json* Json::find(std::string_view key) const {
    for (const auto& [k, v] : members)
        if (k == key) return &v;
    return nullptr;
}

struct JsonOutcome {
    bool ok = false;
    Json root;
    int line = 0, column = 0;
    std::string error;  ///< in plain words: what was found there and what may stand there
};
JsonOutcome parse_json(const std::string& text);

/// Compact text of a value, and of a text with its quotes and escapes.
std::string json_text(const Json& value);
std::string json_quote(const std::string& text);

}  // namespace culvert
