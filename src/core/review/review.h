// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <unordered_map>

#include "core/analysis/results.h"
#include "core/base/contract.h"
#include "core/base/stage.h"
#include "core/model/edit.h"

/// Holds results against limits. A Check is one value with its limit and verdict; a Finding is a check that is near or
/// beyond its limit, or a fault of the data.
namespace culvert {

enum class Verdict : std::uint8_t { Unknown, Within, Near, Beyond };

/// What is checked; rules.h says of each what it is. The first are the limits, in the order of LimitKind.
enum class Rule : std::uint8_t {
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
    MostSpread,
    MostSpreadShare,
    LeastDryWidth,
    MostStreetDepth,
    MostDepthVelocity,
    MostStreetVelocity,
    MostStreetShear,
    Flooding,      ///< grade line above the rim
    SizeDecrease,  ///< smaller than a pipe that enters
    RimBelowCrown,
    LengthDiffers,    ///< entered length against the drawn one, more than 1 %
    AgainstDrawing,   ///< water runs against the direction drawn
    OutsideTable,     ///< Tc outside the durations of the rain table
    FlowHeld,         ///< plain rational flow below that of a pipe that enters
    LeavesSite,       ///< a street path ends off the site
    BypassStays,      ///< what an inlet lets pass has no street path
    BypassLeaves,     ///< it leaves the site
    OverCrown,        ///< one side of the street cannot carry what comes
    ChannelVelocity,  ///< of the channel below an outfall, against what its lining stands
    ChannelShear,
    Oversized,        ///< the next smaller size of the catalogue would keep the limits too
    Crossing,         ///< too near another line where they cross
    Beside,           ///< too near one beside it
    ReleaseExceeded,  ///< more leaves than is allowed
    PondFreeboard,    ///< too little between the highest level of a pond and its crest
    CurveShort,       ///< a pond rises above the levels its space is known for
    OverflowRuns,     ///< an outlet for rare events runs in a common one
    NoAttenuation,    ///< a pond whose peak goes out as it came in
    LongDrawdown,     ///< a pond that stays filled
    EntranceGoverns,  ///< a culvert under inlet control in the minor system's design event
    Unsettled,        ///< levels below a pond's outlets that do not agree with its flows
    PartsBeforePond,  ///< through time, water that parts and does not meet again above a pond or an outfall
    WaterLost,        ///< the balance of volumes does not close
    Data              ///< a fault of the data
};
std::string_view rule_name(Rule rule);
/// The words for a value that is near the rule's limit: "near its capacity".
std::string_view near_name(Rule rule);

/// The part of the job a rule belongs to: counts in the stage rail, and what the plan's colours ask.
Stage stage_of(Rule rule);

struct Check {
    Rule rule{};
    double value = not_given, limit = not_given;
    Quantity quantity = Quantity::None;
    bool at_most = true;  ///< the value must not exceed the limit; else not fall below it
    Verdict verdict = Verdict::Unknown;
    bool exception = false;    ///< the limit is the element's own
    double place = not_given;  ///< a level that words need: crown or rim
    /// How much is left to the limit; negative beyond it.
    [[nodiscard]] double margin() const { return at_most ? limit - value : value - limit; }
};

/// What a value may lie beyond its limit by rounding alone: what is sized to a limit is within it.
constexpr double rounding_of(double limit) { return 1e-9 * (limit > 1 ? limit : (limit < -1 ? -limit : 1.0)); }
constexpr bool beyond_limit(double value, double limit, bool at_most) {
    return (at_most ? limit - value : value - limit) < -rounding_of(limit);
}

/// Limits of a project, ready for many look-ups.
class LimitTable {
  public:
    /// @param event  whose limits: those of all events and of its system; none: those of all systems
    explicit LimitTable(const Project& project, EventId event = {});
    struct Found {
        double value = not_given;
        bool exception = false;
    };
    [[nodiscard]] Found limit(LimitKind kind, std::uint64_t element) const;
    [[nodiscard]] double near_share() const { return near_share_; }
    [[nodiscard]] bool common() const { return common_; }  ///< the event is of the minor system

  private:
    std::array<double, limit_count> project_;
    std::unordered_map<std::uint64_t, std::vector<std::pair<LimitKind, double>>> own_;
    double near_share_;
    bool common_ = false;
};

/// A check that is near or beyond its limit, or a fault of the data. Words are made when they are asked for: thousands
/// of findings cost no more than their numbers.
struct Finding {
    Severity severity = Severity::Error;
    ElementRef element;
    EventId event;  ///< none for a fault of the data
    Check check;
    std::uint64_t accepted = 0;                ///< row of the AcceptedFinding that holds; 0: none
    std::uint64_t reopened = 0;                ///< row of one that does not hold any more: it has become worse
    int index = -1;                            ///< of its link (a pipe) or node in the result it was found in
    std::string field, title, detail, remedy;  ///< of a check: empty until `word` is called
    /// The same finding in another solve has the same key.
    [[nodiscard]] std::tuple<Rule, ElementRef, EventId, std::string> key() const {
        const bool many = check.rule == Rule::Crossing || check.rule == Rule::Beside;  // of one pipe
        return std::tuple(check.rule, element, event,
                          check.rule == Rule::Data ? title + field : (many ? field : std::string()));
    }
};

/// Checks of one element at most: the rules that are built in, and room for more.
constexpr std::size_t most_checks = static_cast<std::size_t>(Rule::Data) + 12;

/// A few checks, held without allocation.
class CheckList {
  public:
    /// A rule is checked once for an element, so the list holds all that can come.
    void push_back(const Check& c) {
        expects(count_ < items_.size(), "checks of one element", count_);
        if (count_ < items_.size()) items_[count_++] = c;
    }
    [[nodiscard]] Check& back() {
        expects(count_ > 0, "checks of one element", count_);
        return items_[count_ - 1];
    }
    [[nodiscard]] bool empty() const { return count_ == 0; }
    [[nodiscard]] const Check* begin() const { return items_.data(); }
    [[nodiscard]] const Check* end() const { return items_.data() + count_; }

  private:
    std::array<Check, most_checks> items_;
    std::size_t count_ = 0;
};
/// All checks of a pipe, or of a structure, in one event; none where it is not part of the solution.
CheckList checks_of(const LimitTable& limits, const EventResult& result, ElementRef element);

/// Fills in the words of a finding of this result; a finding that has them is left alone.
void word(const Project& project, const EventResult& result, Finding& finding);

/// Keys of all checks beyond their limits in one event, sorted. Unlike the findings, they hold freeboard beside
/// flooding, so that a flood that falls to a lack of freeboard is no new fault.
using FindingKey = std::tuple<Rule, ElementRef, EventId, std::string>;
std::vector<FindingKey> beyond_keys(const Project& project, const EventResult& result);

Verdict worst(const CheckList& checks);

/// The review of one event: the worst verdict of every node and link, and the findings, worst first: by severity,
/// stage, and how far beyond.
struct Review {
    EventId event;
    std::uint64_t revision = 0;
    std::vector<Verdict> nodes, links;
    std::vector<Finding> findings;
    Verdict verdict = Verdict::Unknown;  ///< worst of the event
    /// Verdict of a structure or pipe; unknown where it is not part of the solution.
    [[nodiscard]] Verdict of(const Network& network, ElementRef element) const;
};
Review review(const Project& project, const EventResult& result);

/// Faults of the project's data that need no solve beyond compile: names, ranges, references, rain tables.
std::vector<Finding> data_findings(const Project& project, const Network& network);

/// Service level: per family, which events an element passes.
struct ServiceLevel {
    std::vector<EventId> events;
    std::array<std::vector<Verdict>, 5> rows;  ///< in the order of `service_names`
    bool on_street = false;                    ///< an inlet of a street: spread is one of its rows
    /// Rarest event passed together with all commoner ones, over all rows; none if not even the first.
    [[nodiscard]] int passed() const;
};
constexpr std::array<std::string_view, 5> service_names{"Capacity", "Surcharge", "Freeboard", "Flooding", "Spread"};
/// Of a pipe with the structure it leaves, or of a structure with its main pipe.
ServiceLevel service_level(const Project& project, const std::vector<std::shared_ptr<const EventResult>>& results,
                           ElementRef element);

}  // namespace culvert
