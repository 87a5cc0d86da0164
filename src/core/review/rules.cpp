// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/review/rules.h"
#include "core/network/through_time.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/grade_line.h"
#include "core/hydraulics/uniform_flow.h"

namespace culvert {

Entering::Entering(const Network& net) : least_invert(net.nodes.size(), not_given), largest_size(net.nodes.size(), 0) {
    for (const Link& l : net.links) {
        if (!l.main) continue;  // what closes a ring enters at one end as well as it leaves at the other
        double& invert = nth(least_invert, l.to);
        if (std::isnan(invert) || l.invert_down < invert) invert = l.invert_down;
        nth(largest_size, l.to) = std::max(nth(largest_size, l.to), height(l.section));
    }
}

namespace {

const LinkResult& result(const Subject& s) { return nth(s.result.links, s.index); }
double flow(const Subject& s) { return result(s).flow.flow; }
constexpr HeldValue not_asked{not_given, 0, not_given, false};
/// A dry pipe is not asked for its velocity or filling.
HeldValue where_it_flows(const Subject& s, double value) { return flow(s) > 1e-12 ? HeldValue{value} : not_asked; }
/// A node with a way on: an outfall has no rim to be held.
HeldValue where_it_leaves(const Subject& s, double value, double place = not_given) {
    return s.node().out == no_link ? not_asked : HeldValue{value, 0, place};
}
bool is_joined(const Subject& s) {
    const Link& l = s.link();
    return s.entering && l.main && nth(s.result.network->nodes, l.from).inflows > 0;
}

HeldValue flow_ratio(const Subject& s) {
    const Link& l = s.link();
    return where_it_flows(
        s, l.capacity > 0 && !result(s).flow.against ? flow(s) / l.capacity : std::numeric_limits<double>::infinity());
}
HeldValue surcharge(const Subject& s) {
    const Link& l = s.link();
    const double top = height(l.section), up = result(s).level.head_up - top, down = result(s).level.head_down - top;
    return {std::max(up, down), top, top + (down > up ? l.invert_down : l.invert_up)};
}
/// The rim of an outfall is often not given: cover is then judged at the upper end alone.
HeldValue least_cover(const Subject& s) {
    if (is_open(s.link().section)) return not_asked;  // it lies open
    const bool outfall = nth(s.result.network->nodes, s.link().to).kind == StructureKind::Outfall;
    return {std::fmin(cover_up(s.result, s.index), outfall ? not_given : cover_down(s.result, s.index))};
}
HeldValue drop(const Subject& s) {
    const Link& l = s.link();
    if (!is_joined(s) || nth(s.result.network->nodes, l.from).kind == StructureKind::Joint) return not_asked;
    return {nth(s.entering->least_invert, l.from) - l.invert_up};
}
HeldValue size_below(const Subject& s) { return is_joined(s) ? HeldValue{height(s.link().section)} : not_asked; }

/// The water on the street at a node's inlet; none where it has no inlet.
const StreetFlow* street(const Subject& s) {
    const int inlet = s.node().inlet;
    return inlet == no_inlet ? nullptr : &nth(s.result.streets, inlet);
}
const StreetInlet& inlet(const Subject& s) { return nth(s.result.network->inlets, s.node().inlet); }
HeldValue on_street(const Subject& s, double (*value)(const StreetInlet&, const StreetFlow&)) {
    const StreetFlow* f = street(s);
    return f && f->flow > 1e-12 ? HeldValue{value(inlet(s), *f)} : not_asked;
}
const Channel* channel(const Subject& s) {
    const int at = s.node().channel;
    return at == none_of_list ? nullptr : &nth(s.result.network->channels, at);
}
HeldValue on_channel(const Subject& s, double value) {
    const Channel* c = channel(s);
    return c && nth(s.result.nodes, s.index).flow.flow > 1e-12 ? HeldValue{value} : not_asked;
}
double to_crown(const StreetInlet& in) {
    const auto* c = std::get_if<CompositeSection>(&in.gutter.section);
    return c ? c->to_crown : not_given;
}

HeldValue in_pond(const Subject& s, double (*value)(const PondNode&, const PondSummary&)) {
    const PondSummary* p = pond_at(s.result, s.index);
    return p ? HeldValue{value(*pond_node_at(s.result, s.index), *p)} : not_asked;
}
const ThroughTime& through(const Subject& s) { return *s.result.network->through_time; }

/// Through time all of a structure's water takes its main way. Where another way of it leads to a pond, or to an
/// outfall, before both meet, what stands there gets another hydrograph than it should.
/// @param other  a way beside the tree that carries water
bool parts_before_pond(const Network& network, const Link& other, bool against) {
    int main = nth(network.nodes, against ? other.to : other.from).down, far = against ? other.from : other.to;
    while (main != far && main != no_node) {
        int& upper = main < far ? main : far;  // ways lead to later nodes only
        const int next = nth(network.nodes, upper).down;
        if (nth(network.through_time->pond_of, upper) >= 0 || next == no_node) return true;
        upper = next;
    }
    return main == no_node;
}

std::string level_words(const UnitSet& u, const Check& c, const char* place) {
    return "HGL " + u.text(c.place + c.value, Quantity::Level) + ", " + place + " " + u.text(c.place, Quantity::Level) +
           ": ";
}

std::vector<RuleInfo> built_in() {
    using Q = Quantity;
    constexpr ResultOn link = ResultOn::Link, node = ResultOn::Node;
    const auto pipe_word = [](const UnitSet& u, const Project&, const EventResult& r, const Finding& f) {
        const Link& l = nth(r.network->links, f.index);
        const std::string flow = "flow " + u.text(nth(r.links, f.index).flow.flow, Q::Flow);
        if (!(l.capacity > 0)) return flow + ", but no full-flow capacity: the slope is " + u.text(l.slope, Q::Slope);
        return flow + ", capacity " + u.text(l.capacity, Q::Flow) + ": ratio " + u.number(f.check.value, Q::Ratio) +
               ", allowed " + u.number(f.check.limit, Q::Ratio);
    };
    const auto crown_word = [](const UnitSet& u, const Project&, const EventResult&, const Finding& f) {
        const Check& c = f.check;
        return level_words(u, c, "crown") + u.text(std::abs(c.value), c.quantity) +
               (c.value > 0 ? " above" : " below") + (c.limit != 0 ? ", allowed " + u.text(c.limit, c.quantity) : "");
    };
    const auto freeboard_word = [](const UnitSet& u, const Project&, const EventResult&, const Finding& f) {
        const Check& c = f.check;
        return "HGL " + u.text(c.place - c.value, Q::Level) + ", rim " + u.text(c.place, Q::Level) + ": freeboard " +
               u.text(c.value, c.quantity) + ", at least " + u.text(c.limit, c.quantity);
    };
    const auto flood_word = [](const UnitSet& u, const Project&, const EventResult& r, const Finding& f) {
        return level_words(u, f.check, "rim") + u.text(f.check.value, f.check.quantity) + " above the rim" +
               (nth(r.nodes, f.index).level.held ? " (held at the rim)" : "");
    };
    const auto size_word = [](const UnitSet& u, const Project& project, const EventResult& r, const Finding& f) {
        const Node& n = nth(r.network->nodes, nth(r.network->links, f.index).from);
        return "size " + u.text(f.check.value, Q::Size) + " below a pipe of " + u.text(f.check.limit, Q::Size) +
               " that enters " + element_name(project, Kind::Structure, n.structure.value);
    };
    const auto drop_word = [](const UnitSet& u, const Project&, const EventResult&, const Finding& f) {
        const Check& c = f.check;
        return "starts " + u.text(std::abs(c.value), c.quantity) + (c.value < 0 ? " above" : " below") +
               " the lowest invert that enters, drop at least " + u.text(c.limit, c.quantity);
    };
    const auto unsolved_word = [](const UnitSet&, const Project&, const EventResult&, const Finding&) {
        return std::string("it cannot be solved: see the fault of its data");
    };
    const auto stays_word = [](const UnitSet& u, const Project&, const EventResult&, const Finding& f) {
        return u.text(f.check.value, Q::Flow) +
               " pass the inlet, but no street path leads on: they stay in the pipe below it";
    };
    const auto leaves_word = [](const UnitSet& u, const Project&, const EventResult&, const Finding& f) {
        return u.text(f.check.value, Q::Flow) + " pass the inlet and leave the site";
    };
    const auto crown_over_word = [](const UnitSet& u, const Project&, const EventResult&, const Finding& f) {
        return u.text(f.check.value, Q::Flow) + " run over the crown to the other side of the street";
    };
    const auto noticed = [](const Subject&, const Check& c) {
        constexpr double drop = 5e-5;  // m3/s: less is shown as nothing
        return c.value > drop ? Verdict::Near : Verdict::Within;
    };
    const auto nothing = [](const Subject&) { return 0.0; };
    const auto flooded = [](const Subject& s, const Check& c) {
        if (std::isnan(c.value)) return Verdict::Unknown;
        return nth(s.result.nodes, s.index).level.held || c.value > 0 ? Verdict::Beyond : Verdict::Within;
    };
    const auto smaller = [](const Subject&, const Check& c) {
        return c.value < c.limit - 1e-9 ? Verdict::Near : Verdict::Within;
    };
    const auto release_word = [](const UnitSet& u, const Project&, const EventResult& r, const Finding& f) {
        const PondSummary* p = pond_at(r, static_cast<std::size_t>(f.index));
        return u.text(f.check.value, Q::Flow) + " leave, allowed " + u.text(f.check.limit, Q::Flow) +
               (p ? " (" + u.text(p->peak_inflow, Q::Flow) + " come in)" : "");
    };
    const auto pond_word = [](const UnitSet& u, const Project&, const EventResult& r, const Finding& f) {
        const PondNode* n = pond_node_at(r, static_cast<std::size_t>(f.index));
        const PondSummary* p = pond_at(r, static_cast<std::size_t>(f.index));
        if (!n || !p) return std::string();
        return "highest level " + u.text(p->level, Q::Level) + ", crest " + u.text(n->crest, Q::Level) +
               ": freeboard " + u.text(f.check.value, Q::Length) + ", at least " + u.text(f.check.limit, Q::Length);
    };
    const auto curve_word = [](const UnitSet& u, const Project&, const EventResult& r, const Finding& f) {
        const PondNode* n = pond_node_at(r, static_cast<std::size_t>(f.index));
        const PondSummary* p = pond_at(r, static_cast<std::size_t>(f.index));
        if (!n || !p) return std::string();
        return "the water rises to " + u.text(p->level, Q::Level) + ", its space is known up to " +
               u.text(n->storage.top(), Q::Level) + ": above that it is taken straight up";
    };
    const auto overflow_word = [](const UnitSet& u, const Project& project, const EventResult& r, const Finding& f) {
        const PondNode* n = pond_node_at(r, static_cast<std::size_t>(f.index));
        const PondSummary* p = pond_at(r, static_cast<std::size_t>(f.index));
        std::string names;
        for (std::size_t w = 0; n && p && w < n->ways.size() && w < p->way_peaks.size(); ++w)
            if (n->ways[w].overflow && p->way_peaks[w] > 1e-6)
                names += (names.empty() ? "" : ", ") + element_name(project, Kind::PondOutlet, n->ways[w].row);
        return u.text(f.check.value, Q::Flow) + " run by " + names + ", which is meant for rare events";
    };
    const auto attenuation_word = [](const UnitSet& u, const Project&, const EventResult& r, const Finding& f) {
        const PondSummary* p = pond_at(r, static_cast<std::size_t>(f.index));
        return p ? u.text(p->peak_inflow, Q::Flow) + " come in, " + u.text(p->peak_outflow, Q::Flow) + " leave"
                 : std::string();
    };
    const auto entrance_word = [](const UnitSet& u, const Project&, const EventResult&, const Finding& f) {
        return "its entrance lets through " + u.text(f.check.value, Q::Flow) +
               " at the highest level; its barrel could more";
    };
    const auto unsettled_word = [](const UnitSet&, const Project&, const EventResult&, const Finding&) {
        return std::string("the levels below its outlets and its flows were not brought to agreement");
    };
    const auto parts_word = [](const UnitSet& u, const Project&, const EventResult&, const Finding& f) {
        return u.text(f.check.value, Q::Flow) +
               " take another way, which does not meet the main one above the next pond or outfall. Through time all "
               "of "
               "the water is led along the main way: too much below that, too little below the other";
    };
    const auto asked_in_common = [](const Subject& s, const Check& c) {
        (void)s;
        return c.value > 1e-6 ? Verdict::Near : Verdict::Within;
    };
    return {
        {Rule::MostFlowRatio, "flow above capacity", "near its capacity", Stage::Pipes, link, "Flow ratio", Q::Ratio,
         true, flow_ratio, nullptr, nullptr, pipe_word, "A larger size, a steeper slope, or less flow."},
        {Rule::MostFilledDepth, "filled too deep", "near the most filled depth", Stage::Pipes, link, "Filled depth",
         Q::Ratio, true, [](const Subject& s) { return where_it_flows(s, filled_depth(s.result, s.index)); }, nullptr,
         nullptr, nullptr, "A larger size, or a steeper slope."},
        {Rule::LeastVelocity, "below the least velocity", "near its least velocity", Stage::Pipes, link, "Velocity",
         Q::Velocity, false, [](const Subject& s) { return where_it_flows(s, result(s).flow.velocity); }, nullptr,
         nullptr, nullptr, "A steeper slope, or a smaller size."},
        {Rule::MostVelocity, "above the highest velocity", "near its highest velocity", Stage::Pipes, link, "Velocity",
         Q::Velocity, true, [](const Subject& s) { return where_it_flows(s, result(s).flow.velocity); }, nullptr,
         nullptr, nullptr, "A flatter slope with drops, or a larger size."},
        {Rule::MostSurcharge, "water above the crown", "water near the crown", Stage::Levels, link, "HGL to crown",
         Q::Length, true, surcharge, nullptr, nullptr, crown_word,
         "Look for the cause downstream: the card shows what the level is made of."},
        {Rule::LeastSlope, "flatter than the least slope", "near the least slope", Stage::Pipes, link, "Slope",
         Q::Slope, false, [](const Subject& s) { return HeldValue{s.link().slope}; }, nullptr, nullptr, nullptr,
         "Lower its lower end, or raise its upper one."},
        {Rule::MostSlope, "steeper than the most", "near the steepest slope", Stage::Pipes, link, "Slope", Q::Slope,
         true, [](const Subject& s) { return HeldValue{s.link().slope}; }, nullptr, nullptr, nullptr,
         "Flatten it with a drop at its head."},
        {Rule::LeastCover, "too little cover", "near the least cover", Stage::Pipes, link, "Cover", Q::Length, false,
         least_cover, nullptr, nullptr, nullptr, "Lower the pipe, or a flatter section."},
        {Rule::LeastSize, "below the least size", "", Stage::Pipes, link, "", Q::Size, false,  // sizes come in steps
         [](const Subject& s) { return HeldValue{height(s.link().section)}; }, nullptr, nullptr, nullptr,
         "At least {limit}."},
        {Rule::LeastDrop, "rises across the structure", "near the least drop", Stage::Pipes, link, "Drop", Q::Length,
         false, drop, nullptr, nullptr, drop_word, "Lower its start, or raise the pipe that enters."},
        {Rule::SizeDecrease, "smaller than the pipe above", "smaller than the pipe above", Stage::Pipes, link, "",
         Q::Size, false, size_below, [](const Subject& s) { return nth(s.entering->largest_size, s.link().from); },
         smaller, size_word, "At least {limit}, unless the limit is meant not to hold here."},
        {Rule::LeastFreeboard, "too little freeboard", "near the least freeboard", Stage::Levels, node, "Freeboard",
         Q::Length, false,
         [](const Subject& s) { return where_it_leaves(s, freeboard(s.result, s.index), s.node().rim); }, nullptr,
         nullptr, freeboard_word, "Lower the grade line below the structure."},
        {Rule::Flooding, "flooding", "", Stage::Levels, node, "", Q::Length, true,
         [](const Subject& s) { return where_it_leaves(s, -freeboard(s.result, s.index), s.node().rim); },
         [](const Subject&) { return 0.0; }, flooded, flood_word, "Lower the grade line below the structure."},
        {Rule::MostDepth, "too deep", "near the most depth", Stage::Pipes, node, "Depth", Q::Length, true,
         [](const Subject& s) { return where_it_leaves(s, s.node().rim - lowest_out(s.result, s.index)); }, nullptr,
         nullptr, nullptr, "Raise the pipe, or allow the depth here."},
        {Rule::MostSpread, "water too far into the street", "near the most spread", Stage::Streets, node, "Spread",
         Q::Length, true,
         [](const Subject& s) {
             return on_street(s, [](const StreetInlet&, const StreetFlow& f) { return f.spread; });
         },
         nullptr, nullptr, nullptr,
         "A larger inlet here, or one more upstream: the card says where the water comes from."},
        {Rule::MostSpreadShare, "too much of the street under water", "near the most share of spread", Stage::Streets,
         node, "Spread share", Q::Ratio, true,
         [](const Subject& s) {
             return on_street(s, [](const StreetInlet& in, const StreetFlow& f) { return f.spread / to_crown(in); });
         },
         nullptr, nullptr, nullptr, "A larger inlet here, or one more upstream."},
        {Rule::LeastDryWidth, "too little of the street stays dry", "near the least dry width", Stage::Streets, node,
         "Dry width", Q::Length, false,
         [](const Subject& s) {
             return on_street(s, [](const StreetInlet& in, const StreetFlow& f) { return to_crown(in) - f.spread; });
         },
         nullptr, nullptr, nullptr, "A larger inlet here, or one more upstream."},
        {Rule::MostStreetDepth, "too deep at the curb", "near the most depth on the street", Stage::Streets, node,
         "Depth at curb", Q::Length, true,
         [](const Subject& s) { return on_street(s, [](const StreetInlet&, const StreetFlow& f) { return f.depth; }); },
         nullptr, nullptr, nullptr, "A larger inlet here, or a way out that lies lower."},
        {Rule::MostDepthVelocity, "water on the street sweeps people off", "near the most depth x velocity",
         Stage::Streets, node, "Depth x velocity", Q::DepthVelocity, true,
         [](const Subject& s) {
             return on_street(s, [](const StreetInlet&, const StreetFlow& f) { return f.depth * f.velocity; });
         },
         nullptr, nullptr, nullptr, "More inlets upstream, or a wider way for the water."},
        {Rule::MostStreetVelocity, "water on the street too fast", "near the most velocity on the street",
         Stage::Streets, node, "Velocity on street", Q::Velocity, true,
         [](const Subject& s) {
             return on_street(s, [](const StreetInlet&, const StreetFlow& f) { return f.velocity; });
         },
         nullptr, nullptr, nullptr, "More inlets upstream, a flatter grade, or an edge that withstands it."},
        {Rule::MostStreetShear, "more shear than the lining withstands", "near the most shear on the street",
         Stage::Streets, node, "Shear", Q::Stress, true,
         [](const Subject& s) {
             return on_street(s, [](const StreetInlet& in, const StreetFlow& f) {
                 return in.sag ? 0 : bed_shear(f.depth, in.gutter.grade);
             });
         },
         nullptr, nullptr, nullptr, "Less water or less fall, or a lining that withstands more."},
        {Rule::BypassStays, "bypass without a path", "bypass without a path", Stage::Streets, node, "", Q::Flow, true,
         [](const Subject& s) {
             return on_street(s, [](const StreetInlet& in, const StreetFlow& f) {
                 return in.end == PathEnd::Nowhere ? f.bypass : 0.0;
             });
         },
         nothing, noticed, stays_word, "Draw the street path along which it runs, or propose the paths of the site."},
        {Rule::BypassLeaves, "bypass leaves the site", "bypass leaves the site", Stage::Streets, node, "", Q::Flow,
         true,
         [](const Subject& s) {
             return on_street(s, [](const StreetInlet& in, const StreetFlow& f) {
                 return in.end == PathEnd::OffSite ? f.bypass : 0.0;
             });
         },
         nothing, noticed, leaves_word, "Nothing needs doing if that is meant; else a larger inlet."},
        {Rule::OverCrown, "water runs over the crown", "water runs over the crown", Stage::Streets, node, "", Q::Flow,
         true,
         [](const Subject& s) {
             return on_street(s, [](const StreetInlet&, const StreetFlow& f) { return f.over_crown; });
         },
         nothing, noticed, crown_over_word, "More inlets upstream, or a street that carries more."},
        {Rule::ChannelVelocity, "channel below the outfall too fast", "near what the channel stands", Stage::Levels,
         node, "Channel velocity", Q::Velocity, true,
         [](const Subject& s) { return on_channel(s, receiving(s.result, s.index).velocity); },
         [](const Subject& s) { return channel(s)->most_velocity; }, nullptr, nullptr,
         "A lining that stands more, a flatter or wider channel, or a basin that takes the energy."},
        {Rule::ChannelShear, "channel below the outfall washed out", "near the shear the channel stands", Stage::Levels,
         node, "Channel shear", Q::Stress, true,
         [](const Subject& s) { return on_channel(s, receiving(s.result, s.index).shear); },
         [](const Subject& s) { return channel(s)->most_shear; }, nullptr, nullptr,
         "A lining that stands more, or a flatter or wider channel."},
        {Rule::ReleaseExceeded, "more leaves than is allowed", "near the allowed release", Stage::Storage, node,
         "Release", Q::Flow, true,
         [](const Subject& s) {
             return std::isnan(allowed_release(s.result, s.index)) ? not_asked : HeldValue{released(s.result, s.index)};
         },
         [](const Subject& s) { return allowed_release(s.result, s.index); }, nullptr, release_word,
         "A smaller outlet with more storage, or a higher overflow: ask for outlet sizes in the Storage stage."},
        {Rule::PondFreeboard, "pond too full", "near the least freeboard of the pond", Stage::Storage, node,
         "Pond freeboard", Q::Length, false,
         [](const Subject& s) {
             return in_pond(s, [](const PondNode& n, const PondSummary& p) { return n.crest - p.level; });
         },
         [](const Subject& s) { return through(s).least_freeboard; }, nullptr, pond_word,
         "More storage, a larger overflow, or a higher bank."},
        {Rule::CurveShort, "water above the known space", "water above the known space", Stage::Storage, node, "",
         Q::Length, true,
         [](const Subject& s) {
             return in_pond(s, [](const PondNode&, const PondSummary& p) { return p.above_curve; });
         },
         nothing, [](const Subject&, const Check& c) { return c.value > 1e-4 ? Verdict::Beyond : Verdict::Within; },
         curve_word, "Give the space up to the highest level."},
        {Rule::OverflowRuns, "overflow in a common event", "overflow in a common event", Stage::Storage, node, "",
         Q::Flow, true,
         [](const Subject& s) {
             const PondNode* n = pond_node_at(s.result, s.index);
             const PondSummary* p = pond_at(s.result, s.index);
             if (!n || !p || !s.common) return not_asked;
             double most = 0;
             for (std::size_t w = 0; w < n->ways.size() && w < p->way_peaks.size(); ++w)
                 if (n->ways[w].overflow) most = std::max(most, p->way_peaks[w]);
             return HeldValue{most};
         },
         nothing, asked_in_common, overflow_word, "Raise the overflow, or let more leave below it."},
        {Rule::NoAttenuation, "pond holds nothing back", "pond holds nothing back", Stage::Storage, node, "", Q::Ratio,
         true,
         [](const Subject& s) {
             return in_pond(s, [](const PondNode&, const PondSummary& p) {
                 return p.peak_inflow > 1e-6 ? p.peak_outflow / p.peak_inflow : 0;
             });
         },
         [](const Subject&) { return 0.95; },
         [](const Subject&, const Check& c) { return c.value > c.limit ? Verdict::Near : Verdict::Within; },
         attenuation_word, "Smaller outlets, or more space above them."},
        {Rule::LongDrawdown, "pond stays filled", "pond stays filled", Stage::Storage, node, "", Q::Duration, true,
         [](const Subject& s) {
             return in_pond(s, [](const PondNode&, const PondSummary& p) {
                 return p.stored > 0 && std::isnan(p.drawdown) ? std::numeric_limits<double>::infinity() : p.drawdown;
             });
         },
         [](const Subject& s) { return through(s).most_drawdown; },
         [](const Subject&, const Check& c) { return c.value > c.limit ? Verdict::Near : Verdict::Within; }, nullptr,
         "A larger lowest outlet, or compute longer after the rain where it is not known."},
        {Rule::EntranceGoverns, "culvert held by its entrance", "culvert held by its entrance", Stage::Storage, node,
         "", Q::Flow, true,
         [](const Subject& s) {
             const PondNode* n = pond_node_at(s.result, s.index);
             const PondSummary* p = pond_at(s.result, s.index);
             if (!n || !p || !s.common) return not_asked;
             double most = 0;
             for (std::size_t w = 0; w < n->ways.size(); ++w)
                 if (const auto* c = std::get_if<std::shared_ptr<const CulvertRating>>(&n->ways[w].how);
                     c && !n->ways[w].pump)
                     if (const OutletFlow f = (*c)->flow(p->level, not_given);
                         f.control == OutletControl::Entrance &&
                         p->level > (*c)->barrel().invert + 1.2 * height((*c)->barrel().section))
                         most = std::max(most, f.flow);
             return HeldValue{most};
         },
         nothing, asked_in_common, entrance_word, "A better entrance, or a larger culvert, if that is not meant."},
        {Rule::Unsettled, "levels below the pond not found", "levels below the pond not found", Stage::Storage, node,
         "", Q::None, true,
         [](const Subject& s) {
             return in_pond(s, [](const PondNode&, const PondSummary& p) { return p.settled ? 0.0 : 1.0; });
         },
         nothing, asked_in_common, unsettled_word,
         "A shorter computing step, or an outlet that its tailwater does not reach."},
        {Rule::PartsBeforePond, "water parts above a pond or an outfall", "water parts above a pond or an outfall",
         Stage::Storage, node, "", Q::Flow, true,
         [](const Subject& s) {
             const Network& net = *s.result.network;
             if (!net.through_time || s.node().out == no_link || s.node().link_end - s.node().out < 2) return not_asked;
             double aside = 0;
             for (int l = s.node().out + 1; l < s.node().link_end; ++l)
                 if (const LinkFlow& f = nth(s.result.links, l).flow;
                     f.flow > dry_flow && parts_before_pond(net, nth(net.links, l), f.against))
                     aside += f.flow;
             return HeldValue{aside};
         },
         nothing, asked_in_common, parts_word,
         "Lead the ways together above it, or check it with all of the water on either way."},
        {Rule::WaterLost, "volumes do not balance", "", Stage::Storage},
        {Rule::Oversized, "larger than needed", "", Stage::Pipes},
        {Rule::Crossing, "too near another line", "near the clearance", Stage::Pipes, link, "", Q::Length, false},
        {Rule::Beside, "too near a line beside it", "near the clearance beside it", Stage::Pipes, link, "", Q::Length,
         false},
        {Rule::RimBelowCrown, "rim below the crown", "", Stage::Layout},
        {Rule::LengthDiffers, "length differs from the drawing", "", Stage::Layout},
        {Rule::AgainstDrawing, "runs against the drawing", "", Stage::Layout},
        {Rule::OutsideTable, "time outside the rain table", "", Stage::Rain},
        {Rule::FlowHeld, "flow held", "", Stage::Pipes},
        {Rule::LeavesSite, "water leaves the site", "", Stage::Layout},
        {Rule::Data, "data", "", Stage::Layout, link, "", Q::None, true, nullptr, nullptr, nullptr, unsolved_word},
    };
}

struct Catalogue {
    std::vector<RuleInfo> rows = built_in();
    std::vector<std::size_t> by_rule;
    Catalogue() { index(); }
    void index() {
        by_rule.assign(rows.size(), 0);
        for (std::size_t i = 0; i < rows.size(); ++i) nth(by_rule, rows[i].rule) = i;
    }
};
Catalogue& catalogue() {
    static Catalogue c;
    return c;
}

}  // namespace

std::span<const RuleInfo> rules() { return catalogue().rows; }

const RuleInfo& rule_info(Rule rule) {
    const Catalogue& c = catalogue();
    const auto i = static_cast<std::size_t>(rule);
    return nth(c.rows, nth(c.by_rule, i < c.rows.size() ? i : static_cast<std::size_t>(Rule::Data)));
}

Rule add_rule(RuleInfo info) {
    Catalogue& c = catalogue();
    expects(c.rows.size() < most_checks, "rules", c.rows.size());
    info.rule = static_cast<Rule>(c.rows.size());
    c.rows.push_back(info);
    c.index();
    return info.rule;
}

std::string_view rule_name(Rule rule) { return rule_info(rule).name; }
std::string_view near_name(Rule rule) {
    const RuleInfo& info = rule_info(rule);
    return info.near.empty() ? info.name : info.near;
}
Stage stage_of(Rule rule) { return rule_info(rule).stage; }

}  // namespace culvert
