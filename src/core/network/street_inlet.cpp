// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/network/street_inlet.h"

#include <algorithm>
#include <cmath>

#include "core/base/contract.h"

namespace culvert {
namespace {

double given(double value, double instead) { return std::isnan(value) ? instead : value; }

Grate grate_of(const StructureType& t) {
    Grate g;
    g.length = given(usable(t, &StructureType::grate_length, not_given), usable(t, &StructureType::length, 0.6));
    g.width = given(usable(t, &StructureType::grate_width, not_given),
                    given(usable(t, &StructureType::width, not_given), g.length));
    g.clogging = usable(t, &StructureType::clogging, 0);
    const double own = usable(t, &StructureType::splash_velocity, not_given);
    g.open_share = usable(t, &StructureType::open_share, 0.5);
    if (!std::isnan(own)) g.splash_velocity = own;
    else if (t.grate != GrateBars::Unknown) {
        const GrateKind& kind = grate_kinds()[static_cast<std::size_t>(t.grate) - 1];
        g.splash_velocity = splash_velocity(kind, g.length);
        if (std::isnan(usable(t, &StructureType::open_share, not_given))) g.open_share = kind.open_share;
    }
    if (std::isnan(g.open_share)) g.open_share = 0.5;
    return g;
}
CurbOpening opening_of(const StructureType& t, double length) {
    CurbOpening o;
    o.length = given(
        length, given(usable(t, &StructureType::opening_length, not_given), usable(t, &StructureType::length, 1.5)));
    o.height = given(usable(t, &StructureType::opening_height, not_given), o.height);
    o.throat = t.throat;
    o.depression = given(usable(t, &StructureType::depression, 0), 0);
    o.depression_width = given(usable(t, &StructureType::depression_width, not_given), o.depression_width);
    o.clogging = usable(t, &StructureType::clogging, 0);
    return o;
}

/// Rise of the ground from a structure along its path to the next, per metre: negative where it falls.
double grade_of_path(const Project& project, const Structure& from, const StreetPath* path) {
    const Structure* to = path ? project.structures.find(path->to.value) : nullptr;
    if (!to || !placed(from) || !placed(*to)) return not_given;
    return (to->rim - from.rim) / std::max(path_length(project, *path), 1e-3);
}

}  // namespace

std::optional<InletForm> inlet_form(const StructureType& t, double opening_length) {
    switch (t.inlet) {
        case InletKind::None: return {};
        case InletKind::Grate: return grate_of(t);
        case InletKind::CurbOpening: return opening_of(t, opening_length);
        case InletKind::Combination: {
            CombinationInlet c{grate_of(t), opening_of(t, opening_length)};
            if (std::isnan(t.opening_length) && std::isnan(opening_length)) c.opening.length = c.grate.length;
            return c;
        }
        case InletKind::Slotted: {
            SlottedDrain s;
            s.length = given(opening_length, usable(t, &StructureType::length, 3));
            s.slot = given(usable(t, &StructureType::slot_width, not_given), s.slot);
            s.clogging = usable(t, &StructureType::clogging, 0);
            return s;
        }
        case InletKind::Area: return AreaInlet{grate_of(t)};
        case InletKind::Rated: {
            if (t.rating_approach.empty() || t.rating_approach.size() != t.rating_captured.size()) return {};
            if (!std::is_sorted(t.rating_approach.begin(), t.rating_approach.end())) return {};
            return RatedInlet{t.rating_approach, t.rating_captured};
        }
    }
    return {};
}

std::optional<StreetInlet> street_inlet(const Project& project, const Structure& s, const StreetPath* path,
                                        std::string* fault) {
    const auto say = [&](const char* why) {
        if (fault) *fault = why;
        return std::nullopt;
    };
    if (s.kind != StructureKind::Inlet || s.type.empty()) return {};
    const StructureType* type = type_of(project, s);
    if (!type || type->inlet == InletKind::None) return {};
    const auto form = inlet_form(*type, usable(s, &Structure::opening_length, not_given));
    if (!form) return say("its type has no rating that rises");
    const Street* street = s.street ? project.streets.find(s.street.value) : nullptr;
    const StreetShape shape = street ? shape_at(project, *street, s.station) : StreetShape{};
    if (!street && !std::holds_alternative<AreaInlet>(*form) && !std::holds_alternative<RatedInlet>(*form))
        return say("it stands on no street");
    StreetInlet in;
    in.form = *form;
    if (!(shape.cross_slope > 0)) return say("the street falls to its crown");
    in.gutter.section = section_of(shape);
    in.gutter.n = shape.roughness;
    in.curb = shape.curb_height;
    in.crest = given(usable(s, &Structure::crest_depth, not_given), shape.curb_height);
    // Grade: its own, the street's profile, the rims along its street path.
    const double own = usable(s, &Structure::street_grade, not_given);
    bool low = false;
    double grade = not_given;
    if (!std::isnan(own)) {
        grade = own;
        in.grade_from = GradeFrom::Entered;
    } else if (const StreetProfile profile = street ? entered_profile(*street) : StreetProfile{};
               profile.size() > 1 && !std::isnan(s.station)) {
        constexpr double near = 3;  // m: an inlet this close to a low point stands in it
        const double before = -grade_at(profile, s.station - near), after = grade_at(profile, s.station + near);
        low = before > 0 && after > 0;
        grade = grade_to(profile, s.station);
        in.grade_from = GradeFrom::Profile;
    } else if (const double along = grade_of_path(project, s, path); !std::isnan(along)) {
        grade = std::max(-along, 0.0);
        low = along >= 0;
        in.grade_from = GradeFrom::Rims;
    }
    in.sag = s.inlet_place == InletPlace::Sag ||
             (s.inlet_place == InletPlace::FromStreet && (low || std::holds_alternative<AreaInlet>(*form)));
    if (!in.sag && std::isnan(grade)) return say("the grade of the street is not known");
    if (!in.sag && !(grade > 0)) return say("the gutter is flat, but the inlet is said to be on a grade");
    in.gutter.grade = std::isnan(grade) ? 0 : grade;
    return in;
}

}  // namespace culvert
