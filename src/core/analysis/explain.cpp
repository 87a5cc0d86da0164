// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/explain.h"
#include "core/base/contract.h"

#include <cmath>
#include <numbers>

#include "core/analysis/budget.h"
#include "core/analysis/explain_loss.h"
#include "core/analysis/explain_rain.h"
#include "core/analysis/explain_section.h"
#include "core/analysis/explain_storage.h"
#include "core/analysis/explain_street.h"
#include "core/analysis/grade_line.h"
#include "core/analysis/rational.h"
#include "core/hydraulics/uniform_flow.h"
#include "core/model/catchment_time.h"

namespace culvert {
namespace {

constexpr const char* hec22 = "FHWA HEC-22, 3rd ed. (2009), ";

class Explainer : WorkingUnits {
  public:
    /// @param link  the pipe that is asked about, or the way on from a structure; no_link: none
    Explainer(const Project& project, const EventResult& result, int node, int link)
        : WorkingUnits(project.settings().system == UnitSystem::Us),
          project_(project),
          result_(result),
          net_(*result.network),
          at_(node),
          link_(link) {}

    Working take() { return std::move(steps_); }

    void flow() {
        time();
        intensity();
        const NodeFlow& f = r().flow;
        effective_area();
        rational("rational flow", f.effective_area, f.intensity, f.plain_flow, {});
        if (f.partial_flow > f.plain_flow) partial();
        if (net_.hold_flow) held();
        share();
    }

    /// A part that answers sooner brings more than all at their longest time.
    void partial() {
        const NodeFlow& f = r().flow;
        const RainEvent* e = project_.events.find(result_.event.value);
        if (!e) return;
        const double i = rain_of(*e).curve.intensity(f.partial_time) * net_.uplift;
        rational("flow of the areas that answer within " + working_number(f.partial_time / 60, 4) + " min",
                 (f.partial_flow - f.known_flow) / i, i, f.partial_flow,
                 "setting: partial areas; governs: it is more than all areas at their longest time");
    }
    void rational(const std::string& meaning, double ca, double i, double result, const std::string& note) {
        steps_.push_back({"Qr",
                          meaning,
                          us_ ? "1.00833 * CA * i + Qk" : "CA * i / 360 + Qk",
                          {{"CA", area(ca), area_unit(), "effective area upstream"},
                           {"i", rain(i), rain_unit(), "intensity at its time"},
                           {"Qk", flow_(r().flow.known_flow), flow_unit(), "known flows upstream"}},
                          flow_(result),
                          flow_unit(),
                          std::string(hec22) + "eq. 3-1",
                          note});
    }

    void held() {
        const NodeFlow& f = r().flow;
        Step h{"Q",
               "design flow, held at the largest flow of a pipe that enters",
               "Qr",
               {{"Qr", flow_(std::max(f.plain_flow, f.partial_flow)), flow_unit(), "rational flow"}},
               flow_(f.flow),
               flow_unit(),
               "setting: hold flow",
               {}};
        int number = 0;
        for (const int up : incoming()) {
            const std::string symbol = "Q" + std::to_string(++number);
            h.formula = "max(" + h.formula + ", " + symbol + ")";
            h.terms.push_back({symbol, flow_(nth(result_.links, up).flow.flow), flow_unit(), "from " + pipe_label(up)});
        }
        h.note = f.flow > std::max(f.plain_flow, f.partial_flow) * (1 + 1e-12) ? "the flow that enters governs"
                                                                               : "the rational flow governs";
        steps_.push_back(h);
    }
    /// Where water leaves by several ways: what this pipe takes.
    void share() {
        if (link_ == no_link || q().flow.flow >= r().flow.flow * (1 - 1e-9) || r().flow.flow <= 0) return;
        const double part = q().flow.flow / r().flow.flow;
        steps_.push_back({"Qp",
                          "flow in the pipe",
                          "Q * s",
                          {{"Q", flow_(r().flow.flow), flow_unit(), "flow that leaves the structure"},
                           {"s", part, "", "share, found so that one level stands at each structure"}},
                          flow_(q().flow.flow),
                          flow_unit(),
                          "balance of heads",
                          {}});
    }

    void time() {
        Step s{"Tc", "time of concentration", "", {}, r().flow.time / 60, "min", std::string(hec22) + "sec. 3.2.2", {}};
        std::vector<std::string> symbols;
        double governing = -1;
        const auto add = [&](const std::string& symbol, double seconds, const std::string& meaning) {
            symbols.push_back(symbol);
            s.terms.push_back({symbol, seconds / 60, "min", meaning});
            if (seconds > governing) {
                governing = seconds;
                s.note = "governs: " + meaning;
            }
        };
        const StreetEntry* street = entry();
        if (!street || !street->inlet)
            for (const Catchment& c : project_.catchments)
                if (c.structure == n().structure)
                    if (const double t = concentration_time(project_, c).time; !std::isnan(t))
                        add("t" + std::to_string(symbols.size() + 1), t, "catchment " + c.name);
        if (street && street->area > 0)
            add("t" + std::to_string(symbols.size() + 1), street->time,
                street->inlet ? "what comes to its inlet" : "what comes over the street");
        for (const int up : incoming()) {
            const LinkFlow& f = nth(result_.links, up).flow;
            if (f.effective_area <= 0) continue;
            const double began = nth(result_.nodes, starts(up)).flow.time;
            const std::string number = std::to_string(symbols.size() + 1);
            Step t{"t" + number,
                   "arrival through " + pipe_label(up),
                   "Ta + Tt",
                   {{"Ta", began / 60, "min", "Tc at its start"}, {"Tt", f.travel / 60, "min", "travel time"}},
                   (began + f.travel) / 60,
                   "min",
                   "",
                   {}};
            Step v{"Tt",
                   "travel time in " + pipe_label(up),
                   "L / V / 60",
                   {{"L", len(nth(net_.links, up).length), len_unit(), "length"}},
                   f.travel / 60,
                   "min",
                   std::string(hec22) + "sec. 3.2.2",
                   {}};
            if (f.travel > 0) {
                v.terms.push_back(
                    {"V", len(nth(net_.links, up).length / f.travel), len_unit() + "/s",
                     net_.full_travel_velocity ? "velocity running full" : "velocity of the design flow"});
                steps_.push_back(v);
            }
            steps_.push_back(t);
            add("t" + number, began + f.travel, "arrival through " + pipe_label(up));
        }
        if ((n().local_time > 0 && !(street && street->inlet)) || symbols.empty())
            add("tm", net_.least_time, "least time of the project");
        s.formula = symbols[0];
        for (std::size_t i = 1; i < symbols.size(); ++i) s.formula = "max(" + s.formula + ", " + symbols[i] + ")";
        steps_.push_back(s);
    }

    void intensity() { add_intensity(steps_, *this, project_, result_, r().flow.time, r().flow.intensity); }

    void effective_area() {
        const RainEvent* e = project_.events.find(result_.event.value);
        Step s{"CA",        "effective area upstream",      "", {}, area(r().flow.effective_area),
               area_unit(), std::string(hec22) + "eq. 3-1", {}};
        int number = 0;
        const StreetEntry* street = entry();
        if (street && (street->inlet || street->area > 0)) {
            s.formula = "CAs";
            s.terms.push_back(
                {"CAs", area(street->area), area_unit(), street->inlet ? "taken by its inlet" : "from the street"});
        }
        for (int c = n().cover_begin; c < n().cover_end && !(street && street->inlet); ++c) {
            const NetworkCover& cover = nth(net_.covers, c);
            const std::string k = std::to_string(++number);
            s.formula += (s.formula.empty() ? "" : " + ") + ("min(1, C" + k + " * Cf) * A" + k);
            s.terms.push_back({"C" + k, cover.coefficient, "", "runoff coefficient"});
            s.terms.push_back({"A" + k, area(cover.area), area_unit(), "area"});
        }
        if (number) s.terms.push_back({"Cf", e ? e->frequency_factor : 1, "", "frequency factor"});
        for (const int up : incoming()) {
            const std::string k = "CA" + std::to_string(++number);
            s.formula += (s.formula.empty() ? "" : " + ") + k;
            s.terms.push_back(
                {k, area(nth(result_.links, up).flow.effective_area), area_unit(), "from " + pipe_label(up)});
        }
        if (s.formula.empty()) s.formula = "0";
        steps_.push_back(s);
    }

    [[nodiscard]] const StreetEntry* entry() const {
        return result_.entries.empty() ? nullptr : &nth(result_.entries, at_);
    }

    void slope() {
        steps_.push_back({"S",
                          "slope",
                          "(zu - zd) / L",
                          {{"zu", len(l().invert_up), len_unit(), "invert at its upper end"},
                           {"zd", len(l().invert_down), len_unit(), "invert at its lower end"},
                           {"L", len(l().length), len_unit(), "length"}},
                          l().slope,
                          len_unit() + "/" + len_unit(),
                          "",
                          {}});
    }
    void full_section() { add_full_section(steps_, *this, l().section); }
    [[nodiscard]] Step manning(const std::string& symbol, const std::string& meaning, double a, double hydraulic_radius,
                               double result) const {
        return {symbol,
                meaning,
                manning_constant() + "A * R^(2 / 3) * sqrt(S) / n",
                {{"A", len(len(a)), len_unit() + "²", "area"},
                 {"R", len(hydraulic_radius), len_unit(), "hydraulic radius"},
                 {"S", l().slope, "", "slope"},
                 {"n", l().roughness, "", "Manning n"}},
                flow_(result),
                flow_unit(),
                std::string(hec22) + "eq. 7-1",
                {}};
    }
    void capacity() {
        slope();
        full_section();
        const double full = full_capacity(l().section, l().roughness, l().slope);
        if (!(l().slope > 0)) {
            steps_.push_back({"Qfull",
                              "full-flow capacity",
                              "0",
                              {},
                              0,
                              flow_unit(),
                              "",
                              "a level or adverse pipe has no full-flow capacity"});
            return;
        }
        const double b = l().barrels;
        steps_.push_back(manning("Qfull", b > 1 ? "full-flow capacity of one barrel" : "full-flow capacity",
                                 full_area(l().section), full_area(l().section) / full_perimeter(l().section), full));
        if (b > 1 && !net_.peak_capacity)
            steps_.push_back({"Qb",
                              "full-flow capacity of all barrels",
                              "Qfull * b",
                              {{"Qfull", flow_(full), flow_unit(), "of one"}, {"b", b, "", "barrels"}},
                              flow_(l().capacity),
                              flow_unit(),
                              "",
                              {}});
        if (net_.peak_capacity)
            steps_.push_back({"Qpeak",
                              "largest capacity below full",
                              b > 1 ? "Qfull * p * b" : "Qfull * p",
                              {{"Qfull", flow_(full), flow_unit(), "full-flow capacity"},
                               {"p", peak_ratio(l().section), "", "peak over full"},
                               {"b", b, "", "barrels"}},
                              flow_(l().capacity),
                              flow_unit(),
                              "setting: capacity is the peak",
                              {}});
        steps_.push_back({"Q/Qfull",
                          "flow ratio",
                          "Q / Qc",
                          {{"Q", flow_(q().flow.flow), flow_unit(), "design flow"},
                           {"Qc", flow_(l().capacity), flow_unit(), "capacity"}},
                          q().flow.flow / l().capacity,
                          "",
                          "",
                          {}});
    }

    /// Flow of one barrel, m3/s; said where there are several.
    double one_barrel() {
        const double b = l().barrels, one = q().flow.flow / b;
        if (b > 1)
            steps_.push_back({"Q",
                              "flow of one barrel",
                              "Qd / b",
                              {{"Qd", flow_(q().flow.flow), flow_unit(), "design flow"}, {"b", b, "", "barrels"}},
                              flow_(one),
                              flow_unit(),
                              "",
                              {}});
        return one;
    }

    void normal() {
        slope();
        const double one = one_barrel();
        const double y = q().flow.normal;
        if (std::isnan(y)) {
            steps_.push_back({"y",
                              "normal depth",
                              "",
                              {},
                              not_given,
                              len_unit(),
                              "",
                              l().slope > 0 ? "there is none: the flow is above the largest that a free surface carries"
                                            : "there is none on a level or adverse slope"});
            return;
        }
        if (y <= 0) {
            steps_.push_back({"y", "normal depth", "", {}, 0, len_unit(), "", "there is no flow"});
            return;
        }
        const Wetted w = wetted(l().section, y);
        const Term depth{"y", len(y), len_unit(), "normal depth, found by solving"};
        add_wetted_section(steps_, *this, l().section, depth, y);
        steps_.push_back(
            {"R",
             "hydraulic radius",
             "A / P",
             {{"A", len(len(w.area)), len_unit() + "²", "area"}, {"P", len(w.perimeter), len_unit(), "perimeter"}},
             len(w.area / w.perimeter),
             len_unit(),
             "",
             {}});
        Step check = manning("Q", "flow at that depth: it must be the design flow", w.area, w.area / w.perimeter, one);
        check.note = "lower branch: a closed section can carry this flow at a second, greater depth";
        steps_.push_back(check);
        steps_.push_back({"y/D",
                          "filled depth",
                          "y / D",
                          {depth, {"D", len(height(l().section)), len_unit(), "height of the section"}},
                          y / height(l().section),
                          "",
                          "",
                          {}});
    }

    void velocity() {
        normal();
        const double y = q().flow.normal;
        if (q().flow.flow <= 0) return;
        const double a = std::isnan(y) ? full_area(l().section) : wetted(l().section, y).area;
        steps_.push_back({"V",
                          std::isnan(y) ? "velocity of the full section" : "velocity at normal depth",
                          "Q / A",
                          {{"Q", flow_(q().flow.flow / l().barrels), flow_unit(), "flow"},
                           {"A", len(len(a)), len_unit() + "²", "area"}},
                          len(q().flow.velocity),
                          len_unit() + "/s",
                          "",
                          {}});
    }

    void friction() {
        const LinkLevel& v = q().level;
        const double top = height(l().section);
        if (std::isnan(v.head_up)) {
            steps_.push_back({"hf", "friction", "", {}, not_given, len_unit(), "", "not known: see the findings"});
            return;
        }
        if (v.full_length >= l().length && v.jump <= 0) {
            const double one = one_barrel();
            full_section();
            const double k = full_conveyance(l().section, l().roughness);
            Step c = manning("K", "conveyance of the full section", full_area(l().section),
                             full_area(l().section) / full_perimeter(l().section), k);
            c.formula = manning_constant() + "A * R^(2 / 3) / n";
            std::erase_if(c.terms, [](const Term& t) { return t.symbol == "S"; });
            steps_.push_back(c);
            const double sf = one * one / (k * k);
            steps_.push_back({"Sf",
                              "friction slope, full",
                              "(Q / K)^2",
                              {{"Q", flow_(one), flow_unit(), "flow"}, {"K", flow_(k), flow_unit(), "conveyance"}},
                              sf,
                              "",
                              std::string(hec22) + "eq. 7-1",
                              {}});
            steps_.push_back({"hf",
                              "friction over the length",
                              "Sf * L",
                              {{"Sf", sf, "", "friction slope"}, {"L", len(l().length), len_unit(), "length"}},
                              len(sf * l().length),
                              len_unit(),
                              "",
                              {}});
            return;
        }
        Step s{"dE",
               "fall of the EGL along the pipe",
               "(zu + yu + Vu^2 / (2 * g)) - (zd + yd + Vd^2 / (2 * g))",
               {},
               0,
               len_unit(),
               "energy equation; gradually varied flow, Chow (1959), ch. 9",
               {}};
        const double g = us_ ? gravity / foot : gravity;
        s.terms = {{"zu", len(l().invert_up), len_unit(), "invert, upper end"},
                   {"yu", len(v.head_up), len_unit(), "depth, upper end"},
                   {"Vu", len(v.velocity_up), len_unit() + "/s", "velocity, upper end"},
                   {"zd", len(l().invert_down), len_unit(), "invert, lower end"},
                   {"yd", len(v.head_down), len_unit(), "depth, lower end"},
                   {"Vd", len(v.velocity_down), len_unit() + "/s", "velocity, lower end"},
                   {"g", g, len_unit() + "/s²", "gravity"}};
        s.result = evaluate(s.formula, s.terms);
        std::string regime = v.jump >= l().length
                                 ? "fast flow throughout"
                                 : (v.jump > 0 ? "fast flow, a jump at " + working_number(len(v.jump)) + " " +
                                                     len_unit() + " from its upper end"
                                               : "slow flow");
        if (v.full_length > 0) regime += ", full over " + working_number(len(v.full_length)) + " " + len_unit();
        if (v.head_up <= top && v.head_down <= top && v.jump <= 0 && v.control == Control::Uniform)
            regime += ", uniform at its upper end";
        s.note = q().flow.flow > dry_flow
                     ? regime + "; the depths follow from integrating dy/dx = (S0 - Sf) / (1 - Fr²)"
                     : "no flow: what stands in the pipe is level with the water below it, or with its higher end";
        steps_.push_back(s);
    }

    void loss() {
        Working more = explain_loss(project_, result_, at_, link_);
        steps_.insert(steps_.end(), std::make_move_iterator(more.begin()), std::make_move_iterator(more.end()));
    }

    void level() {
        const LevelBudget b = level_budget(result_, n().structure);
        Step s{"HGL",
               "level in the structure",
               "H0",
               {{"H0", len(b.start_level), len_unit(),
                 std::string(start_text(b.start)) + ", " +
                     element_name(project_, b.start_element.kind, b.start_element.id)}},
               len(b.level),
               len_unit(),
               "sum of what stands on the way up",
               {}};
        int number = 0;
        for (const BudgetPart& part : b.parts) {
            const std::string symbol = (part.element.kind == Kind::Pipe ? "hf" : "hl") + std::to_string(++number);
            s.formula += " + " + symbol;
            s.terms.push_back({symbol, len(part.rise), len_unit(),
                               (part.element.kind == Kind::Pipe ? "friction in " : "velocity head and loss at ") +
                                   element_name(project_, part.element.kind, part.element.id)});
        }
        steps_.push_back(s);
        if (link_ != no_link) {
            friction();
            loss();
        }
    }

  private:
    [[nodiscard]] const Node& n() const { return nth(net_.nodes, at_); }
    [[nodiscard]] const NodeResult& r() const { return nth(result_.nodes, at_); }
    [[nodiscard]] const Link& l() const { return nth(net_.links, link_); }
    [[nodiscard]] const LinkResult& q() const { return nth(result_.links, link_); }
    /// Links that bring water to the node.
    [[nodiscard]] std::vector<int> incoming() const {
        std::vector<int> list;
        const Component& part = nth(net_.components, n().component);
        for (int i = part.link_begin; i < part.link_end; ++i) {
            const Link& link = nth(net_.links, i);
            const bool against = nth(result_.links, i).flow.against;
            const bool carries = link.main || nth(result_.links, i).flow.flow > 0;
            if (carries && (against ? link.from : link.to) == at_) list.push_back(i);
        }
        return list;
    }
    /// Node that the water in a link comes from.
    [[nodiscard]] int starts(int link) const {
        const Link& l = nth(net_.links, link);
        return nth(result_.links, link).flow.against ? l.to : l.from;
    }
    [[nodiscard]] std::string pipe_label(int link) const {
        return element_name(project_, Kind::Pipe, nth(net_.links, link).pipe.value);
    }
    [[nodiscard]] std::string manning_constant() const { return us_ ? "1.48592 * " : ""; }  // (1 / 0.3048)^(1/3)

    const Project& project_;
    const EventResult& result_;
    const Network& net_;
    int at_, link_;
    Working steps_;
};

}  // namespace

std::vector<std::string_view> explainable(Kind kind) {
    if (kind == Kind::Pipe) return {"flow", "time", "capacity", "normal depth", "velocity", "friction", "level"};
    if (kind == Kind::Structure) return {"level", "loss", "flow", "time", "spread", "release"};
    return {};
}

Explanation explain(const Project& project, const EventResult& result, ElementRef element, std::string_view quantity) {
    Explanation e;
    const std::string name = element_name(project, element.kind, element.id);
    const RainEvent* event = project.events.find(result.event.value);
    const Network& net = *result.network;
    int node = net.node_of(element), link = no_link;
    if (element.kind == Kind::Pipe && node != no_node) {
        link = net.link_of(PipeId{element.id});
        if (nth(result.links, link).flow.against) node = nth(net.links, link).to;
    } else if (node != no_node) link = result.way_on(node);
    if (node == no_node) {
        e.error = name + " is not part of the solution: see its findings";
        return e;
    }
    const auto known = explainable(element.kind);
    if (std::find(known.begin(), known.end(), quantity) == known.end()) {
        e.error = "\"" + std::string(quantity) + "\" of a " + std::string(kind_name(element.kind)) +
                  " cannot be explained; there are:";
        for (const auto& k : known) e.error += " " + std::string(k) + (k == known.back() ? "" : ",");
        return e;
    }
    if (element.kind == Kind::Pipe && !nth(net.links, link).solvable && quantity != "flow" && quantity != "time") {
        e.error = name + " cannot be solved: see its findings";
        return e;
    }
    if (quantity == "spread") {
        e.steps = explain_street(project, result, node);
        if (e.steps.empty()) e.error = name + " has no inlet whose type and street say how it takes water";
        e.title = "Water on the street at " + name + (event ? ", " + event->name : "");
        return e;
    }
    if (quantity == "release") {
        e.steps = explain_pond(project, result, node);
        if (e.steps.empty()) e.error = name + " has no pond that is routed";
        e.title = "Release of " + name + (event ? ", " + event->name : "");
        return e;
    }
    if (net.through_time && (quantity == "flow" || quantity == "time")) {
        if (quantity == "time") e.error = "through time there is no single time of concentration: ask for the flow";
        else e.steps = explain_through_time(project, result, node, link);
        e.title = "Flow of " + name + (event ? ", " + event->name : "");
        return e;
    }
    Explainer x(project, result, node, link);
    if (quantity == "flow") x.flow();
    else if (quantity == "time") x.time();
    else if (quantity == "capacity") x.capacity();
    else if (quantity == "normal depth") x.normal();
    else if (quantity == "velocity") x.velocity();
    else if (quantity == "friction") x.friction();
    else if (quantity == "loss") x.loss();
    else x.level();
    std::string title(quantity);
    title[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(title[0])));
    e.title = title + " of " + name + (event ? ", " + event->name : "");
    e.steps = x.take();
    return e;
}

}  // namespace culvert
