// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/calc_storage.h"

#include <cmath>
#include <numbers>

#include "core/detention/culvert.h"
#include "core/hydraulics/outlet.h"
#include "core/hydraulics/section.h"
#include "core/hydrology/losses.h"
#include "core/hydrology/unit_hydrograph.h"
#include "report/calc_in.h"

namespace culvert {
namespace {

using Q = Quantity;

struct In : CalcIn {
    using CalcIn::CalcIn;
    [[nodiscard]] Term g() const { return {"g", len(gravity), len_unit() + "/s²", "gravity"}; }
    [[nodiscard]] std::string cubic() const { return len_unit() + "³"; }
    [[nodiscard]] double volume(double m3) const { return len(len(len(m3))); }
};

std::string run_orifice(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const double d = in("size"), a = std::numbers::pi * d * d / 4, c = in("coefficient"), h = in("head");
    if (h < d / 2) return "the head is less than half the opening: it runs in part, ask with the opening under water";
    out["flow"] = c * a * std::sqrt(2 * gravity * h);
    out["velocity"] = out["flow"] / a;
    in.step({"A",
             "area of the opening",
             "3.14159265 * D^2 / 4",
             {{"D", in.len(d), in.len_unit(), "diameter"}},
             in.len(in.len(a)),
             in.len_unit() + "²",
             "geometry",
             {}});
    in.step({"Q",
             "flow",
             "C * A * sqrt(2 * g * H)",
             {{"C", c, "", "coefficient"},
              {"A", in.len(in.len(a)), in.len_unit() + "²", "area"},
              in.g(),
              {"H", in.len(h), in.len_unit(), "head over its middle"}},
             in.flow_(out["flow"]),
             in.flow_unit(),
             "FHWA HEC-22, 3rd ed. (2009), ch. 8",
             {}});
    return {};
}
std::string run_weir(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const double l = in("length"), h = in("head"), c = in("coefficient");
    out["flow"] = c * l * std::pow(h, 1.5);
    // The root of a length is in the coefficient.
    const double shown = in.us() ? c / std::sqrt(WorkingUnits::foot) : c;
    in.step({"Q",
             "flow over the crest",
             "C * L * H^1.5",
             {{"C", shown, "", "coefficient, " + in.len_unit() + "^0.5/s"},
              {"L", in.len(l), in.len_unit(), "length of the crest"},
              {"H", in.len(h), in.len_unit(), "head over it"}},
             in.flow_(out["flow"]),
             in.flow_unit(),
             "Brater, King: Handbook of Hydraulics (1996), ch. 5",
             {}});
    return {};
}
std::string run_runoff(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const CurveNumberLoss loss{in("cn"), in("initial")};
    if (loss.curve_number > 100) return "the curve number is at most 100";
    const double s = retention(loss), p = in("rain");
    out["runoff"] = runoff_depth(loss, p);
    out["retention"] = s;
    out["share"] = out["runoff"] / p;
    const auto depth = [&](double m) { return in.us() ? m / 0.0254 : m * 1000; };
    const std::string unit = in.us() ? "in" : "mm";
    if (loss.ratio != 0.05)
        in.step({"S",
                 "most that the ground takes",
                 in.us() ? "1000 / CN - 10" : "25.4 * (1000 / CN - 10)",
                 {{"CN", loss.curve_number, "", "curve number"}},
                 depth(s),
                 unit,
                 "USDA NRCS NEH 630 ch. 10",
                 {}});
    else
        in.step({"S",
                 "most that the ground takes, converted from that at 0.2",
                 "",
                 {},
                 depth(s),
                 unit,
                 "Hawkins et al. (2009)",
                 {}});
    if (p > loss.ratio * s)
        in.step({"Pe",
                 "runs off",
                 "(P - r * S)^2 / (P + (1 - r) * S)",
                 {{"P", depth(p), unit, "rain"},
                  {"r", loss.ratio, "", "share before runoff begins"},
                  {"S", depth(s), unit, ""}},
                 depth(out["runoff"]),
                 unit,
                 "USDA NRCS NEH 630 ch. 10",
                 {}});
    return {};
}
std::string run_peak(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const double tc = in("time"), step = 0.133 * tc, lag = 0.6 * tc, tp = step / 2 + lag,
                 factor = nrcs_peak_factor / 645.33;
    out["flow"] = factor * in("area") * in("runoff") / tp;
    out["peak"] = tp;
    in.step({"tp",
             "time to the peak",
             "0.133 * Tc / 2 + 0.6 * Tc",
             {{"Tc", tc, "s", "time of concentration"}},
             tp,
             "s",
             "USDA NRCS NEH 630 ch. 16",
             {}});
    const double metre = in.us() ? WorkingUnits::foot : 1;
    in.step({"Q",
             "peak of the unit hydrograph times the runoff",
             "484 / 645.33 * A * P / tp",
             {{"A", in("area") / metre / metre, in.len_unit() + "²", "area"},
              {"P", in("runoff") / metre, in.len_unit(), "runoff"},
              {"tp", tp, "s", "time to the peak"}},
             in.flow_(out["flow"]),
             in.flow_unit(),
             "USDA NRCS NEH 630 ch. 16",
             "a storm of some length peaks lower: its parts come one after another"});
    return {};
}
std::string run_volume(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const double q = in("flow"), d = in("duration"), tc = in("time"), qa = in("allowed");
    if (d < tc) return "the storm is shorter than the time of concentration: give a longer one";
    if (qa >= q) return "the allowed flow is not less than what comes: nothing need be stored";
    // Inflow a trapezoid of the storm; what may leave rises straight to where the falling limb meets it.
    out["storage"] = q * d - qa * (d + tc) / 2;
    in.step({"V",
             "volume above a release that rises straight to the allowed flow",
             "Q * d - Qa * (d + Tc) / 2",
             {{"Q", in.flow_(q), in.flow_unit(), "peak of the trapezoid, C i A"},
              {"d", d, "s", "length of the storm"},
              {"Qa", in.flow_(qa), in.flow_unit(), "allowed"},
              {"Tc", tc, "s", "time of concentration"}},
             in.volume(out["storage"]),
             in.cubic(),
             "modified rational method",
             "try several lengths: the largest governs"});
    return {};
}
/// A riser: the smaller of its rim as a crest and its opening under water.
std::string run_riser(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const double d = in("size"), h = in("head"), perimeter = std::numbers::pi * d, a = std::numbers::pi * d * d / 4;
    const double crest = in("weir") * perimeter * std::pow(h, 1.5),
                 opening = in("coefficient") * a * std::sqrt(2 * gravity * h);
    out["flow"] = outlet_flow(Riser{0, perimeter, a, in("weir"), in("coefficient")}, h, not_given).flow;
    const double shown = in.us() ? in("weir") / std::sqrt(WorkingUnits::foot) : in("weir");
    in.step({"Qw",
             "over its rim",
             "C * 3.14159265 * D * H^1.5",
             {{"C", shown, "", "coefficient of the crest, " + in.len_unit() + "^0.5/s"},
              {"D", in.len(d), in.len_unit(), "diameter"},
              {"H", in.len(h), in.len_unit(), "head over the rim"}},
             in.flow_(crest),
             in.flow_unit(),
             "FHWA HEC-22, 3rd ed. (2009), ch. 8",
             {}});
    in.step({"Qo",
             "through its opening",
             "C * 3.14159265 * D^2 / 4 * sqrt(2 * g * H)",
             {{"C", in("coefficient"), "", "coefficient of the opening"},
              {"D", in.len(d), in.len_unit(), "diameter"},
              in.g(),
              {"H", in.len(h), in.len_unit(), "head over the rim"}},
             in.flow_(opening),
             in.flow_unit(),
             "FHWA HEC-22, 3rd ed. (2009), ch. 8",
             {}});
    in.step({"Q",
             "the smaller of both",
             "min(Qw, Qo)",
             {{"Qw", in.flow_(crest), in.flow_unit(), ""}, {"Qo", in.flow_(opening), in.flow_unit(), ""}},
             in.flow_(out["flow"]),
             in.flow_unit(),
             "",
             crest < opening ? "the rim governs" : "the opening governs"});
    return {};
}
/// Depth over the entrance of a culvert that a flow asks for, by both controls.
std::string run_culvert(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    CulvertBarrel c;
    c.section = Circular{in("size")};
    c.length = in("length");
    c.slope = in("slope");
    c.roughness = in("n");
    const double q = in("flow"), below = in("tail");
    const double inlet = inlet_control_depth(c, q),
                 outlet = outlet_control_depth(c, q, std::isnan(below) ? below : c.invert - c.slope * c.length + below);
    out["depth"] = std::max(inlet, outlet);
    out["inlet"] = inlet;
    out["outlet"] = outlet;
    const auto given = [&](const char* symbol, const char* meaning, double depth, const char* note) {
        in.step({symbol, meaning, "", {}, in.len(depth), in.len_unit(), "FHWA HDS-5, 3rd ed. (2012), app. A", note});
    };
    given("HWi", "depth over the entrance by inlet control", inlet, "concrete circle, square edge in a headwall");
    given("HWo", "depth over the entrance by outlet control", outlet,
          "profile through the barrel and entrance loss 0.5 V^2/2g");
    in.step({"HW",
             "the larger of both",
             "max(HWi, HWo)",
             {{"HWi", in.len(inlet), in.len_unit(), ""}, {"HWo", in.len(outlet), in.len_unit(), ""}},
             in.len(out["depth"]),
             in.len_unit(),
             "",
             inlet >= outlet ? "the entrance governs" : "the barrel governs"});
    return {};
}

}  // namespace

std::vector<Calc> storage_calcs() {
    const CalcField head{
        "head", "Head", Q::Length, not_given, 1e-3, 100, "Over the middle of the opening, or the crest"};
    return {
        {"orifice",
         "Orifice",
         "A round opening under water",
         {head,
          {"size", "Diameter", Q::Size, not_given, 5e-3, 10, ""},
          {"coefficient", "C", Q::Ratio, 0.6, 0.1, 1, "0.6 for a sharp edge"}},
         {{"flow", "Flow", Q::Flow, not_given, 0, 0, ""}, {"velocity", "Velocity", Q::Velocity, not_given, 0, 0, ""}},
         run_orifice},
        {"weir",
         "Weir",
         "A crest that water runs over freely",
         {head,
          {"length", "Length", Q::Length, not_given, 0.01, 1000, "Of the crest"},
          {"coefficient", "C", Q::None, 1.84, 0.5, 4, "SI: 1.84 sharp, 1.70 broad"}},
         {{"flow", "Flow", Q::Flow, not_given, 0, 0, ""}},
         run_weir},
        {"riser",
         "Riser",
         "A round riser: its rim as a crest, or its opening under water",
         {head,
          {"size", "Diameter", Q::Size, not_given, 5e-3, 10, ""},
          {"weir", "C of the rim", Q::None, 1.84, 0.5, 4, "SI: 1.84 sharp"},
          {"coefficient", "C of the opening", Q::Ratio, 0.6, 0.1, 1, "0.6 for a sharp edge"}},
         {{"flow", "Flow", Q::Flow, not_given, 0, 0, ""}},
         run_riser},
        {"culvert",
         "Culvert",
         "Depth of water over the entrance of a round culvert, by both controls",
         {{"flow", "Flow", Q::Flow, not_given, 1e-5, 200, ""},
          {"size", "Diameter", Q::Size, not_given, 0.05, 10, ""},
          {"length", "Length", Q::Length, not_given, 0.5, 5000, ""},
          {"slope", "Slope", Q::Slope, 0.005, -0.1, 0.5, ""},
          {"n", "Manning n", Q::Roughness, 0.013, 0.005, 0.2, ""},
          {"tail", "Water below", Q::Length, 0, 0, 100, "Over the invert at its lower end; 0: free"}},
         {{"depth", "Depth at the entrance", Q::Length, not_given, 0, 0, ""},
          {"inlet", "By inlet control", Q::Length, not_given, 0, 0, ""},
          {"outlet", "By outlet control", Q::Length, not_given, 0, 0, ""}},
         run_culvert},
        {"runoff",
         "Runoff of a storm",
         "By its curve number",
         {{"rain", "Rain", Q::Size, not_given, 1e-3, 3, "Depth of the storm"},
          {"cn", "CN", Q::None, not_given, 1, 100, "Curve number"},
          {"initial", "Ia/S", Q::Ratio, 0.2, 0.01, 0.5, "Share before runoff begins"}},
         {{"runoff", "Runoff", Q::Size, not_given, 0, 0, ""},
          {"retention", "S", Q::Size, not_given, 0, 0, ""},
          {"share", "Share", Q::Ratio, not_given, 0, 0, ""}},
         run_runoff},
        {"peak",
         "Unit hydrograph peak",
         "Of a depth that runs off at once",
         {{"area", "Area", Q::Area, not_given, 10, 1e9, ""},
          {"runoff", "Runoff", Q::Size, not_given, 1e-5, 3, "Depth that runs off"},
          {"time", "Tc", Q::Duration, not_given, 60, 1e6, "Time of concentration"}},
         {{"flow", "Peak", Q::Flow, not_given, 0, 0, ""}, {"peak", "Time to peak", Q::Duration, not_given, 0, 0, ""}},
         run_peak},
        {"volume",
         "Volume needed",
         "Between a modified rational storm and an allowed release",
         {{"flow", "Flow", Q::Flow, not_given, 1e-6, 1e4, "C i A of the storm's length"},
          {"duration", "Storm", Q::Duration, not_given, 60, 1e6, "Its length"},
          {"time", "Tc", Q::Duration, not_given, 60, 1e6, "Time of concentration"},
          {"allowed", "Allowed", Q::Flow, not_given, 1e-7, 1e4, "Most that may leave"}},
         {{"storage", "Volume, m³", Q::None, not_given, 0, 0, ""}},
         run_volume},
    };
}

}  // namespace culvert
