// SPDX-License-Identifier: GPL-3.0-or-later
// Field tables of what is judged: levels that outfalls meet, findings accepted and ranked, other lines under ground.
#include "core/model/field_tables.h"

namespace culvert {
namespace {

using namespace tables;
constexpr SV ranks[] = {"error", "warning", "note", "off"};
constexpr SV line_kinds[] = {"storm pipe",    "water", "gas",  "sewer", "electricity",
                             "communication", "heat",  "duct", "other"};
constexpr SV levels_of[] = {"outside top", "centre", "outside bottom"};
constexpr SV statuses[] = {"proposed", "existing", "abandoned"};

}  // namespace

template <>
std::span<const Field<OutfallLevel>> fields_of<OutfallLevel>() {
    using R = OutfallLevel;
    static const std::vector<Field<R>> fields{
        reference<R>("structure", "Outfall", &R::structure, Refers::Structure, "Outfall that meets the level"),
        reference<R>("event", "Event", &R::event, Refers::Event, "Event in which it meets it"),
        field<R>("level", "Level", &R::level, Q::Level, -500, 9000, {-500, 9000},
                 "Water level in that event, in place of the outfall's own tailwater", true),
        words<R>("source", "Source", &R::source, "Where the level comes from"),
    };
    return fields;
}
template <>
std::span<const Field<AcceptedFinding>> fields_of<AcceptedFinding>() {
    using R = AcceptedFinding;
    static const std::vector<Field<R>> fields{
        words<R>("finding", "Finding", &R::finding, "What was found, as findings are titled"),
        reference<R>("element", "Element", &R::element, Refers::Any, "Where it was found"),
        reference<R>("event", "Event", &R::event, Refers::Event, "Event it was found in; none: a fault of the data"),
        field<R>("value", "Value", &R::value, Q::None, -1e12, 1e12, any,
                 "What was accepted, in SI units: a worse value opens the finding again"),
        words<R>("reason", "Reason", &R::reason, "Why it is accepted"),
        words<R>("by", "Accepted by", &R::by, "Who accepted it"),
        words<R>("date", "Date", &R::date, "When"),
    };
    return fields;
}
template <>
std::span<const Field<FindingRank>> fields_of<FindingRank>() {
    using R = FindingRank;
    static const std::vector<Field<R>> fields{
        words<R>("finding", "Finding", &R::finding, "What is found, as findings are titled"),
        choice<&R::rank>("rank", "Ranked as", ranks, "How grave it is in this project"),
        words<R>("source", "Source", &R::source, "Who says so"),
    };
    return fields;
}
template <>
std::span<const Field<BuriedLine>> fields_of<BuriedLine>() {
    using R = BuriedLine;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among buried lines"),
        choice<&R::kind>("kind", "Kind", line_kinds, "What it carries: its clearance follows"),
        places<R>("line", "Line", &R::line, "Its line in plan"),
        field<R>("levels", "Levels", &R::levels, Q::Level, -600, 9000, any,
                 "One for each point of its line, or one for all"),
        choice<&R::level_of>("level_of", "Levels are of", levels_of, "What of the line the levels are of"),
        field<R>("size", "Outside diameter", &R::size, Q::Size, 0, 20, {0.02, 4}, "Its outside diameter", true),
        choice<&R::status>("status", "Status", statuses, "Existing, proposed or abandoned"),
        words<R>("source", "Source", &R::source, "File or survey it is from"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
    };
    return fields;
}
template <>
std::span<const Field<ProfileRun>> fields_of<ProfileRun>() {
    using R = ProfileRun;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among profiles"),
        reference<R>("from", "From", &R::from, Refers::Structure, "Structure where it begins"),
        reference<R>("to", "To", &R::to, Refers::Structure, "Structure down the run where it ends"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
    };
    return fields;
}
template <>
std::span<const Field<Clearance>> fields_of<Clearance>() {
    using R = Clearance;
    static const std::vector<Field<R>> fields{
        choice<&R::kind>("kind", "Other line", line_kinds, "What pipes must keep clear of"),
        field<R>("vertical", "Vertical", &R::vertical, Q::Length, 0, 50, {0.05, 5},
                 "Outside to outside where they cross; empty: not held"),
        field<R>("horizontal", "Horizontal", &R::horizontal, Q::Length, 0, 50, {0.05, 10},
                 "Outside to outside where they run beside each other; empty: not held"),
        words<R>("source", "Source", &R::source, "Where it comes from"),
    };
    return fields;
}

}  // namespace culvert
