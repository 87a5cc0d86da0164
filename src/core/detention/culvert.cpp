// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/detention/culvert.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"
#include "core/hydraulics/barrel.h"
#include "core/hydraulics/uniform_flow.h"

namespace culvert {
namespace {

constexpr double us_flow = 1.811;  ///< of Q / (A D^1/2) in SI, in the units of the US form
constexpr double open_to = 3.5, full_from = 4.0;
constexpr int flow_count = 40;  ///< at first; more where a relation bends
constexpr std::size_t most_flows = 200;
constexpr double straight_within = 0.003;                ///< of the height
constexpr double tail_shares[] = {0.6, 0.75, 0.9, 1.0};  ///< of the height

double velocity_head(double v) { return v * v / (2 * gravity); }

/// A value on a rising list of places: the place that gives it.
double read_back(const std::vector<double>& x, const std::vector<double>& y, double wanted) {
    if (!(wanted > y.front())) return x.front();
    const auto at = std::upper_bound(y.begin(), y.end(), wanted);
    if (at == y.end()) return HUGE_VAL;
    const std::size_t i = static_cast<std::size_t>(at - y.begin());
    return x[i - 1] + (x[i] - x[i - 1]) * (wanted - y[i - 1]) / (y[i] - y[i - 1]);
}

}  // namespace

std::span<const EntranceNumbers> culvert_entrances() {
    static constexpr EntranceNumbers all[] = {
        {"concrete circle, square edge in a headwall", 1, 0.0098, 2.0, 0.0398, 0.67, 0.5},
        {"concrete circle, groove end in a headwall", 1, 0.0018, 2.0, 0.0292, 0.74, 0.2},
        {"concrete circle, groove end projecting", 1, 0.0045, 2.0, 0.0317, 0.69, 0.2},
        {"metal circle, headwall", 1, 0.0078, 2.0, 0.0379, 0.69, 0.5},
        {"metal circle, mitered to the slope", 1, 0.0210, 1.33, 0.0463, 0.75, 0.7, true},
        {"metal circle, projecting", 1, 0.0340, 1.50, 0.0553, 0.54, 0.9},
        {"box, wingwalls flared 30 to 75 degrees", 1, 0.026, 1.0, 0.0347, 0.81, 0.4},
        {"box, headwall or wingwalls flared 15 degrees", 1, 0.061, 0.75, 0.0400, 0.80, 0.5},
        {"box, wingwalls straight on", 1, 0.061, 0.75, 0.0423, 0.82, 0.7},
    };
    return all;
}

double inlet_control_depth(const CulvertBarrel& c, double flow) {
    if (!(flow > 0)) return 0;
    const EntranceNumbers& e = c.entrance;
    const double d = height(c.section), q = us_flow * flow / (full_area(c.section) * std::sqrt(d)),
                 slope = (e.mitered ? 0.7 : -0.5) * c.slope;
    const auto open = [&](double at) {
        const double k = e.k * std::pow(at, e.m);
        if (e.form == 2) return k;
        const double one = at / us_flow * full_area(c.section) * std::sqrt(d);
        return specific_energy(c.section, critical_depth(c.section, one), one) / d + k + slope;
    };
    const auto drowned = [&](double at) { return e.c * at * at + e.y + slope; };
    double ratio = 0;
    if (q <= open_to) ratio = open(q);
    else if (q >= full_from) ratio = drowned(q);
    else ratio = open(open_to) + (drowned(full_from) - open(open_to)) * (q - open_to) / (full_from - open_to);
    return std::max(0.0, ratio * d);
}

double outlet_control_depth(const CulvertBarrel& c, double flow, double below) {
    const double end = c.invert - c.slope * c.length;
    const double tail = std::isnan(below) ? 0 : std::max(0.0, below - end);
    if (!(flow > 0)) return std::max(0.0, end + tail - c.invert);
    const Barrel barrel{c.section, c.roughness, c.length, c.slope, flow};
    const BarrelState state = state_of(barrel);
    double up = state.critical;
    // A steep barrel whose water below does not reach its entrance starts at critical depth.
    if (!state.steep || tail > state.critical) {
        const SubcriticalCurve curve = subcritical_curve(barrel, state, std::max(tail, state.critical));
        if (!state.steep || curve.reach >= c.length) up = std::max(curve.depth_up, state.critical);
    }
    const double v = flow / wetted(c.section, up).area;
    return up + (1 + c.entrance.loss) * velocity_head(v);
}

CulvertRating::CulvertRating(const CulvertBarrel& culvert, double highest)
    : culvert_(culvert), area_(full_area(culvert.section)), height_(height(culvert.section)) {
    end_invert_ = culvert.invert - culvert.slope * culvert.length;
    const double radius = area_ / full_perimeter(culvert.section);
    full_loss_ = (1 + culvert.entrance.loss +
                  2 * gravity * culvert.roughness * culvert.roughness * culvert.length / std::pow(radius, 4.0 / 3)) /
                 (2 * gravity * area_ * area_);
    // The largest flow by either control at the highest level is below that of a short full barrel.
    const double head = std::max(highest - culvert.invert, height_) + std::max(0.0, culvert.slope * culvert.length);
    const double most = 1.2 * area_ * std::sqrt(2 * gravity * head) + 1e-9;
    std::vector<double> free;
    for (int i = 0; i <= flow_count; ++i) {
        const double share = static_cast<double>(i) / flow_count;
        flows_.push_back(most * share * share);  // closer together where little runs
        inlet_.push_back(inlet_control_depth(culvert, flows_.back()));
        free.push_back(outlet_control_depth(culvert, flows_.back(), std::nan("")));
    }
    for (std::size_t i = 0; i + 1 < flows_.size() && flows_.size() < most_flows;) {
        const double q = (flows_[i] + flows_[i + 1]) / 2, in = inlet_control_depth(culvert, q),
                     out = outlet_control_depth(culvert, q, std::nan(""));
        const double off =
            std::max(std::abs(in - (inlet_[i] + inlet_[i + 1]) / 2), std::abs(out - (free[i] + free[i + 1]) / 2));
        if (off <= straight_within * height_ || flows_[i + 1] - flows_[i] < 2e-3 * flows_[i + 1]) {
            ++i;
            continue;
        }
        const auto at = static_cast<std::ptrdiff_t>(i + 1);
        flows_.insert(flows_.begin() + at, q);
        inlet_.insert(inlet_.begin() + at, in);
        free.insert(free.begin() + at, out);
    }
    const auto rising = [](std::vector<double>& list) {  // the table is read backwards: it never falls
        for (std::size_t i = 1; i < list.size(); ++i) list[i] = std::max(list[i], list[i - 1] + 1e-9);
    };
    rising(inlet_);
    rising(free);
    tails_.push_back(0);
    outlet_.push_back(std::move(free));
    for (const double s : tail_shares) tails_.push_back(s * height_);
    for (std::size_t i = 1; i < tails_.size(); ++i) {
        const double t = tails_[i];
        std::vector<double> depths;
        for (const double q : flows_) depths.push_back(outlet_control_depth(culvert, q, end_invert_ + t));
        rising(depths);
        outlet_.push_back(std::move(depths));
    }
}

double CulvertRating::by_outlet(double depth, double below) const {
    const double tail = std::isnan(below) ? 0 : std::max(0.0, below - end_invert_);
    if (tail >= tails_.back()) {  // full from end to end: depth + z = tail + (1 + ke + friction) V^2 / 2g
        const double left = culvert_.invert + depth - end_invert_ - tail;
        return left > 0 ? std::sqrt(left / full_loss_) : 0;
    }
    std::size_t i = 1;
    while (tails_[i] < tail) ++i;
    // Between two of them the depth that a flow needs is taken in proportion, not the flow: then nothing runs where the
    // water stands as high below, and the flow grows from there without a leap.
    const double share = (tail - tails_[i - 1]) / (tails_[i] - tails_[i - 1]);
    const std::vector<double>&lower = outlet_[i - 1], &upper = outlet_[i];
    const auto needs = [&](std::size_t k) { return lower[k] + share * (upper[k] - lower[k]); };
    if (!(depth > needs(0))) return 0;
    std::size_t low = 0, high = flows_.size() - 1;
    if (!(depth < needs(high))) return HUGE_VAL;
    while (high - low > 1) {
        const std::size_t middle = (low + high) / 2;
        (depth < needs(middle) ? high : low) = middle;
    }
    const double a = needs(low), b = needs(high);
    return flows_[low] + (flows_[high] - flows_[low]) * (depth - a) / (b - a);
}

OutletFlow CulvertRating::flow(double level, double below) const {
    const double depth = level - culvert_.invert;
    if (flows_.empty() || !(depth > 0)) return {};
    if (below >= level) return {0, OutletControl::Drowned};
    const double inlet = read_back(flows_, inlet_, depth), outlet = by_outlet(depth, below);
    const double most = flows_.back() * std::sqrt(std::max(1.0, depth / inlet_.back()));
    const double q = std::min({inlet, outlet, most});
    return {q, inlet <= outlet ? OutletControl::Entrance : OutletControl::Barrel};
}

}  // namespace culvert
