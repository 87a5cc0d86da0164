// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/explain_street.h"
#include "core/analysis/explain_units.h"
#include "core/analysis/rational.h"

#include <cmath>

#include "core/base/contract.h"

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
        comes();
        if (f_.flow > 0) {
            if (in_.sag) stands();
            else {
                runs();
                taken();
            }
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
        add_intensity(steps_, project_, result_, f_.time, f_.intensity);
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
    void runs() {
        const auto* s = std::get_if<CompositeSection>(&in_.gutter.section);
        steps_.push_back({"SL",
                          "street grade",
                          "",
                          {},
                          in_.gutter.grade,
                          "",
                          "",
                          in_.grade_from == GradeFrom::Entered   ? "entered"
                          : in_.grade_from == GradeFrom::Profile ? "of the street's profile"
                                                                 : "of the rims along its street path"});
        steps_.push_back(
            {"d", "depth at the curb, found so that Q comes out", "", {}, len(f_.depth), len_unit(), "", {}});
        if (!s) return;
        const double edge = std::max(f_.depth - s->gutter_width * s->gutter_slope, 0.0),
                     crown = std::max(f_.depth - depth_at_crown(*s), 0.0);
        steps_.push_back({"Q",
                          "flow of gutter and lanes",
                          std::string(us_ ? "0.56" : "0.376") +
                              " / n * sqrt(SL) * ((d^(8/3) - d2^(8/3)) / Sw + (d2^(8/3) - d3^(8/3)) / Sx)",
                          {{"n", in_.gutter.n, "", "Manning n"},
                           {"SL", in_.gutter.grade, "", "street grade"},
                           {"d", len(f_.depth), len_unit(), "depth at the curb"},
                           {"d2", len(edge), len_unit(), "at the edge of the gutter"},
                           {"d3", len(crown), len_unit(), "at the crown"},
                           {"Sw", s->gutter_slope, "", "gutter slope"},
                           {"Sx", s->cross_slope, "", "cross slope"}},
                          flow_(f_.flow),
                          flow_unit(),
                          std::string(hec22) + "eq. 4-2, for each part",
                          {}});
        steps_.push_back({"T", "spread", edge > 0 ? "min(W + d2 / Sx, B)" : "d / Sw",
                          edge > 0 ? std::vector<Term>{{"W", len(s->gutter_width), len_unit(), "gutter width"},
                                                       {"d2", len(edge), len_unit(), "depth at its edge"},
                                                       {"Sx", s->cross_slope, "", "cross slope"},
                                                       {"B", len(s->to_crown), len_unit(), "curb to crown"}}
                                   : std::vector<Term>{{"d", len(f_.depth), len_unit(), "depth"},
                                                       {"Sw", s->gutter_slope, "", "gutter slope"}},
                          len(f_.spread), len_unit(), "",
                          f_.over_crown > 0 ? "it stands above the crown: " + working_number(flow_(f_.over_crown), 4) +
                                                  " " + flow_unit() + " run over it"
                                            : ""});
    }
    void taken() {
        const Capture c = on_grade(in_.form, in_.gutter, f_.flow, street_constants(net_.edition));
        const auto* s = std::get_if<CompositeSection>(&in_.gutter.section);
        const Grate* grate = std::get_if<Grate>(&in_.form);
        const CurbOpening* opening = std::get_if<CurbOpening>(&in_.form);
        const SlottedDrain* slot = std::get_if<SlottedDrain>(&in_.form);
        if (grate && s) {
            const double length = grate->length * (1 - grate->clogging);
            steps_.push_back({"Eo",
                              "share of the flow within the grate's width",
                              "",
                              {},
                              c.frontal_share,
                              "",
                              std::string(hec22) + "eq. 4-4, over that width",
                              {}});
            if (std::isfinite(grate->splash_velocity))
                steps_.push_back({"Rf",
                                  "frontal share taken",
                                  std::string("max(0, min(1, 1 - ") + (us_ ? "0.09" : "0.295") + " * (V - Vo)))",
                                  {{"V", len(f_.velocity), len_unit() + "/s", "velocity"},
                                   {"Vo", len(grate->splash_velocity), len_unit() + "/s", "splash-over velocity"}},
                                  c.frontal,
                                  "",
                                  std::string(hec22) + "eq. 4-18",
                                  {}});
            else
                steps_.push_back(
                    {"Rf", "frontal share taken", "", {}, c.frontal, "", "", "no splash-over velocity is known"});
            steps_.push_back({"Rs",
                              "side share taken",
                              std::string("1 / (1 + ") + (us_ ? "0.15" : "0.0828") + " * V^1.8 / (Sx * L^2.3))",
                              {{"V", len(f_.velocity), len_unit() + "/s", "velocity"},
                               {"Sx", s->cross_slope, "", "cross slope"},
                               {"L", len(length), len_unit(), "length not clogged"}},
                              c.side,
                              "",
                              std::string(hec22) + "eq. 4-19",
                              {}});
            steps_.push_back({"E",
                              "captured share",
                              "Rf * Eo + Rs * (1 - Eo)",
                              {{"Rf", c.frontal, "", ""}, {"Eo", c.frontal_share, "", ""}, {"Rs", c.side, "", ""}},
                              f_.efficiency,
                              "",
                              std::string(hec22) + "eq. 4-20",
                              {}});
        } else if (opening || slot) {
            const double length =
                opening ? opening->length * (1 - opening->clogging) : slot->length * (1 - slot->clogging);
            steps_.push_back(
                {"Se", "slope that works on it", "", {}, c.effective_slope, "", std::string(hec22) + "eq. 4-24", {}});
            steps_.push_back({"LT",
                              "length that takes all",
                              std::string(us_ ? "0.6" : "0.817") + " * Q^0.42 * SL^0.3 * (1 / (n * Se))^0.6",
                              {{"Q", flow_(f_.flow), flow_unit(), "flow"},
                               {"SL", in_.gutter.grade, "", "street grade"},
                               {"n", in_.gutter.n, "", "Manning n"},
                               {"Se", c.effective_slope, "", ""}},
                              len(c.total_length),
                              len_unit(),
                              std::string(hec22) + "eq. 4-22",
                              {}});
            steps_.push_back(
                {"E",
                 "captured share",
                 "1 - max(0, 1 - L / LT)^1.8",
                 {{"L", len(length), len_unit(), "length not clogged"}, {"LT", len(c.total_length), len_unit(), ""}},
                 f_.efficiency,
                 "",
                 std::string(hec22) + "eq. 4-23",
                 {}});
        } else
            steps_.push_back({"E",
                              "captured share",
                              "",
                              {},
                              f_.efficiency,
                              "",
                              std::string(hec22) + "sec. 4.4.4",
                              c.swept > 0 ? "the opening before the grate takes " + working_number(flow_(c.swept), 4) +
                                                " " + flow_unit() + " first"
                                          : ""});
    }
    void stands() {
        const SagControl control = sag_control(in_.form, in_.gutter.section, f_.depth, street_constants(net_.edition));
        steps_.push_back({"d",
                          "depth at the curb at which the inlet takes what it takes",
                          "",
                          {},
                          len(f_.depth),
                          len_unit(),
                          std::string(hec22) + "sec. 4.4.5",
                          control == SagControl::Weir ? "it works as a weir" : "it works as an orifice"});
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

void WorkingUnits::add_intensity(Working& steps, const Project& project, const EventResult& result, double time,
                                 double intensity) const {
    const RainEvent* e = project.events.find(result.event.value);
    if (!e || e->durations.empty() || rain_of(*e).curve.empty()) return;
    const double t = time;
    const auto last = e->durations.size() - 1;
    Step s{"i", "intensity at Tc", "i1 * u", {}, rain(intensity), rain_unit(), "rain table of the event " + e->name,
           {}};
    const auto given = [&](const std::string& k, std::size_t j) {
        s.terms.push_back({"t" + k, e->durations[j] / 60, "min", "duration"});
        s.terms.push_back({"i" + k, rain(e->intensities[j]), rain_unit(), "its intensity"});
    };
    if (last == 0 || t <= e->durations[0]) {
        given("1", 0);
        if (t < e->durations[0]) s.note = "below the shortest duration: held at it";
    } else {
        std::size_t j = 1;
        while (j < last && e->durations[j] < t) ++j;
        given("1", j - 1);
        given("2", j);
        s.terms.push_back({"Tc", t / 60, "min", "time of concentration"});
        s.formula = "exp(ln(i1) + (ln(Tc) - ln(t1)) / (ln(t2) - ln(t1)) * (ln(i2) - ln(i1))) * u";
        s.note = t > e->durations[last] ? "above the longest duration: the line of the last two is extended"
                                        : "straight line in log-log";
    }
    s.terms.push_back({"u", result.network->uplift, "", "rain uplift"});
    steps.push_back(s);
}

Working explain_street(const Project& project, const EventResult& result, int node) {
    if (node < 0 || nth(result.network->nodes, node).inlet == no_inlet) return {};
    return StreetExplainer(project, result, node).run();
}

}  // namespace culvert
