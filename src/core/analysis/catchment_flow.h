// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <vector>

#include "core/analysis/rational.h"
#include "core/network/through_time.h"

/// What one catchment makes of a storm. See hydrograph.h for the methods.
namespace culvert {

/// Depths of an event's storm in steps of computing, uplift included, m.
std::vector<double> storm_steps(const Network& network, const EventRain& rain);

/// Makes hydrographs, one catchment after the other; room and the response of an equal one before are used again.
class CatchmentFlow {
  public:
    /// Adds to nothing: `flow` holds as many zeros as steps are computed, and is given its means, m3/s.
    /// @return  what has not run off when the steps end, m3
    double run(const RunoffArea& area, std::span<const double> depths, double frequency_factor, double step,
               std::vector<double>& flow, RunoffSummary& summary);
    /// What ran off in each step of the last run's storm, m3.
    [[nodiscard]] std::span<const double> ran_off() const { return runs_; }

  private:
    void even_response(double time, double step);
    double plane(const RunoffArea& area, double step, std::vector<double>& flow);
    double by_unit_hydrograph(const RunoffArea& area, double step, std::vector<double>& flow);
    std::vector<double> runs_, left_, even_, unit_, ends_;
    double unit_factor_ = -1;  ///< of unit_
};

}  // namespace culvert
