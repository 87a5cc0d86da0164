// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/ids.h"
#include "core/network/network.h"

/// What a solve leaves behind: a fixed, small summary per node (structure), link (pipe) and event, in flat arrays.
namespace culvert {

/// Rational flow that leaves a structure by all its ways together.
struct NodeFlow {
    double effective_area = 0;     ///< sum of C Cf A upstream, m2
    double known_flow = 0;         ///< sum of known flows, m3/s
    double time = 0;               ///< Tc, s
    double intensity = 0;          ///< i(Tc), uplift included, m/s
    double plain_flow = 0;         ///< CA i + known flow, m3/s
    double flow = 0;               ///< design flow: the plain one, or the largest incoming one where that is held
    double partial_flow = 0;       ///< of a part that answers sooner, where that is more than the plain one; else 0
    double partial_time = 0;       ///< its time, s
    double volume = 0;             ///< through time: what arrives, m3
    double peak_time = not_given;  ///< through time: of the largest flow, s from the beginning of the rain
};

/// Water on the street at an inlet, by its number in Network::inlets.
struct StreetFlow {
    double own_area = 0, own_known = 0;         ///< C Cf A and known flow that reach it first, m2, m3/s
    double effective_area = 0, known_flow = 0;  ///< with what inlets above it let pass
    double time = 0, intensity = 0;             ///< of all that arrives, s, m/s
    double flow = 0;                            ///< approaching, m3/s
    double partial_time = 0;                    ///< of the part that governs, where one does; else 0
    double depth = 0, spread = 0;               ///< at the curb, and from it into the street, m
    double velocity = 0;                        ///< of the approaching water; 0 in a sag
    double captured = 0, bypass = 0;            ///< m3/s; their sum is the flow
    double efficiency = 1;                      ///< captured over approaching
    double over_crown = 0;                      ///< what this side of the street cannot carry, m3/s
    double travel = 0;                          ///< of the bypass to the next structure, s
    double along = 0;                           ///< through time: of the flow, what came along the street, m3/s
};
/// What enters a structure from the street.
struct StreetEntry {
    double area = 0, known_flow = 0;  ///< m2, m3/s
    double time = 0;                  ///< s
    bool inlet = false;               ///< in place of its own catchments and known flow; else beside them
    friend bool operator==(const StreetEntry&, const StreetEntry&) = default;
};

/// What a catchment makes of the rain, by its number in ThroughTime::areas.
struct RunoffSummary {
    double rain = 0, infiltrated = 0, held = 0, runoff = 0;  ///< depths over its area, m; rain is the sum of the others
    double peak = 0, peak_time = 0;                          ///< m3/s, s
};
/// A pond through an event, by its number in ThroughTime::ponds.
struct PondSummary {
    double peak_inflow = 0, peak_outflow = 0;            ///< m3/s
    double peak_inflow_time = 0, peak_outflow_time = 0;  ///< s
    double level = not_given, level_time = 0;            ///< highest, m, s
    double stored = 0;                                   ///< most, above what stood there before, m3
    double drawdown = not_given;  ///< s from the highest level until a tenth of it is left; NaN: not within the time
    double inflow_volume = 0, outflow_volume = 0, soaked = 0, left = 0;  ///< m3; left: at the end, above the beginning
    double above_curve = 0;                      ///< m that the highest level stands above the top of its curve
    bool settled = true;                         ///< the levels of what it runs into agree with what runs there
    std::vector<double> way_peaks, way_volumes;  ///< by way
};
/// Water of an event, m3: what came is what left, soaked away or is still there.
struct WaterBalance {
    double rain = 0, lost = 0;  ///< on all catchments; of it infiltrated and held
    double runoff = 0, known = 0;
    double left = 0;    ///< by outfalls and off the site
    double soaked = 0;  ///< from ponds into the ground
    double stored = 0;  ///< more in ponds and pipes at the end than at the beginning
    double cut = 0;     ///< still on its way when the time ended
    [[nodiscard]] double error() const { return runoff + known - left - soaked - stored - cut; }
};

/// What of it a pipe carries.
struct LinkFlow {
    double effective_area = 0, known_flow = 0;  ///< its share
    double flow = 0;                            ///< m3/s, never negative
    double normal = 0;                          ///< normal depth of the flow, m; NaN where there is none
    double velocity = 0;                        ///< at normal depth, or of the full section, m/s
    double travel = 0;                          ///< time through the pipe, s
    bool against = false;                       ///< the water runs from `to` to `from`
};

enum class Control : std::uint8_t {
    Downstream,  ///< the level at its downstream end reaches its upstream end
    Uniform,     ///< runs at normal depth at its upstream end: what stands below is not felt
    Entrance,    ///< critical depth at its entrance (steep)
    Arriving     ///< fast water arrives through an inline joint
};

struct NodeLevel {
    double level = not_given;   ///< HGL in the structure, m
    double energy = not_given;  ///< EGL at the structure, m
    bool held = false;          ///< level held at the rim
};

/// Grade line of a pipe. Heads are above the pipe's invert at that end; above the pipe's height they are pressure
/// heads. `up` and `down` are as the link is listed; where the water runs against that, the grade line falls towards
/// `up`.
struct LinkLevel {
    double head_up = not_given, head_down = not_given;
    double velocity_up = 0, velocity_down = 0;
    double fast_up = not_given;    ///< depth of fast water at the entrance; NaN where none enters
    double slow_down = not_given;  ///< depth at the downstream end of the curve controlled from there
    double critical = 0;           ///< critical depth, m
    double reach = 0;              ///< how far the curve controlled from downstream reaches up from there, m
    double jump = 0;               ///< end of the fast reach, m from the entrance; the length: fast throughout; 0: none
    double full_length = 0;        ///< length running full, m
    double bends = 0;              ///< loss at its bends, m; it stands in the level of the structure above
    Control control = Control::Downstream;
    bool free_end = false;  ///< the downstream level does not reach the pipe's end
    bool steep = false;
};

struct NodeResult {
    NodeFlow flow;
    NodeLevel level;
};
struct LinkResult {
    LinkFlow flow;
    LinkLevel level;
};

/// A link whose level at the node it leaves is not that of the node's other ways: no steady balance was found.
struct Unbalanced {
    int link = no_link;
    double difference = 0;  ///< m, by which it needs more, or has more than it would need to run
};
/// What an outfall meets in the event: its own tailwater, or that of the event.
struct Tail {
    int node = no_node;
    Tailwater kind = Tailwater::Free;
    double level = not_given;  ///< of Rating: by the flow that leaves there
    /// Whether it is a water level, whatever the pipe brings.
    [[nodiscard]] bool stands() const {
        return (kind == Tailwater::Level || kind == Tailwater::Rating) && level == level;
    }
    friend bool operator==(const Tail&, const Tail&) = default;
};
/// Summaries of one event over one network, while they are computed and after.
struct Summaries {
    std::vector<NodeResult> nodes;
    std::vector<LinkResult> links;
    std::vector<Unbalanced> unbalanced;  ///< by link; empty in trees
    std::vector<StreetFlow> streets;     ///< by inlet
    std::vector<StreetEntry> entries;    ///< by node; empty where the network has no inlets
    std::vector<Tail> tails;             ///< of all outfalls, by node
    std::vector<RunoffSummary> runoffs;  ///< by catchment; empty without hydrographs, as what follows
    std::vector<PondSummary> ponds;      ///< by pond
    WaterBalance balance;
    /// Of an outfall; a free one for any other node.
    [[nodiscard]] Tail tail_of(int node) const;
    explicit Summaries(const Network& network)
        : nodes(network.nodes.size()),
          links(network.links.size()),
          streets(network.inlets.size()),
          entries(network.inlets.empty() ? 0 : network.nodes.size()) {}
    Summaries() = default;
};

/// Where the results of a set come from. Sets are never mixed: what was observed is not averaged with what was
/// computed.
enum class ResultSource : std::uint8_t { Steady, ThroughTime, Imported, Observed };
std::string_view source_name(ResultSource source);

/// What a set of results is of.
struct ResultSet {
    ResultSource source = ResultSource::Steady;
    std::int64_t date = 0;  ///< when it was computed or read, s since 1970
    EventId event;
};

/// Values of one result of one chosen element through time, in steps of equal length.
struct Series {
    ElementRef element;
    std::string key;             ///< of its ResultField
    double start = 0, step = 0;  ///< s
    std::vector<double> values;  ///< SI
};

struct FlowMemory;

/// One event solved over one compiled network. Every source fills the same summaries; review reads only those.
struct EventResult : Summaries, ResultSet {
    std::shared_ptr<const Network> network;
    std::uint64_t revision = 0;  ///< of the project it was solved for
    std::size_t recomputed = 0;  ///< pipes whose grade line was computed anew, the others were still true

    /// The link by which most of a node's water leaves it: its main one in a tree; no_link where none leads on.
    [[nodiscard]] int way_on(int node) const;

    std::shared_ptr<const FlowMemory> flows;  ///< what computing through time left for the next edit; else null

    /// Of chosen elements only, where the source goes through time; the steady one has none.
    std::vector<Series> series;
    [[nodiscard]] const Series* series_of(ElementRef element, std::string_view key) const;
};

}  // namespace culvert
