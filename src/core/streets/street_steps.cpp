// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/streets/street_steps.h"

#include <algorithm>
#include <cmath>

namespace culvert {
namespace {
const std::string hec22 = "FHWA HEC-22, 3rd ed. (2009), ";
}

void StreetSteps::gutter(const Gutter& g, const GutterFlow& f, double flow) const {
    add({"d", "depth at the curb, found so that Q comes out", "", {}, len(f.depth), len_unit(), "", {}});
    const auto* s = std::get_if<CompositeSection>(&g.section);
    if (!s) return;
    const double edge = std::max(f.depth - s->gutter_width * s->gutter_slope, 0.0),
                 crown = std::max(f.depth - depth_at_crown(*s), 0.0);
    const std::vector<Term> gutter_terms{{"d", len(f.depth), len_unit(), "depth at the curb"},
                                         {"W", len(s->gutter_width), len_unit(), "gutter width"},
                                         {"Sw", s->gutter_slope, "", "gutter slope"}};
    add({"d2", "depth at the edge of the gutter", "max(d - W * Sw, 0)", gutter_terms, len(edge), len_unit(), "", {}});
    add({"Q",
         "flow of gutter and lanes",
         std::string(us_ ? "0.56" : "0.376") +
             " / n * sqrt(SL) * ((d^(8/3) - d2^(8/3)) / Sw + (d2^(8/3) - d3^(8/3)) / Sx)",
         {{"n", g.n, "", "Manning n"},
          {"SL", g.grade, "", "street grade"},
          {"d", len(f.depth), len_unit(), "depth at the curb"},
          {"d2", len(edge), len_unit(), "at the edge of the gutter"},
          {"d3", len(crown), len_unit(), "at the crown"},
          {"Sw", s->gutter_slope, "", "gutter slope"},
          {"Sx", s->cross_slope, "", "cross slope"}},
         flow_(flow),
         flow_unit(),
         hec22 + "eq. 4-2, for each part",
         edge > 0 ? "" : "all in the gutter"});
    add({"T", "spread", edge > 0 ? "min(W + d2 / Sx, B)" : "d / Sw",
         edge > 0 ? std::vector<Term>{{"W", len(s->gutter_width), len_unit(), "gutter width"},
                                      {"d2", len(edge), len_unit(), "depth at its edge"},
                                      {"Sx", s->cross_slope, "", "cross slope"},
                                      {"B", len(s->to_crown), len_unit(), "curb to crown"}}
                  : gutter_terms,
         len(f.spread), len_unit(), "",
         f.over_crown > 0 ? "it stands above the crown: " + working_number(flow_(f.over_crown), 4) + " " + flow_unit() +
                                " run over it"
                          : ""});
}

void StreetSteps::grate(const Grate& g, double cross_slope, const Capture& c) const {
    const double velocity = c.approach.velocity;
    add({"Eo",
         "share of the flow within the grate's width",
         "",
         {},
         c.frontal_share,
         "",
         hec22 + "eq. 4-4, over that width",
         {}});
    if (std::isfinite(g.splash_velocity))
        add({"Rf",
             "frontal share taken",
             std::string("max(0, min(1, 1 - ") + (us_ ? "0.09" : "0.295") + " * (V - Vo)))",
             {{"V", len(velocity), len_unit() + "/s", "velocity"},
              {"Vo", len(g.splash_velocity), len_unit() + "/s", "splash-over velocity"}},
             c.frontal,
             "",
             hec22 + "eq. 4-18",
             {}});
    else add({"Rf", "frontal share taken", "", {}, c.frontal, "", "", "no splash-over velocity is known"});
    add({"Rs",
         "side share taken",
         std::string("1 / (1 + ") + (us_ ? "0.15" : "0.0828") + " * V^1.8 / (Sx * L^2.3))",
         {{"V", len(velocity), len_unit() + "/s", "velocity"},
          {"Sx", cross_slope, "", "cross slope"},
          {"L", len(g.length * (1 - g.clogging)), len_unit(), "length not clogged"}},
         c.side,
         "",
         hec22 + "eq. 4-19",
         {}});
    add({"E",
         "captured share",
         "Rf * Eo + Rs * (1 - Eo)",
         {{"Rf", c.frontal, "", ""}, {"Eo", c.frontal_share, "", ""}, {"Rs", c.side, "", ""}},
         c.efficiency,
         "",
         hec22 + "eq. 4-20",
         {}});
}

void StreetSteps::opening(double length, const Gutter& g, const Capture& c, double flow) const {
    add({"Se", "slope that works on it", "", {}, c.effective_slope, "", hec22 + "eq. 4-24", {}});
    add({"LT",
         "length that takes all",
         std::string(us_ ? "0.6" : "0.817") + " * Q^0.42 * SL^0.3 * (1 / (n * Se))^0.6",
         {{"Q", flow_(flow), flow_unit(), "flow"},
          {"SL", g.grade, "", "street grade"},
          {"n", g.n, "", "Manning n"},
          {"Se", c.effective_slope, "", ""}},
         len(c.total_length),
         len_unit(),
         hec22 + "eq. 4-22",
         {}});
    add({"E",
         "captured share",
         "1 - max(0, 1 - L / LT)^1.8",
         {{"L", len(length), len_unit(), "length not clogged"}, {"LT", len(c.total_length), len_unit(), ""}},
         c.efficiency,
         "",
         hec22 + "eq. 4-23",
         {}});
}

void StreetSteps::capture(const InletForm& inlet, const Gutter& g, const Capture& c, double flow) const {
    const auto* section = std::get_if<CompositeSection>(&g.section);
    if (const auto* form = std::get_if<Grate>(&inlet); form && section) return grate(*form, section->cross_slope, c);
    if (const auto* form = std::get_if<CurbOpening>(&inlet))
        return opening(form->length * (1 - form->clogging), g, c, flow);
    if (const auto* form = std::get_if<SlottedDrain>(&inlet))
        return opening(form->length * (1 - form->clogging), g, c, flow);
    add({"E",
         "captured share",
         "",
         {},
         c.efficiency,
         "",
         hec22 + "sec. 4.4.4",
         c.swept > 0
             ? "the opening before the grate takes " + working_number(flow_(c.swept), 4) + " " + flow_unit() + " first"
             : ""});
}

void StreetSteps::sag(const InletForm& inlet, const GutterSection& section, double depth,
                      const StreetConstants& k) const {
    add({"d",
         "depth at the curb at which the inlet takes what it takes",
         "",
         {},
         len(depth),
         len_unit(),
         hec22 + "sec. 4.4.5",
         sag_control(inlet, section, depth, k) == SagControl::Weir ? "it works as a weir" : "it works as an orifice"});
}

}  // namespace culvert
