// SPDX-License-Identifier: GPL-3.0-or-later
// Field tables of the site: surfaces, backgrounds, streets; and of the catalogue of structures and variants.
#include "core/model/field_tables.h"

namespace culvert {
namespace {

using namespace tables;
constexpr SV surface_roles[] = {"existing", "finished", "other"};
constexpr SV contents[] = {"drawing", "picture"};
constexpr SV kinds[] = {"inlet", "manhole", "outfall", "joint", "pond"};
constexpr SV plans[] = {"round", "rectangular"};
constexpr SV inlets[] = {"none", "grate", "curb opening", "combination", "slotted", "area", "rated"};
constexpr SV grates[] = {"not known",   "bars 48 mm",      "bars 48 x 102 mm", "bars 29 mm",
                         "curved vane", "tilted bars 45°", "tilted bars 30°",  "reticuline"};
constexpr SV throats[] = {"horizontal", "inclined", "vertical"};
constexpr SV benchings[] = {"depressed", "flat", "half", "full", "improved"};
constexpr SV variant_roles[] = {"variant", "issued"};

template <class R>
void add_street_shape(std::vector<Field<R>>& f) {
    f.push_back(field<R>("lane_width", "Lanes", &R::lane_width, Q::Length, 0, 40, {1.5, 20},
                         "Width of all lanes of one side, crown to gutter"));
    f.push_back(field<R>("cross_slope", "Cross slope", &R::cross_slope, Q::Slope, -0.2, 0.2, {0.005, 0.1},
                         "Of the lanes, positive falls from the crown"));
    f.push_back(
        field<R>("gutter_width", "Gutter", &R::gutter_width, Q::Length, 0, 5, {0.15, 2}, "Width of the gutter"));
    f.push_back(field<R>("gutter_slope", "Gutter slope", &R::gutter_slope, Q::Slope, 0, 0.5, {0.01, 0.2},
                         "Cross slope of the gutter"));
    f.push_back(field<R>("curb_height", "Curb", &R::curb_height, Q::Length, 0, 1, {0.05, 0.3}, "Height of the curb"));
    f.push_back(field<R>("verge_width", "Verge", &R::verge_width, Q::Length, 0, 40, {0.3, 15},
                         "Width behind the curb: footway and grass"));
    f.push_back(field<R>("verge_slope", "Verge slope", &R::verge_slope, Q::Slope, -0.5, 0.5, {0.005, 0.1},
                         "Of the verge, positive rises from the curb"));
    f.push_back(field<R>("roughness", "Manning n", &R::roughness, Q::Roughness, 0.005, 0.5, {0.01, 0.05},
                         "Manning roughness of gutter and lanes"));
}

}  // namespace

template <>
std::span<const Field<Surface>> fields_of<Surface>() {
    using R = Surface;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among surfaces"),
        choice<&R::role>("role", "Role", surface_roles, "Existing ground, finished ground, or another surface"),
        words<R>("asset", "Content", &R::asset, "Hash of its points and lines"),
        words<R>("source", "Source", &R::source, "File it was read from"),
        field<R>("least_depth", "Least depression", &R::least_depth, Q::Length, 0, 100, {0.005, 5},
                 "Depressions shallower than this are noise"),
        words<R>("visible", "Shown", &R::visible, "Whether its contours are shown"),
        words<R>("coordinates", "Coordinates", &R::coordinates, "Coordinate system as recorded in its file"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
    };
    return fields;
}
template <>
std::span<const Field<Background>> fields_of<Background>() {
    using R = Background;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among backgrounds"),
        choice<&R::content>("content", "Content", contents, "A drawing or a picture"),
        words<R>("asset", "File", &R::asset, "Hash of its file"),
        words<R>("source", "Source", &R::source, "File it was read from"),
        words<R>("visible", "Shown", &R::visible, "Whether it is shown"),
        words<R>("dim", "Dim", &R::dim, "Shown in quiet ink, so that the design stands out"),
        words<R>("hidden", "Layers off", &R::hidden, "Layers that are off, separated by semicolons"),
        field<R>("placing", "Placing", &R::placing, Q::None, -1e12, 1e12, any,
                 "Of a picture: the six numbers of its world file; of a drawing: metres of one unit"),
        words<R>("coordinates", "Coordinates", &R::coordinates, "Coordinate system as recorded in its file"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
    };
    return fields;
}
template <>
std::span<const Field<Street>> fields_of<Street>() {
    using R = Street;
    static const auto fields = [] {
        std::vector<Field<R>> f{words<R>("name", "Name", &R::name, "Unique among streets"),
                                places<R>("line", "Line", &R::line, "Its line in plan")};
        add_street_shape(f);
        f.push_back(field<R>("stations", "Stations", &R::stations, Q::Length, -1e6, 1e7, any,
                             "Stations of its vertical profile, rising"));
        f.push_back(field<R>("levels", "Levels", &R::levels, Q::Level, -500, 9000, any,
                             "Crown levels at the stations; empty: from the surface"));
        f.push_back(field<R>("strip_width", "Drained width", &R::strip_width, Q::Length, 0, 500, {3, 100},
                             "Width of the ground that drains to one curb, where inlets are spaced"));
        f.push_back(field<R>("strip_coefficient", "Its runoff C", &R::strip_coefficient, Q::Ratio, 0, 1, {0.1, 1},
                             "Runoff coefficient of that ground"));
        f.push_back(field<R>("avoid", "No inlets at", &R::avoid, Q::Length, -1e6, 1e7, any,
                             "Stations where no inlet may stand, in pairs: from, to"));
        f.push_back(words<R>(
            "flankers", "Flankers", &R::flankers,
            "Low points have an inlet on either side of theirs: asked for when inlets are spaced, and checked"));
        f.push_back(words<R>("note", "Note", &R::note, "Anything worth keeping"));
        return f;
    }();
    return fields;
}
template <>
std::span<const Field<StreetSection>> fields_of<StreetSection>() {
    using R = StreetSection;
    static const auto fields = [] {
        std::vector<Field<R>> f{
            words<R>("name", "Name", &R::name, "What this section is"),
            reference<R>("street", "Street", &R::street, Refers::Street, "Street it is a section of"),
            field<R>("start", "From station", &R::start, Q::Length, -1e6, 1e7, any, "First station it holds at", true),
            field<R>("end", "To station", &R::end, Q::Length, -1e6, 1e7, any, "Last station it holds at", true)};
        add_street_shape(f);
        return f;
    }();
    return fields;
}
template <>
std::span<const Field<StructureType>> fields_of<StructureType>() {
    using R = StructureType;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among types"),
        choice<&R::kind>("kind", "Kind", kinds, "Kind of structure"),
        choice<&R::plan>("plan", "Plan", plans, "Shape in plan"),
        field<R>("length", "Length", &R::length, Q::Size, 0, 50, {0.2, 10},
                 "Inside diameter, or length along the street", true, true),
        field<R>("width", "Width", &R::width, Q::Size, 0, 50, {0.2, 10}, "Inside width of a rectangular one", false,
                 true),
        field<R>("sump", "Sump", &R::sump, Q::Length, 0, 20, {0, 3}, "Depth below the lowest invert"),
        field<R>("drop", "Drop", &R::drop, Q::Length, 0, 10, {0, 3},
                 "Fall across it; empty: the project's default drop"),
        field<R>("loss", "Loss K", &R::loss, Q::Ratio, 0, 20, any, "Loss K of it; empty: the project's for the kind"),
        choice<&R::inlet>("inlet", "Inlet", inlets, "How it takes water from the street"),
        choice<&R::grate>("grate", "Grate", grates, "Its bars, which give the velocity at which water splashes over"),
        field<R>("grate_length", "Grate length", &R::grate_length, Q::Size, 0.05, 20, {0.2, 3},
                 "Along the street; empty: the length"),
        field<R>("grate_width", "Grate width", &R::grate_width, Q::Size, 0.05, 20, {0.2, 2},
                 "Across the street; empty: the width"),
        field<R>("splash_velocity", "Splash-over velocity", &R::splash_velocity, Q::Velocity, 0, 20, {0.3, 5},
                 "Above it water splashes over the grate; empty: that of its bars"),
        field<R>("open_share", "Open share", &R::open_share, Q::Ratio, 0.01, 1, any,
                 "Clear opening of the grate over its area; empty: that of its bars"),
        field<R>("opening_length", "Opening length", &R::opening_length, Q::Size, 0.05, 100, {0.3, 15},
                 "Of the curb opening; empty: the length"),
        field<R>("opening_height", "Opening height", &R::opening_height, Q::Size, 0.01, 2, {0.05, 0.3},
                 "Of the curb opening"),
        choice<&R::throat>("throat", "Throat", throats, "How the throat lies behind the lip of the opening"),
        field<R>("depression", "Depression", &R::depression, Q::Size, 0, 1, {0.01, 0.2},
                 "Local, of the gutter at the opening"),
        field<R>("depression_width", "Depression width", &R::depression_width, Q::Size, 0.05, 5, {0.2, 2},
                 "Across the street"),
        field<R>("slot_width", "Slot width", &R::slot_width, Q::Size, 0.005, 1, {0.02, 0.2}, "Of a slotted drain"),
        field<R>("clogging", "Clogging", &R::clogging, Q::Ratio, 0, 1, any,
                 "Share of its length, perimeter and area that is taken for clogged"),
        field<R>("rating_approach", "Approach flows", &R::rating_approach, Q::Flow, 0, 1000, any,
                 "Of its rating curve, rising"),
        field<R>("rating_captured", "Captured flows", &R::rating_captured, Q::Flow, 0, 1000, any,
                 "Of its rating curve, one for each approach flow"),
        words<R>("inlet_source", "Source", &R::inlet_source, "Where the numbers of the inlet are from"),
        choice<&R::benching>("benching", "Benching", benchings, "Its floor, for the energy method of access holes"),
        field<R>("price", "Price", &R::price, Q::None, 0, 1e9, any, "Of one"),
        field<R>("depth_price", "Price of depth", &R::depth_price, Q::PricePerLength, 0, 1e9, any,
                 "Of each metre of its depth, beside the price of one"),
    };
    return fields;
}
template <>
std::span<const Field<Variant>> fields_of<Variant>() {
    using R = Variant;
    static const std::vector<Field<R>> fields{
        words<R>("name", "Name", &R::name, "Unique among variants"),
        choice<&R::role>("role", "Role", variant_roles, "A variant of the design, or a state that was issued"),
        words<R>("changes", "Changes", &R::changes, "Changes over the base, as text"),
        words<R>("asset", "Issued project", &R::asset, "Hash of the project that was issued"),
        words<R>("note", "Note", &R::note, "Anything worth keeping"),
    };
    return fields;
}

}  // namespace culvert
