// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <limits>
#include <string>
#include <utility>
#include <vector>

#include "core/base/units.h"
#include "core/geometry/line.h"
#include "core/hydraulics/access_hole.h"
#include "core/hydraulics/stage_storage.h"
#include "core/hydrology/unit_hydrograph.h"
#include "core/model/ids.h"
#include "core/streets/inlet.h"

/// The rows of a project: plain values. A number that is not given is NaN. SI throughout.
namespace culvert {

constexpr double not_given = std::numeric_limits<double>::quiet_NaN();
constexpr std::size_t most_fields = 64;

/// Where the value of a field came from.
enum class Origin : std::uint8_t { Default, Typed, Ground, Catalogue, Imported, Proposed };

struct Row {
    std::uint64_t id = 0;
    std::array<Origin, most_fields> origin{};                  ///< per field, in the order of the field table
    std::vector<std::pair<std::string, std::string>> foreign;  ///< ids that other systems gave: system, id
    std::string unknown;  ///< members of a file that this version does not know, as JSON
};

/// A pond ends the network that leads to it where no pipe leads on: its water leaves by its outlets.
enum class StructureKind { Inlet, Manhole, Outfall, Joint, Pond };
/// Rating: the level follows the flow that leaves by the outfall.
enum class Tailwater { Free, Level, Normal, MeanOfCriticalAndCrown, Rating };
enum class Status { Proposed, Existing, Abandoned };
/// How the loss at a structure is found: K V^2 / 2g, or the energy method for access holes (access_hole.h).
enum class LossBy { Project, Coefficient, AccessHole };
/// Whether water runs past an inlet or stands over it; by itself the street's profile tells.
enum class InletPlace { FromStreet, OnGrade, Sag };

struct Structure : Row {
    std::string name;
    StructureKind kind = StructureKind::Manhole;
    double x = not_given, y = not_given;
    double rim = not_given;
    double loss = not_given;  ///< K of K V^2 / 2g; not given: the project's value for the kind
    double known_flow = 0;
    Tailwater tailwater = Tailwater::Free;
    double tailwater_level = not_given;
    Status status = Status::Proposed;
    std::string type;         ///< name of a structure type of the catalogue; empty: none
    double sump = not_given;  ///< depth below the lowest invert; not given: the type's
    StreetId street;
    double station = not_given;  ///< along its street, m
    double offset = not_given;   ///< from the street's line, m, positive right of it
    InletPlace inlet_place = InletPlace::FromStreet;
    double opening_length = not_given;  ///< of its opening or slot; not given: the type's
    double street_grade =
        not_given;  ///< fall of the gutter; not given: the street's profile, or the rims along its path
    double crest_depth = not_given;  ///< depth at the curb at which a sag spills on; not given: the curb's height
    std::string group;               ///< elements of a group can have limits of their own
    std::string description;
    std::string note, note_source;
    std::vector<double> rating_flows, rating_levels;  ///< of an outfall's tailwater, m3/s and m, rising
    LossBy loss_by = LossBy::Project;
    // The channel that receives an outfall's water: a trapezoid.
    double channel_width = not_given;     ///< of its bed, m; not given: no channel is looked at
    double channel_sides = 2;             ///< run over rise
    double channel_slope = not_given;     ///< m/m
    double channel_roughness = 0.03;      ///< Manning n
    double channel_velocity = not_given;  ///< what its lining stands, m/s
    double channel_shear = not_given;     ///< Pa
};

/// Whether a structure has a place in plan. One without is named among the findings, takes part in no drawing, and
/// pipes to it have no drawn length.
inline bool placed(const Structure& s) { return in_reach(Point{s.x, s.y}); }
/// Whether an inlet takes water: an abandoned one does not.
inline bool takes_water(const Structure& s) { return s.kind == StructureKind::Inlet && s.status != Status::Abandoned; }

/// Cross-section of a pipe or channel (core/hydraulics/section.h). Trapezoid, half-round and custom ones may be open.
enum class Shape { Circular, Box, Ellipse, Arch, Egg, Trapezoid, HalfRound, Custom };
/// Whether a shape is given by a width beside its size.
constexpr bool has_width(Shape shape) {
    return shape == Shape::Box || shape == Shape::Ellipse || shape == Shape::Arch || shape == Shape::Trapezoid ||
           shape == Shape::HalfRound;
}

struct Pipe : Row {
    std::string name;
    StructureId from, to;
    Shape shape = Shape::Circular;
    double size = 0.3;                               ///< diameter, or height
    double width = not_given;                        ///< of a box, ellipse, arch, half-round; of the bed of a trapezoid
    double sides = 0;                                ///< of a trapezoid, run over rise
    std::vector<double> section_across, section_up;  ///< points of a custom section, m
    double roughness = 0.013;
    double wall = 0.05;
    double invert_from = not_given, invert_to = not_given;
    double length = not_given;  ///< entered; not given: as drawn
    std::vector<Point> bends;
    std::string material;
    bool size_locked = false;
    bool slope_locked = false;  ///< a design keeps its slope
    double barrels = 1;         ///< side by side, alike; they share the flow
    // What its ends are tied to, as grading reads it: "ground - 1.5", "cover 1.2", "B1–A3 + 0.05"; empty: to nothing.
    std::string tie_from, tie_to;
    Status status = Status::Proposed;
    std::string group, description;
    std::string note, note_source;
};

/// How rain becomes flow: the largest flow by the rational method; or a hydrograph, by the NRCS unit hydrograph, by the
/// modified rational one, or from a plane over which the water runs.
enum class RunoffBy { Rational, UnitHydrograph, ModifiedRational, Plane };
/// What makes a hydrograph of one catchment, where the project is computed by hydrographs.
enum class TransformBy { Project, UnitHydrograph, ModifiedRational, Plane };
/// What pervious ground takes of the rain (core/hydrology/losses.h).
enum class LossesBy { Project, CurveNumber, Constant, Proportional, Horton, GreenAmpt };
/// Losses of pervious ground; what is not given is the catchment's, then the project's.
struct GroundLosses {
    LossesBy losses = LossesBy::Project;
    double initial_loss = not_given;  ///< m, before runoff begins; with a curve number it follows from that
    double loss_rate = not_given;     ///< m/s: constant; last of Horton; conductivity of Green and Ampt
    double loss_share = not_given;    ///< of the rain, for proportional losses
    double first_rate = not_given;    ///< m/s, of Horton
    double decay_time = not_given;    ///< s: 1/k of Horton
    double front_head = not_given;    ///< m, of Green and Ampt: suction times moisture deficit
};

/// How a catchment's time of concentration is found: core/hydrology/concentration.h.
enum class TimeBy { Entered, Parts, Kirpich, Faa };

struct Catchment : Row, GroundLosses {
    std::string name;
    StructureId structure;
    double area = not_given;
    double coefficient = not_given;
    double time = not_given;  ///< of concentration, to the structure
    TimeBy time_by = TimeBy::Entered;
    std::string path_parts;                                  ///< parts of its flow path, as catchment_time.h reads them
    double path_length = not_given, path_slope = not_given;  ///< of the formulas for a whole catchment
    StreetId street;                                         ///< where it drains to a street and not to a structure:
    double station = not_given;  ///< the water comes to it here, and runs on to the next inlet
    std::vector<Point> outline;
    std::vector<Point> flow_path;  ///< longest way of its water, from its head to the structure
    std::string note;
    TransformBy transform = TransformBy::Project;
    double curve_number = not_given;  ///< of its pervious ground, or of all of it where no share is impervious
    double impervious = not_given;    ///< share; 0 where it is not given
    double storage = not_given;       ///< depression storage of paved ground, m
    double peak_factor = not_given;   ///< of its unit hydrograph
    double plane_width = not_given;   ///< of the plane its water runs over, m; not given: area over path length
    double plane_roughness = not_given;
};

/// Where the water of a land cover runs: to the gutter or pipe, or first over the pervious parts of its catchment.
enum class CoverDrains { Away, OverPervious };
/// Part of a catchment. Where a catchment has land covers they give its area and coefficient.
struct LandCover : Row, GroundLosses {
    std::string name;
    CatchmentId catchment;
    double area = not_given;
    double coefficient = not_given;
    double time = not_given;          ///< its own; not given: the catchment's
    double curve_number = not_given;  ///< CN
    double impervious = not_given;    ///< share
    double roughness = not_given;     ///< n of sheet flow
    double storage = not_given;       ///< depression storage, m
    CoverDrains drains = CoverDrains::Away;
    std::vector<Point> outline;  ///< where it was drawn, or cut from a layer
    std::string source;
};

/// The way water takes over the surface from a structure to the next; no target: it leaves the site there.
struct StreetPath : Row {
    std::string name;
    StructureId from, to;
    std::vector<Point> bends;
    std::string note;
};

/// In limits: the events it holds in.
enum class EventRole { Other, Minor, Major };

/// How an event's rain is given: intensities by duration, or a depth that falls by a pattern (core/model/event_rain.h).
enum class RainGiven { Intensities, Uniform, NrcsI, NrcsIA, NrcsII, NrcsIII, OwnPattern };
struct RainEvent : Row {
    std::string name;
    double return_period = not_given;  ///< years
    EventRole role = EventRole::Other;
    double frequency_factor = 1;
    std::vector<double> durations;    ///< s
    std::vector<double> intensities;  ///< m/s
    RainGiven given = RainGiven::Intensities;
    double depth = not_given;         ///< of the whole storm, m
    double storm_length = not_given;  ///< s; the NRCS patterns last 24 h
    std::vector<double>
        pattern_shares;  ///< of an own pattern: parts of the depth in equal steps; their sum is the whole
    std::vector<double> pattern_times;  ///< ends of those parts where they are not equally long, s; none: equal steps
};

/// One size of the catalogue.
struct PipeSize : Row {
    std::string material;
    Shape shape = Shape::Circular;
    double size = not_given;
    double width = not_given;
    double sides = 0;  ///< of a trapezoid
    double roughness = 0.013;
    double wall = 0.05;
};

/// What a value is held against. The order is that of `limit_names()`.
enum class LimitKind {
    LeastVelocity,
    MostVelocity,
    LeastSlope,
    MostSlope,
    LeastCover,
    MostDepth,
    MostFlowRatio,
    MostFilledDepth,
    MostSurcharge,
    LeastFreeboard,
    LeastDrop,
    LeastSize,
    MostSpread,         ///< width of water from the curb
    MostSpreadShare,    ///< of it, over the way to the crown
    LeastDryWidth,      ///< of one side of the street, crown to water
    MostStreetDepth,    ///< depth at the curb
    MostDepthVelocity,  ///< depth times velocity on the street
    MostStreetVelocity,
    MostStreetShear,  ///< on the bed of a ditch or the street's edge
};
constexpr std::size_t limit_count = static_cast<std::size_t>(LimitKind::MostStreetShear) + 1;

struct Limit : Row {
    LimitKind kind = LimitKind::LeastVelocity;
    double value = not_given;
    bool active = true;
    std::uint64_t element = 0;  ///< an exception for one structure or pipe; 0: for the project
    std::string source;
    std::string group;                    ///< an exception for all elements of a group; empty: for the project
    EventRole system = EventRole::Other;  ///< events it holds in: all; up to the minor system's; those beyond it
};

/// What meets at a structure when a design lays levels: inverts, the places at eight tenths of the height, centres, or
/// crowns. No outgoing invert is ever above an incoming one.
enum class Matching { Inverts, EightTenths, Centres, Crowns };
enum class VelocityFor { DesignFlow, FullFlow };
enum class CapacityBasis { Full, Peak };
enum class FloodedLevel { Rises, HeldAtRim };
/// Whether what an inlet lets pass runs on along its street path, or enters there all the same.
enum class InletFlow { AllEnters, Limited };
enum class LengthBasis { Centres, Outlines };
enum class GroundFor { FinishedThenExisting, Finished, Existing };

/// How water travels in pipes through time: later by its travel time, or as a kinematic wave.
enum class TravelBy { Lag, Kinematic };
/// How intensities by duration become a storm.
enum class StormBy { AlternatingBlocks, KeiferChu };

struct Settings : Row, GroundLosses {
    Settings() { losses = LossesBy::CurveNumber; }
    std::string title, place;
    UnitSystem system = UnitSystem::Si;
    std::string display;
    double least_time = 300;
    double uplift = 1;
    LossBy loss_by = LossBy::Coefficient;  ///< of structures that say nothing; never Project
    VelocityFor travel_velocity = VelocityFor::DesignFlow;
    bool hold_flow = true;
    CapacityBasis capacity_basis = CapacityBasis::Full;
    FloodedLevel flooded_level = FloodedLevel::Rises;
    double loss_inlet = 0.5, loss_manhole = 0.2, loss_joint = 0;
    double default_cover = 1.2, default_slope = 0.01, default_size = 0.3, default_rim = 100, default_drop = 0.03;
    double near_share = 0.1;
    std::string note;
    StructureKind default_kind = StructureKind::Inlet;
    std::string default_material, default_type;
    GroundFor level_surface = GroundFor::FinishedThenExisting;  ///< what gives a rim
    std::string name_pattern = "{branch}{number}", pipe_pattern = "{from}–{to}";
    double first_number = 1;
    LengthBasis length_basis = LengthBasis::Centres;
    std::string criteria;          ///< name and version of the criteria set that was loaded last
    std::string coordinates;       ///< coordinate system of the project, in words or as a code
    double excavation_price = 45;  ///< of one cubic metre, in the currency of the project
    double pipe_price = 300;       ///< of one metre of a pipe one metre wide, laid; in proportion to its size
    Matching matching = Matching::Inverts;
    double two_year_rain = not_given;  ///< P2, 2-year 24-hour depth of sheet flow, m
    Edition edition = Edition::Si;     ///< of the constants of the street equations
    InletFlow inlet_flow = InletFlow::Limited;
    bool gutter_time = true;                          ///< bypass arrives later by its way along the gutter
    bool partial_area = false;                        ///< the largest flow over the times of what arrives
    double bend_loss = 0;                             ///< K of each degree that a pipe turns along its way
    double expansion_loss = 0, contraction_loss = 0;  ///< of the change of velocity head at an inline joint
    RunoffBy runoff_by = RunoffBy::Rational;
    double curve_number = 80;       ///< of ground that says nothing
    double initial_share = 0.2;     ///< Ia / S
    double paved_storage = 0.0015;  ///< depression storage of paved ground, m
    double peak_factor = nrcs_peak_factor;
    double computing_step = 60, output_interval = 300;  ///< s
    double after_rain = not_given;  ///< s that are computed after the storm; not given: until the water has run off
    TravelBy travel_by = TravelBy::Lag;
    StormBy storm_by = StormBy::AlternatingBlocks;
    double storm_peak = 0.4;          ///< place of the peak of a storm after an equation
    double storm_length = not_given;  ///< s, of storms made of intensities; not given: the table's longest duration
    ReleaseCut release_cut = ReleaseCut::Flat;
    double least_freeboard = 0.3;        ///< of ponds, below their crest, m
    double most_drawdown = 72 * 3600.0;  ///< s, from the highest level of a pond until it is all but empty
};

/// K of a degree of curve (FHWA HEC-22, 3rd ed., sec. 7.1.6.3): what new projects take. Files that say nothing about
/// bends were made before they lost anything, and keep their answers.
constexpr double usual_bend_loss = 0.0033;

/// A surface of the ground. The triangulation is an immutable asset, known by its content's hash.
enum class SurfaceRole { Existing, Finished, Other };
struct Surface : Row {
    std::string name;
    SurfaceRole role = SurfaceRole::Existing;
    std::string asset, source;
    double least_depth = 0.05;  ///< depressions shallower than this are noise
    bool visible = true;
    std::string coordinates, note;
};

/// A drawing or a picture under the plan.
enum class BackgroundContent { Drawing, Picture };
struct Background : Row {
    std::string name;
    BackgroundContent content = BackgroundContent::Drawing;
    std::string asset, source;
    bool visible = true, dim = true;
    std::string hidden;           ///< layers that are off, separated by semicolons
    std::vector<double> placing;  ///< of a picture: the six numbers of its world file; of a drawing: its unit, m
    std::string coordinates, note;
};

struct Street : Row, StreetShape {
    std::string name;
    std::vector<Point> line;
    std::vector<double> stations, levels;  ///< its vertical profile; empty: from the finished surface
    double strip_width = 12;               ///< of the ground that drains to one curb when inlets are spaced, m
    double strip_coefficient = 0.7;
    std::vector<double> avoid;  ///< stations where no inlet may stand, in pairs: from, to
    bool flankers = false;      ///< low points have an inlet on either side of theirs
    std::string note;
};
/// Another section over a range of a street's stations.
struct StreetSection : Row, StreetShape {
    std::string name;
    StreetId street;
    double start = not_given, end = not_given;
};

/// A kind of structure as it is bought: its plan, its sump, its usual drop, its inlet.
enum class PlanShape { Round, Rectangular };
enum class InletKind { None, Grate, CurbOpening, Combination, Slotted, Area, Rated };
/// Bars of a grate; what they are is in core/streets/inlet.h, in this order after the first.
enum class GrateBars { Unknown, Bars48, Bars48x102, Bars29, CurvedVane, Tilted45, Tilted30, Reticuline };
struct StructureType : Row {
    std::string name;
    StructureKind kind = StructureKind::Manhole;
    PlanShape plan = PlanShape::Round;
    double length = 1.2;       ///< along the street; the diameter of a round one, inside
    double width = not_given;  ///< across the street
    double sump = 0;
    double drop = not_given;  ///< fall across it; not given: the project's
    double loss = not_given;
    InletKind inlet = InletKind::None;
    GrateBars grate = GrateBars::Unknown;
    double grate_length = not_given, grate_width = not_given;  ///< not given: length and width
    double splash_velocity = not_given;                        ///< not given: that of its bars, or never reached
    double open_share = not_given;                             ///< clear opening of a grate over its area
    double opening_length = not_given, opening_height = not_given;
    Throat throat = Throat::Horizontal;
    double depression = 0, depression_width = not_given;  ///< local, at the opening
    double slot_width = not_given;
    double clogging = 0;                                   ///< share that is taken for clogged
    std::vector<double> rating_approach, rating_captured;  ///< m3/s
    std::string inlet_source;                              ///< where these numbers are from
    Benching benching = Benching::Depressed;
    double price = not_given;        ///< of one, in the currency of the project
    double depth_price = not_given;  ///< of each metre of its depth more
};

/// A variant: changes over the base project that remember the values they saw; or a state that was issued.
enum class VariantRole { Variant, Issued };
struct Variant : Row {
    std::string name;
    VariantRole role = VariantRole::Variant;
    std::string changes;  ///< an Edit as text (docs/project-format.md); empty for an issued state
    std::string asset;    ///< the project that was issued
    std::string note;
};

/// What an outfall meets in one event, in place of its own tailwater.
struct OutfallLevel : Row {
    StructureId structure;
    EventId event;
    double level = not_given;
    std::string source;
};

/// How the space of a pond is given.
enum class StorageBy { Areas, Volumes, Basin, Tank, Pipes, Outline };
/// Water kept at a structure: its space by level. Any structure may have it.
struct Pond : Row {
    std::string name;
    StructureId structure;
    StorageBy storage_by = StorageBy::Areas;
    std::vector<double> levels, areas, volumes;  ///< rising; areas or volumes at them
    BetweenLevels between = BetweenLevels::Linear;
    double bottom = not_given;                     ///< level of a basin, a tank, pipes, an outline
    double length = not_given, width = not_given;  ///< of its bottom; of pipes their length
    double sides = 3;                              ///< run over rise, of a basin or an outline
    double depth = not_given;                      ///< up to where the curve reaches
    double diameter = not_given, count = 1;        ///< of pipes side by side
    double voids = 1;                              ///< share of the space that holds water
    double crest = not_given;                      ///< top of its bank, m; not given: the structure's rim
    double start_level = not_given;                ///< water that stands in it before the rain; not given: empty
    double soakage = 0;                            ///< into the ground through its wetted area, m/s
    double forebay = not_given;                    ///< share of its volume that is set apart for sediment
    std::vector<Point> outline;                    ///< of its bottom
    std::string note;
};
/// A way out of stored water.
enum class OutletKind {
    CircularOrifice,
    BoxOrifice,
    SharpWeir,
    BroadWeir,
    Notch,
    Cipolletti,
    Riser,
    Grate,
    Culvert,
    Pump,
    Rating
};
/// Entrances of culverts, in the order of core/detention/culvert.h.
enum class CulvertEntrance {
    CircularHeadwall,
    CircularGroove,
    CircularGrooveProjecting,
    MetalHeadwall,
    MetalMitered,
    MetalProjecting,
    BoxFlared,
    BoxHeadwall,
    BoxStraight
};
struct PondOutlet : Row {
    std::string name;
    StructureId structure;  ///< whose water leaves by it
    StructureId to;         ///< where it goes; none: it leaves the site
    OutletKind kind = OutletKind::CircularOrifice;
    double level = not_given;        ///< lowest point of an opening, crest of a weir, rim of a riser, start of a pump
    double size = not_given;         ///< diameter, or height of an opening
    double width = not_given;        ///< of an opening, or length of a crest; other side of a riser or grate
    double angle = 90;               ///< of a notch, degrees
    double coefficient = not_given;  ///< not given: the usual one of its kind
    double count = 1;                ///< alike, side by side
    double contractions = 0;         ///< ends of a sharp crest at which the jet is drawn in: 0, 1, 2
    double length = not_given, slope = not_given;  ///< of a culvert
    double roughness = 0.013;
    CulvertEntrance entrance = CulvertEntrance::CircularHeadwall;
    double stop_level = not_given;  ///< of a pump
    double pump_flow = not_given;   ///< m3/s
    std::vector<double> rating_levels, rating_flows;
    std::string behind;     ///< name of the outlet of the same pond through which its water then runs: in series
    bool overflow = false;  ///< for rare events alone
    double open_share = 1;  ///< what of its opening is not taken for clogged
    std::string note;
};
/// What may leave at a structure in an event: given, or found from the state before building.
struct Release : Row {
    StructureId structure;
    EventId event;
    double flow = not_given;       ///< m3/s
    double area_rate = not_given;  ///< in place of it: flow of a hectare of what drains there, m3/s per m2
    std::string source;
};

/// A finding that somebody has looked at and accepted with a reason. It holds while the value is no worse than it was.
struct AcceptedFinding : Row {
    std::string finding;  ///< rule's words, as findings are titled
    std::uint64_t element = 0;
    EventId event;             ///< none: a fault of the data
    double value = not_given;  ///< what was accepted, in the rule's SI unit
    std::string reason, by, date;
};
/// How a finding is ranked in this project, in place of its usual severity.
enum class RankedAs { Error, Warning, Note, Off };
struct FindingRank : Row {
    std::string finding;  ///< rule's words
    RankedAs rank = RankedAs::Warning;
    std::string source;
};

/// A run whose profile is kept by name: from one structure down to another.
struct ProfileRun : Row {
    std::string name;
    StructureId from, to;
    std::string note;
};

/// Another line under ground, that pipes must keep clear of.
enum class LineKind { Storm, Water, Gas, Sewer, Electricity, Communication, Heat, Duct, Other };
enum class LevelOf { Top, Centre, Bottom };
struct BuriedLine : Row {
    std::string name;
    LineKind kind = LineKind::Water;
    std::vector<Point> line;
    std::vector<double> levels;  ///< one for each point, or one for all
    LevelOf level_of = LevelOf::Top;
    double size = 0.15;  ///< outside diameter, m
    Status status = Status::Existing;
    std::string source, note;
};
/// What lies between a pipe of the project and another line.
struct Clearance : Row {
    LineKind kind = LineKind::Other;  ///< of the other line; storm: pipes of the project against each other
    double vertical = not_given;      ///< outside to outside where they cross, m
    double horizontal = not_given;    ///< outside to outside where they run beside each other, m
    std::string source;
};

}  // namespace culvert
