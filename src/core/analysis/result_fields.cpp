// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/result_fields.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

using At = std::size_t;
const Link& link(const EventResult& r, At i) { return nth(r.network->links, i); }
const Node& node(const EventResult& r, At i) { return nth(r.network->nodes, i); }
const LinkFlow& flow(const EventResult& r, At i) { return nth(r.links, i).flow; }
const LinkLevel& level(const EventResult& r, At i) { return nth(r.links, i).level; }
double top(const EventResult& r, At i) { return height(link(r, i).section); }
/// Flow of the structure that the water of a link comes from.
const NodeFlow& start(const EventResult& r, At i) {
    return nth(r.nodes, flow(r, i).against ? link(r, i).to : link(r, i).from).flow;
}
/// A number of what may not be there.
template <class T>
double member(const T* of, double T::*number) {
    return of ? of->*number : not_given;
}
/// Water on the street at a node's inlet; null where it has none.
const StreetFlow* street(const EventResult& r, At i) {
    return node(r, i).inlet == no_inlet ? nullptr : &nth(r.streets, node(r, i).inlet);
}
double to_crown(const EventResult& r, At i) {
    const auto* c = std::get_if<CompositeSection>(&nth(r.network->inlets, node(r, i).inlet).gutter.section);
    return c ? c->to_crown : not_given;
}
/// Ground to the outside of the crown.
double cover(const EventResult& r, At i, int node, double invert) {
    return nth(r.network->nodes, node).rim - invert - top(r, i) - link(r, i).wall;
}
}  // namespace

double filled_depth(const EventResult& r, At i) {
    return std::isnan(flow(r, i).normal) ? 1 : flow(r, i).normal / top(r, i);
}
double cover_up(const EventResult& r, At i) { return cover(r, i, link(r, i).from, link(r, i).invert_up); }
double cover_down(const EventResult& r, At i) { return cover(r, i, link(r, i).to, link(r, i).invert_down); }
double freeboard(const EventResult& r, At i) { return node(r, i).rim - nth(r.nodes, i).level.level; }
double lowest_out(const EventResult& r, At i) {
    const Node& n = node(r, i);
    double low = not_given;
    for (int l = n.out; l != no_link && l < n.link_end; ++l) low = std::fmin(low, nth(r.network->links, l).invert_up);
    return low;
}

namespace {

using R = const EventResult&;
constexpr Quantity Length = Quantity::Length, Level = Quantity::Level, Ratio = Quantity::Ratio;

double residence(R r, At i) {
    const LinkLevel& l = level(r, i);
    const double q = flow(r, i).flow / link(r, i).barrels;
    if (!(q > 1e-12) || std::isnan(l.head_up)) return not_given;
    const auto area = [&](double head) { return wetted(link(r, i).section, head).area; };
    return (area(l.head_up) + area(l.head_down)) / 2 * link(r, i).length / q;
}

std::vector<ResultField> links() {
    constexpr ResultOn on = ResultOn::Link;
    return {
        {"size", "Height", "size", Quantity::Size, on, Stage::Pipes, in_table | in_profile,
         [](R r, At i) { return top(r, i); }, "Height of the section"},
        {"length", "Length", "length", Length, on, Stage::Layout, in_ledger | in_table,
         [](R r, At i) { return link(r, i).length; }, "Length the water runs"},
        {"slope",
         "Slope",
         "slope",
         Quantity::Slope,
         on,
         Stage::Pipes,
         in_ledger | in_table | in_profile | in_tip,
         [](R r, At i) { return link(r, i).slope; },
         "Fall of the invert over the length, towards the outfall",
         {{0.003, 0.01, 0.05}}},
        {"effective_area", "Effective area", "CA", Quantity::Area, on, Stage::Areas, 0,
         [](R r, At i) { return flow(r, i).effective_area; }, "Sum of C × Cf × A that drains through it"},
        {"known_flow", "Known flow", "Qk", Quantity::Flow, on, Stage::Areas, 0,
         [](R r, At i) { return flow(r, i).known_flow; }, "Sum of the known flows that it carries"},
        {"time_of_concentration", "Tc", "Tc", Quantity::Duration, on, Stage::Areas, in_table,
         [](R r, At i) { return start(r, i).time; }, "Longest time of travel to its start"},
        {"intensity", "Intensity", "i", Quantity::Intensity, on, Stage::Rain, in_table,
         [](R r, At i) { return start(r, i).intensity; }, "Of the rain at that time"},
        {"flow", "Flow", "flow", Quantity::Flow, on, Stage::Pipes, in_ledger | in_table | in_profile | in_tip,
         [](R r, At i) { return flow(r, i).flow; }, "Design flow of the viewed event"},
        {"capacity", "Capacity", "capacity", Quantity::Flow, on, Stage::Pipes, in_ledger | in_table | in_tip,
         [](R r, At i) { return link(r, i).capacity; }, "Full-flow capacity at its slope"},
        {"flow_ratio",
         "Flow ratio",
         "ratio",
         Ratio,
         on,
         Stage::Pipes,
         in_ledger | in_table,
         [](R r, At i) { return link(r, i).capacity > 0 ? flow(r, i).flow / link(r, i).capacity : not_given; },
         "Flow over capacity",
         {{0.5, 0.8, 1.0}}},
        {"velocity",
         "Velocity",
         "velocity",
         Quantity::Velocity,
         on,
         Stage::Pipes,
         in_ledger | in_table | in_profile,
         [](R r, At i) { return flow(r, i).velocity; },
         "At normal depth, or of the full section",
         {{0.75, 1.5, 3.0}}},
        {"normal_depth", "Normal depth", "yn", Length, on, Stage::Pipes, 0, [](R r, At i) { return flow(r, i).normal; },
         "Depth of uniform flow; none where the pipe runs full"},
        {"filled_depth",
         "Filled depth",
         "filled",
         Ratio,
         on,
         Stage::Pipes,
         in_table,
         filled_depth,
         "Normal depth over height; 1 where it runs full",
         {{0.4, 0.7, 0.94}}},
        {"hgl_up", "HGL up", "HGL up", Level, on, Stage::Levels, in_ledger | in_table,
         [](R r, At i) { return link(r, i).invert_up + level(r, i).head_up; }, "Grade line at its upper end"},
        {"hgl_down", "HGL down", "HGL down", Level, on, Stage::Levels, in_ledger | in_table,
         [](R r, At i) { return link(r, i).invert_down + level(r, i).head_down; }, "Grade line at its lower end"},
        {"surcharge",
         "HGL to crown",
         "to crown",
         Length,
         on,
         Stage::Levels,
         in_table,
         [](R r, At i) { return std::max(level(r, i).head_up, level(r, i).head_down) - top(r, i); },
         "Grade line less crown at the end where it is highest",
         {{-0.1, 0.0, 0.5}}},
        {"cover_up", "Cover up", "cover up", Length, on, Stage::Layout, in_ledger, cover_up,
         "Rim to the outside of the crown"},
        {"cover_down", "Cover down", "cover down", Length, on, Stage::Layout, in_ledger, cover_down,
         "Rim to the outside of the crown"},
        {"full_length", "Runs full", "full", Length, on, Stage::Levels, 0,
         [](R r, At i) { return level(r, i).full_length; }, "Length that runs full"},
        {"jump_at", "Jump at", "jump", Length, on, Stage::Levels, 0,
         [](R r, At i) {
             const double at = level(r, i).jump;
             return at > 0 && at < link(r, i).length ? at : not_given;
         },
         "Distance of the hydraulic jump from the entrance"},
        {"residence", "Residence time", "residence", Quantity::Duration, on, Stage::Levels, 0, residence,
         "Water in the pipe (mean of the wetted areas of its ends, times its length) over its flow"},
    };
}

bool receives(R r, At i) { return node(r, i).channel != none_of_list; }

std::vector<ResultField> nodes() {
    constexpr ResultOn on = ResultOn::Node;
    return {
        {"rim", "Rim", "rim", Level, on, Stage::Layout, in_table, [](R r, At i) { return node(r, i).rim; },
         "Finished level at the structure"},
        {"invert", "Lowest invert out", "invert", Level, on, Stage::Layout, in_table, lowest_out,
         "Of the pipes that leave it"},
        {"hgl", "HGL", "HGL", Level, on, Stage::Levels, in_ledger | in_table | in_tip,
         [](R r, At i) { return nth(r.nodes, i).level.level; }, "Water level in the structure"},
        {"egl", "EGL", "EGL", Level, on, Stage::Levels, in_table,
         [](R r, At i) { return nth(r.nodes, i).level.energy; }, "Energy grade line at the structure"},
        {"freeboard",
         "Freeboard",
         "freeboard",
         Length,
         on,
         Stage::Levels,
         in_ledger | in_table | in_tip,
         freeboard,
         "Rim less HGL",
         {{0.0, 0.3, 1.0}, false}},
        {"time_of_concentration", "Tc", "Tc", Quantity::Duration, on, Stage::Areas, in_ledger,
         [](R r, At i) { return nth(r.nodes, i).flow.time; }, "Longest time of travel to it"},
        {"intensity", "Intensity", "i", Quantity::Intensity, on, Stage::Rain, 0,
         [](R r, At i) { return nth(r.nodes, i).flow.intensity; }, "Of the rain at that time"},
        {"flow", "Flow", "flow", Quantity::Flow, on, Stage::Pipes, in_ledger,
         [](R r, At i) { return nth(r.nodes, i).flow.flow; }, "Flow that leaves it by all its ways"},
        {"depth", "Depth", "depth", Length, on, Stage::Layout, in_ledger,
         [](R r, At i) { return node(r, i).rim - lowest_out(r, i) + node(r, i).sump; },
         "Rim less the bottom: lowest invert less sump"},
        {"approach", "Approach", "approach", Quantity::Flow, on, Stage::Streets, in_ledger | in_table,
         [](R r, At i) { return member(street(r, i), &StreetFlow::flow); },
         "Flow that comes to the inlet along the curb"},
        {"captured", "Captured", "captured", Quantity::Flow, on, Stage::Streets, in_ledger | in_table,
         [](R r, At i) { return member(street(r, i), &StreetFlow::captured); }, "Flow that the inlet takes"},
        {"bypass", "Bypass", "bypass", Quantity::Flow, on, Stage::Streets, in_ledger | in_table,
         [](R r, At i) { return member(street(r, i), &StreetFlow::bypass); },
         "Flow that passes the inlet, or spills on from a sag"},
        {"captured_share",
         "Share taken",
         "share",
         Ratio,
         on,
         Stage::Streets,
         in_ledger,
         [](R r, At i) { return member(street(r, i), &StreetFlow::efficiency); },
         "Captured flow over approaching flow",
         {{0.5, 0.7, 0.9}, false}},
        {"spread", "Spread", "spread", Length, on, Stage::Streets, in_ledger | in_table | in_tip,
         [](R r, At i) { return member(street(r, i), &StreetFlow::spread); }, "Width of water from the curb"},
        {"spread_share",
         "Spread share",
         "of side",
         Ratio,
         on,
         Stage::Streets,
         0,
         [](R r, At i) { return street(r, i) ? street(r, i)->spread / to_crown(r, i) : not_given; },
         "Spread over the way from the curb to the crown",
         {{0.25, 0.5, 0.9}}},
        {"dry_width", "Dry width", "dry", Length, on, Stage::Streets, in_ledger,
         [](R r, At i) { return street(r, i) ? to_crown(r, i) - street(r, i)->spread : not_given; },
         "What of one side of the street stays dry"},
        {"street_depth", "Depth at curb", "at curb", Length, on, Stage::Streets, in_ledger,
         [](R r, At i) { return member(street(r, i), &StreetFlow::depth); }, "Of the water on the street"},
        {"street_velocity", "Street velocity", "street v", Quantity::Velocity, on, Stage::Streets, 0,
         [](R r, At i) { return member(street(r, i), &StreetFlow::velocity); },
         "Of the water that comes along the curb; 0 in a sag"},
        {"depth_velocity", "Depth x velocity", "d x v", Quantity::DepthVelocity, on, Stage::Streets, 0,
         [](R r, At i) { return street(r, i) ? street(r, i)->depth * street(r, i)->velocity : not_given; },
         "What tells whether people stay on their feet in it"},
        {"street_time", "Street Tc", "street Tc", Quantity::Duration, on, Stage::Streets, 0,
         [](R r, At i) { return member(street(r, i), &StreetFlow::time); }, "Longest time of what comes to the inlet"},
        {"channel_depth", "Channel depth", "channel y", Length, on, Stage::Levels, 0,
         [](R r, At i) { return receives(r, i) ? receiving(r, i).depth : not_given; },
         "Uniform depth in the channel below the outfall"},
        {"channel_velocity", "Channel velocity", "channel v", Quantity::Velocity, on, Stage::Levels, 0,
         [](R r, At i) { return receives(r, i) ? receiving(r, i).velocity : not_given; },
         "In the channel below the outfall"},
        {"channel_shear", "Channel shear", "channel shear", Quantity::Stress, on, Stage::Levels, 0,
         [](R r, At i) { return receives(r, i) ? receiving(r, i).shear : not_given; },
         "On the bed of the channel below the outfall"},
        {"peak_time", "Peak at", "peak at", Quantity::Duration, on, Stage::Storage, 0,
         [](R r, At i) { return nth(r.nodes, i).flow.peak_time; },
         "Time of the largest flow, from the beginning of the rain"},
        {"volume", "Volume", "volume", Quantity::Volume, on, Stage::Storage, in_table,
         [](R r, At i) { return r.network->through_time ? nth(r.nodes, i).flow.volume : not_given; },
         "Water that arrives in the whole event"},
        {"pond_inflow", "Peak in", "peak in", Quantity::Flow, on, Stage::Storage, in_ledger | in_table,
         [](R r, At i) { return member(pond_at(r, i), &PondSummary::peak_inflow); },
         "Largest flow into the pond, mean of a computing step"},
        {"pond_outflow", "Peak out", "peak out", Quantity::Flow, on, Stage::Storage, in_ledger | in_table | in_tip,
         [](R r, At i) { return member(pond_at(r, i), &PondSummary::peak_outflow); },
         "Largest flow out of the pond by all its ways"},
        {"pond_level", "Highest level", "level", Level, on, Stage::Storage, in_ledger | in_table | in_tip,
         [](R r, At i) { return member(pond_at(r, i), &PondSummary::level); }, "Of the water in the pond"},
        {"pond_stored", "Most stored", "stored", Quantity::Volume, on, Stage::Storage, in_ledger | in_table,
         [](R r, At i) { return member(pond_at(r, i), &PondSummary::stored); },
         "Above what stood in the pond before the rain"},
        {"pond_freeboard",
         "Pond freeboard",
         "freeboard",
         Length,
         on,
         Stage::Storage,
         in_ledger | in_table,
         [](R r, At i) { return pond_at(r, i) ? pond_node_at(r, i)->crest - pond_at(r, i)->level : not_given; },
         "Crest of the bank less the highest level",
         {{0.0, 0.3, 0.6}, false}},
        {"drawdown", "Drawdown", "drawdown", Quantity::Duration, on, Stage::Storage, in_ledger,
         [](R r, At i) { return member(pond_at(r, i), &PondSummary::drawdown); },
         "From the highest level until a tenth of the water is left"},
        {"allowed", "Allowed release", "allowed", Quantity::Flow, on, Stage::Storage, in_ledger | in_table,
         allowed_release, "What may leave here in the event"},
        {"release_ratio",
         "Of allowed",
         "of allowed",
         Ratio,
         on,
         Stage::Storage,
         in_ledger,
         [](R r, At i) { return released(r, i) / allowed_release(r, i); },
         "Largest flow that leaves over the allowed one",
         {{0.8, 0.95, 1.0}}},
    };
}

const RunoffSummary& runoff(const EventResult& r, At i) { return nth(r.runoffs, i); }
const RunoffArea& ground(const EventResult& r, At i) { return nth(r.network->through_time->areas, i); }

std::vector<ResultField> areas() {
    constexpr ResultOn on = ResultOn::Area;
    constexpr Quantity Depth = Quantity::RainDepth;
    return {
        {"tc", "Tc", "Tc", Quantity::Duration, on, Stage::Areas, in_table, [](R r, At i) { return ground(r, i).time; },
         "Time of concentration, least time applied"},
        {"rain", "Rain", "rain", Depth, on, Stage::Areas, in_ledger | in_table | in_tip,
         [](R r, At i) { return runoff(r, i).rain; }, "That falls on it in the event"},
        {"infiltrated", "Infiltrated", "infiltrated", Depth, on, Stage::Areas, in_ledger | in_table,
         [](R r, At i) { return runoff(r, i).infiltrated; }, "Rain that the ground takes"},
        {"held", "Held", "held", Depth, on, Stage::Areas, in_ledger | in_table,
         [](R r, At i) { return runoff(r, i).held; }, "Rain that stays in hollows and on leaves"},
        {"runoff", "Runoff", "runoff", Depth, on, Stage::Areas, in_ledger | in_table | in_tip,
         [](R r, At i) { return runoff(r, i).runoff; }, "Rain less what infiltrated and what is held"},
        {"runoff_share", "Runoff share", "share", Quantity::Ratio, on, Stage::Areas, in_ledger,
         [](R r, At i) { return runoff(r, i).rain > 0 ? runoff(r, i).runoff / runoff(r, i).rain : not_given; },
         "Runoff over rain in the event"},
        {"runoff_volume", "Runoff volume", "volume", Quantity::Volume, on, Stage::Areas, in_ledger | in_table,
         [](R r, At i) { return runoff(r, i).runoff * ground(r, i).area; }, "Runoff over its area"},
        {"peak", "Peak", "peak", Quantity::Flow, on, Stage::Areas, in_ledger | in_table | in_tip,
         [](R r, At i) { return runoff(r, i).peak; }, "Its own largest flow, mean of a computing step"},
        {"peak_time", "Peak at", "peak at", Quantity::Duration, on, Stage::Areas, in_ledger | in_table,
         [](R r, At i) { return runoff(r, i).peak_time; }, "Time of its largest flow, from the beginning of the rain"},
        {"peak_rate", "Peak of the area", "peak/area", Quantity::FlowPerArea, on, Stage::Areas, in_ledger,
         [](R r, At i) { return runoff(r, i).peak / ground(r, i).area; }, "Its largest flow over its area"},
    };
}

std::vector<ResultField>& catalogue(ResultOn on) {
    static std::vector<ResultField> of_links = links(), of_nodes = nodes(), of_areas = areas();
    return on == ResultOn::Link ? of_links : on == ResultOn::Node ? of_nodes : of_areas;
}

}  // namespace

int ResultClasses::of(double value) const {
    int k = 0;
    while (k < 3 && value > bounds[static_cast<std::size_t>(k)]) ++k;
    return more_is_worse ? k : 3 - k;
}

std::span<const ResultField> result_fields(ResultOn on) { return catalogue(on); }

const ResultField* result_field(ResultOn on, std::string_view key) {
    for (const ResultField& f : catalogue(on))
        if (f.key == key) return &f;
    return nullptr;
}

void add_result_field(const ResultField& field) { catalogue(field.on).push_back(field); }

const PondNode* pond_node_at(const EventResult& r, At i) {
    if (!r.network->through_time || r.ponds.empty()) return nullptr;
    const int p = r.network->through_time->pond_of[i];
    return p < 0 ? nullptr : &nth(r.network->through_time->ponds, p);
}
const PondSummary* pond_at(const EventResult& r, At i) {
    if (!r.network->through_time || r.ponds.empty()) return nullptr;
    const int p = r.network->through_time->pond_of[i];
    return p < 0 ? nullptr : &nth(r.ponds, p);
}
double allowed_release(const EventResult& r, At i) {
    for (const AllowedRelease& a : r.network->releases)
        if (a.node == static_cast<int>(i) && a.event == r.event) return a.flow;
    return not_given;
}
double released(const EventResult& r, At i) {
    const PondSummary* p = pond_at(r, i);
    return p ? p->peak_outflow : nth(r.nodes, i).flow.flow;
}

ChannelState receiving(const EventResult& r, std::size_t i) {
    const int at = nth(r.network->nodes, i).channel;
    if (at == none_of_list) return {};
    const Channel& c = nth(r.network->channels, at);
    return channel_flow({c.width, c.sides}, c.slope, c.roughness, nth(r.nodes, i).flow.flow);
}

ResultOn results_of(Kind kind) {
    return kind == Kind::Pipe ? ResultOn::Link : kind == Kind::Catchment ? ResultOn::Area : ResultOn::Node;
}

int result_index(const EventResult& r, ResultOn on, ElementRef element) {
    if (on == ResultOn::Link) return element.kind == Kind::Pipe ? r.network->link_of(PipeId{element.id}) : no_link;
    if (on == ResultOn::Node) return r.network->node_of(element);
    if (element.kind != Kind::Catchment || r.runoffs.empty()) return -1;
    const auto& list = r.network->through_time->by_catchment;
    const auto at = std::lower_bound(list.begin(), list.end(), std::pair{element.id, -1});
    return at != list.end() && at->first == element.id ? at->second : -1;
}

double result_at(const EventResult& r, const ResultField& field, ElementRef element) {
    const int at = result_index(r, field.on, element);
    return at < 0 ? not_given : field.value(r, static_cast<At>(at));
}

}  // namespace culvert
