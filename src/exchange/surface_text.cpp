// SPDX-License-Identifier: GPL-3.0-or-later
// The text form of a surface: a head line, then blocks of "word count" and as many lines of numbers.
#include <charconv>
#include <cmath>

#include "exchange/assets.h"

namespace culvert {
namespace {

constexpr std::string_view head = "calm-culvert surface 1\n";
constexpr std::size_t most_numbers = 100'000'000;

void put(std::string& out, double v, char after) {
    char text[40];
    if (std::isnan(v)) out += '-';
    else out.append(text, std::to_chars(text, text + sizeof text, v).ptr);
    out += after;
}

class Scanner {
  public:
    explicit Scanner(std::string_view text) : at_(text.data()), end_(text.data() + text.size()) {}
    [[nodiscard]] bool done() {
        skip();
        return at_ == end_;
    }
    std::string_view word() {
        skip();
        const char* from = at_;
        while (at_ != end_ && *at_ != ' ' && *at_ != '\n') ++at_;
        return {from, static_cast<std::size_t>(at_ - from)};
    }
    std::string_view rest_of_line() {
        if (at_ != end_ && *at_ == ' ') ++at_;
        const char* from = at_;
        while (at_ != end_ && *at_ != '\n') ++at_;
        return {from, static_cast<std::size_t>(at_ - from)};
    }
    template <class T>
    bool number(T& value) {
        skip();
        if constexpr (std::is_floating_point_v<T>)
            if (at_ != end_ && *at_ == '-' && (at_ + 1 == end_ || at_[1] == ' ' || at_[1] == '\n')) {
                ++at_;
                value = std::numeric_limits<double>::quiet_NaN();
                return true;
            }
        const auto read = std::from_chars(at_, end_, value);
        if (read.ec != std::errc()) return false;
        at_ = read.ptr;
        return true;
    }

  private:
    void skip() {
        while (at_ != end_ && (*at_ == ' ' || *at_ == '\n' || *at_ == '\r')) ++at_;
    }
    const char *at_, *end_;
};

}  // namespace

std::string write_surface(const SurfaceData& d) {
    std::string out(head);
    out.reserve(d.points.size() * 30 + 1000);
    if (!d.coordinates.empty()) out += "coordinates " + d.coordinates + "\n";
    if (d.longest_edge > 0) {
        out += "longest_edge ";
        put(out, d.longest_edge, '\n');
    }
    const auto corners = [&out](const char* word, const auto& list) {
        out += word + std::to_string(list.size()) + "\n";
        for (const auto& p : list) {
            put(out, p.x, ' ');
            if constexpr (requires { p.z; }) {
                put(out, p.y, ' ');
                put(out, p.z, '\n');
            } else put(out, p.y, '\n');
        }
    };
    corners("points ", d.points);
    for (const auto& l : d.breaklines) corners("breakline ", l);
    for (const auto& l : d.boundaries) corners("boundary ", l);
    for (const auto& l : d.holes) corners("hole ", l);
    if (!d.faces.empty()) {
        out += "faces " + std::to_string(d.faces.size()) + "\n";
        for (const auto& f : d.faces)
            out += std::to_string(f[0]) + " " + std::to_string(f[1]) + " " + std::to_string(f[2]) + "\n";
    }
    return out;
}

std::optional<SurfaceData> read_surface(std::string_view text, std::string* error) {
    const auto fail = [&](const std::string& why) -> std::optional<SurfaceData> {
        if (error) *error = why;
        return {};
    };
    if (!text.starts_with(head)) return fail("it does not begin with \"calm-culvert surface 1\"");
    Scanner in(text.substr(head.size()));
    SurfaceData d;
    while (!in.done()) {
        const std::string_view word = in.word();
        if (word == "coordinates") {
            d.coordinates = in.rest_of_line();
            continue;
        }
        if (word == "longest_edge") {
            if (!in.number(d.longest_edge)) return fail("longest_edge is no number");
            continue;
        }
        std::size_t count = 0;
        if (!in.number(count) || count > most_numbers || count > text.size())
            return fail("\"" + std::string(word.substr(0, 20)) + "\" is not followed by a count");
        const auto corners = [&](auto& list) {
            list.resize(count);
            for (auto& p : list) {
                if (!in.number(p.x) || !in.number(p.y)) return false;
                if constexpr (requires { p.z; })
                    if (!in.number(p.z)) return false;
            }
            return true;
        };
        bool good = false;
        if (word == "points") good = corners(d.points);
        else if (word == "breakline") good = corners(d.breaklines.emplace_back());
        else if (word == "boundary") good = corners(d.boundaries.emplace_back());
        else if (word == "hole") good = corners(d.holes.emplace_back());
        else if (word == "faces") {
            d.faces.resize(count);
            good = true;
            for (auto& f : d.faces)
                for (auto& c : f) good = good && in.number(c) && c < d.points.size();
        }
        if (!good) return fail("the block \"" + std::string(word.substr(0, 20)) + "\" is cut short or is unknown");
    }
    return d;
}

}  // namespace culvert
