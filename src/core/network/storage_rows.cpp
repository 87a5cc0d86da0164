// SPDX-License-Identifier: GPL-3.0-or-later
// Rows of grounds, ponds and outlets as kernels take them.
#include <algorithm>
#include <cmath>

#include "core/base/contract.h"
#include "core/base/words.h"
#include "core/geometry/grown_outline.h"
#include "core/network/through_time.h"

namespace culvert {
namespace {

double first_given(std::initializer_list<double> list) {
    for (const double v : list)
        if (!std::isnan(v)) return v;
    return not_given;
}

}  // namespace

LossModel loss_of(const Settings& s, const Catchment& c, const LandCover* l) {
    LossesBy by = l ? l->losses : LossesBy::Project;
    if (by == LossesBy::Project) by = c.losses;
    if (by == LossesBy::Project) by = s.losses;
    const auto number = [&](double LandCover::*of_cover, double Catchment::*of_catchment, double Settings::*of_project,
                            double usual) {
        return first_given({l ? usable(*l, of_cover, not_given) : not_given, usable(c, of_catchment, not_given),
                            usable(s, of_project, not_given), usual});
    };
    const double initial = number(&LandCover::initial_loss, &Catchment::initial_loss, &Settings::initial_loss, 0);
    const double rate = number(&LandCover::loss_rate, &Catchment::loss_rate, &Settings::loss_rate, 0);
    switch (by) {
        case LossesBy::Project:
        case LossesBy::CurveNumber: {
            const double ratio = usable(s, &Settings::initial_share, 0.2);
            return CurveNumberLoss{
                number(&LandCover::curve_number, &Catchment::curve_number, &Settings::curve_number, 80),
                std::isnan(ratio) ? 0.2 : ratio};
        }
        case LossesBy::Constant: return ConstantLoss{initial, rate};
        case LossesBy::Proportional:
            return ProportionalLoss{initial,
                                    number(&LandCover::loss_share, &Catchment::loss_share, &Settings::loss_share, 0)};
        case LossesBy::Horton: {
            const double first = number(&LandCover::first_rate, &Catchment::first_rate, &Settings::first_rate, rate);
            return HortonLoss{std::max(first, rate), rate,
                              1 / number(&LandCover::decay_time, &Catchment::decay_time, &Settings::decay_time, 3600)};
        }
        case LossesBy::GreenAmpt:
            return GreenAmptLoss{std::max(rate, 1e-12),
                                 number(&LandCover::front_head, &Catchment::front_head, &Settings::front_head, 0)};
    }
    return CurveNumberLoss{};
}

StageStorage storage_of(const Pond& p, std::string* fault) {
    const auto at_fault = [&](std::string why) {
        if (fault) *fault = std::move(why);
        return StageStorage{};
    };
    for (const Field<Pond>& f : fields_of<Pond>())
        if (const auto* m = std::get_if<double Pond::*>(&f.member); m && !in_range(f, p.*(*m)))
            return at_fault(within_sentence(f.label) + " out of range");
    const auto known = [&](std::initializer_list<std::pair<double, const char*>> list) {
        for (const auto& [value, name] : list)
            if (!(value > 0)) return std::string("its ") + name + " is not given";
        return std::string();
    };
    StageStorage s;
    const double voids = std::isnan(p.voids) ? 1 : p.voids;
    if (p.storage_by == StorageBy::Areas) {
        if (p.areas.size() != p.levels.size())
            return at_fault("it has " + std::to_string(p.levels.size()) + " levels and " +
                            std::to_string(p.areas.size()) + " areas");
        if (std::string why = stage_storage_fault(p.levels, p.areas); !why.empty()) return at_fault(why);
        s = StageStorage(p.levels, p.areas, p.between);
    } else if (p.storage_by == StorageBy::Volumes) {
        if (p.levels.size() < 2) return at_fault("it needs two levels at least");
        if (p.volumes.size() != p.levels.size())
            return at_fault("it has " + std::to_string(p.levels.size()) + " levels and " +
                            std::to_string(p.volumes.size()) + " volumes");
        for (std::size_t i = 0; i < p.levels.size(); ++i) {
            if (!std::isfinite(p.levels[i]) || (i > 0 && !(p.levels[i] > p.levels[i - 1])))
                return at_fault("its levels do not rise at row " + std::to_string(i + 1));
            if (!(p.volumes[i] >= 0) || (i > 0 && p.volumes[i] < p.volumes[i - 1]))
                return at_fault("its volume falls at row " + std::to_string(i + 1));
        }
        if (!(p.volumes.back() > 0)) return at_fault("it holds nothing");
        s = StageStorage::of_volumes(p.levels, p.volumes);
    } else {
        if (std::isnan(p.bottom)) return at_fault("its bottom level is not given");
        if (p.storage_by == StorageBy::Pipes) {
            if (std::string why = known({{p.diameter, "diameter"}, {p.length, "length"}}); !why.empty())
                return at_fault(why);
            s = pipe_array(p.bottom, p.diameter, p.length,
                           std::max(1, static_cast<int>(std::isnan(p.count) ? 1 : p.count)));
        } else if (p.storage_by == StorageBy::Outline) {
            if (p.outline.size() < 3) return at_fault("its outline is not drawn");
            if (std::string why = known({{p.depth, "depth"}}); !why.empty()) return at_fault(why);
            if (!(area(p.outline) > 0)) return at_fault("its outline has no area");
            std::vector<double> levels, areas;
            constexpr int steps = 24;
            for (int i = 0; i <= steps; ++i) {
                const double z = p.depth * i / steps, d = z * (std::isnan(p.sides) ? 0 : p.sides);
                levels.push_back(p.bottom + z);
                areas.push_back(area(grown_outline(p.outline, d)));
            }
            s = StageStorage(levels, areas);
        } else {
            if (std::string why = known({{p.length, "length"}, {p.width, "width"}, {p.depth, "depth"}}); !why.empty())
                return at_fault(why);
            s = p.storage_by == StorageBy::Tank
                    ? tank(p.bottom, p.length * p.width, p.depth)
                    : basin(p.bottom, p.length, p.width, std::isnan(p.sides) ? 0 : p.sides, p.depth);
        }
    }
    const double share = voids * (1 - (std::isnan(p.forebay) ? 0 : p.forebay));
    if (!(share > 0)) return at_fault("nothing of its space holds water");
    return share < 1 ? s.with_voids(share) : s;
}

double usual_coefficient(OutletKind kind) {
    switch (kind) {
        case OutletKind::CircularOrifice:
        case OutletKind::BoxOrifice: return 0.6;
        case OutletKind::Grate: return 0.67;
        case OutletKind::SharpWeir:
        case OutletKind::Riser: return 1.84;
        case OutletKind::BroadWeir: return 1.70;
        case OutletKind::Notch: return 0.58;
        case OutletKind::Cipolletti: return 1.86;
        default: return not_given;
    }
}
std::string_view coefficient_source(OutletKind kind) {
    switch (kind) {
        case OutletKind::CircularOrifice:
        case OutletKind::BoxOrifice: return "sharp-edged opening, FHWA HEC-22, 3rd ed. (2009), sec. 8.4.3";
        case OutletKind::Grate:
            return "grate as an orifice; as a weir 1.66 (SI); FHWA HEC-22, 3rd ed. (2009), sec. 4.4.5";
        case OutletKind::SharpWeir:
        case OutletKind::Riser: return "sharp crest (SI), FHWA HEC-22, 3rd ed. (2009), sec. 8.4.4";
        case OutletKind::BroadWeir: return "broad crest (SI), Brater and King (1996), ch. 5";
        case OutletKind::Notch: return "V-notch, Brater and King (1996), ch. 5";
        case OutletKind::Cipolletti: return "Cipolletti (SI), Brater and King (1996), ch. 5";
        default: return "";
    }
}

std::optional<WayOut> way_of(const PondOutlet& o, double highest, std::string* fault) {
    const auto at_fault = [&](std::string why) -> std::optional<WayOut> {
        if (fault) *fault = std::move(why);
        return {};
    };
    for (const Field<PondOutlet>& f : fields_of<PondOutlet>())
        if (const auto* m = std::get_if<double PondOutlet::*>(&f.member); m && !in_range(f, o.*(*m)))
            return at_fault(within_sentence(f.label) + " out of range");
    WayOut w;
    w.row = o.id;
    w.overflow = o.overflow;
    w.count =
        std::max(1.0, std::floor(std::isnan(o.count) ? 1 : o.count)) * (std::isnan(o.open_share) ? 1 : o.open_share);
    const double c = std::isnan(o.coefficient) ? usual_coefficient(o.kind) : o.coefficient;
    const auto given = [&](std::initializer_list<std::pair<double, const char*>> list) {
        for (const auto& [value, name] : list)
            if (!(value > 0)) return std::string("its ") + name + " is not given";
        return std::string();
    };
    std::string why;
    if (o.kind != OutletKind::Rating && std::isnan(o.level)) return at_fault("its level is not given");
    switch (o.kind) {
        case OutletKind::CircularOrifice:
            why = given({{o.size, "size"}});
            w.how = Outlet{CircularOrifice{o.level, o.size, c}};
            break;
        case OutletKind::BoxOrifice:
            why = given({{o.size, "size"}, {o.width, "width"}});
            w.how = Outlet{BoxOrifice{o.level, o.width, o.size, c}};
            break;
        case OutletKind::SharpWeir:
            why = given({{o.width, "length"}});
            w.how = Outlet{
                SharpWeir{o.level, o.width, c, static_cast<int>(std::isnan(o.contractions) ? 0 : o.contractions)}};
            break;
        case OutletKind::BroadWeir:
            why = given({{o.width, "length"}});
            w.how = Outlet{BroadWeir{o.level, o.width, c}};
            break;
        case OutletKind::Notch: w.how = Outlet{NotchWeir{o.level, std::isnan(o.angle) ? 90 : o.angle, c}}; break;
        case OutletKind::Cipolletti:
            why = given({{o.width, "length"}});
            w.how = Outlet{CipollettiWeir{o.level, o.width, c}};
            break;
        case OutletKind::Riser:
        case OutletKind::Grate: {
            why = given({{o.size, "size"}});
            constexpr double pi = 3.14159265358979323846;
            Riser r;
            r.rim = o.level;
            r.perimeter = std::isnan(o.width) ? pi * o.size : 2 * (o.size + o.width);
            r.area = std::isnan(o.width) ? pi * o.size * o.size / 4 : o.size * o.width;
            if (o.kind == OutletKind::Riser) r.weir = c;
            else r.weir = 1.66, r.orifice = c;
            w.how = Outlet{r};
            break;
        }
        case OutletKind::Culvert: {
            why = given({{o.size, "size"}, {o.length, "length"}, {o.roughness, "Manning n"}});
            const bool box = o.entrance >= CulvertEntrance::BoxFlared;
            if (why.empty() && box) why = given({{o.width, "width"}});
            if (!why.empty()) break;
            CulvertBarrel b{box ? Section{Box{o.width, o.size}} : Section{Circular{o.size}},
                            o.level,
                            o.length,
                            std::isnan(o.slope) ? 0 : o.slope,
                            o.roughness,
                            culvert_entrances()[static_cast<std::size_t>(o.entrance)]};
            w.how = std::make_shared<const CulvertRating>(b, std::max(highest, o.level + 2 * o.size));
            break;
        }
        case OutletKind::Pump:
            why = given({{o.pump_flow, "pump flow"}});
            w.pump = true;
            w.start = o.level;
            w.stop = o.stop_level;
            w.pump_flow = o.pump_flow;
            if (why.empty() && !(o.stop_level < o.level)) why = "it stops at no level below its start";
            break;
        case OutletKind::Rating:
            if (o.rating_levels.size() < 2 || o.rating_levels.size() != o.rating_flows.size())
                why = "its rating has " + std::to_string(o.rating_levels.size()) + " levels and " +
                      std::to_string(o.rating_flows.size()) + " flows: two of each at least";
            for (std::size_t i = 0; why.empty() && i < o.rating_levels.size(); ++i) {
                if (!std::isfinite(o.rating_levels[i]) || !(o.rating_flows[i] >= 0))
                    why = "row " + std::to_string(i + 1) + " of its rating is no level with a flow";
                else if (i > 0 &&
                         (!(o.rating_levels[i] > o.rating_levels[i - 1]) || o.rating_flows[i] < o.rating_flows[i - 1]))
                    why = "its rating does not rise at row " + std::to_string(i + 1);
            }
            if (why.empty()) w.how = Outlet{RatedOutlet{o.rating_levels, o.rating_flows}};
            break;
    }
    if (!why.empty()) return at_fault(why);
    return w;
}

}  // namespace culvert
