// SPDX-License-Identifier: GPL-3.0-or-later
// Field tables of storage: ponds, their outlets, allowed releases.
#include "core/model/field_tables.h"

namespace culvert {
namespace {

using namespace tables;
constexpr SV storages_by[] = {"areas", "volumes", "basin", "tank", "pipes", "outline"};
constexpr SV betweens[] = {"straight", "cone"};
constexpr SV outlet_kinds[] = {
    "circular orifice", "box orifice", "sharp weir", "broad weir", "V-notch", "Cipolletti weir", "riser", "grate",
    "culvert",          "pump",        "rating"};
constexpr SV entrances[] = {
    "concrete, headwall",     "concrete, groove, headwall", "concrete, groove, projecting", "metal, headwall",
    "metal, mitered",         "metal, projecting",          "box, flared wingwalls",        "box, headwall",
    "box, straight wingwalls"};

}  // namespace

template <>
std::span<const Field<Pond>> fields_of<Pond>() {
    using R = Pond;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among ponds"),
        reference<R>("structure", "Structure", &R::structure, Refers::Structure, "Structure whose water it keeps"),
        choice<&R::storage_by>("storage_by", "Space by", storages_by, "How its space by level is given"),
        field<R>("levels", "Levels", &R::levels, Q::Level, -600, 9000, any, "Of its areas or volumes, rising"),
        field<R>("areas", "Areas", &R::areas, Q::WaterArea, 0, 1e8, any, "Of the water surface, one for each level"),
        field<R>("volumes", "Volumes", &R::volumes, Q::Volume, 0, 1e9, any, "Below each level; the first is 0"),
        choice<&R::between>("between", "Between levels", betweens, "Area straight between two levels, or as a cone's"),
        field<R>("bottom", "Bottom", &R::bottom, Q::Level, -600, 9000, {-600, 9000},
                 "Level of the bottom of a basin, a tank, pipes or an outline"),
        field<R>("length", "Length", &R::length, Q::Length, 0, 1e4, {0.5, 2000}, "Of its bottom; of pipes their length",
                 false, true),
        field<R>("width", "Width", &R::width, Q::Length, 0, 1e4, {0.5, 2000}, "Of its bottom", false, true),
        field<R>("sides", "Sides", &R::sides, Q::Ratio, 0, 50, any, "Side slopes, run over rise"),
        field<R>("depth", "Depth", &R::depth, Q::Length, 0, 100, {0.2, 15},
                 "How high above its bottom its space is known", false, true),
        field<R>("diameter", "Diameter", &R::diameter, Q::Size, 0, 20, {0.1, 5}, "Of pipes side by side", false, true),
        field<R>("count", "Pipes", &R::count, Q::None, 1, 1000, any, "Pipes side by side"),
        field<R>("voids", "Voids", &R::voids, Q::Ratio, 0, 1, any, "Share of the space that holds water", false, true),
        field<R>("crest", "Crest", &R::crest, Q::Level, -600, 9000, {-600, 9000},
                 "Top of its bank; empty: the rim of the structure"),
        field<R>("start_level", "Standing water", &R::start_level, Q::Level, -600, 9000, {-600, 9000},
                 "Level before the rain; empty: it is dry"),
        field<R>("soakage", "Soakage", &R::soakage, Q::Intensity, 0, 1e-2, {1e-8, 1e-3},
                 "Into the ground through its wetted area"),
        field<R>("forebay", "Forebay", &R::forebay, Q::Ratio, 0, 1, any,
                 "Share of its volume that is set apart for sediment: not counted for storage"),
        places<R>("outline", "Outline", &R::outline, "Of its bottom in plan"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
    };
    return fields;
}
template <>
std::span<const Field<PondOutlet>> fields_of<PondOutlet>() {
    using R = PondOutlet;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among outlets"),
        reference<R>("structure", "Of", &R::structure, Refers::Structure, "Structure whose water leaves by it"),
        reference<R>("to", "To", &R::to, Refers::Structure,
                     "Where its water goes; none: it leaves the site. An overflow to where a street path leads runs "
                     "along the street"),
        choice<&R::kind>("kind", "Kind", outlet_kinds, "What it is"),
        field<R>("level", "Level", &R::level, Q::Level, -600, 9000, {-600, 9000},
                 "Lowest point of an opening, crest of a weir, rim of a riser, start of a pump", true),
        field<R>("size", "Size", &R::size, Q::Size, 0, 20, {0.02, 5},
                 "Diameter, or height of an opening; of a riser its diameter, or one side", false, true),
        field<R>("width", "Width", &R::width, Q::Length, 0, 1000, {0.02, 100},
                 "Of an opening, or length of a crest; other side of a riser or grate", false, true),
        field<R>("angle", "Angle", &R::angle, Q::None, 1, 179, {20, 120}, "Of a V-notch, degrees"),
        field<R>("coefficient", "Coefficient", &R::coefficient, Q::Ratio, 0, 5, {0.3, 3},
                 "Empty: the usual one of its kind, which the working names", false, true),
        field<R>("count", "Count", &R::count, Q::None, 1, 200, any, "Alike, side by side"),
        field<R>("contractions", "Contractions", &R::contractions, Q::None, 0, 2, any,
                 "Ends of a sharp crest at which the jet is drawn in"),
        field<R>("length", "Length", &R::length, Q::Length, 0, 5000, {1, 500}, "Of a culvert", false, true),
        field<R>("slope", "Slope", &R::slope, Q::Slope, -0.1, 0.5, {1e-4, 0.2}, "Of a culvert"),
        field<R>("roughness", "Manning n", &R::roughness, Q::Roughness, 0.001, 1, {0.006, 0.1}, "Of a culvert"),
        choice<&R::entrance>("entrance", "Entrance", entrances, "Of a culvert"),
        field<R>("stop_level", "Stops at", &R::stop_level, Q::Level, -600, 9000, {-600, 9000},
                 "Level at which a pump stops; it must lie below its start"),
        field<R>("pump_flow", "Pump flow", &R::pump_flow, Q::Flow, 0, 1000, {1e-4, 50}, "While it runs", false, true),
        field<R>("rating_levels", "Rating levels", &R::rating_levels, Q::Level, -600, 9000, any,
                 "Levels of its own rating, rising"),
        field<R>("rating_flows", "Rating flows", &R::rating_flows, Q::Flow, 0, 1e5, any, "Flow at each of its levels"),
        words<R>("behind", "Through", &R::behind,
                 "Name of the outlet of the same pond through which its water runs then: in series"),
        words<R>("overflow", "Overflow", &R::overflow, "For rare events alone: it should stay dry in common ones"),
        field<R>("open_share", "Open share", &R::open_share, Q::Ratio, 0, 1, any,
                 "What of its opening is not taken for clogged"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
    };
    return fields;
}
template <>
std::span<const Field<Release>> fields_of<Release>() {
    using R = Release;
    static const std::vector<Field<R>> fields{
        reference<R>("structure", "Structure", &R::structure, Refers::Structure, "Where the water leaves"),
        reference<R>("event", "Event", &R::event, Refers::Event, "Event it holds in"),
        field<R>("flow", "Allowed flow", &R::flow, Q::Flow, 0, 1e4, {1e-4, 500}, "What may leave"),
        field<R>("area_rate", "Allowed of the area", &R::area_rate, Q::FlowPerArea, 0, 1e-3, {1e-8, 1e-4},
                 "In place of a flow: of the area that drains there"),
        words<R>("source", "Source", &R::source, "Where it comes from"),
    };
    return fields;
}

}  // namespace culvert
