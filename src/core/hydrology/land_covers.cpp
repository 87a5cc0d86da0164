// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/hydrology/land_covers.h"

namespace culvert {

std::span<const LandCoverKind> land_cover_kinds() {
    static constexpr LandCoverKind kinds[] = {
        {"roof", 0.75, 0.95, {98, 98, 98, 98}, 1, 0.011},
        {"asphalt or concrete", 0.70, 0.95, {98, 98, 98, 98}, 1, 0.011},
        {"gravel", 0.40, 0.70, {76, 85, 89, 91}, 0, 0.02},
        {"lawn, sandy soil", 0.05, 0.20, {39, 61, 74, 80}, 0, 0.24},
        {"lawn, heavy soil", 0.13, 0.35, {39, 61, 74, 80}, 0, 0.24},
        {"park, cemetery", 0.10, 0.25, {39, 61, 74, 80}, 0, 0.24},
        {"playground", 0.20, 0.40, {49, 69, 79, 84}, 0, 0.15},
        {"woods", 0.05, 0.25, {30, 55, 70, 77}, 0, 0.4},
        {"meadow", 0.10, 0.30, {30, 58, 71, 78}, 0, 0.15},
        {"fields, straight rows", 0.20, 0.50, {67, 78, 85, 89}, 0, 0.06},
        {"business, downtown", 0.70, 0.95, {89, 92, 94, 95}, 0.85, 0.011},
        {"business, neighbourhood", 0.50, 0.70, {81, 88, 91, 93}, 0.72, 0.011},
        {"industry, light", 0.50, 0.80, {81, 88, 91, 93}, 0.72, 0.011},
        {"industry, heavy", 0.60, 0.90, {81, 88, 91, 93}, 0.72, 0.011},
        {"houses, terraced", 0.60, 0.75, {77, 85, 90, 92}, 0.65, 0.15},
        {"houses, detached", 0.30, 0.50, {61, 75, 83, 87}, 0.38, 0.15},
        {"houses, large gardens", 0.25, 0.40, {54, 70, 80, 85}, 0.25, 0.24},
        {"apartments", 0.50, 0.70, {77, 85, 90, 92}, 0.65, 0.15},
    };
    return kinds;
}

const LandCoverKind* land_cover_kind(std::string_view name) {
    for (const LandCoverKind& k : land_cover_kinds())
        if (k.name == name) return &k;
    return nullptr;
}

CompositeCurve composite_curve_number(std::span<const CurvePart> parts) {
    double whole = 0, weighted = 0, pervious = 0, pervious_cn = 0, paved = 0, over = 0;
    for (const CurvePart& p : parts) {
        whole += p.area;
        weighted += p.area * p.curve_number;
        if (p.impervious >= 0.99) {
            paved += p.area;
            if (p.over_pervious) over += p.area;
        } else {
            pervious += p.area;
            pervious_cn += p.area * p.curve_number;
        }
    }
    CompositeCurve out{weighted / whole};
    if (!(over > 0) || !(pervious > 0)) return out;
    const double share = paved / whole, base = pervious_cn / pervious;
    out.too_paved = share >= 0.3;
    out.lowered = !out.too_paved;
    if (out.lowered) out.curve_number = base + share * (98 - base) * (1 - over / paved / 2);
    return out;
}

}  // namespace culvert
