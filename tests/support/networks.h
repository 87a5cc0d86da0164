// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cmath>
#include <map>
#include <random>

#include "core/model/edit.h"

/// Seeded random networks for property tests and the benchmark: trees of every slope, size and shape, with the awkward
/// cases that real projects have.
namespace culvert::testing {

struct Recipe {
    int pipes = 40;
    unsigned seed = 1;
    int events = 2;
    bool awkward = true;  ///< adverse and level pipes, undersized pipes, high tailwaters, joints, boxes, known flows
};

inline Project random_project(const Recipe& recipe) {
    std::mt19937 random(recipe.seed);
    const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    const auto chance = [&](double p) { return recipe.awkward && uniform(0, 1) < p; };
    Project p = new_project(recipe.seed % 2 ? UnitSystem::Si : UnitSystem::Us);
    const double sizes[] = {0.3, 0.375, 0.45, 0.525, 0.6, 0.75, 0.9, 1.2};
    std::uint64_t next = 1000;
    std::vector<std::uint64_t> ids;
    std::vector<double> inverts, xs, ys, carried;
    const auto structure = [&](StructureKind kind, double x, double y, double rim) {
        Structure s;
        s.id = next++ * 2654435761u % 1000000007u + 5000;  // ids in no order of the tree
        s.name = "S" + std::to_string(ids.size());
        s.kind = kind;
        s.x = x;
        s.y = y;
        s.rim = rim;
        return s;
    };
    Structure outfall = structure(StructureKind::Outfall, 0, 0, 103);
    if (chance(0.5)) {
        outfall.tailwater = Tailwater::Level;
        outfall.tailwater_level = 100 + uniform(-0.3, 2.2);
    }
    p.structures.insert(outfall);
    ids.push_back(outfall.id);
    inverts.push_back(100);
    xs.push_back(0);
    ys.push_back(0);
    for (int i = 0; i < recipe.pipes; ++i) {
        const std::size_t to = uniform(0, 1) < 0.7
                                   ? ids.size() - 1
                                   : static_cast<std::size_t>(uniform(0, static_cast<double>(ids.size()) - 0.001));
        const double length = uniform(15, 110), angle = uniform(0, 6.28);
        double slope = chance(0.25) ? uniform(0.03, 0.15) : uniform(0.002, 0.02);
        if (chance(0.06)) slope = -uniform(0.0005, 0.004);
        if (chance(0.04)) slope = 0;
        const double low = inverts[to] + (chance(0.5) ? 0.0 : uniform(0, 0.4));
        const double high = low + slope * length;
        const StructureKind kind =
            chance(0.2) ? StructureKind::Joint : (uniform(0, 1) < 0.6 ? StructureKind::Inlet : StructureKind::Manhole);
        Structure s = structure(kind, xs[to] + length * std::cos(angle), ys[to] + length * std::sin(angle),
                                high + uniform(1.5, 4));
        if (chance(0.1)) s.known_flow = uniform(0.001, 0.05);
        p.structures.insert(s);
        Pipe pipe;
        pipe.id = s.id + 1;
        const bool along = uniform(0, 1) < 0.7;
        pipe.from = {along ? s.id : ids[to]};
        pipe.to = {along ? ids[to] : s.id};
        pipe.invert_from = along ? high : low;
        pipe.invert_to = along ? low : high;
        pipe.size = sizes[static_cast<std::size_t>(uniform(0, 7.99))];
        pipe.material = "concrete";
        if (chance(0.15)) {
            pipe.shape = Shape::Box;
            pipe.width = pipe.size * uniform(0.8, 2);
        }
        p.pipes.insert(pipe);
        if (kind == StructureKind::Inlet) {
            Catchment c;
            c.id = s.id + 2;
            c.name = "C" + std::to_string(i);
            c.structure = {s.id};
            c.area = uniform(300, 5000);
            c.coefficient = uniform(0.3, 0.95);
            c.time = uniform(120, 1200);
            p.catchments.insert(c);
        }
        ids.push_back(s.id);
        inverts.push_back(high);
        xs.push_back(s.x);
        ys.push_back(s.y);
    }
    const double years[] = {2, 5, 10, 25, 50, 100};
    for (int e = 0; e < recipe.events; ++e) {
        RainEvent event;
        event.id = static_cast<std::uint64_t>(10 + e);
        event.return_period = years[e % 6];
        event.name = std::to_string(static_cast<int>(event.return_period)) + " years";
        event.frequency_factor = 1 + 0.05 * (e % 6);
        for (const double minutes : {5.0, 10.0, 20.0, 40.0, 80.0}) {
            event.durations.push_back(minutes * 60);
            event.intensities.push_back((600 + 180 * e) / std::pow(minutes + 10, 0.75) / 3.6e6);
        }
        p.events.insert(event);
    }
    return p;
}

/// Many districts of 100 pipes each, sized as a designer would: three in four by their flow, the others a step too
/// small. What a large project looks like; the cost of one element does not depend on how many districts there are.
inline Project sized_project(int pipes, int events, bool awkward = false) {
    Project all = random_project({.pipes = 1, .seed = 11, .events = events});
    all.structures = {};
    all.pipes = {};
    all.catchments = {};
    const double sizes[] = {0.3, 0.375, 0.45, 0.525, 0.6, 0.75, 0.9, 1.05, 1.2, 1.5, 1.8, 2.1};
    const int districts = (pipes + 99) / 100, side = static_cast<int>(std::ceil(std::sqrt(districts)));
    for (int d = 0; d < districts; ++d) {
        Project part = random_project({.pipes = std::min(100, pipes - 100 * d),
                                       .seed = 100u + static_cast<unsigned>(d % 50) * 2 + 1,
                                       .events = 1,
                                       .awkward = awkward});
        const auto moved = [d](std::uint64_t id) { return id ? id + static_cast<std::uint64_t>(d) * 2000000011u : 0; };
        std::map<std::uint64_t, double> flow;  // a designer's estimate: 100 mm/h on all that drains here
        std::map<std::uint64_t, std::uint64_t> next;
        for (const Pipe& p : part.pipes) { next[p.id - 1] = p.from.value == p.id - 1 ? p.to.value : p.from.value; }
        for (const Catchment& c : part.catchments)
            for (std::uint64_t at = c.structure.value; next.contains(at); at = next[at])
                flow[at] += c.area * c.coefficient * 60 / 3.6e6;
        for (Structure s : part.structures) {
            s.id = moved(s.id);
            s.name = std::to_string(d) + "-" + s.name;
            s.x += d % side * 900.0;
            s.y += d / side * 900.0;
            all.structures.insert(s);
        }
        for (Pipe p : part.pipes) {
            const std::uint64_t upper = p.id - 1;
            const Structure &a = *part.structures.find(p.from.value), &b = *part.structures.find(p.to.value);
            const double slope =
                std::max(0.002, std::abs(p.invert_from - p.invert_to) / std::hypot(a.x - b.x, a.y - b.y));
            const double needed = std::pow(std::max(flow[upper], 0.01) * 0.013 / (0.3117 * std::sqrt(slope)), 3.0 / 8);
            std::size_t k = 0;
            while (k + 1 < std::size(sizes) && sizes[k] < needed) ++k;
            if (p.id % 4 == 0 && k > 0) --k;
            p.size = sizes[k];
            p.width = not_given;
            p.id = moved(p.id);
            p.from.value = moved(p.from.value);
            p.to.value = moved(p.to.value);
            all.pipes.insert(p);
        }
        for (Catchment c : part.catchments) {
            c.id = moved(c.id);
            c.structure.value = moved(c.structure.value);
            all.catchments.insert(c);
        }
    }
    return all;
}

/// One run of pipes, straight and even: 30 m each at 1 %, 1.4 m deep, each structure with its catchment.
inline Project chain_project(int pipes, int events) {
    Project all = random_project({.pipes = 1, .seed = 11, .events = events});
    all.structures = {};
    all.pipes = {};
    all.catchments = {};
    for (int i = 0; i <= pipes; ++i) {
        Structure s;
        s.id = 1000u + static_cast<unsigned>(i) * 10;
        s.name = "A" + std::to_string(i + 1);
        s.kind = i == pipes ? StructureKind::Outfall : StructureKind::Inlet;
        s.x = 30.0 * i;
        s.y = 0;
        s.rim = 200 - 0.3 * i;
        all.structures.insert(s);
        if (i == pipes) break;
        Pipe p;
        p.id = s.id + 1;
        p.from = {s.id};
        p.to = {s.id + 10};
        p.size = i < 20 ? 0.45 : (i < 60 ? 0.75 : 0.9);
        p.invert_from = 198.2 - 0.3 * i;
        p.invert_to = 197.9 - 0.3 * i;
        all.pipes.insert(p);
        Catchment c;
        c.id = s.id + 2;
        c.name = s.name + " area";
        c.structure = {s.id};
        c.area = 400;
        c.coefficient = 0.7;
        c.time = 400;
        all.catchments.insert(c);
    }
    return all;
}

}  // namespace culvert::testing
