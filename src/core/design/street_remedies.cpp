// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/design/street_remedies.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"

namespace culvert {
namespace {

/// Length of the opening or slot that an inlet has; NaN where its kind has none.
double opening_of(const InletForm& form) {
    if (const auto* o = std::get_if<CurbOpening>(&form)) return o->length;
    if (const auto* c = std::get_if<CombinationInlet>(&form)) return c->opening.length;
    if (const auto* s = std::get_if<SlottedDrain>(&form)) return s->length;
    return not_given;
}

}  // namespace

bool mended_by_inlets(Rule rule) {
    switch (rule) {
        case Rule::MostSpread:
        case Rule::MostSpreadShare:
        case Rule::LeastDryWidth:
        case Rule::MostStreetDepth:
        case Rule::MostDepthVelocity:
        case Rule::MostStreetVelocity:
        case Rule::MostStreetShear:
        case Rule::BypassStays:
        case Rule::BypassLeaves:
        case Rule::OverCrown: return true;
        default: return false;
    }
}

std::vector<InletChange> inlet_changes(const Project& project, const EventResult& result, StructureId structure) {
    std::vector<InletChange> out;
    const Network& net = *result.network;
    std::vector<std::pair<double, std::size_t>> inlets;  // by what they let pass to it
    for (std::size_t i = 0; i < net.inlets.size() && i < result.streets.size(); ++i) {
        const StreetInlet& in = net.inlets[i];
        if (nth(net.nodes, in.node).structure == structure) inlets.emplace_back(1e300, i);
        else if (in.to >= 0 && nth(net.nodes, in.to).structure == structure && result.streets[i].bypass > 1e-9)
            inlets.emplace_back(result.streets[i].bypass, i);
    }
    std::stable_sort(inlets.begin(), inlets.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    if (inlets.size() > 3) inlets.resize(3);
    const UnitSet units = units_of(project);
    const double step = units.system() == UnitSystem::Us ? 0.3048 : 0.5;
    for (const auto& [bypass, i] : inlets) {
        const StreetInlet& in = net.inlets[i];
        const Structure* s = project.structures.find(nth(net.nodes, in.node).structure.value);
        if (!s) continue;
        const double length = opening_of(in.form);
        if (!std::isnan(length))
            for (const double times : {1.5, 2.0, 3.0}) {
                const double longer = std::ceil(length * times / step - 1e-9) * step;
                Editing e(project, "");
                e.set(Kind::Structure, s->id, "opening_length", longer);
                out.push_back(
                    {e.take(), units.text(longer, Quantity::Length) + " opening at " + s->name, longer - length});
            }
        for (const StructureType& t : project.structure_types) {
            if (t.kind != StructureKind::Inlet || t.inlet == InletKind::None || t.name == s->type) continue;
            const auto form = inlet_form(t);
            if (!form) continue;
            Editing e(project, "");
            e.set(Kind::Structure, s->id, "type", t.name);
            out.push_back({e.take(), t.name + " at " + s->name, 10 + std::max(0.0, t.length)});
        }
    }
    return out;
}

}  // namespace culvert
