// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/catchment_series.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/catchment_flow.h"
#include "core/base/contract.h"
#include "core/network/through_time.h"

namespace culvert {

CatchmentSeries series_of_catchment(const Network& network, const EventRain& rain, CatchmentId catchment) {
    constexpr double low = 1.0 / 500, longest_tail = 5;  // of the peak; times of concentration
    CatchmentSeries s;
    if (!network.through_time) return s;
    const ThroughTime& t = *network.through_time;
    const auto at = std::lower_bound(t.by_catchment.begin(), t.by_catchment.end(), std::pair{catchment.value, 0},
                                     [](const auto& a, const auto& b) { return a.first < b.first; });
    if (at == t.by_catchment.end() || at->first != catchment.value) return s;
    const RunoffArea& area = nth(t.areas, at->second);
    s.step = t.step;
    s.rain = storm_steps(network, rain);
    if (s.rain.empty()) return s;
    const std::size_t storm = s.rain.size();
    std::size_t count = storm + static_cast<std::size_t>(std::ceil(longest_tail * area.time / s.step)) + 10;
    s.flow.assign(count, 0.0);
    CatchmentFlow maker;
    RunoffSummary summary;
    s.beyond = maker.run(area, s.rain, rain.frequency_factor, s.step, s.flow, summary);
    const double peak = *std::max_element(s.flow.begin(), s.flow.end());
    while (count > storm && s.flow[count - 1] <= low * peak) s.beyond += s.flow[--count] * s.step;
    s.flow.resize(count);
    for (std::size_t k = 0; k < storm; ++k) {
        s.runoff.push_back(area.area > 0 ? maker.ran_off()[k] / area.area : 0);
        s.lost.push_back(std::max(0.0, s.rain[k] - s.runoff[k]));
    }
    for (auto* list : {&s.rain, &s.lost, &s.runoff}) list->resize(count, 0.0);
    return s;
}

}  // namespace culvert
