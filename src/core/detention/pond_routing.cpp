// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/detention/pond_routing.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"

namespace culvert {
namespace {

constexpr double peak_within = 5e-4, change_within = 1e-2, far_off = 0.05;
constexpr int most_parts = 64, most_rounds = 5;

class Routing {
  public:
    explicit Routing(const PondInput& in) : in_(in), n_(in.inflow.size()), w_(in.ways.size()) {
        below_.assign(w_, std::nan(""));
        flows_.resize(w_);
        changes_.assign(n_, 0);
        met_ = std::any_of(in.below.begin(), in.below.end(), [](const auto& list) { return !list.empty(); });
        pumps_ = std::any_of(in.ways.begin(), in.ways.end(), [](const WayOut& w) { return w.pump; });
    }

    /// Parts of steps are chosen on the way, by how the outflow changes; halved up to where it changes until its peak
    /// stands; then all of it with the parts that were found to do.
    PondRoute run() {
        std::vector<int> parts(n_, 0);
        PondRoute r = pass(parts, n_);
        if (in_.against > 0 && std::abs(r.peak_outflow - in_.against) > far_off * in_.against) return r;
        // A step that turned out to change more than was foreseen: the first of all, one in which a crest is reached.
        std::size_t until = 0;
        for (std::size_t i = 0; i < n_; ++i) {
            parts[i] = std::max(parts[i], parts_for(changes_[i], r.peak_outflow));
            if (parts[i] > 1) until = i + 1;
        }
        double peak = r.peak_outflow;
        int rounds = 0;
        while (until > 0 && rounds < most_rounds) {
            for (std::size_t i = 0; i < until; ++i)
                if (parts[i] > 1) parts[i] = std::min(parts[i] * 2, most_parts);
            const double finer = pass(parts, until).peak_outflow;
            const bool same = std::abs(finer - peak) <= peak_within * finer;
            if (same) break;
            peak = finer;
            ++rounds;
        }
        if (rounds > 0) r = pass(parts, n_);
        return r;
    }

  private:
    double out(double level) {
        ++evaluations_;
        double sum = pond_outflow(in_.ways, level, below_, running_, flows_);
        if (!in_.blocked.empty())
            for (std::size_t k = 0; k < w_; ++k)
                if (in_.blocked[k] && in_.ways[k].behind < 0) sum -= flows_[k].flow, flows_[k].flow = 0;
        return std::max(0.0, sum);
    }
    double soak(double level) const { return in_.soakage > 0 ? in_.soakage * in_.storage->area(level) : 0; }

    /// Level with V(h) + weight (O(h) + soakage) = known, both rising with it: a secant from where it stood, held in a
    /// bracket. What runs out there is left in `now_`.
    /// @param from      level at the beginning, with what is stored and runs out there
    double level_of(double known, double weight, double from, double stored, double runs) {
        const StageStorage& s = *in_.storage;
        const auto missing = [&](double h) {
            now_ = out(h);
            soaks_ = soak(h);
            return s.volume(h) + weight * (now_ + soaks_) - known;
        };
        const double enough = 1e-9 * std::max(1.0, std::abs(known)), bottom = s.bottom();
        double low = bottom, high = HUGE_VAL;
        double h = from, f = stored + weight * runs - known;
        if (f > 0) high = from;
        else low = from;
        double slope = std::max(area_, 1e-6) + weight * slope_;
        for (int i = 0; i < 100; ++i) {
            if (std::abs(f) <= enough && i > 0) return h;
            double next = h - f / slope;
            if (next <= bottom) {
                if (missing(bottom) >= 0) return bottom;  // it runs dry within the step
                low = std::max(low, bottom);
                next = std::isfinite(high) ? (bottom + high) / 2 : bottom + 0.1;
            }
            if (next <= low || next >= high)
                next = std::isfinite(high) ? (low + high) / 2 : low + std::max(1e-3, 2 * (h - low));
            const double f2 = missing(next);
            if (f2 > 0) high = std::min(high, next);
            else low = std::max(low, next);
            const double rise = next != h ? (f2 - f) / (next - h) : slope;
            slope = std::max(rise, 1e-6);
            if (high - low < 1e-9 || std::abs(next - h) < 1e-12) return next;
            h = next;
            f = f2;
        }
        return h;
    }

    /// How many parts a step needs whose outflow will change about so much.
    int parts_for(double change, double peak) const {
        const double by = change / std::max(change_within * peak, 1e-9);
        return by > 1 ? std::clamp(static_cast<int>(std::ceil(std::sqrt(by))) * 2, 2, most_parts) : 1;
    }

    /// @param parts  of each step; 0: to be chosen
    /// @param until  steps that are computed
    PondRoute pass(std::vector<int>& parts, std::size_t until) {
        const StageStorage& s = *in_.storage;
        PondRoute r;
        r.level.resize(n_);
        r.outflow.assign(n_, 0);
        r.ways.assign(n_ * w_, 0);
        r.way_peaks.assign(w_, 0);
        area_ = s.area(in_.start_level);
        running_.assign(w_, 0);
        const std::size_t counted = evaluations_;
        double h = in_.start_level, v = s.volume(h);
        const double first = v;
        double most = v;
        r.peak_level = h;
        meet(0);
        switch_pumps(in_.ways, h, running_);
        double o = out(h), loss = soak(h);
        std::vector<OutletFlow> before = flows_;
        double changed = 0;
        slope_ = 0;
        for (std::size_t i = 0; i < until; ++i) {
            const double inflow = in_.inflow[i];
            meet(i);
            if (parts[i] == 0) {
                const double rise = (inflow - o) * in_.step / std::max(area_, 1e-6);
                parts[i] = parts_for(std::max(changed, std::abs(rise) * slope_), r.peak_outflow);
            }
            const double dt = in_.step / parts[i], began = o;
            if (inflow == 0 && o == 0 && loss == 0 && !pumps_) {  // nothing moves
                r.level[i] = h;
                changed = 0;
                continue;
            }
            if (met_) o = out(h), before = flows_;  // what stands below may have changed
            for (int k = 0; k < parts[i]; ++k) {
                if (pumps_) {
                    switch_pumps(in_.ways, h, running_);
                    o = out(h);
                    before = flows_;
                }
                double known = v + dt * inflow - dt / 2 * (o + loss), weight = dt / 2;
                // More than twice what is stored would leave at this rate: the end of the part stands for all of it.
                const bool swings = dt * (o + loss) > 2 * (v - s.volume(s.bottom()) + dt * inflow) || known < 0;
                if (swings) known = v + dt * inflow, weight = dt;
                double h2 = level_of(known, weight, h, v, o + loss);
                double o2 = now_, loss2 = soaks_;
                if (!swings && dt * (o2 - o) > 2 * (s.volume(h2) - v) && h2 > h) {  // stiff: it would swing
                    h2 = level_of(v + dt * inflow, dt, h, v, o + loss);
                    o2 = now_, loss2 = soaks_;
                    weight = dt;
                }
                const double v2 = s.volume(h2);
                if (std::abs(h2 - h) > 1e-7) {
                    slope_ = std::max(0.0, (o2 - o) / (h2 - h));
                    area_ = std::max(1e-6, (v2 - v) / (h2 - h));
                }
                const double ran = std::max(0.0, v + dt * inflow - v2);
                const double by_ways = weight == dt ? o2 : (o + o2) / 2,
                             by_soil = weight == dt ? loss2 : (loss + loss2) / 2;
                const double share = by_ways + by_soil > 0 ? by_ways / (by_ways + by_soil) : 1;
                r.outflow[i] += ran * share / in_.step;
                r.soaked += ran * (1 - share);
                // At its bottom the pond gives no more than comes in, whatever the ways below it could take.
                const bool empty = h2 <= s.bottom() && o2 > 0;
                const double part_of = empty ? std::min(1.0, ran * share / dt / o2) : 1;
                double sum = 0;
                for (std::size_t m = 0; m < w_; ++m)
                    if (in_.ways[m].behind < 0)
                        sum += weight == dt ? flows_[m].flow : (before[m].flow + flows_[m].flow) / 2;
                for (std::size_t m = 0; m < w_; ++m) {
                    const double mean = weight == dt ? flows_[m].flow : (before[m].flow + flows_[m].flow) / 2;
                    r.ways[m * n_ + i] += sum > 0 ? mean / sum * ran * share / in_.step : 0;
                    r.way_peaks[m] = std::max(r.way_peaks[m], flows_[m].flow * part_of);
                }
                h = h2, v = v2, o = o2, loss = loss2;
                before = flows_;
                const double time = static_cast<double>(i) * in_.step + (k + 1) * dt;
                if (o * part_of > r.peak_outflow) r.peak_outflow = o * part_of, r.peak_outflow_time = time;
                if (h > r.peak_level) r.peak_level = h, r.peak_level_time = time;
                if (v > most) most = v, r.drawdown = -1;
                else if (r.drawdown < 0 && most > first && v <= first + 0.1 * (most - first))
                    r.drawdown = time - r.peak_level_time;
            }
            r.level[i] = h;
            changed = std::abs(o - began);
            changes_[i] = changed;
            r.inflow_volume += inflow * in_.step;
            r.outflow_volume += r.outflow[i] * in_.step;
        }
        r.stored = v - first;
        r.most_stored = most - first;
        r.above_curve = std::max(0.0, r.peak_level - s.top());
        r.evaluations = evaluations_ - counted;
        return r;
    }
    void meet(std::size_t i) {
        for (std::size_t k = 0; k < w_ && k < in_.below.size(); ++k)
            below_[k] = i < in_.below[k].size() ? in_.below[k][i] : std::nan("");
    }

    const PondInput& in_;
    std::size_t n_, w_, evaluations_ = 0;
    std::vector<double> below_;
    std::vector<double> changes_;  ///< of the outflow, per step
    std::vector<OutletFlow> flows_;
    std::vector<char> running_;
    double now_ = 0, soaks_ = 0;  ///< by the ways and into the ground, at the level looked at last
    double slope_ = 0;            ///< of the outflow by the level, between the last two
    double area_ = 1;             ///< of the water, between the last two levels
    bool pumps_ = false, met_ = false;
};

}  // namespace

PondRoute route_pond(const PondInput& pond) { return Routing(pond).run(); }

std::vector<RatingRow> rating_of(const StageStorage& s, std::span<const WayOut> ways, double from, double to,
                                 int rows) {
    std::vector<RatingRow> list;
    std::vector<char> running(ways.size(), 0);
    for (int i = 0; i < rows; ++i) {
        RatingRow r;
        r.level = rows > 1 ? from + (to - from) * i / (rows - 1) : from;
        r.area = s.empty() ? 0 : s.area(r.level);
        r.volume = s.empty() ? 0 : s.volume(r.level);
        r.ways.resize(ways.size());
        switch_pumps(ways, r.level, running);
        r.outflow = pond_outflow(ways, r.level, {}, running, r.ways);
        list.push_back(std::move(r));
    }
    return list;
}

}  // namespace culvert
