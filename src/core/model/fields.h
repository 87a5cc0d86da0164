// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "core/base/units.h"
#include "core/model/rows.h"

/// One field table per kind of row. The project file, Edits, cards, ledgers, paste and comparison are generic over it:
/// a new field is one line here.
namespace culvert {

enum class Kind : std::uint8_t { Structure, Pipe, Catchment, LandCover, StreetPath, Event, Size, Limit, Settings };
constexpr std::size_t kind_count = 9;

/// "structure", "pipe", ... as used in messages, and the plural that names the table in files.
std::string_view kind_name(Kind kind);
std::string_view table_name(Kind kind);

/// Any field's value. Choices are ints, references raw ids.
using Value = std::variant<double, std::string, int, bool, std::uint64_t, std::vector<Point>, std::vector<double>>;
/// Equal, with two absent numbers (NaN) equal.
bool same_value(const Value& a, const Value& b);

template <class R>
using Member = std::variant<double R::*, std::string R::*, int R::*, bool R::*, std::uint64_t R::*, StructureId R::*,
                            CatchmentId R::*, std::vector<Point> R::*, std::vector<double> R::*>;

struct FieldInfo {
    std::string_view key, label;
    Quantity quantity = Quantity::None;
    double low = -1e300, high = 1e300;  ///< range a value must lie in, SI
    Scale scale;                        ///< range that raises no question when typed
    std::string_view help;
    std::span<const std::string_view> choices;
    bool needed = false;    ///< a finding where a number is not given
    bool low_open = false;  ///< the value must be above `low`, not at it
};

template <class R>
struct Field : FieldInfo {
    Member<R> member;
};

template <class R>
std::span<const Field<R>> fields_of();
template <class R>
constexpr Kind kind_of();

template <>
std::span<const Field<Structure>> fields_of<Structure>();
template <>
std::span<const Field<Pipe>> fields_of<Pipe>();
template <>
std::span<const Field<Catchment>> fields_of<Catchment>();
template <>
std::span<const Field<LandCover>> fields_of<LandCover>();
template <>
std::span<const Field<StreetPath>> fields_of<StreetPath>();
template <>
std::span<const Field<RainEvent>> fields_of<RainEvent>();
template <>
std::span<const Field<PipeSize>> fields_of<PipeSize>();
template <>
std::span<const Field<Limit>> fields_of<Limit>();
template <>
std::span<const Field<Settings>> fields_of<Settings>();
template <>
constexpr Kind kind_of<Structure>() {
    return Kind::Structure;
}
template <>
constexpr Kind kind_of<Pipe>() {
    return Kind::Pipe;
}
template <>
constexpr Kind kind_of<Catchment>() {
    return Kind::Catchment;
}
template <>
constexpr Kind kind_of<LandCover>() {
    return Kind::LandCover;
}
template <>
constexpr Kind kind_of<StreetPath>() {
    return Kind::StreetPath;
}
template <>
constexpr Kind kind_of<RainEvent>() {
    return Kind::Event;
}
template <>
constexpr Kind kind_of<PipeSize>() {
    return Kind::Size;
}
template <>
constexpr Kind kind_of<Limit>() {
    return Kind::Limit;
}
template <>
constexpr Kind kind_of<Settings>() {
    return Kind::Settings;
}

/// Calls f(type_identity<Row>) with the row type of a kind.
template <class F>
decltype(auto) with_row_type(Kind kind, F&& f) {
    switch (kind) {
        case Kind::Structure: return f(std::type_identity<Structure>{});
        case Kind::Pipe: return f(std::type_identity<Pipe>{});
        case Kind::Catchment: return f(std::type_identity<Catchment>{});
        case Kind::LandCover: return f(std::type_identity<LandCover>{});
        case Kind::StreetPath: return f(std::type_identity<StreetPath>{});
        case Kind::Event: return f(std::type_identity<RainEvent>{});
        case Kind::Size: return f(std::type_identity<PipeSize>{});
        case Kind::Limit: return f(std::type_identity<Limit>{});
        case Kind::Settings: break;
    }
    return f(std::type_identity<Settings>{});
}

template <class R>
Value get(const R& row, const Field<R>& field) {
    return std::visit(
        [&](auto m) -> Value {
            if constexpr (requires { (row.*m).value; }) return (row.*m).value;
            else return row.*m;
        },
        field.member);
}
/// False where the value is of another type than the field.
template <class R>
bool set(R& row, const Field<R>& field, const Value& value) {
    return std::visit(
        [&](auto m) {
            using T = std::remove_cvref_t<decltype(row.*m)>;
            if constexpr (requires { (row.*m).value; }) {
                const auto* id = std::get_if<std::uint64_t>(&value);
                if (id) (row.*m).value = *id;
                return id != nullptr;
            } else {
                const T* v = std::get_if<T>(&value);
                if (v) row.*m = *v;
                return v != nullptr;
            }
        },
        field.member);
}

std::span<const FieldInfo* const> infos_of(Kind kind);
/// Index in the kind's field table, or none.
std::optional<std::size_t> field_index(Kind kind, std::string_view key);

/// What is wrong with a number in a field: empty, or "is -3 m: must be above 0 m".
std::string range_fault(const FieldInfo& field, double value, const UnitSet& units);

std::span<const std::string_view> limit_names();
Quantity limit_quantity(LimitKind kind);

/// Rows are equal when all fields, origins, other systems' ids and unknown members are.
template <class R>
bool equal_rows(const R& a, const R& b) {
    if (a.id != b.id || a.origin != b.origin || a.foreign != b.foreign || a.unknown != b.unknown) return false;
    for (const Field<R>& f : fields_of<R>())
        if (!same_value(get(a, f), get(b, f))) return false;
    return true;
}
template <class R>
requires std::is_base_of_v<Row, R>
bool operator==(const R& a, const R& b) { return equal_rows(a, b); }

}  // namespace culvert
