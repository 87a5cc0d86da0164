// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/words.h"

#include <algorithm>
#include <cctype>
#include <vector>

namespace culvert {

std::string printable(std::string_view text) {
    constexpr char hex[] = "0123456789abcdef";
    std::string out;
    out.reserve(text.size());
    for (const char c : text) {
        const auto u = static_cast<unsigned char>(c);
        if (u >= 0x20 && u != 0x7f) out += c;
        else if (c == '\n') out += "\\n";
        else if (c == '\r') out += "\\r";
        else if (c == '\t') out += "\\t";
        else {
            out += "\\x";
            out += hex[u >> 4];
            out += hex[u & 15];
        }
    }
    return out;
}

std::string within_sentence(std::string_view label) {
    std::string word(label);
    const bool name = word.starts_with("Manning") || (word.size() > 1 && word[1] >= 'A' && word[1] <= 'Z');
    if (!word.empty() && !name) word[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(word[0])));
    return word;
}

std::string plain_dashes(std::string_view text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        // U+2010 to U+2015, and the minus U+2212
        const std::string_view rest = text.substr(i, 3);
        const bool hyphen = rest.size() == 3 && rest.starts_with("\xe2\x80") && rest[2] >= '\x90' && rest[2] <= '\x95';
        if (hyphen || rest == "\xe2\x88\x92") {
            out += '-';
            i += 2;
        } else out += text[i];
    }
    return out;
}

std::string sentences(std::string_view message, std::string_view remedy) {
    std::string out;
    for (std::string_view part : {message, remedy}) {
        while (!part.empty() && (part.back() == ' ' || part.back() == '\n')) part.remove_suffix(1);
        if (part.empty()) continue;
        if (!out.empty()) out += ' ';
        out += part;
        if (std::string_view(".?!").find(part.back()) == std::string_view::npos) out += '.';
    }
    return out;
}

std::size_t edit_distance(std::string_view a, std::string_view b) {
    std::vector<std::size_t> before(b.size() + 1), last(b.size() + 1), now(b.size() + 1);
    for (std::size_t k = 0; k <= b.size(); ++k) last[k] = k;
    for (std::size_t i = 1; i <= a.size(); ++i) {
        now[0] = i;
        for (std::size_t k = 1; k <= b.size(); ++k) {
            now[k] = std::min({last[k] + 1, now[k - 1] + 1, last[k - 1] + (a[i - 1] != b[k - 1])});
            if (i > 1 && k > 1 && a[i - 1] == b[k - 2] && a[i - 2] == b[k - 1])
                now[k] = std::min(now[k], before[k - 2] + 1);
        }
        before.swap(last);
        last.swap(now);
    }
    return last[b.size()];
}

std::string_view nearest_word(std::string_view typed, std::span<const std::string_view> words) {
    std::string_view best;
    std::size_t least = 3;
    for (const std::string_view w : words) {
        if (w.size() > typed.size() + 2 || typed.size() > w.size() + 2) continue;
        if (const std::size_t d = edit_distance(typed, w); d < least && 2 * d < typed.size()) {
            least = d;
            best = w;
        }
    }
    return best;
}

}  // namespace culvert
