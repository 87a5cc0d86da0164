// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/streets/spacing.h"

#include <algorithm>
#include <cmath>

namespace culvert {
namespace {

/// Grade of a part of the profile that water runs along, m/m, > 0.
double fall_at(const StreetProfile& profile, double station, int step) {
    return std::abs(grade_at(profile, station + (step > 0 ? 1e-6 : -1e-6)));
}
/// Stations of the profile's points strictly between two places, in the order of the way.
std::vector<double> corners(const StreetProfile& profile, double from, double to) {
    std::vector<double> out;
    for (const StreetPoint& p : profile)
        if ((p.station - from) * (p.station - to) < 0) out.push_back(p.station);
    if (from > to) std::reverse(out.begin(), out.end());
    out.push_back(to);
    return out;
}

class Spacer {
  public:
    explicit Spacer(const SpacingTask& task) : t_(task) {}

    double allowed(double grade) const {
        return flow_of_depth({t_.section, grade, t_.n}, depth_of_spread(t_.section, t_.allowed_spread), t_.constants);
    }
    /// An inlet on a grade at a station, met by a flow.
    SpacedInlet stand(double station, int step, double approach) const {
        SpacedInlet in;
        in.station = station;
        in.approach = approach;
        const Capture c =
            on_grade(t_.inlet, {t_.section, fall_at(t_.profile, station, -step), t_.n}, approach, t_.constants);
        in.depth = c.approach.depth;
        in.spread = c.approach.spread;
        in.captured = c.captured;
        in.bypass = approach - c.captured;
        return in;
    }
    /// Out of the ranges where none may stand: up the street, the water coming from `head`.
    double moved(double station, double head, int step) const {
        for (bool again = true; again;) {
            again = false;
            for (const auto& [a, b] : t_.avoid)
                if (station > a && station < b) {
                    station = step > 0 ? a : b;
                    again = true;
                }
        }
        return step > 0 ? std::max(station, head) : std::min(station, head);
    }
    /// Down one run. What reaches its low end is returned.
    double run(const Run& r, double stop, Spacing& out) {
        const int step = r.low > r.high ? 1 : -1;
        double at = r.high, flow = 0;
        int last = -1;
        for (int guard = 0; guard < 100000; ++guard) {
            // The first place where the flow meets what its grade allows.
            double s = at, q = flow, found = 0;
            bool meets = false;
            for (const double next : corners(t_.profile, at, stop)) {
                const double most = allowed(fall_at(t_.profile, (s + next) / 2, step));
                const double needs = t_.load > 0 ? (most - q) / t_.load : 1e300;
                if (needs < std::abs(next - s)) {
                    found = s + step * std::max(needs, 0.0);
                    meets = true;
                    break;
                }
                q += t_.load * std::abs(next - s);
                s = next;
            }
            if (!meets) {
                flow += t_.load * std::abs(stop - at);
                length_ = std::abs(stop - at);
                begins_ = at;
                last_ = last;
                return flow;
            }
            double place = moved(found, at, step);
            if (std::abs(place - at) < t_.least_gap) {
                if (last >= 0 || std::abs(found - at) < t_.least_gap) {
                    place = at + step * t_.least_gap;
                    out.notes.push_back("at station " + std::to_string(std::lround(place)) +
                                        " m what passes the inlet above already spreads further than allowed");
                }
                if (std::abs(place - at) < 1e-9 || (place - stop) * step >= 0) {
                    flow += t_.load * std::abs(stop - at);
                    length_ = std::abs(stop - at);
                    begins_ = at;
                    last_ = last;
                    return flow;
                }
            }
            SpacedInlet in = stand(place, step, flow + t_.load * std::abs(place - at));
            in.drains_from = std::min(place, at);
            in.drains_to = std::max(place, at);
            in.length = std::abs(place - at);
            in.own = t_.load * std::abs(place - at);
            if (last >= 0) out.inlets[static_cast<std::size_t>(last)].to = static_cast<int>(out.inlets.size());
            last = static_cast<int>(out.inlets.size());
            flow = in.bypass;
            at = place;
            out.inlets.push_back(in);
        }
        return flow;
    }
    double length_ = 0, begins_ = 0;  ///< of curb below the last inlet of a run, and where that begins
    int last_ = -1;                   ///< that inlet

    const SpacingTask& t_;
};

void sort_by_station(std::vector<SpacedInlet>& list) {
    std::vector<int> order(list.size()), place(list.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = static_cast<int>(i);
    std::stable_sort(order.begin(), order.end(), [&](int a, int b) {
        return list[static_cast<std::size_t>(a)].station < list[static_cast<std::size_t>(b)].station;
    });
    for (std::size_t i = 0; i < order.size(); ++i) place[static_cast<std::size_t>(order[i])] = static_cast<int>(i);
    std::vector<SpacedInlet> sorted;
    for (const int i : order) {
        SpacedInlet in = list[static_cast<std::size_t>(i)];
        if (in.to >= 0) in.to = place[static_cast<std::size_t>(in.to)];
        sorted.push_back(in);
    }
    list = std::move(sorted);
}

}  // namespace

std::vector<Run> runs_of(const StreetProfile& profile, double begin, double end) {
    std::vector<StreetPoint> p{{begin, level_at(profile, begin)}};
    for (const StreetPoint& q : profile)
        if (q.station > begin && q.station < end) p.push_back(q);
    p.push_back({end, level_at(profile, end)});
    // Turns of the profile; level parts go on as before.
    std::vector<std::size_t> turns{0};
    int way = 0;
    for (std::size_t i = 1; i < p.size(); ++i) {
        const int now = p[i].level > p[i - 1].level ? 1 : p[i].level < p[i - 1].level ? -1 : way;
        if (way != 0 && now != way) turns.push_back(i - 1);
        way = now;
    }
    turns.push_back(p.size() - 1);
    std::vector<Run> out;
    for (std::size_t k = 0; k + 1 < turns.size(); ++k) {
        const StreetPoint &a = p[turns[k]], &b = p[turns[k + 1]];
        const bool falls = b.level < a.level;
        const std::size_t low = falls ? k + 1 : k;
        out.push_back(
            {falls ? a.station : b.station, falls ? b.station : a.station, low != 0 && low + 1 != turns.size()});
    }
    return out;
}

Spacing space_inlets(const SpacingTask& t) {
    Spacing out;
    if (t.profile.size() < 2 || !(t.end > t.begin)) {
        out.fault = "the street has no profile";
        return out;
    }
    if (!(t.allowed_spread > 0)) {
        out.fault = "no spread is allowed: set the most spread among the limits";
        return out;
    }
    if (!(t.load > 0)) {
        out.fault = "no water comes to the curb: it needs a drained width, a runoff C and rain";
        return out;
    }
    Spacer spacer(t);
    const double sag_depth_allowed = std::min(depth_of_spread(t.section, t.allowed_spread), t.crest);
    struct Low {
        double station, flow = 0, length = 0, from_station, to_station;
        std::vector<int> from;
    };
    std::vector<Low> lows;
    for (const Run& r : runs_of(t.profile, t.begin, t.end)) {
        const int step = r.low > r.high ? 1 : -1;
        double stop = r.low;
        if (r.sag && t.flankers) {  // where the street lies 0.37 of the allowed depth above the low point
            const double level = level_at(t.profile, r.low) + 0.37 * sag_depth_allowed;
            for (const double s : corners(t.profile, r.low, r.high))
                if (level_at(t.profile, s) >= level) {
                    double a = r.low, b = s;
                    for (int i = 0; i < 60; ++i) {
                        const double mid = (a + b) / 2;
                        (level_at(t.profile, mid) < level ? a : b) = mid;
                    }
                    stop = b;
                    break;
                }
        }
        double flow = spacer.run(r, stop, out);
        double length = spacer.length_, begins = spacer.begins_;
        int last = spacer.last_;
        const double place = spacer.moved(stop, r.high, step);
        if (stop != r.low && std::abs(place - begins) < t.least_gap) {  // the inlet that stands there already is one
            flow += t.load * std::abs(r.low - stop);
            length += std::abs(r.low - stop);
        } else if (stop != r.low) {
            SpacedInlet in = spacer.stand(place, step, flow - t.load * std::abs(stop - place));
            in.as = SpacedAs::Flanker;
            in.length = length - std::abs(stop - place);
            in.own = t.load * in.length;
            in.drains_from = std::min(place, begins);
            in.drains_to = std::max(place, begins);
            begins = place;
            if (last >= 0) out.inlets[static_cast<std::size_t>(last)].to = static_cast<int>(out.inlets.size());
            last = static_cast<int>(out.inlets.size());
            length = std::abs(r.low - place);
            flow = in.bypass + t.load * length;
            out.inlets.push_back(in);
        }
        if (!r.sag) {
            (step > 0 ? out.leaves_end : out.leaves_begin) += flow;
            continue;
        }
        auto low = std::find_if(lows.begin(), lows.end(), [&](const Low& l) { return l.station == r.low; });
        if (low == lows.end()) low = lows.insert(low, Low{r.low, 0, 0, r.low, r.low, {}});
        low->flow += flow;
        low->length += length;
        low->from_station = std::min(low->from_station, begins);
        low->to_station = std::max(low->to_station, begins);
        if (last >= 0) low->from.push_back(last);
    }
    for (const Low& l : lows) {
        SpacedInlet in;
        in.station = l.station;
        in.as = SpacedAs::Sag;
        in.drains_from = l.from_station;
        in.drains_to = l.to_station;
        in.length = l.length;
        in.own = t.load * l.length;
        in.approach = in.captured = l.flow;
        in.depth = sag_depth(t.inlet, t.section, l.flow, t.constants);
        in.spread = spread_of_depth(t.section, in.depth);
        if (in.depth > sag_depth_allowed * (1 + 1e-9))
            out.notes.push_back("the sag at station " + std::to_string(std::lround(l.station)) +
                                " m spreads further than allowed: take a larger inlet there, or flankers");
        for (const int i : l.from) out.inlets[static_cast<std::size_t>(i)].to = static_cast<int>(out.inlets.size());
        out.inlets.push_back(in);
    }
    sort_by_station(out.inlets);
    return out;
}

}  // namespace culvert
