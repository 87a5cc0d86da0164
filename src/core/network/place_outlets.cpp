// SPDX-License-Identifier: GPL-3.0-or-later
// What stands at the ends of a network: tailwater ratings, levels by event, receiving channels; and the angles at which
// pipes meet.
#include <algorithm>
#include <cmath>

#include "core/base/contract.h"
#include "core/network/network.h"

namespace culvert {
namespace {

class Outlets {
  public:
    Outlets(const Project& project, Network& network) : project_(project), net_(network) {}

    void run() {
        for (Node& n : net_.nodes) {
            if (n.kind != StructureKind::Outfall) continue;
            const Structure& s = *project_.structures.find(n.structure.value);
            if (n.tailwater == Tailwater::Rating) rate(s, n);
            if (!std::isnan(usable(s, &Structure::channel_width, not_given))) receive(s, n);
        }
        turns();
        tail_levels();
    }

  private:
    void fault(Severity severity, const Structure& s, std::string field, std::string title, std::string detail,
               std::string remedy) {
        net_.faults.push_back({severity,
                               {Kind::Structure, s.id},
                               std::move(field),
                               std::move(title),
                               std::move(detail),
                               std::move(remedy)});
    }
    /// The rating of an outfall's tailwater; a free outfall where it is at fault.
    void rate(const Structure& s, Node& n) {
        const auto &q = s.rating_flows, &z = s.rating_levels;
        std::string why;
        if (q.empty() || q.size() != z.size())
            why = "has " + std::to_string(q.size()) + " flows and " + std::to_string(z.size()) + " levels";
        for (std::size_t i = 1; why.empty() && i < q.size(); ++i)
            if (!(q[i] > q[i - 1]) || !(z[i] >= z[i - 1])) why = "does not rise from place " + std::to_string(i);
        if (why.empty()) {
            n.rating = static_cast<int>(net_.ratings.size());
            net_.ratings.push_back({q, z});
            return;
        }
        fault(Severity::Error, s, "rating_flows", "tailwater rating at fault",
              "The tailwater rating of " + s.name + " " + why + ": it is solved as a free outfall.",
              "Give as many levels as flows, both rising.");
        n.tailwater = Tailwater::Free;
    }
    void receive(const Structure& s, Node& n) {
        const Channel c{s.channel_width,
                        usable(s, &Structure::channel_sides, 2),
                        usable(s, &Structure::channel_slope, not_given),
                        usable(s, &Structure::channel_roughness, 0.03),
                        usable(s, &Structure::channel_velocity, not_given),
                        usable(s, &Structure::channel_shear, not_given)};
        if (!(c.slope > 0) || !(c.width + c.sides > 0)) {
            fault(Severity::Warning, s, c.slope > 0 ? "channel_width" : "channel_slope",
                  "receiving channel not complete",
                  "The channel below " + s.name + " has " +
                      (c.slope > 0 ? "neither a bed nor sloping sides" : "no slope") +
                      ": its depth and velocity are not known.",
                  c.slope > 0 ? "Give its bed width or its side slopes." : "Give its slope.");
            return;
        }
        n.channel = static_cast<int>(net_.channels.size());
        net_.channels.push_back(c);
    }

    /// First or last stretch of a link, along its listing.
    [[nodiscard]] Point direction(const Link& l, bool first) const {
        const Pipe* p = project_.pipes.find(l.pipe.value);
        const Structure *a = project_.structures.find(nth(net_.nodes, l.from).structure.value),
                        *b = project_.structures.find(nth(net_.nodes, l.to).structure.value);
        const bool along = p->from.value == a->id;
        Point from{a->x, a->y}, to{b->x, b->y};
        if (!p->bends.empty()) {
            if (first) to = along ? p->bends.front() : p->bends.back();
            else from = along ? p->bends.back() : p->bends.front();
        }
        return {to.x - from.x, to.y - from.y};
    }
    void turns() {
        for (Link& l : net_.links) {
            const Node& to = nth(net_.nodes, l.to);
            if (!to.access_hole || to.out == no_link) continue;
            const Point u = direction(l, false), v = direction(nth(net_.links, to.out), true);
            const double both = std::hypot(u.x, u.y) * std::hypot(v.x, v.y);
            constexpr double degrees = 57.29577951308232;
            if (both > 0) l.turn = 180 - std::acos(std::clamp((u.x * v.x + u.y * v.y) / both, -1.0, 1.0)) * degrees;
        }
    }
    void tail_levels() {
        for (const OutfallLevel& row : project_.outfall_levels) {
            const int node = net_.node_of(row.structure);
            if (node == no_node || nth(net_.nodes, node).kind != StructureKind::Outfall || !row.event ||
                std::isnan(usable(row, &OutfallLevel::level, not_given)))
                continue;
            net_.tail_levels.push_back({node, row.event, row.level});
        }
        std::stable_sort(net_.tail_levels.begin(), net_.tail_levels.end(),
                         [](auto& a, auto& b) { return std::tie(a.node, a.event) < std::tie(b.node, b.event); });
    }

    const Project& project_;
    Network& net_;
};

}  // namespace

void place_outlets(const Project& project, Network& network) { Outlets(project, network).run(); }

}  // namespace culvert
