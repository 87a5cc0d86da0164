// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/analysis/explain_loss.h"

#include <cmath>

#include "core/analysis/explain_rain.h"
#include "core/analysis/grade_line.h"
#include "core/base/contract.h"

namespace culvert {
namespace {

constexpr const char *energy_method = "FHWA HEC-22, 3rd ed. (2009), sec. 7.1.6.7",
                     *hec22 = "FHWA HEC-22, 3rd ed. (2009), ",
                     *bend_source = "FHWA HEC-22, 3rd ed. (2009), sec. 7.1.6.3";

class LossExplainer : WorkingUnits {
  public:
    LossExplainer(const Project& project, const EventResult& result, int node, int link)
        : WorkingUnits(project.settings().system == UnitSystem::Us),
          result_(result),
          net_(*result.network),
          at_(node),
          link_(link) {}

    Working run() {
        if (link_ == no_link || std::isnan(q().level.head_up)) {
            step("E", "level in the structure", "", {}, r().level.level, "", "it takes the level of the tailwater");
            return std::move(steps_);
        }
        const Link& l = nth(net_.links, link_);
        const LinkFlow& f = q().flow;
        in_ = input_of(net_, l, f, nth(result_.nodes, f.against ? l.from : l.to).level, result_);
        v_ = f.against ? q().level.velocity_down : q().level.velocity_up;
        y_ = f.against ? q().level.head_down : q().level.head_up;
        if (in_.hole.on && in_.flow > dry_flow) hole();
        else coefficient();
        return std::move(steps_);
    }

  private:
    void coefficient() {
        const Term hb = bends();
        const double hl = n().loss * v_ * v_ / (2 * gravity);
        step("hl", "loss at the structure", "K * V^2 / (2 * g)",
             {{"K", n().loss, "", "loss coefficient"}, velocity(), g()}, hl, std::string(hec22) + "sec. 7.1.6");
        const bool joint = passes();
        level(joint ? "E" : "H", joint ? "energy passed on through the joint" : "level in the structure, still water",
              hb.value > 0 ? "z + y + V^2 / (2 * g) + hl + hb" : "z + y + V^2 / (2 * g) + hl",
              with(hb, {z(), y(), velocity(), g(), {"hl", len(hl), len_unit(), "loss"}}), "energy equation");
        if (joint) changes_of_section();
    }
    /// What each pipe that enters a joint loses by the change of section.
    void changes_of_section() {
        for (int i = n().first_in; i != no_link; i = nth(net_.links, i).next_in) {
            const LinkResult& in = nth(result_.links, i);
            const double v = in.level.velocity_down, head = (v * v - v_ * v_) / (2 * gravity);
            const double k = head > 0 ? net_.expansion : net_.contraction;
            if (!(k > 0) || std::abs(head) < 1e-12 || in.level.free_end || in.level.jump >= nth(net_.links, i).length ||
                in.flow.against)
                continue;
            step("ht", head > 0 ? "loss of the widening behind a pipe that enters" : "loss of the narrowing",
                 head > 0 ? "K * (V1^2 - V^2) / (2 * g)" : "K * (V^2 - V1^2) / (2 * g)",
                 {{"K", k, "", "coefficient of the change of section"},
                  {"V1", len(v), len_unit() + "/s", "velocity at the end of the pipe that enters"},
                  velocity(),
                  g()},
                 k * std::abs(head), std::string(hec22) + "sec. 7.1.6.4");
        }
    }

    /// Loss at the bends of the pipe, which stands in the level above it.
    Term bends() {
        if (in_.bend > 0 && in_.flow > dry_flow && q().level.bends == 0)
            steps_.push_back({"hb",
                              "loss at the bends of the pipe",
                              "0",
                              {},
                              0,
                              len_unit(),
                              bend_source,
                              "the level here is set at the entrance, above the bends"});
        else if (q().level.bends > 0)
            step("hb", "loss at the bends of the pipe", "Kb * V^2 / (2 * g)",
                 {{"Kb", in_.bend, "", "of all its bends: their degrees times the project's K"}, velocity(), g()},
                 q().level.bends, bend_source);
        return {"hb", len(q().level.bends), len_unit(), "loss at the bends"};
    }
    static std::vector<Term> with(const Term& more, std::vector<Term> terms) {
        if (more.value > 0) terms.push_back(more);
        return terms;
    }

    void hole() {
        const Term hb = bends();
        const double ei = y_ + v_ * v_ / (2 * gravity) + q().level.bends, d = height(in_.section),
                     a = full_area(in_.section);
        const auto inflows = std::span(in_.hole.inflows.data(), static_cast<std::size_t>(in_.hole.count));
        const AccessHoleEnergy e =
            access_hole_energy(in_.section, ei, v_, in_.flow, in_.hole.floor, inflows, in_.hole.depth);
        const double intensity = in_.flow / (a * std::sqrt(gravity * d));
        const Term ei_term{"Ei", len(ei), len_unit(), "energy in the outgoing pipe"};
        const Term d_term{"D", len(d), len_unit(), "height of the outgoing pipe"},
            di_term{"DI", intensity, "", "discharge intensity"};
        step("Ei", "energy at the entrance of the outgoing pipe, above its invert",
             hb.value > 0 ? "y + V^2 / (2 * g) + hb" : "y + V^2 / (2 * g)", with(hb, {y(), velocity(), g()}), ei,
             "energy equation");
        step("Eo", "outlet control", "Ei + Ki * V^2 / (2 * g)",
             {ei_term, {"Ki", access_hole_entrance, "", "entrance loss"}, velocity(), g()}, e.outlet, energy_method);
        steps_.push_back({"DI",
                          "discharge intensity",
                          "Q / (A * sqrt(g * D))",
                          {{"Q", flow_(in_.flow), flow_unit(), "flow of the outgoing pipe"},
                           {"A", len(len(a)), len_unit() + "²", "its area"},
                           g(),
                           d_term},
                          intensity,
                          "",
                          energy_method,
                          {}});
        step("Es", "inlet control, submerged", "D * DI^2", {d_term, di_term}, e.submerged, energy_method);
        step("Eu", "inlet control, not submerged", "1.6 * D * DI^0.67", {d_term, di_term}, e.unsubmerged,
             energy_method);
        step("E1", "first energy in the access hole: the largest", "max(max(Eo, Es), max(Eu, Ei))",
             {{"Eo", len(e.outlet), len_unit(), "outlet control"},
              {"Es", len(e.submerged), len_unit(), "submerged"},
              {"Eu", len(e.unsubmerged), len_unit(), "not submerged"},
              ei_term},
             e.first, energy_method);
        step("E", "energy in the access hole", "max(E1 + (CB + Ct + Cp) * (E1 - Ei), Ei)",
             {{"E1", len(e.first), len_unit(), "first energy"},
              {"CB", e.benching, "", "benching"},
              {"Ct", e.angle, "", "angle of what enters"},
              {"Cp", e.plunging, "", "what plunges"},
              ei_term},
             e.energy, energy_method);
        level("H", "level in the access hole, still water", "z + E",
              {z(), {"E", len(e.energy), len_unit(), "energy in the access hole"}}, energy_method);
    }

    void level(const char* symbol, const char* meaning, const char* formula, std::vector<Term> terms,
               const char* source) {
        Step s{symbol, meaning, formula, std::move(terms), len(r().level.energy), len_unit(), source, {}};
        if (r().level.held) {
            s.note = "held at the rim";
            // Of a joint the level is held, what runs through it runs on.
            s.formula = "min(" + s.formula + (passes() ? ", zr + V^2 / (2 * g))" : ", zr)");
            s.terms.push_back({"zr", len(n().rim), len_unit(), "rim"});
        }
        steps_.push_back(s);
    }
    void step(const char* symbol, const char* meaning, const char* formula, std::vector<Term> terms, double length,
              std::string source, std::string note = {}) {
        steps_.push_back(
            {symbol, meaning, formula, std::move(terms), len(length), len_unit(), std::move(source), std::move(note)});
    }
    /// Whether water runs through a joint here; within a ring it stands in it, as in a structure.
    [[nodiscard]] bool passes() const {
        return n().kind == StructureKind::Joint && r().level.level != r().level.energy;
    }
    [[nodiscard]] Term z() const { return {"z", len(in_.invert_up), len_unit(), "invert of the outgoing pipe"}; }
    [[nodiscard]] Term y() const { return {"y", len(y_), len_unit(), "depth or pressure head at its entrance"}; }
    [[nodiscard]] Term velocity() const { return {"V", len(v_), len_unit() + "/s", "velocity there"}; }
    [[nodiscard]] Term g() const { return {"g", us_ ? gravity / foot : gravity, len_unit() + "/s²", "gravity"}; }
    [[nodiscard]] const Node& n() const { return nth(net_.nodes, at_); }
    [[nodiscard]] const NodeResult& r() const { return nth(result_.nodes, at_); }
    [[nodiscard]] const LinkResult& q() const { return nth(result_.links, link_); }

    const EventResult& result_;
    const Network& net_;
    int at_, link_;
    PipeInput in_;
    double v_ = 0, y_ = 0;
    Working steps_;
};

}  // namespace

Working explain_loss(const Project& project, const EventResult& result, int node, int link) {
    return LossExplainer(project, result, node, link).run();
}

}  // namespace culvert
