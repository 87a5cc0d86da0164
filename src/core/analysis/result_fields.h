// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <span>
#include <string_view>

#include "core/analysis/results.h"
#include "core/base/stage.h"
#include "core/base/units.h"
#include "core/hydraulics/open_channel.h"

/// The catalogue of what a result is: the twin of the field table. Ledger, plan colours with their legend, tooltip,
/// profile table, card, command-line table and JSON are generic over it, and derived values (freeboard, filled depth,
/// cover) are computed here only. A new quantity is one row of the table in result_fields.cpp.
namespace culvert {

struct PondNode;  // core/network/through_time.h

/// What a result belongs to. A pipe shows a node's results as those of the structure it leaves; those of catchments
/// (what they make of the rain) are known through time only.
enum class ResultOn : std::uint8_t { Link, Node, Area };

/// Where a result is shown without being asked for; JSON and the card's list hold all.
enum ResultShown : unsigned { in_ledger = 1, in_table = 2, in_profile = 4, in_tip = 8 };

/// Bounds between four classes of colour, SI, rising; none where the plan cannot colour by it.
struct ResultClasses {
    std::array<double, 3> bounds{not_given, not_given, not_given};
    bool more_is_worse = true;
    [[nodiscard]] bool empty() const { return !(bounds[0] == bounds[0]); }
    /// 0 (best) to 3 (worst).
    [[nodiscard]] int of(double value) const;
};

struct ResultField {
    std::string_view key;    ///< in JSON, settings and comparisons
    std::string_view label;  ///< in the interface: "Flow ratio"
    std::string_view head;   ///< of a narrow column: "ratio"
    Quantity quantity = Quantity::None;
    ResultOn on = ResultOn::Link;
    Stage stage = Stage::Pipes;
    unsigned shown = 0;
    /// Of a link, node or catchment (of ThroughTime::areas), by its index; NaN where it is not known.
    double (*value)(const EventResult&, std::size_t index) = nullptr;
    std::string_view help;
    ResultClasses classes = {};
};

/// All results of links, of nodes or of catchments, in the order in which tables show them.
std::span<const ResultField> result_fields(ResultOn on);
/// Of what elements of a kind show: pipes those of links, catchments their own, others those of nodes.
ResultOn results_of(Kind kind);
/// By its key; null where there is none. A pointer holds until the catalogue grows.
const ResultField* result_field(ResultOn on, std::string_view key);
/// Adds one to those that are built in, before anything shows results: for extensions, and tests of the views.
void add_result_field(const ResultField& field);

/// Derived values that checks hold against limits as well.
double filled_depth(const EventResult& result, std::size_t link);  ///< y / D at normal depth; 1 where it runs full
double cover_up(const EventResult& result, std::size_t link);      ///< rim to the outside of the crown
double cover_down(const EventResult& result, std::size_t link);
double freeboard(const EventResult& result, std::size_t node);   ///< rim less HGL
double lowest_out(const EventResult& result, std::size_t node);  ///< lowest invert of the pipes that leave; NaN: none

/// A pond at a node, and what is allowed to leave there in the event; null and NaN where there is none.
const PondSummary* pond_at(const EventResult& result, std::size_t node);
const PondNode* pond_node_at(const EventResult& result, std::size_t node);
double allowed_release(const EventResult& result, std::size_t node);
/// What leaves at a node through time or by the steady flow: a pond's largest outflow, else the flow.
double released(const EventResult& result, std::size_t node);

/// In the channel that receives an outfall's water; dry where it has none.
ChannelState receiving(const EventResult& result, std::size_t node);

/// Where an element's values of that sort stand; below 0: it is not part of the solution.
int result_index(const EventResult& result, ResultOn on, ElementRef element);
/// The value at an element: of its own, or for a pipe and a node's field of the structure it leaves; NaN where it is
/// not part of the solution.
double result_at(const EventResult& result, const ResultField& field, ElementRef element);

}  // namespace culvert
