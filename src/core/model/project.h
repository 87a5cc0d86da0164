// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>

#include "core/hydraulics/section.h"
#include "core/model/fields.h"
#include "core/model/table.h"

/// The project as a value: comparable, cheap to copy, without behaviour of its own.
namespace culvert {

/// Every table, made once (project.cpp) and not in each file that reads a project: a third of the time to compile one.
// clang-format off
#define CULVERT_TABLES(OF) \
    OF(Table<Structure>) OF(Table<Pipe>) OF(Table<Catchment>) OF(Table<LandCover>) OF(Table<StreetPath>) \
    OF(Table<RainEvent>) OF(Table<PipeSize>) OF(Table<Limit>) OF(Table<Surface>) OF(Table<Background>) \
    OF(Table<Street>) OF(Table<StreetSection>) OF(Table<StructureType>) OF(Table<Variant>) OF(Table<OutfallLevel>) \
    OF(Table<AcceptedFinding>) OF(Table<FindingRank>) OF(Table<BuriedLine>) OF(Table<Clearance>) \
    OF(Table<ProfileRun>) OF(Table<Pond>) OF(Table<PondOutlet>) OF(Table<Release>) OF(Table<Settings>)
// clang-format on
#define CULVERT_MADE_ELSEWHERE(TABLE) extern template class TABLE;
CULVERT_TABLES(CULVERT_MADE_ELSEWHERE)
#undef CULVERT_MADE_ELSEWHERE

struct Project {
    Table<Structure> structures;
    Table<Pipe> pipes;
    Table<Catchment> catchments;
    Table<LandCover> land_covers;
    Table<StreetPath> street_paths;
    Table<RainEvent> events;
    Table<PipeSize> sizes;
    Table<Limit> limits;
    Table<Surface> surfaces;
    Table<Background> backgrounds;
    Table<Street> streets;
    Table<StreetSection> street_sections;
    Table<StructureType> structure_types;
    Table<Variant> variants;
    Table<OutfallLevel> outfall_levels;
    Table<AcceptedFinding> accepted_findings;
    Table<FindingRank> finding_ranks;
    Table<BuriedLine> buried_lines;
    Table<Clearance> clearances;
    Table<ProfileRun> profiles;
    Table<Pond> ponds;
    Table<PondOutlet> outlets;
    Table<Release> releases;
    Table<Settings> settings_rows;  ///< always exactly one row
    std::string unknown;            ///< top-level members of a file that this version does not know, as JSON

    Project();
    ~Project();  // out of line, as all that touches every table
    Project(const Project&);
    Project(Project&&) noexcept;
    Project& operator=(const Project&);
    Project& operator=(Project&&) noexcept;
    template <class R>
    Table<R>& table() {
        if constexpr (std::is_same_v<R, Structure>) return structures;
        else if constexpr (std::is_same_v<R, Pipe>) return pipes;
        else if constexpr (std::is_same_v<R, Catchment>) return catchments;
        else if constexpr (std::is_same_v<R, LandCover>) return land_covers;
        else if constexpr (std::is_same_v<R, StreetPath>) return street_paths;
        else if constexpr (std::is_same_v<R, RainEvent>) return events;
        else if constexpr (std::is_same_v<R, PipeSize>) return sizes;
        else if constexpr (std::is_same_v<R, Limit>) return limits;
        else if constexpr (std::is_same_v<R, Surface>) return surfaces;
        else if constexpr (std::is_same_v<R, Background>) return backgrounds;
        else if constexpr (std::is_same_v<R, Street>) return streets;
        else if constexpr (std::is_same_v<R, StreetSection>) return street_sections;
        else if constexpr (std::is_same_v<R, StructureType>) return structure_types;
        else if constexpr (std::is_same_v<R, Variant>) return variants;
        else if constexpr (std::is_same_v<R, OutfallLevel>) return outfall_levels;
        else if constexpr (std::is_same_v<R, AcceptedFinding>) return accepted_findings;
        else if constexpr (std::is_same_v<R, FindingRank>) return finding_ranks;
        else if constexpr (std::is_same_v<R, BuriedLine>) return buried_lines;
        else if constexpr (std::is_same_v<R, Clearance>) return clearances;
        else if constexpr (std::is_same_v<R, ProfileRun>) return profiles;
        else if constexpr (std::is_same_v<R, Pond>) return ponds;
        else if constexpr (std::is_same_v<R, PondOutlet>) return outlets;
        else if constexpr (std::is_same_v<R, Release>) return releases;
        else return settings_rows;
    }
    template <class R>
    const Table<R>& table() const {
        return const_cast<Project*>(this)->table<R>();
    }
    [[nodiscard]] const Settings& settings() const { return *settings_rows.begin(); }
    friend bool operator==(const Project& a, const Project& b);
};

constexpr std::uint64_t settings_id = 1;

/// A new project: settings, usual limits with their sources, a catalogue of concrete pipe sizes; no elements, no rain.
/// The edition (SI or US) sets sizes and defaults in that system's round numbers.
Project new_project(UnitSystem system);

/// The units the project shows.
UnitSet units_of(const Project& project);

/// Events from the commonest to the rarest: return period, then name, then id.
std::vector<const RainEvent*> events_in_order(const Project& project);
/// The design event of the minor system: marked so, or else the first; null if there is no event.
const RainEvent* design_event(const Project& project);
/// Event by id, name or return period as typed ("10"); null if there is none.
const RainEvent* find_event(const Project& project, const std::string& text);

/// Sizes of one material and shape, smallest first.
std::vector<const PipeSize*> sizes_of(const Project& project, const std::string& material, Shape shape);

/// A pipe's own name, or its ends' names "A3–A4".
std::string pipe_name(const Project& project, const Pipe& pipe);
/// The name that people read for any element: "A3", "A3–A4".
std::string element_name(const Project& project, Kind kind, std::uint64_t id);
/// Structure or pipe by name (a pipe also by "A3-A4"); kind Settings and id 0 if there is none.
struct ElementRef {
    Kind kind = Kind::Settings;
    std::uint64_t id = 0;
    friend auto operator<=>(const ElementRef&, const ElementRef&) = default;
};
ElementRef find_element(const Project& project, const std::string& name);

/// A field as it holds for one row: the quantity and range of a limit's value are those of what it limits.
FieldInfo info_of(const Project& project, Kind kind, std::uint64_t id, std::size_t field);

/// A reference to an element that is not there.
struct DanglingReference {
    Kind kind;
    std::uint64_t id;
    std::size_t field;
    Refers refers_to;
    std::uint64_t target;
};
std::vector<DanglingReference> dangling_references(const Project& project);
/// "structure", "street", "structure or pipe", ...
std::string_view refers_name(Refers refers_to);
/// Whether a project holds what a reference of a kind leads to.
bool holds(const Project& project, Refers refers_to, std::uint64_t id);

/// The limit for an element: its own exception, else the project's; null where off or not given.
/// For many elements, see LimitTable in core/review.
const Limit* find_limit(const Project& project, LimitKind kind, std::uint64_t element);

constexpr double barrel_gap = 0.3;  ///< between the outsides of barrels side by side, m
Section section_of(const Pipe& pipe);
/// Section of a shape with its dimensions; a width that is not given is the size. Custom ones need their points.
Section section_of(Shape shape, double size, double width, double sides);
/// What is wrong with the dimensions of a pipe's section; empty where it can be computed.
std::string section_fault(const Pipe& pipe);
/// "450 mm", "900 × 600 mm".
std::string size_words(const UnitSet& units, const Pipe& pipe, bool with_unit = true);
/// The type of a structure in the catalogue, or null.
const StructureType* type_of(const Project& project, const Structure& structure);
/// Distance from a structure's centre to its outline toward a point, m; 0 without a type.
double outline_reach(const Project& project, const Structure& structure, Point toward);
/// Length along the drawn line, centre to centre or between the structures' outlines, as the settings say.
/// How far a pipe turns along its way, degrees: at all its bends together, to either side; 0 where it has no place.
double turned(const Project& project, const Pipe& pipe);
double drawn_length(const Project& project, const Pipe& pipe);
/// The vertical profile of a street as it was entered; empty where none was, or where it is at fault.
StreetProfile entered_profile(const Street& street);
/// The section of a street that holds at a station.
StreetShape shape_at(const Project& project, const Street& street, double station);
/// Way of a street path from its structure over its bends to the next, or to its last bend where it leaves the site.
double path_length(const Project& project, const StreetPath& path);
/// The entered length, or the drawn one.
double length_of(const Project& project, const Pipe& pipe);

}  // namespace culvert
