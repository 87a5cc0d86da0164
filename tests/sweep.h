// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

// Faults that sleep in one build, for tests/sweep.py: the one whose number the environment names is awake.

#include <algorithm>
#include <array>
#include <concepts>
#include <cstdlib>
#include <fstream>
#include <initializer_list>
#include <string>
#include <type_traits>
#include <unistd.h>

namespace asleep {

struct State {
    int awake = 0;
    std::string folder;  ///< where to tell, at the end, which were come to
    std::array<unsigned char, 100000> come_to{};
    State() {
        if (const char* number = std::getenv("CULVERT_FAULT")) awake = std::atoi(number);
        if (const char* path = std::getenv("CULVERT_COME_TO")) folder = path;
    }
    ~State() {
        if (folder.empty()) return;
        std::ofstream out(folder + "/" + std::to_string(getpid()));
        for (std::size_t i = 0; i < come_to.size(); ++i)
            if (come_to[i]) out << i << "\n";
    }
};
inline State state;

inline bool on(int number) {
    unsigned char& seen = state.come_to[static_cast<std::size_t>(number)];
    if (!seen) seen = 1;
    return number == state.awake;
}

// a + b is written a + Plus<7>() + b: the first half keeps a, the second answers, with the other operator where the
// fault is awake and that compiles.
template <int N, class A>
struct Half {
    A a;
};
template <int N>
struct Swap {};
#define ASLEEP_OPERATOR(OP, OTHER)                                                                                   \
    template <class A, int N>                                                                                        \
    Half<N, A&&> operator OP(A&& a, Swap<N>) {                                                                       \
        return {static_cast<A&&>(a)};                                                                                \
    }                                                                                                                \
    template <int N, class A, class B>                                                                               \
    auto operator OP(Half<N, A>&& h, B&& b)->decltype(static_cast<A>(h.a) OP static_cast<B&&>(b)) {                  \
        using Answer = std::remove_cvref_t<decltype(static_cast<A>(h.a) OP static_cast<B&&>(b))>;                    \
        if constexpr (requires {                                                                                     \
                          { static_cast<A>(h.a) OTHER static_cast<B&&>(b) } -> std::convertible_to<Answer>;          \
                      }) {                                                                                           \
            if (on(N)) return static_cast<A>(h.a) OTHER static_cast<B&&>(b);                                         \
        }                                                                                                            \
        return static_cast<A>(h.a) OP static_cast<B&&>(b);                                                           \
    }
ASLEEP_OPERATOR(+, -)
ASLEEP_OPERATOR(-, +)
ASLEEP_OPERATOR(*, /)
ASLEEP_OPERATOR(/, *)
ASLEEP_OPERATOR(==, !=)
ASLEEP_OPERATOR(!=, ==)
ASLEEP_OPERATOR(<, <=)
ASLEEP_OPERATOR(<=, <)
ASLEEP_OPERATOR(>, >=)
ASLEEP_OPERATOR(>=, >)
#undef ASLEEP_OPERATOR

template <int N, class T>
const T& max(const T& a, const T& b) {
    return on(N) ? std::min(a, b) : std::max(a, b);
}
template <int N, class T>
T max(std::initializer_list<T> list) {
    return on(N) ? std::min(list) : std::max(list);
}
template <int N, class T>
const T& min(const T& a, const T& b) {
    return on(N) ? std::max(a, b) : std::min(a, b);
}
template <int N, class T>
T min(std::initializer_list<T> list) {
    return on(N) ? std::max(list) : std::min(list);
}

}  // namespace asleep
