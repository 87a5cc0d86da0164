// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/event_rain.h"

#include <algorithm>
#include <cmath>

#include "core/hydrology/design_storm.h"

namespace culvert {
namespace {
constexpr double day = 86400, finest_step = 300;
constexpr double shortest_part = 1;
constexpr std::size_t most_shares = 10000, most_steps = 5000;

/// Parts of unequal length on equal steps: each falls evenly between its times, and none of its depth is lost.
EventStorm on_equal_steps(const std::vector<double>& depths, const std::vector<double>& ends) {
    double least = finest_step, from = 0;
    for (const double t : ends) least = std::min(least, t - from), from = t;
    const double whole = ends.back();
    const std::size_t n =
        std::clamp<std::size_t>(static_cast<std::size_t>(std::ceil(whole / least - 1e-9)), 1, most_steps);
    EventStorm storm{std::vector<double>(n, 0.0), whole / static_cast<double>(n)};
    from = 0;
    for (std::size_t i = 0; i < ends.size(); ++i) {
        const double to = ends[i];
        std::size_t k = std::min(n - 1, static_cast<std::size_t>(from / storm.step + 1e-9));
        double left = depths[i];
        for (; k + 1 < n && static_cast<double>(k + 1) * storm.step < to - 1e-9; ++k) {
            const double end = static_cast<double>(k + 1) * storm.step;
            const double part = depths[i] * (end - std::max(from, static_cast<double>(k) * storm.step)) / (to - from);
            storm.depths[k] += part;
            left -= part;
        }
        storm.depths[k] += left;
        from = to;
    }
    return storm;
}
}  // namespace

std::string event_rain_fault(const RainEvent& e) {
    if (e.given == RainGiven::Intensities) return idf_fault(e.durations, e.intensities);
    if (!(e.depth > 0 && e.depth <= 5)) return "its depth is not given";
    const bool nrcs = e.given != RainGiven::Uniform && e.given != RainGiven::OwnPattern;
    const bool timed = e.given == RainGiven::OwnPattern && !e.pattern_times.empty();
    if (!nrcs && !timed && !(e.storm_length > 0 && e.storm_length <= longest_duration))
        return "its storm length is not given";
    if (e.given == RainGiven::OwnPattern) {
        if (e.pattern_shares.empty()) return "its pattern has no parts";
        if (e.pattern_shares.size() > most_shares) return "its pattern has more than 10,000 parts";
        double sum = 0;
        for (std::size_t i = 0; i < e.pattern_shares.size(); ++i) {
            if (!(e.pattern_shares[i] >= 0 && e.pattern_shares[i] <= 1e9))
                return "part " + std::to_string(i + 1) + " of its pattern is no number from 0 up";
            sum += e.pattern_shares[i];
        }
        if (!(sum > 0)) return "its pattern holds no rain";
        if (timed && e.pattern_times.size() != e.pattern_shares.size())
            return "its pattern has " + std::to_string(e.pattern_shares.size()) + " parts and " +
                   std::to_string(e.pattern_times.size()) + " times: each part ends at one";
        for (std::size_t i = 0; i < e.pattern_times.size(); ++i) {
            const double from = i > 0 ? e.pattern_times[i - 1] : 0;
            if (!(e.pattern_times[i] >= from + shortest_part))
                return i > 0 && e.pattern_times[i] == from
                           ? "time " + std::to_string(i + 1) + " of its pattern is that before it again"
                           : "time " + std::to_string(i + 1) + " of its pattern is no second after that before it";
        }
        if (timed && !(e.pattern_times.back() <= longest_duration)) return "its pattern lasts too long";
    }
    const double length = nrcs ? day : timed ? e.pattern_times.back() : e.storm_length;
    if (e.depth / length > highest_intensity) return "its depth falls faster than any rain that was measured";
    return {};
}

EventStorm storm_of(const RainEvent& e) {
    EventStorm storm;
    if (e.given == RainGiven::Intensities || !event_rain_fault(e).empty()) return storm;
    if (e.given == RainGiven::OwnPattern) {
        double sum = 0;
        for (const double s : e.pattern_shares) sum += s;
        for (const double s : e.pattern_shares) storm.depths.push_back(e.depth * s / sum);
        if (!e.pattern_times.empty()) return on_equal_steps(storm.depths, e.pattern_times);
        storm.step = e.storm_length / static_cast<double>(e.pattern_shares.size());
    } else if (e.given == RainGiven::Uniform) {
        const int blocks = std::clamp(static_cast<int>(std::lround(e.storm_length / finest_step)), 1, 288);
        storm.depths = uniform_storm(e.depth, blocks);
        storm.step = e.storm_length / blocks;
    } else {
        const Nrcs24 type = static_cast<Nrcs24>(static_cast<int>(e.given) - static_cast<int>(RainGiven::NrcsI));
        storm.depths = nrcs_storm(type, e.depth, finest_step);
        storm.step = finest_step;
    }
    return storm;
}

EventRainTable windows_of(const EventStorm& storm) {
    EventRainTable t;
    const std::size_t n = storm.depths.size();
    std::vector<double> fallen(n + 1, 0);
    for (std::size_t i = 0; i < n; ++i) fallen[i + 1] = fallen[i] + storm.depths[i];
    // Every step at first, then ever fewer: eight windows for each doubling.
    for (std::size_t k = 1; k <= n;) {
        double most = 0;
        for (std::size_t i = 0; i + k <= n; ++i) most = std::max(most, fallen[i + k] - fallen[i]);
        t.durations.push_back(static_cast<double>(k) * storm.step);
        t.intensities.push_back(most / (static_cast<double>(k) * storm.step));
        if (k == n) break;
        k = std::min(n, k + std::max<std::size_t>(1, k / 8));
    }
    for (std::size_t i = t.intensities.size(); i-- > 1;)
        t.intensities[i - 1] = std::max(t.intensities[i - 1], t.intensities[i]);
    return t;
}

EventRainTable rain_table_of(const RainEvent& e) {
    if (e.given != RainGiven::Intensities) return windows_of(storm_of(e));
    if (!idf_fault(e.durations, e.intensities).empty()) return {};
    return {e.durations, e.intensities};
}

}  // namespace culvert
