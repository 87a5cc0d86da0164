// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/explain_street.h"
#include "core/analysis/explain_rain.h"
#include "core/analysis/explain_storage.h"
#include "core/analysis/way_flows.h"

#include <cmath>

#include "core/base/contract.h"
#include "core/network/through_time.h"
#include "core/streets/street_steps.h"

namespace culvert {
namespace {

constexpr const char* hec22 = "FHWA HEC-22, 3rd ed. (2009), ";

class StreetExplainer : WorkingUnits {
  public:
    StreetExplainer(const Project& project, const EventResult& r, int node)
        : WorkingUnits(r.network->edition == Edition::Us),
          project_(project),
          result_(r),
          net_(*r.network),
          in_(nth(net_.inlets, nth(net_.nodes, node).inlet)),
          f_(nth(r.streets, nth(net_.nodes, node).inlet)),
          at_(node) {}

    Working run() {
        if (net_.through_time) comes_through_time();
        else comes();
        if (f_.flow > 0) {
            if (in_.sag) stands();
            else runs();
            rest();
        }
        return std::move(steps_);
    }

  private:
    void comes() {
        const RainEvent* e = project_.events.find(result_.event.value);
        const Node& n = nth(net_.nodes, at_);
        Step own{"CA1",
                 "effective area that reaches this inlet first",
                 "",
                 {},
                 area(f_.own_area),
                 area_unit(),
                 std::string(hec22) + "eq. 3-1",
                 {}};
        int number = 0;
        for (int c = n.cover_begin; c < n.cover_end; ++c) {
            const NetworkCover& cover = nth(net_.covers, c);
            const std::string k = std::to_string(++number);
            own.formula += (own.formula.empty() ? "" : " + ") + ("min(1, C" + k + " * Cf) * A" + k);
            own.terms.push_back({"C" + k, cover.coefficient, "", "runoff coefficient"});
            own.terms.push_back({"A" + k, area(cover.area), area_unit(), "area"});
        }
        if (number) own.terms.push_back({"Cf", e ? e->frequency_factor : 1, "", "frequency factor"});
        else own.formula = "0";
        steps_.push_back(own);
        Step all{"CA",
                 "effective area with what inlets above it let pass",
                 "CA1",
                 {{"CA1", area(f_.own_area), area_unit(), "its own"}},
                 area(f_.effective_area),
                 area_unit(),
                 "",
                 {}};
        Step known{"Qk",
                   "known flow with what came along",
                   "Q1",
                   {{"Q1", flow_(f_.own_known), flow_unit(), "its own"}},
                   flow_(f_.known_flow),
                   flow_unit(),
                   "",
                   {}};
        number = 1;
        for (std::size_t i = 0; i < net_.inlets.size(); ++i) {
            const StreetInlet& above = net_.inlets[i];
            if (above.end != PathEnd::Structure || above.to != at_) continue;
            const StreetFlow& g = nth(result_.streets, i);
            const std::string k = std::to_string(++number),
                              from = "passed " + element_name(project_, Kind::Structure,
                                                              nth(net_.nodes, above.node).structure.value);
            all.formula += " + CA" + k;
            all.terms.push_back({"CA" + k, area(g.effective_area * (1 - g.efficiency)), area_unit(),
                                 from + ", " + working_number(flow_(g.bypass), 4) + " " + flow_unit() + " there"});
            known.formula += " + Q" + k;
            known.terms.push_back({"Q" + k, flow_(g.known_flow * (1 - g.efficiency)), flow_unit(), from});
        }
        steps_.push_back(all);
        if (f_.known_flow > 0) steps_.push_back(known);
        steps_.push_back({"t",
                          "longest time of what comes",
                          "",
                          {},
                          f_.time / 60,
                          "min",
                          "",
                          f_.time > n.local_time ? "by way of an inlet above it" : "of its own areas"});
        add_intensity(steps_, *this, project_, result_, f_.time, f_.intensity);
        steps_.push_back({"Qa",
                          "approaching flow",
                          us_ ? "1.00833 * CA * i + Qk" : "CA * i / 360 + Qk",
                          {{"CA", area(f_.effective_area), area_unit(), "effective area"},
                           {"i", rain(f_.intensity), rain_unit(), "intensity at that time"},
                           {"Qk", flow_(f_.known_flow), flow_unit(), "known flow"}},
                          flow_(f_.effective_area * f_.intensity + f_.known_flow),
                          flow_unit(),
                          std::string(hec22) + "eq. 3-1",
                          f_.partial_time > 0
                              ? "a part that answers within " + working_number(f_.partial_time / 60, 4) +
                                    " min brings more: " + working_number(flow_(f_.flow), 6) + " " + flow_unit()
                              : ""});
    }
    void comes_through_time() {
        steps_ = explain_runoff(project_, result_, at_);
        std::string largest;
        for (const FromAbove& above : over_street_to(result_, at_)) {
            if (!(above.flow > 1e-12)) continue;
            largest += (largest.empty() ? "at its largest " : ", ") + working_number(flow_(above.flow), 4) + " " +
                       flow_unit() + (above.spill ? " spilled from " : " passed ") +
                       element_name(project_, Kind::Structure, nth(net_.nodes, above.from).structure.value);
        }
        steps_.push_back({"Qs",
                          "what comes along the street at the time of the largest flow",
                          "",
                          {},
                          flow_(f_.along),
                          flow_unit(),
                          "",
                          largest.empty() ? "none" : largest});
        steps_.push_back(
            {"Qa",
             "approaching flow, the largest through time",
             "Qr + Qk + Qs",
             {{"Qr", flow_(f_.flow - f_.own_known - f_.along), flow_unit(), "of its own catchments at that time"},
              {"Qk", flow_(f_.own_known), flow_unit(), "its own known flow"},
              {"Qs", flow_(f_.along), flow_unit(), "along the street at that time"}},
             flow_(f_.flow),
             flow_unit(),
             "sum through time, means of steps of " + working_number(net_.through_time->step / 60, 4) + " min",
             "at " + working_number(f_.time / 60, 5) + " min"});
    }
    void runs() {
        const std::string from = in_.grade_from == GradeFrom::Entered   ? "entered"
                                 : in_.grade_from == GradeFrom::Profile ? "of the street's profile"
                                                                        : "of the rims along its street path";
        steps_.push_back({"SL", "street grade", "", {}, in_.gutter.grade, "", "", from});
        const Capture c = on_grade(in_.form, in_.gutter, f_.flow, street_constants(net_.edition));
        const StreetSteps street(net_.edition, &steps_);
        street.gutter(in_.gutter, c.approach, f_.flow);
        street.capture(in_.form, in_.gutter, c, f_.flow);
    }
    void stands() {
        StreetSteps(net_.edition, &steps_).sag(in_.form, in_.gutter.section, f_.depth, street_constants(net_.edition));
        steps_.push_back({"T",
                          "spread at that depth",
                          "",
                          {},
                          len(f_.spread),
                          len_unit(),
                          "",
                          f_.bypass > 0 ? "the water stands at the crest, and spills over it" : ""});
    }
    void rest() {
        steps_.push_back({"Qc",
                          "captured flow",
                          in_.sag ? "Qa - Qb" : "E * Qa",
                          in_.sag ? std::vector<Term>{{"Qa", flow_(f_.flow), flow_unit(), "approaching"},
                                                      {"Qb", flow_(f_.bypass), flow_unit(), "over the crest"}}
                                  : std::vector<Term>{{"E", f_.efficiency, "", "captured share"},
                                                      {"Qa", flow_(f_.flow), flow_unit(), "approaching"}},
                          flow_(f_.captured),
                          flow_unit(),
                          "",
                          {}});
        std::string where = "it stays in the pipe below: no street path leads on";
        if (in_.end == PathEnd::OffSite) where = "it leaves the site";
        if (in_.end == PathEnd::Structure)
            where = "to " + element_name(project_, Kind::Structure, nth(net_.nodes, in_.to).structure.value) + ", " +
                    working_number(f_.travel / 60, 3) + " min later";
        steps_.push_back(
            {"Qb",
             "bypass",
             "Qa - Qc",
             {{"Qa", flow_(f_.flow), flow_unit(), "approaching"}, {"Qc", flow_(f_.captured), flow_unit(), "captured"}},
             flow_(f_.bypass),
             flow_unit(),
             "",
             f_.bypass > 1e-12 ? where : "none"});
    }

    const Project& project_;
    const EventResult& result_;
    const Network& net_;
    const StreetInlet& in_;
    const StreetFlow& f_;
    int at_;
    Working steps_;
};

}  // namespace

Working explain_street(const Project& project, const EventResult& result, int node) {
    if (node < 0 || nth(result.network->nodes, node).inlet == no_inlet) return {};
    return StreetExplainer(project, result, node).run();
}

}  // namespace culvert
