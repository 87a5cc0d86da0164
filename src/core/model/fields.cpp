// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/contract.h"
#include "core/model/field_tables.h"

#include <charconv>
#include <cmath>
#include <random>

#include "core/hydrology/idf.h"

namespace culvert {
namespace {

using namespace tables;
constexpr SV structure_kinds[] = {"inlet", "manhole", "outfall", "joint", "pond"};
constexpr SV tailwaters[] = {"free", "level", "normal depth", "mean of critical depth and crown", "rating"};
constexpr SV losses_by[] = {"as the project", "K of the velocity head", "access-hole energy"};
constexpr SV statuses[] = {"proposed", "existing", "abandoned"};
constexpr SV shapes[] = {"circular", "box", "ellipse", "arch", "egg", "trapezoid", "half-round", "custom"};
constexpr SV roles[] = {"other", "minor", "major"};
constexpr SV systems[] = {"SI", "US"};
constexpr SV velocities[] = {"design flow", "full flow"};
constexpr SV capacities[] = {"full flow", "peak"};
constexpr SV flooded[] = {"rises", "held at the rim"};
constexpr SV limit_kinds[] = {"least velocity",
                              "most velocity",
                              "least slope",
                              "most slope",
                              "least cover",
                              "most depth",
                              "most flow ratio",
                              "most filled depth",
                              "most surcharge",
                              "least freeboard",
                              "least drop",
                              "least size",
                              "most spread",
                              "most share of spread",
                              "least dry width",
                              "most depth on street",
                              "most depth x velocity",
                              "most velocity on street",
                              "most shear on street"};
constexpr SV times_by[] = {"entered", "parts of the flow path", "Kirpich", "FAA"};
constexpr SV cover_drains[] = {"away", "over pervious ground"};
constexpr SV rain_given[] = {"intensities",    "depth, uniform",  "depth, NRCS I",     "depth, NRCS IA",
                             "depth, NRCS II", "depth, NRCS III", "depth, own pattern"};
constexpr SV matchings[] = {"inverts", "0.8 of the height", "centres", "crowns"};
constexpr SV inlet_places[] = {"from the street", "on a grade", "in a sag"};
constexpr SV inlet_flows[] = {"all enters", "inlets limit what enters"};
constexpr SV editions[] = {"SI", "US"};
constexpr SV systems_of_limits[] = {"all events", "minor system", "major system"};
constexpr SV ground_for[] = {"finished, else existing", "finished", "existing"};
constexpr SV length_bases[] = {"between centres", "between outlines"};
constexpr SV transforms[] = {"as the project", "unit hydrograph", "modified rational", "plane"};
constexpr SV runoffs_by[] = {"rational", "unit hydrograph", "modified rational", "plane"};
constexpr SV losses_of_ground[] = {"as the project", "curve number", "constant",
                                   "proportional",   "Horton",       "Green and Ampt"};
constexpr SV travels_by[] = {"travel time", "kinematic wave"};
constexpr SV storms_by[] = {"alternating blocks", "equation"};
constexpr SV cuts[] = {"the allowed flow", "a line rising to it"};

/// The fields of a row with those of the losses of its ground.
template <class R>
std::span<const Field<R>> with_losses(const std::vector<Field<R>>& own) {
    static const auto all = [&] {
        std::vector<Field<R>> f = own;
        f.push_back(
            choice<&R::losses, R>("losses", "Losses", losses_of_ground, "What pervious ground takes of the rain"));
        f.push_back(field<R>("initial_loss", "Initial loss", &R::initial_loss, Q::Size, 0, 1, {0, 0.1},
                             "Depth before runoff begins, with constant or proportional losses"));
        f.push_back(field<R>("loss_rate", "Loss rate", &R::loss_rate, Q::Intensity, 0, 1e-3, {1e-8, 5e-5},
                             "Constant loss; last capacity after Horton; conductivity after Green and Ampt"));
        f.push_back(field<R>("loss_share", "Loss share", &R::loss_share, Q::Ratio, 0, 1, any,
                             "Share of the rain, with proportional losses"));
        f.push_back(field<R>("first_rate", "First capacity", &R::first_rate, Q::Intensity, 0, 1e-3, {1e-7, 1e-4},
                             "Capacity of dry ground after Horton"));
        f.push_back(field<R>("decay_time", "Decay time", &R::decay_time, Q::Duration, 0, 1e6, {300, 36000},
                             "1/k of Horton's capacity", false, true));
        f.push_back(
            field<R>("front_head", "Front head", &R::front_head, Q::Size, 0, 2, {0.001, 0.5},
                     "Suction at the wetting front times the moisture it finds room for, after Green and Ampt"));
        return f;
    }();
    return all;
}

}  // namespace

template <>
std::span<const Field<Structure>> fields_of<Structure>() {
    using R = Structure;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among structures"),
        choice<&R::kind>("kind", "Kind", structure_kinds, "What the structure is"),
        field<R>("x", "Easting", &R::x, Q::Length, -plan_reach, plan_reach, any, "Position in plan", true),
        field<R>("y", "Northing", &R::y, Q::Length, -plan_reach, plan_reach, any, "Position in plan", true),
        field<R>("rim", "Rim", &R::rim, Q::Level, -500, 9000, {-500, 9000}, "Finished level at the structure", true),
        field<R>("loss", "Loss K", &R::loss, Q::Ratio, 0, 20, any,
                 "Loss K V²/2g into the outgoing pipe; empty: the project's value for the kind"),
        field<R>("known_flow", "Known flow", &R::known_flow, Q::Flow, 0, 1000, {1e-5, 500},
                 "Flow that enters here besides runoff"),
        choice<&R::tailwater>("tailwater", "Tailwater", tailwaters, "What the outfall meets"),
        field<R>("tailwater_level", "Tailwater level", &R::tailwater_level, Q::Level, -500, 9000, {-500, 9000},
                 "Water level that the outfall meets"),
        choice<&R::status>("status", "Status", statuses, "Existing, proposed or abandoned"),
        words<R>("type", "Type", &R::type, "Structure type of the catalogue"),
        field<R>("sump", "Sump", &R::sump, Q::Length, 0, 20, {0, 3},
                 "Depth below the lowest invert; empty: that of the type"),
        reference<R>("street", "Street", &R::street, Refers::Street, "Street it stands on"),
        field<R>("station", "Station", &R::station, Q::Length, -1e6, 1e7, any, "Along its street"),
        field<R>("offset", "Offset", &R::offset, Q::Length, -1e4, 1e4, any,
                 "From its street's line, positive right of it"),
        words<R>("group", "Group", &R::group, "Elements of a group can have limits of their own"),
        words<R>("description", "Description", &R::description, "What it is, in words"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
        words<R>("note_source", "Source of note", &R::note_source, "Who or what says so"),
        choice<&R::inlet_place>("inlet_place", "Inlet stands", inlet_places,
                                "Whether water runs past it or stands over it"),
        field<R>("opening_length", "Opening", &R::opening_length, Q::Length, 0, 100, {0.3, 15},
                 "Length of its curb opening or slot; empty: the type's"),
        field<R>("street_grade", "Street grade", &R::street_grade, Q::Slope, 0, 0.5, {0.001, 0.15},
                 "Fall of the gutter at it; empty: the street's profile, or the rims along its street path"),
        field<R>("crest_depth", "Spills at", &R::crest_depth, Q::Length, 0, 3, {0.03, 0.6},
                 "Depth at the curb at which a sag spills on along its street path; empty: the curb's height"),
        field<R>("rating_flows", "Rating flows", &R::rating_flows, Q::Flow, 0, 1e5, any,
                 "Flows of the tailwater's rating, rising"),
        field<R>("rating_levels", "Rating levels", &R::rating_levels, Q::Level, -500, 9000, any,
                 "Level of the tailwater at each of its flows"),
        choice<&R::loss_by>("loss_by", "Loss by", losses_by, "How the loss at the structure is found"),
        field<R>("channel_width", "Channel bed", &R::channel_width, Q::Length, 0, 500, {0, 50},
                 "Bed width of the channel below the outfall; empty: no channel is looked at"),
        field<R>("channel_sides", "Channel sides", &R::channel_sides, Q::Ratio, 0, 20, any,
                 "Side slopes of the channel, run over rise"),
        field<R>("channel_slope", "Channel slope", &R::channel_slope, Q::Slope, 0, 1, {1e-4, 0.2},
                 "Fall of the channel", false, true),
        field<R>("channel_roughness", "Channel n", &R::channel_roughness, Q::Roughness, 0.005, 0.5, {0.01, 0.2},
                 "Manning n of the channel"),
        field<R>("channel_velocity", "Channel stands", &R::channel_velocity, Q::Velocity, 0.05, 50, {0.3, 6},
                 "Largest velocity that the lining of the channel stands"),
        field<R>("channel_shear", "Channel shear", &R::channel_shear, Q::Stress, 0.1, 1e4, {1, 500},
                 "Largest shear that the lining of the channel stands"),
    };
    return fields;
}
template <>
std::span<const Field<Pipe>> fields_of<Pipe>() {
    using R = Pipe;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among pipes; empty: named by its ends"),
        reference<R>("from", "From", &R::from, Refers::Structure, "Structure at its start as drawn"),
        reference<R>("to", "To", &R::to, Refers::Structure, "Structure at its end as drawn"),
        choice<&R::shape>("shape", "Shape", shapes, "Cross-section shape"),
        field<R>("size", "Size", &R::size, Q::Size, 0.02, 20, {0.05, 8}, "Inside diameter, or inside height", true),
        field<R>("width", "Width", &R::width, Q::Size, 0, 50, {0.05, 20},
                 "Inside width; of a trapezoid that of its bed"),
        field<R>("sides", "Sides", &R::sides, Q::Ratio, 0, 20, any, "Side slopes of a trapezoid, run over rise"),
        field<R>("section_across", "Across", &R::section_across, Q::Length, -1000, 1000, any,
                 "Points of a custom section, from the left bank to the right: how far across"),
        field<R>("section_up", "Up", &R::section_up, Q::Length, -10000, 10000, any,
                 "Points of a custom section: how high, one for each across"),
        field<R>("roughness", "Manning n", &R::roughness, Q::Roughness, 0.001, 1, {0.006, 0.1}, "Manning roughness",
                 true),
        field<R>("wall", "Wall", &R::wall, Q::Size, 0, 2, {0.001, 0.6}, "Wall thickness"),
        field<R>("invert_from", "Invert at start", &R::invert_from, Q::Level, -600, 9000, {-600, 9000},
                 "Lowest inside point at its start", true),
        field<R>("invert_to", "Invert at end", &R::invert_to, Q::Level, -600, 9000, {-600, 9000},
                 "Lowest inside point at its end", true),
        field<R>("length", "Length", &R::length, Q::Length, 0, 1e5, {0.3, 5000},
                 "Entered length; empty: as drawn, on the project's length basis", false, true),
        places<R>("bends", "Bends", &R::bends, "Points between its ends"),
        words<R>("material", "Material", &R::material, "Material in the catalogue"),
        words<R>("size_locked", "Size locked", &R::size_locked, "A locked size is checked, never proposed"),
        field<R>("barrels", "Barrels", &R::barrels, Q::None, 1, 20, any, "Alike, side by side; they share the flow"),
        words<R>("slope_locked", "Slope locked", &R::slope_locked, "A locked slope is checked, never proposed"),
        words<R>("tie_from", "Invert at start tied to", &R::tie_from,
                 "What the level follows when asked: ground - 1.5, rim - 1.5, cover 1.2, a pipe and an offset"),
        words<R>("tie_to", "Invert at end tied to", &R::tie_to,
                 "What the level follows when asked: ground - 1.5, rim - 1.5, cover 1.2, a pipe and an offset"),
        choice<&R::status>("status", "Status", statuses, "Existing, proposed or abandoned"),
        words<R>("group", "Group", &R::group, "Elements of a group can have limits of their own"),
        words<R>("description", "Description", &R::description, "What it is, in words"),
        words<R>("note_source", "Source of note", &R::note_source, "Who or what says so"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
    };
    return fields;
}
template <>
std::span<const Field<Catchment>> fields_of<Catchment>() {
    using R = Catchment;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among catchments"),
        reference<R>("structure", "Drains to", &R::structure, Refers::Structure, "Structure that takes its water"),
        field<R>("area", "Area", &R::area, Q::Area, 0, 2e7, {5, 5e6}, "Area; where land covers are given they make it",
                 true, true),
        field<R>("coefficient", "Runoff C", &R::coefficient, Q::Ratio, 0, 1, {0.02, 1},
                 "Runoff coefficient, 0 to 1; where land covers are given they make it", true),
        field<R>("time", "Time", &R::time, Q::Duration, 0, 1e6, {60, 36000},
                 "Longest travel time to the structure; the project's least time applies"),
        choice<&R::time_by>("time_by", "Time by", times_by, "How the time of concentration is found"),
        words<R>("path_parts", "Flow path parts", &R::path_parts,
                 "For example: sheet 30m 1% 0.15; shallow 120m 2% paved; channel 200m 0.5% 0.03 0.4m"),
        field<R>("path_length", "Path length", &R::path_length, Q::Length, 0, 1e5, {5, 2e4},
                 "Longest way of its water, for a formula; empty: as drawn"),
        field<R>("path_slope", "Path slope", &R::path_slope, Q::Slope, 0, 2, {1e-4, 0.5},
                 "Mean fall along it, for a formula"),
        reference<R>("street", "Street", &R::street, Refers::Street,
                     "Street it drains to, where it drains to no structure"),
        field<R>("station", "Station", &R::station, Q::Length, -1e6, 1e7, any,
                 "Where its water comes to the street: it runs on to the next inlet"),
        places<R>("outline", "Outline", &R::outline, "Corners in plan"),
        places<R>("flow_path", "Flow path", &R::flow_path, "Longest way of its water, from its head to the structure"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
        choice<&R::transform>("transform", "Hydrograph by", transforms, "What makes its hydrograph of the rain"),
        field<R>("curve_number", "CN", &R::curve_number, Q::None, 1, 100, {30, 100},
                 "Curve number of its ground beside the impervious share; empty: the project's"),
        field<R>("impervious", "Impervious", &R::impervious, Q::Ratio, 0, 1, any,
                 "Share that is paved or roofed; empty: none beside what the curve number holds"),
        field<R>("storage", "Storage", &R::storage, Q::Size, 0, 1, {0, 0.05},
                 "Depression storage of its impervious share, a depth; empty: the project's"),
        field<R>("peak_factor", "Peak factor", &R::peak_factor, Q::None, 10, 1000, {100, 600},
                 "Of its unit hydrograph; empty: the project's"),
        field<R>("plane_width", "Plane width", &R::plane_width, Q::Length, 0, 1e5, {1, 5000},
                 "Of the plane its water runs over; empty: area over path length", false, true),
        field<R>("plane_roughness", "Plane n", &R::plane_roughness, Q::Roughness, 0.001, 2, {0.005, 0.9},
                 "Roughness of sheet flow of that plane; empty: 0.1", false, true),
    };
    return with_losses(fields);
}
template <>
std::span<const Field<LandCover>> fields_of<LandCover>() {
    using R = LandCover;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "What covers the ground"),
        reference<R>("catchment", "Catchment", &R::catchment, Refers::Catchment, "Catchment it is part of"),
        field<R>("area", "Area", &R::area, Q::Area, 0, 2e7, {1, 5e6}, "Area of this cover", true, true),
        field<R>("coefficient", "Runoff C", &R::coefficient, Q::Ratio, 0, 1, {0.02, 1}, "Runoff coefficient, 0 to 1",
                 true),
        field<R>("time", "Time", &R::time, Q::Duration, 0, 1e6, {60, 36000},
                 "Its own time of concentration; empty: the catchment's"),
        field<R>("curve_number", "CN", &R::curve_number, Q::None, 1, 100, {30, 100}, "Curve number"),
        field<R>("impervious", "Impervious", &R::impervious, Q::Ratio, 0, 1, any, "Impervious share"),
        field<R>("roughness", "Sheet n", &R::roughness, Q::Roughness, 0.001, 2, {0.005, 0.9},
                 "Roughness of sheet flow"),
        field<R>("storage", "Storage", &R::storage, Q::Size, 0, 1, {0, 0.05}, "Depression storage, a depth"),
        choice<&R::drains>("drains", "Runs", cover_drains,
                           "An impervious cover whose water runs over pervious ground has a lower curve number"),
        places<R>("outline", "Outline", &R::outline, "Where it was drawn, or cut from a layer"),
        words<R>("source", "Source", &R::source, "Where its numbers are from"),
    };
    return with_losses(fields);
}
template <>
std::span<const Field<StreetPath>> fields_of<StreetPath>() {
    using R = StreetPath;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among street paths"),
        reference<R>("from", "From", &R::from, Refers::Structure, "Structure it starts at"),
        reference<R>("to", "To", &R::to, Refers::Structure, "Structure it leads to; none: it leaves the site"),
        places<R>("bends", "Bends", &R::bends, "Points between its ends"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
    };
    return fields;
}
template <>
std::span<const Field<RainEvent>> fields_of<RainEvent>() {
    using R = RainEvent;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among events"),
        field<R>("return_period", "Return period", &R::return_period, Q::Years, 0, 1e5, {0.5, 10000},
                 "Mean years between such rains", true, true),
        choice<&R::role>("role", "Role", roles, "Design event of the minor or the major system"),
        field<R>("frequency_factor", "Frequency factor", &R::frequency_factor, Q::Ratio, 1, 2, any,
                 "Multiplies C; C times it is at most 1"),
        field<R>("durations", "Durations", &R::durations, Q::Duration, 0, longest_duration, any,
                 "Durations of the table, rising", false, true),
        field<R>("intensities", "Intensities", &R::intensities, Q::Intensity, 0, highest_intensity, any,
                 "Mean intensity at each duration", false, true),
        choice<&R::given>("given", "Given by", rain_given,
                          "Intensities by duration, or a depth that falls by a pattern"),
        field<R>("depth", "Depth", &R::depth, Q::Size, 0, 5, {0.002, 1}, "Of the whole storm, for a pattern", false,
                 true),
        field<R>("storm_length", "Storm length", &R::storm_length, Q::Duration, 0, longest_duration, {300, 3e5},
                 "Of the pattern; the NRCS patterns last 24 hours", false, true),
        field<R>("pattern_shares", "Pattern", &R::pattern_shares, Q::None, 0, 1e9, any,
                 "Own pattern: parts of the depth, in equal steps or up to the times beside them"),
        field<R>("pattern_times", "Pattern times", &R::pattern_times, Q::Duration, 0, longest_duration, any,
                 "Times at which the parts of an own pattern end, rising; empty: equal steps over the storm length"),
    };
    return fields;
}
template <>
std::span<const Field<PipeSize>> fields_of<PipeSize>() {
    using R = PipeSize;
    static const std::vector<Field<R>> fields{
        words<R>("material", "Material", &R::material, "Material or class"),
        choice<&R::shape>("shape", "Shape", shapes, "Cross-section shape"),
        field<R>("size", "Size", &R::size, Q::Size, 0.02, 20, {0.05, 8}, "Inside diameter, or inside height of a box",
                 true),
        field<R>("width", "Width", &R::width, Q::Size, 0, 50, {0.05, 20},
                 "Inside width; of a trapezoid that of its bed"),
        field<R>("sides", "Sides", &R::sides, Q::Ratio, 0, 20, any, "Side slopes of a trapezoid, run over rise"),
        field<R>("roughness", "Manning n", &R::roughness, Q::Roughness, 0.001, 1, {0.006, 0.1}, "Manning roughness",
                 true),
        field<R>("wall", "Wall", &R::wall, Q::Size, 0, 2, {0.001, 0.6}, "Wall thickness"),
    };
    return fields;
}
template <>
std::span<const Field<Limit>> fields_of<Limit>() {
    using R = Limit;
    static const std::vector<Field<R>> fields{
        choice<&R::kind>("kind", "Limit", limit_kinds, "What is held against the value"),
        field<R>("value", "Value", &R::value, Q::None, -1e6, 1e6, any, "The limit, in the unit of its quantity", true),
        words<R>("active", "On", &R::active, "Whether the limit is held"),
        reference<R>("element", "Element", &R::element, Refers::Element,
                     "An exception for one element; none: for the project"),
        words<R>("source", "Source", &R::source, "Where the limit comes from"),
        words<R>("group", "Group", &R::group, "An exception for a group of elements; empty: for the project"),
        choice<&R::system>("system", "Events", systems_of_limits, "Events it holds in"),
    };
    return fields;
}
template <>
std::span<const Field<Settings>> fields_of<Settings>() {
    using R = Settings;
    static const std::vector<Field<R>> fields{
        words<R>("title", "Project", &R::title, "Name of the project"),
        words<R>("place", "Place", &R::place, "Where it is"),
        choice<&R::system>("system", "Units", systems, "Units of the project's files and screens"),
        words<R>("display", "Display units", &R::display,
                 "Unit and digits by quantity, for example: flow m³/s 3; velocity m/s 2"),
        field<R>("least_time", "Least time", &R::least_time, Q::Duration, 0, 36000, {60, 3600},
                 "Least time of concentration of a catchment"),
        field<R>("uplift", "Rain uplift", &R::uplift, Q::Ratio, 0.1, 5, any,
                 "Climate allowance: multiplies every intensity"),
        choice<&R::loss_by>("loss_by", "Loss by", losses_by,
                            "How losses at structures are found that say nothing themselves"),
        choice<&R::travel_velocity>("travel_velocity", "Travel velocity", velocities,
                                    "Velocity that gives the travel time in a pipe"),
        words<R>("hold_flow", "Hold flow", &R::hold_flow,
                 "A pipe carries at least the largest flow of a single pipe that enters"),
        choice<&R::capacity_basis>("capacity_basis", "Capacity", capacities, "What flow ratio divides by"),
        choice<&R::flooded_level>("flooded_level", "Flooded level", flooded,
                                  "Grade line above a rim: free to rise, or held at the rim"),
        field<R>("loss_inlet", "Loss K, inlet", &R::loss_inlet, Q::Ratio, 0, 20, any, "K of inlets"),
        field<R>("loss_manhole", "Loss K, manhole", &R::loss_manhole, Q::Ratio, 0, 20, any, "K of manholes"),
        field<R>("loss_joint", "Loss K, joint", &R::loss_joint, Q::Ratio, 0, 20, any, "K of inline joints"),
        field<R>("default_cover", "Default cover", &R::default_cover, Q::Length, 0, 50, {0.1, 20},
                 "Cover that a new pipe is laid with"),
        field<R>("default_slope", "Default slope", &R::default_slope, Q::Slope, 0, 1, {1e-4, 0.3},
                 "Slope that a new pipe is laid with"),
        field<R>("default_size", "Default size", &R::default_size, Q::Size, 0.02, 20, {0.05, 8}, "Size of a new pipe"),
        field<R>("default_rim", "Default rim", &R::default_rim, Q::Level, -500, 9000, {-500, 9000},
                 "Rim of a new structure where no neighbour tells"),
        field<R>("default_drop", "Default drop", &R::default_drop, Q::Length, 0, 10, {0.005, 3},
                 "Fall across a structure of a new pipe"),
        field<R>("near_share", "Near", &R::near_share, Q::Ratio, 0, 0.9, any,
                 "Share of a limit inside which a value counts as near"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
        choice<&R::default_kind>("default_kind", "Kind", structure_kinds, "Kind of a new structure"),
        words<R>("default_material", "Material", &R::default_material,
                 "Material of a new pipe; empty: the first with the size"),
        words<R>("default_type", "Type", &R::default_type, "Type of a new structure, where its kind fits"),
        choice<&R::level_surface>("level_surface", "Rim from", ground_for,
                                  "Surface that gives a new structure its rim"),
        words<R>("name_pattern", "Structure names", &R::name_pattern,
                 "Pattern of {branch} and {number}; {number:3} has three digits"),
        words<R>("pipe_pattern", "Pipe names", &R::pipe_pattern, "Pattern of {from}, {to} and {size}"),
        field<R>("first_number", "First number", &R::first_number, Q::None, 0, 99999, any,
                 "Number of the first structure of a branch"),
        choice<&R::length_basis>("length_basis", "Pipe length", length_bases,
                                 "Drawn lengths between centres, or between the structures' outlines"),
        words<R>("criteria", "Criteria", &R::criteria, "Criteria set that was loaded last, with its version"),
        words<R>("coordinates", "Coordinates", &R::coordinates, "Coordinate system, in words or as a code"),
        field<R>("excavation_price", "Excavation price", &R::excavation_price, Q::PricePerVolume, 0, 1e6, any,
                 "Of what is dug; prices alternatives"),
        field<R>(
            "pipe_price", "Pipe price", &R::pipe_price, Q::PriceBySize, 0, 1e6, any,
            "Of a length of pipe as wide as that unit, laid: of one metre a metre wide, one foot a foot wide; others "
            "in proportion to their size"),
        choice<&R::matching>("matching", "Pipes meet at", matchings,
                             "What meets at a structure when a design lays levels; inverts never rise"),
        field<R>("two_year_rain", "2-year 24-hour rain", &R::two_year_rain, Q::Size, 0.001, 2, {0.01, 0.5},
                 "Depth that times of sheet flow are found with"),
        choice<&R::edition>("edition", "Constants", editions,
                            "Edition of the manual whose rounded constants the street equations take"),
        choice<&R::inlet_flow>("inlet_flow", "Inlets", inlet_flows,
                               "Whether what an inlet lets pass runs on along its street path"),
        words<R>("gutter_time", "Gutter time", &R::gutter_time, "Bypass arrives later by its way along the gutter"),
        words<R>("partial_area", "Partial areas", &R::partial_area,
                 "The largest flow over the times of what arrives, where a part that answers sooner brings more"),
        field<R>("bend_loss", "Loss K, bend", &R::bend_loss, Q::None, 0, 0.1, any,
                 "K of each degree that a pipe turns at its bends: 0.0033 is usual; 0: bends lose nothing"),
        field<R>("expansion_loss", "Loss K, widening", &R::expansion_loss, Q::Ratio, 0, 1, any,
                 "At an inline joint behind which water is slower: of the fall of the velocity head"),
        field<R>("contraction_loss", "Loss K, narrowing", &R::contraction_loss, Q::Ratio, 0, 1, any,
                 "At an inline joint behind which water is faster: of the rise of the velocity head"),
        choice<&R::runoff_by>("runoff_by", "Runoff", runoffs_by,
                              "The largest flow by the rational method, or hydrographs through time"),
        field<R>("curve_number", "CN", &R::curve_number, Q::None, 1, 100, {30, 100},
                 "Curve number of ground that says nothing", true),
        field<R>("initial_share", "Ia/S", &R::initial_share, Q::Ratio, 0, 1, {0.02, 0.3},
                 "Initial loss over retention; with 0.05 the retention is converted"),
        field<R>("paved_storage", "Storage, paved", &R::paved_storage, Q::Size, 0, 0.1, {0, 0.01},
                 "Depression storage of impervious ground, a depth"),
        field<R>("peak_factor", "Peak factor", &R::peak_factor, Q::None, 10, 1000, {100, 600},
                 "Of unit hydrographs: 484 by the published ordinates, others by the gamma form"),
        field<R>("computing_step", "Computing step", &R::computing_step, Q::Duration, 1, 3600, {5, 900},
                 "Of hydrographs"),
        field<R>("output_interval", "Output interval", &R::output_interval, Q::Duration, 1, 86400, {30, 3600},
                 "Spacing of values in tables and files"),
        field<R>("after_rain", "After the rain", &R::after_rain, Q::Duration, 0, 1e7, {600, 1e6},
                 "How long is computed after the storm; empty: until the water has run off"),
        choice<&R::travel_by>("travel_by", "Travel by", travels_by, "How hydrographs move through pipes"),
        choice<&R::storm_by>("storm_by", "Storm by", storms_by, "How intensities by duration become a storm"),
        field<R>("storm_peak", "Storm peak", &R::storm_peak, Q::Ratio, 0, 1, {0.2, 0.7},
                 "Place of the peak of a storm after an equation, a share of its length"),
        field<R>("storm_length", "Storm length", &R::storm_length, Q::Duration, 0, 864000, {600, 3e5},
                 "Of storms made of intensities; empty: the longest duration of the table, at most a day", false, true),
        choice<&R::release_cut>("release_cut", "Volume above", cuts,
                                "Line above which the volume that must be stored is counted"),
        field<R>("least_freeboard", "Least freeboard, ponds", &R::least_freeboard, Q::Length, 0, 10, {0.05, 3},
                 "Crest of a pond's bank less its highest level"),
        field<R>("most_drawdown", "Most drawdown", &R::most_drawdown, Q::Duration, 0, 1e7, {3600, 1e6},
                 "From the highest level of a pond until a tenth of the water is left"),
    };
    return with_losses(fields);
}

bool same_value(const Value& a, const Value& b) {
    if (a.index() != b.index()) return false;
    const auto same = [](double x, double y) { return x == y || (std::isnan(x) && std::isnan(y)); };
    if (const double* x = std::get_if<double>(&a)) return same(*x, std::get<double>(b));
    return a == b;
}

std::string_view kind_name(Kind kind) {
    constexpr SV names[] = {
        "structure", "pipe",    "catchment",     "land cover",       "street path",  "event",
        "size",      "limit",   "surface",       "background",       "street",       "street section",
        "type",      "variant", "outfall level", "accepted finding", "finding rank", "buried line",
        "clearance", "profile", "pond",          "outlet",           "release",      "settings"};
    return nth(names, kind);
}
std::string_view table_name(Kind kind) {
    constexpr SV names[] = {
        "structures",      "pipes",    "catchments",     "land_covers",       "street_paths",  "events",
        "sizes",           "limits",   "surfaces",       "backgrounds",       "streets",       "street_sections",
        "structure_types", "variants", "outfall_levels", "accepted_findings", "finding_ranks", "buried_lines",
        "clearances",      "profiles", "ponds",          "outlets",           "releases",      "settings"};
    return nth(names, kind);
}

std::span<const FieldInfo* const> infos_of(Kind kind) {
    static const auto all = [] {
        std::array<std::vector<const FieldInfo*>, kind_count> lists;
        for (std::size_t k = 0; k < kind_count; ++k)
            with_row_type(static_cast<Kind>(k), [&]<class R>(std::type_identity<R>) {
                for (const Field<R>& f : fields_of<R>()) lists[k].push_back(&f);
            });
        return lists;
    }();
    return nth(all, kind);
}

std::optional<std::size_t> field_index(Kind kind, std::string_view key) {
    const auto infos = infos_of(kind);
    for (std::size_t i = 0; i < infos.size(); ++i)
        if (infos[i]->key == key) return i;
    return {};
}

std::string range_fault(const FieldInfo& f, double value, const UnitSet& units) {
    if (in_range(f, value)) return {};
    const std::string is = "is " + units.entry(value, f.quantity);
    if (f.low_open && value <= f.low) return is + ": it must be above " + units.entry(f.low, f.quantity);
    if (value < f.low) return is + ": it must be at least " + units.entry(f.low, f.quantity);
    if (value > f.high) return is + ": it must be at most " + units.entry(f.high, f.quantity);
    return {};
}

std::string value_fault(const FieldInfo& f, const Value& value, const UnitSet& units) {
    if (const double* d = std::get_if<double>(&value)) return range_fault(f, *d, units);
    if (const int* c = std::get_if<int>(&value)) {
        if (*c >= 0 && static_cast<std::size_t>(*c) < f.choices.size()) return {};
        std::string known;
        for (const auto& choice : f.choices) known += (known.empty() ? "" : ", ") + std::string(choice);
        return "is choice number " + std::to_string(*c) + ": it must be one of " + known;
    }
    if (const auto* list = std::get_if<std::vector<double>>(&value)) {
        for (std::size_t i = 0; i < list->size(); ++i)
            if (const std::string fault =
                    std::isnan((*list)[i]) ? "is not a number" : range_fault(f, (*list)[i], units);
                !fault.empty())
                return "number " + std::to_string(i + 1) + " " + fault;
    }
    if (const auto* line = std::get_if<std::vector<Point>>(&value)) {
        FieldInfo place = f;
        place.quantity = Quantity::Length;
        for (std::size_t i = 0; i < line->size(); ++i)
            for (const double v : {(*line)[i].x, (*line)[i].y})
                if (const std::string fault = std::isnan(v) ? "is not a number" : range_fault(place, v, units);
                    !fault.empty())
                    return "point " + std::to_string(i + 1) + " " + fault;
    }
    return {};
}

std::span<const std::string_view> limit_names() { return limit_kinds; }

FieldInfo limit_info(LimitKind kind) {
    static const std::size_t value = *field_index(Kind::Limit, "value");
    FieldInfo info = *infos_of(Kind::Limit)[value];
    info.quantity = limit_quantity(kind);
    info.low = kind == LimitKind::MostSurcharge ? -20 : 0;  // water may have to stay below the crown
    switch (kind) {
        case LimitKind::LeastSlope:
        case LimitKind::MostSlope:
        case LimitKind::MostFilledDepth: info.high = 1; break;
        case LimitKind::MostFlowRatio: info.high = 10; break;
        case LimitKind::MostSpreadShare: info.high = 1; break;
        case LimitKind::LeastVelocity:
        case LimitKind::MostVelocity:
        case LimitKind::MostStreetVelocity: info.high = 50; break;
        case LimitKind::MostStreetShear: info.high = 1e4; break;
        case LimitKind::LeastSize: info.high = 20; break;
        default: info.high = 200; break;
    }
    return info;
}

Quantity limit_quantity(LimitKind kind) {
    switch (kind) {
        case LimitKind::LeastVelocity:
        case LimitKind::MostVelocity: return Q::Velocity;
        case LimitKind::LeastSlope:
        case LimitKind::MostSlope: return Q::Slope;
        case LimitKind::MostFlowRatio:
        case LimitKind::MostFilledDepth: return Q::Ratio;
        case LimitKind::LeastSize: return Q::Size;
        case LimitKind::MostSpreadShare: return Q::Ratio;
        case LimitKind::MostDepthVelocity: return Q::DepthVelocity;
        case LimitKind::MostStreetVelocity: return Q::Velocity;
        case LimitKind::MostStreetShear: return Q::Stress;
        default: return Q::Length;
    }
}

std::uint64_t random_id() {
    thread_local std::mt19937_64 engine = [] {
        std::random_device device;
        std::seed_seq seed{device(), device(), device(), device()};
        return std::mt19937_64(seed);
    }();
    std::uint64_t id = 0;
    while (id == 0) id = engine();
    return id;
}
std::string id_text(std::uint64_t id) {
    constexpr char hex[] = "0123456789abcdef";
    std::string text(16, '0');
    for (std::size_t i = 16; i-- > 0; id >>= 4) text[i] = hex[id & 15];
    return text;
}
std::uint64_t read_id(const std::string& text) {
    std::uint64_t id = 0;
    const auto end = std::from_chars(text.data(), text.data() + text.size(), id, 16);
    return text.size() == 16 && end.ec == std::errc() && end.ptr == text.data() + 16 ? id : 0;
}

}  // namespace culvert
