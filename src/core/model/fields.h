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

enum class Kind : std::uint8_t {
    Structure,
    Pipe,
    Catchment,
    LandCover,
    StreetPath,
    Event,
    Size,
    Limit,
    Surface,
    Background,
    Street,
    StreetSection,
    StructureType,
    Variant,
    OutfallLevel,
    AcceptedFinding,
    FindingRank,
    BuriedLine,
    Clearance,
    ProfileRun,
    Pond,
    PondOutlet,
    Release,
    Settings
};
constexpr std::size_t kind_count = 24;
/// A row of any kind, in the order of `Kind`.
using AnyRow = std::variant<Structure, Pipe, Catchment, LandCover, StreetPath, RainEvent, PipeSize, Limit, Surface,
                            Background, Street, StreetSection, StructureType, Variant, OutfallLevel, AcceptedFinding,
                            FindingRank, BuriedLine, Clearance, ProfileRun, Pond, PondOutlet, Release, Settings>;
static_assert(std::variant_size_v<AnyRow> == kind_count);

/// "structure", "pipe", ... as used in messages, and the plural that names the table in files.
std::string_view kind_name(Kind kind);
std::string_view table_name(Kind kind);

/// Any field's value. Choices are ints, references raw ids.
using Value = std::variant<double, std::string, int, bool, std::uint64_t, std::vector<Point>, std::vector<double>>;
/// A choice's number in its enum.
template <class E>
requires std::is_enum_v<E>
constexpr int number_of(E choice) { return static_cast<int>(choice); }
/// A choice as a value.
template <class E>
requires std::is_enum_v<E> Value choice_value(E choice) { return static_cast<int>(choice); }
/// Equal, with two absent numbers (NaN) equal.
bool same_value(const Value& a, const Value& b);

/// A member that holds a choice, whatever its enum: read and written as the choice's number.
template <class R>
struct Choice {
    int (*get)(const R&);
    void (*set)(R&, int);
};
template <class R>
using Member =
    std::variant<double R::*, std::string R::*, Choice<R>, bool R::*, std::uint64_t R::*, StructureId R::*,
                 CatchmentId R::*, StreetId R::*, EventId R::*, std::vector<Point> R::*, std::vector<double> R::*>;

/// What a field that holds an id refers to.
enum class Refers : std::uint8_t { Nothing, Structure, Catchment, Street, Element, Event, Any };

struct FieldInfo {
    std::string_view key, label;
    Quantity quantity = Quantity::None;
    double low = -1e300, high = 1e300;  ///< range a value must lie in, SI
    Scale scale;                        ///< range that raises no question when typed
    std::string_view help;
    std::span<const std::string_view> choices;
    bool needed = false;    ///< a finding where a number is not given
    bool low_open = false;  ///< the value must be above `low`, not at it
    Refers refers_to = Refers::Nothing;
};

template <class R>
struct Field : FieldInfo {
    Member<R> member;
};

template <class R>
std::span<const Field<R>> fields_of();
/// The kind of a row type: its place in AnyRow.
template <class R>
constexpr Kind kind_of() {
    return static_cast<Kind>([]<class... All>(std::type_identity<std::variant<All...>>) {
        std::size_t at = 0;
        (void)((std::is_same_v<R, All> || (++at, false)) || ...);
        return at;
    }(std::type_identity<AnyRow>{}));
}

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
std::span<const Field<Surface>> fields_of<Surface>();
template <>
std::span<const Field<Background>> fields_of<Background>();
template <>
std::span<const Field<Street>> fields_of<Street>();
template <>
std::span<const Field<StreetSection>> fields_of<StreetSection>();
template <>
std::span<const Field<StructureType>> fields_of<StructureType>();
template <>
std::span<const Field<Variant>> fields_of<Variant>();
template <>
std::span<const Field<OutfallLevel>> fields_of<OutfallLevel>();
template <>
std::span<const Field<AcceptedFinding>> fields_of<AcceptedFinding>();
template <>
std::span<const Field<FindingRank>> fields_of<FindingRank>();
template <>
std::span<const Field<BuriedLine>> fields_of<BuriedLine>();
template <>
std::span<const Field<Clearance>> fields_of<Clearance>();
template <>
std::span<const Field<ProfileRun>> fields_of<ProfileRun>();
template <>
std::span<const Field<Pond>> fields_of<Pond>();
template <>
std::span<const Field<PondOutlet>> fields_of<PondOutlet>();
template <>
std::span<const Field<Release>> fields_of<Release>();
template <>
std::span<const Field<Settings>> fields_of<Settings>();

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
        case Kind::Surface: return f(std::type_identity<Surface>{});
        case Kind::Background: return f(std::type_identity<Background>{});
        case Kind::Street: return f(std::type_identity<Street>{});
        case Kind::StreetSection: return f(std::type_identity<StreetSection>{});
        case Kind::StructureType: return f(std::type_identity<StructureType>{});
        case Kind::Variant: return f(std::type_identity<Variant>{});
        case Kind::OutfallLevel: return f(std::type_identity<OutfallLevel>{});
        case Kind::AcceptedFinding: return f(std::type_identity<AcceptedFinding>{});
        case Kind::FindingRank: return f(std::type_identity<FindingRank>{});
        case Kind::BuriedLine: return f(std::type_identity<BuriedLine>{});
        case Kind::Clearance: return f(std::type_identity<Clearance>{});
        case Kind::ProfileRun: return f(std::type_identity<ProfileRun>{});
        case Kind::Pond: return f(std::type_identity<Pond>{});
        case Kind::PondOutlet: return f(std::type_identity<PondOutlet>{});
        case Kind::Release: return f(std::type_identity<Release>{});
        case Kind::Settings: break;
    }
    return f(std::type_identity<Settings>{});
}

template <class R>
Value get(const R& row, const Field<R>& field) {
    return std::visit(
        [&](auto m) -> Value {
            if constexpr (std::is_same_v<decltype(m), Choice<R>>) return m.get(row);
            else if constexpr (requires { (row.*m).value; }) return (row.*m).value;
            else return row.*m;
        },
        field.member);
}
/// False where the value is of another type than the field, or no choice of it.
template <class R>
bool set(R& row, const Field<R>& field, const Value& value) {
    return std::visit(
        [&](auto m) {
            if constexpr (std::is_same_v<decltype(m), Choice<R>>) {
                const int* c = std::get_if<int>(&value);
                if (!c || *c < 0 || static_cast<std::size_t>(*c) >= field.choices.size()) return false;
                m.set(row, *c);
                return true;
            } else if constexpr (requires { (row.*m).value; }) {
                const auto* id = std::get_if<std::uint64_t>(&value);
                if (id) (row.*m).value = *id;
                return id != nullptr;
            } else {
                using T = std::remove_cvref_t<decltype(row.*m)>;
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

/// Whether a number may stand in a field; one that is not given may.
inline bool in_range(const FieldInfo& field, double value) {
    return value != value || (value <= field.high && (field.low_open ? value > field.low : value >= field.low));
}
/// The value of a field of a row where it lies in the field's range, else `instead`: what kernels are given.
template <class R>
double usable(const R& row, double R::*member, double instead) {
    for (const Field<R>& f : fields_of<R>())
        if (const auto* m = std::get_if<double R::*>(&f.member); m && *m == member)
            return in_range(f, row.*member) ? row.*member : instead;
    return row.*member;
}

/// What is wrong with a number in a field: empty, or "is -3 m: must be above 0 m".
std::string range_fault(const FieldInfo& field, double value, const UnitSet& units);

/// The same for any value: a list is faulty where one of its numbers is, or one of its places is out of reach.
std::string value_fault(const FieldInfo& field, const Value& value, const UnitSet& units);

std::span<const std::string_view> limit_names();
Quantity limit_quantity(LimitKind kind);
/// The field "value" of a limit, with the quantity and the range of what it limits.
FieldInfo limit_info(LimitKind kind);
/// A field as it holds for a row: that of a limit's value depends on what it limits.
template <class R>
FieldInfo info_for(const R& row, const FieldInfo& field) {
    if constexpr (std::is_same_v<R, Limit>)
        if (field.key == "value") return limit_info(row.kind);
    return field;
}

/// The words of origins, as files hold them.
constexpr std::array<std::string_view, 6> origin_names{"default",   "typed",    "ground",
                                                       "catalogue", "imported", "proposed"};

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
