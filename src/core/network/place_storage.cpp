// SPDX-License-Identifier: GPL-3.0-or-later
// What is computed through time: grounds with their losses, ponds with their ways out, the order in which water runs.
#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/contract.h"
#include "core/model/catchment_time.h"
#include "core/network/network.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

constexpr double paved_from = 0.999;

double first_given(std::initializer_list<double> list) {
    for (const double v : list)
        if (!std::isnan(v)) return v;
    return not_given;
}

class StoragePlacer {
  public:
    StoragePlacer(const Project& project, Network& network)
        : project_(project), net_(network), units_(units_of(project)) {}

    void run() {
        releases();
        const bool by_time = project_.settings().runoff_by != RunoffBy::Rational;
        const bool any = std::any_of(project_.structures.begin(), project_.structures.end(),
                                     [](const Structure& s) { return s.kind == StructureKind::Pond; });
        if (!by_time && !any && project_.ponds.size() == 0 && project_.outlets.size() == 0) return;
        ponds();
        if (!by_time) {
            for (const PondNode& p : time_.ponds) {
                // Pipes below that get none of its water are sized too small: that is no mere hint.
                const bool below =
                    std::any_of(p.ways.begin(), p.ways.end(), [](const WayOut& w) { return w.target >= 0; });
                const bool piped = nth(net_.nodes, p.node).out != no_link;
                fault(below && !piped ? Severity::Error : Severity::Warning, Kind::Pond, p.row, "", "not routed",
                      element_name(project_, Kind::Pond, p.row) +
                          " is not routed: the rational method gives no hydrographs. " +
                          (piped   ? "Its water runs on by its pipe as it comes."
                           : below ? "What leaves it runs nowhere: all below it is computed without that water."
                                   : "What leaves it leaves the site."),
                      "Choose runoff by the modified rational method (the same C, Tc and rain), or by unit hydrograph, "
                      "in the project's settings.");
            }
            return;
        }
        settings();
        areas();
        order_water(project_, net_, time_);
        net_.through_time = std::make_shared<const ThroughTime>(std::move(time_));
    }

  private:
    void fault(Severity severity, Kind kind, std::uint64_t id, std::string field, std::string title, std::string detail,
               std::string remedy) {
        net_.faults.push_back(
            {severity, {kind, id}, std::move(field), std::move(title), std::move(detail), std::move(remedy)});
    }
    [[nodiscard]] std::string label(Kind kind, std::uint64_t id) const { return element_name(project_, kind, id); }

    void settings() {
        const Settings& s = project_.settings();
        const Settings usual;
        time_.step = usable(s, &Settings::computing_step, usual.computing_step);
        if (std::isnan(time_.step)) time_.step = usual.computing_step;
        // No more steps than a hundred thousand for the longest storm.
        for (const RainEvent& e : project_.events)
            for (const double length : {usable(e, &RainEvent::storm_length, 0), usable(s, &Settings::storm_length, 0)})
                if (length > 0) time_.step = std::max(time_.step, length / 100'000);
        time_.output_interval = usable(s, &Settings::output_interval, usual.output_interval);
        time_.after_rain = usable(s, &Settings::after_rain, not_given);
        time_.storm_length = usable(s, &Settings::storm_length, not_given);
        time_.storm_peak = usable(s, &Settings::storm_peak, usual.storm_peak);
        time_.travel_by = s.travel_by;
        time_.storm_by = s.storm_by;
        time_.cut = s.release_cut;
        time_.least_freeboard = usable(s, &Settings::least_freeboard, usual.least_freeboard);
        time_.most_drawdown = usable(s, &Settings::most_drawdown, usual.most_drawdown);
    }

    void areas() {
        const Settings& s = project_.settings();
        std::map<std::uint64_t, std::vector<const LandCover*>> covers;
        for (const LandCover& l : project_.land_covers)
            if (usable(l, &LandCover::area, 0) > 0) covers[l.catchment.value].push_back(&l);
        const IdfCurve rain = rain_of_times(project_);
        std::vector<RunoffArea> all;
        for (const Catchment& c : project_.catchments) {
            const int node = net_.node_of(target_of(project_, c));
            if (node == no_node) continue;
            RunoffArea a;
            a.catchment = {c.id};
            a.node = node;
            const ConcentrationTime found = concentration_time(project_, c, rain);
            // Half a minute at least: no ground answers sooner, and its blocks of rain would be without number.
            a.time = std::max({std::isnan(found.time) ? 0 : found.time, net_.least_time, 30.0});
            a.by = c.transform != TransformBy::Project ? c.transform
                                                       : static_cast<TransformBy>(static_cast<int>(s.runoff_by));
            a.peak_factor = first_given({usable(c, &Catchment::peak_factor, not_given),
                                         usable(s, &Settings::peak_factor, not_given), nrcs_peak_factor});
            const auto of = covers.find(c.id);
            if (of != covers.end())
                for (const LandCover* l : of->second) ground(a, c, l);
            else if (usable(c, &Catchment::area, 0) > 0) ground(a, c, nullptr);
            if (!(a.area > 0)) continue;
            const double length =
                first_given({usable(c, &Catchment::path_length, not_given),
                             c.flow_path.size() > 1 ? culvert::length(c.flow_path) : not_given, std::sqrt(a.area)});
            a.plane_width =
                first_given({usable(c, &Catchment::plane_width, not_given), a.area / std::max(length, 1.0)});
            a.plane_slope = std::max(1e-4, first_given({usable(c, &Catchment::path_slope, not_given), 0.01}));
            a.plane_roughness = first_given({usable(c, &Catchment::plane_roughness, not_given), 0.1});
            all.push_back(std::move(a));
        }
        std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.node < b.node; });
        time_.areas = std::move(all);
        for (std::size_t i = 0; i < time_.areas.size(); ++i)
            time_.by_catchment.emplace_back(time_.areas[i].catchment.value, static_cast<int>(i));
        std::sort(time_.by_catchment.begin(), time_.by_catchment.end());
        time_.area_begin.assign(net_.nodes.size() + 1, 0);
        for (const RunoffArea& a : time_.areas) ++time_.area_begin[static_cast<std::size_t>(a.node) + 1];
        for (std::size_t i = 0; i < net_.nodes.size(); ++i) time_.area_begin[i + 1] += time_.area_begin[i];
    }
    /// Adds a land cover, or a catchment without any, parted into what is paved and what is not.
    void ground(RunoffArea& a, const Catchment& c, const LandCover* l) {
        const Settings& s = project_.settings();
        const double area = l ? l->area : c.area;
        const double own = l ? usable(*l, &LandCover::impervious, not_given) : not_given;
        const double paved = std::clamp(
            l ? (std::isnan(own) ? 0.0 : own) : first_given({usable(c, &Catchment::impervious, not_given), 0.0}), 0.0,
            1.0);
        const double coefficient =
            l ? usable(*l, &LandCover::coefficient, not_given) : usable(c, &Catchment::coefficient, not_given);
        if (!std::isnan(coefficient)) a.effective_area += coefficient * area;
        const double held = first_given({l ? usable(*l, &LandCover::storage, not_given) : not_given,
                                         usable(c, &Catchment::storage, not_given),
                                         usable(s, &Settings::paved_storage, 0.0015), 0.0015});
        const bool over = l && l->drains == CoverDrains::OverPervious;
        const LossModel loss = loss_of(s, c, l);
        a.area += area;
        // A curve number of a paved cover is that of the whole of it already.
        const bool whole =
            paved >= paved_from && l && !std::isnan(l->curve_number) && std::holds_alternative<CurveNumberLoss>(loss);
        if (whole || over) {
            a.parts.push_back({area, loss});
            return;
        }
        if (paved > 0) a.parts.push_back({area * paved, HeldLoss{held}});
        if (paved < 1) a.parts.push_back({area * (1 - paved), loss});
    }

    void ponds() {
        std::vector<std::pair<int, const Pond*>> found;
        for (const Pond& p : project_.ponds) {
            const int node = net_.node_of(p.structure);
            if (node == no_node) {
                if (p.structure && !project_.structures.find(p.structure.value))
                    continue;  // named as a broken reference
                fault(Severity::Error, Kind::Pond, p.id, "structure", "pond without a structure",
                      label(Kind::Pond, p.id) + " stands at no structure of the network: it keeps nothing.",
                      "Choose the structure whose water it keeps.");
                continue;
            }
            found.emplace_back(node, &p);
        }
        std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        time_.pond_of.assign(net_.nodes.size(), -1);
        for (const auto& [node, row] : found) {
            if (nth(time_.pond_of, node) >= 0) {
                fault(Severity::Error, Kind::Pond, row->id, "structure", "two ponds at one structure",
                      label(Kind::Pond, row->id) + " stands at a structure that has a pond already: it is left out.",
                      "Delete one of them, or add its space to the other.");
                continue;
            }
            std::string why;
            StageStorage space = storage_of(*row, &why);
            if (space.empty()) {
                fault(Severity::Error, Kind::Pond, row->id, "levels", "space at fault",
                      label(Kind::Pond, row->id) + ": " + why + ". It keeps nothing.",
                      "Correct its space in the card.");
                continue;
            }
            PondNode p;
            p.row = row->id;
            p.node = node;
            p.storage = std::move(space);
            p.start_level = usable(*row, &Pond::start_level, not_given);
            if (std::isnan(p.start_level)) p.start_level = p.storage.bottom();
            p.start_level = std::max(p.start_level, p.storage.bottom());
            p.crest = usable(*row, &Pond::crest, not_given);
            if (std::isnan(p.crest)) p.crest = nth(net_.nodes, node).rim;
            p.soakage = first_given({usable(*row, &Pond::soakage, 0), 0});
            pipes_out(p);
            outlets(p);
            nth(time_.pond_of, node) = static_cast<int>(time_.ponds.size());
            if (p.ways.empty() && !(p.soakage > 0))
                fault(Severity::Error, Kind::Pond, p.row, "", "no way out",
                      label(Kind::Pond, p.row) + " has no outlet: its water only rises.", "Add an outlet.");
            else if (p.ways.size() == 1)
                fault(Severity::Warning, Kind::Pond, p.row, "", "one way out",
                      label(Kind::Pond, p.row) + " has one way out only: where that is blocked it runs over its bank.",
                      "Add an overflow above its highest level.");
            time_.ponds.push_back(std::move(p));
        }
        for (const Structure& s : project_.structures)
            if (s.kind == StructureKind::Pond && s.status != Status::Abandoned)
                if (const int node = net_.node_of(StructureId{s.id}); node == no_node || nth(time_.pond_of, node) < 0)
                    if (std::none_of(project_.ponds.begin(), project_.ponds.end(),
                                     [&](const Pond& p) { return p.structure.value == s.id; }))
                        fault(Severity::Warning, Kind::Structure, s.id, "kind", "pond without space",
                              "Pond " + s.name + " has no space by level: what enters it leaves the site as it comes.",
                              "Give it storage in its card.");
        for (const PondOutlet& o : project_.outlets)
            if (const int node = net_.node_of(o.structure); node == no_node || nth(time_.pond_of, node) < 0)
                fault(Severity::Error, Kind::PondOutlet, o.id, "structure", "outlet without a pond",
                      "Outlet " + label(Kind::PondOutlet, o.id) + " leaves no pond: nothing runs by it.",
                      "Give its structure storage, or delete the outlet.");
    }
    [[nodiscard]] double highest(const PondNode& p) const {
        return std::max(p.storage.top(), std::isnan(p.crest) ? p.storage.top() : p.crest) + 2;
    }
    /// Pipes that leave a pond run as culverts.
    void pipes_out(PondNode& p) {
        const Node& n = nth(net_.nodes, p.node);
        for (int l = n.out; l != no_link && l < n.link_end; ++l) {
            const Link& link = nth(net_.links, l);
            if (!link.solvable) continue;
            CulvertBarrel barrel{
                link.section, link.invert_up, link.length,
                link.slope,   link.roughness, culvert_entrances()[std::holds_alternative<Box>(link.section) ? 7 : 0]};
            WayOut w;
            w.how = std::make_shared<const CulvertRating>(barrel, highest(p));
            w.count = link.barrels;
            w.target = link.to;
            w.row = link.pipe.value;
            p.ways.push_back(std::move(w));
            p.pipes.push_back(l);
        }
    }
    void outlets(PondNode& p) {
        std::vector<const PondOutlet*> rows;
        for (const PondOutlet& o : project_.outlets)
            if (net_.node_of(o.structure) == p.node) rows.push_back(&o);
        std::sort(rows.begin(), rows.end(), [](auto* a, auto* b) { return a->id < b->id; });
        std::vector<const PondOutlet*> taken;
        const std::size_t first = p.ways.size();
        for (const PondOutlet* o : rows) {
            std::string why;
            std::optional<WayOut> way = way_of(*o, highest(p), &why);
            if (way && o->to == o->structure) why = "it leads back to its own pond", way.reset();
            if (!way) {
                fault(Severity::Error, Kind::PondOutlet, o->id, "", "outlet at fault",
                      "Outlet " + label(Kind::PondOutlet, o->id) + ": " + why + ". Nothing runs by it.",
                      "Correct it in the card.");
                continue;
            }
            if (o->to) {
                way->target = net_.node_of(o->to);
                if (way->target == no_node)
                    fault(Severity::Error, Kind::PondOutlet, o->id, "to", "leads nowhere",
                          "Outlet " + label(Kind::PondOutlet, o->id) +
                              " leads to a structure that is not part of the network: its water leaves the site.",
                          "Choose where it leads.");
            }
            if (!way->pump && lowest_way({&*way, 1}) < p.storage.bottom() - 1e-6)
                fault(Severity::Warning, Kind::PondOutlet, o->id, "level", "outlet below the bottom",
                      "Outlet " + label(Kind::PondOutlet, o->id) + " begins at " +
                          units_.text(lowest_way({&*way, 1}), Quantity::Level) +
                          ", below the lowest level of the space, " + units_.text(p.storage.bottom(), Quantity::Level) +
                          ".",
                      "Give the space down to there, or raise the outlet.");
            p.ways.push_back(*std::move(way));
            p.pipes.push_back(-1);
            taken.push_back(o);
        }
        for (std::size_t i = 0; i < taken.size(); ++i) {
            if (taken[i]->behind.empty()) continue;
            int at = -1;
            for (std::size_t k = 0; k < taken.size(); ++k)
                if (k != i && taken[k]->name == taken[i]->behind) at = static_cast<int>(k);
            if (at < 0 || !nth(taken, at)->behind.empty() || p.ways[first + static_cast<std::size_t>(at)].pump) {
                fault(Severity::Error, Kind::PondOutlet, taken[i]->id, "behind", "leads through no outlet",
                      "Outlet " + label(Kind::PondOutlet, taken[i]->id) + " shall run through \"" + taken[i]->behind +
                          "\", which is no outlet of this pond that leads out: it is taken by itself.",
                      "Name an outlet of the same pond that leads out.");
                continue;
            }
            p.ways[first + i].behind = static_cast<int>(first) + at;
        }
    }

    void releases() {
        std::map<int, double> drained;  // by node, all that drains to it by pipes
        const auto area_at = [&](int node) {
            if (drained.empty()) {
                for (const Catchment& c : project_.catchments) {
                    double area = usable(c, &Catchment::area, 0);
                    double parts = 0;
                    for (const LandCover& l : project_.land_covers)
                        if (l.catchment.value == c.id) parts += usable(l, &LandCover::area, 0);
                    if (parts > 0) area = parts;
                    if (std::isnan(area)) continue;
                    for (int n = net_.node_of(target_of(project_, c)); n != no_node; n = nth(net_.nodes, n).down)
                        drained[n] += area;
                }
                drained.emplace(-1, 0);
            }
            return drained[node];
        };
        for (const Release& r : project_.releases) {
            const int node = net_.node_of(r.structure);
            if (node == no_node || !r.event) continue;
            double flow = usable(r, &Release::flow, not_given);
            if (std::isnan(flow)) flow = usable(r, &Release::area_rate, not_given) * area_at(node);
            if (std::isnan(flow) && !(std::isnan(r.flow) && std::isnan(r.area_rate))) continue;  // out of range
            if (std::isnan(flow)) {
                fault(Severity::Warning, Kind::Release, r.id, "flow", "release not given",
                      "The allowed " + label(Kind::Release, r.id) + " has neither a flow nor a flow of the area.",
                      "Give one of them.");
                continue;
            }
            net_.releases.push_back({node, r.event, flow});
        }
        std::sort(net_.releases.begin(), net_.releases.end(), [](const AllowedRelease& a, const AllowedRelease& b) {
            return std::tie(a.node, a.event) < std::tie(b.node, b.event);
        });
    }

    const Project& project_;
    Network& net_;
    UnitSet units_;
    ThroughTime time_;
};

}  // namespace

void place_storage(const Project& project, Network& network) { StoragePlacer(project, network).run(); }

}  // namespace culvert
