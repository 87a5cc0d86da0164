// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/calc.h"

#include <cmath>

#include "core/hydraulics/uniform_flow.h"
#include "core/hydrology/concentration.h"
#include "core/hydrology/idf_fit.h"
#include "core/streets/street_steps.h"
#include "report/calc_in.h"
#include "report/calc_storage.h"

namespace culvert {
namespace {

using Q = Quantity;

struct In : CalcIn {
    using CalcIn::CalcIn;
    [[nodiscard]] StreetConstants constants() const { return street_constants(edition); }
    [[nodiscard]] StreetSteps street() const { return {edition, working}; }
};

CompositeSection composite(const In& in) {
    return {in("gutter"), in("gutter_slope"), in("cross_slope"), in("to_crown")};
}
Gutter gutter_of(const In& in) { return {composite(in), in("grade"), in("n")}; }

std::vector<CalcField> gutter_inputs() {
    return {{"grade", "Street grade", Q::Slope, not_given, 1e-5, 0.5, "Fall along the street"},
            {"cross_slope", "Cross slope", Q::Slope, 0.02, 1e-3, 0.2, "Of the lanes"},
            {"gutter", "Gutter width", Q::Length, 0.5, 0.001, 5, "W"},
            {"gutter_slope", "Gutter slope", Q::Slope, 0.05, 1e-3, 0.5, "Cross slope of the gutter"},
            {"to_crown", "Curb to crown", Q::Length, 4, 0.5, 50, "Way from the curb face to the crown"},
            {"n", "Manning n", Q::Roughness, 0.016, 0.005, 0.5, "Of gutter and lanes"}};
}
const CalcField flow_field{"flow", "Flow", Q::Flow, not_given, 1e-7, 1e3, "Along the curb"};

std::string run_gutter(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const Gutter g = gutter_of(in);
    const GutterFlow f = gutter_flow(g, in("flow"), in.constants());
    out["spread"] = f.spread;
    out["depth"] = f.depth;
    out["velocity"] = f.velocity;
    out["depth_velocity"] = f.depth * f.velocity;
    out["over_crown"] = f.over_crown;
    in.street().gutter(g, f, in("flow"));
    return {};
}

/// What an inlet takes of a flow that runs past it.
Capture capture(const In& in, const InletForm& inlet, CalcValues& out) {
    const Gutter g = gutter_of(in);
    const double flow = in("flow");
    const Capture c = on_grade(inlet, g, flow, in.constants());
    out["captured"] = c.captured;
    out["bypass"] = flow - c.captured;
    out["share"] = c.efficiency;
    out["spread"] = c.approach.spread;
    out["depth"] = c.approach.depth;
    out["velocity"] = c.approach.velocity;
    in.street().gutter(g, c.approach, flow);
    in.street().capture(inlet, g, c, flow);
    return c;
}
std::vector<CalcField> capture_fields() {
    return {{"captured", "Captured", Q::Flow, not_given, 0, 0, "Flow that the inlet takes"},
            {"bypass", "Bypass", Q::Flow, not_given, 0, 0, "Flow that passes it"},
            {"share", "Captured share", Q::Ratio, not_given, 0, 0, "E"},
            {"spread", "Spread", Q::Length, not_given, 0, 0, "Of the water that comes"},
            {"depth", "Depth at curb", Q::Length, not_given, 0, 0, "Of the water that comes"},
            {"velocity", "Velocity", Q::Velocity, not_given, 0, 0, "Of the water that comes"}};
}

std::string run_grate(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    Grate grate{in("length"), in("width"), in("splash_velocity")};
    grate.clogging = in.or_0("clogging");
    (void)capture(in, grate, out);
    return {};
}

std::string run_opening(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    CurbOpening o{in("length"), 0.15};
    o.depression = in.or_0("depression");
    o.clogging = in.or_0("clogging");
    out["length_for_all"] = capture(in, o, out).total_length;
    return {};
}

std::string sag(const In& in, const InletForm& form, CalcValues& out) {
    const CompositeSection s = composite(in);
    const double d = sag_depth(form, s, in("flow"), in.constants());
    if (!std::isfinite(d)) return "it takes nothing: all of it is clogged";
    out["depth"] = d;
    out["spread"] = spread_of_depth(s, d);
    in.street().sag(form, s, d, in.constants());
    return {};
}
std::string run_sag_grate(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    Grate g{in("length"), in("width")};
    g.open_share = in("open_share");
    g.clogging = in.or_0("clogging");
    return sag(in, g, out);
}
std::string run_sag_opening(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    CurbOpening o{in("length"), in("height")};
    o.depression = in.or_0("depression");
    o.clogging = in.or_0("clogging");
    return sag(in, o, out);
}
std::vector<CalcField> sag_fields() {
    return {{"depth", "Depth at curb", Q::Length, not_given, 0, 0, ""},
            {"spread", "Spread", Q::Length, not_given, 0, 0, ""}};
}

std::string run_rational(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    out["flow"] = in("coefficient") * in("intensity") * in("area");
    in.step({"Q",
             "rational flow",
             in.us() ? "1.00833 * C * i * A" : "C * i * A / 360",
             {{"C", in("coefficient"), "", "runoff coefficient"},
              {"i", in.rain(in("intensity")), in.rain_unit(), "intensity"},
              {"A", in.area(in("area")), in.area_unit(), "area"}},
             in.flow_(out["flow"]),
             in.flow_unit(),
             "FHWA HEC-22, 3rd ed. (2009), eq. 3-1",
             {}});
    return {};
}

void minutes(const In& in, const char* formula, std::vector<Term> terms, double t, const char* source) {
    in.step({"t", "time", formula, std::move(terms), t / 60, "min", source, {}});
}
/// Minutes and mm/h, or in/h: as rain equations are printed.
std::string run_idf(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const double minutes = in("duration") / 60;
    const double i = in("a") / std::pow(minutes + in.or_0("b"), in("c"));
    out["intensity"] = i * (in.us() ? 0.0254 : 0.001) / 3600;
    out["depth"] = out["intensity"] * in("duration");
    in.step({"i",
             "intensity",
             "a / (t + b)^c",
             {{"a", in("a"), "", "of the equation"},
              {"t", minutes, "min", "duration"},
              {"b", in.or_0("b"), "min", "of the equation"},
              {"c", in("c"), "", "of the equation"}},
             i,
             in.rain_unit(),
             "rain equation",
             {}});
    return {};
}
/// Between two rows of a rain table.
std::string run_idf_point(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    if (!(in("d2") > in("d1"))) return "its durations must rise: d1 below d2";
    const double durations[] = {in("d1"), in("d2")}, intensities[] = {in("i1"), in("i2")};
    if (std::string fault = idf_fault(durations, intensities); !fault.empty()) return fault;
    const IdfCurve curve(durations, intensities);
    const double t = in("duration"), i = curve.intensity(t);
    out["intensity"] = i;
    out["depth"] = i * t;
    if (t < durations[0])
        in.step({"i",
                 "intensity",
                 "i1",
                 {{"i1", in.rain(intensities[0]), in.rain_unit(), "of the shorter duration"}},
                 in.rain(i),
                 in.rain_unit(),
                 "rain table",
                 "below the shorter duration: held at it"});
    else
        in.step({"i",
                 "intensity",
                 "exp(ln(i1) + (ln(t) - ln(t1)) / (ln(t2) - ln(t1)) * (ln(i2) - ln(i1)))",
                 {{"t1", durations[0] / 60, "min", "shorter duration"},
                  {"i1", in.rain(intensities[0]), in.rain_unit(), "its intensity"},
                  {"t2", durations[1] / 60, "min", "longer duration"},
                  {"i2", in.rain(intensities[1]), in.rain_unit(), "its intensity"},
                  {"t", t / 60, "min", "duration"}},
                 in.rain(i),
                 in.rain_unit(),
                 "straight line in log-log",
                 t > durations[1] ? "above the longer duration: the line is extended" : ""});
    return {};
}
/// The equation through three rows of a rain table.
std::string run_idf_fit(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const double durations[] = {in("d1"), in("d2"), in("d3")}, intensities[] = {in("i1"), in("i2"), in("i3")};
    if (std::string fault = idf_fault(durations, intensities); !fault.empty()) return fault;
    const double minutes[] = {durations[0] / 60, durations[1] / 60, durations[2] / 60};
    const double shown[] = {in.rain(intensities[0]), in.rain(intensities[1]), in.rain(intensities[2])};
    const IdfFit fit = fit_idf(minutes, shown);
    if (!fit.ok) return "no equation of this form goes through them";
    out["a"] = fit.a;
    out["b"] = fit.b;
    out["c"] = fit.c;
    out["worst"] = std::abs(fit.worst);
    for (std::size_t k = 0; k < 3; ++k)
        in.step({"i" + std::to_string(k + 1),
                 "equation at a given duration",
                 "a / (t + b)^c",
                 {{"a", fit.a, "", "of the equation"},
                  {"t", minutes[k], "min", "duration"},
                  {"b", fit.b, "min", "of the equation"},
                  {"c", fit.c, "", "of the equation"}},
                 fit.intensity(minutes[k]),
                 in.rain_unit(),
                 "least squares of the logarithms",
                 {}});
    return {};
}

std::string run_sheet(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const double t = travel_time(SheetFlow{in("length"), in("slope"), in("n"), in("rain")}, {});
    out["time"] = t;
    minutes(in, "60 * 0.007 * (n * L)^0.8 / (sqrt(P2) * s^0.4)",
            {{"n", in("n"), "", "roughness"},
             {"L", in("length") / WorkingUnits::foot, "ft", "length"},
             {"P2", in("rain") / 0.0254, "in", "2-year 24-hour rain"},
             {"s", in("slope"), "", "slope"}},
            t, "TR-55 (1986), eq. 3-3");
    return in("length") > longest_sheet_flow * 1.0001
               ? "sheet flow runs 30 m (100 ft) at most before it gathers: shorten it and go on with shallow"
               : std::string();
}
std::string run_shallow(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const bool paved = in("paved") > 0.5;
    const double t = travel_time(ShallowFlow{in("length"), in("slope"), paved}, {});
    out["time"] = t;
    out["velocity"] = in("length") / t;
    minutes(in, paved ? "L / (20.33 * sqrt(s)) / 60" : "L / (16.13 * sqrt(s)) / 60",
            {{"L", in("length") / WorkingUnits::foot, "ft", "length"}, {"s", in("slope"), "", "slope"}}, t,
            "TR-55 (1986), fig. 3-1");
    return {};
}
std::string run_channel(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const double t = travel_time(ChannelFlow{in("length"), in("slope"), in("n"), in("radius")}, {});
    out["time"] = t;
    out["velocity"] = in("length") / t;
    minutes(in, "L * n / (R^(2/3) * sqrt(s)) / 60",
            {{"L", in("length"), "m", "length"},
             {"n", in("n"), "", "Manning n"},
             {"R", in("radius"), "m", "hydraulic radius"},
             {"s", in("slope"), "", "slope"}},
            t, "Manning");
    return {};
}
std::string run_kirpich(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    out["time"] = kirpich_time(in("length"), in("slope"));
    minutes(in, "0.0078 * L^0.77 * S^(0 - 0.385)",
            {{"L", in("length") / WorkingUnits::foot, "ft", "length"}, {"S", in("slope"), "", "slope"}}, out["time"],
            "Kirpich (1940)");
    return {};
}
std::string run_faa(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    out["time"] = faa_time(in("coefficient"), in("length"), in("slope"));
    minutes(in, "1.8 * (1.1 - C) * sqrt(L) / (100 * S)^(1/3)",
            {{"C", in("coefficient"), "", "runoff coefficient"},
             {"L", in("length") / WorkingUnits::foot, "ft", "length"},
             {"S", in("slope"), "", "slope"}},
            out["time"], "FAA (1970)");
    return {};
}

Section pipe(const In& in) {
    if (const double b = in("width"); !std::isnan(b)) return Box{b, in("size")};
    return Circular{in("size")};
}
std::string run_capacity(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const Section s = pipe(in);
    out["capacity"] = full_capacity(s, in("n"), in("slope"));
    out["velocity"] = out["capacity"] / full_area(s);
    in.step({"Qfull",
             "full-flow capacity",
             std::string(in.us() ? "1.48592 * " : "") + "A * R^(2/3) * sqrt(S) / n",
             {{"A", in.len(in.len(full_area(s))), in.len_unit() + "²", "full area"},
              {"R", in.len(full_area(s) / full_perimeter(s)), in.len_unit(), "hydraulic radius"},
              {"S", in("slope"), "", "slope"},
              {"n", in("n"), "", "Manning n"}},
             in.flow_(out["capacity"]),
             in.flow_unit(),
             "Manning",
             {}});
    return {};
}
std::string run_normal(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const Section s = pipe(in);
    const double y = normal_depth(s, in("n"), in("slope"), in("flow"));
    if (std::isnan(y)) return "it runs full: the flow is above what a free surface carries";
    const Wetted at = wetted(s, y);
    out["depth"] = y;
    out["filled"] = y / height(s);
    out["velocity"] = in("flow") / at.area;
    out["froude"] = froude(s, y, in("flow"));
    in.step({"y", "normal depth, found so that Q comes out", "", {}, in.len(y), in.len_unit(), "", {}});
    in.step({"Q",
             "flow at that depth",
             std::string(in.us() ? "1.48592 * " : "") + "A * (A / P)^(2/3) * sqrt(S) / n",
             {{"A", in.len(in.len(at.area)), in.len_unit() + "²", "area"},
              {"P", in.len(at.perimeter), in.len_unit(), "perimeter"},
              {"S", in("slope"), "", "slope"},
              {"n", in("n"), "", "Manning n"}},
             in.flow_(in("flow")),
             in.flow_unit(),
             "Manning",
             {}});
    return {};
}
std::string run_critical(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const Section s = pipe(in);
    const double y = critical_depth(s, in("flow"));
    const Wetted at = wetted(s, y);
    out["depth"] = y;
    out["velocity"] = in("flow") / at.area;
    out["energy"] = specific_energy(s, y, in("flow"));
    in.step({"y", "critical depth: Q² T = g A³", "", {}, in.len(y), in.len_unit(), "Chow (1959), ch. 4", {}});
    return {};
}
/// The depth with the same momentum on the other side of critical depth.
std::string run_conjugate(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const Section s = pipe(in);
    const double q = in("flow"), y = in("depth"), critical = critical_depth(s, q), want = momentum(s, y, q);
    const bool fast = y < critical;
    double low = fast ? critical : 1e-6 * height(s), high = fast ? 50 * height(s) : critical;
    if (momentum(s, fast ? high : low, q) < want) return "there is no depth of the same momentum";
    for (int i = 0; i < 200; ++i) {
        const double mid = (low + high) / 2;
        ((momentum(s, mid, q) < want) == fast ? low : high) = mid;
    }
    out["conjugate"] = (low + high) / 2;
    out["loss"] = std::abs(specific_energy(s, y, q) - specific_energy(s, out["conjugate"], q));
    in.step({"y2",
             "depth with the same momentum Q²/(g A) + A z",
             "",
             {},
             in.len(out["conjugate"]),
             in.len_unit(),
             "Chow (1959), ch. 3",
             out["conjugate"] > height(s) ? "above the crown: a pressure head" : ""});
    return {};
}
std::string run_section(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    const Section s = pipe(in);
    if (in("depth") > height(s)) return "the depth is above its height";
    const Wetted at = wetted(s, in("depth"));
    out["area"] = at.area;
    out["perimeter"] = at.perimeter;
    out["radius"] = at.area / at.perimeter;
    out["top"] = at.top;
    return {};
}
std::string run_size(const CalcValues& v, Edition e, CalcValues& out, Working* w) {
    const In in{v, e, w};
    // Q = π/4 D² (D/4)^(2/3) S^(1/2) / n
    out["size"] = std::pow(in("flow") * in("n") / std::sqrt(in("slope")) * std::pow(4, 5.0 / 3) / M_PI, 3.0 / 8);
    in.step({"D",
             "diameter that just carries it full",
             std::string("(Q * n / sqrt(S) * 4^(5/3) / 3.14159265358979") + (in.us() ? " / 1.48592" : "") + ")^(3/8)",
             {{"Q", in.flow_(in("flow")), in.flow_unit(), "flow"},
              {"n", in("n"), "", "Manning n"},
              {"S", in("slope"), "", "slope"}},
             in.len(out["size"]),
             in.len_unit(),
             "Manning",
             {}});
    return {};
}

std::vector<CalcField> joined(std::vector<CalcField> a, const std::vector<CalcField>& b) {
    a.insert(a.end(), b.begin(), b.end());
    return a;
}

}  // namespace

static std::vector<Calc> with_storage(std::vector<Calc> list) {
    std::vector<Calc> more = storage_calcs();
    list.insert(list.end(), std::make_move_iterator(more.begin()), std::make_move_iterator(more.end()));
    return list;
}
std::span<const Calc> calcs() {
    const CalcField slope{"slope", "Slope", Q::Slope, not_given, 1e-6, 2, "Fall over length"},
        n{"n", "Manning n", Q::Roughness, 0.013, 0.005, 0.5, "Roughness"},
        size{"size", "Size", Q::Size, not_given, 0.02, 20, "Diameter, or height of a box"},
        width{"width", "Width", Q::Size, not_given, 0.02, 50, "Of a box; none: a circle"},
        length{"length", "Length", Q::Length, not_given, 0.01, 1e5, ""},
        clogging{"clogging", "Clogging", Q::Ratio, not_given, 0, 1, "Share; none: 0"},
        time{"time", "Time", Q::Duration, not_given, 0, 0, ""},
        velocity{"velocity", "Velocity", Q::Velocity, not_given, 0, 0, ""},
        rough{"n", "Roughness", Q::Roughness, 0.15, 0.005, 1, "Of sheet flow"};
    const std::vector<CalcField> section{{"cross_slope", "Cross slope", Q::Slope, 0.02, 1e-3, 0.2, ""},
                                         {"gutter", "Gutter width", Q::Length, 0.5, 0.001, 5, ""},
                                         {"gutter_slope", "Gutter slope", Q::Slope, 0.05, 1e-3, 0.5, ""},
                                         {"to_crown", "Curb to crown", Q::Length, 4, 0.5, 50, ""}};
    const CalcField grate_length{"length", "Grate length", Q::Size, 0.6, 0.05, 20, "Along the street"},
        grate_width{"width", "Grate width", Q::Size, 0.45, 0.05, 5, "Across it"};
    const std::vector<CalcField> rain_fields{
        {"intensity", "Intensity", Q::Intensity, not_given, 0, 0, ""},
        {"depth", "Depth", Q::Size, not_given, 0, 0, "That falls in the duration"}};
    static const std::vector<Calc> list = with_storage({
        {"gutter",
         "Gutter flow",
         "Spread, depth and velocity of water along a curb",
         joined({flow_field}, gutter_inputs()),
         {{"spread", "Spread", Q::Length, not_given, 0, 0, "T"},
          {"depth", "Depth at curb", Q::Length, not_given, 0, 0, ""},
          velocity,
          {"depth_velocity", "Depth x velocity", Q::DepthVelocity, not_given, 0, 0, ""},
          {"over_crown", "Over the crown", Q::Flow, not_given, 0, 0, "What this side cannot carry"}},
         run_gutter},
        {"grate", "Grate on a grade", "What a grate takes of the water that runs past it",
         joined(joined({flow_field}, gutter_inputs()),
                {grate_length,
                 grate_width,
                 {"splash_velocity", "Splash-over velocity", Q::Velocity, 2, 0.1, 20, "Vo"},
                 clogging}),
         capture_fields(), run_grate},
        {"opening", "Curb opening on a grade", "What an opening in the curb takes of the water that runs past it",
         joined(joined({flow_field}, gutter_inputs()),
                {{"length", "Opening length", Q::Length, 1.5, 0.05, 100, ""},
                 {"depression", "Depression", Q::Size, not_given, 0, 1, "Local; none: 0"},
                 clogging}),
         joined(capture_fields(), {{"length_for_all", "Length for all", Q::Length, not_given, 0, 0, "LT"}}),
         run_opening},
        {"sag-grate", "Grate in a sag", "Depth and spread over a grate at a low point",
         joined(joined({flow_field}, section),
                {grate_length, grate_width, {"open_share", "Open share", Q::Ratio, 0.5, 0.01, 1, ""}, clogging}),
         sag_fields(), run_sag_grate},
        {"sag-opening", "Curb opening in a sag", "Depth and spread at an opening in a low point",
         joined(joined({flow_field}, section),
                {{"length", "Opening length", Q::Length, 1.5, 0.05, 100, ""},
                 {"height", "Opening height", Q::Size, 0.13, 0.01, 2, ""},
                 {"depression", "Depression", Q::Size, not_given, 0, 1, "Local; none: 0"},
                 clogging}),
         sag_fields(), run_sag_opening},
        {"rational",
         "Rational flow",
         "Q = C i A",
         {{"coefficient", "Runoff C", Q::Ratio, not_given, 0.01, 1, ""},
          {"intensity", "Intensity", Q::Intensity, not_given, 1e-9, 1e-3, ""},
          {"area", "Area", Q::Area, not_given, 0.1, 1e8, ""}},
         {{"flow", "Flow", Q::Flow, not_given, 0, 0, ""}},
         run_rational},
        {"idf",
         "Rain equation",
         "i = a / (t + b)^c, minutes and mm/h (in/h in US units)",
         {{"duration", "Duration", Q::Duration, not_given, 1, 1e7, ""},
          {"a", "a", Q::None, not_given, 1e-3, 1e6, ""},
          {"b", "b", Q::None, not_given, 0, 1e4, "Minutes; none: 0"},
          {"c", "c", Q::None, not_given, 0.01, 3, ""}},
         rain_fields,
         run_idf},
        {"idf-point",
         "Between two rows of a rain table",
         "A straight line in log-log",
         {{"duration", "Duration", Q::Duration, not_given, 1, 1e7, ""},
          {"d1", "Shorter duration", Q::Duration, not_given, 1, 1e7, ""},
          {"i1", "Its intensity", Q::Intensity, not_given, 1e-9, 1e-3, ""},
          {"d2", "Longer duration", Q::Duration, not_given, 1, 1e7, ""},
          {"i2", "Its intensity", Q::Intensity, not_given, 1e-9, 1e-3, ""}},
         rain_fields,
         run_idf_point},
        {"idf-fit",
         "Rain equation through three rows",
         "i = a / (t + b)^c, minutes and mm/h (in/h in US units)",
         {{"d1", "First duration", Q::Duration, not_given, 1, 1e7, ""},
          {"i1", "Its intensity", Q::Intensity, not_given, 1e-9, 1e-3, ""},
          {"d2", "Second duration", Q::Duration, not_given, 1, 1e7, ""},
          {"i2", "Its intensity", Q::Intensity, not_given, 1e-9, 1e-3, ""},
          {"d3", "Third duration", Q::Duration, not_given, 1, 1e7, ""},
          {"i3", "Its intensity", Q::Intensity, not_given, 1e-9, 1e-3, ""}},
         {{"a", "a", Q::None, not_given, 0, 0, ""},
          {"b", "b", Q::None, not_given, 0, 0, "Minutes"},
          {"c", "c", Q::None, not_given, 0, 0, ""},
          {"worst", "Largest difference", Q::Ratio, not_given, 0, 0, "Of the equation from a row, a share"}},
         run_idf_fit},
        {"sheet",
         "Time of sheet flow",
         "By TR-55",
         {length, slope, rough, {"rain", "2-year 24-hour rain", Q::Size, not_given, 0.001, 2, "P2"}},
         {time},
         run_sheet},
        {"shallow",
         "Time of shallow flow",
         "Concentrated, by TR-55",
         {length, slope, {"paved", "Paved", Q::None, 0, 0, 1, "1 paved, 0 not"}},
         {time, velocity},
         run_shallow},
        {"channel",
         "Time in a channel",
         "By Manning",
         {length, slope, n, {"radius", "Hydraulic radius", Q::Length, not_given, 0.001, 50, ""}},
         {time, velocity},
         run_channel},
        {"kirpich", "Time by Kirpich", "Of a small rural catchment", {length, slope}, {time}, run_kirpich},
        {"faa",
         "Time by FAA",
         "Of paved ground",
         {{"coefficient", "Runoff C", Q::Ratio, not_given, 0.01, 1, ""}, length, slope},
         {time},
         run_faa},
        {"capacity",
         "Full-flow capacity",
         "Of a circle, or of a box",
         {size, width, slope, n},
         {{"capacity", "Capacity", Q::Flow, not_given, 0, 0, "Qfull"}, velocity},
         run_capacity},
        {"normal",
         "Normal depth",
         "Of uniform flow in a pipe",
         {{"flow", "Flow", Q::Flow, not_given, 1e-7, 1e3, ""}, size, width, slope, n},
         {{"depth", "Depth", Q::Length, not_given, 0, 0, ""},
          {"filled", "Filled depth", Q::Ratio, not_given, 0, 0, ""},
          velocity,
          {"froude", "Froude number", Q::Ratio, not_given, 0, 0, ""}},
         run_normal},
        {"critical",
         "Critical depth",
         "In a pipe",
         {{"flow", "Flow", Q::Flow, not_given, 1e-7, 1e3, ""}, size, width},
         {{"depth", "Depth", Q::Length, not_given, 0, 0, ""},
          velocity,
          {"energy", "Specific energy", Q::Length, not_given, 0, 0, ""}},
         run_critical},
        {"conjugate",
         "Conjugate depth",
         "Beyond a hydraulic jump in a pipe",
         {{"flow", "Flow", Q::Flow, not_given, 1e-7, 1e3, ""},
          {"depth", "Depth", Q::Length, not_given, 1e-4, 100, "Before or after it"},
          size,
          width},
         {{"conjugate", "Conjugate depth", Q::Length, not_given, 0, 0, ""},
          {"loss", "Energy lost", Q::Length, not_given, 0, 0, ""}},
         run_conjugate},
        {"section",
         "Section at a depth",
         "Area, perimeter, radius, width of the surface",
         {{"depth", "Depth", Q::Length, not_given, 1e-4, 100, ""}, size, width},
         {{"area", "Area", Q::Area, not_given, 0, 0, ""},
          {"perimeter", "Perimeter", Q::Length, not_given, 0, 0, ""},
          {"radius", "Hydraulic radius", Q::Length, not_given, 0, 0, ""},
          {"top", "Width of surface", Q::Length, not_given, 0, 0, ""}},
         run_section},
        {"size",
         "Size of a pipe",
         "The circle that just carries a flow",
         {{"flow", "Flow", Q::Flow, not_given, 1e-7, 1e3, ""}, slope, n},
         {{"size", "Diameter", Q::Size, not_given, 0, 0, ""}},
         run_size},
    });
    return list;
}

const Calc* find_calc(std::string_view name) {
    for (const Calc& c : calcs())
        if (c.name == name) return &c;
    return nullptr;
}

}  // namespace culvert
