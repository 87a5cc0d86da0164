// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>

#include "core/analysis/result_fields.h"
#include "core/review/review.h"

/// The catalogue of what is checked: the twin of the result catalogue. A limit is a LimitKind with its range
/// (core/model) and one row here; a finding without a limit is one row. Review, card, findings, remedies and the rail
/// are generic over it.
namespace culvert {

/// What the pipes bring that enter a node, for checks of drops and sizes; by node.
struct Entering {
    std::vector<double> least_invert, largest_size;
    explicit Entering(const Network& network);
};

/// One link, or node, of one result, as a rule reads it.
struct Subject {
    const EventResult& result;
    std::size_t index;
    const Entering* entering;  ///< null: checks of what enters are not asked
    bool common = false;       ///< the event is the minor system's, or commoner
    [[nodiscard]] const Link& link() const { return nth(result.network->links, index); }
    [[nodiscard]] const Node& node() const { return nth(result.network->nodes, index); }
};

/// Notes of pipes whose next smaller size would keep the limits too, in the design event of the minor system: its flow
/// ratio, filled depth, velocity and least size, and never below a pipe that enters.
void add_oversized(const Project& project, const EventResult& result, const LimitTable& limits,
                   std::vector<Finding>& findings);

/// A value to be held against a limit.
struct HeldValue {
    double value = not_given;  ///< NaN: not known
    double scale = 0;          ///< what the near band is a share of where the limit is 0
    double place = not_given;  ///< a level that words need: crown or rim
    bool asked = true;         ///< false: the rule says nothing of this element
};

struct RuleInfo {
    Rule rule{};
    std::string_view name;  ///< of a value beyond the limit: "flow above capacity"
    std::string_view near;  ///< of one that is near it; empty: it is never near
    Stage stage = Stage::Pipes;
    ResultOn on = ResultOn::Link;
    std::string_view label = {};  ///< of its bar in the card; empty: none. Least and most of one label share a bar.
    Quantity quantity = Quantity::None;
    bool at_most = true;  ///< the value must not exceed the limit; else not fall below it
    /// What is held; null where the finding is made elsewhere (faults of the data, notes).
    HeldValue (*held)(const Subject&) = nullptr;
    /// The limit where it is not the project's of the same number.
    double (*limit)(const Subject&) = nullptr;
    /// A verdict by other than the plain comparison.
    Verdict (*verdict)(const Subject&, const Check&) = nullptr;
    /// The numbers in words; null: "2.1 m, at most 2 m: 0.1 m above".
    std::string (*detail)(const UnitSet&, const Project&, const EventResult&, const Finding&) = nullptr;
    std::string_view remedy = {};  ///< "{limit}" stands for the limit
};

/// All rules, in the order in which an element's checks stand.
std::span<const RuleInfo> rules();
/// A rule's row; the last one, that of the data, for a number that none has.
const RuleInfo& rule_info(Rule rule);
/// Adds a rule to those that are built in, before anything is reviewed, and gives its number: for extensions, and tests
/// of the views.
Rule add_rule(RuleInfo info);

}  // namespace culvert
