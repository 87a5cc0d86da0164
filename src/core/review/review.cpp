// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/contract.h"
#include "core/review/review.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/rational.h"
#include "core/hydraulics/uniform_flow.h"

namespace culvert {
namespace {

/// Verdict of a value. `scale` is what the near band is a share of: the limit itself, or where that is 0 a length
/// given.
Check judge(Rule rule, double value, LimitTable::Found limit, Quantity quantity, bool at_most, double near_share,
            double scale) {
    Check c{rule, value, limit.value, quantity, at_most, Verdict::Unknown, limit.exception, not_given};
    if (std::isnan(value) || std::isnan(limit.value)) return c;
    const double band = near_share * (limit.value != 0 ? std::abs(limit.value) : scale);
    c.verdict = beyond_limit(value, limit.value, at_most) ? Verdict::Beyond
                                                          : (c.margin() < band ? Verdict::Near : Verdict::Within);
    return c;
}

struct Judge {
    const LimitTable& limits;
    std::uint64_t element;
    CheckList& out;
    void operator()(LimitKind kind, double value, bool at_most, double scale = 0, double place = not_given) const {
        const auto found = limits.limit(kind, element);
        if (std::isnan(found.value)) return;
        out.push_back(
            judge(static_cast<Rule>(kind), value, found, limit_quantity(kind), at_most, limits.near_share(), scale));
        out.back().place = place;
    }
};

void pipe_checks(const LimitTable& limits, const EventResult& result, int link, CheckList& out) {
    const Network& net = *result.network;
    const Link& l = nth(net.links, link);
    const LinkResult& r = nth(result.links, link);
    const Judge check{limits, l.pipe.value, out};
    const double top = height(l.section), q = r.flow.flow;
    const bool flows = q > 1e-12;
    if (!l.solvable) {
        out.push_back({Rule::Data, not_given, not_given, Quantity::None, true, Verdict::Beyond, false, not_given});
        return;
    }
    if (flows)
        check(LimitKind::MostFlowRatio,
              l.capacity > 0 && !r.flow.against ? q / l.capacity : std::numeric_limits<double>::infinity(), true);
    if (flows) check(LimitKind::MostFilledDepth, std::isnan(r.flow.normal) ? 1 : r.flow.normal / top, true);
    if (flows) check(LimitKind::LeastVelocity, r.flow.velocity, false);
    if (flows) check(LimitKind::MostVelocity, r.flow.velocity, true);
    const double above_up = r.level.head_up - top, above_down = r.level.head_down - top;
    const bool up_is_worse = !(above_down > above_up);
    check(LimitKind::MostSurcharge, std::max(above_up, above_down), true, top,
          up_is_worse ? l.invert_up + top : l.invert_down + top);
    check(LimitKind::LeastSlope, l.slope, false);
    check(LimitKind::MostSlope, l.slope, true);
    const Node &up = nth(net.nodes, l.from), &down = nth(net.nodes, l.to);
    // The rim of an outfall is often not given: cover is then judged at the upper end alone.
    const double cover_up = up.rim - (l.invert_up + top + l.wall);
    const double cover_down =
        down.kind == StructureKind::Outfall ? not_given : down.rim - (l.invert_down + top + l.wall);
    check(LimitKind::LeastCover, std::isnan(cover_down) ? cover_up : std::min(cover_up, cover_down), false);
    check(LimitKind::LeastSize, top, false);
    if (!out.empty() && out.back().rule == Rule::LeastSize && out.back().verdict == Verdict::Near)
        out.back().verdict = Verdict::Within;  // sizes come in steps
}

void structure_checks(const LimitTable& limits, const EventResult& result, int node, CheckList& out) {
    const Node& n = nth(result.network->nodes, node);
    const NodeLevel& r = nth(result.nodes, node).level;
    if (n.out == no_link) return;
    const Judge check{limits, n.structure.value, out};
    const double freeboard = n.rim - r.level;
    check(LimitKind::LeastFreeboard, freeboard, false, 0, n.rim);
    Check flood{Rule::Flooding, r.level - n.rim, 0, Quantity::Length, true, Verdict::Unknown, false, n.rim};
    if (!std::isnan(freeboard)) flood.verdict = r.held || freeboard < 0 ? Verdict::Beyond : Verdict::Within;
    out.push_back(flood);
    double lowest = not_given;
    for (int l = n.out; l < n.link_end; ++l) lowest = std::fmin(lowest, nth(result.network->links, l).invert_up);
    check(LimitKind::MostDepth, n.rim - lowest, true);
}

/// Checks that need the pipes that enter: drops and decreasing sizes. One pass over all links.
struct Entering {
    std::vector<double> least_invert, largest_size;
    explicit Entering(const Network& net)
        : least_invert(net.nodes.size(), not_given), largest_size(net.nodes.size(), 0) {
        for (const Link& l : net.links) {
            if (!l.main) continue;  // what closes a ring enters at one end as well as it leaves at the other
            double& invert = nth(least_invert, l.to);
            if (std::isnan(invert) || l.invert_down < invert) invert = l.invert_down;
            nth(largest_size, l.to) = std::max(nth(largest_size, l.to), height(l.section));
        }
    }
    void check(const Network& net, const LimitTable& limits, int link, CheckList& out) const {
        const Link& l = nth(net.links, link);
        const Node& n = nth(net.nodes, l.from);
        if (!l.main || n.inflows == 0 || !l.solvable) return;
        if (const auto limit = limits.limit(LimitKind::LeastDrop, l.pipe.value);
            !std::isnan(limit.value) && n.kind != StructureKind::Joint)
            out.push_back(judge(Rule::LeastDrop, nth(least_invert, l.from) - l.invert_up, limit, Quantity::Length, false,
                                limits.near_share(), 0));
        Check size{Rule::SizeDecrease,       height(l.section), nth(largest_size, l.from), Quantity::Size, false,
                   Verdict::Within, false, not_given};
        if (size.value < size.limit - 1e-9) size.verdict = Verdict::Near;
        out.push_back(size);
    }
};

CheckList link_checks(const LimitTable& limits, const Entering& entering, const EventResult& result, int link) {
    CheckList c;
    pipe_checks(limits, result, link, c);
    entering.check(*result.network, limits, link, c);
    return c;
}
CheckList node_checks(const LimitTable& limits, const EventResult& result, int node) {
    CheckList c;
    structure_checks(limits, result, node, c);
    return c;
}

/// How far a check is beyond its limit, as a share of it (of a metre where the limit is 0).
double exceedance(const Check& c) { return -c.margin() / (c.limit != 0 ? std::abs(c.limit) : 1); }

}  // namespace

void word(const Project& project, const EventResult& result, Finding& f) {
    if (!f.title.empty() || f.index < 0) return;
    const UnitSet u = units_of(project);
    const Check& c = f.check;
    const Network& net = *result.network;
    const bool pipe = f.element.kind == Kind::Pipe;
    const Link* l = pipe ? &nth(net.links, f.index) : nullptr;
    const LinkResult* r = pipe ? &nth(result.links, f.index) : nullptr;
    const Node& n = nth(net.nodes, pipe ? l->from : f.index);
    f.title = c.verdict == Verdict::Near ? near_name(c.rule) : rule_name(c.rule);
    const Quantity q = c.quantity;
    const std::string value = u.text(c.value, q), limit = u.text(c.limit, q), past = u.text(std::abs(c.margin()), q);
    const std::string by = c.margin() < 0 ? past + (c.at_most ? " above" : " below") : past + " left";
    switch (c.rule) {
        case Rule::MostFlowRatio:
            f.detail = "flow " + u.text(r->flow.flow, Quantity::Flow) + ", capacity " +
                       u.text(l->capacity, Quantity::Flow) + ": ratio " + u.number(c.value, q) + ", allowed " +
                       u.number(c.limit, q);
            if (!(l->capacity > 0))
                f.detail = "flow " + u.text(r->flow.flow, Quantity::Flow) +
                           ", but no full-flow capacity: the slope is " + u.text(l->slope, Quantity::Slope);
            f.remedy = "A larger size, a steeper slope, or less flow.";
            break;
        case Rule::MostSurcharge:
            f.detail = "HGL " + u.text(c.place + c.value, Quantity::Level) + ", crown " +
                       u.text(c.place, Quantity::Level) + ": " + u.text(std::abs(c.value), q) +
                       (c.value > 0 ? " above" : " below") + (c.limit != 0 ? ", allowed " + limit : "");
            f.remedy = "Look for the cause downstream: the card shows what the level is made of.";
            break;
        case Rule::LeastFreeboard:
            f.detail = "HGL " + u.text(c.place - c.value, Quantity::Level) + ", rim " +
                       u.text(c.place, Quantity::Level) + ": freeboard " + value + ", at least " + limit;
            f.remedy = "Lower the grade line below the structure.";
            break;
        case Rule::Flooding:
            f.detail = "HGL " + u.text(c.place + c.value, Quantity::Level) + ", rim " +
                       u.text(c.place, Quantity::Level) + ": " + value + " above the rim" +
                       (nth(result.nodes, f.index).level.held ? " (held at the rim)" : "");
            f.remedy = "Lower the grade line below the structure.";
            break;
        case Rule::SizeDecrease:
            f.detail = "size " + value + " below a pipe of " + limit + " that enters " +
                       element_name(project, Kind::Structure, n.structure.value);
            f.remedy = "At least " + limit + ", unless the limit is meant not to hold here.";
            break;
        case Rule::LeastDrop:
            f.detail = "starts " + u.text(std::abs(c.value), q) + (c.value < 0 ? " above" : " below") +
                       " the lowest invert that enters, drop at least " + limit;
            f.remedy = "Lower its start, or raise the pipe that enters.";
            break;
        case Rule::Data: f.detail = "it cannot be solved: see the fault of its data"; break;
        default:
            switch (c.rule) {
                case Rule::LeastVelocity: f.remedy = "A steeper slope, or a smaller size."; break;
                case Rule::MostVelocity: f.remedy = "A flatter slope with drops, or a larger size."; break;
                case Rule::LeastSlope: f.remedy = "Lower its lower end, or raise its upper one."; break;
                case Rule::MostSlope: f.remedy = "Flatten it with a drop at its head."; break;
                case Rule::LeastCover: f.remedy = "Lower the pipe, or a flatter section."; break;
                case Rule::MostDepth: f.remedy = "Raise the pipe, or allow the depth here."; break;
                case Rule::LeastSize: f.remedy = "At least " + limit + "."; break;
                default: break;
            }
            f.detail = value + ", " + (c.at_most ? "at most " : "at least ") + limit + ": " + by;
            break;
    }
    if (c.exception) f.detail += " (its own limit)";
}

CheckList checks_of(const LimitTable& limits, const EventResult& result, ElementRef element) {
    const Network& net = *result.network;
    if (element.kind == Kind::Pipe) {
        const int link = net.link_of(PipeId{element.id});
        return link == no_link ? CheckList() : link_checks(limits, Entering(net), result, link);
    }
    const int node = net.node_of(element);
    return node == no_node ? CheckList() : node_checks(limits, result, node);
}

Verdict Review::of(const Network& network, ElementRef element) const {
    const bool pipe = element.kind == Kind::Pipe;
    const int index = pipe ? network.link_of(PipeId{element.id}) : network.node_of(element);
    const auto& list = pipe ? links : nodes;
    return index < 0 || static_cast<std::size_t>(index) >= list.size() ? Verdict::Unknown : nth(list, index);
}

std::vector<FindingKey> beyond_keys(const Project& project, const EventResult& result) {
    std::vector<FindingKey> keys;
    const LimitTable limits(project);
    const Network& net = *result.network;
    const Entering entering(net);
    const auto add = [&](const CheckList& list, ElementRef element) {
        for (const Check& k : list)
            if (k.verdict == Verdict::Beyond && k.rule != Rule::Data)
                keys.emplace_back(k.rule, element, result.event, std::string());
    };
    for (std::size_t i = 0; i < net.links.size(); ++i)
        add(link_checks(limits, entering, result, static_cast<int>(i)), {Kind::Pipe, net.links[i].pipe.value});
    for (std::size_t i = 0; i < net.nodes.size(); ++i)
        add(node_checks(limits, result, static_cast<int>(i)), {Kind::Structure, net.nodes[i].structure.value});
    std::sort(keys.begin(), keys.end());
    return keys;
}

Review review(const Project& project, const EventResult& result) {
    Review rev;
    rev.event = result.event;
    rev.revision = result.revision;
    const Network& net = *result.network;
    const LimitTable limits(project);
    const Entering entering(net);
    const UnitSet units = units_of(project);
    rev.nodes.resize(net.nodes.size());
    rev.links.resize(net.links.size());
    const RainEvent* event = project.events.find(result.event.value);
    const IdfCurve curve = event ? rain_of(*event).curve : IdfCurve();
    int above_table = 0, below_table = 0, held = 0;
    double longest = 0, shortest = 1e300;
    int above_at = 0, below_at = 0, held_at = 0;
    const auto take = [&](const CheckList& list, ElementRef element, int index) {
        const Verdict verdict = worst(list);
        rev.verdict = std::max(rev.verdict, verdict);
        bool flooded = false;
        for (const Check& k : list) flooded |= k.rule == Rule::Flooding && k.verdict == Verdict::Beyond;
        for (const Check& k : list) {
            if (k.verdict < Verdict::Near || k.rule == Rule::Data) continue;
            if (k.rule == Rule::LeastFreeboard && flooded) continue;  // said by the flooding itself
            Finding f;
            f.element = element;
            f.event = result.event;
            f.check = k;
            f.index = index;
            f.severity = k.verdict == Verdict::Beyond ? Severity::Error : Severity::Warning;
            rev.findings.push_back(std::move(f));
        }
        return verdict;
    };
    for (int i = 0; i < static_cast<int>(net.links.size()); ++i)
        nth(rev.links, i) = take(link_checks(limits, entering, result, i), {Kind::Pipe, nth(net.links, i).pipe.value}, i);
    for (int i = 0; i < static_cast<int>(net.nodes.size()); ++i) {
        const Node& n = nth(net.nodes, i);
        nth(rev.nodes, i) = take(node_checks(limits, result, i), {Kind::Structure, n.structure.value}, i);
        const NodeFlow& f = nth(result.nodes, i).flow;
        if (f.effective_area > 0 && !curve.empty()) {
            const IdfRange range = curve.range(f.time);
            if (range == IdfRange::AboveLongest) {
                ++above_table;
                if (f.time > longest) {
                    longest = f.time;
                    above_at = i;
                }
            }
            if (range == IdfRange::BelowShortest) {
                ++below_table;
                if (f.time < shortest) {
                    shortest = f.time;
                    below_at = i;
                }
            }
        }
        if (f.flow > f.plain_flow * (1 + 1e-9) && n.out != no_link) {
            if (!held++) held_at = i;
        }
    }
    const auto note = [&](Rule rule, int node, std::string detail, std::string remedy) {
        Finding f;
        f.severity = Severity::Note;
        f.element = {Kind::Structure, nth(net.nodes, node).structure.value};
        f.event = result.event;
        f.check.rule = rule;
        f.check.verdict = Verdict::Within;
        f.check.value = f.check.limit = 0;
        f.title = rule_name(rule);
        f.detail = std::move(detail);
        f.remedy = std::move(remedy);
        rev.findings.push_back(std::move(f));
    };
    if (above_table)
        note(Rule::OutsideTable, above_at,
             "time of concentration up to " + units.text(longest, Quantity::Duration) + ", " +
                 std::to_string(above_table) +
                 " structures above the longest duration: the line of the last two durations is extended",
             "Give the rain table a longer duration.");
    if (below_table)
        note(Rule::OutsideTable, below_at,
             "time of concentration down to " + units.text(shortest, Quantity::Duration) + ", " +
                 std::to_string(below_table) + " structures below the shortest duration: the intensity is held at it",
             "Give the rain table a shorter duration, or raise the least time.");
    if (held)
        note(Rule::FlowHeld, held_at,
             std::to_string(held) +
                 " pipes carry the flow of a pipe that enters, since their own rational flow is lower",
             "This is the setting \"Hold flow\"; the plain flow stands in the working.");
    for (const Unbalanced& u : result.unbalanced) {
        const Link& l = nth(net.links, u.link);
        Finding f;
        f.element = {Kind::Pipe, l.pipe.value};
        f.event = result.event;
        f.check.rule = Rule::Data;
        f.check.verdict = rev.verdict = Verdict::Beyond;
        f.index = u.link;
        f.title = "ways do not balance";
        f.detail = element_name(project, Kind::Pipe, l.pipe.value) + " and the other ways of the water differ by " +
                   units.text(std::abs(u.difference), Quantity::Length) + " where they part: no steady flow was found";
        f.remedy = "Do not rely on flows and levels of this ring. Abandon one of its pipes, or change sizes or inverts so that "
                   "its steep pipes run either full or free.";
        rev.findings.push_back(std::move(f));
    }
    std::sort(rev.findings.begin(), rev.findings.end(), [](const Finding& x, const Finding& y) {
        return std::tuple(-static_cast<int>(x.severity), -static_cast<int>(stage_of(x.check.rule)),
                          -exceedance(x.check), x.element, x.check.rule) <
               std::tuple(-static_cast<int>(y.severity), -static_cast<int>(stage_of(y.check.rule)),
                          -exceedance(y.check), y.element, y.check.rule);
    });
    return rev;
}

int ServiceLevel::passed() const {
    int passed = -1;
    for (std::size_t e = 0; e < events.size(); ++e) {
        for (const auto& row : rows)
            if (row[e] == Verdict::Beyond || row[e] == Verdict::Unknown) return passed;
        passed = static_cast<int>(e);
    }
    return passed;
}

ServiceLevel service_level(const Project& project, const std::vector<std::shared_ptr<const EventResult>>& results,
                           ElementRef element) {
    ServiceLevel level;
    const LimitTable limits(project);
    for (const auto& result : results) {
        level.events.push_back(result->event);
        CheckList pipe, structure;
        const int node = result->network->node_of(element);
        if (node != no_node) {
            const int link = element.kind == Kind::Pipe ? result->network->link_of(PipeId{element.id})
                                                        : nth(result->network->nodes, node).out;
            if (link != no_link) pipe_checks(limits, *result, link, pipe);
            structure_checks(limits, *result, node, structure);
        }
        const auto of = [](const CheckList& list, Rule rule) {
            for (const Check& k : list)
                if (k.rule == rule) return k.verdict;
            return Verdict::Within;  // not held
        };
        level.rows[0].push_back(of(pipe, Rule::MostFlowRatio));
        level.rows[1].push_back(of(pipe, Rule::MostSurcharge));
        level.rows[2].push_back(of(structure, Rule::LeastFreeboard));
        level.rows[3].push_back(of(structure, Rule::Flooding));
    }
    return level;
}

}  // namespace culvert
