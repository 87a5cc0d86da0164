// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/capture_curve.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/street_flow.h"
#include "core/base/contract.h"

namespace culvert {
namespace {

constexpr double close_enough = 1e-3;  ///< of the largest flow
constexpr int first_parts = 4, most_halvings = 4;

double taken(const StreetInlet& inlet, double flow, const StreetConstants& constants) {
    StreetFlow street;
    return flow > 0 ? taken_by(inlet, flow, constants, street) : 0;
}

}  // namespace

double CaptureCurve::at(double flow) const {
    if (flows.empty()) return flow;
    if (!(flow > 0)) return 0;
    const auto above = std::upper_bound(flows.begin(), flows.end(), flow);
    if (above == flows.end()) return captured.back();
    const auto i = static_cast<std::size_t>(above - flows.begin());
    const double share = (flow - flows[i - 1]) / (flows[i] - flows[i - 1]);
    return captured[i - 1] + share * (captured[i] - captured[i - 1]);
}

CaptureCurve capture_curve(const StreetInlet& inlet, double largest, const StreetConstants& constants) {
    CaptureCurve c;
    const double most = taken(inlet, largest, constants);
    if (!(most < largest)) return c;
    if (inlet.sag) {
        c.flows = {0, most, largest};
        c.captured = {0, most, most};
        if (!(most > 0)) c.flows.erase(c.flows.begin() + 1), c.captured.erase(c.captured.begin() + 1);
        return c;
    }
    c.flows = {0};
    c.captured = {0};
    const auto add = [&](double to, double at_end) {
        c.flows.push_back(to);
        c.captured.push_back(at_end);
    };
    const auto part = [&](auto& self, double from, double at_start, double to, double at_end, int halvings) -> void {
        const double middle = (from + to) / 2, there = taken(inlet, middle, constants);
        const bool straight = std::abs(there - (at_start + at_end) / 2) <= close_enough * largest;
        if (straight || halvings == 0) {
            add(middle, there);
            add(to, at_end);
            return;
        }
        self(self, from, at_start, middle, there, halvings - 1);
        self(self, middle, there, to, at_end, halvings - 1);
    };
    double at_start = 0;
    for (int i = 1; i <= first_parts; ++i) {
        const double from = largest * (i - 1) / first_parts, to = largest * i / first_parts;
        const double at_end = i == first_parts ? most : taken(inlet, to, constants);
        part(part, from, at_start, to, at_end, most_halvings);
        at_start = at_end;
    }
    return c;
}

}  // namespace culvert
