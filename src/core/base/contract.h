// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <concepts>
#include <cstddef>
#include <iterator>
#include <type_traits>

/// Contracts: what a function relies on and its caller owes, with the value in the message. They are checked in debug
/// and sanitizer builds, where a broken one ends the program at its place; a release build does not ask.
///
///     expects(node < count, "node of the network", node);
namespace culvert {

[[noreturn]] void contract_broken(const char* what, double value, const char* file, int line);

#if defined(CULVERT_CONTRACTS)
constexpr bool contracts = true;
#else
constexpr bool contracts = false;
#endif

template <class Number>
constexpr void expects(bool holds, const char* what, Number value, const char* file = __builtin_FILE(),
                       int line = __builtin_LINE()) {
    if constexpr (contracts)
        if (!holds) contract_broken(what, static_cast<double>(value), file, line);
}

/// An element of a list by an index of any whole type or a choice; that it lies in the list is a contract.
///
///     nth(network.nodes, node.down).rim
template <class List, class Index>
requires((std::integral<Index> || std::is_enum_v<Index>)&&requires(List& list) {
    std::size(list);
    list[std::size_t{}];
}) constexpr decltype(auto)
    nth(List& list, Index index, const char* file = __builtin_FILE(), int line = __builtin_LINE()) {
    expects(static_cast<std::size_t>(index) < std::size(list), "index of a list", static_cast<long>(index), file, line);
    return list[static_cast<std::size_t>(index)];
}

}  // namespace culvert
