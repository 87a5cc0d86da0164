// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/explain_storage.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/result_fields.h"
#include "core/analysis/way_flows.h"
#include "core/base/contract.h"
#include "core/base/working_units.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

constexpr const char* nrcs10 = "USDA NRCS NEH 630, ch. 10";
constexpr const char* nrcs16 = "USDA NRCS NEH 630, ch. 16";
constexpr const char* hec22 = "FHWA HEC-22, 3rd ed. (2009), sec. 8.4";

class StorageExplainer : WorkingUnits {
  public:
    StorageExplainer(const Project& project, const EventResult& result, int node)
        : WorkingUnits(project.settings().system == UnitSystem::Us),
          project_(project),
          result_(result),
          net_(*result.network),
          node_(node) {}

    Working flow(int link) {
        const ThroughTime& t = *net_.through_time;
        catchments();
        const NodeFlow& f = nth(result_.nodes, node_).flow;
        const PondSummary* p = pond_at(result_, static_cast<std::size_t>(node_));
        steps_.push_back(
            {"Qa",
             "largest flow that arrives, of all hydrographs together",
             "",
             {},
             flow_(p ? p->peak_inflow : f.flow),
             flow_unit(),
             "sum through time, means of steps of " + working_number(t.step / 60, 4) + " min",
             "at " + working_number((p ? p->peak_inflow_time : f.peak_time) / 60, 5) + " min" + what_arrives()});
        if (p) pond();
        if (link != no_link && !p)
            steps_.push_back({"Q",
                              "largest flow in the pipe",
                              "Qa * s",
                              {{"Qa", flow_(f.flow), flow_unit(), "largest flow that leaves the structure"},
                               {"s", f.flow > 0 ? nth(result_.links, link).flow.flow / f.flow : 1, "", "its share"}},
                              flow_(nth(result_.links, link).flow.flow),
                              flow_unit(),
                              "",
                              {}});
        return std::move(steps_);
    }

    Working only_runoff() {
        catchments();
        return std::move(steps_);
    }
    Working only_pond() {
        if (pond_at(result_, static_cast<std::size_t>(node_))) pond();
        return std::move(steps_);
    }

  private:
    [[nodiscard]] double depth(double m) const { return us_ ? m / 0.0254 : m * 1000; }
    [[nodiscard]] std::string depth_unit() const { return us_ ? "in" : "mm"; }
    [[nodiscard]] double volume(double m3) const { return us_ ? m3 / (foot * foot * foot) : m3; }
    [[nodiscard]] std::string volume_unit() const { return us_ ? "ft³" : "m³"; }
    [[nodiscard]] double g() const { return us_ ? 9.81 / foot : 9.81; }
    /// A weir's coefficient in the units of the working.
    [[nodiscard]] double weir(double c) const { return us_ ? c / std::sqrt(foot) : c; }

    void catchments() {
        const ThroughTime& t = *net_.through_time;
        constexpr int most = 4;
        int shown = 0;
        const int first = nth(t.area_begin, node_), last = t.area_begin[static_cast<std::size_t>(node_) + 1];
        for (int a = first; a < last && shown < most; ++a, ++shown) catchment(nth(t.areas, a), nth(result_.runoffs, a));
    }
    /// By which ways water arrives, each at its largest: what stands behind the sum.
    [[nodiscard]] std::string what_arrives() const {
        constexpr int most = 6;
        std::vector<std::string> parts;
        const auto part = [&](double q, const std::string& how) {
            if (q > 1e-12) parts.push_back(working_number(flow_(q), 5) + " " + flow_unit() + " " + how);
        };
        const Node& n = nth(net_.nodes, node_);
        if (n.inlet != no_inlet && net_.limited) {
            const StreetFlow& s = nth(result_.streets, n.inlet);
            const bool all = nth(net_.inlets, n.inlet).end == PathEnd::Nowhere;
            part(all ? s.flow : s.captured,
                 all ? "along the street, all of which enters"
                     : "taken by its inlet, of " + working_number(flow_(s.flow), 5) + " along the street");
        } else {
            const int first = nth(net_.through_time->area_begin, node_),
                      last = nth(net_.through_time->area_begin, node_ + 1);
            double own = 0;
            for (int a = first; a < last; ++a) own += nth(result_.runoffs, a).peak;
            part(own, last - first > 1 ? "of its catchments" : "of its catchment");
            part(n.known_flow, "known flow");
            for (const FromAbove& above : over_street_to(result_, node_))
                if (net_.limited || above.spill)
                    part(above.flow,
                         "along the street from " +
                             element_name(project_, Kind::Structure, nth(net_.nodes, above.from).structure.value));
        }
        for (const Way& w : ways_into(net_, node_))
            if (!runs_over_street(net_, w)) part(flow_of(result_, w).flow, "by " + way_name(project_, net_, w));
        if (parts.empty()) return {};
        std::string words = parts.size() > 1 ? "; each at its largest: " : "; ";
        for (int i = 0; i < static_cast<int>(parts.size()) && i < most; ++i) words += (i ? ", " : "") + nth(parts, i);
        if (static_cast<int>(parts.size()) > most) words += " and " + std::to_string(parts.size() - most) + " more";
        return words;
    }
    void catchment(const RunoffArea& a, const RunoffSummary& r) {
        const std::string name = element_name(project_, Kind::Catchment, a.catchment.value);
        const CurveNumberLoss* cn = a.parts.size() == 1 ? std::get_if<CurveNumberLoss>(&a.parts[0].loss) : nullptr;
        if (cn && a.by == TransformBy::UnitHydrograph) {
            const double s = depth(retention(*cn));
            const bool converted = cn->ratio == 0.05;  // losses.h
            steps_.push_back({"S",
                              "retention of " + name,
                              converted ? (us_ ? "1.33 * (1000 / CN - 10)^1.15" : "25.4 * 1.33 * (1000 / CN - 10)^1.15")
                                        : (us_ ? "1000 / CN - 10" : "25.4 * (1000 / CN - 10)"),
                              {{"CN", cn->curve_number, "", "curve number"}},
                              s,
                              depth_unit(),
                              converted ? "" : nrcs10,
                              converted ? "of Ia = 0.05 S, found from that of 0.2" : ""});
            steps_.push_back({"Pe",
                              "depth that runs off " + name,
                              "max(0, P - r * S)^2 / (max(0, P - r * S) + S)",
                              {{"P", depth(r.rain), depth_unit(), "rain of the whole storm"},
                               {"r", cn->ratio, "", "Ia / S"},
                               {"S", s, depth_unit(), "retention"}},
                              depth(r.runoff),
                              depth_unit(),
                              nrcs10,
                              {}});
        } else
            steps_.push_back({"Pe",
                              "depth that runs off " + name,
                              "P - F - H",
                              {{"P", depth(r.rain), depth_unit(), "rain of the whole storm"},
                               {"F", depth(r.infiltrated), depth_unit(), "lost into the ground"},
                               {"H", depth(r.held), depth_unit(), "held before runoff begins"}},
                              depth(r.runoff),
                              depth_unit(),
                              "losses step by step, weighted by area over " +
                                  std::to_string(std::max<std::size_t>(1, a.parts.size())) + " parts",
                              {}});
        steps_.push_back(
            {"V",
             "volume that runs off " + name,
             us_ ? "Pe / 12 * A * 43560" : "Pe / 1000 * A * 10000",
             {{"Pe", depth(r.runoff), depth_unit(), "depth that runs off"}, {"A", area(a.area), area_unit(), "area"}},
             volume(r.runoff * a.area),
             volume_unit(),
             "",
             {}});
        if (a.by == TransformBy::UnitHydrograph)
            steps_.push_back({"tp",
                              "time to the peak of its unit hydrograph",
                              "Tc / 15 + 0.6 * Tc",
                              {{"Tc", a.time / 60, "min", "time of concentration"}},
                              a.time / 60 * 2 / 3,
                              "min",
                              nrcs16,
                              "half the unit duration of 2/15 Tc, and the lag"});
        steps_.push_back({"Qc",
                          "largest flow of " + name,
                          "",
                          {},
                          flow_(r.peak),
                          flow_unit(),
                          a.by == TransformBy::UnitHydrograph
                              ? std::string("unit hydrographs of all blocks of the storm added up; ") + nrcs16
                          : a.by == TransformBy::Plane ? "plane that empties by Manning's equation"
                                                       : "even response over Tc (modified rational)",
                          "at " + working_number(r.peak_time / 60, 5) + " min"});
    }

    void pond() {
        const PondSummary& p = *pond_at(result_, static_cast<std::size_t>(node_));
        const PondNode& n = *pond_node_at(result_, static_cast<std::size_t>(node_));
        steps_.push_back({"h",
                          "highest level of the pond",
                          "",
                          {},
                          len(p.level),
                          len_unit(),
                          "V2 - V1 = I dt - (O1 + O2)/2 dt, steps halved until the peak stands",
                          "at " + working_number(p.level_time / 60, 5) + " min"});
        std::vector<OutletFlow> each(n.ways.size());
        pond_outflow(n.ways, p.level, {}, {}, each);
        Step sum{"Qo", "flow out at the highest level", "", {}, 0, flow_unit(), "", {}};
        int k = 0;
        double all = 0;
        for (std::size_t w = 0; w < n.ways.size(); ++w) {
            const WayOut& way = n.ways[w];
            if (way.pump) continue;
            const std::string symbol = "q" + std::to_string(++k);
            rating(symbol, w, n, p.level, each[w]);
            if (way.behind >= 0) continue;
            sum.formula += (sum.formula.empty() ? "" : " + ") + symbol;
            sum.terms.push_back({symbol, flow_(each[w].flow), flow_unit(), way_label(n, w)});
            all += each[w].flow;
        }
        if (!sum.formula.empty()) {
            sum.result = flow_(all);
            sum.note = all > p.peak_outflow * (1 + 1e-3)
                           ? "without the water below it; that holds it back to " +
                                 working_number(flow_(p.peak_outflow), 5) + " " + flow_unit()
                           : "";
            steps_.push_back(sum);
        }
        steps_.push_back({"dV",
                          "water kept at the end",
                          "Vi - Vo - Vs",
                          {{"Vi", volume(p.inflow_volume), volume_unit(), "came"},
                           {"Vo", volume(p.outflow_volume), volume_unit(), "left"},
                           {"Vs", volume(p.soaked), volume_unit(), "soaked away"}},
                          volume(p.inflow_volume - p.outflow_volume - p.soaked),
                          volume_unit(),
                          "balance",
                          {}});
    }
    [[nodiscard]] std::string way_label(const PondNode& n, std::size_t w) const {
        return element_name(project_, n.pipes[w] >= 0 ? Kind::Pipe : Kind::PondOutlet, n.ways[w].row);
    }

    /// One way out at a level, by its formula where there is one.
    void rating(const std::string& symbol, std::size_t w, const PondNode& n, double level, const OutletFlow& f) {
        const WayOut& way = n.ways[w];
        Step s{symbol,        way_label(n, w), "",    {},
               flow_(f.flow), flow_unit(),     hec22, std::string("held by: ") + std::string(control_text(f.control))};
        const auto add = [&](const char* name, double value, const std::string& unit, const char* meaning) {
            s.terms.push_back({name, value, unit, meaning});
        };
        const auto heads = [&](double crest) {
            add("h", len(level), len_unit(), "level");
            add("z", len(crest), len_unit(), "crest or lowest point");
        };
        if (const auto* outlet = std::get_if<Outlet>(&way.how);
            outlet && f.control != OutletControl::Behind && f.flow > 0) {
            if (const auto* o = std::get_if<CircularOrifice>(outlet); o && level - o->invert >= 3 * o->diameter) {
                s.formula = "N * C * 3.14159265358979 / 4 * D^2 * sqrt(2 * g * (h - z - D / 2))";
                add("N", way.count, "", "alike, less what is clogged");
                add("C", o->coefficient, "", "coefficient");
                add("D", len(o->diameter), len_unit(), "diameter");
                add("g", g(), len_unit() + "/s²", "gravity");
                heads(o->invert);
            } else if (const auto* b = std::get_if<BoxOrifice>(outlet); b && level - b->invert >= 3 * b->height) {
                s.formula = "N * C * b * D * sqrt(2 * g * (h - z - D / 2))";
                add("N", way.count, "", "alike, less what is clogged");
                add("C", b->coefficient, "", "coefficient");
                add("b", len(b->width), len_unit(), "width");
                add("D", len(b->height), len_unit(), "height");
                add("g", g(), len_unit() + "/s²", "gravity");
                heads(b->invert);
            } else if (const auto* c = std::get_if<SharpWeir>(outlet)) {
                s.formula = "N * C * (L - 0.1 * e * (h - z)) * (h - z)^1.5";
                add("N", way.count, "", "alike, less what is clogged");
                add("C", weir(c->coefficient), "", "coefficient in these units");
                add("L", len(c->length), len_unit(), "length of the crest");
                add("e", c->contractions, "", "ends at which the jet is drawn in");
                heads(c->crest);
            } else if (const auto* d = std::get_if<BroadWeir>(outlet)) {
                s.formula = "N * C * L * (h - z)^1.5";
                add("N", way.count, "", "alike, less what is clogged");
                add("C", weir(d->coefficient), "", "coefficient in these units");
                add("L", len(d->length), len_unit(), "length of the crest");
                heads(d->crest);
            } else if (const auto* e = std::get_if<CipollettiWeir>(outlet)) {
                s.formula = "N * C * L * (h - z)^1.5";
                add("N", way.count, "", "alike, less what is clogged");
                add("C", weir(e->coefficient), "", "coefficient in these units");
                add("L", len(e->length), len_unit(), "length of the crest");
                heads(e->crest);
            } else if (std::holds_alternative<CircularOrifice>(*outlet) || std::holds_alternative<BoxOrifice>(*outlet))
                s.note += "; less than three heights of water: velocity integrated over what is wet of it";
        } else if (!std::holds_alternative<Outlet>(way.how)) s.source = "FHWA HDS-5, 3rd ed. (2012), app. A";
        steps_.push_back(std::move(s));
    }

    const Project& project_;
    const EventResult& result_;
    const Network& net_;
    int node_;
    Working steps_;
};

}  // namespace

Working explain_through_time(const Project& project, const EventResult& result, int node, int link) {
    return StorageExplainer(project, result, node).flow(link);
}
Working explain_runoff(const Project& project, const EventResult& result, int node) {
    return StorageExplainer(project, result, node).only_runoff();
}
Working explain_pond(const Project& project, const EventResult& result, int node) {
    return StorageExplainer(project, result, node).only_pond();
}

}  // namespace culvert
