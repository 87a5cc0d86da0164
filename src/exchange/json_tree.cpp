// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/json_tree.h"

#include <algorithm>
#include <iterator>
#include <nlohmann/json.hpp>

#include "core/base/words.h"

namespace culvert {
namespace {

struct Lines {
    int line = 1;
    bool passed = false;  ///< the character read last ended a line
};
/// Walks the text and counts lines; copies share the counter.
class CountingIterator {
  public:
    using iterator_category = std::input_iterator_tag;
    using value_type = char;
    using difference_type = std::ptrdiff_t;
    using pointer = const char*;
    using reference = const char&;
    CountingIterator(const char* at, Lines* lines) : at_(at), lines_(lines) {}
    reference operator*() const { return *at_; }
    CountingIterator& operator++() {
        // The reader looks one character beyond a number: a line begins when its first character is read.
        if (lines_->passed) ++lines_->line;
        lines_->passed = *at_ == '\n';
        ++at_;
        return *this;
    }
    friend bool operator==(const CountingIterator& a, const CountingIterator& b) { return a.at_ == b.at_; }
    friend bool operator!=(const CountingIterator& a, const CountingIterator& b) { return a.at_ != b.at_; }

  private:
    const char* at_;
    Lines* lines_;
};

/// What a parser's message means to a person who edits the file.
std::string in_plain_words(const std::string& what) {
    struct Meaning {
        const char *part, *words;
    };
    constexpr Meaning meanings[] = {
        {"missing closing quote", "a text is not closed: its second quote is missing"},
        {"unexpected end of input", "the file ends in the middle of a value: it is cut short"},
        {"control character", "a line break or another control character stands inside a text: write \\n for it"},
        {"ill-formed UTF-8", "this is not UTF-8 text"},
        {"UTF-8", "this is not UTF-8 text"},
        {"surrogate", "\\u inside a text is not followed by the code of a character"},
        {"'\\u' must be", "\\u inside a text is not followed by four hexadecimal digits"},
        {"forbidden character after backslash", "a backslash inside a text stands before a letter that has no meaning"},
        {"number overflow", "a number is too large to be read"},
        {"expected digit", "a number is not complete"},
        {"expected '+', '-', or digit", "the exponent of a number is not complete"},
        {"invalid literal",
         "this is no value: write a number, a \"text\", true, false, null, [ a list ] or { members }"},
        {"expected ':'", "a colon is missing between a member's name and its value"},
        {"expected ',' or '}'", "a comma is missing between two members, or a brace } at their end"},
        {"expected ',' or ']'", "a comma is missing between two values, or a bracket ] at their end"},
        {"while parsing object key",
         "the name of a member must stand here, in quotes; is there a comma too many before it?"},
        {"unexpected ','", "a comma stands where a value must stand"},
        {"unexpected ']'", "a bracket ] stands where a value must stand; is there a comma too many before it?"},
        {"unexpected '}'", "a brace } stands where a value must stand; is there a comma too many before it?"},
        {"expected end of input", "the file goes on after its last brace"},
    };
    for (const Meaning& m : meanings)
        if (what.find(m.part) != std::string::npos) return m.words;
    return "what stands here cannot be read";
}

class Builder : public nlohmann::json_sax<nlohmann::json> {
  public:
    Builder(JsonOutcome& out, const std::string& source, const int& line) : out_(out), source_(source), line_(line) {}

    bool null() override { return put(Json::Type::Null); }
    bool boolean(bool value) override {
        Json j;
        j.flag = value;
        return put(Json::Type::Flag, std::move(j));
    }
    bool number_integer(number_integer_t value) override { return number(std::to_string(value)); }
    bool number_unsigned(number_unsigned_t value) override { return number(std::to_string(value)); }
    bool number_float(number_float_t, const string_t& digits) override {
        // The parser writes the decimal mark of the user's locale into the digits; ours is the point.
        std::string plain = digits;
        for (char& c : plain)
            if ((c < '0' || c > '9') && c != '-' && c != '+' && c != 'e' && c != 'E') c = '.';
        return number(std::move(plain));
    }
    bool string(string_t& value) override {
        Json j;
        j.text = std::move(value);
        return put(Json::Type::Text, std::move(j));
    }
    bool binary(binary_t&) override { return false; }
    bool start_object(std::size_t) override { return open(Json::Type::Object); }
    bool start_array(std::size_t) override { return open(Json::Type::List); }
    bool end_object() override { return close(); }
    bool end_array() override { return close(); }
    bool key(string_t& value) override {
        key_ = std::move(value);
        return true;
    }
    bool parse_error(std::size_t position, const std::string&, const nlohmann::detail::exception& e) override {
        const std::size_t at = std::min(position > 0 ? position - 1 : 0, source_.size());
        const auto begin = source_.begin(), here = begin + static_cast<std::ptrdiff_t>(at);
        out_.line = 1 + static_cast<int>(std::count(begin, here, '\n'));
        const auto line_start = source_.rfind('\n', at == 0 ? 0 : at - 1);
        out_.column = static_cast<int>(line_start == std::string::npos || at == 0 ? at + 1 : at - line_start);
        out_.error = in_plain_words(e.what());
        return false;
    }

  private:
    bool number(std::string digits) {
        Json j;
        j.text = std::move(digits);
        return put(Json::Type::Number, std::move(j));
    }
    Json* add(Json value) {
        value.line = line_;
        if (stack_.empty()) {
            out_.root = std::move(value);
            return &out_.root;
        }
        Json& parent = *stack_.back();
        if (parent.type == Json::Type::Object) {
            parent.members.emplace_back(std::move(key_), std::move(value));
            return &parent.members.back().second;
        }
        parent.items.push_back(std::move(value));
        return &parent.items.back();
    }
    bool put(Json::Type type, Json value = {}) {
        value.type = type;
        add(std::move(value));
        return true;
    }
    bool open(Json::Type type) {
        if (stack_.size() > 40) {
            out_.error = "more than 40 levels of nesting";
            out_.line = line_;
            return false;
        }
        Json value;
        value.type = type;
        stack_.push_back(add(std::move(value)));
        return true;
    }
    bool close() {
        stack_.pop_back();
        return true;
    }

    JsonOutcome& out_;
    const std::string& source_;
    const int& line_;
    std::vector<Json*> stack_;  ///< a parent's list grows only while it is on top, so pointers to it hold
    std::string key_;
};

}  // namespace

JsonOutcome parse_json(const std::string& text) {
    JsonOutcome out;
    Lines lines;
    Builder builder(out, text, lines.line);
    out.ok = nlohmann::json::sax_parse(CountingIterator(text.data(), &lines),
                                       CountingIterator(text.data() + text.size(), &lines), &builder);
    return out;
}

std::string Json::in_words() const {
    constexpr std::size_t most = 40;
    if (type == Type::Text)
        return "the text \"" + printable(text.size() > most ? text.substr(0, most) + "…" : text) + "\"";
    if (type == Type::Number) return "the number " + (text.size() > most ? text.substr(0, most) + "…" : text);
    if (type == Type::Flag) return flag ? "true" : "false";
    return type_name();
}

std::string json_quote(const std::string& text) {
    return nlohmann::json(text).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

std::string json_text(const Json& v) {
    std::string s;
    switch (v.type) {
        case Json::Type::Null: return "null";
        case Json::Type::Flag: return v.flag ? "true" : "false";
        case Json::Type::Number: return v.text;
        case Json::Type::Text: return json_quote(v.text);
        case Json::Type::List:
            for (const Json& i : v.items) s += (s.empty() ? "" : ",") + json_text(i);
            return "[" + s + "]";
        case Json::Type::Object:
            for (const auto& [k, i] : v.members) s += (s.empty() ? "" : ",") + json_quote(k) + ":" + json_text(i);
            return "{" + s + "}";
    }
    return s;
}

}  // namespace culvert
