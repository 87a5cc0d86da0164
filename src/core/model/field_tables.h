// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "core/model/fields.h"

/// How a line of a field table is written: a number, words (or anything that is not a number), or a choice.
namespace culvert::tables {

using SV = std::string_view;
using Q = Quantity;
constexpr double lots = 1e300;
constexpr Scale any{};

template <class R>
Field<R> field(SV key, SV label, Member<R> member, Q quantity, double low, double high, Scale scale, SV help,
               bool needed = false, bool open = false) {
    return {{key, label, quantity, low, high, scale, help, {}, needed, open}, member};
}
template <class R>
Field<R> words(SV key, SV label, Member<R> member, SV help) {
    return {{key, label, Q::None, -lots, lots, any, help, {}, false, false}, member};
}
template <class M>
struct MemberOf;
template <class R, class E>
struct MemberOf<E R::*> {
    using Row = R;
    using Type = E;
};
/// A choice: `choice<&Pipe::shape>("shape", ...)`; the words stand in the order of the enum.
template <auto member, class R = typename MemberOf<decltype(member)>::Row>
Field<R> choice(SV key, SV label, std::span<const SV> choices, SV help) {
    using E = typename MemberOf<decltype(member)>::Type;
    static_assert(std::is_enum_v<E>);
    return {{key, label, Q::None, 0, static_cast<double>(choices.size()) - 1, any, help, choices, false, false},
            Choice<R>{[](const R& row) { return static_cast<int>(row.*member); },
                      [](R& row, int c) { row.*member = static_cast<E>(c); }}};
}

/// A list of places in plan.
template <class R>
Field<R> places(SV key, SV label, std::vector<Point> R::*member, SV help) {
    return {{key, label, Q::None, -plan_reach, plan_reach, any, help, {}, false, false}, member};
}
template <class R>
Field<R> reference(SV key, SV label, Member<R> member, Refers refers_to, SV help) {
    return {{key, label, Q::None, -lots, lots, any, help, {}, false, false, refers_to}, member};
}

}  // namespace culvert::tables
