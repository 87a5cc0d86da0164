// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <map>
#include <stop_token>

#include "core/analysis/grade_line.h"
#include "core/analysis/rational.h"

/// Solves a project for its events, keeping what an edit does not touch.
///
/// Stages are keyed by their inputs: a component whose nodes, links, covers and settings are unchanged keeps its flows,
/// and all of it where nothing was touched; a pipe whose inputs (PipeInput) are unchanged keeps its grade line. The
/// answer is bit for bit that of a solve from nothing.
namespace culvert {

using Results = std::vector<std::shared_ptr<const EventResult>>;

class Solver {
  public:
    /// Called with each event's result as it is ready, the first event first, on the calling thread.
    using Publish = std::function<void(std::shared_ptr<const EventResult>)>;

    /// @param first   event to solve before the others; none: in order
    /// @return        results in the order of events_in_order(); empty if stopped, and the kept state stays whole
    Results solve(const Project& project, std::uint64_t revision, EventId first = {}, const std::stop_token& stop = {},
                  const Publish& publish = {});

    /// A solver that holds results already, all of one solve of this project: its first solve computes what an edit
    /// touched and no more.
    static Solver warm(const Project& project, const Results& results);

    [[nodiscard]] std::shared_ptr<const Network> network() const { return network_; }

  private:
    struct Kept {
        EventRain rain;
        std::shared_ptr<const EventResult> result;
    };
    /// What of a component is as it was in the kept network.
    struct Same {
        bool flows = false, levels = false;
    };
    std::shared_ptr<const EventResult> solve_event(const std::shared_ptr<const Network>& network, const EventRain& rain,
                                                   std::uint64_t revision, const std::vector<Same>& same, bool streets,
                                                   const std::stop_token& stop) const;

    Project project_;  ///< the state that network_ is of
    std::shared_ptr<const Network> network_;
    std::map<EventId, Kept> kept_;
};

/// Flows and levels of all components, from nothing. Returns the number of barrels computed.
std::size_t solve_all(const Network& network, const EventRain& rain, Summaries& out, const std::stop_token& stop = {});
/// One event over a compiled network, from nothing.
EventResult solve_one(const std::shared_ptr<const Network>& network, const EventRain& rain);
/// A single solve from nothing.
Results solve(const Project& project);

}  // namespace culvert
