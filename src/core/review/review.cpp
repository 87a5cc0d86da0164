// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/contract.h"
#include "core/review/policy.h"
#include "core/review/rules.h"

#include <algorithm>
#include <cmath>
#include <iterator>

#include "core/analysis/parallel.h"
#include "core/analysis/rational.h"

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

/// One check, or none where the rule is not held or says nothing of the element.
std::optional<Check> check(const LimitTable& limits, const Subject& subject, const RuleInfo& rule,
                           std::uint64_t element) {
    LimitTable::Found limit;
    if (!rule.limit) {
        limit = limits.limit(static_cast<LimitKind>(rule.rule), element);
        if (std::isnan(limit.value)) return {};
    }
    const HeldValue held = rule.held(subject);
    if (!held.asked) return {};
    if (rule.limit) {
        limit.value = rule.limit(subject);
        if (std::isnan(limit.value)) return {};
    }
    Check c = judge(rule.rule, held.value, limit, rule.quantity, rule.at_most, limits.near_share(), held.scale);
    c.place = held.place;
    if (rule.verdict) c.verdict = rule.verdict(subject, c);
    else if (c.verdict == Verdict::Near && rule.near.empty()) c.verdict = Verdict::Within;
    return c;
}

/// All checks of a link, or of a node, that the catalogue has.
CheckList checks(const LimitTable& limits, const Entering& entering, const EventResult& result, ResultOn on,
                 int index) {
    CheckList out;
    const Subject subject{result, static_cast<std::size_t>(index), &entering, limits.common()};
    const bool link = on == ResultOn::Link;
    if (link && !subject.link().solvable) {
        out.push_back({Rule::Data, not_given, not_given, Quantity::None, true, Verdict::Beyond, false, not_given});
        return out;
    }
    const std::uint64_t element = link ? subject.link().pipe.value : subject.node().structure.value;
    for (const RuleInfo& rule : rules())
        if (rule.on == on && rule.held)
            if (const auto c = check(limits, subject, rule, element)) out.push_back(*c);
    return out;
}

/// How far a check is beyond its limit, as a share of it (of a metre where the limit is 0).
double exceedance(const Check& c) { return -c.margin() / (c.limit != 0 ? std::abs(c.limit) : 1); }

}  // namespace

void word(const Project& project, const EventResult& result, Finding& f) {
    if (!f.title.empty() || f.index < 0) return;
    const UnitSet u = units_of(project);
    const Check& c = f.check;
    const RuleInfo& rule = rule_info(c.rule);
    f.title = c.verdict == Verdict::Near ? near_name(c.rule) : rule.name;
    const std::string limit = u.text(c.limit, c.quantity), past = u.text(std::abs(c.margin()), c.quantity);
    f.detail = rule.detail ? rule.detail(u, project, result, f)
                           : u.text(c.value, c.quantity) + ", " + (c.at_most ? "at most " : "at least ") + limit +
                                 ": " + (c.margin() < 0 ? past + (c.at_most ? " above" : " below") : past + " left");
    f.remedy = rule.remedy;
    if (const auto at = f.remedy.find("{limit}"); at != std::string::npos) f.remedy.replace(at, 7, limit);
    if (c.exception) f.detail += " (its own limit)";
    const AcceptedFinding* a = project.accepted_findings.find(f.accepted ? f.accepted : f.reopened);
    if (a && f.accepted) f.detail += "; accepted" + (a->by.empty() ? "" : " by " + a->by) + ": " + a->reason;
    else if (a) f.detail += "; accepted at " + u.text(a->value, c.quantity) + ", worse since";
}

CheckList checks_of(const LimitTable& limits, const EventResult& result, ElementRef element) {
    const Network& net = *result.network;
    if (element.kind == Kind::Pipe) {
        const int link = net.link_of(PipeId{element.id});
        return link == no_link ? CheckList() : checks(limits, Entering(net), result, ResultOn::Link, link);
    }
    const int node = net.node_of(element);
    return node == no_node ? CheckList() : checks(limits, Entering(net), result, ResultOn::Node, node);
}

Verdict Review::of(const Network& network, ElementRef element) const {
    const bool pipe = element.kind == Kind::Pipe;
    const int index = pipe ? network.link_of(PipeId{element.id}) : network.node_of(element);
    const auto& list = pipe ? links : nodes;
    return index < 0 || static_cast<std::size_t>(index) >= list.size() ? Verdict::Unknown : nth(list, index);
}

std::vector<FindingKey> beyond_keys(const Project& project, const EventResult& result) {
    std::vector<FindingKey> keys;
    const LimitTable limits(project, result.event);
    const FindingPolicy policy(project);
    const Network& net = *result.network;
    const Entering entering(net);
    const auto beyond = [&](const Check& k, ElementRef element) {
        if (k.verdict != Verdict::Beyond || k.rule == Rule::Data) return false;
        return policy.empty() ||
               policy.of(rule_name(k.rule), rule_name(k.rule), element, result.event, k, Severity::Error).verdict ==
                   Verdict::Beyond;
    };
    const auto add = [&](const CheckList& list, ElementRef element) {
        for (const Check& k : list)
            if (beyond(k, element)) keys.emplace_back(k.rule, element, result.event, std::string());
    };
    for (std::size_t i = 0; i < net.links.size(); ++i)
        add(checks(limits, entering, result, ResultOn::Link, static_cast<int>(i)),
            {Kind::Pipe, net.links[i].pipe.value});
    for (std::size_t i = 0; i < net.nodes.size(); ++i)
        add(checks(limits, entering, result, ResultOn::Node, static_cast<int>(i)),
            {Kind::Structure, net.nodes[i].structure.value});
    std::sort(keys.begin(), keys.end());
    return keys;
}

namespace {

/// Where Tc lies outside the rain table, at its worst: how many, how far, at which node.
struct OutsideTable {
    int count = 0, node = 0;
    double time = 0;
};

/// What the review of some links and nodes leaves beside their verdicts.
struct ReviewedRange {
    std::vector<Finding> findings;
    Verdict verdict = Verdict::Unknown;
    OutsideTable above, below;
    int held = 0, held_at = 0;
    /// Takes in what stands behind it.
    void append(ReviewedRange&& next) {
        std::move(next.findings.begin(), next.findings.end(), std::back_inserter(findings));
        verdict = std::max(verdict, next.verdict);
        const auto both = [](OutsideTable& a, const OutsideTable& b, bool worse) {
            if (b.count && (!a.count || worse)) a.node = b.node, a.time = b.time;
            a.count += b.count;
        };
        both(above, next.above, next.above.time > above.time);
        both(below, next.below, next.below.time < below.time);
        if (!held) held_at = next.held_at;
        held += next.held;
    }
};

/// Reviews ranges of links and of nodes of one event, each by itself.
class RangeReviewer {
  public:
    RangeReviewer(const Project& project, const EventResult& result, const LimitTable& limits,
                  const FindingPolicy& policy, Review& review)
        : result_(result), net_(*result.network), limits_(limits), policy_(policy), entering_(net_), review_(review) {
        if (const RainEvent* event = project.events.find(result.event.value)) curve_ = rain_of(*event).curve;
    }
    [[nodiscard]] ReviewedRange links(std::size_t begin, std::size_t end) const {
        ReviewedRange out;
        for (std::size_t i = begin; i < end; ++i) {
            const int index = static_cast<int>(i);
            nth(review_.links, i) = take(checks(limits_, entering_, result_, ResultOn::Link, index),
                                         {Kind::Pipe, nth(net_.links, i).pipe.value}, index, out);
        }
        return out;
    }
    [[nodiscard]] ReviewedRange nodes(std::size_t begin, std::size_t end) const {
        ReviewedRange out;
        for (std::size_t i = begin; i < end; ++i) {
            const int index = static_cast<int>(i);
            const Node& n = nth(net_.nodes, i);
            nth(review_.nodes, i) = take(checks(limits_, entering_, result_, ResultOn::Node, index),
                                         {Kind::Structure, n.structure.value}, index, out);
            const NodeFlow& f = nth(result_.nodes, i).flow;
            if (f.effective_area > 0 && !curve_.empty()) {
                const IdfRange range = curve_.range(f.time);
                const auto count = [&](OutsideTable& side, bool worse) {
                    if (!side.count++ || worse) side.node = index, side.time = f.time;
                };
                if (range == IdfRange::AboveLongest) count(out.above, f.time > out.above.time);
                if (range == IdfRange::BelowShortest) count(out.below, f.time < out.below.time);
            }
            if (f.flow > f.plain_flow * (1 + 1e-9) && n.out != no_link && !out.held++) out.held_at = index;
        }
        return out;
    }

  private:
    Verdict take(const CheckList& list, ElementRef element, int index, ReviewedRange& out) const {
        Verdict verdict = policy_.empty() ? worst(list) : Verdict::Unknown;
        bool flooded = false;
        for (const Check& k : list) flooded |= k.rule == Rule::Flooding && k.verdict == Verdict::Beyond;
        for (const Check& k : list) {
            if (k.verdict < Verdict::Near || k.rule == Rule::Data) {
                verdict = std::max(verdict, k.verdict);
                continue;
            }
            if (k.rule == Rule::LeastFreeboard && flooded) continue;  // said by the flooding itself
            Finding f;
            f.element = element;
            f.event = result_.event;
            f.check = k;
            f.index = index;
            f.severity = k.verdict == Verdict::Beyond ? Severity::Error : Severity::Warning;
            const bool said = policy_.empty() || policy_.apply(f);
            verdict = std::max(verdict, f.check.verdict);
            if (said) out.findings.push_back(std::move(f));
        }
        out.verdict = std::max(out.verdict, verdict);
        return verdict;
    }

    const EventResult& result_;
    const Network& net_;
    const LimitTable& limits_;
    const FindingPolicy& policy_;
    Entering entering_;
    IdfCurve curve_;
    Review& review_;
};

/// All links, then all nodes, some thousands at a time on as many threads as there are; put together in their order.
ReviewedRange review_all(const RangeReviewer& reviewer, std::size_t links, std::size_t nodes) {
    constexpr std::size_t together = 2048;
    const std::size_t of_links = (links + together - 1) / together, of_nodes = (nodes + together - 1) / together;
    std::vector<ReviewedRange> parts(of_links + of_nodes);
    in_parallel(parts.size(), [&](std::size_t p) {
        const std::size_t at = p < of_links ? p : p - of_links, begin = at * together;
        nth(parts, p) = p < of_links ? reviewer.links(begin, std::min(begin + together, links))
                                     : reviewer.nodes(begin, std::min(begin + together, nodes));
    });
    ReviewedRange all;
    for (ReviewedRange& part : parts) all.append(std::move(part));
    return all;
}

}  // namespace

Review review(const Project& project, const EventResult& result) {
    Review rev;
    rev.event = result.event;
    rev.revision = result.revision;
    const Network& net = *result.network;
    const LimitTable limits(project, result.event);
    const UnitSet units = units_of(project);
    rev.nodes.resize(net.nodes.size());
    rev.links.resize(net.links.size());
    const FindingPolicy policy(project);
    ReviewedRange all =
        review_all(RangeReviewer(project, result, limits, policy, rev), net.links.size(), net.nodes.size());
    rev.findings = std::move(all.findings);
    rev.verdict = all.verdict;
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
        if (policy.empty() || policy.apply(f)) rev.findings.push_back(std::move(f));
    };
    if (all.above.count)
        note(Rule::OutsideTable, all.above.node,
             "time of concentration up to " + units.text(all.above.time, Quantity::Duration) + ", " +
                 std::to_string(all.above.count) +
                 " structures above the longest duration: the line of the last two durations is extended",
             "Give the rain table a longer duration.");
    if (all.below.count)
        note(Rule::OutsideTable, all.below.node,
             "time of concentration down to " + units.text(all.below.time, Quantity::Duration) + ", " +
                 std::to_string(all.below.count) +
                 " structures below the shortest duration: the intensity is held at it",
             "Give the rain table a shorter duration, or raise the least time.");
    if (all.held)
        note(Rule::FlowHeld, all.held_at,
             std::to_string(all.held) +
                 " pipes carry the flow of a pipe that enters, since their own rational flow is lower",
             "This is the setting \"Hold flow\"; the plain flow stands in the working.");
    if (const WaterBalance& b = result.balance; net.through_time && !net.nodes.empty()) {
        const double came = std::max(b.runoff + b.known, 1e-6), lost = std::abs(b.error());
        if (lost > 1e-6 * came)
            note(Rule::WaterLost, static_cast<int>(net.nodes.size()) - 1,
                 units.text(lost, Quantity::Volume) + " of " + units.text(came, Quantity::Volume) +
                     " are not accounted for",
                 "This is a fault of the program: please report it with the project.");
    }
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
        f.remedy =
            "Do not rely on flows and levels of this ring. Abandon one of its pipes, or change sizes or inverts so "
            "that "
            "its steep pipes run either full or free.";
        rev.findings.push_back(std::move(f));
    }
    add_oversized(project, result, limits, rev.findings);
    if (!policy.empty())
        std::erase_if(rev.findings, [&](Finding& f) { return f.check.rule == Rule::Oversized && !policy.apply(f); });
    // Small keys are sorted, then each finding is moved once.
    using Key = std::tuple<int, int, double, ElementRef, Rule, std::size_t>;
    std::vector<Key> keys;
    keys.reserve(rev.findings.size());
    for (std::size_t i = 0; i < rev.findings.size(); ++i) {
        const Finding& f = rev.findings[i];
        keys.emplace_back(-static_cast<int>(f.severity), -static_cast<int>(stage_of(f.check.rule)),
                          -exceedance(f.check), f.element, f.check.rule, i);
    }
    std::sort(keys.begin(), keys.end());
    std::vector<Finding> sorted;
    sorted.reserve(keys.size());
    for (const Key& k : keys) sorted.push_back(std::move(rev.findings[std::get<5>(k)]));
    rev.findings = std::move(sorted);
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
        const Network& net = *result->network;
        const int node = net.node_of(element);
        const int link = element.kind == Kind::Pipe ? net.link_of(PipeId{element.id})
                                                    : (node == no_node ? no_link : nth(net.nodes, node).out);
        const auto of = [&](Rule rule) {
            const RuleInfo& info = rule_info(rule);
            const int at = info.on == ResultOn::Link ? link : node;
            if (at < 0) return Verdict::Within;  // it has none
            if (info.on == ResultOn::Link && !nth(net.links, at).solvable) return Verdict::Within;
            const Subject subject{*result, static_cast<std::size_t>(at), nullptr, false};
            const std::uint64_t id =
                info.on == ResultOn::Link ? nth(net.links, at).pipe.value : nth(net.nodes, at).structure.value;
            const auto c = check(limits, subject, info, id);
            return c ? c->verdict : Verdict::Within;  // not held
        };
        level.rows[0].push_back(of(Rule::MostFlowRatio));
        level.rows[1].push_back(of(Rule::MostSurcharge));
        level.rows[2].push_back(of(Rule::LeastFreeboard));
        level.rows[3].push_back(of(Rule::Flooding));
        level.rows[4].push_back(of(Rule::MostSpread));
        level.on_street = level.on_street || (node != no_node && nth(net.nodes, node).inlet != no_inlet);
    }
    return level;
}

}  // namespace culvert
