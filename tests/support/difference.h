// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QString>
#include <cmath>

#include "core/analysis/results.h"

namespace culvert::testing {

inline bool same(double a, double b) { return a == b || (std::isnan(a) && std::isnan(b)); }

/// Every number of two results, bit for bit; the name of the first that differs.
inline QString difference(const EventResult& a, const EventResult& b) {
    QString at;
    const auto hold = [&](double x, double y, const char* name, std::size_t i) {
        if (at.isEmpty() && !same(x, y))
            at = QString("%1 of %2: %3, cold %4").arg(name).arg(i).arg(x, 0, 'g', 17).arg(y, 0, 'g', 17);
    };
    const auto count = [&](std::size_t x, std::size_t y, const char* name) {
        hold(static_cast<double>(x), static_cast<double>(y), name, 0);
        return x == y;
    };
    if (!count(a.nodes.size(), b.nodes.size(), "nodes") || !count(a.links.size(), b.links.size(), "links") ||
        !count(a.streets.size(), b.streets.size(), "streets") ||
        !count(a.runoffs.size(), b.runoffs.size(), "runoffs") || !count(a.ponds.size(), b.ponds.size(), "ponds") ||
        !count(a.series.size(), b.series.size(), "series"))
        return at;
    for (std::size_t i = 0; i < a.nodes.size(); ++i) {
        const NodeFlow &f = a.nodes[i].flow, &g = b.nodes[i].flow;
        hold(f.flow, g.flow, "node flow", i);
        hold(f.peak_time, g.peak_time, "peak time", i);
        hold(f.volume, g.volume, "volume", i);
        hold(f.known_flow, g.known_flow, "known flow", i);
        hold(a.nodes[i].level.level, b.nodes[i].level.level, "level", i);
        hold(a.nodes[i].level.energy, b.nodes[i].level.energy, "energy", i);
    }
    for (std::size_t i = 0; i < a.links.size(); ++i) {
        hold(a.links[i].flow.flow, b.links[i].flow.flow, "pipe flow", i);
        hold(a.links[i].flow.travel, b.links[i].flow.travel, "travel", i);
        hold(a.links[i].level.head_up, b.links[i].level.head_up, "head", i);
    }
    for (std::size_t i = 0; i < a.streets.size(); ++i) {
        hold(a.streets[i].flow, b.streets[i].flow, "street flow", i);
        hold(a.streets[i].bypass, b.streets[i].bypass, "bypass", i);
        hold(a.streets[i].spread, b.streets[i].spread, "spread", i);
        hold(a.streets[i].along, b.streets[i].along, "along the street", i);
    }
    for (std::size_t i = 0; i < a.runoffs.size(); ++i) {
        hold(a.runoffs[i].rain, b.runoffs[i].rain, "rain", i);
        hold(a.runoffs[i].runoff, b.runoffs[i].runoff, "runoff", i);
        hold(a.runoffs[i].peak, b.runoffs[i].peak, "peak", i);
    }
    for (std::size_t i = 0; i < a.ponds.size(); ++i) {
        hold(a.ponds[i].level, b.ponds[i].level, "pond level", i);
        hold(a.ponds[i].peak_outflow, b.ponds[i].peak_outflow, "pond outflow", i);
        hold(a.ponds[i].settled, b.ponds[i].settled, "settled", i);
        hold(a.ponds[i].outflow_volume, b.ponds[i].outflow_volume, "pond volume", i);
    }
    const WaterBalance &w = a.balance, &v = b.balance;
    hold(w.rain, v.rain, "all rain", 0);
    hold(w.lost, v.lost, "all losses", 0);
    hold(w.runoff, v.runoff, "all runoff", 0);
    hold(w.known, v.known, "all known", 0);
    hold(w.left, v.left, "all that left", 0);
    hold(w.stored, v.stored, "all stored", 0);
    hold(w.soaked, v.soaked, "all soaked", 0);
    hold(w.cut, v.cut, "all cut", 0);
    for (const Series& s : a.series) {
        const Series* t = b.series_of(s.element, s.key);
        if (!t) return "no series " + QString::fromStdString(s.key);
        for (std::size_t i = 0; i < s.values.size(); ++i) hold(s.values[i], t->values[i], s.key.c_str(), i);
    }
    return at;
}

}  // namespace culvert::testing
